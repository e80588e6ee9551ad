"""Assistants, as people oversee them: who there is and what each does, pausing one, and undoing what one did since an instant."""

from __future__ import annotations

from itertools import groupby

from hawthorn.core import naming, timeline
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import FieldProblem, HawthornError, InTheWay, Invalid, NotFound
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.runtime.pacing import STARTING
from hawthorn.store import assistants as store
from hawthorn.store import entries as entry_store
from hawthorn.store import events, people, revisions
from hawthorn.store.assistants import Wrote
from hawthorn.store.people import Actor

_COUNTED = 10_000
LONGEST_REASON = 500


@dataclass(frozen=True, slots=True)
class AssistantShown:
    """An assistant: its roles, how much it did in the last hour, and whether it is paused."""

    handle: str
    name: str
    roles: list[str]
    last_at: str | None
    acts: int
    started: int
    paused_at: str | None
    paused_by: str
    reason: str


@dataclass(frozen=True, slots=True)
class Undone:
    """What came of undoing in one place: `removed`, `taken back`, `open` where somebody is to decide between two texts, or `left`, and why. `shown_in` is
    the locale in which the place is seen."""

    id: str
    locale: str
    shown_in: str
    title: str
    strand: str
    outcome: str
    why: str


def assistants(view: View) -> list[AssistantShown]:
    """The assistants there are, by name."""
    permission.require(view, "configure", Subject())
    return [_shown(view, one.id, one.handle, one.name, one.last_at) for one in store.everyone(view.conn)]


def _shown(view: View, id: int, handle: str, name: str, last_at: int) -> AssistantShown:
    since = view.now - 3_600 * SECOND
    pause = store.paused(view.conn, id)
    return AssistantShown(
        handle=handle,
        name=name,
        roles=[held.role for held in people.holdings(view.conn, id)],
        last_at=iso(last_at) if last_at else None,
        acts=len(events.times_of(view.conn, id, since, _COUNTED)),
        started=len(events.times_of(view.conn, id, since, _COUNTED, STARTING)),
        paused_at=iso(pause.at) if pause else None,
        paused_by=pause.by_name if pause else "",
        reason=pause.reason if pause else "",
    )


def pause(act: Act, handle: str, reason: str) -> None:
    """Pause an assistant: from now on its key opens nothing."""
    permission.require(act, "configure", Subject())
    row = _find(act, handle)
    if store.paused(act.conn, row.id) is not None:
        raise InTheWay("assistants.paused_already", name=row.name)
    kept = naming.line("reason", reason, LONGEST_REASON)
    store.pause(act.conn, row.id, act.now, act.identity.id, kept)
    act.event("assistant.paused", [], {"handle": row.handle, "name": row.name, "reason": kept})


def resume(act: Act, handle: str) -> None:
    """Let a paused assistant go on."""
    permission.require(act, "configure", Subject())
    row = _find(act, handle)
    if store.paused(act.conn, row.id) is None:
        raise InTheWay("assistants.not_paused", name=row.name)
    store.go_on(act.conn, row.id)
    act.event("assistant.resumed", [], {"handle": row.handle, "name": row.name})


def undo(act: Act, handle: str, since: str) -> list[Undone]:
    """Take back what an assistant wrote from an instant on: entries that it started and nobody else touched are removed, and elsewhere what stood before comes back,
    merged with what others wrote since. Where that meets their words somebody is asked; what is out stays out."""
    permission.require(act, "configure", Subject())
    row = _find(act, handle)
    instant = timeline.day_or_instant(since)
    if instant > act.now:
        raise Invalid([FieldProblem("since", said("assistants.yet_to_come", now=iso(act.now)))])
    out: list[Undone] = []
    gone: set[str] = set()
    for uuid in store.started(act.conn, row.id, instant):
        if not store.others_wrote(act.conn, uuid, row.id):
            out.append(_remove(act, row, uuid))
            gone.add(uuid)
    found = sorted(store.wrote(act.conn, row.id, instant), key=lambda one: (one.edition, one.strand))
    for _, some in groupby(found, key=lambda one: (one.edition, one.strand)):
        written = list(some)
        if written[0].uuid not in gone:
            out.append(_take_back(act, row, written))
    if out:
        payload = {
            "handle": row.handle,
            "name": row.name,
            "since": iso(instant),
            "count": sum(one.outcome in ("removed", "taken back") for one in out),
        }
        act.event("assistant.undone", [], payload)
    return out


def _find(view: View, handle: str) -> Actor:
    row = people.by_handle(view.conn, handle)
    if row is None or row.kind != "assistant":
        raise NotFound("assistants.nobody", handle=handle)
    return row


def _remove(act: Act, row: Actor, uuid: str) -> Undone:
    """Take an entry away that nobody but the assistant wrote; removing can be undone."""
    entry = permission.find(act, uuid)
    source = entry.source_locale
    title = entry_store.title(act.conn, entry.id)
    note = act.keep("notes.undone_assistant", name=row.name)
    try:
        dispatches.make(act, [MoveRequest(uuid, source, "remove")], note=note)
    except HawthornError as error:
        return Undone(uuid, source, source, title, entry_store.DRAFT_STRAND, "left", act.say(error.message))
    return Undone(uuid, source, source, title, entry_store.DRAFT_STRAND, "removed", "")


def _take_back(act: Act, row: Actor, written: list[Wrote]) -> Undone:
    """Take back on one strand what some revisions changed, the last first."""
    first = written[0]
    entry = entry_store.entry_by_id(act.conn, first.entry)
    locale = entry.source_locale if first.locale == COMMON else first.locale
    title = entry_store.title(act.conn, entry.id, locale)

    def told(outcome: str, why: Message | None = None) -> Undone:
        said = act.say(why) if why is not None else ""
        return Undone(first.uuid, first.locale, locale, title, first.strand_name, outcome, said)

    if first.closed_at is not None:
        return told("left", said("assistants.strand_closed"))
    note = act.keep("notes.undone_assistant", name=row.name)
    changed = False
    for before, last in reversed(_runs(act, written)):
        if before is None:
            return told("left", said("assistants.began_it"))
        try:
            saved = entries.take_back(act, entry, first.locale, (before, last), note, first.strand_name)
        except HawthornError as error:
            return told("left", error.message)
        if saved is None:
            continue
        if saved.conflicts:
            return told("open", said("assistants.to_be_decided"))
        changed = True
    return told("taken back") if changed else told("left", said("assistants.nothing_left"))


def _runs(view: View, written: list[Wrote]) -> list[tuple[int | None, int]]:
    """Revisions that follow one another without anybody else's between them: what was before the first, and the last."""
    runs: list[tuple[int | None, int]] = []
    for one in written:
        before = next(iter(revisions.parents(view.conn, one.revision)), None)
        if runs and before == runs[-1][1]:
            runs[-1] = (runs[-1][0], one.revision)
        else:
            runs.append((before, one.revision))
    return runs
