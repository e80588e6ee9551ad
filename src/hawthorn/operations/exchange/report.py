"""How a package is brought, and what is said of that before and after."""

from __future__ import annotations

from dataclasses import field
from typing import Any

from hawthorn.core.access import Subject
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.store.imports import Into

NAMED = 100
"""So many entries are named in a report."""
TRIED = 500
"""Of so many entries that are here already it is tried out what merging comes to; of the others it is only said that they are."""


@dataclass(frozen=True, slots=True)
class Wish:
    """How a package is brought: with its ids, or with new ones (`new_ids`); to the stages where it stood, or as drafts; merged with what is here
    already, or leaving that alone (`leave`). `definitions` also puts types, workflows and the like in place that are otherwise here."""

    new_ids: bool = False
    as_drafts: bool = False
    leave: bool = False
    definitions: bool = False


@dataclass(slots=True)
class Seen:
    """What is to be known of one entry of a package."""

    id: str
    title: str
    why: str


@dataclass(slots=True)
class Report:
    """What bringing a package would do, or did. `left` are entries that cannot be brought, `asked` those where both changed the same place. `as_is` says that all
        contents are kept as they are, by definitions of types that `types` stands for. Of rows: their `columns` with some of what stands in each, and the `mapping` by which
    they become entries; `ran` is how far bringing them came."""

    sha256: str = ""
    history: bool = True
    entries: int = 0
    added: int = 0
    same: int = 0
    merged: int = 0
    asked: int = 0
    there: int = 0
    left: int = 0
    out: int = 0
    cleaned: int = 0
    as_is: bool = True
    types: str = ""
    files: int = 0
    new_files: int = 0
    people: int = 0
    new_people: list[str] = field(default_factory=list)
    sentences: int = 0
    new_sentences: int = 0
    concepts: int = 0
    new_concepts: int = 0
    dispatches: int = 0
    new_dispatches: int = 0
    definitions: list[dict[str, Any]] = field(default_factory=list)
    named: list[Seen] = field(default_factory=list)
    columns: list[dict[str, Any]] = field(default_factory=list)
    mapping: dict[str, Any] | None = None
    ran: dict[str, Any] | None = None

    def name(self, id: str, title: str, why: str) -> None:
        """Name an entry, as long as there is room."""
        if len(self.named) < NAMED:
            self.named.append(Seen(id, title, why))

    def language(self, into: Into, *, new: bool) -> None:
        """Count a sentence of a memory or a concept of a glossary."""
        if into == "memory":
            self.sentences += 1
            self.new_sentences += new
        else:
            self.concepts += 1
            self.new_concepts += new

    def count(self, how: str) -> None:
        """Count an entry that is here already: `same`, `merged`, or to be decided about."""
        if how == "same":
            self.same += 1
        elif how == "merged":
            self.merged += 1
        else:
            self.asked += 1


def require(view: View, wish: Wish) -> None:
    """Refuse whoever may not bring packages: that takes setting up, writing everywhere, and releasing where something is out at once."""
    for verb in ("configure", "write", *(() if wish.as_drafts else ("release",))):
        permission.require(view, verb, Subject())


@dataclass(frozen=True, slots=True)
class RowsWish:
    """How rows are brought: as entries of a type in a locale, by a mapping; what is not said is proposed."""

    type: str = ""
    locale: str = ""
    mapping: dict[str, Any] | None = None
