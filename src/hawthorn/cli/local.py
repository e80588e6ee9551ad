"""Commands that work on this machine: serve, demo, check, settings, and adding the first person."""

from __future__ import annotations

import getpass
import tomllib
from dataclasses import asdict
from pathlib import Path
from typing import Annotated, Any

import typer
from rich.progress import BarColumn, DownloadColumn, Progress, TextColumn

from hawthorn.cli.context import (
    Json,
    complain,
    err,
    note_error,
    out,
    plain,
    print_json,
    say_error,
    stop,
    tell,
)
from hawthorn.core.messages import said

File = Annotated[Path | None, typer.Option("--file", help="The record file.")]


def settings_of(**given: Any) -> Any:
    """The settings with what a command was given; ends the command where they are wrong."""
    from pydantic import ValidationError

    from hawthorn.service.models import wrong
    from hawthorn.service.settings import Settings

    try:
        return Settings(**{k: v for k, v in given.items() if v is not None})
    except ValidationError as error:
        first = error.errors()[0]
        stop("cli.local.wrong_setting", name=".".join(map(str, first["loc"])), why=wrong(first))
    except tomllib.TOMLDecodeError as error:
        stop("cli.local.no_toml", why=error)


def serve(
    file: File = None,
    host: Annotated[str | None, typer.Option(help="The address to listen at.")] = None,
    port: Annotated[int | None, typer.Option(help="The port to listen at.")] = None,
    followers: Annotated[
        bool | None, typer.Option(help="Run scheduler, mail and carrier in this process.")
    ] = None,
    workers: Annotated[
        int | None, typer.Option(help="How many processes answer; about as many as there are cores.")
    ] = None,
    replica: Annotated[
        str | None,
        typer.Option(
            help="Where a replica of the record file is kept: file:///… or what else Litestream takes."
        ),
    ] = None,
    follow: Annotated[
        str | None, typer.Option(help="The replica of which this is a copy, for those who read.")
    ] = None,
    writer: Annotated[
        str | None, typer.Option(help="On a copy: the address of the service that writes.")
    ] = None,
    file_store: Annotated[
        str | None,
        typer.Option(help="Where files lie: a folder, or s3://bucket/prefix; in the record file by default."),
    ] = None,
) -> None:
    """Run the service, console included; or a copy of it for those who read.

    Example: hawthorn serve --file records.sqlite --port 9000 --replica file:///backup/records
    Example: hawthorn serve --file records.sqlite --workers 2
    Example: hawthorn serve --file copy.sqlite --port 9001 --follow file:///backup/records --writer http://records.example
    """
    from hawthorn.service.running import serve as run

    settings = settings_of(
        file=file,
        host=host,
        port=port,
        followers=followers,
        workers=workers,
        replica=replica,
        follow=follow,
        writer=writer,
        file_store=file_store,
    )
    at = {"host": settings.host, "port": settings.port}
    if settings.follow:
        tell("cli.local.copying", follow=settings.follow, **at)
    else:
        tell("cli.local.serving", file=settings.file, **at)
    run(settings)


def demo(
    port: Annotated[
        int, typer.Option(help="The service's port; the others follow it. 0 takes free ones.")
    ] = 8400,
    keep: Annotated[
        Path | None, typer.Option(help="Keep the data in this folder, and go on with it next time.")
    ] = None,
) -> None:
    """Run the Pellgrave Harbour Museum: service, console, public site, bureau and mail catcher.

    Example: hawthorn demo --keep museum
    """
    from hawthorn.demo.running import run

    try:
        run(port, keep)
    except ModuleNotFoundError as missing:
        complain("cli.local.demo_needs", name=missing.name)
        raise typer.Exit(1) from missing


def settings(file: File = None, as_json: Json = False) -> None:
    """Every setting: its value, where that comes from (a flag, the environment, the file hawthorn.toml, or the default), and what it means.

    Example: hawthorn settings --file records.sqlite
    """
    from hawthorn.service.settings import told

    settings_of(file=file)
    found = told({"file": file} if file is not None else {})
    if as_json:
        print_json([{**asdict(one), "means": plain(f"settings.{one.name}")} for one in found])
        return
    for one in found:
        tell(f"cli.local.setting.{one.source}", name=one.name, value=one.value or said("values.nothing"))
        tell(
            "cli.local.setting_means",
            means=said(f"settings.{one.name}"),
            variable=f"HAWTHORN_{one.name.upper()}",
        )


def doctor(file: File = None, as_json: Json = False) -> None:
    """Look at this installation: settings, machine, record file, service, what is done by itself, mail, backups; and say what is wrong
    and how to mend it. Changes nothing; whether the records hang together is for `hawthorn check`.

    Example: hawthorn doctor --file records.sqlite
    """
    from hawthorn.messages import WORDS
    from hawthorn.service.doctor import CHECKS, examine

    looked = examine(settings_of(file=file))
    told: list[dict[str, Any]] = []
    bad = 0
    for name in CHECKS:
        with err.status(plain("cli.local.examining", what=said(f"doctor.head.{name}"))):
            _, found = next(looked)
        if not as_json and found:
            tell("cli.local.looked_at", what=said(f"doctor.head.{name}"))
        for one in found:
            bad += one.how == "wrong"
            if as_json:
                remedy = WORDS.text(one.remedy) if one.remedy is not None else ""
                told.append({"about": name, "how": one.how, "what": WORDS.text(one.what), "remedy": remedy})
                continue
            tell(f"cli.local.found.{one.how}", what=one.what)
            if one.remedy is not None:
                tell("cli.local.mend", remedy=one.remedy)
    if as_json:
        print_json(told)
    elif not bad:
        tell("cli.local.nothing_wrong")
    if bad:
        raise typer.Exit(1)


def check(
    file: File = None,
    repair: Annotated[
        bool,
        typer.Option(
            "--repair", help="Make anew what is derived from other rows and does not follow from them."
        ),
    ] = False,
) -> None:
    """Check the record file without changing it: its pages, its references, its event chain, and what is derived from
    other rows. Goes on past what is damaged. With --repair what is derived is made anew; the service may run meanwhile.

    Example: hawthorn check --file records.sqlite
    """
    from hawthorn.operations.views.health import CHECKS, examine
    from hawthorn.store import connection, failing, migrate
    from hawthorn.store.file_store import opened

    found = settings_of(file=file)
    if not found.file.exists():
        stop("cli.local.there_is_no_file", ends="not-found", file=found.file)
    wrong = 0
    with failing.named(found.file):
        conn = connection.open_still(found.file)
    try:
        with failing.named(found.file):
            old = migrate.pending(conn)
        if old:
            tell("cli.local.file_is_older", old=[f"{n:03d}" for n in old])
        names, looked = list(CHECKS), examine(conn, opened(found.file_store))
        for n, name in enumerate(names, 1):
            what = said(f"health.what.{name}")
            with err.status(plain("cli.local.looking", what=what, n=n, count=len(names))):
                _, lines = next(looked)
            for line in lines:
                say_error(plain("common.words", words=line))
            wrong += len(lines)
    finally:
        conn.close()
    if wrong and repair:
        _repair(found)
        return
    if wrong:
        note_error("cli.local.restore")
        raise typer.Exit(1)
    tell("cli.local.all_is_well")


def _repair(found: Any) -> None:
    """Make anew what is derived, and say whether anything is still wrong."""
    from hawthorn.messages import WORDS
    from hawthorn.operations.runtime.act import SCHEDULER_SELF
    from hawthorn.operations.views import health
    from hawthorn.service.app import open_desk

    desk = open_desk(found)
    try:
        with err.status(plain("cli.local.repairing")):
            done = desk.write(SCHEDULER_SELF, health.repair)
        with desk.db.read() as conn:
            left = [line for _, lines in health.examine(conn, desk.file_store) for line in lines]
    finally:
        desk.db.close()
    tell("cli.local.repaired", count=done["derived"])
    for what in ("memories", "glossaries", "figures"):
        if done[what]:
            tell(f"cli.local.found_again.{what}", count=done[what])
    for line in left:
        say_error(WORDS.text(line))
    if left:
        note_error("cli.local.restore")
        raise typer.Exit(1)
    tell("cli.local.all_is_well")


def add_person(
    handle: Annotated[str, typer.Argument(help="The name to log in with.")],
    name: Annotated[str, typer.Argument(help="The name that others see.")],
    role: Annotated[list[str], typer.Option(help="A role; may be given several times.")],
    mail: Annotated[str, typer.Option(help="The mail address.")] = "",
    zone: Annotated[str, typer.Option(help="The time zone (IANA).")] = "UTC",
    password: Annotated[str, typer.Option(help="Asked for when not given.", envvar="HAWTHORN_PASSWORD")] = "",
    file: File = None,
) -> None:
    """Add a person to the record file on this machine; asks for the password.

    Example: hawthorn add-person ida "Ida Marlow" --role managing-editor --role staff
    """
    from hawthorn.operations.access import people, permission
    from hawthorn.operations.runtime.act import SCHEDULER
    from hawthorn.service.app import open_desk

    password = password or getpass.getpass(plain("cli.shared.password"))
    desk = open_desk(settings_of(file=file))
    try:
        with desk.db.read() as conn:
            scheduler = permission.identity_of(conn, SCHEDULER)
        roles = [{"name": r} for r in role]
        desk.write(scheduler, lambda act: people.add_person(act, handle, name, mail, password, roles, zone))
    finally:
        desk.db.close()
    tell("cli.local.can_log_in_as", name=name, handle=handle)


def move_files(
    file: File = None,
    file_store: Annotated[
        str | None, typer.Option(help="Where files are to lie: a folder, or s3://bucket/prefix.")
    ] = None,
    into_record: Annotated[
        bool, typer.Option("--into-record", help="From there into the record file instead.")
    ] = False,
) -> None:
    """Move the bytes of files from the record file to where the settings (or this command) say that files lie, or back.
    The service may run meanwhile. What is broken off goes on with what is left when it is run again.

    Example: hawthorn move-files --file records.sqlite --file-store /srv/files
    """
    from hawthorn.operations.media import moving
    from hawthorn.service.app import open_desk

    found = settings_of(file=file, file_store=file_store)
    if not found.file.exists():
        stop("cli.local.there_is_no_file", ends="not-found", file=found.file)
    if not found.file_store:
        stop("cli.local.no_file_store")
    desk = open_desk(found)
    wrong = 0
    try:
        count, size = moving.to_move(desk, outside=into_record)
        columns = (TextColumn("{task.description}"), BarColumn(), DownloadColumn())
        with Progress(*columns, console=out, transient=True) as progress:
            task = progress.add_task(plain("cli.local.moving", count=count), total=size)
            for one in moving.move(desk, outside=not into_record):
                progress.advance(task, one.file.bytes)
                if not one.sound:
                    wrong += 1
                    complain("cli.local.not_moved", name=one.file.name, sha256=one.file.sha256)
    finally:
        desk.db.close()
    if wrong:
        raise typer.Exit(1)
    tell("cli.local.moved_back" if into_record else "cli.local.moved", count=count, store=found.file_store)
    if file_store and not into_record:
        tell("cli.local.set_file_store", store=found.file_store)


def change_key_file(file: File = None) -> None:
    """Seal the secrets in the record file (of second factors, bureaus, webhooks, previews) with a new key. The service may run meanwhile. The key from before
    is kept beside the new one, for copies of the record file from before; put it where those are. What is broken off is taken up by the next call.

    Example: hawthorn change-key-file --file records.sqlite
    """
    from hawthorn.operations.runtime.act import SCHEDULER_SELF
    from hawthorn.service.app import open_desk
    from hawthorn.store import vault

    found = settings_of(file=file)
    if not found.file.exists():
        stop("cli.local.there_is_no_file", ends="not-found", file=found.file)
    desk = open_desk(found)
    try:
        kept = desk.vault.begin_change()
        count = desk.write(SCHEDULER_SELF, lambda act: vault.seal_anew(act.conn, act.vault))
        desk.vault.end_change()
    finally:
        desk.db.close()
    tell("cli.local.key_changed", sealed=count, file=desk.vault.path)
    tell("cli.local.key_before", file=kept)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    here = "On this machine"
    app.command(rich_help_panel=here)(serve)
    app.command(rich_help_panel=here)(demo)
    app.command(rich_help_panel=here)(settings)
    app.command(rich_help_panel=here)(doctor)
    app.command(rich_help_panel=here)(check)
    app.command("add-person", rich_help_panel=here)(add_person)
    app.command("move-files", rich_help_panel=here)(move_files)
    app.command("change-key-file", rich_help_panel=here)(change_key_file)
