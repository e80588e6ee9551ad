"""A package looked through before anything is written: whether it hangs together, and what bringing it would come to."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import IO, Any

from hawthorn.core import contenttypes
from hawthorn.core.bounds import Bounds
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import BadFile, HawthornError
from hawthorn.core.exchange.differing import differing
from hawthorn.core.exchange.lines import FileLine
from hawthorn.core.exchange.looked import Looked
from hawthorn.core.exchange.package import FILES, PEOPLE, SETUP, Package
from hawthorn.core.messages import Message, said
from hawthorn.operations.exchange import set_up
from hawthorn.operations.exchange.renaming import Names
from hawthorn.operations.exchange.report import Report, Wish
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
    some: Sequence[Looked],
    report: Report,
) -> list[str]:
    """Add to a report what bringing some entries comes to. Returns the ids of those that are here already."""
    names = Names(view, wish, package.sha256)
    there = bringing.there(view.conn, [names.entry(one.id, one.type) for one in some])
    here: list[str] = []
    for one in some:
        is_here = names.entry(one.id, one.type) in there
        report.entries += 1
        why = in_the_way(view, one.type, types, is_here)
        if why is None:
            report.cleaned += one.cleaned
            report.as_is &= one.as_is
            why = one.misfit
        if why is not None:
            report.left += 1
            report.name(one.id, one.title, view.say(why))
        elif is_here:
            here.append(one.id)
        else:
            report.added += 1
            if not wish.as_drafts and one.out:
                report.out += 1
    return here


def in_the_way(view: View, type: str, types: Mapping[str, ContentType], there: bool) -> Message | None:
    """Why an entry cannot be brought; None for one that can."""
    kind = types.get(type)
    if kind is None:
        return said("importing.no_type", type=type)
    if kind.single and not there and entry_store.single(view.conn, kind.name) is not None:
        return said("importing.one_already", type=kind.label)
    return None


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
