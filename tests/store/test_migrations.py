"""A file that an earlier program wrote is brought up and loses nothing."""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import workflow
from hawthorn.core.timeline import SECOND, day_or_instant
from hawthorn.messages import WORDS
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.media import files
from hawthorn.operations.runtime.act import View
from hawthorn.operations.runtime.bootstrap import found
from hawthorn.operations.search import finding, indexing
from hawthorn.operations.translation import coverage
from hawthorn.operations.views import assembled, show
from hawthorn.operations.views.health import health
from hawthorn.store import comments as comment_store
from hawthorn.store import connection, definitions, migrate, people
from hawthorn.store import files as file_store
from hawthorn.store.database import Database
from tests.service.made import START, Clock


@pytest.fixture
def first(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A file as the first program made it: one page below another, tagged, by somebody called wim."""
    path = tmp_path / "old.sqlite"
    whole = migrate.steps
    monkeypatch.setattr(migrate, "steps", lambda: whole()[:1])
    conn = connection.open_writer(path)
    assert [s.number for s in migrate.migrate(conn)] == [1]
    fields: list[dict[str, Any]] = [
        {"name": "title", "kind": "line", "label": "Title", "required": True},
        {"name": "body", "kind": "rich", "label": "Text"},
        {"name": "tags", "kind": "tags", "label": "Tags", "shared": True},
        {"name": "below", "kind": "below", "label": "Below", "shared": True},
    ]
    fields += [{"name": "day", "kind": "date", "shared": True}, {"name": "top", "kind": "yesno"}]
    kind = {"name": "page", "label": "Page", "workflow": "short", "version": 1, "fields": fields}
    kind |= {"dated": "day", "pinned": "top"}
    flow = {
        "name": "short",
        "stages": [
            {"name": "draft", "label": "Draft", "rung": 0},
            {"name": "release", "label": "Release", "rung": 1000},
        ],
    }
    conn.execute("BEGIN")
    conn.execute("INSERT INTO content_type VALUES ('page', 1, ?, 1, NULL)", (json.dumps(kind),))
    conn.execute("INSERT INTO workflow VALUES ('short', 1, ?, 1)", (json.dumps(flow),))
    conn.execute("INSERT INTO locale VALUES ('en', 'English', 1)")
    conn.execute("INSERT INTO setting VALUES ('setup', '1')")
    conn.execute(
        "INSERT INTO actor (kind, handle, name, created_at) VALUES ('clockwork', 'clockwork', 'Clockwork', 1)"
    )
    wim = conn.execute(
        "INSERT INTO actor (kind, handle, name, created_at) VALUES ('person', 'wim', 'Wim', 1)"
    ).lastrowid
    conn.execute(
        "INSERT INTO role VALUES ('all', 'all', ?)",
        (json.dumps([{"verb": v} for v in ("read", "write", "release")]),),
    )
    conn.execute("INSERT INTO holding (actor, role) VALUES (?, 'all')", (wim,))
    conn.execute(
        "INSERT INTO file VALUES (?, 'text/vtt', 'a.vtt', 6, NULL, NULL, ?, 1, ?)",
        ("ab" * 32, b"WEBVTT", wim),
    )
    above = ""
    for title in ("Harbour", "Lamps"):
        above = _page(conn, int(wim or 0), title, above)
    conn.execute("COMMIT")
    conn.close()
    monkeypatch.undo()
    return path


def test_comments_with_their_replies_outlive_that_dispatches_may_have_some(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "talked.sqlite"
    whole = migrate.steps
    with monkeypatch.context() as patch:
        patch.setattr(migrate, "steps", lambda: whole()[:21])
        conn = connection.open_writer(path)
        migrate.migrate(conn)
    conn.execute("BEGIN")
    conn.execute("INSERT INTO actor (kind, handle, name, created_at) VALUES ('person', 'wim', 'Wim', 1)")
    wim = conn.execute("SELECT id FROM actor WHERE handle = 'wim'").fetchone()[0]
    conn.execute(
        "INSERT INTO entry (id, uuid, type, source_locale, created_at, actor) VALUES (1, 'x', 'page', 'en', 1, ?)",
        (wim,),
    )
    for n in (4, 7):
        conn.execute(
            "INSERT INTO comment (id, uuid, entry, locale, actor, actor_kind, at, text) VALUES (?, ?, 1, 'en', ?, 'person', 1, ?)",
            (n, f"c{n}", wim, f"Words {n}."),
        )
        conn.execute(
            "INSERT INTO reply (uuid, comment, actor, actor_kind, at, text) VALUES (?, ?, ?, 'person', 2, 'Yes.')",
            (f"r{n}", n, wim),
        )
        conn.execute("INSERT INTO mention VALUES (?, ?, 2)", (n, wim))
    conn.execute("COMMIT")
    conn.close()
    db = Database(path)
    with db.read() as reading:
        found = comment_store.of_edition(reading, 1, "en")
        assert [(c.id, c.text, c.entry, c.dispatch) for c in found] == [
            (4, "Words 4.", 1, None),
            (7, "Words 7.", 1, None),
        ]
        assert {c: [r.text for r in some] for c, some in comment_store.replies(reading, [4, 7]).items()} == {
            4: ["Yes."],
            7: ["Yes."],
        }
        assert reading.execute("PRAGMA foreign_key_check").fetchall() == []
    with pytest.raises(sqlite3.IntegrityError):
        db.write(lambda c: c.execute("DELETE FROM comment WHERE id = 4"))
    db.close()


def test_files_are_where_they_were_looked_for(first: Path) -> None:
    desk = assembled.desk(Database(first), Clock(START + SECOND), WORDS)
    with desk.db.read() as conn:
        kept = file_store.find(conn, "ab" * 32)
    assert kept is not None
    assert (kept.name, kept.at, kept.outside) == ("a.vtt", 1, 0)
    assert files.whole(desk, kept) == b"WEBVTT"
    desk.db.close()


def _page(conn: sqlite3.Connection, actor: int, title: str, above: str) -> str:
    uuid = f"01a1a01e-802a-748b-a703-{len(title):012d}"
    entry = conn.execute(
        "INSERT INTO entry (uuid, type, source_locale, created_at, actor) VALUES (?, 'page', 'en', ?, ?)",
        (uuid, START, actor),
    ).lastrowid
    on_top: dict[str, Any] = {"top": True} if title == "Lamps" else {}
    own: dict[str, Any] = {"title": title, **on_top, "body": f"<p>About {title.lower()} of brass.</p>"}
    shared: dict[str, Any] = {"tags": ["old"], **({"below": above} if above else {"day": "2026-05-01"})}
    for locale, values in (("en", own), ("*", shared)):
        edition = conn.execute("INSERT INTO edition (entry, locale) VALUES (?, ?)", (entry, locale)).lastrowid
        strand = conn.execute("INSERT INTO strand (edition, name) VALUES (?, 'draft')", (edition,)).lastrowid
        spine = {"body": [["p1", "0" * 16]]} if "body" in values else {}
        revision = conn.execute(
            "INSERT INTO revision (edition, number, content_hash, type_version, fields, spine, unit_map, strand, actor, "
            "actor_kind, at, note, origin) VALUES (?, 1, 'x', 1, ?, ?, '{}', ?, ?, 'person', ?, '', 'start')",
            (edition, json.dumps(values), json.dumps(spine), strand, actor, START),
        ).lastrowid
        conn.execute("UPDATE strand SET head = ? WHERE id = ?", (revision, strand))
        conn.execute(
            "INSERT INTO summary VALUES (?, ?, 'page', ?, ?, '[]', ?, ?)",
            (edition, entry, locale, values.get("title", ""), START, actor),
        )
    return uuid


def test_an_older_file_is_brought_up_and_found_in(first: Path) -> None:
    desk = assembled.desk(Database(first), Clock(START + SECOND), WORDS)
    found(desk)
    assert indexing.catch_up(desk) == 2
    assert coverage.catch_up(desk) == 0, "there is nothing to count in one language"
    desk.db.write(lambda conn: definitions.add_locale(conn, "fr", "Français"))
    assert coverage.catch_up(desk) > 0
    assert coverage.catch_up(desk) == 0
    with desk.db.read() as conn:
        row = people.by_handle(conn, "wim")
        assert row is not None
        wim = permission.identity_of(conn, row.id)

    def titles(**asked: Any) -> set[str]:
        rows, _ = desk.read(wim, lambda v: finding.listing(v, finding.Query(**asked)))
        return {r.title for r in rows}

    assert titles(words="brass") == titles(tag="old") == titles() == {"Harbour", "Lamps"}
    assert titles(words="lamps") == {"Lamps"}
    with desk.db.read() as conn:
        rows = conn.execute(
            "SELECT title, shown, pinned FROM summary WHERE locale = 'en' ORDER BY title"
        ).fetchall()
    assert [tuple(row) for row in rows] == [("Harbour", day_or_instant("2026-05-01"), 0), ("Lamps", None, 1)]
    tree = desk.read(wim, lambda v: finding.topics(v, "page"))
    parents = {t.title: t.parent for t in tree}
    assert parents["Harbour"] is None
    assert parents["Lamps"] == next(t.id for t in tree if t.title == "Harbour")

    def shown(view: View) -> dict[str, Any]:
        return show.entry(view, next(t.id for t in tree if t.title == "Lamps"), "en")

    entry = desk.read(wim, shown)
    assert entry["revision"]["number"] == 1
    base = entries.parse_etag(entry["etag"])
    patch = {"body": "<p>About lamps of old brass.</p>"}
    desk.write(wim, lambda a: entries.save(a, entry["id"], "en", patch, base))
    again = desk.read(wim, shown)
    assert (again["revision"]["number"], again["fields"]["tags"]) == (2, ["old"])
    assert desk.read(wim, health) == []
    desk.db.close()


def test_a_file_of_a_newer_program_is_left_alone(first: Path) -> None:
    conn = sqlite3.connect(first)
    conn.execute("INSERT INTO migration VALUES (99, 'later', 'x', 'now')")
    conn.commit()
    conn.close()
    from hawthorn.core.errors import BadStore

    with pytest.raises(BadStore):
        Database(first).write(lambda c: None)


OLD_WORDS = """
INSERT INTO actor (id, kind, handle, name, created_at) VALUES (1, 'clockwork', 'clockwork', 'Clockwork', 1), (2, 'person', 'wim', 'Wim', 1);
INSERT INTO entry (id, uuid, type, source_locale, created_at, actor) VALUES (1, 'u', 'page', 'en', 1, 2);
INSERT INTO edition (id, entry, locale) VALUES (1, 1, 'en');
INSERT INTO revision VALUES (1, 1, 1, 'x', 1, '{}', '{"body": [["p1", "0"]]}', '{}', NULL, 1, 'clockwork', 1, '', 'homecoming');
INSERT INTO strand (edition, name, ended) VALUES (1, 'Spring', 'came in');
INSERT INTO assignment (uuid, entry, locale, holder, actor, at, outcome, ended_at) VALUES ('a', 1, 'en', 2, 2, 1, 'handed on', 2);
INSERT INTO remark (uuid, entry, locale, actor, actor_kind, at, text) VALUES ('r', 1, 'en', 2, 'person', 1, 'Why?');
INSERT INTO event VALUES (1, 1, 'remark.made', 2, 'person', 'x', 'x', 'x');
INSERT INTO notice (actor, seq, kind, at, says, body, path) VALUES (2, 1, 'remark', 1, '', '', '/entries/u/en?remark=r');
INSERT INTO notice_choice VALUES (2, 'remark', 'digest');
INSERT INTO pass VALUES (1, 1, 'x', 2, 2, 1, 'Urgent.', '[]');
INSERT INTO commission (id, uuid, name, actor, at) VALUES (1, 'c', 'Spring', 2, 1);
INSERT INTO job (id, uuid, commission, source_locale, locale, state, total, words, changed_at)
  VALUES (1, 'j', 1, 'en', 'fr', 'home', 1, 1, 1), (2, 'k', 1, 'en', 'de', 'called off', 1, 1, 1);
INSERT INTO job_entry VALUES (1, 1, 1, 1, 1);
INSERT INTO dispatch (uuid, name, state, instant, created_at, actor) VALUES ('d', 'Friday', 'called off', 1, 1, 2);
INSERT INTO follower (name, cursor) VALUES ('courier', 7);
INSERT INTO outbox (follower, stable_id, seq, recipient, payload, state, next_at) VALUES ('courier', 'job-j-1', 1, 'S', 'j', 'waiting', 1);
"""


def test_what_was_kept_under_older_words_is_found_under_todays(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path, whole = tmp_path / "records.sqlite", migrate.steps
    monkeypatch.setattr(migrate, "steps", lambda: whole()[:10])
    conn = connection.open_writer(path)
    migrate.migrate(conn)
    conn.executescript(OLD_WORDS)
    gate = {"pass_roles": ["chief"], "own": [{"name": "x", "holds": "true", "says": "y"}]}
    stages = [{"name": "draft", "rung": 0}, {"name": "release", "rung": 1000, "gate": gate}]
    conn.execute(
        "INSERT INTO workflow (name, version, definition, at) VALUES ('w', 1, ?, 1)",
        (json.dumps({"name": "w", "stages": stages}),),
    )
    monkeypatch.undo()
    migrate.migrate(conn)

    def one(sql: str) -> Any:
        return conn.execute(sql).fetchone()[0]

    assert [one(f"SELECT {what} FROM actor WHERE id = 1") for what in ("kind", "handle")] == ["scheduler"] * 2
    assert one("SELECT outcome FROM assignment") == "reassigned"
    assert one("SELECT ended FROM strand") == "merged"
    assert one("SELECT text FROM comment") == "Why?"
    assert one("SELECT kind || path FROM notification") == "comment/entries/u/en?comment=r"
    assert one("SELECT kind FROM notification_choice") == "comment"
    assert one("SELECT reason FROM override") == "Urgent."
    assert (
        one("SELECT group_concat(state, ' ') FROM (SELECT state FROM job ORDER BY id)")
        == "returned cancelled"
    )
    assert one("SELECT returned_revision FROM job_entry") == 1
    assert one("SELECT state FROM dispatch") == "cancelled"
    assert one("SELECT cursor FROM follower WHERE name = 'carrier'") == 7
    assert one("SELECT follower || payload FROM outbox") == 'carrier{"do":"send","job":"j"}'
    assert one("SELECT actor_kind || origin || paragraph_ids FROM revision") == (
        'schedulerreturn{"body": [["p1", "0"]]}'
    )
    flow = workflow.from_dict(json.loads(one("SELECT definition FROM workflow")))
    assert flow.stages[1].gate.override_roles == ("chief",)
    assert (flow.stages[1].order, flow.stages[1].gate.custom[0].says) == (1000, "y")
    # What was allowed before is refused now, by the schema as it is written.
    for sql in ("UPDATE job SET state = 'home'", "UPDATE actor SET kind = 'clockwork'"):
        with pytest.raises(sqlite3.IntegrityError, match="CHECK"):
            conn.execute(sql)
    conn.close()
    again = connection.open_writer(path)
    assert again.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    assert not again.execute("PRAGMA foreign_key_check").fetchall()
    assert "'home'" not in again.execute("SELECT sql FROM sqlite_schema WHERE name = 'job'").fetchone()[0]
    again.close()
