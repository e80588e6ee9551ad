"""What the set-up names and is gone meanwhile (a section that was removed, a language that ended, a person who left) stands in the way of nothing: it may
come back, and the rest is changed without it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import Invalid
from hawthorn.operations.access import people
from hawthorn.operations.content import changing, entries, locales, templates
from hawthorn.operations.delivery import webhooks
from hawthorn.operations.delivery.webhooks import Wanted
from hawthorn.operations.release import dispatches, listing, workflows
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.search import finding
from hawthorn.operations.search.finding import Query
from hawthorn.operations.translation import grid
from hawthorn.operations.views import calendars, show, show_history, timetable
from tests.service.made import House
from tests.service.test_planned_fields import add_fields
from tests.service.test_returns import limited
from tests.service.test_workflows import SECTION, flow


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    yield made
    made.close()


def languages(house: House, *tags: str) -> None:
    def do(act: Any) -> None:
        named = {"en": "English", "fr": "French"}
        locales.define(act, [{"tag": tag, "name": named[tag]} for tag in tags])

    house.do("ida", do)


def test_a_section_that_was_removed_keeps_no_role_webhook_or_choice_from_being_changed(house: House) -> None:
    house.do("ida", lambda a: workflows.define(a, flow("short")))
    house.do(
        "ida",
        lambda a: changing.define_type(a, {"name": "hall", "label": "Hall", "title": "title", **SECTION}),
    )
    hall = house.do("ida", lambda a: entries.start(a, "hall", "en", {"title": "Hall"}))
    within = {"name": "writer", "sections": [hall]}
    house.do("ida", lambda a: people.add_person(a, "sue", "Sue", "sue@x.example", "long enough", [within]))
    hook, _ = house.do(
        "ida", lambda a: webhooks.add(a, Wanted("Site", "https://x.example/", sections=[hall]))
    )
    chosen = {"workflow": "short", "section": hall}
    house.do("ida", lambda a: workflows.set_choices(a, [chosen]))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(hall, "en", "remove")]))

    house.do("ida", lambda a: people.set_holdings(a, "sue", [within, {"name": "reviewer"}]))
    sue = next(p for p in house.desk.read(house.who("ida"), people.people) if p["handle"] == "sue")
    assert {role["name"] for role in sue["roles"]} == {"writer", "reviewer"}
    house.do("ida", lambda a: webhooks.change(a, hook, {"name": "The site", "sections": [hall]}))
    house.do("ida", lambda a: workflows.set_choices(a, [chosen, {"workflow": "short", "type": "page"}]))
    with pytest.raises(Invalid):
        house.do("ida", lambda a: workflows.set_choices(a, [chosen, chosen]))
    with pytest.raises(Invalid):
        house.do("ida", lambda a: webhooks.add(a, Wanted("Other", "https://x.example/", sections=[hall])))
    with pytest.raises(Invalid):
        house.do("ida", lambda a: workflows.set_choices(a, [{"workflow": "standard", "section": hall}]))


def test_rights_in_a_language_that_ended_rest_and_are_kept_with_their_role(house: House) -> None:
    french = [{"verb": "read"}, {"verb": "write", "locales": ["fr"]}]
    house.do("ida", lambda a: people.define_role(a, "french", "French", french))
    house.by_scheduler(house._adding("lou", "french"))
    page = house.page("Fog")
    languages(house, "en")
    house.do("ida", lambda a: people.define_role(a, "french", "In French", french))
    within = {"name": "writer", "locales": ["fr"]}
    house.do("ida", lambda a: people.set_holdings(a, "lou", [{"name": "french"}, within]))
    languages(house, "en", "fr")
    brume = {"title": "Brume", "body": "<p>Mots.</p>"}
    house.do("lou", lambda a: entries.save(a, page, "fr", brume, entries.Base(None, None)))
    with pytest.raises(Invalid):
        house.do(
            "ida", lambda a: people.define_role(a, "greek", "Greek", [{"verb": "read", "locales": ["el"]}])
        )


def test_a_calendar_of_a_language_that_ended_goes_on_and_shows_nothing(house: House) -> None:
    shows = timetable.Shows(kinds=("dispatches", "assignments", "jobs"), locale="fr")
    _, token = house.do("ida", lambda a: calendars.add(a, "In French", shows))
    house.plan([house.signed("Fog")], 3600)
    languages(house, "en")
    assert house.desk.read(house.who("oda"), lambda v: calendars.read(v, token)).items == []
    with pytest.raises(Invalid):
        house.do("ida", lambda a: calendars.add(a, "In French", shows))


def test_what_somebody_did_who_left_is_found_by_their_name(house: House) -> None:
    fog = house.signed("Fog")
    house.do(
        "ida",
        lambda a: people.add_person(
            a, "sue", "Sue", "sue@x.example", "long enough", [{"name": "managing-editor"}]
        ),
    )
    made = house.do("sue", lambda a: dispatches.make(a, [MoveRequest(fog, "en")]))
    house.do("sue", lambda a: entries.save(a, fog, "en", {"title": "Mist"}, entries.base_now(a, fog, "en")))
    house.do("ida", lambda a: people.end_person(a, "sue"))
    look = house.desk.read
    assert [e.uuid for e in look(house.who("oda"), lambda v: finding.listing(v, Query(person="sue"))[0])] == [
        fog
    ]
    only = look(house.who("oda"), lambda v: listing.narrowed(v, person="sue"))
    assert [
        d.uuid
        for d in look(
            house.who("oda"), lambda v: listing.between(v, 0, house.clock.at + 1, 50, narrowed=only)[0]
        )
    ] == [made]
    assert look(house.who("oda"), lambda v: timetable.due(v, "2020-01-01", "2040-01-01", person="sue")) == []
    assert look(house.who("oda"), lambda v: grid.lines(v, grid.Asked(owner="sue"), 9, ""))[0] == []
    with pytest.raises(Invalid):
        look(house.who("oda"), lambda v: finding.listing(v, Query(person="nobody")))


CARD = {
    "name": "card",
    "label": "Card",
    "fields": [
        {"name": "heading", "kind": "line", "label": "Heading"},
        {"name": "to", "kind": "reference", "label": "To"},
    ],
}


def drafted(house: House, page: str) -> tuple[dict[str, Any], str]:
    """What the draft of a page holds, and the note of its newest revision."""

    def look(view: Any) -> tuple[dict[str, Any], str]:
        entry = show.entry(view, page, "en")
        return entry["fields"], show_history.history(view, page, "en")["revisions"][0]["note"]

    return house.desk.read(house.who("ida"), look)


def test_a_template_and_a_copy_leave_out_what_does_not_fit_any_more_and_say_so(house: House) -> None:
    add_fields(
        house,
        [
            {"name": "note", "kind": "line", "label": "Note"},
            {"name": "see", "kind": "reference", "label": "See also", "many": True},
            {"name": "cards", "kind": "blocks", "label": "Cards", "blocks": [CARD]},
        ],
    )
    salt, rope = house.page("Salt"), house.page("Rope")
    cards = [
        {"kind": "card", "fields": {"heading": "Gone", "to": salt}},
        {"kind": "card", "fields": {"heading": "There", "to": rope}},
    ]
    fog = house.page("Fog", note="Wet until noon", see=[salt, rope], cards=cards)
    made = house.do("ida", lambda a: templates.make(a, fog, "Weather"))
    empty = {"see": None, "cards": None}
    house.do("wim", lambda a: entries.save(a, fog, "en", empty, entries.base_now(a, fog, "en")))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(salt, "en", "remove")]))
    limited(house, note=5)

    copied, said = drafted(house, house.do("wim", lambda a: templates.copy(a, fog, {})))
    assert "note" not in copied
    assert "Note" in said
    values, said = drafted(
        house, house.do("wim", lambda a: templates.start(a, made, "en", {"title": "Mist"}))
    )
    assert values["title"] == "Mist"
    assert values["see"] == [rope]
    assert [one["fields"] for one in values["cards"]] == [
        {"heading": "Gone"},
        {"heading": "There", "to": rope},
    ]
    assert "note" not in values
    assert all(label in said for label in ("Weather", "Note", "See also", "Cards"))
    with pytest.raises(Invalid):
        house.do("wim", lambda a: templates.start(a, made, "en", {"title": "Mist", "note": "Wet until noon"}))


def test_a_copy_of_what_fits_says_nothing_of_it(house: House) -> None:
    fog = house.page("Fog")
    values, said = drafted(house, house.do("wim", lambda a: templates.copy(a, fog, {})))
    assert values["body"] == "<p>Words.</p>"
    assert "Left out" not in said
