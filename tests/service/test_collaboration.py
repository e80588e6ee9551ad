"""Comments, assignments, presence and notifications: who is told what, how, and what waits for whom."""

from __future__ import annotations

import json
import re
import threading
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.core import timeline
from hawthorn.core.errors import BadTime, InTheWay, Invalid, NotFound, Refused
from hawthorn.core.timeline import SECOND, iso
from hawthorn.followers.mail import Mail
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import assignments, comments, notifications, presence, reassigning
from hawthorn.operations.collaboration.comments import Quote
from hawthorn.operations.content import entries, locales, strands
from hawthorn.operations.release import dispatches, gathering, review, workflows
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.translation import commissions, exporting, importing, sending
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.views import my_work, show_log
from hawthorn.service import openapi
from hawthorn.service.settings import Settings
from hawthorn.store import events, reviews
from tests.conftest import Running, eventually
from tests.service.made import House
from tests.service.test_workflows import flow

DAY = 86400 * SECOND
KEEPS = [{"verb": verb, "types": ["document", "picture"]} for verb in ("read", "write")]
BODY = "<p>Made of brass in Pellgrave.</p><p>Lit each night with colza oil.</p>"


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.by_scheduler(
        lambda a: people.add_person(
            a, "rhea", "Rhea", "rhea@x.example", "long enough", [{"name": "reviewer"}]
        )
    )
    yield made
    made.close()


def save(house: House, page: str, **patch: Any) -> None:
    def do(act: Any) -> None:
        row = entries.store.entry(act.conn, page)
        entries.save(act, page, "en", patch, entries.current_base(act, row.id, "en"))

    house.do("wim", do)


def on(house: House, page: str, who: str = "ida", strand: str = "draft") -> list[dict[str, Any]]:
    return house.desk.read(house.who(who), lambda v: comments.on(v, page, "en", strand))


def told(house: House, who: str) -> list[str]:
    Mail(house.desk, Settings()).step("one")
    return [n["says"] for n in house.desk.read(house.who(who), notifications.mine)["items"]]


def mailed(house: House) -> list[tuple[str, str]]:
    with house.desk.db.read() as conn:
        rows = conn.execute("SELECT recipient, payload FROM outbox ORDER BY id").fetchall()
    return [(r[0].split("@")[0], json.loads(r[1])["subject"]) for r in rows]


def test_a_comment_on_a_passage_follows_it_through_saves_and_says_when_it_is_gone(house: House) -> None:
    page = house.page("Lamp", body=BODY)
    house.do(
        "rhea", lambda a: comments.make(a, page, "en", "Since when?", "body", Quote("colza oil", "with "))
    )
    house.do("rhea", lambda a: comments.make(a, page, "en", "Nice.", "title"))
    house.do("rhea", lambda a: comments.make(a, page, "en", "Who checks?"))
    save(house, page, body="<p>New opening.</p>" + BODY.replace("Lit each night", "Lit every winter night"))
    found = {r["text"]: r for r in on(house, page)}
    at = found["Since when?"]["passage"]
    assert (at["gone"], at["now"], at["index"]) == (False, "colza oil", 2)
    assert (found["Nice."]["label"], found["Nice."]["passage"]) == ("Title", None)
    assert found["Who checks?"]["field"] == ""
    save(house, page, body="<p>Made of brass in Pellgrave.</p>")
    assert on(house, page)[0]["passage"]["gone"] is True
    assert on(house, page)[0]["passage"]["quote"] == "colza oil"


def test_a_comment_in_a_strand_is_about_its_text_and_follows_it_into_the_draft(house: House) -> None:
    page = house.page("Lamp", body=BODY)
    house.do("wim", lambda a: strands.fork(a, page, "en", "Spring"))
    within = house.desk.read(house.who("wim"), lambda v: entries.base_now(v, page, "en", "Spring"))
    new = {"body": BODY + "<p>In spring it burns gas from the quay.</p>"}
    house.do("wim", lambda a: entries.save(a, page, "en", new, within, "", "Spring"))
    gas = Quote("gas from the quay")
    with pytest.raises(Invalid, match="does not stand in one paragraph"):
        house.do("rhea", lambda a: comments.make(a, page, "en", "Is it?", "body", gas))
    house.do("rhea", lambda a: comments.make(a, page, "en", "Is it? @wim", "body", gas, "Spring"))
    house.do("rhea", lambda a: comments.make(a, page, "en", "All of it.", strand="Spring"))
    oil = Quote("colza oil")
    house.do("rhea", lambda a: comments.make(a, page, "en", "Still?", "body", oil, "Spring"))
    house.do("rhea", lambda a: comments.make(a, page, "en", "Since when?", "body", oil))
    there = {c["text"]: c for c in on(house, page, strand="Spring")}
    assert [c["strand"] for c in there.values()] == ["Spring", "Spring", "Spring", ""]
    assert (there["Is it? @wim"]["passage"]["now"], there["Is it? @wim"]["passage"]["index"]) == (
        gas.exact,
        2,
    )
    assert there["Since when?"]["passage"]["now"] == "colza oil", (
        "what is said of the draft is said of it too"
    )
    here = {c["text"]: c for c in on(house, page)}
    assert [c["strand"] for c in here.values()] == ["Spring", "Spring", "Spring", ""]
    assert here["Still?"]["passage"]["gone"], "what is said of the strand's text is not said of the draft's"
    assert here["Is it? @wim"]["passage"]["gone"], "the draft has none of it yet"
    save(house, page, body="<p>New opening.</p>" + BODY)
    found = house.desk.read(house.who("wim"), lambda v: strands.propose(v, page, "en", "Spring"))
    house.do("wim", lambda a: strands.accept(a, page, "en", "Spring", found.etag))
    merged = on(house, page)[0]
    assert (merged["strand"], merged["passage"]["now"], merged["passage"]["index"]) == ("", gas.exact, 3)
    for act in (
        lambda a: comments.make(a, page, "en", "x", strand="Spring"),
        lambda a: comments.on(a, page, "en", "No"),
    ):
        with pytest.raises(NotFound, match="No strand"):
            house.do("rhea", act)


def test_shared_fields_of_a_strand_are_commented_on_there(house: House) -> None:
    quay, page = house.page("Quay"), house.page("Lamp")
    house.do("wim", lambda a: strands.fork(a, page, "en", "Spring"))
    within = house.desk.read(house.who("wim"), lambda v: entries.base_now(v, page, "en", "Spring"))
    house.do("wim", lambda a: entries.save(a, page, "en", {"below": quay}, within, "", "Spring"))
    house.do("rhea", lambda a: comments.make(a, page, "en", "Why there?", "below", strand="Spring"))
    assert [(c["locale"], c["strand"]) for c in on(house, page)] == [("*", "Spring")]


@pytest.mark.parametrize(
    ("field", "quote", "text", "says"),
    [
        ("colour", None, "x", "not a field"),
        ("body", Quote("no such words"), "x", "does not stand in one paragraph"),
        ("body", Quote("Pellgrave.Lit"), "x", "does not stand in one paragraph"),
        ("", Quote("brass"), "x", "say in which field"),
        ("", None, "  ", "between 1 and"),
        ("body:none:text", None, "x", "nothing stands at"),
    ],
)
def test_a_comment_that_is_about_nothing_is_refused(
    house: House, field: str, quote: Quote | None, text: str, says: str
) -> None:
    page = house.page("Lamp", body=BODY)
    with pytest.raises(Invalid, match=says):
        house.do("rhea", lambda a: comments.make(a, page, "en", text, field, quote))
    assert on(house, page) == []


def test_naming_a_colleague_waits_for_them_until_they_answer(house: House) -> None:
    page = house.page("Lamp")

    def waiting(who: str) -> list[str]:
        return [
            w["note"]
            for w in house.desk.read(house.who(who), my_work.my_work)["waiting"]
            if w["kind"] == "named"
        ]

    made = house.do(
        "wim", lambda a: comments.make(a, page, "en", "@oda and @nobody: fine? mail@rhea is none")
    )
    assert waiting("oda") == ["@oda and @nobody: fine? mail@rhea is none"]
    assert waiting("rhea") == []
    house.do("oda", lambda a: comments.reply(a, made, "Fine. @rhea?"))
    assert (waiting("oda"), len(waiting("rhea"))) == ([], 1)
    house.do("wim", lambda a: comments.resolve(a, made))
    assert waiting("rhea") == []
    with pytest.raises(InTheWay, match="Wim resolved it already"):
        house.do("oda", lambda a: comments.resolve(a, made))
    house.do("rhea", lambda a: comments.reply(a, made, "One thing more."))
    assert on(house, page)[0]["resolved_by"] == ""
    assert [r["by"] for r in on(house, page)[0]["replies"]] == ["Oda", "Rhea"]


def test_who_may_not_see_an_entry_is_not_asked_about_it_and_sees_no_comment(house: House) -> None:
    grants = [{"verb": "read", "types": ["picture"]}]
    house.do("ida", lambda a: people.define_role(a, "keeper", "keeper", grants))
    house.by_scheduler(lambda a: people.add_person(a, "kit", "Kit", "", "long enough", [{"name": "keeper"}]))
    page = house.page("Lamp")
    with pytest.raises(Invalid, match="Kit may not see this entry"):
        house.do("wim", lambda a: comments.make(a, page, "en", "@kit please look"))
    made = house.do("wim", lambda a: comments.make(a, page, "en", "Look."))
    for act in (
        lambda a: comments.reply(a, made, "x"),
        lambda a: comments.resolve(a, made),
        lambda a: comments.make(a, page, "en", "x"),
        lambda a: assignments.assign(a, page, "en", "wim"),
        lambda a: presence.here(a, page, "en", "page-of-kit"),
    ):
        with pytest.raises(NotFound):
            house.do("kit", act)
    with pytest.raises(Refused, match="Kit could do nothing with it"):
        house.do("ida", lambda a: assignments.assign(a, page, "en", "kit"))


def test_a_dispatch_is_commented_on_as_a_whole(house: House) -> None:
    page = house.page("Lamp")
    id = house.do("ida", lambda a: gathering.start(a, About("Spring"), [MoveRequest(page, "en")]))

    def on_it(who: str) -> list[tuple[str, list[str], str]]:
        found = house.desk.read(house.who(who), lambda v: comments.on_dispatch(v, id))
        return [(c["text"], [r["text"] for r in c["replies"]], c["resolved_by"]) for c in found]

    def waiting(who: str) -> list[tuple[str, str, str]]:
        found = house.desk.read(house.who(who), my_work.my_work)["waiting"]
        return [(w["id"], w["title"], w["note"]) for w in found if w["kind"] == "named"]

    made = house.do("wim", lambda a: comments.make_on_dispatch(a, id, "@oda: all of it on one day?"))
    assert waiting("oda") == [(id, "Spring", "@oda: all of it on one day?")]
    assert told(house, "oda") == ["Wim names you: Spring"]
    assert told(house, "ida") == ["Wim commented on Spring"], "who answers for it"
    house.do("oda", lambda a: comments.reply(a, made, "Yes."))
    assert (waiting("oda"), told(house, "wim")) == ([], ["Oda replied to a comment on Spring"])
    house.do("wim", lambda a: comments.resolve(a, made))
    assert on_it("ida") == [("@oda: all of it on one day?", ["Yes."], "Wim")]
    assert told(house, "oda")[0] == "Wim resolved a comment on Spring"
    house.do("wim", lambda a: comments.reopen(a, made))
    kinds = [e["kind"] for e in house.desk.read(house.who("ida"), lambda v: log_of(v, id))]
    assert kinds[:4] == ["comment.reopened", "comment.resolved", "comment.replied", "comment.made"]
    assert on(house, page) == [], "it is on the dispatch, and not on what it moves"


def test_whoever_has_left_keeps_nobody_from_hearing_what_is_said_of_a_dispatch(house: House) -> None:
    page = house.page("Lamp")
    id = house.do("ida", lambda a: gathering.start(a, About("Spring"), [MoveRequest(page, "en")]))
    made = house.do("wim", lambda a: comments.make_on_dispatch(a, id, "@oda: all of it on one day?"))
    house.do("oda", lambda a: comments.reply(a, made, "Yes."))
    house.do("ida", lambda a: people.end_person(a, "oda"))
    house.do("ida", lambda a: comments.reply(a, made, "She has left: two days."))
    assert "Ida replied to a comment on Spring" in told(house, "wim")


def test_what_is_held_is_told_though_whoever_planned_it_has_left(house: House) -> None:
    role = [{"name": "managing-editor"}]
    house.do("ida", lambda a: people.add_person(a, "una", "Una", "", "oakum and tide", role))
    page = house.signed("Lamp")
    when = When(instant=iso(house.clock.at + 60 * SECOND))
    id = house.do("una", lambda a: dispatches.make(a, [MoveRequest(page, "en")], when))
    house.do("ida", lambda a: workflows.define(a, flow(sign_offs=2)))
    house.do("ida", lambda a: people.end_person(a, "una"))
    house.later(120)
    assert house.state(id) == "held"
    with house.desk.db.read() as conn:
        (event,) = [e for e in events.after(conn, 0, 1000) if e.kind == "dispatch.held"]
    found = house.desk.read(house.who("ida"), lambda v: notifications.for_event(v, event))
    assert (house.who("ida").id, "held") in {(one.actor, one.code) for one in found}


def test_who_may_not_see_all_of_a_dispatch_learns_nothing_of_what_is_said_of_it(house: House) -> None:
    house.do("ida", lambda a: people.define_role(a, "keeper", "keeper", KEEPS))
    house.by_scheduler(lambda a: people.add_person(a, "kit", "Kit", "", "long enough", [{"name": "keeper"}]))
    page = house.page("Lamp")
    seen = house.do("kit", lambda a: entries.start(a, "document", "en", {"title": "Sail"}))
    both = [MoveRequest(page, "en"), MoveRequest(seen, "en")]
    id = house.do("ida", lambda a: gathering.start(a, About("Spring"), both))
    with pytest.raises(Invalid, match="Kit may not see this dispatch"):
        house.do("wim", lambda a: comments.make_on_dispatch(a, id, "@kit please look"))
    made = house.do("wim", lambda a: comments.make_on_dispatch(a, id, "A secret word."))
    for act in (
        lambda a: comments.reply(a, made, "x"),
        lambda a: comments.resolve(a, made),
        lambda a: comments.make_on_dispatch(a, id, "x"),
    ):
        with pytest.raises(NotFound):
            house.do("kit", act)
    found = house.desk.read(
        house.who("kit"), lambda v: show_log.page(v, show_log.Filter(entry=seen), 1 << 62, 50)
    )
    assert "comment.made" in [e["kind"] for e in found["items"]]
    assert "secret" not in json.dumps(found)


def test_a_reader_of_one_language_is_not_told_what_is_said_of_a_dispatch_of_another(house: House) -> None:
    house.do(
        "ida",
        lambda a: locales.define(a, [{"tag": "en", "name": "English"}, {"tag": "fr", "name": "French"}]),
    )
    house.do("ida", lambda a: people.define_role(a, "fr", "fr", [{"verb": "read", "locales": ["fr"]}]))
    house.by_scheduler(lambda a: people.add_person(a, "kit", "Kit", "", "long enough", [{"name": "fr"}]))
    page = house.page("Lamp")
    house.do(
        "ida", lambda a: entries.save(a, page, "fr", {"title": "La lampe"}, entries.Base(None, None), "")
    )
    id = house.do("ida", lambda a: gathering.start(a, About("Spring"), [MoveRequest(page, "en")]))
    house.do("wim", lambda a: comments.make_on_dispatch(a, id, "A secret word."))
    wanted = show_log.Filter(entry=page)
    found = house.desk.read(house.who("kit"), lambda v: show_log.page(v, wanted, 1 << 62, 50))
    assert "comment.made" in [e["kind"] for e in found["items"]]
    assert "secret" not in json.dumps(found)


def log_of(view: Any, dispatch: str) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = show_log.page(view, show_log.Filter(dispatch=dispatch), 1 << 62, 50)[
        "items"
    ]
    return found


def test_an_assignment_is_reassigned_due_late_and_done(house: House) -> None:
    page = house.page("Lamp")
    today = timeline.to_datetime(house.clock.at).date()

    def due(days: int) -> str:
        return (today + timedelta(days=days)).isoformat()

    def due_in_words(days: int) -> str:
        day = today + timedelta(days=days)
        return f"{day:%a} {day.day} {day:%b %Y}"

    def assigned(who: str, *, by: bool = False) -> list[tuple[str, str]]:
        work = house.desk.read(house.who(who), my_work.my_work)
        lines = work["assigned_to_others"] if by else work["assigned_to_you"]
        return [(x["title"], x["state"]) for x in lines]

    with pytest.raises(Invalid, match="is no day"):
        house.do("oda", lambda a: assignments.assign(a, page, "en", "wim", "tomorrow"))
    with pytest.raises(BadTime, match="is past"):
        house.do("oda", lambda a: assignments.assign(a, page, "en", "wim", due(-1)))
    house.do("oda", lambda a: assignments.assign(a, page, "en", "wim", due(3), "Shorter."))
    with pytest.raises(InTheWay, match="Wim has it already"):
        house.do("oda", lambda a: assignments.assign(a, page, "en", "wim", due(3), "Shorter."))
    assert assigned("wim") == [("Lamp", "")]
    assert assigned("oda", by=True) == [("Lamp", "")]
    assert house.by_scheduler(assignments.remind) == 0
    house.clock.at += 2 * DAY
    assert house.by_scheduler(assignments.remind) == 1
    assert house.by_scheduler(assignments.remind) == 0
    assert assigned("wim") == [("Lamp", "due")]
    house.clock.at += 2 * DAY
    assert house.by_scheduler(assignments.remind) == 1
    assert assigned("wim") == [("Lamp", "late")]
    with pytest.raises(BadTime, match="is past"):
        house.do("wim", lambda a: assignments.assign(a, page, "en", "rhea", due(2)))
    house.do("wim", lambda a: assignments.assign(a, page, "en", "ida", due(3)))
    assert assigned("ida") == [("Lamp", "late")], "what is late is handed on with its day"
    house.do("ida", lambda a: assignments.assign(a, page, "en", "wim", due(3)))
    house.do("wim", lambda a: assignments.assign(a, page, "en", "rhea", due(9)))
    assert (assigned("wim"), assigned("rhea")) == ([], [("Lamp", "")])
    house.do("rhea", lambda a: assignments.end(a, page, "en", True))
    with pytest.raises(InTheWay, match="It is assigned to nobody"):
        house.do("rhea", lambda a: assignments.end(a, page, "en", True))
    assert told(house, "wim") == [
        "Lamp is done", f"Assigned to you: Lamp, due on {due_in_words(3)}",
        "Late: Lamp", "Due: Lamp", f"Assigned to you: Lamp, due on {due_in_words(3)}",
    ]  # fmt: skip
    assert "Late: Lamp" in told(house, "oda")
    assert told(house, "rhea") == [f"Assigned to you: Lamp, due on {due_in_words(9)}"]


def test_what_is_late_is_told_though_whoever_assigned_it_has_left(house: House) -> None:
    page = house.page("Lamp")
    today = timeline.to_datetime(house.clock.at).date()
    house.do(
        "oda", lambda a: assignments.assign(a, page, "en", "wim", (today + timedelta(days=3)).isoformat())
    )
    house.do("ida", lambda a: people.end_person(a, "oda"))
    house.clock.at += 5 * DAY
    assert house.by_scheduler(assignments.remind) == 1
    assert "Late: Lamp" in told(house, "ida")


def test_only_who_must_decide_is_told_and_nobody_of_their_own_act(house: House) -> None:
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en", "Please."))
    assert told(house, "oda") == ["For review: Lamp"]
    assert told(house, "rhea") == ["For review: Lamp"]
    assert told(house, "wim") == []
    house.do("oda", lambda a: review.sign_off(a, page, "en", 1))
    assert told(house, "wim") == ["Signed off: Lamp"]
    assert told(house, "ida")[0] == "Ready to go out: Lamp"
    assert told(house, "oda") == ["For review: Lamp"]
    assert ("wim", "Signed off: Lamp") in mailed(house)


def test_each_chooses_how_to_hear_and_the_digest_gathers_what_waits(house: House) -> None:
    page = house.page("Lamp")
    house.do("wim", lambda a: notifications.choose(a, {"named": "digest", "decided": "not at all"}, 7))
    house.do("oda", lambda a: notifications.choose(a, {"review": "only here"}, None))
    with pytest.raises(Invalid, match="is none of"):
        house.do("oda", lambda a: notifications.choose(a, {"review": "by pigeon", "x": "digest"}, 24))
    for text in ("@wim one", "@wim two"):
        house.do("oda", lambda a, t=text: comments.make(a, page, "en", t))
    house.do("wim", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.send_back(a, page, "en", "Shorter."))
    assert told(house, "wim") == ["Oda names you: Lamp"] * 2
    assert told(house, "oda") == ["For review: Lamp"]
    assert {to for to, _ in mailed(house)} == {"ida", "rhea"}
    options = Settings(smtp_host="127.0.0.1", smtp_port=1, public="http://h")
    Mail(house.desk, options).step("one")
    assert "wim" not in {to for to, _ in mailed(house)}
    house.clock.at += DAY
    Mail(house.desk, options).step("one")
    Mail(house.desk, options).step("one")
    mine = [subject for to, subject in mailed(house) if to == "wim"]
    assert mine == ["2 notifications since the last digest"]
    with house.desk.db.read() as conn:
        body = json.loads(conn.execute("SELECT payload FROM outbox ORDER BY id DESC LIMIT 1").fetchone()[0])[
            "body"
        ]
    assert body.count(f"http://h/entries/{page}/en?comment=") == 2
    seen = house.do("wim", lambda a: notifications.see(a, entry=page))
    assert seen == 2
    assert house.desk.read(house.who("wim"), notifications.mine)["new"] == 0


def test_presence_comes_moves_goes_and_fades(house: House) -> None:
    page = house.page("Lamp")

    def here(who: str = "ida") -> list[tuple[str, str, bool]]:
        found = house.desk.read(house.who(who), lambda v: presence.with_entry(v, page))
        return [(p.name, p.field, p.typing) for p in found]

    before = house.events()
    house.do("wim", lambda a: presence.here(a, page, "en", "page-of-wim"))
    house.do("oda", lambda a: presence.here(a, page, "en", "page-of-oda", "title"))
    house.do("wim", lambda a: presence.here(a, page, "en", "page-of-wim", "body", True))
    assert here() == [("Wim", "body", True), ("Oda", "title", False)]
    house.do("oda", lambda a: presence.here(a, page, "en", "page-of-oda", "title", strand="Spring"))
    found = house.desk.read(house.who("ida"), lambda v: presence.with_entry(v, page))
    assert [(p.name, p.strand) for p in found] == [("Wim", "draft"), ("Oda", "Spring")]
    house.do("oda", lambda a: presence.gone(a, "page-of-wim"))  # nobody closes the page of another
    house.do("oda", lambda a: presence.gone(a, "page-of-oda"))
    assert here() == [("Wim", "body", True)]
    house.clock.at += presence.LASTS + SECOND
    assert here() == []
    assert house.events() == before


def test_the_stream_tells_of_presence_and_notifications_and_resumes_without_a_gap(running: Running) -> None:
    entry = running.notice("Told by the stream")
    oda = running.as_("oda")
    lines: list[str] = []
    ready, stop = threading.Event(), threading.Event()

    def listen(headers: dict[str, str]) -> None:
        with oda._http.stream("GET", "/events", headers=headers, timeout=30) as answer:
            ready.set()
            for line in answer.iter_lines():
                lines.append(line)
                if stop.is_set():
                    return

    thread = threading.Thread(target=listen, args=({},), daemon=True)
    thread.start()
    ready.wait(10)
    eventually(lambda: lines)
    running.as_("wim").be_present(entry.id, "en", "page-of-the-stream", field="title")
    eventually(lambda: "event: presence" in lines)
    running.as_("wim").submit(entry.id, "en")
    eventually(lambda: "event: notifications" in lines)
    eventually(lambda: any('"review.submitted"' in line for line in lines))
    last = next(line for line in lines if line.startswith("id: ")).removeprefix("id: ")
    stop.set()
    running.as_("wim").take_back(entry.id, "en")
    thread.join(10)
    missed: list[str] = []
    with oda._http.stream("GET", "/events", headers={"Last-Event-ID": last}, timeout=30) as answer:
        for line in answer.iter_lines():
            missed.append(line)
            if '"review.taken-back"' in line:
                break
    ids = [int(line.removeprefix("id: ")) for line in missed if line.startswith("id: ")]
    assert ids == sorted(set(ids))
    assert ids[0] > int(last)


def test_the_log_is_read_by_filter_and_tells_nobody_what_is_not_theirs(running: Running) -> None:
    entry = running.signed("Filtered in the log")
    other = running.signed("Not for everybody's log")
    both = [{"id": entry.id, "locale": "en"}, {"id": other.id, "locale": "en"}]
    running.as_("jonas").dispatch(both)
    ida, wim = running.as_("ida"), running.as_("wim")
    mine = wim.events(person="wim", kind="review.", limit=5).items
    assert {e.by for e in mine} == {"Wim Aster"}
    assert all(e.kind.startswith("review.") for e in mine)
    for kind in ({"kind": "review."}, {"person": "tomas"}):
        with pytest.raises(Exception, match="may not set up"):
            wim.events(**kind)
    whole = ida.events(entry=entry.id, kind="dispatch.gone").items[0].what
    part = wim.events(entry=entry.id, kind="dispatch.gone").items[0].what
    assert {m["entry"] for m in whole["moves"]} == {entry.id, other.id}
    assert {m["entry"] for m in part["moves"]} == {entry.id}
    assert "stood" in whole
    assert "stood" not in part
    today = ida.events(limit=1).items[0].at[:10]
    assert ida.events(since=today, limit=3).items
    assert ida.events(until="2001-01-01").items == []
    first = ida.events(person="tomas", limit=2)
    after = ida.events(person="tomas", limit=2, cursor=first.next)
    assert not {e.seq for e in first.items} & {e.seq for e in after.items}


def test_what_is_others_is_not_there_through_any_route(running: Running) -> None:
    """Somebody who may read pictures alone asks every route for things of others by their ids."""
    ida = running.as_("ida")
    ida.define_roles(
        [{"name": "keeper", "label": "Keeper", "grants": [{"verb": "read", "types": ["picture"]}]}]
    )
    made = ida.invite_person("kit", "Kit Orme", "kit@pellgrave.example", [{"name": "keeper"}])
    entry = running.signed("Only for some")
    comment = running.as_("wim").comment(entry.id, "en", "Is it right?").id
    session = running.as_("wim").sessions().items[0].id
    when = {"wall": "2098-02-01T09:00", "zone": "UTC"}
    dispatch = running.as_("ida").dispatch([{"id": entry.id, "locale": "en"}], when=when).id
    job = running.as_("mina").commission([entry.id], ["fr"]).jobs[0].id
    document = json.loads(openapi.FILE.read_text("utf-8"))
    with httpx.Client(base_url=running.url) as kit:
        token = made.address.rsplit("=", 1)[1]
        assert kit.post(
            "/api/invitation/accept", json={"token": token, "password": "the tide turns"}
        ).is_success
        state = running.as_("ida").entry(entry.id, "en")
        tried = 0
        for path, methods in document["paths"].items():
            for method in methods:
                if "{id}" not in path or not path.startswith("/api/") or path.startswith("/api/keys"):
                    continue
                things = [comment] if "/comments/{id}" in path else [session] if "sessions" in path else []
                things = things or (
                    [dispatch] if "dispatches" in path else [job] if "/jobs/" in path else [entry.id]
                )
                for thing in things:
                    url = path.replace("{id}", thing).replace("{locale}", "en").replace("{name}", "draft")
                    body = {"text": "x", "handle": "kit", "locale": "en", "page": "page-of-kit", "reason": "x",
                            "revision": 1, "stage": "release", "fields": {}, "name": "x", "typed": {}, "decisions": {},
                            "take": "ours", "entry": entry.id, "key": "x", "instant": "2098-01-01T00:00:00Z"}  # fmt: skip
                    headers = {"If-Match": state.etag}
                    answer = kit.request(method, url, json=body, headers=headers)
                    tried += 1
                    assert answer.status_code in (403, 404, 405, 409, 422), (
                        f"{method} {path}: {answer.status_code}"
                    )
                    assert "Only for some" not in answer.text, f"{method} {path} tells the title"
                    assert "Is it right?" not in answer.text
        assert tried > 40
        for path in (
            "/api/entries",
            "/api/my-work",
            "/api/notifications",
            "/api/dispatches",
            "/api/jobs",
            "/api/outline",
        ):
            assert "Only for some" not in kit.get(path).text, path
    after = running.as_("ida").entry(entry.id, "en")
    assert (after.etag, after.comments_open, after.assignment) == (state.etag, 1, None)
    ida.cancel_dispatch(dispatch)
    ida.end_person("kit")


def test_every_kind_of_event_has_words_in_the_console() -> None:
    root = Path(__file__).parents[2]
    words = json.loads((root / "console" / "src" / "messages" / "en.events.json").read_text("utf-8"))["event"]
    sources = "\n".join(p.read_text("utf-8") for p in (root / "src" / "hawthorn").rglob("*.py"))
    kinds = set(re.findall(r'(?:event|_told)\(\s*(?:act, )?"([a-z]+\.[a-z-]+)"', sources))
    assert len(kinds) > 50
    assert {k for k in kinds if k.replace(".", "_") not in words} == set()


def what_is_open(house: House, handle: str) -> list[tuple[str, str, str]]:
    """The kinds, names and days of what somebody has to do."""
    found = house.desk.read(house.who("ida"), lambda v: reassigning.tasks(v, handle))
    return [(one.kind, one.name, one.due) for one in found]


def test_what_somebody_has_to_do_is_listed_and_given_to_somebody_else(house: House) -> None:
    house.speaks(fr="French")
    for handle, role in (("una", "managing-editor"), ("ned", "writer")):
        roles = [{"name": role}]
        house.do(
            "ida", lambda a, h=handle, r=roles: people.add_person(a, h, h.title(), "", "oakum and tide", r)
        )
    page = house.page("Lamp")
    day = (timeline.to_datetime(house.clock.at).date() + timedelta(days=3)).isoformat()
    house.do("oda", lambda a: assignments.assign(a, page, "en", "una", day, "Shorter."))
    uuid = house.do("ida", lambda a: commissions.open_one(a, "French lamps"))
    house.do("ida", lambda a: commissions.put(a, uuid, [page]))
    house.do("ida", lambda a: commissions.change(a, uuid, {"targets": [{"locale": "fr", "person": "una"}]}))
    house.do("ida", lambda a: commissions.send(a, uuid))
    house.do("una", lambda a: gathering.start(a, About("Spring"), [MoveRequest(page, "en")]))
    house.do("una", lambda a: commissions.open_one(a, "Hers"))
    gate = flow(sign_offs=1)
    gate["stages"][-1]["gate"]["people"] = ["una"]
    house.do("ida", lambda a: workflows.define(a, gate))
    every = [
        ("assignment", "Lamp", day),
        ("job", "French lamps", ""),
        ("dispatch", "Spring", ""),
        ("commission", "Hers", ""),
        ("gate", "Standard: gate before Release", ""),
    ]
    assert what_is_open(house, "una") == every
    with pytest.raises(Refused, match="set up"):
        house.desk.read(house.who("oda"), lambda v: reassigning.tasks(v, "una"))
    with pytest.raises(InTheWay, match="to themselves"):
        house.do("ida", lambda a: reassigning.reassign(a, "una", "una"))
    found = house.do("ida", lambda a: reassigning.reassign(a, "una", "ned"))
    stays = [(one.task.kind, one.why) for one in found.left]
    assert (found.moved, stays) == (3, [("commission", "Ned may commission nothing.")])
    assert [kind for kind, *_ in what_is_open(house, "ned")] == ["assignment", "job", "dispatch"]
    house.do("ida", lambda a: people.end_person(a, "una"))
    assert [kind for kind, *_ in what_is_open(house, "una")] == ["commission", "gate"], "of one who has left"
    assert house.do("ida", lambda a: reassigning.reassign(a, "una", "ida")).left == []
    assert [kind for kind, *_ in what_is_open(house, "una")] == ["gate"]
    kept = [
        (one["title"], one["due"], one["note"])
        for one in house.desk.read(house.who("ned"), my_work.my_work)["assigned_to_you"]
    ]
    assert kept == [("Lamp", day, "Shorter.")]


def waits_for(house: House, who: str) -> list[tuple[str, str]]:
    """The kinds and titles of what waits for somebody."""
    found = house.desk.read(house.who(who), my_work.my_work)["waiting"]
    return [(one["kind"], one["title"]) for one in found]


def test_what_waits_for_somebody_is_found_however_much_waits_for_others(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What a person may decide is asked of the records; it is not looked for among the first of all that there is."""
    monkeypatch.setattr(reviews, "MOST", 3)
    monkeypatch.setattr(my_work, "_LOOKED_AT", 3)
    house.speaks(de="German")
    everything = {"verb": "read"}
    for handle, verb in (("signe", "sign"), ("rolf", "release"), ("anna", "accept")):
        grants = [everything, {"verb": verb, "locales": ["de"]}]
        house.do("ida", lambda a, h=handle, g=grants: people.define_role(a, h, h, g))
        house.do(
            "ida",
            lambda a, h=handle: people.add_person(a, h, h.title(), "", "oakum and tide", [{"name": h}]),
        )

    def german(title: str) -> str:
        page = house.do(
            "ida", lambda a: entries.start(a, "page", "de", {"title": title, "body": "<p>Wort.</p>"})
        )
        house.do("ida", lambda a: review.submit(a, page, "de"))
        return page

    for n in range(5):
        house.do("wim", lambda a, p=house.page(f"Before {n}"): review.submit(a, p, "en"))
    ready = german("Fertig")
    house.do("oda", lambda a: review.sign_off(a, ready, "de", 1))
    order = Order((house.page("Lamps"),), ("de",))
    house.do("ida", lambda a: sending.commission(a, order))
    with house.desk.db.read() as conn:
        (job,) = [row[0] for row in conn.execute("SELECT uuid FROM job")]
    file = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))[1]
    whole = re.sub(rb"(<source>(.*?)</source>)", rb"\1<target>\2</target>", file)
    house.do("ida", lambda a: importing.import_file(a, job, whole))
    german("Zu lesen")
    for n in range(5):
        house.signed(f"After {n}")
        house.do("ida", lambda a, p=house.page(f"More {n}"): sending.commission(a, Order((p,), ("de",))))
    assert waits_for(house, "signe") == [("review", "Zu lesen")]
    assert waits_for(house, "rolf") == [("ready", "Fertig")]
    assert waits_for(house, "anna") == [("translation", "Lamps")]
