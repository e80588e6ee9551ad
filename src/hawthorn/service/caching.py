"""What caches are told of what everybody reads: how long it may be kept, and with what it is to be let go (RFC 9111, RFC 5861, RFC 9875)."""

from __future__ import annotations

from collections.abc import Iterable

from hawthorn.core.groups import ALL
from hawthorn.service.context import VARY
from hawthorn.service.settings import Settings

MOST_GROUPS = 64
"""Caches hold to 32 groups at least (RFC 9875, section 2); what belongs to more than so many names the lists of its types alone."""
_ID = 32
"""So many characters the group of an entry has."""
_FOR_EVER = "public, max-age=31536000, immutable"
"""A year is as good as for ever (RFC 9111, section 1.2.2; RFC 8246)."""
_WHILE_ASKING = 60
_WHILE_AWAY = 86_400
"""Seconds for which something older is shown while a cache asks for it anew, and while nobody answers it."""


def control(settings: Settings, *, plain: bool) -> str:
    """`Cache-Control` of what everybody reads, or (not `plain`) of what only some may."""
    if not plain:
        return "private, no-store"
    if not settings.shared_age:
        return "public, max-age=0, must-revalidate"
    return (
        f"public, max-age=0, s-maxage={settings.shared_age}, stale-while-revalidate={_WHILE_ASKING}, "
        f"stale-if-error={_WHILE_AWAY}"
    )


def told(settings: Settings, names: Iterable[str], *, plain: bool) -> dict[str, str]:
    """What caches are told of an answer to whoever reads: how long, for whom, and with which groups it is let go."""
    headers = {"Cache-Control": control(settings, plain=plain), "Vary": VARY}
    return headers | (groups(settings, names) if plain else {})


def for_ever(settings: Settings) -> str:
    """`Cache-Control` of what is never another thing at its address. Caches between here and readers may be told to let go of it
    where they are told of groups; where they are not, they ask once a day whether it is still there."""
    return _FOR_EVER if settings.shared_age else f"{_FOR_EVER}, s-maxage={_WHILE_AWAY}"


def groups(settings: Settings, names: Iterable[str]) -> dict[str, str]:
    """The groups of an answer, as caches of either kind read them; nothing where no cache keeps anything."""
    if not settings.shared_age:
        return {}
    some = list(dict.fromkeys([*names, ALL]))
    if len(some) > MOST_GROUPS:
        some = [one for one in some if len(one) < _ID]
    return {"Cache-Groups": ", ".join(f'"{one}"' for one in some), "Surrogate-Key": " ".join(some)}
