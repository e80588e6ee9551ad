"""What figures are measured with in a browser: a museum, and a page of it as somebody sees it."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from hawthorn.demo.museum import PASSWORD
from hawthorn.demo.parts import Demo
from hawthorn.demo.places import Doors

CHROMIUM = shutil.which("chromium-headless-shell") or "/usr/bin/chromium"


@contextmanager
def museum(folder: Path) -> Iterator[Demo]:
    """A running museum of its own, in a folder below `folder`."""
    demo = Demo(Path(tempfile.mkdtemp(dir=folder)), Doors(), whole=False)
    demo.start()
    try:
        yield demo
    finally:
        demo.stop()


@contextmanager
def page_of(demo: Demo, who: str) -> Iterator[Page]:
    """A page in headless Chromium, logged in as somebody."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox", "--disable-gpu"])
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        body = {"handle": who, "password": PASSWORD}
        context.request.post(f"{demo.ports.url('service')}/api/session", data=body)
        yield context.new_page()
        browser.close()
