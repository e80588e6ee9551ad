"""Feeds and maps of sites as they are sent: Atom (RFC 4287), JSON Feed 1.1, the site map protocol 0.9 with `xhtml:link` for other languages, and
CSV (RFC 4180)."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Iterator
from typing import Any

from lxml import etree

from hawthorn.core.richtext import without_controls
from hawthorn.operations.delivery.feeds import Feed, Item, Mapped

ATOM = "http://www.w3.org/2005/Atom"
MAP = "http://www.sitemaps.org/schemas/sitemap/0.9"
XHTML = "http://www.w3.org/1999/xhtml"
_LANG = "{http://www.w3.org/XML/1998/namespace}lang"


def atom(feed: Feed, here: str, next_page: str) -> bytes:
    """A feed as Atom; `here` is its own address, `next_page` that of the page after it (RFC 5005, section 3)."""
    root = etree.Element(f"{{{ATOM}}}feed", nsmap={None: ATOM})
    root.set(_LANG, feed.locale)
    _put(root, "id", here)
    _put(root, "title", feed.title)
    _put(root, "updated", feed.changed)
    _put(root, "author", "").append(_made("name", feed.title))
    etree.SubElement(root, f"{{{ATOM}}}link", rel="self", href=here, type="application/atom+xml")
    etree.SubElement(root, f"{{{ATOM}}}link", rel="alternate", href=f"{feed.home}/", type="text/html")
    if next_page:
        etree.SubElement(root, f"{{{ATOM}}}link", rel="next", href=next_page, type="application/atom+xml")
    for one in feed.items:
        _entry(root, one, feed.locale)
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8"))


def _entry(root: etree._Element, one: Item, locale: str) -> None:
    node = etree.SubElement(root, f"{{{ATOM}}}entry")
    if one.locale != locale:
        node.set(_LANG, one.locale)
    _put(node, "id", one.id)
    _put(node, "title", one.title)
    etree.SubElement(
        node, f"{{{ATOM}}}link", rel="alternate", href=one.url, type="text/html", hreflang=one.locale
    )
    _put(node, "published", one.published)
    _put(node, "updated", one.changed)
    for tag in one.tags:
        etree.SubElement(node, f"{{{ATOM}}}category", term=without_controls(tag))
    if one.summary:
        _put(node, "summary", one.summary)
    if one.text:
        _put(node, "content", one.text).set("type", "html")
    if one.picture:
        etree.SubElement(node, f"{{{ATOM}}}link", rel="enclosure", href=one.picture)


def _made(name: str, text: str) -> etree._Element:
    node = etree.Element(f"{{{ATOM}}}{name}")
    node.text = without_controls(text)
    return node


def _put(node: etree._Element, name: str, text: str) -> etree._Element:
    made = _made(name, text)
    node.append(made)
    return made


def json_feed(feed: Feed, here: str, next_page: str) -> bytes:
    """A feed as JSON Feed 1.1."""
    out: dict[str, Any] = {
        "version": "https://jsonfeed.org/version/1.1",
        "title": feed.title,
        "home_page_url": f"{feed.home}/",
        "feed_url": here,
        "language": feed.locale,
        **({"next_url": next_page} if next_page else {}),
        "items": [_line(one) for one in feed.items],
    }
    return json.dumps(out, ensure_ascii=False, separators=(",", ":")).encode()


def _line(one: Item) -> dict[str, Any]:
    content = {"content_html": one.text} if one.text else {"content_text": one.summary or one.title}
    more = {"summary": one.summary, "image": one.picture, "tags": one.tags}
    return {
        "id": one.id,
        "url": one.url,
        "title": one.title,
        **content,
        "date_published": one.published,
        "date_modified": one.changed,
        "language": one.locale,
        **{name: value for name, value in more.items() if value},
    }


def map_index(home: str, parts: Iterable[tuple[int, str]]) -> bytes:
    """The map of a site: where its parts are, on the site itself."""
    root = etree.Element(f"{{{MAP}}}sitemapindex", nsmap={None: MAP})
    for number, changed in parts:
        node = etree.SubElement(root, f"{{{MAP}}}sitemap")
        etree.SubElement(node, f"{{{MAP}}}loc").text = f"{home}/sitemap-{number}.xml"
        etree.SubElement(node, f"{{{MAP}}}lastmod").text = changed
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8"))


def map_part(pages: Iterable[Mapped]) -> bytes:
    """A part of the map of a site."""
    root = etree.Element(f"{{{MAP}}}urlset", nsmap={None: MAP, "xhtml": XHTML})
    for page in pages:
        node = etree.SubElement(root, f"{{{MAP}}}url")
        etree.SubElement(node, f"{{{MAP}}}loc").text = page.url
        etree.SubElement(node, f"{{{MAP}}}lastmod").text = page.changed
        for locale, url in page.others:
            etree.SubElement(node, f"{{{XHTML}}}link", rel="alternate", hreflang=locale, href=url)
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8"))


def robots(home: str) -> str:
    """What programs that walk a site are told (RFC 9309): they may, and where its map is."""
    return f"User-agent: *\nAllow: /\n\nSitemap: {home}/sitemap.xml\n"


def redirects(some: Iterable[tuple[str, str]]) -> Iterator[bytes]:
    """Old addresses and where they lead, as CSV with a head, in pieces."""
    yield b"from,to\r\n"
    for pair in some:
        line = io.StringIO()
        csv.writer(line).writerow(pair)
        yield line.getvalue().encode()
