"""Locales: defined as a whole, with what a change would do to what is written said first."""

from __future__ import annotations

from typing import Any

from hawthorn.core import locales as core
from hawthorn.core.access import Subject
from hawthorn.core.errors import InTheWay
from hawthorn.core.locales import Locale
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View, setup_changed
from hawthorn.store import bodies, definitions


@dataclass(frozen=True, slots=True)
class Change:
    """What a definition does to one locale: "added", "ended", "back" or "changed"; what is written in it, and why it cannot be."""

    tag: str
    name: str
    how: str
    editions: int = 0
    out: int = 0
    sources: int = 0
    jobs: int = 0
    dispatches: int = 0
    in_the_way: str = ""


def check(view: View, raws: Any) -> list[Change]:
    """What a definition would change; nothing is done."""
    permission.require(view, "configure", Subject())
    return _changes(view, core.from_list(raws))


def define(act: Act, raws: Any) -> list[Change]:
    """Put locales in place of those there are. The editions of one that ends stay in the record, and are there again when it
    comes back. Raises `InTheWay` while something of one that would end is out, may go out yet, is a source, or is being translated."""
    permission.require(act, "configure", Subject())
    wanted = core.from_list(raws)
    changes = _changes(act, wanted)
    held = [change for change in changes if change.in_the_way]
    if held:
        raise InTheWay(
            "locales.cannot_end",
            why=[change.in_the_way for change in held],
            changes=[change.tag for change in held],
        )
    before = act.setup.languages
    definitions.set_locales(act.conn, wanted.values(), act.now)
    setup_changed(act)
    if [(one.tag, one.fallback) for one in before.values()] != [(o.tag, o.fallback) for o in wanted.values()]:
        # What is shown where, and as which other locale, is worked out anew.
        bodies.clear(act.conn)
    if changes or [*before] != [*wanted]:
        how = [{"locale": c.tag, "how": c.how} for c in changes]
        act.event("locales.defined", [], {"locales": [*wanted], "changes": how})
    return changes


def _changes(view: View, wanted: dict[str, Locale]) -> list[Change]:
    have = view.setup.languages
    ever = definitions.ended_locales(view.conn)
    out: list[Change] = []
    for tag, one in wanted.items():
        if tag not in have:
            out.append(_used(view, one, "back" if tag in ever else "added"))
        elif one != have[tag]:
            out.append(_used(view, one, "changed"))
    return [*out, *(_used(view, one, "ended") for tag, one in have.items() if tag not in wanted)]


def _used(view: View, one: Locale, how: str) -> Change:
    editions, *uses = definitions.uses_of_locale(view.conn, one.tag)
    counts = dict(zip(("out", "sources", "jobs", "dispatches"), uses, strict=True))
    held = counts if how == "ended" else {}
    used = [said(f"locales.used_by_{what}", count=count) for what, count in held.items() if count]
    why = view.say("locales.in_the_way", name=one.name, used=used) if used else ""
    return Change(one.tag, one.name, how, editions, in_the_way=why, **counts)
