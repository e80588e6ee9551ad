"""What is derived is held against its sources, and made anew of them."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from typer.testing import CliRunner

from hawthorn.cli.app import assembled
from hawthorn.demo.seeding import Museum
from hawthorn.messages import WORDS
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import SCHEDULER_SELF, SystemClock
from hawthorn.operations.views import assembled as assembled_desk
from hawthorn.operations.views import health
from hawthorn.store.database import Database
from tests.exchange.made import derived, trouble
from tests.exchange.test_packages import lived_in
from tests.service.made import House

DAMAGE = {
    "a title of long ago": "UPDATE summary SET title = 'Wreck' WHERE edition = {edition}",
    "a summary that is not there": "DELETE FROM summary WHERE edition = {edition}",
    "a flag that is not so": "UPDATE summary SET incomplete = 1 - incomplete, behind = 1 - behind WHERE locale <> '*'",
    "listed where it does not stand": "INSERT INTO listed (stage, type, locale, sort, edition, entry, since) SELECT 2, type, 'en', 1, edition, entry, 1 "
    "FROM summary s WHERE locale = 'de' AND NOT EXISTS (SELECT 1 FROM listed l WHERE l.edition = s.edition) LIMIT 1",
    "not listed where it stands": "DELETE FROM listed WHERE until IS NULL",
    "another place": "UPDATE placed SET rank = 'zz' WHERE until IS NULL",
    "another address": "UPDATE address SET slug = slug || '-x' WHERE until IS NULL",
    "no address": "DELETE FROM address WHERE until IS NULL",
    "refers to nothing it holds": "INSERT INTO reference SELECT {edition}, '01a1b28b-47f0-7113-91fe-82b9c30a117a'",
    "a tag that it has not": "INSERT INTO tag_use SELECT 'wreck', {edition}",
    "found by words it has not": "UPDATE search_text SET body = 'wreck' WHERE rowid = (SELECT id FROM search_row WHERE edition = {edition} AND stage = 1)",
    "not found at all": "DELETE FROM search_row WHERE edition = {edition}",
    "coverage of something else": "UPDATE coverage SET words = words + 1",
}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    lived_in(made, 5)
    kept = made.signed("Kept")
    for verb in ("release", "withdraw", "release"):
        made.do("ida", lambda act, verb=verb: dispatches.make(act, [MoveRequest(kept, "en", verb)]))
    yield made
    made.close()


REMEMBERED = {
    "sentences that nothing finds": "INSERT INTO memory_marks (memory_marks) VALUES ('delete-all')",
    "a sentence under another hash": "UPDATE memory_source SET hash = 'x' WHERE id = (SELECT min(id) FROM memory_source)",
    "a sign-off that nothing it covered leads to": "DELETE FROM sign_off_shown",
    "a sign-off of something else": "UPDATE sign_off_shown SET revision = revision + 1",
    "a term in another form": "UPDATE term SET folded = 'wreck' WHERE concept = (SELECT min(concept) FROM term)",
}


@pytest.mark.parametrize("name", REMEMBERED)
def test_what_sentences_terms_and_sign_offs_are_found_by_is_made_anew(tmp_path: Path, name: str) -> None:
    db = Database(tmp_path / "museum.sqlite")
    try:
        Museum(db, SystemClock().now(), "http://127.0.0.1:9", [], "http://127.0.0.1:9").seed()
        desk = assembled_desk.desk(db, SystemClock(), WORDS)
        assert trouble(desk) == []
        db.write(lambda conn: conn.execute(REMEMBERED[name]))
        assert trouble(desk)
        done = desk.write(SCHEDULER_SELF, health.repair)
        assert done["memories"] + done["glossaries"] + done["sign_offs"] > 0
        assert trouble(desk) == []
    finally:
        db.close()


@pytest.mark.parametrize("name", DAMAGE)
def test_what_does_not_follow_from_its_sources_is_found_and_made_anew(house: House, name: str) -> None:
    before = derived(house.desk)
    assert trouble(house.desk) == []
    with house.desk.db.read() as conn:
        edition = conn.execute("SELECT edition FROM summary WHERE title = 'Kept'").fetchone()[0]
    house.desk.db.write(lambda conn: conn.execute(DAMAGE[name].format(edition=edition)))
    assert trouble(house.desk)
    done = house.desk.write(SCHEDULER_SELF, health.repair)
    assert trouble(house.desk) == []
    now = derived(house.desk)
    for table in before:
        # What was made anew stands from now on; when it came to stand there is no telling.
        timed = table in ("listed", "placed", "address")
        strip = slice(0, 5) if timed else slice(None)
        assert {row[strip] for row in now[table]} == {row[strip] for row in before[table]}, table
    assert name.startswith("coverage") or done["derived"] > 0
    assert house.desk.write(SCHEDULER_SELF, health.repair)["derived"] == 0


def test_what_stood_before_is_left_as_it_was(house: House) -> None:
    past = "SELECT * FROM {} WHERE until IS NOT NULL ORDER BY id"
    with house.desk.db.read() as conn:
        before = {
            t: [tuple(r) for r in conn.execute(past.format(t))] for t in ("listed", "placed", "address")
        }
    assert all(before.values())
    house.desk.db.write(lambda conn: conn.execute("DELETE FROM summary"))
    house.desk.write(SCHEDULER_SELF, health.repair)
    with house.desk.db.read() as conn:
        assert {t: [tuple(r) for r in conn.execute(past.format(t))] for t in before} == before


def test_by_the_command_line_and_what_cannot_be_derived_is_still_said(house: House) -> None:
    def run(*words: str, code: int) -> str:
        done = CliRunner().invoke(assembled("check"), ["check", "--file", str(house.path), *words])
        assert done.exit_code == code, done.output
        return done.output

    house.desk.db.write(lambda conn: conn.execute("UPDATE summary SET title = 'Wreck'"))
    assert "not what follows" in run(code=1)
    assert "All is well" in run("--repair", code=0)
    assert "All is well" in run(code=0)
    house.desk.db.write(lambda conn: conn.execute("UPDATE summary SET title = 'Wreck'"))
    house.desk.db.write(lambda conn: conn.execute("UPDATE event_payload SET json = '{}' WHERE seq = 3"))
    said = run("--repair", code=1)
    assert "altered" in said
    assert "not what follows" not in said.split("anew")[-1]
