"""The calls of release: review, workflows and dispatches."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, entry_at, into, nothing, once, page


class ReleaseCalls:
    """The calls of release, without a way to send them."""

    @call
    def submit(self, id: str, locale: str, note: str = "") -> Request[wire.views.Entry]:
        """Submit the draft for review."""
        return Request("POST", entry_at(id, locale, "submit"), into(wire.views.Entry), json={"note": note})

    @call
    def take_back(self, id: str, locale: str) -> Request[wire.views.Entry]:
        """Take a submission back."""
        return Request("POST", entry_at(id, locale, "take-back"), into(wire.views.Entry))

    @call
    def sign_off(
        self, id: str, locale: str, revision: int, note: str = "", common_revision: int | None = None
    ) -> Request[wire.views.Entry]:
        """Sign off exactly the revision that was looked at, with that of the shared fields (`Review.common_revision`; 0 for none)."""
        return Request(
            "POST",
            entry_at(id, locale, "sign"),
            into(wire.views.Entry),
            json={"revision": revision, "common_revision": common_revision, "note": note},
        )

    @call
    def send_back(self, id: str, locale: str, reason: str) -> Request[wire.views.Entry]:
        """Send a submission back with a reason."""
        return Request(
            "POST", entry_at(id, locale, "send-back"), into(wire.views.Entry), json={"reason": reason}
        )

    @call
    def check_dispatch(
        self,
        moves: Sequence[Mapping[str, Any]],
        *,
        when: Mapping[str, str] | None = None,
        with_needs: bool = False,
        override_quiet: bool = False,
    ) -> Request[wire.release.DispatchCheck]:
        """What a dispatch would do and what blocks it."""
        body = {
            "moves": list(moves),
            "when": when,
            "with_needs": with_needs,
            "override_quiet": override_quiet,
        }
        return Request("POST", "/api/dispatches/check", into(wire.release.DispatchCheck), json=body)

    @call
    def dispatch(
        self,
        moves: Sequence[Mapping[str, Any]],
        *,
        when: Mapping[str, str] | None = None,
        name: str = "",
        note: str = "",
        with_needs: bool = False,
        open: bool = False,
        owner: str = "",
        partial: bool = False,
        override_quiet: bool = False,
        until: Mapping[str, str] | None = None,
        key: str | None = None,
    ) -> Request[wire.release.Dispatch]:
        """Release or withdraw; now, or as planned with `{"wall": …, "zone": …}` or `{"instant": …}`, and `until` another time; or
        `open`, to be put together over time."""
        body = {
            "moves": list(moves),
            "when": when,
            "name": name,
            "note": note,
            "with_needs": with_needs,
            "open": open,
            "owner": owner,
            "partial": partial,
            "override_quiet": override_quiet,
            "until": until,
        }
        return Request("POST", "/api/dispatches", into(wire.release.Dispatch), json=body, headers=once(key))

    @call
    def check_spread(
        self, moves: Sequence[Mapping[str, Any]], begins: str, spread: Mapping[str, Any] | None = None
    ) -> Request[wire.release.SpreadCheck]:
        """When each of several entries would go one after another: `spread` may say `zone`, `rule`, `skip` and `fold`."""
        body = {"moves": list(moves), "begins": begins, **(spread or {})}
        return Request("POST", "/api/dispatches/spread/check", into(wire.release.SpreadCheck), json=body)

    @call
    def spread(
        self,
        moves: Sequence[Mapping[str, Any]],
        begins: str,
        spread: Mapping[str, Any] | None = None,
        *,
        key: str | None = None,
    ) -> Request[wire.release.SpreadMade]:
        """Plan several entries one after another: `spread` may say `zone`, `rule`, `skip`, `fold`, `name`, `note` and
        `override_quiet`."""
        body = {"moves": list(moves), "begins": begins, **(spread or {})}
        made = into(wire.release.SpreadMade)
        return Request("POST", "/api/dispatches/spread", made, json=body, headers=once(key))

    @call
    def dispatches(
        self,
        *,
        since: str = "",
        until: str = "",
        state: str = "",
        person: str = "",
        type: str = "",
        locale: str = "",
        section: str = "",
        limit: int = 0,
        cursor: str = "",
    ) -> Request[wire.release.DispatchList]:
        """Dispatches by when they go or went, in order of time; or those of a state that wait, newest first. They can be narrowed
        to who answers for them, and to what any of their moves is about."""
        about = {"person": person, "type": type, "locale": locale, "section": section}
        params = {"since": since, "until": until, "state": state, **about} | page(limit, cursor)
        return Request("GET", "/api/dispatches", into(wire.release.DispatchList), params=params)

    @call
    def dispatch_shown(self, id: str) -> Request[wire.release.Dispatch]:
        """A dispatch with its moves and what would hold it."""
        return Request("GET", f"/api/dispatches/{quote(id)}", into(wire.release.Dispatch))

    @call
    def change_dispatch(
        self,
        id: str,
        *,
        name: str | None = None,
        note: str | None = None,
        owner: str | None = None,
        partial: bool | None = None,
    ) -> Request[wire.release.Dispatch]:
        """Give a dispatch another name, note or owner (a handle), or say whether what cannot go holds back the rest."""
        change = {"name": name, "note": note, "owner": owner, "partial": partial}
        return Request("PATCH", f"/api/dispatches/{quote(id)}", into(wire.release.Dispatch), json=change)

    @call
    def add_moves(
        self, id: str, moves: Sequence[Mapping[str, Any]], *, below: bool = False
    ) -> Request[wire.release.Dispatch]:
        """Put moves into an open dispatch, with what lies below their entries if that is wanted."""
        return _dispatch(id, "moves", {"moves": list(moves), "below": below})

    @call
    def drop_moves(self, id: str, named: Sequence[Mapping[str, str]]) -> Request[wire.release.Dispatch]:
        """Take entries out of an open dispatch: `{"id": …, "locale": …}`, without a locale in each."""
        return _dispatch(id, "moves/drop", {"moves": list(named)})

    @call
    def check_open_dispatch(
        self,
        id: str,
        *,
        when: Mapping[str, str] | None = None,
        with_needs: bool = False,
        override_quiet: bool = False,
    ) -> Request[wire.release.DispatchCheck]:
        """What a dispatch that has not gone would do, and what blocks it."""
        body = {"when": when, "with_needs": with_needs, "override_quiet": override_quiet}
        return Request(
            "POST", f"/api/dispatches/{quote(id)}/check", into(wire.release.DispatchCheck), json=body
        )

    @call
    def plan_dispatch(
        self,
        id: str,
        when: Mapping[str, str] | None = None,
        *,
        with_needs: bool = False,
        override_quiet: bool = False,
    ) -> Request[wire.release.Dispatch]:
        """Plan an open dispatch."""
        body = {"when": when, "with_needs": with_needs, "override_quiet": override_quiet}
        return _dispatch(id, "plan", body)

    @call
    def send_dispatch(
        self, id: str, *, with_needs: bool = False, override_quiet: bool = False
    ) -> Request[wire.release.Dispatch]:
        """Let a dispatch go now."""
        return _dispatch(id, "send", {"with_needs": with_needs, "override_quiet": override_quiet})

    @call
    def write_inside(self, dispatch: str, id: str, locale: str) -> Request[wire.views.Entry]:
        """Open an entry to be written inside an open dispatch; the answer is the entry on the strand that goes out with it."""
        path = f"/api/dispatches/{quote(dispatch)}/write"
        return Request("POST", path, into(wire.views.Entry), json={"id": id, "locale": locale})

    @call
    def submit_dispatch(self, id: str, note: str = "") -> Request[wire.release.Dispatch]:
        """Submit a dispatch for review, as one."""
        return _dispatch(id, "submit", {"note": note})

    @call
    def take_dispatch_back(self, id: str) -> Request[wire.release.Dispatch]:
        """Take a dispatch back from review."""
        return _dispatch(id, "take-back")

    @call
    def sign_dispatch(
        self, id: str, named: Sequence[Mapping[str, Any]] = (), note: str = ""
    ) -> Request[wire.release.Dispatch]:
        """Sign off what a dispatch brings: all of it, or `{"id": …, "locale": …, "revision": …}`, as it was looked at."""
        return _dispatch(id, "sign", {"moves": list(named), "note": note})

    @call
    def send_dispatch_back(self, id: str, reason: str) -> Request[wire.release.Dispatch]:
        """Send a dispatch back from review with a reason."""
        return _dispatch(id, "send-back", {"reason": reason})

    @call
    def reopen_dispatch(self, id: str) -> Request[wire.release.Dispatch]:
        """Open a dispatch again that has not gone."""
        return _dispatch(id, "reopen")

    @call
    def check_undo(self, id: str, *, take_changed: bool = False) -> Request[wire.release.UndoCheck]:
        """What undoing a dispatch would do, and what changed since it went."""
        params = {"take_changed": take_changed}
        return Request(
            "GET", f"/api/dispatches/{quote(id)}/undo", into(wire.release.UndoCheck), params=params
        )

    @call
    def undo_dispatch(
        self, id: str, *, take_changed: bool = False, note: str = "", key: str | None = None
    ) -> Request[wire.release.Dispatch]:
        """Undo a dispatch that went; the answer is the one that does."""
        body = {"take_changed": take_changed, "note": note}
        made = into(wire.release.Dispatch)
        return Request("POST", f"/api/dispatches/{quote(id)}/undo", made, json=body, headers=once(key))

    @call
    def cancel_dispatch(self, id: str) -> Request[wire.release.Dispatch]:
        """Call a dispatch off that has not gone."""
        return _dispatch(id, "cancel")

    @call
    def replan(
        self, id: str, when: Mapping[str, str], *, override_quiet: bool = False
    ) -> Request[wire.release.Dispatch]:
        """Give a planned dispatch another time."""
        return _dispatch(id, "replan", {**when, "override_quiet": override_quiet})

    @call
    def define_workflow(self, definition: Mapping[str, Any]) -> Request[wire.workflows.WorkflowSpec]:
        """Define a workflow, or a new version of one."""
        return Request("PUT", "/api/workflows", into(wire.workflows.WorkflowSpec), json=dict(definition))

    @call
    def check_workflow(self, definition: Mapping[str, Any]) -> Request[wire.workflows.WorkflowImpact]:
        """What a definition of a workflow would do to what stands."""
        return Request(
            "POST", "/api/workflows/check", into(wire.workflows.WorkflowImpact), json=dict(definition)
        )

    @call
    def end_workflow(self, name: str) -> Request[None]:
        """End a workflow that nothing follows any more."""
        return Request("DELETE", f"/api/workflows/{quote(name)}", nothing)

    @call
    def choose_workflows(self, choices: Sequence[Mapping[str, str]]) -> Request[wire.workflows.ChoicesAsk]:
        """Choose workflows by type, locale and section, in place of what was chosen."""
        body = {"choices": [dict(c) for c in choices]}
        return Request("PUT", "/api/workflows/choices", into(wire.workflows.ChoicesAsk), json=body)

    @call
    def check_choices(self, choices: Sequence[Mapping[str, str]]) -> Request[wire.workflows.WorkflowImpact]:
        """What other choices of workflows would do to what stands."""
        body = {"choices": [dict(c) for c in choices]}
        return Request("POST", "/api/workflows/choices/check", into(wire.workflows.WorkflowImpact), json=body)

    @call
    def move_on(self, id: str, locale: str) -> Request[wire.views.Entry]:
        """Let what waits go to the next stage once the gate holds."""
        return Request("POST", entry_at(id, locale, "move-on"), into(wire.views.Entry))

    @call
    def override(
        self,
        id: str,
        locale: str,
        stage: str,
        revision: int,
        reason: str,
        common_revision: int | None = None,
    ) -> Request[wire.views.Entry]:
        """Override the gate before a stage for a revision that does not meet it, with that of the shared fields
        (`GateAhead.common_revision`; 0 for none)."""
        body = {
            "stage": stage,
            "revision": revision,
            "common_revision": common_revision,
            "reason": reason,
        }
        return Request("POST", entry_at(id, locale, "override"), into(wire.views.Entry), json=body)

    @call
    def quiet_periods(self) -> Request[wire.timetable.QuietPeriods]:
        """When nothing is released."""
        return Request("GET", "/api/quiet-periods", into(wire.timetable.QuietPeriods), params={"limit": 500})

    @call
    def quiet_spans(self, since: str = "", until: str = "") -> Request[wire.timetable.QuietSpans]:
        """Each time between two instants in which nothing is released."""
        params = {"limit": 500} | {k: v for k, v in (("since", since), ("until", until)) if v}
        return Request("GET", "/api/quiet-periods/spans", into(wire.timetable.QuietSpans), params=params)

    @call
    def add_quiet_period(self, period: Mapping[str, str]) -> Request[wire.timetable.QuietPeriod]:
        """Release nothing between two wall times: `{"begins": …, "ends": …, "zone": …, "reason": …}`, and by a `rule` (RFC 5545)
        again."""
        return Request("POST", "/api/quiet-periods", into(wire.timetable.QuietPeriod), json=dict(period))

    @call
    def check_quiet_period(self, period: Mapping[str, str]) -> Request[wire.timetable.QuietEffect]:
        """When a quiet period would be next, and what is planned in that time."""
        return Request(
            "POST", "/api/quiet-periods/check", into(wire.timetable.QuietEffect), json=dict(period)
        )

    @call
    def change_quiet_period(self, id: str, period: Mapping[str, str]) -> Request[wire.timetable.QuietPeriod]:
        """Give a quiet period other times, another rule or another reason."""
        path = f"/api/quiet-periods/{quote(id)}"
        return Request("PUT", path, into(wire.timetable.QuietPeriod), json=dict(period))

    @call
    def end_quiet_period(self, id: str) -> Request[None]:
        """End a quiet period."""
        return Request("DELETE", f"/api/quiet-periods/{quote(id)}", nothing)

    @call
    def dues(
        self,
        since: str = "",
        until: str = "",
        *,
        person: str = "",
        type: str = "",
        locale: str = "",
        section: str = "",
    ) -> Request[wire.timetable.Dues]:
        """Assignments and translation jobs that are due from one day until before another."""
        about = {"person": person, "type": type, "locale": locale, "section": section}
        params = {"since": since, "until": until, "limit": 500, **about}
        return Request("GET", "/api/dues", into(wire.timetable.Dues), params=params)

    @call
    def differences(
        self, since: str = "", until: str = "", *, limit: int = 0, cursor: str = ""
    ) -> Request[wire.timetable.Differences]:
        """What readers see differently at two instants, of the past or planned."""
        params = {k: v for k, v in (("since", since), ("until", until)) if v} | page(limit, cursor)
        return Request("GET", "/api/differences", into(wire.timetable.Differences), params=params)

    @call
    def calendars(self) -> Request[wire.timetable.Calendars]:
        """The calendars that one subscribes to."""
        return Request("GET", "/api/calendars", into(wire.timetable.Calendars), params={"limit": 500})

    @call
    def add_calendar(
        self, name: str, shows: Mapping[str, Any] | None = None
    ) -> Request[wire.timetable.CalendarMade]:
        """Make a calendar to subscribe to; the answer holds its secret address, this once."""
        body = {"name": name, "shows": dict(shows or {})}
        return Request("POST", "/api/calendars", into(wire.timetable.CalendarMade), json=body)

    @call
    def renew_calendar(self, id: str) -> Request[wire.timetable.CalendarMade]:
        """Give a calendar another secret address."""
        made = into(wire.timetable.CalendarMade)
        return Request("POST", f"/api/calendars/{quote(id)}/renew", made)

    @call
    def end_calendar(self, id: str) -> Request[None]:
        """End a calendar."""
        return Request("DELETE", f"/api/calendars/{quote(id)}", nothing)


def _dispatch(id: str, act: str, body: Mapping[str, Any] | None = None) -> Request[wire.release.Dispatch]:
    """An act on a dispatch, which answers with it as it is then."""
    path = f"/api/dispatches/{quote(id)}/{act}"
    return Request("POST", path, into(wire.release.Dispatch), json=None if body is None else dict(body))
