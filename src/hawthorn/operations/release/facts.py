"""What gates look at, gathered for many editions at once: the same way for one and for ten thousand."""

from __future__ import annotations

import json
from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any

from hawthorn.core import compact, contenttypes, fields, slots
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.quick import dataclass
from hawthorn.core.workflow import Candidate, SignOff
from hawthorn.operations.access import permission
from hawthorn.operations.release import addresses, placing
from hawthorn.operations.release.checks import Checked
from hawthorn.operations.release.items import EditionFacts, Going, ReleaseItem
from hawthorn.operations.runtime import as_now
from hawthorn.operations.runtime.act import View
from hawthorn.store import gates, reviews, standings
from hawthorn.store.standings import RELEASE


def of_editions(
    view: View, going: Sequence[ReleaseItem], known: Iterable[Going] = ()
) -> dict[int, EditionFacts]:
    """The facts of each edition that goes; those that are `known` already are not looked up again."""
    conn = view.conn
    ids = [g.edition for g in going]
    stand = standings.now_at(conn, ids)
    values = gates.values(conn, [g.revision for g in going])
    parents, authors = gates.parents(conn, ids), gates.authors(conn, ids)
    by_edition = {g.edition: g for g in going}
    out: dict[int, EditionFacts] = {}
    rows: list[Going] = [one for one in known if one.edition in by_edition]
    have = {one.edition for one in rows}
    for row in (*rows, *gates.editions(conn, [id for id in ids if id not in have])):
        item = by_edition[row.edition]
        text, version = values[item.revision]
        kind = view.setup.types[row.type]
        out[row.edition] = EditionFacts(
            row.edition,
            row.entry,
            row.uuid,
            row.type,
            row.locale,
            row.source_locale,
            row.section,
            kind,
            _patched(_held(view, kind, item.revision, text), item.patch),
            version,
            stand.get(row.edition, {}),
            parents.get(row.edition, {}),
            authors.get(row.edition, {}),
            row.removed_at is not None,
            row.archived_at is not None,
        )
    return out


def candidates(
    view: View,
    going: Sequence[ReleaseItem],
    facts: Mapping[int, EditionFacts],
    *,
    at: int | None = None,
    also_out: Iterable[int] = (),
    planning: bool = False,
    leaving: Collection[tuple[int, str]] = (),
) -> dict[int, Candidate]:
    """What each gate looks at, by edition. `also_out` are entries that will be out by then for other reasons;
    `planning` also looks at addresses that are planned, and `leaving` are entries with the locales in which they go from theirs
    along with it."""
    instant = view.now if at is None else at
    going_by_entry: dict[int, set[str]] = {}
    for g in going:
        going_by_entry.setdefault(facts[g.edition].entry, set()).add(facts[g.edition].locale)
    signed = gates.signed(view.conn, [g.revision for g in going], instant)
    layouts = _layouts(view, facts)
    referred = {e: contenttypes.referred(f.kind, f.values) for e, f in facts.items()}
    targets = _targets(view, set().union(*referred.values(), set(layouts.values())))
    titles = {edition: t.title for t in targets.values() for edition in t.out}
    planned = set(also_out)
    places = placing.places_of(view, {f.entry for f in facts.values()}, RELEASE, facts, going)
    taken = addresses.taken(view, going, facts, places, instant, planning, leaving)
    cycles = placing.cycles(view, going, facts, places)
    roofless = placing.roofless(view, going, facts, places, going_by_entry, planned, instant)
    overridden = _overridden(view, going)
    checked = Checked(view, going, facts, referred, instant)
    commons = gates.commons_out(view.conn, {f.entry for f in facts.values()})
    out: dict[int, Candidate] = {}
    for g in going:
        f, refers = facts[g.edition], referred[g.edition]
        embeds, without_alt = _embedded(view, f, targets) if refers else ({}, ())
        if f.locale != COMMON and layouts.get(f.type) in targets:
            embeds = embeds | dict(targets[layouts[f.type]].out)
        mine = signed.get(g.revision, {}) if g.patch is None else {}
        out[g.edition] = Candidate(
            edition=g.edition,
            stage=view.setup.stage_names[g.stage],
            signed=mine,
            authors=f.written_by(g.revision),
            missing=_missing(f),
            not_out=_not_out(refers, targets, going_by_entry, planned) if refers else (),
            without_alt=without_alt,
            common_absent=f.locale != COMMON
            and COMMON not in going_by_entry.get(f.entry, ())
            and f.entry not in commons
            and f.entry not in planned
            and g.stage == RELEASE,
            address_taken=taken.get(g.edition),
            cycle=cycles.get(g.edition),
            parent_absent=roofless.get(g.edition),
            embeds=embeds,
            changed_embeds=_changed_by_stage(view, mine, embeds, titles) if embeds else {},
            broken=checked.broken(g),
            too_long=checked.too_long(g),
            ends=checked.ends(g),
            must_end=checked.must_end(g),
            behind=checked.behind(g),
            values=checked.values(g),
            overridden=overridden.get(g.revision, frozenset()) if g.patch is None else frozenset(),
        )
    return out


def _held(view: View, kind: ContentType, revision: int, text: str) -> dict[str, Any]:
    """What a revision holds, as its type is now."""
    if revision <= kind.marked:
        return dict(as_now.content(view.conn, kind, revision).fields)
    return json.loads(text) if text != "{}" else {}


def _patched(values: dict[str, Any], patch: Mapping[str, Any] | None) -> dict[str, Any]:
    """Values with others in some fields, None for an empty one."""
    if patch is None:
        return values
    return {k: v for k, v in (values | dict(patch)).items() if v is not None}


@dataclass(frozen=True, slots=True)
class _Target:
    entry: int
    uuid: str
    type: str
    title: str
    out: Mapping[int, int]
    heads: Mapping[str, Mapping[str, Any]]


def _overridden(view: View, going: Sequence[ReleaseItem]) -> dict[int, frozenset[tuple[str, str, str]]]:
    """What somebody overrode for each revision."""
    out: dict[int, frozenset[tuple[str, str, str]]] = {}
    for row in reviews.overrides(view.conn, [g.revision for g in going]):
        conditions = {(row.stage_name, code, where) for code, where in json.loads(row.conditions)}
        out[row.revision] = out.get(row.revision, frozenset()) | conditions
    return out


def _targets(view: View, uuids: set[str]) -> dict[str, _Target]:
    if not uuids:
        return {}
    found: dict[str, dict[str, Any]] = {}
    for row in gates.referred(view.conn, uuids):
        one = found.setdefault(row.uuid, {"row": row, "out": {}, "heads": {}, "title": ""})
        if row.revision is not None:
            one["out"][row.edition] = row.revision
        if row.fields:
            one["heads"][row.locale] = compact.read(row.fields)
        if row.locale == row.source_locale:
            one["title"] = row.title
    return {
        u: _Target(
            o["row"].id,
            u,
            o["row"].type,
            (o["title"] or view.say("common.untitled"))
            if permission.readable_id(view, o["row"].id, o["row"].source_locale)
            else permission.hidden(view),
            o["out"],
            o["heads"],
        )
        for u, o in found.items()
    }


def _missing(f: EditionFacts) -> tuple[tuple[str, str], ...]:
    """The paths and labels of required places that hold nothing."""
    paths = contenttypes.missing(f.kind, f.locale, f.values)
    return tuple((path, contenttypes.label_of(f.kind, path)) for path in paths) if paths else ()


def _not_out(
    refers: set[str], targets: Mapping[str, _Target], going: Mapping[int, set[str]], planned: set[int]
) -> tuple[tuple[str, str], ...]:
    """What is referred to and will not be out, with its title."""
    known = [(uuid, targets[uuid]) for uuid in sorted(refers) if uuid in targets]
    return tuple((uuid, target.title) for uuid, target in known if not _is_out(target, going, planned))


def _is_out(target: _Target, going: Mapping[int, set[str]], planned: set[int]) -> bool:
    return bool(target.out) or bool(going.get(target.entry)) or target.entry in planned


def _embedded(
    view: View, f: EditionFacts, targets: Mapping[str, _Target]
) -> tuple[dict[int, int], tuple[str, ...]]:
    """The revisions that an edition's pictures have now, and the pictures without alt text."""
    shown: set[str] = set()
    for slot in slots.filled(f.kind.fields, f.values):
        shown |= fields.pictures(slot.spec, slot.value)
        if slot.spec.kind == "reference":
            shown |= {
                u
                for u in fields.references(slot.spec, slot.value)
                if u in targets and _is_shown(view, targets[u])
            }
    embeds: dict[int, int] = {}
    without: list[str] = []
    for uuid in sorted(shown & set(targets)):
        target = targets[uuid]
        embeds |= target.out
        alt = next((x.name for x in view.setup.types[target.type].fields if x.counts_as_alt), None)
        texts = [target.heads.get(f.locale, {}), *target.heads.values()]
        if alt and not any(t.get(alt) for t in texts):
            without.append(target.title)
    return embeds, tuple(without)


def _is_shown(view: View, target: _Target) -> bool:
    """Whether what refers to it shows it whole: a picture, or a common block."""
    kind = view.setup.types[target.type]
    return kind.common or kind.file is not None


def _layouts(view: View, facts: Mapping[int, EditionFacts]) -> dict[str, str]:
    """The entry (UUID) whose regions stand in for empty ones, by the type that follows it."""
    wanted = {f.type: f.kind.layout for f in facts.values() if f.kind.layout}
    if not wanted:
        return {}
    found = gates.single(view.conn, set(wanted.values()))
    return {type: found[layout] for type, layout in wanted.items() if layout in found}


def _changed_by_stage(
    view: View,
    signed: Mapping[str, Sequence[SignOff]],
    now: Mapping[int, int],
    titles: Mapping[int, str],
) -> dict[str, tuple[str, ...]]:
    """By stage, what was shown with a revision and has changed since it was signed off for that."""
    found = ((stage, _changed(view, given, now, titles)) for stage, given in signed.items())
    return {stage: moved for stage, moved in found if moved}


def _changed(
    view: View, sign_offs: Sequence[SignOff], now: Mapping[int, int], titles: Mapping[int, str]
) -> tuple[str, ...]:
    """What was shown with a revision and has changed since somebody signed it off, by title."""
    moved = {
        edition
        for sign_off in sign_offs
        for edition, seen in sign_off.seen.items()
        if edition in now and now[edition] != seen
    }
    return tuple(sorted({titles.get(e) or view.say("facts.picture") for e in moved}))
