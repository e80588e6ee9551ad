"""Dispatches in packages: those that are still to go, put together again elsewhere. There they are open, with their time: nothing of them goes before
somebody there plans them."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator, Sequence

from hawthorn.core import moves, naming
from hawthorn.core.compact import written
from hawthorn.core.errors import BadFile, HawthornError, Invalid
from hawthorn.core.exchange.lines import DispatchLine, MoveLine, TimeLine
from hawthorn.core.exchange.looked import Looked
from hawthorn.core.exchange.package import DISPATCHES, Package, Writing
from hawthorn.core.exchange.soundness import instant, is_id, is_instant
from hawthorn.core.messages import Message, said
from hawthorn.core.timeline import PlannedTime, iso
from hawthorn.operations.exchange.renaming import Came, Names, replaced
from hawthorn.operations.exchange.report import Report, Wish
from hawthorn.operations.release import dispatches, gathering, going, set_fields
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import dispatches as store
from hawthorn.store import entries as entry_store
from hawthorn.store import exchange as progress
from hawthorn.store import moves as move_store
from hawthorn.store import revisions, strands, to_go
from hawthorn.store.dispatches import Dispatch
from hawthorn.store.moves import NewMove

AT_ONCE = 20
"""So many dispatches are brought in one transaction."""
By = Callable[[int], str]


def write(view: View, out: Writing, by: By) -> None:
    """Write the dispatches of a house that are still to go into a package of all its entries."""
    out.lines_if_any(DISPATCHES, (_told(view, one, by) for one in to_go.dispatches(view.conn)))


def _told(view: View, one: to_go.DispatchKept, by: By) -> str:
    time = None
    if one.instant is not None:
        time = {"instant": iso(one.instant), "wall": one.wall, "zone": one.zone, "fold": one.fold}
    return written(
        {
            "id": one.uuid,
            "name": one.name,
            "note": one.note,
            "by": by(one.actor),
            "at": iso(one.created_at),
            "owner": by(one.owner),
            "partial": bool(one.partial),
            "when": time,
            "moves": [
                {
                    "entry": m.entry,
                    "locale": m.locale,
                    "verb": m.verb,
                    "stage": view.setup.stage_names[m.stage],
                    "revision": None if m.follows else m.revision,
                    "regress": bool(m.regress),
                    "follows": bool(m.follows),
                    "payload": json.loads(m.payload),
                    "by": by(m.actor),
                }
                for m in to_go.moves(view.conn, one.id)
                if m.verb in moves.ASKED
            ],
            "inside": [
                {"entry": s.entry, "locale": s.locale, "strand": s.strand}
                for s in to_go.inside(view.conn, one.id)
            ],
        }
    )


# -- looked through ------------------------------------------------------------------------------------------------------


class Named:
    """What the entries that the dispatches of a package name hold: by entry and locale the numbers of revisions, and the strands that are open."""

    def __init__(self, package: Package) -> None:
        self.entries: set[str] = set()
        for line in package.dispatches():
            self.entries |= {move.entry for move in line.moves} | {one.entry for one in line.inside}
        self._numbers: dict[tuple[str, str], frozenset[int]] = {}
        self._strands: set[tuple[str, str, str]] = set()

    def see(self, some: Iterable[Looked]) -> None:
        """Take note of entries."""
        for one in some:
            for edition in one.editions:
                self._numbers[one.id, edition.locale] = edition.numbers
                self._strands |= {(one.id, edition.locale, name) for name in edition.strands}

    def wrong(self, line: DispatchLine) -> Iterator[Message]:
        """What a dispatch names that the package does not have, or names twice."""
        met: set[tuple[str, str]] = set()
        for move in line.moves:
            place = (move.entry, move.locale)
            numbers = self._numbers.get(place)
            if numbers is None:
                yield said("package.no_edition", id=move.entry[:80], locale=move.locale[:80])
            elif move.revision is not None and move.revision not in numbers:
                yield said("package.no_revision", locale=move.locale, number=move.revision)
            elif place in met:
                yield said("package.moved_twice", id=move.entry, locale=move.locale)
            met.add(place)
        for one in line.inside:
            if (one.entry, one.locale, one.strand) not in self._strands or one.strand == "draft":
                yield said("package.no_strand", id=one.entry[:80], name=one.strand[:80])


def sound(package: Package, named: Named) -> Iterator[DispatchLine]:
    """The dispatches of a package, each once it is clear that it can be. Raises `BadFile` for the first that cannot."""
    handles = {one.handle for one in package.people()}
    ids: set[str] = set()
    for number, line in enumerate(package.dispatches(), 1):
        people = {line.by, line.owner, *(move.by for move in line.moves)}
        if not people <= handles:
            why: Message | None = said("package.unknown_person", handle=sorted(people - handles)[0])
        else:
            why = next(_wrong(line), None) or next(named.wrong(line), None)
        if why is not None:
            raise BadFile("package.unsound", part=DISPATCHES, number=number, id=line.id[:80], why=why)
        if line.id in ids:
            raise BadFile("package.id_twice", part=DISPATCHES, number=number, id=line.id)
        ids.add(line.id)
        yield line


def _wrong(line: DispatchLine) -> Iterator[Message]:
    if not is_id(line.id):
        yield said("package.no_id", id=line.id[:80])
    if not is_instant(line.at) or (line.when is not None and not _is_time(line.when)):
        yield said("package.no_instant")
    if len(line.moves) > gathering.MOST:
        yield said("package.too_many_moves", most=gathering.MOST)
    try:
        if naming.needed("name", line.name) != line.name:
            yield said("package.no_name", id=line.id)
        naming.note("note", line.note)
        for move in line.moves:
            moves.asked(move.verb).taken(move.payload)
    except Invalid as error:
        yield error.message


def _is_time(when: TimeLine) -> bool:
    wall = not when.wall or is_instant(f"{when.wall}:00Z")
    return (
        is_instant(when.instant) and wall and when.fold in ("", "earlier", "later") and len(when.zone) <= 80
    )


def look(view: View, package: Package, named: Named, wish: Wish, report: Report) -> None:
    """Add to a report how many dispatches come, and how many of them are not here."""
    names = Names(view, wish, package.sha256)
    for line in sound(package, named):
        report.dispatches += 1
        row = store.by_uuid(view.conn, names.of(line.id))
        report.new_dispatches += row is None or _is_given_up(view, row)


def _is_given_up(view: View, row: Dispatch) -> bool:
    """Whether it is one that an import brought, and that was taken back."""
    return row.state == "cancelled" and move_store.count_moves(view.conn, row.id) == 0


# -- brought -------------------------------------------------------------------------------------------------------------


def bring(act: Act, came: Came, some: Sequence[DispatchLine], past: int) -> None:
    """Put some dispatches together that are not here; `past` were brought before."""
    for place, line in enumerate(some, past):
        row = store.by_uuid(act.conn, came.names.of(line.id))
        if row is None or _is_given_up(act, row):
            _bring(act, came, line, place, row)


def _bring(act: Act, came: Came, line: DispatchLine, place: int, row: Dispatch | None) -> None:
    found = [_move(act, came, move) for move in line.moves]
    new = [move for move in found if move is not None]
    left = len(found) - len(new)
    note = act.keep("importing.moves_left", left=left, all=len(found)) if left else ""
    made = _made(act, came, line, row) if new or not found else None
    if made is not None:
        by = {n.edition: came.actors[m.by] for n, m in zip(found, line.moves, strict=True) if n is not None}
        move_store.add_moves(act.conn, made, new, came.actors[line.by], by)
        for one in line.inside:
            entry = entry_store.entry(act.conn, came.ids.get(one.entry, one.entry))
            if entry is not None and progress.was_added(act.conn, came.package, entry.id):
                strands.put_inside(act.conn, made, entry.id, one.locale, one.strand)
        going.tell(act, "dispatch.opened", made)
    progress.brought_dispatch(act.conn, came.package, place, line.name, made, act.now, note)


def _made(act: Act, came: Came, line: DispatchLine, row: Dispatch | None) -> int:
    w = line.when
    when = PlannedTime(instant(w.instant), w.wall, w.zone, w.fold) if w is not None else None
    owner = came.actors[line.owner]
    if row is not None:
        store.begin_anew(act.conn, row.id, line.name, when, line.note, owner, line.partial)
        return row.id
    about = (line.name, "open", when, line.note, instant(line.at), came.actors[line.by])
    return store.add(act.conn, came.names.of(line.id), *about, owner=owner, partial=line.partial)


def _move(act: Act, came: Came, line: MoveLine) -> NewMove | None:
    """A move as it is here; None for one of what is not here, or of a revision that is another's here: what was there before has its own numbers."""
    entry = entry_store.entry(act.conn, came.ids.get(line.entry, line.entry))
    edition = entry_store.edition(act.conn, entry.id, line.locale) if entry is not None else None
    stage = act.setup.stages.get(line.stage)
    if entry is None or edition is None or stage is None:
        return None
    chosen = None
    if line.revision is not None:
        known = progress.was_added(act.conn, came.package, entry.id)
        at = revisions.numbered(act.conn, edition.id, line.revision) if known else None
        if at is None:
            return None
        chosen = at.id
    try:
        given = replaced(line.payload, came.ids)
        payload = set_fields.taken(act, act.setup.type(entry.type), moves.asked(line.verb), given)
    except HawthornError:
        return None
    return NewMove(line.verb, edition.id, stage, chosen, line.regress, payload, line.follows)


def came_of(view: View, package: int) -> tuple[int, list[dict[str, str]]]:
    """How many came with a package, and those that did not, or not with all that they move, each with why."""
    some = progress.dispatches(view.conn, package)
    left = [{"id": "", "title": one.name, "why": one.note} for one in some if one.note]
    return sum(one.dispatch is not None for one in some), left


# -- taken back ----------------------------------------------------------------------------------------------------------


def undo_some(act: Act, package: int, past: int, left: list[dict[str, str]]) -> int:
    """Call off some of those that came and that nobody did anything with since, after so many that were looked at; returns how many are now. What stays is
    named in `left`."""
    some = progress.dispatches(act.conn, package)[past : past + AT_ONCE]
    for one in some:
        row = store.by_id(act.conn, one.dispatch) if one.dispatch is not None else None
        if row is None or _is_given_up(act, row):
            continue
        if row.state == "open" and row.changed_at == one.at:
            dispatches.cancel(act, row.uuid)
            move_store.drop_moves(act.conn, row.id)
        else:
            left.append({"id": "", "title": row.name, "why": act.say("importing.dispatch_changed")})
    return len(some)
