"""Mappings of rows that are kept, to be used again by whoever brings such rows."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from hawthorn.core import naming
from hawthorn.core.access import Subject
from hawthorn.core.errors import NotFound
from hawthorn.core.exchange import mapping as rows
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import rows as store


@dataclass(frozen=True, slots=True)
class MappingShown:
    """A mapping that is kept, by whom and when."""

    name: str
    mapping: dict[str, Any]
    by: str
    at: str


def listing(view: View) -> list[MappingShown]:
    """The mappings that are kept, by name."""
    permission.require_somewhere(view, "write")
    return [_shown(one) for one in store.mappings(view.conn)]


def get(view: View, name: str) -> MappingShown:
    """One of them. Raises `NotFound`."""
    permission.require_somewhere(view, "write")
    return _shown(_kept(view, name))


def keep(act: Act, name: str, given: Mapping[str, Any]) -> str:
    """Keep a mapping under a name, in place of one that whoever keeps it kept, or that they may change as they set up; returns the name. Raises `Invalid`."""
    called = naming.line("name", name, 80)
    permission.require_somewhere(act, "write")
    made = rows.from_dict(given, act.setup.types, act.setup.locales)
    there = store.mapping(act.conn, called)
    if there is not None and there.actor != act.identity.id:
        permission.require(act, "configure", Subject())
    store.keep(act.conn, called, json.dumps(rows.to_dict(made), ensure_ascii=False), act.identity.id, act.now)
    act.event("mapping.kept", [], {"name": called, "type": made.type})
    return called


def drop(act: Act, name: str) -> None:
    """Keep a mapping no longer; as for `keep`. Raises `NotFound`."""
    permission.require_somewhere(act, "write")
    if _kept(act, name).actor != act.identity.id:
        permission.require(act, "configure", Subject())
    store.drop(act.conn, name)
    act.event("mapping.dropped", [], {"name": name})


def _kept(view: View, name: str) -> store.Kept:
    found = store.mapping(view.conn, name)
    if found is None:
        raise NotFound("mappings.not_there", name=name)
    return found


def _shown(one: store.Kept) -> MappingShown:
    return MappingShown(one.name, json.loads(one.body), one.by_name, iso(one.at))
