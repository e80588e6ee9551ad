"""Logging in through the identity provider, in the browser."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.conftest import Running
from tests.console.conftest import Open

NEW = {"viewport": {"width": 1280, "height": 801}}
"""A profile that no other test has."""


def choose(page: Page, name: str) -> None:
    """Go to the provider, and say there who one is."""
    page.get_by_role("button", name="Continue with Harbour accounts").click()
    page.get_by_role("heading", name="Harbour accounts").wait_for()
    page.get_by_role("button", name=name).click()


def test_somebody_logs_in_through_the_provider_and_is_where_they_were(
    running: Running, open_as: Open
) -> None:
    page = open_as("", "/timetable", expect=("401",), **NEW)
    choose(page, "Oda")
    page.get_by_text("Connected").wait_for()
    assert page.url == f"{running.url}/timetable"
    # The same address once more is of no use.
    page.goto(f"{running.url}/log-in")
    page.get_by_text("Connected").wait_for()
    assert page.url == f"{running.url}/"


def test_a_volunteer_who_is_not_known_comes_in_and_one_whom_nothing_lets_in_is_told_whom_to_ask(
    running: Running, open_as: Open
) -> None:
    page = open_as("", "/", expect=("401", "409"), **NEW)
    choose(page, "Petra Sandhill")
    page.get_by_text("Connected").wait_for()
    found = next(p for p in running.as_("ida").people(limit=200).items if p.handle == "petra")
    assert found.connected
    assert [role.name for role in found.roles] == ["staff"]
    # What comes back a second time, or was refused there, is said where one may try again.
    page.context.clear_cookies()
    page.goto(f"{running.url}/log-in?code=x&state=made-up")
    expect(page.get_by_text("came back from the provider before")).to_be_visible()
    page.goto(f"{running.url}/log-in?error=access_denied&error_description=Not+today&state=x")
    expect(page.get_by_text("The provider let nobody in: Not today.")).to_be_visible()
    expect(page.get_by_role("button", name="Continue with Harbour accounts")).to_be_visible()
    running.as_("ida").end_person("petra")
