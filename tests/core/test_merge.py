"""Three-way merge: fields, sets, orders and rich text by paragraph."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import richtext
from hawthorn.core.merge import Settlement, merge, merge_revisions, settle
from hawthorn.core.order import merge_order
from hawthorn.core.revision import Content, descends, merge_bases
from tests.core.made import LABEL, bases, content, edits

three = bases().flatmap(lambda base: st.tuples(st.just(base), edits(base), edits(base)))


def words(value: Content) -> set[str]:
    return set(richtext.text_of(value.fields.get("body", "")).split())


@given(three)
def test_every_inserted_word_is_in_the_result_or_in_a_conflict(
    sides: tuple[Content, Content, Content],
) -> None:
    base, ours, theirs = sides
    merged = merge(LABEL, base, ours, theirs)
    shown = words(merged.content)
    for conflict in merged.conflicts:
        for side in (conflict.ours, conflict.theirs):
            shown |= set(richtext.text_of(side).split()) if conflict.field == "body" and side else set()
    assert (words(ours) | words(theirs)) - words(base) <= shown


@given(three)
def test_merging_is_symmetric_but_for_the_naming(sides: tuple[Content, Content, Content]) -> None:
    base, ours, theirs = sides
    one, other = merge(LABEL, base, ours, theirs), merge(LABEL, base, theirs, ours)
    assert {c.place for c in one.conflicts} == {c.place for c in other.conflicts}
    assert [(c.ours, c.theirs) for c in one.conflicts if not c.paragraph] == [
        (c.theirs, c.ours) for c in other.conflicts if not c.paragraph
    ]
    if not one.conflicts:
        assert one.content == other.content


@given(three)
def test_a_side_without_changes_changes_nothing(sides: tuple[Content, Content, Content]) -> None:
    base, ours, _ = sides
    for merged in (
        merge(LABEL, base, ours, base),
        merge(LABEL, base, base, ours),
        merge(LABEL, base, ours, ours),
    ):
        assert merged.conflicts == ()
        assert merged.content.fields == ours.fields
        assert merged.content.paragraph_ids == ours.paragraph_ids


@given(three)
def test_without_conflict_no_paragraph_is_lost_or_repeated(sides: tuple[Content, Content, Content]) -> None:
    base, ours, theirs = sides
    merged = merge(LABEL, base, ours, theirs)
    ids = [v.id for v in merged.content.paragraph_ids.get("body", ())]
    assert len(ids) == len(set(ids)) == len(richtext.paragraphs(merged.content.fields.get("body", "")))
    if merged.conflicts:
        return
    b, o, t = ({v.id for v in s.paragraph_ids.get("body", ())} for s in sides)
    assert set(ids) == (o & t) | (o - b) | (t - b)


def test_different_fields_merge_and_the_same_field_asks() -> None:
    base = content({"title": "Lamp", "body": "<p>Brass.</p>"})
    ours = content({"title": "The lamp", "body": "<p>Brass.</p>"}, base)
    theirs = content({"title": "Lamp", "body": "<p>Brass and glass.</p>"}, base)
    merged = merge(LABEL, base, ours, theirs)
    assert merged.content.fields == {"title": "The lamp", "body": "<p>Brass and glass.</p>"}
    assert merged.from_ours == ("title",)
    both = merge(LABEL, base, ours, content({"title": "A lamp", "body": "<p>Brass.</p>"}, base))
    (conflict,) = both.conflicts
    assert (conflict.place, conflict.base, conflict.ours, conflict.theirs) == (
        "title",
        "Lamp",
        "The lamp",
        "A lamp",
    )


def test_edits_of_different_paragraphs_merge_and_of_the_same_one_ask() -> None:
    base = content({"body": "<p>Made of brass in town.</p><p>Lit every night.</p>"})
    ours = content({"body": "<p>Made of fine brass in town.</p><p>Lit every night.</p>"}, base)
    theirs = content({"body": "<p>Made of brass in town.</p><p>Lit every single night.</p>"}, base)
    merged = merge(LABEL, base, ours, theirs)
    assert merged.content.fields["body"] == "<p>Made of fine brass in town.</p><p>Lit every single night.</p>"
    rival = content({"body": "<p>Made of old brass in town.</p><p>Lit every night.</p>"}, base)
    clash = merge(LABEL, base, ours, rival)
    (conflict,) = clash.conflicts
    kept, still_open = settle(clash, {conflict.place: Settlement("both")})
    assert still_open == []
    assert kept.fields["body"].startswith(
        "<p>Made of old brass in town.</p><p>Made of fine brass in town.</p>"
    )
    mine, _ = settle(clash, {conflict.place: Settlement("ours")})
    assert mine.fields["body"].startswith("<p>Made of fine brass")
    assert settle(clash, {})[1] == [conflict.place]


TIDES = "<table><tr><th>Day</th><th>High</th></tr><tr><td>Monday</td><td>at six</td></tr><tr><td>Tuesday</td><td>at seven</td></tr></table>"


@pytest.mark.parametrize(
    ("ours", "theirs", "made"),
    [
        # Two cells of one row, a row and a cell, a column and the words of a cell, a row and a row elsewhere.
        (("at six", "at half six"), ("Monday", "Monday noon"), "<td>Monday noon</td><td>at half six</td>"),
        (
            ("<tr><td>Tuesday", "<tr><td>Spring</td><td>high</td></tr><tr><td>Tuesday"),
            ("at six", "at two"),
            "<td>at two</td></tr><tr><td>Spring</td>",
        ),
        (("six</td>", "six</td><td>low</td>"), ("at six", "before six"), "<td>before six</td><td>low</td>"),
        (
            ("<tr><td>Tuesday</td><td>at seven</td></tr>", ""),
            ("<th>Day", "<th>The day"),
            "<th>The day</th><th>High</th></tr><tr><td>Monday</td><td>at six</td></tr></table>",
        ),
    ],
)
def test_a_table_is_merged_row_by_row_and_a_row_by_its_words(
    ours: tuple[str, str], theirs: tuple[str, str], made: str
) -> None:
    base = content({"body": TIDES})
    mine, their = (content({"body": TIDES.replace(*one)}, base) for one in (ours, theirs))
    for pair in ((mine, their), (their, mine)):
        merged = merge(LABEL, base, *pair)
        assert merged.conflicts == ()
        assert made in merged.content.fields["body"]
        assert richtext.canonical(merged.content.fields["body"]) == merged.content.fields["body"]


def test_two_who_change_one_cell_are_asked_about_its_row() -> None:
    base = content({"body": TIDES})
    mine = content({"body": TIDES.replace("at six", "at five")}, base)
    their = content({"body": TIDES.replace("at six", "at four")}, base)
    merged = merge(LABEL, base, mine, their)
    (conflict,) = merged.conflicts
    assert "<td>Monday</td><td>at five</td>" in str(conflict.ours)
    assert next(p.text for p in conflict.pieces if not p.contested).startswith("<td>Monday</td><td>at ")
    kept, still_open = settle(merged, {conflict.place: Settlement("both")})
    assert still_open == []
    assert kept.fields["body"].count("<td>Monday</td>") == 2
    written, _ = settle(
        merged,
        {conflict.place: Settlement("own", "<table><tr><td>Monday</td><td>at noon</td></tr></table>")},
    )
    assert written.fields["body"] == TIDES.replace("at six", "at noon")


@given(three, three)
def test_settling_with_both_keeps_every_word_and_every_name_once_also_when_done_again(
    first: tuple[Content, Content, Content], second: tuple[Content, Content, Content]
) -> None:
    base, ours, theirs = first
    clash = merge(LABEL, base, ours, theirs)
    both, still_open = settle(clash, {c.place: Settlement("both") for c in clash.conflicts})
    assert still_open == []
    late = content(
        {**base.fields, "body": "".join(f"<p>{w} late.</p>" for w in sorted(words(second[1]))) or "<p>x</p>"},
        base,
    )
    again = merge(LABEL, base, late, both)
    whole, _ = settle(again, {c.place: Settlement("both") for c in again.conflicts})
    for side in (both, whole):
        ids = [v.id for v in side.paragraph_ids.get("body", ())]
        assert len(ids) == len(set(ids)) == len(richtext.paragraphs(side.fields.get("body", "")))
    assert (words(ours) | words(theirs)) - words(base) <= words(both)
    assert (words(ours) | words(theirs) | words(late)) - words(base) <= words(whole)


def test_sets_take_both_sides_additions_and_removals() -> None:
    base = content({"tags": ["sea", "war"]})
    ours, theirs = content({"tags": ["sea", "war", "rope"]}, base), content({"tags": ["sea", "light"]}, base)
    assert merge(LABEL, base, ours, theirs).content.fields["tags"] == ["light", "rope", "sea"]


def test_edit_against_removal_is_a_conflict_that_keeps_the_edit_in_reach() -> None:
    base = content({"body": "<p>Brass, made in town.</p><p>Lit.</p>"})
    ours = content({"body": "<p>Lit.</p>"}, base)
    theirs = content({"body": "<p>Brass, made in our town.</p><p>Lit.</p>"}, base)
    (conflict,) = merge(LABEL, base, ours, theirs).conflicts
    assert (conflict.why, conflict.ours, conflict.theirs) == (
        "changed and removed",
        None,
        "<p>Brass, made in our town.</p>",
    )


@given(
    st.permutations(list("abcde")),
    st.lists(st.sampled_from("abcdexyz"), unique=True),
    st.lists(st.sampled_from("abcdexyz"), unique=True),
)
def test_orders_merge_alike_from_both_sides(base: list[str], ours: list[str], theirs: list[str]) -> None:
    one, fine = merge_order(base, ours, theirs)
    other, _ = merge_order(base, theirs, ours)
    assert sorted(one) == sorted(other)
    assert len(one) == len(set(one))
    if fine:
        assert one == other


CRISS_CROSS = {1: [], 2: [1], 3: [1], 4: [2, 3], 5: [3, 2]}


def test_crossing_lines_have_two_bases_and_merge_over_a_virtual_one() -> None:
    assert merge_bases(CRISS_CROSS.__getitem__, 4, 5) == [2, 3]
    assert descends(CRISS_CROSS.__getitem__, 5, 1)
    assert not descends(CRISS_CROSS.__getitem__, 2, 3)
    one = content({"title": "Lamp", "number": "PH 1"})
    texts = {
        1: one,
        2: content({"title": "Lamp two", "number": "PH 1"}, one),
        3: content({"title": "Lamp", "number": "PH 3"}, one),
        4: content({"title": "Lamp two", "number": "PH 3", "tags": ["sea"]}, one),
        5: content({"title": "Lamp two", "number": "PH 3", "slug": "lamp"}, one),
    }
    merged = merge_revisions(LABEL, CRISS_CROSS.__getitem__, texts.__getitem__, 4, 5)
    assert merged.conflicts == ()
    assert merged.content.fields == {"title": "Lamp two", "number": "PH 3", "tags": ["sea"], "slug": "lamp"}


def test_what_stays_unsettled_in_a_virtual_base_is_a_conflict() -> None:
    one = content({"title": "Lamp"})
    texts = {n: content({"title": t}, one) for n, t in {2: "A", 3: "B", 4: "A", 5: "B"}.items()} | {1: one}
    merged = merge_revisions(LABEL, CRISS_CROSS.__getitem__, texts.__getitem__, 4, 5)
    assert [c.place for c in merged.conflicts] == ["title"]


graphs = st.lists(st.tuples(st.integers(0, 10), st.integers(0, 10)), min_size=1, max_size=10).map(
    lambda pairs: {n: sorted({p % n for p in pair}) if n else [] for n, pair in enumerate(pairs)}
)


@given(graphs, st.data())
def test_merge_bases_are_the_common_ancestors_that_are_nobodys_ancestor(
    graph: dict[int, list[int]], data: st.DataObject
) -> None:
    def up(n: int) -> set[int]:
        return {n}.union(*(up(p) for p in graph[n]))

    a, b = data.draw(st.sampled_from(sorted(graph))), data.draw(st.sampled_from(sorted(graph)))
    common = up(a) & up(b)
    best = {c for c in common if not any(c in up(d) and c != d for d in common)}
    assert set(merge_bases(graph.__getitem__, a, b)) == best
