"""Whose memories and glossaries are: everybody's who translates, or a section's; and what a file may call our locales."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from hawthorn.core import naming
from hawthorn.core.access import Subject
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid
from hawthorn.core.messages import said
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries as entry_store


def subject(view: View, section: int | None) -> Subject:
    """What belongs to a section, as grants see it."""
    return Subject(section=section, within=entry_store.within(view.conn, section))


def usable(view: View, section: int | None) -> bool:
    """Whether whoever looks may look things up in what belongs to a section."""
    about = subject(view, section)
    return any(permission.may(view, verb, about) for verb in ("commission", "accept", "write"))


def manages(view: View, section: int | None) -> bool:
    """Whether whoever looks may look after it: whoever may commission there."""
    return permission.may(view, "commission", subject(view, section))


def require(view: View, section: int | None) -> None:
    """Raise `Refused`, which names who could, unless whoever acts may look after it."""
    permission.require(view, "commission", subject(view, section))


def section_of(view: View, uuid: str) -> int | None:
    """The section that an entry heads; None for none. Raises `Invalid` for an entry that heads none."""
    if not uuid:
        return None
    row = permission.find(view, uuid)
    if not view.setup.type(row.type).section:
        raise Invalid([FieldProblem("section", said("memories.no_section"))])
    return row.id


def named(given: str, other: int | None, mine: int | None) -> str:
    """A name in one line; raises where it is empty, or where an `other` than `mine` has it."""
    name = naming.line("name", given)
    if not name:
        raise Invalid([FieldProblem("name", said("memories.without_name"))])
    if other is not None and other != mine:
        raise InTheWay("memories.name_taken", name=name)
    return name


def our_locales(tags: Iterable[str]) -> Mapping[str, str]:
    """What a file may call our locales: by their tags, and by the language alone where only one of ours has it."""
    by_language: dict[str, list[str]] = {}
    known = list(tags)
    for tag in known:
        by_language.setdefault(tag.split("-")[0], []).append(tag)
    return {**{k: v[0] for k, v in by_language.items() if len(v) == 1}, **{tag: tag for tag in known}}


def our_locale(ours: Mapping[str, str], tag: str) -> str:
    """Which of ours a file means by a tag; empty for none."""
    return ours.get(tag) or ours.get(tag.split("-")[0], "")
