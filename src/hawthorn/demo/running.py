"""Running the demo: service, console, public site, preview, bureau and mail catcher, on loopback."""

from __future__ import annotations

import gc
import json
import logging
import os
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, fields
from pathlib import Path
from typing import Any

import uvicorn
from rich.console import Console
from rich.table import Table

from hawthorn.core.errors import InTheWay
from hawthorn.core.sites import Site
from hawthorn.demo import accounts, museum
from hawthorn.demo.mailbox import Mailbox
from hawthorn.demo.seeding import Museum
from hawthorn.demo.site import HOUSE, Drafted
from hawthorn.demo.site import Site as PublicSite
from hawthorn.operations.runtime.act import Clock, SystemClock
from hawthorn.service.app import create_asgi, open_desk
from hawthorn.service.running import set_up_logs
from hawthorn.service.settings import Settings
from hawthorn.service.stopping import Quiet, server_for
from hawthorn.store import bureaus, definitions, webhooks
from hawthorn.store.database import Database

HOST = "127.0.0.1"


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


def _changed(ports: Ports) -> str:
    """Where the public site is told of what changed."""
    return f"{ports.url('site')}/changed"


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


class Demo:
    """All parts of the demo in one process. `folder` holds its data; seeding happens when it is empty.

    `whole` seeds the months before the story, too; `own_site` is the port where a site listens that somebody builds on this machine (by default that of Vite).
    """

    def __init__(
        self,
        folder: Path,
        doors: Doors,
        *,
        seconds_a_unit: float = 0.6,
        pause: float = 1.0,
        clock: Clock | None = None,
        own_site: int = 5173,
        whole: bool = True,
    ) -> None:
        self.folder = folder
        self.whole = whole
        self.own_site = own_site
        self.clock = clock or SystemClock()
        self.doors, ports = doors, doors.ports
        self.ports = ports
        self.keys: dict[str, Any] = self._seeded()
        self.mailbox = Mailbox()
        self.seconds_a_unit = seconds_a_unit
        self.settings = Settings(
            file=folder / "museum.sqlite",
            host=HOST,
            port=ports.service,
            site=ports.url("site"),
            public=ports.url("service"),
            smtp_host=HOST,
            smtp_port=ports.smtp,
            mail_from="hawthorn@pellgrave.example",
            provider=ports.url("accounts"),
            provider_name="Harbour accounts",
            provider_client=accounts.CLIENT,
            provider_secret=accounts.SECRET,
            provider_roles={"volunteers": ["staff"]},
            provider_makes=True,
            allow_hosts=[
                f"{HOST}:{ports.bureau}",
                f"{HOST}:{ports.site}",
                f"{HOST}:{ports.preview}",
                f"{HOST}:{own_site}",
            ],
            bureau_pause=pause,
            bureau_folders=folder / "bureaus",
            backups=folder / "backups",
            machine_url=ports.url("bureau") + "/machine",
            machine_key=self.keys.get("bureau", {}).get("key", ""),
        )
        self._servers: list[tuple[Quiet, threading.Thread]] = []

    def _seeded(self) -> dict[str, Any]:
        self.folder.mkdir(parents=True, exist_ok=True)
        kept = self.folder / "demo.json"
        if kept.exists():
            keys: dict[str, Any] = json.loads(kept.read_text("utf-8"))["keys"]
            self._move()
            return keys
        # It is made up: if the power fails meanwhile it is made up again.
        db = Database(self.folder / "museum.sqlite", waits=False)
        try:
            keys = Museum(
                db,
                self.clock.now(),
                self.ports.url("bureau"),
                self._sites(),
                _changed(self.ports),
                self.whole,
            ).seed()
        finally:
            db.close()
        kept.touch(mode=0o600)
        kept.write_text(json.dumps({"keys": keys}), "utf-8")
        return keys

    def _sites(self) -> list[dict[str, Any]]:
        """Where the museum's pages are seen. Nothing runs on the developer's own machine until somebody starts it."""
        return [
            {"name": "live", "label": HOUSE, "addresses": {"*": f"{self.ports.url('site')}/{{path}}"}},
            {
                "name": "preview",
                "label": "Preview",
                "stage": "draft",
                "addresses": {"*": f"{self.ports.url('preview')}/{{path}}"},
            },
            {
                "name": "own",
                "label": "My machine",
                "stage": "draft",
                "addresses": {"label": f"http://{HOST}:{self.own_site}/{{locale}}/labels/{{slug}}"},
            },
        ]

    def _move(self) -> None:
        """The bureau and the sites may listen elsewhere than last time."""
        db = Database(self.folder / "museum.sqlite")

        def do(conn: sqlite3.Connection) -> None:
            bureaus.move_all(conn, self.ports.url("bureau"))
            webhooks.move_all(conn, _changed(self.ports))
            made = {site["name"]: Site(**site) for site in self._sites()}
            definitions.set_sites(conn, made)

        try:
            db.write(do)
        finally:
            db.close()

    def start(self) -> None:
        """Start every part and wait until all answer."""
        self._smtp = self.mailbox.listener(self.doors.sockets["smtp"])
        self._smtp.start()
        service = self.ports.url("service")
        self._serve(self.mailbox.app(), "mail")
        self._serve(self._accounts().app(), "accounts")
        self._bureau = self._translators()
        self.desk = open_desk(self.settings, self.clock)
        app = create_asgi(self.settings, self.desk)
        self._run(server_for(app.stopping, app, HOST, self.ports.service, "error"), "service")
        live = self.ports.url("site")
        self._serve(PublicSite(service, secret=self.keys["webhook"], key=self.keys["site"]).app(), "site")
        preview = PublicSite(service, Drafted("draft", self.keys["preview"], live))
        self._serve(preview.app(), "preview")
        until = time.monotonic() + 20
        while not all(server.started for server, _ in self._servers):
            alive = all(thread.is_alive() for _, thread in self._servers) and self._bureau.poll() is None
            if time.monotonic() > until or not alive:
                self.stop()
                raise SystemExit("A part of the demo did not start; what it said above may tell why.")
            time.sleep(0.02)

    def _accounts(self) -> accounts.Accounts:
        """Everybody who works here has an account; so has a volunteer who is not known here yet."""
        known = {
            handle: accounts.Account(handle, name, f"{handle}@pellgrave.example")
            for handle, name, _, _ in museum.HOUSE.people
        }
        new = accounts.Account("petra", "Petra Sandhill", "petra@pellgrave.example", ["volunteers"])
        return accounts.Accounts(self.ports.url("accounts"), {**known, "petra": new})

    def _translators(self) -> subprocess.Popen[bytes]:
        """The bureau, as a process of its own: it shares nothing with the museum but the protocol."""
        door = self.doors.sockets["bureau"]
        os.set_inheritable(door.fileno(), True)
        given = {"door": door.fileno(), "seconds": self.seconds_a_unit, **self.keys.get("bureau", {})}
        asked = [part for name, value in given.items() for part in (f"--{name}", str(value))]
        return subprocess.Popen(
            [sys.executable, "-m", "hawthorn.demo.bureau", *asked],
            pass_fds=(door.fileno(),),
            stdin=subprocess.PIPE,
            stdout=subprocess.DEVNULL,
            start_new_session=True,
        )

    def _serve(self, app: Any, part: str) -> None:
        config = uvicorn.Config(app, log_level="error", access_log=False, timeout_graceful_shutdown=2)
        self._run(Quiet(config), part)

    def _run(self, server: Quiet, part: str) -> None:
        doors = [self.doors.sockets[part]]
        thread = threading.Thread(target=server.run, args=(doors,), name=f"demo-{part}", daemon=True)
        thread.start()
        self._servers.append((server, thread))

    def stop(self) -> None:
        """Stop every part."""
        for server, _ in reversed(self._servers):
            server.stop()
        for _, thread in self._servers:
            thread.join(40)
        # It ends when nobody holds its input any more.
        self._bureau.communicate(timeout=10)
        self.desk.db.close()
        self._smtp.stop()
        self.doors.close()


def run(port: int, keep: Path | None) -> None:
    """Run the demo until Ctrl-C."""
    set_up_logs("readable", logging.WARNING)
    console = Console(highlight=False)
    doors = Doors(port)
    folder = keep or Path(tempfile.mkdtemp(prefix="hawthorn-demo-"))
    told = _told()
    try:
        with console.status("Opening the museum…"):
            demo = Demo(folder, doors)
            demo.start()
            gc.freeze()
            gc.enable()
        _greet(console, demo, keep)
        told()
        with console.status("Closing the museum…"):
            demo.stop()
    finally:
        if keep is None:
            shutil.rmtree(folder, ignore_errors=True)
    console.print(
        "The museum is closed." + (f" Its data is in {keep}." if keep else " Nothing was left behind.")
    )


def _told() -> Callable[[], None]:
    """From now on Ctrl-C and a request to stop are kept; what it gives waits for one. Any thread may be the one that a signal
    reaches, and one that waits for a lock is not woken by that: so it writes to a socket that is read."""
    here, there = socket.socketpair()
    there.setblocking(False)
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: None)
    signal.set_wakeup_fd(there.fileno(), warn_on_full_buffer=False)

    def wait() -> None:
        here.recv(1)
        signal.set_wakeup_fd(-1)
        here.close()
        there.close()

    return wait


def _greet(console: Console, demo: Demo, keep: Path | None) -> None:
    console.print("[bold]The Pellgrave Harbour Museum is open.[/bold]\n")
    rows = (
        ("Console", "service", "write, review, plan, translate"),
        ("Public site", "site", "what readers see"),
        ("Preview site", "preview", "the same site with drafts"),
        ("Bureau", "bureau", "simulated translators"),
        ("Mail catcher", "mail", "every mail that was sent"),
        ("Accounts", "accounts", "a simulated identity provider: log in through it without a password"),
    )
    places = Table(box=None, pad_edge=False, show_header=False, padding=(0, 2, 0, 0))
    for name, part, what in rows:
        places.add_row(name, demo.ports.url(part), f"[dim]{what}[/dim]")
    console.print(places)
    console.print(f"\nLog in as one of these, with the password [bold]{museum.PASSWORD}[/bold]:\n")
    people = Table(box=None, pad_edge=False, show_header=False, padding=(0, 2, 0, 0))
    for handle, name, _, what in museum.HOUSE.people:
        people.add_row(f"[bold]{handle}[/bold]", name, f"[dim]{what}[/dim]")
    console.print(people)
    console.print(f"\nBy command line:  hawthorn log-in wim --url {demo.ports.url('service')}")
    console.print(
        f"For an assistant: {demo.ports.url('service')}/agent (Model Context Protocol), with the key {demo.keys['assistant']}",
        soft_wrap=True,
    )
    console.print(
        "Data: " + (str(keep) if keep else "kept nowhere; --keep FOLDER keeps it") + ".  Ctrl-C stops it."
    )
