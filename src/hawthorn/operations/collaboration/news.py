"""What is told live: events as they were committed, who is here, and that somebody was told something.

It is read once for all who listen in a process. What each of them may learn is then decided by their grants from what was
read, without asking the file again.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping
from typing import Any

from hawthorn.core import access, happenings
from hawthorn.core.access import Identity, Subject
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND
from hawthorn.operations.access import permission
from hawthorn.operations.collaboration import presence
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries, events
from hawthorn.store import notifications as notification_store
from hawthorn.store.events import Event

MOST = 50
"""So many entries of one event are named; whoever shows more asks for them."""
_READ = 2_000
AT_ONCE = 500
"""So many events are read in one look."""

CONCERNS: dict[str, tuple[str, ...]] = {
    "entry.": (
        "entries",
        "outline",
        "library",
        "topics",
        "tags",
        "search-and-sharing",
        "my-work",
        "grid",
        "dispatches",
        "jobs",
        "standing-commissions",
    ),
    "review.": ("entries", "my-work", "dispatches", "grid"),
    "strand.": ("entries", "my-work", "grid"),
    "dispatch.": (
        "dispatches",
        "entries",
        "entry",
        "outline",
        "my-work",
        "grid",
        "search-and-sharing",
        "topics",
        "library",
        "commissions",
        "standing-commissions",
    ),
    "webhook.": ("webhooks",),
    "calendar.": ("calendars",),
    "quiet.": ("quiet-periods", "dispatches"),
    "commission.opened": ("commissions",),
    "commission.changed": ("commissions",),
    "commission.": ("commissions", "jobs", "grid", "entries", "my-work"),
    "job.progress": ("jobs", "grid"),
    "job.segment": ("segments", "jobs", "grid"),
    "job.": ("jobs", "commissions", "segments", "grid", "entries", "my-work"),
    "memory.": ("memories",),
    "glossary.": ("glossaries", "segments"),
    "comment.": ("my-work", "dispatch-comments"),
    "assignment.": ("my-work", "entries"),
    "preview.": ("links",),
    "template.": ("templates",),
    "list.": ("lists",),
    "folder.": ("folders", "library"),
    "library.": ("folders", "library"),
    "file.": (),
    "export.": ("packages",),
    "mapping.": ("mappings",),
    "receipt.": (),
    "backup.": ("backups",),
    "records.": (),
    "import.": ("packages", "entries", "outline", "library", "topics", "tags", "my-work", "grid"),
    "set-up.": ("types", "workflows", "roles", "sites", "bureaus", "library"),
    "type.": ("types", "entries", "entry", "my-work", "grid"),
    "set.": ("types",),
    "workflow.": ("workflows", "entries", "entry", "my-work", "dispatches"),
    "crops.": ("library",),
    "locales.": ("types", "entries", "entry", "grid", "outline", "library"),
    "bureau.": ("bureaus", "types"),
    "standing-commission.": ("standing-commissions", "commissions"),
    "sites.": ("sites",),
    "person.": ("people", "account", "entry", "log-ins"),
    "role.": ("roles", "people", "account", "entry"),
    "key.": ("keys", "assistants"),
    "assistant.": ("assistants",),
    "session.": ("sessions", "log-ins"),
    "person.passkey": ("passkeys", "people", "account", "log-ins"),
    "access.": (),
    "mail.": (),
}
"""The lists that an event concerns, by the beginning of its kind; the longest that fits counts. Names are the console's."""
_PEOPLE = (
    "export.",
    "mapping.",
    "import.",
    "webhook.",
    "calendar.",
    "person.",
    "role.",
    "key.",
    "assistant.",
    "bureau.",
    "session.",
    "access.",
    "mail.",
)
RIGHTS = ("set-up.", "person.", "role.", "key.", "assistant.", "session.", "workflow.", "sites.", "type.")
"""Kinds after which what somebody may do has to be looked at again."""


def concerns(kind: str) -> tuple[str, ...]:
    """The lists that an event of a kind concerns."""
    fitting = [start for start in CONCERNS if kind.startswith(start)]
    return CONCERNS[max(fitting, key=len)] if fitting else ("everything",)


@dataclass(frozen=True, slots=True)
class About:
    """An entry that something is about, as grants see it, for whoever looks."""

    id: int
    uuid: str
    type: str
    source_locale: str
    section: int | None
    within: tuple[int, ...]
    owner: int
    locales: tuple[str, ...]

    @property
    def entry(self) -> int:
        """Its number, as grants see it."""
        return self.id

    """Those in which there is an edition."""

    def readable(self, identity: Identity, locales: Iterable[str]) -> set[str]:
        """Those of some locales in which somebody may read it, by the rule of `permission.readable`: the common edition, and
        no locale at all (""), where any of its editions may be read."""
        if access.reads_all(identity):
            return set(locales)
        own = self.owner == identity.id

        def may(tag: str) -> bool:
            about = Subject(self.type, tag, self.section, permission.WORKING, own, self.within)
            return access.allowing(identity, "read", about) is not None

        known = any(may(one) for one in self.locales)
        return {tag for tag in locales if known and (tag in ("", "*") or may(tag))}


@dataclass(frozen=True, slots=True)
class Happened:
    """One event: its kind, who did it, and the entries that it is about with the locales, where they are known."""

    seq: int
    kind: str
    actor: int
    by: str
    about: tuple[About, ...]
    locales: tuple[str, ...] = ()
    stages: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Only:
    """What somebody wants to hear of: kinds or their beginnings (`review.`), a section (its entry), a stage; all where empty. An
    event that is about no stage is of every one."""

    kinds: tuple[str, ...] = ()
    section: int | None = None
    stage: str = ""

    def of(self, event: Happened) -> bool:
        """Whether an event is wanted."""
        if self.kinds and not event.kind.startswith(self.kinds):
            return False
        if self.stage and event.stages and self.stage not in event.stages:
            return False
        return self.section is None or any(self._in(about) for about in event.about)

    def _in(self, about: About) -> bool:
        return self.section in (about.id, about.section, *about.within)


ALL = Only()


def only(view: View, kinds: Iterable[str], section: str, stage: str) -> Only:
    """What somebody wants to hear of, by names and the UUID of a section's entry. Raises `Invalid` for what is none."""
    beginnings = happenings.beginnings(happenings.KINDS)
    wanted = tuple(kinds)
    problems = [
        FieldProblem("kinds", said("common.value_none_of", value=one, known=beginnings))
        for one in wanted
        if one not in (*happenings.KINDS, *beginnings)
    ]
    head = entries.even_removed(view.conn, section) if section else None
    if section and (head is None or not permission.readable(view, head)):
        problems.append(FieldProblem("section", said("common.no_section", id=section)))
    if stage and stage not in view.setup.stages:
        problems.append(
            FieldProblem("stage", said("common.value_none_of", value=stage, known=[*view.setup.stages]))
        )
    if problems:
        raise Invalid(problems)
    return Only(wanted, head.id if head is not None else None, stage)


Place = tuple[About, tuple[str, ...]]
"""An entry, and the locales in which somebody has it open."""


@dataclass(frozen=True, slots=True)
class News:
    """What was read at once: events, the entries at which somebody came, went or moved, and who was told something."""

    upto: int
    events: tuple[Happened, ...] = ()
    presence: tuple[Place, ...] = ()
    told: frozenset[int] = frozenset()


def read(view: View, after: int, limit: int = AT_ONCE) -> News:
    """The events after a sequence, as many as fit into one look."""
    rows = events.after(view.conn, after, limit)
    known: dict[int, About] = {}
    found = tuple(_happened(view.conn, row, known) for row in rows)
    return News(rows[-1].seq if rows else after, found)


def _happened(conn: sqlite3.Connection, row: Event, known: dict[int, About]) -> Happened:
    about = tuple(_about(conn, id, known) for id in events.entries_of(conn, row.seq, _READ))
    payload = json.loads(row.json) if row.json else {}
    stages = happenings.stages(row.kind, payload)
    return Happened(row.seq, row.kind, row.actor, row.name, about, _locales(payload), stages)


def _about(conn: sqlite3.Connection, id: int, known: dict[int, About]) -> About:
    if id not in known:
        row = entries.entry_by_id(conn, id)
        within = entries.within(conn, row.section)
        tags = tuple(e.locale for e in entries.editions(conn, id) if e.locale != COMMON)
        known[id] = About(id, row.uuid, row.type, row.source_locale, row.section, within, row.actor, tags)
    return known[id]


def _locales(said: Mapping[str, Any]) -> tuple[str, ...]:
    found = {said["locale"]} if isinstance(said.get("locale"), str) else set()
    for many in ("moves", "jobs"):
        if not found and isinstance(said.get(many), list):
            found = {one["locale"] for one in said[many] if isinstance(one, dict) and "locale" in one}
    return tuple(sorted(found))


Here = Mapping[str, tuple[Any, ...]]
"""Who is where: by the page of a browser, the entry, locale, field and whether they type."""


def who_is_here(view: View) -> tuple[Here, int | None]:
    """Who is where now, and the instant at which the first of them counts as gone unless there is a new sign of them."""
    rows = presence.all_present(view)
    ends = min((row.at + presence.LASTS + SECOND for row in rows), default=None)
    return {r.page: (r.entry, r.locale, r.field, r.typing) for r in rows}, ends


def came_and_went(view: View, before: Here, now: Here) -> tuple[Place, ...]:
    """The entries at which somebody came, went or moved to another field."""
    touched: dict[int, set[str]] = {}
    for page in {*before, *now}:
        places = before.get(page), now.get(page)
        if places[0] != places[1]:
            for place in places:
                if place is not None:
                    touched.setdefault(place[0], set()).add(place[1])
    known: dict[int, About] = {}
    return tuple((_about(view.conn, id, known), tuple(sorted(touched[id]))) for id in sorted(touched))


def for_events(news: News, identity: Identity, wanted: Only = ALL) -> list[tuple[int, dict[str, Any]]]:
    """What somebody is told of the events that they want to hear of: kind, entries, locales, the lists concerned and who did it, of
    each they may know."""
    out: list[tuple[int, dict[str, Any]]] = []
    for event in news.events:
        if not wanted.of(event):
            continue
        locales = event.locales or ("",)
        found = {about.uuid: tags for about in event.about if (tags := about.readable(identity, locales))}
        seen = list(found)
        if not (seen if event.about else _general(event, identity)):
            continue
        shown = set().union(*found.values())
        told: dict[str, Any] = {
            "kind": event.kind,
            "entries": seen[:MOST],
            "locales": [tag for tag in event.locales if tag in shown or not event.about],
            "lists": list(concerns(event.kind)),
            "by": event.by,
        }
        out.append((event.seq, {**told, "more": True} if len(seen) > MOST else told))
    return out


def _general(event: Happened, identity: Identity) -> bool:
    """Whether somebody may learn of an event that is about no entry: of people and keys, who sets them up or did it."""
    if event.kind.startswith(_PEOPLE) and event.actor != identity.id:
        return access.allowing(identity, "configure", Subject()) is not None
    return access.works(identity)


def for_presence(news: News, identity: Identity) -> list[str]:
    """The entries at which somebody came, went or moved, of those that may be read."""
    return [about.uuid for about, locales in news.presence if about.readable(identity, locales)]


def newest_told(view: View) -> int:
    """The newest notification that anybody has."""
    return notification_store.newest_id(view.conn)


def told_since(view: View, after: int, topics: Iterable[str]) -> tuple[int, frozenset[int]]:
    """The newest notification now, and who was told something since another, or saw what they were told, as far as topics say."""
    said = {int(t.removeprefix("notification.")) for t in topics if t.startswith("notification.")}
    if not said and "notification" not in topics:
        return after, frozenset()
    newest = notification_store.newest_id(view.conn)
    new = notification_store.told_after(view.conn, after) if newest > after else []
    return newest, frozenset({*said, *new})
