"""The health of the record file: looked at without changing anything, and as far as it can be read."""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

from hawthorn.core.timeline import SECOND
from hawthorn.operations.runtime.act import Desk, View
from hawthorn.store import checks, events

BEHIND = 60 * SECOND
"""A clock that is this far behind the newest event is said to be wrong."""
ROOM = 50_000_000
"""Bytes that should be free on the disk of the record file."""


def health(view: View) -> list[str]:
    """What is wrong with the record file, in words; empty when all is well."""
    return [line for _, wrong in examine(view.conn) for line in wrong]


def examine(conn: sqlite3.Connection) -> Iterator[tuple[str, list[str]]]:
    """Each thing that is looked at, with what is wrong with it. What cannot be read is said, and the rest is looked at."""
    for name, look in CHECKS.items():
        wrong: list[str] = []
        try:
            wrong.extend(look(conn))
        except sqlite3.Error as error:
            wrong.append(f"The {name} cannot be read to the end: {error}.")
        yield name, wrong


def _pages(conn: sqlite3.Connection) -> Iterable[str]:
    return [f"SQLite: {line}" for line in checks.pages(conn)]


def _references(conn: sqlite3.Connection) -> Iterable[str]:
    return [f"Broken reference in {table}" for table in checks.broken_references(conn)]


def _summaries(conn: sqlite3.Connection) -> Iterable[str]:
    for edition in checks.stale_summaries(conn):
        yield f"The summary of edition {edition} is not that of its draft."


def _lists(conn: sqlite3.Connection) -> Iterable[str]:
    for edition in checks.listed_wrongly(conn):
        yield f"Edition {edition} is listed where it does not stand."


CHECKS: dict[str, Callable[[sqlite3.Connection], Iterable[str]]] = {
    "pages of the file": _pages,
    "references between records": _references,
    "chain of events": events.verify,
    "summaries of drafts": _summaries,
    "lists of what stands": _lists,
}
"""What is looked at, in order, by the name that a person is shown."""


def trouble(desk: Desk) -> list[str]:
    """What is wrong with the service just now, in words; cheap enough to be asked every few seconds."""
    out = [desk.db.trouble] if desk.db.trouble else []
    with desk.db.read() as conn:
        checks.answers(conn)
        behind = events.last(conn)[1] - desk.clock.now()
    if behind > BEHIND:
        out.append(
            f"This machine's clock is {behind // SECOND} seconds behind the newest event. Set the clock right; until then "
            "new events get times just after that one."
        )
    free = _free(desk.db.path)
    if free < ROOM and not out:
        out.append(f"Only {free // 1_000_000} MB are free on the disk that holds “{desk.db.path.name}”.")
    return out


def _free(path: Path) -> int:
    try:
        return shutil.disk_usage(path.parent).free
    except OSError:
        return ROOM
