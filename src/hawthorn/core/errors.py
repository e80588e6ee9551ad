"""Every error that Hawthorn raises on purpose, under one root.

Each carries a stable `slug` (the problem type of RFC 9457 section 3.1.1), the code of what is wrong and what to do (catalogues
have the words of both), and the facts that the words name and programs read.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from hawthorn.core.messages import Message, MessageError
from hawthorn.core.quick import dataclass


class HawthornError(MessageError):
    """The root of all errors that are answers rather than faults."""

    slug = "error"

    def __init__(self, code: str, /, *, remedy: Message | None = None, **facts: Any) -> None:
        super().__init__(code, **facts)
        self.remedy = remedy
        """What to do, where it is not what catalogues say for the code."""

    @property
    def facts(self) -> Mapping[str, Any]:
        """What the words name, and what programs read."""
        return self.message.facts


class NotFound(HawthornError):
    """What was named is not there, or may not be seen by whoever asked."""

    slug = "not-found"


class NotLoggedIn(HawthornError):
    """The caller is nobody: no session and no key, or one that has ended."""

    slug = "not-logged-in"


class CodeNeeded(NotLoggedIn):
    """Name and password were right; the code of the second factor is needed as well."""

    slug = "code-needed"


class Refused(HawthornError):
    """A grant is missing. `facts` name the act, the missing grant and the roles that hold it."""

    slug = "refused"


class TooMany(HawthornError):
    """Too many attempts in too short a time."""

    slug = "too-many-attempts"


@dataclass(frozen=True, slots=True)
class FieldProblem:
    """One thing wrong with one value: `where` is a field path, `what` says what is wrong and right."""

    where: str
    what: Message

    def __str__(self) -> str:
        return f"{self.where}: {self.what}"


class Invalid(HawthornError):
    """What was sent cannot be taken as it is. `facts["problems"]` lists each place."""

    slug = "invalid"

    def __init__(
        self, what: str | Sequence[FieldProblem], /, *, remedy: Message | None = None, **facts: Any
    ) -> None:
        if isinstance(what, str):
            super().__init__(what, remedy=remedy, **facts)
        else:
            super().__init__("common.problems", remedy=remedy, problems=list(what), **facts)


class BaseNeeded(HawthornError):
    """A change that does not say what it is based on (RFC 6585, section 3)."""

    slug = "base-needed"


class StaleRevision(HawthornError):
    """Somebody moved what the caller looked at. `facts` carry what stands there now."""

    slug = "stale"


class Conflicting(HawthornError):
    """Two sides changed the same place. `facts["conflicts"]` holds both, `facts["typed"]` what was kept."""

    slug = "conflict"


class GateUnmet(HawthornError):
    """A gate does not hold. `facts["unmet"]` lists each condition and who could meet it."""

    slug = "gate-unmet"


class BadTime(HawthornError):
    """An instant or wall time that is past, does not exist, or exists twice."""

    slug = "bad-time"


class BadFile(HawthornError):
    """A file that is not what it should be: a translation file, a picture."""

    slug = "bad-file"


class InTheWay(HawthornError):
    """What is asked does not fit what is there: an address that is taken, a job already accepted."""

    slug = "in-the-way"


class BadStore(HawthornError):
    """The record file is newer than this program, altered, or not a Hawthorn file."""

    slug = "bad-store"


class OnlyReads(HawthornError):
    """This is a copy for those who read; whoever writes goes to another address."""

    slug = "only-reads"


class Fenced(HawthornError):
    """Another service has taken over from this one: what were written here would be lost."""

    slug = "fenced"


class DiskFull(BadStore):
    """There is no room on the disk for what was to be written; nothing of it was."""

    slug = "disk-full"


class ReadOnly(BadStore):
    """The record file, its folder or its disk cannot be written; nothing was."""

    slug = "read-only"


class FileStoreFails(HawthornError):
    """Where the bytes of files lie does not answer, refuses, or has no room; what else there is goes on."""

    slug = "file-store"


class BadSetting(ValueError):
    """A setting that cannot be; says what could, in words of the catalogue."""

    def __init__(self, message: Message) -> None:
        super().__init__(message)
        self.message = message


class ScannerFails(HawthornError):
    """The scanner for malware does not answer, or cannot tell; the file was not kept."""

    slug = "scanner"


class ProviderFails(HawthornError):
    """The identity provider does not answer, or not as it should; nobody was logged in."""

    slug = "provider"


class NoKey(HawthornError):
    """The key that secrets in the record file are sealed with is missing, or another one."""

    slug = "no-key"


class Busy(HawthornError):
    """The service is stopping, or too much goes on at once; nothing was done."""

    slug = "busy"
