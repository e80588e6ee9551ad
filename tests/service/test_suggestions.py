"""Suggestions of a machine: asked for a sentence or a whole job, marked as unread, and never for what a type marks as confidential."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.core.errors import InTheWay, Refused
from hawthorn.core.timeline import SECOND
from hawthorn.followers import machine, outgoing
from hawthorn.followers.drafter import Drafter
from hawthorn.operations.access import people
from hawthorn.operations.content import changing, entries
from hawthorn.operations.translation import commissions, exporting, suggestions, table
from hawthorn.store import job_lists
from hawthorn.store import jobs as job_store
from tests.followers.partners import Anything, Translators, translators
from tests.followers.test_followers import Options
from tests.service.made import House

SECRET = {
    "name": "visitor", "label": "Visitor", "workflow": "short",
    "fields": [
        {"name": "title", "kind": "line", "required": True},
        {"name": "story", "kind": "text"},
        {"name": "illness", "kind": "text", "confidential": True},
    ],
}  # fmt: skip


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    yield made
    made.close()


@pytest.fixture(scope="module")
def outside() -> Iterator[Translators]:
    with translators(1) as found:
        yield found


def sent(house: House, page: str, **settings: Any) -> str:
    uuid = house.do("ida", lambda a: commissions.open_one(a, "Spring"))
    house.do("ida", lambda a: commissions.put(a, uuid, [page]))
    house.do("ida", lambda a: commissions.change(a, uuid, {"targets": [{"locale": "fr"}], **settings}))
    house.do("ida", lambda a: commissions.send(a, uuid))
    with house.desk.db.read() as conn:
        return job_lists.newest(conn, 1)[0].uuid


def lines(house: House, job: str) -> dict[str, tuple[str, str, str]]:
    found, _ = house.desk.read(house.who("ida"), lambda v: table.lines(v, job, 100, ""))
    return {f"{one.key} {one.segment}": (one.target, one.state, one.origin) for one in found}


def drafted(
    house: House, wire: Anything, monkeypatch: pytest.MonkeyPatch, steps: int = 2, **options: Any
) -> None:
    monkeypatch.setattr(outgoing, "caller", lambda *_: httpx.Client(transport=wire))
    given = {
        "machine_url": "http://machine.example",
        "machine_key": "k",
        "allow_hosts": ["machine.example"],
        **options,
    }
    drafter = Drafter(house.desk, Options(**given))
    for _ in range(steps):
        drafter.step("one")
        house.clock.at += 1000 * SECOND
    drafter.close()


def french(request: httpx.Request) -> object:
    asked = json.loads(request.content)["sentences"]
    return json.dumps({"sentences": [f"FR {one}" for one in asked]})


def test_a_machine_drafts_what_is_open_and_people_see_that_nobody_has_looked(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    body = "<p>The <strong>lamp</strong> burned. It was lit.</p>"
    job = sent(house, house.page("Lamps", body=body), machine=True)
    wire = Anything(french)
    drafted(house, wire, monkeypatch)
    found = lines(house, job)
    assert set(found.values()) == {
        ("FR Lamps", "initial", "machine"),
        ("FR The <1>lamp</1> burned.", "initial", "machine"),
        ("FR It was lit.", "initial", "machine"),
    }
    assert wire.calls == ["POST /v1/suggestions"]
    with house.desk.db.read() as conn:
        row = job_store.by_uuid(conn, job)
    assert row is not None
    assert (row.done, ("job.filled", "scheduler") in house.events()) == (0, True)
    file = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))[1]
    assert b"FR " not in file, "what nobody has looked at does not leave the house"


def test_nothing_that_a_type_marks_as_confidential_is_ever_sent(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    house.do("ida", lambda a: changing.define_type(a, SECRET))
    fields = {"title": "A guest", "story": "She came by boat.", "illness": "The gout."}
    job = sent(house, house.do("ida", lambda a: entries.start(a, "visitor", "en", fields)), machine=True)
    bodies: list[bytes] = []

    def heard(request: httpx.Request) -> object:
        bodies.append(request.content)
        return french(request)

    drafted(house, Anything(heard), monkeypatch)
    assert b"gout" not in b"".join(bodies)
    assert b"boat" in b"".join(bodies)
    found = lines(house, job)
    assert [text for key, (text, _, _) in found.items() if key.startswith("illness")] == [""]
    place = next(
        (one.entry, one.key, one.segment)
        for one in house.desk.read(house.who("ida"), lambda v: table.lines(v, job, 100, ""))[0]
        if one.key == "illness"
    )
    with pytest.raises(InTheWay, match="confidential"):
        house.desk.read(house.who("ida"), lambda v: suggestions.one(v, job, place))
    # Nor of an entry of a type that is confidential as a whole; and what came all the same is not put in.
    house.do("ida", lambda a: changing.define_type(a, {**SECRET, "confidential": True}))
    _, asked = house.desk.read(house.who("ida"), lambda v: suggestions.to_draft(v, job))
    assert asked == []
    assert house.do("ida", lambda a: suggestions.draft(a, job, {place: "La goutte."})) == 0


@pytest.mark.parametrize(
    "answer",
    [500, 404, "", "[]", '{"sentences": ["one"]}', '{"sentences": [1, 2, 3]}', '{"sentences": null}', httpx.Response(302)],
)  # fmt: skip
def test_what_a_machine_answers_otherwise_is_tried_again_and_said_in_the_end(
    house: House, monkeypatch: pytest.MonkeyPatch, answer: object
) -> None:
    job = sent(house, house.page("Lamps"), machine=True)
    drafted(house, Anything(lambda _: answer), monkeypatch, Drafter.tries + 1)
    with house.desk.db.read() as conn:
        row = job_store.by_uuid(conn, job)
    assert row is not None
    assert "The machine drafted nothing" in row.trouble
    assert row.state in ("waiting", "in work"), "it is translated all the same"
    assert {target for target, _, _ in lines(house, job).values()} == {""}


def test_a_job_that_cannot_be_drafted_keeps_no_other_from_it(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    broken = sent(house, house.page("Lamps"), machine=True)
    fine = sent(house, house.page("Bells"), machine=True)
    to_draft = suggestions.to_draft

    def wrong(view: Any, uuid: str) -> Any:
        if uuid == broken:
            raise KeyError("nothing")
        return to_draft(view, uuid)

    monkeypatch.setattr(suggestions, "to_draft", wrong)
    drafted(house, Anything(french), monkeypatch, Drafter.tries + 1)
    assert {target for target, _, _ in lines(house, broken).values()} == {""}
    assert "" not in {target for target, _, _ in lines(house, fine).values()}
    with house.desk.db.read() as conn:
        row = job_store.by_uuid(conn, broken)
    assert row is not None
    assert "The machine drafted nothing" in row.trouble


def test_without_a_machine_nothing_waits_for_one(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    job = sent(house, house.page("Lamps"), machine=True)
    wire = Anything(french)
    drafted(house, wire, monkeypatch, 1, machine_url="")
    with house.desk.db.read() as conn:
        row = job_store.by_uuid(conn, job)
    assert row is not None
    assert ("No machine is set" in row.trouble, wire.calls) == (True, [])
    with pytest.raises(machine.NoSuggestions), httpx.Client() as http:
        machine.suggest(http, Options(), "en", "fr", ["x"])


def test_what_somebody_wrote_meanwhile_stays_and_broken_tags_are_left_out(house: House) -> None:
    body = '<p>The <a href="https://lamps.example/">lamp</a> burned.</p>'
    job = sent(house, house.page("Lamps", body=body))
    _, asked = house.desk.read(house.who("ida"), lambda v: suggestions.to_draft(v, job))
    title, paragraph = (place for place, _ in asked)
    assert (
        house.do("ida", lambda a: suggestions.draft(a, job, {title: "Lampes", paragraph: "La lampe."})) == 1
    )
    assert house.do("ida", lambda a: suggestions.draft(a, job, {title: "Autre"})) == 0, (
        "one stands there already"
    )
    assert (
        house.do("ida", lambda a: suggestions.draft(a, job, {paragraph: "La <1>lampe</1><9/> brûlait."})) == 1
    )
    assert sorted(text for text, _, _ in lines(house, job).values()) == ["La <1>lampe</1> brûlait.", "Lampes"]
    role = [{"name": "reader"}]
    house.by_scheduler(lambda a: people.add_person(a, "nell", "Nell", "nell@x.example", "long enough", role))
    with pytest.raises(Refused):
        house.desk.read(house.who("nell"), lambda v: suggestions.one(v, job, title))


def test_the_machine_that_ships_answers_the_protocol(outside: Translators) -> None:
    options = Options(
        machine_url=f"{outside.url}/machine", machine_key=outside.key, allow_hosts=[outside.host]
    )
    with outgoing.caller(options.allow_hosts) as http:
        found = machine.suggest(http, options, "en", "fr", ["The <1>fog bell</1>", "Qwertz."])
        assert found[0].count("<1>") == found[0].count("</1>") == 1
        assert found[0] != "The <1>fog bell</1>"
        assert found[1] == "", "it has none for what it knows no word of"
        with pytest.raises(machine.NoSuggestions, match="401"):
            machine.suggest(
                http, Options(machine_url=options.machine_url, allow_hosts=[outside.host]), "en", "fr", ["x"]
            )
