"""Ranks leave room, crops keep what matters, addresses say what is missing."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import outline, pictures, sites
from hawthorn.core.errors import Invalid
from hawthorn.core.pictures import Crop


@given(st.lists(st.integers(0, 10_000), max_size=150), st.integers(0, 5))
def test_there_is_always_room_between_two_ranks(places: list[int], begun: int) -> None:
    ranks = [outline.natural(n) for n in range(1, begun + 1)]
    for place in places:
        at = place % (len(ranks) + 1)
        before = ranks[at - 1] if at else ""
        after = ranks[at] if at < len(ranks) else ""
        ranks.insert(at, outline.between(before, after))
    assert ranks == sorted(set(ranks))
    assert not any(rank.endswith("0") for rank in ranks)


@given(st.integers(1, 60))
def test_a_rank_grows_slowly_where_everything_is_put_first(times: int) -> None:
    rank = outline.natural(1)
    for _ in range(times):
        rank = outline.between("", rank)
    assert len(rank) < 10 + times / 3


@pytest.mark.parametrize(("before", "after"), [("b", "a"), ("a", "a")])
def test_nothing_lies_between_what_is_not_in_order(before: str, after: str) -> None:
    with pytest.raises(ValueError, match="does not come before"):
        outline.between(before, after)


def test_a_loop_is_found_through_the_entry_alone() -> None:
    assert outline.loop(1, {1: 2, 2: 3, 3: 1}.__getitem__) == [1, 2, 3]
    assert outline.loop(4, {4: 1, 1: 2, 2: 1}.__getitem__) == []
    assert outline.loop(1, {1: 0}.__getitem__) == []


SIDES = st.integers(1, 6000)


@given(SIDES, SIDES, st.integers(16, 3000), st.integers(0, 3000), st.integers(0, 100), st.integers(0, 100))
def test_a_crop_keeps_its_focus_and_its_shape_and_never_enlarges(
    width: int, height: int, wide: int, high: int, x: int, y: int
) -> None:
    crop = Crop("c", width=wide, height=0 if high < 16 else high)
    left, top, right, bottom = crop.window(width, height, x, y)
    assert 0 <= left < right <= width
    assert 0 <= top < bottom <= height
    assert left <= width * x / 100 <= right
    assert top <= height * y / 100 <= bottom
    assert (left, right) == (0, width) or (top, bottom) == (0, height)
    made = crop.size(width, height)
    assert made[0] <= max(wide, 1)
    assert made[0] <= right - left
    if crop.height and min(made) > 40:
        assert made[0] / made[1] == pytest.approx(wide / crop.height, rel=0.06)


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        ([{"name": "A", "width": 100}], "small letters"),
        ([{"name": "a", "width": 5}], "16 to"),
        ([{"name": "a", "width": 100}, {"name": "a", "width": 200}], "twice"),
        ([{"name": "a", "width": "wide"}], "width"),
        ([{"name": "a", "width": 100, "hight": 1}], "hight"),
        ("wide", "is a list"),
    ],
)
def test_crops_that_cannot_be_say_why(raw: Any, says: str) -> None:
    with pytest.raises(Invalid, match=says):
        pictures.from_list(raw)


TYPES = {"notice": SimpleNamespace(fields=[SimpleNamespace(name="kind")])}


@pytest.mark.parametrize(
    ("address", "says"),
    [
        ("harbour.example/{path}", "begins with http"),
        ("https://{slug}.example/x", "the host is fixed"),
        ("https://harbour.example/{path", "brace"),
        ("https://harbour.example/{page}", "it may name"),
        ("https://harbour.example/{field:colour}", "it may name"),
    ],
)
def test_addresses_that_cannot_be_say_why(address: str, says: str) -> None:
    with pytest.raises(Invalid, match=says):
        sites.from_list([{"name": "live", "addresses": {"notice": address}}], TYPES, ["draft", "release"])


def test_an_address_is_filled_with_the_entry_s_own_values() -> None:
    template = "https://harbour.example/{locale}/{field:kind}/{slug}?id={id}"
    values = {"locale": "ja", "field:kind": "tide & wind", "slug": "灯台", "id": "7"}
    assert sites.fill(template, values) == (
        "https://harbour.example/ja/tide%20%26%20wind/%E7%81%AF%E5%8F%B0?id=7",
        [],
    )
    assert sites.fill(template, {**values, "slug": ""})[1] == ["slug"]
    assert sites.fill("http://a.example/{path}", {"path": "/en/a b"})[0] == "http://a.example/en/a%20b"
    assert sites.carrying("http://a.example/x?y=1#z", "t.s") == "http://a.example/x?y=1&preview=t.s#z"
    made = sites.from_list(
        [{"name": "live", "addresses": {"*": "https://h.example:8443/{path}"}}], TYPES, ["release"]
    )
    assert made["live"].origins == {"https://h.example:8443"}
    assert made["live"].template("notice") == "https://h.example:8443/{path}"
