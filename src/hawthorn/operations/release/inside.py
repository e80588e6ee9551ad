"""What is written inside a dispatch: on strands of its own, which go out with it and then come into the drafts."""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Collection, Iterable, Sequence

from hawthorn.core import contenttypes, merge, moves, revision
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.merge import Conflict, Settlement
from hawthorn.core.messages import Message, said
from hawthorn.core.revision import Content
from hawthorn.operations.release import drafts
from hawthorn.operations.release.lines import Line
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import entries, revisions, standings
from hawthorn.store import moves as move_store
from hawthorn.store import strands as store
from hawthorn.store.dispatches import Dispatch
from hawthorn.store.entries import Edition, Entry
from hawthorn.store.standings import RELEASE
from hawthorn.store.strands import Strand

LONGEST = 60
"""So many characters the name of a strand has at most."""


def free_name(view: View, entry: int, name: str) -> str:
    """A name for a strand that no open one of an entry has, like the one that is wanted."""
    plain = " ".join(re.sub(r"[^\w .'’-]+", " ", name).split())[: LONGEST - 4].strip() or "Strand"
    have = store.open_names(view.conn, entry)
    return next(n for k in range(1, 1000) if (n := plain if k == 1 else f"{plain} {k}") not in have)


def base(view: View, edition: Edition, instant: int, beside: int = 0) -> int | None:
    """The revision that what is written inside a dispatch begins with: what will be out by an instant, else the head of the draft;
    `beside` is the dispatch itself, where it is planned already."""
    before = [
        m.revision
        for m in move_store.planned_for(view.conn, [edition.id])
        if m.verb in moves.OUT and m.instant <= instant and m.revision is not None and m.dispatch != beside
    ]
    standing = standings.now_at(view.conn, [edition.id]).get(edition.id, {}).get(RELEASE)
    return before[-1] if before else standing.revision if standing else edition.head


def written(view: View, dispatch: int) -> dict[int, int]:
    """The revisions that were written inside a dispatch, the newest of each edition."""
    return {s.edition: s.head for s in store.of_dispatch(view.conn, dispatch)} if dispatch else {}


def fork(act: Act, dispatch: Dispatch, entry: Entry, locale: str) -> str:
    """Fork the strand of an edition in a dispatch, and that of the shared fields; returns its name. What is there is left as it is."""
    rows = {e.locale: e for e in entries.editions(act.conn, entry.id)}
    here = {s.edition: s.name for s in store.of_dispatch(act.conn, dispatch.id)}
    name = next((here[e.id] for e in rows.values() if e.id in here), "")
    name = name or free_name(act, entry.id, dispatch.name)
    complete(act, rows.values(), locale, entry, name, max(dispatch.instant or act.now, act.now), dispatch.id)
    return name


def complete(
    act: Act,
    editions: Iterable[Edition],
    locale: str,
    entry: Entry,
    name: str,
    instant: int,
    dispatch: int | None = None,
) -> None:
    """Fork a strand of a name from the edition in a locale (its source's, for that of shared fields) and from the common one, as far
    as there is none: a strand has one name across an entry."""
    wanted = (entry.source_locale if locale == COMMON else locale, COMMON)
    for edition in editions:
        under = base(act, edition, instant) if edition.locale in wanted else None
        if under is not None and entries.edition(act.conn, entry.id, edition.locale, name) is None:
            store.add(act.conn, edition.id, name, under, act.identity.id, act.now, "", dispatch)


def write(
    act: Act, kind: ContentType, edition: Edition, name: str, under: int, content: Content, note: str
) -> int:
    """Write a revision on a new strand that is forked from another revision; returns it."""
    strand = store.add(act.conn, edition.id, name, under, act.identity.id, act.now, note)
    made = drafts.add_revision(act, kind, edition.id, strand, content, [under], note, "strand")
    entries.move_head(act.conn, strand, under, made)
    return made


def attach(act: Act, dispatch: int, lines: Sequence[Line]) -> None:
    """Let the strands on which was written what a dispatch brings belong to it."""
    written = [x.revision for x in lines if x.does.writes and x.revision is not None]
    if written:
        store.attach(act.conn, dispatch, written)


def give_up(act: Act, head: int) -> None:
    """Drop the strand that ends in a revision, which is written anew, with those that were only opened beside it."""
    strand = store.ending_in(act.conn, head)
    if strand is not None:
        for one in (*store.opened_with(act.conn, strand), strand):
            store.close(act.conn, one, "dropped", act.now)


def let_go(act: Act, dispatch: int, editions: Collection[int] | None = None) -> None:
    """Take the strands of some editions, or of all, out of a dispatch that does not bring them any more, with that of the shared fields
    where no other is left: what was written by hand stays beside the draft, what only set fields is dropped."""
    made = move_store.written(act.conn, dispatch, moves.WRITING)
    for entry, common, own in _by_name(act, dispatch):
        named = [s for s in (*common, *own) if editions is None or s.edition in editions]
        leaving = [s for s in own if s in named or (not s.written and any(c in named for c in common))]
        if len(leaving) == len(own) or any(c in named for c in common):
            leaving = [*common, *leaving] if named else []
        staying = [s for s in leaving if s.written and s.head not in made]
        open_ones = _open_with(act, entry, staying, common, own)
        for strand in leaving:
            if strand not in open_ones:
                store.close(act.conn, strand.id, "dropped", act.now)
            store.detach(act.conn, strand.id)


def _by_name(view: View, dispatch: int) -> list[tuple[int, list[Strand], list[Strand]]]:
    """The strands of a dispatch, those together that have one name in an entry: the entry, that of its shared fields, and those of its
    locales."""
    out: dict[tuple[int, str], tuple[list[Strand], list[Strand]]] = {}
    for strand in store.of_dispatch(view.conn, dispatch):
        edition = entries.edition_by_id(view.conn, strand.edition)
        out.setdefault((edition.entry, strand.name), ([], []))[edition.locale != COMMON].append(strand)
    return [(entry, common, own) for (entry, _), (common, own) in out.items()]


def _open_with(
    view: View, entry: int, staying: Sequence[Strand], common: Sequence[Strand], own: Sequence[Strand]
) -> list[Strand]:
    """Which strands of one name stay open where some do: that of shared fields with any, of another dispatch too, and all with that, as
    it is come at by them."""
    if any(s in staying for s in common):
        return [*common, *own]
    others = {*store.open_called(view.conn, entry, common[0].name).values()} if common else set()
    return [*common, *staying] if staying or others - {s.id for s in own} else []


def bring_in(act: Act, dispatch: int) -> None:
    """Bring what went out from the strands of a dispatch into the drafts. Where both changed the same place, the strand stays open,
    and whoever wrote in it is told; so does one that was written on since, with what did not go."""
    went = move_store.brought(act.conn, dispatch)
    for entry, common, own in _by_name(act, dispatch):
        staying = [s for s in (*common, *own) if not _came_in(act, s, went.get(s.edition), own)]
        open_ones = _open_with(act, entry, staying, common, own)
        for strand in (*common, *own):
            if strand in open_ones:
                store.detach(act.conn, strand.id)
            else:
                store.close(act.conn, strand.id, "merged", act.now)


def _came_in(act: Act, strand: Strand, out: int | None, own: Sequence[Strand]) -> bool:
    return (out is None or _bring_in(act, strand, out, own)) and strand.head in (out, strand.forked_from)


def _bring_in(act: Act, strand: Strand, out: int, own: Sequence[Strand]) -> bool:
    """Merge a revision that went out into the draft; False where something has to be settled, which is told where it can be: shared
    fields by a strand of the same name, of a locale (`own`)."""
    edition = entries.edition_by_id(act.conn, strand.edition)
    entry = entries.entry_by_id(act.conn, edition.entry)
    kind = act.setup.type(entry.type)
    if revision.descends(revisions.upwards(act.conn), edition.tip, out):
        return True
    outcome, still_open = _merged(act, kind, strand, out, edition)
    tag = edition.locale
    if tag == COMMON:
        tag = entries.edition_by_id(act.conn, own[0].edition).locale if own else entry.source_locale
    title = entries.title(act.conn, entry.id, tag)
    about = {"entry": entry.uuid, "locale": tag, "title": title, "strand": strand.name}
    if still_open:
        act.event("strand.waits", [entry.id], {**about, "places": still_open, "to": strand.actor})
        return False
    # What went out was approved, and with it what its fields plan.
    act.ready.add(edition.id)
    note = act.keep("notes.merged", name=strand.name)
    made = drafts.append(act, kind, entry, edition, outcome, [edition.tip, out], note, "strand")
    number = revisions.number(act.conn, made)
    told = {"revisions": {edition.locale: number}, "taken": [], "whole": strand.head == out}
    act.event("strand.merged", [entry.id], {**about, **told})
    return True


def _merged(
    view: View, kind: ContentType, strand: Strand, head: int, draft: Edition
) -> tuple[Content, list[str]]:
    """A revision of a strand merged into the draft, with what was settled beforehand; and the places that are still to settle."""
    found = view.setup.mergings.of_revision(view, kind, head, draft.tip, picks(view, head, draft))
    outcome, still_open = merge.settle(found, kept_for(view, strand.id, found.conflicts))
    wrong = drafts.newly_misplaced(view, kind, draft, outcome)
    return outcome, [*still_open, *([wrong.where] if wrong else [])]


def sides_of(conflict: Conflict) -> str:
    """A hash of what both sides have at a place, by which a settlement knows whether it is still about the same."""
    text = json.dumps([conflict.ours, conflict.theirs], sort_keys=True, ensure_ascii=False, default=str)
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def kept_for(view: View, strand: int, conflicts: Sequence[Conflict]) -> dict[str, Settlement]:
    """How conflicts were settled beforehand, as far as both sides are still what they were then."""
    kept = store.settlements(view.conn, strand) if conflicts else {}
    return {
        c.place: Settlement(one.take, json.loads(one.value))
        for c in conflicts
        if (one := kept.get(c.place)) is not None and one.sides == sides_of(c)
    }


def unsettled(view: View, dispatch: int, most: int = 200) -> list[Message]:
    """What will have to be settled when what was written inside a dispatch comes into the drafts, said for each entry."""
    out: list[Message] = []
    for strand in store.of_dispatch(view.conn, dispatch)[:most] if dispatch else ():
        if not strand.written:
            continue
        edition = entries.edition_by_id(view.conn, strand.edition)
        kind = view.setup.type(entries.entry_by_id(view.conn, edition.entry).type)
        _, still_open = _merged(view, kind, strand, strand.head, edition)
        if still_open:
            labels = list(
                dict.fromkeys(contenttypes.label_of(kind, place.split(".")[0]) for place in still_open)
            )
            title = entries.title(view.conn, edition.entry, edition.locale)
            out.append(said("planning.to_settle", entry=title, strand=strand.name, places=labels))
    return out


def picks(view: View, head: int, draft: Edition) -> tuple[merge.Pick, ...]:
    """What a draft took of a strand (its head) since the two parted, so that it is not taken for a change of the draft's own."""
    found = store.picked_from(view.conn, draft.id)
    if not found:
        return ()
    parents = revisions.upwards(view.conn)
    bases = revision.merge_bases(parents, head, draft.tip)
    oldest = min(bases, default=0)
    known = revision.ancestors(parents, *bases, oldest=oldest)
    there = revision.ancestors(parents, head, oldest=oldest) - known
    here = revision.ancestors(parents, draft.tip, oldest=oldest) - known
    taken: dict[tuple[int, int], list[str]] = {}
    for into, source, path in found:
        if into in here and source in there:
            taken.setdefault((into, source), []).append(path)
    return tuple((source, tuple(paths)) for (_, source), paths in taken.items())
