"""Reading what stands from the command line, as a site does."""

from __future__ import annotations

import getpass
from typing import Annotated, Any

import typer

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.content.entries import fields_of
from hawthorn.cli.context import (
    At,
    Fold,
    Json,
    Locale,
    Zone,
    instant,
    out,
    plain,
    print_json,
    resolve,
    service,
    tell,
)
from hawthorn.cli.delivery.reading_lists import Stage, Strand
from hawthorn.cli.release.named import Within, dispatch_named
from hawthorn.cli.values import lines
from hawthorn.core.messages import said


def read(
    name: Annotated[str, typer.Argument(help="A path such as /en/visit, or an entry's id.")],
    locale: Locale = "",
    stage: Stage = "",
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    within: Within = "",
    strand: Strand = "",
    fallback: Annotated[
        bool, typer.Option("--fallback/--no-fallback", help="Whether another locale may stand in.")
    ] = True,
    texts: Annotated[
        wire.reading.TextForm, typer.Option("--texts", help="The form of rich texts in JSON.")
    ] = "html",
    unlock: Annotated[
        bool, typer.Option("--unlock", help="Ask for the phrase of a locked entry, and read it whole.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Read what stands, as a site does.

    Example: hawthorn read /en/visit --stage draft --at 2027-11-30T09:00
    """
    at = instant(at, zone, fold)
    form: wire.reading.TextForm = texts if as_json else "html"
    with service() as hawthorn:
        asked = {"stage": stage, "at": at, "dispatch": dispatch_named(hawthorn, within) if within else ""}
        where: dict[str, Any] = {**asked, "strand": strand, "texts": form}
        if name.startswith("/"):
            found = hawthorn.read_page(name, **where)
        else:
            id = resolve(hawthorn, name) if len(name) != 36 else name
            found = hawthorn.read(id, locale=locale, fallback=fallback, **where)
        if unlock and found.locked:
            opened = hawthorn.unlock(found.id, getpass.getpass(plain("cli.entries.phrase")))
            found = hawthorn.read(found.id, locale=found.locale, unlocked=[opened.token], **where)
        specs = [] if as_json else fields_of(hawthorn, found.type)
    if as_json:
        print_json(found)
        return
    tell(
        "cli.entries.read",
        title=found.title,
        type=found.type,
        locale=found.locale,
        revision=found.revision,
        since=drawing.when(found.since),
    )
    if found.locked:
        tell("cli.entries.locked")
    tell("cli.entries.address", path=found.path or said("cli.entries.no_address"))
    for line in lines(specs, found.fields, lambda id: _called(found, id)):
        out.print(line)


def _called(found: wire.reading.ReadEntry, id: str) -> str:
    target = found.references.get(id)
    return target.title if target is not None else id


def install(app: typer.Typer) -> None:
    """Add this command."""
    app.command(rich_help_panel="Writing and finding")(read)
