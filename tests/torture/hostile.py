"""Trials of what the outside world may send and ask: costly and odd input, and readers with rights that chance made."""

from __future__ import annotations

import json
import random
import socket
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx

from tests.service.made import House, serving
from tests.service.test_limits import HOSTILE, token
from tests.service.test_odd_input import CALLS, put
from tests.service.test_who_reads import KEYS, furnished, no_less, no_more

LONGEST = 20.0
"""Seconds in which anything is answered, on a machine that does much else."""
Answer = httpx.Response | None


def hostile(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """Whatever is sent is answered without a fault, and the service is well afterwards."""
    from tests.torture.promises import expect

    house = House(folder)
    page = house.page("Lamp")
    mine = token(house, "ida")
    counted: Counter[str] = Counter()
    until = time.monotonic() + seconds
    with serving(house) as (_, url), httpx.Client(base_url=url, timeout=60) as http:
        http.headers["Authorization"] = f"Bearer {mine}"
        names = {"page": page, "sha": "0" * 64}
        while not counted or time.monotonic() < until:
            name, send = rng.choice([*_INPUTS.items()])
            start = time.monotonic()
            answer = send(http, names, rng)
            took = time.monotonic() - start
            if answer is not None:
                expect(answer.status_code < 500, f"{name}: {answer.status_code} {answer.text[:500]}")
            expect(took < LONGEST, f"{name} took {took:.1f} seconds")
            expect(http.get("/api/health").json()["ok"], f"the service is not well after: {name}")
            counted[name] += 1
    house.close()
    return counted


def _body(http: httpx.Client, names: dict[str, str], rng: random.Random) -> Answer:
    body, _ = rng.choice([*HOSTILE.values()])
    at = rng.choice(["/api/entries", f"/api/entries/{names['page']}/en", "/api/dispatches", "/api/session"])
    kind = {"Content-Type": "application/json", "If-Match": '"1-1"'}
    return http.request(rng.choice(["POST", "PATCH", "PUT"]), at, content=body, headers=kind)


def _odd(http: httpx.Client, names: dict[str, str], rng: random.Random) -> Answer:
    method, path, more = rng.choice(CALLS)
    more = put(more, names)
    if "content" in more:
        more["headers"] = {"Content-Type": "application/json"}
    return http.request(method, put(path, names), **more)


def _text(http: httpx.Client, names: dict[str, str], rng: random.Random) -> Answer:
    words = [
        rng.choice(["lamp", "a", "海", "منارة", "&amp;", "<b>x</b>", "\u202e"])
        for _ in range(rng.randint(1, 5_000))
    ]
    wrap: list[Callable[[str], str]] = [
        lambda t: f"<p>{t}</p>",
        lambda t: "<blockquote>" * rng.randint(1, 5_000) + t,
        lambda t: "<p>x</p>" * rng.randint(1, 6_000) + t,
        lambda t: "<ul><li>" * rng.randint(1, 2_000) + t,
        lambda t: "<" * rng.randint(1, 20_000) + t,
    ]
    fields = {"title": "Long", "body": rng.choice(wrap)(" ".join(words))}
    return http.post("/api/entries", json={"type": "page", "locale": "en", "fields": fields})


def _both_sides(http: httpx.Client, names: dict[str, str], rng: random.Random) -> Answer:
    at = f"/api/entries/{names['page']}/en"
    base = [rng.choice(["lamp", "rope", "tide", "quay"]) for _ in range(rng.randint(1, 20_000))]
    tag = http.get(at).headers["etag"]

    def save(words: list[str], tag: str) -> httpx.Response:
        fields = {"body": f"<p>{' '.join(words)}</p>"}
        return http.patch(at, json={"fields": fields}, headers={"If-Match": tag})

    first = save(base, tag)
    if "etag" not in first.headers:
        return first
    for _ in range(2):
        answer = save(
            [w if rng.random() > 0.3 else str(rng.randrange(99)) for w in base], first.headers["etag"]
        )
    return answer


def _guesses(http: httpx.Client, names: dict[str, str], rng: random.Random) -> Answer:
    who = rng.choice(["ida", "wim", "nobody", "\x00", "x" * 4_000, "ＩＤＡ"])
    return httpx.post(
        f"{http.base_url}/api/session", json={"handle": who, "password": "x" * rng.randint(1, 9_000)}
    )


def _file(http: httpx.Client, names: dict[str, str], rng: random.Random) -> Answer:
    starts = [b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff\xe0", b"RIFF\xff\xff\xff\xffWAVE", b"fLaC", b"<svg", b"%PDF-1.7", b"GIF89a",
              b"\x00\x00\x00\x18ftypmp42", b"\x1a\x45\xdf\xa3\x42\x82\x84webm", b"WEBVTT\n\n", b"PK\x03\x04"]  # fmt: skip
    data = rng.choice(starts) + rng.randbytes(rng.randint(0, 200_000))
    return http.post(
        "/api/files", files={"file": (rng.choice(["a.png", "a.mp4", "../\x00a", "", "a" * 999]), data)}
    )


def _bytes(http: httpx.Client, names: dict[str, str], rng: random.Random) -> Answer:
    """What is no HTTP, or only half of it; the line is left at once."""
    begun = rng.choice([b"", b"GET / HT", b"\r\n" * 99, rng.randbytes(999), b"GET /api/health HTTP/1.1\r\nX: " + b"y" * 90_000,
                        b"POST /api/entries HTTP/1.1\r\nHost: x\r\nContent-Length: 99999\r\n\r\n{"])  # fmt: skip
    with socket.create_connection((http.base_url.host, http.base_url.port or 80), timeout=20) as line:
        line.sendall(begun)
    return None


def _json(http: httpx.Client, names: dict[str, str], rng: random.Random) -> Answer:
    def some(deep: int) -> Any:
        kinds: list[Callable[[], Any]] = [
            lambda: rng.randint(-(10**25), 10**25),
            lambda: rng.choice([None, True, 1e308, -0.0, "", "\x00", "x" * 999, names["page"]]),
        ]
        if deep:
            kinds.append(lambda: [some(deep - 1) for _ in range(rng.randint(0, 5))])
            kinds.append(
                lambda: {rng.choice(["type", "fields", "moves", "", "a"]): some(deep - 1) for _ in range(3)}
            )
        return rng.choice(kinds)()

    at = rng.choice(
        ["/api/entries", "/api/dispatches", "/api/types", "/api/workflows", "/api/lists", "/api/roles"]
    )
    kind = {"Content-Type": "application/json"}
    return http.request(rng.choice(["POST", "PUT"]), at, content=json.dumps(some(6)), headers=kind)


_INPUTS: dict[str, Callable[[httpx.Client, dict[str, str], random.Random], Answer]] = {
    "hostile bodies": _body,
    "odd calls": _odd,
    "long texts": _text,
    "two at one text": _both_sides,
    "guesses": _guesses,
    "odd files": _file,
    "odd bytes": _bytes,
    "odd values": _json,
}


def readers(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """People and keys with grants that chance made are answered what they may read: nothing more, nothing less."""
    counted: Counter[str] = Counter()
    until = time.monotonic() + seconds
    round = 0
    while not counted or time.monotonic() < until:
        grants = {f"reader{n}": _grant(rng) for n in range(4)}
        folder.joinpath(str(round)).mkdir()
        world = furnished(House(folder / str(round)), grants, KEYS)
        with serving(world.house) as (_, world.url):
            for who in grants:
                try:
                    counted["answers"] += no_more(world, who)
                    no_less(world, who)
                except AssertionError as error:
                    from tests.torture.promises import Broken

                    raise Broken(f"with {grants[who]}: {str(error)[:2000]}") from error
                counted["readers"] += 1
                if time.monotonic() > until:
                    break
        world.house.close()
        round += 1
    return counted


def _grant(rng: random.Random) -> dict[str, Any]:
    def some(words: list[str]) -> list[str]:
        return rng.sample(words, rng.randint(1, len(words)))

    limits: dict[str, Callable[[], Any]] = {
        "types": lambda: some(["notice", "talk", "part"]),
        "locales": lambda: some(["en", "fr", "de"]),
        "stages": lambda: some(["draft", "review", "release"]),
        "sections": lambda: some(["quay", "shed"]),
        "own": lambda: True,
    }
    return {name: limits[name]() for name in rng.sample([*limits], rng.randint(0, 3))}
