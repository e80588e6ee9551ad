"""Glossaries as files: TBX (ISO 30042:2019, the basic dialect, categories as attributes), and TBX of 2008 read too."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import BinaryIO

from lxml import etree

from hawthorn.core import locales, xml
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.translation.terms import STATUSES

NAMESPACE = "urn:iso:std:iso:30042:ed-2"
LONGEST = 200
"""So many characters a term may have."""
_LANG = "{http://www.w3.org/XML/1998/namespace}lang"
_CONCEPTS = ("conceptEntry", "termEntry")
_LANGUAGES = ("langSec", "langSet")
_TERMS = ("termSec", "tig", "ntig")
_READ = {
    "preferredterm": "preferred",
    "preferredterm-admn-sts": "preferred",
    "admittedterm": "admitted",
    "admittedterm-admn-sts": "admitted",
    "deprecatedterm": "deprecated",
    "deprecatedterm-admn-sts": "deprecated",
    "supersededterm": "deprecated",
    "supersededterm-admn-sts": "deprecated",
}
_WRITTEN = {one: f"{one}Term-admn-sts" for one in STATUSES}


@dataclass(frozen=True, slots=True)
class TbxTerm:
    """What a concept is called in a language, and how that may be used (`terms.STATUSES`)."""

    locale: str
    text: str
    status: str = "preferred"


@dataclass(frozen=True, slots=True)
class TbxConcept:
    """A concept with what it is called; the note says what it is."""

    terms: tuple[TbxTerm, ...]
    note: str = ""


@dataclass(frozen=True, slots=True)
class Refused:
    """A concept that cannot be used, by its number in the file, and why."""

    number: int
    why: Message


def read(file: BinaryIO) -> Iterator[TbxConcept | Refused]:
    """The concepts of a file, one by one. Raises `BadFile` for what is not TBX, and for one that declares entities."""
    found = xml.stream(file, ("tbx", "martif"), _CONCEPTS, "tbx.not_tbx")
    return (_concept(element, number) for number, element in enumerate(found, 1))


def _each(element: etree._Element, names: Iterable[str]) -> Iterator[etree._Element]:
    wanted = set(names)
    return (one for one in element.iter() if xml.name_of(one) in wanted)


def _concept(element: etree._Element, number: int) -> TbxConcept | Refused:
    found: list[TbxTerm] = []
    for language in _each(element, _LANGUAGES):
        given = language.get(_LANG) or ""
        locale = locales.canonical(given)
        if not locale:
            return Refused(number, said("tbx.no_language", tag=given[:80]))
        for section in _each(language, _TERMS):
            text = next((" ".join("".join(t.itertext()).split()) for t in _each(section, ("term",))), "")
            if len(text) > LONGEST:
                return Refused(number, said("tbx.too_long", most=LONGEST))
            if text:
                found.append(TbxTerm(locale, text, _status(section)))
    if not found:
        return Refused(number, said("tbx.no_terms"))
    return TbxConcept(tuple(found), _note(element))


def _status(section: etree._Element) -> str:
    for note in section.iter():
        # As a category in an attribute, or as an element of its own (ISO 30042:2019, section 6).
        if note.get("type") == "administrativeStatus" or xml.name_of(note) == "administrativeStatus":
            return _READ.get("".join(note.itertext()).strip().lower(), "preferred")
    return "preferred"


def _note(element: etree._Element) -> str:
    for one in element.iter():
        if one.get("type") == "definition" or xml.name_of(one) == "definition":
            return " ".join("".join(one.itertext()).split())[:2_000]
    note = next((n for n in element.iterchildren() if xml.name_of(n) == "note"), None)
    return " ".join("".join(note.itertext()).split())[:2_000] if note is not None else ""


def write(some: Iterable[TbxConcept], source: str, title: str) -> Iterator[bytes]:
    """A file of concepts, in pieces; `source` is the language of its header."""
    root = etree.Element(_in("tbx"), nsmap={None: NAMESPACE}, type="TBX-Basic", style="dca")
    root.set(_LANG, source)
    described = etree.SubElement(etree.SubElement(root, _in("tbxHeader")), _in("fileDesc"))
    etree.SubElement(etree.SubElement(described, _in("titleStmt")), _in("title")).text = title
    etree.SubElement(etree.SubElement(described, _in("sourceDesc")), _in("p")).text = "Hawthorn"
    body = etree.SubElement(etree.SubElement(root, _in("text")), _in("body"))
    body.text = ""
    head, tail = etree.tostring(root, encoding="unicode").split("</body>")
    yield f'<?xml version="1.0" encoding="UTF-8"?>\n{head}\n'.encode()
    for number, one in enumerate(some, 1):
        yield _entry(number, one) + b"\n"
    yield f"</body>{tail}\n".encode()


def _in(name: str) -> str:
    return f"{{{NAMESPACE}}}{name}"


def _entry(number: int, one: TbxConcept) -> bytes:
    entry = etree.Element("conceptEntry", id=f"c{number}")
    if one.note:
        etree.SubElement(entry, "descrip", type="definition").text = one.note
    languages: dict[str, etree._Element] = {}
    for term in one.terms:
        if term.locale not in languages:
            languages[term.locale] = etree.SubElement(entry, "langSec", {_LANG: term.locale})
        section = etree.SubElement(languages[term.locale], "termSec")
        etree.SubElement(section, "term").text = term.text
        etree.SubElement(section, "termNote", type="administrativeStatus").text = _WRITTEN[term.status]
    # Its namespace is that of the root that it stands in.
    made: bytes = etree.tostring(entry, encoding="utf-8")
    return made
