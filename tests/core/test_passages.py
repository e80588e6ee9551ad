"""Passages: found by their words, followed through edits, said to be gone when they are."""

from __future__ import annotations

import string

from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core.passages import Passage, find, follow, texts
from hawthorn.core.revision import snapshot
from tests.core.made import LABEL, content


def words(letters: str) -> st.SearchStrategy[str]:
    """A few words of some letters."""
    return st.lists(st.text(letters, min_size=2, max_size=7), min_size=1, max_size=6).map(" ".join)


WORDS = words(string.ascii_lowercase)


def test_equal_words_are_told_apart_by_what_stands_around_them() -> None:
    there = {"a": "the lamp by the door", "b": "the lamp by the sea"}
    assert find(there, "lamp", "the ", " by the sea") == Passage("b", 4, 8)
    assert find(there, "lamp", "the ", " by the door") == Passage("a", 4, 8)
    assert find(there, "boat") is None
    assert find(there, "") is None


def test_a_passage_of_a_rich_text_is_named_by_its_paragraph() -> None:
    first = content({"title": "Lamp", "body": "<p>Made of brass.</p><p>Lit <em>each</em> night.</p>"})
    there = texts(LABEL, first, "body")
    assert list(there.values()) == ["Made of brass.", "Lit each night."]
    found = find(there, "each night")
    assert found is not None
    moved = snapshot(
        LABEL,
        {
            "title": "Lamp",
            "body": "<p>Lit <em>each</em> and every night.</p><p>New.</p><p>Made of brass.</p>",
        },
        first,
    )
    now = texts(LABEL, moved, "body")
    then = follow(found, there, now)
    assert then is not None
    assert then.block == found.block
    assert now[then.block][then.first : then.past] == "each and every night"
    assert texts(LABEL, first, "title") == {"": "Lamp"}
    assert texts(LABEL, first, "nothing") == {}


def test_a_passage_goes_where_its_words_go_when_its_paragraph_is_gone() -> None:
    before = {"a": "It was lit with colza oil.", "b": "Later it was sold."}
    passage = Passage("a", 16, 25)
    assert before["a"][16:25] == "colza oil"
    assert follow(passage, before, {"b": "Later it was sold, with its colza oil."}) == Passage("b", 28, 37)
    assert follow(passage, before, {"b": "Later it was sold."}) is None


def test_a_short_word_goes_along_when_its_paragraph_is_split_and_not_to_another_that_is_like_it() -> None:
    before = {"a": "The lamp stood here. The bell was rung in fog."}
    at = before["a"].index("bell")
    passage = Passage("a", at, at + 4)
    split = {"a": "The lamp stood here.", "b": "The bell was rung in fog."}
    assert follow(passage, before, split) == Passage("b", 4, 8)
    assert follow(passage, before, {"a": "The lamp stood here.", "b": "No bell."}) is None


@given(WORDS, WORDS, WORDS, WORDS, WORDS)
def test_a_passage_survives_any_edit_around_it(
    before: str, quote: str, past: str, new_before: str, new_past: str
) -> None:
    then = f"{before} {quote} {past}"
    passage = Passage("a", len(before) + 1, len(before) + 1 + len(quote))
    marked = f"«{quote}»"
    for now in (f"{new_before} {before} {quote} {past}", f"{before} {quote} {past} {new_past}"):
        found = follow(passage, {"a": then}, {"a": now})
        assert found is not None
        assert quote[0] in now[found.first : found.past]
    wrapped = follow(passage, {"a": then}, {"a": f"{before} {marked} {past}"})
    assert wrapped is not None


@given(words("abcdefghijklm"), words("nopqrstuvwxyz"))
def test_a_passage_whose_words_are_gone_is_gone(quote: str, rest: str) -> None:
    then = f"{rest} {quote}"
    passage = Passage("a", len(rest) + 1, len(then))
    assert follow(passage, {"a": then}, {"a": rest}) is None
    assert follow(passage, {"a": then}, {}) is None


@given(WORDS)
def test_an_unchanged_text_keeps_every_passage_where_it_is(text: str) -> None:
    for first in range(len(text)):
        assert follow(Passage("", first, len(text)), {"": text}, {"": text}) == Passage("", first, len(text))
