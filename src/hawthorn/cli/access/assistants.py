"""Assistants: the tools they use, for a person's own machine, and overseeing them."""

from __future__ import annotations

from typing import Annotated

import typer
from rich.markup import escape

from hawthorn.cli import drawing
from hawthorn.cli.context import Check, Json, address, instant, key, out, print_json, service, stop, tell

Handle = Annotated[
    str, typer.Argument(help="The assistant's handle, as `assistant list` shows it.", metavar="HANDLE")
]


def agent() -> None:
    """Give an assistant on this machine its tools, over standard input and output (Model Context Protocol).

    It acts with a key of its own: set HAWTHORN_URL and HAWTHORN_KEY.
    """
    with service() as hawthorn:
        me = hawthorn.me()
    if me.kind != "assistant":
        stop("cli.assistants.no_assistant", ends="refused", name=me.name)
    from hawthorn.agent import standing_by

    standing_by.serve(address(), key())


def list_assistants(as_json: Json = False) -> None:
    """The assistants there are, and what each did in the last hour."""
    with service() as hawthorn:
        found = hawthorn.assistants()
    if as_json:
        print_json(found)
        return
    if not found.items:
        tell("cli.assistants.none")
        return
    made = drawing.table("handle", "name", "roles", "last", "acts", "started", "paused")
    for one in found.items:
        last = drawing.when(one.last_at) if one.last_at else ""
        paused = f"{drawing.when(one.paused_at)} {one.paused_by}" if one.paused_at else ""
        made.add_row(
            one.handle,
            escape(one.name),
            ", ".join(one.roles),
            last,
            str(one.acts),
            str(one.started),
            escape(paused),
        )
    out.print(made)


def pause(
    handle: Handle, reason: Annotated[str, typer.Option(help="Why; the assistant is told, too.")] = ""
) -> None:
    """Pause an assistant: its key opens nothing until it is let go on.

    Example: hawthorn assistant pause assistant-1a2b3c4d --reason "It writes in the wrong section."
    """
    with service() as hawthorn:
        hawthorn.pause_assistant(handle, reason)
    tell("cli.assistants.paused", handle=handle)


def resume(handle: Handle) -> None:
    """Let a paused assistant go on.

    Example: hawthorn assistant resume assistant-1a2b3c4d
    """
    with service() as hawthorn:
        hawthorn.resume_assistant(handle)
    tell("cli.assistants.goes_on", handle=handle)


def undo(
    handle: Handle,
    since: Annotated[
        str, typer.Option(help="From when on: a day, 2027-03-31T09:00 or with an offset.", metavar="TIME")
    ],
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Undo what an assistant wrote from an instant on; what others wrote since is kept.

    Example: hawthorn assistant undo assistant-1a2b3c4d --since 2027-03-31T09:00 --check
    """
    at = instant(since)
    with service() as hawthorn:
        found = hawthorn.check_assistant_undo(handle, at) if check else hawthorn.undo_assistant(handle, at)
    if as_json:
        print_json(found)
        return
    if not found.items:
        tell("cli.assistants.nothing_since")
        return
    made = drawing.table("title", "locale", "strand", "outcome", "why")
    for one in found.items:
        made.add_row(escape(one.title), one.locale, escape(one.strand), one.outcome, escape(one.why))
    out.print(made)
    tell("cli.assistants.would" if check else "cli.assistants.undone", count=len(found.items))


def install(app: typer.Typer) -> None:
    """Add the commands."""
    app.command("agent")(agent)
    group = typer.Typer(
        help="Assistants: what they do, pausing one, undoing what one did.", no_args_is_help=True
    )
    group.command("list")(list_assistants)
    group.command("pause")(pause)
    group.command("resume")(resume)
    group.command("undo")(undo)
    app.add_typer(group, name="assistant")
