"""Figures of pages: renditions, the outline, and how soon a preview shows what was saved."""

from __future__ import annotations

import io
import random
import sqlite3
import statistics
import time
from collections.abc import Callable
from pathlib import Path

import httpx
from fastapi.testclient import TestClient
from PIL import Image

from benchmarks import floor, made
from benchmarks.browsing import museum, page_of
from benchmarks.figures import Figure, free_port, interleaved, load, service, serving
from benchmarks.figures import floor as served_floor
from hawthorn.client import Client
from hawthorn.demo.museum import PASSWORD
from hawthorn.demo.parts import Demo
from hawthorn.operations.access import people as act_people
from hawthorn.operations.content import entries
from hawthorn.operations.media import files
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act
from hawthorn.service.app import create_app
from hawthorn.service.settings import Settings
from hawthorn.store import files as file_store
from hawthorn.store import people


def photograph(width: int, height: int, seed: int = 5) -> bytes:
    """A JPEG with about as much in it as a photograph has."""
    rng = random.Random(seed)
    small = Image.frombytes(
        "RGB", (width // 32, height // 32), rng.randbytes(width // 32 * (height // 32) * 3)
    )
    out = io.BytesIO()
    small.resize((width, height), Image.Resampling.BICUBIC).save(out, "JPEG", quality=90)
    return out.getvalue()


def _alone(data: bytes, box: tuple[int, int, int, int], size: tuple[int, int]) -> bytes:
    """What the image library does by itself: decode as large as it must, cut, scale, encode."""
    with Image.open(io.BytesIO(data)) as picture:
        scale = 2 * size[0] / (box[2] - box[0])
        picture.draft("RGB", (round(picture.width * scale), round(picture.height * scale)))
        at = picture.width / PICTURE[0]
        cut = picture.resize(size, Image.Resampling.LANCZOS, box=tuple(n * at for n in box), reducing_gap=2.0)
    out = io.BytesIO()
    cut.save(out, "WEBP", quality=82, method=4)
    return out.getvalue()


PICTURE = (3000, 2000)


def figure_renditions(folder: Path, rounds: int = 9) -> dict[str, Figure]:
    """A rendition made for the first time, and read again, over HTTP."""
    path = folder / "pictures.sqlite"
    desk = made.open_desk(path)
    data = photograph(*PICTURE)
    wim = made.somebody(desk, "wim")

    def put(act: Act) -> str:
        value = files.keep(act, files.inspect("pier.jpg", data))
        fields = {"title": "Pier", "alt": "A pier", "file": {**value, "focus": [30, 40]}}
        uuid = entries.start(act, "picture", "en", fields)
        dispatches.make(act, [MoveRequest(uuid, "en")])
        return str(value["sha256"])

    sha256 = desk.write(wim, put)
    with desk.db.read() as conn:
        found = file_store.find(conn, sha256)
        assert found is not None
        stored = file_store.part(conn, sha256, 0, found.bytes)
    crop = desk.read(wim, lambda view: view.setup.crops["wide"])
    desk.db.close()
    box, size = crop.window(*PICTURE, 30, 40), crop.size(*PICTURE)
    target = f"/read/files/{sha256}/wide-{crop.shape}-30-40.webp"
    port, floor_port = free_port(), free_port()
    kept, floor_file = sqlite3.connect(f"{path}.renditions", isolation_level=None), folder / "floor.sqlite"
    with serving((service(path, port), port, target)):
        with httpx.Client(base_url=f"http://127.0.0.1:{port}") as http:

            def first() -> float:
                kept.execute("DELETE FROM rendition")
                return _seconds(lambda: http.get(target).raise_for_status())

            first()
            ours, alone = interleaved(first, lambda: _seconds(lambda: _alone(stored, box, size)), rounds)
            body = http.get(target).content
        floor.stored(floor_file, [("r en", '"x"', body)])
        bare_target = "/r?locale=en"
        with serving((served_floor(floor_file, floor_port), floor_port, bare_target)):
            again, bare = interleaved(
                lambda: load(port, path=target), lambda: load(floor_port, path=bare_target), 5
            )
    kept.close()
    return {
        "a rendition made first, against the image library alone": Figure(
            ours * 1000, alone * 1000, ours / alone, 1.3, "lower", "ms"
        ),
        f"a rendition of {len(body) // 1024} KB read again": Figure(
            again, bare, again / bare, 0.8, "higher", "requests/s"
        ),
    }


def _seconds(act: Callable[[], object]) -> float:
    start = time.perf_counter()
    act()
    return time.perf_counter() - start


FAN = 10
WIDE = 120


class _Tree:
    """A site of so many pages: ten below each, and one with a wide level below it."""

    def __init__(self, folder: Path, count: int) -> None:
        self.desk = made.open_desk(folder / f"{count}.sqlite")
        self.levels: list[list[str]] = []
        self.wide = ""
        self.desk.write(made.somebody(self.desk, "wim"), lambda act: self._fill(act, count))
        with self.desk.db.read() as conn:
            chief = people.by_handle(conn, "wim")
            assert chief is not None
        _, secret = self.desk.write(
            made.somebody(self.desk, "wim"),
            lambda act: act_people.issue_key(act, "bench", "staff", "program", ["draft"]),
        )
        app = create_app(Settings(file=self.desk.db.path, followers=False), self.desk)
        self.http = TestClient(app, headers={"Authorization": f"Bearer {secret}"})

    def _fill(self, act: Act, count: int) -> None:
        def page(n: int, below: str) -> str:
            fields = {"title": f"Page {n} of the harbour", **({"below": below} if below else {})}
            return entries.start(act, "page", "en", fields)

        n = 0
        self.wide = page(n, "")
        for n in range(1, WIDE + 1):
            page(n, self.wide)
        above = [""]
        while n + 1 < count:
            level: list[str] = []
            for one in above:
                for _ in range(FAN):
                    if n + 1 < count:
                        n += 1
                        level.append(page(n, one))
            self.levels.append(level)
            above = level

    def ask(self, path: str) -> None:
        if self.http.get(path).status_code != 200:
            raise RuntimeError(f"{path} was not answered")


def figure_outline(folder: Path, rounds: int = 25) -> dict[str, Figure]:
    """A level of the outline, at every depth, and the way to a page, among 20,000 pages and among 200."""
    small, large = _Tree(folder, 200), _Tree(folder, 20_000)
    figures: dict[str, Figure] = {}

    def add(name: str, ours: Callable[[], object], floor: Callable[[], object]) -> None:
        ours()
        floor()
        found, bare = interleaved(lambda: _seconds(ours), lambda: _seconds(floor), rounds)
        figures[f"outline of 20,000 pages: {name}"] = Figure(
            found * 1000, bare * 1000, found / bare, 2.0, "lower", "ms"
        )

    parent = small.levels[0][0]
    add("the top", lambda: large.ask("/api/outline"), lambda: small.ask("/api/outline"))
    for depth, level in enumerate(large.levels[:-1], 1):
        one = level[0]
        add(
            f"a level at depth {depth}",
            lambda one=one: large.ask(f"/api/outline?below={one}"),
            lambda: small.ask(f"/api/outline?below={parent}"),
        )
    add(
        "a page of 100 in a wide level",
        lambda: large.ask(f"/api/outline?below={large.wide}"),
        lambda: small.ask(f"/api/outline?below={small.wide}"),
    )
    deep, shallow = large.levels[2][-1], small.levels[1][-1]
    add(
        "the way to a page",
        lambda: large.ask(f"/api/outline/{deep}/trail"),
        lambda: small.ask(f"/api/outline/{shallow}/trail"),
    )
    add(
        "a search",
        lambda: large.ask("/api/outline/search?words=harbour+page"),
        lambda: small.ask("/api/outline/search?words=harbour+page"),
    )
    for tree in (small, large):
        tree.http.close()
        tree.desk.db.close()
    return figures


def figure_preview(folder: Path, times: int = 120) -> dict[str, Figure]:
    """From a save, and from a keystroke, to the page in the frame that shows it; against saving and fetching it alone."""
    with museum(folder) as demo, Client(demo.ports.url("service")) as hawthorn:
        hawthorn.log_in("nell", PASSWORD)
        id = hawthorn.start("label", {"title": "A measured label", "number": "PH 7", "body": "<p>x</p>"}).id
        saved, typed = _in_browser(demo, id, times)
        bare = [_bare(hawthorn, demo, id, n) for n in range(times)]
    floor = statistics.median(bare)
    figures: dict[str, Figure] = {}
    for name, found, goal in (("a save", saved, 4.0), ("a keystroke", typed, 8.0)):
        middle, worst = statistics.median(found), statistics.quantiles(found, n=100)[98]
        figures[f"{name} to the updated preview, median"] = Figure(
            middle, floor, middle / floor, goal, "lower", "ms"
        )
        figures[f"{name} to the updated preview, 99th percentile"] = Figure(
            worst, floor, worst / floor, goal * 3, "lower", "ms"
        )
    return figures


def _bare(hawthorn: Client, demo: Demo, id: str, n: int) -> float:
    """A save over HTTP, and the page fetched as the frame fetches it, in milliseconds."""
    entry = hawthorn.entry(id, "en")
    url = f"{demo.ports.url('preview')}/en/~{id}"

    def both() -> None:
        hawthorn.save(id, "en", {"title": f"Bare {n}"}, etag=entry.etag)
        httpx.get(url).raise_for_status()

    return _seconds(both) * 1000


def _in_browser(demo: Demo, id: str, times: int) -> tuple[list[float], list[float]]:
    service = demo.ports.url("service")
    with page_of(demo, "nell") as page:
        page.goto(f"{service}/entries/{id}/en")
        page.get_by_role("tab", name="Page", exact=True).click()
        page.get_by_text("The page follows what you type").wait_for()
        frame = next(f for f in page.frames if f.url.startswith(demo.ports.url("preview")))
        title = page.get_by_label("Title", exact=True)
        saved, typed = [], []
        for n in range(times):
            wanted = f"Label, version {n}"
            shown = frame.evaluate_handle(_SHOWN, wanted)
            start = time.perf_counter()
            title.fill(wanted)
            shown.evaluate("seen => seen.when")
            typed.append((time.perf_counter() - start) * 1000)
            # Somebody else saves over the API: what the person beside sees is this save, and no typing of theirs.
            page.get_by_role("button", name="Save draft").click()
            page.get_by_role("button", name="Save draft", disabled=True).wait_for()
            page.wait_for_timeout(250)
        with Client(service) as other:
            other.log_in("wim", PASSWORD)
            for n in range(times):
                wanted = f"Saved by another, {n}"
                entry = other.entry(id, "en")
                shown = frame.evaluate_handle(_SHOWN, wanted)
                start = time.perf_counter()
                other.save(id, "en", {"title": wanted}, etag=entry.etag)
                shown.evaluate("seen => seen.when")
                saved.append((time.perf_counter() - start) * 1000)
    return saved, typed


_SHOWN = """wanted => {
  const has = () => document.querySelector("h1")?.textContent === wanted;
  const when = new Promise((done) => {
    const look = new MutationObserver(() => has() && (look.disconnect(), done(true)));
    look.observe(document, { subtree: true, childList: true, characterData: true });
    if (has()) done(true);
  });
  return { when };
}"""
