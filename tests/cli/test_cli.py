"""The command line against the running museum: the story, refusals, exit codes, JSON, and naming entries."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import httpx
import pytest
from typer.testing import CliRunner, Result

from hawthorn.cli.app import assembled
from hawthorn.cli.context import EXIT
from tests.conftest import Running, eventually
from tests.service.test_story import png

Run = Callable[..., Result]


@pytest.fixture
def run(running: Running, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Run:
    """Runs a command as somebody; the session is kept in a folder of the test."""
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    monkeypatch.setenv("HAWTHORN_URL", running.url)
    monkeypatch.setenv("HAWTHORN_PASSWORD", "harbour-light")
    monkeypatch.setenv("COLUMNS", "160")
    last = {"who": ""}

    def go(*words: str, who: str = "wim", code: int = 0) -> Result:
        runner = CliRunner()
        if last["who"] != who:
            assert runner.invoke(assembled("log-in"), ["log-in", who]).exit_code == 0
            last["who"] = who
        # As the program does: only the part that holds the command.
        result = runner.invoke(assembled(next((w for w in words if not w.startswith("-")), "")), list(words))
        assert result.exit_code == code, result.output
        return result

    return go


def test_an_entry_goes_the_whole_way_by_command_line(running: Running, run: Run, tmp_path: Path) -> None:
    picture = tmp_path / "sail.png"
    picture.write_bytes(png("navy"))
    run(
        "entry",
        "start",
        "picture",
        "--set",
        "title=A sail",
        "--set",
        f"file=@{picture}",
        "--set",
        "alt=A brown sail.",
    )
    started = run(
        "entry",
        "start",
        "label",
        "--set",
        "title=The brown sail",
        "--set",
        "picture=A sail",
        "--set",
        "maker=Marta Hollin",
    )
    assert "draft ●  review ○  release ○" in started.output
    assert "incomplete: missing: Text, Accession number" in started.output
    refused = run("submit", "The brown sail", code=EXIT["gate-unmet"])
    assert "“Text” is required and empty" in refused.output
    text = tmp_path / "text.html"
    text.write_text("<p>Tanned with <b>oak bark</b>. It lasted for years.</p>")
    run(
        "save",
        "The brown sail",
        "--set",
        f"body=@{text}",
        "--set",
        "number=PH 1900.4",
        "--set",
        "tags=sail, bark",
        "--note",
        "Text",
    )
    run("submit", "The brown sail", "--note", "Please look.")
    hand = run("my-work", who="oda").output
    assert "to review  The brown sail (en, revision 2) from Wim Aster: Please look." in hand
    run("send-back", "The brown sail", "--reason", "Which oak?", who="oda")
    assert "sent back  The brown sail" in run("my-work").output
    text.write_text("<p>Tanned with <b>Pellgrave oak bark</b>. It lasted for years.</p>")
    run("save", "The brown sail", "--set", f"body=@{text}")
    compared = run("compare", "The brown sail", "--before", "2", "--after", "3").output
    assert "with {+Pellgrave +}oak bark" in compared
    run("submit", "The brown sail")
    run("sign", "The brown sail", "--note", "Good.", who="oda")
    blocked = run("release", "The brown sail", "--check", who="ida", code=EXIT["gate-unmet"]).output
    assert "refers to “A sail”" in blocked
    assert "--with-needs lets go along" in blocked
    late = run("plan", "The brown sail", "--at", "2020-01-01T09:00", who="ida", code=EXIT["bad-time"]).output
    assert "is past" in late
    planned = run(
        "plan",
        "The brown sail",
        "--at",
        "2099-01-01T09:00",
        "--zone",
        "Asia/Tokyo",
        "--with-needs",
        "--name",
        "Sails",
        who="ida",
    )
    assert "planned" in planned.output
    assert "↷" in run("show", "The brown sail").output
    assert "Sails" in run("dispatch", "list", who="ida").output
    run("dispatch", "cancel", "Sails", who="ida")
    run("release", "The brown sail", who="ida", code=EXIT["gate-unmet"])
    run("release", "The brown sail", "--with-needs", who="ida")
    assert "Pellgrave oak bark" in run("read", "/en/the-brown-sail").output

    run("commission", "The brown sail", "--locale", "fr", "--name", "Sails in French", who="mina")
    job = next(j for j in running.as_("mina").jobs().items if j.name == "Sails in French")
    file = tmp_path / "job.xlf"
    fetched = run("job", "export", job.id[-12:], "--file", str(file), who="mina").output
    assert "Import the translated file" in fetched
    run("job", "import", job.id, str(file), who="mina", code=EXIT["bad-file"])
    done = file.read_text().replace("</source></segment>", "</source><target>La voile</target></segment>")
    file.write_text(done.replace("<source>Tanned with", "<source>Dyed with"))
    broken = run("job", "import", job.id, str(file), "--whole", who="mina", code=EXIT["bad-file"]).output
    assert "has another source text than was sent" in broken
    assert "Nothing was changed" in broken
    partly = run("job", "import", job.id, str(file), who="mina", code=EXIT["bad-file"]).output
    assert "Units merged: 1;" in partly
    assert "not taken The brown sail" in partly
    assert "1 of 2 units is still open" in partly
    file.write_text(done)
    whole = run("job", "import", job.id, str(file), who="mina").output
    assert "Units merged: 1;" in whole
    assert "formatting left out: tag 1" in whole
    assert "0 left" in run("job", "accept", job.id, who="luc").output
    run("release", "The brown sail", "--locale", "fr", who="jonas")
    assert "La voile" in run("read", running.id("The brown sail"), "--locale", "fr").output
    kinds = run("history", "The brown sail").output
    assert all(kind in kinds for kind in ("review.sent-back", "dispatch.gone", "job.accepted"))
    run("withdraw", "The brown sail", "--locale", "en", who="jonas")
    run("read", "/en/the-brown-sail", code=EXIT["not-found"])


@pytest.mark.parametrize(
    ("words", "who"),
    [
        (("save", "The lift is being repaired", "--force", "--set", "title=x"), "jonas"),
        (("submit", "The harbour lamp"), "mina"),
        (("sign", "The lift is being repaired"), "nell"),
        (("send-back", "The lift is being repaired", "--reason", "x"), "wim"),
        (("release", "The lift is being repaired"), "oda"),
        (("withdraw", "Winter opening hours"), "oda"),
        (("commission", "Winter opening hours", "--locale", "ja"), "wim"),
        (("key", "issue", "Mine"), "oda"),
        (("events",), "oda"),
    ],
)
def test_every_step_is_refused_with_a_reason_and_who_could_do_it(
    run: Run, words: tuple[str, ...], who: str
) -> None:
    refused = run(*words, who=who, code=EXIT["refused"])
    assert "may not" in refused.output
    assert "Ask " in refused.output


def test_a_conflict_shows_both_and_is_settled_by_choice(running: Running, run: Run) -> None:
    entry = running.notice("Clash by command")
    running.as_("nell").save(entry.id, "en", {"title": "Theirs by command"}, etag=entry.etag)
    words = ("save", entry.id, "--etag", entry.etag, "--set", "title=Ours by command")
    shown = run(*words, code=EXIT["conflict"]).output
    assert "yours:  Ours by command" in shown
    assert "theirs: Theirs by command" in shown
    assert "Nothing is lost" in shown
    assert "Ours by command" in run(*words, "--take", "ours").output


def test_records_are_printed_as_json(run: Run) -> None:
    for words in (
        ("find", "--type", "label"),
        ("show", "The harbour lamp"),
        ("job", "list"),
        ("dispatch", "list"),
        ("my-work",),
        ("me",),
        ("type", "list"),
        ("history", "The fog bell"),
    ):
        assert json.loads(run(*words, "--json").output)
    assert json.loads(run("show", "The harbour lamp", "--json").output)["title"] == "The harbour lamp"
    no = run("why", "wim", "release", "--json", code=EXIT["refused"])
    assert json.loads(no.output)["allowed"] is False


def test_errors_are_json_where_records_are(run: Run) -> None:
    for words, code in (
        (("show", "nothing is called this", "--json"), EXIT["not-found"]),
        (("find", "--type", "nosuch", "--json"), EXIT["invalid"]),
        (("entry", "start", "label", "--set", "title", "--json"), EXIT["wrong use"]),
    ):
        told = json.loads(run(*words, code=code).output)
        assert told["detail"]
        assert told["remedy"]
    assert "✗" in run("show", "nothing is called this", code=EXIT["not-found"]).output


def test_a_save_is_based_on_what_was_last_read_here(running: Running, run: Run) -> None:
    entry = running.notice("Read before it is written")
    unread = run("save", entry.id, "--set", "title=Mine", code=EXIT["wrong use"]).output
    assert "was not read here before" in unread
    run("show", entry.id[:20])
    running.as_("nell").save(entry.id, "en", {"body": "<p>Theirs meanwhile.</p>"}, etag=entry.etag)
    assert "Merged with revision 2 by Nell" in run("save", entry.id[-12:], "--set", "title=Mine").output
    nells = running.as_("nell")
    now = nells.entry(entry.id, "en")
    nells.save(entry.id, "en", {"title": "Theirs again"}, etag=now.etag)
    run("save", entry.id, "--set", "title=Mine again", code=EXIT["conflict"])
    assert "Whatever" in run("save", entry.id, "--force", "--set", "title=Whatever").output


def test_what_all_languages_share_has_a_history_and_goes_back_by_command_line(
    running: Running, run: Run
) -> None:
    entry = running.notice("Shared by all", shown_date="2026-03-01")
    run("show", entry.id)
    run("save", entry.id, "--set", "shown_date=2026-04-01", "--note", "A month later.")
    assert "A month later." in run("history", entry.id, "--shared").output
    run("entry", "restore", entry.id, "1", "--shared")
    assert running.as_("wim").entry(entry.id, "en").fields["shown_date"] == "2026-03-01"
    run("comment", entry.id, "Who says so?", "--strand", "Spring", code=EXIT["not-found"])
    running.as_("wim").fork_strand(entry.id, "en", "Spring")
    strand = running.as_("wim").entry(entry.id, "en", strand="Spring")
    running.as_("wim").save(entry.id, "en", {"title": "Of spring"}, etag=strand.etag, strand="Spring")
    run("comment", entry.id, "Who says so?", "--field", "title", "--quote", "spring", "--strand", "Spring")
    assert "in the strand “Spring”" in run("comments", entry.id).output
    assert "“spring”" in run("comments", entry.id, "--strand", "Spring").output


def test_values_are_taken_in_the_form_that_their_field_has(run: Run, tmp_path: Path) -> None:
    run("entry", "start", "label", "--set", "title=Forms of values", "--set", 'tags=["otters", "by the sea"]')
    assert json.loads(run("show", "Forms of values", "--json").output)["fields"]["tags"] == [
        "otters",
        "by the sea",
    ]
    run("save", "Forms of values", "--set", "tags=nets, ropes")
    assert json.loads(run("show", "Forms of values", "--json").output)["fields"]["tags"] == ["nets", "ropes"]
    for given, says in (
        ("tags=[otters", "takes JSON"),
        (f"body=@{tmp_path}/none.html", "cannot be read"),
    ):
        assert says in run("save", "Forms of values", "--set", given, code=EXIT["wrong use"]).output


def test_a_name_that_means_several_entries_shows_the_choice(run: Run) -> None:
    for title in ("Two of a name: bell", "Two of a name: gull"):
        run("entry", "start", "notice", "--set", f"title={title}")
    several = run("show", "Two of a name", code=EXIT["wrong use"])
    assert "may mean 2 entries" in several.output
    assert "Two of a name: bell" in several.output
    assert run("show", "nothing is called this", code=EXIT["not-found"]).output.count("hawthorn find")


def test_keys_are_issued_listed_and_ended(running: Running, run: Run) -> None:
    issued = json.loads(run("key", "issue", "Foyer screen", "--stage", "release", "--json", who="ida").output)
    assert "Foyer screen" in run("key", "list", who="ida").output
    run("key", "end", str(issued["key"]["id"]), who="ida")
    assert "Foyer screen" not in run("key", "list", who="ida").output
    run("key", "end", "99999", who="ida", code=EXIT["not-found"])


def test_a_type_is_defined_by_file_while_the_service_runs(run: Run, tmp_path: Path) -> None:
    file = tmp_path / "leaflet.json"
    file.write_text(
        json.dumps(
            {
                "name": "leaflet",
                "label": "Leaflet",
                "workflow": "short",
                "fields": [{"name": "title", "kind": "line"}],
            }
        )
    )
    assert "version 1" in run("type", "define", str(file), who="ida").output
    run("entry", "start", "leaflet", "--set", "title=Tides", who="ida")
    assert "version 2" in run("type", "define", str(file), who="ida").output
    assert "Tides" in run("show", "Tides", who="ida").output


def test_progress_of_a_bureau_is_seen(running: Running, run: Run) -> None:
    entry = running.notice("Seen on its way")
    run("commission", entry.id, "--locale", "fr", "--bureau", "Saltmarsh Translations", who="mina")
    assert "words" in run("commission", entry.id, "--locale", "ja", "--check", who="mina").output

    def state() -> str:
        found = json.loads(run("job", "list", "--json", who="mina").output)
        return next(job["state"] for job in found["items"] if job["name"] == "Seen on its way")

    eventually(lambda: state() == "returned")
    of_bureau = ("--locale", "fr", "--bureau", "Saltmarsh Translations")
    assert "Seen on its way" in run("job", "list", "--state", "returned", *of_bureau, who="mina").output
    assert "Seen on its way" not in run("job", "list", "--state", "cancelled", who="mina").output
    nobodys = run("job", "list", "--state", "failed", "--person", "wim", who="mina").output
    assert "There are no such jobs." in nobodys
    refused = run("job", "list", "--state", "lost", who="mina", code=EXIT["invalid"]).output
    assert "has to be one of open, waiting, sent, in work" in " ".join(refused.split())


def test_the_program_itself_answers_and_says_what_to_do(tmp_path: Path) -> None:
    env = {
        **os.environ,
        "XDG_CONFIG_HOME": str(tmp_path),
        "HAWTHORN_URL": "http://127.0.0.1:9",
        "HAWTHORN_KEY": "",
    }
    hawthorn = [sys.executable, "-m", "hawthorn.cli.app"]

    def go(*words: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [*hawthorn, *words], capture_output=True, text=True, env=env, cwd=tmp_path, check=False
        )

    assert go("--version").stdout.startswith("hawthorn ")
    assert "Exit codes" in go("--help").stdout
    nobody = go("my-work")
    assert nobody.returncode == EXIT["unreachable"]
    assert "hawthorn serve" in nobody.stderr
    assert go("nonsense").returncode == 2
    assert "HAWTHORN_PORT" in go("settings").stdout
    assert go("check", "--file", str(tmp_path / "none.sqlite")).returncode == EXIT["not-found"]


def test_the_file_of_the_running_museum_is_sound(running: Running, run: Run) -> None:
    assert "All is well." in run("check", "--file", str(running.demo.settings.file)).output


def test_every_command_is_found_in_the_part_that_is_said_to_hold_it() -> None:
    from importlib import import_module

    import typer

    from hawthorn.cli.app import PARTS

    for part, names in PARTS.items():
        alone = typer.Typer()
        import_module(f"hawthorn.cli.{part}").install(alone)
        have = {
            c.name or c.callback.__name__.replace("_", "-") for c in alone.registered_commands if c.callback
        }
        assert have | {str(g.name) for g in alone.registered_groups} == set(names), part
    assert len(assembled("find").registered_commands) == len(PARTS["content.entries"]) - 1
    assert len(assembled().registered_commands) > 40


def test_a_command_loads_only_what_it_needs() -> None:
    loaded = subprocess.run(
        [
            sys.executable,
            "-c",
            "import sys; from hawthorn.cli.app import assembled; assembled('find'); print(*sys.modules)",
        ],
        capture_output=True,
        text=True,
        check=True,
    ).stdout.split()
    assert "hawthorn.cli.content.entries" in loaded
    for heavy in (
        "fastapi",
        "lxml",
        "uvicorn",
        "sqlite3",
        "hawthorn.cli.access.people",
        "hawthorn.operations",
    ):
        assert heavy not in loaded, heavy


def test_languages_are_added_changed_and_ended_by_command(run: Run, tmp_path: Path) -> None:
    def ida(*words: str, code: int = 0) -> Result:
        return run("locale", *words, who="ida", code=code)

    said = ida("add", "cy", "Cymraeg", "--fallback", "en", "--check").output
    assert "Cymraeg (cy): added" in said
    assert "Cymraeg" not in ida("list").output
    ida("add", "cy", "Cymraeg", "--fallback", "en")
    try:
        listed = ida("list").output
        assert re.search(r"cy\s+Cymraeg\s+left to right\s+en, the source", listed)
        ida("set", "cy", "--fallback", "none", "--direction", "rtl")
        assert re.search(r"cy\s+Cymraeg\s+right to left\s+the source", ida("list").output)
        assert "cannot end" in ida("end", "en", "--check", code=EXIT["in-the-way"]).output
        assert "is there already" in ida("add", "CY", code=EXIT["in-the-way"]).output
        kept = tmp_path / "locales.json"
        kept.write_text(ida("list", "--json").output)
        assert "Nothing would change" in ida("load", str(kept), "--check").output
    finally:
        assert "Cymraeg (cy): ended" in ida("end", "cy").output
    ida("add", "fr", code=EXIT["in-the-way"])
    assert "may not" in run("locale", "add", "it", who="wim", code=EXIT["refused"]).output


def test_a_dispatch_is_put_together_sent_and_undone_by_command_line(run: Run, running: Running) -> None:
    bell, rope = running.signed("A ship's bell"), running.notice("A rope end")
    made = run("dispatch", "start", "Hall two", "--note", "All of it.", "--owner", "ida", who="wim").output
    assert "Hall two" in made
    assert "open, no time yet" in made
    added = run("dispatch", "add", "Hall two", bell.id, rope.id, who="wim").output
    assert added.count("nothing → whatever is approved then") == 2
    assert "It is blocked" in run("dispatch", "check", "Hall two", who="ida", code=EXIT["gate-unmet"]).output
    run("dispatch", "change", "Hall two", "--send-the-rest", who="wim")
    in_part = run("dispatch", "check", "Hall two", who="ida", code=EXIT["gate-unmet"]).output
    assert "What is in the way is held back; the rest goes." in in_part
    run("dispatch", "send", "Hall two", who="wim", code=EXIT["refused"])
    run("dispatch", "drop", "Hall two", rope.id, who="wim")
    run("dispatch", "change", "Hall two", "--name", "Hall 2", "--send-the-rest", who="wim")
    assert "planned" in run("dispatch", "plan", "Hall 2", "--at", "2098-01-01T09:00", who="ida").output
    assert "open" in run("dispatch", "reopen", "Hall 2", who="ida").output
    assert "gone" in run("dispatch", "send", "Hall 2", who="ida").output
    assert running.as_("ida").read(bell.id).title == "A ship's bell"
    found = run("dispatch", "undo", "Hall 2", "--check", who="ida").output
    assert "revision 1 → nothing" in found
    assert "Nothing blocks it" in found
    assert "Undo: Hall 2" in run("dispatch", "undo", "Hall 2", "--note", "Too early.", who="ida").output
    undone = json.loads(run("dispatch", "show", "Hall 2", "--json", who="ida").output)
    of_it = " ".join(run("dispatch", "show", undone["id"], who="ida").output.split())
    assert f"undone by dispatch {undone['undone_by']}" in of_it
    assert f"undoes dispatch {undone['id']}" in " ".join(
        run("dispatch", "show", undone["undone_by"], who="ida").output.split()
    )
    assert json.loads(run("dispatch", "list", "--json", who="ida").output) != []


def test_a_quiet_period_is_added_overridden_changed_and_ended_by_command_line(
    run: Run, running: Running
) -> None:
    oar = running.signed("An oar")
    times = ("--from", "2031-05-01T20:00", "--until", "2031-05-02T06:00", "--zone", "UTC")
    made = run("quiet-period", "add", *times, "--reason", "Oars are oiled.", who="ida").output
    assert "Oars are oiled." in made
    when = ("--at", "2031-05-01T22:00", "--zone", "UTC")
    refused = run("plan", oar.id, *when, who="jonas", code=EXIT["gate-unmet"]).output
    assert "quiet period (Oars are oiled.)" in refused
    assert "from Fri 2 May 2031, 07:00 (Europe/London) on" in " ".join(refused.split())
    run("plan", oar.id, *when, "--override-quiet", who="jonas", code=EXIT["refused"])
    run("plan", oar.id, *when, "--override-quiet", "--name", "Oars out", who="ida")
    assert "would be held" not in run("quiet-period", "add", *times, "--reason", "x", "--check").output
    assert "2031-05-01" in run("quiet-period", "list").output
    run(
        "quiet-period", "change", "Oars are oiled.", "--every", "FREQ=WEEKLY", who="wim", code=EXIT["refused"]
    )
    weekly = run("quiet-period", "change", "oiled", "--every", "FREQ=WEEKLY", "--json", who="ida").output
    assert json.loads(weekly)["rule"] == "FREQ=WEEKLY"
    run("quiet-period", "end", "Oars are oiled.", who="ida")
    run("quiet-period", "end", "Oars are oiled.", who="ida", code=EXIT["not-found"])
    run("dispatch", "cancel", "Oars out", who="ida")


def test_a_webhook_is_added_tried_switched_and_ended_by_command_line(run: Run, running: Running) -> None:
    site = running.demo.ports.url("site")
    run("webhook", "add", "Bells", "--url", f"{site}/changed", who="wim", code=EXIT["refused"])
    made = run("webhook", "add", "Bells", "--url", f"{site}/changed", "--event", "review.", who="ida").output
    assert "whsec_" in made
    assert "Bells" in run("webhook", "list", who="ida").output
    # The site knows another secret.
    refused = run("webhook", "try", "Bells", code=1, who="ida").output
    assert "It answered 401 Unauthorized." in " ".join(refused.split())
    assert "in" in run("webhook", "try", "The public site", who="ida").output
    assert "off" in run("webhook", "off", "Bells", who="ida").output
    assert "on" in run("webhook", "on", "Bells", who="ida").output
    assert "whsec_" in run("webhook", "secret", "Bells", "--hours", "1", who="ida").output
    changed = run("webhook", "change", "Bells", "--event", "comment.", "--json", who="ida").output
    assert json.loads(changed)["kinds"] == ["comment."]
    assert "Nothing was sent" in run("webhook", "sent", "Bells", who="ida").output
    running.out("Bells at noon")
    eventually(lambda: "dispatch.gone" in run("webhook", "sent", "The public site", who="ida").output)
    number = json.loads(run("webhook", "sent", "The public site", "--json", who="ida").output)["items"][0][
        "id"
    ]
    run("webhook", "again", "The public site", str(number), who="ida")
    run("webhook", "end", "Bells", who="ida")
    run("webhook", "end", "Bells", code=EXIT["not-found"], who="ida")


def test_a_calendar_is_made_renewed_and_ended_by_command_line(run: Run, running: Running) -> None:
    assert "no calendar" in run("calendar", "list", who="tomas").output
    run("calendar", "add", "Bells", "--show", "birthdays", who="tomas", code=EXIT["invalid"])
    shown = ("--show", "dispatches", "--locale", "en", "--json")
    made = json.loads(run("calendar", "add", "Bells", *shown, who="tomas").output)
    assert httpx.get(made["address"]).text.startswith("BEGIN:VCALENDAR")
    assert "Bells" in run("calendar", "list", who="tomas").output
    again = run("calendar", "renew", "Bells", who="tomas").output
    assert "/calendar/" in again
    assert httpx.get(made["address"]).status_code == 404
    run("calendar", "end", "Bells", who="tomas")
    run("calendar", "end", "Bells", who="tomas", code=EXIT["not-found"])
    assert run("dispatch", "list", "--locale", "ja", "--all", "--json", who="tomas").output != ""
    run("dispatch", "list", "--type", "nothing", who="tomas", code=EXIT["invalid"])


def test_what_will_be_different_is_listed_by_command_line(run: Run, running: Running) -> None:
    buoy = running.signed("A bell buoy")
    run("plan", buoy.id, "--at", "2031-07-01T09:00", "--zone", "UTC", "--name", "Buoys", who="ida")
    found = run("differences", "--since", "2031-06-30", "--until", "2031-07-02", who="wim").output
    assert "A bell buoy" in found
    assert "same" in run("differences", "--since", "2031-06-01", "--until", "2031-06-02", who="wim").output
    run("differences", "--since", "2031-06-02", "--until", "2031-06-01", who="wim", code=EXIT["invalid"])
    run("dispatch", "cancel", "Buoys", who="ida")


def test_a_dispatch_is_written_in_reviewed_and_read_by_command_line(run: Run, running: Running) -> None:
    weir = running.signed("A weir")
    running.as_("ida").dispatch([{"id": weir.id, "locale": "en"}])
    run("dispatch", "start", "Weir season", who="wim")
    written = run("dispatch", "write", "Weir season", weir.id, "--set", "title=A weir in spring", who="wim")
    assert "on the strand “Weir season”" in written.output
    assert "written inside" in run("dispatch", "show", "Weir season", who="wim").output
    read = run("read", weir.id, "--dispatch", "Weir season", who="ida").output
    assert "A weir in spring" in read
    assert "A weir in spring" not in run("read", weir.id, who="ida").output
    submitted = run("dispatch", "submit", "Weir season", "--note", "All of spring.", who="wim").output
    assert "review: waiting, Wim Aster" in submitted
    assert "All of spring." in submitted
    run("dispatch", "sign", "Weir season", who="wim", code=EXIT["refused"])
    back = run("dispatch", "send-back", "Weir season", "--reason", "Which spring?", who="oda").output
    assert "sent back" in back
    run("dispatch", "submit", "Weir season", who="wim")
    assert "taken back" in run("dispatch", "take-back", "Weir season", who="wim").output
    run("dispatch", "submit", "Weir season", who="wim")
    assert "signed off" in run("dispatch", "sign", "Weir season", "--only", weir.id, who="oda").output
    assert "gone" in run("dispatch", "send", "Weir season", who="ida").output
    assert running.as_("ida").read(weir.id).title == "A weir in spring"


def test_other_changes_are_planned_by_command_line(run: Run, running: Running) -> None:
    oak = running.notice("An oak block")
    at = ("--at", "2031-05-01T09:00", "--zone", "UTC")
    assert "to Review" in run("advance", oak.id, "--to", "review", *at, who="ida").output
    run("advance", oak.id, "--to", "nowhere", who="ida", code=EXIT["invalid"])
    checked = run("set", oak.id, "--set", "title=An oak beam", "--check", who="ida", code=EXIT["gate-unmet"])
    assert "Title: An oak beam" in checked.output
    assert "not out" in checked.output
    assert "gone" in run("archive", oak.id, who="ida").output
    assert "An oak block" not in run("find", "oak", who="ida").output
    assert "An oak block" in run("find", "oak", "--archived", "only", who="ida").output
