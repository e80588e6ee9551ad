"""Coverage from the command line: what is missing or out of date, where."""

from __future__ import annotations

from typing import Annotated

import typer

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Json, marked, out, print_json, resolve, service, stop, tell
from hawthorn.core.messages import said

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
    made = drawing.table("locale", "words_current", also=[drawing.word("coverage", one) for one in states])
    for one in (x for x in found.locales if x.entries):
        share = round(100 * one.words_current / one.words) if one.words else 0
        words_told = marked("cli.coverage.words", current=one.words_current, words=one.words, percent=share)
        made.add_row(one.name, words_told, *(str(one.states[state]) for state in states))
    out.print(made)


Name = Annotated[str, typer.Argument(help="The entry.", metavar="ENTRY")]
Into = Annotated[str, typer.Option("--locale", help="The translation.", metavar="LOCALE")]


def drift(name: Name, locale: Into, as_json: Json = False) -> None:
    """What of a translation is due: the words of the source that changed since, what is new and what is gone.

    Example: hawthorn drift "Winter opening hours" --locale fr
    """
    with service() as hawthorn:
        found = hawthorn.entry_coverage(resolve(hawthorn, name), locale)
    if as_json:
        print_json(found)
        return
    made = drawing.table("locale", "state")
    names = {one.locale: one for one in found.cells}
    for tag, one in names.items():
        made.add_row(tag, _cell(one))
    out.print(made)
    if not found.due:
        tell("cli.coverage.nothing_due", locale=locale)
        return
    for due in found.due:
        tell(f"cli.coverage.how_{due.how}", key=due.key, label=due.label)
        if due.runs:
            out.print("   ", drawing.runs(due.runs))
        tell("cli.coverage.target", target=due.target or said("values.nothing"))


def still_fits(
    name: Name,
    locale: Into,
    unit: Annotated[
        list[str] | None, typer.Option(help="This text alone, by its key; may be given several times.")
    ] = None,
    as_json: Json = False,
) -> None:
    """Say that a translation still fits its source, after looking at what is due: all of it, or some texts.

    Example: hawthorn still-fits "Winter opening hours" --locale fr --unit title
    """
    with service() as hawthorn:
        id = resolve(hawthorn, name)
        due = {one.key: one.hash for one in hawthorn.entry_coverage(id, locale).due}
        unknown = [key for key in unit or () if key not in due]
        if unknown or not due:
            stop("cli.coverage.not_due", keys=unknown or [locale])
        found = hawthorn.still_fits(id, locale, {key: due[key] for key in unit or due})
    if as_json:
        print_json(found)
        return
    tell("cli.coverage.fits", count=len(unit or due), left=len(found.due))


def _asked(**given: str) -> dict[str, str]:
    return {name: value for name, value in given.items() if value}


def _cell(cell: wire.coverage.GridCell) -> str:
    if cell.state == "in a job":
        return marked("cli.coverage.in_a_job", percent=cell.percent)
    if cell.state == "none" or not cell.due:
        return drawing.word("coverage", cell.state)
    state = drawing.word("coverage", cell.state)
    return marked("cli.coverage.due", state=state, due=cell.due, units=cell.units)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Translation"
    app.command(rich_help_panel=panel)(grid)
    app.command("coverage", rich_help_panel=panel)(totals)
    app.command(rich_help_panel=panel)(drift)
    app.command("still-fits", rich_help_panel=panel)(still_fits)
