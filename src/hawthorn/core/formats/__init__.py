"""Formats of translation files, one module each. A module is found by being here: it holds its format as `FORMAT`."""

from __future__ import annotations

import io
from importlib import import_module
from pkgutil import iter_modules
from typing import BinaryIO

from hawthorn.core.errors import Invalid
from hawthorn.core.formats import base
from hawthorn.core.formats.base import (
    FORMATS,
    HEAD,
    LARGEST,
    MOST_UNITS,
    Format,
    InDocument,
    OutDocument,
    OutFile,
    OwnFile,
)

__all__ = [
    "FORMATS",
    "LARGEST",
    "MOST_UNITS",
    "USUAL",
    "Format",
    "InDocument",
    "OutDocument",
    "OutFile",
    "OwnFile",
    "of",
    "read",
]

for _found in sorted(m.name for m in iter_modules(__path__) if m.name != "base"):
    _format = import_module(f"{__name__}.{_found}").FORMAT
    base.FORMATS[_format.name] = _format

USUAL = FORMATS["xliff-2.1"]
"""What is written when no format is named."""


def of(name: str) -> Format:
    """The format of a name. Raises `Invalid` for none."""
    if name not in FORMATS:
        raise Invalid("formats.unknown", name=name, formats=list(FORMATS))
    return FORMATS[name]


def read(data: bytes | BinaryIO, most: int = MOST_UNITS) -> InDocument:
    """Read a file in whatever format it is written; what is in none of them is refused by the usual one, with the reason."""
    file = io.BytesIO(data) if isinstance(data, bytes) else data
    head = file.read(HEAD)
    file.seek(0)
    return next((f for f in FORMATS.values() if f.knows(head)), USUAL).read(file, most)
