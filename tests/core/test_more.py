"""Field kinds, paragraph_ids under random edits, XLIFF as other tools write it, returns, and access, by property."""

from __future__ import annotations

import io
import random
import string
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import access, aligning, contenttypes, fields, formats, richtext
from hawthorn.core.access import Grant, Subject
from hawthorn.core.errors import BadFile, Invalid
from hawthorn.core.fields import Field
from hawthorn.core.merge import merge
from hawthorn.core.revision import EMPTY
from hawthorn.core.translation import composing, returns, tags, units
from hawthorn.core.translation.returns import Sent
from hawthorn.messages import ENGLISH
from tests.core.made import LABEL, bases, content, edits, rich

JUNK = st.one_of(
    st.none(), st.booleans(), st.integers(), st.floats(), st.text(max_size=30), st.binary(max_size=5),
    st.lists(st.text(max_size=8), max_size=4), st.dictionaries(st.text(max_size=4), st.integers(), max_size=3),
)  # fmt: skip


@given(st.sampled_from(sorted(fields.KINDS)), st.booleans(), JUNK)
def test_any_value_is_taken_in_its_one_form_or_refused_in_words(kind: str, many: bool, value: object) -> None:
    spec = Field("x", kind, "X", many=many, choices=("a", "b"))
    refused: fields.Wrong | None = None
    try:
        once = fields.canonical_value(spec, value)
    except fields.Wrong as wrong:
        refused = wrong
    if refused is not None:
        assert str(refused)
        return
    assert fields.canonical_value(spec, once) == once
    assert isinstance(fields.readable(spec, once, fields.Reading()), str)
    assert isinstance(fields.references(spec, once), set)


@pytest.mark.parametrize(
    ("kind", "value", "stored"),
    [
        ("line", "  a \n b ", "a b"),
        ("text", "a\r\nb ", "a\nb"),
        ("line", "e\u0301", "é"),
        ("line", "a\x00b", "ab"),
        ("slug", " Été ", "été"),
        ("number", 4.0, 4),
        ("number", 4.5, 4.5),
        ("date", "2027-03-31", "2027-03-31"),
        ("boolean", False, False),
        (
            "reference",
            "urn:uuid:018F0000-0000-7000-8000-000000000000",
            "018f0000-0000-7000-8000-000000000000",
        ),
        ("rich", "<p> a </p><p></p>", "<p>a</p>"),
        ("rich", "", None),
        ("line", "   ", None),
    ],
)
def test_values_have_one_stored_form(kind: str, value: object, stored: object) -> None:
    assert fields.canonical_value(Field("x", kind, "X"), value) == stored


@pytest.mark.parametrize("value", [True, float("nan"), 1e16, "4", [4]])
def test_what_is_no_number_is_refused(value: object) -> None:
    with pytest.raises(fields.Wrong):
        fields.canonical_value(Field("x", "number", "X"), value)


def test_repeats_in_a_list_are_kept_once_and_limits_count_values() -> None:
    spec = Field("x", "tags", "X", limit=2)
    assert fields.canonical_value(spec, ["a", "a", " a "]) == ["a"]
    with pytest.raises(fields.Wrong, match="3 values"):
        fields.canonical_value(spec, ["a", "b", "c"])


@pytest.mark.parametrize(
    ("definition", "says"),
    [
        ({"name": "Bad Name", "fields": []}, "small letters"),
        (
            {"name": "x", "fields": [{"name": "title", "kind": "line"}, {"name": "title", "kind": "line"}]},
            "is there twice",
        ),
        ({"name": "x", "fields": [{"name": "name", "kind": "line"}]}, "not one of the fields"),
        (
            {"name": "x", "fields": [{"name": "title", "kind": "line", "colour": 1}]},
            "not something it has",
        ),
    ],
)
def test_a_definition_is_checked_whole(definition: dict, says: str) -> None:
    with pytest.raises(Invalid, match=says):
        contenttypes.from_dict(definition)


def sentence(rng: random.Random) -> str:
    return " ".join(
        "".join(rng.choice(string.ascii_lowercase) for _ in range(rng.randint(2, 9)))
        for _ in range(rng.randint(8, 30))
    )


def test_nearly_all_paragraphs_keep_their_identity_under_random_edits() -> None:
    rng = random.Random(20)
    kept = total = 0
    for _ in range(120):
        texts = [(n, sentence(rng)) for n in range(rng.randint(4, 14))]
        ids = aligning.align([richtext.Paragraph((), "p", t) for _, t in texts], [], ())
        names = {n: v.id for (n, _), v in zip(texts, ids, strict=True)}
        edited = list(texts)
        for _ in range(rng.randint(1, 4)):
            act = rng.choice(["word", "word", "insert", "remove", "move"])
            at = rng.randrange(len(edited))
            if act == "word":
                n, words = edited[at][0], edited[at][1].split()
                words[rng.randrange(len(words))] = sentence(rng).split()[0]
                edited[at] = (n, " ".join(words))
            elif act == "insert":
                edited.insert(at, (-1, sentence(rng)))
            elif act == "remove" and len(edited) > 2:
                edited.pop(at)
            else:
                edited.insert(rng.randrange(len(edited)), edited.pop(at))
        after = aligning.align(
            [richtext.Paragraph((), "p", t) for _, t in edited],
            [richtext.Paragraph((), "p", t) for _, t in texts],
            ids,
        )
        for (n, _), one in zip(edited, after, strict=True):
            if n >= 0:
                total += 1
                kept += names[n] == one.id
    assert kept / total > 0.99


@given(bases().flatmap(lambda b: st.tuples(st.just(b), edits(b), edits(b), edits(b))))
def test_merging_a_third_side_in_either_order_meets_the_same_words(sides: tuple) -> None:
    base, one, two, three = sides
    first = merge(LABEL, base, one, two)
    second = merge(LABEL, base, two, three)
    if first.conflicts or second.conflicts:
        return
    left, right = merge(LABEL, base, first.content, three), merge(LABEL, base, one, second.content)
    if left.conflicts or right.conflicts:
        return
    assert sorted(v.id for v in left.content.paragraph_ids.get("body", ())) == sorted(
        v.id for v in right.content.paragraph_ids.get("body", ())
    )
    assert {k: v for k, v in left.content.fields.items() if k != "body"} == {
        k: v for k, v in right.content.fields.items() if k != "body"
    }


XLIFF = """<?xml version="1.0"?><xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.0" srcLang="en" trgLang="fr">
<file id="f1" original="urn:uuid:1"><unit id="body.p1">{inside}</unit></file></xliff>"""


def read_unit(inside: str) -> returns.Returned:
    return formats.read(XLIFF.format(inside=inside).encode()).files[0][1][0]


@pytest.mark.parametrize(
    ("target", "parts"),
    [
        ("a <pc id='1'>b</pc> c", ("a ", tags.Tag("1", "open"), "b", tags.Tag("1", "close"), " c")),
        (
            "a <sc id='1'/>b<ec startRef='1'/> c",
            ("a ", tags.Tag("1", "open"), "b", tags.Tag("1", "close"), " c"),
        ),
        ("a<ph id='2'/>b", ("a", tags.Tag("2", "empty"), "b")),
        ("a <mrk id='m1' type='term'>b</mrk> c", ("a b c",)),
        ("a<cp hex='0000'/>b<cp hex='00E9'/>", ("abé",)),
        ("<![CDATA[a < b]]>", ("a < b",)),
        ("a<!-- note -->b", ("ab",)),
    ],
)
def test_files_are_read_as_other_tools_write_them(target: str, parts: tuple) -> None:
    unit = read_unit(
        f"<segment id='s1' state='translated'><source>x</source><target>{target}</target></segment>"
    )
    assert unit.segments[0].target == parts
    assert unit.segments[0].state == "translated"


def test_targets_stand_in_the_order_that_the_file_says() -> None:
    unit = read_unit(
        "<segment id='s1'><source>A. </source><target order='2'>a. </target></segment>"
        "<segment id='s2'><source>B. </source><target order='1'>b. </target></segment>"
    )
    assert [tags.words_of(s.target or ()) for s in unit.segments] == ["b. ", "a. "]


def test_what_a_translator_puts_in_notes_and_says_of_its_language_is_read() -> None:
    unit = read_unit(
        "<notes><note id='n1'>Which lamp?</note></notes><segment><source>x</source>"
        "<target xml:lang='de'>a <pc id='9' type='fmt' subType='xlf:b'>b</pc><ph id='8' copyOf='2'/></target></segment>"
    )
    assert unit.notes == ("Which lamp?",)
    assert unit.language == "de"
    assert [p.of for p in unit.segments[0].target if isinstance(p, tags.Tag)] == ["strong", "", "2"]


def test_a_unit_may_come_back_segmented_otherwise() -> None:
    source = content({"title": "T", "body": "<p>One here. Two <em>there</em>.</p>"})
    unit = units.units_of(LABEL, source, "en")[1]
    back = read_unit(
        "<segment id='s1'><source>One here. Two <pc id='1'>there</pc>.</source>"
        "<target>Un ici. Deux <pc id='1'>là</pc>.</target></segment>"
    )
    texts = returns.verify({unit.key: Sent(unit, None)}, [replace(back, key=unit.key)], "fr").texts
    assert texts == {unit.key: "Un ici. Deux <em>là</em>."}


@given(rich, st.data())
def test_every_unit_has_one_outcome_and_an_edited_one_is_never_overwritten(
    body: str, data: st.DataObject
) -> None:
    source = content({"title": "The lamp", "body": body})
    made = units.units_of(LABEL, source, "en")
    sent = {u.key: Sent(u, None) for u in made}
    texts = {u.key: u.text.upper() for u in made if not u.tags}
    edited = data.draw(st.sets(st.sampled_from(sorted(texts)))) if texts else set()
    target = composing.compose(
        LABEL, source, EMPTY, dict.fromkeys(edited, "ours"), dict.fromkeys(edited, "x")
    )
    found = returns.outcomes(LABEL, sent, texts, source, target)
    assert [o.key for o in found] == list(texts)
    assert {o.key for o in found if o.how == "conflict"} == {k for k in edited if texts[k] != "ours"}
    home = returns.merge(LABEL, source, target, found, sent)
    have = units.target_hashes(LABEL, home)
    assert all(have[k] == units.hash_of("ours") for k in edited)


@pytest.mark.parametrize(
    ("text", "locale", "sentences"),
    [
        ("One. Two! Three? Four", "en", 4),
        ("Mr. Vane and Dr. Hollin came.", "en", 1),
        ("It cost 3.50 then. Now more.", "en", 2),
        ("J. Arrend built it.", "en", 1),
        ("“Really?” she said. He left.", "en", 2),
        ("Ouvert de 10 h à 16 h. Fermé le lundi.", "fr", 2),
        ("Das ist z.B. ein Boot. Es ist alt.", "de", 2),
        ("鐘です。「鳴った！」と言った。", "ja", 2),
        ("هل هو مفتوح؟ نعم. شكرا", "ar", 3),
        ("", "en", 1),
    ],
)
def test_sentences_are_found_in_each_language(text: str, locale: str, sentences: int) -> None:
    assert len(units.boundaries(text, locale)) + 1 == sentences


@pytest.mark.parametrize(
    ("text", "words"), [("Don't touch", 2), ("灯台の光", 4), ("a-b c", 2), ("", 0), ("PH 1841.7", 3)]
)
def test_words_are_counted_as_bureaus_count_them(text: str, words: int) -> None:
    assert units.count_words(text) == words


VALUES = st.sampled_from(["a", "b", "c"])
grants = st.builds(
    Grant, verb=st.sampled_from(["read", "write"]), types=st.lists(VALUES, max_size=2).map(tuple),
    locales=st.lists(VALUES, max_size=2).map(tuple), stages=st.lists(VALUES, max_size=2).map(tuple), own=st.booleans(),
)  # fmt: skip
subjects = st.builds(
    Subject, type=VALUES, locale=VALUES, stage=st.one_of(st.none(), VALUES), own=st.booleans()
)


@given(grants, subjects, st.lists(VALUES, max_size=2))
def test_a_narrowed_grant_never_allows_more(grant: Grant, subject: Subject, locales: list[str]) -> None:
    narrow = access.narrowed(grant, locales, [])
    if narrow is not None and access.covers(narrow, "read", subject):
        assert access.covers(grant, "read", subject)
        assert not locales or subject.locale in locales
    if narrow is None:
        assert grant.locales
        assert not set(grant.locales) & set(locales)


@given(grants, subjects)
def test_a_grant_reads_back_as_it_was_written(grant: Grant, subject: Subject) -> None:
    data = {
        "verb": grant.verb,
        "types": grant.types,
        "locales": grant.locales,
        "stages": grant.stages,
        "own": grant.own,
    }
    again = access.grant_from_dict(data)
    assert access.covers(again, "write", subject) == access.covers(grant, "write", subject)
    assert ENGLISH.text(again.told())


def test_a_grant_with_a_typing_mistake_is_refused() -> None:
    with pytest.raises(Invalid, match="none of read"):
        access.grant_from_dict({"verb": "raed"})
    with pytest.raises(Invalid, match="not something a grant has"):
        access.grant_from_dict({"verb": "read", "local": ["fr"]})


def test_a_file_that_goes_on_and_on_is_left_early_and_kept_nowhere() -> None:
    head = b'<xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.1"><file id="f">'

    class Endless(io.RawIOBase):
        """Elements without an end."""

        def __init__(self, part: bytes) -> None:
            self.part, self.given = part, 0

        def read(self, size: int = -1) -> bytes:
            self.given += size
            assert self.given < 20_000_000, "it should have been left"
            return head if self.given == size else self.part * (size // len(self.part))

    for part, says in (
        (b"<a/>", "without a unit"),
        (b"<unit/>", "over 5,000 units"),
        (b"<unit><segment/></unit>", "over 5,000 units"),
        (b"<unit>" + b"<segment/>" * 2_000, "without a unit"),
    ):
        with pytest.raises(BadFile, match=says):
            formats.USUAL.read(Endless(part), 5_000)  # type: ignore[arg-type]
