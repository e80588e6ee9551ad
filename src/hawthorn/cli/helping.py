"""Help of commands in other languages. In English it stands with the commands; the catalogues hold it under `help`, each text once, by where it stands first."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any

from hawthorn.messages import SOURCE, helps

_EXAMPLE = "Example:"
_FRAME = {
    "arguments": "ARGUMENTS_PANEL_TITLE",
    "options": "OPTIONS_PANEL_TITLE",
    "commands": "COMMANDS_PANEL_TITLE",
    "error": "ERRORS_PANEL_TITLE",
    "required": "REQUIRED_LONG_STRING",
    "default": "DEFAULT_STRING",
    "try-help": "RICH_HELP",
}
"""What the help of every command says around its own words, by its name in Typer."""
_ALONE = {"usage": "Usage:", "example": _EXAMPLE, "this-help": "Show this message and exit."}
"""What it says besides, which Typer has under no name."""
_REFUSED = {
    "refused-value": "Invalid value for {}: {}",
    "refused-option-possible": "No such option: {} (Possible options: {})",
    "refused-option": "No such option: {}",
    "refused-command-meant": "No such command {}. Did you mean {}?",
    "refused-command": "No such command {}.",
    "refused-missing-argument": "Missing argument {}.",
    "refused-missing-option-of": "Missing option {}. Choose from: {}",
    "refused-missing-option": "Missing option {}.",
    "refused-missing-command": "Missing command.",
    "refused-extra": "Got unexpected extra argument(s) ({})",
    "refused-without": "Option {} requires an argument.",
    "refused-with": "Option {} does not take a value.",
    "refused-whole-number": "Input should be a valid integer, unable to parse string as an integer",
    "refused-number": "Input should be a valid number, unable to parse string as a number",
    "refused-least": "Input should be greater than or equal to {}",
    "refused-most": "Input should be less than or equal to {}",
    "refused-choice": "{} is not one of {}.",
    "refused-no-file": "File {} does not exist.",
    "refused-no-folder": "Directory {} does not exist.",
    "refused-a-folder": "File {} is a directory.",
    "refused-shut": "File {} is not readable.",
}
"""How Typer says what is wrong with what was typed, with a place for each thing that is named; what is more particular comes first."""
Tree = dict[str, Any]


def words(command: Any) -> Tree:
    """All that help says in English, as the catalogue holds it: `help`, with a text for each key."""
    from typer import rich_utils

    out: dict[str, str] = {f"frame-{key}": getattr(rich_utils, name) for key, name in _FRAME.items()}
    out |= {f"frame-{key}": text for key, text in (_ALONE | _REFUSED).items()}
    known = set(out.values())
    for key, holder, name in _held(command, "hawthorn"):
        for at, paragraph in enumerate(_paragraphs(getattr(holder, name))):
            if paragraph not in known and not paragraph.startswith(_EXAMPLE):
                known.add(paragraph)
                out[f"{key}-{at + 1}" if at else key] = paragraph
    return {"help": out}


def speak(command: Any, language: str) -> None:
    """Have help of a command, and of those below it, say what it says in a language. Nothing is looked for in English, which is spoken where none is named."""
    if language in ("", SOURCE):
        return
    from typer import rich_utils

    theirs = helps(language)
    said = {text: theirs.get(key, text) for key, text in helps(SOURCE).items()}
    for name in _FRAME.values():
        english = getattr(rich_utils, name)
        setattr(rich_utils, name, said.get(english, english))
    for _, holder, name in list(_held(command, "hawthorn")):
        paragraphs = (
            said.get(one) or one.replace(_EXAMPLE, said.get(_EXAMPLE, _EXAMPLE), 1)
            for one in _paragraphs(getattr(holder, name))
        )
        setattr(holder, name, "\n\n".join(paragraphs))
    as_typer_says = rich_utils.rich_format_error

    def refused(error: Any) -> None:
        told = refusal(error.format_message(), said)
        error.format_message = lambda: told
        as_typer_says(error)

    shown: Any = rich_utils
    shown.rich_format_error = refused
    for one, _ in _commands(command, "hawthorn"):
        _made_when_asked(one, {text: said.get(text, text) for text in _ALONE.values()})


def refusal(english: str, said: Mapping[str, str]) -> str:
    """What is wrong with what was typed, as Typer says it, in the words of `said`; what it has no words for stays as it is."""
    flat = " ".join(english.split())
    for text in _REFUSED.values():
        found = re.fullmatch("(.+?)".join(map(re.escape, text.split("{}"))), flat)
        if found is not None:
            return said.get(text, text).format(*(refusal(part, said) for part in found.groups()))
    return english


def _made_when_asked(command: Any, said: dict[str, str]) -> None:
    """How a command is used, and its option for help, are made when they are asked for."""
    option_of, usage_of = command.get_help_option, command.get_usage

    def option(ctx: Any) -> Any:
        made = option_of(ctx)
        if made is not None:
            made.help = said[_ALONE["this-help"]]
        return made

    def usage(ctx: Any) -> str:
        return str(usage_of(ctx)).replace(_ALONE["usage"], said[_ALONE["usage"]], 1)

    command.get_help_option, command.get_usage = option, usage


def _commands(command: Any, key: str) -> Iterator[tuple[Any, str]]:
    yield command, key
    for name, one in getattr(command, "commands", {}).items():
        yield from _commands(one, f"{key}-{name}")


def _held(command: Any, root: str) -> Iterator[tuple[str, Any, str]]:
    """Where help stands: a key, what holds it, and under which name."""
    for one, key in _commands(command, root):
        for name, ends in (("help", ""), ("epilog", "-epilog"), ("rich_help_panel", "-panel")):
            if isinstance(getattr(one, name, None), str):
                yield f"{key}{ends}", one, name
        for param in one.params:
            if isinstance(getattr(param, "help", None), str):
                yield f"{key}--{param.name.replace('_', '-')}", param, "help"


def _paragraphs(text: str) -> list[str]:
    return [" ".join(part.split()) for part in text.split("\n\n") if part.strip()]
