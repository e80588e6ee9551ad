"""Files that come as the body of a request, kept aside until they have come whole."""

from __future__ import annotations

import tempfile
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import BinaryIO, cast

from fastapi import Request
from starlette.requests import ClientDisconnect

from hawthorn.core.errors import BadFile

_IN_MEMORY = 1 << 20


@asynccontextmanager
async def body_of(request: Request) -> AsyncIterator[BinaryIO]:
    """The body of a request as a file, on disk where it is large. Raises `BadFile` for one that is cut off."""
    with tempfile.SpooledTemporaryFile(_IN_MEMORY) as file:
        try:
            async for part in request.stream():
                file.write(part)
        except ClientDisconnect:
            raise BadFile("jobs.file_cut_off") from None
        file.seek(0)
        yield cast(BinaryIO, file)
