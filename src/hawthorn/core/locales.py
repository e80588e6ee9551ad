"""The locales of a house: which there are, in which order, how they are called, and what stands in where one has nothing."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import asdict
from functools import lru_cache
from typing import Any

from hawthorn.core import naming, shapes
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass

DIRECTIONS = ("", "ltr", "rtl")
"""How a locale is written; empty is as its usual script is."""
MOST = 100
_RTL = {"Arab", "Hebr", "Syrc", "Thaa", "Nkoo", "Adlm"}


@dataclass(frozen=True, slots=True)
class Locale:
    """One locale: its tag (BCP 47), what it is called, how it is written, and the locales whose text stands in, in order.

    What has nothing in any of those is shown in its source's. The first locale of a house is the one that is asked for
    where none is.
    """

    tag: str
    name: str = ""
    direction: str = ""
    fallback: tuple[str, ...] = ()

    @property
    def rtl(self) -> bool:
        """Whether it is written from right to left."""
        return self.direction == "rtl" if self.direction else usually_rtl(self.tag)


@lru_cache(maxsize=1024)
def usually_rtl(tag: str) -> bool:
    """Whether a locale is written from right to left, by its likely script (UTS 35, likely subtags)."""
    # Loaded by the first who asks: its tables are large.
    import langcodes

    return langcodes.get(tag).maximize().script in _RTL


def from_list(raws: Any) -> dict[str, Locale]:
    """Locales from their definitions, by tag and in order, or `Invalid` with every problem in them."""
    problems: list[FieldProblem] = []
    out: dict[str, Locale] = {}
    found = shapes.members({"locales": raws}, "locales")
    if not found:
        problems.append(FieldProblem("locales", said("locales.none_left")))
    if len(found) > MOST:
        problems.append(FieldProblem("locales", said("common.at_most", most=MOST)))
    for index, raw in enumerate(found):
        where = f"locales.{raw.get('tag', index) if isinstance(raw, Mapping) else index}"
        made, wrong = shapes.shaped(Locale, raw, where)
        problems += wrong
        if made is None:
            continue
        tag = canonical(made.tag)
        if not tag:
            problems.append(FieldProblem(where, said("locales.no_tag")))
            continue
        if tag in out:
            problems.append(FieldProblem(where, said("common.twice")))
        if made.direction not in DIRECTIONS:
            problems.append(FieldProblem(f"{where}.direction", said("locales.direction")))
        name = naming.line(f"{where}.name", made.name, 80) or tag
        out[tag] = Locale(tag, name, made.direction, tuple(canonical(f) or f for f in made.fallback))
    for one in out.values():
        for other in one.fallback:
            if other == one.tag or other not in out:
                code = "locales.itself" if other == one.tag else "locales.none_of_these"
                problems.append(FieldProblem(f"locales.{one.tag}.fallback", said(code, other=other)))
        if len(set(one.fallback)) < len(one.fallback):
            problems.append(FieldProblem(f"locales.{one.tag}.fallback", said("locales.fallback_twice")))
    if problems:
        raise Invalid(problems)
    return out


def canonical(tag: str) -> str:
    """A tag in its canonical form (RFC 5646, section 4.5); empty for what is none."""
    import langcodes

    said = tag.strip()
    if not said or len(said) > 35 or not langcodes.tag_is_valid(said):
        return ""
    return str(langcodes.standardize_tag(said))


def to_list(some: Iterable[Locale]) -> list[dict[str, Any]]:
    """The definitions of locales, as `from_list` reads them."""
    return [asdict(one) | {"fallback": list(one.fallback)} for one in some]
