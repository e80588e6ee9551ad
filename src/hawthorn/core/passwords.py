"""Passwords that are tried first by whoever guesses (NIST SP 800-63B, section 3.1.1.2): common ones, words and names with a
little around them, runs of keys, and the person's own words."""

from __future__ import annotations

import re
from collections.abc import Iterable

from hawthorn.core.messages import Message, said

SHORTEST = 8
"""The fewest characters of a password."""
LONGEST = 400
_LOOKED_AT = 100
"""So many characters are looked at; what is longer is no easier to guess for it."""
_HOUSE = ("hawthorn",)
_ENOUGH = 2
"""The least of the library's five scores: some hundred million guesses on end would be needed."""


def weak(password: str, own: Iterable[str] = ()) -> Message | None:
    """Why a password would be guessed; nothing when it would not be soon. `own` are words of the person."""
    # Loaded when somebody chooses a password: it brings lists of tens of thousands of common ones.
    from zxcvbn_rs_py import zxcvbn

    if len(password) < SHORTEST:
        return said("passwords.too_short", least=SHORTEST)
    if len(password) > LONGEST:
        return said("passwords.too_long", most=LONGEST)
    words = [part for word in own for part in re.split(r"[\W_]+", word.casefold()) if len(part) >= 3]
    folded = password.casefold()
    if any(part in folded and len(folded) - len(part) < 6 for part in words):
        return said("passwords.own_name")
    found = zxcvbn(password[:_LOOKED_AT], [*words, *_HOUSE])
    if int(found.score) >= _ENOUGH:
        return None
    return said("passwords.tried_first")
