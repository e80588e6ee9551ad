"""Translations that are made up: sentences of the museum that are known, else word by word with a small dictionary; and what spoils a file."""

from __future__ import annotations

import re

from lxml import etree

from hawthorn.demo.lexicon import SENTENCES, WORDS

NS = "{urn:oasis:names:tc:xliff:document:2.0}"
MDA = "{urn:oasis:names:tc:xliff:metadata:2.0}"


def parse(data: bytes) -> etree._Element:
    """A file of XLIFF as it came."""
    return etree.fromstring(data, etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False))


def units_of(root: etree._Element) -> list[tuple[str, etree._Element]]:
    """The units of a file by the file and the id within it."""
    return [
        (f"{file.get('id')} {unit.get('id')}", unit)
        for file in root.iter(f"{NS}file")
        for unit in file.iter(f"{NS}unit")
    ]


def translate_file(data: bytes, units: list[str] | None = None) -> bytes:
    """Fill in the targets of an XLIFF 2 file, all or those of some units; without the others. What comes translated stays as it is."""
    root = parse(data)
    language = str(root.get("trgLang", "")).split("-")[0]
    for name, unit in units_of(root):
        if units is not None and name not in units:
            unit.getparent().remove(unit)
    for file in list(root.iter(f"{NS}file")):
        if next(file.iter(f"{NS}unit"), None) is None:
            root.remove(file)
    for segment in root.iter(f"{NS}segment"):
        if segment.get("state", "initial") != "initial" and segment.find(f"{NS}target") is not None:
            continue
        source = segment.find(f"{NS}source")
        for old in segment.findall(f"{NS}target"):
            segment.remove(old)
        target = etree.fromstring(etree.tostring(source, with_tail=False))
        target.tag = f"{NS}target"
        sentence = "".join(source.itertext()).strip()
        known = SENTENCES.get(language, {}).get(sentence)
        if known and not len(source):
            target.text = known
        else:
            _translate_within(target, language)
        segment.append(target)
        segment.set("state", "translated")
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8")  # type: ignore[no-any-return]


def _translate_within(node: etree._Element, language: str) -> None:
    node.text = translate_words(node.text, language)
    for child in node:
        _translate_within(child, language)
        child.tail = translate_words(child.tail, language)


def translate_words(text: str | None, language: str) -> str | None:
    """Word by word, keeping capitals and what is not a word."""
    if not text:
        return text
    words = WORDS.get(language, {})

    def one(found: re.Match[str]) -> str:
        word = found[0]
        new = words.get(word.lower())
        if new is None:
            return word
        return new[:1].upper() + new[1:] if word[:1].isupper() else new

    out = re.sub(r"[^\W\d_]+(?:'[^\W\d_]+)?", one, text)
    if language == "ja":
        out = (
            re.sub(r"(?<=[\u3040-\u9fff]) +(?=[\u3040-\u9fff])", "", out)
            .replace(". ", "。")
            .replace(", ", "、")
        )
        out = re.sub(r"\.$", "。", out)
    return out


def suggested(sentence: str, language: str) -> str | None:
    """A translation of a sentence whose tags are numbers in angle brackets; None where no word of it is known."""
    parts = re.split(r"(</?\d+/?>)", sentence)
    known = SENTENCES.get(language, {}).get(sentence.strip())
    if known:
        return known
    made = [part if n % 2 else translate_words(part, language) or "" for n, part in enumerate(parts)]
    return "".join(made) if made != parts else None


def spoil(data: bytes, trouble: str) -> bytes:
    """Spoil a finished file in the way that was ordered."""
    if trouble == "truncate":
        return data[: len(data) // 2]
    if trouble == "break tags":
        root = parse(data)
        for target in root.iter(f"{NS}target"):
            if len(target):
                etree.strip_tags(target, f"{NS}pc", f"{NS}ph")
                break
        return etree.tostring(root, xml_declaration=True, encoding="UTF-8")  # type: ignore[no-any-return]
    return data
