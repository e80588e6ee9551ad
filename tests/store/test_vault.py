"""Secrets in the record file are of no use without the key that lies elsewhere."""

from __future__ import annotations

import json
import stat
import threading
from collections.abc import Iterator
from pathlib import Path

import pyotp
import pytest
from typer.testing import CliRunner

from hawthorn.cli.app import app
from hawthorn.core.errors import NoKey
from hawthorn.core.timeline import SECOND
from hawthorn.messages import ENGLISH
from hawthorn.operations.access import logging_in, people, provider
from hawthorn.operations.delivery import previews, webhooks
from hawthorn.operations.exchange import receipts
from hawthorn.operations.translation import bureaus
from hawthorn.operations.translation.bureaus import BureauDetails
from hawthorn.service.app import open_desk
from hawthorn.service.settings import Settings
from hawthorn.store import vault
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
    one = Vault(tmp_path / "a.key")
    kept = one.seal("a secret")
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


def sealed_anywhere(house: House) -> dict[tuple[str, str], str]:
    """What lies sealed in the record file, in whatever table and column: the last of each."""
    out = {}
    with house.desk.db.read() as conn:
        for (table,) in conn.execute(
            "SELECT name FROM sqlite_schema WHERE type = 'table' AND sql NOT LIKE 'CREATE VIRTUAL%'"
        ).fetchall():
            rows = conn.execute(f'SELECT * FROM "{table}"')
            for row in rows.fetchall():
                for (column, *_), value in zip(rows.description, row, strict=True):
                    if isinstance(value, str) and is_sealed(value):
                        out[table, column] = value
    return out


@pytest.fixture
def secretive(tmp_path: Path) -> Iterator[House]:
    """A house with a secret in each place where one is kept sealed."""
    house = House(tmp_path)
    house.do("ida", lambda a: logging_in.begin_second_factor(a, "House", "long enough"))
    roles = [{"name": "writer"}]
    house.do(
        "ida", lambda a: people.invite_person(a, "new", "New", "new@x.example", roles, "UTC", "http://h")
    )
    house.do("ida", previews.open_pane)
    house.do("ida", receipts.have_key)
    house.do("ida", provider.begin)
    wanted = webhooks.Wanted("Site", "https://site.example/told")
    uuid, _ = house.do("ida", lambda a: webhooks.add(a, wanted))
    house.do("ida", lambda a: webhooks.rotate(a, uuid))
    made, _ = house.do(
        "ida", lambda a: bureaus.add(a, BureauDetails("Saltmarsh", "http://b.example", {}, key="k" * 20))
    )
    house.do("ida", lambda a: bureaus.new_secret(a, made.id))
    yield house
    house.close()


def test_the_key_is_changed_and_the_one_before_opens_nothing(secretive: House, tmp_path: Path) -> None:
    house = secretive
    before = sealed_anywhere(house)
    assert set(before) == {(table, column) for table, _, column in vault._PLACES}
    said = {at: house.desk.vault.open(kept) for at, kept in before.items()}
    running = Vault(house.desk.vault.path)
    assert running.open(before["second_factor", "secret"])
    called = CliRunner().invoke(app, ["change-key-file", "--file", str(house.path)])
    assert called.exit_code == 0, called.output
    (old,) = tmp_path.glob("*.key.before-*")
    assert old.name in called.output.replace("\n", "")
    for path in (old, running.path):
        assert stat.S_IMODE(path.stat().st_mode) == 0o600
        assert len(path.read_bytes().split()) == 1
    after = sealed_anywhere(house)
    assert {at: Vault(running.path).open(kept) for at, kept in after.items()} == said
    for kept in after.values():
        with pytest.raises(NoKey):
            Vault(old).open(kept)
    # Whoever ran meanwhile goes on, with the new key.
    assert {at: running.open(kept) for at, kept in after.items()} == said
    assert Vault(running.path).open(running.seal("x")) == "x"
    # What a copy of the file from before holds is opened with the key from before.
    assert Vault(old).open(before["second_factor", "secret"]) == said["second_factor", "secret"]
    house.desk.db.close()
    found = everything(house.path)
    assert not any(kept.encode() in found for kept in before.values())


@pytest.mark.parametrize("point", ["_put", "seal_anew", "end_change"])
def test_a_change_of_the_key_that_breaks_off_loses_nothing_and_is_taken_up(
    secretive: House, monkeypatch: pytest.MonkeyPatch, point: str
) -> None:
    house = secretive
    said = {at: house.desk.vault.open(kept) for at, kept in sealed_anywhere(house).items()}

    def broken(*_: object) -> None:
        raise KeyboardInterrupt

    with monkeypatch.context() as patched:
        patched.setattr(vault if point == "seal_anew" else Vault, point, broken)
        CliRunner().invoke(app, ["change-key-file", "--file", str(house.path)])
    # While it is half-way, everything is opened, and what is sealed in between, too.
    between = Vault(house.desk.vault.path)
    assert {at: between.open(kept) for at, kept in sealed_anywhere(house).items()} == said
    house.do("wim", lambda a: logging_in.begin_second_factor(a, "House", "long enough"))
    assert CliRunner().invoke(app, ["change-key-file", "--file", str(house.path)]).exit_code == 0
    assert len(house.desk.vault.path.read_bytes().split()) == 1
    alone = Vault(house.desk.vault.path)
    opened = {at: alone.open(kept) for at, kept in sealed_anywhere(house).items()}
    assert {at: text for at, text in opened.items() if at[0] != "second_factor"} == {
        at: text for at, text in said.items() if at[0] != "second_factor"
    }
