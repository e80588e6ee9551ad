"""The museum's public site: a small reader of `/read`. One setting switches it from what is out to what is drafted: then
it reads at a stage with a key, or as the address of a previewed page says."""

from __future__ import annotations

import re
import ssl
from collections.abc import AsyncIterator, Mapping
from contextlib import asynccontextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any
from urllib.parse import parse_qs, quote, urlencode, urlsplit

import httpx
from jinja2 import DictLoader, Environment, select_autoescape
from markupsafe import Markup, escape
from standardwebhooks.webhooks import Webhook, WebhookVerificationError
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, RedirectResponse, Response
from starlette.routing import Route

from hawthorn.demo import site_cards, site_pages
from hawthorn.demo.museum import HOUSE as HOUSE_OF
from hawthorn.demo.museum import SITE
from hawthorn.demo.places import HOUSE

_MOST_KEPT = 2_000
_TRUST = ssl.create_default_context()
"""Whom to trust is read once for all sites: it takes a fifth of a second."""
_OPENED = "opened"
"""The cookie that holds what phrases gave."""
_LOCALES = tuple(HOUSE_OF.locales)
_FOUND = ("label", "gallery", "exhibition", "talk", "notice", "page", "person")
"""The types of what visitors search for."""
_TEMPLATES = Environment(
    loader=DictLoader(
        {
            "page": site_pages.PAGE,
            "blocks": site_pages.BLOCKS,
            "entry": site_pages.ENTRY,
            "missing": site_pages.MISSING,
            "locked": site_pages.LOCKED,
            "search": site_pages.SEARCH,
        }
    ),
    autoescape=select_autoescape(default=True),
)


@dataclass(frozen=True, slots=True)
class Drafted:
    """The setting that shows drafts: the stage, and a key that may read there. `out` is the site that shows what is out."""

    stage: str
    key: str
    out: str


def _below(path: str) -> str:
    """The parts of a path, quoted, to be put behind one of the service's; nothing for one that would lead out of there: the
    key of the site is for what readers may see."""
    parts = path.strip("/").split("/")
    return (
        "" if any(part in ("", ".", "..") for part in parts) else "/".join(quote(p, safe="~") for p in parts)
    )


class Site:
    """The site over one service."""

    def __init__(
        self, service: str, drafted: Drafted | None = None, *, secret: str = "", key: str = ""
    ) -> None:
        self.service = service
        self.drafted = drafted
        self.secret = secret
        """With which the service signs what it tells (Standard Webhooks); without one nothing is kept."""
        self.key = key
        """With which it says by whom a phrase was given; without one all visitors wait for whoever guesses."""
        self._told = 0
        self._kept: dict[str, dict[str, httpx.Response]] = {}
        self._http = httpx.AsyncClient(base_url=service, follow_redirects=False, timeout=20, verify=_TRUST)

    def app(self) -> Starlette:
        """The site as an application."""

        @asynccontextmanager
        async def closing(_: Starlette) -> AsyncIterator[None]:
            async with self._http:
                yield

        return Starlette(
            lifespan=closing,
            routes=[
                Route("/", lambda _: RedirectResponse("/en")),
                Route("/site.css", lambda _: Response(site_pages.CSS, media_type="text/css")),
                Route("/read/files/{path:path}", self.file),
                Route("/feed.atom", self.passed_on),
                Route("/sitemap.xml", self.passed_on),
                Route("/sitemap-{number:int}.xml", self.passed_on),
                Route("/robots.txt", self.passed_on),
                Route("/changed", self.changed, methods=["POST"]),
                Route("/{path:path}", self.unlock, methods=["POST"]),
                Route("/{path:path}", self.page),
            ],
        )

    def _preview(self, request: Request) -> str:
        """What the address of a previewed page carries. The public site does not look at it."""
        return request.query_params.get("preview", "") if self.drafted else ""

    async def _read(self, request: Request, path: str, **params: str | list[str]) -> httpx.Response:
        """Ask the service: as the previewed address says, else at the stage of the setting, else what is out."""
        headers: dict[str, str] = {}
        preview = self._preview(request)
        if preview:
            params["preview"] = preview
            headers["X-Forwarded-User-Agent"] = request.headers.get("user-agent", "")
        elif self.drafted:
            params["stage"] = self.drafted.stage
            headers["Authorization"] = f"Bearer {self.drafted.key}"
        opened = "" if self.drafted else request.cookies.get(_OPENED, "")
        if opened:
            headers["Hawthorn-Unlocked"] = opened
        # What was read for one visitor is for nobody else.
        keeps = bool(self.secret) and not opened and not path.startswith("/read/files/")
        page = path.removeprefix("/read/pages") if path.startswith("/read/pages/") else ""
        asked = f"{path}?{urlencode(params, doseq=True)}"
        known = self._kept.get(page, {}).get(asked) if keeps else None
        if known is not None:
            return known
        before = self._told
        answer = await self._http.get(path, params=params, headers=headers)
        if keeps and answer.status_code == 200 and before == self._told:
            # What changed meanwhile may not be in it.
            self._kept.setdefault(page, {})[asked] = answer
            if len(self._kept) > _MOST_KEPT:
                self._kept.clear()
        return answer

    async def changed(self, request: Request) -> Response:
        """What the service tells: the pages that changed are read anew, and what is no page (menus, what lies below) each time."""
        body = await request.body()
        if not self.secret:
            return Response(status_code=404)
        try:
            told = Webhook(self.secret).verify(body, dict(request.headers))
        except WebhookVerificationError:
            return Response(status_code=401)
        self._told += 1
        if told["data"]["more"] or "all" in told["data"]["groups"]:
            self._kept.clear()
        for page in ["", *told["data"]["pages"]]:
            self._kept.pop(quote(page, safe="/~"), None)
        return Response(status_code=204)

    async def page(self, request: Request) -> Response:
        """The page at a path."""
        path = request.path_params["path"].strip("/")
        locale = path.split("/")[0] if path.split("/")[0] in _LOCALES else "en"
        asked = _below(path)
        if path == f"{locale}/search":
            return await self._search(request, locale, path)
        if not asked:
            return await self._show(request, "missing", "Not here", locale, path, 404, path=path)
        answer = await self._read(request, f"/read/pages/{asked}")
        if answer.status_code == 301:
            to = urlsplit(answer.headers["location"])
            query = {"preview": self._preview(request)} if self._preview(request) else {}
            return RedirectResponse(
                to.path.removeprefix("/read/pages") + (f"?{urlencode(query)}" if query else ""), 301
            )
        if answer.status_code != 200:
            why = (
                answer.json().get("detail", "")
                if self._preview(request) and answer.status_code == 403
                else ""
            )
            return await self._show(request, "missing", why or "Not here", locale, path, 404, path=path)
        entry = answer.json()
        said = await self._read(request, f"/read/entries/{entry['id']}/head", locale=entry["locale"])
        head = said.json() if said.status_code == 200 else {}
        if entry.get("locked"):
            return await self._show(
                request,
                "locked",
                entry["title"],
                locale,
                path,
                entry=entry,
                head=head,
                wrong="",
                locales=entry["locales"],
            )
        references = entry["references"]
        below: list[dict[str, Any]] = []
        if entry["type"] in ("gallery", "page"):
            found = await self._read(request, "/read/outline", below=entry["id"], locale=locale, depth="1")
            below = found.json()["items"] if found.status_code == 200 else []
        shown = [references[u] for u in _uuids(entry["fields"]) if u in references]
        front = entry["type"] == "front"
        shows = await self._shows(request, locale) if front else {}
        cards = await self._cards(request, [*_listed(entry), *below], locale)
        for some in shows.values():
            cards.take(some)
        return await self._show(
            request,
            "entry",
            entry["title"],
            locale,
            path,
            entry=entry,
            references=references,
            below=below,
            people=[r for r in shown if r["type"] == "person"],
            locales=entry["locales"],
            head=head,
            front=front,
            shows=shows.items(),
            cards=cards,
            mark_page=f"{entry['id']}/{entry['locale']}" if self.drafted else "",
        )

    async def _shows(self, request: Request, locale: str) -> dict[str, list[dict[str, Any]]]:
        """The exhibitions that are on, and those that come, by the words for them."""
        today = datetime.now(UTC).date().isoformat()
        asked = {"where.closes.from": today, "sort": "opens", "locale": locale}
        answer = await self._read(request, "/read/entries", type="exhibition", limit="6", **asked)
        items = answer.json()["items"] if answer.status_code == 200 else []
        shows: dict[str, list[dict[str, Any]]] = {"now": [], "coming": []}
        for one in items:
            opens = (one["fields"].get("opens") or {}).get("wall", "")
            shows["now" if opens[:10] <= today else "coming"].append(_as_card(one))
        return shows

    async def _search(self, request: Request, locale: str, path: str) -> Response:
        """What visitors look for, by the words of its title."""
        words = " ".join(request.query_params.get("words", "").split())[:200]
        say = SITE[locale]
        found: list[dict[str, Any]] = []
        if words:
            asked = {"where.title.contains": words, "locale": locale, "limit": "24"}
            answer = await self._read(request, "/read/entries", type=list(_FOUND), **asked)
            found = answer.json()["items"] if answer.status_code == 200 else []
        cards = site_cards.Cards(locale)
        cards.take(found)
        return await self._show(
            request,
            "search",
            say.found.format(words=words) if found else say.search,
            locale,
            path,
            asked=words,
            cards=cards,
            found=[_as_card(one) for one in found],
            nothing=say.nothing.format(words=words),
        )

    async def _cards(self, request: Request, listed: list[dict[str, Any]], locale: str) -> site_cards.Cards:
        """What the cards of a page show beside titles."""
        cards = site_cards.Cards(locale)
        ids = list(dict.fromkeys(one["id"] for one in listed))[:60]
        if ids:
            asked = {"locale": locale, "fields": "picture,opens,closes", "limit": str(len(ids))}
            answer = await self._read(request, "/read/entries", id=ids, **asked)
            cards.take(answer.json()["items"] if answer.status_code == 200 else [])
        return cards

    async def unlock(self, request: Request) -> Response:
        """A phrase that a visitor gave for a locked page; what it opens stays with the browser until that is closed."""
        path = request.path_params["path"].strip("/")
        form = parse_qs((await request.body())[:2000].decode("utf-8", "replace"))
        answer = await self._read(request, f"/read/pages/{_below(path)}")
        if self.drafted or answer.status_code != 200:
            return Response(status_code=404)
        entry = answer.json()
        given = {
            "phrase": form.get("phrase", [""])[0],
            "visitor": request.client.host if request.client else "",
        }
        headers = {"Authorization": f"Bearer {self.key}"} if self.key else {}
        tried = await self._http.post(f"/read/entries/{entry['id']}/unlock", json=given, headers=headers)
        if tried.status_code in (404, 409):
            # It is open meanwhile, or there no more.
            return RedirectResponse(f"/{path}", 303)
        if tried.status_code != 200:
            said = tried.json()
            wrong = (
                said["remedy"]
                if tried.status_code == 429
                else "That is not the phrase. Ask whoever gave it to you."
            )
            return await self._show(
                request,
                "locked",
                entry["title"],
                entry["locale"],
                path,
                tried.status_code,
                entry=entry,
                wrong=wrong,
                locales=entry["locales"],
            )
        opened = [tried.json()["token"], *request.cookies.get(_OPENED, "").split(", ")]
        back = RedirectResponse(f"/{path}", 303)
        back.set_cookie(
            _OPENED, ", ".join([one for one in opened if one][:10]), httponly=True, samesite="lax"
        )
        return back

    async def passed_on(self, request: Request) -> Response:
        """The feed, the map and what programs that walk the site are told, as the service has them. Drafts are for nobody who walks."""
        if self.drafted:
            return Response(
                "User-agent: *\nDisallow: /\n",
                media_type="text/plain",
                status_code=200 if request.url.path == "/robots.txt" else 404,
            )
        name = "atom" if request.url.path == "/feed.atom" else request.url.path[1:]
        answer = await self._read(request, f"/feeds/live/{name}", **dict(request.query_params))
        return Response(answer.content, answer.status_code, media_type=answer.headers.get("content-type"))

    async def file(self, request: Request) -> Response:
        """A file or rendition, fetched from the service."""
        wanted = request.headers.get("range")
        path = _below(request.path_params["path"])
        if not path:
            return Response(status_code=404)
        answer = await self._read(request, f"/read/files/{path}")
        headers = {
            k: answer.headers[k]
            for k in ("cache-control", "content-security-policy", "etag", "accept-ranges", "location")
            if k in answer.headers
        }
        if wanted and answer.status_code == 200 and (found := re.match(r"bytes=(\d+)-(\d*)$", wanted)):
            start = int(found[1])
            end = min(int(found[2] or len(answer.content) - 1), len(answer.content) - 1)
            if start <= end:
                headers["content-range"] = f"bytes {start}-{end}/{len(answer.content)}"
                part = answer.content[start : end + 1]
                return Response(part, 206, headers, answer.headers.get("content-type"))
        return Response(answer.content, answer.status_code, headers, answer.headers.get("content-type"))

    async def _menu(self, request: Request, locale: str) -> dict[str, Any] | None:
        answer = await self._read(request, "/read/entries", type="menu", locale=locale, limit="5")
        items = answer.json().get("items", []) if answer.status_code == 200 else []
        return items[-1] if items else None

    async def _show(
        self, request: Request, name: str, title: str, locale: str, at: str, status: int = 200, **more: Any
    ) -> Response:
        menu = await self._menu(request, locale)
        known: dict[str, Any] = {
            "locales": [{"locale": tag, "path": f"/{tag}"} for tag in _LOCALES],
            "head": {},
            "references": {},
            "cards": site_cards.Cards(locale),
            "asked": "",
            **more,
        }
        words = _Words(self, request, known.get("entry"))
        cards: site_cards.Cards = known["cards"]
        body = _TEMPLATES.get_template(name).render(
            title=title or "untitled",
            locale=locale,
            house=HOUSE,
            menu=menu,
            say=SITE[locale],
            names=HOUSE_OF.locales,
            carried=self._preview(request),
            pictures=cards.pictures,
            dates=cards.dates,
            money=cards.money,
            drafted=self._said(request, known.get("entry")),
            script=f"{self.service}/preview/marks.js",
            out=f"{self.drafted.out}/{at}" if self.drafted else "",
            link=words.link,
            file=words.link,
            rich=words.rich,
            mark=words.mark,
            frame_of=words.frame_of,
            **known,
        )
        headers = {
            "Cache-Control": "no-store" if self.drafted else "no-cache",
            "Content-Security-Policy": f"frame-ancestors {self.service}",
        }
        return HTMLResponse(body, status, headers)

    def _said(self, request: Request, entry: Mapping[str, Any] | None) -> str:
        """What the banner of a preview says is shown."""
        if not self.drafted:
            return ""
        shown = (entry or {}).get("shown") or {}
        if not shown and entry is not None:
            return "what is out"
        if shown.get("dispatch"):
            return f"what readers will see with “{shown['dispatch_name']}” gone"
        said = f"what is at “{shown.get('stage', self.drafted.stage)}”"
        said += f", strand “{shown['strand']}”" if shown.get("strand") else ""
        said += f", on {shown['at'][:16].replace('T', ' at ')} (UTC)" if shown.get("at") else ""
        return said


class _Words:
    """What templates ask for: links that keep the preview, and marks that lead to fields."""

    def __init__(self, site: Site, request: Request, entry: Mapping[str, Any] | None) -> None:
        self.drafted = site.drafted is not None
        preview = site._preview(request)
        self.query = urlencode({"preview": preview}) if preview else ""
        self.entry = entry

    def link(self, href: str | None) -> str:
        """An address of this site, with what the preview carries."""
        if not href or not self.query or not href.startswith("/"):
            return href or ""
        path, hash, anchor = href.partition("#")
        return f"{path}{'&' if '?' in path else '?'}{self.query}{hash}{anchor}"

    def rich(self, text: str | None) -> Markup:
        """A text whose links keep the preview."""
        return Markup(
            re.sub(r'(href|src)="(/[^"]*)"', lambda m: f'{m[1]}="{escape(self.link(m[2]))}"', text or "")
        )

    def mark(self, id: str, field: str = "", name: str = "") -> Markup:
        """The attribute that joins a part of a preview to its field."""
        if not self.drafted:
            return Markup("")
        said = f' data-hawthorn-name="{escape(name)}"' if name else ""
        return Markup(f' data-hawthorn="{escape(id)}{"/" + escape(field) if field else ""}"{said}')

    def frame_of(self, region: str) -> str:
        """The entry whose region is shown: the layout, where the page follows it, else the page's own."""
        entry = self.entry or {}
        return str(entry.get("regions", {}).get(region) or entry.get("id", ""))


def _as_card(entry: dict[str, Any]) -> dict[str, Any]:
    """An entry as a list shows it."""
    return {**entry, "summary": entry["search"]["description"]}


def _listed(value: Any) -> list[dict[str, Any]]:
    """What the lists in the blocks of a page show."""
    if isinstance(value, list):
        return [one for part in value for one in _listed(part)]
    if not isinstance(value, dict):
        return []
    if isinstance(value.get("items"), list) and "kind" not in value:
        return [one for one in value["items"] if isinstance(one, dict) and "path" in one]
    return [one for part in value.values() for one in _listed(part)]


def _uuids(fields: dict[str, Any]) -> list[str]:
    out: list[str] = []
    for value in fields.values():
        out += [
            v for v in (value if isinstance(value, list) else [value]) if isinstance(v, str) and len(v) == 36
        ]
    return out
