"""Lists for readers: chosen and sorted by marked fields, exactly as trying each entry by hand chooses them; a page at a time; with what they relate to."""

from __future__ import annotations

import random
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.client import Client
from hawthorn.client.errors import Refusal
from hawthorn.core.access import Identity
from hawthorn.core.errors import Invalid
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.content import changing, entries
from hawthorn.operations.content import locales as locale_operations
from hawthorn.operations.delivery import reading, reading_lists
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.delivery.reading_lists import Wish
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.views import health
from hawthorn.store import reading_lists as store
from hawthorn.store.standings import RELEASE
from tests.conftest import eventually
from tests.service.made import House, serving

NOBODY = Identity(0, "program", "", "", ())
DAY = 86_400 * SECOND
PLACE = {
    "name": "venue",
    "label": "Venue",
    "workflow": "short",
    "fields": [
        {"name": "title", "kind": "line", "required": True, "filter": True},
        {"name": "at", "kind": "place", "filter": True, "shared": True},
    ],
}
TALK: dict[str, Any] = {
    "name": "talk",
    "label": "Talk",
    "workflow": "short",
    "fields": [
        {"name": "title", "kind": "line", "required": True, "filter": True},
        {"name": "begins", "kind": "instant", "filter": True, "shared": True},
        {"name": "day", "kind": "date", "filter": True, "shared": True},
        {"name": "seats", "kind": "number", "filter": True, "shared": True},
        {"name": "free", "kind": "boolean", "filter": True, "shared": True},
        {"name": "form", "kind": "choice", "choices": ["walk", "lecture"], "filter": True, "shared": True},
        {"name": "words", "kind": "tags", "filter": True},
        {"name": "venue", "kind": "reference", "types": ["venue"], "filter": True, "shared": True},
        {"name": "guests", "kind": "reference", "many": True, "types": ["talk"], "shared": True},
        {"name": "secret", "kind": "line", "public": False},
    ],
}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    for kind in (PLACE, TALK):
        made.do("ida", lambda a, k=kind: changing.define_type(a, k))
    yield made
    made.close()


def out(house: House, type: str, locale: str = "en", **fields: Any) -> str:
    uuid: str = house.do("ida", lambda a: entries.start(a, type, locale, fields))
    release(house, uuid, locale)
    return uuid


def release(house: House, uuid: str, locale: str = "en", verb: str = "release") -> None:
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, locale, verb)]))


def asked(house: House, place: Place = Place(), who: str = "", **wish: Any) -> list[str]:
    identity = house.who(who) if who else NOBODY
    found = house.desk.read(
        identity, lambda v: reading_lists.page(v, place, Wish(**{"types": ("talk",), "limit": 100, **wish}))
    )
    return found.uuids


def by(house: House, *where: tuple[str, str], **wish: Any) -> list[str]:
    return asked(house, where=tuple((f"where.{name}", value) for name, value in where), **wish)


@contextmanager
def reader(house: House) -> Iterator[Client]:
    with serving(house) as (_, url), Client(url) as client:
        yield client


def test_each_operator_chooses_what_it_says(house: House) -> None:
    quay = out(house, "venue", title="The quay", at={"latitude": 50.1, "longitude": -1.3})
    far = out(house, "venue", title="The far light", at={"latitude": 50.9, "longitude": -1.3})
    one = out(
        house,
        "talk",
        title="Lamps of the harbour",
        begins="2027-03-01T18:00:00Z",
        day="2027-03-01",
        seats=40,
        free=True,
        form="walk",
        words=["Lamps", "night"],
        venue=quay,
    )
    two = out(
        house,
        "talk",
        title="Fog and bells",
        begins="2027-04-01T18:00:00Z",
        day="2027-04-01",
        seats=12.5,
        free=False,
        form="lecture",
        words=["fog"],
        venue=far,
    )
    three = out(house, "talk", title="Nothing said")
    assert set(asked(house)) == {one, two, three}
    for where, expected in (
        (("form", "walk"), {one}),
        (("words", "lamps"), {one}),
        (("free", "false"), {two}),
        (("venue", quay), {one}),
        (("seats", "12.5"), {two}),
        (("seats.from", "12.5"), {one, two}),
        (("seats.after", "12.5"), {one}),
        (("seats.before", "12.5"), set()),
        (("begins.before", "2027-03-01T18:00:00Z"), set()),
        (("begins.before", "2027-03-02"), {one}),
        (("day", "2027-04-01"), {two}),
        (("day.after", "2027-03-01"), {two}),
        (("title.contains", "BELLS fog"), {two}),
        (("title.contains", "bell"), set()),
        (("title", "fog and bells"), {two}),
        (("date.last", "P1D"), {one, two, three}),
        (("date.before", "2001-01-01"), set()),
    ):
        assert set(by(house, where)) == expected, where
    assert set(by(house, ("form", "walk"), ("form", "lecture"))) == {one, two}
    assert by(house, ("form", "walk"), ("seats.from", "100")) == []
    assert asked(house, types=("venue",), where=(("where.at.near", "50.1,-1.3,5"),)) == [quay]
    assert set(asked(house, types=("venue",), where=(("where.at.near", "50.5,-1.3,60"),))) == {quay, far}
    assert set(asked(house, types=("venue",), where=(("where.at.near", "50.5,-1.3,1900"),))) == {quay, far}
    assert by(house, sort="seats") == [two, one]
    assert by(house, sort="-begins") == [two, one]
    assert by(house, sort="title") == [two, one, three]
    assert asked(house, ids=(three, one, "nothing", quay)) == [three, one]
    assert asked(house, ids=(three, one), where=(("where.form", "walk"),)) == [one]


def test_what_is_out_is_what_is_found_and_drafts_are_found_by_those_who_may(house: House) -> None:
    one = out(house, "talk", title="One", form="walk")
    draft = house.do("ida", lambda a: entries.start(a, "talk", "en", {"title": "Draft", "form": "walk"}))
    house.do("ida", lambda a: entries.save(a, one, "en", {"form": "lecture"}, entries.base_now(a, one, "en")))
    assert by(house, ("form", "walk")) == [one]
    drafts = house.desk.read(house.who("ida"), lambda v: reading.place(v, "draft"))
    assert asked(house, drafts, "ida", where=(("where.form", "walk"),)) == [draft]
    assert asked(house, drafts, "ida", where=(("where.form", "lecture"),)) == [one]
    assert asked(house, drafts, "ida", sort="form") == [one, draft]
    before = house.clock.at
    release(house, one, "*")
    release(house, draft)
    assert set(by(house, ("form", "walk"))) == {draft}
    past = house.desk.read(house.who("ida"), lambda v: reading.place(v, "release", iso(before)))
    assert asked(house, past, "ida", where=(("where.form", "walk"),)) == [one]
    release(house, draft, verb="withdraw")
    assert by(house, ("form", "walk")) == []
    assert house.desk.read(house.who("ida"), health.health) == []
    house.do("ida", lambda a: a.conn.execute("UPDATE filter_value SET text = 'swim' WHERE stage = 2"))
    assert len(house.desk.read(house.who("ida"), health.health)) == 1


def test_a_field_is_found_by_as_soon_as_its_type_marks_it_and_no_longer_than_that(house: House) -> None:
    one = out(house, "talk", title="One", guests=[])
    plain = {**TALK, "fields": [{**f, "filter": f["name"] == "title"} for f in TALK["fields"]]}
    house.do("ida", lambda a: changing.define_type(a, {**plain, "version": 1}))
    with pytest.raises(Exception, match="cannot filter by “form”"):
        by(house, ("form", "walk"))
    marked = {**TALK, "version": 2}
    house.do("ida", lambda a: entries.save(a, one, "en", {"form": "walk"}, entries.base_now(a, one, "en")))
    release(house, one, "*")
    house.do("ida", lambda a: changing.define_type(a, marked))
    assert by(house, ("form", "walk")) == [one]


def test_pages_hold_each_entry_once_in_the_order_whatever_is_asked(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    chance = random.Random(3)
    locales = [{"tag": "en"}, {"tag": "fr"}, {"tag": "fr-CA", "fallback": ["fr"]}]
    house.do("ida", lambda a: locale_operations.define(a, locales))
    chains = {"en": ("en",), "fr": ("fr",), "fr-CA": ("fr-CA", "fr")}
    made: dict[str, dict[str, Any]] = {}
    titles: dict[str, dict[str, str]] = {}
    """Of what is out, the title in each locale; that of the entry's own first."""
    for n in range(60):
        fields = {
            "title": f"Talk {n}",
            "seats": chance.randrange(5),
            "form": chance.choice(["walk", "lecture"]),
        }
        own = "fr" if n % 7 == 0 else "en"
        uuid = out(house, "talk", own, **fields)
        made[uuid], titles[uuid] = fields, {own: f"Talk {n}"}
        for locale, title, each in (("fr", "Parole", 3), ("fr-CA", "Jasette", 5)):
            if n % each == 0 and locale != own:
                _put_out(house, uuid, locale, f"{title} {n}")
                titles[uuid][locale] = f"{title} {n}"
        if n % 6 == 0 and own == "en":
            # There in what was translated alone, and where that stands in.
            release(house, uuid, "en", "withdraw")
            titles[uuid]["en"] = ""

    def shown(uuid: str, locale: str, alone: bool) -> str:
        """The title under which an entry is listed; nothing where it is not."""
        own = next(iter(titles[uuid]))
        tags = (locale,) if alone else (*chains[locale], own)
        return next((titles[uuid][tag] for tag in tags if titles[uuid].get(tag)), "")

    for few in (store.FEW, 0):
        # As if there were many: the list is walked, and so far at most.
        monkeypatch.setattr(store, "FEW", few)
        monkeypatch.setattr(store, "WALKED", 20_000 if few else 7)
        for sort in ("", "seats", "-seats", "title"):
            for conditions in (
                (),
                (("where.form", "walk"),),
                (("where.form", "walk"), ("where.seats.from", "3")),
                (("where.title.contains", "talk"),),
                (("where.title.contains", "talk"), ("where.form", "walk")),
            ):
                for locale, alone in (("en", False), ("fr", False), ("fr", True), ("fr-CA", False)):
                    pages: list[str] = []
                    cursor, turns = "", 0
                    while turns == 0 or cursor:
                        wish = Wish(("talk",), locale, conditions, sort, 7, cursor, not alone)
                        found = house.desk.read(NOBODY, lambda v, w=wish: reading_lists.page(v, Place(), w))
                        pages += found.uuids
                        cursor, turns = found.next, turns + 1
                        assert turns < 100
                    whole = (
                        house.desk.read(
                            NOBODY,
                            lambda v, w=(locale, alone): reading_lists.page(
                                v, Place(), Wish(("talk",), w[0], limit=100, fallback=not w[1])
                            ),
                        ).uuids
                        if few
                        else None
                    )
                    asked = dict(conditions)
                    fits = {
                        u
                        for u, f in made.items()
                        if shown(u, locale, alone)
                        and ("where.form" not in asked or f["form"] == "walk")
                        and ("where.seats.from" not in asked or f["seats"] >= 3)
                        # What was translated has another title there.
                        and ("where.title.contains" not in asked or "Talk" in shown(u, locale, alone))
                    }
                    assert len(pages) == len(set(pages))
                    assert set(pages) == fits, (few, sort, conditions, locale, alone)
                    if sort.strip("-") == "seats":
                        seats = [made[u]["seats"] for u in pages]
                        assert seats == sorted(seats, reverse=sort.startswith("-"))
                    if whole is not None and not sort:
                        assert pages == [u for u in whole if u in fits]
                    if few and not alone:
                        # Where nothing is kept the same is answered, in the same order.
                        assert _paged_then(house, locale, conditions, sort) == pages, (
                            sort,
                            conditions,
                            locale,
                        )
                        for what in ("form", "month"):
                            assert _counted(house, Place(), locale, conditions, what) == _counted(
                                house, Place(RELEASE, house.clock.at), locale, conditions, what
                            )


def _paged_then(house: House, locale: str, conditions: tuple[tuple[str, str], ...], sort: str) -> list[str]:
    """All pages of a list at this instant, asked as one that has passed."""
    then = Place(RELEASE, house.clock.at)
    out: list[str] = []
    cursor = ""
    while not out or cursor:
        wish = Wish(("talk",), locale, conditions, sort, 9, cursor)
        found = house.desk.read(house.who("ida"), lambda v, w=wish: reading_lists.page(v, then, w))  # type: ignore[misc]
        out += found.uuids
        cursor = found.next
        if not cursor:
            break
    return out


def _counted(
    house: House, where: Place, locale: str, conditions: tuple[tuple[str, str], ...], by: str
) -> list[tuple[str, int]]:
    wish = Wish(("talk",), locale, conditions)
    found = house.desk.read(house.who("ida"), lambda v: reading_lists.counts(v, where, wish, by))
    return [(one.value, one.count) for one in found]


def test_lists_are_sorted_and_counted_as_they_were_and_as_they_will_be(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    small = out(house, "talk", title="Small", seats=10, form="walk")
    large = out(house, "talk", title="Large", seats=90, form="walk")
    before = house.clock.at
    house.later(3600)
    fields = {"seats": 5, "form": "lecture"}
    house.do("ida", lambda a: entries.save(a, large, "en", fields, entries.base_now(a, large, "en")))
    release(house, large, "*")
    gone = house.do("ida", lambda a: entries.start(a, "talk", "en", {"title": "Soon", "seats": 7}))
    house.plan([gone], 7200)
    later = house.clock.at + 3 * 3600 * SECOND

    def sorted_at(at: int | None, sort: str = "seats") -> list[str]:
        return asked(house, Place(RELEASE, at), "ida", sort=sort)

    def forms(at: int | None) -> list[tuple[str, int]]:
        wish = Wish(("talk",))
        found = house.desk.read(
            house.who("ida"), lambda v: reading_lists.counts(v, Place(RELEASE, at), wish, "form")
        )
        return [(one.value, one.count) for one in found]

    assert sorted_at(before) == [small, large]
    assert sorted_at(None) == [large, small]
    assert sorted_at(later) == [large, gone, small]
    assert sorted_at(later, "-seats") == [small, gone, large]
    assert forms(before) == [("walk", 2)]
    assert forms(None) == forms(later) == [("lecture", 1), ("walk", 1)]
    monkeypatch.setattr(reading_lists, "WALKED", 1)
    for ask in (lambda: sorted_at(before), lambda: forms(before)):
        with pytest.raises(Invalid, match="at most 1 entries"):
            ask()
    assert sorted_at(None) == [large, small], "what is out now has no such end"


def _put_out(house: House, uuid: str, locale: str, title: str) -> None:
    def save(act: Act) -> None:
        entries.save(act, uuid, locale, {"title": title}, entries.base_now(act, uuid, locale))

    house.do("ida", save)
    release(house, uuid, locale)


def test_what_stands_in_is_listed_at_other_stages_and_instants_too(house: House) -> None:
    locales = [{"tag": "en"}, {"tag": "fr"}, {"tag": "fr-CA", "fallback": ["fr"]}]
    house.do("ida", lambda a: locale_operations.define(a, locales))
    uuid = out(house, "talk", title="Bells")
    _put_out(house, uuid, "fr", "Cloches")
    release(house, uuid, "en", "withdraw")
    before = house.clock.at
    for place in (Place(), Place(RELEASE, before)):
        assert asked(house, place, "ida", locale="fr-CA") == [uuid]
        assert asked(house, place, "ida", locale="fr-CA", fallback=False) == []
        assert asked(house, place, "ida", locale="en") == [], (
            "nothing stands in for it, and its own is not out"
        )
        assert asked(house, place, "ida", locale="fr-CA", where=(("where.title.contains", "cloches"),)) == [
            uuid
        ]
        assert asked(house, place, "ida", locale="fr-CA", where=(("where.title.contains", "bells"),)) == []
    house.later(60)
    release(house, uuid, "fr", "withdraw")
    assert asked(house, locale="fr-CA") == []
    assert asked(house, Place(RELEASE, before), "ida", locale="fr-CA") == [uuid]


def test_relations_are_included_both_ways_and_only_as_far_as_they_are_out(house: House) -> None:
    quay = out(house, "venue", title="The quay")
    first = out(house, "talk", title="First", venue=quay)
    hidden = out(house, "talk", title="Hidden")
    second = out(house, "talk", title="Second", guests=[first, hidden], venue=quay)
    release(house, hidden, verb="withdraw")
    with reader(house) as client:
        found = client.read_entries(type="talk", ids=[second], include=["guests.venue"])
        assert found.included is not None
        assert set(found.included) == {first, quay}
        assert found.included[quay].title == "The quay"
        here = client.read_entries(type="venue", referring=["talk.venue"])
        assert here.referring == {"talk.venue": {quay: [second, first]}}
        assert here.included is not None
        assert set(here.included) == {first, second}
        some = client.read_entries(type="talk", fields=["title"], ids=[second]).items[0]
        assert (set(some.fields), some.references) == ({"title"}, {})
        again = client.read_entries(type="talk", ids=[second]).items[0]
        assert set(again.fields) == {"title", "guests", "venue"}


def test_counts_say_how_many_there_are_by_value_and_month(house: House) -> None:
    quay = out(house, "venue", title="The quay")
    for n in range(5):
        out(
            house,
            "talk",
            title=f"{n}",
            form="walk" if n < 2 else "lecture",
            words=["fog"] * (n == 1) + ["lamp"],
            begins=f"2027-0{1 + n // 2}-10T10:00:00Z",
            **({"venue": quay} if n else {}),
        )
    with reader(house) as client:

        def counts(by: str, **more: Any) -> list[tuple[str, str, int]]:
            return [(c.value, c.title, c.count) for c in client.read_counts(by, type="talk", **more).counts]

        assert counts("form") == [("lecture", "lecture", 3), ("walk", "walk", 2)]
        assert counts("words") == [("lamp", "lamp", 5), ("fog", "fog", 1)]
        assert counts("venue") == [(quay, "The quay", 4)]
        assert counts("month.begins") == [
            ("2027-03", "2027-03", 1),
            ("2027-02", "2027-02", 2),
            ("2027-01", "2027-01", 2),
        ]
        assert counts("month")[0][2] == 5
        assert counts("form", where={"words": "fog"}) == [("walk", "walk", 1)]
        with pytest.raises(Refusal, match="cannot be counted by “title”"):
            counts("title")
        answers = client.read_questions(
            {
                "walks": {"types": ["talk"], "where": {"form": "walk"}, "limit": 1},
                "wrong": {"types": ["talk"], "where": {"nothing": "x"}},
            }
        ).answers
        assert [one["title"] for one in answers["walks"]["items"]] == ["1"]
        assert "cannot filter by “nothing”" in str(answers["wrong"]["problem"])


@pytest.mark.parametrize(
    ("query", "says"),
    [
        ("where.secret=x", "cannot filter by “secret”"),
        ("where.guests=x", "cannot filter by “guests”"),
        ("where.form.near=1,2,3", "cannot be asked as “near”"),
        ("where.form=swim", "takes one of"),
        ("where.seats=many", "takes a number"),
        ("where.begins.from=tomorrow", "is not a time"),
        ("where.free=yes", "true or false"),
        ("where.date.last=fortnight", "ISO 8601"),
        ("where.seats.from=1&where.seats.from=2", "is asked once"),
        ("topic=x", "is no parameter here"),
        ("sort=guests", "cannot be sorted by “guests”"),
        ("fields=secret", "no type of this list has “secret”"),
        ("include=guests.guests.guests.guests", "3 steps"),
        ("include=title", "no type has a relation “title”"),
        ("referring=talk.guests", "is no relation"),
        ("referring=nothing", "is no relation"),
        ("cursor=AAAA", "cursor"),
        ("cursor=MQ", "cursor"),
        ("type=nothing", "nothing"),
        ("locale=xx", "xx"),
        ("limit=101", "100"),
        ("&".join(f"id={n}" for n in range(2_000)), "100"),
        ("&".join(f"where.seats={n}" for n in range(51)), "at most 50"),
        ("&".join(f"where.x{n}=1" for n in range(11)), "at most 10"),
    ],
)
def test_what_cannot_be_asked_is_named(house: House, query: str, says: str) -> None:
    with serving(house) as (_, url):
        answer = httpx.get(f"{url}/read/entries?{'' if query.startswith('type') else 'type=talk&'}{query}")
        assert answer.status_code in (404, 422), answer.text
        assert says in answer.text


def test_a_cursor_of_another_list_is_refused_and_pages_are_not_made_twice(house: House) -> None:
    for n in range(3):
        out(house, "talk", title=f"{n}", form="walk")
    with reader(house) as client:
        page = client.read_entries(type="talk", limit=1)
        with pytest.raises(Refusal, match="not one of this list"):
            client.read_entries(type="talk", limit=1, cursor=page.next, where={"form": "walk"})
        answer = httpx.get(f"{client.url}/read/entries?type=talk")
        same = httpx.get(
            f"{client.url}/read/entries?type=talk", headers={"If-None-Match": answer.headers["etag"]}
        )
        assert (same.status_code, same.content) == (304, b"")

        def kept() -> bool:
            with house.desk.db.read() as conn:
                return bool(conn.execute("SELECT count(*) FROM body").fetchone()[0] == 3)

        # They are kept once the answer is on its way.
        eventually(kept)
