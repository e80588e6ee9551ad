"""Writing in the browser: two at one paragraph, blocks, strands, pasted text, types that change, lists and many at once."""

from __future__ import annotations

import re
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Page, Route, expect

from tests.conftest import Running
from tests.console.conftest import Open, drag, go_into
from tests.console.test_console import CONFLICT, said, save, text_box

pytestmark = pytest.mark.browser


def write(page: Page, html: str) -> None:
    """Put a text in place of what stands in the text editor, as if pasted."""
    go_into(text_box(page), "Control+a")
    paste(page, html)


def paste(page: Page, html: str) -> None:
    page.evaluate(
        """html => {
            const data = new DataTransfer();
            data.setData("text/html", html);
            document.activeElement.dispatchEvent(
                new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
        }""",
        html,
    )


def test_two_browsers_change_one_sentence_and_nothing_typed_is_lost(running: Running, open_as: Open) -> None:
    body = "<p>The ferry leaves the north quay at ten every morning in summer.</p>"
    entry = running.notice("Ferry", body=body)
    path = f"/entries/{entry.id}/en"
    wim, nell = open_as("wim", path, expect=CONFLICT), open_as("nell", path, expect=CONFLICT)
    write(wim, "<p>The small ferry leaves the north quay at ten every morning in summer.</p>")
    write(nell, "<p>The ferry leaves the north quay at ten every morning in spring.</p>")
    save(wim)
    said(wim, "Saved as revision 2.")
    save(nell)
    said(nell, re.compile("merged with Wim Aster"))
    merged = "The small ferry leaves the north quay at ten every morning in spring."
    for page in (nell, wim):
        expect(text_box(page)).to_contain_text(merged)

    write(wim, "<p>The little ferry leaves the north quay at ten every morning in spring.</p>")
    write(nell, "<p>The red ferry leaves the north quay at nine every morning in spring.</p>")
    save(wim)
    said(wim, "Saved as revision 5.")
    save(nell)
    expect(nell.get_by_role("heading", name="Somebody changed the same place")).to_be_focused()
    here = nell.get_by_role("radiogroup", name="What shall stand here?")
    here.get_by_role("radio", name=re.compile("^Yours: red")).click()
    nell.get_by_role("button", name="Save the choice").click()
    settled = "The red ferry leaves the north quay at nine every morning in spring."
    expect(text_box(nell)).to_contain_text(settled)
    expect(text_box(wim)).to_contain_text(settled)
    kept = running.as_("ida").history(entry.id, "en").revisions
    assert {r.origin for r in kept} >= {"start", "save", "typed", "merge", "settled"}


def test_what_all_languages_share_has_a_history_and_goes_back(running: Running, open_as: Open) -> None:
    entry = running.notice("The tide tables", shown_date="2026-03-01")
    wim = running.as_("wim")
    wim.save(entry.id, "en", {"shown_date": "2026-04-01"}, etag=entry.etag)
    page = open_as("wim", f"/entries/{entry.id}/en")
    page.get_by_role("tab", name="History").click()
    page.get_by_label("History of").select_option("what all languages share")
    expect(page.get_by_text("Wim Aster", exact=False).first).to_be_visible()
    page.get_by_role("button", name="Compare", exact=True).click()
    expect(page.get_by_text("1 field differs")).to_be_visible()
    expect(page.get_by_role("combobox", name="From")).to_have_value("1+1")
    page.get_by_role("tab", name="History").click()
    page.get_by_label("History of").select_option("what all languages share")
    page.get_by_role("button", name="Restore").click()
    said(page, "Revision 1 of the shared fields is the newest again.")
    assert wim.entry(entry.id, "en").fields["shown_date"] == "2026-03-01"
    assert [one.number for one in wim.history(entry.id, "*").revisions] == [3, 2, 1]


def test_what_is_done_from_the_page_of_a_strand_leaves_its_text_there(
    running: Running, open_as: Open
) -> None:
    entry = running.notice("The tide gauge")
    wim = running.as_("wim")
    wim.fork_strand(entry.id, "en", "Spring")
    for title in ("The tide gauge in spring", "The tide gauge in May"):
        etag = wim.entry(entry.id, "en", strand="Spring").etag
        wim.save(entry.id, "en", {"title": title}, etag=etag, strand="Spring")
    page = open_as("oda", f"/entries/{entry.id}/en/strands/Spring")
    box = page.get_by_label("Title", exact=True)
    expect(box).to_have_value("The tide gauge in May")
    page.get_by_role("button", name="Assign…").click()
    page.get_by_label("Who gets it?").select_option("nell")
    page.get_by_role("button", name="Assign", exact=True).click()
    expect(page.get_by_text("Nell Farrow, assigned by Oda Brandt.")).to_be_visible()
    assert box.input_value() == "The tide gauge in May"
    box.fill("The tide gauge in June")
    page.keyboard.press("Control+s")
    expect(page.get_by_role("button", name="Save draft")).to_be_disabled()
    assert wim.entry(entry.id, "en", strand="Spring").title == "The tide gauge in June"
    page.get_by_role("tab", name="History").click()
    page.get_by_role("button", name="Restore").nth(1).click()
    expect(box).to_have_value("The tide gauge in spring")
    assert wim.entry(entry.id, "en").title == "The tide gauge"
    assert wim.entry(entry.id, "en", strand="Spring").title == "The tide gauge in spring"


def test_blocks_are_added_moved_and_removed_by_keyboard_and_kept(running: Running, open_as: Open) -> None:
    entry = running.as_("nell").start("exhibition", {"title": "Knots"})
    page = open_as("nell", f"/entries/{entry.id}/en", viewport={"width": 1280, "height": 1700})
    adding = page.get_by_role("group", name="Add to Page")
    adding.get_by_role("button", name="Quote").click()
    page.keyboard.type("A knot is a promise.")
    adding.get_by_role("button", name="Side by side").click()
    inside = page.get_by_role("group", name="Add to Cells")
    inside.get_by_role("button", name="Quote").click()
    page.keyboard.type("Tie it twice.")
    page.get_by_role("button", name=re.compile("^Move Side by side, 2 of 2")).focus()
    page.keyboard.press("ArrowUp")
    expect(page.get_by_role("button", name=re.compile("^Move Side by side, 1 of 2"))).to_be_focused()
    adding.get_by_role("button", name="Words").click()
    expect(page.locator("[contenteditable]:focus")).to_be_visible()
    page.keyboard.type("- hemp")
    page.keyboard.press("Enter")
    page.keyboard.type("**tarred** hemp")
    page.keyboard.press("Control+s")
    said(page, "Saved as revision 2.")
    blocks = running.as_("nell").entry(entry.id, "en").fields["page"]
    assert [b["kind"] for b in blocks] == ["beside", "quote", "words"]
    assert blocks[0]["fields"]["cells"][0]["fields"] == {"said": "Tie it twice."}
    assert blocks[2]["fields"]["text"] == "<ul><li>hemp</li><li><strong>tarred</strong> hemp</li></ul>"
    page.get_by_role("button", name="Remove block 2").click()
    handle = page.get_by_role("button", name=re.compile("^Move Words"))
    drag(page, handle, page.get_by_role("button", name=re.compile("^Move Side by side")))
    expect(page.get_by_role("button", name=re.compile("^Move Words, 1 of 2"))).to_be_visible()
    save(page)
    said(page, "Saved as revision 3.")
    left = running.as_("nell").entry(entry.id, "en").fields["page"]
    assert [b["id"] for b in left] == [blocks[2]["id"], blocks[0]["id"]]


def test_text_from_a_word_processor_keeps_its_structure_and_links_find_entries(
    running: Running, open_as: Open
) -> None:
    entry = running.notice("Pasted")
    page = open_as("wim", f"/entries/{entry.id}/en")
    item = (
        "<p class=MsoListParagraph style='mso-list:l0 level1 lfo1'>"
        "<span style='mso-list:Ignore'>·</span>{}<o:p></o:p></p>"
    )
    page_html = (
        "<h1 style='color:red'>Tides</h1><p class=MsoNormal>The <span style='font-weight:700'>spring</span> tide<o:p></o:p></p>"
        f"{item.format('High at six')}{item.format('Low at noon')}<script>x()</script>"
    )
    write(page, page_html)
    go_into(text_box(page))
    page.keyboard.press("Enter")
    page.keyboard.press("Enter")
    page.keyboard.type("See [[")
    page.get_by_label("Find an entry to link to").first.fill("the fog bell")
    expect(page.get_by_role("option", name=re.compile("The fog bell"))).to_be_visible()
    page.keyboard.press("Enter")
    save(page)
    said(page, "Saved as revision 2.")
    bell = running.id("The fog bell")
    assert running.as_("wim").entry(entry.id, "en").fields["body"] == (
        "<h2>Tides</h2><p>The <strong>spring</strong> tide</p><ul><li>High at six</li><li>Low at noon</li></ul>"
        f'<p>See <a href="urn:uuid:{bell}">The fog bell</a></p>'
    )


def test_leaving_with_unsaved_text_asks_and_the_text_is_there_on_return(
    running: Running, open_as: Open
) -> None:
    entry = running.notice("Leaving")
    page = open_as("wim", f"/entries/{entry.id}/en")
    page.get_by_label("Title", exact=True).fill("Not yet saved")
    asked: list[str] = []

    def answer(dialog: object) -> None:
        asked.append(dialog.message)  # type: ignore[attr-defined]
        (dialog.dismiss if len(asked) == 1 else dialog.accept)()  # type: ignore[attr-defined]

    page.on("dialog", answer)
    page.get_by_role("link", name="Timetable").click()
    expect(page.get_by_label("Title", exact=True)).to_have_value("Not yet saved")
    page.get_by_role("link", name="Timetable").click()
    expect(page.get_by_role("heading", level=1, name="Timetable")).to_be_visible()
    assert len(asked) == 2
    page.go_back()
    expect(page.get_by_text("Typed text that was not saved has been restored.")).to_be_visible()
    expect(page.get_by_label("Title", exact=True)).to_have_value("Not yet saved")


def test_a_strand_is_forked_written_in_compared_and_merged_in_part(running: Running, open_as: Open) -> None:
    entry = running.notice("Regatta stalls")
    page = open_as("wim", f"/entries/{entry.id}/en", expect=CONFLICT)
    page.get_by_role("button", name="Work beside the draft").click()
    page.get_by_label("What is it for?").fill("Rain plan")
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_role("link", name="Rain plan")).to_have_attribute("aria-current", "page")
    page.get_by_label("Title", exact=True).fill("Regatta stalls, indoors")
    write(page, "<p>The stalls are in the hall.</p>")
    save(page)
    said(page, "Saved as revision 2.")
    assert running.as_("wim").entry(entry.id, "en").title == "Regatta stalls"
    page.get_by_role("tab", name="Compare").click()
    expect(page.locator("ins").filter(has_text="indoors").first).to_be_visible()
    strand = page.url
    page.get_by_role("link", name="Side by side").click()
    expect(page.locator("ins").filter(has_text="indoors").first).to_be_visible()
    expect(page.get_by_text(re.compile("fields differ · .* words gone"))).to_be_visible()
    page.get_by_role("combobox", name="to", exact=True).select_option(label="the draft")
    expect(page.get_by_text("They are the same.")).to_be_visible()
    page.goto(strand)
    page.get_by_role("link", name="Merge").click()
    expect(page.get_by_role("heading", level=1, name="Merge “Rain plan” into the draft")).to_be_visible()
    reader = open_as("sami", urlsplit(page.url).path)
    expect(reader.get_by_text("Sami Nader may not write here")).to_contain_text("Nell Farrow (writer)")
    page.get_by_label("Title", exact=True).uncheck()
    expect(page.get_by_role("heading", name="What is left in the strand")).to_be_visible()
    # Somebody saves, and who looks presses before it is shown anew.
    late: list[Route] = []
    page.route("**/proposal/check", lambda route: late.append(route))
    now = running.as_("nell").entry(entry.id, "en")
    running.as_("nell").save(entry.id, "en", {"kind": "closure"}, etag=now.etag)
    page.get_by_role("button", name="Merge what is ticked").click()
    expect(page.get_by_role("alert")).to_contain_text("moved on since you looked")
    for one in late:
        one.continue_()
    page.unroute("**/proposal/check")
    page.get_by_role("button", name="Merge what is ticked").click()
    expect(page.get_by_role("heading", level=1, name="Regatta stalls", exact=True)).to_be_visible()
    shown = running.as_("wim").entry(entry.id, "en")
    assert shown.fields["body"] == "<p>The stalls are in the hall.</p>"
    assert (shown.title, shown.strands[0].open) == ("Regatta stalls", True)
    page.get_by_role("tab", name="History").click()
    expect(page.get_by_text(re.compile("took .*body"))).to_be_visible()


def test_a_type_is_changed_with_what_it_would_do_beside_it(running: Running, open_as: Open) -> None:
    running.as_("ida").define_type(
        {"name": "handbill", "label": "Handbill", "fields": [{"name": "title", "kind": "line"}]}
    )
    handbill = running.as_("wim").start("handbill", {"title": "A handbill"})
    page = open_as("ida", "/set-up", expect=("422",))
    page.get_by_role("link", name="Handbill").click()
    page.get_by_label("A new field").fill("Printed on")
    page.get_by_label("Kind").last.select_option(label="Choice")
    page.get_by_role("button", name="Add").click()
    expect(page.get_by_role("alert")).to_contain_text("at least one word to choose")
    page.get_by_label("Words to choose from").fill("card\npaper")
    page.get_by_label("Required", exact=True).check()
    expect(page.get_by_text("is new and required")).to_be_visible()
    expect(page.get_by_role("link", name="A handbill")).to_be_visible()
    page.get_by_role("button", name="Save the changes").click()
    said(page, "Handbill is at version 2.")
    assert [m.label for m in running.as_("wim").entry(handbill.id).missing] == ["Printed on"]
    page.get_by_label("Exactly one entry").check()
    expect(page.get_by_text("Looked at 1 entry.")).to_be_visible()
    page.get_by_role("button", name="As a file").click()
    expect(page.get_by_label("The definition")).to_have_value(re.compile('"single": true'))


def test_lists_are_kept_and_many_entries_tagged_at_once(running: Running, open_as: Open) -> None:
    page = open_as("ida", "/entries")
    page.get_by_label("Words anywhere in the text").fill("鐘")
    expect(page.get_by_role("link", name="霧の鐘")).to_be_visible()
    expect(page.get_by_role("link", name="Winter opening hours")).to_have_count(0)
    page.get_by_label("Words anywhere in the text").fill("")
    page.get_by_label("Type", exact=True).select_option(label="Exhibit label")
    page.get_by_role("button", name="Save this list").click()
    page.get_by_label("Name of the list").fill("All labels")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_role("button", name="All labels", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    page.get_by_role("button", name="Show everything").first.click()
    page.get_by_role("button", name="All labels", exact=True).click()
    page.get_by_role("checkbox", name="Choose The fog bell").check()
    page.get_by_role("checkbox", name="Choose A chart of the bay").check()
    page.get_by_role("button", name="Add a tag").click()
    page.get_by_label("Tag", exact=True).fill("quayside")
    expect(page.get_by_text("2 would be done, 0 would not.")).to_be_visible()
    page.get_by_role("button", name="Do it to 2").click()
    expect(page.get_by_role("dialog").get_by_text("2 done, 0 not.")).to_be_visible()
    assert [t.entries for t in running.as_("ida").tags("quay").items] == [2]
    page.get_by_role("button", name="Close").first.click()


def test_an_entry_is_copied_made_a_template_and_removed_with_an_undo(running: Running, open_as: Open) -> None:
    entry = running.notice("Ferry strike")
    page = open_as("ida", f"/entries/{entry.id}/en")
    page.get_by_label("More actions").click()
    page.get_by_role("button", name="Make a template").click()
    page.get_by_label("What is it called?").fill("A strike")
    page.get_by_role("button", name="Create").click()
    said(page, "can be chosen when an entry is started")
    page.get_by_label("More actions").click()
    page.get_by_role("button", name="Copy").click()
    expect(page.get_by_role("heading", level=1, name="Ferry strike (copy)")).to_be_visible()
    page.get_by_label("More actions").click()
    page.get_by_role("button", name="Remove…").click()
    expect(page.get_by_text("Nothing blocks it.")).to_be_visible()
    page.get_by_role("button", name="Remove now").click()
    said(page, "“Ferry strike (copy)” is removed.")
    page.get_by_role("button", name="Restore it").click()
    expect(page.get_by_role("heading", level=1, name="Ferry strike (copy)")).to_be_visible()
    page.goto(f"{running.url}/entries")
    page.get_by_role("button", name="Start an entry").click()
    page.get_by_label("What is it?").select_option(label="A strike")
    page.get_by_label("Title", exact=True).last.fill("Another strike")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1, name="Another strike")).to_be_visible()
    expect(text_box(page)).to_contain_text("Bring a coat.")
