"""What a move carries: kept in its row from the request to the instant, and only what its verb takes."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest

from hawthorn.core import moves
from hawthorn.core.errors import Invalid
from hawthorn.core.moves import MoveFacts, Step
from hawthorn.core.moves.release import Release
from hawthorn.messages import ENGLISH
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from tests.service.made import House


class Read(Release):
    """A release that says aloud what it carries."""

    name = "read-aloud"
    takes = ("words",)
    said: list[Any] = []

    def step(self, move: MoveFacts) -> Step:
        self.said.append(move.payload)
        return super().step(move)


@pytest.fixture
def house(tmp_path: Any, monkeypatch: pytest.MonkeyPatch) -> Iterator[House]:
    monkeypatch.setitem(moves.VERBS, Read.name, Read())
    monkeypatch.setitem(ENGLISH.texts, "dispatches.named.read-aloud", "Read {{title}} aloud")
    monkeypatch.setattr(Read, "said", [])
    made = House(tmp_path)
    yield made
    made.close()


def test_what_a_move_carries_is_there_when_it_goes(house: House) -> None:
    page = house.signed("Fog")
    words = {"words": ["Ring", {"times": 3, "where": "the pier — north"}]}

    def plan(act: Any) -> str:
        from hawthorn.core.timeline import SECOND, iso
        from hawthorn.operations.release.lines import When

        request = MoveRequest(page, "en", Read.name, payload=words)
        return dispatches.make(act, [request], When(instant=iso(house.clock.at + 60 * SECOND)))

    id = house.do("ida", plan)
    Read.said.clear()
    house.later(120)
    assert house.state(id) == "gone"
    assert house.is_out(page)
    assert Read.said == [words, words]  # The page itself, and what its locales share.


@pytest.mark.parametrize(
    ("verb", "payload", "where"),
    [
        (Read.name, {}, "payload.words"),
        (Read.name, {"words": 1, "more": 2}, "payload.more"),
        ("release", {"words": 1}, "payload.words"),
    ],
)
def test_a_payload_that_its_verb_does_not_take_is_refused_by_name(
    house: House, verb: str, payload: dict[str, Any], where: str
) -> None:
    page = house.signed("Fog")
    with pytest.raises(Invalid) as refused:
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", verb, payload=payload)]))
    assert [p.where for p in refused.value.facts["problems"]] == [where]
    assert not house.is_out(page)
