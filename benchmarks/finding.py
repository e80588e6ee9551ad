"""The first page of every question, opening and saving: many entries against few."""

from __future__ import annotations

import functools
import random
import sqlite3
import statistics
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from benchmarks import library, made
from benchmarks.figures import Figure
from hawthorn.core import timeline
from hawthorn.operations.access import people as act_people
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.runtime.act import Act, Desk
from hawthorn.operations.search import finding
from hawthorn.service.app import create_app
from hawthorn.service.settings import Settings
from hawthorn.store import people

SMALL, LARGE = 2_000, 200_000
QUESTIONS: dict[str, dict[str, Any]] = {
    "everything": {},
    "type": {"type": "talk"},
    "locale": {"locale": "ja"},
    "stage": {"stage": "review"},
    "out": {"stage": "release"},
    "drafts": {"stage": "draft"},
    "person": {"person": "p3"},
    "topic": {"topic": "topic"},
    "tag": {"tag": "tag 1"},
    "changed since": {"since": "since"},
    "ends": {"validity": "ends"},
    "endless": {"validity": "endless"},
    "over": {"validity": "over"},
    "incomplete": {"incomplete": True},
    "behind": {"behind": True},
    "planned": {"planned": True},
    "three together": {"type": "note", "locale": "en", "stage": "release"},
    "common word": {"words": "harbour"},
    "three words": {"words": "lamp rope keel"},
    "rare word": {"words": "“item1234”"},
    "begun word": {"words": "harb"},
    "side by side": {"words": "“lamp rope”"},
    "one character": {"words": "灯"},
    "two characters": {"words": "灯台"},
    "Arabic": {"words": "فنار"},
    "word and filters": {"words": "harbour", "type": "talk", "locale": "en", "stage": "release"},
    "no such word": {"words": "zebra"},
}


def figure_finding(folder: Path, rounds: int = 15) -> dict[str, Figure]:
    """The first page of each question, opening an entry, and saving: many entries against few, in one process."""
    desks = {n: library.built(folder / f"{n}.sqlite", n) for n in (SMALL, LARGE)}
    asks: dict[str, Callable[[Desk], object]] = {}
    for name, asked in QUESTIONS.items():
        given = {n: _given(desk, asked) for n, desk in desks.items()}
        asks[f"page: {name}"] = functools.partial(_page, asked={desks[n]: g for n, g in given.items()})
    asks |= {"opening an entry": _opened, "saving 2 KB": _saved}
    out: dict[str, Figure] = {}
    for name, ask in asks.items():
        took: dict[int, list[float]] = {SMALL: [], LARGE: []}
        for _ in range(rounds):
            for size, desk in desks.items():
                start = time.perf_counter()
                ask(desk)
                took[size].append(time.perf_counter() - start)
        large, small = (statistics.median(took[n]) * 1000 for n in (LARGE, SMALL))
        out[f"{LARGE:,} against {SMALL:,}: {name}"] = Figure(large, small, large / small, 2.0, "lower", "ms")
    for desk in desks.values():
        desk.db.close()
    return out


def _asker(desk: Desk) -> permission.Identity:
    with desk.db.read() as conn:
        wim = people.by_handle(conn, "wim")
        assert wim is not None
        return permission.identity_of(conn, wim.id)


def _given(desk: Desk, asked: dict[str, Any]) -> finding.Query:
    """A question with what only the records know filled in."""
    given = dict(asked)
    with desk.db.read() as conn:
        if "topic" in given:
            given["topic"] = conn.execute("SELECT uuid FROM entry WHERE type = 'topic' LIMIT 1").fetchone()[0]
        if "since" in given:
            newest = conn.execute("SELECT max(updated_at) FROM summary").fetchone()[0]
            given["since"] = timeline.iso(newest - 1000 * timeline.SECOND)
    return finding.Query(**given)


def _page(desk: Desk, asked: dict[Desk, finding.Query]) -> None:
    answer = _asked(desk).get("/api/entries", params={**asked[desk].given(), "limit": 30})
    if answer.status_code != 200:
        raise RuntimeError(answer.text)


@functools.cache
def _asked(desk: Desk) -> TestClient:
    """The service on a desk, as a program with every right asks it."""
    _, secret = desk.write(
        _asker(desk),
        lambda act: act_people.issue_key(act, "bench", "managing-editor", "program", ["draft", "release"]),
    )
    app = create_app(Settings(file=desk.db.path, followers=False), desk)
    return TestClient(app, headers={"Authorization": f"Bearer {secret}"})


def _some(conn: sqlite3.Connection) -> sqlite3.Row:
    highest = conn.execute("SELECT max(id) FROM entry").fetchone()[0]
    row: sqlite3.Row = conn.execute(
        "SELECT * FROM entry WHERE id >= ? AND type <> 'topic' AND source_locale = 'en' LIMIT 1",
        (random.randint(50, highest - 100),),
    ).fetchone()
    return row


def _opened(desk: Desk) -> None:
    with desk.db.read() as conn:
        uuid = _some(conn)["uuid"]
    if _asked(desk).get(f"/api/entries/{uuid}/en").status_code != 200:
        raise RuntimeError("the entry did not open")


def _saved(desk: Desk) -> None:
    body = made.text(random.Random(), 2000)

    def do(act: Act) -> None:
        row = _some(act.conn)
        base = entries.current_base(act, row["id"], "en")
        entries.save(act, row["uuid"], "en", {"body": body}, base)

    desk.write(_asker(desk), do)
