"""The library: entries that hold files, in folders that order them for those who work here."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypedDict

from hawthorn.core import naming
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import EMPTY, Content, together
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.operations.search import finding
from hawthorn.operations.search.finding import Query
from hawthorn.store import entries, revisions
from hawthorn.store import folders as store
from hawthorn.store.files import FileValue
from hawthorn.store.folders import Folder
from hawthorn.store.listings import Listed

MOST = 2000
"""So many folders there may be."""


@dataclass(frozen=True, slots=True)
class FolderShown:
    """A folder of the library."""

    id: str
    name: str
    parent: str | None
    entries: int


def folders(view: View) -> list[FolderShown]:
    """All folders by name, each with how many entries it holds."""
    allowed, values = permission.readable_sql(view, "e", "d")
    rows = store.counted(view.conn, allowed, values)
    return [FolderShown(id=r.uuid, name=r.name, parent=r.parent, entries=r.entries) for r in rows]


def find_folder(view: View, uuid: str) -> Folder:
    """A folder by its UUID."""
    row: Folder | None = store.by_uuid(view.conn, uuid)
    if row is None:
        raise NotFound("library.no_folder", id=uuid)
    return row


def make_folder(act: Act, name: str, parent: str = "") -> str:
    """Make a folder, at the top or in another; returns its UUID."""
    permission.require_somewhere(act, "write")
    above = find_folder(act, parent).id if parent else 0
    if store.how_many(act.conn) >= MOST:
        raise InTheWay("library.too_many_folders", most=MOST)
    uuid = new_uuid(act.now)
    _require_free(act, _named(name), above, 0)
    store.add(act.conn, uuid, _named(name), above, act.now, act.identity.id)
    act.event("folder.made", [], {"folder": uuid, "name": _named(name)})
    return uuid


def folder_at(act: Act, path: Sequence[str]) -> int:
    """The folder at a path of names, made as far as it is not there."""
    above = 0
    for name in path:
        found = store.named_in(act.conn, above, _named(name))
        if found is None:
            uuid = new_uuid(act.now)
            store.add(act.conn, uuid, _named(name), above, act.now, act.identity.id)
            act.event("folder.made", [], {"folder": uuid, "name": _named(name)})
            found = find_folder(act, uuid).id
        above = found
    return above


def change_folder(act: Act, uuid: str, name: str | None = None, parent: str | None = None) -> None:
    """Give a folder another name or put it into another one; an empty `parent` is the top."""
    permission.require_somewhere(act, "write")
    row = find_folder(act, uuid)
    called = row.name if name is None else _named(name)
    above = row.parent if parent is None else (find_folder(act, parent).id if parent else 0)
    at = above
    while at:
        if at == row.id:
            raise Invalid([FieldProblem("parent", said("library.folder_in_itself"))])
        at = store.above(act.conn, at)
    _require_free(act, called, above, row.id)
    store.change(act.conn, called, above, row.id)
    act.event("folder.changed", [], {"folder": uuid, "name": called, "was": row.name})


def remove_folder(act: Act, uuid: str) -> None:
    """Remove a folder; what lies in it, folders too, comes to lie where it lay."""
    permission.require_somewhere(act, "write")
    row = find_folder(act, uuid)
    inner = store.within(act.conn, row.id)
    for one in inner:
        _require_free(act, one, row.parent, row.id)
    if row.parent:
        store.pour_out(act.conn, row.parent, row.id)
    else:
        store.empty(act.conn, row.id)
    # Its own name may be that of a folder in it, so it goes first.
    store.remove(act.conn, row.id)
    store.lift(act.conn, row.parent, row.id)
    act.event("folder.removed", [], {"folder": uuid, "name": row.name})


def _named(name: str) -> str:
    called = naming.line("name", " ".join(name.split()))
    if not 1 <= len(called) <= 80:
        raise Invalid([FieldProblem("name", said("library.name_length"))])
    return called


def _require_free(view: View, name: str, parent: int, own: int) -> None:
    other = store.named(view.conn, parent, name, own)
    if other is not None:
        raise InTheWay("library.name_taken", name=name, folder=other)


def file_into(act: Act, uuids: Sequence[str], folder: str) -> dict[str, str]:
    """Put entries into a folder, or into none; returns where each lay before, by UUID."""
    into = find_folder(act, folder).id if folder else None
    before: dict[str, str] = {}
    for uuid in dict.fromkeys(uuids):
        row = permission.find(act, uuid)
        permission.require(act, "write", permission.subject(act, row, row.source_locale))
        if act.setup.type(row.type).file is None:
            raise Invalid([FieldProblem("entries", said("library.not_a_file", id=uuid))])
        before[uuid] = store.of_entry(act.conn, row.id) or ""
        if into is None:
            store.take_out(act.conn, row.id)
        else:
            store.put(act.conn, row.id, into)
    act.event("library.filed", [], {"folder": folder, "entries": len(before)})
    return before


class FileKnown(TypedDict):
    """What is known of the file of an entry: its value, what stands in its stead where it cannot be seen (None where its type has no room for that),
    the folder that it lies in (empty for none), and how many entries use it."""

    file: FileValue | None
    alt: str | None
    folder: str
    uses: int


def listing(
    view: View, query: Query, *, limit: int = 60, cursor: str = ""
) -> tuple[list[tuple[Listed, FileKnown]], str]:
    """Entries that hold files, those changed last first: each with what is known of its file."""
    rows, more = finding.listing(view, query, limit=limit, cursor=cursor)
    return list(zip(rows, _about(view, rows), strict=True)), more


def _about(view: View, rows: Sequence[Listed]) -> list[FileKnown]:
    """The file of each of some entries of the library, what stands in its stead where it cannot be seen, and where it is used:
    as many questions for many as for one."""
    ids = [row.entry for row in rows]
    editions = entries.editions_among(view.conn, ids, {row.locale for row in rows})
    contents = revisions.contents(view.conn, [e.head for e in editions.values() if e.head is not None])
    folders = store.of_entries(view.conn, ids)
    allowed, given = permission.readable_sql(view)
    uses = store.uses(view.conn, allowed, [row.uuid for row in rows], given)

    def drafted(row: Listed, locale: str) -> Content:
        edition = editions.get((row.entry, locale))
        return contents[edition.head] if edition is not None and edition.head is not None else EMPTY

    out: list[FileKnown] = []
    for row in rows:
        kind = view.setup.type(row.type)
        values = together(kind, drafted(row, COMMON), drafted(row, row.locale))
        alt = next((f.name for f in kind.fields if f.counts_as_alt), "")
        out.append(
            {
                "file": values.get(kind.file.name) if kind.file else None,
                "alt": str(values.get(alt) or "") if alt else None,
                "folder": folders.get(row.entry, ""),
                "uses": uses.get(row.uuid, 0),
            }
        )
    return out
