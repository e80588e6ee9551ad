"""Glossaries: words found in whichever form they stand, checked beside a sentence, looked after, and carried as TBX."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree
from translate.storage import tbx as independent

from hawthorn.core.errors import BadFile, InTheWay, Invalid, NotFound, Refused
from hawthorn.core.translation import tbx
from hawthorn.core.translation.tbx import TbxConcept, TbxTerm
from hawthorn.core.translation.terms import STATUSES, Terms
from hawthorn.core.translation.wording import Called, Wording
from hawthorn.operations.access import people
from hawthorn.operations.translation import glossaries, glossary_files, sending, table
from hawthorn.operations.translation.glossaries import TermShown
from hawthorn.operations.translation.imports import ImportShown
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.translation.table import Edit, Place
from hawthorn.operations.views import health
from tests.service.made import House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French", de="German")
    yield made
    made.close()


@pytest.mark.parametrize(
    ("locale", "term", "text", "found"),
    [
        ("en", "lamp", "Two lamps, a Lamp, a lampshade", ["lamps", "Lamp"]),
        ("en", "lighthouse keeper", "The lighthouse keepers' rest", ["lighthouse keepers"]),
        ("en", "IT", "It was IT", ["IT"]),
        ("en", "it", "It was IT", ["It", "IT"]),
        ("de", "Turm", "Türme, des Turms, Turmuhr", ["Türme", "Turms"]),
        ("fr", "phare", "les phares; l’huile", ["phares"]),
        ("fr", "huile", "de l’huile", ["huile"]),
        ("fr", "cheval", "deux chevaux", ["chevaux"]),
        ("ja", "灯台", "古い灯台守と灯台", ["灯台", "灯台"]),
        ("ja", "ランプ", "ランプのランプシェード", ["ランプ"]),
        ("ar", "منارة", "المنارة والمنارات، بالمنارة", ["المنارة", "والمنارات", "بالمنارة"]),
        ("ar", "مصباح الميناء", "عند مِصباح المِيناء", ["مِصباح المِيناء"]),
        ("xx", "zork", "Zork zorks", ["Zork"]),
    ],
)
def test_a_term_is_found_in_whichever_form_it_stands(
    locale: str, term: str, text: str, found: list[str]
) -> None:
    hits = Terms(locale, [(7, term)]).find(text)
    assert [text[hit.start : hit.end] for hit in hits] == found
    assert {hit.id for hit in hits} <= {7}


def test_of_what_begins_at_one_place_the_longest_is_meant_and_of_what_is_written_alike_each() -> None:
    some = Terms("en", [(1, "fog"), (2, "fog bell"), (3, "fog bell"), (4, "bell")])
    hits = some.find("The fog bell in fog; a bell.")
    assert [hit.id for hit in hits] == [2, 3, 1, 4]


WORDS = st.lists(
    st.sampled_from(["lamp", "lamps", "bell", "fog", "霧", "منارة", "quay", "-", "."]), max_size=12
)


@given(st.lists(st.sampled_from(["lamp", "fog bell", "霧", "bell", "quay lamp"]), max_size=5), WORDS)
def test_what_is_found_stands_there_in_order_and_never_twice_at_a_place(
    terms: list[str], words: list[str]
) -> None:
    text = " ".join(words)
    hits = Terms("en", enumerate(terms)).find(text)
    places = [(hit.start, hit.end) for hit in hits]
    assert places == sorted(places)
    for (a, b), (c, d) in pairwise(places):
        assert (a, b) == (c, d) or b <= c
    for n, term in enumerate(terms):
        alone = not any(" " in other for other in terms)
        if term in words and alone:
            assert any(hit.id == n for hit in hits)


def test_what_the_target_calls_otherwise_is_said() -> None:
    ours = [Called(1, "keeper", note="Who tends a light."), Called(2, "lamp"), Called(3, "quay")]
    theirs = [
        Called(1, "gardien"),
        Called(1, "veilleur", "deprecated"),
        Called(2, "lampe"),
        Called(2, "lanterne", "admitted"),
    ]
    wording = Wording("en", "fr", ours, theirs)

    def said(source: str, target: str) -> list[str]:
        return [one.what.code for one in wording.findings(source, target)]

    assert said("The keepers lit two lamps.", "Les gardiens allumaient deux lampes.") == []
    assert said("The keepers lit two lamps.", "Les gardiens allumaient deux lanternes.") == []
    assert said("The keepers lit two lamps.", "Les gens allumaient deux feux.") == ["checking.glossary"] * 2
    assert said("The keeper slept.", "Le veilleur dormait.") == [
        "checking.glossary",
        "checking.deprecated_better",
    ]
    assert said("Nobody slept.", "Le veilleur dormait.") == ["checking.deprecated_better"]
    assert said("The keeper slept.", "") == [], "nothing is written yet"
    assert said("The quay.", "La rive.") == [], "has no name there"
    hits = wording.hits("The keeper at the quay")
    assert [(hit.text, hit.note, [one.text for one in hit.targets]) for hit in hits] == [
        ("keeper", "Who tends a light.", ["gardien", "veilleur"])
    ]


def made(house: House, name: str = "Words") -> str:
    uuid = house.do("ida", lambda a: glossaries.add(a, name)).id
    terms = [TermShown("en", "keeper"), TermShown("fr", "gardien"), TermShown("fr", "veilleur", "deprecated")]
    house.do("ida", lambda a: glossaries.put(a, uuid, "Who tends a light.", terms))
    return uuid


def concepts(house: House, uuid: str, words: str = "", locale: str = "") -> list[list[str]]:
    found, _ = house.desk.read(
        house.who("ida"), lambda v: glossaries.concepts(v, uuid, words, locale, 100, "")
    )
    return [[t.text for t in one.terms] for one in found]


def test_words_stand_beside_a_sentence_and_are_checked_as_one_types(house: House) -> None:
    uuid = made(house)
    page = house.page("Lamps", body="<p>The <b>keeper</b>s slept.</p>")
    house.do("ida", lambda a: sending.commission(a, Order((page,), ("fr",))))
    with house.desk.db.read() as conn:
        job = str(conn.execute("SELECT uuid FROM job").fetchone()[0])

    def line() -> table.Line:
        lines = house.desk.read(house.who("ida"), lambda v: table.lines(v, job, 100))[0]
        return next(one for one in lines if one.key.startswith("body"))

    word = line().words[0]
    assert (word.text, word.note, word.targets[0].text) == ("keepers", "Who tends a light.", "gardien")
    place = Place(line().entry, line().key, line().segment)
    target = "Les <1>veilleurs</1> dormaient."
    found = house.desk.read(house.who("ida"), lambda v: table.check(v, job, place, target))
    assert [one.code for one in found] == ["glossary", "glossary"]
    assert not any(one.blocks for one in found), "whoever translates knows better"
    house.do("ida", lambda a: table.save(a, job, place, Edit(target, "")))
    assert [one.code for one in line().findings] == ["glossary", "glossary"]
    # What the glossary says is said from then on.
    concept = house.desk.read(house.who("ida"), lambda v: glossaries.concepts(v, uuid, "", "", 1, ""))[0][0]
    other = [TermShown("en", "keeper"), TermShown("fr", "veilleur")]
    house.do("ida", lambda a: glossaries.write(a, uuid, concept.id, "", other))
    assert line().findings == []
    house.do("ida", lambda a: glossaries.drop(a, uuid, [concept.id]))
    assert (line().words, line().findings) == ([], [])


def test_concepts_are_found_by_words_in_any_language_and_kept_as_they_are_written(house: House) -> None:
    uuid = made(house)
    house.do("ida", lambda a: glossaries.put(a, uuid, "", [TermShown("en", "quay"), TermShown("de", "Kai")]))
    assert concepts(house, uuid, "GARD") == [["keeper", "gardien", "veilleur"]]
    assert concepts(house, uuid, locale="de") == [["quay", "Kai"]]
    assert concepts(house, uuid, "quay", "fr") == []
    for terms, says in (
        ([], "at least one"),
        ([TermShown("xx", "a")], "en"),
        ([TermShown("en", "a", "nice")], "preferred"),
        ([TermShown("en", " ")], "at least one"),
        ([TermShown("en", "a" * 300)], "300"),
    ):
        with pytest.raises(Invalid, match=says):
            house.do("ida", lambda a, t=terms: glossaries.put(a, uuid, "", t))
    with pytest.raises(NotFound):
        house.do("ida", lambda a: glossaries.write(a, uuid, 999, "", [TermShown("en", "a")]))
    with pytest.raises(InTheWay):
        house.do("ida", lambda a: glossaries.add(a, "Words"))
    assert len(concepts(house, uuid)) == 2


def test_a_term_that_would_not_be_found_is_named_when_the_file_is_checked(house: House) -> None:
    made(house)
    assert house.desk.read(house.who("ida"), health.health) == []
    house.do("ida", lambda a: a.conn.execute("UPDATE term SET folded = 'x' WHERE ord = 0"))
    assert house.desk.read(house.who("ida"), health.health)


def test_those_who_translate_use_a_glossary_and_those_who_commission_look_after_it(house: House) -> None:
    uuid = made(house)
    staff = [{"name": "reader"}]
    house.do("ida", lambda a: people.add_person(a, "sam", "Sam", "sam@x.example", "long enough", staff))
    assert [one.may_manage for one in house.desk.read(house.who("wim"), glossaries.listing)] == [False]
    assert house.desk.read(house.who("sam"), glossaries.listing) == []
    with pytest.raises(Refused):
        house.do("wim", lambda a: glossaries.put(a, uuid, "", [TermShown("en", "a")]))
    with pytest.raises(Refused):
        house.desk.read(house.who("sam"), lambda v: glossaries.concepts(v, uuid, "", "", 10, ""))


def exported(house: House, uuid: str) -> bytes:
    return b"".join(house.desk.read(house.who("ida"), lambda v: glossary_files.export(v, uuid)))


def imported(house: House, uuid: str, data: bytes) -> ImportShown:
    return glossary_files.import_file(house.desk, house.who("ida"), uuid, "words.tbx", io.BytesIO(data))


def test_a_glossary_goes_out_as_tbx_that_others_read_and_comes_in_again_once(house: House) -> None:
    uuid = made(house)
    data = exported(house, uuid)
    # What that knows are the names of the edition of 2008.
    older = data.replace(b' xmlns="urn:iso:std:iso:30042:ed-2"', b"")
    names = {
        "tbx": "martif",
        "tbxHeader": "martifHeader",
        "conceptEntry": "termEntry",
        "langSec": "langSet",
        "termSec": "tig",
    }
    for now, then in names.items():
        older = re.sub(rf"(</?){now}\b".encode(), rf"\1{then}".encode(), older)
    other = independent.tbxfile.parsestring(older)
    assert [(unit.source, unit.target) for unit in other.units] == [("keeper", "gardien")]
    second = house.do("ida", lambda a: glossaries.add(a, "Second")).id
    found = imported(house, second, data)
    assert (found.added, found.known) == (1, 0)
    assert exported(house, second).replace(b"Second", b"Words") == data
    again = imported(house, second, data)
    assert (again.added, again.known) == (0, 1)
    assert house.do("ida", lambda a: glossaries.undo_import(a, second, found.id)) is False
    assert concepts(house, second) == []
    with pytest.raises(InTheWay):
        house.do("ida", lambda a: glossaries.undo_import(a, second, found.id))


def test_what_somebody_wrote_since_is_not_undone(house: House) -> None:
    uuid = house.do("ida", lambda a: glossaries.add(a, "Words")).id
    file = b"".join(
        tbx.write(
            [TbxConcept((TbxTerm("en", w), TbxTerm("fr", f"le {w}"))) for w in ("quay", "mole")], "en", "x"
        )
    )
    found = imported(house, uuid, file)
    first = house.desk.read(house.who("ida"), lambda v: glossaries.concepts(v, uuid, "quay", "", 1, ""))[0][0]
    house.do(
        "ida",
        lambda a: glossaries.write(a, uuid, first.id, "", [TermShown("en", "quay"), TermShown("fr", "quai")]),
    )
    assert house.do("ida", lambda a: glossaries.undo_import(a, uuid, found.id)) is False
    assert concepts(house, uuid) == [["quay", "quai"]]


OLDER = b"""<?xml version="1.0"?><!DOCTYPE martif SYSTEM "TBXcoreStructV02.dtd"><martif type="TBX" xml:lang="en"><martifHeader/>
<text><body><termEntry id="a"><note>Not in the sea.</note><langSet xml:lang="en-GB"><tig><term>quay</term></tig></langSet>
<langSet xml:lang="fr"><ntig><termGrp><term>quai</term><termNote type="administrativeStatus">admittedTerm-admn-sts</termNote></termGrp>
</ntig></langSet></termEntry><termEntry id="b"><langSet xml:lang="la"><tig><term>portus</term></tig></langSet></termEntry>
<termEntry id="c"><langSet xml:lang="en"/></termEntry></body></text></martif>"""


def test_an_older_file_is_read_and_what_cannot_be_used_is_named(house: House) -> None:
    uuid = house.do("ida", lambda a: glossaries.add(a, "Words")).id
    found = imported(house, uuid, OLDER)
    assert (found.read, found.added, found.refused) == (3, 1, 2)
    assert "concept 2: is in la" in found.problems[0]
    assert "has no terms" in found.problems[1]
    shown = house.desk.read(house.who("ida"), lambda v: glossaries.concepts(v, uuid, "", "", 9, ""))[0][0]
    assert (shown.note, [(t.locale, t.text, t.status) for t in shown.terms]) == (
        "Not in the sea.",
        [("en", "quay", "preferred"), ("fr", "quai", "admitted")],
    )


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "not well-formed"),
        (b"<tmx/>", "not a TBX"),
        (b"<tbx><text>", "not well-formed"),
        (b'<!DOCTYPE tbx [<!ENTITY a "b">]><tbx/>', "document type"),
        ("<tbx/>".encode("utf-16"), ""),
    ],
)
def test_a_file_that_is_none_is_refused_and_leaves_nothing(house: House, data: bytes, says: str) -> None:
    uuid = made(house)
    if says:
        with pytest.raises(BadFile, match=says):
            imported(house, uuid, data)
    else:
        assert imported(house, uuid, data).read == 0
    assert len(concepts(house, uuid)) == 1


@given(
    st.lists(
        st.builds(
            TbxConcept,
            st.lists(
                st.builds(
                    TbxTerm,
                    st.sampled_from(["en", "fr", "ja"]),
                    st.text(
                        st.characters(codec="utf-8", categories=("L", "P", "S", "Zs")),
                        min_size=1,
                        max_size=30,
                    )
                    .map(lambda t: " ".join(t.split()))
                    .filter(bool),
                    st.sampled_from(STATUSES),
                ),
                min_size=1,
                max_size=4,
            ).map(lambda some: tuple(sorted(some, key=lambda one: one.locale))),
            st.text("abc <&>é", max_size=20).map(lambda t: " ".join(t.split())),
        ),
        max_size=4,
    )
)
def test_a_file_brings_what_it_took(some: list[TbxConcept]) -> None:
    data = b"".join(tbx.write(some, "en", "Words & more"))
    etree.fromstring(data)
    assert list(tbx.read(io.BytesIO(data))) == some


def test_another_glossary_is_put_into_one_and_what_both_call_the_same_is_there_once(house: House) -> None:
    def made(name: str, *concepts: list[tuple[str, str, str]]) -> str:
        uuid: str = house.do("ida", lambda a: glossaries.add(a, name)).id
        for terms in concepts:
            house.do("ida", lambda a, t=terms: glossaries.put(a, uuid, "", [TermShown(*one) for one in t]))
        return uuid

    keeper = [("en", "keeper", "preferred"), ("fr", "gardien", "preferred")]
    ours = made("Ours", keeper)
    theirs = made("Theirs", keeper, [("en", "oar", "preferred"), ("fr", "rame", "preferred")])
    found = house.do("ida", lambda a: glossaries.merge(a, ours, theirs))
    assert (found.name, found.concepts) == ("Ours", 2)
    assert [one.id for one in house.desk.read(house.who("ida"), glossaries.listing)] == [ours]
    shown, _ = house.desk.read(house.who("ida"), lambda v: glossaries.concepts(v, ours, "", "", 10, ""))
    assert [[term.text for term in one.terms] for one in shown] == [["keeper", "gardien"], ["oar", "rame"]]
    with pytest.raises(Invalid, match="itself"):
        house.do("ida", lambda a: glossaries.merge(a, ours, ours))
    with pytest.raises(NotFound):
        house.do("ida", lambda a: glossaries.merge(a, ours, theirs))
