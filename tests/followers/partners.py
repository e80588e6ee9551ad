"""Odd partners for tests and torture: a mail server that refuses, stalls or mumbles, a bureau that answers anything, and the simulated
bureau as a process of its own."""

from __future__ import annotations

import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

import httpx

from hawthorn.demo.parts import begun, where
from hawthorn.operations.delivery.webhooks import new_secret


@dataclass
class Postbox:
    """A mail server on loopback. `refuse` says what is answered to a recipient, `at_quit` what to QUIT."""

    refuse: dict[str, str] = field(default_factory=dict)
    at_quit: str = "221 Goodbye"
    slow: float = 0.0
    """Seconds before the answer to a message."""
    mumbles: bool = False
    """Whether answers come a byte a second, and never end."""
    taken: list[str] = field(default_factory=list)
    """The recipients of what was taken, in order."""

    def serve(self, connection: socket.socket) -> None:
        """Talk SMTP with one client."""
        file = connection.makefile("rwb")

        def say(text: str) -> None:
            file.write(text.encode() + b"\r\n")
            file.flush()

        with connection, file:
            say("220 odd")
            to = ""
            while line := file.readline().decode().strip():
                word = line.split(" ")[0].upper()
                if word in ("EHLO", "HELO", "MAIL", "RSET"):
                    say("250 fine")
                elif word == "RCPT":
                    to = line.split("<")[1].split(">")[0]
                    say(self.refuse.get(to, "250 fine"))
                elif word == "DATA":
                    say("354 go on")
                    while file.readline() not in (b".\r\n", b""):
                        pass
                    time.sleep(self.slow)
                    while self.mumbles:
                        file.write(b"2")
                        file.flush()
                        time.sleep(0.05)
                    self.taken.append(to)
                    say("250 taken")
                elif word == "QUIT":
                    say(self.at_quit)
                    return

    @contextmanager
    def running(self) -> Iterator[int]:
        """The port at which it listens."""
        with socket.create_server(("127.0.0.1", 0)) as server:

            def accept() -> None:
                while True:
                    try:
                        connection, _ = server.accept()
                    except OSError:
                        return
                    threading.Thread(target=self._served, args=(connection,), daemon=True).start()

            threading.Thread(target=accept, daemon=True).start()
            yield int(server.getsockname()[1])
            server.shutdown(socket.SHUT_RDWR)

    def _served(self, connection: socket.socket) -> None:
        try:
            self.serve(connection)
        except OSError:
            pass


class Anything(httpx.BaseTransport):
    """A bureau that answers what it is told to, by the method and the path."""

    def __init__(self, answer: Callable[[httpx.Request], Any]) -> None:
        self.answer = answer
        self.calls: list[str] = []

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        """An answer: a response, a status, or a text."""
        self.calls.append(f"{request.method} {request.url.path}")
        found = self.answer(request)
        if isinstance(found, httpx.Response):
            return found
        return httpx.Response(found) if isinstance(found, int) else httpx.Response(200, text=found)


@dataclass
class Translators:
    """The simulated bureau, running as a process of its own."""

    url: str
    key: str
    secret: str

    @property
    def host(self) -> str:
        """Its host and port, as the setting allow_hosts takes them."""
        return self.url.removeprefix("http://")

    def order(self, trouble: str) -> None:
        """Order trouble for the next job."""
        httpx.post(f"{self.url}/trouble", json={"next": trouble}).raise_for_status()

    def pace(self, seconds: float, rests_after: int | None = None) -> None:
        """Let a unit take so many seconds, and let it rest after so many units of a job until another pace is given."""
        told = {"seconds": seconds, "rests_after": rests_after}
        httpx.post(f"{self.url}/pace", json=told).raise_for_status()


@contextmanager
def translators(seconds: float) -> Iterator[Translators]:
    """Start the simulated bureau, which takes so many seconds for a unit."""
    # As keys may be that are made up.
    key, secret = "-open-sesame", new_secret()
    with socket.create_server(("127.0.0.1", 0)) as door:
        process = begun(door, seconds, key, secret)
        try:
            yield Translators(where(process), key, secret)
        finally:
            process.communicate(timeout=10)
