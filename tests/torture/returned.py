"""Kills while a translation that came back is merged: the whole file is in, or nothing of it; and the same file again does no harm."""

from __future__ import annotations

import random
import sqlite3
import time
from collections import Counter
from pathlib import Path

from hawthorn.operations.translation import exporting, importing, sending
from hawthorn.operations.translation.orders import Order
from hawthorn.store import definitions
from tests.service.made import Clock, House
from tests.service.test_translation_machine import translated
from tests.torture.promises import expect, killed, sound

_RETURNS = """
import sys, pathlib
from tests.service.made import House, Clock
from hawthorn.operations.translation import importing
house = House(pathlib.Path(sys.argv[1]), Clock(int(sys.argv[2])))
data = pathlib.Path(sys.argv[4]).read_bytes()
print("ready", flush=True)
house.do("ida", lambda act: importing.import_file(act, sys.argv[3], data))
print("returned", flush=True)
"""
_FRENCH = "SELECT r.fields FROM revision r JOIN edition d ON d.id = r.edition AND d.locale = 'fr' JOIN entry e ON e.id = d.entry WHERE e.uuid = ?"


def returns_killed(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """Kills while a file of many entries (60, or 8 for a moment) is merged."""
    many = 60 if seconds > 30 else 8
    counted: Counter[str] = Counter()
    house = House(folder)

    def set_up(conn: sqlite3.Connection) -> None:
        definitions.add_locale(conn, "fr", "Français")
        definitions.set_setting(conn, "setup", "50")

    house.desk.db.write(set_up)
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        pages = [house.page(f"Page {counted['kills']} {n}") for n in range(many)]
        house.do("ida", lambda a, p=tuple(pages): sending.commission(a, Order(p, ("fr",))))
        with house.desk.db.read() as conn:
            job = conn.execute("SELECT uuid FROM job ORDER BY id DESC LIMIT 1").fetchone()[0]
        _, sent = house.desk.read(house.who("ida"), lambda v, j=job: exporting.export(v, j))
        file = folder / "back.xlf"
        file.write_bytes(translated(sent))
        house.close()
        printed = killed(
            _RETURNS, [str(folder), str(house.clock.at), job, str(file)], rng.uniform(0.0, many * 0.005)
        )
        house = House(folder, Clock(house.clock.at + 1))
        done = _merged(house, job, pages)
        expect(done or "returned" not in printed, "a return that was confirmed is lost")
        counted["killed after it was in" if done else "killed before it was in"] += 1
        house.do("ida", lambda a, j=job, f=file: importing.import_file(a, j, f.read_bytes()))
        expect(_merged(house, job, pages), "a file could not be returned after a kill")
        counted["kills"] += 1
    house.close()
    sound(house.path)
    return counted


def _merged(house: House, job: str, pages: list[str]) -> bool:
    """Whether all of a file is in its drafts, once; fails where half of it is."""
    with house.desk.db.read() as conn:
        state = conn.execute("SELECT state FROM job WHERE uuid = ?", (job,)).fetchone()[0]
        texts = [[row[0] for row in conn.execute(_FRENCH, (page,)).fetchall()] for page in pages]
    written = [sum("T[" in text for text in one) for one in texts]
    expect(
        written in ([0] * len(pages), [1] * len(pages)), f"half a return, or one twice: {Counter(written)}"
    )
    expect((state == "returned") == bool(written[0]), f"a job is {state}, and its texts say something else")
    return bool(written[0])
