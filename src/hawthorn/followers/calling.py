"""What followers share that call addresses outside: one client each, made when it is first needed, within what the settings allow."""

from __future__ import annotations

from typing import ClassVar

import httpx

from hawthorn.followers import outgoing
from hawthorn.followers.base import Follower
from hawthorn.followers.options import Options
from hawthorn.operations.runtime.act import Desk


class Calling(Follower):
    """A follower that calls addresses outside."""

    timeout: ClassVar[float] = 15.0
    """Seconds that an answer may be waited for."""

    def __init__(self, desk: Desk, options: Options) -> None:
        super().__init__(desk, options)
        self._http: httpx.Client | None = None

    @property
    def http(self) -> httpx.Client:
        """The client with which it calls."""
        if self._http is None:
            self._http = outgoing.caller(self.options.allow_hosts, self.timeout)
        return self._http

    def close(self) -> None:
        """Close the connections."""
        if self._http is not None:
            self._http.close()
            self._http = None
