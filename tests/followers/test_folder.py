"""Bureaus that work on files: what goes out lies there whole, what is dropped in is taken once, and what cannot be is put aside with why."""

from __future__ import annotations

import errno
import os
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from hawthorn.core.timeline import SECOND
from hawthorn.demo.wordwise import translate_file
from hawthorn.followers.carrier import Carrier
from hawthorn.followers.connectors.base import No
from hawthorn.operations.translation import assigning, bureaus, sending, translation
from hawthorn.operations.translation.bureaus import BureauDetails
from hawthorn.operations.translation.orders import Order
from hawthorn.store import definitions
from tests.followers.test_followers import Options
from tests.followers.test_troubles import job, revisions
from tests.service.made import House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.desk.db.write(lambda c: definitions.add_locale(c, "fr", "Français"))
    made.desk.db.write(lambda c: definitions.set_setting(c, "setup", "50"))
    made.do("ida", lambda a: bureaus.add(a, BureauDetails("Quill", "quill", kind="folder")))
    yield made
    made.close()


def order(house: House, title: str) -> str:
    page = house.page(title, body="<p>The lamp burned.</p>")
    house.do("ida", lambda a: sending.commission(a, Order((page,), ("fr",), bureau="Quill")))
    with house.desk.db.read() as conn:
        return str(conn.execute("SELECT uuid FROM job ORDER BY id DESC LIMIT 1").fetchone()[0])


def carry(house: House, root: Path, steps: int = 2) -> None:
    carrier = Carrier(house.desk, Options(bureau_folders=root))
    for _ in range(steps):
        carrier.step("one")
        house.clock.at += 120 * SECOND
    carrier.close()


def drop(folder: Path, name: str, data: bytes, ago: float = 60) -> None:
    """Put a file down that has stood still for a while."""
    (folder / "in" / name).write_bytes(data)
    then = time.time() - ago
    os.utime(folder / "in" / name, (then, then))


def names(folder: Path) -> list[str]:
    return sorted(path.name for path in folder.iterdir())


def test_a_job_goes_out_as_a_file_and_comes_back_as_one(house: House, tmp_path: Path) -> None:
    first, second = order(house, "Lamp"), order(house, "Bell")
    folder = tmp_path / "bureaus" / "quill"
    carry(house, tmp_path / "bureaus")
    assert job(house, first)["state"] == job(house, second)["state"] == "in work"
    out = {uuid: next((folder / "out").glob(f"{uuid} *.xlf")).read_bytes() for uuid in (first, second)}
    assert len(names(folder / "out")) == 2, "nothing half-written lies about"
    # One is on its way still, one has another name, one was cut off, one is of nobody.
    drop(folder, "translated.xlf", translate_file(out[first]))
    drop(folder, "second.xlf", translate_file(out[second]), ago=0)
    drop(folder, "cut.xlf", out[second][:300])
    drop(folder, "strange.csv", b"a,b\n1,2\n")
    carry(house, tmp_path / "bureaus")
    assert job(house, first)["state"] == "returned"
    assert job(house, second)["state"] == "in work", "it is on its way still"
    assert [name.split(" ", 1)[1] for name in names(folder / "taken")] == ["translated.xlf"]
    why = {p.name.split(" ", 1)[1]: p.read_text("utf-8") for p in (folder / "refused").glob("*.txt")}
    assert why.keys() == {"cut.xlf.txt", "strange.csv.txt"}
    assert "not well-formed" in why["cut.xlf.txt"]
    assert names(folder / "in") == ["second.xlf"]
    drop(folder, "second.xlf", translate_file(out[second]))
    carry(house, tmp_path / "bureaus")
    assert job(house, second)["state"] == "returned"
    assert revisions(house) == 2


def test_the_same_file_again_does_nothing_and_is_put_away(house: House, tmp_path: Path) -> None:
    uuid = order(house, "Lamp")
    folder = tmp_path / "bureaus" / "quill"
    carry(house, tmp_path / "bureaus")
    back = translate_file(next((folder / "out").glob("*.xlf")).read_bytes())
    half = back.replace(b"<target>", b"<!--").replace(b"</target>", b"-->", 1)
    assert half != back
    part = back[: back.index(b"<unit", back.index(b"<unit") + 1)] + b"</file></xliff>"
    for _ in range(2):
        drop(folder, "half.xlf", part)
        carry(house, tmp_path / "bureaus")
    assert (job(house, uuid)["state"], revisions(house)) == ("in work", 1)
    assert len(names(folder / "taken")) == 2
    assert names(folder / "in") == []


def test_a_file_waits_while_its_job_is_cancelled_and_what_lies_there_is_taken_back(
    house: House, tmp_path: Path
) -> None:
    uuid = order(house, "Lamp")
    folder = tmp_path / "bureaus" / "quill"
    carry(house, tmp_path / "bureaus")
    back = translate_file(next((folder / "out").glob("*.xlf")).read_bytes())
    house.do("ida", lambda a: translation.cancel(a, uuid))
    drop(folder, "late.xlf", back)
    carry(house, tmp_path / "bureaus")
    assert (names(folder / "out"), names(folder / "in"), revisions(house)) == ([], ["late.xlf"], 0)
    house.do("ida", lambda a: translation.reopen(a, uuid))
    carry(house, tmp_path / "bureaus")
    assert (job(house, uuid)["state"], revisions(house)) == ("returned", 1)


def test_a_job_that_is_put_off_is_put_down_anew_until_somebody_has_taken_it(
    house: House, tmp_path: Path
) -> None:
    uuid = order(house, "Lamp")
    out = tmp_path / "bureaus" / "quill" / "out"
    carry(house, tmp_path / "bureaus")
    for day in ("2030-04-01", "2030-05-01"):
        house.do("ida", lambda a, d=day: assigning.assign(a, uuid, due=d))
        carry(house, tmp_path / "bureaus")
        (there,) = out.iterdir()
        assert day in there.read_text("utf-8"), "its notes say the day"
        assert job(house, uuid)["due_told"] == day
    there.unlink()
    house.do("ida", lambda a: assigning.assign(a, uuid, due="2030-06-01"))
    carry(house, tmp_path / "bureaus")
    now = job(house, uuid)
    assert (now["due_told"], now["due_trouble"], names(out)) == (
        "2030-05-01",
        "Somebody took the file from its folder already.",
        [],
    )


def test_without_a_folder_for_them_or_where_it_cannot_be_written_it_is_said(
    house: House, tmp_path: Path
) -> None:
    uuid = order(house, "Lamp")
    carrier = Carrier(house.desk, Options(bureau_folders=None))
    carrier.step("one")
    assert "the setting bureau_folders names one" in job(house, uuid)["trouble"]
    assert job(house, uuid)["state"] == "failed"
    line = carrier._line(house.desk.read(house.who("ida"), lambda v: translation.find(v, uuid)))
    with pytest.raises(No):
        line.offer()
    carrier.close()
    (tmp_path / "bureaus").write_text("a file where a folder should be")
    house.do("ida", lambda a: translation.send_again(a, uuid))
    carry(house, tmp_path / "bureaus", 1)
    assert job(house, uuid)["state"] == "waiting", "somebody may mend it"


def test_a_folder_that_fails_is_its_bureaus_trouble_and_holds_up_no_other(
    house: House, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first, second = order(house, "Lamp"), order(house, "Bell")
    carry(house, tmp_path / "bureaus")
    back = translate_file(next((tmp_path / "bureaus/quill/out").glob(f"{second} *")).read_bytes())
    house.do("ida", lambda a: translation.cancel(a, first))

    def fails(path: Path, missing_ok: bool = False) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as broken:
        broken.setattr(Path, "unlink", fails)
        carry(house, tmp_path / "bureaus", 1)
    drop(tmp_path / "bureaus" / "quill", "bell.xlf", back)
    carry(house, tmp_path / "bureaus", 6)
    assert (job(house, first)["state"], job(house, second)["state"]) == ("cancelled", "returned")
    assert [n for n in names(tmp_path / "bureaus/quill/out") if n.startswith(first)] == [], (
        "it is tried again"
    )
