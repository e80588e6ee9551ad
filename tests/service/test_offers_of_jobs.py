"""What a job and its table offer is what may be done with it: at random, by people who may do this or that of it."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import contenttypes
from hawthorn.core.errors import HawthornError, InTheWay
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.content import changing, entries
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.translation import (
    accepting,
    against,
    assigning,
    exporting,
    importing,
    questions,
    sending,
    table,
    translation,
)
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.views import my_work, show_jobs
from hawthorn.store import events as event_store
from tests.service.made import House
from tests.service.test_translation_machine import translated
from tests.service.test_workflows import SECTION

ROLES: dict[str, dict[str, Any]] = {
    "luc": {"name": "translator", "locales": ["fr"]},
    "vera": {"name": "translation-reviewer", "locales": ["fr"]},
    "cora": {"name": "translation-coordinator"},
}
PEOPLE = ("ida", "wim", *ROLES, "paul", "nora")
"""Paul translates what lies in one hall alone; Nora commissions and accepts that."""
STEPS = 50
ACTS: dict[str, Callable[[Any, str], Any]] = {
    "assign": lambda a, job: assigning.assign(a, job, due="2031-05-01", note=""),
    "send-again": translation.send_again,
    "cancel": translation.cancel,
    "reopen": translation.reopen,
}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    hall = {**SECTION, "name": "hall", "label": "Hall"}
    made.do("ida", lambda a: changing.define_type(a, hall))
    made.do("ida", lambda a: entries.start(a, "hall", "en", {"title": "North"}))
    for handle, role in ROLES.items():
        join(made, handle, role)
    yield made
    made.close()


def join(house: House, handle: str, *some: dict[str, Any]) -> None:
    """Somebody comes who may read everything, and do what else some roles say."""
    roles = [*some, {"name": "staff"}]
    mail = f"{handle}@x.example"
    house.do("ida", lambda a: people.add_person(a, handle, handle.title(), mail, "long enough", roles))


def look(house: House, id: str, who: str) -> set[str]:
    """Hold what somebody is offered of a job against what they could do; returns what they are offered."""
    offers: set[str] = set()
    job = house.desk.read(house.who(who), lambda v: show_jobs.job(v, id))

    def held(offered: bool, act: Callable[[Any], Any], *said: Any) -> None:
        error = house.would_end(who, act)
        offers.update(said[:1] if offered else ())
        assert offered == (error is None), (who, job["state"], *said, offered, error)

    for name, act in ACTS.items():
        if (name, job["state"]) == ("cancel", "returned"):
            # That is done by those who know how: nobody is led to it.
            assert name not in job["acts"]
            continue
        held(name in job["acts"], lambda a, act=act: act(a, id), name)  # type: ignore[misc]
    closed = job["state"] in translation.CLOSED
    for unit in job["units_shown"]:
        place = [(unit.entry, unit.key)]
        waits = unit.outcome in ("applied", "kept") and not closed
        # What is accepted may be accepted again, which changes nothing.
        if unit.state != "final":
            held(job["may_accept"] and waits, lambda a, p=place: accepting.accept(a, id, p), "accept", unit)  # type: ignore[misc]
        sends = unit.outcome != "" and unit.state != "final" and not closed and bool(unit.source)
        held(
            job["may_accept"] and sends,
            lambda a, u=unit: table.send_back(a, id, u.entry, u.key, "Again."),
            "send back",
            unit,
        )  # type: ignore[misc]
        if unit.outcome == "conflict":
            for take in ("ours", "theirs"):
                held(
                    take in unit.choices,
                    lambda a, u=unit, t=take: translation.choose(a, id, u.entry, u.key, t),  # type: ignore[misc]
                    "choose",
                    take,
                    unit,
                )
    for line in house.desk.read(house.who(who), lambda v: table.lines(v, id, 50))[0]:
        at = table.Place(line.entry, line.key, line.segment)
        edit = table.Edit("Un mot de plus.", line.target)
        held(line.may_translate, lambda a, at=at, edit=edit: table.save(a, id, at, edit), "save", line)  # type: ignore[misc]
    for question in job["questions"]:
        held(
            question.may_answer,
            lambda a, q=question: questions.answer(a, id, q.id, "A rope."),  # type: ignore[misc]
            "answer",
        )
    if job["may_translate"]:
        error = house.would_end(who, lambda a: table.deliver(a, id))
        assert error is None or error.message.code == "table.nothing_translated", (who, error)
    data = document(house, id)
    if data:
        held(job["may_carry"] and not closed, lambda a: importing.import_file(a, id, data), "import")
    return offers


def document(house: House, id: str) -> bytes:
    try:
        return translated(house.desk.read(house.who("ida"), lambda v: exporting.export(v, id))[1])
    except InTheWay:
        return b""


class Walk:
    """A job of two pages, of which one lies in the hall, or both, and what is done with and around it."""

    def __init__(self, house: House, seed: int, *, both: bool = False) -> None:
        self.house, self.rng = house, random.Random(seed)
        with house.desk.db.read() as conn:
            hall = str(conn.execute("SELECT uuid FROM entry WHERE type = 'hall'").fetchone()[0])
        join(house, "paul", {"name": "translator", "locales": ["fr"], "sections": [hall]})
        there = [{"name": f"translation-{role}", "sections": [hall]} for role in ("reviewer", "coordinator")]
        join(house, "nora", *there)
        lies = {"Fog": {"below": hall}, "Salt": {"below": hall} if both else {}}
        self.pages = [house.page(t, body=f"<p>{t} one.</p><p>{t} two.</p>", **lies[t]) for t in lies]
        house.do("cora", lambda a: sending.commission(a, Order(tuple(self.pages), ("fr",))))
        with house.desk.db.read() as conn:
            self.job = str(conn.execute("SELECT uuid FROM job").fetchone()[0])
        self.type = house.desk.read(house.who("ida"), lambda v: contenttypes.to_dict(v.setup.type("page")))

    def line(self) -> table.Line:
        lines, _ = self.house.desk.read(self.house.who("ida"), lambda v: table.lines(v, self.job, 50))
        if not lines:
            raise InTheWay("translation.nothing")
        return self.rng.choice(lines)

    def write(self, who: str, locale: str) -> None:
        page, word = self.rng.choice(self.pages), f"{self.rng.random()}"
        title = {"title": f"{locale} {word}", "body": f"<p>{word} one.</p><p>Two.</p>"}
        self.house.do(who, lambda a: entries.save(a, page, locale, title, entries.base_now(a, page, locale)))

    def translate(self, who: str) -> None:
        line = self.line()
        at = table.Place(line.entry, line.key, line.segment)
        self.house.do(
            who, lambda a: table.save(a, self.job, at, table.Edit(f"Mot {line.segment}.", line.target))
        )

    def ask(self, who: str) -> None:
        line = self.line()
        place = (line.entry, line.key, line.segment)
        self.house.do(who, lambda a: questions.ask(a, self.job, place, "What is a sheet?"))

    def bring(self, who: str) -> None:
        data = document(self.house, self.job)
        self.house.do(who, lambda a: importing.import_file(a, self.job, data))

    def unit(self, *outcomes: str) -> tuple[str, str]:
        """A unit that ended in some way, by its entry and key."""
        job = self.house.desk.read(self.house.who("ida"), lambda v: show_jobs.job(v, self.job))
        some = [u for u in job["units_shown"] if u.outcome in outcomes]
        if not some:
            raise InTheWay("translation.nothing")
        one = self.rng.choice(some)
        return one.entry, one.key

    def accept(self, who: str) -> None:
        some = [self.unit("applied", "kept")] if self.rng.random() < 0.7 else []
        self.house.do(who, lambda a: accepting.accept(a, self.job, some))

    def send_back(self, who: str) -> None:
        entry, key = self.unit("applied", "kept", "conflict")
        self.house.do(who, lambda a: table.send_back(a, self.job, entry, key, "Again, please."))

    def choose(self, who: str) -> None:
        (entry, key), take = self.unit("conflict"), self.rng.choice(["ours", "theirs"])
        self.house.do(who, lambda a: translation.choose(a, self.job, entry, key, take))

    def put_away(self, who: str) -> None:
        page, verb = self.rng.choice(self.pages), self.rng.choice(["archive", "remove"])
        self.house.do(who, lambda a: dispatches.make(a, [MoveRequest(page, "en", verb=verb)]))

    def bring_back(self, who: str) -> None:
        page = self.rng.choice(self.pages)
        self.house.do(who, lambda a: entries.bring_back(a, page))

    def shape(self, who: str, *, read_only: bool = False, body: bool = True) -> None:
        """The type is read-only, or has no text; or all of it is as it was."""

        def turn(a: Any) -> None:
            kept = [f for f in self.type["fields"] if body or f["name"] != "body"]
            version = a.setup.type("page").version
            changing.define_type(a, {**self.type, "version": version, "read_only": read_only, "fields": kept})

        self.house.do(who, turn)

    def mend(self, who: str) -> None:
        """What keeps everybody from going on is taken back."""
        for act in (
            self.shape,
            self.bring_back,
            lambda who: self.house.do(who, lambda a: translation.reopen(a, self.job)),
        ):
            with suppress(HawthornError):
                act(who)

    def step(self) -> None:
        """Do something, by somebody who may or may not."""
        plain: dict[str, Callable[[str], None]] = {
            "translate": self.translate,
            "deliver": lambda who: self.house.do(who, lambda a: table.deliver(a, self.job)),  # type: ignore[func-returns-value]
            "bring": self.bring,
            "ask": self.ask,
            "accept": self.accept,
            "send-back": self.send_back,
            "choose": self.choose,
            "put-away": self.put_away,
            "bring-back": self.bring_back,
            "read-only": lambda who: self.shape(who, read_only=True),
            "without text": lambda who: self.shape(who, body=False),
            "mend": self.mend,
            "write en": lambda who: self.write(who, "en"),
            "write fr": lambda who: self.write(who, "fr"),
            **{
                name: lambda who, act=act: self.house.do(who, lambda a: act(a, self.job))
                for name, act in ACTS.items()
            },  # type: ignore[misc]
        }
        often = ["translate", "bring", "accept", "write fr", "choose", "send-back", "mend", "mend"]
        name = self.rng.choice([*plain, *often, *often])
        try:
            plain[name](self.rng.choice([*PEOPLE, "ida", "ida", "ida"]))
        except HawthornError:
            pass


@pytest.mark.parametrize("seed", [0, 1, 3, 4])
def test_what_is_offered_of_a_job_is_what_may_be_done(house: House, seed: int) -> None:
    walk = Walk(house, seed, both=seed % 2 == 1)
    offered: set[str] = set()
    for _ in range(STEPS):
        walk.step()
        offered |= look(house, walk.job, "ida") | look(house, walk.job, walk.rng.choice(PEOPLE[1:]))
    for act in (walk.mend, walk.bring):
        with suppress(HawthornError):
            act("ida")
        offered |= look(house, walk.job, "ida")
    assert {"cancel", "save", "import", "accept"} <= offered, "it came to what it is about"


def test_what_returned_for_a_text_that_is_gone_is_not_to_be_taken(house: House) -> None:
    walk = Walk(house, 0)
    page = walk.pages[0]

    def write(who: str, locale: str, **values: str) -> None:
        house.do(who, lambda a: entries.save(a, page, locale, values, entries.base_now(a, page, locale)))

    data = document(house, walk.job)
    write("luc", "fr", title="Brume", body="<p>Des mots.</p>")
    house.do("ida", lambda a: importing.import_file(a, walk.job, data))
    write("wim", "en", body="<p>Fog one.</p>")
    job = house.desk.read(house.who("vera"), lambda v: show_jobs.job(v, walk.job))
    settled = {u.source: u.choices for u in job["units_shown"] if u.entry == page}
    assert settled == {"Fog": ["ours", "theirs"], "Fog one.": ["ours", "theirs"], "Fog two.": ["ours"]}
    key = next(u.key for u in job["units_shown"] if u.source == "Fog two.")
    with pytest.raises(InTheWay, match="no source any more"):
        house.do("vera", lambda a: translation.choose(a, walk.job, page, key, "theirs"))
    look(house, walk.job, "vera")
    house.do("vera", lambda a: translation.choose(a, walk.job, page, key, "ours"))
    look(house, walk.job, "vera")
    # What was kept was kept for no source: where that comes back, it is not translated.
    house.do("wim", lambda a: entries.restore(a, page, "en", 1))
    due = house.desk.read(house.who("vera"), lambda v: against.look(v, page, "fr")).due
    assert {one.key: one.how for one in due}[key] == "missing"


def test_whoever_may_translate_a_part_of_a_job_puts_that_part_in_and_no_other(house: House) -> None:
    walk = Walk(house, 0)
    lines, _ = house.desk.read(house.who("paul"), lambda v: table.lines(v, walk.job, 50))
    assert [one.may_translate for one in lines] == [one.entry == walk.pages[0] for one in lines]
    for line in lines:
        at = table.Place(line.entry, line.key, line.segment)
        house.do("luc", lambda a, at=at: table.save(a, walk.job, at, table.Edit(f"Mot {at.key}.", "")))  # type: ignore[misc]
    house.do("paul", lambda a: table.deliver(a, walk.job))
    shown = house.desk.read(house.who("ida"), lambda v: show_jobs.job(v, walk.job))["units_shown"]
    assert {(u.entry, u.outcome) for u in shown} == {(walk.pages[0], "applied"), (walk.pages[1], "")}
    house.do("luc", lambda a: table.deliver(a, walk.job))
    shown = house.desk.read(house.who("ida"), lambda v: show_jobs.job(v, walk.job))["units_shown"]
    assert {u.outcome for u in shown} == {"applied"}


def test_whoever_answers_for_a_hall_decides_about_the_jobs_that_lie_in_it_and_about_no_others(
    house: House,
) -> None:
    walk = Walk(house, 0)
    house.do("cora", lambda a: sending.commission(a, Order((walk.pages[0],), ("fr",), again=True)))
    with house.desk.db.read() as conn:
        (job,) = (str(row[0]) for row in conn.execute("SELECT uuid FROM job WHERE uuid <> ?", (walk.job,)))
    assert look(house, job, "nora") >= {"assign", "cancel", "import"}
    data = document(house, job)
    house.do("luc", lambda a: importing.import_file(a, job, data))
    assert look(house, job, "nora") >= {"accept", "send back"}
    house.do("ida", lambda a: importing.import_file(a, walk.job, document(house, walk.job)))
    assert not look(house, walk.job, "nora")

    def waiting(who: str) -> list[str]:
        found = house.desk.read(house.who(who), my_work.my_work)["waiting"]
        return [one["job"] for one in found if one["kind"] == "translation"]

    with house.desk.db.read() as conn:
        returned = [e for e in event_store.after(conn, 0, 1000) if e.kind == "job.returned"]
    nora = house.who("nora").id
    told = [
        one.path
        for event in returned
        for one in house.desk.read(house.who("ida"), lambda v, e=event: notifications.for_event(v, e))
        if one.actor == nora
    ]
    assert told == [f"/translation/{job}"]
    assert waiting("nora") == [job]
    assert set(waiting("vera")) == {job, walk.job}
    house.do("nora", lambda a: accepting.accept(a, job, []))
    assert waiting("nora") == []
