"""Shared fields go along with the text that they were approved with: no others do, and none hold it up."""

from __future__ import annotations

import pytest

from hawthorn.core.errors import GateUnmet
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.delivery import reading, rendering
from hawthorn.operations.release import dispatches, workflows
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.runtime.act import View
from hawthorn.operations.views import show, show_dispatches
from hawthorn.store import dispatches as dispatch_store
from tests.service.made import House
from tests.service.test_signing import covered, fields_out, house, offered, save, sign, submit

__all__ = ["house"]


def release(house: House, page: str, locale: str = "en") -> None:
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, locale)]))


def follow(house: House, page: str, seconds: float = 100) -> str:
    """Plan that whatever is approved by then goes out; returns the dispatch."""
    when = When(instant=iso(house.clock.at + round(seconds * SECOND)))
    return house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", follows=True)], when))


def out(house: House, page: str) -> tuple[str, int]:
    found = fields_out(house, page)
    return found["title"], found["level"]


def ready(house: House) -> str:
    """A page that is out, with a newer text that was signed off."""
    page = house.signed("Fog", level=1)
    release(house, page)
    save(house, page, title="Mist")
    submit(house, page)
    sign(house, page, 2)
    return page


def test_what_somebody_writes_in_shared_fields_holds_up_no_text_that_was_signed_off(house: House) -> None:
    page = ready(house)
    save(house, page, level=9)
    gate = house.desk.read(house.who("ida"), lambda v: show.entry(v, page, "en"))["gate"]
    assert gate is not None
    assert (gate["unmet"], gate["common_revision"]) == ([], 1)
    release(house, page)
    assert out(house, page) == ("Mist", 1)
    # It goes its own way after that.
    assert offered(house, page, "wim") == {"submit"}
    submit(house, page)
    sign(house, page, 2, shared=2)
    release(house, page)
    assert (out(house, page), covered(house, page)) == (("Mist", 9), [(True, True)])


def test_shared_fields_that_wait_elsewhere_still_go_with_nothing_unsigned(house: House) -> None:
    page = ready(house)
    save(house, page, "fr", title="Brume", body="<p>Mots.</p>", level=9)
    submit(house, page, "fr")
    with pytest.raises(GateUnmet, match="sign-off"):
        release(house, page)
    sign(house, page, 1, shared=2, locale="fr")
    release(house, page)
    assert out(house, page) == ("Mist", 9)


def test_what_follows_goes_with_the_shared_fields_that_it_was_approved_with(house: House) -> None:
    page = house.signed("Fog", level=1)
    release(house, page)
    save(house, page, title="Mist")
    planned = follow(house, page)

    def looked(view: View) -> list[tuple[str, int | None]]:
        row = dispatch_store.by_uuid(view.conn, planned)
        assert row is not None
        return [(one["locale"], one["after"]) for one in show_dispatches.dispatch(view, row)["moves"]]

    def moves() -> list[tuple[str, int | None]]:
        return house.desk.read(house.who("ida"), looked)

    def foreseen() -> int:
        place = reading.Place(at=house.clock.at + 1_000 * SECOND)
        data = house.desk.read(house.who("ida"), lambda v: rendering.render(v, page, "en", place)).data
        return int(b'"level":9' in data.replace(b" ", b""))

    assert (moves(), foreseen()) == ([("en", 2), ("*", 1)], 0)
    save(house, page, level=9)
    submit(house, page)
    sign(house, page, 2, shared=2)
    assert (moves(), foreseen()) == ([("en", 2), ("*", 2)], 1)
    house.later(200)
    assert (house.state(planned), out(house, page)) == ("gone", ("Mist", 9))


def test_what_follows_is_not_held_as_somebody_writes_in_shared_fields(house: House) -> None:
    page = ready(house)
    save(house, page, level=5)
    planned = follow(house, page)
    save(house, page, level=7)
    house.later(200)
    assert (house.state(planned), out(house, page)) == ("gone", ("Mist", 1))


def test_where_nothing_is_reviewed_shared_fields_go_as_they_are(house: House) -> None:
    plain = {"name": "standard", "label": "Plain", "stages": [{"name": "draft"}, {"name": "release"}]}
    house.do("ida", lambda a: workflows.define(a, plain))
    page = house.page("Fog", level=1)
    release(house, page)
    save(house, page, title="Mist", level=9)
    release(house, page)
    assert out(house, page) == ("Mist", 9)
    save(house, page, level=3)
    assert "release" in offered(house, page, "ida")
    release(house, page)
    assert out(house, page) == ("Mist", 3)
