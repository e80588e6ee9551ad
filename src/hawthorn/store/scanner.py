"""A scanner for malware that stands beside the service: what is uploaded is shown to it before it is kept.

It speaks the protocol of clamd (its INSTREAM), through clamav-client, which is loaded when the first file comes.
"""

from __future__ import annotations

import io
import threading
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar
from urllib.parse import urlsplit

from hawthorn.core.errors import BadSetting, ScannerFails
from hawthorn.core.messages import said

if TYPE_CHECKING:
    from clamav_client.clamd import ClamdNetworkSocket

_PATIENCE = 60.0
"""Seconds that are waited for the scanner to take some bytes, or to say what it found."""
AT_ONCE = 8
"""So many files are shown to it at once: where it does not answer, those who work here do not wait for it, too."""
T = TypeVar("T")


class Scanner:
    """The scanner at an address: `host:port`, or the path of a socket. Raises `BadSetting` for what is neither."""

    def __init__(self, address: str) -> None:
        self.address = address
        self._showing = threading.BoundedSemaphore(AT_ONCE)
        self._host, self._port = ("", 0) if address.startswith("/") else _parts(address)

    def look(self, what: Path | bytes) -> str:
        """What malware a file, or what would be one, holds, by the scanner's name for it; empty for none. Raises `ScannerFails` where it cannot be told."""

        def show(client: ClamdNetworkSocket) -> str:
            with io.BytesIO(what) if isinstance(what, bytes) else what.open("rb") as file:
                state, found = client.instream(file).get("stream", ("", ""))
            if state == "FOUND":
                return str(found)[:200]
            if state == "OK":
                return ""
            raise ScannerFails("scanner.fails", address=self.address, why=str(found or state)[:200])

        return self._asked(show)

    def version(self) -> str:
        """What the scanner is, and how new what it knows is, once it has looked through nothing."""

        def ask(client: ClamdNetworkSocket) -> str:
            client.instream(io.BytesIO())
            return client.version()

        return self._asked(ask)

    def _asked(self, ask: Callable[[ClamdNetworkSocket], T]) -> T:
        from clamav_client.clamd import BufferTooLongError, ClamdError, ClamdNetworkSocket, ClamdUnixSocket

        client = (
            ClamdNetworkSocket(self._host, self._port, _PATIENCE)
            if self._port
            else ClamdUnixSocket(self.address, round(_PATIENCE))
        )
        if not self._showing.acquire(timeout=1.0):
            raise ScannerFails("scanner.many_wait", address=self.address)
        try:
            return ask(client)
        except BufferTooLongError:
            raise ScannerFails("scanner.too_long", address=self.address) from None
        except ConnectionError:
            # It hangs up on what is longer than it takes, often before it has said so.
            raise ScannerFails("scanner.hung_up", address=self.address) from None
        except (ClamdError, OSError, UnicodeDecodeError) as error:
            raise ScannerFails("scanner.fails", address=self.address, why=str(error)[:200]) from None
        finally:
            self._showing.release()


def opened(address: str) -> Scanner | None:
    """The scanner at an address; None for none. Raises `BadSetting` for what is no address."""
    return Scanner(address) if address else None


def _parts(address: str) -> tuple[str, int]:
    parts = urlsplit(f"//{address}")
    if not parts.hostname or not parts.port or parts.path:
        raise BadSetting(said("wrong_setting.scanner"))
    return parts.hostname, parts.port
