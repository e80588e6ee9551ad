"""What goes: a revision of an edition, with what stands of it now and where its text comes from."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Protocol

from hawthorn.core import revision
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import Standing
from hawthorn.store.standings import RELEASE


@dataclass(frozen=True, slots=True)
class ReleaseItem:
    """One revision of one edition that is to stand at a stage; with a `patch` one that is not written yet: the same with other
    values in some fields, which nobody has signed off."""

    edition: int
    revision: int
    stage: int
    patch: Mapping[str, Any] | None = None


class Going(Protocol):
    """An edition that is to go, with its entry, as it was read from the records."""

    @property
    def edition(self) -> int: ...
    @property
    def locale(self) -> str: ...
    @property
    def entry(self) -> int: ...
    @property
    def uuid(self) -> str: ...
    @property
    def type(self) -> str: ...
    @property
    def source_locale(self) -> str: ...
    @property
    def section(self) -> int | None: ...
    @property
    def removed_at(self) -> int | None: ...
    @property
    def archived_at(self) -> int | None: ...


@dataclass(slots=True)
class EditionFacts:
    """An edition, what stands of it now, and the values that would go."""

    edition: int
    entry: int
    uuid: str
    type: str
    locale: str
    source_locale: str
    section: int | None
    kind: ContentType
    values: Mapping[str, Any]
    type_version: int
    standings: Mapping[int, Standing]
    parents: Mapping[int, tuple[int, ...]]
    authors: Mapping[int, int]
    removed: bool = False
    archived: bool = False

    def descends(self, revision_id: int, stage: int) -> bool:
        """Whether a revision comes from what stands at a stage."""
        current = self.standings.get(stage)
        return current is None or revision.descends(self._up, revision_id, current.revision)

    def holding_ancestors(
        self, revision_id: int, below_order: int, orders: Mapping[int, int]
    ) -> tuple[int, ...]:
        """The stages below an order where an ancestor of the revision (or itself) stands."""
        return tuple(
            stage
            for stage, standing in self.standings.items()
            if orders[stage] < below_order and revision.descends(self._up, revision_id, standing.revision)
        )

    def written_by(self, revision_id: int) -> frozenset[int]:
        """Who changed the text since what is out."""
        out = self.standings.get(RELEASE)
        fresh = revision.ancestors(self._up, revision_id)
        if out is not None:
            fresh -= revision.ancestors(self._up, out.revision)
        return frozenset(self.authors[r] for r in fresh if r in self.authors)

    def _up(self, id: int) -> tuple[int, ...]:
        return self.parents.get(id, ())
