"""The outline: the tree of a site's pages at a stage and an instant; moving, ordering and copying in it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, TypedDict

from hawthorn.core import contenttypes, numbers, outline
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.outline import natural
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.access.permission import Named
from hawthorn.operations.content import entries, templates
from hawthorn.operations.delivery import projecting, reading
from hawthorn.operations.delivery.reading import Place as Where
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.search import finding
from hawthorn.store import entries as entry_store
from hawthorn.store import limited, revisions, standings, strands
from hawthorn.store import outline as store
from hawthorn.store.entries import Entry
from hawthorn.store.listings import Listed
from hawthorn.store.outline import Place
from hawthorn.store.standings import DRAFT

MOST = 500
"""So many entries are copied at once at most."""


@dataclass(frozen=True, slots=True)
class Line:
    """One entry of the outline as it is at a stage: what it is called there, and what of it is worth knowing."""

    place: Place
    uuid: str
    type: str
    title: str
    locale: str
    """The locale of the title: the wanted one, else the source's."""
    incomplete: bool
    behind: bool
    parent: bool
    """Whether anything is placed below it."""


def stages_from(view: View, stage: int) -> list[int]:
    """The stages that somebody at a stage looks through, the lowest order first. A draft is at no other."""
    if stage == DRAFT:
        return [DRAFT]
    order = view.setup.orders[stage]
    return [s for s, level in sorted(view.setup.orders.items(), key=lambda p: p[1]) if level >= order]


def below(
    view: View, parent: str, where: Where, locale: str = "", *, limit: int = 100, cursor: str = ""
) -> tuple[list[Line], str]:
    """The entries below one (or at the top, without one), in order, and the cursor of the next page."""
    above = _above(view, parent, where) if parent else 0
    start = _cursor(cursor)
    ahead = _foreseen(view, where)
    out: list[Line] = []
    more = ""
    while True:
        places = _level(view, above, where, ahead, start, limit + 1)
        lines = _lines(view, places[:limit], where, ahead, locale)
        out += lines[: limit - len(out)]
        if len(places) <= limit:
            break
        start = (places[limit - 1].rank, places[limit - 1].entry)
        if len(out) >= limit:
            more = f"{out[-1].place.rank}.{out[-1].place.entry}"
            break
    return out, more


def _above(view: View, uuid: str, where: Where) -> int:
    """The entry below which somebody looks: for those who read a site, whatever is out."""
    row = entry_store.entry(view.conn, uuid)
    if row is None or reading.place_of(view, row, where).stage != where.stage:
        raise reading.nothing(uuid)
    return int(row.id)


def _cursor(text: str) -> tuple[str, int]:
    if not text:
        return "", 0
    rank, _, entry = text.rpartition(".")
    number = numbers.whole(entry)
    if number is None or not rank.isascii():
        raise Invalid("common.cursor")
    return rank, number


def _level(
    view: View,
    parent: int,
    where: Where,
    ahead: Mapping[int, Place | None],
    start: tuple[str, int],
    limit: int,
) -> list[Place]:
    """The places below an entry at a stage and instant, after a rank; what is to come lies over what there is."""
    past = reading.earlier(view, where)
    stages = stages_from(view, where.stage)
    found: dict[int, Place] = {}
    for n, stage in enumerate(stages):
        for place in store.below(view.conn, stage, parent, start, limit + len(ahead), past):
            lower = store.of(view.conn, place.entry, stages[:n], past) if n else None
            if lower is None and place.entry not in ahead:
                found.setdefault(place.entry, place)
    for then in ahead.values():
        if then is not None and then.parent == parent and (then.rank, then.entry) > start:
            found[then.entry] = then
    return sorted(found.values(), key=lambda p: (p.rank, p.entry))[:limit]


def _foreseen(view: View, where: Where) -> dict[int, Place | None]:
    """Where planned dispatches will have placed entries by an instant, or one puts them that is read as if it had gone; None for what
    they will have withdrawn whole."""
    if where.stage == DRAFT or not projecting.ahead(view, where):
        return {}
    return projecting.places(view, where)


def _lines(
    view: View, places: Sequence[Place], where: Where, ahead: Mapping[int, Place | None], locale: str
) -> list[Line]:
    """What the outline says of each place whose entry may be read and is a page there."""
    tag = view.setup.locale(locale) if locale else ""
    ids = [p.entry for p in places]
    drafts = where.stage == DRAFT and where.at is None
    rows = finding.summaries(view, ids, tag, whole=not drafts)
    above = store.parents(view.conn, ids, stages_from(view, where.stage))
    above |= {then.parent for then in ahead.values() if then is not None}
    out: list[Line] = []
    for place in places:
        row = rows.get(place.entry)
        if row is None or not view.setup.types[row.type].page:
            continue
        title, said = row.title, row.locale
        if not drafts:
            found = _said_there(view, row, where, tag)
            if found is None:
                continue
            title, said = found
        out.append(
            Line(
                place,
                row.uuid,
                row.type,
                title,
                said,
                bool(row.incomplete),
                bool(row.behind),
                place.entry in above,
            )
        )
    return out


def _said_there(view: View, row: Listed, where: Where, tag: str) -> tuple[str, str] | None:
    """The title of an entry as it stands somewhere, and its locale; None when nothing of it does."""
    title = view.setup.types[row.type].title
    for locale in dict.fromkeys((tag or row.source_locale, row.source_locale)):
        edition = entry_store.edition(view.conn, row.entry, locale)
        entry = entry_store.entry_by_id(view.conn, row.entry)
        there = reading.place_of(view, entry, where, locale)
        found = reading.revision_at(view, edition.id, there) if edition else None
        if found is not None:
            return str(revisions.content(view.conn, found[0]).fields.get(title) or ""), locale
    return None


def trail(view: View, uuid: str, where: Where, locale: str = "") -> list[Line]:
    """An entry and all above it at a stage, the topmost first; raises `NotFound` when it does not stand there."""
    row = permission.find(view, uuid)
    past = reading.earlier(view, where)
    stages = stages_from(view, where.stage)
    ahead = _foreseen(view, where)
    line: list[Place] = []
    at = row.id
    while at and at not in {p.entry for p in line}:
        place = ahead[at] if at in ahead else store.of(view.conn, at, stages, past)
        if place is None:
            break
        line.append(place)
        at = place.parent
    if not line:
        raise NotFound("outline.not_there")
    return _lines(view, line[::-1], where, ahead, locale)


def allowed_below(view: View, uuid: str = "") -> list[str]:
    """The types whose entries may stand below an entry that may be read, or at the top."""
    kind = view.setup.type(permission.find(view, uuid).type) if uuid else None
    out = []
    for name, other in view.setup.types.items():
        if not other.page:
            continue
        if kind is None:
            fits = other.site or (other.parent is not None and not other.parent.required)
        else:
            fits = other.parent is not None and (not other.parent.types or kind.name in other.parent.types)
        if fits and not (other.single and _exists(view, name)):
            out.append(name)
    return out


def _exists(view: View, type: str) -> bool:
    return entry_store.single(view.conn, type) is not None


@dataclass(frozen=True, slots=True)
class Moved:
    """What a move did: the placement before it and the one now, each as the value of the entry's field."""

    before: Any
    now: Any


def move(act: Act, uuid: str, parent: str | None = None, *, before: str = "", after: str = "") -> Moved:
    """Place an entry below another (at the top for an empty one) in the drafts: before or after one of those there, else at the
    end. Without `parent` it comes to stand where that one does, and at the top when none is named."""
    entry = permission.find(act, uuid)
    kind = act.setup.type(entry.type)
    if kind.parent is None:
        raise InTheWay("outline.fixed", kind=kind.label)
    permission.require(act, "write", permission.subject(act, entry, COMMON))
    if parent is None:
        beside = permission.find(act, before or after) if before or after else None
        parent = _parent_of(act, beside) if beside is not None else ""
    above = permission.find(act, parent) if parent else None
    _require_fit(act, kind, above)
    rank = _rank(act, entry.id, above.id if above else 0, before, after)
    value: dict[str, Any] = {"rank": rank, **({"entry": parent} if parent else {})}
    return place(act, uuid, value)


def _parent_of(act: Act, entry: Entry) -> str:
    """The entry (UUID) below which the draft of another stands; empty at the top."""
    here = store.of(act.conn, entry.id, [DRAFT])
    return (
        str(entry_store.entry_by_id(act.conn, here.parent).uuid) if here is not None and here.parent else ""
    )


def place(act: Act, uuid: str, value: Any) -> Moved:
    """Give an entry a placement as it stands in its field; what undoes a move."""
    entry = permission.find(act, uuid)
    kind = act.setup.type(entry.type)
    if kind.parent is None:
        raise InTheWay("outline.neighbour_fixed", kind=kind.label)
    seen = entries.current_base(act, entry.id, entry.source_locale)
    old = revisions.content(act.conn, seen.common).fields.get(kind.parent.name) if seen.common else None
    typed = contenttypes.canonical_fields(kind, {kind.parent.name: value})
    uuid_above, _ = contenttypes.placement(kind, typed)
    above = permission.find(act, uuid_above) if uuid_above else None
    _require_fit(act, kind, above)
    _require_room(act, entry, above.id if above else 0)
    entries.save(act, uuid, entry.source_locale, {kind.parent.name: value}, seen, act.keep("notes.moved"))
    return Moved(old, value)


def _require_fit(view: View, kind: ContentType, above: Entry | None) -> None:
    assert kind.parent is not None
    if above is None:
        if kind.parent.required:
            raise Invalid([FieldProblem(kind.parent.name, said("outline.not_at_the_top", kind=kind.label))])
        return
    other = view.setup.type(above.type)
    if not other.page or (kind.parent.types and other.name not in kind.parent.types):
        may = [view.setup.types[t].label for t in kind.parent.types if t in view.setup.types]
        code = "outline.not_below" if may else "outline.not_below_what_is_no_page"
        what = said(code, kind=kind.label, other=other.label, may=may)
        raise Invalid([FieldProblem(kind.parent.name, what)])


def _require_room(view: View, entry: Entry, parent: int) -> None:
    """The addresses that an entry has, in drafts and in what is out, are free below the new place."""
    row = standings.in_the_way(view.conn, parent, entry.id)
    if row is None:
        return
    untitled = said("common.untitled")
    raise InTheWay(
        "outline.same_address_below" if parent else "outline.same_address_at_the_top",
        other=permission.title(view, row.entry, row.locale) or untitled,
        above=(permission.title(view, parent) or untitled) if parent else "",
        slug=row.slug,
        locale=row.locale,
        entry=entry_store.entry_by_id(view.conn, row.entry).uuid,
    )


def _rank(view: View, entry: int, parent: int, before: str, after: str) -> str:
    """A rank among the drafts below an entry: next to the one that is named, else after all."""
    beside = before or after
    if not beside:
        last = [
            p for p in store.above(view.conn, DRAFT, parent, ("zzzzzzzzzzzzzzzz", 0), 2) if p.entry != entry
        ]
        return outline.between(last[0].rank if last else "", "")
    named = permission.find(view, beside)
    here = store.of(view.conn, named.id, [DRAFT])
    if here is None or here.parent != parent or named.id == entry:
        raise Invalid([FieldProblem("before" if before else "after", said("outline.not_among"))])
    at = (here.rank, here.entry)
    if before:
        others = [p for p in store.above(view.conn, DRAFT, parent, at, 2) if p.entry != entry]
        return _room(others[0].rank if others else "", here.rank)
    others = [p for p in store.below(view.conn, DRAFT, parent, at, 2) if p.entry != entry]
    return _room(here.rank, others[0].rank if others else "")


def _room(before: str, after: str) -> str:
    """A rank between two; where two have the same one, beside both of them (their numbers order them)."""
    return outline.between(before, after) if before < after or not after else outline.between(before, "")


def copy(act: Act, uuid: str, parent: str | None = None) -> tuple[str, int]:
    """Copy an entry with all that is placed below it, in all locales; returns the copy's UUID and how many were made.

    The copy stands beside the original, or below `parent`. References among what is copied lead to the copies.
    """
    entry = permission.find(act, uuid)
    tree = _tree(act, entry.id)
    if len(tree) > MOST:
        raise InTheWay("outline.too_many_below", count=len(tree), most=MOST)
    copies: dict[int, str] = {}
    for place_ in tree:
        row = entry_store.entry_by_id(act.conn, place_.entry)
        kind = act.setup.type(row.type)
        values: dict[str, Any] = {}
        if kind.parent and place_.parent in copies:
            values[kind.parent.name] = {"entry": copies[place_.parent], "rank": place_.rank}
            values[kind.title] = entry_store.title(act.conn, place_.entry, row.source_locale)
        elif kind.parent and parent is not None:
            values[kind.parent.name] = parent or None
        elif kind.parent and place_.parent:
            values[kind.parent.name] = entry_store.entry_by_id(act.conn, place_.parent).uuid
        copies[place_.entry] = templates.copy(act, row.uuid, values)
    _lead_to_copies(act, copies)
    return copies[entry.id], len(copies)


def _tree(view: View, root: int) -> list[Place]:
    """An entry and all that the drafts place below it, those above first, as far as they may be read."""
    first = store.of(view.conn, root, [DRAFT])
    line = [first or Place(root, DRAFT, 0, natural(root))]
    for one in line:
        line += [
            p for p in store.below(view.conn, DRAFT, one.entry, ("", 0), MOST + 1) if _readable(view, p.entry)
        ]
        if len(line) > MOST:
            break
    return line


def _readable(view: View, entry: int) -> bool:
    row = entry_store.entry_by_id(view.conn, entry)
    return row.removed_at is None and permission.readable(view, row)


def _lead_to_copies(act: Act, copies: dict[int, str]) -> None:
    """Let references among copied entries lead to the copies."""
    names = {entry_store.entry_by_id(act.conn, old).uuid: new for old, new in copies.items()}
    for uuid in copies.values():
        row = permission.find(act, uuid)
        kind = act.setup.type(row.type)
        for edition in entry_store.editions(act.conn, row.id):
            if edition.head is None:
                continue
            content = revisions.content(act.conn, edition.head)
            patch = {
                k: v
                for k, old in content.fields.items()
                if not (kind.parent and k == kind.parent.name) and (v := _renamed(old, names)) != old
            }
            if patch:
                tag = row.source_locale if edition.locale == COMMON else edition.locale
                entries.save(act, uuid, tag, patch, entries.current_base(act, row.id, tag), "Copied")


def _renamed(value: Any, names: dict[str, str]) -> Any:
    if isinstance(value, str):
        if value in names:
            return names[value]
        for old, new in names.items():
            value = value.replace(f"urn:uuid:{old}", f"urn:uuid:{new}")
        return value
    if isinstance(value, list):
        return [_renamed(v, names) for v in value]
    if isinstance(value, dict):
        return {k: _renamed(v, names) for k, v in value.items()}
    return value


def search(view: View, words: str, locale: str = "", limit: int = 100) -> list[tuple[Line, list[str]]]:
    """Pages of the drafts by words, each with the titles of what is above it."""
    rows, _ = finding.listing(view, finding.Query(words=words, locale=locale), limit=200)
    out: list[tuple[Line, list[str]]] = []
    seen: set[int] = set()
    for row in rows:
        if row.entry in seen or not view.setup.types[row.type].page:
            continue
        seen.add(row.entry)
        line = trail(view, row.uuid, Where(DRAFT), locale)
        if line and line[-1].uuid == row.uuid:
            out.append((line[-1], [one.title for one in line[:-1]]))
        if len(out) == limit:
            break
    return out


def menus(view: View, uuid: str) -> list[Named]:
    """The menus whose drafts lead to an entry."""
    out: dict[str, Named] = {}
    for row in entry_store.referring(view.conn, uuid):
        if view.setup.types[row.type].menu and _readable(view, row.entry):
            out.setdefault(row.uuid, permission.named(view, row.entry, row.uuid, row.type))
    return list(out.values())


def _titles_beside(view: View, strand: str, lines: Iterable[Line]) -> dict[str, str]:
    """What pages are called on a strand, where they have one of its name."""
    if not strand:
        return {}
    heads = strands.heads_among(view.conn, strand, [line.place.entry for line in lines])
    return {
        line.uuid: str(revisions.content(view.conn, head).fields.get(view.setup.type(line.type).title) or "")
        for line in lines
        if (head := heads.get((line.place.entry, line.locale))) is not None
    }


class ReadNode(TypedDict):
    """A page as those who read a site get it, with its path and the pages below it."""

    id: str
    type: str
    title: str
    locale: str
    path: str | None
    below: list[ReadNode]


def tree(view: View, where: Where, locale: str, root: str = "", depth: int = 3) -> list[ReadNode]:
    """The outline as those who read a site get it: pages that stand there, nested, with their paths."""
    left = [MOST]

    def level(parent: str, deep: int) -> list[ReadNode]:
        lines, _ = below(view, parent, where, locale, limit=min(200, left[0]))
        left[0] = max(left[0] - len(lines), 1)
        rows = limited.limited_among(view.conn, (line.place.entry for line in lines))
        hidden = {row.id for row in rows if reading.hides(view, row, where)}
        titles = _titles_beside(view, where.strand, lines)
        return [
            {
                "id": line.uuid,
                "type": line.type,
                "title": titles.get(line.uuid, line.title),
                "locale": line.locale,
                "path": reading.path_at(view, line.place.entry, line.locale, where),
                "below": level(line.uuid, deep - 1) if deep > 1 and line.parent else [],
            }
            for line in lines
            if not reading.closed(view, line.type) and line.place.entry not in hidden
        ]

    return level(root, depth)
