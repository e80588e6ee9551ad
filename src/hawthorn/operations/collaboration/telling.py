"""What one person is told of an event, and what every kind of telling shares."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from hawthorn.core.access import Subject
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.operations.translation import translation
from hawthorn.store import dispatches, entries, jobs, people
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
    locale: str = ""
    """The entry that it is about, and in which locale; else it is about the job or the dispatch that its facts name."""

    def may_be_known(self, theirs: View) -> bool:
        """Whether whoever looks may see what it is about."""
        if self.entry:
            return may_see(theirs, entry=self.entry, locale=self.locale)
        return may_see(theirs, job=self.facts.get("job", ""), dispatch=self.facts.get("dispatch", ""))

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
Sees = Callable[[View], bool]
"""Whether somebody may see something, asked of what they see."""


def facts_of(event: Event, payload: Payload) -> dict[str, Any]:
    """What the words about an edition name: what the event says, by whom, and the note that came with it as a paragraph."""
    note = payload.get("note")
    return {**payload, "by": event.name, "remark": said("notifications.note", note=note) if note else ""}


_ANYTHING = Subject()


def may_see(theirs: View, *, entry: str = "", locale: str = "", job: str = "", dispatch: str = "") -> bool:
    """Whether whoever looks may see an entry in a locale (in any where none is named), a job and a dispatch, each by its UUID; what is not there any
    more hides nothing."""
    row = entries.even_removed(theirs.conn, entry) if entry else None
    if row is not None and not permission.readable(theirs, row, locale or None):
        return False
    work = jobs.by_uuid(theirs.conn, job) if job else None
    if work is not None and not translation.readable(theirs, work):
        return False
    going = dispatches.by_uuid(theirs.conn, dispatch) if dispatch else None
    return going is None or permission.whole(theirs, going.id)


def seeing(**what: str) -> Sees:
    """The same as a question that is asked of each."""
    return lambda theirs: may_see(theirs, **what)


def answering(
    view: View, actor: int, verb: str, about: Subject = _ANYTHING, sees: Sees = seeing()
) -> list[int]:
    """Whoever answers for something; where they have left, or may not see it any more, those who may do as much in their stead: somebody always hears of
    it."""

    def hears(one: int) -> bool:
        return people.actor(view.conn, one) is not None and sees(permission.seen_by(view, one))

    if hears(actor):
        return [actor]
    return [one.id for one in permission.people_who(view, verb, about) if hears(one.id)]
