"""What a page offers is what may be done, whom it names is who is asked, and who is asked may do it: at random, in two languages that share fields."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import HawthornError
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches, review, workflows
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.views import my_work, show
from tests.service.made import House
from tests.service.test_planned_fields import add_fields
from tests.service.test_workflows import flow

LAW = {"name": "law", "gate": {"sign_offs": 1}}
FLOWS = [
    flow("standard"),
    flow("standard", LAW),
    flow("standard", sign_offs=2),
    flow("standard", LAW, author="with another"),
    flow("standard", author="yes"),
]
PEOPLE = ("wim", "oda", "ida")
STEPS = 40


def sign(act: Any, page: str, locale: str) -> None:
    asked = show.entry(act, page, locale)["review"]
    revision = asked["revision"] if asked is not None else 1
    shared = (asked["common_revision"] or 0) if asked is not None else None
    review.sign_off(act, page, locale, revision, "", shared)


ACTS: dict[str, Callable[[Any, str, str], Any]] = {
    "submit": review.submit,
    "take-back": review.take_back,
    "sign": sign,
    "send-back": lambda a, page, locale: review.send_back(a, page, locale, "Again, please."),
    "move-on": review.move_on,
    "release": lambda a, page, locale: dispatches.make(a, [MoveRequest(page, locale)]),
    "withdraw": lambda a, page, locale: dispatches.make(a, [MoveRequest(page, locale, "withdraw")]),
}
GATED = ("submit", "release")
"""Acts that are offered although the gate may hold them: it says what is missing."""


def writing(step: int, **values: Any) -> Callable[[Any, str, str], Any]:
    return lambda a, page, locale: entries.save(a, page, locale, values, entries.base_now(a, page, locale))


def look(house: House, page: str, locale: str, who: str) -> None:
    """Hold what somebody is offered and asked against what they could do."""
    entry = house.desk.read(house.who(who), lambda v: show.entry(v, page, locale))
    if not entry["exists"]:
        return
    for offer in entry["acts"]:
        if (act := ACTS.get(offer["act"])) is None:
            continue
        done = house.would_end(who, lambda a, act=act: act(a, page, locale)) is None  # type: ignore[misc]
        said = (offer["act"], offer["allowed"], done, offer["why"])
        if done:
            # What is signed off already may be signed again by program, which changes nothing.
            assert offer["allowed"] or offer["act"] == "sign", said
        else:
            assert not offer["allowed"] or offer["act"] in GATED, said
    lines = house.desk.read(house.who(who), my_work.my_work)["waiting"]
    asked = any(line["kind"] == "review" and line["locale"] == locale for line in lines)
    about = entry["review"]
    if about is not None and about["outcome"] == "waiting":
        named = who.title() in entry["deciders"]
        assert asked == (named and about["by"] != who.title()), (who, entry["deciders"], lines)
        assert not named or {o["act"]: o["allowed"] for o in entry["acts"]}["sign"], entry["acts"]


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    add_fields(made, [{"name": "level", "kind": "number", "label": "Level", "shared": True}])
    yield made
    made.close()


@pytest.mark.parametrize("seed", range(len(FLOWS)))
def test_what_is_offered_is_what_may_be_done(house: House, seed: int) -> None:
    rng = random.Random(seed)
    house.do("ida", lambda a: workflows.define(a, FLOWS[seed]))
    page = house.page("Fog", level=1)
    done: list[str] = []
    for step in range(STEPS):
        who, locale = rng.choice(PEOPLE), rng.choice(["en", "en", "fr"])
        some: dict[str, Callable[[Any, str, str], Any]] = {
            **ACTS,
            "write": writing(step, title=f"Fog {step}", body="<p>Words.</p>"),
            "share": writing(step, level=step),
        }
        # Mostly what leads on.
        kind = rng.choice([*some, "share", "submit", "submit", "sign", "sign", "sign"])
        try:
            house.do(who, lambda a: some[kind](a, page, locale))  # noqa: B023
            done.append(kind)
        except HawthornError:
            pass
        for each in PEOPLE:
            for tag in ("en", "fr"):
                look(house, page, tag, each)
    assert {"share", "submit", "sign"} <= {*done}, "it came to what it is about"
