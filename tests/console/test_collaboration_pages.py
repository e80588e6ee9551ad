"""Comments, presence, notifications, workflows, people and accounts in headless Chromium."""

from __future__ import annotations

import re
from uuid import uuid4

import pytest
from playwright.sync_api import Page, expect

from hawthorn.demo.museum import PASSWORD
from tests.conftest import Running
from tests.console.conftest import Open, go_into, own_menu

pytestmark = pytest.mark.browser


def words_of(page: Page, words: str) -> None:
    """Choose some words of the text editor."""
    page.evaluate(
        """(words) => {
          const box = document.querySelector('[role=textbox][aria-labelledby=field-body-label], #field-body');
          const walker = document.createTreeWalker(box, NodeFilter.SHOW_TEXT);
          while (walker.nextNode()) {
            const at = walker.currentNode.data.indexOf(words);
            if (at < 0) continue;
            const range = document.createRange();
            range.setStart(walker.currentNode, at);
            range.setEnd(walker.currentNode, at + words.length);
            window.getSelection().removeAllRanges();
            window.getSelection().addRange(range);
            return;
          }
        }""",
        words,
    )


def test_a_passage_is_commented_on_by_two_who_see_each_other(running: Running, open_as: Open) -> None:
    entry = running.notice("The ferry in winter", body="<p>The ferry stops at dusk. Bring a coat.</p>")
    path = f"/entries/{entry.id}/en"
    oda = open_as("oda", path)
    expect(oda.get_by_role("textbox", name="Text")).to_be_visible()
    words_of(oda, "stops at dusk")
    oda.get_by_role("button", name="Comment on Text").click()
    expect(oda.get_by_text("On Text", exact=True)).to_be_visible()
    box = oda.get_by_label("Comment on this entry")
    box.press_sequentially("When is that, @wi")
    oda.keyboard.press("Enter")
    box.press_sequentially("please?")
    oda.get_by_role("button", name="Comment", exact=True).click()
    expect(oda.get_by_role("list", name="Comments").locator("q")).to_have_text("stops at dusk")
    expect(oda.locator(".commented")).to_have_text("stops at dusk")

    wim = open_as("wim")
    expect(wim.locator("button[aria-label^=Notifications]")).to_have_attribute(
        "aria-label", re.compile("new")
    )
    wim.get_by_role("region", name="Waiting for you").get_by_role("link", name="The ferry in winter").click()
    expect(wim.get_by_text("When is that, @wim please?")).to_be_visible()
    expect(wim.get_by_text("Oda Brandt has the English edition open")).to_be_visible()
    wim.get_by_role("textbox", name="Text").click()
    expect(oda.get_by_text(re.compile("Wim Aster is in Text")).first).to_be_visible()
    go_into(wim.get_by_role("textbox", name="Text"), "Control+Home")
    wim.keyboard.type("In winter ")
    expect(oda.get_by_text("Wim Aster is typing here")).to_be_visible()
    wim.keyboard.press("Control+s")
    expect(wim.get_by_text("Saved as revision 2.")).to_be_visible()
    wim.get_by_label("Reply to Oda Brandt").fill("At four in December.")
    wim.get_by_role("button", name="Reply", exact=True).click()
    expect(oda.get_by_text("At four in December.")).to_be_visible()
    oda.get_by_role("button", name="Resolve").click()
    expect(oda.get_by_role("tab", name="Comments", exact=True)).to_be_visible()
    oda.get_by_role("button", name="Undo").last.click()
    expect(oda.get_by_role("tab", name="Comments (1)")).to_be_visible()
    expect(wim.get_by_role("button", name="1 comment")).to_be_visible()
    wim.close()
    expect(oda.locator("span.rounded", has_text="Wim Aster")).to_have_count(0)


def test_what_is_said_in_a_strand_is_found_from_the_draft_and_leads_there(
    running: Running, open_as: Open
) -> None:
    entry = running.notice("The slip in spring", body="<p>The slip is closed.</p>")
    path = f"/entries/{entry.id}/en"
    by_program = running.as_("wim")
    by_program.fork_strand(entry.id, "en", "Spring")
    words = {"body": "<p>The slip is closed. Boats wait at the quay.</p>"}
    by_program.save(
        entry.id, "en", words, etag=by_program.entry(entry.id, "en", strand="Spring").etag, strand="Spring"
    )
    wim = open_as("wim", f"{path}/strands/Spring")
    expect(wim.get_by_role("textbox", name="Text")).to_contain_text("Boats wait")
    words_of(wim, "at the quay")
    wim.get_by_role("button", name="Comment on Text").click()
    wim.get_by_label("Comment on this entry").fill("Which one?")
    wim.get_by_role("button", name="Comment", exact=True).click()
    expect(wim.locator(".commented")).to_have_text("at the quay")
    oda = open_as("oda", path)
    expect(oda.get_by_text("Wim Aster has the English edition open · strand “Spring”")).to_be_visible()
    oda.get_by_role("tab", name="Comments (1)").click()
    expect(oda.locator(".commented")).to_have_count(0)
    oda.get_by_role("link", name="in the strand “Spring”").click()
    expect(oda.locator(".commented")).to_have_text("at the quay")
    expect(oda.get_by_text("Which one?")).to_be_visible()


def test_a_comment_and_an_assignment_are_shown_in_my_work(running: Running, open_as: Open) -> None:
    entry = running.notice("Steps to be cleared")
    oda = open_as("oda", f"/entries/{entry.id}/en", expect=("422",))
    oda.get_by_role("button", name="Assign…").click()
    oda.get_by_label("Who gets it?").select_option("nell")
    oda.get_by_label("Due on").fill("2020-01-31")
    oda.get_by_role("button", name="Assign", exact=True).click()
    expect(oda.get_by_text("The due date Fri 31 Jan 2020 is past.")).to_be_visible()
    oda.get_by_label("Due on").fill("2099-01-31")
    oda.get_by_role("button", name="Assign", exact=True).click()
    expect(oda.get_by_text("Nell Farrow, assigned by Oda Brandt.")).to_be_visible()
    nell = open_as("nell")
    mine = nell.get_by_role("region", name="Assigned to you").or_(
        nell.locator("section[aria-labelledby=inhands]")
    )
    expect(mine.get_by_role("link", name="Steps to be cleared")).to_be_visible()
    bell = mine.get_by_role("listitem").filter(has_text="The fog bell")
    expect(bell.get_by_text("Late: it was due on")).to_be_visible()
    mine.get_by_role("link", name="Steps to be cleared").click()
    expect(nell.get_by_role("heading", level=1, name="Steps to be cleared")).to_be_visible()
    nell.get_by_role("button", name="Done", exact=True).click()
    expect(nell.get_by_text("Assigned to nobody.")).to_be_visible()


def test_what_somebody_else_does_moves_no_act_away_from_under_the_pointer(
    running: Running, open_as: Open
) -> None:
    entry = running.notice("The slipway is painted")
    running.as_("wim").submit(entry.id, "en", "Ready.")
    page = open_as("ida", f"/entries/{entry.id}/en")
    release = page.get_by_role("button", name="Release or plan", exact=False)
    sign = page.get_by_role("button", name="Sign off", exact=True)
    expect(sign).to_be_enabled()
    release.hover()
    before = release.bounding_box()
    running.as_("tomas").sign_off(entry.id, "en", 1)
    # It is said what changed, and nothing has moved.
    expect(sign).to_be_disabled()
    assert sign.get_attribute("title")
    assert release.bounding_box() == before
    page.mouse.move(200, 600)
    expect(sign).to_have_count(0)
    expect(release).to_be_enabled()


def test_a_workflow_is_changed_with_what_it_would_do_beside_it(running: Running, open_as: Open) -> None:
    ida = running.as_("ida")
    was = next(w for w in ida.setup().workflows if w.name == "checked").model_dump()
    page = open_as("ida", "/set-up/workflows", expect=("422",))
    page.get_by_role("button", name="Draft, review, facts, release").click()
    stages = page.get_by_role("group", name="Stages")
    stages.get_by_role("button", name="Facts").click()
    page.get_by_role("button", name="Remove Facts").click()
    expect(page.get_by_text("What stands at Facts moves to Review and waits there.")).to_be_visible()
    expect(page.get_by_text("“Seven ways to mark a rock”")).to_be_visible()
    stages.get_by_role("button", name="Release").click()
    page.get_by_label("Also before something leaves").check()
    page.get_by_label("Must hold").fill("size(title")
    page.get_by_label("Must hold").press("Tab")
    expect(page.get_by_role("alert")).to_contain_text("its end")
    page.get_by_label("Must hold").fill("size(title) <= 80")
    page.get_by_label("Must hold").press("Tab")
    page.get_by_role("button", name="Save the workflow").click()
    expect(page.get_by_text("is saved, version")).to_be_visible()
    now = next(w for w in ida.setup().workflows if w.name == "checked")
    assert [stage.gate.leaving for stage in now.stages] == [False, False, True]
    rocks = ida.entry(running.id("Seven ways to mark a rock"), "en")
    assert [b.stage for b in rocks.rail] == ["draft", "review", "release"]
    assert rocks.review is not None
    assert rocks.review.stage == "review"
    ida.define_workflow({k: v for k, v in was.items() if k != "version"})
    running.as_("oda").sign_off(rocks.id, "en", rocks.review.revision)


def test_a_role_is_limited_in_the_matrix_and_why_says_so(running: Running, open_as: Open) -> None:
    ida = running.as_("ida")
    page = open_as("ida", "/set-up/people", expect=("403", "409"))
    page.get_by_label("New role").fill("Guide")
    page.get_by_role("button", name="Add the role").click()
    page.get_by_role("button", name="Guide: write, not granted").click()
    page.get_by_role("button", name="Add a grant").click()
    page.get_by_role("checkbox", name="Visitor notice").check()
    page.get_by_label("Only entries that they started").check()
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_role("button", name="Guide: write, granted within limits")).to_be_visible()
    page.get_by_role("button", name="Invite somebody").click()
    page.get_by_label("Name", exact=True).fill("Gil Reeve")
    page.get_by_label("Logs in as").fill("gil")
    page.get_by_label("Mail address").fill("gil@pellgrave.example")
    page.get_by_role("dialog").get_by_role("combobox", name="Role").first.select_option("guide")
    page.get_by_role("button", name="Invite", exact=True).click()
    address = page.get_by_role("dialog").locator("code").inner_text()
    page.get_by_role("dialog").get_by_role("button", name="Close").last.click()
    page.get_by_role("combobox", name="Who", exact=True).select_option("gil")
    page.get_by_role("combobox", name="For the type").select_option("label")
    page.get_by_role("button", name="Ask").click()
    expect(page.get_by_text("Gil Reeve may not write here")).to_be_visible()
    page.get_by_role("combobox", name="For the type").select_option("notice")
    page.get_by_role("button", name="Ask").click()
    expect(page.get_by_text("These may:")).to_be_visible()

    gil = open_as("", address.removeprefix(running.url), expect=("401",))
    expect(gil.get_by_text("Ida Marlow invited you")).to_be_visible()
    gil.get_by_label("New password").fill("the tide turns")
    gil.get_by_label("Repeat the password").fill("the tide turned")
    expect(gil.get_by_text("The two are not the same.")).to_be_visible()
    gil.get_by_label("Repeat the password").fill("the tide turns")
    gil.get_by_role("button", name="Begin").click()
    expect(gil.get_by_text("Nothing waits for you.")).to_be_visible()
    ida.end_person("gil")
    ida.end_role("guide")


def test_a_second_factor_is_set_up_and_asked_for(running: Running, open_as: Open) -> None:
    page = open_as("aiko", "/account", expect=("422", "401"))
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    page.get_by_role("button", name="Set it up").click()
    secret = page.locator("code").inner_text()
    expect(page.get_by_role("img", name="QR code for your authenticator")).to_be_visible()
    page.get_by_label("Code of your second factor").fill("000000")
    page.get_by_role("button", name="Turn it on").click()
    expect(page.get_by_role("alert")).to_contain_text("is not the one that the authenticator shows")
    page.get_by_label("Code of your second factor").fill(running.code(secret))
    page.get_by_role("button", name="Turn it on").click()
    expect(page.get_by_text("It is on: logging in needs a code")).to_be_visible()
    spare = page.get_by_role("status").locator("li").first.inner_text()
    own_menu(page, "Log out")
    page.get_by_label("Name or mail address").fill("aiko")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Log in").click()
    page.get_by_label("Code of your second factor").fill(spare)
    page.get_by_role("button", name="Log in").click()
    expect(page.get_by_role("heading", name="Your account")).to_be_visible()
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    page.get_by_role("button", name="Turn it off").click()
    expect(page.get_by_role("button", name="Set it up")).to_be_visible()


def test_a_key_is_issued_shown_once_and_ended(open_as: Open) -> None:
    page = open_as("ida", "/set-up/keys")
    page.get_by_label("What is it for?").fill("The screens in the hall")
    page.get_by_role("checkbox", name="Facts").check()
    page.get_by_role("button", name="Issue", exact=True).click()
    expect(page.get_by_text("Keep this now; it is not shown again:")).to_be_visible()
    line = page.get_by_role("listitem").filter(has_text="The screens in the hall")
    expect(line).to_contain_text("release, facts")
    page.on("dialog", lambda dialog: dialog.accept())
    line.get_by_role("button", name="End it").click()
    expect(line).to_have_count(0)


def test_the_log_is_narrowed_to_a_person_and_leads_to_entries(open_as: Open) -> None:
    page = open_as("ida", "/set-up/log")
    page.get_by_role("combobox", name="Who", exact=True).select_option("rhea")
    page.get_by_role("combobox", name="What", exact=True).select_option("comment.")
    items = page.get_by_role("list", name="Event log").get_by_role("listitem")
    expect(items.first).to_contain_text("Rhea Calder")
    expect(page.get_by_text("Oda Brandt", exact=True).and_(page.locator("ol span"))).to_have_count(0)
    items.get_by_role("link", name=re.compile("The harbour lamp")).first.click()
    expect(page.get_by_role("heading", level=1, name="The harbour lamp")).to_be_visible()


def test_what_somebody_has_to_do_is_given_to_another_before_their_account_ends(
    running: Running, open_as: Open
) -> None:
    ida = running.as_("ida")
    handle = f"cora{uuid4().hex[:4]}"
    ida.invite_person(handle, "Cora Finch", f"{handle}@museum.example", [{"name": "writer"}])
    entry = running.notice(f"For {handle} to write")
    ida.assign(entry.id, "en", handle, due="2099-03-31")
    page = open_as("ida", "/set-up/people")
    line = page.get_by_role("listitem").filter(has_text=f"@{handle}")
    everybody = page.get_by_role("list", name="People").get_by_role("listitem")
    page.get_by_label("Find somebody").fill(f"FINCH {handle[:6].upper()}")
    expect(everybody).to_have_count(1)
    expect(line).to_be_visible()
    page.get_by_role("combobox", name="Role", exact=True).first.select_option("translator")
    expect(page.get_by_text("Nobody is found.")).to_be_visible()
    page.get_by_role("combobox", name="Role", exact=True).first.select_option("writer")
    line.get_by_role("button", name="Roles of Cora Finch").click()
    page.get_by_role("button", name="End account…").click()
    dialog = page.get_by_role("dialog", name="End the account of Cora Finch")
    expect(dialog.get_by_role("link", name=entry.title)).to_be_visible()
    dialog.get_by_label("Give it to").select_option(label="Nell Farrow")
    dialog.get_by_role("button", name="Reassign").click()
    expect(page.get_by_text("1 task is with Nell Farrow now.")).to_be_visible()
    expect(dialog.get_by_text("Nothing is open.")).to_be_visible()
    given = ida.entry(entry.id, "en").assignment
    assert given is not None
    assert (given.handle, given.due) == ("nell", "2099-03-31")
    dialog.get_by_role("button", name="End account", exact=True).click()
    expect(page.get_by_text("The account of Cora Finch is ended.")).to_be_visible()
    expect(line).to_have_count(0)
