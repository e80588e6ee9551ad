"""The words of the program itself, out and in as XLIFF, for whoever translates them."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from hawthorn.cli.context import end_with, note_error, stop, tell


def export(
    language: Annotated[str, typer.Argument(help="The language (BCP 47), such as de.", metavar="LANGUAGE")],
    file: Annotated[Path, typer.Argument(help="The file to write.", metavar="FILE")],
) -> None:
    """Write all words of the program, with what is translated of them already, as XLIFF 2.1.

    Example: hawthorn catalogue export de words.xlf
    """
    from hawthorn.messages import translating

    if not language.isalpha():
        stop("cli.catalogues.no_language", language=language)
    file.write_bytes(translating.export(language))
    tell("cli.catalogues.written", file=file, language=language)


def take_in(
    file: Annotated[
        Path, typer.Argument(help="The file, translated.", metavar="FILE", exists=True, dir_okay=False)
    ],
) -> None:
    """Take in words of the program that were translated; one that does not fit is named, and then none is taken.

    Example: hawthorn catalogue import words.xlf
    """
    from hawthorn.core.errors import BadFile, Invalid
    from hawthorn.messages import translating

    try:
        with file.open("rb") as opened:
            language, done, left = translating.take_in(opened)
    except BadFile as error:
        end_with(error, "bad-file")
    except Invalid as error:
        for problem in error.facts["problems"][:_NAMED]:
            note_error("cli.context.problem", where=problem.where, what=problem.what)
        stop("cli.catalogues.not_taken", ends="invalid", count=len(error.facts["problems"]))
    tell("cli.catalogues.taken", language=language, count=done, left=left)


_NAMED = 50
"""So many texts that do not fit are named; whoever mends those finds the others."""


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(
        help="The words of the program itself, for whoever translates them.", no_args_is_help=True
    )
    group.command("export")(export)
    group.command("import")(take_in)
    app.add_typer(group, name="catalogue", rich_help_panel="In and out")
