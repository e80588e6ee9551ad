"""Nobody is told of what they may not see any more, and somebody hears of it all the same."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator
from pathlib import Path

import pytest

from hawthorn.core.timeline import SECOND, iso
from hawthorn.followers.mail import Mail
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import assignments, comments, notifications
from hawthorn.operations.content import entries
from hawthorn.operations.release import (
    dispatches,
    overriding,
    records,
    review,
    workflows,
)
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.translation import sending, translation
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.views import my_work, show_dispatches
from hawthorn.service.settings import Settings
from tests.service.made import House
from tests.service.test_workflows import flow

VERBS = ("read", "write", "submit", "sign", "release", "commission", "accept")
DAY = 86_400 * SECOND


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="Français")
    trusts(made, "en", "fr")
    made.by_scheduler(
        lambda a: people.add_person(a, "kit", "Kit", "kit@x.example", "long enough", [{"name": "keeper"}])
    )
    yield made
    made.close()


def trusts(house: House, *locales: str) -> None:
    """Kit may do everything in these languages, and reads no others."""
    grants = [{"verb": verb, "locales": [*locales]} for verb in VERBS]
    house.do("ida", lambda a: people.define_role(a, "keeper", "keeper", grants))


def told(house: House, who: str) -> list[str]:
    """All that somebody was told, with its text."""
    Mail(house.desk, Settings()).step("one")
    found = house.desk.read(house.who(who), lambda v: notifications.mine(v, limit=200))["items"]
    return [f"{one['says']} | {one['body']}" for one in found]


def mails(house: House, who: str) -> str:
    with house.desk.db.read() as conn:
        rows = conn.execute(
            "SELECT payload FROM outbox WHERE recipient = ?", (f"{who}@x.example",)
        ).fetchall()
    return " ".join(row[0] for row in rows)


def secret(house: House) -> list[str]:
    """What Kit was told that names what is secret."""
    found = [one for one in told(house, "kit") if "Secret" in one or "hush" in one]
    assert not ("Secret" in mails(house, "kit") and not found)
    return found


def happens(house: House, page: str, comment: str, word: str) -> None:
    """All that may happen about a page to somebody who took part in it."""
    house.do("wim", lambda a: comments.reply(a, comment, f"A hush reply{word}"))
    house.do("wim", lambda a: comments.make(a, page, "en", "A hush comment."))
    house.do("wim", lambda a: comments.resolve(a, comment))
    house.do("oda", lambda a: review.send_back(a, page, "en", "A hush reason."))
    house.do("ida", lambda a: overriding.override(a, page, "en", "release", 1, "A hush override."))
    house.clock.at += 5 * DAY
    house.by_scheduler(lambda a: assignments.remind(a))
    house.do("ida", lambda a: assignments.assign(a, page, "en", "wim", "2031-01-01", "A hush note."))


def took_part(house: House, title: str) -> tuple[str, str]:
    """A page that Kit wrote, submitted, commented on and has been assigned."""
    page = house.do("kit", lambda a: entries.start(a, "page", "en", {"title": title, "body": "<p>Hm.</p>"}))
    comment = house.do("kit", lambda a: comments.make(a, page, "en", "Mine."))
    due = iso(house.clock.at + 2 * DAY)[:10]
    house.do("ida", lambda a: assignments.assign(a, page, "en", "kit", due))
    house.do("kit", lambda a: review.submit(a, page, "en"))
    return page, comment


def test_whoever_may_not_see_an_entry_any_more_is_told_nothing_of_it(house: House) -> None:
    release = {"override_roles": ["managing-editor"]}
    house.do("ida", lambda a: workflows.define(a, flow(**release)))
    page, comment = took_part(house, "Secret lamp")
    before = secret(house)
    trusts(house, "fr")
    happens(house, page, comment, ".")
    assert secret(house) == before
    # The same is told to whoever may see it: what was tried here is told at all.
    trusts(house, "en", "fr")
    happens(house, *took_part(house, "Secret bell"), ", @kit.")
    now = [one.split(" | ")[0] for one in secret(house)[: -len(before)]]
    for what in ("names you", "commented", "resolved", "sent back", "overridden", "late", "with Wim now"):
        assert any(what.lower() in one.lower() for one in now), (what, now)


def test_what_is_said_of_a_shared_field_is_for_readers_of_any_language(house: House) -> None:
    page = house.page("Secret lamp")
    french = {"title": "Lampe", "body": "<p>M.</p>"}
    house.do("ida", lambda a: entries.save(a, page, "fr", french, entries.Base(None, None)))
    trusts(house, "fr")
    comment = house.do("kit", lambda a: comments.make(a, page, "fr", "Why this one?", "picture"))
    house.do("kit", lambda a: comments.reply(a, comment, "Or another?"))
    house.do("wim", lambda a: comments.reply(a, comment, "It is the only one, @kit."))
    (one,) = told(house, "kit")
    assert one.startswith("Wim names you: Lampe | ")
    assert secret(house) == [], "of the other language no more is told than its title in this"
    found = house.desk.read(house.who("kit"), lambda v: notifications.mine(v))["items"]
    assert found[0]["path"] == f"/entries/{page}/fr?comment={comment}"
    waits = house.desk.read(house.who("kit"), my_work.my_work)["waiting"]
    assert [(w["title"], w["locale"]) for w in waits] == [("Lampe", "fr")]
    house.do("kit", lambda a: comments.resolve(a, comment))
    assert any("resolved a comment on Secret lamp" in line for line in told(house, "wim"))


def test_of_a_job_that_its_commissioner_may_not_see_others_hear(house: House) -> None:
    page = house.do("kit", lambda a: entries.start(a, "page", "en", {"title": "Secret", "body": "<p>W.</p>"}))
    order = Order((page,), ("fr",), name="Secret in French")
    job = house.do("kit", lambda a: sending.commission(a, order))
    with house.desk.db.read() as conn:
        uuid = str(conn.execute("SELECT uuid FROM job").fetchone()[0])
    assert job
    assert house.do("kit", lambda a: translation.readable(a, translation.find(a, uuid)))
    trusts(house, "fr")
    trouble = "It fell into hush water."
    house.by_scheduler(lambda a: translation.progress(a, uuid, state="failed", done=0, trouble=trouble))
    assert secret(house) == []
    assert any("Secret in French" in one and trouble in one for one in told(house, "ida"))


def held_with_half_of_it_hidden(house: House) -> tuple[str, str]:
    """A dispatch of Kit's that is held, of which Kit sees the French half alone by now; and that half."""
    sail = house.do(
        "wim", lambda a: entries.start(a, "page", "fr", {"title": "Sail plan", "body": "<p>W.</p>"})
    )
    page = house.signed("Secret lamp")
    house.do("wim", lambda a: review.submit(a, sail, "fr"))
    house.do("oda", lambda a: review.sign_off(a, sail, "fr", 1))
    both = [MoveRequest(page, "en"), MoveRequest(sail, "fr")]
    when = When(instant=iso(house.clock.at + 100 * SECOND))
    mine = house.do("kit", lambda a: dispatches.make(a, both, when, name="Secret spring"))
    house.do("ida", lambda a: workflows.define(a, flow(sign_offs=2)))
    trusts(house, "fr")
    house.later(200)
    assert house.state(mine) == "held"
    return mine, sail


def of_held(house: House, sail: str) -> None:
    """What Kit hears of it: of the half that Kit sees."""
    (only,) = [one for one in told(house, "kit") if one.startswith("Held")]
    assert "Sail plan" in only
    assert secret(house) == []
    with house.desk.db.read() as conn:
        paths = {row[0] for row in conn.execute("SELECT path FROM notification").fetchall()}
    assert f"/entries/{sail}/fr" in paths


def test_what_holds_a_dispatch_is_told_as_far_as_it_may_be_seen(house: House) -> None:
    mine, sail = held_with_half_of_it_hidden(house)
    of_held(house, sail)
    assert any("Secret spring" in one for one in told(house, "ida")), "somebody hears of all of it"
    shown = house.desk.read(house.who("ida"), lambda v: show_dispatches.dispatch(v, records.find(v, mine)))
    assert {held["title"] for held in shown["held"]} == {"Secret lamp", "Sail plan"}


def test_where_nobody_sees_all_that_is_held_whoever_answers_for_it_hears_of_what_they_see(
    house: House,
) -> None:
    def nobody_else(conn: sqlite3.Connection) -> None:
        for name, text in conn.execute("SELECT name, grants FROM role").fetchall():
            kept = [
                g for g in json.loads(text) if g["verb"] not in ("sign", *("release",) * (name != "keeper"))
            ]
            conn.execute("UPDATE role SET grants = ? WHERE name = ?", (json.dumps(kept), name))

    _, sail = held_with_half_of_it_hidden(house)
    house.desk.db.write(nobody_else)
    of_held(house, sail)
    assert not any("Secret spring" in one for one in told(house, "ida"))
