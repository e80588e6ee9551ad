"""The moves of a dispatch beside releasing and withdrawing: advance to a stage, archive, and set fields."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import GateUnmet, InTheWay, Invalid, Refused
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import reading
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import dispatches, gathering, planning, review, reviewing, undoing
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.search import finding
from hawthorn.operations.views import my_work, show, show_history
from hawthorn.store import revisions
from hawthorn.store import strands as strand_store
from tests.service.made import House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def soon(house: House, seconds: float) -> When:
    return When(instant=iso(house.clock.at + round((seconds + 1) * SECOND)))


def make(
    house: House, *requests: MoveRequest, when: When | None = None, who: str = "ida", **more: Any
) -> str:
    return house.do(who, lambda a: dispatches.make(a, requests, when, **more))


def out(house: House, title: str = "Fog", **fields: Any) -> str:
    page = house.signed(title, **fields)
    make(house, MoveRequest(page, "en"))
    return page


def shown(house: House, page: str, who: str = "ida") -> dict[str, Any]:
    return house.desk.read(house.who(who), lambda v: show.entry(v, page, "en"))


def save(house: House, page: str, strand: str = "draft", who: str = "wim", **fields: Any) -> Any:
    def do(act: Any) -> Any:
        base = entries.current_base(act, entries.store.entry(act.conn, page).id, "en", strand)
        return entries.save(act, page, "en", fields, base, "", strand)

    return house.do(who, do)


def read_out(house: House, page: str, at: int | None = None) -> Any:
    """The fields that readers see, now or at an instant."""

    def look(view: Any) -> Any:
        edition = entries.store.edition(view.conn, entries.store.entry(view.conn, page).id, "en")
        found = reading.revision_at(view, edition.id, Place(at=at))
        return revisions.content(view.conn, found[0]).fields if found else None

    return house.desk.read(house.who("ida"), look)


def setting(page: str, **fields: Any) -> MoveRequest:
    return MoveRequest(page, "en", "set", payload={"fields": fields})


def signed_set(house: House, page: str, when: When | None = None, **fields: Any) -> str:
    """Fields that are set in an open dispatch, signed off there, and planned."""
    id = house.do("wim", lambda a: gathering.start(a, About("Winter"), [setting(page, **fields)]))
    house.do("wim", lambda a: reviewing.ask(a, id, "Please."))
    house.do("oda", lambda a: reviewing.sign(a, id))
    if when is not None:
        house.do("ida", lambda a: dispatches.plan(a, id, when))
    return id


# -- set ---------------------------------------------------------------------------------------------------------


def test_a_field_is_set_where_readers_see_it_and_comes_into_the_draft_beside_what_was_written_there(
    house: House,
) -> None:
    page = out(house)
    save(house, page, body="<p>Not yet signed.</p>")
    id = signed_set(house, page, soon(house, 600), title="Fog, closed")
    assert read_out(house, page)["title"] == "Fog"
    assert read_out(house, page, house.clock.at + 700 * SECOND)["title"] == "Fog, closed", "foreseen"
    house.later(700)
    assert house.state(id) == "gone"
    seen = read_out(house, page)
    assert (seen["title"], seen["body"]) == ("Fog, closed", "<p>Words.</p>"), "only what was set changed"
    draft = shown(house, page)["fields"]
    assert (draft["title"], draft["body"]) == ("Fog, closed", "<p>Not yet signed.</p>")
    history = house.desk.read(house.who("ida"), lambda v: show_history.history(v, page, "en"))
    assert [s["ended"] for s in house.desk.read(house.who("ida"), lambda v: _strands(v, page))] == ["merged"]
    assert history["revisions"][0]["author_kind"] == "scheduler"


def _strands(view: Any, page: str) -> list[dict[str, Any]]:
    rows = strand_store.of_entry(view.conn, entries.store.entry(view.conn, page).id, "en")
    return [{"name": r.name, "ended": r.ended, "dispatch": r.dispatch} for r in rows]


def test_a_set_needs_the_sign_offs_of_its_own_revision(house: House) -> None:
    page = out(house)
    with pytest.raises(GateUnmet, match="sign-off"):
        make(house, setting(page, title="Mist"), when=soon(house, 600))
    assert house.desk.read(house.who("ida"), lambda v: _strands(v, page)) == [], "nothing half done"
    id = house.do("wim", lambda a: gathering.start(a, About("Winter"), [setting(page, title="Mist")]))
    with pytest.raises(GateUnmet):
        house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 600)))
    checked = house.desk.read(house.who("ida"), lambda v: dispatches.check(v, id))
    assert [u.code for x in checked.lines for u in x.unmet] == ["sign-offs"]
    house.do("oda", lambda a: reviewing.sign(a, id))
    # What is saved on its strand afterwards is not covered.
    name = house.desk.read(house.who("ida"), lambda v: _strands(v, page))[0]["name"]
    house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 600)))
    save(house, page, name, title="Mist and more")
    house.later(700)
    assert read_out(house, page)["title"] == "Mist", "exactly what was signed off"


def test_a_dry_check_of_a_set_writes_nothing_and_says_what_it_would_need(house: House) -> None:
    page = out(house)
    found = house.desk.read(
        house.who("ida"), lambda v: planning.check(v, [setting(page, title="")], asking=False)
    )
    codes = {u.code for x in found.lines for u in x.unmet}
    assert codes == {"sign-offs", "missing"}, "the empty title is looked at as if it were written"
    assert house.desk.read(house.who("ida"), lambda v: _strands(v, page)) == []


@pytest.mark.parametrize(
    ("payload", "match"),
    [
        ({}, "payload.fields"),
        ({"fields": {}}, "no_fields"),
        ({"fields": {"nothing": 1}}, "nothing"),
        ({"fields": {"title": 7}}, "title|Title"),
        ({"fields": {"title": "x"}, "more": 1}, "payload.more"),
    ],
)
def test_a_set_with_a_bad_payload_is_refused_whole(house: House, payload: dict[str, Any], match: str) -> None:
    page = out(house)
    with pytest.raises(Invalid) as refused:
        make(house, MoveRequest(page, "en", "set", payload=payload))
    assert any(word in str(refused.value.facts) for word in match.split("|")), refused.value.facts


def test_a_set_of_what_is_not_out_is_refused_unless_a_release_is_planned_before(house: House) -> None:
    page = house.signed("Fog")
    id = house.do("wim", lambda a: gathering.start(a, About("W"), [setting(page, title="Mist")]))
    house.do("oda", lambda a: reviewing.sign(a, id))
    with pytest.raises(GateUnmet, match="not out"):
        house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 600)))
    house.plan([page], 300)
    house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 600)))
    house.later(400)
    assert read_out(house, page)["title"] == "Fog"
    house.later(400)
    assert (house.state(id), read_out(house, page)["title"]) == ("gone", "Mist")


def test_a_set_is_held_when_something_newer_went_out_and_is_written_anew_when_it_is_planned_again(
    house: House,
) -> None:
    page = out(house)
    id = signed_set(house, page, soon(house, 600), title="Mist")
    save(house, page, body="<p>Newer.</p>")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.sign_off(a, page, "en", shown(house, page)["revision"]["number"]))
    make(house, MoveRequest(page, "en"))
    house.later(700)
    assert house.state(id) == "held"
    assert read_out(house, page)["body"] == "<p>Newer.</p>", "nothing newer is taken back"
    house.do("ida", lambda a: dispatches.reopen(a, id))
    with pytest.raises(GateUnmet, match="sign-off"):
        house.do("ida", lambda a: dispatches.send(a, id))
    # Written anew it is another revision, which has to be signed off; the try above was undone whole.
    house.do("ida", lambda a: gathering.drop(a, id, [(page, "en")]))
    house.do("wim", lambda a: gathering.add(a, id, [setting(page, title="Mist")]))
    house.do("oda", lambda a: reviewing.sign(a, id))
    house.do("ida", lambda a: dispatches.send(a, id))
    seen = read_out(house, page)
    assert (seen["title"], seen["body"]) == ("Mist", "<p>Newer.</p>")


def test_where_the_draft_changed_the_same_place_the_strand_waits_and_its_writer_is_told(house: House) -> None:
    page = out(house)
    id = signed_set(house, page, soon(house, 600), title="Mist")
    save(house, page, title="Haze")
    house.later(700)
    assert (house.state(id), read_out(house, page)["title"]) == ("gone", "Mist")
    assert shown(house, page)["fields"]["title"] == "Haze", "what was typed is kept"
    assert [s["ended"] for s in house.desk.read(house.who("ida"), lambda v: _strands(v, page))] == [""]
    assert ("strand.waits", "scheduler") in house.events()


def test_undoing_a_set_brings_back_what_readers_saw(house: House) -> None:
    page = out(house)
    id = signed_set(house, page, title="Mist")
    house.do("ida", lambda a: dispatches.send(a, id))
    assert read_out(house, page)["title"] == "Mist"
    back = house.do("ida", lambda a: undoing.undo(a, id))
    assert read_out(house, page)["title"] == "Fog"
    house.do("ida", lambda a: undoing.undo(a, back))
    assert read_out(house, page)["title"] == "Mist"


def test_calling_it_off_drops_the_strand_of_a_set(house: House) -> None:
    page = out(house)
    id = house.do("wim", lambda a: gathering.start(a, About("W"), [setting(page, title="Mist")]))
    house.do("ida", lambda a: dispatches.cancel(a, id))
    found = house.desk.read(house.who("ida"), lambda v: _strands(v, page))
    assert [(s["ended"], s["dispatch"]) for s in found] == [("dropped", None)]


def test_a_dispatch_that_contradicts_itself_is_refused(house: House) -> None:
    page = out(house)
    save(house, page, body="<p>More.</p>")
    for pair in (
        ("release", "withdraw"),
        ("withdraw", "remove"),
        ("remove", "withdraw"),
        ("archive", "release"),
    ):
        with pytest.raises(Invalid, match="Two things"):
            make(house, *(MoveRequest(page, "en", verb) for verb in pair))
    with pytest.raises(Invalid, match="Two things"):
        make(house, MoveRequest(page, "en"), setting(page, title="Mist"))


# -- advance -----------------------------------------------------------------------------------------------------


def advance(page: str, stage: str = "review") -> MoveRequest:
    return MoveRequest(page, "en", "advance", payload={"stage": stage})


def test_a_draft_is_advanced_to_a_stage_on_a_date_and_waits_there_for_those_who_decide(house: House) -> None:
    page = house.page("Fog")
    id = make(house, advance(page), when=soon(house, 600), who="ida")
    assert house.standing(page) == []
    house.later(700)
    assert house.state(id) == "gone"
    assert [(stage, number) for stage, number, _, until in house.standing(page) if until is None] == [
        ("review", 1)
    ]
    waiting = house.desk.read(house.who("oda"), my_work.my_work)["waiting"]
    assert [(line["kind"], line["title"]) for line in waiting] == [("review", "Fog")]
    house.do("oda", lambda a: review.sign_off(a, page, "en", 1))
    assert not house.is_out(page), "advancing is not releasing"


def test_advancing_is_seen_ahead_at_its_stage_alone(house: House) -> None:
    page = house.page("Fog")
    make(house, advance(page), when=soon(house, 600))
    later = house.clock.at + 700 * SECOND
    assert read_out(house, page, later) is None

    def at_review(view: Any) -> Any:
        edition = entries.store.edition(view.conn, entries.store.entry(view.conn, page).id, "en")
        return reading.revision_at(view, edition.id, Place(view.setup.stages["review"], later))

    assert house.desk.read(house.who("ida"), at_review) is not None
    # What goes later than it and refers to it still misses it.
    link = house.signed("Rope", body=f'<p><a href="urn:uuid:{page}">there</a></p>')
    with pytest.raises(GateUnmet, match="Fog"):
        house.plan([link], 900)


@pytest.mark.parametrize("stage", ["draft", "release", "nowhere", ""])
def test_a_stage_that_it_cannot_advance_to_is_refused(house: House, stage: str) -> None:
    page = house.page("Fog")
    with pytest.raises(Invalid) as refused:
        make(house, advance(page, stage))
    assert "payload.stage" in str(refused.value.facts)


def test_a_writer_may_advance_and_not_release(house: House) -> None:
    page = house.page("Fog")
    make(house, advance(page), who="wim")
    assert [s[0] for s in house.standing(page)] == ["review"]
    with pytest.raises(InTheWay, match="stands there already"):
        make(house, advance(page), who="wim")
    with pytest.raises(Refused):
        make(house, MoveRequest(page, "en"), who="wim")


# -- archive -----------------------------------------------------------------------------------------------------


def archive(page: str) -> MoveRequest:
    return MoveRequest(page, "en", "archive")


def titles(house: House, **asked: Any) -> set[str]:
    rows, _ = house.desk.read(house.who("ida"), lambda v: finding.listing(v, finding.Query(**asked)))
    return {r.title for r in rows}


def test_what_is_archived_is_out_no_longer_found_only_when_asked_for_and_comes_back_by_undo(
    house: House,
) -> None:
    page, other = out(house), out(house, "Gull")
    id = make(house, archive(page), when=soon(house, 600))
    assert house.is_out(page)
    assert read_out(house, page, house.clock.at + 700 * SECOND) is None
    house.later(700)
    assert (house.state(id), house.is_out(page), house.is_out(other)) == ("gone", False, True)
    assert titles(house) == titles(house, words="words") == {"Gull"}
    assert titles(house, archived="only") == titles(house, archived="only", words="words") == {"Fog"}
    assert titles(house, archived="with") == {"Fog", "Gull"}
    with pytest.raises(Invalid, match="archive"):
        titles(house, archived="perhaps")
    house.do("ida", lambda a: undoing.undo(a, id))
    assert (house.is_out(page), titles(house)) == (True, {"Fog", "Gull"})


def test_what_is_archived_is_read_and_not_written_until_it_is_brought_back(house: House) -> None:
    page = out(house)
    make(house, archive(page))
    assert shown(house, page)["archived_at"]
    for act in (
        lambda: save(house, page, title="Mist"),
        lambda: house.do("wim", lambda a: review.submit(a, page, "en")),
        lambda: house.do("wim", lambda a: entries.restore(a, page, "en", 1)),
    ):
        with pytest.raises(InTheWay, match="archive"):
            act()
    with pytest.raises(GateUnmet, match="archive"):
        make(house, MoveRequest(page, "en"))
    with pytest.raises(InTheWay, match="archive already"):
        make(house, archive(page))
    house.do("wim", lambda a: entries.bring_back(a, page))
    assert (shown(house, page)["archived_at"], titles(house)) == (None, {"Fog"})
    save(house, page, title="Mist")
    make_again = house.standing(page)
    assert all(until is not None for *_, until in make_again), "bringing back releases nothing"


def test_a_page_with_pages_below_it_is_archived_with_them_or_not_at_all(house: House) -> None:
    top = out(house)
    below = out(house, "Below", below=top)
    with pytest.raises(GateUnmet, match="Below"):
        make(house, archive(top))
    make(house, archive(top), archive(below))
    assert titles(house) == set()
