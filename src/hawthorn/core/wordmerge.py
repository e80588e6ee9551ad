"""Three-way merge of words: what the sides changed in different places of one text stands together.

The changes of the two sides against their base are laid over each other. Where they touch, the place is contested
and nobody guesses. A result is taken only if comparing it with the base finds exactly the changes that went in: so
three sides give the same text whichever two merge first, or a contested place.
"""

from __future__ import annotations

import re
import sys
from collections.abc import Sequence

from hawthorn.core import likeness, richtext
from hawthorn.core.quick import dataclass

_ALONE = r"\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af"
WORD = re.compile(rf"\s+|[{_ALONE}]|[^\W{_ALONE}]+|[^\w\s]")
_MARKED = re.compile(rf"<[^>]*>|&#?\w+;|{WORD.pattern}")
MOST_PIECES = 400
"""Into so many pieces at most a text is divided for whoever has to choose."""
Edit = tuple[int, int, tuple[str, ...]]


@dataclass(frozen=True, slots=True)
class Piece:
    """A stretch of a merged text: agreed `text`, or a contested place with what each side has there."""

    text: str = ""
    contested: bool = False
    base: str = ""
    ours: str = ""
    theirs: str = ""


def tokens(text: str, pattern: re.Pattern[str] = WORD) -> list[str]:
    """The words of a text and what stands between them, in order. Each word is kept once, however often it stands there."""
    return [sys.intern(found[0]) for found in pattern.finditer(text)]


def merge_words(
    base: str, ours: str, theirs: str, *, markup: bool = False
) -> tuple[str | None, tuple[Piece, ...]]:
    """The merged text, or None with the pieces of which some are contested."""
    words, *sides = (tokens(text, _MARKED if markup else WORD) for text in (base, ours, theirs))
    mine, their = (changes(words, side) for side in sides)
    whole = (Piece("", True, base, ours, theirs),)
    pieces: list[Piece] = []
    done, contested = 0, False
    for start, end, left, right in _regions(mine, their):
        if start > done:
            pieces.append(Piece("".join(words[done:start])))
        o, t = _applied(words, start, end, left), _applied(words, start, end, right)
        met = bool(left and right) and o != t
        if met:
            pieces.append(Piece("", True, "".join(words[start:end]), o, t))
        elif o if left else t:
            pieces.append(Piece(o if left else t))
        contested, done = contested or met, end
        if contested and len(pieces) > MOST_PIECES:
            # Nobody decides so many places one by one: it is one place, and each side stands there whole.
            return None, whole
    if done < len(words):
        pieces.append(Piece("".join(words[done:])))
    if contested:
        return None, tuple(pieces)
    text = "".join(p.text for p in pieces)
    return (text, ()) if _faithful(words, text, mine, their, markup) else (None, whole)


def changes(base: Sequence[str], side: Sequence[str]) -> list[Edit]:
    """What a side changed: stretches of the base and what stands there now."""
    found = likeness.between(alike(base, side), len(base), len(side))
    return [(a0, a1, tuple(side[b0:b1])) for a0, a1, b0, b1 in found]


def alike(old: Sequence[str], new: Sequence[str]) -> likeness.Blocks:
    """The stretches of two tokenised texts that are the same: words first, and white space where it stands by such a word."""
    before, after = _words(old), _words(new)
    found = likeness.blocks([old[i] for i in before], [new[j] for j in after])
    out: likeness.Blocks = []
    for a, b, size in found:
        done = 0
        while done < size:
            run = _run(old, new, before, after, a + done, b + done, size - done)
            _put(out, old, new, before[a + done], after[b + done], before[a + done + run - 1] + 1)
            done += run
    if not out and old and new and old[0] == new[0]:
        out.append((0, 0, 1))
    return out


def _run(
    old: Sequence[str], new: Sequence[str], before: list[int], after: list[int], a: int, b: int, size: int
) -> int:
    """How many of so many words that are the same also have the same between them."""
    i, j, last = before[a], after[b], before[a + size - 1]
    if old[i : last + 1] == new[j : after[b + size - 1] + 1]:
        return size
    return next(
        n
        for n in range(1, size + 1)
        if n == size or old[before[a + n - 1] : before[a + n]] != new[after[b + n - 1] : after[b + n]]
    )


def _put(out: likeness.Blocks, old: Sequence[str], new: Sequence[str], i: int, j: int, end: int) -> None:
    """Add a stretch that is the same, with the white space around it as far as that is the same as well."""
    size = end - i
    last = (out[-1][0] + out[-1][2], out[-1][1] + out[-1][2]) if out else (0, 0)
    if i > last[0] and j > last[1] and old[i - 1] == new[j - 1] and old[i - 1].isspace():
        i, j, size = i - 1, j - 1, size + 1
    if (
        i + size < len(old)
        and j + size < len(new)
        and old[i + size] == new[j + size]
        and old[i + size].isspace()
    ):
        size += 1
    if out and last == (i, j):
        i, j, more = out.pop()
        size += more
    out.append((i, j, size))


def _words(tokens: Sequence[str]) -> list[int]:
    """Where in a tokenised text something other than white space stands."""
    return [n for n, token in enumerate(tokens) if not token.isspace()]


def _regions(mine: list[Edit], their: list[Edit]) -> list[tuple[int, int, list[Edit], list[Edit]]]:
    """Changes that touch, together."""
    out: list[tuple[int, int, list[Edit], list[Edit]]] = []
    marked = sorted(
        [(e[0], e[1], 0, e) for e in mine] + [(e[0], e[1], 1, e) for e in their], key=lambda m: m[:3]
    )
    for start, end, side, edit in marked:
        if out and start <= out[-1][1]:
            a, b, left, right = out.pop()
            out.append((a, max(b, end), left, right))
        else:
            out.append((start, end, [], []))
        out[-1][2 + side].append(edit)  # type: ignore[union-attr]
    return out


def _applied(base: Sequence[str], start: int, end: int, edits: Sequence[Edit]) -> str:
    out: list[str] = []
    at = start
    for a, b, new in edits:
        out += base[at:a]
        out += new
        at = b
    return "".join([*out, *base[at:end]])


def _faithful(base: Sequence[str], text: str, mine: list[Edit], their: list[Edit], markup: bool) -> bool:
    made = tokens(text, _MARKED if markup else WORD)
    if changes(base, made) != sorted({*mine, *their}):
        return False
    return not markup or richtext.canonical(richtext.standing(text)) == richtext.standing(text)
