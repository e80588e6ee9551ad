"""What is signed off is what was looked at: the revision, the shared fields that wait with it, and what a dispatch brings."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import GateUnmet, InTheWay, Refused, StaleRevision
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.content import bulk, entries
from hawthorn.operations.delivery import reading, rendering
from hawthorn.operations.release import dispatches, gathering, review, reviewing, workflows
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.release.records import About
from hawthorn.operations.views import my_work, show, show_comparison
from hawthorn.store import events
from tests.service.made import House
from tests.service.test_planned_fields import add_fields
from tests.service.test_workflows import flow

LEVEL = {"name": "level", "kind": "number", "label": "Level", "shared": True}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    add_fields(made, [LEVEL])
    yield made
    made.close()


def save(house: House, page: str, locale: str = "en", **values: Any) -> None:
    house.do("wim", lambda a: entries.save(a, page, locale, values, entries.base_now(a, page, locale)))


def submit(house: House, page: str, locale: str = "en") -> None:
    house.do("wim", lambda a: review.submit(a, page, locale))


def waits(house: House, page: str, locale: str = "en") -> tuple[int, int | None]:
    """The revision that waits, and that of the shared fields which is decided about with it."""
    found = house.desk.read(house.who("oda"), lambda v: show.entry(v, page, locale))["review"]
    assert found is not None
    return found["revision"], found["common_revision"]


def sign(house: House, page: str, revision: int, shared: int | None = None, locale: str = "en") -> None:
    house.do("oda", lambda a: review.sign_off(a, page, locale, revision, "", shared))


def test_shared_fields_that_came_with_another_locale_are_not_signed_off_unseen(house: House) -> None:
    page = house.page("Fog", level=1)
    submit(house, page)
    assert waits(house, page) == (1, 1)
    house.clock.at += 1
    save(house, page, "fr", title="Brume", body="<p>Mots.</p>", level=9)
    submit(house, page, "fr")
    assert (waits(house, page), waits(house, page, "fr")) == ((1, None), (1, 2))
    with pytest.raises(StaleRevision, match="shared fields"):
        sign(house, page, 1, shared=1)
    sign(house, page, 1)
    with pytest.raises(GateUnmet, match="sign-off"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    sign(house, page, 1, shared=2, locale="fr")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    assert house.is_out(page)


def test_many_that_are_signed_off_at_once_are_held_to_the_shared_fields_that_were_looked_at(
    house: House,
) -> None:
    pages = [house.page(title, level=1) for title in ("Fog", "Salt")]
    for page in pages:
        submit(house, page)
    house.do("wim", lambda a: review.take_back(a, pages[0], "en"))
    save(house, pages[0], level=2)
    submit(house, pages[0])
    items = [(page, "en", 1, 1) for page in pages]
    stale, done = house.do("oda", lambda a: bulk.run(a, "sign", items, {}))
    assert (stale.done, done.done) == (False, True)
    assert "shared fields" in stale.why
    (again,) = house.do("oda", lambda a: bulk.run(a, "sign", [(pages[0], "en", 1, 2)], {}))
    assert again.done


def test_shared_fields_that_were_submitted_anew_are_not_signed_off_with_what_was_looked_at(
    house: House,
) -> None:
    page = house.page("Fog", level=1)
    submit(house, page)
    seen = waits(house, page)
    house.do("wim", lambda a: review.take_back(a, page, "en"))
    save(house, page, level=9)
    submit(house, page)
    assert (seen, waits(house, page)) == ((1, 1), (1, 2))
    with pytest.raises(StaleRevision, match="shared fields"):
        sign(house, page, *seen)  # type: ignore[arg-type]
    sign(house, page, 1, shared=2)


def test_text_that_is_submitted_anew_still_takes_its_shared_fields_along(house: House) -> None:
    page = house.page("Fog", level=1)
    submit(house, page)
    house.clock.at += 1
    save(house, page, title="Mist")
    submit(house, page)
    assert waits(house, page) == (2, 1)
    sign(house, page, 2, shared=1)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    assert house.is_out(page)


def test_no_shared_fields_were_looked_at_where_none_waited(house: House) -> None:
    page = house.signed("Fog", level=1)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    save(house, page, title="Mist")
    submit(house, page)
    assert waits(house, page) == (2, None)
    with pytest.raises(StaleRevision, match="shared fields"):
        sign(house, page, 2, shared=1)
    sign(house, page, 2, shared=0)


def test_a_review_shows_the_shared_fields_that_wait(house: House) -> None:
    page = house.signed("Fog", level=1)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    save(house, page, title="Mist")
    house.clock.at += 1
    save(house, page, level=9)
    submit(house, page)
    (line,) = house.desk.read(house.who("oda"), my_work.my_work)["waiting"]
    found = house.desk.read(
        house.who("oda"), lambda v: show_comparison.comparison(v, page, "en", "release", line["stage"])
    )
    assert [f["field"] for f in found["fields"]] == ["title", "level"]
    assert (found["after"]["revision"], found["after"]["common_revision"]) == waits(house, page) == (2, 2)
    named = house.desk.read(
        house.who("oda"), lambda v: show_comparison.comparison(v, page, "en", "1+1", "2+2")
    )
    assert named["fields"] == found["fields"]


def test_a_dispatch_is_signed_off_in_the_revisions_that_were_looked_at(house: House) -> None:
    page = house.page("Fog")
    made = house.do("wim", lambda a: gathering.start(a, About("Away"), [MoveRequest(page, "en")]))
    name = house.do("wim", lambda a: gathering.write_in(a, made, page, "en"))

    def write(title: str) -> None:
        house.do(
            "wim",
            lambda a: entries.save(
                a, page, "en", {"title": title}, entries.base_now(a, page, "en", name), "", name
            ),
        )

    write("Mist")
    with house.desk.db.read() as conn:
        newest = conn.execute("SELECT max(number) FROM revision").fetchone()[0]
    write("Haze")
    seen: dict[tuple[str, str], int | None] = {(page, "en"): newest}
    with pytest.raises(StaleRevision, match="goes in another revision"):
        house.do("oda", lambda a: reviewing.sign(a, made, [*seen], seen=seen))
    with pytest.raises(GateUnmet):
        house.do("ida", lambda a: dispatches.send(a, made))
    seen[(page, "en")] = newest + 1
    house.do("oda", lambda a: reviewing.sign(a, made, [*seen, (page, "*")], seen=seen))
    house.do("ida", lambda a: dispatches.send(a, made))
    assert house.is_out(page)


def offered(house: House, page: str, who: str) -> set[str]:
    """What somebody may do with a page, of what is about its way out."""
    acts = house.desk.read(house.who(who), lambda v: show.entry(v, page, "en"))["acts"]
    return {one["act"] for one in acts if one["allowed"]} & {"submit", "sign", "send-back", "release"}


def asked(house: House) -> list[str]:
    """Who has something to decide, and it is these whom the page names."""
    return [
        who for who in ("ida", "oda", "wim") if house.desk.read(house.who(who), my_work.my_work)["waiting"]
    ]


def named(house: House, page: str) -> list[str]:
    found = house.desk.read(house.who("wim"), lambda v: show.entry(v, page, "en"))["deciders"]
    return sorted(name.lower() for name in found)


def covered(house: House, page: str) -> list[tuple[bool, bool]]:
    """Of each sign-off, whether it covers the text and the shared fields as they are."""
    found = house.desk.read(house.who("ida"), lambda v: show.entry(v, page, "en"))["sign_offs"]
    return [(one["covers_head"], one["covers_common"]) for one in found]


def signatures(house: House, page: str) -> list[str]:
    """The locales of the newest revisions of an entry that were signed off, one for each time."""
    with house.desk.db.read() as conn:
        rows = conn.execute(
            "SELECT d.locale FROM sign_off s JOIN revision r ON r.id = s.revision JOIN edition d ON d.id = r.edition "
            "JOIN strand k ON k.edition = d.id AND k.head = r.id JOIN entry e ON e.id = d.entry WHERE e.uuid = ? ORDER BY s.id",
            (page,),
        ).fetchall()
    return [row[0] for row in rows]


def test_shared_fields_alone_go_the_way_that_a_text_goes(house: House) -> None:
    page = house.signed("Fog", level=1)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    assert (offered(house, page, "wim"), offered(house, page, "ida")) == (set(), set())
    save(house, page, level=9)
    assert offered(house, page, "wim") == {"submit"}
    assert covered(house, page) == [(True, False)]
    submit(house, page)
    # Whoever signed the text before is asked about what is new.
    assert (asked(house), named(house, page)) == (["ida", "oda"], ["ida", "oda"])
    told = house.desk.read(
        house.who("ida"), lambda v: notifications.for_event(v, events.after(v.conn, 0, 500)[-1])
    )
    assert {one.actor for one in told} == {house.who(who).id for who in ("ida", "oda")}
    assert offered(house, page, "oda") == {"sign", "send-back"}
    sign(house, page, 1, shared=2)
    assert covered(house, page) == [(True, True)]
    with pytest.raises(InTheWay, match="signed off already"):
        submit(house, page)
    assert offered(house, page, "ida") == {"send-back", "release"}
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    assert (offered(house, page, "ida"), asked(house)) == (set(), [])
    with pytest.raises(InTheWay, match="out already"):
        submit(house, page)


def test_shared_fields_that_changed_come_to_a_text_that_is_in_review(house: House) -> None:
    page = house.page("Fog", level=1)
    submit(house, page)
    with pytest.raises(InTheWay, match="in review already"):
        submit(house, page)
    assert offered(house, page, "wim") == set()
    save(house, page, level=9)
    assert offered(house, page, "wim") == {"submit"}
    submit(house, page)
    assert waits(house, page) == (1, 2)


def test_what_others_changed_in_shared_fields_waits_for_somebody_else(house: House) -> None:
    page = house.signed("Fog", level=1)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    save(house, page, title="Mist")
    house.do("oda", lambda a: entries.save(a, page, "en", {"level": 9}, entries.base_now(a, page, "en")))
    submit(house, page)
    assert asked(house) == ["ida", "oda"]
    sign(house, page, 2, shared=2)
    # Her sign-off is of the text: the shared fields are her own.
    gate = house.desk.read(house.who("ida"), lambda v: show.entry(v, page, "en"))["gate"]
    assert gate is not None
    assert (gate["given"], signatures(house, page)) == ([], ["en"])
    assert (asked(house), named(house, page), offered(house, page, "oda")) == (
        ["ida"],
        ["ida"],
        {"send-back"},
    )
    with pytest.raises(Refused, match="You changed this text"):
        sign(house, page, 2, shared=2)
    with pytest.raises(GateUnmet):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    house.do("ida", lambda a: review.sign_off(a, page, "en", 2, "", 2))
    # Ready to go out: that is what is left to do.
    assert offered(house, page, "ida") >= {"send-back", "release"}
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    assert house.is_out(page)


def test_whoever_wrote_the_text_is_not_asked_about_the_shared_fields_beside_it(house: House) -> None:
    page = house.signed("Fog", level=1)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    save(house, page, level=9)
    house.do("ida", lambda a: entries.save(a, page, "en", {"title": "Mist"}, entries.base_now(a, page, "en")))
    submit(house, page)
    assert (asked(house), named(house, page)) == (["oda"], ["oda"])
    assert "sign" not in offered(house, page, "ida")
    with pytest.raises(Refused, match="You changed this text"):
        house.do("ida", lambda a: review.sign_off(a, page, "en", 2))
    sign(house, page, 2, shared=2)
    assert signatures(house, page) == ["en", "*"]


@pytest.mark.parametrize("decided", [False, True])
def test_shared_fields_are_sent_back_with_their_text(house: House, decided: bool) -> None:
    house.do("ida", lambda a: workflows.define(a, flow("standard", sign_offs=1 if decided else 2)))
    page = house.page("Fog", level=1)
    save(house, page, "fr", title="Brume", body="<p>Mots.</p>")
    submit(house, page)
    sign(house, page, 1, shared=1)
    assert signatures(house, page) == ["en", "*"]
    house.do("oda", lambda a: review.send_back(a, page, "en", "Another level."))
    assert signatures(house, page) == [], "neither was right"
    assert [until is None for _, _, _, until in house.standing(page, "*")] == [False]
    # What was sent back does not go out with another locale either.
    submit(house, page, "fr")
    assert waits(house, page, "fr") == (1, 1)
    submit(house, page)
    assert waits(house, page) == (1, 1), "it is looked at anew, with whichever text it goes"


def test_what_is_out_stays_signed_off_when_shared_fields_are_sent_back(house: House) -> None:
    page = house.signed("Fog", level=1)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    save(house, page, level=9)
    submit(house, page)
    house.do("oda", lambda a: review.send_back(a, page, "en", "Another level."))
    assert (signatures(house, page), house.is_out(page)) == (["en"], True)
    save(house, page, level=3)
    submit(house, page)
    sign(house, page, 1, shared=3)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    assert fields_out(house, page)["level"] == 3


def fields_out(house: House, page: str) -> dict[str, Any]:
    place = reading.Place()
    found: dict[str, Any] = json.loads(
        house.desk.read(house.who("ida"), lambda v: rendering.render(v, page, "en", place)).data
    )["fields"]
    return found


def test_shared_fields_that_were_signed_off_with_another_locale_stay_so(house: House) -> None:
    page = house.page("Fog", level=1)
    save(house, page, "fr", title="Brume", body="<p>Mots.</p>")
    submit(house, page, "fr")
    sign(house, page, 1, locale="fr")
    house.clock.at += 1
    submit(house, page)
    house.do("oda", lambda a: review.send_back(a, page, "en", "Another title."))
    assert signatures(house, page) == ["fr", "*"]
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "fr")]))
    assert house.is_out(page, "fr")


def test_another_locale_that_is_sent_back_leaves_shared_fields_to_those_who_look_at_them(
    house: House,
) -> None:
    house.do("ida", lambda a: workflows.define(a, flow("standard", sign_offs=2)))
    page = house.page("Fog", level=1)
    save(house, page, "fr", title="Brume", body="<p>Mots.</p>")
    submit(house, page)
    sign(house, page, 1, shared=1)
    house.clock.at += 1
    submit(house, page, "fr")
    assert waits(house, page, "fr") == (1, 1)
    house.do("oda", lambda a: review.send_back(a, page, "fr", "Another word."))
    assert (signatures(house, page), waits(house, page)) == (["en", "*"], (1, 1))
