"""What is wrong with a body, a parameter or a setting, as the models find it, in words of the catalogue."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from hawthorn.core.errors import BadSetting
from hawthorn.core.messages import Message, said

_WORDED: dict[str, Callable[[Mapping[str, Any]], Message]] = {
    "missing": lambda _: said("models.missing"),
    "extra_forbidden": lambda _: said("models.extra_forbidden"),
    "string_type": lambda _: said("models.string_type"),
    "string_unicode": lambda _: said("models.unicode"),
    "invalid_key": lambda _: said("models.string_type"),
    "int_parsing_size": lambda _: said("models.too_large"),
    "finite_number": lambda _: said("models.number"),
    "int_type": lambda _: said("models.whole_number"),
    "int_parsing": lambda _: said("models.whole_number"),
    "int_from_float": lambda _: said("models.whole_number"),
    "float_type": lambda _: said("models.number"),
    "float_parsing": lambda _: said("models.number"),
    "bool_type": lambda _: said("models.yes_or_no"),
    "bool_parsing": lambda _: said("models.yes_or_no"),
    "list_type": lambda _: said("models.list"),
    "dict_type": lambda _: said("models.object"),
    "model_type": lambda _: said("models.object"),
    "model_attributes_type": lambda _: said("models.object"),
    "literal_error": lambda about: said("models.one_of", known=_chosen(about)),
    "enum": lambda about: said("models.one_of", known=_chosen(about)),
    "string_too_long": lambda about: said("models.longest", most=about["max_length"]),
    "string_too_short": lambda about: said("models.shortest", least=about["min_length"]),
    "greater_than_equal": lambda about: said("models.least", least=about["ge"]),
    "less_than_equal": lambda about: said("models.most", most=about["le"]),
    "greater_than": lambda about: said("models.above", least=about["gt"]),
    "less_than": lambda about: said("models.below", most=about["lt"]),
    "too_long": lambda about: said("models.too_many", most=about["max_length"]),
    "too_short": lambda about: said("models.too_few", least=about["min_length"]),
    "json_invalid": lambda about: said("models.json", why=about["error"]),
    "string_pattern_mismatch": lambda about: said("models.form", form=about["pattern"]),
}
"""By what the models' library (Pydantic) calls each kind of error: all that our models can make."""


def wrong(error: Mapping[str, Any]) -> Message:
    """What is wrong at one place, of what the models found there."""
    cause = error.get("ctx", {}).get("error")
    if isinstance(cause, BadSetting):
        return cause.message
    worded = _WORDED.get(error["type"])
    if worded is not None:
        return worded(error.get("ctx", {}))
    # The framework's own: a part of a form that is no file.
    return said("models.file" if "UploadFile" in error["msg"] else "models.not_this")


def _chosen(about: Mapping[str, Any]) -> list[str]:
    """What can be chosen; nothing at all is chosen by leaving it out."""
    return [one for one in re.findall(r"'([^']*)'", str(about["expected"])) if one]
