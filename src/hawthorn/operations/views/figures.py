"""Figures: how long the work stays where, what waits and for whom, what came back, what went out and how late, how far translations keep up, and what
bureaus and machines do. Each counts what whoever asks may read, and each number leads to the entries that it stands for.

To add one: a member of `Figures` with the function that works it out, in `look`, its words in `console/src/messages`, and its part of the page.
"""

from __future__ import annotations

from collections.abc import Sequence

from hawthorn.core import access, numbers, timeline
from hawthorn.core.access import Subject
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.spreads import Spread, seconds, spread
from hawthorn.core.stays import DRAFT, FOLLOWING, RELEASE, SIGNED
from hawthorn.core.timeline import SECOND, iso
from hawthorn.core.weeks import Weeks
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.operations.views import counting
from hawthorn.store import entries, people
from hawthorn.store import figures as store
from hawthorn.store.figures import Behind, JobFigure, Part

LEAST, MOST = 1, 104
"""The fewest and the most weeks that are looked at together."""
LATE = 60 * SECOND
"""A dispatch that went later than this after its time is late."""
WAITING, RETURNED, LATE_ONES = 20, 20, 20
"""So many are named of what waits, of what came back, and of what was late; the others are counted."""
DECIDED = ("signed off", "sent back")
"""How a review ends."""
ONWARD = (*DECIDED, "submitted", "taken back", "out")
"""How the work goes on: what is taken away or replaced by a newer text has not gone on."""
KINDS = ("stay", "reviewed", "sent-back", "release", "following", "waiting")
"""What can be asked for behind a number."""


@dataclass(frozen=True, slots=True)
class Asked:
    """Of what figures are asked for: so many weeks until now, of one type, section or locale, and of what one person let go on (none of these:
    everything)."""

    weeks: int = 13
    type: str = ""
    section: str = ""
    locale: str = ""
    person: str = ""


@dataclass(frozen=True, slots=True)
class StageFigure:
    """How long the work stayed at a stage: on the whole, and by the week in which it went on."""

    stage: str
    label: str
    whole: Spread
    weeks: list[Spread]


@dataclass(frozen=True, slots=True)
class Waits:
    """What waits at a stage, or signed off, since when, and who could let it go on."""

    id: str
    title: str
    type: str
    locale: str
    stage: str
    label: str
    since: str
    seconds: float
    assigned: str
    whom: list[str]


@dataclass(frozen=True, slots=True)
class CameBack:
    """Something that was sent back: when, by whom, and why."""

    id: str
    title: str
    type: str
    locale: str
    label: str
    at: str
    by: str
    reason: str


@dataclass(frozen=True, slots=True)
class Returns:
    """How many reviews ended in each week, how many of them sent the text back, and the latest of those."""

    decided: list[int]
    sent_back: list[int]
    latest: list[CameBack]


@dataclass(frozen=True, slots=True)
class LateOne:
    """A dispatch that went late."""

    id: str
    name: str
    due: str
    at: str
    seconds: float


@dataclass(frozen=True, slots=True)
class Releases:
    """How many editions went out in each week, with how many dispatches, how many of those late, and the latest of the late ones."""

    editions: list[int]
    dispatches: list[int]
    late: list[int]
    latest: list[LateOne]


@dataclass(frozen=True, slots=True)
class Share:
    """A locale: how many words there are to translate into it now and how many of them are up to date, and what share was at the end of each week, of a
    hundred (none: not known)."""

    locale: str
    name: str
    words: int
    current: int
    weeks: list[float | None]


@dataclass(frozen=True, slots=True)
class ByWhom:
    """What a bureau (or the house's own translators, without a name) did of jobs that returned: how many with how many units and words, how long they took, and how
    many units were sent back."""

    name: str
    jobs: int
    units: int
    words: int
    took: Spread
    sent_back: int


@dataclass(frozen=True, slots=True)
class Machine:
    """What became of a machine's drafts: how many were kept as they were by whoever looked at them, and how many changed."""

    kept: int = 0
    changed: int = 0


@dataclass(frozen=True, slots=True)
class Following:
    """How long the other languages took to follow a change of their source: on the whole, and by the week in which the last one did; and how many changes are
    not followed yet."""

    whole: Spread
    weeks: list[Spread]
    open: int


@dataclass(frozen=True, slots=True)
class Figures:
    """All of it, for weeks named by the day on which each begins. `counted` says up to when the log was counted; `by_person` whether whoever asks may ask
    about one person."""

    weeks: list[str]
    counted: str
    by_person: bool
    stages: list[StageFigure]
    waiting: list[Waits]
    returns: Returns
    releases: Releases
    translated: list[Share]
    bureaus: list[ByWhom]
    machine: Machine
    following: Following


def look(view: View, asked: Asked) -> Figures:
    """All figures. Raises `Invalid` for what is not there to be asked about, and `Refused` about a person for whoever may not see people."""
    weeks, where = _weeks(view, asked.weeks), _where(view, asked)
    ended, still = _Ended(view, weeks, where), _still(asked, where)
    known: dict[tuple[object, ...], list[str]] = {}
    return Figures(
        weeks=weeks.days,
        counted=iso(counting.counted(view.conn)),
        by_person=_sees_people(view),
        stages=ended.stages(),
        waiting=[_waits(view, one, known) for one in store.waits(view.conn, still, WAITING)],
        returns=ended.returns(view, where),
        releases=_releases(view, weeks, where),
        translated=_translated(view, weeks, asked),
        bureaus=_bureaus(jobs := _jobs(view, weeks, asked)),
        machine=Machine(sum(j.kept for j in jobs), sum(j.changed for j in jobs)),
        following=ended.following(store.unfollowed(view.conn, still)),
    )


@dataclass(frozen=True, slots=True)
class Line:
    """One of the entries that a number stands for: where the work stayed, from when until when, how it went on and by whom."""

    id: str
    title: str
    type: str
    locale: str
    stage: str
    label: str
    came: str
    went: str | None
    seconds: float
    how: str
    by: str
    reason: str


def behind(
    view: View, kind: str, stage: str, week: str, asked: Asked, limit: int, cursor: str
) -> tuple[list[Line], str]:
    """A page of the entries that a number stands for: of one kind (`KINDS`), at a stage where that is asked for, in the week that begins on a day (all
    weeks where none is named)."""
    if kind not in KINDS:
        raise Invalid([FieldProblem("figure", said("common.one_of", known=list(KINDS)))])
    weeks, where = _weeks(view, asked.weeks), _where(view, asked)
    past = numbers.pair(cursor) if cursor else None
    if kind == "waiting":
        found = store.waits(view.conn, _still(asked, where), limit + 1, past or (0, 0))
    else:
        named = {"reviewed": "", "sent-back": "", "release": RELEASE, "following": FOLLOWING}.get(kind, stage)
        how = _HOW.get(kind, ())
        found = store.behind(view.conn, _span(weeks, week), named, how, where, limit + 1, past)
    more = ""
    if len(found) > limit:
        last = found[limit - 1]
        at = last.came if kind in ("waiting", "release") or last.went is None else last.went
        more = f"{at}.{last.edition}"
    return [_line(view, one) for one in found[:limit]], more


_HOW = {"stay": ONWARD, "reviewed": DECIDED, "sent-back": DECIDED[1:], "following": ()}
"""How the stays went on that are counted, by kind; any way where there is none."""


def _line(view: View, one: Behind) -> Line:
    return Line(
        one.id,
        one.title or view.say("common.untitled"),
        one.type,
        one.locale,
        one.stage,
        _label(view, one.stage),
        iso(one.came),
        iso(one.went) if one.went is not None else None,
        seconds((one.went if one.went is not None else view.now) - one.came),
        one.how,
        one.name,
        one.reason,
    )


# -- of what -------------------------------------------------------------------------------------------------------------


def _weeks(view: View, count: int) -> Weeks:
    """So many weeks, of which the last is this one, in the zone of whoever asks."""
    if not LEAST <= count <= MOST:
        raise Invalid([FieldProblem("weeks", said("figures.weeks", least=LEAST, most=MOST))])
    return Weeks.until(view.now, view.identity.zone, count)


def _span(weeks: Weeks, day: str) -> tuple[int, int]:
    """From when until when the week is that begins on a day; all of them where no day is named."""
    if not day:
        return weeks.whole
    if day not in weeks.days:
        raise Invalid([FieldProblem("week", said("figures.week", first=weeks.days[0], last=weeks.days[-1]))])
    n = weeks.days.index(day)
    return weeks.edges[n], weeks.edges[n + 1]


def _where(view: View, asked: Asked) -> Part:
    """What may be read, of what is asked about."""
    parts: list[Part] = []
    if not access.reads_all(view.identity):
        parts.append(permission.readable_sql(view, "e", "s"))
    if asked.type:
        parts.append(("s.type = ?", [view.setup.type(asked.type).name]))
    if asked.locale:
        parts.append(("s.locale = ?", [view.setup.locale(asked.locale)]))
    if asked.section:
        section = permission.find(view, asked.section).id
        inside = "(e.section = ? OR EXISTS (SELECT 1 FROM section_within w WHERE w.section = e.section AND w.ancestor = ?))"
        parts.append((inside, [section, section]))
    if asked.person:
        permission.require(view, "configure", Subject())
        row = people.ever(view.conn, asked.person)
        if row is None:
            raise Invalid("finding.nobody", handle=asked.person[:80])
        parts.append(("s.by = ?", [row.id]))
    return store.condition(parts)


def _still(asked: Asked, where: Part) -> Part:
    """The same of what goes on still, which nobody has let go on: nothing of one person."""
    return store.NOTHING if asked.person else where


def _sees_people(view: View) -> bool:
    return permission.may(view, "configure", Subject())


# -- how long the work stays ---------------------------------------------------------------------------------------------


class _Ended:
    """The stays that ended in some weeks, as several figures need them."""

    def __init__(self, view: View, weeks: Weeks, where: Part) -> None:
        self.view, self.weeks = view, weeks
        self._took: dict[str, list[list[int]]] = {}
        self._decided = [0] * len(weeks.days)
        self._sent_back = [0] * len(weeks.days)
        stages = {name for name in view.setup.stages if name not in (DRAFT, RELEASE)}
        for stage, came, went, how in store.ended(view.conn, *weeks.whole, where):
            if how == "away" or (stage != FOLLOWING and how not in ONWARD):
                continue
            week = weeks.at(went)
            if stage not in self._took:
                self._took[stage] = [[] for _ in weeks.days]
            self._took[stage][week].append(went - came)
            if stage in stages and how in DECIDED:
                self._decided[week] += 1
                self._sent_back[week] += how == "sent back"

    def stages(self) -> list[StageFigure]:
        """By stage, in the order in which the work comes there."""
        setup = self.view.setup
        between = [n for n in setup.stages if n not in (DRAFT, RELEASE)]
        between.sort(key=lambda name: setup.orders[setup.stages[name]])
        return [self._stage(name) for name in (DRAFT, *between, SIGNED) if name in self._took]

    def _stage(self, name: str) -> StageFigure:
        return StageFigure(name, _label(self.view, name), *self._spreads(name))

    def _spreads(self, stage: str) -> tuple[Spread, list[Spread]]:
        by_week = self._took.get(stage, [[] for _ in self.weeks.days])
        return spread([one for some in by_week for one in some]), [spread(some) for some in by_week]

    def returns(self, view: View, where: Part) -> Returns:
        """What came back."""
        latest = store.behind(view.conn, self.weeks.whole, "", DECIDED[1:], where, RETURNED)
        named = [
            CameBack(
                one.id,
                one.title or view.say("common.untitled"),
                one.type,
                one.locale,
                _label(view, one.stage),
                iso(one.went or one.came),
                one.name,
                one.reason,
            )
            for one in latest
        ]
        return Returns(self._decided, self._sent_back, named)

    def following(self, still: int) -> Following:
        """How other languages followed."""
        return Following(*self._spreads(FOLLOWING), still)


def _label(view: View, stage: str) -> str:
    if stage in (SIGNED, FOLLOWING):
        return view.say(f"figures.stage.{'signed_off' if stage == SIGNED else 'other_languages'}")
    return view.setup.labels.get(stage, stage)


def _waits(view: View, one: Behind, known: dict[tuple[object, ...], list[str]]) -> Waits:
    verb = "release" if one.stage == SIGNED else "sign"
    stage = RELEASE if one.stage == SIGNED else one.stage
    about = Subject(one.type, one.locale, one.section, stage, within=entries.within(view.conn, one.section))
    key = (verb, about)
    if key not in known:
        known[key] = permission.holders(view, verb, about)
    return Waits(
        one.id,
        one.title or view.say("common.untitled"),
        one.type,
        one.locale,
        one.stage,
        _label(view, one.stage),
        iso(one.came),
        seconds(view.now - one.came),
        one.assigned,
        known[key],
    )


# -- what went out -------------------------------------------------------------------------------------------------------


def _releases(view: View, weeks: Weeks, where: Part) -> Releases:
    went = store.dispatches(view.conn, *weeks.whole)
    whole = permission.whole_among(view, [one.number for one in went])
    seen = [one for one in went if one.number in whole]
    late = [one for one in seen if one.late_by > LATE]
    return Releases(
        weeks.counts(store.released(view.conn, *weeks.whole, where)),
        weeks.counts(one.at for one in seen),
        weeks.counts(one.at for one in late),
        [
            LateOne(
                one.id,
                one.name,
                iso(one.due if one.due is not None else one.at),
                iso(one.at),
                seconds(one.late_by),
            )
            for one in late[:LATE_ONES]
        ],
    )


# -- translations --------------------------------------------------------------------------------------------------------


def _translated(view: View, weeks: Weeks, asked: Asked) -> list[Share]:
    """By locale. Words are counted by type and not by entry: so only of types that may be read as a whole, and of no one section."""
    if asked.section or asked.person:
        return []
    ends = [timeline.to_datetime(min(edge, view.now) - 1).date().isoformat() for edge in weeks.edges[1:]]
    sums: dict[str, dict[int, tuple[int, int]]] = {}
    for n, locale, type, words, current in store.covered(view.conn, ends):
        if (asked.type and type != asked.type) or not _reads_whole(view, type, locale):
            continue
        of = sums.setdefault(locale, {})
        had = of.get(n, (0, 0))
        of[n] = (had[0] + words, had[1] + current)
    out = []
    for locale, name in view.setup.locales.items():
        if locale not in sums or (asked.locale and locale != asked.locale):
            continue
        of = sums[locale]
        words, current = of.get(len(ends) - 1, (0, 0))
        out.append(Share(locale, name, words, current, [_share(of.get(n)) for n in range(len(ends))]))
    return out


def _share(of: tuple[int, int] | None) -> float | None:
    return round(100 * of[1] / of[0], 1) if of is not None and of[0] else None


def _reads_whole(view: View, type: str, locale: str) -> bool:
    return permission.may(view, "read", Subject(type=type, locale=locale, stage=permission.WORKING))


def _jobs(view: View, weeks: Weeks, asked: Asked) -> list[JobFigure]:
    """The jobs that returned, for whoever reads all of their language. They hold entries of several types and sections: of one there are none."""
    if asked.type or asked.section or asked.person:
        return []
    return [
        one
        for one in store.jobs(view.conn, *weeks.whole)
        if (not asked.locale or one.locale == asked.locale)
        and permission.may(view, "read", Subject(locale=one.locale, stage=permission.WORKING))
    ]


def _bureaus(some: Sequence[JobFigure]) -> list[ByWhom]:
    by: dict[int, list[JobFigure]] = {}
    for one in some:
        by.setdefault(one.bureau, []).append(one)
    return [
        ByWhom(
            mine[0].bureau_name,
            len(mine),
            sum(j.units for j in mine),
            sum(j.words for j in mine),
            spread([j.returned - j.sent for j in mine if j.returned is not None and j.sent is not None]),
            sum(j.sent_back for j in mine),
        )
        for _, mine in sorted(by.items())
    ]
