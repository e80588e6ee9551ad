"""The live stream: one reader per process looks once for all who listen, and each is told what they may know.

A commit wakes the hub (`store.wake`). It reads what is new in one transaction, in a thread, works out there what is told
to whom, once for all with the same rights, and hands it to the listeners a few at a time. What happens meanwhile is
gathered for the next look. With nobody listening nothing is looked at, and with nothing happening nobody is.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import time
from collections.abc import AsyncIterator, Callable, Hashable, Iterable
from dataclasses import dataclass, field
from typing import Protocol

import structlog
from sse_starlette import EventSourceResponse
from starlette.types import Message, Send

from hawthorn.core.access import Identity
from hawthorn.core.errors import HawthornError, NotFound, NotLoggedIn, Refused
from hawthorn.operations.collaboration import news
from hawthorn.operations.collaboration.news import News
from hawthorn.operations.runtime.act import SCHEDULER, Desk, View
from hawthorn.store import events

log = structlog.get_logger(__name__)
GATHERS = 0.006
"""Seconds from a commit to a look, so that whoever committed is answered first."""
APART = 0.1
"""Seconds between two looks, at least: what happens in a burst is told together."""
GONE = 4.0
"""Seconds after which a window that listens no more counts as closed."""
_AT_ONCE = 25
_MOST_WAITING = 200
_SURE = 60.0
"""Seconds after which somebody's right to listen is looked at again when something is told, a few at a time."""
_SYSTEM = Identity(SCHEDULER, "scheduler", "", "")


class Audience(Protocol):
    """Somebody who listens, and what they are told."""

    @property
    def key(self) -> Hashable:
        """Equal for those who are told the same."""

    @property
    def window(self) -> str:
        """The window of a browser that listens; empty for whoever has none."""

    def ended(self, desk: Desk, again: Callable[[str], bool]) -> None:
        """What is to be done a moment after they listen no more; `again` says whether a window listens again."""

    def sure(self, view: View) -> Audience:
        """The same with the rights of now; raises `NotLoggedIn`, `Refused` or `NotFound` when they may listen no more."""

    def told(self, view: View, found: News) -> list[bytes]:
        """What they are told of something, as server-sent events (HTML Living Standard, section 9.2)."""


def framed(data: object, *, name: str = "", seq: int | None = None) -> bytes:
    """One server-sent event."""
    lines = [f"id: {seq}"] if seq is not None else []
    lines += [f"event: {name}"] if name else []
    return "\n".join([*lines, f"data: {json.dumps(data, ensure_ascii=False)}", "", ""]).encode()


class _Stream(EventSourceResponse):
    """A stream without a limit on each sending: opening the limit takes a good part of what the sending takes."""

    async def _send_with_timeout(self, send: Send, message: Message) -> None:
        await send(message)


def _seq_of(frame: bytes) -> int | None:
    """The event of the log that a frame tells, if it tells one."""
    head = frame[: frame.find(b"\n")]
    return int(head.removeprefix(b"id: ")) if head.startswith(b"id: ") else None


@dataclass(eq=False)
class _Listener:
    """Somebody who listens: `after` is the last event that was sent, `upto` the last one that is sent or waits to be."""

    audience: Audience
    after: int
    upto: int = 0
    rung: asyncio.Event = field(default_factory=asyncio.Event)
    waiting: list[bytes] = field(default_factory=list)
    lost: bool = False
    ended: bool = False
    sure_until: float = field(default_factory=lambda: time.monotonic() + _SURE)

    def __post_init__(self) -> None:
        self.upto = self.after

    def put(self, frames: Iterable[bytes], since: int, upto: int) -> None:
        """Let frames wait, which tell what came after one event and up to another."""
        if self.lost:
            return
        if self.upto > since:
            frames = [f for f in frames if (_seq_of(f) or self.upto + 1) > self.upto]
        self.waiting += frames
        self.upto = max(self.upto, upto)
        if len(self.waiting) > _MOST_WAITING:
            self.lose()
        elif self.waiting:
            self.rung.set()
        else:
            self.after = self.upto

    def lose(self) -> None:
        """Whoever is too slow, or was not there, reads the log by themselves when they come to it, from where they are."""
        self.waiting.clear()
        self.lost = True
        self.rung.set()

    def take(self) -> bytes:
        """What waits, to be sent."""
        frames, self.waiting, self.after = self.waiting, [], self.upto
        return b"".join(frames)


class Hub:
    """Everybody who listens in this process."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self._listeners: set[_Listener] = set()
        self._loop: asyncio.AbstractEventLoop | None = None
        self._stop: Callable[[], None] | None = None
        self._task: asyncio.Task[None] | None = None
        self._kicked = asyncio.Event()
        self._starting = asyncio.Lock()
        self._topics: set[str] = set()
        self._seq = 0
        self._newest_told = 0
        self._here: news.Here = {}
        self._lapse: asyncio.TimerHandle | None = None
        self.ended = False

    def response(self, audience: Audience, after: int | None) -> EventSourceResponse:
        """The stream for somebody, from after an event that they know; from now on when they know none."""
        return _Stream(self._follow(audience, after), ping=15, sep="\n")

    async def _follow(self, audience: Audience, after: int | None) -> AsyncIterator[bytes]:
        await self._start()
        if after is None:
            # From now on, and not from when it was last looked.
            after = await asyncio.to_thread(self.desk.read, _SYSTEM, lambda view: events.last(view.conn)[0])
        listener = _Listener(audience, after)
        listener.lost = listener.after < self._seq
        listener.rung.set()
        self._listeners.add(listener)
        try:
            yield b"retry: 2000\n\n"
            while not (self.ended or listener.ended):
                await listener.rung.wait()
                listener.rung.clear()
                while listener.lost:
                    frames = await self._caught_up(listener)
                    if frames:
                        yield b"".join(frames)
                if listener.waiting:
                    yield listener.take()
        finally:
            self._listeners.discard(listener)
            if not self._listeners:
                self._rest()
            if listener.audience.window and not self.ended:
                # A line that broke comes back in a moment; a window that was closed does not.
                asyncio.get_running_loop().call_later(GONE, self._ended, listener.audience)

    def _ended(self, audience: Audience) -> None:
        if not self.ended and not self._listens(audience.window):
            asyncio.get_running_loop().run_in_executor(None, audience.ended, self.desk, self._listens)

    def _listens(self, window: str) -> bool:
        return any(one.audience.window == window for one in list(self._listeners))

    async def _caught_up(self, listener: _Listener) -> list[bytes]:
        """A page of what somebody missed, read for them alone; after the last one they are told with the others."""
        start, upto = listener.after, self._seq

        def look(view: View) -> tuple[Audience, News, list[bytes]]:
            sure = listener.audience.sure(view)
            found = news.read(view, start)
            return sure, found, sure.told(view, found)

        try:
            listener.audience, found, frames = await asyncio.to_thread(self.desk.read, _SYSTEM, look)
        except (NotLoggedIn, Refused, NotFound):
            listener.ended, listener.lost = True, False
            return []
        listener.after = listener.upto = found.upto
        listener.lost = found.upto < max(upto, self._seq) and found.upto > start
        return frames

    # -- looking -------------------------------------------------------------------------------------------

    async def _start(self) -> None:
        """Begin to look, for the first who listens."""
        loop = asyncio.get_running_loop()
        if self._loop is not loop:
            self._loop, self._kicked, self._starting = loop, asyncio.Event(), asyncio.Lock()
        async with self._starting:
            if self._task is not None and not self._task.done():
                return

            def look(view: View) -> tuple[int, int]:
                self._here, _ = news.who_is_here(view)
                return events.last(view.conn)[0], news.newest_told(view)

            self._seq, self._newest_told = await asyncio.to_thread(self.desk.read, _SYSTEM, look)
            self._stop = self.desk.db.bell.listen(self._rung)
            self._task = loop.create_task(self._run())
            # Once by itself, for what happened in between.
            self._kick(frozenset({"presence"}))

    def _rest(self) -> None:
        """Stop looking, as nobody listens."""
        if self._stop is not None:
            self._stop()
            self._stop = None
        if self._task is not None:
            self._task.cancel()
            self._task = None
        if self._lapse is not None:
            self._lapse.cancel()
            self._lapse = None

    def end(self) -> None:
        """End every stream; whoever listens comes back and goes on where they were."""
        self.ended = True
        for listener in list(self._listeners):
            listener.rung.set()
        self._rest()

    def _rung(self, topics: frozenset[str]) -> None:
        loop = self._loop
        if loop is not None and not loop.is_closed():
            with contextlib.suppress(RuntimeError):
                loop.call_soon_threadsafe(self._kick, topics)

    def _kick(self, topics: frozenset[str]) -> None:
        self._topics |= topics
        self._kicked.set()

    async def _run(self) -> None:
        while True:
            await self._kicked.wait()
            await asyncio.sleep(GATHERS)
            self._kicked.clear()
            topics, self._topics = frozenset(self._topics), set()
            began = time.monotonic()
            try:
                more = await self._look(topics)
            except Exception:
                log.exception("the live stream could not look at what is new; it will again")
                more, self._topics = True, self._topics | topics
                await asyncio.sleep(1.0)
            if more:
                self._kicked.set()
            else:
                await asyncio.sleep(max(0.0, APART - GATHERS - (time.monotonic() - began)))

    async def _look(self, topics: frozenset[str]) -> bool:
        """Look once for all, and tell each; whether there is more to look at."""
        listeners = list(self._listeners)
        found, ends, told = await asyncio.to_thread(
            self.desk.read, _SYSTEM, lambda v: self._read(v, topics, listeners)
        )
        since, self._seq = self._seq, found.upto
        for one in self._listeners.difference(listeners):
            # They came while it was looked, and would hear of nothing that happened meanwhile.
            one.lose()
        if ends is not None and self._loop is not None:
            if self._lapse is not None:
                self._lapse.cancel()
            wait = max(0.0, (ends - self.desk.clock.now()) / 1e6)
            self._lapse = self._loop.call_later(wait, self._kick, frozenset({"presence"}))
        for n, listener in enumerate(listeners):
            frames = told.get(listener)
            if frames is None:
                listener.ended = True
                listener.rung.set()
            else:
                listener.put(frames, since, found.upto)
            if n % _AT_ONCE == _AT_ONCE - 1:
                # Whoever asks something meanwhile is answered in between.
                await asyncio.sleep(0)
        return len(found.events) >= news.AT_ONCE

    def _read(
        self, view: View, topics: frozenset[str], listeners: list[_Listener]
    ) -> tuple[News, int | None, dict[_Listener, list[bytes]]]:
        found = news.read(view, self._seq)
        present: tuple[news.Place, ...] = ()
        ends: int | None = None
        if "presence" in topics:
            here, ends = news.who_is_here(view)
            present, self._here = news.came_and_went(view, self._here, here), here
        newest, some = news.told_since(view, self._newest_told, topics)
        self._newest_told = newest
        found = News(found.upto, found.events, present, some)
        again = any(event.kind.startswith(news.RIGHTS) for event in found.events)
        now = time.monotonic()
        stale = sorted((one for one in listeners if one.sure_until < now), key=lambda one: one.sure_until)
        unsure = set(listeners if again else stale[:_AT_ONCE])
        sure: dict[Audience, Audience] = {}
        same: dict[Hashable, list[bytes]] = {}
        told: dict[_Listener, list[bytes]] = {}
        for listener in listeners:
            try:
                if listener in unsure:
                    before = listener.audience
                    if before not in sure:
                        sure[before] = before.sure(view)
                    listener.audience = sure[before]
                    listener.sure_until = now + _SURE
                key = listener.audience.key
                if key not in same:
                    same[key] = listener.audience.told(view, found)
                told[listener] = same[key]
            except HawthornError:
                # They may listen no more; they learn why when they ask again.
                continue
        return found, ends, told
