"""Waking whoever follows after a commit, in this process and in others on the same file.

Each process that listens has a Unix datagram socket in a folder beside the record file. A ring says what the commit touched, as
topics: the kinds of the events that it wrote (`entry.saved`), or what is kept beside the log (`presence`, `notification`,
`outbox.mail`). Whoever listens says the beginnings of the topics that it follows, and is woken by nothing else.

A datagram may be lost, a commit may come from a process that rings nothing, and some disks hold no sockets. So once a second a listening process asks
whether the file was changed at all, which reads a few bytes, and only then what was written to the log since.
"""

from __future__ import annotations

import os
import socket
import sqlite3
import stat
import threading
import time
import uuid
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

import structlog

from hawthorn.store import connection

log = structlog.get_logger(__name__)
Topics = frozenset[str]
Listener = Callable[[Topics], None]
LOOKS = 1.0
"""Seconds after which the file is looked at without a ring."""
_LONGEST = 2_000
_FRESH = 100_000_000
_BESIDE = (
    "presence",
    "notification",
    "standing",
    "exchange",
    "outbox.mail",
    "outbox.carrier",
    "outbox.drafter",
    "outbox.webhooks",
)
"""What is kept beside the log, where the log cannot say whether it changed."""


def tell(conn: sqlite3.Connection, topic: str) -> None:
    """Note that the running transaction touches something that others follow; they are woken when it has committed."""
    if isinstance(conn, connection.Writer):
        conn.told.add(topic)


class Bell:
    """Rings after commits; `listen` is called for rings of this and other processes."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._folder = path.with_name(f"{path.name}.wake")
        self._mine = self._folder / f"{os.getpid()}-{uuid.uuid4().hex[:8]}"
        self._out = socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM)
        self._out.setblocking(False)
        self._in: socket.socket | None = None
        self._thread: threading.Thread | None = None
        self._starting = threading.Lock()
        self._listeners: list[tuple[Listener, tuple[str, ...]]] = []
        self._others: list[Path] = []
        self._folder_seen = -1
        self._ended = threading.Event()
        self.quiet: Callable[[], None] = lambda: None
        """Called by whoever listens each time the file is looked at, for what is done when there is nothing to do."""

    def listen(self, listener: Listener, topics: Iterable[str] = ("",)) -> Callable[[], None]:
        """Call `listener` after commits that touch a topic which begins with one of these, from a thread; returns how to stop."""
        entry = (listener, tuple(topics))
        with self._starting:
            self._listeners.append(entry)
            if self._thread is None:
                self._in = self._bound()
                self._thread = threading.Thread(target=self._run, name="hawthorn-tailer", daemon=True)
                self._thread.start()
        return lambda: self._listeners.remove(entry) if entry in self._listeners else None

    def _bound(self) -> socket.socket | None:
        """This process's socket; None where there can be none, and the file is only looked at."""
        made = socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM)
        made.settimeout(LOOKS)
        for _ in range(20):
            try:
                self._folder.mkdir(mode=0o700, exist_ok=True)
                if not _is_ours(self._folder):
                    raise PermissionError(f"{self._folder} is a link, or somebody else's")
                with _short(self._mine) as name:
                    made.bind(name)
                break
            except FileNotFoundError:
                # Another process left, was the last, and removed the folder just now.
                continue
            except OSError as error:
                if isinstance(error, FileExistsError) and (
                    self._folder.is_dir() or not os.path.lexists(self._folder)
                ):
                    # The same, between finding it there and looking at it; somebody may have made it anew since.
                    continue
                log.warning(
                    "no socket beside the record file; commits of others are seen a second later",
                    error=str(error),
                )
                made.close()
                return None
        self._sweep()
        return made

    def _sweep(self) -> None:
        """Remove what processes left that were killed."""
        for path in self._paths():
            self._send(path, b"")

    def _paths(self) -> list[Path]:
        """The sockets in the folder; nothing of what else somebody may have put there, or put in its stead."""
        try:
            if not _is_ours(self._folder):
                return []
            return [path for path in self._folder.iterdir() if stat.S_ISSOCK(path.lstat().st_mode)]
        except OSError:
            return []

    def _send(self, to: Path, said: bytes) -> None:
        """Never blocks and never fails; what nobody listens at any more is removed."""
        try:
            with _short(to) as name:
                self._out.sendto(said, name)
        except ConnectionRefusedError:
            to.unlink(missing_ok=True)
        except OSError:
            pass

    def ring(self, topics: Iterable[str]) -> None:
        """Tell every listening process what was touched; never blocks and never fails."""
        try:
            changed = os.stat(self._folder).st_mtime_ns
        except OSError:
            return
        if changed != self._folder_seen:
            self._others = self._paths()
            # A folder's time has the grain of the clock's ticks: what changed just now may change again unseen.
            self._folder_seen = changed if time.time_ns() - changed > _FRESH else -1
        said = "\n".join(sorted(topics)).encode()
        for other in self._others:
            self._send(other, said if len(said) <= _LONGEST else b"*")

    def _run(self) -> None:
        look = _Look(self._path)
        looked = time.monotonic()
        try:
            while not self._ended.is_set():
                topics = self._received()
                if not topics or "*" in topics or time.monotonic() - looked >= LOOKS:
                    topics |= look.since()
                    looked = time.monotonic()
                    self.quiet()
                for listener, wanted in list(self._listeners):
                    if any(topic.startswith(wanted) for topic in topics):
                        self._call(listener, topics)
        finally:
            look.close()

    @staticmethod
    def _call(listener: Listener, topics: Topics) -> None:
        try:
            listener(topics)
        except Exception:
            log.exception("somebody who listens failed; the others are woken all the same")

    def _received(self) -> Topics:
        """What came, all that waits at once; nothing when nothing did for a while."""
        if self._in is None:
            self._ended.wait(LOOKS)
            return frozenset()
        found: set[str] = set()
        try:
            while True:
                found.update(self._in.recv(_LONGEST).decode().split("\n"))
                self._in.settimeout(0)
        except (TimeoutError, BlockingIOError):
            return frozenset(found - {""})
        except OSError:
            return frozenset()
        finally:
            self._in.settimeout(LOOKS)

    def close(self) -> None:
        """Stop listening."""
        self._ended.set()
        if self._in is not None:
            self._send(self._mine, b"")
        if self._thread is not None and self._thread is not threading.current_thread():
            self._thread.join(2)
        if self._in is not None:
            self._in.close()
            self._mine.unlink(missing_ok=True)
            try:
                self._folder.rmdir()
            except OSError:
                pass
        self._out.close()


@contextmanager
def _short(path: Path) -> Iterator[str]:
    """A name of at most some 100 bytes, which is all that a socket may have, for a path of any length."""
    if len(os.fsencode(path)) < 100 or not Path("/proc/self/fd").is_dir():
        yield str(path)
        return
    folder = os.open(path.parent, os.O_RDONLY | os.O_DIRECTORY)
    try:
        yield f"/proc/self/fd/{folder}/{path.name}"
    finally:
        os.close(folder)


class _Look:
    """Whether a file was changed since it was looked at last, and what its log says of it."""

    def __init__(self, path: Path) -> None:
        self._conn = connection.open_reader(path)
        self._version = self._data_version()
        self._seq = self._last()

    def _data_version(self) -> int:
        version: int = self._conn.execute("PRAGMA data_version").fetchone()[0]
        return version

    def _last(self) -> int:
        row = self._conn.execute("SELECT max(seq) FROM event").fetchone()
        return row[0] or 0

    def since(self) -> Topics:
        """The topics of all that was committed since the last look; nothing when the file is as it was."""
        try:
            version = self._data_version()
            if version == self._version:
                return frozenset()
            self._version = version
            rows = self._conn.execute(
                "SELECT kind, max(seq) FROM event WHERE seq > ? GROUP BY kind", (self._seq,)
            ).fetchall()
        except sqlite3.Error:
            # Whatever is wrong with the file is said by whoever works with it.
            return frozenset()
        self._seq = max([self._seq, *(row[1] for row in rows)])
        return frozenset({row[0] for row in rows} | set(_BESIDE))

    def close(self) -> None:
        """Close its connection."""
        self._conn.close()


def _is_ours(folder: Path) -> bool:
    """Whether a folder is one, and belongs to whoever runs this; nobody else may put something into it then."""
    found = folder.lstat()
    return stat.S_ISDIR(found.st_mode) and found.st_uid == os.geteuid()
