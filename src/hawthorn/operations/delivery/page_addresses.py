"""Setting up where readers see entries, and trying it: on a real entry, with what is wrong and how to mend it."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from http.cookies import CookieError, SimpleCookie
from typing import Any, TypedDict
from urllib.parse import urlsplit

from hawthorn.core import sites
from hawthorn.core.access import Identity, Subject
from hawthorn.core.errors import NotFound
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.sites import Site
from hawthorn.operations.access import permission
from hawthorn.operations.delivery import addressing, previews
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.runtime.act import Act, Desk, View, setup_changed
from hawthorn.store import definitions, entries
from hawthorn.store.standings import DRAFT

SCRIPT = "/preview/marks.js"
"""The path of the script that joins a page to the console."""


@dataclass(frozen=True, slots=True)
class Answer:
    """What an address answered; `trouble` says why nothing did."""

    status: int = 0
    headers: tuple[tuple[str, str], ...] = ()
    text: str = ""
    trouble: Message | None = None

    def header(self, name: str) -> str:
        """The values of a header, joined."""
        return ", ".join(v for k, v in self.headers if k.lower() == name)


Fetch = Callable[[str], Answer]


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that was tried: whether it is well, and what was found; catalogues say how to mend it."""

    code: str
    well: bool
    what: Message


def define(act: Act, raws: Any) -> None:
    """Put sites with their addresses in place of those there are."""
    permission.require(act, "configure", Subject())
    made = sites.from_list(raws, act.setup.types, [*act.setup.stages])
    definitions.set_sites(act.conn, made)
    setup_changed(act)
    act.event("sites.defined", [], {"sites": list(made)})


@dataclass(frozen=True, slots=True)
class _Trial:
    url: str
    marked: str
    missing: list[str]
    mark: str
    title: str


class SiteFinding(TypedDict):
    """One thing that was tried: whether it is well, what was found, and how to mend it."""

    code: str
    well: bool
    what: str
    remedy: str


class SiteTrial(TypedDict):
    """An address that was tried, on which entry (its title), and what was found."""

    url: str
    title: str
    findings: list[SiteFinding]


def check(
    desk: Desk, who: Identity, raw: Mapping[str, Any], entry: str, locale: str, console: str, fetch: Fetch
) -> SiteTrial:
    """Try a site's address, saved or not, on an entry. `console` is the origin of the console that will frame it."""
    site, trial = desk.write(who, lambda act: _prepare(act, raw, entry, locale))
    try:
        findings = list(_tried(site, trial, console, fetch))
    finally:
        desk.write(who, lambda act: _clean_up(act, trial))
    words = desk.words
    found: list[SiteFinding] = [
        {"code": f.code, "well": f.well, "what": words.text(f.what), "remedy": words.remedy(f.what)}
        for f in findings
    ]
    return {"url": trial.url, "title": trial.title, "findings": found}


def _prepare(act: Act, raw: Mapping[str, Any], entry: str, locale: str) -> tuple[Site, _Trial]:
    permission.require(act, "configure", Subject())
    site = next(iter(sites.from_list([raw], act.setup.types, [*act.setup.stages]).values()))
    row = permission.find(act, entry) if entry else _some_entry(act, site)
    tag = act.setup.locale(locale) if locale else row.source_locale
    kind = act.setup.type(row.type)
    live = site.stage == "release"
    where = Place() if live else Place(DRAFT)
    url, missing = sites.fill(site.template(row.type), addressing.page_values(act, row, tag, where))
    pane = previews.open_pane(act)
    mark = act.keep("page_addresses.mark", mark=pane[-6:])
    if kind.field(kind.title):
        previews.type_into(act, pane, row.uuid, tag, {kind.title: mark})
    word = previews.token(act, pane)
    title = entries.title(act.conn, row.id, tag) or act.keep("common.untitled")
    return site, _Trial(url, sites.carrying(url, word), missing, mark, title)


def _clean_up(act: Act, trial: _Trial) -> None:
    row = previews.opened(act.conn, act.vault, act.now, _word(trial.marked)).row
    previews.close_pane(act, row.uuid)


def _word(address: str) -> str:
    found = re.search(rf"[?&]{sites.CARRIES}=([^&#]+)", address)
    assert found is not None
    return found[1]


def _some_entry(view: View, site: Site) -> Any:
    """An entry to try with: out where the site shows what is out, the one changed last."""
    types = [n for n, k in view.setup.types.items() if site.template(n) and k.addressed]
    out = site.stage == "release"
    for name in types:
        row = entries.some_of_type(view.conn, name, int(out))
        if row is not None:
            return row
    raise NotFound("page_addresses.nothing_to_try")


def _tried(site: Site, trial: _Trial, console: str, fetch: Fetch) -> list[Finding]:
    if trial.missing:
        names = [f"{{{n}}}" for n in trial.missing]
        return [Finding("value", False, said("page_addresses.nothing_for", entry=trial.title, names=names))]
    drafts = site.stage != "release"
    answer = fetch(trial.marked if drafts else trial.url)
    found = [_answered(answer, trial.url)]
    if not found[0].well:
        return found
    found.append(_framed(answer, console, trial.url))
    if drafts:
        # Readers have no use for the script, so it is looked for where drafts are shown alone.
        found += [_has_script(answer), _follows(answer, trial), _cookie(answer, console, trial.url)]
    return found


def _answered(answer: Answer, url: str) -> Finding:
    if answer.trouble is not None:
        return Finding("answer", False, said("page_addresses.no_answer", why=answer.trouble))
    if 300 <= answer.status < 400:
        to = answer.header("location")
        return Finding("answer", False, said("page_addresses.leads_on", to=to))
    if answer.status >= 400:
        what = said("page_addresses.answered_badly", status=answer.status, carries=sites.CARRIES)
        return Finding("answer", False, what)
    return Finding("answer", True, said("page_addresses.answered", status=answer.status))


def _framed(answer: Answer, console: str, url: str) -> Finding:
    own = sites.origin(url) == console
    old = answer.header("x-frame-options").lower()
    ancestors = next(
        (
            part.split()[1:]
            for policy in answer.header("content-security-policy").split(",")
            for part in policy.split(";")
            if part.split()[:1] == ["frame-ancestors"]
        ),
        None,
    )
    if ancestors is not None:
        allowed = any(_covers(source, console, own) for source in ancestors)
        refusing = f"Content-Security-Policy: frame-ancestors {' '.join(ancestors)}"
    else:
        allowed = not old or (own and old == "sameorigin")
        refusing = f"X-Frame-Options: {old}"
    if allowed:
        return Finding("framing", True, said("page_addresses.may_be_framed"))
    what = said("page_addresses.refuses_frames", header=refusing, console=console)
    return Finding("framing", False, what)


def _covers(source: str, console: str, own: bool) -> bool:
    if source == "*":
        return True
    if source == "'self'":
        return own
    host = urlsplit(console).netloc
    plain = source.split("://")[-1]
    scheme = source.split("://")[0] if "://" in source else ""
    if scheme and scheme != urlsplit(console).scheme:
        return False
    return plain == host or (plain.startswith("*.") and host.endswith(plain[1:]))


def _has_script(answer: Answer) -> Finding:
    if re.search(rf"<script[^>]+src=[\"']?[^\"'>]*{re.escape(SCRIPT)}", answer.text):
        return Finding("script", True, said("page_addresses.has_script"))
    return Finding("script", False, said("page_addresses.without_script", script=SCRIPT))


def _follows(answer: Answer, trial: _Trial) -> Finding:
    if trial.mark in answer.text:
        return Finding("draft", True, said("page_addresses.follows"))
    age = answer.header("age")
    control = answer.header("cache-control")
    kept = re.search(r"(?:s-maxage|max-age)=([1-9]\d*)", control)
    code = "page_addresses.does_not_follow"
    facts: dict[str, Any] = {"carries": sites.CARRIES}
    if age and age != "0":
        code, facts = "page_addresses.comes_from_a_cache", {**facts, "age": age}
    elif kept:
        code, facts = "page_addresses.is_kept", {**facts, "seconds": kept[1], "control": control}
    return Finding("draft", False, said(code, **facts))


def _cookie(answer: Answer, console: str, url: str) -> Finding:
    for header, value in answer.headers:
        if header.lower() != "set-cookie":
            continue
        jar: SimpleCookie = SimpleCookie()
        try:
            jar.load(value)
        except CookieError:
            continue
        lower = value.lower()
        for name in jar:
            if "samesite=none" not in lower or "secure" not in lower:
                what = said("page_addresses.cookie_held_back", name=name, carries=sites.CARRIES)
                return Finding("cookie", False, what)
    return Finding("cookie", True, said("page_addresses.no_cookie"))
