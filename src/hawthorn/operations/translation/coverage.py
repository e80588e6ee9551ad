"""Coverage kept in step: what an act changed is compared again in the same transaction, and only that."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace

from hawthorn.core.contenttypes import ContentType
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import brought
from hawthorn.core.translation import coverage, units
from hawthorn.core.translation.coverage import Asked, Numbers, Told
from hawthorn.operations.runtime.act import SCHEDULER_SELF, Act, Desk
from hawthorn.store import coverage as store
from hawthorn.store import definitions, revisions
from hawthorn.store.coverage import SOURCE, Covered, Standing

_AT_ONCE = 2_000
"""So many entries are looked at together."""
_MOVING = (
    "entry.",
    "strand.",
    "review.",
    "dispatch.",
    "job.returned",
    "job.chosen",
    "job.file-given",
    "job.accepted",
    "bulk.",
    "import.merged",
    "locale",
)
"""Kinds of events after which an edition may cover more or less than before."""
_FROM = 2
"""So many locales a house has in which anything is translated."""
COUNTED = "1"
"""What a file is counted for: 1 units of drafts and of what is out."""


def follow(act: Act) -> None:
    """Count again what an act was about, and all of a type that was changed; and everything once there is a second locale, before which
    there is nothing to count."""
    counted = definitions.setting(act.conn, "counted") == COUNTED
    if len(act.setup.locales) < _FROM:
        if counted:
            definitions.set_setting(act.conn, "counted", "")
        return
    if not counted:
        _all(act)
        return
    for kind in act.redefined:
        _count(act.conn, act.setup.types, store.ids(act.conn, kind), anew=True)
    touched = {entry for kind, some in act.happened if kind.startswith(_MOVING) for entry in some}
    if touched:
        _count(act.conn, act.setup.types, sorted(touched))


def count(act: Act, entries: Sequence[int]) -> None:
    """Count entries that are new here, where anything is counted."""
    if definitions.setting(act.conn, "counted") == COUNTED:
        _count(act.conn, act.setup.types, entries)


def count_all(act: Act) -> int:
    """Count everything anew, where anything is counted; returns how many entries that were."""
    return _all(act) if definitions.setting(act.conn, "counted") == COUNTED else 0


def catch_up(desk: Desk) -> int:
    """Count all of a file that was written before anything was counted; returns how many entries that were."""

    with desk.db.read() as conn:
        if len(definitions.locales(conn)) < _FROM or definitions.setting(conn, "counted") == COUNTED:
            return 0
    return desk.write(SCHEDULER_SELF, _all)


def _all(act: Act) -> int:
    found = store.ids(act.conn)
    _count(act.conn, act.setup.types, found, anew=True)
    definitions.set_setting(act.conn, "counted", COUNTED)
    return len(found)


def wrong(conn: sqlite3.Connection) -> Iterator[Message]:
    """Editions of which something else is kept than counting them anew gives."""
    if definitions.setting(conn, "counted") != COUNTED:
        return
    types = definitions.types(conn)
    kept = store.every(conn)
    found: dict[tuple[int, str], Covered] = {}
    for some in _batches(store.ids(conn)):
        found |= {(row.entry, row.locale): row for row in _Counting(conn, types, some, anew=True).rows}
    for key in sorted(kept.keys() | found.keys()):
        if kept.get(key) != found.get(key):
            yield said("health.counted_wrongly", entry=key[0], locale=key[1])


def _batches(some: Sequence[int]) -> Iterator[Sequence[int]]:
    for start in range(0, len(some), _AT_ONCE):
        yield some[start : start + _AT_ONCE]


def _count(
    conn: sqlite3.Connection, types: Mapping[str, ContentType], some: Sequence[int], *, anew: bool = False
) -> None:
    for part in _batches(some):
        found = _Counting(conn, types, part, anew=anew)
        fresh = [row for row in found.rows if found.kept.get((row.entry, row.locale)) != row]
        store.keep(conn, fresh, found.told)
        there = {(row.entry, row.locale) for row in found.rows}
        store.drop(conn, [key for key in found.kept if key not in there])


@dataclass(frozen=True, slots=True)
class _Entry:
    """An entry with what stands of it."""

    kind: ContentType
    source: Standing
    others: tuple[Standing, ...]


class _Counting:
    """The rows of some entries as they are now. What was compared before is not compared again, unless all is counted `anew`."""

    def __init__(
        self, conn: sqlite3.Connection, types: Mapping[str, ContentType], some: Sequence[int], *, anew: bool
    ) -> None:
        self.conn = conn
        self.kept = store.rows(conn, some)
        self.told: dict[tuple[int, str], tuple[int, str]] = {}
        self._before: Mapping[tuple[int, str], Covered] = {} if anew else self.kept
        self._asked: dict[int, Asked] = {}
        self._telling: dict[int, Told] = {}
        self._entries = list(_entries(types, store.standing(conn, some)))
        self._read(anew=anew)
        self.rows = [row for entry in self._entries for row in self._of(entry)]

    def _of(self, entry: _Entry) -> Iterator[Covered]:
        source = entry.source
        yield self._source(entry)
        for one in entry.others:
            before = self._before.get((one.entry, one.locale))
            assert source.head is not None
            assert one.head is not None
            now = self._numbers(before, source.head, one.head)
            # Where the source is not out, what is out is measured against its draft.
            against = source.out or source.head
            out = self._out(before, now, (source.head, one.head), against, one.out)
            yield Covered(
                entry=one.entry,
                locale=one.locale,
                state=coverage.state(now=now, out=out, signed=bool(one.signed)),
                source=source.head,
                target=one.head,
                **_facts(now),
                out_source=against if one.out else None,
                out_target=one.out,
                out_due=out.due if out is not None else 0,
            )

    def _source(self, entry: _Entry) -> Covered:
        head = entry.source.head
        before = self._before.get((entry.source.entry, entry.source.locale))
        if before is not None and before.source == head and before.state == SOURCE:
            return before
        assert head is not None
        now = coverage.compared(self._asked[head], ())
        return Covered(
            entry.source.entry,
            entry.source.locale,
            SOURCE,
            head,
            head,
            **_facts(replace(now, current=now.units, missing=0, words_current=now.words)),
            out_source=None,
            out_target=None,
            out_due=0,
        )

    def _numbers(self, before: Covered | None, source: int, target: int) -> Numbers:
        if before is not None and (before.source, before.target) == (source, target):
            return _numbers_of(before)
        return coverage.compared(self._asked[source], self._telling[target])

    def _out(
        self, before: Covered | None, now: Numbers, heads: tuple[int, int], source: int, target: int | None
    ) -> Numbers | None:
        if target is None:
            return None
        if (source, target) == heads:
            return now
        if before is not None and (before.out_source, before.out_target) == (source, target):
            return Numbers(missing=before.out_due)
        return coverage.compared(self._asked[source], self._telling[target])

    # -- what has to be read for it ---------------------------------------------------------------------------

    def _read(self, *, anew: bool) -> None:
        """Read, in sets, what is compared for the first time: what was kept of an edition where it is of that revision, else its text."""
        sources: dict[int, tuple[_Entry, Standing]] = {}
        targets: dict[int, tuple[_Entry, Standing]] = {}
        for entry in self._entries:
            for source, target, one in self._pairs(entry):
                sources[source] = (entry, entry.source)
                if one is not None and target is not None:
                    targets[target] = (entry, one)
        if not sources:
            return
        keys = {(one.entry, one.locale) for _, one in (*sources.values(), *targets.values())}
        there = {} if anew else store.details(self.conn, keys)
        known = dict(there.values())
        contents = revisions.contents(self.conn, [r for r in (*sources, *targets) if r not in known])
        for revision, (entry, one) in sources.items():
            if revision in known:
                self._asked[revision] = {key: (digest, n) for key, digest, n in json.loads(known[revision])}
            else:
                self._asked[revision] = units.counted(entry.kind, brought(entry.kind, contents[revision]))
                self._tell(one, revision, [[k, *v] for k, v in self._asked[revision].items()])
        for revision, (entry, one) in targets.items():
            if revision in known:
                self._telling[revision] = tuple(
                    tuple((key, digest) for key, digest in pairs) for pairs in json.loads(known[revision])
                )
            else:
                self._telling[revision] = coverage.told(entry.kind, brought(entry.kind, contents[revision]))
                self._tell(one, revision, self._telling[revision])

    def _tell(self, one: Standing, revision: int, detail: object) -> None:
        if revision == one.head:
            self.told[one.entry, one.locale] = (revision, json.dumps(detail, separators=(",", ":")))

    def _pairs(self, entry: _Entry) -> Iterator[tuple[int, int | None, Standing | None]]:
        """What has to be compared that was not: (source, target) revisions."""
        source = entry.source
        assert source.head is not None
        mine = self._before.get((source.entry, source.locale))
        if mine is None or mine.source != source.head or mine.state != SOURCE:
            yield source.head, None, None
        for one in entry.others:
            before = self._before.get((one.entry, one.locale))
            if before is None or (before.source, before.target) != (source.head, one.head):
                yield source.head, one.head, one
            against = source.out or source.head
            if one.out is None or (against, one.out) == (source.head, one.head):
                continue
            if before is None or (before.out_source, before.out_target) != (against, one.out):
                yield against, one.out, one


def _entries(types: Mapping[str, ContentType], rows: Iterable[Standing]) -> Iterator[_Entry]:
    by_entry: dict[int, list[Standing]] = {}
    for row in rows:
        if row.head is not None and row.type in types and types[row.type].translated:
            by_entry.setdefault(row.entry, []).append(row)
    for some in by_entry.values():
        source = next((one for one in some if one.locale == one.source_locale), None)
        if source is not None:
            yield _Entry(types[source.type], source, tuple(one for one in some if one is not source))


def _facts(found: Numbers) -> dict[str, int]:
    return {
        "units": found.units,
        "current": found.current,
        "changed": found.changed,
        "missing": found.missing,
        "gone": found.gone,
        "words": found.words,
        "words_current": found.words_current,
    }


def _numbers_of(row: Covered) -> Numbers:
    return Numbers(row.units, row.current, row.changed, row.missing, row.gone, row.words, row.words_current)
