"""Takes the pictures in docs/screenshots from a fresh demo, at 1280x800 unless said otherwise."""

from __future__ import annotations

import re
import shutil
import sys
import tempfile
from pathlib import Path

import httpx
from playwright.sync_api import Page, sync_playwright

from hawthorn.demo.museum import PASSWORD
from hawthorn.demo.parts import Demo
from hawthorn.demo.places import Doors

CHROMIUM = shutil.which("chromium-headless-shell") or "/usr/bin/chromium"
ARGS = [
    "--disable-background-networking", "--disable-component-update", "--disable-sync", "--no-first-run",
    "--disable-gpu", "--disable-quic", "--no-sandbox",
]  # fmt: skip


def main(target: Path) -> None:
    """Take them all."""
    with tempfile.TemporaryDirectory() as folder:
        demo = Demo(Path(folder), Doors())
        demo.start()
        try:
            take(demo, target)
        finally:
            demo.stop()


def take(demo: Demo, target: Path) -> None:
    """The pictures of the console and the public site."""
    service = demo.ports.url("service")
    with httpx.Client(base_url=service) as http:
        token = http.post("/api/session", json={"handle": "ida", "password": PASSWORD}).json()["token"]
        http.headers["Authorization"] = f"Bearer {token}"
        http.cookies.clear()

        def id(text: str) -> str:
            return str(http.get("/api/entries/lookup", params={"text": text}).json()["items"][0]["id"])

        # The one that was put together last: it is written in, and reviewed as one.
        written = http.get("/api/dispatches", params={"state": "open"}).json()["items"][-1]["id"]
        jobs = http.get("/api/jobs").json()["items"]
        sundays = next(one["id"] for one in jobs if one["name"] == "First Sundays" and one["locale"] == "ja")
        opened = http.get("/api/commissions?state=open").json()["items"]
        spring = next(one["id"] for one in opened if one["name"] == "For spring")
        visit = id("Visit")
        lamp, boat, rope, winter = (
            id("The harbour lamp"),
            id("The pilot boat"),
            id("A coil of"),
            id("Winter opening"),
        )
        now = http.get(f"/api/entries/{rope}/en").json()

    def clash(page: Page) -> None:
        page.get_by_label("Title", exact=True).fill("A coil of tarred rope")
        with httpx.Client(base_url=service, headers={"Authorization": f"Bearer {token}"}) as other:
            body = {"fields": {"title": "One coil of hemp"}}
            other.patch(
                f"/api/entries/{rope}/en", json=body, headers={"If-Match": now["etag"]}
            ).raise_for_status()
        page.get_by_role("button", name="Save draft").click()
        page.get_by_role("heading", name="Somebody changed the same place").wait_for()

    def plan(page: Page) -> None:
        page.get_by_role("button", name="Release or plan").click()
        page.get_by_text("What goes").wait_for()

    def beside(page: Page) -> None:
        page.get_by_role("tab", name="Page", exact=True).click()
        page.get_by_text("The page follows what you type").wait_for()
        page.get_by_label("Title", exact=True).fill("Visit us")
        page.frame_locator("iframe").get_by_role("heading", name="Visit us").wait_for()

    def comments(page: Page) -> None:
        page.get_by_role("tab", name="Comments").click()
        page.get_by_text("what do you think?").wait_for()

    def drawn(page: Page) -> None:
        page.get_by_label("How many weeks").select_option("4 weeks")
        page.locator("canvas").last.wait_for()

    def coverage(page: Page) -> None:
        page.get_by_role("tab", name="Coverage").click()
        page.get_by_label("State", exact=True).select_option("out of date")
        page.get_by_role("link", name="out of date").first.wait_for()

    def sentence(page: Page) -> None:
        page.get_by_role("button", name="Translate sentence 2,").click()
        page.get_by_role("list", name="From the memories").wait_for()
        page.wait_for_timeout(1500)

    def counted(page: Page) -> None:
        page.get_by_role("table", name="Before it is sent").get_by_text("EUR").last.wait_for()

    shots = [
        ("my-work", "oda", "/", None, {}),
        ("entries", "ida", "/entries", None, {}),
        ("entry", "wim", f"/entries/{lamp}/en", comments, {}),
        ("dispatch", "oda", f"/timetable/{written}", None, {}),
        ("plan", "ida", f"/entries/{boat}/en", plan, {}),
        ("conflict", "wim", f"/entries/{rope}/en", clash, {}),
        ("figures", "ida", "/figures?weeks=13", drawn, {}),
        ("proposal", "ida", f"/entries/{lamp}/en/strands/Spring%20wording/proposal", None, {}),
        ("preview", "oda", f"/entries/{visit}/en", beside, {}),
        ("outline", "ida", "/outline", None, {}),
        ("library", "nell", "/library", None, {}),
        ("timetable", "ida", "/timetable", None, {}),
        ("coverage", "mina", "/translation", coverage, {}),
        ("commission", "mina", f"/translation/commissions/{spring}", counted, {}),
        ("table", "ida", f"/translation/{sundays}/table", sentence, {}),
        ("arabic-dark", "sami", f"/entries/{winter}/ar", None, {"color_scheme": "dark", "locale": "ar"}),
        ("phone", "wim", f"/entries/{lamp}/en", None, {"viewport": {"width": 390, "height": 800}}),
    ]
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGS)
        for name, who, path, act, options in shots:
            context = browser.new_context(**{"viewport": {"width": 1280, "height": 800}, **options})
            context.request.post(f"{service}/api/session", data={"handle": who, "password": PASSWORD})
            page = context.new_page()
            page.goto(service + path)
            page.get_by_text(re.compile("^(Connected|متصل)$")).wait_for()
            page.wait_for_load_state("load")
            page.wait_for_timeout(900)
            if act:
                act(page)
            page.wait_for_timeout(400)
            page.screenshot(path=target / f"{name}.png", animations="disabled")
            context.close()
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(demo.ports.url("site") + "/en")
        page.wait_for_load_state("networkidle")
        page.screenshot(path=target / "site.png", animations="disabled")
        browser.close()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
