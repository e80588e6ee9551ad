"""The calls of delivery: reading, the outline, sites and previews."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, into, nothing, once, page


def _alone(fallback: bool) -> dict[str, str]:
    return {} if fallback else {"fallback": "false"}


def _in_form(texts: wire.delivery.TextForm) -> dict[str, str]:
    return {} if texts == "html" else {"texts": texts}


def _grouped(groups: bool) -> dict[str, str]:
    return {"groups": "true"} if groups else {}


def _unlocked(tokens: Sequence[str]) -> dict[str, str]:
    return {"Hawthorn-Unlocked": ", ".join(tokens)} if tokens else {}


def _entry(path: str, params: Mapping[str, Any], unlocked: Sequence[str]) -> Request[wire.delivery.ReadEntry]:
    return Request("GET", path, into(wire.delivery.ReadEntry), params=params, headers=_unlocked(unlocked))


class DeliveryCalls:
    """The calls of delivery, without a way to send them."""

    @call
    def read(
        self,
        id: str,
        *,
        locale: str = "",
        stage: str = "",
        at: str = "",
        dispatch: str = "",
        preview: str = "",
        fallback: bool = True,
        texts: wire.delivery.TextForm = "html",
        unlocked: Sequence[str] = (),
        groups: bool = False,
    ) -> Request[wire.delivery.ReadEntry]:
        """An entry as those who read see it; `dispatch` (an id) is read as if it had gone, `preview` is what the address of a previewed
        page carries. Without `fallback` no other locale stands in. `texts` is the form of rich texts; `unlocked` is what phrases gave (`unlock`),
        and with `groups` it says what it depends on."""
        where = {"stage": stage, "at": at, "dispatch": dispatch, "preview": preview}
        params = {"locale": locale, **where, **_alone(fallback), **_in_form(texts), **_grouped(groups)}
        return _entry(f"/read/entries/{quote(id)}", params, unlocked)

    @call
    def read_page(
        self,
        path: str,
        *,
        stage: str = "",
        at: str = "",
        dispatch: str = "",
        preview: str = "",
        texts: wire.delivery.TextForm = "html",
        unlocked: Sequence[str] = (),
        groups: bool = False,
    ) -> Request[wire.delivery.ReadEntry]:
        """An entry by the path of its page, locale first."""
        where = {"stage": stage, "at": at, "dispatch": dispatch, "preview": preview}
        params = {**where, **_in_form(texts), **_grouped(groups)}
        return _entry(f"/read/pages/{quote(path.lstrip('/'))}", params, unlocked)

    @call
    def unlock(self, id: str, phrase: str, *, visitor: str = "") -> Request[wire.limiting.Unlocked]:
        """Give the phrase of a locked entry; `visitor` is by what a site tells its visitors apart, and is taken with a key."""
        body = {"phrase": phrase, "visitor": visitor}
        return Request("POST", f"/read/entries/{quote(id)}/unlock", into(wire.limiting.Unlocked), json=body)

    @call
    def limit(
        self, id: str, way: wire.limiting.LimitWay, *, audiences: Sequence[str] = (), phrase: str = ""
    ) -> Request[wire.limiting.Limited]:
        """Say who may read an entry while it is out: everybody (empty), `hidden` or `locked`, and some audiences all the same."""
        body = {"way": way, "audiences": list(audiences), "phrase": phrase}
        return Request("PUT", f"/api/entries/{quote(id)}/limit", into(wire.limiting.Limited), json=body)

    @call
    def audiences(self, *, limit: int = 0, cursor: str = "") -> Request[wire.limiting.Audiences]:
        """The audiences that keys read for, or that entries name."""
        return Request("GET", "/api/audiences", into(wire.limiting.Audiences), params=page(limit, cursor))

    @call
    def read_entries(
        self,
        *,
        type: str | Sequence[str] = "",
        locale: str = "",
        stage: str = "",
        at: str = "",
        dispatch: str = "",
        limit: int = 20,
        cursor: str = "",
        fallback: bool = True,
        where: Mapping[str, str | Sequence[str]] = {},
        sort: str = "",
        ids: Sequence[str] = (),
        fields: Sequence[str] = (),
        include: Sequence[str] = (),
        referring: Sequence[str] = (),
        texts: wire.delivery.TextForm = "html",
        unlocked: Sequence[str] = (),
        groups: bool = False,
    ) -> Request[wire.delivery.ReadPage]:
        """Entries that stand somewhere: by type, by conditions on fields (`{"begins.from": "2027-03-01"}`) or by ids, the latest first or sorted by a
        field; with what they relate to. Without `fallback` no other locale stands in."""
        params = {
            "type": [type] if isinstance(type, str) else list(type),
            "locale": locale,
            "stage": stage,
            "at": at,
            "dispatch": dispatch,
            "limit": limit,
            "cursor": cursor,
            "sort": sort,
            "id": list(ids),
            "fields": ",".join(fields),
            "include": ",".join(include),
            "referring": ",".join(referring),
            **_alone(fallback),
            **_in_form(texts),
            **_grouped(groups),
            **_where(where),
        }
        return Request(
            "GET",
            "/read/entries",
            into(wire.delivery.ReadPage),
            params=_given(params),
            headers=_unlocked(unlocked),
        )

    @call
    def read_changed(self, since: str = "") -> Request[wire.delivery.ReadChanged]:
        """What changed of what is out since a position that an earlier answer gave; everything without one."""
        return Request("GET", "/read/changed", into(wire.delivery.ReadChanged), params={"since": since})

    @call
    def read_counts(
        self,
        by: str,
        *,
        type: str | Sequence[str] = "",
        locale: str = "",
        stage: str = "",
        where: Mapping[str, str | Sequence[str]] = {},
    ) -> Request[wire.delivery.ReadCounts]:
        """How many entries there are by a field, or by month."""
        params = {
            "by": by,
            "type": [type] if isinstance(type, str) else list(type),
            "locale": locale,
            "stage": stage,
        }
        return Request(
            "GET", "/read/counts", into(wire.delivery.ReadCounts), params=_given(params | _where(where))
        )

    @call
    def read_questions(
        self, questions: Mapping[str, Mapping[str, Any]]
    ) -> Request[wire.delivery.ReadAnswers]:
        """Several lists in one call, each under a name of its own."""
        body = {"questions": {name: dict(one) for name, one in questions.items()}}
        return Request("POST", "/read/questions", into(wire.delivery.ReadAnswers), json=body)

    @call
    def read_atom(
        self,
        site: str,
        *,
        type: str | Sequence[str] = "",
        locale: str = "",
        where: Mapping[str, str | Sequence[str]] = {},
        limit: int = 20,
        cursor: str = "",
    ) -> Request[bytes]:
        """What is out as an Atom feed of a site."""
        return _feed(site, "atom", type, locale, where, limit, cursor)

    @call
    def read_json_feed(
        self,
        site: str,
        *,
        type: str | Sequence[str] = "",
        locale: str = "",
        where: Mapping[str, str | Sequence[str]] = {},
        limit: int = 20,
        cursor: str = "",
    ) -> Request[bytes]:
        """What is out as a JSON Feed of a site."""
        return _feed(site, "json", type, locale, where, limit, cursor)

    @call
    def read_site_map(self, site: str) -> Request[bytes]:
        """The map of a site: an index of its parts."""
        return Request("GET", f"/feeds/{quote(site)}/sitemap.xml", lambda r: r.content)

    @call
    def read_site_map_part(self, site: str, number: int) -> Request[bytes]:
        """A part of the map of a site."""
        return Request("GET", f"/feeds/{quote(site)}/sitemap-{number}.xml", lambda r: r.content)

    @call
    def read_robots(self, site: str) -> Request[bytes]:
        """What programs that walk a site are told."""
        return Request("GET", f"/feeds/{quote(site)}/robots.txt", lambda r: r.content)

    @call
    def read_redirects(self, site: str) -> Request[bytes]:
        """The old addresses of a site's pages with those that they have now, as CSV."""
        return Request("GET", f"/feeds/{quote(site)}/redirects.csv", lambda r: r.content)

    @call
    def read_types(self, language: str) -> Request[str]:
        """Types of what is read, as a file: for `typescript` or `python`."""
        return Request("GET", f"/read/types/{quote(language)}", lambda r: r.text)

    @call
    def read_openapi(self) -> Request[dict[str, Any]]:
        """The document of reading (OpenAPI 3.1) for this set-up."""
        return Request("GET", "/read/openapi.json", lambda r: r.json())

    @call
    def outline(
        self,
        below: str = "",
        *,
        locale: str = "",
        stage: str = "",
        at: str = "",
        dispatch: str = "",
        limit: int = 100,
        cursor: str = "",
    ) -> Request[wire.delivery.OutlineLevel]:
        """The entries below one in the outline (the top without one), in order."""
        params = {
            "below": below,
            "locale": locale,
            "stage": stage,
            "at": at,
            "dispatch": dispatch,
            "limit": limit,
            "cursor": cursor,
        }
        return Request("GET", "/api/outline", into(wire.delivery.OutlineLevel), params=params)

    @call
    def trail(
        self, id: str, *, locale: str = "", stage: str = "", at: str = "", dispatch: str = ""
    ) -> Request[wire.delivery.OutlineTrail]:
        """An entry and all above it in the outline, the topmost first."""
        params = {"locale": locale, "stage": stage, "at": at, "dispatch": dispatch}
        return Request(
            "GET", f"/api/outline/{quote(id)}/trail", into(wire.delivery.OutlineTrail), params=params
        )

    @call
    def search_outline(self, words: str, *, locale: str = "") -> Request[wire.delivery.OutlineMatches]:
        """Pages by words, each with what is above it."""
        params = {"words": words, "locale": locale}
        return Request("GET", "/api/outline/search", into(wire.delivery.OutlineMatches), params=params)

    @call
    def move(
        self, id: str, below: str | None = None, *, before: str = "", after: str = ""
    ) -> Request[wire.delivery.OutlineMoved]:
        """Place an entry elsewhere in the outline of the drafts; without `below` beside the one before or after which it stands."""
        body = {"below": below, "before": before, "after": after}
        return Request("POST", f"/api/outline/{quote(id)}/move", into(wire.delivery.OutlineMoved), json=body)

    @call
    def put_back(self, id: str, placement: Any) -> Request[wire.delivery.OutlineMoved]:
        """Undo a move: `placement` is what the move answered as `was`."""
        body = {"undo": True, "placement": placement}
        return Request("POST", f"/api/outline/{quote(id)}/move", into(wire.delivery.OutlineMoved), json=body)

    @call
    def copy_tree(
        self, id: str, below: str | None = None, *, key: str | None = None
    ) -> Request[wire.delivery.OutlineCopied]:
        """Copy an entry with all that is placed below it."""
        return Request(
            "POST",
            f"/api/outline/{quote(id)}/copy",
            into(wire.delivery.OutlineCopied),
            json={"below": below},
            headers=once(key),
        )

    @call
    def define_sites(self, sites: Sequence[Mapping[str, Any]]) -> Request[wire.delivery.Sites]:
        """Put sites, with the addresses of their pages, in place of those there are."""
        return Request(
            "PUT", "/api/sites", into(wire.delivery.Sites), json={"sites": [dict(s) for s in sites]}
        )

    @call
    def check_site(
        self, site: Mapping[str, Any], *, entry: str = "", locale: str = ""
    ) -> Request[wire.delivery.SiteTrial]:
        """Try a site, saved or not, on an entry: what is wrong, and how to mend it."""
        body = {"site": dict(site), "entry": entry, "locale": locale}
        return Request("POST", "/api/sites/check", into(wire.delivery.SiteTrial), json=body)

    @call
    def page_addresses(
        self, id: str, locale: str, *, preview: str = ""
    ) -> Request[wire.delivery.PageAddresses]:
        """The addresses of an entry's page at every site."""
        path = f"/api/entries/{quote(id)}/{quote(locale)}/addresses"
        return Request("GET", path, into(wire.delivery.PageAddresses), params={"preview": preview})

    @call
    def open_preview(
        self, *, stage: str = "draft", at: str = "", strand: str = "", dispatch: str = ""
    ) -> Request[wire.delivery.Pane]:
        """Open a preview of everything for oneself, at a stage and instant, or as if a dispatch (its id) had gone."""
        body = {"stage": stage, "at": at, "strand": strand, "dispatch": dispatch}
        return Request("POST", "/api/previews", into(wire.delivery.Pane), json=body)

    @call
    def type_preview(
        self, id: str, entry: str, locale: str, fields: Mapping[str, Any]
    ) -> Request[wire.delivery.TypedResult]:
        """Show what is being typed in one's own preview."""
        body = {"entry": entry, "locale": locale, "fields": dict(fields)}
        return Request("PUT", f"/api/previews/{quote(id)}/typed", into(wire.delivery.TypedResult), json=body)

    @call
    def close_preview(self, id: str) -> Request[None]:
        """Close one's own preview."""
        return Request("DELETE", f"/api/previews/{quote(id)}", nothing)

    @call
    def links(self, *, entry: str = "", limit: int = 0, cursor: str = "") -> Request[wire.delivery.Links]:
        """The links that were given out, newest first."""
        return Request(
            "GET",
            "/api/preview-links",
            into(wire.delivery.Links),
            params={"entry": entry} | page(limit, cursor),
        )

    @call
    def give_link(
        self,
        entry: str,
        *,
        scope: str = "entry",
        stage: str = "draft",
        at: str = "",
        strand: str = "",
        dispatch: str = "",
        lasts: int = 7 * 86_400,
        name: str = "",
        key: str | None = None,
    ) -> Request[wire.delivery.Link]:
        """Give out a link for somebody without an account; `lasts` is in seconds."""
        body = {
            "scope": scope,
            "entry": entry,
            "stage": stage,
            "at": at,
            "strand": strand,
            "dispatch": dispatch,
            "lasts": lasts,
            "name": name,
        }
        return Request("POST", "/api/preview-links", into(wire.delivery.Link), json=body, headers=once(key))

    @call
    def take_link_back(self, id: str) -> Request[None]:
        """Take a link back: it opens nothing from now on."""
        return Request("DELETE", f"/api/preview-links/{quote(id)}", nothing)

    @call
    def shown_in(self, id: str, *, limit: int = 100) -> Request[wire.delivery.Showing]:
        """The pages that show an entry, and so change when it moves on."""
        return Request(
            "GET", f"/api/entries/{quote(id)}/shown-in", into(wire.delivery.Showing), params={"limit": limit}
        )

    @call
    def search_and_sharing(
        self, *, locale: str = "", limit: int = 50, cursor: str = ""
    ) -> Request[wire.delivery.SearchAndSharingPage]:
        """Pages whose text for searches and sharing is missing, too long, or said twice in the site."""
        params = {"locale": locale, "limit": limit, "cursor": cursor}
        return Request(
            "GET", "/api/search-and-sharing", into(wire.delivery.SearchAndSharingPage), params=params
        )

    @call
    def read_outline(
        self,
        *,
        below: str = "",
        depth: int = 2,
        locale: str = "",
        stage: str = "",
        at: str = "",
        dispatch: str = "",
        preview: str = "",
    ) -> Request[wire.delivery.ReadOutline]:
        """Pages in the order of the outline, nested, as those who read get them."""
        params = {
            "below": below,
            "depth": depth,
            "locale": locale,
            "stage": stage,
            "at": at,
            "dispatch": dispatch,
            "preview": preview,
        }
        return Request("GET", "/read/outline", into(wire.delivery.ReadOutline), params=params)

    @call
    def last_change(self, preview: str, since: int = 0) -> Request[wire.delivery.LastChange]:
        """Whether what a preview shows has changed since a number that an earlier answer gave."""
        return Request(
            "GET",
            "/read/changes/last",
            into(wire.delivery.LastChange),
            params={"preview": preview, "since": since},
        )

    @call
    def webhooks(self) -> Request[wire.delivery.Webhooks]:
        """Who is told of events over HTTP."""
        return Request("GET", "/api/webhooks", into(wire.delivery.Webhooks), params={"limit": 500})

    @call
    def add_webhook(
        self,
        name: str,
        url: str,
        *,
        kinds: Sequence[str] = ("dispatch.gone", "entry.limited"),
        types: Sequence[str] = (),
        sections: Sequence[str] = (),
        stages: Sequence[str] = (),
    ) -> Request[wire.delivery.WebhookMade]:
        """Tell somebody of events from now on; the answer holds the secret, this once."""
        body = {
            "name": name,
            "url": url,
            "kinds": list(kinds),
            "types": list(types),
            "sections": list(sections),
            "stages": list(stages),
        }
        return Request("POST", "/api/webhooks", into(wire.delivery.WebhookMade), json=body)

    @call
    def change_webhook(self, id: str, change: Mapping[str, Any]) -> Request[wire.delivery.Webhook]:
        """Change name, url, kinds, types, sections or stages of a webhook."""
        return Request("PATCH", _hook(id), into(wire.delivery.Webhook), json=dict(change))

    @call
    def end_webhook(self, id: str) -> Request[None]:
        """End a webhook."""
        return Request("DELETE", _hook(id), nothing)

    @call
    def switch_webhook(self, id: str, *, on: bool = True) -> Request[wire.delivery.Webhook]:
        """Switch a webhook on or off."""
        return Request("POST", _hook(id, "switch"), into(wire.delivery.Webhook), json={"on": on})

    @call
    def rotate_secret(self, id: str, seconds: int = 86_400) -> Request[wire.delivery.WebhookMade]:
        """Give a webhook another secret; for some seconds both are good."""
        made = into(wire.delivery.WebhookMade)
        return Request("POST", _hook(id, "secret"), made, json={"seconds": seconds})

    @call
    def try_webhook(self, id: str) -> Request[wire.delivery.WebhookTrial]:
        """Send a test to a receiver."""
        return Request("POST", _hook(id, "try"), into(wire.delivery.WebhookTrial))

    @call
    def deliveries(self, id: str, *, limit: int = 0, cursor: str = "") -> Request[wire.delivery.Deliveries]:
        """What was sent to a webhook, newest first, with every try."""
        params = page(limit, cursor)
        return Request("GET", _hook(id, "deliveries"), into(wire.delivery.Deliveries), params=params)

    @call
    def deliver_again(self, id: str, number: int) -> Request[None]:
        """Send something once more."""
        return Request("POST", _hook(id, f"deliveries/{number}/again"), nothing)


def _hook(id: str, act: str = "") -> str:
    return f"/api/webhooks/{quote(id)}" + (f"/{act}" if act else "")


def _where(where: Mapping[str, str | Sequence[str]]) -> dict[str, Any]:
    return {
        f"where.{name}": value if isinstance(value, str) else list(value) for name, value in where.items()
    }


def _given(params: Mapping[str, Any]) -> dict[str, Any]:
    """Without what asks for nothing."""
    return {name: value for name, value in params.items() if value not in ("", [], [""])}


def _feed(
    site: str,
    format: str,
    type: str | Sequence[str],
    locale: str,
    where: Mapping[str, str | Sequence[str]],
    limit: int,
    cursor: str,
) -> Request[bytes]:
    params = {
        "type": [type] if isinstance(type, str) else list(type),
        "locale": locale,
        "limit": limit,
        "cursor": cursor,
    }
    return Request(
        "GET", f"/feeds/{quote(site)}/{format}", lambda r: r.content, params=_given(params | _where(where))
    )
