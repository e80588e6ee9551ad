"""Fields that plan a move: filled like any other, wished for or planned, moved, emptied."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import contenttypes
from hawthorn.core.errors import Invalid
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.content import changing, entries, templates
from hawthorn.operations.delivery import reading
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import (
    dispatches,
    gathering,
    planned_fields,
    quiet_periods,
    review,
    reviewing,
    workflows,
)
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.quiet_periods import Times
from hawthorn.operations.release.records import About
from hawthorn.operations.views import show
from hawthorn.store import revisions
from tests.service.made import House
from tests.service.test_workflows import flow

FIELDS = [
    {"name": "out_from", "kind": "planned", "label": "Out from", "move": "release"},
    {"name": "out_until", "kind": "planned", "label": "Out until", "move": "withdraw"},
    {
        "name": "renamed",
        "kind": "planned",
        "label": "Renamed",
        "move": "set",
        "payload": {"fields": {"title": "Over"}},
    },
]


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    add_fields(made, FIELDS)
    yield made
    made.close()


def add_fields(house: House, fields: list[dict[str, Any]], **more: Any) -> None:
    def define(act: Any) -> None:
        now = contenttypes.to_dict(act.setup.types["page"])
        changing.define_type(act, {**now, "fields": [*now["fields"], *fields], **more})

    house.do("ida", define)


def at(house: House, seconds: float) -> dict[str, str]:
    return {"wall": iso(house.clock.at + round(seconds * SECOND))[:19], "zone": "UTC"}


def save(house: House, page: str, who: str = "wim", **fields: Any) -> None:
    def do(act: Any) -> Any:
        base = entries.current_base(act, entries.store.entry(act.conn, page).id, "en")
        return entries.save(act, page, "en", fields, base)

    house.do(who, do)


def shown(house: House, page: str) -> show.Entry:
    """An entry as the managing editor sees it."""
    return house.desk.read(house.who("ida"), lambda v: show.entry(v, page, "en"))


def states(house: House, page: str) -> dict[str, str]:
    found = shown(house, page)["planned_fields"]
    return {one["field"]: one["state"] for one in found}


def dispatch_of(house: House, page: str, field: str) -> str:
    found = shown(house, page)["planned_fields"]
    return next(str(one["dispatch"]) for one in found if one["field"] == field)


def signed(house: House, page: str) -> None:
    number = house.revision(page)["number"]
    house.do("wim", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.sign_off(a, page, "en", number))


def test_who_may_release_plans_by_filling_the_field(house: House) -> None:
    page = house.page("Fog")
    save(house, page, "ida", out_from=at(house, 600), out_until=at(house, 1200))
    assert states(house, page) == {"out_from": "planned", "out_until": "planned"}
    first, second = (dispatch_of(house, page, f) for f in ("out_from", "out_until"))
    assert first != second, "each is a dispatch of its own"
    signed(house, page)
    house.later(700)
    assert (house.is_out(page), house.state(first)) == (True, "gone"), "what was approved by then went"
    house.later(700)
    assert (house.is_out(page), house.state(second)) == (False, "gone")


def test_what_a_writer_fills_is_a_wish_that_the_sign_off_confirms(house: House) -> None:
    page = house.page("Fog")
    save(house, page, out_from=at(house, 600))
    assert states(house, page) == {"out_from": "wish"}
    house.later(10)
    signed(house, page)
    assert states(house, page) == {"out_from": "planned"}
    house.later(700)
    assert house.is_out(page)


def test_another_time_moves_it_and_an_empty_field_calls_it_off(house: House) -> None:
    page = house.page("Fog")
    save(house, page, "ida", out_from=at(house, 600))
    made = dispatch_of(house, page, "out_from")
    save(house, page, "ida", out_from=at(house, 6000))
    assert dispatch_of(house, page, "out_from") == made, "it is the same dispatch"
    house.later(700)
    assert house.state(made) == "planned"
    save(house, page, "ida", title="Another title")
    assert house.state(made) == "planned", "other changes leave it"
    save(house, page, "ida", out_from=None)
    assert (house.state(made), states(house, page)) == ("cancelled", {})


def test_who_may_not_plan_does_not_move_or_call_off_what_is_planned_before_it_is_signed_off(
    house: House,
) -> None:
    page = house.page("Fog")
    save(house, page, "ida", out_until=at(house, 6000))
    made = dispatch_of(house, page, "out_until")
    save(house, page, out_until=None)
    assert (house.state(made), states(house, page)) == ("planned", {"out_until": "wish"})
    signed(house, page)
    assert (house.state(made), states(house, page)) == ("cancelled", {})


def test_a_field_is_set_at_its_time_as_whoever_signed_off_saw_it(house: House) -> None:
    page = house.page("Fog")
    save(house, page, renamed=at(house, 600))
    signed(house, page)
    assert states(house, page) == {"renamed": "planned"}
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    save(house, page, body="<p>More.</p>")
    signed(house, page)
    # Released again: what is set is set in that, as it says so itself.
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    ahead = house.clock.at + 700 * SECOND
    assert title_at(house, page, ahead) == "Over", "foreseen"
    house.later(700)
    found = shown(house, page)
    assert (found["fields"]["title"], house.state(dispatch_of(house, page, "renamed"))) == ("Over", "gone")


def test_a_field_is_not_set_by_what_is_only_drafted(house: House) -> None:
    page = house.signed("Fog")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    save(house, page, "ida", renamed=at(house, 600))
    made = dispatch_of(house, page, "renamed")
    house.later(700)
    assert house.state(made) == "held", "nobody approved a revision that says so"
    assert title_at(house, page, house.clock.at) == "Fog"


def test_a_dispatch_of_a_field_that_was_moved_by_hand_needs_a_sign_off(house: House) -> None:
    page = house.page("Fog")
    save(house, page, renamed=at(house, 600))
    signed(house, page)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    made = dispatch_of(house, page, "renamed")
    when = When(instant=iso(house.clock.at + 300 * SECOND))
    house.do("ida", lambda a: dispatches.replan(a, made, when))
    house.later(700)
    assert house.state(made) == "held", "another time than the one that was approved"


def title_at(house: House, page: str, instant: int) -> Any:
    def look(view: Any) -> Any:
        edition = entries.store.edition(view.conn, entries.store.entry(view.conn, page).id, "en")
        found = reading.revision_at(view, edition.id, Place(at=instant))
        return revisions.content(view.conn, found[0]).fields["title"] if found else None

    return house.desk.read(house.who("ida"), look)


def test_a_time_that_is_past_or_none_is_refused_with_the_field(house: House) -> None:
    page = house.page("Fog")
    for value, match in (
        (at(house, -600), "is past"),
        ({"wall": "2027-03-28T02:30", "zone": "Europe/Paris"}, "out_from|Out from"),
        ({"wall": "2027-10-31T02:30", "zone": "Europe/Paris"}, "out_from|Out from"),
        ({"wall": "2027-03-28T09:00", "zone": "Mars/Base"}, "out_from|Out from"),
        ("soon", "out_from|Out from"),
    ):
        with pytest.raises(Invalid) as refused:
            save(house, page, "ida", out_from=value)
        said = str(refused.value.facts)
        assert "out_from" in said, (match, said)
    assert states(house, page) == {}
    assert house.revision(page)["number"] == 1


def test_what_keeps_it_from_being_planned_is_said_and_the_text_is_saved(house: House) -> None:
    quiet = Times("2027-01-15T08:00", "2027-01-15T23:00", "UTC", "", "The site moves.")
    house.do("ida", lambda a: quiet_periods.add(a, quiet))
    page = house.page("Fog")
    save(house, page, "ida", title="Mist", out_from=at(house, 600))
    found = shown(house, page)
    assert found["fields"]["title"] == "Mist"
    one = found["planned_fields"][0]
    assert (one["state"], one["dispatch"]) == ("wish", None)
    assert "The site moves." in one["trouble"]


def test_what_went_is_not_done_again_when_the_draft_is_saved(house: House) -> None:
    page = house.page("Fog")
    save(house, page, "ida", out_until=at(house, 6000), out_from=at(house, 600))
    signed(house, page)
    house.later(700)
    save(house, page, "ida", title="More")
    assert states(house, page)["out_from"] == "gone"
    with house.desk.db.read() as conn:
        count = conn.execute("SELECT count(*) FROM dispatch").fetchone()[0]
    assert count == 2


@pytest.mark.parametrize(
    ("field", "where"),
    [
        ({"move": "remove"}, "fields.x.move"),
        ({}, "fields.x.move"),
        ({"move": "advance"}, "fields.x.payload.stage"),
        ({"move": "set", "payload": {"fields": {"nothing": 1}}}, "fields.x.payload.fields.nothing"),
        ({"move": "set", "payload": {"fields": {"title": 7}}}, "fields.x.payload.fields.title"),
        ({"move": "set", "payload": {"fields": {"out_from": ""}}}, "fields.x.payload.fields.out_from"),
        ({"move": "release", "many": True}, "fields.x.move"),
        ({"move": "release", "kind": "line"}, "fields.x.move"),
    ],
)
def test_a_planned_field_that_could_do_nothing_is_refused_by_name(
    house: House, field: dict[str, Any], where: str
) -> None:
    with pytest.raises(Invalid) as refused:
        add_fields(house, [{"name": "x", "kind": "planned", "label": "X", **field}])
    assert where in [p.where for p in refused.value.facts["problems"]]


def test_a_shared_field_is_about_every_locale(house: House) -> None:
    add_fields(
        house, [{"name": "over", "kind": "planned", "label": "Over", "move": "archive", "shared": True}]
    )
    page = house.signed("Fog")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    save(house, page, "ida", over=at(house, 600))
    house.later(700)
    assert not house.is_out(page)
    assert shown(house, page)["archived_at"]


def joined(house: House, page: str, *others: str, partial: bool = False) -> str:
    """The dispatch by which a field takes a page away, into which somebody put others, for the same time."""
    made = dispatch_of(house, page, "out_until")
    house.do("ida", lambda a: dispatches.reopen(a, made))
    more = [MoveRequest(other, "en", "withdraw") for other in others]
    house.do("ida", lambda a: gathering.add(a, made, more))
    house.do("ida", lambda a: gathering.describe(a, made, About(partial=partial)))
    house.do("ida", lambda a: dispatches.plan(a, made))
    return made


@pytest.fixture
def out(house: House) -> list[str]:
    """Two pages that are out, the first until a time by a field."""
    pages = [house.signed("Fog"), house.signed("Bell")]
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(p, "en") for p in pages]))
    save(house, pages[0], "ida", out_until=at(house, 1200))
    return pages


@pytest.mark.parametrize("who", ["ida", "wim"])
def test_another_time_leaves_what_others_put_into_the_same_dispatch(
    house: House, out: list[str], who: str
) -> None:
    fog, bell = out
    made = joined(house, fog, bell)
    save(house, fog, who, out_until=at(house, 600))
    if who == "wim":
        assert (states(house, fog)["out_until"], dispatch_of(house, fog, "out_until")) == ("wish", made)
        signed(house, fog)
    assert states(house, fog)["out_until"] == "planned"
    assert dispatch_of(house, fog, "out_until") != made
    house.later(700)
    assert (house.is_out(fog), house.is_out(bell), house.state(made)) == (False, True, "planned")
    house.later(600)
    assert (house.is_out(bell), house.state(made)) == (False, "gone")


def test_what_cannot_be_planned_anew_stays_where_it_was(house: House) -> None:
    fog, bell = house.page("Fog"), house.signed("Bell")
    save(house, fog, "ida", out_from=at(house, 1200))
    signed(house, fog)
    made = dispatch_of(house, fog, "out_from")
    house.do("ida", lambda a: dispatches.reopen(a, made))
    house.do("ida", lambda a: gathering.add(a, made, [MoveRequest(bell, "en")]))
    house.do("ida", lambda a: dispatches.plan(a, made))
    quiet = Times("2027-01-15T08:05", "2027-01-15T08:15", "UTC", "", "The site moves.")
    house.do("ida", lambda a: quiet_periods.add(a, quiet))
    save(house, fog, "ida", out_from=at(house, 600))
    (said,) = shown(house, fog)["planned_fields"]
    assert (said["state"], said["dispatch"]) == ("wish", made)
    assert "The site moves." in said["trouble"]
    house.later(1300)
    assert (house.is_out(fog), house.is_out(bell), house.state(made)) == (True, True, "gone")


@pytest.mark.parametrize("field", ["out_from", "out_until"])
def test_shared_fields_stay_with_the_locale_that_still_needs_them(house: House, field: str) -> None:
    house.speaks(fr="French")
    page = house.signed("Fog")
    house.do(
        "wim",
        lambda a: entries.save(
            a, page, "fr", {"title": "Brume", "body": "<p>x</p>"}, entries.base_now(a, page, "fr")
        ),
    )
    house.do("wim", lambda a: review.submit(a, page, "fr"))
    house.do("oda", lambda a: review.sign_off(a, page, "fr", 1))
    both = [MoveRequest(page, locale) for locale in ("en", "fr")]
    if field == "out_until":
        house.do("ida", lambda a: dispatches.make(a, both))
    save(house, page, "ida", **{field: at(house, 600)})
    if field == "out_from":
        signed(house, page)
    made = dispatch_of(house, page, field)
    verb = "release" if field == "out_from" else "withdraw"
    house.do("ida", lambda a: dispatches.reopen(a, made))
    house.do("ida", lambda a: gathering.add(a, made, [MoveRequest(page, "fr", verb)]))
    house.do("ida", lambda a: dispatches.plan(a, made))
    save(house, page, "ida", **{field: at(house, 6000)})
    house.later(700)
    assert house.state(made) == "gone"
    there = {locale: house.is_out(page, locale) for locale in ("en", "fr", "*")}
    leaves = field == "out_until"
    assert there == {"en": leaves, "fr": not leaves, "*": True}
    house.later(6000)
    assert house.is_out(page) != leaves


def test_an_emptied_field_leaves_what_others_put_into_the_same_dispatch(house: House, out: list[str]) -> None:
    fog, bell = out
    made = joined(house, fog, bell)
    save(house, fog, "ida", out_until=None)
    house.later(1300)
    assert (house.is_out(fog), house.is_out(bell), house.state(made)) == (True, False, "gone")


def test_a_dispatch_that_was_opened_does_no_more_what_its_field_does_not_say(
    house: House, out: list[str]
) -> None:
    fog, _ = out
    made = dispatch_of(house, fog, "out_until")
    house.do("ida", lambda a: dispatches.reopen(a, made))
    save(house, fog, "ida", out_until=at(house, 600))
    again = dispatch_of(house, fog, "out_until")
    assert (house.state(made), house.state(again), again != made) == ("cancelled", "planned", True)
    house.do("ida", lambda a: dispatches.reopen(a, again))
    save(house, fog, "ida", out_until=None)
    assert (house.state(again), states(house, fog)) == ("cancelled", {})


def test_a_field_whose_move_was_taken_out_says_that_it_is_called_off_and_plans_anew(
    house: House, out: list[str]
) -> None:
    fog, bell = out
    made = joined(house, fog, bell)
    house.do("ida", lambda a: dispatches.reopen(a, made))
    house.do("ida", lambda a: gathering.drop(a, made, [(fog, "")]))
    house.do("ida", lambda a: dispatches.plan(a, made))
    assert states(house, fog) == {"out_until": "cancelled"}
    save(house, fog, "ida", out_until=at(house, 600))
    assert states(house, fog) == {"out_until": "planned"}
    house.later(1300)
    assert (house.is_out(fog), house.is_out(bell), house.state(made)) == (False, False, "gone")


def test_a_field_follows_what_is_held_back(house: House, out: list[str]) -> None:
    fog, bell = out
    made = joined(house, fog, bell, partial=True)
    house.do("ida", lambda a: workflows.define(a, flow(leaving=True)))
    house.do("oda", lambda a: reviewing.sign(a, made, [(bell, "en")]))
    house.later(1300)
    assert (house.state(made), states(house, fog)) == ("gone", {"out_until": "held"})
    save(house, fog, "ida", out_until=None)
    assert (house.is_out(fog), house.is_out(bell), states(house, fog)) == (True, False, {})


def test_a_field_that_sets_a_shared_one_is_planned(house: House) -> None:
    shared = {"name": "level", "kind": "number", "label": "Level", "shared": True}
    sets = {"name": "raised", "kind": "planned", "label": "Raised", "move": "set"}
    add_fields(house, [shared, {**sets, "payload": {"fields": {"level": 3}}}])
    page = house.signed("Fog", level=1)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    save(house, page, "ida", raised=at(house, 600))
    assert states(house, page) == {"raised": "planned"}
    made = dispatch_of(house, page, "raised")
    save(house, page, "ida", raised=at(house, 900))
    assert dispatch_of(house, page, "raised") == made
    save(house, page, "ida", raised=None)
    assert (house.state(made), states(house, page)) == ("cancelled", {})


@pytest.mark.parametrize("alone", [True, False])
def test_an_end_that_has_to_be_is_not_emptied(house: House, out: list[str], alone: bool) -> None:
    fog, bell = out
    add_fields(house, [], policy={"needs_end": True})
    made = dispatch_of(house, fog, "out_until") if alone else joined(house, fog, bell)
    save(house, fog, "ida", out_until=None)
    (said,) = shown(house, fog)["planned_fields"]
    assert (said["state"], said["dispatch"]) == ("wish", made)
    assert "has to have an end" in said["trouble"]
    house.later(1300)
    assert not house.is_out(fog)


def test_a_time_that_is_over_when_it_comes_in_with_other_work_stops_nothing(house: House) -> None:
    page, other = house.signed("Fog"), house.signed("Bell")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    made = house.do("ida", lambda a: gathering.start(a, About("Later")))
    name = house.do("ida", lambda a: gathering.write_in(a, made, page, "en"))

    def type_in(act: Any) -> Any:
        base = entries.base_now(act, page, "en", name)
        return entries.save(act, page, "en", {"out_until": at(house, 600)}, base, "", name)

    house.do("ida", type_in)
    house.do("oda", lambda a: reviewing.sign(a, made))
    house.do("ida", lambda a: dispatches.plan(a, made, When(instant=iso(house.clock.at + 1200 * SECOND))))
    after = house.plan([other], 1200)
    house.later(1300)
    assert (house.state(made), house.state(after), house.is_out(page)) == ("gone", "gone", True)
    (said,) = shown(house, page)["planned_fields"]
    assert (said["state"], said["dispatch"]) == ("wish", None)
    assert "is past" in said["trouble"], "nothing is guessed"


def test_what_follows_from_a_dispatch_and_fails_holds_back_no_other(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    page, other = house.signed("Fog"), house.signed("Bell")
    save(house, page, "ida", renamed=at(house, 3000))
    first, second = house.plan([page], 600), house.plan([other], 600)

    def wrong(act: Any, edition: int, opened: Any) -> None:
        assert (
            entries.store.entry_by_id(
                act.conn, planned_fields.entries.edition_by_id(act.conn, edition).entry
            ).uuid
            != page
        )

    monkeypatch.setattr(planned_fields, "_renew", wrong)
    house.later(700)
    assert (house.state(first), house.state(second)) == ("failed", "gone")
    assert (house.is_out(page), house.is_out(other)) == (False, True)


def test_a_wish_whose_time_is_over_at_its_sign_off_is_not_guessed_about(house: House) -> None:
    page = house.page("Fog")
    save(house, page, out_from=at(house, 600))
    house.later(700)
    signed(house, page)
    (said,) = shown(house, page)["planned_fields"]
    assert (said["state"], "is past" in said["trouble"]) == ("wish", True)
    house.later(10)
    assert not house.is_out(page)
    add_fields(house, [], policy={"past": "now"})
    save(house, page, out_from=at(house, 60))
    house.later(70)
    signed(house, page)
    house.later(10)
    assert house.is_out(page), "where the policy says so"


def test_going_back_and_copies_plan_nothing_that_is_over(house: House) -> None:
    page = house.page("Fog")
    save(house, page, "ida", out_until=at(house, 600))
    kept = at(house, 6000)
    save(house, page, "ida", out_until=kept, title="Mist")
    template = house.do("ida", lambda a: templates.make(a, page, "Fogs"))
    copies = [house.do("ida", lambda a: templates.copy(a, page, {}))]
    house.later(700)
    house.do("ida", lambda a: entries.restore(a, page, "en", 2))
    fields = shown(house, page)["fields"]
    assert (fields["title"], fields["out_until"]["wall"]) == ("Fog", kept["wall"])
    house.later(6000)
    copies.append(house.do("ida", lambda a: templates.copy(a, page, {})))
    copies.append(house.do("ida", lambda a: templates.start(a, template, "en", {"title": "Again"})))
    for copy in copies:
        assert not shown(house, copy)["fields"].get("out_until")
        assert states(house, copy) == {}
