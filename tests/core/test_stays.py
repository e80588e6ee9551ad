"""Where the work on an edition stays: against a clock that looks at every instant where it is, by other rules than the module's."""

from __future__ import annotations

from dataclasses import dataclass, field

from hypothesis import example, given, settings
from hypothesis import strategies as st

from hawthorn.core import stays
from hawthorn.core.spreads import Spread, spread
from hawthorn.core.stays import DRAFT, RELEASE, SIGNED, Followed, Out, Stay, Submitted
from hawthorn.core.timeline import parse_instant
from hawthorn.core.weeks import Weeks

ACTS = ("write", "submit", "replace", "sign", "on", "back", "withdraw-submission", "release", "withdraw")


@dataclass
class Desk:
    """An edition that people work on, one act an instant. It is told where the work is by what was done last, and writes down where that was at
    each instant."""

    at: int = 0
    written: list[int] = field(default_factory=list)
    submitted: list[Submitted] = field(default_factory=list)
    out: list[Out] = field(default_factory=list)
    writing: bool = False
    waits: str = ""
    signed: bool = False
    fresh: bool = False
    seen: dict[int, set[str]] = field(default_factory=dict)

    def decide(self, outcome: str) -> None:
        last = self.submitted[-1]
        self.submitted[-1] = Submitted(last.stage, last.at, last.by, outcome, self.at, 9)

    def act(self, act: str) -> None:
        self.at += 1
        if act == "write":
            self.written.append(self.at)
            self.fresh = self.fresh or bool(self.waits)
            self.writing = self.writing or not self.waits
        elif act == "submit" and self.writing and not self.waits:
            self.submitted.append(Submitted("review", self.at, 7))
            self.writing, self.waits, self.fresh = False, "review", False
        elif act == "replace" and self.waits:
            self.decide("replaced")
            self.submitted.append(Submitted(self.waits, self.at, 7))
            self.fresh = False
        elif act == "on" and self.waits == "review":
            self.decide("signed off")
            self.submitted.append(Submitted("facts", self.at, 7))
            self.waits, self.writing, self.fresh = "facts", False, False
        elif act == "sign" and self.waits:
            self.decide("signed off")
            self.writing, self.waits, self.signed, self.fresh = self.fresh, "", True, False
        elif act in ("back", "withdraw-submission") and self.waits:
            self.decide("sent back" if act == "back" else "taken back")
            self.waits, self.writing, self.fresh = "", True, False
        elif act == "release" and (self.signed or (self.writing and not self.waits)):
            if self.out and self.out[-1].until is None:
                self.out[-1] = Out(self.out[-1].since, self.at, 8)
            self.out.append(Out(self.at, None, 8))
            if self.signed:
                self.signed = False
            else:
                self.writing = False
        elif act == "withdraw" and self.out and self.out[-1].until is None:
            self.out[-1] = Out(self.out[-1].since, self.at, 8)
        self.seen[self.at] = {
            *([DRAFT] if self.writing else []),
            *([self.waits] if self.waits else []),
            *([SIGNED] if self.signed else []),
            *([RELEASE] if self.out and self.out[-1].until is None else []),
        }


@settings(max_examples=600)
@given(st.lists(st.sampled_from(ACTS), max_size=25), st.booleans())
@example(["write", "submit", "write", "sign", "submit", "on", "sign", "release"], False)
def test_at_each_instant_the_work_is_where_whoever_watched_it_saw_it(acts: list[str], away: bool) -> None:
    desk = Desk()
    for act in acts:
        desk.act(act)
    ends = desk.at + 1 if away else None
    found = stays.stays(desk.written, desk.submitted, desk.out, ends)
    for instant, there in desk.seen.items():
        at = [s.stage for s in found if s.came <= instant and (s.went is None or s.went > instant)]
        assert sorted(at) == sorted(there), (instant, found)
    assert all(s.went is None or s.came <= s.went for s in found)
    assert sum(s.stage == RELEASE for s in found) == len(desk.out)
    if away:
        assert [s for s in found if s.went is None and s.stage != RELEASE] == []
    backs = sum(s.outcome == "sent back" for s in desk.submitted)
    assert sum(s.how == "sent back" for s in found) == backs


def test_how_the_work_went_on_and_by_whom_is_told() -> None:
    sent_back = Submitted("review", 20, 1, "sent back", 30, 2)
    signed = Submitted("review", 40, 1, "signed off", 50, 3)
    found = stays.stays([10, 35, 60], [sent_back, signed], [Out(70, None, 4)])
    assert found == [
        Stay(DRAFT, 10, 20, "submitted", 1),
        Stay("review", 20, 30, "sent back", 2),
        Stay(DRAFT, 30, 40, "submitted", 1),
        Stay("review", 40, 50, "signed off", 3),
        Stay(SIGNED, 50, 70, "out", 4),
        Stay(DRAFT, 60),
        Stay(RELEASE, 70, None, "", 4),
    ]
    # What another text takes the place of still waits, since the first was submitted.
    replaced = Submitted("review", 20, 1, "replaced", 25, 1)
    assert stays.stays([10], [replaced, Submitted("review", 25, 1)], []) == [
        Stay(DRAFT, 10, 20, "submitted", 1),
        Stay("review", 20),
    ]


def test_other_languages_have_followed_when_the_last_that_was_out_went_out_anew() -> None:
    source = [Out(0, 10), Out(10, 50), Out(50, None)]
    followed = {
        "fr": [Out(5, 20), Out(20, None)],
        "de": [Out(6, 30), Out(30, 60), Out(60, None)],
        "ja": [Out(40, None)],
    }
    assert stays.followed(source, followed) == [Followed(10, 30, "de"), Followed(50, None, "fr")]
    # French took both changes in one go; what was withdrawn is not waited for, and before anything else was out nobody has to follow.
    late = {"fr": [Out(5, 70), Out(70, None)], "de": [Out(6, 40)]}
    assert stays.followed(source, late) == [Followed(10, 70, "fr"), Followed(50, 70, "fr")]
    assert stays.followed([Out(0, 1), Out(1, None)], {"fr": [Out(5, None)]}) == []
    assert stays.followed([Out(0, None)], {"fr": [Out(5, None)]}) == []


def test_weeks_begin_on_mondays_where_somebody_is_and_are_as_long_as_clocks_make_them() -> None:
    # Sunday evening in London is Monday morning in Tokyo.
    now = parse_instant("2027-03-28T20:00:00Z")
    london, tokyo = Weeks.until(now, "Europe/London", 2), Weeks.until(now, "Asia/Tokyo", 2)
    assert (london.days, tokyo.days) == (["2027-03-15", "2027-03-22"], ["2027-03-22", "2027-03-29"])
    hours = [(b - a) // 3_600_000_000 for a, b in zip(london.edges, london.edges[1:], strict=False)]
    assert hours == [168, 167]
    assert [london.at(edge) for edge in london.edges[:-1]] == [0, 1]
    assert [london.at(edge - 1) for edge in london.edges[1:]] == [0, 1]
    assert london.counts([now, now - 1, london.edges[0]]) == [1, 2]


def test_nine_of_ten_do_not_exceed_the_ninetieth_and_half_the_median() -> None:
    second = 1_000_000
    assert spread([]) == Spread(0, None, None)
    assert spread([7 * second]) == Spread(1, 7.0, 7.0)
    ten = [n * second for n in (10, 3, 1, 9, 2, 8, 4, 7, 5, 6)]
    assert spread(ten) == Spread(10, 5.0, 9.0)
    assert spread([*ten, 11 * second]) == Spread(11, 6.0, 10.0)


def test_what_is_submitted_and_signed_off_in_one_act_waits_for_nobody() -> None:
    found = stays.stays([10], [Submitted("review", 20, 3, "signed off", 20, 3)], [Out(30, None, 4)])
    assert found == [
        Stay(DRAFT, 10, 20, "submitted", 3),
        Stay("review", 20, 20, "signed off", 3),
        Stay(SIGNED, 20, 30, "out", 4),
        Stay(RELEASE, 30, None, "", 4),
    ]
    # Through two stages in one act, after a text that was replaced by that.
    two = [
        Submitted("review", 20, 3, "replaced", 40, 3),
        Submitted("review", 40, 3, "signed off", 40, 3),
        Submitted("proof", 40, 3, "signed off", 40, 3),
    ]
    found = stays.stays([10], two, [])
    assert [(one.stage, one.came, one.went) for one in found] == [
        (DRAFT, 10, 20),
        ("review", 20, 40),
        ("proof", 40, 40),
        (SIGNED, 40, None),
    ]
