"""What a terminal shows."""

from __future__ import annotations

from datetime import datetime, timedelta

import pytest

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.release.going_out import planned as planned_time


def bead(stage: str, state: str, behind: int = 0) -> wire.release.Bead:
    return wire.release.Bead(stage=stage, label=stage, state=state, revision=1, behind=behind, text=stage)  # type: ignore[arg-type]


def planned(verb: str, at: datetime) -> wire.release.Planned:
    return wire.release.Planned(
        dispatch="d", name="n", verb=verb, instant=at.isoformat(), wall="", zone="UTC", revision=1
    )


def test_the_rail_has_its_text_form() -> None:
    beads = [bead("draft", "head"), bead("review", "older", 1), bead("release", "none")]
    assert drawing.rail(beads) == "draft ●  review ◉ (-1)  release ○"
    soon = datetime.now().astimezone() + timedelta(days=1)
    assert drawing.rail(beads, [planned("release", soon)]).endswith(f"↷ {soon.strftime('%a %H:%M:%S')}")
    assert "↷ withdraw " in drawing.rail(beads, [planned("withdraw", soon)])


def test_near_instants_are_said_by_day_and_far_ones_by_date() -> None:
    far = datetime.now().astimezone() + timedelta(days=60)
    assert drawing.when(far.isoformat()) == far.strftime("%Y-%m-%d %H:%M:%S")


def test_words_are_marked_without_colour_too() -> None:
    runs = [
        wire.content.Run(how="same", text="The "),
        wire.content.Run(how="gone", text="old"),
        wire.content.Run(how="new", text="new [x]"),
    ]
    assert drawing.runs(runs).plain == "The [-old-]{+new [x]+}"


def test_moves_show_before_and_after_and_what_blocks_with_who_could_clear_it() -> None:
    unmet = wire.release.UnmetCondition(code="c", what="It needs [one].", where="", verb="sign", who=["Oda"])
    move = wire.release.MoveLine(
        verb="release",
        id="x",
        locale="*",
        source_locale="en",
        title="A [lamp]",
        type="label",
        before=None,
        after=3,
        stage="release",
        head=3,
        follows=False,
        along=True,
        to="",
        sets=[],
        strand="",
        unmet=[unmet],
    )
    first, second = drawing.moves([move])
    assert "A \\[lamp] (shared fields): nothing → revision 3" in first
    assert "It needs \\[one]." in second
    assert "(Oda)" in second


@pytest.mark.parametrize(
    ("at", "zone", "fold", "asked"),
    [
        ("", "", "", None),
        (
            "2027-03-31T09:00",
            "Asia/Tokyo",
            "",
            {"wall": "2027-03-31T09:00", "zone": "Asia/Tokyo", "fold": ""},
        ),
        (
            "2027-10-31T01:30",
            "Europe/London",
            "later",
            {"wall": "2027-10-31T01:30", "zone": "Europe/London", "fold": "later"},
        ),
        ("2027-03-31T09:00Z", "", "", {"instant": "2027-03-31T09:00Z", "zone": ""}),
        ("2027-03-31T09:00+01:00", "", "", {"instant": "2027-03-31T09:00+01:00", "zone": ""}),
        ("2027-03-31T09:00-05:00", "", "", {"instant": "2027-03-31T09:00-05:00", "zone": ""}),
    ],
)
def test_a_time_is_a_wall_time_unless_it_has_an_offset(
    at: str, zone: str, fold: str, asked: dict | None
) -> None:
    assert planned_time(at, zone, fold) == asked
