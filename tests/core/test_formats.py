"""Files of translations: every format keeps what it is given, and each file is read in the one that it is written in."""

from __future__ import annotations

import csv
import io
import zipfile
from dataclasses import replace
from importlib import import_module

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from hawthorn.core import formats
from hawthorn.core.errors import BadFile, Invalid
from hawthorn.core.translation.tags import Parts, Tag
from hawthorn.core.translation.units import Segment, Unit

WORDS = st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Co", "Cn")), min_size=1)
PARTS = st.one_of(
    st.tuples(WORDS),
    st.builds(lambda a, b: (a, Tag("1", "open"), b, Tag("1", "close")), WORDS, WORDS),
    st.builds(lambda a: (a, Tag("1", "empty")), WORDS),
)


@st.composite
def documents(draw: st.DrawFn) -> formats.OutDocument:
    """A job of some entries, partly translated."""
    files = []
    for n in range(draw(st.integers(1, 3))):
        units = []
        for m in range(draw(st.integers(1, 3))):
            target = draw(st.none() | PARTS)
            state = "translated" if target else "initial"
            segment = Segment("s1", draw(PARTS), target, state=state)
            notes = draw(st.sampled_from([(), ("Which lamp?",)]))
            units.append(Unit(f"u{n}{m}", (segment,), {"1": ("<em>", "</em>")}, "h", notes=notes))
        files.append(formats.OutFile(f"urn:uuid:{n}", draw(WORDS), tuple(units)))
    return formats.OutDocument("job-1", "en", "fr", tuple(files))


def bare(parts: Parts | None) -> Parts | None:
    """Parts without what a format says of a tag beside its number."""
    return parts and tuple(p if isinstance(p, str) else replace(p, of="") for p in parts)


@pytest.mark.parametrize("name", formats.FORMATS)
@given(documents())
def test_a_format_keeps_what_it_is_given(name: str, document: formats.OutDocument) -> None:
    data = formats.of(name).write(document)
    assert data == formats.of(name).write(document)
    back = formats.read(data)
    assert (back.job, back.source_locale, back.target_locale) == ("job-1", "en", "fr")
    assert [original for original, _ in back.files] == [f.original for f in document.files]
    for out, (_, found) in zip(document.files, back.files, strict=True):
        assert [u.key for u in found] == [u.key for u in out.units]
        for unit, one in zip(out.units, found, strict=True):
            assert [(bare(s.source), bare(s.target), s.state) for s in one.segments] == [
                (s.source, s.target, s.state) for s in unit.segments
            ]
            assert one.notes == unit.notes


@pytest.mark.parametrize("name", formats.FORMATS)
@pytest.mark.parametrize("encoding", ["utf-8", "utf-16"])
def test_a_file_is_known_by_how_it_begins(name: str, encoding: str) -> None:
    one = Unit("u1", (Segment("s1", ("Lamp",)),), {}, "h")
    document = formats.OutDocument("job-1", "en", "fr", (formats.OutFile("urn:uuid:1", "Lamp", (one,)),))
    data = formats.of(name).write(document)
    if name != "xlsx":
        data = data.decode().replace("UTF-8", encoding.upper()).encode(encoding)
    assert [f.name for f in formats.FORMATS.values() if f.knows(data[:4096])] == [name]
    assert formats.read(data).files[0][1][0].segments[0].source == ("Lamp",)


def test_what_is_in_no_format_is_refused_with_the_reason() -> None:
    for data, said in (
        (b"", "not well-formed"),
        (b"<lamp/>", "not an XLIFF 2 file"),
        (b"key;text", "XML"),
        (b"job,title\r\n", "not well-formed"),
        (b"job,entry,unit,segment\r\n", "no column"),
    ):
        with pytest.raises(BadFile, match=said):
            formats.read(data)
    with pytest.raises(Invalid, match="“docx” is not a format of files"):
        formats.of("docx")


def sheet(*units: Unit) -> formats.OutDocument:
    return formats.OutDocument("job-1", "en", "fr", (formats.OutFile("urn:uuid:1", "=SUM(A1)", units),))


@pytest.mark.parametrize("name", [n for n in formats.FORMATS if not n.startswith("xliff")])
@pytest.mark.parametrize(
    "text", ["=1+1", "+lamp", "-lamp", "@lamp", "'quoted", "a & b &lt; c", "a < b", "2 <1> 3"]
)
def test_no_text_of_a_sheet_is_taken_for_a_formula_or_a_tag(name: str, text: str) -> None:
    document = sheet(Unit("u1", (Segment("s1", (text,), (text,), state="translated"),), {}, "h"))
    data = formats.of(name).write(document)
    (segment,) = formats.read(data).files[0][1][0].segments
    assert (segment.source, segment.target) == ((text,), (text,))
    if name == "csv":
        cells = [c for row in csv.reader(io.StringIO(data.decode("utf-8-sig"))) for c in row]
        assert not any(c.startswith(("=", "+", "-", "@")) for c in cells)


def test_a_sheet_is_read_as_spreadsheets_save_it() -> None:
    document = sheet(Unit("u1", (Segment("s1", ("Lamp",)), Segment("i2", (" ",), None, True)), {}, "h"))
    text = formats.of("csv").write(document).decode("utf-8-sig")
    rows = [row[::-1] for row in csv.reader(io.StringIO(text))]
    rows[1][2] = "Lampe"
    out = io.StringIO()
    csv.writer(out, delimiter=";").writerows([["mine", *row] for row in rows] + [[""] * 11])
    found = formats.of("csv").read(io.BytesIO(out.getvalue().encode()))
    (segment, between) = found.files[0][1][0].segments
    assert (segment.target, segment.state, between.ignorable) == (("Lampe",), "translated", True)


XLIFF1 = """<xliff version="1.2" xmlns="urn:oasis:names:tc:xliff:document:1.2"><file original="urn:uuid:1" source-language="en"
target-language="fr" datatype="html"><body>{unit}</body></file></xliff>"""


@pytest.mark.parametrize(
    ("inside", "target", "state"),
    [
        ("<source>A</source><target>B</target>", ("B",), "translated"),
        ("<source>A</source><target state='final'>B</target>", ("B",), "final"),
        ("<source>A</source><target state='needs-l10n'>B</target>", ("B",), "initial"),
        ("<source>A</source>", None, "initial"),
        (
            "<source>A</source><target>B <bpt id='1'>x</bpt>C<ept id='1'>y</ept></target>",
            ("B ", Tag("1", "open"), "C", Tag("1", "close")),
            "translated",
        ),
        (
            "<source>A</source><seg-source><mrk mtype='seg' mid='s1'>A</mrk></seg-source><target>B</target>",
            ("B",),
            "translated",
        ),
        (
            "<source>A</source><seg-source><mrk mtype='seg' mid='s1'>A</mrk></seg-source><target>B <mrk mtype='seg' mid='s1'>C</mrk></target>",
            ("B C",),
            "translated",
        ),
        (
            "<source>A</source><target><g id='7' ctype='bold'>B</g></target>",
            (Tag("7", "open", "strong"), "B", Tag("7", "close")),
            "translated",
        ),
    ],
)
def test_older_files_are_read_as_other_programs_write_them(inside: str, target: Parts, state: str) -> None:
    data = XLIFF1.format(unit=f"<trans-unit id='u1'>{inside}</trans-unit>").encode()
    (segment,) = formats.read(data).files[0][1][0].segments
    assert (segment.target, segment.state) == (target, state)


MANY = tuple(
    Unit(
        f"body.p{n}",
        (
            Segment(
                f"s{n}",
                ("It ", Tag("1", "open"), "burned", Tag("1", "close"), " oil & ", Tag("2", "empty"), "more."),
            ),
            Segment("i", (" ",), None, True),
            Segment("t", ("Done <here>.",), ("Fini <ici>.",), state="translated"),
        ),
        {"1": ('<a href="https://lamps.example/">', "</a>"), "2": ("<br>", "")},
        "h",
        rich=True,
        label="Text",
        notes=("Which?",),
        limit=80,
        then=("It burned.", "Elle brûlait."),
    )
    for n in range(3)
)


@pytest.mark.parametrize(
    ("name", "store"), [("xliff-2.1", "xliff2.Xliff2File"), ("xliff-1.2", "xliff.xlifffile")]
)
def test_an_independent_library_reads_translates_and_writes_what_goes_out(name: str, store: str) -> None:
    module, _, kind = store.partition(".")
    library = getattr(import_module(f"translate.storage.{module}"), kind)
    fresh = [
        replace(u, segments=tuple(replace(s, target=None, state="initial") for s in u.segments)) for u in MANY
    ]
    data = formats.of(name).write(sheet(*fresh))
    file = library.parsestring(data)
    units = [u for u in file.units if str(u.source).strip()]
    assert units, "it sees what is to be translated"
    assert any("burned" in str(u.source) for u in units)
    for unit in units:
        if "Done" in str(unit.source):
            unit.target = "Fait."
    back = formats.read(bytes(file))
    assert back.job == "job-1"
    assert [u.key for u in back.files[0][1]] == [u.key for u in MANY]
    said = [
        "".join(p for s in u.segments for p in s.target or () if isinstance(p, str)) for u in back.files[0][1]
    ]
    assert all("Fait." in text for text in said)


def test_a_file_says_what_a_translator_needs() -> None:
    document = replace(sheet(*MANY), note="Keep it short.", due="2031-05-01")
    root = etree.fromstring(formats.USUAL.write(document))
    core, mtc = "{urn:oasis:names:tc:xliff:document:2.0}", "{urn:oasis:names:tc:xliff:matches:2.0}"
    notes = {n.get("category"): n.text for n in root.find(f"{core}file").find(f"{core}notes")}
    assert notes == {"title": "=SUM(A1)", "instructions": "Keep it short.", "due": "2031-05-01"}
    unit = root.find(f".//{core}unit")
    assert unit.get("{urn:oasis:names:tc:xliff:sizerestriction:2.0}sizeRestriction") == "80"
    match = unit.find(f".//{mtc}match")
    assert match.get("ref") == "#s0"
    assert [match.findtext(f"{core}{name}") for name in ("source", "target")] == [
        "It burned.",
        "Elle brûlait.",
    ]
    pc, ph = unit.find(f".//{core}pc"), unit.find(f".//{core}ph")
    hints = ("canCopy", "canDelete", "canReorder", "canOverlap")
    assert [pc.get(h) for h in hints] == ["no", "no", "yes", "no"]
    assert [ph.get(h) for h in hints] == ["yes", "yes", "yes", None]
    order = [child.tag.rpartition("}")[2] for child in unit]
    assert order == ["matches", "notes", "originalData", "segment", "ignorable", "segment"]


def with_notes(count: int) -> bytes:
    """An XLIFF 2.1 file with so many notes on a unit."""
    one = Unit("u1", (Segment("s1", ("Lamp",)),), {}, "h", notes=("x",) * count)
    return formats.USUAL.write(
        formats.OutDocument("j", "en", "fr", (formats.OutFile("urn:uuid:1", "", (one,)),))
    )


def bomb() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/workbook.xml", b" " * 60_000_000)
    return out.getvalue()


def with_part(name: str, data: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as packed:
        packed.writestr(name, data)
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (with_notes(501), "unit u1 has over 500 notes"),
        (
            XLIFF1.format(
                unit="<trans-unit id='u1'><source>a</source>" + "<note>x</note>" * 501 + "</trans-unit>"
            ).encode(),
            "unit u1 has over 500",
        ),
        (b"job,entry,unit,segment,source en,target fr\n" + b"j,e,u,s,a,b\n" * 500_001, "over 500,000 rows"),
        (("<a>" * 1_000 + "</a>" * 1_000).join(XLIFF1.split("{unit}")).encode(), "Excessive depth"),
        (bomb(), "over 50 MB"),
        (b"PK\x03\x04 and then nothing", "cannot be read as XLSX"),
        (with_part("lamp.txt", b"lamp"), "cannot be read as XLSX"),
        (with_part("a.xml", b'<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>'), "document type"),
        (XLIFF1.format(unit="<trans-unit id='u1'>").encode(), "not well-formed"),
        (b"<!DOCTYPE x>" + XLIFF1.format(unit="").encode(), "document type"),
        (XLIFF1.format(unit="").replace('"1.2"', '"1.3"').encode(), "XLIFF 1.3"),
        (b'job,entry,unit,segment,source en,target fr\r\n"a', "cannot be read as CSV"),
        (b"job,entry,unit,segment,source en,target fr\r\n\xff", "not written in UTF-8"),
        (b"job,entry,unit,segment,source en\r\n", "no column target"),
    ],
)
def test_hostile_and_broken_files_of_every_format_are_refused(data: bytes, says: str) -> None:
    with pytest.raises(BadFile, match=says):
        formats.read(data)


def test_what_another_program_puts_beside_the_sentences_goes_out_again_as_it_came() -> None:
    one = Unit("u1", (Segment("s1", ("Lamp",)),), {}, "h", notes=("Which?",))
    document = formats.OutDocument("job-1", "en", "fr", (formats.OutFile("urn:uuid:1", "Lamp", (one,)),))
    data = formats.USUAL.write(document)
    own = b'<w:count xmlns:w="urn:words.example" kind="1">3 &amp; <w:more/></w:count>'
    strange = data.replace(b"<notes><note", own + b"<notes><note", 2).replace(own, b"", 1)
    found = formats.read(strange).files[0][1][0]
    assert "urn:words.example" in found.beside
    assert (found.segments[0].source, found.notes) == (("Lamp",), ("Which?",))
    again = formats.USUAL.write(
        formats.OutDocument(
            "job-1",
            "en",
            "fr",
            (formats.OutFile("urn:uuid:1", "Lamp", (replace(one, beside=found.beside),)),),
        )
    )
    unit = etree.fromstring(again).find(".//{*}unit")
    assert unit is not None
    # Before what the core has (XLIFF 2.1, section 4.2.2.5).
    assert [etree.QName(child).localname for child in unit] == ["count", "notes", "segment"]
    assert (unit[0].text, unit[0].get("kind"), len(unit[0])) == ("3 & ", "1", 1)
    assert formats.read(again).files[0][1][0].beside == found.beside
    large = strange.replace(b"3 &amp; ", b"x" * 30_000)
    assert formats.read(large).files[0][1][0].beside == "", "there is an end to it"
