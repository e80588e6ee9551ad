"""The simulated bureau as a process of its own, in every trouble that can be ordered: nothing is lost, and nothing is done twice."""

from __future__ import annotations

import time
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
import pytest
from standardwebhooks.webhooks import Webhook as Signing

from hawthorn.core.timeline import SECOND
from hawthorn.demo import bureau as simulated
from hawthorn.followers.carrier import Carrier
from hawthorn.operations.content import entries
from hawthorn.operations.media import files
from hawthorn.operations.translation import (
    assigning,
    bureaus,
    own_files,
    questions,
    sending,
    translation,
)
from hawthorn.operations.translation.bureaus import BureauDetails
from hawthorn.operations.translation.orders import Order
from hawthorn.store import definitions, job_lists
from hawthorn.store import files as file_store
from hawthorn.store import questions as question_store
from tests.followers.partners import Translators, translators
from tests.followers.test_followers import Options
from tests.service.made import House, serving

BODY = "<p>The lamp burned.</p><p>It was <strong>lit</strong> at dusk.</p><p>Boats came in.</p>"


@pytest.fixture(scope="module")
def outside() -> Iterator[Translators]:
    with translators(0.001) as found:
        yield found


@pytest.fixture
def house(tmp_path: Path, outside: Translators) -> Iterator[House]:
    made = House(tmp_path)
    made.desk.db.write(lambda c: definitions.add_locale(c, "fr", "Français"))
    made.desk.db.write(lambda c: definitions.set_setting(c, "setup", "50"))
    details = BureauDetails("Salt", outside.url, {"fr": "fr-FR"}, outside.key, secret=outside.secret)
    made.do("ida", lambda a: bureaus.add(a, details))
    yield made
    made.close()
    outside.pace(0.001)


def order(house: House, title: str = "Lamp") -> str:
    page = house.page(title, body=BODY)
    house.do("ida", lambda a: sending.commission(a, Order((page,), ("fr",), bureau="Salt")))
    with house.desk.db.read() as conn:
        return str(conn.execute("SELECT uuid FROM job ORDER BY id DESC LIMIT 1").fetchone()[0])


def job(house: House, uuid: str) -> dict[str, Any]:
    with house.desk.db.read() as conn:
        return dict(conn.execute("SELECT * FROM job WHERE uuid = ?", (uuid,)).fetchone())


def carried(
    house: House, outside: Translators, uuid: str, until: str, steps: int = 200, public: str = ""
) -> list[str]:
    """Carry until a job is in a state; returns all that it said of troubles on the way."""
    carrier = Carrier(house.desk, Options(allow_hosts=[outside.host], public=public))
    told: list[str] = []
    for _ in range(steps):
        carrier.step("one")
        now = job(house, uuid)
        if now["trouble"] and now["trouble"] not in told:
            told.append(now["trouble"])
        if now["state"] == until:
            break
        house.clock.at += 30 * SECOND
        time.sleep(0.005)
    carrier.close()
    assert job(house, uuid)["state"] == until, told
    return told


def test_a_file_that_differs_by_language_is_fetched_and_comes_back(
    house: House, outside: Translators
) -> None:
    leaflet = b"%PDF-1.4\n1 0 obj<</Type/Catalog>>endobj\ntrailer<</Root 1 0 R>>\n%%EOF\n"
    value = house.do("wim", lambda a: files.keep(a, files.inspect("leaflet.pdf", leaflet)))
    fields = {"title": "A leaflet", "file": {"sha256": value["sha256"]}}
    entry = house.do("wim", lambda a: entries.start(a, "document", "en", fields))
    house.do("ida", lambda a: sending.commission(a, Order((entry,), ("fr",), bureau="Salt")))
    with house.desk.db.read() as conn:
        uuid = job_lists.newest(conn, 1)[0].uuid
    with serving(house) as (_, url):
        assert carried(house, outside, uuid, "returned", public=url) == []
    [one] = house.desk.read(house.who("ida"), lambda v: own_files.of_job(v, translation.find(v, uuid)))
    assert (one.state, one.by, one.target and one.target["name"]) == ("given", "Salt", "leaflet-fr.pdf")
    with house.desk.db.read() as conn:
        given = file_store.find(conn, str(one.target and one.target["sha256"]))
    assert given is not None
    assert files.whole(house.desk, given).endswith(b"% fr\n")


def revisions(house: House) -> int:
    with house.desk.db.read() as conn:
        found: int = conn.execute(
            "SELECT count(*) FROM revision r JOIN edition e ON e.id = r.edition WHERE e.locale = 'fr'"
        ).fetchone()[0]
        return found


def test_what_is_translated_comes_back_in_parts(house: House, outside: Translators) -> None:
    outside.pace(0.001, rests_after=2)
    uuid = order(house)
    carrier = Carrier(house.desk, Options(allow_hosts=[outside.host]))
    halves: set[int] = set()
    for _ in range(100):
        carrier.step("one")
        halves.add(revisions(house))
        if revisions(house) == 1:
            assert job(house, uuid)["done"] == 2
            outside.pace(0.001)
        if job(house, uuid)["state"] == "returned":
            break
        house.clock.at += 30 * SECOND
        time.sleep(0.02)
    carrier.close()
    assert halves == {0, 1, 2}, "the first half was there before the rest"
    assert job(house, uuid)["done"] == job(house, uuid)["total"] == 4


@pytest.mark.parametrize(
    ("trouble", "says"),
    [
        ("garbage", "cannot be read"),
        ("forget", "it was sent anew"),
        ("lie", "counts 11 units; the job has 4"),
        ("twice", ""),
        ("slow", ""),
    ],
)
def test_a_job_comes_back_once_whatever_the_bureau_does_meanwhile(
    house: House, outside: Translators, trouble: str, says: str
) -> None:
    uuid = order(house)
    outside.order(trouble)
    if trouble in ("lie", "forget"):
        outside.pace(0.1)
    told = carried(house, outside, uuid, "returned")
    outside.pace(0.001)
    assert says in " ".join(told)
    assert (job(house, uuid)["trouble"], revisions(house) <= 2) == ("", True)


@pytest.mark.parametrize(
    ("trouble", "says"),
    [
        ("refuse", "We do not take this kind of text"),
        ("fail", "Our translator fell ill"),
        ("truncate", "not well-formed"),
        ("break tags", "What fits was taken"),
    ],
)
def test_what_a_bureau_cannot_do_is_said_and_can_be_sent_again(
    house: House, outside: Translators, trouble: str, says: str
) -> None:
    body = '<p>Some <a href="https://lamps.example/">bold</a> words.</p>'
    page = house.page("Lamp", body=body)
    house.do("ida", lambda a: sending.commission(a, Order((page,), ("fr",), bureau="Salt")))
    with house.desk.db.read() as conn:
        uuid = str(conn.execute("SELECT uuid FROM job").fetchone()[0])
    outside.order(trouble)
    assert says in " ".join(carried(house, outside, uuid, "failed"))
    house.do("ida", lambda a: translation.send_again(a, uuid))
    carried(house, outside, uuid, "returned")


def test_a_question_comes_here_once_and_its_answer_goes_there(house: House, outside: Translators) -> None:
    outside.order("ask")
    uuid = order(house)
    carrier = Carrier(house.desk, Options(allow_hosts=[outside.host]))
    for _ in range(5):
        carrier.step("one")
        house.clock.at += 30 * SECOND
    carrier.close()
    with house.desk.db.read() as conn:
        asked = question_store.of_job(conn, job(house, uuid)["id"])
    assert [(one.key, one.by_name, one.text) for one in asked] == [
        ("title", "Salt", "Is this a name, or is it to be translated?")
    ]
    assert "What our translator sees" in httpx.get(asked[0].context).text
    assert ("job.asked", "bureau") in house.events()
    assert job(house, uuid)["done"] == 0, "the bureau waits"
    house.do("ida", lambda a: questions.answer(a, uuid, asked[0].id, "A name."))
    carried(house, outside, uuid, "returned")
    with house.desk.db.read() as conn:
        assert len(question_store.of_job(conn, job(house, uuid)["id"])) == 1


def ring(url: str, secret: str, id: str) -> httpx.Response:
    """Call as a bureau does."""
    at, name, body = (
        datetime.now(UTC).replace(microsecond=0),
        "msg-1",
        f'{{"type": "job.changed", "job": "{id}"}}',
    )
    signed = {
        "webhook-id": name,
        "webhook-timestamp": str(round(at.timestamp())),
        "webhook-signature": Signing(secret).sign(name, at, body),
    }
    return httpx.post(url, content=body, headers=signed)


def test_a_call_of_a_bureau_is_heard_only_with_its_secret_and_about_its_own_jobs(
    house: House, outside: Translators
) -> None:
    uuid = order(house)
    outside.pace(30)
    carrier = Carrier(house.desk, Options(allow_hosts=[outside.host]))
    for _ in range(3):
        carrier.step("one")
        house.clock.at += 30 * SECOND
    house.desk.db.write(lambda c: c.execute("UPDATE job SET ask_at = ?", (house.clock.at + 60 * SECOND,)))
    remote = job(house, uuid)["remote"]
    assert job(house, uuid)["ask_at"] > house.clock.at, "it would be asked later"
    _, other = house.do("ida", lambda a: bureaus.add(a, BureauDetails("Pepper", "https://pepper.example")))
    with serving(house) as (_, url):
        at, elsewhere = (f"{url}/api/bureaus/{n}/call" for n in (1, 2))
        assert httpx.post(at, json={"type": "job.changed", "job": remote}).status_code == 401
        assert ring(at, other, remote).status_code == 401
        assert ring(elsewhere, other, remote).status_code == 404, "another's job"
        assert ring(at, outside.secret, "nothing").status_code == 404
        assert ring(f"{url}/api/bureaus/99/call", other, remote).status_code == 401
        assert job(house, uuid)["ask_at"] > 0
        assert ring(at, outside.secret, remote).status_code == 202
        assert job(house, uuid)["ask_at"] == 0, "it is asked at once"
        house.do("ida", lambda a: translation.cancel(a, uuid))
        assert ring(at, outside.secret, remote).status_code == 409
        assert "although it was cancelled" in job(house, uuid)["trouble"]
        late = house.events().count(("job.late", "bureau"))
        assert (
            ring(at, outside.secret, remote).status_code,
            house.events().count(("job.late", "bureau")),
        ) == (409, late)
    carrier.close()


def test_what_comes_after_a_cancel_is_taken_when_the_job_is_opened_again(
    house: House, outside: Translators
) -> None:
    outside.order("late")
    outside.pace(0.2)
    uuid = order(house)
    carrier = Carrier(house.desk, Options(allow_hosts=[outside.host]))
    carrier.step("one")
    house.do("ida", lambda a: translation.cancel(a, uuid))
    outside.pace(0.001)
    for _ in range(10):
        carrier.step("one")
        house.clock.at += 30 * SECOND
    carrier.close()
    assert (job(house, uuid)["state"], revisions(house)) == ("cancelled", 0)
    house.do("ida", lambda a: translation.reopen(a, uuid))
    carried(house, outside, uuid, "returned")
    assert revisions(house) in (1, 2)


def test_a_bureau_hears_that_a_job_is_not_wanted_and_that_it_is_again(
    house: House, outside: Translators
) -> None:
    outside.pace(30)
    uuid = order(house)
    carrier = Carrier(house.desk, Options(allow_hosts=[outside.host]))
    carrier.step("one")
    remote = job(house, uuid)["remote"]
    line = carrier._line(house.desk.read(house.who("ida"), lambda v: translation.find(v, uuid)))
    assert line.look(remote).state == "accepted"
    house.do("ida", lambda a: translation.cancel(a, uuid))
    carrier.step("one")
    assert line.look(remote).state == "cancelled"
    house.do("ida", lambda a: translation.reopen(a, uuid))
    carrier.step("one")
    assert line.look(remote).state == "accepted"
    outside.pace(0.001)
    carrier.close()
    carried(house, outside, uuid, "returned")


def test_a_bureau_hears_of_another_day_unless_it_takes_none(house: House, outside: Translators) -> None:
    outside.pace(1000)
    for trouble, then in (("twice", "2030-05-01"), ("keep day", "2030-04-01")):
        outside.order(trouble)
        uuid = order(house, trouble)
        house.do("ida", lambda a, u=uuid: assigning.assign(a, u, due="2030-04-01"))
        carried(house, outside, uuid, "in work")
        assert job(house, uuid)["due_told"] == "2030-04-01"
        house.do("ida", lambda a, u=uuid: assigning.assign(a, u, due="2030-05-01"))
        carried(house, outside, uuid, "in work")
        assert job(house, uuid)["due_told"] == then
    assert job(house, uuid)["due_trouble"] == "The bureau takes no other day: The day is agreed."
    assert "2030-05-01" in httpx.get(outside.url).text


def test_every_trouble_is_tried_here() -> None:
    assert set(simulated.TROUBLES) == {
        "keep day",
        "refuse", "fail", "break tags", "truncate", "garbage", "slow", "twice", "late", "ask", "forget", "lie",
    }  # fmt: skip
