"""What programs that watch a site read: lists as feeds, the map of a site, and where its old addresses lead."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any

from hawthorn.core import sites
from hawthorn.core.errors import NotFound
from hawthorn.core.quick import dataclass
from hawthorn.core.sites import Site
from hawthorn.core.timeline import iso
from hawthorn.operations.delivery import reading, relations
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.delivery.reading_lists import Wish
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries
from hawthorn.store import feeds as store
from hawthorn.store.standings import RELEASE

AT_ONCE = 2_000
"""So many entries one part of a map holds at most; with their languages it stays far below the 50,000 addresses that one may have."""
_LINK = re.compile(r'(href|src)="/(?!/)')


@dataclass(frozen=True, slots=True)
class Item:
    """A line of a feed; `text` is HTML with whole addresses."""

    id: str
    url: str
    title: str
    summary: str
    text: str
    published: str
    changed: str
    locale: str
    tags: list[str]
    picture: str


@dataclass(frozen=True, slots=True)
class Feed:
    """A list as a feed: what it is called, the site that it is of, and its lines."""

    title: str
    home: str
    locale: str
    changed: str
    items: list[Item]


@dataclass(frozen=True, slots=True)
class Mapped:
    """A page of a site's map, with the same page in other languages and when it changed last."""

    url: str
    changed: str
    others: list[tuple[str, str]]


def site_of(view: View, name: str) -> Site:
    """A site that shows what is out. Raises `NotFound`."""
    site = view.setup.sites.get(name)
    if site is None or not site.shows_what_is_out:
        raise NotFound("feeds.no_site", name=name)
    return site


def home_of(site: Site) -> str:
    """Where a site begins, without a slash at its end."""
    return sorted(site.origins)[0]


def feed(view: View, name: str, wish: Wish) -> tuple[Feed, str, list[str]]:
    """A list of what is out as a feed of a site, with the cursor of its next page, and the types that it depends on; what has no page
    there is left out."""
    site = site_of(view, name)
    found, _ = relations.answer(view, Place(), wish)
    items: list[Item] = []
    for data in found.items:
        body: dict[str, Any] = json.loads(data)
        url = address(site, body["type"], body["path"], body["locale"], body["id"])
        if url:
            items.append(_item(view, site, body, url))
    locale = wish.locale or next(iter(view.setup.locales))
    # An empty one is the same whenever it is asked for.
    changed = max((one.changed for one in items), default=iso(0))
    return Feed(site.label or site.name, home_of(site), locale, changed, items), found.next, found.types


def _item(view: View, site: Site, body: dict[str, Any], url: str) -> Item:
    kind = view.setup.type(body["type"])
    texts = (body["fields"].get(f.name) for f in kind.fields if f.kind == "rich" and not f.many)
    text = next((one for one in texts if isinstance(one, str) and one), "")
    tags = [t for f in kind.fields if f.kind == "tags" for t in body["fields"].get(f.name) or ()]
    picture = body["search"]["picture"] or {}
    home = home_of(site)
    return Item(
        id=f"urn:uuid:{body['id']}",
        url=url,
        title=str(body["title"]),
        summary=str(body["search"]["description"] or ""),
        text=_LINK.sub(rf'\1="{home}/', text),
        published=str(body["date"] or body["since"]),
        changed=str(body["since"]),
        locale=str(body["locale"]),
        tags=[str(one) for one in tags],
        picture=f"{home}{picture['href']}" if picture.get("href") else "",
    )


def address(site: Site, type: str, path: str | None, locale: str, uuid: str) -> str:
    """Where a page is on a site; empty where it has none, or where its address needs more of it than is known here."""
    template = site.template(type)
    if not template or not path:
        return ""
    values = {"path": path, "locale": locale, "slug": path.rsplit("/", 1)[-1], "id": uuid, "type": type}
    url, missing = sites.fill(template, values)
    return "" if missing else url


def parts(view: View, name: str) -> list[tuple[int, str]]:
    """The parts of a site's map: their numbers, and when something in each came out last."""
    site_of(view, name)
    types = _mapped_types(view, name)
    return [(number, iso(since)) for number, since in store.parts(view.conn, types, AT_ONCE)]


def _mapped_types(view: View, name: str) -> list[str]:
    site = view.setup.sites[name]
    kinds = view.setup.types.values()
    return [k.name for k in kinds if k.addressed and k.public and site.template(k.name)]


def part(view: View, name: str, number: int) -> Iterator[Mapped]:
    """The pages of one part of a site's map, one for each language that is out, with the others."""
    site = site_of(view, name)
    for entry, editions in store.mapped(view.conn, _mapped_types(view, name), number, AT_ONCE):
        row = entries.entry_by_id(view.conn, entry)
        pages: list[tuple[str, str, str]] = []
        for locale, since in editions:
            path = reading.path_of(view, entry, locale, RELEASE)
            url = address(site, row.type, path, locale, row.uuid)
            if url:
                pages.append((locale, url, iso(since)))
        for _, url, changed in pages:
            others = [(locale, other) for locale, other, _ in pages] if len(pages) > 1 else []
            yield Mapped(url, changed, others)


def moved(view: View, name: str) -> Iterator[tuple[str, str]]:
    """The old addresses of a site's pages, each with the one that it has now."""
    site = site_of(view, name)
    for old in store.formerly(view.conn, _mapped_types(view, name)):
        above = f"/{old.locale}" if not old.parent else reading.path_of(view, old.parent, old.locale, RELEASE)
        now = reading.path_of(view, old.entry, old.locale, RELEASE)
        if above is None or now is None or f"{above}/{old.slug}" == now:
            continue
        row = entries.entry_by_id(view.conn, old.entry)
        urls = [address(site, row.type, path, old.locale, row.uuid) for path in (f"{above}/{old.slug}", now)]
        if all(urls) and urls[0] != urls[1]:
            yield urls[0], urls[1]
