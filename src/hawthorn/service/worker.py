"""One of several processes of a service, begun by `workers` and ended by it, or with it."""

from __future__ import annotations

import contextlib
import json
import os
import socket
import sys
import threading

from hawthorn.service import alongside
from hawthorn.service.front import Front
from hawthorn.service.running import set_up_process
from hawthorn.service.settings import Settings
from hawthorn.service.shared import Shared
from hawthorn.service.stopping import server_for


def main(door: int, memory: int) -> int:
    """Answer at a door that is open already, until told to stop or left alone."""
    wish = json.loads(sys.stdin.buffer.readline() or b"{}")
    if not wish:
        return 1
    settings = Settings.model_validate(wish["settings"])
    set_up_process(settings)
    front = Front(
        settings,
        alongside.of_worker(settings, wish["term"]),
        Shared(memory, wish["workers"], wish["number"]),
        _say_ready,
    )
    server = server_for(front, front, settings.host, settings.port, headers=settings.on_each_answer)
    front.server = server

    def until_alone() -> None:
        # Its end is that of whoever began us, however that came.
        while os.read(0, 4096):
            pass
        server.stop()

    threading.Thread(target=until_alone, name="hawthorn-left", daemon=True).start()
    server.run([socket.socket(fileno=door)])
    return 1 if server.failed else 0


def _say_ready() -> None:
    with contextlib.suppress(BrokenPipeError):
        os.write(1, b"ready\n")
    # Nobody reads what comes after that: whatever else is said goes where the log goes.
    os.dup2(2, 1)


if __name__ == "__main__":
    raise SystemExit(main(int(sys.argv[1]), int(sys.argv[2])))
