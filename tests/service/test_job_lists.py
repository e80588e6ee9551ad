"""The list of jobs narrowed: to a state, a locale, a bureau, a person."""

from __future__ import annotations

import random
from collections.abc import Iterator
from itertools import product
from pathlib import Path

import pytest

from hawthorn.core.errors import Invalid
from hawthorn.operations.access import people
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.translation import bureaus, job_lists, sending
from hawthorn.operations.translation.bureaus import BureauDetails
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.translation.translation import CLOSED
from hawthorn.store import jobs as job_store
from hawthorn.store.job_lists import STATES
from hawthorn.store.jobs import Job
from tests.service.made import House

BUREAUS = ("Quay", "Saltmarsh")
LOCALES = ("fr", "de")


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French", de="German")
    for name in BUREAUS:
        details = BureauDetails(name, f"http://{name.lower()}.example", {})
        made.do("ida", lambda a, d=details: bureaus.add(a, d))
    made.do(
        "ida",
        lambda a: people.add_person(
            a, "luc", "Luc", "luc@x.example", "long enough", [{"name": "translator", "locales": ["fr"]}]
        ),
    )
    yield made
    made.close()


def given(house: House) -> None:
    """Jobs of all kinds, as chance has it."""
    rng = random.Random(11)
    pages = [house.signed(f"Page {n}") for n in range(30)]
    for page in pages:
        order = Order((page,), (rng.choice(LOCALES),), bureau=rng.choice(("", *BUREAUS)))
        house.do("ida", lambda a, o=order: sending.commission(a, o))
    translator = house.who("luc").id

    def become(act: Act) -> None:
        for job in job_lists.listing(act, 100)[0]:
            by_luc = job.bureau is None and job.locale == "fr" and rng.random() < 0.7
            own = {"translator": translator} if by_luc else {}
            job_store.update(act.conn, job.id, act.now, state=rng.choice(STATES), **own)

    house.do("ida", become)


def every(house: House, by: str = "ida", **asked: str) -> list[Job]:
    """All that is listed, three at a time."""
    found: list[Job] = []
    cursor = ""
    while True:
        page, cursor = house.desk.read(
            house.who(by),
            lambda v, c=cursor: job_lists.listing(v, 3, c, job_lists.narrowed(v, **asked)),
        )
        assert len(page) == 3 or not cursor
        found += page
        if not cursor:
            return found


def test_whatever_is_asked_is_listed_newest_first_and_nothing_else(house: House) -> None:
    given(house)
    whole = every(house)
    assert len(whole) == 30
    assert {job.state for job in whole} == set(STATES)
    seen = 0
    for state, locale, bureau, person in product(
        ("", "open", *STATES), ("", *LOCALES), ("", *BUREAUS), ("", "luc", "wim")
    ):
        wanted = [
            job.uuid
            for job in whole
            if (not state or job.state == state or (state == "open" and job.state not in CLOSED))
            and (not locale or job.locale == locale)
            and (not bureau or job.bureau_name == bureau)
            and (not person or job.translator_handle == person)
        ]
        found = every(house, state=state, locale=locale, bureau=bureau, person=person)
        assert [job.uuid for job in found] == wanted, (state, locale, bureau, person)
        seen += len(found) not in (0, 30)
    assert seen > 60, "most questions have an answer that is neither nothing nor everything"


def test_those_of_a_bureau_that_has_ended_are_found_and_what_is_none_is_refused_by_name(house: House) -> None:
    given(house)
    before = every(house, bureau="Quay")
    assert before

    def end(act: Act) -> None:
        for job in before:
            job_store.update(act.conn, job.id, act.now, state="accepted")
        bureaus.end(act, before[0].bureau or 0)

    house.do("ida", end)
    assert [job.uuid for job in every(house, bureau="Quay")] == [job.uuid for job in before]
    wrong = {"state": "lost", "locale": "xx", "bureau": "Nobody", "person": "no-one"}
    with pytest.raises(Invalid) as refused:
        every(house, **wrong)
    assert {one.where for one in refused.value.facts["problems"]} == {*wrong}


def test_pages_are_full_where_much_may_not_be_seen(house: House) -> None:
    given(house)
    reads = [{"verb": "read", "locales": ["en", "de"]}]
    house.do("ida", lambda a: people.define_role(a, "german", "German", reads))
    house.do(
        "ida",
        lambda a: people.add_person(a, "hanne", "Hanne", "h@x.example", "long enough", [{"name": "german"}]),
    )
    for state in ("", "open"):
        german = [job.uuid for job in every(house, state=state, locale="de")]
        assert len(german) > 6
        assert [job.uuid for job in every(house, "hanne", state=state)] == german
