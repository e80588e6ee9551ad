"""Kept bodies are never stale: whatever happens, what the one SELECT gives is what rendering anew would give."""

from __future__ import annotations

import contextlib
import json
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from hawthorn.core.errors import HawthornError, NotFound, Refused
from hawthorn.core.timeline import SECOND, iso
from hawthorn.messages import ENGLISH
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import reading, rendering
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import bodies, events
from hawthorn.store import definitions as definition_store
from tests.service.made import House

NOTE = {
    "name": "leaf",
    "label": "Leaf",
    "workflow": "short",
    "fields": [
        {"name": "title", "kind": "line", "required": True},
        {"name": "slug", "kind": "slug", "follows": "title"},
        {"name": "body", "kind": "rich"},
        {"name": "near", "kind": "reference", "many": True, "shared": True},
        {"name": "below", "kind": "parent", "shared": True},
    ],
}


def leaves(house: House, count: int) -> list[str]:
    """Pages that need no review, in English and room for French."""
    house.do("ida", lambda a: changing.define_type(a, NOTE))
    house.desk.db.write(lambda c: definition_store.add_locale(c, "fr", "Français"))
    house.desk.db.write(lambda c: definition_store.set_setting(c, "setup", "77"))
    return [
        house.do("ida", lambda a, n=n: entries.start(a, "leaf", "en", {"title": f"Leaf {n}"}))
        for n in range(count)
    ]


def save(house: House, uuid: str, patch: dict, locale: str = "en") -> None:
    def do(act: Act) -> None:
        row = entries.store.entry(act.conn, uuid)
        assert row is not None
        entries.save(act, uuid, locale, patch, entries.current_base(act, row.id, locale))

    house.do("ida", do)


def body(house: House, uuid: str, locale: str) -> Any:
    """The body as a reader gets it: kept if fresh, else rendered and kept."""

    def look(view: View) -> tuple[bytes | None, rendering.Rendered | None, int]:
        kept = bodies.fresh(view.conn, uuid, locale, view.now)
        if kept:
            return kept.data, None, 0
        with contextlib.suppress(NotFound):
            made = rendering.render(view, uuid, locale, reading.Place())
            return made.data, made, events.last(view.conn)[0]
        return None, None, 0

    data, made, seq = house.desk.read(house.who("ida"), look)
    if made is not None:
        house.desk.db.write(
            lambda c: bodies.keep(c, made.entry, locale, seq, 1, made.etag, made.data, made.deps, made.ends)
        )
    return json.loads(data) if data else None


def anew(house: House, uuid: str, locale: str) -> dict | None:
    """The body rendered from nothing kept."""

    def look(view: View) -> bytes | None:
        with contextlib.suppress(NotFound):
            return rendering.render(view, uuid, locale, reading.Place()).data
        return None

    data = house.desk.read(house.who("ida"), look)
    return json.loads(data) if data else None


ACTS = st.lists(
    st.tuples(
        st.sampled_from(["release", "withdraw", "rename", "refer", "move", "french", "plan", "link"]),
        st.integers(0, 2),
        st.integers(0, 2),
    ),
    max_size=14,
)


@given(ACTS)
@settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
def test_a_kept_body_is_what_rendering_anew_would_give(acts: list[tuple[str, int, int]]) -> None:
    with tempfile.TemporaryDirectory() as folder:
        house = House(Path(folder))
        pages = leaves(house, 3)
        for n, (act, one, other) in enumerate(acts):
            page, target = pages[one], pages[other]
            with contextlib.suppress(HawthornError):
                if act in ("release", "withdraw"):
                    house.do("ida", lambda a, p=page, v=act: dispatches.make(a, [MoveRequest(p, "en", v)]))
                elif act == "rename":
                    save(house, page, {"title": f"Renamed {n}", "slug": f"renamed-{n}"})
                elif act == "refer":
                    save(house, page, {"near": [target]})
                elif act == "link":
                    save(house, page, {"body": f'<p>See <a href="urn:uuid:{target}">it</a>.</p>'})
                elif act == "move":
                    save(house, page, {"below": target})
                elif act == "french":
                    save(house, page, {"title": f"Feuille {n}"}, "fr")
                    house.do("ida", lambda a, p=page: dispatches.make(a, [MoveRequest(p, "fr")]))
                else:
                    house.plan([page], 5, "withdraw")
                    house.later(10)
            for uuid in pages:
                for locale in ("en", "fr"):
                    assert body(house, uuid, locale) == anew(house, uuid, locale)
        house.close()


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def released(house: House, *uuids: str, locale: str = "en") -> None:
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(u, locale) for u in uuids]))


def test_a_link_leads_to_the_path_of_what_is_out_and_is_words_alone_for_what_is_not(house: House) -> None:
    one, two, _ = leaves(house, 3)
    save(house, one, {"body": f'<p>See <a href="urn:uuid:{two}">the other</a> & more.</p>'})
    with pytest.raises(HawthornError, match="refers to “Leaf 1”"):
        released(house, one)
    released(house, one, two)
    assert (
        body(house, one, "en")["fields"]["body"]
        == '<p>See <a href="/en/leaf-1">the other</a> &amp; more.</p>'
    )
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(two, "en", "withdraw")]))
    assert body(house, one, "en")["fields"]["body"] == "<p>See the other &amp; more.</p>"


def test_a_page_is_found_level_by_level_and_follows_when_its_parent_moves(house: House) -> None:
    room, shelf, book = leaves(house, 3)
    save(house, shelf, {"below": room})
    save(house, book, {"below": shelf})
    released(house, room, shelf, book)
    assert body(house, book, "en")["path"] == "/en/leaf-0/leaf-1/leaf-2"
    save(house, room, {"slug": "hall"})
    released(house, room)
    assert body(house, book, "en")["path"] == "/en/hall/leaf-1/leaf-2"

    def find(path: str) -> tuple[str, str, str | None]:
        return house.desk.read(house.who("ida"), lambda v: reading.find_path(v, path, reading.Place()))

    assert find("en/hall/leaf-1/leaf-2") == (book, "en", None)
    assert find("en/leaf-0/leaf-1/leaf-2") == (book, "en", "/en/hall/leaf-1/leaf-2")
    assert find("fr/hall/leaf-1")[0] == shelf
    with pytest.raises(NotFound):
        find("en/hall/leaf-2")


def test_a_stage_shows_what_stands_there_or_further_on_and_a_release_lifts_it(house: House) -> None:
    page = house.signed("Lamp")
    review_stage = house.desk.read(house.who("ida"), lambda v: v.setup.stages["review"])

    def seen(stage: int) -> int | None:
        def look(view: View) -> int | None:
            row = entries.store.entry(view.conn, page)
            assert row is not None
            edition = entries.store.edition(view.conn, row.id, "en")
            assert edition is not None
            found = reading.revision_at(view, edition.id, reading.Place(stage))
            return found[0] if found else None

        return house.desk.read(house.who("ida"), look)

    in_review = seen(review_stage)
    assert in_review is not None
    assert seen(2) is None
    released(house, page)
    assert seen(2) == in_review == seen(review_stage)
    assert [row[0] for row in house.standing(page) if row[3] is None] == ["release"]
    save(house, page, {"title": "Lamp two"})
    assert seen(1) != in_review
    house.do("ida", lambda a: review.submit(a, page, "en"))
    assert seen(review_stage) == seen(1)
    assert seen(2) == in_review


def test_the_future_is_read_with_the_plans_laid_over_it(house: House) -> None:
    page = house.signed("Lamp")
    house.plan([page], 100)
    house.plan([page], 200, "withdraw") if house.is_out(page) else None
    now = house.clock.at

    def at(seconds: float) -> bool:
        def look(view: View) -> bool:
            try:
                rendering.render(view, page, "en", reading.Place(2, now + round(seconds * SECOND)))
            except NotFound:
                return False
            return True

        return house.desk.read(house.who("ida"), look)

    assert not at(50)
    assert at(150)
    assert not at(0)


def test_who_may_read_where_is_decided_by_key_and_grant(house: House) -> None:
    from hawthorn.core.access import Grant, Identity
    from hawthorn.service.context import NOBODY

    future = iso(house.clock.at + 3600 * SECOND)
    key = Identity(9, "program", "Site", "site", (("r", Grant("read")),), ("release",))
    preview = Identity(9, "program", "Preview", "preview", (("r", Grant("read")),), ("draft", "release"))
    person = house.who("wim")

    def place(who: Identity, standing: str = "", at: str = "") -> reading.Place:
        return house.desk.read(who, lambda v: reading.place(v, standing, at))

    assert place(NOBODY).plain
    assert place(key).plain
    assert place(preview).stage == 1
    assert place(person, "draft").stage == 1
    assert place(preview, "release", future).at
    for who, standing, at in (
        (NOBODY, "draft", ""),
        (NOBODY, "", future),
        (key, "draft", ""),
        (key, "", future),
        (preview, "review", ""),
    ):
        with pytest.raises(Refused) as refused:
            place(who, standing, at)
        assert ENGLISH.remedy(refused.value)
