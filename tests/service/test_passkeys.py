"""Passkeys: added with the password, shown alone or after it, each answer once and for this house alone."""

from __future__ import annotations

import copy
import json
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.client import Client, Refusal
from hawthorn.core.errors import HawthornError, Refused
from hawthorn.core.timeline import SECOND
from hawthorn.operations.access import logging_in, passkeys
from hawthorn.operations.exchange import rights
from hawthorn.store import passkeys as store
from tests.service.device import Device, Held, coded, plain
from tests.service.made import House, serving

PASSWORD = "long enough"
HOST = "house.example"
ORIGIN = f"https://{HOST}"


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


@pytest.fixture
def url(house: House) -> Iterator[str]:
    with serving(house, public=ORIGIN) as (_, at):
        yield at


def device(**more: Any) -> Device:
    return Device(ORIGIN, HOST, **more)


def added(url: str, at: Device, handle: str = "wim", name: str = "Telephone") -> list[str]:
    """Add a passkey of a device to somebody, who logs in with the password; the spare codes it gave."""
    with Client(url) as client:
        client.log_in(handle, PASSWORD)
        asked = client.begin_passkey(PASSWORD)
        return client.add_passkey(asked.state, at.make(asked.options), name).codes


def shown(url: str, at: Device, handle: str = "", password: str = "", one: Held | None = None) -> Client:
    """Somebody who has logged in with a device."""
    client = Client(url)
    try:
        asked = client.begin_passkey_log_in(handle, password)
        client.log_in_with_passkey(asked.state, at.show(asked.options, one))
    except BaseException:
        client.close()
        raise
    return client


def refused(act: Callable[[], object], status: int, slug: str = "") -> Refusal:
    with pytest.raises(Refusal) as found:
        act()
    assert found.value.problem.status == status, found.value
    assert not slug or found.value.problem.slug == slug
    assert found.value.problem.remedy or found.value.problem.status == 422
    return found.value


def test_a_passkey_is_added_with_the_password_and_lets_in_alone_from_then_on(house: House, url: str) -> None:
    mine = device()
    with Client(url) as other:
        other.log_in("wim", PASSWORD)
        codes = added(url, mine)
        assert len(set(codes)) == 10
        # It turned a second factor on, so other sessions have ended.
        refused(other.me, 401)
    with shown(url, mine) as client:
        assert client.me().handle == "wim"
        (one,) = client.passkeys().items
        assert (one.name, bool(one.used_at)) == ("Telephone", True)
        assert client.account().second_factor
        assert client.rename_passkey(one.id, "  Old telephone ").name == "Old telephone"
    # The password alone is not enough, and says what would be.
    with Client(url) as client:
        needed = refused(lambda: client.log_in("wim", PASSWORD), 401, "code-needed")
        assert needed.problem.fact("passkey") is True
        client.log_in("wim", PASSWORD, codes[0])
        refused(lambda: client.log_in("wim", PASSWORD, codes[0]), 401, "code-needed")
    with shown(url, mine, "wim", PASSWORD) as client:
        assert client.me().handle == "wim"
    with Client(url) as ida:
        ida.log_in("ida", PASSWORD)
        means = [one.by for one in ida.log_ins(person="wim", what="opened").items]
        assert {"passkey", "password and passkey", "password and code"} <= set(means)
        assert {one.kind for one in ida.log_ins(person="wim", what="changed").items} >= {
            "person.passkey-added",
            "person.passkey-renamed",
            "person.second-factor-on",
        }


def test_one_that_does_not_know_who_holds_it_is_enough_after_the_password_and_not_alone(
    house: House, url: str
) -> None:
    key = device(verifies=False)
    added(url, key)
    refused(lambda: shown(url, key), 401, "not-logged-in")
    with shown(url, key, "wim", PASSWORD) as client:
        assert client.me().handle == "wim"
    # What was asked after the password of one is not answered by another's passkey.
    other = device()
    added(url, other, "ida")
    with Client(url) as client:
        asked = client.begin_passkey_log_in("wim", PASSWORD)
        refused(
            lambda: client.log_in_with_passkey(
                asked.state, other.show({**asked.options, "allowCredentials": []})
            ),
            401,
        )
        refused(lambda: client.begin_passkey_log_in("wim", "wrong password"), 401, "not-logged-in")
        refused(lambda: client.begin_passkey_log_in("tom", PASSWORD), 401)
        refused(lambda: client.begin_passkey_log_in("oda", PASSWORD), 409)


def test_an_answer_is_taken_once_and_for_what_it_was_asked(house: House, url: str) -> None:
    mine = device()
    added(url, mine)
    with Client(url) as client:
        asked = client.begin_passkey_log_in()
        answer = mine.show(asked.options)
        client.log_in_with_passkey(asked.state, answer)
        refused(lambda: client.log_in_with_passkey(asked.state, answer), 409)
        # Of many at once, one.
        asked = client.begin_passkey_log_in()
        answer = mine.show(asked.options)
        let_in: list[object] = []
        turned_away: list[int] = []

        def come() -> None:
            with Client(url) as another:
                try:
                    let_in.append(another.log_in_with_passkey(asked.state, answer))
                except Refusal as error:
                    turned_away.append(error.problem.status)

        coming = [threading.Thread(target=come) for _ in range(6)]
        for one in coming:
            one.start()
        for one in coming:
            one.join(60)
        assert len(let_in) == 1
        assert turned_away == [409] * 5
        # Too late.
        asked = client.begin_passkey_log_in()
        house.clock.at += passkeys.LASTS + SECOND
        refused(lambda: client.log_in_with_passkey(asked.state, mine.show(asked.options)), 409)
        # What was asked for one purpose is no answer to another.
        client.log_in_with_passkey(*question(client, mine))
        add = client.begin_passkey(PASSWORD)
        refused(lambda: client.log_in_with_passkey(add.state, mine.show(add.options)), 409)
        log = client.begin_passkey_log_in()
        refused(lambda: client.add_passkey(log.state, mine.show(log.options), "Another"), 409)
        with Client(url) as ida:
            ida.log_in("ida", PASSWORD)
            made = device()
            refused(lambda: ida.add_passkey(add.state, made.make(add.options), "Stolen"), 409)
        for state in ("", "x", "sealed:x", house.desk.vault.seal("[1]"), house.desk.vault.seal("no")):
            refused(lambda state=state: client.log_in_with_passkey(state, answer), 409)  # type: ignore[misc]


def question(client: Client, at: Device) -> tuple[str, dict[str, Any]]:
    asked = client.begin_passkey_log_in()
    return asked.state, at.show(asked.options)


def test_what_another_origin_or_another_device_says_lets_nobody_in(house: House, url: str) -> None:
    mine = device()
    added(url, mine)
    (held,) = mine.held
    attempts: dict[str, Device] = {
        "another origin": Device("https://house.example.evil.example", HOST, held=[held]),
        "a part of the house's host": Device("https://x.house.example", HOST, held=[held]),
        "not encrypted": Device("http://house.example", HOST, held=[held]),
        "another host": Device(ORIGIN, "evil.example", held=[held]),
    }
    stranger = device()
    for what, at in attempts.items():
        found = refused(lambda at=at: shown(url, at), 401)  # type: ignore[misc]
        assert found.problem.code == "passkeys.not_fitting", what
    with Client(url) as client:
        asked = client.begin_passkey_log_in()
        # Another key under the same name.
        stranger.make({"user": {"id": coded(held.user)}, "rp": {"id": HOST}, "challenge": "eA"})
        forged = stranger.show(asked.options)
        refused(lambda: client.log_in_with_passkey(asked.state, forged), 401)
        forged["id"] = forged["rawId"] = coded(held.id)
        refused(lambda: client.log_in_with_passkey(asked.state, forged), 401)
        # Another's challenge.
        older = client.begin_passkey_log_in()
        refused(lambda: client.log_in_with_passkey(asked.state, mine.show(older.options)), 401)
        # Another person's name for themselves.
        answer = mine.show(asked.options)
        answer["response"]["userHandle"] = coded(b"somebody else")
        refused(lambda: client.log_in_with_passkey(asked.state, answer), 401)
        # A word that has been changed on the way.
        answer = mine.show(asked.options)
        told = json.loads(plain(answer["response"]["clientDataJSON"]))
        answer["response"]["clientDataJSON"] = coded(json.dumps({**told, "more": 1}).encode())
        refused(lambda: client.log_in_with_passkey(asked.state, answer), 401)
        # And the true one is still taken, as none of them was.
        client.log_in_with_passkey(asked.state, mine.show(asked.options))
    with Client(url) as ida:
        ida.log_in("ida", PASSWORD)
        lines = [one for one in ida.log_ins(what="refused").items if one.by == "passkey"]
        assert {one.handle for one in lines} >= {"wim"}
        assert all(one.why for one in lines)


def test_a_device_that_counts_back_was_copied_and_is_not_let_in(house: House, url: str) -> None:
    mine = device(counts=True)
    added(url, mine)
    shown(url, mine).close()
    shown(url, mine).close()
    copied = copy.copy(mine.held[0])
    copied.counter -= 2
    refused(lambda: shown(url, device(counts=True, held=[copied])), 401)
    shown(url, mine).close()


def test_nonsense_is_refused_and_changes_nothing(house: House, url: str) -> None:
    mine = device()
    added(url, mine)
    with shown(url, mine) as client:
        refused(lambda: client.begin_passkey("wrong password"), 422)
        answers: list[dict[str, Any]] = [
            {},
            {"id": 7, "rawId": None, "response": 3},
            {"id": "é", "rawId": "é", "type": "public-key", "response": {}},
            {"id": "x" * 5_000, "response": {"userHandle": 3}},
        ]
        whole = mine.show(client.begin_passkey_log_in().options)
        answers.append({**whole, "response": 3})
        for name in ("authenticatorData", "clientDataJSON", "signature"):
            for wrong in ("", "AA", "*", None, 5, [], {"x": 1}, "A" * 4_000):
                answers.append({**whole, "response": {**whole["response"], name: wrong}})
        for given in answers:
            asked = client.begin_passkey_log_in()
            with Client(url) as nobody:
                found = refused(
                    lambda given=given, asked=asked, nobody=nobody: nobody.log_in_with_passkey(
                        asked.state, given
                    ),
                    401,
                )  # type: ignore[misc]
                assert "Traceback" not in str(found)
            begun = client.begin_passkey(PASSWORD)
            refused(lambda given=given, begun=begun: client.add_passkey(begun.state, given, "Wrong"), 422)  # type: ignore[misc]
        begun = client.begin_passkey(PASSWORD)
        for name in ("", " ", "x" * 81, "a\nb", "a\u202eb"):
            refused(
                lambda name=name: client.add_passkey(begun.state, device().make(begun.options), name), 422
            )  # type: ignore[misc]
        asked = client.begin_passkey(PASSWORD)
        # The device's own word that it is there already.
        assert [plain(one["id"]) for one in asked.options["excludeCredentials"]] == [mine.held[0].id]
        again = device(held=[])
        answer = again.make(asked.options)
        client.add_passkey(asked.state, answer, "Second")
        refused(lambda: client.add_passkey(asked.state, answer, "Second"), 409)
        assert [one.name for one in client.passkeys().items] == ["Second", "Telephone"]
        refused(lambda: client.end_passkey("nothing", PASSWORD), 404)
        refused(lambda: client.rename_passkey("nothing", "x"), 404)


def test_no_more_than_some_and_none_where_the_host_has_no_name(house: House) -> None:
    with serving(house) as (_, url), Client(url) as client:
        client.log_in("wim", PASSWORD)
        found = refused(lambda: client.begin_passkey(PASSWORD), 409)
        assert "127.0.0.1" in found.problem.detail
        refused(client.begin_passkey_log_in, 409)
    at = passkeys.House(HOST, (ORIGIN,))

    def add(act: Any) -> None:
        asked = passkeys.begin(act, at, PASSWORD)
        passkeys.add(act, at, asked.state, device().make(asked.options), "One of many")

    for _ in range(passkeys.MOST):
        house.do("wim", add)
    with pytest.raises(HawthornError) as error:
        house.do("wim", add)
    assert error.value.message.code == "passkeys.too_many"


def test_one_that_is_lost_is_removed_by_its_owner_or_by_whoever_sets_up_people(
    house: House, url: str
) -> None:
    first, second = device(), device()
    added(url, first)
    with shown(url, first) as client:
        asked = client.begin_passkey(PASSWORD)
        assert client.add_passkey(asked.state, second.make(asked.options), "Key ring").codes == []
        lost = next(one for one in client.passkeys().items if one.name == "Telephone")
        with shown(url, first) as thief:
            refused(lambda: client.end_passkey(lost.id, "wrong password"), 422)
            client.end_passkey(lost.id, PASSWORD)
            refused(thief.me, 401)
        refused(lambda: shown(url, first), 401)
        assert client.account().second_factor
        (last,) = client.passkeys().items
        client.end_passkey(last.id, PASSWORD)
        assert not client.account().second_factor
    with Client(url) as client:
        client.log_in("wim", PASSWORD)
    added(url, first)
    house.do("ida", lambda act: logging_in.end_factor_of(act, "wim"))
    refused(lambda: shown(url, first), 401)
    with Client(url) as client:
        client.log_in("wim", PASSWORD)
        assert client.passkeys().items == []
    with pytest.raises(Refused):
        house.do("wim", lambda act: logging_in.end_factor_of(act, "ida"))


def test_whoever_is_let_go_or_forgotten_has_none(house: House, url: str) -> None:
    from hawthorn.operations.access import people

    mine = device()
    added(url, mine)
    told = house.desk.read(house.who("ida"), lambda view: rights.about(view, "wim"))
    assert told["person"]["passkeys"] == ["Telephone"]
    wim = house.who("wim").id
    house.do("ida", lambda act: people.end_person(act, "wim"))
    refused(lambda: shown(url, mine), 401)
    house.do("ida", lambda act: rights.forget(act, "wim"))
    with house.desk.db.read() as conn:
        assert store.of(conn, wim) == []
        assert conn.execute("SELECT count(*) FROM passkey_user").fetchone()[0] == 0


def test_an_authenticator_that_is_there_stays_beside_passkeys(house: House, url: str) -> None:
    import pyotp

    begun = house.do("wim", lambda act: logging_in.begin_second_factor(act, "House", PASSWORD))

    def code() -> str:
        house.clock.at += 30 * SECOND
        return pyotp.TOTP(begun["secret"]).at(house.clock.at // SECOND)

    house.do("wim", lambda act: logging_in.confirm_second_factor(act, code()))
    mine = device()
    with Client(url) as client:
        client.log_in("wim", PASSWORD, code())
        asked = client.begin_passkey(PASSWORD)
        assert client.add_passkey(asked.state, mine.make(asked.options), "Beside").codes == []
        client.end_passkey(client.passkeys().items[0].id, PASSWORD)
        assert client.account().second_factor
    with Client(url) as client:
        found = refused(lambda: client.log_in("wim", PASSWORD), 401, "code-needed")
        assert found.problem.fact("passkey") is False
        client.log_in("wim", PASSWORD, code())
