"""What files tell about where, when and by whom they were made goes, whatever part of them says it; what is seen and heard stays."""

from __future__ import annotations

import base64
import io
import resource
import struct
import subprocess
import sys
import wave
import zlib
from pathlib import Path

import pytest
from PIL import Image, ImageSequence

from hawthorn.core.errors import BadFile, TooMany
from hawthorn.core.pictures import Crop
from hawthorn.messages import ENGLISH
from hawthorn.operations.media import files, recordings, renditions, uploads
from tests.service.made import House

SECRET = b"SECRET PIER 54.27 -3.11"


def inspected(name: str, data: bytes, folder: Path) -> bytes:
    """What is kept of a file, which is the same whether it comes in one piece or lies on disk."""
    found = files.inspect(name, data)
    assert isinstance(found.data, bytes)
    path = folder / "lying"
    path.write_bytes(data)
    assert files.inspect_path(name, path).sha256 == found.sha256
    return found.data


def jpeg(quality: int = 80, progressive: bool = False, color: str = "red") -> bytes:
    image = Image.effect_noise((48, 32), 60).convert("RGB")
    image.paste(color, (0, 0, 20, 32))
    out = io.BytesIO()
    image.save(out, "JPEG", quality=quality, progressive=progressive)
    return out.getvalue()


def segment(mark: int, body: bytes) -> bytes:
    return bytes([0xFF, mark]) + struct.pack(">H", len(body) + 2) + body


def same_picture(before: bytes, after: bytes) -> bool:
    with Image.open(io.BytesIO(before)) as a, Image.open(io.BytesIO(after)) as b:
        frames = [
            [frame.convert("RGBA").tobytes() for frame in ImageSequence.Iterator(image)] for image in (a, b)
        ]
        return frames[0] == frames[1]


@pytest.mark.parametrize("progressive", [False, True])
def test_a_jpeg_ends_at_its_first_end_and_keeps_no_segment_that_is_not_needed(
    progressive: bool, tmp_path: Path
) -> None:
    plain = jpeg(progressive=progressive)
    scan = plain.rfind(b"\xff\xda") if progressive else plain.rfind(b"\xff\xd9")
    odd = (
        plain[:2]
        + segment(0xE0, b"JFXX\x00\x10" + SECRET)
        + segment(0xE5, SECRET)
        + segment(0xFE, SECRET)
        + plain[2:scan]
        + (segment(0xE1, b"Exif\x00\x00" + SECRET) if progressive else b"")
        + plain[scan:]
        + jpeg(color="blue")
        + SECRET
    )
    kept = inspected("pier.jpg", odd, tmp_path)
    assert SECRET not in kept
    assert kept.count(b"\xff\xd9") == 1
    assert kept.endswith(b"\xff\xd9")
    assert same_picture(plain, kept)


def test_a_picture_with_a_second_one_behind_it_is_taken_without_it(tmp_path: Path) -> None:
    out = io.BytesIO()
    first, second = (Image.new("RGB", (40, 30), color) for color in ("red", "blue"))
    first.save(out, "MPO", save_all=True, append_images=[second])
    assert out.getvalue().count(b"\xff\xd8\xff") == 2
    kept = inspected("phone.jpg", out.getvalue(), tmp_path)
    assert kept.count(b"\xff\xd8\xff") == 1
    with Image.open(io.BytesIO(kept)) as image:
        assert (image.format, image.size) == ("JPEG", (40, 30))


def test_chunks_that_nobody_knows_go(tmp_path: Path) -> None:
    out = io.BytesIO()
    Image.new("RGB", (9, 9), "red").save(out, "PNG")
    png = out.getvalue()
    body = b"prVt" + SECRET
    private = struct.pack(">I", len(SECRET)) + body + struct.pack(">I", zlib.crc32(body))
    assert SECRET not in inspected("a.png", png[:33] + private + png[33:] + SECRET, tmp_path)

    frames = [Image.new("RGB", (9, 9), color) for color in ("red", "blue")]
    for kind in ("WEBP", "GIF"):
        out = io.BytesIO()
        frames[0].save(out, kind, save_all=True, append_images=frames[1:], duration=100, loop=0)
        data = out.getvalue()
        if kind == "WEBP":
            extra = b"priv" + struct.pack("<I", len(SECRET) + 1) + SECRET + b"\x00"
            at = data.index(b"ANMF")
            size = struct.unpack("<I", data[at + 4 : at + 8])[0]
            # One inside of a frame, and one between them.
            frame = b"ANMF" + struct.pack("<I", size + len(extra)) + data[at + 8 : at + 8 + size] + extra
            odd = data[12:at] + frame + extra + data[at + 8 + size :]
            data = b"RIFF" + struct.pack("<I", len(odd) + 4) + b"WEBP" + odd
        else:
            app = b"\x21\xff\x0bXMP DataXMP" + bytes([len(SECRET)]) + SECRET + b"\x00"
            data = data[: data.index(b"\x21\xf9")] + app + data[data.index(b"\x21\xf9") :] + SECRET
        kept = inspected(f"a.{kind.lower()}", data, tmp_path)
        assert SECRET in data
        assert SECRET not in kept
        assert same_picture(data, kept)


def box(kind: bytes, *content: bytes) -> bytes:
    body = b"".join(content)
    return struct.pack(">I4s", len(body) + 8, kind) + body


def track(handler: bytes, offset: int, sizes: list[int]) -> bytes:
    numbers = b"".join(struct.pack(">I", size) for size in sizes)
    stbl = box(
        b"stbl",
        box(b"stsz", struct.pack(">III", 0, 0, len(sizes)), numbers),
        box(b"stsc", struct.pack(">IIIII", 0, 1, 1, len(sizes), 1)),
        box(b"stco", struct.pack(">III", 0, 1, offset)),
    )
    media = box(
        b"mdia",
        box(b"mdhd", b"\x00" * 4, struct.pack(">II", 3_900_000_000, 3_900_000_001), b"\x00" * 12),
        box(b"hdlr", b"\x00" * 8, handler, b"\x00" * 12),
        box(b"minf", stbl),
    )
    return box(b"trak", box(b"tkhd", b"\x01" + b"\x00" * 3, struct.pack(">QQ", 3_900_000_000, 5)), media)


def test_a_film_keeps_what_is_seen_and_heard_and_loses_the_track_of_the_camera(tmp_path: Path) -> None:
    seen, camera = b"picture after picture", b"where: " + SECRET
    head = box(b"ftyp", b"mp42", b"\x00" * 4, b"mp42isom")
    media = box(b"mdat", seen, camera)
    start = len(head) + 8
    moov = box(
        b"moov",
        box(b"mvhd", b"\x00" * 4, struct.pack(">II", 3_900_000_000, 3_900_000_001), b"rest"),
        track(b"vide", start, [len(seen)]),
        track(b"mebx", start + len(seen), [7, len(SECRET)]),
        box(b"udta", box(b"loci", b"\x00" * 4, b"\x15\xc7", SECRET, b"\x00")),
        box(b"meta", SECRET),
    )
    film = head + media + moov + box(b"uuid", SECRET) + box(b"free", SECRET)
    kept = inspected("pier.mp4", film, tmp_path)
    assert len(kept) == len(film)
    assert SECRET not in kept
    assert seen in kept
    assert struct.pack(">I", 3_900_000_000) not in kept
    assert kept.count(b"trak") == 1
    assert b"vide" in kept
    with pytest.raises(BadFile, match="a track of data"):
        files.inspect("live.mp4", head + moov + box(b"moof", box(b"mfhd", b"\x00" * 8)) + media)


def element(id: int, content: bytes, unknown: bool = False) -> bytes:
    head = id.to_bytes((id.bit_length() + 7) // 8, "big")
    size = b"\x01" + b"\xff" * 7 if unknown else b"\x08" + len(content).to_bytes(4, "big")
    # A size in five bytes is written 0000 1xxx and four bytes.
    return head + size + content


@pytest.mark.parametrize("live", [False, True])
def test_a_webm_film_loses_its_tags_and_keeps_its_blocks(live: bool, tmp_path: Path) -> None:
    info = element(
        0x1549A966, element(0x4461, SECRET[:8]) + element(0x7BA9, SECRET) + element(0x2AD7B1, b"\x0fB@")
    )
    cluster = element(0x1F43B675, element(0xE7, b"\x00") + element(0xA3, b"\x81block of the film"), live)
    segment = info + element(0x1941A469, SECRET) + cluster + element(0x1254C367, SECRET * 20)
    film = element(0x1A45DFA3, b"\x42\x82\x84webm") + element(0x18538067, segment, live)
    kept = inspected("pier.webm", film, tmp_path)
    assert len(kept) == len(film)
    assert SECRET not in kept
    assert SECRET[:8] not in kept
    assert b"block of the film" in kept
    assert b"\x0fB@" in kept


def test_sounds_lose_what_programs_wrote_beside_them(tmp_path: Path) -> None:
    out = io.BytesIO()
    with wave.open(out, "wb") as made:
        made.setparams((1, 2, 8000, 0, "NONE", "not compressed"))
        made.writeframes(b"\x01\x02" * 500)
    extra = b"bext" + struct.pack("<I", len(SECRET) + 1) + SECRET + b"\x00"
    data = out.getvalue() + extra
    wav = data[:4] + struct.pack("<I", len(data) - 8) + data[8:]
    kept = inspected("bell.wav", wav, tmp_path)
    assert SECRET not in kept
    with wave.open(io.BytesIO(kept)) as played:
        assert played.readframes(600) == b"\x01\x02" * 500

    def block(kind: int, content: bytes, last: bool = False) -> bytes:
        return bytes([kind | (0x80 if last else 0)]) + len(content).to_bytes(3, "big") + content

    flac = b"fLaC" + block(0, b"s" * 34) + block(4, SECRET) + block(6, SECRET, last=True) + b"\xff\xf8frames"
    kept = inspected("bell.flac", flac, tmp_path)
    assert SECRET not in kept
    assert kept.endswith(b"\xff\xf8frames")
    assert kept[4:42] == flac[4:42]


def test_what_is_not_cleaned_is_said() -> None:
    for media_type, kind in (("application/pdf", "PDF"), ("audio/mpeg", "MP3")):
        note = recordings.note(media_type)
        assert note is not None
        assert ENGLISH.text(note).startswith(f"{kind} files are kept as they are")
    assert recordings.note("video/mp4") is recordings.note("image/jpeg") is None
    text = b"%PDF-1.7\n/Author (" + SECRET + b")"
    assert files.inspect("plan.pdf", text).data == text, "and left exactly as it is"


SVG = "<svg xmlns='http://www.w3.org/2000/svg' width='30' height='20'>{}</svg>"


def test_a_drawing_is_written_anew_from_what_is_known() -> None:
    inner = base64.b64encode(jpeg()[:2] + segment(0xE1, b"Exif\x00\x00" + SECRET) + jpeg()[2:]).decode()
    drawn = files.inspect(
        "a.svg",
        SVG.format(
            "<!-- SECRET --><metadata>SECRET</metadata><title>A lamp</title>"
            "<g data-x='1' xmlns:i='http://made.example' i:path='SECRET'><i:odd>SECRET</i:odd>"
            f"<rect fill='url(#x)' width='2'/><image href='data:image/jpeg;base64,{inner}'/></g>"
            "<style>rect { stroke: red } /* a comment */</style>"
        ).encode(),
    )
    assert isinstance(drawn.data, bytes)
    assert b"SECRET" not in drawn.data
    assert base64.b64encode(SECRET)[:12] not in drawn.data
    for kept in (b"A lamp", b'fill="url(#x)"', b"stroke: red", b"data:image/jpeg;base64,"):
        assert kept in drawn.data
    assert files.inspect("a.svg", drawn.data).sha256 == drawn.sha256, "once is enough"


@pytest.mark.parametrize(
    "data",
    [
        SVG.format("").encode("utf-16-le"),
        SVG.format("").encode("utf-16"),
        b"<?xml version='1.0' encoding='utf-7'?>" + SVG.format("").encode(),
        SVG.format("<style>rect{fill:u\\72l(https://e.example)}</style>").encode(),
        SVG.format("<style>/* */@import 'https://e.example/x.css'</style>").encode(),
        SVG.format("<style>@imp/**/ort 'https://e.example/x.css'</style>").encode(),
        SVG.format("<style><![CDATA[@import 'https://e.example/x.css']]></style>").encode(),
        SVG.format("<g style='background:ur\\6c (//e.example)'/>").encode(),
        SVG.format("<meta xmlns='http://www.w3.org/1999/xhtml' http-equiv='refresh' content='0'/>").encode(),
        SVG.format("<h:form xmlns:h='http://www.w3.org/1999/xhtml' action='//e.example'/>").encode(),
        SVG.format("<image href='data:image/svg+xml;base64,PHN2Zy8+'/>").encode(),
        SVG.format("<image href='data:image/png;base64,AAAA'/>").encode(),
        b"<x:svg xmlns:x='http://www.w3.org/1999/xhtml'></x:svg><svg/>",
    ],
)
def test_a_drawing_that_is_more_than_a_drawing_is_refused(data: bytes) -> None:
    with pytest.raises(BadFile) as refused:
        files.inspect("a.svg", data)
    assert ENGLISH.remedy(refused.value)


def test_a_rendition_that_cannot_be_made_says_why(tmp_path: Path) -> None:
    out = io.BytesIO()
    Image.new("RGB", (20, 20_000), "red").save(out, "PNG")
    crop = Crop("tall", width=800)
    with pytest.raises(BadFile, match="cannot be made 800 pixels wide as WEBP") as refused:
        renditions.make(crop, out.getvalue(), 50, 50, "webp")
    assert "another ending" in ENGLISH.remedy(refused.value)
    assert renditions.make(crop, out.getvalue(), 50, 50, "png")[0] == "image/png"
    with pytest.raises(BadFile, match="cannot be made"):
        renditions.make(crop, jpeg()[:200], 50, 50, "jpg")


def test_nobody_fills_the_disk_with_what_they_do_not_finish(tmp_path: Path) -> None:
    house = House(tmp_path)
    place = uploads.folder(house.desk)
    room = uploads.Room(1000, 2500)
    begun = [house.do("wim", lambda a: uploads.begin(a, place, "x.mp4", 1000, room)) for _ in range(2)]
    with pytest.raises(TooMany, match="2 of your uploads are not finished, with 2,000 bytes") as refused:
        house.do("wim", lambda a: uploads.begin(a, place, "x.mp4", 1000, room))
    assert "unfinished_uploads" in ENGLISH.remedy(refused.value)
    house.do("ida", lambda a: uploads.begin(a, place, "x.mp4", 1000, room))
    house.do("wim", lambda a: uploads.drop(a, uploads.find(a, begun[0]), place))
    house.do("wim", lambda a: uploads.begin(a, place, "x.mp4", 1000, room))
    house.close()


LOOKED = """
import resource, sys
from pathlib import Path
from hawthorn.operations.media import files
resource.setrlimit(resource.RLIMIT_AS, (int(sys.argv[2]), int(sys.argv[2])))
print(files.inspect_path("long.mp3", Path(sys.argv[1])).bytes)
"""


def test_a_long_sound_is_not_read_into_memory(tmp_path: Path) -> None:
    path = tmp_path / "long"
    with path.open("wb") as file:
        file.write(b"ID3\x04" + bytes(4096))
        file.truncate(600_000_000)
    room = resource.getrlimit(resource.RLIMIT_AS)[1]
    most = 500_000_000 if room == resource.RLIM_INFINITY else min(room, 500_000_000)
    looked = subprocess.run(
        [sys.executable, "-c", LOOKED, str(path), str(most)], capture_output=True, text=True, check=False
    )
    assert looked.stdout.strip() == "600000000", looked.stderr
