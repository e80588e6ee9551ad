"""Help of commands in each language: the catalogue has what the commands say, and what is typed is the same in all."""

from __future__ import annotations

import json
import re
from importlib.resources import files

import pytest
from typer.main import get_command

from hawthorn.cli import helping
from hawthorn.cli.app import assembled
from hawthorn.messages import LANGUAGES, SOURCE, helps
from tests.service.test_languages import hawthorn

TYPED = re.compile(
    r"--[a-z-]+|`[^`]+`|[A-Z]{4,}_[A-Z]+|\{\w*\}|RFC [0-9]+|(?<![A-Za-z])[a-z]+[=~!][^\s;,؛،]+"
)
"""Options, commands, settings, places, standards, and what is given as a pair."""


def test_the_catalogue_has_what_the_commands_say() -> None:
    held = json.loads(files("hawthorn.messages").joinpath(SOURCE, "help.json").read_text("utf-8"))
    assert held == helping.words(get_command(assembled())), "run make reference"


def bare(typed: str) -> str:
    """Without its ending, and without the word that stands for what somebody gives."""
    return re.sub("[A-ZÜ]{2,}$", "", typed.rstrip(".:)"))


@pytest.mark.parametrize("language", [one for one in LANGUAGES if one != SOURCE])
def test_what_is_typed_is_the_same_in_each_language(language: str) -> None:
    theirs = helps(language)
    looked = 0
    for key, text in helps(SOURCE).items():
        typed, told = (set(map(bare, TYPED.findall(one))) for one in (text, theirs[key]))
        looked += len(typed)
        assert typed == told, key
    assert looked > 50


def test_help_is_in_the_language_that_is_spoken_and_says_how_it_is_used() -> None:
    said = hawthorn("job", "show", "--help", HAWTHORN_LANGUAGE="de", COLUMNS="100")
    assert said.returncode == 0
    for words in (
        "Gebrauch: ",
        "Ein Job, Einheit für Einheit.",
        "Diese Hilfe zeigen.",
        "verlangt",
        "Optionen",
        "Beispiel: hawthorn",
    ):
        assert words in said.stdout
    assert "أظهر هذه المساعدة." in hawthorn("--help", HAWTHORN_LANGUAGE="ar", COLUMNS="100").stdout
    assert "Afficher la version." in hawthorn(HAWTHORN_LANGUAGE="fr", COLUMNS="100").stdout
    english = hawthorn("job", "show", "--help", COLUMNS="100").stdout
    assert "Usage: " in english
    assert "A job, unit by unit." in english
    wrong = hawthorn("job", "show", HAWTHORN_LANGUAGE="fr", COLUMNS="100").stderr
    assert "Emploi : " in wrong
    assert "pour de l’aide" in wrong
