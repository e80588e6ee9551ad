"""Headless Chromium on the console of the running museum."""

from __future__ import annotations

import functools
import os
import shutil
import threading
from collections.abc import Callable, Generator, Iterator
from contextlib import contextmanager
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Browser, BrowserContext, Locator, Page, expect, sync_playwright

from hawthorn.demo.museum import PASSWORD
from tests.conftest import Running

CHROMIUM = shutil.which("chromium-headless-shell") or "/usr/bin/chromium"
"""The browser without windows where it is installed: the whole one draws some that nobody sees."""
ARGS = [
    "--disable-background-networking", "--disable-component-update", "--disable-sync", "--no-first-run",
    "--disable-gpu", "--disable-quic", "--no-sandbox",
]  # fmt: skip

# A busy machine may be slow; what never comes true fails all the same.
expect.set_options(timeout=40_000)
Open = Callable[..., Page]
PAGES = pytest.StashKey[list[Page]]()
STORY = """
window.story = [];
const note = (...said) => { window.story.push([Math.round(performance.now()), ...said].join(" ")); window.story = window.story.slice(-60); };
const called = (one) => `${(one.nodeName ?? "window").toLowerCase()} ${one.getAttribute?.("aria-label") ?? one.textContent?.trim().slice(0, 30) ?? ""}`;
for (const kind of ["keydown", "pointerdown", "click", "toggle", "close"])
  addEventListener(kind, (e) => note(kind, e.key ?? e.newState ?? "", "at", called(e.target), e.target.isConnected === false ? "(gone)" : ""), true);
for (const name of ["showModal", "close"]) {
  const plain = HTMLDialogElement.prototype[name];
  HTMLDialogElement.prototype[name] = function (...given) { note(name, called(this)); return plain.apply(this, given); };
}
navigation.addEventListener("navigate", (e) => note("to", e.destination.url));
"""
"""What happened last on a page, for whoever reads why a test failed: a fault that shows itself once a month tells then how it came."""
SLOWED = float(os.environ.get("BROWSER_SLOWED", "1"))
"""How many times slower than they are pages run, so that what hangs on their speed shows itself."""


def own_menu(page: Page, line: str) -> None:
    """Choose a line of the menu under one's own name, in the header."""
    page.locator("header button").last.click()
    page.locator("header").get_by_role("button", name=line, exact=True).click()


def drag(page: Page, what: Locator, onto: Locator) -> None:
    """Drag something as a hand does: taken, carried over a few places, held until there is room, and let go."""
    what.hover()
    page.mouse.down()
    place = onto.bounding_box()
    assert place is not None
    for _ in range(3):
        page.mouse.move(place["x"] + 5, place["y"] - 5, steps=8)
        page.wait_for_timeout(250)
    page.mouse.up()


def go_into(text: Locator, key: str = "Control+End") -> None:
    """Click into a text and go to a place in it by a key. The editor puts the cursor back by a timer, 20 ms after it was given the
    focus, where it has not heard by then of where the click led: a person types later than that."""
    text.click()
    text.evaluate("() => new Promise((done) => setTimeout(done, 40))")
    text.page.keyboard.press(key)
    text.evaluate("() => new Promise((done) => setTimeout(done, 40))")


class Quiet(SimpleHTTPRequestHandler):
    """Files of a folder, without a word about each."""

    def log_message(self, *_: object) -> None:
        pass


@contextmanager
def shown(folder: Path) -> Iterator[str]:
    """A folder as a site of another origin."""
    with ThreadingHTTPServer(("127.0.0.1", 0), functools.partial(Quiet, directory=str(folder))) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}"
        server.shutdown()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """One browser for the session."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGS)
        yield browser
        browser.close()


class Profiles:
    """A browser profile for each person and manner of looking: logged in once, with the console's files cached.

    What a page keeps in the browser is cleared between tests. A profile is lent to one page at a time.
    """

    def __init__(self, browser: Browser, running: Running) -> None:
        self.browser, self.running = browser, running
        self.idle: dict[str, list[BrowserContext]] = {}

    def take(self, who: str, options: dict[str, object]) -> tuple[str, BrowserContext]:
        """A profile of somebody, logged in."""
        name = f"{who} {sorted(options.items())}"
        kept = self.idle.get(name) if who else None
        context = (
            kept.pop()
            if kept
            else self.browser.new_context(
                **{"viewport": {"width": 1280, "height": 800}, **options}  # type: ignore[arg-type]
            )
        )
        # Asked again where the service closed what it was asked over, as nobody had asked for a while (RFC 9112, section 9.3.1).
        if who and not context.request.get(f"{self.running.url}/api/account", max_retries=3).ok:
            body = {"handle": who, "password": PASSWORD}
            assert context.request.post(f"{self.running.url}/api/session", data=body).ok
        return name, context

    def give_back(self, name: str, who: str, context: BrowserContext) -> None:
        """Clear a profile for the next test; one of nobody is closed."""
        for page in context.pages:
            if not page.is_closed() and page.url.startswith(self.running.url):
                page.evaluate("localStorage.clear(); sessionStorage.clear()")
            page.close()
        if who:
            self.idle.setdefault(name, []).append(context)
        else:
            context.close()


@pytest.fixture(scope="session")
def profiles(browser: Browser, running: Running) -> Profiles:
    """The profiles of the session."""
    return Profiles(browser, running)


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(
    item: pytest.Item,
) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    """With a test that failed, say what happened last on each of its pages."""
    report = yield
    if report.when == "call" and report.failed:
        for page in item.stash.get(PAGES, []):
            if not page.is_closed():
                report.sections.append(
                    (f"what happened at {page.url}", "\n".join(page.evaluate("window.story ?? []")))
                )
    return report


@pytest.fixture
def open_as(running: Running, profiles: Profiles, request: pytest.FixtureRequest) -> Iterator[Open]:
    """Opens a page of the console as somebody. Errors in its log, and requests that leave loopback, fail the test."""
    taken: list[tuple[str, str, BrowserContext]] = []
    wrong: list[str] = []

    def go(who: str, path: str = "/", *, expect: tuple[str, ...] = (), **options: object) -> Page:
        name, context = profiles.take(who, options)
        taken.append((name, who, context))
        page = context.new_page()
        page.add_init_script(STORY)
        request.node.stash.setdefault(PAGES, []).append(page)
        if SLOWED > 1:
            context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": SLOWED})

        def said(message: object) -> None:
            kind, text = message.type, message.text  # type: ignore[attr-defined]
            if kind in ("error", "warning") and not any(e in text for e in expect):
                where = message.location["url"]  # type: ignore[attr-defined]
                wrong.append(f"{who} {path}: {text} {where}")

        def asked(request: object) -> None:
            if urlsplit(request.url).hostname not in ("127.0.0.1", "localhost", None):  # type: ignore[attr-defined]
                wrong.append(f"{who} {path}: left loopback for {request.url}")  # type: ignore[attr-defined]

        page.on("console", said)
        page.on("pageerror", lambda error: wrong.append(f"{who} {path} at {page.url}: {error} {error.stack}"))
        page.on("request", asked)
        page.goto(running.url + path)
        if who:
            page.get_by_text("Connected").wait_for()
        return page

    yield go
    for name, who, context in taken:
        profiles.give_back(name, who, context)
    assert wrong == []
