"""The translator's table: several people translate a job sentence by sentence, without losing anything of one another's."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import InTheWay, Invalid, NotFound, Refused, StaleRevision
from hawthorn.operations.access import people
from hawthorn.operations.runtime.act import setup_changed
from hawthorn.operations.translation import (
    accepting,
    exporting,
    importing,
    questions,
    sending,
    table,
    translation,
)
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.translation.table import Edit, Line, Place
from hawthorn.operations.views import my_work, show, show_jobs
from hawthorn.store import definitions
from tests.service.made import House

BODY = '<p>The lamp burned oil. It was lit <strong>each</strong> night.</p><p>See <a href="https://x.example/">the bell</a>.</p>'


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)

    def french(act: Any) -> None:
        definitions.add_locale(act.conn, "fr", "French")
        setup_changed(act)

    def translators(act: Any) -> None:
        for handle, role in (
            ("hanne", "translator"),
            ("kurt", "translator"),
            ("luc", "translation-reviewer"),
        ):
            held = [{"name": role, "locales": ["fr"]}, {"name": "staff"}]
            people.add_person(act, handle, handle.title(), f"{handle}@x.example", "long enough", held)

    made.do("ida", french)
    made.by_scheduler(translators)
    yield made
    made.close()


@pytest.fixture
def job(house: House) -> str:
    page = house.page("Lamp", body=BODY)
    house.do("ida", lambda a: sending.commission(a, Order((page,), ("fr",))))
    with house.desk.db.read() as conn:
        return str(conn.execute("SELECT uuid FROM job").fetchone()[0])


def lines(house: House, job: str) -> list[Line]:
    return house.desk.read(house.who("hanne"), lambda v: table.lines(v, job, 100))[0]


def line(house: House, job: str, begins: str) -> Line:
    return next(one for one in lines(house, job) if one.source.startswith(begins))


def write(house: House, job: str, begins: str, target: str, who: str = "hanne", **more: Any) -> None:
    one = line(house, job, begins)
    place = Place(one.entry, one.key, one.segment)
    edit = Edit(target, **({"before": one.target} | more))
    house.do(who, lambda a: table.save(a, job, place, edit))


def fields(house: House, job: str) -> dict[str, Any]:
    entry = lines(house, job)[0].entry
    found: dict[str, Any] = house.desk.read(house.who("wim"), lambda v: show.entry(v, entry, "fr"))["fields"]
    return found


def state(house: House, job: str) -> tuple[str, int]:
    found = house.desk.read(house.who("ida"), lambda v: translation.find(v, job))
    return found.state, found.done


def everything(house: House, job: str) -> None:
    write(house, job, "Lamp", "Lampe")
    write(house, job, "The lamp", "La lampe brûlait de l’huile.")
    write(house, job, "It was", "On l’allumait <1>chaque</1> nuit.")
    write(house, job, "See", "Voyez <1>la cloche</1>.")


def test_sentences_are_translated_put_in_and_accepted(house: House, job: str) -> None:
    assert [one.source for one in lines(house, job)] == [
        "Lamp",
        "The lamp burned oil.",
        "It was lit <1>each</1> night.",
        "See <1>the bell</1>.",
    ]
    assert line(house, job, "See").tags == [table.Chip("1", "a", False, True)]
    write(house, job, "The lamp", "La lampe brûlait de l’huile.")
    assert state(house, job) == ("in work", 0)
    with pytest.raises(InTheWay, match="No unit"):
        house.do("hanne", lambda a: table.deliver(a, job))
    write(house, job, "It was", "On l’allumait <1>chaque</1> nuit.")
    assert state(house, job) == ("in work", 1)
    found = house.do("hanne", lambda a: table.deliver(a, job))
    assert (found.applied, found.open, found.refused) == (1, 2, 0)
    assert "<strong>chaque</strong> nuit." in fields(house, job)["body"]
    everything(house, job)
    write(house, job, "It was", "On l’allumait <1>chaque</1> nuit.", remark="or “soir”?")
    assert state(house, job) == ("in work", 3)
    found = house.do("hanne", lambda a: table.deliver(a, job))
    assert (found.applied, found.open) == (2, 0)
    assert state(house, job) == ("returned", 3)
    done = line(house, job, "It was")
    assert (done.by, done.remark, done.state, done.outcome) == (
        "hanne",
        "or “soir”?",
        "translated",
        "applied",
    )
    assert house.do("luc", lambda a: accepting.accept(a, job)).left == 0
    assert {one.state for one in lines(house, job)} == {"final"}
    with pytest.raises(InTheWay):
        write(house, job, "Lamp", "Autre")


def test_two_write_in_one_sentence_and_neither_is_lost(house: House, job: str) -> None:
    write(house, job, "Lamp", "Lampe")
    with pytest.raises(StaleRevision, match="hanne wrote here meanwhile: Lampe"):
        write(house, job, "Lamp", "La lampe", "kurt", before="")
    # Whoever only says that what they saw is finished writes over nobody either.
    with pytest.raises(StaleRevision):
        write(house, job, "Lamp", "", "kurt", before="", state="initial", remark="Which lamp?")
    # The same words twice are no quarrel, and others in another sentence of the unit are none either.
    write(house, job, "Lamp", "Lampe", "kurt", before="")
    write(house, job, "The lamp", "La lampe brûlait.", "kurt")
    write(house, job, "It was", "Allumée <1>chaque</1> nuit.")
    assert (line(house, job, "The lamp").by, line(house, job, "It was").by) == ("kurt", "hanne")


def test_what_could_not_be_put_in_is_not_finished(house: House, job: str) -> None:
    with pytest.raises(Invalid, match="tag missing"):
        write(house, job, "See", "Voyez la cloche.")
    write(house, job, "See", "Voyez la cloche", state="initial")
    assert [f.code for f in line(house, job, "See").findings] == ["tags", "end"]
    with pytest.raises(Invalid, match="one of"):
        write(house, job, "Lamp", "Lampe", state="final")
    with pytest.raises(NotFound):
        house.do("hanne", lambda a: table.save(a, job, Place("x", "title", "s1"), Edit("y", "")))
    one = line(house, job, "Lamp")
    with pytest.raises(NotFound, match="no sentence s9"):
        house.do("hanne", lambda a: table.save(a, job, Place(one.entry, one.key, "s9"), Edit("y", "")))


def test_whoever_may_not_write_the_language_is_refused(house: House, job: str) -> None:
    one = line(house, job, "Lamp")
    place = Place(one.entry, one.key, one.segment)
    nora = [{"name": "staff"}]
    house.by_scheduler(lambda a: people.add_person(a, "nora", "Nora", "n@x.example", "long enough", nora))
    with pytest.raises(Refused):
        house.do("nora", lambda a: table.save(a, job, place, Edit("Lampe", "")))
    with pytest.raises(Refused):
        write(house, job, "Lamp", "Lampe", state="reviewed")
    write(house, job, "Lamp", "Lampe", "luc", state="reviewed")
    assert line(house, job, "Lamp").state == "reviewed"


def test_a_unit_that_is_sent_back_is_translated_anew_and_replaces_what_it_put_in(
    house: House, job: str
) -> None:
    everything(house, job)
    house.do("hanne", lambda a: table.deliver(a, job))
    title = line(house, job, "Lamp")
    with pytest.raises(Invalid, match="say why"):
        house.do("luc", lambda a: table.send_back(a, job, title.entry, title.key, " "))
    house.do("luc", lambda a: table.send_back(a, job, title.entry, title.key, "It is a lantern."))
    now = line(house, job, "Lamp")
    assert (now.trouble, now.target, now.state, now.outcome) == ("It is a lantern.", "Lampe", "initial", "")
    assert state(house, job) == ("in work", 2)
    assert fields(house, job)["title"] == "Lampe"
    write(house, job, "Lamp", "Lanterne")
    found = house.do("hanne", lambda a: table.deliver(a, job))
    assert (found.applied, found.conflict) == (1, 0)
    assert fields(house, job)["title"] == "Lanterne"
    assert line(house, job, "Lamp").trouble == ""
    with house.desk.db.read() as conn:
        told = conn.execute(
            "SELECT p.json FROM event e JOIN event_payload p USING (seq) WHERE e.kind = 'job.sent-back'"
        ).fetchone()[0]
    assert f'"translators":[{house.who("hanne").id}]' in told.replace(" ", "")


def test_what_is_written_after_it_was_put_in_is_put_in_again(house: House, job: str) -> None:
    everything(house, job)
    house.do("hanne", lambda a: table.deliver(a, job))
    write(house, job, "Lamp", "La lampe")
    assert house.do("hanne", lambda a: table.deliver(a, job)).applied == 1
    assert fields(house, job)["title"] == "La lampe"


def test_sentences_are_cut_and_joined(house: House, job: str) -> None:
    write(house, job, "The lamp", "La lampe brûlait de l’huile.")
    one = line(house, job, "The lamp")
    place = Place(one.entry, one.key, one.segment)
    house.do("hanne", lambda a: table.join(a, job, place))
    joined = line(house, job, "The lamp")
    assert joined.source == "The lamp burned oil. It was lit <1>each</1> night."
    assert (joined.target, joined.state) == ("La lampe brûlait de l’huile.", "initial")
    with pytest.raises(Invalid, match="inside tag 1"):
        house.do("hanne", lambda a: table.split(a, job, place, len("The lamp burned oil. It was lit ea")))
    house.do("hanne", lambda a: table.split(a, job, place, len("The lamp ")))
    assert [x.source for x in lines(house, job)][1:3] == [
        "The lamp",
        "burned oil. It was lit <1>each</1> night.",
    ]
    write(house, job, "The lamp", "La lampe")
    write(house, job, "burned", "brûlait, allumée <1>chaque</1> nuit.")
    house.do("hanne", lambda a: table.deliver(a, job))
    assert "La lampe brûlait, allumée <strong>chaque</strong> nuit." in fields(house, job)["body"]


def test_a_file_that_returns_takes_nothing_from_the_table(house: House, job: str) -> None:
    _, empty = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    write(house, job, "The lamp", "La lampe brûlait de l’huile.")
    house.do("hanne", lambda a: importing.import_file(a, job, empty))
    assert line(house, job, "The lamp").target == "La lampe brûlait de l’huile."
    # And the other way round: what is written here goes out with the file.
    _, data = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    assert "La lampe brûlait de l’huile.".encode() in data


def test_pages_of_the_table_are_its_units_in_order(house: House, job: str) -> None:
    found: list[str] = []
    cursor = ""
    while True:
        some, cursor = house.desk.read(house.who("hanne"), lambda v, c=cursor: table.lines(v, job, 1, c))
        assert len({one.key for one in some}) == 1
        found += [one.source for one in some]
        if not cursor:
            break
    assert found == [one.source for one in lines(house, job)]


def test_a_cancelled_job_takes_nothing_until_it_is_opened_again_and_has_lost_nothing(
    house: House, job: str
) -> None:
    write(house, job, "The lamp", "La lampe brûlait de l’huile.")
    write(house, job, "Lamp", "Lampe")
    house.do("hanne", lambda a: table.deliver(a, job))
    _, file = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    house.do("ida", lambda a: translation.cancel(a, job))
    for late in (lambda a: table.deliver(a, job), lambda a: importing.import_file(a, job, file)):
        with pytest.raises(InTheWay, match="was cancelled"):
            house.do("hanne", late)
    with pytest.raises(Refused):
        house.do("hanne", lambda a: translation.reopen(a, job))
    house.do("ida", lambda a: translation.reopen(a, job))
    assert state(house, job) == ("in work", 1)
    assert line(house, job, "The lamp").target == "La lampe brûlait de l’huile."
    with pytest.raises(InTheWay, match="not cancelled"):
        house.do("ida", lambda a: translation.reopen(a, job))
    everything(house, job)
    assert house.do("hanne", lambda a: table.deliver(a, job)).open == 0


def test_what_is_to_be_translated_waits_for_those_who_write_that_language(house: House, job: str) -> None:
    def waits(who: str) -> list[str]:
        found = house.desk.read(house.who(who), my_work.my_work)["waiting"]
        return [one["job"] for one in found if one["kind"] == "to translate"]

    assert waits("hanne") == [job]
    assert waits("ida") == waits("luc") == waits("wim") == []
    everything(house, job)
    house.do("hanne", lambda a: table.deliver(a, job))
    assert waits("hanne") == []


def test_a_translator_asks_and_whoever_commissioned_answers(house: House, job: str) -> None:
    one = line(house, job, "Lamp")
    place = (one.entry, one.key, one.segment)
    with pytest.raises(Invalid, match="in words"):
        house.do("hanne", lambda a: questions.ask(a, job, place, " "))
    made = house.do("hanne", lambda a: questions.ask(a, job, place, "A lamp, or the lamp?"))
    assert (made.by, made.answer, made.may_answer) == ("Hanne", "", False)
    with pytest.raises(Refused):
        house.do("luc", lambda a: questions.answer(a, job, made.id, "A lamp."))
    # Whoever writes the source may answer, too.
    house.do("wim", lambda a: questions.answer(a, job, made.id, "A lamp."))
    house.do("ida", lambda a: questions.answer(a, job, made.id, "The lamp."))
    found = house.desk.read(house.who("ida"), lambda v: show_jobs.job(v, job))["questions"]
    assert [(q.text, q.answer, q.answered_by) for q in found] == [
        ("A lamp, or the lamp?", "The lamp.", "Ida")
    ]
    with pytest.raises(NotFound):
        house.do("ida", lambda a: questions.answer(a, job, made.id + 1, "x"))
