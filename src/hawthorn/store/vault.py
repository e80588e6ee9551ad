"""Secrets that have to be read again, sealed with a key that does not lie in the record file: whoever has only the file, or a
copy of it, can neither make codes of a second factor, nor open previews, nor take an invitation that waits to be sent.
"""

from __future__ import annotations

import hashlib
import os
import secrets
import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TYPE_CHECKING, Any

from hawthorn.core.errors import NoKey

if TYPE_CHECKING:
    from cryptography.fernet import MultiFernet

_SEALED = "sealed:"
_PLACES = (
    ("second_factor", "actor", "secret"),
    ("setting", "name", "value"),
    ("bureau", "id", "secret"),
    ("bureau", "id", "signing"),
    ("webhook", "id", "secret"),
    ("webhook", "id", "secret_before"),
    ("outbox", "id", "payload"),
    ("provider_log_in", "state_hash", "verifier"),
)
"""Where what is sealed lies in the record file: tables, what their rows are known by, and the column."""


class Vault:
    """Seals and opens texts (Fernet: AES-128-CBC with HMAC-SHA-256) with the key in a file, which is made when first needed.

    While a key is changed for another the file holds both, the new one first: what is sealed is sealed with that, and what was
    sealed before is still opened.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._with: tuple[tuple[int, int], MultiFernet] | None = None

    @classmethod
    def beside(cls, record_file: Path) -> Vault:
        """The one whose key lies beside a record file."""
        return cls(record_file.with_name(record_file.name + ".key"))

    def seal(self, text: str) -> str:
        """A text as it is kept."""
        return _SEALED + self._fernet(make=True).encrypt(text.encode()).decode()

    def open(self, kept: str) -> str:
        """The text that was sealed; one from before there was a key is as it was. Raises `NoKey`."""
        from cryptography.fernet import InvalidToken

        if not is_sealed(kept):
            return kept
        try:
            return self._fernet().decrypt(kept.removeprefix(_SEALED).encode()).decode()
        except InvalidToken:
            raise self._missing("vault.another_key") from None

    def opened(self, brought: str) -> str | None:
        """The same of what somebody brings along: nothing for what was not sealed here, whatever it is."""
        from cryptography.fernet import InvalidToken

        if not is_sealed(brought):
            return None
        try:
            return self._fernet(make=True).decrypt(brought.removeprefix(_SEALED).encode()).decode()
        except (InvalidToken, ValueError):
            return None

    def begin_change(self) -> Path:
        """Put a new key before the one there is. Returns where the one there was is kept, for copies of the record file from before."""
        from cryptography.fernet import Fernet

        self._fernet()
        keys = self.path.read_bytes().split()
        kept = self.path.with_name(f"{self.path.name}.before-{hashlib.sha256(keys[0]).hexdigest()[:8]}")
        self._put(kept, keys)
        self._put(self.path, [Fernet.generate_key(), *keys])
        return kept

    def end_change(self) -> None:
        """Leave the newest key alone in the file, once nothing is sealed with another."""
        self._put(self.path, self.path.read_bytes().split()[:1])

    def _fernet(self, make: bool = False) -> MultiFernet:
        # Loaded when it is needed: it takes its time, and most starts need none of it.
        from cryptography.fernet import Fernet, MultiFernet

        try:
            if make:
                self._make()
            # Looked at each time: the key may be changed while others run, and what they seal from then on is for the new one.
            stands = self.path.stat()
            version = (stands.st_mtime_ns, stands.st_ino)
            if self._with is None or self._with[0] != version:
                self._with = version, MultiFernet([Fernet(key) for key in self.path.read_bytes().split()])
        except FileNotFoundError:
            raise self._missing("vault.no_key") from None
        except (OSError, ValueError) as error:
            raise self._missing("vault.unusable_key", error=error) from None
        return self._with[1]

    def _put(self, path: Path, keys: Sequence[bytes]) -> None:
        """Put keys into a file, whole or not at all."""
        self._aside(keys).replace(path)

    def _make(self) -> None:
        """Make a key unless there is one; of two who do at once, one is first, and both use its key."""
        from cryptography.fernet import Fernet

        if self.path.exists():
            return
        made = self._aside([Fernet.generate_key()])
        with suppress(FileExistsError):
            os.link(made, self.path)
        made.unlink()

    def _aside(self, keys: Sequence[bytes]) -> Path:
        """A file beside the one of the key, with keys in it, that its owner alone reads."""
        made = self.path.with_name(f"{self.path.name}.{secrets.token_hex(6)}")
        file = os.open(made, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        try:
            os.write(file, b"\n".join(keys) + b"\n")
            os.fsync(file)
        finally:
            os.close(file)
        return made

    def _missing(self, code: str, **facts: Any) -> NoKey:
        return NoKey(code, file=self.path.name, **facts)


def anything_sealed(conn: sqlite3.Connection) -> bool:
    """Whether a record file holds anything that can be opened with the key alone."""
    places = " OR ".join(
        f"EXISTS (SELECT 1 FROM {table} WHERE {column} LIKE ?1)" for table, _, column in _PLACES
    )
    return bool(conn.execute(f"SELECT {places}", (f"{_SEALED}%",)).fetchone()[0])


def is_sealed(kept: str) -> bool:
    """Whether a text is kept sealed."""
    return kept.startswith(_SEALED)


@contextmanager
def _overwriting(conn: sqlite3.Connection) -> Iterator[None]:
    """Let what stood somewhere be overwritten on the disk when something else is put there."""
    conn.execute("PRAGMA secure_delete = ON")
    try:
        yield
    finally:
        conn.execute("PRAGMA secure_delete = OFF")


def seal_anew(conn: sqlite3.Connection, vault: Vault) -> int:
    """Seal what lies sealed in the record file with the newest key; what stood there is overwritten on the disk. Returns how much it was.

    Raises `NoKey` for what no key in the file opens, before anything is changed.
    """
    found = [
        (f"UPDATE {table} SET {column} = ? WHERE {key} = ?", id, vault.seal(vault.open(kept)))
        for table, key, column in _PLACES
        for id, kept in conn.execute(
            f"SELECT {key}, {column} FROM {table} WHERE {column} LIKE ?", (f"{_SEALED}%",)
        ).fetchall()
    ]
    with _overwriting(conn):
        for sql, id, sealed in found:
            conn.execute(sql, (sealed, id))
    return len(found)


def seal_what_is_open(conn: sqlite3.Connection, vault: Vault) -> None:
    """Seal what a file from before there was a key holds in clear; what stood there is overwritten on the disk."""
    with _overwriting(conn):
        for actor, secret in conn.execute("SELECT actor, secret FROM second_factor").fetchall():
            if not is_sealed(secret):
                conn.execute(
                    "UPDATE second_factor SET secret = ? WHERE actor = ?", (vault.seal(secret), actor)
                )
        row = conn.execute("SELECT value FROM setting WHERE name = 'preview_secret'").fetchone()
        if row is not None and not is_sealed(row[0]):
            conn.execute("UPDATE setting SET value = ? WHERE name = 'preview_secret'", (vault.seal(row[0]),))
        for id, payload in conn.execute(
            "SELECT id, payload FROM outbox WHERE stable_id LIKE 'invitation-%' AND state = 'waiting'"
        ).fetchall():
            if not is_sealed(payload):
                conn.execute("UPDATE outbox SET payload = ? WHERE id = ?", (vault.seal(payload), id))


def open_secrets(conn: sqlite3.Connection) -> bool:
    """Whether anything that should be sealed lies in clear."""
    return bool(
        conn.execute(
            "SELECT EXISTS (SELECT 1 FROM second_factor WHERE secret NOT LIKE 'sealed:%') OR EXISTS (SELECT 1 FROM setting "
            "WHERE name = 'preview_secret' AND value NOT LIKE 'sealed:%') OR EXISTS (SELECT 1 FROM outbox WHERE stable_id "
            "LIKE 'invitation-%' AND state = 'waiting' AND payload NOT LIKE 'sealed:%')"
        ).fetchone()[0]
    )
