"""The tour: ten steps over the pages that they are about, which can be left at any."""

from __future__ import annotations

from playwright.sync_api import expect

from hawthorn.demo.museum import HOUSE
from tests.conftest import Running
from tests.console.conftest import Open
from tests.console.test_accessible import faults

STEPS = (
    ("What waits for you", "/"),
    ("Everything there is", "/entries"),
    ("An entry, and its form", "/entries/"),
    ("Exactly what was approved", "/"),
    ("It goes out on time", "/timetable"),
    ("Into every language", "/translation"),
    ("Pages as a tree", "/outline"),
    ("Pictures and files", "/library"),
    ("How the work goes", "/figures"),
    ("The house, as you want it", "/set-up"),
)


def test_somebody_new_takes_the_tour_goes_back_leaves_it_and_takes_it_again(
    running: Running, open_as: Open
) -> None:
    assert HOUSE.people[3][0] == "wim"
    page = open_as("wim", "/")
    page.get_by_role("button", name="Take the tour").click()
    card = page.get_by_role("region", name="Tour")
    for n, (head, path) in enumerate(STEPS, 1):
        expect(card.get_by_role("heading", name=head)).to_be_focused()
        expect(card).to_contain_text(f"Step {n} of 10")
        at = page.url.removeprefix(running.url)
        assert at.startswith(path) if path.endswith("s/") else at == path
        assert n not in (1, 5) or faults(page) == []
        card.get_by_role("button", name="Next" if n < 10 else "End").click()
    expect(card).to_be_hidden()
    # It is not offered again, and taken from the help; what is loaded anew goes on where it was.
    page.goto(running.url)
    page.get_by_text("Connected").wait_for()
    expect(page.get_by_text("New here?")).to_have_count(0)
    page.get_by_role("button", name="Help").click()
    page.get_by_role("button", name="Take the tour").click()
    card.get_by_role("button", name="Next").click()
    expect(card).to_contain_text("Step 2 of 10")
    page.reload()
    expect(card).to_contain_text("Step 2 of 10")
    card.get_by_role("button", name="Back").click()
    expect(card.get_by_role("heading", name="What waits for you")).to_be_focused()
    page.keyboard.press("Escape")
    expect(card).to_be_hidden()


def test_whoever_wants_no_tour_says_so_once(running: Running, open_as: Open) -> None:
    page = open_as("wim", "/")
    page.get_by_role("button", name="Not now").click()
    expect(page.get_by_text("New here?")).to_have_count(0)
    page.reload()
    page.get_by_text("Connected").wait_for()
    expect(page.get_by_text("New here?")).to_have_count(0)
