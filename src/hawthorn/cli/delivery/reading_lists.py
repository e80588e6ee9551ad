"""Lists and counts as sites read them, from the command line."""

from __future__ import annotations

from typing import Annotated

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import At, Fold, Json, Zone, instant, out, plain, print_json, service, stop, tell
from hawthorn.cli.release.named import Within, dispatch_named

Types = Annotated[
    list[str] | None,
    typer.Option("--type", help="A content type; may be given several times. All without one."),
]
Locale = Annotated[str, typer.Option("--locale", help="The wanted locale.")]
Stage = Annotated[str, typer.Option("--stage", help="The stage to read at; released when not given.")]
Strand = Annotated[str, typer.Option("--strand", help="Drafts with the strand of this name beside them.")]
Where = Annotated[
    list[str] | None,
    typer.Option(
        "--where",
        help="A condition on a field that its type marks for it: day.from=2027-03-01, kind=hours, date.last=P14D, title.contains=lamp; may be given several times.",
        metavar="FIELD[.OPERATOR]=VALUE",
    ),
]


def listing(
    types: Types = None,
    where: Where = None,
    sort: Annotated[
        str, typer.Option(help="A field to sort by, with a - before it backwards; newest first without one.")
    ] = "",
    include: Annotated[
        list[str] | None, typer.Option(help="A relation whose entries are wanted too, such as speakers.")
    ] = None,
    referring: Annotated[
        list[str] | None, typer.Option(help="A relation that leads here, such as talk.speakers.")
    ] = None,
    fields: Annotated[list[str] | None, typer.Option("--field", help="Only this field of each.")] = None,
    locale: Locale = "",
    stage: Stage = "",
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    within: Within = "",
    strand: Strand = "",
    texts: Annotated[
        wire.reading.TextForm, typer.Option("--texts", help="The form of rich texts in JSON.")
    ] = "html",
    limit: Annotated[int, typer.Option(help="The most lines.")] = 20,
    as_json: Json = False,
) -> None:
    """List what is out as a site does, chosen and sorted by fields.

    Example: hawthorn reading list --type talk --where day.from=2027-01-01 --sort day
    """
    with service() as hawthorn:
        found = hawthorn.read_entries(
            type=types or "",
            locale=locale,
            stage=stage,
            at=instant(at, zone, fold),
            dispatch=dispatch_named(hawthorn, within) if within else "",
            strand=strand,
            where=_conditions(where),
            sort=sort,
            limit=limit,
            include=include or (),
            referring=referring or (),
            fields=fields or (),
            texts=texts if as_json else "html",
        )
    if as_json:
        print_json(found)
        return
    if not found.items:
        tell("cli.reading.none")
        return
    made = drawing.table("title", "type", "locale", "since", "address")
    for one in found.items:
        since = drawing.when(one.date or one.since)
        made.add_row(escape(one.title), one.type, one.locale, since, escape(one.path or ""))
    out.print(made)
    if found.included:
        titles = sorted(one.title for one in found.included.values())
        tell("cli.reading.included", titles=titles)
    if found.next:
        tell("cli.reading.more", limit=limit)


def count(
    by: Annotated[str, typer.Argument(help="A field, month, or month.FIELD.", metavar="BY")],
    types: Types = None,
    where: Where = None,
    locale: Locale = "",
    stage: Stage = "",
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    within: Within = "",
    strand: Strand = "",
    as_json: Json = False,
) -> None:
    """Count what is out by a field, or by month.

    Example: hawthorn reading count tags --type label
    """
    with service() as hawthorn:
        found = hawthorn.read_counts(
            by,
            type=types or "",
            locale=locale,
            stage=stage,
            at=instant(at, zone, fold),
            dispatch=dispatch_named(hawthorn, within) if within else "",
            strand=strand,
            where=_conditions(where),
        )
    if as_json:
        print_json(found)
        return
    if not found.counts:
        tell("cli.reading.none")
        return
    made = drawing.table("name", "entries")
    for one in found.counts:
        made.add_row(escape(one.title), str(one.count))
    out.print(made)


def changed(
    since: Annotated[str, typer.Option(help="The position that an earlier answer gave.")] = "",
    as_json: Json = False,
) -> None:
    """What changed of what is out since a site last asked.

    Example: hawthorn reading changed --since 1.204
    """
    with service() as hawthorn:
        found = hawthorn.read_changed(since)
    if as_json:
        print_json(found)
        return
    if found.everything:
        tell("cli.reading.everything_changed", position=found.position)
        return
    made = drawing.table("type", "id", "state")
    for one in found.entries:
        made.add_row(one.type, one.id, plain("cli.reading.there") if one.there else plain("cli.reading.gone"))
    out.print(made)
    tell("cli.reading.changed", position=found.position, count=len(found.entries))


def head(
    id: Annotated[str, typer.Argument(help="The entry, by id.", metavar="ENTRY")],
    locale: Locale = "",
    stage: Stage = "",
    site: Annotated[
        str, typer.Option(help="The site whose addresses are meant, where there are several.")
    ] = "",
    strand: Strand = "",
    as_json: Json = False,
) -> None:
    """What the page of an entry says of itself: addresses, Open Graph, and linked data.

    Example: hawthorn reading head 01a31858-52d0-7b3f-9fd8-1e2f3a4b5c6d --locale fr
    """
    with service() as hawthorn:
        found = hawthorn.read_head(id, locale=locale, stage=stage, site=site, strand=strand)
    if as_json:
        print_json(found)
        return
    made = drawing.table("name", "value")
    for one in found.open_graph:
        made.add_row(one.property, escape(one.content))
    for other in found.alternates:
        made.add_row(plain("cli.reading.in_language", locale=other.locale), escape(other.address))
    out.print(made)
    out.print_json(data=found.linked_data)
    if not found.index:
        tell("cli.reading.not_listed")


def _conditions(given: list[str] | None) -> dict[str, list[str]]:
    out: dict[str, list[str]] = {}
    for one in given or ():
        name, sign, value = one.partition("=")
        if not sign or not name:
            stop("cli.reading.no_condition", given=one)
        out.setdefault(name, []).append(value)
    return out


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(help="What sites read: lists and counts of what is out.", no_args_is_help=True)
    group.command("list")(listing)
    group.command("count")(count)
    group.command("changed")(changed)
    group.command("head")(head)
    app.add_typer(group, name="reading", rich_help_panel="Pages and pictures")
