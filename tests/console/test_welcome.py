"""A new house in the browser: from the printed address to a first entry."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Browser, expect

from tests.conftest import eventually
from tests.service.test_first_run import printed, started


@pytest.mark.browser
def test_the_first_person_begins_a_house_in_the_browser(browser: Browser, tmp_path: Path) -> None:
    with started(tmp_path / "new.sqlite") as (_, said):
        context = browser.new_context(viewport={"width": 1280, "height": 800}, locale="en-GB")
        page = context.new_page()
        page.goto(str(eventually(lambda: printed(said))))
        page.get_by_label("Your name").fill("Ida Marlow")
        page.get_by_label("A name to log in with").fill("ida")
        page.get_by_label("A password").fill("12345678")
        page.get_by_label("Others that it is translated into").fill("fr, de")
        expect(page.get_by_text("Français, Deutsch")).to_be_visible()
        page.get_by_label("News").check()
        page.get_by_role("button", name="Begin").click()
        expect(page.get_by_text("is one of those that are tried first")).to_be_visible()
        page.get_by_label("A password").fill("the tide turns at six")
        page.get_by_role("button", name="Begin").click()
        expect(page.get_by_role("heading", name="My work")).to_be_visible()
        assert "token" not in page.url
        page.goto(f"{page.url.rstrip('/')}/set-up/languages")
        expect(page.get_by_role("listitem")).not_to_have_count(0)
        for tag in ("en", "fr", "de"):
            expect(page.get_by_text(tag, exact=True).first).to_be_visible()
        context.close()
