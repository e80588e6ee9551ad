"""Releasing, withdrawing and planning: dispatches and the clockwork's part in them."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace
from typing import Any

import structlog

from hawthorn.core import dispatch, moves, naming, numbers, timeline
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.dispatch import Plan
from hawthorn.core.errors import BadTime, GateUnmet, InTheWay, Invalid, NotFound
from hawthorn.core.moves import MoveFacts
from hawthorn.core.timeline import PlannedTime
from hawthorn.core.workflow import Candidate, Unmet, Workflow, unmet
from hawthorn.operations.access import permission
from hawthorn.operations.release import applying, facts, placing, workflows
from hawthorn.operations.release.items import EditionFacts, ReleaseItem
from hawthorn.operations.runtime.act import CLOCKWORK, Act, View, new_uuid
from hawthorn.store import dispatches as store
from hawthorn.store import entries, failing, gates, search, standings

log = structlog.get_logger(__name__)

_DEEPEST = 40
"""So often what is needed is looked for in what is needed: as deep as pages may lie below one another."""
LATE = 5 * timeline.SECOND
"""From this on, a dispatch that goes after its instant says that it was late."""


@dataclass(frozen=True, slots=True)
class MoveRequest:
    """What somebody asks for: an entry in a locale, to be released or withdrawn. `revision` is a number."""

    uuid: str
    locale: str
    verb: str = moves.USUAL
    revision: int | None = None
    regress: bool = False


@dataclass(frozen=True, slots=True)
class When:
    """An instant, or a wall time in a zone; nothing at all means now."""

    instant: str = ""
    wall: str = ""
    zone: str = ""
    fold: str = ""


@dataclass(slots=True)
class Line:
    """One move of a dispatch being made: what goes, from which revision to which, and what blocks it."""

    verb: str
    edition: int
    stage: int
    revision: int | None
    regress: bool
    uuid: str
    locale: str
    title: str
    type: str
    before: int | None = None
    after: int | None = None
    unmet: list[Unmet] = field(default_factory=list)
    along: bool = False
    left: list[tuple[str, str]] = field(default_factory=list)
    """What would be out below it and have no address any more: UUIDs and locales."""

    @property
    def does(self) -> moves.Verb:
        """What its verb does."""
        return moves.of(self.verb)


@dataclass(slots=True)
class DispatchCheck:
    """What a dispatch would do, what blocks it, and what else it depends on."""

    lines: list[Line]
    needs: list[dict[str, str]]
    warnings: list[str]

    @property
    def blocked(self) -> bool:
        """Whether anything is unmet."""
        return any(line.unmet for line in self.lines)


def resolve_when(view: View, when: When | None) -> PlannedTime | None:
    """The planned time that was asked for, checked not to be past; None for now."""
    if when is None or not (when.instant or when.wall):
        return None
    if when.wall:
        planned = timeline.resolve_wall(when.wall, when.zone or view.identity.zone, when.fold)
    else:
        instant = timeline.parse_instant(when.instant)
        zone = when.zone or view.identity.zone
        wall = timeline.to_datetime(instant).astimezone(timeline.zone(zone)).replace(tzinfo=None)
        planned = PlannedTime(instant, wall.isoformat(timespec="seconds"), zone, "")
        # An instant is exact already; only a wall time is resolved again when zones change their rules.
        planned = PlannedTime(instant, "", zone, "")
    timeline.not_past(planned.instant, view.now)
    return planned


def approved(view: View, flow: Workflow, edition: sqlite3.Row) -> int | None:
    """The revision that would go out: what stands nearest to release, else the head of the draft."""
    stand = standings.now_at(view.conn, [edition["id"]]).get(edition["id"], {})
    for stage in reversed(flow.stages[1:-1]):
        standing = stand.get(view.setup.stages[stage.name])
        if standing is not None:
            return standing.revision
    head: int | None = edition["head"]
    return head


def check(
    view: View,
    requests: Sequence[MoveRequest],
    *,
    at: int | None = None,
    with_needs: bool = False,
    asking: bool = True,
) -> DispatchCheck:
    """Work out what would go, with the common editions, and what blocks it."""
    lines: list[Line] = []
    for request in requests:
        _lines_for(view, request, lines, False)
    instant = view.now if at is None else at
    needs: list[dict[str, str]] = []
    for _ in range(_DEEPEST):
        plan_lines(view, lines, instant, planning=True)
        needs = _needs(view, lines)
        if not with_needs or not needs:
            break
        for need in needs:
            _lines_for(view, MoveRequest(need["id"], need["locale"], need["verb"]), lines, True)
    for line in lines:
        entry = entries.entry(view.conn, line.uuid)
        assert entry is not None
        about = permission.subject(view, entry, line.locale, view.setup.stage_names[line.stage])
        verb = line.does.asks(standings.stood(view.conn, entry["id"]))
        if asking:
            permission.require(view, verb, about)
        elif not permission.may(view, verb, about):
            # Whoever only looks is told that they may not do it, with who may.
            line.unmet.append(Unmet("refused", permission.refusal(view, verb, about).detail, "", verb))
    return DispatchCheck(lines, needs, _warnings(view, lines))


def _lines_for(view: View, request: MoveRequest, lines: list[Line], along: bool) -> None:
    entry = permission.find(view, request.uuid, request.locale)
    flow = workflows.of(view, entry, view.setup.locale(request.locale))
    verb = moves.of(request.verb)
    tag = view.setup.locale(request.locale)
    rows = {e["id"]: e for e in entries.editions(view.conn, entry["id"])}
    named = next((e for e in rows.values() if e["locale"] == tag), None)
    if named is None:
        raise NotFound(f"It has no {tag} edition.", remedy="Write it, or commission a translation.")
    title = permission.title(view, entry["id"], tag)
    stage = view.setup.stages[flow.last.name]
    stand = standings.now_at(view.conn, list(rows))
    have = {line.edition for line in lines}
    for touched in verb.touches(_around(named, rows, stand, stage, lines)):
        one = rows[touched.edition]
        now = stand.get(one["id"], {}).get(stage)
        revision = _brought(view, flow, one, touched.brings, request.revision)
        if one["id"] in have or (touched.along and revision == (now.revision if now else None)):
            continue
        lines.append(
            Line(
                request.verb,
                one["id"],
                stage,
                revision,
                request.regress,
                request.uuid,
                one["locale"],
                title,
                entry["type"],
                entries.number(view.conn, now.revision) if now else None,
                entries.number(view.conn, revision) if revision is not None else None,
                along=along,
            )
        )


def _around(
    named: sqlite3.Row,
    rows: Mapping[int, sqlite3.Row],
    stand: Mapping[int, Mapping[int, timeline.Standing]],
    stage: int,
    lines: Sequence[Line],
) -> moves.Around:
    """An entry as a move finds it, once the lines before it have gone."""
    common = next((n for n, e in rows.items() if e["locale"] == COMMON and e["head"] is not None), None)
    leaving = {x.edition for x in lines if x.does.leaves}
    others = (n for n, e in rows.items() if e["locale"] != COMMON and n != named["id"] and n not in leaving)
    stay = any(stage in stand.get(n, {}) for n in others)
    return moves.Around(named["id"], common, tuple(rows), stay)


def _brought(view: View, flow: Workflow, edition: sqlite3.Row, which: str, number: int | None) -> int | None:
    """The revision that a move brings to an edition."""
    if which == moves.NOTHING:
        return None
    if which == moves.CHOSEN and number is not None:
        return _numbered(view, edition, number)
    return approved(view, flow, edition)


def _numbered(view: View, edition: sqlite3.Row, number: int) -> int:
    row = entries.numbered(view.conn, edition["id"], number)
    if row is None:
        raise NotFound(f"There is no revision {number} of it.", remedy="Look at its history.")
    chosen: int = row["id"]
    return chosen


def plan_lines(view: View, lines: Sequence[Line], instant: int, *, planning: bool = False) -> Plan:
    """Plan the lines against what stands, filling in what is unmet for each."""
    leading = [
        ReleaseItem(x.edition, x.revision, x.stage) for x in lines if x.does.leads and x.revision is not None
    ]
    about = facts.of_editions(view, leading)
    also = _planned_out(view, instant)
    asked = facts.candidates(view, leading, about, at=instant, also_out=also, planning=planning)
    stand = standings.now_at(view.conn, [x.edition for x in lines])
    ending = {x.uuid for x in lines if x.does.ends}
    left = _left_below(view, lines)
    flows: dict[tuple[Any, ...], Workflow] = {}
    found: list[MoveFacts] = []
    for n, line in enumerate(lines):
        here = stand.get(line.edition, {})
        move = MoveFacts(n, line.verb, line.edition, line.stage, line.revision, line.title, here)
        known = about.get(line.edition)
        if known is not None and line.revision is not None:
            move = _leading(view, line, move, known, _flow(view, flows, known), asked[line.edition])
        elif line.does.ends:
            move = replace(move, unmet=(*_referrers(view, line, ending), *left.get(n, ())))
        elif line.does.leaves:
            move = replace(move, unmet=tuple(left.get(n, ())))
        found.append(move)
    planned = dispatch.plan(found)
    held = {h.ord: list(h.unmet) for h in planned.held}
    for n, line in enumerate(lines):
        line.unmet = held.get(n, [])
    return planned


def _leading(
    view: View, line: Line, move: MoveFacts, known: EditionFacts, flow: Workflow, gate: Candidate
) -> MoveFacts:
    """A move that brings a revision, with what its gate asks of it; what stands there already passed it."""
    if known.removed:
        return replace(move, unmet=(Unmet("removed", f"“{line.title}” was removed.", "", "write"),))
    assert line.revision is not None
    goal = flow.stage(view.setup.stage_names[line.stage])
    stands = move.current is not None and move.current.revision == line.revision
    return replace(
        move,
        lower=known.holding_ancestors(line.revision, view.setup.rungs[line.stage], view.setup.rungs),
        descends=known.descends(line.revision, line.stage),
        regress=line.regress,
        unmet=() if stands else tuple(unmet(flow, goal, gate)),
    )


def _flow(view: View, known: dict[tuple[Any, ...], Workflow], about: EditionFacts) -> Workflow:
    """The workflow of an edition, asked once for all of a kind."""
    key = (about.type, about.source_locale, about.section, about.locale)
    if key not in known:
        entry = {"type": about.type, "source_locale": about.source_locale, "section": about.section}
        known[key] = workflows.of(view, entry, about.locale)
    return known[key]


def _referrers(view: View, line: Line, removing: set[str]) -> list[Unmet]:
    """What refers to an entry that is to be removed, said once for all its editions."""
    if line.locale != COMMON:
        return []
    found = {r["uuid"]: r for r in entries.referring(view.conn, line.uuid) if r["uuid"] not in removing}
    below = entries.placed_below(view.conn, line.uuid)
    out = [
        Unmet(
            "referred-to",
            f"“{permission.title(view, r['entry']) or 'untitled'}” refers to “{line.title}”.",
            u,
            "write",
        )
        for u, r in found.items()
    ]
    return out + [
        Unmet(
            "referred-to",
            f"“{permission.title(view, r['id']) or 'untitled'}” is placed below “{line.title}”.",
            r["uuid"],
            "write",
        )
        for r in below
        if r["uuid"] not in removing and r["uuid"] not in found
    ]


def _left_below(view: View, lines: Sequence[Line]) -> dict[int, list[Unmet]]:
    """What would be left without an address below pages that leave, by the place of the line of each."""
    if not any(x.does.leaves for x in lines):
        return {}
    own = entries.of_editions(view.conn, [x.edition for x in lines])
    leaving = {own[x.edition] for x in lines if x.does.leaves and x.locale != COMMON}
    coming: dict[int, set[str]] = {}
    for x in lines:
        if x.does.leads:
            coming.setdefault(own[x.edition][0], set()).add(x.locale)
    moved = {entry for entry, locales in coming.items() if COMMON in locales}
    found = placing.left_below(view, leaving, coming, moved)
    out: dict[int, list[Unmet]] = {}
    for n, line in enumerate(lines):
        entry, locale = own[line.edition]
        line.left = []
        if (entry, locale) not in leaving or entry not in found:
            continue
        for child, tag in found.pop(entry):
            row = entries.entry_by_id(view.conn, child)
            line.left.append((row["uuid"], tag))
            title = permission.title(view, child, tag) or "untitled"
            said = f"“{title}” ({tag}) is out below “{line.title}” and would have no address."
            out.setdefault(n, []).append(Unmet("below-out", said, row["uuid"], "release"))
    return out


def _planned_out(view: View, instant: int) -> set[int]:
    """Entries that dispatches planned before an instant will have released by then."""
    return {entry for entry, _ in gates.moved_by(view.conn, moves.LEADING, instant)}


def _needs(view: View, lines: Sequence[Line]) -> list[dict[str, str]]:
    """What the lines need that does not go along: what they refer to or are placed below, and what leaves with them."""
    wanted: dict[tuple[str, str], str] = {}
    for line in lines:
        for condition in line.unmet:
            clears = moves.clearing(condition.code)
            if clears is not None:
                wanted[(condition.where, "")] = clears.name
        # What lies below it leaves as it does.
        for uuid, locale in line.left:
            wanted[(uuid, locale)] = line.verb
    have = {(line.uuid, "") for line in lines} | {(line.uuid, line.locale) for line in lines}
    out: list[dict[str, str]] = []
    for (uuid, locale), verb in wanted.items():
        entry = entries.entry(view.conn, uuid) if (uuid, locale) not in have else None
        if entry is not None:
            tag = locale or entry["source_locale"]
            title = permission.title(view, entry["id"], tag)
            out.append({"id": uuid, "title": title, "type": entry["type"], "locale": tag, "verb": verb})
    return out


def _warnings(view: View, lines: Sequence[Line]) -> list[str]:
    out: list[str] = []
    for line in lines:
        if line.does.leaves and not line.does.ends and line.locale != COMMON:
            referring = entries.referring(view.conn, line.uuid)
            if referring:
                titles = ", ".join(
                    dict.fromkeys(f"“{permission.title(view, r['entry'])}”" for r in referring[:3])
                )
                out.append(f"“{line.title}” is referred to by {titles}; their links to it will lead nowhere.")
    return out


def make(
    act: Act,
    requests: Sequence[MoveRequest],
    when: When | None = None,
    *,
    name: str = "",
    note: str = "",
    with_needs: bool = False,
) -> str:
    """Release or withdraw now, or plan it; returns the dispatch's UUID.

    Raises `GateUnmet` with everything that blocks it; then nothing is planned.
    """
    if not requests:
        raise Invalid("Nothing was named to go.", remedy="Name at least one entry and locale.")
    planned = resolve_when(act, when)
    view = check(act, requests, at=planned.instant if planned else None, with_needs=with_needs)
    if view.blocked:
        raise gate_unmet(view.lines)
    said = {x.does.idle for x in view.lines if x.before == x.after}
    if planned is None and len(said) == 1 and all(x.before == x.after and x.does.idle for x in view.lines):
        raise InTheWay(said.pop(), remedy="Nothing needs to be done.")
    uuid = new_uuid(act.now)
    titled = naming.line("name", name) or _name_for(view.lines)
    note = naming.note("note", note)
    at = planned or PlannedTime(act.now, "", act.identity.zone, "")
    made = store.add(act.conn, uuid, titled, "planned", at, note, act.now, act.identity.id)
    store.add_moves(act.conn, made, ((x.verb, x.edition, x.stage, x.revision, x.regress) for x in view.lines))
    if planned is None:
        _go(act, made, act.now)
    else:
        act.event("dispatch.planned", _about(act, made), _payload(act, made))
    return uuid


def gate_unmet(
    lines: Sequence[Line],
    cannot: str = "",
    remedy: str = "Clear what is listed; whoever holds the grant beside each condition can.",
) -> GateUnmet:
    """The refusal that lists everything unmet, line by line; it says what cannot be done yet."""
    listed = [
        {"entry": x.uuid, "title": x.title, "locale": x.locale, **asdict(u)} for x in lines for u in x.unmet
    ]
    first = " ".join(dict.fromkeys(str(u["what"]) for u in listed[:4]))
    cannot = cannot or " or ".join(dict.fromkeys(x.does.cannot for x in lines if x.unmet))
    titles = ", ".join(dict.fromkeys(f"“{u['title'] or 'untitled'}”" for u in listed[:3]))
    return GateUnmet(
        f"{titles} cannot {cannot} yet: {first}",
        remedy=remedy,
        unmet=listed,
    )


def _name_for(lines: Sequence[Line]) -> str:
    verbs = {x.verb for x in lines}
    verb = next(iter(verbs)).capitalize() if len(verbs) == 1 else "Release"
    titles = list(dict.fromkeys(x.title or "untitled" for x in lines if not x.along))
    more = f" and {len(titles) - 1} more" if len(titles) > 1 else ""
    return f"{verb} {titles[0]}{more}"


def call_off(act: Act, uuid: str) -> None:
    """Call a planned dispatch off; what it would have done does not happen."""
    row = find(act, uuid)
    for move in store.moves(act.conn, row["id"]):
        permission.require(act, "release", permission.subject(act, move, move["locale"], move["stage_name"]))
    if not store.end(act.conn, row["id"], "called off", act.now, None):
        raise InTheWay(f"This dispatch is {row['state']}.", remedy="Only a planned one can be called off.")
    act.event("dispatch.called-off", _about(act, row["id"]), _payload(act, row["id"]))


def replan(act: Act, uuid: str, when: When) -> None:
    """Give a planned dispatch another time."""
    row = find(act, uuid)
    for move in store.moves(act.conn, row["id"]):
        permission.require(act, "release", permission.subject(act, move, move["locale"], move["stage_name"]))
    planned = resolve_when(act, when)
    if planned is None:
        raise Invalid("No time was given.", remedy="Give an instant, or a wall time and a zone.")
    if row["state"] != "planned":
        raise InTheWay(f"This dispatch is {row['state']}.", remedy="Only a planned one can be moved.")
    store.move_instant(act.conn, row["id"], planned)
    act.event("dispatch.replanned", _about(act, row["id"]), _payload(act, row["id"]))


def find(view: View, uuid: str) -> sqlite3.Row:
    """A dispatch all of whose entries may be read."""
    row = store.by_uuid(view.conn, uuid)
    if row is None or not permission.whole(view, row["id"]):
        raise NotFound(f"There is no dispatch {uuid} that you may see.", remedy="Check the address.")
    return row


def between(view: View, start: int, end: int, limit: int, cursor: str = "") -> tuple[list[sqlite3.Row], str]:
    """Dispatches with an instant in [start, end) all of whose entries may be read, in order of time, after a place in them; and
    where the next page begins."""
    allowed, values = permission.readable_sql(view, "e", "x")
    after = numbers.pair(cursor)
    rows = store.between(view.conn, start, end, limit + 1, allowed, values, after)
    last = rows[limit - 1] if len(rows) > limit else None
    return rows[:limit], f"{last['instant']}.{last['id']}" if last is not None else ""


def run_due(act: Act) -> list[int]:
    """Let everything go whose instant has come, in order; anything that touches what stands does this first."""
    soonest = store.next_instant(act.conn)
    if soonest is None or soonest > act.now:
        return []
    own = act.by(permission.identity_of(act.conn, CLOCKWORK))
    due = store.due(own.conn, own.now)
    for id in due:
        try:
            with own.trying():
                _go(own, id, store.by_id(own.conn, id)["instant"])
        except Exception as error:
            if failing.of_file(error):
                raise
            log.exception("a dispatch could not go and is held", dispatch=id)
            _hold_broken(own, id, error)
    act.resume(own)
    return due


def _hold_broken(act: Act, id: int, error: Exception) -> None:
    """Hold a dispatch that could not be worked out, with the reason; nothing else waits for it."""
    row = store.by_id(act.conn, id)
    what = f"It could not be worked out whether this may go: {str(error) or type(error).__name__}"
    remedy = "Look at what it holds and plan it anew; the log of the service says more."
    held = [
        {
            "title": row["name"],
            "entry": "",
            "locale": "",
            "unmet": [{"code": "fault", "what": f"{what} {remedy}", "where": "", "verb": "release"}],
        }
    ]
    late = act.now - row["instant"] if act.now - row["instant"] >= LATE else None
    if store.end(act.conn, id, "held", act.now, late, held):
        said = {"dispatch": row["uuid"], "name": row["name"], "planned_by": row["actor"], "held": held}
        about = _about(act, id)
        act.event("dispatch.held", about, {**said, "instant": timeline.iso(row["instant"]), "moves": []})


def lines_of(view: View, id: int) -> list[Line]:
    """The moves of a dispatch, as lines to plan."""
    return [
        Line(
            m["verb"],
            m["edition"],
            m["stage"],
            m["revision"],
            bool(m["regress"]),
            m["uuid"],
            m["locale"],
            m["title"],
            m["type"],
        )
        for m in store.moves(view.conn, id)
    ]


def _go(act: Act, id: int, instant: int) -> None:
    """Let one dispatch go, whole or not at all. The state prevents repeats, the clock only says what is due."""
    lines = lines_of(act, id)
    planned = plan_lines(act, lines, instant)
    late = act.now - instant if act.now - instant >= LATE else None
    if planned.held:
        held = [
            {
                "title": h.title,
                "unmet": [asdict(u) for u in h.unmet],
                "entry": lines[h.ord].uuid,
                "locale": lines[h.ord].locale,
            }
            for h in planned.held
        ]
        if store.end(act.conn, id, "held", act.now, late, held):
            act.event("dispatch.held", _about(act, id), {**_payload(act, id), "held": held[:50]})
        return
    if not store.end(act.conn, id, "gone", act.now, late):
        return
    applying.apply(act, planned, instant, id)
    ended = [x for x in lines if x.does.ends]
    if ended:
        entries.set_removed(act.conn, sorted({x.uuid for x in ended}), instant)
        search.drop(act.conn, [x.edition for x in ended])
    act.event("dispatch.gone", _about(act, id), {**_payload(act, id), "late_by": late or 0})


def _about(view: View, id: int) -> list[int]:
    return store.entries(view.conn, id)


def _payload(view: View, id: int) -> dict[str, Any]:
    """What an event says of a dispatch: its moves as items, up to a thousand of them."""
    row = store.by_id(view.conn, id)
    items = store.items(view.conn, id, 1000)
    return {
        "dispatch": row["uuid"],
        "name": row["name"],
        "planned_by": row["actor"],
        "instant": timeline.iso(row["instant"]),
        "moves": [
            {"verb": m[0], "locale": m[1], "entry": m[2], "revision": m[3], "title": m[4]} for m in items
        ],
    }


def resolve_again(act: Act) -> int:
    """Resolve planned wall times again, as zones may have changed their rules; returns how many moved.

    One that cannot be resolved any more keeps its instant, and whoever planned it is told.
    """
    moved = 0
    for row in store.planned_walls(act.conn):
        try:
            planned = timeline.resolve_wall(row["wall"], row["zone"], row["fold"])
        except BadTime as error:
            _unresolved(act, row, f"{error.detail} {error.remedy}")
            continue
        if planned.instant != row["instant"] or row["trouble"]:
            moved += planned.instant != row["instant"]
            store.move_instant(act.conn, row["id"], planned)
    return moved


def _unresolved(act: Act, row: sqlite3.Row, trouble: str) -> None:
    """Keep the instant that a wall time had, and tell whoever planned it, once."""
    if row["trouble"] == trouble:
        return
    store.set_trouble(act.conn, row["id"], trouble)
    said = {**_payload(act, row["id"]), "wall": row["wall"], "zone": row["zone"], "trouble": trouble}
    act.event("dispatch.unresolved", _about(act, row["id"]), said)
