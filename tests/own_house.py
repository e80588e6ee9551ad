"""A house of one's own: the service as a program on an empty file, with a mail catcher and a bureau that asks for its key."""

from __future__ import annotations

import os
import re
import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import uvicorn

from hawthorn.demo.bureau import Bureau
from hawthorn.demo.mailbox import Mailbox
from tests.conftest import eventually, free_port
from tests.service.test_first_run import printed, started

KEY = "saltmarsh-key"


@dataclass
class OwnHouse:
    """What stands around the service."""

    url: str
    begin: str
    bureau: str
    mailbox: Mailbox
    desk: Bureau

    @property
    def locales(self) -> set[str]:
        """The target locales that jobs arrived in, as the bureau calls them."""
        return {job.order.target for job in self.desk.jobs.values()}

    def mailed(self, to: str) -> str:
        """The address in the newest mail to somebody."""
        body = str(
            eventually(lambda: next((m["body"] for m in reversed(self.mailbox.mails) if to in m["to"]), ""))
        )
        found = re.search(r"http\S+", body)
        assert found
        return found[0]


@contextmanager
def own_house(folder: Path) -> Iterator[OwnHouse]:
    """Start all of it; the service has printed the address of its first person."""
    mailbox, port = Mailbox(), free_port()
    door = socket.create_server(("127.0.0.1", 0))
    bureau = Bureau(0.01, KEY)
    listener = mailbox.listener(door)
    listener.start()
    server = uvicorn.Server(uvicorn.Config(bureau.app(), host="127.0.0.1", port=port, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    settings = {
        "HAWTHORN_SMTP_HOST": "127.0.0.1",
        "HAWTHORN_SMTP_PORT": str(door.getsockname()[1]),
        "HAWTHORN_BUREAU_PAUSE": "0.1",
        "HAWTHORN_ALLOW_HOSTS": '["127.0.0.1"]',
    }
    before = {name: os.environ.get(name) for name in settings}
    os.environ |= settings
    try:
        eventually(lambda: server.started)
        with started(folder / "house.sqlite") as (url, said):
            address = str(eventually(lambda: printed(said)))
            yield OwnHouse(url, address, f"http://127.0.0.1:{port}/", mailbox, bureau)
    finally:
        for name, value in before.items():
            if value is None:
                os.environ.pop(name, None)
            else:
                os.environ[name] = value
        server.should_exit = True
        thread.join(10)
        listener.stop()
