"""Memories as files: TMX out, piece by piece, and in, a few at a time, so that nobody waits for a large one."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from itertools import islice
from typing import BinaryIO

from hawthorn.core.access import Identity
from hawthorn.core.errors import HawthornError
from hawthorn.core.messages import Message, said
from hawthorn.core.translation import matching, tmx
from hawthorn.core.translation.tmx import Refused, TmxUnit, Variant
from hawthorn.operations.runtime.act import Act, Desk
from hawthorn.operations.translation import memories, owning
from hawthorn.operations.translation.memories import BatchShown
from hawthorn.store import memories as store
from hawthorn.store.memories import Known, New

_AT_ONCE = 500
"""So many units are kept in one transaction, between which others have their turn."""
_OUT_AT_ONCE = 2_000
_NAMED = 50
"""So many units that cannot be used are named."""


def export(desk: Desk, identity: Identity, uuid: str, source: str, target: str) -> Iterator[bytes]:
    """A memory as TMX, whole or of one pair of languages."""
    row = desk.read(identity, lambda view: memories.get(view, uuid))

    def some(after: int) -> list[Known]:
        return desk.read(
            identity,
            lambda view: store.to_export(view.conn, row.id, source, target, after, _OUT_AT_ONCE),
        )

    def units() -> Iterator[TmxUnit]:
        found = some(0)
        while found:
            for one in found:
                variants = (Variant(one.source_locale, one.source_text), Variant(one.locale, one.text))
                yield TmxUnit(variants, one.context, one.at)
            found = some(found[-1].id)

    return tmx.write(units(), source)


def import_file(desk: Desk, identity: Identity, uuid: str, name: str, file: BinaryIO) -> BatchShown:
    """Take the units of a TMX file into a memory. What cannot be used is counted and named, the first so many; a file that cannot be
    read to its end leaves nothing behind."""
    taking = _Taking(desk, identity, uuid, name)
    try:
        found = tmx.read(file)
        while some := list(islice(found, _AT_ONCE)):
            taking.take(some)
    except HawthornError:
        taking.give_up()
        raise
    return taking.done()


class _Taking:
    """An import on its way."""

    def __init__(self, desk: Desk, identity: Identity, uuid: str, name: str) -> None:
        self._desk, self._identity, self._uuid, self._name = desk, identity, uuid, name[:200]
        self._read = self._added = self._known = self._refused = 0
        self._problems: list[str] = []
        self._memory, self._batch = desk.write(identity, self._begin)

    def _begin(self, act: Act) -> tuple[int, int]:
        row = memories.get(act, self._uuid, manage=True)
        return row.id, store.begin(act.conn, row.id, self._name, act.identity.id, act.now)

    def take(self, some: list[TmxUnit | Refused]) -> None:
        """Keep some units, in one transaction."""

        def do(act: Act) -> None:
            ours = owning.our_locales(act.setup.locales)
            fresh: list[New] = []
            for n, one in enumerate(some, self._read + 1):
                if isinstance(one, Refused):
                    self._refuse(act, n, one.why)
                    continue
                source, *others = one.variants
                wanted = [_new_of(ours, source, other, one) for other in others]
                usable = [new for new in wanted if new is not None]
                if not usable:
                    tags = [v.locale for v in one.variants]
                    self._refuse(act, n, said("tmx.not_our_languages", tags=tags))
                fresh += usable
            added, known = store.keep(
                act.conn, self._memory, fresh, "imported", act.identity.id, act.now, self._batch
            )
            self._read += len(some)
            self._added += added
            self._known += known
            self._keep(act, "running")

        self._desk.write(self._identity, do)

    def _refuse(self, act: Act, number: int, why: Message) -> None:
        self._refused += 1
        if len(self._problems) < _NAMED:
            self._problems.append(act.say("tmx.at", number=number, why=why))

    def _keep(self, act: Act, state: str) -> None:
        counts = (self._read, self._added, self._known, self._refused)
        problems = json.dumps(self._problems, ensure_ascii=False)
        store.went_on(act.conn, self._batch, state, counts, problems, act.now)

    def give_up(self) -> None:
        """Take out again what was taken in."""

        def some(act: Act) -> bool:
            ids = store.of_batch(act.conn, self._batch, _OUT_AT_ONCE)
            store.drop(act.conn, ids)
            self._added = 0
            self._keep(act, "failed")
            return len(ids) == _OUT_AT_ONCE

        while self._desk.write(self._identity, some):
            pass

    def done(self) -> BatchShown:
        """Say that it is done."""

        def do(act: Act) -> BatchShown:
            self._keep(act, "done")
            row = memories.get(act, self._uuid)
            facts = {"memory": self._uuid, "name": row.name, "file": self._name, "added": self._added}
            act.event("memory.imported", [], facts)
            batch = store.batch(act.conn, self._memory, self._batch)
            assert batch is not None
            return memories.batch_shown(act, batch)

        return self._desk.write(self._identity, do)


def _new_of(ours: Mapping[str, str], source: Variant, other: Variant, unit: TmxUnit) -> New | None:
    mine, theirs = owning.our_locale(ours, source.locale), owning.our_locale(ours, other.locale)
    if not mine or not theirs or mine == theirs:
        return None
    words = matching.plain(source.text)
    return New(
        source_locale=mine,
        source=source.text.strip(),
        hash=matching.hash_of(words),
        marks=matching.marks(words, mine),
        locale=theirs,
        target=other.text.strip(),
        context=unit.context,
        at=unit.at,
    )
