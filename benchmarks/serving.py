"""What is read over HTTP: a released entry against a bare ASGI callable, by one process and by two; drafts of two workers against one; and the first page of the
entries list against a route of the framework that sends the same bytes."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx

from benchmarks import floor, library, made
from benchmarks.figures import Figure, copied, free_port, interleaved, load, service, serving
from benchmarks.figures import floor as served_floor
from hawthorn.core.access import Identity
from hawthorn.operations.access import people as act_people
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import reading, rendering
from hawthorn.operations.runtime.act import Act, Desk
from hawthorn.store import people

ROUNDS = 5


def figure_reads(folder: Path) -> dict[str, Figure]:
    """A released entry over HTTP, its 304, and what a second process adds."""
    path, kept = folder / "read.sqlite", folder / "floor.sqlite"
    desk = made.open_desk(path)
    pages = made.pages(desk, 2000)
    made.plan(desk, pages[:200], desk.clock.now())
    scheduler = made.scheduler(desk)
    desk.write(scheduler, lambda _: None)
    uuid = pages[100][2]
    view = desk.read(scheduler, lambda v: rendering.render(v, uuid, "en", reading.Place()))
    desk.db.close()
    floor.stored(kept, [(f"{page[2]} en", view.etag, view.data) for page in pages])
    target = f"/read/entries/{uuid}?locale=en"
    one, other, bare = free_port(), free_port(), free_port()
    served = [(service(path, port), port, target) for port in (one, other)]
    with serving(*served, (served_floor(kept, bare), bare, target)):
        plain = {"Accept-Encoding": "identity"}
        answers = [
            httpx.get(f"http://127.0.0.1:{port}{target}", headers=plain) for port in (one, other, bare)
        ]
        assert len({(a.headers["etag"], a.content) for a in answers}) == 1
        has = {"If-None-Match": answers[0].headers["etag"]}
        whole = interleaved(lambda: load(one, path=target), lambda: load(bare, path=target), ROUNDS)
        same = interleaved(
            lambda: load(one, path=target, headers=has), lambda: load(bare, path=target, headers=has), ROUNDS
        )
        both = interleaved(lambda: load(one, other, path=target), lambda: load(one, path=target), ROUNDS)
    return {
        name: Figure(ours, least, ours / least, goal, "higher", "requests/s")
        for name, (ours, least), goal in (
            ("read a released entry over HTTP, against bare ASGI", whole, 0.9),
            ("the same with If-None-Match (304)", same, 0.9),
            ("the same by two processes, against one", both, 1.7),
        )
    }


def figure_lists(folder: Path, count: int = 2000) -> dict[str, Figure]:
    """The first page of the entries list, asked again, and asked after something was changed."""
    path, kept = folder / "list.sqlite", folder / "floor.sqlite"
    desk = library.built(path, count)
    wim = _managing(desk)
    _, secret = desk.write(
        wim,
        lambda act: act_people.issue_key(act, "bench", "managing-editor", "program", ["draft", "release"]),
    )
    target, port, bare = "/api/entries?limit=50", free_port(), free_port()
    key = {"Authorization": f"Bearer {secret}"}
    with (
        serving((service(path, port), port, "/api/health")),
        httpx.Client(base_url=f"http://127.0.0.1:{port}", headers=key) as ours,
    ):
        page = ours.get(target).raise_for_status()
        assert len(page.json()["items"]) == 50
        floor.stored(kept, [("page 50", '""', page.content)])
        with serving((served_floor(kept, bare, "routed"), bare, target)):
            again = interleaved(
                lambda: 1000 / load(port, path=target, headers=key, connections=1),
                lambda: 1000 / load(bare, path=target, headers=key, connections=1),
                ROUNDS,
            )
            with httpx.Client(base_url=f"http://127.0.0.1:{bare}", headers=key) as least:
                changed = interleaved(
                    lambda: _after(ours, target, lambda: _change(desk, wim)),
                    lambda: _after(least, target, lambda: None),
                    ROUNDS,
                )
    desk.db.close()
    return {
        "first page of the entries list, against a bare route": Figure(
            *again, again[0] / again[1], 3.0, "lower", "ms"
        ),
        "the same each time after a change": Figure(*changed, changed[0] / changed[1], 6.0, "lower", "ms"),
    }


def figure_workers(folder: Path, count: int = 2000) -> dict[str, Figure]:
    """What a second worker adds for those who read, and whether those who write lose by it."""
    alone = folder / "one.sqlite"
    desk = library.built(alone, count)
    wim = _managing(desk)
    _, secret = desk.write(
        wim,
        lambda act: act_people.issue_key(act, "bench", "managing-editor", "program", ["draft", "release"]),
    )
    desk.db.close()
    both = copied(alone, folder / "two.sqlite")
    one, two = free_port(), free_port()
    key = {"Authorization": f"Bearer {secret}"}
    with serving(
        (service(alone, one), one, "/api/health"),
        ([*service(both, two), "--workers", "2"], two, "/api/health"),
    ):
        _until_both(two)
        found = httpx.get(f"http://127.0.0.1:{one}/api/entries?limit={_WRITERS}", headers=key, timeout=30)
        ids = [item["id"] for item in found.raise_for_status().json()["items"]]
        target = f"/api/entries/{ids[0]}/en"
        reads = interleaved(
            lambda: load(two, path=target, headers=key), lambda: load(one, path=target, headers=key), ROUNDS
        )
        writes = interleaved(lambda: _saved(two, ids, key), lambda: _saved(one, ids, key), ROUNDS)
    return {
        "drafts read from two workers, against one": Figure(
            *reads, reads[0] / reads[1], 1.7, "higher", "requests/s"
        ),
        "drafts saved by two workers, against one": Figure(
            *writes, writes[0] / writes[1], 0.95, "higher", "saves/s"
        ),
    }


_WRITERS = 4


def _until_both(port: int) -> None:
    until = time.monotonic() + 60
    while "hawthorn_workers 2.0" not in httpx.get(f"http://127.0.0.1:{port}/metrics", timeout=30).text:
        if time.monotonic() > until:
            raise RuntimeError("the second worker did not begin")
        time.sleep(0.1)


def _saved(port: int, ids: list[str], key: dict[str, str], each: int = 25) -> float:
    """Saves a second of a few who write at once, each in a draft of their own."""

    def write(uuid: str) -> None:
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", headers=key, timeout=60) as http:
            at = f"/api/entries/{uuid}/en"
            tag = http.get(at).raise_for_status().headers["etag"]
            for n in range(each):
                fields = {"title": f"Tide {n} of {time.time_ns()}"}
                tag = (
                    http.patch(at, json={"fields": fields}, headers={"If-Match": tag})
                    .raise_for_status()
                    .headers["etag"]
                )

    start = time.perf_counter()
    with ThreadPoolExecutor(len(ids)) as pool:
        list(pool.map(write, ids))
    return each * len(ids) / (time.perf_counter() - start)


def _after(http: httpx.Client, target: str, change: Callable[[], None], times: int = 40) -> float:
    """The median time of a request, in milliseconds, with something done before each."""
    took = []
    for _ in range(times):
        change()
        start = time.perf_counter()
        http.get(target).raise_for_status()
        took.append((time.perf_counter() - start) * 1000)
    return statistics.median(took)


def _managing(desk: Desk) -> Identity:
    with desk.db.read() as conn:
        wim = people.by_handle(conn, "wim")
        assert wim is not None
        return permission.identity_of(conn, wim.id)


def _change(desk: Desk, wim: Identity) -> None:
    """A save of one entry, as somebody beside would make it."""

    def save(act: Act) -> None:
        entry = act.conn.execute("SELECT * FROM entry WHERE type <> 'topic' LIMIT 1").fetchone()
        base = entries.current_base(act, entry["id"], entry["source_locale"])
        fields = {"title": f"Changed {act.now}"}
        entries.save(act, entry["uuid"], entry["source_locale"], fields, base)

    desk.write(wim, save)
