"""A dispatch in a browser: put together from a list and from an entry, planned, opened again, sent, and undone."""

from __future__ import annotations

import re
from datetime import datetime, timedelta

import httpx
from playwright.sync_api import expect

from tests.conftest import Running, eventually
from tests.console.conftest import Open
from tests.console.test_console import said


def test_a_dispatch_is_put_together_from_where_entries_are_met(running: Running, open_as: Open) -> None:
    first, second = running.signed("Buoys north"), running.notice("Buoys south")
    page = open_as("wim", "/entries?words=Buoys")
    for one in (first, second):
        page.get_by_role("checkbox", name=re.compile(one.title)).check()
    page.get_by_role("region", name="What to do with what is chosen").get_by_role(
        "button", name="Add to a dispatch…"
    ).click()
    dialog = page.get_by_role("dialog", name="Add 2 entries to a dispatch")
    dialog.get_by_label("Which one").select_option("")
    dialog.get_by_label("Name").fill("All buoys")
    dialog.get_by_role("button", name="Add", exact=True).click()
    said(page, "“All buoys” has 2 moves now.")
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_role("heading", name="All buoys", level=1)).to_be_visible()
    # Who only writes sees what is in the way, and has no act that lets it go.
    expect(page.get_by_role("region", name="What is in the way")).to_contain_text("Buoys south")
    expect(page.get_by_role("button", name="Send now")).to_have_count(0)
    page.get_by_role("button", name="Take “Buoys south” out").click()
    expect(page.get_by_text("Nothing blocks it.")).to_be_visible()
    # By mistake: it is put in again with one act.
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("region", name="What is in the way")).to_contain_text("Buoys south")
    page.get_by_role("button", name="Take “Buoys south” out").click()
    expect(page.get_by_text("Nothing blocks it.")).to_be_visible()


def test_what_a_dispatch_needs_is_put_in_one_by_one_and_taken_out_again(
    running: Running, open_as: Open
) -> None:
    person = running.as_("ida").start("person", {"title": "Ada Fathom"})
    body = f'<p>Lent by <a href="urn:uuid:{person.id}">somebody</a>.</p>'
    entry = running.signed("Sounding line", body=body)
    made = running.as_("ida").dispatch([{"id": entry.id, "locale": "en"}], name="Soundings", open=True)
    page = open_as("ida", f"/timetable/{made.id}")
    needed = page.get_by_role("region", name="It needs, and does not carry yet")
    needed.get_by_role("button", name="Put in: Ada Fathom (en)").click()
    expect(page.get_by_text("Nothing blocks it.")).to_be_visible()
    expect(needed).to_have_count(0)
    page.get_by_role("button", name="Take “Ada Fathom” out").click()
    expect(needed).to_contain_text("Ada Fathom")
    running.as_("ida").cancel_dispatch(made.id)


def test_what_is_released_is_what_was_shown_whatever_was_saved_since(running: Running, open_as: Open) -> None:
    ida = running.as_("ida")
    person = ida.start("person", {"title": "Bo Sounder"})
    page = open_as("ida", f"/entries/{person.id}/en")
    page.get_by_role("button", name="Release or plan").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("revision 1").first).to_be_visible()
    # What is looked at again does not come back in time.
    page.route("**/api/dispatches/check", lambda route: None)
    running.as_("nell").save(person.id, "en", {"title": "Bo Sounding"}, etag=person.etag)
    dialog.get_by_role("button", name="Release now").click()
    expect(dialog).to_have_count(0)
    assert ida.entry(person.id, "en").rail[-1].revision == 1
    page.unroute("**/api/dispatches/check")


def test_a_dispatch_is_planned_opened_again_sent_and_undone(running: Running, open_as: Open) -> None:
    entry = running.signed("Lock gates")
    made = running.as_("wim").dispatch([{"id": entry.id, "locale": "en"}], name="Locks", open=True)
    page = open_as("ida", "/timetable")
    page.get_by_role("region", name="Being put together").get_by_role("link", name="Locks").click()
    page.get_by_role("button", name="Plan…").click()
    dialog = page.get_by_role("dialog", name="Plan “Locks”")
    dialog.get_by_label("Day and time").fill("in two weeks 9")
    dialog.get_by_role("button", name="Plan it").click()
    said(page, "“Locks” is planned.")
    expect(page.get_by_text("planned", exact=True).first).to_be_visible()
    first = running.as_("ida").dispatch_shown(made.id).wall
    page.get_by_role("button", name="Another time…").click()
    dialog = page.get_by_role("dialog", name="Another time for “Locks”")
    dialog.get_by_label("Day and time").fill("in three weeks 10")
    dialog.get_by_role("button", name="Move it").click()
    said(page, "“Locks” has another time.")
    assert running.as_("ida").dispatch_shown(made.id).wall > first
    page.get_by_role("button", name="Undo", exact=True).last.click()
    eventually(lambda: running.as_("ida").dispatch_shown(made.id).wall == first)
    page.get_by_role("button", name="Open again").click()
    expect(page.get_by_text("being put together", exact=True)).to_be_visible()
    page.get_by_role("button", name="Send now").click()
    said(page, "“Locks” has gone.")
    assert running.as_("ida").read(entry.id).title == "Lock gates"
    page.get_by_role("button", name="Undo…").click()
    dialog = page.get_by_role("dialog", name="Undo “Locks”")
    expect(dialog).to_contain_text("revision 1 → nothing")
    dialog.get_by_label("Why (optional)").fill("Too early.")
    dialog.get_by_role("button", name="Undo it").click()
    expect(page.get_by_role("heading", name="Undo: Locks", level=1)).to_be_visible()
    page.get_by_role("link", name="It undoes another dispatch").click()
    expect(page.get_by_text("undone", exact=True)).to_be_visible()
    assert running.as_("ida").dispatch_shown(made.id).state == "undone"
    assert running.as_("ida").entry(entry.id, "en").rail[-1].revision is None


def test_what_can_go_is_sent_and_the_rest_says_why_it_was_held_until_it_goes_too(
    running: Running, open_as: Open
) -> None:
    ready, late = running.signed("Capstan"), running.notice("Windlass")
    moves = [{"id": one.id, "locale": "en"} for one in (ready, late)]
    made = running.as_("ida").dispatch(moves, name="On deck", open=True, partial=True)
    page = open_as("ida", f"/timetable/{made.id}")
    in_the_way = page.get_by_role("region", name="What is in the way")
    expect(in_the_way).to_contain_text("The rest goes without it.")
    page.get_by_role("button", name="Send now").click()
    said(page, "“On deck” has gone.")
    assert running.as_("ida").read(ready.id).title == "Capstan"
    page.get_by_role("link", name="See what was held back").click()
    page.get_by_role("link", name="It keeps what was in the way when another dispatch went").click()
    expect(page.get_by_role("heading", name="On deck", exact=True)).to_be_visible()
    page.get_by_role("link", name="Timetable").first.click()
    page.get_by_role("link", name="Held back: On deck").click()
    expect(in_the_way).to_contain_text("sign-off")
    again = page.get_by_role("button", name="Send it after all")
    expect(again).to_be_disabled()
    running.as_("wim").submit(late.id, "en", "Ready.")
    running.as_("tomas").sign_off(late.id, "en", 1)
    expect(page.get_by_text("Nothing is in its way any more")).to_be_visible()
    expect(page.get_by_role("listitem").filter(has_text="Windlass (en): ")).to_contain_text("sign-off")
    again.click()
    said(page, "“Held back: On deck” has gone.")
    assert running.as_("ida").read(late.id).title == "Windlass"


def test_what_is_planned_is_moved_to_another_day_by_keys_and_by_hand(running: Running, open_as: Open) -> None:
    entry = running.signed("Dredging")
    moves = [{"id": entry.id, "locale": "en"}]
    when = {"wall": "2031-05-14T09:00", "zone": "Europe/London"}
    made = running.as_("ida").dispatch(moves, when=when, name="Dredged").id
    page = open_as("ida", "/timetable")
    page.get_by_role("button", name="Month", exact=True).click()
    for _ in range(2031 * 12 + 4 - (datetime.now().year * 12 + datetime.now().month - 1)):
        page.get_by_role("button", name="The month after").click()
    expect(page.get_by_role("heading", name="May 2031")).to_be_visible()
    cell = page.get_by_role("cell", name=re.compile("14 May 2031"))
    line = cell.get_by_role("link", name="09:00 Dredged")
    expect(line).to_be_visible()
    line.focus()
    page.keyboard.press("Alt+ArrowRight")
    dialog = page.get_by_role("dialog", name="Move “Dredged”")
    expect(dialog).to_contain_text("15 May 2031, 09:00 (Europe/London)")
    expect(dialog).to_contain_text("Nothing blocks it.")
    dialog.get_by_role("button", name="Move it").click()
    expect(
        page.get_by_role("cell", name=re.compile("15 May 2031")).get_by_role("link", name="09:00 Dredged")
    ).to_be_visible()
    assert running.as_("ida").dispatch_shown(made).wall.startswith("2031-05-15T09:00")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(line).to_be_visible()
    # What is carried over the edge of the window is let go there.
    onto = page.get_by_role("cell", name=re.compile("20 May 2031"))
    onto.scroll_into_view_if_needed()
    line.drag_to(onto)
    dialog.get_by_role("button", name="Move it").click()
    expect(
        page.get_by_role("cell", name=re.compile("20 May 2031")).get_by_role("link", name="09:00 Dredged")
    ).to_be_visible()
    # And it is remembered how the timetable is shown.
    page.reload()
    expect(page.get_by_role("button", name="The month after")).to_be_visible()


def test_a_quiet_period_is_added_holds_what_is_planned_and_is_overridden_by_who_may(
    running: Running, open_as: Open
) -> None:
    entry = running.signed("Slipway")
    page = open_as("ida", "/set-up/quiet-periods")
    page.get_by_role("button", name="New quiet period…").click()
    dialog = page.get_by_role("dialog", name="Add a quiet period")
    dialog.get_by_label("Why").fill("The slipway is painted.")
    for label, moment in (("From", "1 March 2031 8:00"), ("Until", "2 March 2031 8:00")):
        dialog.get_by_role("textbox", name=label).fill(moment)
        page.keyboard.press("Tab")
    expect(dialog.get_by_role("status")).to_contain_text("Nothing is released from Sat 1 Mar 2031, 08:00")
    dialog.get_by_role("button", name="Save").click()
    said(page, "“The slipway is painted.” is saved.")
    expect(page.get_by_role("list", name="Quiet periods")).to_contain_text("The slipway is painted.")
    for who, may in (("jonas", False), ("ida", True)):
        desk = open_as(who, f"/entries/{entry.id}/en")
        desk.get_by_role("button", name="Release or plan…").click()
        dialog = desk.get_by_role("dialog", name="Release")
        dialog.get_by_label("At a time").check()
        dialog.get_by_role("textbox", name="Day and time").fill("1 March 2031 12:00")
        desk.keyboard.press("Tab")
        expect(dialog).to_contain_text("It would go in a quiet period (The slipway is painted.)")
        expect(dialog.get_by_role("button", name="Plan it")).to_be_disabled()
        override = dialog.get_by_label("Release in the quiet period all the same.")
        expect(override).to_have_count(int(may))
        if may:
            override.check()
            expect(dialog).to_contain_text("Nothing blocks it.")
            dialog.get_by_role("button", name="Plan it").click()
            said(desk, "Planned for Sat 1 Mar 2031, 12:00.")
    page.goto(f"{running.url}/set-up/quiet-periods")
    page.get_by_role("button", name="End The slipway is painted.").click()
    said(page, "“The slipway is painted.” is ended.")
    expect(page.get_by_text("The slipway is painted.", exact=True)).to_have_count(0)
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("list", name="Quiet periods")).to_contain_text("The slipway is painted.")
    page.get_by_role("button", name="End The slipway is painted.").click()


def test_the_timetable_is_narrowed_shown_by_week_and_subscribed_to(running: Running, open_as: Open) -> None:
    entry = running.signed("Buoy paint")
    day = running.soon() + timedelta(days=200)
    when = {"wall": f"{day:%Y-%m-%d}T09:00", "zone": "Europe/London"}
    running.as_("ida").dispatch([{"id": entry.id, "locale": "en"}], when=when, name="Buoys painted")
    page = open_as("ida", "/timetable")
    planned = page.get_by_role("region", name="Planned")
    expect(planned).to_contain_text("Buoys painted")
    page.get_by_label("Language").select_option("ja")
    expect(planned).not_to_contain_text("Buoys painted")
    page.get_by_role("button", name="Show all").click()
    page.get_by_label("Content type").select_option("notice")
    expect(planned).to_contain_text("Buoys painted")
    page.get_by_role("button", name="Subscribe…").click()
    dialog = page.get_by_role("dialog", name="Calendars to subscribe to")
    expect(dialog).to_contain_text("It shows what the timetable is narrowed to now.")
    dialog.get_by_label("Name").fill("Notices")
    dialog.get_by_role("button", name="New address").click()
    address = dialog.locator("code").text_content() or ""
    read = httpx.get(address)
    assert read.headers["content-type"] == "text/calendar; charset=utf-8"
    assert "SUMMARY:Buoys painted" in read.text
    assert httpx.get(address, headers={"If-None-Match": read.headers["etag"]}).status_code == 304
    dialog.get_by_role("button", name="End Notices").click()
    expect(dialog.get_by_text("Notices", exact=True)).to_have_count(0)
    assert httpx.get(address).status_code == 404
    dialog.get_by_role("button", name="Close", exact=True).last.click()
    page.get_by_role("button", name="Day", exact=True).click()
    page.get_by_role("button", name="The day after").click()
    page.get_by_role("button", name="Today").click()
    page.get_by_role("button", name="Week", exact=True).click()
    expect(page.get_by_role("columnheader")).to_have_count(7)


def test_an_end_is_planned_in_the_same_step(running: Running, open_as: Open) -> None:
    entry = running.signed("Ice warning")
    page = open_as("jonas", f"/entries/{entry.id}/en")
    page.get_by_role("button", name="Release or plan…").click()
    dialog = page.get_by_role("dialog", name="Release")
    dialog.get_by_label("At a time").check()
    dialog.get_by_role("textbox", name="Day and time").fill("in two days 9")
    page.keyboard.press("Tab")
    dialog.get_by_label("Name (optional)").fill("Ice")
    dialog.get_by_label("Withdraw it again later").check()
    expect(dialog.get_by_role("button", name="Plan it")).to_be_disabled()
    dialog.get_by_role("textbox", name="Out until").fill("in three days 9")
    page.keyboard.press("Tab")
    dialog.get_by_role("button", name="Plan it").click()
    expect(dialog).to_have_count(0)
    planned = running.as_("ida").entry(entry.id, "en").planned
    assert [(one.verb, one.name) for one in planned] == [("release", "Ice"), ("withdraw", "End: Ice")]
    for one in planned:
        running.as_("ida").cancel_dispatch(one.dispatch)


def test_entries_go_one_after_another_in_the_order_that_is_chosen(running: Running, open_as: Open) -> None:
    for name in ("one", "two", "three"):
        running.signed(f"Door {name}")
    page = open_as("ida", "/entries?words=Door&type=notice")
    for name in ("one", "two", "three"):
        page.get_by_role("checkbox", name=re.compile(f"Door {name}")).check()
    page.get_by_role("button", name="One after another…").click()
    dialog = page.get_by_role("dialog", name="3 entries, one after another")
    dialog.get_by_role("textbox", name="The first one").fill("1 April 2031 9:00")
    page.keyboard.press("Tab")
    expect(dialog).to_contain_text("Thu 3 Apr 2031, 09:00")
    dialog.get_by_role("textbox", name="Leave out a day").fill("2 April 2031")
    page.keyboard.press("Tab")
    expect(dialog).to_contain_text("Fri 4 Apr 2031, 09:00")
    dialog.get_by_role("button", name="Move Door one").press("ArrowDown")
    expect(dialog.get_by_role("listitem").filter(has_text="Door one")).to_contain_text("Thu 3 Apr 2031")
    dialog.get_by_label("Name (optional)").fill("Doors")
    dialog.get_by_role("button", name="Plan them").click()
    said(page, "3 releases are planned.")
    found = [
        d for d in running.as_("ida").dispatches(since="2031-01-01", limit=500).items if "Doors" in d.name
    ]
    assert [(d.name, d.wall) for d in found] == [
        ("Doors 1/3", "2031-04-01T09:00"),
        ("Doors 2/3", "2031-04-03T09:00"),
        ("Doors 3/3", "2031-04-04T09:00"),
    ]
    assert [d.moves[0].title for d in found][1] == "Door one"
    page.get_by_role("button", name="Undo", exact=True).click()
    eventually(lambda: {running.as_("ida").dispatch_shown(d.id).state for d in found} == {"cancelled"})


def test_what_will_be_different_is_listed_and_compared(running: Running, open_as: Open) -> None:
    out = running.out("Tide table")
    wim = running.as_("wim")
    wim.save(out.id, "en", {"body": "<p>High water at noon.</p>"}, etag=wim.entry(out.id, "en").etag)
    wim.submit(out.id, "en")
    number = wim.entry(out.id, "en").revision.number
    running.as_("tomas").sign_off(out.id, "en", number)
    when = {"instant": (running.soon() + timedelta(days=2)).isoformat()}
    made = running.as_("ida").dispatch([{"id": out.id, "locale": "en"}], when=when, name="Tides")
    page = open_as("wim", "/timetable")
    page.get_by_role("link", name="What changes…").click()
    changes = page.get_by_role("region", name="Changes")
    expect(changes.get_by_role("listitem").filter(has_text="Tide table").first).to_be_visible()
    page.get_by_role("textbox", name="Until").fill("tomorrow 9")
    page.keyboard.press("Tab")
    expect(page.get_by_role("link", name="Tide table", exact=True)).to_have_count(0)
    page.get_by_role("textbox", name="Until").fill("in one week 9")
    page.keyboard.press("Tab")
    page.get_by_role("link", name=re.compile("Revision 1 → 2")).first.click()
    expect(page.get_by_role("heading", name="Compare")).to_be_visible()
    running.as_("ida").cancel_dispatch(made.id)


def test_a_page_is_written_inside_a_dispatch_reviewed_with_it_and_seen_as_it_will_be(
    running: Running, open_as: Open
) -> None:
    entry = running.signed("Breakwater")
    running.as_("ida").dispatch([{"id": entry.id, "locale": "en"}])
    page = open_as("wim", f"/entries/{entry.id}/en")
    page.get_by_role("button", name="More").click()
    page.get_by_role("button", name="Write in a dispatch…").or_(
        page.get_by_role("menuitem", name="Write in a dispatch…")
    ).click()
    dialog = page.get_by_role("dialog", name="Write in a dispatch")
    dialog.get_by_label("Which one").select_option("")
    dialog.get_by_label("Name").fill("Breakwater season")
    dialog.get_by_role("button", name="Write", exact=True).click()
    there = page.get_by_role("link", name="Goes out with “Breakwater season”")
    expect(there).to_be_visible()
    page.get_by_label("Title", exact=True).fill("Breakwater, rebuilt")
    page.get_by_role("button", name="Save draft").click()
    said(page, "Saved")
    # It is seen there, and nowhere else.
    page.get_by_role("tab", name="Page", exact=True).click()
    expect(page.frame_locator("iframe").get_by_role("heading", name="Breakwater, rebuilt")).to_be_visible()
    assert running.as_("ida").read(entry.id).title == "Breakwater"
    assert running.as_("ida").entry(entry.id, "en").title == "Breakwater"
    there.click()
    expect(page.get_by_role("region", name="What goes")).to_contain_text("written inside")
    page.get_by_role("button", name="Submit for review").click()
    dialog = page.get_by_role("dialog", name="Submit “Breakwater season” for review")
    dialog.get_by_role("button", name="Submit for review").click()
    said(page, "“Breakwater season” is submitted for review.")
    reviewer = open_as("oda", "/")
    reviewer.get_by_role("listitem").filter(has_text="Breakwater season").get_by_role(
        "link", name="Look at it"
    ).click()
    reviewer.get_by_role("button", name="Sign off all").click()
    dialog = reviewer.get_by_role("dialog", name="Sign off “Breakwater season”")
    expect(dialog).to_contain_text("Breakwater")
    dialog.get_by_role("button", name="Sign off all").click()
    expect(dialog).to_be_hidden()
    expect(reviewer.get_by_text("Nothing blocks it.")).to_be_visible()
    expect(reviewer.get_by_role("region", name="Review")).to_contain_text("Signed off by Oda Brandt")
    # What they say to one another of all of it.
    talk = reviewer.get_by_role("region", name="Comments")
    talk.get_by_label("Comment on this dispatch").fill("@ida Shall it go today?")
    talk.get_by_role("button", name="Comment").click()
    said(reviewer, "Your comment is there for everybody who sees this dispatch.")
    editor = open_as("ida", "/")
    asked = editor.get_by_role("listitem").filter(has_text="Shall it go today?")
    asked.get_by_role("link", name="Breakwater season").click()
    talk = editor.get_by_role("region", name="Comments")
    talk.get_by_label("Reply to Oda Brandt").fill("Now.")
    talk.get_by_role("button", name="Reply").click()
    expect(reviewer.get_by_role("region", name="Comments")).to_contain_text("Now.")
    talk.get_by_role("button", name="Resolve").click()
    expect(talk.get_by_text("Shall it go today?")).to_be_visible()
    expect(talk).to_contain_text("Resolved by Ida Marlow")
    editor.get_by_role("button", name="Send now").click()
    said(editor, "“Breakwater season” has gone.")
    happened = editor.get_by_role("region", name="What happened").get_by_role("listitem")
    expect(happened.first).to_contain_text("Ida Marlow ran a dispatch")
    expect(happened.filter(has_text="Oda Brandt signed off what a dispatch brings")).to_have_count(1)
    assert running.as_("ida").read(entry.id).title == "Breakwater, rebuilt"
    assert running.as_("ida").entry(entry.id, "en").title == "Breakwater, rebuilt", "and it is in the draft"


def test_what_went_out_meanwhile_is_brought_into_what_is_written_inside_with_a_choice_for_what_both_changed(
    running: Running, open_as: Open
) -> None:
    entry = running.signed("Groyne")
    running.as_("ida").dispatch([{"id": entry.id, "locale": "en"}])
    made = running.as_("wim").dispatch([], open=True, name="Groyne season").id
    strand = running.as_("wim").write_inside(made, entry.id, "en").strand
    wim = running.as_("wim")
    there = wim.entry(entry.id, "en", strand=strand)
    wim.save(entry.id, "en", {"title": "Groyne, in spring"}, etag=there.etag, strand=strand)
    now = wim.entry(entry.id, "en")
    wim.save(entry.id, "en", {"title": "Groyne, mended"}, etag=now.etag)
    wim.submit(entry.id, "en")
    running.as_("oda").sign_off(entry.id, "en", 3)
    running.as_("ida").dispatch([{"id": entry.id, "locale": "en"}])
    page = open_as("wim", f"/timetable/{made}", expect=("412",))
    page.get_by_role("region", name="What is in the way").get_by_role(
        "button", name="Bring in what is out"
    ).click()
    dialog = page.get_by_role("dialog", name="Bring what is out into “Groyne, mended”")
    expect(dialog).to_contain_text("Groyne, mended")
    dialog.get_by_role("radio", name="What is out").check()
    dialog.get_by_role("button", name="Save the choice").click()
    said(page, "holds what is out as well")
    assert running.as_("wim").entry(entry.id, "en", strand=strand).title == "Groyne, mended"


def test_the_whole_console_stands_at_another_instant_and_goes_back_to_now(
    running: Running, open_as: Open
) -> None:
    entry = running.signed("Tide board")
    when = {"wall": "2031-05-14T09:00", "zone": "Europe/London"}
    running.as_("ida").dispatch([{"id": entry.id, "locale": "en"}], when=when)
    page = open_as("ida", "/entries?type=notice")
    bar = page.get_by_role("region", name="The instant that is shown")
    page.get_by_role("button", name="Look at another instant").click()
    bar.get_by_label("At").fill("15.5.2031 9:00")
    page.keyboard.press("Enter")
    expect(bar).to_contain_text("As it will be: Thu, 15 May 2031, 09:00")
    expect(page.get_by_role("button", name="Start an entry")).to_have_count(0)
    page.get_by_role("link", name="Tide board").first.click()
    expect(page.get_by_text("Release 1")).to_be_visible()
    for act in ("Save draft", "Release or plan", "Submit for review", "More actions"):
        expect(page.get_by_role("button", name=act)).to_have_count(0)
    expect(page.get_by_label("Title", exact=True)).to_have_attribute("readonly", "")
    # It stays there over a reload, and one act goes back.
    page.reload()
    expect(bar).to_be_visible()
    bar.get_by_label("At").fill("13.5.2031 9:00")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Release 1")).to_have_count(0)
    bar.get_by_role("button", name="Back to now").click()
    expect(bar).to_have_count(0)
    expect(page.get_by_role("button", name="Save draft")).to_be_visible()


def test_an_entry_is_put_into_the_archive_found_there_and_brought_back(
    running: Running, open_as: Open
) -> None:
    entry = running.notice("Old tide table")
    page = open_as("ida", f"/entries/{entry.id}/en")
    page.get_by_role("button", name="More").click()
    page.get_by_text("Archive…", exact=True).click()
    dialog = page.get_by_role("dialog", name="Archive")
    dialog.get_by_role("button", name="Archive now").click()
    expect(page.get_by_text("In the archive since")).to_be_visible()
    expect(page.get_by_role("button", name="Save draft")).to_have_count(0)
    page.goto(f"{running.url}/entries?words=Old+tide+table")
    expect(page.get_by_text("Old tide table")).to_have_count(0)
    page.goto(f"{running.url}/entries?words=Old+tide+table&archived=only")
    page.get_by_role("link", name="Old tide table").click()
    page.get_by_role("button", name="Bring back").click()
    expect(page.get_by_text("In the archive since")).to_have_count(0)
    expect(page.get_by_role("button", name="Save draft")).to_be_visible()


def test_fields_are_changed_at_a_time_by_a_dispatch_of_their_own(running: Running, open_as: Open) -> None:
    entry = running.signed("Lock keeper")
    running.as_("ida").dispatch([{"id": entry.id, "locale": "en"}])
    page = open_as("ida", f"/entries/{entry.id}/en")
    page.get_by_role("button", name="More").click()
    page.get_by_text("Change fields at a time…", exact=True).click()
    dialog = page.get_by_role("dialog", name="Change fields at a time")
    dialog.get_by_role("checkbox", name="Title", exact=True).check()
    dialog.get_by_role("textbox", name="Title", exact=True).fill("Lock keeper, summer")
    dialog.get_by_label("Day and time").fill("in two weeks 9")
    dialog.get_by_role("button", name="Put it into a dispatch").click()
    expect(page.get_by_role("heading", name="Change Lock keeper", level=1)).to_be_visible()
    expect(page.get_by_role("region", name="What goes")).to_contain_text("Lock keeper, summer")
    expect(page.get_by_role("region", name="What is in the way")).to_contain_text("sign-off")
