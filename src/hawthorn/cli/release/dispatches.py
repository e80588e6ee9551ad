"""Dispatches from the command line: put together, planned, sent, undone."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn.cli import drawing, sheets
from hawthorn.cli.content.entries import Set, values
from hawthorn.cli.context import (
    At,
    Check,
    Fold,
    Json,
    Locale,
    Locales,
    Zone,
    entry_named,
    out,
    print_json,
    service,
    tell,
)
from hawthorn.cli.release import commenting
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
from hawthorn.cli.release.named import Named, dispatch_named, every_dispatch
from hawthorn.cli.sheets import Sheet

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
    sheet: Sheet = None,
    as_json: Json = False,
) -> None:
    """Dispatches in order of time.

    Example: hawthorn dispatch list --all --locale fr
    """
    with service() as hawthorn:
        found = every_dispatch(hawthorn, person=person, type=type, locale=locale)
    found = [d for d in found if everything or d.state not in ("gone", "undone", "cancelled")]
    if sheet is not None:
        sheets.write(sheet, found)
        return
    if as_json:
        print_json(found)
        return
    if not found:
        tell("cli.dispatches.nothing_is_planned")
        return
    made = drawing.table("id", "when", "state", "name", "moves", "of")
    for d in found:
        state = drawing.word("dispatch", d.state)
        made.add_row(
            d.short,
            drawing.when(d.instant),
            state,
            escape(d.name),
            str(d.count),
            escape(d.owner_name),
        )
    out.print(made)


def show(name: Named, as_json: Json = False) -> None:
    """A dispatch with its moves and what would hold it.

    Example: hawthorn dispatch show "Regatta day"
    """
    with service() as hawthorn:
        shown(hawthorn.dispatch_shown(dispatch_named(hawthorn, name)), as_json)


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
    verb: Annotated[
        str, typer.Option("--do", help="release, withdraw, advance, archive, remove or set.")
    ] = "release",
    to: Annotated[str, typer.Option("--to", help="With --do advance: the stage, by name.")] = "",
    given: Set = None,
    revision: Revision = None,
    follow: Follow = False,
    below: Annotated[bool, typer.Option("--below", help="With all that lies below them.")] = False,
    as_json: Json = False,
) -> None:
    """Put entries into an open dispatch.

    Example: hawthorn dispatch add "Winter season" "Winter opening hours" /en/visit --locale all --below
    """
    with service() as hawthorn:
        id = dispatch_named(hawthorn, name)
        payload: dict[str, Any] = {"stage": to} if to else {}
        if given:
            type = entry_named(hawthorn, entries[0], "").type
            payload["fields"] = values(hawthorn, type, given)
        asked = moves(hawthorn, entries, locale, verb, revision=revision, follow=follow, payload=payload)
        shown(hawthorn.add_moves(id, asked, below=below), as_json)


def write(
    name: Named,
    entry: Annotated[str, typer.Argument(help="The entry, by address, id or title.", metavar="ENTRY")],
    given: Set = None,
    locale: Locale = "",
    note: Note = "",
    as_json: Json = False,
) -> None:
    """Write an entry inside an open dispatch: on a strand of its own that goes out with it and is seen by nobody before.

    Example: hawthorn dispatch write "Winter season" /en/visit --set title="Visit us in winter"
    """
    with service() as hawthorn:
        id = dispatch_named(hawthorn, name)
        found = entry_named(hawthorn, entry, locale)
        made = hawthorn.write_inside(id, found.id, found.locale)
        if given:
            fields = values(hawthorn, made.type, given)
            made = hawthorn.save(
                made.id, made.locale, fields, etag=made.etag, note=note, strand=made.strand
            ).entry
    if as_json:
        print_json(made)
        return
    tell("cli.dispatches.written", title=made.title, locale=made.locale, strand=made.strand)


def submit(name: Named, note: Note = "", as_json: Json = False) -> None:
    """Submit a dispatch for review, as one.

    Example: hawthorn dispatch submit "Winter season" --note "All that changes in December."
    """
    with service() as hawthorn:
        shown(hawthorn.submit_dispatch(dispatch_named(hawthorn, name), note), as_json)


def take_back(name: Named, as_json: Json = False) -> None:
    """Take a dispatch back from review before it is decided.

    Example: hawthorn dispatch take-back "Winter season"
    """
    with service() as hawthorn:
        shown(hawthorn.take_dispatch_back(dispatch_named(hawthorn, name)), as_json)


def sign(
    name: Named,
    only: Annotated[
        list[str] | None, typer.Option("--only", help="Only this entry; may be given again.", metavar="ENTRY")
    ] = None,
    note: Note = "",
    as_json: Json = False,
) -> None:
    """Sign off what a dispatch brings, each entry in exactly the revision that it has now.

    Example: hawthorn dispatch sign "Winter season" --only /en/visit
    """
    with service() as hawthorn:
        id = dispatch_named(hawthorn, name)
        named = [{"id": entry_named(hawthorn, one, "").id, "locale": ""} for one in only or []]
        shown(hawthorn.sign_dispatch(id, named, note), as_json)


def send_back(
    name: Named,
    reason: Annotated[str, typer.Option("--reason", help="Why; whoever submitted it reads it.")],
    as_json: Json = False,
) -> None:
    """Send a dispatch back from review with a reason.

    Example: hawthorn dispatch send-back "Winter season" --reason "The closing hour is that of last year."
    """
    with service() as hawthorn:
        shown(hawthorn.send_dispatch_back(dispatch_named(hawthorn, name), reason), as_json)


def drop(name: Named, entries: Into, locale: Locales = None, as_json: Json = False) -> None:
    """Take entries out of an open dispatch, in some locales or in all.

    Example: hawthorn dispatch drop "Winter season" /en/visit
    """
    with service() as hawthorn:
        id = dispatch_named(hawthorn, name)
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
        id = dispatch_named(hawthorn, name)
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
            dispatch_named(hawthorn, name), when=when, with_needs=with_needs, override_quiet=override_quiet
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
                dispatch_named(hawthorn, name), when, with_needs=with_needs, override_quiet=override_quiet
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
            hawthorn.send_dispatch(
                dispatch_named(hawthorn, name), with_needs=with_needs, override_quiet=override_quiet
            ),
            as_json,
        )


def reopen(name: Named, as_json: Json = False) -> None:
    """Open a dispatch again that has not gone, to put in or take out.

    Example: hawthorn dispatch reopen "Winter season"
    """
    with service() as hawthorn:
        shown(hawthorn.reopen_dispatch(dispatch_named(hawthorn, name)), as_json)


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
        id = dispatch_named(hawthorn, name)
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
        shown(hawthorn.cancel_dispatch(dispatch_named(hawthorn, name)), as_json)


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
        shown(hawthorn.replan(dispatch_named(hawthorn, name), when, override_quiet=override_quiet), as_json)


COMMANDS: dict[str, Callable[..., None]] = {
    "list": listing,
    "show": show,
    "start": start,
    "add": add,
    "write": write,
    "drop": drop,
    "change": change,
    "check": check_one,
    "submit": submit,
    "take-back": take_back,
    "sign": sign,
    "send-back": send_back,
    "plan": plan_one,
    "send": send,
    "reopen": reopen,
    "replan": replan,
    "cancel": cancel,
    "undo": undo,
    "comments": commenting.comments,
    "comment": commenting.comment,
    "reply": commenting.reply,
    "resolve": commenting.settle,
}


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(
        help="What goes out together: put together, planned, sent, undone.", no_args_is_help=True
    )
    for name, function in COMMANDS.items():
        group.command(name)(function)
    app.add_typer(group, name="dispatch", rich_help_panel="Going out")
