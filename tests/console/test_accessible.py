"""Every page of the console, and what opens on it, held to WCAG 2.2 AA by axe: in the light and the dark, wide and narrow."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from tests.conftest import Running, eventually
from tests.console.conftest import Open, go_into

pytestmark = pytest.mark.browser


def start(page: Page) -> None:
    page.get_by_role("button", name="Start an entry").click()
    expect(page.get_by_label("What is it?")).to_be_visible()


def plan(page: Page) -> None:
    page.get_by_role("button", name="Release or plan").click()
    page.get_by_label("At a time").check()
    expect(page.get_by_text("What goes")).to_be_visible()


def commission(page: Page) -> None:
    page.get_by_role("button", name="Translate").click()
    expect(page.get_by_text(re.compile("words in|nothing is missing")).first).to_be_visible()


def upload(page: Page) -> None:
    expect(page.get_by_role("textbox", name="Text")).to_be_visible()
    page.get_by_role("button", name="Upload a picture").first.click()
    expect(page.get_by_label("Name of the picture")).to_be_visible()


def keys(page: Page) -> None:
    page.keyboard.press("?")
    expect(page.get_by_text("Save a draft")).to_be_visible()


def history(page: Page) -> None:
    page.get_by_role("tab", name="History").click()
    expect(page.get_by_role("heading", name="What happened")).to_be_visible()


def narrow(page: Page) -> None:
    page.get_by_role("button", name="Narrow").click()
    expect(page.get_by_label("tagged")).to_be_visible()


def bulk(page: Page) -> None:
    # Whichever entry comes first: others are made all the time.
    page.get_by_role("checkbox", name=re.compile("^Choose (?!all that are shown)")).first.check()
    page.get_by_role("button", name="Submit").click()
    expect(page.get_by_text(re.compile("would be done"))).to_be_visible()


def fork(page: Page) -> None:
    page.get_by_role("button", name="Work beside the draft").click()
    expect(page.get_by_label("What is it for?")).to_be_visible()


def link(page: Page) -> None:
    page.get_by_role("button", name="Link", exact=True).click()
    page.get_by_label("Find an entry to link to").first.fill("bell")
    expect(page.get_by_role("option", name=re.compile("The fog bell"))).to_be_visible()


def field(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^Topics")).click()
    expect(page.get_by_label("Name for programs").last).to_be_visible()


def wide(page: Page) -> None:
    page.get_by_role("button", name="Wider editor").click()
    expect(page.get_by_role("button", name="Back to the form")).to_be_visible()


def compare(page: Page) -> None:
    page.get_by_role("tab", name="Compare").click()
    expect(page.locator("ins").first).to_be_visible()


def pane(page: Page) -> None:
    page.get_by_role("tab", name="Page", exact=True).click()
    expect(page.get_by_text("The page follows what you type")).to_be_visible()


def search_and_sharing(page: Page) -> None:
    page.get_by_role("tab", name="Search and sharing").click()
    expect(page.get_by_text("As a search shows it")).to_be_visible()


def links(page: Page) -> None:
    pane(page)
    page.get_by_role("button", name="Links for others").click()
    expect(page.get_by_role("button", name="Make a link")).to_be_visible()


def outline_move(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^Move Visit")).click()
    expect(page.get_by_label("Place it below")).to_be_visible()


def outline_start(page: Page) -> None:
    page.get_by_role("button", name="New page at the top").click()
    expect(page.get_by_label("What is it?")).to_be_visible()


def folder(page: Page) -> None:
    page.get_by_role("button", name="New folder").click()
    expect(page.get_by_label("Name of the folder")).to_be_visible()


def affected(page: Page) -> None:
    page.get_by_role("button", name="Release or plan").click()
    expect(page.get_by_text("that readers see change")).to_be_visible()


def gate(page: Page) -> None:
    page.get_by_role("button", name="Draft, review, facts, release").click()
    page.get_by_role("group", name="Stages").get_by_role("button", name="Facts").click()
    expect(page.get_by_role("heading", name="Gate before Facts")).to_be_visible()


def roles(page: Page) -> None:
    page.get_by_role("button", name="Roles of Hanne Voss").click()
    expect(page.get_by_role("dialog").get_by_text("Only in:").first).to_be_visible()


def ending(page: Page) -> None:
    page.get_by_role("button", name="Roles of Mina Solveig").click()
    page.get_by_role("button", name="End account…").click()
    expect(page.get_by_role("heading", name="What they have to do")).to_be_visible()
    expect(page.get_by_role("dialog").get_by_role("link").first).to_be_visible()


def grants(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^writer: write")).click()
    expect(page.get_by_role("dialog").get_by_text("Only entries that they started")).to_be_visible()


def told(page: Page) -> None:
    page.locator("button[aria-label^=Notifications]").click()
    expect(page.get_by_role("heading", name="Notifications")).to_be_visible()


def reassign(page: Page) -> None:
    page.get_by_role("tab", name="Now").click()
    page.get_by_role("button", name="Reassign").click()
    expect(page.get_by_label("Who gets it?")).to_be_visible()


def override(page: Page) -> None:
    page.get_by_role("tab", name="Now").click()
    page.get_by_role("button", name="Override the gate").click()
    expect(page.get_by_label("Why? The reason is kept.")).to_be_visible()


def naming(page: Page) -> None:
    page.get_by_role("tab", name="Comments").click()
    page.get_by_label("Comment on this entry").press_sequentially("@od")
    expect(page.get_by_role("option", name=re.compile("Oda Brandt"))).to_be_visible()


def undoing(page: Page) -> None:
    page.get_by_role("button", name="Undo what Copperleaf").click()
    # The museum's assistant wrote most of an hour ago, which may be yesterday.
    page.get_by_label("From when on").fill("yesterday 0:00")
    page.get_by_role("button", name="See what would change").click()
    expect(page.get_by_role("list", name="Places")).to_be_visible()


def pausing(page: Page) -> None:
    page.get_by_role("button", name="Pause Copperleaf").click()
    expect(page.get_by_role("dialog").get_by_label("Why?")).to_be_visible()


def marked(page: Page) -> None:
    page.get_by_role("button", name="Show which words").click()
    expect(page.locator("mark").first).to_be_visible()


def calendar(page: Page) -> None:
    page.get_by_role("button", name="Open the calendar").click()
    expect(page.get_by_role("grid", name="Calendar")).to_be_visible()


def no_day(page: Page) -> None:
    page.get_by_label("From").fill("32 March")
    expect(page.get_by_text("This cannot be read as a day")).to_be_visible()


def quiet_period(page: Page) -> None:
    page.get_by_role("button", name="New quiet period…").click()
    dialog = page.get_by_role("dialog", name="Add a quiet period")
    dialog.get_by_label("How often").select_option("own")
    dialog.get_by_label("Why").fill("Nobody is in")
    dialog.get_by_role("textbox", name="Until").fill("in two days 9")
    page.keyboard.press("Tab")
    expect(dialog.get_by_role("status")).to_be_visible()


def webhook(page: Page) -> None:
    page.get_by_role("button", name="New webhook…").click()
    expect(page.get_by_role("dialog", name="Add a webhook").get_by_label("Address")).to_be_visible()


def webhook_log(page: Page) -> None:
    page.get_by_role("button", name="What was sent The public site").click()
    expect(page.get_by_role("region", name="What was sent")).to_be_visible()


def more(page: Page) -> None:
    page.get_by_role("button", name="More actions").click()
    expect(page.get_by_role("button", name="Make a template of it")).to_be_visible()


def headings(page: Page) -> None:
    page.get_by_role("button", name="Heading").first.click()
    expect(page.get_by_role("button", name="Heading 4")).to_be_visible()


def box(page: Page) -> None:
    page.keyboard.press("Control+k")
    page.get_by_role("dialog").get_by_role("combobox").fill("release fog bell")
    expect(page.get_by_role("option").first).to_contain_text("Release or plan")


def helped(page: Page) -> None:
    page.get_by_role("button", name="Help for this page").click()
    expect(page.get_by_role("complementary", name="Help").get_by_role("link").first).to_be_visible()


def compared_here(page: Page) -> None:
    page.get_by_role("button", name="Compare: The pilot boat Constance").click()
    expect(page.get_by_role("button", name="Send back…")).to_be_visible()


def view(page: Page) -> None:
    page.get_by_role("button", name="View", exact=True).click()
    expect(page.get_by_role("radio", name="Close together")).to_be_visible()


def panes(page: Page) -> None:
    page.get_by_role("button", name="Where this stands").click()
    expect(page.get_by_role("button", name="Below the text")).to_be_visible()


def put_in(page: Page) -> None:
    go_into(page.locator("#field-body"))
    page.keyboard.press("Enter")
    page.keyboard.type("/")
    expect(page.get_by_role("option", name="Heading 2")).to_be_visible()


def as_tables(page: Page) -> None:
    page.get_by_role("button", name="As a table").first.click()
    expect(page.get_by_role("columnheader", name="Week of")).to_be_visible()


def behind_number(page: Page) -> None:
    page.get_by_role("region", name="How long").get_by_role("button", name="Draft", exact=False).last.click()
    expect(page.get_by_role("dialog").get_by_role("link").first).to_be_visible()


def month(page: Page) -> None:
    page.get_by_role("button", name="Month", exact=True).click()
    expect(page.get_by_role("columnheader", name="Wed")).to_be_visible()


def week(page: Page) -> None:
    page.get_by_role("button", name="Week", exact=True).click()
    expect(page.get_by_role("columnheader", name="Wed")).to_be_visible()


def spread(page: Page) -> None:
    boxes = page.get_by_role("table").get_by_role("checkbox")
    for n in (1, 2):
        boxes.nth(n).check()
    page.get_by_role("button", name="One after another…").click()
    dialog = page.get_by_role("dialog", name="one after another")
    dialog.get_by_role("textbox", name="Leave out a day").fill("in three days")
    page.keyboard.press("Tab")
    expect(dialog.get_by_role("list", name="Days that are left out")).to_be_visible()
    expect(dialog.get_by_role("button", name="Move ").first).to_be_visible()


def subscribing(page: Page) -> None:
    page.get_by_role("button", name="Subscribe…").click()
    dialog = page.get_by_role("dialog", name="Calendars to subscribe to")
    dialog.get_by_role("button", name="New address").last.click()
    expect(dialog.get_by_role("list", name="Your calendars")).to_be_visible()


def begun(page: Page) -> None:
    page.get_by_role("button", name="New dispatch…").click()
    expect(page.get_by_role("dialog", name="Start a dispatch")).to_be_visible()


def retimed(page: Page) -> None:
    page.get_by_role("button", name="Another time…").click()
    expect(page.get_by_label("Day and time")).to_be_visible()


def described(page: Page) -> None:
    expect(page.get_by_role("heading", name="What is in the way")).to_be_visible()
    page.get_by_role("button", name="Change…").click()
    expect(page.get_by_label("Who answers for it")).to_be_visible()


def undone(page: Page) -> None:
    page.get_by_role("button", name="Undo…").click()
    expect(page.get_by_role("heading", name="What goes back")).to_be_visible()


def added(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^Add “Visit” to a dispatch")).click()
    expect(page.get_by_label("With all that lies below")).to_be_visible()


def elsewhen(page: Page) -> None:
    page.get_by_role("button", name="Look at another instant").click()
    bar = page.get_by_role("region", name="The instant that is shown")
    bar.get_by_label("At").fill("in three days 9")
    page.keyboard.press("Enter")
    expect(bar.get_by_role("button", name="Back to now")).to_be_visible()


def signing(page: Page) -> None:
    page.get_by_role("button", name="Sign off all").click()
    expect(page.get_by_role("dialog", name="Sign off “Boats in spring”")).to_be_visible()


def setting(page: Page) -> None:
    page.get_by_role("button", name="More actions").click()
    page.get_by_role("button", name="Change fields at a time…").click()
    dialog = page.get_by_role("dialog", name="Change fields at a time")
    dialog.get_by_role("checkbox", name="Title", exact=True).check()
    expect(dialog.get_by_role("textbox", name="Title", exact=True)).to_be_visible()


def covered(page: Page) -> None:
    page.get_by_role("tab", name="Coverage").click()
    expect(page.get_by_role("link", name="not there").first).to_be_visible()
    # Any that can be chosen: an entry that another test began may be written in the first of the languages, where nothing is to translate.
    page.get_by_role("checkbox", name=" into ", disabled=False).first.check()
    expect(page.get_by_role("button", name="Translate…")).to_be_visible()


def counted(page: Page) -> None:
    expect(page.get_by_role("table", name="Before it is sent").get_by_text("EUR").first).to_be_visible()


def due(page: Page) -> None:
    page.get_by_role("tab", name="Translations").click()
    expect(page.get_by_role("button", name="It still fits").first).to_be_visible()


def remembered(page: Page) -> None:
    page.get_by_role("tab", name="Memories").click()
    page.get_by_role("button", name="Imports").click()
    expect(page.get_by_role("button", name="Undo Labels and signs.tmx")).to_be_visible()
    # Once the list has what was asked for: the line that is changed would else be gone while it is.
    with page.expect_response(lambda answer: "/sentences" in answer.url and "words=" in answer.url):
        page.get_by_label("Words in either language").fill("a lock and its key")
    expect(page.get_by_text("lock and its key").first).to_be_visible()
    page.get_by_role("button", name="Change").first.click()
    expect(page.get_by_role("button", name="Save", exact=True)).to_be_visible()


def looked_after(page: Page) -> None:
    page.get_by_role("tab", name="Glossaries").click()
    page.get_by_role("button", name="Look after…").click()
    expect(page.get_by_role("dialog").get_by_label("Whose it is")).to_be_visible()


def standing(page: Page) -> None:
    page.get_by_role("tab", name="Commissions").click()
    page.get_by_role("button", name="New standing commission…").click()
    page.get_by_role("dialog").get_by_label("Français").check()


def called(page: Page) -> None:
    page.get_by_role("tab", name="Glossaries").click()
    # Others may have made one that comes first.
    museums = page.locator("option", has_text="The museum's words").first
    expect(museums).to_be_attached()
    page.locator("select", has=museums).select_option(value=museums.get_attribute("value"))
    page.get_by_role("button", name="Change keeper").click()
    expect(page.get_by_label("Term 1", exact=True)).to_have_value("keeper")


def sentence(page: Page) -> None:
    page.get_by_role("button", name="Translate sentence 5,").click()
    expect(page.get_by_role("textbox", name=re.compile("Translation of"))).to_be_visible()
    page.get_by_role("button", name="Send back…").click()
    page.get_by_role("button", name="Keys").click()


def assigned_job(page: Page) -> None:
    page.get_by_role("button", name="Assign…").click()
    expect(page.get_by_label("Who does it")).to_be_visible()


Walk = tuple[str, str, tuple[Callable[[Page], None], ...]]
WALKS: dict[str, Walk] = {
    "my work": ("oda", "/", (keys, told, box, compared_here, helped)),
    "entries": ("ida", "/entries", (view, narrow, bulk, elsewhen)),
    "start": ("wim", "/entries", (start,)),
    "entry": (
        "wim",
        "/entries/{lamp}/en",
        (history, search_and_sharing, link, naming, links, panes, put_in, wide),
    ),
    "entry out": ("ida", "/entries/{boat}/en", (plan, commission, setting)),
    "compared": ("wim", "/entries/{boat}/en", (compare, fork)),
    "arabic": ("sami", "/entries/{winter}/ar", ()),
    "timetable": ("ida", "/timetable", (week, month, begun)),
    "differences": ("ida", "/differences", ()),
    "spread": ("ida", "/entries?type=label", (spread,)),
    "calendars": ("ida", "/timetable", (subscribing,)),
    "dispatch": ("ida", "/timetable/{regatta}", (retimed,)),
    "open dispatch": ("ida", "/timetable/{boats}", (described, signing)),
    "dispatch that went": ("ida", "/timetable/{sundays}", (undone,)),
    "adding": ("oda", "/outline", (added,)),
    "translation": ("mina", "/translation", (covered, remembered, called, looked_after, standing)),
    "due": ("ida", "/entries/{lamp}/fr", (due,)),
    "commission": ("mina", "/translation/commissions/{spring}", (counted,)),
    "job": ("luc", "/translation/{job}", ()),
    "job in work": ("mina", "/translation/{german}", (assigned_job,)),
    "table": ("luc", "/translation/{job}/table", (sentence,)),
    "blocks": ("ida", "/entries/{rocks}/en", (override,)),
    "strand": ("wim", "/entries/{lamp}/en/strands/Shorter", (headings,)),
    "by an assistant": ("tomas", "/entries/{tide}/en", (marked,)),
    "proposal": ("wim", "/entries/{lamp}/en/strands/Spring%20wording/proposal", ()),
    "compare": ("ida", "/entries/{lamp}/en/compare?before=release&after=draft", ()),
    "set-up": ("ida", "/set-up", ()),
    "type": ("ida", "/set-up/types/label", (field,)),
    "field set": ("ida", "/set-up/field-sets/desk", ()),
    "rows": ("oda", "/entries/{visit}/en", ()),
    "picture": ("nell", "/entries/{bell}/en", ()),
    "picture missing": ("wim", "/entries/{coat}/en", (upload,)),
    "assigned": ("oda", "/entries/{fog}/en", (reassign, more)),
    "common block": ("ida", "/entries/{finding}/en", (affected,)),
    "outline": ("ida", "/outline", (outline_move, outline_start)),
    "library": ("nell", "/library", (folder,)),
    "preview": ("ida", "/preview/{visit}/en?beside=draft", ()),
    "figures": ("ida", "/figures", (as_tables, behind_number)),
    "sites": ("ida", "/set-up/sites", ()),
    "search and sharing": ("wim", "/search-and-sharing", ()),
    "comments": ("wim", "/entries/{lamp}/en?comment=first", ()),
    "workflows": ("ida", "/set-up/workflows", (gate,)),
    "quiet periods": ("ida", "/set-up/quiet-periods", (quiet_period,)),
    "bureaus": ("ida", "/set-up/bureaus", ()),
    "import": ("wim", "/entries/import", ()),
    "in and out": ("ida", "/set-up/in-and-out", ()),
    "webhooks": ("ida", "/set-up/webhooks", (webhook, webhook_log)),
    "people": ("ida", "/set-up/people", (roles, ending, grants)),
    "keys": ("ida", "/set-up/keys", (calendar, pausing, undoing)),
    "log-ins": ("ida", "/set-up/log-ins", (no_day,)),
    "log": ("ida", "/set-up/log", (no_day,)),
    "account": ("wim", "/account", ()),
}
"""Each page by who looks at it, and what they open there, one after another."""
TITLES = {
    "bell": "Fog bell",
    "boat": "The pilot boat Constance",
    "coat": "A keeper's oilskin coat",
    "finding": "How to find us",
    "fog": "The fog bell",
    "lamp": "The harbour lamp",
    "rocks": "Seven ways to mark a rock",
    "tide": "Tide walks in spring",
    "visit": "Visit",
    "winter": "Winter opening hours",
}


def address(running: Running, path: str) -> str:
    """A path with the ids of what it names."""
    ida = running.as_("ida")
    others: dict[str, Callable[[], str]] = {
        "regatta": lambda: next(d.id for d in ida.dispatches().items if d.name == "Regatta day"),
        "boats": lambda: ida.dispatches(state="open").items[-1].id,
        "sundays": lambda: next(d.id for d in ida.dispatches().items if d.name == "Undo: No free Sundays"),
        "spring": lambda: ida.commissions(state="open").items[-1].id,
        "job": lambda: next(j.id for j in ida.jobs().items if j.name == "Lights and Signals in French"),
        "german": lambda: next(
            j.id for j in ida.jobs().items if j.name == "First Sundays" and j.locale == "de"
        ),
    }

    def id_of(found: re.Match[str]) -> str:
        name = found[1]
        return others[name]() if name in others else running.id(TITLES[name])

    return re.sub(r"{(\w+)}", id_of, path)


def faults(page: Page, where: str = "", **asked: object) -> list[str]:
    """What axe finds, by all its rules or by some, on a page or in a part; what stands in a frame is the site's, not ours."""
    page.evaluate("Promise.allSettled(document.getAnimations().map((one) => one.finished))")
    # Targets of 24 px and more (WCAG 2.2, 2.5.8) are looked at only when they are asked for.
    rules = {"target-size": {"enabled": True}}
    # Style sheets and sounds are not fetched anew for each look: no rule that is on needs the ones, and nothing plays the others by itself.
    usual = {"iframes": False, "resultTypes": ["violations"], "rules": rules, "preload": False}
    # Half a megabyte of rules is read once a page, not before each look at it.
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE)
    found = page.evaluate(RUN, [where or None, {**usual, **asked}])
    return [
        f"{v['id']}: {v['nodes'][0]['html'][:160]} {v['nodes'][0].get('failureSummary', '')[:200]}"
        for v in found
    ]


AXE = Axe().axe_script
RUN = "([where, asked]) => axe.run(where ?? document, asked).then((found) => found.violations)"
DARK = "(dark) => document.documentElement.classList.toggle('dark', dark)"
CONTRAST = {"runOnly": {"type": "rule", "values": ["color-contrast"]}}
SEEN = "window.seen = new WeakSet([...document.querySelectorAll('*')].filter((one) => one.checkVisibility()))"
FRESH = """() => {
  const fresh = [...document.body.querySelectorAll('*')].filter((one) => one.checkVisibility() && !window.seen.has(one));
  for (const one of fresh) if (!fresh.includes(one.parentElement)) one.setAttribute('data-fresh', '');
  return fresh.length;
}"""


FOCUS = """() => {
  const all = document.querySelectorAll("a[href], button, input, select, textarea, [tabindex='0'], [contenteditable=true]");
  const lost = [];
  for (const one of all) {
    if (!one.checkVisibility({ visibilityProperty: true }) || one.disabled || one.tabIndex < 0) continue;
    one.focus({ focusVisible: true });
    const said = `${one.tagName} ${one.getAttribute("aria-label") ?? one.textContent.trim().slice(0, 40)}`;
    if (document.activeElement !== one) { lost.push(`not reached: ${said}`); continue; }
    const rings = [one, one.parentElement].some((part) => {
      const style = getComputedStyle(part);
      return (style.outlineStyle !== "none" && parseFloat(style.outlineWidth) > 0) || style.boxShadow.includes("rgb");
    });
    const field = one.matches("input, select, textarea, [contenteditable=true]");
    if (!rings && !(field && getComputedStyle(one).borderColor)) lost.push(`not seen: ${said}`);
  }
  document.activeElement?.blur();
  return lost;
}"""


def opened_faults(page: Page, act: Callable[[Page], None]) -> list[str]:
    """What axe finds, by all its rules, in what is opened and was not to be seen before; on the page as a whole where nothing is
    new to it, and only something else is said."""
    page.evaluate(SEEN)
    act(page)
    found = faults(page, "[data-fresh]" if page.evaluate(FRESH) else "")
    page.evaluate(
        "document.querySelectorAll('[data-fresh]').forEach((one) => one.removeAttribute('data-fresh'))"
    )
    return found


def fits(page: Page, width: int, how: str) -> None:
    """Whether a page is no wider than its window, once drawings have found their size again: they hear of it a frame later, or more where a machine is busy."""
    page.evaluate("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
    found = eventually(lambda: page.evaluate("document.documentElement.scrollWidth") <= width)
    assert found, how


@pytest.mark.parametrize("name", WALKS)
def test_a_page_and_what_opens_on_it_have_no_accessibility_faults_and_fit_a_narrow_screen(
    running: Running, open_as: Open, name: str
) -> None:
    who, path, acts = WALKS[name]
    page = open_as(who, address(running, path), reduced_motion="reduce")
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    expect(page.get_by_role("status", name="Loading…")).to_have_count(0)
    assert faults(page) == []
    page.evaluate(DARK, True)
    assert faults(page, **CONTRAST) == [], "in the dark, where the colours alone are others"
    page.evaluate(DARK, False)
    for act in acts:
        assert opened_faults(page, act) == [], act.__name__
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
    lost = page.evaluate(FOCUS)
    assert lost == [], "where the focus is lost, or cannot be seen"
    # Twice as large is half as wide: what a browser does with its zoom.
    page.set_viewport_size({"width": 640, "height": 400})
    fits(page, 640, "twice as large")
    page.set_viewport_size({"width": 1280, "height": 800})
    page.evaluate("document.documentElement.dir = 'rtl'")
    fits(page, 1280, "from right to left")
    page.set_viewport_size({"width": 390, "height": 800})
    fits(page, 390, "narrow, from right to left")
    page.evaluate("document.documentElement.dir = 'ltr'")
    fits(page, 390, "narrow")
    page.get_by_role("button", name="Menu").click()
    expect(page.get_by_role("navigation", name="Main").get_by_role("link", name="Timetable")).to_be_visible()
