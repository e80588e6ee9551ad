"""Quick to work in: how many acts the usual things take, what is done from a list, and what happens without a connection."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.conftest import Running
from tests.console.conftest import Open, drag, go_into
from tests.console.test_console import said

pytestmark = pytest.mark.browser


class Hand:
    """A hand on a page, which counts what it does: each press, each choice, each thing typed."""

    def __init__(self, page: Page) -> None:
        self.page, self.acts = page, 0

    def _one(self, does: Callable[[], object]) -> None:
        self.acts += 1
        does()

    def press(self, key: str) -> None:
        self._one(lambda: self.page.keyboard.press(key))

    def click(self, what: Locator) -> None:
        self._one(what.click)

    def type(self, where: Locator, text: str) -> None:
        self._one(lambda: where.fill(text))

    def choose(self, where: Locator, label: str) -> None:
        self._one(lambda: where.select_option(label=label))


def button(page: Page, name: str) -> Locator:
    return page.get_by_role("button", name=name, exact=True)


def test_a_draft_is_saved_five_acts_after_logging_in(running: Running, open_as: Open) -> None:
    page = open_as("wim")
    expect(page.get_by_role("heading", level=1, name="My work")).to_be_visible()
    hand = Hand(page)
    hand.press("n")
    hand.choose(page.get_by_label("What is it?"), "Visitor notice")
    hand.type(page.get_by_role("dialog").get_by_label("Title", exact=True), "Five acts")
    hand.click(button(page, "Start"))
    expect(page.get_by_role("heading", level=1, name="Five acts")).to_be_visible()
    assert hand.acts <= 5
    assert running.as_("wim").entry(running.id("Five acts"), "en").revision is not None


def test_two_acts_sign_off_what_waits_with_what_changed_in_sight(running: Running, open_as: Open) -> None:
    entry = running.notice("Two acts")
    running.as_("wim").submit(entry.id, "en", "Please look.")
    page = open_as("oda")
    hand = Hand(page)
    hand.click(button(page, "Compare: Two acts"))
    expect(page.locator("ins").filter(has_text="Two acts is at ten. Bring a coat.")).to_be_visible()
    hand.click(button(page, "Sign off"))
    said(page, "Signed off: Two acts")
    assert hand.acts == 2
    review = running.as_("wim").entry(entry.id, "en").review
    assert review is not None
    assert (review.outcome, review.revision) == ("signed off", 1)
    expect(button(page, "Compare: Two acts")).to_have_count(0)


def test_who_was_named_answers_and_hands_on_from_the_list(running: Running, open_as: Open) -> None:
    entry = running.notice("Asked about", by="wim")
    running.as_("wim").comment(entry.id, "en", "Is this so, @nell?")
    running.as_("oda").assign(entry.id, "en", "nell", note="Please check.")
    page = open_as("nell")
    button(page, "Reply: Asked about").click()
    page.get_by_label("Reply to Wim Aster").fill("It is.")
    button(page, "Reply").click()
    said(page, "Replied: Asked about")
    expect(button(page, "Reply: Asked about")).to_have_count(0)
    button(page, "Done: Asked about").click()
    said(page, "Done: Asked about")
    button(page, "Undo").last.click()
    button(page, "Reassign… Asked about").click()
    page.get_by_label("Who gets it?").select_option(label="Wim Aster")
    button(page, "Assign").click()
    expect(button(page, "Done: Asked about")).to_have_count(0)
    wim = running.as_("wim")
    assert [r.text for c in wim.comments(entry.id, "en").items for r in c.replies] == ["It is."]
    given = wim.entry(entry.id, "en").assignment
    assert given is not None
    assert given.handle == "wim"


def test_four_acts_plan_a_release_for_monday_at_nine_and_one_undoes_it(
    running: Running, open_as: Open
) -> None:
    entry = running.signed("Four acts")
    page = open_as("jonas", f"/entries/{entry.id}/en")
    hand = Hand(page)
    hand.click(button(page, "Release or plan…"))
    hand.click(page.get_by_label("At a time"))
    hand.type(page.get_by_label("Day and time"), "monday 9")
    hand.click(button(page, "Plan it"))
    said(page, "Planned for")
    assert hand.acts == 4
    (planned,) = running.as_("jonas").entry(entry.id, "en").planned
    assert re.search(r"T0[89]:00", planned.instant)
    button(page, "Undo").click()
    expect(page.get_by_role("tabpanel").get_by_text("Cancel dispatch")).to_have_count(0)
    assert running.as_("jonas").entry(entry.id, "en").planned == []


def test_four_acts_commission_three_languages(running: Running, open_as: Open) -> None:
    entry = running.notice("Three languages")
    page = open_as("mina", f"/entries/{entry.id}/en")
    hand = Hand(page)
    hand.click(button(page, "Translate…"))
    # Where something is missing is chosen already; the one that is not wanted is taken out.
    languages = page.get_by_role("dialog").get_by_role("checkbox")
    expect(languages.first).to_be_checked()
    for more in range(3, languages.count()):
        hand.click(languages.nth(more))
    hand.click(button(page, "Send"))
    said(page, "Sent to")
    assert hand.acts <= 4
    assert len(running.as_("mina").entry(entry.id, "en").jobs) == 3


def test_acts_are_typed_and_only_where_they_are_allowed(running: Running, open_as: Open) -> None:
    entry = running.notice("The tide mill")
    page = open_as("wim")
    page.keyboard.press("Control+k")
    box = page.get_by_role("combobox", name="An entry, a person, a page, or an act")
    box.fill("release tide mill")
    expect(page.get_by_role("option", name="Release or plan: The tide mill")).to_contain_text("release")
    box.fill("submit tide mill")
    expect(page.get_by_role("option", name="Submit: The tide mill")).to_have_attribute(
        "aria-selected", "true"
    )
    page.keyboard.press("Enter")
    button(page, "Submit").last.click()
    said(page, "Submitted for review.")
    button(page, "Take back").last.click()
    expect(page.get_by_role("tabpanel")).to_contain_text("Revision 1 was taken back.")
    assert "act=" not in page.url
    # A person's name leads to their entries, and what was open lately is offered first.
    page.keyboard.press("Control+k")
    box.fill("nell")
    page.get_by_role("option", name="Nell Farrow").click()
    expect(page.get_by_label("last changed by")).to_have_value("nell")
    assert "person=nell" in page.url
    page.keyboard.press("Control+k")
    expect(page.get_by_role("group", name="Opened lately")).to_contain_text("The tide mill")
    assert running.as_("wim").entry(entry.id, "en").review is not None


def test_a_list_keeps_its_columns_and_order_and_its_address_can_be_handed_on(open_as: Open) -> None:
    page = open_as("ida", "/entries?type=gallery")
    heads = page.get_by_role("table").get_by_role("columnheader")
    expect(page.get_by_label("Type", exact=True)).to_have_value("gallery")
    button(page, "Title").click()
    expect(heads.filter(has_text="Title")).to_have_attribute("aria-sort", "ascending")
    links = page.get_by_role("table").get_by_role("link")
    titles = links.all_inner_texts()
    # The head says at once what was asked for; the lines follow.
    expect(links).to_have_text(sorted(titles, key=str.casefold))
    button(page, "Title").click()
    expect(heads.filter(has_text="Title")).to_have_attribute("aria-sort", "descending")
    assert "sort=-title" in page.url
    expect(page.get_by_text(f"{len(titles)} entries")).to_be_visible()
    button(page, "View").click()
    page.get_by_role("checkbox", name="Where it stands").uncheck()
    page.get_by_role("radio", name="Close together").check()
    page.keyboard.press("Escape")
    page.reload()
    expect(heads.filter(has_text="Title")).to_have_attribute("aria-sort", "descending")
    expect(heads.filter(has_text="Where it stands")).to_have_count(0)
    # With Shift, everything in between is chosen too.
    boxes = page.get_by_role("row").get_by_role("checkbox")
    boxes.nth(1).click()
    boxes.nth(3).click(modifiers=["Shift"])
    expect(page.get_by_role("region", name="What to do with what is chosen")).to_contain_text("3")


def test_what_narrows_a_list_is_chips_on_a_phone(open_as: Open) -> None:
    page = open_as(
        "ida", "/entries?type=gallery&planned=true", viewport={"width": 390, "height": 800}, has_touch=True
    )
    expect(page.get_by_label("Type", exact=True)).to_have_count(0)
    page.get_by_role("button", name=re.compile("Take away: .*planned")).tap()
    expect(page.get_by_role("link", name="Boats of the Harbour")).to_be_visible()
    button(page, "Filter").tap()
    page.get_by_role("dialog").get_by_label("Type", exact=True).select_option(label="Topic")
    button(page, "Show").tap()
    expect(page.get_by_role("button", name="Take away: Topic")).to_be_visible()


def test_what_is_saved_without_a_connection_is_sent_when_it_is_back(running: Running, open_as: Open) -> None:
    entry = running.notice("Out at sea")
    page = open_as("wim", f"/entries/{entry.id}/en", expect=("ERR_INTERNET_DISCONNECTED", "net::ERR"))
    expect(page.get_by_role("toolbar", name="Formatting")).to_be_visible()
    page.context.set_offline(True)
    page.get_by_label("Title", exact=True).fill("Out at sea, in fog")
    page.keyboard.press("Control+s")
    expect(page.get_by_text("it is sent when the connection is back")).to_be_visible()
    expect(page.get_by_text("No connection to the service since")).to_be_visible()
    page.context.set_offline(False)
    said(page, "Saved as revision 2.")
    expect(page.get_by_text("No connection to the service since")).to_have_count(0)
    assert running.as_("wim").entry(entry.id, "en").title == "Out at sea, in fog"


def test_a_text_is_written_with_slashes_and_by_the_bar_over_chosen_words(
    running: Running, open_as: Open
) -> None:
    entry = running.notice("Slashes")
    page = open_as("wim", f"/entries/{entry.id}/en")
    text = page.locator("[contenteditable=true]").first
    go_into(text)
    page.keyboard.press("Enter")
    page.keyboard.type("/nu")
    expect(page.get_by_role("option", name="Numbered list")).to_be_visible()
    expect(text).to_have_attribute("aria-activedescendant", re.compile("."))
    page.keyboard.press("Enter")
    page.keyboard.type("Rope")
    # Once closed it stays closed, and a slash within a word opens nothing.
    page.keyboard.type(" /")
    expect(page.get_by_role("listbox", name="What can be put in")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.type("q and/or")
    expect(page.get_by_role("listbox", name="What can be put in")).to_have_count(0)
    page.keyboard.press("Shift+Home")
    page.get_by_role("toolbar", name="For the chosen words").get_by_role("button", name="Bold").click()
    page.keyboard.press("Control+s")
    said(page, "Saved as revision 2.")
    saved = running.as_("wim").entry(entry.id, "en").fields["body"]
    assert saved.endswith("<ol><li><strong>Rope /q and/or</strong></li></ol>")
    page.get_by_role("toolbar", name="For the chosen words").get_by_role("button", name="Comment").click()
    expect(page.get_by_role("tab", name="Comments")).to_have_attribute("aria-selected", "true")
    expect(page.locator("q").filter(has_text="Rope /q and/or")).to_be_visible()


def test_a_table_is_written_by_keys_and_its_rows_are_merged_with_those_of_another(
    running: Running, open_as: Open
) -> None:
    entry = running.notice("Tides")
    page = open_as("wim", f"/entries/{entry.id}/en")
    go_into(page.locator("[contenteditable=true]").first)
    page.keyboard.press("Enter")
    page.keyboard.type("/tab")
    expect(page.get_by_role("option", name="Table")).to_be_visible()
    page.keyboard.press("Enter")
    for words in ("Day", "High", "Low", "Monday", "six", "noon", "Tuesday", "seven", "one", "Sunday"):
        page.keyboard.type(words)
        page.keyboard.press("Tab")
    page.get_by_role("button", name="Rows and columns").click()
    page.get_by_role("button", name="Delete the row").click()
    page.keyboard.press("Control+s")
    said(page, "Saved as revision 2.")
    body = running.as_("wim").entry(entry.id, "en").fields["body"]
    table = body[body.index("<table>") :]
    assert table == (
        "<table><tr><th>Day</th><th>High</th><th>Low</th></tr><tr><td>Monday</td><td>six</td><td>noon</td></tr>"
        "<tr><td>Tuesday</td><td>seven</td><td>one</td></tr></table>"
    )
    go_into(page.get_by_role("cell", name="noon"), "End")
    page.keyboard.type(" or so")
    theirs = body.replace("six", "at six").replace(
        "</table>", "<tr><td>Friday</td><td></td><td></td></tr></table>"
    )
    running.as_("oda").save(
        entry.id, "en", {"body": theirs}, etag=running.as_("oda").entry(entry.id, "en").etag
    )
    page.keyboard.press("Control+s")
    said(page, "merged with Oda")
    made = running.as_("wim").entry(entry.id, "en").fields["body"]
    assert "<td>Monday</td><td>at six</td><td>noon or so</td>" in made
    assert made.endswith("<tr><td>Friday</td><td></td><td></td></tr></table>")


def test_what_another_saves_is_taken_in_under_the_cursor_of_who_only_looks(
    running: Running, open_as: Open
) -> None:
    entry = running.notice("Under the cursor")
    page = open_as("wim", f"/entries/{entry.id}/en")
    text = page.get_by_role("textbox", name="Text")
    go_into(text, "Shift+Home")
    expect(page.get_by_role("toolbar", name="For the chosen words")).to_be_visible()
    for number in (2, 3):
        running.as_("oda").save(
            entry.id,
            "en",
            {"body": f"<p>Said anew, {number}.</p>"},
            etag=running.as_("oda").entry(entry.id, "en").etag,
        )
        expect(text).to_have_text(f"Said anew, {number}.")
        go_into(text, "Shift+Home")
        expect(page.get_by_role("toolbar", name="For the chosen words")).to_be_visible()


def test_panes_stand_where_they_are_wanted_and_help_beside_the_page(running: Running, open_as: Open) -> None:
    entry = running.notice("Beside")
    page = open_as("wim", f"/entries/{entry.id}/en")
    for name, tab in (("Beside it, wider", True), ("Below the text", True), ("Closed", False)):
        button(page, "Where this stands").click()
        button(page, name).click()
        expect(page.get_by_role("tab", name="Now")).to_have_count(int(tab))
    page.reload()
    expect(page.get_by_role("heading", level=1, name="Beside")).to_be_visible()
    expect(page.get_by_role("tab", name="Now")).to_have_count(0)
    button(page, "Open what stands beside").click()
    expect(page.get_by_role("tab", name="Now")).to_be_visible()
    button(page, "Help for this page").click()
    help_ = page.get_by_role("complementary", name="Help")
    expect(help_.get_by_role("heading", name="Help")).to_be_focused()
    expect(help_).to_contain_text("Each save makes a revision")
    page.get_by_role("link", name="Timetable").click()
    expect(help_).to_contain_text("What is held, what is being put together")
    guide = help_.get_by_role("link").first.get_attribute("href")
    assert "<h1>" in page.request.get(f"{running.url}{guide}").text()
    button(page, "Close the help").click()
    expect(button(page, "Help for this page")).to_be_focused()


def test_blocks_are_carried_by_a_finger_and_by_the_space_bar(running: Running, open_as: Open) -> None:
    quotes = [{"id": f"said{n}", "kind": "quote", "fields": {"said": f"Said {n}"}} for n in (1, 2, 3)]
    entry = running.as_("nell").start("exhibition", {"title": "Carried", "page": quotes})
    page = open_as("nell", f"/entries/{entry.id}/en")
    page.get_by_role("button", name="Move Quote, 3 of 3").focus()
    page.keyboard.press("Space")
    page.keyboard.press("ArrowUp")
    page.keyboard.press("ArrowUp")
    page.keyboard.press("Space")
    expect(page.locator("[data-block]").first).to_have_attribute("data-block", "said3")
    drag(
        page,
        page.get_by_role("button", name="Move Quote, 2 of 3"),
        page.get_by_role("button", name="Move Quote, 3 of 3"),
    )
    page.keyboard.press("Control+s")
    said(page, "Saved as revision 2.")
    order = [b["fields"]["said"] for b in running.as_("nell").entry(entry.id, "en").fields["page"]]
    assert order[0] == "Said 3"
    assert sorted(order) == ["Said 1", "Said 2", "Said 3"]


def test_a_page_is_carried_through_the_outline_by_a_finger(open_as: Open) -> None:
    page = open_as("ida", "/outline", viewport={"width": 390, "height": 1600}, has_touch=True)
    lights = page.get_by_role("treeitem", name="Lights and Signals, Gallery")
    ropes = page.get_by_role("treeitem", name="Ropes and Rigging, Gallery")
    expect(lights).to_be_visible()
    before = int(ropes.get_attribute("aria-posinset") or 0)
    taken = page.locator(f"[data-take='{ropes.get_attribute('data-id')}']")
    expect(taken).to_be_visible()
    where, onto = taken.bounding_box(), lights.bounding_box()
    assert where is not None
    assert onto is not None
    touch = page.context.new_cdp_session(page)

    def at(kind: str, x: float, y: float) -> None:
        points = [] if kind == "touchEnd" else [{"x": x, "y": y}]
        touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

    x, y = where["x"] + 10, where["y"] + 10
    at("touchStart", x, y)
    for step in range(1, 9):
        at("touchMove", x, y + (onto["y"] + 3 - y) * step / 8)
    at("touchEnd", x, onto["y"] + 3)
    said(page, "Ropes and Rigging")
    expect(ropes).not_to_have_attribute("aria-posinset", str(before))
    button(page, "Put back").click()
    expect(ropes).to_have_attribute("aria-posinset", str(before))
