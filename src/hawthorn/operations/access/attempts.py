"""Guesses of passwords and codes: counted before they are looked at, with delays that grow and lock nobody out.

Counted are the guesses at one person from one source, all at one person, and all from one source: whoever guesses waits
longer and longer, whoever else logs in hardly notices.
"""

from __future__ import annotations

import threading

from hawthorn.core.errors import TooMany
from hawthorn.core.timeline import SECOND
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import attempts as store
from hawthorn.store import people

WINDOW = 900 * SECOND
"""For so long a guess counts."""
_BOUNDS = {"both": (8, 60), "person": (40, 5), "source": (30, 60)}
"""How many guesses are free, and the longest wait in seconds: at a person from a source, at a person, from a source."""
HASHING = threading.BoundedSemaphore(1)
"""So many passwords are hashed at once; each takes memory, and a core, for a moment."""


def name_of(view: View, handle: str) -> str:
    """What guesses at somebody are counted under: the person, by whatever name; a name that is nobody's by itself."""
    row = people.by_handle(view.conn, handle)
    return f"#{row.id}" if row is not None else handle.casefold()[:200]


def begin(act: Act, name: str, source: str) -> None:
    """Count a guess that is about to be looked at; raises `TooMany` while it is too soon for another. Of whoever is logged
    in and confirms who they are, it is not counted where it came from: there are no names to try."""
    since = act.now - WINDOW
    keys = _keys(name, source)
    if act.identity.kind == "person":
        del keys["source"]
    for kind, key in keys.items():
        free, longest = _BOUNDS[kind]
        count, last = store.since(act.conn, key, since)
        wait = min(2 ** min(count - free, 30), longest) if count >= free else 0
        left = last + wait * SECOND - act.now
        if left > 0:
            seconds = -(-left // SECOND)
            raise TooMany("attempts.wrong_guesses", count=count, seconds=seconds, retry_after=seconds)
    for key in keys.values():
        store.note(act.conn, key, act.now, since)


def right(act: Act, name: str, source: str) -> None:
    """Forget the guesses at somebody from a source, as the last one was right."""
    keys = _keys(name, source)
    store.forget(act.conn, [keys["both"]])
    counted = ("person",) if act.identity.kind == "person" else ("person", "source")
    store.forget(act.conn, [keys[kind] for kind in counted], 1)


def _keys(name: str, source: str) -> dict[str, str]:
    return {"both": f"{name}@{source}", "person": f"{name}@", "source": f"@{source}"}
