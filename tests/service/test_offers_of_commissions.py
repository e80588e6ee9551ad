"""What a commission offers is what may be done with it: at random, by people who may do this or that of it."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from contextlib import suppress
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import HawthornError, InTheWay, Refused
from hawthorn.core.timeline import SECOND, wall_at
from hawthorn.operations.access import people
from hawthorn.operations.content import changing, entries
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.translation import (
    accepting,
    bureaus,
    cancelling,
    commissions,
    exporting,
    importing,
    job_lists,
    sending,
    translation,
)
from hawthorn.operations.translation.bureaus import BureauDetails
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.views import show, show_jobs
from hawthorn.store import commissions as store
from tests.service.made import House
from tests.service.test_translation_machine import translated
from tests.service.test_workflows import SECTION

STEPS = 80


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French", de="German")
    hall = {**SECTION, "name": "hall", "label": "Hall"}
    made.do("ida", lambda a: changing.define_type(a, hall))
    yield made
    made.close()


class Walk:
    """Pages in and out of a hall, commissions of them, and what is done with and around those."""

    def __init__(self, house: House, seed: int = 0) -> None:
        self.house, self.rng = house, random.Random(seed)
        self.hall = hall = house.do("ida", lambda a: entries.start(a, "hall", "en", {"title": "North"}))
        coordinator = {"name": "translation-coordinator"}
        for handle, roles in {
            "cora": [coordinator],
            "fran": [{"name": "staff"}, {**coordinator, "locales": ["fr"]}],
            "hal": [{**coordinator, "sections": [hall]}],
            "luc": [{"name": "staff"}, {"name": "translator", "locales": ["fr"]}],
            "lea": [{"name": "translator", "sections": [hall]}, {**coordinator, "sections": [hall]}],
        }.items():
            self.join(handle, roles)
        self.people = ["ida", "wim", "cora", "fran", "hal", "lea"]
        lies: dict[str, dict[str, Any]] = {"Fog": {"below": hall}, "Salt": {}, "Rope": {"below": hall}}
        self.pages = [house.page(t, body=f"<p>{t} one.</p><p>{t} two.</p>", **lies[t]) for t in lies]
        self.bureau = house.do("ida", lambda a: bureaus.add(a, BureauDetails("Quay", "http://q.example", {})))
        self.made: list[str] = []

    def join(self, handle: str, roles: list[dict[str, Any]]) -> None:
        self.house.do(
            "ida",
            lambda a: people.add_person(
                a, handle, handle.title(), f"{handle}@x.example", "long enough", roles
            ),
        )

    def begin(self, who: str) -> None:
        shared = self.rng.random() < 0.7
        self.made.append(self.house.do(who, lambda a: commissions.open_one(a, "Spring", shared=shared)))
        self.put(who)
        self.settle(who)

    def put(self, who: str) -> None:
        some = self.rng.sample(self.pages, self.rng.randint(1, 3))
        self.house.do(who, lambda a: commissions.put(a, self.one, some))

    def settle(self, who: str) -> None:
        """How it goes out is chosen."""
        doers: list[dict[str, str]] = [{}, {}, {"bureau": "Quay"}, {"person": "lea"}]
        into = {"fr": [*doers, {"person": "luc"}], "de": doers}
        tags = self.rng.sample(list(into), self.rng.randint(1, 2))
        given: dict[str, Any] = {"targets": [{"locale": tag, **self.rng.choice(into[tag])} for tag in tags]}
        tomorrow = (wall_at(self.house.clock.at, "UTC") + timedelta(days=1)).date().isoformat()
        given["due"] = self.rng.choice(["", "", tomorrow])
        given["again"], given["current"] = self.rng.random() < 0.3, self.rng.random() < 0.2
        self.house.do(who, lambda a: commissions.change(a, self.one, given))

    @property
    def one(self) -> str:
        return self.rng.choice(self.made[-3:])

    def job(self) -> str:
        jobs = self.house.desk.read(self.house.who("ida"), lambda v: job_lists.listing(v, 20))[0]
        if not jobs:
            raise InTheWay("translation.nothing")
        return self.rng.choice(jobs).uuid

    def bring(self, who: str) -> None:
        """A job returns whole, and is accepted."""
        id = self.job()
        data = translated(self.house.desk.read(self.house.who("ida"), lambda v: exporting.export(v, id))[1])
        self.house.do(who, lambda a: importing.import_file(a, id, data))
        self.house.do("ida", lambda a: accepting.accept(a, id, []))

    def write(self, who: str) -> None:
        page, word = self.rng.choice(self.pages), f"{self.rng.random()}"
        text = {"title": word, "body": f"<p>{word} one.</p><p>Two.</p>"}
        self.house.do(who, lambda a: entries.save(a, page, "en", text, entries.base_now(a, page, "en")))

    def put_away(self, who: str) -> None:
        page, verb = self.rng.choice(self.pages), self.rng.choice(["archive", "remove"])
        self.house.do(who, lambda a: dispatches.make(a, [MoveRequest(page, "en", verb=verb)]))

    def bring_back(self, who: str) -> None:
        for page in self.pages:
            with suppress(HawthornError):
                self.house.do(who, lambda a, page=page: entries.bring_back(a, page))  # type: ignore[misc]

    def bureau_goes(self, who: str) -> None:
        self.house.do(who, lambda a: bureaus.end(a, self.bureau[0].id))
        again = BureauDetails("Quay", "http://q.example", {})
        self.bureau = self.house.do("ida", lambda a: bureaus.add(a, again))

    def days_pass(self, _: str) -> None:
        self.house.clock.at += 2 * 86_400 * SECOND

    def step(self) -> None:
        """Do something, by somebody who may or may not."""

        def on(act: Callable[[Any, str], Any]) -> Callable[[str], None]:
            return lambda who: self.house.do(who, lambda a: act(a, self.one))

        def on_job(act: Callable[[Any, str], Any]) -> Callable[[str], None]:
            return lambda who: self.house.do(who, lambda a: act(a, self.job()))

        plain: list[Callable[[str], Any]] = [
            self.begin, self.put, self.settle, self.settle, self.bring, self.bring, self.write, self.put_away,
            self.bring_back, self.bring_back, self.bureau_goes, self.days_pass, on(commissions.send), on(commissions.send),
            on(commissions.send), *[on(cancelling.cancel)] * 5, on(cancelling.reopen), on(cancelling.reopen), on_job(translation.cancel),
            on_job(translation.reopen), on_job(translation.reopen),
            on(lambda a, one: commissions.take_out(a, one, [self.rng.choice(self.pages)])),
        ]  # fmt: skip
        with suppress(HawthornError):
            self.rng.choice(plain)(self.rng.choice([*self.people, "ida", "ida", "cora", "cora"]))

    def look(self, who: str) -> set[str]:
        """Hold what somebody is offered of each commission against what they could do; returns what they are offered."""
        offered: set[str] = set()
        self.order(who)
        for id in self.made[-3:]:
            offered |= self.look_at(who, id)
        for state in store.STATES:
            lines, _ = self.house.desk.read(
                self.house.who(who), lambda v, s=state: commissions.listing(v, s, 99, "")
            )
            assert {one.state for one in lines} <= {state}
        return offered

    def order(self, who: str) -> None:
        """Hold what an order is said to hold, and what is said to be in its way, against sending it."""
        some = tuple(self.rng.sample(self.pages, self.rng.randint(1, 2)))
        into = tuple(self.rng.sample(["fr", "de"], self.rng.randint(1, 2)))
        order = Order(
            some, into, due=self.rng.choice(["", "", "2020-01-01"]), bureau=self.rng.choice(["", "Quay"])
        )
        error = self.house.would_end(who, lambda a: sending.commission(a, order))
        try:
            told = self.house.desk.read(self.house.who(who), lambda v: sending.estimate(v, order))
        except HawthornError:
            assert error is not None
            return
        clear = not any(one.trouble for one in told) and any(one.units for one in told)
        assert clear == (error is None), (who, order, told, error)

    def look_at(self, who: str, id: str) -> set[str]:
        def read(act: Callable[[Any], Any]) -> Any:
            return self.house.desk.read(self.house.who(who), act)

        acts: dict[str, Callable[[Any], Any]] = {
            "send": lambda a: commissions.send(a, id),
            "cancel": lambda a: cancelling.cancel(a, id),
            "reopen": lambda a: cancelling.reopen(a, id),
            "change": lambda a: commissions.change(a, id, {"note": "Please."}),
            "put": lambda a: commissions.put(a, id, []),
        }
        found = {name: self.house.would_end(who, act) for name, act in acts.items()}
        try:
            shown = read(lambda v: show_jobs.commission(v, id))
        except HawthornError:
            assert None not in found.values(), (who, found)
            return set()
        offered = set(shown.acts) | ({"change", "put"} if shown.may_change else set())
        told: list[str] = []
        units = 0
        for target in shown.targets if "send" in offered else []:
            cursor, more = "", True
            while more:
                page, cursor = read(lambda v, t=target.locale, c=cursor: commissions.estimate(v, id, t, 1, c))
                told += [page.trouble] if page.trouble else []
                units += sum(one.units for one in page.entries)
                more = bool(cursor)
        if "send" in offered and (told or not units):
            assert found["send"] is not None, (who, told, units)
            offered -= {"send"}
        for name, error in found.items():
            assert (name in offered) == (error is None), (who, name, shown.state, told, units, error)
        for one in shown.content if shown.may_change else []:
            assert self.house.would_end(who, lambda a, e=one.id: commissions.take_out(a, id, [e])) is None
        return offered


@pytest.mark.parametrize("seed", range(4))
def test_what_is_offered_of_a_commission_is_what_may_be_done(house: House, seed: int) -> None:
    walk = Walk(house, seed)
    walk.begin("ida")
    offered = walk.look("ida")
    for _ in range(STEPS):
        walk.step()
        offered |= walk.look("ida") | walk.look(walk.rng.choice(walk.people[1:]))
    walk.made.append(house.do("ida", lambda a: commissions.open_one(a, "Autumn")))
    house.do("ida", lambda a: cancelling.cancel(a, walk.made[-1]))
    offered |= walk.look("ida")
    assert offered == {"send", "cancel", "reopen", "change", "put"}, "it came to what it is about"


def sent(house: House, pages: list[str], *locales: str) -> str:
    def do(act: Any) -> str:
        made = commissions.open_one(act, "Spring", shared=True)
        commissions.put(act, made, pages)
        commissions.change(act, made, {"targets": [{"locale": tag} for tag in locales]})
        commissions.send(act, made)
        return made

    return house.do("ida", do)


def test_who_does_not_see_every_job_of_a_commission_does_not_end_it_as_a_whole(house: House) -> None:
    walk = Walk(house)
    fog, salt, _ = walk.pages
    house.do("ida", lambda a: people.define_role(a, "sender", "sender", [{"verb": "commission"}]))
    walk.join("sam", [{"name": "sender"}, {"name": "staff", "sections": [walk.hall]}])
    sent(house, [salt], "fr")
    made = sent(house, [fog, salt], "fr", "de")
    shown = house.desk.read(house.who("sam"), lambda v: show_jobs.commission(v, made))
    assert [one["locale"] for one in shown.job_lines] == ["fr"], (
        "what of it is for French is in the hall alone"
    )
    assert shown.acts == []
    with pytest.raises(InTheWay, match="into de holds entries that you may not read"):
        house.do("sam", lambda a: cancelling.cancel(a, made))
    with pytest.raises(Refused, match="commission"):
        house.do("fran", lambda a: cancelling.cancel(a, made))
    assert house.desk.read(house.who("cora"), lambda v: show_jobs.commission(v, made)).acts == ["cancel"]


def test_a_commission_whose_jobs_were_all_opened_again_is_not_cancelled_any_more(house: House) -> None:
    walk = Walk(house)
    made = sent(house, walk.pages, "fr", "de")

    def state() -> tuple[str, list[str]]:
        shown = house.desk.read(house.who("ida"), lambda v: show_jobs.commission(v, made))
        return shown.state, shown.acts

    house.do("ida", lambda a: cancelling.cancel(a, made))
    assert state() == ("cancelled", ["reopen"])
    jobs = house.desk.read(house.who("ida"), lambda v: commissions.look(v, made)).jobs
    house.do("ida", lambda a: translation.reopen(a, jobs[0].uuid))
    assert state() == ("sent", ["cancel", "reopen"])
    house.do("ida", lambda a: translation.reopen(a, jobs[1].uuid))
    assert state() == ("sent", ["cancel"])
    for job in jobs:
        data = translated(house.desk.read(house.who("ida"), lambda v, j=job: exporting.export(v, j.uuid))[1])
        house.do("ida", lambda a, j=job, d=data: importing.import_file(a, j.uuid, d))  # type: ignore[misc]
        house.do("ida", lambda a, j=job: accepting.accept(a, j.uuid, []))  # type: ignore[misc]
    assert state() == ("closed", [])


def test_a_page_of_an_estimate_says_what_is_in_the_way_of_what_is_on_it(house: House) -> None:
    walk = Walk(house)
    fog, salt, rope = walk.pages

    def begin(act: Any) -> str:
        made = commissions.open_one(act, "Spring", shared=True)
        commissions.put(act, made, [fog, salt, rope])
        into = [{"locale": "fr", "person": "lea"}, {"locale": "de"}]
        commissions.change(act, made, {"targets": into})
        return made

    made = house.do("ida", begin)

    def pages(who: str, locale: str) -> list[tuple[list[str], str]]:
        out, cursor, more = [], "", True
        while more:
            found, cursor = house.desk.read(
                house.who(who),
                lambda v, c=cursor: commissions.estimate(v, made, locale, 1, c),  # type: ignore[misc]
            )
            out.append(([one.title for one in found.entries], found.trouble))
            more = bool(cursor)
        return out

    told = pages("cora", "fr")
    assert [titles for titles, _ in told] == [["Fog"], ["Salt"], ["Rope"]]
    assert [bool(trouble) for _, trouble in told] == [False, True, False]
    assert "Lea may not read “Salt”" in told[1][1]
    assert {trouble for _, trouble in pages("cora", "de")} == {""}
    assert all("German" in trouble or "de" in trouble for _, trouble in pages("fran", "de"))
    house.do("ida", lambda a: commissions.take_out(a, made, [salt]))
    assert {trouble for _, trouble in pages("cora", "fr")} == {""}


def test_on_the_page_of_an_entry_it_is_offered_to_whoever_may_commission_a_translation_of_it(
    house: House,
) -> None:
    walk = Walk(house)
    fog, salt, _ = walk.pages
    name = {"name": "name", "kind": "line", "label": "Name"}
    untranslated = {"name": "note", "label": "Note", "title": "name", "translated": False, "fields": [name]}
    house.do("ida", lambda a: changing.define_type(a, untranslated))
    note = house.do("ida", lambda a: entries.start(a, "note", "en", {"name": "Three"}))

    def offered(who: str, page: str, locale: str = "en") -> tuple[bool, str]:
        shown = house.desk.read(house.who(who), lambda v: show.entry(v, page, locale))
        (act,) = (one for one in shown["acts"] if one["act"] == "commission")
        return act["allowed"], act["why"]

    assert offered("cora", salt) == offered("fran", salt) == offered("hal", fog) == (True, "")
    assert not offered("fran", salt, "fr")[0]
    assert "Ask" in offered("wim", salt)[1]
    assert offered("cora", note) == (False, "Nothing of its type is translated.")
