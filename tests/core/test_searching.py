"""Words folded for searching, and what somebody looks for."""

from __future__ import annotations

import sqlite3

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import richtext, searching


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("Fog-bell, 1841!", ["fog", "bell", "1841"]),
        ("Été à Saint-Malo", ["ete", "a", "saint", "malo"]),
        ("Straße Ærø", ["strasse", "ærø".replace("ø", "o")]),
        ("灯台の光 abc", ["灯", "台", "の", "光", "abc"]),
        ("ﾊｰﾊﾞｰ", ["ハ", "ー", "バ", "ー"]),
        ("الفَنار", ["الفنار", "فنار"]),
        ("إلى المدينة", ["الي", "المدينه", "مدينه"]),
        ("ΑΘΉΝΑ", ["αθηνα"]),
        ("snake_case", ["snake", "case"]),
        ("", []),
    ],
)
def test_one_spelling_finds_the_other(text: str, words: list[str]) -> None:
    assert searching.fold(text) == words


def test_what_is_looked_for_is_words_begun_and_words_side_by_side() -> None:
    assert searching.wanted("fog “north pier” 灯台x") == [
        searching.Wanted(("fog",), True),
        searching.Wanted(("north", "pier")),
        searching.Wanted(("灯", "台")),
        searching.Wanted(("x",), True),
    ]
    assert searching.wanted('"unfinished quote') == [searching.Wanted(("unfinished", "quote"))]
    assert searching.wanted(" - !? ") == []
    assert len(searching.wanted("a " * 50)) == 12


def found(texts: list[str], query: str) -> set[int]:
    conn = sqlite3.connect(":memory:")
    conn.execute(
        "CREATE VIRTUAL TABLE t USING fts5 (title, body, tokenize = 'unicode61 remove_diacritics 0')"
    )
    terms: set[str] = set()
    for text in texts:
        words = searching.fold(text)
        terms |= searching.terms(words)
        conn.execute("INSERT INTO t VALUES ('', ?)", (" ".join(words),))
    some = searching.wanted(query)
    begun = {w.parts[0]: [t for t in terms if t.startswith(w.parts[0])] for w in some if w.begun}
    if not some:
        return set()
    rows = conn.execute("SELECT rowid FROM t WHERE t MATCH ?", (searching.match(some, begun),))
    return {row[0] - 1 for row in rows.fetchall()}


words = st.text(alphabet='abéß灯台のالفنarةى ’"“*():-^', max_size=12)


@given(st.lists(words, min_size=1, max_size=4), words)
def test_no_query_breaks_the_search_and_a_text_is_found_by_its_own_words(
    texts: list[str], query: str
) -> None:
    assert found(texts, query) <= set(range(len(texts)))
    for n, text in enumerate(texts):
        plain = " ".join(searching.fold(text)[:3])
        if plain:
            assert n in found(texts, plain)


@given(st.text(max_size=400), st.integers(2, 80))
def test_a_cut_text_is_short_enough_and_ends_at_a_word(text: str, most: int) -> None:
    whole = " ".join(text.split())
    cut = richtext.cut(whole, most)
    assert len(cut) <= most
    if cut != whole:
        assert cut.endswith("…")
        head = cut[:-1]
        assert whole.startswith(head)
        if " " in whole[: most - 1]:
            assert (
                whole[len(head)] in " ,;:–-"
                or not whole[len(head) - 1 : len(head)].isalnum()
                or whole[len(head)] == " "
            )


def test_the_opening_ends_at_its_mark_and_readers_do_not_see_the_mark() -> None:
    text = '<h2>Head</h2><p>One &amp; <em>two</em>.</p><hr class="opening"><ul><li>Rest</li></ul><hr>'
    assert richtext.opening(text, 50) == "Head One & two."
    assert richtext.opening(text, 10) == "Head One…"
    assert richtext.opening("<p>No mark at all here</p>", 12) == "No mark at…"
    rest, opening = richtext.split_opening(text)
    assert opening == "<h2>Head</h2><p>One &amp; <em>two</em>.</p>"
    assert rest == "<h2>Head</h2><p>One &amp; <em>two</em>.</p><ul><li>Rest</li></ul><hr>"
    assert richtext.split_opening("<p>x</p>") == ("<p>x</p>", "")
