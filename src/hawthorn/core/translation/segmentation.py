"""Where one sentence ends and the next begins, by language."""

from __future__ import annotations

import re

_ABBREVIATIONS = {
    "en": {
        "mr",
        "mrs",
        "ms",
        "dr",
        "st",
        "no",
        "vs",
        "e.g",
        "i.e",
        "c",
        "ca",
        "approx",
        "fig",
        "vol",
        "prof",
        "nr",
    },
    "fr": {"m", "mme", "dr", "n", "p.ex", "env", "fig", "vol", "prof", "av", "apr"},
    "de": {"z.b", "d.h", "nr", "dr", "prof", "ca", "bzw", "usw", "abb", "bd", "st", "hr", "fr"},
}
_WESTERN = re.compile(r"[.!?…]+[\"'”’»)\]]*(\s+)(?=[\"'“‘«(\[]*[^\W\d_a-zà-öø-ÿ]|[\"'“‘«(\[]*\d)")
_EASTERN = re.compile(r"[。！？]+[」』）”]*(\s*)(?=\S)")
_ARABIC = re.compile(r"[.!?؟…]+[\"'”’»)\]]*(\s+)(?=\S)")
_LAST_WORD = re.compile(r"([\w.]+?)\.[\"'”’»)\]]*$")


def boundaries(text: str, locale: str) -> list[tuple[int, int]]:
    """The gaps between sentences as (end of one, start of the next); white space lies in between."""
    language = locale.split("-")[0].lower()
    pattern = {"ja": _EASTERN, "zh": _EASTERN, "ar": _ARABIC, "fa": _ARABIC}.get(language, _WESTERN)
    known = _ABBREVIATIONS.get(language, set())
    out: list[tuple[int, int]] = []
    for found in pattern.finditer(text):
        word = _LAST_WORD.search(text[: found.start(1)])
        if word and (word[1].lower() in known or (len(word[1]) == 1 and word[1].isupper())):
            continue
        out.append((found.start(1), found.end(1)))
    return out


def writes_without_spaces(locale: str) -> bool:
    """Whether sentences of the language follow one another without a space."""
    return locale.split("-")[0].lower() in ("ja", "zh")
