"""Releasing, withdrawing and planning from the command line."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial as bound
from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import (
    EXIT,
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
from hawthorn.client import Client, every

Note = Annotated[str, typer.Option("--note", help="Why.")]
Names = Annotated[
    list[str],
    typer.Argument(help="Entries, each by address, id or title; all go together.", metavar="ENTRY…"),
]
WithNeeds = Annotated[bool, typer.Option("--with-needs", help="Let what they refer to go along.")]
Revision = Annotated[
    int | None, typer.Option("--revision", help="Exactly this revision; what is signed off when not given.")
]


Partial = Annotated[
    bool, typer.Option("--send-the-rest", help="Hold back what cannot go at its time, and let the rest go.")
]
Follow = Annotated[
    bool, typer.Option("--whatever-is-approved", help="Let what is approved at its time go, not what is now.")
]
Named = Annotated[
    str, typer.Argument(help="Its id, the start or end of it, or its name.", metavar="DISPATCH")
]
Owner = Annotated[str | None, typer.Option("--owner", help="Who answers for it, by handle.")]
Anytime = Annotated[
    str, typer.Option("--at", help="When; the time that it has when not given.", metavar="TIME")
]
Into = Annotated[list[str], typer.Argument(help="Entries, each by address, id or title.", metavar="ENTRY…")]


def planned(at: str, zone: str, fold: str) -> dict[str, str] | None:
    """What `--at`, `--zone` and `--fold` say, as the service takes it; nothing for now."""
    if not at:
        return None
    if len(at) == 10:
        at += "T00:00"
    offset = at.endswith("Z") or "+" in at[10:] or "-" in at[10:]
    return {"instant": at, "zone": zone} if offset else {"wall": at, "zone": zone, "fold": fold}


def moves(
    hawthorn: Client,
    names: list[str],
    locales: list[str] | None,
    verb: str,
    *,
    regress: bool = False,
    revision: int | None = None,
    follow: bool = False,
) -> list[dict[str, Any]]:
    """A move for each entry in each locale that is asked for."""
    out: list[dict[str, Any]] = []
    for name in names:
        entry = entry_named(hawthorn, name, "" if locales in (None, [], ["all"]) else (locales or [""])[0])
        wanted = locales or [entry.locale]
        if locales == ["all"]:
            wanted = [one.locale for one in entry.locales if one.exists]
        out += [{"id": entry.id, "locale": tag, "verb": verb, "regress": regress} for tag in wanted]
    for one in out if follow else ():
        one["follows"] = True
    if revision is not None:
        if len(out) != 1:
            stop("cli.dispatches.revision_is_of_one_entry")
        out[0]["revision"] = revision
    return out


def _go(
    names: list[str],
    locales: list[str] | None,
    verb: str,
    when: dict[str, str] | None = None,
    *,
    with_needs: bool = False,
    check: bool,
    title: str = "",
    note: str = "",
    as_json: bool,
    regress: bool = False,
    revision: int | None = None,
    partial: bool = False,
    follow: bool = False,
) -> None:
    with service() as hawthorn:
        asked = moves(hawthorn, names, locales, verb, regress=regress, revision=revision, follow=follow)
        if check:
            checked(hawthorn.check_dispatch(asked, when=when, with_needs=with_needs), as_json)
            return
        made = hawthorn.dispatch(
            asked, when=when, with_needs=with_needs, name=title, note=note, partial=partial
        )
    _shown(made, as_json)


def checked(found: wire.release.DispatchCheck, as_json: bool) -> None:
    """Print what a dispatch would do; ends with the exit code of what is in the way."""
    if as_json:
        print_json(found)
    else:
        _checked(found)
    if found.blocked:
        refused = any(u.code == "refused" for move in found.moves for u in move.unmet)
        raise typer.Exit(EXIT["refused" if refused else "gate-unmet"])


def _checked(found: wire.release.DispatchCheck) -> None:
    for line in dict.fromkeys(drawing.moves(found.moves)):
        out.print(line)
    for need in found.needs:
        tell("cli.dispatches.needs", title=need.title, type=need.type)
    for one in found.also:
        tell(
            "cli.dispatches.also",
            title=one.title,
            locale=one.locale,
            name=one.name,
            at=drawing.when(one.instant),
        )
    for warning in found.warnings:
        tell("cli.shared.note", warning=warning)
    if not found.moves:
        tell("cli.dispatches.nothing_could_go")
    else:
        tell("cli.dispatches.it_is_blocked" if found.blocked else "cli.dispatches.nothing_blocks_it")


def _shown(made: wire.release.Dispatch, as_json: bool) -> None:
    if as_json:
        print_json(made)
        return
    code = "cli.dispatches.dispatch_late" if made.late_by_seconds else "cli.dispatches.dispatch"
    late = round(made.late_by_seconds or 0)
    tell(code, name=made.name, state=made.state, at=drawing.when(made.instant), seconds=late)
    if made.note:
        tell("cli.dispatches.note", note=made.note)
    for line in drawing.moves(made.moves):
        out.print(line)
    for held in made.held:
        for condition in held["unmet"]:
            tell("cli.dispatches.held", title=held["title"], what=condition["what"])
    out.print(f"  [dim]{made.id}[/dim]")


def release(
    names: Names,
    locale: Locales = None,
    revision: Revision = None,
    with_needs: WithNeeds = False,
    check: Check = False,
    back: Annotated[
        bool, typer.Option("--going-back", help="Going back behind what is out is meant.")
    ] = False,
    note: Note = "",
    as_json: Json = False,
) -> None:
    """Release entries now, all together or not at all.

    Example: hawthorn release "Winter opening hours" --locale en --locale fr --check
    """
    _go(
        names,
        locale,
        "release",
        with_needs=with_needs,
        check=check,
        note=note,
        as_json=as_json,
        regress=back,
        revision=revision,
    )


def withdraw(
    names: Names,
    locale: Locales = None,
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    with_needs: WithNeeds = False,
    check: Check = False,
    note: Note = "",
    as_json: Json = False,
) -> None:
    """Withdraw entries, now or as planned.

    Example: hawthorn withdraw /en/visit/winter --at 2027-03-31T17:00 --zone Europe/London
    """
    when = planned(at, zone, fold)
    _go(names, locale, "withdraw", when, with_needs=with_needs, check=check, note=note, as_json=as_json)


def plan(
    names: Names,
    at: At,
    zone: Zone = "",
    fold: Fold = "",
    locale: Locales = None,
    revision: Revision = None,
    with_needs: WithNeeds = False,
    name: Annotated[str, typer.Option(help="What to call it.")] = "",
    note: Note = "",
    partial: Partial = False,
    follow: Follow = False,
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Plan a release for an instant.

    Example: hawthorn plan "Winter opening hours" "Christmas market" --at 2027-11-30T09:00 --name "Winter"
    """
    when = planned(at, zone, fold)
    _go(
        names,
        locale,
        "release",
        when,
        with_needs=with_needs,
        check=check,
        title=name,
        note=note,
        as_json=as_json,
        revision=revision,
        partial=partial,
        follow=follow,
    )


def listing(
    everything: Annotated[bool, typer.Option("--all", help="Also those that have gone.")] = False,
    as_json: Json = False,
) -> None:
    """Dispatches in order of time.

    Example: hawthorn dispatch list --all
    """
    with service() as hawthorn:
        found = _every(hawthorn)
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


def _every(hawthorn: Client) -> list[wire.release.Dispatch]:
    """All of them: those that have no time yet, then the others in order of time."""
    untimed = [d for d in every(bound(hawthorn.dispatches, state="open")) if d.instant is None]
    return [*untimed, *every(hawthorn.dispatches)]


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
        _shown(hawthorn.dispatch_shown(_id(hawthorn, name)), as_json)


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
    _shown(made, as_json)


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
        _shown(hawthorn.add_moves(id, asked, below=below), as_json)


def drop(name: Named, entries: Into, locale: Locales = None, as_json: Json = False) -> None:
    """Take entries out of an open dispatch, in some locales or in all.

    Example: hawthorn dispatch drop "Winter season" /en/visit
    """
    with service() as hawthorn:
        id = _id(hawthorn, name)
        tags = [""] if locale in (None, [], ["all"]) else locale or []
        named = [{"id": entry_named(hawthorn, e, "").id, "locale": tag} for e in entries for tag in tags]
        _shown(hawthorn.drop_moves(id, named), as_json)


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
        _shown(hawthorn.change_dispatch(id, name=title, note=note, owner=owner, partial=rest), as_json)


def check_one(
    name: Named,
    at: Anytime = "",
    zone: Zone = "",
    fold: Fold = "",
    with_needs: WithNeeds = False,
    as_json: Json = False,
) -> None:
    """What a dispatch that has not gone would do, and what is in its way.

    Example: hawthorn dispatch check "Winter season" --at 2027-11-30T09:00
    """
    with service() as hawthorn:
        when = planned(at, zone, fold)
        found = hawthorn.check_open_dispatch(_id(hawthorn, name), when=when, with_needs=with_needs)
    checked(found, as_json)


def plan_one(
    name: Named,
    at: Anytime = "",
    zone: Zone = "",
    fold: Fold = "",
    with_needs: WithNeeds = False,
    as_json: Json = False,
) -> None:
    """Plan an open dispatch.

    Example: hawthorn dispatch plan "Winter season" --at 2027-11-30T09:00 --zone Europe/London
    """
    with service() as hawthorn:
        when = planned(at, zone, fold)
        _shown(hawthorn.plan_dispatch(_id(hawthorn, name), when, with_needs=with_needs), as_json)


def send(name: Named, with_needs: WithNeeds = False, as_json: Json = False) -> None:
    """Let a dispatch go now: one that is open, planned for later, or was held and is clear by now.

    Example: hawthorn dispatch send "Winter season"
    """
    with service() as hawthorn:
        _shown(hawthorn.send_dispatch(_id(hawthorn, name), with_needs=with_needs), as_json)


def reopen(name: Named, as_json: Json = False) -> None:
    """Open a dispatch again that has not gone, to put in or take out.

    Example: hawthorn dispatch reopen "Winter season"
    """
    with service() as hawthorn:
        _shown(hawthorn.reopen_dispatch(_id(hawthorn, name)), as_json)


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
        _shown(hawthorn.undo_dispatch(id, take_changed=take_changed, note=note), as_json)


def cancel(name: Named, as_json: Json = False) -> None:
    """Cancel a dispatch that has not gone: nothing of it goes out.

    Example: hawthorn dispatch cancel "Regatta day"
    """
    with service() as hawthorn:
        _shown(hawthorn.cancel_dispatch(_id(hawthorn, name)), as_json)


def replan(name: Named, at: At, zone: Zone = "", fold: Fold = "", as_json: Json = False) -> None:
    """Give a dispatch that was planned another time; one that was held goes then if nothing is in its way.

    Example: hawthorn dispatch replan "Regatta day" --at 2027-06-01T09:00 --zone Europe/London
    """
    with service() as hawthorn:
        _shown(hawthorn.replan(_id(hawthorn, name), planned(at, zone, fold) or {}), as_json)


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
    panel = "Going out"
    app.command(rich_help_panel=panel)(release)
    app.command(rich_help_panel=panel)(withdraw)
    app.command(rich_help_panel=panel)(plan)
    group = typer.Typer(
        help="What goes out together: put together, planned, sent, undone.", no_args_is_help=True
    )
    for name, function in COMMANDS.items():
        group.command(name)(function)
    app.add_typer(group, name="dispatch", rich_help_panel=panel)
