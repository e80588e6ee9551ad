"""The two senders: `Client` sends at once, `AsyncClient` when awaited."""

from __future__ import annotations

import ssl
from collections.abc import Mapping
from functools import cache
from types import TracebackType
from typing import Any, TypeVar

import httpx

from hawthorn.client.calls import Calls
from hawthorn.client.errors import Unreachable
from hawthorn.client.requests import Arriving, AsyncParts, Parts, Request, check

T = TypeVar("T")
_SAFE = ("GET", "HEAD")
"""What may be asked again where a connection, kept from before, was closed in that very moment (RFC 9110, section 9.2.2)."""


@cache
def _trusted() -> ssl.SSLContext:
    """Whom to trust; reading who they are takes longer than most calls, and is done once for all clients."""
    return httpx.create_ssl_context()


def _options(url: str, key: str, timeout: float, language: str) -> dict[str, Any]:
    headers = {"Authorization": f"Bearer {key}"} if key else {}
    return {
        "base_url": url.rstrip("/"),
        "headers": {**headers, "Accept-Language": language} if language else headers,
        "timeout": timeout,
        "follow_redirects": True,
        "verify": _trusted(),
    }


def _unreachable(url: str, error: Exception) -> Unreachable:
    return Unreachable(url, str(error) or type(error).__name__)


def _go_on(http: httpx.Client | httpx.AsyncClient, session: Any) -> None:
    """Act as the one whose session was opened."""
    http.headers["Authorization"] = f"Bearer {session.token}"
    http.cookies.clear()


class Client(Calls):
    """A client of a Hawthorn service. `key` is a session's token or a key's secret; `language` (BCP 47) is what it answers in.

    >>> with Client("http://127.0.0.1:8400") as hawthorn:
    ...     hawthorn.log_in("ida", "…")
    ...     hawthorn.my_work()
    """

    def __init__(self, url: str, key: str = "", *, timeout: float = 60.0, language: str = "") -> None:
        self.url = url
        self._http = httpx.Client(**_options(url, key, timeout, language))

    def send(self, request: Request[T]) -> T:
        """Send a call and read its answer; raises `Refusal` or `Unreachable`."""
        try:
            if request.goal is not None:
                return self._fetch(request, Arriving(request.goal, request.told))
            try:
                found = self._http.request(**request.arguments(Parts))
            except httpx.RemoteProtocolError:
                if request.method not in _SAFE:
                    raise
                found = self._http.request(**request.arguments(Parts))
            answer = request.parse(check(found))
        except httpx.TransportError as error:
            raise _unreachable(self.url, error) from error
        if request.logs_in:
            _go_on(self._http, answer)
        return answer

    def _fetch(self, request: Request[T], arriving: Arriving) -> T:
        asked = request.arguments(Parts)
        with self._http.stream(**{**asked, "headers": {**asked["headers"], **arriving.headers}}) as found:
            if found.status_code == 416:
                arriving.again()
            elif found.status_code >= 400:
                found.read()
            if found.status_code != 416:
                check(found)
                with arriving.begin(found) as file:
                    for part in found.iter_bytes():
                        file.write(part)
                        arriving.came(len(part))
                arriving.end()
                return request.parse(found)
        return self._fetch(request, arriving)

    def close(self) -> None:
        """Close the connections."""
        self._http.close()

    def __enter__(self) -> Client:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()


class AsyncClient(Calls):
    """The same calls, awaited. `headers` go with each of them; a `transport` is what carries them, in place of the network."""

    def __init__(
        self,
        url: str,
        key: str = "",
        *,
        timeout: float = 60.0,
        language: str = "",
        headers: Mapping[str, str] = {},
        transport: httpx.AsyncBaseTransport | None = None,
    ) -> None:
        self.url = url
        self._http = httpx.AsyncClient(**_options(url, key, timeout, language), transport=transport)
        self._http.headers.update(headers)

    async def asend(self, request: Request[T]) -> T:
        """Send a call and read its answer; raises `Refusal` or `Unreachable`."""
        try:
            if request.goal is not None:
                return await self._fetch(request, Arriving(request.goal, request.told))
            try:
                found = await self._http.request(**request.arguments(AsyncParts))
            except httpx.RemoteProtocolError:
                if request.method not in _SAFE:
                    raise
                found = await self._http.request(**request.arguments(AsyncParts))
            answer = request.parse(check(found))
        except httpx.TransportError as error:
            raise _unreachable(self.url, error) from error
        if request.logs_in:
            _go_on(self._http, answer)
        return answer

    async def _fetch(self, request: Request[T], arriving: Arriving) -> T:
        asked = request.arguments(AsyncParts)
        async with self._http.stream(
            **{**asked, "headers": {**asked["headers"], **arriving.headers}}
        ) as found:
            if found.status_code == 416:
                arriving.again()
            elif found.status_code >= 400:
                await found.aread()
            if found.status_code != 416:
                check(found)
                with arriving.begin(found) as file:
                    async for part in found.aiter_bytes():
                        file.write(part)
                        arriving.came(len(part))
                arriving.end()
                return request.parse(found)
        return await self._fetch(request, arriving)

    async def aclose(self) -> None:
        """Close the connections."""
        await self._http.aclose()

    async def __aenter__(self) -> AsyncClient:
        return self

    async def __aexit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        await self.aclose()
