"""A person's rights: all about them, and nothing of their name once they are forgotten; what they did stays, and the chain holds."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator
from pathlib import Path

import pytest

from hawthorn.core.errors import InTheWay, NotFound, Refused
from hawthorn.core.exchange import receipt, signed
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import comments
from hawthorn.operations.exchange import receipts, rights
from hawthorn.operations.release import dispatches, overriding, review, workflows
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.search import lists
from hawthorn.store import events, outbox, provider
from tests.exchange.made import derived, trouble
from tests.service.made import House
from tests.service.test_workflows import flow


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    roles = [{"name": "writer"}]
    made.do(
        "ida",
        lambda act: people.add_person(act, "nell", "Nell Quay", "nell@quay.example", "oakum and tide", roles),
    )
    yield made
    made.close()


def left(house: House) -> str:
    """Nell logged in through a provider, wrote, said and was told something, by mail, too, and left; returns the dispatch that brought out what she wrote."""
    house.log_in("nell")
    nell = house.who("nell").id

    def known(conn: sqlite3.Connection) -> None:
        provider.connect(conn, "https://accounts.example", "nell-7", nell, house.clock.at)
        token = conn.execute("SELECT token_hash FROM session WHERE actor = ?", (nell,)).fetchone()[0]
        provider.note_session(conn, token, "https://accounts.example", "nell-7", "s1")
        told = json.dumps({"subject": "Nell Quay asks", "text": "Zoë, ask @nell: nell@quay.example"})
        outbox.put(conn, "mail", "mail-1-nell@quay.example", 1, "nell@quay.example", told, 0)
        outbox.put(conn, "mail", "mail-1-wim@x.example", 1, "wim@x.example", told, 0)
        outbox.put(conn, "webhooks", "2", 2, "somewhere", "Nell Quay", 0)

    house.desk.db.write(known)
    for who in ("nell", "wim"):
        house.desk.once(house.who(who), "k", "r", "q", lambda _: {"author": "Nell Quay", "handle": "nell"})
    page = house.signed("The lamp of Nell Quay")
    house.do("nell", lambda act: comments.make(act, page, "en", "Ask @wim. Nell Quay, nell@quay.example"))
    house.do("wim", lambda act: comments.make(act, page, "en", "I told @nell and @nellie so."))
    dispatch = house.do(
        "ida", lambda act: dispatches.make(act, [MoveRequest(page, "en")], name="For Nell Quay")
    )
    house.do("ida", lambda act: people.end_person(act, "nell"))
    return dispatch


WRITTEN = {
    "revision",
    "summary",
    "search_text",
    "search_said",
    "search_term",
    "address",
    "filter_value",
    "dispatch",
    "body",
}
"""Tables of what people write themselves: entries, what is found and shown of them, and what dispatches are called."""


def everything(house: House) -> str:
    """All that the record file holds, but what people write themselves."""
    with house.desk.db.read() as conn:
        tables = [row[0] for row in conn.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        rest = [name for name in tables if not name.startswith((*WRITTEN, "sqlite_", "memory_marks"))]
        assert {"event_payload", "outbox", "idempotency", "provider_session", "session"} <= set(rest)
        return json.dumps(
            [[tuple(row) for row in conn.execute(f"SELECT * FROM {table}")] for table in rest],
            default=bytes.hex,
            ensure_ascii=False,
        )


def test_somebody_gets_all_about_themselves_and_others_only_who_sets_up(house: House) -> None:
    left(house)
    told = house.desk.read(house.who("ida"), lambda v: rights.about(v, "nell"))
    assert told["person"]["email"] == "nell@quay.example"
    assert [one["text"] for one in told["comments"]] == ["Ask @wim. Nell Quay, nell@quay.example"]
    assert [one["kind"] for one in told["events"]] == ["session.opened", "comment.made"]
    assert len(told["mentions"]) == 1
    assert "password" not in told["person"]
    assert "$argon2" not in json.dumps(told)
    assert [(one["issuer"], one["subject"]) for one in told["accounts"]] == [
        ("https://accounts.example", "nell-7")
    ]
    assert [one["payload"]["subject"] for one in told["mails"]] == ["Nell Quay asks"]
    mine = house.desk.read(house.who("wim"), lambda v: rights.about(v, "wim"))
    assert {one["number"] for one in mine["revisions"]} == {1}
    with pytest.raises(Refused):
        house.desk.read(house.who("wim"), lambda v: rights.about(v, "nell"))
    with pytest.raises(NotFound):
        house.desk.read(house.who("ida"), lambda v: rights.about(v, "nobody"))


def test_forgotten_they_are_named_nowhere_and_the_chain_holds(house: House) -> None:
    dispatch = left(house)
    with house.desk.db.read() as conn:
        links = conn.execute("SELECT seq, hash, payload_hash FROM event").fetchall()
    before = derived(house.desk)
    said = house.desk.tried(house.who("ida"), lambda act: rights.forget(act, "nell"))
    assert "Nell Quay" in everything(house), "only tried"
    done = house.do("ida", lambda act: rights.forget(act, "nell"))
    assert done == said
    assert done.events > 2
    text = everything(house)
    for word in ("Nell Quay", "nell@quay.example", '"nell"', "@nell "):
        assert word not in text
    assert "nell-7" not in text
    with house.desk.db.read() as conn:
        assert [row[0] for row in conn.execute("SELECT recipient FROM outbox ORDER BY id")] == [
            "wim@x.example",
            "somewhere",
        ]
    again = house.desk.once(house.who("wim"), "k", "r", "q", lambda _: {"author": "anew"})
    assert again == {"author": done.name, "handle": done.handle}
    assert "@nellie" in text, "somebody else"
    assert f"@{done.handle} and @nellie" in text
    assert trouble(house.desk) == []
    with house.desk.db.read() as conn:
        assert [
            *conn.execute("SELECT seq, hash, payload_hash FROM event WHERE seq <= ?", (len(links),))
        ] == links
    assert derived(house.desk) == before
    house.do("ida", receipts.have_key)
    document = house.desk.read(house.who("ida"), lambda v: receipts.of_dispatch(v, dispatch))
    key = house.desk.read(house.who("ida"), receipts.key)
    assert key is not None
    assert [*receipt.wrong(receipt.read(signed.opened(document, key, receipt.KIND)))] == []
    with pytest.raises(NotFound):
        house.do("ida", lambda act: rights.forget(act, "nell"))
    with pytest.raises(InTheWay, match="before"):
        house.do("ida", lambda act: rights.forget(act, done.handle))


def test_whoever_has_their_handle_later_has_nothing_of_theirs(house: House) -> None:
    house.do("ida", lambda act: workflows.define(act, flow(people=["nell"], override_people=["nell"])))
    signs = [{"name": "section-editor"}]
    house.do("ida", lambda act: people.set_holdings(act, "nell", signs))
    page = house.page("Lamp")
    house.do("wim", lambda act: review.submit(act, page, "en"))
    house.do("nell", lambda act: review.sign_off(act, page, "en", 1))
    dispatch = house.do("ida", lambda act: dispatches.make(act, [MoveRequest(page, "en")]))
    kept = house.do("wim", lambda act: lists.save(act, "Hers", {"person": "nell", "type": "page"}))
    waits = house.page("Bell")
    house.do("wim", lambda act: review.submit(act, waits, "en"))
    house.do("ida", lambda act: people.end_person(act, "nell"))
    done = house.do("ida", lambda act: rights.forget(act, "nell"))
    house.do(
        "ida",
        lambda act: people.add_person(act, "nell", "Nell Bay", "", "oakum and tide", signs),
    )
    with pytest.raises(Refused, match=done.handle):
        house.do("nell", lambda act: review.sign_off(act, waits, "en", 1))
    with pytest.raises(Refused):
        house.do("nell", lambda act: overriding.override(act, waits, "en", "release", 1, "Because."))
    with house.desk.db.read() as conn:
        assert [json.loads(row[0])["person"] for row in conn.execute("SELECT query FROM saved_list")] == [
            done.handle
        ]
    assert kept
    # What she signed off is what its gate asked for, then as now.
    house.do("ida", receipts.have_key)
    document = house.desk.read(house.who("ida"), lambda v: receipts.of_dispatch(v, dispatch))
    key = house.desk.read(house.who("ida"), receipts.key)
    assert key is not None
    assert [*receipt.wrong(receipt.read(signed.opened(document, key, receipt.KIND)))] == []


def test_an_altered_payload_is_found_though_others_are_redacted(house: House) -> None:
    left(house)
    house.do("ida", lambda act: rights.forget(act, "nell"))
    house.desk.db.write(
        lambda c: c.execute(
            "UPDATE event_payload SET json = '{}' WHERE redacted = 0 AND seq = (SELECT min(seq) FROM event_payload WHERE redacted = 0)"
        )
    )
    with house.desk.db.read() as conn:
        assert [one.code for one in events.verify(conn)] == ["events.altered"]


def test_who_is_still_here_or_is_no_person_is_not_forgotten_and_only_who_sets_up_may(house: House) -> None:
    with pytest.raises(InTheWay, match="not left"):
        house.do("ida", lambda act: rights.forget(act, "nell"))
    with pytest.raises(InTheWay, match="no person"):
        house.do("ida", lambda act: rights.forget(act, "scheduler"))
    with pytest.raises(Refused):
        house.do("wim", lambda act: rights.forget(act, "nell"))
