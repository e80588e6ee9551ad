"""Types of what readers get, as files for programs in other languages, one module each. A module is found by being here: it holds its language as `LANGUAGE`."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from hawthorn.core.errors import NotFound
from hawthorn.core.type_files.base import Language, Shape

__all__ = ["LANGUAGES", "Language", "Shape", "of"]

LANGUAGES: dict[str, Language] = {}
"""All of them by name."""
for _found in sorted(m.name for m in iter_modules(__path__) if m.name != "base"):
    _language: Language = import_module(f"{__name__}.{_found}").LANGUAGE
    LANGUAGES[_language.name] = _language


def of(name: str) -> Language:
    """The language of a name. Raises `NotFound`."""
    if name not in LANGUAGES:
        raise NotFound("type_files.no_language", name=name, known=list(LANGUAGES))
    return LANGUAGES[name]
