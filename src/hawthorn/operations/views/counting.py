"""What figures are made of, kept in step with the log: where the work on editions stayed, what became of jobs, and how many words were up to date each day.

It is worked out from what happened alone, and may be worked out again at any time: `hawthorn check` holds it against that, and mends it.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from itertools import groupby

from hawthorn.core import stays, timeline
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.stays import FOLLOWING, Out, Stay
from hawthorn.operations.runtime.act import Act
from hawthorn.store import entries as entry_store
from hawthorn.store import events, outbox
from hawthorn.store import figures as store
from hawthorn.store.figures import Covered, JobCount, Row, Source

NAME = "counter"
"""The follower's name, by which its place in the log is kept."""
AT_ONCE = 1_000
"""So many events are counted together."""
ROWS = 1_000
"""So many rows are written in one transaction, between which others have their turn: one event may be about ten thousand entries."""
_ENTRIES = 500


def news(conn: sqlite3.Connection) -> bool:
    """Whether anything happened that is not counted yet."""
    return outbox.cursor(conn, NAME) < events.last(conn)[0]


def counted(conn: sqlite3.Connection) -> int:
    """The instant up to which the log is counted; 0 before anything is."""
    return events.instant(conn, outbox.cursor(conn, NAME))


@dataclass(frozen=True, slots=True)
class News:
    """What is to be kept otherwise after some events, from one until another: worked out while others write."""

    after: int
    last: int
    gone: list[Row]
    new: list[Row]
    jobs: dict[int, JobCount]

    def parts(self) -> Iterator[tuple[list[Row], list[Row]]]:
        """What is gone and what is new, so many rows at once."""
        for start in range(0, max(len(self.gone), len(self.new)), ROWS):
            yield self.gone[start : start + ROWS], self.new[start : start + ROWS]


def following(conn: sqlite3.Connection) -> News | None:
    """What comes of the next events; None where there are none."""
    cursor = outbox.cursor(conn, NAME)
    last, entries = store.touched(conn, cursor, AT_ONCE)
    if last == cursor:
        return None
    return News(cursor, last, *_differing(conn, entries), _counted(conn, cursor, last))


def keep(conn: sqlite3.Connection, holder: str, gone: Sequence[Row], new: Sequence[Row]) -> None:
    """Keep a part of what came of some events, while the lease is held."""
    if outbox.holds(conn, NAME, holder):
        store.keep(conn, gone, new)


def advance(conn: sqlite3.Connection, holder: str, news: News) -> bool:
    """Note that some events are counted; False where another process has taken over."""
    if not outbox.advance(conn, NAME, holder, news.after, news.last):
        return False
    store.keep_jobs(conn, news.jobs)
    return True


def _differing(conn: sqlite3.Connection, entries: Sequence[int]) -> tuple[list[Row], list[Row]]:
    """What is kept of some entries and should not be, and what should be and is not."""
    gone: list[Row] = []
    new: list[Row] = []
    for some in _batches(entries):
        kept, right = store.kept(conn, some), rows(conn, some)
        gone += kept - right
        new += right - kept
    return gone, new


def _counted(conn: sqlite3.Connection, after: int, last: int) -> dict[int, JobCount]:
    counts: dict[int, JobCount] = {}
    for one in store.of_jobs(conn, after, last):
        if one.job not in counts:
            counts[one.job] = store.job_count(conn, one.job)
        counts[one.job].take(one)
    return counts


def job_counts(conn: sqlite3.Connection, last: int) -> dict[int, JobCount]:
    """What the log says of all jobs until an event."""
    counts: dict[int, JobCount] = {}
    for one in store.of_jobs(conn, 0, last):
        counts.setdefault(one.job, JobCount()).take(one)
    return counts


def rows(conn: sqlite3.Connection, entries: Sequence[int]) -> set[Row]:
    """Where the work on some entries stayed, as it follows from what happened to them."""
    some = store.sources(conn, entries)
    editions = [one.edition for one in some]
    written, submitted = store.written(conn, editions), store.submitted(conn, editions)
    out = store.out(conn, editions)
    found: set[Row] = set()
    for _, of_entry in groupby(some, key=lambda one: one.entry):
        mine = list(of_entry)
        for one in mine:
            told = stays.stays(
                written.get(one.edition, ()),
                submitted.get(one.edition, ()),
                out.get(one.edition, ()),
                one.away,
            )
            found |= {store.row(one, stay) for stay in told}
        found.update(_followed(mine, out))
    return found


def _followed(editions: Sequence[Source], out: dict[int, list[Out]]) -> Iterable[Row]:
    """How the other languages followed the source: kept with the source's edition, under the language that was the last."""
    source = next((one for one in editions if one.locale == one.source_locale), None)
    if source is None or len(editions) < 2:
        return ()
    others = {one.locale: out.get(one.edition, []) for one in editions if one is not source}
    found = []
    for one in stays.followed(out.get(source.edition, []), others):
        ended = source.away if one.went is None else one.went
        how = one.last if one.went is not None else "away" if source.away is not None else ""
        found.append(store.row(source, Stay(FOLLOWING, one.came, ended, how)))
    return found


def uncovered(conn: sqlite3.Connection, now: int) -> set[Covered] | None:
    """How many words are up to date, where that is not what is kept of the last day."""
    last, kept = store.covered_last(conn)
    right = store.covered_now(conn)
    return right if _day(now) >= last and kept != right else None


def cover(conn: sqlite3.Connection, now: int, some: set[Covered]) -> None:
    """Keep how many words are up to date today."""
    store.cover(conn, _day(now), some)


def _day(now: int) -> str:
    return timeline.to_datetime(now).date().isoformat()


def _batches(some: Sequence[int]) -> Iterator[Sequence[int]]:
    for start in range(0, len(some), _ENTRIES):
        yield some[start : start + _ENTRIES]


# -- held against what happened ----------------------------------------------------------------------------------------------


def wrong(conn: sqlite3.Connection) -> Iterator[Message]:
    """Entries of which figures know something else than follows from what happened, as far as the log is counted; and jobs."""
    cursor = outbox.cursor(conn, NAME)
    if not cursor:
        return
    fresh = set(store.touched(conn, cursor, 1 << 60)[1])
    for some in _batches([row.id for row in entry_store.every(conn) if row.id not in fresh]):
        for entry in sorted({row[6] for row in store.kept(conn, some) ^ rows(conn, some)}):
            yield said("health.stays_wrongly", entry=entry)
    kept, right = store.job_counts(conn), job_counts(conn, cursor)
    for job in sorted(kept.keys() | right.keys()):
        if kept.get(job) != right.get(job):
            yield said("health.job_figures_wrong", job=job)


def mend(act: Act) -> int:
    """Work out all of it anew; returns how many rows were others."""
    cursor = outbox.cursor(act.conn, NAME)
    if not cursor:
        return 0
    gone, new = _differing(act.conn, [row.id for row in entry_store.every(act.conn)])
    store.keep(act.conn, gone, new)
    kept, right = store.job_counts(act.conn), job_counts(act.conn, cursor)
    store.keep_jobs(act.conn, right)
    return len(gone) + len(new) + sum(kept.get(job) != one for job, one in right.items())
