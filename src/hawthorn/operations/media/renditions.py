"""Renditions: a stored picture in the size and shape of a crop, around its focus, made when first asked for."""

from __future__ import annotations

import io
import re
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace

from PIL import Image, ImageOps

from hawthorn.core import pictures
from hawthorn.core.access import Subject
from hawthorn.core.errors import BadFile, Invalid, NotFound
from hawthorn.core.pictures import Crop
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.delivery import shown_files
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.media import metadata
from hawthorn.operations.runtime.act import Act, View, setup_changed
from hawthorn.store import definitions, standings
from hawthorn.store.file_store import FileStore
from hawthorn.store.files import File
from hawthorn.store.renditions import Renditions
from hawthorn.store.standings import RELEASE

NAME = re.compile(
    r"^(?P<crop>[a-z][a-z0-9_]{0,30})(?:-(?P<shape>[1-9][0-9]{0,3}x(?:0|[1-9][0-9]{0,3})))?-(?P<x>0|[1-9][0-9]?|100)-(?P<y>0|[1-9][0-9]?|100)\.(?P<ending>webp|avif|png|jpg)$"
)
FORMATS = {
    "webp": ("WEBP", "image/webp", {"quality": 82, "method": 4}),
    "avif": ("AVIF", "image/avif", {"quality": 62, "speed": 7}),
    "png": ("PNG", "image/png", {"optimize": False}),
    "jpg": ("JPEG", "image/jpeg", {"quality": 85, "progressive": True}),
}
"""The kinds in which renditions are made: two that are small, and the two original ones."""


@dataclass(frozen=True, slots=True)
class Wish:
    """Which rendition is asked for: of which file, in which crop, around which focus, as which kind. With the `shape` of the crop it
    is one for ever; without, the one of the crop as it is now."""

    sha256: str
    crop: str
    shape: str
    x: int
    y: int
    ending: str

    def of(self, crop: Crop) -> Wish:
        """The same, in the shape that the crop has now."""
        return replace(self, shape=crop.shape)

    @property
    def name(self) -> str:
        """The last part of its address."""
        return f"{self.crop}-{self.shape}-{self.x}-{self.y}.{self.ending}"

    @property
    def key(self) -> str:
        """What it is kept under: all that it is made by."""
        return f"{self.sha256}/{self.shape}-{self.x}-{self.y}.{self.ending}"

    @property
    def media_type(self) -> str:
        """What it is made as."""
        return FORMATS[self.ending][1]

    @property
    def etag(self) -> str:
        """An entity tag for it."""
        return f"{self.sha256[:16]}-{self.shape}-{self.x}-{self.y}-{self.ending}"

    @property
    def focus(self) -> str:
        """The focus as files carry it."""
        return f"{self.x},{self.y}"


def parse(sha256: str, name: str) -> Wish:
    """A wish from the last two parts of an address; raises `NotFound` for what is none."""
    found = NAME.match(name)
    if found is None:
        raise NotFound("renditions.no_name", name=name)
    return Wish(
        sha256, found["crop"], found["shape"] or "", int(found["x"]), int(found["y"]), found["ending"]
    )


def source(view: View, wish: Wish, where: Place) -> tuple[Crop, File]:
    """The crop and the file to make a rendition from, if whoever reads may see it there.

    What is out is shown around the foci that it has; those who may see drafts may ask for any.
    """
    crop = view.setup.crops.get(wish.crop)
    if crop is None:
        raise NotFound(
            "renditions.no_crop" if view.setup.crops else "renditions.no_crops",
            crop=wish.crop,
            known=list(view.setup.crops),
        )
    row = shown_files.file(view, wish.sha256, where)
    if where.plain and not shown_files.shown_by(view, wish.sha256, wish.focus):
        raise NotFound("renditions.not_shown")
    if not row.width or row.media_type == "image/svg+xml":
        raise Invalid("renditions.only_pixels")
    return crop, row


def make(crop: Crop, data: bytes, x: int, y: int, ending: str) -> tuple[str, bytes]:
    """The media type and bytes of a rendition. Metadata of the picture stays behind, but for its colour profile."""
    try:
        return _made(crop, data, x, y, ending)
    except (MemoryError, Image.DecompressionBombError, *metadata.BROKEN) as error:
        # A side may be too long for a format (WebP: 16,383 pixels), or a file be damaged where nobody looked.
        raise BadFile(
            "renditions.cannot_be_made",
            width=crop.width,
            format=ending.upper(),
            error=error or type(error).__name__,
        ) from None


def _made(crop: Crop, data: bytes, x: int, y: int, ending: str) -> tuple[str, bytes]:
    format, media_type, options = FORMATS[ending]
    with Image.open(io.BytesIO(data)) as opened:
        opened.draft("RGB", _draft_size(crop, opened.size))
        picture = ImageOps.exif_transpose(opened)
        profile = opened.info.get("icc_profile")
    if picture.mode not in ("RGB", "RGBA", "L"):
        picture = picture.convert("RGBA" if "transparency" in picture.info or "A" in picture.mode else "RGB")
    if ending == "jpg" and picture.mode == "RGBA":
        ground = Image.new("RGB", picture.size, "white")
        ground.paste(picture, mask=picture.getchannel("A"))
        picture = ground
    size = crop.size(*picture.size)
    window = crop.window(*picture.size, x, y)
    if (window[2] - window[0], window[3] - window[1]) != size or window[:2] != (0, 0):
        picture = picture.resize(size, Image.Resampling.LANCZOS, box=window, reducing_gap=2.0)
    out = io.BytesIO()
    extra = {"icc_profile": profile} if profile and format != "PNG" else {}
    picture.save(out, format, **options, **extra)  # type: ignore[arg-type]
    return media_type, out.getvalue()


def _draft_size(crop: Crop, size: tuple[int, int]) -> tuple[int, int]:
    """How large a JPEG has to be decoded at least, so that its crop still has twice the pixels that are shown."""
    window = crop.window(*size, 50, 50)
    width, _ = crop.size(*size)
    scale = min(1.0, 2 * width / (window[2] - window[0]))
    return max(1, round(size[0] * scale)), max(1, round(size[1] * scale))


def _named(wish: Wish) -> str:
    """What it is called in a file store."""
    return f"renditions/{wish.sha256[:2]}/{wish.key}"


class Maker:
    """Makes renditions once: whoever asks for one that is being made waits for it; not more are made at a time than
    there are processors. Where files lie in a file store, renditions do too: another machine need not make them again."""

    def __init__(
        self,
        read: Callable[[File], bytes],
        kept: Renditions,
        at_once: int,
        file_store: FileStore | None = None,
    ) -> None:
        self.kept = kept
        self._read, self._store = read, file_store
        self._slots = threading.BoundedSemaphore(max(1, at_once))
        self._guard = threading.Lock()
        self._making: dict[str, threading.Lock] = {}

    def rendition(self, wish: Wish, now: int, crop: Crop, file: File) -> tuple[str, bytes]:
        """The media type and bytes, from what is kept or made now, of a file that may be seen."""
        with self._alone(wish.key):
            found = self.kept.find(wish.key, now)
            if found is None:
                found = self._from_store(wish) or self._made(wish, crop, file)
                self.kept.keep(wish.key, *found, now)
        return found

    def _made(self, wish: Wish, crop: Crop, file: File) -> tuple[str, bytes]:
        with self._slots:
            found = make(crop, self._read(file), wish.x, wish.y, wish.ending)
        if self._store is not None:
            self._store.put(_named(wish), found[1])
        return found

    def _from_store(self, wish: Wish) -> tuple[str, bytes] | None:
        size = self._store.size(_named(wish)) if self._store is not None else None
        if self._store is None or size is None:
            return None
        return FORMATS[wish.ending][1], self._store.part(_named(wish), 0, size)

    @contextmanager
    def _alone(self, key: str) -> Iterator[None]:
        with self._guard:
            lock = self._making.setdefault(key, threading.Lock())
        try:
            with lock:
                yield
        finally:
            with self._guard:
                if not lock.locked():
                    self._making.pop(key, None)


def define_crops(act: Act, raws: object) -> None:
    """Put crops in place of those there are. Pages that show pictures are read anew, with other addresses of renditions in them."""
    permission.require(act, "configure", Subject())
    crops = pictures.from_list(raws)
    definitions.set_crops(act.conn, crops)
    setup_changed(act)
    standings.note_changes(act.conn, [(RELEASE, 0, "rendition")], act.next_seq, act.now)
    act.event("crops.defined", [], {"crops": list(crops)})
