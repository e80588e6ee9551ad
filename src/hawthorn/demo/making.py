"""The demo's data is made up once, in a folder that is empty: by whoever needs it at once, or in a process of its own, which is
quicker for somebody who has the parts to load meanwhile."""

from __future__ import annotations

import gc
import json
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import asdict
from pathlib import Path
from typing import Any

from hawthorn.demo.places import OWN_SITE, Ports

FILE = "museum.sqlite"
_KEPT = "demo.json"
_UNFINISHED = "unfinished"


def keys_in(folder: Path) -> dict[str, Any] | None:
    """The keys of the demo's parts, by name, where its data is in a folder; None where it is not, or not whole."""
    kept = folder / _KEPT
    if not kept.exists() or not (folder / FILE).exists():
        return None
    keys: dict[str, Any] = json.loads(kept.read_text("utf-8"))["keys"]
    return keys


def make(
    folder: Path,
    ports: Ports,
    now: int,
    *,
    own_site: int = OWN_SITE,
    whole: bool = True,
    reached: Callable[[str], None] = lambda part: None,
) -> dict[str, Any]:
    """Make it up in a folder, as of an instant; returns the keys. `whole` makes the months before the story, too; it is told
    which part is `reached`."""
    from hawthorn.demo.seeding import Museum
    from hawthorn.store.database import Database

    _look(folder)
    # In a place of its own until it is whole, so that one that was broken off is begun again.
    unfinished = folder / _UNFINISHED
    shutil.rmtree(unfinished, ignore_errors=True)
    unfinished.mkdir(parents=True)
    db = Database(unfinished / FILE, waits=False)
    try:
        keys = Museum(
            db, now, ports.url("bureau"), ports.sites(own_site), ports.changed, whole, reached
        ).seed()
    finally:
        db.close()
    kept = folder / _KEPT
    kept.touch(mode=0o600)
    kept.write_text(json.dumps({"keys": keys}), "utf-8")
    # The record file comes last: with it all is there.
    for beside in sorted(unfinished.iterdir(), key=lambda file: file.name == FILE):
        beside.rename(folder / beside.name)
    unfinished.rmdir()
    return keys


def _look(folder: Path) -> None:
    """Raises `SystemExit` where something else has the name of its file."""
    if (folder / FILE).exists():
        raise SystemExit(f"{folder / FILE} is there already, and is not the demo's: name another folder.")


class Made:
    """It is being made up in a process of its own, from here on."""

    def __init__(self, folder: Path, ports: Ports) -> None:
        _look(folder)
        self._folder = folder
        given = {"folder": str(folder), "ports": asdict(ports)}
        # Ctrl-C is for whoever began it.
        self._process = subprocess.Popen(
            [sys.executable, "-m", "hawthorn.demo.making", json.dumps(given)],
            stdout=subprocess.PIPE,
            text=True,
            start_new_session=True,
        )

    def reached(self) -> Iterator[str]:
        """Each part as it is reached, until all is there. Raises `SystemExit` where it cannot be made."""
        for line in self._process.stdout or ():
            yield line.rstrip("\n")
        if self._process.wait():
            raise SystemExit("The museum could not be made up; what was said above may tell why.")

    def stop(self) -> None:
        """Do not go on, where not all is there yet."""
        self._process.kill()
        self._process.communicate()
        shutil.rmtree(self._folder / _UNFINISHED, ignore_errors=True)


def main(given: str) -> None:
    """Make it up as somebody asked who waits; each part is said that is reached."""
    # What is loaded and made stays until it is done: there is nothing to collect.
    gc.disable()
    from hawthorn.operations.runtime.act import SystemClock

    asked = json.loads(given)
    # Nobody reads any more where whoever waited was killed.
    with suppress(BrokenPipeError):
        make(
            Path(asked["folder"]),
            Ports(**asked["ports"]),
            SystemClock().now(),
            reached=lambda part: print(part, flush=True),
        )


if __name__ == "__main__":
    main(sys.argv[1])
