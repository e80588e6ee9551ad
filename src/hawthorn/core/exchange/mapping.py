"""How rows become entries: which column goes where. A mapping is proposed from the names of columns and what stands in them, and can be kept and used again."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import asdict, field
from datetime import date, datetime
from typing import Any
from uuid import UUID

from rapidfuzz import fuzz

from hawthorn.core import fields, richtext, shapes, stripped
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.exchange.rows.base import FILE, Html, Row
from hawthorn.core.fields import Field, Wrong
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass

ID, KEY, LOCALE, REVISION, TYPE = "entry.id", "entry.key", "entry.locale", "entry.revision", "entry.type"
OF_ENTRY = (ID, KEY, LOCALE, REVISION, TYPE)
"""Where a column can go besides the fields of a type: the entry's id here, what it is known by where the row comes from, its locale, the revisions that the
row was made from (as an entity tag has them), and its type."""
_LIKE = 88
"""So alike, in hundredths, a column is to a field that it is proposed for."""
_READABLE = 0.5
"""This share of what stands in a column is to be read as the field's kind."""
_SAMPLES = 3
_USUAL: Mapping[str, tuple[str, ...]] = {
    "title": ("title", "headline", "name", "heading", "metaogtitle"),
    "slug": ("slug", "address", "permalink", "url", "canonical"),
    "body": ("body", "content", "text", "html", "article"),
    "lead": ("summary", "teaser", "lead", "description", "excerpt", "standfirst", "intro", "metadescription"),
    "tags": ("tags", "keywords", "tag", "metakeywords"),
    "day": ("date", "day", "published", "shown"),
    "parent": ("parent", "below", "section"),
}
"""What columns are usually called, by what they hold."""
_OF_ENTRY_USUAL: Mapping[str, tuple[str, ...]] = {
    ID: ("entryid", "id", "uuid"),
    KEY: ("entrykey", "key", "sourceid", "externalid", FILE),
    LOCALE: ("entrylocale", "locale", "language", "lang"),
    REVISION: ("entryrevision",),
    TYPE: ("entrytype",),
}
Find = Callable[[Field, str], str]
"""The entry (UUID) that a cell names by its address or title; raises `Wrong` where it names none, or several."""


@dataclass(frozen=True, slots=True)
class Column:
    """Where a column goes: a field's name, or one of `OF_ENTRY`; nowhere where `to` is empty. `between` is what stands between several values in a cell."""

    column: str
    to: str = ""
    between: str = ""


@dataclass(frozen=True, slots=True)
class RowMapping:
    """How rows become entries of a type, in a locale unless a column says another; pictures that pages show become entries of the type `pictures`, and are
    left out where none is named."""

    type: str
    locale: str
    columns: tuple[Column, ...] = ()
    pictures: str = ""

    def to(self, where: str) -> str:
        """The column that goes somewhere; empty for none."""
        return next((one.column for one in self.columns if one.to == where), "")


@dataclass(frozen=True, slots=True)
class ColumnSeen:
    """A column of a file, with some of what stands in it."""

    column: str
    samples: tuple[str, ...] = ()


@dataclass(slots=True)
class Told:
    """What a row tells of an entry; `wrong` is what of it cannot be, `lost` what is left out of its texts."""

    place: str
    title: str = ""
    id: str = ""
    key: str = ""
    locale: str = ""
    revision: str = ""
    values: dict[str, Any] = field(default_factory=dict)
    wrong: list[Message] = field(default_factory=list)
    lost: list[Message] = field(default_factory=list)


def from_dict(
    data: Mapping[str, Any], types: Mapping[str, ContentType], locales: Iterable[str]
) -> RowMapping:
    """A mapping from what somebody gave. Raises `Invalid` with all that is wrong with it."""
    problems: list[FieldProblem] = []
    kind, tag = types.get(str(data.get("type"))), str(data.get("locale") or "")
    if kind is None:
        problems.append(FieldProblem("type", said("rows.no_type", known=sorted(types))))
    if tag not in locales:
        problems.append(FieldProblem("locale", said("rows.no_locale", known=list(locales))))
    shows = str(data.get("pictures") or "")
    if shows and (types.get(shows) is None or types[shows].file is None):
        known = sorted(one.name for one in types.values() if one.file is not None)
        problems.append(FieldProblem("pictures", said("rows.no_picture_type", known=known)))
    columns: list[Column] = []
    for n, raw in enumerate(shapes.members(data, "columns")):
        made, wrong = shapes.shaped(Column, raw, f"columns.{n}")
        problems += wrong
        if made is None:
            continue
        columns.append(made)
        if made.to and kind is not None and made.to not in OF_ENTRY and kind.field(made.to) is None:
            problems.append(
                FieldProblem(f"columns.{n}.to", said("rows.goes_nowhere", to=made.to, known=_goals(kind)))
            )
    for name, some in (("column", [c.column for c in columns]), ("to", [c.to for c in columns if c.to])):
        twice = [one for one in some if some.count(one) > 1]
        if twice:
            problems.append(FieldProblem("columns", said(f"rows.twice_in.{name}", name=twice[0])))
    if problems:
        raise Invalid(problems)
    assert kind is not None
    return RowMapping(kind.name, tag, tuple(columns), shows)


def to_dict(mapping: RowMapping) -> dict[str, Any]:
    """A mapping as `from_dict` reads it."""
    return asdict(mapping) | {"columns": [asdict(one) for one in mapping.columns]}


def _goals(kind: ContentType) -> list[str]:
    return [f.name for f in kind.fields] + list(OF_ENTRY)


# -- proposing -------------------------------------------------------------------------------------------------------------


def seen(rows: Sequence[Row]) -> list[ColumnSeen]:
    """The columns of some rows in the order in which they come, with some of what stands in each."""
    found: dict[str, list[str]] = {}
    for row in rows:
        for name, value in row.cells.items():
            some = found.setdefault(name, [])
            if len(some) < _SAMPLES and (text := _text(value)) and text not in some:
                some.append(richtext.cut(" ".join(text.split()), 120))
    return [ColumnSeen(name, tuple(some)) for name, some in found.items()]


def propose(
    rows: Sequence[Row],
    types: Sequence[ContentType],
    locales: Sequence[str],
    type: str = "",
    locale: str = "",
) -> RowMapping:
    """The mapping that fits some rows best: of the type that is named, or of that whose fields their columns are most like."""
    names = [one.column for one in seen(rows)]
    paged = any(isinstance(cell, Html) for row in rows for cell in row.cells.values())
    shows = _for_pictures(types) if paged else ""
    best: tuple[float, RowMapping] | None = None
    for kind in types:
        if (type and kind.name != type) or (kind.retired and not type):
            continue
        points, goals = _fitting(kind, names, rows, locales)
        made = tuple(Column(name, goals.get(name, "")) for name in names)
        found = (points, RowMapping(kind.name, locale or locales[0], made, shows))
        best = found if best is None or points > best[0] else best
    if best is None:
        raise Invalid([FieldProblem("type", said("rows.no_type", known=[one.name for one in types]))])
    return best[1]


def _for_pictures(types: Sequence[ContentType]) -> str:
    """The type of which pictures become entries: one with an alt text, if there is any; empty for none."""
    some = [one for one in types if one.file is not None and not one.retired]
    some.sort(key=lambda one: not any(f.counts_as_alt for f in one.fields))
    return some[0].name if some else ""


def _fitting(
    kind: ContentType, names: Sequence[str], rows: Sequence[Row], locales: Sequence[str]
) -> tuple[float, dict[str, str]]:
    """Where each column goes best, and how well a type fits."""
    offers = [
        (points, name, goal)
        for name in names
        for goal, points in _offers(kind, name).items()
        if _readable(kind, goal, [row.cells[name] for row in rows if row.cells.get(name)], locales)
    ]
    goals: dict[str, str] = {}
    total = 0.0
    for points, name, goal in sorted(offers, key=lambda one: -one[0]):
        if name not in goals and goal not in goals.values():
            goals[name] = goal
            total += points
    for given in (row.cells.get(name) for row in rows for name in goals if goals[name] == TYPE):
        total += 100 if given == kind.name else 0
    missing = sum(f.required and f.name not in goals.values() and not f.follows for f in kind.fields)
    return total - missing - (5 if kind.title not in goals.values() else 0), goals


def _offers(kind: ContentType, name: str) -> dict[str, float]:
    """Where a column may go, and how well it fits there, from 0 to 3."""
    said_ = _bare(name)
    out: dict[str, float] = {}
    for goal, usual in _OF_ENTRY_USUAL.items():
        if said_ in usual:
            out[goal] = 4.0 if usual.index(said_) == 0 else 1.5
    for spec in kind.fields:
        if said_ in (_bare(spec.name), _bare(spec.label)):
            out[spec.name] = 3.0
        elif (alike := max(fuzz.ratio(said_, _bare(one)) for one in (spec.name, spec.label))) >= _LIKE:
            out[spec.name] = 2.0 * alike / 100
    for what, usual in _USUAL.items():
        spec_ = _usual_field(kind, what)
        if said_ in usual and spec_ is not None:
            out.setdefault(spec_.name, 1.9 - usual.index(said_) / 20)
    return out


def _usual_field(kind: ContentType, what: str) -> Field | None:
    """The field of a type that holds something usual."""
    if what == "title":
        return kind.field(kind.title)
    if what == "slug":
        return kind.slug
    if what == "parent":
        return kind.parent
    if what == "body":
        return next((f for f in kind.fields if f.kind == "rich" or _rich_block(f)), None)
    if what == "lead":
        said_ = (f for f in kind.fields if f.kind in ("text", "line", "rich") and f.name != kind.title)
        return next((f for f in said_ if _bare(f.name) in _USUAL["lead"]), None) or kind.field(
            kind.meta_description
        )
    wanted = {"tags": "tags", "day": "date"}[what]
    return next((f for f in kind.fields if f.kind == wanted), None)


def _readable(kind: ContentType, goal: str, some: Sequence[Any], locales: Sequence[str]) -> bool:
    """Whether most of what stands in a column can be what it would go to."""
    if not some:
        return True
    if goal == ID:
        return all(_uuid(_text(one)) for one in some)
    if goal == LOCALE:
        return sum(_text(one) in locales for one in some) >= _READABLE * len(some)
    spec = kind.field(goal)
    if spec is None:
        return True
    good = 0
    for one in some:
        try:
            _value(spec, one, "", lambda _spec, _text: str(UUID(int=0)))
            good += 1
        except Wrong:
            continue
    return good >= _READABLE * len(some)


def _bare(name: str) -> str:
    return re.sub(r"[\W_]+", "", name.casefold())


def _uuid(text: str) -> str:
    try:
        return str(UUID(text.strip().removeprefix("urn:uuid:")))
    except ValueError:
        return ""


# -- reading ---------------------------------------------------------------------------------------------------------------


def told(mapping: RowMapping, kind: ContentType, row: Row, locales: Iterable[str], find: Find) -> Told:
    """What a row tells of an entry. A cell that is empty empties its field; a column that is not there leaves it."""
    out = Told(row.place, locale=mapping.locale, lost=list(row.lost))
    for one in mapping.columns:
        if not one.to or one.column not in row.cells:
            continue
        cell = row.cells[one.column]
        spec = kind.field(one.to)
        if spec is None:
            _of_entry(out, kind, one.to, _text(cell).strip(), locales)
            continue
        try:
            out.values[spec.name] = _value(spec, cell, one.between, find)
        except Wrong as wrong:
            out.wrong.append(said("rows.wrong", column=one.column, label=spec.label, why=wrong.message))
        gone = stripped.lost(str(cell)) if isinstance(cell, Html) or spec.kind == "rich" else None
        if gone:
            out.lost.append(said("contenttypes.lost", label=spec.label, gone=gone))
    title = out.values.get(kind.title)
    out.title = title[:200] if isinstance(title, str) else ""
    return out


def mark(mapping: RowMapping, row: Row) -> tuple[str, str] | None:
    """What says which edition a row is about: its entry's id, or else its key, and its locale; None where nothing does."""
    about = [_text(row.cells.get(mapping.to(what))).strip() for what in (ID, KEY, LOCALE)]
    which = about[0] or about[1]
    return (which, about[2] or mapping.locale) if which else None


def _of_entry(out: Told, kind: ContentType, to: str, text: str, locales: Iterable[str]) -> None:
    if not text:
        return
    if to == ID:
        out.id = _uuid(text)
        if not out.id:
            out.wrong.append(said("rows.no_id", text=text[:60]))
    elif to == KEY:
        out.key = text[:400]
    elif to == LOCALE:
        if text not in locales:
            out.wrong.append(said("rows.no_such_locale", text=text[:40], known=list(locales)))
        out.locale = text
    elif to == REVISION:
        out.revision = text[:60]
    elif text != kind.name:
        out.wrong.append(said("rows.another_type", text=text[:40], type=kind.name))


def _value(spec: Field, cell: Any, between: str, find: Find) -> Any:
    """What a cell says for a field, in its stored form. Raises `Wrong`."""
    if cell is None or cell == "" or cell == []:
        return None
    if isinstance(cell, Html):
        return _of_markup(spec, cell)
    if spec.kind in ("reference", "parent"):
        return _referred(spec, cell, between, find)
    several = fields.is_many(spec)
    if isinstance(cell, list):
        if several and not fields.kind_of(spec).parts:
            return fields.canonical_value(spec, [_plain(spec, one) for one in cell if one not in (None, "")])
        cell = cell if several else ", ".join(_text(one) for one in cell)
    if isinstance(cell, Mapping | list):
        return fields.canonical_value(spec, cell)
    if isinstance(cell, bool | int | float) and not several and spec.kind in ("boolean", "number"):
        return fields.canonical_value(spec, cell)
    text = _text(cell)
    if (block := _rich_block(spec)) and text.strip()[:1] != "[":
        return _in_block(spec, block, richtext.from_plain(text))
    return fields.read_cell(spec, text, between)


def _plain(spec: Field, cell: Any) -> Any:
    """One of several values, as a front matter has it."""
    return cell if isinstance(cell, Mapping) else fields.kind_of(spec).from_cell(_text(cell), spec)


def _referred(spec: Field, cell: Any, between: str, find: Find) -> Any:
    """The entries that a cell names, by id, address or title."""
    if isinstance(cell, str) and cell.strip()[:1] == "{":
        return fields.read_cell(spec, cell)
    if not fields.is_many(spec):
        some = [_text(cell)]
    elif isinstance(cell, list):
        some = [_text(one) for one in cell]
    else:
        some = _text(cell).split(between or ";")
    found = [_uuid(one) or find(spec, one.strip()) for one in some if one.strip()]
    return fields.canonical_value(spec, found if fields.is_many(spec) else next(iter(found), None))


def _of_markup(spec: Field, markup: Html) -> Any:
    """What a piece of markup says for a field: as it is where it takes that, or its words."""
    if spec.kind == "rich" and not spec.many:
        return fields.canonical_value(spec, str(markup))
    block = _rich_block(spec)
    if block:
        return _in_block(spec, block, str(markup))
    return fields.read_cell(spec, richtext.text_of(richtext.canonical(markup)))


def _rich_block(spec: Field) -> tuple[str, str] | None:
    """The kind of block of a field that holds a text, and the member in which; None where there is none."""
    if spec.kind != "blocks":
        return None
    some = (
        (k, f) for k in spec.blocks if not k.arranges for f in k.fields if f.kind == "rich" and not f.many
    )
    return next(((k.name, f.name) for k, f in some), None)


def _in_block(spec: Field, block: tuple[str, str], markup: str) -> Any:
    kind, member = block
    text = richtext.canonical(markup)
    return fields.canonical_value(spec, [{"kind": kind, "fields": {member: text}}] if text else [])


def _text(cell: Any) -> str:
    """A cell as words."""
    if isinstance(cell, Html):
        return richtext.text_of(richtext.canonical(cell))
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if isinstance(cell, datetime):
        return cell.isoformat() if cell.tzinfo else f"{cell.isoformat()} UTC"
    if isinstance(cell, date):
        return cell.isoformat()
    if isinstance(cell, list):
        return "; ".join(_text(one) for one in cell)
    return str(cell)
