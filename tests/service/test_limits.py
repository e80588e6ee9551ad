"""What one request may bring: hostile bodies are refused before anything is built of them, and the service goes on."""

from __future__ import annotations

import asyncio
import json
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.client import AsyncClient, Client
from hawthorn.client.errors import Refusal
from hawthorn.operations.access import logging_in
from hawthorn.service import heads, limits
from hawthorn.store import people as people_store
from tests.service.made import House, serving


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def token(house: House, handle: str = "wim") -> str:
    with house.desk.db.read() as conn:
        row = people_store.by_handle(conn, handle)
    assert row is not None
    return house.do("ida", lambda a: logging_in.log_in(a, row))


def test_a_file_for_a_memory_may_be_longer_than_a_text_and_is_sent_as_it_is_read(
    house: House, tmp_path: Path
) -> None:
    house.speaks(fr="French")
    lamp = "<tu><tuv xml:lang='en'><seg>Lamp {n}</seg></tuv><tuv xml:lang='fr'><seg>{x}</seg></tuv></tu>"
    units = "".join(lamp.format(n=n, x="Lampe " * 900) for n in range(500))
    file = tmp_path / "long.tmx"
    file.write_text(f"<tmx version='1.4'><header srclang='en'/><body>{units}</body></tmx>")
    assert file.stat().st_size > 2_500_000
    with serving(house, largest_import=3_000_000) as (_, url), Client(url, token(house, "ida")) as ida:
        memory = ida.add_memory("Long").id
        found = ida.import_memory(memory, file)
        assert (found.read, found.added, found.state) == (500, 500, "done")

        async def again() -> int:
            async with AsyncClient(url, token(house, "ida")) as later:
                return (await later.import_memory(memory, file)).known

        assert asyncio.run(again()) == 500
        file.write_bytes(file.read_bytes() + b" " * 500_000)
        with pytest.raises(Refusal, match="3,000,000"):
            ida.import_memory(memory, file)
    with serving(house) as (_, url):
        # What is no file there stays as short as anywhere.
        for path, kind in (("file", "application/json"), ("merge", "application/octet-stream")):
            headers = {"Authorization": f"Bearer {token(house, 'ida')}", "Content-Type": kind}
            sent = httpx.put(f"{url}/api/memories/{memory}/{path}", content=b" " * 2_100_000, headers=headers)
            assert sent.status_code == 413


HOSTILE: dict[str, tuple[bytes, int]] = {
    "longer than may be": (b'{"a": "' + b"x" * 2_100_000 + b'"}', 413),
    "very many empty lists": (b"[" + b"[]," * 600_000 + b"1]", 422),
    "very deep": (b"[" * 100_000, 422),
    "deep objects": (b'{"a":' * 3_000 + b"1" + b"}" * 3_000, 422),
    "many members": (b"{" + b",".join(b'"%d":1' % n for n in range(100_000)) + b"}", 422),
    "half a text": (b'{"fields": {"title": "', 422),
    "no text": (b"\xff\xfe\x00", 422),
    "brackets in a string": (json.dumps({"fields": {"title": "[" * 5_000}}).encode(), 422),
}


@pytest.mark.parametrize("name", HOSTILE)
def test_a_hostile_body_is_refused_and_others_are_served(
    house: House, name: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    body, status = HOSTILE[name]
    built: list[int] = []
    loads = json.loads
    if name not in ("half a text", "no text", "brackets in a string"):
        monkeypatch.setattr(
            json, "loads", lambda *a, **k: (len(a[0]) > 10_000 and built.append(len(a[0]))) or loads(*a, **k)
        )
    page = house.page("Lamp")
    mine = token(house)
    headers = {"Authorization": f"Bearer {mine}", "Content-Type": "application/json", "If-Match": '"1-2"'}
    with serving(house) as (_, url), httpx.Client(base_url=url) as http:
        built.clear()
        answer = http.patch(f"/api/entries/{page}/en", content=body, headers=headers)
        assert answer.status_code == status, answer.text[:300]
        assert answer.headers["content-type"] == "application/problem+json"
        assert answer.json()["remedy"]
        assert len(answer.content) < 3_000
        assert http.get("/api/health").status_code == 200
    assert built == [], "nothing was built of the body"


def test_nobody_sends_much_before_it_is_known_who_they_are(house: House) -> None:
    with serving(house) as (_, url), httpx.Client(base_url=url) as http:
        body = json.dumps({"fields": {"title": "x" * 100_000}}).encode()
        kind = {"Content-Type": "application/json"}
        assert http.post("/api/entries", content=body, headers=kind).status_code == 401
        wrong = {**kind, "Authorization": "Bearer hw_nothing"}
        assert http.post("/api/entries", content=body, headers=wrong).status_code == 401
        assert http.post("/api/session", content=body, headers=kind).status_code == 413
        assert http.post("/api/files", content=b"x" * 100_000).status_code == 401
        parts = iter([b"x" * 60_000] * 3)
        assert http.post("/api/entries", content=parts, headers=kind).status_code == 401
        parts = iter([b"x" * 60_000] * 60)
        mine = {**kind, "Authorization": f"Bearer {token(house)}"}
        assert http.post("/api/entries", content=parts, headers=mine).status_code == 413


def test_a_request_of_which_the_rest_does_not_come_ends(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(limits, "PATIENCE", 0.2)
    with serving(house) as (_, url):
        host, port = url.removeprefix("http://").split(":")
        with socket.create_connection((host, int(port)), timeout=20) as line:
            line.sendall(
                b"POST /api/session HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 50\r\n\r\n{"
            )
            answer = b""
            while part := line.recv(4096):
                answer += part
        assert answer.startswith(b"HTTP/1.1 408")
        assert b"did not come in time" in answer


def said(line: socket.socket) -> bytes:
    answer = b""
    while part := line.recv(4096):
        answer += part
    return answer


def test_connections_that_never_ask_anything_end(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(heads, "PATIENCE", 0.3)
    whole = b"GET /api/health HTTP/1.1\r\nHost: x\r\n\r\n"
    with serving(house) as (_, url):
        host, port = url.removeprefix("http://").split(":")
        for begun in (b"", b"GET /api/hea", b"\r\n\r\n", whole + b"GET /api/health HTTP/1.1\r\nX: "):
            with socket.create_connection((host, int(port)), timeout=20) as line:
                line.sendall(begun)
                answer = said(line)
            assert answer.count(b"HTTP/1.1 200") == begun.count(b"\r\nHost")
            assert b"HTTP/1.1 408" in answer
        with socket.create_connection((host, int(port)), timeout=20) as line, suppress(OSError):
            line.sendall(b"GET /api/health HTTP/1.1\r\nX: ")
            for _ in range(40):
                line.sendall(b"x" * 4096)
            assert b"HTTP/1.1 431" in said(line)
        # Whoever sends slowly what may be long, or many requests over one connection, is not cut off.
        with httpx.Client(base_url=url) as http:
            assert [http.get("/api/health").status_code for _ in range(5)] == [200] * 5
            mine = {"Authorization": f"Bearer {token(house)}"}

            def slowly() -> Iterator[bytes]:
                for part in (b'{"type": "page", ', b'"locale": "en", "fields": ', b'{"title": "Slow"}}'):
                    time.sleep(0.25)
                    yield part

            kind = {"Content-Type": "application/json", **mine}
            assert http.post("/api/entries", content=slowly(), headers=kind).status_code == 201


def test_a_long_text_within_bounds_is_saved(house: House) -> None:
    page = house.page("Lamp")
    text = "<p>" + "words and more words " * 11_000 + "</p>"
    with serving(house) as (_, url), httpx.Client(base_url=url, timeout=60) as http:
        http.headers["Authorization"] = f"Bearer {token(house)}"
        etag = http.get(f"/api/entries/{page}/en").headers["etag"]
        saved = http.patch(
            f"/api/entries/{page}/en", json={"fields": {"body": text}}, headers={"If-Match": etag}
        )
        assert saved.status_code == 200, saved.text[:300]
        deep = "<blockquote>" * 20_000
        etag = saved.headers["etag"]
        refused = http.patch(
            f"/api/entries/{page}/en", json={"fields": {"body": deep}}, headers={"If-Match": etag}
        )
        assert refused.status_code == 422
        assert "20,000 deep" in refused.json()["detail"]


def test_what_holds_up_one_request_holds_up_no_other(house: House) -> None:
    """Many hostile bodies at once: each is refused, and the service answers meanwhile."""
    answers: list[int] = []
    mine = token(house)

    def send(url: str, body: bytes) -> None:
        headers = {"Authorization": f"Bearer {mine}", "Content-Type": "application/json"}
        answers.append(
            httpx.post(f"{url}/api/entries", content=body, headers=headers, timeout=60).status_code
        )

    with serving(house) as (_, url):
        bodies: list[Any] = [body for body, _ in HOSTILE.values()]
        threads = [threading.Thread(target=send, args=(url, body)) for body in bodies]
        for thread in threads:
            thread.start()
        for _ in range(20):
            assert httpx.get(f"{url}/api/health", timeout=60).status_code == 200
        for thread in threads:
            thread.join(60)
    assert sorted(answers) == sorted([413, *[422] * (len(bodies) - 1)])
