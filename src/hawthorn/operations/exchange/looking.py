"""A package looked through before anything is written: whether it hangs together, and what bringing it would come to."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import field, replace
from typing import IO, Any, cast
from uuid import UUID

from hawthorn.core import contenttypes
from hawthorn.core.bounds import Bounds
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import BadFile, HawthornError
from hawthorn.core.exchange.differing import differing
from hawthorn.core.exchange.lines import EntryLine, FileLine
from hawthorn.core.exchange.package import ENTRIES, FILES, PEOPLE, SETUP, Package
from hawthorn.core.exchange.soundness import Keeping, wrong
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.operations.exchange import set_up
from hawthorn.operations.exchange.renaming import Names
from hawthorn.operations.exchange.report import Report, Wish, title_of
from hawthorn.operations.runtime.act import View
from hawthorn.store import bringing
from hawthorn.store import entries as entry_store


def check_beside(package: Package, check_file: Callable[[FileLine, IO[bytes]], None]) -> None:
    """Look at what lies beside the entries: definitions, people and files. Raises `BadFile` with the first thing that cannot be."""
    for part in (SETUP, PEOPLE, FILES):
        package.check(part)
    handles = {one.handle for one in package.people()}
    for n, file in enumerate(package.files(), 1):
        if file.by is not None and file.by not in handles:
            raise BadFile("package.nobody", part=FILES, number=n, handle=file.by)
        with package.bytes_of(file.sha256) as member:
            check_file(file, member)


def sound_entries(package: Package) -> Iterator[EntryLine]:
    """The entries of a package, each once it is clear that it hangs together. Raises `BadFile` for the first that does not: nothing of such a package
    is brought."""
    handles = {one.handle for one in package.people()}
    ids: set[bytes] = set()
    for number, line in enumerate(package.entries(), 1):
        found = wrong(line)
        if found is None and not _people_of(line) <= handles:
            found = said("package.unknown_person", handle=sorted(_people_of(line) - handles)[0])
        if found is not None:
            raise BadFile("package.unsound", part=ENTRIES, number=number, id=line.id[:80], why=found)
        mine = [line.id, *(c.id for c in line.comments), *(r.id for c in line.comments for r in c.replies)]
        mine += [one.id for one in line.assignments]
        short = {UUID(one).bytes for one in mine}
        if len(short) != len(mine) or ids & short:
            raise BadFile("package.id_twice", part=ENTRIES, number=number, id=line.id)
        ids |= short
        yield line


def _people_of(line: EntryLine) -> set[str]:
    out: set[str | None] = {line.by}
    for edition in line.editions:
        for some in (
            edition.revisions,
            edition.strands,
            edition.sign_offs,
            edition.submissions,
            edition.overrides,
        ):
            out.update([one.by for one in some])
        out.update([s.decided_by for s in edition.submissions])
    for comment in line.comments:
        out |= {comment.by, comment.resolved_by, *(r.by for r in comment.replies)}
    for one in line.assignments:
        out |= {one.to, one.by}
    out.discard(None)
    return cast(set[str], out)


def missing_definitions(
    view: View, package: Package, wish: Wish
) -> tuple[dict[str, Any], list[dict[str, Any]]]:
    """The definitions of a package that are to be put in place, as a document of set-up; and what of its definitions is not here, or is otherwise here."""
    given = package.setup()
    document: dict[str, Any] = {"version": set_up.VERSION}
    told: list[dict[str, Any]] = []
    for part, have in ((name, set_up.PARTS[name].have(view)) for name in set_up.PARTS if name in given):
        for one in given[part] if isinstance(given[part], list) else []:
            name = set_up.name_of(part, one)
            if name not in have:
                document.setdefault(part, []).append(one)
                told.append({"part": part, "name": name, "how": "added", "members": []})
            elif members := [d.path for d in differing(have[name], one)]:
                told.append({"part": part, "name": name, "how": "otherwise here", "members": members[:20]})
                if wish.definitions:
                    document.setdefault(part, []).append(one)
    return document, told


def look(
    view: View,
    package: Package,
    wish: Wish,
    types: Mapping[str, ContentType],
    some: Sequence[EntryLine],
    report: Report,
) -> list[EntryLine]:
    """Add to a report what bringing some entries comes to. Returns those that are here already."""
    names = Names(view, wish, package.sha256)
    there = bringing.there(view.conn, [names.entry(line) for line in some])
    here: list[EntryLine] = []
    for line in some:
        report.entries += 1
        why = in_the_way(view, line, types, names.entry(line) in there)
        if why is not None:
            report.left += 1
            report.name(line.id, title_of(line), view.say(why))
            continue
        found = stored(view, types[line.type], line)
        report.cleaned += found.cleaned
        report.as_is &= found.as_is and not found.misfits
        if found.misfits:
            report.left += 1
            report.name(line.id, title_of(line), view.say(found.misfits[0]))
        elif names.entry(line) in there:
            here.append(line)
        else:
            report.added += 1
            if not wish.as_drafts and _is_out(line):
                report.out += 1
    return here


def _is_out(line: EntryLine) -> bool:
    return any(
        s.stage == "release" and s.until is None
        for e in line.editions
        if e.locale != COMMON
        for s in e.standings
    )


def in_the_way(view: View, line: EntryLine, types: Mapping[str, ContentType], there: bool) -> Message | None:
    """Why an entry cannot be brought; None for one that can."""
    kind = types.get(line.type)
    if kind is None:
        return said("importing.no_type", type=line.type)
    if kind.single and not there and entry_store.single(view.conn, kind.name) is not None:
        return said("importing.one_already", type=kind.label)
    return None


@dataclass(slots=True)
class Kept:
    """What the revisions of an entry hold, by locale and number, as this house keeps it (what is not there is as it came); in how many of them
    something had to be made so, and what does not fit its field in a revision that counts: the newest of a draft, or one that stands."""

    contents: dict[tuple[str, int], Content]
    cleaned: int = 0
    misfits: list[Message] = field(default_factory=list)

    @property
    def as_is(self) -> bool:
        """Whether all of it is as it came."""
        return not self.contents


def stored(view: View, kind: ContentType, line: EntryLine) -> Kept:
    """An entry as this house would keep it."""
    keeping = Keeping(kind, view.setup.bounds)
    out = Kept({})
    for edition in line.editions:
        counts = {s.head for s in edition.strands}
        counts |= {s.revision for s in edition.standings if s.until is None}
        for one in edition.revisions:
            values, wrongly = keeping.kept(one.fields)
            if one.n in counts:
                out.misfits += wrongly
            content = keeping.content(one, values)
            if content is not None:
                out.cleaned += values != one.fields
                out.contents[edition.locale, one.n] = content
    return out


def fingerprint(types: Mapping[str, ContentType], package: Package, bounds: Bounds) -> str:
    """What stands for the definitions of the types of a package, and for what they let in."""
    names = sorted(set_up.name_of("types", one) for one in package.setup().get("types", []))
    told = [repr(replace(types[name], version=0)) for name in names if name in types]
    return hashlib.sha256("\n".join([repr(bounds), *told]).encode()).hexdigest()


def known_types(view: View, package: Package, wish: Wish) -> dict[str, ContentType]:
    """The types there will be once the package's definitions are in place, as far as they can be read by themselves."""
    sets = dict(view.setup.sets)
    given = package.setup()
    for one in given.get("field_sets", []):
        try:
            made = contenttypes.set_from_dict(one)
            sets.setdefault(made.name, made)
        except HawthornError:
            continue
    out: dict[str, ContentType] = {}
    for one in given.get("types", []):
        try:
            kind = contenttypes.from_dict(one, sets)
            out[kind.name] = kind
        except HawthornError:
            continue
    return {**view.setup.types, **out} if wish.definitions else {**out, **view.setup.types}
