"""Figures from the command line: how long the work stays where, what waits, what came back, what went out, how far translations keep up."""

from __future__ import annotations

from functools import partial
from typing import Annotated, cast

import typer
from rich.markup import escape
from rich.table import Table

from hawthorn import wire
from hawthorn.cli import drawing, sheets
from hawthorn.cli.context import Json, marked, out, print_json, resolve, service, tell
from hawthorn.cli.sheets import Sheet
from hawthorn.client.paging import every
from hawthorn.core.messages import said

_WEEKS_SHOWN = 8


def figures(
    weeks: Annotated[int, typer.Option(help="So many weeks, until this one.", min=1, max=104)] = 13,
    type: Annotated[str, typer.Option(help="Only entries of this type.")] = "",
    section: Annotated[str, typer.Option(help="Only entries of this section.")] = "",
    locale: Annotated[str, typer.Option(help="Only this locale.")] = "",
    person: Annotated[
        str, typer.Option(help="Only what this person let go on, by handle; for who may see people.")
    ] = "",
    behind: Annotated[
        str,
        typer.Option(
            help="The entries behind a number: stay, reviewed, sent-back, release, following or waiting."
        ),
    ] = "",
    stage: Annotated[str, typer.Option(help="With --behind stay: the stage, such as draft.")] = "",
    week: Annotated[str, typer.Option(help="With --behind: the week, by its Monday.", metavar="DAY")] = "",
    limit: Annotated[int, typer.Option(help="With --behind: so many entries at most.", min=1, max=200)] = 50,
    sheet: Sheet = None,
    as_json: Json = False,
) -> None:
    """Figures: how long the work stays at each stage, what waits longest and for whom, what came back and why, what went out and how late, how far
    translations keep up, and what bureaus and machines did.

    Example: hawthorn figures --weeks 26 --type notice

    Example: hawthorn figures --behind stay --stage draft --sheet drafts.xlsx
    """
    with service() as hawthorn:
        about = {"weeks": weeks, "type": type, "locale": locale, "person": person}
        if section:
            about["section"] = resolve(hawthorn, section)
        if behind or sheet is not None:
            kind = cast(wire.figures.FigureKind, behind or "stay")
            asked = partial(hawthorn.behind_figures, kind, stage=stage, week=week, **about)  # type: ignore[arg-type]
            if sheet is not None:
                sheets.write(sheet, every(asked))
                return
            lines = asked(limit=limit)
        else:
            found = hawthorn.figures(**about)  # type: ignore[arg-type]
    if as_json:
        print_json(lines if behind else found)
    elif behind:
        _show_lines(lines)
    else:
        _show(found)


def _show(found: wire.figures.Figures) -> None:
    for code, part in (
        ("stays", _stays(found)),
        ("waiting", _waiting(found)),
        ("returns", _returns(found)),
        ("releases", _releases(found)),
        ("translated", _translated(found)),
        ("bureaus", _bureaus(found)),
        ("following", _following(found)),
    ):
        out.print(f"[bold]{marked(f'cli.figures.head.{code}')}[/bold]")
        out.print(part if part.row_count else marked("cli.figures.none"))
        out.print()
    looked_at = found.machine.kept + found.machine.changed
    if looked_at:
        tell("cli.figures.machine", kept=found.machine.kept, count=looked_at)
    tell("cli.figures.counted", at=found.counted)


def _span(seconds: float | None) -> str:
    return "–" if seconds is None else marked("cli.figures.span", span=seconds)


def _share(percent: float | None) -> str:
    return "–" if percent is None else marked("cli.figures.share", percent=percent)


def _spread(of: wire.figures.Spread) -> list[str]:
    return [str(of.count), _span(of.median), _span(of.ninetieth)]


def _stays(found: wire.figures.Figures) -> Table:
    made = drawing.table("stage", "count", "median", "ninetieth")
    for one in found.stages:
        made.add_row(escape(one.label), *_spread(one.whole))
    return made


def _waiting(found: wire.figures.Figures) -> Table:
    made = drawing.table("entry", "locale", "stage", "how_long", "for")
    for one in found.waiting:
        whom = one.assigned or ", ".join(one.whom)
        made.add_row(
            drawing.title(one.title),
            one.locale,
            escape(one.label),
            _span(one.seconds),
            escape(whom),
        )
    return made


def _returns(found: wire.figures.Figures) -> Table:
    made = drawing.table("entry", "locale", "when", "by", "why")
    for one in found.returns.latest[:_WEEKS_SHOWN]:
        made.add_row(
            drawing.title(one.title), one.locale, drawing.when(one.at), escape(one.by), escape(one.reason)
        )
    return made


def _releases(found: wire.figures.Figures) -> Table:
    made = drawing.table("week", "entries_out", "dispatches", "late", "reviews", "sent_back")
    rows = zip(
        found.weeks,
        found.releases.editions,
        found.releases.dispatches,
        found.releases.late,
        found.returns.decided,
        found.returns.sent_back,
        strict=True,
    )
    for week, *counts in [*rows][-_WEEKS_SHOWN:]:
        made.add_row(marked("cli.figures.week", day=week), *(str(one) for one in counts))
    return made


def _translated(found: wire.figures.Figures) -> Table:
    made = drawing.table("locale", "words_current", "share_before")
    for one in found.translated:
        share = round(100 * one.current / one.words) if one.words else 0
        told = said("cli.coverage.words", current=one.current, words=one.words, percent=share)
        first = next((week for week in one.weeks if week is not None), None)
        made.add_row(
            escape(one.name),
            marked("common.words", words=told),
            _share(first),
        )
    return made


def _bureaus(found: wire.figures.Figures) -> Table:
    made = drawing.table("bureau", "jobs", "words", "median", "ninetieth", "sent_back")
    for one in found.bureaus:
        made.add_row(
            escape(one.name) or marked("cli.figures.own_people"),
            str(one.jobs),
            str(one.words),
            *_spread(one.took)[1:],
            marked("cli.figures.of_units", count=one.sent_back, units=one.units),
        )
    return made


def _following(found: wire.figures.Figures) -> Table:
    made = drawing.table("count", "median", "ninetieth", "not_yet")
    if found.following.whole.count or found.following.open:
        made.add_row(*_spread(found.following.whole), str(found.following.open))
    return made


def _show_lines(found: wire.figures.FigureLines) -> None:
    if not found.items:
        tell("cli.figures.none")
        return
    made = drawing.table("entry", "locale", "stage", "came", "how_long", "outcome", "by", "why")
    for one in found.items:
        made.add_row(
            drawing.title(one.title),
            one.locale,
            escape(one.label),
            drawing.when(one.came),
            _span(one.seconds),
            escape(one.how),
            escape(one.by),
            escape(one.reason),
        )
    out.print(made)
    if found.next:
        tell("cli.coverage.more")


def install(app: typer.Typer) -> None:
    """Add these commands."""
    app.command(rich_help_panel="Look")(figures)
