"""Presence: who has an entry open and in which field. It is told to those who see the entry, and never part of the log."""

from __future__ import annotations

from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import entries, wake
from hawthorn.store import presence as store
from hawthorn.store.presence import Seen

LASTS = 45 * SECOND
"""How long somebody counts as present after the last sign of them."""


def here(
    act: Act,
    uuid: str,
    locale: str,
    page: str,
    field: str = "",
    typing: bool = False,
    strand: str = entries.DRAFT_STRAND,
) -> None:
    """Say that an entry is open in a page of somebody's browser, on which strand of it, and in which field they are."""
    tag = act.setup.locale(locale)
    entry = permission.find(act, uuid, tag)
    left = store.let_go(act.conn, act.now - LASTS)
    before = store.of_page(act.conn, page, act.identity.id)
    where = store.Page(entry.id, tag, strand, field, int(typing))
    if left or before is None or before != where:
        wake.tell(act.conn, "presence")
    store.keep(act.conn, page, act.identity.id, where, act.now)


def gone(act: Act, page: str) -> None:
    """Say that a page was closed."""
    store.leave(act.conn, page, act.identity.id)
    wake.tell(act.conn, "presence")


def window_gone(act: Act, window: str) -> None:
    """Say that a window of somebody's browser was closed, with whatever they had open in it: pages are named after it."""
    left = store.leave_window(act.conn, f"{window}.", len(window) + 1, act.identity.id)
    if left:
        wake.tell(act.conn, "presence")


def in_window(view: View, window: str) -> bool:
    """Whether somebody has anything open in a window."""
    return store.in_window(view.conn, f"{window}.", len(window) + 1)


@dataclass(frozen=True, slots=True)
class Present:
    """Somebody who has an entry open."""

    page: str
    handle: str
    name: str
    locale: str
    strand: str
    field: str
    typing: bool
    since: str


def with_entry(view: View, uuid: str) -> list[Present]:
    """Who has an entry open now, in any locale; whoever looks is among them, marked by their pages."""
    entry = permission.find(view, uuid)
    return [
        Present(
            page=row.page,
            handle=row.handle,
            name=row.name,
            locale=row.locale,
            strand=row.strand,
            field=row.field,
            typing=bool(row.typing),
            since=iso(row.since),
        )
        for row in store.of_entry(view.conn, entry.id, view.now - LASTS)
    ]


def all_present(view: View) -> list[Seen]:
    """Everybody who is anywhere."""
    return store.everybody(view.conn, view.now - LASTS)
