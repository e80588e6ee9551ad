"""Headless Chromium on the console of the running museum."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from hawthorn.demo.museum import PASSWORD
from tests.conftest import Running

ARGS = [
    "--disable-background-networking", "--disable-component-update", "--disable-sync", "--no-first-run",
    "--disable-gpu", "--disable-quic", "--no-sandbox",
]  # fmt: skip

# A busy machine may be slow; what never comes true fails all the same.
expect.set_options(timeout=15_000)
Open = Callable[..., Page]


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """One browser for the session."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGS)
        yield browser
        browser.close()


@pytest.fixture
def open_as(running: Running, browser: Browser) -> Iterator[Open]:
    """Opens a page of the console as somebody. Errors in its log, and requests that leave loopback, fail the test."""
    contexts: list[BrowserContext] = []
    wrong: list[str] = []

    def go(who: str, path: str = "/", *, expect: tuple[str, ...] = (), **options: object) -> Page:
        context = browser.new_context(**{"viewport": {"width": 1280, "height": 800}, **options})  # type: ignore[arg-type]
        contexts.append(context)
        page = context.new_page()

        def said(message: object) -> None:
            kind, text = message.type, message.text  # type: ignore[attr-defined]
            if kind in ("error", "warning") and not any(e in text for e in expect):
                wrong.append(f"{who} {path}: {text}")

        def asked(request: object) -> None:
            if urlsplit(request.url).hostname not in ("127.0.0.1", None):  # type: ignore[attr-defined]
                wrong.append(f"{who} {path}: left loopback for {request.url}")  # type: ignore[attr-defined]

        page.on("console", said)
        page.on("pageerror", lambda error: wrong.append(f"{who} {path}: {error}"))
        page.on("request", asked)
        if who:
            answer = context.request.post(
                f"{running.url}/api/session", data={"handle": who, "password": PASSWORD}
            )
            assert answer.ok
        page.goto(running.url + path)
        if who:
            page.get_by_text("Connected").wait_for()
        return page

    yield go
    for context in contexts:
        context.close()
    assert wrong == []
