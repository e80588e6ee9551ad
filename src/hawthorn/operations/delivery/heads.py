"""What a page says of itself in its head: its address and those of its other languages, Open Graph, and linked data."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hawthorn.core.contenttypes import linked
from hawthorn.core.errors import Invalid
from hawthorn.core.quick import dataclass
from hawthorn.core.sites import Site
from hawthorn.operations.delivery import feeds
from hawthorn.operations.runtime.act import View

_SHARED = "share"
"""The crop in which a picture is shown where a page is shared, if there is one of that name."""
_OPEN_GRAPH = {"Article": "article", "NewsArticle": "article", "BlogPosting": "article", "Person": "profile"}
"""Classes of schema.org, as Open Graph has them; everything else is a website's page."""


@dataclass(frozen=True, slots=True)
class Head:
    """Title and description for searches, the page's address (empty where the site has none for it), those of its languages, Open Graph
    (ogp.me) as properties in order, linked data (JSON-LD 1.1), and whether searches may list it."""

    title: str
    description: str
    address: str
    alternates: list[tuple[str, str]]
    open_graph: list[tuple[str, str]]
    linked_data: dict[str, Any]
    index: bool


def site_of(view: View, name: str) -> Site | None:
    """The site of that name, or without one the only one there is; nothing where there is none. Raises `NotFound`, `Invalid`."""
    if name:
        return feeds.site_of(view, name)
    known = [one for one in view.setup.sites.values() if one.shows_what_is_out]
    if len(known) > 1:
        raise Invalid("reading.which_site", known=[one.name for one in known])
    return known[0] if known else None


def head(view: View, body: Mapping[str, Any], name: str) -> Head:
    """What is said of an entry, from its body as it is read."""
    site = site_of(view, name)
    home = feeds.home_of(site) if site else ""
    url = _address(site, body, body["locale"], body["path"])
    others = [
        (one["locale"], there)
        for one in body["locales"]
        if (there := _address(site, body, one["locale"], one["path"]))
    ]
    picture = body["search"]["picture"] or {}
    shown = _picture(picture, home)

    def entry(uuid: str) -> Any:
        return _referred(view, site, home, body["references"].get(uuid))

    kind = view.setup.type(body["type"])
    said = body["search"]
    return Head(
        str(said["title"] or body["title"]),
        str(said["description"] or ""),
        url,
        others,
        _open_graph(site, body, kind.schema_type, url, picture, shown),
        linked.linked_data(kind, body, url, shown[0], entry),
        "shown" not in body,
    )


def _address(site: Site | None, body: Mapping[str, Any], locale: str, path: str | None) -> str:
    """Where an entry, or one that it refers to, has its page; empty where it has none."""
    return feeds.address(site, body["type"], path, locale, body["id"]) if site else ""


def _picture(picture: Mapping[str, Any], home: str) -> tuple[str, Any, Any]:
    """Where a picture is for whoever shares a page, its width and its height."""
    if not picture.get("href"):
        return "", None, None
    cut = picture["renditions"].get(_SHARED)
    if cut:
        return f"{home}{cut['original']}", cut["width"], cut["height"]
    return f"{home}{picture['href']}", picture.get("width"), picture.get("height")


def _open_graph(
    site: Site | None,
    body: Mapping[str, Any],
    schema_type: str,
    url: str,
    picture: Mapping[str, Any],
    shown: tuple[str, Any, Any],
) -> list[tuple[str, str]]:
    kind = _OPEN_GRAPH.get(schema_type, "website")
    image, width, height = shown
    others = [one["locale"] for one in body["locales"] if one["locale"] != body["locale"]]
    out = [
        ("og:type", kind),
        ("og:title", str(body["search"]["title"] or body["title"])),
        ("og:url", url),
        ("og:description", str(body["search"]["description"] or "")),
        ("og:site_name", (site.label or site.name) if site else ""),
        ("og:locale", _territory(body["locale"])),
        *(("og:locale:alternate", _territory(one)) for one in others),
        ("og:image", image),
        ("og:image:width", str(width or "") if image else ""),
        ("og:image:height", str(height or "") if image else ""),
        ("og:image:alt", str(picture.get("alt") or "") if image else ""),
    ]
    if kind == "article":
        out += [
            ("article:published_time", str(body["date"] or "")),
            ("article:modified_time", str(body["since"])),
        ]
    return [(name, value) for name, value in out if value]


def _territory(locale: str) -> str:
    """A locale as Open Graph writes it."""
    return locale.replace("-", "_")


def _referred(view: View, site: Site | None, home: str, target: Mapping[str, Any] | None) -> Any:
    """What is said of an entry that another refers to; nothing of one that is not there for whoever reads."""
    if target is None:
        return None
    if target.get("file"):
        file = target["file"]
        image = str(file.get("media_type", "")).startswith("image/")
        made = "ImageObject" if image else "MediaObject"
        return {"@type": made, "name": target["title"], "contentUrl": f"{home}{file['href']}"}
    kind = view.setup.types[target["type"]]
    url = _address(site, target, target["locale"], target["path"])
    out = {"@type": kind.schema_type or linked.PAGE, "name": target["title"]}
    return {**out, "@id": url, "url": url} if url else out
