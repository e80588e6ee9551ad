"""Fields that a dispatch sets: which edition holds each, and the revision that brings the new values."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from hawthorn.core import contenttypes, moves, revision, timeline
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.operations.access import permission
from hawthorn.operations.release import drafts, inside
from hawthorn.operations.release.items import EditionFacts
from hawthorn.operations.release.lines import Line, MoveRequest
from hawthorn.operations.runtime import as_now
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import entries, revisions
from hawthorn.store.entries import Edition
from hawthorn.store.standings import RELEASE


def taken(view: View, kind: ContentType, verb: moves.Verb, payload: Mapping[str, Any]) -> dict[str, Any]:
    """What a move carries, as it is kept: values of fields in their stored form, None for one that is emptied. Raises `Invalid`."""
    found = verb.taken(payload)
    if verb.writes:
        given = found["fields"]
        typed = contenttypes.canonical_fields(kind, given, view.setup.bounds)
        found["fields"] = {name: typed.get(name) for name in given}
    return found


def holding(
    kind: ContentType, named: Edition, editions: Iterable[Edition], payload: Mapping[str, Any]
) -> list[int]:
    """The editions that hold the fields of a payload: the one that was named, the common one, or both."""
    shared = {spec.name for spec in kind.belonging(COMMON)}
    common = next((e for e in editions if e.locale == COMMON), named)
    names = payload["fields"]
    own = [named.id] if any(n not in shared for n in names) and named.locale != COMMON else []
    return [*own, *([common.id] if any(n in shared for n in names) else [])]


def part(kind: ContentType, edition: Edition, payload: dict[str, Any]) -> dict[str, Any]:
    """What of a payload is for one edition."""
    mine = {spec.name for spec in kind.belonging(edition.locale)}
    return payload | {"fields": {name: value for name, value in payload["fields"].items() if name in mine}}


def written(
    act: Act, requests: Sequence[MoveRequest], instant: int, *, asking: bool = True, beside: int = 0
) -> list[MoveRequest]:
    """The same requests, those that set fields with the revisions that do: each is written on a strand of its own, one for each
    edition that holds any of them."""
    out: list[MoveRequest] = []
    for request in requests:
        verb = moves.asked(request.verb)
        if not verb.writes or request.revision is not None:
            out.append(request)
            continue
        entry = permission.find(act, request.uuid, request.locale)
        kind = act.setup.type(entry.type)
        payload = taken(act, kind, verb, request.payload)
        tag = COMMON if request.locale == COMMON else act.setup.locale(request.locale)
        rows = {e.id: e for e in entries.editions(act.conn, entry.id)}
        named = next((e for e in rows.values() if e.locale == tag), None)
        if named is None:
            out.append(request)
            continue
        labels = [contenttypes.label_of(kind, name) for name in payload["fields"]]
        name = inside.free_name(act, entry.id, act.keep("strands.sets", fields=labels))
        setting = holding(kind, named, rows.values(), payload)
        for id in setting:
            one = rows[id]
            if asking:
                permission.require(act, "write", permission.subject(act, entry, one.locale))
            mine = part(kind, one, payload)
            drafts.require_fillable(act, kind, mine["fields"], one.head)
            under = inside.base(act, one, instant, beside)
            if under is None:
                out.append(request)
                continue
            before = as_now.content(act.conn, kind, under)
            values = {k: v for k, v in {**before.fields, **mine["fields"]}.items() if v is not None}
            drafts.check_targets(act, kind, entry, mine["fields"], values)
            content = revision.snapshot(kind, values, before)
            made = inside.write(act, kind, one, name, under, content, act.keep("notes.sets", fields=labels))
            number = revisions.number(act.conn, made)
            out.append(replace(request, locale=one.locale, revision=number, payload=mine))
        inside.complete(act, rows.values(), tag, entry, name, instant)
    return out


def renewed(
    act: Act, requests: Sequence[MoveRequest], instant: int, *, asking: bool = True, beside: int = 0
) -> list[MoveRequest]:
    """The same requests with new revisions for fields that were set in something older than what will be out by an instant."""
    out: list[MoveRequest] = []
    for request in requests:
        row = _written_for(act, request)
        under = inside.base(act, row[0], instant, beside) if row is not None else None
        if row is None or under is None or revision.descends(revisions.upwards(act.conn), row[1], under):
            out.append(request)
            continue
        inside.give_up(act, row[1])
        out.append(replace(request, revision=None))
    return written(act, out, instant, asking=asking, beside=beside)


def _written_for(view: View, request: MoveRequest) -> tuple[Edition, int] | None:
    """The edition in which a request sets fields, and the revision that does, once it is written."""
    if not moves.asked(request.verb).writes or request.revision is None:
        return None
    if entries.entry(view.conn, request.uuid) is None:
        # It was removed meanwhile, which is in the way of the rest and said there.
        return None
    entry = permission.find(view, request.uuid, request.locale)
    edition = entries.edition(view.conn, entry.id, request.locale)
    row = revisions.numbered(view.conn, edition.id, request.revision) if edition is not None else None
    return (edition, row.id) if edition is not None and row is not None else None


def said_by_what_is_out(view: View, line: Line, known: EditionFacts, instant: int) -> bool:
    """Whether the revision that is out says itself, in a planned field, that exactly this is set at this instant: then it was
    approved with it, and what comes of it needs no sign-off of its own."""
    standing = known.standings.get(RELEASE)
    spec = known.kind.field(str(line.payload.get("field", "")))
    if standing is None or spec is None or spec.kind != "planned" or spec.payload.get("fields") is None:
        return False
    out = dict(revisions.content(view.conn, standing.revision).fields)
    value = out.get(spec.name)
    if not isinstance(value, dict) or instant not in timeline.instants_of(value):
        return False
    mine = part(known.kind, entries.edition_by_id(view.conn, line.edition), dict(spec.payload))["fields"]
    wanted = {name: value for name, value in (out | mine).items() if value is not None}
    return mine == line.payload["fields"] and wanted == dict(known.values)
