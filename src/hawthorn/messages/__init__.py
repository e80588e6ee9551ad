"""The words of what is said: a catalogue for each language, one file for each area.

The files are what i18next reads too (JSON format, version 4), as those of the console: `{{name}}` stands for a fact, `_one`,
`_other` and what else a language has of plural forms (CLDR, plural rules) after a key for a fact called `count`. Formats after a fact's name: `number` (with separators) and, for several facts, `list`
(commas), `items` (semicolons), `words` (spaces), `lines`, `paragraphs`, `and`, `or`; `day` and `moment` for days and times as the
records have them (ISO 8601). What is said by an error has two texts: `detail`, what is wrong, and `remedy`, what to do.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import asdict, is_dataclass
from datetime import UTC, date, datetime
from functools import cache, lru_cache
from importlib.resources import files
from typing import Any

from hawthorn.core.errors import FieldProblem, HawthornError
from hawthorn.core.messages import Message, MessageError, said
from hawthorn.messages import written

SOURCE = "en"
"""The language that all catalogues are translated from."""
LANGUAGES = {"en": "English", "de": "Deutsch", "fr": "Français", "ar": "العربية"}
"""The languages that there are catalogues of, each as it calls itself."""
_PLACE = re.compile(r"\{\{(\w+)(?:, (\w+))?\}\}")
_DETAIL, _REMEDY = ".detail", ".remedy"
Part = str | tuple[str, str]
"""A piece of a text: words, or a fact's name and how it is shown."""


class Catalogue:
    """The words of one language; what it has not is said in the language that all are translated from."""

    def __init__(self, language: str = SOURCE) -> None:
        self._language = language

    @property
    def language(self) -> str:
        """Which language that is (BCP 47)."""
        return self._language

    @property
    def texts(self) -> dict[str, str]:
        """Each text by its code."""
        return texts(self.language)

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
        if isinstance(value, Message | MessageError):
            return self._shown(value, "")
        if isinstance(value, FieldProblem):
            return {"where": value.where, "what": self.text(value.what)}
        if isinstance(value, Mapping):
            return {name: self.plain(one) for name, one in value.items()}
        if isinstance(value, list | tuple):
            return [self.plain(one) for one in value]
        if is_dataclass(value) and not isinstance(value, type):
            return self.plain(asdict(value))
        return value if value is None or isinstance(value, str | int | float) else str(value)

    def _said(self, code: str, facts: Mapping[str, Any], member: str) -> str:
        found = self._found(code, facts)
        if found is None:
            found = self._found(code + member, facts)
        assert found is not None, f"no catalogue has {code}"
        return "".join(
            part if isinstance(part, str) else self._shown(facts[part[0]], part[1]) for part in found
        )

    def _found(self, code: str, facts: Mapping[str, Any]) -> tuple[Part, ...] | None:
        mine = self.language
        for language in (mine,) if mine == SOURCE else (mine, SOURCE):
            known = texts(language)
            found = known.get(code)
            if found is None and "count" in facts:
                form = written.plural(language, facts["count"])
                found = known.get(f"{code}_{form}") or known.get(f"{code}_other")
            if found is not None:
                return parts(found)
        return None

    def _shown(self, fact: Any, how: str) -> str:
        if how:
            return _FORMATS[how](self, fact)
        if isinstance(fact, FieldProblem):
            return self.text(said("common.problem", where=fact.where, what=fact.what))
        if isinstance(fact, MessageError):
            fact = fact.message
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


class Spoken(Catalogue):
    """The words of the language that is spoken just now (`speaking`); where none is, of the one of the house."""

    def __init__(self, house: str = SOURCE) -> None:
        super().__init__(house)
        self.kept = Catalogue(house)
        """The words of the house, for what is kept for all to read."""

    @property
    def language(self) -> str:
        """The language that is spoken."""
        return _SPOKEN.get() or self.kept.language

    @property
    def languages(self) -> Mapping[str, str]:
        """The languages that there are, each as it calls itself."""
        return LANGUAGES

    def to(self, language: str) -> Catalogue:
        """The words for somebody who chose a language; of the house where they chose none."""
        return Catalogue(language) if language in LANGUAGES else self.kept


@contextmanager
def speaking(language: str) -> Iterator[None]:
    """Speak a language meanwhile; empty for that of the house."""
    before = _SPOKEN.set(language if language in LANGUAGES else "")
    try:
        yield
    finally:
        _SPOKEN.reset(before)


def accepted(header: str) -> str:
    """The language of ours that somebody wants most (RFC 9110, section 12.5.4, by the lookup of RFC 4647, section 3.4); empty for none."""
    return _accepted(header[:_LONGEST])


@lru_cache(maxsize=512)
def _accepted(header: str) -> str:
    wanted = sorted(weighed(header), key=lambda one: -one[1])
    for tag, weight in wanted:
        primary = tag.lower().split("-")[0]
        if weight > 0 and primary in LANGUAGES:
            return primary
    return ""


def weighed(header: str) -> list[tuple[str, float]]:
    """The languages that `Accept-Language` names, with their weights; what is none is passed over."""
    found = (_WANTED.fullmatch(part) for part in header[:_LONGEST].split(","))
    return [(one[1], float(one[2] or 1)) for one in found if one]


_SPOKEN: ContextVar[str] = ContextVar("language", default="")
_LONGEST = 1_000
_WANTED = re.compile(r"\s*([A-Za-z0-9-]{1,40})\s*(?:;\s*q=(0(?:\.[0-9]{0,3})?|1(?:\.0{0,3})?)\s*)?")
_FORMATS: dict[str, Callable[[Catalogue, Any], str]] = {
    "number": lambda catalogue, fact: written.number(catalogue.language, fact),
    "list": lambda catalogue, facts: catalogue.joined(facts, catalogue.text(said("joined.comma"))),
    "items": lambda catalogue, facts: catalogue.joined(facts, catalogue.text(said("joined.semicolon"))),
    "words": lambda catalogue, facts: catalogue.joined(facts, " "),
    "lines": lambda catalogue, facts: catalogue.joined(facts, "\n"),
    "paragraphs": lambda catalogue, facts: catalogue.joined(facts, "\n\n"),
    "and": lambda catalogue, facts: catalogue.with_last(facts, "joined.and"),
    "or": lambda catalogue, facts: catalogue.with_last(facts, "joined.or"),
    "day": lambda catalogue, fact: catalogue.literal(_day(catalogue, str(fact))),
    "short_day": lambda catalogue, fact: catalogue.literal(_day(catalogue, str(fact), short=True)),
    "moment": lambda catalogue, fact: catalogue.literal(_moment(catalogue, str(fact))),
    "span": lambda catalogue, fact: catalogue.text(_span(float(fact))),
}
ENGLISH = Catalogue()
WORDS = Spoken()
"""The words for whoever is spoken to."""


def _day(catalogue: Catalogue, text: str, short: bool = False) -> str:
    """A day as it is read; what is none stays as it is."""
    try:
        day = date.fromisoformat(text[:10])
    except ValueError:
        return text
    return written.day(catalogue.language, day, short=short)


def _span(seconds: float) -> Message:
    """A length of time in the unit that suits it."""
    for unit, length in (("days", 86_400), ("hours", 3_600)):
        if seconds >= length:
            count = round(seconds / length, 1)
            return said(f"span.{unit}", count=int(count) if count == int(count) else count)
    return said("span.minutes", count=round(seconds / 60)) if seconds >= 30 else said("span.short")


def _moment(catalogue: Catalogue, text: str) -> str:
    """An instant, said in UTC, or a wall time, as it is read; what is neither stays as it is."""
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        return text
    at = moment.astimezone(UTC) if moment.tzinfo else moment
    clock = at.strftime("%H:%M:%S" if at.second else "%H:%M")
    day = written.day(catalogue.language, at.date())
    return f"{day}{catalogue.text(said('joined.comma'))}{clock}{' UTC' if moment.tzinfo else ''}"


@cache
def texts(language: str) -> dict[str, str]:
    """Each text of a language by its code; but for the help of commands, which only help itself says."""
    out: dict[str, str] = {}
    for file in sorted(files(__name__).joinpath(language).iterdir(), key=lambda file: file.name):
        if file.name.endswith(".json") and file.name != _HELP:
            for code, text in flat(json.loads(file.read_text("utf-8"))):
                assert code not in out, f"{code} is there twice"
                out[code] = text
    return out


def helps(language: str) -> dict[str, str]:
    """What help of commands says in a language, by its code."""
    return dict(flat(json.loads(files(__name__).joinpath(language, _HELP).read_text("utf-8"))))


def flat(group: Mapping[str, Any], above: str = "") -> Iterator[tuple[str, str]]:
    """The texts of a catalogue, each with its code, in the order in which they stand."""
    for name, held in group.items():
        if isinstance(held, str):
            yield above + name, held
        else:
            yield from flat(held, f"{above}{name}.")


_HELP = "help.json"


@cache
def parts(text: str) -> tuple[Part, ...]:
    """A text in pieces."""
    out: list[Part] = []
    at = 0
    for place in _PLACE.finditer(text):
        out += [text[at : place.start()], (place[1], place[2] or "")]
        at = place.end()
    return tuple(part for part in [*out, text[at:]] if part)
