"""Renditions that were made before: kept in a file of their own beside the record file, up to a bound. Losing it loses
nothing; they are made again."""

from __future__ import annotations

import contextlib
import sqlite3
import threading
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from hawthorn.store.connection import keep_private
from hawthorn.store.pool import Pool

_HOUR = 3600 * 1_000_000
_SCHEMA = """
CREATE TABLE IF NOT EXISTS rendition (
  key TEXT PRIMARY KEY, media_type TEXT NOT NULL, bytes BLOB NOT NULL, size INTEGER NOT NULL, used INTEGER NOT NULL
) STRICT
"""
FIND = "SELECT media_type, bytes, used FROM rendition WHERE key = ?"


class Renditions:
    """Kept renditions by key. `most` bounds their bytes; those not used for longest go first."""

    def __init__(self, record_file: Path, most: int) -> None:
        self.path = record_file.with_name(record_file.name + ".renditions")
        self.most = most
        self._lock = threading.Lock()
        self._writer = self._open()
        self._pool = Pool(self._reader)

    def _open(self) -> sqlite3.Connection:
        with contextlib.suppress(sqlite3.DatabaseError):
            return self._prepared()
        # Whatever lies there is no use; it holds nothing that cannot be made again.
        for path in self.path.parent.glob(self.path.name + "*"):
            path.unlink(missing_ok=True)
        return self._prepared()

    def _prepared(self) -> sqlite3.Connection:
        with contextlib.suppress(OSError):
            keep_private(self.path)
        conn = sqlite3.connect(self.path, isolation_level=None, check_same_thread=False)
        try:
            conn.execute("PRAGMA busy_timeout = 5000")
            conn.execute("PRAGMA journal_mode = WAL")
            conn.execute("PRAGMA synchronous = OFF")
            conn.execute(_SCHEMA)
            conn.execute("CREATE INDEX IF NOT EXISTS rendition_by_use ON rendition (used, size)")
        except sqlite3.DatabaseError:
            conn.close()
            raise
        return conn

    def _reader(self) -> sqlite3.Connection:
        conn = sqlite3.connect(self.path, isolation_level=None, check_same_thread=False)
        conn.execute("PRAGMA busy_timeout = 5000")
        conn.execute("PRAGMA mmap_size = 268435456")
        return conn

    def _one(self, sql: str, given: Sequence[Any] = ()) -> Any:
        conn = self._pool.lend()
        try:
            return conn.execute(sql, given).fetchone()
        finally:
            self._pool.give_back(conn)

    def find(self, key: str, now: int) -> tuple[str, bytes] | None:
        """The media type and bytes of a rendition that is kept."""
        row = self._one(FIND, (key,))
        if row is None:
            return None
        if row[2] < now - _HOUR:
            with self._lock:
                self._writer.execute("UPDATE rendition SET used = ? WHERE key = ?", (now, key))
        return row[0], row[1]

    def keep(self, key: str, media_type: str, data: bytes, now: int) -> None:
        """Keep a rendition, and let those go that were not used for longest when there is no room."""
        with self._lock:
            self._writer.execute("BEGIN IMMEDIATE")
            try:
                self._writer.execute(
                    "INSERT OR REPLACE INTO rendition VALUES (?, ?, ?, ?, ?)",
                    (key, media_type, data, len(data), now),
                )
                self._make_room()
                self._writer.execute("COMMIT")
            except BaseException:
                self._writer.execute("ROLLBACK")
                raise

    def _make_room(self) -> None:
        over = self._writer.execute("SELECT coalesce(sum(size), 0) FROM rendition").fetchone()[0] - self.most
        while over > 0:
            rows = self._writer.execute(
                "SELECT key, size FROM rendition ORDER BY used, key LIMIT 50"
            ).fetchall()
            if not rows:
                return
            for key, size in rows:
                if over <= 0:
                    break
                self._writer.execute("DELETE FROM rendition WHERE key = ?", (key,))
                over -= size

    def size(self) -> tuple[int, int]:
        """How many renditions are kept, and how many bytes they have."""
        row = self._one("SELECT count(*), coalesce(sum(size), 0) FROM rendition")
        return row[0], row[1]

    def close(self) -> None:
        """Close every connection; nothing that is in use."""
        self._pool.close()
        with self._lock:
            self._writer.close()
