"""Entries from tables and pages: looked through, brought, brought again and merged, broken off and gone on with, undone."""

from __future__ import annotations

import gc
import io
import json
import random
import tempfile
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import openpyxl
import pytest
from PIL import Image

from hawthorn.client import Client, Refusal
from hawthorn.core.errors import HawthornError, InTheWay, Refused
from hawthorn.core.exchange import sheet
from hawthorn.core.exchange.rows import csv_table
from hawthorn.operations.access import people, permission
from hawthorn.operations.content import entries, strands
from hawthorn.operations.exchange import bringing_rows, mappings, packages, sheets
from hawthorn.operations.exchange.report import RowsWish, Wish
from hawthorn.operations.runtime.act import View, new_uuid
from hawthorn.operations.search.finding import Query
from hawthorn.store import entries as entry_store
from hawthorn.store import revisions
from hawthorn.store.exchange import Exchange
from tests.conftest import Running
from tests.exchange.made import trouble, work
from tests.service.made import House

TABLE = 'key,Title,Text,Tags\n1,Knots,Bring a rope.,"rope; hands"\n2,Fog,An evening.,fog\n3,Swell,,\n'
MAPPING = {
    "type": "page",
    "locale": "en",
    "columns": [
        {"column": "key", "to": "entry.key", "between": ""},
        {"column": "Title", "to": "title", "between": ""},
        {"column": "Text", "to": "body", "between": ""},
    ],
    "pictures": "",
}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    try:
        yield made
        assert trouble(made.desk) == []
    finally:
        made.close()


def give(house: House, data: str | bytes, name: str = "talks.csv", by: str = "wim", **wish: Any) -> str:
    """Rows that were given, and not yet looked through."""
    uuid = new_uuid(house.clock.now())
    packages.folder(house.desk).mkdir(exist_ok=True)
    path = packages.file_of(house.desk, uuid)
    path.write_bytes(data.encode() if isinstance(data, str) else data)
    asked = RowsWish(**wish)
    house.do(by, lambda act: packages.start_rows(act, uuid, name, 1, packages.format_of(name, path), asked))
    return uuid


def looked(
    house: House, data: str | bytes, name: str = "talks.csv", by: str = "wim", **wish: Any
) -> tuple[str, dict[str, Any]]:
    uuid = give(house, data, name, by, **wish)
    found = work(house.desk, uuid)
    assert found.state == "looked", found.trouble
    return uuid, json.loads(found.report)


def brought(
    house: House, data: str | bytes, name: str = "talks.csv", by: str = "wim", **wish: Any
) -> tuple[str, dict[str, Any]]:
    """Rows that were looked through and brought: their id and what came of them, which is what was said before."""
    uuid, seen = looked(house, data, name, by, **wish)
    house.do(by, lambda act: packages.run(act, uuid))
    done = work(house.desk, uuid)
    assert done.state == "done", done.trouble
    report = json.loads(done.report)
    assert counts(report) == counts(seen), "what was said first is what came of it"
    return uuid, report


def counts(report: dict[str, Any]) -> dict[str, int]:
    return {name: report[name] for name in ("added", "merged", "asked", "same", "left")}


def undone(house: House, uuid: str, by: str = "wim") -> Exchange:
    house.do(by, lambda act: packages.undo(act, uuid))
    found = work(house.desk, uuid)
    assert found.state == "undone", found.trouble
    return found


def drafts(house: House, type: str = "page") -> dict[str, str]:
    """The drafts of a type: their ids by title."""
    with house.desk.db.read() as conn:
        found = conn.execute(
            "SELECT s.title, e.uuid FROM summary s JOIN entry e ON e.id = s.entry WHERE e.type = ? AND s.locale = 'en' AND e.removed_at IS NULL",
            (type,),
        ).fetchall()
    return dict(found)


def fields(house: House, uuid: str, locale: str = "en", strand: str = "draft") -> dict[str, Any]:
    def look(view: View) -> dict[str, Any]:
        found: dict[str, Any] = {}
        for where in ("*", locale):
            edition = entry_store.edition(view.conn, permission.find(view, uuid).id, where, strand)
            if edition is not None and edition.head is not None:
                found |= revisions.content(view.conn, edition.head).fields
        return found

    return house.desk.read(house.who("ida"), look)


def save(house: House, uuid: str, by: str = "oda", locale: str = "en", **values: Any) -> None:
    base = house.desk.read(house.who(by), lambda view: entries.base_now(view, uuid, locale))
    house.do(by, lambda act: entries.save(act, uuid, locale, values, base))


# -- bringing ----------------------------------------------------------------------------------------------------------------


def test_a_table_becomes_drafts_by_a_mapping_that_is_proposed(house: House) -> None:
    _, report = brought(house, TABLE, type="page")
    assert counts(report) == {"added": 3, "merged": 0, "asked": 0, "same": 0, "left": 0}
    assert {one["column"]: one["to"] for one in report["mapping"]["columns"]} == {
        "key": "entry.key", "Title": "title", "Text": "body", "Tags": "",
    }  # fmt: skip
    found = drafts(house)
    assert fields(house, found["Knots"])["body"] == "<p>Bring a rope.</p>"
    assert "body" not in fields(house, found["Swell"])
    assert not any(house.standing(uuid) for uuid in found.values()), "nothing comes in at a stage"
    with house.desk.db.read() as conn:
        notes = [n for (n,) in conn.execute("SELECT note FROM revision WHERE note LIKE 'From%' ORDER BY id")]
    assert notes[:2] == ["From talks.csv, 2"] * 2, "each revision says which line it is from"


def test_the_same_table_again_changes_nothing_and_one_line_more_is_one_entry_more(house: House) -> None:
    brought(house, TABLE, mapping=MAPPING)
    with house.desk.db.read() as conn:
        before = conn.execute("SELECT count(*) FROM revision").fetchone()
    _, report = brought(house, TABLE, mapping=MAPPING)
    assert counts(report)["same"] == 3
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM revision").fetchone() == before
    _, report = brought(house, TABLE + "4,Tide,,\n", mapping=MAPPING)
    assert (counts(report)["same"], counts(report)["added"]) == (3, 1)


def test_what_a_table_changed_is_merged_with_what_people_changed_since(house: House) -> None:
    brought(house, TABLE, mapping=MAPPING)
    found = drafts(house)
    save(house, found["Knots"], body="<p>Bring a long rope.</p>")
    save(house, found["Fog"], body="<p>A long evening.</p>")
    new = TABLE.replace("Knots", "Knots and bends").replace("An evening.", "A short night.")
    uuid, report = brought(house, new, mapping=MAPPING)
    assert counts(report) == {"added": 0, "merged": 1, "asked": 1, "same": 1, "left": 0}
    merged = fields(house, found["Knots"])
    assert (merged["title"], merged["body"]) == ("Knots and bends", "<p>Bring a long rope.</p>")
    assert fields(house, found["Fog"])["body"] == "<p>A long evening.</p>", "nobody's words are written over"
    assert fields(house, found["Fog"], strand="From talks.csv")["body"] == "<p>A short night.</p>"
    proposal = house.desk.read(
        house.who("ida"), lambda view: strands.propose(view, found["Fog"], "en", "From talks.csv")
    )
    assert proposal.still_open == ["body"]
    assert [one["id"] for one in report["named"]] == [found["Fog"]]
    _, again = brought(house, new, mapping=MAPPING)
    assert counts(again)["same"] == 3, "what was merged once is not merged again"
    assert fields(house, found["Knots"])["body"] == "<p>Bring a long rope.</p>"
    undone(house, uuid)
    assert fields(house, found["Knots"])["title"] == "Knots"
    with house.desk.db.read() as conn:
        strand = conn.execute("SELECT ended FROM strand WHERE name = 'From talks.csv'").fetchall()
    assert {one for (one,) in strand} == {"dropped"}


def test_a_row_says_what_it_was_made_from_and_is_merged_from_there(house: House) -> None:
    uuid = house.page("Knots", body="<p>One two three four.</p>")
    base = house.desk.read(house.who("wim"), lambda view: entries.base_now(view, uuid, "en"))
    save(house, uuid, body="<p>One two three five.</p>")
    revision = "r" + base.etag.strip('"')
    head = "entry.id,entry.revision,title,body\n"
    _, report = brought(house, f"{head}{uuid},{revision},Bends,<p>Zero two three four.</p>\n", type="page")
    assert counts(report)["merged"] == 1
    assert fields(house, uuid)["body"] == "<p>Zero two three five.</p>"
    _, report = looked(house, f"{head}{uuid},r999-1,Bends,x\n", type="page")
    assert counts(report)["left"] == 1


def test_a_row_in_another_locale_is_a_translation_of_the_entry(house: House) -> None:
    house.speaks(fr="French")
    table = "key,entry.locale,title\n1,en,Knots\n1,fr,Nœuds\n1,fr,Encore\n2,xx,X\n"
    uuid, report = brought(house, table, by="ida", type="page")
    assert (report["added"], report["merged"], report["left"]) == (1, 0, 2)
    assert fields(house, drafts(house)["Knots"], "fr")["title"] == "Nœuds"
    assert "same entry as 3" in report["named"][0]["why"]
    undone(house, uuid, "ida")
    assert drafts(house) == {}


def test_a_row_that_cannot_be_brought_is_left_and_says_why_and_the_others_come(house: House) -> None:
    table = "entry.id,title,below\n01a1a01e-802a-748b-a703-06d75330613b,A,\n,B,Nowhere\n,C,\n,D,C\n"
    columns = [
        {"column": "entry.id", "to": "entry.id"},
        {"column": "title", "to": "title"},
        {"column": "below", "to": "below"},
    ]
    _, report = brought(house, table, mapping={"type": "page", "locale": "en", "columns": columns})
    assert (report["added"], report["left"]) == (2, 2)
    whys = [one["why"] for one in report["named"]]
    assert "No entry here has the id" in whys[0]
    assert "names nothing that is here" in whys[1]
    found = drafts(house)
    assert fields(house, found["D"])["below"] == found["C"], "a row may name one before it"


def test_formulas_come_in_as_the_words_that_they_are(house: House) -> None:
    cells = ["=1+1", "'=1+1", "+49 40", "-5", "@x", "\tx"]
    lines = "".join(csv_table.line_of([cell]) for cell in ["title", *cells])
    brought(house, lines, type="page")
    assert sorted(drafts(house)) == sorted(one.strip() for one in cells)


def test_pages_lead_to_one_another_and_bring_their_pictures(house: House) -> None:
    picture = io.BytesIO()
    Image.new("RGB", (30, 20), "teal").save(picture, "PNG")
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w") as archive:
        archive.writestr(
            "index.md", "---\ntitle: Start\n---\nSee [tides](notes/tides.md) and [more](gone.md)."
        )
        archive.writestr(
            "notes/tides.md",
            "# Tides\n\nBack to [start](../index.md#top).\n\n![High water](high_water.png) ![x](bad.png) ![y](gone.png)",
        )
        archive.writestr("notes/high_water.png", picture.getvalue())
        archive.writestr("notes/bad.png", b"no picture")
    uuid, report = brought(house, made.getvalue(), "site.zip", type="page")
    assert (report["added"], report["files"], report["cleaned"]) == (3, 1, 2)
    found, shown = drafts(house), drafts(house, "picture")
    assert (
        fields(house, found["Start"])["body"]
        == f'<p>See <a href="urn:uuid:{found["Tides"]}">tides</a> and <a href="gone.md">more</a>.</p>'
    )
    body = fields(house, found["Tides"])["body"]
    assert f'<a href="urn:uuid:{found["Start"]}">start</a>' in body
    assert body.count("<img") == 1
    assert f'<img src="urn:uuid:{shown["high water"]}">' in body
    assert fields(house, shown["high water"])["alt"] == "High water"
    whys = {one["title"]: one["why"] for one in report["named"]}
    assert "gone.md, which does not come along" in whys["Start"]
    assert whys["Tides"].count("is left out") == 2
    _, again = brought(house, made.getvalue(), "site.zip", type="page")
    assert (again["added"], again["same"]) == (0, 2)
    undone(house, uuid)
    assert (drafts(house), drafts(house, "picture")) == ({}, {})


def test_scripts_in_pages_go_and_that_is_said(house: House) -> None:
    page = "# Page\n\n<script>alert(1)</script>\n\nWords <b onclick=x>bold</b> [bad](javascript:alert(1))"
    _, report = brought(house, page, "page.md", type="page")
    assert (
        fields(house, drafts(house)["Page"])["body"]
        == "<p>Words <strong>bold</strong> [bad](javascript:alert(1))</p>"
    )
    assert report["cleaned"] == 1
    assert "a script" in report["named"][0]["why"]


# -- undoing, breaking off -----------------------------------------------------------------------------------------------------


def test_undoing_leaves_what_somebody_wrote_in_since(house: House) -> None:
    uuid, _ = brought(house, TABLE, mapping=MAPPING)
    save(house, drafts(house)["Fog"], title="Fog, heard")
    report = json.loads(undone(house, uuid).report)
    assert list(drafts(house)) == ["Fog, heard"]
    assert [one["title"] for one in report["named"]] == ["Fog, heard"]
    _, again = looked(house, TABLE, mapping=MAPPING)
    assert (again["added"], again["merged"] + again["same"]) == (2, 1), "what was taken out is known no more"


@pytest.mark.parametrize("seed", range(6))
def test_what_is_broken_off_anywhere_goes_on_exactly_there(
    house: House, seed: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(bringing_rows, "AT_ONCE", 2)
    chance = random.Random(seed)
    # Without a key: nothing but where it was broken off says which lines are here.
    lines = "".join(f"Line {n},{'=' * (n % 4 == 3)}x\n" for n in range(13))
    columns = [{"column": "t", "to": "title"}, {"column": "d", "to": "body"}]
    uuid, _ = looked(house, "t,d\n" + lines, mapping={"type": "page", "locale": "en", "columns": columns})
    house.do("wim", lambda act: packages.run(act, uuid))
    for _ in range(200):
        left = chance.randrange(1, 4)

        def goes_on() -> bool:
            nonlocal left
            left -= 1
            return left >= 0

        found = work(house.desk, uuid, goes_on)
        if found.state == "done":
            break
        if chance.random() < 0.3:
            house.do("wim", lambda act: packages.cancel(act, uuid))
            house.do("wim", lambda act: packages.run(act, uuid))
    assert found.state == "done"
    assert sorted(drafts(house)) == sorted(f"Line {n}" for n in range(13))
    assert json.loads(found.report)["added"] == 13


def test_rows_come_in_while_people_write(house: House) -> None:
    brought(house, TABLE, mapping=MAPPING)
    found = drafts(house)
    uuid, _ = looked(house, TABLE.replace("Knots", "Bends"), mapping=MAPPING)
    house.do("wim", lambda act: packages.run(act, uuid))
    save(house, found["Knots"], body="<p>Written while it waited.</p>")
    assert work(house.desk, uuid).state == "done"
    now = fields(house, found["Knots"])
    assert (now["title"], now["body"]) == ("Bends", "<p>Written while it waited.</p>")


@pytest.mark.parametrize(
    ("data", "name", "says"),
    [
        ("a,b\n1,2,3\n", "x.csv", "Line 2 has 3 cells"),
        (b"PK\x03\x04cut", "x.zip", "cannot be read"),
        ("---\na: [\n---\n", "x.md", "front matter"),
    ],
)
def test_a_file_that_cannot_be_read_brings_nothing(
    house: House, data: str | bytes, name: str, says: str
) -> None:
    found = work(house.desk, give(house, data, name, type="page"))
    assert found.state == "failed"
    assert says in found.trouble
    assert drafts(house) == {}


# -- who may -----------------------------------------------------------------------------------------------------------------


def test_rows_are_seen_by_whoever_gave_them_and_by_those_who_set_up(house: House) -> None:
    uuid, _ = looked(house, TABLE, mapping=MAPPING)
    assert house.desk.read(house.who("wim"), lambda view: packages.get(view, uuid)).uuid == uuid
    assert house.desk.read(house.who("ida"), lambda view: packages.listing(view, 10, ""))[0]
    assert house.desk.read(house.who("oda"), lambda view: packages.listing(view, 10, ""))[0] == []
    for act in (packages.run, packages.undo, packages.cancel):
        with pytest.raises(Refused):
            house.do("oda", lambda a, act=act: act(a, uuid))


def test_rows_of_what_somebody_may_not_write_are_left(house: House) -> None:
    house.speaks(fr="French")
    french = [{"name": "writer", "locales": ["fr"]}]
    house.by_scheduler(lambda act: people.add_person(act, "tess", "Tess", "", "long enough", french))
    table = "title,entry.locale\nKnots,en\nNœuds,fr\n"
    columns = [
        {"column": name, "to": to} for name, to in (("title", "title"), ("entry.locale", "entry.locale"))
    ]
    _, report = brought(house, table, by="tess", mapping={"type": "page", "locale": "fr", "columns": columns})
    assert (report["added"], report["left"]) == (1, 1)
    assert "write" in report["named"][0]["why"]
    given = give(house, table)
    for wrong in (lambda act: packages.look_again(act, given, Wish()), lambda act: packages.run(act, given)):
        with pytest.raises(InTheWay):
            house.do("wim", wrong)


def test_nobody_fills_the_disk_with_files_that_wait(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(packages, "MOST_GIVEN", 2)
    first, _ = give(house, TABLE), give(house, TABLE)
    with pytest.raises(InTheWay):
        give(house, TABLE)
    work(house.desk, first)
    house.do("wim", lambda act: packages.drop(act, first, packages.folder(house.desk)))
    give(house, TABLE)
    give(house, TABLE, by="oda")


def test_a_mapping_is_kept_changed_by_its_keeper_and_by_those_who_set_up_alone(house: House) -> None:
    assert house.do("wim", lambda act: mappings.keep(act, " talks ", MAPPING)) == "talks"
    shown = house.desk.read(house.who("oda"), lambda view: mappings.get(view, "talks"))
    assert (shown.mapping, shown.by) == (MAPPING, "Wim")
    with pytest.raises(Refused):
        house.do("oda", lambda act: mappings.keep(act, "talks", MAPPING))
    with pytest.raises(Refused):
        house.do("oda", lambda act: mappings.drop(act, "talks"))
    house.do("ida", lambda act: mappings.drop(act, "talks"))
    assert house.desk.read(house.who("oda"), mappings.listing) == []
    with pytest.raises(HawthornError):
        house.do("wim", lambda act: mappings.keep(act, "talks", MAPPING | {"type": "none"}))


def test_over_http_rows_are_mapped_brought_and_undone(running: Running, tmp_path: Path) -> None:
    wim: Client = running.as_("wim")
    file = tmp_path / "talks.csv"
    file.write_text("Name,Text\nKnots for all,Bring a rope\n")

    def waited(one: Any) -> Any:
        while one.state in ("looking", "running", "undoing"):
            one = wim.package(one.id)
        return one

    one = waited(wim.give_rows(file, type="talk"))
    assert (one.state, one.format, one.report.added) == ("looked", "csv", 1)
    made = one.report.mapping
    assert made is not None
    changed = made.model_dump() | {"type": "note"}
    one = waited(wim.map_rows(one.id, {"mapping": changed}))
    assert (one.state, one.report.mapping.type) == ("looked", "note")
    wim.keep_mapping("names", changed)
    again = waited(wim.give_rows(file, mapping="names"))
    assert again.report.mapping.type == "note"
    done = waited(wim.run_package(one.id))
    assert (done.state, done.report.added) == ("done", 1)
    assert waited(wim.undo_package(one.id)).state == "undone"
    wim.drop_mapping("names")
    with pytest.raises(Refusal, match="No mapping is kept"):
        wim.give_rows(file, mapping="names")
    with pytest.raises(Refusal, match="no file that entries can be made of"):
        wim.give_rows(file, name="talks.exe")
    with pytest.raises(Refusal):
        running.as_("mina").give_rows(file)


def sheet_of(house: House, asked: Query, *names: str, by: str = "ida") -> list[list[Any]]:
    def read(look: Any) -> Any:
        return house.desk.read(house.who(by), look)

    columns = read(lambda view: sheets.columns(view, asked, names))
    return [list(line) for line in sheets.lines(read, asked, columns)]


def test_a_list_goes_out_as_a_table_is_changed_there_and_comes_in_again_merged(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sheets, "_AT_ONCE", 2)
    house.speaks(fr="French")
    brought(house, TABLE, mapping=MAPPING)
    found = drafts(house)
    save(house, found["Knots"], "ida", "fr", title="Nœuds")
    head, *lines = sheet_of(house, Query(type="page"))
    assert head[:4] == ["entry.id", "entry.type", "entry.locale", "entry.revision"]
    assert head[-3:] == ["stages", "changed", "by"]
    assert {line[head.index("title")] for line in lines} == {"Knots", "Fog", "Swell"}
    _, same = looked(house, "".join(map(csv_table.line_of, [head, *lines])))
    assert (same["same"], same["entries"]) == (3, 3), "what went out and was not touched is here just so"
    save(house, found["Fog"], body="<p>Somebody wrote on.</p>")
    for line in lines:
        line[head.index("title")] += "!"
    _, report = brought(house, "".join(map(csv_table.line_of, [head, *lines])))
    assert report["merged"] == 3
    now = fields(house, found["Fog"])
    assert (now["title"], now["body"]) == ("Fog!", "<p>Somebody wrote on.</p>")
    assert [line[2] for line in sheet_of(house, Query(type="page", locale="fr"), "title")[1:]] == ["fr"]


def test_a_sheet_has_numbers_as_numbers_words_as_words_and_no_formula(tmp_path: Path) -> None:
    lines = [["n", "t"], [1250.5, "=1+1"], [3, "+x"], [0, "a\x01b"]]
    file = io.BytesIO()
    sheet.xlsx(lines, file)
    page = openpyxl.load_workbook(file).active
    assert [[cell.value for cell in line] for line in page] == [
        ["n", "t"],
        [1250.5, "=1+1"],
        [3, "+x"],
        [0, "ab"],
    ]
    assert {cell.data_type for line in page for cell in line} == {"s", "n"}
    text = b"".join(sheet.csv(lines)).decode("utf-8-sig")
    assert text == "n,t\r\n1250.5,'=1+1\r\n3,'+x\r\n0,a\x01b\r\n"
    with pytest.raises(InTheWay):
        sheet.xlsx([["x" * 32_768]], io.BytesIO())


def test_a_sheet_is_fetched_by_whoever_reads_with_what_they_may_read(
    running: Running, tmp_path: Path
) -> None:
    for format in ("csv", "xlsx"):
        goal = tmp_path / f"list.{format}"
        running.as_("mina").entries_sheet(goal, {"type": "talk"}, format=format)
        assert goal.stat().st_size > 100
    with pytest.raises(Refusal, match="no field"):
        running.as_("mina").entries_sheet(tmp_path / "x.csv", fields=["none"])
    with pytest.raises(Refusal, match="as they are now"):
        running.as_("mina").entries_sheet(tmp_path / "x.csv", {"at": "2026-01-01"})
    assert not (tmp_path / "x.csv").exists()


def test_whatever_a_table_holds_nothing_is_half_done(house: House) -> None:
    chance = random.Random(5)
    pieces = [
        "x",
        "",
        "=A1",
        "<p>y</p>",
        "2027-01-01",
        "31.2.2027",
        "[",
        "{}",
        "é" * 600,
        "<script>",
        "01a1a01e-802a-748b-a703-06d75330613b",
        "\x00",
    ]
    for n in range(25):
        names = chance.sample(
            [
                "title",
                "body",
                "slug",
                "below",
                "entry.id",
                "entry.locale",
                "entry.key",
                "entry.revision",
                "other",
            ],
            4,
        )
        lines = [csv_table.line_of(names)] + [
            csv_table.line_of([chance.choice(pieces) for _ in names]) for _ in range(4)
        ]
        found = work(house.desk, give(house, "".join(lines), f"t{n}.csv", type="page"))
        assert found.state in ("looked", "failed")
        if found.state == "failed":
            assert found.trouble
            continue
        house.do("wim", lambda act, uuid=found.uuid: packages.run(act, uuid))
        done = work(house.desk, found.uuid)
        report = json.loads(done.report)
        assert done.state == "done", done.trouble
        assert sum(counts(report).values()) == 4


def test_a_workbook_that_cannot_be_finished_leaves_nothing_on_the_disk(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    for lines in (iter([["a"], ["x" * (sheet.LONGEST + 1)]]), (["a", 1 // n] for n in (1, 0))):
        with pytest.raises((InTheWay, ZeroDivisionError)):
            sheet.xlsx(lines, io.BytesIO())
    gc.collect()
    assert list(tmp_path.iterdir()) == []
