"""Recurrences and quiet periods: what they mean over clock changes, and that none keeps the service busy."""

from __future__ import annotations

from datetime import date, datetime, timedelta

import pytest
from dateutil.rrule import rrulestr
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import quiet, recurrence, timeline
from hawthorn.core.errors import BadTime
from hawthorn.core.quiet import QuietPeriod

MONDAY = datetime(2026, 11, 30, 9)


@pytest.mark.parametrize(
    ("rule", "days"),
    [
        ("FREQ=DAILY", [30, 1, 2]),
        ("RRULE:freq=weekly;byday=mo,we", [30, 2, 7]),
        ("FREQ=MONTHLY;BYMONTHDAY=31;COUNT=3", [31, 31, 31]),
        ("FREQ=DAILY;INTERVAL=2;UNTIL=20261204T090000Z", [30, 2, 4]),
        ("FREQ=HOURLY;BYHOUR=9;BYDAY=SA", [5, 12, 19]),
    ],
)
def test_a_rule_gives_its_days(rule: str, days: list[int]) -> None:
    assert [one.day for one in recurrence.spread(rule, MONDAY, 3)] == days


def test_days_are_skipped_and_others_come_after_them() -> None:
    found = recurrence.spread("FREQ=DAILY", MONDAY, 3, {date(2026, 12, 1)})
    assert [one.day for one in found] == [30, 2, 3]


@pytest.mark.parametrize(
    "rule",
    [
        "",
        "daily",
        "FREQ=SECONDLY",
        "FREQ=DAILY;INTERVAL=0",
        "FREQ=DAILY;INTERVAL=-1",
        "FREQ=DAILY;COUNT=0",
        "FREQ=DAILY;COUNT=2;UNTIL=20270101",
        "FREQ=DAILY;FREQ=WEEKLY",
        "FREQ=DAILY\nRDATE:20270101T000000",
        "FREQ=DAILY;BYDAY=XX",
        "FREQ=DAILY;" + "BYHOUR=9," * 100,
    ],
)
def test_what_is_no_rule_is_refused(rule: str) -> None:
    with pytest.raises(BadTime) as refused:
        recurrence.read(rule, MONDAY)
    assert refused.value.message.code == "recurrence.no_rule"


@pytest.mark.parametrize(
    "rule",
    [
        "FREQ=HOURLY;BYMONTH=2;BYMONTHDAY=30",
        "FREQ=DAILY;UNTIL=20200101",
        "FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=31;COUNT=4",
    ],
)
def test_what_never_begins_is_refused(rule: str) -> None:
    with pytest.raises(BadTime) as refused:
        recurrence.read(rule, MONDAY)
    assert refused.value.message.code == "recurrence.never"


def test_a_search_ends_with_the_year_that_it_is_given_whatever_it_finds() -> None:
    found = recurrence._bounded(rrulestr("FREQ=YEARLY", dtstart=MONDAY), 2030)
    assert [one.year for one in found] == [2026, 2027, 2028, 2029, 2030]
    assert (
        list(recurrence._bounded(rrulestr("FREQ=HOURLY;BYMONTH=2;BYMONTHDAY=30", dtstart=MONDAY), 2036)) == []
    )


def test_a_rule_that_ends_too_soon_for_all_says_for_how_many_it_is_enough() -> None:
    with pytest.raises(BadTime) as refused:
        recurrence.spread("FREQ=DAILY;COUNT=3", MONDAY, 4)
    assert refused.value.message.facts["count"] == 3


NIGHT = quiet.checked("2026-11-27T22:00", "2026-11-28T06:00", "Europe/London", "Night", "FREQ=DAILY")


@given(st.datetimes(datetime(2026, 11, 28), datetime(2040, 1, 1)))
def test_a_night_is_from_its_first_moment_to_before_its_last_whatever_the_clocks_do(at: datetime) -> None:
    instant = timeline.from_datetime(at.replace(tzinfo=timeline.zone("UTC")))
    wall = timeline.to_datetime(instant).astimezone(timeline.zone("Europe/London"))
    found = quiet.covering([NIGHT], instant)
    assert (found is not None) == (wall.hour >= 22 or wall.hour < 6)
    free = quiet.free_from([NIGHT], instant)
    assert free is not None
    assert free == instant if found is None else found[1] == free > instant


def test_a_period_that_begins_when_clocks_are_put_back_is_all_of_both_hours() -> None:
    one = quiet.checked("2027-10-31T01:30", "2027-10-31T01:45", "Europe/London", "Works", "")
    ((begun, over),) = one.spans(0, 1 << 62)
    assert over - begun == 75 * 60 * timeline.SECOND


def test_what_is_skipped_by_a_clock_keeps_its_length() -> None:
    one = quiet.checked("2027-03-28T01:15", "2027-03-28T03:00", "Europe/London", "Works", "")
    ((begun, over),) = one.spans(0, 1 << 62)
    assert (timeline.iso(begun), timeline.iso(over)) == ("2027-03-28T01:15:00Z", "2027-03-28T02:00:00Z")


def test_periods_that_follow_one_another_are_over_with_the_last() -> None:
    days = [
        QuietPeriod(f"2026-12-0{n}T00:00", f"2026-12-0{n + 1}T00:00", "UTC", f"Day {n}") for n in (1, 2, 3)
    ]
    begun = timeline.parse_instant("2026-12-01T12:00:00Z")
    free = quiet.free_from(days, begun)
    assert free == timeline.parse_instant("2026-12-04T00:00:00Z")
    assert quiet.covering(days, begun) == (days[0], begun + 12 * 3600 * timeline.SECOND)
    assert quiet.covering(days, free) is None


@pytest.mark.parametrize(
    ("begins", "ends", "rule", "code"),
    [
        ("2026-12-01T22:00", "2026-12-01T22:00", "", "quiet.ends_first"),
        ("2026-12-01T22:00", "2028-12-01T22:00", "", "quiet.too_long"),
        ("2026-12-01T22:00", "2026-12-02T22:00", "FREQ=DAILY", "quiet.always"),
        ("2026-12-01", "2026-12-02T22:00", "", "timeline.no_wall_time"),
        ("2026-12-01T22:00", "2026-12-02T06:00", "nightly", "recurrence.no_rule"),
    ],
)
def test_what_is_no_period_is_refused(begins: str, ends: str, rule: str, code: str) -> None:
    with pytest.raises(BadTime) as refused:
        quiet.checked(begins, ends, "Europe/London", "", rule)
    assert refused.value.message.code == code


@given(
    st.integers(1, 400),
    st.sampled_from(
        ["", "FREQ=DAILY", "FREQ=WEEKLY;BYDAY=MO,FR", "FREQ=MONTHLY;BYDAY=1SU", "FREQ=DAILY;COUNT=5"]
    ),
    st.integers(0, 900),
)
def test_what_covers_an_instant_is_what_is_found_between_two(hours: int, rule: str, later: int) -> None:
    begins = datetime(2026, 3, 20, 21)
    one = QuietPeriod(
        begins.isoformat(timespec="minutes"),
        (begins + timedelta(hours=hours)).isoformat(timespec="minutes"),
        "America/New_York",
        rule=rule,
    )
    first = timeline.from_datetime(begins.replace(tzinfo=timeline.zone("America/New_York")))
    instant = first + (later * 7 - 100) * 3600 * timeline.SECOND
    week = 7 * 24 * 3600 * timeline.SECOND
    there = [(a, b) for a, b in one.spans(instant - week, instant + week) if a <= instant < b]
    found = quiet.covering([one], instant)
    assert (found[1] if found else None) == (max(b for _, b in there) if there else None)
