"""Entity tags of answers (RFC 9110, section 8.8.3)."""

from __future__ import annotations

import hashlib


def of(data: bytes) -> str:
    """The strong tag of a body: the same bytes have the same."""
    return f'"{hashlib.sha256(data).hexdigest()[:24]}"'
