"""The page of figures: drawn and as tables, narrowed, and with the entries behind each number."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from tests.conftest import Running, eventually
from tests.console.conftest import Open

pytestmark = pytest.mark.browser


def test_figures_are_drawn_told_as_tables_and_lead_to_the_entries_behind_them(
    running: Running, open_as: Open
) -> None:
    entry = running.notice("Counted twice")
    running.as_("wim").submit(entry.id, "en", "Look.")
    running.as_("tomas").send_back(entry.id, "en", "Count again.")
    running.clock.by += 6_000_000
    running.demo.desk.db.bell.ring(["entry."])
    eventually(
        lambda: any(
            one.title == "Counted twice" for one in running.as_("ida").behind_figures("sent-back").items
        )
    )
    page = open_as("ida", "/figures")
    returns = page.get_by_role("region", name="What came back from review")
    expect(returns.get_by_role("img", name=re.compile("a drawing by weeks"))).to_be_visible()
    expect(returns.get_by_text("Count again.")).to_be_visible()
    returns.get_by_role("button", name="As a table").click()
    returns.get_by_role("row").last.get_by_role("button").last.click()
    behind = page.get_by_role("dialog", name=re.compile("^Sent back, week of"))
    expect(behind.get_by_role("listitem").filter(has_text="Counted twice")).to_contain_text(
        "sent back by Tomas"
    )
    behind.get_by_role("link", name="Counted twice").click()
    expect(page.get_by_role("heading", level=1, name="Counted twice")).to_be_visible()
    page.go_back()
    page.get_by_label("Whoever let it go on").select_option("Tomas Quill")
    expect(page.get_by_text("Nothing waits.")).to_be_visible()
    page.get_by_label("Type").select_option("Picture")
    expect(returns.get_by_text("Nothing in these weeks.")).to_be_visible()
    writer = open_as("wim", "/figures")
    expect(writer.get_by_role("heading", name="How long the work stays where")).to_be_visible()
    expect(writer.get_by_label("Whoever let it go on")).to_have_count(0)
