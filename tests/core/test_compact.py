"""JSON as it is kept: whichever writer takes a value, the bytes are those that Python's own would write."""

from __future__ import annotations

import json
from typing import Any

from hypothesis import example, given
from hypothesis import strategies as st

from hawthorn.core import compact, revision

texts = st.text(st.characters(exclude_categories=["Cs"]))
leaves = texts | st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False)
values = st.recursive(leaves, lambda some: st.lists(some) | st.dictionaries(texts, some), max_leaves=12)


def own(value: Any, **how: Any) -> str:
    return json.dumps(value, separators=(",", ":"), **how)


@given(values | st.dictionaries(texts, leaves))
@example({"east": 1e-05, "north": 1e16})
@example({"b": '\x7f\u2028\x00\x1f\\"/', "a": 2**70})
def test_a_value_is_written_as_python_writes_it(value: Any) -> None:
    assert compact.written(value) == own(value, ensure_ascii=False)


@given(st.dictionaries(texts, leaves) | st.dictionaries(texts, values))
@example({"z": 1e-05, "a": 1e16})
def test_what_is_hashed_is_sorted_at_every_depth(value: dict[str, Any]) -> None:
    assert compact.sorted_bytes(value) == own(value, ensure_ascii=False, sort_keys=True).encode()
    assert revision.content_hash(3, 1, value) == revision.content_hash(3, 1, dict(reversed(value.items())))


@given(values)
@example(float("inf"))
@example([2**70, -0.0])
def test_what_was_kept_is_read_as_python_reads_it(value: Any) -> None:
    assert repr(compact.read(own(value, ensure_ascii=False))) == repr(value)


@given(st.dictionaries(texts, st.lists(st.lists(texts))))
@example({"body": [["\x7f", "é"]]})
def test_names_are_escaped_where_they_are_not_ascii(value: dict[str, Any]) -> None:
    assert compact.names(value) == own(value)
