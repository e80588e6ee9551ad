"""The console in headless Chromium: the story, two browsers at once, refusals, accessibility, narrow screens."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Locator, Page, expect

from hawthorn.demo.museum import PASSWORD
from tests.conftest import Running, eventually
from tests.console.conftest import Open, go_into
from tests.service.test_story import png

pytestmark = pytest.mark.browser
CONFLICT = ("412",)


def text_box(page: Page) -> Locator:
    return page.get_by_role("textbox", name="Text")


def save(page: Page) -> None:
    page.get_by_role("button", name="Save draft").click()


def said(page: Page, text: str | re.Pattern[str]) -> None:
    expect(page.get_by_role("status").filter(has_text=text).first).to_be_visible()


def test_an_entry_goes_the_whole_way_in_the_browser(running: Running, open_as: Open, tmp_path: Path) -> None:
    writer = open_as("", "/", expect=("401",))
    writer.get_by_label("Name or mail address").fill("wim")
    writer.get_by_label("Password").fill("wrong")
    writer.get_by_role("button", name="Log in").click()
    expect(writer.get_by_role("alert")).to_contain_text("do not belong together")
    writer.get_by_label("Password").fill(PASSWORD)
    writer.get_by_role("button", name="Log in").click()
    expect(writer.get_by_role("heading", name="My work")).to_be_visible()

    writer.keyboard.press("n")
    writer.get_by_label("What is it?").select_option("label")
    writer.get_by_label("Title", exact=True).last.fill("The storm lantern")
    writer.get_by_role("button", name="Start", exact=True).click()
    expect(writer.get_by_role("heading", level=1, name="The storm lantern")).to_be_visible()
    expect(writer.get_by_label("Address", exact=True)).to_have_value("the-storm-lantern")
    expect(writer.get_by_role("tabpanel")).to_contain_text("Missing: Text, Accession number.")
    text_box(writer).click()
    writer.keyboard.type("It swung from the stern in every gale.")
    writer.keyboard.press("Control+s")
    said(writer, "Saved as revision 2.")
    writer.get_by_label("Title", exact=True).fill("The storm lamp")
    writer.get_by_label("Accession number").fill("PH 1870.9")
    writer.get_by_label("Made by").fill("Edmund")
    writer.get_by_role("button", name="Edmund Vane").click()
    writer.get_by_role("button", name="Upload a picture").first.click()
    picture = tmp_path / "storm-lamp.png"
    picture.write_bytes(png("gold"))
    writer.get_by_label("Choose").set_input_files(picture)
    expect(writer.get_by_label("Name of the picture")).to_have_value("storm lamp")
    writer.get_by_label("What does it show?").fill("A lamp with a wire cage.")
    writer.get_by_role("dialog").get_by_role("button", name="Upload a picture").click()
    expect(writer.get_by_role("link", name="storm lamp", exact=True)).to_be_visible()
    save(writer)
    said(writer, "Saved as revision 3.")
    expect(writer.get_by_label("Address", exact=True)).to_have_value("the-storm-lamp")
    expect(writer.get_by_role("tabpanel")).to_contain_text("Nothing required is missing.")

    writer.get_by_role("button", name="Submit").click()
    writer.get_by_label("A note to the reviewers").fill("The date is a guess.")
    writer.get_by_role("button", name="Submit").last.click()
    expect(writer.get_by_role("tabpanel")).to_contain_text("waits for a decision")

    editor = open_as("oda")
    editor.get_by_role("link", name="The storm lamp", exact=True).click()
    expect(editor.get_by_role("tab", name="Compare")).to_have_attribute("aria-selected", "true")
    expect(editor.locator("ins").filter(has_text="It swung from the stern")).to_be_visible()
    editor.get_by_role("button", name="Send back").click()
    editor.get_by_label("What should be changed?").fill("Then leave the date out.")
    editor.get_by_role("button", name="Send back").last.click()
    expect(writer.get_by_role("tabpanel")).to_contain_text("Then leave the date out.")
    go_into(text_box(writer))
    writer.keyboard.type(" Nobody knows since when.")
    save(writer)
    said(writer, "Saved as revision 4.")
    writer.get_by_role("button", name="Submit").click()
    writer.get_by_role("button", name="Submit").last.click()
    expect(editor.get_by_role("button", name="Sign off")).to_be_visible()
    editor.get_by_role("button", name="Sign off").click()
    editor.get_by_role("button", name="Sign off").last.click()
    editor.get_by_role("tab", name="Now").click()
    expect(editor.get_by_role("tabpanel")).to_contain_text("The draft is exactly what was signed off.")

    chief = open_as("ida", re.sub(r"^.*?(/entries)", r"\1", writer.url), expect=("422",))
    chief.get_by_role("button", name="Release or plan").click()
    dialog = chief.get_by_role("dialog")
    expect(dialog.get_by_text("which is not out and does not go along")).to_be_visible()
    chief.get_by_label("Let these go along").check()
    expect(chief.get_by_text("Nothing blocks it.")).to_be_visible()
    chief.get_by_label("At a time").check()
    chief.get_by_label("Time zone").select_option("UTC")
    chief.get_by_label("Day and time").fill("2020-01-01T09:00")
    expect(chief.get_by_role("alert")).to_contain_text("is past")
    soon = running.soon()
    chief.get_by_label("Day and time").fill(soon.strftime("%Y-%m-%dT%H:%M:%S"))
    expect(chief.get_by_text("Nothing blocks it.")).to_be_visible()
    chief.get_by_role("button", name="Plan it").click()
    said(chief, re.compile("Planned for"))
    site = running.demo.ports.url("site") + "/en/the-storm-lamp"
    assert httpx.get(site).status_code == 404
    running.pass_by(soon)
    eventually(lambda: httpx.get(site).status_code == 200)
    assert "Nobody knows since when." in httpx.get(site).text
    expect(chief.get_by_role("link", name="/en/the-storm-lamp")).to_be_visible()

    coordinator = open_as("mina", re.sub(r"^.*?(/entries)", r"\1", writer.url))
    coordinator.get_by_role("button", name="Translate").click()
    expect(coordinator.get_by_text("words in").first).to_be_visible()
    # Where something is missing is chosen already.
    expect(coordinator.get_by_label("Deutsch")).to_be_checked()
    coordinator.get_by_label("Deutsch").uncheck()
    coordinator.get_by_label("العربية").uncheck()
    coordinator.get_by_role("button", name="Send", exact=True).click()
    coordinator.get_by_role("tab", name="Translations").click()
    expect(coordinator.get_by_role("tabpanel").get_by_text("returned")).to_have_count(2, timeout=15000)

    french = open_as("luc")
    french.get_by_role("link", name="The storm lamp", exact=True).click()
    french.get_by_role("button", name="Accept", exact=True).first.click()
    expect(french.get_by_text("accepted", exact=True).first).to_be_visible()
    french.get_by_role("button", name="Accept all").click()
    said(french, "Accepted and signed off.")
    release = open_as("jonas")
    expect(release.get_by_text("To release").first).to_be_visible()
    french.get_by_role("link", name=re.compile("Open the edition")).click()
    french.wait_for_url("**/entries/**")
    release.goto(french.url)
    release.get_by_role("button", name="Release or plan").click()
    release.get_by_role("button", name="Release now").click()
    said(release, "Released.")
    release.get_by_role("button", name="Withdraw").click()
    release.get_by_role("button", name="Withdraw now").click()
    said(release, "Withdrawn.")


def test_two_browsers_at_one_entry_lose_nothing(running: Running, open_as: Open) -> None:
    entry = running.notice("Low tide")
    path = f"/entries/{entry.id}/en"
    wim, nell = open_as("wim", path, expect=CONFLICT), open_as("nell", path)
    wim.get_by_label("Title", exact=True).fill("Low tide at ten")
    go_into(text_box(nell))
    nell.keyboard.type(" Mind the mud.")
    save(nell)
    said(nell, "Saved as revision 2.")
    expect(wim.get_by_text("Somebody saved meanwhile. Saving merges both.")).to_be_visible()
    save(wim)
    said(wim, re.compile("Saved as revision 4, merged with Nell Farrow."))
    expect(text_box(wim)).to_contain_text("Mind the mud.")
    expect(nell.get_by_label("Title", exact=True)).to_have_value("Low tide at ten")

    nell.get_by_label("Title", exact=True).fill("Ebb at ten")
    wim.get_by_label("Title", exact=True).fill("Very low tide")
    save(nell)
    said(nell, "Saved as revision 5.")
    save(wim)
    heading = wim.get_by_role("heading", name="Somebody changed the same place")
    expect(heading).to_be_focused()
    expect(wim.get_by_role("button", name="Save the choice")).to_be_disabled()
    wim.get_by_label(re.compile("Yours.*Very low tide")).check()
    wim.get_by_role("button", name="Save the choice").click()
    expect(heading).to_be_hidden()
    expect(nell.get_by_role("heading", level=1, name="Very low tide")).to_be_visible()
    kept = [r.note for r in running.as_("wim").history(entry.id, "en").revisions]
    assert len(kept) == 7


def test_typed_text_comes_back_after_a_crash(running: Running, open_as: Open) -> None:
    entry = running.notice("Crashing waves")
    page = open_as("wim", f"/entries/{entry.id}/en")
    page.get_by_label("Title", exact=True).fill("Half a thou")
    page.evaluate("window.onbeforeunload = null")
    again = page.context.new_page()
    again.goto(page.url)
    expect(again.get_by_text("Typed text that was not saved has been restored.")).to_be_visible()
    expect(again.get_by_label("Title", exact=True)).to_have_value("Half a thou")
    again.get_by_role("button", name="Discard it").click()
    expect(again.get_by_label("Title", exact=True)).to_have_value("Crashing waves")


def test_who_may_not_is_told_why_and_who_may(running: Running, open_as: Open) -> None:
    lift = running.id("The lift is being repaired")
    writer = open_as("wim", f"/entries/{lift}/en")
    expect(writer.get_by_role("button", name="Sign off")).to_have_count(0)
    expect(writer.get_by_role("button", name="Release or plan")).to_have_count(0)
    writer.get_by_text("Why not?").click()
    expect(writer.get_by_text(re.compile("Wim Aster may not sign off.*Ask Ida Marlow")).first).to_be_visible()
    reader = open_as("jonas", f"/entries/{lift}/en")
    expect(reader.get_by_label("Title", exact=True)).to_have_attribute("readonly", "")
    expect(reader.get_by_role("button", name="Save draft")).to_have_count(0)


def test_entries_are_found_by_sentence_and_by_keyboard(open_as: Open) -> None:
    page = open_as("ida", "/entries")
    page.get_by_label("Type", exact=True).select_option(label="Gallery")
    expect(page.get_by_role("link", name="Boats of the Harbour")).to_be_visible()
    expect(page.get_by_role("link", name="Winter opening hours")).to_have_count(0)
    page.get_by_label("Words anywhere in the text").fill("zebra")
    expect(page.get_by_text("Nothing fits this sentence.")).to_be_visible()
    page.get_by_role("button", name="Show everything").last.click()
    page.keyboard.press("Control+k")
    page.get_by_role("combobox", name="An entry, a person, a page, or an act").fill("the fog bell")
    expect(page.get_by_role("option", name=re.compile("The fog bell"))).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1, name="The fog bell")).to_be_visible()


def test_a_file_is_carried_by_hand_in_the_browser(running: Running, open_as: Open, tmp_path: Path) -> None:
    entry = running.notice("By hand")
    job = running.as_("mina").commission([entry.id], ["fr"]).jobs[0]
    page = open_as("mina", f"/translation/{job.id}", expect=("422",))
    with page.expect_download() as download:
        page.get_by_role("link", name="Export file").click()
    text = Path(download.value.path()).read_text("utf-8")
    file = tmp_path / "back.xlf"
    file.write_text(text[:400])
    page.get_by_label("Import the translated file").set_input_files(file)
    expect(page.get_by_role("alert")).to_contain_text("not well-formed")
    done = text.replace("</source></segment>", "</source><target>À la main</target></segment>")
    file.write_text(done.replace("By hand</source>", "By foot</source>"))
    page.get_by_label("Import the translated file").set_input_files(file)
    # What does not fit is seen before anything is kept.
    before = page.get_by_role("dialog", name="Before it is imported")
    expect(before).to_contain_text("has another source text than was sent")
    before.get_by_role("button", name="Import it").click()
    expect(page.get_by_text("1 unit did not fit and stays open:")).to_be_visible()
    expect(page.get_by_text("has another source text than was sent").first).to_be_visible()
    file.write_text(done)
    page.get_by_label("Import the translated file").set_input_files(file)
    expect(page.get_by_text("1 merged, 0 drifted, 0 need a choice.")).to_be_visible()
    expect(page.get_by_text("À la main").first).to_be_visible()


def test_arabic_text_runs_right_to_left(running: Running, open_as: Open) -> None:
    page = open_as("sami", f"/entries/{running.id('Winter opening hours')}/ar")
    box = text_box(page)
    expect(box).to_have_attribute("dir", "rtl")
    expect(box).to_have_attribute("lang", "ar")
    expect(page.get_by_label("Title", exact=True)).to_have_attribute("dir", "rtl")


def test_the_first_page_is_small(running: Running) -> None:
    total = 0
    with httpx.Client(base_url=running.url, headers={"Accept-Encoding": "gzip"}) as http:
        scripts = re.findall(r'(?:src|href)="(/assets/[^"]+\.(?:js|css))"', http.get("/").text)
        for path in scripts:
            with http.stream("GET", path) as answer:
                total += len(b"".join(answer.iter_raw()))
            assert "immutable" in answer.headers["cache-control"]
            had = {"If-None-Match": answer.headers["etag"]}
            assert http.get(path, headers=had).status_code == 304
        guide = http.get("/assets/guides/writing.html")
        assert guide.headers["cache-control"] == "no-cache", (
            "another release may have another one under this name"
        )
        again = {"If-None-Match": guide.headers["etag"]}
        assert http.get("/assets/guides/writing.html", headers=again).status_code == 304
    assert any(path.endswith(".js") for path in scripts)
    assert total < 150_000, "what comes over the wire before anything is shown"


def test_what_is_missing_is_found_chosen_and_sent_from_the_grid(running: Running, open_as: Open) -> None:
    one, two = (running.notice(f"Grid {n}", body="<p>Some words.</p>") for n in (1, 2))
    page = open_as("mina", "/translation")
    page.get_by_role("tab", name="Coverage").click()
    page.get_by_label("Words anywhere in the text").fill("Grid words")
    expect(page.get_by_role("checkbox", name="Grid 1 into Français")).to_be_visible()
    row = page.get_by_role("row").filter(has_text="Français")
    expect(row.get_by_role("button", name="2 not there – Français")).to_be_visible()
    for entry in ("Grid 1", "Grid 2"):
        page.get_by_role("checkbox", name=f"{entry} into Français").check()
    expect(page.get_by_text("2 entries into Français")).to_be_visible()
    page.get_by_role("button", name="Translate…").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("Français")).to_be_checked()
    expect(dialog.get_by_label("Deutsch")).not_to_be_checked()
    page.get_by_label("Who does it").select_option("by hand, as a file")
    dialog.get_by_role("button", name="Create the jobs").click()
    expect(page.get_by_role("link", name="in a job").nth(1)).to_be_visible()
    jobs = running.as_("mina").entry(one.id, "fr").jobs
    assert [sorted(e.title for e in job.entries) for job in jobs] == [["Grid 1", "Grid 2"]]
    assert two.id in {e.id for e in jobs[0].entries}
    # Found again among all jobs by what is known of it, also after it was looked at.
    page.get_by_role("tab", name="Jobs").click()
    line = page.get_by_role("link", name=jobs[0].name, exact=True)
    page.get_by_label("Into").select_option("Deutsch")
    expect(line).to_have_count(0)
    page.get_by_label("Into").select_option("Français")
    page.get_by_label("State").select_option("waiting")
    line.click()
    expect(page.get_by_role("heading", name=jobs[0].name)).to_be_visible()
    page.go_back()
    expect(line).to_be_visible()
    expect(page.get_by_label("State")).to_have_value("waiting")
    page.get_by_label("Who does it").select_option("Saltmarsh Translations")
    expect(line).to_have_count(0)
    page.get_by_role("button", name="All jobs").click()
    expect(page.get_by_label("Into")).to_have_value("")


def test_a_text_whose_source_changed_is_seen_word_by_word_and_said_to_fit(
    running: Running, open_as: Open
) -> None:
    mina, wim = running.as_("mina"), running.as_("wim")
    entry = running.notice("Open at ten")
    job = mina.commission([entry.id], ["fr"]).jobs[0]
    data = mina.export_job(job.id).decode()
    mina.import_job(
        job.id, data.replace("</source></segment>", "</source><target>Ouvert</target></segment>").encode()
    )
    now = wim.entry(entry.id, "en")
    wim.save(entry.id, "en", {"title": "Open at noon"}, etag=now.etag)
    page = open_as("ida", f"/entries/{entry.id}/fr")
    page.get_by_role("tab", name="Translations").click()
    expect(page.get_by_text("1 text is due here")).to_be_visible()
    expect(page.get_by_role("deletion").filter(has_text="ten")).to_be_visible()
    expect(page.get_by_role("insertion").filter(has_text="noon")).to_be_visible()
    page.get_by_role("button", name="It still fits Title").click()
    expect(page.get_by_text("1 text is due here")).to_have_count(0)
    assert running.as_("mina").entry_coverage(entry.id, "fr").due == []
