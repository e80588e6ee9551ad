"""What requests come to: the lines of a dispatch, with those of what goes along with each."""

from __future__ import annotations

import json
from collections.abc import Collection, Mapping, Sequence
from typing import Any

from hawthorn.core import moves, timeline
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import HawthornError, InTheWay, NotFound
from hawthorn.core.messages import said, told_by
from hawthorn.core.moves import Touched
from hawthorn.core.workflow import Stage, Unmet, Workflow
from hawthorn.operations.access import permission
from hawthorn.operations.release import bringing, inside, set_fields, workflows
from hawthorn.operations.release.lines import Line, Lines, MoveRequest
from hawthorn.operations.runtime.act import View
from hawthorn.store import dispatches as store
from hawthorn.store import entries, gates, packages, revisions, standings
from hawthorn.store import moves as move_store
from hawthorn.store.dispatches import Dispatch
from hawthorn.store.entries import Edition, Entry
from hawthorn.store.moves import AskedMove, Move


def asked(view: View, requests: Sequence[MoveRequest]) -> Lines:
    """The lines of what somebody asks for now; raises for what cannot be."""
    lines = Lines(coming=_coming(view, requests))
    for request in requests:
        lines_for(view, request, lines)
    return lines


def gathered(view: View, requests: Sequence[MoveRequest], dispatch: int) -> Lines:
    """The lines of what was put into an open dispatch. What cannot be worked out any more, as its entry was removed, or its stage or field is
    gone, is a line that says so: it keeps the rest from going until it is taken out, and hides nothing of it."""
    lines = Lines(inside.written(view, dispatch), _coming(view, requests))
    for request in requests:
        there = len(lines)
        try:
            lines_for(view, request, lines)
        except HawthornError as error:
            lines.take_off(there)
            _put_stuck(view, request, lines, error)
    return lines


def kept(view: View, row: Dispatch, entry: int | None = None) -> list[Line]:
    """The lines of a dispatch, or those of one entry: as they were kept, and of one that is open as they would be."""
    there = (
        move_store.asked(view.conn, row.id)
        if entry is None
        else move_store.asked_of(view.conn, row.id, entry)
    )
    if row.state == "open":
        return gathered(view, [request_of(view, m) for m in there if not m.along], row.id)
    return [line_of(view, m) for m in there]


def request_of(view: View, move: AskedMove) -> MoveRequest:
    """A move of an open dispatch, as it was asked for."""
    number = revisions.number(view.conn, move.revision) if move.revision is not None else None
    about = (move.uuid, move.locale, move.verb, number, bool(move.regress))
    return MoveRequest(*about, payload_of(move), bool(move.follows))


def line_of(
    view: View, move: AskedMove, stand: Mapping[int, Mapping[int, timeline.Standing]] | None = None
) -> Line:
    """A move of a dispatch that was planned, as a line to plan; one that follows brings what is approved by what stands of its entry: now,
    unless it is said."""
    about = (
        move.verb,
        move.edition,
        move.stage,
        bringing.brought(view, move, stand),
        bool(move.regress),
        move.uuid,
        move.locale,
        move.title,
        move.type,
    )
    return Line(
        *about, payload=payload_of(move), follows=bool(move.follows), asked=not move.along, about=move
    )


def payload_of(move: AskedMove | Move) -> dict[str, Any]:
    """What a move carries."""
    found: dict[str, Any] = json.loads(move.payload) if move.payload != "{}" else {}
    return found


def _put_stuck(view: View, request: MoveRequest, lines: Lines, error: HawthornError) -> None:
    entry = entries.even_removed(view.conn, request.uuid)
    edition = entries.edition(view.conn, entry.id, request.locale) if entry is not None else None
    if entry is None or edition is None or edition.id in lines.editions:
        return
    title = permission.title(
        view, entry.id, entry.source_locale if edition.locale == COMMON else edition.locale
    )
    flow, named = workflows.of(view, entry, edition.locale), str(request.payload.get("stage", ""))
    if entry.removed_at is not None:
        why = Unmet("removed", said("unmet.removed", entry=title or said("common.untitled")), "", "write")
    elif named and named not in flow.names:
        why = without_stage(view, flow, named)
    else:
        why = Unmet("stuck", said("unmet.stuck", why=told_by(error)), "", "write")
    stage = view.setup.stages.get(named, standings.RELEASE)
    about = (request.verb, edition.id, stage, None, request.regress, request.uuid, edition.locale, title)
    lines.put(Line(*about, entry.type, payload=request.payload, stuck=why))


def without_stage(view: View, flow: Workflow, stage: str) -> Unmet:
    """That a workflow has no such stage (any more)."""
    label = view.setup.labels.get(stage, stage)
    return Unmet("no-stage", said("unmet.no_stage", stage=label, workflow=flow.label), "", "write")


def lines_for(view: View, request: MoveRequest, lines: Lines, along: bool = False) -> None:
    """Add the lines that a request comes to, with those of what goes with it."""
    entry = permission.find(view, request.uuid, request.locale)
    tag = COMMON if request.locale == COMMON else view.setup.locale(request.locale)
    flow = workflows.of(view, entry, tag)
    verb = moves.asked(request.verb)
    kind = view.setup.type(entry.type)
    if verb.shelves and entry.archived_at is not None:
        raise InTheWay("planning.archived_already", entry=permission.title(view, entry.id))
    payload = set_fields.taken(view, kind, verb, request.payload)
    goal = verb.goal(flow, payload)
    stage = view.setup.stages[goal.name]
    rows = {e.id: e for e in entries.editions(view.conn, entry.id)}
    named = next((e for e in rows.values() if e.locale == tag), None)
    if named is None:
        raise NotFound("common.no_edition", locale=tag)
    title = permission.title(view, entry.id, entry.source_locale if tag == COMMON else tag)
    stand = standings.now_at(view.conn, list(rows))
    holding = set_fields.holding(kind, named, rows.values(), payload) if verb.writes else ()
    for touched in verb.touches(_around(entry, named, rows, stand, stage, lines, holding)):
        one = rows[touched.edition]
        here = stand.get(one.id, {})
        own = not along and not touched.along
        if one.id in lines.editions:
            if own:
                lines.require_agreement(one.id, request.verb)
            continue
        revision = lines.written.get(one.id) if touched.brings != moves.NOTHING else None
        if revision is None or (request.revision is not None and touched.brings == moves.CHOSEN):
            revision = _brought(view, flow, one, touched, request.revision, goal, stand)
        patch: Mapping[str, Any] | None = None
        carried = payload
        if verb.writes:
            carried = set_fields.part(kind, one, payload)
            if request.revision is None:
                patch = carried["fields"]
                revision = inside.base(view, one, view.now)
        # What follows may bring others by then, also where nothing would change now.
        if touched.along and not request.follows and _stands_on(view, here, revision, goal):
            continue
        now = here.get(stage)
        lines.put(
            Line(
                request.verb,
                one.id,
                stage,
                revision,
                request.regress,
                request.uuid,
                one.locale,
                title,
                entry.type,
                revisions.number(view.conn, now.revision) if now else None,
                revisions.number(view.conn, revision) if revision is not None and patch is None else None,
                along=along,
                asked=own and (one.id == named.id or verb.writes),
                payload=carried,
                # What is written inside goes as it is there, whatever is approved beside it by then.
                follows=request.follows and verb.leads and not verb.writes and one.id not in lines.written,
                head=revisions.number(view.conn, one.head) if one.head is not None and verb.leads else None,
                patch=patch,
            )
        )


def _stands_on(view: View, here: Mapping[int, timeline.Standing], revision: int | None, goal: Stage) -> bool:
    """Whether a revision stands at a stage or further on already; nothing does where nothing stands."""
    if revision is None:
        return view.setup.stages[goal.name] not in here
    return any(s.revision == revision and view.setup.orders[s.stage] >= goal.order for s in here.values())


def _coming(view: View, requests: Sequence[MoveRequest]) -> set[tuple[str, str]]:
    """The entries with the locales that are asked to be out."""
    tags = {tag.casefold(): tag for tag in view.setup.locales}
    return {(one.uuid, tags.get(one.locale.casefold(), "")) for one in requests if moves.asked(one.verb).outs}


def _around(
    entry: Entry,
    named: Edition,
    rows: Mapping[int, Edition],
    stand: Mapping[int, Mapping[int, timeline.Standing]],
    stage: int,
    lines: Lines,
    holding: Sequence[int] = (),
) -> moves.Around:
    """An entry as a move finds it, once the lines before it have gone; what others bring in stays, whichever was asked for first."""
    common = next((n for n, e in rows.items() if e.locale == COMMON and e.head is not None), None)
    others = [e for n, e in rows.items() if e.locale != COMMON and n != named.id and n not in lines.leaving]
    stay = any(stage in stand.get(e.id, {}) or (entry.uuid, e.locale) in lines.coming for e in others)
    return moves.Around(named.id, common, tuple(rows), stay, tuple(holding))


def by_then(view: View, lines: list[Line], dispatch: int) -> list[Line]:
    """Lines that were kept, as they are by the time of their dispatch. The shared fields stay where a text does, and come with one that finds
    none; an entry that is put away goes in all that was written of it. What that is may have changed since it was planned."""
    of_entry: dict[int, list[Line]] = {}
    for x in lines:
        if x.about is not None:
            of_entry.setdefault(x.about.entry, []).append(x)
    away = {n: mine for n, mine in of_entry.items() if any(puts_away(x) for x in mine)}
    of_entry = {
        n: mine for n, mine in of_entry.items() if n not in away and any(_parts(x) or _comes(x) for x in mine)
    }
    return _with_all_of_it(view, _with_shared(view, lines, of_entry, dispatch), away)


def _with_all_of_it(view: View, lines: list[Line], away: Mapping[int, Sequence[Line]]) -> list[Line]:
    """With the editions of what is put away that were begun since."""
    if not away:
        return lines
    here = {x.edition for x in lines}
    added: list[Line] = []
    for one in packages.editions(view.conn, [*away]):
        if one.id not in here:
            line = next(x for x in away[one.entry] if puts_away(x))
            about = (line.verb, one.id, line.stage, None, False, line.uuid, one.locale, line.title, line.type)
            added.append(Line(*about, asked=False))
    return lines + added


def _with_shared(
    view: View, lines: list[Line], of_entry: Mapping[int, Sequence[Line]], dispatch: int
) -> list[Line]:
    if not of_entry:
        return lines
    at = store.by_id(view.conn, dispatch).at or view.now
    commons = gates.commons_out(view.conn, of_entry)
    out: dict[int, set[str]] = {entry: {COMMON} if entry in commons else set() for entry in of_entry}
    for row in standings.locales_out(view.conn, of_entry):
        out[row.entry].add(row.locale)
    for entry, locale in gates.moved_by(view.conn, moves.OUT, at, dispatch):
        out.get(entry, set()).add(locale)
    for entry, locale in gates.moved_by(view.conn, moves.LEAVING, at, dispatch):
        out.get(entry, set()).discard(locale)
    dropped: set[int] = set()
    added: list[Line] = []
    for entry, mine in of_entry.items():
        dropped |= staying(mine, out[entry])
        added += coming_along(view, entry, mine, out[entry])
    return [x for x in lines if x.edition not in dropped] + added


def staying(mine: Sequence[Line], out: Collection[str]) -> set[int]:
    """The edition of the shared fields of an entry that were to leave with a text, and stay as another does; `out` are the locales of what is
    out before its lines go."""
    common = next((x for x in mine if x.locale == COMMON), None)
    if common is None or not common.leaves or common.asked or not any(_parts(x) for x in mine):
        return set()
    after = {*out, *(x.locale for x in mine if x.leads and x.stage == standings.RELEASE)}
    return {common.edition} if after - {COMMON, *(x.locale for x in mine if x.leaves)} else set()


def coming_along(
    view: View,
    entry: int,
    mine: Sequence[Line],
    out: Collection[str],
    stand: Mapping[int, Mapping[int, timeline.Standing]] | None = None,
) -> list[Line]:
    """The shared fields of an entry as they go along with a text that comes out and finds none, where anything was written in them; `out` as
    above, `stand` what stands of the editions of the entry: now, unless it is said."""
    line = next((x for x in mine if _comes(x)), None)
    if line is None or COMMON in out or any(x.locale == COMMON for x in mine):
        return []
    common = entries.edition(view.conn, entry, COMMON)
    if common is None or common.head is None:
        return []
    flow = workflows.of(view, entries.entry_by_id(view.conn, entry), line.locale)
    ids = (common.id, line.edition)
    both = standings.now_at(view.conn, ids) if stand is None else {id: stand.get(id, {}) for id in ids}
    revision = bringing.with_text(view, flow, common, both)
    about = (
        line.verb,
        common.id,
        line.stage,
        revision,
        line.regress,
        line.uuid,
        COMMON,
        line.title,
        line.type,
    )
    return [Line(*about, follows=line.follows, asked=False)]


def puts_away(line: Line) -> bool:
    """Whether an entry is removed, or put into the archive, as a whole."""
    return (line.does.ends or line.does.shelves) and not line.does.made


def _comes(line: Line) -> bool:
    """Whether a text comes out by itself."""
    return line.does.outs and not line.does.writes and line.leads and line.locale != COMMON


def _parts(line: Line) -> bool:
    """Whether a text of an entry leaves by itself, and not the entry as a whole."""
    does = line.does
    return line.leaves and line.locale != COMMON and not (does.ends or does.shelves or does.made)


def _brought(
    view: View,
    flow: Workflow,
    edition: Edition,
    touched: Touched,
    number: int | None,
    goal: Stage,
    stand: Mapping[int, Mapping[int, timeline.Standing]],
) -> int | None:
    """The revision that a move brings to an edition."""
    if touched.brings == moves.NOTHING:
        return None
    if touched.brings == moves.CHOSEN and number is not None:
        return _numbered(view, edition, number)
    if touched.along:
        return bringing.with_text(view, flow, edition, stand, goal)
    return bringing.approved(view, flow, edition, stand.get(edition.id, {}), goal)


def _numbered(view: View, edition: Edition, number: int) -> int:
    row = revisions.numbered(view.conn, edition.id, number)
    if row is None:
        raise NotFound("common.no_revision", number=number)
    chosen: int = row.id
    return chosen
