"""The groups by which caches let go of what they keep: named in answers (RFC 9875) and in what webhooks tell, in the same words.

A name has 32 characters at most, which every cache has to hold (RFC 9875, section 2).
"""

from __future__ import annotations

OUTLINE = "outline"
"""Addresses and menus."""
ALL = "all"


def entry(uuid: str) -> str:
    """Whatever shows an entry: its id without hyphens."""
    return uuid.replace("-", "")


def lists(type: str) -> str:
    """The lists of a type."""
    return f"type-{type}"[:32]
