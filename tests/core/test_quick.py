"""Our dataclasses are told apart, hashed and shown as those of the standard library."""

from __future__ import annotations

import dataclasses
from functools import cache
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core.quick import dataclass

FIELDS: dict[str, tuple[Any, ...]] = {
    "none": (),
    "one": (("a", Any),),
    "several": (("a", Any), ("b", Any), ("c", Any)),
    "not compared": (("a", Any), ("b", Any, dataclasses.field(compare=False)), ("c", Any)),
    "not shown": (("a", Any), ("b", Any, dataclasses.field(repr=False, default=1))),
}
HOW: list[dict[str, Any]] = [
    {},
    {"frozen": True},
    {"slots": True},
    {"frozen": True, "slots": True},
    {"eq": False},
    {"frozen": True, "order": True},
    {"repr": False},
]


@cache
def pair(name: str, which: int) -> tuple[type, type]:
    """A class of ours and one of the standard library, with the same fields, made in the same one of the ways."""
    how = HOW[which]

    def plain() -> type:
        body = {"__annotations__": {f[0]: f[1] for f in FIELDS[name]}, "__module__": __name__}
        return type("One", (), body | {f[0]: f[2] for f in FIELDS[name] if len(f) > 2})

    return dataclass(**how)(plain()), dataclasses.dataclass(**how)(plain())


@pytest.mark.parametrize("name", FIELDS)
@pytest.mark.parametrize("which", range(len(HOW)), ids=map(str, HOW))
@given(data=st.data())
def test_they_are_as_those_of_the_standard_library(name: str, which: int, data: st.DataObject) -> None:
    how = HOW[which]
    made: tuple[Any, Any] = pair(name, which)
    ours, theirs = made
    values = [
        data.draw(st.lists(st.integers(0, 2) | st.text(max_size=1), min_size=n, max_size=n))
        for n in [len(FIELDS[name])] * 2
    ]
    one, two = (ours(*v) for v in values)
    first, second = (theirs(*v) for v in values)
    assert (one == two) == (first == second)
    assert (one == one) == (first == first)
    assert one != first
    if how.get("repr", True):
        assert repr(one) == repr(first).replace(type(first).__qualname__, type(one).__qualname__)
    if theirs.__hash__ is None:
        assert ours.__hash__ is None
    elif how.get("eq", True):
        assert (hash(one) == hash(two)) or one != two
        assert len({one, two}) == len({first, second})
    assert dataclasses.asdict(one) == dataclasses.asdict(first)
    assert dataclasses.replace(one) == one or not how.get("eq", True)


def test_what_a_class_says_of_itself_stays_so() -> None:
    @dataclass(frozen=True, slots=True)
    class Named:
        name: str
        more: int = 0

        def __eq__(self, other: object) -> bool:
            return isinstance(other, Named) and self.name == other.name

        def __hash__(self) -> int:
            return hash(self.name)

        def __repr__(self) -> str:
            return f"<{self.name}>"

    assert Named("a", 1) == Named("a", 2)
    assert len({Named("a", 1), Named("a", 2)}) == 1
    assert repr(Named("a")) == "<a>"


def test_one_that_holds_itself_is_shown() -> None:
    @dataclass
    class Knot:
        other: object = None

    knot = Knot()
    knot.other = knot
    assert repr(knot).endswith("Knot(other=...)")
