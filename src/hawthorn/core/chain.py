"""The chain of the event log: what ties an event to the one before it."""

from __future__ import annotations

import hashlib

GENESIS = "0" * 64
"""What comes before the first event."""


def link(seq: int, at: int, kind: str, actor: int, actor_kind: str, digest: str, prev: str) -> str:
    """The link that ties an event to the one before it; `digest` is the SHA-256 of its payload."""
    text = f"{prev}\n{seq}\n{at}\n{kind}\n{actor}\n{actor_kind}\n{digest}"
    return hashlib.sha256(text.encode()).hexdigest()
