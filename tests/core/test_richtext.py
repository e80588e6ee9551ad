"""Canonical rich text, its paragraphs and its paragraph ids."""

from __future__ import annotations

from hypothesis import given

from hawthorn.core import aligning, richtext
from tests.core.made import messy, rich


@given(messy)
def test_canonical_text_is_a_fixed_point(fragment: str) -> None:
    once = richtext.canonical(fragment)
    assert richtext.canonical(once) == once
    assert "<script" not in once
    assert 'href="javascript:' not in once


@given(rich)
def test_leaves_and_back_again_lose_nothing(text: str) -> None:
    assert richtext.join(richtext.paragraphs(text)) == text


@given(rich, rich)
def test_paragraph_ids_name_every_paragraph_once_and_keeps_the_names_of_what_stayed(
    old: str, new: str
) -> None:
    before = aligning.align(richtext.paragraphs(old), [], ())
    after = aligning.align(richtext.paragraphs(new), richtext.paragraphs(old), before)
    assert len({v.id for v in after}) == len(after) == len(richtext.paragraphs(new))
    assert [v.hash for v in after] == [paragraph.hash for paragraph in richtext.paragraphs(new)]
    assert aligning.align(richtext.paragraphs(old), richtext.paragraphs(old), before) == before


def test_a_paragraph_keeps_its_name_when_its_words_change_and_when_it_moves() -> None:
    old = richtext.paragraphs(
        "<p>The lamp was lit in 1841.</p><p>It burned whale oil for years.</p><p>Then gas.</p>"
    )
    ids = aligning.align(old, [], ())
    new = richtext.paragraphs(
        "<p>Then gas.</p><p>The lamp was first lit in 1841.</p><p>It burned whale oil.</p>"
    )
    assert [v.id for v in aligning.align(new, old, ids)] == [ids[2].id, ids[0].id, ids[1].id]


def test_pasted_markup_keeps_its_structure_and_loses_its_dress() -> None:
    pasted = '<h1 style="color:red">Keel</h1><div>Laid <b>down</b></div><p onclick="x()">in <i>1820</i></p>'
    assert (
        richtext.canonical(pasted) == "<h2>Keel</h2><p>Laid <strong>down</strong></p><p>in <em>1820</em></p>"
    )
