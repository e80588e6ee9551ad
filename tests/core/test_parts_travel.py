"""Blocks away from the form: compared, picked from a strand, and sent for translation and home again."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import compare, picking, slots
from hawthorn.core.revision import EMPTY, Content, snapshot
from hawthorn.core.translation import returns, units
from tests.core.made import PAGE, page, page_edits, pages, quote, row

WORDS = {"id": "w1", "kind": "words", "fields": {"text": "<p>One. Two.</p><p>Three.</p>"}}
two = pages().flatmap(lambda b: st.tuples(st.just(b), page_edits(b)))


def said(part: compare.Part) -> str:
    return "".join(run.text for run in part.runs)


def test_a_comparison_tells_of_blocks_that_came_went_moved_and_changed() -> None:
    before = page({"title": "A", "body": [quote("q1", "Salt."), row("r1", quote("q2", "Rope.")), WORDS]})
    words = {"id": "w1", "kind": "words", "fields": {"text": "<p>One. Two!</p><p>Three.</p>"}}
    after = page(
        {"title": "A", "body": [words, row("r1", quote("q2", "Tarred rope.")), quote("q9", "New.")]}, before
    )
    (field,) = compare.compare(PAGE, before, after)
    told = {(p.paragraph, p.how) for p in field.parts if p.tag == "block"}
    assert told >= {("q9", "new"), ("q1", "gone"), ("w1", "moved")}
    changed = [said(p) for p in field.parts if p.tag != "block" and p.how == "changed"]
    assert any("Tarred" in text for text in changed)
    assert any(p.label == "Words: Text" and p.how == "changed" for p in field.parts)
    assert compare.compare(PAGE, after, after) == []


@given(two)
def test_taking_all_that_a_side_changed_is_that_side_and_taking_nothing_the_base(
    sides: tuple[Content, Content],
) -> None:
    base, side = sides
    names = {f.name for f in PAGE.fields}
    assert picking.pick(PAGE, base, side, names).fields == side.fields
    assert picking.pick(PAGE, base, side, []).fields == base.fields


@given(two, st.data())
def test_a_part_that_is_taken_never_repeats_a_block_nor_loses_one_that_was_not_taken(
    sides: tuple[Content, Content], data: st.DataObject
) -> None:
    base, side = sides
    body = PAGE.field("body")
    assert body is not None
    was, now = (slots.blocks(body, c.fields.get("body")) for c in sides)
    ids = sorted({*was, *now})
    take = data.draw(st.lists(st.sampled_from(ids), unique=True)) if ids else []
    picked = picking.pick(PAGE, base, side, [f"body:{i}" for i in take])
    made = slots.blocks(body, picked.fields.get("body"))
    for id in take:
        if id in now:
            assert id in made
            assert made[id].home == now[id].home or made[id].parent == now[id].parent
    untouched = [
        i for i in was if i not in take and not any(was[i].parent == t or now.get(t) is None for t in take)
    ]
    assert all(i in made for i in untouched)


def test_the_units_of_blocks_are_keyed_by_block_and_paragraph() -> None:
    source = page({"title": "A", "seo": {"title": "Found"}, "body": [WORDS, row("r1", quote("q1", "Rope."))]})
    found = {u.key: u.text for u in units.units_of(PAGE, source, "en")}
    paragraphs = [v.id for v in source.paragraph_ids["body:w1:text"]]
    assert found == {
        "title": "A",
        "seo:title": "Found",
        f"body:w1:text.{paragraphs[0]}": "One. Two.",
        f"body:w1:text.{paragraphs[1]}": "Three.",
        "body:q1:said": "Rope.",
    }
    labels = {u.key: u.label for u in units.units_of(PAGE, source, "en")}
    assert labels["body:q1:said"] == "Quote: Said"


def travelled(source: Content, target: Content) -> Content:
    """Every unit that is needed, sent and brought home in capitals."""
    sent = {
        u.key: returns.Sent(u, units.target_hashes(PAGE, target).get(u.key))
        for u in units.needing(PAGE, source, target, "en")
    }
    texts = {key: one.unit.text.upper() for key, one in sent.items()}
    decided = returns.outcomes(PAGE, sent, texts, source, target)
    return returns.merge(PAGE, source, target, decided, sent)


def test_translated_blocks_return_in_the_shape_of_the_source_and_local_ones_stay() -> None:
    source = page({"title": "A", "body": [WORDS, row("r1", quote("q1", "Rope."))]})
    home = travelled(source, EMPTY)
    body = home.fields["body"]
    assert [b["id"] for b in body] == ["w1", "r1"]
    assert body[0]["fields"]["text"] == "<p>ONE. TWO.</p><p>THREE.</p>"
    assert body[1]["fields"]["cells"] == [quote("q1", "ROPE.")]
    assert units.needing(PAGE, source, home, "en") == []

    local = [*body, quote("mine", "Ici.")]
    target = snapshot(PAGE, {**home.fields, "body": local}, home)
    moved = page(
        {"title": "A", "body": [row("r1", quote("q1", "Old rope."), quote("q2", "Hemp.")), WORDS]}, source
    )
    assert {u.key for u in units.needing(PAGE, moved, target, "en")} == {"body:q1:said", "body:q2:said"}
    assert units.drift(PAGE, moved, target) == ["body:q1:said"]
    again = travelled(moved, target)
    ids = list(slots.blocks(PAGE.field("body"), again.fields["body"]))  # type: ignore[arg-type]
    assert ids == ["r1", "q1", "q2", "mine", "w1"]
    assert again.fields["body"][0]["fields"]["cells"] == [quote("q1", "OLD ROPE."), quote("q2", "HEMP.")]
    assert units.drift(PAGE, moved, again) == []


@given(two)
def test_whatever_happens_to_blocks_all_of_it_can_be_translated_again(sides: tuple[Content, Content]) -> None:
    base, later = sides
    home = travelled(base, EMPTY)
    again = travelled(later, home)
    assert units.needing(PAGE, later, again, "en") == []
    mine = list(slots.blocks(PAGE.field("body"), again.fields.get("body")))  # type: ignore[arg-type]
    assert len(mine) == len(set(mine))
