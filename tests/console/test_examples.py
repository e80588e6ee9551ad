"""The example sites, run as their readers would run them, looked at in a browser: built once, and then only what changed."""

from __future__ import annotations

import base64
import importlib.util
import json
import os
import socket
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import feedparser
import httpx
import pytest
from playwright.sync_api import expect
from standardwebhooks.webhooks import Webhook

from tests.conftest import Running, eventually, free_port
from tests.console.conftest import Open, shown

pytestmark = pytest.mark.browser
EXAMPLES = Path(__file__).parents[2] / "examples"
STATIC, KIT = EXAMPLES / "static", EXAMPLES / "sveltekit"
SECRET = f"whsec_{base64.b64encode(b'only between the two of them').decode()}"


def module() -> Any:
    """The example, as it stands."""
    spec = importlib.util.spec_from_file_location("example_static", STATIC / "build.py")
    assert spec is not None
    assert spec.loader is not None
    made = importlib.util.module_from_spec(spec)
    sys.modules["example_static"] = made
    spec.loader.exec_module(made)
    return made


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
    command = [
        sys.executable, str(STATIC / "build.py"), "--service", running.url, "--to", str(tmp_path / "out"),
        "--listen", str(port), "--secret", SECRET,
    ]  # fmt: skip
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
        try:
            assert process.stdout is not None
            assert "'read'" in process.stdout.readline()
            at = f"http://127.0.0.1:{port}/"
            eventually(lambda: answered(at) == 401)
            running.out("Out by itself at dusk")
            assert answered(at, signed(b"{}")) == 204
            eventually(lambda: (tmp_path / "out/en/out-by-itself-at-dusk/index.html").exists())
        finally:
            process.kill()


def signed(body: bytes) -> dict[str, str]:
    """The headers with which a service tells something (Standard Webhooks)."""
    now = datetime.now(UTC)
    made = Webhook(SECRET).sign("one", now, body.decode())
    return {
        "content-type": "application/cloudevents+json",
        "webhook-id": "one",
        "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": made,
    }


def answered(url: str, headers: dict[str, str] | None = None, body: bytes = b"{}") -> int:
    try:
        return httpx.post(url, content=body, headers=headers).status_code
    except httpx.TransportError:
        return 0


@contextmanager
def kit(service: str, **settings: str) -> Iterator[str]:
    """The site in SvelteKit as it is built, with settings in its environment."""
    port = free_port()
    url = f"http://127.0.0.1:{port}"
    asked = {"HOST": "127.0.0.1", "PORT": str(port), "ORIGIN": url, "HAWTHORN_URL": service, **settings}
    with subprocess.Popen(["node", KIT / "build"], env={**os.environ, **asked}) as process:
        try:
            eventually(lambda: process.poll() is not None or listens(url))
            assert process.poll() is None, "it has to be built: make test does"
            yield url
        finally:
            process.kill()


def listens(url: str) -> bool:
    try:
        return httpx.get(f"{url}/robots.txt").status_code == 200
    except httpx.TransportError:
        return False


def test_a_site_in_a_javascript_framework_keeps_what_it_read_until_it_is_told(
    running: Running, open_as: Open
) -> None:
    other = running.as_("ida").start("person", {"title": "Not Told Of", "life": "<p>At ten.</p>"})
    running.as_("ida").dispatch([{"id": other.id, "locale": "en"}])
    entry = running.out("Told of by Kit")
    with kit(running.url, HAWTHORN_SECRET=SECRET) as url:
        page = open_as("wim", "/", expect=("422",))
        page.goto(f"{url}/")
        expect(page).to_have_url(f"{url}/en")
        page.get_by_role("navigation", name="Main menu").get_by_role(
            "link", name="Lights", exact=True
        ).click()
        expect(page.get_by_role("heading", level=1, name="Lights and Signals")).to_be_visible()
        page.get_by_role("link", name="The fog bell").click()
        picture = page.get_by_role("img", name="A bronze bell")
        expect(picture).to_be_visible()
        page.wait_for_function("document.querySelector('img').complete")
        assert ".avif" in picture.evaluate("one => one.currentSrc"), (
            "the smallest kind that the browser takes"
        )
        assert picture.evaluate("one => one.naturalWidth") > 0
        kept = httpx.get(picture.evaluate("one => one.currentSrc"))
        assert "immutable" in kept.headers["cache-control"]
        head = page.content()
        assert 'property="og:title" content="The fog bell"' in head
        assert '"@context":"https://schema.org"' in head
        page.goto(f"{url}/en/told-of-by-kit")
        expect(page.get_by_text("Told of by Kit is at ten.")).to_be_visible()
        assert httpx.get(f"{url}/en/not-told-of").status_code == 200

        # Both go out anew; the site hears of one.
        wim, ida = running.as_("wim"), running.as_("ida")
        wim.save(entry.id, "en", {"body": "<p>At eleven.</p>"}, etag=wim.entry(entry.id, "en").etag)
        wim.submit(entry.id, "en")
        running.as_("tomas").sign_off(entry.id, "en", 2)
        ida.save(other.id, "en", {"life": "<p>At eleven.</p>"}, etag=ida.entry(other.id, "en").etag)
        ida.dispatch([{"id": one.id, "locale": "en"} for one in (entry, other)])
        assert "At eleven" not in httpx.get(f"{url}/en/told-of-by-kit").text
        told = json.dumps({"data": {"groups": [entry.id.replace("-", "")], "more": False}}).encode()
        assert answered(f"{url}/changed", {}, told) == 401
        assert answered(f"{url}/changed", signed(told), told) == 204
        page.reload()
        expect(page.get_by_text("At eleven.")).to_be_visible()
        assert "At eleven" not in httpx.get(f"{url}/en/not-told-of").text, "what it was not told of it keeps"

        # A locked page asks for its phrase.
        page.goto(f"{url}/en/an-evening-for-the-friends-of-the-museum")
        page.get_by_label("Phrase").fill("The lamp room at ten")
        page.get_by_role("button", name="Open the page").click()
        expect(page.get_by_role("alert")).to_contain_text("That is not the phrase")
        page.get_by_label("Phrase").fill("The lamp room at nine")
        page.get_by_role("button", name="Open the page").click()
        expect(page.get_by_text("the stairs are steep")).to_be_visible()
        assert "stairs" not in httpx.get(page.url).text, "nobody else reads it there"

        assert feedparser.parse(httpx.get(f"{url}/feed.atom").content).entries
        assert b"sitemap-0.xml" in httpx.get(f"{url}/sitemap.xml").content
        assert b"urlset" in httpx.get(f"{url}/sitemap-0.xml").content
        assert httpx.get(f"{url}/en/nothing").status_code == 404
        assert httpx.get(f"{url}/read/files/..%2f..%2fapi").status_code == 404
        page.set_viewport_size({"width": 390, "height": 800})
        page.goto(f"{url}/en/lights-and-signals/the-fog-bell")
        assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_the_same_site_shows_drafts_by_one_setting_and_follows_what_is_saved(
    running: Running, open_as: Open
) -> None:
    notice = running.notice("Only a draft for Kit")
    key = running.as_("ida").issue_key("Kit drafts", "reader", stages=["draft"]).secret
    with kit(running.url, HAWTHORN_STAGE="draft", HAWTHORN_KEY=key) as url:
        assert httpx.get(f"{url}/robots.txt").text.splitlines()[1] == "Disallow: /"
        page = open_as("wim", "/", expect=("404", "403"))
        page.goto(f"{url}/en/only-a-draft-for-kit")
        expect(page.get_by_role("status")).to_contain_text("Preview: what is at “draft”")
        expect(page.locator(f"html[data-hawthorn-page='{notice.id}/en']")).to_be_attached()
        expect(page.locator(f"h1[data-hawthorn='{notice.id}/title']")).to_be_visible()
        # By the link of a preview, which says by itself what is shown, it follows what is saved without being loaded anew.
        pane = running.as_("wim").open_preview()
        page.goto(f"{url}/en/only-a-draft-for-kit?preview={pane.token}")
        expect(page.get_by_text("Only a draft for Kit is at ten.")).to_be_visible()
        page.evaluate("window.still = true")
        wim = running.as_("wim")
        wim.save(notice.id, "en", {"body": "<p>At twelve.</p>"}, etag=wim.entry(notice.id, "en").etag)
        expect(page.get_by_text("At twelve.")).to_be_visible()
        assert page.evaluate("window.still")
        page.goto(f"{url}/en/only-a-draft-for-kit?preview=made-up")
        expect(page.get_by_role("heading", name="Not here")).to_be_visible()
        page.goto("about:blank")
    with kit(running.url) as url:
        assert httpx.get(f"{url}/en/only-a-draft-for-kit?preview={pane.token}").status_code == 404, (
            "readers' site"
        )
