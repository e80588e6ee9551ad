"""A person's rights: everything about them as a file, and their name taken out once they have left."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from typing import Any

from hawthorn.core.access import Subject
from hawthorn.core.errors import InTheWay, NotFound
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View, setup_changed
from hawthorn.store import passkeys, people, second_factors
from hawthorn.store import rights as store
from hawthorn.store.people import Actor


@dataclass(frozen=True, slots=True)
class Forgotten:
    """What taking somebody's name out came to: how they are known from now on, and in how many events, messages and comments it stood."""

    handle: str
    name: str
    events: int
    texts: int


def about(view: View, handle: str) -> dict[str, Any]:
    """Everything that the records hold about somebody, for themselves and for whoever sets up people: what they are, have and did, and what they were told."""
    mine = people.actor(view.conn, view.identity.id)
    if mine is None or mine.handle != handle:
        permission.require(view, "configure", Subject())
    row = _find(view, handle)
    found = store.about(view.conn, row.id)
    person = {
        "handle": row.handle,
        "name": row.name,
        "email": row.email,
        "zone": row.zone,
        "since": iso(row.created_at),
        "ended": iso(row.ended_at) if row.ended_at else None,
        "second_factor": second_factors.has_second_factor(view.conn, row.id),
        "passkeys": [one.name for one in passkeys.of(view.conn, row.id)],
    }
    return {"person": person, **{name: [_told(one) for one in rows] for name, rows in found.items()}}


def forget(act: Act, handle: str) -> Forgotten:
    """Take the name, handle and mail address of somebody who has left out of the records: out of what was told, sent and said, and out of the payloads of the log,
    whose chain still holds, as it has the hashes of what was there. What they did stays, under a name that says nothing. It cannot be undone."""
    permission.require(act, "configure", Subject())
    row = _find(act, handle)
    if row.kind != "person":
        raise InTheWay("rights.no_person", name=row.name)
    if row.ended_at is None:
        raise InTheWay("rights.still_here", name=row.name)
    new, name = f"former-{row.id}", act.keep("rights.somebody")
    if row.handle == new:
        raise InTheWay("rights.forgotten_already", name=row.name)
    said = _Names(row, new, name)
    events = 0
    for seq, body in store.payloads(act.conn, said.words):
        after = json.dumps(said.without(json.loads(body)), ensure_ascii=False, separators=(",", ":"))
        if after != body:
            store.set_payload(act.conn, seq, after)
            events += 1
    texts = 0
    for table, column, id, text in store.texts(act.conn, said.words):
        if (without := said.in_text(text)) != text:
            store.set_text(act.conn, table, column, id, without)
            texts += 1
    for table, key, text in store.kept(act.conn, said.words):
        store.set_kept(act.conn, table, key, said.in_json(text))
    store.rename(act.conn, row.id, new, name)
    if store.rename_where_named(act.conn, row.handle, new):
        setup_changed(act)
    act.event("person.forgotten", [], {"handle": new, "events": events, "texts": texts})
    return Forgotten(new, name, events, texts)


class _Names:
    """What somebody is called, and what stands there instead."""

    def __init__(self, row: Actor, handle: str, name: str) -> None:
        self._instead = {one: new for one, new in ((row.email, ""), (row.name, name)) if one}
        self._handle, self._new = row.handle, handle
        self.words = [*self._instead, row.handle]
        self._pattern = re.compile(
            "|".join(
                [
                    *(rf"(?<!\w){re.escape(one)}(?!\w)" for one in self._instead),
                    rf"(?<![\w@])@{re.escape(row.handle)}(?![\w-])",
                ]
            )
        )

    def in_text(self, text: str) -> str:
        """A text with the name, the address and mentions replaced."""
        return self._pattern.sub(lambda found: self._instead.get(found[0], f"@{self._new}"), text)

    def in_json(self, text: str) -> str:
        """The same of what is kept as JSON, or is a text by itself."""
        try:
            value = json.loads(text)
        except ValueError:
            return self.in_text(text)
        return json.dumps(self.without(value), ensure_ascii=False, separators=(",", ":"))

    def without(self, value: Any) -> Any:
        """A payload in which they are not named: a text that is the handle, and texts with the name in them."""
        if isinstance(value, str):
            return self._new if value == self._handle else self.in_text(value)
        if isinstance(value, Mapping):
            return {name: self.without(one) for name, one in value.items()}
        return [self.without(one) for one in value] if isinstance(value, list) else value


def _find(view: View, handle: str) -> Actor:
    row = people.by_handle(view.conn, handle) or people.ended(view.conn, handle)
    if row is None:
        raise NotFound("rights.nobody", handle=handle)
    return row


def _told(row: Mapping[str, Any]) -> dict[str, Any]:
    """A row with its instants and what it keeps as JSON as people and programs read them."""
    out: dict[str, Any] = {}
    for name, value in row.items():
        if name in store.TIMES and isinstance(value, int):
            out[name] = iso(value) if value else None
        elif name in store.JSON and isinstance(value, str):
            out[name] = json.loads(value)
        else:
            out[name] = value
    return out
