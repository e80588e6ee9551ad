"""Lists that people keep: a query with a name, for oneself or for everybody."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from hawthorn.core import naming
from hawthorn.core.access import Subject
from hawthorn.core.errors import FieldProblem, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.operations.search.finding import Query
from hawthorn.store import lists as store
from hawthorn.store.lists import SavedList


def listing(view: View) -> list[ListShown]:
    """One's own lists and those that are shared, by name."""
    rows = store.every(view.conn, view.identity.id)
    return [_shown(view, row) for row in rows]


def save(act: Act, name: str, query: Mapping[str, Any], shared: bool = False) -> ListShown:
    """Keep a query under a name."""
    named, asked = _checked(name, query)
    uuid = new_uuid(act.now)
    store.add(act.conn, uuid, named, act.identity.id, int(shared), asked, act.now)
    act.event("list.saved", [], {"list": uuid, "name": named, "shared": shared})
    return _shown(act, _find(act, uuid))


def change(act: Act, uuid: str, name: str, query: Mapping[str, Any], shared: bool) -> ListShown:
    """Change a list of one's own; a shared one also by whoever sets up."""
    row = _own(act, uuid)
    named, asked = _checked(name, query)
    store.change(act.conn, named, int(shared), asked, act.now, row.id)
    act.event("list.saved", [], {"list": uuid, "name": named, "shared": shared})
    return _shown(act, _find(act, uuid))


def drop(act: Act, uuid: str) -> None:
    """Drop a list; the entries on it are not touched."""
    row = _own(act, uuid)
    store.drop(act.conn, row.id)
    act.event("list.dropped", [], {"list": uuid, "name": row.name})


def _checked(name: str, query: Mapping[str, Any]) -> tuple[str, str]:
    named = naming.line("name", " ".join(name.split()))
    problems = [] if 1 <= len(named) <= 80 else [FieldProblem("name", said("library.name_length"))]
    problems += [
        FieldProblem(f"query.{k}", said("lists.not_asked_for"))
        for k in query
        if k not in Query.__dataclass_fields__
    ]
    problems += [
        FieldProblem(
            f"query.{k}",
            said(
                "shapes.wants_text" if isinstance(getattr(Query(), k), str) else "contenttypes.true_or_false"
            ),
        )
        for k, v in query.items()
        if k in Query.__dataclass_fields__ and not isinstance(v, type(getattr(Query(), k)))
    ]
    if problems:
        raise Invalid(problems)
    return named, json.dumps(Query(**query).given(), ensure_ascii=False, sort_keys=True)


def _find(view: View, uuid: str) -> SavedList:
    row: SavedList | None = store.by_uuid(view.conn, uuid, view.identity.id)
    if row is None:
        raise NotFound("lists.not_there", id=uuid)
    return row


def _own(act: Act, uuid: str) -> SavedList:
    row = _find(act, uuid)
    if row.actor != act.identity.id:
        permission.require(act, "configure", Subject())
    return row


@dataclass(frozen=True, slots=True)
class ListShown:
    """A list that somebody keeps."""

    id: str
    name: str
    shared: bool
    by: str
    own: bool
    query: dict[str, Any]


def _shown(view: View, row: SavedList) -> ListShown:
    return ListShown(
        id=row.uuid,
        name=row.name,
        shared=bool(row.shared),
        by=row.by_name,
        own=row.actor == view.identity.id,
        query=json.loads(row.query),
    )
