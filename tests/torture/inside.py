"""Kills while a dispatch goes in which something was written: it is out and in the drafts, or it waits on its strands."""

from __future__ import annotations

import json
import random
import time
from collections import Counter
from functools import partial
from pathlib import Path

from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches, gathering, reviewing
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.runtime.act import Act
from tests.service.made import Clock, House
from tests.torture.promises import GOES, expect, killed, sound

_WHERE = (
    "SELECT (SELECT r.fields FROM standing s JOIN revision r ON r.id = s.revision WHERE s.edition = d.id AND s.stage = 2 "
    "AND s.until IS NULL), (SELECT r.fields FROM strand x JOIN revision r ON r.id = x.head WHERE x.edition = d.id "
    "AND x.name = 'draft'), (SELECT count(*) FROM strand x WHERE x.edition = d.id AND x.name <> 'draft' "
    "AND x.closed_at IS NULL) FROM entry e JOIN edition d ON d.entry = e.id AND d.locale = 'en' WHERE e.uuid = ?"
)


def inside_killed(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """Kills while what was written inside (on 30 pages, or 6 for a moment) goes, in drafts that were written meanwhile."""
    many = 30 if seconds > 30 else 6
    counted: Counter[str] = Counter()
    house = House(folder)
    pages = [house.signed(f"Page {n}") for n in range(many)]
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(p, "en") for p in pages]))
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        round = counted["kills"] + 1
        id, at = _planned(house, pages, round)
        house.close()
        printed = killed(GOES, [str(folder), str(at)], rng.uniform(0.0, many * 0.005))
        house = House(folder, Clock(at))
        done = _settled(house, id, pages, round)
        expect(done or "gone" not in printed, "a dispatch that was confirmed is lost")
        counted["killed after it went" if done else "killed before it went"] += 1
        house.later(1)
        expect(_settled(house, id, pages, round), "a dispatch did not go afterwards")
        counted["kills"] += 1
    house.close()
    sound(house.path)
    return counted


def _planned(house: House, pages: list[str], round: int) -> tuple[str, int]:
    """A dispatch in which all pages were written, signed off and planned, and when it goes."""
    id = house.do("wim", lambda a: gathering.start(a, About("Season")))

    def write(act: Act, page: str) -> str:
        return gathering.write_in(act, id, page, "en")

    for page in pages:
        strand = house.do("wim", partial(write, page=page))
        _save(house, page, strand, title=f"Inside {round}")
        _save(house, page, "draft", body=f"<p>Meanwhile {round}.</p>")
    house.do("oda", lambda a: reviewing.sign(a, id))
    at = house.clock.at + 3600 * SECOND
    house.do("ida", lambda a: dispatches.plan(a, id, When(instant=iso(at))))
    return id, at


def _save(house: House, page: str, strand: str, **fields: str) -> None:
    def do(act: Act) -> None:
        entries.save(act, page, "en", fields, entries.base_now(act, page, "en", strand), "", strand)

    house.do("wim", do)


def _settled(house: House, id: str, pages: list[str], round: int) -> bool:
    """Whether all of it went; fails where half of it did, or where a draft lost what was written there."""
    gone = house.state(id) == "gone"
    with house.desk.db.read() as conn:
        for page in pages:
            out, draft, strands = conn.execute(_WHERE, (page,)).fetchone()
            went = json.loads(out)["title"] == f"Inside {round}"
            expect(went == gone, f"the dispatch is {house.state(id)}, and a page says something else")
            inside = json.loads(draft)["title"] == f"Inside {round}"
            expect((inside, strands) == (gone, 0 if gone else 1), "what was written is nowhere, or twice")
            expect(json.loads(draft)["body"] == f"<p>Meanwhile {round}.</p>", "a draft lost its words")
    return gone
