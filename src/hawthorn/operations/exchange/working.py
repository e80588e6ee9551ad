"""Work on a package that takes long: done in steps, with how far it is noted as it goes, so that it can be stopped and gone on with."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from hawthorn.core.access import Identity
from hawthorn.core.timeline import SECOND
from hawthorn.operations.exchange import packages
from hawthorn.operations.runtime.act import Act, Desk
from hawthorn.store import exchange as store
from hawthorn.store.exchange import Exchange

TELLS = SECOND // 2
"""How far something is is noted no more often than this."""
GoesOn = Callable[[], bool]


class Stopped(Exception):
    """Somebody stopped it, or the service stops."""


class Working:
    """The work on one package, in steps; how far it is is noted as it goes."""

    def __init__(self, desk: Desk, me: Identity, row: Exchange, goes_on: GoesOn) -> None:
        self.desk = desk
        self.me = me
        self.row = row
        self._goes_on = goes_on
        self._told_at = 0
        self.path = packages.file_of(desk, row.uuid)

    def tell(self, step: str, done: int, total: int, *, now: bool = False) -> None:
        """Note how far it is; raises `Stopped` where somebody stopped it."""
        at = self.desk.clock.now()
        if not now and 0 <= at - self._told_at < TELLS:
            return
        self._told_at = at
        if not self._goes_on() or not self.desk.db.write(lambda conn: self.note(conn, step, done, total, at)):
            raise Stopped

    def note(self, conn: Any, step: str, done: int, total: int, at: int) -> bool:
        found = store.by_uuid(conn, self.row.uuid)
        if found is None or found.state != self.row.state:
            return False
        store.went_on(conn, self.row.id, step, done, total, at)
        return True

    def step(self, step: str, done: int, total: int, do: Callable[[Act], Any]) -> Any:
        """Do one part of a step, with how far it is noted in the same transaction: what was killed goes on exactly there."""

        def one(act: Act) -> Any:
            if not self.note(act.conn, step, done, total, act.now):
                raise Stopped
            return do(act)

        if not self._goes_on():
            raise Stopped
        return self.desk.write(self.me, one)

    def work(self) -> None:
        """Do what there is to do."""
        raise NotImplementedError
