"""A new file, and nobody there: whoever starts the service makes the first person, once."""

from __future__ import annotations

import re
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import pytest

from hawthorn.client import Client, Refusal
from hawthorn.core.errors import NotFound
from hawthorn.operations.content import first_run
from hawthorn.operations.runtime.act import SCHEDULER_SELF
from hawthorn.service.app import open_desk
from hawthorn.service.settings import Settings
from tests.conftest import eventually, free_port

FIRST = {
    "handle": "ida",
    "name": "Ida Marlow",
    "email": "ida@house.example",
    "password": "the tide turns at six",
    "zone": "Europe/London",
    "locales": [{"tag": "cy", "name": "Cymraeg"}, {"tag": "en", "name": "English", "fallback": ["cy"]}],
    "type": "news",
}


@contextmanager
def started(file: Path) -> Iterator[tuple[str, list[str]]]:
    """The service as a program on a file: its address, and what it has printed so far."""
    port = free_port()
    serve = [sys.executable, "-m", "hawthorn.cli.app", "serve", "--file", str(file), "--port", str(port)]
    process = subprocess.Popen(serve, stderr=subprocess.PIPE, text=True)
    said: list[str] = []
    assert process.stderr is not None
    listening = threading.Thread(target=lambda: said.extend(iter(process.stderr.readline, "")), daemon=True)  # type: ignore[union-attr]
    listening.start()

    def ready() -> bool:
        try:
            return httpx.get(f"http://127.0.0.1:{port}/api/openapi.json").is_success
        except httpx.TransportError:
            return False

    try:
        eventually(ready, 30)
        yield f"http://127.0.0.1:{port}", said
    finally:
        process.terminate()
        process.wait(30)
        listening.join(10)
        process.stderr.close()


def printed(said: list[str]) -> str:
    found = re.search(r"(http\S+/welcome\?token=\S+)", " ".join(said))
    return found[1] if found else ""


def test_the_first_person_comes_by_the_address_that_is_printed_and_nobody_after_them(tmp_path: Path) -> None:
    file = tmp_path / "new.sqlite"
    with started(file) as (url, said):
        address = str(eventually(lambda: printed(said)))
        assert address.startswith(f"{url}/welcome?token=")
        token = address.rpartition("=")[2]
        assert httpx.get(address, headers={"Accept": "text/html"}).status_code == 200
        with httpx.Client(base_url=url) as http:
            assert http.post("/api/first-run", json={"token": "x" * 43}).status_code == 404
            offered = http.post("/api/first-run", json={"token": token}).json()
            assert [one["title"] for one in offered["types"]] == ["Page", "News", "Event"]
            for wrong in (
                {"password": "12345678"},
                {"locales": [{"tag": "no tag"}]},
                {"type": "poem"},
                {"handle": ""},
            ):
                refused = http.post("/api/first-run/take", json={"token": token, **FIRST, **wrong})
                assert refused.status_code == 422, wrong
            made = http.post("/api/first-run/take", json={"token": token, **FIRST})
            assert made.status_code == 200, made.text
            again = http.post("/api/first-run/take", json={"token": token, **FIRST, "handle": "eve"})
            assert again.status_code == 404
        with Client(url, made.json()["token"]) as ida, Client(url) as nobody:
            setup = ida.setup()
            assert [(one.tag, one.fallback) for one in setup.locales] == [("cy", []), ("en", ["cy"])]
            assert "news" in [one.name for one in setup.types]
            assert ida.start("news", {"title": "Agoriad"}, locale="cy").title == "Agoriad"
            assert ida.issue_key("Site", "reader", stages=["release"]).secret
            with pytest.raises(Refusal):
                nobody.log_in("ida", "the tide turns at seven")
            assert nobody.log_in("ida", str(FIRST["password"])).token
    with started(file) as (_, said):
        pass
    assert printed(said) == "", "somebody is there"


def test_an_address_ends_with_another_start_and_with_the_first_person(tmp_path: Path) -> None:
    desk = open_desk(Settings(file=tmp_path / "new.sqlite"))
    first, second = first_run.begin(desk), first_run.begin(desk)
    person = {key: str(FIRST[key]) for key in ("handle", "name", "email", "password", "zone")}

    def take(token: str) -> object:
        languages = [{"tag": "en"}]
        return desk.write(
            SCHEDULER_SELF, lambda a: first_run.take(a, token, person, languages, "", "a browser")
        )

    with pytest.raises(NotFound, match="no longer"):
        take(first)
    with pytest.raises(NotFound):
        take("")
    assert take(second)
    assert first_run.begin(desk) == ""
    with pytest.raises(NotFound):
        take(second)
    assert second.encode() not in (tmp_path / "new.sqlite").read_bytes()
    desk.db.close()
