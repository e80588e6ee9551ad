"""Tables and pages by command line: looked through, imported, mapped, undone; lists as tables."""

from __future__ import annotations

import csv
import json
from collections.abc import Callable
from pathlib import Path

import openpyxl
import pytest
from typer.testing import Result

from tests.cli.test_cli import run as run
from tests.conftest import Running

Run = Callable[..., Result]


def test_a_table_is_imported_its_mapping_kept_and_what_it_brought_undone(
    running: Running, run: Run, tmp_path: Path
) -> None:
    file = tmp_path / "talks.csv"
    file.write_text("Title,Day,Key\nOakum at dusk,2027-05-01,1\nOakum at dawn,soon,2\n")
    seen = run("import", str(file), "--type", "talk", "--check").output
    assert "Day" in seen
    assert "One is new" in seen or "one is new here" in seen
    assert "Oakum at dawn" in seen, "what cannot be brought is named"
    assert not running.as_("wim").look_up("Oakum at dusk").items
    assert "No mapping is kept" in run("mapping", "list").output
    done = run("import", str(file), "--type", "talk", "--keep", "oakum", "--yes").output
    assert "Imported: 1 new" in done
    assert running.as_("wim").look_up("Oakum at dusk").items
    assert "oakum" in run("mapping", "list").output
    kept = json.loads(run("mapping", "show", "oakum").output)
    assert kept["type"] == "talk"
    kept["columns"] = [one for one in kept["columns"] if one["to"] != "day"]
    changed = tmp_path / "changed.json"
    changed.write_text(json.dumps(kept))
    run("mapping", "keep", "oakum", str(changed))
    again = json.loads(run("import", str(file), "--mapping", "oakum", "--yes", "--json").output)
    assert (again["report"]["added"], again["report"]["same"], again["report"]["left"]) == (1, 1, 0)
    for _ in range(2):
        (newest, *_) = json.loads(run("package", "list", "--json").output)["items"]
        run("package", "undo", newest["id"])
        run("package", "drop", newest["id"])
    assert not running.as_("wim").look_up("Oakum at dusk").items
    run("mapping", "drop", "oakum")
    run("import", str(file), "--mapping", "oakum", "--yes", code=3)


def test_a_folder_of_pages_is_sent_as_one(running: Running, run: Run, tmp_path: Path) -> None:
    folder = tmp_path / "pages"
    (folder / "deeper").mkdir(parents=True)
    (folder / "one.md").write_text("# Mooring one\n\nSee [two](deeper/two.html).\n")
    (folder / "deeper" / "two.html").write_text(
        "<title>Mooring two</title><main><p>Back to <a href='../one.md'>one</a>.</p></main>"
    )
    (folder / "notes.txt").write_text("not sent")
    done = run("import", str(folder), "--type", "note", "--yes").output
    assert "Imported: 2 new" in done
    one, two = (running.as_("wim").look_up(title).items[0].id for title in ("Mooring one", "Mooring two"))
    assert f'href="urn:uuid:{two}"' in running.as_("wim").entry(one, "en").fields["body"]
    (newest, *_) = json.loads(run("package", "list", "--json").output)["items"]
    run("package", "undo", newest["id"])


def test_what_is_for_packages_is_not_for_tables(run: Run, tmp_path: Path) -> None:
    file = tmp_path / "t.csv"
    file.write_text("Title\nx\n")
    assert "--new-ids" in run("import", str(file), "--new-ids", code=5).output
    assert "cannot be read as a mapping" in run("import", str(file), "--mapping", str(file), code=5).output


@pytest.mark.parametrize(
    ("command", "who", "column"),
    [
        (("find", "--type", "talk"), "wim", "entry.id"),
        (("dispatch", "list", "--all"), "ida", "state"),
        (("job", "list"), "mina", "locale"),
        (("events",), "ida", "kind"),
    ],
    ids=["entries", "dispatches", "jobs", "events"],
)
def test_a_list_goes_out_as_a_table(
    run: Run, tmp_path: Path, command: tuple[str, ...], who: str, column: str
) -> None:
    table, book = tmp_path / "list.csv", tmp_path / "list.xlsx"
    run(*command, "--sheet", str(table), who=who)
    run(*command, "--sheet", str(book), who=who)
    with table.open(encoding="utf-8-sig", newline="") as file:
        lines = list(csv.reader(file))
    page = openpyxl.load_workbook(book).active
    assert column in lines[0]
    assert [str(cell.value) for cell in next(page.iter_rows())] == lines[0]
    assert len(lines) > 1
    assert {len(line) for line in lines} == {len(lines[0])}
    run(*command, "--sheet", str(tmp_path / "list.txt"), who=who, code=5)
