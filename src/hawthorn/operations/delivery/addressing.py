"""Where an entry is seen: the address of its page at every site, with what is missing for it."""

from __future__ import annotations

from typing import TypedDict

from hawthorn.core import sites
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.revision import together
from hawthorn.operations.delivery import reading
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.runtime.act import View
from hawthorn.store.entries import Entry


class PageAddress(TypedDict):
    """The address of an entry's page at a site, the stage that it shows, and the parts of the address for which there is nothing."""

    site: str
    label: str
    stage: str
    url: str
    missing: list[str]


def addresses(view: View, entry: Entry, locale: str, where: Place, word: str = "") -> list[PageAddress]:
    """The addresses of an entry's page at every site that has one for its type: what each shows, and what is missing for
    it. Those of sites that show what is drafted carry the preview's word."""
    tag = view.setup.locale(locale) if locale else entry.source_locale
    out: list[PageAddress] = []
    for site in view.setup.sites.values():
        template = site.template(entry.type)
        if not template:
            continue
        live = site.stage == "release"
        values = page_values(view, entry, tag, Place() if live else where)
        address, missing = sites.fill(template, values)
        out.append(
            {
                "site": site.name,
                "label": site.label or site.name,
                "stage": site.stage,
                "url": sites.carrying(address, word) if word and not live else address,
                "missing": missing,
            }
        )
    return out


def page_values(view: View, entry: Entry, locale: str, where: Place) -> dict[str, str]:
    """What an address may name of an entry in a locale, as it stands somewhere; what is not there is empty."""
    kind = view.setup.type(entry.type)
    shared, own = (reading.content_at(view, entry.id, tag, where) for tag in (COMMON, locale))
    values = together(kind, shared, own)
    path = reading.path_at(view, entry.id, locale, where)
    if path is None and not where.plain and kind.addressed:
        # Before it has an address of its own, a draft is found by its id.
        path = f"/{locale}/{reading.BY_ID}{entry.uuid}"
    plain = {f"field:{k}": str(v) for k, v in values.items() if isinstance(v, str | int | float)}
    return {
        **plain,
        "path": path or "",
        "locale": locale,
        "slug": str(values.get(kind.slug.name) or "") if kind.slug else "",
        "id": entry.uuid,
        "type": kind.name,
    }
