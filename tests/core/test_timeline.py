"""Standings over time, planned times, and dispatch plans."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import timeline
from hawthorn.core.dispatch import plan
from hawthorn.core.errors import BadTime
from hawthorn.core.moves import MoveFacts
from hawthorn.core.timeline import Standing
from hawthorn.core.workflow import Unmet

histories = st.lists(st.tuples(st.integers(0, 50), st.booleans()), max_size=12).map(
    lambda steps: sorted(steps, key=lambda s: s[0])
)


def build(steps: list[tuple[int, bool]]) -> list[Standing]:
    """Standings as the store keeps them: each opening closes the one before; False withdraws."""
    out: list[Standing] = []
    for n, (when, opens) in enumerate(steps):
        if out and out[-1].until is None:
            out[-1] = Standing(out[-1].id, 1, 1, out[-1].revision, out[-1].since, when)
        if opens:
            out.append(Standing(n, 1, 1, n, when))
    return out


@given(histories, st.integers(0, 60))
def test_what_stood_is_what_a_replay_of_the_steps_says(steps: list[tuple[int, bool]], instant: int) -> None:
    expected = None
    for n, (when, opens) in enumerate(steps):
        if when <= instant:
            expected = n if opens else None
    found = timeline.at(build(steps), instant)
    assert (found.revision if found else None) == expected


@given(histories)
def test_at_most_one_revision_stands_at_a_time_and_intervals_are_half_open(
    steps: list[tuple[int, bool]],
) -> None:
    made = build(steps)
    for instant in range(60):
        standing = [s for s in made if s.since <= instant and (s.until is None or instant < s.until)]
        assert len(standing) <= 1
        assert timeline.at(made, instant) == (standing[0] if standing else None)


@given(st.integers(0, 4_000_000_000_000_000))
def test_instants_are_written_and_read_back_exactly(instant: int) -> None:
    assert timeline.parse_instant(timeline.iso(instant)) == instant


def test_a_wall_time_that_happens_twice_asks_which() -> None:
    with pytest.raises(BadTime, match="happens twice") as caught:
        timeline.resolve_wall("2026-10-25T01:30", "Europe/London")
    assert [c["fold"] for c in caught.value.facts["choices"]] == ["earlier", "later"]
    early, late = (
        timeline.resolve_wall("2026-10-25T01:30", "Europe/London", f).instant for f in ("earlier", "later")
    )
    assert late - early == 3600 * timeline.SECOND


def test_a_wall_time_that_is_skipped_says_what_is_near() -> None:
    with pytest.raises(BadTime, match="does not exist") as caught:
        timeline.resolve_wall("2027-03-28T01:30", "Europe/London")
    assert caught.value.facts["choices"] == ["00:30", "02:30"]


@pytest.mark.parametrize("text", ["tomorrow", "2027-13-01T00:00", "2027-01-01T25:00"])
def test_a_time_that_is_none_is_refused(text: str) -> None:
    with pytest.raises(BadTime):
        timeline.resolve_wall(text, "Europe/London")


def test_the_past_and_unknown_zones_are_refused() -> None:
    with pytest.raises(BadTime, match="is past"):
        timeline.not_past(5, 6)
    with pytest.raises(BadTime, match="not a time zone"):
        timeline.zone("Nowhere/Else")
    with pytest.raises(BadTime, match="which zone"):
        timeline.parse_instant("2027-01-01T00:00:00")


HERE = {1000: Standing(7, 1, 1000, 3, 0)}


def test_a_release_closes_what_stood_and_opens_what_goes() -> None:
    made = plan([MoveFacts(0, "release", 1, 1000, 5, standings=HERE)])
    assert [s.id for s in made.closings] == [7]
    assert [(o.edition, o.revision) for o in made.openings] == [(1, 5)]
    again = plan([MoveFacts(0, "release", 1, 1000, 3, standings=HERE)])
    assert (again.closings, again.openings, again.held) == ((), (), ())
    assert plan([MoveFacts(0, "withdraw", 1, 1000, None, standings=HERE)]).closings == (HERE[1000],)


def test_a_revision_that_would_take_back_a_later_release_is_held_unless_meant() -> None:
    facts = MoveFacts(0, "release", 1, 1000, 5, standings=HERE, descends=False)
    assert [u.code for h in plan([facts]).held for u in h.unmet] == ["not-descended"]
    meant = MoveFacts(0, "release", 1, 1000, 5, standings=HERE, descends=False, regress=True)
    assert plan([meant]).held == ()


def test_one_unmet_gate_holds_its_move_and_says_why() -> None:
    (held,) = plan([MoveFacts(0, "release", 1, 1000, 5, title="Lamp", unmet=(Unmet("x", "No."),))]).held
    assert (held.title, held.unmet[0].what) == ("Lamp", "No.")


def test_an_instant_is_spoken_in_the_zone_of_whoever_hears_it() -> None:
    at = timeline.parse_instant("2026-11-12T23:19:43.665468Z")
    assert timeline.spoken(at, "Europe/London") == "12 November 2026, 23:19"
    assert timeline.spoken(at, "Asia/Tokyo") == "13 November 2026, 08:19"
    assert timeline.spoken(at, "Nowhere/Known") == "12 November 2026, 23:19"
