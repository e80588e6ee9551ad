"""The floor of a read: a bare Starlette route that does one SELECT and returns the stored bytes, with an ETag."""

from __future__ import annotations

import sqlite3
import sys

import uvicorn
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route

CONN: sqlite3.Connection


async def read(request: Request) -> Response:
    """One SELECT by two keys, the bytes as they are stored."""
    row = CONN.execute(
        "SELECT etag, bytes FROM stored WHERE uuid = ? AND locale = ?",
        (request.path_params["uuid"], request.query_params["locale"]),
    ).fetchone()
    if row is None:
        return Response(status_code=404)
    if request.headers.get("if-none-match") == row[0]:
        return Response(status_code=304, headers={"etag": row[0]})
    return Response(row[1], media_type="application/json", headers={"etag": row[0]})


if __name__ == "__main__":
    CONN = sqlite3.connect(sys.argv[1], check_same_thread=False)
    app = Starlette(routes=[Route("/read/entries/{uuid}", read)])
    uvicorn.run(app, host="127.0.0.1", port=int(sys.argv[2]), log_level="error", access_log=False)
