"""Kills while jobs are carried to a bureau and back: each is there once, comes back once, and every question is asked once."""

from __future__ import annotations

import random
import time
from collections import Counter
from pathlib import Path

from hawthorn.followers.carrier import Carrier
from hawthorn.operations.translation import bureaus, questions, sending
from hawthorn.operations.translation.bureaus import BureauDetails
from hawthorn.operations.translation.orders import Order
from hawthorn.store import definitions, outbox
from hawthorn.store import questions as question_store
from tests.followers.partners import Translators, translators
from tests.followers.test_followers import Options
from tests.service.made import Clock, House
from tests.torture.promises import expect, killed, sound

_CARRIES = """
import sys, pathlib
from tests.service.made import House, Clock
from tests.followers.test_followers import Options
from hawthorn.core.timeline import SECOND
from hawthorn.followers.carrier import Carrier
house = House(pathlib.Path(sys.argv[1]), Clock(int(sys.argv[3])))
carrier = Carrier(house.desk, Options(allow_hosts=[sys.argv[2]]))
print("ready", flush=True)
for _ in range(200):
    carrier.step(sys.argv[3])
    house.clock.at += SECOND
"""
_TROUBLES = ("", "", "twice", "ask", "forget", "garbage")
_BODY = "<p>The lamp burned.</p><p>It was lit at dusk.</p><p>Boats came in.</p>"


def carried_killed(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """Kills between any two calls and writes: in the end all is translated, in as many revisions as there were parts."""
    counted: Counter[str] = Counter()
    house = House(folder)
    until = time.monotonic() + seconds
    with translators(0.001) as outside:
        house.desk.db.write(lambda c: definitions.add_locale(c, "fr", "Français"))
        house.desk.db.write(lambda c: definitions.set_setting(c, "setup", "50"))
        details = BureauDetails("Salt", outside.url, {"fr": "fr-FR"}, outside.key, secret=outside.secret)
        house.do("ida", lambda a: bureaus.add(a, details))
        while time.monotonic() < until or not counted["kills"]:
            outside.order(rng.choice(_TROUBLES) or "twice")
            for _ in range(3):
                page = house.page(f"Page {counted['jobs']}", body=_BODY)
                house.do("ida", lambda a, p=page: sending.commission(a, Order((p,), ("fr",), bureau="Salt")))
                counted["jobs"] += 1
            house.clock.at += outbox.CLAIM
            at = house.clock.at
            house.close()
            killed(_CARRIES, [str(folder), outside.host, str(at)], rng.uniform(0.0, 0.4))
            house = House(folder, Clock(at + 3 * outbox.CLAIM))
            counted["kills"] += 1
        _to_the_end(house, outside)
    _judged(house, counted)
    house.close()
    sound(house.path)
    return counted


def _to_the_end(house: House, outside: Translators) -> None:
    """Carry until nothing is open; what is asked is answered."""
    carrier = Carrier(house.desk, Options(allow_hosts=[outside.host]))
    for _ in range(400):
        carrier.step("last")
        house.clock.at += outbox.CLAIM
        with house.desk.db.read() as conn:
            open = conn.execute(
                "SELECT id, uuid FROM job WHERE state NOT IN ('returned', 'failed')"
            ).fetchall()
            asked = [
                (row[1], q.id) for row in open for q in question_store.of_job(conn, row[0]) if not q.answer
            ]
        for uuid, id in asked:
            house.do("ida", lambda a, u=uuid, i=id: questions.answer(a, u, i, "A name."))
        if not open:
            break
        time.sleep(0.005)
    carrier.close()


def _judged(house: House, counted: Counter[str]) -> None:
    with house.desk.db.read() as conn:
        states = Counter(row[0] for row in conn.execute("SELECT state FROM job"))
        revised = [
            row[0]
            for row in conn.execute(
                "SELECT count(*) FROM revision r JOIN edition e ON e.id = r.edition WHERE e.locale = 'fr' GROUP BY e.id"
            )
        ]
        asked = [row[0] for row in conn.execute("SELECT count(*) FROM job_question GROUP BY job")]
        counted["questions"] = sum(asked)
    expect(states == {"returned": counted["jobs"]}, f"of {counted['jobs']} jobs: {dict(states)}")
    expect(
        len(revised) == counted["jobs"] and max(revised) <= 2, f"parts were taken more than once: {revised}"
    )
    expect(max(asked, default=1) == 1, "a question was asked twice")
