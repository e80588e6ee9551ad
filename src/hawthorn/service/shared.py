"""What the workers of one service count together: memory that all of them see, without files and without questions between them.

A service of one process counts in memory of the same form, which it has to itself.
"""

from __future__ import annotations

import fcntl
import mmap
import os
import tempfile
import threading
from bisect import bisect_left
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import field

from hawthorn.core.quick import dataclass

EDGES = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 10.0)
"""Seconds up to which requests are counted together."""
MOST = 64
"""So many workers there may be."""
Key = tuple[str, str, str]
"""What requests are counted by: method, route and the hundred of their status."""

_ROUTES, _NAME = 2_048, 160
_WIDE = 2 + len(EDGES) + 1
"""Numbers of one route: how many, how many seconds, and how many took no longer than each edge, or longer than all."""
_KEYS = 4_096
_HEAD = 5
"""Numbers of one worker: its process, how often it was begun again, its routes, how often it wrote, and for how long that waited."""
_PROCESS, _AGAIN, _COUNT, _WRITES, _WAITED = range(_HEAD)
_OF_WORKER = _HEAD * 8 + _ROUTES * (_NAME + _WIDE * 8)
_OF_KEYS = _KEYS * 3 * 8


@dataclass(slots=True)
class Times:
    """How often something was asked, how long that took altogether, and how often it took no longer than each of `EDGES`, or longer than all."""

    count: int = 0
    seconds: float = 0.0
    within: list[int] = field(default_factory=lambda: [0] * (len(EDGES) + 1))


def made_for(workers: int) -> int:
    """Memory for so many workers, as a file without a name that they inherit."""
    if hasattr(os, "memfd_create"):
        fd = os.memfd_create("hawthorn-workers", os.MFD_CLOEXEC)
    else:
        with tempfile.TemporaryFile() as made:
            fd = os.dup(made.fileno())
    os.ftruncate(fd, _OF_KEYS + workers * _OF_WORKER)
    return fd


class Shared:
    """The memory, as the worker of one number sees it; without a file, as the only one does."""

    def __init__(self, fd: int = -1, workers: int = 1, mine: int = 0) -> None:
        self.workers = workers
        self.mine = mine
        self._fd = fd
        self._lock = threading.Lock()
        self._memory = mmap.mmap(fd, _OF_KEYS + workers * _OF_WORKER)
        view = memoryview(self._memory)
        self._keys = view[:_OF_KEYS].cast("d")
        self._heads: list[memoryview[float]] = []
        self._names: list[memoryview[int]] = []
        self._numbers: list[memoryview[float]] = []
        for n in range(workers):
            at = _OF_KEYS + n * _OF_WORKER
            names = at + _HEAD * 8
            numbers = names + _ROUTES * _NAME
            self._heads.append(view[at:names].cast("d"))
            self._names.append(view[names:numbers])
            self._numbers.append(view[numbers : at + _OF_WORKER].cast("d"))
        self._at: dict[Key, int] = {}

    def begin(self) -> None:
        """Begin as this worker, from nothing."""
        head = self._heads[self.mine]
        head[_PROCESS] = float(os.getpid())
        # What one counted that is gone stays counted: totals only grow.
        self._at = {key: n for n, key in enumerate(self._routes(self.mine))}

    def begun_again(self, worker: int) -> None:
        """Note that a worker died and is begun again."""
        self._heads[worker][_PROCESS] = 0.0
        self._heads[worker][_AGAIN] += 1

    def add(self, key: Key, seconds: float) -> None:
        """Count one request; those of more routes than there is room for are not counted."""
        at = self._at.get(key)
        if at is None:
            at = self._named(key)
            if at < 0:
                return
        row = at * _WIDE
        mine = self._numbers[self.mine]
        mine[row] += 1
        mine[row + 1] += seconds
        mine[row + 2 + bisect_left(EDGES, seconds)] += 1

    def _named(self, key: Key) -> int:
        with self._lock:
            at = self._at.get(key, len(self._at))
            if at >= _ROUTES:
                return -1
            method, route, status = key
            name = "\0".join((method, route[: _NAME - 32], status)).encode()[:_NAME]
            self._names[self.mine][at * _NAME : at * _NAME + len(name)] = name
            self._at[key] = at
            # The name is whole before anybody is told that there is one more.
            self._heads[self.mine][_COUNT] = float(len(self._at))
            return at

    def note_wait(self, seconds: float) -> None:
        """Count one write, and how long it waited for others. Called while nobody else writes."""
        head = self._heads[self.mine]
        head[_WRITES] += 1
        head[_WAITED] += seconds

    @property
    def waited(self) -> tuple[int, float]:
        """How often something was written, and for how many seconds that waited for others altogether."""
        return int(sum(head[_WRITES] for head in self._heads)), sum(head[_WAITED] for head in self._heads)

    @property
    def processes(self) -> list[int]:
        """The processes of all workers that have begun, and of which nobody has seen that they ended."""
        return [int(head[_PROCESS]) for head in self._heads if head[_PROCESS]]

    @property
    def again(self) -> int:
        """How often a worker died and was begun again."""
        return int(sum(head[_AGAIN] for head in self._heads))

    def times(self) -> dict[Key, Times]:
        """How long requests took, of all workers together."""
        out: dict[Key, Times] = {}
        for worker in range(self.workers):
            numbers = self._numbers[worker]
            for at, key in enumerate(self._routes(worker)):
                row = numbers[at * _WIDE : (at + 1) * _WIDE].tolist()
                one = out.setdefault(key, Times())
                one.count += int(row[0])
                one.seconds += row[1]
                one.within = [a + int(b) for a, b in zip(one.within, row[2:], strict=True)]
        return out

    def _routes(self, worker: int) -> Iterator[Key]:
        names = self._names[worker]
        for at in range(int(self._heads[worker][_COUNT])):
            text = bytes(names[at * _NAME : (at + 1) * _NAME]).rstrip(b"\0").decode(errors="replace")
            method, route, status = text.split("\0")
            yield method, route, status

    def bucket(self, who: int, now: float, most: float) -> int:
        """Where the bucket of a key is, full where it is new; call it, and `left` and `leave`, while `alone`.

        Where there are more keys than buckets, one that nobody took from for longest gives way.
        """
        keys, start = self._keys, hash(who) % _KEYS
        oldest = start
        for n in range(32):
            at = (start + n) % _KEYS
            if keys[at * 3] == who:
                return at
            if keys[at * 3] == 0:
                oldest = at
                break
            if keys[at * 3 + 2] < keys[oldest * 3 + 2]:
                oldest = at
        keys[oldest * 3] = float(who)
        self.leave(oldest, most, now)
        return oldest

    def left(self, at: int) -> tuple[float, float]:
        """What is left in a bucket, and since when."""
        return self._keys[at * 3 + 1], self._keys[at * 3 + 2]

    def leave(self, at: int, left: float, now: float) -> None:
        """Leave so much in a bucket."""
        self._keys[at * 3 + 1], self._keys[at * 3 + 2] = left, now

    @contextmanager
    def alone(self) -> Iterator[None]:
        """Hold what all workers take from."""
        with self._lock:
            if self._fd >= 0:
                fcntl.lockf(self._fd, fcntl.LOCK_EX)
            try:
                yield
            finally:
                if self._fd >= 0:
                    fcntl.lockf(self._fd, fcntl.LOCK_UN)
