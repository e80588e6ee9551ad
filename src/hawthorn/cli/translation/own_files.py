"""Files of a job that differ by language, from the command line."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Json, marked, or_none, out, print_json, service, stop, tell
from hawthorn.cli.translation.shared import JobName, id_of


def own_file(
    name: JobName,
    path: Annotated[
        Path | None, typer.Argument(exists=True, dir_okay=False, help="The file in the job's language.")
    ] = None,
    entry: Annotated[str, typer.Option(help="The entry that it is of, by its id or title.")] = "",
    field: Annotated[str, typer.Option(help="The field that it is of.")] = "",
    same: Annotated[
        bool, typer.Option("--same", help="The source's file will do for this language.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Give a file that differs by language, such as a leaflet, or say that the source's will do; alone, see which there are.

    Example: hawthorn job own-file 01a1e1b6 leaflet-fr.pdf --entry "A leaflet to take along"
    """
    with service() as hawthorn:
        id = id_of(hawthorn, name)
        some = hawthorn.job(id).own_files
        if path is None and not same:
            _say(some, as_json)
            return
        wanted = [
            one
            for one in some
            if (not entry or entry in (one.entry, one.title)) and (not field or field == one.field)
        ]
        if len(wanted) != 1:
            known = or_none("values.nothing", [f"{one.title} ({one.field})" for one in wanted or some])
            if wanted:
                stop("cli.own_files.which", ends="not-found", count=len(wanted), known=known)
            stop("cli.own_files.none_is", ends="not-found", known=known)
        sha256 = hawthorn.upload(path.name, path.read_bytes()).sha256 if path else ""
        made = hawthorn.give_own_file(id, wanted[0].entry, wanted[0].field, sha256)
    _say([made], as_json)


def _say(some: list[wire.translation.OwnFile], as_json: bool) -> None:
    if as_json:
        print_json(some)
        return
    if not some:
        tell("cli.own_files.there_are_none")
        return
    made = drawing.table("entry", "field", "source", "translation", "state", "by", "when")
    for one in some:
        # Until somebody says so, what stands there is only what went along.
        target = one.target.name if one.target and one.state != "open" else ""
        said = [one.title, one.field, one.source.name, target]
        state = marked(f"cli.own_files.state_{one.state}")
        made.add_row(*map(escape, said), state, escape(one.by), drawing.when(one.at) if one.at else "")
    out.print(made)
