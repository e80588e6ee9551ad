"""Whom what happens to translations concerns: translators, whoever commissioned them, and those who accept what returns."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from hawthorn.core.access import Subject
from hawthorn.operations.collaboration.telling import (
    Notification,
    Payload,
    Telling,
    answering,
    facts_of,
    seeing,
)
from hawthorn.operations.runtime.act import View
from hawthorn.operations.translation import translation
from hawthorn.store import jobs
from hawthorn.store.events import Event


def _commissioned(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    """To each person who is named as the translator of a job."""
    for job in payload["jobs"]:
        if job.get("translator") is not None:
            told = {**facts_of(event, payload), **job}
            path = f"/translation/{job['job']}/table"
            yield Notification(job["translator"], "translation", "to_translate", told, path)


def _returned(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    # What goes and comes by itself is told of when somebody is to decide.
    if (
        payload.get("by_itself")
        and payload["open"]
        and not any(payload[how] for how in ("conflict", "drifted", "gone"))
    ):
        return
    job = jobs.by_uuid(view.conn, payload["job"])
    to = translation.who_may(view, "accept", job) if job is not None else set[int]()
    for actor in sorted(to | {payload["commissioned_by"]}):
        yield Notification(actor, "translation", "returned", payload, f"/translation/{payload['job']}")


def _to_commissioner(code: str) -> Telling:
    """What is said to whoever commissioned a job, or to those who could have where they have left."""

    def tell(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
        about = Subject(locale=payload["locale"])
        for actor in answering(
            view, payload["commissioned_by"], "commission", about, seeing(job=payload["job"])
        ):
            path = f"/translation/{payload['job']}"
            yield Notification(actor, "translation", code, facts_of(event, payload), path)

    return tell


def _to_those(named: Callable[[Payload], Iterable[int]], code: str) -> Telling:
    """What is said to the people whom the event names, about the table of a job."""

    def tell(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
        for actor in named(payload):
            path = f"/translation/{payload['job']}/table"
            yield Notification(actor, "translation", code, facts_of(event, payload), path)

    return tell


def _assigned(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    """To whoever gets a job, whoever had it, and, of another day, whoever has it."""
    facts = facts_of(event, payload)
    path = f"/translation/{payload['job']}"
    to, was = payload["translator"], payload["was"]
    if to is not None:
        code = "to_translate" if payload["moved"] else "job_due" if payload["due"] else "job_not_due"
        yield Notification(to, "translation", code, facts, f"{path}/table")
    if payload["moved"] and was is not None:
        yield Notification(was, "translation", "job_moved", facts, path)


def _stopped(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    for actor in answering(view, payload["to"], "commission"):
        yield Notification(
            actor,
            "translation",
            "standing_stopped",
            facts_of(event, payload),
            "/translation?tab=standing",
        )


TELLING: dict[str, Telling] = {
    "commission.made": _commissioned,
    "standing-commission.stopped": _stopped,
    "job.returned": _returned,
    "job.nothing-open": _returned,
    "job.assigned": _assigned,
    "job.failed": _to_commissioner("job_failed"),
    "job.day-untold": _to_commissioner("day_untold"),
    "job.sent-back": _to_those(lambda told: told["translators"], "unit_sent_back"),
    "job.asked": _to_commissioner("asked"),
    "job.answered": _to_those(lambda told: [told["to"]], "answered"),
}
