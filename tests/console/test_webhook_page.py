"""Webhooks in a browser: added with a secret that is shown once, tried, read, switched off and ended."""

from __future__ import annotations

from playwright.sync_api import expect

from tests.conftest import Running, eventually
from tests.console.conftest import Open
from tests.console.test_console import said


def test_a_webhook_is_added_tried_read_and_ended(running: Running, open_as: Open) -> None:
    site = running.demo.ports.url("site")
    page = open_as("ida", "/set-up/webhooks")
    page.get_by_role("button", name="New webhook…").click()
    dialog = page.get_by_role("dialog", name="Add a webhook")
    dialog.get_by_label("Name").fill("The search")
    dialog.get_by_label("Address").fill(f"{site}/en/nowhere")
    dialog.get_by_role("button", name="Save").click()
    expect(page.get_by_text("whsec_")).to_be_visible()
    # Nothing else was chosen.
    told = page.get_by_role("listitem").filter(has_text="The search")
    expect(told).to_contain_text("Told of All after which readers see something else")
    page.get_by_role("button", name="I have it").click()
    expect(page.get_by_text("whsec_")).to_have_count(0)
    page.get_by_role("button", name="Try it The search").click()
    expect(page.get_by_text("It answered 404")).to_be_visible()
    page.get_by_role("button", name="Change The search").click()
    dialog = page.get_by_role("dialog", name="Change the webhook")
    dialog.get_by_label("Address").fill("none")
    dialog.get_by_label("Address").fill(f"{site}/changed")
    dialog.get_by_label("Reviews").check()
    dialog.get_by_role("button", name="Save").click()
    said(page, "“The search” is saved.")
    running.out("Searched for")
    hook = next(w for w in running.as_("ida").webhooks().items if w.name == "The search")
    eventually(lambda: len(running.as_("ida").deliveries(hook.id).items) > 0)
    page.get_by_role("button", name="What was sent The search").click()
    log = page.get_by_role("region", name="What was sent")
    expect(log.get_by_text("waiting").first).to_be_visible()
    expect(log).to_contain_text("It answered 401 Unauthorized.")
    log.get_by_role("button", name="What is sent").first.click()
    expect(log).to_contain_text('"specversion": "1.0"')
    page.get_by_role("button", name="Switch off The search").click()
    expect(page.get_by_text("off", exact=True)).to_be_visible()
    page.once("dialog", lambda asked: asked.accept())
    page.get_by_role("button", name="End The search").click()
    expect(page.get_by_text("The search", exact=True)).to_have_count(0)
