"""By what readers find entries: the values of fields that their types mark for it, kept for what is out and for drafts."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Mapping, Sequence

from hawthorn.core import compact, filtering
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.fields import Filtered
from hawthorn.core.messages import Message, said
from hawthorn.core.revision import EMPTY, Content, together
from hawthorn.operations.runtime.act import Act
from hawthorn.store import definitions, standings
from hawthorn.store import entries as entry_store
from hawthorn.store import filter_values as store
from hawthorn.store.standings import DRAFT, RELEASE, Values

_AT_ONCE = 500


def keep(act: Act, entries: Sequence[int], stage: int) -> None:
    """Keep by what entries are found at a stage, of types that mark fields for it."""
    kinds = {name: kind for name, kind in act.setup.types.items() if kind.filtered}
    if kinds:
        store.replace(act.conn, stage, entries, _values(act.conn, kinds, entries, stage))


def keep_anew(act: Act, kind: ContentType) -> None:
    """Keep it anew for all entries of a type, as that marks other fields now."""
    rows = [row.id for row in entry_store.of_type(act.conn, kind.name)]
    for start in range(0, len(rows), _AT_ONCE):
        some = rows[start : start + _AT_ONCE]
        for stage in (DRAFT, RELEASE):
            store.replace(act.conn, stage, some, _values(act.conn, {kind.name: kind}, some, stage))


def _values(
    conn: sqlite3.Connection, kinds: Mapping[str, ContentType], entries: Sequence[int], stage: int
) -> dict[int, dict[str, list[Filtered]]]:
    """By what each edition of some entries is found, shared values with its own."""
    if stage == DRAFT:
        rows = standings.values_in_draft(conn, entries, kinds)
    else:
        rows = standings.values_at(conn, entries, kinds, stage)
    shared = {row.entry: written(row) for row in rows if row.locale == COMMON}
    return {
        row.edition: filtering.values_of(
            kinds[row.type], together(kinds[row.type], shared.get(row.entry, EMPTY), written(row))
        )
        for row in rows
        if row.locale != COMMON
    }


def written(row: Values) -> Content:
    """What a row of values holds."""
    return Content(compact.read(row.fields), id=row.revision)


def wrong(conn: sqlite3.Connection) -> Iterator[Message]:
    """Editions that are found by something else than they hold."""
    kinds = {n: k for n, k in definitions.types(conn).items() if k.filtered}
    kept: dict[tuple[int, int], dict[tuple[str, int], Filtered]] = {}
    for stage, edition, field, ord, found in store.every(conn):
        kept.setdefault((stage, edition), {})[field, ord] = found
    rows = [row.id for name in kinds for row in entry_store.of_type(conn, name)]
    for start in range(0, len(rows), _AT_ONCE):
        for stage in (DRAFT, RELEASE):
            for edition, by_field in _values(conn, kinds, rows[start : start + _AT_ONCE], stage).items():
                have = {(name, n): one for name, some in by_field.items() for n, one in enumerate(some)}
                if kept.pop((stage, edition), {}) != have:
                    yield said("health.found_otherwise", edition=edition)
    for _, edition in sorted(kept):
        yield said("health.found_otherwise", edition=edition)
