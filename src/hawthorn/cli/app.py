"""The command line: assembling."""

from __future__ import annotations

import sys

import typer

from hawthorn import __version__
from hawthorn.cli import (
    context,
    dispatching,
    entries,
    keeping,
    local,
    pages,
    people,
    reviewing,
    setting_up,
    strands,
    talking,
    translating,
)
from hawthorn.core.errors import HawthornError

_EPILOG = (
    "Exit codes: 0 done, 1 another error, 2 wrong use, 3 not there, 4 not allowed, 5 wrong input, 6 a conflict, "
    "7 a condition does not hold, 8 no service."
)
app = typer.Typer(
    name="hawthorn",
    help="Drafts, reviews, translations and planned releases, going out exactly as approved.",
    epilog=_EPILOG,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
)


def _version(value: bool) -> None:
    if value:
        context.out.print(f"hawthorn {__version__}")
        raise typer.Exit


@app.callback()
def _main(
    version: bool = typer.Option(
        False, "--version", callback=_version, is_eager=True, help="Print the version."
    ),
) -> None:
    """Where commands begin."""


entries.install(app, keeping.ENTRY)
for part in (
    local,
    strands,
    keeping,
    pages,
    reviewing,
    talking,
    dispatching,
    translating,
    setting_up,
    people,
):
    part.install(app)


def main() -> None:
    """The entry point of `hawthorn`."""
    try:
        app()
    except HawthornError as error:
        context.say_error(error.detail, error.remedy)
        sys.exit(1)
    except KeyboardInterrupt:
        sys.exit(130)


if __name__ == "__main__":
    main()
