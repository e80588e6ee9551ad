"""The museum's public site: a small reader of `/read`. With a stage and a key that may read it, the same
site shows what is drafted instead; that is its one setting."""

from __future__ import annotations

import html
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any

import httpx
from jinja2 import DictLoader, Environment, select_autoescape
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, RedirectResponse, Response
from starlette.routing import Route

_PAGE = """<!doctype html>
<html lang="{{ locale }}" dir="{{ 'rtl' if locale == 'ar' else 'ltr' }}"><meta charset="utf-8">
<meta name="viewport" content="width=device-width"><title>{{ title }} – Pellgrave Harbour Museum</title>
{% for l in locales %}{% if l.path %}<link rel="alternate" hreflang="{{ l.locale }}" href="{{ l.path }}">{% endif %}{% endfor %}
<style>
:root{color-scheme:light}body{margin:0;font:18px/1.6 Georgia,"Noto Serif CJK JP","Noto Naskh Arabic",serif;color:#20303a;background:#f4f7f7}
header,main,footer{max-width:44rem;margin:0 auto;padding:1.2rem}header a{color:inherit}header{display:flex;gap:1.2rem;flex-wrap:wrap;align-items:baseline}
header b{font-size:1.2rem}h1{font-size:2.1rem;line-height:1.2}img{max-width:100%;height:auto;border-radius:4px}
.draft{background:#20303a;color:#fff;text-align:center;padding:.5rem;font:15px sans-serif}.draft a{color:#ffe9a8}
li{margin:.4rem 0}a{color:#1d5a73}small{color:#51626b}
</style>
{% if draft %}<p class="draft" role="status">Preview: this is what is at “{{ draft }}”, not what readers see.
{% if live %}<a href="{{ live }}">See what is out</a>{% endif %}</p>{% endif %}
<header><b><a href="/{{ locale }}">Pellgrave Harbour Museum</a></b>
{% for l in locales %}{% if l.path and l.locale != locale %}<a href="{{ l.path }}" lang="{{ l.locale }}" hreflang="{{ l.locale }}">{{ l.locale }}</a>{% endif %}{% endfor %}</header>
<main>{% block main %}{% endblock %}</main>
<footer><small>An invented museum.</small></footer></html>"""
_ENTRY = """{% extends "page" %}{% block main %}<article lang="{{ entry.locale }}"><h1>{{ entry.title }}</h1>
{% if picture %}<img src="{{ picture.href }}" alt="{{ picture.alt }}" width="{{ picture.width }}" height="{{ picture.height }}">{% endif %}
{% if entry.fields.summary %}<p><em>{{ entry.fields.summary }}</em></p>{% endif %}
{{ (entry.fields.body or entry.fields.life or '')|safe }}
{% macro blocks(items) %}{% for b in items %}{% set f = b.fields %}{% if b.kind == 'words' %}{{ (f.text or '')|safe }}
{% elif b.kind == 'quote' %}<blockquote>{{ f.said }}{% if f.by in entry.references %} <cite>{{ entry.references[f.by].title }}</cite>{% endif %}</blockquote>
{% elif b.kind == 'picture' %}{% set p = (entry.references[f.picture] or {}).file if f.picture in entry.references else none %}<figure>{% if p %}<img src="{{ p.href }}" alt="{{ p.alt }}" width="{{ p.width }}" height="{{ p.height }}">{% endif %}<figcaption>{{ f.caption or '' }}</figcaption></figure>
{% elif b.kind == 'beside' %}<div style="display:grid;grid-auto-flow:column;gap:1rem">{{ blocks(f.cells or []) }}</div>{% endif %}{% endfor %}{% endmacro %}
{{ blocks(entry.fields.page or []) }}{% if entry.fields.hours %}<dl>{% for h in entry.fields.hours %}<dt>{{ h.fields.days }}</dt><dd>{{ h.fields.hours }}</dd>{% endfor %}</dl>{% endif %}
{% if entry.fields.tickets %}<p><a href="{{ entry.fields.tickets.href }}">{{ entry.fields.tickets.text or entry.fields.tickets.href }}</a></p>{% endif %}
<p><small>{% if entry.fields.number %}{{ entry.fields.number }} · {% endif %}{% for r in people %}{{ r.title }} · {% endfor %}Revision {{ entry.revision }}</small></p>
</article>{% endblock %}"""
_HOME = """{% extends "page" %}{% block main %}<h1>{{ title }}</h1>
{% for heading, items in lists %}<h2>{{ heading }}</h2><ul>{% for e in items %}<li>{% if e.path %}<a href="{{ e.path }}" lang="{{ e.locale }}">{{ e.title or 'untitled' }}</a>{% else %}{{ e.title or 'untitled' }}{% endif %}</li>{% else %}<li>Nothing yet.</li>{% endfor %}</ul>{% endfor %}{% endblock %}"""
_TEMPLATES = Environment(
    loader=DictLoader({"page": _PAGE, "entry": _ENTRY, "home": _HOME}),
    autoescape=select_autoescape(default=True),
)
_HEADINGS = {
    "notice": "Notices",
    "label": "Exhibits",
    "talk": "Talks",
    "exhibition": "Exhibitions",
    "gallery": "Galleries",
}
_LOCALES = ("en", "fr", "de", "ja", "ar")


class Site:
    """The site over one service. `standing` is the stage it shows; the key must be one that may read there."""

    def __init__(self, service: str, key: str = "", standing: str = "", live: str = "") -> None:
        self.standing = standing
        self.live = live
        headers = {"Authorization": f"Bearer {key}"} if standing else {}
        self._http = httpx.AsyncClient(base_url=service, headers=headers, follow_redirects=False, timeout=20)

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
                Route("/read/files/{sha256}", self.file),
                Route("/{locale:str}", self.home),
                Route("/{path:path}", self.page),
            ],
        )

    def _params(self, **more: str) -> dict[str, str]:
        return {**({"standing": self.standing} if self.standing else {}), **more}

    async def home(self, request: Request) -> Response:
        """What there is, by type."""
        locale = request.path_params["locale"]
        if locale not in _LOCALES:
            return self._missing(locale)
        lists: list[tuple[str, list[dict[str, Any]]]] = []
        for type, heading in _HEADINGS.items():
            answer = await self._http.get(
                "/read/entries", params=self._params(type=type, locale=locale, limit="50")
            )
            lists.append((heading, answer.json().get("items", [])))
        locales = [{"locale": tag, "path": f"/{tag}"} for tag in _LOCALES]
        return self._show("home", "Welcome to the harbour", locale, locales, f"/{locale}", lists=lists)

    async def page(self, request: Request) -> Response:
        """The page at a path."""
        path = request.path_params["path"]
        answer = await self._http.get(f"/read/pages/{path}", params=self._params())
        if answer.status_code == 301:
            return RedirectResponse(answer.headers["location"].removeprefix("/read/pages"), 301)
        if answer.status_code != 200:
            return self._missing(path)
        entry = answer.json()
        references = entry["references"]
        shown = [references[u] for u in _uuids(entry["fields"]) if u in references]
        picture = next((r["file"] for r in shown if r.get("file")), None)
        people = [r for r in shown if not r.get("file")]
        return self._show(
            "entry",
            entry["title"],
            entry["locale"],
            entry["locales"],
            f"/{path}",
            entry=entry,
            picture=picture,
            people=people,
        )

    async def file(self, request: Request) -> Response:
        """A picture, fetched from the service."""
        answer = await self._http.get(f"/read/files/{request.path_params['sha256']}", params=self._params())
        headers = {"Cache-Control": answer.headers.get("cache-control", "no-store")}
        return Response(answer.content, answer.status_code, headers, answer.headers.get("content-type"))

    def _show(
        self, name: str, title: str, locale: str, locales: list[dict[str, Any]], path: str, **more: Any
    ) -> Response:
        live = f"{self.live}{path}" if self.live else ""
        body = _TEMPLATES.get_template(name).render(
            title=title or "untitled", locale=locale, locales=locales, draft=self.standing, live=live, **more
        )
        return HTMLResponse(body, headers={"Cache-Control": "no-cache"})

    def _missing(self, path: str) -> Response:
        return HTMLResponse(
            f"<!doctype html><html lang=en><title>Not here</title><h1>Not here</h1><p>Nothing is at /{html.escape(path)}.</p>"
            "<p><a href='/en'>To the front page</a></p>",
            404,
        )


def _uuids(fields: dict[str, Any]) -> list[str]:
    out: list[str] = []
    for value in fields.values():
        out += [
            v for v in (value if isinstance(value, list) else [value]) if isinstance(v, str) and len(v) == 36
        ]
    return out
