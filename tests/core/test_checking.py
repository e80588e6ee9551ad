"""What is worth a look in a translated sentence, and sentences cut and joined: nothing that stands there is lost."""

from __future__ import annotations

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from hawthorn.core.translation import checking, dividing, keeping, tags
from hawthorn.core.translation.dividing import NotDivided
from hawthorn.core.translation.units import Segment

MARKUP = {"1": ("<strong>", "</strong>"), "2": ('<a href="/x">', "</a>")}


def codes(source: str, target: str, **more: int) -> list[str]:
    mine = {p.id: MARKUP[p.id] for p in tags.read(source) if isinstance(p, tags.Tag) and p.id in MARKUP}
    found = checking.findings(tags.read(source), tags.read(target), mine, rich=True, **more)
    return [one.code + ("!" if one.blocks else "") for one in found]


@pytest.mark.parametrize(
    ("source", "target", "expected"),
    [
        ("Open from 9 to 17.", "Ouvert de 9 à 17.", []),
        ("Open from 9 to 17.", "Ouvert de 9 h.", ["numbers"]),
        ("1,200 lamps.", "1 200 lampes.".replace("1 200", "1\u202f200"), []),
        ("Open at 10.", "يفتح في ١٠.", []),
        ("Open?", "مفتوح؟", []),
        ("The lamp burns.", "ランプが灯る。", []),
        ("The lamp burns.", "ランプが灯る", ["end"]),
        ("The lamp", "La lampe.", ["end"]),
        ("The lamp burns!", "La lampe brûle.", ["end"]),
        ("The lamp.", "La  lampe.", ["spaces"]),
        ("The lamp.", " La lampe.", ["spaces"]),
        ("The lamp.", "The lamp.", ["untranslated"]),
        ("1894", "1894", []),
        ("The lamp.", "", []),
        ("A <1>lamp</1>.", "Une lampe.", ["tags"]),
        ("A <2>lamp</2>.", "Une lampe.", ["tags!"]),
        ("A <2>lamp</2>.", "Une <2>lampe</2>.", []),
        ("A <2>lamp</2>.", "Une <2>lampe.", ["tags!"]),
        ("A lamp.", "Une <9>lampe</9>.", ["tags!"]),
    ],
)
def test_what_is_worth_a_look(source: str, target: str, expected: list[str]) -> None:
    assert codes(source, target) == expected


def test_a_limit_counts_the_sentences_beside() -> None:
    assert codes("Lamp.", "Lampe.", limit=10, beside=4) == []
    assert codes("Lamp.", "Lampe.", limit=10, beside=5) == ["length"]


SOURCE = st.lists(
    st.sampled_from(["One lamp", " ", "burns. ", "Two ", "<1>bright</1>", "<2>far</2> ", "end."]),
    min_size=1,
    max_size=8,
).map("".join)


@given(SOURCE, st.integers(0, 60))
def test_what_was_cut_and_joined_again_is_what_it_was(text: str, at: int) -> None:
    source = tags.read(text)
    whole = (Segment("s1", source),)
    assume(sum(p.count("<1>") for p in [text]) < 2 and text.count("<2>") < 2)
    try:
        cut = dividing.split(whole, "s1", at)
    except NotDivided:
        return
    assert "".join(tags.written(s.source) for s in cut) == text
    assert len(keeping.speaking(cut)) == 2
    for one in cut:
        # Each part stands for itself: what opens in it closes in it.
        names = [p.id for p in one.source if isinstance(p, tags.Tag)]
        assert all(names.count(name) == 2 for name in names)
    joined = dividing.join(cut, "s1")
    assert [tags.written(s.source) for s in joined] == [text]


def test_a_translation_is_kept_by_whoever_cuts_or_joins() -> None:
    one = Segment("s1", ("One. Two.",), ("Un. Deux.",), state="translated", remark="sure?")
    cut = dividing.split([one], "s1", 5)
    assert [(s.id, s.target, s.state) for s in cut if not s.ignorable] == [
        ("s1", ("Un. Deux.",), "initial"),
        ("s1-2", None, "initial"),
    ]
    done = [Segment(s.id, s.source, ("Deux.",) if s.id == "s1-2" else s.target, s.ignorable) for s in cut]
    assert dividing.join(done, "s1")[0].target == ("Un. Deux. Deux.",)
    with pytest.raises(NotDivided):
        dividing.join([one], "s1")
    with pytest.raises(NotDivided):
        dividing.split([one], "s1", 0)


def test_a_file_that_is_older_takes_no_sentence_away() -> None:
    had = (
        Segment("s1", ("One.",), ("Un.",), state="translated", by="hanne", at="now", remark="r"),
        Segment("s2", ("Two.",), ("Deux.",)),
    )
    came = (Segment("s1", ("One.",)), Segment("s2", ("Two.",), ("Deux !",)))
    assert keeping.merged(had, came) == (had[0], came[1])
    assert keeping.segments(keeping.kept(had)) == had
