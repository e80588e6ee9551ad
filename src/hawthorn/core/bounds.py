"""How much one text may hold: looked at before any work is done with it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass

_TAG = re.compile(r"<(/?)([a-zA-Z][a-zA-Z0-9]*)")
_PARAGRAPHS = {
    "p",
    "li",
    "h1",
    "h2",
    "h3",
    "h4",
    "h5",
    "h6",
    "hr",
    "br",
    "figure",
    "img",
    "div",
    "tr",
    "td",
    "th",
}
_UNNESTED = {
    "p", "li", "br", "hr", "img", "dt", "dd", "td", "th", "tr", "tbody", "thead", "tfoot", "option", "col", "input", "meta",
    "link", "source", "wbr", "area", "embed", "track", "base", "param",
}  # fmt: skip
"""Elements without an end, or whose end may be left out (HTML Living Standard, sections 13.1.2 and 13.1.2.4)."""


@dataclass(frozen=True, slots=True)
class Bounds:
    """The most that a text may hold: `characters` with markup, `paragraphs` (items, pictures and line breaks counted), and
    elements within each other (`depth`). `values` counts all values of what is sent at once, in lists and blocks too."""

    characters: int = 250_000
    paragraphs: int = 5_000
    depth: int = 60
    values: int = 20_000

    def check(self, given: Mapping[str, Any]) -> None:
        """Raise `Invalid` for values that hold more, naming the field of each."""
        problems: list[FieldProblem] = []
        count = 0
        for name, value in given.items():
            for one in _leaves(value):
                count += 1
                if count > self.values:
                    raise Invalid([FieldProblem(name, said("bounds.too_many_values", most=self.values))])
                wrong = self.wrong(one) if isinstance(one, str) else None
                if wrong is not None:
                    problems.append(FieldProblem(name, wrong))
                    break
        if problems:
            raise Invalid(problems)

    def wrong(self, text: str) -> Message | None:
        """What a text holds too much of; nothing when it is within bounds."""
        if len(text) > self.characters:
            return said("kinds.markup_too_long", count=len(text), most=self.characters)
        if text.count("<") <= min(self.depth, self.paragraphs):
            return None
        paragraphs = depth = deepest = 0
        for found in _TAG.finditer(text):
            tag = found[2].lower()
            if not found[1]:
                paragraphs += tag in _PARAGRAPHS
            if tag not in _UNNESTED:
                depth = max(0, depth + (-1 if found[1] else 1))
                deepest = max(deepest, depth)
        if paragraphs > self.paragraphs:
            return said("bounds.too_many_paragraphs", count=paragraphs, most=self.paragraphs)
        if deepest > self.depth:
            return said("bounds.too_deep", count=deepest, most=self.depth)
        return None


def _leaves(value: Any) -> Iterator[Any]:
    """What a value holds, level by level and without calling itself: it may be nested as deep as anybody likes."""
    waiting = [value]
    while waiting:
        one = waiting.pop()
        if isinstance(one, Mapping):
            waiting += one.values()
            yield None
        elif isinstance(one, list):
            waiting += one
        else:
            yield one
