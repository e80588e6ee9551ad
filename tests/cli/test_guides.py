"""Every command that a guide, a set-up for a machine, an example or the help of a command shows is one that there is, with options that it takes."""

from __future__ import annotations

import re
import shlex
from collections.abc import Iterator
from itertools import pairwise, product
from pathlib import Path
from typing import Any

import pytest
import typer
from typer.core import TyperGroup

from hawthorn.cli.app import assembled
from hawthorn.core import happenings
from hawthorn.operations.delivery import webhooks

ROOT = Path(__file__).parents[2]
SHOWN = [
    ROOT / "README.md",
    *sorted((ROOT / "docs").glob("*.md")),
    *sorted(one for one in (ROOT / "deploy").rglob("*") if one.is_file()),
    *sorted((ROOT / "examples").glob("*/README.md")),
    *sorted((ROOT / "src/hawthorn/cli").rglob("*.py")),
]
_BEFORE = r"(?:[A-Z_]+=\S+ )*(?:[^\s`]*/)?hawthorn "
_LINES = (
    re.compile(rf"^(?:\s*|#\s+)(?:\$ )?{_BEFORE}((?:[^\n\\]|\\\n)+)$", re.M),
    re.compile(r"(?:Example: |ExecStart=\S*/)(?<!`)hawthorn ([^\n]+?)\"*$", re.M),
    re.compile(rf"`{_BEFORE}([^`\n]+)`"),
)
"""A command in a line of its own, as an example, and within words."""
_ENDS = re.compile(r" \| | > | && | # |\s{3,}")
"""What comes after a command: where its output goes, and what is said of it."""


def commands(text: str) -> Iterator[list[str]]:
    """The commands that a text shows, in their words."""
    for pattern in _LINES:
        for found in pattern.finditer(text):
            line = _ENDS.split(re.sub(r"\\\n\s*", " ", found[1]))[0].strip()
            words = shlex.split(f'{line}"' if line.count('"') % 2 else line)
            if words and re.fullmatch(r"[a-z-]+", words[0]):
                # Several that differ in one word are written as one.
                each = [word.split("|") if re.fullmatch(r"[a-z|-]+", word) else [word] for word in words]
                yield from map(list, product(*each))


def taken(words: list[str]) -> None:
    """Read a command as the command line does, without doing it; raises `Strange` for what is none."""
    command: Any = typer.main.get_command(assembled(words[0]))
    context = command.make_context("hawthorn", [], resilient_parsing=True)
    rest = words
    while isinstance(command, TyperGroup) and rest:
        found = command.get_command(context, rest[0])
        if found is None:
            raise Strange(f"there is no command {rest[0]}")
        context = context.__class__(found, parent=context, info_name=rest[0])
        command, rest = found, rest[1:]
    if not isinstance(command, TyperGroup):
        try:
            command.make_context(command.name, [*rest], parent=context.parent)
        except Exception as error:
            # A command, or an option of it, may be named alone, and a file is there once somebody has it.
            alone = not rest or "…" in rest or str(error).endswith("requires an argument.")
            if not alone and "does not exist" not in str(error):
                raise Strange(str(error)) from None


class Strange(Exception):
    """What is shown is no command, or has options that it does not take."""


@pytest.mark.parametrize("file", [str(one.relative_to(ROOT)) for one in SHOWN])
def test_what_is_shown_can_be_typed(file: str) -> None:
    wrong = []
    for words in commands((ROOT / file).read_text("utf-8", "replace")):
        try:
            taken(words)
        except Strange as error:
            wrong.append((words, str(error)))
        events = [value for name, value in pairwise(words) if name == "--event"]
        known = (*webhooks.KINDS, *happenings.beginnings(webhooks.KINDS))
        if words[0] == "webhook":
            wrong += [(words, f"{one} is no event") for one in events if one not in known]
    assert wrong == []


def test_commands_are_found_wherever_they_are_shown() -> None:
    text = 'Say `hawthorn show x` or:\n\n    hawthorn plan y --at z \\\n      --name q   when it is due\n\nExample: hawthorn entry copy "A"\n'
    assert sorted(commands(text)) == [
        ["entry", "copy", "A"],
        ["plan", "y", "--at", "z", "--name", "q"],
        ["show", "x"],
    ]
    assert sum(len([*commands(one.read_text("utf-8", "replace"))]) for one in SHOWN) > 400
    with pytest.raises(Strange):
        taken(["webhook", "add", "x", "--nothing"])
