"""What translation costs: words by how much of them is known already, and what a bureau asks for each."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import field
from decimal import ROUND_HALF_UP, Decimal, InvalidOperation
from typing import Any

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.translation import matching

REPEATED, WORDLESS = "repeated", "without words"
KINDS = ("no match", *(name for _, name in reversed(matching.BANDS)), REPEATED, WORDLESS)
"""How words are counted: those that no memory knows, those that one knows by their likeness, those that stood before in the same order,
and what has no words at all (numbers, say)."""
_MOST = Decimal(1000)


@dataclass(frozen=True, slots=True)
class Rates:
    """What a bureau asks: for a word, in a currency (ISO 4217), by locale where that differs; and which share of it for words of each
    kind (`KINDS`); what is not named costs all of it, and what has no words nothing."""

    currency: str = ""
    word: Decimal = Decimal(0)
    locales: Mapping[str, Decimal] = field(default_factory=dict)
    shares: Mapping[str, Decimal] = field(default_factory=dict)

    def cost(self, words: Mapping[str, int], locale: str) -> Decimal:
        """What words of each kind cost in a locale, to a hundredth."""
        each = self.locales.get(locale, self.word)
        whole = sum(
            (n * self.shares.get(kind, _share(kind)) for kind, n in words.items()),
            start=Decimal(0),
        )
        return (each * whole).quantize(Decimal("0.01"), ROUND_HALF_UP)


def _share(kind: str) -> Decimal:
    return Decimal(kind != WORDLESS)


def read(given: Mapping[str, Any], known: Sequence[str]) -> Rates:
    """Rates as they are given or kept; raises `Invalid` where they are none. Without a currency there are none."""
    problems: list[FieldProblem] = []
    currency = str(given.get("currency", "")).strip().upper()
    if currency and not (len(currency) == 3 and currency.isascii() and currency.isalpha()):
        problems.append(FieldProblem("rates.currency", said("rates.currency", value=currency[:20])))
    locales, shares = given.get("locales") or {}, given.get("shares") or {}
    problems += [
        FieldProblem(f"rates.locales.{tag}", said("common.none_of", known=list(known)))
        for tag in locales
        if tag not in known
    ]
    problems += [
        FieldProblem(f"rates.shares.{kind}", said("common.none_of", known=list(KINDS)))
        for kind in shares
        if kind not in KINDS
    ]
    word = _amount(given.get("word", 0), "rates.word", _MOST, problems)
    by_locale = {
        tag: _amount(value, f"rates.locales.{tag}", _MOST, problems) for tag, value in locales.items()
    }
    by_kind = {
        kind: _amount(value, f"rates.shares.{kind}", Decimal(1), problems) for kind, value in shares.items()
    }
    if not currency and (word or any(by_locale.values())):
        problems.append(FieldProblem("rates.currency", said("rates.without_currency")))
    if problems:
        raise Invalid(problems)
    return Rates(currency, word, by_locale, by_kind)


def _amount(value: Any, where: str, most: Decimal, problems: list[FieldProblem]) -> Decimal:
    try:
        found = Decimal(str(value))
    except InvalidOperation:
        found = Decimal(-1)
    if not found.is_finite() or not 0 <= found <= most:
        problems.append(FieldProblem(where, said("rates.amount", most=most)))
        return Decimal(0)
    return found


def stored(text: str) -> Rates:
    """Rates as they were kept (`kept`, as JSON)."""
    given = json.loads(text)
    return Rates(
        given.get("currency", ""),
        Decimal(given.get("word", "0")),
        {tag: Decimal(value) for tag, value in given.get("locales", {}).items()},
        {kind: Decimal(value) for kind, value in given.get("shares", {}).items()},
    )


def kept(rates: Rates) -> dict[str, Any]:
    """Rates as they are kept and shown: amounts as text, so that none is rounded. What is not set is left out."""
    if not rates.currency:
        return {}
    return {
        "currency": rates.currency,
        "word": str(rates.word),
        "locales": {tag: str(value) for tag, value in rates.locales.items()},
        "shares": {kind: str(value) for kind, value in rates.shares.items()},
    }
