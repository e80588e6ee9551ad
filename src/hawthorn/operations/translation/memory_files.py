"""Memories as files: TMX out, piece by piece, and in, a few at a time, so that nobody waits for a large one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import BinaryIO

from hawthorn.core.access import Identity
from hawthorn.core.messages import said
from hawthorn.core.translation import tmx
from hawthorn.core.translation.tmx import Refused, TmxUnit, Variant
from hawthorn.operations.runtime.act import Act, Desk
from hawthorn.operations.translation import imports, memories, owning
from hawthorn.operations.translation.imports import ImportShown
from hawthorn.store import memories as store
from hawthorn.store.memories import Known, New


def export(desk: Desk, identity: Identity, uuid: str, source: str, target: str) -> Iterator[bytes]:
    """A memory as TMX, whole or of one pair of languages."""
    row = desk.read(identity, lambda view: memories.get(view, uuid))

    def some(after: int) -> list[Known]:
        return desk.read(
            identity,
            lambda view: store.to_export(view.conn, row.id, source, target, after, imports.OUT_AT_ONCE),
        )

    def units() -> Iterator[TmxUnit]:
        found = some(0)
        while found:
            for one in found:
                variants = (Variant(one.source_locale, one.source_text), Variant(one.locale, one.text))
                yield TmxUnit(variants, one.context, one.at)
            found = some(found[-1].id)

    return tmx.write(units(), source)


def import_file(desk: Desk, identity: Identity, uuid: str, name: str, file: BinaryIO) -> ImportShown:
    """Take the units of a TMX file into a memory, as `imports.Taking` says."""
    return _Taking(desk, identity, uuid, name).all_of(tmx.read(file))


class _Taking(imports.Taking[TmxUnit | Refused]):
    into = "memory"

    def home(self, act: Act) -> tuple[int, str]:
        row = memories.get(act, self.uuid, manage=True)
        return row.id, row.name

    def keep(self, act: Act, some: list[TmxUnit | Refused]) -> tuple[int, int]:
        ours = owning.our_locales(act.setup.locales)
        fresh: list[New] = []
        for n, one in enumerate(some, self.read + 1):
            if isinstance(one, Refused):
                self.refuse(act.say("tmx.at", number=n, why=one.why))
                continue
            usable = _new_of(ours, one)
            if not usable:
                tags = [v.locale for v in one.variants]
                self.refuse(act.say("tmx.at", number=n, why=said("tmx.not_our_languages", tags=tags)))
            fresh += usable
        return store.keep(act.conn, self.whose, fresh, "imported", act.identity.id, act.now, self.id)

    def drop(self, act: Act, most: int) -> int:
        return memories.drop_brought(act, self.id, most)


def _new_of(ours: Mapping[str, str], unit: TmxUnit) -> list[New]:
    """What a unit says in languages of ours."""
    source, *others = unit.variants
    mine = owning.our_locale(ours, source.locale)
    theirs = [(owning.our_locale(ours, other.locale), other.text.strip()) for other in others]
    return [
        memories.new_of((mine, source.text.strip()), target, unit.context, unit.at)
        for target in theirs
        if mine and target[0] and target[0] != mine
    ]
