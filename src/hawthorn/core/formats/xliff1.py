"""XLIFF 1.2 (OASIS Standard, 1 February 2008), for programs that know no newer one.

A unit is a `<trans-unit>` whose sentences are marked as `<mrk mtype="seg">` within `<seg-source>` and `<target>`; tags are `<g>` and
`<x/>` by their numbers (section 2.4). The job is the `<phase-group>`'s process id, and instructions are notes of the file's header.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import BinaryIO

from lxml import etree

from hawthorn.core.errors import BadFile
from hawthorn.core.formats.base import (
    MOST_UNITS,
    Format,
    InDocument,
    OutDocument,
    OutFile,
    noted,
    other_language,
    whole,
)
from hawthorn.core.richtext import without_controls
from hawthorn.core.translation import tags
from hawthorn.core.translation.returns import Returned
from hawthorn.core.translation.tags import Markup, Part, Parts, Tag
from hawthorn.core.translation.units import Segment, Unit
from hawthorn.core.xml import append, root_of

NS = "urn:oasis:names:tc:xliff:document:1.2"
XML = "http://www.w3.org/XML/1998/namespace"
_STATES = {
    "initial": "needs-translation",
    "translated": "translated",
    "reviewed": "signed-off",
    "final": "final",
}
"""Our states and those of section 2.3 (`state`)."""
_OURS = {
    **{theirs: ours for ours, theirs in _STATES.items()},
    "new": "initial",
    "needs-adaptation": "initial",
    "needs-l10n": "initial",
    "needs-review-adaptation": "translated",
    "needs-review-l10n": "translated",
    "needs-review-translation": "translated",
}


def _q(name: str) -> str:
    return f"{{{NS}}}{name}"


class Xliff1(Format):
    """XLIFF 1.2: no entities, no DTD, no network."""

    name = "xliff-1.2"
    label = "XLIFF 1.2"
    media_type = "application/x-xliff+xml"
    ending = "xliff"

    def write(self, document: OutDocument) -> bytes:
        root = etree.Element(_q("xliff"), nsmap={None: NS}, version="1.2")
        for file in document.files:
            _write_file(root, document, file)
        return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8"))

    def knows(self, head: bytes) -> bool:
        return any(NS.encode(code) in head for code in ("utf-8", "utf-16-le", "utf-16-be"))

    def read(self, file: BinaryIO, most: int = MOST_UNITS) -> InDocument:
        root = root_of(whole(file))
        if root.tag != _q("xliff") or root.get("version") != "1.2":
            raise BadFile("formats.other_version", version=str(root.get("version"))[:40])
        files = [(node.get("original", ""), node) for node in root.iter(_q("file"))]
        if sum(1 for _ in root.iter(_q("trans-unit"))) > most:
            raise BadFile("formats.too_many_units", most=most)
        first = files[0][1] if files else root
        job = next((p.get("process-name", "") for p in root.iter(_q("phase"))), "")
        return InDocument(
            job,
            first.get("source-language", ""),
            first.get("target-language", ""),
            tuple(
                (original, tuple(_unit(u) for u in node.iter(_q("trans-unit")))) for original, node in files
            ),
        )


def _write_file(root: etree._Element, document: OutDocument, file: OutFile) -> None:
    node = etree.SubElement(
        root,
        _q("file"),
        {
            "original": file.original,
            "source-language": document.source_locale,
            "target-language": document.target_locale,
            "datatype": "html",
        },
    )
    header = etree.SubElement(node, _q("header"))
    phases = etree.SubElement(header, _q("phase-group"))
    etree.SubElement(phases, _q("phase"), {"phase-name": "commission", "process-name": document.job})
    for text in (file.title, document.note, document.due, file.context, *(one.note for one in file.own)):
        if text:
            etree.SubElement(header, _q("note")).text = without_controls(text)
    body = etree.SubElement(node, _q("body"))
    for unit in file.units:
        _write_unit(body, unit)


def _write_unit(body: etree._Element, unit: Unit) -> None:
    node = etree.SubElement(body, _q("trans-unit"), id=unit.key)
    node.set(f"{{{XML}}}space", "preserve")
    if unit.label:
        node.set("resname", unit.label)
    if unit.limit:
        node.set("maxwidth", str(unit.limit))
        node.set("size-unit", "char")
    _fill(etree.SubElement(node, _q("source")), [p for s in unit.segments for p in s.source], unit.tags)
    marked = etree.SubElement(node, _q("seg-source"))
    for one in unit.segments:
        _fill(_within(marked, one), one.source, unit.tags)
    if any(s.target is not None for s in unit.segments):
        target = etree.SubElement(node, _q("target"), state=_STATES[_least(unit.segments)])
        for one in unit.segments:
            if one.target is not None:
                _fill(_within(target, one), one.target, unit.tags)
    for note in unit.notes:
        etree.SubElement(node, _q("note")).text = without_controls(note)
    if unit.then is not None:
        other = etree.SubElement(node, _q("alt-trans"), origin="before")
        for name, text in zip(("source", "target"), unit.then, strict=True):
            etree.SubElement(other, _q(name)).text = without_controls(text)


def _least(segments: Sequence[Segment]) -> str:
    """The state of the whole: that of the sentence that is least far."""
    order = list(_STATES)
    speaking = [s for s in segments if not s.ignorable]
    return min(
        (s.state if s.target is not None else order[0] for s in speaking), key=order.index, default=order[0]
    )


def _within(node: etree._Element, one: Segment) -> etree._Element:
    kind = "x-between" if one.ignorable else "seg"
    return etree.SubElement(node, _q("mrk"), mtype=kind, mid=one.id)


def _fill(node: etree._Element, parts: Sequence[Part], known: Markup) -> None:
    stack = [node]
    for part in parts:
        here = stack[-1]
        if isinstance(part, str):
            append(here, without_controls(part))
        elif part.how == "close":
            stack.pop()
        else:
            behind = known.get(part.of or part.id)
            name = tags.name_of(behind[0]) if behind else part.of
            given = {"id": part.id, "ctype": _CTYPES.get(name, f"x-html-{name}")}
            # A program may take a tag again where it says so, and leave it out in any case.
            given["clone"] = "yes" if name in tags.FORMATTING else "no"
            made = etree.SubElement(here, _q("x" if part.how == "empty" else "g"), given)
            if part.how == "open":
                stack.append(made)


_CTYPES = {"strong": "bold", "em": "italic", "br": "lb", "a": "link"}
_NAMES = {ctype: name for name, ctype in _CTYPES.items() if name != "a"} | {
    f"x-html-{name}": name for name in tags.FORMATTING if name not in _CTYPES
}


def _unit(node: etree._Element) -> Returned:
    source, marked, target = (node.find(_q(name)) for name in ("source", "seg-source", "target"))
    key = node.get("id", "")
    notes = noted(key, [t for n in node.findall(_q("note")) if (t := "".join(n.itertext()).strip())])
    state = _OURS.get(target.get("state", "translated") if target is not None else "new", "translated")
    whole_language = next(node.iterancestors(_q("file")), node).get("target-language", "")
    other = other_language(target, whole_language) if target is not None else ""
    sources, targets = _segments(marked), _segments(target)
    if sources and (target is None or not _parts(target) or (targets and not _beside(target))):
        segments = tuple(
            Segment(id, parts, targets[id][0] if id in targets else None, between, state)
            for id, (parts, between) in sources.items()
        )
        return Returned(key, segments, notes, other)
    # A program that knows nothing of sentences gives the whole.
    parts = _parts(source) if source is not None else ()
    only = Segment(
        "s1", parts, _parts(target) if target is not None and _parts(target) else None, state=state
    )
    return Returned(key, (only,), notes, other)


def _segments(node: etree._Element | None) -> dict[str, tuple[Parts, bool]]:
    if node is None:
        return {}
    return {
        one.get("mid", ""): (_parts(one), one.get("mtype") != "seg")
        for one in node.iter(_q("mrk"))
        if one.get("mtype") in ("seg", "x-between")
    }


def _beside(node: etree._Element) -> bool:
    """Whether words stand beside the marked sentences: then the whole is what was meant."""
    return bool((node.text or "").strip() or any((child.tail or "").strip() for child in node))


def _parts(node: etree._Element) -> Parts:
    out: list[Part] = []

    def walk(parent: etree._Element) -> None:
        tags.add(out, parent.text)
        for child in parent:
            name = child.tag.rpartition("}")[2] if isinstance(child.tag, str) else ""
            id = tags.number(child.get("id", ""))
            of = _NAMES.get(child.get("ctype", ""), "")
            if name == "g":
                out.append(Tag(id, "open", of))
                walk(child)
                out.append(Tag(id, "close"))
            elif name in ("x", "ph"):
                out.append(Tag(id, "empty", of))
            elif name in ("bx", "bpt"):
                out.append(Tag(tags.number(child.get("rid") or id), "open", of))
            elif name in ("ex", "ept"):
                out.append(Tag(tags.number(child.get("rid") or id), "close"))
            elif name in ("mrk", "sub"):
                walk(child)
            tags.add(out, child.tail)

    walk(node)
    return tuple(out)


FORMAT = Xliff1()
