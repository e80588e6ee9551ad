"""Merges that were worked out already, so that a long one is done before the lock is taken and not while others wait.

Revisions never change: what comes of merging two is known by their contents, what they came from, and the definitions in
force, with which it is kept.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from hawthorn.core import merge, revision
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.merge import Merged
from hawthorn.core.revision import Content
from hawthorn.operations.runtime import as_now
from hawthorn.store import revisions

if TYPE_CHECKING:
    from hawthorn.operations.runtime.act import View

KEPT = 2
_TYPED = 1 << 62
"""Stands for what is being typed and has no number yet: newer than every revision."""
Key = tuple[str | int, ...]


class NotReady(Exception):
    """A merge was to be had without working it out, and is not; the head moved on meanwhile."""


class Mergings:
    """The merges of one set of definitions: the latest, of all threads."""

    def __init__(self) -> None:
        self._kept: OrderedDict[Key, Merged] = OrderedDict()
        self._lock = threading.Lock()

    def of_typed(
        self, view: View, kind: ContentType, edition: int, typed: Content, parents: Sequence[int], head: int
    ) -> Merged:
        """What somebody typed over some revisions, merged with a head. Raises `NotReady` for an act that shall not wait."""
        content_hash = revision.content_hash(edition, kind.version, typed.fields)

        def above(one: int) -> list[int]:
            return list(parents) if one == _TYPED else revisions.parents(view.conn, one)

        def content(one: int) -> Content:
            return typed if one == _TYPED else as_now.content(view.conn, kind, one)

        key: Key = (kind.name, edition, content_hash, *parents, head)
        return self._found(view, key, lambda: merge.merge_revisions(kind, above, content, _TYPED, head))

    def of_revision(
        self, view: View, kind: ContentType, ours: int, head: int, picks: tuple[merge.Pick, ...] = ()
    ) -> Merged:
        """The same of two revisions, of which the second may have picked places from the line of the first."""

        above = revisions.upwards(view.conn)

        def content(one: int) -> Content:
            return as_now.content(view.conn, kind, one)

        key: Key = (kind.name, ours, head, *(f"{source} {path}" for source, paths in picks for path in paths))
        return self._found(view, key, lambda: merge.merge_revisions(kind, above, content, ours, head, picks))

    def _found(self, view: View, key: Key, make: Callable[[], Merged]) -> Merged:
        with self._lock:
            found = self._kept.get(key)
        if found is not None:
            return found
        if view.hurried:
            raise NotReady
        made = make()
        with self._lock:
            self._kept[key] = made
            while len(self._kept) > KEPT:
                self._kept.popitem(last=False)
        return made
