"""Where a second factor is asked of everybody, whoever comes by a password sets one up before anything else."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path

import pyotp
import pytest
from playwright.sync_api import Browser, expect

from tests.console.test_accessible import faults
from tests.service.made import Clock, House, serving

pytestmark = pytest.mark.browser


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path, Clock(int(time.time()) * 1_000_000))
    yield made
    made.close()


def test_whoever_has_none_sets_one_up_before_anything_else(house: House, browser: Browser) -> None:
    with serving(house, second_factor=True) as (_, url):
        context = browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        page = context.new_page()
        page.goto(f"{url}/entries")
        page.get_by_label("Name or mail address").fill("wim")
        page.get_by_label("Password").fill("long enough")
        page.get_by_role("button", name="Log in", exact=True).click()
        expect(page.get_by_role("heading", name="One more step")).to_be_visible()
        expect(page.get_by_role("navigation", name="Main")).to_have_count(0)
        assert faults(page) == []
        page.reload()
        expect(page.get_by_role("heading", name="One more step")).to_be_visible()
        factor = page.get_by_role("region", name="Second factor")
        factor.get_by_label("Password").fill("long enough")
        factor.get_by_role("button", name="Set it up").click()
        secret = factor.locator("code").inner_text()
        factor.get_by_label("Code of your second factor").fill(
            pyotp.TOTP(secret).at(house.clock.at // 1_000_000)
        )
        factor.get_by_role("button").last.click()
        expect(factor.get_by_role("status").locator("li")).to_have_count(10)
        page.set_viewport_size({"width": 390, "height": 800})
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
        page.set_viewport_size({"width": 1280, "height": 800})
        page.get_by_role("button", name="I have kept the codes: go on").click()
        expect(page.get_by_role("heading", name="Entries")).to_be_visible()
        context.close()
