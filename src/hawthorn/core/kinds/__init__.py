"""Field kinds, one module each. A module is found by being here: it holds its kind as `KIND`."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from hawthorn.core.kinds import base

for _found in sorted(m.name for m in iter_modules(__path__) if m.name != "base"):
    _kind = import_module(f"{__name__}.{_found}").KIND
    base.KINDS[_kind.name] = _kind
