"""Questions of translators about a sentence of a job, with their answers."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Question:
    """A question about a sentence, by whom, and the answer where there is one."""

    id: int
    job: int
    entry: int
    key: str
    segment: str
    text: str
    actor: int
    at: int
    answer: str
    answered_by: int | None
    answered_at: int | None
    remote: str
    context: str
    entry_uuid: str
    by_name: str
    answered_name: str | None


_ROW = """
SELECT q.*, e.uuid AS entry_uuid, a.name AS by_name, b.name AS answered_name FROM job_question q
JOIN entry e ON e.id = q.entry JOIN actor a ON a.id = q.actor LEFT JOIN actor b ON b.id = q.answered_by
"""


def add(
    conn: sqlite3.Connection,
    job: int,
    place: tuple[int, str, str],
    text: str,
    actor: int,
    at: int,
    remote: tuple[str, str] = ("", ""),
) -> int:
    """Ask about a sentence: the entry, the unit and the segment; what a bureau asks has a name there, and an address."""
    cursor = conn.execute(
        "INSERT INTO job_question (job, entry, key, segment, text, actor, at, remote, context) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (job, *place, text, actor, at, *remote),
    )
    return int(cursor.lastrowid or 0)


def answer(conn: sqlite3.Connection, id: int, text: str, actor: int, at: int) -> None:
    """Answer a question, or answer it otherwise."""
    conn.execute(
        "UPDATE job_question SET answer = ?, answered_by = ?, answered_at = ? WHERE id = ?",
        (text, actor, at, id),
    )


def remotes(conn: sqlite3.Connection, job: int) -> set[str]:
    """What the bureau of a job has asked already, as it calls that."""
    rows = conn.execute("SELECT remote FROM job_question WHERE job = ? AND remote <> ''", (job,))
    return {row[0] for row in rows}


def of_job(conn: sqlite3.Connection, job: int) -> list[Question]:
    """The questions about a job, in the order in which they were asked."""
    return shaped.every(Question, conn.execute(_ROW + "WHERE q.job = ? ORDER BY q.id", (job,)))


def get(conn: sqlite3.Connection, job: int, id: int) -> Question | None:
    """One question about a job."""
    return shaped.one(Question, conn.execute(_ROW + "WHERE q.job = ? AND q.id = ?", (job, id)))
