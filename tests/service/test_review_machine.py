"""Random people do random things on a long workflow that itself changes; gates, sign-offs and the log are then read again.

What must hold is worked out here from the event log and the revisions alone, not by the code that decided it.
"""

from __future__ import annotations

import json
import sqlite3
import tempfile
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from hawthorn.core.errors import HawthornError
from hawthorn.messages import ENGLISH
from hawthorn.operations.access import people
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches, overriding, review, workflows
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.views.health import health
from tests.service.made import House

PEOPLE = st.sampled_from(["ida", "oda", "rhea", "wim"])
PAGES = st.integers(0, 1)
STAGES = st.sampled_from(["review", "facts", "release"])
DRAFT = {"name": "draft"}
REVIEW = {"name": "review", "gate": {"checks": ["required"]}}
BOARD = {"name": "board", "holds": "size(title) <= 20", "says": "The title is longer than the board."}


def _flow(author: str, facts: bool, two: bool) -> dict[str, Any]:
    mid = {
        "name": "facts",
        "gate": {"sign_offs": 1, "roles": ["section-editor", "managing-editor"], "author": author},
    }
    last = {
        "name": "release",
        "gate": {
            "sign_offs": 2 if two else 1,
            "author": author,
            "checks": ["required"],
            "custom": [BOARD],
            "override_roles": ["managing-editor"],
        },
    }
    return {"name": "standard", "label": "Long", "stages": [DRAFT, REVIEW, *([mid] if facts else []), last]}


FLOWS = [
    _flow("no", True, False),
    _flow("with another", True, True),
    _flow("yes", False, False),
    _flow("no", False, True),
]


class Gates(RuleBasedStateMachine):
    """Two pages, four people with different roles, and whoever sets up workflows."""

    @initialize()
    def open(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.house = House(Path(self.folder.name))
        self.house.by_scheduler(
            lambda a: people.add_person(a, "rhea", "Rhea", "", "long enough", [{"name": "reviewer"}])
        )
        self.house.do("ida", lambda a: workflows.define(a, FLOWS[0]))
        self.pages = [self.house.page(f"Page {n}") for n in range(2)]
        self.checked = 0

    def attempt(self, who: str, act: Any) -> None:
        refused: HawthornError | None = None
        try:
            self.house.do(who, act)
        except HawthornError as error:
            refused = error
        assert refused is None or (str(refused) and ENGLISH.remedy(refused)), refused

    @rule(
        who=PEOPLE,
        page=PAGES,
        title=st.sampled_from(["Lamp", "Rope", "A title for the longest board"]),
        empty=st.booleans(),
    )
    def save(self, who: str, page: int, title: str, empty: bool) -> None:
        def do(act: Act) -> None:
            row = entries.store.entry(act.conn, self.pages[page])
            assert row is not None
            patch = {"title": title, "body": None if empty else f"<p>{title} by {who}.</p>"}
            entries.save(act, self.pages[page], "en", patch, entries.current_base(act, row.id, "en"))

        self.attempt(who, do)

    @rule(who=PEOPLE, page=PAGES)
    def submit(self, who: str, page: int) -> None:
        self.attempt(who, lambda a: review.submit(a, self.pages[page], "en"))

    @rule(who=PEOPLE, page=PAGES)
    def take_back(self, who: str, page: int) -> None:
        self.attempt(who, lambda a: review.take_back(a, self.pages[page], "en"))

    @rule(who=PEOPLE, page=PAGES)
    def send_back(self, who: str, page: int) -> None:
        self.attempt(who, lambda a: review.send_back(a, self.pages[page], "en", "Again, please."))

    @rule(who=PEOPLE, page=PAGES, off=st.integers(0, 1))
    def sign(self, who: str, page: int, off: int) -> None:
        def do(act: Act) -> None:
            row = entries.store.entry(act.conn, self.pages[page])
            assert row is not None
            edition = entries.store.edition(act.conn, row.id, "en")
            assert edition is not None
            waiting = review.reviews.latest(act.conn, edition.id)
            number = waiting.number if waiting is not None else 1
            review.sign_off(act, self.pages[page], "en", number + off)

        self.attempt(who, do)

    @rule(who=PEOPLE, page=PAGES)
    def move_on(self, who: str, page: int) -> None:
        self.attempt(who, lambda a: review.move_on(a, self.pages[page], "en"))

    @rule(page=PAGES, writer=PEOPLE, first=PEOPLE, second=PEOPLE, steps=st.integers(3, 6))
    def as_a_rule(self, page: int, writer: str, first: str, second: str, steps: int) -> None:
        """What people mostly do, some way along; who does it is left to chance."""
        acts: list[tuple[str, Any]] = [
            (writer, lambda: self.save(writer, page, "Lamp", False)),
            (writer, lambda: self.submit(writer, page)),
            (first, lambda: self.sign(first, page, 0)),
            (second, lambda: self.sign(second, page, 0)),
            ("rhea", lambda: self.sign("rhea", page, 0)),
            ("ida", lambda: self.now("ida", page, "release")),
        ]
        for _, do in acts[-steps:] if steps < 4 else acts[:steps]:
            do()

    @rule(who=st.sampled_from(["ida", "oda"]), page=PAGES, stage=STAGES, number=st.integers(1, 4))
    def let_through(self, who: str, page: int, stage: str, number: int) -> None:
        self.attempt(
            who, lambda a: overriding.override(a, self.pages[page], "en", stage, number, "It is urgent.")
        )

    @rule(who=PEOPLE, page=PAGES, verb=st.sampled_from(["release", "withdraw"]))
    def now(self, who: str, page: int, verb: str) -> None:
        self.attempt(who, lambda a: dispatches.make(a, [MoveRequest(self.pages[page], "en", verb)]))

    @rule(page=PAGES, seconds=st.integers(5, 40))
    def plan(self, page: int, seconds: int) -> None:
        self.attempt(
            "ida", lambda a: dispatches.make(a, [MoveRequest(self.pages[page], "en")], _in(a, seconds))
        )

    @rule(seconds=st.integers(1, 30))
    def wait(self, seconds: int) -> None:
        self.house.later(seconds)

    @rule(who=PEOPLE, which=st.integers(0, len(FLOWS) - 1))
    def change(self, who: str, which: int) -> None:
        self.attempt(who, lambda a: workflows.define(a, FLOWS[which]))

    @invariant()
    def every_standing_satisfied_the_gates_in_force_and_every_sign_off_was_one_that_counts(self) -> None:
        if not hasattr(self, "house"):
            return
        with self.house.desk.db.read() as conn:
            story = Story(conn)
            for seq in range(self.checked + 1, story.last + 1):
                story.check(seq)
            self.checked = story.last

    @invariant()
    def the_log_alone_rebuilds_what_stands(self) -> None:
        if not hasattr(self, "house"):
            return
        with self.house.desk.db.read() as conn:
            there: dict[tuple[int, int], int] = {}
            for (text,) in conn.execute("SELECT json FROM event_payload ORDER BY seq").fetchall():
                for edition, stage, revision in json.loads(text).get("stood", ()):
                    there.pop((edition, stage), None)
                    if revision is not None:
                        there[(edition, stage)] = revision
            rows = conn.execute(
                "SELECT edition, stage, revision FROM standing WHERE until IS NULL"
            ).fetchall()
            assert there == {(r[0], r[1]): r[2] for r in rows}

    def teardown(self) -> None:
        if hasattr(self, "house"):
            assert self.house.desk.read(self.house.who("ida"), health) == []
            self.house.close()
            self.folder.cleanup()


def _in(act: Act, seconds: int) -> When:
    from hawthorn.core.timeline import SECOND, iso

    return When(instant=iso(act.now + seconds * SECOND))


class Story:
    """The event log, read event by event by somebody who knows only what gates mean."""

    def __init__(self, conn: sqlite3.Connection) -> None:
        self.conn = conn
        self.events = {
            row["seq"]: (row, json.loads(row["json"]))
            for row in conn.execute(
                "SELECT e.*, p.json FROM event e JOIN event_payload p ON p.seq = e.seq"
            ).fetchall()
        }
        self.last = max(self.events)
        self.stages = dict(conn.execute("SELECT id, name FROM stage").fetchall())
        self.roles = {}
        for actor, role in conn.execute("SELECT actor, role FROM holding").fetchall():
            self.roles.setdefault(actor, set()).add(role)

    def check(self, seq: int) -> None:
        """What one event did was allowed by the gates in force then."""
        event, payload = self.events[seq]
        if event["kind"] == "review.signed":
            self.check_signer(event, payload)
        if event["kind"] == "workflow.moved":
            return
        for edition, stage, revision in payload.get("stood", ()):
            locale = self.conn.execute("SELECT locale FROM edition WHERE id = ?", (edition,)).fetchone()[0]
            if revision is not None and locale != "*":
                self.check_gates(seq, edition, self.stages[stage], revision)

    def flow(self, seq: int) -> list[dict[str, Any]]:
        """The stages of the workflow that was in force."""
        defined = [
            p["definition"]["stages"]
            for n, (e, p) in self.events.items()
            if n < seq and e["kind"] == "workflow.defined"
        ]
        return list(defined[-1])

    def check_signer(self, event: sqlite3.Row, payload: dict[str, Any]) -> None:
        gate = next(s["gate"] for s in self.flow(event["seq"]) if s["name"] == payload["for"])
        assert not gate["roles"] or set(gate["roles"]) & self.roles[event["actor"]]
        revision = self.revision(payload)
        if gate["author"] == "no":
            assert event["actor"] not in self.writers(event["seq"], revision)

    def check_gates(self, seq: int, edition: int, stage: str, revision: int) -> None:
        flow = self.flow(seq)
        assert stage in [s["name"] for s in flow]
        fields = json.loads(
            self.conn.execute("SELECT fields FROM revision WHERE id = ?", (revision,)).fetchone()[0]
        )
        for one in flow[1:]:
            gate, let = one["gate"], self.let_through(seq, one["name"], revision)
            if "required" in gate["checks"]:
                assert fields.get("body") or ("missing", "body") in let
            if gate["custom"]:
                assert len(fields.get("title", "")) <= 20 or ("custom-check", "board") in let
            signers = self.signers(seq, one["name"], revision, gate)
            assert len(signers) >= gate["sign_offs"] or ("sign-offs", "") in let, (stage, one["name"])
            if one["name"] == stage:
                break

    def signers(self, seq: int, stage: str, revision: int, gate: dict[str, Any]) -> set[int]:
        """Who signed exactly this revision for a stage, and counts."""
        found: set[int] = set()
        for n, (event, payload) in sorted(self.events.items()):
            if n > seq or payload.get("entry") != self.uuid(revision):
                continue
            if (
                event["kind"] == "review.signed"
                and payload["for"] == stage
                and self.revision(payload) == revision
            ):
                found.add(event["actor"])
            if event["kind"] == "review.sent-back" and self.revision(payload) == revision:
                found.clear()
        found = {p for p in found if not gate["roles"] or set(gate["roles"]) & self.roles[p]}
        wrote = self.writers(seq, revision)
        others = found - wrote
        return found if gate["author"] == "yes" or (gate["author"] == "with another" and others) else others

    def let_through(self, seq: int, stage: str, revision: int) -> set[tuple[str, str]]:
        """What a managing editor let this revision through without, on the way to a stage or further."""
        names = ["review", "facts", "release"]
        out: set[tuple[str, str]] = set()
        for n, (event, payload) in self.events.items():
            if n < seq and event["kind"] == "review.overridden" and self.revision(payload) == revision:
                assert "managing-editor" in self.roles[event["actor"]]
                assert payload["note"]
                if names.index(payload["stage"]) >= names.index(stage):
                    out |= {(w["code"], w["where"]) for w in payload["without"]}
        return out

    def revision(self, payload: dict[str, Any]) -> int:
        row = self.conn.execute(
            "SELECT r.id FROM revision r JOIN edition d ON d.id = r.edition JOIN entry e ON e.id = d.entry "
            "WHERE e.uuid = ? AND d.locale = ? AND r.number = ?",
            (payload["entry"], payload["locale"], payload["revision"]),
        ).fetchone()
        return int(row[0])

    def uuid(self, revision: int) -> str:
        row = self.conn.execute(
            "SELECT e.uuid FROM revision r JOIN edition d ON d.id = r.edition JOIN entry e ON e.id = d.entry WHERE r.id = ?",
            (revision,),
        ).fetchone()
        return str(row[0])

    def writers(self, seq: int, revision: int) -> set[int]:
        """Who wrote what is in a revision and was not out before an event."""
        fresh = self.above(revision)
        edition = self.conn.execute("SELECT edition FROM revision WHERE id = ?", (revision,)).fetchone()[0]
        out = None
        for n, (_, payload) in sorted(self.events.items()):
            for one, stage, held in payload.get("stood", ()) if n < seq else ():
                if one == edition and self.stages[stage] == "release":
                    out = held
        fresh -= self.above(out) if out is not None else set()
        marks = json.dumps(sorted(fresh))
        rows = self.conn.execute(
            "SELECT actor FROM revision WHERE id IN (SELECT value FROM json_each(?))", (marks,)
        )
        return {row[0] for row in rows.fetchall()}

    def above(self, revision: int) -> set[int]:
        rows = self.conn.execute(
            "WITH RECURSIVE up (id) AS (SELECT ? UNION SELECT p.parent FROM up JOIN revision_parent p ON p.revision = up.id) "
            "SELECT id FROM up",
            (revision,),
        ).fetchall()
        return {row[0] for row in rows}


Gates.TestCase.settings = settings(
    max_examples=15, stateful_step_count=30, deadline=None, suppress_health_check=list(HealthCheck)
)
TestGates = Gates.TestCase
