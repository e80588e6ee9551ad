"""Review from the command line."""

from __future__ import annotations

from typing import Annotated

import typer
from rich.markup import escape

from hawthorn.cli import drawing
from hawthorn.cli.content.entries import shown
from hawthorn.cli.context import Json, Locale, Named, entry_named, out, print_json, service, stop

Note = Annotated[str, typer.Option(help="A note to go with it.")]


def my_work(as_json: Json = False) -> None:
    """What waits for you, what is yours, what you wait for, and what goes out next."""
    with service() as hawthorn:
        found = hawthorn.my_work()
    if as_json:
        print_json(found)
        return
    out.print("[bold]Waiting for you[/bold]")
    for item in found.waiting:
        note = f": {escape(item.note)}" if item.note else ""
        what = {
            "review": "to review",
            "ready": "to release",
            "translation": "to accept",
            "named": "to answer",
        }.get(item.kind, item.kind)
        out.print(
            f"  {what}  [bold]{escape(item.title)}[/bold] ({item.locale}{f', revision {item.revision}' if item.revision else ''}) from {escape(item.by)}{note}  [dim]{item.short}[/dim]"
        )
    if not found.waiting:
        out.print("  Nothing. Enjoy the view over the harbour.")
    for heading, items in (
        ("Assigned to you", found.assigned_to_you),
        ("Assigned to others", found.assigned_to_others),
    ):
        if items:
            out.print(f"[bold]{heading}[/bold]")
        for item in items:
            whose = (
                f", with {escape(', '.join(item.who))}"
                if heading != "Assigned to you"
                else f" from {escape(item.by)}"
            )
            state = {"late": " [yellow]late[/yellow]", "due": " due"}.get(item.state, "")
            due = f", by {item.due}{state}" if item.due else ""
            out.print(
                f"  [bold]{escape(item.title)}[/bold] ({item.locale}){whose}{due}  [dim]{item.short}[/dim]"
            )
    out.print("[bold]Yours[/bold]")
    out.print(
        drawing.entries(found.yours)
        if found.yours
        else "  Nothing yet. `hawthorn entry start TYPE` begins an entry."
    )
    if found.you_wait_for:
        out.print("[bold]You wait for[/bold]")
    for item in found.you_wait_for:
        out.print(
            f"  {escape(item.title)} ({item.locale}): {escape(', '.join(item.who) or 'nobody')}, since {drawing.when(item.at)}"
        )
    if found.next_out:
        out.print("[bold]Next out[/bold]")
    for planned in found.next_out:
        out.print(f"  {drawing.when(planned.instant)}  {escape(planned.name)}")


def submit(name: Named, locale: Locale = "", note: Note = "", as_json: Json = False) -> None:
    """Submit a draft for review.

    Example: hawthorn submit "Winter opening hours" --note "Ready for Tomas."
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        shown(hawthorn.submit(entry.id, entry.locale, note), as_json)


def take_back(name: Named, locale: Locale = "", as_json: Json = False) -> None:
    """Take a submission back before it is decided.

    Example: hawthorn take-back "Winter opening hours"
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        shown(hawthorn.take_back(entry.id, entry.locale), as_json)


def sign(
    name: Named,
    revision: Annotated[
        int | None, typer.Option(help="The revision that you looked at; what is in review when not given.")
    ] = None,
    locale: Locale = "",
    note: Note = "",
    as_json: Json = False,
) -> None:
    """Sign off exactly the revision that is in review.

    Example: hawthorn sign "Winter opening hours" --revision 4
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        if entry.review is None:
            stop("Nothing of it waits for a decision.", "It has to be submitted first.")
        shown(hawthorn.sign_off(entry.id, entry.locale, revision or entry.review.revision, note), as_json)


def send_back(
    name: Named,
    reason: Annotated[str, typer.Option(help="Why; the writer sees it.")],
    locale: Locale = "",
    as_json: Json = False,
) -> None:
    """Send a submission back with a reason.

    Example: hawthorn send-back "Winter opening hours" --reason "The day is wrong."
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        shown(hawthorn.send_back(entry.id, entry.locale, reason), as_json)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Review"
    app.command("my-work", rich_help_panel=panel)(my_work)
    app.command(rich_help_panel=panel)(submit)
    app.command("take-back", rich_help_panel=panel)(take_back)
    app.command(rich_help_panel=panel)(sign)
    app.command("send-back", rich_help_panel=panel)(send_back)
