"""Imports of files into memories and glossaries: a few units at a time, so that nobody waits for a long one, seen on its way, and undone."""

from __future__ import annotations

import json
from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator
from itertools import islice
from typing import ClassVar, Generic, TypeVar

from hawthorn.core import numbers
from hawthorn.core.access import Identity
from hawthorn.core.errors import HawthornError, InTheWay, NotFound
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.runtime.act import Act, Desk, View
from hawthorn.store import imports as store
from hawthorn.store.imports import Import, Into

OUT_AT_ONCE = 2_000
"""So many are taken out in one transaction."""
STUCK = 60 * SECOND
"""An import that says nothing of itself for so long was interrupted."""
_NAMED = 50
"""So many units that cannot be used are named."""
Unit = TypeVar("Unit")


@dataclass(frozen=True, slots=True)
class ImportShown:
    """An import: how far it is, or what became of it."""

    id: int
    name: str
    state: str
    read: int
    added: int
    known: int
    refused: int
    problems: list[str]
    by: str
    at: str
    ended_at: str


def listing(view: View, into: Into, whose: int, limit: int, cursor: str) -> tuple[list[ImportShown], str]:
    """The imports into a memory or a glossary, the newest first; and where the next page begins."""
    found = store.listing(view.conn, into, whose, limit + 1, numbers.cursor(cursor))
    more = str(found[limit - 1].id) if len(found) > limit else ""
    return [_shown(view, one) for one in found[:limit]], more


def _shown(view: View, one: Import) -> ImportShown:
    return ImportShown(
        id=one.id,
        name=one.name,
        state="interrupted" if _stuck(view, one) else one.state,
        read=one.read,
        added=one.added,
        known=one.known,
        refused=one.refused,
        problems=json.loads(one.problems),
        by=one.by_name,
        at=iso(one.at),
        ended_at=iso(one.ended_at) if one.ended_at else "",
    )


def _stuck(view: View, one: Import) -> bool:
    return one.state == "running" and view.now - one.changed_at > STUCK


def undo(act: Act, into: Into, whose: int, id: int, drop: Callable[[int], int]) -> Import | None:
    """Undo an import, so many at a time: `drop` takes out that many of what it brought and nobody changed since, and returns how many
    there were. Returns the import once all of it is gone, and nothing while more is left."""
    found = store.one(act.conn, into, whose, id)
    if found is None:
        raise NotFound("imports.not_there", id=id)
    if found.state == "undone" or (found.state == "running" and not _stuck(act, found)):
        raise InTheWay("imports.not_to_undo", state=found.state)
    if drop(OUT_AT_ONCE) == OUT_AT_ONCE:
        return None
    store.undone(act.conn, into, id, act.now)
    return found


class Taking(ABC, Generic[Unit]):
    """An import on its way into something. What cannot be used is counted, and the first so many are named; a file that cannot be read to
    its end leaves nothing behind."""

    into: ClassVar[Into]
    at_once: ClassVar[int] = 500
    """So many units are kept in one transaction, between which others have their turn."""

    def __init__(self, desk: Desk, identity: Identity, uuid: str, name: str) -> None:
        self.uuid = uuid
        self._desk, self._identity, self._name = desk, identity, name[:200]
        self.read = self._added = self._known = self._refused = 0
        self._problems: list[str] = []
        self.whose, self.id = desk.write(identity, self._begin)

    @abstractmethod
    def home(self, act: Act) -> tuple[int, str]:
        """What it goes into: its number and name. Refused where whoever imports may not look after it."""

    @abstractmethod
    def keep(self, act: Act, some: list[Unit]) -> tuple[int, int]:
        """Keep some units; returns how many were new, and known before. Those that cannot be used are named by `refuse`."""

    @abstractmethod
    def drop(self, act: Act, most: int) -> int:
        """Take out again so many at most of what it brought; returns how many there were."""

    def all_of(self, found: Iterator[Unit]) -> ImportShown:
        """Take all that a file holds."""
        try:
            while some := list(islice(found, self.at_once)):
                self._desk.write(self._identity, lambda act, few=some: self._take(act, few))  # type: ignore[misc]
        except HawthornError:
            while self._desk.write(self._identity, self._give_up):
                pass
            raise
        return self._desk.write(self._identity, self._done)

    def refuse(self, why: str) -> None:
        """Count a unit that cannot be used, and say why."""
        self._refused += 1
        if len(self._problems) < _NAMED:
            self._problems.append(why)

    def _begin(self, act: Act) -> tuple[int, int]:
        whose, _ = self.home(act)
        return whose, store.begin(act.conn, self.into, whose, self._name, act.identity.id, act.now)

    def _take(self, act: Act, some: list[Unit]) -> None:
        added, known = self.keep(act, some)
        self.read += len(some)
        self._added += added
        self._known += known
        self._note(act, "running")

    def _note(self, act: Act, state: str) -> None:
        counts = (self.read, self._added, self._known, self._refused)
        problems = json.dumps(self._problems, ensure_ascii=False)
        store.went_on(act.conn, self.into, self.id, state, counts, problems, act.now)

    def _give_up(self, act: Act) -> bool:
        count = self.drop(act, OUT_AT_ONCE)
        self._added = 0
        self._note(act, "failed")
        return count == OUT_AT_ONCE

    def _done(self, act: Act) -> ImportShown:
        self._note(act, "done")
        _, name = self.home(act)
        facts = {self.into: self.uuid, "name": name, "file": self._name, "added": self._added}
        act.event(f"{self.into}.imported", [], facts)
        found = store.one(act.conn, self.into, self.whose, self.id)
        assert found is not None
        return _shown(act, found)
