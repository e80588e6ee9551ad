"""Strands from the command line."""

from __future__ import annotations

from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing, lastread
from hawthorn.cli.content.entries import Set, shown, values
from hawthorn.cli.context import (
    Json,
    Locale,
    Named,
    entry_named,
    marked,
    or_none,
    out,
    print_json,
    service,
    stop,
    tell,
)

Strand = Annotated[str, typer.Argument(help="The strand's name.")]
Take = Annotated[
    list[str] | None,
    typer.Option(
        "--take", metavar="PLACE", help="Only this field or block (field:block-id); may be given again."
    ),
]


def fork(
    name: Named,
    strand: Strand,
    revision: Annotated[
        int | None, typer.Option(help="From this revision; from the draft when not given.")
    ] = None,
    locale: Locale = "",
    note: Annotated[str, typer.Option(help="Why.")] = "",
    as_json: Json = False,
) -> None:
    """Fork a strand: work beside the draft that nobody sees go out by accident.

    Example: hawthorn strand fork "Winter opening hours" Rewording
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        made = hawthorn.fork_strand(entry.id, entry.locale, strand, revision=revision, note=note)
    shown(made, as_json)


def listing(name: Named, locale: Locale = "", as_json: Json = False) -> None:
    """The strands of an entry in a locale.

    Example: hawthorn strand list "Winter opening hours"
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        found = hawthorn.strands(entry.id, entry.locale)
    if as_json:
        print_json(found)
        return
    if not found.items:
        tell("cli.strands.none_open")
        return
    made = drawing.table("strand", "forked_from", "now_at", "by", "changed", "")
    for one in found.items:
        made.add_row(
            escape(one.name),
            str(one.forked_from or ""),
            str(one.revision or ""),
            escape(one.by),
            drawing.when(one.changed_at) if one.changed_at else "",
            marked("cli.strands.open") if one.open else escape(one.ended),
        )
    out.print(made)


def save(
    name: Named,
    strand: Strand,
    set: Set = None,
    locale: Locale = "",
    note: Annotated[str, typer.Option(help="Why.")] = "",
    as_json: Json = False,
) -> None:
    """Save fields in a strand; the draft stays as it is.

    Example: hawthorn strand save "Winter opening hours" Rewording --set title="Open in winter"
    """
    with service() as hawthorn:
        found = entry_named(hawthorn, name, locale)
        entry = hawthorn.entry(found.id, found.locale, strand=strand)
        fields = values(hawthorn, entry.type, set or [])
        if not fields:
            stop("cli.shared.nothing_to_save")
        base = lastread.etag(entry.id, entry.locale, strand) or entry.etag
        result = hawthorn.save(entry.id, entry.locale, fields, etag=base, note=note, strand=strand)
    if as_json:
        print_json(result)
    else:
        shown(result.entry, False)


def propose(
    name: Named, strand: Strand, take: Take = None, locale: Locale = "", as_json: Json = False
) -> None:
    """Show what merging a strand would do.

    Example: hawthorn strand propose "Winter opening hours" Rewording --take title
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        found = hawthorn.proposal(entry.id, entry.locale, strand, take=take)
    if as_json:
        print_json(found)
    else:
        _proposed(found)


def _proposed(found: wire.content.Proposal) -> None:
    for code, fields in (
        ("cli.strands.would_be_merged", found.taken),
        ("cli.strands.would_be_left", found.left),
    ):
        if fields:
            tell(code)
        for field in fields:
            out.print(f"  [dim]{escape(field.label)}[/dim]")
            for part in field.parts:
                if part.how != "same":
                    out.print(
                        "    ",
                        f"[dim]{escape(part.label)}[/dim] " if part.label else "",
                        drawing.runs(part.runs),
                        sep="",
                    )
    for conflict in found.conflicts:
        tell("cli.strands.both_changed", label=conflict.label, place=conflict.place)
        tell("cli.strands.both_sides", ours=conflict.ours, theirs=conflict.theirs)
    if not found.taken and not found.conflicts:
        tell("cli.shared.it_would_change_nothing")
    if found.in_the_way:
        tell("cli.strands.in_the_way", what=found.in_the_way)
    places = or_none("cli.strands.none", [p.place for p in found.places])
    tell("cli.strands.places", places=places, etag=found.etag)


def merge(
    name: Named,
    strand: Strand,
    etag: Annotated[str, typer.Option(help="The ETag of the proposal that was looked at.")] = "",
    take: Take = None,
    decide: Annotated[
        list[str] | None,
        typer.Option(
            "--decide", metavar="PLACE=SIDE", help="For a place that both changed: strand, draft or both."
        ),
    ] = None,
    note: Annotated[str, typer.Option(help="Why.")] = "",
    locale: Locale = "",
    as_json: Json = False,
) -> None:
    """Bring a strand in, whole or in part. Without --etag it is shown and nothing is done.

    Example: hawthorn strand merge "Winter opening hours" Rewording --take title
    """
    decisions: dict[str, dict[str, Any]] = {}
    for one in decide or []:
        place, _, side = one.rpartition("=")
        if side not in ("strand", "draft", "both") or not place:
            stop("cli.strands.not_a_decision", one=one)
        decisions[place] = {"take": {"strand": "ours", "draft": "theirs"}.get(side, side)}
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        if not etag:
            _proposed(hawthorn.proposal(entry.id, entry.locale, strand, take=take, decisions=decisions))
            tell("cli.strands.nothing_is_done_yet")
            return
        made = hawthorn.accept_proposal(
            entry.id, entry.locale, strand, etag=etag, take=take, decisions=decisions, note=note
        )
    shown(made, as_json)


def drop(name: Named, strand: Strand, locale: Locale = "") -> None:
    """Drop a strand; it stays in the history and can be opened again.

    Example: hawthorn strand drop "Winter opening hours" Rewording
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        hawthorn.drop_strand(entry.id, entry.locale, strand)
    tell("cli.strands.is_dropped", strand=strand)


def reopen(name: Named, strand: Strand, locale: Locale = "", as_json: Json = False) -> None:
    """Open a strand again that was merged or dropped.

    Example: hawthorn strand reopen "Winter opening hours" Rewording
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        made = hawthorn.reopen_strand(entry.id, entry.locale, strand)
    shown(made, as_json)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(help="Work beside the draft, and merge it.", no_args_is_help=True)
    for name, function in (
        ("fork", fork),
        ("list", listing),
        ("save", save),
        ("propose", propose),
        ("merge", merge),
        ("drop", drop),
        ("reopen", reopen),
    ):
        group.command(name)(function)
    app.add_typer(group, name="strand", rich_help_panel="Writing and finding")
