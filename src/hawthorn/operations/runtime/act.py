"""What every operation works with: a view (reading) or an act (writing), by somebody, at an instant."""

from __future__ import annotations

import hashlib
import json
import secrets
import sqlite3
import time
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from contextvars import ContextVar
from dataclasses import asdict, field
from functools import cached_property
from typing import Any, Protocol, TypeVar
from uuid import UUID

from hawthorn.core import happenings
from hawthorn.core.access import Identity
from hawthorn.core.bounds import Bounds
from hawthorn.core.contenttypes import ContentType, FieldSet
from hawthorn.core.errors import HawthornError, InTheWay, Invalid
from hawthorn.core.locales import Locale
from hawthorn.core.messages import Message
from hawthorn.core.pictures import Crop
from hawthorn.core.quick import dataclass
from hawthorn.core.sites import Site
from hawthorn.core.workflow import Choice, Workflow
from hawthorn.operations.runtime.mergings import Mergings, NotReady
from hawthorn.store import connection, definitions, events, once
from hawthorn.store.database import Database
from hawthorn.store.file_store import FileStore
from hawthorn.store.scanner import Scanner
from hawthorn.store.vault import Vault

T = TypeVar("T")
AHEAD = 4
"""How often something is worked out before the lock is taken, until it is done under it after all."""
SCHEDULER = 1
"""The actor that does what is planned."""
SCHEDULER_SELF = Identity(SCHEDULER, "scheduler", "Scheduler", "scheduler")
"""The same as whoever acts: for what nobody does, or nobody is there yet to do."""


class Clock(Protocol):
    """Where the time comes from."""

    def now(self) -> int:
        """The instant in microseconds UTC."""


class Words(Protocol):
    """Where the words come from: those of one language."""

    @property
    def language(self) -> str:
        """Which language that is (BCP 47)."""

    def text(self, message: Message) -> str:
        """A message in words."""

    def remedy(self, of: HawthornError | Message) -> str:
        """What to do about an error, or about what a message says, in words."""

    def plain(self, value: Any) -> Any:
        """A value in which every message is words."""


class Spoken(Words, Protocol):
    """The words of the language that is spoken just now."""

    @property
    def kept(self) -> Words:
        """Those of the house, for what is kept for all to read."""

    @property
    def languages(self) -> Mapping[str, str]:
        """The languages that there are, each as it calls itself."""

    def to(self, language: str) -> Words:
        """Those for somebody who chose a language; of the house where they chose none."""


class SystemClock:
    """The machine's clock."""

    def now(self) -> int:
        """The instant in microseconds UTC."""
        return time.time_ns() // 1000


@dataclass(frozen=True)
class Setup:
    """The definitions in force, read once a version."""

    version: str
    types: Mapping[str, ContentType]
    sets: Mapping[str, FieldSet]
    workflows: Mapping[str, Workflow]
    stages: Mapping[str, int]
    stage_names: Mapping[int, str]
    orders: Mapping[int, int]
    labels: Mapping[str, str]
    languages: Mapping[str, Locale]
    vault: Vault
    words: Spoken
    crops: Mapping[str, Crop] = field(default_factory=dict)
    sites: Mapping[str, Site] = field(default_factory=dict)
    choices: tuple[Choice, ...] = ()
    bounds: Bounds = field(default_factory=Bounds)
    mergings: Mergings = field(default_factory=Mergings)
    file_store: FileStore | None = None

    @cached_property
    def locales(self) -> dict[str, str]:
        """What each locale is called, in order; the first is asked for where none is."""
        return {tag: one.name for tag, one in self.languages.items()}

    @cached_property
    def plans_by_fields(self) -> bool:
        """Whether any type has fields that plan something."""
        return any(kind.planning for kind in self.types.values())

    @cached_property
    def some_read_only(self) -> bool:
        """Whether any type lets nobody write its entries."""
        return any(kind.read_only for kind in self.types.values())

    def chain(self, wanted: str, source: str) -> list[str]:
        """The locales in which an entry is shown where one is wanted, the best first: it, those that stand in, the source's."""
        return list(dict.fromkeys((wanted, *self.stand_ins(wanted), source)))

    def stand_ins(self, wanted: str) -> tuple[str, ...]:
        """The locales that may stand in for one, the best first."""
        return self.languages[wanted].fallback if wanted in self.languages else ()

    def type(self, name: str) -> ContentType:
        """A content type; raises `Invalid` with the names there are."""
        if name not in self.types:
            raise Invalid("act.no_type", name=name, known=list(self.types))
        return self.types[name]

    def locale(self, tag: str) -> str:
        """A locale of this house, in its canonical form (BCP 47); raises `Invalid`."""
        found = next((t for t in self.locales if t.lower() == tag.lower()), None)
        if found is None:
            raise Invalid("act.no_locale", locale=tag, known=list(self.locales))
        return found


class View:
    """Reading: one consistent state of the records, seen by somebody."""

    hurried = False
    """Whether others wait, so that what takes long has to be ready (`Desk.write`, `ahead`)."""

    def __init__(self, conn: sqlite3.Connection, identity: Identity, now: int, setup: Setup) -> None:
        self.conn = conn
        self.identity = identity
        self.now = now
        self.setup = setup
        self.notes: list[str] = []
        """What whoever acts should know of what was done, beside that it was."""

    def settle(self) -> None:
        """Let what follows from what was done be done; nothing follows from looking."""

    def say(self, what: Message | str, /, **facts: Any) -> str:
        """A message in words, or the one of a code with its facts."""
        return self.setup.words.text(Message(what, facts) if isinstance(what, str) else what)

    def why(self, error: HawthornError) -> str:
        """What is in the way, and what to do about it, in words."""
        told = [error.message, self.setup.words.remedy(error)]
        return self.say("common.sentences", sentences=[one for one in told if one])

    def keep(self, what: Message | str, /, **facts: Any) -> str:
        """The same for what is kept, such as a note or a name: in the language of the house, whoever acts."""
        return self.setup.words.kept.text(Message(what, facts) if isinstance(what, str) else what)

    @property
    def vault(self) -> Vault:
        """What opens the secrets that are kept sealed."""
        return self.setup.vault

    @property
    def file_store(self) -> FileStore | None:
        """Where the bytes of files lie; None for the record file."""
        return self.setup.file_store


class Act(View):
    """Writing: a view inside the one write transaction, with the event log at hand."""

    def __init__(
        self, conn: sqlite3.Connection, identity: Identity, now: int, setup: Setup, tip: tuple[int, int, str]
    ) -> None:
        super().__init__(conn, identity, now, setup)
        self._tip = tip
        self._last: Callable[[Act], object] | None = None
        self._derive: Callable[[Act], object] | None = None
        self._reread: Callable[[sqlite3.Connection], Setup] | None = None
        self.drafted: set[int] = set()
        """The editions whose drafts were written, of types in which something follows from that."""
        self.ready: set[int] = set()
        """The editions that were signed off for release."""
        self.released: set[int] = set()
        """The editions that came out."""
        self.stood: list[tuple[int, int, int | None]] = []
        """What came to stand, or ceased to, since the last event: (edition, stage, revision or None)."""
        self.happened: list[tuple[str, tuple[int, ...]]] = []
        """What happened in the whole transaction, and the entries that it was about."""
        self.redefined: set[str] = set()
        """The content types that were defined anew."""
        self.reshaped: set[str] = set()
        """Those of them whose entries are listed, found or addressed by something else from now on."""

    def settle(self) -> None:
        """Let what follows from what was done be done, once: before it is shown, or at the end of the act."""
        if self._last is not None and (self.drafted or self.ready or self.released):
            self._last(self)

    def derive(self) -> None:
        """Bring in line what is kept of other rows: at the end of the act, or before it is shown."""
        if self._derive is not None and self.happened:
            self._derive(self)
            self.happened.clear()
            self.redefined.clear()
            self.reshaped.clear()

    def reread(self) -> None:
        """Let what was defined just now count for the rest of the act."""
        if self._reread is not None:
            self.setup = self._reread(self.conn)

    @property
    def next_seq(self) -> int:
        """The sequence that the next event will have."""
        return self._tip[0] + 1

    def event(self, kind: str, about: Iterable[int], payload: Mapping[str, Any]) -> int:
        """Append an event by whoever acts. It says which standings changed, so that the log alone tells what stood. Its kind is
        one of those in `core/happenings.py`."""
        assert kind in happenings.KINDS, f"{kind} is not among the kinds of events"
        if self.stood:
            payload = {**payload, "stood": self.stood}
            self.stood = []
        at = max(self.now, self._tip[1] + 1)
        self.happened.append((kind, named := tuple(about)))
        self._tip = events.append(
            self.conn, self._tip, at, kind, self.identity.id, self.identity.kind, named, payload
        )
        return self._tip[0]

    @contextmanager
    def trying(self) -> Iterator[Trial]:
        """Do something that may be undone without the rest: its records, its events and what would follow from them go together."""
        trial, tip, stood = Trial(), self._tip, list(self.stood)
        following: list[set[Any]] = [self.drafted, self.ready, self.released, self.redefined, self.reshaped]
        followed, happened = [set(some) for some in following], list(self.happened)
        connection.mark(self.conn)
        try:
            yield trial
        except BaseException:
            trial.kept = False
            raise
        finally:
            if not trial.kept:
                self._tip, self.stood = tip, stood
                # In place, as an act by somebody else within this one has them too.
                self.happened[:] = happened
                for some, before in zip(following, followed, strict=True):
                    some.clear()
                    some.update(before)
            connection.settle(self.conn, kept=trial.kept)

    def by(self, identity: Identity) -> Act:
        """The same act by somebody else; `resume` gives the log back."""
        made = Act(self.conn, identity, self.now, self.setup, self._tip)
        made._last, made._derive = self._last, self._derive
        made.happened, made.redefined, made.reshaped = self.happened, self.redefined, self.reshaped
        return made

    def resume(self, other: Act) -> None:
        """Go on after an act by somebody else in the same transaction."""
        other.settle()
        self._tip = other._tip


class Trial:
    """A part of an act that may be undone by itself; kept unless it is said otherwise."""

    def __init__(self) -> None:
        self.kept = True

    def keep(self, kept: bool) -> None:
        """Say whether what was done stays."""
        self.kept = kept


def new_uuid(now: int) -> str:
    """A UUID of version 7 (RFC 9562 section 5.7) for an instant."""
    millis = now // 1000
    rest = secrets.randbits(74)
    value = (millis & (2**48 - 1)) << 80 | 7 << 76 | (rest >> 62) << 64 | 2 << 62 | rest & (2**62 - 1)
    return str(UUID(int=value))


TRYING: ContextVar[bool] = ContextVar("trying", default=False)
"""Whether what is done here is only tried: worked out and checked to its end, and then taken back with all that was written."""


class _Tried(Exception):
    """Carries what came of an act out of the transaction that is taken back."""

    def __init__(self, result: Any) -> None:
        self.result = result


class Desk:
    """Runs operations against one record file."""

    def __init__(
        self,
        db: Database,
        clock: Clock,
        words: Spoken,
        *,
        first: Callable[[Act], object] | None = None,
        last: Callable[[Act], object] | None = None,
        derive: Callable[[Act], object] | None = None,
        bound: Callable[[Act], object] | None = None,
        bounds: Bounds = Bounds(),
        vault: Vault | None = None,
        file_store: FileStore | None = None,
        scanner: Scanner | None = None,
    ) -> None:
        self.db = db
        self.vault = vault or Vault.beside(db.path)
        self.file_store = file_store
        """Where the bytes of files lie; None for the record file."""
        self.scanner = scanner
        """What looks for malware in what is uploaded; None for nothing."""
        self.clock = clock
        self.words = words
        self.bounds = bounds
        self._first = first
        self._last = last
        self._derive = derive
        self._bound = bound
        self._setup: Setup | None = None

    def read(self, identity: Identity, look: Callable[[View], T]) -> T:
        """Run a reading operation in one read transaction."""
        with self.db.read() as conn:
            now = max(self.clock.now(), events.last(conn)[1])
            return look(View(conn, identity, now, self.setup(conn)))

    def write(
        self, identity: Identity, do: Callable[[Act], T], ahead: Callable[[View], object] | None = None
    ) -> T:
        """Run a writing operation in a transaction of its own; whatever is due goes first.

        `ahead` works out, from what can be read before, what would take long while others wait; it is asked again, a few
        times, when somebody was quicker.
        """
        for _ in range(AHEAD if ahead is not None else 0):
            assert ahead is not None
            self.read(identity, ahead)
            with suppress(NotReady):
                return self._write(identity, do, hurried=True)
        return self._write(identity, do)

    def tried(self, identity: Identity, do: Callable[[Act], T]) -> T:
        """What would come of a writing operation: it is done to its end, and taken back."""
        token = TRYING.set(True)
        try:
            return self._write(identity, do)
        finally:
            TRYING.reset(token)

    def _write(self, identity: Identity, do: Callable[[Act], T], *, hurried: bool = False) -> T:
        def run(conn: sqlite3.Connection) -> T:
            tip = events.last(conn)
            act = Act(conn, identity, max(self.clock.now(), tip[1] + 1), self.setup(conn), tip)
            act.hurried = hurried
            act._last = self._last
            act._derive = self._derive
            act._reread = lambda now: self._read(now, definitions.setting(now, "setup", "0"))
            if self._first is not None:
                self._first(act)
            result = do(act)
            act.settle()
            # What was defined just now counts, and is not kept before it is committed.
            if act.happened and (version := definitions.setting(conn, "setup", "0")) != act.setup.version:
                act.setup = self._read(conn, version)
            if self._bound is not None:
                self._bound(act)
            act.derive()
            if TRYING.get():
                raise _Tried(result)
            return result

        try:
            return self.db.write(run)
        except _Tried as tried:
            found: T = tried.result
            return found

    def once(
        self,
        identity: Identity,
        key: str | None,
        route: str,
        request: str,
        do: Callable[[Act], Any],
    ) -> Any:
        """Like `write`, but a repeat with the same idempotency key gives the first answer again."""
        if not key:
            return self.write(identity, do)
        digest = hashlib.sha256(request.encode()).hexdigest()

        def guarded(act: Act) -> Any:
            row = once.answered(act.conn, identity.id, key)
            if row is not None:
                if (row.route, row.request_hash) != (route, digest):
                    raise InTheWay("act.key_used")
                return json.loads(row.answer)
            result = do(act)
            once.keep(
                act.conn, identity.id, key, route, digest, json.dumps(result, default=_members), act.now
            )
            return result

        return self.write(identity, guarded)

    def setup(self, conn: sqlite3.Connection) -> Setup:
        """The definitions in force, read again when they have changed."""
        version = definitions.setting(conn, "setup", "0")
        if self._setup is None or self._setup.version != version:
            self._setup = self._read(conn, version)
        return self._setup

    def _read(self, conn: sqlite3.Connection, version: str) -> Setup:
        stages = definitions.stages(conn)
        sets = definitions.sets(conn)
        types = definitions.types(conn)
        return Setup(
            version,
            types,
            sets,
            definitions.workflows(conn),
            {name: row.id for name, row in stages.items()},
            {row.id: name for name, row in stages.items()},
            {row.id: row.ord for row in stages.values()},
            {name: row.label for name, row in stages.items()},
            definitions.locales(conn),
            self.vault,
            self.words,
            definitions.crops(conn),
            definitions.sites(conn, types, stages),
            definitions.choices(conn),
            self.bounds,
            file_store=self.file_store,
        )


def _members(value: Any) -> dict[str, Any]:
    """A dataclass within an answer, as JSON has it."""
    return asdict(value)


def setup_changed(act: Act) -> None:
    """Make every process read the definitions again."""
    version = int(definitions.setting(act.conn, "setup", "0"))
    definitions.set_setting(act.conn, "setup", str(version + 1))
