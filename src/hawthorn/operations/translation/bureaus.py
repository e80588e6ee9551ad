"""Bureaus: whom commissions are sent to, with what each is called by and calls our locales."""

from __future__ import annotations

import json
import re
import secrets
from collections.abc import Mapping
from dataclasses import field, replace
from typing import Any

from hawthorn.core import locales, naming
from hawthorn.core.access import Identity, Subject
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.core.translation import offers, rates
from hawthorn.core.translation.offers import Offer
from hawthorn.operations.access import permission
from hawthorn.operations.delivery import webhooks
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import translation
from hawthorn.store import bureaus as store
from hawthorn.store import jobs, people
from hawthorn.store.bureaus import Bureau

HTTP = "http"
"""The kind of bureaus that are called by the protocol, and sign."""
_LONGEST_KEY = 1_000
_SECRET = re.compile(r"whsec_[A-Za-z0-9+/]{32,88}={0,2}")


@dataclass(frozen=True, slots=True)
class BureauDetails:
    """A bureau as somebody sets it up: `kind` says how it is reached (`followers.connectors`), and `url` where; `codes` maps our locales to
    what it calls them, where that differs; `key` is sent with each call as a bearer token (RFC 6750), and `secret` signs what goes both ways
    (Standard Webhooks; made here where none is given); neither is shown again. `rates` are what it asks (`core.translation.rates`); without
    any, what it offers is taken."""

    name: str
    url: str
    codes: Mapping[str, str] = field(default_factory=dict)
    key: str = ""
    rates: Mapping[str, Any] = field(default_factory=dict)
    kind: str = HTTP
    secret: str = ""


def listing(view: View) -> list[BureauShown]:
    """The bureaus that take jobs; never their keys."""
    require(view)
    return [_shown(view, row) for row in store.in_use(view.conn)]


def require(view: View) -> None:
    """Raise `Refused` unless whoever looks may set up bureaus."""
    permission.require(view, "configure", Subject())


def add(act: Act, given: BureauDetails, offer: Offer | None = None) -> tuple[BureauShown, str]:
    """Add a bureau, or bring one back that ended, with what it offered when it was tried. It gets no rights but to return its own jobs.
    Returns the secret too, which is shown this once, where one was made."""
    require(act)
    wanted = _checked(act, given)
    had = store.named(act.conn, wanted.name)
    if had is not None and had.ended_at is None:
        raise InTheWay("bureaus.there_already", name=wanted.name)
    made = "" if wanted.secret or wanted.kind != HTTP else webhooks.new_secret()
    row = _row(act, wanted, _sealed(act, wanted.key), _sealed(act, wanted.secret or made))
    if had is not None:
        id = had.id
        store.change(act.conn, id, row)
    else:
        handle = f"bureau-{secrets.token_hex(4)}"
        actor = people.add_actor(act.conn, "bureau", handle, wanted.name, "", "", "UTC", act.now)
        people.hold(act.conn, actor, "bureau")
        id = store.add(act.conn, actor, row)
    act.event("bureau.added", [], _told(id, wanted))
    if offer is not None:
        keep_offer(act, id, offer)
    return _shown(act, _get(act, id)), made


def change(act: Act, id: int, given: Mapping[str, Any], offer: Offer | None = None) -> BureauShown:
    """Change what is given of a bureau (name, url, codes, key, rates, secret); an empty key means that it needs none any more. Jobs that are
    on their way are asked about at the new address."""
    require(act)
    row = _get(act, id)
    now = _details(row)
    wanted = _checked(act, replace(now, **given))
    other = store.named(act.conn, wanted.name)
    if other is not None and other.id != id:
        raise InTheWay("bureaus.name_taken", name=wanted.name)
    key = _sealed(act, wanted.key) if "key" in given else row.secret
    secret = _sealed(act, wanted.secret) if wanted.secret else row.signing
    store.change(act.conn, id, _row(act, wanted, key, secret))
    if replace(wanted, key="", secret="") != now or "key" in given or wanted.secret:
        act.event("bureau.changed", [], _told(id, wanted) | {"new_key": "key" in given})
    if offer is not None:
        keep_offer(act, id, offer)
    return _shown(act, _get(act, id))


def new_secret(act: Act, id: int) -> str:
    """Give a bureau another secret to sign with; it is good at once, and shown this once."""
    require(act)
    row = _get(act, id)
    made = webhooks.new_secret()
    store.change(act.conn, id, _row(act, _details(row), row.secret, _sealed(act, made)))
    act.event("bureau.changed", [], _told(id, _details(row)) | {"new_secret": True})
    return made


def keep_offer(act: Act, id: int, offer: Offer) -> None:
    """Keep what a bureau offers. Its rates are taken where nobody set others."""
    row = _get(act, id)
    before, text = offers.stored(row.offer), offers.kept(offer)
    if row.offered_at is not None and row.offer == text:
        return
    mine = json.loads(row.rates)
    codes = {tag: json.loads(row.codes).get(tag, tag) for tag in act.setup.locales}
    asked = [one.rates(codes, codes[next(iter(act.setup.locales))]) for one in (before, offer)]
    untouched = not mine.get("currency") or mine == _rates(act, asked[0])
    kept = _rates(act, asked[1]) if untouched and asked[1] else mine
    store.offered(act.conn, id, text, act.now, kept)
    act.event(
        "bureau.offered", [], {"bureau": id, "name": row.name, "pairs": len(offer.pairs), "rates": kept}
    )


def offers_just(view: View, id: int, offer: Offer) -> bool:
    """Whether it is known already that a bureau offers just this."""
    require(view)
    row = _get(view, id)
    return row.offered_at is not None and row.offer == offers.kept(offer)


def identity(view: View, id: int) -> Identity:
    """A bureau as it acts."""
    return permission.identity_of(view.conn, _get(view, id).actor)


def reach(view: View, id: int, given: Mapping[str, Any] | None = None) -> tuple[str, str, str, str]:
    """How a bureau is reached, with what is given instead: its kind, address, key and secret."""
    require(view)
    row = _get(view, id)
    opened = [view.vault.open(one) if one else "" for one in (row.secret, row.signing)]
    new = given or {}
    return row.kind, clean(new.get("url", row.url)), new.get("key", opened[0]), new.get("secret") or opened[1]


def secret_of(view: View, id: int) -> str:
    """The secret with which a bureau signs what it calls with; empty where there is no such bureau."""
    row = store.get(view.conn, id)
    return view.vault.open(row.signing) if row is not None and row.signing else ""


def called(act: Act, id: int, remote: str) -> bool:
    """A bureau says that one of its jobs has changed: it is asked about at once. What comes for a job that was cancelled is not taken, which is
    said on it; then it is False."""
    state = jobs.ask_now(act.conn, id, remote)
    if state is None:
        raise NotFound("bureaus.no_such_job", id=remote)
    if state == "cancelled":
        translation.came_late(act, id, remote)
    return state != "cancelled"


def clean(address: str) -> str:
    """An address as it is kept."""
    return address.strip().rstrip("/")


def end(act: Act, id: int) -> None:
    """End a bureau. Raises `InTheWay` while it has jobs that are not finished."""
    permission.require(act, "configure", Subject())
    row = _get(act, id)
    if row.open:
        raise InTheWay("bureaus.has_open_jobs", name=row.name, count=row.open, jobs=row.open)
    store.end(act.conn, id, act.now)
    act.event("bureau.ended", [], {"bureau": id, "name": row.name})


def _checked(view: View, given: BureauDetails) -> BureauDetails:
    problems: list[FieldProblem] = []
    name = naming.line("name", given.name)
    if not name:
        problems.append(FieldProblem("name", said("bureaus.without_name")))
    key = given.key.strip()
    if len(key) > _LONGEST_KEY or any(not "!" <= c <= "~" for c in key):
        problems.append(FieldProblem("key", said("bureaus.key_length", most=_LONGEST_KEY)))
    if given.secret and not _SECRET.fullmatch(given.secret):
        problems.append(FieldProblem("secret", said("bureaus.no_secret")))
    codes: dict[str, str] = {}
    for tag, code in given.codes.items():
        if tag not in view.setup.locales:
            problems.append(
                FieldProblem(f"codes.{tag}", said("common.none_of", known=list(view.setup.locales)))
            )
            continue
        codes[tag] = locales.canonical(code)
        if not codes[tag]:
            problems.append(FieldProblem(f"codes.{tag}", said("bureaus.no_tag", tag=code)))
    if problems:
        raise Invalid(problems)
    here = {tag: code for tag, code in codes.items() if code != tag}
    return replace(
        given, name=name, url=clean(given.url), codes=here, key=key, rates=_rates(view, given.rates)
    )


def _rates(view: View, given: Mapping[str, Any]) -> dict[str, Any]:
    return rates.kept(rates.read(given, list(view.setup.locales)))


def _sealed(act: Act, key: str) -> str:
    return act.vault.seal(key) if key else ""


def _get(view: View, id: int) -> Bureau:
    row = store.get(view.conn, id)
    if row is None:
        raise NotFound("bureaus.not_there", id=id)
    return row


def _details(row: Bureau) -> BureauDetails:
    return BureauDetails(row.name, row.url, json.loads(row.codes), rates=json.loads(row.rates), kind=row.kind)


def _row(act: Act, one: BureauDetails, key: str, secret: str) -> store.Written:
    return store.Written(
        one.name,
        one.kind,
        one.url,
        json.dumps(dict(one.codes), sort_keys=True),
        key,
        secret,
        json.dumps(dict(one.rates)),
    )


def _told(id: int, one: BureauDetails) -> dict[str, Any]:
    return {
        "bureau": id,
        "name": one.name,
        "kind": one.kind,
        "url": one.url,
        "codes": dict(one.codes),
        "rates": dict(one.rates),
    }


@dataclass(frozen=True, slots=True)
class PairShown:
    """One language into another, as the bureau calls them, with what a word costs."""

    source: str
    target: str
    word: str


@dataclass(frozen=True, slots=True)
class BureauShown:
    """A bureau that takes jobs, without its key; what it offers, and which of our locales it does not, with why."""

    id: int
    name: str
    kind: str
    url: str
    codes: dict[str, str]
    has_key: bool
    jobs: int
    open: int
    since: str
    rates: dict[str, Any]
    pairs: list[PairShown]
    offered_at: str
    lacking: dict[str, str]


def _shown(view: View, row: Bureau) -> BureauShown:
    offer, codes = offers.stored(row.offer), json.loads(row.codes)
    mine = next(iter(view.setup.locales))
    missing = {tag: offer.lacking(row.name, codes, mine, tag) for tag in view.setup.locales if tag != mine}
    return BureauShown(
        id=row.id,
        name=row.name,
        kind=row.kind,
        url=row.url,
        codes=codes,
        has_key=bool(row.secret),
        jobs=row.jobs,
        open=row.open,
        since=iso(row.created_at),
        rates=json.loads(row.rates),
        pairs=[PairShown(p.source, p.target, p.word or offer.word) for p in offer.pairs],
        offered_at=iso(row.offered_at) if row.offered_at is not None else "",
        lacking={tag: view.setup.words.text(why) for tag, why in missing.items() if why is not None},
    )
