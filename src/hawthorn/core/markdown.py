"""Rich text as Markdown: CommonMark 0.31.2, with tables and struck words of GitHub Flavored Markdown 0.29.

What Markdown has no marks for (words of another language, raised and lowered ones, a break in a cell) stays HTML inside the line (CommonMark
section 6.6), and so do words that a mark would not be read beside (section 6.2). What is read back is the same text.
"""

from __future__ import annotations

import html
import re
import unicodedata
from collections.abc import Iterator, Mapping, Sequence
from itertools import groupby

from lxml import etree

from hawthorn.core import tables
from hawthorn.core.richtext import Paragraph, paragraphs, parsed

_MARKS = {"strong": "**", "em": "*", "s": "~~"}
_LEVELS = {"h2": "## ", "h3": "### ", "h4": "#### "}
_SPECIAL = re.compile(r"[\\`*_{}\[\]<>~|&#!]")
_LINE_START = re.compile(r"(\d{1,9})[.)]|[-+=]")
_TICKS = re.compile("`+")
_PLAIN_ADDRESS = re.compile(r"[A-Za-z0-9/:?=.,#%+@;~_-]+")
_PICTURE = re.compile(r'<img src="([^"]*)"((?: [a-z]+="[^"]*")*)>')
_ATTRIBUTE = re.compile(r' ([a-z]+)="([^"]*)"')


def markdown(fragment: str) -> str:
    """A rich text as it is kept, or as readers get it, in Markdown."""
    return _flow(paragraphs(fragment), 0, pictures_in(fragment))


def pictures_in(fragment: str) -> dict[str, Mapping[str, str]]:
    """What a fragment says of its pictures (alt text, width and height) by their addresses."""
    return {
        html.unescape(found[1]): {name: html.unescape(value) for name, value in _ATTRIBUTE.findall(found[2])}
        for found in _PICTURE.finditer(fragment)
    }


def _flow(parts: Sequence[Paragraph], depth: int, pictures: Mapping[str, Mapping[str, str]]) -> str:
    """Paragraphs as blocks with an empty line between them; `depth` of their containers are open around them."""
    blocks: list[str] = []
    for name, run in groupby(_runs(parts, depth), key=lambda pair: pair[0]):
        some = [part for _, part in run]
        kind = name[0]
        if kind == "blockquote":
            made = _prefixed(_flow(some, depth + 1, pictures), "> ", "> ")
        elif kind in ("ul", "ol"):
            made = _list(kind, some, depth, pictures)
        elif kind == "table":
            made = _table(some)
        else:
            made = "\n\n".join(_block(part, pictures) for part in some)
        blocks.append(made)
    return "\n\n".join(blocks)


def _runs(parts: Sequence[Paragraph], depth: int) -> Iterator[tuple[tuple[str, int], Paragraph]]:
    """Each paragraph with the container that it stands in here, and the number of that: the next of a kind may be another."""
    number, before = 0, ""
    for part in parts:
        name = part.path[depth] if len(part.path) > depth else ""
        if name != before or (name == "table" and part.src):
            number += 1
        before = name
        yield (name, number), part


def _prefixed(text: str, first: str, then: str) -> str:
    lines = text.split("\n")
    return "\n".join(
        (first if n == 0 else then) + line if line else (first if n == 0 else then).rstrip()
        for n, line in enumerate(lines)
    )


def _list(
    kind: str, parts: Sequence[Paragraph], depth: int, pictures: Mapping[str, Mapping[str, str]]
) -> str:
    """A list: each item with what lies deeper below it."""
    items: list[list[Paragraph]] = []
    for part in parts:
        if not items or len(part.path) == depth + 1:
            items.append([])
        items[-1].append(part)
    out: list[str] = []
    for number, item in enumerate(items, 1):
        mark = "- " if kind == "ul" else f"{number}. "
        own = [part for part in item if len(part.path) == depth + 1]
        deeper = [part for part in item if len(part.path) > depth + 1]
        text = _words(own[0].inner) if own else ""
        if deeper:
            text += ("\n" if text else "") + _flow(deeper, depth + 1, pictures)
        out.append(_prefixed(text, mark, " " * len(mark)))
    return "\n".join(out)


def _table(parts: Sequence[Paragraph]) -> str:
    """A table (GitHub Flavored Markdown section 4.10): its first row heads it where it is one of heads, else nothing does."""
    rows = [[(tag, _words(inner, breaks=False)) for tag, inner in tables.cells(p.inner)] for p in parts]
    heads = bool(rows[0]) and all(tag == "th" for tag, _ in rows[0])
    if not heads:
        rows.insert(0, [])
    wide = max(len(row) for row in rows)
    lines = [_row([text for _, text in row], wide) for row in rows]
    lines.insert(1, _row(["---"] * wide, wide))
    return "\n".join(lines)


def _row(cells: Sequence[str], wide: int) -> str:
    return "| " + " | ".join([*cells, *[""] * (wide - len(cells))]) + " |"


def _block(part: Paragraph, pictures: Mapping[str, Mapping[str, str]]) -> str:
    if part.tag == "hr":
        return "---"
    if part.tag == "figure":
        alt = _text(pictures.get(part.src, {}).get("alt", ""), start=False)
        picture = f"![{alt}]({_address(part.src)})"
        return f"{picture}\\\n{_words(part.inner)}" if part.inner else picture
    if part.tag in _LEVELS:
        return _LEVELS[part.tag] + _words(part.inner, breaks=False)
    return _words(part.inner)


def _words(inner: str, *, breaks: bool = True) -> str:
    """Inline HTML as Markdown."""
    node = parsed(f"<p>{inner}</p>").find("p")
    return "".join(_inline(node, breaks, [], "")) if node is not None else ""


def _inline(node: etree._Element, breaks: bool, out: list[str], within: str) -> list[str]:
    """What a node holds, after what is out already; `within` is the mark around it."""
    _put(out, _text(node.text or "", start=_at_start(out)))
    for child in node:
        _put(out, _element(child, breaks, out, within))
        _put(out, _text(child.tail or "", start=_at_start(out)))
    return out


def _put(out: list[str], text: str) -> None:
    if text:
        out.append(text)


def _at_start(out: Sequence[str]) -> bool:
    return not out or out[-1].endswith("\n")


def _element(node: etree._Element, breaks: bool, out: Sequence[str], within: str) -> str:
    tag = str(node.tag)
    if tag == "br":
        return "\\\n" if breaks else "<br>"
    if tag == "code":
        return _code(node, breaks, out, within)
    mark = _MARKS.get(tag, "")
    if tag == "a":
        return f"[{_held(node, breaks, '[', within)}]({_address(node.get('href', ''))})"
    if mark and not within:
        held = _held(node, breaks, mark, mark)
        if _read(mark, out[-1] if out else "", held, _after(node)):
            return f"{mark}{held}{mark}"
    attributes = "".join(f' {name}="{html.escape(value)}"' for name, value in sorted(node.items()))
    return f"<{tag}{attributes}>{_held(node, breaks, '>', within or mark)}</{tag}>"


def _held(node: etree._Element, breaks: bool, opened: str, within: str) -> str:
    """What a node holds, after the sign that opens it."""
    return "".join(_inline(node, breaks, [opened], within)[1:])


def _after(node: etree._Element) -> str | None:
    """The character after a node; None where another node comes first, of which that is not known."""
    if node.tail:
        return _text(node.tail, start=False)[0]
    nearest = node.getnext()
    if nearest is not None:
        return "\\" if nearest.tag == "br" else None
    return ""


def _read(mark: str, before: str, held: str, after: str | None) -> bool:
    """Whether marks around words are read as such (CommonMark section 6.2): not beside a space inside, nor between a letter and a sign."""
    if (
        after is None
        or not held
        or held[0].isspace()
        or held[-1].isspace()
        or mark[0] in held.replace("\\", "")
    ):
        return False
    if before.endswith(("*", "~")) or after in ("*", "~"):
        return False
    opens = not _sign(held[0]) or not before or before[-1].isspace() or _sign(before[-1])
    closes = not _sign(held[-1]) or not after or after.isspace() or _sign(after)
    return opens and closes


def _sign(character: str) -> bool:
    return unicodedata.category(character)[0] in "PS"


def _text(text: str, *, start: bool) -> str:
    """Words with their signs kept from being read as marks; spaces that are none of ASCII as references."""
    made = _SPECIAL.sub(r"\\\g<0>", text)
    made = "".join(_space(one) if one.isspace() and one != " " else one for one in made)
    found = _LINE_START.match(made) if start else None
    if found is None:
        return made
    return f"{found[1]}\\{made[len(found[1]) :]}" if found[1] else f"\\{made}"


def _space(one: str) -> str:
    return "&nbsp;" if one == "\xa0" else f"&#{ord(one)};"


def _code(node: etree._Element, breaks: bool, out: Sequence[str], within: str) -> str:
    text = node.text or ""
    odd = (
        any(one.isspace() and one != " " for one in text) or not text.strip() or (not breaks and "|" in text)
    )
    if len(node) or odd or (out and out[-1].endswith("`")):
        return f"<code>{_held(node, breaks, '>', within)}</code>"
    ticks = "`" * (max((len(run) for run in _TICKS.findall(text)), default=0) + 1)
    if text[0] in "` " or text[-1] in "` ":
        text = f" {text} "
    return f"{ticks}{text}{ticks}"


def _address(href: str) -> str:
    if _PLAIN_ADDRESS.fullmatch(href):
        return href
    return "<" + re.sub(r"[\\<>&*_`\[\]!|]", r"\\\g<0>", href.replace("\n", "")) + ">"
