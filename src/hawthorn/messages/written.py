"""Days, numbers and plural forms as languages write them (CLDR, through Babel; English, which most commands speak, without loading it)."""

from __future__ import annotations

from datetime import date
from functools import cache
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from babel import Locale

_DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def plural(language: str, count: float) -> str:
    """Which plural form a count has: zero, one, two, few, many or other."""
    if language == "en":
        return "one" if count == 1 else "other"
    return _locale(language).plural_form(count)


def number(language: str, value: float) -> str:
    """A number with the separators of a language."""
    if language == "en":
        return f"{value:,}"
    from babel.numbers import format_decimal

    return format_decimal(value, locale=_locale(language))


def day(language: str, value: date, *, short: bool = False) -> str:
    """A day with its weekday and year, or (`short`) without."""
    if language == "en":
        plain = f"{value.day} {_MONTHS[value.month - 1]}"
        return plain if short else f"{_DAYS[value.weekday()]} {plain} {value.year}"
    from babel.dates import format_skeleton

    return format_skeleton("MMMd" if short else "yMMMEd", value, locale=_locale(language))


def weekday(language: str, value: date) -> str:
    """A day of the week, shortened."""
    if language == "en":
        return _DAYS[value.weekday()]
    from babel.dates import format_date

    return format_date(value, "EEE", locale=_locale(language))


@cache
def _locale(language: str) -> Locale:
    from babel import Locale

    return Locale.parse(language)
