"""Names and notes: what cannot be seen is refused, and names to log in with cannot be mistaken for another's."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import naming
from hawthorn.core.errors import Invalid


@given(st.text(max_size=60))
def test_a_name_that_is_taken_is_one_line_and_stays_as_it_is(text: str) -> None:
    try:
        said = naming.line("name", text)
    except Invalid as refused:
        assert refused.facts["problems"][0].where == "name"  # noqa: PT017
        return
    assert len(said.splitlines()) <= 1
    assert naming.line("name", said) == said
    assert said.isprintable() or all(
        c.isprintable() or not c.strip() or c in "\u200c\u200d\u00ad" for c in said if c > " "
    )


@pytest.mark.parametrize("odd", ["\r", "\n", "\x00", "\x1b[31m", "\u2028", "\u202e", "\u0085", "\ud800"])
def test_what_ends_a_line_or_turns_it_is_refused(odd: str) -> None:
    for make in (naming.line, naming.handle):
        with pytest.raises(Invalid):
            make("name", f"Ida{odd}Marlow")
    if odd != "\n":
        with pytest.raises(Invalid, match=r"cannot be seen \(U\+") if odd != "\r" else pytest.raises(Invalid):
            naming.note("note", f"First{odd}second")
    assert naming.note("note", "First\r\nsecond\tthird") == "First\nsecond\tthird"


@pytest.mark.parametrize(
    ("given", "kept"),
    [
        ("Ida", "ida"),
        ("  luc.morel ", "luc.morel"),
        ("Ｉda", "ida"),
        ("сами", "сами"),
        ("愛子愛", "愛子愛"),
        ("a1_b-c", "a1_b-c"),
    ],
)
def test_a_handle_has_one_form(given: str, kept: str) -> None:
    assert naming.handle("handle", given) == kept


@pytest.mark.parametrize(
    "given", ["a", "x" * 61, "ida@x.example", "-ida", "i da", "іda", "ida/..", "", "ida\u200d"]
)
def test_a_handle_that_could_be_mistaken_is_refused(given: str) -> None:
    with pytest.raises(Invalid):
        naming.handle("handle", given)
