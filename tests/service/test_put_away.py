"""What is removed, or put into the archive, is nobody's work any more and holds up nothing; what comes for it meanwhile is not lost."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import contenttypes, timeline
from hawthorn.core.errors import GateUnmet, InTheWay
from hawthorn.core.merge import Settlement
from hawthorn.core.timeline import SECOND
from hawthorn.followers.collector import Collector
from hawthorn.operations.collaboration import assignments
from hawthorn.operations.content import changing, entries
from hawthorn.operations.release import dispatches, review, undoing
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.search import finding
from hawthorn.operations.translation import (
    accepting,
    against,
    commissions,
    coverage,
    exporting,
    importing,
    orders,
    table,
)
from hawthorn.operations.translation.accepting import Onward
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.translation.table import Edit, Place
from hawthorn.operations.views import my_work, show, show_jobs
from hawthorn.operations.views.health import health
from hawthorn.store import job_lists
from hawthorn.store import standing_commissions as standing_store
from tests.followers.test_followers import Options
from tests.service.made import START, House
from tests.service.test_returns import choose, fields, order, returned, save, translated
from tests.service.test_standing_commissions import MINUTE, jobs, look, standing

TOMORROW = timeline.iso(START + 24 * 3600 * SECOND)[:10]
AWAY = pytest.mark.parametrize("verb", ["archive", "remove"])


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    yield made
    with made.desk.db.read() as conn:
        assert list(coverage.wrong(conn)) == [], "what is kept is what counting anew gives"
    assert made.desk.read(made.who("ida"), health) == []
    made.close()


def put_away(house: House, page: str, verb: str) -> str:
    """Put an entry away; returns the dispatch."""
    return house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", verb)]))


def brought_back(house: House, gone: str) -> None:
    house.do("ida", lambda a: undoing.undo(a, gone))


def looked(house: House, job: str) -> show_jobs.JobShown:
    return house.desk.read(house.who("ida"), lambda v: show_jobs.job(v, job))


def at_table(house: House, job: str) -> list[table.Line]:
    return house.desk.read(house.who("ida"), lambda v: table.lines(v, job, 100))[0]


def titles(house: House, locale: str, **asked: Any) -> set[str]:
    """The entries that a list shows, by their titles there."""
    query = finding.Query(locale=locale, **asked)
    found = house.desk.read(house.who("ida"), lambda v: finding.listing(v, query)[0])
    return {one.title for one in found}


@AWAY
def test_what_was_put_away_holds_up_no_translation_and_loses_none(house: House, verb: str) -> None:
    lamp, bell = house.page("Lamp", body="<p>One.</p>"), house.page("Bell", body="<p>Two.</p>")
    job = order(house, lamp, bell)
    file = translated(house, job)
    gone = put_away(house, lamp, verb)
    # Nobody is asked for it any more, here or elsewhere.
    assert {line.title for line in at_table(house, job)} == {"Bell"}
    _, left = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    assert bell in left.decode()
    assert lamp not in left.decode()
    back = house.do("ida", lambda a: importing.import_file(a, job, file))
    assert (back.applied, back.open, back.refused) == (4, 0, 0)
    assert [(note.entry, "in its draft until" in note.what) for note in back.notes] == [(lamp, True)]
    # It takes no address, is not found but in the archive, and stands nowhere.
    with house.desk.db.read() as conn:
        addresses = conn.execute(
            "SELECT e.uuid, a.locale FROM address a JOIN entry e ON e.id = a.entry WHERE a.until IS NULL ORDER BY 2"
        ).fetchall()
        found = conn.execute("SELECT count(*) FROM search_text WHERE search_text MATCH 'french AND lamp'")
        assert found.fetchone()[0] == (1 if verb == "archive" else 0)
    assert [tuple(row) for row in addresses] == [(bell, "en"), (bell, "fr")]
    assert titles(house, "fr", words="french lamp") == set()
    there = {"French of Lamp"} if verb == "archive" else set()
    assert titles(house, "fr", words="french lamp", archived="only") == there
    assert house.desk.read(house.who("ida"), health) == []
    done = house.do("ida", lambda a: accepting.accept(a, job))
    assert done.left == 0
    assert any("“Lamp” was removed, or is in the archive" in note for note in done.notes)
    assert [house.standing(page, "fr") != [] for page in (lamp, bell)] == [False, True]
    assert looked(house, job)["state"] == "accepted"
    # Brought back, it has all that was translated meanwhile, and is found.
    brought_back(house, gone)
    assert fields(house, lamp)["title"] == "French of Lamp"
    assert titles(house, "fr") == {"French of Bell", "French of Lamp"}


@AWAY
def test_a_choice_about_what_was_put_away_holds_up_nothing(house: House, verb: str) -> None:
    lamp, bell = house.page("Lamp", body="<p>One.</p>"), house.page("Bell", body="<p>Two.</p>")
    save(house, lamp, "fr", title="La lampe")
    job = order(house, lamp, bell)
    assert returned(house, job).conflict == 1
    gone = put_away(house, lamp, verb)
    assert house.do("ida", lambda a: accepting.accept(a, job)).left == 0
    brought_back(house, gone)
    assert fields(house, lamp)["title"] == "La lampe", "nobody has chosen otherwise"
    choose(house, job, "Lamp", "theirs")
    assert fields(house, lamp)["title"] == "French of Lamp"


@AWAY
def test_a_job_waits_for_nothing_that_was_put_away(house: House, verb: str) -> None:
    lamp, bell = house.page("Lamp", body="<p>One.</p>"), house.page("Bell", body="<p>Two.</p>")
    job = order(house, lamp, bell)
    for line in at_table(house, job):
        if line.title == "Bell":
            place = Place(line.entry, line.key, line.segment)
            house.do("ida", lambda a, p=place: table.save(a, job, p, Edit("Une cloche", "")))
    house.do("ida", lambda a: table.deliver(a, job))
    assert looked(house, job)["state"] == "in work"
    gone = put_away(house, lamp, verb)
    assert looked(house, job)["state"] == "returned"
    assert "job.nothing-open" in [kind for kind, _ in house.events()]
    brought_back(house, gone)
    assert house.do("ida", lambda a: accepting.accept(a, job)).left == 2, "what is back is to be translated"
    gone = put_away(house, lamp, verb)
    done = house.do("ida", lambda a: accepting.accept(a, job, onward=Onward()))
    assert (done.left, looked(house, job)["state"], looked(house, job)["percent"]) == (0, "accepted", 100)
    brought_back(house, gone)
    again = order(house, lamp)
    assert len(at_table(house, again)) == 2, "it was never translated, and goes anew"


@AWAY
def test_what_is_put_away_goes_to_nobody(house: House, verb: str) -> None:
    lamp, bell = house.page("Lamp"), house.page("Bell")
    held = house.do("ida", lambda a: commissions.open_one(a, "Spring"))
    house.do("ida", lambda a: commissions.put(a, held, [lamp, bell]))
    job = order(house, lamp, again=True)
    gone = put_away(house, lamp, verb)
    with pytest.raises(InTheWay, match="removed, or are in the archive"):
        house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    house.do("ida", lambda a: commissions.change(a, held, {"targets": [{"locale": "fr"}]}))
    shown = house.desk.read(house.who("ida"), lambda v: commissions.look(v, held))
    assert {one.id: one.goes for one in shown.entries} == {lamp: False, bell: True}
    house.do("ida", lambda a: commissions.send(a, held))
    (sent,) = house.desk.read(house.who("ida"), lambda v: commissions.look(v, held)).jobs
    assert {line.entry for line in at_table(house, sent.uuid)} == {bell}
    if verb == "archive":
        other = house.do("ida", lambda a: commissions.open_one(a, "Summer"))
        put = house.do("ida", lambda a: commissions.put(a, other, [lamp]))
        assert (put.added, [one.why for one in put.left_out]) == (
            0,
            ["is in the archive; bring it back first"],
        )
        with pytest.raises(InTheWay, match="archive"):
            house.do("ida", lambda a: orders.check(a, Order((lamp,), ("fr",))))
        with pytest.raises(InTheWay, match="archive"):
            house.do("ida", lambda a: against.still_fits(a, lamp, "fr", {"title": "x"}))
        with pytest.raises(InTheWay, match="archive"):
            house.do("ida", lambda a: assignments.assign(a, lamp, "en", "wim"))
    brought_back(house, gone)
    assert {line.entry for line in at_table(house, job)} == {lamp}


@AWAY
def test_what_waits_to_be_sent_waits_no_more_once_it_is_put_away(house: House, verb: str) -> None:
    house.speaks(de="German")
    uuid = standing(house)
    page = house.page("Lamps")
    assert look(house, uuid).waiting == 1
    gone = put_away(house, page, verb)
    assert (look(house, uuid).waiting, look(house, uuid).next) == (0, "")
    collector = Collector(house.desk, Options())
    house.clock.at += 60 * MINUTE
    before = len(house.events())
    assert collector.step("one") == 30.0, "nothing is looked at each second"
    assert (jobs(house), len(house.events())) == ([], before)
    brought_back(house, gone)
    house.clock.at += 60 * MINUTE
    collector.step("one")
    assert len(jobs(house)) == 1


def test_what_is_written_on_after_it_went_out_is_not_looked_at_each_second(house: House) -> None:
    house.speaks(de="German")
    uuid = standing(house, sends="out")
    page = house.signed("Lamps")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))

    def write(act: Any) -> Any:
        return entries.save(act, page, "en", {"title": "Lanterns"}, entries.base_now(act, page, "en"))

    house.do("wim", write)
    house.clock.at += 60 * MINUTE
    Collector(house.desk, Options()).step("one")
    with house.desk.db.read() as conn:
        assert (jobs(house), standing_store.next_time(conn)) == ([], None)
    house.do("wim", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.sign_off(a, page, "en", 2))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    house.clock.at += 60 * MINUTE
    Collector(house.desk, Options()).step("one")
    assert len(jobs(house)) == 1
    assert look(house, uuid).waiting == 0


@AWAY
def test_what_is_put_away_is_nobodys_work(house: House, verb: str) -> None:
    lamp, bell = house.page("Lamp"), house.page("Bell")
    house.do("ida", lambda a: assignments.assign(a, lamp, "en", "wim", due=TOMORROW))
    house.do("wim", lambda a: review.submit(a, lamp, "en"))
    house.do("wim", lambda a: review.submit(a, bell, "en"))
    house.do("oda", lambda a: review.send_back(a, bell, "en", "Too short."))

    def work() -> dict[str, int]:
        found = {
            who: house.desk.read(house.who(who), lambda v: my_work.my_work(v))
            for who in ("ida", "oda", "wim")
        }
        return {
            "to sign": len(found["oda"]["waiting"]),
            "sent back": len(found["wim"]["waiting"]),
            "assigned": len(found["wim"]["assigned_to_you"]),
            "given": len(found["ida"]["assigned_to_others"]),
            "waited for": len(found["wim"]["you_wait_for"]),
        }

    there = work()
    assert set(there.values()) == {1}
    gone = [put_away(house, page, verb) for page in (lamp, bell)]
    assert set(work().values()) == {0}
    house.later(3 * 24 * 3600)
    assert house.do("ida", assignments.remind) == 0
    for one in gone:
        brought_back(house, one)
    assert work() == there
    assert house.do("ida", assignments.remind) == 1


def test_a_text_that_its_type_has_no_more_holds_up_no_job(house: House) -> None:
    def define(act: Any, *more: dict[str, Any]) -> None:
        now = contenttypes.to_dict(act.setup.types["page"])
        kept = [f for f in now["fields"] if f["name"] != "motto"]
        changing.define_type(act, {**now, "fields": [*kept, *more]})

    motto = {"name": "motto", "kind": "text", "label": "Motto"}
    house.do("ida", lambda a: define(a, motto))
    page = house.page("Lamp", body="<p>One.</p>", motto="Light for all")
    job = order(house, page)
    file = translated(house, job)
    house.do("ida", define)
    back = house.do("ida", lambda a: importing.import_file(a, job, file))
    assert (back.applied, back.open, [p.what for p in back.problems]) == (
        2,
        0,
        ["is not a unit of this job"],
    )
    assert looked(house, job)["state"] == "returned"
    assert house.do("ida", lambda a: accepting.accept(a, job)).left == 0
    assert looked(house, job)["state"] == "accepted"


def test_what_was_decided_about_one_entry_stays_when_another_returns(house: House) -> None:
    lamp, bell = house.page("Lamp", body="<p>One.</p>"), house.page("Bell", body="<p>Two.</p>")
    held = house.do("ida", lambda a: commissions.open_one(a, "Spring"))
    house.do("ida", lambda a: commissions.put(a, held, [lamp, bell]))
    house.do(
        "ida", lambda a: commissions.change(a, held, {"targets": [{"locale": "fr"}], "returns": "review"})
    )
    house.do("ida", lambda a: commissions.send(a, held))
    job = house.desk.read(house.who("ida"), lambda v: commissions.look(v, held)).jobs[0].uuid
    first, second = translated(house, job).files
    whole = translated(house, job)
    save(house, bell, "fr", title="La cloche")

    def bring(*some: Any) -> None:
        document = type(whole)(whole.job, "en", "fr", some)
        house.do("ida", lambda a: importing.import_file(a, job, document))

    bring(first)
    house.do("oda", lambda a: review.send_back(a, lamp, "fr", "Say it otherwise."))
    bring(second)
    with house.desk.db.read() as conn:
        waiting = conn.execute("SELECT count(*) FROM submission WHERE outcome IS NULL").fetchone()[0]
    assert waiting == 0, "what was sent back stays with the writer, and the other needs a choice"
    choose(house, job, "Bell", "theirs")
    stages = {
        page: [s for s, _, _, until in house.standing(page, "fr") if until is None] for page in (lamp, bell)
    }
    assert stages == {lamp: [], bell: ["review"]}, "all of it is chosen about now"


def test_what_may_be_there_once_does_not_come_back_beside_another(house: House) -> None:
    page = house.page("Lamp")
    gone = put_away(house, page, "remove")

    def single(act: Any) -> None:
        now = contenttypes.to_dict(act.setup.types["page"])
        changing.define_type(act, {**now, "single": True})

    house.do("ida", single)
    house.page("Bell")
    with pytest.raises(GateUnmet, match="“Bell”"):
        brought_back(house, gone)


@AWAY
def test_what_is_brought_back_as_a_draft_waits_for_nobody(house: House, verb: str) -> None:
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    put_away(house, page, verb)
    house.do("wim", lambda a: entries.bring_back(a, page))
    shown = house.desk.read(house.who("wim"), lambda v: show.entry(v, page, "en"))
    assert shown["review"] is not None
    assert (shown["review"]["outcome"], shown["deciders"]) == ("taken back", [])
    assert house.desk.read(house.who("oda"), my_work.my_work)["waiting"] == []
    house.do("wim", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.sign_off(a, page, "en", 1))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    assert house.is_out(page)


def test_nothing_leads_on_from_the_archive_and_nobody_is_said_to_decide(house: House) -> None:
    page = house.page("Fog")
    house.do("wim", lambda a: review.submit(a, page, "en"))

    def shown() -> tuple[list[str], bool]:
        entry = house.desk.read(house.who("oda"), lambda v: show.entry(v, page, "en"))
        return entry["deciders"], entry["gate"] is not None

    assert shown() == (["Ida", "Oda"], True)
    gone = put_away(house, page, "archive")
    assert shown() == ([], False)
    house.do("ida", lambda a: undoing.undo(a, gone))
    assert shown() == (["Ida", "Oda"], True)


def test_a_conflict_is_not_settled_in_the_archive(house: House) -> None:
    page = house.page("Lamp")
    base = house.desk.read(house.who("wim"), lambda v: entries.base_now(v, page, "en"))
    for who in ("wim", "oda"):
        saved = house.do(who, lambda a, w=who: entries.save(a, page, "en", {"title": f"By {w}"}, base))
    assert saved.conflicts
    put_away(house, page, "archive")
    with pytest.raises(InTheWay, match="archive"):
        house.do(
            "oda",
            lambda a: entries.settle(a, page, "en", saved.typed, saved.base, {"title": Settlement("ours")}),
        )


@AWAY
def test_a_field_that_becomes_shared_keeps_what_was_put_away(house: House, verb: str) -> None:
    page = house.page("Lamp", body="<p>One.</p>")
    gone = put_away(house, page, verb)

    def shared(act: Any) -> None:
        now = contenttypes.to_dict(act.setup.types["page"])
        moved = [{**f, "shared": True} if f["name"] == "body" else f for f in now["fields"]]
        changing.define_type(act, {**now, "fields": moved})

    house.do("ida", shared)
    brought_back(house, gone)
    assert fields(house, page, "en")["body"] == "<p>One.</p>"


@AWAY
def test_nobody_is_to_translate_what_was_put_away(house: House, verb: str) -> None:
    page = house.page("Lamp")
    held = house.do("ida", lambda a: commissions.open_one(a, "Spring"))
    house.do("ida", lambda a: commissions.put(a, held, [page]))
    doer = {"targets": [{"locale": "fr", "person": "wim"}], "due": TOMORROW}
    house.do("ida", lambda a: commissions.change(a, held, doer))
    house.do("ida", lambda a: commissions.send(a, held))

    def asked() -> tuple[list[str], int]:
        waiting = house.desk.read(house.who("wim"), my_work.my_work)["waiting"]
        with house.desk.db.read() as conn:
            due = job_lists.due_between(conn, TOMORROW, "2100-01-01", house.who("wim").id, 10)
        return [line["kind"] for line in waiting], len(due)

    assert asked() == (["to translate"], 1)
    gone = put_away(house, page, verb)
    assert asked() == ([], 0)
    brought_back(house, gone)
    assert asked() == (["to translate"], 1)
