"""Pydantic models of what crosses HTTP, by area: `wire.release.Dispatch`. An area is loaded when it is first named, as a
command needs few of them."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from hawthorn.wire import access as access
    from hawthorn.wire import assistants as assistants
    from hawthorn.wire import bureaus as bureaus
    from hawthorn.wire import collaboration as collaboration
    from hawthorn.wire import commissions as commissions
    from hawthorn.wire import content as content
    from hawthorn.wire import coverage as coverage
    from hawthorn.wire import delivery as delivery
    from hawthorn.wire import exchange as exchange
    from hawthorn.wire import figures as figures
    from hawthorn.wire import glossaries as glossaries
    from hawthorn.wire import imports as imports
    from hawthorn.wire import limiting as limiting
    from hawthorn.wire import media as media
    from hawthorn.wire import memories as memories
    from hawthorn.wire import reading as reading
    from hawthorn.wire import release as release
    from hawthorn.wire import search as search
    from hawthorn.wire import standing_commissions as standing_commissions
    from hawthorn.wire import timetable as timetable
    from hawthorn.wire import translation as translation
    from hawthorn.wire import views as views
    from hawthorn.wire import workflows as workflows

AREAS = (
    "access",
    "assistants",
    "bureaus",
    "collaboration",
    "commissions",
    "content",
    "coverage",
    "delivery",
    "exchange",
    "figures",
    "glossaries",
    "imports",
    "limiting",
    "media",
    "memories",
    "reading",
    "release",
    "search",
    "standing_commissions",
    "timetable",
    "translation",
    "views",
    "workflows",
)
DEFER = False
"""Whether models are built when they are first used. A command sets it before it loads them, as it uses few of them; the
service, which uses all of them from many threads, leaves it."""


def __getattr__(name: str) -> Any:
    if name not in AREAS:
        raise AttributeError(name)
    return import_module(f"hawthorn.wire.{name}")
