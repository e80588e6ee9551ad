"""Memories and glossaries in packages: written out, looked through, brought sentence by sentence and concept by concept, and taken back."""

from __future__ import annotations

import json
import sqlite3
from abc import ABC, abstractmethod
from collections.abc import Callable, Container, Iterator, Mapping, Sequence
from typing import Any, ClassVar, Generic, Protocol, TypeVar

from hawthorn.core import naming
from hawthorn.core.compact import written
from hawthorn.core.errors import BadFile, Invalid
from hawthorn.core.exchange.lines import CollectionLine, ConceptLine, SentenceLine
from hawthorn.core.exchange.package import CONCEPTS, GLOSSARIES, MEMORIES, SENTENCES, Package, Writing
from hawthorn.core.exchange.soundness import instant, is_id, is_instant
from hawthorn.core.messages import Message, said
from hawthorn.core.richtext import without_controls
from hawthorn.core.timeline import iso
from hawthorn.core.translation import matching, tbx, tmx
from hawthorn.operations.exchange import set_up
from hawthorn.operations.exchange.renaming import Came
from hawthorn.operations.exchange.report import Report
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import glossaries, memories
from hawthorn.store import entries as entry_store
from hawthorn.store import glossaries as glossary_store
from hawthorn.store import imports
from hawthorn.store import language as store
from hawthorn.store import memories as memory_store
from hawthorn.store.imports import Into, WithPackage

_NO_END = 1 << 62
AT_ONCE = 500
"""So many sentences or concepts are brought in one transaction."""
By = Callable[[int], str]
Line = TypeVar("Line", SentenceLine, ConceptLine)
Term = tuple[str, str, str, str]


def locales(view: View) -> set[str]:
    """The locales that memories and glossaries speak."""
    return store.locales(view.conn)


def write(view: View, out: Writing, by: By) -> None:
    """Write the memories and glossaries of a house into a package, with all that lies in them."""
    homes = store.memories(view.conn)
    out.lines_if_any(MEMORIES, map(_head_of(by), homes))
    out.lines_if_any(
        SENTENCES,
        (_sentence(home.uuid, one, by) for home in homes for one in store.sentences(view.conn, home.id)),
    )
    homes = store.glossaries(view.conn)
    out.lines_if_any(GLOSSARIES, map(_head_of(by), homes))
    out.lines_if_any(
        CONCEPTS,
        (_concept(home.uuid, one, by) for home in homes for one in store.concepts(view.conn, home.id)),
    )


def _head_of(by: By) -> Callable[[store.CollectionKept], str]:
    return lambda one: written(
        {
            "id": one.uuid,
            "name": one.name,
            "note": one.note,
            "section": one.section,
            "by": by(one.actor),
            "at": iso(one.at),
        }
    )


def _sentence(memory: str, one: store.SentenceKept, by: By) -> str:
    return written(
        {
            "memory": memory,
            "source_locale": one.source_locale,
            "source": one.source,
            "locale": one.locale,
            "target": one.target,
            "context": one.context,
            "origin": one.origin,
            "by": by(one.actor),
            "at": iso(one.at),
        }
    )


def _concept(glossary: str, one: store.ConceptKept, by: By) -> str:
    terms = [
        {"locale": locale, "text": text, "status": status} for locale, text, status in json.loads(one.terms)
    ]
    return written(
        {"glossary": glossary, "note": one.note, "terms": terms, "by": by(one.actor), "at": iso(one.at)}
    )


def locales_then(view: View, package: Package) -> set[str]:
    """The languages that there will be once the definitions of a package are in place."""
    return {
        *view.setup.locales,
        *(set_up.name_of("locales", one) for one in package.setup().get("locales", [])),
    }


class _Numbered(Protocol):
    @property
    def id(self) -> int: ...


class _Store(Protocol):
    """What is the same of the modules that keep memories and glossaries."""

    def by_uuid(self, conn: sqlite3.Connection, uuid: str) -> _Numbered | None: ...

    def named(self, conn: sqlite3.Connection, name: str) -> _Numbered | None: ...

    def add(
        self,
        conn: sqlite3.Connection,
        uuid: str,
        name: str,
        note: str,
        section: int | None,
        actor: int,
        at: int,
    ) -> int: ...


class Collections(ABC, Generic[Line]):
    """The memories, or the glossaries, of a package."""

    into: ClassVar[Into]
    kept: ClassVar[_Store]
    """What keeps them."""
    heads: ClassVar[str]
    """The part that names them."""
    part: ClassVar[str]
    """The part with what lies in them."""
    counted: ClassVar[str]
    """What a report calls that."""

    @abstractmethod
    def told(self, package: Package) -> Iterator[CollectionLine]:
        """Each of them."""

    @abstractmethod
    def lines(self, package: Package, past: int = 0) -> Iterator[Line]:
        """What lies in them, after so many."""

    @abstractmethod
    def home(self, line: Line) -> str:
        """In which of them it lies (UUID)."""

    @abstractmethod
    def wrong(self, line: Line) -> Message | None:
        """What about it cannot be."""

    @abstractmethod
    def usable(self, locales: Container[str], line: Line) -> bool:
        """Whether it is in some languages, as far as there has to be one."""

    @abstractmethod
    def here(self, view: View, whose: int, line: Line) -> bool:
        """Whether it, as far as it can be used, is here already."""

    @abstractmethod
    def keep(self, act: Act, row: WithPackage, line: Line, actor: int) -> bool:
        """Keep it, with the import that brought it; False where it is here already."""

    @abstractmethod
    def room(self, view: View, row: WithPackage) -> int:
        """How much more there is room for."""

    @abstractmethod
    def drop(self, act: Act, row: WithPackage, most: int) -> int:
        """Take out again so many at most of what an import brought and nobody changed since; returns how many there were."""

    @abstractmethod
    def end(self, act: Act, row: WithPackage) -> None:
        """Remove one that a package made and in which nothing lies any more."""

    def sound(self, package: Package) -> Iterator[Line]:
        """What lies in them, each once it is clear that it can be. Raises `BadFile` for the first that cannot."""
        handles = {one.handle for one in package.people()}
        ids: set[str] = set()
        for n, one in enumerate(self.told(package), 1):
            why = _wrong_head(one) if one.by in handles else said("package.unknown_person", handle=one.by)
            if why is not None:
                raise BadFile("package.unsound", part=self.heads, number=n, id=one.id[:80], why=why)
            if one.id in ids:
                raise BadFile("package.id_twice", part=self.heads, number=n, id=one.id)
            ids.add(one.id)
        for n, line in enumerate(self.lines(package), 1):
            home = self.home(line)
            if line.by not in handles:
                why = said("package.unknown_person", handle=line.by)
            elif home not in ids:
                why = said("package.no_collection", id=home[:80])
            else:
                why = self.wrong(line) if is_instant(line.at) else said("package.no_instant")
            if why is not None:
                raise BadFile("package.unsound", part=self.part, number=n, id=home[:80], why=why)
            yield line

    def find(self, view: View, line: CollectionLine) -> int | None:
        """Which one is meant here: the one of that id, or of that name."""
        row = self.kept.by_uuid(view.conn, line.id) or self.kept.named(view.conn, line.name)
        return row.id if row else None

    def add(self, act: Act, line: CollectionLine, section: int | None, actor: int) -> int:
        """Make it."""
        return self.kept.add(act.conn, line.id, line.name, line.note, section, actor, instant(line.at))

    def homes(self, view: View, package: Package) -> dict[str, int | None]:
        """Which one here is meant by each; none for one that is not here."""
        return {one.id: self.find(view, one) for one in self.told(package)}

    def look(
        self,
        view: View,
        homes: Mapping[str, int | None],
        locales: Container[str],
        some: Sequence[Line],
        report: Report,
        *,
        leave: bool,
    ) -> None:
        """Add to a report what bringing some of what lies in them comes to, with the languages that there will be."""
        for line in some:
            whose = homes[self.home(line)]
            new = whose is None or not (leave or self.here(view, whose, line))
            report.language(self.into, new=new and self.usable(locales, line))

    def begin(self, act: Act, package: Package, came: Came) -> None:
        """Make those that are not here, and note that something comes into each."""
        begun = {row.whose for row in imports.with_package(act.conn, self.into, came.package)}
        for line in self.told(package):
            whose = self.find(act, line)
            if whose is not None and (came.leave or whose in begun):
                continue
            made = whose is None
            if whose is None:
                head = entry_store.entry(act.conn, came.ids.get(line.section or "", line.section or ""))
                whose = self.add(act, line, head.id if head else None, came.actors[line.by])
            told = (whose, came.name, act.identity.id, act.now, came.package)
            imports.begin(act.conn, self.into, *told, made=made)
            begun.add(whose)

    def bring(self, act: Act, package: Package, came: Came, some: Sequence[Line]) -> None:
        """Keep some of what lies in them, and count it with the imports."""
        rows = {row.whose: row for row in imports.with_package(act.conn, self.into, came.package)}
        homes = self.homes(act, package)
        counts: dict[int, list[int]] = {}
        room: dict[int, int] = {}
        for line in some:
            row = rows.get(homes[self.home(line)] or 0)
            if row is None:
                continue
            read, added, known, refused = counts.get(row.whose, [row.read, row.added, row.known, row.refused])
            if row.id not in room:
                room[row.id] = self.room(act, row)
            if not self.usable(act.setup.locales, line) or room[row.id] <= 0:
                refused += 1
            elif self.keep(act, row, line, came.actors[line.by]):
                added += 1
                room[row.id] -= 1
            else:
                known += 1
            counts[row.whose] = [read + 1, added, known, refused]
        for whose, (read, added, known, refused) in counts.items():
            told = (read, added, known, refused)
            imports.went_on(act.conn, self.into, rows[whose].id, "running", told, "[]", act.now)

    def done(self, act: Act, came: Came) -> int:
        """Say of each what came into it; returns how much that was."""
        for row in imports.with_package(act.conn, self.into, came.package):
            if row.state == "running":
                told = (row.read, row.added, row.known, row.refused)
                imports.went_on(act.conn, self.into, row.id, "done", told, "[]", act.now)
                facts = {self.into: row.uuid, "name": row.name, "file": came.name, "added": row.added}
                act.event(f"{self.into}.imported", [], facts)
        return self.count(act, came.package)

    def count(self, view: View, package: int) -> int:
        """How much came into them with a package, as far as it was not taken back."""
        return sum(row.added for row in imports.with_package(view.conn, self.into, package))

    def undo_some(self, act: Act, package: int, most: int) -> int:
        """Take back some of what came into them; returns how much that was, 0 once all of it is gone."""
        for row in imports.with_package(act.conn, self.into, package):
            if count := self.drop(act, row, most):
                return count
            imports.undone(act.conn, self.into, row.id, act.now)
            if row.made:
                self.end(act, row)
        return 0


def _wrong_head(line: CollectionLine) -> Message | None:
    try:
        if naming.line("name", line.name) != line.name or not line.name:
            return said("package.no_name", id=line.id[:80])
        naming.note("note", line.note)
    except Invalid as error:
        return error.message
    if not is_id(line.id) or (line.section is not None and not is_id(line.section)):
        return said("package.no_id", id=line.id[:80])
    return None if is_instant(line.at) else said("package.no_instant")


class _Memories(Collections[SentenceLine]):
    into = "memory"
    kept: ClassVar[_Store] = memory_store
    heads, part, counted = MEMORIES, SENTENCES, "sentences"

    def told(self, package: Package) -> Iterator[CollectionLine]:
        return package.memories()

    def lines(self, package: Package, past: int = 0) -> Iterator[SentenceLine]:
        return package.sentences(past)

    def home(self, line: SentenceLine) -> str:
        return line.memory

    def wrong(self, line: SentenceLine) -> Message | None:
        for text in (line.source, line.target):
            if len(text) > tmx.LONGEST:
                return said("tmx.too_long", most=tmx.LONGEST)
            if not matching.plain(text).strip() or text != without_controls(text):
                return said("package.no_sentence")
        return None if len(line.context) <= 100 else said("package.no_sentence")

    def usable(self, locales: Container[str], line: SentenceLine) -> bool:
        tags = (line.source_locale, line.locale)
        return tags[0] != tags[1] and all(tag in locales for tag in tags)

    def here(self, view: View, whose: int, line: SentenceLine) -> bool:
        hash, _ = matching.found_by(line.source, line.source_locale)
        return memory_store.has(
            view.conn, whose, hash, (line.source_locale, line.source), (line.locale, line.target)
        )

    def keep(self, act: Act, row: WithPackage, line: SentenceLine, actor: int) -> bool:
        source, target = (line.source_locale, line.source), (line.locale, line.target)
        new = memories.new_of(source, target, line.context, instant(line.at))
        added, _ = memory_store.keep(act.conn, row.whose, [new], line.origin, actor, act.now, row.id)
        return bool(added)

    def room(self, view: View, row: WithPackage) -> int:
        return _NO_END

    def drop(self, act: Act, row: WithPackage, most: int) -> int:
        return memories.drop_brought(act, row.id, most)

    def end(self, act: Act, row: WithPackage) -> None:
        if memory_store.count(act.conn, row.whose) == 0:
            memory_store.end(act.conn, row.whose)
            act.event("memory.ended", [], {"memory": row.uuid, "name": row.name})


class _Glossaries(Collections[ConceptLine]):
    into = "glossary"
    kept: ClassVar[_Store] = glossary_store
    heads, part, counted = GLOSSARIES, CONCEPTS, "concepts"

    def told(self, package: Package) -> Iterator[CollectionLine]:
        return package.glossaries()

    def lines(self, package: Package, past: int = 0) -> Iterator[ConceptLine]:
        return package.concepts(past)

    def home(self, line: ConceptLine) -> str:
        return line.glossary

    def wrong(self, line: ConceptLine) -> Message | None:
        try:
            naming.note("note", line.note)
            for n, term in enumerate(line.terms):
                text = naming.line(f"terms.{n}.text", term.text, tbx.LONGEST)
                if not text or text != term.text:
                    return said("package.no_term")
        except Invalid as error:
            return error.message
        names = {(term.locale, term.text) for term in line.terms}
        sound = 0 < len(names) == len(line.terms) <= glossaries.MOST_TERMS
        return None if sound else said("package.no_term")

    def usable(self, locales: Container[str], line: ConceptLine) -> bool:
        return bool(_terms(locales, line))

    def here(self, view: View, whose: int, line: ConceptLine) -> bool:
        terms = _terms(view.setup.locales, line)
        return bool(terms) and glossaries.there(view, whose, terms)

    def keep(self, act: Act, row: WithPackage, line: ConceptLine, actor: int) -> bool:
        terms = _terms(act.setup.locales, line)
        # What one house had twice is there twice where all of it comes.
        if not row.made and glossaries.there(act, row.whose, terms):
            return False
        glossary_store.put(act.conn, row.whose, line.note, terms, actor, instant(line.at), row.id)
        glossary_store.changed(act.conn, row.whose)
        return True

    def room(self, view: View, row: WithPackage) -> int:
        return glossaries.MOST - glossary_store.count(view.conn, row.whose)

    def drop(self, act: Act, row: WithPackage, most: int) -> int:
        glossary_store.changed(act.conn, row.whose)
        return glossary_store.drop_brought(act.conn, row.id, most)

    def end(self, act: Act, row: WithPackage) -> None:
        if glossary_store.count(act.conn, row.whose) == 0:
            glossary_store.end(act.conn, row.whose)
            act.event("glossary.ended", [], {"glossary": row.uuid, "name": row.name, "concepts": 0})


def _terms(locales: Container[str], line: ConceptLine) -> list[Term]:
    return [
        (one.locale, one.text, glossaries.folded(one.text), one.status)
        for one in line.terms
        if one.locale in locales
    ]


KINDS: tuple[Collections[Any], ...] = (_Memories(), _Glossaries())
"""What a package has of language, in the order in which it comes."""
