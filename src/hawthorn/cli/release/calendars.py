"""Calendars to subscribe to, from the command line."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Json, one_of, out, print_json, service, tell
from hawthorn.client import Client

Named = Annotated[str, typer.Argument(help="Its name, or the start or end of its id.", metavar="CALENDAR")]
Kinds = Annotated[
    list[str] | None,
    typer.Option("--show", help="dispatches, assignments, jobs or quiet periods; all when not given."),
]
Person = Annotated[str, typer.Option("--person", help="Only what this person answers for or holds.")]
Type = Annotated[str, typer.Option("--type", help="Only what is about entries of this type.")]
Locale = Annotated[str, typer.Option("--locale", help="Only what is about this locale.")]


def listing(as_json: Json = False) -> None:
    """The calendars that you subscribe to.

    Example: hawthorn calendar list
    """
    with service() as hawthorn:
        page = hawthorn.calendars()
    if as_json:
        print_json(page)
        return
    if not page.items:
        tell("cli.calendars.none")
        return
    made = drawing.table("id", "name", "since", "shows")
    for one in page.items:
        made.add_row(one.id[-8:], escape(one.name), drawing.when(one.at), ", ".join(one.shows.kinds))
    out.print(made)


def add(
    name: Annotated[str, typer.Argument(help="What to call it.")] = "Hawthorn",
    kinds: Kinds = None,
    person: Person = "",
    type: Type = "",
    locale: Locale = "",
    as_json: Json = False,
) -> None:
    """Make a calendar of what you may read; its secret address is shown this once.

    Example: hawthorn calendar add "What goes out in French" --show dispatches --locale fr
    """
    shows = {"person": person, "type": type, "locale": locale} | ({"kinds": kinds} if kinds else {})
    with service() as hawthorn:
        _made(hawthorn.add_calendar(name, shows), as_json)


def renew(name: Named, as_json: Json = False) -> None:
    """Give a calendar another secret address; nothing is at the one before any more.

    Example: hawthorn calendar renew "What goes out in French"
    """
    with service() as hawthorn:
        _made(hawthorn.renew_calendar(_named(hawthorn, name).id), as_json)


def end(name: Named) -> None:
    """End a calendar: nothing is at its address any more.

    Example: hawthorn calendar end "What goes out in French"
    """
    with service() as hawthorn:
        one = _named(hawthorn, name)
        hawthorn.end_calendar(one.id)
    tell("cli.calendars.ended", name=one.name)


def _made(one: wire.timetable.CalendarMade, as_json: bool) -> None:
    if as_json:
        print_json(one)
    else:
        tell("cli.calendars.made", name=one.name, address=one.address)


def _named(hawthorn: Client, name: str) -> wire.timetable.Calendar:
    return one_of(
        hawthorn.calendars().items, name, lambda one: one.id, lambda one: one.name, "cli.calendars.means"
    )


COMMANDS: dict[str, Callable[..., None]] = {"list": listing, "add": add, "renew": renew, "end": end}


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(help="Calendars to subscribe to.", no_args_is_help=True)
    for name, function in COMMANDS.items():
        group.command(name)(function)
    app.add_typer(group, name="calendar", rich_help_panel="Going out")
