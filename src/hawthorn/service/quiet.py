"""A server that does next to nothing while nobody asks anything."""

from __future__ import annotations

import asyncio
import contextlib
from collections.abc import Callable
from types import FrameType

import uvicorn


class Quiet(uvicorn.Server):
    """A server that looks around once a second rather than ten times, and is woken to stop."""

    def __init__(self, config: uvicorn.Config) -> None:
        super().__init__(config)
        self._wake: Callable[[], object] = lambda: None

    def stop(self) -> None:
        """Stop; may be called from any thread."""
        self.should_exit = True
        self._wake()

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        """Stop, as a signal asks."""
        super().handle_exit(sig, frame)
        self._wake()

    async def main_loop(self) -> None:
        """Run until told to stop."""
        loop, woken = asyncio.get_running_loop(), asyncio.Event()

        def wake() -> None:
            with contextlib.suppress(RuntimeError):
                loop.call_soon_threadsafe(woken.set)

        self._wake = wake
        seconds = 0
        # A tick that is a whole number of tenths of ten renews the date that answers carry.
        while not await self.on_tick(seconds * 10):
            seconds = (seconds + 1) % 86_400
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(woken.wait(), 1.0)
            woken.clear()
