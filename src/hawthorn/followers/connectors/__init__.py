"""How bureaus are reached, a kind in each module. To add one: a `Connector` in a module here; it is found by being here, and
is what `kind` of a bureau names."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.followers.connectors.base import Connector, Reach, Tools

__all__ = ["KINDS", "Connector", "Reach", "Tools", "reached", "require_address"]

KINDS: dict[str, type[Connector]] = {}
for _found in sorted(m.name for m in iter_modules(__path__) if m.name != "base"):
    _kind = import_module(f"{__name__}.{_found}").KIND
    KINDS[_kind.kind] = _kind


def reached(reach: Reach, tools: Tools) -> Connector:
    """What reaches a bureau."""
    return KINDS[reach.kind](reach, tools)


def require_address(kind: str, address: str) -> None:
    """Raise `Invalid` for a kind that there is not, or an address at which that kind reaches nobody."""
    if kind not in KINDS:
        raise Invalid([FieldProblem("kind", said("common.none_of", known=list(KINDS)))])
    if (wrong := KINDS[kind].wrong_address(address)) is not None:
        raise Invalid([FieldProblem("url", wrong)])
