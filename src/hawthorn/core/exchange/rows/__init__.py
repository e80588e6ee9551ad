"""Rows: what entries are made of that come in from other files than packages. A row is a line of a table, or a page; its cells have the names of columns.

Each format is a module here that holds it as `FORMAT`; it is found by being here.
"""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from hawthorn.core.errors import BadFile
from hawthorn.core.exchange.rows import base
from hawthorn.core.exchange.rows.base import FORMATS, HEAD, MOST_ROWS, Html, Row, RowFormat

__all__ = ["FORMATS", "HEAD", "MOST_ROWS", "Html", "Row", "RowFormat", "of"]

for _found in sorted(m.name for m in iter_modules(__path__) if m.name != "base"):
    _module = import_module(f"{__name__}.{_found}")
    if hasattr(_module, "FORMAT"):
        base.FORMATS[_module.FORMAT.name] = _module.FORMAT


def of(name: str, head: bytes) -> RowFormat:
    """The format of a file, by its name and how it begins (`HEAD` bytes). Raises `BadFile` for one in none of them."""
    ending = name.rpartition(".")[2].lower()
    found = next((one for one in FORMATS.values() if one.knows(ending, head)), None)
    if found is None:
        endings = sorted(e for one in FORMATS.values() for e in one.endings)
        raise BadFile("rows.no_format", name=name[:100], endings=endings)
    return found
