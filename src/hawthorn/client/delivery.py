"""The calls of delivery: the outline, sites, previews and webhooks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, into, nothing, once, page


class DeliveryCalls:
    """The calls of delivery, without a way to send them."""

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
    def webhooks(self) -> Request[wire.delivery.Webhooks]:
        """Who is told of events over HTTP."""
        return Request("GET", "/api/webhooks", into(wire.delivery.Webhooks), params={"limit": 500})

    @call
    def add_webhook(
        self,
        name: str,
        url: str,
        *,
        kinds: Sequence[str] | None = None,
        types: Sequence[str] = (),
        sections: Sequence[str] = (),
        stages: Sequence[str] = (),
    ) -> Request[wire.delivery.WebhookMade]:
        """Tell somebody of events from now on, of all after which readers see something else where no `kinds` are given; the answer holds the secret, this
        once."""
        body = {
            "name": name,
            "url": url,
            "kinds": list(kinds) if kinds is not None else None,
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
