"""What is told of what is to come is what comes: at an instant, by what is planned until then, and as if a dispatch had gone."""

from __future__ import annotations

import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import HawthornError, NotFound
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import outline, reading
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import dispatches, foreseen, gathering, records, review, undoing, workflows
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.runtime.act import View
from hawthorn.operations.search import finding
from hawthorn.operations.views import health, then
from hawthorn.store import revisions, standings
from tests.service.made import House
from tests.service.test_limited import SHEET
from tests.service.test_workflows import flow

BETWEEN = ("look", "passed")
STAGED: dict[str, Any] = {
    "name": "staged",
    "label": "Staged",
    "stages": [
        {"name": "draft", "label": "Draft", "order": 0},
        {"name": "look", "label": "Look", "order": 150},
        {"name": "passed", "label": "Passed", "order": 200},
        {"name": "release", "label": "Release", "order": 1000},
    ],
}
PAGE = {**SHEET, "workflow": "staged", "fields": [*SHEET["fields"], {"name": "price", "kind": "line", "shared": True}]}  # fmt: skip
HOUR = 3_600 * SECOND


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    made.do("ida", lambda a: workflows.define(a, STAGED))
    made.do("ida", lambda a: changing.define_type(a, PAGE))
    yield made
    made.close()


def sheet(house: House, title: str, **fields: Any) -> str:
    values = {"title": title, **fields}
    return house.do("ida", lambda a: entries.start(a, "sheet", "en", values))


def save(house: House, uuid: str, locale: str = "en", **fields: Any) -> None:
    house.do("ida", lambda a: entries.save(a, uuid, locale, fields, entries.base_now(a, uuid, locale)))


def go(house: House, *moves: MoveRequest, hours: float = 0) -> str:
    when = When(instant=iso(house.clock.at + round(hours * HOUR))) if hours else None
    return house.do("ida", lambda a: dispatches.make(a, moves, when))


def advanced(uuid: str, locale: str, stage: str) -> MoveRequest:
    return MoveRequest(uuid, locale, "advance", payload={"stage": stage})


def seen(
    house: House, pages: list[str], at: int | None = None, dispatch: str = ""
) -> dict[tuple[Any, ...], Any]:
    """What is read of each page at each stage, and of what is out its path and the outline; what a page is said to stand at."""

    def look(view: View) -> dict[tuple[Any, ...], Any]:
        found: dict[tuple[Any, ...], Any] = {}
        stages = ("release",) if dispatch else (*BETWEEN, "release")
        places = {
            stage: reading.place(view, dispatch=dispatch) if dispatch else Place(view.setup.stages[stage], at)
            for stage in stages
        }
        for n, uuid in enumerate(pages):
            entry = entries.store.entry(view.conn, uuid)
            for one in entries.store.editions(view.conn, entry.id) if entry is not None else ():
                assert entry is not None
                for stage, where in places.items():
                    held = reading.revision_at(view, one.id, where)
                    value = revisions.content(view.conn, held[0]).fields if held else None
                    found[n, one.locale, stage] = value
                # Where nothing is out, the address of the draft stands in, and what will be drafted is not foreseen.
                if one.locale != "*" and found[n, one.locale, "release"] is not None:
                    found[n, one.locale, "path"] = reading.path_at(
                        view, entry.id, one.locale, places["release"]
                    )
                if not dispatch:
                    stands = then.stand(view, [one.id], at).get(one.id, {})
                    found[n, one.locale, "stands"] = {s: x.revision for s, x in stands.items()}
        for stage, tag in ((stage, tag) for stage in stages[1:] or stages for tag in ("en", "fr")):
            lines, _ = outline.below(view, "", places[stage], tag)
            found["outline", stage, tag] = [(line.uuid, line.title) for line in lines]
        for stage in ("", *BETWEEN, "release") if at else ():
            for archived in ("", "only"):
                asked = finding.Query(at=iso(at or 0), stage=stage, archived=archived)
                found["list", stage, archived] = {row.uuid for row in finding.listing(view, asked)[0]}
        return found

    return house.desk.read(house.who("ida"), look)


def state(house: House, dispatch: str) -> str:
    return house.desk.read(house.who("ida"), lambda v: records.find(v, dispatch)).state


class Walk:
    """Somebody who does one thing after another to two pages in two languages."""

    def __init__(self, house: House, seed: int) -> None:
        self.house, self.pick = house, random.Random(seed)
        self.pages = [sheet(house, f"Page {n}", slug=f"p{n}") for n in range(2)]
        self.made: list[str] = []
        self.compared = self.went = 0

    def step(self, n: int) -> None:
        pick, house = self.pick, self.house
        page, locale, kind = pick.choice(self.pages), pick.choice(["en", "en", "fr"]), pick.random()
        last = pick.choice(self.made[-4:]) if self.made else ""
        if kind < 0.3:
            slug = {"slug": f"s{pick.randrange(4)}"}
            change = pick.choice([{"title": f"T{n}"}, {"title": f"T{n}"}, {"price": str(n)}, slug])
            save(house, page, locale, **change)
        elif kind < 0.4:
            go(house, advanced(page, locale, pick.choice(BETWEEN)))
        elif kind < 0.73:
            self._make(n, locale)
        elif kind < 0.78 and last:
            house.do("ida", lambda a: undoing.undo(a, last))
        elif kind < 0.82 and last:
            when = When(instant=iso(house.clock.at + pick.choice([1, 2]) * HOUR))
            house.do("ida", lambda a: dispatches.replan(a, last, when))
        elif kind < 0.87 and last:
            self._send(last)
        elif kind < 0.9:
            house.do("ida", lambda a: entries.bring_back(a, page))
        else:
            self._wait(house.clock.at + round(pick.choice([0.5, 1, 2]) * HOUR))

    def _make(self, n: int, locale: str) -> None:
        pick, moves = self.pick, []
        for one in pick.sample(self.pages, pick.choice([1, 1, 2])):
            verb = pick.choice([*["release"] * 5, *["withdraw", "advance"] * 3, "set", "set", "archive", "remove"])  # fmt: skip
            payload: dict[str, Any] = {"stage": pick.choice(BETWEEN)} if verb == "advance" else {}
            if verb == "set":
                payload = {"fields": {pick.choice(["title", "price", "slug"]): f"set{n}"}}
            follows = verb == "release" and pick.random() < 0.2
            moves.append(MoveRequest(one, locale, verb, payload=payload, follows=follows))
            if verb in ("release", "withdraw") and pick.random() < 0.25:
                other = "fr" if locale == "en" else "en"
                moves.append(MoveRequest(one, other, pick.choice(["release", "withdraw"])))
        if pick.random() < 0.3:
            made = self.house.do("ida", lambda a: gathering.start(a, About(name="Together"), moves))
            self.made.append(made)
            if pick.random() < 0.3:
                self.house.do("ida", lambda a: gathering.write_in(a, made, self.pages[0], "en"))
        else:
            self.made.append(go(self.house, *moves, hours=pick.choice([0, 1, 1, 2, 2, 3])))

    def _send(self, dispatch: str) -> None:
        """As if it had gone is as it is when it has."""
        if state(self.house, dispatch) not in ("open", "planned"):
            return
        told = seen(self.house, self.pages, dispatch=dispatch)
        self.house.do("ida", lambda a: dispatches.send(a, dispatch))
        if state(self.house, dispatch) == "gone":
            now = seen(self.house, self.pages)
            self.went += 1
            assert {k: told[k] for k in told if k in now} == {k: now[k] for k in told if k in now}

    def _wait(self, until: int) -> None:
        """What is told of an instant is what is read when it has come; what a gate holds then is not told."""
        told = seen(self.house, self.pages, until)
        self.house.clock.at = until
        self.house.by_scheduler(lambda a: None)
        with self.house.desk.db.read() as conn:
            held = "SELECT count(*) FROM dispatch WHERE state = 'held' AND ended_at >= ?"
            if conn.execute(held, (until,)).fetchone()[0]:
                return
        now = seen(self.house, self.pages, until)
        both = told.keys() & now.keys()
        self.compared += 1
        assert {k: told[k] for k in both} == {k: now[k] for k in both}


@pytest.mark.parametrize("seed", [*range(5), 102, 147])
def test_what_is_told_of_what_is_to_come_is_what_comes(house: House, seed: int) -> None:
    walk = Walk(house, seed)
    refused = 0
    for n in range(110):
        try:
            walk.step(n)
        except HawthornError:
            refused += 1
    with house.desk.db.read() as conn:
        assert [line for _, wrong in health.examine(conn) for line in wrong] == []
        assert conn.execute("SELECT count(*) FROM dispatch WHERE state = 'failed'").fetchone()[0] == 0
    assert walk.compared > 2
    assert walk.went > 0
    assert refused < 80


def at(house: House, uuid: str, hours: float, stage: str, locale: str = "en") -> Any:
    return seen(house, [uuid], house.clock.at + round(hours * HOUR))[0, locale, stage]


def test_what_led_to_a_release_is_not_read_at_its_stage_any_more_by_then(house: House) -> None:
    page = sheet(house, "Lamp", slug="lamp")
    go(house, advanced(page, "en", "passed"))
    save(house, page, title="Lantern")
    go(house, MoveRequest(page, "en", revision=2), hours=1)
    assert at(house, page, 0.5, "passed")["title"] == "Lamp"
    assert at(house, page, 2, "passed")["title"] == "Lantern"
    assert at(house, page, 0.5, "release") is None


def test_a_page_is_in_the_outline_of_a_stage_once_it_stands_there(house: House) -> None:
    page = sheet(house, "Lamp", slug="lamp")
    go(house, advanced(page, "en", "passed"), hours=1)
    told = [seen(house, [page], house.clock.at + round(hours * HOUR)) for hours in (0.5, 2)]
    assert [one["outline", "passed", "en"] for one in told] == [[], [(page, "Lamp")]]
    assert [one["outline", "release", "en"] for one in told] == [[], []]


def test_what_follows_brings_what_a_dispatch_before_it_brings_nearer(house: House) -> None:
    """And what comes after it finds what that has left: an older revision does not go."""
    page = sheet(house, "Lamp", slug="lamp")
    go(house, advanced(page, "en", "look"), hours=1)
    go(house, MoveRequest(page, "en", follows=True), hours=2)
    save(house, page, title="Lantern")
    assert at(house, page, 3, "release")["title"] == "Lamp"
    go(house, MoveRequest(page, "en", revision=2), hours=4)
    go(house, MoveRequest(page, "en", revision=1), hours=5)
    assert at(house, page, 4.5, "release")["title"] == "Lantern"
    assert at(house, page, 6, "release")["title"] == "Lantern"


def test_the_shared_fields_are_told_where_they_stay(house: House) -> None:
    page = sheet(house, "Lamp", slug="lamp", price="12")
    save(house, page, "fr", title="Lampe", slug="lampe")
    go(house, MoveRequest(page, "fr"))
    # French is the last when it is planned to leave; English comes before it does.
    go(house, MoveRequest(page, "fr", "withdraw"), hours=2)
    go(house, MoveRequest(page, "en"), hours=1)
    assert at(house, page, 3, "release", "*") == {"price": "12"}
    assert at(house, page, 3, "release", "fr") is None


def test_what_is_told_of_one_entry_does_not_depend_on_others_that_are_looked_at_with_it(house: House) -> None:
    """Shared fields that somebody has written go along with a text that nobody has looked at, also beside one that somebody has."""
    page, other = sheet(house, "Lamp", slug="lamp", price="12"), sheet(house, "Rope", slug="rope")
    go(house, MoveRequest(page, "en"))
    save(house, page, title="Lantern", price="13")
    go(house, advanced(other, "en", "look"))
    go(house, MoveRequest(page, "en", follows=True), hours=1)
    go(house, MoveRequest(other, "en", follows=True), hours=1)
    until = house.clock.at + 2 * HOUR

    def told(*some: str) -> Any:
        def look(view: View) -> Any:
            ids = {uuid: entries.store.entry(view.conn, uuid).id for uuid in some}
            stands = foreseen.by(view, [*ids.values()], until) or {}
            common = entries.store.edition(view.conn, ids[page], "*")
            return revisions.content(view.conn, stands[common.id][standings.RELEASE].revision).fields["price"]

        return house.desk.read(house.who("ida"), look)

    assert told(page) == told(page, other) == told(other, page) == "13"
    house.clock.at = until
    house.by_scheduler(lambda a: None)
    assert seen(house, [page])[0, "*", "release"] == {"price": "13"}


def test_what_will_be_in_the_archive_by_then_does_not_come_out(house: House) -> None:
    page = sheet(house, "Lamp", slug="lamp")
    go(house, MoveRequest(page, "en"), hours=2)
    go(house, MoveRequest(page, "en", "archive"), hours=1)
    assert at(house, page, 3, "release") is None


def test_what_is_in_the_way_does_not_keep_anybody_from_seeing_what_would_be(house: House) -> None:
    page = sheet(house, "Lamp", slug="lamp")
    save(house, page, title="Lantern")
    go(house, MoveRequest(page, "en"))
    older = [MoveRequest(page, "en", revision=1)]
    made = house.do("ida", lambda a: gathering.start(a, About(name="Back"), older))
    assert seen(house, [page], dispatch=made)[0, "en", "release"]["title"] == "Lamp"


def test_what_is_written_inside_goes_and_not_what_is_approved_beside_it(house: House) -> None:
    page = sheet(house, "Lamp", slug="lamp")
    go(house, advanced(page, "en", "passed"))
    follows = [MoveRequest(page, "en", follows=True)]
    made = house.do("ida", lambda a: gathering.start(a, About(name="Together"), follows))
    name = house.do("ida", lambda a: gathering.write_in(a, made, page, "en"))
    base = house.desk.read(house.who("ida"), lambda v: entries.base_now(v, page, "en", name))
    house.do("ida", lambda a: entries.save(a, page, "en", {"title": "Torch"}, base, strand=name))
    assert seen(house, [page], dispatch=made)[0, "en", "release"]["title"] == "Torch"
    when = When(instant=iso(house.clock.at + HOUR))
    house.do("ida", lambda a: dispatches.plan(a, made, when))
    assert at(house, page, 2, "release")["title"] == "Torch"
    house.clock.at += 2 * HOUR
    house.by_scheduler(lambda a: None)
    assert seen(house, [page])[0, "en", "release"]["title"] == "Torch"


def test_what_sets_fields_goes_by_what_is_out_meanwhile_and_is_seen_so(house: House) -> None:
    page = sheet(house, "Lamp", slug="lamp", summary="Bright")
    go(house, MoveRequest(page, "en"))
    wish = [MoveRequest(page, "en", "set", payload={"fields": {"summary": "Dim"}})]
    made = house.do("ida", lambda a: gathering.start(a, About(name="Together"), wish))
    save(house, page, title="Lantern")
    go(house, MoveRequest(page, "en"))
    told = seen(house, [page], dispatch=made)[0, "en", "release"]
    assert (told["title"], told["summary"]) == ("Lantern", "Dim")
    found = house.desk.read(house.who("ida"), lambda v: dispatches.check(v, made))
    assert not found.blocked
    # Whoever lets a page go is not held by what somebody else cannot set any more.
    left = {**PAGE, "fields": [one for one in PAGE["fields"] if one["name"] != "summary"]}
    left["meta_description"] = ""
    house.do("ida", lambda a: changing.define_type(a, left))
    save(house, page, title="Torch")
    go(house, MoveRequest(page, "en"))
    assert seen(house, [page], dispatch=made)[0, "en", "release"]["title"] == "Torch"


@pytest.mark.parametrize("named", ["summary", "price"])
def test_a_field_that_an_open_dispatch_sets_and_that_moves_holds_nobody_up(house: House, named: str) -> None:
    page = sheet(house, "Lamp", slug="lamp", summary="Bright", price="12")
    go(house, MoveRequest(page, "en"))
    wish = [MoveRequest(page, "en", "set", payload={"fields": {named: "Dim"}})]
    made = house.do("ida", lambda a: gathering.start(a, About(name="Together"), wish))
    fields = [
        {**one, "shared": not one.get("shared")} if one["name"] == named else one for one in PAGE["fields"]
    ]
    house.do("ida", lambda a: changing.define_type(a, {**PAGE, "fields": fields, "meta_description": ""}))
    save(house, page, title="Lantern", price="13")
    go(house, MoveRequest(page, "en"))
    assert seen(house, [page])[0, "en", "release"]["title"] == "Lantern"
    assert seen(house, [page], dispatch=made)[0, "en", "release"]["title"] == "Lantern"
    with house.desk.db.read() as conn:
        strange = (
            "SELECT count(*) FROM move m JOIN revision r ON r.id = m.revision WHERE r.edition <> m.edition"
        )
        assert conn.execute(strange).fetchone()[0] == 0, "a move brings what is of its edition"


def test_what_is_stuck_takes_nothing_away(house: House) -> None:
    page = sheet(house, "Lamp", slug="lamp", price="12", summary="Bright")
    go(house, MoveRequest(page, "en"))
    wish = [MoveRequest(page, "en", "set", payload={"fields": {"summary": "Dim"}})]
    made = house.do("ida", lambda a: gathering.start(a, About(name="Together"), wish))
    assert seen(house, [page], dispatch=made)[0, "en", "release"]["summary"] == "Dim"
    left = {**PAGE, "fields": [one for one in PAGE["fields"] if one["name"] != "summary"]}
    left["meta_description"] = ""
    house.do("ida", lambda a: changing.define_type(a, left))
    told = seen(house, [page], dispatch=made)
    assert (told[0, "en", "release"]["title"], told[0, "*", "release"]) == ("Lamp", {"price": "12"})


def test_a_list_does_not_hold_at_a_stage_what_follows_out_of_it(house: House) -> None:
    """Also what came to stand there after it was planned."""
    page = sheet(house, "Lamp", slug="lamp")
    go(house, MoveRequest(page, "en", follows=True), hours=1)
    save(house, page, title="Lantern")
    go(house, advanced(page, "en", "passed"))
    told = seen(house, [page], house.clock.at + 2 * HOUR)
    assert told["list", "passed", ""] == set()
    assert told["list", "release", ""] == {page}


def test_a_page_is_found_at_the_address_that_it_will_have_and_at_the_old_one_no_more(house: House) -> None:
    page = sheet(house, "Lamp", slug="lamp")
    below = sheet(house, "Wick", slug="wick", below=page)
    go(house, MoveRequest(page, "en"), MoveRequest(below, "en"))
    save(house, page, slug="lantern")
    go(house, MoveRequest(page, "en"), hours=1)
    # It is written on, so that its draft has yet another.
    save(house, page, slug="torch")

    def found(path: str, hours: float) -> tuple[str, str | None]:
        where = Place(at=house.clock.at + round(hours * HOUR))
        uuid, _, to = house.desk.read(house.who("ida"), lambda v: reading.find_path(v, path, where))
        return uuid, to

    assert found("/en/lamp/wick", 0.5) == (below, None)
    assert found("/en/lantern/wick", 2) == (below, None)
    assert found("/en/lamp", 2) == (page, "/en/lantern")
    with pytest.raises(NotFound):
        found("/en/lantern/other", 2)
    told = seen(house, [page, below], house.clock.at + 2 * HOUR)
    assert (told[0, "en", "path"], told[1, "en", "path"]) == ("/en/lantern", "/en/lantern/wick")


def test_a_dispatch_is_seen_without_shared_fields_that_do_not_go_with_it(house: House) -> None:
    """What somebody has written in them since, and not submitted, neither goes nor is shown."""
    house.do("ida", lambda a: workflows.define(a, flow("signed")))
    house.do("ida", lambda a: changing.define_type(a, {**PAGE, "workflow": "signed"}))
    page = sheet(house, "Lamp", slug="lamp", price="12")
    house.do("ida", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.sign_off(a, page, "en", 1))
    go(house, MoveRequest(page, "en"))
    save(house, page, title="Lantern")
    house.do("ida", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.sign_off(a, page, "en", 2))
    save(house, page, price="99")
    made = house.do("ida", lambda a: gathering.start(a, About(name="Together"), [MoveRequest(page, "en")]))
    told = seen(house, [page], dispatch=made)
    assert (told[0, "*", "release"]["price"], told[0, "en", "release"]["title"]) == ("12", "Lantern")
    house.do("ida", lambda a: dispatches.send(a, made))
    now = seen(house, [page])
    assert (now[0, "*", "release"]["price"], now[0, "en", "release"]["title"]) == ("12", "Lantern")


def test_nothing_is_found_in_a_language_in_which_only_shared_fields_were_typed(house: House) -> None:
    page = sheet(house, "Lamp", slug="lamp")
    save(house, page, "fr", price="tallow")
    with house.desk.db.read() as conn:
        assert [line for _, wrong in health.examine(conn) for line in wrong] == []

    def found(locale: str) -> list[str]:
        query = finding.Query(words="tallow", locale=locale)
        rows, _ = house.desk.read(house.who("ida"), lambda v: finding.listing(v, query))
        return [row.uuid for row in rows]

    assert found("en") == [page]
    save(house, page, "fr", title="Lampe")
    assert found("fr") == [page]
