"""Rows of the record file as frozen dataclasses, made by the names of their columns; a column that is not there is found at once."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterator
from dataclasses import fields
from functools import lru_cache
from operator import itemgetter
from typing import Any, Protocol, TypeVar, cast

T = TypeVar("T")
_NAME: Callable[[Any], str] = itemgetter(0)


class Described(Protocol):
    """What decides which workflow an edition follows."""

    @property
    def type(self) -> str:
        """The name of the content type."""

    @property
    def source_locale(self) -> str:
        """The locale that it began in."""

    @property
    def section(self) -> int | None:
        """The entry that heads its section."""


class OfEntry(Described, Protocol):
    """An entry, or something that belongs to one, as grants see it."""

    @property
    def entry(self) -> int:
        """The entry's number."""

    @property
    def owner(self) -> int:
        """Whoever began the entry."""


def every(kind: type[T], cursor: sqlite3.Cursor) -> list[T]:
    """All rows of an answer."""
    make = _made_by(kind, cursor)
    return [make(row) for row in cursor.fetchall()]


def each(kind: type[T], cursor: sqlite3.Cursor) -> Iterator[T]:
    """The rows of an answer, one by one: of one that may be long."""
    return map(_made_by(kind, cursor), cursor)


def one(kind: type[T], cursor: sqlite3.Cursor) -> T | None:
    """The first row of an answer, or None."""
    row = cursor.fetchone()
    return None if row is None else _made_by(kind, cursor)(row)


def known(kind: type[T], cursor: sqlite3.Cursor) -> T:
    """The row of something that is known to be there."""
    found = one(kind, cursor)
    assert found is not None
    return found


def _made_by(kind: type[T], cursor: sqlite3.Cursor) -> Callable[[sqlite3.Row], T]:
    return cast(Callable[[sqlite3.Row], T], _maker(cast(Any, kind), tuple(map(_NAME, cursor.description))))


@lru_cache(maxsize=1024)
def _maker(kind: Any, columns: tuple[str, ...]) -> Callable[[sqlite3.Row], Any]:
    names = [field.name for field in fields(kind)]
    if lost := set(names) - set(columns):
        raise TypeError(f"{kind.__name__} needs {', '.join(sorted(lost))}, which the statement does not give")
    places = [columns.index(name) for name in names]
    if len(places) == 1:
        place = places[0]
        return lambda row: kind(row[place])
    if places == list(range(len(columns))):
        return lambda row: kind(*row)
    pick = cast(Callable[[sqlite3.Row], tuple[Any, ...]], itemgetter(*places))
    return lambda row: kind(*pick(row))
