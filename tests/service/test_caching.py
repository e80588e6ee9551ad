"""What caches and returning readers are told: conditions in the order of RFC 9110, codings made once, groups with which things are let go."""

from __future__ import annotations

import gzip
import itertools
import json
from collections.abc import Iterator
from email.utils import parsedate_to_datetime
from pathlib import Path
from typing import Any

import brotli
import httpx
import pytest
import zstandard
from starlette.datastructures import Headers

from hawthorn.core.timeline import SECOND
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import page_addresses
from hawthorn.operations.media import files, renditions
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.service import conditional, encoding
from tests.service.made import House, serving
from tests.service.test_file_store import drawn

TITLE = {"name": "title", "kind": "line", "required": True}
ELSEWHERE = {"If-Modified-Since": "Fri, 01 Jan 2021 00:00:00 GMT"}
"""What the cached read leaves to the route; beside `If-None-Match` it counts for nothing (RFC 9110, section 13.1.3)."""
THEN = 1_800_000_000 * SECOND
BEFORE, AT, AFTER = (conditional.http_date(THEN + n * 60 * SECOND) for n in (-1, 0, 1))


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def out(house: House, title: str, body: str = "<p>Words.</p>") -> str:
    uuid = house.signed(title, body=body)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en")]))
    return uuid


def raw(url: str, **headers: str) -> tuple[httpx.Response, bytes]:
    """An answer with its content as it came, without what a client would undo."""
    with (
        httpx.Client(headers={"Accept-Encoding": "identity"}) as http,
        http.stream("GET", url, headers=headers) as answer,
    ):
        return answer, b"".join(answer.iter_raw())


CASES = [
    ({"if-match": '"a"'}, 200),
    ({"if-match": 'W/"a"'}, 412),
    ({"if-match": '"b", "a"'}, 200),
    ({"if-match": '"b"'}, 412),
    ({"if-match": "*"}, 200),
    ({"if-none-match": '"a"'}, 304),
    ({"if-none-match": 'W/"a"'}, 304),
    ({"if-none-match": '"a-br"'}, 304),
    ({"if-none-match": '"b"'}, 200),
    ({"if-none-match": '"b", W/"a"'}, 304),
    ({"if-none-match": '"b,a", "c"'}, 200),
    ({"if-none-match": "*"}, 304),
    ({"if-none-match": "a"}, 200),
    ({"if-modified-since": BEFORE}, 200),
    ({"if-modified-since": AT}, 304),
    ({"if-modified-since": AFTER}, 304),
    ({"if-modified-since": "yesterday"}, 200),
    ({"if-unmodified-since": BEFORE}, 412),
    ({"if-unmodified-since": AT}, 200),
    ({"if-unmodified-since": "soon"}, 200),
    # A tag counts before a time, and what has to match before what must not.
    ({"if-none-match": '"b"', "if-modified-since": AFTER}, 200),
    ({"if-none-match": '"a"', "if-modified-since": BEFORE}, 304),
    ({"if-match": '"a"', "if-unmodified-since": BEFORE}, 200),
    ({"if-match": '"b"', "if-none-match": '"a"'}, 412),
    ({"if-match": '"a"', "if-none-match": '"a"'}, 304),
]


@pytest.mark.parametrize(("headers", "status"), CASES)
def test_conditions_count_in_the_order_of_the_standard(headers: dict[str, str], status: int) -> None:
    assert conditional.status_of(Headers(headers), '"a"', THEN) == status


@pytest.mark.parametrize(
    ("accepted", "coding"),
    [
        ("", ""),
        ("gzip", "gzip"),
        ("gzip, br", "br"),
        ("gzip, deflate, br, zstd", "zstd"),
        ("br;q=0.5, gzip;q=0.8", "gzip"),
        ("br;q=0", ""),
        ("*", "zstd"),
        ("*;q=0", ""),
        ("identity, br;q=0.4", ""),
        ("BR", "br"),
        ("deflate", ""),
        ("gzip;q=banana", ""),
    ],
)
def test_the_coding_that_is_taken_best_is_chosen(accepted: str, coding: str) -> None:
    assert encoding.wanted(accepted) == coding


def test_an_entry_comes_in_every_coding_and_what_somebody_has_in_one_they_have(house: House) -> None:
    uuid = out(house, "Lamps", f"<p>{'The lamp burned. ' * 200}</p>")
    undo = {
        "": lambda data: data,
        "gzip": gzip.decompress,
        "br": brotli.decompress,
        "zstd": lambda data: zstandard.ZstdDecompressor().decompress(data, max_output_size=1 << 20),
    }
    with serving(house) as (_, url):
        address = f"{url}/read/entries/{uuid}?locale=en"
        first, plain = raw(address)
        assert first.headers["vary"].count("Accept-Encoding") == 1
        seen: list[str] = []
        # Twice, as the second time it is answered from what was kept.
        for coding in [*undo, *undo]:
            answer, data = raw(address, **{"Accept-Encoding": coding or "identity"})
            assert undo[coding](data) == plain
            assert answer.headers.get("content-encoding", "") == coding
            assert int(answer.headers["content-length"]) == len(data)
            assert not coding or len(data) < len(plain) / 3
            seen.append(answer.headers["etag"])
            assert answer.headers["last-modified"] == first.headers["last-modified"]
        assert len(set(seen)) == 4
        for tag, coding in itertools.product(set(seen), undo):
            had, nothing = raw(address, **{"Accept-Encoding": coding, "If-None-Match": tag})
            assert (had.status_code, nothing) == (304, b"")
        assert parsedate_to_datetime(first.headers["last-modified"]).timestamp() <= house.clock.at / SECOND
        since = first.headers["last-modified"]
        assert raw(address, **{"If-Modified-Since": since})[0].status_code == 304
        assert raw(address, **{"If-Match": '"another"'})[0].status_code == 412
        lists, listed = raw(f"{url}/read/entries?type=page", **{"Accept-Encoding": "br"})
        assert json.loads(brotli.decompress(listed))["items"][0]["id"] == uuid
        assert lists.headers["etag"].endswith('-br"')


def test_what_people_work_with_comes_in_a_coding_too_and_what_is_shown_once_does_not(house: House) -> None:
    uuid = house.signed("Lamps", body=f"<p>{'The lamp burned. ' * 200}</p>")
    tokens = {handle: house.log_in(handle) for handle in ("wim", "oda")}
    with serving(house) as (_, url):
        address = f"{url}/api/entries/{uuid}/en"
        told = {}
        for handle, token in tokens.items():
            bearer = {"Authorization": f"Bearer {token}"}
            _, plain = raw(address, **bearer)
            answer, data = raw(address, **bearer, **{"Accept-Encoding": "zstd"})
            assert answer.headers["content-encoding"] == "zstd"
            told[handle] = zstandard.ZstdDecompressor().decompress(data, max_output_size=1 << 20)
            assert told[handle] == plain
            assert len(data) < len(plain) / 2
        assert told["wim"] != told["oda"], "each is told what they themselves may do, under one entity tag"
        save = {
            "Authorization": f"Bearer {tokens['wim']}",
            "Accept-Encoding": "gzip",
            "If-Match": answer.headers["etag"],
        }
        assert save["If-Match"].endswith('-zstd"')
        body = {"fields": {"title": "Lamps and bells"}}
        saved = httpx.patch(address, json=body, headers=save)
        assert saved.status_code == 200, saved.text
        assert len(saved.content) > encoding.SHORTEST
        assert "content-encoding" not in saved.headers
        assert httpx.patch(address, json=body, headers={**save, "If-Match": '"1-banana"'}).status_code == 422


def test_caches_are_told_with_what_an_answer_is_let_go_where_they_may_keep_it(house: House) -> None:
    linked = out(house, "Keeper")
    uuid = out(house, "Lamps", f'<p>See <a href="urn:uuid:{linked}">her</a>.</p>')

    def groups(answer: httpx.Response) -> set[str]:
        names = {one.strip().strip('"') for one in answer.headers["cache-groups"].split(",")}
        assert set(answer.headers["surrogate-key"].split()) == names
        return names

    with serving(house, shared_age=600) as (_, url):
        address = f"{url}/read/entries/{uuid}?locale=en"
        for _ in range(2):
            answer, _ = raw(address)
            assert groups(answer) == {uuid.replace("-", ""), linked.replace("-", ""), "all"}
            assert "s-maxage=600" in answer.headers["cache-control"]
            assert "stale-while-revalidate=" in answer.headers["cache-control"]
        listed, _ = raw(f"{url}/read/entries?type=page")
        assert groups(listed) == {"type-page", "all"}
        missing, _ = raw(f"{url}/read/entries/00000000-0000-7000-8000-000000000000?locale=en")
        assert "s-maxage" not in missing.headers.get("cache-control", "")
    with serving(house) as (_, url):
        answer, _ = raw(f"{url}/read/entries/{uuid}?locale=en")
        assert answer.headers["cache-control"] == "public, max-age=0, must-revalidate"
        assert "cache-groups" not in answer.headers


def test_an_answer_has_the_same_headers_whether_it_is_made_or_was_kept(house: House) -> None:
    """Strictness for browsers, other origins, caches: whoever comes first is told no more, and no less."""
    shown, photo = plate(house)
    with serving(house, shared_age=60) as (_, url):
        for path in (f"entries/{shown}?locale=en", f"files/{photo}/wide-400x200-50-50.webp"):
            made, kept = (httpx.get(f"{url}/read/{path}") for _ in range(2))
            assert made.status_code == kept.status_code == 200
            assert told(made) == told(kept)
            assert kept.headers["x-content-type-options"] == "nosniff"
            assert "default-src 'none'" in kept.headers["content-security-policy"]
            has = {"If-None-Match": made.headers["etag"]}
            one, other = (
                httpx.get(f"{url}/read/{path}", headers={**has, **more}) for more in ({}, ELSEWHERE)
            )
            assert one.status_code == other.status_code == 304
            assert told(one) == told(other)


def test_who_has_it_is_told_what_they_would_have_been_told_with_it(house: House) -> None:
    """RFC 9110, section 15.4.5: the same entity tag, `Vary`, how long and with which groups, in each coding; and no type of nothing."""
    shown, photo = plate(house)
    paths = [
        f"/read/entries/{shown}?locale=en",
        f"/read/entries/{shown}",
        f"/read/entries/{shown}/head",
        "/read/entries?limit=5",
        "/read/counts?by=month",
        "/read/outline",
        "/read/openapi.json",
        "/read/types/typescript",
        f"/read/files/{photo}",
        f"/read/files/{photo}/wide-400x200-50-50.webp",
    ]
    same = ("etag", "vary", "cache-control", "last-modified", "cache-groups", "surrogate-key", "expires")
    with serving(house, shared_age=60) as (_, url):
        for path, coding in itertools.product(paths, ("identity", "gzip", "zstd")):
            accepted = ("Accept-Encoding", coding)
            whole = httpx.get(url + path, headers=[accepted])
            assert whole.status_code == 200, path
            tag = whole.headers["etag"]
            # In several lines as in one (section 5.3), whichever comes first.
            for tags in ([tag], ['"another"', tag], [tag, '"another"']):
                asked = [accepted, *(("If-None-Match", one) for one in tags)]
                had = httpx.get(url + path, headers=asked)
                assert had.status_code == 304, (path, tags)
                assert [had.headers.get(n) for n in same] == [whole.headers.get(n) for n in same], path
                assert "content-type" not in had.headers
            assert (
                httpx.get(url + path, headers=[accepted, ("If-None-Match", '"another"')]).status_code == 200
            )
            head = httpx.head(url + path, headers=[accepted])
            assert told(head) == told(whole)


def test_every_answer_says_how_long_it_is_kept_and_what_is_not_there_is_kept_nowhere(house: House) -> None:
    shown, photo = plate(house)
    lamp = out(house, "Lamp")
    renamed = entries.base_now
    house.do("wim", lambda a: entries.save(a, lamp, "en", {"slug": "light"}, renamed(a, lamp, "en")))
    house.do("wim", lambda a: review.submit(a, lamp, "en"))
    house.do("oda", lambda a: review.sign_off(a, lamp, "en", 2))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "en")]))
    site = {"name": "live", "label": "The museum", "addresses": {"*": "https://museum.example/{path}"}}
    house.do("ida", lambda a: page_addresses.define(a, [site]))
    nobody = "0" * 64
    with serving(house, shared_age=60) as (_, url):
        for path, status in {
            "/read/pages/en/light": 200,
            "/read/pages/en/lamp": 301,
            "/read/pages/en/nothing": 404,
            f"/read/entries/{shown[:-4]}0000": 404,
            f"/read/files/{nobody}": 404,
            f"/read/files/{photo}/wide-50-50.webp": 302,
            "/read/nothing": 404,
            "/read/entries?type=none": 422,
            "/read/changed": 200,
            "/feeds/live/atom": 200,
            "/feeds/live/sitemap.xml": 200,
            "/feeds/live/sitemap-0.xml": 200,
            "/feeds/live/redirects.csv": 200,
            "/feeds/none/atom": 404,
        }.items():
            answer = httpx.get(url + path)
            assert answer.status_code == status, path
            lasts = answer.headers["cache-control"]
            assert status < 400 or lasts == "no-store", path
            assert "s-maxage=60" in lasts or lasts in ("no-store", "no-cache"), path
        for path in (
            "/read/pages/en/lamp",
            "/feeds/live/redirects.csv",
            "/feeds/live/sitemap.xml",
            "/read/outline",
        ):
            assert "outline" in httpx.get(url + path).headers["surrogate-key"].split()
        # A map says when something came out last, as the lists of its types do.
        assert "type-page" in httpx.get(f"{url}/feeds/live/sitemap-0.xml").headers["surrogate-key"].split()


def plate(house: House) -> tuple[str, str]:
    """An entry with a picture, out: its id, and the picture's sum."""
    photo = house.do("wim", lambda a: files.keep(a, files.inspect("p.png", drawn())))
    kind = {"name": "plate", "fields": [TITLE, {"name": "file", "kind": "file", "shared": True}]}
    house.do("ida", lambda a: changing.define_type(a, {"label": "Plate", "workflow": "short", **kind}))
    crop = {"name": "wide", "label": "Wide", "width": 400, "height": 200, "use": ""}
    house.do("ida", lambda a: renditions.define_crops(a, [crop]))
    shown = house.do("ida", lambda a: entries.start(a, "plate", "en", {"title": "Lamp " * 90, "file": photo}))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(shown, "en")]))
    return shown, photo["sha256"]


def told(answer: httpx.Response) -> dict[str, str]:
    """The headers of an answer but for those that are of this one alone."""
    return {k: v for k, v in answer.headers.items() if k not in ("date", "x-request-id")}


def test_what_changed_is_answered_anew_whatever_was_kept(house: House) -> None:
    uuid = out(house, "Lamps", f"<p>{'The lamp burned. ' * 200}</p>")
    with serving(house) as (_, url):
        for address in (f"{url}/read/entries/{uuid}?locale=en", f"{url}/read/entries?type=page"):
            tags: list[Any] = []
            for n in range(3):
                answer, data = raw(address, **{"Accept-Encoding": "gzip"})
                assert (f"Title {n - 1}" if n else "Lamps").encode() in gzip.decompress(data)
                tags.append(answer.headers["etag"])
                house.do(
                    "wim",
                    lambda a, m=n: entries.save(
                        a, uuid, "en", {"title": f"Title {m}"}, entries.base_now(a, uuid, "en")
                    ),
                )
                _sign(house, uuid)
            assert len(set(tags)) == 3
            house.do(
                "wim",
                lambda a: entries.save(a, uuid, "en", {"title": "Lamps"}, entries.base_now(a, uuid, "en")),
            )
            _sign(house, uuid)


def _sign(house: House, uuid: str) -> None:
    from hawthorn.operations.release import review

    house.do("wim", lambda a: review.submit(a, uuid, "en"))
    number = house.revision(uuid)["number"]
    house.do("oda", lambda a: review.sign_off(a, uuid, "en", number))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en")]))
