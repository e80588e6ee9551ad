"""Two revisions, stages or strands of an edition side by side, field by field."""

from __future__ import annotations

from typing import TypedDict

from hawthorn.core import compare, numbers
from hawthorn.core.compare import Run
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import NotFound
from hawthorn.core.revision import EMPTY, Content, together
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.operations.search import finding
from hawthorn.operations.views import show_assisted
from hawthorn.store import entries as store
from hawthorn.store import revisions, standings
from hawthorn.store.entries import Edition, Entry
from hawthorn.store.revisions import At


class Side(TypedDict):
    """One side of a comparison: what it was asked for by, what it is called, and the numbers of its revision and of that of the shared
    fields."""

    name: str
    label: str
    revision: int | None
    common_revision: int | None


class DiffPart(TypedDict):
    """One paragraph, or a plain field: its words, and which of them are new or gone; `path` is where it stands in the values of its entry."""

    how: str
    tag: str
    paragraph: str
    label: str
    path: str
    runs: list[Run]


class FieldDiff(TypedDict):
    """One field that differs."""

    field: str
    label: str
    before: str
    after: str
    parts: list[DiffPart]


class Comparison(TypedDict):
    """Two revisions or stages, field by field."""

    before: Side
    after: Side
    fields: list[FieldDiff]


def comparison(view: View, uuid: str, locale: str, before: str, after: str) -> Comparison:
    """Two revisions or stages of an edition, shared fields included, field by field.

    A side is a revision's number (with a plus and that of the shared fields' revision, where it is not the one of that time), a stage's
    name (`draft` is the head, `release` what is out), or `strand:` and a name; before an at sign stands the locale, if it is another
    one.
    """
    row = permission.find(view, uuid, locale)
    kind = view.setup.type(row.type)
    sides = []
    for name in (before, after):
        where, _, plain = name.rpartition("@")
        tag = view.setup.locale(where or locale)
        permission.find(view, uuid, tag)
        sides.append(_side(view, row, tag, plain))
    old, new = (side[1] for side in sides)
    reading = finding.reading(view, kind, view.setup.locale(locale), old, new)
    differences = show_assisted.told(view, kind, sides[1][2], compare.compare(kind, old, new, reading))
    return {
        "before": sides[0][0],
        "after": sides[1][0],
        "fields": [
            {
                "field": d.field,
                "label": d.label,
                "before": d.before,
                "after": d.after,
                "parts": [
                    {
                        "how": p.how,
                        "tag": p.tag,
                        "paragraph": p.paragraph,
                        "label": p.label,
                        "path": p.path,
                        "runs": [*p.runs],
                    }
                    for p in d.parts
                ],
            }
            for d in differences
        ],
    }


def _side(view: View, row: Entry, tag: str, name: str) -> tuple[Side, Content, list[tuple[int, int]]]:
    """A side of a comparison: what is said of it, what it holds, and the editions with their revisions that say so."""
    own = store.edition(view.conn, row.id, tag)
    common = store.edition(view.conn, row.id, COMMON)
    if own is None or common is None:
        return (
            {"name": name, "label": view.say("show.nothing"), "revision": None, "common_revision": None},
            EMPTY,
            [],
        )
    shared = common.head
    mine: int | None
    plain, _, beside_it = name.partition("+")
    if plain.isdigit():
        found = _numbered(view, own, plain)
        then = revisions.as_of(view.conn, common.id, found.at, common.strand)
        mine, shared, label = found.id, then, view.say("show.revision", number=plain)
        if beside_it:
            shared = _numbered(view, common, beside_it).id
    elif name == store.DRAFT_STRAND:
        mine, label = own.tip, view.say("show.draft", number=own.tip_number)
    elif name.startswith("strand:"):
        beside = store.edition(view.conn, row.id, tag, name.removeprefix("strand:"))
        if beside is None:
            raise NotFound("show.no_strand", name=name.replace(":", " "))
        with_it_strand = store.edition(view.conn, row.id, COMMON, name.removeprefix("strand:"))
        mine, label = beside.tip, view.say("show.strand", name=beside.strand_name, number=beside.head_number)
        shared = with_it_strand.head if with_it_strand else shared
    else:
        stage = view.setup.stages.get(name)
        if stage is None:
            raise NotFound("show.no_revision_or_stage", name=name)
        stand = standings.now_at(view.conn, [own.id, common.id])
        standing, with_it = stand.get(own.id, {}).get(stage), stand.get(common.id, {}).get(stage)
        mine = standing.revision if standing else None
        if with_it is not None:
            shared = with_it.revision
        elif mine is None:
            shared = None
        if mine:
            number = revisions.number(view.conn, mine)
            label = view.say("show.stage", stage=view.setup.labels[name].lower(), number=number)
        else:
            label = view.say("show.nothing_at", stage=name)
    content = revisions.content(view.conn, mine) if mine else EMPTY
    under = revisions.content(view.conn, shared) if shared else EMPTY
    values = together(view.setup.type(row.type), under, content)
    both = Content(values, {**under.paragraph_ids, **content.paragraph_ids})
    return (
        {
            "name": name,
            "label": label,
            "revision": revisions.number(view.conn, mine) if mine else None,
            "common_revision": revisions.number(view.conn, shared) if shared else None,
        },
        both,
        [(one.id, held) for one, held in ((own, mine), (common, shared)) if held],
    )


def _numbered(view: View, edition: Edition, text: str) -> At:
    number = numbers.whole(text)
    found = revisions.numbered(view.conn, edition.id, number) if number is not None else None
    if found is None:
        raise NotFound("common.no_revision", number=text[:20])
    return found
