"""Sections: which one an entry belongs to, as the draft of its placement says."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hawthorn.core import contenttypes
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import entries as store
from hawthorn.store import revisions, sections


def parent_of(view: View, entry: int) -> int | None:
    """The entry below which another is drafted."""
    common = store.edition(view.conn, entry, COMMON)
    if common is None or common.head is None:
        return None
    kind = view.setup.type(store.entry_by_id(view.conn, entry).type)
    return above(view, kind, revisions.content(view.conn, common.head).fields)


def above(view: View, kind: ContentType, values: Mapping[str, Any]) -> int | None:
    """The entry below which shared values place theirs; None at the top, and as long as that one is put away."""
    uuid, _ = contenttypes.placement(kind, values)
    parent = store.entry(view.conn, uuid) if uuid else None
    return parent.id if parent and not parent.put_away else None


def section_of(view: View, uuid: Any) -> int | None:
    """The nearest section at or above an entry."""
    row = store.entry(view.conn, uuid) if isinstance(uuid, str) else None
    return _nearest(view, row.id if row else None)


def _nearest(view: View, at: int | None) -> int | None:
    seen: set[int] = set()
    while at is not None and at not in seen:
        seen.add(at)
        if view.setup.type(store.entry_by_id(view.conn, at).type).section:
            return at
        at = parent_of(view, at)
    return None


def around(view: View, section: int | None) -> tuple[str, ...]:
    """A section and those above it, by UUID, the nearest first."""
    if section is None:
        return ()
    return tuple(sections.around(view.conn, section))


def follow(act: Act, entry_id: int) -> list[int]:
    """Let an entry's section, and that of all below it, follow the placement of the draft. Moving between sections needs a
    grant at both ends. Returns the entries whose section changed, or what lies around it."""
    entry = store.entry_by_id(act.conn, entry_id)
    kind = act.setup.type(entry.type)
    above = _nearest(act, parent_of(act, entry_id))
    section = entry_id if kind.section else above
    inside = kind.section and _is_within(act, entry_id, above)
    if section == entry.section and (not kind.section or inside):
        return []
    if entry.section is not None or section is not None:
        goal = above if kind.section else section
        about = Subject(
            entry.type,
            entry.source_locale,
            goal if goal is not None else section,
            own=entry.actor == act.identity.id,
            within=store.within(act.conn, goal),
        )
        permission.require(act, "write", about)
    below = sections.below(act.conn, entry_id)
    store.set_section(act.conn, entry_id, section)
    changed = [entry_id]
    if kind.section:
        _stand_within(act, entry_id, above)
    for row in below:
        if act.setup.type(row.type).section:
            _stand_within(act, row.id, _nearest(act, parent_of(act, row.id)))
            changed.append(row.id)
        elif (now := _nearest(act, parent_of(act, row.id))) != row.section:
            store.set_section(act.conn, row.id, now)
            changed.append(row.id)
        elif kind.section:
            changed.append(row.id)
    return changed


def _is_within(view: View, section: int, above: int | None) -> bool:
    have = {*store.within(view.conn, section)}
    return have == ({above, *store.within(view.conn, above)} if above is not None else set())


def _stand_within(act: Act, section: int, above: int | None) -> None:
    sections.stand_alone(act.conn, section)
    if above is None:
        return
    sections.lie_in(act.conn, above, section)
    sections.lie_in_all_of(act.conn, section, above)
