"""Random people write in the draft and in strands, bring them in whole and in part, drop them and open them again: no word
that anybody typed is ever out of reach, and what a proposal shows is what it does."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import Bundle, RuleBasedStateMachine, invariant, precondition, rule

from hawthorn.core.errors import InTheWay, StaleRevision
from hawthorn.core.merge import Settlement
from hawthorn.operations.content import changing, entries, strands
from hawthorn.operations.search import finding
from hawthorn.operations.views import show
from hawthorn.operations.views.health import health
from tests.service.made import House

TYPE: dict[str, Any] = {
    "name": "story",
    "workflow": "short",
    "fields": [
        {"name": "title", "kind": "line"},
        {"name": "body", "kind": "rich"},
        {"name": "tags", "kind": "tags", "shared": True},
        {
            "name": "parts",
            "kind": "blocks",
            "blocks": [{"name": "fact", "fields": [{"name": "said", "kind": "text"}]}],
        },
    ],
}
NAMES = st.sampled_from(["Spring", "Leaflet"])
WHERE = st.sampled_from(["draft", "Spring", "Leaflet"])
PEOPLE = st.sampled_from(["wim", "oda"])
PLACE = st.integers(0, 3)


class Strands(RuleBasedStateMachine):
    """One entry, its draft and two strands."""

    shown_once = Bundle("shown_once")

    def __init__(self) -> None:
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()
        self.house = House(Path(self.folder.name))
        self.house.do("ida", lambda a: changing.define_type(a, TYPE))
        body = "<p>One stone here.</p><p>Two stones there.</p><p>Three stones more.</p>"
        first = {
            "title": "Stones",
            "body": body,
            "parts": [{"id": "f1", "kind": "fact", "fields": {"said": "Old."}}],
        }
        self.uuid = self.house.do("wim", lambda a: entries.start(a, "story", "en", first))
        self.typed: set[str] = set()
        self.turn = 0

    def teardown(self) -> None:
        assert self.house.desk.read(self.house.who("ida"), health) == []
        self.house.close()
        self.folder.cleanup()

    def look(self, strand: str = "draft") -> dict[str, Any]:
        return self.house.desk.read(self.house.who("ida"), lambda v: show.entry(v, self.uuid, "en", strand))

    def open(self) -> set[str]:
        return {s.name for s in self.look()["strands"] if s.open}

    def word(self) -> str:
        self.turn += 1
        word = f"word{self.turn}"
        self.typed.add(word)
        return word

    @rule(name=NAMES, who=PEOPLE)
    def fork(self, name: str, who: str) -> None:
        if name in self.open():
            try:
                self.house.do(who, lambda a: strands.fork(a, self.uuid, "en", name))
            except InTheWay:
                return
            raise AssertionError("two open strands have one name")
        self.house.do(who, lambda a: strands.fork(a, self.uuid, "en", name))

    @rule(where=WHERE, who=PEOPLE, at=PLACE, stale=st.booleans())
    def write(self, where: str, who: str, at: int, stale: bool) -> None:
        if where != "draft" and where not in self.open():
            return
        now = self.look(where)
        base = entries.parse_etag(now["etag"])
        if stale:
            other = {"body": now["fields"]["body"].replace("stone", f"{self.word()} stone", 1)}
            self.house.do("oda", lambda a: entries.save(a, self.uuid, "en", other, base, "", where))
        paragraphs = now["fields"]["body"].split("</p>")
        if at == 3:
            patch: dict[str, Any] = {
                "parts": [*now["fields"].get("parts", []), {"kind": "fact", "fields": {"said": self.word()}}]
            }
        else:
            at = min(at, len(paragraphs) - 2)
            paragraphs[at] = paragraphs[at].replace("stone", f"stone {self.word()}", 1)
            if self.typed and f"word{self.turn}" not in paragraphs[at]:
                paragraphs[at] += f" word{self.turn}"
            patch = {"body": "</p>".join(paragraphs)}
        saved = self.house.do(who, lambda a: entries.save(a, self.uuid, "en", patch, base, "", where))
        if saved.conflicts:
            both = {c.place: Settlement("both") for _, c in saved.conflicts}
            done = self.house.do(
                who, lambda a: entries.settle(a, self.uuid, "en", saved.typed, saved.base, both, where)
            )
            assert not done.conflicts

    @precondition(lambda self: self.open())
    @rule(target=shown_once, name=NAMES)
    def propose(self, name: str) -> tuple[str, str]:
        if name not in self.open():
            return ("", "")
        found = self.house.desk.read(
            self.house.who("wim"), lambda v: strands.propose(v, self.uuid, "en", name)
        )
        return (name, found.etag)

    @rule(shown=shown_once)
    def accept_what_was_shown_before(self, shown: tuple[str, str]) -> None:
        name, etag = shown
        if not name or name not in self.open():
            return
        now = self.house.desk.read(self.house.who("wim"), lambda v: strands.propose(v, self.uuid, "en", name))
        both = {c.place: Settlement("both") for _, c in now.conflicts}
        before = self.look()["fields"]
        try:
            self.house.do("wim", lambda a: strands.accept(a, self.uuid, "en", name, etag, None, both))
        except StaleRevision:
            assert etag != now.etag
            assert self.look()["fields"] == before
            return
        assert etag == now.etag
        settled = self.house.desk.read
        assert name not in self.open()
        if not both:
            outcome = {k: v for side in now.sides for k, v in side.outcome.fields.items()}
            assert self.look()["fields"] == outcome
        assert settled is not None

    @precondition(lambda self: self.open())
    @rule(name=NAMES, data=st.data())
    def take_a_part(self, name: str, data: st.DataObject) -> None:
        if name not in self.open():
            return
        whole = self.house.desk.read(
            self.house.who("oda"), lambda v: strands.propose(v, self.uuid, "en", name)
        )
        places = sorted({p["place"] for p in whole.places})
        if not places:
            return
        take = data.draw(st.lists(st.sampled_from(places), unique=True, min_size=1, max_size=3))
        found = self.house.desk.read(
            self.house.who("oda"), lambda v: strands.propose(v, self.uuid, "en", name, take)
        )
        both = {c.place: Settlement("both") for _, c in found.conflicts}
        self.house.do("oda", lambda a: strands.accept(a, self.uuid, "en", name, found.etag, take, both))
        assert name in self.open()
        if not both:
            outcome = {k: v for side in found.sides for k, v in side.outcome.fields.items()}
            assert self.look()["fields"] == outcome

    @rule(name=NAMES, again=st.booleans())
    def drop_and_open_again(self, name: str, again: bool) -> None:
        if name not in self.open():
            return
        head = self.look(name)["fields"]
        self.house.do("oda", lambda a: strands.drop(a, self.uuid, "en", name))
        if again:
            self.house.do("oda", lambda a: strands.reopen(a, self.uuid, "en", name))
            assert self.look(name)["fields"] == head

    @invariant()
    def every_word_is_in_reach(self) -> None:
        if self.turn == 0:
            return
        with self.house.desk.db.read() as conn:
            kept = " ".join(row[0] for row in conn.execute("SELECT fields FROM revision").fetchall())
        assert all(word in kept for word in self.typed)
        draft = self.look()["fields"]
        ids = [b["id"] for b in draft.get("parts", [])]
        assert len(ids) == len(set(ids))

    @invariant()
    def the_draft_alone_is_found(self) -> None:
        text = str(self.look()["fields"])
        for word in list(self.typed)[:2]:
            query = finding.Query(words=f"“{word}”")
            rows, _ = self.house.desk.read(self.house.who("ida"), lambda v, q=query: finding.listing(v, q))
            assert bool(rows) == (
                f"{word} " in f"{text} ".replace("<", " ").replace("'", " ").replace(".", " ")
            )


TestStrands = Strands.TestCase
TestStrands.settings = settings(
    max_examples=12, stateful_step_count=14, deadline=None, suppress_health_check=list(HealthCheck)
)
