"""Calendars that somebody subscribes to: at a secret address, with what they may read at each look."""

from __future__ import annotations

import json
import secrets

from hawthorn.core import naming
from hawthorn.core.errors import FieldProblem, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import logging_in, permission
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.operations.views import timetable
from hawthorn.operations.views.timetable import Item, Shows
from hawthorn.store import calendars as store
from hawthorn.store import people
from hawthorn.store.calendars import Calendar

MOST = 30
"""So many anybody has."""


@dataclass(frozen=True, slots=True)
class Read:
    """A calendar as whoever has its address reads it."""

    uuid: str
    name: str
    items: list[Item]


def mine(view: View) -> list[Calendar]:
    """Those of whoever asks."""
    return store.of_actor(view.conn, view.identity.id)


def find(view: View, uuid: str) -> Calendar:
    """One of whoever asks; raises `NotFound`."""
    found = store.by_uuid(view.conn, view.identity.id, uuid)
    if found is None:
        raise NotFound("calendars.not_there", id=uuid)
    return found


def shows(calendar: Calendar) -> Shows:
    """What one shows."""
    return Shows.of(json.loads(calendar.shows))


def add(act: Act, name: str, wanted: Shows) -> tuple[str, str]:
    """Make a calendar of what whoever makes it may read, whenever it is read; returns its UUID and what is secret of its address."""
    permission.require_somewhere(act, "read")
    line = naming.line("name", name)
    if not line:
        raise Invalid([FieldProblem("name", said("common.missing"))])
    if len(mine(act)) >= MOST:
        raise Invalid("calendars.too_many", most=MOST)
    wanted = timetable.checked(act, wanted)
    uuid, token = new_uuid(act.now), secrets.token_urlsafe(24)
    digest = logging_in.hashed(token)
    store.add(act.conn, uuid, act.identity.id, line, timetable.kept(wanted), digest, act.now)
    act.event("calendar.added", [], {"calendar": uuid, "name": line})
    return uuid, token


def renew(act: Act, uuid: str) -> str:
    """Give one another address; nothing is at the one before any more. Returns what is secret of it."""
    one = find(act, uuid)
    token = secrets.token_urlsafe(24)
    store.move(act.conn, one.id, logging_in.hashed(token))
    act.event("calendar.renewed", [], {"calendar": uuid, "name": one.name})
    return token


def end(act: Act, uuid: str) -> None:
    """End one: nothing is at its address any more."""
    one = find(act, uuid)
    store.end(act.conn, one.id, act.now)
    act.event("calendar.ended", [], {"calendar": uuid, "name": one.name})


def read(view: View, token: str) -> Read:
    """The calendar at a secret address, with what its owner may read now. Raises `NotFound`, also for somebody who has left."""
    found = store.by_token(view.conn, logging_in.hashed(token))
    owner = people.actor(view.conn, found.actor) if found is not None else None
    if found is None or owner is None or owner.ended_at is not None:
        raise NotFound("calendars.nothing_here")
    own = permission.seen_by(view, found.actor)
    return Read(found.uuid, found.name, timetable.items(own, shows(found)))
