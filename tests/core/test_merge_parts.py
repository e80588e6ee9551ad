"""Three-way merge: words inside a text, blocks as a flat map, and three lines that cross."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import permutations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import contenttypes, richtext, slots
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import Invalid
from hawthorn.core.merge import Merged, Settlement, merge, settle
from hawthorn.core.order import merge_order
from hawthorn.core.revision import Content
from hawthorn.core.wordmerge import merge_words
from tests.core.made import (
    LABEL,
    PAGE,
    bases,
    content,
    edits,
    page,
    page_edits,
    pages,
    quote,
    row,
    word_edits,
)

three_pages = pages().flatmap(lambda b: st.tuples(st.just(b), page_edits(b), page_edits(b)))
four_pages = pages().flatmap(lambda b: st.tuples(st.just(b), page_edits(b), page_edits(b), page_edits(b)))
three_worded = bases().flatmap(lambda b: st.tuples(st.just(b), word_edits(b), word_edits(b)))
four_texts = bases().flatmap(
    lambda b: st.tuples(st.just(b), *(st.one_of(edits(b), word_edits(b)) for _ in range(3)))
)


def said(kind: ContentType, value: Content) -> set[str]:
    """Every word that a content holds anywhere."""
    out: set[str] = set()
    for slot in slots.walk(kind.fields, value.fields):
        if isinstance(slot.value, str):
            text = richtext.text_of(slot.value) if slot.spec.kind == "rich" else slot.value
            out |= set(text.split())
    return out


def in_conflict(value: object) -> set[str]:
    """Every word that a side of a conflict shows."""
    if isinstance(value, Mapping):
        return set().union(*(in_conflict(v) for v in value.values()))
    if isinstance(value, list):
        return set().union(*(in_conflict(v) for v in value))
    if isinstance(value, str):
        return set((richtext.text_of(value) if value.startswith("<") else value).split())
    return set()


def ids(value: Content) -> list[str]:
    return list(slots.blocks(PAGE.field("body"), value.fields.get("body")))


@given(three_pages)
def test_every_word_put_into_a_block_is_in_the_result_or_in_a_conflict(
    sides: tuple[Content, Content, Content],
) -> None:
    base, ours, theirs = sides
    merged = merge(PAGE, base, ours, theirs)
    shown = said(PAGE, merged.content)
    for conflict in merged.conflicts:
        shown |= in_conflict(conflict.ours) | in_conflict(conflict.theirs)
    assert (said(PAGE, ours) | said(PAGE, theirs)) - said(PAGE, base) <= shown


@given(three_pages)
def test_blocks_merge_alike_from_both_sides(sides: tuple[Content, Content, Content]) -> None:
    base, ours, theirs = sides
    one, other = merge(PAGE, base, ours, theirs), merge(PAGE, base, theirs, ours)
    assert {c.place for c in one.conflicts} == {c.place for c in other.conflicts}
    if not one.conflicts:
        assert one.content == other.content
    for merged in (
        merge(PAGE, base, ours, base),
        merge(PAGE, base, base, ours),
        merge(PAGE, base, ours, ours),
    ):
        assert (merged.conflicts, merged.content) == ((), ours)


@given(three_pages)
def test_no_block_is_lost_or_repeated_without_conflict_nor_when_all_is_settled(
    sides: tuple[Content, Content, Content],
) -> None:
    base, ours, theirs = sides
    merged = merge(PAGE, base, ours, theirs)
    b, o, t = (set(ids(s)) for s in sides)
    assert len(ids(merged.content)) == len(set(ids(merged.content)))
    if not merged.conflicts:
        assert set(ids(merged.content)) == (o & t) | (o - b) | (t - b)
    for take in ("ours", "theirs", "both"):
        done, still_open = settle(merged, {c.place: Settlement(take) for c in merged.conflicts})
        assert still_open == []
        assert len(ids(done)) == len(set(ids(done)))
        assert set(ids(done)) <= b | o | t
        assert contenttypes.canonical_fields(PAGE, done.fields) == done.fields


@given(three_worded)
def test_words_in_one_paragraph_merge_alike_and_none_is_lost(sides: tuple[Content, Content, Content]) -> None:
    base, ours, theirs = sides
    one, other = merge(LABEL, base, ours, theirs), merge(LABEL, base, theirs, ours)
    assert {c.place for c in one.conflicts} == {c.place for c in other.conflicts}
    shown = said(LABEL, one.content)
    for conflict in one.conflicts:
        shown |= in_conflict(conflict.ours) | in_conflict(conflict.theirs)
        if conflict.pieces:
            assert any(p.contested for p in conflict.pieces)
            for side, text in (("ours", conflict.ours), ("theirs", conflict.theirs)):
                pieces = "".join(getattr(p, side) if p.contested else p.text for p in conflict.pieces)
                shown |= set(richtext.plain(pieces).split())
                assert set(richtext.text_of(text).split()) & set(richtext.plain(pieces).split())
    assert (said(LABEL, ours) | said(LABEL, theirs)) - said(LABEL, base) <= shown
    if not one.conflicts:
        assert one.content == other.content


def chained(kind: ContentType, base: Content, order: tuple[Content, ...]) -> Merged | None:
    """Two sides merged, and the third into what came of it; None where somebody is asked."""
    first = merge(kind, base, order[0], order[1])
    last = merge(kind, base, first.content, order[2])
    return None if first.conflicts or last.conflicts else last


@given(four_texts)
def test_three_lines_of_text_give_the_same_whichever_pair_merges_first(sides: tuple[Content, ...]) -> None:
    base, *lines = sides
    results = [chained(LABEL, base, order) for order in permutations(lines)]
    made = [m.content.fields for m in results if m is not None]
    assert all(fields == made[0] for fields in made)


@given(four_pages)
def test_three_lines_of_blocks_give_the_same_whichever_pair_merges_first(sides: tuple[Content, ...]) -> None:
    base, *lines = sides
    results = [chained(PAGE, base, order) for order in permutations(lines)]
    made = [m.content.fields for m in results if m is not None]
    assert all(fields == made[0] for fields in made)


letters = st.lists(st.sampled_from("abcdefgh"), unique=True, max_size=6)


lines_of_letters = st.lists(
    st.lists(st.sampled_from("abcdefghuvwxyz"), unique=True, max_size=7), min_size=3, max_size=3
)


@given(letters, lines_of_letters)
def test_three_orders_give_the_same_whichever_pair_merges_first(
    base: list[str], lines: list[list[str]]
) -> None:
    made = []
    for a, b, c in permutations(lines):
        first, sure = merge_order(base, a, b)
        last, surely = merge_order(base, first, c)
        if sure and surely:
            made.append(last)
    assert all(order == made[0] for order in made)


def test_two_people_change_different_words_of_one_sentence() -> None:
    text, _ = merge_words(
        "Lit every night by hand.", "Lit every single night by hand.", "Lit every night by lamp."
    )
    assert text == "Lit every single night by lamp."
    text, pieces = merge_words("Made of brass here.", "Made of old brass here.", "Made of new brass here.")
    assert text is None
    contested = [p for p in pieces if p.contested]
    assert [(p.ours.strip(), p.theirs.strip()) for p in contested] == [("old", "new")]
    text, _ = merge_words("灯台は夜に光る。", "古い灯台は夜に光る。", "灯台は夜に赤く光る。")
    assert text == "古い灯台は夜に赤く光る。"
    text, _ = merge_words(
        "The lamp is lit.", "The <strong>lamp</strong> is lit.", "The lamp is now lit.", markup=True
    )
    assert text == "The <strong>lamp</strong> is now lit."


def test_a_conflict_of_words_is_settled_with_a_text_of_ones_own() -> None:
    base = content({"body": "<p>Made of brass.</p>"})
    ours = content({"body": "<p>Made of old brass.</p>"}, base)
    theirs = content({"body": "<p>Made of new brass.</p>"}, base)
    merged = merge(LABEL, base, ours, theirs)
    (conflict,) = merged.conflicts
    own = Settlement("own", "<p>Made of old and new brass.</p><script>x</script>")
    done, still_open = settle(merged, {conflict.place: own})
    assert (done.fields["body"], still_open) == ("<p>Made of old and new brass.</p>", [])
    titles = merge(
        LABEL,
        base,
        content({**base.fields, "title": "A"}, base),
        content({**base.fields, "title": "B"}, base),
    )
    with pytest.raises(Invalid):
        settle(titles, {"title": Settlement("own", 7)})


def test_a_block_moved_by_one_and_changed_by_another_is_both() -> None:
    base = page({"title": "A", "body": [row("r1", quote("q1", "Salt.")), row("r2"), quote("q2", "Rope.")]})
    ours = page(
        {"title": "A", "body": [row("r1"), row("r2", quote("q1", "Salt.")), quote("q2", "Rope.")]}, base
    )
    theirs = page(
        {"title": "A", "body": [row("r1", quote("q1", "Sea salt.")), row("r2"), quote("q2", "Rope.")]}, base
    )
    merged = merge(PAGE, base, ours, theirs)
    assert merged.conflicts == ()
    assert merged.content.fields["body"][1]["fields"]["cells"] == [quote("q1", "Sea salt.")]


def test_a_block_removed_by_one_and_filled_by_another_is_asked_about_once() -> None:
    base = page({"title": "A", "body": [row("r1", quote("q1", "Salt."))]})
    ours = page({"title": "A", "body": [row("r1", quote("q1", "Sea salt."), quote("q9", "New."))]}, base)
    theirs = page({"title": "A"}, base)
    merged = merge(PAGE, base, ours, theirs)
    assert [(c.place, c.why) for c in merged.conflicts] == [("body:r1", "changed and removed")]
    kept, _ = settle(merged, {"body:r1": Settlement("ours")})
    assert kept.fields == ours.fields
    gone, _ = settle(merged, {"body:r1": Settlement("theirs")})
    assert gone.fields == theirs.fields


def test_moves_to_two_places_and_into_each_other_are_conflicts() -> None:
    base = page({"title": "A", "body": [row("r1"), row("r2"), quote("q1", "Salt.")]})
    ours = page({"title": "A", "body": [row("r1", quote("q1", "Salt.")), row("r2")]}, base)
    theirs = page({"title": "A", "body": [row("r1"), row("r2", quote("q1", "Salt."))]}, base)
    merged = merge(PAGE, base, ours, theirs)
    assert [(c.place, c.why) for c in merged.conflicts] == [("body:q1:@home", "moved to different places")]
    mine, _ = settle(merged, {"body:q1:@home": Settlement("ours")})
    assert mine.fields == ours.fields
    inner = row("r1", {"id": "r2", "kind": "row", "fields": {}})
    into = page({"title": "A", "body": [inner, quote("q1", "Salt.")]}, base)
    other = row("r2", {"id": "r1", "kind": "row", "fields": {}})
    cycle = merge(PAGE, base, into, page({"title": "A", "body": [other, quote("q1", "Salt.")]}, base))
    assert [c.why for c in cycle.conflicts] == ["moved into each other"]
    assert set(ids(cycle.content)) == {"r1", "r2", "q1"}
    mine, _ = settle(cycle, {cycle.conflicts[0].place: Settlement("ours")})
    assert mine.fields == into.fields


def test_removed_fields_and_lost_kinds_of_blocks_keep_their_values() -> None:
    old = Content(
        {"title": "A", "gone": {"any": [1]}, "body": [{"id": "b1", "kind": "map", "fields": {"x": 1}}]}
    )
    ours = Content({**old.fields, "title": "B"})
    theirs = Content({**old.fields, "intro": "Hello."})
    merged = merge(PAGE, old, ours, theirs)
    assert merged.conflicts == ()
    assert merged.content.fields == {**old.fields, "title": "B", "intro": "Hello."}
