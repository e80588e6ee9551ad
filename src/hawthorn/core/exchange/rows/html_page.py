"""A page of HTML (the WHATWG standard, as libxml2 reads it): what its head says, its first heading, and its body without what frames it."""

from __future__ import annotations

import re
from typing import Any

from lxml import etree, html

from hawthorn.core.errors import BadFile
from hawthorn.core.exchange.rows.base import Html

_FRAME = ("nav", "header", "footer", "aside", "script", "style", "form", "noscript", "template")
_NAME = re.compile(r"[\w:.-]{1,80}")
_DECLARED = re.compile(rb"<meta[^>]+charset|<\?xml[^>]+encoding", re.IGNORECASE)


def cells(data: bytes) -> dict[str, Any]:
    """The columns of a page: title, language, canonical, each named `meta`, heading and body. Raises `BadFile` for what holds nothing."""
    parser = html.HTMLParser(
        encoding=None if _DECLARED.search(data[:4096]) else _encoding(data), no_network=True
    )
    try:
        page = html.document_fromstring(data, parser=parser)
    except (etree.ParserError, etree.XMLSyntaxError, ValueError):
        raise BadFile("rows.no_page") from None
    out: dict[str, Any] = {}
    for node in page.iter("meta"):
        name = node.get("name") or node.get("property") or ""
        if _NAME.fullmatch(name) and node.get("content"):
            out.setdefault(f"meta.{name}", node.get("content"))
    for name, found in (
        ("title", page.findtext(".//title")),
        ("language", page.get("lang")),
        ("canonical", next((n.get("href") for n in page.iter("link") if n.get("rel") == "canonical"), None)),
    ):
        if found and found.strip():
            out[name] = " ".join(found.split())
    heading, body = without_heading(_inside(_unframed(_main(page))))
    if heading:
        out = {"title": heading, **out, "heading": heading}
    return {**out, "body": Html(body)}


def _encoding(data: bytes) -> str:
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        # Without a word about it, that is what the standard has for the West (section 13.2.3.2).
        return "windows-1252"
    return "utf-8"


def _main(page: Any) -> Any:
    """The part of a page that says what it is about."""
    for path in (".//main", ".//*[@role='main']", ".//article", ".//body"):
        found = page.find(path)
        if found is not None:
            return found
    return page


def _unframed(node: Any) -> Any:
    """A node without what frames a page."""
    for frame in list(node.iter(*_FRAME)):
        if frame is not node:
            frame.drop_tree()
    return node


def _inside(node: Any) -> str:
    """What a node holds."""
    return (node.text or "") + "".join(html.tostring(child, encoding="unicode") for child in node)


def without_heading(fragment: str) -> tuple[str, str]:
    """The words of the first heading of the first level of a fragment, and the fragment without it."""
    if "<h1" not in fragment:
        return "", fragment
    root = html.fragment_fromstring(fragment, create_parent="div")
    found = root.find(".//h1")
    if found is None:
        return "", fragment
    words = " ".join(found.text_content().split())
    found.drop_tree()
    return words, _inside(root)
