"""The calls of views: what a page or a command shows at once."""

from __future__ import annotations

from hawthorn import wire
from hawthorn.client.requests import Request, call, entry_at, into, page


class ViewsCalls:
    """The calls of views, without a way to send them."""

    @call
    def my_work(self) -> Request[wire.views.MyWork]:
        """What waits for the caller."""
        return Request("GET", "/api/my-work", into(wire.views.MyWork))

    @call
    def history(
        self, id: str, locale: str, *, limit: int = 50, cursor: str = ""
    ) -> Request[wire.views.History]:
        """Revisions, standings and events, newest first."""
        params = page(limit, cursor)
        return Request("GET", entry_at(id, locale, "history"), into(wire.views.History), params=params)

    @call
    def compare(
        self, id: str, locale: str, *, before: str = "release", after: str = "draft"
    ) -> Request[wire.content.Comparison]:
        """Two revisions (numbers), stages (names), `draft` or strands (`strand:` and a name); `fr@draft` for another locale."""
        params = {"before": before, "after": after}
        return Request("GET", entry_at(id, locale, "compare"), into(wire.content.Comparison), params=params)

    @call
    def events(
        self,
        *,
        kind: str = "",
        entry: str = "",
        dispatch: str = "",
        person: str = "",
        since: str = "",
        until: str = "",
        cursor: str = "",
        limit: int = 50,
    ) -> Request[wire.views.EventPage]:
        """The event log, newest first."""
        params = {
            "kind": kind,
            "entry": entry,
            "dispatch": dispatch,
            "person": person,
            "since": since,
            "until": until,
            "cursor": cursor,
            "limit": limit,
        }
        return Request("GET", "/api/events", into(wire.views.EventPage), params=params)

    @call
    def figures(
        self, *, weeks: int = 13, type: str = "", section: str = "", locale: str = "", person: str = ""
    ) -> Request[wire.figures.Figures]:
        """How long the work stays where, what waits, what came back, what went out, and how far translations keep up."""
        params = {"weeks": weeks, "type": type, "section": section, "locale": locale, "person": person}
        return Request("GET", "/api/figures", into(wire.figures.Figures), params=params)

    @call
    def behind_figures(
        self,
        figure: wire.figures.FigureKind = "stay",
        *,
        stage: str = "",
        week: str = "",
        weeks: int = 13,
        type: str = "",
        section: str = "",
        locale: str = "",
        person: str = "",
        limit: int = 50,
        cursor: str = "",
    ) -> Request[wire.figures.FigureLines]:
        """The entries that a number stands for, the latest first."""
        asked = {"figure": figure, "stage": stage, "week": week, "weeks": weeks}
        about = {"type": type, "section": section, "locale": locale, "person": person}
        params = {**asked, **about, **page(limit, cursor)}
        return Request("GET", "/api/figures/behind", into(wire.figures.FigureLines), params=params)
