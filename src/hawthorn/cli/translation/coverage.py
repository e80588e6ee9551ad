"""Coverage from the command line: what is missing or out of date, where."""

from __future__ import annotations

from typing import Annotated

import typer

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Json, marked, out, print_json, service, tell

Type = Annotated[str, typer.Option(help="Only entries of this type.")]
Owner = Annotated[str, typer.Option(help="Only entries that this person began, by handle.")]
Due = Annotated[str, typer.Option(help="Only entries in a job that is due on this day or before it.")]
Locale = Annotated[
    str, typer.Option("--locale", help="The locale that --state is about; any when not given.")
]
State = Annotated[
    str,
    typer.Option(help="none, “in a job”, draft, “out of date”, ready, out, or “out and out of date”."),
]
Words = Annotated[str, typer.Argument(help="Only entries with these words.")]


def grid(
    words: Words = "",
    type: Type = "",
    owner: Owner = "",
    due: Due = "",
    locale: Locale = "",
    state: State = "",
    limit: Annotated[int, typer.Option(help="So many entries at most.", min=1, max=200)] = 50,
    as_json: Json = False,
) -> None:
    """Entries against locales: what is missing, in a job, out of date, ready or out, with how many units are due.

    Example: hawthorn grid --locale fr --state "out of date"
    """
    with service() as hawthorn:
        asked = _asked(words=words, type=type, owner=owner, due=due, locale=locale, state=state)
        found = hawthorn.grid(asked, limit=limit)
        tags = [one.tag for one in hawthorn.setup().locales]
    if as_json:
        print_json(found)
        return
    if not found.items:
        tell("cli.jobs.nothing_fits")
        return
    made = drawing.table("entry", also=tags)
    for line in found.items:
        cells = {one.locale: _cell(one) for one in line.cells}
        told = [
            marked("cli.coverage.source", count=line.units)
            if tag == line.source_locale
            else cells.get(tag, "")
            for tag in tags
        ]
        made.add_row(drawing.title(line.title), *told)
    out.print(made)
    if found.next:
        tell("cli.coverage.more")


def totals(
    words: Words = "",
    type: Type = "",
    owner: Owner = "",
    due: Due = "",
    locale: Locale = "",
    state: State = "",
    as_json: Json = False,
) -> None:
    """How much is translated, by locale: entries in each state, units and words that are current.

    Example: hawthorn coverage --type notice
    """
    with service() as hawthorn:
        found = hawthorn.totals(
            _asked(words=words, type=type, owner=owner, due=due, locale=locale, state=state)
        )
    if as_json:
        print_json(found)
        return
    states = list(found.locales[0].states) if found.locales else []
    made = drawing.table("locale", "words", also=states)
    for one in found.locales:
        share = round(100 * one.words_current / one.words) if one.words else 0
        words_told = marked("cli.coverage.words", current=one.words_current, words=one.words, percent=share)
        made.add_row(one.name, words_told, *(str(one.states[state]) for state in states))
    out.print(made)


def _asked(**given: str) -> dict[str, str]:
    return {name: value for name, value in given.items() if value}


def _cell(cell: wire.translation.GridCell) -> str:
    if cell.state == "in a job":
        return marked("cli.coverage.in_a_job", percent=cell.percent)
    if cell.state == "none" or not cell.due:
        return cell.state
    return marked("cli.coverage.due", state=cell.state, due=cell.due, units=cell.units)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Translation"
    app.command(rich_help_panel=panel)(grid)
    app.command("coverage", rich_help_panel=panel)(totals)
