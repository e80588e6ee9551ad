"""What gates look at, gathered for many editions at once: the same way for one and for ten thousand."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from hawthorn.core import contenttypes, fields, moves, revision, slots
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.outline import loop, natural
from hawthorn.core.timeline import Standing
from hawthorn.core.workflow import Candidate, SignOff
from hawthorn.operations.access import permission
from hawthorn.operations.release.checks import Checked
from hawthorn.operations.runtime.act import View
from hawthorn.store import reviews, standings
from hawthorn.store.standings import RELEASE


@dataclass(frozen=True, slots=True)
class ReleaseItem:
    """One revision of one edition that is to stand at a stage."""

    edition: int
    revision: int
    stage: int


@dataclass(slots=True)
class EditionFacts:
    """An edition, what stands of it now, and the values that would go."""

    edition: int
    entry: int
    uuid: str
    type: str
    locale: str
    source_locale: str
    section: int | None
    title: str
    kind: ContentType
    values: Mapping[str, Any]
    type_version: int
    standings: Mapping[int, Standing]
    parents: Mapping[int, tuple[int, ...]]
    authors: Mapping[int, int]
    removed: bool = False

    def descends(self, revision_id: int, stage: int) -> bool:
        """Whether a revision comes from what stands at a stage."""
        current = self.standings.get(stage)
        return current is None or revision.descends(self._up, revision_id, current.revision)

    def holding_ancestors(
        self, revision_id: int, below_rung: int, rungs: Mapping[int, int]
    ) -> tuple[int, ...]:
        """The stages below a rung where an ancestor of the revision (or itself) stands."""
        return tuple(
            stage
            for stage, standing in self.standings.items()
            if rungs[stage] < below_rung and revision.descends(self._up, revision_id, standing.revision)
        )

    def written_by(self, revision_id: int) -> frozenset[int]:
        """Who changed the text since what is out."""
        out = self.standings.get(RELEASE)
        fresh = revision.ancestors(self._up, revision_id)
        if out is not None:
            fresh -= revision.ancestors(self._up, out.revision)
        return frozenset(self.authors[r] for r in fresh if r in self.authors)

    def _up(self, id: int) -> tuple[int, ...]:
        return self.parents.get(id, ())


_EDITIONS = """
SELECT d.id, d.locale, e.id AS entry, e.uuid, e.type, e.source_locale, e.section, e.removed_at, coalesce(s.title, '') AS title
FROM json_each(?) j JOIN edition d ON d.id = j.value JOIN entry e ON e.id = d.entry LEFT JOIN summary s ON s.edition = d.id
"""


def of_editions(view: View, going: Sequence[ReleaseItem]) -> dict[int, EditionFacts]:
    """The facts of each edition that goes."""
    conn = view.conn
    ids = [g.edition for g in going]
    stand = standings.now_at(conn, ids)
    values = {
        row["id"]: (row["fields"], row["type_version"])
        for row in conn.execute(
            "SELECT r.id, r.fields, r.type_version FROM json_each(?) j JOIN revision r ON r.id = j.value",
            (json.dumps([g.revision for g in going]),),
        ).fetchall()
    }
    parents, authors = _graphs(view, ids)
    by_edition = {g.edition: g for g in going}
    out: dict[int, EditionFacts] = {}
    for row in conn.execute(_EDITIONS, (json.dumps(ids),)).fetchall():
        text, version = values[by_edition[row["id"]].revision]
        out[row["id"]] = EditionFacts(
            row["id"],
            row["entry"],
            row["uuid"],
            row["type"],
            row["locale"],
            row["source_locale"],
            row["section"],
            row["title"],
            view.setup.types[row["type"]],
            json.loads(text),
            version,
            stand.get(row["id"], {}),
            parents.get(row["id"], {}),
            authors.get(row["id"], {}),
            row["removed_at"] is not None,
        )
    return out


def _graphs(
    view: View, ids: Sequence[int]
) -> tuple[dict[int, dict[int, tuple[int, ...]]], dict[int, dict[int, int]]]:
    listed = json.dumps(list(ids))
    authors: dict[int, dict[int, int]] = {}
    for row in view.conn.execute(
        "SELECT r.edition, r.id, r.actor FROM json_each(?) j JOIN revision r ON r.edition = j.value",
        (listed,),
    ).fetchall():
        authors.setdefault(row[0], {})[row[1]] = row[2]
    parents: dict[int, dict[int, tuple[int, ...]]] = {}
    for row in view.conn.execute(
        "SELECT r.edition, p.revision, p.parent FROM json_each(?) j JOIN revision r ON r.edition = j.value "
        "JOIN revision_parent p ON p.revision = r.id ORDER BY p.revision, p.ord",
        (listed,),
    ).fetchall():
        mine = parents.setdefault(row[0], {})
        mine[row[1]] = (*mine.get(row[1], ()), row[2])
    return parents, authors


def candidates(
    view: View,
    going: Sequence[ReleaseItem],
    facts: Mapping[int, EditionFacts],
    *,
    at: int | None = None,
    also_out: Iterable[int] = (),
    planning: bool = False,
) -> dict[int, Candidate]:
    """What each gate looks at, by edition. `also_out` are entries that will be out by then for other reasons;
    `planning` also looks at addresses that are planned."""
    instant = view.now if at is None else at
    going_by_entry: dict[int, set[str]] = {}
    for g in going:
        going_by_entry.setdefault(facts[g.edition].entry, set()).add(facts[g.edition].locale)
    signed = _signed(view, going, instant)
    layouts = _layouts(view, facts)
    referred = {e: contenttypes.referred(f.kind, f.values) for e, f in facts.items()}
    targets = _targets(view, set().union(*referred.values(), set(layouts.values())))
    planned = set(also_out)
    places = places_of(view, {f.entry for f in facts.values()}, RELEASE, facts, going)
    taken = _addresses_taken(view, going, facts, places, instant, planning)
    circles = _circles(view, going, facts, places)
    roofless = _roofless(view, going, facts, places, going_by_entry, planned, instant)
    passed = _passed(view, going)
    checked = Checked(view, going, facts, referred, instant)
    commons = _commons(view, facts)
    out: dict[int, Candidate] = {}
    for g in going:
        f = facts[g.edition]
        shown = _embedded(view, f, targets) if referred[g.edition] else ({}, ())
        embeds, without_alt = shown
        if f.locale != COMMON and layouts.get(f.type) in targets:
            embeds = embeds | dict(targets[layouts[f.type]].out)
        mine = signed.get(g.revision, {})
        out[g.edition] = Candidate(
            edition=g.edition,
            stage=view.setup.stage_names[g.stage],
            signed=mine,
            authors=f.written_by(g.revision),
            missing=tuple(
                (name, contenttypes.label_of(f.kind, name))
                for name in contenttypes.missing(f.kind, f.locale, f.values)
            ),
            not_out=tuple(
                (uuid, targets[uuid].title)
                for uuid in sorted(referred[g.edition])
                if uuid in targets and not _is_out(targets[uuid], going_by_entry, planned)
            ),
            without_alt=without_alt,
            common_absent=f.locale != COMMON
            and COMMON not in going_by_entry.get(f.entry, ())
            and not commons.get(f.entry, False)
            and g.stage == RELEASE,
            address_taken=taken.get(g.edition, ""),
            circle=circles.get(g.edition, ""),
            parent_absent=roofless.get(g.edition),
            embeds=embeds,
            changed_embeds={
                stage: moved for stage, s in mine.items() if (moved := _changed(s, embeds, targets))
            },
            broken=checked.broken(g),
            too_long=checked.too_long(g),
            ends=checked.ends(g),
            behind=checked.behind(g),
            values=checked.values(g),
            passed=passed.get(g.revision, frozenset()),
        )
    return out


@dataclass(frozen=True, slots=True)
class _Target:
    entry: int
    uuid: str
    type: str
    title: str
    out: Mapping[int, int]
    heads: Mapping[str, Mapping[str, Any]]


def _signed(
    view: View, going: Sequence[ReleaseItem], instant: int
) -> dict[int, dict[str, tuple[SignOff, ...]]]:
    """The sign-offs of each revision, by the stage that they are for."""
    out: dict[int, dict[str, tuple[SignOff, ...]]] = {}
    for row in reviews.sign_offs(view.conn, [g.revision for g in going], instant):
        seen = {int(k): v for k, v in json.loads(row["seen"]).items()}
        mine = out.setdefault(row["revision"], {})
        one = SignOff(row["actor"], row["name"], tuple(json.loads(row["roles"])), row["handle"], seen)
        mine[row["stage_name"]] = (*mine.get(row["stage_name"], ()), one)
    return out


def _passed(view: View, going: Sequence[ReleaseItem]) -> dict[int, frozenset[tuple[str, str, str]]]:
    """What somebody let each revision through without."""
    out: dict[int, frozenset[tuple[str, str, str]]] = {}
    for row in reviews.passes(view.conn, [g.revision for g in going]):
        conditions = {(row["stage_name"], code, where) for code, where in json.loads(row["conditions"])}
        out[row["revision"]] = out.get(row["revision"], frozenset()) | conditions
    return out


def _targets(view: View, uuids: set[str]) -> dict[str, _Target]:
    if not uuids:
        return {}
    rows = view.conn.execute(
        "SELECT e.id, e.uuid, e.type, e.source_locale, d.id AS edition, d.locale, st.revision, r.fields, m.title "
        "FROM json_each(?) j JOIN entry e ON e.uuid = j.value JOIN edition d ON d.entry = e.id "
        "LEFT JOIN standing st ON st.edition = d.id AND st.stage = 2 AND st.until IS NULL "
        "LEFT JOIN strand x ON x.edition = d.id AND x.name = 'draft' AND x.closed_at IS NULL "
        "LEFT JOIN revision r ON r.id = coalesce(st.revision, x.head) LEFT JOIN summary m ON m.edition = d.id",
        (json.dumps(sorted(uuids)),),
    ).fetchall()
    found: dict[str, dict[str, Any]] = {}
    for row in rows:
        one = found.setdefault(row["uuid"], {"row": row, "out": {}, "heads": {}, "title": ""})
        if row["revision"] is not None:
            one["out"][row["edition"]] = row["revision"]
        if row["fields"]:
            one["heads"][row["locale"]] = json.loads(row["fields"])
        if row["locale"] == row["source_locale"]:
            one["title"] = row["title"]
    return {
        u: _Target(
            o["row"]["id"],
            u,
            o["row"]["type"],
            (o["title"] or "untitled")
            if permission.readable_id(view, o["row"]["id"], o["row"]["source_locale"])
            else permission.HIDDEN,
            o["out"],
            o["heads"],
        )
        for u, o in found.items()
    }


def _is_out(target: _Target, going: Mapping[int, set[str]], planned: set[int]) -> bool:
    return bool(target.out) or bool(going.get(target.entry)) or target.entry in planned


def _embedded(
    view: View, f: EditionFacts, targets: Mapping[str, _Target]
) -> tuple[dict[int, int], tuple[str, ...]]:
    """The revisions that an edition's pictures have now, and the pictures without alt text."""
    shown: set[str] = set()
    for slot in slots.walk(f.kind.fields, f.values):
        if slot.value is None:
            continue
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
    rows = view.conn.execute(
        "SELECT type, uuid FROM entry WHERE removed_at IS NULL AND type IN (SELECT value FROM json_each(?))",
        (json.dumps(sorted(set(wanted.values()))),),
    ).fetchall()
    found = {row["type"]: row["uuid"] for row in rows}
    return {type: found[layout] for type, layout in wanted.items() if layout in found}


def _changed(
    sign_offs: Sequence[SignOff], now: Mapping[int, int], targets: Mapping[str, _Target]
) -> tuple[str, ...]:
    titles = {edition: t.title for t in targets.values() for edition in t.out}
    moved = {
        edition
        for sign_off in sign_offs
        for edition, seen in sign_off.seen.items()
        if edition in now and now[edition] != seen
    }
    return tuple(sorted({titles.get(e, "a picture") for e in moved}))


def _commons(view: View, facts: Mapping[int, EditionFacts]) -> dict[int, bool]:
    """For each entry, whether its common edition is out."""
    rows = view.conn.execute(
        "SELECT DISTINCT d.entry FROM json_each(?) j JOIN edition d ON d.entry = j.value AND d.locale = '*' "
        "JOIN standing s ON s.edition = d.id AND s.stage = 2 AND s.until IS NULL",
        (json.dumps(sorted({f.entry for f in facts.values()})),),
    ).fetchall()
    return {row[0]: True for row in rows}


def _withdrawn_by(view: View, at: int) -> set[tuple[int, str]]:
    """Editions that a planned dispatch will have withdrawn by an instant."""
    if at <= view.now:
        return set()
    rows = view.conn.execute(
        "SELECT d.entry, d.locale FROM dispatch p JOIN move m ON m.dispatch = p.id "
        "AND m.verb IN (SELECT value FROM json_each(?)) JOIN edition d ON d.id = m.edition "
        "WHERE p.state = 'planned' AND p.instant <= ?",
        (json.dumps(moves.LEAVING), at),
    ).fetchall()
    return {(row["entry"], row["locale"]) for row in rows}


def _planned_there(view: View, locale: str, parent: int, slug: str, own: set[int]) -> sqlite3.Row | None:
    """Another entry that is drafted with an address and planned to be released."""
    rows = view.conn.execute(
        "SELECT a.entry, p.name, s.title FROM address a JOIN edition d ON d.entry = a.entry AND d.locale = a.locale "
        "JOIN move m ON m.edition = d.id AND m.verb IN (SELECT value FROM json_each(?)) "
        "JOIN dispatch p ON p.id = m.dispatch AND p.state = 'planned' "
        "JOIN summary s ON s.edition = d.id WHERE a.stage = 1 AND a.locale = ? AND a.parent = ? AND a.slug = ? "
        "AND a.until IS NULL",
        (json.dumps(moves.LEADING), locale, parent, slug),
    ).fetchall()
    return next((row for row in rows if row["entry"] not in own), None)


def _addresses_taken(
    view: View,
    going: Sequence[ReleaseItem],
    facts: Mapping[int, EditionFacts],
    places: Mapping[int, tuple[int, str]],
    at: int,
    planning: bool,
) -> dict[int, str]:
    """For editions whose address would clash with what is out by then, or (when planning) planned: with whom, in words."""
    wanted: dict[tuple[int, str, int, str], list[int]] = {}
    parents = {entry: parent for entry, (parent, _) in places.items()}
    for g in going:
        f = facts[g.edition]
        slug = f.kind.slug
        if g.stage == RELEASE and slug and f.locale != COMMON and f.values.get(slug.name):
            key = (g.stage, f.locale, parents.get(f.entry, 0), f.values[slug.name])
            wanted.setdefault(key, []).append(g.edition)
    for edition, locale, wish in _out_and_moving(view, going, facts, places):
        wanted.setdefault((RELEASE, locale, parents.get(facts[edition].entry, 0), wish), []).append(edition)
    leaving = {(facts[g.edition].entry, facts[g.edition].locale) for g in going}
    leaving |= _withdrawn_by(view, at)
    keys = json.dumps([[s, loc, par, slug] for s, loc, par, slug in wanted])
    rows = view.conn.execute(
        "SELECT a.stage, a.locale, a.parent, a.slug, a.entry FROM json_each(?) j CROSS JOIN address a "
        "ON a.stage = j.value ->> 0 AND a.locale = j.value ->> 1 AND a.parent = j.value ->> 2 AND a.slug = j.value ->> 3 "
        "AND a.until IS NULL",
        (keys,),
    ).fetchall()
    out: dict[int, str] = {}
    for row in rows:
        for edition in wanted[(row["stage"], row["locale"], row["parent"], row["slug"])]:
            if row["entry"] != facts[edition].entry and (row["entry"], row["locale"]) not in leaving:
                out[edition] = f"The address “{row['slug']}” is taken by another entry that is out."
    for (_, locale, parent, wish), editions in wanted.items() if planning else ():
        rival = _planned_there(view, locale, parent, wish, {facts[e].entry for e in editions})
        if rival and not any(e in out for e in editions):
            seen = permission.readable_id(view, rival["entry"], locale)
            title = f"“{rival['title'] or 'untitled'}”" if seen else permission.HIDDEN.capitalize()
            by = f" ({rival['name']})" if seen else ""
            said = f"{title} is planned with the address “{wish}”{by}."
            out |= dict.fromkeys(editions, said)
    for key, editions in wanted.items():
        if len({facts[e].entry for e in editions}) > 1:
            out |= dict.fromkeys(editions, f"Two entries that go together want the address “{key[3]}”.")
    return out


def _out_and_moving(
    view: View,
    going: Sequence[ReleaseItem],
    facts: Mapping[int, EditionFacts],
    places: Mapping[int, tuple[int, str]],
) -> list[tuple[int, str, str]]:
    """The addresses that entries have in locales that do not go themselves, where the place above them changes: each with
    the common edition that moves it."""
    own = {(facts[g.edition].entry, facts[g.edition].locale) for g in going}
    moving = {
        facts[g.edition].entry: g.edition
        for g in going
        if g.stage == RELEASE and facts[g.edition].locale == COMMON and facts[g.edition].kind.below
    }
    if not moving:
        return []
    rows = view.conn.execute(
        "SELECT a.entry, a.locale, a.parent, a.slug FROM json_each(?) j CROSS JOIN address a ON a.entry = j.value AND a.stage = ? "
        "AND a.until IS NULL",
        (json.dumps(sorted(moving)), RELEASE),
    ).fetchall()
    return [
        (moving[row["entry"]], row["locale"], row["slug"])
        for row in rows
        if (row["entry"], row["locale"]) not in own and places.get(row["entry"], (0, ""))[0] != row["parent"]
    ]


def _circles(
    view: View,
    going: Sequence[ReleaseItem],
    facts: Mapping[int, EditionFacts],
    places: Mapping[int, tuple[int, str]],
) -> dict[int, str]:
    """For common editions whose release would place entries below one another in a circle: which, in words. Looked at on
    the outcome, as releasing one of two moves can make a circle that neither draft has."""
    moving = {
        facts[g.edition].entry: g.edition
        for g in going
        if g.stage == RELEASE and facts[g.edition].locale == COMMON and facts[g.edition].kind.below
    }
    if not moving:
        return {}

    def parent(entry: int) -> int:
        if entry in places:
            return places[entry][0]
        row = view.conn.execute(
            "SELECT parent FROM placed WHERE entry = ? AND stage = ? AND until IS NULL", (entry, RELEASE)
        ).fetchone()
        return row[0] if row else 0

    out: dict[int, str] = {}
    for entry, edition in moving.items():
        round = loop(entry, parent) if places.get(entry, (0, ""))[0] else []
        if round:
            titles = " below ".join(f"“{permission.title(view, e) or 'untitled'}”" for e in [*round, entry])
            out[edition] = f"It would place {titles}. Release the other move with it, or move one of them."
    return out


def _roofless(
    view: View,
    going: Sequence[ReleaseItem],
    facts: Mapping[int, EditionFacts],
    places: Mapping[int, tuple[int, str]],
    coming: Mapping[int, set[str]],
    planned: set[int],
    at: int,
) -> dict[int, tuple[str, str]]:
    """For editions that would be out below a page that is not, and so have no address: the page's UUID and title.

    A page above lends its source's address where it has none in a locale; what heads a site adds nothing to an address.
    """
    above = {parent for parent, _ in places.values() if parent}
    if not above:
        return {}
    roofs = _roofs(view, above, leaving=_withdrawn_by(view, at), coming=coming)
    addressed = _addressed(view, {entry for entry, (parent, _) in places.items() if parent})
    out: dict[int, tuple[str, str]] = {}
    for g in going:
        f = facts[g.edition]
        roof = roofs.get(places.get(f.entry, (0, ""))[0])
        if g.stage != RELEASE or f.kind.slug is None or roof is None or roof.entry in planned:
            continue
        locales = {f.locale} if f.locale != COMMON else addressed.get(f.entry, set())
        if not all(roof.covers(locale) for locale in locales):
            title = permission.title(view, roof.entry, f.locale if f.locale != COMMON else None)
            out[g.edition] = (roof.uuid, title or "untitled")
    return out


@dataclass(frozen=True, slots=True)
class _Roof:
    """A page with others below it, and the locales in which it has an address for readers, or will have."""

    entry: int
    uuid: str
    site: bool
    source_locale: str
    locales: frozenset[str]

    def covers(self, locale: str) -> bool:
        """Whether a page below it has an address in a locale, as far as this one goes."""
        return self.site or bool({locale, self.source_locale} & self.locales)


def _roofs(
    view: View, entries: set[int], *, leaving: set[tuple[int, str]], coming: Mapping[int, set[str]]
) -> dict[int, _Roof]:
    rows = view.conn.execute(
        "SELECT e.id, e.uuid, e.type, e.source_locale FROM json_each(?) j JOIN entry e ON e.id = j.value",
        (json.dumps(sorted(entries)),),
    ).fetchall()
    have = _addressed(view, entries)
    out: dict[int, _Roof] = {}
    for row in rows:
        kind = view.setup.types[row["type"]]
        if kind.slug is None and not kind.site:
            continue
        stay = {locale for locale in have.get(row["id"], ()) if (row["id"], locale) not in leaving}
        locales = frozenset(stay | coming.get(row["id"], set()))
        out[row["id"]] = _Roof(row["id"], row["uuid"], bool(kind.site), row["source_locale"], locales)
    return out


def _addressed(view: View, entries: set[int]) -> dict[int, set[str]]:
    """The locales in which entries have an address for readers."""
    out: dict[int, set[str]] = {}
    for row in view.conn.execute(
        "SELECT a.entry, a.locale FROM json_each(?) j CROSS JOIN address a ON a.entry = j.value AND a.stage = ? "
        "AND a.until IS NULL",
        (json.dumps(sorted(entries)), RELEASE),
    ).fetchall():
        out.setdefault(row["entry"], set()).add(row["locale"])
    return out


def left_below(
    view: View, leaving: set[tuple[int, str]], coming: Mapping[int, set[str]], moved: set[int]
) -> dict[int, list[tuple[int, str]]]:
    """What would be out below pages that leave, and have no address any more: by page the entries and locales.

    `coming` goes out with it, in these locales; `moved` are entries that are placed elsewhere with it.
    """
    above = {entry for entry, _ in leaving}
    rows = view.conn.execute(
        "SELECT a.parent, a.entry, a.locale FROM json_each(?1) j CROSS JOIN json_each(?2) l CROSS JOIN address a ON a.stage = ?3 "
        "AND a.locale = l.value AND a.parent = j.value AND a.until IS NULL ORDER BY a.parent, a.entry, a.locale",
        (json.dumps(sorted(above)), json.dumps([*view.setup.locales]), RELEASE),
    ).fetchall()
    if not rows:
        return {}
    roofs = _roofs(view, above, leaving=leaving, coming=coming)
    out: dict[int, list[tuple[int, str]]] = {}
    for row in rows:
        roof = roofs.get(row["parent"])
        stays = (row["entry"], row["locale"]) not in leaving and row["entry"] not in moved
        if roof is not None and stays and not roof.covers(row["locale"]):
            out.setdefault(row["parent"], []).append((row["entry"], row["locale"]))
    return out


def places_of(
    view: View, entries: set[int], stage: int, facts: Mapping[int, EditionFacts], going: Sequence[ReleaseItem]
) -> dict[int, tuple[int, str]]:
    """The entry that each is placed below at a stage, once what goes stands there (0 at the root), and its rank."""
    below: dict[int, tuple[str | None, str]] = {}
    rows = view.conn.execute(
        "SELECT d.entry, e.type, r.fields FROM json_each(?) j JOIN edition d ON d.entry = j.value AND d.locale = '*' "
        "JOIN entry e ON e.id = d.entry JOIN standing s ON s.edition = d.id AND s.stage = ? AND s.until IS NULL "
        "JOIN revision r ON r.id = s.revision",
        (json.dumps(sorted(entries)), stage),
    ).fetchall()
    for row in rows:
        below[row["entry"]] = contenttypes.placement(view.setup.types[row["type"]], json.loads(row["fields"]))
    for g in going:
        f = facts[g.edition]
        if f.locale == COMMON and g.stage == stage:
            below[f.entry] = contenttypes.placement(f.kind, f.values)
    uuids = {u for u, _ in below.values() if u}
    ids = {
        row["uuid"]: row["id"]
        for row in view.conn.execute(
            "SELECT e.id, e.uuid FROM json_each(?) j JOIN entry e ON e.uuid = j.value",
            (json.dumps(sorted(uuids)),),
        ).fetchall()
    }
    return {entry: (ids.get(u, 0) if u else 0, rank or natural(entry)) for entry, (u, rank) in below.items()}
