"""Figures: counted from what happened, some seconds behind, by whoever may read it, and held against it."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.core.errors import Invalid, Refused
from hawthorn.core.spreads import Spread
from hawthorn.core.timeline import SECOND, iso, parse_instant
from hawthorn.followers.counter import Counter
from hawthorn.operations.access import people
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.translation import table
from hawthorn.operations.translation.table import Edit, Place
from hawthorn.operations.views import counting, figures, health
from hawthorn.operations.views.figures import Asked, Figures
from hawthorn.store import figures as store
from hawthorn.store import people as people_store
from tests.followers.partners import Anything
from tests.followers.test_followers import Options
from tests.service.made import Clock, House
from tests.service.test_suggestions import drafted, french, sent

HOUR, DAY = 3_600 * SECOND, 86_400 * SECOND
MONDAY = parse_instant("2027-03-01T00:00:00Z")


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path, Clock(MONDAY + 9 * HOUR))
    yield made
    made.close()


def at(house: House, hours: float) -> None:
    """So many hours after the Monday."""
    house.clock.at = MONDAY + round(hours * HOUR)


def counted(house: House) -> Counter:
    """Let what happened be counted."""
    counter = Counter(house.desk, Options())
    counter.step("one")
    return counter


def look(house: House, who: str = "ida", **asked: Any) -> Figures:
    return house.desk.read(house.who(who), lambda v: figures.look(v, Asked(**{"weeks": 3, **asked})))


def behind(
    house: House, kind: str, who: str = "ida", stage: str = "", week: str = "", **asked: Any
) -> list[str]:
    """The titles behind a number, asked for one by one."""
    cursor, found = "", []
    while True:
        some, cursor = house.desk.read(
            house.who(who),
            lambda v, c=cursor: figures.behind(v, kind, stage, week, Asked(**{"weeks": 3, **asked}), 1, c),  # type: ignore[misc]
        )
        found += [one.title for one in some]
        if not cursor:
            return found


def save(house: House, who: str, uuid: str, title: str, locale: str = "en") -> None:
    def do(act: Act) -> None:
        id = act.conn.execute("SELECT id FROM entry WHERE uuid = ?", (uuid,)).fetchone()[0]
        entries.save(
            act,
            uuid,
            locale,
            {"title": title, "body": "<p>Words.</p>"},
            entries.current_base(act, id, locale),
        )

    house.do(who, do)


def worked(house: House) -> str:
    """A page that is written on Monday at nine, sent back after a day, written again for two, signed off within an hour, and out a day later."""
    at(house, 9)
    page = house.page("Lamps")
    at(house, 12)
    house.do("wim", lambda a: review.submit(a, page, "en"))
    at(house, 36)
    house.do("oda", lambda a: review.send_back(a, page, "en", "Which lamp?"))
    at(house, 80)
    save(house, "wim", page, "The lamps")
    at(house, 84)
    house.do("wim", lambda a: review.submit(a, page, "en"))
    at(house, 85)
    house.do("oda", lambda a: review.sign_off(a, page, "en", 2))
    at(house, 109)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    return page


def test_how_long_the_work_stays_where_is_told_by_week_with_the_entries_behind_it(house: House) -> None:
    worked(house)
    at(house, 8 * 24)
    other = house.page("Ropes")
    at(house, 9 * 24)
    house.do("wim", lambda a: review.submit(a, other, "en"))
    at(house, 10 * 24)
    counted(house)
    found = look(house)
    assert found.weeks == ["2027-02-22", "2027-03-01", "2027-03-08"]
    stages = {one.stage: one for one in found.stages}
    assert list(stages) == ["draft", "review", "signed off"]
    none = Spread()
    draft = stages["draft"]
    assert draft.weeks == [none, Spread(2, 3 * 3600.0, 48 * 3600.0), Spread(1, 86_400.0, 86_400.0)]
    assert draft.whole == Spread(3, 86_400.0, 48 * 3600.0)
    assert stages["review"].weeks[1] == Spread(2, 3600.0, 86_400.0)
    assert stages["signed off"].whole == Spread(1, 86_400.0, 86_400.0)
    assert (found.returns.decided, found.returns.sent_back) == ([0, 2, 0], [0, 1, 0])
    (back,) = found.returns.latest
    assert (back.title, back.by, back.reason, back.at) == (
        "The lamps",
        "Oda",
        "Which lamp?",
        iso(MONDAY + 36 * HOUR + SECOND),
    )
    assert (found.releases.editions, found.releases.dispatches) == ([0, 1, 0], [0, 1, 0])
    (waits,) = found.waiting
    assert (waits.title, waits.stage, waits.seconds) == ("Ropes", "review", 86_399.0)
    assert waits.whom == ["Ida (managing editor)", "Oda (section editor)"]
    assert behind(house, "stay", stage="draft") == ["Ropes", "The lamps", "The lamps"]
    assert behind(house, "stay", stage="draft", week="2027-03-08") == ["Ropes"]
    assert behind(house, "sent-back") == ["The lamps"]
    assert behind(house, "reviewed", week="2027-03-01") == ["The lamps", "The lamps"]
    assert behind(house, "release") == ["The lamps"]
    assert behind(house, "waiting") == ["Ropes"]
    # What is taken away has not gone on.
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(other, "en", "archive")]))
    counted(house)
    assert (behind(house, "waiting"), behind(house, "reviewed", week="2027-03-08")) == ([], [])
    assert look(house).stages[1].whole.count == 2
    assert behind(house, "stay", stage="review", week="2027-03-08") == []


def test_figures_are_those_of_a_type_a_section_a_language_or_a_person(house: House) -> None:
    page = worked(house)
    at(house, 120)
    counted(house)
    assert look(house, type="page").releases.editions[-1] == 1
    assert look(house, locale="en").returns.sent_back[-1] == 1
    assert look(house, section=page).stages == []
    assert [one.stage for one in look(house, person="oda").stages] == ["review"]
    assert [one.whole.count for one in look(house, person="wim").stages] == [2]
    assert behind(house, "release", person="wim") == []
    assert look(house).by_person
    assert not look(house, "wim").by_person
    with pytest.raises(Refused, match="may not set up"):
        look(house, "wim", person="oda")
    for wrong in ({"type": "nothing"}, {"locale": "xx"}, {"person": "nobody"}, {"weeks": 0}, {"weeks": 105}):
        with pytest.raises(Invalid):
            look(house, **wrong)
    with pytest.raises(Invalid, match="its Monday"):
        behind(house, "stay", week="2027-03-02")
    with pytest.raises(Invalid):
        behind(house, "nothing")


def test_nobody_is_told_of_what_they_may_not_read(house: House) -> None:
    def add(act: Act) -> None:
        for handle, grant in (
            ("olu", {"own": True}),
            ("pia", {"stages": ["release"]}),
            ("sam", {"locales": ["fr"]}),
        ):
            people_store.set_role(act.conn, handle, handle, [{"verb": "read", **grant}])
            people.add_person(act, handle, handle, f"{handle}@x.example", "long enough", [{"name": handle}])

    house.speaks(fr="French")
    house.do("ida", add)
    worked(house)
    waits = house.page("Ropes")
    house.do("wim", lambda a: review.submit(a, waits, "en"))
    house.clock.at += 12 * SECOND
    counted(house)
    assert (look(house).translated[0].words, look(house).following.open) == (5, 0)
    for who in ("olu", "pia", "sam"):
        found = look(house, who)
        assert (found.stages, found.waiting, found.returns.latest, found.following.open) == ([], [], [], 0)
        assert [one.locale for one in found.translated] == (["fr"] if who == "sam" else [])
        assert sum(found.releases.editions) == sum(found.releases.dispatches) == 0
        assert (
            behind(house, "stay", who) == behind(house, "waiting", who) == behind(house, "release", who) == []
        )


def test_what_went_late_is_named(house: House) -> None:
    page = house.signed("Lamps")
    house.do(
        "ida",
        lambda a: dispatches.make(a, [MoveRequest(page, "en")], When(instant=iso(house.clock.at + HOUR))),
    )
    counted(house)
    assert look(house).waiting == [], "what is planned waits for nobody"
    house.clock.at += HOUR + 90 * SECOND
    house.by_scheduler(lambda _: None)
    counted(house)
    late = look(house).releases
    assert (late.late[-1], [round(one.seconds) for one in late.latest]) == (1, [90])


def test_the_other_languages_follow_and_what_they_have_not_followed_is_counted(house: House) -> None:
    house.speaks(fr="French")
    page = house.signed("Lamps")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))

    def out(locale: str, title: str, hours: float) -> None:
        at(house, hours)
        save(house, "ida", page, title, locale)
        house.do("wim", lambda a: review.submit(a, page, locale))
        number = house.desk.read(
            house.who("ida"),
            lambda v: v.conn.execute(
                "SELECT max(r.number) FROM revision r JOIN edition d ON d.id = r.edition WHERE d.locale = ?",
                (locale,),
            ).fetchone()[0],
        )
        house.do("oda", lambda a: review.sign_off(a, page, locale, number))
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, locale)]))

    out("fr", "Lampes", 20)
    out("en", "The lamps", 30)
    counted(house)
    assert (look(house).following.whole.count, look(house).following.open) == (0, 1)
    out("fr", "Les lampes", 40)
    out("en", "All lamps", 50)
    counted(house)
    found = look(house).following
    assert (found.whole, found.open) == (Spread(1, 36_000.0, 36_000.0), 1)
    assert behind(house, "following") == ["All lamps"]


def test_words_that_are_up_to_date_are_kept_by_day_and_drafts_of_a_machine_by_what_became_of_them(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    house.speaks(fr="French")
    page = house.page("Lamps", body="<p>It burned. It was lit.</p>")
    job = sent(house, page, machine=True)
    drafted(house, Anything(french), monkeypatch)
    counted(house)
    (share,) = (one for one in look(house).translated if one.locale == "fr")
    assert (share.words, share.current, share.weeks) == (6, 0, [None, None, 0.0])
    lines, _ = house.desk.read(house.who("ida"), lambda v: table.lines(v, job, 10, ""))
    for line, target in zip(lines, ("FR Lamps", "Elle brûlait.", "FR It was lit."), strict=True):
        place, edit = Place(line.entry, line.key, line.segment), Edit(target, line.target)
        house.do("ida", lambda a, p=place, e=edit: table.save(a, job, p, e))  # type: ignore[misc]
    house.clock.at += 8 * DAY
    counted(house)
    found = look(house)
    assert (found.machine.kept, found.machine.changed) == (0, 0), "nothing of the job is back"
    house.do("ida", lambda a: table.deliver(a, job))
    counted(house)
    found = look(house)
    assert (found.machine.kept, found.machine.changed) == (2, 1)
    (own,) = found.bureaus
    assert (own.name, own.jobs, own.words, own.took.count) == ("", 1, 6, 1)
    (share,) = (one for one in found.translated if one.locale == "fr")
    assert share.weeks[0:2] == [None, 0.0]
    assert (share.current, share.weeks[2]) == (6, 100.0)


def test_nothing_is_counted_where_nothing_happens_and_of_two_processes_one_counts(house: House) -> None:
    worked(house)
    one, two = counted(house), Counter(house.desk, Options())
    two.step("two")
    changes = _changes(house)
    for _ in range(3):
        house.clock.at += 700 * SECOND
        assert one.step("one") > 1
        assert two.step("two") > 1
    assert _changes(house) == changes
    house.page("Ropes")
    assert two.step("two") > 1
    assert not house.desk.read(house.who("ida"), lambda v: store.waits(v.conn, ("1", []), 10))
    house.clock.at += 10 * SECOND
    one.step("one")
    assert behind(house, "stay", stage="draft") == ["The lamps", "The lamps"]
    with house.desk.db.read() as conn:
        assert not counting.news(conn)
        assert (
            conn.execute("SELECT count(*) FROM stay WHERE stage = 'draft' AND went IS NULL").fetchone()[0]
            == 1
        )


def _changes(house: House) -> int:
    return house.desk.db.write(
        lambda conn: int(conn.execute("PRAGMA data_version").fetchone()[0] + conn.total_changes)
    )


def test_what_is_kept_is_held_against_what_happened_and_mended(house: House) -> None:
    worked(house)
    house.page("Ropes")
    counted(house)

    def wrong() -> list[str]:
        with house.desk.db.read() as conn:
            return [m.code for m in counting.wrong(conn)]

    assert wrong() == []
    spoilt = (
        "UPDATE stay SET went = went + 1 WHERE stage = 'review'",
        "DELETE FROM stay WHERE stage = 'draft' AND went IS NULL",
        "INSERT INTO stay SELECT edition, 'review', 5, 6, '', NULL, entry, type, locale FROM stay LIMIT 1",
    )
    for statement in spoilt:
        house.desk.db.write(lambda conn, s=statement: conn.execute(s))  # type: ignore[misc]
        assert wrong() == ["health.stays_wrongly"], statement
        assert house.by_scheduler(health.repair)["figures"] > 0
        assert wrong() == [], statement


def test_figures_are_asked_over_http_and_wrong_questions_are_answered(house: House) -> None:
    from tests.service.made import serving

    worked(house)
    counted(house)
    token = house.log_in("wim")
    with (
        serving(house) as (_, url),
        httpx.Client(base_url=url, headers={"Authorization": f"Bearer {token}"}) as http,
    ):
        found = http.get("/api/figures", params={"weeks": 2}).json()
        assert [one["whole"]["count"] for one in found["stages"]] == [2, 2, 1]
        lines = http.get(
            "/api/figures/behind", params={"figure": "stay", "stage": "review", "limit": 1}
        ).json()
        assert (lines["items"][0]["title"], bool(lines["next"])) == ("The lamps", True)
        assert http.get("/api/figures", params={"weeks": 500}).status_code == 422
        for wrong in ({"figure": "nothing"}, {"cursor": "nonsense"}, {"week": "2027-03-02"}):
            assert http.get("/api/figures/behind", params=wrong).status_code == 422
        assert http.get("/api/figures", params={"person": "oda"}).status_code == 403
        assert http.get("/api/figures", headers={"Authorization": ""}).status_code == 401


def test_a_file_from_before_is_counted_from_its_beginning_a_little_at_a_time(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    worked(house)

    def before(conn: sqlite3.Connection) -> None:
        conn.execute("DELETE FROM stay")
        conn.execute("DELETE FROM follower WHERE name = ?", (counting.NAME,))

    counted(house)
    first = look(house)
    house.desk.db.write(before)
    assert look(house).stages == []
    house.clock.at += 10 * SECOND
    monkeypatch.setattr(counting, "AT_ONCE", 2)
    monkeypatch.setattr(counting, "ROWS", 1)
    counted(house)
    assert look(house).stages == first.stages
