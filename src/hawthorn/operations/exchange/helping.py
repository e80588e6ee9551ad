"""Processes that help to look through a long package: what its lines are found to be needs nothing but the lines, and takes longer than all the rest.

One is begun with what lines are held against, says so when it can help, then gets some lines and answers with what they are, until its input ends: with
whoever began it, however that came. Where one is lost, what it had is looked at here, and so is a line of which there is something to be said. They talk in
MessagePack, each message after its length.
"""

from __future__ import annotations

import contextlib
import os
import select
import signal
import subprocess
import sys
from collections import deque
from collections.abc import Iterable, Iterator, Sequence
from typing import IO

import msgspec

from hawthorn.core.exchange.looked import Looked, Looker, Numbered, Unsound
from hawthorn.core.quick import dataclass

WORTH = 2_000
"""From so many entries on helpers are begun: each takes a third of a second until it can help."""
MOST = 3
"""So many of them at most, one for each core that is left."""
_AHEAD = 8
"""So many batches wait at most for one before them."""
_NICE = 5
"""What people ask of the service goes before."""
_LENGTH = 8
Found = list[Looked | Unsound]
_Plain = list[Looked | None]
"""What lines are, as far as nothing is to be said of them."""
_write = msgspec.msgpack.Encoder().encode
_looker = msgspec.msgpack.Decoder(Looker).decode
_lines = msgspec.msgpack.Decoder(list[Numbered]).decode
_answer = msgspec.msgpack.Decoder(_Plain).decode


def looked(looker: Looker, batches: Iterable[Sequence[Numbered]], entries: int) -> Iterator[Found]:
    """What the lines of so many entries are found to be, batch by batch in their order, with as many helpers as are of use."""
    some = min(MOST, (os.cpu_count() or 1) - 1) if entries >= WORTH else 0
    with contextlib.ExitStack() as ends:
        helpers = [ends.enter_context(Helper(looker)) for _ in range(some)]
        waiting: deque[Batch] = deque()
        for lines in batches:
            free = next((one for one in helpers if one.free), None)
            waiting.append(free.given(lines) if free else Batch(lines, here=looker.look(lines)))
            while waiting and (waiting[0].ready or len(waiting) > _AHEAD):
                yield waiting.popleft().found(looker)
        for one in waiting:
            yield one.found(looker)


@dataclass(slots=True)
class Batch:
    """Some lines, with what they were found to be or the helper that looks at them."""

    lines: Sequence[Numbered]
    helper: Helper | None = None
    here: Found | None = None

    @property
    def ready(self) -> bool:
        """Whether it is known what they are."""
        return self.helper is None or self.helper.ready

    def found(self, looker: Looker) -> Found:
        """What they are, once that is known."""
        if self.here is not None:
            return self.here
        plain = self.helper.answer() if self.helper is not None else None
        if plain is None:
            return looker.look(self.lines)
        # It answers up to the first that cannot be.
        told = zip(plain, self.lines, strict=False)
        return [one if one is not None else looker.look([line])[0] for one, line in told]


class Helper:
    """A process that helps, for as long as it is entered."""

    def __init__(self, looker: Looker) -> None:
        self._begun = self._busy = self._lost = False
        self._process = subprocess.Popen(
            [sys.executable, "-P", "-m", "hawthorn.operations.exchange.helping"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
        )
        assert self._process.stdin is not None
        assert self._process.stdout is not None
        self._asks, self._answers = self._process.stdin, self._process.stdout
        # Not `select`, which takes no more than the first thousand of what a process has open.
        self._heard = select.poll()
        self._heard.register(self._answers, select.POLLIN)
        self._tell(looker)

    def __enter__(self) -> Helper:
        return self

    def __exit__(self, *_: object) -> None:
        self._process.kill()
        with contextlib.suppress(OSError):
            self._process.communicate()

    @property
    def free(self) -> bool:
        """Whether it can be given something."""
        if not self._begun and self.ready:
            self._begun = True
            self._answer()
        return self._begun and not self._busy and not self._lost

    @property
    def ready(self) -> bool:
        """Whether it has answered."""
        return self._lost or bool(self._heard.poll(0))

    def given(self, lines: Sequence[Numbered]) -> Batch:
        """Give it some lines to look at."""
        self._busy = True
        self._tell(lines)
        return Batch(lines, self)

    def answer(self) -> _Plain | None:
        """What it found, waited for; None where it was lost."""
        self._busy = False
        return self._answer()

    def _answer(self) -> _Plain | None:
        if not self._lost:
            try:
                return _answer(_received(self._answers))
            except (EOFError, OSError, msgspec.MsgspecError):
                self._lost = True
        return None

    def _tell(self, what: object) -> None:
        try:
            _send(self._asks, _write(what))
        except OSError:
            self._lost = True


def _send(to: IO[bytes], message: bytes) -> None:
    to.write(len(message).to_bytes(_LENGTH))
    to.write(message)
    to.flush()


def _received(whence: IO[bytes]) -> bytes:
    """The next message; raises `EOFError` where there is none any more."""
    length = int.from_bytes(whence.read(_LENGTH))
    message = whence.read(length)
    if not length or len(message) < length:
        raise EOFError
    return message


def main() -> int:
    """Help until nobody asks any more."""
    # Whoever stops the service by the keyboard stops it: this ends with it.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.nice(_NICE)
    asks, says = os.fdopen(os.dup(0), "rb"), os.fdopen(os.dup(1), "wb")
    try:
        looker = _looker(_received(asks))
        lines: Sequence[Numbered] = ()
        while True:
            # The first answer, to nothing, says that it can help.
            found: _Plain = [_plain(one) for one in looker.look(lines)]
            _send(says, _write(found))
            lines = _lines(_received(asks))
    except EOFError:
        return 0
    except BrokenPipeError:
        os._exit(0)


def _plain(one: Looked | Unsound) -> Looked | None:
    return one if isinstance(one, Looked) and one.misfit is None else None


if __name__ == "__main__":
    raise SystemExit(main())
