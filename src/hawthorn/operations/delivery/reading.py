"""Reading what stands: at which stage and instant, along which paths, in which lists."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from dataclasses import replace

from hawthorn.core import access, moves, timeline
from hawthorn.core.errors import Invalid, NotFound, Refused
from hawthorn.core.limited import HIDDEN
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import EMPTY, Content
from hawthorn.operations.access import permission
from hawthorn.operations.delivery import limiting, projecting
from hawthorn.operations.release import records
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries, listings, moves_ahead, outline, revisions, standings, strands
from hawthorn.store.entries import DRAFT_STRAND, Entry
from hawthorn.store.moves_ahead import PlannedBy
from hawthorn.store.shaped import OfEntry
from hawthorn.store.standings import DRAFT, RELEASE


@dataclass(frozen=True, slots=True)
class Limits:
    """What a preview shows: everything, or one entry, one section, one strand of an entry, with what they show themselves.
    `preview` is its number, under which lies what is being typed; `along` are the entries that go out together with what it
    shows by the instant that it shows: a menu beside the page that it leads to."""

    preview: int
    scope: str
    entry: int = 0
    along: frozenset[int] = frozenset()


@dataclass(frozen=True, slots=True)
class Place:
    """Where somebody reads: at a stage, at an instant (None is now), on a strand where there is one of that name, as if a dispatch
    had gone, and within the limits of a preview. Outside the limits everybody reads what is out."""

    stage: int = RELEASE
    at: int | None = None
    strand: str = ""
    limits: Limits | None = None
    dispatch: int = 0

    @property
    def plain(self) -> bool:
        """Whether it is what everybody reads: released, now."""
        return self.stage == RELEASE and self.at is None and self.limits is None and not self.dispatch

    @property
    def limited(self) -> bool:
        """Whether only a part of it may be seen."""
        return self.limits is not None and self.limits.scope != "all"

    def holds(self, entry: OfEntry, within: Iterable[int] = ()) -> bool:
        """Whether an entry lies inside the limits; `within` are the sections above its own."""
        if self.limits is None or self.limits.scope == "all":
            return True
        own: int = self.limits.entry
        if entry.entry == own or entry.entry in self.limits.along:
            return True
        return self.limits.scope == "section" and (entry.section == own or own in within)


def place(view: View, stage: str = "", at: str = "", dispatch: str = "", strand: str = "") -> Place:
    """The stage and instant that were asked for, or what readers would see once a dispatch (its UUID) had gone, or drafts with a strand of
    that name beside them, if they may be read. A key's first stage is its default."""
    if strand:
        return _beside(view, stage, at or dispatch, strand)
    if dispatch:
        return _inside(view, stage, at, dispatch)
    name = stage or (view.identity.stages[0] if view.identity.stages else "release")
    if name not in view.setup.stages:
        raise Invalid("reading.no_stage", name=name, known=list(view.setup.stages))
    number = view.setup.stages[name]
    instant = timeline.parse_instant(at) if at else None
    if number == RELEASE and instant is None:
        return Place()
    if view.identity.kind == "program" and not view.identity.stages:
        raise Refused("reading.without_key", missing=said("reading.stage", name=name))
    if view.identity.stages and name not in view.identity.stages:
        raise Refused(
            "reading.not_this_stage",
            stage=name,
            stages=list(view.identity.stages),
            missing=said("reading.stage", name=name),
        )
    if instant is not None and set(view.identity.stages) == {"release"}:
        # What was withdrawn, or is yet to come, is not for those who may only read what is out.
        raise Refused("reading.only_now", missing=said("reading.stage_before_release"))
    permission.require_somewhere(view, "read", name)
    return Place(number, instant)


def _inside(view: View, stage: str, at: str, dispatch: str) -> Place:
    if at or stage not in ("", "release"):
        raise Invalid("reading.one_of_three")
    if view.identity.kind == "program" and set(view.identity.stages) in (set(), {"release"}):
        raise Refused("reading.only_now", missing=said("reading.stage_before_release"))
    permission.require_somewhere(view, "read", permission.WORKING)
    return Place(dispatch=records.find(view, dispatch).id)


def _beside(view: View, stage: str, more: str, strand: str) -> Place:
    if more or stage not in ("", permission.WORKING):
        raise Invalid("reading.strand_alone")
    where = place(view, permission.WORKING)
    if strand != DRAFT_STRAND and not strands.is_open(view.conn, strand):
        raise NotFound("common.no_strand", name=strand)
    return replace(where, strand="" if strand == DRAFT_STRAND else strand)


def earlier(view: View, where: Place) -> int | None:
    """The instant at which somebody reads, when it is behind us; None for now and for what is to come."""
    return where.at if where.at is not None and where.at < view.now else None


def revision_at(view: View, edition: int, where: Place) -> tuple[int, int] | None:
    """The revision that a reader at a stage sees of an edition and since when: at the lowest order that holds any."""
    if where.strand:
        row = strands.head_of(view.conn, edition, where.strand)
        if row is not None:
            return row.id, row.at
    order = view.setup.orders[where.stage]
    ahead = projecting.stand(view, edition, where)
    for stage, level in sorted(view.setup.orders.items(), key=lambda pair: pair[1]):
        if level < order:
            continue
        if stage == DRAFT:
            found = _draft_at(view, edition, where.at)
        elif ahead is not None:
            found = (ahead[stage].revision, ahead[stage].since) if stage in ahead else None
        else:
            found = _standing_at(view, edition, stage, where)
        if found is not None:
            return found
    return None


def content_at(view: View, entry: int, locale: str, where: Place) -> Content:
    """What an edition of an entry holds where it is read; nothing where it is not."""
    edition = entries.edition(view.conn, entry, locale)
    found = revision_at(view, edition.id, where) if edition else None
    return revisions.content(view.conn, found[0]) if found else EMPTY


def _draft_at(view: View, edition: int, at: int | None) -> tuple[int, int] | None:
    if at is None or at >= view.now:
        row = strands.head_of(view.conn, edition, DRAFT_STRAND)
    else:
        row = strands.draft_at(view.conn, at, edition)
    return (row.id, row.at) if row else None


def _standing_at(view: View, edition: int, stage: int, where: Place) -> tuple[int, int] | None:
    found = standings.at(view.conn, edition, stage, view.now if where.at is None else where.at)
    return (found.revision, found.since) if found else None


def nothing(name: str) -> NotFound:
    """The answer where nothing can be read, or may be."""
    return NotFound("reading.not_there", name=name)


def closed(view: View, type: str) -> bool:
    """Whether entries of a type are not for whoever reads: without a key only public ones are."""
    kind = view.setup.types.get(type)
    return kind is not None and not kind.public and view.identity.id == NOBODY


def lets(view: View, row: Entry, where: Place) -> bool:
    """Whether whoever reads at a place may read an entry whole."""
    return limiting.lets(view, row, plain=place_of(view, row, where).plain)


def hides(view: View, row: Entry, where: Place) -> bool:
    """Whether an entry is as if it were not there for whoever reads at a place."""
    return row.limited == HIDDEN and not lets(view, row, where)


def for_everybody(view: View, where: Place) -> bool:
    """Whether what is read is what everybody reads, so that it may be kept for them."""
    return where.plain and view.identity.as_everybody


NOBODY = 0
"""The id of whoever reads without a key."""
BY_ID = "~"
"""Before an id, in place of a path that is not there yet."""


def place_of(view: View, entry: Entry, where: Place, locale: str | None = None) -> Place:
    """Where somebody who reads at a place reads an entry, in a locale or in any: there, or what is out, when it lies outside
    the limits of their preview or of their rights."""
    if where.limits is not None and not where.holds(entry, entries.within(view.conn, entry.section)):
        return Place()
    return by_rights(view, entry, where, locale)


def by_rights(view: View, entry: Entry, where: Place, locale: str | None = None) -> Place:
    """The same as far as rights go, with which a preview shows what belongs to a page inside its limits."""
    if where.plain or permission.readable(view, entry, locale, _asked(view, where)):
        return where
    return Place()


def _asked(view: View, where: Place) -> str:
    """The stage that somebody has to be allowed to read: what was out once, or will be, is for those who work on it."""
    return permission.WORKING if where.stage == RELEASE else view.setup.stage_names[where.stage]


def path_of(
    view: View, entry: int, locale: str, stage: int, deps: set[tuple[int, str]] | None = None
) -> str | None:
    """The path of a page at a stage now, from its own slug and those of the pages above it."""
    return path_at(view, entry, locale, Place(stage), deps)


def path_at(
    view: View, entry: int, locale: str, where: Place, deps: set[tuple[int, str]] | None = None
) -> str | None:
    """The path of a page where somebody reads, from its own slug and those of the pages above it; None when it has none.

    What heads a site adds nothing: its own path is that of the locale.
    """
    parts: list[str] = []
    at, seen = entry, set[int]()
    while at and at not in seen:
        seen.add(at)
        if deps is not None:
            deps.add((at, "address"))
        row = entries.entry_by_id(view.conn, at)
        if view.setup.types[row.type].site:
            break
        # A page above that has no edition in this locale lends its source's slug.
        tags = (locale,) if at == entry else (locale, row.source_locale)
        found = next(
            (f for tag in tags if (f := _address(view, at, tag, _known(view, row, tag, where)))), None
        )
        if found is None:
            return None
        parts.append(found[1])
        at = found[0]
    return "/" + "/".join([locale, *reversed(parts)])


def _known(view: View, entry: Entry, locale: str, where: Place) -> Place:
    """Where the address of a page is looked up: where somebody reads, if they may read the page there, or else what is out."""
    if where.plain or permission.readable(view, entry, locale):
        return where
    return Place()


def _address(view: View, entry: int, locale: str, where: Place) -> tuple[int, str] | None:
    if projecting.ahead(view, where):
        found = projecting.address(view, where, entry, locale)
        if found is None and not where.dispatch:
            return standings.address_of(view.conn, entry, DRAFT, locale)
        if not isinstance(found, bool):
            return found
    past = earlier(view, where)
    return next(
        (f for s in _addressed(where) if (f := standings.address_of(view.conn, entry, s, locale, past))), None
    )


def _addressed(where: Place) -> tuple[int, ...]:
    """The stages whose addresses count where somebody reads: only drafts and what is out have any."""
    if where.stage == DRAFT:
        return (DRAFT, RELEASE)
    return (RELEASE,) if where.stage == RELEASE and where.at is None else (RELEASE, DRAFT)


def find_path(view: View, path: str, where: Place, site: str = "") -> tuple[str, str, str | None]:
    """The entry and locale at a path, resolved level by level, and where to go instead for an old address.

    `site` is the entry that heads the site; without it the pages at the top come first, then those of each site in turn.
    """
    locale, *slugs = [p for p in path.split("/") if p] or [""]
    tag = view.setup.locale(locale)
    tops = _tops(view, site)
    if not slugs:
        heads = [top for top in tops if top]
        if not heads:
            raise nothing(path)
        return entries.entry_by_id(view.conn, heads[0]).uuid, tag, None
    if slugs[0].startswith(BY_ID) and not where.plain:
        # A draft without an address is found by its id, by those who may look at drafts.
        row = entries.entry(view.conn, slugs[0].removeprefix(BY_ID))
        if row is None or place_of(view, row, where).plain:
            raise nothing(path)
        return row.uuid, tag, None
    for old in (False, True):
        for top in tops:
            entry = _walk(view, tag, slugs, top, where, old)
            if entry is not None:
                row = entries.entry_by_id(view.conn, entry)
                if closed(view, row.type) or hides(view, row, where):
                    # As if it were not there, and no sooner.
                    continue
                uuid = row.uuid
                now = path_at(view, entry, tag, where) if old else None
                return uuid, tag, now if now != f"/{'/'.join([tag, *slugs])}" else None
    raise nothing(path)


def _tops(view: View, site: str) -> list[int]:
    if site:
        row = entries.entry(view.conn, site)
        if row is None:
            raise nothing(site)
        return [row.id]
    sites = [n for n, k in view.setup.types.items() if k.site]
    if not sites:
        return [0]
    # By their types, of which there are few; at the top there may be any number of pages.
    rows = outline.tops(view.conn, sites)
    return [0, *dict.fromkeys(row.entry for row in rows)]


def _walk(view: View, tag: str, slugs: list[str], top: int, where: Place, old: bool) -> int | None:
    """The entry at the end of a path below a top; `old` also looks for parts that are old addresses."""
    parent = top
    past = earlier(view, where)
    for slug in slugs:
        folded = slug.casefold()
        found = None
        for stage in _addressed(where):
            if found is not None:
                break
            found = standings.taken(view.conn, stage, tag, parent, folded, past)
            if stage == RELEASE and projecting.ahead(view, where):
                found = projecting.at_address(view, where, tag, parent, folded, found)
            found = found or _from_source(view, stage, tag, parent, folded)
        if found is None and old:
            # A draft that got another title is still found where a preview was opened on it.
            stages = (s for s in _addressed(where) if s == RELEASE or not where.plain)
            found = next(
                (f for s in stages if (f := standings.formerly(view.conn, s, tag, parent, folded))), None
            )
            if found is not None and projecting.ahead(view, where):
                gone = projecting.address(view, where, found, tag) is None
                found = None if gone else found
        if found is None:
            return None
        parent = found
    return parent


def _from_source(view: View, stage: int, locale: str, parent: int, slug: str) -> int | None:
    """A page above without an edition in this locale is found by its source's slug."""
    return standings.named_in_source(view.conn, stage, parent, slug, locale)


@dataclass(frozen=True, slots=True)
class Listed:
    """An entry of a list: when it sorts, and whether it is kept on top."""

    entry: int
    uuid: str
    edition: int
    pinned: int
    sort: int


END = (1 << 62, 1 << 62, 1 << 62)
"""Before the first of a list."""


def candidates(
    view: View,
    where: Place,
    types: Sequence[str],
    locale: str,
    limit: int,
    start: tuple[int, int, int] = END,
    *,
    alone: bool = False,
) -> list[Listed]:
    """What stands somewhere, of some types (all without any), in the order of lists, after a place in it.

    At an instant to come, what is planned until then comes with the instant at which it goes; what will have been
    withdrawn by then is still among them, and has no body. `alone` asks for what stands in the locale itself.
    """
    if where.limited:
        where = Place()
    if where.plain or access.reads_all(view.identity):
        return _candidates(view, where, types, locale, limit, start, alone)
    # What may not be read there is read as it is out: only what is out, or may be read, is a candidate.
    out: list[Listed] = []
    while len(out) < limit:
        found = _candidates(view, where, types, locale, limit, start, alone)
        out += [one for one in found if _seen(view, one, where)]
        if len(found) < limit:
            break
        start = (found[-1].pinned, found[-1].sort, found[-1].edition)
    return out[:limit]


def _seen(view: View, one: Listed, where: Place) -> bool:
    row = entries.entry_by_id(view.conn, one.entry)
    return not place_of(view, row, where).plain or standings.is_out(view.conn, one.entry)


def _candidates(
    view: View,
    where: Place,
    types: Sequence[str],
    locale: str,
    limit: int,
    start: tuple[int, int, int],
    alone: bool,
) -> list[Listed]:
    kinds = json.dumps(list(types))
    draft_at = view.now if where.at is None else where.at
    if where.stage == DRAFT and draft_at >= view.now:
        rows = listings.drafts(view.conn, kinds, *start, limit, int(alone), locale)
        return [Listed(r.entry, r.uuid, r.edition, r.pinned, r.sort) for r in rows]
    if where.stage == DRAFT:
        rows = listings.drafts_at(view.conn, kinds, start[1], start[2], draft_at, limit, int(alone), locale)
        return [Listed(r.entry, r.uuid, r.edition, 0, r.sort) for r in rows]
    order = view.setup.orders[where.stage]
    stages = json.dumps([s for s, level in view.setup.orders.items() if level >= order and s != DRAFT])
    past = earlier(view, where) is not None
    at = where.at or view.now
    tags = [locale] if alone else [locale, *view.setup.stand_ins(locale)]
    rows = listings.stood(view.conn, kinds, json.dumps(tags), stages, start, limit, at, int(alone), past=past)
    found = [Listed(r.entry, r.uuid, r.edition, r.pinned, r.sort) for r in rows]
    if where.dispatch:
        ahead = [
            replace(row, instant=projecting.instant_of(view, where.dispatch))
            for row in moves_ahead.listed_by(view.conn, where.dispatch, moves.OUT)
        ]
        found = _with_planned(ahead, types, tags, found, start, limit, alone)
    elif where.at is not None and where.at > view.now:
        ahead = moves_ahead.planned_by(view.conn, where.at)
        found = _with_planned(ahead, types, tags, found, start, limit, alone)
    return found


def _with_planned(
    planned: Sequence[PlannedBy],
    types: Sequence[str],
    tags: Sequence[str],
    now: list[Listed],
    start: tuple[int, int, int],
    limit: int,
    alone: bool,
) -> list[Listed]:
    ahead: dict[int, Listed] = {}
    for row in planned:
        fits = row.locale in tags or (not alone and row.locale == row.source_locale)
        here = fits and (not types or row.type in types)
        if row.verb in moves.OUT and here:
            ahead.setdefault(row.entry, Listed(row.entry, row.uuid, row.edition, 0, row.instant))
    for one in now:
        ahead.pop(one.entry, None)
    both = [*now, *(o for o in ahead.values() if (o.pinned, o.sort, o.edition) < start)]
    return sorted(both, key=lambda o: (o.pinned, o.sort, o.edition), reverse=True)[:limit]


def best_locale(view: View, wanted: str, header: Iterable[tuple[str, float]]) -> str:
    """The locale to read in: the one asked for, else the best of `Accept-Language` (RFC 9110 section 12.5.4)."""
    if wanted:
        return view.setup.locale(wanted)
    for tag, _ in sorted(header, key=lambda pair: -pair[1]):
        for have in view.setup.locales:
            if have.lower() == tag.lower() or have.lower() == tag.split("-")[0].lower():
                return have
    return ""
