"""Entries that not everybody may read: nothing of them is told anywhere to whoever may not, and all of it to whoever may."""

from __future__ import annotations

import json
import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.client import Client
from hawthorn.client.errors import Refusal
from hawthorn.core import limited
from hawthorn.core.errors import TooMany
from hawthorn.core.timeline import SECOND
from hawthorn.operations.access import people
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import limiting, page_addresses
from hawthorn.operations.media import files
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.service.rates import Rates
from hawthorn.store import limited as store
from tests.service.made import House, serving
from tests.service.test_files import picture

HOME = "https://museum.example"
PHRASE = "The lamp room at nine"
TITLE = {"name": "title", "kind": "line", "required": True, "filter": True}
SHEET: dict[str, Any] = {
    "name": "sheet",
    "label": "Sheet",
    "workflow": "short",
    "meta_description": "summary",
    "fields": [
        TITLE,
        {"name": "slug", "kind": "slug", "follows": "title", "required": True},
        {"name": "below", "kind": "parent", "shared": True, "types": ["sheet"]},
        {"name": "summary", "kind": "text", "filter": True},
        {"name": "body", "kind": "rich"},
        {"name": "words", "kind": "tags", "filter": True},
        {"name": "about", "kind": "reference", "many": True, "types": ["sheet", "shot"], "filter": True},
        {"name": "newest", "kind": "query"},
    ],
}
SHOT: dict[str, Any] = {
    "name": "shot",
    "label": "Shot",
    "workflow": "short",
    "file": "file",
    "fields": [TITLE, {"name": "file", "kind": "file", "shared": True}],
}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    for kind in (SHOT, SHEET):
        made.do("ida", lambda a, k=kind: changing.define_type(a, k))
    sites = [{"name": "live", "label": "The museum", "addresses": {"*": f"{HOME}/{{path}}"}}]
    made.do("ida", lambda a: page_addresses.define(a, sites))
    yield made
    made.close()


def out(house: House, title: str, type: str = "sheet", **fields: Any) -> str:
    uuid: str = house.do("ida", lambda a: entries.start(a, type, "en", {"title": title, **fields}))
    release(house, uuid)
    return uuid


def release(house: House, uuid: str, locale: str = "en", verb: str = "release") -> None:
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, locale, verb)]))


def limit(house: House, uuid: str, way: str, *audiences: str, phrase: str = "", who: str = "ida") -> None:
    kept = limiting.phrase_hash(phrase)
    house.do(who, lambda a: limiting.limit(a, uuid, way, audiences, kept))


def key(
    house: House, *audiences: str, a_minute: int | None = None, stages: tuple[str, ...] = ("release",)
) -> str:
    issued: tuple[Any, str] = house.do(
        "ida",
        lambda a: people.issue_key(a, "A site", "reader", "program", stages, "", audiences, a_minute),
    )
    return issued[1]


def everything(url: str, ids: list[str], sha256: str, headers: dict[str, str]) -> dict[str, httpx.Response]:
    """What can be read in any way, by address."""
    paths = [
        "/read/outline?depth=6",
        "/read/entries?limit=100",
        "/read/entries?limit=100&locale=fr",
        "/read/entries?type=sheet&sort=title&limit=100",
        "/read/entries?type=sheet&where.words=veiled&include=about&referring=sheet.about",
        "/read/entries?type=sheet&where.summary.contains=veiled",
        "/read/entries?type=sheet&where.date.last=P10D&include=about,about.about&referring=sheet.about",
        "/read/counts?by=words",
        "/read/counts?by=about",
        "/read/counts?by=month&where.words=veiled",
        "/feeds/live/atom?limit=100",
        "/feeds/live/json?limit=100",
        "/feeds/live/sitemap.xml",
        "/feeds/live/sitemap-0.xml",
        "/feeds/live/redirects.csv",
        f"/read/files/{sha256}",
        "/read/pages/en/veiled",
        "/read/pages/en/veiled-once",
        "/read/pages/en/lobby/veiled",
        *(
            f"/read/entries?{'&'.join(f'id={one}' for one in ids)}{more}"
            for more in ("", "&where.words=veiled")
        ),
        *(
            f"/read/entries/{one}{more}"
            for one in ids
            for more in ("", "?locale=en", "?texts=markdown", "?locale=fr", "/head")
        ),
    ]
    out = {path: httpx.get(url + path, headers=headers) for path in paths}
    asked = {
        "questions": {"all": {"limit": 100}, "some": {"where": {"words": "veiled"}, "include": ["about"]}}
    }
    out["questions"] = httpx.post(f"{url}/read/questions", json=asked, headers=headers)
    return out


def test_nothing_of_what_is_hidden_is_told_anywhere(house: House) -> None:
    """Whatever is asked, before and after everything was kept: no word, no address, no id, no count."""
    photo = house.do("wim", lambda a: files.keep(a, files.inspect("p.png", picture("PNG"))))
    lobby = out(house, "Lobby")
    shot = out(house, "Veiled shot", "shot", file=photo)
    secret = out(
        house,
        "Veiled once",
        below=lobby,
        summary="veiled too",
        body="<p>veiled body</p>",
        words=["veiled"],
        about=[lobby],
    )
    house.do(
        "ida",
        lambda a: entries.save(
            a, secret, "en", {"title": "Veiled", "slug": "veiled"}, entries.base_now(a, secret, "en")
        ),
    )
    release(house, secret)
    rule = {"types": ["sheet"], "limit": 50, "order": "newest"}
    out(
        house,
        "Open",
        body=f'<p>To <a href="urn:uuid:{secret}">it</a>.</p><figure><img src="urn:uuid:{shot}"></figure>',
        about=[secret, shot],
        newest=rule,
        words=["open"],
    )
    ids = [lobby, secret, shot]
    with serving(house) as (_, url):
        seen = everything(url, ids, photo["sha256"], {})
        told = [path for path, one in seen.items() if "eiled" in one.text or secret in one.text]
        # Each way tells of it while it is for everybody: none of them is asked in vain.
        assert len(told) > 25, told
        for uuid in (secret, shot):
            limit(house, uuid, "hidden", "friends")
        member = {"Authorization": f"Bearer {key(house, 'friends')}"}
        other = {"Authorization": f"Bearer {key(house, 'press')}"}
        drafts = {"Authorization": f"Bearer {key(house, stages=('draft', 'release'))}"}
        for headers in ({}, other, {}, other):
            for path, one in everything(url, ids, photo["sha256"], headers).items():
                # What refers to it names an id, as it does of what was never out.
                wrong = [w for w in ("eiled", f'"id":"{secret}"', f'"id":"{shot}"') if w in one.text]
                assert one.status_code == 404 or not wrong, (path, wrong)
                assert "eiled" not in one.headers.get("location", "")
                assert path != f"/read/files/{photo['sha256']}" or one.status_code == 404
        again = everything(url, ids, photo["sha256"], member)
        for path in told:
            assert again[path].status_code == seen[path].status_code, path
            if not path.startswith("/feeds"):
                assert "eiled" in again[path].text or secret in again[path].text, path
                assert "no-store" in again[path].headers.get("cache-control", ""), path
        # Whoever may read drafts sees it there; what is out they read as everybody does.
        assert httpx.get(f"{url}/read/entries/{secret}", headers=drafts).json()["limited"] == "hidden"
        assert httpx.get(f"{url}/read/entries/{secret}?stage=release", headers=drafts).status_code == 404
        # For everybody again, it is there at once.
        for uuid in (secret, shot):
            limit(house, uuid, "")
        after = everything(url, ids, photo["sha256"], {})
        assert {p: after[p].text for p in told if "feed" not in p} == {
            p: seen[p].text for p in told if "feed" not in p
        }


def test_hidden_and_not_there_are_the_same_answer(house: House) -> None:
    secret = out(house, "Veiled")
    limit(house, secret, "hidden", "friends")
    nobody = secret[:-4] + ("0000" if secret[-4:] != "0000" else "1111")
    with serving(house) as (_, url):
        for one, other in (
            (f"entries/{secret}", f"entries/{nobody}"),
            (f"entries/{secret}?locale=en", f"entries/{nobody}?locale=en"),
            ("pages/en/veiled", "pages/en/nobody"),
        ):
            for method in ("GET", "HEAD"):
                for headers in ({}, {"If-None-Match": "*"}, {"If-Match": "*"}):
                    hidden, missing = (
                        httpx.request(method, f"{url}/read/{p}", headers=headers) for p in (one, other)
                    )
                    assert hidden.status_code == missing.status_code == 404
                    names = [
                        p.split("?")[0].removeprefix("entries/").removeprefix("pages/") for p in (one, other)
                    ]
                    texts = [a.text.replace(n, "NAME") for a, n in zip((hidden, missing), names, strict=True)]
                    assert texts[0] == texts[1]
                    heads = [
                        {k: v for k, v in a.headers.items() if k not in ("date", "content-length")}
                        for a in (hidden, missing)
                    ]
                    assert heads[0] == heads[1]
        body = {"phrase": "whatever it is"}
        guesses = [httpx.post(f"{url}/read/entries/{one}/unlock", json=body) for one in (secret, nobody)]
        assert [one.status_code for one in guesses] == [404, 404]


def test_a_locked_entry_is_listed_and_opens_with_its_phrase(house: House) -> None:
    photo = house.do("wim", lambda a: files.keep(a, files.inspect("p.png", picture("PNG"))))
    shot = out(house, "A shot", "shot", file=photo)
    locked = out(house, "Evening", summary="inside", body="<p>inside</p>", words=["inside"], about=[shot])
    outside = out(
        house, "Outside", about=[locked, shot], body=f'<p><a href="urn:uuid:{locked}">Evening</a></p>'
    )
    for uuid in (locked, shot):
        limit(house, uuid, "locked", "friends", phrase=PHRASE)
    with serving(house) as (_, url), Client(url) as client:
        for _ in range(2):
            found = client.read(locked)
            assert (found.title, found.locked, found.limited, found.fields) == ("Evening", True, "locked", {})
            assert found.path == "/en/evening"
            shown = client.read(outside).references
            assert (shown[locked].locked, shown[locked].path) == (True, "/en/evening")
            assert (shown[shot].locked, shown[shot].file) == (True, None)
        listed = {one.id: one for one in client.read_entries(type="sheet").items}
        assert listed[locked].locked
        assert not listed[outside].locked
        # To be chosen by what it holds would tell what it holds.
        assert client.read_entries(where={"words": "inside"}).items == []
        assert (
            client.read_entries(type="sheet", ids=[locked], where={"summary.contains": "inside"}).items == []
        )
        assert [one.id for one in client.read_entries(type="sheet", sort="title").items] == [outside]
        assert client.read_counts("words").counts == []
        assert client.read_entries(ids=[shot], referring=["sheet.about"]).referring == {
            "sheet.about": {shot: [outside]}
        }
        assert "inside" not in client.read_atom("live").decode()
        assert httpx.get(f"{url}/read/files/{photo['sha256']}").status_code == 404
        # It opens with the phrase, however that is written, for whoever gave it and nobody else.
        opened = client.unlock(locked, "  the LAMP room\u00a0at  nine ")
        whole = client.read(locked, unlocked=[opened.token])
        assert (whole.locked, whole.limited, whole.fields["summary"]) == (False, "locked", "inside")
        assert (
            client.read_page("/en/evening", unlocked=["nonsense", opened.token]).fields["summary"] == "inside"
        )
        assert client.read(shot, unlocked=[opened.token]).locked, "one phrase opens one entry"
        assert client.read(locked).locked
        both = [opened.token, client.unlock(shot, PHRASE).token]
        headers = {"Hawthorn-Unlocked": ", ".join(both)}
        answer = httpx.get(f"{url}/read/entries/{locked}?locale=en", headers=headers)
        assert answer.json()["references"][shot]["file"]["href"] == f"/read/files/{photo['sha256']}"
        assert "no-store" in answer.headers["cache-control"]
        assert "Hawthorn-Unlocked" in answer.headers["vary"]
        assert httpx.get(f"{url}/read/files/{photo['sha256']}", headers=headers).status_code == 200
        for _ in range(2):
            assert httpx.get(f"{url}/read/entries?where.words=inside").json()["items"] == []
        listing = httpx.get(f"{url}/read/entries?where.words=inside", headers=headers)
        assert [one["id"] for one in listing.json()["items"]] == [locked]
        assert client.read_entries(where={"words": "inside"}).items == []
        # A key for the audience needs no phrase.
        with Client(url, key(house, "friends")) as friend:
            assert friend.read(locked).fields["summary"] == "inside"
            assert [one.id for one in friend.read_entries(where={"words": "inside"}).items] == [locked]
        # Another phrase ends what the one before it opened; so does time.
        limit(house, locked, "locked", phrase="Another phrase")
        assert client.read(locked, unlocked=both).locked
        fresh = client.unlock(locked, "another phrase").token
        assert not client.read(locked, unlocked=[fresh]).locked
        house.later(limiting.OPEN_FOR / SECOND + 1)
        assert client.read(locked, unlocked=[fresh]).locked
        # What was locked and is hidden now opens with nothing.
        token = client.unlock(locked, "another phrase").token
        limit(house, locked, "hidden", "friends")
        with pytest.raises(Refusal) as refused:
            client.read(locked, unlocked=[token])
        assert refused.value.problem.status == 404


def test_guesses_are_slowed_down_and_cost_little(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    locked, free = out(house, "Evening"), out(house, "Morning")
    limit(house, locked, "locked", phrase=PHRASE)
    looked = 0

    def look(*given: Any) -> Any:
        nonlocal looked
        looked += 1
        return tried(*given)

    tried = limiting.tried
    monkeypatch.setattr(limiting, "tried", look)
    with serving(house) as (_, url), Client(url) as client:
        answers: list[int] = []
        for n in range(300):
            answer = httpx.post(f"{url}/read/entries/{locked}/unlock", json={"phrase": f"guess {n:09}"})
            answers.append(answer.status_code)
            house.clock.at += SECOND // 10
        assert answers[0] == 422
        assert answers.count(422) + answers.count(429) == 300
        assert looked == answers.count(422) < 20
        assert answer.status_code == 429
        assert int(answer.headers["retry-after"]) > 0
        # Whoever knows it waits as long, and then goes in.
        house.later(61)
        assert client.unlock(locked, PHRASE).token
        for wrong, status in ((free, 409), ("0" * 8, 404)):
            assert (
                httpx.post(f"{url}/read/entries/{wrong}/unlock", json={"phrase": PHRASE}).status_code
                == status
            )
        assert (
            httpx.post(f"{url}/read/entries/{locked}/unlock", json={"phrase": "x" * 2000}).status_code == 422
        )
        # A site that tells its visitors apart keeps none waiting for another's guesses.
        with Client(url, key(house)) as site:
            for n in range(12):
                with pytest.raises(Refusal):
                    site.unlock(locked, f"guess {n:09}", visitor="203.0.113.9")
            with pytest.raises(Refusal) as refused:
                site.unlock(locked, PHRASE, visitor="203.0.113.9")
            assert refused.value.problem.status == 429
            assert site.unlock(locked, PHRASE, visitor="203.0.113.10").token


def test_only_who_may_release_it_says_who_reads_it(house: House) -> None:
    uuid = out(house, "Evening")
    refusals: list[tuple[tuple[Any, ...], str]] = [
        (("hidden",), "audiences"),
        (("locked",), "phrase"),
        (("sealed",), "way"),
        (("hidden", "Friends!"), "audiences"),
        (("hidden", *(f"a{n}" for n in range(21))), "audiences"),
    ]
    with serving(house) as (_, url), Client(url) as client:
        client.log_in("ida", "long enough")
        for (way, *audiences), field in refusals:
            with pytest.raises(Refusal) as refused:
                client.limit(uuid, way, audiences=audiences)
            assert (
                refused.value.problem.status,
                field in json.dumps(refused.value.problem.model_dump()),
            ) == (
                422,
                True,
            )
        for phrase in ("short", "x" * 201):
            with pytest.raises(Refusal):
                client.limit(uuid, "locked", phrase=phrase)
        with pytest.raises(Refusal):
            client.limit(uuid, "hidden", audiences=["friends"], phrase=PHRASE)
        assert client.entry(uuid).limit.way == ""
        done = client.limit(uuid, "locked", audiences=["friends"], phrase=PHRASE)
        assert (done.was.way, done.limit.way, done.limit.audiences, done.limit.has_phrase) == (
            "",
            "locked",
            ["friends"],
            True,
        )
        # The phrase stays while it is for everybody, so that undoing needs none.
        client.limit(uuid, "")
        assert client.limit(uuid, "locked").limit.has_phrase
        assert client.audiences().items == []
        client.limit(uuid, "hidden", audiences=["friends", "press"])
        assert [one.name for one in client.audiences().items] == ["friends", "press"]
        told = [one.what for one in client.events().items if one.kind == "entry.limited"]
        assert [(one["was"], one["way"]) for one in reversed(told)] == [
            ("open", "locked"),
            ("locked", "open"),
            ("open", "locked"),
            ("locked", "hidden"),
        ]
        assert PHRASE.casefold() not in json.dumps(told).casefold()
        with Client(url) as other:
            other.log_in("wim", "long enough")
            with pytest.raises(Refusal) as refused:
                other.limit(uuid, "")
            assert refused.value.problem.status == 403
            assert other.entry(uuid).limit.way == "hidden", "colleagues see it, and how it is limited"
    with house.desk.db.read() as conn:
        row = conn.execute("SELECT hash FROM entry_phrase").fetchone()
    assert row[0].startswith("$argon2id$")


def test_lists_are_whole_for_each_reader(house: House) -> None:
    """Against picking by hand: who sees which lines, on pages of any length, in any order."""
    rng = random.Random(5)
    made: dict[str, tuple[str, tuple[str, ...]]] = {}
    for n in range(40):
        way = rng.choice(["", "", "hidden", "locked"])
        audiences = tuple(rng.sample(["friends", "press"], rng.randint(way == "hidden", 2))) if way else ()
        uuid = out(house, f"Sheet {n:02}", words=["one"])
        if way:
            limit(house, uuid, way, *audiences, phrase=PHRASE if way == "locked" else "")
        made[uuid] = (way, audiences)
    with serving(house) as (_, url):
        for mine in ((), ("friends",), ("press",), ("friends", "press")):
            token = key(house, *mine) if mine else ""
            with Client(url, token) as client:

                def whole(uuid: str, mine: tuple[str, ...] = mine) -> bool:
                    way, audiences = made[uuid]
                    return not way or bool(set(audiences) & set(mine))

                for asked, shown in (
                    ({}, [u for u in made if whole(u) or made[u][0] == "locked"]),
                    ({"where": {"words": "one"}}, [u for u in made if whole(u)]),
                    ({"sort": "title"}, [u for u in made if whole(u)]),
                ):
                    found: list[str] = []
                    cursor = ""
                    while True:
                        page = client.read_entries(type="sheet", limit=7, cursor=cursor, **asked)
                        found += [one.id for one in page.items]
                        assert all(one.locked != whole(one.id) for one in page.items)
                        cursor = page.next
                        if not cursor:
                            break
                    assert sorted(found) == sorted(shown)
                    assert len(set(found)) == len(found)
                counted = client.read_counts("words", type="sheet").counts
                assert [one.count for one in counted] == [sum(map(whole, made))]


def test_a_key_reads_no_more_than_its_rate(house: House) -> None:
    uuid = out(house, "Evening")
    with serving(house) as (_server, url), Client(url, key(house, a_minute=5)) as client:
        for _ in range(5):
            client.read(uuid)
        with pytest.raises(Refusal) as refused:
            client.read_entries()
        assert refused.value.problem.status == 429
        assert refused.value.problem.fact("retry_after")
        for _ in range(20):
            assert httpx.get(f"{url}/read/entries/{uuid}").status_code == 200
    at = 0.0
    rates = Rates(clock=lambda: at)
    taken = 0
    for step in range(3000):
        at = step / 10
        try:
            rates.take(1, 60, "A site")
            taken += 1
        except TooMany:
            pass
    # A minute's worth at once, and then as many as there are seconds.
    assert 60 + 299 - 1 <= taken <= 60 + 300


def test_phrases_and_audiences_are_named_alike() -> None:
    assert limited.phrase(" Ａ  B\u00a0c ") == "a b c"
    assert limited.audiences(["friends", " press ", "friends"]) == ("friends", "press")


def test_an_entry_is_limited_before_it_is_out(house: House) -> None:
    """What is limited first and released then is never out for everybody, not for a moment; and it stays so through releases."""
    uuid = house.do("ida", lambda a: entries.start(a, "sheet", "en", {"title": "Veiled"}))
    limit(house, uuid, "hidden", "friends")
    release(house, uuid)
    house.do(
        "ida", lambda a: entries.save(a, uuid, "en", {"summary": "veiled"}, entries.base_now(a, uuid, "en"))
    )
    release(house, uuid)
    with serving(house) as (_, url):
        assert httpx.get(f"{url}/read/entries/{uuid}").status_code == 404
    with house.desk.db.read() as conn:
        entry = conn.execute("SELECT id FROM entry WHERE uuid = ?", (uuid,)).fetchone()[0]
        assert store.audiences(conn, entry) == ("friends",)
