"""Assistants on the page of keys: what one did is looked through, it is paused and let go on, and what it wrote is undone after it was shown."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from hawthorn.client import Client
from hawthorn.client.errors import Refusal
from tests.conftest import Running
from tests.console.conftest import Open


def test_an_assistant_is_looked_through_paused_and_undone(running: Running, open_as: Open) -> None:
    made = running.as_("ida").issue_key(
        "Fernleaf", "assistant", kind="assistant", stages=["draft", "release"]
    )
    fields = {"title": "Gulls at noon", "body": "<p>They wait for bread.</p>", "kind": "event"}
    with Client(running.url, made.secret) as fernleaf:
        entry = fernleaf.start("notice", fields)
        page = open_as("ida", "/set-up/keys", expect=("422",))
        page.get_by_role("button", name="Pause Fernleaf").click()
        dialog = page.get_by_role("dialog", name="Pause Fernleaf")
        dialog.get_by_label("Why?").fill("It writes about gulls.")
        dialog.get_by_role("button", name="Pause it").click()
        expect(page.get_by_text("It writes about gulls.")).to_be_visible()
        with pytest.raises(Refusal, match=r"paused by Ida Marlow: It writes about gulls\."):
            fernleaf.entry(entry.id)
        page.get_by_role("button", name="Let Fernleaf go on").click()
        expect(page.get_by_role("button", name="Pause Fernleaf")).to_be_visible()
        assert fernleaf.entry(entry.id).title == "Gulls at noon"
        page.get_by_role("link", name="What Fernleaf did").click()
        expect(page.get_by_role("list", name="Event log")).to_contain_text("Gulls at noon")
        page.go_back()
        page.get_by_role("button", name="Undo what Fernleaf did").click()
        dialog = page.get_by_role("dialog", name="Undo what Fernleaf did")
        dialog.get_by_role("button", name="See what would change").click()
        expect(dialog.get_by_role("status")).to_have_text("1 place would change:")
        expect(dialog.get_by_role("list", name="Places")).to_contain_text(
            re.compile("Gulls at noon.*removed")
        )
        assert fernleaf.entry(entry.id).title == "Gulls at noon", "it was only shown what would come of it"
        # Another instant is another question.
        dialog.get_by_label("From when on").fill("tomorrow 9")
        page.keyboard.press("Tab")
        expect(dialog.get_by_role("button", name="Undo it")).to_have_count(0)
        dialog.get_by_role("button", name="See what would change").click()
        expect(dialog.get_by_text("is yet to come")).to_be_visible()
        dialog.get_by_label("From when on").fill("today 0:00")
        page.keyboard.press("Tab")
        dialog.get_by_role("button", name="See what would change").click()
        dialog.get_by_role("button", name="Undo it").click()
        expect(dialog.get_by_role("status")).to_have_text("1 place was looked at:")
        dialog.get_by_role("button", name="Close").last.click()
        with pytest.raises(Refusal):
            fernleaf.entry(entry.id)
    assert "Fernleaf" in [one.name for one in running.as_("ida").assistants().items]


def test_what_an_assistant_wrote_is_marked_word_by_word_until_it_is_signed_off(
    running: Running, open_as: Open
) -> None:
    made = running.as_("ida").issue_key(
        "Willowleaf", "assistant", kind="assistant", stages=["draft", "release"]
    )
    entry = running.notice("Marked here", body="<p>Boats come in at ten.</p>")
    with Client(running.url, made.secret) as willowleaf:
        willowleaf.save(entry.id, "en", {"body": "<p>Small Boats come in at ten.</p>"}, etag=entry.etag)
    page = open_as("tomas", f"/entries/{entry.id}/en")
    section = page.get_by_role("region", name="Written by an assistant")
    expect(section).to_contain_text("Willowleaf wrote 1 word here that nobody has signed off.")
    section.get_by_role("button", name="Show which words").click()
    expect(section.locator("mark")).to_contain_text("Small")
    expect(section.get_by_role("definition")).to_contain_text("Boats come in at ten.")
    running.as_("wim").submit(entry.id, "en", "Ready.")
    running.as_("tomas").sign_off(entry.id, "en", 2)
    page.reload()
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    expect(page.get_by_text("Connected")).to_be_visible()
    expect(section).to_have_count(0)
