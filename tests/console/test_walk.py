"""From an empty file to a page in two languages, in the browser alone: what `docs/set-up.md` says in one page."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.console.test_console import said
from tests.own_house import KEY, own_house


def add_field(page: Page, label: str, kind: str) -> None:
    page.get_by_label("A new field").fill(label)
    page.get_by_role("combobox", name="Kind").last.select_option(label=kind)
    page.get_by_role("button", name="Add", exact=True).click()


@pytest.mark.browser
def test_a_house_is_set_up_and_a_page_goes_out_in_two_languages(browser: Browser, tmp_path: Path) -> None:
    with own_house(tmp_path) as house:
        options = {"viewport": {"width": 1280, "height": 800}, "locale": "en-GB"}
        first, second = browser.new_context(**options), browser.new_context(**options)  # type: ignore[arg-type]
        ida, oda = first.new_page(), second.new_page()
        for page in (ida, oda):
            page.on("dialog", lambda dialog: dialog.accept())
        # The first person, by the address that was printed.
        ida.goto(house.begin)
        ida.get_by_label("Your name").fill("Ida Marlow")
        ida.get_by_label("A name to log in with").fill("ida")
        ida.get_by_label("A password").fill("the tide turns at six")
        ida.get_by_role("button", name="Begin").click()
        expect(ida.get_by_role("heading", name="My work")).to_be_visible()
        # Two languages, a type.
        ida.goto(f"{house.url}/set-up/languages")
        for tag in ("fr", "ja"):
            ida.get_by_label("Language tag").fill(tag)
            ida.get_by_role("button", name="Add", exact=True).click()
        ida.get_by_role("button", name="Save").click()
        said(ida, re.compile("saved"))
        ida.goto(f"{house.url}/set-up/types/new")
        ida.get_by_label("What people call it").fill("Leaflet")
        add_field(ida, "Address", "Web address")
        add_field(ida, "Body", "Rich text")
        add_field(ida, "Placed below", "Place in the outline")
        ida.get_by_role("button", name="Create the type").click()
        said(ida, "Leaflet is at version 1.")
        # A second person, invited by mail, who chooses a password.
        ida.goto(f"{house.url}/set-up/people")
        ida.get_by_role("button", name="Invite somebody").click()
        dialog = ida.get_by_role("dialog")
        dialog.get_by_label("Name", exact=True).fill("Oda Brandt")
        dialog.get_by_label("Logs in as").fill("oda")
        dialog.get_by_label("Mail address").fill("oda@house.example")
        roles = dialog.get_by_role("combobox", name="Role")
        for n, role in enumerate(("staff", "section editor", "translation reviewer")):
            if roles.count() <= n:
                dialog.get_by_role("button", name="Add a role").click()
            roles.nth(n).select_option(label=role)
        dialog.get_by_role("button", name="Invite", exact=True).click()
        expect(dialog.get_by_text("Invited by mail.")).to_be_visible()
        oda.goto(house.mailed("oda@house.example"))
        oda.get_by_label(re.compile("Password|password")).first.fill("lamps are lit at dusk")
        oda.get_by_label("Repeat the password").fill("lamps are lit at dusk")
        oda.get_by_role("button", name="Begin").click()
        expect(oda.get_by_role("heading", name="My work")).to_be_visible()
        # A bureau, with its key.
        ida.goto(f"{house.url}/set-up/bureaus")
        expect(ida.get_by_text("No bureau yet.")).to_be_visible()
        ida.get_by_label("Name", exact=True).fill("Saltmarsh")
        ida.get_by_label("Address where it is called").fill(house.bureau)
        ida.get_by_label("Key", exact=False).first.fill("wrong")
        ida.get_by_label("fr", exact=True).fill("fr-FR")
        ida.get_by_role("button", name="Add", exact=True).click()
        expect(ida.get_by_text("the key is not taken")).to_be_visible()
        ida.get_by_role("button", name="Add it all the same").click()
        expect(ida.get_by_text("Both sides sign with the secret of “Saltmarsh”")).to_be_visible()
        expect(ida.get_by_text("It never said what it offers.")).to_be_visible()
        ida.get_by_role("button", name="Change Saltmarsh").click()
        ida.get_by_label("Key", exact=False).first.fill(KEY)
        ida.get_by_role("button", name="Save").click()
        expect(ida.get_by_text("Offers en → fr-FR, de, ja-JP, ar")).to_be_visible()
        ida.get_by_role("button", name="Ask what it offers").click()
        expect(ida.get_by_text("Saltmarsh answers;")).to_be_visible()
        # Written by one, reviewed by the other.
        ida.get_by_role("link", name="Entries", exact=True).first.click()
        ida.keyboard.press("n")
        ida.get_by_label("What is it?").select_option(label="Leaflet")
        ida.get_by_label("Title", exact=True).last.fill("The fog bell")
        ida.get_by_role("button", name="Start", exact=True).click()
        expect(ida.get_by_role("heading", level=1, name="The fog bell")).to_be_visible()
        ida.get_by_role("textbox", name="Body").click()
        ida.keyboard.type("The bell is rung in fog. It is loud.")
        ida.get_by_role("button", name="Save draft").click()
        said(ida, "Saved as revision 2.")
        ida.get_by_role("button", name="Submit").click()
        ida.get_by_role("button", name="Submit").last.click()
        expect(ida.get_by_role("tabpanel")).to_contain_text("waits for a decision")
        oda.get_by_role("link", name="The fog bell").first.click()
        oda.get_by_role("button", name="Sign off").click()
        oda.get_by_role("button", name="Sign off").last.click()
        oda.get_by_role("tab", name="Now").click()
        expect(oda.get_by_role("tabpanel")).to_contain_text("The draft is exactly what was signed off.")
        # Translated by the bureau, accepted by the other. What she may do next stands in another order once her page has heard of it.
        expect(ida.get_by_role("tabpanel")).to_contain_text("The draft is exactly what was signed off.")
        ida.get_by_role("button", name="Translate").click()
        # Both languages lack it; that which the bureau calls otherwise is not chosen, and it is said why.
        dialog = ida.get_by_role("dialog")
        expect(dialog).to_contain_text("but into ja-JP: say that it calls ja that")
        expect(dialog.get_by_label("Français")).to_be_checked()
        expect(dialog.get_by_label("日本語")).not_to_be_checked()
        ida.get_by_label("Who does it").select_option("Saltmarsh")
        ida.get_by_role("button", name="Send", exact=True).click()
        said(ida, "Sent to Saltmarsh.")
        ida.get_by_role("tab", name="Translations").click()
        expect(ida.get_by_role("tabpanel").get_by_text("returned")).to_be_visible(timeout=20_000)
        oda.goto(f"{house.url}/translation")
        oda.get_by_label("Jobs").get_by_role("link", name="The fog bell").click()
        oda.get_by_role("button", name="Accept all").click()
        said(oda, "Accepted and signed off.")
        # Released in both at once, and read with a key.
        ida.reload()
        ida.get_by_role("button", name="Release or plan").click()
        ida.get_by_role("dialog").get_by_label("Français").check()
        expect(ida.get_by_text("Nothing blocks it.")).to_be_visible()
        expect(
            ida.get_by_role("dialog")
            .get_by_role("listitem")
            .filter(has_text="Français")
            .or_(ida.get_by_role("dialog").get_by_text("(fr)"))
            .first
        ).to_be_visible()
        ida.get_by_role("button", name="Release now").click()
        said(ida, "Released.")
        ida.goto(f"{house.url}/set-up/keys")
        ida.get_by_label("What is it for?").fill("Site")
        ida.get_by_role("button", name="Issue", exact=True).click()
        secret = ida.get_by_role("status").locator("code").inner_text()
        with httpx.Client(base_url=house.url, headers={"Authorization": f"Bearer {secret}"}) as site:
            for locale in ("en", "fr"):
                asked = {"type": "leaflet", "locale": locale, "fallback": "false"}
                (page_read,) = site.get("/read/entries", params=asked).json()["items"]
                assert page_read["locale"] == locale
        first.close()
        second.close()
