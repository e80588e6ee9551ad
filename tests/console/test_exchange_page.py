"""What goes out and comes in, in a browser: a package made, fetched, given back, imported and undone; set-up compared and put in place."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from tests.conftest import Running, eventually
from tests.console.conftest import Open
from tests.console.test_console import said


def item(page: Page, name: str, region: str = "Packages") -> Locator:
    """The lines of files of a name, the last that came first: others may be there, given and made by other tests."""
    forget = page.get_by_role("button", name="Forget").or_(page.get_by_role("button", name="Break off"))
    return page.get_by_role("region", name=region).get_by_role("listitem").filter(has_text=name, has=forget)


def test_a_package_is_made_fetched_given_imported_and_undone(
    running: Running, open_as: Open, tmp_path: Path
) -> None:
    running.notice("Carried in a box")
    page = open_as("ida", "/set-up/in-and-out")
    page.get_by_role("checkbox", name="Notice").check()
    page.get_by_role("checkbox", name="With what they refer to").uncheck()
    had = {one.id for one in running.as_("ida").packages().items}
    page.get_by_role("button", name="Make a package").click()
    eventually(lambda: any(one.id not in had for one in running.as_("ida").packages().items))
    (name,) = (one.name for one in running.as_("ida").packages().items if one.id not in had)
    made = item(page, name).first
    expect(made).to_contain_text("Made by Ida")
    with page.expect_download() as fetched:
        made.get_by_role("link", name="Fetch").click()
    file = tmp_path / "notices.zip"
    fetched.value.save_as(file)
    with zipfile.ZipFile(file) as package:
        assert "Carried in a box" in package.read("entries.jsonl").decode()

    before = len(running.as_("ida").look_up("Carried in a box").items)
    page.get_by_role("checkbox", name="Under new ids").check()
    page.get_by_label("Choose a package…").set_input_files(file)
    given = item(page, "notices.zip")
    expect(given).to_contain_text("looked through")
    expect(given).to_contain_text("are new")
    assert len(running.as_("ida").look_up("Carried in a box").items) == before
    given.get_by_role("button", name="Import").click()
    undo = given.get_by_role("button", name="Undo")
    expect(undo).to_be_visible()
    assert len(running.as_("ida").look_up("Carried in a box").items) == before + 1
    undo.click()
    expect(given.get_by_text("undone", exact=True)).to_be_visible()
    assert len(running.as_("ida").look_up("Carried in a box").items) == before
    given.get_by_role("button", name="Forget").click()
    expect(given).to_have_count(0)
    made.get_by_role("button", name="Forget").click()
    expect(item(page, name)).to_have_count(0)


def test_what_is_no_package_is_said_to_be_none(open_as: Open, tmp_path: Path) -> None:
    page = open_as("ida", "/set-up/in-and-out")
    wrong = tmp_path / "wrong.zip"
    wrong.write_text("This is a letter.")
    page.get_by_label("Choose a package…").set_input_files(wrong)
    given = item(page, "wrong.zip")
    expect(given).to_contain_text("failed")
    expect(given.get_by_role("button", name="Import")).to_have_count(0)
    given.get_by_role("button", name="Forget").click()
    expect(given).to_have_count(0)


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


def test_a_table_is_mapped_looked_at_again_imported_and_undone_by_a_writer(
    running: Running, open_as: Open, tmp_path: Path
) -> None:
    file = tmp_path / "talks by hand.csv"
    file.write_text(
        "Name,What it is about,Held on\nRopes of the north,Bring one,2027-05-01\nBells,,2027-06-01\n"
    )
    page = open_as("wim", "/entries")
    page.get_by_role("link", name="Import…").click()
    expect(page.get_by_role("heading", name="Entries from tables and pages")).to_be_visible()
    page.get_by_label("As entries of the type").select_option("Talk")
    page.get_by_label("Choose a file…").set_input_files(file)
    one = item(page, "talks by hand.csv", "Files").first
    expect(one).to_contain_text("2 are new")
    expect(one.get_by_label("Where Name goes")).to_have_value("title")
    one.get_by_label("Where What it is about goes").select_option("Text")
    one.get_by_label("Where Held on goes").select_option("Day")
    one.get_by_role("button", name="Look again").click()
    expect(one.get_by_role("button", name="Look again")).to_have_count(0)
    expect(one.get_by_label("Where Held on goes")).to_have_value("day")
    one.get_by_label("Keep these columns as").fill("Our talks")
    one.get_by_role("button", name="Keep").click()
    said(page, "Kept as Our talks.")
    one.get_by_role("button", name="Import").click()
    undo = one.get_by_role("button", name="Undo")
    expect(undo).to_be_visible()
    (found,) = running.as_("wim").look_up("Ropes of the north").items
    assert running.as_("wim").entry(found.id, "en").fields["day"] == "2027-05-01"
    undo.click()
    expect(one.get_by_text("undone", exact=True)).to_be_visible()
    assert running.as_("wim").look_up("Ropes of the north").items == []
    # Another import that waits on this page asks what to keep its columns as.
    page.get_by_role("combobox", name="Columns", exact=True).select_option("Our talks")
    page.get_by_label("Choose a file…").set_input_files(file)
    expect(item(page, "talks by hand.csv", "Files")).to_have_count(2)
    expect(one.get_by_label("Where Held on goes")).to_have_value("day")
    running.as_("wim").drop_mapping("Our talks")


def test_a_list_is_fetched_as_a_table(open_as: Open, tmp_path: Path) -> None:
    page = open_as("wim", "/entries?type=talk")
    page.get_by_role("button", name="View").click()
    for format in ("CSV", "XLSX"):
        with page.expect_download() as fetched:
            page.get_by_role("link", name=format, exact=True).click()
        goal = tmp_path / f"list.{format}"
        fetched.value.save_as(goal)
        assert goal.read_bytes().startswith(
            b"PK" if format == "XLSX" else "\ufeffentry.id,entry.type".encode()
        )
