"""The parts of the demo in one process: service, console, public site, preview, bureau and mail catcher, on loopback."""

from __future__ import annotations

import socket
import sqlite3
import subprocess
import sys
import threading
import time
from pathlib import Path
from typing import Any, NoReturn

import uvicorn

from hawthorn.core.sites import Site
from hawthorn.demo import accounts, making, museum
from hawthorn.demo.mailbox import Mailbox
from hawthorn.demo.places import HOST, OWN_SITE, Doors
from hawthorn.demo.site import Drafted
from hawthorn.demo.site import Site as PublicSite
from hawthorn.operations.runtime.act import Clock, SystemClock
from hawthorn.service.app import create_asgi, open_desk
from hawthorn.service.quiet import Quiet
from hawthorn.service.settings import Settings
from hawthorn.service.stopping import server_for
from hawthorn.store import bureaus, definitions, webhooks
from hawthorn.store.database import Database


class Demo:
    """All parts of the demo in one process. `folder` holds its data, which is made up where it is not there.

    `whole` makes the months before the story, too; `own_site` is the port where a site listens that somebody builds on this machine.
    """

    def __init__(
        self,
        folder: Path,
        doors: Doors,
        *,
        seconds_a_unit: float = 0.6,
        pause: float = 1.0,
        clock: Clock | None = None,
        own_site: int = OWN_SITE,
        whole: bool = True,
    ) -> None:
        self.folder = folder
        self.whole = whole
        self.own_site = own_site
        self.clock = clock or SystemClock()
        self.doors, ports = doors, doors.ports
        self.ports = ports
        self.keys = self._keys()
        self.mailbox = Mailbox()
        self.seconds_a_unit = seconds_a_unit
        self.settings = Settings(
            file=folder / making.FILE,
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

    def _keys(self) -> dict[str, Any]:
        """As its data has them; that is made up here where it is not there. The bureau and the sites may listen elsewhere than when it was."""
        known = making.keys_in(self.folder)
        if known is None:
            return making.make(
                self.folder, self.ports, self.clock.now(), own_site=self.own_site, whole=self.whole
            )
        db = Database(self.folder / making.FILE)

        def do(conn: sqlite3.Connection) -> None:
            bureaus.move_all(conn, self.ports.url("bureau"))
            webhooks.move_all(conn, self.ports.changed)
            made = {site["name"]: Site(**site) for site in self.ports.sites(self.own_site)}
            definitions.set_sites(conn, made)

        try:
            db.write(do)
        finally:
            db.close()
        return known

    def start(self) -> None:
        """Start every part and wait until all answer."""
        self._smtp = self.mailbox.listener(self.doors.sockets["smtp"])
        self._smtp.start()
        service = self.ports.url("service")
        self._bureau = begun(self.doors.sockets["bureau"], self.seconds_a_unit, **self.keys.get("bureau", {}))
        self.desk = open_desk(self.settings, self.clock)
        app = create_asgi(self.settings, self.desk)
        # Made before any of them runs, as this sets up what is logged.
        server = server_for(app.stopping, app, HOST, self.ports.service, "error")
        self._serve(self.mailbox.app(), "mail")
        self._serve(self._accounts().app(), "accounts")
        self._run(server, "service")
        live = self.ports.url("site")
        self._serve(PublicSite(service, secret=self.keys["webhook"], key=self.keys["site"]).app(), "site")
        preview = PublicSite(service, Drafted("draft", self.keys["preview"], live))
        self._serve(preview.app(), "preview")
        until = time.monotonic() + 20
        while not all(server.started for server, _ in self._servers):
            alive = all(thread.is_alive() for _, thread in self._servers) and self._bureau.poll() is None
            if time.monotonic() > until or not alive:
                self._not_started()
            time.sleep(0.02)
        # Until it says where it is, it may still fail; and whoever calls waits for nothing, as its socket listens all along.
        if not where(self._bureau):
            self._not_started()

    def _not_started(self) -> NoReturn:
        self.stop()
        raise SystemExit("A part of the demo did not start; what it said above may tell why.")

    def _accounts(self) -> accounts.Accounts:
        """Everybody who works here has an account; so has a volunteer who is not known here yet."""
        known = {
            handle: accounts.Account(handle, name, f"{handle}@pellgrave.example")
            for handle, name, _, _ in museum.HOUSE.people
        }
        new = accounts.Account("petra", "Petra Sandhill", "petra@pellgrave.example", ["volunteers"])
        return accounts.Accounts(self.ports.url("accounts"), {**known, "petra": new})

    def _serve(self, app: Any, part: str) -> None:
        config = uvicorn.Config(
            app, log_config=None, log_level="error", access_log=False, timeout_graceful_shutdown=2
        )
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


def begun(door: socket.socket, seconds: float, key: str = "", secret: str = "") -> subprocess.Popen[bytes]:
    """The bureau, begun as a process of its own behind a socket that listens: it shares nothing with the museum but the protocol. It says
    where it is on its output once it is there, and ends when its input does."""
    given = {"door": door.fileno(), "seconds": seconds, "key": key, "secret": secret}
    # Each as one word: a key may begin with a hyphen, and would be taken for an option of its own.
    asked = [f"--{name}={value}" for name, value in given.items()]
    return subprocess.Popen(
        [sys.executable, "-m", "hawthorn.demo.bureau", *asked],
        pass_fds=(door.fileno(),),
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        start_new_session=True,
    )


def where(bureau: subprocess.Popen[bytes]) -> str:
    """The address of a bureau, once it is there; empty where it ended instead."""
    assert bureau.stdout is not None
    return bureau.stdout.readline().decode().strip()
