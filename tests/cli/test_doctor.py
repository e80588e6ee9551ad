"""An installation looked at: what is wrong with it is said, with how to mend it; settings say where they come from."""

from __future__ import annotations

import json
import socket
import sqlite3
import time
from pathlib import Path

import pytest
from typer.testing import CliRunner

from hawthorn.cli.app import app
from hawthorn.core.timeline import SECOND
from hawthorn.service import doctor
from hawthorn.service.settings import Settings
from hawthorn.store import outbox, vault
from tests.service.made import Clock, House, serving


@pytest.fixture
def here(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A folder in which commands are given, without settings."""
    monkeypatch.chdir(tmp_path)
    for name in ("HAWTHORN_URL", "HAWTHORN_KEY", "HAWTHORN_PORT"):
        monkeypatch.delenv(name, raising=False)
    with socket.create_server(("127.0.0.1", 0)) as door:
        free = door.getsockname()[1]
    monkeypatch.setenv("HAWTHORN_PORT", str(free))
    return tmp_path


def found(**given: object) -> dict[str, str]:
    """What the doctor finds, by code, each with how it is."""
    return {
        one.what.code.removeprefix("doctor.").removesuffix(".what"): one.how
        for _, some in doctor.examine(Settings(**given))  # type: ignore[arg-type]
        for one in some
    }


def house_of_today(folder: Path) -> House:
    return House(folder, Clock(time.time_ns() // 1000))


def test_a_new_place_and_one_that_runs_are_well(here: Path) -> None:
    assert found()["no_file"] == "note"
    assert "wrong" not in found().values()
    made = CliRunner().invoke(app, ["doctor"])
    assert (made.exit_code, "Nothing is wrong." in made.output) == (0, True)
    house = house_of_today(here)
    try:
        with serving(house) as (_, url):
            told = found(file=house.path, port=int(url.rsplit(":", 1)[1]))
        assert (told["running"], told["file"], told["followers"]) == ("well", "well", "well")
        assert "wrong" not in told.values()
    finally:
        house.close()


def test_each_thing_that_is_wrong_is_said_with_how_to_mend_it(here: Path) -> None:
    (here / "hawthorn.toml").write_text('smpt_host = "mail.example"\npublic = "http://records.example"\n')
    house = house_of_today(here)
    page = house.signed("Late")
    house.plan([page], 1)
    house.desk.db.write(
        lambda conn: (
            conn.execute("UPDATE dispatch SET instant = instant - ?", (3600 * SECOND,)),
            outbox.put(conn, "mail", "m1", 1, "wim", "{}", 1),
            conn.execute("UPDATE outbox SET state = 'parked'"),
            conn.execute("UPDATE event SET at = at + ?", (3600 * SECOND,)),
        )
    )
    house.close()
    (here / "house.sqlite.key").write_text("x")
    (here / "house.sqlite.key").chmod(0o644)
    backups = here / "backups"
    with socket.create_server(("127.0.0.1", 0)) as door:
        # It takes the connection, and says nothing that a service would.
        door.listen()
        told = found(
            file=here / "house.sqlite",
            port=door.getsockname()[1],
            smtp_host="127.0.0.1",
            smtp_port=1,
            backups=backups,
        )
    expected = {
        "unknown_settings": "wrong",
        "not_https": "note",
        "overdue": "wrong",
        "parked": "wrong",
        "clock_behind": "wrong",
        "open_key": "wrong",
        "another_answers": "wrong",
        "mail_silent": "wrong",
        "none_yet": "note",
    }
    assert {code: told.get(code) for code in expected} == expected
    made = CliRunner().invoke(app, ["doctor", "--file", "house.sqlite"])
    assert made.exit_code == 1
    assert "smpt_host" in made.output
    assert "chmod 600" in made.output
    listed = json.loads(CliRunner().invoke(app, ["doctor", "--file", "house.sqlite", "--json"]).output)
    assert all(one["remedy"] for one in listed["items"] if one["how"] != "well")


def test_a_damaged_an_older_and_a_file_without_its_key_are_named(here: Path) -> None:
    (here / "damaged.sqlite").write_bytes(b"no database at all" * 100)
    assert "wrong" in found(file=here / "damaged.sqlite").values()
    house = house_of_today(here)
    with sqlite3.connect(house.path) as conn:
        assert not vault.anything_sealed(conn)
        conn.execute("INSERT INTO second_factor (actor, secret, begun_at) VALUES (2, 'sealed:x', 1)")
    assert found(file=house.path)["no_key"] == "wrong"
    with sqlite3.connect(house.path) as conn:
        conn.execute("DELETE FROM migration WHERE number = (SELECT max(number) FROM migration)")
    assert found(file=house.path)["older_file"] == "note"
    house.close()


def test_every_setting_says_where_it_comes_from_and_secrets_are_not_shown(
    here: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (here / "hawthorn.toml").write_text('host = "10.0.0.1"\nmachine_key = "hush"\nport = 1\n')
    monkeypatch.setenv("HAWTHORN_LOG", "json")
    made = CliRunner().invoke(app, ["settings", "--file", "x.sqlite", "--json"])
    told = {one["name"]: (one["value"], one["source"]) for one in json.loads(made.output)["items"]}
    assert told["file"] == ("x.sqlite", "flag")
    assert told["host"] == ("10.0.0.1", "file")
    assert told["port"][1] == "environment"
    assert told["log"] == ("json", "environment")
    assert told["secure"] == ("", "default")
    assert told["machine_key"] == ("•••", "file")
    assert list(told) == list(Settings.model_fields)
    assert "hush" not in made.output
    shown = CliRunner().invoke(app, ["settings"]).output
    assert "host = 10.0.0.1 from hawthorn.toml" in shown
