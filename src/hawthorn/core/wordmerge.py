"""Three-way merge of words: what the sides changed in different places of one text stands together.

The changes of the two sides against their base are laid over each other. Where they touch, the place is contested
and nobody guesses. A result is taken only if comparing it with the base finds exactly the changes that went in: so
three sides give the same text whichever two merge first, or a contested place.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from hawthorn.core import likeness, richtext

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


def merge_words(
    base: str, ours: str, theirs: str, *, markup: bool = False
) -> tuple[str | None, tuple[Piece, ...]]:
    """The merged text, or None with the pieces of which some are contested."""
    tokens = [(_MARKED if markup else WORD).findall(text) for text in (base, ours, theirs)]
    mine, their = changes(tokens[0], tokens[1]), changes(tokens[0], tokens[2])
    pieces: list[Piece] = []
    done = 0
    for start, end, left, right in _regions(mine, their):
        if start > done:
            pieces.append(Piece("".join(tokens[0][done:start])))
        o, t = _applied(tokens[0], start, end, left), _applied(tokens[0], start, end, right)
        if o == t or not right:
            pieces.append(Piece(o))
        elif not left:
            pieces.append(Piece(t))
        else:
            pieces.append(Piece("", True, "".join(tokens[0][start:end]), o, t))
        done = end
    pieces.append(Piece("".join(tokens[0][done:])))
    pieces = [p for p in pieces if p.contested or p.text]
    if not any(p.contested for p in pieces):
        text = "".join(p.text for p in pieces)
        if _faithful(tokens[0], text, mine, their, markup):
            return text, ()
        pieces = [Piece("", True, base, ours, theirs)]
    if len(pieces) > MOST_PIECES:
        # Nobody decides so many places one by one: it is one place, and each side stands there whole.
        pieces = [Piece("", True, base, ours, theirs)]
    return None, tuple(pieces)


def changes(base: Sequence[str], side: Sequence[str]) -> list[Edit]:
    """What a side changed: stretches of the base and what stands there now."""
    found = likeness.between(alike(base, side), len(base), len(side))
    return [(a0, a1, tuple(side[b0:b1])) for a0, a1, b0, b1 in found]


def alike(old: Sequence[str], new: Sequence[str]) -> likeness.Blocks:
    """The stretches of two tokenised texts that are the same: words first, and white space where it stands by such a word."""
    before, after = _words(old), _words(new)
    found = likeness.blocks([old[i] for i in before], [new[j] for j in after])
    out: likeness.Blocks = []

    def put(i: int, j: int) -> None:
        if out and out[-1][0] + out[-1][2] == i and out[-1][1] + out[-1][2] == j:
            i, j, size = out.pop()
            out.append((i, j, size + 1))
        else:
            out.append((i, j, 1))

    for a, b, size in found:
        for i, j in zip(before[a : a + size], after[b : b + size], strict=True):
            last = (out[-1][0] + out[-1][2], out[-1][1] + out[-1][2]) if out else (0, 0)
            if i > last[0] and j > last[1] and old[i - 1] == new[j - 1] and old[i - 1].isspace():
                put(i - 1, j - 1)
            put(i, j)
            if i + 1 < len(old) and j + 1 < len(new) and old[i + 1] == new[j + 1] and old[i + 1].isspace():
                put(i + 1, j + 1)
    if not out and old and new and old[0] == new[0]:
        put(0, 0)
    return out


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
    made = (_MARKED if markup else WORD).findall(text)
    if changes(base, made) != sorted({*mine, *their}):
        return False
    return not markup or richtext.canonical(f"<p>{text}</p>") == (f"<p>{text}</p>" if text else "")
