"""What growth costs: readers of a copy, a change that very many pages show, memory and the map of a site at a million entries, a cache in front."""

from __future__ import annotations

import os
import shutil
import sqlite3
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx

from benchmarks import listing, made
from benchmarks.figures import Figure, free_port, interleaved, load, service, serving, started
from hawthorn.operations.access import permission
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import page_addresses, reading, rendering
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act

ROUNDS = 9
PICTURE: dict[str, Any] = {
    "name": "shared",
    "label": "Shared",
    "workflow": "short",
    "fields": [{"name": "title", "kind": "line", "required": True}],
}
LEAF: dict[str, Any] = {
    "name": "leaf",
    "label": "Leaf",
    "workflow": "short",
    "fields": [
        {"name": "title", "kind": "line", "required": True},
        {"name": "body", "kind": "rich"},
        {"name": "shows", "kind": "reference", "types": ["shared"], "shared": True},
    ],
}


def figure_copies(folder: Path) -> dict[str, Figure]:
    """A kept entry and a list, read from a copy against the service that writes; both under way."""
    path = folder / "read.sqlite"
    desk = made.open_desk(path)
    pages = made.pages(desk, 2000)
    made.plan(desk, pages[:200], desk.clock.now())
    desk.write(made.scheduler(desk), lambda _: None)
    uuid = pages[100][2]
    desk.db.close()
    one, other = free_port(), free_port()
    replica = (folder / "replica").as_uri()
    entry, some = f"/read/entries/{uuid}?locale=en", "/read/entries?type=page&locale=en&limit=50"
    writer = [*service(path, one), "--replica", replica]
    copy = [
        *service(folder / "copy.sqlite", other),
        "--follow",
        replica,
        "--writer",
        f"http://127.0.0.1:{one}",
    ]
    out: dict[str, Figure] = {}
    with serving((writer, one, entry)):
        for target in (entry, some):
            # Rendered and kept once, before the copy is made.
            httpx.get(f"http://127.0.0.1:{one}{target}").raise_for_status()
        time.sleep(2)
        with serving((copy, other, entry)):
            for name, target in (("a released entry", entry), ("a list of fifty", some)):
                ours, least = interleaved(
                    lambda p=target: load(other, path=p),
                    lambda p=target: load(one, path=p),
                    ROUNDS,  # type: ignore[misc]
                )
                out[f"{name} from a copy ÷ from the service that writes"] = Figure(
                    ours, least, ours / least, 0.9, "higher", "requests/s"
                )
    return out


def figure_dependents(folder: Path, many: int = 100_000) -> dict[str, Figure]:
    """A change of what so many kept bodies show: its release against one that nothing shows, and the first read after it against a plain one."""
    desk = made.open_desk(folder / "shown.sqlite")
    wim = made.somebody(desk, "wim")
    for kind in (PICTURE, LEAF):
        desk.write(wim, lambda act, k=kind: changing.define_type(act, k))  # type: ignore[misc]

    def out(act: Act, type: str, **values: Any) -> str:
        uuid = entries.start(act, type, "en", values)
        dispatches.make(act, [MoveRequest(uuid, "en")], with_needs=True)
        return uuid

    shown, alone = (desk.write(wim, lambda act, t=t: out(act, "shared", title=t)) for t in ("Shown", "Alone"))  # type: ignore[misc]
    leaf = desk.write(wim, lambda act: out(act, "leaf", title="A leaf", body="<p>Words.</p>", shows=shown))
    plain = desk.write(wim, lambda act: out(act, "leaf", title="Another", body="<p>Words.</p>"))
    # So many bodies beside it that depend on the same; they are of entries that hold nothing else.
    target = desk.read(wim, lambda view: permission.find(view, shown).id)
    desk.db.write(lambda conn: _depending(conn, target, many))
    number = 0

    def change(uuid: str) -> float:
        nonlocal number
        number += 1
        begun = time.perf_counter()
        for _ in range(10):
            number += 1
            title = f"Title {number}"

            def do(act: Act, title: str = title) -> None:
                entries.save(act, uuid, "en", {"title": title}, entries.base_now(act, uuid, "en"))
                dispatches.make(act, [MoveRequest(uuid, "en")])

            desk.write(wim, do)
        return (time.perf_counter() - begun) * 100

    def first(uuid: str) -> float:
        begun = time.perf_counter()
        for _ in range(20):
            desk.read(wim, lambda view: rendering.render(view, uuid, "en", reading.Place()))
        return (time.perf_counter() - begun) * 50

    saves = interleaved(lambda: change(shown), lambda: change(alone), ROUNDS)
    reads = interleaved(lambda: first(leaf), lambda: first(plain), ROUNDS)
    desk.db.close()
    return {
        f"release what {many:,} bodies show ÷ what none does": Figure(
            *saves, saves[0] / saves[1], 1.1, "lower", "ms"
        ),
        "the first read after it ÷ a plain one": Figure(*reads, reads[0] / reads[1], 3, "lower", "ms"),
    }


def _depending(conn: sqlite3.Connection, target: int, many: int) -> None:
    kind = conn.execute("SELECT max(id) FROM entry").fetchone()[0]
    actor = conn.execute("SELECT actor FROM entry LIMIT 1").fetchone()[0]
    conn.executemany(
        "INSERT INTO entry (id, uuid, type, source_locale, created_at, actor) VALUES (?, ?, 'leaf', 'en', 1, ?)",
        [(kind + n, f"00000000-0000-7000-8000-{n:012}", actor) for n in range(1, many + 1)],
    )
    body = conn.execute("SELECT coalesce(max(id), 0) FROM body").fetchone()[0]
    conn.executemany(
        "INSERT INTO body (id, entry, wanted_locale, stage, since, seq, etag, bytes, ends, groups) VALUES (?, ?, 'en', 2, 1, 1, '\"x\"', CAST('{}' AS BLOB), ?, '')",
        [(body + n, kind + n, 1 << 62) for n in range(1, many + 1)],
    )
    conn.executemany("INSERT INTO dep VALUES (?, ?, 'out')", [(body + n, target) for n in range(1, many + 1)])


def figure_million(folder: Path, few: int = 10_000, many: int = 1_000_000) -> dict[str, Figure]:
    """The memory of a service that has answered readers, and that of one that has given the whole map of a site, at both sizes."""
    private: dict[tuple[int, str], float] = {}
    for count in (few, many):
        path = folder / f"{count}.sqlite"
        desk, newest = listing.built(path, count)
        sites = [{"name": "live", "label": "x", "addresses": {"*": "https://museum.example/{path}"}}]
        desk.write(made.somebody(desk, "wim"), lambda act, s=sites: page_addresses.define(act, s))  # type: ignore[misc]
        desk.db.close()
        port = free_port()
        with _process(service(path, port), port) as process:
            with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=120) as http:
                for n in range(300):
                    for asked in (
                        f"/read/entries/{newest[n % len(newest)]}?locale=en",
                        f"/read/entries?type=bulletin&limit=20&where.hall=south&cursor=&sort=day&fields=title&include=&id={newest[n % 90]}",
                        f"/read/pages/en/bulletin-{(n * 7919) % count}",
                        "/read/entries?type=bulletin&limit=50",
                    ):
                        http.get(asked).raise_for_status()
                private[count, "reads"] = _private(process.pid)
                index = http.get("/feeds/live/sitemap.xml").raise_for_status().text
                for part in range(index.count("<sitemap>")):
                    http.get(f"/feeds/live/sitemap-{part}.xml").raise_for_status()
                private[count, "map"] = _private(process.pid)
    return {
        f"memory of a process that reads, {many:,} entries ÷ {few:,}": _growth(private, many, few, "reads"),
        f"memory after the whole map of a site, {many:,} entries ÷ {few:,}": _growth(
            private, many, few, "map"
        ),
    }


def _growth(private: dict[tuple[int, str], float], many: int, few: int, what: str) -> Figure:
    ours, least = private[many, what], private[few, what]
    return Figure(ours, least, ours / least, 1.3, "lower", "MB")


@contextmanager
def _process(command: list[str], port: int) -> Iterator[subprocess.Popen[bytes]]:
    process = started(command, port, "/api/health")
    try:
        yield process
    finally:
        process.terminate()
        process.wait(60)


def _private(pid: int) -> float:
    """Megabytes that a process has to itself: mapped files and what is shared are not its own."""
    kept = 0
    for line in Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines():
        if line.startswith(("Private_Dirty:", "Private_Clean:")):
            kept += int(line.split()[1])
    mapped = sum(
        int(part.split("Private_Clean:")[1].split()[0])
        for part in Path(f"/proc/{pid}/smaps").read_text().split("VmFlags:")
        if ".sqlite" in part and "Private_Clean:" in part
    )
    return (kept - mapped) / 1024


def figure_cached(folder: Path) -> dict[str, Figure]:
    """A released entry through nginx with a warm cache, as `deploy/nginx.conf` sets it up, against nginx sending the same bytes from a file."""
    nginx = shutil.which("nginx", path=f"{os.environ.get('PATH', '')}:/usr/sbin")
    if nginx is None:
        print("nginx is not installed: its figure is left out", file=sys.stderr)
        return {}
    path = folder / "read.sqlite"
    desk = made.open_desk(path)
    pages = made.pages(desk, 100)
    made.plan(desk, pages[:50], desk.clock.now())
    desk.write(made.scheduler(desk), lambda _: None)
    desk.db.close()
    port, front, plain = free_port(), free_port(), free_port()
    target = f"/read/entries/{pages[10][2]}?locale=en"
    own = f"{'user root;' if os.geteuid() == 0 else ''}\nworker_processes 1;\ndaemon off;"
    text = (Path(__file__).parents[1] / "deploy" / "nginx.conf").read_text()
    text = text.replace("127.0.0.1:8400", f"127.0.0.1:{port}").replace("127.0.0.1:8480", f"127.0.0.1:{front}")
    text = text.replace("worker_processes auto;", own)
    files = folder / "files"
    files.mkdir()
    still = f"    server {{ listen 127.0.0.1:{plain}; root {files}; default_type application/json; }}\n"
    text = text.replace("    server {\n        listen", f"{still}    server {{\n        listen", 1)
    (folder / "ours.conf").write_text(text)
    os.environ["HAWTHORN_SHARED_AGE"] = "3600"
    command = [nginx, "-p", str(folder), "-c", str(folder / "ours.conf"), "-e", str(folder / "error.log")]
    try:
        with serving((service(path, port), port, target), (command, front, target)):
            answer = httpx.get(f"http://127.0.0.1:{front}{target}", headers={"Accept-Encoding": "identity"})
            (files / "entry.json").write_bytes(answer.raise_for_status().content)
            ours, least = interleaved(
                lambda: load(front, path=target), lambda: load(plain, path="/entry.json"), ROUNDS
            )
            again = httpx.get(f"http://127.0.0.1:{front}{target}")
            assert again.headers["x-cache"] == "HIT", again.headers
    finally:
        del os.environ["HAWTHORN_SHARED_AGE"]
    return {
        "a released entry through a warm nginx ÷ nginx sending a file": Figure(
            ours, least, ours / least, 0.8, "higher", "requests/s"
        )
    }
