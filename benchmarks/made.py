"""Made-up records in bulk, from a seed and a size, written past the operations for speed."""

from __future__ import annotations

import json
import random
import sqlite3
from pathlib import Path

from hawthorn.core import aligning, contenttypes, revision, richtext
from hawthorn.core.access import Identity
from hawthorn.core.richtext import ParagraphIds
from hawthorn.messages import Spoken
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import SCHEDULER, Desk, SystemClock, new_uuid
from hawthorn.operations.runtime.bootstrap import PAGE, found
from hawthorn.operations.translation import coverage
from hawthorn.operations.views import assembled
from hawthorn.store import people
from hawthorn.store.database import Database

WORDS = [
    "harbour",
    "lamp",
    "rope",
    "keel",
    "tide",
    "gull",
    "salt",
    "brass",
    "chart",
    "pier",
    "keeper",
    "bell",
    "fog",
    "wick",
    "glass",
    "oil",
    "quay",
    "mast",
]
KIND = contenttypes.from_dict(PAGE)


def text(rng: random.Random, size: int) -> str:
    """Rich text of about so many bytes."""
    out: list[str] = []
    length = 0
    while length < size:
        sentence = " ".join(rng.choice(WORDS) for _ in range(rng.randint(30, 60))).capitalize()
        out.append(f"<p>{sentence}.</p>")
        length += len(out[-1])
    return "".join(out)


def open_desk(path: Path) -> Desk:
    """A desk on a new or existing file, with a writer called wim."""
    desk = assembled.desk(Database(path), SystemClock(), Spoken())
    found(desk)
    coverage.catch_up(desk)
    with desk.db.read() as conn:
        new = people.by_handle(conn, "wim") is None
    if new:

        def add(conn: sqlite3.Connection) -> None:
            for handle in ("wim", "oda"):
                made = people.add_actor(conn, "person", handle, handle.title(), "", "", "UTC", 1)
                people.hold(conn, made, "managing-editor")

        desk.db.write(add)
    return desk


def pages(desk: Desk, count: int, seed: int = 7) -> list[tuple[int, int, str]]:
    """Pages that were submitted and signed off: for each, its editions (own, common) and its UUID."""
    rng = random.Random(seed)
    now = desk.clock.now() - 1_000_000

    def write(conn: sqlite3.Connection) -> list[tuple[int, int, str]]:
        wim = people.by_handle(conn, "wim")
        oda = people.by_handle(conn, "oda")
        review = conn.execute("SELECT id FROM stage WHERE name = 'review'").fetchone()[0]
        assert wim is not None
        assert oda is not None
        made: list[tuple[int, int, str]] = []
        for n in range(count):
            uuid = new_uuid(now + n)
            entry = conn.execute(
                "INSERT INTO entry (uuid, type, source_locale, created_at, actor) VALUES (?, 'page', 'en', ?, ?)",
                (uuid, now, wim.id),
            ).lastrowid
            own = {"title": f"Page {seed}-{n}", "slug": f"page-{seed}-{n}", "body": text(rng, 400)}
            editions = []
            for locale, values in (("en", own), ("*", {})):
                editions.append(_edition(conn, int(entry or 0), locale, values, wim.id, oda.id, review, now))
            made.append((editions[0], editions[1], uuid))
        return made

    return desk.db.write(write)


def _edition(
    conn: sqlite3.Connection,
    entry: int,
    locale: str,
    values: dict[str, str],
    author: int,
    signer: int,
    review: int,
    at: int,
) -> int:
    edition = int(
        conn.execute("INSERT INTO edition (entry, locale) VALUES (?, ?)", (entry, locale)).lastrowid or 0
    )
    paragraph_ids: dict[str, ParagraphIds] = {}
    if "body" in values:
        paragraph_ids["body"] = aligning.align(richtext.paragraphs(values["body"]), [], ())
    digest = revision.content_hash(edition, 1, values)
    made = conn.execute(
        "INSERT INTO revision (edition, number, content_hash, type_version, fields, paragraph_ids, unit_map, actor, actor_kind, "
        "at, note, origin) VALUES (?, 1, ?, 1, ?, ?, '{}', ?, 'person', ?, '', 'start')",
        (edition, digest, json.dumps(values), revision.paragraph_ids_to_json(paragraph_ids), author, at),
    ).lastrowid
    strand = conn.execute(
        "INSERT INTO strand (edition, name, head) VALUES (?, 'draft', ?)", (edition, made)
    ).lastrowid
    conn.execute("UPDATE revision SET strand = ? WHERE id = ?", (strand, made))
    conn.execute(
        "INSERT INTO summary (edition, entry, type, locale, title, missing, updated_at, actor, is_source) "
        "VALUES (?, ?, 'page', ?, ?, '[]', ?, ?, ?)",
        (edition, entry, locale, values.get("title", ""), at, author, locale != "*"),
    )
    conn.execute(
        "INSERT INTO standing (edition, stage, revision, since, committed_at) VALUES (?, ?, ?, ?, ?)",
        (edition, review, made, at, at),
    )
    conn.execute(
        "INSERT INTO sign_off (revision, content_hash, stage, workflow, workflow_version, actor, roles, at, seen) "
        "VALUES (?, ?, 2, 'standard', 1, ?, '[]', ?, '{}')",
        (made, digest, signer, at),
    )
    return edition


def plan(desk: Desk, made: list[tuple[int, int, str]], instant: int) -> int:
    """One dispatch that releases all of them at an instant; returns its number."""

    def write(conn: sqlite3.Connection) -> int:
        id = conn.execute(
            "INSERT INTO dispatch (uuid, name, state, instant, created_at, actor, owner) VALUES (?, 'Season', 'planned', ?, ?, ?, ?)",
            (new_uuid(instant), instant, instant, SCHEDULER, SCHEDULER),
        ).lastrowid
        editions = [e for own, common, _ in made for e in (own, common)]
        heads = dict(conn.execute("SELECT edition, head FROM strand").fetchall())
        conn.executemany(
            "INSERT INTO move (dispatch, ord, verb, edition, stage, revision) VALUES (?, ?, 'release', ?, 2, ?)",
            [(id, n, edition, heads[edition]) for n, edition in enumerate(editions)],
        )
        return int(id or 0)

    return desk.db.write(write)


def scheduler(desk: Desk) -> Identity:
    """The one that lets go what is due."""
    with desk.db.read() as conn:
        return permission.identity_of(conn, SCHEDULER)


def somebody(desk: Desk, handle: str) -> Identity:
    """Somebody by handle."""
    with desk.db.read() as conn:
        row = people.by_handle(conn, handle)
        assert row is not None
        return permission.identity_of(conn, row.id)
