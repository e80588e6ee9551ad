"""Entries as they are at another instant: what stood of them or will stand, and what was drafted. Of the past from the records, of the
future from what is planned."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from hawthorn.core import timeline
from hawthorn.operations.release import foreseen
from hawthorn.operations.release.foreseen import Stand
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries, revisions, standings
from hawthorn.store.entries import Edition


def instant_of(text: str) -> int | None:
    """The instant that was asked for: a day or RFC 3339; None for now."""
    return timeline.day_or_instant(text) if text else None


def stand(view: View, editions: Iterable[int], at: int | None) -> Stand:
    """What stands of some editions at an instant, by edition and stage."""
    ids = list(editions)
    if at is None:
        return standings.now_at(view.conn, ids)
    if at <= view.now:
        return standings.stood_at(view.conn, ids, at)
    ahead = foreseen.by(view, {entry for entry, _ in entries.of_editions(view.conn, ids).values()}, at)
    return standings.now_at(view.conn, ids) | (ahead or {})


def drafted(view: View, editions: Mapping[str, Edition], at: int | None) -> dict[str, Edition]:
    """Editions, by locale, with the draft that each had at an instant; without those that had none yet. What will be drafted is what is
    drafted now."""
    if at is None or at > view.now:
        return dict(editions)
    heads = revisions.drafts_at(view.conn, [e.id for e in editions.values()], at)
    return {
        tag: replace(one, head=heads[one.id].id, head_number=heads[one.id].number)
        for tag, one in editions.items()
        if one.id in heads
    }
