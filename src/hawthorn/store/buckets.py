"""Buckets of stores that speak the protocol of S3, through their client, and what its failures mean.

What opens a bucket stands in the environment, under the usual names: `AWS_ACCESS_KEY_ID`, `AWS_SECRET_ACCESS_KEY`, `AWS_REGION`,
`AWS_ENDPOINT_URL`.
"""

from __future__ import annotations

import os
import re
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from datetime import timedelta
from typing import TYPE_CHECKING, Any, cast

from hawthorn.core.errors import FileStoreFails

if TYPE_CHECKING:
    from obstore.store import S3Config, S3Store


def opened(bucket: str, prefix: str, asked: Mapping[str, str], patience: float) -> S3Store:
    """A bucket below a prefix; `asked` are settings of its client, by its names. One that does not answer for so many seconds is given up."""
    # Loaded when it is needed: most keep nothing in buckets.
    try:
        from obstore.store import S3Store
    except ModuleNotFoundError as missing:
        raise FileStoreFails("file_store.needs", name=missing.name) from missing
    endpoint = asked.get("aws_endpoint") or os.environ.get("AWS_ENDPOINT_URL", "")
    config: dict[str, Any] = {"aws_checksum_algorithm": "SHA256", **asked}
    longest = timedelta(seconds=patience)
    with failing(bucket):
        return S3Store(
            bucket,
            prefix=prefix or None,
            config=cast("S3Config", config),
            client_options={
                "timeout": longest,
                "connect_timeout": timedelta(seconds=min(5.0, patience)),
                "allow_http": endpoint.startswith("http://"),
            },
            retry_config={"max_retries": 3, "retry_timeout": longest},
        )


@contextmanager
def failing(bucket: str, *, reading: bool = True) -> Iterator[None]:
    """Say what a failure of the client means."""
    try:
        yield
    except FileStoreFails:
        raise
    except Exception as error:
        why = _why(error, reading)
        if why is None:
            raise
        raise FileStoreFails(f"file_store_fails.{why}", place=bucket, error=_short(error)) from error


def _why(error: Exception, reading: bool) -> str | None:
    """What a failure of the client means; None for a fault of ours. Where one puts, what is not there is the bucket."""
    import obstore.exceptions as known

    if isinstance(error, FileNotFoundError) and reading:
        return "missing"
    if isinstance(error, PermissionError | known.UnauthenticatedError):
        return "refused"
    return "bucket" if isinstance(error, known.BaseError | OSError | ValueError) else None


def _short(error: Exception) -> str:
    """What the store answered, or what became of asking it: without the request, which the client repeats."""
    answered = re.search(r"status code: ([0-9]{3} [A-Za-z ]+)", str(error))
    if answered:
        return answered[1].strip()
    lines = str(error).splitlines() or [type(error).__name__]
    return lines[0].rsplit(" - ", 1)[-1][:120]
