"""What is offered of a dispatch is what may be done with it: at random, by people whose rights end at a language, or at a stage."""

from __future__ import annotations

import random
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import dispatch
from hawthorn.core.errors import GateUnmet, HawthornError, InTheWay, Refused
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import people
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches, gathering, records, review, reviewing, undoing
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.views import show_dispatches
from tests.service.made import House

PEOPLE = ("wim", "oda", "ida", "fay", "lea")
ROLES: dict[str, list[dict[str, Any]]] = {
    "fay": [
        {"verb": "read"},
        *({"verb": verb, "locales": ["fr"]} for verb in ("write", "submit", "sign", "release")),
    ],
    "lea": [{"verb": "read"}, {"verb": "submit"}],
}
"""Who has French alone, and who may put up for review alone."""
STEPS = 150
HELD = ("plan", "send", "replan", "cancel", "undo")
"""Acts that are offered although something else than a right may hold them: it says what."""


def ahead(house: House) -> When:
    return When(instant=iso(house.clock.at + 3600 * SECOND))


def acts(house: House) -> dict[str, Callable[[Any, str], Any]]:
    return {
        "change": lambda a, d: gathering.add(a, d, []),
        "plan": lambda a, d: dispatches.plan(a, d, ahead(house)),
        "replan": lambda a, d: dispatches.replan(a, d, ahead(house)),
        "send": dispatches.send,
        "reopen": dispatches.reopen,
        "cancel": dispatches.cancel,
        "describe": lambda a, d: gathering.describe(a, d, About(note="Soon.")),
        "undo": undoing.undo,
        "submit": reviewing.ask,
        "sign": reviewing.sign,
        "send-back": lambda a, d: reviewing.send_back(a, d, "Again, please."),
        "take-back": reviewing.take_back,
    }


def look(house: House, made: str, who: str) -> None:
    """Hold what somebody is offered against what they could do."""
    offered = house.desk.read(
        house.who(who), lambda v: show_dispatches.dispatch(v, records.find(v, made))["acts"]
    )
    for name, act in acts(house).items():
        if name == "change":
            # Whether that may be put in is asked of what is put in.
            continue
        error = house.would_end(who, lambda a, act=act: act(a, made))  # type: ignore[misc]
        said = (who, name, offered, error)
        if error is None:
            assert name in offered, said
        elif name in offered:
            assert name in HELD, said
            assert isinstance(error, (InTheWay, GateUnmet)), said
            assert not error.message.code.startswith("dispatches.not_now"), said
        else:
            assert isinstance(error, (Refused, InTheWay, GateUnmet)), said


@pytest.fixture
def house(tmp_path: Path) -> Any:
    made = House(tmp_path)
    made.speaks(fr="French")
    for handle, grants in ROLES.items():
        made.do("ida", lambda a: people.define_role(a, handle, handle, grants))  # noqa: B023
        made.by_scheduler(made._adding(handle, handle))
    yield made
    made.close()


def state(house: House, made: str) -> str:
    return house.desk.read(house.who("ida"), lambda v: records.find(v, made).state)


@pytest.mark.parametrize("seed", range(4))
def test_what_is_offered_of_a_dispatch_is_what_may_be_done(house: House, seed: int) -> None:
    rng = random.Random(seed)
    pages = [house.page("Fog"), house.signed("Salt"), house.signed("Rope")]
    for page in pages[:2]:
        french = {"title": "Brume", "body": "<p>Mots.</p>"}
        house.do("wim", lambda a: entries.save(a, page, "fr", french, entries.Base(None, None)))  # noqa: B023
    house.do("wim", lambda a: review.submit(a, pages[1], "fr"))
    done: list[str] = []
    made = ""
    for _ in range(STEPS):
        who = rng.choice(PEOPLE)
        verb = rng.choice(["release", "release", "release", "withdraw", "advance", "remove"])
        payload = {"stage": "review"} if verb == "advance" else {}
        request = MoveRequest(rng.choice(pages), rng.choice(["en", "en", "fr"]), verb, payload=payload)
        name = rng.choice(["put", "put", "submit", "sign", "plan", "send", *acts(house)])
        if (
            not made
            or state(house, made) in ("undone", "cancelled")
            or (name == "put" and state(house, made) == "gone")
        ):
            name = "start"
        try:
            if name == "start":
                made = house.do(who, lambda a: gathering.start(a, About(), [request]))  # noqa: B023
            elif name == "put":
                house.do(who, lambda a: gathering.add(a, made, [request]))  # noqa: B023
            else:
                house.do(who, lambda a: acts(house)[name](a, made))  # noqa: B023
            done.append(name)
        except HawthornError:
            continue
        for each in PEOPLE:
            look(house, made, each)
    assert {"start", "put"} <= {*done}, done
    assert {*done} & {"plan", "send", "submit", "sign"}, done


def test_who_may_put_up_for_review_may_plan_it_and_call_that_off(house: House) -> None:
    page = house.page("Fog")
    up = MoveRequest(page, "en", "advance", payload={"stage": "review"})
    planned = house.do("lea", lambda a: dispatches.make(a, [up], ahead(house)))
    house.do("lea", lambda a: dispatches.replan(a, planned, ahead(house)))
    house.do("lea", lambda a: dispatches.cancel(a, planned))
    salt = house.signed("Salt")
    out = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(salt, "en")], ahead(house)))
    with pytest.raises(Refused):
        house.do("lea", lambda a: dispatches.cancel(a, out))


def test_every_act_of_a_dispatch_has_a_way_to_do_it(house: House) -> None:
    assert {*dispatch.ACTS} - {"review"} <= {*acts(house)}
