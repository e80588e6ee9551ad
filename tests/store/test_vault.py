"""Secrets in the record file are of no use without the key that lies elsewhere."""

from __future__ import annotations

import json
import stat
import threading
from pathlib import Path

import pyotp
import pytest

from hawthorn.core.errors import NoKey
from hawthorn.core.timeline import SECOND
from hawthorn.messages import ENGLISH
from hawthorn.operations.access import logging_in, people
from hawthorn.operations.delivery import previews
from hawthorn.service.app import open_desk
from hawthorn.service.settings import Settings
from hawthorn.store.vault import Vault, is_sealed
from tests.service.made import House


def everything(path: Path) -> bytes:
    """All bytes of the record file and of what lies beside it, but for the key."""
    beside = path.parent.glob(path.name + "*")
    return b"".join(p.read_bytes() for p in beside if p.is_file() and not p.name.endswith(".key"))


def test_a_copy_of_the_record_file_opens_nothing(tmp_path: Path) -> None:
    house = House(tmp_path)
    begun = house.do("ida", lambda a: logging_in.begin_second_factor(a, "House", "long enough"))
    address = house.do(
        "ida",
        lambda a: people.invite_person(
            a, "new", "New", "new@x.example", [{"name": "writer"}], "UTC", "http://h"
        ),
    )
    pane = house.do("ida", lambda a: previews.open_pane(a))
    word = house.desk.read(house.who("ida"), lambda v: previews.token(v, str(pane)))
    with house.desk.db.read() as conn:
        secret = house.desk.vault.open(
            conn.execute("SELECT value FROM setting WHERE name='preview_secret'").fetchone()[0]
        )
    found = everything(house.path)
    for hidden in (begun["secret"], address.rpartition("=")[2], secret):
        assert hidden.encode() not in found
    assert stat.S_IMODE(house.desk.vault.path.stat().st_mode) == 0o600
    code = pyotp.TOTP(begun["secret"]).at(house.clock.at // SECOND)
    assert house.do("ida", lambda a: logging_in.confirm_second_factor(a, code))
    assert word
    house.close()


def test_a_file_from_before_is_sealed_when_it_is_opened(tmp_path: Path) -> None:
    house = House(tmp_path)
    secret, signing = pyotp.random_base32(), "a signing secret of old"
    payload = json.dumps({"subject": "S", "body": "token=OPENINVITATION"})

    def as_before(conn: object) -> None:
        conn.execute("INSERT INTO second_factor (actor, secret, begun_at) VALUES (2, ?, 1)", (secret,))  # type: ignore[attr-defined]
        conn.execute("INSERT INTO setting VALUES ('preview_secret', ?)", (signing,))  # type: ignore[attr-defined]
        conn.execute(  # type: ignore[attr-defined]
            "INSERT INTO outbox (follower, stable_id, seq, recipient, payload, state, next_at) "
            "VALUES ('mail', 'invitation-9', 9, 'x@x.example', ?, 'waiting', 1)",
            (payload,),
        )

    house.desk.db.write(as_before)
    house.close()
    desk = open_desk(Settings(file=house.path))
    with desk.db.read() as conn:
        kept = [
            conn.execute(sql).fetchone()[0]
            for sql in (
                "SELECT secret FROM second_factor",
                "SELECT value FROM setting WHERE name = 'preview_secret'",
                "SELECT payload FROM outbox WHERE stable_id = 'invitation-9'",
            )
        ]
    assert all(is_sealed(text) for text in kept)
    assert [desk.vault.open(text) for text in kept] == [secret, signing, payload]
    desk.db.close()
    found = everything(house.path)
    assert secret.encode() not in found
    assert b"OPENINVITATION" not in found


def test_a_key_that_is_gone_or_another_says_what_to_do(tmp_path: Path) -> None:
    vault = Vault(tmp_path / "a.key")
    kept = vault.seal("a secret")
    again = Vault(tmp_path / "a.key")
    assert again.open(kept) == "a secret"
    assert again.open("never sealed") == "never sealed"
    other = Vault(tmp_path / "b.key")
    other.seal("x")
    with pytest.raises(NoKey, match="not the one") as refused:
        other.open(kept)
    assert "key_file" in ENGLISH.remedy(refused.value)
    (tmp_path / "a.key").unlink()
    with pytest.raises(NoKey, match="is not there"):
        Vault(tmp_path / "a.key").open(kept)
    (tmp_path / "a.key").write_text("no key at all")
    with pytest.raises(NoKey, match="cannot be used"):
        Vault(tmp_path / "a.key").open(kept)


def test_of_many_who_make_the_key_at_once_all_use_one(tmp_path: Path) -> None:
    vaults = [Vault(tmp_path / "a.key") for _ in range(16)]
    gate = threading.Barrier(len(vaults))
    kept: list[str] = []

    def seal(vault: Vault) -> None:
        gate.wait()
        kept.append(vault.seal("x"))

    threads = [threading.Thread(target=seal, args=(vault,)) for vault in vaults]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert [Vault(tmp_path / "a.key").open(text) for text in kept] == ["x"] * 16
    assert [p.name for p in tmp_path.iterdir()] == ["a.key"]
