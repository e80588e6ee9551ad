"""Paragraphs joined, split, moved and deleted by two people at once: no word stands twice, comes back or is lost in silence."""

from __future__ import annotations

import copy
import random
from collections import Counter
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import contenttypes, richtext, slots
from hawthorn.core.merge import Settlement, merge, settle
from hawthorn.core.revision import Content, snapshot
from hawthorn.core.wordmerge import WORD
from tests.core.made import LABEL, content

LATIN = [f"word{n}" for n in range(60)]
KANJI = list("灯台船光海波風砂岩橋駅町村川山田空星月雨雪花鳥魚石木林森火水土金糸竹米麦豆肉油塩茶酒皿鍋")
ARABIC = ["فنار", "بحر", "سفينة", "حبل", "ميناء", "موج", "ريح", "رمل", "صخر", "جسر", "مطر", "نجم"]


class Text:
    """A rich text as a list of (open, words, close), in which every word is there once."""

    def __init__(self, rng: random.Random, paragraphs: int) -> None:
        self.rng = rng
        self.pool = {script: list(words) for script, words in (("l", LATIN), ("k", KANJI), ("a", ARABIC))}
        self.paragraphs = [self.new() for _ in range(paragraphs)]

    def new(self) -> tuple[str, list[str]]:
        """A paragraph, or an item of a list, of words that are nowhere else."""
        script = self.rng.choice("llk") if len(self.pool["a"]) < 5 else self.rng.choice("llka")
        count = min(self.rng.randint(3, 6), len(self.pool[script]))
        words = [self.pool[script].pop(self.rng.randrange(len(self.pool[script]))) for _ in range(count)]
        return self.rng.choice(["p", "p", "p", "ul", "ul/ul"]), words

    def html(self, paragraphs: list[tuple[str, list[str]]]) -> str:
        """As rich text."""
        paragraphs = [
            richtext.Paragraph(
                () if kind == "p" else tuple(kind.split("/")), "p" if kind == "p" else "li", joined(words)
            )
            for kind, words in paragraphs
            if words
        ]
        return richtext.canonical(richtext.join(paragraphs))

    def edited(self, rng: random.Random) -> list[tuple[str, list[str]]]:
        """The paragraphs with up to three joins, splits, moves, deletions, insertions or changed words."""
        out = [(kind, list(words)) for kind, words in self.paragraphs]
        for _ in range(rng.randint(1, 3)):
            if not out:
                break
            at = rng.randrange(len(out))
            act = rng.choice(["join", "split", "move", "delete", "insert", "add", "drop"])
            if act == "join" and at + 1 < len(out):
                out[at] = (out[at][0], out[at][1] + out.pop(at + 1)[1])
            elif act == "split" and len(out[at][1]) > 2:
                cut = rng.randint(1, len(out[at][1]) - 1)
                out.insert(at + 1, (out[at][0], out[at][1][cut:]))
                out[at] = (out[at][0], out[at][1][:cut])
            elif act == "move":
                out.insert(rng.randrange(len(out)), out.pop(at))
            elif act == "delete":
                out.pop(at)
            elif act == "insert":
                out.insert(at, self.new())
            elif act == "add" and self.pool["l"]:
                out[at][1].insert(rng.randint(0, len(out[at][1])), self.pool["l"].pop())
            elif act == "drop" and len(out[at][1]) > 1:
                out[at][1].pop(rng.randrange(len(out[at][1])))
        return out


def joined(words: list[str]) -> str:
    """Words as they are written in their script."""
    return ("" if words and words[0] in KANJI else " ").join(words)


def counted(value: Content) -> Counter[str]:
    """How often each word stands in a text."""
    text = richtext.text_of(value.fields.get("body") or "")
    return Counter(w for w in WORD.findall(text) if not w.isspace())


def sides(seed: int) -> tuple[Content, Content, Content]:
    """A text and two edits of it."""
    rng = random.Random(seed)
    text = Text(rng, rng.randint(1, 5))
    base = content({"title": "The lamp", "body": text.html(text.paragraphs)})
    made = [
        snapshot(
            LABEL, {k: v for k, v in (base.fields | {"body": text.html(text.edited(rng))}).items() if v}, base
        )
        for _ in range(2)
    ]
    return base, made[0], made[1]


def check(seed: int) -> None:
    """What must hold of any merge; also used at length by `make torture`."""
    base, ours, theirs = sides(seed)
    merged = merge(LABEL, base, ours, theirs)
    b, o, t = counted(base), counted(ours), counted(theirs)
    if not merged.conflicts:
        expected = {w for w in {*b, *o, *t} if (w in o and w in t) or (w not in b)}
        assert counted(merged.content) == Counter(dict.fromkeys(expected, 1))
    for taken in ("ours", "theirs"):
        places = {c.place: Settlement(taken) for c in merged.conflicts}
        done, still_open = settle(merged, places)
        assert still_open == []
        assert max(counted(done).values(), default=1) == 1, "no word twice"
        assert set(o & t) <= set(counted(done)), "what both have stays"
    for value in (merged.content, settle(merged, {c.place: Settlement("both") for c in merged.conflicts})[0]):
        again = snapshot(LABEL, value.fields, value)
        assert again.paragraph_ids == value.paragraph_ids, "names and hashes fit what stands there"
        assert value.fields.get("body") != ""
        ids = value.paragraph_ids.get("body", ())
        assert [v.hash for v in ids] == [
            paragraph.hash for paragraph in richtext.paragraphs(value.fields.get("body") or "")
        ]
        assert len({v.id for v in ids}) == len(ids)


@given(st.integers(0, 1 << 40))
def test_no_word_stands_twice_comes_back_or_is_lost_in_silence(seed: int) -> None:
    check(seed)


def body(*paragraphs: str) -> str:
    return "".join(f"<p>{p}</p>" for p in paragraphs)


A = "The lamp was lit at dusk by whoever came home first from the sea"
B = "Ropes were tarred in the yard"
C = "Nobody rang the bell on days on which the fog had not come in by noon"


@pytest.mark.parametrize(
    ("ours", "theirs", "shown"),
    [
        (body(f"{A} {B}", C), body(A, f"{B} {C}"), "joined to different neighbours"),
        (body(A, C), body(f"{A} {B}", C), "deleted by one, joined by the other"),
        (
            body(A, "Ropes were tarred", "in the yard", C),
            body(A, "Ropes", "were tarred in the yard", C),
            "split apart differently",
        ),
        (body(A, "Ropes were tarred", "in the yard", C), body(A, C), "split by one, deleted by the other"),
    ],
)
def test_words_that_moved_and_met_are_one_conflict(ours: str, theirs: str, shown: str) -> None:
    base = content({"title": "T", "body": body(A, B, C)})
    one, other = (snapshot(LABEL, base.fields | {"body": text}, base) for text in (ours, theirs))
    merged = merge(LABEL, base, one, other)
    assert len(merged.conflicts) == 1, shown
    place = merged.conflicts[0].place
    for take, wanted in (("ours", ours), ("theirs", theirs)):
        assert settle(merged, {place: Settlement(take)})[0].fields["body"] == wanted
    own = settle(merged, {place: Settlement("own", "<p>Mine.</p>")})[0].fields["body"]
    assert own.count("Mine.") == 1
    assert "Ropes" not in own


def test_a_join_and_an_edit_elsewhere_go_together() -> None:
    base = content({"title": "T", "body": body(A, B, C)})
    ours = snapshot(LABEL, base.fields | {"body": body(f"{A} {B}", C)}, base)
    theirs = snapshot(LABEL, base.fields | {"body": body(A, B, f"{C} at all")}, base)
    merged = merge(LABEL, base, ours, theirs)
    assert merged.conflicts == ()
    assert merged.content.fields["body"] == body(f"{A} {B}", f"{C} at all")


def test_what_both_delete_is_nothing_rather_than_an_empty_text() -> None:
    base = content({"title": "T", "body": body(A, B)})
    ours = snapshot(LABEL, base.fields | {"body": body(A)}, base)
    theirs = snapshot(LABEL, base.fields | {"body": body(B)}, base)
    merged = merge(LABEL, base, ours, theirs)
    assert merged.conflicts == ()
    assert "body" not in merged.content.fields
    assert "body" not in merged.content.paragraph_ids


NESTED = contenttypes.from_dict(
    {
        "name": "nested",
        "label": "Nested",
        "fields": [
            {"name": "title", "kind": "line"},
            {
                "name": "body",
                "kind": "blocks",
                "blocks": [
                    {"name": "text", "fields": [{"name": "text", "kind": "line"}]},
                    {"name": "quote", "fields": [{"name": "text", "kind": "line"}]},
                    {
                        "name": "row",
                        "fields": [
                            {
                                "name": "cells",
                                "kind": "blocks",
                                "blocks": [{"name": "text", "fields": [{"name": "text", "kind": "line"}]}],
                            }
                        ],
                    },
                    {
                        "name": "wide",
                        "fields": [
                            {
                                "name": "parts",
                                "kind": "blocks",
                                "blocks": [{"name": "quote", "fields": [{"name": "text", "kind": "line"}]}],
                            }
                        ],
                    },
                ],
            },
        ],
    }
)


def one(id: str, kind: str, **fields: object) -> dict[str, Any]:
    return {"id": id, "kind": kind, "fields": fields}


def test_a_block_never_comes_to_stand_where_its_kind_is_not_taken() -> None:
    """One moves it into a row that takes texts alone, the other makes it a quote."""
    base = snapshot(
        NESTED, {"body": [one("a", "text", text="A"), one("r", "row", cells=[one("c", "text", text="C")])]}
    )
    ours = snapshot(
        NESTED,
        {"body": [one("r", "row", cells=[one("c", "text", text="C"), one("a", "text", text="A")])]},
        base,
    )
    theirs = snapshot(
        NESTED,
        {"body": [one("a", "quote", text="A"), one("r", "row", cells=[one("c", "text", text="C")])]},
        base,
    )
    for mine, other in ((ours, theirs), (theirs, ours)):
        merged = merge(NESTED, base, mine, other)
        assert [c.why for c in merged.conflicts] == ["moved to different places"]
        for take in ("ours", "theirs"):
            done, _ = settle(merged, {c.place: Settlement(take) for c in merged.conflicts})
            allowed(done)
            assert "a" in slots.blocks(NESTED.fields[1], done.fields["body"])


def allowed(value: Content) -> None:
    """Every block stands where its kind is taken, so that the field can be saved again."""
    contenttypes.canonical_fields(NESTED, dict(value.fields))


@given(st.integers(0, 1 << 40))
def test_random_moves_and_kinds_leave_a_field_that_can_be_saved_again(seed: int) -> None:
    check_blocks(seed)


def check_blocks(seed: int) -> None:
    """Blocks that two people move about, change, remove and make another kind; also used by `make torture`."""
    rng = random.Random(seed)
    base = snapshot(NESTED, {"body": _tree(rng)})
    ours, theirs = (snapshot(NESTED, {"body": _shuffled(rng, base.fields["body"])}, base) for _ in range(2))
    merged = merge(NESTED, base, ours, theirs)
    for take in ("", "ours", "theirs", "both"):
        done = (
            settle(merged, {c.place: Settlement(take) for c in merged.conflicts})[0]
            if take
            else merged.content
        )
        allowed(done)


def _tree(rng: random.Random) -> list[dict[str, Any]]:
    out: list[dict[str, Any]] = []
    for n in range(rng.randint(1, 5)):
        kind = rng.choice(["text", "quote", "row", "wide"])
        inner = [
            one(f"i{n}{m}", "text" if kind == "row" else "quote", text=f"In {n} {m}")
            for m in range(rng.randint(0, 2))
        ]
        fields = (
            {"cells": inner}
            if kind == "row"
            else {"parts": inner}
            if kind == "wide"
            else {"text": f"Text {n}"}
        )
        out.append(one(f"b{n}", kind, **{k: v for k, v in fields.items() if v}))
    return out


def _shuffled(rng: random.Random, value: list[dict[str, Any]]) -> list[dict[str, Any]]:
    out = copy.deepcopy(value)
    for _ in range(rng.randint(1, 4)):
        lists = [(out, {"text", "quote", "row", "wide"})]
        for block in out:
            fields = block["fields"]
            if block["kind"] == "row":
                lists.append((fields.setdefault("cells", []), {"text"}))
            elif block["kind"] == "wide":
                lists.append((fields.setdefault("parts", []), {"quote"}))
        full = [entry for entry in lists if entry[0]]
        if not full:
            break
        source, kinds = rng.choice(full)
        block = rng.choice(source)
        act = rng.choice(["move", "kind", "delete", "change"])
        if act == "move":
            fitting = [x for x, takes in lists if block["kind"] in takes and x is not source]
            if fitting:
                source.remove(block)
                target = rng.choice(fitting)
                target.insert(rng.randint(0, len(target)), block)
        elif act == "kind" and block["kind"] in ("text", "quote"):
            other = "quote" if block["kind"] == "text" else "text"
            if other in kinds:
                block["kind"] = other
        elif act == "delete":
            source.remove(block)
        elif "text" in block["fields"]:
            block["fields"]["text"] += f" {rng.randint(0, 99)}"
    for block in out:
        block["fields"] = {k: v for k, v in block["fields"].items() if v}
    return out
