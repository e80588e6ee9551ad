"""Every error that Hawthorn raises on purpose, under one root.

Each carries a stable `slug` (the problem type of RFC 9457 section 3.1.1), a sentence that says what is
wrong (`detail`), a sentence that says what to do (`remedy`), and facts for programs (`facts`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any


class HawthornError(Exception):
    """The root of all errors that are answers rather than faults."""

    slug = "error"
    title = "That did not work"

    def __init__(self, detail: str, *, remedy: str = "", **facts: Any) -> None:
        super().__init__(detail)
        self.detail = detail
        self.remedy = remedy
        self.facts = facts


class NotFound(HawthornError):
    """What was named is not there, or may not be seen by whoever asked."""

    slug = "not-found"
    title = "Nothing is there"


class NotLoggedIn(HawthornError):
    """The caller is nobody: no session and no key, or one that has ended."""

    slug = "not-logged-in"
    title = "Please log in"


class CodeNeeded(NotLoggedIn):
    """Name and password were right; the code of the second factor is needed as well."""

    slug = "code-needed"
    title = "One thing more"


class Refused(HawthornError):
    """A grant is missing. `facts` name the act, the missing grant and the roles that hold it."""

    slug = "refused"
    title = "You may not do that"


class TooMany(HawthornError):
    """Too many attempts in too short a time."""

    slug = "too-many-attempts"
    title = "Too many attempts"


@dataclass(frozen=True, slots=True)
class FieldProblem:
    """One thing wrong with one value: `where` is a field path, `what` says what is wrong and right."""

    where: str
    what: str


class Invalid(HawthornError):
    """What was sent cannot be taken as it is. `facts["problems"]` lists each place."""

    slug = "invalid"
    title = "Something in it is not right"

    def __init__(self, problems: Sequence[FieldProblem] | str, *, remedy: str = "", **facts: Any) -> None:
        if isinstance(problems, str):
            super().__init__(problems, remedy=remedy, **facts)
            return
        listed = [{"where": p.where, "what": p.what} for p in problems]
        detail = "; ".join(f"{p.where}: {p.what}" for p in problems)
        super().__init__(
            detail, remedy=remedy or "Mend what is named and send it again.", problems=listed, **facts
        )


class BaseNeeded(HawthornError):
    """A change that does not say what it is based on (RFC 6585, section 3)."""

    slug = "base-needed"
    title = "Say what it is based on"


class StaleRevision(HawthornError):
    """Somebody moved what the caller looked at. `facts` carry what stands there now."""

    slug = "stale"
    title = "It has moved on"


class Conflicting(HawthornError):
    """Two sides changed the same place. `facts["conflicts"]` holds both, `facts["typed"]` what was kept."""

    slug = "conflict"
    title = "Somebody changed the same place"


class GateUnmet(HawthornError):
    """A gate does not hold. `facts["unmet"]` lists each condition and who could meet it."""

    slug = "gate-unmet"
    title = "It may not stand there yet"


class BadTime(HawthornError):
    """An instant or wall time that is past, does not exist, or exists twice."""

    slug = "bad-time"
    title = "That time cannot be used"


class BadFile(HawthornError):
    """A file that is not what it should be: a translation file, a picture."""

    slug = "bad-file"
    title = "That file cannot be used"


class InTheWay(HawthornError):
    """What is asked does not fit what is there: an address that is taken, a job already accepted."""

    slug = "in-the-way"
    title = "Something is in the way"


class BadStore(HawthornError):
    """The record file is newer than this program, altered, or not a Hawthorn file."""

    slug = "bad-store"
    title = "The record file cannot be used"


class DiskFull(BadStore):
    """There is no room on the disk for what was to be written; nothing of it was."""

    slug = "disk-full"
    title = "The disk is full"


class ReadOnly(BadStore):
    """The record file, its folder or its disk cannot be written; nothing was."""

    slug = "read-only"
    title = "The record file cannot be written"


class NoKey(HawthornError):
    """The key that secrets in the record file are sealed with is missing, or another one."""

    slug = "no-key"
    title = "A secret cannot be opened"


class Busy(HawthornError):
    """The service is stopping, or too much goes on at once; nothing was done."""

    slug = "busy"
    title = "Not now"
