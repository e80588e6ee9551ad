"""Dispatches by what people call them."""

from __future__ import annotations

from functools import partial as bound
from typing import Annotated, Any

import typer

from hawthorn import wire
from hawthorn.cli.context import means, stop
from hawthorn.client import Client, every

Named = Annotated[
    str, typer.Argument(help="Its id, the start or end of it, or its name.", metavar="DISPATCH")
]
_OVER = ("gone", "undone", "cancelled")
Within = Annotated[
    str,
    typer.Option("--dispatch", help="As if this dispatch had gone: its id, or its name.", metavar="DISPATCH"),
]


def every_dispatch(hawthorn: Client, **about: Any) -> list[wire.release.Dispatch]:
    """All of them, or those about something: those that have no time yet, then the others in order of time."""
    untimed = [d for d in every(bound(hawthorn.dispatches, state="open", **about)) if d.instant is None]
    return [*untimed, *every(bound(hawthorn.dispatches, **about))]


def dispatch_named(hawthorn: Client, name: str) -> str:
    """The id of the dispatch that a name, or the start or end of an id, means; stops with what to do where it means several."""
    there = every_dispatch(hawthorn)
    found = [d for d in there if means(name, d.id) or d.name.casefold() == name.casefold()]
    found = found or [d for d in there if name.casefold() in d.name.casefold()]
    if len(found) > 1:
        # What has gone gives way to what is still to come of the same name.
        found = [d for d in found if d.state not in _OVER] or found
    if len(found) != 1:
        stop("cli.dispatches.means", ends="not-found", name=name, count=len(found))
    return found[0].id
