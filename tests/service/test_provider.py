"""Logging in through an identity provider, over real HTTP, with one that behaves and one that does not."""

from __future__ import annotations

import asyncio
import json
import threading
import time
from base64 import urlsafe_b64encode
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit

import httpx
import pytest
import uvicorn
from joserfc import jwt
from joserfc.jwk import ECKey
from starlette.requests import Request
from starlette.responses import Response

from hawthorn.client import Client, Refusal, every
from hawthorn.core.timeline import SECOND
from hawthorn.demo.accounts import CLIENT, SECRET, Account, Accounts
from hawthorn.operations.access import people
from hawthorn.operations.access import provider as operations
from hawthorn.service import provider as talking
from hawthorn.store import people as store
from tests.conftest import eventually, free_port
from tests.service.made import Clock, House, serving

PEOPLE = {
    "uma": Account("uma", "Uma Thorne", "uma@pellgrave.example", ["desk"]),
    "wim": Account("wim", "Wim Ostler", "wim@pellgrave.example", ["desk"]),
    "nobody": Account("nobody", "Ned Nobody", "ned@pellgrave.example", []),
}


class Odd(Accounts):
    """A provider that behaves unless it is told otherwise."""

    def __init__(self, issuer: str) -> None:
        super().__init__(issuer, PEOPLE)
        self.say: Callable[[dict[str, Any]], dict[str, Any]] = lambda claims: claims
        self.sign: Callable[[dict[str, Any]], str] | None = None
        self.slow = 0.0
        """Seconds before a code is exchanged."""
        self.waiting = self.most = 0
        """How many wait for that, and how many did at most."""

    async def _token(self, request: Request) -> Response:
        self.waiting += 1
        self.most = max(self.most, self.waiting)
        await asyncio.sleep(self.slow)
        self.waiting -= 1
        return await super()._token(request)

    def signed(self, claims: dict[str, Any]) -> str:
        """As it is told."""
        told = self.say(dict(claims))
        return self.sign(told) if self.sign else super().signed(told)


@contextmanager
def answering(provider: Accounts, port: int) -> Iterator[None]:
    """The provider on loopback."""
    server = uvicorn.Server(uvicorn.Config(provider.app(), host="127.0.0.1", port=port, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    eventually(lambda: server.started)
    try:
        yield
    finally:
        server.should_exit = True
        thread.join(10)


class Around:
    """A house with a provider beside it."""

    def __init__(self, house: House, url: str, provider: Odd) -> None:
        self.house, self.url, self.provider = house, url, provider

    def leave(self, browser: httpx.Client) -> str:
        """Begin a log-in; the address at the provider."""
        found = browser.post("/api/session/provider/begin")
        assert found.status_code == 200, found.text
        return str(found.json()["address"])

    def choose(self, address: str, who: str) -> dict[str, str]:
        """Say at the provider who one is; what it sends back."""
        went = httpx.post(address, data={"who": who})
        back = urlsplit(went.headers["location"])
        assert back.path == "/log-in"
        found = {name: values[0] for name, values in parse_qs(back.query).items()}
        return {"code": found["code"], "state": found["state"], "issuer": found["iss"]}

    def log_in(self, who: str) -> httpx.Response:
        """All of it, in a browser of its own."""
        with self.browser() as browser:
            return browser.post("/api/session/provider", json=self.choose(self.leave(browser), who))

    def browser(self) -> httpx.Client:
        """A browser that has been nowhere."""
        return httpx.Client(base_url=self.url, timeout=30)

    def roles(self, handle: str) -> dict[str, tuple[list[str], list[int]]]:
        """What somebody holds, with locales and sections."""
        with self.house.desk.db.read() as conn:
            row = store.by_handle(conn, handle)
            assert row is not None
            return {
                h.role: (json.loads(h.locales), json.loads(h.sections)) for h in store.holdings(conn, row.id)
            }

    def handles(self) -> set[str]:
        """Who is here."""
        with self.house.desk.db.read() as conn:
            return {row.handle for row in store.all_actors(conn) if row.kind == "person"}


@contextmanager
def standing(folder: Path, **more: Any) -> Iterator[Around]:
    """A house with a provider beside it, and settings."""
    port = free_port()
    provider = Odd(f"http://127.0.0.1:{port}")
    house = House(folder, Clock(time.time_ns() // 1000))
    house.speaks(fr="French")
    settings = {
        "provider": provider.issuer,
        "provider_client": CLIENT,
        "provider_secret": SECRET,
        "provider_roles": {"desk": ["writer:en,fr"], "eds": ["section-editor"]},
        "provider_makes": True,
        **more,
    }
    with answering(provider, port), serving(house, **settings) as (_, url):
        yield Around(house, url, provider)
    house.close()


@pytest.fixture
def around(tmp_path: Path) -> Iterator[Around]:
    with standing(tmp_path) as around:
        yield around


def test_somebody_new_comes_in_with_the_roles_of_their_groups_and_follows_them_from_then_on(
    around: Around,
) -> None:
    first = around.log_in("uma")
    assert first.status_code == 201, first.text
    assert first.json()["me"]["handle"] == "uma"
    assert around.roles("uma") == {"writer": (["en", "fr"], [])}
    around.provider.people["uma"] = Account("uma", "Uma Thorne", "uma@else.example", ["eds"])
    assert around.log_in("uma").json()["me"]["roles"] == ["section editor"]
    assert around.roles("uma") == {"section-editor": ([], [])}
    # What the house gave by hand, and the provider does not name, stays.
    around.house.do(
        "ida",
        lambda a: people.set_holdings(a, "uma", [{"name": "staff"}, {"name": "writer", "locales": ["en"]}]),
    )
    around.log_in("uma")
    assert set(around.roles("uma")) == {"section-editor", "staff"}
    shown = around.house.do("ida", people.people)
    assert next(p for p in shown if p["handle"] == "uma")["connected"]
    events = [kind for kind, _ in around.house.events()]
    assert events.count("person.added") == 4
    assert events.count("person.connected") == 1


def test_whoever_no_group_lets_in_is_told_whom_to_ask_and_sessions_end(around: Around) -> None:
    refused = around.log_in("nobody")
    assert refused.status_code == 403
    assert "Ida" in refused.json()["remedy"]
    token = around.log_in("uma").json()["token"]
    with httpx.Client(base_url=around.url, headers={"Authorization": f"Bearer {token}"}) as uma:
        assert uma.get("/api/me").status_code == 200
        around.provider.people["uma"] = Account("uma", "Uma Thorne", "uma@pellgrave.example", ["visitors"])
        assert around.log_in("uma").status_code == 403
        assert uma.get("/api/me").status_code == 401
    assert "uma" in around.handles()
    assert around.roles("uma") == {}


def test_somebody_who_is_here_is_known_by_a_verified_address_alone(around: Around) -> None:
    with around.house.desk.db.read() as conn:
        wim = store.by_handle(conn, "wim")
    assert wim is not None
    around.house.by_scheduler(
        lambda a: a.conn.execute("UPDATE actor SET email = 'Wim@Pellgrave.example' WHERE id = ?", (wim.id,))
    )
    around.provider.people["wim"].verified = False
    assert around.log_in("wim").json()["me"]["handle"] == "wim-2"
    around.provider.people["other"] = Account("other", "Wim Ostler", "wim@pellgrave.example", ["desk"])
    found = around.log_in("other")
    assert found.json()["me"]["handle"] == "wim"
    # From then on it is who the provider says, whatever their address.
    around.provider.people["other"].email = "somewhere@else.example"
    assert around.log_in("other").json()["me"]["handle"] == "wim"
    # One who has left is not made anew.
    around.house.do("ida", lambda a: people.end_person(a, "wim"))
    again = around.log_in("other")
    assert again.status_code == 403
    assert again.json()["code"] == "provider.left"


def test_an_answer_is_taken_once_in_time_and_in_the_browser_that_asked(around: Around) -> None:
    with around.browser() as browser, around.browser() as other:
        back = around.choose(around.leave(browser), "uma")
        # Somebody else's log-in, sent to another browser, is not theirs to use, and is used up.
        around.leave(other)
        assert other.post("/api/session/provider", json=back).json()["code"] == "provider.another_browser"
        assert browser.post("/api/session/provider", json=back).json()["code"] == "provider.used_or_over"
        back = around.choose(around.leave(browser), "uma")
        assert browser.post("/api/session/provider", json=back).status_code == 201
        twice = browser.post("/api/session/provider", json=back)
        assert twice.status_code == 409
        assert twice.json()["code"] == "provider.used_or_over"
        back = around.choose(around.leave(browser), "uma")
        around.house.clock.at += operations.LASTS + SECOND
        assert browser.post("/api/session/provider", json=back).json()["code"] == "provider.used_or_over"
        foreign = browser.post("/api/session/provider/begin", headers={"Origin": "https://elsewhere.example"})
        assert foreign.status_code == 403


def unsigned(claims: dict[str, Any]) -> str:
    parts = [
        urlsafe_b64encode(json.dumps(p).encode()).rstrip(b"=").decode() for p in ({"alg": "none"}, claims)
    ]
    return ".".join([*parts, ""])


def by_the_secret(claims: dict[str, Any]) -> str:
    """Signed with a secret that others know."""
    from joserfc.jwk import OctKey

    return jwt.encode({"alg": "HS256"}, claims, OctKey.import_key(SECRET))


def by_another(claims: dict[str, Any]) -> str:
    key = ECKey.generate_key("P-256", {"kid": "theirs"})
    return jwt.encode({"alg": "ES256", "kid": "theirs"}, claims, key)


WRONG: dict[str, tuple[dict[str, Any], Callable[[dict[str, Any]], str] | None]] = {
    "another nonce": ({"nonce": "another"}, None),
    "no nonce": ({"nonce": None}, None),
    "another audience": ({"aud": "somebody-else"}, None),
    "meant for another": ({"azp": "somebody-else"}, None),
    "another issuer": ({"iss": "https://elsewhere.example"}, None),
    "over": ({"exp": 1_700_000_000}, None),
    "without an end": ({"exp": None}, None),
    "of the future": ({"iat": int(time.time()) + 86_400}, None),
    "of nobody": ({"sub": None}, None),
    "unsigned": ({}, unsigned),
    "by the secret": ({}, by_the_secret),
    "by another key": ({}, by_another),
    "nonsense": ({}, lambda _: "nonsense"),
    "a name of three thousand characters": ({"name": "N" * 3_000}, None),
    "a name that turns": ({"name": "Uma \u202eenroht"}, None),
}


@pytest.mark.parametrize("what", WRONG)
def test_what_a_provider_says_wrongly_lets_nobody_in_and_leaves_nothing_behind(
    around: Around, what: str
) -> None:
    changed, sign = WRONG[what]
    around.provider.say = lambda claims: {
        name: value for name, value in {**claims, **changed}.items() if value is not None
    }
    around.provider.sign = sign
    before = around.handles()
    found = around.log_in("uma")
    told = found.json()
    assert found.status_code == (422 if what.startswith("a name") else 401), told
    assert told["detail"]
    assert told["remedy"]
    assert around.handles() == before
    with around.house.desk.db.read() as conn:
        kind, payload = conn.execute(
            "SELECT e.kind, p.json FROM event e JOIN event_payload p ON p.seq = e.seq ORDER BY e.seq DESC LIMIT 1"
        ).fetchone()
    assert kind == "session.refused"
    assert json.loads(payload)["by"] == "provider"


def test_who_was_asked_too_little_or_too_long_ago_at_the_provider_is_not_let_in(tmp_path: Path) -> None:
    now = int(time.time())
    enough = {"acr": "strong", "amr": ["pwd", "otp"], "auth_time": now - 60}
    short = {
        "another acr": ({"acr": "weak"}, "too_weak", "weak"),
        "no acr": ({"acr": None}, "too_weak", "—"),
        "a password alone": ({"amr": ["pwd"]}, "too_weak", "pwd"),
        "no amr": ({"amr": None}, "too_weak", "—"),
        "an hour ago": ({"auth_time": now - 3_600}, "too_long_ago", "30"),
        "no time": ({"auth_time": None}, "too_long_ago", "30"),
        "a time in words": ({"auth_time": "now"}, "too_long_ago", "30"),
    }
    wanted = {"provider_acr": ["strong", "stronger"], "provider_amr": ["otp", "hwk"], "provider_fresh": 30}
    with standing(tmp_path, **wanted) as around:
        with around.browser() as browser:
            asked = parse_qs(urlsplit(around.leave(browser)).query)
            assert (asked["acr_values"], asked["max_age"]) == (["strong stronger"], ["1800"])
        for what, (changed, code, told) in short.items():
            around.provider.say = lambda claims, c=changed: {  # type: ignore[misc]
                n: v for n, v in {**claims, **enough, **c}.items() if v is not None
            }
            found = around.log_in("uma")
            assert (found.status_code, found.json()["code"]) == (401, f"provider.{code}"), what
            assert told in found.json()["detail"], what
            assert "uma" not in around.handles()
        around.provider.say = lambda claims: {**claims, **enough}
        assert around.log_in("uma").status_code == 201


def test_a_provider_that_says_yes_to_all_but_the_issuer_is_another(around: Around) -> None:
    with around.browser() as browser:
        back = {**around.choose(around.leave(browser), "uma"), "issuer": "https://elsewhere.example"}
        assert browser.post("/api/session/provider", json=back).json()["code"] == "provider.another_issuer"
        refused = browser.post(
            "/api/session/provider", json={**around.choose(around.leave(browser), "uma"), "code": "made-up"}
        )
        assert refused.status_code == 502
        assert refused.json()["code"] == "provider.refuses"


def test_sessions_end_at_the_providers_word_and_no_other_ones(around: Around) -> None:
    uma, wim = (around.log_in(who).json()["token"] for who in ("uma", "wim"))

    def is_in(token: str) -> bool:
        found = httpx.get(f"{around.url}/api/me", headers={"Authorization": f"Bearer {token}"})
        return found.status_code == 200

    assert is_in(uma)
    assert is_in(wim)
    assert around.provider.end(around.url, sid="session-nobody").status_code == 200
    assert is_in(uma)
    assert is_in(wim)
    assert around.provider.end(around.url, sid="session-uma").status_code == 200
    assert not is_in(uma)
    assert is_in(wim)
    again = around.log_in("uma").json()["token"]
    assert around.provider.end(around.url, sub="uma").status_code == 200
    assert not is_in(again)
    assert is_in(wim)
    # What does not say whom, what was meant as a log-in, and what was said before, ends nothing.
    assert around.provider.end(around.url).status_code == 400
    assert around.provider.end(around.url, sub="wim", nonce="n").status_code == 400
    around.provider.sign = by_another
    assert around.provider.end(around.url, sub="wim").status_code == 400
    around.provider.sign = None
    fixed = {"jti": "once"}
    around.provider.say = lambda claims: {**claims, **fixed}
    assert around.provider.end(around.url, sub="uma").status_code == 200
    twice = around.provider.end(around.url, sub="wim")
    assert twice.status_code == 400
    assert twice.headers["cache-control"] == "no-store"
    assert is_in(wim)


def test_a_provider_with_a_new_key_is_understood_and_one_that_is_away_is_said_to_be(
    around: Around, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(talking, "AGAIN", 0.0)
    assert around.log_in("uma").status_code == 201
    around.provider.key = ECKey.generate_key("P-256", {"use": "sig", "alg": "ES256"}, auto_kid=True)
    assert around.log_in("uma").status_code == 201
    monkeypatch.setattr(talking, "PATIENCE", 0.2)
    around.provider.slow = 0.6
    late = around.log_in("uma")
    assert late.status_code == 502
    assert late.json()["code"] == "provider.late"


def test_while_a_provider_does_not_answer_nobody_else_waits_for_it(
    around: Around, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(talking, "PATIENCE", 3.0)
    assert around.log_in("uma").status_code == 201
    # Far longer than anybody waits, so that a busy machine does not tell one from the other.
    around.provider.slow = 7
    with ThreadPoolExecutor(24) as pool:
        waiting = [pool.submit(around.log_in, "uma") for _ in range(24)]
        time.sleep(1.5)
        begun = time.monotonic()
        assert httpx.get(f"{around.url}/api/session/provider").status_code == 200
        answer = httpx.post(f"{around.url}/api/session", json={"handle": "wim", "password": "a guess"})
        assert answer.status_code == 401
        assert time.monotonic() - begun < 2
        answers = [one.result() for one in waiting]
    assert around.provider.most <= talking.AT_ONCE
    assert {one.status_code for one in answers} == {502}
    assert {"provider.late", "provider.many_wait"} >= {one.json()["code"] for one in answers}


def test_a_house_without_a_provider_says_so(tmp_path: Path) -> None:
    house = House(tmp_path, Clock(time.time_ns() // 1000))
    with serving(house) as (_, url), httpx.Client(base_url=url) as nobody:
        assert nobody.get("/api/session/provider").json() == {"name": ""}
        assert nobody.post("/api/session/provider/begin").json()["code"] == "provider.none"
    with (
        serving(house, provider=f"http://127.0.0.1:{free_port()}") as (_, url),
        httpx.Client(base_url=url, timeout=30) as nobody,
    ):
        assert nobody.get("/api/session/provider").json() == {"name": "127.0.0.1"}
        found = nobody.post("/api/session/provider/begin")
        assert found.status_code == 502
        assert found.json()["code"] == "provider.unreachable"
    house.close()


def test_whoever_sets_up_people_ends_the_way_through_the_provider(around: Around) -> None:
    token = around.log_in("uma").json()["token"]
    around.house.do("ida", lambda a: operations.disconnect(a, "uma"))
    found = httpx.get(f"{around.url}/api/me", headers={"Authorization": f"Bearer {token}"})
    assert found.status_code == 401
    # The address alone lets them in again, as it did at first; nobody else is made.
    assert around.log_in("uma").json()["me"]["handle"] == "uma"


def test_whoever_sets_up_people_sees_who_came_in_from_where_and_how_and_who_was_refused(
    around: Around,
) -> None:
    around.log_in("uma")
    around.log_in("nobody")
    around.provider.sign = unsigned
    around.log_in("uma")
    around.provider.sign = None
    httpx.post(f"{around.url}/api/session", json={"handle": "wim", "password": "a guess"})
    around.provider.end(around.url, sub="uma")
    with Client(around.url, around.house.log_in("ida")) as ida:
        found = ida.log_ins(limit=4).items
        told = [(one.what, one.handle, one.by) for one in found]
        assert told == [
            ("opened", "ida", "password"),
            ("ended", "uma", "provider"),
            ("refused", "wim", "password"),
            ("refused", "", "provider"),
        ]
        assert found[2].source == "127.0.0.1"
        assert found[2].name == ""
        assert "not for this house" in found[3].why
        came = list(every(partial(ida.log_ins, person="uma")))
        assert [one.kind for one in came] == ["session.ended", "session.opened", "person.connected"]
        assert came[1].source == "127.0.0.1"
        assert "python-httpx" in came[1].agent
        assert came[1].name == "Uma Thorne"
        # A name that is nobody's is found by who was refused under it.
        assert [one.handle for one in ida.log_ins(person="nobody").items] == ["nobody"]
        assert {one.what for one in ida.log_ins(what="changed").items} == {"changed"}
        assert ida.log_ins(since="2090-01-01").items == []
        walked = list(every(partial(ida.log_ins, limit=2)))
        assert [one.seq for one in walked] == [one.seq for one in ida.log_ins(limit=200).items]
        with pytest.raises(Refusal) as refused:
            ida.log_ins(person="nobody-here", what="opened")
        assert refused.value.problem.status == 404
    with Client(around.url, around.house.log_in("wim")) as wim, pytest.raises(Refusal) as shut:
        wim.log_ins()
    assert shut.value.problem.status == 403
