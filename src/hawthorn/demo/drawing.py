"""Pictures for the demo, drawn by itself."""

from __future__ import annotations

import io
import math
import struct
import wave
from collections.abc import Callable, Sequence

from PIL import Image, ImageDraw

_SIZE = (960, 640)
_SKY, _SEA, _STONE, _DARK, _BRASS, _GLOW = "#e9e2d0", "#8fa9a3", "#b9ad95", "#26352d", "#b88a3b", "#f6e3a1"


def draw(name: str) -> bytes:
    """One of the demo's pictures as PNG."""
    picture = Image.new("P", _SIZE, _SKY)
    pen = ImageDraw.Draw(picture)
    _DRAWINGS[name](pen)
    out = io.BytesIO()
    picture.save(out, "PNG", compress_level=1)
    return out.getvalue()


def draw_thing(kind: str, number: int) -> bytes:
    """Something in the register as PNG: a drawing of its kind, in colours of its own."""
    paper, ink, wash = _PALETTES[number % len(_PALETTES)]
    picture = Image.new("P", (640, 480), paper)
    pen = ImageDraw.Draw(picture)
    for line in range(30, 480, 30):
        pen.line((0, line, 640, line), fill=wash)
    _THINGS[kind](pen, ink, wash)
    pen.rectangle((12, 12, 627, 467), outline=ink, width=2)
    pen.text((30, 436), f"PH {number + 11}", fill=ink, font_size=18)
    out = io.BytesIO()
    picture.save(out, "PNG", compress_level=1)
    return out.getvalue()


def sheet(words: Sequence[str]) -> bytes:
    """A sheet of paper with some lines on it, as a PDF."""
    paper = Image.new("RGB", (620, 877), "#fdfbf4")
    pen = ImageDraw.Draw(paper)
    _lamp(pen)
    for n, line in enumerate(words):
        pen.text((40, 40 + 34 * n), line, fill="#20322c", font_size=24)
    out = io.BytesIO()
    paper.save(out, "PDF", resolution=75)
    return out.getvalue()


def ring() -> bytes:
    """The fog bell, struck once: a bronze hum with its partials dying away, as WAV."""
    rate, seconds = 16_000, 4
    partials = (
        (110.0, 0.5, 0.6),
        (220.0, 0.35, 0.9),
        (262.0, 0.3, 1.1),
        (331.0, 0.2, 1.6),
        (441.0, 0.25, 2.2),
    )
    out = io.BytesIO()
    with wave.open(out, "wb") as sound:
        sound.setnchannels(1)
        sound.setsampwidth(2)
        sound.setframerate(rate)
        heard = [0.0] * (rate * seconds)
        for f, a, d in partials:
            # Each sample of a tone that dies away follows from the two before.
            turn, loss = 2 * math.pi * f / rate, math.exp(-d / rate)
            before, last = -a * math.sin(turn) / loss, 0.0
            once, twice = 2 * loss * math.cos(turn), loss * loss
            for n in range(len(heard)):
                heard[n] += last
                before, last = last, once * last - twice * before
        sound.writeframes(struct.pack(f"<{len(heard)}h", *(round(9000 * one) for one in heard)))
    return out.getvalue()


def _sea(pen: ImageDraw.ImageDraw, top: int) -> None:
    pen.rectangle((0, top, 960, 640), fill=_SEA)
    for row in range(top + 20, 640, 34):
        points = [(x, row + 6 * math.sin((x + row * 3) / 38)) for x in range(0, 961, 8)]
        pen.line(points, fill="#a9c0ba", width=3)


def _lamp(pen: ImageDraw.ImageDraw) -> None:
    _sea(pen, 470)
    for reach in range(260, 60, -40):
        pen.ellipse(
            (480 - reach, 270 - reach, 480 + reach, 270 + reach), fill="#efe6c4" if reach > 180 else _GLOW
        )
    pen.rectangle((400, 170, 560, 380), fill=_BRASS, outline=_DARK, width=6)
    pen.rectangle((430, 200, 530, 350), fill="#fff7d6", outline=_DARK, width=4)
    pen.polygon(((380, 170), (580, 170), (480, 90)), fill=_DARK)
    pen.rectangle((380, 380, 580, 420), fill=_DARK)
    pen.rectangle((430, 420, 530, 640), fill=_STONE, outline=_DARK, width=4)


def _boat(pen: ImageDraw.ImageDraw) -> None:
    _sea(pen, 400)
    pen.rectangle((0, 360, 300, 640), fill=_STONE)
    for x in range(20, 300, 70):
        pen.line((x, 360, x, 640), fill="#a0947d", width=3)
    pen.polygon(((330, 400), (860, 400), (780, 500), (410, 500)), fill=_DARK)
    pen.line((590, 400, 590, 90), fill="#5b4630", width=12)
    pen.polygon(((600, 110), (600, 380), (800, 380)), fill="#f3ecdc", outline=_DARK)
    pen.line((410, 410, 300, 370), fill="#5b4630", width=5)


def _rope(pen: ImageDraw.ImageDraw) -> None:
    pen.rectangle((0, 0, 960, 640), fill="#d8cdb4")
    pen.rectangle((0, 110, 960, 140), fill="#5b4630")
    for n, x in enumerate((220, 480, 740)):
        pen.rectangle((x - 8, 120, x + 8, 180), fill=_DARK)
        for ring in range(8):
            reach = 40 + ring * 13
            shade = "#7a5a34" if (ring + n) % 2 else "#8d6c42"
            pen.ellipse((x - reach, 200, x + reach, 240 + reach * 2), outline=shade, width=11)


def _bell(pen: ImageDraw.ImageDraw) -> None:
    _sea(pen, 500)
    pen.line((300, 520, 400, 120), fill=_DARK, width=16)
    pen.line((660, 520, 560, 120), fill=_DARK, width=16)
    pen.line((380, 130, 580, 130), fill=_DARK, width=18)
    pen.pieslice((390, 170, 570, 400), 180, 360, fill=_BRASS)
    pen.polygon(((390, 285), (570, 285), (620, 400), (340, 400)), fill=_BRASS)
    pen.ellipse((455, 385, 505, 435), fill=_DARK)


def _chart(pen: ImageDraw.ImageDraw) -> None:
    pen.rectangle((40, 40, 920, 600), fill="#f5eeda", outline=_DARK, width=4)
    coast = [(60 + x, 320 + 120 * math.sin(x / 110) + x / 9) for x in range(0, 840, 12)]
    pen.line(coast, fill=_DARK, width=6)
    for n in range(36):
        x, y = 90 + (n * 137) % 780, 90 + (n * 71) % 220
        pen.text((x, y), str(3 + n % 9), fill="#a3442f")
    pen.line((760, 470, 760, 570), fill=_DARK, width=3)
    pen.polygon(((760, 460), (748, 500), (772, 500)), fill=_DARK)


_DRAWINGS: dict[str, Callable[[ImageDraw.ImageDraw], None]] = {
    "lamp": _lamp,
    "boat": _boat,
    "rope": _rope,
    "bell": _bell,
    "chart": _chart,
}

_PALETTES = (
    ("#efe7d5", "#26352d", "#dccfae"),
    ("#e3ebe6", "#203a4a", "#c3d4cd"),
    ("#f3e6d8", "#5a2f22", "#e0c6ac"),
    ("#e9e9dc", "#3a3a20", "#d0cfae"),
    ("#dfe6ee", "#1f2f45", "#bccadb"),
)
"""Paper, ink and a wash between them."""
_Thing = Callable[[ImageDraw.ImageDraw, str, str], None]


def _lead(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    pen.line([(320 + 60 * math.sin(y / 26), y) for y in range(30, 200, 4)], fill=ink, width=4)
    pen.polygon(((290, 200), (350, 200), (380, 400), (260, 400)), fill=wash, outline=ink, width=5)
    pen.ellipse((305, 190, 335, 220), outline=ink, width=5)


def _hook(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    pen.line((120, 420, 430, 130), fill=ink, width=16)
    pen.arc((380, 60, 520, 200), 120, 20, fill=ink, width=14)
    pen.line((120, 420, 430, 130), fill=wash, width=6)


def _needle(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    pen.polygon(
        ((90, 250), (200, 200), (480, 215), (560, 245), (480, 275), (200, 295)),
        fill=wash,
        outline=ink,
        width=5,
    )
    pen.line((230, 247, 430, 247), fill=ink, width=6)
    pen.ellipse((120, 235, 150, 262), outline=ink, width=4)


def _paper(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    pen.polygon(((120, 80), (520, 60), (540, 400), (140, 420)), fill="#fbf6e9", outline=ink, width=4)
    for row in range(7):
        pen.line(
            [(165 + x, 120 + row * 40 + 10 * math.sin(x / 40 + row)) for x in range(0, 330, 6)],
            fill=ink,
            width=2,
        )
    pen.ellipse((430, 300, 500, 370), outline=wash, width=10)


def _tube(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    for n, (left, right, half) in enumerate(((90, 260, 62), (250, 400, 46), (390, 540, 32))):
        pen.polygon(
            ((left, 240 - half), (right, 240 - half + 8), (right, 240 + half - 8), (left, 240 + half)),
            fill=wash if n % 2 == 0 else "#fbf6e9",
            outline=ink,
            width=5,
        )
    pen.ellipse((76, 178, 108, 302), fill="#fbf6e9", outline=ink, width=5)


def _lantern(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    pen.arc((270, 40, 370, 150), 180, 360, fill=ink, width=8)
    pen.polygon(((250, 150), (390, 150), (360, 100), (280, 100)), fill=ink)
    pen.rectangle((240, 150, 400, 360), fill=wash, outline=ink, width=6)
    pen.ellipse((275, 200, 365, 310), fill="#fff3c4", outline=ink, width=4)
    pen.rectangle((225, 360, 415, 400), fill=ink)


def _coil(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    for ring in range(8):
        reach = 30 + ring * 18
        pen.ellipse(
            (320 - reach, 240 - reach * 0.8, 320 + reach, 240 + reach * 0.8),
            outline=ink if ring % 2 else wash,
            width=11,
        )


def _oar(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    pen.line((80, 400, 420, 150), fill=ink, width=14)
    pen.polygon(((400, 140), (560, 50), (580, 90), (435, 185)), fill=wash, outline=ink, width=5)


def _kettle(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    pen.arc((200, 60, 440, 300), 180, 360, fill=ink, width=8)
    pen.pieslice((170, 60, 470, 400), 0, 180, fill=wash, outline=ink, width=6)
    pen.rectangle((150, 220, 490, 250), fill=ink)


def _buoy(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    pen.polygon(((320, 70), (420, 340), (220, 340)), fill=wash, outline=ink, width=6)
    pen.polygon(((286, 165), (354, 165), (377, 228), (263, 228)), fill=ink)
    pen.line([(x, 360 + 9 * math.sin(x / 24)) for x in range(40, 600, 6)], fill=ink, width=5)


def _sextant(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    pen.pieslice((140, 0, 500, 420), 55, 125, fill=wash, outline=ink, width=6)
    for angle in range(60, 122, 6):
        far = math.radians(angle)
        pen.line(
            (
                320 + 160 * math.cos(far),
                210 + 186 * math.sin(far),
                320 + 176 * math.cos(far),
                210 + 206 * math.sin(far),
            ),
            fill=ink,
            width=3,
        )
    pen.line((320, 210, 372, 410), fill=ink, width=8)
    pen.ellipse((296, 186, 344, 234), fill=ink)


def _hull(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    pen.polygon(
        ((80, 220), (560, 200), (520, 300), (420, 340), (200, 340), (120, 300)),
        fill=wash,
        outline=ink,
        width=6,
    )
    for row in range(3):
        pen.line((110 + row * 14, 245 + row * 28, 530 - row * 20, 235 + row * 30), fill=ink, width=2)
    pen.line((300, 210, 300, 60), fill=ink, width=7)


def _flags(pen: ImageDraw.ImageDraw, ink: str, wash: str) -> None:
    pen.line((60, 90, 580, 160), fill=ink, width=4)
    for n in range(5):
        left, top = 90 + n * 98, 96 + n * 13
        pen.rectangle(
            (left, top, left + 74, top + 110),
            fill=(wash, "#a3442f", "#fbf6e9", "#2f5f7a", wash)[n],
            outline=ink,
            width=3,
        )
        if n % 2:
            pen.line((left, top, left + 74, top + 110), fill="#fbf6e9", width=12)


_THINGS: dict[str, _Thing] = {
    "lead": _lead,
    "hook": _hook,
    "needle": _needle,
    "chart": _paper,
    "glass": _tube,
    "lantern": _lantern,
    "coil": _coil,
    "oar": _oar,
    "kettle": _kettle,
    "buoy": _buoy,
    "sextant": _sextant,
    "hull": _hull,
    "flags": _flags,
}
