"""Feeds of what is out, and for each site its map, what programs that walk it are told, and where old addresses lead."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Annotated, Any

from fastapi import Depends, Path, Query, Request, Response
from fastapi.responses import StreamingResponse

from hawthorn.core import etags, groups
from hawthorn.core.filtering import START
from hawthorn.operations.delivery import feeds, reading
from hawthorn.operations.delivery.reading_lists import Wish
from hawthorn.operations.runtime.act import View
from hawthorn.service import caching, feeding, serving
from hawthorn.service.context import NOBODY, AtDesk, settings_of
from hawthorn.service.paging import Cursor
from hawthorn.service.routes.delivery.reading import Locale, languages
from hawthorn.service.routes.delivery.reading_lists import WHERE, Types, conditions
from hawthorn.service.routing import REFUSALS, area, taking

router = area("/feeds", "feeds")
SiteName = Annotated[str, Path(description="A site that shows what is out, by its name.")]
Limit = Annotated[int, Query(ge=1, le=100, description="The most lines.")]


def _kind(media_type: str) -> dict[int | str, dict[str, Any]]:
    text = {"schema": {"type": "string"}}
    return {200: {"content": {media_type: text}}, **REFUSALS, **serving.UNCHANGED}


def _asked(
    request: Request, type: Types = (), locale: Locale = "", limit: Limit = 20, cursor: Cursor = ""
) -> Wish:
    """What a feed lists."""
    return Wish(tuple(one for one in type if one), locale, conditions(request), limit=limit, cursor=cursor)


Asked = Annotated[Wish, Depends(_asked)]


@router.get(
    "/{site}/atom",
    operation_id="read_atom",
    response_class=Response,
    responses=_kind("application/atom+xml"),
    openapi_extra={"parameters": [WHERE]},
)
@taking(START)
def atom(
    site: SiteName,
    desk: AtDesk,
    request: Request,
    wish: Asked,
) -> Response:
    """A list of what is out as an Atom feed (RFC 4287) of a site, chosen as `/read/entries` chooses: what came out last first."""
    return _feed(desk, request, site, wish, feeding.atom, "application/atom+xml")


@router.get(
    "/{site}/json",
    operation_id="read_json_feed",
    response_class=Response,
    responses=_kind("application/feed+json"),
    openapi_extra={"parameters": [WHERE]},
)
@taking(START)
def json_feed(
    site: SiteName,
    desk: AtDesk,
    request: Request,
    wish: Asked,
) -> Response:
    """The same as JSON Feed 1.1."""
    return _feed(desk, request, site, wish, feeding.json_feed, "application/feed+json")


def _feed(
    desk: AtDesk,
    request: Request,
    site: str,
    wish: Wish,
    write: Callable[[feeds.Feed, str, str], bytes],
    media_type: str,
) -> Response:
    def look(view: View) -> tuple[feeds.Feed, str, list[str]]:
        wanted = reading.best_locale(view, wish.locale, languages(request))
        found, more, types = feeds.feed(view, site, replace(wish, locale=wanted))
        return found, more, types

    found, more, types = desk.read(NOBODY, look)
    public = settings_of(request).public.rstrip("/") or str(request.base_url).rstrip("/")
    here = f"{public}{request.url.path}"
    query = f"?{request.url.query}" if request.url.query else ""
    page = request.url.include_query_params(cursor=more).query if more else ""
    data = write(found, f"{here}{query}", f"{here}?{page}" if page else "")
    return _sent(request, data, media_type, [groups.lists(one) for one in types])


def _sent(request: Request, data: bytes, media_type: str, groups: Iterable[str]) -> Response:
    settings = settings_of(request)
    headers = {
        "Cache-Control": caching.control(settings, plain=True),
        "Vary": "Accept-Language",
        **caching.groups(settings, groups),
    }
    return serving.tagged(request, data, etags.of(data), headers, media_type)


@router.get(
    "/{site}/sitemap.xml",
    operation_id="read_site_map",
    response_class=Response,
    responses=_kind("application/xml"),
)
def site_map(site: SiteName, desk: AtDesk, request: Request) -> Response:
    """The map of a site: an index of parts, each with when something in it came out last. The site shows it under `/sitemap.xml`, and each part under
    `/sitemap-NUMBER.xml`."""

    def look(view: View) -> tuple[bytes, list[str]]:
        home = feeds.home_of(feeds.site_of(view, site))
        return feeding.map_index(home, feeds.parts(view, site)), _mapped(view)

    data, names = desk.read(NOBODY, look)
    return _sent(request, data, "application/xml", names)


def _mapped(view: View) -> list[str]:
    """The groups with which a map is let go: it says which pages there are, and when something of each came out last."""
    return [groups.OUTLINE, *(groups.lists(k.name) for k in view.setup.types.values() if k.addressed)]


@router.get(
    "/{site}/sitemap-{number}.xml",
    operation_id="read_site_map_part",
    response_class=Response,
    responses=_kind("application/xml"),
)
def site_map_part(
    site: SiteName,
    number: Annotated[int, Path(ge=0, le=1_000_000_000, description="The number of the part.")],
    desk: AtDesk,
    request: Request,
) -> Response:
    """A part of the map of a site: its pages in each language, with the others (`hreflang`) and when each came out last."""

    def look(view: View) -> tuple[bytes, list[str]]:
        return feeding.map_part(feeds.part(view, site, number)), _mapped(view)

    data, names = desk.read(NOBODY, look)
    return _sent(request, data, "application/xml", names)


@router.get(
    "/{site}/robots.txt", operation_id="read_robots", response_class=Response, responses=_kind("text/plain")
)
def robots(site: SiteName, desk: AtDesk, request: Request) -> Response:
    """What programs that walk a site are told (RFC 9309)."""
    text = desk.read(NOBODY, lambda view: feeding.robots(feeds.home_of(feeds.site_of(view, site))))
    return _sent(request, text.encode(), "text/plain", [])


@router.get(
    "/{site}/redirects.csv",
    operation_id="read_redirects",
    response_class=Response,
    responses=_kind("text/csv"),
)
def redirects(site: SiteName, desk: AtDesk, request: Request) -> Response:
    """The old addresses of a site's pages, each with the one that it has now, as CSV (RFC 4180): for servers that redirect by themselves."""
    rows = desk.read(NOBODY, lambda view: list(feeds.moved(view, site)))
    headers = caching.told(settings_of(request), [groups.OUTLINE], plain=True)
    return StreamingResponse(feeding.redirects(rows), headers=headers, media_type="text/csv")
