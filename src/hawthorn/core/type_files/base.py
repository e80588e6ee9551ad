"""What every language answers: types for what readers get, from JSON Schema."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any, ClassVar

from hawthorn.core.quick import dataclass


@dataclass(frozen=True, slots=True)
class Shape:
    """A content type as readers get it: its name, what people call it, and its fields as JSON Schema (`contenttypes.read_schema`)."""

    name: str
    label: str
    schema: dict[str, Any]


class Language:
    """A language. Each is a module of this package that holds its own as `LANGUAGE`."""

    name: ClassVar[str]
    ending: ClassVar[str]
    media_type: ClassVar[str]

    def write(self, shapes: Sequence[Shape], locales: Sequence[str]) -> str:
        """A file with a type for each content type; equal types give an equal file."""
        raise NotImplementedError


_WORD = re.compile(r"[A-Za-z0-9]+")


def named(shapes: Sequence[Shape], taken: Sequence[str]) -> list[str]:
    """What the types of some content types are called, none like another, nor like what is taken; its fields are called the same with `Fields` behind."""
    out: list[str] = []
    known = set(taken)
    for shape in shapes:
        name, number = pascal(shape.name), 1
        while {name, f"{name}Fields"} & known:
            number += 1
            name = f"{pascal(shape.name)}{number}"
        known |= {name, f"{name}Fields"}
        out.append(name)
    return out


def pascal(name: str) -> str:
    """A name as types are called: opening-hours as OpeningHours."""
    made = "".join(word[:1].upper() + word[1:] for word in _WORD.findall(name))
    return made if made[:1].isalpha() else f"T{made}"


def one_line(text: str) -> str:
    """Words for a comment, which ends with its line and holds nothing that would end it before."""
    return " ".join(text.split()).replace("*/", "* /")[:200]
