"""Log-ins for whoever sets up people: who came in, from where and by which means, who was refused and why, and what changed about how somebody gets in."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence

from hawthorn.core import timeline
from hawthorn.core.access import Subject
from hawthorn.core.errors import NotFound
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.store import events, people

WHAT: Mapping[str, Sequence[str]] = {
    "opened": ("session.opened",),
    "refused": ("session.refused",),
    "ended": ("session.ended",),
    "changed": (
        "person.connected",
        "person.disconnected",
        "person.invited",
        "person.joined",
        "person.passkey-added",
        "person.passkey-removed",
        "person.passkey-renamed",
        "person.password-changed",
        "person.roles-followed",
        "person.second-factor-off",
        "person.second-factor-on",
        "person.spare-code-used",
    ),
}
"""What there is to see, each with the kinds of events that tell of it."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """Of which log-ins is asked: of somebody (also by a name that is nobody's), of some kind, in a span of days or instants."""

    person: str = ""
    what: str = ""
    since: str = ""
    until: str = ""


@dataclass(frozen=True, slots=True)
class LogIn:
    """One of them. `source` is the address that it came from, `by` the means, `agent` the program; what is not known is empty."""

    seq: int
    at: str
    what: str
    kind: str
    handle: str
    name: str
    source: str
    by: str
    agent: str
    why: str


def page(view: View, wanted: Wanted, before: int, limit: int) -> tuple[list[LogIn], str]:
    """Log-ins, newest first, and where to go on."""
    permission.require(view, "configure", Subject())
    actor = None
    if wanted.person:
        person = people.ever(view.conn, wanted.person)
        actor = person.id if person is not None else None
        if person is None and wanted.what not in ("", "refused"):
            raise NotFound("common.nobody", handle=wanted.person)
    since = timeline.day_or_instant(wanted.since) if wanted.since else 0
    until = timeline.day_or_instant(wanted.until) if wanted.until else 1 << 62
    what = {kind: name for name, kinds in WHAT.items() for kind in kinds if wanted.what in ("", name)}
    span = since, until
    rows = events.by_kinds(
        view.conn, list(what), (actor, wanted.person) if wanted.person else None, span, before, limit
    )
    found = []
    for row in rows:
        told = json.loads(row.json) if row.json else {}
        ours = row.actor_kind == "person"
        found.append(
            LogIn(
                seq=row.seq,
                at=iso(row.at),
                what=what[row.kind],
                kind=row.kind,
                handle=str(told.get("handle") or (row.handle if ours else "")),
                name=row.name if ours else "",
                source=str(told.get("from", "")),
                by=str(told.get("by", "")),
                agent=str(told.get("with", "")),
                why=str(told.get("why", "")),
            )
        )
    return found, str(rows[-1].seq) if len(rows) == limit else ""
