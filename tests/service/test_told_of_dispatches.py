"""What a check says of a dispatch is what becomes of it: whether it is refused, goes, goes in part, or is held, and by what."""

from __future__ import annotations

import json
import random
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import timeline
from hawthorn.core.errors import GateUnmet, HawthornError
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.content import changing, entries
from hawthorn.operations.release import (
    dispatches,
    gathering,
    planning,
    quiet_periods,
    records,
    review,
    undoing,
    workflows,
)
from hawthorn.operations.release.lines import DispatchCheck, MoveRequest, When
from hawthorn.operations.release.quiet_periods import Times
from hawthorn.operations.release.records import About
from hawthorn.operations.views import show, show_dispatches
from hawthorn.operations.views.show_dispatches import DispatchCheckShown
from hawthorn.store.dispatches import Dispatch
from tests.service.made import House
from tests.service.test_limited import SHEET
from tests.service.test_workflows import flow

HOUR = 3600 * SECOND
FOR_GOOD = {"refused", "removed", "archived", "quiet", "stuck", "no-stage"}
"""What no sign-off that comes by then clears."""
Conditions = set[tuple[str, str, str]]


def kind(required: bool = False, **policy: Any) -> dict[str, Any]:
    extra = [{"name": "must", "kind": "line", "required": True}] if required else []
    fields = [*SHEET["fields"], {"name": "price", "kind": "line", "shared": True}, *extra]
    return {**SHEET, "workflow": "standard", "fields": fields, "policy": policy}


def begun(folder: Path) -> House:
    made = House(folder)
    made.speaks(fr="French")
    made.do("ida", lambda a: workflows.define(a, flow()))
    made.do("ida", lambda a: changing.define_type(a, kind()))
    return made


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = begun(tmp_path)
    yield made
    made.close()


def row(house: House, dispatch: str) -> Dispatch:
    return house.desk.read(house.who("ida"), lambda v: records.find(v, dispatch))


def checked(house: House, dispatch: str, when: When | None = None) -> DispatchCheckShown:
    def look(view: Any) -> DispatchCheckShown:
        found = dispatches.check(view, dispatch, when)
        return show_dispatches.dispatch_check(view, found, records.find(view, dispatch).id)

    return house.desk.read(house.who("ida"), look)


def by_now(house: House, act: Any) -> HawthornError | None:
    """What an act would end with at this very instant."""
    before = house.clock.at
    error = house.would_end("ida", act)
    house.clock.at = before
    return error


def told_in(found: DispatchCheckShown) -> Conditions:
    return known({(m["id"], m["locale"], u["code"]) for m in found["moves"] for u in m["unmet"]})


def said_by(error: GateUnmet) -> Conditions:
    return known({(u["entry"], u["locale"], u["code"]) for u in error.facts["unmet"]})


def known(conditions: Conditions) -> Conditions:
    """Where nothing is out whose fields are set, what else there is to say of the revision that would set them depends on when it was written."""
    idle = {(entry, locale) for entry, locale, code in conditions if code == "nothing-out"}
    return {c for c in conditions if c[:2] not in idle or c[2] == "nothing-out"}


def without_time(conditions: Conditions) -> Conditions:
    """What is there of an open dispatch may still be planned, whatever its types say about times."""
    return {c for c in conditions if c[2] != "no-date"}


def become(house: House, dispatch: str) -> str:
    """The state that a dispatch would have, were it sent now."""
    found: list[str] = []

    def sent(act: Any) -> None:
        dispatches.send(act, dispatch)
        found.append(records.find(act, dispatch).state)

    assert by_now(house, sent) is None
    return found[0]


class Walk:
    """People who write, sign, plan, change their rules and let time pass; each dispatch is held against what is said of it."""

    def __init__(self, house: House, seed: int) -> None:
        self.house, self.pick, self.seen = house, random.Random(seed), Counter[str]()
        self.pages = [self._page(n) for n in range(4)]
        self.made: list[str] = []
        self.quiet: list[str] = []

    def _page(self, n: int) -> str:
        values = {"title": f"Page {n}", "slug": f"p{n}"}
        return self.house.do("ida", lambda a: entries.start(a, "sheet", "en", values))

    def step(self, n: int) -> None:
        pick, house = self.pick, self.house
        page, locale, what = pick.choice(self.pages), pick.choice(["en", "en", "fr"]), pick.random()
        last = pick.choice(self.made[-5:]) if self.made else ""
        if what < 0.15:
            self._save(n, page, locale)
        elif what < 0.4:
            self._sign(page, locale)
        elif what < 0.62:
            self._make(n)
        elif what < 0.68:
            begins = house.clock.at + pick.choice([0, 0, 1, 2]) * HOUR
            self.quiet.append(hush(house, begins, begins + pick.choice([1, 2]) * HOUR))
        elif what < 0.71 and self.quiet:
            house.do("ida", lambda a: quiet_periods.end(a, self.quiet.pop()))
        elif what < 0.74:
            policy = pick.choice([{}, {}, {"needs_end": True}, {"needs_date": True}])
            house.do("ida", lambda a: changing.define_type(a, kind(pick.random() < 0.5, **policy)))
        elif what < 0.76:
            house.do("ida", lambda a: workflows.define(a, flow(sign_offs=pick.choice([1, 1, 2]))))
        elif what < 0.88 and last:
            self._change(last)
        elif what < 0.9:
            house.do("ida", lambda a: entries.bring_back(a, page))
        else:
            self._wait(house.clock.at + round(pick.choice([0.5, 1, 2]) * HOUR))

    def _save(self, n: int, page: str, locale: str) -> None:
        other = self.pick.choice(self.pages)
        slug = f"s{self.pick.randrange(3)}"
        change = self.pick.choice(
            [{"title": f"T{n}"}, {"price": str(n)}, {"slug": slug}, {"title": ""}, {"below": other}, {"about": [other]}]
        )  # fmt: skip
        self.house.do(
            "ida", lambda a: entries.save(a, page, locale, change, entries.base_now(a, page, locale))
        )

    def _sign(self, page: str, locale: str) -> None:
        self.house.would_end("ida", lambda a: review.submit(a, page, locale))
        shown = self.house.desk.read(self.house.who("oda"), lambda v: show.entry(v, page, locale))["revision"]
        if shown is not None:
            self.house.do("oda", lambda a: review.sign_off(a, page, locale, shown["number"]))

    def _change(self, last: str) -> None:
        override = self.pick.random() < 0.4
        when = When(instant=iso(self.house.clock.at + self.pick.choice([1, 2]) * HOUR))
        act = self.pick.choice(
            [
                lambda a: dispatches.replan(a, last, when, override_quiet=override),
                lambda a: dispatches.send(a, last, override_quiet=override),
                lambda a: dispatches.plan(a, last, when),
                lambda a: undoing.undo(a, last),
            ]
        )
        self.house.do("ida", act)

    def _asked(self, n: int, *verbs: str) -> list[MoveRequest]:
        pick, out = self.pick, []
        for page in pick.sample(self.pages, pick.choice([1, 1, 2, 3])):
            verb = pick.choice([*["release"] * 7, *["withdraw", "advance"] * 2, "archive", "remove", *verbs])
            payload: dict[str, Any] = {"stage": "review"} if verb == "advance" else {}
            if verb == "set":
                payload = {"fields": {pick.choice(["title", "price", "slug"]): f"set{n}"}}
            follows = verb == "release" and pick.random() < 0.4
            locale = pick.choice(["en", "en", "fr"])
            out.append(MoveRequest(page, locale, verb, payload=payload, follows=follows))
        return out

    def _make(self, n: int) -> None:
        requests, hours = self._asked(n, "set", "set"), self.pick.choice([0, 1, 1, 2, 2, 3])
        partial, override = self.pick.random() < 0.3, self.pick.random() < 0.2
        when = When(instant=iso(self.house.clock.at + hours * HOUR)) if hours else None
        if self.pick.random() < 0.25:
            about = About(name="Together", partial=partial)
            self.made.append(self.house.do("ida", lambda a: gathering.start(a, about, requests)))
        else:
            more: dict[str, Any] = {"partial": partial, "override_quiet": override}
            self.made.append(self.house.do("ida", lambda a: dispatches.make(a, requests, when, **more)))

    # -- held against what is said ---------------------------------------------------------------------------

    def look(self, n: int) -> None:
        """Hold what is said against what would be: of something that is asked for, and of all that is open, or held."""
        self._look_at_asking(n)
        for dispatch in self.made:
            state = row(self.house, dispatch).state
            if state == "open":
                self._look_at_planning(dispatch)
            if state in ("open", "held"):
                self._look_at_sending(dispatch, state)

    def _look_at_asking(self, n: int) -> None:
        requests, hours = self._asked(n), self.pick.choice([0, 1, 2])
        at = self.house.clock.at + hours * HOUR
        when = When(instant=iso(at)) if hours else None
        error = by_now(self.house, lambda a: dispatches.make(a, requests, when))

        def look(view: Any) -> DispatchCheckShown:
            found: DispatchCheck = planning.check(view, requests, at=at if hours else None)
            return show_dispatches.dispatch_check(view, found)

        try:
            told = self.house.desk.read(self.house.who("ida"), look)
        except HawthornError as refused:
            code = refused.message.code
            assert error is not None, code
            assert error.message.code == code
            return
        self._compare("asked", told, error, False, later=bool(hours))

    def _look_at_planning(self, dispatch: str) -> None:
        when = When(instant=iso(self.house.clock.at + HOUR))
        told = checked(self.house, dispatch, when)
        error = by_now(self.house, lambda a: dispatches.plan(a, dispatch, when))
        self._compare("planned", told, error, bool(row(self.house, dispatch).partial), later=True)

    def _compare(
        self, what: str, told: DispatchCheckShown, error: HawthornError | None, partial: bool, *, later: bool
    ) -> None:
        """Refused is what is in the way, but for what may be signed off by then; of what goes in part, all of it."""
        stopped = [
            m for m in told["moves"] if any(not (later and m["follows"]) or u["code"] in FOR_GOOD for u in m["unmet"])
        ]  # fmt: skip
        gone = {"stuck", "no-stage", "removed"} & {u["code"] for m in stopped for u in m["unmet"]}
        refused = bool(stopped) and (not partial or bool(gone) or len(stopped) == len(told["moves"]))
        if isinstance(error, GateUnmet):
            assert refused
            assert told_in(told) == said_by(error)
            self.seen[f"{what} in vain"] += 1
        elif error is None:
            assert not refused, told_in(told)
            self.seen[what] += 1

    def _look_at_sending(self, dispatch: str, state: str) -> None:
        before = row(self.house, dispatch)
        if state == "open" and before.instant is not None and before.instant > self.house.clock.at:
            return
        told = checked(self.house, dispatch)
        error = by_now(self.house, lambda a: dispatches.send(a, dispatch))
        if isinstance(error, GateUnmet):
            said = said_by(error)
            assert told_in(told) == (without_time(said) if state == "open" else said)
            assert not told["rest_goes"] or said != without_time(said)
            self.seen[f"{state} in vain"] += 1
        elif error is None:
            assert told["blocked"] == told["rest_goes"]
            assert become(self.house, dispatch) == "gone"
            self.seen["in part" if told["rest_goes"] else f"{state} goes"] += 1

    def _wait(self, until: int) -> None:
        """What is said of the dispatch that comes first is what becomes of it; the next one comes after it."""
        house = self.house
        while first := self._due(until):
            dispatch, instant, others = first
            told, before = checked(house, dispatch), row(house, dispatch)
            house.clock.at = max(instant, house.clock.at)
            house.by_scheduler(lambda a: None)
            if others:
                continue
            after = row(house, dispatch)
            assert after.state == ("held" if told["blocked"] and not told["rest_goes"] else "gone"), told
            if after.state == "held" and not before.partial:
                held = json.loads(after.held)
                assert told_in(told) == known(
                    {(h["entry"], h["locale"], u["code"]) for h in held for u in h["unmet"]}
                )
            self.seen[f"came, {after.state}"] += 1
        house.clock.at = until
        house.by_scheduler(lambda a: None)

    def _due(self, until: int) -> tuple[str, int, int] | None:
        """The dispatch that comes first by an instant, when, and how many others come at the same."""
        due = (
            "SELECT uuid, instant FROM dispatch WHERE state = 'planned' AND instant <= ? ORDER BY instant, id"
        )
        with self.house.desk.db.read() as conn:
            rows = conn.execute(due, (until,)).fetchall()
        return (rows[0][0], rows[0][1], sum(r[1] == rows[0][1] for r in rows) - 1) if rows else None


def test_what_is_said_of_a_dispatch_is_what_becomes_of_it(tmp_path_factory: Any) -> None:
    seen = Counter[str]()
    for seed in (2, 4, 9, 232):
        house = begun(tmp_path_factory.mktemp("house"))
        walk = Walk(house, seed)
        for n in range(90):
            try:
                walk.step(n)
            except HawthornError:
                continue
            walk.look(n)
        seen += walk.seen
        house.close()
    wanted = {"asked", "planned", "open goes", "held goes", "in part", "came, gone", "came, held"}
    assert not wanted - {*seen}, seen
    assert not {"asked in vain", "planned in vain", "open in vain", "held in vain"} - {*seen}, seen


# -- one thing at a time -----------------------------------------------------------------------------------------


def hush(house: House, begins: int, ends: int) -> str:
    """Release nothing from one instant to another."""
    since, until = (timeline.wall_text(timeline.wall_at(at, "UTC")) for at in (begins, ends))
    return house.do("ida", lambda a: quiet_periods.add(a, Times(since, until, "UTC", "", "Hush")))


def unmet(error: HawthornError | None) -> set[str]:
    assert isinstance(error, GateUnmet), error
    return {u["code"] for u in error.facts["unmet"]}


def plan(house: House, *requests: MoveRequest, hours: float = 1, **more: Any) -> str:
    when = When(instant=iso(house.clock.at + round(hours * HOUR)))
    return house.do("ida", lambda a: dispatches.make(a, requests, when, **more))


def test_who_overrode_the_quiet_period_of_its_time_did_not_override_that_of_now(house: House) -> None:
    page = house.signed("Fog")
    hush(house, house.clock.at + HOUR // 2, house.clock.at + 9 * HOUR)
    made = plan(house, MoveRequest(page, "en", follows=True), override_quiet=True)
    house.do("ida", lambda a: workflows.define(a, flow(sign_offs=2)))
    house.later(HOUR / SECOND)
    assert house.state(made) == "held"
    house.do("ida", lambda a: workflows.define(a, flow()))
    assert {u["code"] for m in checked(house, made)["moves"] for u in m["unmet"]} == {"quiet"}
    assert unmet(by_now(house, lambda a: dispatches.send(a, made))) == {"quiet"}
    assert by_now(house, lambda a: dispatches.send(a, made, override_quiet=True)) is None


def test_what_was_removed_meanwhile_is_said_with_the_rest(house: House) -> None:
    fog, salt = house.signed("Fog"), house.signed("Salt")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(fog, "en")]))
    for request in (
        MoveRequest(fog, "en", "set", payload={"fields": {"title": "Mist"}}),
        MoveRequest(fog, "en"),
    ):
        both = [request, MoveRequest(salt, "en")]
        made = house.do("ida", lambda a: gathering.start(a, About(name="Both"), both))  # noqa: B023
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(fog, "en", "remove")]))
        end = hush(house, house.clock.at, house.clock.at + HOUR)
        sent = by_now(house, lambda a: dispatches.send(a, made, override_quiet=True))  # noqa: B023
        assert unmet(sent) == {"removed"}
        house.do("ida", lambda a: quiet_periods.end(a, end))  # noqa: B023
        house.do("ida", lambda a: entries.bring_back(a, fog))


def test_a_dispatch_that_goes_in_part_says_so_and_is_refused_where_nothing_of_it_goes(house: House) -> None:
    fog, salt = house.signed("Fog"), house.page("Salt")
    both = [MoveRequest(fog, "en"), MoveRequest(salt, "en")]
    made = house.do("ida", lambda a: gathering.start(a, About(name="Both", partial=True), both))
    assert (checked(house, made)["blocked"], checked(house, made)["rest_goes"]) == (True, True)
    assert become(house, made) == "gone"
    # The page that could go shows the one that cannot.
    shows = f'<p><a href="urn:uuid:{salt}">Salt</a></p>'
    house.do("wim", lambda a: entries.save(a, fog, "en", {"body": shows}, entries.base_now(a, fog, "en")))
    house.do("wim", lambda a: review.submit(a, fog, "en"))
    house.do("oda", lambda a: review.sign_off(a, fog, "en", 2))
    assert not checked(house, made)["rest_goes"]
    assert {entry for entry, _, _ in told_in(checked(house, made))} == {salt}, (
        "each says what is in its own way"
    )
    assert unmet(by_now(house, lambda a: dispatches.send(a, made))) >= {"sign-offs"}


def test_what_has_to_be_planned_does_not_go_at_once_with_what_is_held_back(house: House) -> None:
    fog, salt = (
        house.do("ida", lambda a, t=t: entries.start(a, "sheet", "en", {"title": t})) for t in ("Fog", "Salt")
    )
    house.do("ida", lambda a: review.submit(a, fog, "en"))
    house.do("oda", lambda a: review.sign_off(a, fog, "en", 1))
    both = [MoveRequest(fog, "en"), MoveRequest(salt, "en")]
    made = house.do("ida", lambda a: gathering.start(a, About(name="Both", partial=True), both))
    assert by_now(house, lambda a: dispatches.send(a, made)) is None
    house.do("ida", lambda a: changing.define_type(a, kind(needs_date=True)))
    assert "no-date" in unmet(by_now(house, lambda a: dispatches.send(a, made)))


def test_what_has_to_be_planned_does_not_go_before_its_time_and_does_after_it(house: House) -> None:
    page = house.do("ida", lambda a: entries.start(a, "sheet", "en", {"title": "Fog", "slug": "fog"}))
    house.do("ida", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.sign_off(a, page, "en", 1))
    house.do("ida", lambda a: changing.define_type(a, kind(needs_date=True, past="now")))
    made = plan(house, MoveRequest(page, "en", follows=True))
    assert unmet(by_now(house, lambda a: dispatches.send(a, made))) == {"no-date"}
    past = When(instant=iso(house.clock.at - HOUR))
    assert unmet(by_now(house, lambda a: dispatches.replan(a, made, past))) == {"no-date"}
    house.do("ida", lambda a: workflows.define(a, flow(sign_offs=2)))
    house.later(HOUR / SECOND)
    assert house.state(made) == "held"
    house.do("ida", lambda a: workflows.define(a, flow()))
    house.do("ida", lambda a: dispatches.send(a, made))
    assert house.is_out(page)


def test_who_comes_to_an_address_later_is_not_in_the_way_of_whoever_leaves_it_by_then(house: House) -> None:
    one, two = (
        house.do("ida", lambda a: entries.start(a, "sheet", "en", {"title": "Fog"})) for _ in range(2)
    )
    for page, slug in ((one, "fog"), (two, "fog")):
        change = {"slug": slug, "price": "1"}
        house.do("ida", lambda a: entries.save(a, page, "en", change, entries.base_now(a, page, "en")))  # noqa: B023
        house.do("ida", lambda a: workflows.define(a, flow(sign_offs=0)))
    first = plan(house, MoveRequest(one, "en"))
    plan(house, MoveRequest(one, "en", "withdraw"), hours=2)
    plan(house, MoveRequest(two, "en"), hours=3)
    assert not checked(house, first)["blocked"]
    house.later(4 * HOUR / SECOND)
    assert not house.is_out(one)
    assert house.is_out(two)


def with_price(house: House) -> str:
    """A page that is out, whose shared fields have moved on since."""
    house.do("ida", lambda a: workflows.define(a, flow(sign_offs=0)))
    values = {"title": "Fog", "price": "1"}
    page = house.do("ida", lambda a: entries.start(a, "sheet", "en", values))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    house.do("ida", lambda a: entries.save(a, page, "en", {"price": "2"}, entries.base_now(a, page, "en")))
    return page


def priced(page: str) -> list[MoveRequest]:
    """What would bring out a change of shared fields alone, in every way."""
    fields = {"fields": {"price": "3"}}
    return [MoveRequest(page, "*"), MoveRequest(page, "en"), MoveRequest(page, "en", "set", payload=fields)]


def test_shared_fields_alone_wait_for_the_end_of_a_quiet_period_too(house: House) -> None:
    page = with_price(house)
    before = [plan(house, request) for request in priced(page)[:2]]
    back = plan(house, MoveRequest(page, "en", "withdraw"), hours=2)
    ends = house.clock.at + 9 * HOUR
    since, until = (timeline.wall_text(timeline.wall_at(at, "UTC")) for at in (house.clock.at, ends))
    _, told = house.desk.read(
        house.who("ida"), lambda v: quiet_periods.planned_in(v, Times(since, until, "UTC", "", "Hush"))
    )
    assert {one.uuid for one in told} == {*before}, "what leaves is held by nothing"
    hush(house, house.clock.at, ends)
    at = When(instant=iso(house.clock.at + HOUR))
    for request in priced(page):
        for when in (None, at):
            error = by_now(house, lambda a: dispatches.make(a, [request], when))  # noqa: B023
            assert isinstance(error, GateUnmet), request
            assert said_by(error) == {(page, "*", "quiet")}, "of the text the same stands there already"
    for made, request in zip(before, priced(page), strict=False):
        error = by_now(house, lambda a: dispatches.replan(a, made, at))  # noqa: B023
        assert isinstance(error, GateUnmet), request
        assert said_by(error) == {(page, "*", "quiet")}, "nor is it another time"
    house.later(HOUR / SECOND)
    assert [house.state(one) for one in before] == ["held", "held"]
    house.later(HOUR / SECOND)
    assert house.state(back) == "gone"


def test_what_has_to_be_planned_has_to_be_in_its_shared_fields_too(house: House) -> None:
    page = with_price(house)
    house.do("ida", lambda a: changing.define_type(a, kind(needs_date=True)))
    for request in priced(page):
        error = by_now(house, lambda a: dispatches.make(a, [request]))  # noqa: B023
        assert isinstance(error, GateUnmet), request
        assert said_by(error) == {(page, "*", "no-date")}, "of the text the same stands there already"
    plan(house, MoveRequest(page, "*"))
    house.later(2 * HOUR / SECOND)
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM dispatch WHERE state = 'gone'").fetchone()[0] == 2


def test_what_leaves_by_then_neither_passed_the_gate_of_what_comes_after_nor_is_it_gone_back_from(
    house: House,
) -> None:
    page = house.signed("Fog")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    house.do("ida", lambda a: workflows.define(a, flow(sign_offs=2)))
    again = MoveRequest(page, "en", revision=1)

    def asked(hours: float) -> Conditions:
        when = When(instant=iso(house.clock.at + round(hours * HOUR)))
        error = by_now(house, lambda a: dispatches.make(a, [again], when))
        return said_by(error) if error is not None else set()

    assert asked(2) == set(), "what is out passed its gate"
    plan(house, MoveRequest(page, "en", "withdraw"))
    assert {code for _, _, code in asked(2)} == {"sign-offs"}
    house.do("ida", lambda a: workflows.define(a, flow(sign_offs=1)))
    house.do("wim", lambda a: entries.save(a, page, "en", {"title": "Fogs"}, entries.base_now(a, page, "en")))
    house.do("wim", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.sign_off(a, page, "en", 2))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    assert asked(0.5) == {(page, "en", "not-descended")}
    assert asked(2) == set(), "nothing is out then that this would take back"
    back = plan(house, again, hours=2)
    house.later(2 * HOUR / SECOND)
    assert house.state(back) == "gone"


def test_another_time_is_refused_by_a_quiet_period_alone_and_for_what_changes_in_it(house: House) -> None:
    fog, salt = house.signed("Fog"), house.signed("Salt")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(salt, "en")]))
    made, same = plan(house, MoveRequest(fog, "en")), plan(house, MoveRequest(salt, "en"))
    house.do("ida", lambda a: workflows.define(a, flow(sign_offs=2)))
    hush(house, house.clock.at + 2 * HOUR, house.clock.at + 9 * HOUR)
    within = When(instant=iso(house.clock.at + 3 * HOUR))
    error = by_now(house, lambda a: dispatches.replan(a, made, within))
    assert isinstance(error, GateUnmet)
    assert said_by(error) == {(fog, "en", "quiet")}, "a sign-off may come by then"
    assert by_now(house, lambda a: dispatches.replan(a, same, within)) is None, "it is out as it is"
