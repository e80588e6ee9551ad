"""From an empty file to a page in two languages, by command line alone: what `docs/set-up.md` says in one page."""

from __future__ import annotations

import json
import re
from pathlib import Path

import httpx
import pytest
from typer.testing import CliRunner

from hawthorn.cli.app import assembled
from tests.conftest import eventually
from tests.own_house import KEY, own_house

LEAFLET = {
    "name": "leaflet",
    "label": "Leaflet",
    "workflow": "standard",
    "fields": [
        {"name": "title", "kind": "line", "required": True},
        {"name": "slug", "kind": "slug", "follows": "title", "required": True},
        {"name": "body", "kind": "rich", "required": True},
        {"name": "below", "kind": "parent", "shared": True},
    ],
}


def test_a_house_is_set_up_and_a_page_goes_out_in_two_languages(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("COLUMNS", "160")
    monkeypatch.delenv("HAWTHORN_KEY", raising=False)

    def run(who: str, *words: str, code: int = 0, stdin: str | None = None) -> str:
        """A command at the terminal of one of the two."""
        monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / who))
        monkeypatch.setenv("HAWTHORN_PASSWORD", f"{who} and the tide at six")
        monkeypatch.delenv("HAWTHORN_URL", raising=False)
        done = CliRunner().invoke(assembled(words[0]), list(words), input=stdin)
        assert done.exit_code == code, done.output
        return done.output

    with own_house(tmp_path) as house:
        # The first person, the languages, a type.
        run("ida", "begin", house.begin, "ida", "Ida Marlow", "--mail", "ida@house.example", "--locale", "en")
        run("ida", "begin", house.begin, "eve", "Eve", code=3)
        run("ida", "locale", "add", "fr", "Français")
        assert "added" in run("ida", "locale", "add", "ja", "日本語", "--fallback", "en")
        file = tmp_path / "leaflet.json"
        file.write_text(json.dumps(LEAFLET))
        assert "change nothing" in run("ida", "type", "define", str(file), "--check")
        run("ida", "type", "define", str(file))
        # A second person, invited by mail; a bureau, by its key.
        roles = ("--role", "staff", "--role", "section-editor", "--role", "translation-reviewer")
        run("ida", "person", "invite", "oda", "Oda Brandt", "oda@house.example", *roles)
        assert "log in as oda" in run("oda", "join", house.mailed("oda@house.example"))
        bureau = ("bureau", "add", "Saltmarsh", house.bureau, "--code", "fr=fr-FR", "--key")
        run("oda", *bureau, "x", code=4)
        assert "the key is not taken" in run("ida", *bureau, "wrong", code=7)
        run("ida", *bureau, "wrong", "--untested")
        assert "the key is not taken" in run("ida", "bureau", "try", "Salt", code=1)
        run("ida", "bureau", "set", "Salt", "--key", "-", stdin=f"{KEY}\n")
        assert "Saltmarsh answers" in run("ida", "bureau", "try", "Salt")
        # Written by one, reviewed by the other.
        body = "<p>The bell is rung in fog. It is loud.</p>"
        run("ida", "entry", "start", "leaflet", "--set", "title=The fog bell", "--set", f"body={body}")
        run("ida", "submit", "fog bell", "--note", "Please.")
        assert "The fog bell" in run("oda", "my-work")
        run("ida", "sign", "fog bell", code=4)
        run("oda", "sign", "fog bell")
        # Translated by the bureau, accepted, and signed off with that.
        run("ida", "commission", "fog bell", "--locale", "fr", "--bureau", "Saltmarsh")

        def job() -> dict[str, str]:
            found: dict[str, str] = json.loads(run("ida", "job", "list", "--json"))["items"][0]
            return found

        eventually(lambda: job()["state"] == "returned", 30)
        assert house.locales == {"fr-FR"}, "it is called as the bureau calls it"
        assert "left" in run("oda", "job", "accept", job()["short"])
        checked = run("ida", "release", "fog bell", "--locale", "en", "--locale", "fr", "--check")
        assert "Nothing blocks it" in checked
        run("ida", "release", "fog bell", "--locale", "en", "--locale", "fr")
        # Read by a site with its key.
        secret = re.match(r"hw_\S+", run("ida", "key", "issue", "Site", "--expires", "2098-01-01"))
        assert secret
        with httpx.Client(base_url=house.url, headers={"Authorization": f"Bearer {secret[0]}"}) as site:
            for locale in ("en", "fr"):
                asked = {"type": "leaflet", "locale": locale, "fallback": "false"}
                (page,) = site.get("/read/entries", params=asked).json()["items"]
                assert page["locale"] == locale
                assert site.get(f"/read/pages{page['path']}").json()["id"] == page["id"]
            assert site.get("/read/entries", params=asked | {"locale": "ja"}).json()["items"] == []
            assert site.get("/read/entries", params={"stage": "draft"}).status_code == 403
        assert "job.returned" in run("ida", "events", "--kind", "job")
