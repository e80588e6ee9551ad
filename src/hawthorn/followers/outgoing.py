"""Calls that leave the service: never to private addresses, unless the settings allow them by name."""

from __future__ import annotations

import ipaddress
import re
import socket
import time
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from typing import Any
from urllib.parse import urlsplit

import httpx


class Forbidden(Exception):
    """An address that outgoing calls may not reach."""


def check(url: str, allowed: Sequence[str]) -> None:
    """Raise `Forbidden` for an address that is private and not allowed by name."""
    parts = urlsplit(url)
    host = parts.hostname or ""
    if parts.scheme not in ("http", "https") or not host:
        raise Forbidden(f"“{url}” is not a web address.")
    if host in allowed or parts.netloc in allowed:
        return
    try:
        found = socket.getaddrinfo(host, parts.port or 443, proto=socket.IPPROTO_TCP)
    except socket.gaierror as error:
        raise Forbidden(f"“{host}” cannot be found: {error.strerror}.") from None
    for item in found:
        if not ipaddress.ip_address(item[4][0]).is_global:
            raise Forbidden(
                f"“{host}” is a private address ({item[4][0]}). Allow it by name in the setting allow_hosts."
            )


def caller(timeout: float = 15.0) -> httpx.Client:
    """A client for outgoing calls: no redirects, as they could lead anywhere."""
    return httpx.Client(timeout=timeout, follow_redirects=False, trust_env=False)


LONGEST = 60.0
"""Seconds that a call may take in all, however slowly its answer comes."""


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
    with http.stream(method, url, **sent) as answer:
        data = bytearray()
        for part in answer.iter_bytes():
            data += part
            if len(data) > most:
                raise httpx.ReadError(f"the answer is longer than {most:,} bytes")
            if time.monotonic() > until:
                raise httpx.ReadTimeout(f"the answer took longer than {seconds:.0f} seconds")
        return answer, bytes(data)


def retry_after(answer: httpx.Response) -> float:
    """The seconds that an answer asks to wait (RFC 9110, section 10.2.3), up to an hour; 0 when it does not say."""
    said = answer.headers.get("retry-after", "").strip()
    if said.isdigit():
        return min(float(said[:6]), 3600.0)
    try:
        at = parsedate_to_datetime(said)
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
    trouble: str = ""


def fetch(url: str, allowed: Sequence[str], timeout: float = 10.0) -> Fetched:
    """Read a page, as far as outgoing calls may."""
    try:
        check(url, allowed)
        with caller(timeout) as client, client.stream("GET", url) as answer:
            data = bytearray()
            for part in answer.iter_bytes():
                data += part
                if len(data) > MOST:
                    break
            text = bytes(data).decode(answer.encoding or "utf-8", "replace")
            return Fetched(answer.status_code, tuple(answer.headers.multi_items()), text)
    except Forbidden as refused:
        return Fetched(trouble=str(refused))
    except httpx.TimeoutException:
        return Fetched(trouble=f"it took longer than {timeout:.0f} seconds.")
    except (httpx.HTTPError, httpx.InvalidURL) as error:
        said = re.sub(r"^\[Errno -?\d+\] ", "", str(error)) or type(error).__name__
        return Fetched(trouble=f"{said}.")
