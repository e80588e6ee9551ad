"""What happened to an entry: its revisions, where they stood, and what was done, as those may know it who look."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any, TypedDict

from hawthorn.core import access
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import NotFound
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.operations.views.show import Revision
from hawthorn.store import dispatches, events, revisions, standings
from hawthorn.store import entries as store
from hawthorn.store import strands as strand_store
from hawthorn.store.entries import Entry


class HistoryRevision(Revision):
    """A revision with the ids of those that it was made from, the strand that it is on (empty for none any more), and the strands into which it was
    picked."""

    parents: list[int]
    on_draft: bool
    strand: str
    picked: list[str]


class StandingLine(TypedDict):
    """A revision that stood at a stage: from when until when readers saw it, and when that was written down."""

    stage: str
    revision: int
    since: str
    until: str | None
    committed_at: str


class Event(TypedDict):
    """Something that happened, who did it, and the facts of it (`what`, which differ by kind); `hash` binds it to those before."""

    seq: int
    at: str
    kind: str
    by: str
    by_kind: str
    locales: list[str]
    what: dict[str, Any]
    hash: str


class History(TypedDict):
    """What happened to an edition and its entry, newest first, and where the next page begins."""

    revisions: list[HistoryRevision]
    next: str
    standings: list[StandingLine]
    events: list[Event]


def history(view: View, uuid: str, locale: str, before: int = 1 << 62, limit: int = 50) -> History:
    """The revisions of an edition and everything that happened to the entry, newest first."""
    row = permission.find(view, uuid, locale if locale != COMMON else None)
    tag = COMMON if locale == COMMON else view.setup.locale(locale)
    edition = store.edition(view.conn, row.id, tag)
    if edition is None:
        raise NotFound("show.no_edition", locale=tag)
    made = revisions.history(view.conn, edition.id, before, limit + 1)
    more = str(made[limit - 1].number) if len(made) > limit else ""
    made = made[:limit]
    picked = strand_store.picks(view.conn, edition.id)
    stages = standings.history(view.conn, edition.id)
    return {
        "revisions": [
            {
                "id": r.id,
                "number": r.number,
                "at": iso(r.at),
                "author": r.author,
                "author_kind": r.actor_kind,
                "note": r.note,
                "origin": r.origin,
                "parents": json.loads(r.parents),
                "on_draft": r.strand_name == store.DRAFT_STRAND,
                "strand": r.strand_name or "",
                "picked": picked.get(r.id, []),
            }
            for r in made
        ],
        "next": more,
        "standings": [
            {
                "stage": s.stage_name,
                "revision": s.number,
                "since": iso(s.since),
                "until": iso(s.until) if s.until else None,
                "committed_at": iso(s.committed_at),
            }
            for s in stages
        ],
        "events": [
            shown
            for e in events.about(view.conn, row.id, 1 << 62, limit)
            if (shown := event(view, e, uuid)) is not None
        ],
    }


def event(view: View, row: events.Event, about: str = "", *, whole: bool = False) -> Event | None:
    """An event for the wire; None for one of a locale that may not be read.

    For whoever may read one entry alone (`about`), what it did to others is left out; what tells of entries that may not
    be read, unless the log is theirs to read (`whole`).
    """
    what = json.loads(row.json) if row.json else {}
    if not whole and not access.reads_all(view.identity):
        told = _told(view, row, what, about)
        if told is None:
            return None
        what = told
    if about:
        what.pop("stood", None)
        for many in ("moves", "held"):
            if many in what:
                what[many] = [one for one in what[many] if one["entry"] == about]
    return {
        "seq": row.seq,
        "at": iso(row.at),
        "kind": row.kind,
        "by": row.name,
        "by_kind": row.actor_kind,
        "locales": _locales_told(what),
        "what": what,
        "hash": row.hash,
    }


def _locales_told(what: Mapping[str, Any]) -> list[str]:
    """The locales of what an event says, in which the shared fields count as none of their own."""
    said = [what.get("locale")]
    for many in ("moves", "jobs"):
        said += [one.get("locale") for one in what.get(many, ()) if isinstance(one, dict)]
    return sorted({tag for tag in said if isinstance(tag, str) and tag != COMMON})


def _told(view: View, row: events.Event, what: dict[str, Any], about: str) -> dict[str, Any] | None:
    """What of an event may be told: all of it where all that it is about may be read; None where nothing of it may be known."""
    if row.kind.startswith("comment.") and "dispatch" in what:
        about_all = dispatches.by_uuid(view.conn, what["dispatch"])
        return what if about_all is not None and permission.whole(view, about_all.id) else {}
    locale = what.get("locale")
    locales = [locale] if isinstance(locale, str) else [m["locale"] for m in what.get("moves", ())]
    locales += [j["locale"] for j in what.get("jobs", ()) if isinstance(j, dict) and "locale" in j]
    if row.kind.startswith(("commission.", "job.")):
        locales.append("")
    entries_of = [store.entry_by_id(view.conn, e) for e in events.entries_of(view.conn, row.seq, 2_000)]

    def seen(one: Entry, tag: str | None) -> bool:
        return permission.readable(view, one, one.source_locale if tag == "" else tag)

    if about and isinstance(locale, str) and not any(seen(e, locale) for e in entries_of if e.uuid == about):
        return None
    return what if all(seen(e, tag) for e in entries_of for tag in locales or [None]) else {}
