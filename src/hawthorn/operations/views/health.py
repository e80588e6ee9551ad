"""The health of the record file: looked at without changing anything, and as far as it can be read."""

from __future__ import annotations

import json
import shutil
import sqlite3
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

from hawthorn.core import positions
from hawthorn.core.errors import FileStoreFails
from hawthorn.core.messages import Message, said
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.release import filters
from hawthorn.operations.runtime.act import Act, Desk, View
from hawthorn.operations.translation import coverage, glossaries, memories
from hawthorn.operations.views import counting, unfolding
from hawthorn.store import backups, checks, definitions, events, file_store, reviews
from hawthorn.store.file_store import FileStore

MISSING = 60.0
"""Seconds for which something may be written and not be in the replica, until that is said."""
BEHIND = 60 * SECOND
"""A clock that is this far behind the newest event is said to be wrong."""
ROOM = 50_000_000
"""Bytes that should be free on the disk of the record file."""


def health(view: View) -> list[str]:
    """What is wrong with the record file, in words; empty when all is well."""
    return [view.say(line) for _, wrong in examine(view.conn, view.file_store) for line in wrong]


def examine(conn: sqlite3.Connection, at: FileStore | None = None) -> Iterator[tuple[str, list[Message]]]:
    """Each thing that is looked at, with what is wrong with it. What cannot be read is said, and the rest is looked at."""
    for name, look in CHECKS.items():
        wrong: list[Message] = []
        try:
            wrong.extend(look(conn))
            if name == "files":
                wrong.extend(_outside(conn, at))
        except FileStoreFails as error:
            wrong.append(error.message)
        except sqlite3.Error as error:
            wrong.append(said("health.unreadable", what=said(f"health.what.{name}"), error=error))
        yield name, wrong


def _pages(conn: sqlite3.Connection) -> Iterable[Message]:
    return [said("health.page", line=line) for line in checks.pages(conn)]


def _references(conn: sqlite3.Connection) -> Iterable[Message]:
    return [said("health.broken_reference", table=table) for table in checks.broken_references(conn)]


def _sign_offs(conn: sqlite3.Connection) -> Iterable[Message]:
    return [said("health.sign_off_found_wrongly", id=one) for one in reviews.found_wrongly(conn)]


def _files(conn: sqlite3.Connection) -> Iterable[Message]:
    return [said("health.file_in_part", sha256=one) for one in checks.files_in_part(conn)]


def _outside(conn: sqlite3.Connection, at: FileStore | None) -> Iterator[Message]:
    """The files that should lie in the file store and do not, or not whole. Of what lies there the store says how long it is."""
    known = checks.files_outside(conn)
    if known and at is None:
        yield said("health.files_elsewhere")
    elif known and at is not None:
        there = dict(at.kept("files/"))
        for sha256, size in known.items():
            if there.get(file_store.named(sha256)) != size:
                yield said("health.file_missing", sha256=sha256)


CHECKS: dict[str, Callable[[sqlite3.Connection], Iterable[Message]]] = {
    "pages": _pages,
    "references": _references,
    "events": events.verify,
    "derived": unfolding.wrong,
    "filters": filters.wrong,
    "sign_offs": _sign_offs,
    "files": _files,
    "coverage": coverage.wrong,
    "memories": memories.wrong,
    "glossaries": glossaries.wrong,
    "figures": counting.wrong,
}
"""What is looked at, in order; catalogues have the name that a person is shown, under `health.what`."""


MENDED = ("derived", "filters", "sign_offs", "coverage", "memories", "glossaries", "figures")
"""What of this is derived from other rows, and can be made anew of them."""


def repair(act: Act) -> dict[str, int]:
    """Make anew what is derived from other rows and is not what follows from them; what it was derived from is left as it is. Returns how many entries, types,
    sign-offs, editions, sentences, terms and figures that were."""
    count = unfolding.mend(act)
    kinds = [kind for kind in act.setup.types.values() if kind.filtered]
    for kind in kinds:
        filters.keep_anew(act, kind)
    covered = coverage.count_all(act)
    lost = len(reviews.found_wrongly(act.conn))
    if lost:
        reviews.find_anew(act.conn)
    done = {"derived": count, "filters": len(kinds), "sign_offs": lost, "coverage": covered}
    done |= {"memories": memories.mend(act), "glossaries": glossaries.mend(act)}
    done |= {"figures": counting.mend(act)}
    act.event("records.repaired", [], done)
    return done


def trouble(desk: Desk) -> list[str]:
    """What is wrong with the service just now, in words; cheap enough to be asked every few seconds."""
    out: list[Message] = [desk.db.trouble] if desk.db.trouble is not None else []
    if desk.db.slow:
        out.append(said("health.slow_disk", seconds=round(desk.db.slow), file=desk.db.path.name))
    with desk.db.read() as conn:
        checks.answers(conn)
        if desk.file_store is None and checks.any_outside(conn):
            out.append(said("health.files_elsewhere"))
        behind = events.last(conn)[1] - desk.clock.now()
        kept = definitions.setting(conn, backups.LAST)
    if desk.db.replica is not None:
        missing = desk.db.replica.behind(desk.db.read, desk.clock.now())
        if missing is None:
            out.append(said("health.replica_away", why=desk.db.replica.trouble))
        elif missing > MISSING:
            out.append(said("health.replica_behind", seconds=round(missing)))
    failed = json.loads(kept).get("trouble", "") if kept else ""
    if failed:
        out.append(said("health.backup_failed", why=failed))
    if behind > BEHIND:
        out.append(said("health.clock_is_behind", seconds=behind // SECOND))
    free = _free(desk.db.path)
    if free < ROOM and not out:
        out.append(said("health.little_room", free=free // 1_000_000, file=desk.db.path.name))
    return [desk.words.text(one) for one in out]


def how_far(desk: Desk) -> dict[str, str]:
    """How far the records have come: their position, and when the newest event happened."""
    with desk.db.read() as conn:
        return {"position": positions.told(checks.position(conn)), "newest": iso(events.last(conn)[1])}


def _free(path: Path) -> int:
    try:
        return shutil.disk_usage(path.parent).free
    except OSError:
        return ROOM
