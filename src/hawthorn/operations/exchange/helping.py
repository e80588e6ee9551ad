"""Processes that help to look through a long package: what its lines are found to be needs nothing but the lines, and takes longer than all the rest.

One is begun with what lines are held against, says so when it can help, then gets some lines and answers with what they are, until its input ends: with
whoever began it, however that came. Where one is lost, what it had is looked at here.
"""

from __future__ import annotations

import contextlib
import os
import pickle
import select
import signal
import subprocess
import sys
from collections import deque
from collections.abc import Iterable, Iterator, Sequence

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
_NO_ANSWER = (EOFError, OSError, pickle.UnpicklingError, AttributeError, ImportError)
"""It ended, or is of another version that was installed meanwhile."""
Found = list[Looked | Unsound]


def looked(looker: Looker, batches: Iterable[Sequence[Numbered]], entries: int) -> Iterator[Found]:
    """What the lines of so many entries are found to be, batch by batch in their order, with as many helpers as are of use."""
    some = min(MOST, (os.cpu_count() or 1) - 1) if entries >= WORTH else 0
    with contextlib.ExitStack() as ends:
        helpers = [ends.enter_context(Helper(looker)) for _ in range(some)]
        waiting: deque[Batch] = deque()
        for lines in batches:
            free = next((one for one in helpers if one.free), None)
            waiting.append(free.given(lines) if free else Batch(lines, None, looker.look(lines)))
            while waiting and (waiting[0].ready or len(waiting) > _AHEAD):
                yield waiting.popleft().found(looker)
        for one in waiting:
            yield one.found(looker)


@dataclass(slots=True)
class Batch:
    """Some lines, with what they were found to be or the helper that looks at them."""

    lines: Sequence[Numbered]
    helper: Helper | None
    here: Found | None = None

    @property
    def ready(self) -> bool:
        """Whether it is known what they are."""
        return self.helper is None or self.helper.ready

    def found(self, looker: Looker) -> Found:
        """What they are, once that is known."""
        if self.here is None:
            self.here = self.helper.answer() if self.helper else None
        return self.here if self.here is not None else looker.look(self.lines)


class Helper:
    """A process that helps, for as long as it is entered."""

    def __init__(self, looker: Looker) -> None:
        self._begun = self._busy = self._lost = False
        self._process = subprocess.Popen(
            [sys.executable, "-m", "hawthorn.operations.exchange.helping"],
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

    def answer(self) -> Found | None:
        """What it found, waited for; None where it was lost."""
        self._busy = False
        return self._answer()

    def _answer(self) -> Found | None:
        if not self._lost:
            try:
                found: Found = pickle.load(self._answers)
                return found
            except _NO_ANSWER:
                self._lost = True
        return None

    def _tell(self, what: object) -> None:
        try:
            pickle.dump(what, self._asks, pickle.HIGHEST_PROTOCOL)
            self._asks.flush()
        except OSError:
            self._lost = True


def main() -> int:
    """Help until nobody asks any more."""
    # Whoever stops the service by the keyboard stops it: this ends with it.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.nice(_NICE)
    asks, says = os.fdopen(os.dup(0), "rb"), os.fdopen(os.dup(1), "wb")
    try:
        looker: Looker = pickle.load(asks)
        lines: Sequence[Numbered] = ()
        while True:
            # The first answer, to nothing, says that it can help.
            pickle.dump(looker.look(lines), says, pickle.HIGHEST_PROTOCOL)
            says.flush()
            lines = pickle.load(asks)
    except EOFError:
        return 0
    except BrokenPipeError:
        os._exit(0)


if __name__ == "__main__":
    raise SystemExit(main())
