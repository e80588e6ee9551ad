"""The command line: assembling. A command loads the module that holds it and no other; help loads them all."""

from __future__ import annotations

import sys
from importlib import import_module
from typing import TYPE_CHECKING, Any

from hawthorn import __version__, wire

if TYPE_CHECKING:
    import typer

    app: typer.Typer

_EPILOG = (
    "Exit codes: 0 done, 1 another error, 2 wrong use, 3 not there, 4 not allowed, 5 wrong input, 6 a conflict, "
    "7 a condition does not hold, 8 no service."
)
PARTS: dict[str, tuple[str, ...]] = {
    "content.entries": ("entry", "find", "show", "save", "compare", "history"),
    "delivery.reading": ("read",),
    "local": ("serve", "demo", "settings", "doctor", "check", "add-person", "move-files", "change-key-file"),
    "taking_over": ("promote", "outbox"),
    "exchange.backups": ("backup",),
    "content.strands": ("strand",),
    "content.templates": ("template", "tags", "topics", "lists", "many"),
    "delivery.pages": (
        "outline", "move", "put-back", "copy-tree", "shown-in", "search-and-sharing", "site", "preview",
    ),
    "delivery.reading_lists": ("reading",),
    "delivery.types": ("types",),
    "delivery.webhooks": ("webhook",),
    "media.library": ("library", "file-into", "upload", "crops", "folder"),
    "release.review": ("my-work", "submit", "take-back", "sign", "send-back"),
    "collaboration.comments": (
        "move-on", "override", "comments", "comment", "reply", "resolve", "assign", "done", "who-is-here", "notifications",
    ),
    "release.going_out": ("release", "withdraw", "plan", "advance", "archive", "spread", "differences", "set"),
    "release.dispatches": ("dispatch",),
    "release.quiet_periods": ("quiet-period",),
    "release.calendars": ("calendar",),
    "translation.jobs": ("commission", "job"),
    "translation.commissions": ("commissions",),
    "translation.standing_commissions": ("standing",),
    "translation.memories": ("memory",),
    "translation.glossaries": ("glossary",),
    "views.figures": ("figures",),
    "translation.coverage": ("grid", "coverage", "drift", "still-fits"),
    "access.begin": ("begin", "join", "log-in", "log-out", "me", "why", "events", "key", "type"),
    "access.assistants": ("agent", "assistant"),
    "content.locales": ("locale",),
    "translation.bureaus": ("bureau",),
    "exchange.set_up": ("setup",),
    "exchange.receipts": ("verify", "receipt"),
    "exchange.packages": ("export", "import", "package"),
    "exchange.rows": ("mapping",),
    "catalogues": ("catalogue",),
    "access.account": ("password", "language", "log-ins", "sessions", "second-factor", "passkeys"),
    "access.people": ("person", "role", "workflow"),
}  # fmt: skip
"""The modules of commands, in the order of the help, each with the names of its commands."""


def assembled(asked: str = "") -> typer.Typer:
    """The command line with the module that holds a command, or with all of them."""
    import typer

    from hawthorn.cli import context

    made = typer.Typer(
        name="hawthorn",
        help="Drafts, reviews, translations and planned releases, going out exactly as approved.",
        epilog=_EPILOG,
        no_args_is_help=True,
        pretty_exceptions_enable=False,
        context_settings={"help_option_names": ["-h", "--help"]},
    )

    def print_version(value: bool) -> None:
        if value:
            context.out.print(f"hawthorn {__version__}")
            raise typer.Exit

    @made.callback()
    def main(
        version: bool = typer.Option(
            False, "--version", callback=print_version, is_eager=True, help="Print the version."
        ),
    ) -> None:
        """Where commands begin."""

    holding = [part for part, names in PARTS.items() if asked in names]
    for part in holding or PARTS:
        import_module(f"hawthorn.cli.{part}").install(made)
    return made


def __getattr__(name: str) -> Any:
    if name != "app":
        raise AttributeError(name)
    globals()["app"] = assembled()
    return globals()["app"]


def main() -> None:
    """The entry point of `hawthorn`."""
    given = sys.argv[1:]
    if given == ["--version"]:
        print(f"hawthorn {__version__}")
        return
    asked = next((word for word in given if not word.startswith("-")), "")
    wire.DEFER = asked not in (*PARTS["local"], *PARTS["exchange.backups"])
    from typer.main import get_command

    command = get_command(assembled(asked))
    from hawthorn.cli import context, helping
    from hawthorn.core.errors import HawthornError
    from hawthorn.messages import WORDS, speaking

    language = context.language()
    helping.speak(command, language)
    with speaking(language):
        try:
            command()
        except HawthornError as error:
            context.say_error(WORDS.text(error.message), WORDS.remedy(error))
            sys.exit(1)
        except KeyboardInterrupt:
            sys.exit(130)


if __name__ == "__main__":
    main()
