"""Where sentences end: by our own rules in the languages of the museum, and by those of a file."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core.errors import BadFile
from hawthorn.core.translation import rules, segmentation, srx, tags, units


def sentences(text: str, locale: str) -> list[str]:
    out, start = [], 0
    for end, begin in segmentation.boundaries(text, locale):
        out.append(text[start:end])
        start = begin
    return [*out, text[start:]]


@pytest.mark.parametrize(
    ("locale", "expected"),
    [
        (
            "en",
            ["Dr. Vane lit it.", "It burned oil, e.g. colza.", "See fig. 3!", "“Yes.” he said.", "J. Vane."],
        ),
        ("en-GB", ["No. 5 is dark.", "(See p.m. and a.m. hours.)", "Closed?", "3 lamps remain."]),
        ("fr", ["M. Vane l’alluma.", "Ouvert p. ex. le 3 mai.", "Fermé !", "« Oui. » dit-il."]),
        ("de", ["Am 3. Mai öffnet das Museum.", "Z. B. um 10 Uhr.", "Ende."]),
        ("ar", ["يفتح المتحف.", "وهو مغلق؟", "نعم!", "د. سامي هنا."]),
    ],
)
def test_sentences_of_the_museums_languages(locale: str, expected: list[str]) -> None:
    assert sentences(" ".join(expected), locale) == expected


def test_japanese_sentences_follow_without_a_space() -> None:
    expected = ["灯台です。", "明るい！", "「はい。」と言った。", "（冬は休み。）", "終わり"]
    assert sentences("".join(expected), "ja") == expected


@given(st.text(alphabet="AbÄ漢ا .!?。؟\n“”)1", max_size=40), st.sampled_from(["en", "fr", "de", "ja", "ar"]))
def test_sentences_and_what_lies_between_are_the_text(text: str, locale: str) -> None:
    found = segmentation.boundaries(text, locale)
    assert all(0 < end <= begin < len(text) for end, begin in found)
    assert all(not text[end:begin].strip() for end, begin in found)
    assert found == sorted(found)


@pytest.mark.parametrize(
    ("inner", "expected"),
    [
        ("<em>One.</em> Two.", ["<1>One.</1>", "Two."]),
        ("One. <em>Two.</em>", ["One.", "<1>Two.</1>"]),
        ("<em>One. Two.</em> Three.", ["<1>One. Two.</1>", "Three."]),
        ("<em>One</em>. Two.", ["<1>One</1>.", "Two."]),
        ("One.<br> Two.", ["One.<1/>", "Two."]),
        ("One.<em> Two.</em>", ["One.<1> Two.</1>"]),
    ],
)
def test_tags_are_looked_past_and_never_cut(inner: str, expected: list[str]) -> None:
    parts, _ = tags.tokens(inner)
    found = units.segmented(parts, "en")
    assert [tags.written(s.source) for s in found if not s.ignorable] == expected
    assert tuple(p for s in found for p in s.source if not isinstance(p, str)) == tuple(
        p for p in parts if not isinstance(p, str)
    )


HEAD = '<srx xmlns="http://www.lisa.org/srx20" version="2.0"><header segmentsubflows="yes" cascade="{cascade}"/><body>'
OTHERS = (
    HEAD
    + '<languagerules><languagerule languagerulename="One"><rule break="no"><beforebreak>x;</beforebreak></rule>'
    '<rule break="yes"><beforebreak>;</beforebreak><afterbreak>\\s</afterbreak></rule></languagerule>'
    '<languagerule languagerulename="Two"><rule><beforebreak>:</beforebreak></rule></languagerule></languagerules><maprules>'
    '<languagemap languagepattern="e.*" languagerulename="One"/><languagemap languagepattern=".*" languagerulename="Two"/>'
    "</maprules></body></srx>"
)


def test_rules_of_a_file_are_followed_in_their_order() -> None:
    try:
        segmentation.follow(srx.read(OTHERS.format(cascade="yes")))
        assert sentences("a; b; x; c: d. E", "en") == ["a;", "b;", "x; c:", "d. E"]
        assert sentences("a; b: c", "fr") == ["a; b:", "c"]
        segmentation.follow(srx.read(OTHERS.format(cascade="no")))
        assert sentences("a; b: c", "en") == ["a;", "b: c"]
    finally:
        segmentation.follow(None)
    assert sentences("a; b. C", "en") == ["a; b.", "C"]


@pytest.mark.parametrize(
    ("data", "says"),
    [
        ("<srx", "not well-formed"),
        ("<lamp/>", "not a file of rules of SRX 2.0"),
        (OTHERS.format(cascade="no").replace('"2.0"', '"1.0"'), "version 1.0"),
        ("<!DOCTYPE a>" + OTHERS.format(cascade="no"), "document type"),
        (
            OTHERS.format(cascade="no").replace('languagerulename="Two"/>', 'languagerulename="Three"/>'),
            "Three",
        ),
        (OTHERS.format(cascade="no").replace("x;", "(x"), "cannot be read"),
        (HEAD.format(cascade="no") + "</body></srx>", "languagemap"),
        (" " * 1_000_001, "over 1,000,000"),
    ],
)
def test_rules_that_cannot_be_followed_are_refused(data: str, says: str) -> None:
    with pytest.raises(BadFile, match=says):
        srx.read(data)


def test_our_own_rules_are_a_file_that_can_be_read() -> None:
    assert set(srx.read(rules.SRX).by_name) == {"English", "French", "German", "Eastern", "Arabic", "Western"}
