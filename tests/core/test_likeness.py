"""What two sequences have in common: right for what is small, bounded for what is large."""

from __future__ import annotations

import random
from collections.abc import Sequence
from functools import cache
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import likeness
from hawthorn.core.bounds import Bounds
from hawthorn.core.errors import Invalid
from hawthorn.core.wordmerge import WORD, changes, merge_words

FEW = st.lists(st.sampled_from("abc"), max_size=12)


def longest(a: Sequence[Any], b: Sequence[Any]) -> int:
    """The length of a longest common subsequence, as the textbook has it."""

    @cache
    def of(i: int, j: int) -> int:
        if i == len(a) or j == len(b):
            return 0
        if a[i] == b[j]:
            return 1 + of(i + 1, j + 1)
        return max(of(i + 1, j), of(i, j + 1))

    return of(0, 0)


@given(FEW, FEW)
def test_as_much_as_can_be_is_found_alike(a: list[str], b: list[str]) -> None:
    found = likeness.blocks(a, b)
    assert sum(size for _, _, size in found) == longest(a, b)
    at = (0, 0)
    for i, j, size in found:
        assert i >= at[0]
        assert j >= at[1]
        assert a[i : i + size] == b[j : j + size]
        at = (i + size, j + size)


@given(FEW, FEW)
def test_edits_make_the_newer_of_the_older(a: list[str], b: list[str]) -> None:
    out: list[str] = []
    at = 0
    for a0, a1, b0, b1 in likeness.edits(a, b):
        out += [*a[at:a0], *b[b0:b1]]
        at = a1
    assert [*out, *a[at:]] == b


@given(st.integers(0, 2**32), st.integers(1, 60))
def test_one_word_changed_is_found_so_whatever_else_changed(seed: int, many: int) -> None:
    rng = random.Random(seed)
    words = [rng.choice("abcdefgh") for _ in range(many)]
    tokens = WORD.findall(" ".join(words))
    first = list(words)
    first[rng.randrange(many)] = "X"
    assert len(changes(tokens, WORD.findall(" ".join(first)))) == 1


def test_two_who_change_different_halves_of_a_long_paragraph_both_stand() -> None:
    rng = random.Random(4)
    words = [f"w{rng.randrange(400)}" for _ in range(4_000)]
    half = len(words) // 2
    ours = [w if rng.random() > 0.3 else f"o{rng.randrange(400)}" for w in words[:half]] + words[half:]
    theirs = words[: half + 1] + [
        w if rng.random() > 0.3 else f"t{rng.randrange(400)}" for w in words[half + 1 :]
    ]
    text, pieces = merge_words(" ".join(words), " ".join(ours), " ".join(theirs))
    assert pieces == ()
    assert text == " ".join(ours[: half + 1] + theirs[half + 1 :])


@pytest.mark.parametrize("kind", ["one word", "two words", "few words", "all different", "moved"])
def test_no_input_is_compared_beyond_the_bound(kind: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(likeness, "BOUND", 10_000)
    compared: list[int] = []
    whole = likeness.LCSseq.opcodes

    def counted(a: list[int], b: list[int]) -> Any:
        compared.append(len(a) * len(b))
        return whole(a, b)

    monkeypatch.setattr(likeness.LCSseq, "opcodes", counted)
    rng = random.Random(1)
    a = {
        "one word": ["a"] * 6_000,
        "two words": [rng.choice("ab") for _ in range(6_000)],
        "few words": [rng.choice("abcdefghijkl") for _ in range(6_000)],
        "all different": [str(n) for n in range(6_000)],
        "moved": [str(n % 3_000) for n in range(6_000)],
    }[kind]
    b = ["x", *a[3_000:], "y", *a[:3_000]] if kind == "moved" else [rng.choice(a) for _ in range(5_900)]
    at = (0, 0)
    for i, j, size in likeness.blocks(a, b):
        assert (i, j) >= at
        assert a[i : i + size] == b[j : j + size]
        at = (i + size, j + size)
    assert max(compared, default=0) <= likeness.BOUND
    assert sum(compared) <= 40 * likeness.BOUND


def nested(tag: str, deep: int) -> str:
    return f"<{tag}>" * deep + "a" + f"</{tag}>" * deep


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("a" * 101, "101 characters"),
        ("<p>a</p>" * 11, "11 paragraphs"),
        ("<li>" * 11, "11 paragraphs"),
        (nested("b", 6), "6 deep"),
        (nested("ol", 2) + nested("UL", 6), "6 deep"),
        ("<b>" * 6, "6 deep"),
    ],
)
def test_a_text_beyond_bounds_is_refused_by_name(text: str, said: str) -> None:
    bounds = Bounds(characters=100, paragraphs=10, depth=5)
    for value in (text, [text], {"a": [{"b": text}]}):
        with pytest.raises(Invalid) as refused:
            bounds.check({"title": "x", "body": value})
        assert refused.value.facts["problems"][0].where == "body"
        assert said in str(refused.value)


def test_what_is_within_bounds_passes_and_values_are_counted() -> None:
    bounds = Bounds(characters=100, paragraphs=10, depth=5, values=7)
    bounds.check({"a": "<p>a<b>b</b></p>" * 5, "b": nested("i", 5), "c": [1, None, {"d": "e"}]})
    with pytest.raises(Invalid, match="over 7"):
        bounds.check({"a": [[1, 2], [3, 4]], "b": [5, 6, 7, 8]})


def test_what_nobody_could_choose_piece_by_piece_is_one_choice() -> None:
    base = " ".join(f"w{n}" for n in range(2_000))
    ours, theirs = (" ".join(f"{side}{n}" if n % 2 else f"w{n}" for n in range(2_000)) for side in "ot")
    text, pieces = merge_words(base, ours, theirs)
    assert text is None
    assert [(p.contested, p.base, p.ours, p.theirs) for p in pieces] == [(True, base, ours, theirs)]
