"""Rules of where sentences end, as SRX 2.0 says them (LISA OSCAR, 7 April 2008): read from a file, and applied to a text.

Its expressions are those of ICU (section 5.3); `regex` reads what is used of them, with what stands before a place of any length.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import regex
from lxml import etree

from hawthorn.core.errors import BadFile
from hawthorn.core.quick import dataclass
from hawthorn.core.xml import root_of

NS = "http://www.lisa.org/srx20"
_LONGEST = 1_000_000
"""Characters that a file of rules may have."""
_PATIENCE = 2.0
"""Seconds that the rules may look at one text: whoever wrote them may have written one that never ends."""


@dataclass(frozen=True, slots=True)
class Rule:
    """A place that is between two texts ends a sentence, or does not."""

    ends: bool
    place: regex.Pattern[str]


@dataclass(frozen=True, slots=True)
class Rules:
    """Rules by their names, and which languages they are for, in order; with `cascade` all that fit a language hold one after another, else
    the first."""

    by_name: dict[str, tuple[Rule, ...]]
    maps: tuple[tuple[regex.Pattern[str], str], ...]
    cascade: bool

    def of(self, locale: str) -> tuple[Rule, ...]:
        """The rules for a language, in the order in which they are tried."""
        names = [name for pattern, name in self.maps if pattern.fullmatch(locale)]
        return tuple(
            rule for name in (names if self.cascade else names[:1]) for rule in self.by_name.get(name, ())
        )


def breaks(rules: Iterable[Rule], text: str) -> list[int]:
    """Where sentences of a text end: at each place the first rule that fits decides, and none fits where nothing ends (section 4.4)."""
    decided: dict[int, bool] = {}
    for rule in rules:
        for found in rule.place.finditer(text, timeout=_PATIENCE):
            decided.setdefault(found.start(), rule.ends)
    return sorted(at for at, ends in decided.items() if ends and 0 < at < len(text))


def gaps(places: Sequence[int], text: str) -> list[tuple[int, int]]:
    """What lies between two sentences that end at some places: the white space around each."""
    out: list[tuple[int, int]] = []
    for at in places:
        start = len(text[:at].rstrip())
        end = len(text) - len(text[at:].lstrip())
        if start > 0 and end < len(text) and (not out or out[-1][1] < end):
            out.append((start, end))
    return out


def read(data: str | bytes) -> Rules:
    """Read a file of rules. Raises `BadFile`, which says what is wrong and where."""
    if len(data) > _LONGEST:
        raise BadFile("srx.too_large", most=_LONGEST)
    root = root_of(data.encode() if isinstance(data, str) else data)
    if root.tag != f"{{{NS}}}srx" or root.get("version") != "2.0":
        raise BadFile("srx.not_srx", found=str(root.tag)[:200], version=str(root.get("version"))[:40])
    by_name = {
        str(group.get("languagerulename", "")): tuple(_rule(node) for node in group.iter(f"{{{NS}}}rule"))
        for group in root.iter(f"{{{NS}}}languagerule")
    }
    maps = tuple(
        (
            _compiled(node, str(node.get("languagepattern", "")), whole=True),
            str(node.get("languagerulename", "")),
        )
        for node in root.iter(f"{{{NS}}}languagemap")
    )
    lacking = sorted({name for _, name in maps} - set(by_name))
    if lacking or not maps:
        raise BadFile("srx.no_rules", names=lacking or ["languagemap"])
    header = root.find(f"{{{NS}}}header")
    return Rules(by_name, maps, header is not None and header.get("cascade") == "yes")


def _rule(node: etree._Element) -> Rule:
    before, after = (node.findtext(f"{{{NS}}}{name}") or "" for name in ("beforebreak", "afterbreak"))
    for one in (before, after):
        _compiled(node, one)
    place = f"{f'(?<={before})' if before else ''}{f'(?={after})' if after else ''}"
    return Rule(node.get("break", "yes") != "no", _compiled(node, place))


def _compiled(node: etree._Element, expression: str, *, whole: bool = False) -> regex.Pattern[str]:
    try:
        return regex.compile(expression, regex.IGNORECASE if whole else 0)
    except regex.error as error:
        raise BadFile(
            "srx.no_expression", line=int(node.sourceline or 0), expression=expression[:200], error=str(error)
        ) from None
