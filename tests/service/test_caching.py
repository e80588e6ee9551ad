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
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.service import conditional, encoding
from tests.service.made import House, serving

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
