"""Presence: who has an entry open and in which field. It is told to those who see the entry, and never part of the log."""

from __future__ import annotations

import sqlite3
from typing import Any

from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import wake

LASTS = 45 * SECOND
"""How long somebody counts as present after the last sign of them."""


def here(act: Act, uuid: str, locale: str, page: str, field: str = "", typing: bool = False) -> None:
    """Say that an entry is open in a page of somebody's browser, and in which field they are."""
    tag = act.setup.locale(locale)
    entry = permission.find(act, uuid, tag)
    left = act.conn.execute("DELETE FROM presence WHERE at < ?", (act.now - LASTS,)).rowcount
    before = act.conn.execute(
        "SELECT entry, locale, field, typing FROM presence WHERE page = ? AND actor = ?",
        (page, act.identity.id),
    ).fetchone()
    if left or before is None or tuple(before) != (entry["id"], tag, field, int(typing)):
        wake.tell(act.conn, "presence")
    act.conn.execute(
        "INSERT INTO presence VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?7) ON CONFLICT (page) DO UPDATE SET "
        "entry = excluded.entry, locale = excluded.locale, field = excluded.field, typing = excluded.typing, "
        "since = CASE WHEN entry = excluded.entry AND locale = excluded.locale THEN since ELSE excluded.since END, "
        "at = excluded.at WHERE actor = excluded.actor",
        (page, act.identity.id, entry["id"], tag, field, int(typing), act.now),
    )


def gone(act: Act, page: str) -> None:
    """Say that a page was closed."""
    act.conn.execute("DELETE FROM presence WHERE page = ? AND actor = ?", (page, act.identity.id))
    wake.tell(act.conn, "presence")


def window_gone(act: Act, window: str) -> None:
    """Say that a window of somebody's browser was closed, with whatever they had open in it: pages are named after it."""
    left = act.conn.execute(
        "DELETE FROM presence WHERE substr(page, 1, ?2) = ?1 AND actor = ?3",
        (f"{window}.", len(window) + 1, act.identity.id),
    ).rowcount
    if left:
        wake.tell(act.conn, "presence")


def in_window(view: View, window: str) -> bool:
    """Whether somebody has anything open in a window."""
    return bool(
        view.conn.execute(
            "SELECT EXISTS (SELECT 1 FROM presence WHERE substr(page, 1, ?2) = ?1)",
            (f"{window}.", len(window) + 1),
        ).fetchone()[0]
    )


def with_entry(view: View, uuid: str) -> list[dict[str, Any]]:
    """Who has an entry open now, in any locale; whoever looks is among them, marked by their pages."""
    entry = permission.find(view, uuid)
    return [
        {
            "page": row["page"],
            "handle": row["handle"],
            "name": row["name"],
            "locale": row["locale"],
            "field": row["field"],
            "typing": bool(row["typing"]),
            "since": iso(row["since"]),
        }
        for row in view.conn.execute(
            "SELECT p.*, a.handle, a.name FROM presence p JOIN actor a ON a.id = p.actor WHERE p.entry = ? AND p.at >= ? "
            "ORDER BY p.since, p.page",
            (entry["id"], view.now - LASTS),
        ).fetchall()
    ]


def all_present(view: View) -> list[sqlite3.Row]:
    """Everybody who is anywhere."""
    return view.conn.execute(
        "SELECT page, entry, locale, field, typing, at FROM presence WHERE at >= ? ORDER BY page",
        (view.now - LASTS,),
    ).fetchall()
