"""Files are shown to a scanner for malware before they are kept: over real sockets, with one that speaks the protocol of clamd."""

from __future__ import annotations

import hashlib
import io
import json
import socketserver
import struct
import threading
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from PIL import Image

from hawthorn.client import Client, Refusal
from hawthorn.core.errors import ScannerFails
from hawthorn.operations.content import entries
from hawthorn.operations.exchange.packages import Choice
from hawthorn.operations.media import files, uploads
from hawthorn.service.settings import Settings
from hawthorn.store import scanner
from tests.conftest import free_port
from tests.exchange import made as exchange
from tests.exchange.test_rows import give, looked
from tests.service.made import House, serving
from tests.sources import calls

SEAL = b"a made-up seal"
"""What the scanner takes for malware."""


class Clamd(socketserver.ThreadingTCPServer):
    """A scanner that finds one thing, takes so many bytes, and behaves unless it is told otherwise."""

    daemon_threads = True
    allow_reuse_address = True
    most = 10_000_000
    says = b""
    """What it says whatever it is shown."""
    slow = 0.0
    looked = 0
    """How many files it was shown."""


class _Looking(socketserver.StreamRequestHandler):
    server: Clamd

    def handle(self) -> None:
        if self.rfile.readline() != b"nINSTREAM\n":
            self.wfile.write(b"Made-up 1.0\n")
            return
        seen = b""
        while size := struct.unpack("!L", self.rfile.read(4))[0]:
            seen += self.rfile.read(size)
            if len(seen) > self.server.most:
                self.wfile.write(b"INSTREAM size limit exceeded. ERROR\n")
                return
        self.server.looked += bool(seen)
        time.sleep(self.server.slow)
        found = b"stream: Made-Up.Seal FOUND" if SEAL in seen else b"stream: OK"
        self.wfile.write((self.server.says or found) + b"\n")


@pytest.fixture
def clamd() -> Iterator[Clamd]:
    with Clamd(("127.0.0.1", 0), _Looking) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield server
        server.shutdown()


@pytest.fixture
def house(tmp_path: Path, clamd: Clamd) -> Iterator[House]:
    made = House(tmp_path)
    made.desk.scanner = scanner.opened(f"127.0.0.1:{clamd.server_address[1]}")
    yield made
    made.close()


def picture(seal: bytes = b"") -> bytes:
    """A picture, with something behind its end, which is gone once it is cleaned."""
    drawn = io.BytesIO()
    Image.new("RGB", (30, 20), "teal").save(drawn, "PNG")
    return drawn.getvalue() + seal


def kept(house: House) -> int:
    with house.desk.db.read() as conn:
        return int(conn.execute("SELECT count(*) FROM file").fetchone()[0])


def happened(house: House, kind: str) -> list[tuple[str, dict[str, object]]]:
    """Who did something of a kind, and what the log says of it."""
    with house.desk.db.read() as conn:
        return [
            (handle, json.loads(told))
            for handle, told in conn.execute(
                "SELECT a.handle, p.json FROM event e JOIN event_payload p ON p.seq = e.seq JOIN actor a ON a.id = e.actor WHERE e.kind = ?",
                (kind,),
            )
        ]


def test_what_the_scanner_finds_is_not_kept_by_any_way_in_and_is_in_the_log(
    house: House, clamd: Clamd
) -> None:
    headers = {"Authorization": f"Bearer {house.log_in('wim')}"}
    with serving(house) as (_, url), httpx.Client(base_url=url, headers=headers, timeout=30) as http:
        at_once = http.post("/api/files", files={"file": ("pier.png", picture(SEAL))})
        assert (at_once.status_code, at_once.json()["code"]) == (422, "files.malware")
        assert "Made-Up.Seal" in at_once.json()["detail"]
        begun = http.post(
            "/api/uploads",
            headers={
                "Tus-Resumable": "1.0.0",
                "Upload-Length": str(len(picture(SEAL))),
                "Upload-Metadata": "filename cGllci5wbmc=",
            },
        )
        part = {
            "Tus-Resumable": "1.0.0",
            "Upload-Offset": "0",
            "Content-Type": "application/offset+octet-stream",
        }
        in_parts = http.patch(begun.headers["location"], headers=part, content=picture(SEAL))
        assert (in_parts.status_code, in_parts.json()["code"]) == (422, "files.malware")
        assert http.get("/api/uploads").json()["items"] == []
        assert kept(house) == 0
        assert http.post("/api/files", files={"file": ("pier.png", picture())}).status_code == 201
    refused = happened(house, "file.refused")
    assert [(who, told["name"], told["found"]) for who, told in refused] == [
        ("wim", "pier.png", "Made-Up.Seal")
    ] * 2
    assert clamd.looked == 3


def test_files_of_packages_are_shown_to_it_too(house: House, clamd: Clamd, tmp_path: Path) -> None:
    (tmp_path / "other").mkdir()
    elsewhere = House(tmp_path / "other")
    stored = files.inspect("sounds.pdf", b"%PDF-1.7\n" + SEAL + b"\n%%EOF\n")
    value = elsewhere.do("ida", lambda act: files.keep(act, stored))
    elsewhere.do("ida", lambda act: entries.start(act, "document", "en", {"title": "Pier", "file": value}))
    package = exchange.exported(elsewhere.desk, elsewhere.who("ida"), tmp_path / "p.zip", Choice())
    elsewhere.close()
    found = exchange.work(house.desk, exchange.given(house.desk, house.who("ida"), package))
    assert found.state == "failed"
    assert "Made-Up.Seal" in found.trouble
    assert [told["name"] for _, told in happened(house, "file.refused")] == ["sounds.pdf"]
    assert kept(house) == 0


def test_a_picture_of_a_page_that_is_not_told_of_just_now_is_not_left_out(house: House, clamd: Clamd) -> None:
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w") as archive:
        archive.writestr("tides.md", "# Tides\n\n![High water](high_water.png) ![Low water](low_water.png)")
        archive.writestr("high_water.png", picture())
        archive.writestr("low_water.png", picture(SEAL))
    clamd.says = b"stream: Can't allocate memory ERROR"
    found = exchange.work(house.desk, give(house, made.getvalue(), "site.zip", type="page"))
    assert found.state == "failed"
    assert "does not look through files" in found.trouble
    clamd.says = b""
    _, report = looked(house, made.getvalue(), "site.zip", type="page")
    assert report["files"] == 1
    assert "Made-Up.Seal" in report["named"][0]["why"]


def test_where_the_scanner_cannot_tell_nothing_is_kept_and_it_can_come_again(
    house: House, clamd: Clamd
) -> None:
    headers = {"Authorization": f"Bearer {house.log_in('wim')}"}
    with serving(house) as (_, url), httpx.Client(base_url=url, headers=headers, timeout=30) as http:

        def give(data: bytes = picture()) -> tuple[int, str]:
            answer = http.post("/api/files", files={"file": ("pier.png", data)})
            return answer.status_code, answer.json().get("code", "")

        for said in (b"stream: Can't allocate memory ERROR", b"whatever", b"\xff\xfe", b" "):
            clamd.says = said
            assert give() == (503, "scanner.fails"), said
        clamd.says = b""
        clamd.most = 10
        status, code = give(picture(bytes(3_000_000)))
        assert (status, code in {"scanner.too_long", "scanner.hung_up"}) == (503, True), code
        clamd.most = 10_000_000
        house.desk.scanner = scanner.opened(f"127.0.0.1:{free_port()}")
        assert give() == (503, "scanner.fails")
        assert kept(house) == 0
        house.desk.scanner = scanner.opened(f"127.0.0.1:{clamd.server_address[1]}")
        assert give() == (201, "")


def test_an_upload_that_the_scanner_could_not_tell_anything_of_goes_on_with_its_last_byte(
    house: House, clamd: Clamd
) -> None:
    with serving(house) as (_, url), Client(url) as wim:
        wim.log_in("wim", "long enough")
        data = picture()
        id = wim.begin_upload("pier.png", len(data))
        clamd.says = b"stream: Can't allocate memory ERROR"
        for at in (0, len(data) - 1):
            with pytest.raises(Refusal, match="does not look through files"):
                wim.append_upload(id, at, data[at:])
            assert [(u.id, u.offset) for u in wim.uploads().items] == [(id, len(data) - 1)]
        clamd.says = b""
        assert wim.append_upload(id, len(data) - 1, data[-1:]) == len(data)
        value = wim.upload_state(id).file
        assert value is not None
        assert value.sha256 == hashlib.sha256(data).hexdigest()
        assert list(uploads.folder(house.desk).iterdir()) == []


def test_while_the_scanner_is_slow_few_wait_for_it(house: House, clamd: Clamd, tmp_path: Path) -> None:
    clamd.slow = 4
    path = tmp_path / "pier.png"
    path.write_bytes(picture())
    told: list[str] = []

    def give() -> None:
        try:
            files.looked_through(house.desk, house.who("wim"), "pier.png", path)
            told.append("taken")
        except ScannerFails as error:
            told.append(error.message.code)

    threads = [threading.Thread(target=give) for _ in range(scanner.AT_ONCE + 4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(60)
    assert sorted(told) == ["scanner.many_wait"] * 4 + ["taken"] * scanner.AT_ONCE


@pytest.mark.parametrize("address", ["nowhere", "127.0.0.1", "http://x:1/y", "x:port", ":3310"])
def test_an_address_that_is_none_is_refused_by_the_settings(address: str) -> None:
    with pytest.raises(ValueError, match=r"wrong_setting\.scanner|port"):
        Settings(scanner=address)


def test_nothing_that_is_given_is_looked_through_past_the_scanner() -> None:
    # The demo's own files are drawn by itself.
    callers = {
        path.name
        for path, name, _ in calls()
        if name.rsplit(".", 1)[-1] in ("inspect", "inspect_path") and path.parent.name != "demo"
    }
    assert callers == {"files.py"}
