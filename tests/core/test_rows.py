"""Rows: tables and pages that are read, mappings that are proposed from their columns, and what each row tells."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable
from datetime import date, datetime
from typing import Any

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import contenttypes, fields
from hawthorn.core.errors import BadFile, Invalid
from hawthorn.core.exchange import mapping, rows
from hawthorn.core.exchange.mapping import Column, RowMapping, Told
from hawthorn.core.exchange.rows import Html, Row, csv_table, links
from hawthorn.core.fields import Field, Wrong
from hawthorn.messages import ENGLISH

UUID = "01a1a01e-802a-748b-a703-06d75330613b"
TALK = contenttypes.from_dict(
    {
        "name": "talk",
        "label": "Talk",
        "fields": [
            {"name": "title", "kind": "line", "label": "Title", "required": True},
            {"name": "slug", "kind": "slug", "label": "Address", "follows": "title"},
            {"name": "body", "kind": "rich", "label": "Text"},
            {"name": "day", "kind": "date", "label": "Day", "shared": True},
            {"name": "seats", "kind": "number", "label": "Seats", "shared": True},
            {"name": "tags", "kind": "tags", "label": "Tags", "shared": True},
            {"name": "speakers", "kind": "reference", "label": "Speakers", "many": True, "shared": True},
        ],
    }
)
PERSON = contenttypes.from_dict(
    {"name": "person", "label": "Person", "fields": [{"name": "title", "kind": "line", "label": "Name"}]}
)
PHOTO = contenttypes.from_dict(
    {
        "name": "photo",
        "label": "Photo",
        "fields": [
            {"name": "title", "kind": "line", "label": "Name"},
            {"name": "file", "kind": "file", "label": "File", "shared": True},
        ],
    }
)
LOCALES = ["en", "fr"]


def read(name: str, data: bytes) -> list[Row]:
    return list(rows.of(name, data[: rows.HEAD]).rows(io.BytesIO(data)))


def packed(members: dict[str, str | bytes]) -> bytes:
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w") as archive:
        for name, data in members.items():
            archive.writestr(name, data)
    return made.getvalue()


def nobody(spec: Field, text: str) -> str:
    raise Wrong("rows.names_none", text=text)


def told(
    cells: dict[str, Any], *columns: tuple[str, str], find: Callable[[Field, str], str] = nobody
) -> Told:
    made = RowMapping("talk", "en", tuple(Column(*one) for one in columns))
    return mapping.told(made, TALK, Row("2", cells), LOCALES, find)


# -- reading -----------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16"])
@pytest.mark.parametrize("mark", [",", ";", "\t"])
def test_a_table_is_read_as_spreadsheets_write_it(encoding: str, mark: str) -> None:
    text = f'Title{mark}Text\r\nÉclair{mark}"one\r\ntwo"\r\n\r\n"a ""b"""{mark}\r\n'
    assert read("talks.csv", text.encode(encoding)) == [
        Row("3", {"Title": "Éclair", "Text": "one\r\ntwo"}),
        Row("5", {"Title": 'a "b"', "Text": ""}),
    ]


@given(
    st.lists(
        st.text(st.characters(codec="utf-8", exclude_characters="\x00"), max_size=12), min_size=1, max_size=6
    )
)
def test_whatever_a_cell_holds_it_goes_out_and_comes_in_again_and_is_never_a_formula(
    cells: list[str],
) -> None:
    head = csv_table.line_of([f"c{n}" for n in range(len(cells))])
    line = csv_table.line_of(cells)
    found = read("x.csv", (head + line).encode())
    assert [list(one.cells.values()) for one in found] == ([cells] if any(cells) else [])
    for cell in cells:
        out = csv_table.guarded(cell)
        assert (
            out[:1] not in "=+-@\t\r"
            or not out
            or out.strip("+-").replace(".", "").replace(",", "").isdigit()
        )


def test_a_workbook_is_read_by_its_first_sheet_and_runs_no_formula() -> None:
    book = openpyxl.Workbook()
    page = book.active
    for line in (
        ["Title", None, "Day", "Seats"],
        ["Knots", "x", datetime(2027, 3, 4), 12.0],
        [None],
        ["=1+1", None, "soon", 1.5],
    ):
        page.append(line)
    book.create_sheet("Other").append(["no"])
    made = io.BytesIO()
    book.save(made)
    assert read("talks.xlsx", made.getvalue()) == [
        Row("2", {"Title": "Knots", "Day": date(2027, 3, 4), "Seats": 12}),
        # Nobody has worked it out, so there is no value.
        Row("4", {"Title": "", "Day": "soon", "Seats": 1.5}),
    ]


def test_a_page_without_front_matter_or_with_an_empty_one_is_all_body() -> None:
    for text in ("---\n---\nBody", "Body", "\ufeff---\r\n---\r\nBody"):
        (row,) = read("a.md", text.encode())
        assert row.cells == {"body": "<p>Body</p>\n"}
    (rule,) = read("a.md", b"---\nnever closed")
    assert rule.cells["body"].startswith("<hr")


def test_a_page_of_markdown_has_its_front_matter_its_heading_and_its_body() -> None:
    text = (
        "---\ntitle: Fog bell\nday: 2027-03-04\nat: 2027-03-04 10:00:00\ntags: [fog, bell]\nseo:\n  title: Bell\ndraft: yes\n---\n"
        "# The fog *bell*\n\nIt ~~rang~~ **rings**.\n\n| a |\n|---|\n| 1 |\n"
    )
    (row,) = read("bell.md", text.encode())
    cells = dict(row.cells)
    assert cells.pop("body").strip().startswith("<p>It <s>rang</s> <strong>rings</strong>.</p>\n<table>")
    assert cells == {
        "title": "Fog bell",
        "day": date(2027, 3, 4),
        "at": datetime(2027, 3, 4, 10),
        "tags": ["fog", "bell"],
        "seo.title": "Bell",
        "draft": True,
        "heading": "The fog bell",
    }


def test_a_page_of_html_is_read_without_what_frames_it() -> None:
    page = (
        '<!doctype html><html lang="en"><head><meta charset="utf-8"><title> Lamp\nroom </title>'
        '<meta name="description" content="Where lamps are"><link rel="canonical" href="https://museum.example/lamps"></head>'
        "<body><nav>Home</nav><main><h1>Lamps</h1><p>Br<b>ight</b></p><script>x()</script><footer>End</footer></main></body></html>"
    )
    (row,) = read("lamps.html", page.encode())
    assert row.cells == {
        "meta.description": "Where lamps are",
        "title": "Lamp room",
        "language": "en",
        "canonical": "https://museum.example/lamps",
        "heading": "Lamps",
        "body": "<p>Br<b>ight</b></p>",
    }
    assert isinstance(row.cells["body"], Html)
    (old,) = read("old.htm", "<p>Café</p>".encode("windows-1252"))
    assert "Café" in old.cells["body"]


def test_an_archive_of_pages_has_them_by_name_and_leaves_out_what_is_none() -> None:
    data = packed(
        {"b.md": "B", "a/x.html": "<p>X</p>", ".git/y.md": "Y", "_d/z.md": "Z", "pic.png": b"x", "n.txt": ""}
    )
    assert [(one.place, one.cells["file"]) for one in read("site.zip", data)] == [
        ("a/x.html", "a/x.html"),
        ("b.md", "b.md"),
    ]


BAD: list[tuple[str, bytes, str]] = [
    ("x.bin", b"x", "rows.no_format"),
    ("x.csv", b"", "rows.empty"),
    ("x.csv", b"\n\n", "rows.empty"),
    ("x.csv", b"a,b\n1,2,3\n", "rows.too_many_cells"),
    ("x.csv", b"a,a\n1,2\n", "rows.column_twice"),
    ("x.csv", b'a,b\n"1,2\n', "rows.not_csv"),
    ("x.csv", b"a\n\xff\xfe\xfa\n", "rows.not_utf8"),
    ("x.csv", b"\xff\n", "rows.not_utf8"),
    ("x.csv", b"a\n" + b"x" * 2_000_001, "rows.line_too_long"),
    ("x.csv", b'a\n"' + b"x\n" * 1_200_000, "rows.not_csv"),
    ("x.csv", ",".join(f"c{n}" for n in range(501)).encode() + b"\n", "rows.too_many_columns"),
    ("x.xlsx", b"PK\x03\x04cut off", "formats.not_xlsx"),
    ("x.xlsx", packed({"a.txt": "x"}), "rows.not_xlsx"),
    ("x.xlsx", b"a,b", "rows.no_format"),
    ("x.md", b"\xff", "rows.bad_page"),
    ("x.md", b"---\na: [\n---\n", "rows.bad_page"),
    ("x.md", b"---\na: &x [1]\nb: *x\n---\n", "rows.bad_page"),
    ("x.md", b"---\n- a\n---\n", "rows.bad_page"),
    ("x.md", b"---\n!!python/object/apply:os.system ['x']\n---\n", "rows.bad_page"),
    ("x.md", b"+++\na = \n+++\n", "rows.bad_page"),
    ("x.md", b"---\na: " + b"x" * 100_001 + b"\n---\n", "rows.bad_page"),
    ("x.md", b"x" * 4_000_001, "rows.page_too_large"),
    ("x.zip", b"PK\x03\x04cut off", "rows.no_archive"),
    ("x.zip", packed({"a.txt": "x"}), "rows.no_pages"),
    ("x.zip", packed({"../x.md": "x"}), "rows.leads_out"),
    ("x.zip", packed({"/x.md": "x"}), "rows.leads_out"),
    ("x.zip", packed({"a.md": b"\xff"}), "rows.bad_page"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "data", "code"), BAD, ids=lambda one: str(one)[:30])
def test_a_file_that_cannot_be_read_is_refused_with_what_to_do(name: str, data: bytes, code: str) -> None:
    with pytest.raises(BadFile) as caught:
        read(name, data)
    assert caught.value.message.code == code
    assert ENGLISH.text(caught.value.message)
    assert ENGLISH.remedy(caught.value)


def test_a_table_of_ten_million_lines_is_given_up_where_there_are_too_many() -> None:
    class Endless(io.RawIOBase):
        given = 0

        def readable(self) -> bool:
            return True

        def seekable(self) -> bool:
            return True

        def seek(self, offset: int, whence: int = 0) -> int:
            return 0

        def readinto(self, buffer: Any) -> int:
            lines = (b"a,b\n" * (len(buffer) // 4 + 1))[: len(buffer)]
            buffer[:] = lines if self.given else b"x,y\n" + lines[:-4]
            self.given += len(buffer)
            return len(buffer)

    endless = Endless()
    with pytest.raises(BadFile, match="more than 200,000 rows"):
        for _ in csv_table.FORMAT.rows(io.BufferedReader(endless)):
            pass
    assert endless.given < rows.MOST_ROWS * 8


# -- links -------------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("place", "href", "path"),
    [
        ("a/b.md", "c.md", "a/c.md"), ("a/b.md", "../c.md#x", "c.md"), ("a/b.md", "/c%20d.md", "c d.md"),
        ("b.md", "https://x.example/c.md", ""), ("b.md", "//x.example/c", ""), ("b.md", "#x", ""), ("b.md", "mailto:a@b", ""),
        ("a/b.md", "../../../c.md", "../../c.md"), ("b.md", "http://[", ""),
    ],
)  # fmt: skip
def test_a_link_leads_to_a_file_beside_its_page(place: str, href: str, path: str) -> None:
    assert links.target(place, href) == path


def test_links_between_pages_lead_to_entries_and_pictures_are_shown_by_them() -> None:
    known = {"a/c.md": UUID, "a/p.png": UUID}
    markup = '<p><a class="x" href="c.md">C</a> <a href="d.md">D</a> <img alt="A &gt; b" src="p.png"><img src="q.png"><img src="https://x.example/r.png"></p>'
    led = links.led_to_entries(markup, "a/b.md", lambda path: known.get(path, ""))
    assert list(links.pictures(led, "a/b.md")) == [("a/p.png", "A > b"), ("a/q.png", "")]
    assert links.shown_by_entries(led, "a/b.md", lambda path: known.get(path, "")) == (
        f'<p><a class="x" href="urn:uuid:{UUID}">C</a> <a href="d.md">D</a> <img src="urn:uuid:{UUID}"><img src="https://x.example/r.png"></p>'
    )


# -- mapping -----------------------------------------------------------------------------------------------------------------


def goals(made: RowMapping) -> dict[str, str]:
    return {one.column: one.to for one in made.columns if one.to}


def test_a_mapping_is_proposed_from_names_and_from_what_stands_in_columns() -> None:
    cells = {
        "Headline": "Knots",
        "content": "Bring a rope",
        "Date": "2027-03-04",
        "Keywords": "a, b",
        "Seat": "12",
        "id": "7",
        "x": "y",
    }
    made = mapping.propose([Row("2", cells)], [PERSON, TALK], LOCALES)
    assert (made.type, made.locale) == ("talk", "en")
    assert goals(made) == {
        "Headline": "title",
        "content": "body",
        "Date": "day",
        "Keywords": "tags",
        "Seat": "seats",
    }
    assert [one.column for one in made.columns] == list(cells), (
        "those that are left out are there to be chosen"
    )


def test_a_column_that_cannot_be_read_as_a_field_is_not_proposed_for_it() -> None:
    some = [Row(str(n), {"Title": "x", "Day": day}) for n, day in enumerate(["soon", "later", "2027-01-01"])]
    assert goals(mapping.propose(some, [TALK], LOCALES)) == {"Title": "title"}


def test_what_was_exported_is_mapped_back_to_where_it_came_from() -> None:
    cells = {
        "entry.id": UUID,
        "entry.locale": "fr",
        "entry.revision": "r1-2",
        "entry.type": "person",
        "title": "Nell",
        "stage": "draft",
    }
    made = mapping.propose([Row("2", cells)], [TALK, PERSON], LOCALES)
    assert made.type == "person"
    assert goals(made) == {name: name for name in cells if name != "stage"}


def test_pages_are_known_by_their_files_and_their_pictures_become_entries() -> None:
    made = mapping.propose(
        [Row("a.md", {"file": "a.md", "heading": "A", "body": Html("<p>x</p>")})],
        [TALK, PHOTO],
        LOCALES,
        "talk",
    )
    assert goals(made) == {"file": "entry.key", "heading": "title", "body": "body"}
    assert made.pictures == "photo"
    assert mapping.propose([Row("2", {"Title": "x"})], [TALK, PHOTO], LOCALES).pictures == ""


def test_a_mapping_is_written_down_and_read_again() -> None:
    types = {one.name: one for one in (TALK, PHOTO)}
    made = RowMapping("talk", "fr", (Column("a", "title"), Column("b"), Column("c", "tags", "|")), "photo")
    assert mapping.from_dict(mapping.to_dict(made), types, LOCALES) == made


@pytest.mark.parametrize(
    ("change", "where"),
    [
        ({"type": "none"}, {"type"}), ({"locale": "xx"}, {"locale"}), ({"pictures": "talk"}, {"pictures"}),
        ({"columns": [{"column": "a", "to": "none"}]}, {"columns.0.to"}),
        ({"columns": [{"column": "a", "to": "title"}, {"column": "a", "to": "body"}]}, {"columns"}),
        ({"columns": [{"column": "a", "to": "title"}, {"column": "b", "to": "title"}]}, {"columns"}),
        ({"columns": [{"columm": "a"}]}, {"columns.0", "columns.0.columm", "columns.0.column"}),
        ({"columns": 5}, {"columns"}),
    ],
    ids=lambda one: str(one)[:60] if isinstance(one, dict) else "",
)  # fmt: skip
def test_a_mapping_that_cannot_be_says_where(change: dict[str, Any], where: set[str]) -> None:
    data = {"type": "talk", "locale": "en", "columns": []} | change
    with pytest.raises(Invalid) as caught:
        mapping.from_dict(data, {one.name: one for one in (TALK, PHOTO)}, LOCALES)
    assert {one.where for one in caught.value.facts["problems"]} <= where


def test_a_row_tells_values_in_their_stored_form_and_all_that_is_wrong() -> None:
    found = told(
        {"t": " Knots ", "b": Html("<p onclick=x>Rope<script>y</script></p>"), "d": date(2027, 3, 4), "s": 12, "g": ["a", "b"]},
        ("t", "title"), ("b", "body"), ("d", "day"), ("s", "seats"), ("g", "tags"), ("not there", "slug"),
    )  # fmt: skip
    assert found.values == {
        "title": "Knots",
        "body": "<p>Rope</p>",
        "day": "2027-03-04",
        "seats": 12,
        "tags": ["a", "b"],
    }
    assert (found.title, found.wrong) == ("Knots", [])
    assert found.lost, "what goes is said"
    wrong = told(
        {"d": "soon", "s": "=1+1", "l": "xx", "i": "7"},
        ("d", "day"),
        ("s", "seats"),
        ("l", "entry.locale"),
        ("i", "entry.id"),
    )
    assert len(wrong.wrong) == 4
    assert all(ENGLISH.text(one) for one in wrong.wrong)


def test_an_empty_cell_empties_its_field_and_a_column_that_is_not_there_leaves_it() -> None:
    assert told({"t": "x", "b": ""}, ("t", "title"), ("b", "body"), ("d", "day")).values == {
        "title": "x",
        "body": None,
    }


def test_a_cell_names_entries_by_id_or_by_what_they_are_called() -> None:
    names = {"Nell Farrow": UUID}

    def find(spec: Field, text: str) -> str:
        return names[text] if text in names else nobody(spec, text)

    found = told({"s": f"Nell Farrow; {UUID.replace('0', '1')}"}, ("s", "speakers"), find=find)
    assert found.values["speakers"] == [UUID, UUID.replace("0", "1")]
    assert told({"s": "Nobody"}, ("s", "speakers"), find=find).wrong


def test_markup_goes_into_words_as_words_and_into_a_block_as_text() -> None:
    blocks = contenttypes.from_dict(
        {
            "name": "page",
            "label": "Page",
            "fields": [
                {"name": "title", "kind": "line", "label": "Title"},
                {
                    "name": "parts",
                    "kind": "blocks",
                    "label": "Parts",
                    "blocks": [
                        {"name": "row", "label": "Row", "arranges": "row", "fields": []},
                        {
                            "name": "words",
                            "label": "Words",
                            "fields": [{"name": "text", "kind": "rich", "label": "Text"}],
                        },
                    ],
                },
            ],
        }
    )
    made = RowMapping("page", "en", (Column("h", "title"), Column("b", "parts")))
    found = mapping.told(
        made, blocks, Row("x", {"h": Html("<h2>A <b>b</b></h2>"), "b": Html("<p>c</p>")}), LOCALES, nobody
    )
    assert found.values["title"] == "A b"
    (block,) = found.values["parts"]
    assert (block["kind"], block["fields"]) == ("words", {"text": "<p>c</p>"})
    assert fields.read_cell(blocks.fields[1], fields.cell_of(blocks.fields[1], [block])) == [block]
