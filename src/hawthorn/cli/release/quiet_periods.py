"""Quiet periods from the command line: when nothing is released."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Check, Json, Zone, one_of, out, print_json, service, tell
from hawthorn.client import Client

Begins = Annotated[str, typer.Option("--from", help="The wall time at which it begins.", metavar="TIME")]
Ends = Annotated[str, typer.Option("--until", help="The wall time at which it ends.", metavar="TIME")]
Reason = Annotated[str, typer.Option("--reason", help="Why nothing is released then.")]
Rule = Annotated[str, typer.Option("--every", help="How it comes again: a rule of RFC 5545.", metavar="RULE")]
Named = Annotated[str, typer.Argument(help="The start or end of its id, or its reason.", metavar="PERIOD")]


def listing(as_json: Json = False) -> None:
    """The quiet periods, each with the time that it takes now or next.

    Example: hawthorn quiet-period list
    """
    with service() as hawthorn:
        page = hawthorn.quiet_periods()
    if as_json:
        print_json(page)
        return
    if not page.items:
        tell("cli.quiet_periods.none")
        return
    made = drawing.table("id", "reason", "starts", "until", "every", "next")
    for one in page.items:
        began, ends = one.begins.replace("T", " "), one.ends.replace("T", " ")
        coming = drawing.when(one.since) if one.since else ""
        made.add_row(one.id[-8:], escape(one.reason), f"{began} {one.zone}", ends, one.rule, coming)
    out.print(made)


def add(
    begins: Begins,
    ends: Ends,
    reason: Reason,
    zone: Zone = "",
    every: Rule = "",
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Release nothing from one time to another; what is planned in it is held when its time comes.

    Example: hawthorn quiet-period add --from 2026-12-24T18:00 --until 2026-12-27T08:00 --reason "Nobody is in."
    """
    period = {"begins": begins, "ends": ends, "reason": reason, "zone": zone, "rule": every}
    with service() as hawthorn:
        found = hawthorn.check_quiet_period(period)
        made = None if check else hawthorn.add_quiet_period(period)
    if as_json:
        print_json(made or found)
        return
    if made is not None:
        _shown(made)
    for one in found.dispatches:
        tell("cli.quiet_periods.would_hold", name=one.name, at=drawing.when(one.instant))
    if check and not found.dispatches:
        tell("cli.quiet_periods.holds_nothing")


def change(
    name: Named,
    begins: Annotated[str | None, typer.Option("--from", help="The wall time at which it begins.")] = None,
    ends: Annotated[str | None, typer.Option("--until", help="The wall time at which it ends.")] = None,
    reason: Annotated[str | None, typer.Option("--reason", help="Why nothing is released then.")] = None,
    zone: Zone = "",
    every: Annotated[str | None, typer.Option("--every", help="How it comes again; empty for once.")] = None,
    as_json: Json = False,
) -> None:
    """Give a quiet period other times, another rule or another reason; what is not named stays.

    Example: hawthorn quiet-period change "Nobody is in." --until 2026-12-28T08:00
    """
    with service() as hawthorn:
        one = _named(hawthorn, name)
        asked = {
            "begins": one.begins if begins is None else begins,
            "ends": one.ends if ends is None else ends,
            "reason": one.reason if reason is None else reason,
            "zone": zone or one.zone,
            "rule": one.rule if every is None else every,
        }
        made = hawthorn.change_quiet_period(one.id, asked)
    if as_json:
        print_json(made)
    else:
        _shown(made)


def end(name: Named) -> None:
    """End a quiet period: from now on it holds nothing.

    Example: hawthorn quiet-period end "Nobody is in."
    """
    with service() as hawthorn:
        one = _named(hawthorn, name)
        hawthorn.end_quiet_period(one.id)
    tell("cli.quiet_periods.ended", reason=one.reason)


def _shown(one: wire.timetable.QuietPeriod) -> None:
    tell("cli.quiet_periods.period", reason=one.reason, id=one.id)
    if one.since and one.until:
        tell("cli.quiet_periods.next", since=drawing.when(one.since), until=drawing.when(one.until))
    else:
        tell("cli.quiet_periods.over")


def _named(hawthorn: Client, name: str) -> wire.timetable.QuietPeriod:
    return one_of(
        hawthorn.quiet_periods().items,
        name,
        lambda one: one.id,
        lambda one: one.reason,
        "cli.quiet_periods.means",
    )


COMMANDS: dict[str, Callable[..., None]] = {"list": listing, "add": add, "change": change, "end": end}


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(help="When nothing is released.", no_args_is_help=True)
    for name, function in COMMANDS.items():
        group.command(name)(function)
    app.add_typer(group, name="quiet-period", rich_help_panel="Going out")
