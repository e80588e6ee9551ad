"""Dispatches that are put together over time: started, added to, taken from, described. Nothing of one goes until it is planned or sent."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import replace

from hawthorn.core import moves, naming, timeline
from hawthorn.core.errors import FieldProblem, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.operations.access import permission
from hawthorn.operations.release import drafts, going, inside, records, requested, set_fields, times
from hawthorn.operations.release.lines import Line, Lines, MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import dispatches as store
from hawthorn.store import entries
from hawthorn.store import leaving as leaving_store
from hawthorn.store import moves as move_store
from hawthorn.store.moves import NewMove

MOST = 20_000
"""So many moves one dispatch takes."""


def start(act: Act, about: About, requests: Sequence[MoveRequest] = (), when: When | None = None) -> str:
    """Start a dispatch that is put together over time; nothing of it goes until it is planned or sent. Returns its UUID."""
    planned = times.resolve(act, when, times.policies_of(act, requests))
    permission.require_somewhere(act, "write")
    _require_writing(act, ((r.uuid, r.locale) for r in requests))
    name = naming.line("name", about.name or "") or act.keep(
        "dispatches.unnamed", day=timeline.iso(act.now)[:10]
    )
    uuid, made = records.added(act, "open", planned, replace(about, name=name))
    _put_in(act, made, requests)
    going.tell(act, "dispatch.opened", made)
    return uuid


def add(act: Act, uuid: str, requests: Sequence[MoveRequest], *, below: bool = False) -> int:
    """Add moves to an open dispatch, with what lies below their entries if that is wanted; those that are there are left as
    they are. Returns how many came in."""
    row = records.find(act, uuid)
    _require_writing(act, ((r.uuid, r.locale) for r in requests))
    records.require_state(row, "change")
    if below:
        requests = [*requests, *_below(act, requests)]
    count = _put_in(act, row.id, requests)
    if count:
        going.tell(act, "dispatch.changed", row.id)
    return count


def write_in(act: Act, uuid: str, entry: str, locale: str) -> str:
    """Open an entry to be written inside an open dispatch, on a strand of its own that goes out with it; returns the strand's name.

    The strand begins with what is out, or will be by then, and else with the draft; the entry is added where it is not there yet.
    """
    row = records.find(act, uuid)
    found = permission.find(act, entry, locale)
    tag = act.setup.locale(locale)
    permission.require(act, "write", permission.subject(act, found, tag))
    records.require_state(row, "change")
    drafts.require_at_work(found)
    edition = entries.edition(act.conn, found.id, tag)
    if edition is None or edition.head is None:
        raise NotFound("strands.no_edition", locale=tag)
    move = next((m for m in move_store.asked(act.conn, row.id) if m.edition == edition.id), None)
    if move is not None and move.verb != moves.USUAL:
        both = [said(f"moves.cannot.{v}") for v in (move.verb, moves.USUAL)]
        raise Invalid("planning.contradicts", entry=move.title or said("common.untitled"), both=both)
    new = edition.id not in inside.written(act, row.id)
    name = inside.fork(act, row, found, tag)
    if move is None:
        _put_in(act, row.id, [MoveRequest(entry, tag)])
    if new:
        facts = {
            "entry": entry,
            "locale": tag,
            "title": entries.title(act.conn, found.id, tag),
            "strand": name,
        }
        act.event("strand.forked", [found.id], {**facts, "dispatch": row.uuid, "note": row.note})
        going.tell(act, "dispatch.changed", row.id)
    return name


def drop(act: Act, uuid: str, named: Iterable[tuple[str, str]]) -> int:
    """Take entries in a locale (UUID and tag; no tag: in every one) out of an open dispatch; returns how many moves went."""
    row = records.find(act, uuid)
    wanted = set(named)
    _require_writing(act, sorted(wanted), removed_too=True)
    records.require_state(row, "change")
    here = move_store.asked(act.conn, row.id)
    return take_out(
        act, row.id, [m.edition for m in here if (m.uuid, m.locale) in wanted or (m.uuid, "") in wanted]
    )


def call_off(act: Act, id: int) -> None:
    """Call a dispatch off: what it would have done does not happen, and what was written inside it is let go."""
    inside.let_go(act, id)
    store.end(act.conn, id, "cancelled", act.now, None)
    going.tell(act, "dispatch.cancelled", id)


def take_out(act: Act, id: int, editions: Collection[int]) -> int:
    """Take the moves of some editions out of a dispatch, with what was written and signed off for them; returns how many went."""
    inside.let_go(act, id, editions)
    count = move_store.drop_moves(act.conn, id, editions)
    leaving_store.void(act.conn, id, editions)
    if count:
        going.tell(act, "dispatch.changed", id)
    return count


def describe(act: Act, uuid: str, about: About) -> None:
    """Call a dispatch something else, say why it is, give it to somebody, or say whether what cannot go holds back the rest."""
    row = records.find(act, uuid)
    if row.state == "open":
        permission.require_somewhere(act, "write")
    else:
        records.require_making(act, row)
    records.require_state(row, "describe")
    name = row.name if about.name is None else naming.line("name", about.name)
    if not name:
        raise Invalid([FieldProblem("name", said("common.missing"))])
    note = row.note if about.note is None else naming.note("note", about.note)
    owner = row.owner if about.owner is None else records.person(act, about.owner)
    partial = bool(row.partial) if about.partial is None else about.partial
    if (name, note, owner, partial) == (row.name, row.note, row.owner, bool(row.partial)):
        return
    store.describe(act.conn, row.id, name, note, owner, partial)
    going.tell(act, "dispatch.changed", row.id)


def requests_of(view: View, id: int) -> list[MoveRequest]:
    """The moves of an open dispatch, as they were asked for."""
    return [requested.request_of(view, m) for m in move_store.asked(view.conn, id) if not m.along]


def _put_in(act: Act, id: int, requests: Sequence[MoveRequest]) -> int:
    have = {m.edition for m in move_store.asked(act.conn, id)}
    if len(have) + len(requests) > MOST:
        raise Invalid("dispatches.too_many", most=MOST)
    new: list[NewMove] = []
    coming: list[Line] = []
    for request in set_fields.written(act, requests, act.now):
        lines = Lines()
        requested.lines_for(act, request, lines)
        for line in lines:
            if not line.asked or line.edition in have:
                continue
            have.add(line.edition)
            coming.append(line)
            # Until it is planned, a move brings what is approved then; only a revision that was chosen is kept.
            chosen = line.revision if request.revision is not None else None
            new.append(replace(line.as_new(), revision=chosen))
    move_store.add_moves(act.conn, id, new, act.identity.id)
    inside.attach(act, id, coming)
    return len(new)


def _below(view: View, requests: Sequence[MoveRequest]) -> list[MoveRequest]:
    """The same for every entry that lies below, in the same locale where it has that."""
    out: dict[tuple[str, str], MoveRequest] = {}
    waiting = list(requests)
    named = {(r.uuid, r.locale) for r in requests}
    while waiting and len(out) <= MOST:
        request = waiting.pop(0)
        for row in entries.placed_below(view.conn, request.uuid, MOST):
            key = (row.uuid, request.locale)
            if key in named or key in out or not permission.readable_id(view, row.id, request.locale):
                continue
            edition = entries.edition(view.conn, row.id, request.locale)
            below = replace(request, uuid=row.uuid, revision=None)
            waiting.append(below)
            if edition is not None and edition.head is not None:
                out[key] = below
            else:
                named.add(key)
    return [*out.values()]


def _require_writing(act: Act, named: Iterable[tuple[str, str]], *, removed_too: bool = False) -> None:
    """Whoever may write an entry may put it where it could go from; whether it goes is for others to say. What was removed is taken out like what is
    there."""
    for uuid, locale in named:
        gone = entries.even_removed(act.conn, uuid) if removed_too else None
        entry = (
            gone
            if gone is not None and permission.readable(act, gone)
            else permission.find(act, uuid, locale or None)
        )
        about = permission.subject(act, entry, locale or entry.source_locale)
        if not permission.may(act, "release", about):
            permission.require(act, "write", about)
