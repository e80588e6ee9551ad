"""Sign-offs of what leaves readers: of a move, in the dispatch that makes it."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable

from hawthorn.core.quick import dataclass
from hawthorn.core.workflow import SignOff
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Asked:
    """Who asked that an edition leaves, and who signed that off."""

    by: int | None
    signed: tuple[SignOff, ...]


def of_dispatch(conn: sqlite3.Connection, dispatch: int) -> dict[int, Asked]:
    """The same of every move of a dispatch, by edition."""
    signed: dict[int, list[SignOff]] = {}
    for edition, actor, name, roles, handle in conn.execute(
        "SELECT s.edition, s.actor, a.name, s.roles, a.handle FROM move_sign_off s JOIN actor a ON a.id = s.actor "
        "WHERE s.dispatch = ? ORDER BY s.edition, s.at, s.actor",
        (dispatch,),
    ).fetchall():
        signed.setdefault(edition, []).append(SignOff(actor, name, tuple(json.loads(roles)), handle))
    rows = conn.execute("SELECT edition, asked_by FROM move WHERE dispatch = ?", (dispatch,)).fetchall()
    return {row[0]: Asked(row[1], tuple(signed.get(row[0], ()))) for row in rows}


@dataclass(frozen=True, slots=True)
class SaysSo:
    """A revision that is out and says in a field what is planned for an edition, and when (JSON): its own, or that of the shared
    fields. `wanted` is what the draft says by now."""

    edition: int
    revision: int
    field: str
    says: str
    wanted: str


def texts_that_say_so(conn: sqlite3.Connection, dispatch: int) -> list[SaysSo]:
    """The revisions that are out and in which a field plans what a dispatch does, for each edition that such a field is about; none
    where its draft says another time."""
    found = shaped.every(
        SaysSo,
        conn.execute(
            "SELECT c.id AS edition, s.revision, f.field, r.fields ->> ('$.' || f.field) AS says, f.wanted "
            "FROM planned_field f JOIN edition o ON o.id = f.edition JOIN edition c ON c.entry = o.entry AND (c.id = o.id OR o.locale = '*') "
            "CROSS JOIN standing s ON s.edition = f.edition AND s.stage = 2 AND s.until IS NULL "
            "JOIN revision r ON r.id = s.revision WHERE f.dispatch = ? AND says IS NOT NULL",
            (dispatch,),
        ),
    )
    return [one for one in found if one.wanted and json.loads(one.wanted) == json.loads(one.says)]


def sign(
    conn: sqlite3.Connection,
    dispatch: int,
    edition: int,
    actor: int,
    roles: Iterable[str],
    at: int,
    note: str,
) -> None:
    """Record that somebody signed off that an edition leaves."""
    conn.execute(
        "INSERT INTO move_sign_off VALUES (?, ?, ?, ?, ?, ?) ON CONFLICT (dispatch, edition, actor) "
        "DO UPDATE SET roles = excluded.roles, at = excluded.at, note = excluded.note",
        (dispatch, edition, actor, json.dumps(list(roles)), at, note),
    )


def void(conn: sqlite3.Connection, dispatch: int, editions: Iterable[int] | None = None) -> None:
    """Take the sign-offs of some editions off a dispatch, or all of them."""
    only = "" if editions is None else " AND edition IN (SELECT value FROM json_each(?))"
    values = () if editions is None else (json.dumps(list(editions)),)
    conn.execute(f"DELETE FROM move_sign_off WHERE dispatch = ?{only}", (dispatch, *values))


def carry(conn: sqlite3.Connection, dispatch: int, to: int, editions: Iterable[int]) -> None:
    """Let the sign-offs of some editions go over to another dispatch."""
    conn.execute(
        "UPDATE move_sign_off SET dispatch = ? WHERE dispatch = ? AND edition IN (SELECT value FROM json_each(?))",
        (to, dispatch, json.dumps(list(editions))),
    )
