"""Which hosts are this machine, where what is said is heard by nobody else."""

from __future__ import annotations

from urllib.parse import urlsplit

LOOPBACK = ("127.0.0.1", "::1", "localhost")


def is_near(host: str) -> bool:
    """Whether a host is this machine."""
    return host in LOOPBACK


def is_unheard(url: str) -> bool:
    """Whether what is said to an address is heard by nobody else: it is encrypted, or on this machine."""
    parts = urlsplit(url)
    return parts.scheme == "https" or (parts.scheme == "http" and is_near(parts.hostname or ""))
