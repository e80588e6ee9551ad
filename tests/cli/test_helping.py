"""Help of commands in each language: the catalogue has what the commands say, and what is typed is the same in all."""

from __future__ import annotations

import json
import re
from importlib.resources import files

import pytest
from typer.main import get_command

from hawthorn.cli import drawing, helping
from hawthorn.cli.app import assembled
from hawthorn.messages import LANGUAGES, SOURCE, helps, texts
from hawthorn.service import settings
from tests.service.test_languages import hawthorn

TYPED = re.compile(
    r"--[a-z-]+|`[^`]+`|[A-Z]{4,}_[A-Z]+|\{\w*\}|RFC [0-9]+|(?<![A-Za-z])[a-z]+[=~!][^\s;,؛،]+"
)
"""Options, commands, settings, places, standards, and what is given as a pair."""


def test_the_catalogue_has_what_the_commands_say() -> None:
    for name, said in (("help", helping.words(get_command(assembled()))), ("settings", settings.words())):
        held = json.loads(files("hawthorn.messages").joinpath(SOURCE, f"{name}.json").read_text("utf-8"))
        assert held == said, "run make reference"


def bare(typed: str) -> str:
    """Without its ending, and without the word that stands for what somebody gives."""
    return re.sub("[A-ZÜ]{2,}$", "", typed.rstrip(".:)"))


@pytest.mark.parametrize("language", [one for one in LANGUAGES if one != SOURCE])
def test_what_is_typed_is_the_same_in_each_language(language: str) -> None:
    theirs = helps(language) | texts(language)
    looked = 0
    meanings = {key: text for key, text in texts(SOURCE).items() if key.startswith("settings.")}
    for key, text in (helps(SOURCE) | meanings).items():
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


@pytest.mark.parametrize(
    ("typed", "said"),
    [
        (["find", "--nope"], "Diese Option gibt es nicht: --nope"),
        (["show"], "Es fehlt 'ENTRY'."),
        (["findx"], "Den Befehl 'findx' gibt es nicht. Meinten Sie 'find'?"),
        (["serve", "--port", "x"], "'--port' kann nicht so sein: gebraucht wird eine ganze Zahl"),
        (["serve", "a", "b"], "Das ist zu viel: a b"),
        (["serve", "--port"], "Die Option '--port' braucht einen Wert."),
        (["my-work"], "Unter http://127.0.0.1:9 antwortet kein Dienst"),
    ],
)
def test_what_is_typed_wrongly_is_said_in_the_language_that_is_spoken(typed: list[str], said: str) -> None:
    found = hawthorn(*typed, HAWTHORN_LANGUAGE="de", COLUMNS="160", HAWTHORN_URL="http://127.0.0.1:9")
    assert found.returncode != 0
    assert said in " ".join((found.stdout + found.stderr).split())


def test_what_states_and_verbs_are_called_is_in_the_catalogue() -> None:
    """Every code that a table or a line of a command shows has its word."""
    from typing import get_args

    from hawthorn import wire
    from hawthorn.core import access, dispatch, moves
    from hawthorn.core.translation import coverage, units
    from hawthorn.store import commissions

    codes = {
        "dispatch": dispatch.STATES,
        "coverage": coverage.STATES,
        "segment": units.STATES,
        "commission": commissions.STATES,
        "standing": get_args(wire.standing_commissions.StandingCommission.model_fields["state"].annotation),
        "import": get_args(wire.imports.FileImport.model_fields["state"].annotation),
        "package": get_args(wire.exchange.Package.model_fields["state"].annotation),
        "delivery": get_args(wire.delivery.Delivery.model_fields["state"].annotation),
        "hook": get_args(wire.delivery.Webhook.model_fields["state"].annotation),
        "move": [*moves.VERBS],
        "verb": access.VERBS,
    }
    for kind, known in codes.items():
        assert known, kind
        for code in known:
            assert drawing.word(kind, code), (kind, code)
