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
    picture = Image.new("RGB", _SIZE, _SKY)
    pen = ImageDraw.Draw(picture)
    _DRAWINGS[name](pen)
    out = io.BytesIO()
    picture.save(out, "PNG", optimize=True)
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
        frames = bytearray()
        for n in range(rate * seconds):
            t = n / rate
            heard = sum(a * math.exp(-d * t) * math.sin(2 * math.pi * f * t) for f, a, d in partials)
            frames += struct.pack("<h", round(9000 * heard))
        sound.writeframes(bytes(frames))
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
