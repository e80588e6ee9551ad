"""Floors over HTTP, each one SELECT and the bytes as they are stored: a bare ASGI callable, with no framework, that a released
entry is measured against, and a route of the framework, that a page of a list is measured against."""

from __future__ import annotations

import sqlite3
import sys
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs

import uvicorn
from fastapi import FastAPI, Response

CONN: sqlite3.Connection
ONE = "SELECT etag, bytes FROM stored WHERE key = ?"


def stored(path: Path, rows: list[tuple[str, str, bytes]]) -> None:
    """A file of answers: key, ETag and bytes."""
    with sqlite3.connect(path) as conn:
        conn.execute("CREATE TABLE stored (key TEXT PRIMARY KEY, etag TEXT, bytes BLOB)")
        conn.executemany("INSERT INTO stored VALUES (?, ?, ?)", rows)
    conn.close()


async def bare(scope: Any, receive: Any, send: Any) -> None:
    """A plain ASGI application: the path's last part and the locale are the key; with an ETag, and 304 for who has it."""
    uuid = scope["path"].rsplit("/", 1)[-1]
    locale = parse_qs(scope["query_string"])[b"locale"][0].decode()
    row = CONN.execute(ONE, (f"{uuid} {locale}",)).fetchone()
    has = any(name == b"if-none-match" and value.decode() == row[0] for name, value in scope["headers"])
    headers = [(b"content-type", b"application/json"), (b"etag", row[0].encode())]
    if not has:
        headers.append((b"content-length", b"%d" % len(row[1])))
    await send({"type": "http.response.start", "status": 304 if has else 200, "headers": headers})
    await send({"type": "http.response.body", "body": b"" if has else row[1]})


def routed() -> FastAPI:
    """One route of the framework, as anybody would write it."""
    app = FastAPI()

    @app.get("/api/entries")
    def listing(limit: int = 50) -> Response:
        row = CONN.execute(ONE, (f"page {limit}",)).fetchone()
        return Response(row[1], media_type="application/json")

    return app


if __name__ == "__main__":
    CONN = sqlite3.connect(sys.argv[1], check_same_thread=False)
    app = routed() if sys.argv[3:] == ["routed"] else bare
    uvicorn.run(
        app, host="127.0.0.1", port=int(sys.argv[2]), log_level="error", access_log=False, lifespan="off"
    )
