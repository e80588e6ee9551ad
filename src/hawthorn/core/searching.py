"""Words as they are searched for: folded so that one spelling finds the other, in any script.

Latin, Greek and Cyrillic words lose case and accents. Characters of Japanese, Chinese and Korean stand alone, so that
one or two of them can be searched for. Arabic words lose their vowel marks, forms of one letter become one, and a word
with the article is found without it, and the other way round.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable

from hawthorn.core.quick import dataclass

_ALONE = "\u3005-\u3007\u3040-\u30ff\u31f0-\u31ff\u3400-\u4dbf\u4e00-\u9fff\uac00-\ud7af\uf900-\ufaff"
_PARTS = re.compile(rf"[{_ALONE}]|[^\W_{_ALONE}]+")
_HAS_ALONE = re.compile(rf"[{_ALONE}]")
_ARABIC = re.compile("[\u0600-\u06ff]")
_MARKS = re.compile("[\u0610-\u061a\u0640\u064b-\u065f\u0670\u06d6-\u06ed]")
_LETTERS = str.maketrans("أإآٱىةؤئ", "ااااي" + "هوي")
_FOLDED = bytes(ord(chr(n).lower()) if n < 128 and chr(n).isalnum() else 32 for n in range(256))
"""For each byte of ASCII the small letter or digit that it is, and a space for everything else."""
_ARTICLE = "ال"


@dataclass(frozen=True, slots=True)
class Wanted:
    """One thing to find: words that stand side by side, the last perhaps only begun."""

    parts: tuple[str, ...]
    begun: bool = False


def fold(text: str) -> list[str]:
    """The words of a text as they are kept for searching, in order."""
    if text.isascii():
        return text.encode().translate(_FOLDED).decode().split()
    out: list[str] = []
    for word in _PARTS.findall(_plain(text)):
        out += _forms(word)
    return out


def _plain(text: str) -> str:
    """One form of every letter, without the vowel marks of Arabic, which stand between letters."""
    return _MARKS.sub("", unicodedata.normalize("NFKC", text).casefold())


def _forms(word: str) -> list[str]:
    if word.isascii() or _HAS_ALONE.match(word):
        return [word]
    if _ARABIC.search(word):
        plain = word.translate(_LETTERS)
        bare = plain[2:] if plain.startswith(_ARTICLE) and len(plain) > 3 else ""
        return [plain, bare] if bare else [plain]
    stripped = "".join(c for c in unicodedata.normalize("NFD", word) if not unicodedata.combining(c))
    return re.findall(
        r"\w+", stripped.replace("ß", "ss").replace("ø", "o").replace("ł", "l").replace("œ", "oe")
    )


def terms(words: Iterable[str]) -> set[str]:
    """The words that can be begun and are found: those of more than one letter that do not stand alone."""
    return {w for w in words if 2 <= len(w) <= 40 and (w.isascii() or not _HAS_ALONE.match(w))}


def wanted(query: str) -> list[Wanted]:
    """What somebody looks for: each word, or “quoted words” side by side. A word that they may still be typing is
    begun: everything that goes on from there is found as well."""
    out: list[Wanted] = []
    for quoted, loose in re.findall(r"[\"“„«]([^\"”“»]*)[\"”“»]?|(\S+)", query):
        if quoted:
            parts = _query_parts(quoted)
            if parts:
                out.append(Wanted(tuple(parts)))
            continue
        run: list[str] = []
        for part in _query_parts(loose):
            if _HAS_ALONE.match(part):
                run.append(part)
                continue
            if run:
                out.append(Wanted(tuple(run)))
                run = []
            out.append(Wanted((part,), begun=True))
        if run:
            out.append(Wanted(tuple(run)))
    return out[:12]


def _query_parts(text: str) -> list[str]:
    """Like `fold`, with one form for each word: the longest, which is kept for every spelling of it."""
    out: list[str] = []
    for word in _PARTS.findall(_plain(text)):
        forms = _forms(word)
        out += forms[-1:] if _ARABIC.search(word) else forms
    return out


def match(some: Iterable[Wanted], begun: dict[str, list[str]], columns: str = "title body") -> str:
    """A query of FTS5 (SQLite, section 3): all of it must be there. `begun` lists how each begun word goes on."""
    out: list[str] = []
    for one in some:
        if one.begun:
            forms = dict.fromkeys([one.parts[0], *begun.get(one.parts[0], ())])
            out.append("(" + " OR ".join(f'"{f}"' for f in forms) + ")")
        else:
            out.append('"' + " ".join(one.parts) + '"')
    return f"{{{columns}}} : ({' AND '.join(out)})"
