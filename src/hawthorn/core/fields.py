"""Field kinds: what a value of each kind may be, how it is made canonical, and how it behaves elsewhere.

To add a kind: write a class with the `Kind` protocol's members, put it in `KINDS`, and give it an editor
component of the same name in the console.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Any, ClassVar
from uuid import UUID

from hawthorn.core import richtext
from hawthorn.core.errors import FieldProblem

SHA256 = re.compile(r"^[0-9a-f]{64}$")


@dataclass(frozen=True, slots=True)
class Field:
    """One field of a content type.

    `shared` values are the same in all locales and live in the common edition. `limit` is the most
    characters (text kinds) or values (many). `follows` names the field a slug is made from.
    """

    name: str
    kind: str
    label: str
    required: bool = False
    shared: bool = False
    many: bool = False
    limit: int | None = None
    help: str = ""
    types: tuple[str, ...] = ()
    choices: tuple[str, ...] = ()
    follows: str = ""
    counts_as_alt: bool = field(default=False)


class Wrong(ValueError):
    """A value that its kind cannot take; the message says what would be right."""


class Kind:
    """What every kind answers. The defaults fit a plain scalar."""

    name: ClassVar[str]
    translatable: ClassVar[bool] = False
    rich: ClassVar[bool] = False
    merges_as: ClassVar[str] = "scalar"
    schema: ClassVar[Mapping[str, Any]] = {}

    def canonical(self, value: Any, spec: Field) -> Any:
        """The value in its one stored form, or `Wrong`."""
        raise NotImplementedError

    def text(self, value: Any) -> str:
        """The value as a person would read it."""
        return "" if value is None else str(value)

    def refers_to(self, value: Any) -> set[str]:
        """The entries (UUIDs) that the value refers to."""
        return set()


class _Words(Kind):
    translatable = True
    default_limit: ClassVar[int]
    lines: ClassVar[bool]

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, str):
            raise Wrong(f"takes text, not {_kind_of(value)}")
        value = unicodedata.normalize("NFC", richtext.without_controls(value)).replace("\r\n", "\n").strip()
        if not self.lines:
            value = re.sub(r"\s+", " ", value)
        limit = spec.limit or self.default_limit
        if len(value) > limit:
            raise Wrong(f"has {len(value):,} characters and may have at most {limit:,}")
        return value or None


class Line(_Words):
    """A single line of words."""

    name = "line"
    default_limit = 500
    lines = False
    schema = {"type": "string"}


class Text(_Words):
    """Several lines of words without markup."""

    name = "text"
    default_limit = 20_000
    lines = True
    schema = {"type": "string"}


class RichText(Kind):
    """Canonical HTML; see `core.richtext`."""

    name = "rich"
    translatable = True
    rich = True
    merges_as = "rich"
    schema = {"type": "string", "contentMediaType": "text/html"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, str):
            raise Wrong(f"takes rich text as HTML, not {_kind_of(value)}")
        limit = spec.limit or 500_000
        if len(value) > limit * 4:
            raise Wrong(f"is longer than {limit:,} characters with its markup")
        value = richtext.canonical(unicodedata.normalize("NFC", value))
        if len(value) > limit:
            raise Wrong(f"has {len(value):,} characters with its markup and may have at most {limit:,}")
        return value or None

    def text(self, value: Any) -> str:
        return richtext.text_of(value) if value else ""

    def refers_to(self, value: Any) -> set[str]:
        return richtext.links_of(value) if value else set()


class Slug(Kind):
    """The last part of a web address in one locale."""

    name = "slug"
    schema = {"type": "string", "pattern": r"^[^\s/?#%]+$"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, str):
            raise Wrong(f"takes text, not {_kind_of(value)}")
        value = unicodedata.normalize("NFC", value.strip()).casefold()
        if not value:
            return None
        if len(value) > (spec.limit or 120):
            raise Wrong(f"has {len(value)} characters and may have at most {spec.limit or 120}")
        if re.search(r"[\s/?#%\\<>\"']", value) or value in (".", ".."):
            raise Wrong("is part of a web address: letters, digits and hyphens, no spaces or slashes")
        return value


class Number(Kind):
    """A number, whole or not."""

    name = "number"
    schema = {"type": "number"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if isinstance(value, bool) or not isinstance(value, int | float) or value != value:
            raise Wrong(f"takes a number, not {_kind_of(value)}")
        if abs(value) > 1e15:
            raise Wrong("is larger than 1,000,000,000,000,000")
        return int(value) if float(value).is_integer() else value


class YesNo(Kind):
    """True or false."""

    name = "yesno"
    schema = {"type": "boolean"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, bool):
            raise Wrong(f"takes yes or no (true or false), not {_kind_of(value)}")
        return value

    def text(self, value: Any) -> str:
        return {True: "yes", False: "no"}.get(value, "")


class Day(Kind):
    """A date of the Gregorian calendar as ISO 8601 writes it."""

    name = "date"
    schema = {"type": "string", "format": "date"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if value == "":
            return None
        try:
            return date.fromisoformat(value).isoformat()
        except (TypeError, ValueError):
            raise Wrong("takes a date as year-month-day, such as 2027-03-31") from None


class Choice(Kind):
    """One of the words that the type lists."""

    name = "choice"
    schema = {"type": "string"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if value == "":
            return None
        if value not in spec.choices:
            raise Wrong(f"takes one of: {', '.join(spec.choices)}")
        return value


class Reference(Kind):
    """Another entry, by its UUID; with `many`, several in order."""

    name = "reference"
    schema = {"type": "string", "format": "uuid"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if value == "":
            return None
        try:
            return str(UUID(str(value).removeprefix("urn:uuid:")))
        except ValueError:
            raise Wrong("takes the id of an entry (a UUID)") from None

    def refers_to(self, value: Any) -> set[str]:
        return {value} if isinstance(value, str) else set()


class Below(Reference):
    """Where the entry stands in the outline: the entry it is placed below."""

    name = "below"


class Tags(Kind):
    """A set of words, typed freely."""

    name = "tags"
    merges_as = "set"
    schema = {"type": "string"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, str) or not value.strip():
            raise Wrong("takes a list of words")
        value = unicodedata.normalize("NFC", re.sub(r"\s+", " ", value.strip()))
        if len(value) > 80:
            raise Wrong("has a word of more than 80 characters")
        return value


class File(Kind):
    """A stored file, by the SHA-256 of its bytes, with its name, media type and size in pixels."""

    name = "file"
    schema = {"type": "object"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, Mapping) or not SHA256.match(str(value.get("sha256", ""))):
            raise Wrong("takes a file that was uploaded before, by its sha256")
        known = {"sha256": str, "name": str, "media_type": str, "width": int, "height": int, "bytes": int}
        out = {}
        for key, cast in known.items():
            if value.get(key) is not None:
                if not isinstance(value[key], cast):
                    raise Wrong(f"has a {key} that is not {cast.__name__}")
                out[key] = value[key]
        return out

    def text(self, value: Any) -> str:
        return str(value.get("name", "")) if isinstance(value, Mapping) else ""


KINDS: dict[str, Kind] = {
    kind.name: kind
    for kind in (
        Line(),
        Text(),
        RichText(),
        Slug(),
        Number(),
        YesNo(),
        Day(),
        Choice(),
        Reference(),
        Below(),
        Tags(),
        File(),
    )
}


def _kind_of(value: Any) -> str:
    names: dict[type, str] = {
        bool: "yes or no",
        int: "a number",
        float: "a number",
        list: "a list",
        dict: "an object",
        str: "text",
        type(None): "nothing",
    }
    return names.get(type(value), type(value).__name__)


def kind_of(spec: Field) -> Kind:
    """The kind that a field has."""
    return KINDS[spec.kind]


def is_many(spec: Field) -> bool:
    """Whether the field holds a list."""
    return spec.many or spec.kind == "tags"


def canonical_value(spec: Field, value: Any) -> Any:
    """A field's value in its stored form; None for nothing. Raises `Wrong`."""
    if value is None:
        return None
    kind = kind_of(spec)
    if not is_many(spec):
        return kind.canonical(value, spec)
    if not isinstance(value, list):
        raise Wrong(f"takes a list, not {_kind_of(value)}")
    out: list[Any] = []
    for item in value:
        one = kind.canonical(item, spec)
        if one is not None and one not in out:
            out.append(one)
    if spec.limit and len(out) > spec.limit:
        raise Wrong(f"has {len(out)} values and may have at most {spec.limit}")
    return out or None


def references(spec: Field, value: Any) -> set[str]:
    """The entries that a field's value refers to."""
    if value is None:
        return set()
    kind = kind_of(spec)
    values = value if is_many(spec) else [value]
    return set().union(*(kind.refers_to(v) for v in values))


def readable(spec: Field, value: Any) -> str:
    """A field's value as text for comparing and listing."""
    if value is None:
        return ""
    kind = kind_of(spec)
    return ", ".join(kind.text(v) for v in value) if is_many(spec) else kind.text(value)


def slug_from(text: str, slugify: Callable[[str], str]) -> str:
    """A slug that follows a title: ASCII words where the script allows it, else the letters themselves."""
    plain = slugify(text)
    letters = sum(1 for c in text if c.isalnum())
    if letters and (not plain or (not text.isascii() and any(ord(c) > 0x24F for c in text))):
        plain = re.sub(r"[^\w]+", "-", unicodedata.normalize("NFC", text).casefold()).strip("-")
    return plain[:100].strip("-")


def problem(spec: Field, wrong: Wrong) -> FieldProblem:
    """A kind's complaint, said of its field."""
    return FieldProblem(spec.name, f"“{spec.label}” {wrong}.")
