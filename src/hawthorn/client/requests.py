"""One definition of each call, driven by a sync and an async sender."""

from __future__ import annotations

from collections.abc import AsyncIterator, Awaitable, Callable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO, Concatenate, Generic, ParamSpec, Protocol, TypeVar, overload
from urllib.parse import quote
from uuid import uuid4

import httpx
from pydantic import BaseModel

from hawthorn.client.errors import Refusal
from hawthorn.wire.problems import TYPE_BASE, Problem

_PART = 1 << 18
T = TypeVar("T")
M = TypeVar("M", bound=BaseModel)
P = ParamSpec("P")


Told = Callable[[int], None]
"""What is told how many bytes went by."""


def untold(count: int) -> None:
    """Tell nobody."""


class Parts:
    """The parts of a file, read as they are sent."""

    def __init__(self, path: Path, told: Told = untold) -> None:
        self._path = path
        self._told = told

    def __iter__(self) -> Iterator[bytes]:
        with self._path.open("rb") as file:
            while part := file.read(_PART):
                yield part
                self._told(file.tell())


class AsyncParts:
    """The same, for whoever waits."""

    def __init__(self, path: Path, told: Told = untold) -> None:
        self._parts = Parts(path, told)

    async def __aiter__(self) -> AsyncIterator[bytes]:
        for part in self._parts:
            yield part


class Arriving:
    """A file that comes in parts: written beside where it is to lie until all of it is there; what was broken off goes on (RFC 9110, section 14)."""

    def __init__(self, path: Path, told: Told) -> None:
        self._path = path
        self._part = path.with_name(f"{path.name}.part")
        self._told = told
        self._have = self._part.stat().st_size if self._part.exists() else 0

    @property
    def headers(self) -> dict[str, str]:
        """What asks for the rest alone."""
        return {"Accept-Encoding": "identity", **({"Range": f"bytes={self._have}-"} if self._have else {})}

    def begin(self, response: httpx.Response) -> BinaryIO:
        """The file that is written on: from its end where the answer is the rest, anew where it is all."""
        if response.status_code != 206:
            self._have = 0
        return self._part.open("ab" if self._have else "wb")

    def came(self, count: int) -> None:
        """Tell that so many more bytes are there."""
        self._have += count
        self._told(self._have)

    def end(self) -> None:
        """All of it is there."""
        self._part.replace(self._path)

    def again(self) -> None:
        """What is there is not of this file: begin anew."""
        self._part.unlink(missing_ok=True)
        self._have = 0


@dataclass(frozen=True, slots=True)
class Request(Generic[T]):
    """A call as data: what is sent, and how the answer is read."""

    method: str
    path: str
    parse: Callable[[httpx.Response], T]
    params: Mapping[str, Any] = field(default_factory=dict)
    json: Any = None
    content: bytes | Path | None = None
    """What is sent; a file is read as it goes."""
    files: Mapping[str, Any] | None = None
    headers: Mapping[str, str] = field(default_factory=dict)
    logs_in: bool = False
    """Whether the answer is a session, with which the client goes on."""
    slow: bool = False
    """Whether the answer may be long in coming: what is sent is worked through first."""
    goal: Path | None = None
    """Where the answer is to lie, part by part, where it may be long."""
    told: Told = untold
    """What is told how many bytes of a file have gone, or come."""

    def arguments(self, parts: Callable[[Path, Told], object]) -> dict[str, Any]:
        """The call as httpx takes it; `parts` gives the parts of a file."""
        content, headers = self.content, dict(self.headers)
        if isinstance(content, Path):
            headers["Content-Length"] = str(content.stat().st_size)
        more = {"timeout": httpx.Timeout(60.0, read=None)} if self.slow else {}
        given = {k: v for k, v in self.params.items() if v not in (None, "", False)}
        return {
            "method": self.method,
            "url": self.path,
            "params": given,
            "json": self.json,
            "content": parts(content, self.told) if isinstance(content, Path) else content,
            "files": self.files,
            "headers": headers,
            **more,
        }


class Sync(Protocol):
    """Sends at once."""

    def send(self, request: Request[T]) -> T:
        """Send and read the answer."""


class Async(Protocol):
    """Sends when awaited."""

    def asend(self, request: Request[T]) -> Awaitable[T]:
        """Send and read the answer."""


class call(Generic[P, T]):
    """Turns a method that builds a `Request` into a call that its owner sends, at once or awaited."""

    def __init__(self, build: Callable[Concatenate[Any, P], Request[T]]) -> None:
        self.build = build
        self.__doc__ = build.__doc__
        self.__name__ = build.__name__

    @overload
    def __get__(self, owner: None, kind: Any = None) -> call[P, T]: ...
    @overload
    def __get__(self, owner: Sync, kind: Any = None) -> Callable[P, T]: ...
    @overload
    def __get__(self, owner: Async, kind: Any = None) -> Callable[P, Awaitable[T]]: ...
    def __get__(self, owner: Any, kind: Any = None) -> Any:
        if owner is None:
            return self
        send = getattr(owner, "send", None) or owner.asend

        def bound(*args: P.args, **kwargs: P.kwargs) -> Any:
            return send(self.build(owner, *args, **kwargs))

        bound.__doc__ = self.__doc__
        bound.__name__ = self.__name__
        return bound


def page(limit: int, cursor: str) -> dict[str, Any]:
    """The page of a list that is wanted, as every list takes it."""
    return {"limit": limit or None, "cursor": cursor}


def entry_at(id: str, locale: str, *more: str) -> str:
    """The path of an edition, or of something of it."""
    return "/".join(("/api/entries", quote(id), quote(locale), *more))


def check(response: httpx.Response) -> httpx.Response:
    """The response, or a `Refusal` with its problem details."""
    if response.status_code < 400:
        return response
    if "json" in response.headers.get("content-type", ""):
        # What another kind of server says in JSON is none of ours.
        with suppress(ValueError):
            raise Refusal(Problem.model_validate(response.json()))
    raise Refusal(
        Problem(
            type=TYPE_BASE + "http",
            title=response.reason_phrase,
            status=response.status_code,
            detail=f"The service answered {response.status_code}.",
            remedy="Check that the address is that of a Hawthorn service.",
        )
    )


def into(model: type[M]) -> Callable[[httpx.Response], M]:
    """Reads an answer into a model."""

    def parse(response: httpx.Response) -> M:
        return model.model_validate_json(response.content)

    return parse


def plain(response: httpx.Response) -> dict[str, Any]:
    """Reads an answer that is JSON of a form of its own."""
    found: dict[str, Any] = response.json()
    return found


def nothing(_: httpx.Response) -> None:
    """Reads an answer that holds nothing."""


def once(key: str | None) -> dict[str, str]:
    """The header by which a call that is sent again is done once: a key of the caller's, or a new one."""
    return {"Idempotency-Key": key or uuid4().hex}
