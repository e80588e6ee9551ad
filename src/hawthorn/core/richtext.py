"""Rich text: a canonical HTML fragment, its paragraphs, and the ids that name them over time.

Canonical means that equal content has equal bytes, so hashes can be compared. The text itself holds no
ids. A *paragraph* is the smallest block that is merged and translated on its own: a paragraph, a heading, a
list item, a row of a table, a picture with its caption, a rule. Lists, quotes and tables are the `path` of their
paragraphs, so that a rich text is a flat list of paragraphs and back again without loss. `core.tables` knows the cells of
a row.
"""

from __future__ import annotations

import hashlib
import html
import re
from collections.abc import Iterable, Sequence
from functools import lru_cache

import nh3
from lxml import etree

from hawthorn.core.quick import dataclass
from hawthorn.core.remembering import kept_by_length

INLINE = {"strong", "em", "s", "code", "sub", "sup", "a", "br", "span"}
CONTAINERS = {"ul", "ol", "blockquote", "table"}
TEXT_LEAVES = {"p", "h2", "h3", "h4", "li"}
CELLS = ("th", "td")
_RENAMED = {
    "b": "strong",
    "i": "em",
    "strike": "s",
    "del": "s",
    "h1": "h2",
    "h5": "h4",
    "h6": "h4",
    "div": "p",
}
ALLOWED = (
    INLINE | CONTAINERS | TEXT_LEAVES | {"figure", "figcaption", "img", "hr", "tr", *CELLS} | set(_RENAMED)
)
_ATTRIBUTES = {"a": {"href"}, "span": {"lang", "dir"}, "img": {"src"}, "hr": {"class"}}
_SPANS = {"td": {"colspan"}, "th": {"colspan"}}
"""Looked at for the cells that stand in its place."""
_WIDEST = 20
SCHEMES = {"http", "https", "mailto", "tel", "urn"}
_SPACES = re.compile(r"[ \t\r\n\f]+")
_FLAT = re.compile(r"(<(p|h[234])>([^<]*(?:<(?!/?(?:p|h[234])[\s>])[^<]*)*)</\2>)")
_AROUND_BREAK = re.compile(r" ?<br> ?")
_LOOSE_CELL = re.compile(r"(?:</?t[hd]>)+")
_CONTROLS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff\ufffe\uffff]")
_CLEANER = nh3.Cleaner(
    tags=ALLOWED | {"caption"},
    attributes=_ATTRIBUTES | _SPANS,
    url_schemes=SCHEMES,
    link_rel=None,
    clean_content_tags={"script", "style"},
    strip_comments=True,
)
_PARSER = etree.HTMLParser(encoding="utf-8", no_network=True)

OPENING = "opening"
"""The class of the rule that marks where the opening of a text ends."""
APART = "apart"
"""What the first row of a table has in the place of an address where another table stands right before it."""


@dataclass(frozen=True, slots=True)
class Paragraph:
    """One paragraph: its containers from the outside in, its tag, its inner HTML, and a picture's address.

    The inner HTML of a row ("tr") is its cells.
    """

    path: tuple[str, ...]
    tag: str
    inner: str
    src: str = ""

    @property
    def hash(self) -> str:
        """Sixteen hexadecimal digits that are equal when the paragraph is equal."""
        return _hash("\x1f".join((*self.path, self.tag)), self.inner, self.src)


def _hash(tag: str, inner: str, src: str = "") -> str:
    return hashlib.sha256(f"{tag}\x1f{src}\x1f{inner}".encode()).hexdigest()[:16]


@dataclass(frozen=True, slots=True)
class ParagraphId:
    """The identity of one paragraph and the hash of what it held in this revision."""

    id: str
    hash: str


ParagraphIds = tuple[ParagraphId, ...]


def is_opening(named: str | None) -> bool:
    """Whether the class of a rule says that the opening of the text ends there, in whatever case and beside what else."""
    return OPENING in (named or "").lower().split()


def standing(inner: str) -> str:
    """Inner HTML in a text by itself: the cells of a row in a table, everything else in a paragraph."""
    if inner.startswith(("<td>", "<th>")):
        return f"<table><tr>{inner}</tr></table>"
    return f"<p>{inner}</p>" if inner else ""


def without_controls(text: str) -> str:
    """Drop characters that XML 1.0 (section 2.2) cannot carry."""
    # What can be printed has none; to see that is quicker.
    return text if text.isprintable() else _CONTROLS.sub("", text)


def canonical(fragment: str) -> str:
    """Sanitise a fragment and give it its one canonical form."""
    return _made(fragment)


@kept_by_length(short=0, long=4)
def _made(fragment: str) -> str:
    blocks = _divided(fragment)
    if blocks and all(plain for *_, plain in blocks):
        return fragment
    return join(paragraphs(clean(fragment)))


def from_plain(text: str) -> str:
    """Plain words as a fragment: a paragraph after each empty line, a break at each other."""
    parts = [one.strip() for one in re.split(r"\n\s*\n", text.replace("\r\n", "\n"))]
    return "".join(
        "<p>" + html.escape(one, quote=False).replace("\n", "<br>") + "</p>" for one in parts if one
    )


def clean(fragment: str) -> str:
    """Keep only what the allow-list has; links and pictures only with safe schemes."""
    return _CLEANER.clean(without_controls(fragment))


def paragraphs(fragment: str) -> list[Paragraph]:
    """Split a clean fragment into paragraphs; parse it first with `clean` when it comes from outside."""
    if not fragment.strip():
        return []
    blocks = _divided(fragment)
    if blocks is None:
        return list(_split(fragment))
    out: list[Paragraph] = []
    for whole, tag, text, plain in blocks:
        out += (Paragraph((), tag, text),) if plain else _block(whole)
    return out


def hashes(fragment: str, known: dict[str, list[str]]) -> list[str]:
    """What each paragraph of a clean fragment hashes to. `known` gathers what was worked out: from one revision to the next, most of them stay as they are."""
    blocks = _divided(fragment)
    if blocks is None:
        return [one.hash for one in paragraphs(fragment)]
    out: list[str] = []
    for whole, tag, text, plain in blocks:
        if whole not in known:
            known[whole] = [_hash(tag, text)] if plain else [one.hash for one in _block(whole)]
        out += known[whole]
    return out


def _is_plain(text: str) -> bool:
    """Whether a text is nothing but words with single spaces between them, all of them letters that can be seen: those stand as they are kept."""
    return (
        text.isprintable()
        and not ("<" in text or "&" in text or ">" in text or "  " in text)
        and text[:1] not in ("", " ")
        and text[-1] != " "
    )


@lru_cache(maxsize=16)
def _divided(fragment: str) -> list[tuple[str, str, str, bool]] | None:
    """A clean fragment of nothing but paragraphs and headings side by side, as the whole, the tag and the inside of each, and whether that is plain; None for
    one with anything else in it. Each of them is then what it would be by itself."""
    if not fragment.startswith(("<p>", "<h")):
        return None
    found: list[tuple[str, str, str]] = _FLAT.findall(fragment)
    if sum(len(whole) for whole, _, _ in found) != len(fragment):
        return None
    return [(whole, tag, text, _is_plain(text)) for whole, tag, text in found]


@kept_by_length(short=2048, long=4)
def inner(text: str) -> str:
    """The inner HTML of a paragraph as it is kept: that of the first which a text makes; nothing for one that makes none."""
    if _is_plain(text):
        return text
    made = _Splitter().split(parsed(f"<p>{text}</p>")) if text else []
    return made[0].inner if made else ""


@kept_by_length(short=2048, long=4)
def _block(fragment: str) -> tuple[Paragraph, ...]:
    """What one paragraph or heading makes: from one revision to the next, most of them stay as they are."""
    return tuple(_Splitter().split(parsed(fragment)))


@kept_by_length(short=128, long=3)
def _split(fragment: str) -> tuple[Paragraph, ...]:
    """The same of a whole text: saving asks it of one text several times, and of the text before."""
    return tuple(_Splitter().split(parsed(fragment)))


def parsed(fragment: str) -> etree._Element:
    """A clean fragment as the tree of its body."""
    # What the parser would put into a head by itself belongs to the text: the body is begun for it.
    root = etree.fromstring(f"<html><body>{fragment}</body></html>".encode(), _PARSER)
    body = root.find("body")
    assert body is not None
    return body


def join(parts: Iterable[Paragraph]) -> str:
    """Paragraphs back to HTML, adjacent items of one list together."""
    out: list[str] = []
    stack: list[str] = []
    for paragraph in parts:
        _close_to(out, stack, paragraph)
        for container in paragraph.path[_depth(stack) :]:
            out.append(f"<{container}>")
            stack.append(container)
        out.append(_opened(paragraph))
        if paragraph.tag == "li":
            stack.append("li")
    while stack:
        out.append(f"</{stack.pop()}>")
    return "".join(out)


def _depth(stack: Sequence[str]) -> int:
    return sum(1 for tag in stack if tag != "li")


def _close_to(out: list[str], stack: list[str], paragraph: Paragraph) -> None:
    while stack and not _holds(stack, paragraph):
        out.append(f"</{stack.pop()}>")


def _holds(stack: Sequence[str], paragraph: Paragraph) -> bool:
    if paragraph.src == APART:
        return False
    containers = tuple(tag for tag in stack if tag != "li")
    if paragraph.path[: len(containers)] != containers:
        return False
    # An open item can only hold a deeper list; a sibling or anything else closes it first.
    return stack[-1] != "li" or len(paragraph.path) > len(containers)


def _opened(paragraph: Paragraph) -> str:
    if paragraph.tag == "hr":
        return f'<hr class="{OPENING}">' if paragraph.src else "<hr>"
    if paragraph.tag == "figure":
        caption = f"<figcaption>{paragraph.inner}</figcaption>" if paragraph.inner else ""
        return f'<figure><img src="{html.escape(paragraph.src)}">{caption}</figure>'
    if paragraph.tag == "li":
        return f"<li>{paragraph.inner}"
    return f"<{paragraph.tag}>{paragraph.inner}</{paragraph.tag}>"


class _Splitter:
    """Walks the parsed tree once and collects paragraphs."""

    def __init__(self) -> None:
        self.out: list[Paragraph] = []

    def split(self, root: etree._Element) -> list[Paragraph]:
        self._flow(root, (), "p")
        return self.out

    def _flow(self, node: etree._Element, path: tuple[str, ...], tag: str) -> None:
        """Content in which inline runs and blocks may alternate; loose runs become `tag` paragraphs."""
        run: list[str] = [_escaped(node.text)] if node.text else []
        for child in node:
            if isinstance(child.tag, str):
                name = _RENAMED.get(child.tag, child.tag)
                if name in INLINE and not _has_block(child):
                    run.append(_inline(child))
                else:
                    self._emit(path, tag, run)
                    run = []
                    self._block(child, name, path, tag)
            if child.tail:
                run.append(_escaped(child.tail))
        self._emit(path, tag, run)

    def _block(self, node: etree._Element, name: str, path: tuple[str, ...], tag: str) -> None:
        if name in ("ul", "ol"):
            inside = (*path, name)
            # Words that stand in a list by themselves are items of it.
            self._emit(inside, "li", [_escaped(node.text)])
            for item in node:
                if item.tag in ("ul", "ol"):
                    # A list of either kind that stands where an item should.
                    self._block(item, item.tag, inside, "li")
                elif isinstance(item.tag, str):
                    self._flow(item, inside, "li")
                self._emit(inside, "li", [_escaped(item.tail)])
        elif name == "blockquote":
            self._flow(node, (*[p for p in path if p == "blockquote"], name), "p")
        elif name == "hr":
            self.out.append(Paragraph((), "hr", "", OPENING if is_opening(node.get("class")) else ""))
        elif name == "table":
            self._table(node)
        elif name in ("img", "figure"):
            self._figure(node)
        elif name in ("h2", "h3", "h4") and not _has_block(node):
            self._emit(() if "ul" in path or "ol" in path else path, name, [_inner(node)])
        else:
            self._flow(node, path, tag)

    def _table(self, node: etree._Element) -> None:
        """Rows with their cells; what says over it what it holds goes before it, and pictures and rules go after it."""
        for caption in node.findall("caption"):
            self._flow(caption, (), "p")
        apart = APART if self.out and self.out[-1].tag == "tr" else ""
        below: list[Paragraph] = []
        for row in (
            tr for part in (node, *node.iterchildren("thead", "tbody", "tfoot")) for tr in part.findall("tr")
        ):
            inner = "".join(_cell(cell, below) for cell in row.iterchildren(*CELLS))
            if inner:
                self.out.append(Paragraph(("table",), "tr", inner, apart))
                apart = ""
        self.out += below

    def _figure(self, node: etree._Element) -> None:
        pictures = [node] if node.tag == "img" else list(node.iter("img"))
        caption = next(iter(node.iter("figcaption")), None)
        inner = _tidy(_flat(caption)) if caption is not None else ""
        for picture in pictures:
            src = picture.get("src", "").strip()
            if src:
                self.out.append(Paragraph((), "figure", inner, src))
        if not pictures and inner:
            self.out.append(Paragraph((), "p", inner))

    def _emit(self, path: tuple[str, ...], tag: str, run: Sequence[str]) -> None:
        inner = _tidy("".join(run)) if run else ""
        if inner:
            self.out.append(Paragraph(path, tag, inner))


def _cell(node: etree._Element, below: list[Paragraph]) -> str:
    """One cell, its paragraphs as lines of it; what no cell holds is put below. A cell over several columns is that many."""
    parts = _Splitter().split(node)
    below += [part for part in parts if part.tag in ("figure", "hr")]
    lines = [p.inner for p in parts if p.inner and p.tag not in ("figure", "hr")]
    words = "<br>".join(_LOOSE_CELL.sub(" ", line).strip(" ") for line in lines)
    wide = node.get("colspan", "")
    over = min(int(wide), _WIDEST) - 1 if wide.isascii() and wide.isdigit() else 0
    return f"<{node.tag}>{words}</{node.tag}>" + f"<{node.tag}></{node.tag}>" * over


def _has_block(node: etree._Element) -> bool:
    return any(
        isinstance(d.tag, str) and _RENAMED.get(d.tag, d.tag) not in INLINE for d in node.iterdescendants()
    )


def _squeezed(text: str) -> str:
    """Runs of white space as one space; most texts have none, and looking is cheaper than replacing."""
    if "  " in text or "\n" in text or "\t" in text or "\r" in text or "\f" in text:
        return _SPACES.sub(" ", text)
    return text


def _escaped(text: str | None) -> str:
    if not text:
        return ""
    text = _squeezed(text)
    return html.escape(text, quote=False)


def _inner(node: etree._Element) -> str:
    return _escaped(node.text) + "".join(
        (_inline(child) if isinstance(child.tag, str) else "") + _escaped(child.tail) for child in node
    )


def _flat(node: etree._Element) -> str:
    """Inner HTML with blocks dissolved, for places that hold inline text alone."""
    parts = [_escaped(node.text)]
    for child in node:
        if isinstance(child.tag, str):
            name = _RENAMED.get(child.tag, child.tag)
            parts.append(_inline(child) if name in INLINE else f" {_flat(child)} ")
        parts.append(_escaped(child.tail))
    return "".join(parts)


def _inline(node: etree._Element) -> str:
    name = _RENAMED.get(node.tag, node.tag)
    if name == "br":
        return "<br>"
    inner = _flat(node)
    attributes = "".join(
        f' {key}="{html.escape(node.get(key, ""))}"'
        for key in sorted(_ATTRIBUTES.get(name, ()))
        if node.get(key)
    )
    if name not in INLINE or (name in ("a", "span") and not attributes):
        return inner
    return f"<{name}{attributes}>{inner}</{name}>" if inner else ""


def _tidy(inner: str) -> str:
    """Collapse white space at the edges and around line breaks; drop what holds nothing."""
    inner = _squeezed(inner)
    if "<br>" not in inner:
        return inner.strip(" ")
    inner = _AROUND_BREAK.sub("<br>", inner).strip(" ")
    while inner.startswith("<br>"):
        inner = inner[4:]
    while inner.endswith("<br>"):
        inner = inner[:-4]
    return inner


_TAG = re.compile(r"<[^>]*>")
_BETWEEN_CELLS = re.compile(r"</t[hd]>(?=<t)")


def text_of(fragment: str) -> str:
    """The words alone, one line per paragraph."""
    return "\n".join(plain(paragraph.inner) for paragraph in paragraphs(fragment) if paragraph.inner)


def plain(inner: str) -> str:
    """Inner HTML without its tags, a break as a new line, and a tab between the cells of a row."""
    if "<" not in inner and "&" not in inner:
        return inner
    if "</t" in inner:
        inner = _BETWEEN_CELLS.sub("\t", inner)
    return html.unescape(_TAG.sub("", inner.replace("<br>", "\n")))


def opening(fragment: str, most: int = 200) -> str:
    """The opening of a text as words: up to its mark, else cut at a word to at most `most` characters."""
    parts = paragraphs(fragment)
    marked = next(
        (n for n, paragraph in enumerate(parts) if paragraph.tag == "hr" and paragraph.src == OPENING), None
    )
    text = " ".join(
        plain(paragraph.inner)
        for paragraph in parts[:marked]
        if paragraph.inner and paragraph.tag not in ("figure", "tr")
    )
    return cut(" ".join(text.split()), most)


def cut(text: str, most: int) -> str:
    """Words cut to a length, never inside a word where the script has spaces; an ellipsis says so."""
    if len(text) <= most:
        return text
    head = text[: most - 1]
    if not text[most - 1].isspace() and " " in head:
        head = head[: head.rindex(" ")]
    return head.rstrip(" ,;:–-") + "…"


def split_opening(fragment: str) -> tuple[str, str]:
    """A text without its opening mark, and its opening as HTML, or nothing when it has no mark."""
    parts = paragraphs(fragment)
    marked = next(
        (n for n, paragraph in enumerate(parts) if paragraph.tag == "hr" and paragraph.src == OPENING), None
    )
    if marked is None:
        return fragment, ""
    rest = [paragraph for paragraph in parts if not (paragraph.tag == "hr" and paragraph.src == OPENING)]
    return join(rest), join(parts[:marked])


def links_of(fragment: str) -> set[str]:
    """The `urn:uuid:` addresses that a fragment links to or shows, without their prefix."""
    if "urn:uuid:" not in fragment:
        return set()
    return set(re.findall(r'(?:href|src)="urn:uuid:([0-9a-fA-F-]{36})"', fragment))


def pictures_of(fragment: str) -> set[str]:
    """The entries whose pictures a fragment shows."""
    return set(re.findall(r'<img src="urn:uuid:([0-9a-fA-F-]{36})"', fragment))
