"""Lists that sites read: over HTTP against a route of the framework that sends the same bytes from one SELECT, and at a million released entries
against ten thousand."""

from __future__ import annotations

import json
import random
import sqlite3
import statistics
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx

from benchmarks import floor, made
from benchmarks.figures import Figure, free_port, interleaved, load, service, serving
from benchmarks.figures import floor as served_floor
from hawthorn.core import contenttypes, revision
from hawthorn.core.access import Identity
from hawthorn.operations.access import permission
from hawthorn.operations.content import changing
from hawthorn.operations.delivery import reading, relations
from hawthorn.operations.delivery.reading_lists import Wish
from hawthorn.operations.runtime.act import Desk, View, new_uuid
from hawthorn.operations.search import indexing
from hawthorn.store import bodies, definitions, events, people

ROUNDS = 5
KIND: dict[str, Any] = {
    "name": "bulletin",
    "label": "Bulletin",
    "workflow": "short",
    "fields": [
        {"name": "title", "kind": "line", "required": True, "filter": True},
        {"name": "slug", "kind": "slug", "follows": "title", "required": True},
        {"name": "body", "kind": "rich"},
        {"name": "rare", "kind": "tags", "filter": True},
        {"name": "hall", "kind": "choice", "choices": ["north", "south", "east"], "filter": True},
        {"name": "day", "kind": "date", "filter": True},
        {"name": "about", "kind": "reference", "types": ["bulletin"], "filter": True},
    ],
}
NOBODY = Identity(0, "program", "", "", ())
DAY = 86_400_000_000
_STEP = 20_000
QUESTIONS: dict[str, Wish] = {
    "the latest twenty": Wish(("bulletin",), "en"),
    "of every type": Wish((), "en"),
    "by a field with few values, the latest": Wish(("bulletin",), "en", (("where.hall", "north"),)),
    "by a rare tag": Wish(("bulletin",), "en", (("where.rare", "rare-7"),)),
    "by words": Wish(("bulletin",), "en", (("where.title.contains", "beacon"),)),
    "by a period, in the order of a field": Wish(
        ("bulletin",), "en", (("where.day.from", "2026-06-01"),), "day"
    ),
    "in the order of a field": Wish(("bulletin",), "en", (), "-day"),
    "by two conditions": Wish(("bulletin",), "en", (("where.hall", "south"), ("where.date.last", "P3650D"))),
    "with what they relate to": Wish(("bulletin",), "en", include=("about",)),
}


def built(path: Path, count: int, seed: int = 5) -> tuple[Desk, list[str]]:
    """A file with so many released bulletins, the newest last; written past the operations. Returns the UUIDs of the newest hundred."""
    desk = made.open_desk(path)
    with desk.db.read() as conn:
        row = people.by_handle(conn, "wim")
        assert row is not None
        wim = permission.identity_of(conn, row.id)
    desk.write(wim, lambda act: changing.define_type(act, KIND))
    begins = desk.clock.now() - count * 1_000 - 1_000_000
    rng = random.Random(seed)
    kind = contenttypes.from_dict(KIND)
    newest: list[str] = []
    for start in range(0, count, _STEP):
        rows = list(_rows(start, min(count, start + _STEP), begins, wim.id, kind, rng, newest))
        desk.db.write(lambda conn, some=rows: _put(conn, some))  # type: ignore[misc]
        del newest[:-100]
    desk.db.write(lambda conn: definitions.set_setting(conn, "indexed", indexing.INDEXED))
    desk.db.write(lambda conn: conn.execute("ANALYZE"))
    return desk, newest


def _rows(
    start: int, end: int, begins: int, actor: int, kind: Any, rng: random.Random, newest: list[str]
) -> Iterator[tuple[int, str, dict[str, Any], int, int]]:
    for n in range(start, end):
        at = begins + n * 1_000
        uuid = new_uuid(at)
        day = f"20{20 + n % 9}-{1 + n % 12:02}-{1 + n % 28:02}"
        title = f"{rng.choice(made.WORDS)} {rng.choice(made.WORDS)} {n}" + (" beacon" if n % 397 == 0 else "")
        values = {
            "title": title,
            "slug": f"bulletin-{n}",
            "body": "<p>A lamp is lit.</p>",
            "hall": ["north", "south", "east"][n % 3],
            "day": day,
        }
        if n % 401 == 0:
            values["rare"] = ["rare-7"]
        if newest:
            values["about"] = newest[rng.randrange(len(newest))]
        newest.append(uuid)
        yield n, uuid, values, at, actor


def _put(conn: sqlite3.Connection, rows: list[tuple[int, str, dict[str, Any], int, int]]) -> None:
    first = conn.execute("SELECT coalesce(max(id), 0) + 1 FROM entry").fetchone()[0]
    edition = conn.execute("SELECT coalesce(max(id), 0) + 1 FROM edition").fetchone()[0]
    rev = conn.execute("SELECT coalesce(max(id), 0) + 1 FROM revision").fetchone()[0]
    put = conn.executemany
    num = range(len(rows))
    put(
        "INSERT INTO entry (id, uuid, type, source_locale, created_at, actor) VALUES (?, ?, 'bulletin', 'en', ?, ?)",
        [(first + n, r[1], r[3], r[4]) for n, r in enumerate(rows)],
    )
    put(
        "INSERT INTO edition (id, entry, locale) VALUES (?, ?, ?)",
        [
            row
            for n in num
            for row in ((edition + 2 * n, first + n, "en"), (edition + 2 * n + 1, first + n, "*"))
        ],
    )
    put(
        "INSERT INTO revision (id, edition, number, content_hash, type_version, fields, paragraph_ids, unit_map, actor, actor_kind, at, note, origin) "
        "VALUES (?, ?, 1, ?, 1, ?, '{}', '{}', ?, 'person', ?, '', 'start')",
        [
            row
            for n, r in enumerate(rows)
            for row in (
                (
                    rev + 2 * n,
                    edition + 2 * n,
                    revision.content_hash(edition + 2 * n, 1, r[2]),
                    json.dumps(r[2]),
                    r[4],
                    r[3],
                ),
                (rev + 2 * n + 1, edition + 2 * n + 1, f"c{edition + 2 * n + 1}", "{}", r[4], r[3]),
            )
        ],
    )
    put(
        "INSERT INTO strand (edition, name, head) VALUES (?, 'draft', ?)",
        [(edition + n, rev + n) for n in range(2 * len(rows))],
    )
    put(
        "INSERT INTO standing (edition, stage, revision, since, committed_at) VALUES (?, 2, ?, ?, ?)",
        [
            row
            for n, r in enumerate(rows)
            for row in (
                (edition + 2 * n, rev + 2 * n, r[3], r[3]),
                (edition + 2 * n + 1, rev + 2 * n + 1, r[3], r[3]),
            )
        ],
    )
    put(
        "INSERT INTO listed (stage, type, locale, sort, edition, entry, since) VALUES (2, 'bulletin', 'en', ?, ?, ?, ?)",
        [(r[3], edition + 2 * n, first + n, r[3]) for n, r in enumerate(rows)],
    )
    put(
        "INSERT INTO address (stage, locale, parent, slug, entry, since) VALUES (2, 'en', 0, ?, ?, ?)",
        [(r[2]["slug"], first + n, r[3]) for n, r in enumerate(rows)],
    )
    found = []
    for n, r in enumerate(rows):
        for name, some in _found(r[2]).items():
            found += [
                (edition + 2 * n, name, ord, text, number, r[3]) for ord, (text, number) in enumerate(some)
            ]
    put(
        "INSERT INTO filter_value (edition, stage, field, ord, text, number, sort) VALUES (?, 2, ?, ?, ?, ?, ?)",
        found,
    )


_SPECS = contenttypes.from_dict(KIND)


def _found(values: dict[str, Any]) -> dict[str, list[tuple[str, float | None]]]:
    from hawthorn.core import filtering

    return {
        name: [(one.text, one.number) for one in some]
        for name, some in filtering.values_of(_SPECS, values).items()
    }


def figure_reading_lists(folder: Path, few: int = 10_000, many: int = 1_000_000) -> dict[str, Figure]:
    """Each question at both sizes, with the bodies kept; and the latest twenty over HTTP against its floor."""
    out: dict[str, Figure] = {}
    small, large = built(folder / "small.sqlite", few), built(folder / "large.sqlite", many)
    for name, wish in QUESTIONS.items():
        ours, least = interleaved(
            lambda w=wish: _timed(large[0], w), lambda w=wish: _timed(small[0], w), ROUNDS
        )  # type: ignore[misc]
        out[f"list {name}, {many:,} released ÷ {few:,}"] = Figure(
            ours, least, ours / least, 1.5, "lower", "ms"
        )
    path = f"/en/bulletin-{few // 2}"
    ours, least = interleaved(
        lambda: _median(large[0], lambda v: reading.find_path(v, path, reading.Place())),
        lambda: _median(small[0], lambda v: reading.find_path(v, path, reading.Place())),
        ROUNDS,
    )
    out[f"find an address, {many:,} released ÷ {few:,}"] = Figure(
        ours, least, ours / least, 1.5, "lower", "ms"
    )
    out |= _over_http(folder, large[0])
    for desk, _ in (small, large):
        desk.db.close()
    return out


def _over_http(folder: Path, desk: Desk) -> dict[str, Figure]:
    kept, port, bare = folder / "floor.sqlite", free_port(), free_port()
    out: dict[str, Figure] = {}
    target, related = (
        "/read/entries?type=bulletin&locale=en&limit=50",
        "/read/entries?type=bulletin&locale=en&limit=20&include=about",
    )
    with serving((service(desk.db.path, port), port, "/api/health")):
        answers = [
            httpx.get(f"http://127.0.0.1:{port}{one}").raise_for_status().content for one in (target, related)
        ]
        floor.stored(kept, [("page 50", '""', answers[0]), ("page 20", '""', answers[1])])
        with serving((served_floor(kept, bare, "routed"), bare, "/api/entries?limit=50")):
            for name, mine, theirs in (
                ("a list of fifty", target, "/api/entries?limit=50"),
                ("a list of twenty with what they relate to", related, "/api/entries?limit=20"),
            ):
                ours, least = interleaved(
                    lambda p=mine: load(port, path=p),
                    lambda p=theirs: load(bare, path=p),
                    ROUNDS,  # type: ignore[misc]
                )
                out[f"{name} over HTTP ÷ a bare route"] = Figure(
                    ours, least, ours / least, 0.5, "higher", "requests/s"
                )
    return out


def _timed(desk: Desk, wish: Wish) -> float:
    """The median time of an answer in milliseconds, with its bodies kept."""

    def look(view: View) -> relations.Bodies:
        return relations.answer(view, reading.Place(), wish)[1]

    source = desk.read(NOBODY, look)
    if source.made:
        seq = desk.read(NOBODY, lambda v: events.last(v.conn)[0])

        def keep(conn: sqlite3.Connection) -> None:
            for (_, locale), one in source.made.items():
                bodies.keep(
                    conn, one.entry, locale, seq, desk.clock.now(), one.etag, one.data, one.deps, one.ends
                )

        desk.db.write(keep)
    return _median(desk, look)


def _median(desk: Desk, look: Callable[[View], object], times: int = 15) -> float:
    took = []
    for _ in range(times):
        begun = time.perf_counter()
        desk.read(NOBODY, look)
        took.append((time.perf_counter() - begun) * 1000)
    return statistics.median(took)
