"""Lists that sites read: what is out, or drafted, of some types in a locale, in an order, as far as every condition fits.

Where a condition leaves few, those are looked at one by one; where all leave many, the list is walked in its order, and so far at most.
"""

from __future__ import annotations

import heapq
import json
import math
import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from hawthorn.core.filtering import DATE, Condition, Equal, Near, Order, Range
from hawthorn.core.quick import dataclass
from hawthorn.store import filter_values
from hawthorn.store.put_away import AT_WORK

DRAFT, RELEASE = 1, 2
FEW = 1_000
"""Up to so many are looked at one by one."""
WALKED = 20_000
"""So many lines of a list are walked for one page, at most."""
_CELLS = 800
_ENDS = 1 << 62
_Part = tuple[str, list[Any]]


@dataclass(frozen=True, slots=True)
class Line:
    """An entry of a list: its edition there, and its place in the order."""

    entry: int
    uuid: str
    edition: int
    key: tuple[Any, ...]


@dataclass(frozen=True, slots=True)
class LetIn:
    """Whose eyes a list is for: all entries, or those that are not limited, or not to others than these audiences, or that were unlocked (UUIDs)."""

    everything: bool = False
    audiences: tuple[str, ...] = ()
    unlocked: tuple[str, ...] = ()
    asks: bool = False
    """Whether the list asks what is in fields: then locked entries are no part of it, as their being there would tell what they hold."""

    @property
    def part(self) -> _Part:
        """As a condition on `e`."""
        if self.everything:
            return "1", []
        # What is locked is listed, what is hidden is not.
        ways = ["e.limited = ''" if self.asks else "e.limited <> 'hidden'"]
        values: list[Any] = []
        if self.audiences:
            ways.append(
                "EXISTS (SELECT 1 FROM entry_audience a WHERE a.entry = e.id AND a.audience IN (SELECT value FROM json_each(?)))"
            )
            values.append(json.dumps(list(self.audiences)))
        if self.unlocked and self.asks:
            ways.append("(e.limited = 'locked' AND e.uuid IN (SELECT value FROM json_each(?)))")
            values.append(json.dumps(list(self.unlocked)))
        return f"({' OR '.join(ways)})", values


@dataclass(frozen=True, slots=True)
class Asked:
    """What is listed: at a stage, of some types (JSON), in a locale, or that `alone`: else in the first of those that stand in for it,
    and else in the entry's own."""

    stage: int
    types: tuple[str, ...]
    locale: str
    stand_ins: tuple[str, ...]
    alone: bool
    let_in: LetIn

    def ways(self) -> list[_Part]:
        """In which line an entry is listed, the best way first; each leaves out what is listed in a better one."""
        ways: list[_Part] = [("l.locale = ?", [self.locale])]
        if self.alone:
            return ways
        better = [self.locale]
        for tag in self.stand_ins:
            among, values = _among("o.locale", better)
            ways.append((f"l.locale = ? AND NOT EXISTS ({_OTHER[self.stage]} AND {among})", [tag, *values]))
            better.append(tag)
        here, values = _among("l.locale", better)
        there, _ = _among("o.locale", better)
        own = f"l.locale = e.source_locale AND NOT ({here}) AND NOT EXISTS ({_OTHER[self.stage]} AND {there})"
        return [*ways, (own, [*values, *values])]


@dataclass(frozen=True, slots=True)
class Walk:
    """A part of a list; `stopped` is the place at which the walk ended before its lines were enough."""

    lines: list[Line]
    stopped: tuple[Any, ...] | None = None


# What is listed at each stage, under the same names.
_FROM = {
    RELEASE: "listed l JOIN entry e ON e.id = l.entry",
    DRAFT: "(SELECT s.edition, s.entry, s.type, s.locale, s.pinned, coalesce(s.shown, s.updated_at) AS sort FROM summary s "
    "WHERE s.locale <> '*') l JOIN entry e ON e.id = l.entry",
}
_HELD = {
    RELEASE: "l.stage = 2 AND l.until IS NULL",
    DRAFT: AT_WORK,
}
_OTHER = {
    RELEASE: "SELECT 1 FROM listed o WHERE o.entry = l.entry AND o.stage = 2 AND o.until IS NULL",
    DRAFT: "SELECT 1 FROM summary o WHERE o.entry = l.entry",
}


def _among(column: str, tags: Sequence[str]) -> _Part:
    """Whether a locale is one of some; mostly it is about one."""
    if len(tags) == 1:
        return f"{column} = ?", [tags[0]]
    return f"{column} IN (SELECT value FROM json_each(?))", [json.dumps(list(tags))]


def page(
    conn: sqlite3.Connection,
    asked: Asked,
    conditions: Sequence[Condition],
    order: Order,
    after: tuple[Any, ...] | None,
    limit: int,
) -> Walk:
    """A page of a list after a place in it."""
    alone = len(conditions) == 1 and isinstance(conditions[0], Equal) and not order.field
    # Lines with one value lie together in their order: there is nothing to narrow.
    few = None if alone else _few(conn, asked.stage, conditions)
    by = None
    if few is None and not order.field:
        by = next((one for one in conditions if isinstance(one, Equal) and one.texts), None)
    parts = [_condition(asked.stage, one) for one in conditions if one is not by]
    if order.field:
        ranges = [one for one in conditions if isinstance(one, Range) and one.field == order.field]
        return _by_field(conn, asked, parts, (order, ranges), after, limit, few)
    return _by_date(conn, asked, parts, _sought(asked, by), after, limit, few)


@dataclass(frozen=True, slots=True)
class _Sought:
    """What lines of a list are sought by: a type, and a value of a field whose lines lie together; anything where these are empty."""

    type: str = ""
    field: str = ""
    text: str = ""


def _sought(asked: Asked, by: Equal | None) -> list[_Sought]:
    """Streams that together are the whole list: by type, and by the values of a condition that they are sought by."""
    types = asked.types or ("",)
    if by is None:
        return [_Sought(type) for type in types]
    return [_Sought(type, by.field, text) for type in types for text in sorted(by.texts)]


def _by_date(
    conn: sqlite3.Connection,
    asked: Asked,
    parts: Sequence[_Part],
    sought: Sequence[_Sought],
    after: tuple[Any, ...] | None,
    limit: int,
    few: Sequence[int] | None,
) -> Walk:
    start = after or (_ENDS, _ENDS, _ENDS)
    here, *others = asked.ways()
    whole = _merged(
        [_stream(conn, asked, one, here, parts, (start, ()), limit, few) for one in sought], limit
    )
    for stands_in in others:
        # An entry stands in as far as the lines that are better reach, and no further.
        floor = whole.stopped or (whole.lines[-1].key if len(whole.lines) == limit else ())
        some = [_stream(conn, asked, one, stands_in, parts, (start, floor), limit, few) for one in sought]
        whole = _merged([whole, *some], limit)
    return whole


def _stream(
    conn: sqlite3.Connection,
    asked: Asked,
    sought: _Sought,
    where: _Part,
    parts: Sequence[_Part],
    between: tuple[tuple[Any, ...], tuple[Any, ...]],
    limit: int,
    few: Sequence[int] | None,
) -> Walk:
    """Lines in the order of lists, between two places."""
    start, floor = between
    source, at = _FROM[asked.stage], "l"
    held: list[_Part] = []
    if sought.field:
        source, at = f"filter_value v CROSS JOIN {source}", "v"
        held.append(
            (
                "v.stage = ? AND v.field = ? AND v.text = ? AND l.edition = v.edition",
                [asked.stage, sought.field, sought.text],
            )
        )
    if few is not None:
        # Those are looked up one by one, and not the list walked for them.
        source = f"json_each(?) j CROSS JOIN {source}"
        held.append(("l.edition = j.value", []))
    held += [(_HELD[asked.stage], []), asked.let_in.part]
    if sought.type:
        held.append(("l.type = ?", [sought.type]))
    place = f"({at}.pinned, {at}.sort, {at}.edition)"
    held += [where, (f"{place} < (?, ?, ?)", list(start))]
    if floor:
        held.append((f"{place} > (?, ?, ?)", list(floor)))
    in_order = f"ORDER BY {at}.pinned DESC, {at}.sort DESC, {at}.edition DESC LIMIT ?"
    columns = f"l.entry, e.uuid, {at}.edition, {at}.pinned, {at}.sort"
    sql, values = _joined(held if parts and few is None else [*held, *parts])
    if few is not None:
        values = [json.dumps(list(few)), *values]
    walk = f"SELECT {columns} FROM {source} WHERE {sql} {in_order}"
    if few is not None or not parts:
        return Walk([_line(row) for row in conn.execute(walk, (*values, limit)).fetchall()])
    also, more = _joined(parts)
    found: list[Line] = []
    for walked in _walks(limit):
        # The walk has an end, wherever the lines are.
        rows = conn.execute(
            f"SELECT * FROM ({walk}) l WHERE {also} ORDER BY l.pinned DESC, l.sort DESC, l.edition DESC LIMIT ?",
            (*values, walked, *more, limit),
        ).fetchall()
        found = [_line(row) for row in rows]
        if len(found) == limit:
            return Walk(found)
    last = conn.execute(f"{walk} OFFSET ?", (*values, 1, WALKED - 1)).fetchone()
    return Walk(found, (last[3], last[4], last[2]) if last else None)


def _walks(limit: int) -> Iterator[int]:
    """How far a list is walked: at first a little, then as far as it is walked at most."""
    yield from (far for far in (limit * 5, limit * 50) if far < WALKED)
    yield WALKED


def _line(row: Sequence[Any]) -> Line:
    return Line(row[0], row[1], row[2], (row[3], row[4], row[2]))


def _merged(some: Sequence[Walk], limit: int) -> Walk:
    """Several streams as one. Beyond where one of them stopped, nothing is known: the list ends there for now."""
    stops = [one.stopped for one in some if one.stopped is not None]
    stopped = max(stops) if stops else None
    lines: list[Line] = []
    for line in heapq.merge(*(one.lines for one in some), key=lambda line: line.key, reverse=True):
        # What has two of the values that are sought comes twice.
        if (stopped is None or line.key >= stopped) and (not lines or lines[-1].key != line.key):
            lines.append(line)
    return Walk(lines[:limit], stopped if len(lines) < limit else None)


def _by_field(
    conn: sqlite3.Connection,
    asked: Asked,
    parts: Sequence[_Part],
    ordered: tuple[Order, Sequence[Range]],
    after: tuple[Any, ...] | None,
    limit: int,
    few: Sequence[int] | None,
) -> Walk:
    """Lines in the order of a field, within ranges of it; what has nothing in it is not among them."""
    order, ranges = ordered
    column = "v.number" if order.numeric else "v.text"
    way, turn = ("<", " DESC") if order.backwards else (">", "")
    in_order = f"ORDER BY {column}{turn}, v.edition{turn}"
    value: list[_Part] = [("v.stage = ? AND v.field = ? AND v.ord = 0", [asked.stage, order.field])]
    if order.numeric:
        value.append(("v.number IS NOT NULL", []))
    value += [_value(one) for one in ranges]
    source = "filter_value v"
    if few is not None:
        source = "json_each(?) j CROSS JOIN filter_value v"
        value.insert(0, ("v.edition = j.value", []))
    if after is not None:
        value.append((f"({column}, v.edition) {way} (?, ?)", list(after)))
    there = [(_HELD[asked.stage], []), asked.let_in.part, *_of_types(asked.types), _in_locale(asked), *parts]
    columns = f"l.entry, e.uuid, l.edition, {column} AS key"
    sql, values = _joined(value)
    if few is not None:
        values = [json.dumps(list(few)), *values]
    also, more = _joined(there)
    found: list[Line] = []
    for walked in _walks(limit) if few is None else (-1,):
        rows = conn.execute(
            f"SELECT {columns} FROM (SELECT v.edition, v.text, v.number FROM {source} WHERE {sql} {in_order} LIMIT ?) v "
            f"CROSS JOIN {_FROM[asked.stage]} WHERE l.edition = v.edition AND {also} {in_order} LIMIT ?",
            (*values, walked, *more, limit),
        ).fetchall()
        found = [Line(row[0], row[1], row[2], (row[3], row[2])) for row in rows]
        if few is not None or len(found) == limit:
            return Walk(found)
    last = conn.execute(
        f"SELECT {column}, v.edition FROM filter_value v WHERE {sql} {in_order} LIMIT 1 OFFSET ?",
        (*values, WALKED - 1),
    ).fetchone()
    return Walk(found, tuple(last) if last else None)


def _of_types(types: Sequence[str]) -> list[_Part]:
    return [("l.type IN (SELECT value FROM json_each(?))", [json.dumps(list(types))])] if types else []


def _in_locale(asked: Asked) -> _Part:
    ways = asked.ways()
    some = " OR ".join(f"({sql})" for sql, _ in ways)
    return f"({some})", [value for _, values in ways for value in values]


def counted_by_value(
    conn: sqlite3.Connection, asked: Asked, conditions: Sequence[Condition], field: str, most: int
) -> list[tuple[str, int]]:
    """How many entries of a list have each value of a field, those of which there are most first."""
    sql, values = _all_of(conn, asked, conditions)
    rows = conn.execute(
        f"SELECT v.text, count(DISTINCT l.edition) FROM {_FROM[asked.stage]} JOIN filter_value v ON v.edition = l.edition AND v.stage = ? "
        f"AND v.field = ? WHERE {sql} GROUP BY v.text ORDER BY 2 DESC, 1 LIMIT ?",
        (asked.stage, field, *values, most),
    )
    return [(row[0], row[1]) for row in rows]


def counted_by_month(
    conn: sqlite3.Connection, asked: Asked, conditions: Sequence[Condition], field: str, most: int
) -> list[tuple[str, int]]:
    """How many entries of a list fall into each month (of UTC) by the date that is shown, or by a field, the latest first."""
    sql, values = _all_of(conn, asked, conditions)
    month = "strftime('%Y-%m', {0} / 1000000, 'unixepoch')"
    if field == DATE:
        rows = conn.execute(
            f"SELECT {month.format('l.sort')} AS month, count(*) FROM {_FROM[asked.stage]} WHERE {sql} GROUP BY month ORDER BY 1 DESC LIMIT ?",
            (*values, most),
        )
    else:
        rows = conn.execute(
            f"SELECT {month.format('v.number')} AS month, count(DISTINCT l.edition) FROM {_FROM[asked.stage]} JOIN filter_value v "
            f"ON v.edition = l.edition AND v.stage = ? AND v.field = ? WHERE {sql} GROUP BY month ORDER BY 1 DESC LIMIT ?",
            (asked.stage, field, *values, most),
        )
    return [(row[0], row[1]) for row in rows]


def _all_of(conn: sqlite3.Connection, asked: Asked, conditions: Sequence[Condition]) -> _Part:
    """What counts look through."""
    few = _few(conn, asked.stage, conditions)
    parts = [(_HELD[asked.stage], []), asked.let_in.part, *_of_types(asked.types), _in_locale(asked)]
    parts += [_condition(asked.stage, one) for one in conditions]
    if few is not None:
        parts.append(("l.edition IN (SELECT value FROM json_each(?))", [json.dumps(few)]))
    return _joined(parts)


def _joined(parts: Iterable[_Part]) -> _Part:
    some = list(parts)
    return " AND ".join(sql for sql, _ in some), [value for _, values in some for value in values]


def _condition(stage: int, one: Condition) -> _Part:
    """A condition on `l`."""
    if one.field == DATE and isinstance(one, Range):
        return "l.sort >= ? AND l.sort < ?", [_whole(one.low), _whole(one.high)]
    sql, values = _value(one)
    return (
        f"EXISTS (SELECT 1 FROM filter_value v WHERE v.stage = ? AND v.field = ? AND v.edition = l.edition AND {sql})",
        [stage, one.field, *values],
    )


def _value(one: Condition) -> _Part:
    """What a condition asks of a value."""
    match one:
        case Equal(_, texts, numbers) if texts:
            return "v.text IN (SELECT value FROM json_each(?))", [json.dumps(sorted(texts))]
        case Equal(_, _, numbers):
            return "v.number IN (SELECT value FROM json_each(?))", [json.dumps(sorted(numbers))]
        case Range(_, low, high):
            return "v.number >= ? AND v.number < ?", [low, high]
        case Near(_, latitude, longitude, within):
            return "kilometres(v.number, v.other, ?, ?) <= ?", [latitude, longitude, within]


def _whole(number: float) -> int:
    return round(number) if math.isfinite(number) else (_ENDS if number > 0 else -_ENDS)


def _few(conn: sqlite3.Connection, stage: int, conditions: Sequence[Condition]) -> list[int] | None:
    """The editions that the narrowest condition leaves, if there are few."""
    best: list[int] | None = None
    for one in conditions:
        found = _left_by(conn, stage, one)
        if found is not None and (best is None or len(found) < len(best)):
            best = found
    return best


def _left_by(conn: sqlite3.Connection, stage: int, one: Condition) -> list[int] | None:
    if one.field == DATE:
        return None
    part, given = _value(one)
    if isinstance(one, Near):
        cells = filter_values.cells_near(one.latitude, one.longitude, one.within, _CELLS)
        if cells is None:
            return None
        part, given = "v.cell IN (SELECT value FROM json_each(?))", [json.dumps(cells)]
    sql = (
        f"SELECT DISTINCT v.edition FROM filter_value v WHERE v.stage = ? AND v.field = ? AND {part} LIMIT ?"
    )
    found = [row[0] for row in conn.execute(sql, (stage, one.field, *given, FEW + 1)).fetchall()]
    return found if len(found) <= FEW else None
