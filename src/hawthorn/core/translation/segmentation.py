"""Where one sentence ends and the next begins, by the rules of a language."""

from __future__ import annotations

from functools import lru_cache

from hawthorn.core.translation import rules, srx
from hawthorn.core.translation.srx import Rule, Rules


class _InForce:
    """The rules that are followed: our own, unless a house has others."""

    def __init__(self) -> None:
        self.rules: Rules | None = None


_in_force = _InForce()


def follow(others: Rules | None) -> None:
    """Follow other rules from now on, in this process; None for our own."""
    _in_force.rules = others
    _of.cache_clear()


def boundaries(text: str, locale: str) -> list[tuple[int, int]]:
    """The gaps between sentences as (end of one, start of the next); white space lies in between."""
    return srx.gaps(srx.breaks(_of(locale), text), text)


@lru_cache(maxsize=64)
def _of(locale: str) -> tuple[Rule, ...]:
    return (_in_force.rules or _own()).of(locale)


@lru_cache(maxsize=1)
def _own() -> Rules:
    return srx.read(rules.SRX)


def writes_without_spaces(locale: str) -> bool:
    """Whether sentences of the language follow one another without a space."""
    return locale.split("-")[0].lower() in ("ja", "zh")
