"""The verbs of a dispatch: whom each touches, what it closes and opens, and what speaks against it."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import moves
from hawthorn.core.dispatch import acts, plan
from hawthorn.core.errors import Invalid
from hawthorn.core.moves import Around, MoveFacts
from hawthorn.core.timeline import Standing
from hawthorn.core.workflow import Unmet

STAGES = (500, 700, 1000)
NO = Unmet("x", "No.")


_REVISIONS = {
    "release": st.integers(1, 4),
    "advance": st.integers(1, 4),
    "set": st.integers(1, 4),
    "archive": st.none(),
    "withdraw": st.none(),
    "remove": st.none(),
    "restore": st.none() | st.integers(1, 4),
}


@st.composite
def facts(draw: st.DrawFn) -> MoveFacts:
    """A move of any verb against any standings."""
    verb = draw(st.sampled_from(sorted(moves.VERBS)))
    held = draw(st.dictionaries(st.sampled_from(STAGES), st.integers(1, 4)))
    stand = {s: Standing(s + r, 1, s, r, 0) for s, r in held.items()}
    lower = tuple(s for s in STAGES[:2] if s in stand and draw(st.booleans()))
    return MoveFacts(
        0,
        verb,
        edition=1,
        stage=1000,
        revision=draw(_REVISIONS[verb]),
        standings=stand,
        lower=lower,
        descends=draw(st.booleans()),
        regress=draw(st.booleans()),
        unmet=draw(st.sampled_from([(), (), (NO,)])),
        out_by_then=draw(st.booleans()),
    )


@given(facts())
def test_after_a_dispatch_exactly_what_its_verb_says_stands(move: MoveFacts) -> None:
    """Held against what a person would say of it, played through on the standings themselves."""
    before = {s: one.revision for s, one in (move.standings or {}).items()}
    made = plan([move])
    after = {s: r for s, r in before.items() if (move.standings or {})[s] not in made.closings}
    for one in made.openings:
        assert one.stage not in after
        after[one.stage] = one.revision
    brings = move.verb in ("release", "advance", "set")
    refused = (
        bool(move.unmet)
        or (brings and 1000 in before and not move.descends and not move.regress)
        or (move.verb == "set" and 1000 not in before and not move.out_by_then)
    )
    assert bool(made.held) == refused
    if refused:
        assert after == before
    elif move.verb == "release":
        assert after[1000] == move.revision
        assert {s for s in before if s not in after} == set(move.lower)
    elif move.verb in ("advance", "set"):
        assert after == before | {1000: move.revision}, "what stands below stays there"
    elif move.verb == "withdraw":
        assert after == {s: r for s, r in before.items() if s != 1000}
    elif move.verb == "restore":
        there = {} if move.revision is None else {1000: move.revision}
        assert after == {s: r for s, r in before.items() if s != 1000} | there
    else:
        assert move.verb in ("remove", "archive")
        assert after == {}


def test_one_held_move_keeps_no_other_from_being_planned_and_is_named() -> None:
    free = MoveFacts(1, "release", 2, 1000, 4, "Free")
    made = plan([MoveFacts(0, "withdraw", 1, 1000, None, "Bound", unmet=(NO,)), free])
    assert [(h.ord, h.title, h.unmet) for h in made.held] == [(0, "Bound", (NO,))]
    assert [o.edition for o in made.openings] == [2]


@pytest.mark.parametrize(
    ("verb", "around", "touched"),
    [
        ("release", Around(1, None, (1, 2)), [(1, "chosen", False)]),
        ("release", Around(1, 9, (9, 1, 2)), [(1, "chosen", False), (9, "approved", True)]),
        ("withdraw", Around(1, 9, (9, 1, 2), others_stay=True), [(1, "nothing", False)]),
        ("withdraw", Around(1, 9, (9, 1, 2)), [(1, "nothing", False), (9, "nothing", True)]),
        ("remove", Around(1, 9, (9, 1, 2)), [(n, "nothing", False) for n in (9, 1, 2)]),
        ("archive", Around(1, 9, (9, 1, 2)), [(n, "nothing", False) for n in (9, 1, 2)]),
        ("restore", Around(1, 9, (9, 1, 2)), [(1, "nothing", False)]),
        ("advance", Around(1, 9, (9, 1, 2)), [(1, "chosen", False), (9, "approved", True)]),
        ("set", Around(1, 9, (9, 1, 2), holding=(9,)), [(9, "chosen", False)]),
        ("set", Around(1, 9, (9, 1, 2), holding=(1, 9)), [(1, "chosen", False), (9, "chosen", False)]),
    ],
)
def test_a_verb_touches_its_editions(verb: str, around: Around, touched: list[tuple[int, str, bool]]) -> None:
    assert [(t.edition, t.brings, t.along) for t in moves.of(verb).touches(around)] == touched


def test_only_what_never_stood_is_its_writers_own_to_remove() -> None:
    assert {(v.name, stood): v.asks(stood) for v in moves.VERBS.values() for stood in (False, True)} == {
        ("release", False): "release",
        ("release", True): "release",
        ("withdraw", False): "release",
        ("withdraw", True): "release",
        ("remove", False): "write",
        ("remove", True): "release",
        ("archive", False): "write",
        ("archive", True): "release",
        ("advance", False): "submit",
        ("advance", True): "submit",
        ("set", False): "release",
        ("set", True): "release",
        ("restore", False): "release",
        ("restore", True): "release",
    }


def test_a_condition_of_another_entry_is_cleared_by_one_verb() -> None:
    cleared = [code for v in moves.VERBS.values() for code in v.clears]
    assert len(cleared) == len(set(cleared))
    named = {code: found.name for code in cleared if (found := moves.clearing(code))}
    assert named == {"not-out": "release", "parent-not-out": "release", "referred-to": "remove"}
    assert moves.clearing("required") is None


def test_the_usual_verb_comes_first_and_no_other_word_is_taken() -> None:
    assert next(iter(moves.VERBS)) == moves.USUAL
    assert (moves.OUT, set(moves.LEAVING)) == (("release", "set"), {"remove", "withdraw", "archive"})
    assert (set(moves.LEADING), moves.SHELVING) == ({"release", "advance", "set"}, ("archive",))
    with pytest.raises(Invalid, match="“publish” is not a move"):
        moves.of("publish")
    with pytest.raises(Invalid, match="“restore” is not a move"):
        moves.asked("restore")


@pytest.mark.parametrize("state", ["open", "planned", "held", "failed", "gone", "undone", "cancelled"])
def test_what_may_be_done_with_a_dispatch_follows_from_its_state(state: str) -> None:
    coming = {"open", "planned", "held", "failed"}
    assert set(acts(state)) == {
        *(["send", "cancel", "describe"] if state in coming else []),
        *(["change", "plan"] if state == "open" else []),
        *(["replan", "reopen"] if state in coming - {"open"} else []),
        *(["review"] if state in coming - {"failed"} else []),
        *(["undo"] if state == "gone" else []),
    }
