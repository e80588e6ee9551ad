"""How the museum's people work together: strands beside a draft, comments, assignments, and a workflow where facts are checked."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from hawthorn.demo.museum import DESK, PAGES, WORKFLOWS, Assigned
from hawthorn.operations.collaboration import assignments, comments
from hawthorn.operations.collaboration.comments import Quote
from hawthorn.operations.content import entries, strands
from hawthorn.operations.release import workflows
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.views import show
from hawthorn.store import entries as entry_store

if TYPE_CHECKING:
    from hawthorn.demo.seeding import Museum


def forked(museum: Museum) -> None:
    """A strand that meets the draft in one sentence, one that does not, and one that was merged."""
    lamp, bell = museum.ids["The harbour lamp"], museum.ids["The fog bell"]
    body = _body(museum, lamp)
    for name, note in (("Shorter", "For the small panel"), ("Spring wording", "Asked for by the guides")):
        museum.do("wim", lambda a, n=name, t=note: strands.fork(a, lamp, "en", n, None, t))  # type: ignore[misc]
    shorter = body.replace("<li>Height: 84 cm</li>", "").replace(" that could be seen for nine miles", "")
    _save(museum, "wim", lamp, "Shorter", {"body": shorter, "year": 1842})
    spring = body.replace("whale oil up from", "rape oil up out of").replace("31 kg", "30 kg")
    _save(museum, "nell", lamp, "Spring wording", {"body": spring})
    museum.save("oda", "The harbour lamp", {"body": body.replace("whale oil", "colza oil")}, "It was colza")
    museum.do("nell", lambda a: strands.fork(a, bell, "en", "Sunday hours", None, "For the leaflet"))
    rung = _body(museum, bell).replace("on the first Sunday", "at noon on the first Sunday")
    _save(museum, "nell", bell, "Sunday hours", {"body": rung})
    etag = museum.desk.read(museum.who("oda"), lambda v: strands.propose(v, bell, "en", "Sunday hours").etag)
    museum.do("oda", lambda a: strands.accept(a, bell, "en", "Sunday hours", etag))


def discussed(museum: Museum) -> None:
    """A longer workflow where facts are checked, comments, and assignments."""
    museum.do("ida", lambda a: workflows.define(a, WORKFLOWS.checked), minutes=5)
    museum.do("ida", lambda a: workflows.set_choices(a, WORKFLOWS.choices), minutes=5)
    deck = PAGES.exhibition["title"]
    museum.submit("nell", deck, "The loans are agreed.")
    museum.sign("oda", deck, "Reads well. Rhea, please look at the dates.")
    for handle, title, field, words, text, answers in DESK.comments:
        made = museum.do(
            handle,
            lambda a, t=title, f=field, w=words, s=text: comments.make(  # type: ignore[misc]
                a, museum.ids[t], "en", s, f, Quote(w) if w else None
            ),
            minutes=20,
        )
        for by, said in answers:
            museum.do(by, lambda a, m=made, s=said: comments.reply(a, m, s), minutes=15)  # type: ignore[misc]
        if title in DESK.settled:
            museum.do(handle, lambda a, m=made: comments.resolve(a, m), minutes=5)  # type: ignore[misc]
    assigned(museum, [one for one in DESK.assigned if one.days >= 0])


def overdue(museum: Museum) -> None:
    """What somebody was to do by a day that is over by now."""
    assigned(museum, [one for one in DESK.assigned if one.days < 0])


def assigned(museum: Museum, some: Sequence[Assigned]) -> None:
    """Assign entries, due so many days from now."""
    for by, to, title, days, note in some:
        due = museum.day(days)
        museum.do(
            by,
            lambda a, t=title, h=to, d=due, n=note: assignments.assign(a, museum.ids[t], "en", h, d, n),  # type: ignore[misc]
            minutes=10,
        )


def _body(museum: Museum, uuid: str) -> str:
    shown = museum.desk.read(museum.who("ida"), lambda v: show.entry(v, uuid, "en"))
    return str(shown["fields"]["body"])


def _save(museum: Museum, handle: str, uuid: str, name: str, patch: dict[str, Any]) -> None:
    def do(act: Act) -> None:
        row = entry_store.entry(act.conn, uuid)
        assert row is not None
        entries.save(act, uuid, "en", patch, entries.current_base(act, row.id, "en", name), "", name)

    museum.do(handle, do)
