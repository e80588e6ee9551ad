"""The verbs of a dispatch, one module each. A module is found by being here: it holds its verb as `VERB`.

What a verb needs of the records is asked by its properties (`leads`, `outs`, `leaves`, `ends`, …), never by its name.
"""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from hawthorn.core.errors import Invalid
from hawthorn.core.moves import base
from hawthorn.core.moves.base import (
    APPROVED,
    CHOSEN,
    NOTHING,
    VERBS,
    Around,
    MoveFacts,
    Step,
    Touched,
    Verb,
)

__all__ = [
    "APPROVED",
    "ASKED",
    "CHOSEN",
    "CLEARING",
    "ENDING",
    "LEADING",
    "LEAVING",
    "NOTHING",
    "OUT",
    "SHELVING",
    "USUAL",
    "VERBS",
    "WRITING",
    "Around",
    "MoveFacts",
    "Step",
    "Touched",
    "Verb",
    "asked",
    "clearing",
    "of",
]

USUAL = "release"
"""What is done when no verb is named."""

for _found in sorted((m.name for m in iter_modules(__path__) if m.name != "base"), key=lambda n: n != USUAL):
    _verb = import_module(f"{__name__}.{_found}").VERB
    base.VERBS[_verb.name] = _verb

ASKED = tuple(v.name for v in VERBS.values() if not v.made)
"""Those that people and programs ask for."""
LEADING = tuple(v.name for v in VERBS.values() if v.leads)
"""After these, an edition is where they go."""
OUT = tuple(v.name for v in VERBS.values() if v.outs)
"""After these, an edition is out."""
LEAVING = tuple(v.name for v in VERBS.values() if v.leaves)
"""After these, an edition is out no longer."""
ENDING = tuple(v.name for v in VERBS.values() if v.ends)
"""After these, an entry is removed."""
WRITING = tuple(v.name for v in VERBS.values() if v.writes)
"""These bring a revision of their own."""
RESTING = tuple(v.name for v in VERBS.values() if v.rests)
"""These wait for the end of a quiet period."""
SHELVING = tuple(v.name for v in VERBS.values() if v.shelves)
"""After these, an entry is in the archive."""
CLEARING = tuple(v.name for v in VERBS.values() if v.lifts or v.ends or v.shelves)
"""After these, what led to where they go does not stand before it any more."""


def asked(name: str) -> Verb:
    """The verb of a name that may be asked for. Raises `Invalid` for none."""
    found = VERBS.get(name)
    if found is None or found.made:
        raise Invalid("moves.unknown", name=name, verbs=[v.name for v in VERBS.values() if not v.made])
    return found


def of(name: str) -> Verb:
    """The verb of a name. Raises `Invalid` for none."""
    if name not in VERBS:
        raise Invalid("moves.unknown", name=name, verbs=list(VERBS))
    return VERBS[name]


def clearing(code: str) -> Verb | None:
    """The verb that, of the entry a condition names, clears it."""
    return next((v for v in VERBS.values() if code in v.clears), None)
