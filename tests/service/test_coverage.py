"""Coverage: what each edition is against its source, kept with every change, found by it and summed."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import Invalid
from hawthorn.operations.access import people
from hawthorn.operations.content import changing
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import View, setup_changed
from hawthorn.operations.translation import coverage, grid, translation
from hawthorn.operations.translation.grid import Asked
from hawthorn.store import definitions
from hawthorn.store import people as people_store
from tests.service.made import House
from tests.service.test_returns import order, returned, save, without


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)

    def more(act: Any) -> None:
        definitions.add_locale(act.conn, "fr", "French")
        definitions.add_locale(act.conn, "de", "German")
        setup_changed(act)

    made.do("ida", more)
    yield made
    with made.desk.db.read() as conn:
        assert list(coverage.wrong(conn)) == [], "what is kept is what counting anew gives"
    made.close()


def lines(house: House, who: str = "ida", **asked: str) -> list[grid.GridLine]:
    found, more = house.desk.read(house.who(who), lambda v: grid.lines(v, Asked(**asked), 50, ""))
    assert more == ""
    return list(found)


def cell(house: House, page: str, locale: str = "fr") -> tuple[str, int, int, int]:
    (line,) = [one for one in lines(house) if one.id == page]
    (found,) = [one for one in line.cells if one.locale == locale]
    return found.state, found.due, found.words_due, found.percent


def totals(house: House, locale: str, who: str = "ida", **asked: str) -> grid.Total:
    found = house.desk.read(house.who(who), lambda v: grid.totals(v, Asked(**asked)))
    return next(one for one in found if one.locale == locale)


def release(house: House, page: str, locale: str) -> None:
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, locale)]))


def test_an_edition_goes_through_every_state(house: House) -> None:
    page = house.signed("The lamp", body="<p>One burns.</p><p>Two is dark.</p>")
    release(house, page, "en")
    assert cell(house, page) == ("none", 3, 7, 0)
    job = order(house, page)
    assert cell(house, page) == ("in a job", 3, 7, 0)
    returned(house, job, spoil=without("title"))
    assert cell(house, page) == ("in a job", 1, 2, 67), "the title has not returned"
    returned(house, job)
    assert cell(house, page) == ("draft", 0, 0, 0)
    house.do("ida", lambda a: translation.accept(a, job))
    assert cell(house, page) == ("draft", 0, 0, 0), "whoever imported it may not sign it off"
    house.do("oda", lambda a: review.sign_off(a, page, "fr", _number(house, page, "fr")))
    assert cell(house, page) == ("ready", 0, 0, 0)
    release(house, page, "fr")
    assert cell(house, page) == ("out", 0, 0, 0)
    save(house, page, "en", body="<p>One burns bright.</p><p>Two is dark.</p>")
    assert cell(house, page) == ("out", 1, 3, 0), "readers see no difference yet"
    house.do("wim", lambda a: review.submit(a, page, "en"))
    house.do("ida", lambda a: review.sign_off(a, page, "en", _number(house, page)))
    release(house, page, "en")
    assert cell(house, page) == ("out and out of date", 1, 3, 0)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "fr", verb="withdraw")]))
    assert cell(house, page) == ("out of date", 1, 3, 0)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", verb="archive")]))
    assert lines(house) == []


def _number(house: House, page: str, locale: str = "en") -> int:
    with house.desk.db.read() as conn:
        return int(
            conn.execute(
                "SELECT r.number FROM entry e JOIN edition d ON d.entry = e.id AND d.locale = ? JOIN strand s "
                "ON s.edition = d.id AND s.name = 'draft' JOIN revision r ON r.id = s.head WHERE e.uuid = ?",
                (locale, page),
            ).fetchone()[0]
        )


def test_entries_are_found_by_state_owner_and_day_and_summed(house: House) -> None:
    bare, begun, asked_for = (house.page(title, body="<p>Some words.</p>") for title in ("A", "B", "C"))
    job = order(house, begun)
    returned(house, job)
    order(house, asked_for, due="2031-05-01")

    def found(**asked: str) -> list[str]:
        return sorted(one.title for one in lines(house, **asked))

    assert found() == ["A", "B", "C"]
    assert found(state="none", locale="fr") == ["A", "C"]
    assert found(state="in a job", locale="fr") == ["C"]
    assert found(state="draft") == ["B"]
    assert found(state="draft", locale="de") == []
    assert found(due="2031-05-01") == ["C"]
    assert found(due="2031-04-30") == []
    assert found(owner="wim") == ["A", "B", "C"]
    assert found(owner="oda") == []
    assert found(words="words", state="none", locale="fr") == ["A", "C"]
    french = totals(house, "fr")
    assert (french.entries, french.units, french.current, french.words, french.words_current) == (
        3,
        6,
        2,
        9,
        3,
    )
    assert french.states["none"] == 2
    assert french.states["draft"] == 1
    assert totals(house, "en").entries == 0, "nothing is written in another locale"
    assert totals(house, "fr", state="draft").entries == 1
    for wrong in ({"state": "lost"}, {"owner": "nobody"}, {"due": "soon"}):
        with pytest.raises(Invalid):
            lines(house, **wrong)
    assert bare


def test_a_type_that_becomes_translatable_shows_its_entries_as_missing(house: House) -> None:
    page = house.page("A")

    def translated(yes: bool) -> None:
        def change(act: Any) -> None:
            changing.define_type(act, {**changing.definition_of(act, "page"), "translated": yes})

        house.do("ida", change)

    translated(False)
    assert lines(house) == []
    translated(True)
    assert cell(house, page)[0] == "none"


def test_sums_hold_what_may_be_read_alone(house: House) -> None:
    house.page("A", body="<p>Some words.</p>")

    def limited(act: Any) -> None:
        people_store.set_role(act.conn, "french", "french", [{"verb": "read", "locales": ["fr"]}])
        people.add_person(act, "kit", "Kit", "kit@x.example", "long enough", [{"name": "french"}])

    house.by_scheduler(limited)
    assert lines(house, who="kit") == []
    assert totals(house, "fr", who="kit").entries == 0
    assert totals(house, "fr").entries == 1


def test_a_page_of_the_grid_and_its_sums_take_a_fixed_number_of_questions(house: House) -> None:
    def asked(look: Any) -> int:
        def counted(view: View) -> int:
            said: list[str] = []
            view.conn.set_trace_callback(said.append)
            look(view)
            view.conn.set_trace_callback(None)
            return len(said)

        return house.desk.read(house.who("ida"), counted)

    def both(view: View) -> None:
        grid.lines(view, Asked(), 50, "")
        grid.totals(view, Asked())

    house.page("A")
    few = asked(both)
    for n in range(8):
        order(house, house.page(f"B {n}"))
    assert asked(both) == few
