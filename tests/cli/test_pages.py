"""Outline, library, sites, previews and search and sharing, from the command line."""

from __future__ import annotations

import json
import re
from pathlib import Path

import httpx

from tests.cli.test_cli import Run, run
from tests.conftest import Running
from tests.service.test_story import png

__all__ = ["run"]


def page(run: Run, title: str, below: str = "", who: str = "oda") -> str:
    words = ["entry", "start", "page", "--set", f"title={title}", "--set", "page=[]", "--json"]
    words += ["--set", f"below={below}"] if below else []
    return str(json.loads(run(*words, who=who).stdout)["id"])


def test_pages_are_drawn_moved_put_back_and_copied(running: Running, run: Run) -> None:
    quay = page(run, "Quay by night")
    for n in (1, 2):
        page(run, f"Lantern {n}", quay)
    assert re.search(r"Quay by night.*\n  Lantern 1.*\n  Lantern 2", run("outline", who="oda").stdout)
    assert "incomplete" in run("outline", "Quay by night", who="oda").stdout
    moved = run("move", "Lantern 2", "--below", "Quay by night", "--before", "Lantern 1", who="oda").stdout
    assert "Quay by night › Lantern 2" in moved
    found = json.loads(run("outline", "Quay by night", "--json", who="oda").stdout)
    assert [line["title"] for line in found["items"]] == ["Lantern 2", "Lantern 1"]
    back = re.search(r"put-back (\S+) '(.*)'", moved)
    assert back
    run("put-back", back[1], back[2], who="oda")
    found = json.loads(run("outline", "Quay by night", "--json", who="oda").stdout)
    assert [line["title"] for line in found["items"]] == ["Lantern 1", "Lantern 2"]
    run("move", "Quay by night", "--below", "Lantern 1", code=5, who="oda")
    run("move", "Lantern 1", "--top", code=4, who="mina")
    run("move", "Lantern 1", code=2, who="oda")
    # After a page alone: it stays where that one stands.
    assert "Quay by night › Lantern 1" in run("move", "Lantern 1", "--after", "Lantern 2", who="oda").stdout
    found = run("outline", "--words", "Lantern", who="oda").stdout
    assert re.search(r"Quay by night › Lantern 1", found)
    assert "Copied 3 entries" in run("copy-tree", "Quay by night", who="oda").stdout
    run("put-back", "Lantern 1", "no json", code=2, who="oda")
    assert "Quay by night" not in run("outline", "--stage", "release", who="oda").stdout


def test_files_go_into_the_library_and_on_after_a_break(running: Running, run: Run, tmp_path: Path) -> None:
    file = tmp_path / "tern.png"
    file.write_bytes(png("white"))
    nell = running.as_("nell")
    begun = nell.begin_upload("tern.png", file.stat().st_size)
    nell.append_upload(begun, 0, file.read_bytes()[:20])
    assert "image/png, 40 × 30" in run("upload", str(file), who="nell").stdout
    assert begun not in [u.id for u in nell.uploads().items], "it went on with the upload that had begun"
    run("entry", "start", "picture", "--set", "title=A tern", "--set", f"file=@{file}", who="nell")
    run("folder", "make", "Birds", who="nell")
    run("folder", "make", "Seabirds", "--inside", "Birds", who="nell")
    run("file-into", "A tern", "--folder", "Seabirds", who="nell")
    assert re.search(r"1\s+Seabirds", run("folder", "list", who="nell").stdout)
    table = run("library", "--folder", "Seabirds", who="nell").stdout
    assert "A tern" in table
    assert "no alt text" in table
    run("folder", "remove", "Seabirds", who="nell")
    assert "A tern" in run("library", "--folder", "Birds", who="nell").stdout
    letter = tmp_path / "letter.png"
    letter.write_text("Dear museum,")
    assert "no file that can be used" in run("upload", str(letter), who="nell", code=5).output
    run("library", "--folder", "Whales", who="nell", code=3)


def test_crops_and_sites_are_set_up_by_file_and_tried(running: Running, run: Run, tmp_path: Path) -> None:
    crops = run("crops", "--json", who="ida").stdout
    file = tmp_path / "crops.json"
    file.write_text(crops)
    assert "wide" in run("crops", str(file), who="ida").stdout
    file.write_text("[")
    run("crops", str(file), who="ida", code=2)
    file.write_text(json.dumps({"crops": [{"name": "x", "width": 1}]}))
    assert "16 to 4,000" in run("crops", str(file), who="ida", code=5).output
    sites = run("site", "list", "--json", who="ida").stdout
    file.write_text(sites)
    assert "all types" in run("site", "list", str(file), who="ida").stdout
    run("site", "list", str(file), who="wim", code=4)
    assert "It shows what is being typed." in run("site", "check", "preview", who="ida").stdout
    assert "Nothing answered" in run("site", "check", "own", who="ida", code=7).stdout
    run("site", "check", "nowhere", who="ida", code=3)


def test_a_page_is_previewed_shared_and_taken_back(running: Running, run: Run) -> None:
    id = page(run, "A quiet corner")
    opened = run("preview", "open", "A quiet corner", who="oda").stdout.replace("\n", "")
    url = re.search(r"Preview \(draft\)\s+(http\S+)", opened)
    assert url
    assert "A quiet corner" in httpx.get(url[1]).text
    given = run(
        "preview", "give", "A quiet corner", "--days", "2", "--name", "The gardener", who="oda"
    ).stdout
    assert "The gardener" in given
    made = json.loads(run("preview", "links", "A quiet corner", "--json", who="oda").stdout)["items"][0]
    address = next(a["url"] for a in made["addresses"] if a["site"] == "preview")
    assert httpx.get(address).status_code == 200
    assert "used once" in run("preview", "links", "A quiet corner", who="oda").stdout
    run("preview", "take-back", made["id"][-8:], who="oda")
    assert httpx.get(address).status_code == 404
    assert "taken back" in run("preview", "links", "A quiet corner", who="oda").stdout
    run("preview", "give", id, who="mina", code=4)
    run("preview", "take-back", "nothing", who="oda", code=3)


def test_what_shows_a_block_and_what_searches_show_is_listed(running: Running, run: Run) -> None:
    shown = run("shown-in", "How to find us", who="ida").stdout
    assert "Visit" in shown
    assert re.search(r"Frame of all pages\s+frame", shown)
    listed = run("search-and-sharing", "--locale", "en", who="ida").stdout
    assert "The description is that of “Access” too." in listed
