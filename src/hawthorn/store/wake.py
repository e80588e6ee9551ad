"""Waking followers after a commit, in this process and in others on the same file.

Each process listens on a Unix datagram socket in a folder beside the record file. A lost datagram only
costs the wait: listeners also look once a second.
"""

from __future__ import annotations

import os
import socket
import tempfile
import threading
import uuid
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path


class Bell:
    """Rings after each commit; `listen` is called for rings of this and other processes."""

    def __init__(self, path: Path) -> None:
        # Socket paths are limited to about 100 bytes, so the folder has a short name of its own.
        digest = sha256(str(path.resolve()).encode()).hexdigest()[:16]
        self._folder = Path(tempfile.gettempdir()) / f"hawthorn-{os.getuid()}-{digest}"
        self._folder.mkdir(mode=0o700, exist_ok=True)
        self._mine = self._folder / f"{os.getpid()}-{uuid.uuid4().hex[:8]}"
        self._out = socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM)
        self._out.setblocking(False)
        self._in: socket.socket | None = None
        self._thread: threading.Thread | None = None
        self._listeners: list[Callable[[], None]] = []
        self._others: list[str] = []
        self._folder_seen = -1
        self._closing = False

    def listen(self, listener: Callable[[], None]) -> Callable[[], None]:
        """Call `listener` after commits and once a second, from a thread; returns how to stop."""
        if self._thread is None:
            self._in = socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM)
            self._in.bind(str(self._mine))
            self._in.settimeout(1.0)
            self._thread = threading.Thread(target=self._run, name="hawthorn-tailer", daemon=True)
            self._thread.start()
        self._listeners.append(listener)
        return lambda: self._listeners.remove(listener) if listener in self._listeners else None

    def ring(self) -> None:
        """Tell every listening process; never blocks and never fails."""
        try:
            changed = os.stat(self._folder).st_mtime_ns
            if changed != self._folder_seen:
                self._others = [str(p) for p in self._folder.iterdir()]
                self._folder_seen = changed
        except OSError:
            return
        for other in self._others:
            try:
                self._out.sendto(b"1", other)
            except ConnectionRefusedError:
                Path(other).unlink(missing_ok=True)
            except OSError:
                pass

    def _run(self) -> None:
        assert self._in is not None
        while not self._closing:
            try:
                self._in.recv(16)
            except TimeoutError:
                pass
            except OSError:
                return
            for listener in list(self._listeners):
                listener()

    def close(self) -> None:
        """Stop listening."""
        self._closing = True
        if self._in is not None:
            self.ring()
            if self._thread is not None and self._thread is not threading.current_thread():
                self._thread.join(2)
            self._in.close()
            self._mine.unlink(missing_ok=True)
        self._out.close()
        try:
            self._folder.rmdir()
        except OSError:
            pass
