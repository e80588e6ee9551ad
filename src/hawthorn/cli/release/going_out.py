"""Releasing, withdrawing and planning from the command line."""

from __future__ import annotations

from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.content.entries import values
from hawthorn.cli.context import (
    EXIT,
    At,
    Check,
    Fold,
    Json,
    Locales,
    Zone,
    entry_named,
    out,
    print_json,
    service,
    stop,
    tell,
)
from hawthorn.client import Client
from hawthorn.core.messages import said

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
OverrideQuiet = Annotated[
    bool,
    typer.Option("--override-quiet", help="Also in a quiet period, for who holds the grant override-quiet."),
]


def planned(at: str, zone: str, fold: str) -> dict[str, str] | None:
    """What `--at`, `--zone` and `--fold` say, as the service takes it; nothing for now."""
    if not at:
        return None
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
    payload: dict[str, Any] | None = None,
) -> list[dict[str, Any]]:
    """A move for each entry in each locale that is asked for."""
    out: list[dict[str, Any]] = []
    for name in names:
        entry = entry_named(hawthorn, name, "" if locales in (None, [], ["all"]) else (locales or [""])[0])
        wanted = locales or [entry.locale]
        if locales == ["all"]:
            wanted = [one.locale for one in entry.locales if one.exists]
        about = {"verb": verb, "regress": regress, "payload": payload or {}}
        out += [{"id": entry.id, "locale": tag, **about} for tag in wanted]
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
    override_quiet: bool = False,
    until: dict[str, str] | None = None,
    payload: dict[str, Any] | None = None,
) -> None:
    with service() as hawthorn:
        asked = moves(
            hawthorn,
            names,
            locales,
            verb,
            regress=regress,
            revision=revision,
            follow=follow,
            payload=payload,
        )
        if check:
            found = hawthorn.check_dispatch(
                asked, when=when, with_needs=with_needs, override_quiet=override_quiet
            )
            checked(found, as_json)
            return
        made = hawthorn.dispatch(
            asked,
            when=when,
            with_needs=with_needs,
            name=title,
            note=note,
            partial=partial,
            override_quiet=override_quiet,
            until=until,
        )
    shown(made, as_json)


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
    for offer in found.offers:
        tell(f"cli.dispatches.could_go_{offer.why}", title=offer.title, locale=offer.locale)
    for page in found.pages:
        tell("cli.dispatches.changes_too", title=page.title, locale=page.locale, shows=page.shows)
    if found.pages_total > len(found.pages):
        tell("cli.dispatches.changes_more", count=found.pages_total - len(found.pages))
    for warning in found.warnings:
        tell("cli.shared.note", warning=warning)
    if not found.moves:
        tell("cli.dispatches.nothing_could_go")
    else:
        blocked = "cli.dispatches.rest_goes" if found.rest_goes else "cli.dispatches.it_is_blocked"
        tell(blocked if found.blocked else "cli.dispatches.nothing_blocks_it")


def shown(made: wire.release.Dispatch, as_json: bool) -> None:
    if as_json:
        print_json(made)
        return
    late = round(made.late_by_seconds) if made.state in ("gone", "undone") else 0
    about = {
        "name": made.name,
        "state": drawing.word("dispatch", made.state),
        "at": drawing.when(made.instant),
    }
    if late:
        tell(
            "cli.dispatches.dispatch_late" if late >= 60 else "cli.dispatches.dispatch_just_late",
            seconds=late,
            **about,
        )
    else:
        tell("cli.dispatches.dispatch", **about)
    if made.note:
        tell("cli.dispatches.note", note=made.note)
    if made.undoes:
        tell("cli.dispatches.undoes", id=made.undoes)
    if made.undone_by:
        tell("cli.dispatches.undone_by", id=made.undone_by)
    if made.held_back_from:
        tell("cli.dispatches.held_back_from", id=made.held_back_from)
    if made.held_back:
        tell("cli.dispatches.held_back", id=made.held_back)
    if made.review is not None:
        one = made.review
        why = said("cli.dispatches.because", text=one.reason or one.note)
        tell(
            "cli.dispatches.review",
            outcome=one.outcome,
            by=one.decided_by or one.by,
            at=drawing.when(one.decided_at or one.at),
            why=why if one.reason or one.note else "",
        )
    for line in drawing.moves(made.moves, still_open=made.state == "open"):
        out.print(line)
    for held in made.held:
        for condition in held.unmet:
            said_of = {"title": held.title, "what": condition.what}
            if held.locale:
                tell("cli.dispatches.held_in", where=drawing.place(held.locale), **said_of)
            else:
                tell("cli.dispatches.held", **said_of)
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
    override_quiet: OverrideQuiet = False,
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
        override_quiet=override_quiet,
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
    until: Annotated[str, typer.Option("--until", help="When it is withdrawn again.", metavar="TIME")] = "",
    override_quiet: OverrideQuiet = False,
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
        override_quiet=override_quiet,
        until=planned(until, zone, ""),
    )


def advance(
    names: Names,
    to: Annotated[str, typer.Option("--to", help="The stage, by name.")],
    locale: Locales = None,
    revision: Revision = None,
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    check: Check = False,
    note: Note = "",
    as_json: Json = False,
) -> None:
    """Advance entries to a stage before release, now or as planned; they wait there for who decides.

    Example: hawthorn advance "Winter opening hours" --to review --at 2027-11-15T09:00
    """
    when, payload = planned(at, zone, fold), {"stage": to}
    _go(
        names,
        locale,
        "advance",
        when,
        check=check,
        note=note,
        as_json=as_json,
        revision=revision,
        payload=payload,
    )


def archive(
    names: Names,
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    check: Check = False,
    note: Note = "",
    as_json: Json = False,
) -> None:
    """Put entries into the archive, now or as planned: out no longer, found with --archived, brought back as drafts.

    Example: hawthorn archive "Summer fair 2026" --at 2027-09-30
    """
    when = planned(at, zone, fold)
    _go(names, None, "archive", when, check=check, note=note, as_json=as_json)


def set_fields(
    name: Annotated[str, typer.Argument(help="The entry, by address, id or title.", metavar="ENTRY")],
    given: Annotated[
        list[str],
        typer.Option(
            "--set",
            metavar="FIELD=VALUE",
            help="A field's value, empty for none; @file reads it from a file, JSON is taken as such.",
        ),
    ],
    locale: Locales = None,
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    check: Check = False,
    note: Note = "",
    as_json: Json = False,
) -> None:
    """Give fields other values where readers see them, now or as planned; the draft gets them then.

    Example: hawthorn set "Winter opening hours" --set closes=17:00 --at 2027-12-24
    """
    when = planned(at, zone, fold)
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, "")
        payload = {"fields": values(hawthorn, entry.type, given)}
    _go([entry.id], locale, "set", when, check=check, note=note, as_json=as_json, payload=payload)


def spread(
    names: Names,
    begins: Annotated[
        str, typer.Option("--from", help="The first time: a day, or a day and an hour.", metavar="TIME")
    ],
    every: Annotated[
        str, typer.Option("--every", help="How it comes again: a rule of RFC 5545.", metavar="RULE")
    ] = "FREQ=DAILY",
    skip: Annotated[list[str] | None, typer.Option("--skip", help="A day that is left out.")] = None,
    zone: Zone = "",
    fold: Fold = "",
    locale: Locales = None,
    name: Annotated[str, typer.Option(help="What to call them.")] = "",
    note: Note = "",
    override_quiet: OverrideQuiet = False,
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Plan releases one after another, an entry at a time.

    Example: hawthorn spread "Door one" "Door two" "Door three" --from 2026-12-01T09:00 --skip 2026-12-06 --check
    """
    wanted = {"zone": zone, "rule": every, "skip": skip or [], "fold": fold}
    with service() as hawthorn:
        asked = moves(hawthorn, names, locale, "release")
        if check:
            found = hawthorn.check_spread(asked, begins, wanted)
            if as_json:
                print_json(found)
            for step in () if as_json else found.steps:
                tell("cli.dispatches.step", at=drawing.when(step.instant))
                for line in drawing.moves(step.moves):
                    out.print(line)
            if found.blocked:
                raise typer.Exit(EXIT["gate-unmet"])
            return
        more = {"name": name, "note": note, "override_quiet": override_quiet}
        made = hawthorn.spread(asked, begins, wanted | more)
    if as_json:
        print_json(made)
        return
    for one in made.items:
        shown(one, False)


def differences(
    since: Annotated[
        str, typer.Option("--since", help="The first instant or day; now when not given.", metavar="TIME")
    ] = "",
    until: Annotated[
        str, typer.Option("--until", help="The second; a week later when not given.", metavar="TIME")
    ] = "",
    as_json: Json = False,
) -> None:
    """What readers see differently at two instants, of the past or planned.

    Example: hawthorn differences --until 2027-03-31
    """
    with service() as hawthorn:
        page = hawthorn.differences(since, until, limit=200)
    if as_json:
        print_json(page)
        return
    if not page.items:
        tell("cli.dispatches.no_differences")
        return
    made = drawing.table("what", "title", "in", "revision", "address")
    for one in page.items:
        numbers = " → ".join(str(n) if n else "–" for n in (one.before, one.after))
        made.add_row(
            one.how, escape(one.title), one.locale, numbers, escape(one.path_after or one.path_before)
        )
    out.print(made)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    for command in (release, withdraw, plan, advance, archive, spread, differences):
        app.command(rich_help_panel="Going out")(command)
    app.command("set", rich_help_panel="Going out")(set_fields)
