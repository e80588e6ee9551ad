"""What pages that come in together lead to and show: from one file to another, and to entries once the files are such."""

from __future__ import annotations

import html
import posixpath
import re
from collections.abc import Callable, Collection, Iterator
from urllib.parse import unquote, urlsplit

_HREF = re.compile(r'(<a\b[^<>]*?\bhref=")([^"]*)(")')
_IMG = re.compile(r'<img\b(?:[^<>"]|"[^"]*")*>')
_PAGES = (".md", ".markdown", ".html", ".htm")
_ATTRIBUTE = re.compile(r'\b(src|alt)="([^"]*)"')


def led_to_entries(markup: str, place: str, entry: Callable[[str], str]) -> str:
    """Markup of a page in which links to files beside it lead to entries (`urn:uuid:…`); `entry` says which a file is (a UUID), nothing for none."""

    def led(found: re.Match[str]) -> str:
        path = target(place, html.unescape(found[2]))
        uuid = entry(path) if path else ""
        return f"{found[1]}urn:uuid:{uuid}{found[3]}" if uuid else found[0]

    return _HREF.sub(led, markup)


def pictures(markup: str, place: str) -> Iterator[tuple[str, str]]:
    """The files beside a page that it shows, each with its alt text."""
    for found in _IMG.finditer(markup):
        path, alt = _shown(found[0], place)
        if path:
            yield path, alt


def shown_by_entries(markup: str, place: str, entry: Callable[[str], str]) -> str:
    """Markup of a page in which pictures beside it are shown by entries (`urn:uuid:…`); those that `entry` has nothing for go."""

    def led(found: re.Match[str]) -> str:
        path, _ = _shown(found[0], place)
        if not path:
            return found[0]
        uuid = entry(path)
        return f'<img src="urn:uuid:{uuid}">' if uuid else ""

    return _IMG.sub(led, markup)


def nowhere(markup: str, place: str, pages: Collection[str]) -> list[str]:
    """The pages that a page leads to and that are not among those that come along."""
    led = (target(place, html.unescape(href)) for _, href, _ in _HREF.findall(markup))
    return list(dict.fromkeys(path for path in led if path not in pages and path.endswith(_PAGES)))


def _shown(img: str, place: str) -> tuple[str, str]:
    told = {name: html.unescape(value) for name, value in _ATTRIBUTE.findall(img)}
    return target(place, told.get("src", "")), told.get("alt", "")


def target(place: str, href: str) -> str:
    """The file that a link on a page leads to, as a path in the archive; empty for one that leads elsewhere."""
    try:
        parts = urlsplit(href)
    except ValueError:
        return ""
    if parts.scheme or parts.netloc or not parts.path:
        return ""
    path = unquote(parts.path)
    base = "" if path.startswith("/") else posixpath.dirname(place)
    return posixpath.normpath(posixpath.join(base, path.lstrip("/")))
