"""Files: known for what they are, freed of where they were made, resumed, sent in parts, and made into renditions."""

from __future__ import annotations

import io
import re
import subprocess
import sys
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, PngImagePlugin

from hawthorn.client import Client, Refusal, Unreachable
from hawthorn.core.errors import BadFile, NotFound
from hawthorn.core.pictures import Crop
from hawthorn.messages import ENGLISH
from hawthorn.operations.content import entries
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.media import files, library, metadata, renditions
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.store.files import File
from hawthorn.store.renditions import Renditions
from tests.conftest import Running, eventually, free_port
from tests.service.made import House

PLACE = b"SECRET PIER 54.27 -3.11"


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def picture(kind: str, size: tuple[int, int] = (60, 40), turned: int = 1) -> bytes:
    """A picture with a red left half, and all the metadata that its kind can carry."""
    image = Image.new("RGB", size, "blue")
    image.paste("red", (0, 0, size[0] // 2, size[1]))
    exif = Image.Exif()
    exif[0x010E] = PLACE.decode()
    exif[metadata.ORIENTATION] = turned
    exif.get_ifd(0x8825)[2] = (54.0, 16.0, 16.0)
    out = io.BytesIO()
    extra: dict[str, Any] = {"exif": exif.tobytes()} if kind != "GIF" else {"comment": PLACE}
    if kind == "JPEG":
        extra["comment"] = PLACE
    if kind == "PNG":
        info = PngImagePlugin.PngInfo()
        info.add_text("Location", PLACE.decode())
        info.add_itxt("XML:com.adobe.xmp", PLACE.decode())
        extra["pnginfo"] = info
    if kind == "WEBP":
        extra |= {"xmp": PLACE, "lossless": True}
    image.save(out, kind, **extra)
    return out.getvalue()


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP", "GIF"])
@pytest.mark.parametrize("turned", [1, 6])
def test_a_picture_loses_where_it_was_made_and_nothing_else(kind: str, turned: int) -> None:
    data = picture(kind, turned=turned)
    assert PLACE in data
    found = files.inspect(f"pier.{kind.lower()}", data)
    assert isinstance(found.data, bytes)
    assert PLACE not in found.data
    with Image.open(io.BytesIO(found.data)) as clean, Image.open(io.BytesIO(data)) as typed:
        exif = clean.getexif()
        assert not exif.get_ifd(0x8825)
        assert clean.convert("RGB").tobytes() == typed.convert("RGB").tobytes()
        if kind != "GIF":
            assert exif.get(metadata.ORIENTATION, 1) == turned
            assert (found.width, found.height) == ((60, 40) if turned == 1 else (40, 60))
    assert files.inspect("again.x", found.data).sha256 == found.sha256


def test_film_loses_the_place_where_it_was_taken(tmp_path: Path) -> None:
    film = (
        b"\x00\x00\x00\x18ftypmp42\x00\x00\x00\x00mp42isom"
        + b"\x00" * 300
        + b"+54.2712-003.1184+012.0/"
        + b"x" * 50
    )
    found = files.inspect("pier.mp4", film)
    assert isinstance(found.data, bytes)
    assert b"54.2712" not in found.data
    assert len(found.data) == len(film)
    path = tmp_path / "pier.mp4"
    path.write_bytes(film)
    assert files.inspect_path("pier.mp4", path).sha256 == found.sha256


SVG = "<svg xmlns='http://www.w3.org/2000/svg' width='30' height='20'>{}</svg>"


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("a.jpg", picture("PNG"), "called a JPG file, but its content is image/png"),
        ("a.png", b"%PDF-1.7 things", "called a PNG file, but its content is application/pdf"),
        ("a.pdf", b"MZ\x90\x00 a program" + b"\x00" * 300, "no file that can be used"),
        ("a.png", b"GIF89a then <script>", "no file that can be used|damaged|GIF"),
        ("a.svg", SVG.format("<script>1</script>").encode(), "holds a script"),
        ("a.svg", SVG.format("<g onclick='x()'/>").encode(), "runs something by “onclick”"),
        ("a.svg", SVG.format("<a href='javascript:x()'/>").encode(), "holds <a>"),
        ("a.svg", SVG.format("<image href='https://else.example/x.png'/>").encode(), "leads elsewhere"),
        ("a.svg", SVG.format("<use href='other.svg#x'/>").encode(), "leads elsewhere"),
        ("a.svg", SVG.format("<style>@import 'x.css'</style>").encode(), "elsewhere"),
        ("a.svg", SVG.format("<rect style='fill:url(https://e.example)'/>").encode(), "elsewhere"),
        ("a.svg", SVG.format("<foreignObject/>").encode(), "holds <foreignObject>"),
        (
            "a.svg",
            SVG.format("<animate attributeName='href' to='javascript:x'/>").encode(),
            "holds <animate>",
        ),
        ("a.svg", b"<!DOCTYPE svg [<!ENTITY a 'b'>]>" + SVG.format("&a;").encode(), "entities"),
        (
            "a.svg",
            b"<?xml-stylesheet href='https://e.example'?>" + SVG.format("").encode(),
            "instruction|elsewhere",
        ),
        ("a.svg", SVG.format("<rect").encode(), "damaged"),
        ("a.vtt", b"WEBVTT\n\nno times here\n", "no captions|not WebVTT"),
        ("a.vtt", b"WEBVTT\n\n00:01.000 --> 00:02.000\n\xff\xfe\n", "not UTF-8"),
    ],
)
def test_what_is_not_what_it_says_or_could_run_is_refused_with_the_reason(
    name: str, data: bytes, says: str
) -> None:
    with pytest.raises(BadFile) as refused:
        files.inspect(name, data)
    assert re.search(says, str(refused.value)), str(refused.value)
    assert ENGLISH.remedy(refused.value)


def test_what_is_harmless_is_taken_for_what_it_is() -> None:
    drawn = files.inspect("a.svg", SVG.format("<g><rect fill='url(#x)' width='2'/></g>").encode())
    assert (drawn.media_type, drawn.width, drawn.height) == ("image/svg+xml", 30, 20)
    words = files.inspect("a.vtt", b"\xef\xbb\xbfWEBVTT\n\n00:00.000 --> 00:01.000\nDing\n")
    assert words.media_type == "text/vtt"
    assert files.inspect("no ending", b"%PDF-1.7\n" + b"x" * 300).media_type == "application/pdf"


def test_an_upload_goes_on_where_it_stopped_and_is_kept_once(running: Running) -> None:
    nell, wim = running.as_("nell"), running.as_("wim")
    data = picture("PNG", (900, 700))
    id = nell.begin_upload("pier at dawn é.png", len(data))
    assert nell.append_upload(id, 0, data[:1000]) == 1000
    head = nell._http.head(f"/api/uploads/{id}")
    assert (head.headers["upload-offset"], head.headers["tus-resumable"]) == ("1000", "1.0.0")
    with pytest.raises(Refusal, match="at byte 1,000, not 900"):
        nell.append_upload(id, 900, data[900:])
    with pytest.raises(Refusal, match="no such upload of yours"):
        wim.append_upload(id, 1000, data[1000:])
    mine = next(u for u in nell.uploads().items if u.id == id)
    assert (mine.name, mine.offset) == ("pier at dawn é.png", 1000)
    with pytest.raises(Refusal, match="More bytes came"):
        nell.append_upload(id, 1000, data[1000:] + b"more")
    assert nell.append_upload(id, 1000, data[1000:]) == len(data)
    value = nell.upload_state(id).file
    assert value is not None
    assert (value.name, value.width, value.height) == ("pier at dawn é.png", 900, 700)
    assert id not in [u.id for u in nell.uploads().items]
    assert wim.upload("the same.png", data).sha256 == value.sha256
    broken = nell.begin_upload("x.png", 4)
    with pytest.raises(Refusal, match="no file that can be used"):
        nell.append_upload(broken, 0, b"oops")
    assert broken not in [u.id for u in nell.uploads().items], "what was refused is nothing to go on with"
    with pytest.raises(Refusal, match=r"“cut\.svg” is damaged") as damaged:
        nell.upload("cut.svg", SVG.format("<rect").encode())
    assert damaged.value.problem.code == "svg.damaged"
    assert isinstance(damaged.value.problem.fact("error"), str)
    dropped = nell.begin_upload("y.png", 4)
    nell.drop_upload(dropped)
    with pytest.raises(Refusal, match="no such upload"):
        nell.upload_state(dropped)
    with pytest.raises(Refusal, match="at most"):
        nell.begin_upload("film.mp4", 10**12)


def test_files_come_in_parts_as_they_are_asked_for(running: Running, http: httpx.Client) -> None:
    nell = running.as_("nell")
    sound = next(line for line in nell.library(words="rung once fog").items)
    assert sound.file is not None
    whole = nell._http.get(f"/api/files/{sound.file.sha256}")
    size = len(whole.content)
    assert whole.headers["accept-ranges"] == "bytes"
    for asked, start, end in (
        ("0-9", 0, 9),
        ("-5", size - 5, size - 1),
        (f"{size - 3}-", size - 3, size - 1),
    ):
        part = nell._http.get(f"/api/files/{sound.file.sha256}", headers={"Range": f"bytes={asked}"})
        assert part.status_code == 206
        assert part.headers["content-range"] == f"bytes {start}-{end}/{size}"
        assert part.content == whole.content[start : end + 1]
    over = nell._http.get(f"/api/files/{sound.file.sha256}", headers={"Range": f"bytes={size}-"})
    assert over.status_code == 416
    # Whoever asks for no content gets no part of it: what they ask is what the whole is (RFC 9110, section 14.2).
    head = nell._http.head(f"/api/files/{sound.file.sha256}", headers={"Range": "bytes=0-9"})
    assert (head.status_code, head.headers["content-length"]) == (200, str(size))
    assert "content-range" not in head.headers
    # It is drafted and not out, so readers have none of it.
    assert http.get(f"/read/files/{sound.file.sha256}").status_code == 404


A_FILE = File("0" * 64, "p.png", "image/png", 1, 1, 1, 1, None, 0)


def out_picture(house: House, data: bytes, focus: list[int]) -> tuple[str, str]:
    value = house.do("wim", lambda a: files.keep(a, files.inspect("p.png", data)))
    fields = {"title": "P", "alt": "p", "file": {**value, "focus": focus}}
    uuid = house.do("wim", lambda a: entries.start(a, "picture", "en", fields))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en")]))
    return uuid, value["sha256"]


def test_a_rendition_keeps_the_focus_and_only_foci_that_are_out_are_made(house: House) -> None:
    _, sha = out_picture(house, picture("PNG", (1000, 400)), [10, 50])

    def source(name: str, where: Place = Place()) -> tuple[Crop, bytes]:
        wanted = renditions.parse(sha, name)
        crop, row = house.desk.read(house.who("wim"), lambda v: renditions.source(v, wanted, where))
        return crop, files.whole(house.desk, row)

    crop, data = source("square-10-50.webp")
    for ending, kind in (("webp", "WEBP"), ("avif", "AVIF"), ("png", "PNG"), ("jpg", "JPEG")):
        media_type, made = renditions.make(crop, data, 10, 50, ending)
        with Image.open(io.BytesIO(made)) as left:
            assert (left.format, left.size) == (kind, (320, 320))
            assert left.convert("RGB").getpixel((5, 5))[0] > 200  # type: ignore[index]
        assert media_type.endswith(kind.lower())
    with Image.open(io.BytesIO(renditions.make(crop, data, 90, 50, "png")[1])) as right:
        assert right.getpixel((5, 5)) == (0, 0, 255)
    for name in ("square-90-50.webp", "huge-10-50.webp", "square-10-50.exe", "square-101-0.png"):
        with pytest.raises(NotFound):
            source(name)
    assert source("square-90-50.webp", Place(1))


def test_renditions_are_made_once_and_kept_up_to_a_bound(
    tmp_path: Path,
) -> None:
    kept = Renditions(tmp_path / "x.sqlite", 250)
    data = picture("PNG", (64, 64))
    asked: list[int] = []

    def read(_: File) -> bytes:
        asked.append(1)
        return data

    maker = renditions.Maker(read, kept, 1)
    crop = Crop("c", width=16, height=16)
    requests = [renditions.parse("0" * 64, f"c-16x16-{n}-0.png") for n in range(9)]
    first = maker.rendition(requests[0], 1, crop, A_FILE)
    assert maker.rendition(requests[0], 2, crop, A_FILE) == first
    assert len(asked) == 1, "the picture is read only where it is made"
    for now, wanted in enumerate(requests, 10):
        maker.rendition(wanted, now, crop, A_FILE)
    count, size = kept.size()
    assert 0 < count < len(requests)
    assert size <= 250
    assert kept.find(requests[-1].key, 99)
    assert kept.find(requests[1].key, 99) is None
    kept.close()
    kept.path.write_bytes(b"this is no database, and long enough to be read as one" * 40)
    again = Renditions(tmp_path / "x.sqlite", 250)
    assert again.size() == (0, 0)
    again.close()


def test_the_library_has_folders_that_keep_what_is_in_them(house: House) -> None:
    uuid, _ = out_picture(house, picture("PNG"), [50, 50])
    top = house.do("wim", lambda a: library.make_folder(a, " Piers  and lamps "))
    inner = house.do("wim", lambda a: library.make_folder(a, "Lamps", top))
    assert house.do("wim", lambda a: library.file_into(a, [uuid], inner)) == {uuid: ""}
    with pytest.raises(Exception, match="cannot lie in itself"):
        house.do("wim", lambda a: library.change_folder(a, top, parent=inner))
    with pytest.raises(Exception, match="a folder “Lamps” there already"):
        house.do("wim", lambda a: library.make_folder(a, "Lamps", top))
    house.do("wim", lambda a: library.remove_folder(a, inner))
    found = house.desk.read(house.who("wim"), library.folders)
    assert [(f.name, f.entries) for f in found] == [("Piers and lamps", 1)]
    house.do("wim", lambda a: library.remove_folder(a, top))
    assert house.desk.read(house.who("wim"), library.folders) == []


def test_many_who_ask_at_once_wait_for_one_that_makes_it(tmp_path: Path) -> None:
    kept = Renditions(tmp_path / "x.sqlite", 10**7)
    data = picture("JPEG", (900, 600))
    maker = renditions.Maker(lambda _: data, kept, 2)
    crop = Crop("c", width=300, height=200)
    wanted = renditions.parse("0" * 64, "c-300x200-50-50.webp")
    made: list[int] = []
    found: list[bytes] = []
    keep = kept.keep

    def counted(*args: Any) -> None:
        made.append(1)
        keep(*args)

    kept.keep = counted  # type: ignore[method-assign]
    asking = [
        threading.Thread(target=lambda: found.append(maker.rendition(wanted, 1, crop, A_FILE)[1]))
        for _ in range(8)
    ]
    for one in asking:
        one.start()
    for one in asking:
        one.join(20)
    assert len(made) == 1
    assert len(found) == 8
    assert len(set(found)) == 1
    kept.close()


def test_an_upload_survives_a_service_that_is_killed(tmp_path: Path) -> None:
    file = tmp_path / "house.sqlite"
    House(tmp_path).close()
    data = picture("PNG", (1200, 900))
    port = free_port()

    def serve() -> subprocess.Popen[bytes]:
        command = [
            sys.executable,
            "-m",
            "hawthorn.cli.app",
            "serve",
            "--file",
            str(file),
            "--port",
            str(port),
        ]
        process = subprocess.Popen([*command, "--no-followers"], stdout=subprocess.DEVNULL)

        def answers() -> bool:
            try:
                return httpx.get(f"http://127.0.0.1:{port}/api/health").status_code == 200
            except httpx.TransportError:
                return False

        eventually(answers, 20)
        return process

    process = serve()
    with Client(f"http://127.0.0.1:{port}") as wim:
        wim.log_in("wim", "long enough")
        id = wim.begin_upload("pier.png", len(data))
        wim.append_upload(id, 0, data[:3000])
        process.kill()
        process.wait(10)
        with pytest.raises(Unreachable):
            wim.append_upload(id, 3000, data[3000:])
        process = serve()
        at = wim.upload_state(id).offset
        assert at == 3000
        assert wim.append_upload(id, at, data[at:]) == len(data)
        value = wim.upload_state(id).file
        assert value is not None
        assert wim._http.get(f"/api/files/{value.sha256}").status_code == 200
    process.terminate()
    process.wait(10)


@given(st.binary(max_size=400), st.sampled_from(["JPEG", "PNG", "WEBP", "GIF"]), st.integers(0, 300))
def test_a_damaged_picture_is_refused_or_taken_but_never_a_fault(junk: bytes, kind: str, at: int) -> None:
    data = bytearray(picture(kind))
    data[at : at + len(junk)] = junk
    try:
        found = files.inspect("pier", bytes(data))
    except BadFile as refused:
        if not ENGLISH.remedy(refused):
            raise
        return
    assert isinstance(found.data, bytes)
    if found.media_type.startswith("image/") and found.width and found.media_type != "image/svg+xml":
        with Image.open(io.BytesIO(found.data)) as clean:
            clean.load()
