"""Content types: what an entry of each type holds."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from hawthorn.core import fields, shapes
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.fields import Field

_NAME = re.compile(r"^[a-z][a-z0-9_]{0,40}$")
COMMON = "*"
"""The locale of an entry's common edition."""


@dataclass(frozen=True, slots=True)
class ContentType:
    """A content type in one version. `section` marks a type whose entries head a section of the site."""

    name: str
    label: str
    fields: tuple[Field, ...]
    title: str = "title"
    version: int = 1
    workflow: str = "standard"
    section: bool = False
    help: str = ""

    def field(self, name: str) -> Field | None:
        """The field of that name, or None."""
        return next((f for f in self.fields if f.name == name), None)

    def belonging(self, locale: str) -> tuple[Field, ...]:
        """The fields of an edition: the shared ones for the common edition, else those that differ."""
        return tuple(f for f in self.fields if f.shared == (locale == COMMON))

    @property
    def slug(self) -> Field | None:
        """The field that holds the web address, if the type's entries are pages."""
        return next((f for f in self.fields if f.kind == "slug"), None)

    @property
    def below(self) -> Field | None:
        """The field that places an entry in the outline, if there is one."""
        return next((f for f in self.fields if f.kind == "below"), None)


def from_dict(data: Mapping[str, Any]) -> ContentType:
    """A content type from its definition, or `Invalid` with every problem in it."""
    raws = shapes.members(data, "fields")
    problems = shapes.words(data, "name", "label", "title", "workflow", "help")
    if not isinstance(data.get("section", False), bool):
        problems.append(FieldProblem("section", "is true or false"))
    if not _NAME.match(str(data.get("name", ""))):
        problems.append(FieldProblem("name", "takes small letters, digits and underscores, a letter first"))
    made: list[Field] = []
    for index, raw in enumerate(raws):
        found, wrong = _field(raw, index)
        problems += wrong
        made += [found] if found else []
    names = [f.name for f in made]
    for name in sorted({n for n in names if names.count(n) > 1}):
        problems.append(FieldProblem(f"fields.{name}", "is there twice"))
    title = data.get("title", "title")
    if not problems and title not in names:
        problems.append(FieldProblem("title", f"names “{title}”, which is not one of the fields"))
    if problems:
        raise Invalid(problems)
    extra = {k: data[k] for k in ("label", "title", "version", "workflow", "section", "help") if k in data}
    return ContentType(name=data["name"], fields=tuple(made), **{"label": data["name"], **extra})


def _field(raw: Any, index: int) -> tuple[Field | None, list[FieldProblem]]:
    name = raw.get("name", index) if isinstance(raw, Mapping) else index
    where = f"fields.{name}"
    if isinstance(raw, Mapping):
        raw = {"label": str(name).replace("_", " ").capitalize(), **raw}
    found, problems = shapes.shaped(Field, raw, where)
    if found is None:
        return None, problems
    if not _NAME.match(found.name):
        problems.append(FieldProblem(where, "needs a name of small letters, digits and underscores"))
    if found.kind not in fields.KINDS:
        problems.append(FieldProblem(where, f"has a kind that is none of {', '.join(fields.KINDS)}"))
    if found.limit is not None and not 0 < found.limit <= 1_000_000:
        problems.append(FieldProblem(f"{where}.limit", "is between 1 and 1,000,000"))
    return (None if problems else found), problems


def to_dict(kind: ContentType) -> dict[str, Any]:
    """The definition of a content type, as `from_dict` reads it."""
    return asdict(kind)


def json_schema(kind: ContentType) -> dict[str, Any]:
    """The values of a type as JSON Schema (draft 2020-12, Core and Validation)."""
    properties: dict[str, Any] = {}
    for spec in kind.fields:
        one: dict[str, Any] = dict(fields.kind_of(spec).schema)
        if spec.choices:
            one["enum"] = list(spec.choices)
        whole: dict[str, Any] = {"type": "array", "items": one} if fields.is_many(spec) else one
        properties[spec.name] = {**whole, "title": spec.label, "description": spec.help}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": kind.label,
        "type": "object",
        "properties": properties,
        "required": [f.name for f in kind.fields if f.required],
        "additionalProperties": False,
    }


def canonical_fields(kind: ContentType, values: Mapping[str, Any]) -> dict[str, Any]:
    """Typed values in their stored form, empty ones left out; raises `Invalid` naming every wrong one."""
    out: dict[str, Any] = {}
    problems: list[FieldProblem] = []
    for name, value in values.items():
        spec = kind.field(name)
        if spec is None:
            have = ", ".join(f.name for f in kind.fields)
            problems.append(FieldProblem(name, f"is not a field of {kind.label}; it has: {have}"))
            continue
        try:
            one = fields.canonical_value(spec, value)
        except fields.Wrong as wrong:
            problems.append(fields.problem(spec, wrong))
            continue
        if one is not None:
            out[name] = one
    if problems:
        raise Invalid(problems)
    return out


def missing(kind: ContentType, locale: str, values: Mapping[str, Any]) -> list[str]:
    """The names of required fields of an edition that hold nothing."""
    return [f.name for f in kind.belonging(locale) if f.required and values.get(f.name) in (None, [], "")]


def referred(kind: ContentType, values: Mapping[str, Any]) -> set[str]:
    """The UUIDs of all entries that the values refer to, placement left out."""
    out: set[str] = set()
    for spec in kind.fields:
        if spec.kind != "below" and spec.name in values:
            out |= fields.references(spec, values[spec.name])
    return out
