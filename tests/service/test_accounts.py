"""Roles, invitations, sessions and second factors: what one may give, and how one gets in."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path
from typing import Any

import httpx
import pyotp
import pytest

from hawthorn.core.errors import CodeNeeded, HawthornError, InTheWay, Invalid, NotFound, NotLoggedIn, Refused
from hawthorn.core.timeline import SECOND
from hawthorn.messages import ENGLISH
from hawthorn.operations.access import logging_in, people, permission
from hawthorn.store import people as store
from tests.conftest import Running, eventually
from tests.service.made import House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def grants(house: House, handle: str) -> set[str]:
    return {g.verb for _, g in house.who(handle).grants}


def setter(house: House, handle: str = "rolf", **limits: Any) -> None:
    """Somebody who may set up and read, and nothing else."""
    more = [{"verb": "configure"}, {"verb": "read"}, *({"verb": "write", **limits} if limits else {},)]
    house.do("ida", lambda a: people.define_role(a, "porter", "porter", [g for g in more if g]))
    house.by_scheduler(
        lambda a: people.add_person(a, handle, "Rolf", "", "long enough", [{"name": "porter"}])
    )


def test_nobody_gives_a_right_that_they_do_not_have_by_any_way(house: House) -> None:
    setter(house, types=["page"])
    ways: list[Any] = [
        lambda a: people.define_role(a, "porter", "porter", [{"verb": "configure"}, {"verb": "release"}]),
        lambda a: people.define_role(a, "new", "new", [{"verb": "sign"}]),
        lambda a: people.define_role(a, "new", "new", [{"verb": "write"}]),
        lambda a: people.define_role(a, "new", "new", [{"verb": "write", "types": ["picture"]}]),
        lambda a: people.set_holdings(a, "rolf", [{"name": "managing-editor"}]),
        lambda a: people.set_holdings(a, "wim", [{"name": "release-editor"}]),
        lambda a: people.invite_person(a, "x", "X", "x@x.example", [{"name": "reviewer"}], "UTC", "http://h"),
        lambda a: people.invite_again(a, "ida", "http://h"),
        lambda a: people.end_person(a, "ida"),
        lambda a: logging_in.end_second_factor(a, "ida", ""),
        lambda a: people.issue_key(a, "site", "reviewer", "program", ["release"]),
        # Nor does anybody take what they do not have.
        lambda a: people.define_role(a, "managing-editor", "managing editor", [{"verb": "configure"}]),
        lambda a: people.set_holdings(a, "ida", [{"name": "porter"}]),
        lambda a: people.set_holdings(a, "wim", [{"name": "staff"}]),
    ]
    house.by_scheduler(lambda a: people.add_person(a, "una", "Una", "", "long enough", [{"name": "staff"}]))
    for way in ways:
        with pytest.raises(Refused) as refused:
            house.do("rolf", way)
        assert ENGLISH.remedy(refused.value)
    house.do("rolf", lambda a: people.define_role(a, "new", "new", [{"verb": "write", "types": ["page"]}]))
    house.do("rolf", lambda a: people.set_holdings(a, "una", [{"name": "new", "locales": ["EN"]}]))
    assert [g.locales for _, g in house.who("una").grants] == [("en",)]
    assert grants(house, "una") == {"write"}
    # What somebody holds already may stay when something else of it changes.
    house.do("rolf", lambda a: people.set_holdings(a, "oda", [{"name": "section-editor"}]))


def test_the_last_who_can_set_up_stays(house: House) -> None:
    ways: list[Any] = [
        lambda a: people.end_person(a, "ida"),
        lambda a: people.set_holdings(a, "ida", [{"name": "writer"}]),
        lambda a: people.set_holdings(a, "ida", [{"name": "managing-editor", "locales": ["en"]}]),
        lambda a: people.define_role(a, "managing-editor", "managing editor", [{"verb": "read"}]),
    ]
    for way in ways:
        with pytest.raises(InTheWay, match="Nobody would be left"):
            house.do("ida", way)
    assert "configure" in grants(house, "ida")
    # Somebody who was invited and cannot log in yet does not count.
    invited = [{"name": "managing-editor"}]
    house.do(
        "ida", lambda a: people.invite_person(a, "una", "Una", "u@x.example", invited, "UTC", "http://h")
    )
    with pytest.raises(InTheWay):
        house.do("ida", lambda a: people.end_person(a, "ida"))
    house.by_scheduler(lambda a: people.add_person(a, "vera", "Vera", "", "long enough", invited))
    house.do("ida", lambda a: people.end_person(a, "ida"))
    with house.desk.db.read() as conn:
        assert store.by_handle(conn, "ida") is None
    with pytest.raises(InTheWay, match="already somebody called ida"):
        house.do("vera", lambda a: people.add_person(a, "ida", "Another", "", "long enough", []))


@pytest.mark.parametrize(
    ("grants", "says"),
    [
        ([{"verb": "fly"}], "is none of read"),
        ([{"verb": "read", "types": ["x"]}], "“x” is none of"),
        ([{"verb": "read", "stages": ["x"]}], "“x” is none of"),
        ([{"verb": "read", "locales": ["xx"]}], "“xx” is none of"),
        ([{"verb": "read", "sections": ["x"]}], "no section x"),
        ([{"verb": "read", "colour": "red"}], "not something a grant has"),
        ([{"verb": "configure", "types": ["page"]}], "for the whole house"),
        ([{"verb": "configure", "own": True}], "for the whole house"),
    ],
)
def test_a_role_that_cannot_be_is_refused(house: House, grants: list[dict[str, Any]], says: str) -> None:
    with pytest.raises(Invalid, match=says):
        house.do("ida", lambda a: people.define_role(a, "new", "new", grants))


def test_roles_from_a_file_are_changed_all_or_none_and_ended_when_nobody_holds_them(house: House) -> None:
    have = [asdict(role) for role in house.desk.read(house.who("ida"), people.roles)]
    assert house.do("ida", lambda a: people.define_roles(a, have)) == []
    more = [{"name": "porter", "label": "Porter", "grants": [{"verb": "read"}]}]
    assert house.do("ida", lambda a: people.define_roles(a, [*have, *more])) == ["porter"]
    bad = [
        {"name": "good", "label": "", "grants": []},
        {"name": "bad", "label": "", "grants": [{"verb": "x"}]},
    ]
    with pytest.raises(Invalid):
        house.do("ida", lambda a: people.define_roles(a, bad))
    assert "good" not in {r.name for r in house.desk.read(house.who("ida"), people.roles)}
    with pytest.raises(InTheWay, match="1 people or keys hold it"):
        house.do("ida", lambda a: people.end_role(a, "writer"))
    house.do("ida", lambda a: people.end_role(a, "porter"))
    with pytest.raises(NotFound):
        house.do("ida", lambda a: people.end_role(a, "porter"))


def log_in(house: House, handle: str, password: str = "long enough", code: str = "") -> str:
    row = house.desk.read(house.who(handle), lambda v: logging_in.check_password(v, handle, password))
    assert row is not None
    if not house.by_scheduler(lambda a: logging_in.require_code(a, row, code)):
        raise NotLoggedIn("wrong code")
    return house.by_scheduler(lambda a: logging_in.log_in(a, row, "Firefox"))


def test_an_invitation_is_used_once_lasts_a_week_and_ends_what_was_before(house: House) -> None:
    roles = [{"name": "writer", "locales": ["en"]}]
    address = house.do(
        "ida", lambda a: people.invite_person(a, "una", "Una", "una@x.example", roles, "UTC", "http://h")
    )
    first = address.rsplit("=", 1)[1]
    with house.desk.db.read() as conn:
        waiting = conn.execute("SELECT payload, recipient FROM outbox").fetchone()
        assert address in house.desk.vault.open(waiting["payload"])
        assert waiting["recipient"] == "una@x.example"
        assert not conn.execute("SELECT 1 FROM event_payload WHERE json LIKE ?", (f"%{first}%",)).fetchone()
        assert not conn.execute("SELECT 1 FROM invitation WHERE token_hash = ?", (first,)).fetchone()
    listed = house.desk.read(house.who("ida"), people.people)
    assert next(p["state"] for p in listed if p["handle"] == "una") == "invited"
    assert house.desk.read(house.who("ida"), lambda v: logging_in.check_password(v, "una", "")) is None
    second = house.do("ida", lambda a: people.invite_again(a, "una", "http://h")).rsplit("=", 1)[1]

    def accept(token: str, password: str = "harbour bell") -> str:
        return house.by_scheduler(lambda a: logging_in.accept_invitation(a, token, password, ""))

    for token in (first, "nothing"):
        with pytest.raises(NotFound, match="was used, or is over"):
            accept(token)
    with pytest.raises(Invalid, match="fewer than 8"):
        accept(second, "short")
    session = accept(second)
    with house.desk.db.read() as conn:
        assert logging_in.identify(conn, house.clock.now(), session).handle == "una"
    with pytest.raises(NotFound):
        accept(second)
    third = house.do("ida", lambda a: people.invite_again(a, "una", "http://h")).rsplit("=", 1)[1]
    house.clock.at += 8 * 86400 * SECOND
    with pytest.raises(NotFound):
        accept(third)


def test_a_password_is_changed_with_the_one_before_and_ends_other_sessions(house: House) -> None:
    here, there = log_in(house, "wim"), log_in(house, "wim")
    with pytest.raises(Invalid, match="not your password now"):
        house.do("wim", lambda a: logging_in.change_password(a, here, "wrong", "a longer one"))
    house.do("wim", lambda a: logging_in.change_password(a, here, "long enough", "a longer one"))
    with house.desk.db.read() as conn:
        assert logging_in.identify(conn, house.clock.now(), here).handle == "wim"
        with pytest.raises(NotLoggedIn):
            logging_in.identify(conn, house.clock.now(), there)
    log_in(house, "wim", "a longer one")


def test_sessions_are_seen_and_ended_by_whose_they_are_or_who_sets_up(house: House) -> None:
    here, _ = log_in(house, "wim"), log_in(house, "wim")
    mine = house.desk.read(house.who("wim"), lambda v: logging_in.sessions(v, here))
    assert sorted(s.this for s in mine) == [False, True]
    other = next(s.id for s in mine if not s.this)
    with pytest.raises(NotFound):
        house.do("oda", lambda a: logging_in.end_session(a, other))
    with pytest.raises(Refused):
        house.desk.read(house.who("oda"), lambda v: logging_in.sessions(v, "", "wim"))
    house.do("wim", lambda a: logging_in.end_session(a, other))
    left = house.desk.read(house.who("ida"), lambda v: logging_in.sessions(v, "", "wim"))
    assert len(left) == 1
    house.do("ida", lambda a: logging_in.end_session(a, left[0].id))
    with house.desk.db.read() as conn, pytest.raises(NotLoggedIn):
        logging_in.identify(conn, house.clock.now(), here)


def test_a_second_factor_is_asked_for_once_confirmed_and_each_code_holds_once(house: House) -> None:
    begun = house.do("wim", lambda a: logging_in.begin_second_factor(a, "House", "long enough"))
    assert begun["uri"].startswith("otpauth://totp/House:wim?secret=")
    log_in(house, "wim")
    totp = pyotp.TOTP(begun["secret"])

    def code(ahead: int = 0) -> str:
        return totp.at(house.clock.at // SECOND + ahead)

    with pytest.raises(Invalid, match="not the one"):
        house.do("wim", lambda a: logging_in.confirm_second_factor(a, "000000"))
    house.clock.at += SECOND * 60
    spare = house.do("wim", lambda a: logging_in.confirm_second_factor(a, code()))
    assert len(set(spare)) == 10
    with pytest.raises(CodeNeeded):
        log_in(house, "wim")
    for wrong in (code(), "123", code(600)):  # the one that was used, none, and one of later
        with pytest.raises(NotLoggedIn):
            log_in(house, "wim", code=wrong)
    house.clock.at += SECOND * 60
    log_in(house, "wim", code=code())
    log_in(house, "wim", code=spare[0])
    with pytest.raises(NotLoggedIn):
        log_in(house, "wim", code=spare[0])
    with pytest.raises(Invalid, match="is not yours"):
        house.do("wim", lambda a: logging_in.end_second_factor(a, "", "wrong"))
    house.do("ida", lambda a: logging_in.end_second_factor(a, "wim", ""))
    log_in(house, "wim")


def test_a_section_limits_what_a_person_may_everywhere_it_should(house: House) -> None:
    from hawthorn.operations.content import changing, entries
    from tests.service.test_workflows import SECTION

    house.do("ida", lambda a: changing.define_type(a, {**SECTION, "name": "hall", "label": "Hall"}))
    halls = [
        house.do("ida", lambda a, n=n: entries.start(a, "hall", "en", {"title": n}))
        for n in ("North", "South")
    ]
    inner = house.do("ida", lambda a: entries.start(a, "hall", "en", {"title": "Alcove", "below": halls[0]}))
    pages = {
        name: house.do("ida", lambda a, n=name, h=h: entries.start(a, "page", "en", {"title": n, "below": h}))
        for name, h in (("in", inner), ("out", halls[1]))
    }
    house.do("ida", lambda a: people.set_holdings(a, "wim", [{"name": "writer", "sections": [halls[0]]}]))

    def may(name: str) -> bool:
        said = house.desk.read(
            house.who("ida"), lambda v: permission.why(v, "wim", "write", entry=pages[name], locale="en")
        )
        return bool(said.allowed)

    assert (may("in"), may("out")) == (True, False)

    def move(act: Any) -> None:
        row = entries.store.entry(act.conn, inner)
        entries.save(act, inner, "en", {"below": halls[1]}, entries.current_base(act, row.id, "en"))

    house.do("ida", move)
    assert (may("in"), may("out")) == (False, False)


def test_over_http_an_invitation_arrives_by_mail_and_lets_in(running: Running) -> None:
    ida = running.as_("ida")
    made = ida.invite_person(
        "una", "Una Thorne", "una@pellgrave.example", [{"name": "writer", "locales": ["en"]}]
    )
    mail = eventually(
        lambda: [m for m in running.mails("Your invitation to Hawthorn") if made.address in m["body"]]
    )
    assert mail
    token = made.address.rsplit("=", 1)[1]
    with httpx.Client(base_url=running.url) as nobody:
        looked = nobody.post("/api/invitation", json={"token": token}).json()
        assert looked == {"handle": "una", "name": "Una Thorne", "by": "Ida Marlow"}
        joined = nobody.post("/api/invitation/accept", json={"token": token, "password": "the tide turns"})
        assert joined.status_code == 200
        assert nobody.get("/api/me").json()["handle"] == "una"
        assert (
            nobody.post("/api/invitation/accept", json={"token": token, "password": "x" * 9}).status_code
            == 404
        )
        begin = "/api/account/second-factor"
        assert nobody.post(begin, json={"password": "not it"}).status_code == 422
        begun = nobody.post(begin, json={"password": "the tide turns"}).json()
        assert begun["picture"].startswith("<svg")
        code = pyotp.TOTP(begun["secret"]).now()
        assert (
            len(nobody.post("/api/account/second-factor/confirm", json={"code": code}).json()["codes"]) == 10
        )
        asked = {"handle": "una", "password": "the tide turns"}
        refused = nobody.post("/api/session", json=asked)
        assert (refused.status_code, refused.json()["type"]) == (401, "urn:hawthorn:problem:code-needed")
        assert nobody.post("/api/session", json={**asked, "code": code}).status_code == 401
    ida.end_person("una")
    with pytest.raises(Exception, match="nobody called una"):
        ida.sessions_of("una")


@pytest.mark.parametrize("name", ["", "Rolf Ö", "x" * 41])
def test_a_role_needs_a_name_for_programs(house: House, name: str) -> None:
    with pytest.raises(HawthornError):
        house.do("ida", lambda a: people.define_role(a, name, "x", []))
