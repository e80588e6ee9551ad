"""One's own account, and who came in, from the command line."""

from __future__ import annotations

import getpass
from functools import partial
from typing import Annotated

import typer
from rich.markup import escape

from hawthorn.cli import drawing, sheets
from hawthorn.cli.context import (
    Json,
    Since,
    Until,
    keep_language,
    marked,
    out,
    plain,
    print_json,
    service,
    stop,
    tell,
)
from hawthorn.cli.context import language as spoken
from hawthorn.cli.sheets import Sheet
from hawthorn.client import every
from hawthorn.messages import LANGUAGES, speaking


def log_ins(
    person: Annotated[str, typer.Option(help="Of this person, or with this name that is nobody's.")] = "",
    what: Annotated[str, typer.Option(help="opened, refused, ended, or changed.")] = "",
    since: Since = "",
    until: Until = "",
    limit: Annotated[int, typer.Option(help="How many.")] = 30,
    sheet: Sheet = None,
    as_json: Json = False,
) -> None:
    """Who came in, from where and by which means, who was refused and why.

    Example: hawthorn log-ins --what refused --since 2027-01-01
    """
    with service() as hawthorn:
        asked = partial(hawthorn.log_ins, person=person, what=what, since=since, until=until)
        if sheet is not None:
            sheets.write(sheet, every(asked))
            return
        found = asked(limit=limit)
    if as_json:
        print_json(found)
        return
    made = drawing.table("when", "who", "what", "from", "means", "why")
    for one in found.items:
        who = f"{one.name} ({one.handle})" if one.name else one.handle
        means = drawing.word("means", one.by)
        made.add_row(drawing.when(one.at), escape(who), one.kind, one.source, means, escape(one.why))
    out.print(made)


def password() -> None:
    """Change your password; your other sessions end."""
    before = getpass.getpass(plain("cli.people.password_now"))
    after = getpass.getpass(plain("cli.people.new_password"))
    if getpass.getpass(plain("cli.shared.once_more")) != after:
        stop("cli.shared.not_the_same", ends="invalid")
    with service() as hawthorn:
        hawthorn.change_password(before, after)
    tell("cli.people.password_changed")


def language(
    chosen: Annotated[
        str,
        typer.Argument(
            help="The language, such as de; house for that of the house. Without one, yours is told.",
            metavar="LANGUAGE",
        ),
    ] = "",
) -> None:
    """The language in which you are spoken to: in the console, in mails, and on the command line while you are logged in.

    Example: hawthorn language de
    """
    with service() as hawthorn:
        mine = hawthorn.account()
        if chosen:
            mine = hawthorn.set_profile(mine.name, mine.zone, "" if chosen == "house" else chosen)
            keep_language(mine.language)
    with speaking(mine.language or spoken()):
        name = LANGUAGES.get(mine.language)
        known = [f"{tag} ({own})" for tag, own in LANGUAGES.items()]
        tell("cli.people.language" if name else "cli.people.language_of_house", name=name or "", known=known)


def sessions(
    end: Annotated[str, typer.Option(help="End the session with this id.")] = "",
    of: Annotated[str, typer.Option(help="Of somebody else, for whoever sets up people.")] = "",
    as_json: Json = False,
) -> None:
    """Where you are logged in.

    Example: hawthorn sessions --of wim
    """
    with service() as hawthorn:
        if end:
            hawthorn.end_session(end)
            tell("cli.people.ended")
            return
        found = hawthorn.sessions_of(of) if of else hawthorn.sessions()
    if as_json:
        print_json(found)
        return
    made = drawing.table("id", "with", "since", "seen", "")
    for one in found.items:
        made.add_row(
            one.id,
            escape(one.agent),
            drawing.when(one.since),
            drawing.when(one.seen_at),
            marked("cli.people.this_session") if one.this else "",
        )
    out.print(made)


def second_factor(
    end: Annotated[bool, typer.Option("--end", help="Turn it off.")] = False,
    of: Annotated[str, typer.Option(help="With --end: of somebody who lost theirs.")] = "",
) -> None:
    """Set up a code besides your password (TOTP, RFC 6238), or turn it off.

    Example: hawthorn second-factor --end
    """
    with service() as hawthorn:
        if end and of:
            hawthorn.end_factor_of(of)
        elif end:
            hawthorn.end_second_factor(getpass.getpass(plain("cli.shared.password")))
        if end:
            tell("cli.people.turned_off")
            return
        begun = hawthorn.begin_second_factor(getpass.getpass(plain("cli.shared.password")))
        tell("cli.people.enter_in_authenticator", secret=begun.secret, uri=begun.uri)
        spare = hawthorn.confirm_second_factor(getpass.getpass(plain("cli.people.code_shown"))).codes
    tell("cli.people.factor_is_on")
    for code in spare:
        out.print(f"  {code}")


def passkeys(
    end: Annotated[str, typer.Option(help="Remove the one with this id.")] = "",
    rename: Annotated[str, typer.Option(help="Call the one with this id otherwise; see --name.")] = "",
    name: Annotated[str, typer.Option(help="With --rename: what it is to be called.")] = "",
    as_json: Json = False,
) -> None:
    """Your passkeys. They are added in the console (My account), as a browser has to ask your device.

    Example: hawthorn passkeys --rename 01a1f5b2-4c1d-7a41-9d40-1de0b42efb6a --name "Old telephone"
    """
    with service() as hawthorn:
        if end:
            hawthorn.end_passkey(end, getpass.getpass(plain("cli.shared.password")))
            tell("cli.people.passkey_removed")
            return
        if rename:
            hawthorn.rename_passkey(rename, name)
        found = list(every(hawthorn.passkeys))
    if as_json:
        print_json(found)
        return
    if not found:
        tell("cli.people.no_passkeys")
        return
    made = drawing.table("id", "name", "since", "last_used")
    for one in found:
        used = drawing.when(one.used_at) if one.used_at else marked("cli.people.never")
        made.add_row(one.id, escape(one.name), drawing.when(one.since), used)
    out.print(made)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Set-up"
    app.command("password", rich_help_panel=panel)(password)
    app.command("language", rich_help_panel=panel)(language)
    app.command("log-ins", rich_help_panel=panel)(log_ins)
    app.command("sessions", rich_help_panel=panel)(sessions)
    app.command("second-factor", rich_help_panel=panel)(second_factor)
    app.command("passkeys", rich_help_panel=panel)(passkeys)
