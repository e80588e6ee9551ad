"""A standby takes over: the newest state of the replica becomes a record file of its own, and whoever wrote until now writes no more."""

from __future__ import annotations

import sqlite3
import tempfile
from dataclasses import dataclass
from pathlib import Path

from hawthorn.core.errors import BadStore, InTheWay
from hawthorn.service import litestream
from hawthorn.store import checks, connection, definitions, events, outbox, terms
from hawthorn.store.database import Database


@dataclass(frozen=True, slots=True)
class TakenOver:
    """What was taken over: the term that begins, the newest event and its instant, and how much is kept back in the outbox."""

    term: int
    event: int
    at: int
    parked: int


def rehearse(url: str) -> TakenOver:
    """What would be taken over now; nothing is changed."""
    place = terms.required(url)
    last = _last(url, place)
    with tempfile.TemporaryDirectory() as made:
        file = Path(made) / "rehearsal.sqlite"
        litestream.restore(place.part(_source(url, place, last)), file)
        conn = connection.open_still(file)
        try:
            return TakenOver(last + 1, *events.last(conn)[:2], outbox.waiting_count(conn))
        finally:
            conn.close()


def take_over(url: str, file: Path) -> TakenOver:
    """Take over from whoever writes into a replica. From the first moment on they are refused; what they have sent still comes along. What waited
    to go out of the house is kept back, as they may have sent it."""
    place = terms.required(url)
    last = _last(url, place)
    if file.exists():
        raise InTheWay("copies.file_there", file=str(file))
    # Whether it can be done at all is seen before anybody is stopped.
    rehearse(url)
    place.begin(last + 1)
    source = _source(url, place, last)
    litestream.quiet(place, source)
    file.parent.mkdir(parents=True, exist_ok=True)
    litestream.restore(place.part(source), file)
    db = Database(file)
    try:
        parked = db.write(lambda conn: _begun(conn, last + 1))
        with db.read() as conn:
            event, at, _ = events.last(conn)
            wrong = checks.pages(conn)
    finally:
        db.close()
    if wrong:
        raise BadStore("copies.damaged", file=str(file))
    return TakenOver(last + 1, event, at, parked)


def _begun(conn: sqlite3.Connection, term: int) -> int:
    definitions.set_setting(conn, terms.SETTING, str(term))
    return outbox.park(conn)


def _source(url: str, place: terms.Place, last: int) -> int:
    """The term with the newest state: whoever took over last may have ended before anything of theirs was there."""
    found = next((term for term in range(last, 0, -1) if place.holds(term)), 0)
    if not found:
        raise BadStore("copies.no_replica", url=url)
    return found


def _last(url: str, place: terms.Place) -> int:
    last = place.latest()
    if last == 0:
        raise BadStore("copies.no_replica", url=url)
    return last
