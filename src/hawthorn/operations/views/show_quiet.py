"""Quiet periods as those see them who plan around them."""

from __future__ import annotations

from typing import TypedDict

from hawthorn.core.timeline import iso
from hawthorn.operations.release import quiet_periods
from hawthorn.operations.release.quiet_periods import Span, Times
from hawthorn.operations.runtime.act import View
from hawthorn.store.quiet_periods import KeptPeriod


class QuietPeriod(TypedDict):
    """A period as it was set up (wall times in its zone, and the rule by which it comes again), and when it is next."""

    id: str
    reason: str
    begins: str
    ends: str
    zone: str
    rule: str
    by: str
    at: str
    since: str | None
    until: str | None


class QuietSpan(TypedDict):
    """One time that a period takes."""

    id: str
    reason: str
    since: str
    until: str


class NamedDispatch(TypedDict):
    """A dispatch by name, with when it goes."""

    id: str
    name: str
    instant: str


class QuietEffect(TypedDict):
    """When a period would be next, and what is planned within."""

    since: str | None
    until: str | None
    dispatches: list[NamedDispatch]


def period(view: View, kept: KeptPeriod) -> QuietPeriod:
    """One, with when it is next."""
    coming = quiet_periods.next_span(view, kept)
    return {
        "id": kept.uuid,
        "reason": kept.reason,
        "begins": kept.begins,
        "ends": kept.ends,
        "zone": kept.zone,
        "rule": kept.rule,
        "by": kept.by_name,
        "at": iso(kept.at),
        "since": iso(coming.since) if coming else None,
        "until": iso(coming.until) if coming else None,
    }


def span(one: Span) -> QuietSpan:
    """One time that a period takes."""
    kept = one.period
    return {
        "id": kept.uuid,
        "reason": kept.reason,
        "since": iso(one.since),
        "until": iso(one.until),
    }


def effect(view: View, times: Times) -> QuietEffect:
    """What a period would do."""
    coming, planned = quiet_periods.planned_in(view, times)
    return {
        "since": iso(coming[0]) if coming else None,
        "until": iso(coming[1]) if coming else None,
        "dispatches": [{"id": row.uuid, "name": row.name, "instant": iso(row.at)} for row in planned],
    }
