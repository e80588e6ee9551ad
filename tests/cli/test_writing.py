"""Types, strands, templates, finding and acts on many, from the command line."""

from __future__ import annotations

import json
import re
from pathlib import Path

from tests.cli.test_cli import Run, run
from tests.conftest import Running

__all__ = ["run"]


def start(run: Run, title: str, **more: str) -> str:
    words = ["entry", "start", "notice", "--set", f"title={title}", "--set", "kind=event", "--json"]
    for name, value in more.items():
        words += ["--set", f"{name}={value}"]
    return str(json.loads(run(*words).stdout)["id"])


def test_a_strand_is_forked_shown_and_merged(running: Running, run: Run) -> None:
    start(run, "Harbour bell tower", body="<p>Open at ten.</p>")
    assert "No strands" in run("strand", "list", "Harbour bell tower").stdout
    run("strand", "fork", "Harbour bell tower", "Winter", "--note", "Shorter days")
    run("strand", "save", "Harbour bell tower", "Winter", "--set", "body=<p>Open at eleven.</p>")
    assert "open" in run("strand", "list", "Harbour bell tower").stdout
    side = run("compare", "Harbour bell tower", "--before", "draft", "--after", "strand:Winter").stdout
    assert "{+eleven+}" in side
    shown = run("strand", "merge", "Harbour bell tower", "Winter").stdout
    assert "Nothing is done yet" in shown
    etag = re.search(r'ETag ("\w+")', shown)
    assert etag
    run("strand", "merge", "Harbour bell tower", "Winter", "--etag", '"old"', code=6)
    run("strand", "merge", "Harbour bell tower", "Winter", "--etag", etag[1], "--take", "title", code=5)
    run("strand", "merge", "Harbour bell tower", "Winter", "--etag", etag[1])
    assert "Open at eleven." in run("show", "Harbour bell tower").stdout
    assert "merged" in run("strand", "list", "Harbour bell tower").stdout
    run("strand", "reopen", "Harbour bell tower", "Winter")
    run("strand", "drop", "Harbour bell tower", "Winter")
    run("strand", "propose", "Harbour bell tower", "Winter", code=3)
    run("strand", "merge", "Harbour bell tower", "Winter", "--decide", "body=mine", code=2)


def test_types_and_sets_are_checked_exported_and_defined_from_files(run: Run, tmp_path: Path) -> None:
    file = tmp_path / "flyer.json"
    field = {"name": "title", "kind": "line"}
    file.write_text(json.dumps({"name": "flyer", "label": "Flyer", "fields": [field]}))
    run("type", "define", str(file), code=4)
    assert "version 1" in run("type", "define", str(file), who="ida").stdout
    run("entry", "start", "flyer", "--set", "title=A flyer", who="ida")
    exported = json.loads(run("type", "export", "flyer", who="ida").stdout)
    exported["fields"].append({"name": "size", "kind": "choice", "choices": ["small"], "required": True})
    file.write_text(json.dumps(exported))
    looked = run("type", "define", str(file), "--check", who="ida").stdout
    assert "is new and required" in looked
    assert "A flyer" in looked
    run("type", "define", str(file), who="ida")
    run("type", "define", str(file), code=6, who="ida")
    schema = json.loads(run("type", "export", "flyer", "--schema", who="ida").stdout)
    assert schema["properties"]["size"]["enum"] == ["small"]
    file.write_text("{")
    assert "is not JSON" in run("type", "define", str(file), code=5, who="ida").output
    file.write_text(
        json.dumps({"name": "print", "label": "Print", "fields": [{"name": "ink", "kind": "line"}]})
    )
    assert "change nothing" in run("type", "define-set", str(file), "--check", who="ida").stdout
    run("type", "define-set", str(file), who="ida")


def test_entries_begin_as_copies_and_from_templates_and_are_removed(run: Run) -> None:
    start(run, "Net mending", body="<p>Every Tuesday.</p>")
    assert "Net mending (copy)" in run("entry", "copy", "Net mending").stdout
    run("template", "make", "Net mending", "A weekly event")
    assert "A weekly event" in run("template", "list").stdout
    made = run("template", "start", "A weekly event", "--set", "title=Caulking", "--json").stdout
    assert json.loads(made)["fields"]["body"] == "<p>Every Tuesday.</p>"
    run("template", "end", "A weekly event")
    run("template", "start", "A weekly event", code=3)
    assert "Net mending (copy)" in run("entry", "remove", "Net mending (copy)", "--check").stdout
    removed = run("entry", "remove", "Net mending (copy)").stdout
    id = re.search(r"bring-back ([\w-]{36})", removed)
    assert id
    run("show", id[1], code=3)
    run("entry", "bring-back", id[1])
    run("show", id[1])
    refused = run("entry", "remove", "Navigation", code=7, who="ida").output
    assert "is placed below “Navigation”" in refused


def test_words_filters_lists_and_many_at_once(running: Running, run: Run) -> None:
    start(run, "Oakum picking", body="<p>With <strong>marlinspikes</strong>.</p>")
    start(run, "Tar boiling")
    found = json.loads(run("find", "marlinsp", "--keep-as", "Spikes", "--json").stdout)
    assert [line["title"] for line in found["items"]] == ["Oakum picking"]
    assert "Oakum picking" in run("find", "--list", "spikes").stdout
    assert "words marlinsp" in run("lists").stdout
    run("find", "--list", "nothing", code=3)
    assert "The fog bell" in run("find", "--topic", "Navigation").stdout
    assert "霧の鐘" in run("find", "鐘").stdout
    checked = run("many", "tag", "The fog bell", "Oakum picking", "--tag", "sea lore", "--check").stdout
    assert "would be done: 1, refused: 1" in checked
    assert (
        "done: 1, refused: 1"
        in run("many", "tag", "The fog bell", "Oakum picking", "--tag", "sea lore", code=7).stdout
    )
    assert "1  sea lore" in run("tags", "sea").stdout
    run("many", "submit", "Oakum picking")
    run("many", "set", "Tar boiling", "--set", "kind=closure")
    assert "Fog signals" in run("topics", "topic").stdout
    assert json.loads(run("find", "--validity", "ends", "--json").stdout)["items"]
    assert "is not a validity" in run("find", "--validity", "soon", code=5).output
