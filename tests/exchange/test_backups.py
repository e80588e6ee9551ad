"""Backups: of one instant while others write, kept as long as is wanted, encrypted, rehearsed and restored."""

from __future__ import annotations

import json
import os
import threading
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from hawthorn.cli.app import assembled
from hawthorn.core import keeping, timeline
from hawthorn.core.errors import BadFile, BadStore, HawthornError, InTheWay
from hawthorn.core.keeping import Keep
from hawthorn.core.timeline import SECOND
from hawthorn.followers.keeper import Keeper
from hawthorn.operations.content import entries
from hawthorn.operations.exchange import backups as acts
from hawthorn.operations.views.health import trouble
from hawthorn.service.settings import Settings
from hawthorn.store import backups, events, outbox
from hawthorn.store.database import Database
from tests.service.made import START, House

DAY = 24 * 3600 * SECOND


def save(house: House, page: str, fields: dict[str, str]) -> None:
    base = house.desk.read(house.who("wim"), lambda v: entries.current_base(v, 1, "en"))
    house.do("wim", lambda act: entries.save(act, page, "en", fields, base))


def test_a_backup_has_all_of_one_instant_while_others_write(house: House, tmp_path: Path) -> None:
    """Whatever was saved before it began is in it, and nothing by halves."""
    page = house.page("Lamp")
    ended, saved = threading.Event(), [0]

    def write() -> None:
        while not ended.is_set():
            saved[0] += 1
            fields = {"title": f"Lamp {saved[0]}", "body": f"<p>{'wick ' * 500}{saved[0]}</p>"}
            save(house, page, fields)

    writer = threading.Thread(target=write)
    writer.start()
    try:
        for n in range(5):
            with house.desk.db.read() as conn:
                before = events.last(conn)[0]
            made = backups.make(house.path, tmp_path / "backups", START + n * SECOND, pause=0.01)
            assert made.events >= before
            found = acts.rehearse(made.path)
            assert (found.events, found.entries, found.wrong) == (made.events, 1, ())
    finally:
        ended.set()
        writer.join()
    assert saved[0] > 5, "nobody waited for it"
    assert [one.at for one in backups.listing(tmp_path / "backups")] == [
        START + n * SECOND for n in (4, 3, 2, 1, 0)
    ]


def test_whoever_backs_up_gives_way_to_those_who_save(house: House, tmp_path: Path) -> None:
    seen: list[tuple[int, int]] = []

    def priority() -> int:
        return os.getpriority(os.PRIO_PROCESS, threading.get_native_id())

    def back_up() -> None:
        before = priority()
        told = lambda _, __: seen.append((before, priority()))  # noqa: E731
        backups.make(house.path, tmp_path / "b", START, told=told)

    # In a thread of its own: one that may not take it back stays as it is.
    aside = threading.Thread(target=back_up)
    aside.start()
    aside.join(40)
    assert seen
    assert all(meanwhile == max(before, 10) for before, meanwhile in seen)


def test_restored_it_goes_on_and_sends_nothing_twice(house: House, tmp_path: Path) -> None:
    page = house.page("Lamp")
    house.desk.db.write(lambda c: outbox.put(c, "mail", "m1", 1, "wim@x.example", "{}", START))
    made = backups.make(house.path, tmp_path / "b", START)
    goal = tmp_path / "again" / "house.sqlite"
    assert backups.restore(made.path, goal) == 1
    with pytest.raises(InTheWay):
        backups.restore(made.path, goal)
    again = House(tmp_path / "again")
    try:
        again.do(
            "wim",
            lambda act: entries.save(act, page, "en", {"title": "On"}, entries.current_base(act, 1, "en")),
        )
        with again.desk.db.read() as conn:
            assert [row.stable_id for row in outbox.parked(conn)] == ["m1"]
    finally:
        again.close()


def test_encrypted_only_who_has_the_key_restores_it(house: House, tmp_path: Path) -> None:
    house.page("A secret lamp")
    secret, recipient = backups.new_identity()
    other, _ = backups.new_identity()
    made = backups.make(house.path, tmp_path / "b", START, [recipient])
    assert made.path.suffix == ".age"
    assert b"secret lamp" not in made.path.read_bytes()
    for keys in ([], [other], ["no key"]):
        with pytest.raises(BadFile):
            acts.rehearse(made.path, keys)
    assert acts.rehearse(made.path, [other, secret]).entries == 1
    assert sorted(path.name for path in (tmp_path / "b").iterdir()) == [
        made.path.name,
        f"{made.path.name}.json",
    ]
    with pytest.raises(BadFile, match="no recipient"):
        backups.make(house.path, tmp_path / "b", START + SECOND, ["age1nobody"])


def test_what_was_altered_cut_off_or_damaged_is_not_restored(house: House, tmp_path: Path) -> None:
    house.page("Lamp")
    made = backups.make(house.path, tmp_path / "b", START)
    whole = made.path.read_bytes()
    note = made.path.with_name(made.path.name + ".json")
    for data in (whole[:-1], whole[: len(whole) // 2], b"", whole[:100] + b"\xff" + whole[101:]):
        made.path.write_bytes(data)
        with pytest.raises(BadFile):
            backups.unpack(made.path, tmp_path / "x.sqlite")
        kept = note.read_bytes()
        note.unlink()
        # Without its note it is still known by itself, but for a piece of its checksum.
        if data != whole[:-1]:
            with pytest.raises(HawthornError):
                backups.unpack(made.path, tmp_path / "x.sqlite")
        note.write_bytes(kept)
    made.path.write_bytes(whole)
    note.write_text(json.dumps({**json.loads(note.read_text()), "tip": "0" * 64}))
    with pytest.raises(BadFile):
        backups.unpack(made.path, tmp_path / "x.sqlite")
    assert not (tmp_path / "x.sqlite").exists()
    assert not list((tmp_path).glob("*.restoring"))


def test_a_rehearsal_finds_what_is_wrong_in_what_was_backed_up(house: House, tmp_path: Path) -> None:
    house.page("Lamp")
    house.desk.db.write(lambda c: c.execute("UPDATE event_payload SET json = '{}' WHERE seq = 1"))
    made = backups.make(house.path, tmp_path / "b", START)
    assert [line.code for line in acts.rehearse(made.path).wrong] == ["events.altered"]


@given(
    st.lists(st.integers(0, 900 * 24), min_size=1, max_size=60, unique=True),
    st.builds(Keep, st.integers(0, 9), st.integers(0, 6), st.integers(0, 14)),
)
def test_the_newest_of_each_day_week_and_month_is_kept(hours: list[int], keep: Keep) -> None:
    instants = [START + hour * 3600 * SECOND for hour in hours]
    kept = keeping.kept(instants, keep)
    assert max(instants) in kept
    days = {at: datetime.fromtimestamp(at / SECOND, UTC).date() for at in instants}
    for most, span in (
        (keep.days, lambda day: day),
        (keep.weeks, lambda day: day - timedelta(days=day.weekday())),
        (keep.months, lambda day: day.replace(day=1)),
    ):
        for one in sorted({span(day) for day in days.values()}, reverse=True)[:most]:
            assert max(at for at in instants if span(days[at]) == one) in kept
    assert len(kept) <= keep.days + keep.weeks + keep.months + 1
    # What is kept goes on being kept when nothing is added: nothing goes twice.
    assert keeping.kept(kept, keep) == kept


def test_the_timetable_knows_the_last_and_the_next_also_at_a_clock_change() -> None:
    at = timeline.parse_instant("2027-03-28T12:00:00Z")
    last, following = keeping.due(["02:30", "14:00"], "Europe/London", at)
    assert (timeline.iso(last), timeline.iso(following)) == ("2027-03-28T01:30:00Z", "2027-03-28T13:00:00Z")
    assert keeping.instant_of(keeping.named(at, sealed=True)) == at
    assert keeping.instant_of("hawthorn-notes.txt") is None


def options(**more: object) -> Settings:
    return Settings(file=Path("x.sqlite"), **more)  # type: ignore[arg-type]


def test_the_keeper_makes_what_is_due_once_and_keeps_what_is_wanted(house: House, tmp_path: Path) -> None:
    place = tmp_path / "kept"
    keeper = Keeper(
        house.desk,
        options(backups=place, backup_times=["03:00"], backup_days=2, backup_weeks=0, backup_months=0),
    )
    for day in range(4):
        house.clock.at = START + day * DAY
        assert keeper.step("me") == 0.0
        assert keeper.step("me") > 1, "nothing more to do"
    assert [one.at for one in backups.listing(place)] == [START + day * DAY for day in (3, 2)]
    assert [kind for kind, _ in house.events() if kind.startswith("backup")] == ["backup.made"] * 4
    shown = house.desk.read(house.who("ida"), lambda v: acts.shown(v, place))
    assert ([one.encrypted for one in shown.items], shown.trouble) == ([False, False], "")
    assert Keeper(house.desk, options()).step("me") > 1


def test_one_that_cannot_be_made_is_told_wherever_health_is_asked_for_and_tried_again(
    house: House, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    place = tmp_path / "kept"
    keeper = Keeper(house.desk, options(backups=place))

    def full(*_: object) -> None:
        raise BadStore("backups.no_room", folder="kept", needed=9)

    with monkeypatch.context() as patch:
        patch.setattr(backups, "room_for", full)
        keeper.step("me")
        assert "no room" in trouble(house.desk)[0]
        before = len(house.events())
        assert keeper.step("me") > 1
        assert len(house.events()) == before, "not at once again"
    house.clock.at += 601 * SECOND
    keeper.step("me")
    assert trouble(house.desk) == []
    assert len(backups.listing(place)) == 1


def test_by_the_command_line(tmp_path: Path) -> None:
    def run(*words: str, code: int = 0) -> str:
        done = CliRunner().invoke(assembled("backup"), ["backup", *words])
        assert done.exit_code == code, done.output
        return done.output

    file, place, key = tmp_path / "r.sqlite", str(tmp_path / "b"), str(tmp_path / "k")

    Database(file).close()
    run("key", key)
    run("key", key, code=7)
    recipient = Path(key).read_text().split("public key: ")[1].split("\n")[0]
    run("make", "--file", str(file), "--folder", place, "--recipient", recipient)
    assert "age" in run("list", "--folder", place)
    assert "can be restored" in run("rehearse", "--folder", place, "--identity", key)
    assert "encrypted" in run("rehearse", "--folder", place, code=5)
    [backup] = backups.listing(Path(place))
    run("restore", str(backup.path), "--file", str(tmp_path / "again.sqlite"), "--identity", key)
    run("restore", str(backup.path), "--file", str(tmp_path / "again.sqlite"), "--identity", key, code=7)
    assert "no backup" in run("rehearse", "--folder", str(tmp_path / "none"), code=3)
