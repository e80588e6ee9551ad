"""Packages on their way: asked for, looked through, brought, broken off, gone on with, undone and forgotten.

What takes long is done by a follower (`followers/packer.py`), a part at a time, so that others have their turn; how far it is is kept with it, and a
service that was killed goes on where it was.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import asdict
from pathlib import Path
from typing import Any

from hawthorn.core import naming, numbers
from hawthorn.core.access import Subject
from hawthorn.core.errors import BadFile, InTheWay, NotFound
from hawthorn.core.exchange import rows
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import permission
from hawthorn.operations.exchange import exporting, report
from hawthorn.operations.exchange.exporting import Choice
from hawthorn.operations.exchange.report import RowsWish, Wish
from hawthorn.operations.runtime.act import Act, Desk, View, new_uuid
from hawthorn.store import exchange as store
from hawthorn.store.exchange import Exchange

PACKAGE = "package"
"""The format of a package; others are formats of rows."""
LASTS = 24 * 3600 * SECOND
"""For so long a package that was made lies there to be fetched."""
MOST_GIVEN = 50
"""So many files of rows somebody may give before they are brought or forgotten."""
KEPT = 7 * LASTS
"""For so long one that was brought lies there, so that bringing it can go on."""


@dataclass(frozen=True, slots=True)
class PackageShown:
    """A package on its way, and what was found in it or came of it."""

    id: str
    way: str
    name: str
    state: str
    asked: dict[str, Any]
    step: str
    done: int
    total: int
    report: dict[str, Any]
    trouble: str
    bytes: int
    by: str
    at: str
    ended_at: str
    format: str


def folder(desk: Desk) -> Path:
    """Where packages lie: beside the record file."""
    return desk.db.path.with_name(desk.db.path.name + ".packages")


def file_of(desk: Desk, uuid: str) -> Path:
    """Where a package lies."""
    return folder(desk) / f"{uuid}.zip"


# -- what people ask for ---------------------------------------------------------------------------------------------------


def start_export(act: Act, choice: Choice, name: str) -> str:
    """Ask for a package of entries; returns its id. Raises `Invalid` for a choice of what is not there."""
    found = exporting.chosen(act, choice)
    if not found:
        raise InTheWay("packages.nothing_chosen")
    uuid = new_uuid(act.now)
    called = naming.line("name", name) or "hawthorn-package.zip"
    store.add(
        act.conn, uuid, "out", called, "running", json.dumps(asdict(choice)), 0, act.identity.id, act.now
    )
    act.event("export.asked", [], {"package": uuid, "name": called, "entries": len(found)})
    return uuid


def start_import(act: Act, uuid: str, name: str, size: int, wish: Wish) -> None:
    """Begin with a package that lies there: it is looked through first."""
    report.require(act, wish)
    called = naming.visible(name)[:200] or "package.zip"
    asked = json.dumps(asdict(wish))
    store.add(act.conn, uuid, "in", called, "looking", asked, size, act.identity.id, act.now)
    act.event("import.asked", [], {"package": uuid, "name": called, "bytes": size})


def start_rows(act: Act, uuid: str, name: str, size: int, format: str, wish: RowsWish) -> None:
    """Begin with a file of rows that lies there: it is looked through first."""
    require_rows(act)
    called, asked = naming.visible(name)[:200] or "rows", json.dumps(asdict(wish))
    store.add(act.conn, uuid, "in", called, "looking", asked, size, act.identity.id, act.now, format)
    act.event("import.asked", [], {"package": uuid, "name": called, "bytes": size})


def format_of(name: str, path: Path) -> str:
    """The format of rows that lie there, under the name that they came with. Raises `BadFile` for none."""
    with path.open("rb") as file:
        return rows.of(name, file.read(rows.HEAD)).name


def require_rows(view: View) -> None:
    """Refuse whoever may write nothing, and assistants, whose acts are counted one by one."""
    permission.require_somewhere(view, "write")
    if view.identity.kind == "assistant":
        raise InTheWay("rows.not_by_assistants")
    count = store.waiting_of(view.conn, view.identity.id)
    if count >= MOST_GIVEN:
        raise InTheWay("rows.too_many_given", count=count)


def get(view: View, uuid: str) -> Exchange:
    """A package on its way: one of rows for whoever gave it, others for those who set up. Raises `NotFound`."""
    row = store.by_uuid(view.conn, uuid)
    if row is None or row.format == PACKAGE or row.actor != view.identity.id:
        permission.require(view, "configure", Subject())
    if row is None:
        raise NotFound("packages.not_there", id=uuid)
    return row


def listing(view: View, limit: int, cursor: str) -> tuple[list[PackageShown], str]:
    """The packages there were, the newest first, and where the next page begins; for those who do not set up, the rows that they gave."""
    permission.require_somewhere(view, "write")
    mine = None if permission.may(view, "configure", Subject()) else view.identity.id
    found = store.listing(view.conn, numbers.cursor(cursor), limit + 1, mine)
    more = str(found[limit - 1].id) if len(found) > limit else ""
    return [shown(row) for row in found[:limit]], more


def shown(row: Exchange) -> PackageShown:
    """A package as people see it."""
    return PackageShown(
        id=row.uuid,
        way=row.way,
        name=row.name,
        state=row.state,
        asked=json.loads(row.asked),
        step=row.step,
        done=row.done,
        total=row.total,
        report={k: v for k, v in json.loads(row.report).items() if k != "ran"},
        trouble=row.trouble,
        bytes=row.bytes,
        by=row.by_name,
        at=iso(row.at),
        ended_at=iso(row.ended_at) if row.ended_at else "",
        format=row.format,
    )


def _require(row: Exchange, *, now: bool) -> None:
    """Raise `InTheWay` where something cannot be done with a package as it is now."""
    if not now:
        raise InTheWay("packages.not_now", state=said(f"packages.state.{row.state}"))


def _require_right(view: View, row: Exchange) -> None:
    """Refuse whoever may not bring, or take back, what was given."""
    if row.format == PACKAGE:
        report.require(view, wish_of(row))
    else:
        permission.require_somewhere(view, "write")


def _move(act: Act, uuid: str, allowed: tuple[str, ...], state: str) -> Exchange:
    """Let a package that was given be in another state; it is worked on with the rights of whoever says so."""
    row = get(act, uuid)
    _require(row, now=row.way == "in" and row.state in allowed)
    store.set_state(act.conn, row.id, state, act.now)
    store.set_actor(act.conn, row.id, act.identity.id)
    return row


def look_again(act: Act, uuid: str, wish: Wish | RowsWish) -> None:
    """Look through a package, or rows, again, as it is to be brought in another way."""
    if isinstance(wish, Wish) != (get(act, uuid).format == PACKAGE):
        raise InTheWay("packages.another_way")
    if isinstance(wish, Wish):
        report.require(act, wish)
    row = _move(act, uuid, ("looked", "cancelled", "failed", "undone"), "looking")
    store.set_asked(act.conn, row.id, json.dumps(asdict(wish)))


def run(act: Act, uuid: str) -> None:
    """Bring a package that was looked through; what was begun and broken off goes on."""
    _require_right(act, get(act, uuid))
    row = _move(act, uuid, ("looked", "cancelled", "failed"), "running")
    act.event("import.begun", [], {"package": uuid, "name": row.name})


def cancel(act: Act, uuid: str) -> None:
    """Break off what goes on with a package. What was brought stays until it is undone."""
    row = get(act, uuid)
    _require(row, now=row.state in store.AT_WORK)
    store.set_state(act.conn, row.id, "cancelled", act.now)
    act.event(
        "import.cancelled" if row.way == "in" else "export.cancelled", [], {"package": uuid, "name": row.name}
    )


def undo(act: Act, uuid: str) -> None:
    """Undo what a package brought, but for what somebody wrote since."""
    row = _move(act, uuid, ("done", "cancelled", "failed"), "undoing")
    _require_right(act, row)


def require_file(path: Path) -> None:
    """Refuse to go on with a package whose file was taken away."""
    if not path.is_file():
        raise BadFile("packages.file_gone")


def drop(act: Act, uuid: str, place: Path) -> None:
    """Forget a package that nothing is done with, and its file."""
    row = get(act, uuid)
    _require(row, now=row.state not in store.AT_WORK)
    store.drop(act.conn, row.id)
    (place / f"{uuid}.zip").unlink(missing_ok=True)


def sweep(desk: Desk) -> None:
    """Take away files of packages that lay there long enough, or that nobody knows of."""
    place, now = folder(desk), desk.clock.now()
    with desk.db.read() as conn:
        old = {*store.old_ones(conn, "out", now - LASTS), *store.old_ones(conn, "in", now - KEPT)}
        known = store.names(conn)
    if not place.is_dir():
        return
    for path in place.glob("*.zip"):
        stale = now - int(path.stat().st_mtime * SECOND) > LASTS
        if path.stem in old or (path.stem not in known and stale):
            path.unlink(missing_ok=True)


def choice_of(asked: Mapping[str, Any]) -> Choice:
    """What goes into a package, as it is kept with it."""
    types, sections, some = (tuple(asked[k]) for k in ("types", "sections", "entries"))
    return Choice(types, sections, some, asked["linked"], asked["history"])


def rows_wish_of(row: Exchange) -> RowsWish:
    """How rows that were given are to be brought."""
    return RowsWish(**json.loads(row.asked))


def wish_of(row: Exchange) -> Wish:
    """How a package that was given is to be brought."""
    return Wish(**json.loads(row.asked))
