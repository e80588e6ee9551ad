"""Submissions and sign-offs."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from hawthorn.core.dispatch import COMING
from hawthorn.core.quick import dataclass
from hawthorn.store import shaped
from hawthorn.store.put_away import AT_WORK
from hawthorn.store.standings import RELEASE


@dataclass(frozen=True, slots=True)
class Submission:
    """A revision that was submitted for a stage, and what came of it."""

    id: int
    edition: int
    stage: int
    revision: int
    actor: int
    at: int
    note: str
    outcome: str | None
    decided_by: int | None
    decided_at: int | None
    reason: str
    stage_name: str


@dataclass(frozen=True, slots=True)
class Decided(Submission):
    """The same, with who submitted and who decided it."""

    number: int
    by_name: str
    decided_name: str | None


@dataclass(frozen=True, slots=True)
class SubmissionLine(Decided):
    """The same with the entry, as lists show it."""

    uuid: str
    type: str
    source_locale: str
    section: int | None
    owner: int
    entry: int
    locale: str
    title: str
    missing: str


@dataclass(frozen=True, slots=True)
class BetweenStages:
    """An edition between stages, with its entry."""

    edition: int
    locale: str
    stage: int
    entry: int
    type: str
    source_locale: str
    section: int | None


@dataclass(frozen=True, slots=True)
class Signed:
    """A revision that somebody signed off."""

    revision: int
    number: int
    at: int


@dataclass(frozen=True, slots=True)
class Override:
    """What somebody overrode for a revision, and why; `conditions` is JSON."""

    id: int
    revision: int
    content_hash: str
    stage: int
    actor: int
    at: int
    reason: str
    conditions: str
    stage_name: str
    name: str


@dataclass(frozen=True, slots=True)
class SignOffRow:
    """One person's approval of one revision; `roles` and `seen` are JSON."""

    id: int
    revision: int
    content_hash: str
    stage: int
    workflow: str
    workflow_version: int
    actor: int
    roles: str
    at: int
    seen: str
    note: str
    stage_name: str
    name: str
    handle: str


@dataclass(frozen=True, slots=True)
class SignedAround:
    """A sign-off that covered another revision of something shown (an edition), and what was signed off."""

    actor: int
    entry: int
    uuid: str
    locale: str
    shown: int


@dataclass(frozen=True, slots=True)
class WaitingAt:
    """An edition that waits at a stage."""

    edition: int
    entry: int
    locale: str


def waiting(conn: sqlite3.Connection, edition: int) -> Submission | None:
    """The submission of an edition that waits for a decision."""
    return shaped.one(
        Submission,
        conn.execute(
            "SELECT s.*, g.name AS stage_name FROM submission s JOIN stage g ON g.id = s.stage "
            "WHERE s.edition = ? AND s.outcome IS NULL",
            (edition,),
        ),
    )


def latest(conn: sqlite3.Connection, edition: int) -> Decided | None:
    """The newest submission of an edition, with who submitted and who decided."""
    return shaped.one(
        Decided,
        conn.execute(
            "SELECT s.*, g.name AS stage_name, r.number, a.name AS by_name, b.name AS decided_name FROM submission s "
            "JOIN stage g ON g.id = s.stage JOIN revision r ON r.id = s.revision JOIN actor a ON a.id = s.actor "
            "LEFT JOIN actor b ON b.id = s.decided_by WHERE s.edition = ? ORDER BY s.id DESC LIMIT 1",
            (edition,),
        ),
    )


def submit(
    conn: sqlite3.Connection, edition: int, stage: int, revision: int, actor: int, at: int, note: str
) -> None:
    """Record a submission in place of one that waits."""
    decide(conn, edition, "replaced", actor, at, "")
    conn.execute(
        "INSERT INTO submission (edition, stage, revision, actor, at, note) VALUES (?, ?, ?, ?, ?, ?)",
        (edition, stage, revision, actor, at, note),
    )


def decide(conn: sqlite3.Connection, edition: int, outcome: str, actor: int, at: int, reason: str) -> bool:
    """Record the outcome of the submission that waits; False when none does."""
    return (
        conn.execute(
            "UPDATE submission SET outcome = ?, decided_by = ?, decided_at = ?, reason = ? "
            "WHERE edition = ? AND outcome IS NULL",
            (outcome, actor, at, reason, edition),
        ).rowcount
        > 0
    )


def add_sign_off(
    conn: sqlite3.Connection,
    revision: int,
    content_hash: str,
    stage: int,
    workflow: str,
    version: int,
    actor: int,
    roles: Iterable[str],
    at: int,
    seen: Mapping[int, int],
    note: str,
) -> None:
    """Record a sign-off; signing the same revision again covers what it embeds by then."""
    conn.execute(
        "INSERT INTO sign_off (revision, content_hash, stage, workflow, workflow_version, actor, roles, at, "
        "seen, note) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (revision, stage, actor) DO UPDATE SET "
        "workflow = excluded.workflow, workflow_version = excluded.workflow_version, roles = excluded.roles, "
        "at = excluded.at, seen = excluded.seen, note = excluded.note",
        (
            revision,
            content_hash,
            stage,
            workflow,
            version,
            actor,
            json.dumps(list(roles)),
            at,
            json.dumps(seen),
            note,
        ),
    )


def take_off(conn: sqlite3.Connection, revision: int, actor: int | None = None) -> int:
    """Remove the sign-offs of a revision, or one person's; a send-back takes back what was approved."""
    return conn.execute(
        "DELETE FROM sign_off WHERE revision = ?1 AND (?2 IS NULL OR actor = ?2)", (revision, actor)
    ).rowcount


def sign_offs(conn: sqlite3.Connection, revisions: Iterable[int], until: int) -> list[SignOffRow]:
    """The sign-offs of revisions up to an instant, with names, where the hash still fits the revision."""
    return shaped.every(
        SignOffRow,
        conn.execute(
            "SELECT s.*, g.name AS stage_name, a.name, a.handle FROM json_each(?) j CROSS JOIN sign_off s ON s.revision = j.value "
            "JOIN revision r ON r.id = s.revision AND r.content_hash = s.content_hash "
            "JOIN stage g ON g.id = s.stage JOIN actor a ON a.id = s.actor WHERE s.at <= ? ORDER BY s.id",
            (json.dumps(list(revisions)), until),
        ),
    )


def signed_around(conn: sqlite3.Connection, moved: Iterable[tuple[int, int]]) -> list[SignedAround]:
    """For each person one sign-off, of what still stands before release, that covered another revision of something shown.

    `moved` are the editions and revisions that stand now; it is the first of them in that order (`shown`) that is told of.
    """
    cursor = conn.execute(
        "WITH moved AS MATERIALIZED (SELECT key AS n, value ->> 0 AS edition, value ->> 1 AS revision FROM json_each(?)) "
        "SELECT s.actor, min(m.n), e.id AS entry, e.uuid, iif(d.locale = '*', e.source_locale, d.locale) AS locale, "
        "m.edition AS shown FROM moved m CROSS JOIN sign_off_shown h ON h.edition = m.edition AND h.revision <> m.revision "
        "CROSS JOIN sign_off s ON s.id = h.sign_off CROSS JOIN revision r ON r.id = s.revision "
        "CROSS JOIN standing t ON t.edition = r.edition AND t.until IS NULL AND t.revision = s.revision "
        "JOIN stage g ON g.id = t.stage AND g.ord > 0 AND g.name <> 'release' "
        "JOIN edition d ON d.id = t.edition JOIN entry e ON e.id = d.entry AND e.removed_at IS NULL GROUP BY s.actor ORDER BY 2",
        (json.dumps(list(moved)),),
    )
    return shaped.every(SignedAround, cursor)


_COVERED = (
    "SELECT CAST(j.key AS INTEGER) AS edition, s.id AS sign_off, j.value AS revision FROM sign_off s JOIN json_each(s.seen) j "
    "WHERE json_type(s.seen) = 'object'"
)
_FOUND_BY = "SELECT edition, sign_off, revision FROM sign_off_shown"


def found_wrongly(conn: sqlite3.Connection) -> list[int]:
    """The sign-offs that are found by something else than they covered."""
    rows = conn.execute(
        f"SELECT sign_off FROM ({_COVERED} EXCEPT {_FOUND_BY}) UNION SELECT sign_off FROM ({_FOUND_BY} EXCEPT {_COVERED}) ORDER BY 1"
    )
    return [row[0] for row in rows]


def find_anew(conn: sqlite3.Connection) -> None:
    """Let all sign-offs be found by what they covered."""
    conn.execute("DELETE FROM sign_off_shown")
    conn.execute(f"INSERT INTO sign_off_shown (edition, sign_off, revision) {_COVERED}")


def last_signed_by(conn: sqlite3.Connection, edition: int, actor: int) -> Signed | None:
    """The revision of an edition that somebody signed off last, with its number and when."""
    return shaped.one(
        Signed,
        conn.execute(
            "SELECT s.revision, r.number, s.at FROM sign_off s JOIN revision r ON r.id = s.revision "
            "WHERE s.actor = ? AND r.edition = ? ORDER BY s.at DESC, s.id DESC LIMIT 1",
            (actor, edition),
        ),
    )


def add_override(
    conn: sqlite3.Connection,
    revision: int,
    content_hash: str,
    stage: int,
    actor: int,
    at: int,
    reason: str,
    conditions: Iterable[tuple[str, str]],
) -> None:
    """Record that somebody overrode a gate for a revision."""
    conn.execute(
        "INSERT INTO override (revision, content_hash, stage, actor, at, reason, conditions) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (revision, content_hash, stage, actor, at, reason, json.dumps([list(c) for c in conditions])),
    )


def overrides(conn: sqlite3.Connection, revisions: Iterable[int]) -> list[Override]:
    """What was overridden for revisions, where the hash still fits, with who did it and why."""
    return shaped.every(
        Override,
        conn.execute(
            "SELECT p.*, g.name AS stage_name, a.name FROM json_each(?) j CROSS JOIN override p ON p.revision = j.value "
            "JOIN revision r ON r.id = p.revision AND r.content_hash = p.content_hash "
            "JOIN stage g ON g.id = p.stage JOIN actor a ON a.id = p.actor ORDER BY p.id",
            (json.dumps(list(revisions)),),
        ),
    )


# From submissions on: else all entries are looked at for the few that wait.
_LINE = """
SELECT s.*, g.name AS stage_name, e.uuid, e.type, e.source_locale, e.section, e.actor AS owner, e.id AS entry, d.locale, m.title, m.missing,
  r.number, a.name AS by_name, b.name AS decided_name
FROM submission s CROSS JOIN stage g ON g.id = s.stage CROSS JOIN edition d ON d.id = s.edition
CROSS JOIN entry e ON e.id = d.entry CROSS JOIN summary m ON m.edition = d.id CROSS JOIN revision r ON r.id = s.revision
CROSS JOIN actor a ON a.id = s.actor LEFT JOIN actor b ON b.id = s.decided_by
"""
MOST = 2_000
"""So many submissions are looked at for one person."""


def all_waiting(conn: sqlite3.Connection, allowed: str, values: Sequence[Any]) -> list[SubmissionLine]:
    """The submissions that wait of what is allowed (`d` the edition, `e` its entry), oldest first, common editions left out."""
    return shaped.every(
        SubmissionLine,
        conn.execute(
            _LINE
            + "WHERE s.id IN (SELECT w.id FROM submission w WHERE w.outcome IS NULL) AND d.locale <> '*' "
            f"AND {AT_WORK} AND {allowed} ORDER BY s.at LIMIT {MOST}",
            values,
        ),
    )


def waiting_of(conn: sqlite3.Connection, actor: int) -> list[SubmissionLine]:
    """The submissions of somebody that wait, oldest first, common editions left out."""
    return all_waiting(conn, "s.actor = ?", (actor,))


def ready(conn: sqlite3.Connection, allowed: str, values: Sequence[Any]) -> list[SubmissionLine]:
    """What was signed off, still stands in review and so can go out, of what is allowed, said as for `all_waiting`; what was signed off last comes
    first."""
    return shaped.every(
        SubmissionLine,
        conn.execute(
            # By what stands between the draft and what is out: little, however much was signed off before.
            f"{_LINE}WHERE s.id IN (SELECT (SELECT max(x.id) FROM submission x WHERE x.edition = t.edition) "
            f"FROM standing t WHERE t.until IS NULL AND t.stage > {RELEASE}) "
            "AND s.outcome = 'signed off' AND d.locale <> '*' AND e.removed_at IS NULL AND EXISTS (SELECT 1 FROM standing t "
            "WHERE t.edition = s.edition AND t.stage = s.stage AND t.revision = s.revision AND t.until IS NULL) "
            f"AND {allowed} ORDER BY s.decided_at DESC LIMIT {MOST}",
            values,
        ),
    )


def sent_back_to(conn: sqlite3.Connection, actor: int) -> list[SubmissionLine]:
    """What was sent back to someone and not submitted again."""
    return shaped.every(
        SubmissionLine,
        conn.execute(
            _LINE + f"WHERE s.actor = ? AND s.outcome = 'sent back' AND d.locale <> '*' AND {AT_WORK} "
            "AND s.id = (SELECT max(id) FROM submission x WHERE x.edition = s.edition) ORDER BY s.decided_at DESC LIMIT 100",
            (actor,),
        ),
    )


def wait_again(conn: sqlite3.Connection, id: int) -> None:
    """Let a submission that was decided wait once more."""
    conn.execute("UPDATE submission SET outcome = NULL WHERE id = ?", (id,))


def waiting_at(conn: sqlite3.Connection, stage: int) -> list[WaitingAt]:
    """What waits to go on from a stage: edition, entry and locale."""
    return shaped.every(
        WaitingAt,
        conn.execute(
            "SELECT s.edition, d.entry, d.locale FROM submission s JOIN edition d ON d.id = s.edition "
            "JOIN entry e ON e.id = d.entry WHERE s.outcome IS NULL AND s.stage = ? AND d.locale <> '*'",
            (stage,),
        ),
    )


_BETWEEN = """
SELECT DISTINCT d.id AS edition, d.locale, x.stage, e.id AS entry, e.type, e.source_locale, e.section FROM (
  SELECT edition, stage FROM standing WHERE until IS NULL UNION SELECT edition, stage FROM submission WHERE outcome IS NULL
) x JOIN edition d ON d.id = x.edition JOIN entry e ON e.id = d.entry AND e.removed_at IS NULL
JOIN stage g ON g.id = x.stage AND g.ord > 0 AND g.name <> 'release'
"""


def between(conn: sqlite3.Connection) -> list[BetweenStages]:
    """What stands or waits at a stage between draft and release."""
    return shaped.every(BetweenStages, conn.execute(_BETWEEN))


def bound_between(conn: sqlite3.Connection) -> list[BetweenStages]:
    """What a dispatch that is still to go would bring to a stage between draft and release."""
    return shaped.every(
        BetweenStages,
        conn.execute(
            "SELECT DISTINCT d.id AS edition, d.locale, m.stage, e.id AS entry, e.type, e.source_locale, e.section "
            "FROM dispatch p JOIN move m ON m.dispatch = p.id JOIN edition d ON d.id = m.edition AND d.locale <> '*' "
            "JOIN entry e ON e.id = d.entry AND e.removed_at IS NULL JOIN stage g ON g.id = m.stage AND g.ord > 0 AND g.name <> 'release' "
            "WHERE p.state IN (SELECT value FROM json_each(?)) ORDER BY p.id, m.ord",
            (json.dumps(COMING),),
        ),
    )
