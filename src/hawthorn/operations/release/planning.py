"""What a dispatch would do: the lines that moves come to, what blocks each, what else it needs, and whether it may be asked for."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

from hawthorn.core import dispatch, moves
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.dispatch import Plan
from hawthorn.core.errors import GateUnmet
from hawthorn.core.messages import Message, quoted, said
from hawthorn.core.moves import MoveFacts
from hawthorn.core.workflow import Candidate, Unmet, Workflow, structural, unmet
from hawthorn.operations.access import permission
from hawthorn.operations.release import (
    facts,
    inside,
    leaving,
    placing,
    quiet_periods,
    requested,
    set_fields,
    workflows,
)
from hawthorn.operations.release.items import EditionFacts, ReleaseItem
from hawthorn.operations.release.lines import DispatchCheck, Line, MoveRequest, Need, Offer, UnmetAhead
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries, gates, revisions, standings
from hawthorn.store import moves as move_store
from hawthorn.store.entries import Entry
from hawthorn.store.moves import PlannedMove
from hawthorn.store.standings import RELEASE

_OFFERED = 50
"""So much is offered to go along."""
_DEEPEST = 40
"""So often what is needed is looked for in what is needed: as deep as pages may lie below one another."""


def check(
    view: View,
    requests: Sequence[MoveRequest],
    *,
    at: int | None = None,
    with_needs: bool = False,
    asking: bool = True,
    beside: int = 0,
    override_quiet: bool = False,
    timed: bool | None = None,
    partial: bool = False,
    coming: Collection[tuple[int, str]] = (),
) -> DispatchCheck:
    """Work out what would go, with the common editions, and what blocks it; `beside` is the dispatch itself, where it is one
    already. With `override_quiet` a quiet period does not. `timed` says whether it has a time: where there is an `at`, unless it
    is said. Of one that is `partial` what is in the way is held back, where anything is left that goes. `coming` are
    entries with the locales that would be planned to be out by then, too."""
    lines = requested.gathered(view, requests, beside) if beside else requested.asked(view, requests)
    instant = view.now if at is None else at
    needs: list[Need] = []
    quiet_at = None if override_quiet else instant
    for _ in range(_DEEPEST):
        plan_lines(view, lines, instant, planning=True, beside=beside, quiet_at=quiet_at, coming=coming)
        needs = _needs(view, lines)
        if not with_needs or not needs:
            break
        for need in needs:
            requested.lines_for(view, MoveRequest(need.id, need.locale, need.verb), lines, True)
    rest = partial and rest_goes(view, lines, instant, beside=beside, quiet_at=quiet_at)
    if not (at is not None if timed is None else timed):
        ask_for_time(view, lines)
    known: dict[str, tuple[Entry, bool]] = {}
    for line in lines:
        if line.stuck is not None:
            continue
        if line.uuid not in known:
            row = entries.entry(view.conn, line.uuid)
            assert row is not None
            known[line.uuid] = row, standings.stood(view.conn, row.id)
        entry, stood = known[line.uuid]
        about = permission.subject(view, entry, line.locale, view.setup.stage_names[line.stage])
        verb = line.does.asks(stood)
        if asking:
            permission.require(view, verb, about)
        elif not permission.may(view, verb, about):
            # Whoever only looks is told that they may not do it, with who may.
            line.unmet.append(Unmet("refused", permission.refusal(view, verb, about).message, "", verb))
    warnings = [*_warnings(view, lines), *inside.unsettled(view, beside)]
    return DispatchCheck(lines, needs, warnings, _also(view, lines, beside), rest)


def ask_for_time(view: View, lines: Sequence[Line]) -> None:
    """Say what speaks against releasing at once what a type wants planned."""
    wants = [
        x
        for x in lines
        if x.stuck is None
        and x.does.rests
        and view.setup.types[x.type].policy.needs_date
        and (x.before is None or x.before != x.after)
    ]
    for line in told_once(wants):
        line.unmet.append(Unmet("no-date", said("unmet.no_date"), "", "release"))


def told_once(lines: Sequence[Line]) -> list[Line]:
    """Of the lines that something is said of, those where it is said: of shared fields only where they go without a text of theirs."""
    texts = {x.uuid for x in lines if x.locale != COMMON}
    return [x for x in lines if x.locale != COMMON or x.uuid not in texts]


def rest_of(
    view: View,
    lines: list[Line],
    planned: Plan,
    instant: int,
    *,
    beside: int = 0,
    quiet_at: int | None = None,
) -> tuple[list[Line], Plan, list[Line]]:
    """The lines that can go without those that cannot, which may be more each time some stay; and those that stay. Where none is
    left, all of them are held."""
    staying: list[Line] = []
    rest, found = lines, planned
    while found.held:
        # An entry goes with its shared fields or not at all.
        stuck = {rest[h.ord].uuid for h in found.held}
        staying += [x for x in rest if x.uuid in stuck]
        rest = [x for x in rest if x.uuid not in stuck]
        if not rest:
            return lines, planned, []
        found = plan_lines(view, rest, instant, beside=beside, quiet_at=quiet_at)
    return rest, found, staying


def rest_goes(view: View, lines: list[Line], instant: int, *, beside: int, quiet_at: int | None) -> bool:
    """Whether some of the lines would go at an instant though others are held back; what is unmet of each stays said as it is."""
    if not any(x.unmet for x in lines) or any(x.stuck is not None for x in lines):
        return False
    unmet = [x.unmet for x in lines]
    # As it will go: whoever plans is told of planned addresses too, which hold nothing by then.
    planned = plan_lines(view, lines, instant, beside=beside, quiet_at=quiet_at)
    _, _, staying = rest_of(view, lines, planned, instant, beside=beside, quiet_at=quiet_at)
    for line, said_of in zip(lines, unmet, strict=True):
        line.unmet = said_of
    return bool(staying)


def completed(view: View, lines: list[Line], *, beside: int = 0, rest_goes: bool = False) -> DispatchCheck:
    """The check of lines that were kept and planned already, with what stands now."""
    stand = standings.now_at(view.conn, [x.edition for x in lines])
    heads = {e: row.head for e, row in entries.drafts_of(view.conn, [x.edition for x in lines]).items()}
    numbers = revisions.numbers(
        view.conn,
        {s.revision for at in stand.values() for s in at.values()}
        | {x.revision for x in lines if x.revision is not None}
        | {head for head in heads.values() if head is not None},
    )
    for x in lines:
        now = stand.get(x.edition, {}).get(x.stage)
        x.before = numbers[now.revision] if now else None
        x.after = numbers[x.revision] if x.revision is not None else None
        head = heads.get(x.edition)
        x.head = numbers[head] if head is not None and x.does.leads else None
    warnings = [*_warnings(view, lines), *inside.unsettled(view, beside)]
    return DispatchCheck(lines, _needs(view, lines), warnings, _also(view, lines, beside), rest_goes)


def _also(view: View, lines: Sequence[Line], beside: int) -> list[PlannedMove]:
    """What other planned dispatches, as far as they may be seen, do with the same editions."""
    planned = [
        p for p in move_store.planned_for(view.conn, [x.edition for x in lines]) if p.dispatch != beside
    ]
    seen = permission.whole_among(view, {p.dispatch for p in planned})
    return [p for p in planned if p.dispatch in seen]


def plan_lines(
    view: View,
    lines: Sequence[Line],
    instant: int,
    *,
    planning: bool = False,
    beside: int = 0,
    reviving: Collection[str] = (),
    quiet_at: int | None = None,
    coming: Collection[tuple[int, str]] = (),
) -> Plan:
    """Plan the lines against what stands, filling in what is unmet for each; `beside` is the dispatch itself, where it is one
    already, `reviving` are removed entries that come back, `quiet_at` is when a quiet period would hold them, where one may, and `coming`
    what will be out by then besides what is planned."""
    for line in lines:
        line.unmet = [line.stuck] if line.stuck is not None else []
    lines = [x for x in lines if x.stuck is None]
    weighed = [x.weighed for x in lines]
    leading = [
        ReleaseItem(x.edition, x.revision, x.stage, x.patch)
        for x, weighs in zip(lines, weighed, strict=True)
        if weighs and x.revision is not None
    ]
    about = facts.of_editions(view, leading, [x.about for x in lines if x.about is not None])
    before = {*gates.moved_by(view.conn, moves.OUT, instant, beside), *coming}
    if instant > view.now:
        about = _once_left(about, gates.moved_by(view.conn, moves.LEAVING, instant, beside))
    also = {entry for entry, _ in before}
    gone = _leaving(view, lines)
    asked = facts.candidates(view, leading, about, at=instant, also_out=also, planning=planning, leaving=gone)
    stand = standings.now_at(view.conn, [x.edition for x in lines if x.edition not in about])
    ending = {x.uuid for x in lines if x.does.ends or x.does.shelves}
    left = _left_below(view, lines, gone)
    parting = leaving.unmet(view, lines, beside, instant)
    flows = workflows.Flows(view)
    found: list[MoveFacts] = []
    for n, line in enumerate(lines):
        known = about.get(line.edition)
        if known is not None and weighed[n]:
            flow = flows.of(known, known.locale)
            back = line.uuid in reviving
            told = line.does.writes and set_fields.said_by_what_is_out(view, line, known, instant)
            early = (known.entry, known.locale) in before
            gate = asked[line.edition]
            found.append(_leading(view, n, line, known, flow, gate, back=back, told=told, early=early))
            continue
        why: tuple[Unmet, ...] = ()
        if line.does.ends or line.does.shelves:
            why = (*_referrers(view, line, ending), *left.get(n, ()))
        elif line.leaves:
            why = tuple(left.get(n, ()))
        if line.edition in parting:
            why = (*why, parting[line.edition])
        here = known.standings if known is not None else stand.get(line.edition, {})
        found.append(line.move(n, here, unmet=why))
    stop = quiet_periods.stopping(view, lines, quiet_at) if quiet_at is not None else None
    if stop is not None:
        rests = [x for one, x in zip(found, lines, strict=True) if x.does.rests and not one.stands_there]
        stopped = {x.edition for x in told_once(rests)}
        found = [
            replace(one, unmet=(*one.unmet, stop)) if line.edition in stopped else one
            for one, line in zip(found, lines, strict=True)
        ]
    planned = dispatch.plan(found)
    held = {h.ord: list(h.unmet) for h in planned.held}
    for n, line in enumerate(lines):
        line.unmet = held.get(n, [])
    return planned


def _once_left(about: dict[int, EditionFacts], left: Collection[tuple[int, str]]) -> dict[int, EditionFacts]:
    """The facts of editions by when some will have left readers: what is out of these now neither passed the gate that is asked then, nor
    is it what they go back from."""
    return {
        edition: replace(f, standings={n: s for n, s in f.standings.items() if n != RELEASE})
        if (f.entry, f.locale) in left
        else f
        for edition, f in about.items()
    }


def _leading(
    view: View,
    ord: int,
    line: Line,
    known: EditionFacts,
    flow: Workflow,
    gate: Candidate,
    *,
    back: bool = False,
    told: bool = False,
    early: bool = False,
) -> MoveFacts:
    """A move that brings a revision, with what its gate asks of it; what stands there already passed it, and what is `told` by what is
    out was approved with that. `early` says that something that is planned before brings the edition out."""
    assert line.revision is not None
    here, orders = known.standings, view.setup.orders
    current = here.get(line.stage)
    away = known.removed or known.archived
    if known.removed and not back:
        why: tuple[Unmet, ...] = (Unmet("removed", said("unmet.removed", entry=line.title), "", "write"),)
    elif known.archived and not back:
        why = (Unmet("archived", said("unmet.archived", entry=line.title), "", "write"),)
    elif current is not None and current.revision == line.revision and line.patch is None:
        why = ()
    elif not line.does.gated or told:
        why = tuple(structural(gate))
    elif (name := view.setup.stage_names[line.stage]) not in flow.names:
        why = (requested.without_stage(view, flow, name),)
    else:
        why = tuple(unmet(flow, flow.stage(name), gate))
    return line.move(
        ord,
        here,
        lower=known.holding_ancestors(line.revision, orders[line.stage], orders),
        descends=away or known.descends(line.revision, line.stage),
        regress=line.regress,
        unmet=why,
        out_by_then=early,
    )


def _referrers(view: View, line: Line, removing: set[str]) -> list[Unmet]:
    """What refers to an entry that is to be removed, or lies below one that goes away, said once for all its editions."""
    if line.locale != COMMON:
        return []
    referring = entries.referring(view.conn, line.uuid) if line.does.ends else []
    found = {r.uuid: r for r in referring if r.uuid not in removing}
    below = entries.placed_below(view.conn, line.uuid)
    out = [
        Unmet(
            "referred-to",
            said("unmet.referred_to", entry=_title(view, r.entry), line=line.title),
            u,
            "write",
        )
        for u, r in found.items()
    ]
    return out + [
        Unmet(
            "referred-to",
            said("unmet.placed_below", entry=_title(view, r.id), line=line.title),
            r.uuid,
            "write",
        )
        for r in below
        if r.uuid not in removing and r.uuid not in found
    ]


def _leaving(view: View, lines: Sequence[Line]) -> set[tuple[int, str]]:
    """The entries with the locales in which they are out no more afterwards."""
    some = [x.edition for x in lines if x.leaves and x.locale != COMMON]
    return {*entries.of_editions(view.conn, some).values()} if some else set()


def _left_below(view: View, lines: Sequence[Line], leaving: set[tuple[int, str]]) -> dict[int, list[Unmet]]:
    """What would be left without an address below pages that leave, by the place of the line of each."""
    if not leaving:
        return {}
    own = entries.of_editions(view.conn, [x.edition for x in lines])
    coming: dict[int, set[str]] = {}
    for x in lines:
        if x.leads and x.stage == RELEASE:
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
            line.left.append((row.uuid, tag))
            what = said("unmet.below_out", entry=_title(view, child, tag), locale=tag, line=line.title)
            out.setdefault(n, []).append(Unmet("below-out", what, row.uuid, "release"))
    return out


def _needs(view: View, lines: Sequence[Line]) -> list[Need]:
    """What the lines need that does not go along: what they refer to or are placed below, and what leaves with them."""
    wanted: dict[tuple[str, str], str] = {}
    for line in lines:
        if line.does.made:
            continue
        for condition in line.unmet:
            clears = moves.clearing(condition.code)
            if clears is not None:
                wanted[(condition.where, "")] = clears.name
        # What lies below it leaves as it does.
        for uuid, locale in line.left:
            wanted[(uuid, locale)] = line.verb
    have = {(line.uuid, "") for line in lines} | {(line.uuid, line.locale) for line in lines}
    out: list[Need] = []
    for (uuid, locale), verb in wanted.items():
        entry = entries.entry(view.conn, uuid) if (uuid, locale) not in have else None
        if entry is not None:
            tag = locale or entry.source_locale
            out.append(Need(uuid, permission.title(view, entry.id, tag), entry.type, tag, verb))
    return out


def offered(view: View, lines: Sequence[Line]) -> list[Offer]:
    """What could go along with what is released: the same entries in other locales, and the pages right below them, as far as
    their drafts hold something that is not out."""
    going = [x for x in lines if x.verb == moves.USUAL and x.asked and x.locale != COMMON]
    ids = gates.ids(view.conn, {x.uuid for x in going})
    locales: dict[int, set[str]] = {}
    for line in going:
        locales.setdefault(ids[line.uuid], set()).add(line.locale)
    below = gates.placed_below(view.conn, locales)
    rows = gates.not_out(view.conn, {*locales, *below})
    seen, have = permission.readable_among(view, {row.entry for row in rows}), {x.edition for x in lines}
    out: list[Offer] = []
    for row in rows:
        why = "locale" if row.entry in locales else "below"
        known = why == "locale" or row.locale in locales[below[row.entry]]
        if known and row.edition not in have and (row.entry, row.locale) in seen:
            title = row.title or view.say("common.untitled")
            out.append(Offer(row.uuid, title, row.type, row.locale, moves.USUAL, why))
    return out[:_OFFERED]


def _warnings(view: View, lines: Sequence[Line]) -> list[Message]:
    out: list[Message] = []
    for line in lines:
        if line.leaves and not line.does.ends and line.locale != COMMON:
            referring = entries.referring(view.conn, line.uuid)
            if referring:
                titles = dict.fromkeys(permission.title(view, r.entry) for r in referring[:3])
                out.append(said("planning.links_lead_nowhere", entry=line.title, by=quoted(titles)))
    return out


def condition(view: View, one: Unmet) -> UnmetAhead:
    """A condition that does not hold, as it is kept and shown."""
    return {"code": one.code, "what": view.say(one.what), "where": one.where, "verb": one.verb}


def gate_unmet(
    lines: Sequence[Line], cannot: Sequence[Message] = (), remedy: Message | None = None
) -> GateUnmet:
    """The refusal that lists everything unmet, line by line; it says what cannot be done yet."""
    listed = [(x, u) for x in lines for u in x.unmet]
    verbs = dict.fromkeys(x.verb for x in lines if x.unmet)
    return GateUnmet(
        "planning.cannot_yet",
        remedy=remedy,
        entries=list(
            dict.fromkeys(
                said("common.quoted", text=x.title) if x.title else said("planning.untitled")
                for x, _ in listed[:3]
            )
        ),
        cannot=list(cannot) or [said(f"moves.cannot.{verb}") for verb in verbs],
        first=list(dict.fromkeys(u.what for _, u in listed[:4])),
        unmet=[
            {
                "entry": x.uuid,
                "title": x.title,
                "locale": x.locale,
                "code": u.code,
                "what": u.what,
                "where": u.where,
                "verb": u.verb,
            }
            for x, u in listed
        ],
    )


def _title(view: View, entry: int, locale: str = "") -> str | Message:
    found = permission.title(view, entry, locale) if locale else permission.title(view, entry)
    return found or said("common.untitled")
