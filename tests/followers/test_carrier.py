"""The carrier among odd bureaus: each job by itself, failures counted and said, decisions kept."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.core.timeline import SECOND, iso
from hawthorn.followers import carrier, outgoing
from hawthorn.followers.carrier import Carrier
from hawthorn.operations.translation import assigning, sending
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.translation.sending import Doer
from hawthorn.operations.views import show_jobs
from hawthorn.store import bureaus, definitions, people
from hawthorn.store.bureaus import Written
from tests.followers.partners import Anything
from tests.followers.test_followers import Options
from tests.service.made import House
from tests.service.test_commissions import heard

TAKEN = '{"state": "accepted"}'


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)

    def set_up(conn: Any) -> None:
        definitions.add_locale(conn, "fr", "Français")
        definitions.set_setting(conn, "setup", "50")
        for name in ("Odd", "Even"):
            actor = people.add_actor(conn, "bureau", name.lower(), name, "", "", "UTC", 1)
            people.hold(conn, actor, "bureau")
            bureaus.add(conn, actor, Written(name, "http", f"http://{name.lower()}.example"))

    made.desk.db.write(set_up)
    yield made
    made.close()


def order(house: House, bureau: str) -> str:
    page = house.page(f"Lamp of {bureau}", body="<p>One word.</p>")
    house.do("ida", lambda a: sending.commission(a, Order((page,), ("fr",), bureau=bureau)))
    with house.desk.db.read() as conn:
        return str(conn.execute("SELECT uuid FROM job ORDER BY id DESC LIMIT 1").fetchone()[0])


def job(house: House, uuid: str) -> dict[str, Any]:
    with house.desk.db.read() as conn:
        return dict(conn.execute("SELECT * FROM job WHERE uuid = ?", (uuid,)).fetchone())


def run(
    house: House, wire: Anything, monkeypatch: pytest.MonkeyPatch, steps: int = 4, seconds: int = 700
) -> None:
    monkeypatch.setattr(outgoing, "caller", lambda *_: httpx.Client(transport=wire))
    runs = Carrier(house.desk, Options(allow_hosts=["odd.example", "even.example"]))
    for _ in range(steps):
        runs.step("one")
        house.clock.at += seconds * SECOND
    runs.close()


def odd_about_jobs(answer: object) -> Any:
    """The odd bureau takes a job and then answers this about it; the even one works as it should."""

    def found(request: httpx.Request) -> object:
        if request.method == "PUT":
            return TAKEN
        if request.url.host == "odd.example":
            return answer
        return '{"state": "in work", "done": 1, "total": 2}'

    return found


@pytest.mark.parametrize(
    "answer",
    [
        '["in work"]', '{"state": "in work", "done": [1]}', '{"state": "in work", "parts": [{"id": "../x", "sha256": "x"}]}', '{"state": "in work", "done": 1e999}', '{"state": "in work", "done": "many"}',
        '{"state": "in work", "done": -1}', '{"done": 1}', '{"state": null}', "null", "", "<html>Maintenance</html>", 500, 503,
        429, httpx.Response(302, headers={"location": "http://elsewhere.example/"}),
        '{"state": "in work", "parts": [{"id": "1", "sha256": "%s"}]}' % ("0" * 64),
    ],
)  # fmt: skip
def test_an_odd_answer_of_one_bureau_stops_no_other_and_is_said(
    house: House, monkeypatch: pytest.MonkeyPatch, answer: object
) -> None:
    odd, even = order(house, "Odd"), order(house, "Even")

    def answering(request: httpx.Request) -> object:
        return odd_about_jobs(answer)(request)

    run(house, Anything(answering), monkeypatch)
    assert (job(house, even)["state"], job(house, even)["done"]) == ("in work", 1)
    assert "no usable answer" in job(house, odd)["trouble"], "it is said while it is tried again"
    assert job(house, odd)["failures"] >= 1
    run(house, Anything(answering), monkeypatch, carrier.PATIENCE)
    assert job(house, odd)["state"] == "failed"
    assert "12 times in a row" in job(house, odd)["trouble"]
    assert ("job.failed", "bureau") in house.events(), "whoever commissioned it learns of it"


def test_done_may_be_left_out_and_a_good_answer_forgets_the_failures(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    answers = iter([500, 500, '{"state": "in work", "done": null}', *['{"state": "in work"}'] * 9])
    uuid = order(house, "Odd")
    run(house, Anything(lambda r: TAKEN if r.method == "PUT" else next(answers)), monkeypatch, 6)
    assert (job(house, uuid)["state"], job(house, uuid)["failures"], job(house, uuid)["trouble"]) == (
        "in work",
        0,
        "",
    )


def sendings(wire: Anything) -> list[str]:
    """The jobs that were sent, without their files."""
    return [call for call in wire.calls if call.startswith("PUT") and not call.endswith("/file")]


def test_a_job_that_leaves_a_bureau_is_cancelled_there_and_what_still_comes_of_it_changes_nothing(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    uuid = order(house, "Odd")
    wire = Anything(lambda r: TAKEN if r.method == "PUT" else '{"state": "in work", "done": 1, "total": 2}')
    run(house, wire, monkeypatch)
    name = job(house, uuid)["remote"]
    assert name
    house.do("ida", lambda a: assigning.assign(a, uuid, Doer("Even")))
    wire.calls.clear()
    run(house, wire, monkeypatch, 3)
    told = job(house, uuid)
    assert (told["state"], told["remote"] not in ("", name)) == ("in work", True)
    assert [call for call in wire.calls if name in call] == [f"DELETE /v1/jobs/{name}"], wire.calls
    assert len(sendings(wire)) == 1, "it goes to one, and once"
    house.do("ida", lambda a: assigning.assign(a, uuid, Doer()))
    wire.calls.clear()
    run(house, wire, monkeypatch, 3)
    assert wire.calls == [f"DELETE /v1/jobs/{told['remote']}"], "nobody asks about it any more"
    assert (job(house, uuid)["state"], job(house, uuid)["bureau"]) == ("waiting", None)


@pytest.mark.parametrize("to", ["Even", ""])
def test_a_job_that_is_given_away_while_it_is_being_sent_is_with_whoever_got_it(
    house: House, monkeypatch: pytest.MonkeyPatch, to: str
) -> None:
    uuid = order(house, "Odd")
    hosts: list[tuple[str, str]] = []

    def answer(request: httpx.Request) -> object:
        if not request.url.path.endswith("/file"):
            hosts.append((request.method, request.url.host))
        if request.method == "PUT" and request.url.host == "odd.example":
            house.do("ida", lambda a: assigning.assign(a, uuid, Doer(to)))
        return TAKEN if request.method == "PUT" else '{"state": "in work", "done": 0, "total": 2}'

    run(house, Anything(answer), monkeypatch, 4)
    sent = [host for method, host in hosts if method == "PUT"]
    assert sent == ["odd.example", "even.example"] if to else sent == ["odd.example"]
    assert ("DELETE", "odd.example") in hosts
    assert ("DELETE", "even.example") not in hosts
    assert ("GET", "odd.example") not in hosts, "it is not asked about what it has no more"
    assert job(house, uuid)["state"] == ("in work" if to else "waiting")


def test_what_could_not_be_sent_to_a_bureau_goes_to_the_one_that_gets_it_then(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    uuid = order(house, "Odd")
    down = Anything(lambda r: 503)
    run(house, down, monkeypatch, 2)
    house.do("ida", lambda a: assigning.assign(a, uuid, Doer("Even")))
    wire = Anything(lambda r: TAKEN if r.method == "PUT" else '{"state": "in work", "done": 0}')
    run(house, wire, monkeypatch, 6)
    assert len(sendings(wire)) == 1
    assert (job(house, uuid)["state"], job(house, uuid)["trouble"]) == ("in work", "")


@pytest.mark.parametrize("status", [408, 425, 429, 500, 502, 503, 302])
def test_what_is_no_refusal_is_tried_again(
    house: House, monkeypatch: pytest.MonkeyPatch, status: int
) -> None:
    answers = iter([httpx.Response(status, headers={"retry-after": "5"}), httpx.Response(status)])
    uuid = order(house, "Odd")
    wire = Anything(
        lambda r: next(answers, TAKEN) if r.method == "PUT" else '{"state": "in work", "done": 0}'
    )
    run(house, wire, monkeypatch)
    assert job(house, uuid)["state"] == "in work"
    assert len([call for call in wire.calls if call.startswith("PUT")]) == 4, (
        "twice in vain, then the job and its file"
    )


@pytest.mark.parametrize("status", [400, 401, 403, 404, 413, 422])
def test_a_refusal_ends_a_job_at_once_with_its_reason(
    house: House, monkeypatch: pytest.MonkeyPatch, status: int
) -> None:
    uuid = order(house, "Odd")
    wire = Anything(lambda r: httpx.Response(status, text="We do not do poems."))
    run(house, wire, monkeypatch)
    assert job(house, uuid)["state"] == "failed"
    assert "We do not do poems." in job(house, uuid)["trouble"]
    assert len(wire.calls) == 1


@pytest.mark.parametrize(
    "answer", ["{}", '{"state": null}', '{"state": "fine"}', "[]", '{"state": 7}', "<html>"]
)
def test_an_odd_answer_to_a_delivery_is_tried_again_and_leaves_nothing_stuck(
    house: House, monkeypatch: pytest.MonkeyPatch, answer: str
) -> None:
    odd, even = order(house, "Odd"), order(house, "Even")
    wire = Anything(
        lambda r: (
            (answer if r.url.host == "odd.example" else TAKEN)
            if r.method == "PUT"
            else '{"state": "in work"}'
        )
    )
    run(house, wire, monkeypatch, 3)
    assert (job(house, odd)["state"], job(house, even)["state"]) == ("waiting", "in work")
    run(house, wire, monkeypatch, Carrier.tries, 1000)
    assert job(house, odd)["state"] == "failed"


def test_a_delivery_and_its_row_are_settled_together(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    """What fails between the two leaves both as they were, so that it is done again; never a job that waits for nobody."""
    uuid = order(house, "Odd")
    settled = carrier.outbox.settle
    broken = [True]

    def settle(*given: Any) -> None:
        if broken.pop() if broken else False:
            raise SystemExit("the machine stops here")
        settled(*given)

    monkeypatch.setattr(carrier.outbox, "settle", settle)
    wire = Anything(lambda r: TAKEN if r.method == "PUT" else '{"state": "in work"}')
    with pytest.raises(SystemExit):
        run(house, wire, monkeypatch, 1)
    assert (job(house, uuid)["state"], job(house, uuid)["remote"]) == ("waiting", "")
    run(house, wire, monkeypatch, 3)
    now = job(house, uuid)
    assert (now["state"], now["remote"].startswith(uuid)) == ("in work", True)


def test_an_answer_about_an_earlier_sending_changes_nothing(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The job was sent again while a bureau was being asked: never “in work” without a number."""
    uuid = order(house, "Odd")

    def answering(request: httpx.Request) -> object:
        if request.method == "PUT":
            return TAKEN
        house.desk.db.write(lambda c: c.execute("UPDATE job SET state = 'waiting', remote = ''"))
        return '{"state": "in work", "done": 1}'

    run(house, Anything(answering), monkeypatch, 2)
    assert (job(house, uuid)["state"], job(house, uuid)["remote"]) == ("waiting", "")


def test_an_answer_without_end_is_left(monkeypatch: pytest.MonkeyPatch) -> None:
    def endless() -> Iterator[bytes]:
        while True:
            yield b"x" * 1000

    with httpx.Client(
        transport=httpx.MockTransport(lambda _: httpx.Response(200, content=endless()))
    ) as http:
        with pytest.raises(httpx.ReadError, match="longer than"):
            outgoing.call(http, "GET", "http://odd.example/", ["odd.example"], most=50_000)
        with pytest.raises(httpx.ReadTimeout, match="took longer"):
            outgoing.call(http, "GET", "http://odd.example/", ["odd.example"], most=1 << 40, seconds=0.05)


@pytest.mark.parametrize(
    ("header", "seconds"),
    [("7", 7), ("99999999", 3600), ("soon", 0), ("", 0), ("-3", 0), ("Fri, 01 Jan 1990 00:00:00 GMT", 0)],
)
def test_how_long_an_answer_asks_to_wait(header: str, seconds: float) -> None:
    assert outgoing.retry_after(httpx.Response(503, headers={"retry-after": header})) == seconds


def test_a_bureau_on_which_nothing_moves_is_asked_less_often(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    order(house, "Odd")
    wire = Anything(lambda r: TAKEN if r.method == "PUT" else '{"state": "in work", "done": 1}')
    run(house, wire, monkeypatch, 600, 1)
    assert len([call for call in wire.calls if call.startswith("GET")]) < 40


def in_days(house: House, days: int) -> str:
    return iso(house.clock.at + days * 86_400 * SECOND)[:10]


def put_off(house: House, uuid: str, day: str) -> None:
    house.do("ida", lambda a: assigning.assign(a, uuid, due=day))


def believed(house: House, uuid: str) -> tuple[str | None, str]:
    """The day of which the bureau of a job thinks, as its page shows that, and why it could not be told."""
    shown = house.desk.read(house.who("ida"), lambda v: show_jobs.job(v, uuid))
    return shown["due_told"], shown["due_trouble"]


def told_days(wire: Anything) -> int:
    return len([call for call in wire.calls if call.startswith("PATCH")])


def test_a_bureau_is_told_of_another_day_once_when_it_can_be(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    uuid, days = order(house, "Odd"), [in_days(house, n) for n in range(40, 45)]
    bodies: list[bytes] = []
    down = iter([503, 429])

    def answer(request: httpx.Request) -> object:
        bodies.append(request.content)
        if request.method == "PATCH":
            return next(down, TAKEN)
        return TAKEN if request.method == "PUT" else '{"state": "in work", "done": 1}'

    wire = Anything(answer)
    # What has not gone yet goes with the day that it has then.
    put_off(house, uuid, days[0])
    run(house, wire, monkeypatch)
    assert (json.loads(bodies[0])["due"], told_days(wire)) == (days[0], 0)
    assert believed(house, uuid) == (None, "")
    # Put off twice while it cannot be reached: meanwhile it is said, and then it hears of the last day alone.
    put_off(house, uuid, days[1])
    assert believed(house, uuid) == (days[0], "")
    run(house, wire, monkeypatch, 1, 1)
    put_off(house, uuid, days[2])
    assert believed(house, uuid) == (days[0], "")
    bodies.clear()
    run(house, wire, monkeypatch, 6)
    assert believed(house, uuid) == (None, "")
    assert [json.loads(body) for body in bodies if b"due" in body][-1] == {"due": days[2]}
    assert told_days(wire) == 3, "twice in vain, then once"
    assert ("job.day-told", "bureau") in house.events()
    assert (job(house, uuid)["state"], job(house, uuid)["due_told"]) == ("in work", days[2])
    # What is put back before anything was said is nothing to tell.
    put_off(house, uuid, days[3])
    put_off(house, uuid, days[2])
    run(house, wire, monkeypatch)
    assert told_days(wire) == 3
    put_off(house, uuid, "")
    run(house, wire, monkeypatch)
    assert (told_days(wire), job(house, uuid)["due_told"]) == (4, "")


@pytest.mark.parametrize("status", [400, 403, 404, 405, 409, 422, 501])
def test_a_bureau_that_takes_no_other_day_works_on_and_the_job_says_so_until_it_is_so_no_more(
    house: House, monkeypatch: pytest.MonkeyPatch, status: int
) -> None:
    uuid, days = order(house, "Odd"), [in_days(house, 40), in_days(house, 50)]
    done = iter(range(1, 100))

    def answer(request: httpx.Request) -> object:
        if request.method == "PATCH":
            return httpx.Response(status, json={"detail": "The day is agreed."})
        return TAKEN if request.method == "PUT" else f'{{"state": "in work", "done": {min(next(done), 2)}}}'

    wire = Anything(answer)
    put_off(house, uuid, days[0])
    run(house, wire, monkeypatch)
    put_off(house, uuid, days[1])
    run(house, wire, monkeypatch, 8)
    # It is asked on, and its answers take nothing away of what is said.
    assert (job(house, uuid)["state"], job(house, uuid)["trouble"]) == ("in work", "")
    then, why = believed(house, uuid)
    assert (then, "The day is agreed." in why, told_days(wire)) == (days[0], True, 1)
    assert heard(house, "job.day-untold", "ida") == ["day_untold"], "whoever commissioned it learns of it"
    put_off(house, uuid, days[0])
    run(house, wire, monkeypatch)
    assert (believed(house, uuid), told_days(wire)) == ((None, ""), 1)


def test_a_bureau_that_had_forgotten_a_job_gets_it_anew_with_the_day_of_now(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    uuid, days = order(house, "Odd"), [in_days(house, 40), in_days(house, 50)]
    knows: list[str] = []

    def answer(request: httpx.Request) -> object:
        if request.method == "PUT":
            if not request.url.path.endswith("/file"):
                knows.append(json.loads(request.content)["due"])
            return TAKEN
        return '{"state": "in work"}' if knows and request.method == "GET" else 404

    wire = Anything(answer)
    put_off(house, uuid, days[0])
    run(house, wire, monkeypatch)
    knows.clear()
    put_off(house, uuid, days[1])
    run(house, wire, monkeypatch, 6)
    assert (knows, believed(house, uuid)) == ([days[1]], (None, ""))


def test_whoever_gets_a_job_knows_the_day_and_whoever_had_it_is_not_told_of_it(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    uuid, days = order(house, "Odd"), [in_days(house, 40), in_days(house, 50)]
    wire = Anything(lambda r: TAKEN if r.method == "PUT" else '{"state": "in work"}')
    put_off(house, uuid, days[0])
    run(house, wire, monkeypatch)
    put_off(house, uuid, days[1])
    house.do("ida", lambda a: assigning.assign(a, uuid, Doer("Even")))
    run(house, wire, monkeypatch)
    assert (told_days(wire), believed(house, uuid)) == (0, (None, ""))
    assert job(house, uuid)["due_told"] == days[1]
