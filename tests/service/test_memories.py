"""Translation memories: fed by what is accepted, looked up beside a sentence, filled from, and carried as TMX."""

from __future__ import annotations

import io
import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree
from rapidfuzz import process
from rapidfuzz.distance import Levenshtein
from translate.storage import tmx as independent

from hawthorn.core.errors import BadFile, InTheWay, Invalid, NotFound, Refused
from hawthorn.core.translation import matching, tmx
from hawthorn.core.translation.tmx import TmxUnit, Variant
from hawthorn.operations.access import people
from hawthorn.operations.runtime.act import setup_changed
from hawthorn.operations.translation import accepting, memories, memory_files, sending, table
from hawthorn.operations.translation.memories import Match
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.translation.table import Edit, Place
from hawthorn.operations.views import health
from hawthorn.store import definitions
from hawthorn.store import memories as store
from hawthorn.store.memories import New
from tests.service.made import House

HEAD = '<tmx version="1.4"><header srclang="en" creationtool="x" creationtoolversion="1" segtype="sentence" o-tmf="x" adminlang="en" datatype="xml"/><body>'


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)

    def french(act: Any) -> None:
        definitions.add_locale(act.conn, "fr", "French")
        setup_changed(act)

    made.do("ida", french)
    yield made
    made.close()


def job_for(house: House, title: str, body: str) -> str:
    page = house.page(title, body=body)
    house.do("ida", lambda a: sending.commission(a, Order((page,), ("fr",))))
    with house.desk.db.read() as conn:
        return str(conn.execute("SELECT uuid FROM job ORDER BY id DESC LIMIT 1").fetchone()[0])


def translate(house: House, job: str, said: dict[str, str]) -> None:
    for line in house.desk.read(house.who("ida"), lambda v: table.lines(v, job, 100))[0]:
        place = Place(line.entry, line.key, line.segment)
        edit = Edit(said[line.source], line.target)
        house.do("ida", lambda a, p=place, e=edit: table.save(a, job, p, e))
    house.do("ida", lambda a: table.deliver(a, job))
    house.do("ida", lambda a: accepting.accept(a, job))


def found(house: House, job: str, source: str, nth: int = 0) -> list[Match]:
    lines = house.desk.read(house.who("ida"), lambda v: table.lines(v, job, 100))[0]
    line = [one for one in lines if one.source == source][nth]
    return house.desk.read(
        house.who("ida"), lambda v: memories.beside(v, job, (line.entry, line.key, line.segment))
    )


FIRST = {
    "Lamps": "Lampes",
    "The lamp burned <1>colza</1> oil.": "La lampe brûlait de l’huile de <1>colza</1>.",
    "It was lit each night.": "On l’allumait chaque nuit.",
}


def test_what_is_accepted_is_found_beside_what_is_like_it(house: House) -> None:
    translate(
        house,
        job_for(house, "Lamps", "<p>The lamp burned <em>colza</em> oil. It was lit each night.</p>"),
        FIRST,
    )
    job = job_for(
        house,
        "Bells",
        "<p>The lamp burned <em>colza</em> oil. It was lit each night.</p><p>The lamp burned whale oil. It was lit "
        "each night.</p><p>Nothing like it at all.</p>",
    )
    same = found(house, job, "The lamp burned <1>colza</1> oil.")[0]
    assert (same.percent, same.band, same.target) == (
        101,
        "in context",
        FIRST["The lamp burned <1>colza</1> oil."],
    )
    near = found(house, job, "The lamp burned whale oil.")[0]
    assert (75 <= near.percent < 95, near.penalties) == (True, ["tags"])
    # A tag that the sentence at hand does not have is not put into it.
    assert near.target == "La lampe brûlait de l’huile de colza."
    assert [run.text for run in near.runs if run.how == "new"] == ["whale"]
    assert found(house, job, "It was lit each night.")[0].percent == 101
    # The same words after others are the same words, and no more.
    assert found(house, job, "It was lit each night.", 1)[0].percent == 100
    assert found(house, job, "Nothing like it at all.") == []


def test_a_sentence_that_would_not_be_found_is_named_when_the_file_is_checked(house: House) -> None:
    translate(house, job_for(house, "Lamps", "<p>It was lit each night.</p>"), FIRST)

    def wrong() -> list[str]:
        return house.desk.read(house.who("ida"), health.health)

    assert wrong() == []
    house.do("ida", lambda a: a.conn.execute("UPDATE memory_source SET hash = 'x' WHERE text = 'Lamps'"))
    assert [line for line in wrong() if "“Lamps”" in line]
    night = "UPDATE memory_source SET text = 'It was dark.' WHERE text LIKE 'It was lit%'"
    house.do("ida", lambda a: a.conn.execute(night))
    assert [line for line in wrong() if "“It was dark.”" in line]


def test_open_sentences_are_filled_and_stay_open_until_somebody_has_looked(house: House) -> None:
    translate(
        house,
        job_for(house, "Lamps", "<p>The lamp burned <em>colza</em> oil. It was lit each night.</p>"),
        FIRST,
    )
    job = job_for(house, "Bells", "<p>It was lit each night.</p><p>It was new.</p>")
    assert house.do("ida", lambda a: table.fill(a, job)) == 1
    line = next(
        one
        for one in house.desk.read(house.who("ida"), lambda v: table.lines(v, job, 100))[0]
        if one.source == "It was lit each night."
    )
    assert (line.target, line.state, line.origin) == ("On l’allumait chaque nuit.", "initial", "memory")
    with pytest.raises(InTheWay, match="No unit"):
        house.do("ida", lambda a: table.deliver(a, job))
    assert house.do("ida", lambda a: table.fill(a, job)) == 0
    place = Place(line.entry, line.key, line.segment)
    house.do("ida", lambda a: table.save(a, job, place, Edit(line.target, line.target)))
    assert house.do("ida", lambda a: table.deliver(a, job)).applied == 1


def test_a_memory_goes_out_and_in_as_tmx_that_others_read(house: House) -> None:
    translate(
        house,
        job_for(house, "Lamps", "<p>The lamp burned <em>colza</em> oil. It was lit each night.</p>"),
        FIRST,
    )
    ida = house.who("ida")
    home = house.desk.read(ida, memories.listing)[0]
    data = b"".join(memory_files.export(house.desk, ida, home.id, "", ""))
    read = independent.tmxfile.parsestring(data)
    assert {u.source: u.target for u in read.units}["Lamps"] == "Lampes"
    other = house.do("ida", lambda a: memories.add(a, "Elsewhere"))
    batch = memory_files.import_file(house.desk, ida, other.id, "x.tmx", io.BytesIO(data))
    assert (batch.read, batch.added, batch.refused, batch.state) == (3, 3, 0, "done")
    again = b"".join(memory_files.export(house.desk, ida, other.id, "", ""))
    assert again == data
    assert memory_files.import_file(house.desk, ida, other.id, "x.tmx", io.BytesIO(data)).known == 3
    assert house.do("ida", lambda a: memories.undo_import(a, other.id, batch.id)) is False
    assert house.desk.read(ida, lambda v: memories.sentences(v, other.id, ("", "", ""), 10, ""))[0] == []
    with pytest.raises(InTheWay, match="undone"):
        house.do("ida", lambda a: memories.undo_import(a, other.id, batch.id))


def test_a_memory_is_looked_after(house: House) -> None:
    translate(
        house,
        job_for(house, "Lamps", "<p>The lamp burned <em>colza</em> oil. It was lit each night.</p>"),
        FIRST,
    )
    ida = house.who("ida")
    home = house.desk.read(ida, memories.listing)[0]

    def sentences(words: str) -> list[store.Known]:
        return house.desk.read(ida, lambda v: memories.sentences(v, home.id, (words, "en", "fr"), 10, ""))[0]

    one = sentences("CHAQUE")[0]
    house.do("ida", lambda a: memories.edit(a, home.id, one.id, "Allumée chaque nuit."))
    assert (sentences("chaque")[0].text, sentences("chaque")[0].origin) == ("Allumée chaque nuit.", "edited")
    with pytest.raises(Invalid):
        house.do("ida", lambda a: memories.edit(a, home.id, one.id, "<1/> "))
    with pytest.raises(Refused, match="may not commission"):
        house.do("wim", lambda a: memories.edit(a, home.id, one.id, "x"))
    assert house.do("ida", lambda a: memories.remove(a, home.id, [one.id])) == 1
    with pytest.raises(NotFound):
        house.do("ida", lambda a: memories.remove(a, home.id, [one.id]))
    other = house.do("ida", lambda a: memories.add(a, "Elsewhere"))
    assert house.do("ida", lambda a: memories.merge(a, other.id, home.id)).units == 2
    assert [m.name for m in house.desk.read(ida, memories.listing)] == ["Elsewhere"]
    assert house.do("ida", lambda a: memories.end(a, other.id)) is False
    assert house.desk.read(ida, memories.listing) == []


def test_whoever_has_nothing_to_do_with_translation_sees_no_memory(house: House) -> None:
    made = house.do("ida", lambda a: memories.add(a, "Ours"))
    staff = [{"name": "staff"}]
    house.by_scheduler(lambda a: people.add_person(a, "nora", "Nora", "n@x.example", "long enough", staff))
    assert house.desk.read(house.who("nora"), memories.listing) == []
    with pytest.raises(Refused):
        house.desk.read(house.who("nora"), lambda v: memories.get(v, made.id))


@pytest.mark.parametrize(
    ("body", "expected"),
    [
        ('<tu><tuv xml:lang="en"><seg>A lamp</seg></tuv></tu>', "fewer than two languages"),
        (
            '<tu><tuv xml:lang="en"><seg>A</seg></tuv><tuv xml:lang="xx-!"><seg>B</seg></tuv></tu>',
            "no language",
        ),
        (
            '<tu><tuv xml:lang="en"><seg>A</seg></tuv><tuv xml:lang="sv"><seg>B</seg></tuv></tu>',
            "languages here",
        ),
    ],
)
def test_what_cannot_be_used_is_named_and_the_rest_taken(house: House, body: str, expected: str) -> None:
    good = '<tu><tuv xml:lang="en-GB"><seg>Bell</seg></tuv><tuv xml:lang="FR"><seg>Cloche</seg></tuv></tu>'
    ida = house.who("ida")
    made = house.do("ida", lambda a: memories.add(a, "Ours"))
    data = f"{HEAD}{body}{good}</body></tmx>".encode()
    batch = memory_files.import_file(house.desk, ida, made.id, "x.tmx", io.BytesIO(data))
    assert (batch.read, batch.added, batch.refused) == (2, 1, 1)
    assert batch.problems[0].startswith("unit 1: ")
    assert expected in batch.problems[0]


@pytest.mark.parametrize(
    "data",
    [
        b"<tmx><body><tu>",
        b"<xliff/>",
        b"no xml",
        b"",
        b'<!DOCTYPE tmx [<!ENTITY a "b">]><tmx version="1.4"><body/></tmx>',
    ],
)
def test_a_file_that_is_none_leaves_nothing_behind(house: House, data: bytes) -> None:
    good = "".join(
        f'<tu><tuv xml:lang="en"><seg>Bell {n}</seg></tuv><tuv xml:lang="fr"><seg>Cloche {n}</seg></tuv></tu>'
        for n in range(700)
    )
    ida = house.who("ida")
    made = house.do("ida", lambda a: memories.add(a, "Ours"))
    whole = f"{HEAD}{good}".encode() + data if data.startswith(b"<tmx><body>") else data
    with pytest.raises(BadFile):
        memory_files.import_file(house.desk, ida, made.id, "x.tmx", io.BytesIO(whole))
    assert house.desk.read(ida, lambda v: memories.sentences(v, made.id, ("", "", ""), 10, ""))[0] == []
    assert house.desk.read(ida, lambda v: memories.imports_into(v, made.id, 10, ""))[0][0].state == "failed"


def test_a_file_that_names_the_usual_dtd_is_read() -> None:
    data = b'<!DOCTYPE tmx SYSTEM "tmx14.dtd">' + HEAD.encode() + b"</body></tmx>"
    assert list(tmx.read(io.BytesIO(data))) == []


SENTENCE = st.lists(
    st.sampled_from(
        ["The ", "lamp", "<1>lit</1>", "<2/>", " & ", "&lt;", "  ", "灯台", "مصباح", "<3><4>b</4></3>"]
    ),
    min_size=1,
    max_size=6,
).map("".join)


@given(st.lists(st.tuples(SENTENCE, SENTENCE), max_size=4))
def test_sentences_go_through_tmx_as_they_are(some: list[tuple[str, str]]) -> None:
    units = [
        TmxUnit((Variant("en", a), Variant("fr", b)), "c", 1_700_000_000_000_000)
        for a, b in some
        if matching.plain(a).strip() and matching.plain(b).strip()
    ]
    data = b"".join(tmx.write(units, "en"))
    etree.fromstring(data)
    assert list(tmx.read(io.BytesIO(data))) == units


def test_near_matches_are_those_that_comparing_with_all_finds(house: House) -> None:
    """Few enough to compare all: what shares nothing rare is the only thing that may be missed."""
    rng = random.Random(7)
    words = ["".join(rng.choices("abdeiklmnoprstu", k=rng.randint(2, 8))) for _ in range(600)]
    made = house.do("ida", lambda a: memories.add(a, "Ours"))
    texts = list(dict.fromkeys(" ".join(rng.choices(words, k=rng.randint(4, 12))) for _ in range(3_000)))

    def fill(act: Any) -> None:
        row = memories.get(act, made.id)
        store.keep(
            act.conn,
            row.id,
            [New("en", t, matching.hash_of(t), matching.marks(t, "en"), "fr", f"F {t}") for t in texts],
            "imported",
            act.identity.id,
            act.now,
        )

    house.do("ida", fill)
    finder = store.Finder()
    wanted = have = 0
    with house.desk.db.read() as conn:
        for _ in range(300):
            asked = rng.choice(texts).split()
            asked[rng.randrange(len(asked))] = rng.choice(words)
            query = " ".join(asked)
            brute = process.extract(
                query, texts, scorer=Levenshtein.normalized_similarity, score_cutoff=0.75, limit=None
            )
            mine = dict(matching.best(query, finder.near(conn, matching.marks(query, "en"), "en"), 50))
            by_text = {
                text: mine[id]
                for id, text in finder.near(conn, matching.marks(query, "en"), "en")
                if id in mine
            }
            wanted += len(brute)
            have += sum(text in by_text for text, _, _ in brute)
    assert wanted > 200
    assert have >= 0.99 * wanted


def test_an_older_translation_is_worth_a_little_less() -> None:
    assert matching.judged(100, "A", "A", matching.OLD + 1) == matching.Likeness(99, ("old",))
    assert matching.judged(100, "<1>A</1>", "A", 0) == matching.Likeness(99, ("tags",))
    assert [matching.band(n) for n in (101, 100, 99, 94, 75, 74)] == [
        "in context",
        "exact",
        "95–99",
        "85–94",
        "75–84",
        "no match",
    ]
