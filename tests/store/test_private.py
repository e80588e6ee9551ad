"""What lies on the disk is its owner's alone, and nothing of anybody else's is touched."""

from __future__ import annotations

import os
import socket
import stat
from pathlib import Path

from hawthorn.store import definitions
from hawthorn.store.database import Database
from hawthorn.store.renditions import Renditions


def modes(folder: Path) -> dict[str, int]:
    return {p.name: stat.S_IMODE(p.lstat().st_mode) for p in folder.iterdir()}


def test_the_record_file_and_what_lies_beside_it_are_private_whatever_the_umask(tmp_path: Path) -> None:
    before = os.umask(0)
    try:
        db = Database(tmp_path / "records.sqlite")
        stop = db.bell.listen(lambda _: None)
        kept = Renditions(tmp_path / "records.sqlite", 1_000_000)
        db.write(lambda c: definitions.set_setting(c, "a", "1"))
        kept.keep("a", "image/png", b"x", 1)
        found = modes(tmp_path)
        assert {"records.sqlite", "records.sqlite-wal", "records.sqlite.renditions"} <= set(found)
        assert {n: oct(m) for n, m in found.items() if m & 0o077} == {}
        stop()
        kept.close()
        db.close()
    finally:
        os.umask(before)


def test_a_file_that_others_could_read_is_made_private(tmp_path: Path) -> None:
    path = tmp_path / "records.sqlite"
    Database(path).close()
    path.chmod(0o644)
    Database(path).close()
    assert modes(tmp_path)["records.sqlite"] == 0o600


def test_a_link_in_the_place_of_the_sockets_leads_to_nothing_being_removed(tmp_path: Path) -> None:
    theirs = tmp_path / "theirs"
    theirs.mkdir()
    (theirs / "letter").write_text("mine")
    with socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM) as dead:
        dead.bind(str(theirs / "dead"))
    (tmp_path / "house").mkdir()
    path = tmp_path / "house" / "records.sqlite"
    path.with_name("records.sqlite.wake").symlink_to(theirs)
    db = Database(path)
    db.bell.listen(lambda _: None)
    db.write(lambda c: definitions.set_setting(c, "a", "1"))
    db.close()
    assert {p.name for p in theirs.iterdir()} == {"letter", "dead"}


def test_only_sockets_are_swept(tmp_path: Path) -> None:
    path = tmp_path / "records.sqlite"
    folder = path.with_name("records.sqlite.wake")
    folder.mkdir(mode=0o700)
    (folder / "letter").write_text("mine")
    with socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM) as dead:
        dead.bind(str(folder / "dead"))
    db = Database(path)
    db.bell.listen(lambda _: None)
    db.write(lambda c: definitions.set_setting(c, "a", "1"))
    assert "letter" in {p.name for p in folder.iterdir()}
    assert "dead" not in {p.name for p in folder.iterdir()}
    db.close()
