"""Makes the file that `test_earlier.py` keeps of a version: run by the program of its time, before the next migration comes.

    PYTHONPATH=src:. python -m tests.store.make_earlier FOLDER

puts FOLDER/NNN.sqlite there, named after the newest migration; it goes into `earlier.tar.xz` beside the others.
"""

from __future__ import annotations

import sqlite3
import sys
import tempfile
from pathlib import Path

from hawthorn.operations.collaboration import comments
from hawthorn.operations.content import entries, strands
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.translation import sending
from hawthorn.operations.translation.orders import Order
from hawthorn.store import migrate
from tests.service.made import START, Clock, House


def make(goal: Path) -> None:
    """A small house as one of this version leaves it: pages in draft, waiting, planned and out, a comment, a strand, a job."""
    with tempfile.TemporaryDirectory() as folder:
        house = House(Path(folder), Clock(START))
        house.speaks(fr="Français")
        lamp = house.page("Harbour lamp")

        def save(act: Act) -> None:
            row = act.conn.execute("SELECT id FROM entry WHERE uuid = ?", (lamp,)).fetchone()[0]
            base = entries.current_base(act, row, "en")
            entries.save(act, lamp, "en", {"body": "<p>Polished brass.</p>"}, base)

        house.do("wim", save)
        out = house.signed("Signed anchor")
        house.do("ida", lambda act: dispatches.make(act, [MoveRequest(out, "en")]))
        house.plan([house.signed("Planned bell")], 3600)
        waiting = house.page("Waiting knot")
        house.do("wim", lambda act: review.submit(act, waiting, "en"))
        house.do("oda", lambda act: comments.make(act, lamp, "en", "Is this so?", "body"))
        house.do("ida", lambda act: sending.commission(act, Order((out,), ("fr",))))
        house.do("wim", lambda act: strands.fork(act, lamp, "en", "beside"))
        house.close()
        conn = sqlite3.connect(house.path)
        conn.execute("VACUUM INTO ?", (str(goal),))
        conn.close()


if __name__ == "__main__":
    make(Path(sys.argv[1]) / f"{migrate.steps()[-1].number:03}.sqlite")
