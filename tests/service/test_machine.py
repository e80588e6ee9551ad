"""Random people do random things to a few pages; what must always hold is checked after every step."""

from __future__ import annotations

import contextlib
import json
import tempfile
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from hawthorn.core.errors import HawthornError
from hawthorn.messages import ENGLISH
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.views.health import health
from tests.service.made import House

PEOPLE = st.sampled_from(["ida", "oda", "wim"])
PAGES = st.integers(0, 2)
TITLES = st.sampled_from(["Lamp", "Rope", "Keel", "Bell"])


class Workflow(RuleBasedStateMachine):
    """Three pages and three people, one of whom may do everything."""

    @initialize()
    def open(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.house = House(Path(self.folder.name))
        self.pages = [self.house.page(f"Page {n}") for n in range(3)]
        self.seen: dict[int, Any] = {}

    def attempt(self, who: str, act: Any) -> None:
        """Do something that may be refused; every refusal says why and what to do."""
        refused: HawthornError | None = None
        try:
            self.house.do(who, act)
        except HawthornError as error:
            refused = error
        assert refused is None or (str(refused) and ENGLISH.remedy(refused))

    @rule(who=PEOPLE, page=PAGES)
    def look(self, who: str, page: int) -> None:
        def read(act: Act) -> entries.Base:
            row = entries.store.entry(act.conn, self.pages[page])
            assert row is not None
            return entries.current_base(act, row.id, "en")

        self.seen[page] = self.house.do(who, read)

    @rule(who=PEOPLE, page=PAGES, title=TITLES, empty=st.booleans())
    def save(self, who: str, page: int, title: str, empty: bool) -> None:
        patch = {"title": title, "body": None if empty else f"<p>{title} in words.</p>"}
        base = self.seen.get(page)
        if base is not None:
            self.attempt(who, lambda a: entries.save(a, self.pages[page], "en", patch, base))

    @rule(who=PEOPLE, page=PAGES)
    def submit(self, who: str, page: int) -> None:
        self.attempt(who, lambda a: review.submit(a, self.pages[page], "en"))

    @rule(who=PEOPLE, page=PAGES)
    def take_back(self, who: str, page: int) -> None:
        self.attempt(who, lambda a: review.take_back(a, self.pages[page], "en"))

    @rule(who=PEOPLE, page=PAGES)
    def send_back(self, who: str, page: int) -> None:
        self.attempt(who, lambda a: review.send_back(a, self.pages[page], "en", "Again, please."))

    @rule(who=PEOPLE, page=PAGES, number=st.integers(1, 6))
    def sign(self, who: str, page: int, number: int) -> None:
        self.attempt(who, lambda a: review.sign_off(a, self.pages[page], "en", number))

    @rule(who=PEOPLE, page=PAGES, verb=st.sampled_from(["release", "withdraw"]))
    def now(self, who: str, page: int, verb: str) -> None:
        self.attempt(who, lambda a: dispatches.make(a, [MoveRequest(self.pages[page], "en", verb)]))

    @rule(page=PAGES, verb=st.sampled_from(["release", "withdraw"]), seconds=st.integers(5, 60))
    def plan(self, page: int, verb: str, seconds: int) -> None:
        with contextlib.suppress(HawthornError):
            self.house.plan([self.pages[page]], seconds, verb)

    @rule(seconds=st.integers(1, 40))
    def wait(self, seconds: int) -> None:
        self.house.later(seconds)

    @invariant()
    def what_is_out_was_complete_and_signed_off_by_another_in_exactly_that_form(self) -> None:
        if not hasattr(self, "house"):
            return
        with self.house.desk.db.read() as conn:
            rows = conn.execute(
                "SELECT s.since, s.until, r.id, r.fields, r.content_hash, d.locale FROM standing s "
                "JOIN revision r ON r.id = s.revision JOIN edition d ON d.id = s.edition WHERE s.stage = 2"
            ).fetchall()
            for row in rows:
                if row["locale"] == "*":
                    continue
                fields = json.loads(row["fields"])
                assert fields.get("title")
                assert fields.get("body")
                signed = conn.execute(
                    "SELECT json ->> 'revision' AS number FROM event e JOIN event_payload p ON p.seq = e.seq "
                    "WHERE e.kind = 'review.signed' AND e.at <= ?",
                    (row["since"],),
                ).fetchall()
                number = conn.execute("SELECT number FROM revision WHERE id = ?", (row["id"],)).fetchone()[0]
                assert number in [s["number"] for s in signed]

    @invariant()
    def at_most_one_stands_at_a_stage_and_times_fit(self) -> None:
        if not hasattr(self, "house"):
            return
        with self.house.desk.db.read() as conn:
            assert not conn.execute(
                "SELECT 1 FROM standing a JOIN standing b ON b.edition = a.edition AND b.stage = a.stage AND b.id > a.id "
                "WHERE b.since < coalesce(a.until, 1 << 62) AND a.since < coalesce(b.until, 1 << 62)"
            ).fetchall()
            assert not conn.execute("SELECT 1 FROM standing WHERE until < since").fetchall()

    def teardown(self) -> None:
        if hasattr(self, "house"):
            assert self.house.desk.read(self.house.who("ida"), health) == []
            self.house.close()
            self.folder.cleanup()


Workflow.TestCase.settings = settings(
    max_examples=15, stateful_step_count=25, deadline=None, suppress_health_check=list(HealthCheck)
)
TestWorkflow = Workflow.TestCase
