"""What goes wrong with one thing stops nothing else; a stop is answered honestly; the stream tells each what they may know."""

from __future__ import annotations

import contextlib
import http.client
import json
import re
import socket
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import expressions, happenings, timeline
from hawthorn.core.errors import BadTime, Invalid
from hawthorn.core.timeline import SECOND
from hawthorn.messages import ENGLISH
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import assignments, news, notifications, presence
from hawthorn.operations.content import entries
from hawthorn.operations.release import applying, dispatches, review, workflows
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.runtime.bootstrap import STANDARD
from hawthorn.service import live, stopping
from hawthorn.store import definitions
from tests.conftest import eventually
from tests.service.made import House, serving


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def custom_check(house: House, holds: str) -> None:
    """A workflow with a custom check before release."""
    stages = [dict(s) for s in STANDARD["stages"]]
    own = [{"name": "odd", "holds": holds, "says": "It is odd."}]
    stages[-1] = {**stages[-1], "gate": {**stages[-1]["gate"], "custom": own}}
    house.do("ida", lambda a: workflows.define(a, {**STANDARD, "stages": stages}))


# -- one dispatch ------------------------------------------------------------------------------------------------


def test_a_dispatch_that_raises_is_held_with_the_reason_and_stops_nothing(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    odd, fine = house.signed("Odd"), house.signed("Fine")
    first, second = house.plan([odd], 60), house.plan([fine], 60)
    whole = applying.apply

    def apply(act: Any, planned: Any, instant: int, id: int) -> None:
        if any(o.edition == edition for o in planned.openings):
            whole(act, planned, instant, id)
            raise ZeroDivisionError("it cannot be divided")
        whole(act, planned, instant, id)

    with house.desk.db.read() as conn:
        edition = entries.store.edition(conn, entries.store.entry(conn, odd).id, "en").id
    monkeypatch.setattr(applying, "apply", apply)
    house.later(61)
    assert (house.state(first), house.state(second)) == ("failed", "gone")
    assert not house.is_out(odd), "nothing of it went"
    assert house.is_out(fine)
    with house.desk.db.read() as conn:
        held = json.loads(conn.execute("SELECT held FROM dispatch WHERE uuid = ?", (first,)).fetchone()[0])
    assert "it cannot be divided" in held[0]["unmet"][0]["what"]
    house.page("Saved all the same")
    told = house.desk.read(
        house.who("ida"),
        lambda v: [
            n
            for row in news.events.after(v.conn, 0)
            for n in notifications.for_event(v, row)
            if n.kind == "dispatch"
        ],
    )
    assert [ENGLISH.text(n.says) for n in told] == ["Held: Release Odd"], "and whoever planned it is told"


@pytest.mark.parametrize(
    ("holds", "title"),
    [
        ("words(title) > 0", "<html>"),
        ("size(title) % 1e-310 == 0", "Lamp"),
        ("size(title) / 1e-310 > 1", "Lamp"),
    ],
)
def test_a_check_that_meets_what_it_cannot_work_out_stops_no_write(
    house: House, holds: str, title: str
) -> None:
    page = house.signed(title)
    dispatch = house.plan([page], 60)
    try:
        custom_check(house, holds.replace("1e-310", "0." + "0" * 309 + "1"))
    except Invalid:
        pytest.skip("it is refused where it is written")
    house.later(61)
    house.page("Saved all the same")
    assert house.state(dispatch) in ("gone", "held")


NUMBERS = [
    "0",
    "1",
    "7",
    "0.5",
    "0." + "0" * 300 + "1",
    "999999999999999",
    "n",
    "title",
    "[]",
    "body",
    '"<html>"',
    '"a < b"',
    "null",
    "true",
]


@given(
    st.recursive(
        st.sampled_from(NUMBERS),
        lambda inner: st.one_of(
            st.builds(
                "({} {} {})".format,
                inner,
                st.sampled_from(["+", "-", "*", "/", "%", "<", "==", "in", "&&"]),
                inner,
            ),
            st.builds("{}({})".format, st.sampled_from(["size", "text", "words", "has"]), inner),
            st.builds("-{}".format, inner),
            st.builds("{}[{}]".format, inner, inner),
        ),
        max_leaves=6,
    ),
    st.sampled_from([0, 1, -3, 1e308, 5e-324, float("inf"), 10**400]),
    st.sampled_from(["<html>", "<", "<p>", "<!--", "\x00", "a < b > c", "<p>Fine.</p>", "</div>" * 50]),
)
def test_an_expression_fails_in_one_way_only(source: str, number: float, text: str) -> None:
    try:
        node = expressions.parse(source)
    except Invalid:
        return
    with contextlib.suppress(expressions.Unworkable):
        expressions.holds(node, {"n": number, "title": text, "body": "<p>Two words</p>"})


def test_plain_text_keeps_its_signs_when_words_are_counted() -> None:
    assert expressions.holds(expressions.parse("words(title) == 3"), {"title": "a < b"})
    assert expressions.holds(
        expressions.parse("words(body) == 2"), {"body": "<p>Two <strong>words</strong></p>"}
    )


# -- times that are no more --------------------------------------------------------------------------------------


def test_a_wall_time_that_is_no_more_keeps_its_instant_and_its_planner_is_told(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    odd, fine = house.signed("Odd"), house.signed("Fine")
    plans = [
        house.do(
            "ida",
            lambda a, u=uuid, z=zone: dispatches.make(
                a, [MoveRequest(u, "en")], When(wall="2027-03-31T09:00", zone=z)
            ),
        )
        for uuid, zone in ((odd, "Europe/London"), (fine, "Europe/Paris"))
    ]
    resolve = timeline.resolve_wall

    def changed(wall: str, zone: str, fold: str = "") -> timeline.PlannedTime:
        if zone == "Europe/London":
            raise BadTime("timeline.not_in_calendar", wall=wall)
        found = resolve(wall, zone, fold)
        return timeline.PlannedTime(found.instant + 3600 * SECOND, found.wall, found.zone, found.fold)

    with house.desk.db.read() as conn:
        before = dict(conn.execute("SELECT uuid, instant FROM dispatch").fetchall())
    monkeypatch.setattr(timeline, "resolve_wall", changed)
    assert house.by_scheduler(dispatches.resolve_again) == 1
    with house.desk.db.read() as conn:
        now = {r["uuid"]: (r["instant"], r["trouble"]) for r in conn.execute("SELECT * FROM dispatch")}
    assert now[plans[0]] == (
        before[plans[0]],
        "“2027-03-31T09:00” is not in the calendar. Check the day and the hour.",
    )
    assert now[plans[1]] == (before[plans[1]] + 3600 * SECOND, "")
    assert [k for k, _ in house.events()].count("dispatch.unresolved") == 1
    house.by_scheduler(dispatches.resolve_again)
    assert [k for k, _ in house.events()].count("dispatch.unresolved") == 1, "once"
    monkeypatch.setattr(timeline, "resolve_wall", resolve)
    house.by_scheduler(dispatches.resolve_again)
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM dispatch WHERE trouble <> ''").fetchone()[0] == 0


def test_a_zone_that_this_machine_does_not_have_stops_no_reminder(house: House) -> None:
    page = house.page("Lamp")
    house.do("ida", lambda a: assignments.assign(a, page, "en", "wim", "2027-02-01", ""))
    house.desk.db.write(lambda c: c.execute("UPDATE actor SET zone = 'Atlantis/Deep' WHERE handle = 'wim'"))
    house.clock.at = timeline.parse_instant("2027-02-03T00:00:00Z")
    house.by_scheduler(assignments.remind)
    assert ("assignment.late", "scheduler") in house.events()


# -- stopping ----------------------------------------------------------------------------------------------------


@contextmanager
def logged_in(url: str) -> Iterator[httpx.Client]:
    with httpx.Client(base_url=url, timeout=60) as http:
        http.headers["Authorization"] = f"Bearer {token(url, 'ida')}"
        yield http


def started(http: httpx.Client, title: str) -> httpx.Response:
    return http.post("/api/entries", json={"type": "page", "fields": {"title": title}})


def test_what_is_under_way_when_the_service_stops_is_answered(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    slow = threading.Event()
    whole = entries.start

    def start(*given: Any, **more: Any) -> str:
        slow.set()
        time.sleep(4)  # longer than it once was given
        return whole(*given, **more)

    with serving(house) as (server, url), logged_in(url) as http, ThreadPoolExecutor(1) as workers:
        monkeypatch.setattr(entries, "start", start)
        saving = workers.submit(started, http, "Under way")
        slow.wait(10)
        server.stop()
        answer = saving.result(30)
    assert answer.status_code == 201
    assert answer.headers["connection"] == "close"


def test_what_is_not_known_is_said_to_be_not_known(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    """It takes longer than a stop waits: it was committed after all, and nobody claims that nothing was changed."""
    monkeypatch.setattr(stopping, "PATIENCE", 1)
    slow = threading.Event()
    whole = entries.start

    def start(*given: Any, **more: Any) -> str:
        slow.set()
        time.sleep(3)
        return whole(*given, **more)

    with serving(house) as (server, url), logged_in(url) as http, ThreadPoolExecutor(1) as workers:
        monkeypatch.setattr(entries, "start", start)
        saving = workers.submit(started, http, "Perhaps")
        slow.wait(10)
        server.stop()
        answer = saving.result(30)
    assert answer.status_code == 503
    assert "may have been done or not" in answer.json()["detail"]
    assert "Look whether it was saved" in answer.json()["remedy"]
    eventually(lambda: ("entry.started", "person") in house.events())


def test_a_fault_after_a_save_does_not_claim_that_nothing_was_changed(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    from hawthorn.service.routes.content import entries as routes

    with serving(house) as (_, url), logged_in(url) as http:
        monkeypatch.setattr(routes.show, "entry", lambda *_: 1 / 0)
        answer = started(http, "Lamp")
    assert answer.status_code == 500
    assert "may have been done or not" in answer.json()["detail"]


def test_many_clients_are_answered_or_find_nobody_and_are_not_cut_off(house: House) -> None:
    page = house.page("Lamp")
    outcomes: list[str] = []
    stop = threading.Event()

    def work(url: str, token: str) -> None:
        headers = {"Authorization": token}
        with httpx.Client(base_url=url, headers=headers, timeout=30) as http:
            while not stop.is_set():
                try:
                    answer = http.get(f"/api/entries/{page}/en")
                    outcomes.append(
                        "answered" if answer.status_code in (200, 503) else str(answer.status_code)
                    )
                except httpx.ConnectError:
                    outcomes.append("nobody")
                    return
                except httpx.HTTPError as error:
                    outcomes.append(type(error).__name__)
                    return

    with serving(house) as (server, url), logged_in(url) as http:
        token = http.headers["Authorization"]
        workers = [threading.Thread(target=work, args=(url, token), daemon=True) for _ in range(40)]
        for worker in workers:
            worker.start()
        eventually(lambda: outcomes.count("answered") > 120, 60)
        server.stop()
        for worker in workers:
            worker.join(30)
    stop.set()
    counts = {o: outcomes.count(o) for o in set(outcomes)}
    # Whoever writes to a quiet connection in the very moment in which it is closed cannot be told in time; RFC 9112,
    # section 9.3.1, has them ask again. Before, more than half of them were cut off.
    cut_off = len(outcomes) - counts["answered"] - counts.get("nobody", 0)
    assert cut_off <= 2, counts
    assert counts["nobody"] >= 38


def test_who_was_let_in_or_answered_a_moment_ago_is_waited_for(house: House) -> None:
    """Whoever is in the middle of something asks again within a second, and is told then to come back by another connection."""
    with serving(house) as (server, url):
        lines = [http.client.HTTPConnection(url.removeprefix("http://"), timeout=20) for _ in range(3)]
        answered, let_in, gone = lines
        answered.request("GET", "/api/health")
        answered.getresponse().read()
        let_in.connect()
        gone.connect()
        gone.close()
        server.stop()
        time.sleep(2 * stopping.LAST_CALL)
        for line in (answered, let_in):
            line.request("GET", "/api/health")
            answer = line.getresponse()
            assert (answer.status, answer.headers["connection"]) == (200, "close")
            line.close()


def test_nobody_is_let_in_who_would_be_cut_off(house: House) -> None:
    """Whoever knocks while it stops finds nobody, and is not let in first."""
    with serving(house) as (server, url):
        host, port = url.removeprefix("http://").split(":")
        with socket.create_connection((host, int(port))):
            server.stop()
            eventually(lambda: server.stopping.begun)  # type: ignore[attr-defined]
            time.sleep(0.1)
            with pytest.raises(ConnectionRefusedError):
                socket.create_connection((host, int(port)), timeout=30).close()


def test_streams_end_first_so_that_a_stop_takes_no_time(house: House) -> None:
    with serving(house) as (server, url), logged_in(url) as http:
        ended = threading.Event()
        begun = threading.Event()

        def listen() -> None:
            with http.stream("GET", "/events") as stream:
                for _ in stream.iter_lines():
                    begun.set()
            ended.set()

        threading.Thread(target=listen, daemon=True).start()
        assert begun.wait(10)
        at = time.monotonic()
        server.stop()
        assert ended.wait(10)
        assert time.monotonic() - at < 5


# -- the stream --------------------------------------------------------------------------------------------------


class Ear:
    """Somebody who listens."""

    def __init__(self, url: str, token: str, after: int | None = None) -> None:
        self.lines: list[str] = []
        self.over = threading.Event()
        headers = {"Authorization": f"Bearer {token}"} | (
            {} if after is None else {"Last-Event-ID": str(after)}
        )
        self._thread = threading.Thread(target=self._listen, args=(url, headers), daemon=True)
        self._thread.start()
        eventually(lambda: self.lines)

    def _listen(self, url: str, headers: dict[str, str]) -> None:
        try:
            with httpx.stream("GET", f"{url}/events", headers=headers, timeout=30) as answer:
                for line in answer.iter_lines():
                    self.lines.append(line)
        except httpx.HTTPError:
            pass
        self.over.set()

    def heard(self, name: str = "") -> list[dict[str, Any]]:
        """The data of the events of a name, or of the log."""
        out, kind = [], ""
        for line in self.lines:
            if line.startswith("event: "):
                kind = line.removeprefix("event: ")
            elif line.startswith("data: "):
                if kind == name:
                    out.append(json.loads(line.removeprefix("data: ")))
                kind = ""
        return out


def token(url: str, handle: str) -> str:
    body = {"handle": handle, "password": "long enough"}
    return str(httpx.post(f"{url}/api/session", json=body).json()["token"])


def test_the_stream_says_what_changed_and_each_hears_only_of_theirs(house: House) -> None:
    house.desk.db.write(lambda c: definitions.add_locale(c, "fr", "Français"))
    house.desk.db.write(lambda c: definitions.set_setting(c, "setup", "50"))
    role = {"name": "french", "label": "French only", "grants": [{"verb": "read", "locales": ["fr"]}]}
    house.do("ida", lambda a: people.define_role(a, **role))
    house.do("ida", lambda a: people.add_person(a, "luc", "Luc", "", "long enough", [{"name": "french"}]))
    page = house.page("Lamp")
    with serving(house) as (_, url):
        ida, wim, luc = (Ear(url, token(url, who)) for who in ("ida", "wim", "luc"))
        house.do("wim", lambda a: review.submit(a, page, "en"))
        house.do("wim", lambda a: presence.here(a, page, "en", "page-of-wim", "title"))
        house.do("ida", lambda a: people.add_person(a, "new", "New", "", "long enough", []))
        eventually(lambda: any(e["kind"] == "person.added" for e in ida.heard()))
        said = next(e for e in ida.heard() if e["kind"] == "review.submitted")
        assert said == {
            "kind": "review.submitted",
            "entries": [page],
            "locales": ["en"],
            "lists": ["entries", "my-work", "dispatches", "grid"],
            "by": "Wim",
        }
        assert eventually(lambda: ida.heard("presence"))[0] == {"entries": [page]}  # type: ignore[index]
        assert not [e for e in wim.heard() if e["kind"].startswith("person.")], (
            "not for who does not set up people"
        )
        assert luc.heard() == []
        assert luc.heard("presence") == []


def test_what_a_closed_window_had_open_is_left_and_what_a_broken_line_had_is_not(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    # Long enough that a busy machine comes back within it.
    monkeypatch.setattr(live, "GONE", 2.5)
    page = house.page("Lamp")

    def open_in() -> list[str]:
        found = house.desk.read(house.who("ida"), lambda v: presence.with_entry(v, page))
        return [one.page for one in found]

    with serving(house) as (_, url):
        bearer = {"Authorization": f"Bearer {token(url, 'wim')}"}
        for name in ("first-window.1", "other-window.1"):
            body = {"page": name, "locale": "en", "field": "", "typing": False}
            httpx.put(f"{url}/api/entries/{page}/presence", json=body, headers=bearer).raise_for_status()
        address = f"{url}/events?window=first-window"
        with httpx.stream("GET", address, headers=bearer) as line:
            next(line.iter_lines())
        with httpx.stream("GET", address, headers=bearer) as line:
            lines = line.iter_lines()
            next(lines)
            time.sleep(3)
            assert len(open_in()) == 2, "it came back in a moment"
        eventually(lambda: open_in() == ["other-window.1"])
        assert httpx.get(f"{url}/events?window=a%25", headers=bearer).status_code == 422


def test_somebody_who_is_told_something_hears_so_and_nobody_else(house: House) -> None:
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    with house.desk.db.read() as conn:
        event = next(e for e in news.events.after(conn, 0) if e.kind == "review.submitted")
    with serving(house) as (_, url):
        ida, wim = (Ear(url, token(url, who)) for who in ("ida", "wim"))
        told = house.desk.read(house.who("ida"), lambda v: notifications.for_event(v, event))
        house.desk.db.write(
            lambda c: [notifications.tell(c, house.desk.words, event.seq, event.at, n) for n in told]
        )
        assert eventually(lambda: ida.heard("notifications")) == [{"lists": ["notifications"]}]
        house.page("Rope")
        eventually(lambda: wim.heard())
        assert wim.heard("notifications") == []


def test_a_stream_ends_with_the_right_to_it(house: House) -> None:
    with serving(house) as (_, url):
        ear = Ear(url, token(url, "wim"))
        house.page("Before")
        eventually(lambda: ear.heard())
        house.do("ida", lambda a: people.end_person(a, "wim"))
        assert ear.over.wait(10)


def test_rights_that_change_change_what_is_heard(house: House) -> None:
    with serving(house) as (_, url):
        ear = Ear(url, token(url, "wim"))
        house.do("ida", lambda a: people.define_role(a, "deaf", "Deaf", []))
        house.do("ida", lambda a: people.set_holdings(a, "wim", [{"name": "deaf"}]))
        before = len(ear.heard())
        page = house.do("ida", lambda a: entries.start(a, "page", "en", {"title": "Quiet"}))
        other = Ear(url, token(url, "oda"), 0)
        eventually(lambda: any(page in e["entries"] for e in other.heard()))
        assert all(page not in e["entries"] for e in ear.heard()[before:])


def test_whoever_is_slow_or_comes_back_misses_nothing(house: House, monkeypatch: pytest.MonkeyPatch) -> None:

    monkeypatch.setattr(live, "_MOST_WAITING", 3)
    with serving(house) as (_, url):
        ear = Ear(url, token(url, "ida"))
        for n in range(25):
            house.page(f"Page {n}")
        eventually(lambda: len([e for e in ear.heard() if e["kind"] == "entry.started"]) == 25)
        ids = [int(line.removeprefix("id: ")) for line in ear.lines if line.startswith("id: ")]
        assert ids == sorted(set(ids))
        back = Ear(url, token(url, "ida"), ids[4])
        eventually(lambda: len([e for e in back.heard() if e["kind"] == "entry.started"]) == 20)


def test_who_falls_behind_after_keeping_up_hears_nothing_twice(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(live, "_MOST_WAITING", 3)
    with serving(house) as (_, url):
        ear = Ear(url, token(url, "ida"))
        house.page("Lamp")
        eventually(lambda: [e for e in ear.heard() if e["kind"] == "entry.started"])
        house.do("wim", lambda a: [entries.start(a, "page", "en", {"title": f"Page {n}"}) for n in range(6)])
        eventually(lambda: len([e for e in ear.heard() if e["kind"] == "entry.started"]) >= 7)
        last = house.page("Buoy")
        eventually(lambda: any(last in e["entries"] for e in ear.heard()))
        ids = [int(line.removeprefix("id: ")) for line in ear.lines if line.startswith("id: ")]
        assert ids == sorted(set(ids))


def test_who_comes_while_it_is_looked_misses_nothing(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    looking, free = threading.Event(), threading.Event()
    free.set()
    read = house.desk.read

    def slow(identity: Any, look: Any) -> Any:
        if identity is live._SYSTEM and not free.is_set() and not looking.is_set():
            looking.set()
            free.wait(20)
        return read(identity, look)

    monkeypatch.setattr(house.desk, "read", slow)
    with serving(house) as (_, url):
        secret = token(url, "ida")
        first = Ear(url, secret)
        time.sleep(0.5)
        free.clear()
        house.page("Lamp")
        assert looking.wait(20)
        late = Ear(url, secret)
        page = house.page("Buoy")
        free.set()
        eventually(lambda: all(any(page in e["entries"] for e in ear.heard()) for ear in (first, late)))


def test_who_begins_to_listen_hears_nothing_from_before(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(live, "GATHERS", 0.6)
    with serving(house) as (_, url):
        secret = token(url, "ida")
        first = Ear(url, secret)
        before = house.page("Lamp")
        late = Ear(url, secret)
        after = house.page("Buoy")
        eventually(lambda: all(any(after in e["entries"] for e in ear.heard()) for ear in (first, late)))
        assert any(before in e["entries"] for e in first.heard())
        assert not any(before in e["entries"] for e in late.heard())


def test_somebody_whose_browser_died_counts_as_gone_without_a_commit(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    page = house.page("Lamp")
    monkeypatch.setattr(presence, "LASTS", SECOND)
    with serving(house) as (_, url):
        ear = Ear(url, token(url, "ida"))
        house.desk.write(house.who("wim"), lambda a: presence.here(a, page, "en", "page-of-wim"))
        eventually(lambda: len(ear.heard("presence")) == 1)
        # However long that took: only from here on time passes.
        house.clock.at += 3 * SECOND
        eventually(lambda: len(ear.heard("presence")) == 2)


def test_every_kind_of_event_says_which_lists_it_concerns() -> None:
    assert len(happenings.KINDS) > 40
    assert {kind for kind in happenings.KINDS if "everything" in news.concerns(kind)} == set()


def test_the_queries_that_the_console_keeps_are_known_by_the_names_of_lists() -> None:
    root = Path(__file__).parents[2] / "console" / "src" / "features"
    text = "".join(path.read_text("utf-8") for path in root.glob("**/*.ts"))
    keys = set(re.findall(r'queryKey: \["([a-z-]+)"', text))
    assert len(keys) > 25
    named = {name for names in news.CONCERNS.values() for name in names} | {"notifications"}
    # What is about one entry is refreshed by its id, and what the console asks elsewhere is not kept there.
    of_one_entry = {
        "entry",
        "proposal",
        "trail",
        "shown-in",
        "compare",
        "history",
        "dispatch",
        "job",
        "log",
        "setup",
        # Counted some seconds after something happened: nobody is told of it, and it is asked for when it is looked at.
        "figures",
        # Asked for by a page that only chooses among them.
        "sections",
    }
    assert keys - of_one_entry <= named
    assert named - keys <= {"types", "workflows", "sites"}


def test_grants_are_asked_once_for_all_who_have_the_same(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    page = house.page("Lamp")
    asked: list[int] = []
    whole = news.for_events
    monkeypatch.setattr(
        news, "for_events", lambda found, who, *only: asked.append(who.id) or whole(found, who, *only)
    )
    with serving(house) as (_, url):
        secret = token(url, "ida")
        ears = [Ear(url, secret) for _ in range(6)]
        time.sleep(0.3)
        asked.clear()
        house.do("wim", lambda a: review.submit(a, page, "en"))
        for ear in ears:
            eventually(lambda e=ear: e.heard())
    assert len(asked) == 1
