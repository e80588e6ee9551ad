"""In which language the service answers, over HTTP: the one that a request asks for, whoever asks."""

from __future__ import annotations

import importlib
import json
import os
import pkgutil
import re
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from pydantic import BaseModel, ValidationError

from hawthorn import wire
from hawthorn.client import Client, Refusal
from hawthorn.demo.museum import PASSWORD
from hawthorn.messages import ENGLISH, Catalogue
from hawthorn.service import models
from hawthorn.service.settings import Settings
from tests.conftest import Running
from tests.service.test_http import token


def test_a_refusal_is_in_the_language_that_is_asked_for_and_says_which_that_is(http: httpx.Client) -> None:
    said = {}
    for wanted in ("", "de", "fr-CA, en;q=0.5", "ar", "nl, *;q=0.1"):
        answer = http.get("/api/entries", headers={"Accept-Language": wanted} if wanted else {})
        assert answer.status_code == 401
        assert "Accept-Language" in answer.headers["vary"]
        said[wanted] = (answer.headers["content-language"], answer.json()["detail"], answer.json()["code"])
    code = "context.not_logged_in"
    assert said == {
        "": ("en", "You are not logged in.", code),
        "de": ("de", "Sie sind nicht angemeldet.", code),
        "fr-CA, en;q=0.5": ("fr", "Vous n’êtes pas connecté.", code),
        "ar": ("ar", "لم تسجّل الدخول.", code),
        "nl, *;q=0.1": ("en", "You are not logged in.", code),
    }


def test_too_large_a_request_is_refused_in_the_language_of_whoever_sent_it(http: httpx.Client) -> None:
    answer = http.post("/api/session", content=b"x" * 3_000_000, headers={"Accept-Language": "de"})
    assert "Byte" in answer.json()["detail"]
    assert answer.json()["title"] == "Zu groß"


def test_the_set_up_has_words_of_each_language_and_an_entity_tag_for_each(
    running: Running, http: httpx.Client
) -> None:
    me = token(http, "ida")
    found = {
        tag: http.get("/api/setup", headers={**me, "Accept-Language": tag}) for tag in ("en", "de", "ar")
    }
    labels = {tag: {k["name"]: k["label"] for k in one.json()["kinds"]}["tags"] for tag, one in found.items()}
    assert labels == {"en": "Tags", "de": "Schlagwörter", "ar": "وسوم"}
    assert len({one.headers["etag"] for one in found.values()}) == 3
    german = {**me, "Accept-Language": "de"}
    assert (
        http.get("/api/setup", headers={**german, "If-None-Match": found["de"].headers["etag"]}).status_code
        == 304
    )
    assert (
        http.get("/api/setup", headers={**german, "If-None-Match": found["en"].headers["etag"]}).status_code
        == 200
    )


def test_what_readers_get_does_not_hang_on_words_of_ours(running: Running, http: httpx.Client) -> None:
    page = running.out("Read in any language")
    answers = [
        http.get(f"/read/entries/{page.id}?locale=en", headers={"Accept-Language": tag}).content
        for tag in ("en", "de", "ar")
    ]
    assert len(set(answers)) == 1


def test_a_person_chooses_a_language_and_the_client_asks_for_one(running: Running) -> None:
    with Client(running.url, language="de") as german:
        with pytest.raises(Refusal) as refused:
            german.me()
        assert refused.value.problem.detail == "Sie sind nicht angemeldet."
        session = german.log_in("tomas", PASSWORD)
        assert session.me.language == ""
        mine = german.account()
        assert german.set_profile(mine.name, mine.zone, "fr").language == "fr"
        assert german.me().language == "fr"
        assert german.set_profile(mine.name, mine.zone).language == "fr", "what is not given stays"
        with pytest.raises(Refusal) as refused:
            german.set_profile(mine.name, mine.zone, "tlh")
        assert refused.value.problem.problems[0].where == "language"
        assert german.set_profile(mine.name, mine.zone, "").language == ""


def hawthorn(*words: str, **around: str) -> subprocess.CompletedProcess[str]:
    bare = {k: v for k, v in os.environ.items() if not k.startswith(("HAWTHORN", "LC_", "LANG"))}
    return subprocess.run(
        [sys.executable, "-m", "hawthorn.cli.app", *words],
        capture_output=True,
        text=True,
        env={**bare, **around},
        timeout=60,
    )


def test_commands_speak_what_is_set_then_what_was_chosen_then_what_the_machine_says(
    running: Running, tmp_path: Path
) -> None:
    home = {"XDG_CONFIG_HOME": str(tmp_path)}
    # Nothing listens there.
    silent = {**home, "HAWTHORN_URL": "http://127.0.0.1:9"}
    assert "Start it with" in hawthorn("me", **silent).stderr
    assert "Starten Sie ihn" in hawthorn("me", LANG="de_DE.UTF-8", **silent).stderr
    assert "Démarrez-le" in hawthorn("me", LC_ALL="fr_FR.UTF-8", LANG="de_DE.UTF-8", **silent).stderr
    assert "شغّلها" in hawthorn("me", HAWTHORN_LANGUAGE="ar", LANG="de_DE.UTF-8", **silent).stderr
    assert "Start it with" in hawthorn("me", LANG="nl_NL.UTF-8", **silent).stderr
    here = {**home, "HAWTHORN_URL": running.url, "HAWTHORN_PASSWORD": PASSWORD}
    assert hawthorn("log-in", "jonas", **here).returncode == 0
    chosen = hawthorn("language", "fr", **here)
    assert chosen.stdout.startswith("On vous parle en Français."), chosen.stderr
    missing = hawthorn("show", "nothing-of-the-kind", LANG="de_DE.UTF-8", **here)
    assert "Rien ne s’appelle « nothing-of-the-kind »." in missing.stderr
    assert "language of the house" in hawthorn("language", "house", **here).stdout


def test_words_of_the_program_go_out_and_come_in_by_command(tmp_path: Path) -> None:
    file = tmp_path / "words.xlf"
    assert hawthorn("catalogue", "export", "../de", str(file)).returncode == 2
    assert "words.xlf" in hawthorn("catalogue", "export", "de", str(file)).stdout
    text = file.read_text("utf-8")
    place = '<ph id="1" canCopy="no" canDelete="no" canReorder="yes" dataRef="d1"/>'
    spoiled = text.replace(f"<target>{place} ist gelöscht.", "<target>Gelöscht.", 1)
    assert spoiled != text
    file.write_text(spoiled, "utf-8")
    refused = hawthorn("catalogue", "import", str(file), HAWTHORN_LANGUAGE="en")
    assert refused.returncode == 5
    assert "service/cli: cli.begin.is_deleted: lacks {{name}}" in refused.stderr
    assert "nothing was taken in" in refused.stderr
    file.write_text("<x/>", "utf-8")
    assert hawthorn("catalogue", "import", str(file)).returncode == 5


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ({}, "handle: fehlt"),
        ({"handle": 5, "password": "x"}, "handle: muss ein Text sein"),
        ({"handle": "x", "password": "x", "kind": "y"}, "kind: bedeutet hier nichts"),
        ([], "muss ein Objekt sein"),
    ],
)
def test_what_the_models_refuse_is_in_the_language_that_is_asked_for(
    http: httpx.Client, body: object, says: str
) -> None:
    answer = http.post("/api/session", json=body, headers={"Accept-Language": "de"})
    assert answer.status_code == 422
    assert says in answer.json()["detail"]
    assert answer.json()["problems"][0]["what"] in answer.json()["detail"]
    assert not re.search(r"Input|Field|should|Extra", answer.text)


def test_every_kind_of_error_that_the_models_find_has_words_that_fit() -> None:
    """Whatever is of a kind that is worded is said without English of the library."""
    from typing import Literal

    from pydantic import Field

    class Model(BaseModel, extra="forbid"):
        text: str = Field(min_length=2, max_length=3, pattern="^[a-z]*$")
        whole: int = Field(ge=1, le=5)
        part: float = Field(gt=0, lt=1)
        flag: bool
        some: list[int] = Field(min_length=1, max_length=2)
        one: Literal["a", "b"]
        table: dict[str, int]

    seen = set()
    for wrong in (
        {"text": "a", "whole": 0, "part": 0, "flag": "x", "some": [], "one": "c", "table": 5, "more": 1},
        {"text": "abcd", "whole": 9, "part": 1, "flag": None, "some": [1, 2, 3], "one": 1, "table": {}},
        {"text": 5, "whole": "x", "part": "x", "flag": [], "some": 1, "one": "a", "table": {"a": 1.5}},
        {"text": "AB", "whole": None, "part": None},
    ):
        with pytest.raises(ValidationError) as found:
            Model.model_validate(wrong)
        for error in found.value.errors():
            seen.add(error["type"])
            told = models.wrong(error)
            assert told.code.startswith("models."), error
            assert ENGLISH.text(told) != error["msg"]
    assert len(seen) >= 20, seen


ODD = (
    None, True, 1, 1.5, float("nan"), float("inf"), 10**5000, -1, 10**30, "", "x", "\ud800", "x" * 300_000, "9" * 6_000, "1e999",
    [], [1], [{}], {}, {"x": 1}, {1: 2},
)  # fmt: skip


def test_whatever_is_wrong_with_any_body_has_words_of_ours() -> None:
    seen = set()
    for module in pkgutil.iter_modules(wire.__path__):
        importlib.import_module(f"hawthorn.wire.{module.name}")
    every = [one for one in below(BaseModel) if one.__module__.startswith("hawthorn.wire")]
    for model in every:
        for name in model.model_fields:
            for odd in ODD:
                try:
                    model.model_validate({name: odd})
                except ValidationError as error:
                    seen |= {one["type"] for one in error.errors(include_url=False, include_input=False)}
    assert len(every) > 300
    assert len(seen) > 15
    assert seen <= set(models._WORDED)


def below(kind: type[BaseModel]) -> Iterator[type[BaseModel]]:
    for one in kind.__subclasses__():
        yield one
        yield from below(one)


@pytest.mark.parametrize(
    ("name", "value", "says"),
    [
        ("PORT", "99999999", "darf höchstens 65535 sein"),
        ("PORT", "x", "muss eine ganze Zahl sein"),
        ("BACKUP_ZONE", "Nowhere", "das ist keine Zeitzone"),
        ("SCANNER", "nowhere", "nennen Sie einen Rechner und einen Port"),
        ("FILE_STORE", "ftp://x", "weder ein Ordner noch"),
        ("LOG", "loud", "muss eines von"),
    ],
)
def test_a_setting_that_cannot_be_is_refused_in_the_language_that_is_spoken(
    monkeypatch: pytest.MonkeyPatch, name: str, value: str, says: str
) -> None:
    monkeypatch.setenv(f"HAWTHORN_{name}", value)
    with pytest.raises(ValidationError) as found:
        Settings()
    assert says in Catalogue("de").text(models.wrong(found.value.errors()[0]))


def test_what_settings_mean_is_said_in_the_language_that_is_spoken() -> None:
    said = hawthorn("settings", HAWTHORN_LANGUAGE="fr", COLUMNS="300")
    assert "Le fichier de données. HAWTHORN_FILE" in said.stdout
    assert said.stdout.count("HAWTHORN_") == len(Settings.model_fields)
    as_data = json.loads(hawthorn("settings", "--json", HAWTHORN_LANGUAGE="fr").stdout)
    assert next(one for one in as_data["items"] if one["name"] == "smtp_port")["means"] == "Son port."
