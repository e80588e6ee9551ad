"""Dialogs, keyboard and refusals of the console in headless Chromium."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Route, expect

from tests.conftest import Running, eventually
from tests.console.conftest import Open, own_menu
from tests.console.test_accessible import TITLES, upload

pytestmark = pytest.mark.browser


def test_an_entry_is_started_and_saved_by_keyboard_alone(running: Running, open_as: Open) -> None:
    page = open_as("wim", "/timetable")
    page.keyboard.press("n")
    expect(page.get_by_label("What is it?")).to_be_focused()
    page.keyboard.type("Visitor")
    page.keyboard.press("Tab")
    page.keyboard.type("Typed by keys")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1, name="Typed by keys")).to_be_visible()
    page.get_by_role("textbox", name="Text").focus()
    page.keyboard.type("## A heading")
    page.keyboard.press("Enter")
    page.keyboard.type("- first")
    page.keyboard.press("Enter")
    page.keyboard.type("second")
    page.keyboard.press("Control+s")
    expect(page.get_by_role("status").filter(has_text="Saved as revision 2.").first).to_be_visible()
    page.keyboard.type(" and more")
    page.keyboard.press("Control+s")
    expect(page.get_by_role("status").filter(has_text="Saved as revision 3.").first).to_be_visible()
    entry = running.as_("wim").entry(running.id("Typed by keys"), "en")
    assert entry.fields["body"] == "<h2>A heading</h2><ul><li>first</li><li>second and more</li></ul>"


def test_escape_closes_a_dialog_and_changes_nothing(running: Running, open_as: Open) -> None:
    entry = running.signed("Escaped")
    page = open_as("ida", f"/entries/{entry.id}/en")
    page.get_by_role("button", name="Release or plan").click()
    expect(page.get_by_text("Nothing blocks it.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Release now")).to_be_hidden()
    assert running.as_("ida").entry(entry.id, "en").rail[-1].state == "none"


def test_a_dialog_that_is_opened_again_at_once_stays_open(open_as: Open) -> None:
    page = open_as("wim", "/timetable", reduced_motion="reduce")
    box = page.get_by_role("combobox", name="An entry, a person, a page, or an act")
    page.keyboard.press("Control+k")
    expect(box).to_be_focused()
    # The key comes before the browser has said that the dialog before was closed.
    page.evaluate("""() => {
      const before = document.querySelector("dialog");
      const key = () => window.dispatchEvent(new KeyboardEvent("keydown", { key: "k", ctrlKey: true }));
      window.told = new Promise((done) => before.addEventListener("toggle", () => setTimeout(done, 100)));
      new MutationObserver((_, watching) => {
        if (before.isConnected) return;
        watching.disconnect();
        key();
      }).observe(document, { subtree: true, childList: true });
    }""")
    page.keyboard.press("Escape")
    page.evaluate("window.told")
    expect(box).to_be_focused()
    page.keyboard.press("Escape")
    expect(box).to_have_count(0)


def test_a_dialog_that_grows_moves_nothing_away_from_under_a_click(running: Running, open_as: Open) -> None:
    entry = running.notice("Grows below")
    page = open_as("ida", f"/entries/{entry.id}/en")
    page.set_viewport_size({"width": 1000, "height": 520})
    held: list[Route] = []
    page.route("**/api/dispatches/check", lambda route: held.append(route))
    page.get_by_role("button", name="Release or plan").click()
    later = page.get_by_label("At a time")
    expect(later).to_be_visible()
    eventually(lambda: page.evaluate("document.getAnimations().length") == 0 and len(held) == 1)
    before = later.bounding_box()
    held[0].continue_()
    expect(page.get_by_role("heading", name="What goes")).to_be_visible()
    assert later.bounding_box() == before
    # What it does stays in view, however long the dialog is.
    page.unroute("**/api/dispatches/check")
    later.check()
    page.get_by_label("Withdraw it again later").check()
    expect(page.get_by_role("button", name="Plan it")).to_be_in_viewport(ratio=1)
    scrolled = (
        "e => { const body = e.closest('form').parentElement; return body.scrollHeight - body.clientHeight; }"
    )
    assert page.get_by_role("button", name="Plan it").evaluate(scrolled) > 50


def test_what_is_no_picture_is_refused_in_the_dialog(running: Running, open_as: Open, tmp_path: Path) -> None:
    page = open_as("wim", f"/entries/{running.id(TITLES['coat'])}/en", expect=("422",))
    upload(page)
    file = tmp_path / "letter.png"
    file.write_text("Dear museum,")
    page.get_by_label("Choose").set_input_files(file)
    page.get_by_role("dialog").get_by_role("button", name="Upload a picture").click()
    expect(page.get_by_role("alert")).to_contain_text("“letter.png” is no file that can be used")
    expect(page.get_by_role("alert").first).to_contain_text("PNG, JPEG, WebP, GIF")


def test_a_wrong_value_keeps_what_was_typed_and_says_what_is_wrong(running: Running, open_as: Open) -> None:
    entry = running.notice("Too long")
    page = open_as("wim", f"/entries/{entry.id}/en", expect=("422",))
    title = "x" * 95
    page.get_by_label("Title", exact=True).fill(title)
    expect(page.get_by_text("95 of 90")).to_be_visible()
    page.get_by_role("button", name="Save draft").click()
    expect(
        page.get_by_role("status").filter(has_text="95 characters and may have at most 90").first
    ).to_be_visible()
    expect(page.get_by_label("Title", exact=True)).to_have_value(title)
    expect(page.get_by_text("Not saved yet")).to_be_visible()


def test_an_older_revision_is_compared_and_brought_back(running: Running, open_as: Open) -> None:
    entry = running.notice("First title")
    running.as_("wim").save(entry.id, "en", {"title": "Second title"}, etag=entry.etag)
    page = open_as("wim", f"/entries/{entry.id}/en")
    page.get_by_role("tab", name="History").click()
    page.get_by_role("button", name="Compare").click()
    expect(page.locator("del").filter(has_text="First").first).to_be_visible()
    page.get_by_role("tab", name="History").click()
    page.get_by_role("button", name="Restore").click()
    expect(page.get_by_label("Title", exact=True)).to_have_value("First title")
    assert running.as_("wim").entry(entry.id, "en").revision.number == 3  # type: ignore[union-attr]


def test_a_planned_dispatch_is_seen_and_cancelled(running: Running, open_as: Open) -> None:
    entry = running.signed("Regretted")
    when = {"wall": "2097-05-01T09:00", "zone": "Europe/London"}
    running.as_("ida").dispatch([{"id": entry.id, "locale": "en"}], when=when, name="Far away")
    page = open_as("ida", "/timetable")
    page.get_by_role("link", name="Far away").click()
    expect(page.get_by_text("Wed 1 May 2097, 09:00")).to_be_visible()
    page.get_by_role("button", name="Cancel dispatch").click()
    expect(page.get_by_text("cancelled", exact=True)).to_be_visible()
    assert running.as_("ida").entry(entry.id, "en").planned == []


def test_progress_of_a_job_moves_by_itself(running: Running, open_as: Open) -> None:
    body = "".join(f"<p>Sentence number {n}.</p>" for n in range(40))
    entry = running.notice("Long way", body=body)
    page = open_as("mina", "/translation")
    # The bureau takes its time until its progress was seen.
    pace = running.demo.ports.url("bureau") + "/pace"
    httpx.post(pace, json={"seconds": 0.5}).raise_for_status()
    job = running.as_("mina").commission([entry.id], ["fr"], bureau="Saltmarsh Translations").jobs[0]
    line = page.locator(".sheet").filter(has=page.locator(f'a[href="/translation/{job.id}"]'))
    expect(line).to_be_visible()
    expect(line.get_by_role("progressbar").first).to_be_visible(timeout=15000)
    expect(line.get_by_text(re.compile(r"[1-9]\d* %"))).to_be_visible(timeout=15000)
    httpx.post(pace, json={"seconds": running.demo.seconds_a_unit}).raise_for_status()
    expect(line.get_by_text("returned")).to_be_visible(timeout=20000)
    eventually(lambda: running.mails("Translated: Long way (fr)"))


def test_a_unit_that_was_edited_while_away_is_chosen_on_the_page(running: Running, open_as: Open) -> None:
    mina, ida = running.as_("mina"), running.as_("ida")
    entry = running.notice("Chosen in the browser")
    job = mina.commission([entry.id], ["fr"]).jobs[0]
    french = ida.entry(entry.id, "fr")
    ida.save(entry.id, "fr", {"title": "Notre titre"}, etag=french.etag)
    data = mina.export_job(job.id).decode()
    mina.import_job(
        job.id, data.replace("</source></segment>", "</source><target>Leur texte</target></segment>").encode()
    )
    page = open_as("luc", f"/translation/{job.id}", expect=("409",))
    page.get_by_role("button", name="Accept all").click()
    expect(page.get_by_role("alert")).to_contain_text("Choose for each of them first.")
    expect(page.get_by_text("Notre titre")).to_be_visible()
    page.get_by_role("button", name="Keep ours").click()
    expect(page.get_by_text("kept ours")).to_be_visible()
    page.get_by_role("button", name="Accept all").click()
    expect(page.get_by_text("Accepted and signed off.")).to_be_visible()
    assert ida.entry(entry.id, "fr").fields["title"] == "Notre titre"


def test_an_address_that_leads_nowhere_says_so(open_as: Open) -> None:
    page = open_as("wim", "/nowhere/at/all", expect=("404",))
    expect(page.get_by_role("heading", name="Page not found")).to_be_visible()
    gone = open_as("wim", "/entries/018f0000-0000-7000-8000-000000000000/en", expect=("404",))
    expect(gone.get_by_role("alert")).to_contain_text("There is no entry")


def test_dark_and_light_are_kept(open_as: Open) -> None:
    page = open_as("wim", "/")
    own_menu(page, "Dark")
    expect(page.locator("html")).to_have_class("dark")
    page.reload()
    expect(page.locator("html")).to_have_class("dark")
    own_menu(page, "Light")
    expect(page.locator("html")).not_to_have_class("dark")


def test_logging_out_ends_the_session(open_as: Open) -> None:
    page = open_as("wim", "/", expect=("401",))
    own_menu(page, "Log out")
    expect(page.get_by_role("button", name="Log in")).to_be_visible()
    page.reload()
    expect(page.get_by_role("button", name="Log in")).to_be_visible()
