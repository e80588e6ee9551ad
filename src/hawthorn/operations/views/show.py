"""Records as those who work with them see them: plain data for the wire, with the reasons for every state."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any, TypedDict

from hawthorn.core import contenttypes, merge
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import NotFound
from hawthorn.core.revision import EMPTY, Content, together
from hawthorn.core.timeline import iso
from hawthorn.core.wordmerge import Piece
from hawthorn.operations.access import permission
from hawthorn.operations.access.permission import Named
from hawthorn.operations.collaboration.assignments import AssignmentShown
from hawthorn.operations.content import entries, strands
from hawthorn.operations.content.strands import StrandShown
from hawthorn.operations.delivery import limiting, outline, reading, search_and_sharing
from hawthorn.operations.delivery.search_and_sharing import SearchAndSharing
from hawthorn.operations.release import planned_fields, workflows
from hawthorn.operations.release.planned_fields import PlannedFieldState
from hawthorn.operations.runtime.act import View, Words
from hawthorn.operations.search.finding import Missing
from hawthorn.operations.translation import translation
from hawthorn.operations.views import show_assisted, show_jobs, show_review, then
from hawthorn.operations.views.show_jobs import JobLine
from hawthorn.operations.views.show_lines import Bead, Known, Planned, Section
from hawthorn.operations.views.show_review import (
    ActOffer,
    GateAhead,
    OverrideLine,
    Review,
    SignedBefore,
    SignOff,
)
from hawthorn.store import entries as store
from hawthorn.store import jobs, reviews, revisions, short, standings
from hawthorn.store.entries import Edition
from hawthorn.store.standings import RELEASE


class Revision(TypedDict):
    """A revision: its id and its number in its edition, when, by whom (and of which kind they are), with which note, and how it came about."""

    id: int
    number: int
    at: str
    author: str
    author_kind: str
    note: str
    origin: str


class Match(Named):
    """An entry by name, with the shortest start of its id that is its alone."""

    short: str


class LocaleStanding(TypedDict):
    """How an entry stands in one locale."""

    locale: str
    name: str
    exists: bool
    source: bool
    rail: list[Bead]


class WorkflowFollowed(TypedDict):
    """The workflow that an edition follows, and why it is that one."""

    name: str
    label: str
    why: str


class LayoutPart(TypedDict):
    """The layout that an entry follows, by name, with what its regions hold."""

    id: str
    title: str
    values: dict[str, Any]


class Conflict(TypedDict):
    """Two sides changed one place: `ours` is what was typed, `theirs` what was saved meanwhile, `base` what both came from."""

    place: str
    field: str
    label: str
    kind: str
    locale: str
    paragraph: str
    why: str
    base: Any
    ours: Any
    theirs: Any
    pieces: list[Piece]


class Entry(TypedDict):
    """An entry in one locale: its values, where it stands, what is missing, and what may be done next."""

    id: str
    type: str
    type_label: str
    locale: str
    source_locale: str
    title: str
    section: Section | None
    etag: str
    strand: str
    strands: list[StrandShown]
    internal: str
    derived: dict[str, str]
    shown_date: str | None
    exists: bool
    fields: dict[str, Any]
    source_fields: dict[str, Any]
    shared: list[str]
    missing: list[Missing]
    revision: Revision | None
    common_revision: Revision | None
    rail: list[Bead]
    planned: list[Planned]
    review: Review | None
    sign_offs: list[SignOff]
    assignment: AssignmentShown | None
    comments_open: int
    gate: GateAhead | None
    deciders: list[str]
    overrides: list[OverrideLine]
    signed_before: SignedBefore | None
    locales: list[LocaleStanding]
    workflow: WorkflowFollowed
    acts: list[ActOffer]
    references: dict[str, Named]
    referred_by: list[Named]
    path: str | None
    page: bool
    menus: list[Named]
    layout: LayoutPart | None
    search: SearchAndSharing | None
    assisted: bool
    warnings: list[str]
    created_at: str
    planned_fields: list[PlannedFieldState]
    at: str | None
    limit: limiting.Limit
    archived_at: str | None
    jobs: list[JobLine]


def entry(
    view: View,
    uuid: str,
    locale: str | None = None,
    strand: str = store.DRAFT_STRAND,
    at: int | None = None,
) -> Entry:
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
    lacking: list[Missing] = [
        {"field": n, "label": contenttypes.label_of(kind, n)}
        for where, content in ((tag, own_content), (COMMON, common_content))
        for n in contenttypes.missing(kind, where, content.fields)
    ]
    values = together(kind, common_content, own_content)
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
        "review": show_review.submission(view, latest, common) if latest else None,
        "sign_offs": show_review.sign_offs(view, flow, own, common, latest) if own else [],
        "assignment": around.assignment,
        "comments_open": around.comments_open,
        "gate": around.gate,
        "deciders": around.deciders,
        "overrides": around.overrides,
        "signed_before": around.signed_before,
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
            view, row, flow, tag, own, common, latest, known.stand, around.gate, elsewhen=at is not None
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
        "limit": limiting.of(view, row),
        "archived_at": iso(row.archived_at) if row.archived_at is not None else None,
        "jobs": [
            show_jobs.job_line(view, j)
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


def _drafted(view: View, row: store.Entry, locale: str) -> Content:
    """What the draft of an entry holds in a locale, as far as whoever looks may read that."""
    edition = store.edition(view.conn, row.id, locale)
    if edition is None or edition.head is None or not permission.readable(view, row, locale):
        return EMPTY
    return revisions.content(view.conn, edition.head)


def _layout(view: View, kind: ContentType, tag: str) -> LayoutPart | None:
    """The draft of the layout that an entry follows, in its locale or else in the layout's source."""
    if not kind.regions:
        return None
    row = store.single(view.conn, kind.layout)
    if row is None or not permission.readable(view, row):
        return None
    values: dict[str, Any] = {}
    theirs, shared = view.setup.type(row.type), _drafted(view, row, COMMON)
    for where in (row.source_locale, tag):
        values |= together(theirs, shared, _drafted(view, row, where))
    return {
        "id": row.uuid,
        "title": permission.title(view, row.id, tag) or view.say("common.untitled"),
        "values": {f.name: values[f.name] for f in kind.regions if f.name in values},
    }


def _below(kind: ContentType, values: Mapping[str, Any]) -> set[str]:
    above, _ = contenttypes.placement(kind, values)
    return {above} if above else set()


def _revision(view: View, id: int) -> Revision:
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


def readable(view: View, row: store.Entry) -> bool:
    """Whether whoever looks may read an entry."""
    return permission.readable(view, row)


def named(view: View, row: store.Entry) -> Match:
    """An entry by name."""
    own = short.of(view.conn, "entry", row.uuid)
    return {**permission.named(view, row.id, row.uuid, row.type), "short": own}


def titles(view: View, uuids: Iterable[str], locale: str) -> dict[str, Named]:
    """What referred entries are called, with the picture file if they hold one."""
    out: dict[str, Named] = {}
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


def _referred_by(view: View, uuid: str) -> list[Named]:
    out: dict[str, Named] = {}
    for row in store.referring(view.conn, uuid):
        if not permission.readable_id(view, row.entry):
            out[""] = {"id": "", "type": "", "title": permission.hidden(view), "file": ""}
            continue
        out.setdefault(row.uuid, permission.named(view, row.entry, row.uuid, row.type))
    return list(out.values())


def warnings(
    view: View, row: store.Entry, kind: ContentType, tag: str, values: Mapping[str, Any]
) -> list[str]:
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


def conflict(words: Words, conflicts: Sequence[tuple[str, merge.Conflict]]) -> list[Conflict]:
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
            "pieces": [*c.pieces],
        }
        for locale, c in conflicts
    ]
