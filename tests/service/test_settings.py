"""Settings are one typed table, each documented, and stronger places win over weaker ones."""

from __future__ import annotations

import asyncio
import re
from pathlib import Path

import httpx
import pytest
from typer.testing import CliRunner

from hawthorn.cli.app import app as commands
from hawthorn.demo.site import Drafted, Site
from hawthorn.service.settings import Settings
from tests.conftest import Running, eventually

ROOT = Path(__file__).parents[2]


def test_every_setting_says_what_it_means() -> None:
    assert [name for name, field in Settings.model_fields.items() if not field.description] == []


def test_flags_win_over_the_environment_and_that_over_the_file(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    (tmp_path / "hawthorn.toml").write_text('port = 1\nhost = "0.0.0.0"\nlog = "json"\n')
    monkeypatch.setenv("HAWTHORN_PORT", "2")
    monkeypatch.setenv("HAWTHORN_HOST", "127.0.0.2")
    found = Settings(port=3)
    assert (found.port, found.host, found.log) == (3, "127.0.0.2", "json")


@pytest.mark.parametrize(
    "page",
    sorted(p.relative_to(ROOT).as_posix() for p in [ROOT / "README.md", *(ROOT / "docs").glob("*.md")]),
)
def test_links_between_documents_lead_somewhere(page: str) -> None:
    text = (ROOT / page).read_text("utf-8")
    targets = [t.split("#")[0] for t in re.findall(r"\]\(([^)]+)\)", text) if not t.startswith("http")]
    missing = [t for t in targets if t and not ((ROOT / page).parent / t).exists()]
    assert missing == []


def test_paths_that_the_architecture_names_exist() -> None:
    text = (ROOT / "docs/architecture.md").read_text("utf-8")
    for name in re.findall(
        r"`((?:core|store|operations|service|wire|client|cli|followers|demo)/[\w/.]+)`", text
    ):
        assert (ROOT / "src/hawthorn" / name).exists(), name
    for name in re.findall(r"`(console/src/[\w/.]+)`", text):
        assert (ROOT / name).exists(), name


def test_commands_in_the_readme_exist() -> None:
    from typer.main import get_command

    from hawthorn.cli.app import app

    known = get_command(app)
    for line in re.findall(r"^    hawthorn (.+)$", (ROOT / "README.md").read_text("utf-8"), re.M):
        for part in re.split(r"&& hawthorn ", line):
            command, words = known, part.split()
            while hasattr(command, "commands") and words:
                assert words[0] in command.commands, part
                command = command.commands[words.pop(0)]


def test_no_lock_records_an_address_of_a_registry() -> None:
    for name in ("requirements.lock", "console/package-lock.json", "pyproject.toml", "console/.npmrc"):
        text = (ROOT / name).read_text("utf-8")
        assert not re.search(r'"resolved": "https?:|^(?:--)?(?:extra-)?index-url|registry *=', text, re.M), (
            name
        )


@pytest.mark.parametrize(
    ("given", "text", "said"),
    [
        ([], 'port = "many"', "The setting port is wrong"),
        ([], "port = = 4", "hawthorn.toml cannot be read"),
        (["--file", "."], "", "The setting file is wrong: that is a folder"),
    ],
)
def test_a_setting_that_is_wrong_is_named_with_what_to_do(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, given: list[str], text: str, said: str
) -> None:
    monkeypatch.chdir(tmp_path)
    (tmp_path / "hawthorn.toml").write_text(text)
    looked = CliRunner().invoke(commands, ["check", *given])
    assert looked.exit_code == 2
    assert said in " ".join(looked.output.split())


def test_the_public_site_and_its_preview_differ_by_one_setting(running: Running) -> None:
    site, preview = running.demo.ports.url("site"), running.demo.ports.url("preview")
    entry = running.notice("Seen in preview")
    path = "/en/seen-in-preview"
    assert httpx.get(site + path).status_code == 404
    shown = httpx.get(preview + path)
    assert shown.status_code == 200
    assert "Preview: what is at “draft”, not what readers see." in shown.text
    assert f'href="{site}{path}"' in shown.text
    assert "Preview" not in httpx.get(site + "/en").text
    assert httpx.get(preview + "/ar").text.count('dir="rtl"') >= 1
    assert running.as_("wim").entry(entry.id).path is None


def test_the_site_escapes_what_is_not_rich_text(running: Running) -> None:
    running.out("<script>alert(1)</script> & co")
    site = running.demo.ports.url("site")
    # A page that the site has kept is read anew once it was told.
    eventually(lambda: "&lt;script&gt;" in httpx.get(site + "/en").text)
    assert "<script>alert" not in httpx.get(site + "/en").text


class Heard:
    """A service that only notes how it is asked."""

    def __init__(self) -> None:
        self.asked: list[httpx.Request] = []

    def __call__(self, request: httpx.Request) -> httpx.Response:
        self.asked.append(request)
        return httpx.Response(404, json={"detail": "nothing"})


@pytest.mark.parametrize(
    ("drafted", "address", "key", "params"),
    [
        (False, "/en/x", None, {}),
        (False, "/en/x?preview=word", None, {}),
        (True, "/en/x", "Bearer secret", {"stage": "draft"}),
        (True, "/en/x?preview=word", None, {"preview": "word"}),
    ],
)
def test_a_site_asks_with_a_key_or_a_preview_only_where_it_is_set_so(
    drafted: bool, address: str, key: str | None, params: dict[str, str]
) -> None:
    heard = Heard()
    setting = Drafted("draft", "secret", "http://live.example") if drafted else None
    site = Site("http://service.example", setting)
    site._http = httpx.AsyncClient(base_url=site.service, transport=httpx.MockTransport(heard))

    async def visit() -> None:
        transport = httpx.ASGITransport(site.app())
        async with httpx.AsyncClient(transport=transport, base_url="http://live.example") as visitor:
            assert (await visitor.get(address)).status_code == 404
        await site._http.aclose()

    asyncio.run(visit())
    page = next(r for r in heard.asked if r.url.path.startswith("/read/pages/"))
    assert page.headers.get("authorization") == key
    assert dict(page.url.params) == params
