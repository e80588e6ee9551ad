"""Logging in, keys, permission, types and the event log."""

from __future__ import annotations

import getpass
import json
import os
from functools import partial
from pathlib import Path
from typing import Annotated, Any
from urllib.parse import parse_qsl, urlsplit

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing, sheets
from hawthorn.cli.context import (
    EXIT,
    Check,
    Json,
    Since,
    Until,
    instant,
    keep_session,
    marked,
    or_none,
    out,
    plain,
    print_json,
    resolve,
    service,
    session_file,
    stop,
    tell,
)
from hawthorn.cli.release.named import dispatch_named
from hawthorn.cli.sheets import Sheet
from hawthorn.client import Refusal, every
from hawthorn.core.messages import said


def log_in(
    handle: Annotated[str, typer.Argument(help="Your name or mail address.")],
    url: Annotated[str, typer.Option(help="The service.")] = "",
    password: Annotated[str, typer.Option(help="Asked for when not given.", envvar="HAWTHORN_PASSWORD")] = "",
    code: Annotated[
        str, typer.Option(help="The code of your second factor; asked for when it is needed.")
    ] = "",
) -> None:
    """Log in and stay logged in for the commands that follow.

    Example: hawthorn log-in ida --url https://hawthorn.example
    """
    if url:
        os.environ["HAWTHORN_URL"] = url
    with service() as hawthorn:
        secret = password or getpass.getpass(plain("cli.shared.password"))
        try:
            session = hawthorn.log_in(handle, secret, code)
        except Refusal as refusal:
            if refusal.problem.slug != "code-needed" or code:
                raise
            session = hawthorn.log_in(
                handle, secret, getpass.getpass(plain("cli.begin.code_of_your_second_factor"))
            )
        keep_session(hawthorn.url, session.token, session.me.language)
    roles = or_none("cli.begin.no_role", session.me.roles)
    tell("cli.begin.logged_in_with", name=session.me.name, roles=roles)


Password = Annotated[
    str, typer.Option(help="Asked for when not given.", envvar="HAWTHORN_PASSWORD", show_envvar=True)
]


def begin(
    address: Annotated[str, typer.Argument(help="The address that the service printed.")],
    handle: Annotated[str, typer.Argument(help="The name to log in with.")],
    name: Annotated[str, typer.Argument(help="The name that others see.")],
    mail: Annotated[str, typer.Option(help="Your mail address.")] = "",
    zone: Annotated[str, typer.Option(help="Your time zone (IANA).")] = "UTC",
    locale: Annotated[
        list[str] | None,
        typer.Option("--locale", help="A language, the first of them first; may be given several times."),
    ] = None,
    type: Annotated[str, typer.Option(help="What is written first: page, news or event.")] = "page",
    password: Password = "",
) -> None:
    """Begin a new house: make yourself its first person, who may do everything, and log in.

    Example: hawthorn begin "http://127.0.0.1:8400/welcome?token=Z3JlZW4" ida "Ida Marlow" --locale en --locale fr
    """
    token = _token(address)
    locales = [{"tag": tag} for tag in locale or ["en"]]
    with service() as hawthorn:
        secret = password or _chosen()
        session = hawthorn.make_first_person(
            token, handle, name, secret, email=mail, zone=zone, locales=locales, type=type
        )
        keep_session(hawthorn.url, session.token, session.me.language)
    tell("cli.begin.the_house_is_yours", name=session.me.name)


def join(
    address: Annotated[str, typer.Argument(help="The address in your invitation.")], password: Password = ""
) -> None:
    """Accept an invitation: choose a password and log in.

    Example: hawthorn join "https://hawthorn.example/invitation?token=Z3JlZW4"
    """
    token = _token(address)
    with service() as hawthorn:
        found = hawthorn.look_at_invitation(token)
        tell("cli.begin.invited_you", by=found.by, handle=found.handle)
        session = hawthorn.accept_invitation(token, password or _chosen())
        keep_session(hawthorn.url, session.token, session.me.language)
    tell("cli.begin.logged_in_as", name=session.me.name)


def _token(address: str) -> str:
    """The token that an address carries; the commands that follow go to the service there."""
    parts = urlsplit(address)
    token = dict(parse_qsl(parts.query)).get("token", "")
    if not token or not parts.netloc:
        stop("cli.begin.half_an_address", ends="invalid")
    os.environ["HAWTHORN_URL"] = f"{parts.scheme}://{parts.netloc}"
    return token


def _chosen() -> str:
    chosen = getpass.getpass(plain("cli.begin.a_password"))
    if getpass.getpass(plain("cli.shared.once_more")) != chosen:
        stop("cli.shared.not_the_same", ends="invalid")
    return chosen


def log_out() -> None:
    """End the session."""
    with service() as hawthorn:
        hawthorn.log_out()
    session_file().unlink(missing_ok=True)
    tell("cli.begin.logged_out")


def me(as_json: Json = False) -> None:
    """Who you are to the service."""
    with service() as hawthorn:
        found = hawthorn.me()
    if as_json:
        print_json(found)
    else:
        tell("cli.begin.you_are", name=found.name, handle=found.handle, roles=found.roles, zone=found.zone)


def why(
    person: Annotated[str, typer.Argument(help="Whose permission.")],
    verb: Annotated[
        str, typer.Argument(help="read, write, submit, sign, release, commission, accept or configure.")
    ],
    entry: Annotated[str, typer.Option(help="About this entry.")] = "",
    type: Annotated[str, typer.Option(help="About this content type.")] = "",
    locale: Annotated[str, typer.Option(help="About this locale.")] = "",
    stage: Annotated[str, typer.Option(help="At this stage.")] = "",
    as_json: Json = False,
) -> None:
    """Whether somebody may do something, and which grant says so or is missing; ends with status 4 when they may not.

    Example: hawthorn why wim release --entry "Winter opening hours"
    """
    with service() as hawthorn:
        id = resolve(hawthorn, entry) if entry else ""
        found = hawthorn.why(person, verb, entry=id, type=type, locale=locale, stage=stage)
    if as_json:
        print_json(found)
    else:
        tell("cli.begin.yes" if found.allowed else "cli.begin.no", reason=found.reason)
        if found.who:
            tell("cli.begin.these_may", who=found.who)
    if not found.allowed:
        raise typer.Exit(EXIT["refused"])


def events(
    kind: Annotated[str, typer.Option(help="A kind, or the start of one, such as review.")] = "",
    entry: Annotated[str, typer.Option(help="About this entry.")] = "",
    dispatch: Annotated[str, typer.Option(help="About this dispatch: its id, or its name.")] = "",
    person: Annotated[str, typer.Option(help="What this person did.")] = "",
    since: Since = "",
    until: Until = "",
    limit: Annotated[int, typer.Option(help="How many.")] = 30,
    sheet: Sheet = None,
    as_json: Json = False,
) -> None:
    """The event log, newest first.

    Example: hawthorn events --kind review --since 2027-01-01 --person wim

    Example: hawthorn events --since 2027-01-01 --sheet log.xlsx
    """
    with service() as hawthorn:
        id = resolve(hawthorn, entry) if entry else ""
        one = dispatch_named(hawthorn, dispatch) if dispatch else ""
        if sheet is not None:
            wanted = partial(
                hawthorn.events, kind=kind, entry=id, dispatch=one, person=person, since=since, until=until
            )
            sheets.write(sheet, every(wanted))
            return
        found = hawthorn.events(
            kind=kind, entry=id, dispatch=one, person=person, since=since, until=until, limit=limit
        )
    if as_json:
        print_json(found)
        return
    made = drawing.table("no", "when", "what", "by", "about")
    for event in found.items:
        about = event.what.get("title") or event.what.get("name") or ""
        made.add_row(str(event.seq), drawing.when(event.at), event.kind, escape(event.by), escape(str(about)))
    out.print(made)


def issue_key(
    name: Annotated[str, typer.Argument(help="What the key is for.")],
    role: Annotated[str, typer.Option(help="The role it has.")] = "reader",
    kind: Annotated[str, typer.Option(help="program or assistant.")] = "program",
    stage: Annotated[
        list[str] | None, typer.Option(help="A stage it may read; the first is its default.")
    ] = None,
    expires: Annotated[str, typer.Option(help="The day or instant at which it ends by itself.")] = "",
    audience: Annotated[
        list[str] | None, typer.Option(help="An audience it reads for; it gets what is limited to that.")
    ] = None,
    a_minute: Annotated[int | None, typer.Option(help="How many reads it may make in a minute.")] = None,
    as_json: Json = False,
) -> None:
    """Issue a key for a program; its secret is shown this once.

    Example: hawthorn key issue "Preview site" --stage draft --stage release --expires 2028-01-01
    """
    with service() as hawthorn:
        found = hawthorn.issue_key(
            name,
            role,
            kind=kind,
            stages=stage or ["release"],
            expires=instant(expires),
            audiences=audience or (),
            a_minute=a_minute,
        )
    if as_json:
        print_json(found)
    else:
        tell("cli.begin.keep_it_now", secret=found.secret, id=found.key.id, name=found.key.name)


def list_keys(as_json: Json = False) -> None:
    """The keys there are."""
    with service() as hawthorn:
        found = hawthorn.keys()
    if as_json:
        print_json(found)
        return
    made = drawing.table("no", "starts", "for", "stages", "audiences", "since", "until")
    for key in found.items:
        made.add_row(
            str(key.id),
            key.start,
            escape(key.name),
            ", ".join(key.stages),
            ", ".join(key.audiences),
            drawing.when(key.created_at),
            _until(key),
        )
    out.print(made)


def _until(key: wire.access.Key) -> str:
    if not key.expires_at:
        return ""
    until = drawing.when(key.expires_at)
    return marked("cli.begin.over", until=until) if key.expired else until


def end_key(id: Annotated[int, typer.Argument(help="The key's number.")]) -> None:
    """End a key at once.

    Example: hawthorn key end 3
    """
    with service() as hawthorn:
        hawthorn.end_key(id)
    tell("cli.begin.key_is_ended", id=id)


def list_types(as_json: Json = False) -> None:
    """The content types and their fields."""
    with service() as hawthorn:
        found = hawthorn.setup().types
    if as_json:
        print_json(found)
        return
    for kind in found:
        tell("cli.begin.type", name=kind.name, label=kind.label, version=kind.version, workflow=kind.workflow)
        for field in kind.fields:
            marks = [
                said(mark)
                for mark, on in (
                    ("cli.begin.required", field.required),
                    ("cli.begin.all_locales", field.shared),
                    ("cli.begin.many", field.many),
                )
                if on
            ]
            tell("cli.begin.field", name=field.name, marks=[field.kind, *marks])


Definition = Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="A JSON file.")]


def define_type(path: Definition, check: Check = False, as_json: Json = False) -> None:
    """Define a content type from a file, or a new version of one.

    Example: hawthorn type define leaflet.json --check
    """
    definition = _definition(path)
    with service() as hawthorn:
        found = hawthorn.check_type(definition) if check else hawthorn.define_type(definition)
    _defined(found, as_json)


def define_set(path: Definition, check: Check = False, as_json: Json = False) -> None:
    """Define a field set from a file, or a new version of one; every type that uses it changes with it.

    Example: hawthorn type define-set desk.json --check
    """
    definition = _definition(path)
    with service() as hawthorn:
        found = hawthorn.check_set(definition) if check else hawthorn.define_set(definition)
    _defined(found, as_json)


def _definition(path: Path) -> dict[str, Any]:
    try:
        found = json.loads(path.read_text("utf-8"))
    except ValueError as error:
        stop("cli.shared.is_not_json", ends="invalid", name=path.name, error=error)
    if not isinstance(found, dict):
        stop("cli.begin.is_not_a_json_object", ends="invalid", name=path.name)
    return dict(found)


def _defined(
    found: wire.content.Impact | wire.content.TypeSpec | wire.content.SetSpec, as_json: bool
) -> None:
    if as_json:
        print_json(found)
    elif not isinstance(found, wire.content.Impact):
        tell("cli.shared.is_defined_version", label=found.label, version=found.version)
    elif not found.effects:
        tell("cli.begin.changes_no_entry", entries=found.entries)
    else:
        for effect in found.effects:
            code = "cli.begin.effect_on" if effect.entries else "cli.begin.effect"
            tell(
                "cli.begin.effect_on_more" if effect.entries > 3 else code,
                mark=said("cli.begin.refuses" if effect.refuses else "cli.begin.changes"),
                type=effect.type,
                what=effect.what,
                count=effect.entries,
                some=[said("cli.begin.titled", title=e["title"]) for e in effect.examples[:3]],
            )


def export_type(
    name: Annotated[str, typer.Argument(help="The type's name.")],
    schema: Annotated[bool, typer.Option("--schema", help="As JSON Schema (draft 2020-12).")] = False,
) -> None:
    """Print the definition of a type, as `type define` takes it.

    Example: hawthorn type export notice --schema
    """
    with service() as hawthorn:
        print_json(hawthorn.type_schema(name) if schema else hawthorn.type_definition(name))


def delete_type(
    name: Annotated[str, typer.Argument(help="The type's name.")],
    check: Check = False,
) -> None:
    """Delete a content type that nothing uses; one that is in use can be retired ("retired": true in its definition).

    Example: hawthorn type delete leaflet --check
    """
    with service() as hawthorn:
        uses = hawthorn.uses_of_type(name).items if check else []
        if not check:
            hawthorn.delete_type(name)
            tell("cli.begin.is_deleted", name=name)
            return
    for use in uses:
        out.print(f"• {escape(use)}")
    tell("cli.begin.it_cannot_be_deleted" if uses else "cli.begin.nothing_uses_it")
    if uses:
        raise typer.Exit(EXIT["in-the-way"])


def delete_set(name: Annotated[str, typer.Argument(help="The field set's name.")]) -> None:
    """Delete a field set that no type uses.

    Example: hawthorn type delete-set desk
    """
    with service() as hawthorn:
        hawthorn.delete_set(name)
    tell("cli.begin.is_deleted", name=name)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Set-up"
    app.command(rich_help_panel=panel)(begin)
    app.command(rich_help_panel=panel)(join)
    app.command("log-in", rich_help_panel=panel)(log_in)
    app.command("log-out", rich_help_panel=panel)(log_out)
    app.command(rich_help_panel=panel)(me)
    app.command(rich_help_panel=panel)(why)
    app.command(rich_help_panel=panel)(events)
    keys = typer.Typer(help="Keys for programs.", no_args_is_help=True)
    for name, function in (("issue", issue_key), ("list", list_keys), ("end", end_key)):
        keys.command(name)(function)
    app.add_typer(keys, name="key", rich_help_panel=panel)
    types = typer.Typer(help="Content types.", no_args_is_help=True)
    types.command("list")(list_types)
    types.command("define")(define_type)
    types.command("export")(export_type)
    types.command("delete")(delete_type)
    types.command("define-set")(define_set)
    types.command("delete-set")(delete_set)
    app.add_typer(types, name="type", rich_help_panel=panel)
