"""Who may read an entry while it is out, from the command line."""

from __future__ import annotations

import getpass
from typing import Annotated

import typer

from hawthorn import wire
from hawthorn.cli.context import Json, Named, or_none, plain, print_json, resolve, service, stop, tell

WAYS: dict[str, wire.limiting.LimitWay] = {"everybody": "", "hidden": "hidden", "locked": "locked"}


def limit(
    name: Named,
    way: Annotated[
        str,
        typer.Argument(
            help="everybody; hidden: for others nothing is there; locked: it is listed, and asks for a phrase."
        ),
    ] = "",
    audience: Annotated[
        list[str] | None,
        typer.Option(help="An audience for whom it is there all the same; reading keys list them."),
    ] = None,
    new_phrase: Annotated[
        bool, typer.Option("--new-phrase", help="Ask for another phrase; the one before it opens no more.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Say who may read an entry while it is out, at once; or, without more, look who may.

    Example: hawthorn entry limit "Members' evening" hidden --audience members
    """
    if way and way not in WAYS:
        stop("cli.limiting.no_way", way=way, known=list(WAYS))
    with service() as hawthorn:
        id = resolve(hawthorn, name)
        entry = hawthorn.entry(id)
        found = entry.limit
        if way:
            phrase = ""
            if way == "locked" and (new_phrase or not found.has_phrase):
                phrase = getpass.getpass(plain("cli.limiting.phrase"))
            found = hawthorn.limit(id, WAYS[way], audiences=audience or (), phrase=phrase).limit
    if as_json:
        print_json(found)
        return
    audiences = or_none("cli.limiting.nobody_else", found.audiences)
    tell(f"cli.limiting.now.{found.way or 'everybody'}", title=entry.title, audiences=audiences)
