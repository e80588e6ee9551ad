"""Glossaries as files: TBX out, piece by piece, and in, a few concepts at a time."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import BinaryIO

from hawthorn.core.access import Identity
from hawthorn.core.errors import InTheWay
from hawthorn.core.messages import said
from hawthorn.core.translation import tbx
from hawthorn.core.translation.tbx import Refused, TbxConcept, TbxTerm
from hawthorn.operations.runtime.act import Act, Desk, View
from hawthorn.operations.translation import glossaries, imports, owning
from hawthorn.operations.translation.imports import ImportShown
from hawthorn.store import glossaries as store


def export(view: View, uuid: str) -> Iterator[bytes]:
    """A glossary as TBX, in pieces."""
    row = glossaries.get(view, uuid)
    found = store.listing(view.conn, row.id, "", "", 0, glossaries.MOST)
    terms: dict[int, list[TbxTerm]] = {}
    for term in store.terms(view.conn, [one.id for one in found]):
        terms.setdefault(term.concept, []).append(TbxTerm(term.locale, term.text, term.status))
    some = (TbxConcept(tuple(terms.get(one.id, ())), one.note) for one in found)
    return tbx.write(some, next(iter(view.setup.locales), "en"), row.name)


def import_file(desk: Desk, identity: Identity, uuid: str, name: str, file: BinaryIO) -> ImportShown:
    """Take the concepts of a TBX file into a glossary, as far as its languages are ours, as `imports.Taking` says; a concept all of whose
    names one has already is known. Raises `InTheWay` for more than a glossary may hold."""
    return _Taking(desk, identity, uuid, name).all_of(tbx.read(file))


class _Taking(imports.Taking[TbxConcept | Refused]):
    into = "glossary"

    def home(self, act: Act) -> tuple[int, str]:
        row = glossaries.get(act, self.uuid, manage=True)
        return row.id, row.name

    def keep(self, act: Act, some: list[TbxConcept | Refused]) -> tuple[int, int]:
        ours = owning.our_locales(act.setup.locales)
        room = glossaries.MOST - glossaries.get(act, self.uuid).concepts
        added = known = 0
        for n, one in enumerate(some, self.read + 1):
            terms = _usable(ours, one) if isinstance(one, TbxConcept) else []
            if not terms or isinstance(one, Refused):
                tags = [] if isinstance(one, Refused) else sorted({t.locale for t in one.terms})
                why = one.why if isinstance(one, Refused) else said("tbx.not_our_languages", tags=tags)
                self.refuse(act.say("tbx.at", number=n, why=why))
            elif glossaries.there(act, self.whose, terms):
                known += 1
            elif added >= room:
                raise InTheWay("glossaries.full", most=glossaries.MOST)
            else:
                store.put(act.conn, self.whose, one.note, terms, act.identity.id, act.now, self.id)
                added += 1
        store.changed(act.conn, self.whose)
        return added, known

    def drop(self, act: Act, most: int) -> int:
        store.changed(act.conn, self.whose)
        return store.drop_brought(act.conn, self.id, most)


def _usable(ours: Mapping[str, str], one: TbxConcept) -> list[tuple[str, str, str, str]]:
    found: dict[tuple[str, str], tuple[str, str, str, str]] = {}
    for term in one.terms[: glossaries.MOST_TERMS]:
        tag = owning.our_locale(ours, term.locale)
        if tag:
            text = (tag, term.text, glossaries.folded(term.text), term.status)
            found.setdefault((tag, term.text), text)
    return list(found.values())
