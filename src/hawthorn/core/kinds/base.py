"""What a field is, what every kind of field answers, and how a value becomes canonical."""

from __future__ import annotations

import json
import re
import unicodedata
from collections.abc import Callable, Mapping
from dataclasses import field as dataclass_field
from typing import Any, ClassVar

from hawthorn.core import richtext, searching
from hawthorn.core.compact import in_order
from hawthorn.core.messages import Message, MessageError, said
from hawthorn.core.quick import dataclass


@dataclass(frozen=True, slots=True)
class BlockKind:
    """One kind of block in a field of blocks, with fields of its own. `arranges` says what it lays out: "row" a row, whose
    blocks stand side by side; "column" a column of a row, as wide as its field `width` says, in twelfths."""

    name: str
    label: str = ""
    fields: tuple[Field, ...] = ()
    help: str = ""
    arranges: str = ""


@dataclass(frozen=True, slots=True)
class Field:
    """One field of a content type, a field set or a block kind.

    `shared` values are the same in all locales and live in the common edition. `limit` is the most characters
    (words) or values (many), `least` the fewest values, `minimum` and `maximum` bound a number. `follows` names the
    field that a slug is made from; `derives` the rich text or text whose opening stands in while nothing is typed.
    `default` is what a new entry begins with. `set` names the field set that it came from; `option` marks how a block looks
    rather than what it says; `region` a part of the page that follows the layout while it is empty.
    `move` names what a planned field does at its time, and `payload` what that carries (the stage to advance to, the fields to set).
    What is `read_only` is filled by programs and shown to people; what is not `public` is for colleagues, and readers never
    get it. What is not to `translate` (ITS 2.0, section 8.1) goes along as it is, and is no unit. What is
    `confidential` is never sent to a machine. By what is to `filter`, readers choose and sort what they list.
    `schema_property` is what programs that read a page call it, in the words of schema.org.
    """

    name: str
    kind: str
    label: str = ""
    required: bool = False
    shared: bool = False
    many: bool = False
    limit: int | None = None
    least: int | None = None
    minimum: float | None = None
    maximum: float | None = None
    help: str = ""
    types: tuple[str, ...] = ()
    choices: tuple[str, ...] = ()
    follows: str = ""
    derives: str = ""
    default: Any = None
    fields: tuple[Field, ...] = ()
    blocks: tuple[BlockKind, ...] = ()
    set: str = ""
    counts_as_alt: bool = False
    option: bool = False
    region: bool = False
    read_only: bool = False
    public: bool = True
    translate: bool = True
    confidential: bool = False
    filter: bool = False
    schema_property: str = ""
    move: str = ""
    payload: Mapping[str, Any] = dataclass_field(default_factory=dict)


class Wrong(MessageError):
    """A value that its kind cannot take; the message says what would be right."""


@dataclass(frozen=True, slots=True)
class Filtered:
    """A value as readers look for it: as words or a name, as a number (of an instant, microseconds), and a place as two numbers."""

    text: str = ""
    number: float | None = None
    other: float | None = None


class Kind:
    """What every kind answers. The defaults fit a plain scalar."""

    name: ClassVar[str]
    translatable: ClassVar[bool] = False
    rich: ClassVar[bool] = False
    listed: ClassVar[bool] = False
    """Always a list, also without `many`."""
    parts: ClassVar[bool] = False
    """Made of fields of its own."""
    filters: ClassVar[tuple[str, ...]] = ()
    """How readers may filter by it (`core.filtering`); nothing where they may not."""
    celled: ClassVar[bool] = False
    """A value that has members is written in a cell by a form of its own, JSON only where that would not do."""
    structured: ClassVar[bool] = False
    """A value has members, and is JSON in a cell of a table."""
    merges_as: ClassVar[str] = "scalar"
    """How two sides merge: "scalar" asks, "set" takes both, "words" and "rich" merge what does not touch."""
    described: ClassVar[bool] = True
    """Whether programs that read a page may be told of a value (`linked`)."""
    schema: ClassVar[Mapping[str, Any]] = {}
    read_schema: ClassVar[Mapping[str, Any]] = {}
    """A value as readers get it, where that is not as it is written."""

    def canonical(self, value: Any, spec: Field) -> Any:
        """The value in its one stored form, or `Wrong`."""
        raise NotImplementedError

    def schema_of(self, spec: Field) -> dict[str, Any]:
        """One value as JSON Schema (draft 2020-12)."""
        return dict(self.schema)

    def text(self, value: Any) -> str | Message:
        """The value as a person would read it."""
        return "" if value is None else str(value)

    def words(self, value: Any) -> str:
        """What of the value can be searched for."""
        return ""

    def refers_to(self, value: Any) -> set[str]:
        """The entries (UUIDs) that the value refers to."""
        return set()

    @property
    def may_refer(self) -> bool:
        """Whether a value can refer to entries, by itself or in its parts."""
        return self.parts or type(self).refers_to is not Kind.refers_to

    def pictures(self, value: Any) -> set[str]:
        """The entries whose pictures the value shows."""
        return set()

    def cell(self, value: Any) -> str:
        """One value as a cell of a table has it, for people to read and change there; JSON (RFC 8259) where it has members."""
        return value if isinstance(value, str) and not self.structured else in_order(value)

    def from_cell(self, text: str, spec: Field) -> Any:
        """What a cell says, to be made `canonical`. Raises `Wrong`."""
        return from_json(text) if self.structured else text

    def linked(self, value: Any, spec: Field, entry: Callable[[str], Any]) -> Any:
        """A value as readers get it, in JSON-LD 1.1 with the words of schema.org; `entry` says what it refers to."""
        return value

    def filtered(self, value: Any) -> Filtered:
        """A stored value as readers look for it."""
        return Filtered(str(value).casefold())

    def asked(self, text: str, spec: Field) -> Filtered:
        """What a reader names, as they look for it. Raises `Wrong` for what no value can be."""
        found = self.canonical(text, spec)
        if found is None:
            raise Wrong("kinds.wants_value")
        return self.filtered(found)


class Words(Kind):
    """Plain words, on one line or several."""

    translatable = True
    default_limit: ClassVar[int]
    lines: ClassVar[bool]
    filters = ("is", "contains")

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, str):
            raise Wrong("kinds.wants_text", value=name_of(value))
        value = unicodedata.normalize("NFC", richtext.without_controls(value)).replace("\r\n", "\n").strip()
        if not self.lines:
            value = re.sub(r"\s+", " ", value)
        limit = spec.limit or self.default_limit
        if not is_many(spec) and len(value) > limit:
            raise Wrong("kinds.too_long", count=len(value), most=limit)
        return value or None

    def schema_of(self, spec: Field) -> dict[str, Any]:
        return {"type": "string", **({"maxLength": spec.limit} if spec.limit and not spec.many else {})}

    def words(self, value: Any) -> str:
        return str(value)

    def filtered(self, value: Any) -> Filtered:
        return Filtered(" ".join(searching.fold(str(value)))[:MOST_FILTERED])

    def asked(self, text: str, spec: Field) -> Filtered:
        found = self.filtered(text)
        if not found.text:
            raise Wrong("kinds.wants_value")
        return found


MOST_FILTERED = 400
"""So many characters of a text are looked through for a filter."""
KINDS: dict[str, Kind] = {}
"""Every kind by name, filled from the modules beside this one."""


NAMES = {
    bool: "yes_or_no",
    int: "number",
    float: "number",
    list: "list",
    dict: "object",
    str: "text",
    type(None): "nothing",
}
"""What a value of each type is called in codes of messages."""


def name_of(value: Any) -> Message | str:
    """What somebody gave."""
    known = NAMES.get(type(value))
    return said(f"values.{known}") if known else type(value).__name__


def kind_of(spec: Field) -> Kind:
    """The kind that a field has."""
    return KINDS[spec.kind]


def is_many(spec: Field) -> bool:
    """Whether the field holds a list."""
    return spec.many or KINDS[spec.kind].listed


def canonical_value(spec: Field, value: Any) -> Any:
    """A field's value in its stored form; None for nothing. Raises `Wrong`."""
    if value is None:
        return None
    kind = kind_of(spec)
    if not is_many(spec):
        return kind.canonical(value, spec)
    if not isinstance(value, list):
        raise Wrong("kinds.wants_list", value=name_of(value))
    if kind.parts:
        out = kind.canonical(value, spec) or []
    else:
        out, seen = [], set()
        for item in value:
            one = kind.canonical(item, spec)
            known = one if isinstance(one, str) else json.dumps(one, sort_keys=True)
            if one is not None and known not in seen:
                seen.add(known)
                out.append(one)
    if spec.limit and len(out) > spec.limit:
        raise Wrong("kinds.too_many_values", count=len(out), most=spec.limit)
    return out or None


def from_json(text: str) -> Any:
    """What a cell of JSON says. Raises `Wrong` for what is none."""
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        raise Wrong("kinds.wants_json") from None


def cell_of(spec: Field, value: Any) -> str:
    """A stored value as one cell of a table, which `read_cell` reads as the same. Several stand with "; " between them; as JSON where that would be read
    otherwise."""
    if value is None:
        return ""
    kind = kind_of(spec)
    if not is_many(spec):
        simple, whole = kind.cell(value), in_order(value)
    elif kind.parts:
        return in_order(value)
    else:
        simple, whole = "; ".join(kind.cell(one) for one in value), in_order(value)
    try:
        same = read_cell(spec, simple) == value
    except Wrong:
        same = False
    return simple if same else whole


def read_cell(spec: Field, text: str, between: str = "") -> Any:
    """What a cell of a table says for a field, in its stored form; None for an empty one. `between` is what stands between several values: where nothing
    is named, a semicolon, or else (tags) a comma. Raises `Wrong`."""
    text = text.strip()
    if not text:
        return None
    kind = kind_of(spec)
    if not is_many(spec):
        found = (
            from_json(text)
            if text[0] == "{" and not kind.structured and kind.celled
            else kind.from_cell(text, spec)
        )
        return canonical_value(spec, found)
    if kind.parts or (text[0] == "[" and text[-1] == "]"):
        return canonical_value(spec, from_json(text))
    between = between or (";" if ";" in text or kind.name != "tags" else ",")
    several = [kind.from_cell(part, spec) for one in text.split(between) if (part := one.strip())]
    return canonical_value(spec, several)


def canonical_members(specs: tuple[Field, ...], values: Any, where: Message | str) -> dict[str, Any]:
    """The values of a group or block in their stored form; `Wrong` names the place."""
    if not isinstance(values, Mapping):
        raise Wrong("kinds.wants_members", place=where, value=name_of(values))
    known = {f.name: f for f in specs}
    out: dict[str, Any] = {}
    for name, value in values.items():
        if name not in known:
            code = "kinds.no_member" if known else "kinds.no_members"
            raise Wrong(code, place=where, name=name, known=list(known))
        try:
            one = canonical_value(known[name], value)
        except Wrong as wrong:
            raise Wrong(
                "kinds.member_is_wrong", place=where, label=known[name].label or name, wrong=wrong.message
            ) from None
        if one is not None:
            out[name] = one
    return out


def members_schema(specs: tuple[Field, ...]) -> dict[str, Any]:
    """The fields of a type, group or block as the members of an object in JSON Schema."""
    return {
        "type": "object",
        "properties": {f.name: schema_of(f) for f in specs},
        "required": [f.name for f in specs if f.required],
        "additionalProperties": False,
    }


def schema_of(spec: Field) -> dict[str, Any]:
    """One field as JSON Schema."""
    one = kind_of(spec).schema_of(spec)
    if is_many(spec):
        bounds = {"minItems": spec.least, "maxItems": spec.limit}
        one = {"type": "array", "items": one, **{k: v for k, v in bounds.items() if v is not None}}
    if spec.default is not None:
        one["default"] = spec.default
    if spec.read_only:
        one["readOnly"] = True
    return {**one, "title": spec.label, "description": spec.help}
