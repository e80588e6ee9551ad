"""Entries that not everybody may read while they are out: hidden ones, and locked ones that ask for a phrase."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said

HIDDEN, LOCKED = "hidden", "locked"
WAYS = ("", HIDDEN, LOCKED)
"""How an entry may be limited: not at all, hidden (nothing is there for others), or locked (it is listed, and asks for a phrase)."""
MOST_AUDIENCES = 20
SHORTEST_PHRASE, LONGEST_PHRASE = 8, 200
_AUDIENCE = re.compile(r"[a-z0-9][a-z0-9-]{0,39}")


def audiences(names: Iterable[str]) -> tuple[str, ...]:
    """The names of audiences, each once; raises `Invalid` for what is none."""
    some = tuple(dict.fromkeys(name.strip() for name in names))
    wrong = next((name for name in some if not _AUDIENCE.fullmatch(name)), None)
    if wrong is not None:
        raise Invalid([FieldProblem("audiences", said("limited.no_audience", name=wrong[:80]))])
    if len(some) > MOST_AUDIENCES:
        raise Invalid([FieldProblem("audiences", said("limited.too_many_audiences", most=MOST_AUDIENCES))])
    return some


def phrase(text: str) -> str:
    """A phrase as it is compared: however it is written in capitals, and however it is spaced (NFKC, casefolded)."""
    return " ".join(unicodedata.normalize("NFKC", text[: 4 * LONGEST_PHRASE]).casefold().split())


def new_phrase(text: str) -> str:
    """A phrase that somebody sets, as it is compared; raises `Invalid` for one that is too short or too long."""
    said_as = phrase(text)
    if len(text) > LONGEST_PHRASE:
        raise Invalid([FieldProblem("phrase", said("limited.long_phrase", most=LONGEST_PHRASE))])
    if len(said_as) < SHORTEST_PHRASE:
        raise Invalid([FieldProblem("phrase", said("limited.short_phrase", least=SHORTEST_PHRASE))])
    return said_as
