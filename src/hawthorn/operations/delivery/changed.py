"""What a site that keeps its pages has to build anew: what changed of what is out since it last asked."""

from __future__ import annotations

from hawthorn.core import groups, positions
from hawthorn.core.limited import HIDDEN
from hawthorn.core.quick import dataclass
from hawthorn.operations.delivery import limiting, reading
from hawthorn.operations.delivery.webhooks import WIDE
from hawthorn.operations.runtime.act import View
from hawthorn.store import changes as store
from hawthorn.store import checks

MOST = 2_000
"""So many entries are named; where more changed, everything is to be read anew."""


@dataclass(frozen=True, slots=True)
class ChangedEntry:
    """An entry that came out, moved or went: whether it is there now."""

    id: str
    type: str
    there: bool


@dataclass(frozen=True, slots=True)
class Changed:
    """What changed since a position, and the one to ask from next time. `everything` says that no more can be said."""

    position: str
    everything: bool
    entries: list[ChangedEntry]
    groups: list[str]


def since(view: View, text: str) -> Changed:
    """What changed of what is out since a position; everything where none is given. Raises `Invalid` for one that is none."""
    now = checks.position(view.conn)
    told = positions.told(now)
    whole = Changed(told, True, [], [])
    if not text:
        return whole
    term, seq = positions.parse(text)
    if term != now[0] or store.any_of(view.conn, seq, WIDE):
        # Whoever took over may have gone on from an earlier event.
        return whole
    if seq >= now[1]:
        return Changed(text.strip(), False, [], [])
    found = store.entries(view.conn, seq, MOST + 1)
    if len(found) > MOST:
        return whole
    facets = store.facets(view.conn, seq)
    if "rendition" in facets:
        return whole
    entries = [
        ChangedEntry(one.uuid, one.type, one.there and not hidden)
        for one in found
        if not reading.closed(view, one.type)
        for hidden in [one.limited == HIDDEN and not limiting.is_for(view, one.id)]
        # What was never there for whoever asks is not told of.
        if not hidden or one.was
    ]
    named = [groups.entry(one.id) for one in entries]
    lists = [one.removeprefix("list:") for one in facets if one.startswith("list:")]
    named += [groups.lists(one) for one in lists if not reading.closed(view, one)]
    return Changed(told, False, entries, named + ([groups.OUTLINE] if "address" in facets else []))
