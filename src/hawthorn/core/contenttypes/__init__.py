"""Content types: what an entry of each type holds, and the field sets that several types share."""

from hawthorn.core.contenttypes.definition import (
    COMMON,
    ContentType,
    FieldSet,
    from_dict,
    json_schema,
    set_from_dict,
    to_dict,
    whole,
)
from hawthorn.core.contenttypes.reading import read_schema
from hawthorn.core.contenttypes.values import (
    canonical_fields,
    defaults,
    derived,
    following,
    label_of,
    lost,
    missing,
    placement,
    referred,
    search_and_sharing,
    shown_date,
    tags,
)

__all__ = [
    "COMMON",
    "ContentType",
    "FieldSet",
    "canonical_fields",
    "defaults",
    "derived",
    "following",
    "from_dict",
    "json_schema",
    "label_of",
    "lost",
    "missing",
    "placement",
    "read_schema",
    "referred",
    "search_and_sharing",
    "set_from_dict",
    "shown_date",
    "tags",
    "to_dict",
    "whole",
]
