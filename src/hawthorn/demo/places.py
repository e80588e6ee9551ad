"""Where the parts of the demo listen, on loopback, and where the museum's pages are seen."""

from __future__ import annotations

import socket
from dataclasses import dataclass, fields
from typing import Any

from hawthorn.core.errors import InTheWay

HOST = "127.0.0.1"
HOUSE = "Pellgrave Harbour Museum"
OWN_SITE = 5173
"""Where a site listens that somebody builds on this machine, unless told otherwise: the port of Vite."""


@dataclass(frozen=True, slots=True)
class Ports:
    """Where each part listens."""

    service: int
    site: int
    preview: int
    bureau: int
    mail: int
    smtp: int
    accounts: int

    def url(self, part: str) -> str:
        """The address of a part."""
        return f"http://{HOST}:{getattr(self, part)}"

    @property
    def changed(self) -> str:
        """Where the public site is told of what changed."""
        return f"{self.url('site')}/changed"

    def sites(self, own_site: int) -> list[dict[str, Any]]:
        """Where the museum's pages are seen. Nothing runs on the developer's own machine until somebody starts it."""
        return [
            {"name": "live", "label": HOUSE, "addresses": {"*": f"{self.url('site')}/{{path}}"}},
            {
                "name": "preview",
                "label": "Preview",
                "stage": "draft",
                "addresses": {"*": f"{self.url('preview')}/{{path}}"},
            },
            {
                "name": "own",
                "label": "My machine",
                "stage": "draft",
                "addresses": {"label": f"http://{HOST}:{own_site}/{{locale}}/labels/{{slug}}"},
            },
        ]


class Doors:
    """The sockets of all parts, from a port on or at free ones for 0: they listen from here on, so that nobody takes their place
    before the parts are there. Raises `InTheWay` for a port that is taken."""

    def __init__(self, first: int = 0) -> None:
        self.sockets: dict[str, socket.socket] = {}
        for n, part in enumerate(fields(Ports)):
            number = first + n if first else 0
            try:
                self.sockets[part.name] = socket.create_server((HOST, number))
            except OSError:
                self.close()
                raise InTheWay("running.port_taken", number=number, part=part.name) from None
        self.ports = Ports(**{name: door.getsockname()[1] for name, door in self.sockets.items()})

    def close(self) -> None:
        """Close what no part has taken over."""
        for door in self.sockets.values():
            door.close()
