"""Translation memories as files: TMX 1.4b (LISA OSCAR, 2005), read and written as a stream, in bounded memory."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import UTC, datetime
from functools import lru_cache
from typing import BinaryIO

from lxml import etree

from hawthorn.core import locales, xml
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.translation import tags
from hawthorn.core.translation.tags import Part, Tag

CONTEXT = "x-context"
"""The property in which we keep what surrounds a sentence (section 3.3, `prop`)."""
_LANG = "{http://www.w3.org/XML/1998/namespace}lang"
_DATE = "%Y%m%dT%H%M%SZ"
LONGEST = 20_000
"""So many characters a sentence has at most."""


@dataclass(frozen=True, slots=True)
class Variant:
    """A sentence in one language, with tags by their numbers."""

    locale: str
    text: str


@dataclass(frozen=True, slots=True)
class TmxUnit:
    """A sentence in several languages, the source first; `at` in microseconds, 0 where the file does not say."""

    variants: tuple[Variant, ...]
    context: str = ""
    at: int = 0


@dataclass(frozen=True, slots=True)
class Refused:
    """A unit that cannot be used, by its number in the file, and why."""

    number: int
    why: Message


@lru_cache(maxsize=512)
def _canonical(tag: str) -> str:
    return locales.canonical(tag)


def read(file: BinaryIO) -> Iterator[TmxUnit | Refused]:
    """The units of a file, one by one. Raises `BadFile` for what is not TMX, and for one that declares entities."""
    number = 0
    usual = ""
    for element in xml.stream(file, ("tmx",), ("header", "tu"), "tmx.not_tmx"):
        if xml.name_of(element) == "header":
            usual = element.get("srclang", "")
        else:
            number += 1
            yield _unit(element, number, usual)


def _unit(element: etree._Element, number: int, usual: str) -> TmxUnit | Refused:
    source = element.get("srclang") or usual
    found: list[Variant] = []
    for tuv in element.iterchildren("tuv"):
        given = tuv.get(_LANG) or tuv.get("lang") or ""
        segment = tuv.find("seg")
        locale = _canonical(given)
        if not locale or segment is None:
            return Refused(number, said("tmx.no_language", tag=given))
        parts = _parts(segment)
        text = tags.written(parts)
        if len(text) > LONGEST:
            return Refused(number, said("tmx.too_long", most=LONGEST))
        if tags.words_of(parts).strip():
            found.append(Variant(locale, text))
    if len(found) < 2:
        return Refused(number, said("tmx.one_language"))
    first = _canonical(source) if source and source != "*all*" else ""
    found.sort(key=lambda one: one.locale != first)
    context = next((p.text or "" for p in element.iterchildren("prop") if p.get("type") == CONTEXT), "")
    return TmxUnit(tuple(found), context[:100], _at(element))


def _at(element: etree._Element) -> int:
    for name in ("changedate", "creationdate"):
        try:
            moment = datetime.strptime(element.get(name, ""), _DATE).replace(tzinfo=UTC)
        except ValueError:
            continue
        return int(moment.timestamp()) * 1_000_000
    return 0


def _parts(segment: etree._Element) -> tuple[Part, ...]:
    """Words and tags; what a tag holds as code is not words (section 3.4)."""
    out: list[Part] = []
    _walk(segment, out, {})
    return tuple(out)


def _walk(element: etree._Element, out: list[Part], pairs: dict[str, str]) -> None:
    tags.add(out, element.text)
    for child in element.iterchildren():
        name = child.tag
        if not isinstance(name, str):
            pass
        elif name == "bpt":
            pairs[child.get("i", "")] = _number(child)
            out.append(Tag(_number(child), "open"))
        elif name == "ept":
            out.append(Tag(pairs.get(child.get("i", ""), tags.number(child.get("i") or "0")), "close"))
        elif name == "hi":
            _walk(child, out, pairs)
        elif name in ("ph", "it", "ut"):
            out.append(Tag(_number(child), "empty"))
        tags.add(out, child.tail)


def _number(element: etree._Element) -> str:
    return tags.number(element.get("x") or element.get("i") or "0")


def write(units: Iterable[TmxUnit], source: str) -> Iterator[bytes]:
    """A file of some units, piece by piece; `source` is the language of most of them."""
    yield (
        b'<?xml version="1.0" encoding="UTF-8"?>\n<tmx version="1.4"><header creationtool="Hawthorn" creationtoolversion="1" '
        b'segtype="sentence" o-tmf="hawthorn" adminlang="en" datatype="html" srclang="'
        + (source or "*all*").encode()
        + b'"/><body>\n'
    )
    for unit in units:
        element = etree.Element("tu", srclang=unit.variants[0].locale)
        if unit.at:
            element.set("changedate", datetime.fromtimestamp(unit.at / 1_000_000, UTC).strftime(_DATE))
        if unit.context:
            etree.SubElement(element, "prop", type=CONTEXT).text = unit.context
        for variant in unit.variants:
            tuv = etree.SubElement(element, "tuv", {_LANG: variant.locale})
            _write_segment(etree.SubElement(tuv, "seg"), variant.text)
        yield etree.tostring(element, encoding="utf-8") + b"\n"
    yield b"</body></tmx>\n"


def _write_segment(segment: etree._Element, text: str) -> None:
    opened: dict[str, str] = {}
    count = 0
    for part in tags.read(text):
        if isinstance(part, str):
            xml.append(segment, part)
            continue
        if part.how == "close":
            made = etree.SubElement(segment, "ept", i=opened.get(part.id, part.id))
        elif part.how == "open":
            count += 1
            opened[part.id] = str(count)
            made = etree.SubElement(segment, "bpt", i=opened[part.id], x=part.id)
        else:
            made = etree.SubElement(segment, "ph", x=part.id)
        made.text = tags.written([part])
