"""What is worth a second look in a translated sentence: its tags, numbers, spaces, length, last mark, and whether it was translated."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter

from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.translation import tags
from hawthorn.core.translation.tags import BrokenTags, Markup, Parts, words_of

_NUMBER = re.compile(r"\d(?:[\d.,:'’\u00a0\u202f\u066b\u066c]*\d)?")
_DOUBLED = re.compile(r"[ \u00a0]{2,}|\u3000{2,}")
_LETTER = re.compile(r"[^\W\d_]")
_CLOSING = " \u00a0\u202f\t\n\"'”’»“›)]）」』】"
_LAST = {
    **dict.fromkeys(".。．。۔", "."),
    **dict.fromkeys("?？؟", "?"),
    **dict.fromkeys("!！", "!"),
    **dict.fromkeys(":：", ":"),
    **dict.fromkeys(";；؛", ";"),
    **dict.fromkeys("…", "…"),
}
"""Marks that end a sentence, by what they are in every script."""


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing worth a look. One that `blocks` keeps the sentence from being finished: it could not be put into the page."""

    code: str
    what: Message
    blocks: bool = False


def findings(
    source: Parts,
    target: Parts,
    markup: Markup,
    *,
    rich: bool,
    limit: int | None = None,
    beside: int = 0,
) -> list[Finding]:
    """What is to be said of a target beside its source. `markup` is what stands behind the tags of this sentence; `limit` so many
    characters the whole text may have, of which the sentences `beside` this one take up some."""
    words, mine = words_of(source), words_of(target)
    if not mine.strip():
        return []
    out = _tags(target, markup, rich=rich)
    if limit is not None and beside + len(mine) > limit:
        out.append(Finding("length", said("checking.length", limit=limit, over=beside + len(mine) - limit)))
    numbers, have = _numbers(words), _numbers(mine)
    if numbers != have:
        missing, more = list((numbers - have).elements()), list((have - numbers).elements())
        code = "checking.numbers" if missing and more else "checking.numbers_missing" if missing else ""
        out.append(Finding("numbers", said(code or "checking.numbers_more", missing=missing, more=more)))
    if _DOUBLED.search(mine) and not _DOUBLED.search(words):
        out.append(Finding("spaces", said("checking.doubled_spaces")))
    if (mine != mine.strip()) and words == words.strip():
        out.append(Finding("spaces", said("checking.outer_spaces")))
    ends, wanted = _end(mine), _end(words)
    if ends != wanted:
        code = (
            "checking.end" if ends and wanted else "checking.end_missing" if wanted else "checking.end_more"
        )
        out.append(Finding("end", said(code, source=wanted, target=ends)))
    if mine.strip() == words.strip() and _LETTER.search(words):
        out.append(Finding("untranslated", said("checking.untranslated")))
    return out


def _tags(target: Parts, markup: Markup, *, rich: bool) -> list[Finding]:
    try:
        fitted = tags.fitted(markup, target, rich=rich)
    except BrokenTags as broken:
        return [Finding("tags", broken.message, blocks=True)]
    return [Finding("tags", note) for note in fitted.notes]


def _numbers(text: str) -> Counter[str]:
    return Counter(
        "".join(str(unicodedata.digit(c)) for c in found if c.isdecimal()) for found in _NUMBER.findall(text)
    )


def _end(text: str) -> str:
    bare = text.rstrip(_CLOSING)
    if bare.endswith("..."):
        return "…"
    return _LAST.get(bare[-1:], "")
