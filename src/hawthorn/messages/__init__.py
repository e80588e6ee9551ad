"""The words of what is said: a catalogue for each language, one file for each area.

The files are what i18next reads too (JSON format, version 4), as those of the console: `{{name}}` stands for a fact, `_one` and
`_other` after a key for a fact called `count`. Formats after a fact's name: `number` (with separators) and, for several facts, `list`
(commas), `items` (semicolons), `words` (spaces), `lines`, `paragraphs`, `and`, `or`; `day` and `moment` for days and times as the
records have them (ISO 8601). What is said by an error has two texts: `detail`, what is wrong, and `remedy`, what to do.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict, dataclass, is_dataclass
from datetime import UTC, date, datetime
from functools import cache, cached_property
from importlib.resources import files
from typing import Any

from hawthorn.core.errors import FieldProblem, HawthornError
from hawthorn.core.messages import Message, said

_PLACE = re.compile(r"\{\{(\w+)(?:, (\w+))?\}\}")
_DETAIL, _REMEDY = ".detail", ".remedy"
Part = str | tuple[str, str]
"""A piece of a text: words, or a fact's name and how it is shown."""


@dataclass(frozen=True)
class Catalogue:
    """The words of one language."""

    language: str = "en"

    def text(self, message: Message) -> str:
        """A message in words: for an error, what is wrong."""
        return self._said(message.code, message.facts, _DETAIL)

    def remedy(self, of: HawthornError | Message) -> str:
        """What to do about an error, or about what a message says; empty where there is nothing to do."""
        if isinstance(of, HawthornError) and of.remedy is not None:
            return self.text(of.remedy)
        message = of.message if isinstance(of, HawthornError) else of
        if self._found(message.code + _REMEDY, message.facts) is None:
            return ""
        return self._said(message.code, message.facts, _REMEDY)

    def title(self, kind: HawthornError | type[HawthornError]) -> str:
        """What kind of error it is, in a few words."""
        return self.text(said(f"titles.{kind.slug}"))

    def plain(self, value: Any) -> Any:
        """A fact as programs read it: messages in it are words, whatever holds them."""
        if isinstance(value, Message):
            return self.text(value)
        if isinstance(value, FieldProblem):
            return {"where": value.where, "what": self.text(value.what)}
        if isinstance(value, Mapping):
            return {name: self.plain(one) for name, one in value.items()}
        if isinstance(value, list | tuple):
            return [self.plain(one) for one in value]
        if is_dataclass(value) and not isinstance(value, type):
            return self.plain(asdict(value))
        return value if value is None or isinstance(value, str | int | float) else str(value)

    @cached_property
    def texts(self) -> dict[str, str]:
        """Each text by its code."""
        out: dict[str, str] = {}
        for file in sorted(files(__name__).joinpath(self.language).iterdir(), key=lambda file: file.name):
            if file.name.endswith(".json"):
                _gather(json.loads(file.read_text("utf-8")), "", out)
        return out

    def _said(self, code: str, facts: Mapping[str, Any], member: str) -> str:
        found = self._found(code, facts)
        if found is None:
            found = self._found(code + member, facts)
        assert found is not None, f"no catalogue has {code}"
        return "".join(
            part if isinstance(part, str) else self._shown(facts[part[0]], part[1]) for part in found
        )

    def _found(self, code: str, facts: Mapping[str, Any]) -> tuple[Part, ...] | None:
        found = self.texts.get(code)
        if found is None and "count" in facts:
            found = self.texts.get(f"{code}_{'one' if facts['count'] == 1 else 'other'}")
        return None if found is None else parts(found)

    def _shown(self, fact: Any, how: str) -> str:
        if how:
            return _FORMATS[how](self, fact)
        if isinstance(fact, FieldProblem):
            return self.text(said("common.problem", where=fact.where, what=fact.what))
        return self.text(fact) if isinstance(fact, Message) else self.literal(str(fact))

    def literal(self, fact: str) -> str:
        """A fact as it stands in a text; where texts are marked up, a catalogue keeps it from being taken for markup."""
        return fact

    def joined(self, facts: Iterable[Any], between: str) -> str:
        """Several facts in one, as the language puts them side by side."""
        return between.join(self._shown(one, "") for one in facts)

    def with_last(self, facts: Iterable[Any], code: str) -> str:
        """Several facts in one, with a word of the language before the last."""
        *others, last = facts or [""]
        return self.text(said(code, others=others, last=last)) if others else self._shown(last, "")


_FORMATS: dict[str, Callable[[Catalogue, Any], str]] = {
    "number": lambda _, fact: f"{fact:,}",
    "list": lambda catalogue, facts: catalogue.joined(facts, catalogue.text(said("joined.comma"))),
    "items": lambda catalogue, facts: catalogue.joined(facts, catalogue.text(said("joined.semicolon"))),
    "words": lambda catalogue, facts: catalogue.joined(facts, " "),
    "lines": lambda catalogue, facts: catalogue.joined(facts, "\n"),
    "paragraphs": lambda catalogue, facts: catalogue.joined(facts, "\n\n"),
    "and": lambda catalogue, facts: catalogue.with_last(facts, "joined.and"),
    "or": lambda catalogue, facts: catalogue.with_last(facts, "joined.or"),
    "day": lambda catalogue, fact: catalogue.literal(_day(str(fact))),
    "short_day": lambda catalogue, fact: catalogue.literal(_day(str(fact)).split(" ", 1)[1][:-5]),
    "moment": lambda catalogue, fact: catalogue.literal(_moment(str(fact))),
    "span": lambda catalogue, fact: catalogue.text(_span(float(fact))),
}
ENGLISH = Catalogue()
_DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def _day(text: str) -> str:
    """A day as it is read; what is none stays as it is."""
    try:
        day = date.fromisoformat(text[:10])
    except ValueError:
        return text
    return f"{_DAYS[day.weekday()]} {day.day} {_MONTHS[day.month - 1]} {day.year}"


def _span(seconds: float) -> Message:
    """A length of time in the unit that suits it."""
    for unit, length in (("days", 86_400), ("hours", 3_600)):
        if seconds >= length:
            count = round(seconds / length, 1)
            return said(f"span.{unit}", count=int(count) if count == int(count) else count)
    return said("span.minutes", count=round(seconds / 60)) if seconds >= 30 else said("span.short")


def _moment(text: str) -> str:
    """An instant, said in UTC, or a wall time, as it is read; what is neither stays as it is."""
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        return text
    at = moment.astimezone(UTC) if moment.tzinfo else moment
    clock = at.strftime("%H:%M:%S" if at.second else "%H:%M")
    return f"{_day(at.date().isoformat())}, {clock}{' UTC' if moment.tzinfo else ''}"


def _gather(group: Mapping[str, Any], above: str, out: dict[str, str]) -> None:
    for name, held in group.items():
        if isinstance(held, str):
            assert above + name not in out, f"{above}{name} is there twice"
            out[above + name] = held
        else:
            _gather(held, f"{above}{name}.", out)


@cache
def parts(text: str) -> tuple[Part, ...]:
    """A text in pieces."""
    out: list[Part] = []
    at = 0
    for place in _PLACE.finditer(text):
        out += [text[at : place.start()], (place[1], place[2] or "")]
        at = place.end()
    return tuple(part for part in [*out, text[at:]] if part)
