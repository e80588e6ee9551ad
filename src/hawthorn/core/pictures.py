"""Crops: the sizes in which a site shows pictures, and which part of a picture each keeps."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import asdict
from typing import Any

from hawthorn.core import shapes
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass

_NAME = re.compile(r"^[a-z][a-z0-9_]{0,30}$")
WIDEST = 4000
"""Pixels that a side of a rendition may have."""
MOST = 24
"""So many crops may be defined."""


@dataclass(frozen=True, slots=True)
class Crop:
    """One size in pixels in which pictures are shown, and where. A height of 0 keeps the whole picture, scaled to the width.
    Pictures are never enlarged: a smaller one keeps the shape of the crop."""

    name: str
    label: str = ""
    width: int = 800
    height: int = 0
    use: str = ""

    @property
    def shape(self) -> str:
        """Its size, as addresses of renditions name it: a rendition is what it is by that, not by what the crop is called."""
        return f"{self.width}x{self.height}"

    def size(self, width: int, height: int) -> tuple[int, int]:
        """The size that the rendition of a picture has."""
        left, top, right, bottom = self.window(width, height, 50, 50)
        scale = min(1.0, self.width / (right - left))
        return max(1, round((right - left) * scale)), max(1, round((bottom - top) * scale))

    def window(self, width: int, height: int, x: int, y: int) -> tuple[int, int, int, int]:
        """The part of a picture that it keeps, as left, top, right and bottom: as large as its shape allows, with the focus
        (in hundredths) in the middle as far as the edges let it."""
        if not self.height:
            return 0, 0, width, height
        shape = self.width / self.height
        wide = min(width, max(1, round(height * shape)))
        high = min(height, max(1, round(width / shape)))
        left = min(max(round(width * x / 100 - wide / 2), 0), width - wide)
        top = min(max(round(height * y / 100 - high / 2), 0), height - high)
        return left, top, left + wide, top + high


def from_list(raws: Any) -> dict[str, Crop]:
    """Crops from their definitions, by name, or `Invalid` with every problem in them."""
    found = shapes.members({"crops": raws}, "crops")
    problems: list[FieldProblem] = []
    out: dict[str, Crop] = {}
    if len(found) > MOST:
        problems.append(FieldProblem("crops", said("common.at_most", most=MOST)))
    for index, raw in enumerate(found):
        where = f"crops.{raw.get('name', index) if isinstance(raw, Mapping) else index}"
        made, wrong = shapes.shaped(Crop, raw, where)
        problems += wrong
        if made is None:
            continue
        if not _NAME.match(made.name):
            problems.append(FieldProblem(where, said("common.small_name")))
        if made.name in out:
            problems.append(FieldProblem(where, said("common.twice")))
        if not 16 <= made.width <= WIDEST or not (made.height == 0 or 16 <= made.height <= WIDEST):
            problems.append(FieldProblem(where, said("pictures.sides", most=WIDEST)))
        out[made.name] = made
    if problems:
        raise Invalid(problems)
    return out


def to_list(crops: Iterable[Crop]) -> list[dict[str, Any]]:
    """The definitions of crops, as `from_list` reads them."""
    return [asdict(crop) for crop in crops]
