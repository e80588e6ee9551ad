"""What the cards and pages of the museum's site show beside words: pictures, dates and prices, as each language writes them."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date
from typing import Any

from babel.dates import format_date
from babel.numbers import format_currency

from hawthorn.demo.museum import SITE


class Cards:
    """What is known of the entries that a page lists."""

    def __init__(self, locale: str) -> None:
        self.locale = locale
        self._writes = {"en": "en_GB"}.get(locale, locale)
        self.pictures: dict[str, dict[str, Any]] = {}
        """By the id of an entry its picture, with the renditions of it."""
        self._dated: dict[str, dict[str, Any]] = {}

    def take(self, entries: Iterable[dict[str, Any]]) -> None:
        """Note what entries that were read show."""
        for one in entries:
            picture = one["references"].get(one["fields"].get("picture") or "")
            if picture and picture.get("file"):
                self.pictures[one["id"]] = picture["file"]
            self._dated[one["id"]] = one["fields"]

    def dates(self, entry: dict[str, Any]) -> str:
        """From when until when something is on; empty for what has no such days."""
        fields = entry.get("fields") or self._dated.get(entry["id"], {})
        opens, closes = (self._day(fields.get(name)) for name in ("opens", "closes"))
        say = SITE[self.locale]
        if opens and closes:
            return say.between.format(opens=opens, closes=closes)
        return say.until.format(closes=closes) if closes else opens

    def _day(self, instant: Any) -> str:
        if not isinstance(instant, dict):
            return ""
        return format_date(date.fromisoformat(instant["wall"][:10]), "long", locale=self._writes)

    def money(self, amount: float) -> str:
        """A price."""
        return format_currency(amount, "EUR", locale=self._writes, currency_digits=amount != int(amount))
