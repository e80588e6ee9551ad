"""What a bureau offers: which languages it translates into which, and what it asks for a word."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict, field
from typing import Any

from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.translation.rates import KINDS


@dataclass(frozen=True, slots=True)
class Pair:
    """One language into another, as the bureau calls them; `word` is what it asks for a word where that differs."""

    source: str
    target: str
    word: str = ""


@dataclass(frozen=True, slots=True)
class Offer:
    """What a bureau offers. Without pairs it takes any language: it has not said, or is a folder that somebody looks after."""

    pairs: Sequence[Pair] = ()
    currency: str = ""
    word: str = "0"
    shares: Mapping[str, str] = field(default_factory=dict)

    def lacking(self, name: str, codes: Mapping[str, str], source: str, target: str) -> Message | None:
        """Why a job from one of our locales into another would be none for this bureau, and which code it might be that is meant;
        None where it offers that."""
        if not self.pairs:
            return None
        mine, theirs = codes.get(source, source), codes.get(target, target)
        if any(_same(p.source, mine) and _same(p.target, theirs) for p in self.pairs):
            return None
        facts = {"name": name, "source": mine, "target": theirs}
        offered = sorted({p.target for p in self.pairs if _same(p.source, mine)})
        if not offered:
            sources = sorted({p.source for p in self.pairs})
            like = _like(source, sources)
            code = "offers.source_by_another_code" if like else "offers.source_not_offered"
            return said(code, **facts, offered=sources, ours=source, like=like)
        like = _like(target, offered)
        code = "offers.target_by_another_code" if like else "offers.target_not_offered"
        return said(code, **facts, offered=offered, ours=target, like=like)

    def rates(self, codes: Mapping[str, str], source: str) -> dict[str, Any]:
        """What it asks, as rates are kept (`core.translation.rates`), by our locales."""
        if not self.currency:
            return {}
        by_code = {p.target.casefold(): p.word for p in self.pairs if p.word and _same(p.source, source)}
        ours = {tag: by_code[code.casefold()] for tag, code in codes.items() if code.casefold() in by_code}
        return {
            "currency": self.currency,
            "word": self.word,
            "locales": {tag: word for tag, word in ours.items() if word != self.word},
            "shares": {kind: share for kind, share in self.shares.items() if kind in KINDS},
        }


def kept(offer: Offer) -> str:
    """An offer as it is stored."""
    return json.dumps(asdict(offer) | {"shares": dict(offer.shares)}, sort_keys=True)


def stored(text: str) -> Offer:
    """An offer as it was stored; one that offers nothing in particular where none was."""
    if not text:
        return Offer()
    made = json.loads(text)
    pairs = tuple(Pair(**pair) for pair in made.pop("pairs"))
    return Offer(pairs=pairs, **made)


def _same(one: str, other: str) -> bool:
    return one.casefold() == other.casefold()


def _like(ours: str, offered: Sequence[str]) -> str:
    """The first of some codes that is of the same language as one of our locales."""
    language = ours.split("-", 1)[0].casefold()
    return next((code for code in offered if code.split("-", 1)[0].casefold() == language), "")
