"""Looks at an installation: what is wrong with it, and how to mend it. Changes nothing, and needs no service that runs.

To add a check: a function in `CHECKS` that yields what it finds, under its name, with its words under `doctor` in the catalogue.
"""

from __future__ import annotations

import os
import shutil
import smtplib
import socket
import sqlite3
import ssl
import stat
import time
import tomllib
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from typing import Literal

from hawthorn.core.errors import HawthornError
from hawthorn.core.hosts import is_unheard
from hawthorn.core.messages import Message, said
from hawthorn.core.provider import Rules, governed
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND
from hawthorn.followers import mail
from hawthorn.operations.views.health import MISSING
from hawthorn.service.litestream import program
from hawthorn.service.provider import Provider
from hawthorn.service.settings import CONFIG, Settings
from hawthorn.store import backups, checks, connection, events, failing, migrate, outbox, people, terms, vault
from hawthorn.store.file_store import opened
from hawthorn.store.replica import Replica
from hawthorn.store.scanner import Scanner

How = Literal["well", "note", "wrong"]
LEAST_SQLITE = (3, 38, 0)
"""The oldest SQLite with what the record file's tables need (STRICT, the operators of JSON)."""
LEAST_ROOM = 500_000_000
"""Bytes that a disk should have free, so that a backup or a migration does not fill it."""
OVERDUE = 120 * SECOND
"""A dispatch that is planned and this late means that no scheduler runs."""
BACKUP_AGE = 2 * 86_400 * SECOND
PATIENCE = 2.0
"""Seconds that are waited for what should answer."""


@dataclass(frozen=True, slots=True)
class Finding:
    """What was found: whether it is well, worth knowing or wrong, what it is, and what to do about it."""

    how: How
    what: Message
    remedy: Message | None = None


def well(code: str, /, **facts: object) -> Finding:
    """Something that is as it should be."""
    return Finding("well", said(f"doctor.{code}", **facts))


def note(code: str, /, **facts: object) -> Finding:
    """Something that is worth knowing, with what could be done."""
    return Finding("note", said(f"doctor.{code}.what", **facts), said(f"doctor.{code}.remedy", **facts))


def wrong(code: str, /, **facts: object) -> Finding:
    """Something that is wrong, with how to mend it."""
    return Finding("wrong", said(f"doctor.{code}.what", **facts), said(f"doctor.{code}.remedy", **facts))


def examine(settings: Settings) -> Iterator[tuple[str, list[Finding]]]:
    """Each thing that is looked at, with what was found. What cannot be looked at is said, and the rest is looked at."""
    for name, look in CHECKS.items():
        found: list[Finding] = []
        try:
            found.extend(look(settings))
        except (OSError, sqlite3.Error) as error:
            found.append(wrong("unreadable", error=str(error)))
        except HawthornError as error:
            found.append(Finding("wrong", error.message, said("doctor.see_above")))
        yield name, found


def _settings(settings: Settings) -> Iterator[Finding]:
    """Names in the file of settings that mean nothing are typing mistakes."""
    path = Path(CONFIG)
    given = tomllib.loads(path.read_text("utf-8")) if path.exists() else {}
    unknown = sorted(set(given) - set(Settings.model_fields))
    named = [name for name in os.environ if name.startswith("HAWTHORN_")]
    known = {f"HAWTHORN_{name.upper()}" for name in Settings.model_fields} | _OF_COMMANDS
    unknown += sorted(set(named) - known)
    if unknown:
        yield wrong("unknown_settings", names=unknown)
    if not settings.public:
        yield note("no_public")
    elif not is_unheard(settings.public):
        yield note("not_https", public=settings.public)
    if not unknown:
        yield well("settings_read")


_OF_COMMANDS = {"HAWTHORN_URL", "HAWTHORN_KEY", "HAWTHORN_PASSWORD", "HAWTHORN_TOKEN"}
"""What commands take from the environment beside settings."""


def _machine(settings: Settings) -> Iterator[Finding]:
    """The engine, and room on the disk."""
    if sqlite3.sqlite_version_info < LEAST_SQLITE:
        yield wrong("old_sqlite", version=sqlite3.sqlite_version, least=".".join(map(str, LEAST_SQLITE)))
    else:
        yield well("sqlite", version=sqlite3.sqlite_version)
    place = settings.file.absolute().parent
    if place.is_dir():
        free = shutil.disk_usage(place).free
        if free < LEAST_ROOM:
            yield wrong("little_room", free=free // 1_000_000, place=place)
        else:
            yield well("room", free=free // 1_000_000)


def _file(settings: Settings) -> Iterator[Finding]:
    """The record file: there, ours to write, of this program's version, and its clock."""
    path = settings.file
    if not path.exists():
        yield note("no_file", file=path)
        if not os.access(path.absolute().parent, os.W_OK):
            yield wrong("folder_shut", place=path.absolute().parent)
        return
    if not os.access(path, os.W_OK) or not os.access(path.absolute().parent, os.W_OK):
        yield wrong("file_shut", file=path, place=path.absolute().parent)
    with failing.named(path), closing(connection.open_still(path)) as conn:
        old = migrate.pending(conn)
        if old:
            yield note("older_file", count=len(old), file=path)
            return
        yield well("file", file=path, megabytes=path.stat().st_size // 1_000_000)
        behind = events.last(conn)[1] - time.time_ns() // 1000
        if behind > 60 * SECOND:
            yield wrong("clock_behind", seconds=behind // SECOND)
        if settings.file_store == "" and checks.any_outside(conn):
            yield wrong("files_elsewhere")
        yield from _key(settings, conn)


def _key(settings: Settings, conn: sqlite3.Connection) -> Iterator[Finding]:
    path = settings.key_file or settings.file.with_name(settings.file.name + ".key")
    if not path.exists():
        if vault.anything_sealed(conn):
            yield wrong("no_key", file=path)
        return
    if stat.S_IMODE(path.stat().st_mode) & 0o077:
        yield wrong("open_key", file=path)
    elif not os.access(path, os.R_OK):
        yield wrong("shut_key", file=path)
    else:
        yield well("key", file=path)


def _service(settings: Settings) -> Iterator[Finding]:
    """Whether the service answers, or could listen where it is to."""
    import httpx

    host = "127.0.0.1" if settings.host in ("0.0.0.0", "::", "") else settings.host
    at = f"http://{f'[{host}]' if ':' in host else host}:{settings.port}"
    try:
        answer = httpx.get(f"{at}/api/health", timeout=PATIENCE, trust_env=False)
        told = answer.json()
    except httpx.ConnectError:
        yield note("not_running", at=at) if _free(settings) else wrong("port_taken", port=settings.port)
        return
    except (httpx.HTTPError, ValueError):
        yield wrong("another_answers", at=at, port=settings.port)
        return
    if not isinstance(told, dict) or "position" not in told:
        yield wrong("another_answers", at=at, port=settings.port)
        return
    for line in told.get("trouble", []):
        yield wrong("trouble", line=line)
    if told.get("ok"):
        yield well("running", at=at, version=told.get("version", ""))


def _free(settings: Settings) -> bool:
    try:
        socket.create_server((settings.host, settings.port)).close()
    except OSError:
        return False
    return True


def _followers(settings: Settings) -> Iterator[Finding]:
    """What is done by itself: whether anybody does it, and what could not be done."""
    if not settings.file.exists():
        return
    with closing(connection.open_still(settings.file)) as conn:
        if migrate.pending(conn):
            return
        now = time.time_ns() // 1000
        late = outbox.overdue(conn, now - OVERDUE)
        if late:
            yield wrong("overdue", count=late)
        for follower, count in outbox.given_up(conn).items():
            yield note("given_up", follower=follower, count=count)
        parked = len(outbox.parked(conn))
        if parked:
            yield wrong("parked", count=parked)
        if not late and not parked:
            yield well("followers")


def _mail(settings: Settings) -> Iterator[Finding]:
    """Whether the mail server answers, and takes what this service has to say for itself."""
    if not settings.smtp_host:
        yield note("no_mail")
        return
    try:
        mail.connected(settings).close()
    except (smtplib.SMTPException, mail.InClear, ssl.SSLError) as error:
        yield wrong("mail_refuses", host=settings.smtp_host, why=mail.reason(error))
        return
    except OSError as error:
        yield wrong("mail_silent", host=settings.smtp_host, port=settings.smtp_port, error=str(error))
        return
    yield well("mail", host=settings.smtp_host)


def _keeping(settings: Settings) -> Iterator[Finding]:
    """Backups and the replica."""
    if settings.backups is None and not settings.replica:
        yield note("no_backups")
    elif settings.backups is not None:
        yield from _backups(settings.backups)
    if settings.replica:
        program()
        yield from _replica(settings)
    if settings.file_store:
        store = opened(settings.file_store)
        if store is not None:
            for _ in store.kept("files/"):
                break
            yield well("file_store", place=settings.file_store)
    if settings.scanner:
        yield well("scanner", address=settings.scanner, version=Scanner(settings.scanner).version())


def _replica(settings: Settings) -> Iterator[Finding]:
    place = terms.place_of(settings.replica)
    if place is None or not settings.file.exists():
        return
    kept = Replica(place, terms.of_file(settings.file))
    behind = kept.behind(lambda: closing(connection.open_still(settings.file)), time.time_ns() // 1000)
    if behind is None:
        yield wrong("replica_away", place=settings.replica, why=kept.trouble)
    elif behind > MISSING:
        yield wrong("replica_behind", place=settings.replica, seconds=round(behind))
    else:
        yield well("replica", place=settings.replica)


def _backups(folder: Path) -> Iterator[Finding]:
    if folder.exists() and not os.access(folder, os.W_OK):
        yield wrong("backups_shut", place=folder)
        return
    made = max((one.at for one in backups.listing(folder)), default=None) if folder.exists() else None
    age = time.time_ns() // 1000 - made if made is not None else None
    if age is None:
        yield note("none_yet", place=folder)
    elif age > BACKUP_AGE:
        yield wrong("old_backup", days=age // (86_400 * SECOND), place=folder)
    else:
        yield well("backup", hours=age // (3_600 * SECOND))


def _provider(settings: Settings) -> Iterator[Finding]:
    """Whether the identity provider answers, and the roles that it gives are here."""
    if not settings.provider:
        return
    unnamed = Provider(settings).look()
    yield well("provider", issuer=settings.provider)
    if unnamed:
        yield wrong("provider_acr", names=unnamed)
    if settings.second_factor and not (settings.provider_acr or settings.provider_amr):
        yield note("provider_unasked")
    if not settings.public:
        yield note("provider_without_public")
    if not settings.file.exists():
        return
    with closing(connection.open_still(settings.file)) as conn:
        if migrate.pending(conn):
            return
        strange = sorted(
            governed(Rules(roles=settings.provider_roles)) - {role.name for role in people.roles(conn)}
        )
    if strange:
        yield wrong("provider_roles", names=strange)


CHECKS: dict[str, Callable[[Settings], Iterator[Finding]]] = {
    "settings": _settings,
    "machine": _machine,
    "file": _file,
    "service": _service,
    "followers": _followers,
    "mail": _mail,
    "provider": _provider,
    "keeping": _keeping,
}
"""What is looked at, in order; a person is told of it by `doctor.head` in the catalogue."""
