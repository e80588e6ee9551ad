"""What goes out and comes in, in a browser: a package made, fetched, given back, imported and undone; set-up compared and put in place."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from tests.conftest import Running
from tests.console.conftest import Open
from tests.console.test_console import said


def first(page: Page) -> Locator:
    """The package that came last."""
    return page.get_by_role("region", name="Packages").get_by_role("listitem").first


def test_a_package_is_made_fetched_given_imported_and_undone(
    running: Running, open_as: Open, tmp_path: Path
) -> None:
    running.notice("Carried in a box")
    page = open_as("ida", "/set-up/in-and-out")
    page.get_by_role("checkbox", name="Notice").check()
    page.get_by_role("checkbox", name="With what they refer to").uncheck()
    page.get_by_role("button", name="Make a package").click()
    expect(first(page)).to_contain_text("Made by Ida")
    with page.expect_download() as fetched:
        first(page).get_by_role("link", name="Fetch").click()
    file = tmp_path / "notices.zip"
    fetched.value.save_as(file)
    with zipfile.ZipFile(file) as package:
        assert "Carried in a box" in package.read("entries.jsonl").decode()

    before = len(running.as_("ida").look_up("Carried in a box").items)
    page.get_by_role("checkbox", name="Under new ids").check()
    page.get_by_label("Choose a package…").set_input_files(file)
    expect(first(page)).to_contain_text("looked through")
    expect(first(page)).to_contain_text("are new")
    assert len(running.as_("ida").look_up("Carried in a box").items) == before
    first(page).get_by_role("button", name="Import").click()
    undo = first(page).get_by_role("button", name="Undo")
    expect(undo).to_be_visible()
    assert len(running.as_("ida").look_up("Carried in a box").items) == before + 1
    undo.click()
    expect(first(page).get_by_text("undone", exact=True)).to_be_visible()
    assert len(running.as_("ida").look_up("Carried in a box").items) == before
    first(page).get_by_role("button", name="Forget").click()
    expect(first(page)).to_contain_text("Made by Ida")
    first(page).get_by_role("button", name="Forget").click()
    expect(page.get_by_text("notices.zip")).to_have_count(0)


def test_what_is_no_package_is_said_to_be_none(open_as: Open, tmp_path: Path) -> None:
    page = open_as("ida", "/set-up/in-and-out")
    wrong = tmp_path / "wrong.zip"
    wrong.write_text("This is a letter.")
    page.get_by_label("Choose a package…").set_input_files(wrong)
    expect(first(page)).to_contain_text("failed")
    expect(first(page).get_by_role("button", name="Import")).to_have_count(0)
    first(page).get_by_role("button", name="Forget").click()
    expect(page.get_by_text("wrong.zip")).to_have_count(0)


def test_set_up_is_compared_and_put_in_place(running: Running, open_as: Open, tmp_path: Path) -> None:
    page = open_as("ida", "/set-up/in-and-out")
    with page.expect_download() as fetched:
        page.get_by_role("link", name="Fetch this house's").click()
    file = tmp_path / "set-up.json"
    fetched.value.save_as(file)
    choose = page.get_by_label("Compare with another…")
    choose.set_input_files(file)
    said(page, "Everything is here already, just so.")
    document = json.loads(file.read_text())
    document["roles"].append({**document["roles"][0], "name": "proofreader"})
    file.write_text(json.dumps(document))
    choose.set_input_files(file)
    said(page, "One thing differs.")
    expect(page.get_by_role("list", name="Set-up as a document")).to_contain_text("proofreader is new")
    page.get_by_role("button", name="Put it in place").click()
    said(page, "It is in place.")
    assert "proofreader" in [role.name for role in running.as_("ida").roles().items]
    document["roles"][-1]["grants"] = "everything"
    file.write_text(json.dumps(document))
    choose.set_input_files(file)
    expect(page.get_by_text("input should be a valid list")).to_be_visible()
    expect(page.get_by_role("button", name="Put it in place")).to_have_count(0)
