"""The console in other languages: chosen when logging in and in one's account, written from right to left where that is how it is written."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import Running
from tests.console.conftest import Open
from tests.console.test_accessible import faults
from tests.console.test_passkeys_page import PASSWORD

NEW = {"viewport": {"width": 1280, "height": 803}}
"""A profile that no other test has."""
LOG_IN = {"en": "Log in", "de": "Anmelden", "fr": "Se connecter", "ar": "دخول"}


def spoken(page: Page) -> tuple[str | None, str | None]:
    root = page.locator("html")
    return root.get_attribute("lang"), root.get_attribute("dir")


def test_whoever_logs_in_chooses_a_language_and_a_browser_s_own_comes_first(
    running: Running, open_as: Open
) -> None:
    page = open_as("", "/", expect=("401",), **NEW, locale="de-AT")
    expect(page.get_by_role("button", name="Anmelden", exact=True)).to_be_visible()
    assert spoken(page) == ("de", "ltr")
    page.get_by_role("button", name="العربية").click()
    expect(page.get_by_role("button", name="دخول", exact=True)).to_be_visible()
    assert spoken(page) == ("ar", "rtl")
    page.reload()
    expect(page.get_by_role("button", name="دخول", exact=True)).to_be_visible()
    page.get_by_role("button", name="English").click()
    expect(page.get_by_role("button", name="Log in", exact=True)).to_be_visible()


def test_what_somebody_chooses_in_their_account_is_spoken_at_once_and_wherever_they_log_in(
    running: Running, open_as: Open
) -> None:
    page = open_as("", "/", expect=("401", "404"), **NEW, color_scheme="light")
    page.get_by_label("Name or mail address").fill("rhea")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Log in", exact=True).click()
    page.get_by_text("Connected").wait_for()
    page.goto(running.url + "/account")
    try:
        page.get_by_role("combobox", name="Language").select_option("ar")
        page.get_by_text("متصل").wait_for()
        assert spoken(page) == ("ar", "rtl")
        expect(page.get_by_role("heading", name="حسابك")).to_be_visible()
        # The navigation is at the right, and nothing is wider than the page.
        menu = page.get_by_role("navigation").first.bounding_box()
        assert menu is not None
        assert menu["x"] > 900
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
        # Elsewhere, nothing is known of it until they have logged in.
        page.evaluate("localStorage.removeItem('hawthorn:language')")
        page.goto(running.url + "/entries")
        page.get_by_text("متصل").wait_for()
        expect(page.get_by_role("heading", name="المواد", exact=True)).to_be_visible()
        # The service speaks it, too.
        page.goto(running.url + "/entries/00000000-0000-4000-8000-000000000000/en")
        expect(page.get_by_text("يجوز لك رؤيتها").first).to_be_visible()
    finally:
        rhea = running.as_("rhea")
        mine = rhea.account()
        rhea.set_profile(mine.name, mine.zone, "")


@pytest.mark.parametrize("language", ["de", "fr", "ar"])
def test_pages_in_each_language_fit_and_can_be_used_by_all(
    running: Running, open_as: Open, language: str
) -> None:
    connected = {"de": "Verbunden", "fr": "Connecté", "ar": "متصل"}[language]
    page = open_as("tomas", "/", expect=("404", "Failed to load"))
    page.evaluate(f"localStorage.setItem('hawthorn:language', '{language}')")
    try:
        for path in ("/", "/entries", "/timetable", "/figures"):
            page.goto(running.url + path)
            page.get_by_text(connected, exact=True).wait_for()
            # The frame stands before the page in it does, whose code is read when it is gone to.
            expect(page.get_by_role("heading", level=1)).to_be_visible()
            expect(page.locator(".skeleton, [role=status][aria-busy=true]")).to_have_count(0)
            assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), path
            # No key of a message stands where its words should.
            shown = page.locator("main").inner_text()
            assert not [
                word
                for word in shown.split()
                if word.startswith(("list.", "when.", "event.", "figures.", "timetable."))
            ]
            assert faults(page) == [], path
    finally:
        page.evaluate("localStorage.removeItem('hawthorn:language')")
