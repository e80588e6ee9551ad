"""Comments, assignments, notifications, workflows, roles and accounts from the command line."""

from __future__ import annotations

import json
import re
import tomllib
from datetime import date, timedelta
from pathlib import Path

import pytest
from typer.testing import CliRunner

from hawthorn.cli.access import account
from hawthorn.cli.app import app
from hawthorn.client import Client
from tests.cli.test_cli import Run, run
from tests.cli.test_writing import start
from tests.conftest import Running, eventually

__all__ = ["run"]


def test_what_is_said_is_listed_answered_and_resolved(run: Run) -> None:
    start(run, "Rope walk", body="<p>It runs along the quay.</p>")
    assert "No comments" in run("comments", "Rope walk").stdout
    run("comment", "Rope walk", "Which quay? @wim", "--field", "body", "--quote", "the quay", who="oda")
    run("comment", "Rope walk", "x", "--field", "body", "--quote", "the pier", who="oda", code=5)
    listed = run("comments", "Rope walk").stdout
    assert "Oda Brandt on Text" in listed
    assert "“the quay”" in listed
    comment = re.search(r"\s([0-9a-f]{8}[0-9a-f-]*)\s", listed)
    assert comment
    assert "to answer" in run("my-work").stdout
    run("reply", "Rope walk", comment[1], "The northern one.")
    run("save", "Rope walk", "--set", "body=<p>Nobody knows.</p>")
    assert "the passage is gone" in run("comments", "Rope walk").stdout
    run("resolve", "Rope walk", comment[1])
    assert "No comments" in run("comments", "Rope walk").stdout
    assert "resolved by Wim Aster" in run("comments", "Rope walk", "--all").stdout
    run("resolve", "Rope walk", comment[1], "--again")
    run("resolve", "Rope walk", "ffffffff", code=3)
    assert (
        json.loads(run("comments", "Rope walk", "--json").stdout)["items"][0]["replies"][0]["by"]
        == "Wim Aster"
    )


def test_assignments_and_notifications(running: Running, run: Run) -> None:
    start(run, "Net loft")
    before, day = (date.today() + timedelta(days=days) for days in (-3, 2))
    assert (
        "is past" in run("assign", "Net loft", "--to", "nell", "--due", str(before), who="oda", code=5).stderr
    )
    said = run("assign", "Net loft", "--to", "nell", "--due", str(day), "--note", "Shorter", who="oda").stdout
    assert f"assigned to Nell Farrow, due on {day}" in said
    run("assign", "Net loft", "--to", "nell", "--due", "soon", who="oda", code=5)
    run("assign", "Net loft", "--to", "nobody", who="oda", code=3)
    hand = run("my-work", who="nell").stdout
    assert f"Net loft (en) from Oda Brandt, by {day}" in hand
    assert re.search(r"The fog bell \(en\) from Oda Brandt, by [-0-9]{10} late", hand)
    eventually(lambda: "Assigned to you: Net loft" in run("notifications", who="nell").stdout)
    run("notifications", "--seen", who="nell")
    assert "•" not in run("notifications", who="nell").stdout
    chosen = run("notifications", "--way", "comment=at once", "--digest-hour", "7", who="nell").stdout
    assert "The digest comes at 07:00." in chosen
    run("notifications", "--way", "comment=by pigeon", who="nell", code=5)
    run("done", "Net loft", who="nell")
    run("done", "Net loft", who="nell", code=7)
    entry = running.id("Net loft")
    running.as_("oda").be_present(entry, "en", "page-of-the-cli", field="title")
    assert "Oda Brandt (en, in title)" in run("who-is-here", "Net loft").stdout
    running.as_("oda").leave_page("page-of-the-cli")
    assert "Nobody has it open." in run("who-is-here", "Net loft").stdout


def test_a_workflow_is_exported_checked_defined_chosen_and_followed(run: Run, tmp_path: Path) -> None:
    listed = run("workflow", "list").stdout
    assert "checked  Draft, review, facts, release" in listed
    assert "managing-editor may override" in listed
    run("workflow", "export", "none", code=3)
    made = json.loads(run("workflow", "export", "checked").stdout)
    made |= {"name": "talks", "label": "Talks"}
    del made["version"]
    file = tmp_path / "talks.json"
    file.write_text(json.dumps(made))
    run("workflow", "define", str(file), code=4)
    assert "version 1" in run("workflow", "define", str(file), who="ida").stdout
    made["stages"][2]["gate"]["sign_offs"] = 2
    file.write_text(json.dumps(made))
    looked = run("workflow", "define", str(file), "--check", who="ida").stdout
    assert "The gate before “Facts” asks for something else" in looked
    choices = tmp_path / "choices.json"
    before = run("workflow", "choose").stdout
    choices.write_text(json.dumps([*json.loads(before)["items"], {"workflow": "talks", "type": "talk"}]))
    assert (
        "change nothing of what stands"
        in run("workflow", "choose", str(choices), "--check", who="ida").stdout
    )
    run("workflow", "choose", str(choices), who="ida")
    run("workflow", "end", "talks", who="ida", code=7)
    file.write_text("{")
    run("workflow", "define", str(file), who="ida", code=5)
    choices.write_text(before)
    run("workflow", "choose", str(choices), who="ida")
    run("workflow", "end", "talks", who="ida")


def test_something_is_let_through_with_a_reason_and_moved_on(running: Running, run: Run) -> None:
    fields = {
        "title": "A case of knots",
        "page": [{"id": "a", "kind": "words", "fields": {"text": "<p>x</p>"}}],
    }
    entry = running.as_("nell").start("exhibition", fields)
    running.as_("nell").save(
        entry.id, "en", {"opens": {"wall": "2098-01-01T10:00", "zone": "UTC"}}, etag=entry.etag
    )
    lacking = running.as_("ida").entry(entry.id, "en")
    assert lacking.gate is not None
    run("override", "A case of knots", "--stage", "release", "--reason", "It opens tonight.", code=4)
    run("override", "A case of knots", "--stage", "release", "--reason", "It opens tonight.", who="ida")
    assert [p.reason for p in running.as_("wim").entry(entry.id, "en").overrides] == ["It opens tonight."]
    run("move-on", "A case of knots", code=7)


def test_roles_are_kept_in_a_readable_file(run: Run, tmp_path: Path) -> None:
    exported = run("role", "export").stdout
    roles = tomllib.loads(exported)["role"]
    assert {"verb": "read"} in next(r for r in roles if r["name"] == "writer")["grants"]
    file = tmp_path / "roles.toml"
    file.write_text(exported)
    assert "change nothing" in run("role", "define", str(file), "--check", who="ida").stdout
    assert "Nothing changed" in run("role", "define", str(file), who="ida").stdout
    file.write_text(
        exported
        + '\n[[role]]\nname = "guide"\nlabel = "Guide"\n[[role.grants]]\nverb = "write"\ntypes = ["notice"]\n'
    )
    run("role", "define", str(file), code=4)
    assert "It would change guide." in run("role", "define", str(file), "--check", who="ida").stdout
    assert "Changed: guide." in run("role", "define", str(file), who="ida").stdout
    assert "types notice" in run("role", "list").stdout
    invited = run(
        "person", "invite", "gus", "Gus Lorne", "gus@pellgrave.example", "--role", "guide:en", who="ida"
    )
    assert "/invitation?token=" in invited.stdout
    assert "/invitation?token=" in run("person", "invite-again", "gus", who="ida").stdout
    assert "invited" in run("person", "list", who="ida").stdout
    assert run("why", "gus", "write", "--type", "notice", "--locale", "en").stdout.startswith("Yes.")
    assert run("why", "gus", "write", "--type", "label", code=4).stdout.startswith("No.")
    assert run("why", "gus", "release", "--stage", "release", code=4).stdout.startswith("No.")
    run("role", "end", "guide", who="ida", code=7)
    assert "staff" in run("person", "roles", "gus", "--role", "staff", who="ida").stdout
    run("role", "end", "guide", who="ida")
    run("person", "end", "gus", who="ida")
    file.write_text("= nothing")
    run("role", "define", str(file), who="ida", code=5)


def test_ones_own_account(running: Running, run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    ida = running.as_("ida")
    address = ida.invite_person("pia", "Pia Lund", "pia@pellgrave.example", [{"name": "staff"}]).address
    monkeypatch.setattr(account.getpass, "getpass", lambda _: "harbour-light")
    with Client(running.url) as client:
        client.accept_invitation(address.rsplit("=", 1)[1], "harbour-light")
    assert "this one" in run("sessions", who="pia").stdout
    other = next(
        s["id"] for s in json.loads(run("sessions", "--json", who="pia").stdout)["items"] if not s["this"]
    )
    assert "Ended" in run("sessions", "--end", other, who="pia").stdout
    run("sessions", "--of", "ida", who="pia", code=4)
    assert "this one" not in run("sessions", "--of", "pia", who="ida").stdout
    typed = iter(["harbour-light", "another harbour", "another harbor"])
    monkeypatch.setattr(account.getpass, "getpass", lambda _: next(typed))
    run("password", who="pia", code=5)
    secrets: list[str] = []
    monkeypatch.setattr(
        account.getpass,
        "getpass",
        lambda asked: "harbour-light" if asked == "Password: " else running.code(secrets[0]),
    )
    original = type(ida).begin_second_factor

    class Watched:
        """Looks at the secret as it goes by, as an authenticator would."""

        def __get__(self, owner: object, kind: object = None) -> object:
            def go(password: str) -> object:
                made = original.__get__(owner, kind)(password)
                secrets.append(made.secret)
                return made

            return go

    monkeypatch.setattr(type(ida), "begin_second_factor", Watched())
    said = run("second-factor", who="pia").stdout
    assert len(re.findall(r"^  [a-z2-7]{4}(?:-[a-z2-7]{4}){5}$", said, re.M)) == 10
    spare = re.findall(r"[a-z2-7]{4}(?:-[a-z2-7]{4}){5}", said)[0]
    assert CliRunner().invoke(app, ["log-in", "pia", "--code", "000000"]).exit_code == 4
    assert CliRunner().invoke(app, ["log-in", "pia", "--code", spare]).exit_code == 0
    assert "Turned off" in run("second-factor", "--end", "--of", "pia", who="ida").stdout
    ida.end_person("pia")


def test_the_log_is_narrowed_by_person_and_time(run: Run) -> None:
    mine = run("events", "--person", "wim", "--kind", "entry.").stdout
    assert "Wim Aster" in mine
    assert "Oda Brandt" not in mine
    run("events", "--person", "oda", code=4)
    assert "entry." not in run("events", "--person", "wim", "--until", "2001-01-01").stdout
