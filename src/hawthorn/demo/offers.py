"""The translation bureaus of the demo: what they are called, and what the one offers that is called."""

from __future__ import annotations

from hawthorn.wire.bureau_protocol import Offer, Pair

CALLED = "Saltmarsh Translations"
"""The bureau that is called, and runs in the demo."""
BY_FILES = "Tidewrack Texts"
"""The bureau that works on files in a folder."""
_PAIRS = {"fr-FR": "", "de": "", "ja-JP": "0.11", "ar": "0.17"}
_SHARES = {"repeated": "0.1", "in context": "0", "exact": "0.1", "95–99": "0.4", "85–94": "0.6"}


def offered() -> Offer:
    """What the bureau that is called offers."""
    pairs = [Pair(source="en", target=tag, word=word) for tag, word in _PAIRS.items()]
    return Offer(protocol="1", name=CALLED, pairs=pairs, currency="EUR", word="0.14", shares=_SHARES)
