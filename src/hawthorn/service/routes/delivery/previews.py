"""Sites, the addresses of pages, previews and links; what searches show; which pages show something."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query, Request

from hawthorn import wire
from hawthorn.core import sites
from hawthorn.core.timeline import iso
from hawthorn.followers import outgoing
from hawthorn.operations.delivery import affected, page_addresses, previews, search_and_sharing
from hawthorn.operations.delivery.page_addresses import Answer as Fetched
from hawthorn.operations.runtime.act import Act, View
from hawthorn.service.context import Answer, AtDesk, Once, Who, fingerprint, settings_of
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area
from hawthorn.store import previews as store

router = area("/api", "previews")


@router.put("/sites", response_model=wire.delivery.Sites, operation_id="define_sites", responses=REFUSALS)
def define_sites(body: wire.delivery.Sites, me: Who, desk: AtDesk) -> Answer:
    """Put sites, with the addresses of their pages, in place of those there are."""
    desk.write(me, lambda act: page_addresses.define(act, [s.model_dump() for s in body.sites]))
    return {"sites": desk.read(me, lambda view: sites.to_list(view.setup.sites.values()))}


@router.post(
    "/sites/check", response_model=wire.delivery.SiteTrial, operation_id="check_site", responses=REFUSALS
)
def check_site(body: wire.delivery.SiteTrialAsk, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Try a site, saved or not, on an entry: what is wrong, and how to mend it. Nothing is changed."""
    allowed = settings_of(request).allow_hosts
    console = (settings_of(request).public or str(request.base_url)).rstrip("/")
    return page_addresses.check(
        desk,
        me,
        body.site.model_dump(),
        body.entry,
        body.locale,
        sites.origin(console),
        lambda url: _fetched(url, allowed),
    )


def _fetched(url: str, allowed: list[str]) -> Fetched:
    found = outgoing.fetch(url, allowed)
    return Fetched(found.status, found.headers, found.text, found.trouble)


@router.post(
    "/previews",
    status_code=201,
    response_model=wire.delivery.Pane,
    operation_id="open_preview",
    responses=REFUSALS,
)
def open_preview(body: wire.delivery.PaneAsk, me: Who, desk: AtDesk) -> Answer:
    """Open a preview for oneself, at a stage and instant; its token is what page addresses carry."""

    def do(act: Act) -> Answer:
        uuid = previews.open_pane(act, body.stage, body.at, body.strand, body.dispatch)
        return {
            "id": uuid,
            "token": previews.token(act, uuid),
            "expires_at": iso(act.now + previews.PANE_LASTS),
        }

    return desk.write(me, do)


@router.put(
    "/previews/{id}/typed",
    response_model=wire.delivery.TypedResult,
    operation_id="type_preview",
    responses=REFUSALS,
)
def type_preview(id: str, body: wire.delivery.Typed, me: Who, desk: AtDesk) -> Answer:
    """Show what is being typed in one's own preview, and nowhere else. Nothing of it is saved."""
    return {
        "problems": desk.write(
            me, lambda act: previews.type_into(act, id, body.entry, body.locale, body.fields)
        )
    }


@router.delete("/previews/{id}", status_code=204, operation_id="close_preview", responses=REFUSALS)
def close_preview(id: str, me: Who, desk: AtDesk) -> None:
    """Close one's own preview."""
    desk.write(me, lambda act: previews.close_pane(act, id))


@router.get(
    "/entries/{id}/{locale}/addresses",
    response_model=wire.delivery.PageAddresses,
    operation_id="page_addresses",
    responses=REFUSALS,
)
def addresses(
    id: str,
    locale: str,
    me: Who,
    desk: AtDesk,
    preview: Annotated[
        str, Query(description="One's own preview, whose token the addresses then carry.")
    ] = "",
) -> Answer:
    """The addresses of an entry's page at every site."""
    return {"items": desk.read(me, lambda view: previews.addresses_of(view, id, locale, preview))}


@router.get(
    "/entries/{id}/shown-in",
    response_model=wire.delivery.Showing,
    operation_id="shown_in",
    responses=REFUSALS,
)
def shown_in(id: str, me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The pages that show an entry, and so change when it moves on."""
    found = desk.read(me, lambda view: affected.pages(view, id))
    beside = {"total": found.total, "out": found.out, "more": found.more, "shown_whole": found.shown_whole}
    return paged.of(found.items, lambda one: one.id, **beside)


@router.get(
    "/preview-links", response_model=wire.delivery.Links, operation_id="list_links", responses=REFUSALS
)
def links(
    me: Who,
    desk: AtDesk,
    paged: Paged,
    entry: Annotated[str, Query(description="Only links to this entry (id).")] = "",
) -> Answer:
    """The links that were given out, newest first, with their uses."""
    return paged.of(desk.read(me, lambda view: previews.links(view, entry)), lambda one: one["id"])


@router.post(
    "/preview-links",
    status_code=201,
    response_model=wire.delivery.Link,
    operation_id="give_link",
    responses=REFUSALS,
)
def give_link(body: wire.delivery.LinkAsk, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Give out a link for somebody without an account. It shows what it names, expires, and can be taken back."""

    def do(act: Act) -> Answer:
        uuid = previews.give_link(act, previews.LinkWish(**body.model_dump()))
        row = store.find(act.conn, uuid)
        assert row is not None
        return previews.shown(act, row)

    return desk.once(me, once, "give_link", fingerprint(body), do)


@router.delete("/preview-links/{id}", status_code=204, operation_id="take_link_back", responses=REFUSALS)
def take_link_back(id: str, me: Who, desk: AtDesk) -> None:
    """Take a link back: it opens nothing from now on."""
    desk.write(me, lambda act: previews.take_back(act, id))


@router.get(
    "/search-and-sharing",
    response_model=wire.delivery.SearchAndSharingPage,
    operation_id="check_search_and_sharing",
    responses=REFUSALS,
)
def check_search_and_sharing(
    me: Who,
    desk: AtDesk,
    paged: Paged,
    locale: Annotated[str, Query(description="Only pages in this locale.")] = "",
) -> Answer:
    """Pages whose drafts say something to searches that is missing, too long, or said twice in the site."""

    def look(view: View) -> Answer:
        return paged.answer(
            *search_and_sharing.overview(view, locale, limit=paged.limit, cursor=paged.cursor)
        )

    return desk.read(me, look)
