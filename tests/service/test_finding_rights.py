"""Lists, searches, tags and topics hold only what may be read, and two who accept at once do it once."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import NotFound, StaleRevision
from hawthorn.operations.access import people
from hawthorn.operations.content import bulk, changing, entries, strands, templates
from hawthorn.operations.runtime.act import setup_changed
from hawthorn.operations.search import finding
from hawthorn.operations.views import show, show_history
from hawthorn.store import definitions as definition_store
from hawthorn.store import people as people_store
from tests.service.made import House

NEWS = {
    "name": "news",
    "workflow": "short",
    "fields": [
        {"name": "title", "kind": "line"},
        {"name": "body", "kind": "rich"},
        {"name": "tags", "kind": "tags", "shared": True},
    ],
}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)

    def prepare(act: Any) -> None:
        definition_store.add_locale(act.conn, "fr", "Français")
        setup_changed(act)
        changing.define_type(act, NEWS)
        for name, grants in (
            ("french", [{"verb": "read", "locales": ["fr"]}]),
            ("pages", [{"verb": "read", "types": ["page"]}]),
            ("own", [{"verb": "read", "own": True}, {"verb": "write", "own": True}]),
        ):
            people_store.set_role(act.conn, name, name, grants)
        for handle, role in (("fay", "french"), ("pat", "pages"), ("olu", "own")):
            people.add_person(
                act, handle, handle.title(), f"{handle}@x.example", "long enough", [{"name": role}]
            )

    made.do("ida", prepare)
    yield made
    made.close()


def seen(house: House, who: str, **asked: Any) -> set[tuple[str, str]]:
    rows, _ = house.desk.read(house.who(who), lambda v: finding.listing(v, finding.Query(**asked)))
    return {(r.title, r.locale) for r in rows}


@pytest.mark.parametrize(
    "asked", [{"words": "brass"}, {"locale": "fr"}, {"tag": "old"}, {"type": "news"}, {}]
)
def test_nobody_finds_what_they_may_not_read(house: House, asked: dict[str, Any]) -> None:
    body = "<p>Made of brass.</p>"
    news = house.do(
        "wim", lambda a: entries.start(a, "news", "en", {"title": "News", "body": body, "tags": ["old"]})
    )
    base = entries.parse_etag(house.desk.read(house.who("wim"), lambda v: show.entry(v, news, "fr"))["etag"])
    house.do(
        "wim", lambda a: entries.save(a, news, "fr", {"title": "Nouvelles", "body": "<p>brass</p>"}, base)
    )
    house.page("A page", body=body)
    assert all(locale == "fr" for _, locale in seen(house, "fay", **asked))
    assert all(title == "A page" for title, _ in seen(house, "pat", **asked))
    assert seen(house, "olu", **asked) == set()
    mine = house.do(
        "ida", lambda a: entries.start(a.by(house.who("wim")), "news", "en", {"title": "Wim's", "body": body})
    )
    assert mine
    assert seen(house, "ida", **asked) >= seen(house, "fay", **asked) | seen(house, "pat", **asked)
    for who in ("pat", "olu"):
        assert house.desk.read(house.who(who), lambda v: finding.tags(v)) == []
        assert house.desk.read(house.who(who), lambda v: finding.topics(v, "news")) == []
        found = house.desk.read(house.who(who), lambda v: finding.lookup(v, "News"))
        assert [r.title for r in found] == []


def test_what_may_not_be_read_is_not_there_for_strands_templates_and_many(house: House) -> None:
    news = house.do("wim", lambda a: entries.start(a, "news", "en", {"title": "News"}))
    house.do("wim", lambda a: strands.fork(a, news, "en", "Late"))
    house.do("wim", lambda a: templates.make(a, news, "News like this"))
    for who in ("pat", "olu"):
        with pytest.raises(NotFound):
            house.desk.read(house.who(who), lambda v: strands.propose(v, news, "en", "Late"))
        with pytest.raises(NotFound):
            house.do(who, lambda a: templates.copy(a, news, {}))
        (result,) = house.do(who, lambda a: bulk.run(a, "remove", [(news, "en", None)], {}))
        assert (result.done, result.title) == (False, "")
        assert "that you may see" in result.why
    assert house.desk.read(house.who("pat"), templates.listing) == []
    assert [t.name for t in house.desk.read(house.who("olu"), templates.listing)] == ["News like this"]


def test_two_who_accept_one_proposal_at_once_do_it_once(house: House) -> None:
    news = house.do("wim", lambda a: entries.start(a, "news", "en", {"title": "News", "body": "<p>Old.</p>"}))
    house.do("wim", lambda a: strands.fork(a, news, "en", "Late"))
    base = entries.parse_etag(
        house.desk.read(house.who("wim"), lambda v: show.entry(v, news, "en", "Late"))["etag"]
    )
    house.do("wim", lambda a: entries.save(a, news, "en", {"body": "<p>New.</p>"}, base, "", "Late"))
    etag = house.desk.read(house.who("wim"), lambda v: strands.propose(v, news, "en", "Late").etag)
    outcomes: list[str] = []
    ready = threading.Barrier(4)

    def accept(who: str) -> None:
        identity = house.who(who)
        ready.wait()
        try:
            house.desk.write(identity, lambda a: strands.accept(a, news, "en", "Late", etag))
            outcomes.append("done")
        except (StaleRevision, NotFound):
            outcomes.append("refused")

    threads = [threading.Thread(target=accept, args=(who,)) for who in ("wim", "oda", "ida", "wim")]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(outcomes) == ["done", "refused", "refused", "refused"]
    history = house.desk.read(house.who("wim"), lambda v: show_history.history(v, news, "en"))
    assert [r["number"] for r in history["revisions"] if r["origin"] == "strand"] == [3]
    assert [e["kind"] for e in history["events"]].count("strand.merged") == 1
