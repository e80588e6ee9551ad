"""Kills while receivers are told of what went out: nothing is left out, and what is sent again is the same under the same id."""

from __future__ import annotations

import random
import threading
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

from hawthorn.followers.webhooks import Webhooks
from hawthorn.operations.delivery import webhooks
from hawthorn.operations.delivery.webhooks import Wanted
from hawthorn.operations.release.dispatches import make
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.store import outbox
from tests.followers.test_followers import Options
from tests.service.made import Clock, House
from tests.torture.promises import expect, killed, sound

_TELLS = """
import sys, pathlib
from tests.service.made import House, Clock
from tests.followers.test_followers import Options
from hawthorn.followers.webhooks import Webhooks
house = House(pathlib.Path(sys.argv[1]), Clock(int(sys.argv[3])))
print("ready", flush=True)
Webhooks(house.desk, Options(allow_hosts=[f"127.0.0.1:{sys.argv[2]}"])).step(sys.argv[3])
"""


@dataclass
class Receiver:
    """A receiver on loopback that notes what it is told, and refuses now and then."""

    rng: random.Random
    told: list[tuple[str, bytes]] = field(default_factory=list)

    @contextmanager
    def running(self) -> Iterator[int]:
        """The port at which it listens."""
        receiver = self

        class Takes(BaseHTTPRequestHandler):
            def do_POST(self) -> None:
                body = self.rfile.read(int(self.headers["content-length"]))
                fine = receiver.rng.random() < 0.9
                if fine:
                    receiver.told.append((self.headers["webhook-id"], body))
                time.sleep(0.005)
                self.send_response(204 if fine else 503)
                self.end_headers()

            def log_message(self, *_: object) -> None:
                """Say nothing."""

        server = ThreadingHTTPServer(("127.0.0.1", 0), Takes)
        thread = threading.Thread(target=server.serve_forever, daemon=True)
        thread.start()
        try:
            yield server.server_address[1]
        finally:
            server.shutdown()
            server.server_close()
            thread.join()


def webhooks_killed(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """Kills while a receiver is told: every event arrives, in the same bytes; one twice only where a kill fell in between."""
    counted: Counter[str] = Counter()
    house = House(folder)
    receiver = Receiver(rng)
    until = time.monotonic() + seconds
    with receiver.running() as port:
        wanted = Wanted("Receiver", f"http://127.0.0.1:{port}/told")
        house.do("ida", lambda a: webhooks.add(a, wanted))
        while time.monotonic() < until or not counted["kills"]:
            pages = [house.signed(f"Page {counted['kills']}-{n}") for n in range(4)]
            for page in pages:
                house.do("ida", lambda a, p=page: make(a, [MoveRequest(p, "en")]))
            counted["events"] += len(pages)
            house.clock.at += outbox.CLAIM
            at = house.clock.at
            house.close()
            killed(_TELLS, [str(folder), str(port), str(at)], rng.uniform(0.0, 0.15))
            house = House(folder, Clock(at + outbox.CLAIM + outbox.LEASE))
            counted["kills"] += 1
        options = Options(allow_hosts=[f"127.0.0.1:{port}"])
        for _ in range(400):
            Webhooks(house.desk, options).step("last")
            house.clock.at += outbox.CLAIM
            with house.desk.db.read() as conn:
                if not conn.execute("SELECT 1 FROM outbox WHERE state = 'waiting' LIMIT 1").fetchone():
                    break
    ids = Counter(id for id, _ in receiver.told)
    expect(len(ids) == counted["events"], f"{counted['events'] - len(ids)} events never arrived")
    expect(len(set(receiver.told)) == len(ids), "what was sent again was not the same")
    twice = sum(n - 1 for n in ids.values())
    expect(twice <= counted["kills"], f"{twice} events went twice in {counted['kills']} kills")
    counted["sent again after a kill"] = twice
    house.close()
    sound(house.path)
    return counted
