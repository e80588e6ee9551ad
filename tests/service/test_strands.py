"""Strands beside the draft and inside dispatches: who may do what with their shared fields, what a proposal was made from, and that no word
of theirs is ever out of reach."""

from __future__ import annotations

import random
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import Conflicting, HawthornError, NotFound, Refused, StaleRevision
from hawthorn.core.merge import Settlement
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.content import changing, entries, strands
from hawthorn.operations.release import dispatches, gathering, review, reviewing, undoing
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.views import show
from hawthorn.operations.views.health import health
from hawthorn.store import events, revisions
from tests.service.made import House

NOTE: dict[str, Any] = {
    "name": "note",
    "fields": [
        {"name": "title", "kind": "line"},
        {"name": "body", "kind": "rich"},
        {"name": "marks", "kind": "tags"},
        {"name": "tags", "kind": "tags", "shared": True},
        {"name": "place", "kind": "line", "shared": True},
    ],
}
LOCALES = ("en", "fr")


class Notes:
    """Two notes in two languages, with strands beside them."""

    def __init__(self, folder: Path) -> None:
        self.house = House(folder)
        self.house.speaks(fr="French")
        self.house.do("ida", lambda a: changing.define_type(a, NOTE))
        self.ids = [self._begun(title) for title in ("Tide", "Buoy")]
        self.words: dict[str, str] = {}
        self.sendings: list[str] = []

    def _begun(self, title: str) -> str:
        id = self.house.do(
            "ida", lambda a: entries.start(a, "note", "en", {"title": title, "body": "<p>A.</p>"})
        )
        self.save(id, "fr", "draft", title=title)
        return id

    def look(self, act: Any, who: str = "ida") -> Any:
        return self.house.desk.read(self.house.who(who), act)

    def fields(self, id: str, locale: str, strand: str = "draft") -> dict[str, Any]:
        found: dict[str, Any] = self.look(lambda v: show.entry(v, id, locale, strand))["fields"]
        return found

    def strands(self, id: str, locale: str) -> list[strands.StrandShown]:
        return self.look(lambda v: strands.listing(v, id, locale))

    def save(self, id: str, locale: str, strand: str, who: str = "ida", **patch: Any) -> None:
        self.house.do(
            who,
            lambda a: entries.save(a, id, locale, patch, entries.base_now(a, id, locale, strand), "", strand),
        )

    def write(self, id: str, locale: str, strand: str, field: str) -> None:
        """Add a word that nobody has used before to the tags of an edition, or to those that all share."""
        word = f"w{len(self.words)}"
        now = self.fields(id, locale, strand).get(field) or []
        self.save(id, locale, strand, **{field: [*now, word]})
        self.words[word] = id

    def in_the_way(self, id: str, locale: str, strand: str, who: str) -> str:
        """Why somebody cannot bring a strand in, as its proposal says."""
        found = self.house.desk.read(self.house.who(who), lambda v: strands.propose(v, id, locale, strand))
        return str(found.in_the_way or "")

    def release(self, id: str, locale: str) -> None:
        """Let a draft be signed off and go out."""
        self.house.do("ida", lambda a: review.submit(a, id, locale))
        number = self.look(lambda v: show.entry(v, id, locale))["revision"]["number"]
        self.house.do("oda", lambda a: review.sign_off(a, id, locale, number))
        self.house.do("ida", lambda a: dispatches.make(a, [MoveRequest(id, locale)]))

    def sending(self, *states: str) -> str:
        """The dispatch that was begun last of those in some states; one that is not there when there is none."""
        return next((one for one in reversed(self.sendings) if self.house.state(one) in states), "none")

    def in_reach(self, id: str) -> set[str]:
        """The words of the drafts, of open strands, and of those that were dropped and can be opened again."""
        found: list[dict[str, Any]] = []
        for locale in LOCALES:
            found.append(self.fields(id, locale))
            found += [self.fields(id, locale, s.name) for s in self.strands(id, locale) if s.open]
        with self.house.desk.db.read() as conn:
            rows = conn.execute(
                "SELECT s.head FROM entry e JOIN edition d ON d.entry = e.id JOIN strand s ON s.edition = d.id "
                "WHERE e.uuid = ? AND s.ended = 'dropped'",
                (id,),
            ).fetchall()
            found += [dict(revisions.content(conn, row[0]).fields) for row in rows]
        return {word for one in found for field in ("marks", "tags") for word in one.get(field) or []}

    def astray(self) -> list[Any]:
        """Names of open strands that shared fields have and no language, or the other way round, or whose dispatch has ended."""
        other = "SELECT 1 FROM edition x JOIN strand o ON o.edition = x.id AND o.name = s.name AND o.closed_at IS NULL WHERE x.entry = d.entry"
        with self.house.desk.db.read() as conn:
            return conn.execute(
                "SELECT s.name, d.locale FROM strand s JOIN edition d ON d.id = s.edition LEFT JOIN dispatch p ON p.id = s.dispatch "
                "WHERE s.closed_at IS NULL AND s.name <> 'draft' AND (p.state NOT IN ('open', 'planned', 'held', 'failed') "
                f"OR NOT EXISTS ({other} AND (x.locale = '*') <> (d.locale = '*')))"
            ).fetchall()


@pytest.fixture
def notes(tmp_path: Path) -> Iterator[Notes]:
    made = Notes(tmp_path)
    yield made
    assert made.look(health) == []
    made.house.close()


class Walk:
    """Random people at random strands."""

    def __init__(self, notes: Notes, seed: int) -> None:
        self.notes, self.rng = notes, random.Random(seed)

    def step(self) -> str:
        self.id, self.locale = self.rng.choice(self.notes.ids), self.rng.choice(LOCALES)
        self.field = self.rng.choice(["marks", "tags"])
        writing = [self.draft, self.inside, self.inside, self.beside, self.accept, self.part, self.fork]
        ending = [self.drop, self.reopen, self.take_out, self.plan, self.go, self.cancel, self.catch_up]
        act = self.rng.choice([*writing, *ending, self.release, self.undo])
        with suppress(HawthornError):
            act()
        return act.__name__

    def draft(self) -> None:
        self.notes.write(self.id, self.locale, "draft", self.field)

    def inside(self) -> None:
        if self.notes.sending("open") == "none" or self.rng.random() < 0.2:
            name = self.rng.choice(["Spring", "Summer"])
            self.notes.sendings.append(self._do(lambda a: gathering.start(a, About(name))))
        here = self.notes.sending("open")
        strand = self._do(lambda a: gathering.write_in(a, here, self.id, self.locale))
        if self.rng.random() < 0.8:
            self.notes.write(self.id, self.locale, strand, self.field)

    def _do(self, act: Any, who: str = "ida") -> Any:
        return self.notes.house.do(who, act)

    def _open(self) -> str:
        here = [s.name for s in self.notes.strands(self.id, self.locale) if s.open]
        return self.rng.choice(here) if here else "none"

    def beside(self) -> None:
        self.notes.write(self.id, self.locale, self._open(), self.field)

    def fork(self) -> None:
        name = self.rng.choice(["Spring", "Side"])
        self._do(lambda a: strands.fork(a, self.id, self.locale, name))

    def accept(self, take: list[str] | None = None) -> None:
        notes, name = self.notes, self._open()
        found = notes.look(lambda v: strands.propose(v, self.id, self.locale, name))
        if take is not None and (places := sorted({one["place"] for one in found.places})):
            take = [self.rng.choice(places)]
            found = notes.look(lambda v: strands.propose(v, self.id, self.locale, name, take))
        notes.house.do("ida", lambda a: strands.accept(a, self.id, self.locale, name, found.etag, take))
        now = notes.fields(self.id, self.locale)
        for side in found.sides:
            field = "tags" if side.locale == "*" else "marks"
            assert (now.get(field) or []) == (side.outcome.fields.get(field) or []), "as it was shown"

    def part(self) -> None:
        self.accept([])

    def drop(self) -> None:
        name = self._open()
        self._do(lambda a: strands.drop(a, self.id, self.locale, name))

    def reopen(self) -> None:
        ended = [s.name for s in self.notes.strands(self.id, self.locale) if not s.open]
        name = self.rng.choice(ended or ["none"])
        self._do(lambda a: strands.reopen(a, self.id, self.locale, name))

    def take_out(self) -> None:
        here, locale = self.notes.sending("open"), self.rng.choice([self.locale, ""])
        self._do(lambda a: gathering.drop(a, here, [(self.id, locale)]))

    def plan(self) -> None:
        here = self.notes.sending("open", "held")
        with suppress(HawthornError):
            self._do(lambda a: reviewing.sign(a, here), "oda")
        soon = When(instant=iso(self.notes.house.clock.at + 40 * SECOND))
        self._do(lambda a: dispatches.plan(a, here, soon))

    def go(self) -> None:
        self.notes.house.later(60)

    def cancel(self) -> None:
        here = self.notes.sending("open", "planned")
        self._do(lambda a: dispatches.cancel(a, here))

    def catch_up(self) -> None:
        name = self._open()
        self._do(lambda a: strands.catch_up(a, self.id, self.locale, name))

    def release(self) -> None:
        self.notes.release(self.id, self.locale)

    def undo(self) -> None:
        here = self.notes.sending("gone")
        self._do(lambda a: undoing.undo(a, here))


@pytest.mark.parametrize("seed", range(6))
def test_no_word_of_a_strand_is_ever_out_of_reach_whatever_becomes_of_its_dispatch(
    notes: Notes, seed: int
) -> None:
    walk = Walk(notes, seed)
    for _ in range(50):
        done = walk.step()
        assert notes.astray() == [], done
        for id in notes.ids:
            lost = {word for word, where in notes.words.items() if where == id} - notes.in_reach(id)
            assert not lost, (done, lost)


def test_a_strand_of_a_language_stays_whole_when_that_of_another_goes_with_a_dispatch(notes: Notes) -> None:
    house, id = notes.house, notes.ids[0]
    sending = house.do("ida", lambda a: gathering.start(a, About("Spring")))
    name = house.do("ida", lambda a: gathering.write_in(a, sending, id, "en"))
    notes.save(id, "en", name, title="Tide in spring", place="Quay")
    house.do("ida", lambda a: strands.fork(a, id, "fr", name))
    house.do("ida", lambda a: strands.drop(a, id, "fr", name))
    house.do("ida", lambda a: strands.fork(a, id, "fr", name))
    house.do("oda", lambda a: reviewing.sign(a, sending))
    house.do("ida", lambda a: dispatches.plan(a, sending, When(instant=iso(house.clock.at + 40 * SECOND))))
    house.later(60)
    assert house.state(sending) == "gone"
    notes.save(id, "fr", name, place="Pier")
    assert notes.fields(id, "fr", name)["place"] == "Pier"
    house.do("ida", lambda a: strands.reopen(a, id, "en", name))
    assert [(s.open, s.dispatch) for s in notes.strands(id, "en")] == [(True, None)], "it goes with nothing"
    assert notes.astray() == []


def test_what_a_dispatch_sets_and_what_is_written_in_it_end_each_by_itself(notes: Notes) -> None:
    house, id = notes.house, notes.ids[0]
    sending = house.do("ida", lambda a: gathering.start(a, About("Spring")))
    name = house.do("ida", lambda a: gathering.write_in(a, sending, id, "en"))
    notes.save(id, "en", name, title="Tide in spring")
    sets = MoveRequest(id, "*", verb="set", payload={"fields": {"place": "Quay"}})
    house.do("ida", lambda a: gathering.add(a, sending, [sets]))
    house.do("ida", lambda a: dispatches.cancel(a, sending))
    assert [s.name for s in notes.strands(id, "en") if s.open] == [name], "what was only set is dropped"
    notes.save(id, "en", name, place="Pier")
    assert notes.fields(id, "en", name)["place"] == "Pier"
    assert notes.astray() == []


def test_shared_fields_that_a_dispatch_set_and_somebody_changed_meanwhile_are_settled(notes: Notes) -> None:
    house, id = notes.house, notes.ids[0]
    notes.release(id, "en")
    sets = MoveRequest(id, "*", verb="set", payload={"fields": {"place": "Quay"}})
    sending = house.do("ida", lambda a: gathering.start(a, About("Spring"), [sets]))
    house.do("oda", lambda a: reviewing.sign(a, sending))
    house.do("ida", lambda a: dispatches.plan(a, sending, When(instant=iso(house.clock.at + 40 * SECOND))))
    notes.save(id, "en", "draft", place="Pier")
    house.later(60)
    assert house.state(sending) == "gone"
    assert notes.astray() == []
    (waits,) = (s.name for s in notes.strands(id, "en") if s.open)

    def told(view: Any) -> set[str]:
        row = next(r for r in events.after(view.conn, 0, 10_000) if r.kind == "strand.waits")
        return {n.path for n in notifications.for_event(view, row)}

    assert notes.look(told) == {f"/entries/{id}/en/strands/{waits}/proposal"}
    found = notes.look(lambda v: strands.propose(v, id, "en", waits))
    assert [(c.ours, c.theirs) for _, c in found.conflicts] == [("Quay", "Pier")]
    quay = {"place": Settlement("ours")}
    house.do("ida", lambda a: strands.accept(a, id, "en", waits, found.etag, None, quay))
    assert notes.fields(id, "en")["place"] == "Quay"
    assert notes.astray() == []


def test_what_a_dispatch_sets_is_written_anew_with_nothing_left_of_what_it_was(notes: Notes) -> None:
    house, id = notes.house, notes.ids[0]
    notes.release(id, "en")
    sets = MoveRequest(id, "*", verb="set", payload={"fields": {"place": "Quay"}})
    house.do("ida", lambda a: gathering.start(a, About("Spring"), [sets]))
    before = [s.name for s in notes.strands(id, "en") if s.open]
    notes.save(id, "en", "draft", tags=["boats"])
    notes.release(id, "en")
    assert notes.astray() == []
    (now,) = (s.name for s in notes.strands(id, "en") if s.open)
    assert notes.fields(id, "en", now)["tags"] == ["boats"], "it is made from what is out by now"
    assert len(before) == 1


@pytest.fixture
def fabi(notes: Notes) -> str:
    """Somebody who writes French alone, and so none of the shared fields, which count as the source's."""
    roles = [{"name": "writer", "locales": ["fr"]}]
    notes.house.do(
        "ida", lambda a: people.add_person(a, "fabi", "Fabi", "fabi@x.example", "long enough", roles)
    )
    return "fabi"


def test_shared_fields_of_a_strand_are_settled_caught_up_and_dropped_by_who_may_write_them(
    notes: Notes, fabi: str
) -> None:
    house, id = notes.house, notes.ids[0]
    house.do("ida", lambda a: strands.fork(a, id, "fr", "Leaflet"))
    notes.save(id, "fr", "Leaflet", place="Pier")
    with pytest.raises(Refused):
        notes.save(id, "fr", "Leaflet", fabi, place="Shed")
    assert "write" in notes.in_the_way(id, "fr", "Leaflet", fabi)
    assert notes.in_the_way(id, "fr", "Leaflet", "ida") == ""
    notes.save(id, "fr", "draft", place="Quay")
    theirs = {"place": Settlement("theirs")}
    with pytest.raises(Refused):
        house.do(fabi, lambda a: strands.keep(a, id, "fr", "Leaflet", theirs))
    with pytest.raises(Refused):
        house.do(fabi, lambda a: strands.drop(a, id, "fr", "Leaflet"))
    house.do("ida", lambda a: strands.keep(a, id, "fr", "Leaflet", theirs))
    notes.release(id, "en")
    with pytest.raises(Refused):
        house.do(fabi, lambda a: strands.catch_up(a, id, "fr", "Leaflet", theirs))
    house.do("ida", lambda a: strands.catch_up(a, id, "fr", "Leaflet", theirs))
    assert notes.fields(id, "fr", "Leaflet")["place"] == "Quay"
    house.do("ida", lambda a: strands.fork(a, id, "fr", "Mine"))
    notes.save(id, "fr", "Mine", fabi, title="Marée")
    house.do(fabi, lambda a: strands.drop(a, id, "fr", "Mine"))


def test_an_older_revision_comes_back_into_the_strand_that_is_looked_at(notes: Notes) -> None:
    house, id = notes.house, notes.ids[0]
    house.do("ida", lambda a: strands.fork(a, id, "en", "Leaflet"))
    notes.save(id, "en", "Leaflet", title="Tides", place="Quay")
    notes.save(id, "en", "Leaflet", title="Tides and moons", place="Pier")
    with notes.house.desk.db.read() as conn:
        shared = [
            row[0]
            for row in conn.execute(
                "SELECT number FROM revision r JOIN edition d ON d.id = r.edition AND d.locale = '*' ORDER BY r.id DESC"
            )
        ]
    house.do("ida", lambda a: entries.restore(a, id, "en", 2, "Leaflet"))
    house.do("ida", lambda a: entries.restore(a, id, "*", shared[1], "Leaflet"))
    there = notes.fields(id, "en", "Leaflet")
    assert (there["title"], there["place"]) == ("Tides", "Quay")
    assert notes.fields(id, "en")["title"] == "Tide", "the draft is as it was"
    with pytest.raises(NotFound, match="No strand"):
        house.do("ida", lambda a: entries.restore(a, id, "en", 1, "Spring"))


def test_what_the_draft_took_of_a_strand_is_not_asked_about_when_it_catches_up(notes: Notes) -> None:
    house, id = notes.house, notes.ids[0]
    house.do("ida", lambda a: strands.fork(a, id, "en", "Leaflet"))
    notes.save(id, "en", "Leaflet", title="Tides")
    part = notes.look(lambda v: strands.propose(v, id, "en", "Leaflet", ["title"]))
    house.do("ida", lambda a: strands.accept(a, id, "en", "Leaflet", part.etag, ["title"]))
    notes.save(id, "en", "Leaflet", title="Tides and moons")
    notes.release(id, "en")
    house.do("ida", lambda a: strands.catch_up(a, id, "en", "Leaflet"))
    assert notes.fields(id, "en", "Leaflet")["title"] == "Tides and moons"
    notes.save(id, "en", "draft", title="Ebb")
    found = notes.look(lambda v: strands.propose(v, id, "en", "Leaflet"))
    with pytest.raises(Conflicting):
        house.do("ida", lambda a: strands.accept(a, id, "en", "Leaflet", found.etag))


def test_a_proposal_is_looked_at_again_when_the_type_says_something_else_of_its_fields(notes: Notes) -> None:
    house, id = notes.house, notes.ids[0]
    house.do("ida", lambda a: strands.fork(a, id, "en", "Leaflet"))
    notes.save(id, "en", "Leaflet", title="Tides", place="Quay")
    seen = notes.look(lambda v: strands.propose(v, id, "en", "Leaflet"))
    less = {**NOTE, "fields": NOTE["fields"][:-1]}
    house.do("ida", lambda a: changing.define_type(a, less))
    with pytest.raises(StaleRevision):
        house.do("ida", lambda a: strands.accept(a, id, "en", "Leaflet", seen.etag))
