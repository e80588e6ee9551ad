"""Lists as tables for spreadsheets, written where the command runs."""

from __future__ import annotations

import json
from collections.abc import Iterable
from pathlib import Path
from typing import Annotated, Any

import typer

from hawthorn.cli.context import stop, tell

Sheet = Annotated[
    Path | None,
    typer.Option(
        "--sheet",
        help="Write all of them to this file, a table: its name ends in .csv or .xlsx.",
        dir_okay=False,
        metavar="FILE",
    ),
]
_FORMATS = ("csv", "xlsx")


def format_of(file: Path) -> str:
    """The format that a file's name asks for; ends the command where it asks for none."""
    found = file.suffix.lower().removeprefix(".")
    if found not in _FORMATS:
        stop("cli.entries.no_sheet", ends="invalid", file=file.name)
    return found


def write(file: Path, items: Iterable[Any]) -> None:
    """Write a list: a line for each record, a column for each of its members that any of them has."""
    # Few commands write tables, and what does so takes long to load.
    from hawthorn.core.exchange import sheet

    format = format_of(file)
    records = [one.model_dump(mode="json") for one in items]
    names = list(
        dict.fromkeys(
            name for one in records for name, value in one.items() if value not in (None, "", [], {})
        )
    )
    lines: list[sheet.Cells] = [names, *([_cell(one.get(name)) for name in names] for one in records)]
    with file.open("wb") as goal:
        if format == "xlsx":
            sheet.xlsx(lines, goal)
        else:
            goal.writelines(sheet.csv(lines))
    tell("cli.entries.in_sheet", file=file)


def _cell(value: Any) -> str | float:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, list) and all(isinstance(one, str) for one in value):
        return "; ".join(value)
    return value if isinstance(value, str | int | float) else json.dumps(value, ensure_ascii=False)
