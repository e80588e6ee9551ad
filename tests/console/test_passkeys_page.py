"""Passkeys in the browser, with a device that the browser itself plays."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from hawthorn.demo.museum import PASSWORD
from tests.conftest import Running
from tests.console.conftest import Open, own_menu

NEW = {"viewport": {"width": 1280, "height": 802}}
"""A profile that no other test has."""


def device(page: Page) -> tuple[object, str]:
    """A device beside the page, which knows who holds it."""
    session = page.context.new_cdp_session(page)
    session.send("WebAuthn.enable")
    about = {
        "protocol": "ctap2",
        "transport": "internal",
        "hasResidentKey": True,
        "hasUserVerification": True,
        "isUserVerified": True,
        "automaticPresenceSimulation": True,
    }
    made = session.send("WebAuthn.addVirtualAuthenticator", {"options": about})
    return session, made["authenticatorId"]


def log_in(page: Page, handle: str) -> None:
    page.get_by_label("Name or mail address").fill(handle)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Log in").click()


def test_a_passkey_is_added_logs_in_alone_and_after_the_password_and_is_removed(
    running: Running, open_as: Open
) -> None:
    page = open_as("", "/", expect=("401", "409", "422"), **NEW)
    at = running.url.replace("127.0.0.1", "localhost")
    page.goto(f"{at}/account")
    session, key = device(page)
    log_in(page, "rhea")
    box = page.get_by_role("region", name="Passkeys")
    box.get_by_label("Your password").fill("not the password")
    box.get_by_label("What to call it").fill("Telephone")
    box.get_by_role("button", name="Add a passkey").click()
    expect(box.get_by_role("alert")).to_contain_text("password")
    box.get_by_label("Your password").fill(PASSWORD)
    box.get_by_role("button", name="Add a passkey").click()
    expect(box.get_by_role("listitem")).to_contain_text("Telephone")
    # The first one turned the second factor on, with codes for when it is lost.
    expect(page.get_by_role("status").locator("li")).to_have_count(10)
    expect(page.get_by_text("It is on: logging in needs")).to_be_visible()
    own_menu(page, "Log out")
    page.get_by_role("button", name="Use a passkey").click()
    expect(page.get_by_role("heading", name="Your account")).to_be_visible()
    expect(box.get_by_role("listitem")).to_contain_text("used")
    box.get_by_role("button", name="Rename Telephone").click()
    box.get_by_label("What to call it").first.fill("Old telephone")
    box.get_by_role("button", name="Save").click()
    expect(box.get_by_role("listitem")).to_contain_text("Old telephone")
    own_menu(page, "Log out")
    log_in(page, "rhea")
    expect(page.get_by_label("Code of your second factor")).to_be_visible()
    page.get_by_role("button", name="Use a passkey").click()
    expect(page.get_by_role("heading", name="Your account")).to_be_visible()
    box.get_by_label("Your password").fill(PASSWORD)
    box.get_by_role("button", name="Remove Old telephone").click()
    expect(box.get_by_role("listitem")).to_have_count(0)
    expect(page.get_by_role("button", name="Set it up")).to_be_visible()
    own_menu(page, "Log out")
    # The device still has it, and is told that nobody here does.
    page.get_by_role("button", name="Use a passkey").click()
    expect(page.get_by_role("alert")).to_contain_text("belongs to nobody here")
    session.send("WebAuthn.removeVirtualAuthenticator", {"authenticatorId": key})  # type: ignore[attr-defined]
    log_in(page, "rhea")
    expect(page.get_by_role("heading", name="Your account")).to_be_visible()


def test_where_the_console_is_opened_by_a_number_it_says_why_there_are_no_passkeys(
    running: Running, open_as: Open
) -> None:
    page = open_as("", "/account", expect=("401", "409"), **NEW)
    page.get_by_role("button", name="Use a passkey").click()
    expect(page.get_by_role("alert")).to_contain_text("bound to the name of a host")
    expect(page.get_by_role("alert")).to_contain_text("localhost")
