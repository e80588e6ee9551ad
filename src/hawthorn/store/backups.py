"""Backups of a record file: copied while it is written (the backup interface of SQLite), compressed (Zstandard, RFC 8878) and, where that is asked for,
encrypted (age, age-encryption.org/v1), each with a note beside it that says what is in it."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO, Any

import zstandard

from hawthorn.core import keeping
from hawthorn.core.errors import BadFile, BadStore, InTheWay
from hawthorn.core.keeping import Keep
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.store import connection, events, failing, outbox, private

_HEADER = 18
"""The most bytes of the header of a frame (RFC 8878, section 3.1.1.1)."""
LAST = "backup_last"
"""The setting of a record file in which it stands how the last backup by the timetable went."""
PAGES = 256
"""So many pages are copied at once."""
_NICE = 10
"""How far whoever backs up gives way to others (0 as everybody, 19 at most)."""
PAUSE = 0.002
"""Seconds between two such steps, in which others have the disk."""
Told = Callable[[int, int], None]


@dataclass(frozen=True, slots=True)
class Backup:
    """A backup: where it lies, of when it is, what of the log it has, and the SHA-256 and bytes of its file."""

    path: Path
    at: int
    events: int
    tip: str
    sha256: str
    bytes: int
    record_bytes: int
    sealed: bool


def _untold(done: int, total: int) -> None:
    """Tell nobody."""


def make(
    record: Path,
    folder: Path,
    now: int,
    recipients: Sequence[str] = (),
    told: Told = _untold,
    pause: float = PAUSE,
) -> Backup:
    """Back a record file up, which may be written meanwhile: the backup has all of one instant. `told` is told how many pages are copied, and of how
    many."""
    seal = _sealing(recipients)
    with failing.named(folder, (OSError, sqlite3.DatabaseError)), _giving_way():
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        goal = folder / keeping.named(now, sealed=bool(recipients))
        if goal.exists():
            raise InTheWay("backups.there", file=goal.name)
        plain, packed = folder / f"{goal.name}.copying", folder / f"{goal.name}.packing"
        try:
            seq, tip = _copied(record, plain, told, pause)
            size = plain.stat().st_size
            with plain.open("rb") as source, _private(packed) as file, seal(file) as out:
                zstandard.ZstdCompressor(level=3, write_checksum=True).copy_stream(source, out, size=size)
            digest, length = _digest(packed)
            note = {
                "record": record.name,
                "at": iso(now),
                "events": seq,
                "tip": tip,
                "sha256": digest,
                "bytes": length,
                "record_bytes": size,
            }
            with _private(_note_of(goal)) as file:
                file.write(json.dumps(note, indent=1).encode() + b"\n")
            os.replace(packed, goal)
        finally:
            for path in (plain, packed):
                path.unlink(missing_ok=True)
    return Backup(goal, now, seq, tip, digest, length, size, bool(recipients))


@contextmanager
def _giving_way() -> Iterator[None]:
    """Let those who save meanwhile go before this thread, which has a priority of its own (setpriority(2)); where that may not be taken back, it stays so."""
    thread = threading.get_native_id()
    before = None
    with suppress(OSError):
        before = os.getpriority(os.PRIO_PROCESS, thread)
        os.setpriority(os.PRIO_PROCESS, thread, max(before, _NICE))
    try:
        yield
    finally:
        with suppress(OSError):
            if before is not None:
                os.setpriority(os.PRIO_PROCESS, thread, before)


def _copied(record: Path, goal: Path, told: Told, pause: float) -> tuple[int, str]:
    """Copy a record file as it is at one instant; returns its newest event and the hash of that."""
    source = connection.open_reader(record)
    goal.unlink(missing_ok=True)
    target = sqlite3.connect(goal, isolation_level=None)
    goal.chmod(0o600)
    try:
        # One state throughout: what is written meanwhile is for the next one.
        source.execute("BEGIN")
        seq, _, tip = events.last(source)

        def step(status: int, remaining: int, total: int) -> None:
            told(total - remaining, total)
            time.sleep(pause)

        source.backup(target, pages=PAGES, progress=step)
        target.execute("PRAGMA journal_mode = DELETE")
    finally:
        target.close()
        source.close()
    return seq, tip


def listing(folder: Path) -> list[Backup]:
    """The backups in a folder, the newest first; what has no note is known by its name alone."""
    found = [
        made
        for path in (folder.iterdir() if folder.is_dir() else ())
        if (at := keeping.instant_of(path.name)) is not None and (made := _noted(path, at))
    ]
    return sorted(found, key=lambda one: one.at, reverse=True)


def _noted(path: Path, at: int) -> Backup:
    try:
        note: dict[str, Any] = json.loads(_note_of(path).read_text("utf-8"))
    except (OSError, ValueError):
        note = {}
    return Backup(
        path,
        at,
        int(note.get("events", 0)),
        str(note.get("tip", "")),
        str(note.get("sha256", "")),
        path.stat().st_size,
        int(note.get("record_bytes", 0)),
        path.suffix == ".age",
    )


def retain(folder: Path, keep: Keep) -> list[str]:
    """Take away the backups of a folder that are not to be kept; returns what they were called."""
    there = listing(folder)
    kept = keeping.kept((one.at for one in there), keep)
    gone = [one.path for one in there if one.at not in kept]
    for path in gone:
        path.unlink(missing_ok=True)
        _note_of(path).unlink(missing_ok=True)
    return [path.name for path in gone]


def unpack(backup: Path, goal: Path, identities: Sequence[str] = ()) -> None:
    """Make the record file of a backup anew, where none lies. Raises `BadFile` where it is not what its note says, or cannot be opened."""
    note = next((one for one in listing(backup.parent) if one.path.name == backup.name), None)
    if note is not None and note.sha256 and _digest(backup)[0] != note.sha256:
        raise BadFile("backups.altered", file=backup.name)
    begun = goal.with_name(f"{goal.name}.restoring")
    with failing.named(goal.parent, OSError):
        try:
            with (
                backup.open("rb") as source,
                _opening(source, backup, identities) as packed,
                _private(begun) as out,
            ):
                _unpacked(packed, out, backup)
            conn = connection.open_still(begun)
            try:
                tip = events.last(conn)
            finally:
                conn.close()
            if note is not None and note.tip and (tip[0], tip[2]) != (note.events, note.tip):
                raise BadFile("backups.altered", file=backup.name)
            os.replace(begun, goal)
        except (zstandard.ZstdError, sqlite3.DatabaseError) as error:
            raise BadFile("backups.damaged", file=backup.name, error=error) from None
        finally:
            begun.unlink(missing_ok=True)


def _unpacked(packed: IO[bytes], out: IO[bytes], backup: Path) -> None:
    """Write out what is compressed; raises `BadFile` where it was cut off."""
    size = zstandard.frame_content_size(packed.read(_HEADER))
    packed.seek(0)
    _, written = zstandard.ZstdDecompressor().copy_stream(packed, out)
    if written != size:
        raise BadFile("backups.altered", file=backup.name)


def restore(backup: Path, goal: Path, identities: Sequence[str] = ()) -> int:
    """Restore a backup to a file that is not there. What waited to be sent is kept back, as it may have been sent since; returns how much that is."""
    if goal.exists():
        raise InTheWay("backups.file_there", file=goal.name)
    goal.parent.mkdir(parents=True, exist_ok=True)
    unpack(backup, goal, identities)
    conn = sqlite3.connect(goal, isolation_level=None)
    try:
        conn.execute("BEGIN IMMEDIATE")
        parked = outbox.park(conn)
        conn.execute("COMMIT")
        return parked
    finally:
        conn.close()


def room_for(folder: Path, record: Path) -> None:
    """Raise `BadStore` where a folder has no room for a backup: twice the record file while it is made."""
    at = folder
    while not at.exists() and at != at.parent:
        at = at.parent
    needed = record.stat().st_size * 2
    if shutil.disk_usage(at).free < needed:
        raise BadStore("backups.no_room", folder=str(folder), needed=needed // 1_000_000)


def _note_of(path: Path) -> Path:
    return path.with_name(f"{path.name}.json")


def _digest(path: Path) -> tuple[str, int]:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest(), path.stat().st_size


@contextmanager
def _private(path: Path) -> Iterator[IO[bytes]]:
    path.unlink(missing_ok=True)
    with private.created(path) as file:
        yield file
        private.settled(file)


# -- encryption ----------------------------------------------------------------------------------------------------------------


def _age() -> Any:
    try:
        import pyrage
    except ModuleNotFoundError:
        raise BadStore("backups.no_encryption") from None
    return pyrage


def new_identity() -> tuple[str, str]:
    """A new key of age: the secret that opens backups, and the recipient that they are made for."""
    made = _age().x25519.Identity.generate()
    return str(made), str(made.to_public())


def recipient(text: str) -> Any:
    """Whom backups are encrypted for. Raises `BadFile` for what is no recipient of age."""
    age = _age()
    try:
        return age.x25519.Recipient.from_str(text)
    except Exception as error:
        raise BadFile("backups.no_recipient", text=text[:12], error=error) from None


def _sealing(recipients: Sequence[str]) -> Callable[[IO[bytes]], Any]:
    """What a backup goes through on its way to a file: nothing, or encryption for whoever may open it."""
    some = [recipient(one) for one in recipients]

    @contextmanager
    def seal(file: IO[bytes]) -> Iterator[Any]:
        if not some:
            yield file
            return
        with _Piped(lambda read: _age().encrypt_io(read, file, some)) as write:
            yield write

    return seal


@contextmanager
def _opening(file: IO[bytes], backup: Path, identities: Sequence[str]) -> Iterator[Any]:
    if backup.suffix != ".age":
        yield file
        return
    age = _age()
    if not identities:
        raise BadFile("backups.sealed", file=backup.name)
    try:
        keys = [age.x25519.Identity.from_str(one.strip()) for one in identities]
    except Exception as error:
        raise BadFile("backups.no_identity", error=error) from None
    opened = backup.with_name(f"{backup.name}.opening")
    try:
        with _private(opened) as out:
            try:
                age.decrypt_io(file, out, keys)
            except Exception as error:
                raise BadFile("backups.cannot_be_opened", file=backup.name, error=error) from None
        with opened.open("rb") as packed:
            yield packed
    finally:
        opened.unlink(missing_ok=True)


class _Piped:
    """Lets somebody read from a pipe, in a thread, what is written into it here."""

    def __init__(self, work: Callable[[IO[bytes]], None]) -> None:
        from concurrent.futures import ThreadPoolExecutor

        read, write = os.pipe()
        self._read, self._write = os.fdopen(read, "rb"), os.fdopen(write, "wb")
        self._worker = ThreadPoolExecutor(1)
        self._done = self._worker.submit(self._run, work)

    def _run(self, work: Callable[[IO[bytes]], None]) -> None:
        with self._read:
            work(self._read)

    def __enter__(self) -> IO[bytes]:
        return self._write

    def __exit__(self, *_: object) -> None:
        self._write.close()
        try:
            self._done.result()
        finally:
            self._worker.shutdown()
