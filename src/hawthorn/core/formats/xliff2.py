"""XLIFF 2.1 (OASIS Standard, 13 February 2018), core and the metadata module, out and in.

Tags become `<pc>` (section 4.2.3.4) where they hold words and `<ph>` (4.2.3.2) where they do not, with the
markup in `<originalData>` for tools that show it. What comes back is read by tag number alone: markup in a
file that comes home is never trusted.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from lxml import etree

from hawthorn.core import numbers
from hawthorn.core.errors import BadFile
from hawthorn.core.richtext import without_controls
from hawthorn.core.translation.homecoming import Returned
from hawthorn.core.translation.units import STATES, Part, Parts, Segment, Tag, Unit

MEDIA_TYPE = "application/xliff+xml"
NS = "urn:oasis:names:tc:xliff:document:2.0"
MDA = "urn:oasis:names:tc:xliff:metadata:2.0"
XML = "http://www.w3.org/XML/1998/namespace"
LARGEST = 50_000_000
"""Bytes from which a file is refused unread."""


@dataclass(frozen=True, slots=True)
class OutFile:
    """One entry of a job: its `urn:uuid:` address, its title as a note, and its units."""

    original: str
    title: str
    units: tuple[Unit, ...]


@dataclass(frozen=True, slots=True)
class OutDocument:
    """A job as it goes out."""

    job: str
    source_locale: str
    target_locale: str
    files: tuple[OutFile, ...]


@dataclass(frozen=True, slots=True)
class InDocument:
    """A file that came back; `job` is empty when the tool dropped the metadata."""

    job: str
    source_locale: str
    target_locale: str
    files: tuple[tuple[str, tuple[Returned, ...]], ...]


def write(document: OutDocument) -> bytes:
    """The document as XLIFF 2.1; equal documents give equal bytes."""
    root = etree.Element(_q("xliff"), nsmap={None: NS, "mda": MDA})
    root.set("version", "2.1")
    root.set("srcLang", document.source_locale)
    root.set("trgLang", document.target_locale)
    for index, file in enumerate(document.files, 1):
        node = etree.SubElement(root, _q("file"), id=f"f{index}", original=file.original)
        metadata = etree.SubElement(node, f"{{{MDA}}}metadata")
        group = etree.SubElement(metadata, f"{{{MDA}}}metaGroup", category="commission")
        etree.SubElement(group, f"{{{MDA}}}meta", type="job").text = document.job
        if file.title:
            notes = etree.SubElement(node, _q("notes"))
            etree.SubElement(notes, _q("note"), id="n1", category="title").text = without_controls(file.title)
        for unit in file.units:
            _write_unit(node, unit)
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8"))


def _write_unit(file: etree._Element, unit: Unit) -> None:
    node = etree.SubElement(file, _q("unit"), id=unit.key)
    node.set(f"{{{XML}}}space", "preserve")
    if unit.label:
        node.set("name", unit.label)
    if unit.tags:
        data = etree.SubElement(node, _q("originalData"))
        for number, (opening, closing) in unit.tags.items():
            etree.SubElement(data, _q("data"), id=f"d{number}").text = opening
            if closing:
                etree.SubElement(data, _q("data"), id=f"e{number}").text = closing
    for segment in unit.segments:
        name = "ignorable" if segment.ignorable else "segment"
        item = etree.SubElement(node, _q(name), id=segment.id)
        if not segment.ignorable:
            item.set("state", segment.state)
        _fill(etree.SubElement(item, _q("source")), segment.source)
        if segment.target is not None:
            _fill(etree.SubElement(item, _q("target")), segment.target)


def _fill(node: etree._Element, parts: Sequence[Part]) -> None:
    stack = [node]
    for part in parts:
        here = stack[-1]
        if isinstance(part, str):
            _append(here, without_controls(part))
        elif part.how == "close":
            stack.pop()
        elif part.how == "empty":
            etree.SubElement(here, _q("ph"), id=part.id, dataRef=f"d{part.id}")
        else:
            opened = etree.SubElement(
                here, _q("pc"), id=part.id, dataRefStart=f"d{part.id}", dataRefEnd=f"e{part.id}"
            )
            stack.append(opened)


def _append(node: etree._Element, text: str) -> None:
    if len(node):
        node[-1].tail = (node[-1].tail or "") + text
    else:
        node.text = (node.text or "") + text


def read(data: bytes) -> InDocument:
    """Read a file from outside: no entities, no DTD, no network; `BadFile` says what is wrong and where."""
    if len(data) > LARGEST:
        raise BadFile(
            f"The file has {len(data):,} bytes; at most {LARGEST:,} are read.", remedy="Split the job."
        )
    root = _parsed(data)
    if root.tag != _q("xliff"):
        raise BadFile(
            "This is not an XLIFF 2 file.", remedy="Export it as XLIFF 2.0 or 2.1.", found=str(root.tag)
        )
    if root.get("version") not in ("2.0", "2.1"):
        raise BadFile(
            f"The file says XLIFF {root.get('version')}; 2.0 and 2.1 are read.",
            remedy="Export it as XLIFF 2.1.",
        )
    job, left = "", MOST_UNITS
    files: list[tuple[str, tuple[Returned, ...]]] = []
    for node in root.iterchildren(_q("file")):
        job = job or next((m.text or "" for m in node.iter(f"{{{MDA}}}meta") if m.get("type") == "job"), "")
        found = list(itertools.islice(node.iter(_q("unit")), MOST_UNITS + 1))
        left -= len(found)
        if left < 0:
            raise BadFile(f"The file has over {MOST_UNITS:,} units.", remedy="Split the job.")
        files.append((node.get("original", ""), tuple(_read_unit(u) for u in found)))
    return InDocument(job.strip(), root.get("srcLang", ""), root.get("trgLang", ""), tuple(files))


def _parsed(data: bytes) -> Any:
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as error:
        line, column = error.position
        raise BadFile(
            f"The file is not well-formed XML: {error.msg} (line {line}, column {column}).",
            remedy="It may have been cut off on its way; fetch it again.",
            line=line,
        ) from None
    if root.getroottree().docinfo.internalDTD is not None or root.getroottree().docinfo.doctype:
        raise BadFile(
            "The file declares a document type (DTD); such files are not read.",
            remedy="Remove the DOCTYPE line and every entity it declares.",
        )
    if any(isinstance(n, etree._Entity) for n in root.iter()):
        raise BadFile("The file uses entities; such files are not read.", remedy="Write the characters out.")
    return root


def _read_unit(node: etree._Element) -> Returned:
    segments: list[Segment] = []
    for item in node.iterchildren(_q("segment"), _q("ignorable")):
        source, target = item.find(_q("source")), item.find(_q("target"))
        state = item.get("state", "initial")
        segments.append(
            Segment(
                item.get("id", f"s{len(segments) + 1}"),
                _read_parts(source) if source is not None else (),
                _read_parts(target) if target is not None else None,
                item.tag == _q("ignorable"),
                state if state in STATES else "initial",
            )
        )
    return Returned(node.get("id", ""), tuple(_in_order(segments, node)))


def _in_order(segments: list[Segment], node: etree._Element) -> Iterable[Segment]:
    """Targets may stand in another order than sources (section 4.3.1.20): `order` counts from 1."""
    numbered: list[tuple[int, Segment]] = []
    items = list(node.iterchildren(_q("segment"), _q("ignorable")))
    for index, (item, segment) in enumerate(zip(items, segments, strict=True), 1):
        target = item.find(_q("target"))
        order = target.get("order", "") if target is not None else ""
        place = numbers.whole(order)
        numbered.append((index if place is None else place, segment))
    return [s for _, s in sorted(numbered, key=lambda pair: pair[0])]


def _read_parts(node: etree._Element) -> Parts:
    out: list[Part] = []

    def say(text: str | None) -> None:
        if text:
            if out and isinstance(out[-1], str):
                out[-1] += text
            else:
                out.append(text)

    def walk(parent: etree._Element) -> None:
        say(parent.text)
        for child in parent:
            name = etree.QName(child).localname if isinstance(child.tag, str) else ""
            number = child.get("id", "") if name else ""
            if name == "pc":
                out.append(Tag(number, "open"))
                walk(child)
                out.append(Tag(number, "close"))
            elif name == "ph":
                out.append(Tag(number, "empty"))
            elif name == "sc":
                out.append(Tag(number, "open"))
            elif name == "ec":
                out.append(Tag(child.get("startRef") or number, "close"))
            elif name == "mrk":
                walk(child)
            elif name == "cp":
                say(_code_point(child.get("hex", "")))
            say(child.tail)

    walk(node)
    return tuple(out)


def _code_point(text: str) -> str:
    try:
        return without_controls(chr(int(text, 16)))
    except (ValueError, OverflowError):
        return ""


def _q(name: str) -> str:
    return f"{{{NS}}}{name}"


MOST_UNITS = 100_000
"""So many units of a file are read."""
