"""How people oversee assistants: a pace that they are held to, pausing, what one did as a list, and undoing it without losing anybody else's words."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from hawthorn.client import Client
from hawthorn.client.errors import Refusal
from hawthorn.core.access import Identity
from hawthorn.core.errors import InTheWay, NotFound, Refused, TooMany
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import logging_in, people
from hawthorn.operations.collaboration import assistants
from hawthorn.operations.content import entries, strands
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.runtime.pacing import Pace
from hawthorn.operations.views import show
from tests.service.made import House, serving

ROLES = ["draft", "review", "release"]


class Overseen(House):
    """A house with an assistant."""

    def __init__(self, folder: Path, pace: Pace = Pace()) -> None:
        super().__init__(folder, pace=pace)
        shown, self.key = self.do(
            "ida", lambda a: people.issue_key(a, "Copperleaf", "assistant", "assistant", ROLES)
        )
        self.handle = shown.handle

    def helper(self) -> Identity:
        """The assistant, by its key."""
        with self.desk.db.read() as conn:
            return logging_in.identify(conn, self.clock.at, self.key)

    def by_helper(self, act: object) -> object:
        """Let the assistant do something, a second after what was before."""
        self.clock.at += SECOND
        return self.desk.write(self.helper(), act)  # type: ignore[arg-type]

    def starts(self, title: str) -> str:
        fields = {"title": title, "body": "<p>By a machine.</p>"}
        return str(self.by_helper(lambda a: entries.start(a, "page", "en", fields)))

    def saves(self, uuid: str, *, by: str = "", strand: str = "draft", **fields: str) -> None:
        def save(act: Act) -> None:
            base = entries.current_base(
                act,
                act.conn.execute("SELECT id FROM entry WHERE uuid = ?", (uuid,)).fetchone()[0],
                "en",
                strand,
            )
            entries.save(act, uuid, "en", fields, base, "", strand)

        self.do(by, save) if by else self.by_helper(save)

    def fields(self, uuid: str, strand: str = "draft") -> dict[str, str]:
        found = self.desk.read(self.who("ida"), lambda v: show.entry(v, uuid, "en", strand))
        return {name: found["fields"].get(name, "") for name in ("title", "body")}

    def undo(self, since: int) -> dict[tuple[str, str], str]:
        """What came of undoing, by entry and strand."""
        found = self.do("ida", lambda a: assistants.undo(a, self.handle, iso(since)))
        return {(one.id, one.strand): one.outcome for one in found if one.locale == "en"}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[Overseen]:
    made = Overseen(tmp_path)
    yield made
    made.close()


def test_an_assistant_is_held_to_a_pace_that_all_processes_count(tmp_path: Path) -> None:
    house = Overseen(tmp_path, Pace(acts=6, entries=2))
    one = house.starts("One")
    house.starts("Two")
    with pytest.raises(TooMany, match="may start 2 entries an hour"):
        house.starts("Three")
    for n in range(4):
        house.saves(one, title=f"One {n}")
    with pytest.raises(TooMany, match="may act 6 times an hour") as refused:
        house.saves(one, title="One more")
    assert 3_500 < refused.value.facts["retry_after"] <= 3_600
    assert house.fields(one)["title"] == "One 3"
    # Only acts count, and people are held to nothing.
    house.desk.read(house.helper(), lambda v: show.entry(v, one, "en"))
    for n in range(8):
        house.saves(one, by="wim", title=f"By hand {n}")
    house.clock.at += 3_600 * SECOND
    house.starts("Three")
    house.close()


def test_a_paused_assistant_is_told_by_whom_and_why_and_goes_on_when_it_is_let(house: Overseen) -> None:
    uuid = house.starts("One")
    with pytest.raises(Refused):
        house.do("wim", lambda a: assistants.pause(a, house.handle, "No."))
    with serving(house) as (_, url), Client(url, house.key) as helper:
        with Client(url, house.log_in("ida")) as ida:
            assert helper.entry(uuid).title == "One"
            ida.pause_assistant(house.handle, "It writes too much.")
            for ask in (
                lambda: helper.entry(uuid),
                lambda: helper.read_entries(),
                lambda: helper.comment(uuid, "en", "x"),
            ):
                with pytest.raises(Refusal, match=r"Copperleaf was paused by Ida: It writes too much\."):
                    ask()
            told = httpx.post(f"{url}/agent", json={}, headers={"Authorization": f"Bearer {house.key}"})
            assert told.status_code == 403
            assert "Stop, and tell" in told.json()["remedy"]
            # Before a large body is taken it is asked whose key it is, too.
            with httpx.Client(headers={"Authorization": f"Bearer {house.key}"}) as http:
                large = http.post(f"{url}/api/entries", content=b"{" * 3_000_000)
                assert large.status_code in (403, 413)
            (shown,) = ida.assistants().items
            assert (shown.paused_by, shown.reason, shown.started) == ("Ida", "It writes too much.", 1)
            with pytest.raises(Refusal, match="paused already"):
                ida.pause_assistant(house.handle)
            did = [event.kind for event in ida.events(person=house.handle).items]
            assert did == ["entry.started"]
            ida.resume_assistant(house.handle)
            assert helper.entry(uuid).title == "One"
    with pytest.raises(InTheWay):
        house.do("ida", lambda a: assistants.resume(a, house.handle))


def test_whoever_is_paused_is_told_nothing_more(house: Overseen) -> None:
    uuid = house.page("Lamps")
    with serving(house) as (_, url), Client(url, house.log_in("ida")) as ida:
        headers = {"Authorization": f"Bearer {house.key}"}
        with httpx.stream("GET", f"{url}/events", headers=headers, timeout=20) as stream:
            assert stream.status_code == 200
            lines = stream.iter_lines()
            next(lines)
            ida.pause_assistant(house.handle, "Enough.")
            house.saves(uuid, by="wim", title="Told to nobody any more")
            rest = [*lines]
        assert not any(uuid in line for line in rest)
        assert httpx.get(f"{url}/events", headers=headers).status_code == 403


def test_what_an_assistant_did_is_undone_and_nobody_elses_words_are_lost(house: Overseen) -> None:
    kept, mixed, clash, early = (
        house.page(title, body="<p>One.</p><p>Two.</p>") for title in ("Kept", "Mixed", "Clash", "Early")
    )
    house.saves(early, title="Early by the machine")
    since = house.clock.at + SECOND
    alone, shared = house.starts("Alone"), house.starts("Shared")
    house.saves(shared, by="wim", title="Shared by Wim")
    house.saves(kept, title="Kept by the machine")
    house.saves(kept, body="<p>All new.</p>")
    # Somebody writes between and after, elsewhere in the same text.
    house.saves(mixed, body="<p>One by machine.</p><p>Two.</p>")
    house.saves(mixed, by="wim", title="Mixed by Wim")
    house.saves(mixed, body="<p>One by machine, twice.</p><p>Two.</p>")
    house.saves(mixed, by="wim", body="<p>One by machine, twice.</p><p>Two by Wim.</p>")
    house.saves(clash, title="Clash by the machine")
    house.saves(clash, by="wim", title="Clash by Wim")
    house.do("wim", lambda a: strands.fork(a, kept, "en", "Beside"))
    house.saves(kept, strand="Beside", title="Beside by the machine")

    events = len(house.events())
    would = house.desk.tried(house.who("ida"), lambda a: assistants.undo(a, house.handle, iso(since)))
    assert len(would) >= 6
    assert len(house.events()) == events, "what is only tried changes nothing"

    assert house.undo(since) == {
        (alone, "draft"): "removed",
        (shared, "draft"): "left",
        (kept, "draft"): "taken back",
        (kept, "Beside"): "taken back",
        (mixed, "draft"): "taken back",
        (clash, "draft"): "open",
    }
    assert house.fields(kept) == {"title": "Kept", "body": "<p>One.</p><p>Two.</p>"}
    assert house.fields(kept, "Beside")["title"] == "Kept by the machine", "as it was when it was forked"
    assert house.fields(mixed) == {"title": "Mixed by Wim", "body": "<p>One.</p><p>Two by Wim.</p>"}
    assert house.fields(clash)["title"] == "Clash by Wim"
    assert house.fields(shared)["title"] == "Shared by Wim"
    assert house.fields(early)["title"] == "Early by the machine"
    with pytest.raises(NotFound):
        house.fields(alone)
    # What a person took over from a strand is theirs to take back.
    house.do("wim", lambda a: strands.fork(a, early, "en", "Merged"))
    house.saves(early, strand="Merged", title="Merged by the machine")

    def accept(act: Act) -> None:
        strands.accept(act, early, "en", "Merged", strands.propose(act, early, "en", "Merged").etag)

    house.do("wim", accept)
    found = house.do("ida", lambda a: assistants.undo(a, house.handle, iso(since)))
    assert [one.why for one in found if one.id == early] == [
        "the strand is closed: it was merged by a person, or dropped"
    ]
    assert house.fields(early)["title"] == "Merged by the machine"
    # Who undid is who undid, and undoing again finds nothing more to do.
    assert "assistant.undone" in [kind for kind, _ in house.events()]
    again = house.undo(since)
    assert set(again.values()) <= {"left", "open", "taken back"}
    assert house.fields(kept) == {"title": "Kept", "body": "<p>One.</p><p>Two.</p>"}
    assert house.fields(mixed) == {"title": "Mixed by Wim", "body": "<p>One.</p><p>Two by Wim.</p>"}
