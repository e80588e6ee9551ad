"""Commissions, jobs and their units."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import field, replace
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped, wake
from hawthorn.store.put_away import AT_WORK, PUT_AWAY


@dataclass(frozen=True, slots=True)
class Job:
    """One locale's translation work, with its commission and bureau."""

    id: int
    uuid: str
    commission: int
    source_locale: str
    locale: str
    bureau: int | None
    state: str
    remote: str
    done: int
    total: int
    words: int
    trouble: str
    changed_at: int
    ask_at: int
    failures: int
    translator: int | None
    commission_uuid: str
    name: str
    due: str
    due_told: str | None
    """The day on which its bureau thinks that it is due; None where none has it."""
    due_trouble: str
    """Why that bureau could not be told another day."""
    note: str
    created_at: int
    actor: int
    returns: str
    memories: str
    glossaries: str
    standing: int | None
    by_name: str
    translator_name: str | None
    translator_handle: str | None
    bureau_name: str | None
    bureau_url: str | None
    bureau_actor: int | None
    codes: str | None
    bureau_kind: str | None
    bureau_secret: str | None = field(repr=False)
    bureau_signing: str | None = field(repr=False)


@dataclass(frozen=True, slots=True)
class JobEntry:
    """An entry in a job: the revision that was sent and the one that returned; `put_away` is 1 where it was removed since, or is in the
    archive."""

    job: int
    ord: int
    entry: int
    source_revision: int
    returned_revision: int | None
    uuid: str
    type: str
    source_locale: str
    section: int | None
    owner: int
    put_away: int


@dataclass(frozen=True, slots=True)
class JobUnit:
    """A unit of a job: its source, what came of it, its text, its sentences (`core.translation.keeping`), the translator's
    notes on it (JSON), why what came last was not taken, and what other programs put beside its sentences (XML)."""

    job: int
    entry: int
    key: str
    ord: int
    source_hash: str
    target_hash: str | None
    state: str
    text: str
    outcome: str
    segments: str
    notes: str
    trouble: str
    beside: str


def add_job(
    conn: sqlite3.Connection,
    uuid: str,
    commission: int,
    source_locale: str,
    locale: str,
    doer: tuple[int | None, int | None],
    size: tuple[int, int],
    at: int,
) -> int:
    """Add a job without units, due when its commission is; who does it is a bureau, a person (their numbers), or nobody yet; its size are
    its units and their words."""
    cursor = conn.execute(
        "INSERT INTO job (uuid, commission, source_locale, locale, bureau, translator, state, total, words, changed_at, due) "
        "SELECT ?, c.id, ?, ?, ?, ?, 'waiting', ?, ?, ?, c.due FROM commission c WHERE c.id = ?",
        (uuid, source_locale, locale, *doer, *size, at, commission),
    )
    return int(cursor.lastrowid or 0)


def add_entry(conn: sqlite3.Connection, job: int, ord: int, entry: int, source_revision: int) -> None:
    """Put an entry into a job, in one revision of its source."""
    conn.execute(
        "INSERT INTO job_entry (job, ord, entry, source_revision) VALUES (?, ?, ?, ?)",
        (job, ord, entry, source_revision),
    )


def add_units(
    conn: sqlite3.Connection, job: int, entry: int, units: Iterable[tuple[str, str, str | None]]
) -> None:
    """Put units into a job: (key, source hash, hash of what the target held)."""
    conn.executemany(
        "INSERT INTO job_unit (job, entry, key, ord, source_hash, target_hash, state) VALUES (?, ?, ?, ?, ?, ?, 'initial')",
        [(job, entry, key, n, source, target) for n, (key, source, target) in enumerate(units)],
    )


SHOWN = """
SELECT j.*, c.uuid AS commission_uuid, c.name, c.note, c.sent_at AS created_at, c.actor, c.returns, c.memories, c.glossaries, c.standing,
  a.name AS by_name, p.name AS translator_name, p.handle AS translator_handle,
  b.name AS bureau_name, b.url AS bureau_url, b.actor AS bureau_actor, b.codes,
  b.kind AS bureau_kind, b.secret AS bureau_secret, b.signing AS bureau_signing
FROM job j JOIN commission c ON c.id = j.commission JOIN actor a ON a.id = c.actor LEFT JOIN bureau b ON b.id = j.bureau
LEFT JOIN actor p ON p.id = j.translator
"""
_AT_BUREAU = SHOWN.replace("b.id = j.bureau", "b.id = ?1")


def by_uuid(conn: sqlite3.Connection, uuid: str) -> Job | None:
    """A job with its commission and bureau."""
    return shaped.one(Job, conn.execute(SHOWN + "WHERE j.uuid = ?", (uuid,)))


def as_given_to(conn: sqlite3.Connection, uuid: str, bureau: int) -> Job | None:
    """A job as it is with a bureau that had it before somebody else."""
    job = shaped.one(Job, conn.execute(_AT_BUREAU + "WHERE j.uuid = ?2", (bureau, uuid)))
    return replace(job, bureau=bureau) if job is not None else None


def of_bureau(conn: sqlite3.Connection, bureau: int, remote: str) -> Job | None:
    """A job as its bureau calls it."""
    return shaped.one(Job, conn.execute(SHOWN + "WHERE j.bureau = ? AND j.remote = ?", (bureau, remote)))


def conflicts(conn: sqlite3.Connection, uuid: str) -> int:
    """How many units of a job need a choice."""
    count: int = conn.execute(
        "SELECT count(*) FROM job j JOIN job_unit u ON u.job = j.id WHERE j.uuid = ? AND u.outcome = 'conflict'",
        (uuid,),
    ).fetchone()[0]
    return count


def of_commission(conn: sqlite3.Connection, commission: int) -> list[Job]:
    """The jobs of a commission."""
    return shaped.every(Job, conn.execute(SHOWN + "WHERE j.commission = ? ORDER BY j.id", (commission,)))


def of_entry(conn: sqlite3.Connection, entry: int) -> list[Job]:
    """The jobs that an entry is in, newest first."""
    return shaped.every(
        Job,
        conn.execute(
            SHOWN + "JOIN job_entry x ON x.job = j.id WHERE x.entry = ? ORDER BY j.id DESC LIMIT 100",
            (entry,),
        ),
    )


def of_put_away(conn: sqlite3.Connection, entries: Iterable[int]) -> list[Job]:
    """The jobs in which something of those of some entries that were put away is with somebody."""
    return shaped.every(
        Job,
        conn.execute(
            f"{SHOWN}WHERE j.state IN ('waiting', 'sent', 'in work', 'failed') AND j.id IN (SELECT x.job FROM json_each(?) s "
            f"CROSS JOIN entry e ON e.id = s.value AND {PUT_AWAY} JOIN job_entry x ON x.entry = e.id) ORDER BY j.id",
            (json.dumps(list(entries)),),
        ),
    )


def working_on(conn: sqlite3.Connection, entries: Iterable[int]) -> set[tuple[int, str]]:
    """Entries among some and the locales in which a job of theirs is neither accepted nor cancelled."""
    rows = conn.execute(
        "SELECT DISTINCT x.entry, j.locale FROM json_each(?) e CROSS JOIN job_entry x ON x.entry = e.value "
        "JOIN job j ON j.id = x.job AND j.state NOT IN ('accepted', 'cancelled')",
        (json.dumps(list(entries)),),
    ).fetchall()
    return {(row[0], row[1]) for row in rows}


_OUT = "j.state IN ('sent', 'in work') AND j.remote <> '' "


def to_ask(conn: sqlite3.Connection, now: int) -> list[Job]:
    """Jobs that a bureau is working on and about which it is to be asked now."""
    return shaped.every(
        Job,
        conn.execute(
            SHOWN
            + f"WHERE {_OUT} AND (j.ask_at <= ?1 OR j.ask_at > ?1 + 3600000000) ORDER BY j.ask_at, j.id",
            (now,),
        ),
    )


def next_ask(conn: sqlite3.Connection) -> int | None:
    """The instant at which a bureau is to be asked about a job next."""
    row = conn.execute(f"SELECT min(j.ask_at) FROM job j WHERE {_OUT}").fetchone()
    return row[0] if row else None


def asked(conn: sqlite3.Connection, job: int, next_at: int, failures: int) -> None:
    """Keep when a bureau is to be asked about a job next, and how often in a row it gave no usable answer."""
    conn.execute("UPDATE job SET ask_at = ?, failures = ? WHERE id = ?", (next_at, failures, job))


def parts(conn: sqlite3.Connection, job: int, remote: str) -> dict[tuple[str, str], str]:
    """What has come back for a job as a bureau calls it: parts with their digests, and why one could not be taken."""
    rows = conn.execute(
        "SELECT part, sha256, trouble FROM job_part WHERE job = ? AND remote = ?", (job, remote)
    )
    return {(part, sha256): trouble for part, sha256, trouble in rows}


def add_part(
    conn: sqlite3.Connection, job: int, remote: str, part: tuple[str, str], at: int, trouble: str = ""
) -> None:
    """Note that a part (its name and digest) came back; one that came before is the same. One of a name takes the place of an earlier one that
    could not be taken."""
    conn.execute(
        "UPDATE job_part SET trouble = '' WHERE job = ? AND remote = ? AND part = ?", (job, remote, part[0])
    )
    conn.execute(
        "INSERT OR IGNORE INTO job_part (job, remote, part, sha256, at, trouble) VALUES (?, ?, ?, ?, ?, ?)",
        (job, remote, *part, at, trouble),
    )


def ask_now(conn: sqlite3.Connection, bureau: int, remote: str) -> str | None:
    """Let a bureau be asked at once about one of its jobs; returns the state of that, or None where it has none of that name."""
    row = conn.execute(
        "SELECT id, state, ask_at FROM job WHERE bureau = ? AND remote = ?", (bureau, remote)
    ).fetchone()
    if row is None:
        return None
    if row["ask_at"]:
        conn.execute("UPDATE job SET ask_at = 0 WHERE id = ?", (row["id"],))
        wake.tell(conn, "job.called")
    return str(row["state"])


def entries(conn: sqlite3.Connection, job: int) -> list[JobEntry]:
    """The entries of a job in order."""
    return shaped.every(
        JobEntry,
        conn.execute(
            "SELECT x.*, e.uuid, e.type, e.source_locale, e.section, e.actor AS owner, "
            f"{PUT_AWAY} AS put_away FROM job_entry x "
            "JOIN entry e ON e.id = x.entry WHERE x.job = ? ORDER BY x.ord",
            (job,),
        ),
    )


def units(conn: sqlite3.Connection, job: int) -> list[JobUnit]:
    """The units of a job in order."""
    return shaped.every(
        JobUnit,
        conn.execute(
            "SELECT u.* FROM job_unit u JOIN job_entry x ON x.job = u.job AND x.entry = u.entry WHERE u.job = ? "
            "ORDER BY x.ord, u.ord",
            (job,),
        ),
    )


def units_of(conn: sqlite3.Connection, job: int, entry: int) -> list[JobUnit]:
    """The units of one entry of a job in order."""
    return shaped.every(
        JobUnit,
        conn.execute("SELECT * FROM job_unit WHERE job = ? AND entry = ? ORDER BY ord", (job, entry)),
    )


def away(conn: sqlite3.Connection, entry: int, locale: str) -> set[tuple[str, str]]:
    """The units of an entry that are with somebody in a locale, or returned and wait for a choice: keys and source hashes."""
    rows = conn.execute(
        "SELECT u.key, u.source_hash FROM job_entry x JOIN job j ON j.id = x.job AND j.locale = ? "
        "AND j.state IN ('waiting', 'sent', 'in work', 'returned') JOIN job_unit u ON u.job = j.id AND u.entry = x.entry "
        "WHERE x.entry = ? AND u.outcome IN ('', 'conflict')",
        (locale, entry),
    ).fetchall()
    return {(row["key"], row["source_hash"]) for row in rows}


def update(conn: sqlite3.Connection, job: int, at: int, **values: Any) -> None:
    """Change a job; only the columns that may change are taken."""
    for name, value in values.items():
        conn.execute(_CHANGES[name], (value, at, job))


_CHANGES = {
    "state": "UPDATE job SET state = ?, changed_at = ? WHERE id = ?",
    "remote": "UPDATE job SET remote = ?, changed_at = ? WHERE id = ?",
    "done": "UPDATE job SET done = ?, changed_at = ? WHERE id = ?",
    "trouble": "UPDATE job SET trouble = ?, changed_at = ? WHERE id = ?",
    "failures": "UPDATE job SET failures = ?, changed_at = ? WHERE id = ?",
    "bureau": "UPDATE job SET bureau = ?, changed_at = ? WHERE id = ?",
    "translator": "UPDATE job SET translator = ?, changed_at = ? WHERE id = ?",
    "due": "UPDATE job SET due = ?, changed_at = ? WHERE id = ?",
    "due_told": "UPDATE job SET due_told = ?, changed_at = ? WHERE id = ?",
    "due_trouble": "UPDATE job SET due_trouble = ?, changed_at = ? WHERE id = ?",
    "ask_at": "UPDATE job SET ask_at = ?, changed_at = ? WHERE id = ?",
}


def set_unit(
    conn: sqlite3.Connection, job: int, entry: int, key: str, state: str, text: str, outcome: str
) -> None:
    """Keep what became of a unit; nothing is wrong with it any more."""
    set_units(conn, job, entry, [(key, state, text, outcome)])


def set_units(
    conn: sqlite3.Connection, job: int, entry: int, units: Iterable[tuple[str, str, str, str]]
) -> None:
    """Keep what became of units: (key, state, text, outcome); nothing is wrong with them any more."""
    conn.executemany(
        "UPDATE job_unit SET state = ?, text = ?, outcome = ?, trouble = '' WHERE job = ? AND entry = ? AND key = ?",
        [(state, text, outcome, job, entry, key) for key, state, text, outcome in units],
    )


def set_units_whole(conn: sqlite3.Connection, job: int, entry: int, units: Iterable[tuple[str, ...]]) -> None:
    """Keep what became of units with what came of their sentences: (key, state, text, outcome, segments, notes as JSON, what stood beside them as
    XML); nothing is wrong with them any more."""
    conn.executemany(
        "UPDATE job_unit SET state = ?2, text = ?3, outcome = ?4, segments = ?5, notes = ?6, beside = ?7, trouble = '' "
        "WHERE job = ?8 AND entry = ?9 AND key = ?1",
        [(*one, job, entry) for one in units],
    )


def keep_segments(
    conn: sqlite3.Connection, job: int, entry: int, units: Iterable[tuple[str, str, str, str]]
) -> None:
    """Keep what came of the sentences of units: (key, segments, notes as JSON, what stood beside them as XML)."""
    conn.executemany(
        "UPDATE job_unit SET segments = ?, notes = ?, beside = ? WHERE job = ? AND entry = ? AND key = ?",
        [(segments, notes, beside, job, entry, key) for key, segments, notes, beside in units],
    )


def keep_troubles(conn: sqlite3.Connection, job: int, entry: int, units: Iterable[tuple[str, str]]) -> None:
    """Keep why what came for units could not be taken: (key, why in words)."""
    conn.executemany(
        "UPDATE job_unit SET trouble = ? WHERE job = ? AND entry = ? AND key = ?",
        [(why, job, entry, key) for key, why in units],
    )


def returned(conn: sqlite3.Connection, job: int) -> int:
    """How many units of a job have returned."""
    count: int = conn.execute(
        "SELECT count(*) FROM job_unit WHERE job = ? AND outcome <> '' AND source_hash <> ''", (job,)
    ).fetchone()[0]
    return count


def finished(conn: sqlite3.Connection, job: int) -> int:
    """How many units of a job are translated, whether they have returned or wait at the table for it."""
    count: int = conn.execute(
        "SELECT count(*) FROM job_unit WHERE job = ? AND (state <> 'initial' OR outcome <> '') AND source_hash <> ''",
        (job,),
    ).fetchone()[0]
    return count


def units_after(conn: sqlite3.Connection, job: int, after: tuple[int, int], limit: int) -> list[JobUnit]:
    """The units of a job that have a source, in order, after a place: that of the entry in the job, and that of the unit in it. Those of
    entries that were put away are left out."""
    return shaped.every(
        JobUnit,
        conn.execute(
            f"SELECT u.* FROM job_entry x JOIN entry e ON e.id = x.entry AND {AT_WORK} "
            "JOIN job_unit u ON u.job = x.job AND u.entry = x.entry WHERE x.job = ? AND (x.ord, u.ord) > (?, ?) AND u.source_hash <> '' ORDER BY x.ord, u.ord LIMIT ?",
            (job, *after, limit),
        ),
    )


def unit(conn: sqlite3.Connection, job: int, entry: int, key: str) -> JobUnit | None:
    """One unit of a job."""
    return shaped.one(
        JobUnit,
        conn.execute("SELECT * FROM job_unit WHERE job = ? AND entry = ? AND key = ?", (job, entry, key)),
    )


def at_table(conn: sqlite3.Connection, job: int, entry: int, key: str, state: str, segments: str) -> None:
    """Keep the sentences of a unit as they were left at the table, and whether it is translated; what was wrong with it is seen to."""
    conn.execute(
        "UPDATE job_unit SET state = ?1, segments = ?2, trouble = CASE WHEN ?1 = 'initial' THEN trouble ELSE '' END "
        "WHERE job = ?3 AND entry = ?4 AND key = ?5",
        (state, segments, job, entry, key),
    )


def sent_back(
    conn: sqlite3.Connection, job: int, entry: int, key: str, segments: str, why: str, target_hash: str | None
) -> None:
    """Open a unit again that had returned, and say why; `target_hash` is of what stands in the edition."""
    conn.execute(
        "UPDATE job_unit SET state = 'initial', outcome = '', segments = ?, trouble = ?, target_hash = ? "
        "WHERE job = ? AND entry = ? AND key = ?",
        (segments, why, target_hash, job, entry, key),
    )


def add_gone(conn: sqlite3.Connection, job: int, entry: int, key: str) -> None:
    """Put a text into a returned job that somebody edited and whose source was removed: it has to be chosen about."""
    conn.execute(
        "INSERT INTO job_unit (job, entry, key, ord, source_hash, state, outcome) VALUES (?1, ?2, ?3, "
        "(SELECT coalesce(max(ord), 0) + 1 FROM job_unit WHERE job = ?1 AND entry = ?2), '', 'translated', 'conflict')",
        (job, entry, key),
    )


def last_text(conn: sqlite3.Connection, entry: int, locale: str, key: str) -> str | None:
    """The text with which a unit was applied last, in any job of a locale; None when none ever was."""
    row = conn.execute(
        "SELECT u.text FROM job_entry x JOIN job j ON j.id = x.job AND j.locale = ? JOIN job_unit u ON u.job = j.id "
        "AND u.entry = x.entry AND u.key = ? AND u.outcome = 'applied' WHERE x.entry = ? ORDER BY j.id DESC LIMIT 1",
        (locale, key, entry),
    ).fetchone()
    return row[0] if row else None


def set_returned(conn: sqlite3.Connection, job: int, entry: int, revision: int | None) -> None:
    """Keep which revision of the target a job returned as."""
    conn.execute(
        "UPDATE job_entry SET returned_revision = ? WHERE job = ? AND entry = ?", (revision, job, entry)
    )


def sent_revisions(conn: sqlite3.Connection, entry: int, locale: str) -> list[int]:
    """The revisions of an entry's source that were sent for translation into a locale, the newest first."""
    rows = conn.execute(
        "SELECT DISTINCT x.source_revision FROM job_entry x JOIN job j ON j.id = x.job AND j.locale = ? WHERE x.entry = ? "
        "ORDER BY x.source_revision DESC",
        (locale, entry),
    ).fetchall()
    return [row[0] for row in rows]
