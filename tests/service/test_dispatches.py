"""The life of a dispatch: put together, checked, planned, held, sent after all, opened again, undone and done again."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hawthorn.core.errors import GateUnmet, InTheWay, Invalid, NotFound, Refused
from hawthorn.core.timeline import SECOND, iso
from hawthorn.messages import ENGLISH
from hawthorn.operations.access import people as people_of
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.content import entries, locales
from hawthorn.operations.delivery import outline
from hawthorn.operations.release import dispatches, gathering, listing, planning, records, review, undoing
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.views import show, show_dispatches, show_log
from hawthorn.operations.views.show_log import Filter
from hawthorn.store import events, people
from tests.service.made import House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def shown(house: House, id: str) -> dict[str, Any]:
    return house.desk.read(house.who("ida"), lambda v: show_dispatches.dispatch(v, records.find(v, id)))


def soon(house: House, seconds: float) -> When:
    return When(instant=iso(house.clock.at + round((seconds + 1) * SECOND)))


def started(house: House, *pages: str, who: str = "wim", **about: Any) -> str:
    requests = [MoveRequest(p, "en") for p in pages]
    return house.do(who, lambda a: gathering.start(a, About("Winter", **about), requests))


def out_of(house: House, page: str) -> int | None:
    """The revision of a page that is out."""
    return next(
        (r for stage, r, _, until in house.standing(page) if stage == "release" and until is None), None
    )


def undo(house: House, id: str, *, take: bool = False) -> str:
    return house.do("ida", lambda a: undoing.undo(a, id, take=take))


def changed(house: House, page: str, words: str) -> None:
    """Sign off another revision of a page."""

    def save(act: Any) -> Any:
        base = entries.current_base(act, entries.store.entry(act.conn, page).id, "en", "draft")
        return entries.save(act, page, "en", {"body": f"<p>{words}</p>"}, base, "")

    house.do("wim", save)
    house.do("wim", lambda a: review.submit(a, page, "en"))
    number = house.revision(page)["number"]
    house.do("oda", lambda a: review.sign_off(a, page, "en", number))


def test_a_writer_puts_a_dispatch_together_and_only_who_releases_lets_it_go(house: House) -> None:
    fog, gull, rope = house.signed("Fog"), house.signed("Gull"), house.page("Rope")
    id = started(house, fog, note="All that changes in December.", owner="ida")
    house.do(
        "wim",
        lambda a: gathering.add(
            a, id, [MoveRequest(gull, "en"), MoveRequest(fog, "en"), MoveRequest(rope, "en")]
        ),
    )
    one = shown(house, id)
    assert (one["state"], one["instant"], one["owner"], one["by"]) == ("open", None, "ida", "Wim")
    assert [m["title"] for m in one["moves"]] == ["Fog", "Gull", "Rope"], (
        "what is there already comes in once"
    )
    house.later(10**6)
    assert not house.is_out(fog), "nothing of it goes by itself"
    for act in (dispatches.send, lambda a, i: dispatches.plan(a, i, soon(house, 60))):
        with pytest.raises(Refused):
            house.do("wim", lambda a, act=act: act(a, id))
    with pytest.raises(GateUnmet, match="Rope"):
        house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 60)))
    assert house.state(id) == "open"
    house.do("wim", lambda a: gathering.drop(a, id, [(rope, "")]))
    with pytest.raises(Invalid, match="No time"):
        house.do("ida", lambda a: dispatches.plan(a, id))
    house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 60)))
    assert (house.state(id), house.is_out(fog)) == ("planned", False)
    with pytest.raises(InTheWay, match="is planned, so nothing can be put in"):
        house.do("wim", lambda a: gathering.add(a, id, [MoveRequest(rope, "en")]))
    house.later(120)
    assert (house.state(id), house.is_out(fog), house.is_out(gull)) == ("gone", True, True)


def test_what_is_pinned_goes_and_what_follows_brings_what_is_approved_by_then(house: House) -> None:
    pinned, follows = house.signed("Pinned"), house.signed("Follows")
    requests = [MoveRequest(pinned, "en"), MoveRequest(follows, "en", follows=True)]
    id = house.do("ida", lambda a: dispatches.make(a, requests, soon(house, 600)))
    for page in (pinned, follows):
        changed(house, page, "Later words.")
    own = [m for m in shown(house, id)["moves"] if m["locale"] == "en"]
    assert [(m["after"], m["head"], m["follows"]) for m in own] == [(1, 2, False), (2, 2, True)]
    house.later(1200)
    assert house.state(id) == "gone"
    out = {p: house.standing(p)[-1][1] for p in (pinned, follows)}
    assert out == {pinned: 1, follows: 2}


def test_what_follows_may_be_planned_before_it_is_approved_and_is_held_if_it_never_is(house: House) -> None:
    ready, late = house.page("Ready"), house.page("Late")
    made = {}
    for page in (ready, late):
        request = [MoveRequest(page, "en", follows=True)]
        made[page] = house.do("ida", lambda a, r=request: dispatches.make(a, r, soon(house, 600)))
    with pytest.raises(GateUnmet):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(late, "en")], soon(house, 600)))
    house.do("wim", lambda a: review.submit(a, ready, "en"))
    house.do("oda", lambda a: review.sign_off(a, ready, "en", 1))
    house.later(1200)
    assert [house.state(made[p]) for p in (ready, late)] == ["gone", "held"]


def test_what_was_held_is_sent_by_one_act_once_it_is_clear(house: House) -> None:
    page = house.page("Fog")
    id = house.do(
        "ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", follows=True)], soon(house, 60))
    )
    house.later(120)
    assert (house.state(id), shown(house, id)["held"][0]["title"]) == ("held", "Fog")
    with pytest.raises(GateUnmet):
        house.do("ida", lambda a: dispatches.send(a, id))
    assert house.state(id) == "held"
    house.do("wim", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.sign_off(a, page, "en", 1))
    house.do("ida", lambda a: dispatches.send(a, id))
    assert (house.state(id), house.is_out(page), shown(house, id)["held"]) == ("gone", True, [])


def test_whoever_can_clear_what_held_it_is_told_with_what_to_do(house: House) -> None:
    fog = house.page("Fog")
    house.do(
        "ida",
        lambda a: dispatches.make(a, [MoveRequest(fog, "en", follows=True)], soon(house, 60), name="Season"),
    )
    house.later(120)

    def told(view: Any) -> list[tuple[str, str]]:
        found = [
            n
            for row in events.after(view.conn, 0)
            for n in notifications.for_event(view, row)
            if n.kind == "dispatch"
        ]
        names = {row.id: row.handle for h in ("ida", "oda", "wim") if (row := people.by_handle(view.conn, h))}
        return [(names[n.actor], ENGLISH.text(n.says)) for n in found]

    assert house.desk.read(house.who("ida"), told) == [
        ("ida", "Held: Season"),
        ("oda", "Held, and you could clear it: Season"),
    ], "the owner, and who is asked to sign it off; the writer cannot"


def test_the_rest_goes_where_that_was_chosen_and_what_stays_is_held_by_itself(house: House) -> None:
    fog, gull, rope = house.signed("Fog"), house.page("Gull"), house.signed("Rope")
    requests = [MoveRequest(p, "en", follows=True) for p in (fog, gull, rope)]
    whole = house.do("ida", lambda a: dispatches.make(a, requests, soon(house, 60)))
    house.later(120)
    assert house.state(whole) == "held", "all or none, if nothing else was said"
    assert not house.is_out(fog)
    rest = house.do(
        "ida", lambda a: dispatches.make(a, requests, soon(house, 60), partial=True, name="Season")
    )
    house.later(120)
    assert (house.state(rest), house.is_out(fog), house.is_out(gull), house.is_out(rope)) == (
        "gone",
        True,
        False,
        True,
    )
    assert {m["title"] for m in shown(house, rest)["moves"]} == {"Fog", "Rope"}
    found, _ = house.desk.read(house.who("ida"), lambda v: listing.waiting(v, "held", 10))
    assert [one.name for one in found] == ["Held back: Season", "Release Fog and 2 more"]
    back = found[0].uuid
    led = {
        id: (one["held_back"], one["held_back_from"])
        for id in (whole, rest, back)
        for one in [shown(house, id)]
    }
    assert led == {whole: (None, None), rest: (back, None), back: (None, rest)}, "each leads to the other"
    with house.desk.db.read() as conn:
        said = "SELECT json ->> '$.held_back_from' FROM event_payload WHERE json ->> '$.dispatch' = ?"
        assert [one[0] for one in conn.execute(said, (back,))] == [rest]
    changed(house, gull, "Words that are signed.")
    house.do("ida", lambda a: dispatches.send(a, back))
    assert house.is_out(gull)


def test_what_leads_to_something_that_is_held_back_is_held_back_with_it(house: House) -> None:
    gull = house.page("Gull")
    fog = house.signed("Fog", body=f'<p>See <a href="urn:uuid:{gull}">the gull</a>.</p>')
    rope = house.signed("Rope")
    requests = [MoveRequest(p, "en", follows=True) for p in (fog, gull, rope)]
    house.do("ida", lambda a: dispatches.make(a, requests, soon(house, 60), partial=True, name="Season"))
    house.later(120)
    assert [house.is_out(one) for one in (fog, gull, rope)] == [False, False, True]


def test_one_that_was_planned_is_opened_again_changed_and_planned_anew(house: House) -> None:
    fog, gull = house.signed("Fog"), house.signed("Gull")
    id = house.plan([fog], 600)
    changed(house, fog, "Other words.")
    house.do("ida", lambda a: dispatches.reopen(a, id))
    house.later(1200)
    assert (house.state(id), house.is_out(fog)) == ("open", False), "its time has passed, and it did not go"
    house.do("wim", lambda a: gathering.add(a, id, [MoveRequest(gull, "en")]))
    house.do("ida", lambda a: dispatches.send(a, id))
    assert (out_of(house, fog), house.is_out(gull)) == (2, True), "with what is approved by now"
    found = house.desk.read(house.who("ida"), lambda v: dispatches.check(v, id))
    assert (found.lines, found.blocked) == ([], False), "what has gone does nothing any more"
    for act, word in (
        (dispatches.reopen, "opened"),
        (dispatches.cancel, "cancelled"),
        (dispatches.send, "go any more"),
    ):
        with pytest.raises(InTheWay, match=f"is gone, so it .*{word}"):
            house.do("ida", lambda a, act=act: act(a, id))


def test_a_check_offers_other_languages_and_the_pages_below_as_far_as_they_are_not_out(house: House) -> None:
    tags = [{"tag": "en", "name": "English"}, {"tag": "fr", "name": "French"}]
    house.do("ida", lambda a: locales.define(a, tags))
    fog, gull, rope = house.signed("Fog"), house.page("Gull"), house.signed("Rope")
    for page in (gull, rope):
        house.do("ida", lambda a, p=page: outline.move(a, p, fog))
    french = {"title": "Brume", "body": "<p>Mots.</p>"}
    house.do("ida", lambda a: entries.save(a, fog, "fr", french, entries.Base(None, None), ""))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(fog, "en"), MoveRequest(rope, "en")]))
    changed(house, fog, "Newer words.")
    id = started(house, fog)

    def offered() -> set[tuple[str, str, str]]:
        found = house.desk.read(house.who("ida"), lambda v: dispatches.check(v, id))
        return house.desk.read(
            house.who("ida"),
            lambda v: {(o.title, o.locale, o.why) for o in planning.offered(v, found.lines)},
        )

    assert offered() == {("Brume", "fr", "locale"), ("Gull", "en", "below")}, "the rope is out as it is"
    house.do("ida", lambda a: gathering.add(a, id, [MoveRequest(fog, "fr"), MoveRequest(gull, "en")]))
    assert offered() == set()
    house.do("ida", lambda a: gathering.drop(a, id, [(gull, "en")]))
    assert offered() == {("Gull", "en", "below")}, "and what was put in is left out again"


def test_a_check_says_what_moved_on_and_what_else_is_planned(house: House) -> None:
    fog = house.signed("Fog")
    first = house.plan([fog], 600, "withdraw")
    id = started(house, fog)
    changed(house, fog, "Newer words.")
    found = house.desk.read(house.who("ida"), lambda v: dispatches.check(v, id))
    assert [(p.uuid, p.verb) for p in found.also] == [(first, "withdraw")]
    house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 300)))
    changed(house, fog, "Newest words.")
    found = house.desk.read(house.who("ida"), lambda v: dispatches.check(v, id))
    own = next(x for x in found.lines if x.locale == "en")
    assert (own.before, own.after, own.head) == (None, 2, 3)
    assert [p.uuid for p in found.also] == [first], "it is not in its own way"


def test_whoever_only_reads_cancels_none_even_if_it_is_empty(house: House) -> None:
    house.by_scheduler(
        lambda a: people_of.add_person(
            a, "rena", "Rena", "rena@x.example", "long enough", [{"name": "staff"}]
        )
    )
    id = started(house)
    for act in (dispatches.cancel, lambda a, i: gathering.describe(a, i, About("Mine"))):
        with pytest.raises(Refused):
            house.do("rena", lambda a, act=act: act(a, id))
    assert (house.state(id), shown(house, id)["name"]) == ("open", "Winter")
    house.do("wim", lambda a: dispatches.cancel(a, id))
    assert house.state(id) == "cancelled"


def test_all_that_lies_below_comes_along_where_it_is_wanted(house: House) -> None:
    top = house.page("Top")
    middle = house.page("Middle", below=top)
    bottom = house.page("Bottom", below=middle)
    id = started(house)
    house.do("wim", lambda a: gathering.add(a, id, [MoveRequest(top, "en")], below=True))
    assert [m["id"] for m in shown(house, id)["moves"]] == [top, middle, bottom]


def test_undoing_puts_back_what_stood_and_can_be_undone(house: House) -> None:
    fog, gull = house.signed("Fog"), house.signed("Gull")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(fog, "en")]))
    changed(house, fog, "Second.")
    gone = house.do(
        "ida", lambda a: dispatches.make(a, [MoveRequest(fog, "en"), MoveRequest(gull, "en")], name="Two")
    )
    back = undo(house, gone)
    assert (out_of(house, fog), house.is_out(gull)) == (1, False)
    assert [house.state(x) for x in (gone, back)] == ["undone", "gone"]
    assert (shown(house, back)["name"], shown(house, back)["undoes"], shown(house, gone)["undone_by"]) == (
        "Undo: Two",
        gone,
        back,
    )
    with pytest.raises(InTheWay, match="is undone, so there is nothing of it to undo"):
        undo(house, gone)
    again = undo(house, back)
    assert (out_of(house, fog), house.is_out(gull)) == (2, True)
    assert [house.state(x) for x in (gone, back, again)] == ["gone", "undone", "gone"]
    assert shown(house, again)["name"] == "Again: Two"
    undo(house, again)
    assert not house.is_out(gull)


def test_what_changed_since_is_left_or_taken_along_by_choice(house: House) -> None:
    fog, gull = house.signed("Fog"), house.signed("Gull")
    gone = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(fog, "en"), MoveRequest(gull, "en")]))
    changed(house, fog, "Since then.")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(fog, "en")]))
    found = house.desk.read(house.who("ida"), lambda v: undoing.look(v, gone))
    assert {(x.title, x.before, x.after) for x in found.changed if x.locale == "en" and x.stage == 2} == {
        ("Fog", 2, None)
    }
    undo(house, gone)
    assert (house.is_out(fog), house.is_out(gull)) == (True, False)

    other = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(gull, "en")]))
    changed(house, gull, "Since then.")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(gull, "en")]))
    with pytest.raises(InTheWay, match="has changed since"):
        undo(house, other)
    undo(house, other, take=True)
    assert not house.is_out(gull)


def test_a_removal_is_undone_with_its_addresses_and_done_again(house: House) -> None:
    page = house.signed("Fog")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    removed = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", "remove")]))
    with pytest.raises(NotFound):
        house.do("wim", lambda a: show.entry(a, page, "en"))
    back = undo(house, removed)
    assert house.is_out(page)
    assert house.do("wim", lambda a: show.entry(a, page, "en"))["fields"]["title"] == "Fog"
    undo(house, back)
    assert not house.is_out(page)
    with pytest.raises(NotFound):
        house.do("wim", lambda a: show.entry(a, page, "en"))

    draft = house.page("Never out")
    gone = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(draft, "en", "remove")]))
    undo(house, gone)
    assert house.do("wim", lambda a: show.entry(a, draft, "en"))["fields"]["title"] == "Never out"


def test_a_removal_is_put_into_an_open_dispatch_by_its_locale(house: House) -> None:
    page, other = house.signed("Fog"), house.signed("Gull")
    id = started(house, other)
    house.do("ida", lambda a: gathering.add(a, id, [MoveRequest(page, "en", "remove")]))
    assert [(m["title"], m["locale"]) for m in shown(house, id)["moves"]] == [("Gull", "en"), ("Fog", "en")]
    house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 60)))
    house.do("ida", lambda a: dispatches.reopen(a, id))
    assert len(shown(house, id)["moves"]) == 2, "what came along leaves again"
    house.do("ida", lambda a: dispatches.send(a, id))
    with pytest.raises(NotFound):
        house.do("wim", lambda a: show.entry(a, page, "en"))
    undo(house, id)
    assert (house.is_out(other), out_of(house, page)) == (False, None)
    assert house.do("wim", lambda a: show.entry(a, page, "en"))["fields"]["title"] == "Fog"


def test_an_address_that_is_somebody_elses_by_now_keeps_an_undoing_whole(house: House) -> None:
    old, other = house.signed("Fog", slug="fog"), house.signed("Gull")
    both = [MoveRequest(old, "en"), MoveRequest(other, "en")]
    house.do("ida", lambda a: dispatches.make(a, both))
    gone = house.do(
        "ida", lambda a: dispatches.make(a, [MoveRequest(p.uuid, "en", "withdraw") for p in both])
    )
    rival = house.signed("Another fog", slug="fog")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(rival, "en")]))
    with pytest.raises(GateUnmet, match="cannot be undone"):
        undo(house, gone)
    assert (house.is_out(old), house.is_out(other), house.state(gone)) == (False, False, "gone")


@pytest.mark.parametrize(
    ("about", "where"),
    [
        (About("Winter", owner="nobody"), "owner"),
        (About("Winter", owner="scheduler"), "owner"),
        (About("x" * 500), "name"),
    ],
)
def test_a_bad_name_or_owner_is_refused_by_name(house: House, about: About, where: str) -> None:
    with pytest.raises(Invalid) as refused:
        house.do("wim", lambda a: gathering.start(a, about))
    assert [p.where for p in refused.value.facts["problems"]] == [where]
    id = started(house)
    with pytest.raises(Invalid):
        house.do("wim", lambda a: gathering.describe(a, id, about))
    house.do("wim", lambda a: gathering.describe(a, id, About("Spring", "Why", "ida", True)))
    one = shown(house, id)
    assert (one["name"], one["note"], one["owner"], one["partial"]) == ("Spring", "Why", "ida", True)
    with pytest.raises(Invalid, match="Nothing was named"):
        house.do("ida", lambda a: dispatches.send(a, id))


ACTS = st.lists(
    st.tuples(
        st.sampled_from(["release", "withdraw", "remove"]), st.sets(st.integers(0, 3), min_size=1, max_size=3)
    ),
    min_size=1,
    max_size=5,
)


@settings(max_examples=25)
@given(acts=ACTS)
def test_undoing_one_after_the_other_leads_back_through_what_stood(acts: list[tuple[str, set[int]]]) -> None:
    """An independent model: after each undoing exactly the same is out, found at the same addresses, as before what it undoes."""
    with tempfile.TemporaryDirectory() as folder, closing(House(Path(folder))) as house:
        pages = [house.signed(f"Page {n}") for n in range(4)]

        def stands() -> tuple[Any, ...]:
            with house.desk.db.read() as conn:
                out = conn.execute(
                    "SELECT edition, stage, revision FROM standing WHERE until IS NULL ORDER BY 1, 2"
                ).fetchall()
                at = conn.execute(
                    "SELECT entry, locale, slug FROM address WHERE stage = 2 AND until IS NULL ORDER BY 1, 2"
                ).fetchall()
                there = conn.execute("SELECT uuid FROM entry WHERE removed_at IS NULL ORDER BY 1").fetchall()
            return tuple(map(tuple, out)), tuple(map(tuple, at)), tuple(map(tuple, there))

        made: list[tuple[str, Any]] = []
        for verb, which in acts:
            before = stands()
            requests = [MoveRequest(pages[n], "en", verb) for n in sorted(which)]
            try:
                made.append((house.do("ida", lambda a, r=requests: dispatches.make(a, r)), before))
            except (InTheWay, NotFound, GateUnmet):
                assert stands() == before
        last = stands()
        undone = []
        for id, before in reversed(made):
            undone.append(undo(house, id))
            assert stands() == before
        for id in reversed(undone):
            undo(house, id)
        assert stands() == last


def test_all_that_happened_to_a_dispatch_is_found_its_undoing_too_by_who_may_read_it(house: House) -> None:
    page, other = house.signed("Fog"), house.signed("Gull")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(other, "en")]))
    id = house.do("ida", lambda a: gathering.start(a, About("Weather"), [MoveRequest(page, "en")]))
    when = When(instant=iso(house.clock.at + 600 * SECOND))
    house.do("ida", lambda a: dispatches.plan(a, id, when))
    house.later(601)
    house.do("ida", lambda a: undoing.undo(a, id))

    def told(handle: str) -> list[tuple[str, str]]:
        found = house.desk.read(
            house.who(handle), lambda v: show_log.page(v, Filter(dispatch=id), 1 << 62, 50)
        )
        return [(event["kind"].removeprefix("dispatch."), event["by"]) for event in found["items"]]

    assert told("wim") == told("ida") == [
        ("gone", "Ida"), ("gone", "Scheduler"), ("planned", "Ida"), ("opened", "Ida"),
    ]  # fmt: skip
    house.do("ida", lambda a: people_of.add_person(a, "guest", "Guest", "g@x.example", "long enough", []))
    with pytest.raises(NotFound):
        told("guest")
