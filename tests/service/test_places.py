"""Addresses of pages that are out: never two with one, refused where there would be and only there; and what sites kept of them is let go."""

from __future__ import annotations

import random
from collections.abc import Iterator
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.core import timeline
from hawthorn.core.errors import GateUnmet, HawthornError, InTheWay
from hawthorn.core.timeline import SECOND
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import limiting, page_addresses, webhooks
from hawthorn.operations.delivery.webhooks import Wanted
from hawthorn.operations.release import dispatches, planning, undoing
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.runtime.act import View
from hawthorn.operations.views import health
from hawthorn.store import events
from tests.service.made import House, serving
from tests.service.test_limited import HOME, SHEET

SITE = {"name": "live", "label": "The museum", "addresses": {"*": f"{HOME}/{{path}}"}}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    made.do("ida", lambda a: changing.define_type(a, SHEET))
    made.do("ida", lambda a: page_addresses.define(a, [SITE]))
    yield made
    made.close()


def sheet(house: House, title: str, **fields: Any) -> str:
    uuid: str = house.do("ida", lambda a: entries.start(a, "sheet", "en", {"title": title, **fields}))
    return uuid


def save(house: House, uuid: str, locale: str = "en", **fields: Any) -> None:
    house.do("ida", lambda a: entries.save(a, uuid, locale, fields, entries.base_now(a, uuid, locale)))


def go(house: House, *moves: tuple[str, ...], when: When | None = None) -> str:
    uuid: str = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(*one) for one in moves], when))
    return uuid


def addresses(house: House) -> dict[tuple[str, str], tuple[str, str]]:
    """What is out, by entry and locale: below whom, and its slug."""
    with house.desk.db.read() as conn:
        rows = conn.execute(
            "SELECT e.uuid, a.locale, coalesce(p.uuid, ''), a.slug FROM address a JOIN entry e ON e.id = a.entry "
            "LEFT JOIN entry p ON p.id = a.parent WHERE a.stage = 2 AND a.until IS NULL"
        ).fetchall()
    return {(row[0], row[1]): (row[2], row[3]) for row in rows}


def test_one_goes_from_an_address_and_another_takes_it_with_the_same_dispatch(house: House) -> None:
    old, new, last = (sheet(house, title, slug="visit") for title in ("Visit", "Visit us", "Come and see"))
    go(house, (old, "en"))
    with pytest.raises(GateUnmet, match="taken by another entry that is out"):
        go(house, (new, "en"))
    went = go(house, (new, "en"), (old, "en", "withdraw"))
    assert addresses(house) == {(new, "en"): ("", "visit")}
    # Planned, too, after one that is planned; and all of it is undone as it was done.
    hours = [When(instant=timeline.iso(house.clock.at + n * 3_600 * SECOND)) for n in (1, 2)]
    go(house, (last, "en"), (new, "en", "remove"), when=hours[0])
    other = sheet(house, "Other", slug="visit")
    with pytest.raises(GateUnmet, match="is planned with the address"):
        go(house, (other, "en"), when=hours[1])
    go(house, (other, "en"), (last, "en", "withdraw"), when=hours[1])
    house.do("ida", lambda a: undoing.undo(a, went))
    assert addresses(house) == {(old, "en"): ("", "visit")}


def test_shared_fields_alone_move_nobody_to_an_address_that_is_taken(house: House) -> None:
    """What stands there already has passed its gate; its place above is another matter, whichever edition is named."""
    hall = sheet(house, "Hall", slug="hall")
    one, other = sheet(house, "One", slug="lamp", below=hall), sheet(house, "Other", slug="lamp")
    go(house, (hall, "en"), (one, "en"), (other, "en"))
    save(house, one, below=None)
    for named in ("en", "*"):
        with pytest.raises(GateUnmet, match="taken by another entry that is out"):
            go(house, (one, named))
    # They change places, by their shared fields alone.
    save(house, other, below=hall)
    go(house, (other, "en"), (one, "en"))
    assert addresses(house)[one, "en"] == ("", "lamp")
    assert addresses(house)[other, "en"] == (hall, "lamp")


@pytest.mark.parametrize("seed", range(3))
def test_whatever_goes_is_refused_where_two_would_have_one_address_and_only_there(
    house: House, seed: int
) -> None:
    """Against a model that knows nothing but what would be out afterwards, and where."""
    pick = random.Random(seed)
    pages = [sheet(house, f"Page {n}", slug=f"s{n % 2}") for n in range(5)]
    above = dict.fromkeys(pages, "")
    slugs = {(one, "en"): f"s{n % 2}" for n, one in enumerate(pages)}
    out_above: dict[str, str] = {}
    out: dict[tuple[str, str], str] = {}
    refused = gone = 0
    for _ in range(150):
        page, locale = pick.choice(pages), pick.choice(["en", "en", "fr"])
        if pick.random() < 0.4:
            below = pick.choice(["", *pages])
            try:
                save(house, page, below=below or None)
            except HawthornError:
                continue
            above[page] = below
        else:
            slug = f"s{pick.randrange(3)}"
            save(house, page, locale, title="Titled", slug=slug)
            slugs[page, locale] = slug
        chosen = pick.sample(sorted(slugs), min(len(slugs), pick.randrange(1, 4)))
        asked = [(*one, pick.choice(["release", "release", "withdraw"])) for one in chosen]
        if any(verb == "withdraw" and (p, t) not in out for p, t, verb in asked):
            continue
        after, places = dict(out), dict(out_above)
        for one, tag, verb in asked:
            if verb == "release":
                after[one, tag], places[one] = slugs[one, tag], above[one]
            else:
                after.pop((one, tag), None)
        there = [(tag, places[one], slug) for (one, tag), slug in after.items()]
        twice = len({*there}) < len(there)
        moves = [MoveRequest(*one) for one in asked]
        found = house.desk.read(house.who("ida"), partial(planning.check, requests=moves))
        unmet = {one.code for line in found.lines for one in line.unmet}
        assert ("address-taken" in unmet) == twice, (asked, unmet)
        try:
            go(house, *asked)
        except GateUnmet:
            assert unmet
            refused += 1
        except InTheWay:
            assert (after, places) == (out, out_above), "nothing to do"
        else:
            out, out_above, gone = after, places, gone + 1
        assert addresses(house) == {(p, t): (out_above[p], slug) for (p, t), slug in out.items()}
        assert all("*" in one for one in standing(house).values())
    assert refused > 10
    assert gone > 10


def standing(house: House) -> dict[str, list[str]]:
    """The editions that are out, by entry; `*` are the shared fields."""
    with house.desk.db.read() as conn:
        rows = conn.execute(
            "SELECT e.uuid, d.locale FROM standing s JOIN edition d ON d.id = s.edition JOIN entry e ON e.id = d.entry "
            "WHERE s.stage = 2 AND s.until IS NULL ORDER BY d.locale"
        ).fetchall()
    out: dict[str, list[str]] = {}
    for uuid, locale in rows:
        out.setdefault(uuid, []).append(locale)
    return out


def ever(house: House) -> list[set[str]]:
    """The editions of each entry that were out at each instant at which anything of it came or left; where any was."""
    with house.desk.db.read() as conn:
        rows = conn.execute(
            "SELECT d.entry, d.locale, s.since, coalesce(s.until, 1 << 62) FROM standing s JOIN edition d ON d.id = s.edition "
            "WHERE s.stage = 2"
        ).fetchall()
    found = []
    for entry in {row[0] for row in rows}:
        mine = [row[1:] for row in rows if row[0] == entry]
        for at in {instant for _, *both in mine for instant in both}:
            found.append({locale for locale, since, until in mine if since <= at < until})
    return [one for one in found if one]


@pytest.mark.parametrize("turned", [False, True])
def test_the_shared_fields_stay_where_one_text_goes_and_another_comes(house: House, turned: bool) -> None:
    page = sheet(house, "Lamp", slug="lamp")
    save(house, page, "fr", title="Lampe", slug="lampe")
    go(house, (page, "fr"))
    both = [(page, "fr", "withdraw"), (page, "en", "release")]
    asked = [MoveRequest(*one) for one in (reversed(both) if turned else both)]
    found = house.desk.read(house.who("ida"), partial(planning.check, requests=asked))
    assert {line.locale for line in found.lines} == {"en", "fr"}
    went = house.do("ida", lambda a: dispatches.make(a, asked))
    assert standing(house) == {page: ["*", "en"]}
    house.do("ida", lambda a: undoing.undo(a, went))
    assert standing(house) == {page: ["*", "fr"]}


OFF, ON = "withdraw", "release"
ORDERS: list[tuple[list[str], list[tuple[str, str, int]], list[str]]] = [
    # What is out first; what is planned, in this order, with its hour; what is out in the end.
    (["fr"], [("en", ON, 1), ("fr", OFF, 2)], ["*", "en"]),
    (["fr"], [("fr", OFF, 2), ("en", ON, 1)], ["*", "en"]),
    (["fr"], [("fr", OFF, 2), ("en", ON, 0)], ["*", "en"]),
    (["fr"], [("fr", OFF, 1), ("en", ON, 2)], ["*", "en"]),
    (["fr"], [("en", ON, 2), ("fr", OFF, 1)], ["*", "en"]),
    (["fr"], [("en", ON, 2), ("fr", OFF, 0)], ["*", "en"]),
    # Alone they are seen by nobody.
    (["en", "fr"], [("fr", OFF, 1), ("en", OFF, 2)], ["*"]),
    (["en", "fr"], [("en", OFF, 2), ("fr", OFF, 1)], ["*"]),
    (["en", "fr"], [("en", OFF, 2), ("fr", OFF, 0)], ["*"]),
    (["en", "fr"], [("en", OFF, 2), ("fr", OFF, 0), ("fr", ON, 1)], ["*", "fr"]),
]


@pytest.mark.parametrize(("first", "planned", "last"), ORDERS)
def test_the_shared_fields_stay_for_as_long_as_any_text_does(
    house: House, first: list[str], planned: list[tuple[str, str, int]], last: list[str]
) -> None:
    """Whatever was the last when it was planned, no text is out without them."""
    page = sheet(house, "Lamp", slug="lamp")
    save(house, page, "fr", title="Lampe", slug="lampe")
    go(house, *((page, locale) for locale in first))
    begun = house.clock.at
    made = []
    for locale, verb, hour in planned:
        when = When(instant=timeline.iso(begun + hour * 3_600 * SECOND)) if hour else None
        made.append((hour, go(house, (page, locale, verb), when=when)))
    house.clock.at = begun + 3 * 3_600 * SECOND
    house.by_scheduler(lambda a: None)
    assert standing(house).get(page, []) == last
    assert all("*" in one for one in ever(house))
    _, latest = max(made)
    house.do("ida", lambda a: undoing.undo(a, latest))
    assert all("*" in one for one in standing(house).values())


@pytest.mark.parametrize("seed", range(4))
def test_whatever_is_planned_and_undone_no_text_was_ever_out_without_its_shared_fields(
    house: House, seed: int
) -> None:
    """And nothing ends in a fault, nor leaves anything that does not follow from the rest."""
    pick = random.Random(seed)
    pages = [sheet(house, f"Page {n}", slug=f"p{n}") for n in range(3)]
    made: list[str] = []

    def something(n: int) -> None:
        page, locale, kind = pick.choice(pages), pick.choice(["en", "fr"]), pick.random()
        if kind < 0.25:
            below = {"below": pick.choice([None, None, *pages])}
            text = {"title": f"T{n}", "slug": f"s{pick.randrange(5)}"}
            save(house, page, locale, **(below if kind < 0.04 else text))
        elif kind < 0.75:
            moves = []
            for one in pick.sample(pages, pick.randrange(1, 3)):
                verb = pick.choice([*[ON, ON, OFF] * 6, "archive", "remove"])
                moves.append((one, locale, verb))
                if verb in (ON, OFF) and pick.random() < 0.3:
                    moves.append((one, "fr" if locale == "en" else "en", pick.choice([ON, OFF])))
            hours = pick.choice([0, 0, 1, 2, 3])
            when = When(instant=timeline.iso(house.clock.at + hours * 3_600 * SECOND)) if hours else None
            made.append(go(house, *moves, when=when))
        elif kind < 0.8 and made:
            house.do("ida", lambda a: undoing.undo(a, pick.choice(made[-3:])))
        elif kind < 0.93:
            house.do("ida", lambda a: entries.bring_back(a, page))
        else:
            house.clock.at += pick.choice([1, 2]) * 3_600 * SECOND
            house.by_scheduler(lambda a: None)

    for n in range(150):
        with suppress(HawthornError):
            something(n)
        assert all("*" in one for one in ever(house))
    with house.desk.db.read() as conn:
        assert [line for _, wrong in health.examine(conn) for line in wrong] == []
        assert conn.execute("SELECT count(*) FROM dispatch WHERE state = 'failed'").fetchone()[0] == 0
    assert len(ever(house)) > 10


@pytest.mark.parametrize("verb", ["remove", "archive"])
@pytest.mark.parametrize("hour", [0, 1])
def test_what_was_begun_since_goes_with_its_entry(house: House, verb: str, hour: int) -> None:
    """A language that was not thought of when the entry was to be put away stays with readers no longer than the rest."""
    page = sheet(house, "Lamp", slug="lamp")
    go(house, (page, "en"))
    begun = house.clock.at
    hours = [When(instant=timeline.iso(begun + n * 3_600 * SECOND)) for n in (1, 2)]
    away = go(house, (page, "en", verb), when=hours[1])
    save(house, page, "fr", title="Lampe", slug="lampe")
    go(house, (page, "fr"), when=hours[0] if hour else None)
    house.clock.at = begun + 3 * 3_600 * SECOND
    house.by_scheduler(lambda a: None)
    assert (standing(house), addresses(house)) == ({}, {})
    house.do("ida", lambda a: undoing.undo(a, away))
    assert standing(house) == {page: ["*", "en", "fr"]}
    assert {locale for _, locale in addresses(house)} == {"en", "fr"}


def kept(http: httpx.Client, pages: list[str]) -> dict[str, tuple[int, bytes, set[str], bool]]:
    """What a cache would hold of each address: its status, its content, the groups with which it is let go, and whether it is kept."""
    paths = [
        "/read/entries?limit=50", "/read/entries?type=sheet&sort=title&limit=50", "/read/entries?type=sheet&where.words=a&locale=fr",
        "/read/entries?type=sheet&include=about&referring=sheet.about", "/read/counts?by=words&type=sheet", "/read/counts?by=about&type=sheet",
        "/read/outline?depth=6", "/read/outline?depth=3&locale=fr", "/feeds/live/atom", "/feeds/live/json?type=sheet", "/feeds/live/sitemap.xml",
        "/feeds/live/sitemap-0.xml", "/feeds/live/redirects.csv", "/feeds/live/robots.txt",
        *(f"/read/pages/{tag}/{path}" for tag in ("en", "fr") for path in ("s0", "s1", "s2", "s0/s1", "s1/s2", "s2/s0")),
        *(f"/read/entries/{one}{more}" for one in pages for more in ("?locale=en", "?locale=fr", "/head")),
    ]  # fmt: skip
    out = {}
    for path in paths:
        answer = http.get(path)
        keeps = "s-maxage" in answer.headers["cache-control"]
        groups = {*answer.headers.get("surrogate-key", "").split()}
        out[path] = (answer.status_code, answer.content, groups, keeps)
    return out


@pytest.mark.parametrize("seed", range(2))
def test_whatever_readers_see_otherwise_was_kept_under_a_group_that_is_told(house: House, seed: int) -> None:
    """A cache that lets go of what it is told, and of nothing else, never shows what is not so any more."""
    pick = random.Random(seed)
    pages = [sheet(house, f"Page {n}", slug=f"s{n}") for n in range(4)]
    hook, _ = house.do("ida", lambda a: webhooks.add(a, Wanted("A cache", "https://cache.example/")))

    def something() -> None:
        page, locale, kind = pick.choice(pages), pick.choice(["en", "en", "fr"]), pick.random()
        if kind < 0.65:
            other = pick.choice(pages)
            change = pick.choice([
                {"title": f"T{pick.randrange(9)}"}, {"slug": f"s{pick.randrange(3)}"}, {"words": pick.choice([["a"], ["b"], []])},
                {"about": [other]}, {"body": f'<p>See <a href="urn:uuid:{other}">it</a>.</p>'}, {"summary": f"S{pick.randrange(9)}"},
            ])  # fmt: skip
            if locale == "en" and pick.random() < 0.3:
                change = {"below": pick.choice([None, *pages])}
            if locale == "fr":
                change = {"title": "Titre", "slug": f"s{pick.randrange(3)}"} | change
            save(house, page, locale, **change)
            go(house, (page, locale))
        elif kind < 0.8:
            go(house, (page, locale, "withdraw"))
        elif kind < 0.9:
            way = pick.choice(["hidden", ""])
            house.do("ida", lambda a: limiting.limit(a, page, way, ["friends"] if way else (), ""))
        elif kind < 0.95:
            definition = house.desk.read(house.who("ida"), lambda v: changing.definition_of(v, "sheet"))
            definition["meta_description"] = pick.choice(["summary", ""])
            house.do("ida", lambda a: changing.define_type(a, definition))
        else:
            named = SITE | {"label": f"Museum {pick.randrange(9)}"}
            house.do("ida", lambda a: page_addresses.define(a, [named]))

    def told(view: View) -> set[str]:
        one = webhooks.find(view, hook)
        some = [webhooks.told(view, event) for event in events.after(view.conn, since, 1_000)]
        return {g for what in some if webhooks.concerns(view, one, what) for g in what.data["groups"]}

    changed = 0
    with serving(house, shared_age=600) as (_, url), httpx.Client(base_url=url, timeout=30) as http:
        before = kept(http, pages)
        for _ in range(35):
            with house.desk.db.read() as conn:
                since = events.last(conn)[0]
            try:
                something()
            except HawthornError:
                continue
            groups = house.desk.read(house.who("ida"), told)
            after = kept(http, pages)
            for path, (status, content, held, keeps) in before.items():
                if keeps and (status, content) != after[path][:2]:
                    changed += 1
                    assert held & groups, (path, held, groups)
            before = after
    assert changed > 20
