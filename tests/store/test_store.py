"""The record file: migrations, wake-ups, standings and addresses in SQL against plain models of them."""

from __future__ import annotations

import re
import sqlite3
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hawthorn.core import timeline
from hawthorn.core.errors import BadStore, StaleRevision
from hawthorn.core.revision import Content
from hawthorn.core.timeline import Standing
from hawthorn.messages import ENGLISH
from hawthorn.store import (
    bodies,
    connection,
    definitions,
    entries,
    events,
    files,
    migrate,
    people,
    revisions,
    standings,
    wake,
)
from hawthorn.store.database import Database


@pytest.fixture
def db(tmp_path: Path):
    made = Database(tmp_path / "x.sqlite")
    yield made
    made.close()


@pytest.fixture(scope="module")
def blank(tmp_path_factory: pytest.TempPathFactory):
    """A file for many examples, each of which is taken back."""
    made = Database(tmp_path_factory.mktemp("blank") / "x.sqlite")
    yield made
    made.close()


class TakenBack(Exception):
    """What ends an example, so that nothing of it stays."""


def tried(db: Database, act: Callable[[sqlite3.Connection], None]) -> None:
    """Let an example write, look at what it wrote, and take all of it back."""

    def write(conn: sqlite3.Connection) -> None:
        act(conn)
        raise TakenBack

    with pytest.raises(TakenBack):
        db.write(write)


def entry(conn: sqlite3.Connection, uuid: str = "u1") -> tuple[int, int, int]:
    """An entry with an edition and two revisions: (entry, edition, first revision)."""
    if people.actor(conn, 1) is None:
        people.add_actor(conn, "person", "wim", "Wim", "", "", "UTC", 1)
    made = entries.add_entry(conn, uuid, "page", "en", None, 1, 1)
    edition, strand = entries.add_edition(conn, made, "en")
    first = 0
    for n in (1, 2):
        id = revisions.add_revision(
            conn, edition=edition, strand=strand, content=Content({"title": f"{n}"}), parents=[], content_hash="h",
            type_version=1, actor=1, actor_kind="person", at=n, note="", origin="save",
        )  # fmt: skip
        first = first or id
    return made, edition, first


def test_migrations_are_applied_once_and_kept_in_a_ledger(tmp_path: Path) -> None:
    conn = connection.open_writer(tmp_path / "x.sqlite")
    assert [s.number for s in migrate.migrate(conn)] == [s.number for s in migrate.steps()]
    assert migrate.migrate(conn) == []
    assert conn.execute("SELECT count(*) FROM migration").fetchone()[0] == len(migrate.steps())
    conn.execute("UPDATE migration SET checksum = 'x'")
    with pytest.raises(BadStore, match="another text"):
        migrate.migrate(conn)
    assert not conn.in_transaction
    conn.close()


def test_a_migration_that_fails_leaves_nothing_of_itself(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    conn = connection.open_writer(tmp_path / "x.sqlite")
    broken = migrate.Step(
        1, "broken", "CREATE TABLE a (x INTEGER) STRICT;\nCREATE TABLE a (x INTEGER) STRICT;\n"
    )
    monkeypatch.setattr(migrate, "steps", lambda: [broken])
    with pytest.raises(sqlite3.OperationalError):
        migrate.migrate(conn)
    assert conn.execute("SELECT count(*) FROM sqlite_master WHERE name = 'a'").fetchone()[0] == 0
    assert conn.execute("SELECT count(*) FROM migration").fetchone()[0] == 0
    conn.close()


def test_every_table_is_strict_and_every_file_number_is_used_once() -> None:
    conn = sqlite3.connect(":memory:")
    for step in migrate.steps():
        conn.executescript(step.sql)
    loose = conn.execute(
        "SELECT name FROM pragma_table_list WHERE schema = 'main' AND strict = 0 AND name NOT LIKE 'sqlite%' AND name NOT LIKE 'search_text%' "
        "AND name NOT LIKE 'memory_marks%'"
    )
    assert loose.fetchall() == []
    numbers = [s.number for s in migrate.steps()]
    assert numbers == list(range(1, len(numbers) + 1))
    conn.close()


def test_a_commit_rings_in_this_process_and_in_others(db: Database) -> None:
    rung = threading.Event()
    stop = db.bell.listen(lambda _: rung.set(), ("dispatch.",))
    db.write(lambda c: wake.tell(c, "dispatch.gone"))
    assert rung.wait(0.8)
    rung.clear()
    code = (
        "import sys, pathlib; from hawthorn.store.database import Database; from hawthorn.store import definitions, wake\n"
        "db = Database(pathlib.Path(sys.argv[1]))\n"
        "db.write(lambda c: (definitions.set_setting(c, 'b', '2'), wake.tell(c, 'dispatch.gone'))); db.close()"
    )
    subprocess.run([sys.executable, "-c", code, str(db.path)], check=True)
    assert rung.wait(2)
    rung.clear()
    db.write(lambda c: wake.tell(c, "entry.saved"))
    db.write(lambda c: None)
    assert not rung.wait(0.3), "nobody is woken by what they do not follow"
    stop()
    with db.read() as conn:
        assert definitions.setting(conn, "b") == "2"


def test_writers_of_several_processes_queue_and_lose_nothing(db: Database) -> None:
    db.write(lambda c: definitions.set_setting(c, "count", "0"))
    code = (
        "import sys, pathlib; from hawthorn.store.database import Database; from hawthorn.store import definitions as d\n"
        "db = Database(pathlib.Path(sys.argv[1]))\n"
        "for _ in range(100): db.write(lambda c: d.set_setting(c, 'count', str(int(d.setting(c, 'count')) + 1)))\n"
        "db.close()"
    )
    processes = [subprocess.Popen([sys.executable, "-c", code, str(db.path)]) for _ in range(2)]
    for _ in range(100):
        db.write(lambda c: definitions.set_setting(c, "count", str(int(definitions.setting(c, "count")) + 1)))
    assert [p.wait(30) for p in processes] == [0, 0]
    with db.read() as conn:
        assert definitions.setting(conn, "count") == "300"


def test_threads_of_one_process_queue_too(db: Database) -> None:
    db.write(lambda c: definitions.set_setting(c, "count", "0"))

    def add() -> None:
        for _ in range(50):
            db.write(
                lambda c: definitions.set_setting(c, "count", str(int(definitions.setting(c, "count")) + 1))
            )

    threads = [threading.Thread(target=add) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    with db.read() as conn:
        assert definitions.setting(conn, "count") == "200"


def test_a_head_moves_only_from_where_it_is(db: Database) -> None:
    def act(conn: sqlite3.Connection) -> None:
        _, edition, first = entry(conn)
        strand = entries.edition_by_id(conn, edition).strand
        entries.move_head(conn, strand, None, first)
        entries.move_head(conn, strand, first, first + 1)
        with pytest.raises(StaleRevision):
            entries.move_head(conn, strand, first, first)

    db.write(act)


STEPS = st.lists(
    st.tuples(st.integers(0, 30), st.sampled_from(["open", "close"]), st.integers(0, 1)), max_size=12
)


@given(STEPS, st.integers(0, 40))
@settings(max_examples=60)
def test_what_stood_is_found_in_sql_as_in_the_plain_model(
    blank: Database, steps: list[tuple[int, str, int]], instant: int
) -> None:
    def act(conn: sqlite3.Connection) -> None:
        _, edition, first = entry(conn)
        when = 0
        for gap, verb, which in steps:
            when = max(when, gap)
            now = standings.now_at(conn, [edition]).get(edition, {}).get(2)
            if now is not None:
                standings.close(conn, [now.id], when, None)
            if verb == "open":
                standings.open_all(conn, [(edition, 2, first + which)], when, when, None)
        rows = conn.execute("SELECT * FROM standing ORDER BY id").fetchall()
        model = [
            Standing(r["id"], r["edition"], r["stage"], r["revision"], r["since"], r["until"]) for r in rows
        ]
        found, expected = standings.at(conn, edition, 2, instant), timeline.at(model, instant)
        assert (found.id if found else None) == (expected.id if expected else None)

    tried(blank, act)


WANTED = st.dictionaries(
    st.tuples(st.integers(1, 3), st.sampled_from(["en", "fr"])),
    st.tuples(st.just(0), st.sampled_from("abcd")),
    max_size=5,
)


@given(st.lists(WANTED, min_size=1, max_size=5))
@settings(max_examples=60)
def test_addresses_follow_what_is_wanted_and_their_past_is_kept(blank: Database, turns: list[dict]) -> None:
    def act(conn: sqlite3.Connection) -> None:
        made = [entry(conn, f"u{n}")[0] for n in range(3)]
        for turn, wanted in enumerate(turns):
            taken: set = set()
            unique = {}
            for (which, locale), value in wanted.items():
                if (locale, value) not in taken:
                    taken.add((locale, value))
                    unique[made[which - 1], locale] = value
            standings.readdress(conn, unique, made, 2, turn * 10)
            rows = conn.execute(
                "SELECT entry, locale, parent, slug FROM address WHERE until IS NULL"
            ).fetchall()
            assert {(r[0], r[1]): (r[2], r[3]) for r in rows} == unique
            for (owner, locale), (parent, slug) in unique.items():
                assert standings.taken(conn, 2, locale, parent, slug) == owner
                assert standings.formerly(conn, 2, locale, parent, slug) == owner
        assert not conn.execute("SELECT 1 FROM address WHERE until < since").fetchall()

    tried(blank, act)


def test_a_body_is_fresh_until_something_it_depends_on_changes(db: Database) -> None:
    def act(conn: sqlite3.Connection) -> None:
        one, _, _ = entry(conn)
        other, _, _ = entry(conn, "u2")
        bodies.keep(conn, one, "en", 10, 1, '"e"', b"body", [(one, "out"), (other, "out")], 9)
        found = bodies.fresh(conn, "u1", "en", 5)
        assert found is not None
        assert (found.etag, found.data) == ('"e"', b"body")
        assert bodies.fresh(conn, "u1", "fr", 5) is None
        standings.note_changes(conn, [(2, other, "address")], 11, 1)
        assert bodies.fresh(conn, "u1", "en", 5)
        standings.note_changes(conn, [(2, other, "out")], 9, 1)
        assert bodies.fresh(conn, "u1", "en", 5)
        standings.note_changes(conn, [(2, other, "out")], 12, 1)
        assert bodies.fresh(conn, "u1", "en", 5) is None
        bodies.keep(conn, one, "en", 12, 1, '"f"', b"newer", [(one, "out")], 9)
        bodies.keep(conn, one, "en", 11, 1, '"g"', b"made from an older state", [], 9)
        found = bodies.fresh(conn, "u1", "en", 5)
        assert found is not None
        assert (found.etag, found.data) == ('"f"', b"newer")

    db.write(act)


def test_the_questions_that_must_be_fast_use_their_indexes(db: Database) -> None:
    questions = {
        bodies.FRESH: ("en", "u", 1),
        "SELECT * FROM standing WHERE edition = ? AND stage = ? AND since <= ? ORDER BY since DESC, id DESC LIMIT 1": (
            1,
            2,
            3,
        ),
        "SELECT * FROM standing WHERE edition = ? AND stage = ? AND until IS NULL": (1, 2),
        "SELECT id FROM dispatch WHERE state = 'planned' AND instant <= ? ORDER BY instant, id": (1,),
        "SELECT entry FROM address WHERE stage = ? AND locale = ? AND parent = ? AND slug = ? AND until IS NULL": (
            2,
            "en",
            0,
            "x",
        ),
        "SELECT a.id FROM json_each(?) j CROSS JOIN address a ON a.entry = j.value AND a.stage = ? AND a.until IS NULL": (
            "[]",
            1,
        ),
        "SELECT p.entry, p.rank FROM placed p WHERE p.stage = ? AND p.parent = ? AND p.until IS NULL "
        "AND (p.rank, p.entry) > (?, ?) ORDER BY p.rank, p.entry LIMIT ?": (1, 0, "", 0, 9),
        files.SHOWN_BY: (2, "x", ""),
        "SELECT edition FROM search_said x WHERE x.locale = ? AND x.title = ? AND x.title <> ''": ("en", "x"),
        "SELECT * FROM event e JOIN event_about b ON b.seq = e.seq WHERE b.entry = ? AND b.seq < ? ORDER BY b.seq DESC": (
            1,
            9,
        ),
    }
    with db.read() as conn:
        for sql, values in questions.items():
            plan = [row["detail"] for row in conn.execute("EXPLAIN QUERY PLAN " + sql, values).fetchall()]
            assert not any(line.startswith("SCAN") for line in plan if "SCAN j " not in line), (sql, plan)
            assert not any("TEMP B-TREE" in line for line in plan), (sql, plan)


def test_what_is_asked_of_given_ones_begins_with_these() -> None:
    """SQLite does not know how few are given, and may begin with all that stands at a stage: a `CROSS JOIN` keeps the order."""
    free = []
    for file in (Path(migrate.__file__).parent).glob("*.py"):
        whole = re.sub(r'"\s*\n\s*f?"', "", file.read_text("utf-8"))
        free += re.findall(r"(\S+) FROM json_each\([?:]\w*\)(?: AS)? \w+ JOIN", whole)
    # Rows that are set from others are joined from the left with those: a given order would begin with them.
    assert free == ["behind"]


@given(st.lists(st.text(max_size=20), min_size=1, max_size=10), st.integers(0, 9))
@settings(max_examples=30)
def test_any_change_to_the_log_is_found(blank: Database, notes: list[str], spoiled: int) -> None:
    def act(conn: sqlite3.Connection) -> None:
        people.add_actor(conn, "person", "wim", "Wim", "", "", "UTC", 1)
        tip = events.last(conn)
        for n, note in enumerate(notes, 1):
            tip = events.append(conn, tip, n, "x.happened", 1, "person", [], {"note": note})
        assert list(events.verify(conn)) == []
        seq = spoiled % len(notes) + 1
        conn.execute("UPDATE event SET at = at + 1000 WHERE seq = ?", (seq,))
        assert any(f"Event {seq} " in line for line in map(ENGLISH.text, events.verify(conn)))

    tried(blank, act)


def test_a_write_waits_for_its_turn_no_longer_than_the_one_before_takes(db: Database) -> None:
    def slow(conn: sqlite3.Connection) -> None:
        conn.execute("SELECT 1")
        time.sleep(0.2)

    thread = threading.Thread(target=lambda: db.write(slow))
    thread.start()
    time.sleep(0.05)
    with db.read() as conn:
        assert conn.execute("SELECT count(*) FROM stage").fetchone()[0] == 2
    db.write(lambda c: definitions.set_setting(c, "after", "yes"))
    thread.join()
    with db.read() as conn:
        assert definitions.setting(conn, "after") == "yes"


def test_a_body_that_was_made_before_all_were_let_go_is_not_kept(db: Database) -> None:
    def act(conn: sqlite3.Connection) -> None:
        people.add_actor(conn, "person", "nora", "Nora", "", "", "UTC", 1)
        entry = entries.add_entry(conn, "u9", "page", "en", None, 1, 1)
        seen = events.last(conn)[0]
        bodies.clear(conn)
        bodies.keep(conn, entry, "en", seen, 1, '"e"', b"secret", [], 9)
        assert bodies.fresh(conn, "u9", "en", 5) is None
        bodies.keep(conn, entry, "en", seen + 1, 1, '"f"', b"open", [], 9)
        assert bodies.fresh(conn, "u9", "en", 5) is not None

    tried(db, act)


def test_a_folder_that_was_named_by_mistake_stays_whose_it_is(tmp_path: Path) -> None:
    tmp_path.chmod(0o755)
    with pytest.raises(sqlite3.Error):
        connection.open_writer(tmp_path)
    assert tmp_path.stat().st_mode & 0o777 == 0o755
