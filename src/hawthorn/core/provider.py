"""Who somebody is by the word of an identity provider, and which roles that gives them."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import field

from hawthorn.core.quick import dataclass


@dataclass(frozen=True, slots=True)
class Claims:
    """What an identity provider says of somebody (OpenID Connect Core 1.0, section 5.1): `subject` is who they are with this issuer for good,
    `session` is what it calls its own session, `groups` are the values of the claim that gives roles."""

    issuer: str
    subject: str
    name: str = ""
    username: str = ""
    email: str = ""
    email_verified: bool = False
    groups: tuple[str, ...] = ()
    session: str = ""


@dataclass(frozen=True, slots=True)
class Rules:
    """How a house takes what its provider says: whether somebody new is made, whether one who is here already is known by a mail address that
    the provider has verified, and which of the values of its claim give which roles (`writer`, or `writer:en,fr` for certain locales)."""

    makes: bool = False
    joins: bool = True
    roles: Mapping[str, Sequence[str]] = field(default_factory=dict)


def roles_of(groups: Iterable[str], rules: Rules) -> dict[str, list[str]]:
    """The roles that some values give, each with its locales; none means all of them, also where one value gives all and another some."""
    found: dict[str, set[str]] = {}
    whole: set[str] = set()
    for group in groups:
        for given in rules.roles.get(group, ()):
            role, _, locales = given.partition(":")
            named = {one.strip() for one in locales.split(",") if one.strip()}
            found.setdefault(role.strip(), set()).update(named)
            if not named:
                whole.add(role.strip())
    return {role: [] if role in whole else sorted(locales) for role, locales in sorted(found.items())}


def governed(rules: Rules) -> set[str]:
    """The roles that the provider gives and takes; those that it does not name are the house's own."""
    return {given.partition(":")[0].strip() for some in rules.roles.values() for given in some}


def handle_from(claims: Claims) -> str:
    """A name to log in with, from what the provider calls somebody: small letters, digits, dots, hyphens and underscores, at most fifty."""
    called = (claims.username or claims.email).partition("@")[0] or claims.name
    plain = unicodedata.normalize("NFKD", called.casefold())
    letters = "".join(
        c if c.isascii() and (c.isalnum() or c in ".-_") else "-" if c.isspace() else "" for c in plain
    )
    return letters.strip(".-_")[:50]
