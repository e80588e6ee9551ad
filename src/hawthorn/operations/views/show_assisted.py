"""What an assistant wrote in an entry that nobody has signed off since, word by word."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from dataclasses import replace

from hawthorn.core import authorship
from hawthorn.core.authorship import Marked
from hawthorn.core.compare import FieldDifference, Part, Run
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import NotFound
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import brought
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.store import assistants as store
from hawthorn.store import entries, revisions
from hawthorn.store.entries import DRAFT_STRAND, Edition

MOST = 500
"""So many revisions are looked through; what is older counts as looked at."""


@dataclass(frozen=True, slots=True)
class WordRun:
    """A stretch of words, and whether an assistant wrote them."""

    text: str
    assistant: bool


@dataclass(frozen=True, slots=True)
class AssistedPlace:
    """A text, or a paragraph of a rich one, in which an assistant wrote."""

    path: str
    paragraph: str
    label: str
    runs: list[WordRun]


@dataclass(frozen=True, slots=True)
class Assisted:
    """How many words are by assistants, by which (names), and where."""

    count: int
    by: list[str]
    places: list[AssistedPlace]


def is_assisted(view: View, own: Edition | None, common: Edition | None) -> bool:
    """Whether an assistant wrote in what is drafted, and nobody signed that off since."""
    drafted = [(one.id, one.head) for one in (own, common) if one is not None and one.head is not None]
    return any(store.assisted(view.conn, edition, head) for edition, head in drafted)


def words(view: View, uuid: str, locale: str, strand: str = DRAFT_STRAND) -> Assisted:
    """What assistants wrote in an entry, in a locale and in what all share."""
    row = permission.find(view, uuid, locale)
    kind = view.setup.type(row.type)
    count, by, places = 0, [], []
    own = entries.edition(view.conn, row.id, view.setup.locale(locale), strand)
    if own is None and strand != DRAFT_STRAND:
        raise NotFound("common.no_strand", name=strand)
    common = entries.edition(view.conn, row.id, COMMON, strand) or entries.edition(view.conn, row.id, COMMON)
    for edition in (own, common):
        if edition is None or edition.head is None:
            continue
        found, authors = _marked(view, kind, edition.head)
        by += [name for name in authors if name not in by]
        count += found.count
        places += [
            AssistedPlace(one.path, one.paragraph, one.label, [WordRun(t, m) for m, t in found.runs(key)])
            for key, one in found.places.items()
            if any(found.marks[key])
        ]
    return Assisted(count, by if count else [], places)


def told(
    view: View,
    kind: ContentType,
    revisions_of: Iterable[tuple[int, int]],
    differences: Sequence[FieldDifference],
) -> list[FieldDifference]:
    """Differences with the words marked that an assistant wrote on the newer side, whose editions and revisions are named, and that nobody has signed
    off since."""
    marked = [
        _marked(view, kind, revision)[0]
        for edition, revision in revisions_of
        if store.assisted(view.conn, edition, revision)
    ]
    if not marked:
        return list(differences)
    return [
        replace(one, parts=tuple(replace(part, runs=_told(part, marked)) for part in one.parts))
        for one in differences
    ]


def _told(part: Part, marked: Sequence[Marked]) -> tuple[Run, ...]:
    runs = part.runs
    for one in marked:
        runs = authorship.told(runs, one, part.place) if part.place in one.places else runs
    return runs


def _marked(view: View, kind: ContentType, head: int) -> tuple[Marked, list[str]]:
    """A revision with its marks, and who the assistants are."""
    line = store.unsigned(view.conn, head, MOST)
    contents = revisions.contents(view.conn, [one.id for one in line])
    contents = {id: brought(kind, content) for id, content in contents.items()}
    if not any(one.actor_kind == "assistant" and not one.signed for one in line):
        return authorship.unmarked(kind, contents[head]), []
    known: dict[int, Marked] = {}
    for one in line:
        parents = json.loads(one.parents)
        before = [known[parent] for parent in parents if parent in known]
        if one.signed or len(before) < len(parents):
            known[one.id] = authorship.unmarked(kind, contents[one.id])
        else:
            known[one.id] = authorship.carried(kind, contents[one.id], before, one.actor_kind == "assistant")
    return known[head], [one.author for one in line if one.actor_kind == "assistant" and not one.signed]
