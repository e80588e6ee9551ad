"""Mail, connector and leases: surely, once where it can be, and never to a private address that nobody allowed."""

from __future__ import annotations

import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.core.timeline import SECOND
from hawthorn.demo.bureau import Bureau
from hawthorn.demo.mailbox import Mailbox
from hawthorn.demo.wordwise import spoil, translate_file
from hawthorn.followers import outgoing
from hawthorn.followers.carrier import Carrier
from hawthorn.followers.mail import Mail
from hawthorn.operations.release import review
from hawthorn.operations.translation import sending, translation
from hawthorn.operations.translation.orders import Order
from hawthorn.store import bureaus, definitions, outbox, people
from hawthorn.store.bureaus import Written
from tests.conftest import free_port
from tests.service.made import House


@dataclass
class Options:
    """Settings for followers under test."""

    smtp_host: str = "127.0.0.1"
    smtp_port: int = 0
    smtp_encryption: str = "offered"
    smtp_user: str = ""
    smtp_password: str = ""
    mail_from: str = "house@x.example"
    allow_hosts: list[str] = field(default_factory=lambda: ["bureau.example"])
    bureau_pause: float = 0.1
    bureau_folders: Path | None = None
    machine_url: str = ""
    machine_key: str = ""
    public: str = "http://house.example"


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.desk.db.write(lambda c: definitions.add_locale(c, "fr", "Français"))
    made.desk.db.write(lambda c: definitions.set_setting(c, "setup", "50"))
    yield made
    made.close()


def waiting(house: House) -> list[tuple[str, str, int]]:
    with house.desk.db.read() as conn:
        return [
            tuple(r)
            for r in conn.execute("SELECT recipient, state, tries FROM outbox ORDER BY id").fetchall()
        ]


def test_a_mail_waits_while_the_server_is_down_and_arrives_once(house: House) -> None:
    options = Options(smtp_port=free_port())
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en", "Look"))
    mail = Mail(house.desk, options)
    mail.step("one")
    # One was tried; the other is not, as the server is away.
    assert waiting(house) == [("ida@x.example", "waiting", 1), ("oda@x.example", "waiting", 0)]
    box = Mailbox()
    server = box.listener(socket.create_server(("127.0.0.1", options.smtp_port)))
    server.start()
    try:
        mail.step("one")
        assert box.mails == []
        house.clock.at += 60 * SECOND
        mail.step("one")
        assert sorted(m["to"] for m in box.mails) == ["ida@x.example", "oda@x.example"]
        assert "Their note: Look" in box.mails[0]["body"]
        assert f"http://house.example/entries/{page}/en" in box.mails[0]["body"]
        house.clock.at += 60 * SECOND
        mail.step("one")
        assert len(box.mails) == 2
        assert {state for _, state, _ in waiting(house)} == {"done"}
    finally:
        server.stop()


def test_a_mail_that_never_arrives_is_given_up_and_does_not_block_the_rest(house: House) -> None:
    mail = Mail(house.desk, Options(smtp_port=free_port()))
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    for _ in range(90):
        mail.step("one")
        house.clock.at += 3600 * SECOND
    # What says so is a mail as well, and is still tried.
    assert [state for _, state, _ in waiting(house)][:2] == ["given up"] * 2


def test_the_same_mail_twice_is_kept_once_by_its_message_id(house: House) -> None:
    options = Options(smtp_port=free_port())
    box = Mailbox()
    server = box.listener(socket.create_server(("127.0.0.1", options.smtp_port)))
    server.start()
    try:
        page = house.page("Lamp")
        house.do("wim", lambda a: review.submit(a, page, "en"))
        Mail(house.desk, options).step("one")
        house.desk.db.write(lambda c: c.execute("UPDATE outbox SET state = 'waiting', next_at = 0"))
        Mail(house.desk, options).step("one")
        assert len(box.mails) == 2
    finally:
        server.stop()


def test_one_process_follows_at_a_time_and_another_takes_over_when_it_is_gone(house: House) -> None:
    def lease(who: str) -> int | None:
        now = house.clock.now()
        return house.desk.db.write(lambda c: outbox.take_lease(c, "mail", who, now))

    assert lease("one") == 0
    assert lease("two") is None
    assert lease("one") == 0
    assert house.desk.db.write(lambda c: outbox.advance(c, "mail", "one", 0, 5))
    assert not house.desk.db.write(lambda c: outbox.advance(c, "mail", "one", 0, 6))
    assert not house.desk.db.write(lambda c: outbox.advance(c, "mail", "two", 5, 6))
    house.clock.at += 21 * SECOND
    assert lease("two") == 5
    assert lease("one") is None
    house.desk.db.write(lambda c: outbox.release_leases(c, "two"))
    assert lease("one") == 5


@pytest.mark.parametrize(
    ("url", "allowed", "fine"),
    [
        ("http://127.0.0.1:8403", [], False),
        ("http://127.0.0.1:8403", ["127.0.0.1"], True),
        ("http://127.0.0.1:8403", ["127.0.0.1:8403"], True),
        ("http://127.0.0.1:8404", ["127.0.0.1:8403"], False),
        ("http://localhost/", [], False),
        ("http://10.0.0.8/", [], False),
        ("http://169.254.169.254/latest", [], False),
        ("http://[::1]/", [], False),
        ("http://0.0.0.0/", [], False),
        ("http://[::ffff:127.0.0.1]/", [], False),
        ("http://[::127.0.0.1]/", [], False),
        ("http://[64:ff9b::7f00:1]/", [], False),
        ("http://[2002:7f00:1::1]/", [], False),
        ("http://224.0.0.1/", [], False),
        ("http://[ff02::1]/", [], False),
        ("http://192.88.99.1/", [], False),
        ("http://1.1.1.1:99999/", [], False),
        ("http://[::1/", [], False),
        ("http://a..b/", [], False),
        ("http://1.1.1.1/", [], True),
        ("file:///etc/passwd", [], False),
        ("ftp://1.1.1.1/", [], False),
        ("http://", [], False),
    ],
)
def test_outgoing_calls_refuse_private_addresses(url: str, allowed: list[str], fine: bool) -> None:
    if fine:
        outgoing.check(url, allowed)
    else:
        with pytest.raises(outgoing.Forbidden):
            outgoing.check(url, allowed)


@contextmanager
def answering(send: Callable[[socket.socket], None]) -> Iterator[tuple[int, list[bytes]]]:
    """Somebody on loopback who is called, with what they were sent."""
    heard: list[bytes] = []
    with socket.create_server(("127.0.0.1", 0)) as door:

        def serve() -> None:
            with suppress(OSError):
                line, _ = door.accept()
                with line:
                    heard.append(line.recv(4096))
                    send(line)

        thread = threading.Thread(target=serve, daemon=True)
        thread.start()
        yield door.getsockname()[1], heard
        door.close()


def test_a_name_that_leads_elsewhere_the_second_time_is_not_followed(monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[str] = []
    known = socket.getaddrinfo

    def rebinding(host: str, port: int, *args: Any, **more: Any) -> Any:
        asked.append(host)
        return known("1.1.1.1" if len(asked) == 1 else "127.0.0.1", port, *args, **more)

    with answering(lambda line: line.sendall(b"HTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\nhi")) as (
        port,
        heard,
    ):
        monkeypatch.setattr(socket, "getaddrinfo", rebinding)
        with outgoing.caller([]) as http, pytest.raises(outgoing.Forbidden, match="private address"):
            outgoing.call(http, "GET", f"http://elsewhere.example:{port}/", [], most=100)
        assert heard == []
        with outgoing.caller(["elsewhere.example"]) as http:
            answer, data = outgoing.call(
                http, "GET", f"http://elsewhere.example:{port}/", ["elsewhere.example"], most=100
            )
        assert (answer.status_code, data) == (200, b"hi")
        assert b"Host: elsewhere.example" in heard[0]


def test_an_exchange_ends_in_all_however_slowly_its_head_comes() -> None:
    def drip(line: socket.socket) -> None:
        line.sendall(b"HTTP/1.1 200 OK\r\n")
        for n in range(400):
            line.sendall(f"X-{n}: y\r\n".encode())
            time.sleep(0.05)

    with answering(drip) as (port, _), outgoing.caller(["127.0.0.1"]) as http:
        with pytest.raises(httpx.TimeoutException):
            outgoing.call(http, "GET", f"http://127.0.0.1:{port}/", ["127.0.0.1"], most=100, seconds=0.3)


class Wire(httpx.BaseTransport):
    """The way to a bureau: passes calls to it, or breaks as it is told."""

    def __init__(self, bureau: Bureau) -> None:
        from starlette.routing import Match

        self.app, self.match = bureau.app(), Match
        self.broken: list[str] = []
        self.calls: list[str] = []

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        """Answer as the bureau would."""
        import asyncio

        self.calls.append(f"{request.method} {request.url.path}")
        if self.broken and self.broken[0] == "before":
            self.broken.pop(0)
            raise httpx.ConnectError("no way through")

        async def go() -> httpx.Response:
            async with httpx.AsyncClient(
                transport=httpx.ASGITransport(self.app), base_url="http://bureau.example"
            ) as inner:
                answer = await inner.request(
                    request.method,
                    request.url.raw_path.decode(),
                    content=request.read(),
                    headers=request.headers,
                )
                return httpx.Response(
                    answer.status_code,
                    content=answer.content,
                    headers={"content-type": answer.headers.get("content-type", "")},
                )

        answer = asyncio.run(go())
        if self.broken and self.broken[0] == "after":
            self.broken.pop(0)
            raise httpx.ReadError("the answer was lost")
        return answer


@pytest.fixture
def bureau(house: House, monkeypatch: pytest.MonkeyPatch) -> tuple[Bureau, Wire]:
    """A bureau that is known to the house, over a wire that can be broken."""
    made = Bureau(seconds=1e-9)
    wire = Wire(made)
    monkeypatch.setattr(outgoing, "caller", lambda *_: httpx.Client(transport=wire))

    def add(conn: Any) -> None:
        actor = people.add_actor(conn, "bureau", "salt", "Salt", "", "", "UTC", 1)
        people.hold(conn, actor, "bureau")
        bureaus.add(conn, actor, Written("Salt", "http", "http://bureau.example", '{"fr": "fr-FR"}'))

    house.desk.db.write(add)
    return made, wire


def order(house: House, bureau: str = "Salt") -> str:
    page = house.page("Lamp", body="<p>One <strong>bold</strong> word.</p>")
    house.do("ida", lambda a: sending.commission(a, Order((page,), ("fr",), bureau=bureau)))
    with house.desk.db.read() as conn:
        return str(conn.execute("SELECT uuid FROM job ORDER BY id DESC LIMIT 1").fetchone()[0])


def state(house: House, job: str) -> tuple[str, str]:
    with house.desk.db.read() as conn:
        row = conn.execute("SELECT state, trouble FROM job WHERE uuid = ?", (job,)).fetchone()
        return row[0], row[1]


def run(house: House, count: int = 3) -> None:
    for _ in range(count):
        Carrier(house.desk, Options()).step("one")
        house.clock.at += 120 * SECOND


def test_a_job_goes_out_and_returns_by_itself(house: House, bureau: tuple[Bureau, Wire]) -> None:
    job = order(house)
    run(house)
    assert state(house, job) == ("returned", "")
    kinds = [kind for kind, actor in house.events() if actor == "bureau"]
    assert kinds[0] == "job.sent"
    assert kinds[-1] == "job.returned"


@pytest.mark.parametrize("where", ["before", "after"])
def test_a_break_on_the_way_never_makes_two_jobs(
    house: House, bureau: tuple[Bureau, Wire], where: str
) -> None:
    made, wire = bureau
    wire.broken = [where, where]
    job = order(house)
    run(house, 6)
    assert state(house, job)[0] == "returned"
    assert len(made.jobs) == 1
    assert len([call for call in wire.calls if call.startswith("PUT") and "file" not in call]) >= 2


def test_a_bureau_that_cannot_be_reached_fails_in_the_end_and_can_be_tried_again(
    house: House, bureau: tuple[Bureau, Wire]
) -> None:
    _, wire = bureau
    wire.broken = ["before"] * Carrier.tries
    job = order(house)
    for _ in range(Carrier.tries):
        run(house, 1)
        house.clock.at += outbox.LONGEST_PAUSE
    assert state(house, job)[0] == "failed"
    assert "could not be reached" in state(house, job)[1]
    house.do("ida", lambda a: translation.send_again(a, job))
    run(house, 3)
    assert state(house, job)[0] == "returned"


def test_an_address_that_is_not_allowed_is_never_called(
    house: House, bureau: tuple[Bureau, Wire], monkeypatch: pytest.MonkeyPatch
) -> None:
    _, wire = bureau
    job = order(house)
    house.desk.db.write(lambda c: c.execute("UPDATE bureau SET url = 'http://127.0.0.1:9'"))
    run(house, 1)
    assert state(house, job)[0] == "failed"
    assert "Allow it by name" in state(house, job)[1]
    assert wire.calls == []


def test_what_returns_after_a_job_was_cancelled_changes_nothing(
    house: House, bureau: tuple[Bureau, Wire]
) -> None:
    made, _ = bureau
    made.seconds = 1000.0
    job = order(house)
    run(house, 1)
    house.do("ida", lambda a: translation.cancel(a, job))
    made.seconds = 1e-9
    run(house, 2)
    assert state(house, job)[0] == "cancelled"


def test_a_job_without_a_bureau_is_left_to_people(house: House, bureau: tuple[Bureau, Wire]) -> None:
    _, wire = bureau
    job = order(house, bureau="")
    run(house, 2)
    assert state(house, job)[0] == "waiting"
    assert wire.calls == []


FILE = (
    b'<xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.1" srcLang="en" trgLang="%s"><file id="f1" original="x">'
    b'<unit id="u1"><segment id="s1"><source>The <pc id="1">lamp</pc> was lit.</source></segment></unit>'
    b'<unit id="u2"><segment id="s1"><source>The fog bell</source></segment></unit></file></xliff>'
)


@pytest.mark.parametrize(
    ("locale", "first", "second"),
    [(b"fr-FR", "Le lampe", "La cloche de brume"), (b"ja-JP", "ランプ", "霧の鐘")],
)
def test_the_simulated_bureau_fills_every_target_and_keeps_tags(
    locale: bytes, first: str, second: str
) -> None:
    text = translate_file(FILE % locale).decode()
    assert second in text
    assert text.count("<target>") == 2
    assert text.count('<pc id="1">') == 2
    assert first.split()[0] in text


def test_the_simulated_bureau_leaves_what_comes_translated_as_it_is() -> None:
    have = b'<segment id="s1" state="translated"><source>The fog bell</source><target>La brume sonne</target></segment>'
    text = translate_file(
        (FILE % b"fr-FR").replace(b'<segment id="s1"><source>The fog bell</source></segment>', have)
    )
    assert "La brume sonne" in text.decode()
    assert text.count(b"<target>") == 2


def test_ordered_trouble_spoils_a_file_in_its_way() -> None:
    whole = translate_file(FILE % b"fr")
    assert spoil(whole, "") == whole
    assert len(spoil(whole, "truncate")) < len(whole)
    assert spoil(whole, "break tags").count(b"<pc") == whole.count(b"<pc") - 1
