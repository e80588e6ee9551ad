"""What holds for every command: examples that work, one shape for lists, options with one meaning, times and widths."""

from __future__ import annotations

import ast
import json
import re
import shlex
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

import pytest
import typer

from hawthorn import wire
from hawthorn.cli import context, values
from hawthorn.cli.app import app
from hawthorn.cli.context import EXIT
from hawthorn.messages import ENGLISH, speaking
from tests.cli.test_cli import Run, run
from tests.conftest import Running

__all__ = ["run"]
LATER = "2098-03-31T09:00"


def commands(group: object, path: tuple[str, ...] = ()) -> Iterator[tuple[tuple[str, ...], object]]:
    """Every command of the program, with its words."""
    inner = getattr(group, "commands", None)
    if inner is None:
        yield path, group
        return
    for name, one in inner.items():
        yield from commands(one, (*path, name))


WHOLE = typer.main.get_command(app)
ALL = dict(commands(WHOLE))


@pytest.mark.parametrize("path", ALL, ids=" ".join)
def test_every_command_that_takes_anything_shows_an_example_that_it_takes(
    path: tuple[str, ...], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    command = ALL[path]
    found = re.search(r"Example: (hawthorn .*)", command.help or "")  # type: ignore[attr-defined]
    if found is None:
        taken = [p.name for p in command.params if p.name != "as_json"]  # type: ignore[attr-defined]
        assert taken in ([], ["url"]), f"{' '.join(path)} takes {taken} and shows no example"
        return
    for one in found[1].replace("&&", ";").split(";"):
        words = shlex.split(one)[1:]
        size = next(n for n in (2, 1) if tuple(words[:n]) in ALL)
        example = ALL[tuple(words[:size])]
        for file in (
            word for word in words if re.search(r"\.(json|toml|xlf|tmx|tbx|zip|zst|png|jpg|pdf)$", word)
        ):
            (tmp_path / file).touch()
        example.make_context(words[size - 1], words[size:])  # type: ignore[attr-defined]


def test_one_thing_has_one_option() -> None:
    by_option: dict[str, set[str]] = {}
    for path, command in ALL.items():
        for param in command.params:  # type: ignore[attr-defined]
            for name in getattr(param, "opts", ()):
                by_option.setdefault(name, set()).add(" ".join(path))
    for gone in ("--in", "--dry-run", "--standing", "--with-referrers"):
        assert gone not in by_option
    # Whoever is asked when it goes may say in which zone that is.
    assert by_option["--at"] == by_option["--zone"] - {
        "person invite", "add-person", "begin", "quiet-period add", "quiet-period change", "spread",
    }  # fmt: skip


@pytest.mark.parametrize(
    "words",
    [
        "find", "dispatch list", "quiet-period list", "calendar list", "webhook list", "job list", "grid", "type list", "locale list", "bureau list", "person list", "role list",
        "workflow list", "workflow choose", "key list", "template list", "tags", "lists", "library", "folder list", "site list",
        "memory list", "glossary list", "standing list", "commissions list", "crops", "outline", "search-and-sharing", "sessions", "notifications", "events", "preview links", "topics topic",
    ],
)  # fmt: skip
def test_every_list_has_items_and_says_where_the_next_page_begins(
    running: Running, run: Run, words: str
) -> None:
    found = json.loads(run(*words.split(), "--json", who="ida").stdout)
    assert isinstance(found["items"], list)
    assert isinstance(found["next"], str)


ALONE = {
    ("serve",),
    ("demo",),
    ("check",),
    ("move-files",),
    ("change-key-file",),
    ("backup", "make"),
    ("backup", "list"),
    ("backup", "rehearse"),
    ("agent",),
    ("settings",),
    ("begin",),
    ("log-out",),
    ("password",),
    ("second-factor",),
    ("calendar", "add"),
    ("outbox", "list"),
    ("outbox", "send"),
    ("outbox", "drop"),
    ("commissions", "open"),
}
"""What runs for long, asks, is about this machine, makes something, or ends what others use."""
READING = [
    path
    for path, command in ALL.items()
    if path not in ALONE and not any(one.required for one in command.params)  # type: ignore[attr-defined]
]


@pytest.mark.parametrize("path", READING, ids=" ".join)
def test_a_command_that_needs_nothing_answers_in_words(
    running: Running, run: Run, path: tuple[str, ...]
) -> None:
    assert run(*path, who="ida").output.strip()


def test_every_column_has_a_name() -> None:
    wanted = {
        str(head.value)
        for file in Path(context.__file__).parent.rglob("*.py")
        for node in ast.walk(ast.parse(file.read_text("utf-8")))
        if isinstance(node, ast.Call) and getattr(node.func, "attr", "") == "table"
        for head in node.args
        if isinstance(head, ast.Constant) and head.value
    }
    assert len(wanted) > 50
    assert [one for one in sorted(wanted) if f"cli.columns.{one}" not in ENGLISH.texts] == []


def test_what_may_not_be_done_is_said_by_the_check_too(running: Running, run: Run) -> None:
    entry = running.out("Closed for a check")
    for words in (("entry", "remove"), ("withdraw",), ("release",)):
        said = run(*words, entry.id, "--check", who="luc", code=EXIT["refused"]).output
        assert "the grant" in said
        assert "Ida Marlow" in said or "Jonas Pike" in said
        run(*words, entry.id, "--check", who="jonas")


def test_a_removal_is_planned_and_cancelled(running: Running, run: Run) -> None:
    entry = running.out("Gone one day")
    said = run("entry", "remove", entry.id, "--at", LATER, who="ida").output
    found = re.search(r"dispatch cancel (\S+)`", said)
    assert found
    assert running.as_("ida").entry(entry.id, "en").planned[0].verb == "remove"
    run("dispatch", "cancel", found[1], who="ida")
    assert running.as_("ida").entry(entry.id, "en").planned == []


def test_several_locales_and_one_revision_go_in_one_dispatch(running: Running, run: Run) -> None:
    entry = running.out("In two languages")
    ida = running.as_("ida")
    hanne = running.as_("hanne")
    german = hanne.entry(entry.id, "de")
    made = hanne.save(entry.id, "de", {"title": "In zwei Sprachen", "body": "<p>Ja.</p>"}, etag=german.etag)
    hanne.submit(entry.id, "de", "")
    ida.sign_off(entry.id, "de", made.entry.revision.number)  # type: ignore[union-attr]
    found = json.loads(run("plan", entry.id, "--locale", "all", "--at", LATER, "--json", who="ida").stdout)
    assert sorted({move["locale"] for move in found["moves"]} - {"*"}) == ["de", "en"]
    run("dispatch", "cancel", found["id"], who="ida")
    checked = run(
        "release", entry.id, "--revision", "99", "--check", who="ida", code=EXIT["not-found"]
    ).output
    assert "no revision 99" in checked
    run("release", entry.id, "--revision", "1", "--locale", "en", "--check", who="ida")
    run("release", entry.id, "--revision", "1", "--locale", "all", "--check", who="ida", code=2)


def test_many_are_signed_off_and_planned_in_one_command(running: Running, run: Run) -> None:
    made = [running.notice(f"Of many {n}") for n in (1, 2)]
    for one in made:
        running.as_("wim").submit(one.id, "en", "")
    ids = [one.id for one in made]
    assert "done: 2" in run("many", "sign", *ids, who="tomas").output
    run("many", "plan", *ids, who="jonas", code=2)
    said = run("many", "plan", *ids, "--at", LATER, "--zone", "Asia/Tokyo", who="jonas").output
    assert said.count("goes out on 31 March 2098, 09:00 (Asia/Tokyo)") == 2
    assert "refused: 1" in run("many", "sign", ids[0], who="wim", code=7).output


def test_a_time_without_an_offset_is_meant_in_ones_own_zone(running: Running, run: Run) -> None:
    entry = running.signed("At nine")
    context.zone.cache_clear()
    run("plan", entry.id, "--at", LATER, "--name", "Nine", who="jonas")
    before = run("read", entry.id, "--at", "2098-03-31T08:59", who="jonas", code=3)
    assert "Nothing called" in before.output
    # Jonas works in London, where it is summer time by then.
    for at in (("2098-03-31T09:00",), ("2098-03-31T08:00Z",), ("2098-03-31T10:00", "--zone", "Europe/Paris")):
        assert "At nine" in run("read", entry.id, "--at", *at, who="jonas").output
    assert "does not exist" in run(
        "read", entry.id, "--at", "2098-03-30T01:30", who="jonas", code=5
    ).output.replace("\n", " ")
    run("dispatch", "cancel", "Nine", who="jonas")
    context.zone.cache_clear()


def test_tables_fit_the_width_that_they_are_given(
    running: Running, run: Run, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    for width in (60, 100):
        monkeypatch.setenv("COLUMNS", str(width))
        made = context._Out(highlight=False, width=width)
        from hawthorn.cli import drawing

        made.print(drawing.entries(running.as_("ida").entries(limit=10).items))
        assert max(len(line) for line in capsys.readouterr().out.splitlines()) <= width


def test_a_key_ends_by_itself_on_its_day(running: Running, run: Run) -> None:
    run("key", "issue", "Over", "--expires", "2020-01-01", who="ida", code=EXIT["invalid"])
    said = run("key", "issue", "For a while", "--expires", "2098-01-01", who="ida").output
    assert said.startswith("hw_")
    assert "2098-01-01" in run("key", "list", who="ida").output


def test_a_job_is_given_to_somebody_else_and_put_off(running: Running, run: Run) -> None:
    entry = running.notice("To be given away")
    job = running.as_("mina").commission([entry.id], ["de"]).jobs[0]
    to_hanne = ("--to", "hanne", "--due", "2099-03-31")
    assert (
        "is with Hanne Voss, due 2099-03-31" in run("job", "assign", job.short, *to_hanne, who="mina").output
    )
    assert (running.as_("mina").job(job.id).person, running.as_("mina").job(job.id).due) == (
        "hanne",
        "2099-03-31",
    )
    free = run("job", "assign", job.short, "--anybody", "--due", "", who="mina").output
    assert "is with whoever writes it." in free
    for wrong in ((), ("--to", "hanne", "--anybody")):
        assert "Say who gets it" in run("job", "assign", job.short, *wrong, who="mina", code=2).output
    run("job", "assign", job.short, "--to", "nell", who="mina", code=EXIT["invalid"])
    run("job", "assign", job.short, "--to", "hanne", who="hanne", code=EXIT["refused"])
    run("job", "cancel", job.short, who="mina")


def test_a_job_is_cancelled_and_the_grid_says_what_is_missing(running: Running, run: Run) -> None:
    entry = running.notice("Never translated")
    row = run("grid", "Never translated", who="mina").output
    assert re.search(r"Never translated\s+source, 2 units\s+not there", row)
    job = running.as_("mina").commission([entry.id], ["fr"]).jobs[0]
    assert "is cancelled" in run("job", "cancel", job.short, who="mina").output
    assert running.as_("mina").job(job.id).state == "cancelled"


def test_what_somebody_typed_is_never_taken_for_markup(
    running: Running, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(context.out, "_width", 250)
    title = r"A [red]lamp[/red] [/] \[x] :ship:"
    entry = running.as_("ida").start("notice", {"title": title})
    for named in (
        ["show", entry.id],
        ["find", "lamp"],
        ["assign", entry.id, "--to", "nell"],
        ["done", entry.id],
    ):
        assert title in run(*named, who="ida").output
    assert title in run("release", entry.id, "--check", who="ida", code=7).output
    assert "“[/red]” means 0 dispatches" in run("dispatch", "show", "[/red]", who="ida", code=3).output


def spec(kind: str, name: str = "it", **more: object) -> wire.content.FieldSpec:
    usual = {
        "label": name.title(), "required": False, "shared": False, "many": False, "limit": None, "help": "", "types": [],
        "choices": [], "follows": "", "counts_as_alt": False,
    }  # fmt: skip
    return wire.content.FieldSpec(name=name, kind=kind, **(usual | more))  # type: ignore[arg-type]


def test_pages_of_blocks_are_drawn_as_an_outline_without_markup() -> None:
    words = wire.content.BlockSpec(
        name="words", label="Words", help="", fields=[spec("rich", "text")], arranges=""
    )
    row = wire.content.BlockSpec(
        name="row", label="Row", help="", fields=[spec("blocks", "inside", blocks=[words])], arranges="row"
    )
    page = spec("blocks", "page", blocks=[row, words])
    text = '<h2>Hours</h2><ul><li>Ten <a href="https://x.example">to</a> five</li></ul><p>a [b] &amp; c</p>'
    value = [
        {"id": "1", "kind": "row", "fields": {"inside": [{"id": "2", "kind": "words", "fields": {"text": text}}]}},
        {"id": "3", "kind": "words", "fields": {"text": "<p>One line.</p>"}},
    ]  # fmt: skip
    found = list(values.lines([page], {"page": value}, str))
    plain = [re.sub(r"\[/?(?:dim|bold)\]", "", line) for line in found]
    assert plain == [
        "  Page",
        "    ▪ Row",
        "      Inside",
        "        ▪ Words",
        "          Text",
        "            ## Hours",
        "            • Ten to <https://x.example> five",
        r"            a \[b] & c",
        "    ▪ Words",
        "      Text: One line.",
    ]
    others = {"on": True, "when": {"wall": "2027-03-31T09:00", "zone": "Asia/Tokyo"}, "see": ["a", "b"]}
    specs = [spec("boolean", "on"), spec("instant", "when"), spec("reference", "see", many=True)]
    said = [re.sub(r"\[/?dim\]", "", one) for one in values.lines(specs, others, {"a": "A", "b": "B"}.get)]  # type: ignore[arg-type]
    assert said == ["  On: yes", "  When: 2027-03-31 09:00 Asia/Tokyo", "  See: A, B"]


def test_a_time_is_shown_to_the_second() -> None:
    from hawthorn.cli import drawing

    assert re.fullmatch(r"\w{3} \d\d:\d\d:\d\d", drawing.when(datetime.now(UTC).isoformat()))
    assert drawing.when("2020-05-01T12:34:56Z").endswith(":34:56")


SPOKEN = {
    ("coverage",): ("nicht da", "veraltet"),
    ("log-ins", "--limit", "3"): ("von wo", "Passwort"),
    ("bureau", "list"): ("ja", "nein"),
    ("show", "The harbour lamp"): ("Sie dürfen: ", "speichern"),
    ("figures",): ("Wie lange die Arbeit bleibt",),
}
"""What commands say in German of what programs read as codes."""


@pytest.mark.parametrize("words", SPOKEN, ids=" ".join)
def test_states_acts_and_means_are_said_in_the_language_that_is_spoken(
    run: Run, words: tuple[str, ...]
) -> None:
    codes = r"\b(none|out of date|out and out of date|yes|no|password|take-back|withdraw|commission|submit)\b"
    # Who is asked for first logs in, in English.
    run("me", who="ida")
    with speaking("de"):
        said = run(*words, who="ida").output
    assert all(one in said for one in SPOKEN[words]), said
    # Why something came back is what people wrote, in words of theirs.
    ours = said.partition("Was zurückkam, und warum")[0]
    assert not re.search(codes, ours), said
    assert not re.search(r"\d\.\d+ (Tage|Stunden)", said), said
