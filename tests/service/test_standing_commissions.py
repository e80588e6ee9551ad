"""Standing commissions: what changes goes by itself once it is still, with the rights of whoever set it up, and people hear of decisions."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import InTheWay, Invalid, NotFound, Refused
from hawthorn.core.timeline import SECOND
from hawthorn.followers.collector import Collector
from hawthorn.followers.mail import Mail
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.translation import commissions, exporting, importing, standing_commissions
from hawthorn.operations.translation.standing_commissions import StandingShown
from hawthorn.store import events, job_lists
from hawthorn.store import jobs as job_store
from tests.followers.test_followers import Options
from tests.service.made import House
from tests.service.test_operations import rooms

MINUTE = 60 * SECOND
FRENCH = {"targets": [{"locale": "fr"}], "sends": "draft", "pause": 10}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French", de="German")
    yield made
    made.close()


def standing(house: House, name: str = "Into French", by: str = "ida", **given: Any) -> str:
    made: str = house.do(by, lambda a: standing_commissions.add(a, {"name": name, **FRENCH, **given}))
    return made


def coordinator(house: House) -> None:
    """Somebody else who may commission."""
    role = [{"name": "translation-coordinator"}]
    house.by_scheduler(lambda a: people.add_person(a, "mina", "Mina", "mina@x.example", "long enough", role))


def look(house: House, uuid: str) -> StandingShown:
    return house.desk.read(house.who("ida"), lambda v: standing_commissions.look(v, uuid))


def save(house: House, page: str, title: str, locale: str = "en") -> None:
    house.do(
        "ida", lambda a: entries.save(a, page, locale, {"title": title}, entries.base_now(a, page, locale))
    )


def passed(house: House, minutes: int) -> float:
    """Let minutes pass, and the collector look; returns how long it rests."""
    house.clock.at += minutes * MINUTE
    collector = Collector(house.desk, Options())
    return collector.step("one")


def jobs(house: House) -> list[tuple[str, list[str]]]:
    """The locale of each job, with the keys of its units by entry."""
    with house.desk.db.read() as conn:
        some = reversed(job_lists.newest(conn, 100))
        return [(job.locale, [u.key for u in job_store.units(conn, job.id)]) for job in some]


def test_what_changes_goes_once_it_is_still_and_all_of_it_together(house: House) -> None:
    before = house.page("There before")
    uuid = standing(house)
    assert look(house, uuid).waiting == 0, "what was there is not sent for that"
    first, second = house.page("Lamps"), house.page("Bells")
    assert look(house, uuid).waiting == 2
    passed(house, 6)
    save(house, first, "Lamps and lanterns")
    passed(house, 6)
    assert jobs(house) == [], "one of them changed six minutes ago"
    assert passed(house, 5) == 30.0
    assert [locale for locale, _ in jobs(house)] == ["fr"], "one job for both"
    assert len(jobs(house)[0][1]) == 4
    now = look(house, uuid)
    assert (now.waiting, now.next, now.sent) == (0, "", 1)
    passed(house, 60)
    assert len(jobs(house)) == 1, "what has gone waits no more"
    save(house, second, "Bells of fog")
    save(house, before, "There still")
    passed(house, 11)
    assert len(jobs(house)) == 2
    assert len(jobs(house)[1][1]) == 3, "the title that changed, and all of what never went"


def test_what_goes_on_changing_holds_nothing_else_up(house: House) -> None:
    standing(house)
    busy, still = house.page("Busy"), house.page("Still")
    for n in range(15):
        save(house, busy, f"Busy {n}")
        passed(house, 5)
    assert len(jobs(house)) == 1, "six pauses after the first change"
    with house.desk.db.read() as conn:
        sent = [e.uuid for e in job_store.entries(conn, 1)]
    assert sent == [still]
    passed(house, 11)
    assert len(jobs(house)) == 2


def test_only_what_is_out_goes_where_drafts_do_not(house: House) -> None:
    uuid = standing(house, sends="out")
    page = house.signed("Lamps")
    passed(house, 60)
    assert (look(house, uuid).waiting, jobs(house)) == (0, [])
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    assert look(house, uuid).waiting == 1
    save(house, page, "Lamps, a new draft")
    passed(house, 11)
    assert jobs(house) == [], "its draft is written on; it goes when that is out"
    other = house.signed("Bells")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(other, "en")]))
    passed(house, 11)
    assert len(jobs(house)) == 1


def test_a_translation_that_is_saved_is_no_change_of_its_source(house: House) -> None:
    page = house.page("Lamps")
    uuid = standing(house)
    save(house, page, "Lampes", "fr")
    assert look(house, uuid).waiting == 0
    save(house, page, "Lamps!")
    assert look(house, uuid).waiting == 1
    house.do("ida", lambda a: standing_commissions.change(a, uuid, {"on": False}))
    save(house, page, "Lamps!!")
    passed(house, 60)
    assert (jobs(house), look(house, uuid).state) == ([], "off")
    house.do("ida", lambda a: standing_commissions.change(a, uuid, {"on": True}))
    passed(house, 11)
    assert len(jobs(house)) == 1, "what waited goes when it is switched on again"


def test_a_section_sends_what_lies_in_it_and_no_more(house: House) -> None:
    east, west = rooms(house)
    uuid = standing(house, section=east)
    assert look(house, uuid).section_title == "East"
    house.page("In the west", below={"entry": west, "rank": "a"})
    assert look(house, uuid).waiting == 0
    hall = house.page("In the east", below={"entry": east, "rank": "a"})
    house.page("Deeper", below={"entry": hall, "rank": "a"})
    save(house, east, "The east")
    assert look(house, uuid).waiting == 3
    with pytest.raises(Invalid, match="section"):
        standing(house, "Another", section=hall)


def test_it_acts_with_the_rights_of_whoever_set_it_up_and_stops_when_they_are_gone(house: House) -> None:
    coordinator(house)
    uuid = standing(house, by="mina")
    house.page("Lamps")
    passed(house, 11)
    with house.desk.db.read() as conn:
        kinds = conn.execute("SELECT actor_kind FROM event WHERE kind = 'commission.made'").fetchall()
        by = conn.execute("SELECT a.handle FROM commission c JOIN actor a ON a.id = c.actor").fetchone()[0]
    assert ([row[0] for row in kinds], by) == (["scheduler"], "mina"), (
        "the log says that nobody sent it by hand"
    )
    house.do("ida", lambda a: people.set_holdings(a, "mina", []))
    page = house.page("Bells")
    passed(house, 11)
    now = look(house, uuid)
    assert (now.state, len(jobs(house))) == ("stopped", 1)
    assert "commission" in now.trouble
    assert ("standing-commission.stopped", "scheduler") in house.events()
    assert now.waiting == 1, "what waited is not lost"
    save(house, page, "Bells again")
    passed(house, 60)
    assert len(jobs(house)) == 1


def test_one_whose_setter_has_left_stops_holds_up_no_other_and_goes_on_with_the_rights_of_who_lets_it(
    house: House,
) -> None:
    coordinator(house)
    hers, his = standing(house, "Hers", by="mina"), standing(house, "His")
    house.do("ida", lambda a: people.end_person(a, "mina"))
    house.page("Lamps")
    passed(house, 11)
    stopped, other = look(house, hers), look(house, his)
    assert (stopped.state, other.state, len(jobs(house))) == ("stopped", "on", 1)
    assert "Mina, who set it up, has left" in stopped.trouble
    with house.desk.db.read() as conn:
        (event,) = [e for e in events.after(conn, 0, 1000) if e.kind == "standing-commission.stopped"]
    told = house.desk.read(house.who("ida"), lambda v: notifications.for_event(v, event))
    assert [one.actor for one in told] == [house.who("ida").id]
    house.do("ida", lambda a: standing_commissions.end(a, his))
    house.do("ida", lambda a: standing_commissions.change(a, hers, {"on": True}))
    house.page("Bells")
    passed(house, 11)
    assert (look(house, hers).state, len(jobs(house))) == ("on", 2)


def test_one_that_cannot_be_worked_out_stops_and_holds_up_no_other(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    broken, fine = standing(house, "Broken"), standing(house, "Fine")
    send = standing_commissions._send

    def wrong(act: Any, row: Any, waiting: Any) -> int:
        if row.name == "Broken":
            raise KeyError("nothing")
        return send(act, row, waiting)

    monkeypatch.setattr(standing_commissions, "_send", wrong)
    house.page("Lamps")
    passed(house, 11)
    assert (look(house, broken).state, look(house, fine).state, len(jobs(house))) == ("stopped", "on", 1)
    assert "'nothing'" in look(house, broken).trouble


@pytest.mark.parametrize(
    ("zone", "day"), [("Pacific/Auckland", "2027-01-19"), ("America/New_York", "2027-01-18")]
)
def test_it_is_due_by_the_day_that_whoever_set_it_up_has(house: House, zone: str, day: str) -> None:
    house.do("ida", lambda a: people.set_profile(a, "Ida", zone))
    standing(house, days=3)
    house.page("Lamps")
    house.clock.at += 4 * 60 * MINUTE
    passed(house, 11)
    with house.desk.db.read() as conn:
        (job,) = job_lists.newest(conn, 10)
    assert job.due == day


def test_what_comes_back_is_told_when_there_is_something_to_do(house: House) -> None:
    coordinator(house)
    standing(house)
    page = house.page("Lamps")
    passed(house, 11)
    with house.desk.db.read() as conn:
        job = job_lists.newest(conn, 1)[0]
    file = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job.uuid))[1]
    whole = file.replace(b"</source>", b"</source><target>Des lampes</target>")
    half = whole.replace(b"<target>Des lampes</target>", b"", 1)

    def told() -> int:
        Mail(house.desk, Options(smtp_host="")).step("one")
        with house.desk.db.read() as conn:
            found: int = conn.execute(
                "SELECT count(*) FROM notification WHERE path = ?", (f"/translation/{job.uuid}",)
            ).fetchone()[0]
            return found

    house.do("mina", lambda a: importing.import_file(a, job.uuid, half))
    assert told() == 0, "a part of it is nothing to decide about"
    save(house, page, "Lanterns")
    house.do("mina", lambda a: importing.import_file(a, job.uuid, whole))
    assert told() >= 1


def test_what_is_no_standing_commission_is_refused_by_name(house: House) -> None:
    uuid = standing(house)
    for given, error, says in (
        ({"name": ""}, Invalid, "called"),
        ({"name": "Into French"}, InTheWay, "already"),
        ({"name": "x", "targets": []}, Invalid, "at least one"),
        ({"name": "x", "targets": [{"locale": "fr", "bureau": "Nobody"}]}, Invalid, "no bureau"),
        ({"name": "x", "pause": 0}, Invalid, "from 1 to"),
        ({"name": "x", "days": -1}, Invalid, "from 0 to"),
        ({"name": "x", "sends": "now"}, Invalid, "out"),
    ):
        with pytest.raises(error, match=says):
            standing(house, **given)
    for act in (
        lambda a: standing_commissions.change(a, uuid, {"pause": 5}),
        lambda a: standing_commissions.end(a, uuid),
        lambda a: standing_commissions.send_now(a, uuid),
        standing_commissions.listing,
        lambda a: standing_commissions.add(a, {"name": "Mine", **FRENCH}),
    ):
        with pytest.raises(Refused):
            house.do("wim", act)
    with pytest.raises(InTheWay, match="Nothing has changed"):
        house.do("ida", lambda a: standing_commissions.send_now(a, uuid))
    house.page("Lamps")
    assert house.do("ida", lambda a: standing_commissions.send_now(a, uuid)) == 1
    house.do("ida", lambda a: standing_commissions.end(a, uuid))
    assert len(jobs(house)) == 1, "what it has sent goes on"
    with pytest.raises(NotFound):
        look(house, uuid)
    found, _ = house.desk.read(house.who("ida"), lambda v: commissions.listing(v, "sent", 50, ""))
    assert len(found) == 1


def test_whoever_may_not_commission_all_of_its_languages_sees_it_and_is_not_led_to_change_it(
    house: House,
) -> None:
    roles = [{"name": "staff"}, {"name": "translation-coordinator", "locales": ["fr"]}]
    house.do("ida", lambda a: people.add_person(a, "fran", "Fran", "f@x.example", "long enough", roles))
    french = standing(house)
    both = standing(house, "Into both", targets=[{"locale": "fr"}, {"locale": "de"}])
    house.page("Lamps")
    shown = {
        one.id: one.may_change for one in house.desk.read(house.who("fran"), standing_commissions.listing)
    }
    assert shown == {french: True, both: False}
    for uuid, may in shown.items():
        for act in (
            lambda a: standing_commissions.change(a, uuid, {"pause": 20}),  # noqa: B023
            lambda a: standing_commissions.send_now(a, uuid),  # noqa: B023
            lambda a: standing_commissions.end(a, uuid),  # noqa: B023
        ):
            assert (house.would_end("fran", act) is None) == may
