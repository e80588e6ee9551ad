"""Comparisons: the marked words make up both texts again, and every paragraph is accounted for."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import richtext
from hawthorn.core.compare import compare, words
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.fields import Field, Reading
from hawthorn.core.revision import Content
from hawthorn.messages import ENGLISH
from tests.core.made import LABEL, bases, content, edits


@given(st.text(max_size=60), st.text(max_size=60))
def test_marked_words_make_up_both_texts_again(before: str, after: str) -> None:
    runs = words(before, after)
    old = "".join(r.text for r in runs if r.how in ("same", "gone"))
    new = "".join(r.text for r in runs if r.how in ("same", "new"))
    assert "".join(old.split()) == "".join(before.split())
    assert "".join(new.split()) == "".join(after.split())


def test_values_are_compared_as_they_are_read() -> None:
    kind = ContentType(
        "talk",
        "Talk",
        (Field("day", "date", "Day"), Field("doors", "instant", "Doors"), Field("more", "query", "More")),
    )
    topic = "01890000-0000-7000-8000-000000000001"
    was = Content({"day": "2026-11-30", "doors": {"wall": "2026-11-30T19:00:00", "zone": "Europe/Paris"}}, {})
    now = Content({"day": "2026-12-01", "more": {"types": ["talk"], "topic": topic, "days": 1}}, {})
    found = {
        d.field: (d.before, d.after) for d in compare(kind, was, now, Reading({topic: "Boats"}, ENGLISH.text))
    }
    assert found == {
        "day": ("Mon 30 Nov 2026", "Tue 1 Dec 2026"),
        "doors": ("Mon 30 Nov 2026, 19:00 (Europe/Paris)", ""),
        "more": ("", "the 5 newest of talk, about Boats, of the last day"),
    }


@given(bases().flatmap(lambda b: st.tuples(st.just(b), edits(b))))
def test_every_paragraph_is_the_same_changed_moved_new_or_gone(sides: tuple) -> None:
    before, after = sides
    found = {d.field: d for d in compare(LABEL, before, after)}
    if before.fields.get("body") == after.fields.get("body"):
        assert "body" not in found
        return
    old = {
        v.id: paragraph
        for v, paragraph in zip(
            before.paragraph_ids.get("body", ()),
            richtext.paragraphs(before.fields.get("body", "")),
            strict=True,
        )
    }
    new = {
        v.id: paragraph
        for v, paragraph in zip(
            after.paragraph_ids.get("body", ()),
            richtext.paragraphs(after.fields.get("body", "")),
            strict=True,
        )
    }
    parts = {p.paragraph: p for p in found["body"].parts}
    assert set(parts) == set(old) | set(new)
    assert {k for k, p in parts.items() if p.how == "gone"} == set(old) - set(new)
    assert {k for k, p in parts.items() if p.how == "new"} == set(new) - set(old)
    for key in set(old) & set(new):
        if parts[key].how == "same":
            assert old[key] == new[key]
        if parts[key].how == "changed":
            assert old[key] != new[key]


@given(bases())
def test_a_text_does_not_differ_from_itself(side: object) -> None:
    assert compare(LABEL, side, side) == []  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("before", "after", "runs"),
    [
        ("灯台の光", "灯台の影", [("same", "灯台の"), ("gone", "光"), ("new", "影")]),
        ("", "new", [("new", "new")]),
        ("old", "", [("gone", "old")]),
        ("a b", "a b", [("same", "a b")]),
        ("It’s lit.", "It’s unlit.", [("same", "It’s "), ("gone", "lit"), ("new", "unlit"), ("same", ".")]),
        ("فنار قديم", "فنار جديد", [("same", "فنار "), ("gone", "قديم"), ("new", "جديد")]),
    ],
)
def test_words_are_marked_as_a_reader_sees_them(before: str, after: str, runs: list[tuple[str, str]]) -> None:
    assert [(r.how, r.text) for r in words(before, after)] == runs


def test_plain_fields_and_lists_are_compared_in_words() -> None:
    before = content({"title": "Lamp", "tags": ["sea"], "number": "PH 1"})
    after = content({"title": "Lamp", "tags": ["sea", "war"]}, before)
    found = compare(LABEL, before, after)
    assert [(d.field, d.before, d.after, d.parts[0].how) for d in found] == [
        ("number", "PH 1", "", "gone"),
        ("tags", "sea", "sea, war", "changed"),
    ]
