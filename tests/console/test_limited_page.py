"""Who may read an entry, in a browser: locked with a phrase, opened on the site by whoever knows it, hidden, and put back."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import expect

from hawthorn.client import Client
from tests.conftest import Running, eventually
from tests.console.conftest import Open
from tests.console.test_console import said


@pytest.fixture
def reader(running: Running) -> Iterator[Client]:
    with Client(running.url) as client:
        yield client


def test_an_entry_is_locked_opened_on_the_site_hidden_and_put_back(
    running: Running, open_as: Open, reader: Client
) -> None:
    entry = running.out("The stairs at night")
    site = running.demo.ports.url("site")
    page = open_as("ida", f"/entries/{entry.id}/en", expect=("422",))
    page.get_by_role("button", name="More actions").click()
    page.get_by_role("button", name="Who may read it…").click()
    dialog = page.get_by_role("dialog", name="Who may read it?")
    dialog.get_by_label("Locked").check()
    expect(dialog.get_by_role("button", name="Apply")).to_be_disabled()
    dialog.get_by_role("textbox", name=re.compile("^Phrase")).fill("short")
    dialog.get_by_role("button", name="Apply").click()
    expect(dialog.get_by_role("alert")).to_contain_text("8 characters")
    dialog.get_by_role("textbox", name=re.compile("^Phrase")).fill("Two lamps by the sea")
    dialog.get_by_role("button", name="Apply").click()
    said(page, "“The stairs at night” is locked.")
    expect(page.get_by_text("Locked: while it is out, whoever knows its phrase may read it.")).to_be_visible()

    path = reader.read(entry.id).path
    words = "The stairs at night is at ten."
    visitor = open_as("ida", "/", expect=("422",))
    eventually(lambda: reader.read(entry.id).locked)
    eventually(lambda: "Phrase" in (visitor.goto(f"{site}{path}") and visitor.content()))
    assert words not in visitor.content()
    visitor.get_by_label("Phrase").fill("three lamps by the sea")
    visitor.get_by_role("button", name="Open the page").click()
    expect(visitor.get_by_role("alert")).to_contain_text("That is not the phrase.")
    visitor.get_by_label("Phrase").fill("two LAMPS by the sea")
    visitor.get_by_role("button", name="Open the page").click()
    expect(visitor.get_by_text(words)).to_be_visible()

    page = open_as("ida", f"/entries/{entry.id}/en")
    page.get_by_role("button", name="Who may read it…").click()
    dialog = page.get_by_role("dialog", name="Who may read it?")
    dialog.get_by_label("Hidden").check()
    dialog.get_by_role("combobox", name=re.compile("^Audiences")).fill("friends, press")
    dialog.get_by_role("button", name="Apply").click()
    expect(page.get_by_text("Hidden: while it is out, only friends, press may read it.")).to_be_visible()
    page.get_by_text("Undo", exact=True).click()
    expect(page.get_by_text("Locked: while it is out")).to_be_visible()
