"""Python: a `TypedDict` for the fields of each type, and one for its entries (PEP 589, PEP 655)."""

from __future__ import annotations

import keyword
from collections.abc import Mapping, Sequence
from typing import Any

from hawthorn.core.type_files.base import Language, Shape, named, one_line, pascal

_PLAIN = {"string": "str", "number": "float", "integer": "int", "boolean": "bool", "null": "None"}
_TAKEN = (
    "Locale", "ReadCaptions", "ReadFile", "ReadReference", "ReadRendition", "ReadLocale", "AnyEntry", "Any", "Literal", "NotRequired",
    "TypedDict",
)  # fmt: skip
_HEAD = '''\
"""Types of what is read."""

from __future__ import annotations

from typing import Any, Literal

from typing_extensions import NotRequired, TypedDict

'''
_ENTRY = '''
class ReadRendition(TypedDict):
    """A picture in one crop, around its focus."""

    width: int
    height: int
    webp: str
    avif: str
    original: str


class ReadCaptions(TypedDict):
    """Captions of a film or a sound (WebVTT)."""

    href: str
    locale: Locale


class ReadFile(TypedDict):
    """A file that an entry holds; its renditions are by the name of the crop."""

    href: str
    alt: str
    caption: NotRequired[str]
    width: NotRequired[int]
    height: NotRequired[int]
    media_type: NotRequired[str]
    name: NotRequired[str]
    bytes: NotRequired[int]
    focus: NotRequired[list[int]]
    captions: NotRequired[list[ReadCaptions]]
    renditions: dict[str, ReadRendition]


class ReadReference(TypedDict):
    """An entry that another refers to."""

    id: str
    type: str
    locale: str
    title: str
    path: NotRequired[str | None]
    file: NotRequired[ReadFile | None]
    fields: NotRequired[dict[str, Any] | None]


class ReadLocale(TypedDict):
    """Another locale in which an entry can be read."""

    locale: Locale
    path: str | None

'''
_MEMBERS = """\
    id: str
    type: Literal[{type!r}]
    locale: Locale
    wanted_locale: Locale
    title: str
    path: str | None
    revision: int
    since: str
    date: str | None
    pinned: bool
    fields: {name}Fields
    openings: dict[str, Any]
    regions: dict[str, str]
    search: dict[str, Any]
    references: dict[str, ReadReference]
    locales: list[ReadLocale]
    shown: NotRequired[dict[str, Any] | None]
    limited: NotRequired[str]
    locked: NotRequired[bool]
"""


class Python(Language):
    """Python 3.10 and later."""

    name = "python"
    ending = "py"
    media_type = "text/plain"

    def write(self, shapes: Sequence[Shape], locales: Sequence[str]) -> str:
        known = ", ".join(repr(one) for one in locales)
        out = [_HEAD, f"Locale = Literal[{known}]\n" if known else "Locale = str\n", _ENTRY]
        names = named(shapes, _TAKEN)
        for shape, name in zip(shapes, names, strict=True):
            made = _Classes()
            made.of(f"{name}Fields", shape.schema, shape.label)
            out += made.out
            members = _MEMBERS.format(type=shape.name, name=name)
            out.append(f'\nclass {name}(TypedDict):\n    """{_said(shape.label)}"""\n\n{members}\n')
        out.append(f"\nAnyEntry = {' | '.join(names) or 'dict[str, Any]'}\n")
        return "".join(out)


def _said(text: str) -> str:
    return one_line(text).replace("\\", "\\\\").replace('"', "'")


class _Classes:
    """The classes of one type, each before the one that uses it."""

    def __init__(self) -> None:
        self.out: list[str] = []

    def of(self, name: str, schema: Mapping[str, Any], label: str) -> str:
        """A class for an object; returns its name."""
        required = schema.get("required", ())
        members: dict[str, str] = {}
        for key, one in schema.get("properties", {}).items():
            found = self._type(one, f"{name}{pascal(key)}")
            members[key] = found if key in required else f"NotRequired[{found}]"
        if all(key.isidentifier() and not keyword.iskeyword(key) for key in members):
            lines = "".join(f"    {key}: {found}\n" for key, found in members.items()) or "    pass\n"
            self.out.append(f'\nclass {name}(TypedDict):\n    """{_said(label)}"""\n\n{lines}\n')
        else:
            pairs = ", ".join(f"{key!r}: {found!r}" for key, found in members.items())
            self.out.append(f"\n{name} = TypedDict({name!r}, {{{pairs}}})\n\n")
        return name

    def _type(self, schema: Mapping[str, Any], name: str) -> str:
        if "const" in schema:
            return f"Literal[{schema['const']!r}]"
        if "enum" in schema:
            return f"Literal[{', '.join(repr(one) for one in schema['enum'])}]"
        if "anyOf" in schema:
            some = [self._type(one, f"{name}{n}") for n, one in enumerate(schema["anyOf"], 1)]
            return " | ".join(dict.fromkeys(some))
        kind = schema.get("type")
        if isinstance(kind, list):
            return " | ".join(_PLAIN.get(one, "Any") for one in kind)
        if kind == "array":
            return f"list[{self._type(schema.get('items', {}), name)}]"
        if kind == "object":
            return self.of(name, schema, name) if schema.get("properties") else "dict[str, Any]"
        return _PLAIN.get(str(kind), "Any")


LANGUAGE = Python()
