"""Pages in headless Chromium: previews that follow, marks, the outline by keys and by hand, the library, regions, sites."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import FrameLocator, Page, expect

from tests.conftest import Running, eventually
from tests.console.conftest import Open
from tests.service.test_story import png

pytestmark = pytest.mark.browser


def label(running: Running, title: str, **more: object) -> str:
    fields = {"title": title, "number": "PH 9", "body": "<p>Long ago.</p>" + "<p>And on.</p>" * 60, **more}
    return running.as_("nell").start("label", fields).id


def pane(page: Page) -> FrameLocator:
    page.get_by_role("tab", name="Page", exact=True).click()
    expect(page.get_by_text("The page follows what you type")).to_be_visible()
    return page.frame_locator("iframe")


def test_the_page_follows_what_is_typed_and_keeps_its_place(running: Running, open_as: Open) -> None:
    id = label(running, "A net float")
    page = open_as("nell", f"/entries/{id}/en")
    frame = pane(page)
    expect(frame.get_by_role("heading", name="A net float")).to_be_visible()
    frame.locator("html").evaluate("html => { window.scrollTo(0, 700); window.kept = 'yes' }")
    page.get_by_label("Title", exact=True).fill("A blue net float")
    expect(frame.get_by_role("heading", name="A blue net float")).to_have_count(1)
    assert frame.locator("html").evaluate("() => [Math.round(window.scrollY), window.kept]") == [700, "yes"]
    # Others, and readers, see nothing of it; nor does the service keep it.
    assert running.as_("wim").entry(id, "en").title == "A net float"
    other = open_as("wim", f"/entries/{id}/en")
    expect(pane(other).get_by_role("heading", name="A net float", exact=True)).to_be_visible()
    page.get_by_role("button", name="Save draft").click()
    expect(pane(other).get_by_role("heading", name="A blue net float")).to_be_visible()


def test_a_part_of_the_page_leads_to_its_field_and_a_field_to_its_places(
    running: Running, open_as: Open
) -> None:
    page = open_as("oda", f"/entries/{running.id('Visit')}/en")
    frame = pane(page)
    frame.get_by_text("Ten to five").hover()
    frame.get_by_role("button", name="Edit this in its field").click()
    place = page.locator('[data-block="open"] [contenteditable]')
    expect(place).to_be_focused()
    page.get_by_label("Marks").uncheck()
    frame.get_by_text("Come by boat").hover()
    expect(frame.get_by_role("button", name="Edit this in its field")).to_be_hidden()
    chips = page.get_by_role("list", name="Where the page shows Title")
    chips.get_by_role("button", name="Heading").click()
    expect(frame.locator("h1.hawthorn-shown")).to_have_count(1)
    # A mark of another entry leads into that one.
    page.get_by_label("Marks").check()
    frame.get_by_text("On the north quay").hover()
    frame.get_by_role("button", name="Edit this in its field").click()
    expect(page.get_by_role("heading", level=1, name="How to find us")).to_be_visible()


def test_a_preview_flips_to_what_is_out_and_walks_on_as_drafted(running: Running, open_as: Open) -> None:
    page = open_as("ida", f"/entries/{running.id('Visit')}/en")
    frame = pane(page)
    expect(frame.get_by_role("link", name="Access", exact=True)).to_be_visible()
    page.get_by_role("button", name="Out", exact=True).click()
    expect(frame.get_by_role("link", name="With children").first).to_be_visible()
    expect(frame.get_by_role("link", name="Access", exact=True)).to_have_count(0)
    page.get_by_role("button", name="Phone").click()
    page.goto(f"{running.url}/preview/{running.id('Visit')}/en")
    walked = page.frame_locator("iframe")
    walked.get_by_role("link", name="Access", exact=True).click()
    expect(walked.get_by_role("heading", name="Access", exact=True)).to_be_visible()
    expect(page.get_by_text("You followed a link to")).to_be_visible()
    walked.get_by_role("link", name="Lights", exact=True).click()
    expect(walked.get_by_role("heading", name="Lights and Signals")).to_be_visible()
    page.get_by_label("Side by side").check()
    page.get_by_label("Shows").first.select_option("release")
    left, right = page.frame_locator("iframe >> nth=0"), page.frame_locator("iframe >> nth=1")
    expect(left.get_by_text("Bus 4 stops")).to_be_visible()
    expect(right.get_by_text("Buses 4 and 11 stop")).to_be_visible()


def test_a_link_is_given_opened_without_an_account_and_taken_back(
    running: Running, open_as: Open, browser: object
) -> None:
    id = label(running, "A sealed bottle")
    page = open_as("nell", f"/entries/{id}/en")
    pane(page)
    page.get_by_role("button", name="Links for others").click()
    page.get_by_label("For whom").fill("The glass expert")
    page.get_by_role("button", name="Make a link").click()
    url = page.get_by_label("Address of the link").input_value()
    stranger = browser.new_context().new_page()  # type: ignore[attr-defined]
    stranger.goto(url)
    expect(stranger.get_by_role("heading", name="A sealed bottle")).to_be_visible()
    entry = running.as_("nell").entry(id, "en")
    stranger.wait_for_timeout(300)
    running.as_("nell").save(id, "en", {"title": "An opened bottle"}, etag=entry.etag)
    expect(stranger.get_by_role("heading", name="An opened bottle")).to_be_visible()
    page.get_by_role("button", name="Revoke").click()
    expect(page.get_by_text("revoked", exact=False).first).to_be_visible()
    stranger.reload()
    expect(stranger.get_by_role("heading", name="This preview was taken back.")).to_be_visible()
    stranger.context.close()


def test_who_holds_a_link_sees_changes_where_long_connections_fail(running: Running, browser: object) -> None:
    nell = running.as_("nell")
    id = label(running, "A patient anchor")
    url = next(a.url for a in nell.give_link(id).addresses if a.site == "preview")
    stranger = browser.new_context().new_page()  # type: ignore[attr-defined]
    stranger.route(re.compile(r"/read/changes\?"), lambda route: route.fulfill(status=502))
    with stranger.expect_response(re.compile("/read/changes/last")):
        stranger.goto(url)
    expect(stranger.get_by_role("heading", name="A patient anchor")).to_be_visible()
    nell.save(id, "en", {"title": "An anchor at last"}, etag=nell.entry(id, "en").etag)
    expect(stranger.get_by_role("heading", name="An anchor at last")).to_be_visible()
    stranger.context.close()


def test_a_page_without_the_script_previews_all_the_same(running: Running, open_as: Open) -> None:
    id = label(running, "A plain page")
    page = open_as("nell", f"/entries/{id}/en", expect=("ERR_FAILED",))
    page.route("**/preview/marks.js", lambda route: route.abort())
    page.get_by_role("tab", name="Page", exact=True).click()
    frame = page.frame_locator("iframe")
    expect(frame.get_by_role("heading", name="A plain page")).to_be_visible()
    expect(page.get_by_text("The page has no script for previews")).to_be_visible()
    page.get_by_label("Title", exact=True).fill("A plainer page")
    expect(frame.get_by_role("heading", name="A plainer page")).to_be_visible()


def rows(page: Page) -> list[str]:
    return page.get_by_role("treeitem").locator("a").all_inner_texts()


def test_the_outline_is_walked_and_ordered_by_keys_and_by_hand(running: Running, open_as: Open) -> None:
    oda = running.as_("oda")
    top = oda.start("page", {"title": "Harbour walks", "page": []})
    ids = [oda.start("page", {"title": f"Walk {n}", "below": top.id}).id for n in (1, 2, 3)]
    page = open_as("oda", "/outline")
    page.get_by_label("Find a page").fill("Walk 2")
    page.get_by_role("button", name="Show in the outline").click()
    two = page.locator(f'[data-id="{ids[1]}"]')
    expect(two).to_be_focused()
    page.keyboard.press("Alt+ArrowUp")
    expect(page.get_by_text("“Walk 2” stands below “Harbour walks”").first).to_be_visible()
    ours = ("Harbour walks", "Walk 1", "Walk 2", "Walk 3")
    eventually(
        lambda: [r for r in rows(page) if r in ours] == ["Harbour walks", "Walk 2", "Walk 1", "Walk 3"]
    )
    order = lambda: [line.title for line in oda.outline(top.id).items]  # noqa: E731
    assert order() == ["Walk 2", "Walk 1", "Walk 3"]
    page.get_by_role("button", name="Put back").last.click()
    eventually(lambda: order() == ["Walk 1", "Walk 2", "Walk 3"])
    expect(two).to_be_focused()
    page.keyboard.press("Alt+ArrowRight")
    eventually(lambda: [line.title for line in oda.outline(ids[0]).items] == ["Walk 2"])
    # Only once the page has drawn it may the next be taken hold of.
    expect(two).to_have_attribute("aria-level", "3")
    expect(two).to_be_focused()
    page.locator(f'[data-id="{ids[2]}"]').drag_to(
        page.locator(f'[data-id="{ids[0]}"]'), target_position={"x": 200, "y": 3}
    )
    eventually(lambda: order() == ["Walk 3", "Walk 1"])
    # It is drawn anew, and with it what has the focus, a moment after it is saved.
    eventually(lambda: [row for row in rows(page) if row in ("Walk 1", "Walk 3")] == ["Walk 3", "Walk 1"])
    page.locator(f'[data-id="{top.id}"]').focus()
    expect(page.locator(f'[data-id="{top.id}"]')).to_be_focused()
    page.keyboard.press("ArrowLeft")
    expect(page.locator(f'[data-id="{ids[2]}"]')).to_have_count(0)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1, name="Harbour walks")).to_be_visible()


def test_a_reader_of_the_outline_moves_nothing_and_sees_other_stages(running: Running, open_as: Open) -> None:
    page = open_as("mina", "/outline")
    expect(page.get_by_role("treeitem", name=re.compile("^Visit"))).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Move"))).to_have_count(0)
    expect(page.get_by_role("treeitem", name=re.compile("^About the museum"))).to_be_visible()
    page.get_by_role("combobox", name="Where").select_option("release")
    expect(page.get_by_text("You look at what stands elsewhere")).to_be_visible()
    expect(page.get_by_role("treeitem", name=re.compile("^About the museum"))).to_have_count(0)


def test_files_are_dropped_into_a_folder_and_a_focus_is_set(
    running: Running, open_as: Open, tmp_path: Path
) -> None:
    page = open_as("nell", "/library", expect=("422",))
    page.get_by_role("button", name="New folder").click()
    page.get_by_label("Name of the folder").fill("Dropped")
    page.get_by_role("button", name="Save").click()
    page.get_by_role("button", name=re.compile("^Dropped")).click()
    good, bad = tmp_path / "grey-heron.png", tmp_path / "letter.png"
    good.write_bytes(png("grey"))
    bad.write_text("Dear museum,")
    page.get_by_label("Upload…").set_input_files([good, bad])
    expect(page.get_by_role("alert")).to_contain_text("“letter.png” is no file that can be used")
    page.get_by_role("link", name="grey heron").click()
    expect(page.get_by_text("Crops keep the middle.")).to_be_visible()
    point = page.get_by_role("button", name=re.compile("^Focus of the picture"))
    box = point.bounding_box()
    assert box is not None
    point.click(position={"x": box["width"] * 0.2, "y": box["height"] * 0.5})
    # A pixel either way: how high the picture is shown depends on the fonts above it.
    expect(
        page.get_by_text(re.compile(r"No crop cuts off the point at (19|20|21) %, (49|50|51) %\."))
    ).to_be_visible()
    page.keyboard.press("ArrowRight")
    page.get_by_role("button", name="Save draft").click()
    expect(page.get_by_role("status").filter(has_text="Saved as revision").first).to_be_visible()
    line = next(one for one in running.as_("nell").library(words="grey heron").items)
    assert line.file is not None
    assert line.file.focus is not None
    assert line.file.focus[0] == 22
    assert abs(line.file.focus[1] - 50) <= 1
    assert line.folder == next(f.id for f in running.as_("nell").folders().items if f.name == "Dropped")


def test_a_page_replaces_a_region_and_follows_again_and_a_block_changes_its_kind(
    running: Running, open_as: Open
) -> None:
    oda = running.as_("oda")
    words = {"id": "w", "kind": "words", "fields": {"text": "<p>Mind the steps.</p>", "anchor": "steps"}}
    id = oda.start("page", {"title": "Steps", "page": [words]}).id
    page = open_as("oda", f"/entries/{id}/en")
    aside = page.locator('[data-field="aside"]')
    expect(aside).to_contain_text("Follows the layout")
    aside.get_by_role("button", name="Replace it on this page alone").click()
    expect(aside.get_by_label("Heading")).to_have_value("Latest notices")
    aside.get_by_label("Heading").fill("Steps nearby")
    aside.get_by_text("What differs").click()
    expect(aside.locator(".new")).to_contain_text("Steps nearby")
    page.get_by_label("Kind of block 1").first.select_option("quote")
    expect(page.get_by_label("What was said")).to_have_value("Mind the steps.")
    page.get_by_role("button", name="Save draft").click()
    expect(page.get_by_role("status").filter(has_text="Saved as revision 2.").first).to_be_visible()
    kept = oda.entry(id, "en").fields
    assert kept["page"] == [
        {"id": "w", "kind": "quote", "fields": {"said": "Mind the steps.", "anchor": "steps"}}
    ]
    assert kept["aside"][0]["fields"]["heading"] == "Steps nearby"
    aside.get_by_role("button", name="Follow the layout again").click()
    page.get_by_role("button", name="Save draft").click()
    expect(page.get_by_role("status").filter(has_text="Saved as revision 3.").first).to_be_visible()
    assert "aside" not in oda.entry(id, "en").fields


def test_an_address_is_tried_where_it_is_set_up(running: Running, open_as: Open) -> None:
    page = open_as("ida", "/set-up/sites")
    own = page.get_by_role("region", name="My machine")
    own.get_by_role("button", name="Try it").click()
    expect(own.get_by_role("status")).to_contain_text("Nothing answered")
    own.get_by_label("Address", exact=True).fill(running.demo.ports.url("preview") + "/{path}")
    own.get_by_role("button", name="Try it").click()
    expect(own.get_by_role("status")).to_contain_text("It shows what is being typed.")


def test_the_site_itself_needs_nothing_of_ours_for_readers(running: Running) -> None:
    page = httpx.get(running.demo.ports.url("site") + "/en").text
    assert "marks.js" not in page
    assert "data-hawthorn" not in page
    assert '"@type": "Museum"' in page
