"""The translation grid with many entries against few, and files of many units against lxml alone."""

from __future__ import annotations

import json
import random
import re
import sqlite3
import statistics
import time
from pathlib import Path

from lxml import etree

from benchmarks import made
from benchmarks.figures import Figure
from hawthorn.core import formats
from hawthorn.core.access import Identity
from hawthorn.core.translation import units
from hawthorn.core.translation.tags import Tag
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.runtime.act import Act, Desk, View, setup_changed
from hawthorn.operations.translation import coverage, exporting, grid, importing, sending
from hawthorn.operations.translation.grid import Asked
from hawthorn.operations.translation.orders import Order
from hawthorn.store import definitions, people, revisions

SMALL, LARGE = 2_000, 20_000
TARGETS = ("ar", "cy", "de", "es", "fi", "fr", "it", "ja", "pl", "tr")
PAGE = 50
_EACH = 500
QUESTIONS = {
    "everything": Asked(),
    "out of date in one locale": Asked(locale="fr", state="out of date"),
    "missing in one locale": Asked(locale="ja", state="none"),
}


def figure_grid(folder: Path, rounds: int = 15) -> dict[str, Figure]:
    """A page of the grid, and of what is found by state, of 20,000 entries × 10 locales against 2,000 × 10."""
    desks = {n: _filled(folder / f"{n}.sqlite", n) for n in (SMALL, LARGE)}
    out: dict[str, Figure] = {}
    for name, asked in QUESTIONS.items():
        took: dict[int, list[float]] = {SMALL: [], LARGE: []}
        for _ in range(rounds):
            for size, desk in desks.items():
                start = time.perf_counter()
                _page(desk, asked)
                took[size].append(time.perf_counter() - start)
        large, small = (statistics.median(took[n]) * 1000 for n in (LARGE, SMALL))
        out[f"grid of {LARGE:,} × {len(TARGETS)} against {SMALL:,}: {name}"] = Figure(
            large, small, large / small, 2.0, "lower", "ms"
        )
    for desk in desks.values():
        desk.db.close()
    return out


def figure_files(folder: Path, count: int = 50_000, rounds: int = 5) -> dict[str, Figure]:
    """XLIFF out and in against lxml alone making, writing and reading the same document; and importing it against reading it."""
    document, texts = _document(count)
    ours, alone = [], []
    for _ in range(rounds):
        start = time.perf_counter()
        data = formats.USUAL.write(document)
        read = formats.read(data)
        ours.append(time.perf_counter() - start)
        start = time.perf_counter()
        _alone(texts, data)
        alone.append(time.perf_counter() - start)
        if sum(len(found) for _, found in read.files) != count:
            raise RuntimeError("units were lost")
    desk, identity, job, file = _commissioned(folder / "import.sqlite", count)
    start = time.perf_counter()
    returned = formats.read(file)
    reading = time.perf_counter() - start
    start = time.perf_counter()
    found = desk.write(identity, lambda act: importing.import_file(act, job, returned))
    took = time.perf_counter() - start
    if found.applied != count:
        raise RuntimeError(f"only {found.applied} were applied")
    desk.db.close()
    mine, floor = statistics.median(ours), statistics.median(alone)
    return {
        f"XLIFF of {count:,} units out and in, speed against lxml alone": Figure(
            count / mine, count / floor, floor / mine, 0.5, "higher", "units/s"
        ),
        f"import of {count:,} units, against reading the file": Figure(
            took, reading, took / reading, 5.0, "lower", "seconds"
        ),
    }


def _document(count: int) -> tuple[formats.OutDocument, list[tuple[str, str, str, str]]]:
    """A job of short texts with a tag each, and what stands in its units."""
    rng = random.Random(3)
    made_of: list[units.Unit] = []
    texts: list[tuple[str, str, str, str]] = []
    for n in range(count):
        before, within, after = (" ".join(rng.choice(made.WORDS) for _ in range(4)) for _ in range(3))
        parts = (f"{before} ", Tag("1", "open"), within, Tag("1", "close"), f" {after}.")
        segment = units.Segment("s1", parts, parts, state="translated")
        made_of.append(
            units.Unit(f"u{n}", (segment,), {"1": ("<em>", "</em>")}, "h", rich=True, label="Text")
        )
        texts.append((f"u{n}", f"{before} ", within, f" {after}."))
    files = (formats.OutFile("urn:uuid:1", "Many", tuple(made_of)),)
    return formats.OutDocument("job", "en", "fr", files), texts


def _alone(texts: list[tuple[str, str, str, str]], data: bytes) -> None:
    """The same document made and written with lxml and nothing else, and the one that was written read to its last text."""
    ns = "{urn:oasis:names:tc:xliff:document:2.0}"
    hints = {
        "id": "1",
        "type": "fmt",
        "subType": "xlf:i",
        "canCopy": "yes",
        "canDelete": "yes",
        "canReorder": "yes",
    }
    hints |= {"canOverlap": "no", "dataRefStart": "d1", "dataRefEnd": "e1"}
    root = etree.Element(f"{ns}xliff", version="2.1")
    file = etree.SubElement(root, f"{ns}file", id="f1")
    for id, before, within, after in texts:
        unit = etree.SubElement(file, f"{ns}unit", id=id, name="Text")
        originals = etree.SubElement(unit, f"{ns}originalData")
        etree.SubElement(originals, f"{ns}data", id="d1").text = "<em>"
        etree.SubElement(originals, f"{ns}data", id="e1").text = "</em>"
        segment = etree.SubElement(unit, f"{ns}segment", id="s1", state="translated")
        for name in ("source", "target"):
            node = etree.SubElement(segment, f"{ns}{name}")
            node.text = before
            tag = etree.SubElement(node, f"{ns}pc", hints)
            tag.text, tag.tail = within, after
    etree.tostring(root, xml_declaration=True, encoding="UTF-8")
    for unit in etree.fromstring(data, etree.XMLParser(huge_tree=True)).iter(f"{ns}unit"):
        unit.get("id")
        for node in unit.iter(f"{ns}source", f"{ns}target"):
            "".join(node.itertext())


def _commissioned(path: Path, count: int) -> tuple[Desk, Identity, str, bytes]:
    """A job of so many units in entries of 500 paragraphs each, and its file with every target."""
    desk = made.open_desk(path)
    desk.db.write(lambda conn: definitions.add_locale(conn, "fr", "Français"))
    with desk.db.read() as conn:
        wim = people.by_handle(conn, "wim")
        assert wim is not None
        identity = permission.identity_of(conn, wim.id)
    desk.write(identity, setup_changed)
    rng = random.Random(9)

    def start(act: Act) -> str:
        body = "".join(
            f"<p>{' '.join(rng.choice(made.WORDS) for _ in range(8))}.</p>" for _ in range(_EACH - 1)
        )
        return entries.start(act, "page", "en", {"title": f"Page {rng.random()}", "body": body})

    uuids = [desk.write(identity, start) for _ in range(count // _EACH)]
    desk.write(identity, lambda act: sending.commission(act, Order(tuple(uuids), ("fr",))))
    with desk.db.read() as conn:
        job = str(conn.execute("SELECT uuid FROM job").fetchone()[0])
    _, data = desk.read(identity, lambda view: exporting.export(view, job))
    done = re.sub(rb"<source>(.*?)</source>", rb"<source>\1</source><target>F \1</target>", data)
    return desk, identity, job, done


def _page(desk: Desk, asked: Asked) -> None:
    with desk.db.read() as conn:
        wim = people.by_handle(conn, "wim")
        assert wim is not None
        identity = permission.identity_of(conn, wim.id)

    def look(view: View) -> int:
        return len(grid.lines(view, asked, PAGE, "")[0])

    if desk.read(identity, look) != PAGE:
        raise RuntimeError("the page is not full")


def _filled(path: Path, count: int) -> Desk:
    """A house whose pages are translated here, out of date there, and missing elsewhere."""
    desk = made.open_desk(path)
    made.pages(desk, count)

    def more(conn: sqlite3.Connection) -> None:
        for tag in TARGETS:
            definitions.add_locale(conn, tag, tag)

    desk.db.write(more)
    with desk.db.read() as conn:
        wim = people.by_handle(conn, "wim")
        assert wim is not None
        identity = permission.identity_of(conn, wim.id)
    desk.write(identity, setup_changed)
    desk.db.write(lambda conn: _translated(conn, desk, wim.id))
    desk.db.write(lambda conn: definitions.set_setting(conn, "counted", ""))
    coverage.catch_up(desk)
    return desk


def _translated(conn: sqlite3.Connection, desk: Desk, author: int) -> None:
    rng = random.Random(5)
    page = desk.setup(conn).types["page"]
    sources = conn.execute(
        "SELECT d.entry, s.head FROM edition d JOIN strand s ON s.edition = d.id AND s.name = 'draft' WHERE d.locale = 'en'"
    ).fetchall()
    at = desk.clock.now()
    for entry, head in sources:
        content = revisions.content(conn, head)
        hashes = units.source_hashes(page, content)
        for locale in TARGETS:
            chance = rng.random()
            if chance < 0.2:
                continue
            said = {key: [[key, digest if chance < 0.7 else "0" * 16]] for key, digest in hashes.items()}
            _add(conn, entry, locale, content.fields, _ids(conn, head), json.dumps(said), author, at)


def _ids(conn: sqlite3.Connection, head: int) -> str:
    """The paragraph ids of a revision as they are kept."""
    return str(conn.execute("SELECT paragraph_ids FROM revision WHERE id = ?", (head,)).fetchone()[0])


def _add(
    conn: sqlite3.Connection,
    entry: int,
    locale: str,
    fields: object,
    paragraph_ids: str,
    unit_map: str,
    author: int,
    at: int,
) -> None:
    edition = conn.execute("INSERT INTO edition (entry, locale) VALUES (?, ?)", (entry, locale)).lastrowid
    made_of = conn.execute(
        "INSERT INTO revision (edition, number, content_hash, type_version, fields, paragraph_ids, unit_map, actor, actor_kind, "
        "at, note, origin) VALUES (?, 1, 'x', 1, ?, ?, ?, ?, 'person', ?, '', 'return')",
        (edition, json.dumps(fields), paragraph_ids, unit_map, author, at),
    ).lastrowid
    conn.execute("INSERT INTO strand (edition, name, head) VALUES (?, 'draft', ?)", (edition, made_of))
    conn.execute(
        "INSERT INTO summary (edition, entry, type, locale, title, missing, updated_at, actor) "
        "VALUES (?, ?, 'page', ?, 'T', '[]', ?, ?)",
        (edition, entry, locale, at, author),
    )
