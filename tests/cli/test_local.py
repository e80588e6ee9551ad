"""Commands that work on this machine: the first person of a file, without the service and with it; what is not installed."""

from __future__ import annotations

import sys
from pathlib import Path

import httpx
import pytest
from typer.testing import CliRunner

from hawthorn.cli.app import assembled
from hawthorn.client import Client, Refusal
from tests.service.test_first_run import started

WORDS = "oakum and the tide at six"
NOTE = {"name": "note", "label": "Note", "fields": [{"name": "title", "kind": "line", "required": True}]}


def local(*words: str, code: int = 0) -> str:
    done = CliRunner().invoke(assembled(words[0]), list(words))
    assert done.exit_code == code, done.output
    return done.output


def test_a_person_added_to_a_new_file_logs_in_and_releases(tmp_path: Path) -> None:
    file = tmp_path / "records.sqlite"
    there = ("--file", str(file))
    roles = ("--role", "managing-editor", "--role", "staff")
    added = local("add-person", "ida", "Ida Marlow", *roles, "--password", WORDS, *there)
    assert "Ida Marlow can log in as ida." in added
    oda = ("--role", "section-editor", "--role", "staff", "--password", WORDS, *there)
    local("add-person", "oda", "Oda Brandt", *oda)
    local("add-person", "ida", "Ida Again", *roles, "--password", WORDS, *there, code=1)
    local("add-person", "wim", "Wim Aldous", "--role", "nobody", "--password", WORDS, *there, code=1)
    with started(file) as (url, _), Client(url) as ida, Client(url) as other:
        with pytest.raises(Refusal, match="password"):
            other.log_in("ida", "another")
        ida.log_in("ida", WORDS)
        ida.define_locales([{"tag": "en", "name": "English"}])
        ida.define_type(NOTE)
        entry = ida.start("note", {"title": "Opened"})
        ida.submit(entry.id, "en")
        other.log_in("oda", WORDS)
        other.sign_off(entry.id, "en", 1)
        ida.dispatch([{"id": entry.id, "locale": "en"}])
        assert httpx.get(f"{url}/read/entries/{entry.id}?locale=en").json()["title"] == "Opened"
    assert "All is well." in local("check", *there)


def test_without_what_the_demonstration_needs_it_says_how_to_get_it(monkeypatch: pytest.MonkeyPatch) -> None:
    for name in [n for n in sys.modules if n.startswith("hawthorn.demo")]:
        monkeypatch.delitem(sys.modules, name)
    monkeypatch.setitem(sys.modules, "jinja2", None)
    said = local("demo", "--port", "0", code=1)
    assert "“jinja2”" in said
    assert "pip install 'hawthorn[demo]'" in said
