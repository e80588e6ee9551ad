"""Running the demo until Ctrl-C: its data is made up in a process of its own while its parts are loaded in this one."""

from __future__ import annotations

import gc
import logging
import select
import shutil
import signal
import socket
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

from rich.console import Console

from hawthorn.demo import making
from hawthorn.demo.places import Doors

if TYPE_CHECKING:
    from hawthorn.demo.parts import Demo


def run(port: int, keep: Path | None) -> None:
    """Run the demo until Ctrl-C. Raises `InTheWay` for a port that is taken, `ModuleNotFoundError` where something is missing that
    only the demo needs."""
    console = Console(highlight=False)
    doors = Doors(port)
    folder = keep or Path(tempfile.mkdtemp(prefix="hawthorn-demo-"))
    told = _Told()
    try:
        demo = _opened(console, folder, doors, told)
        if demo is not None:
            _greet(console, demo, keep)
            told.wait()
            with console.status("Closing the museum…"):
                demo.stop()
    finally:
        told.close()
        doors.close()
        if keep is None:
            shutil.rmtree(folder, ignore_errors=True)
    stays = keep is not None and making.keys_in(keep) is not None
    console.print(
        "The museum is closed." + (f" Its data is in {keep}." if stays else " Nothing was left behind.")
    )


def _opened(console: Console, folder: Path, doors: Doors, told: _Told) -> Demo | None:
    """The demo, open; None where it was told to stop before its data was there."""
    # What is loaded stays: there is nothing to collect until the museum is open, and looking for it takes a second of ten.
    gc.disable()
    with console.status("Opening the museum…") as status:
        made = making.Made(folder, doors.ports) if making.keys_in(folder) is None else None
        try:
            from hawthorn.demo.parts import Demo
            from hawthorn.service.running import set_up_logs

            for part in made.reached() if made else ():
                status.update(f"Opening the museum: {part}…")
                if told.already():
                    return None
        finally:
            if made:
                made.stop()
        set_up_logs("readable", logging.WARNING)
        demo = Demo(folder, doors)
        demo.start()
    gc.freeze()
    gc.enable()
    return demo


class _Told:
    """From now on Ctrl-C and a request to stop are kept. Any thread may be the one that a signal reaches, and one that waits
    for a lock is not woken by that: so it writes to a socket that is read."""

    def __init__(self) -> None:
        self._here, self._there = socket.socketpair()
        self._there.setblocking(False)
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, lambda *_: None)
        signal.set_wakeup_fd(self._there.fileno(), warn_on_full_buffer=False)

    def already(self) -> bool:
        """Whether it was told to stop."""
        return bool(select.select([self._here], [], [], 0)[0])

    def wait(self) -> None:
        """Wait until it is told to stop."""
        self._here.recv(1)

    def close(self) -> None:
        """Keep no more of them."""
        signal.set_wakeup_fd(-1)
        self._here.close()
        self._there.close()


def _greet(console: Console, demo: Demo, keep: Path | None) -> None:
    from rich.table import Table

    from hawthorn.demo import museum

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
