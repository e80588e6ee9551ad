"""Litestream beside the service: what keeps a replica of the record file, and what keeps a copy up with a replica."""

from __future__ import annotations

import fcntl
import os
import select
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path

import structlog

from hawthorn.core.errors import BadStore, Busy, FileStoreFails
from hawthorn.store import terms

log = structlog.get_logger(__name__)
INTERVAL = "200ms"
"""How often what is new is sent, and looked for by copies."""
_LOOKS_FOR_CHANGES = "400ms"
"""How often it looks for changes of the record file; each look takes it some milliseconds."""
_LONGEST_PAUSE = 10.0
_FIRST = 15.0
"""Seconds for which a copy that starts waits for a replica that has only just been begun."""
_LOOKS = 2.0
"""Seconds after which a copy is looked at, and whether another term has begun."""


_OURS = 0o077
"""What it writes is for nobody else to read: it holds what the record file holds."""


def _begun(given: Sequence[str], note: Path) -> subprocess.Popen[bytes]:
    """Begin it, and note its number: when this process is killed it goes on alone, and has to be ended by the next."""
    _end_left_over(note, given)
    made = subprocess.Popen(given, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, umask=_OURS)
    note.write_text(str(made.pid))
    return made


def _end_left_over(note: Path, given: Sequence[str]) -> None:
    """End what a process that was killed has left at work on the same file, and wait for that."""
    with suppress(OSError, ValueError):
        number = int(note.read_text())
        said = Path(f"/proc/{number}/cmdline").read_bytes().split(b"\0")
        if given[0].encode() not in said or given[1].encode() not in said:
            return
        # Asked first, so that it sends what it has; then made to.
        for wish, patience in ((signal.SIGINT, 5.0), (signal.SIGKILL, 5.0)):
            os.kill(number, wish)
            until = time.monotonic() + patience
            while time.monotonic() < until:
                if (
                    not Path(f"/proc/{number}").exists()
                    or b"litestream" not in Path(f"/proc/{number}/cmdline").read_bytes()
                ):
                    return
                time.sleep(0.02)


_EXITING = 0x4
"""Among the flags of a process (`PF_EXITING` of Linux, proc(5), `/proc/pid/stat`, field 9)."""


def at_work(number: int) -> bool:
    """Whether a process that this one began goes on. One that was killed lets go of its locks before it can be waited for, and is marked as
    ending before that: whoever gets its lock is told here."""
    try:
        ended = os.waitid(os.P_PID, number, os.WEXITED | os.WNOHANG | os.WNOWAIT)
    except ChildProcessError:
        return False
    if ended is not None or not sys.platform.startswith("linux"):
        return ended is None
    try:
        said = Path(f"/proc/{number}/stat").read_text().rsplit(")", 1)[1].split()
    except OSError:
        return False
    return not int(said[6]) & _EXITING


def ended_within(number: int, seconds: float) -> bool:
    """Whether a process that this one began ends so soon; waits without looking again and again."""
    handle = os.pidfd_open(number)
    # Not `select`, which takes no more than the first thousand of what a process has open: those who listen are as many.
    ends = select.poll()
    try:
        ends.register(handle, select.POLLIN)
        return bool(ends.poll(round(seconds * 1000)))
    finally:
        os.close(handle)


def program() -> str:
    """Where Litestream is; raises `BadStore` where it is not."""
    beside = Path(sys.executable).with_name("litestream")
    found = str(beside) if beside.exists() else shutil.which("litestream")
    if found is None:
        raise BadStore("copies.no_program")
    return found


class Replicating:
    """Replicates the record file for as long as the service runs; begun again when it ends by itself."""

    def __init__(self, file: Path, url: str) -> None:
        self.program = program()
        config = file.with_name(f"{file.name}.litestream.yml")
        config.write_text(
            "dbs:\n"
            f"  - path: {str(file.resolve())!r}\n    monitor-interval: {_LOOKS_FOR_CHANGES}\n"
            f"    replica:\n      url: {url!r}\n      sync-interval: {INTERVAL}\n"
        )
        config.chmod(0o600)
        given = [self.program, "replicate", "-config", str(config)]
        self._child = _Child(given, config.with_suffix(".pid"), "replicating")

    def start(self) -> None:
        """Begin."""
        self._child.start()

    def stop(self) -> None:
        """End, when all that was written is there."""
        self._child.stop()


class Following:
    """Keeps a copy up with the replica at an address: made anew at each start, after its program died, and for another term.

    `moved` is told where the copy lies from then on; `lost` that it is not whole, until it has moved.
    """

    def __init__(
        self, url: str, folder: Path, moved: Callable[[Path], None], lost: Callable[[], None]
    ) -> None:
        self.program = program()
        self.url = url
        self.folder = folder
        self._moved, self._lost = moved, lost
        self._place = terms.place_of(url)
        self._number = 0
        self._term = 0
        self._child: subprocess.Popen[bytes] | None = None
        self._path = folder / "none"
        self._held = -1
        self._stopping = threading.Event()
        self._thread = threading.Thread(target=self._watch, name="hawthorn-following", daemon=True)

    def start(self) -> Path:
        """Make the copy, and return where it lies; raises `BadStore` where there is no replica."""
        self.folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        self._held = os.open(self.folder / "lock", os.O_RDWR | os.O_CREAT, 0o600)
        try:
            fcntl.flock(self._held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            self._let_go()
            raise BadStore("copies.in_use", folder=str(self.folder)) from None
        _end_left_over(self.folder / "following.pid", [self.program, "restore"])
        for old in self.folder.glob("copy-*"):
            old.unlink()
        until = time.monotonic() + _FIRST
        while (path := self._make()) is None and time.monotonic() < until and self._may_come():
            # Whoever writes has only just begun.
            time.sleep(0.2)
        if path is None:
            self.stop()
            raise BadStore("copies.no_replica", url=self.url)
        self._path = path
        self._thread.start()
        return path

    def _may_come(self) -> bool:
        return self._place is None or self._place.latest() > 0

    def stop(self) -> None:
        """End."""
        self._stopping.set()
        if self._child is not None:
            self._child.kill()
            self._child.wait()
        if self._thread.is_alive():
            self._thread.join(10)
        self._let_go()

    def _let_go(self) -> None:
        if self._held >= 0:
            os.close(self._held)
        self._held = -1

    def is_alive(self) -> bool:
        """Whether the program is at work; one that was killed may have left half of something."""
        return self._child is not None and at_work(self._child.pid)

    def _source(self) -> tuple[str, int]:
        term = self._place.latest() if self._place is not None else 0
        return (self._place.part(term), term) if self._place is not None and term else (self.url, 0)

    def _make(self) -> Path | None:
        """A copy that is followed; None where none can be made."""
        self._number += 1
        path = self.folder / f"copy-{self._number:06d}.sqlite"
        source, self._term = self._source()
        given = [self.program, "restore", "-f", "-follow-interval", INTERVAL, "-o", str(path), source]
        self._child = _begun(given, self.folder / "following.pid")
        done = path.with_name(f"{path.name}-txid")
        while not done.exists():
            if self._stopping.is_set() or self._child.poll() is not None:
                self._child.kill()
                self._child.wait()
                return None
            time.sleep(0.02)
        return path

    def _made_anew(self) -> Path | None:
        try:
            return self._make()
        except (FileStoreFails, OSError):
            return None

    def _watch(self) -> None:
        pause = 0.1
        while not self._stopping.is_set():
            if self._goes_on():
                pause = 0.1
                continue
            if self._stopping.is_set():
                return
            assert self._child is not None
            # It may have been, or may just now be, in the midst of something.
            self._lost()
            self._child.kill()
            self._child.wait()
            made = self._made_anew()
            if made is None:
                log.warning("the copy cannot be made", url=self.url, seconds=pause)
                self._stopping.wait(pause)
                pause = min(pause * 2, _LONGEST_PAUSE)
                continue
            old, self._path = self._path, made
            self._moved(made)
            for path in self.folder.glob(f"{old.name}*"):
                path.unlink(missing_ok=True)
            log.info("the copy was made anew", file=str(made))

    def _goes_on(self) -> bool:
        """Whether the copy was kept up for a while, from whoever writes now."""
        assert self._child is not None
        if self._child.returncode is not None or ended_within(self._child.pid, _LOOKS):
            return False
        try:
            return self._source()[1] == self._term
        except (FileStoreFails, OSError):
            # Nobody can say; the copy goes on with what it has.
            return True


class _Child:
    """A program that runs beside this one, and is begun again after a pause that grows."""

    def __init__(self, given: Sequence[str], note: Path, name: str) -> None:
        self._given = given
        self._note = note
        self._running: subprocess.Popen[bytes] | None = None
        self._stopping = threading.Event()
        self._thread = threading.Thread(target=self._run, name=f"hawthorn-{name}", daemon=True)
        self._begun = threading.Event()

    def start(self) -> None:
        self._thread.start()
        self._begun.wait(10)

    def _run(self) -> None:
        pause = 0.2
        while not self._stopping.is_set():
            since = time.monotonic()
            self._running = subprocess.Popen(
                self._given, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
            )
            self._begun.set()
            code = self._running.wait()
            if self._stopping.is_set():
                return
            pause = 0.2 if time.monotonic() - since > 60 else min(pause * 2, _LONGEST_PAUSE)
            log.warning("Litestream ended and is begun again", code=code, seconds=pause)
            self._stopping.wait(pause)

    def stop(self) -> None:
        self._stopping.set()
        if self._running is not None:
            self._running.send_signal(signal.SIGINT)
            try:
                self._running.wait(10)
            except subprocess.TimeoutExpired:
                self._running.kill()
                self._running.wait()
        self._thread.join(10)


def restore(url: str, file: Path) -> None:
    """Put the newest state of a replica into a new file; raises `BadStore` where there is none."""
    given = [program(), "restore", "-integrity-check", "quick", "-o", str(file), url]
    done = subprocess.run(given, capture_output=True, text=True, check=False, umask=_OURS)
    if done.returncode != 0 or not file.exists():
        raise BadStore("copies.no_replica", url=url, said=done.stderr.strip()[-300:])


def quiet(place: terms.Place, term: int, longest: float = 10.0) -> None:
    """Wait until nothing has come to a term's replica for as long as it takes to settle: what another service had still to send."""
    until = time.monotonic() + longest
    before, since = -1, time.monotonic()
    while time.monotonic() < until:
        now = place.holds(term)
        if now != before:
            before, since = now, time.monotonic()
        elif time.monotonic() - since >= place.settles:
            return
        time.sleep(0.05)
    raise Busy("copies.still_coming", folder=place.part(term))
