"""Passwords that are tried first by whoever guesses (NIST SP 800-63B, section 3.1.1.2): common ones, runs of keys, and the
person's own words."""

from __future__ import annotations

import re
from collections.abc import Iterable

SHORTEST = 8
"""The fewest characters of a password."""
LONGEST = 400
_ROWS = (
    "01234567890",
    "abcdefghijklmnopqrstuvwxyz",
    "qwertyuiopasdfghjklzxcvbnm",
    "qwertzuiopasdfghjklyxcvbnm",
    "azertyuiopqsdfghjklmwxcvbn",
    "1qaz2wsx3edc4rfv5tgb6yhn7ujm",
    "qazwsxedcrfvtgbyhnujm",
)
COMMON = frozenset(
    [
        "password",
        "passw0rd",
        "p@ssword",
        "p@ssw0rd",
        "passwort",
        "motdepasse",
        "contrasena",
        "contraseña",
        "letmein",
        "welcome",
        "welcome1",
        "iloveyou",
        "sunshine",
        "princess",
        "football",
        "baseball",
        "superman",
        "batman",
        "trustno1",
        "whatever",
        "starwars",
        "michael",
        "jennifer",
        "jordan",
        "charlie",
        "computer",
        "internet",
        "dragon",
        "monkey",
        "shadow",
        "master",
        "hello123",
        "freedom",
        "admin",
        "administrator",
        "changeme",
        "changeit",
        "default",
        "secret",
        "secret123",
        "guest",
        "testtest",
        "testing",
        "test1234",
        "login123",
        "abcd1234",
        "abc12345",
        "a1b2c3d4",
        "q1w2e3r4",
        "q1w2e3r4t5",
        "zaq12wsx",
        "1q2w3e4r",
        "1q2w3e4r5t",
        "asdfasdf",
        "qwer1234",
        "asdf1234",
        "zxcvbnm1",
        "lovely",
        "flower",
        "summer",
        "winter",
        "spring",
        "autumn",
        "monday",
        "friday",
        "january",
        "december",
        "cheese",
        "chocolate",
        "liverpool",
        "arsenal",
        "chelsea",
        "barcelona",
        "juventus",
        "samsung",
        "nintendo",
        "pokemon",
        "mustang",
        "harley",
        "corvette",
        "editor",
        "publisher",
        "writer",
        "review",
        "release",
        "translate",
        "translation",
        "website",
        "newspaper",
        "hawthorn",
    ]
)


def weak(password: str, own: Iterable[str] = ()) -> str:
    """Why a password would be guessed, in words; nothing when it would not be soon. `own` are words of the person."""
    if len(password) < SHORTEST:
        return f"has fewer than {SHORTEST} characters"
    if len(password) > LONGEST:
        return f"has more than {LONGEST} characters"
    folded = password.casefold()
    bare = re.sub(r"[\W\d_]+$|^[\W\d_]+", "", folded)
    if len(set(folded)) < 4:
        return "is made of the same few characters again and again"
    if any(folded in row * 2 or folded in (row * 2)[::-1] for row in _ROWS):
        return "is a run of keys, which is tried first"
    half = folded[: len(folded) // 2]
    if half and folded == half * 2 and len(half) < SHORTEST:
        return "says the same short thing twice"
    if folded in COMMON or bare in COMMON:
        return "is one of those that are tried first"
    for word in own:
        for part in re.split(r"[\W_]+", word.casefold()):
            if len(part) >= 3 and part in folded and len(folded) - len(part) < 6:
                return "is hardly more than your own name"
    return ""
