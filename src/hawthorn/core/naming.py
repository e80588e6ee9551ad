"""Names and notes that people type: what cannot be seen has no place in them."""

from __future__ import annotations

import re
import unicodedata

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said

_UNSEEN = {"Cc", "Cs", "Co", "Cn", "Zl", "Zp"}
_TURNING = set("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
"""Marks that turn the direction of what follows (UAX 9, section 2), and so hide what is written."""
LONGEST = 200


def line(where: str, text: str, most: int = LONGEST) -> str:
    """A name of one line, without white space around it; raises `Invalid` for one with characters that cannot be seen."""
    typed = unicodedata.normalize("NFC", text).strip()
    if len(typed) > most:
        raise Invalid([FieldProblem(where, said("common.too_long", count=len(typed), most=most))])
    return _clean(where, typed, "")


def needed(where: str, text: str, most: int = LONGEST) -> str:
    """The same, of which there has to be one."""
    found = line(where, text, most)
    if not found:
        raise Invalid([FieldProblem(where, said("common.needed"))])
    return found


def is_mail_address(text: str) -> bool:
    """Whether mail could be sent to it."""
    return re.fullmatch(r"[^@\s]+@[^@\s]+", text) is not None


def note(where: str, text: str, most: int = 4_000) -> str:
    """A note of several lines; raises `Invalid` like `line`."""
    typed = unicodedata.normalize("NFC", text.replace("\r\n", "\n")).strip()
    if len(typed) > most:
        raise Invalid([FieldProblem(where, said("common.too_long", count=len(typed), most=most))])
    return _clean(where, typed, "\n\t")


def handle(where: str, text: str) -> str:
    """A name to log in with: small letters and digits of one script, dots, hyphens and underscores in between."""
    typed = unicodedata.normalize("NFKC", text).strip().casefold()
    if not 2 <= len(typed) <= 60:
        raise Invalid([FieldProblem(where, said("naming.length"))])
    if not typed[0].isalnum() or any(not (c.isalnum() or c in ".-_") for c in typed):
        raise Invalid([FieldProblem(where, said("naming.characters"))])
    scripts = {unicodedata.name(c, "").split(" ")[0] for c in typed if c.isalpha()}
    if len(scripts) > 1:
        raise Invalid(
            [FieldProblem(where, said("naming.mixes_letters", scripts=[s.lower() for s in sorted(scripts)]))]
        )
    return typed


def visible(text: str) -> str:
    """A name that comes from elsewhere, such as that of a file, without the characters that cannot be seen."""
    return "".join(c for c in unicodedata.normalize("NFC", text) if not _unseen(c)).strip()


def _unseen(char: str) -> bool:
    return unicodedata.category(char) in _UNSEEN or char in _TURNING


def _clean(where: str, text: str, allowed: str) -> str:
    odd = next((c for c in text if c not in allowed and _unseen(c)), None)
    if odd is not None:
        raise Invalid([FieldProblem(where, said("naming.unseen_character", point=format(ord(odd), "04X")))])
    return text
