"""Taking over from a service that is lost, and what it may have left unsent, on this machine."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Annotated

import typer

from hawthorn.cli import drawing
from hawthorn.cli.context import Check, Json, out, print_json, stop, tell
from hawthorn.cli.local import File, settings_of
from hawthorn.core.timeline import iso


def promote(
    replica: Annotated[
        str,
        typer.Option(help="The replica of the service that is lost: what it had as its setting “replica”."),
    ],
    file: Annotated[Path, typer.Option(help="Where the record file is put; it must not be there yet.")],
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Take over from a service that is lost: make a record file of its replica, which this machine writes from then on.

    The other one is refused from the first moment, also when it comes back. What waited to be sent is kept back: see `hawthorn outbox`.

    Example: hawthorn promote --replica file:///backup/records --file records.sqlite --check
    """
    from hawthorn.service import taking_over

    begun = time.monotonic()
    found = taking_over.rehearse(replica) if check else taking_over.take_over(replica, file)
    seconds = time.monotonic() - begun
    if as_json:
        print_json(
            {"term": found.term, "event": found.event, "parked": found.parked, "seconds": round(seconds, 2)}
        )
        return
    code = "cli.taking_over.would_be_taken" if check else "cli.taking_over.taken"
    at = drawing.when(iso(found.at) if found.at else None)
    tell(code, term=found.term, event=found.event, at=at, parked=found.parked, seconds=f"{seconds:.1f}")
    if not check:
        tell("cli.taking_over.begin", file=file, replica=replica)


def listed(file: File = None, as_json: Json = False) -> None:
    """What is kept back since this service took over.

    Example: hawthorn outbox list --file records.sqlite
    """
    from hawthorn.store import connection, migrate, outbox

    found = settings_of(file=file)
    if not found.file.exists():
        stop("cli.local.there_is_no_file", ends="not-found", file=found.file)
    conn = connection.open_still(found.file)
    try:
        if migrate.pending(conn):
            stop("cli.taking_over.older", file=found.file)
        rows = outbox.parked(conn)
    finally:
        conn.close()
    if as_json:
        print_json([{"id": r.stable_id, "for": r.follower, "to": r.recipient, "seq": r.seq} for r in rows])
        return
    made = drawing.table("no", "of", "to")
    for row in rows:
        made.add_row(str(row.seq), row.follower, row.recipient)
    out.print(made)
    if not rows:
        tell("cli.taking_over.nothing_kept_back")


def send(file: File = None) -> None:
    """Let all that is kept back be sent: what was sent before goes out a second time, under the same id.

    Example: hawthorn outbox send --file records.sqlite
    """
    _end(file, sends=True)


def drop(file: File = None) -> None:
    """Give up all that is kept back: what was not sent before is never sent.

    Example: hawthorn outbox drop --file records.sqlite
    """
    _end(file, sends=False)


def _end(file: Path | None, *, sends: bool) -> None:
    from hawthorn.store import outbox
    from hawthorn.store.database import Database

    db = Database(settings_of(file=file).file)
    try:
        count = db.write(lambda conn: outbox.end_parked(conn, send=sends, now=time.time_ns() // 1000))
    finally:
        db.close()
    tell("cli.taking_over.sent" if sends else "cli.taking_over.dropped", count=count)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    here = "On this machine"
    app.command(rich_help_panel=here)(promote)
    group = typer.Typer(help="What is kept back since a service took over.", no_args_is_help=True)
    for name, function in (("list", listed), ("send", send), ("drop", drop)):
        group.command(name)(function)
    app.add_typer(group, name="outbox", rich_help_panel=here)
