"""Sources and targets saved at random, stale saves settled, revisions brought back, files returned late: nothing is shown as
current that is not. A target says of itself which source it was made from, so that the truth is always at hand."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule
from lxml import etree

from hawthorn.core import richtext
from hawthorn.core.errors import HawthornError
from hawthorn.core.merge import Settlement
from hawthorn.core.revision import Content
from hawthorn.core.translation import units
from hawthorn.demo.wordwise import NS
from hawthorn.operations.content import entries, strands
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.translation import coverage, exporting, importing, sending, shown, translation
from hawthorn.operations.translation.orders import Order
from hawthorn.store import coverage as coverage_store
from hawthorn.store import definitions, revisions
from hawthorn.store import entries as store
from tests.service.made import House

WORDS = ["lamp", "rope", "keel", "tide", "gull", "salt", "brass", "chart", "pier", "bell", "fog", "wick"]
sentence = st.lists(st.sampled_from(WORDS), min_size=2, max_size=5).map(" ".join)
MATCHES = "{urn:oasis:names:tc:xliff:matches:2.0}"
SIDES = ("ours", "theirs", "both", "own")
ACTS = ("change", "extend", "insert", "drop", "move", "join")


def translated(data: bytes) -> bytes:
    """The file with every target saying what it was made from."""
    root = etree.fromstring(data)
    for segment in root.iter(f"{NS}segment"):
        source = segment.find(f"{NS}source")
        target = etree.SubElement(segment, f"{NS}target")
        target.text = f"T[{source.text}]"
        segment.set("state", "translated")
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8")


def partly(data: bytes, each: int) -> bytes:
    """The file with one unit in so many."""
    root = etree.fromstring(data)
    for n, unit in enumerate(list(root.iter(f"{NS}unit"))):
        if n % each:
            unit.getparent().remove(unit)
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8")


class Machine(RuleBasedStateMachine):
    """One entry in English and French."""

    def __init__(self) -> None:
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()
        self.house = House(Path(self.folder.name))
        self.house.desk.db.write(lambda c: definitions.add_locale(c, "fr", "Français"))
        self.house.desk.db.write(lambda c: definitions.set_setting(c, "setup", "50"))
        self.page = self.house.page("Lamp and rope", body="<p>lamp rope</p><p>keel tide gull</p><p>salt</p>")
        self.files: list[tuple[str, bytes]] = []
        self.seen: list[int] = []
        self.kept: set[tuple[str, str]] = set()
        """What somebody chose to keep, with the words of the source that it was kept for."""
        self.beside: set[str] = set()
        """The locales in which somebody writes beside the draft."""

    def teardown(self) -> None:
        self.house.close()
        self.folder.cleanup()

    # -- what there is ---------------------------------------------------------------------------------------

    def read(self, look: Callable[[Any], Any]) -> Any:
        return self.house.desk.read(self.house.who("ida"), look)

    def content(self, locale: str) -> Content:
        def look(view: Any) -> Content:
            entry = store.entry(view.conn, self.page)
            edition = store.edition(view.conn, entry.id, locale)
            return revisions.content(view.conn, edition.head) if edition and edition.head else Content({})

        return self.read(look)

    def head(self, locale: str) -> int | None:
        def look(view: Any) -> int | None:
            entry = store.entry(view.conn, self.page)
            edition = store.edition(view.conn, entry.id, locale)
            return edition.head if edition else None

        return self.read(look)

    def body(self, locale: str) -> list[str]:
        return [
            paragraph.inner
            for paragraph in richtext.paragraphs(self.content(locale).fields.get("body") or "")
        ]

    def save(self, locale: str, paragraphs: list[str], seen: int | None) -> None:
        value = "".join(f"<p>{p}</p>" for p in paragraphs)
        common = self.read(
            lambda v: entries.current_base(v, store.entry(v.conn, self.page).id, locale)
        ).common
        base = entries.Base(seen, common)
        saved = self.house.do("ida", lambda a: entries.save(a, self.page, locale, {"body": value}, base))
        while saved.conflicts:
            settlements = {c.place: self.settlement for _, c in saved.conflicts}
            saved = self.house.do(
                "ida",
                lambda a, s=saved, d=settlements: entries.settle(a, self.page, locale, s.typed, s.base, d),
            )

    # -- what happens ----------------------------------------------------------------------------------------

    @rule(
        at=st.integers(0, 6),
        text=sentence,
        act=st.sampled_from(ACTS),
    )
    def source_changes(self, at: int, text: str, act: str) -> None:
        parts = self.body("en") or ["lamp"]
        self.save("en", edited(parts, at % len(parts), text, act), self.head("en"))

    @precondition(lambda self: self.head("fr") is not None)
    @rule(
        at=st.integers(0, 6),
        act=st.sampled_from(["extend", "drop", "move"]),
        take=st.sampled_from(SIDES),
        late=st.integers(0, 3),
    )
    def target_changes(self, at: int, act: str, take: str, late: int) -> None:
        """A person saves over the head, or over what they opened some saves ago."""
        self.settlement = Settlement(take, "<p>Mine alone</p>")
        heads = [*self.seen, self.head("fr")]
        seen = heads[max(0, len(heads) - 1 - late)]
        with self.house.desk.db.read() as conn:
            shown = revisions.content(conn, seen)
        parts = [paragraph.inner for paragraph in richtext.paragraphs(shown.fields.get("body") or "")]
        self.seen = heads[-6:]
        if parts:
            self.save("fr", edited(parts, at % len(parts), "indeed", act), seen)

    @precondition(lambda self: self.seen)
    @rule(which=st.integers(0, 5))
    def brought_back(self, which: int) -> None:
        with self.house.desk.db.read() as conn:
            number = revisions.number(conn, self.seen[which % len(self.seen)])
        self.house.do("ida", lambda a: entries.restore(a, self.page, "fr", number))

    @precondition(lambda self: self.head("fr") is not None)
    @rule(
        locale=st.sampled_from(["en", "fr"]), at=st.integers(0, 6), text=sentence, act=st.sampled_from(ACTS)
    )
    def written_beside(self, locale: str, at: int, text: str, act: str) -> None:
        """Somebody writes on a strand, beside what happens to the draft."""
        name = f"Beside {locale}"
        if locale not in self.beside:
            number = self.read(
                lambda v: store.edition(v.conn, store.entry(v.conn, self.page).id, locale)
            ).head_number
            self.house.do("ida", lambda a: strands.fork(a, self.page, locale, name, number))
            self.beside.add(locale)
        base = self.read(lambda v: entries.base_now(v, self.page, locale, name))
        with self.house.desk.db.read() as conn:
            shown = revisions.content(conn, base.own)
        parts = [paragraph.inner for paragraph in richtext.paragraphs(shown.fields.get("body") or "")] or [
            "lamp"
        ]
        words = f"{text} indeed" if locale == "fr" else text
        value = "".join(f"<p>{p}</p>" for p in edited(parts, at % len(parts), words, act))
        self.house.do("ida", lambda a: entries.save(a, self.page, locale, {"body": value}, base, "", name))

    @precondition(lambda self: self.beside)
    @rule(which=st.integers(0, 1), take=st.sampled_from(SIDES))
    def merged(self, which: int, take: str) -> None:
        """What was written beside is merged into the draft."""
        locale = sorted(self.beside)[which % len(self.beside)]
        name = f"Beside {locale}"
        found = self.read(lambda v: strands.propose(v, self.page, locale, name))
        settlements = {c.place: Settlement(take, "<p>Mine alone</p>") for _, c in found.conflicts}
        self.house.do(
            "ida", lambda a: strands.accept(a, self.page, locale, name, found.etag, None, settlements)
        )
        self.beside.discard(locale)

    @rule()
    def sent(self) -> None:
        try:
            self.house.do("ida", lambda a: sending.commission(a, Order((self.page,), ("fr",))))
        except HawthornError:
            return
        with self.house.desk.db.read() as conn:
            job = conn.execute("SELECT uuid FROM job ORDER BY id DESC LIMIT 1").fetchone()[0]
        _, data = self.read(lambda v: exporting.export(v, job))
        self.files.append((job, translated(data)))

    @precondition(lambda self: self.files)
    @rule(
        which=st.integers(0, 5),
        take=st.sampled_from(["ours", "theirs"]),
        again=st.booleans(),
        each=st.integers(1, 3),
    )
    def returned(self, which: int, take: str, again: bool, each: int = 1) -> None:
        """A file returns, whole or with each second or third unit alone."""
        job, whole = self.files[which % len(self.files)]
        data = partly(whole, each)
        if not again:
            self.files.remove((job, whole))
        before = self.head("fr")
        if before is not None:
            self.seen = [*self.seen, before][-6:]
        written = [text for text in self.body("fr") if "indeed" in text]
        would = self.house.do("ida", lambda a: importing.check(a, job, data))
        assert before == self.head("fr"), "looking at what would be done does nothing"
        done = self.house.do("ida", lambda a: importing.import_file(a, job, data))
        assert would == done, "what was shown is what is done"
        # What stood there when the file was made was shown to whoever translated it, as the translation before.
        shown_before = {one.text for one in etree.fromstring(data).iterfind(f".//{MATCHES}match/{NS}target")}
        left = [text for text in self.body("fr") if "indeed" in text]
        assert left == [text for text in written if text in left or text not in shown_before], (
            "nothing that somebody wrote is lost, but for what was translated anew from it"
        )
        rows = self.read(lambda v: shown.units_shown(v, translation.find(v, job)))
        for row in rows:
            if row.outcome == "conflict":
                if take == "ours":
                    self.kept.add((row.source, row.current))
                self.house.do("ida", lambda a, r=row: translation.choose(a, job, r.entry, r.key, take))
        decided = (self.head("fr"), [(r.key, r.outcome) for r in self.units(job)])
        twice = self.house.do("ida", lambda a: importing.import_file(a, job, data))
        assert (twice.applied, twice.drifted, twice.conflict, twice.gone) == (0, 0, 0, 0)
        assert decided == (self.head("fr"), [(r.key, r.outcome) for r in self.units(job)]), (
            "the same file again does nothing"
        )

    def units(self, job: str) -> list[shown.UnitShown]:
        return self.read(lambda v: shown.units_shown(v, translation.find(v, job)))

    # -- what holds ------------------------------------------------------------------------------------------

    @invariant()
    def no_claim_is_about_another_text(self) -> None:
        source, target = self.content("en"), self.content("fr")
        if not target.fields:
            return
        kind = self.read(lambda v: v.setup.type("page"))
        now = units.source_hashes(kind, source)
        words = {u.key: u.text for u in units.units_of(kind, source, "en")}
        have = {u.key: u.text for u in units.units_of(kind, target, "fr")}
        for key, claims in target.unit_map.items():
            for source_key, digest in claims:
                mine = key in have and now.get(source_key) == digest and have[key].startswith("T[")
                if mine and (words[source_key], have[key]) not in self.kept:
                    assert have[key].startswith(f"T[{words[source_key]}]"), "shown as current, and is not"
        if not units.needing(kind, source, target, "en") and not units.drift(kind, source, target):
            made_from = {claim[0] for claims in target.unit_map.values() for claim in claims}
            assert set(words) <= made_from
            assert made_from <= set(words), "what has no source any more is not current"

    @invariant()
    def what_is_counted_is_what_counting_anew_gives(self) -> None:
        with self.house.desk.db.read() as conn:
            assert list(coverage.wrong(conn)) == []
            found = coverage_store.rows(conn, coverage_store.ids(conn))
        kind = self.read(lambda v: v.setup.type("page"))
        source, target = self.content("en"), self.content("fr")
        for (_, locale), row in found.items():
            if locale == "fr":
                assert row.due == len(
                    {u.key for u in units.needing(kind, source, target, "en")}
                    | set(units.drift(kind, source, target))
                )

    @precondition(lambda self: self.head("fr") is not None)
    @rule(locale=st.sampled_from(["en", "fr"]), out=st.booleans())
    def goes_out_or_is_withdrawn(self, locale: str, out: bool) -> None:
        verb = "release" if out else "withdraw"
        with suppress(HawthornError):
            self.house.do("ida", lambda a: dispatches.make(a, [MoveRequest(self.page, locale, verb=verb)]))

    settlement = Settlement("ours")


def edited(parts: list[str], at: int, text: str, act: str) -> list[str]:
    """Paragraphs with one act done to them."""
    out = list(parts)
    if act == "change":
        out[at] = text
    elif act == "extend":
        out[at] = f"{out[at]} {text}"
    elif act == "insert":
        out.insert(at, text)
    elif act == "drop" and len(out) > 1:
        out.pop(at)
    elif act == "move":
        out.insert(0, out.pop(at))
    elif act == "join" and at + 1 < len(out):
        out[at] = f"{out[at]} {out.pop(at + 1)}"
    return out


TestMachine = Machine.TestCase
TestMachine.settings = settings(max_examples=25, stateful_step_count=14, deadline=None)


@pytest.fixture
def machine() -> Any:
    made = Machine()
    yield made
    made.teardown()


def test_a_newer_claim_does_not_stay_with_older_words(machine: Machine) -> None:
    """Returned anew while somebody typed over the older translation, and settled for their words."""
    machine.sent()
    machine.returned(0, "theirs", False)
    old = machine.head("fr")
    machine.save("en", ["lamp rope wick", "keel tide gull", "salt"], machine.head("en"))
    machine.sent()
    machine.returned(0, "theirs", False)
    machine.settlement = Settlement("ours")
    machine.save("fr", ["T[lamp rope oil]", "T[keel tide gull]", "T[salt]"], old)
    assert machine.body("fr")[0] == "T[lamp rope oil]"
    source, target = machine.content("en"), machine.content("fr")
    kind = machine.read(lambda v: v.setup.type("page"))
    assert len(units.drift(kind, source, target)) == 1


def test_a_paragraph_whose_source_is_gone_goes_with_the_next_return_or_is_asked_about(
    machine: Machine,
) -> None:
    machine.sent()
    machine.returned(0, "theirs", False)
    kind = machine.read(lambda v: v.setup.type("page"))
    machine.save("en", ["lamp rope", "chart pier bell fog"], machine.head("en"))
    source, target = machine.content("en"), machine.content("fr")
    assert len(units.drift(kind, source, target)) == 2, "both that lost their source count"
    machine.save("fr", ["T[lamp rope]", "T[keel tide gull]", "T[salt] and pepper"], machine.head("fr"))
    machine.sent()
    job, data = machine.files.pop()
    machine.house.do("ida", lambda a: importing.import_file(a, job, data))
    assert machine.body("fr") == [
        "T[lamp rope]",
        "T[salt] and pepper",
        "T[chart pier bell fog]",
    ] or machine.body("fr") == ["T[lamp rope]", "T[chart pier bell fog]", "T[salt] and pepper"]
    (asked,) = [u for u in machine.units(job) if u.outcome == "conflict"]
    assert (asked.current, asked.source) == ("T[salt] and pepper", "")
    machine.house.do("ida", lambda a: translation.choose(a, job, asked.entry, asked.key, "theirs"))
    assert machine.body("fr") == ["T[lamp rope]", "T[chart pier bell fog]"]
    assert units.drift(kind, machine.content("en"), machine.content("fr")) == []
