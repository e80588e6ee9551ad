"""Calls that leave the service: never to private addresses, unless the settings allow them by name."""

from __future__ import annotations

import ipaddress
import re
import socket
import ssl
import time
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from functools import cache
from typing import Any
from urllib.parse import urlsplit

import httpcore
import httpx
from standardwebhooks.webhooks import Webhook as Signing

from hawthorn.core.messages import Message, MessageError, said


class Forbidden(MessageError):
    """An address that outgoing calls may not reach."""


_EMBEDDING = [
    ipaddress.ip_network(net)
    for net in ("::/96", "64:ff9b::/96", "64:ff9b:1::/48", "2002::/16", "2001::/32", "192.88.99.0/24")
]
"""Ranges that lead to other addresses (RFC 4291, 6052, 8215, 3056, 4380, 7526): nobody needs them, and they hide where."""


def is_public(address: str) -> bool:
    """Whether an address is one of the public internet, and not a way round to another."""
    found = ipaddress.ip_address(address.partition("%")[0])
    if isinstance(found, ipaddress.IPv6Address) and found.ipv4_mapped is not None:
        found = found.ipv4_mapped
    return found.is_global and not found.is_multicast and not any(found in net for net in _EMBEDDING)


def check(url: str, allowed: Sequence[str]) -> None:
    """Raise `Forbidden` for an address that is private and not allowed by name."""
    try:
        parts = urlsplit(url)
        host, port = parts.hostname or "", parts.port
    except ValueError:
        host, port, parts = "", None, urlsplit("")
    if parts.scheme not in ("http", "https") or not host:
        raise Forbidden("outgoing.no_web_address", url=url)
    if host not in allowed and parts.netloc not in allowed:
        _resolved(host, port or (80 if parts.scheme == "http" else 443), allowed)


def _resolved(host: str, port: int, allowed: Sequence[str]) -> str:
    """One of the addresses of a host, all of which may be reached; raises `Forbidden`."""
    try:
        found = socket.getaddrinfo(host, port, proto=socket.IPPROTO_TCP)
    except (socket.gaierror, UnicodeError) as error:
        why = getattr(error, "strerror", None) or said("outgoing.no_name_of_a_host")
        raise Forbidden("outgoing.not_found", host=host, why=why) from None
    named = host in allowed or f"{host}:{port}" in allowed
    for item in found:
        if not named and not is_public(str(item[4][0])):
            raise Forbidden("outgoing.private", host=host, address=item[4][0])
    return str(found[0][4][0])


class _Bounds:
    """How long, and how much, the exchange that goes on may still be."""

    def __init__(self) -> None:
        self.until = time.monotonic() + LONGEST
        self.left = MOST

    def seconds(self, wanted: float | None) -> float:
        left = self.until - time.monotonic()
        if left <= 0:
            raise httpcore.ReadTimeout("the whole exchange took too long")
        return left if wanted is None else min(wanted, left)


class _Line(httpcore.NetworkStream):
    """A connection on which every wait and every byte counts towards the bounds of the whole exchange."""

    def __init__(self, inner: httpcore.NetworkStream, bounds: _Bounds) -> None:
        self._inner = inner
        self._bounds = bounds

    def read(self, max_bytes: int, timeout: float | None = None) -> bytes:
        data = self._inner.read(max_bytes, self._bounds.seconds(timeout))
        self._bounds.left -= len(data)
        if self._bounds.left < 0:
            raise httpcore.ReadError("the answer is longer than may be")
        return data

    def write(self, buffer: bytes, timeout: float | None = None) -> None:
        self._inner.write(buffer, self._bounds.seconds(timeout))

    def close(self) -> None:
        self._inner.close()

    def start_tls(
        self, ssl_context: ssl.SSLContext, server_hostname: str | None = None, timeout: float | None = None
    ) -> httpcore.NetworkStream:
        made = self._inner.start_tls(ssl_context, server_hostname, self._bounds.seconds(timeout))
        return _Line(made, self._bounds)

    def get_extra_info(self, info: str) -> Any:
        return self._inner.get_extra_info(info)


class _Checked(httpcore.SyncBackend):
    """Connects to the very address that was checked: a name that is looked up twice may lead to two places."""

    def __init__(self, allowed: Sequence[str], bounds: _Bounds) -> None:
        self._allowed = allowed
        self._bounds = bounds

    def connect_tcp(
        self,
        host: str,
        port: int,
        timeout: float | None = None,
        local_address: str | None = None,
        socket_options: Iterable[Any] | None = None,
    ) -> httpcore.NetworkStream:
        address = _resolved(host, port, self._allowed)
        line = super().connect_tcp(
            address, port, self._bounds.seconds(timeout), local_address, socket_options
        )
        return _Line(line, self._bounds)


@cache
def _trusted() -> ssl.SSLContext:
    """Whom to trust, read once a process: it takes longer than most calls."""
    return httpx.create_ssl_context(trust_env=False)


class Caller(httpx.Client):
    """A client for outgoing calls: only to where the settings let it, within bounds, and without redirects, as they could lead
    anywhere."""

    def __init__(self, allowed: Sequence[str] = (), timeout: float = 15.0) -> None:
        self.bounds = _Bounds()
        transport = httpx.HTTPTransport(verify=_trusted(), trust_env=False)
        # The pool is the transport's own; it has no other way in for how connections are made.
        transport._pool = httpcore.ConnectionPool(
            ssl_context=_trusted(),
            network_backend=_Checked(allowed, self.bounds),
        )
        super().__init__(timeout=timeout, follow_redirects=False, trust_env=False, transport=transport)


def caller(allowed: Sequence[str] = (), timeout: float = 15.0) -> httpx.Client:
    """A client for outgoing calls."""
    return Caller(allowed, timeout)


LONGEST = 60.0
"""Seconds that a call may take in all, however slowly its answer comes."""
_HEAD = 100_000
"""Bytes that the head of an answer may have."""


def call(
    http: httpx.Client,
    method: str,
    url: str,
    allowed: Sequence[str],
    *,
    most: int,
    seconds: float = LONGEST,
    **sent: Any,
) -> tuple[httpx.Response, bytes]:
    """Call an address that may be reached; returns the answer and its body, of at most so many bytes in at most so long.

    Raises `Forbidden`, or `httpx.HTTPError` for all that goes wrong on the way.
    """
    check(url, allowed)
    until = time.monotonic() + seconds
    if isinstance(http, Caller):
        http.bounds.until, http.bounds.left = until, most + _HEAD
    with http.stream(method, url, **sent) as answer:
        data = bytearray()
        for part in answer.iter_bytes():
            data += part
            if len(data) > most:
                raise httpx.ReadError(f"the answer is longer than {most:,} bytes")
            if time.monotonic() > until:
                raise httpx.ReadTimeout(f"the answer took longer than {seconds:.0f} seconds")
        return answer, bytes(data)


def signed(id: str, body: str, secrets: Sequence[str]) -> dict[str, str]:
    """The headers by which a receiver knows that a body comes from us: signed with each secret (Standard Webhooks). The time that is signed is
    that of the machine, as the receiver holds it against its own."""
    at = datetime.now(UTC).replace(microsecond=0)
    return {
        "webhook-id": id,
        "webhook-timestamp": str(round(at.timestamp())),
        "webhook-signature": " ".join(Signing(one).sign(id, at, body) for one in secrets),
    }


def retry_after(answer: httpx.Response) -> float:
    """The seconds that an answer asks to wait (RFC 9110, section 10.2.3), up to an hour; 0 when it does not say."""
    asked = answer.headers.get("retry-after", "").strip()
    if asked.isascii() and asked.isdigit():
        return min(float(asked[:6]), 3600.0)
    try:
        at = parsedate_to_datetime(asked)
    except ValueError:
        return 0.0
    return min(max((at - datetime.now(UTC)).total_seconds(), 0.0), 3600.0)


MOST = 3_000_000
"""So many bytes of an answer are read."""


@dataclass(frozen=True, slots=True)
class Fetched:
    """What an address answered; `trouble` says why nothing did."""

    status: int = 0
    headers: tuple[tuple[str, str], ...] = ()
    text: str = ""
    trouble: Message | None = None


def fetch(
    url: str, allowed: Sequence[str], timeout: float = 10.0, headers: Mapping[str, str] | None = None
) -> Fetched:
    """Read a page, as far as outgoing calls may."""
    try:
        with caller(allowed, timeout) as client:
            answer, data = call(client, "GET", url, allowed, most=MOST, seconds=2 * timeout, headers=headers)
            text = data.decode(answer.encoding or "utf-8", "replace")
            return Fetched(answer.status_code, tuple(answer.headers.multi_items()), text)
    except Forbidden as refused:
        return Fetched(trouble=refused.message)
    except httpx.TimeoutException:
        return Fetched(trouble=said("outgoing.too_slow", seconds=round(timeout)))
    except (httpx.HTTPError, httpx.InvalidURL) as error:
        why = re.sub(r"^\[Errno -?\d+\] ", "", str(error)) or type(error).__name__
        return Fetched(trouble=said("outgoing.failed", why=why))
