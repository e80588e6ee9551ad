"""A list of entries as a table for spreadsheets: what its filters leave, a line for each edition, with the fields that are wanted.

Its columns are called as `core.exchange.mapping` knows them, so that what was changed in a spreadsheet comes in again and is merged.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import Any

from hawthorn.core import fields
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.exchange.mapping import ID, LOCALE, REVISION, TYPE
from hawthorn.core.exchange.sheet import Cells
from hawthorn.core.messages import said
from hawthorn.core.revision import EMPTY, together
from hawthorn.core.timeline import iso
from hawthorn.operations.runtime.act import View
from hawthorn.operations.search import finding
from hawthorn.operations.search.finding import Query
from hawthorn.operations.views import then
from hawthorn.store import entries as store
from hawthorn.store import revisions
from hawthorn.store.entries import Edition
from hawthorn.store.listings import Listed

Page = tuple[list[Cells], str]
Look = Callable[[Callable[[View], Page]], Page]
TITLE = "title"
_OF_ENTRY = (ID, TYPE, LOCALE, REVISION)
_SAID = ("stages", "changed", "by")
"""What is said beside the fields, and read by nobody when it comes in again."""
_AT_ONCE = 200


def columns(view: View, asked: Query, wanted: Sequence[str]) -> list[str]:
    """The fields of a sheet: those that are wanted, or else all of the type that is asked for, or titles alone. Raises `Invalid` for one that no type has, and
    for a list at another instant, of which no drafts are known."""
    if asked.at:
        raise Invalid([FieldProblem("at", said("sheets.now_alone"))])
    kinds = [view.setup.type(asked.type)] if asked.type else list(view.setup.types.values())
    known = {f.name for kind in kinds for f in kind.fields} | {TITLE}
    for name in wanted:
        if name not in known:
            raise Invalid([FieldProblem("field", said("sheets.no_field", name=name, known=sorted(known)))])
    if wanted:
        return list(dict.fromkeys(wanted))
    return [f.name for f in kinds[0].fields] if asked.type else [TITLE]


def lines(read: Look, asked: Query, names: Sequence[str]) -> Iterator[Cells]:
    """The lines of a sheet, its head first; `read` looks at the records for some of them at a time, so that whoever fetches slowly holds nothing up."""
    yield [*_OF_ENTRY, *names, *_SAID]
    cursor = ""
    while True:
        some, cursor = read(partial(_page, asked=asked, names=names, cursor=cursor))
        yield from some
        if not cursor:
            return


def _page(view: View, asked: Query, names: Sequence[str], cursor: str) -> Page:
    rows, more = finding.listing(view, asked, limit=_AT_ONCE, cursor=cursor)
    there = store.editions_among(view.conn, {r.entry for r in rows}, {r.locale for r in rows})
    heads = [one.head for one in there.values() if one.head is not None]
    held = revisions.contents(view.conn, heads)
    stood = then.stand(view, [r.edition for r in rows], None)
    stages = {id: name for name, id in view.setup.stages.items()}
    out: list[Cells] = []
    for row in rows:
        common, own = there.get((row.entry, COMMON)), there.get((row.entry, row.locale))
        shared, mine = (held.get(one.head or 0, EMPTY) if one is not None else EMPTY for one in (common, own))
        kind = view.setup.types.get(row.type)
        values = together(kind, shared, mine) if kind is not None else {}
        cells = [_cell(kind, name, row, values) for name in names]
        at = "; ".join(stages[id] for id in sorted(stood.get(row.edition, ())) if id in stages)
        about = (row.uuid, row.type, row.locale, _revision(own, common))
        out.append([*about, *cells, at, iso(row.updated_at), row.handle])
    return out, more


def _cell(kind: ContentType | None, name: str, row: Listed, values: dict[str, Any]) -> str | float:
    spec = kind.field(name) if kind is not None else None
    if spec is None:
        return row.title if name == TITLE else ""
    value = values.get(name)
    if spec.kind == "number" and not spec.many and isinstance(value, int | float):
        return value
    return fields.cell_of(spec, value)


def _revision(own: Edition | None, common: Edition | None) -> str:
    """What a line was made from, as a cell of `entry.revision` says it."""
    heads = (one.head if one is not None and one.head is not None else 0 for one in (own, common))
    return "r" + "-".join(map(str, heads))
