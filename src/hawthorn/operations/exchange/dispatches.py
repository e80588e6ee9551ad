"""Dispatches in packages: those that are still to go, put together again elsewhere. There they are open, with their time: nothing of them goes before
somebody there plans them."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import Any

from hawthorn.core import moves, naming
from hawthorn.core.compact import written
from hawthorn.core.errors import BadFile, HawthornError, Invalid
from hawthorn.core.exchange.lines import DispatchLine, MoveLine, ReviewLine, TimeLine
from hawthorn.core.exchange.looked import Looked
from hawthorn.core.exchange.package import DISPATCHES, Package, Writing
from hawthorn.core.exchange.soundness import instant, is_id, is_instant
from hawthorn.core.messages import Message, said
from hawthorn.core.timeline import PlannedTime, iso
from hawthorn.operations.exchange import comments
from hawthorn.operations.exchange.renaming import Came, Names, renamed, replaced
from hawthorn.operations.exchange.report import Report, Wish
from hawthorn.operations.release import dispatches, gathering, going, set_fields
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import bringing, leaving, revisions, strands, to_go
from hawthorn.store import dispatches as store
from hawthorn.store import entries as entry_store
from hawthorn.store import exchange as progress
from hawthorn.store import moves as move_store
from hawthorn.store.dispatches import Dispatch
from hawthorn.store.moves import NewMove
from hawthorn.store.to_go import ReviewKept

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
            **_told_about(view, one.id, by),
        }
    )


def _told_about(view: View, dispatch: int, by: By) -> dict[str, Any]:
    """What was decided and said about a dispatch."""
    replies = to_go.replies(view.conn, dispatch)
    return {
        "sign_offs": [
            {
                "entry": s.entry,
                "locale": s.locale,
                "by": by(s.actor),
                "roles": json.loads(s.roles),
                "at": iso(s.at),
                "note": s.note,
            }
            for s in to_go.leaving(view.conn, dispatch)
        ],
        "reviews": [
            {
                "by": by(r.actor),
                "at": iso(r.at),
                "note": r.note,
                "outcome": r.outcome,
                "decided_by": by(r.decided_by) if r.decided_by is not None else None,
                "decided_at": iso(r.decided_at) if r.decided_at is not None else None,
                "reason": r.reason,
            }
            for r in to_go.reviews(view.conn, dispatch)
        ],
        "comments": [
            {"id": c.uuid, **comments.told(c, replies.get(c.id, ()), by)}
            for c in to_go.comments(view.conn, dispatch)
        ],
    }


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
        people, mine = _people_of(line), [line.id, *_said_in(line)]
        if not people <= handles:
            why: Message | None = said("package.unknown_person", handle=sorted(people - handles)[0])
        else:
            why = next(_wrong(line), None) or next(named.wrong(line), None)
        if why is not None:
            raise BadFile("package.unsound", part=DISPATCHES, number=number, id=line.id[:80], why=why)
        if len(set(mine)) != len(mine) or ids & set(mine):
            raise BadFile("package.id_twice", part=DISPATCHES, number=number, id=line.id)
        ids.update(mine)
        yield line


def _people_of(line: DispatchLine) -> set[str]:
    some = {line.by, line.owner}
    for each in (line.moves, line.sign_offs, line.reviews, line.comments):
        some |= {one.by for one in each}
    named = [
        *(r.decided_by for r in line.reviews),
        *(c.resolved_by for c in line.comments),
        *(r.by for c in line.comments for r in c.replies),
    ]
    return some | {one for one in named if one is not None}


def _said_in(line: DispatchLine) -> list[str]:
    """The ids of comments and their answers."""
    return [id for c in line.comments for id in (c.id, *(r.id for r in c.replies))]


def _wrong(line: DispatchLine) -> Iterator[Message]:
    for id in (line.id, *_said_in(line)):
        if not is_id(id):
            yield said("package.no_id", id=id[:80])
    times = [line.at, *_times_about(line)]
    if not all(map(is_instant, times)) or (line.when is not None and not _is_time(line.when)):
        yield said("package.no_instant")
    moved = {(move.entry, move.locale) for move in line.moves}
    signed = [(one.entry, one.locale, one.by) for one in line.sign_offs]
    for entry, locale, _ in signed:
        if (entry, locale) not in moved:
            yield said("package.not_moved", id=entry[:80], locale=locale[:80])
    if len(set(signed)) != len(signed):
        yield said("package.sign_offs", locale=signed[0][1])
    if sum(one.outcome is None for one in line.reviews) > 1:
        yield said("package.reviews")
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


def _times_about(line: DispatchLine) -> Iterator[str]:
    for each in (line.sign_offs, line.reviews, line.comments):
        yield from (one.at for one in each)
    yield from (one.decided_at for one in line.reviews if one.decided_at is not None)
    for said_one in line.comments:
        yield from (r.at for r in said_one.replies)
        if said_one.resolved_at is not None:
            yield said_one.resolved_at


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
        _bring_about(act, came, line, made, {*by})
        going.tell(act, "dispatch.opened", made)
    progress.brought_dispatch(act.conn, came.package, place, line.name, made, act.now, note)


def _bring_about(act: Act, came: Came, line: DispatchLine, made: int, moved: set[int]) -> None:
    """Bring what was decided and said about a dispatch; sign-offs of what it moves here, too."""
    for one in line.sign_offs:
        entry = entry_store.entry(act.conn, came.ids.get(one.entry, one.entry))
        edition = entry_store.edition(act.conn, entry.id, one.locale) if entry is not None else None
        if edition is not None and edition.id in moved:
            leaving.sign(
                act.conn, made, edition.id, came.actors[one.by], one.roles, instant(one.at), one.note
            )
    to_go.add_reviews(act.conn, made, [_review(came, one) for one in line.reviews])
    mine = [renamed(one, came.names) for one in line.comments]
    have = comments.there(act, mine)
    for comment in mine:
        comments.bring(act, comment, bringing.On(dispatch=made), came.actors, have)


def _review(came: Came, line: ReviewLine) -> ReviewKept:
    by = came.actors[line.decided_by] if line.decided_by else None
    at = instant(line.decided_at) if line.decided_at else None
    return ReviewKept(came.actors[line.by], instant(line.at), line.note, line.outcome, by, at, line.reason)


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
            leaving.void(act.conn, row.id)
            to_go.drop_reviews(act.conn, row.id)
        else:
            left.append({"id": "", "title": row.name, "why": act.say("importing.dispatch_changed")})
    return len(some)
