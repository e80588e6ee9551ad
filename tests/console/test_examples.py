"""The example sites, run as their readers would run them, looked at in a browser: built once, and then only what changed."""

from __future__ import annotations

import base64
import functools
import importlib.util
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import httpx
import pytest
from playwright.sync_api import expect
from standardwebhooks.webhooks import Webhook

from tests.conftest import Running, eventually
from tests.console.conftest import Open

pytestmark = pytest.mark.browser
STATIC = Path(__file__).parents[2] / "examples" / "static"


def module() -> Any:
    """The example, as it stands."""
    spec = importlib.util.spec_from_file_location("example_static", STATIC / "build.py")
    assert spec is not None
    assert spec.loader is not None
    made = importlib.util.module_from_spec(spec)
    sys.modules["example_static"] = made
    spec.loader.exec_module(made)
    return made


class Quiet(SimpleHTTPRequestHandler):
    def log_message(self, *_: object) -> None:
        pass


@contextmanager
def shown(folder: Path) -> Iterator[str]:
    with ThreadingHTTPServer(("127.0.0.1", 0), functools.partial(Quiet, directory=str(folder))) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}"
        server.shutdown()


def test_a_site_of_plain_files_is_built_and_then_only_what_changed(
    running: Running, open_as: Open, tmp_path: Path
) -> None:
    example = module()
    quay, lamp = running.out("The quay at dusk"), running.out("A lamp at dusk")
    with example.Site(running.url, tmp_path) as site:
        first = site.build()
        assert first["read"] == first["written"] > 10
        assert site.build() == {"read": 0, "written": 0, "removed": 0, "pictures": 0}

    with shown(tmp_path) as url:
        page = open_as("ida", "/")
        page.goto(f"{url}/en/")
        page.get_by_role("navigation", name="Main").get_by_role("link").first.click()
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        page.goto(f"{url}/en/lights-and-signals/the-fog-bell/")
        picture = page.get_by_role("img").first
        expect(picture).to_be_visible()
        assert picture.evaluate("one => one.complete && one.naturalWidth > 0")
        assert "w, /files/" in str(picture.get_attribute("srcset"))
        page.goto(f"{url}/en/the-quay-at-dusk/")
        expect(page.get_by_text("The quay at dusk is at ten.")).to_be_visible()

        # One page goes out anew, another goes away.
        ida, wim = running.as_("ida"), running.as_("wim")
        etag = wim.entry(quay.id, "en").etag
        wim.save(quay.id, "en", {"body": "<p>At eleven, by the steps.</p>"}, etag=etag)
        wim.submit(quay.id, "en")
        running.as_("tomas").sign_off(quay.id, "en", 2)
        ida.dispatch([{"id": quay.id, "locale": "en"}])
        ida.dispatch([{"id": lamp.id, "locale": "en", "verb": "withdraw"}])
        # Another run, as the first one may be of another day.
        with example.Site(running.url, tmp_path) as site:
            again = site.build()
        assert 1 <= again["read"] < first["read"] / 2, again
        assert again["pictures"] == 0
        page.goto(f"{url}/en/the-quay-at-dusk/")
        expect(page.get_by_text("At eleven, by the steps.")).to_be_visible()
        assert httpx.get(f"{url}/en/a-lamp-at-dusk/index.html").status_code == 404
        assert b"<feed" in httpx.get(f"{url}/feed.atom").content
        assert b"sitemap" in httpx.get(f"{url}/sitemap.xml").content


def test_the_same_site_of_drafts_is_one_setting_and_a_webhook_builds_it_anew(
    running: Running, tmp_path: Path
) -> None:
    example = module()
    notice = running.notice("Only a draft at dusk")
    key = running.as_("ida").issue_key("Static drafts", "reader", stages=["draft"]).secret
    (tmp_path / "drafts").mkdir()
    with example.Site(running.url, tmp_path / "drafts", key=key, stage="draft") as drafts:
        drafts.build()
    html = (tmp_path / "drafts/en/only-a-draft-at-dusk/index.html").read_text()
    assert f'data-hawthorn="{notice.id}/title"' in html
    assert "not what readers see" in html
    assert "Disallow: /" in (tmp_path / "drafts/robots.txt").read_text()

    with socket.create_server(("127.0.0.1", 0)) as door:
        port = door.getsockname()[1]
    secret = f"whsec_{base64.b64encode(b'only between the two of them').decode()}"
    command = [
        sys.executable, str(STATIC / "build.py"), "--service", running.url, "--to", str(tmp_path / "out"),
        "--listen", str(port), "--secret", secret,
    ]  # fmt: skip
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
        try:
            assert process.stdout is not None
            assert "'read'" in process.stdout.readline()
            at = f"http://127.0.0.1:{port}/"
            eventually(lambda: answered(at) == 401)
            running.out("Out by itself at dusk")
            now = datetime.now(UTC)
            signed = Webhook(secret).sign("one", now, "{}")
            headers = {
                "webhook-id": "one",
                "webhook-timestamp": str(int(now.timestamp())),
                "webhook-signature": signed,
            }
            assert answered(at, headers) == 204
            eventually(lambda: (tmp_path / "out/en/out-by-itself-at-dusk/index.html").exists())
        finally:
            process.kill()


def answered(url: str, headers: dict[str, str] | None = None) -> int:
    try:
        return httpx.post(url, content=b"{}", headers=headers).status_code
    except httpx.TransportError:
        return 0
