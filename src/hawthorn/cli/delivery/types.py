"""Types of what readers get, for programs in other languages."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from hawthorn.cli.context import out, service, tell


def types(
    language: Annotated[str, typer.Option(help="typescript or python.")] = "typescript",
    file: Annotated[
        Path | None, typer.Option("--file", help="The file to write; else it is printed.")
    ] = None,
) -> None:
    """Write types of what readers get: one for each content type, for a site in another language.

    Example: hawthorn types --language typescript --file museum.ts
    """
    with service() as hawthorn:
        text = hawthorn.read_types(language)
    if file is None:
        out.print(text, markup=False, highlight=False, soft_wrap=True)
        return
    file.write_text(text, "utf-8")
    tell("cli.types.written", path=file)


def install(app: typer.Typer) -> None:
    """Add this command."""
    app.command(rich_help_panel="Pages and pictures")(types)
