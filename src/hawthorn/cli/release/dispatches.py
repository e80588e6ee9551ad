"""Dispatches from the command line: put together, planned, sent, undone."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial as bound
from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import (
    At,
    Check,
    Fold,
    Json,
    Locales,
    Zone,
    entry_named,
    means,
    out,
    print_json,
    service,
    stop,
    tell,
)
from hawthorn.cli.release.going_out import (
    Follow,
    Note,
    OverrideQuiet,
    Partial,
    Revision,
    WithNeeds,
    checked,
    moves,
    planned,
    shown,
)
from hawthorn.client import Client, every

Named = Annotated[
    str, typer.Argument(help="Its id, the start or end of it, or its name.", metavar="DISPATCH")
]
Owner = Annotated[str | None, typer.Option("--owner", help="Who answers for it, by handle.")]
Anytime = Annotated[
    str, typer.Option("--at", help="When; the time that it has when not given.", metavar="TIME")
]
Into = Annotated[list[str], typer.Argument(help="Entries, each by address, id or title.", metavar="ENTRY…")]


def listing(
    everything: Annotated[bool, typer.Option("--all", help="Also those that have gone.")] = False,
    person: Annotated[str, typer.Option("--person", help="Only what this person answers for.")] = "",
    type: Annotated[str, typer.Option("--type", help="Only what moves entries of this type.")] = "",
    locale: Annotated[str, typer.Option("--locale", help="Only what moves this locale.")] = "",
    as_json: Json = False,
) -> None:
    """Dispatches in order of time.

    Example: hawthorn dispatch list --all --locale fr
    """
    with service() as hawthorn:
        found = _every(hawthorn, person=person, type=type, locale=locale)
    found = [d for d in found if everything or d.state not in ("gone", "undone", "cancelled")]
    if as_json:
        print_json(found)
        return
    if not found:
        tell("cli.dispatches.nothing_is_planned")
        return
    made = drawing.table("id", "when", "state", "name", "moves", "of")
    for d in found:
        made.add_row(
            d.short, drawing.when(d.instant), d.state, escape(d.name), str(d.count), escape(d.owner_name)
        )
    out.print(made)


def _every(hawthorn: Client, **about: Any) -> list[wire.release.Dispatch]:
    """All of them, or those about something: those that have no time yet, then the others in order of time."""
    untimed = [d for d in every(bound(hawthorn.dispatches, state="open", **about)) if d.instant is None]
    return [*untimed, *every(bound(hawthorn.dispatches, **about))]


def _id(hawthorn: Client, name: str) -> str:
    there = _every(hawthorn)
    found = [d for d in there if means(name, d.id) or d.name.casefold() == name.casefold()]
    found = found or [d for d in there if name.casefold() in d.name.casefold()]
    if len(found) > 1:
        # What has gone gives way to what is still to come of the same name.
        found = [d for d in found if d.acts and d.state != "gone"] or found
    if len(found) != 1:
        stop("cli.dispatches.means", ends="not-found", name=name, count=len(found))
    return found[0].id


def show(name: Named, as_json: Json = False) -> None:
    """A dispatch with its moves and what would hold it.

    Example: hawthorn dispatch show "Regatta day"
    """
    with service() as hawthorn:
        shown(hawthorn.dispatch_shown(_id(hawthorn, name)), as_json)


def start(
    name: Annotated[str, typer.Argument(help="What to call it.")],
    note: Note = "",
    owner: Owner = None,
    partial: Partial = False,
    as_json: Json = False,
) -> None:
    """Start a dispatch that is put together over time; nothing of it goes until it is planned or sent.

    Example: hawthorn dispatch start "Winter season" --note "All that changes in December."
    """
    with service() as hawthorn:
        made = hawthorn.dispatch([], name=name, note=note, owner=owner or "", partial=partial, open=True)
    shown(made, as_json)


def add(
    name: Named,
    entries: Into,
    locale: Locales = None,
    verb: Annotated[str, typer.Option("--do", help="release, withdraw or remove.")] = "release",
    revision: Revision = None,
    follow: Follow = False,
    below: Annotated[bool, typer.Option("--below", help="With all that lies below them.")] = False,
    as_json: Json = False,
) -> None:
    """Put entries into an open dispatch.

    Example: hawthorn dispatch add "Winter season" "Winter opening hours" /en/visit --locale all --below
    """
    with service() as hawthorn:
        id = _id(hawthorn, name)
        asked = moves(hawthorn, entries, locale, verb, revision=revision, follow=follow)
        shown(hawthorn.add_moves(id, asked, below=below), as_json)


def drop(name: Named, entries: Into, locale: Locales = None, as_json: Json = False) -> None:
    """Take entries out of an open dispatch, in some locales or in all.

    Example: hawthorn dispatch drop "Winter season" /en/visit
    """
    with service() as hawthorn:
        id = _id(hawthorn, name)
        tags = [""] if locale in (None, [], ["all"]) else locale or []
        named = [{"id": entry_named(hawthorn, e, "").id, "locale": tag} for e in entries for tag in tags]
        shown(hawthorn.drop_moves(id, named), as_json)


def change(
    name: Named,
    title: Annotated[str | None, typer.Option("--name", help="What to call it.")] = None,
    note: Annotated[str | None, typer.Option("--note", help="Why.")] = None,
    owner: Owner = None,
    rest: Annotated[
        bool | None,
        typer.Option("--send-the-rest/--all-or-none", help="Whether what cannot go holds back the rest."),
    ] = None,
    as_json: Json = False,
) -> None:
    """Call a dispatch something else, or give it to somebody.

    Example: hawthorn dispatch change "Winter season" --owner oda --send-the-rest
    """
    with service() as hawthorn:
        id = _id(hawthorn, name)
        shown(hawthorn.change_dispatch(id, name=title, note=note, owner=owner, partial=rest), as_json)


def check_one(
    name: Named,
    at: Anytime = "",
    zone: Zone = "",
    fold: Fold = "",
    with_needs: WithNeeds = False,
    override_quiet: OverrideQuiet = False,
    as_json: Json = False,
) -> None:
    """What a dispatch that has not gone would do, and what is in its way.

    Example: hawthorn dispatch check "Winter season" --at 2027-11-30T09:00
    """
    with service() as hawthorn:
        when = planned(at, zone, fold)
        found = hawthorn.check_open_dispatch(
            _id(hawthorn, name), when=when, with_needs=with_needs, override_quiet=override_quiet
        )
    checked(found, as_json)


def plan_one(
    name: Named,
    at: Anytime = "",
    zone: Zone = "",
    fold: Fold = "",
    with_needs: WithNeeds = False,
    override_quiet: OverrideQuiet = False,
    as_json: Json = False,
) -> None:
    """Plan an open dispatch.

    Example: hawthorn dispatch plan "Winter season" --at 2027-11-30T09:00 --zone Europe/London
    """
    with service() as hawthorn:
        when = planned(at, zone, fold)
        shown(
            hawthorn.plan_dispatch(
                _id(hawthorn, name), when, with_needs=with_needs, override_quiet=override_quiet
            ),
            as_json,
        )


def send(
    name: Named, with_needs: WithNeeds = False, override_quiet: OverrideQuiet = False, as_json: Json = False
) -> None:
    """Let a dispatch go now: one that is open, planned for later, or was held and is clear by now.

    Example: hawthorn dispatch send "Winter season"
    """
    with service() as hawthorn:
        shown(
            hawthorn.send_dispatch(_id(hawthorn, name), with_needs=with_needs, override_quiet=override_quiet),
            as_json,
        )


def reopen(name: Named, as_json: Json = False) -> None:
    """Open a dispatch again that has not gone, to put in or take out.

    Example: hawthorn dispatch reopen "Winter season"
    """
    with service() as hawthorn:
        shown(hawthorn.reopen_dispatch(_id(hawthorn, name)), as_json)


def undo(
    name: Named,
    take_changed: Annotated[
        bool, typer.Option("--take-changed", help="Also take back what changed since; it is left otherwise.")
    ] = False,
    note: Note = "",
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Undo a dispatch that went, as a whole; the undoing can be undone in turn.

    Example: hawthorn dispatch undo "Winter season" --check
    """
    with service() as hawthorn:
        id = _id(hawthorn, name)
        if check:
            found = hawthorn.check_undo(id, take_changed=take_changed)
            for line in drawing.moves(found.changed) if not as_json else ():
                tell("cli.dispatches.changed_since", line=line)
            checked(found, as_json)
            return
        shown(hawthorn.undo_dispatch(id, take_changed=take_changed, note=note), as_json)


def cancel(name: Named, as_json: Json = False) -> None:
    """Cancel a dispatch that has not gone: nothing of it goes out.

    Example: hawthorn dispatch cancel "Regatta day"
    """
    with service() as hawthorn:
        shown(hawthorn.cancel_dispatch(_id(hawthorn, name)), as_json)


def replan(
    name: Named,
    at: At,
    zone: Zone = "",
    fold: Fold = "",
    override_quiet: OverrideQuiet = False,
    as_json: Json = False,
) -> None:
    """Give a dispatch that was planned another time; one that was held goes then if nothing is in its way.

    Example: hawthorn dispatch replan "Regatta day" --at 2027-06-01T09:00 --zone Europe/London
    """
    with service() as hawthorn:
        when = planned(at, zone, fold) or {}
        shown(hawthorn.replan(_id(hawthorn, name), when, override_quiet=override_quiet), as_json)


COMMANDS: dict[str, Callable[..., None]] = {
    "list": listing,
    "show": show,
    "start": start,
    "add": add,
    "drop": drop,
    "change": change,
    "check": check_one,
    "plan": plan_one,
    "send": send,
    "reopen": reopen,
    "replan": replan,
    "cancel": cancel,
    "undo": undo,
}


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(
        help="What goes out together: put together, planned, sent, undone.", no_args_is_help=True
    )
    for name, function in COMMANDS.items():
        group.command(name)(function)
    app.add_typer(group, name="dispatch", rich_help_panel="Going out")
