"""XLIFF 2.1 (OASIS Standard, 13 February 2018), core with the modules of metadata, translation candidates and size restriction, out and in.

Tags become `<pc>` (section 4.2.3.4) where they hold words and `<ph>` (4.2.3.2) where they do not, with the
markup in `<originalData>` for tools that show it and what may be done with each as its editing hints (section 4.7.2). What comes
back is read by tag number, by `copyOf`, and by the kinds of formatting that the standard names: markup in a file that returns
is never trusted.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import BinaryIO

from lxml import etree

from hawthorn.core import numbers
from hawthorn.core.errors import BadFile
from hawthorn.core.formats.base import MOST_UNITS, Format, InDocument, OutDocument, noted, other_language
from hawthorn.core.richtext import without_controls
from hawthorn.core.translation import tags
from hawthorn.core.translation.returns import Returned
from hawthorn.core.translation.tags import Markup, Part, Parts, Tag
from hawthorn.core.translation.units import STATES, Segment, Unit
from hawthorn.core.xml import append, not_well_formed

NS = "urn:oasis:names:tc:xliff:document:2.0"
MDA = "urn:oasis:names:tc:xliff:metadata:2.0"
MTC = "urn:oasis:names:tc:xliff:matches:2.0"
SLR = "urn:oasis:names:tc:xliff:sizerestriction:2.0"
XML = "http://www.w3.org/XML/1998/namespace"


def _q(name: str) -> str:
    return f"{{{NS}}}{name}"


_XLIFF, _FILE, _UNIT = _q("xliff"), _q("file"), _q("unit")
_SEGMENT, _IGNORABLE, _SOURCE, _TARGET = _q("segment"), _q("ignorable"), _q("source"), _q("target")
_NOTES, _DATA, _ORIGINAL, _PC, _PH = (_q(name) for name in ("notes", "data", "originalData", "pc", "ph"))
_SPACE = f"{{{XML}}}space"
_STEP = 1 << 18
MOST_BESIDE = 20_000
"""So many characters that other programs put into a unit are kept; more of it is left out."""
_LONGEST_IDLE = 100_000
"""So many elements may come before a unit ends."""


class Xliff2(Format):
    """XLIFF 2.1; files of 2.0 are read too: no entities, no DTD, no network."""

    name = "xliff-2.1"
    label = "XLIFF 2.1"
    media_type = "application/xliff+xml"
    ending = "xlf"

    def write(self, document: OutDocument) -> bytes:
        root = etree.Element(_q("xliff"), nsmap={None: NS, "mda": MDA, "mtc": MTC, "slr": SLR})
        root.set("version", "2.1")
        root.set("srcLang", document.source_locale)
        root.set("trgLang", document.target_locale)
        for index, file in enumerate(document.files, 1):
            node = etree.SubElement(root, _q("file"), id=f"f{index}", original=file.original)
            metadata = etree.SubElement(node, f"{{{MDA}}}metadata")
            group = etree.SubElement(metadata, f"{{{MDA}}}metaGroup", category="commission")
            etree.SubElement(group, f"{{{MDA}}}meta", type="job").text = document.job
            for n, own in enumerate(file.own, 1):
                group = etree.SubElement(metadata, f"{{{MDA}}}metaGroup", category=f"own-file-{n}")
                for name in ("field", "name", "sha256", "address"):
                    if getattr(own, name):
                        etree.SubElement(group, f"{{{MDA}}}meta", type=name).text = getattr(own, name)
            if any(unit.limit for unit in file.units):
                # Sizes are counted in characters as Unicode counts them (section 5.7.10.1).
                etree.SubElement(node, f"{{{SLR}}}profiles", generalProfile="xliff:codepoints")
            told = {"title": file.title, "instructions": document.note, "due": document.due}
            own_files = {f"own-file-{n}": own.note for n, own in enumerate(file.own, 1)}
            _note(node, told | {"context": file.context} | own_files)
            for unit in file.units:
                _write_unit(node, unit)
        return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8"))

    def knows(self, head: bytes) -> bool:
        return NS.encode() in head or NS.encode("utf-16-le") in head or NS.encode("utf-16-be") in head

    def read(self, file: BinaryIO, most: int = MOST_UNITS) -> InDocument:
        return _Reading(most).all(file)


def _note(node: etree._Element, said: Mapping[str, str]) -> None:
    """Notes by their category; those that say nothing are left out."""
    told = {category: text for category, text in said.items() if text}
    if told:
        notes = etree.SubElement(node, _NOTES)
        for n, (category, text) in enumerate(told.items(), 1):
            etree.SubElement(notes, _q("note"), id=f"n{n}", category=category).text = without_controls(text)


def _write_unit(file: etree._Element, unit: Unit) -> None:
    node = etree.SubElement(file, _UNIT, id=unit.key)
    node.set(_SPACE, "preserve")
    if unit.label:
        node.set("name", unit.label)
    if unit.limit:
        node.set(f"{{{SLR}}}sizeRestriction", str(unit.limit))
    if unit.then is not None:
        first = next(s.id for s in unit.segments if not s.ignorable)
        matches = etree.SubElement(node, f"{{{MTC}}}matches")
        match = etree.SubElement(matches, f"{{{MTC}}}match", ref=f"#{first}", type="tm", origin="before")
        for name, text in zip(("source", "target"), unit.then, strict=True):
            etree.SubElement(match, _q(name)).text = without_controls(text)
    if unit.beside:
        node.extend(_stood_beside(unit.beside))
    if unit.notes:
        notes = etree.SubElement(node, _NOTES)
        for n, note in enumerate(unit.notes, 1):
            etree.SubElement(notes, _q("note"), id=f"n{n}").text = without_controls(note)
    if unit.tags:
        data = etree.SubElement(node, _ORIGINAL)
        for number, (opening, closing) in unit.tags.items():
            etree.SubElement(data, _DATA, id=f"d{number}").text = opening
            if closing:
                etree.SubElement(data, _DATA, id=f"e{number}").text = closing
    for segment in unit.segments:
        item = etree.SubElement(node, _IGNORABLE if segment.ignorable else _SEGMENT, id=segment.id)
        if not segment.ignorable:
            item.set("state", segment.state)
        _fill(etree.SubElement(item, _SOURCE), segment.source, unit.tags)
        if segment.target is not None:
            _fill(etree.SubElement(item, _TARGET), segment.target, unit.tags)


def _fill(node: etree._Element, parts: Sequence[Part], known: Markup) -> None:
    stack = [node]
    for part in parts:
        here = stack[-1]
        if isinstance(part, str):
            append(here, without_controls(part))
        elif part.how == "close":
            stack.pop()
        elif part.how == "empty":
            etree.SubElement(here, _PH, _attributes(part, known))
        else:
            stack.append(etree.SubElement(here, _PC, _attributes(part, known)))


def _attributes(part: Tag, known: Markup) -> dict[str, str]:
    """How a tag is written, and what may be done with it: one that means something stays, once, wherever the words need it."""
    behind = known.get(part.of or part.id)
    out = {"id": part.id, **_hints(tags.name_of(behind[0]) if behind else part.of, part.how)}
    if part.of in known:
        out["copyOf"] = part.of
    elif part.id in known:
        if part.how == "empty":
            out["dataRef"] = f"d{part.id}"
        else:
            out["dataRefStart"], out["dataRefEnd"] = f"d{part.id}", f"e{part.id}"
    return out


@lru_cache(maxsize=64)
def _hints(name: str, how: str) -> dict[str, str]:
    free = name in tags.FORMATTING
    out = {"type": "link"} if name == "a" else {}
    if free and tags.FORMATTING[name]:
        out = {"type": "fmt", "subType": tags.FORMATTING[name]}
    out |= {"canCopy": _YES[free], "canDelete": _YES[free], "canReorder": "yes"}
    return out | ({"canOverlap": "no"} if how == "open" else {})


_YES = {True: "yes", False: "no"}
_NAMED = {f"fmt {word}": name for name, word in tags.FORMATTING.items() if word}


class _Reading:
    """A file as far as it was read. What was read of it is let go, so that a long one needs no more memory than its units."""

    def __init__(self, most: int) -> None:
        self.most = most
        self.job = self.source = self.target = ""
        self.files: list[tuple[str, list[Returned]]] = []
        self.count = 0
        self._begun = False
        self._idle = 0
        wanted = [_XLIFF, _FILE, _UNIT]
        self._parser = etree.XMLPullParser(
            ("start", "end"),
            tag=wanted,
            resolve_entities=False,
            no_network=True,
            load_dtd=False,
            huge_tree=False,
        )

    def all(self, data: BinaryIO) -> InDocument:
        """Read to the end."""
        try:
            while part := data.read(_STEP):
                self._idle += part.count(b"<")
                self._parser.feed(part)
                self._look()
            root = self._parser.close()
            self._look()
        except etree.XMLSyntaxError as error:
            raise not_well_formed(error) from None
        if not self._begun:
            raise BadFile("formats.not_xliff", found=str(root.tag)[:200])
        files = tuple((original, tuple(found)) for original, found in self.files)
        return InDocument(self.job.strip(), self.source, self.target, files)

    def _look(self) -> None:
        for event, node in self._parser.read_events():
            if event == "start":
                self._begin(node)
            elif node.tag == _UNIT:
                self._unit(node)
        if self._idle > _LONGEST_IDLE:
            raise BadFile("formats.no_unit_ends", most=_LONGEST_IDLE)

    def _begin(self, node: etree._Element) -> None:
        if not self._begun:
            if node.tag != _XLIFF or node.getparent() is not None:
                raise BadFile("formats.not_xliff", found=str(node.tag)[:200])
            if node.get("version") not in ("2.0", "2.1"):
                raise BadFile("formats.other_version", version=str(node.get("version"))[:40])
            if node.getroottree().docinfo.doctype:
                raise BadFile("formats.document_type")
            self._begun, self.source, self.target = True, node.get("srcLang", ""), node.get("trgLang", "")
        elif node.tag == _FILE:
            self.files.append((node.get("original", ""), []))

    def _unit(self, node: etree._Element) -> None:
        if not self.files:
            return
        if not self.job and not self.files[-1][1]:
            around = next(node.iterancestors(_FILE), node)
            self.job = next(
                (m.text or "" for m in around.iter(f"{{{MDA}}}meta") if m.get("type") == "job"), ""
            )
        self.count += 1
        if self.count > self.most:
            raise BadFile("formats.too_many_units", most=self.most)
        self.files[-1][1].append(_read_unit(node, self.target))
        self._idle = 0
        node.clear()
        while (before := node.getprevious()) is not None:
            before.getparent().remove(before)


def _read_unit(node: etree._Element, language: str) -> Returned:
    """Its segments; targets may stand in another order than sources (section 4.3.1.20): `order` counts from 1."""
    placed: list[tuple[int, Segment]] = []
    notes: list[str] = []
    other = beside = ""
    for item in node:
        tag = item.tag
        ignorable = tag == _IGNORABLE
        if not ignorable and tag != _SEGMENT:
            if tag == _NOTES:
                notes += [text for one in item if (text := "".join(one.itertext()).strip())]
            elif tag != _ORIGINAL:
                beside += _beside(item)
            continue
        source: Parts = ()
        target: Parts | None = None
        place = index = len(placed) + 1
        for child in item:
            if child.tag == _SOURCE:
                source = _read_parts(child)
            elif child.tag == _TARGET:
                target = _read_parts(child)
                other = other or other_language(child, language)
                asked = numbers.whole(child.get("order", ""))
                place = index if asked is None else asked
        state = item.get("state", "initial")
        known = state if state in STATES else "initial"
        placed.append((place, Segment(item.get("id", f"s{index}"), source, target, ignorable, known)))
    if len(placed) > 1:
        placed.sort(key=lambda pair: pair[0])
    kept = beside if len(beside) <= MOST_BESIDE else ""
    key = node.get("id", "")
    return Returned(key, tuple(s for _, s in placed), noted(key, notes), other, kept)


def _beside(item: etree._Element) -> str:
    """An element that another program put beside the sentences (section 4.3.2: extensions are kept); our own are made anew."""
    tag = item.tag
    if not isinstance(tag, str) or not tag.startswith("{") or tag.startswith((f"{{{NS}}}", f"{{{MTC}}}")):
        return ""
    return str(etree.tostring(item, encoding="unicode", with_tail=False))


def _stood_beside(text: str) -> list[etree._Element]:
    """What `_beside` kept."""
    strict = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False)
    return list(etree.fromstring(f"<x>{text}</x>", strict))


def _read_parts(node: etree._Element) -> Parts:
    if not len(node):
        return (node.text,) if node.text else ()
    out: list[Part] = []
    _walk(node, out)
    return tuple(out)


def _walk(parent: etree._Element, out: list[Part]) -> None:
    tags.add(out, parent.text)
    for child in parent:
        name = _INLINE.get(child.tag, "")
        if name == "pc":
            number = tags.number(child.get("id", ""))
            out.append(Tag(number, "open", _of(child)))
            _walk(child, out)
            out.append(Tag(number, "close"))
        elif name == "ph":
            out.append(Tag(tags.number(child.get("id", "")), "empty", _of(child)))
        elif name == "sc":
            out.append(Tag(tags.number(child.get("id", "")), "open", _of(child)))
        elif name == "ec":
            out.append(Tag(tags.number(child.get("startRef") or child.get("id", "")), "close"))
        elif name == "mrk":
            _walk(child, out)
        elif name == "cp":
            tags.add(out, _code_point(child.get("hex", "")))
        tags.add(out, child.tail)


_INLINE = {_q(name): name for name in ("pc", "ph", "sc", "ec", "mrk", "cp")}


def _of(node: etree._Element) -> str:
    """What a tag that a translator put in repeats, or which formatting the standard says it is (sections 4.3.1.6, 4.3.1.36)."""
    copied = node.get("copyOf")
    if copied:
        return tags.number(copied)
    if node.get("dataRef") or node.get("dataRefStart"):
        return ""
    return _NAMED.get(f"{node.get('type')} {node.get('subType')}", "")


def _code_point(text: str) -> str:
    try:
        return without_controls(chr(int(text, 16)))
    except (ValueError, OverflowError):
        return ""


FORMAT = Xliff2()
