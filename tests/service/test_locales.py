"""Locales of a house: added, ordered, ended and brought back, with what is written in them."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import timeline
from hawthorn.core.errors import InTheWay, Invalid, Refused
from hawthorn.core.locales import from_list
from hawthorn.core.timeline import SECOND
from hawthorn.operations.collaboration import assignments
from hawthorn.operations.content import entries, locales
from hawthorn.operations.delivery import reading, rendering
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import dispatches, gathering, review, undoing
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.translation import sending
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.views import my_work, show
from tests.conftest import Running
from tests.service.made import START, House
from tests.service.test_returns import save

EN, FR, CA = (
    {"tag": tag, "name": name} for tag, name in (("en", "English"), ("fr", "Français"), ("fr-CA", ""))
)


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def define(house: House, *some: dict[str, Any]) -> list[tuple[str, str]]:
    return [(c.tag, c.how) for c in house.do("ida", lambda a: locales.define(a, list(some)))]


def tags(house: House) -> list[str]:
    return house.desk.read(house.who("ida"), lambda v: [*v.setup.locales])


def translate(house: House, page: str, locale: str, title: str) -> None:
    base = entries.parse_etag(
        house.desk.read(house.who("wim"), lambda v: show.entry(v, page, locale))["etag"]
    )
    house.do(
        "wim", lambda a: entries.save(a, page, locale, {"title": title, "body": f"<p>{title}</p>"}, base)
    )
    house.do("wim", lambda a: review.submit(a, page, locale))
    house.do("oda", lambda a: review.sign_off(a, page, locale, 1))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, locale)]))


def read(house: House, page: str, locale: str) -> tuple[str, str]:
    body = json.loads(
        house.desk.read(house.who("ida"), lambda v: rendering.render(v, page, locale, Place())).data
    )
    return body["locale"], body["title"]


def test_a_new_house_gets_its_languages(house: House) -> None:
    assert tags(house) == ["en"]
    assert define(house, {"tag": "EN", "name": "English"}, FR, {"tag": "ar"}) == [
        ("fr", "added"),
        ("ar", "added"),
    ]
    found = house.desk.read(house.who("ida"), lambda v: {**v.setup.languages})
    assert [(one.name, one.rtl) for one in found.values()] == [
        ("English", False),
        ("Français", False),
        ("ar", True),
    ]
    assert define(house, {"tag": "en", "name": "English"}, FR, {"tag": "ar"}) == []
    assert define(house, FR, {"tag": "en", "name": "English"}, {"tag": "ar", "direction": "ltr"}) == [
        ("ar", "changed")
    ]
    assert tags(house)[0] == "fr"
    with pytest.raises(Refused):
        house.do("oda", lambda a: locales.define(a, [EN]))


def test_what_stands_in_is_shown_before_the_source_and_at_once(house: House) -> None:
    define(house, EN, FR, {**CA, "fallback": ["fr"]})
    page = house.signed("Lamp")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    assert read(house, page, "fr-CA") == ("en", "Lamp")
    translate(house, page, "fr", "La lampe")
    assert read(house, page, "fr-CA") == ("fr", "La lampe")
    define(house, EN, FR, CA)
    assert read(house, page, "fr-CA") == ("en", "Lamp")


def test_undoing_leaves_what_the_locales_share_to_those_that_stay_out(house: House) -> None:
    define(house, EN, FR)
    page = house.signed("Lamp")
    english = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    translate(house, page, "fr", "La lampe")
    assert house.is_out(page, "*"), "the shared fields went with the first"
    house.do("ida", lambda a: undoing.undo(a, english))
    assert [house.is_out(page, tag) for tag in ("en", "fr", "*")] == [False, True, True]
    assert read(house, page, "fr") == ("fr", "La lampe")


def test_one_that_is_used_does_not_end_and_one_that_ended_comes_back_with_what_was_written(
    house: House,
) -> None:
    define(house, EN, FR)
    page = house.signed("Lamp")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    translate(house, page, "fr", "La lampe")
    with pytest.raises(InTheWay, match="cannot end: 1 edition is out"):
        define(house, EN)
    with pytest.raises(InTheWay, match="1 entry is written in it first"):
        define(house, FR)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "fr", "withdraw")]))
    assert define(house, EN) == [("fr", "ended")]
    with pytest.raises(Invalid, match="not a locale here"):
        house.desk.read(house.who("wim"), lambda v: show.entry(v, page, "fr"))
    shown = house.desk.read(house.who("wim"), lambda v: show.entry(v, page, "en"))
    assert [one["locale"] for one in shown["locales"]] == ["en"]
    assert define(house, EN, FR) == [("fr", "back")]
    assert (
        house.desk.read(house.who("wim"), lambda v: show.entry(v, page, "fr"))["fields"]["title"]
        == "La lampe"
    )
    define(house, EN, FR, CA)
    house.do("ida", lambda a: sending.commission(a, Order((page,), ("fr-CA",))))
    with pytest.raises(InTheWay, match="1 translation job is not finished"):
        define(house, EN, FR)
    assert house.desk.read(house.who("ida"), lambda v: reading.best_locale(v, "", [("fr-BE", 1.0)])) == "fr"


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ([], "at least one"),
        ([{"tag": "not a tag"}], "is no language tag"),
        ([{"tag": "xx-toolongsubtag"}], "is no language tag"),
        ([EN, EN], "is there twice"),
        ([EN, {"tag": "en"}], "is there twice"),
        ([{"tag": "en", "direction": "up"}], "ltr, rtl"),
        ([{"tag": "en", "fallback": ["en"]}], "the locale itself"),
        ([{"tag": "en", "fallback": ["fr"]}], "none of these locales"),
        ([EN, {"tag": "fr", "fallback": ["en", "en"]}], "names a locale twice"),
        ([{"tag": "en", "name": "a\nb"}], "cannot be seen"),
    ],
)
def test_what_cannot_be_a_locale_says_why(given: list[Any], says: str) -> None:
    with pytest.raises(Invalid, match=says):
        from_list(given)


def test_over_http_a_change_is_said_before_it_is_made(running: Running) -> None:
    ida = running.as_("ida")
    before = [one.model_dump(exclude={"rtl"}) for one in ida.setup().locales]
    with_welsh = [*before, {"tag": "gd", "fallback": ["en"]}]
    said = ida.check_locales(with_welsh).changes
    assert [(c.tag, c.name, c.how, c.in_the_way) for c in said] == [("gd", "gd", "added", "")]
    assert "gd" not in [one.tag for one in ida.setup().locales]
    try:
        assert ida.define_locales(with_welsh).locales[-1].fallback == ["en"]
        ends = ida.check_locales([one for one in with_welsh if one["tag"] != "fr"]).changes
        assert ends[0].how == "ended"
        assert "cannot end" in ends[0].in_the_way
    finally:
        assert [c.how for c in ida.define_locales(before).changes] == ["ended"]


def test_a_language_in_which_something_may_go_out_yet_does_not_end(house: House) -> None:
    define(house, EN, FR)
    lamp, bell = house.page("Lamp"), house.page("Bell")
    for page in (lamp, bell):
        save(house, page, "fr", title="La lampe", body="<p>Un.</p>")
        house.do("wim", lambda a, p=page: review.submit(a, p, "fr"))
    house.do("oda", lambda a: review.sign_off(a, lamp, "fr", 1))
    house.do(
        "ida",
        lambda a: assignments.assign(a, bell, "fr", "wim", due=timeline.iso(START + 24 * 3600 * SECOND)[:10]),
    )
    held = house.do("wim", lambda a: gathering.start(a, About("Spring"), [MoveRequest(bell, "fr")]))
    at = When(instant=timeline.iso(house.clock.at + 100 * SECOND))
    planned = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "fr")], at))
    with pytest.raises(InTheWay, match="2 dispatches with something of it may go yet"):
        define(house, EN)
    for one in (planned, held):
        house.do("ida", lambda a, d=one: dispatches.cancel(a, d))

    def work() -> list[int]:
        found = [house.desk.read(house.who(w), lambda v: my_work.my_work(v)) for w in ("oda", "wim", "ida")]
        return [
            len(some)
            for one in found
            for some in (
                one["waiting"],
                one["you_wait_for"],
                one["assigned_to_you"],
                one["assigned_to_others"],
            )
        ]

    there = work()
    assert sum(there) == 6
    define(house, EN)
    assert sum(work()) == 0, "nobody can open what is in it"
    house.later(3 * 24 * 3600)
    assert house.do("ida", assignments.remind) == 0
    define(house, EN, FR)
    assert work() == there
