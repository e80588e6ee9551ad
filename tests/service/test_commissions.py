"""Open commissions: entries are collected in one, counted by how much of them is known, and sent as they were set."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core.errors import BadTime, GateUnmet, InTheWay, Invalid, NotFound, Refused
from hawthorn.core.timeline import SECOND, iso
from hawthorn.core.translation import counting, rates, units
from hawthorn.core.translation.rates import KINDS
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import previews
from hawthorn.operations.release import dispatches, gathering, review
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.release.records import About
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.translation import (
    accepting,
    assigning,
    bureaus,
    cancelling,
    commissions,
    memories,
    questions,
    table,
    translation,
)
from hawthorn.operations.translation.accepting import Onward
from hawthorn.operations.translation.bureaus import BureauDetails
from hawthorn.operations.translation.commissions import CommissionShown
from hawthorn.operations.translation.orders import EntryCount
from hawthorn.operations.translation.sending import Doer
from hawthorn.operations.translation.table import Edit, Place
from hawthorn.operations.views import my_work, show_jobs
from hawthorn.store import dispatches as dispatch_store
from hawthorn.store import events as event_store
from hawthorn.store import memories as memory_store
from hawthorn.store import moves as move_store
from tests.service.made import House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French", de="German")
    yield made
    made.close()


def begun(house: House, *pages: str, by: str = "ida", shared: bool = False, **settings: Any) -> str:
    uuid = house.do(by, lambda a: commissions.open_one(a, "Spring", shared=shared))
    if pages:
        house.do(by, lambda a: commissions.put(a, uuid, pages))
    if settings:
        house.do(by, lambda a: commissions.change(a, uuid, settings))
    return uuid


def look(house: House, uuid: str, by: str = "ida") -> CommissionShown:
    return house.desk.read(house.who(by), lambda v: commissions.look(v, uuid))


def listed(house: House, by: str, state: str = "open") -> list[str]:
    found, _ = house.desk.read(house.who(by), lambda v: commissions.listing(v, state, 50, ""))
    return [one.id for one in found]


def counts(house: House, uuid: str, locale: str = "fr", at_once: int = 100) -> list[EntryCount]:
    out: list[EntryCount] = []
    cursor = ""
    while True:
        page, cursor = house.desk.read(
            house.who("ida"), lambda v, at=cursor: commissions.estimate(v, uuid, locale, at_once, at)
        )
        out += page.entries
        if not cursor:
            return out


INTO_FRENCH: list[dict[str, str]] = [{"locale": "fr"}]


def test_entries_are_collected_until_the_commission_is_sent_and_then_it_takes_no_more(house: House) -> None:
    lamps, bells = house.page("Lamps"), house.page("Bells")
    uuid = begun(house, lamps, targets=INTO_FRENCH)
    again = house.do("ida", lambda a: commissions.put(a, uuid, [lamps, bells]))
    assert (again.added, again.there, again.left_out) == (1, 1, [])
    assert [one.title for one in look(house, uuid).entries] == ["Lamps", "Bells"]
    house.do("ida", lambda a: commissions.take_out(a, uuid, [bells]))
    house.do("ida", lambda a: commissions.send(a, uuid))
    sent = look(house, uuid)
    assert (sent.line.state, sent.may_change, [job.locale for job in sent.jobs]) == ("sent", False, ["fr"])
    for late in (
        lambda a: commissions.put(a, uuid, [bells]),
        lambda a: commissions.take_out(a, uuid, [lamps]),
        lambda a: commissions.change(a, uuid, {"name": "x"}),
        lambda a: commissions.send(a, uuid),
    ):
        with pytest.raises(InTheWay, match="is sent, not open"):
            house.do("ida", late)
    assert listed(house, "ida", "open") == []
    assert listed(house, "ida", "sent") == [uuid]


def test_pages_below_and_what_is_referred_to_go_along_and_what_cannot_is_named(house: House) -> None:
    top = house.page("Building")
    hall = house.page("Hall", below={"entry": top, "rank": "a"})
    stairs = house.page("Stairs", below={"entry": hall, "rank": "a"})
    linked = house.page("Keeper")
    elsewhere = house.do("wim", lambda a: entries.start(a, "page", "de", {"title": "Sole"}))
    speaking = house.page("Lamps", body=f'<p>See <a href="urn:uuid:{linked}">her</a>.</p>')
    uuid = begun(house)
    assert house.do("ida", lambda a: commissions.put(a, uuid, [top], below=True)).added == 3
    assert [one.id for one in look(house, uuid).entries] == [top, hall, stairs]
    assert house.do("ida", lambda a: commissions.put(a, uuid, [speaking], linked=True)).added == 2
    assert linked in [one.id for one in look(house, uuid).entries]
    put = house.do("ida", lambda a: commissions.put(a, uuid, [elsewhere]))
    assert (put.added, [one.title for one in put.left_out]) == (0, ["Sole"])
    assert "is written in de, the others in en" in put.left_out[0].why
    with pytest.raises(NotFound):
        house.do("ida", lambda a: commissions.put(a, uuid, ["0198c0de-0000-7000-8000-000000000000"]))


def test_what_was_removed_since_stays_behind(house: House) -> None:
    lamps, bells = house.page("Lamps"), house.page("Bells")
    uuid = begun(house, lamps, bells, targets=INTO_FRENCH)
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(bells, "en", "remove")]))
    assert [one.goes for one in look(house, uuid).entries] == [True, False]
    house.do("ida", lambda a: commissions.send(a, uuid))
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM job_entry").fetchone()[0] == 1


def test_an_own_commission_is_its_owners_and_a_shared_one_everybodys_who_may_commission(house: House) -> None:
    coordinator = [{"name": "translation-coordinator"}]
    house.do("ida", lambda a: people.add_person(a, "mina", "Mina", "m@x.example", "long enough", coordinator))
    page = house.page("Lamps")
    mine, ours = begun(house, page), begun(house, page, shared=True)
    assert listed(house, "ida") == [ours, mine]
    assert listed(house, "mina") == [ours]
    assert listed(house, "wim") == []
    with pytest.raises(NotFound):
        look(house, mine, "mina")
    house.do("mina", lambda a: commissions.change(a, ours, {"note": "Kindly"}))
    with pytest.raises(InTheWay, match="Ida began it"):
        house.do("mina", lambda a: commissions.change(a, ours, {"shared": False}))
    with pytest.raises(Refused):
        house.do("wim", lambda a: commissions.open_one(a, "Mine"))
    with pytest.raises(Refused):
        house.do("wim", lambda a: commissions.put(a, ours, [page]))
    with pytest.raises(NotFound):
        look(house, ours, "wim")


@pytest.mark.parametrize(
    ("settings", "error", "says"),
    [
        ({"name": " "}, Invalid, "give it a name"),
        ({"due": "2001-01-01"}, BadTime, "is past"),
        ({"due": "soon"}, Invalid, "year-month-day"),
        ({"returns": "home"}, Invalid, "draft"),
        ({"memories": ["0198"]}, NotFound, "memory"),
        ({"targets": [{"locale": "xx"}]}, Invalid, "is not a locale"),
        ({"targets": [{"locale": "fr", "bureau": "Nobody"}]}, Invalid, "there is no bureau"),
        ({"targets": [{"locale": "fr", "person": "nobody"}]}, Invalid, "nobody of the name"),
        ({"targets": [{"locale": "fr", "person": "ida", "bureau": "B"}]}, Invalid, "not by both"),
    ],
)
def test_a_setting_that_cannot_be_is_refused_with_what_could(
    house: House, settings: dict[str, Any], error: type[Exception], says: str
) -> None:
    uuid = begun(house, house.page("Lamps"))
    before = look(house, uuid)
    with pytest.raises(error, match=says):
        house.do("ida", lambda a: commissions.change(a, uuid, settings))
    assert look(house, uuid) == before


def test_a_cancelled_one_keeps_what_is_in_it_and_is_opened_again(house: House) -> None:
    uuid = begun(house, house.page("Lamps"), targets=[{"locale": "fr"}, {"locale": "de"}])
    house.do("ida", lambda a: cancelling.cancel(a, uuid))
    assert look(house, uuid).line.state == "cancelled"
    house.do("ida", lambda a: cancelling.reopen(a, uuid))
    assert (look(house, uuid).line.state, len(look(house, uuid).entries)) == ("open", 1)
    house.do("ida", lambda a: commissions.send(a, uuid))
    german = next(job for job in look(house, uuid).jobs if job.locale == "de")
    house.do("ida", lambda a: translation.cancel(a, german.uuid))
    assert look(house, uuid).line.state == "sent"
    house.do("ida", lambda a: cancelling.cancel(a, uuid))
    assert {job.state for job in look(house, uuid).jobs} == {"cancelled"}
    with pytest.raises(InTheWay, match="nothing to cancel"):
        house.do("ida", lambda a: cancelling.cancel(a, uuid))
    house.do("ida", lambda a: cancelling.reopen(a, uuid))
    assert (look(house, uuid).line.state, {j.state for j in look(house, uuid).jobs}) == ("sent", {"waiting"})


def test_a_person_who_is_named_is_told_and_finds_the_job_in_their_work_and_nobody_else_does(
    house: House,
) -> None:
    for handle in ("luc", "lea"):
        roles = [{"name": "translator", "locales": ["fr"]}, {"name": "reader"}]
        mail = f"{handle}@x.example"
        house.do(
            "ida",
            lambda a, h=handle, m=mail, r=roles: people.add_person(a, h, h.title(), m, "long enough", r),
        )
    blind = [{"name": "translator", "locales": ["fr"]}]
    house.do("ida", lambda a: people.add_person(a, "bo", "Bo", "bo@x.example", "long enough", blind))
    page = house.page("Lamps")
    unread = begun(house, page, targets=[{"locale": "fr", "person": "bo"}])
    with pytest.raises(InTheWay, match="Bo may not read “Lamps”"):
        house.do("ida", lambda a: commissions.send(a, unread))
    uuid = begun(house, page, targets=[{"locale": "fr", "person": "luc"}])
    into_german = [{"locale": "de", "person": "luc"}]
    with pytest.raises(Invalid, match="nobody of the name"):
        house.do("ida", lambda a: commissions.change(a, uuid, {"targets": into_german}))
    house.do("ida", lambda a: commissions.send(a, uuid))

    def waiting(handle: str) -> list[str]:
        found = house.desk.read(house.who(handle), my_work.my_work)
        return [one["title"] for one in found["waiting"] if one["kind"] == "to translate"]

    assert (waiting("luc"), waiting("lea")) == (["Spring"], [])
    with house.desk.db.read() as conn:
        event = next(e for e in event_store.after(conn, 0, 1000) if e.kind == "commission.made")
    told = house.desk.read(house.who("ida"), lambda v: notifications.for_event(v, event))
    assert [(one.code, one.path) for one in told] == [
        ("to_translate", f"/translation/{look(house, uuid).jobs[0].uuid}/table")
    ]
    house.do("ida", lambda a: cancelling.cancel(a, uuid))
    nobody = begun(house, page, targets=INTO_FRENCH)
    house.do("ida", lambda a: commissions.send(a, nobody))
    assert (waiting("luc"), waiting("lea")) == (["Spring"], ["Spring"])


def translating(house: House, *handles: str) -> None:
    """People who translate into French, and read."""
    roles = [{"name": "translator", "locales": ["fr"]}, {"name": "reader"}]
    for handle in handles:
        mail = f"{handle}@x.example"
        house.do(
            "ida", lambda a, h=handle, m=mail: people.add_person(a, h, h.title(), m, "long enough", roles)
        )


def waits(house: House, handle: str) -> list[tuple[str, str]]:
    """What somebody is to translate, and by when."""
    found = house.desk.read(house.who(handle), my_work.my_work)
    return [(one["title"], one["due"]) for one in found["waiting"] if one["kind"] == "to translate"]


def heard(house: House, event_kind: str, who: str) -> list[str]:
    """What somebody is told by the last event of a kind."""
    with house.desk.db.read() as conn:
        event = [e for e in event_store.after(conn, 0, 10_000) if e.kind == event_kind][-1]
    told = house.desk.read(house.who("ida"), lambda v: notifications.for_event(v, event))
    return [one.code for one in told if one.actor == house.who(who).id]


def day(house: House, days: int) -> str:
    return iso(house.clock.at + days * 86_400 * SECOND)[:10]


def test_what_somebody_collected_who_has_left_is_sent_by_those_who_may(house: House) -> None:
    roles = [{"name": "managing-editor"}]
    house.do("ida", lambda a: people.add_person(a, "una", "Una", "", "oakum and tide", roles))
    uuid = begun(house, house.page("Lamps"), by="una", targets=INTO_FRENCH)
    assert (listed(house, "ida"), listed(house, "wim")) == ([], []), "it is hers alone"
    house.do("ida", lambda a: people.end_person(a, "una"))
    assert (listed(house, "ida"), listed(house, "wim")) == ([uuid], [])
    house.do("ida", lambda a: commissions.send(a, uuid))
    assert look(house, uuid).line.state == "sent"


def test_whoever_was_to_translate_and_is_gone_is_named_when_it_is_sent(house: House) -> None:
    translator = [{"name": "translator", "locales": ["fr"]}]
    house.do("ida", lambda a: people.add_person(a, "luc", "Luc", "", "oakum and tide", translator))
    bureau = house.do("ida", lambda a: bureaus.add(a, BureauDetails("Quay", "http://quay.example", {})))[0]
    person = begun(house, house.page("Lamps"), targets=[{"locale": "fr", "person": "luc"}])
    away = begun(house, house.page("Bells"), targets=[{"locale": "fr", "bureau": "Quay"}])
    house.do("ida", lambda a: people.end_person(a, "luc"))
    house.do("ida", lambda a: bureaus.end(a, bureau.id))
    for uuid, named in ((person, "Luc, who was to translate into “fr”"), (away, "The bureau “Quay”")):
        with pytest.raises(InTheWay, match=named):
            house.do("ida", lambda a: commissions.send(a, uuid))  # noqa: B023
        assert look(house, uuid).line.state == "open"
        house.do("ida", lambda a: commissions.change(a, uuid, {"targets": INTO_FRENCH}))  # noqa: B023
        house.do("ida", lambda a: commissions.send(a, uuid))  # noqa: B023
        assert look(house, uuid).line.state == "sent"


@pytest.mark.parametrize(
    ("zone", "hour", "over"),
    [("America/Los_Angeles", 3, -2), ("UTC", 3, -1), ("Pacific/Auckland", 20, 0)],
)
def test_a_day_is_over_where_whoever_sets_it_lives(house: House, zone: str, hour: int, over: int) -> None:
    """What is yesterday in Greenwich may be today still, and what is today there yesterday."""
    house.clock.at += (hour - house.clock.at // (3600 * SECOND)) % 24 * 3600 * SECOND
    house.desk.db.write(lambda c: c.execute("UPDATE actor SET zone = ? WHERE handle = 'ida'", (zone,)))
    uuid = begun(house, house.page("Lamps"))
    with pytest.raises(BadTime, match="is past"):
        house.do("ida", lambda a: commissions.change(a, uuid, {"due": day(house, over)}))
    house.do("ida", lambda a: commissions.change(a, uuid, {"due": day(house, over + 1)}))
    assert look(house, uuid).line.due == day(house, over + 1)


def test_what_is_offered_to_be_done_with_a_job_is_what_may_be_done(house: House) -> None:
    """In every state, and for whoever may commission for its language alone."""
    grants = [{"verb": "read"}, {"verb": "commission", "locales": ["de"]}]
    house.do("ida", lambda a: people.define_role(a, "german", "German", grants))
    house.by_scheduler(
        lambda a: people.add_person(a, "gert", "Gert", "", "long enough", [{"name": "german"}])
    )
    commission = begun(house, house.page("Lamps"), targets=INTO_FRENCH)
    house.do("ida", lambda a: commissions.send(a, commission))
    job = look(house, commission).jobs[0].uuid
    does: dict[str, Callable[[Act], None]] = {
        "assign": lambda a: assigning.assign(a, job, due=day(house, 30)),
        "send-again": lambda a: translation.send_again(a, job),
        "cancel": lambda a: translation.cancel(a, job),
        "reopen": lambda a: translation.reopen(a, job),
    }

    def possible(who: str) -> set[str]:
        def tried(act: Act) -> set[str]:
            done = set()
            for name, do in does.items():
                with act.trying() as trial:
                    try:
                        do(act)
                        done.add(name)
                    except (InTheWay, Refused):
                        pass
                    trial.keep(False)
            return done

        return house.do(who, tried)

    seen = {}
    for state in ("waiting", "sent", "in work", "failed", "returned", "accepted", "cancelled"):
        house.desk.db.write(lambda c, s=state: c.execute("UPDATE job SET state = ?", (s,)))
        for who in ("ida", "gert"):
            shown = house.desk.read(house.who(who), lambda v: show_jobs.job(v, job))["acts"]
            # What returned is cancelled by those who know how: nobody is led to it.
            assert set(shown) == possible(who) - ({"cancel"} if state == "returned" else set()), (state, who)
            seen[state, who] = shown
    assert seen["failed", "ida"] == ["assign", "send-again", "cancel"]
    assert seen["cancelled", "ida"] == ["reopen"]
    assert not any(shown for (_, who), shown in seen.items() if who == "gert")


def test_a_job_is_given_to_somebody_else_with_all_that_was_translated(house: House) -> None:
    translating(house, "luc", "lea")
    to_luc = [{"locale": "fr", "person": "luc"}]
    uuid = begun(house, house.page("Lamps", body="<p>Lit.</p>"), targets=to_luc, due=day(house, 3))
    house.do("ida", lambda a: commissions.send(a, uuid))
    job = look(house, uuid).jobs[0].uuid
    assert (waits(house, "luc"), waits(house, "lea")) == ([("Spring", day(house, 3))], [])
    line = house.desk.read(house.who("luc"), lambda v: table.lines(v, job, 9))[0][0]
    place = Place(line.entry, line.key, line.segment)
    house.do("luc", lambda a: table.save(a, job, place, Edit("Lampes", line.target)))
    before = look(house, uuid).jobs[0]

    def given(**to: Any) -> None:
        house.do("ida", lambda a: assigning.assign(a, job, **to))

    given(doer=Doer(person="lea"), note="He is ill.")
    now = look(house, uuid).jobs[0]
    assert (now.state, now.done, now.translator_name) == (before.state, before.done, "Lea")
    assert (waits(house, "luc"), waits(house, "lea")) == ([], [("Spring", day(house, 3))])
    kept = house.desk.read(house.who("lea"), lambda v: table.lines(v, job, 9))[0][0]
    assert kept.target == "Lampes"
    assert heard(house, "job.assigned", "lea") == ["to_translate"]
    assert heard(house, "job.assigned", "luc") == ["job_moved"]
    given(due=day(house, 9))
    assert waits(house, "lea") == [("Spring", day(house, 9))]
    assert (heard(house, "job.assigned", "lea"), heard(house, "job.assigned", "luc")) == (["job_due"], [])
    events = len(house.events())
    given(doer=Doer(person="lea"), due=day(house, 9))
    assert len(house.events()) == events, "nothing is another"
    given(doer=Doer())
    assert waits(house, "luc") == waits(house, "lea") == [("Spring", day(house, 9))]
    assert [(one.person, one.bureau) for one in look(house, uuid).targets] == [("", "")]
    given(doer=Doer(person="luc"))
    given(due="")
    assert heard(house, "job.assigned", "luc") == ["job_not_due"]
    house.do("ida", lambda a: people.end_person(a, "luc"))
    assert waits(house, "lea") == [("Spring", "")], (
        "what is with somebody who has left is whoever's who writes it"
    )


def test_whoever_gets_a_job_sees_the_drafts_of_its_pages_though_whoever_commissioned_it_has_left(
    house: House,
) -> None:
    roles = [{"name": "managing-editor"}]
    house.do("ida", lambda a: people.add_person(a, "una", "Una", "", "oakum and tide", roles))
    translating(house, "luc", "lea")
    uuid = begun(house, house.page("Lamps"), by="una", targets=[{"locale": "fr", "person": "luc"}])
    house.do("una", lambda a: commissions.send(a, uuid))
    job = look(house, uuid).jobs[0]

    def word() -> str:
        return house.desk.read(house.who("lea"), lambda v: previews.word_of_job(v, job.id))

    given = word()
    assert given
    house.do("ida", lambda a: people.end_person(a, "una"))
    assert word() == "", "a link lets nobody see more than whoever gave it"
    house.do("ida", lambda a: assigning.assign(a, job.uuid, Doer(person="lea")))
    renewed = word()
    assert renewed not in ("", given)
    with house.desk.db.read() as conn:
        found = previews.opened(conn, house.desk.vault, house.clock.now(), renewed)
        assert found.identity.handle == "ida"
    house.do("ida", lambda a: assigning.assign(a, job.uuid, Doer(person="luc")))
    assert word() == renewed, "one that holds stays as it is"


def test_a_job_goes_to_nobody_who_cannot_translate_it_and_is_given_by_nobody_who_may_not(
    house: House,
) -> None:
    translating(house, "luc")
    house.do("ida", lambda a: people.add_person(a, "bo", "Bo", "", "long enough", [{"name": "reader"}]))
    own = [{"verb": "read"}, {"verb": "write", "locales": ["fr"], "own": True}]
    house.do("ida", lambda a: people.define_role(a, "own", "Own", own))
    house.do("ida", lambda a: people.add_person(a, "eve", "Eve", "", "long enough", [{"name": "own"}]))
    of_ida = house.do("ida", lambda a: entries.start(a, "page", "en", {"title": "Lamps"}))
    uuid = begun(house, of_ida, targets=[{"locale": "fr"}, {"locale": "de"}])
    house.do("ida", lambda a: commissions.send(a, uuid))
    french, german = (next(j.uuid for j in look(house, uuid).jobs if j.locale == tag) for tag in ("fr", "de"))
    before = look(house, uuid).jobs

    def given(job: str, by: str = "ida", **to: Any) -> None:
        house.do(by, lambda a: assigning.assign(a, job, **to))

    for handle in ("nobody", "bo"):
        with pytest.raises(Invalid, match="may write in"):
            given(french, doer=Doer(person=handle))
    with pytest.raises(InTheWay, match="Eve may not"):
        given(french, doer=Doer(person="eve"))
    with pytest.raises(Invalid, match="may write in"):
        given(german, doer=Doer(person="luc"))
    with pytest.raises(Invalid, match="not by both"):
        given(french, doer=Doer("Salt", "luc"))
    with pytest.raises(BadTime):
        given(french, due=day(house, -1))
    with pytest.raises(Refused, match="commission"):
        given(french, by="luc", doer=Doer(person="luc"))
    assert look(house, uuid).jobs == before
    house.do("ida", lambda a: translation.cancel(a, german))
    with pytest.raises(InTheWay, match="nothing is left to translate"):
        given(german, due=day(house, 5))


def test_what_is_asked_about_a_job_is_told_though_whoever_commissioned_it_has_left(house: House) -> None:
    roles = [{"name": "managing-editor"}]
    house.do("ida", lambda a: people.add_person(a, "una", "Una", "", "oakum and tide", roles))
    uuid = begun(house, house.page("Lamps"), by="una", targets=INTO_FRENCH)
    house.do("una", lambda a: commissions.send(a, uuid))
    job = look(house, uuid).jobs[0].uuid
    line = house.desk.read(house.who("ida"), lambda v: table.lines(v, job, 1))[0][0]
    place = (line.entry, line.key, line.segment)
    house.do("ida", lambda a: people.end_person(a, "una"))
    house.do("wim", lambda a: questions.ask(a, job, place, "All of them?"))
    with house.desk.db.read() as conn:
        (event,) = [e for e in event_store.after(conn, 0, 1000) if e.kind == "job.asked"]
    told = house.desk.read(house.who("ida"), lambda v: notifications.for_event(v, event))
    assert [(one.actor, one.code) for one in told] == [(house.who("ida").id, "asked")]


def test_words_are_counted_by_how_much_of_them_is_known_whatever_the_page(house: House) -> None:
    """Words of all kinds are the words that go; what stood before in the order is repeated, on whichever page it stood."""
    told = "<p>It was lit each night. The lamp burned colza oil.</p>"
    first = house.page("Lamps", body=told)
    once = begun(house, first, targets=INTO_FRENCH)
    house.do("ida", lambda a: commissions.send(a, once))
    job = look(house, once).jobs[0].uuid
    for line in house.desk.read(house.who("ida"), lambda v: table.lines(v, job, 100))[0]:
        place, edit = Place(line.entry, line.key, line.segment), Edit(f"FR {line.source}", line.target)
        house.do("ida", lambda a, p=place, e=edit: table.save(a, job, p, e))
    house.do("ida", lambda a: table.deliver(a, job))
    house.do("ida", lambda a: accepting.accept(a, job))
    other = house.page(
        "Bells", body="<p>It was lit each night.</p><p>The lamp burned seal oil.</p><p>1848–1851</p>"
    )
    third = house.page("Horns", body="<p>It was lit each night.</p><p>It was heard each night.</p>")
    uuid = begun(house, first, other, third, targets=INTO_FRENCH)
    whole = counts(house, uuid)
    assert [one.title for one in whole] == ["Bells", "Horns"], "what is up to date does not go"
    assert whole == counts(house, uuid, at_once=1)
    bells, horns = whole
    assert (bells.units, bells.new, bells.changed) == (4, 4, 0)
    assert {kind: n for kind, n in bells.words.items() if n} == {
        "no match": 1,
        "exact": 5,
        "75–84": 5,
        "without words": 1,
    }
    assert (horns.words["repeated"], horns.words["exact"]) == (5, 0)
    house.do("ida", lambda a: commissions.change(a, uuid, {"current": True}))
    assert [one.title for one in counts(house, uuid)] == ["Lamps", "Bells", "Horns"]
    assert counts(house, uuid)[0].changed == 2


def test_what_it_costs_follows_the_rates_of_the_bureau(house: House) -> None:
    asked = {"currency": "eur", "word": "0.15", "locales": {"de": "0.2"}, "shares": {"repeated": "0.1"}}
    given_rates = BureauDetails("Saltmarsh", "http://127.0.0.1:9/x", {}, rates=asked)
    house.do("ida", lambda a: bureaus.add(a, given_rates))
    page = house.page("Lamps", body="<p>It was lit each night. It was lit each night.</p>")
    both = [{"locale": "fr", "bureau": "Saltmarsh"}, {"locale": "de", "bureau": "Saltmarsh"}]
    uuid = begun(house, page, targets=both)
    # Six words in full (the title's too), five for a tenth: 6.5 times 15 and 20 hundredths.
    assert [counts(house, uuid, tag)[0].cost for tag in ("fr", "de")] == ["0.98", "1.30"]
    house.do("ida", lambda a: commissions.change(a, uuid, {"targets": INTO_FRENCH}))
    assert counts(house, uuid)[0].cost == ""
    with pytest.raises(Invalid, match="not for de"):
        counts(house, uuid, "de")
    for wrong, says in (
        ({"currency": "Shells"}, "three letters"),
        ({"word": "0.1"}, "in which currency"),
        ({"currency": "EUR", "word": "-1"}, "from 0"),
        ({"currency": "EUR", "shares": {"some": "1"}}, "no match"),
        ({"currency": "EUR", "shares": {"exact": "1.01"}}, "from 0"),
        ({"currency": "EUR", "locales": {"xx": "1"}}, "fr"),
    ):
        with pytest.raises(Invalid, match=says):
            house.do(
                "ida", lambda a, r=wrong: bureaus.add(a, BureauDetails("B", "http://b.example", {}, rates=r))
            )


def test_what_has_no_words_goes_along_translated(house: House) -> None:
    page = house.page("Lamps", body="<p>1848–1851</p><p>Lit <b>twice</b>.</p>")
    uuid = begun(house, page, targets=INTO_FRENCH)
    house.do("ida", lambda a: commissions.send(a, uuid))
    job = look(house, uuid).jobs[0]
    lines = house.desk.read(house.who("ida"), lambda v: table.lines(v, job.uuid, 100))[0]
    assert {one.source: (one.target, one.state) for one in lines} == {
        "Lamps": ("", "initial"),
        "1848–1851": ("1848–1851", "translated"),
        "Lit <1>twice</1>.": ("", "initial"),
    }
    assert (job.done, job.total) == (1, 3)


def test_sentences_are_filled_from_the_memories_that_were_chosen_and_from_no_other(house: House) -> None:
    ids = [house.do("ida", lambda a, n=name: memories.add(a, n)).id for name in ("Ours", "Theirs")]
    segment = units.Segment("s1", ("It was lit each night.",), ("On l’allumait.",))
    with house.desk.db.read() as conn:
        theirs = next(row for row in memory_store.every(conn) if row.name == "Theirs")
    new = memories.new("en", segment, "fr")
    house.do("ida", lambda a: memory_store.keep(a.conn, theirs.id, [new], "imported", a.identity.id, a.now))
    page = house.page("Lamps", body="<p>It was lit each night.</p>")
    for chosen, filled in (([ids[0]], []), ([ids[1]], ["On l’allumait."]), ([], ["On l’allumait."])):
        settings = {"targets": INTO_FRENCH, "fill": True, "memories": chosen, "again": True}
        uuid = begun(house, page, **settings)
        assert counts(house, uuid)[0].words["exact"] == (5 if filled else 0)
        house.do("ida", lambda a, u=uuid: commissions.send(a, u))
        job = look(house, uuid).jobs[0].uuid
        lines = house.desk.read(house.who("ida"), lambda v, j=job: table.lines(v, j, 100))[0]
        assert [one.target for one in lines if one.target] == filled
        assert all(one.state == "initial" for one in lines), "somebody has to look at it"


def test_two_who_send_at_once_send_it_once(house: House) -> None:
    uuid = begun(house, house.page("Lamps"), targets=INTO_FRENCH)
    house.do("ida", lambda a: commissions.send(a, uuid))
    with pytest.raises(InTheWay):
        house.do("ida", lambda a: commissions.send(a, uuid))
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM job").fetchone()[0] == 1


SENTENCES = st.lists(
    st.sampled_from(
        ["It was lit each night.", "The bell rang twice.", "1848–1851.", "灯は毎晩ともされた。", "Lamps!"]
    ),
    min_size=1,
    max_size=12,
)


@given(st.lists(SENTENCES, min_size=1, max_size=5), st.data())
def test_every_word_is_counted_once(texts: list[list[str]], data: st.DataObject) -> None:
    seen: set[str] = set()
    likeness = {}
    for text in texts:
        segments = tuple(units.Segment(f"s{n}", (one,)) for n, one in enumerate(text))
        unit = units.Unit("body.a", segments, {}, "x")
        found = counting.count(
            [unit],
            (),
            lambda _, s: likeness.setdefault(
                s.source, data.draw(st.sampled_from([0, 75, 84, 85, 94, 95, 99, 100, 101]))
            ),
            seen,
        )
        spoken = [one for one in text if not counting.wordless(one)]
        by_words = {k: n for k, n in found.words.items() if k != rates.WORDLESS}
        assert sum(by_words.values()) == sum(units.count_words(one) for one in spoken)
        assert found.words.get(rates.WORDLESS, 0) == len(text) - len(spoken)
        assert set(found.words) <= set(KINDS)
        assert counting.sentences(unit) <= seen
    known = rates.Rates("EUR", Decimal("0.1"), {}, {kind: Decimal(0) for kind in KINDS})
    assert known.cost(dict.fromkeys(KINDS, 9), "fr") == 0


def translated(house: House, uuid: str, by: str = "ida") -> str:
    """Every sentence of the one job of a commission is translated at the table, and put in; returns the job."""
    job = look(house, uuid).jobs[0].uuid
    for line in house.desk.read(house.who("ida"), lambda v: table.lines(v, job, 100))[0]:
        place, edit = Place(line.entry, line.key, line.segment), Edit(f"FR {line.source}", line.target)
        house.do(by, lambda a, p=place, e=edit: table.save(a, job, p, e))
    house.do(by, lambda a: table.deliver(a, job))
    return job


@pytest.mark.parametrize("returns", ["draft", "review"])
def test_what_returns_lands_as_the_commission_says(house: House, returns: str) -> None:
    page = house.page("Lamps")
    uuid = begun(house, page, targets=INTO_FRENCH, returns=returns)
    house.do("ida", lambda a: commissions.send(a, uuid))
    job = translated(house, uuid)
    stages = {stage for stage, _, _, until in house.standing(page, "fr") if until is None}
    assert ("review" in stages) == (returns == "review")
    # Whoever accepts finds it in review already, and signs that.
    found = house.do("ida", lambda a: accepting.accept(a, job))
    assert (found.left, look(house, uuid).line.state) == (0, "closed")
    assert [kind for kind, _ in house.events()].count("review.submitted") == 1


def test_what_others_wrote_in_a_translation_meanwhile_is_not_signed_off_unseen(house: House) -> None:
    translator = [{"name": "translator", "locales": ["fr"]}, {"name": "reader"}]
    house.do("ida", lambda a: people.add_person(a, "lea", "Lea", "lea@x.example", "long enough", translator))
    page, alone = house.signed("Lamps"), house.signed("Bells")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(p, "en") for p in (page, alone)]))
    uuid = begun(house, page, alone, targets=INTO_FRENCH)
    house.do("ida", lambda a: commissions.send(a, uuid))
    job = translated(house, uuid, "lea")

    def write(act: Any) -> Any:
        return entries.save(
            act, page, "fr", {"body": "<p>Autre chose.</p>"}, entries.base_now(act, page, "fr")
        )

    house.do("lea", write)
    with pytest.raises(GateUnmet, match="sign-off"):
        house.do("ida", lambda a: accepting.accept(a, job, onward=Onward(release=True)))
    notes = house.do("ida", lambda a: accepting.accept(a, job)).notes
    assert notes == [
        "“FR Lamps” is accepted and in review, but not signed off: Lea wrote in it meanwhile. Look at all of it and sign it off."
    ]
    # What nobody else wrote in is signed off.
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(alone, "fr")]))
    with pytest.raises(GateUnmet, match="sign-off"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "fr")]))
    head = house.revision(page, "fr")["number"]
    house.do("ida", lambda a: review.sign_off(a, page, "fr", head))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "fr")]))
    assert house.is_out(page, "fr")


def test_what_is_accepted_whole_goes_out_or_into_a_dispatch_by_whoever_may(house: House) -> None:
    reviewer = [{"name": "translation-reviewer"}]
    house.do("ida", lambda a: people.add_person(a, "luc", "Luc", "l@x.example", "long enough", reviewer))
    page = house.signed("Lamps")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    translator = [{"name": "translator", "locales": ["fr"]}, {"name": "reader"}]
    house.do("ida", lambda a: people.add_person(a, "lea", "Lea", "lea@x.example", "long enough", translator))
    uuid = begun(house, page, targets=INTO_FRENCH)
    house.do("ida", lambda a: commissions.send(a, uuid))
    job = translated(house, uuid, "lea")
    with pytest.raises(Refused):
        house.do("luc", lambda a: accepting.accept(a, job, onward=Onward(release=True)))
    assert look(house, uuid).line.state == "sent", "then nothing is accepted"
    some = [(page, "title")]
    with pytest.raises(InTheWay, match="not accepted yet"):
        house.do("ida", lambda a: accepting.accept(a, job, some, onward=Onward(release=True)))
    with pytest.raises(Invalid, match="not both"):
        house.do("ida", lambda a: accepting.accept(a, job, onward=Onward(True, "x")))
    house.do("ida", lambda a: accepting.accept(a, job, onward=Onward(release=True)))
    assert house.is_out(page, "fr")
    other = house.page("Bells")
    second = begun(house, other, targets=INTO_FRENCH)
    house.do("ida", lambda a: commissions.send(a, second))
    job = translated(house, second)
    season = house.do("ida", lambda a: gathering.start(a, About(name="Season")))
    house.do("ida", lambda a: accepting.accept(a, job, onward=Onward(dispatch=season)))
    with house.desk.db.read() as conn:
        row = dispatch_store.by_uuid(conn, season)
        assert row is not None
        assert [(m.title, m.locale) for m in move_store.asked(conn, row.id)] == [("FR Bells", "fr")]
    assert not house.is_out(other, "fr")
