"""Figures of the console: how soon the next paint follows what a hand does, on a long list and in a long text.

Measured by the browser itself (Event Timing API, W3C), which says for each interaction how long it was until the paint after it;
in steps of 8 ms. The worst of many counts, in headless Chromium.
"""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page

from benchmarks.browsing import museum, page_of
from benchmarks.figures import Figure
from hawthorn.client import Client
from hawthorn.demo.museum import PASSWORD

LINES = 200
WORDS = 3_000
SOON = 100.0
"""Milliseconds in which a paint is felt to follow at once."""

_WATCH = """() => {
  window.slowest = 0;
  new PerformanceObserver((list) => {
    for (const one of list.getEntries())
      if (one.interactionId) window.slowest = Math.max(window.slowest, one.duration);
  }).observe({ type: "event", durationThreshold: 16, buffered: true });
}"""


def figure_console(folder: Path) -> dict[str, Figure]:
    """The slowest interaction on a list of entries and in a text, against what is felt as at once."""
    with museum(folder) as demo:
        service = demo.ports.url("service")
        with Client(service) as hawthorn:
            hawthorn.log_in("wim", PASSWORD)
            for n in range(LINES):
                hawthorn.start("notice", {"title": f"Notice {n:03}", "body": "<p>Low water at noon.</p>"})
            text = "".join(f"<p>{'The tide comes in twice. ' * 10}</p>" for _ in range(WORDS // 50))
            long = hawthorn.start("notice", {"title": "A long text", "body": text}).id
        with page_of(demo, "wim") as page:
            listed = _list(page, service)
            written = _text(page, f"{service}/entries/{long}/en")
    return {
        f"interaction to next paint, a list of {LINES} lines": Figure(
            listed, SOON, listed / SOON, 1.0, "lower", "ms"
        ),
        f"interaction to next paint, a text of {WORDS} words": Figure(
            written, SOON, written / SOON, 1.0, "lower", "ms"
        ),
    }


def _list(page: Page, service: str) -> float:
    page.goto(f"{service}/entries?type=notice")
    table = page.get_by_role("table")
    rows = table.locator("tbody tr[data-index]")
    rows.first.wait_for()
    page.wait_for_timeout(500)
    page.evaluate(_WATCH)
    more = page.get_by_role("button", name="Show more")
    while more.is_visible():
        # A hand comes to the button before it presses it: the scrolling is not part of the click.
        more.scroll_into_view_if_needed()
        page.wait_for_timeout(200)
        more.click()
        page.wait_for_timeout(500)
    page.evaluate("scrollTo(0, 0)")
    page.wait_for_timeout(300)
    for n in range(8):
        rows.nth(n).get_by_role("checkbox").click()
    rows.nth(12).get_by_role("checkbox").click(modifiers=["Shift"])
    page.get_by_role("checkbox", name="Choose all that are shown").click()
    for name in ("Title", "Changed"):
        table.get_by_role("button", name=name).click()
        page.wait_for_timeout(400)
    page.get_by_role("button", name="View").click()
    for name in ("Planned", "Where it stands", "Planned"):
        page.get_by_role("checkbox", name=name, exact=True).click()
    page.get_by_role("radio", name="Close together").click()
    page.keyboard.press("Escape")
    page.get_by_label("Words anywhere in the text").press_sequentially("water", delay=60)
    return _slowest(page)


def _text(page: Page, url: str) -> float:
    page.goto(url)
    text = page.locator("#field-body")
    page.get_by_role("toolbar", name="Formatting").wait_for()
    page.wait_for_timeout(1_000)
    text.locator("p").nth(30).click()
    page.evaluate(_WATCH)
    page.keyboard.type("A quick word, ", delay=40)
    page.keyboard.press("Enter")
    page.keyboard.type("/quo", delay=40)
    page.keyboard.press("Enter")
    page.keyboard.type("and another.", delay=40)
    page.keyboard.press("Shift+Home")
    for key in ("Control+b", "Control+i", "Control+z"):
        page.keyboard.press(key)
        page.wait_for_timeout(60)
    page.get_by_role("button", name="List", exact=True).click()
    return _slowest(page)


def _slowest(page: Page) -> float:
    page.wait_for_timeout(400)
    return max(float(page.evaluate("window.slowest")), 8.0)
