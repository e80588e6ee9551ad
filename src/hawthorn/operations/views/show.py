"""Records as those who work with them see them: plain data for the wire, with the reasons for every state."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, replace
from typing import Any

from hawthorn.core import access, compare, contenttypes, numbers
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import NotFound
from hawthorn.core.merge import Conflict
from hawthorn.core.revision import EMPTY, Content
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries, strands
from hawthorn.operations.delivery import limiting, outline, reading, search_and_sharing
from hawthorn.operations.release import planned_fields, workflows
from hawthorn.operations.runtime.act import View, Words
from hawthorn.operations.search import finding
from hawthorn.operations.translation import translation
from hawthorn.operations.views import show_assisted, show_review, show_work, then
from hawthorn.operations.views.show_lines import Known
from hawthorn.store import dispatches, events, jobs, reviews, revisions, short, standings
from hawthorn.store import entries as store
from hawthorn.store import strands as strand_store
from hawthorn.store.entries import Edition, Entry
from hawthorn.store.events import Event
from hawthorn.store.standings import RELEASE


def entry(
    view: View,
    uuid: str,
    locale: str | None = None,
    strand: str = store.DRAFT_STRAND,
    at: int | None = None,
) -> dict[str, Any]:
    """An entry in one locale: its values, where it stands, what is missing, and what may be done next.

    On another strand than the draft the values are those of its head; where the edition stands is the same. At another instant (`at`)
    the values are those that readers saw then or will see, and else those of the draft; nothing may be done.
    """
    view.settle()
    row = permission.find(view, uuid, locale if locale != COMMON else None)
    kind = view.setup.type(row.type)
    editions = then.drafted(view, {e.locale: e for e in store.editions(view.conn, row.id)}, at)
    if COMMON not in editions:
        raise NotFound("show.not_there_then")
    tag = view.setup.locale(locale or permission.first_locale(view, row))
    flow, why_flow = workflows.chosen(view, row, tag)
    own, common = editions.get(tag), editions[COMMON]
    if strand != store.DRAFT_STRAND:
        beside = store.edition(view.conn, row.id, tag, strand)
        if beside is None:
            raise NotFound("common.no_strand", name=strand)
        own, common = beside, store.edition(view.conn, row.id, COMMON, strand) or common
    known = Known(view, [e.id for e in editions.values()], [row.section], at)
    read, shared = (own, common) if at is None else (_read(known, own), _read(known, common))
    own_content = revisions.content(view.conn, read.head) if read and read.head else EMPTY
    common_content = revisions.content(view.conn, shared.head) if shared and shared.head else EMPTY
    source = editions.get(row.source_locale)
    source_values = (
        revisions.content(view.conn, source.tip).fields
        if source and tag != row.source_locale and permission.readable(view, row, row.source_locale)
        else {}
    )
    lacking = [
        {"field": n, "label": contenttypes.label_of(kind, n)}
        for where, content in ((tag, own_content), (COMMON, common_content))
        for n in contenttypes.missing(kind, where, content.fields)
    ]
    values = contenttypes.together(kind, common_content.fields, own_content.fields)
    latest = reviews.latest(view.conn, own.id) if own and at is None else None
    around = show_review.Around(None, 0)
    if at is None:
        around = show_review.around(view, row, flow, tag, own, common, latest)
    return {
        "id": row.uuid,
        "type": kind.name,
        "type_label": kind.label,
        "locale": tag,
        "source_locale": row.source_locale,
        "title": str(own_content.fields.get(kind.title) or permission.title(view, row.id)),
        "section": known.section(row.section),
        "etag": entries.current_base(view, row.id, tag, strand).etag,
        "strand": strand,
        "strands": strands.of_entry(view, row.id, tag),
        "internal": str(values.get(kind.internal) or "") if kind.internal else "",
        "derived": contenttypes.derived(kind, values),
        "shown_date": values.get(kind.dated)
        if kind.dated and isinstance(values.get(kind.dated), str)
        else None,
        "exists": own is not None,
        "fields": values,
        "source_fields": dict(source_values),
        "shared": [f.name for f in kind.fields if f.shared],
        "missing": lacking,
        "revision": _revision(view, read.head) if read and read.head else None,
        "common_revision": _revision(view, shared.head) if shared and shared.head else None,
        "rail": known.rail(flow, own, common),
        "planned": known.planned(own.id if own else 0),
        "review": show_review.submission(latest) if latest else None,
        "sign_offs": show_review.sign_offs(view, own, latest) if own else [],
        **asdict(around),
        "locales": [
            {
                "locale": t,
                "name": name,
                "exists": t in editions,
                "source": t == row.source_locale,
                "rail": known.rail(flow, editions.get(t), common),
            }
            for t, name in view.setup.locales.items()
        ],
        "workflow": {"name": flow.name, "label": flow.label, "why": why_flow},
        "acts": show_review.acts(
            view, row, flow, tag, own, latest, known.stand, around.gate, elsewhen=at is not None
        ),
        "references": titles(view, contenttypes.referred(kind, values) | _below(kind, values), tag),
        "referred_by": _referred_by(view, row.uuid),
        "path": reading.path_of(view, row.id, tag, RELEASE),
        "page": kind.addressed,
        "menus": outline.menus(view, row.uuid),
        "layout": _layout(view, kind, tag),
        "search": search_and_sharing.of_entry(view, row, kind, tag, values) if own else None,
        "assisted": at is None and show_assisted.is_assisted(view, own, common),
        "warnings": [*dict.fromkeys(view.notes), *warnings(view, row, kind, tag, values)],
        "created_at": iso(row.created_at),
        "planned_fields": planned_fields.shown(view, kind, editions, tag) if at is None else [],
        "at": iso(at) if at is not None else None,
        "limit": asdict(limiting.of(view, row)),
        "archived_at": iso(row.archived_at) if row.archived_at is not None else None,
        "jobs": [
            show_work.job_line(view, j)
            for j in jobs.of_entry(view.conn, row.id)
            if (j.locale == tag or own == source) and translation.readable(view, j)
        ],
    }


def _read(known: Known, edition: Edition | None) -> Edition | None:
    """An edition with the revision that readers see of it then as its head; with its draft where they see none."""
    standing = known.stand.get(edition.id, {}).get(RELEASE) if edition is not None else None
    if edition is None or standing is None:
        return edition
    number = revisions.number(known.view.conn, standing.revision)
    return replace(edition, head=standing.revision, head_number=number)


def _layout(view: View, kind: ContentType, tag: str) -> dict[str, Any] | None:
    """The draft of the layout that an entry follows, in its locale or else in the layout's source."""
    if not kind.regions:
        return None
    row = store.single(view.conn, kind.layout)
    if row is None or not permission.readable(view, row):
        return None
    values: dict[str, Any] = {}
    for where in (COMMON, row.source_locale, tag):
        edition = store.edition(view.conn, row.id, where)
        if not permission.readable(view, row, where):
            continue
        values |= dict(revisions.content(view.conn, edition.head).fields) if edition and edition.head else {}
    return {
        "id": row.uuid,
        "title": permission.title(view, row.id, tag) or view.say("common.untitled"),
        "values": {f.name: values[f.name] for f in kind.regions if f.name in values},
    }


def _below(kind: ContentType, values: Mapping[str, Any]) -> set[str]:
    above, _ = contenttypes.placement(kind, values)
    return {above} if above else set()


def _revision(view: View, id: int) -> dict[str, Any]:
    row = revisions.by_id(view.conn, id)
    assert row is not None
    return {
        "id": row.id,
        "number": row.number,
        "at": iso(row.at),
        "author": row.author,
        "author_kind": row.actor_kind,
        "note": row.note,
        "origin": row.origin,
    }


def readable(view: View, row: Entry) -> bool:
    """Whether whoever looks may read an entry."""
    return permission.readable(view, row)


def named(view: View, row: Entry) -> dict[str, str]:
    """An entry by name."""
    title = permission.title(view, row.id) or view.say("common.untitled")
    own = short.of(view.conn, "entry", row.uuid)
    return {"id": row.uuid, "short": own, "type": row.type, "title": title, "file": ""}


def titles(view: View, uuids: Iterable[str], locale: str) -> dict[str, Any]:
    """What referred entries are called, with the picture file if they hold one."""
    out: dict[str, Any] = {}
    for uuid in sorted(uuids):
        row = store.entry(view.conn, uuid)
        if row is None:
            continue
        kind = view.setup.type(row.type)
        common = store.edition(view.conn, row.id, COMMON)
        shared = revisions.content(view.conn, common.head).fields if common and common.head else {}
        seen = permission.readable(view, row)
        file = next(
            (shared[f.name] for f in kind.fields if seen and f.kind == "file" and f.name in shared), None
        )
        out[uuid] = {
            "id": uuid,
            "type": row.type,
            "title": permission.title(view, row.id, locale) or view.say("common.untitled"),
            "file": file["sha256"] if file else "",
        }
    return out


def _referred_by(view: View, uuid: str) -> list[dict[str, Any]]:
    out: dict[str, dict[str, Any]] = {}
    for row in store.referring(view.conn, uuid):
        if not permission.readable_id(view, row.entry):
            out[""] = {"id": "", "type": "", "title": permission.hidden(view), "file": ""}
            continue
        out.setdefault(
            row.uuid,
            {
                "id": row.uuid,
                "type": row.type,
                "title": permission.title(view, row.entry) or view.say("common.untitled"),
                "file": "",
            },
        )
    return list(out.values())


def warnings(view: View, row: Entry, kind: ContentType, tag: str, values: Mapping[str, Any]) -> list[str]:
    """What is worth knowing before it blocks: an address that another draft or page has."""
    out: list[str] = []
    slug = values.get(kind.slug.name) if kind.slug else None
    if slug:
        mine = standings.address_of(view.conn, row.id, 1, tag)
        rivals = standings.rivals(view.conn, tag, mine[0] if mine else 0, slug, row.id)
        for rival in rivals:
            code = "show.same_address_out" if rival.stage == RELEASE else "show.same_address_drafted"
            out.append(view.say(code, entry=permission.title(view, rival.entry, tag), slug=slug))
    return out


def conflict(words: Words, conflicts: Sequence[tuple[str, Conflict]]) -> list[dict[str, Any]]:
    """Conflicts for the wire: both texts, what they came from, and the place's name for settling it."""
    return [
        {
            "place": c.place,
            "field": c.field,
            "label": c.label,
            "kind": c.kind,
            "locale": locale,
            "paragraph": c.paragraph,
            "why": c.why,
            "base": words.plain(c.base),
            "ours": words.plain(c.ours),
            "theirs": words.plain(c.theirs),
            "pieces": [asdict(p) for p in c.pieces],
        }
        for locale, c in conflicts
    ]


def history(view: View, uuid: str, locale: str, before: int = 1 << 62, limit: int = 50) -> dict[str, Any]:
    """The revisions of an edition and everything that happened to the entry, newest first."""
    row = permission.find(view, uuid, locale if locale != COMMON else None)
    tag = COMMON if locale == COMMON else view.setup.locale(locale)
    edition = store.edition(view.conn, row.id, tag)
    if edition is None:
        raise NotFound("show.no_edition", locale=tag)
    made = revisions.history(view.conn, edition.id, before, limit + 1)
    more = str(made[limit - 1].number) if len(made) > limit else ""
    made = made[:limit]
    picked = strand_store.picks(view.conn, edition.id)
    stages = standings.history(view.conn, edition.id)
    return {
        "revisions": [
            {
                "id": r.id,
                "number": r.number,
                "at": iso(r.at),
                "author": r.author,
                "author_kind": r.actor_kind,
                "note": r.note,
                "origin": r.origin,
                "parents": json.loads(r.parents),
                "on_draft": r.strand_name == store.DRAFT_STRAND,
                "strand": r.strand_name or "",
                "picked": picked.get(r.id, []),
            }
            for r in made
        ],
        "next": more,
        "standings": [
            {
                "stage": s.stage_name,
                "revision": s.number,
                "since": iso(s.since),
                "until": iso(s.until) if s.until else None,
                "committed_at": iso(s.committed_at),
            }
            for s in stages
        ],
        "events": [
            shown
            for e in events.about(view.conn, row.id, 1 << 62, limit)
            if (shown := event(view, e, uuid)) is not None
        ],
    }


def event(view: View, row: Event, about: str = "", *, whole: bool = False) -> dict[str, Any] | None:
    """An event for the wire; None for one of a locale that may not be read.

    For whoever may read one entry alone (`about`), what it did to others is left out; what tells of entries that may not
    be read, unless the log is theirs to read (`whole`).
    """
    what = json.loads(row.json) if row.json else {}
    if not whole and not access.reads_all(view.identity):
        told = _told(view, row, what, about)
        if told is None:
            return None
        what = told
    if about:
        what.pop("stood", None)
        for many in ("moves", "held"):
            if many in what:
                what[many] = [one for one in what[many] if one["entry"] == about]
    return {
        "seq": row.seq,
        "at": iso(row.at),
        "kind": row.kind,
        "by": row.name,
        "by_kind": row.actor_kind,
        "locales": _locales_told(what),
        "what": what,
        "hash": row.hash,
    }


def _locales_told(what: Mapping[str, Any]) -> list[str]:
    """The locales of what an event says, in which the shared fields count as none of their own."""
    said = [what.get("locale")]
    for many in ("moves", "jobs"):
        said += [one.get("locale") for one in what.get(many, ()) if isinstance(one, dict)]
    return sorted({tag for tag in said if isinstance(tag, str) and tag != COMMON})


def _told(view: View, row: Event, what: dict[str, Any], about: str) -> dict[str, Any] | None:
    """What of an event may be told: all of it where all that it is about may be read; None where nothing of it may be known."""
    if row.kind.startswith("comment.") and "dispatch" in what:
        about_all = dispatches.by_uuid(view.conn, what["dispatch"])
        return what if about_all is not None and permission.whole(view, about_all.id) else {}
    locale = what.get("locale")
    locales = [locale] if isinstance(locale, str) else [m["locale"] for m in what.get("moves", ())]
    locales += [j["locale"] for j in what.get("jobs", ()) if isinstance(j, dict) and "locale" in j]
    if row.kind.startswith(("commission.", "job.")):
        locales.append("")
    entries_of = [store.entry_by_id(view.conn, e) for e in events.entries_of(view.conn, row.seq, 2_000)]

    def seen(one: Entry, tag: str | None) -> bool:
        return permission.readable(view, one, one.source_locale if tag == "" else tag)

    if about and isinstance(locale, str) and not any(seen(e, locale) for e in entries_of if e.uuid == about):
        return None
    return what if all(seen(e, tag) for e in entries_of for tag in locales or [None]) else {}


def comparison(view: View, uuid: str, locale: str, before: str, after: str) -> dict[str, Any]:
    """Two revisions or stages of an edition, shared fields included, field by field.

    A side is a revision's number, a stage's name (`draft` is the head, `release` what is out), or `strand:` and a name;
    before an at sign stands the locale, if it is another one.
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
                        "runs": [asdict(r) for r in p.runs],
                    }
                    for p in d.parts
                ],
            }
            for d in differences
        ],
    }


def _side(
    view: View, row: Entry, tag: str, name: str
) -> tuple[dict[str, Any], Content, list[tuple[int, int]]]:
    """A side of a comparison: what is said of it, what it holds, and the editions with their revisions that say so."""
    own = store.edition(view.conn, row.id, tag)
    common = store.edition(view.conn, row.id, COMMON)
    if own is None or common is None:
        return {"name": name, "label": view.say("show.nothing"), "revision": None}, EMPTY, []
    shared = common.head
    mine: int | None
    if name.isdigit():
        number = numbers.whole(name)
        found = revisions.numbered(view.conn, own.id, number) if number is not None else None
        if found is None:
            raise NotFound("common.no_revision", number=name[:20])
        then = revisions.as_of(view.conn, common.id, found.at, common.strand)
        mine, shared, label = found.id, then, view.say("show.revision", number=name)
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
    both = Content({**under.fields, **content.fields}, {**under.paragraph_ids, **content.paragraph_ids})
    return (
        {
            "name": name,
            "label": label,
            "revision": revisions.number(view.conn, mine) if mine else None,
        },
        both,
        [(one.id, held) for one, held in ((own, mine), (common, shared)) if held],
    )
