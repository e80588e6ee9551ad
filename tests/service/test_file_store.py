"""Files that lie outside of the record file: in a folder, and in a store that speaks the protocol of S3."""

from __future__ import annotations

import hashlib
import io
import os
import stat
import threading
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import httpx
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from typer.testing import CliRunner

from hawthorn.cli.app import assembled as command_line
from hawthorn.client import Client, Refusal
from hawthorn.core.errors import FileStoreFails
from hawthorn.operations.access import logging_in
from hawthorn.operations.content import entries
from hawthorn.operations.media import files, moving, renditions
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.views import health
from hawthorn.service.settings import Settings
from hawthorn.store import connection, file_store
from hawthorn.store import files as store
from hawthorn.store import people as people_store
from hawthorn.store.file_store import Bucket, FileStore, Folder
from tests.service.made import House, serving

WAV = (
    b"RIFF"
    + (3_000_036).to_bytes(4, "little")
    + b"WAVEfmt \x10\0\0\0\1\0\1\0\x44\xac\0\0\x88\x58\1\0\2\0\x10\0data"
)
WAV += (3_000_000).to_bytes(4, "little") + bytes(range(250)) * 12_000
"""Three megabytes of sound: more than one part."""


@pytest.fixture(params=["folder", "bucket"])
def place(request: pytest.FixtureRequest, tmp_path: Path) -> str:
    """Where files lie, as the setting names it."""
    if request.param == "folder":
        return str(tmp_path / "files")
    return f"s3://museum/{tmp_path.name}?endpoint={request.getfixturevalue('endpoint')}"


def at(place: str) -> FileStore:
    found = file_store.opened(place)
    assert found is not None
    return found


@pytest.fixture
def house(tmp_path: Path, place: str) -> Iterator[House]:
    made = House(tmp_path, file_store=at(place))
    yield made
    made.close()


def drawn(width: int = 900) -> bytes:
    out = io.BytesIO()
    Image.linear_gradient("L").resize((width, 300)).convert("RGB").save(out, "PNG")
    return out.getvalue()


def out(house: House, data: bytes, title: str = "Pier") -> tuple[str, str]:
    """A picture that is out: its entry and its file."""
    value = house.do("wim", lambda a: files.keep(a, files.laid(house.desk, files.inspect("p.png", data))))
    fields = {"title": title, "alt": "a", "file": {**value, "focus": [30, 40]}}
    uuid = house.do("wim", lambda a: entries.start(a, "picture", "en", fields))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en")]))
    return uuid, str(value["sha256"])


def client(house: House, url: str, who: str = "wim") -> Client:
    def log_in(act: Act) -> str:
        row = people_store.by_handle(act.conn, who)
        assert row is not None
        return logging_in.log_in(act, row)

    return Client(url, house.do("ida", log_in))


def shown(http: httpx.Client, page: str, picture: str) -> dict[str, dict[str, str]]:
    """The renditions of a picture that a page shows."""
    body = http.get(f"/read/entries/{page}", params={"locale": "en"}).json()
    found: dict[str, dict[str, str]] = body["references"][picture]["file"]["renditions"]
    return found


def parts(house: House) -> int:
    with house.desk.db.read() as conn:
        return int(conn.execute("SELECT count(*) FROM file_part").fetchone()[0])


def test_what_is_uploaded_lies_there_alone_and_is_sent_whole_and_in_parts(house: House, place: str) -> None:
    with serving(house, file_store=place) as (_, url), client(house, url) as wim:
        value = wim.upload("fog.wav", WAV)
        assert parts(house) == 0
        name = file_store.named(value.sha256)
        assert dict(at(place).kept("files/")) == {name: value.bytes}
        kept = at(place).part(name, 0, value.bytes)
        assert hashlib.sha256(kept).hexdigest() == value.sha256
        other = house.do("wim", lambda a: files.keep(a, files.inspect("small.png", drawn(20))))
        assert at(place).size(file_store.named(other["sha256"])) == other["bytes"], (
            "also where nobody laid it there before"
        )
        again = wim.upload("the same.wav", WAV)
        assert again.sha256 == value.sha256
        whole = wim._http.get(f"/api/files/{value.sha256}")
        assert (whole.status_code, whole.content) == (200, kept)
        for asked, begins, ends in (
            ("0-9", 0, 9),
            ("1048570-2097160", 1048570, 2097160),
            ("-7", len(kept) - 7, len(kept) - 1),
        ):
            some = wim._http.get(f"/api/files/{value.sha256}", headers={"Range": f"bytes={asked}"})
            assert (some.status_code, some.content) == (206, kept[begins : ends + 1])
            assert some.headers["content-range"] == f"bytes {begins}-{ends}/{len(kept)}"
        # An upload in parts too, which goes on where it stopped.
        picture = drawn()
        id = wim.begin_upload("pier.png", len(picture))
        wim.append_upload(id, 0, picture[:100])
        wim.append_upload(id, 100, picture[100:])
        found = wim.upload_state(id).file
        assert found is not None
        assert at(place).size(file_store.named(found.sha256)) == found.bytes
        assert parts(house) == 0
    assert house.desk.read(house.who("ida"), health.health) == []


def test_a_rendition_is_made_once_for_all_machines_and_has_one_address_for_ever(
    house: House, place: str, tmp_path: Path
) -> None:
    uuid, sha256 = out(house, drawn())
    page = house.signed("With a pier", body=f'<p>Look.</p><figure><img src="urn:uuid:{uuid}"></figure>')
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    crop = {"name": "wide", "label": "Wide", "width": 400, "height": 200, "use": ""}
    house.do("ida", lambda a: renditions.define_crops(a, [crop]))
    with serving(house, file_store=place) as (_, url), httpx.Client(base_url=url) as http:
        address = shown(http, page, uuid)["wide"]["webp"]
        assert address.endswith(f"{sha256}/wide-400x200-30-40.webp")
        first = http.get(address)
        assert first.headers["cache-control"] == "public, max-age=31536000, immutable, s-maxage=86400"
        assert http.get(address).content == first.content, "from what is kept here"
        assert http.get(address, headers={"If-None-Match": first.headers["etag"]}).status_code == 304
        with Image.open(io.BytesIO(first.content)) as made:
            assert made.size == (400, 200)
        by_name = http.get(f"/read/files/{sha256}/wide-30-40.webp")
        assert (by_name.status_code, by_name.headers["location"]) == (302, "wide-400x200-30-40.webp")
        assert (
            http.get(f"/read/files/{sha256}/wide-30-40.webp", follow_redirects=True).content == first.content
        )
    # Another machine has nothing kept, and need not read the picture.
    (tmp_path / "house.sqlite.renditions").unlink()
    with serving(house, file_store=place, shared_age=60) as (_, url), httpx.Client(base_url=url) as http:
        house.desk.file_store = None
        for _ in range(2):
            found = http.get(address)
            assert (found.status_code, found.content) == (200, first.content)
            assert found.headers["cache-control"] == "public, max-age=31536000, immutable"
            assert f'"{uuid.replace("-", "")}"' in found.headers["cache-groups"], (
                "let go of with what shows it"
            )
        assert http.get(address.replace("webp", "avif")).status_code == 503, "what is to be made is read"
        house.desk.file_store = at(place)
        # The crop becomes another one: what was linked to before leads to it.
        house.do("ida", lambda a: renditions.define_crops(a, [{**crop, "height": 100}]))
        assert shown(http, page, uuid)["wide"]["avif"].endswith("wide-400x100-30-40.avif")
        moved = http.get(f"/read/files/{sha256}/wide-400x200-31-40.avif")
        assert moved.status_code == 404, "no focus that is out"
        moved = http.get(address.replace("webp", "jpg"))
        assert (moved.status_code, moved.headers["location"]) == (302, "wide-400x100-30-40.jpg")
        whole = http.get(f"/read/files/{sha256}")
        assert whole.headers["cache-control"] == "public, max-age=31536000, immutable"
        assert f'"{uuid.replace("-", "")}"' in whole.headers["cache-groups"]
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en", "withdraw")]))
        assert http.get(address).status_code == http.get(f"/read/files/{sha256}").status_code == 404


def test_a_store_that_is_gone_is_said_and_stops_nothing_else(
    house: House, place: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    _, sha256 = out(house, drawn())
    page = house.page("A page")
    long = house.do("wim", lambda a: files.keep(a, files.inspect("long.wav", WAV + b"\0\0")))["sha256"]
    kept = house.desk.file_store

    class Gone:
        def put(self, name: str, data: bytes | Path) -> None:
            raise FileStoreFails("file_store_fails.bucket", place="museum", error="503 Slow Down")

        def part(self, name: str, start: int, length: int) -> bytes:
            raise FileStoreFails("file_store_fails.bucket", place="museum", error="503 Slow Down")

    with serving(house, file_store=place) as (_, url), client(house, url) as wim:
        for one in (
            (house.desk, house.desk.setup_now()) if hasattr(house.desk, "setup_now") else (house.desk,)
        ):
            one.file_store = Gone()  # type: ignore[assignment]
        with pytest.raises(Refusal) as refused:
            wim.upload("fog.wav", WAV)
        assert (refused.value.problem.status, refused.value.problem.code) == (503, "file_store_fails.bucket")
        assert "does not answer as it should (503 Slow Down)" in str(refused.value)
        id = wim.begin_upload("fog.wav", len(WAV))
        with pytest.raises(Refusal, match="Slow Down"):
            wim.append_upload(id, 0, WAV)
        assert httpx.get(f"{url}/read/files/{sha256}").status_code == 503, (
            "in place of an answer that breaks off"
        )
        assert wim._http.get(f"/api/files/{long}").status_code == 503, "also where it is long"
        # What has nothing to do with files goes on.
        etag = wim.entry(page, "en").etag
        wim.save(page, "en", {"body": "<p>Saved meanwhile.</p>"}, etag=etag)
        house.desk.file_store = kept
        assert wim.append_upload(id, len(WAV), b"") == len(WAV), "nothing has to be sent again"
        assert wim.upload_state(id).file is not None
        assert httpx.get(f"{url}/read/files/{sha256}").content == drawn()


def test_nobody_waits_for_a_store_that_is_slow(house: House, place: str) -> None:
    page = house.page("A page")
    begun, go = threading.Event(), threading.Event()
    real = house.desk.file_store
    assert real is not None

    class Slow:
        def put(self, name: str, data: bytes | Path) -> None:
            begun.set()
            assert go.wait(20)
            real.put(name, data)

    with (
        serving(house, file_store=place) as (_, url),
        client(house, url) as wim,
        client(house, url, "ida") as ida,
    ):
        house.desk.file_store = Slow()  # type: ignore[assignment]
        uploading = threading.Thread(target=lambda: wim.upload("fog.wav", WAV))
        uploading.start()
        assert begun.wait(20)
        etag = ida.entry(page, "en").etag
        assert ida.save(page, "en", {"body": "<p>Saved meanwhile.</p>"}, etag=etag).changed
        go.set()
        uploading.join(20)
        assert len(dict(real.kept("files/"))) == 1


def test_files_are_moved_there_and_back_while_they_are_read_and_what_is_damaged_stays(
    tmp_path: Path, place: str
) -> None:
    house = House(tmp_path)
    shas = [out(house, drawn(width), f"Pier {width}")[1] for width in (300, 400, 500)]
    spoiled = out(house, drawn(600), "Spoiled")[1]
    sound = str(house.do("wim", lambda a: files.keep(a, files.inspect("fog.wav", WAV)))["sha256"])
    house.desk.db.write(
        lambda c: c.execute("UPDATE file_part SET data = zeroblob(length(data)) WHERE sha256 = ?", (spoiled,))
    )
    with house.desk.db.read() as conn:
        reading = store.find(conn, sound)
    house.close()
    run = CliRunner()

    def moved(*more: str) -> str:
        found = run.invoke(
            command_line("move-files"),
            ["move-files", "--file", str(house.path), "--file-store", place, *more],
        )
        assert found.exit_code == (1 if "not moved" in found.output + found.stderr else 0), found.output
        return found.output + found.stderr

    # Broken off after the first; then to the end.
    half = House(tmp_path, file_store=at(place))
    going = moving.move(half.desk, outside=True)
    next(going)
    going.close()
    assert moving.to_move(half.desk, outside=True)[0] == 1
    half.close()
    assert "its bytes are not what they were" in moved()
    with closing(connection.open_still(house.path)) as conn:
        assert store.lying(conn, True)[0] == 4
        assert [one[0] for one in conn.execute("SELECT DISTINCT sha256 FROM file_part")] == [spoiled]
        assert [lines for _, lines in health.examine(conn, at(place)) if lines] == []
        assert [one.code for _, lines in health.examine(conn) for one in lines] == ["health.files_elsewhere"]
    there = House(tmp_path, file_store=at(place))
    with serving(there, file_store=place) as (_, url):
        for sha256, data in zip(shas, map(drawn, (300, 400, 500)), strict=True):
            assert httpx.get(f"{url}/read/files/{sha256}").content == data
        assert reading is not None
        assert files.whole(there.desk, reading) == files.inspect("fog.wav", WAV).data, "begun before it moved"
        there.desk.file_store = None
        assert "Set `file_store`" in httpx.get(f"{url}/api/health").text
        there.desk.file_store = at(place)
    there.close()
    if place.startswith("s3"):
        (Bucket(place)._store).delete(file_store.named(shas[0]))
    else:
        (Path(place) / file_store.named(shas[0])).unlink()
    checked = run.invoke(
        command_line("check"), ["check", "--file", str(house.path)], env={"HAWTHORN_FILE_STORE": place}
    )
    assert checked.exit_code == 1
    assert f"The file {shas[0]} is not where files lie" in (checked.output + checked.stderr).replace(
        "\n", " "
    )
    at(place).put(file_store.named(shas[0]), drawn(300))
    assert "Moved 4 files into the record file" in moved("--into-record")
    back = House(tmp_path)
    with back.desk.db.read() as conn:
        row = store.find(conn, sound)
    assert row is not None
    assert files.whole(back.desk, row) == files.inspect("fog.wav", WAV).data
    back.close()


@given(
    st.lists(st.tuples(st.integers(0, 2_600), st.integers(1, 2_600)), min_size=1, max_size=6), st.booleans()
)
def test_any_part_of_a_file_is_what_lies_there(ranges: list[tuple[int, int]], old: bool) -> None:
    data = os.urandom(2_500)
    conn = connection.sqlite3.connect(":memory:")
    conn.execute(
        "CREATE TABLE file_part (sha256 TEXT, start INTEGER, data BLOB, PRIMARY KEY (sha256, start))"
    )
    with pytest.MonkeyPatch.context() as patched:
        # What was kept before there were parts lies in one.
        patched.setattr(store, "_PART", 10_000 if old else 700)
        store.put_parts(conn, "x", data)
        store.put_parts(conn, "y", os.urandom(3_000))
    for start, length in ranges:
        assert store.part(conn, "x", start, length) == data[start : start + length]
    conn.close()


def test_a_folder_shows_nothing_half_and_nobody_else_reads_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    at = Folder(tmp_path / "files")
    seen: list[list[tuple[str, int]]] = []
    real = os.fsync

    def looked(handle: int) -> None:
        seen.append([*at.kept("files/")])
        real(handle)

    monkeypatch.setattr(os, "fsync", looked)
    at.put("files/ab/abc", b"a lamp")
    assert seen[0] == [], "until it is on the disk"
    assert seen[-1] == [("files/ab/abc", 6)]
    assert stat.S_IMODE((tmp_path / "files/files/ab/abc").stat().st_mode) == 0o600
    left = tmp_path / "files/.unfinished/left"
    left.write_bytes(b"half")
    os.utime(left, (1, 1))
    at.put("files/cd/cde", b"a rope")
    assert not left.exists(), "what a process left that was killed while it wrote"
    for folder in (tmp_path / "files", tmp_path / "files/files", tmp_path / "files/files/ab"):
        assert stat.S_IMODE(folder.stat().st_mode) == 0o700
    count = len(seen)
    at.put("files/ab/abc", b"a lamp")
    assert len(seen) == count, "putting twice is putting once"
    (tmp_path / "taken").write_text("no folder")
    with pytest.raises(FileStoreFails):
        Folder(tmp_path / "taken").put("files/ab/abc", b"a lamp")


@pytest.mark.parametrize(
    "wrong", ["s3:///x", "https://x.example/", "s3://museum/x?colour=red", "gs://museum"]
)
def test_what_is_no_place_is_refused_before_anything_starts(wrong: str) -> None:
    with pytest.raises(ValueError, match=r"wrong_setting\.(file_store|bucket)"):
        Settings(file_store=wrong)


def test_a_bucket_that_is_not_there_is_said(endpoint: str) -> None:
    nowhere = at(f"s3://nobody-made-it/x?endpoint={endpoint}&region=us-east-1")
    with pytest.raises(FileStoreFails) as failed:
        nowhere.put("files/ab/abc", b"a lamp")
    assert (failed.value.message.code, failed.value.facts["error"]) == (
        "file_store_fails.bucket",
        "404 Not Found",
    )
    with pytest.raises(FileStoreFails) as failed:
        at(f"s3://museum/x?endpoint={endpoint}").part("files/ab/none", 0, 5)
    assert failed.value.message.code == "file_store_fails.missing"
