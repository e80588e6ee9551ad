"""Bureaus: whom commissions are sent to, with what each is called by and calls our locales."""

from __future__ import annotations

import json
import secrets
from collections.abc import Callable, Mapping
from dataclasses import field, replace
from typing import Any
from urllib.parse import urlsplit

from hawthorn.core import locales, naming
from hawthorn.core.access import Subject
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.core.translation import rates
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import bureaus as store
from hawthorn.store import people
from hawthorn.store.bureaus import Bureau

_LONGEST_URL = 500
_LONGEST_KEY = 1_000


@dataclass(frozen=True, slots=True)
class BureauDetails:
    """A bureau as somebody sets it up: `codes` maps our locales to what it calls them, where that differs; `key` is sent with
    each call as a bearer token (RFC 6750), and never shown again; `rates` are what it asks (`core.translation.rates`)."""

    name: str
    url: str
    codes: Mapping[str, str]
    key: str = ""
    rates: Mapping[str, Any] = field(default_factory=dict)


def listing(view: View) -> list[BureauShown]:
    """The bureaus that take jobs; never their keys."""
    permission.require(view, "configure", Subject())
    return [_shown(row) for row in store.in_use(view.conn)]


def add(act: Act, given: BureauDetails) -> BureauShown:
    """Add a bureau, or bring one back that ended. It gets no rights but to return its own jobs."""
    permission.require(act, "configure", Subject())
    wanted = _checked(act, given)
    had = store.named(act.conn, wanted.name)
    if had is not None and had.ended_at is None:
        raise InTheWay("bureaus.there_already", name=wanted.name)
    secret = _sealed(act, wanted.key)
    if had is not None:
        id = had.id
        store.change(act.conn, id, wanted.name, wanted.url, wanted.codes, secret, wanted.rates)
    else:
        handle = f"bureau-{secrets.token_hex(4)}"
        actor = people.add_actor(act.conn, "bureau", handle, wanted.name, "", "", "UTC", act.now)
        people.hold(act.conn, actor, "bureau")
        id = store.add(act.conn, wanted.name, wanted.url, actor, wanted.codes, secret, wanted.rates)
    act.event("bureau.added", [], _told(id, wanted))
    return _shown(_get(act, id))


def change(act: Act, id: int, given: Mapping[str, Any]) -> BureauShown:
    """Change what is given of a bureau (name, url, codes, key, rates); an empty key means that it needs none any more. Jobs that are on
    their way are asked about at the new address."""
    permission.require(act, "configure", Subject())
    row = _get(act, id)
    now = BureauDetails(row.name, row.url, json.loads(row.codes), rates=json.loads(row.rates))
    wanted = _checked(act, replace(now, **given))
    other = store.named(act.conn, wanted.name)
    if other is not None and other.id != id:
        raise InTheWay("bureaus.name_taken", name=wanted.name)
    secret = _sealed(act, wanted.key) if "key" in given else row.secret
    store.change(act.conn, id, wanted.name, wanted.url, wanted.codes, secret, wanted.rates)
    if replace(wanted, key="") != now or "key" in given:
        act.event("bureau.changed", [], _told(id, wanted) | {"new_key": "key" in given})
    return _shown(_get(act, id))


def end(act: Act, id: int) -> None:
    """End a bureau. Raises `InTheWay` while it has jobs that are not finished."""
    permission.require(act, "configure", Subject())
    row = _get(act, id)
    if row.open:
        raise InTheWay("bureaus.has_open_jobs", name=row.name, count=row.open, jobs=row.open)
    store.end(act.conn, id, act.now)
    act.event("bureau.ended", [], {"bureau": id, "name": row.name})


def trial(view: View, id: int) -> tuple[str, dict[str, str]]:
    """What to ask a bureau for, to see whether it answers: an address under which it has no job, and the headers."""
    permission.require(view, "configure", Subject())
    row = _get(view, id)
    return f"{row.url}/jobs/none", headers(view.vault.open, row.secret)


def headers(opened: Callable[[str], str], secret: str) -> dict[str, str]:
    """The headers that each call to a bureau carries, with its key opened."""
    return {"Authorization": f"Bearer {opened(secret)}"} if secret else {}


def answered(status: int, trouble: Message | None) -> Message | None:
    """What is wrong with what a bureau answered to the trial; nothing when it would take jobs."""
    if trouble is not None:
        return trouble
    if status in (401, 403):
        return said("bureaus.key_not_taken", status=status)
    if status >= 500 or 300 <= status < 400:
        return said("bureaus.no_answer_of_a_bureau", status=status)
    return None


def _checked(view: View, given: BureauDetails) -> BureauDetails:
    problems: list[FieldProblem] = []
    name = naming.line("name", given.name)
    if not name:
        problems.append(FieldProblem("name", said("bureaus.without_name")))
    url, key = given.url.strip().rstrip("/"), given.key.strip()
    if (wrong := _wrong_address(url)) is not None:
        problems.append(FieldProblem("url", wrong))
    if len(key) > _LONGEST_KEY or any(not "!" <= c <= "~" for c in key):
        problems.append(FieldProblem("key", said("bureaus.key_length", most=_LONGEST_KEY)))
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
    asked = rates.kept(rates.read(given.rates, list(view.setup.locales)))
    return BureauDetails(name, url, {tag: code for tag, code in codes.items() if code != tag}, key, asked)


def _wrong_address(url: str) -> Message | None:
    try:
        parts = urlsplit(url)
        usable = parts.scheme in ("http", "https") and bool(parts.hostname) and (parts.port or 1) > 0
    except ValueError:
        usable = False
    if not usable or len(url) > _LONGEST_URL or any(c.isspace() for c in url):
        return said("bureaus.wants_address")
    if parts.username or parts.query or parts.fragment:
        return said("bureaus.plain_address")
    return None


def _sealed(act: Act, key: str) -> str:
    return act.vault.seal(key) if key else ""


def _get(view: View, id: int) -> Bureau:
    row = store.get(view.conn, id)
    if row is None:
        raise NotFound("bureaus.not_there", id=id)
    return row


def _told(id: int, one: BureauDetails) -> dict[str, Any]:
    return {
        "bureau": id,
        "name": one.name,
        "url": one.url,
        "codes": dict(one.codes),
        "rates": dict(one.rates),
    }


@dataclass(frozen=True, slots=True)
class BureauShown:
    """A bureau that takes jobs, without its key."""

    id: int
    name: str
    url: str
    codes: dict[str, str]
    has_key: bool
    jobs: int
    open: int
    since: str
    rates: dict[str, Any]


def _shown(row: Bureau) -> BureauShown:
    return BureauShown(
        id=row.id,
        name=row.name,
        url=row.url,
        codes=json.loads(row.codes),
        has_key=bool(row.secret),
        jobs=row.jobs,
        open=row.open,
        since=iso(row.created_at),
        rates=json.loads(row.rates),
    )
