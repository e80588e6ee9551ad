"""The working side at another instant: lists, entries and the outline as they were, and as they will be by what is planned."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hawthorn.core.errors import Invalid, NotFound
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import reading, reading_lists
from hawthorn.operations.delivery.reading_lists import Wish
from hawthorn.operations.release import dispatches, quiet_periods
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.search import finding
from hawthorn.operations.views import show, show_lines, then
from tests.service.made import House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def shown(house: House, page: str, at: int | None = None) -> dict[str, Any]:
    return house.desk.read(house.who("ida"), lambda v: show.entry(v, page, "en", at=at))


def listed(house: House, at: int | None = None, **asked: Any) -> dict[str, dict[str, Any]]:
    def look(view: Any) -> Any:
        query = finding.Query(at=iso(at) if at else "", **asked)
        rows, _ = finding.listing(view, query)
        return {line["title"]: line for line in show_lines.lines(view, rows, at)}

    return house.desk.read(house.who("ida"), look)


def save(house: House, page: str, **fields: Any) -> None:
    def do(act: Any) -> Any:
        base = entries.current_base(act, entries.store.entry(act.conn, page).id, "en")
        return entries.save(act, page, "en", fields, base)

    house.do("wim", do)


def make(house: House, page: str, verb: str = "release", after: float = 0, **payload: Any) -> str:
    when = When(instant=iso(house.clock.at + round((after + 1) * SECOND))) if after else None
    request = MoveRequest(page, "en", verb, payload=payload)
    return house.do("ida", lambda a: dispatches.make(a, [request], when))


def stages(one: dict[str, Any]) -> dict[str, int | None]:
    return {bead["stage"]: bead["revision"] for bead in one["rail"]}


def test_an_entry_is_shown_as_it_was_and_nothing_can_be_done_to_it_there(house: House) -> None:
    page = house.signed("Fog")
    drafted = house.clock.at
    make(house, page)
    released = house.clock.at
    save(house, page, title="Mist")
    make(house, page, "withdraw")
    then_ = shown(house, page, released)
    assert (then_["title"], then_["at"], stages(then_)["release"]) == ("Fog", iso(released), 1)
    assert not any(act["allowed"] for act in then_["acts"])
    assert {act["why"] for act in then_["acts"]} == {
        "You are looking at another instant. Go back to now to change something."
    }
    before = shown(house, page, drafted)
    assert stages(before) == {"draft": 1, "review": 1, "release": None}
    now = shown(house, page)
    assert (now["title"], now["at"], stages(now)["release"]) == ("Mist", None, None)
    with pytest.raises(NotFound, match="not there"):
        shown(house, page, house.clock.at - 10**12)


def test_an_entry_is_shown_as_it_will_be_by_what_is_planned(house: House) -> None:
    page = house.signed("Fog")
    make(house, page, after=600)
    make(house, page, "withdraw", after=1200)
    now = house.clock.at
    assert [stages(shown(house, page, now + s * SECOND))["release"] for s in (300, 700, 1300)] == [
        None, 1, None,
    ]  # fmt: skip
    assert [p["verb"] for p in shown(house, page, now + 700 * SECOND)["planned"]] == ["withdraw"]


def test_a_list_holds_what_was_there_called_as_it_was(house: House) -> None:
    fog = house.page("Fog")
    first = house.clock.at
    save(house, fog, title="Mist")
    gull = house.page("Gull")
    second = house.clock.at
    make(house, gull, "remove")
    make(house, fog, "archive")
    assert set(listed(house, first)) == {"Fog"}
    assert set(listed(house, second)) == {"Mist", "Gull"}, "what was removed since was there"
    assert set(listed(house)) == set()
    assert listed(house, first)["Fog"]["author"] == "Wim"


def test_a_list_holds_what_will_not_have_been_put_away(house: House) -> None:
    fog, gull = house.signed("Fog"), house.signed("Gull")
    make(house, fog, "archive", after=600)
    make(house, gull, "remove", after=900)
    now = house.clock.at

    def ahead(**asked: Any) -> list[set[str]]:
        return [set(listed(house, now + s * SECOND, **asked)) for s in (300, 700, 1000)]

    assert ahead() == [{"Fog", "Gull"}, {"Gull"}, set()]
    assert ahead(archived="only") == [set(), {"Fog"}, {"Fog"}]
    assert ahead(archived="with") == [{"Fog", "Gull"}, {"Fog", "Gull"}, {"Fog"}]
    assert ahead(stage="review") == [{"Fog", "Gull"}, {"Gull"}, set()]
    house.later(1000)
    assert (set(listed(house)), set(listed(house, archived="only"))) == (set(), {"Fog"})


def test_a_list_by_stage_holds_what_stood_or_will_stand_there(house: House) -> None:
    fog, gull = house.signed("Fog"), house.signed("Gull")
    make(house, fog)
    made = house.clock.at
    make(house, fog, "withdraw", after=600)
    make(house, gull, after=900)
    ahead = {s: set(listed(house, house.clock.at + s * SECOND, stage="release")) for s in (300, 700, 1000)}
    assert ahead == {300: {"Fog"}, 700: set(), 1000: {"Gull"}}
    # What led to it stands before it until then.
    assert set(listed(house, stage="review")) == {"Gull"}
    assert set(listed(house, house.clock.at + 300 * SECOND, stage="review")) == {"Gull"}
    assert set(listed(house, house.clock.at + 1000 * SECOND, stage="review")) == set()
    house.later(2000)
    assert set(listed(house, made, stage="release")) == {"Fog"}
    assert set(listed(house, stage="release")) == {"Gull"}
    for asked in ({"words": "fog"}, {"incomplete": True}, {"stage": "draft"}, {"tag": "x"}):
        with pytest.raises(Invalid) as refused:
            listed(house, made, **asked)
        assert "now_alone" in str(refused.value.facts)


@settings(max_examples=20, deadline=None)
@given(
    st.lists(
        st.tuples(
            st.sampled_from(["release", "withdraw", "advance", "archive"]),
            st.integers(0, 1),
            st.integers(1, 20),
        ),
        max_size=6,
    )
)
def test_what_is_shown_beforehand_is_what_is_shown_when_the_time_has_come(
    plans: list[tuple[str, int, int]],
) -> None:
    """Rails at every instant, said before anything went, held against those when the clock stands there."""

    with tempfile.TemporaryDirectory() as folder:
        house = House(Path(folder))
        try:
            pages = [house.signed("Fog"), house.signed("Gull")]
            start = house.clock.at + 60 * SECOND
            for verb, page, minute in plans:
                when = When(instant=iso(start + minute * 60 * SECOND))
                payload = {"stage": "review"} if verb == "advance" else {}
                request = MoveRequest(pages[page], "en", verb, payload=payload)
                house.do("ida", lambda a, r=request, w=when: dispatches.make(a, [r], w))
            minutes = sorted({0, *(minute for *_, minute in plans)})
            instants = [start + (minute * 60 + 30) * SECOND for minute in minutes]
            beforehand = {at: [stages(shown(house, page, at)) for page in pages] for at in instants}
            held = False
            for at in instants:
                house.clock.at = at
                house.by_scheduler(lambda _: None)
                with house.desk.db.read() as conn:
                    held = held or bool(
                        conn.execute("SELECT 1 FROM dispatch WHERE state IN ('held', 'failed')").fetchone()
                    )
                if held:
                    break
                seen = [stages(shown(house, page)) for page in pages]
                assert [s["release"] for s in seen] == [s["release"] for s in beforehand[at]]
        finally:
            house.close()


def test_the_instant_of_a_day_is_its_first_moment(house: House) -> None:
    assert then.instant_of("") is None
    assert then.instant_of("2027-01-15") == then.instant_of("2027-01-15T00:00:00Z")


def test_what_a_quiet_period_will_hold_is_not_foreseen(house: House) -> None:
    fog, gull = house.signed("Fog"), house.signed("Gull")
    make(house, fog, after=600)
    make(house, gull, after=3600)
    at = [house.clock.at + s * SECOND for s in (700, 4000)]
    begins, ends = (iso(house.clock.at + s * SECOND)[:19] for s in (500, 1500))
    period = house.do(
        "ida", lambda a: quiet_periods.add(a, quiet_periods.Times(begins, ends, "UTC", "", "Mending"))
    )

    def read(view: Any, place: reading.Place) -> bool:
        edition = entries.store.edition(view.conn, entries.store.entry(view.conn, fog).id, "en")
        return reading.revision_at(view, edition.id, place) is not None

    asked = Wish(("page",), "en")

    def told() -> list[tuple[int | None, set[str], bool]]:
        ahead = []
        for instant in at:
            place = reading.Place(at=instant)
            rows = house.desk.read(house.who("ida"), lambda v, p=place: reading_lists.page(v, p, asked).uuids)
            here = house.desk.read(house.who("ida"), lambda v, p=place: read(v, p))
            assert here == (fog in rows), "lists and entries say the same"
            found = set(listed(house, instant, stage="release"))
            ahead.append((stages(shown(house, fog, instant))["release"], found, here))
        return ahead

    assert told() == [(None, set(), False), (None, {"Gull"}, False)]
    house.do("ida", lambda a: quiet_periods.end(a, period))
    assert told() == [(1, {"Fog"}, True), (1, {"Fog", "Gull"}, True)]
    house.do(
        "ida",
        lambda a: quiet_periods.add(a, quiet_periods.Times(begins, ends, "UTC", "FREQ=DAILY", "Mending")),
    )
    beforehand = told()
    house.later(900)
    assert set(listed(house, stage="release")) == beforehand[0][1] == set(), "it was held, as was told"
    house.later(3600)
    assert set(listed(house, stage="release")) == beforehand[1][1] == {"Gull"}
