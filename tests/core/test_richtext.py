"""Canonical rich text, its paragraphs and its paragraph ids."""

from __future__ import annotations

import tracemalloc

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from hawthorn.core import aligning, richtext, searching, tables
from hawthorn.core.kinds.rich import KIND
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


_TAGS = [
    "<p>",
    "</p>",
    "<h2>",
    "</h2>",
    "<strong>",
    "</strong>",
    "<em>",
    "</em>",
    "<br>",
    "<li>",
    "<ul>",
    "</ul>",
    "<hr>",
    "</a>",
    "</h3>",
    "<p",
]
_WORDS = [
    "Lamp",
    " ",
    "  ",
    "rope &amp; tide",
    "&lt;",
    "\u00a0",
    "\u200b",
    "é",
    "e\u0301",
    '<a href="https://x.example">',
]
_PIECES = st.lists(st.sampled_from([*_TAGS, *_WORDS]), max_size=14).map("".join)


@given(st.one_of(messy, rich, _PIECES, _PIECES.map(lambda inner: f"<p>{inner}</p><h3>Tide</h3><p>Salt</p>")))
def test_paragraphs_side_by_side_are_what_the_parser_makes_of_all_of_it(fragment: str) -> None:
    clean = richtext.clean(fragment)
    whole = richtext._Splitter().split(richtext.parsed(clean)) if clean.strip() else []
    assert richtext.paragraphs(clean) == list(whole)
    assert richtext.canonical(fragment) == richtext.join(whole)


@given(st.one_of(messy, rich, _PIECES))
@example(
    "<p>H<strong>a</strong>rbour<br>lamp &amp;amp; rope</p><table><tr><th>salt</th><td>fog<br>bell</td></tr></table>"
)
@example(
    '<figure><img src="urn:uuid:x">\n<figcaption>A <em>l</em>amp</figcaption></figure><ul><li>one<ul><li>two</li></ul></li></ul>'
)
def test_what_is_searched_for_are_the_words_that_are_read(fragment: str) -> None:
    text = richtext.canonical(fragment)
    assert searching.fold(KIND.words(text)) == searching.fold(richtext.text_of(text))


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


@pytest.mark.parametrize(
    ("given", "kept"),
    [
        ("<ul><li><ol><li>x</li></ol></li></ul>", "<ul><ol><li>x</li></ol></ul>"),
        ("<ol>a<ul><li>b</li></ul>c</ol>", "<ol><li>a<ul><li>b</li></ul></li><li>c</li></ol>"),
    ],
)
def test_a_list_keeps_lists_of_the_other_kind_and_words_by_themselves(given: str, kept: str) -> None:
    assert richtext.canonical(given) == kept
    assert richtext.canonical(kept) == kept


@pytest.mark.parametrize(
    ("given", "kept"),
    [
        (
            "<table><thead><tr><th scope='col'>Day</th><th>Hours</th></tr></thead><tbody><tr><td><p>Mon</p></td><td>9 – 5</td></tr></tbody></table>",
            "<table><tr><th>Day</th><th>Hours</th></tr><tr><td>Mon</td><td>9 – 5</td></tr></table>",
        ),
        (
            "<table><caption>Tides</caption><tr><td><p>High</p><ul><li>low</li></ul></td><td></td></tr></table>",
            "<p>Tides</p><table><tr><td>High<br>low</td><td></td></tr></table>",
        ),
        (
            "<table><tr><td colspan='2'>Both</td><td>one</td></tr></table>",
            "<table><tr><td>Both</td><td></td><td>one</td></tr></table>",
        ),
        (
            "<table><tr><td>A <img src='urn:uuid:x'> keel<hr class='opening'></td></tr></table><p>End</p>",
            '<table><tr><td>A<br>keel</td></tr></table><figure><img src="urn:uuid:x"></figure><hr class="opening"><p>End</p>',
        ),
        (
            "<table><tr><td>Outer<table><tr><td>a</td><td>b</td></tr></table></td></tr></table>",
            "<table><tr><td>Outer<br>a b</td></tr></table>",
        ),
        (
            "<table><tr><td>1</td></tr></table><table><tr><td>2</td></tr><tr><td>3</td></tr></table>",
            "<table><tr><td>1</td></tr></table><table><tr><td>2</td></tr><tr><td>3</td></tr></table>",
        ),
        (
            "<ul><li>a<table><tr><td>b</td></tr></table></li></ul>",
            "<ul><li>a</li></ul><table><tr><td>b</td></tr></table>",
        ),
        ("<table><tr></tr></table><p>x</p>", "<p>x</p>"),
    ],
)
def test_a_table_is_rows_of_cells_with_words_and_loses_none(given: str, kept: str) -> None:
    assert richtext.canonical(given) == kept
    assert richtext.canonical(kept) == kept


def test_the_cells_of_a_row_are_told_apart_in_words_alone_and_are_no_opening() -> None:
    text = richtext.canonical(
        "<table><tr><th>Day</th><th>Hours</th></tr><tr><td>Mon<br>Tue</td><td></td></tr></table><p>Open.</p>"
    )
    assert richtext.text_of(text) == "Day\tHours\nMon\nTue\t\nOpen."
    assert richtext.opening(text) == "Open."


@given(rich)
def test_rows_by_their_cells_and_back_again_lose_nothing(text: str) -> None:
    named = [(f"p{n}", paragraph) for n, paragraph in enumerate(richtext.paragraphs(text))]
    cells = tables.divided(named)
    assert tables.gathered(cells.items()) == named
    assert not any(paragraph.tag == "tr" for paragraph in cells.values())


def test_a_row_has_an_empty_cell_where_one_is_missing_and_a_name_of_its_own() -> None:
    cell = richtext.Paragraph(("table",), "td", "Mon")
    there = richtext.Paragraph((), "p", "Was a row once.")
    named = tables.gathered([("a.2", cell), ("a", there), ("a.3", cell)])
    assert [(name, paragraph.inner) for name, paragraph in named] == [
        ("a-row", "<td></td><td>Mon</td><td>Mon</td>"),
        ("a", "Was a row once."),
    ]


@given(
    st.text(st.characters(exclude_categories=("Cs",)), max_size=30)
    | st.text(alphabet="ab <>&/em\u00a0\n", max_size=20)
)
def test_the_inside_of_a_paragraph_is_what_splitting_gives(text: str) -> None:
    clean = richtext.canonical(f"<p>{text}</p>") if "<" in text else f"<p>{text}</p>"
    text = (
        clean[3:-4]
        if clean.startswith("<p>") and clean.endswith("</p>") and "<p>" not in clean[3:]
        else text.replace("<", "")
    )
    found = richtext.paragraphs(f"<p>{text}</p>")
    assert richtext.inner(text) == (found[0].inner if found else "")


def test_long_paragraphs_are_not_all_kept_in_memory() -> None:
    tracemalloc.start()
    try:
        for n in range(300):
            text = f"<p>{n} <em>{'word ' * 20_000}</em></p>"
            assert [one.inner for one in richtext.paragraphs(richtext.canonical(text))] == [
                richtext.inner(text[3:-4])
            ]
        assert tracemalloc.get_traced_memory()[0] < 10_000_000
    finally:
        tracemalloc.stop()
