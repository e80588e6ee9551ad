"""Backups on this machine: made while the service runs, listed, rehearsed and restored."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Annotated

import typer
from rich.progress import BarColumn, Progress, TaskProgressColumn, TextColumn

from hawthorn.cli import drawing
from hawthorn.cli.context import EXIT, Json, end_with, err, note_error, out, plain, print_json, stop, tell
from hawthorn.cli.local import File, settings_of
from hawthorn.core.timeline import iso

Folder = Annotated[
    Path | None,
    typer.Option("--folder", help="The folder with the backups; that of the settings when not given."),
]
Recipient = Annotated[
    list[str] | None,
    typer.Option(
        help="Encrypt it for this recipient (age1…); may be given several times; those of the settings when not given."
    ),
]
Identity = Annotated[
    Path | None, typer.Option(help="The file with the key that opens it, where it is encrypted.")
]
Which = Annotated[
    Path | None,
    typer.Argument(
        exists=True, dir_okay=False, help="The backup; the newest when not given.", metavar="BACKUP"
    ),
]


def make(
    folder: Folder = None, recipient: Recipient = None, file: File = None, as_json: Json = False
) -> None:
    """Back the record file up, also while the service runs: all of one instant, compressed, and encrypted where that is asked for.

    Example: hawthorn backup make --file records.sqlite --folder /srv/backups
    """
    from hawthorn.core.errors import HawthornError
    from hawthorn.store import backups

    found = settings_of(file=file)
    if not found.file.exists():
        stop("cli.local.there_is_no_file", ends="not-found", file=found.file)
    place = _folder(folder, file)
    columns = (TextColumn("{task.description}"), BarColumn(), TaskProgressColumn())
    try:
        backups.room_for(place, found.file)
        with Progress(*columns, console=err, transient=True) as bar:
            task = bar.add_task(plain("cli.backups.copying", file=found.file.name), total=None)
            made = backups.make(
                found.file,
                place,
                time.time_ns() // 1000,
                found.backup_recipients if recipient is None else recipient,
                lambda done, total: bar.update(task, completed=done, total=total),
            )
    except HawthornError as error:
        end_with(error)
    if as_json:
        print_json(
            {"file": str(made.path), "events": made.events, "bytes": made.bytes, "sha256": made.sha256}
        )
        return
    tell("cli.backups.made", file=made.path, bytes=made.bytes, events=made.events)
    if found.file_store:
        tell("cli.backups.files_elsewhere", store=found.file_store)
    tell("cli.backups.key_elsewhere", key=found.key_file or f"{found.file}.key")


def listing(folder: Folder = None, file: File = None, as_json: Json = False) -> None:
    """The backups in a folder, the newest first.

    Example: hawthorn backup list --folder /srv/backups
    """
    from hawthorn.store import backups

    found = backups.listing(_folder(folder, file))
    if as_json:
        rows = [
            {
                "file": str(b.path),
                "at": iso(b.at),
                "events": b.events,
                "bytes": b.bytes,
                "encrypted": b.sealed,
            }
            for b in found
        ]
        print_json(rows)
        return
    if not found:
        tell("cli.backups.none")
        return
    made = drawing.table("file", "at", "events", "bytes", "encrypted")
    for one in found:
        made.add_row(
            one.path.name,
            drawing.when(iso(one.at)),
            str(one.events or ""),
            f"{one.bytes:,}",
            plain("cli.backups.encrypted") if one.sealed else "",
        )
    out.print(made)


def rehearse(
    which: Which = None, folder: Folder = None, identity: Identity = None, file: File = None
) -> None:
    """Prove that a backup can be restored: it is, to a place of its own, and looked through as `hawthorn check` does; nothing else is touched.

    Example: hawthorn backup rehearse --folder /srv/backups
    """
    from hawthorn.core.errors import HawthornError
    from hawthorn.messages import WORDS
    from hawthorn.operations.exchange import backups

    backup = which or _newest(_folder(folder, file))
    try:
        with err.status(plain("cli.backups.rehearsing", file=backup.name)):
            found = backups.rehearse(backup, _identities(identity))
    except HawthornError as error:
        end_with(error, "bad-file")
    for line in found.wrong:
        note_error("cli.backups.wrong", what=WORDS.text(line))
    if found.wrong:
        raise typer.Exit(EXIT["bad-file"])
    tell(
        "cli.backups.rehearsed",
        file=backup.name,
        events=found.events,
        entries=found.entries,
        at=drawing.when(iso(found.at)),
    )


def restore(
    which: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="The backup.", metavar="BACKUP")],
    goal: Annotated[
        Path, typer.Option("--file", help="Where the record file is put; it must not be there yet.")
    ],
    identity: Identity = None,
) -> None:
    """Restore a backup to a record file that is not there yet. What waited to be sent is kept back: see `hawthorn outbox`.

    Example: hawthorn backup restore hawthorn-20270331T030000Z.sqlite.zst --file records.sqlite
    """
    from hawthorn.core.errors import HawthornError
    from hawthorn.store import backups

    try:
        with err.status(plain("cli.backups.restoring", file=which.name)):
            parked = backups.restore(which, goal, _identities(identity))
    except HawthornError as error:
        end_with(error, error.slug)
    tell("cli.backups.restored", file=goal, parked=parked)


def new_key(
    goal: Annotated[Path, typer.Argument(help="The file to write the secret to.", metavar="FILE")],
) -> None:
    """Make a key for backups (age): the secret that opens them goes to a file, to be kept elsewhere; the recipient that they are made for is printed.

    Example: hawthorn backup key backups.key
    """
    from hawthorn.store import backups

    if goal.exists():
        stop("cli.backups.key_there", ends="in-the-way", file=goal)
    secret, recipient = backups.new_identity()
    goal.touch(mode=0o600)
    goal.write_text(f"# public key: {recipient}\n{secret}\n", "utf-8")
    tell("cli.backups.key", file=goal, recipient=recipient)


def _folder(folder: Path | None, file: Path | None) -> Path:
    place: Path | None = folder or settings_of(file=file).backups
    if place is None:
        stop("cli.backups.no_folder")
    return place


def _newest(folder: Path) -> Path:
    from hawthorn.operations.exchange import backups

    found = backups.newest(folder)
    if found is None:
        stop("cli.backups.none_there", ends="not-found", folder=folder)
    return found.path


def _identities(path: Path | None) -> list[str]:
    if path is None:
        return []
    return [line for line in path.read_text("utf-8").splitlines() if line.startswith("AGE-SECRET-KEY-")]


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(
        help="Backups: made while the service runs, listed, rehearsed and restored.", no_args_is_help=True
    )
    group.command("make")(make)
    group.command("list")(listing)
    group.command("rehearse")(rehearse)
    group.command("restore")(restore)
    group.command("key")(new_key)
    app.add_typer(group, name="backup", rich_help_panel="On this machine")
