"""Where the work on editions stayed and for how long, what became of jobs, and how many words were up to date at the end of each day."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.core.stays import FOLLOWING, RELEASE, Out, Stay, Submitted
from hawthorn.store import shaped

Row = tuple[int, str, int, int | None, str, int | None, int, str, str]
"""A stay as it is kept: edition, stage, from, until, how it went on, by whom, entry, type, locale."""


# -- what they follow from -----------------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Source:
    """An edition of which stays are worked out."""

    edition: int
    entry: int
    type: str
    locale: str
    source_locale: str
    away: int | None


def sources(conn: sqlite3.Connection, entries: Iterable[int]) -> list[Source]:
    """The editions of some entries, by entry."""
    return shaped.every(
        Source,
        conn.execute(
            "SELECT d.id AS edition, e.id AS entry, e.type, d.locale, e.source_locale, coalesce(e.removed_at, e.archived_at) AS away "
            "FROM json_each(?) j CROSS JOIN entry e ON e.id = j.value JOIN edition d ON d.entry = e.id AND d.locale <> '*' ORDER BY e.id, d.id",
            (json.dumps(list(entries)),),
        ),
    )


def written(conn: sqlite3.Connection, editions: Iterable[int]) -> dict[int, list[int]]:
    """When the drafts of editions were written, by edition."""
    out: dict[int, list[int]] = {}
    for edition, at in conn.execute(
        "SELECT r.edition, r.at FROM json_each(?) j CROSS JOIN revision r ON r.edition = j.value "
        "JOIN strand s ON s.id = r.strand AND s.name = 'draft' ORDER BY r.edition, r.number",
        (json.dumps(list(editions)),),
    ):
        out.setdefault(edition, []).append(at)
    return out


def submitted(conn: sqlite3.Connection, editions: Iterable[int]) -> dict[int, list[Submitted]]:
    """What was submitted, by edition."""
    out: dict[int, list[Submitted]] = {}
    for edition, *told in conn.execute(
        "SELECT b.edition, g.name, b.at, b.actor, b.outcome, b.decided_at, b.decided_by FROM json_each(?) j "
        "CROSS JOIN submission b ON b.edition = j.value JOIN stage g ON g.id = b.stage ORDER BY b.id",
        (json.dumps(list(editions)),),
    ):
        out.setdefault(edition, []).append(Submitted(*told))
    return out


def out(conn: sqlite3.Connection, editions: Iterable[int]) -> dict[int, list[Out]]:
    """When editions were out, by edition, and who let them."""
    found: dict[int, list[Out]] = {}
    for edition, *told in conn.execute(
        "SELECT t.edition, t.since, t.until, p.actor FROM json_each(?) j CROSS JOIN standing t ON t.edition = j.value AND t.stage = 2 "
        "LEFT JOIN dispatch p ON p.id = t.opened_by ORDER BY t.edition, t.since, t.id",
        (json.dumps(list(editions)),),
    ):
        found.setdefault(edition, []).append(Out(*told))
    return found


def touched(conn: sqlite3.Connection, after: int, most: int) -> tuple[int, list[int]]:
    """The number of the last of the next events, and the entries that they are about."""
    last = conn.execute(
        "SELECT max(seq) FROM (SELECT seq FROM event WHERE seq > ? ORDER BY seq LIMIT ?)", (after, most)
    ).fetchone()[0]
    if last is None:
        return after, []
    rows = conn.execute(
        "SELECT DISTINCT b.entry FROM event e JOIN event_about b ON b.seq = e.seq WHERE e.seq > ? AND e.seq <= ? ORDER BY b.entry",
        (after, last),
    )
    return last, [row[0] for row in rows]


# -- what is kept --------------------------------------------------------------------------------------------------------


def row(of: Source, stay: Stay) -> Row:
    """A stay of an edition as it is kept."""
    return (
        of.edition, stay.stage, stay.came, stay.went, stay.how, stay.by, of.entry, of.type, of.locale,
    )  # fmt: skip


def kept(conn: sqlite3.Connection, entries: Iterable[int]) -> set[Row]:
    """What is kept of some entries."""
    found = conn.execute(
        "SELECT s.* FROM json_each(?) j CROSS JOIN edition d ON d.entry = j.value JOIN stay s ON s.edition = d.id",
        (json.dumps(list(entries)),),
    )
    return {tuple(one) for one in found}


def keep(conn: sqlite3.Connection, gone: Iterable[Row], new: Iterable[Row]) -> None:
    """Forget some stays and keep others."""
    conn.executemany(
        "DELETE FROM stay WHERE edition = ? AND stage = ? AND came = ?", [one[:3] for one in gone]
    )
    conn.executemany("INSERT OR REPLACE INTO stay VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)", list(new))


JOB_KINDS = ("job.sent", "job.returned", "job.accepted", "job.sent-back", "job.segment")


@dataclass(slots=True)
class JobCount:
    """What the log says of a job: when it was first sent, first came back and was accepted; how many of its units were sent back; and how many
    drafts of a machine in it were kept as they were, or changed."""

    sent: int | None = None
    returned: int | None = None
    accepted: int | None = None
    sent_back: int = 0
    kept: int = 0
    changed: int = 0

    def take(self, one: Told) -> None:
        """Take an event into account."""
        if one.kind == "job.sent" and self.sent is None:
            self.sent = one.at
        elif one.kind == "job.returned" and self.returned is None:
            self.returned = one.at
        elif one.kind == "job.accepted":
            self.accepted = one.at
        elif one.kind == "job.sent-back":
            self.sent_back += 1
        elif one.draft == "kept":
            self.kept += 1
        elif one.draft == "changed":
            self.changed += 1


@dataclass(frozen=True, slots=True)
class Told:
    """An event about a job, as far as figures need it. `draft` says what became of a machine's draft: it was `kept` or `changed`."""

    at: int
    kind: str
    job: int
    draft: str | None


def of_jobs(conn: sqlite3.Connection, after: int, last: int) -> list[Told]:
    """What the log says of jobs that are there between two events, oldest first."""
    return shaped.every(
        Told,
        conn.execute(
            "SELECT e.at, e.kind, j.id AS job, p.json ->> 'draft' AS draft FROM event e INDEXED BY event_by_kind "
            "JOIN event_payload p ON p.seq = e.seq JOIN job j ON j.uuid = p.json ->> 'job' "
            "WHERE e.kind IN (SELECT value FROM json_each(?)) AND e.seq > ? AND e.seq <= ? ORDER BY e.seq",
            (json.dumps(JOB_KINDS), after, last),
        ),
    )


def job_counts(conn: sqlite3.Connection) -> dict[int, JobCount]:
    """What is kept of all jobs."""
    return {job: JobCount(*told) for job, *told in conn.execute("SELECT * FROM job_figure")}


def job_count(conn: sqlite3.Connection, job: int) -> JobCount:
    """What is kept of one job."""
    found = conn.execute("SELECT * FROM job_figure WHERE job = ?", (job,)).fetchone()
    return JobCount(*tuple(found)[1:]) if found else JobCount()


def keep_jobs(conn: sqlite3.Connection, some: Mapping[int, JobCount]) -> None:
    """Keep what is known of jobs."""
    conn.executemany(
        "INSERT OR REPLACE INTO job_figure VALUES (?, ?, ?, ?, ?, ?, ?)",
        [(job, c.sent, c.returned, c.accepted, c.sent_back, c.kept, c.changed) for job, c in some.items()],
    )


Covered = tuple[str, str, int, int]
"""A locale, a type, the words there are to translate into it, and how many of them are up to date."""


def covered_now(conn: sqlite3.Connection) -> set[Covered]:
    """How many words are up to date, by locale and type."""
    found = conn.execute(
        "WITH named AS (SELECT tag FROM locale), needed AS (SELECT n.tag, e.type, sum(c.words) AS words FROM coverage c "
        "JOIN entry e ON e.id = c.entry JOIN named n ON n.tag <> c.locale WHERE c.state = 'source' GROUP BY n.tag, e.type), "
        "done AS (SELECT c.locale AS tag, e.type, sum(c.words_current) AS words FROM coverage c JOIN entry e ON e.id = c.entry "
        "WHERE c.state <> 'source' GROUP BY c.locale, e.type) "
        "SELECT n.tag, n.type, n.words, coalesce(d.words, 0) FROM needed n LEFT JOIN done d ON d.tag = n.tag AND d.type = n.type WHERE n.words > 0"
    )
    return {tuple(one) for one in found}


def covered_last(conn: sqlite3.Connection) -> tuple[str, set[Covered]]:
    """What is kept of the last day on which anything was; no day where nothing is."""
    day = conn.execute("SELECT max(day) FROM covered_day").fetchone()[0] or ""
    found = conn.execute("SELECT locale, type, words, current FROM covered_day WHERE day = ?", (day,))
    return day, {tuple(one) for one in found}


def cover(conn: sqlite3.Connection, day: str, some: Iterable[Covered]) -> None:
    """Keep how many words are up to date on a day, in place of what was kept of it."""
    conn.execute("DELETE FROM covered_day WHERE day = ?", (day,))
    conn.executemany("INSERT INTO covered_day VALUES (?, ?, ?, ?, ?)", [(day, *one) for one in some])


# -- what is asked -------------------------------------------------------------------------------------------------------

Part = tuple[str, list[Any]]
"""A condition of SQL on `s`, a stay, and `e`, its entry, with its values."""


def condition(parts: Iterable[Part]) -> Part:
    """Conditions that all have to hold."""
    some = [*parts]
    if any(one == "0" for one, _ in some):
        return NOTHING
    return " AND ".join(one for one, _ in some) or "1", [v for _, values in some for v in values]


NOTHING: Part = ("s.edition = 0", [])
"""A condition that never holds. Of a mere 0 the database would make nothing of the index that it is told to use."""


def _joined(where: Part) -> str:
    """The entry, where a condition asks about it."""
    return " JOIN entry e ON e.id = s.entry" if "e." in where[0] else ""


def ended(conn: sqlite3.Connection, since: int, until: int, where: Part) -> list[tuple[str, int, int, str]]:
    """The stays that ended in a span: stage, from, until, how they went on."""
    found = conn.execute(
        f"SELECT s.stage, s.came, s.went, s.how FROM stay s INDEXED BY stay_ended{_joined(where)} "
        f"WHERE s.went IS NOT NULL AND s.stage <> 'release' AND s.went >= ? AND s.went < ? AND {where[0]}",
        (since, until, *where[1]),
    )
    found.row_factory = None
    return found.fetchall()


def released(conn: sqlite3.Connection, since: int, until: int, where: Part) -> list[int]:
    """When editions went out, in a span."""
    found = conn.execute(
        f"SELECT s.came FROM stay s INDEXED BY stay_out{_joined(where)} "
        f"WHERE s.stage = 'release' AND s.came >= ? AND s.came < ? AND {where[0]}",
        (since, until, *where[1]),
    )
    return [one[0] for one in found]


@dataclass(frozen=True, slots=True)
class Behind:
    """A stay with the edition whose it was, whoever it is assigned to, and who ended it: what a number stands for."""

    id: str
    entry: int
    edition: int
    title: str
    type: str
    locale: str
    source_locale: str
    section: int | None
    owner: int
    assigned: str
    stage: str
    came: int
    went: int | None
    how: str
    handle: str
    name: str
    reason: str


_BEHIND = (
    "SELECT e.uuid AS id, s.entry, s.edition, coalesce(m.title, '') AS title, s.type, s.locale, e.source_locale, e.section, "
    "e.actor AS owner, coalesce((SELECT h.name FROM assignment x JOIN actor h ON h.id = x.holder WHERE x.entry = s.entry "
    "AND x.locale = s.locale AND x.ended_at IS NULL LIMIT 1), '') AS assigned, s.stage, s.came, s.went, s.how, coalesce(a.handle, '') AS handle, "
    "coalesce(a.name, '') AS name, CASE s.how WHEN 'sent back' THEN coalesce((SELECT b.reason FROM submission b "
    "WHERE b.edition = s.edition AND b.decided_at = s.went LIMIT 1), '') ELSE '' END AS reason "
    "FROM stay s{} JOIN entry e ON e.id = s.entry LEFT JOIN summary m ON m.edition = s.edition LEFT JOIN actor a ON a.id = s.by WHERE {} ORDER BY {} LIMIT ?"
)


def waits(conn: sqlite3.Connection, where: Part, limit: int, after: tuple[int, int] = (0, 0)) -> list[Behind]:
    """What is waiting, at stages, or signed off and not planned, the longest first: after an instant from which something waited, and its edition."""
    plain = (
        "s.went IS NULL AND s.stage <> 'release' AND s.stage NOT IN ('draft', 'other languages') AND (s.came, s.edition) > (?, ?) "
        "AND NOT (s.stage = 'signed off' AND EXISTS (SELECT 1 FROM move v JOIN dispatch p ON p.id = v.dispatch AND p.state = 'planned' "
        "WHERE v.edition = s.edition))"
    )
    return shaped.every(
        Behind,
        conn.execute(
            _BEHIND.format(" INDEXED BY stay_waits", f"{plain} AND {where[0]}", "s.came, s.edition"),
            (*after, *where[1], limit),
        ),
    )


def behind(
    conn: sqlite3.Connection,
    span: tuple[int, int],
    stage: str,
    how: Sequence[str],
    where: Part,
    limit: int,
    before: tuple[int, int] | None = None,
) -> list[Behind]:
    """The stays that a number stands for, the latest first: those at a stage that ended in a span (all stages where none is named), in one of some ways where
    any is named; or, for release, those that began in it. `before` is the instant of one of them, and its edition."""
    if stage == RELEASE:
        at, plain, index = "s.came", "s.stage = 'release'", "stay_out"
    else:
        at, plain, index = "s.went", "s.went IS NOT NULL AND s.stage <> 'release'", "stay_ended"
    plain += (
        f" AND {at} >= ? AND {at} < ?"
        + (" AND s.stage = ?" if stage else "")
        + (" AND s.how IN (SELECT value FROM json_each(?))" if how else " AND s.how <> 'away'")
    )
    given: list[Any] = [*span, *([stage] if stage else []), *([json.dumps(list(how))] if how else [])]
    if before is not None:
        plain += f" AND ({at}, s.edition) < (?, ?)"
        given += before
    return shaped.every(
        Behind,
        conn.execute(
            _BEHIND.format(f" INDEXED BY {index}", f"{plain} AND {where[0]}", f"{at} DESC, s.edition DESC"),
            (*given, *where[1], limit),
        ),
    )


def unfollowed(conn: sqlite3.Connection, where: Part) -> int:
    """How many changes of sources some other language has not followed yet."""
    found = conn.execute(
        f"SELECT count(*) FROM stay s INDEXED BY stay_waits{_joined(where)} "
        f"WHERE s.went IS NULL AND s.stage <> 'release' AND s.stage = '{FOLLOWING}' AND {where[0]}",
        where[1],
    )
    return int(found.fetchone()[0])


@dataclass(frozen=True, slots=True)
class Gone:
    """A dispatch that went: when it was to, when it did, and by how many microseconds it was late."""

    id: str
    number: int
    name: str
    due: int | None
    at: int
    late_by: int


def dispatches(conn: sqlite3.Connection, since: int, until: int) -> list[Gone]:
    """The dispatches that went in a span, the latest first."""
    return shaped.every(
        Gone,
        conn.execute(
            "SELECT uuid AS id, id AS number, name, instant AS due, ended_at AS at, coalesce(late_by, 0) AS late_by FROM dispatch "
            "WHERE ended_at >= ? AND ended_at < ? AND state IN ('gone', 'undone') ORDER BY ended_at DESC, id DESC",
            (since, until),
        ),
    )


@dataclass(frozen=True, slots=True)
class JobFigure:
    """What became of a job: by which bureau it was (0 for the house's own people), how many units and words it has, when it was sent and came back,
    how many of its units were sent back, and how many of a machine's drafts in it were kept or changed."""

    id: str
    bureau: int
    bureau_name: str
    locale: str
    units: int
    words: int
    sent: int | None
    returned: int | None
    accepted: int | None
    sent_back: int
    kept: int
    changed: int


def jobs(conn: sqlite3.Connection, since: int, until: int) -> list[JobFigure]:
    """The jobs that returned in a span."""
    return shaped.every(
        JobFigure,
        conn.execute(
            "SELECT j.uuid AS id, coalesce(j.bureau, 0) AS bureau, coalesce(b.name, '') AS bureau_name, j.locale, j.total AS units, j.words, "
            "coalesce(f.sent, c.sent_at, c.at) AS sent, f.returned, f.accepted, f.sent_back, f.kept, f.changed "
            "FROM job_figure f INDEXED BY job_figure_by_return JOIN job j ON j.id = f.job JOIN commission c ON c.id = j.commission "
            "LEFT JOIN bureau b ON b.id = j.bureau WHERE f.returned IS NOT NULL AND f.returned >= ? AND f.returned < ? ORDER BY f.returned DESC",
            (since, until),
        ),
    )


def covered(conn: sqlite3.Connection, until: Sequence[str]) -> list[tuple[int, str, str, int, int]]:
    """For each of some days, by its number, and for each locale and type the words there were to translate and how many of them were up to date, as on
    the last day that is kept until then."""
    found = conn.execute(
        "SELECT j.key, c.locale, c.type, c.words, c.current FROM json_each(?) j CROSS JOIN covered_day c ON c.day = "
        "(SELECT max(day) FROM covered_day WHERE day <= j.value)",
        (json.dumps(list(until)),),
    )
    return [tuple(one) for one in found]
