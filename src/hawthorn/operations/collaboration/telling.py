"""What one person is told of an event, and what every kind of telling shares."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from hawthorn.core.access import Subject
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.store import people
from hawthorn.store.events import Event


@dataclass(frozen=True, slots=True)
class Notification:
    """What one person is told, and where to go. Catalogues have two texts for each code, under `notifications`: what it `says`
    in a line, and a `body` with what is needed to act."""

    actor: int
    kind: str
    code: str
    facts: Mapping[str, Any]
    path: str
    entry: str = ""

    @property
    def says(self) -> Message:
        """What it says in a line."""
        return said(f"notifications.{self.code}.says", **self.facts)

    @property
    def body(self) -> Message:
        """What is needed to act."""
        return said(f"notifications.{self.code}.body", **self.facts)


Payload = Mapping[str, Any]
Telling = Callable[[View, Event, Payload], Iterable[Notification]]


def facts_of(event: Event, payload: Payload) -> dict[str, Any]:
    """What the words about an edition name: what the event says, by whom, and the note that came with it as a paragraph."""
    note = payload.get("note")
    return {**payload, "by": event.name, "remark": said("notifications.note", note=note) if note else ""}


_ANYTHING = Subject()


def answering(view: View, actor: int, verb: str, about: Subject = _ANYTHING) -> list[int]:
    """Whoever answers for something; where they have left, those who may do as much in their stead: somebody always hears of it."""
    if people.actor(view.conn, actor) is not None:
        return [actor]
    return [one.id for one in permission.people_who(view, verb, about)]
