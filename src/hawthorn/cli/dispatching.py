"""Releasing, withdrawing and planning from the command line."""

from __future__ import annotations

from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import EXIT, In, Json, entry_named, means, out, print_json, service, stop
from hawthorn.client import Client

Names = Annotated[
    list[str],
    typer.Argument(help="Entries, each by address, id or title; all go together.", metavar="ENTRY…"),
]
WithNeeds = Annotated[bool, typer.Option("--with-needs", help="Let what they refer to go along.")]
At = Annotated[str, typer.Option("--at", help="When: 2027-03-31T09:00 in --zone, or with an offset.")]
Zone = Annotated[str, typer.Option("--zone", help="The time zone of --at (IANA); yours when not given.")]
Fold = Annotated[str, typer.Option("--fold", help="At a clock change: earlier or later.")]
Dry = Annotated[bool, typer.Option("--dry-run", help="Only show what would go and what blocks it.")]


def _when(at: str, zone: str, fold: str) -> dict[str, str] | None:
    if not at:
        return None
    offset = at.endswith("Z") or "+" in at[10:] or "-" in at[10:]
    return {"instant": at, "zone": zone} if offset else {"wall": at, "zone": zone, "fold": fold}


def _moves(
    hawthorn: Client, names: list[str], locale: str, verb: str, regress: bool = False
) -> list[dict[str, Any]]:
    found = [entry_named(hawthorn, name, locale) for name in names]
    return [{"id": e.id, "locale": e.locale, "verb": verb, "regress": regress} for e in found]


def _go(
    names: list[str],
    locale: str,
    verb: str,
    when: dict[str, str] | None,
    with_needs: bool,
    dry: bool,
    title: str,
    as_json: bool,
    regress: bool = False,
) -> None:
    with service() as hawthorn:
        moves = _moves(hawthorn, names, locale, verb, regress)
        if dry:
            outlook = hawthorn.check_dispatch(moves, when=when, with_needs=with_needs)
            if as_json:
                print_json(outlook)
            else:
                _outlook(outlook)
            if outlook.blocked:
                raise typer.Exit(EXIT["gate-unmet"])
            return
        made = hawthorn.dispatch(moves, when=when, with_needs=with_needs, name=title)
    _shown(made, as_json)


def _outlook(outlook: wire.release.Outlook) -> None:
    for line in drawing.moves(outlook.moves):
        out.print(line)
    for need in outlook.needs:
        out.print(f"  needs {escape(need.title)} ({need.type}), which --with-needs lets go along")
    for warning in outlook.warnings:
        out.print(f"  [yellow]note:[/yellow] {escape(warning)}")
    out.print("It is blocked." if outlook.blocked else "Nothing blocks it.")


def _shown(made: wire.release.Dispatch, as_json: bool) -> None:
    if as_json:
        print_json(made)
        return
    late = f", {made.late_by_seconds:.0f} s late" if made.late_by_seconds else ""
    out.print(f"[bold]{escape(made.name)}[/bold]  {made.state}, {drawing.when(made.instant)}{late}")
    for line in drawing.moves(made.moves):
        out.print(line)
    for held in made.held:
        for condition in held["unmet"]:
            out.print(f"  [red]held:[/red] {escape(held['title'])}: {escape(condition['what'])}")
    out.print(f"  [dim]{made.id}[/dim]")


def release(
    names: Names,
    locale: In = "",
    with_needs: WithNeeds = False,
    dry: Dry = False,
    back: Annotated[
        bool, typer.Option("--going-back", help="Going back behind what is out is meant.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Release entries now, all together or not at all."""
    _go(names, locale, "release", None, with_needs, dry, "", as_json, back)


def withdraw(
    names: Names,
    locale: In = "",
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    dry: Dry = False,
    as_json: Json = False,
) -> None:
    """Withdraw entries, now or as planned."""
    _go(names, locale, "withdraw", _when(at, zone, fold), False, dry, "", as_json)


def plan(
    names: Names,
    at: At,
    zone: Zone = "",
    fold: Fold = "",
    locale: In = "",
    with_needs: WithNeeds = False,
    name: Annotated[str, typer.Option(help="What to call it.")] = "",
    dry: Dry = False,
    as_json: Json = False,
) -> None:
    """Plan a release for an instant."""
    _go(names, locale, "release", _when(at, zone, fold), with_needs, dry, name, as_json)


def listing(
    everything: Annotated[bool, typer.Option("--all", help="Also those that have gone.")] = False,
    as_json: Json = False,
) -> None:
    """Dispatches in order of time."""
    with service() as hawthorn:
        found = hawthorn.dispatches().items
    found = [d for d in found if everything or d.state in ("planned", "held")]
    if as_json:
        print_json(found)
        return
    if not found:
        out.print("Nothing is planned. `hawthorn plan ENTRY --at TIME` plans a release.")
        return
    made = drawing.table("id", "when", "state", "name", "moves", "by")
    for d in found:
        made.add_row(
            d.short, drawing.when(d.instant), d.state, escape(d.name), str(len(d.moves)), escape(d.by)
        )
    out.print(made)


def _id(hawthorn: Client, name: str) -> str:
    found = [
        d for d in hawthorn.dispatches().items if means(name, d.id) or name.casefold() in d.name.casefold()
    ]
    if len(found) != 1:
        stop(f"“{name}” means {len(found)} dispatches.", "See `hawthorn dispatch list --all`.", "not-found")
    return found[0].id


def show(
    name: Annotated[str, typer.Argument(help="Its id, the end of it, or its name.")], as_json: Json = False
) -> None:
    """A dispatch with its moves and what would hold it."""
    with service() as hawthorn:
        _shown(hawthorn.dispatch_shown(_id(hawthorn, name)), as_json)


def call_off(
    name: Annotated[str, typer.Argument(help="Its id, the end of it, or its name.")], as_json: Json = False
) -> None:
    """Call a planned dispatch off."""
    with service() as hawthorn:
        _shown(hawthorn.call_off(_id(hawthorn, name)), as_json)


def replan(
    name: Annotated[str, typer.Argument(help="Its id, the end of it, or its name.")],
    at: At,
    zone: Zone = "",
    fold: Fold = "",
    as_json: Json = False,
) -> None:
    """Give a planned dispatch another time."""
    with service() as hawthorn:
        _shown(hawthorn.replan(_id(hawthorn, name), _when(at, zone, fold) or {}), as_json)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Going out"
    app.command(rich_help_panel=panel)(release)
    app.command(rich_help_panel=panel)(withdraw)
    app.command(rich_help_panel=panel)(plan)
    group = typer.Typer(help="What is planned, and what has gone.", no_args_is_help=True)
    for name, function in (("list", listing), ("show", show), ("call-off", call_off), ("replan", replan)):
        group.command(name)(function)
    app.add_typer(group, name="dispatch", rich_help_panel=panel)
