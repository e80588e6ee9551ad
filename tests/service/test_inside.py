"""A dispatch as a place to write in: strands of its own, reviewed as one, gone with it, and then in the drafts."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.access import Identity
from hawthorn.core.errors import GateUnmet, InTheWay, Invalid, NotFound, Refused
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import outline, previews, reading, reading_lists, rendering
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.delivery.reading_lists import Wish
from hawthorn.operations.release import dispatches, gathering, records, reviewing
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.views import my_work, show, show_dispatches
from hawthorn.store import events, revisions
from hawthorn.store.strands import of_dispatch as inside_of
from tests.service.made import House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def soon(house: House, seconds: float) -> When:
    return When(instant=iso(house.clock.at + round((seconds + 1) * SECOND)))


def out(house: House, title: str) -> str:
    page = house.signed(title)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    return page


def opened(house: House, *pages: str) -> tuple[str, list[str]]:
    """An open dispatch, and the strands on which pages are written inside it."""
    id = house.do("wim", lambda a: gathering.start(a, About("Spring")))
    names = [house.do("wim", lambda a, p=p: gathering.write_in(a, id, p, "en")) for p in pages]
    return id, names


def save(house: House, page: str, strand: str, who: str = "wim", **fields: Any) -> Any:
    def do(act: Any) -> Any:
        base = entries.current_base(act, entries.store.entry(act.conn, page).id, "en", strand)
        return entries.save(act, page, "en", fields, base, "", strand)

    return house.do(who, do)


def fields(house: House, page: str, strand: str = "draft") -> dict[str, Any]:
    shown: dict[str, Any] = house.desk.read(house.who("ida"), lambda v: show.entry(v, page, "en", strand))[
        "fields"
    ]
    return shown


def read_out(house: House, page: str) -> Any:
    def look(view: Any) -> Any:
        edition = entries.store.edition(view.conn, entries.store.entry(view.conn, page).id, "en")
        found = reading.revision_at(view, edition.id, Place())
        return revisions.content(view.conn, found[0]).fields if found else None

    return house.desk.read(house.who("ida"), look)


def shown(house: House, id: str, who: str = "ida") -> dict[str, Any]:
    return house.desk.read(house.who(who), lambda v: show_dispatches.dispatch(v, records.find(v, id)))


def test_what_is_written_inside_is_seen_by_nobody_else_goes_out_with_it_and_comes_into_the_drafts(
    house: House,
) -> None:
    fog, gull = out(house, "Fog"), out(house, "Gull")
    save(house, fog, "draft", body="<p>Half written.</p>")
    id, names = opened(house, fog, gull)
    assert fields(house, fog, names[0])["body"] == "<p>Words.</p>", "it begins with what is out"
    save(house, fog, names[0], title="Fog in spring")
    save(house, gull, names[1], title="Gull in spring")
    assert (fields(house, fog)["title"], read_out(house, fog)["title"]) == ("Fog", "Fog")
    with pytest.raises(GateUnmet, match="sign-off"):
        house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 600)))
    house.do("wim", lambda a: reviewing.ask(a, id, "Spring, please."))
    assert house.do("oda", lambda a: reviewing.sign(a, id)) == 2
    house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 600)))
    save(house, fog, names[0], title="Fog, too late")
    house.later(700)
    assert house.state(id) == "gone"
    assert [read_out(house, p)["title"] for p in (fog, gull)] == ["Fog in spring", "Gull in spring"]
    assert read_out(house, fog)["body"] == "<p>Words.</p>"
    draft = fields(house, fog)
    assert draft["body"] == "<p>Half written.</p>", "what was in the draft stays there"
    assert draft["title"] == "Fog in spring", "what went out is in it"
    assert fields(house, gull)["title"] == "Gull in spring"


def test_what_was_saved_after_it_was_planned_is_not_lost_with_the_strand(house: House) -> None:
    fog = out(house, "Fog")
    id, (name,) = opened(house, fog)
    save(house, fog, name, title="Signed")
    house.do("oda", lambda a: reviewing.sign(a, id))
    house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 600)))
    save(house, fog, name, title="Typed later")
    house.later(700)
    assert read_out(house, fog)["title"] == "Signed"
    assert fields(house, fog)["title"] == "Signed", "the draft has what is out, not what nobody signed off"
    assert fields(house, fog, name)["title"] == "Typed later", "and the strand stays open with the rest"


def test_opening_it_again_finds_the_same_strand(house: House) -> None:
    fog = out(house, "Fog")
    id, (name,) = opened(house, fog)
    assert house.do("ida", lambda a: gathering.write_in(a, id, fog, "en")) == name
    assert len(shown(house, id)["moves"]) == 1
    line = shown(house, id)["moves"][0]
    assert (line["strand"], line["verb"]) == (name, "release")
    entry = house.desk.read(house.who("wim"), lambda v: show.entry(v, fog, "en"))
    assert [(s.name, s.dispatch, s.dispatch_name) for s in entry["strands"]] == [(name, id, "Spring")]


def test_two_dispatches_hold_two_strands_of_one_page_and_the_second_is_held_until_it_is_brought_up(
    house: House,
) -> None:
    fog = out(house, "Fog")
    (first, (one,)), (second, (two,)) = opened(house, fog), opened(house, fog)
    assert one != two
    save(house, fog, one, title="One")
    save(house, fog, two, body="<p>Two.</p>")
    for id, seconds in ((first, 300), (second, 600)):
        house.do("oda", lambda a, id=id: reviewing.sign(a, id))
        house.do("ida", lambda a, id=id, s=seconds: dispatches.plan(a, id, soon(house, s)))
    house.later(700)
    assert (house.state(first), house.state(second)) == ("gone", "held")
    assert read_out(house, fog)["title"] == "One", "the later one takes nothing back"


def test_shared_fields_that_were_written_inside_are_come_at_when_it_was_taken_out(house: House) -> None:
    fog, gull, quay = out(house, "Fog"), out(house, "Gull"), out(house, "Quay")
    id, (shared, own, nothing) = opened(house, fog, gull, quay)
    save(house, fog, shared, below={"entry": quay})
    save(house, gull, own, title="Gull in spring")
    house.do("wim", lambda a: gathering.drop(a, id, [(page, "en") for page in (fog, gull, quay)]))
    assert fields(house, fog, shared)["below"] == quay
    save(house, gull, own, below={"entry": quay})
    assert fields(house, gull, own)["below"] == quay, "shared fields are written in it, as before"
    with pytest.raises(NotFound):
        fields(house, quay, nothing)
    assert shown(house, id)["moves"] == []
    with house.desk.db.read() as conn:
        assert inside_of(conn, 1) == [], "and none of it goes with the dispatch any more"


def test_taking_out_or_calling_off_leaves_what_was_written_beside_the_draft(house: House) -> None:
    fog, gull, rope = (out(house, name) for name in ("Fog", "Gull", "Rope"))
    id, names = opened(house, fog, gull, rope)
    save(house, fog, names[0], title="Fog in spring")
    save(house, gull, names[1], title="Gull in spring")
    house.do("wim", lambda a: gathering.drop(a, id, [(fog, "en")]))
    house.do("ida", lambda a: dispatches.cancel(a, id))
    for page, ended in ((fog, [""]), (gull, [""]), (rope, ["dropped"])):
        entry = house.desk.read(house.who("wim"), lambda v, p=page: show.entry(v, p, "en"))
        assert [(s.ended, s.dispatch) for s in entry["strands"]] == [(e, None) for e in ended]
    assert fields(house, fog, names[0])["title"] == "Fog in spring"


def test_only_who_may_write_writes_inside_and_only_while_it_is_open(house: House) -> None:
    fog, gull = out(house, "Fog"), out(house, "Gull")
    id, (name,) = opened(house, fog)
    save(house, fog, name, title="Spring")
    house.do("oda", lambda a: reviewing.sign(a, id))
    house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 600)))
    with pytest.raises(InTheWay, match="planned"):
        house.do("wim", lambda a: gathering.write_in(a, id, gull, "en"))
    withdrawn = house.do(
        "ida", lambda a: gathering.start(a, About("End"), [MoveRequest(gull, "en", "withdraw")])
    )
    with pytest.raises(Invalid, match="Two things"):
        house.do("wim", lambda a: gathering.write_in(a, withdrawn, gull, "en"))


# -- reviewed as one ---------------------------------------------------------------------------------------------


def test_those_whose_sign_off_it_needs_are_told_find_it_in_their_work_and_decide_it_as_one(
    house: House,
) -> None:
    fog, gull = out(house, "Fog"), out(house, "Gull")
    id, names = opened(house, fog, gull)
    save(house, fog, names[0], title="Fog in spring")
    with pytest.raises(Invalid):
        house.do("oda", lambda a: reviewing.send_back(a, id, " "))
    with pytest.raises(InTheWay, match="does not wait"):
        house.do("oda", lambda a: reviewing.send_back(a, id, "Not yet."))
    house.do("wim", lambda a: reviewing.ask(a, id, "All of spring."))
    waiting = house.desk.read(house.who("oda"), my_work.my_work)["waiting"]
    assert [(w["kind"], w["title"], w["id"], w["note"]) for w in waiting] == [
        ("dispatch", "Spring", id, "All of spring.")
    ]
    assert house.desk.read(house.who("wim"), my_work.my_work)["waiting"] == []
    mine = house.desk.read(house.who("wim"), my_work.my_work)["you_wait_for"]
    assert [(w["kind"], w["title"]) for w in mine] == [("dispatch", "Spring")]
    assert "Oda" in mine[0]["who"]
    house.do("oda", lambda a: reviewing.send_back(a, id, "The date is wrong."))
    one = shown(house, id)["review"]
    assert (one["outcome"], one["reason"], one["decided_by"]) == ("sent back", "The date is wrong.", "Oda")
    assert house.desk.read(house.who("oda"), my_work.my_work)["waiting"] == []
    house.do("wim", lambda a: reviewing.ask(a, id))
    house.do("oda", lambda a: reviewing.sign(a, id, note="Good."))
    assert shown(house, id)["review"]["outcome"] == "signed off"
    with pytest.raises(InTheWay, match="has the sign-offs"):
        house.do("wim", lambda a: reviewing.ask(a, id))


def test_entries_are_signed_off_one_by_one_too_and_a_newer_revision_is_not_covered(house: House) -> None:
    fog, gull = out(house, "Fog"), out(house, "Gull")
    id, names = opened(house, fog, gull)
    save(house, fog, names[0], title="Fog in spring")
    save(house, gull, names[1], title="Gull in spring")
    house.do("wim", lambda a: reviewing.ask(a, id))
    assert house.do("oda", lambda a: reviewing.sign(a, id, [(fog, "en")])) == 1
    assert shown(house, id)["review"]["outcome"] == "waiting", "the rest still waits"
    save(house, fog, names[0], title="Changed after")
    assert house.do("oda", lambda a: reviewing.sign(a, id, [(gull, "en")])) == 1
    with pytest.raises(GateUnmet, match="Fog"):
        house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 600)))


def test_sending_back_voids_the_sign_offs_of_what_was_written_inside_and_no_others(house: House) -> None:
    fog, ready = out(house, "Fog"), house.signed("Ready")
    id, (name,) = opened(house, fog)
    house.do("wim", lambda a: gathering.add(a, id, [MoveRequest(ready, "en")]))
    save(house, fog, name, title="Fog in spring")
    house.do("wim", lambda a: reviewing.ask(a, id))
    house.do("oda", lambda a: reviewing.sign(a, id))
    house.do("wim", lambda a: save_and_ask(a, house, id, fog, name))
    house.do("oda", lambda a: reviewing.send_back(a, id, "Again."))
    found = house.desk.read(house.who("ida"), lambda v: dispatches.check(v, id))
    assert {x.title: [u.code for u in x.unmet] for x in found.lines if x.locale == "en"} == {
        "Fog": ["sign-offs"],
        "Ready": [],
    }


def save_and_ask(act: Any, house: House, id: str, page: str, strand: str) -> None:
    base = entries.current_base(act, entries.store.entry(act.conn, page).id, "en", strand)
    entries.save(act, page, "en", {"title": "Another"}, base, "", strand)
    reviewing.ask(act, id)


def test_who_wrote_it_does_not_sign_it_off_and_who_may_not_sign_is_refused(house: House) -> None:
    fog = out(house, "Fog")
    id, (name,) = opened(house, fog)
    save(house, fog, name, "oda", title="By Oda")
    with pytest.raises(Refused):
        house.do("oda", lambda a: reviewing.sign(a, id))
    with pytest.raises(Refused):
        house.do("wim", lambda a: reviewing.sign(a, id))
    with pytest.raises(Refused):
        house.do("wim", lambda a: reviewing.take_back(a, _asked(a, id, "oda", house)))


def _asked(act: Any, id: str, who: str, house: House) -> str:
    reviewing.ask(act.by(house.who(who)), id)
    return id


def test_notifications_say_what_is_to_be_done(house: House) -> None:
    fog = out(house, "Fog")
    id, (name,) = opened(house, fog)
    save(house, fog, name, title="Fog in spring")
    house.do("wim", lambda a: reviewing.ask(a, id, "Please."))

    def told(view: Any) -> list[tuple[int, str]]:
        rows = events.after(view.conn, 0, 10_000)
        last = next(r for r in reversed(rows) if r.kind == "dispatch.submitted")
        return [(n.actor, view.say(n.says)) for n in notifications.for_event(view, last)]

    found = house.desk.read(house.who("ida"), told)
    assert house.who("oda").id in {actor for actor, _ in found}
    assert {text for _, text in found} == {"For review: Spring"}


# -- read as if it had gone --------------------------------------------------------------------------------------


def inside(house: House, id: str) -> Place:
    return house.desk.read(house.who("ida"), lambda v: reading.place(v, dispatch=id))


def rendered(house: House, page: str, where: Place) -> Any:
    def look(view: Any) -> Any:
        return json.loads(rendering.render(view, page, "en", where).data)

    return house.desk.read(house.who("ida"), look)


def test_the_site_is_read_as_it_will_be_with_the_dispatch_gone(house: House) -> None:
    """What is written inside, what comes out new and what is withdrawn; the rest is as it is."""
    fog, gull, rope = (out(house, name) for name in ("Fog", "Gull", "Rope"))
    new, beside = house.signed("New"), house.signed("Beside")
    id, (name,) = opened(house, fog)
    save(house, fog, name, title="Fog in spring", slug="spring-fog")
    more = [MoveRequest(new, "en"), MoveRequest(gull, "en", "withdraw")]
    house.do("wim", lambda a: gathering.add(a, id, more))
    where = inside(house, id)
    shown_there = rendered(house, fog, where)
    assert (shown_there["title"], shown_there["path"]) == ("Fog in spring", "/en/spring-fog")
    assert shown_there["shown"]["dispatch"] == id
    assert rendered(house, new, where)["title"] == "New"
    assert rendered(house, rope, where)["title"] == "Rope"
    for page in (gull, beside):
        with pytest.raises(NotFound):
            rendered(house, page, where)

    def titles(view: Any) -> set[str]:
        uuids = reading_lists.page(view, where, Wish(("page",), "en", limit=50)).uuids
        found = set()
        for uuid in uuids:
            with suppress(NotFound):
                found.add(json.loads(rendering.render(view, uuid, "en", where).data)["title"])
        return found

    assert house.desk.read(house.who("ida"), titles) == {"Fog in spring", "New", "Rope"}

    def at(path: str) -> Any:
        return house.desk.read(house.who("ida"), lambda v: reading.find_path(v, path, where)[0])

    assert at("/en/spring-fog") == fog
    assert at("/en/new") == new
    for path in ("/en/gull", "/en/beside"):
        with pytest.raises(NotFound):
            at(path)
    # Everybody else reads what is out.
    assert rendered(house, fog, Place())["title"] == "Fog"
    assert rendered(house, gull, Place())["title"] == "Gull"


def test_what_was_read_beforehand_is_what_is_read_afterwards(house: House) -> None:
    fog, below = out(house, "Fog"), out(house, "Below")
    id, names = opened(house, fog, below)
    save(house, fog, names[0], title="Mist", slug="mist")
    save(house, below, names[1], below=fog)
    house.do("oda", lambda a: reviewing.sign(a, id))
    pages = (fog, below)
    wanted = ("title", "path", "fields", "locales", "references", "revision")

    def read(where: Place) -> list[dict[str, Any]]:
        return [{k: rendered(house, page, where)[k] for k in wanted} for page in pages]

    before = read(inside(house, id))
    assert [one["path"] for one in before] == ["/en/mist", "/en/mist/below"]
    tree = house.desk.read(house.who("ida"), lambda v: _tree(v, Place(dispatch=dispatch_id(v, id))))
    house.do("ida", lambda a: dispatches.send(a, id))
    assert read(Place()) == before
    assert house.desk.read(house.who("ida"), lambda v: _tree(v, Place())) == tree


def dispatch_id(view: Any, uuid: str) -> int:
    return records.find(view, uuid).id


def _tree(view: Any, where: Place) -> Any:
    return [(line["title"], len(line["below"])) for line in outline.tree(view, where, "en", "", 3)]


def test_a_swap_of_addresses_is_read_right_inside(house: House) -> None:
    fog, gull = out(house, "Fog"), out(house, "Gull")
    id, names = opened(house, fog, gull)
    save(house, fog, names[0], slug="gull")
    save(house, gull, names[1], slug="fog")
    where = inside(house, id)

    def at(path: str) -> Any:
        return house.desk.read(house.who("ida"), lambda v: reading.find_path(v, path, where)[0])

    assert (at("/en/gull"), at("/en/fog")) == (fog, gull)


def test_only_who_may_read_drafts_reads_inside_and_it_names_nothing_else(house: House) -> None:
    fog = out(house, "Fog")
    id, _ = opened(house, fog)
    site = Identity(77, "program", "Site", "site", (), ("release",))
    with pytest.raises(Refused):
        house.desk.read(site, lambda v: reading.place(v, dispatch=id))
    for more in ({"at": "2027-02-01T00:00:00Z"}, {"stage": "draft"}):
        with pytest.raises(Invalid, match="neither"):
            house.desk.read(house.who("ida"), lambda v, m=more: reading.place(v, dispatch=id, **m))
    with pytest.raises(NotFound):
        house.desk.read(house.who("ida"), lambda v: reading.place(v, dispatch=fog))


def test_a_link_shows_what_the_dispatch_changes_and_nothing_else_that_is_not_out(house: House) -> None:
    fog, other = out(house, "Fog"), house.signed("Other")
    id, (name,) = opened(house, fog)
    save(house, fog, name, title="Fog in spring")
    wish = previews.LinkWish("dispatch", fog, dispatch=id)
    uuid = house.do("wim", lambda a: previews.give_link(a, wish))
    with pytest.raises(Invalid):
        house.do("wim", lambda a: previews.give_link(a, previews.LinkWish("dispatch", other, dispatch=id)))
    with pytest.raises(Invalid):
        house.do("wim", lambda a: previews.give_link(a, previews.LinkWish("dispatch", fog)))

    def look(view: Any) -> Any:
        word = previews.token(view, uuid)
        found = previews.opened(view.conn, view.vault, view.now, word)
        return found.where, json.loads(rendering.render(view, fog, "en", found.where).data)["title"]

    where, title = house.desk.read(house.who("wim"), look)
    assert title == "Fog in spring"
    with pytest.raises(NotFound):
        rendered(house, other, where)
