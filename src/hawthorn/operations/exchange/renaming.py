"""The ids of a package as they are here: the same, or others, wherever they stand in it."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Mapping
from typing import Any, TypeVar
from uuid import UUID

from msgspec.structs import replace

from hawthorn.core.exchange.lines import EntryLine, SaidLine
from hawthorn.core.quick import dataclass
from hawthorn.operations.exchange.report import Wish
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries as entry_store

Said = TypeVar("Said", bound=SaidLine)
_ID = re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}")


class Names:
    """What the ids of a package are here: the same, or others, each always the same for the same package. Of a type of which there may be one alone it
    is the one here."""

    def __init__(self, view: View, wish: Wish, seed: str) -> None:
        self._new = wish.new_ids
        self._seed = seed
        kinds = [kind for kind in view.setup.types.values() if kind.single] if wish.new_ids else []
        self._single = {
            kind.name: row.uuid for kind in kinds if (row := entry_store.single(view.conn, kind.name))
        }

    def entry(self, id: str, type: str) -> str:
        """The id that an entry of a type has here."""
        return self._single.get(type) or self.of(id)

    def of(self, uuid: str) -> str:
        """The id that a comment or an assignment has here, or any other entry."""
        return derived(self._seed, uuid) if self._new else uuid


@dataclass(frozen=True, slots=True)
class Came:
    """Who is who here, and how what a package names is named here: `ids` are those of entries, where they are others."""

    package: int
    name: str
    leave: bool
    actors: Mapping[str, int]
    names: Names
    ids: Mapping[str, str]


def derived(seed: str, uuid: str) -> str:
    """Another UUID of version 7 (RFC 9562, section 5.7) for the same instant, always the same for the same seed."""
    digest = hashlib.sha256(f"{seed}\n{uuid}".encode()).digest()
    kept = UUID(uuid).int >> 80 << 80
    made = kept | 7 << 76 | (int.from_bytes(digest[:2]) & 0xFFF) << 64
    return str(UUID(int=made | 2 << 62 | int.from_bytes(digest[2:10]) & (2**62 - 1)))


def rename(line: EntryLine, names: Names, ids: Mapping[str, str]) -> EntryLine:
    """An entry under its new ids, and with those of what it refers to in the package."""
    revised = [
        replace(
            edition,
            revisions=[replace(r, fields=replaced(r.fields, ids)) for r in edition.revisions],
            sign_offs=[
                replace(s, seen=[replace(x, entry=ids.get(x.entry, x.entry)) for x in s.seen])
                for s in edition.sign_offs
            ],
        )
        for edition in line.editions
    ]
    comments = [renamed(one, names) for one in line.comments]
    assignments = [replace(one, id=names.of(one.id)) for one in line.assignments]
    return replace(line, id=ids[line.id], editions=revised, comments=comments, assignments=assignments)


def renamed(line: Said, names: Names) -> Said:
    """A comment with its answers under the ids that they have here."""
    return replace(line, id=names.of(line.id), replies=[replace(r, id=names.of(r.id)) for r in line.replies])


def replaced(value: Any, ids: Mapping[str, str]) -> Any:
    """A value with other ids in the place of those of a package, wherever they stand in its texts."""
    if isinstance(value, str):
        return _ID.sub(lambda found: ids.get(found[0], found[0]), value) if "-" in value else value
    if isinstance(value, Mapping):
        return {k: replaced(v, ids) for k, v in value.items()}
    return [replaced(one, ids) for one in value] if isinstance(value, list) else value
