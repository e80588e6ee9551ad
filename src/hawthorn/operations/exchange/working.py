"""Work on a package that takes long: done in steps, with how far it is noted as it goes, so that it can be stopped and gone on with."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict
from typing import Any

from hawthorn.core.access import Identity
from hawthorn.core.timeline import SECOND
from hawthorn.operations.access import permission
from hawthorn.operations.exchange import packages
from hawthorn.operations.exchange.report import NAMED, Report
from hawthorn.operations.runtime.act import Act, Desk
from hawthorn.store import exchange as store
from hawthorn.store.exchange import Exchange

TELLS = SECOND // 2
"""How far something is is noted no more often than this."""
GoesOn = Callable[[], bool]
_CAME = {"added": "added", "merged": "merged", "asked": "beside"}
"""What came of entries, as a report calls it and as it is kept with each."""


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

    def looked(self, report: Report, total: int) -> None:
        """Keep what was found by looking through it, which now waits for somebody to go on."""
        body = json.dumps(asdict(report), ensure_ascii=False)

        def looked(act: Act) -> None:
            store.went_on(act.conn, self.row.id, "", 0, total, act.now)
            store.set_report(act.conn, self.row.id, body)
            store.set_state(act.conn, self.row.id, "looked", act.now)

        self.desk.write(self.me, looked)

    def report(self, act: Act) -> dict[str, Any]:
        """What is said of it as it is now."""
        row = store.by_uuid(act.conn, self.row.uuid)
        assert row is not None
        found: dict[str, Any] = json.loads(row.report)
        return found

    def ended(self, act: Act, more: Mapping[str, Any] = {}, named: Sequence[dict[str, str]] = ()) -> None:
        """Say what came of bringing it: how many entries it added and merged, with what else is known, and which of them are to be looked at."""
        counts = store.counts(act.conn, self.row.id)
        came = {how: counts.get(what, 0) for how, what in _CAME.items()}
        noted = [
            {"id": one.uuid, "title": permission.title(act, one.entry), "why": one.note}
            for one in store.noted(act.conn, self.row.id, NAMED)
        ]
        report = self.report(act) | came | dict(more) | {"named": [*named, *noted][:NAMED]}
        store.set_report(act.conn, self.row.id, json.dumps(report, ensure_ascii=False))
        store.set_state(act.conn, self.row.id, "done", act.now)
        facts = {"package": self.row.uuid, "name": self.row.name, **came, "sha256": report.get("sha256", "")}
        act.event("import.done", [], facts)

    def work(self) -> None:
        """Do what there is to do."""
        raise NotImplementedError
