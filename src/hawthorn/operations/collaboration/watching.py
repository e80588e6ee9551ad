"""What those who look at a preview are told: that something changed which it may show."""

from __future__ import annotations

from collections.abc import Iterable

from hawthorn.operations.collaboration import news
from hawthorn.operations.collaboration.news import About
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.runtime.act import View
from hawthorn.store import events


def concerned(view: View, where: Place, about: Iterable[About]) -> bool:
    """Whether any of these is something that a preview may show: an entry inside its limits, or what such entries show."""
    for entry in about:
        kind = view.setup.types.get(entry.type)
        part = kind is not None and (kind.common or kind.menu or kind.file is not None)
        layout = kind is not None and any(k.layout == kind.name for k in view.setup.types.values())
        if part or layout or where.holds(entry, entry.within):
            return True
    return False


def changed_since(view: View, where: Place, since: int) -> tuple[int, bool]:
    """How far the log is, and whether anything after a sequence changed what a preview may show."""
    end = events.last(view.conn)[0]
    at = since or end
    while at < end:
        found = news.read(view, at)
        if any(concerned(view, where, event.about) for event in found.events):
            return end, True
        at = found.upto if found.upto > at else end
    return end, False
