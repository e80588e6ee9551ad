"""Backups by a timetable: made while the service runs, kept as long as is wanted, and rehearsed."""

from __future__ import annotations

import json
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import asdict
from pathlib import Path

from hawthorn.core.access import Subject
from hawthorn.core.errors import HawthornError
from hawthorn.core.keeping import Keep
from hawthorn.core.messages import Message
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import SCHEDULER_SELF, Act, Desk, View
from hawthorn.operations.views import health
from hawthorn.store import backups, connection, definitions, events, packages
from hawthorn.store.backups import Backup


@dataclass(frozen=True, slots=True)
class Last:
    """How the last backup by the timetable went: the instant at which it was due, when it was tried, what it is called, and why there is none."""

    due: int
    at: int
    name: str = ""
    bytes: int = 0
    trouble: str = ""


@dataclass(frozen=True, slots=True)
class Rehearsal:
    """What came of restoring a backup for trial: its newest event, how many entries it has, and what is wrong with it, in words."""

    events: int
    at: int
    entries: int
    wrong: tuple[Message, ...]


def last(view: View) -> Last | None:
    """How the last backup by the timetable went; None where there was none."""
    kept = definitions.setting(view.conn, backups.LAST)
    return Last(**json.loads(kept)) if kept else None


@dataclass(frozen=True, slots=True)
class BackupShown:
    """A backup as people see it."""

    name: str
    at: str
    events: int
    bytes: int
    encrypted: bool


@dataclass(frozen=True, slots=True)
class BackupsShown:
    """The backups in the folder of the settings, the newest first, and why the last that was due could not be made."""

    items: list[BackupShown]
    trouble: str


def shown(view: View, folder: Path | None) -> BackupsShown:
    """The backups there are, for whoever sets up."""
    permission.require(view, "configure", Subject())
    found = last(view)
    there = backups.listing(folder) if folder is not None else []
    items = [BackupShown(one.path.name, iso(one.at), one.events, one.bytes, one.sealed) for one in there]
    return BackupsShown(items, found.trouble if found is not None else "")


def by_timetable(
    desk: Desk,
    folder: Path,
    due: int,
    keep: Keep,
    recipients: Sequence[str],
    told: Callable[[int, int], None],
) -> None:
    """Make the backup that is due, and take away those that are kept no longer. What goes wrong is kept with it, and is said wherever the health of the
    service is asked for."""
    now = desk.clock.now()
    try:
        backups.room_for(folder, desk.db.path)
        made = backups.make(desk.db.path, folder, now, recipients, told)
        gone = backups.retain(folder, keep)
    except HawthornError as error:
        trouble = desk.words.kept.text(error.message)
        desk.write(SCHEDULER_SELF, lambda act: _note(act, Last(due, now, trouble=trouble), "backup.failed"))
        return
    done = Last(due, now, made.path.name, made.bytes)
    desk.write(SCHEDULER_SELF, lambda act: _note(act, done, "backup.made", gone=gone))


def _note(act: Act, one: Last, kind: str, gone: Sequence[str] = ()) -> None:
    definitions.set_setting(act.conn, backups.LAST, json.dumps(asdict(one)))
    act.event(kind, [], {"file": one.name, "bytes": one.bytes, "trouble": one.trouble, "gone": list(gone)})


def rehearse(backup: Path, identities: Sequence[str] = ()) -> Rehearsal:
    """Restore a backup to a place of its own and look through it as `hawthorn check` does, with every page, reference and link of the chain; then it is thrown
    away. Raises `BadFile` for one that cannot be restored."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "rehearsal.sqlite"
        backups.unpack(backup, file, identities)
        conn = connection.open_still(file)
        try:
            seq, at, _ = events.last(conn)
            wrong = [line for name, lines in health.examine(conn) if name != "files" for line in lines]
            count = packages.how_many(conn)
        finally:
            conn.close()
    return Rehearsal(seq, at, count, tuple(wrong))


def newest(folder: Path) -> Backup | None:
    """The newest backup in a folder."""
    return next(iter(backups.listing(folder)), None)
