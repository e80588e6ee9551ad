"""Coverage: what each edition is against its source, kept with every change, found by it and summed."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import InTheWay, Invalid, Refused
from hawthorn.operations.access import people
from hawthorn.operations.content import changing, entries
from hawthorn.operations.release import dispatches, drafts, review
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import View, setup_changed
from hawthorn.operations.translation import accepting, against, coverage, exporting, grid
from hawthorn.operations.translation.grid import Asked
from hawthorn.store import definitions
from hawthorn.store import entries as entry_store
from hawthorn.store import people as people_store
from tests.service.made import House
from tests.service.test_returns import fields, order, returned, save, without


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
    house.do("ida", lambda a: accepting.accept(a, job))
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
    assert totals(house, "fr", words="words").entries == 3
    assert totals(house, "fr", words="zebra").entries == 0
    assert found(words="zebra") == []
    assert found(words="French") == ["B"], "words of a translation find its entry, once"
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


def due(house: House, page: str, who: str = "ida", locale: str = "fr") -> dict[str, against.Due]:
    found = house.desk.read(house.who(who), lambda v: against.look(v, page, locale))
    return {one.key: one for one in found.due}


def fits(house: House, page: str, *keys: str, who: str = "wim") -> None:
    seen = {key: one.hash for key, one in due(house, page).items() if key in keys or not keys}
    house.do(who, lambda a: against.still_fits(a, page, "fr", seen))


def test_what_is_due_is_shown_with_the_words_that_changed_and_may_be_said_to_fit(house: House) -> None:
    page = house.page("The lamp", body="<p>One burns.</p><p>Two is dark.</p>")
    returned(house, order(house, page))
    save(house, page, "en", title="The lamps", body="<p>One burns bright.</p><p>Three is new.</p>")
    found = due(house, page)
    assert sorted(one.how for one in found.values()) == ["changed", "changed", "gone", "missing"]
    title = found["title"]
    assert (title.then, title.now, title.target) == ("The lamp", "The lamps", "French of The lamp")
    assert [(r.how, r.text) for r in title.runs if r.how != "same"] == [("gone", "lamp"), ("new", "lamps")]
    (missing,) = [one.key for one in found.values() if one.how == "missing"]
    (gone,) = [one.key for one in found.values() if one.how == "gone"]
    with pytest.raises(Invalid, match="nothing is written there yet"):
        fits(house, page, missing)
    fits(house, page, "title", gone)
    assert sorted(one.how for one in due(house, page).values()) == ["changed", "missing"]
    assert fields(house, page)["title"] == "French of The lamp", "the words are as they were"
    with pytest.raises(InTheWay, match="changed since you looked: title"):
        house.do("wim", lambda a: against.still_fits(a, page, "fr", {"title": "0" * 16}))
    with pytest.raises(Invalid, match="at least one"):
        house.do("wim", lambda a: against.still_fits(a, page, "fr", {}))


def test_what_somebody_wrote_by_hand_counts_once_it_was_checked_against_its_source(house: House) -> None:
    page = house.page("The lamp", body="<p>One.</p><p>Two.</p>")
    with pytest.raises(InTheWay, match="no text in French"):
        house.do("wim", lambda a: against.still_fits(a, page, "fr", {"title": _hash(house, page)}))
    save(house, page, "fr", title="La lampe", body="<p>Un.</p><p>Deux.</p>")
    assert cell(house, page)[:2] == ("draft", 3)
    assert [one.target for one in due(house, page).values()] == ["La lampe", "Un.", "Deux."]
    fits(house, page)
    assert cell(house, page)[:2] == ("draft", 0)
    with pytest.raises(InTheWay, match="up to date"):
        order(house, page)
    save(house, page, "en", title="The lamps", body="<p>One.</p><p>Two.</p>")
    assert list(due(house, page)) == ["title"]


def _hash(house: House, page: str) -> str:
    with house.desk.db.read() as conn:
        detail = conn.execute("SELECT detail FROM coverage_detail WHERE locale = 'en'").fetchone()[0]
    return str({key: digest for key, digest, _ in json.loads(detail)}["title"])


def test_the_source_is_shown_to_who_may_read_it_and_said_to_fit_by_who_may_write(house: House) -> None:
    page = house.page("The lamp")
    save(house, page, "fr", title="La lampe")

    def more(act: Any) -> None:
        people_store.set_role(act.conn, "french", "french", [{"verb": "read", "locales": ["fr"]}])
        people_store.set_role(act.conn, "reader", "reader", [{"verb": "read"}])
        for handle, role in (("kit", "french"), ("ria", "reader")):
            people.add_person(act, handle, handle, f"{handle}@x.example", "long enough", [{"name": role}])

    house.by_scheduler(more)
    assert due(house, page, who="kit") == {}
    assert "title" in due(house, page, who="ria")
    with pytest.raises(Refused):
        fits(house, page, who="ria")


def test_what_is_not_to_be_translated_is_no_unit_and_goes_along_as_it_is(house: House) -> None:
    def with_number(act: Any, translate: bool) -> None:
        page = changing.definition_of(act, "page")
        others = [one for one in page["fields"] if one["name"] != "number"]
        number = {"name": "number", "kind": "line", "label": "Number", "translate": translate}
        changing.define_type(act, {**page, "fields": [*others, number]})

    house.do("ida", lambda a: with_number(a, True))
    page = house.page("The lamp", body="<p>One burns.</p>", number="PH twelve")
    assert cell(house, page) == ("none", 3, 6, 0)
    house.do("ida", lambda a: with_number(a, False))
    assert cell(house, page) == ("none", 2, 4, 0), "it is counted anew"
    job = order(house, page)
    _, data = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    assert b"PH twelve" not in data
    returned(house, job)
    assert cell(house, page) == ("draft", 0, 0, 0)

    def french(view: Any) -> str:
        entry = entry_store.entry(view.conn, page)
        assert entry is not None
        return str(drafts.drafted(view, entry.id, "fr").fields["number"])

    assert house.desk.read(house.who("ida"), french) == "PH twelve"
    # What is due is what is to be translated alone.
    base = house.desk.read(house.who("ida"), lambda v: entries.base_now(v, page, "en"))
    house.do("ida", lambda a: entries.save(a, page, "en", {"number": "PH thirteen"}, base))
    assert cell(house, page)[:2] == ("draft", 0)
    house.do("ida", lambda a: with_number(a, True))
    assert cell(house, page)[1] == 1, "nobody translated it"
