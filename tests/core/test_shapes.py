"""Definitions of any shape are taken or refused in words; times beyond the calendar are too."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import contenttypes, timeline, workflow
from hawthorn.core.errors import BadTime, HawthornError
from hawthorn.messages import ENGLISH


def attempt(act: Callable[..., Any], *given: Any) -> tuple[Any, Any]:
    """What an act gives, or its refusal; anything else fails the test."""
    try:
        return act(*given), None
    except HawthornError as refused:
        return None, refused


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=8,
)
FIELD = st.fixed_dictionaries(
    {"name": st.just("title") | JSON, "kind": st.sampled_from(["line", "rich", "magic"]) | JSON},
    optional={
        "label": JSON,
        "limit": JSON,
        "choices": JSON,
        "types": JSON,
        "many": JSON,
        "required": JSON,
        "odd": JSON,
    },
)
STAGE = st.fixed_dictionaries(
    {"name": st.sampled_from(["draft", "release"]) | JSON, "order": st.integers(0, 9) | JSON},
    optional={"label": JSON, "gate": JSON},
)


@given(
    st.fixed_dictionaries(
        {"name": st.just("x") | JSON, "fields": st.lists(FIELD, max_size=3) | JSON},
        optional={"title": JSON, "section": JSON, "workflow": JSON},
    )
)
def test_a_type_of_any_shape_is_whole_or_refused(data: dict) -> None:
    made, refused = attempt(contenttypes.from_dict, data)
    if made is None:
        assert refused.facts["problems"]
        return
    assert contenttypes.from_dict(contenttypes.to_dict(made)) == made
    assert contenttypes.json_schema(made)["properties"]


@given(st.fixed_dictionaries({"name": st.just("x") | JSON, "stages": st.lists(STAGE, max_size=3) | JSON}))
def test_a_workflow_of_any_shape_is_whole_or_refused(data: dict) -> None:
    made, refused = attempt(workflow.from_dict, data)
    if made is None:
        assert str(refused)
        return
    assert workflow.from_dict(workflow.to_dict(made)) == made
    assert next(s.name for s in made.stages) == "draft"


@given(
    st.text(max_size=25),
    st.sampled_from(["UTC", "Europe/London", "", "Nowhere", "../x"]),
    st.sampled_from(["", "earlier", "later", "x"]),
)
def test_no_time_fails_in_any_other_way(text: str, zone: str, fold: str) -> None:
    for act in (lambda: timeline.resolve_wall(text, zone, fold), lambda: timeline.parse_instant(text)):
        made, refused = attempt(act)
        assert made is not None or ENGLISH.remedy(refused)


@pytest.mark.parametrize("text", ["0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-12:00"])
def test_instants_beyond_the_calendar_are_refused(text: str) -> None:
    with pytest.raises(BadTime, match="beyond the calendar"):
        timeline.parse_instant(text)


@given(
    st.datetimes(min_value=timeline.datetime(1990, 1, 1), max_value=timeline.datetime(2090, 1, 1)),
    st.sampled_from(["Europe/London", "America/New_York", "Asia/Tokyo", "Australia/Lord_Howe"]),
)
def test_a_wall_time_that_exists_is_the_wall_time_of_its_instant(naive: timeline.datetime, zone: str) -> None:
    wall = naive.replace(microsecond=0)
    found, refused = attempt(timeline.resolve_wall, wall.isoformat(), zone)
    if found is None:
        assert refused.facts["choices"]
        return
    assert timeline.to_datetime(found.instant).astimezone(timeline.zone(zone)).replace(tzinfo=None) == wall
    assert timeline.resolve_wall(found.wall, found.zone, found.fold) == found
