"""Custom checks: what an expression says, and that nothing else can come of one."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core.errors import Invalid
from hawthorn.core.expressions import LONGEST, STEPS, Unworkable, holds, names, parse
from hawthorn.messages import ENGLISH

VALUES = {
    "title": "The lamp",
    "body": "<p>Made of <strong>brass</strong>.</p><p>Lit each night.</p>",
    "year": 1841,
    "topics": ["light", "sea"],
    "place": {"lat": 54.1, "lon": -2.5},
    "pinned": True,
    "rows": [{"id": "a", "fields": {"alt": "x"}}, {"id": "b", "fields": {}}],
}


@pytest.mark.parametrize(
    ("source", "expected"),
    [
        ("size(title) <= 60", True),
        ("title.size() == 8 && title.startsWith('The')", True),
        ("title.endsWith('p') || false", True),
        ("!title.contains('boat')", True),
        ("year >= 1800 && year < 1900", True),
        ("year / 2 == 920 && year % 2 == 1", True),
        ("1 + 2 * 3 == 7 && (1 + 2) * 3 == 9", True),
        ("-year < 0", True),
        ("'light' in topics && !('air' in topics)", True),
        ("topics[0] == 'light'", True),
        ("place.lat > 54 && has(place.lat)", True),
        ("has(subtitle) || subtitle == null", True),
        ("has(subtitle) ? size(subtitle) > 3 : true", True),
        ("pinned == true && pinned != 1", True),
        ("text(body).contains('brass') && words(body) == 6", True),
        ("topics.all(t, size(t) > 2)", True),
        ("rows.all(r, has(r.fields.alt))", False),
        ("rows.exists(r, r.fields.alt == 'x')", True),
        ("size(subtitle) == 0 && subtitle.all(t, false)", True),
        ("[1, 2] + [3] == [1, 2, 3]", True),
        ('"say \\"so\\"" == \'say "so"\'', True),
        ("false && year.nothing > 3", False),
    ],
)
def test_an_expression_says_what_it_says(source: str, expected: bool) -> None:
    assert holds(parse(source), VALUES) is expected


@pytest.mark.parametrize(
    ("source", "says"),
    [
        ("title <", "its end"),
        ("title title", "does not fit together"),
        ("import('os')", "knows no “import”"),
        ("title.upper()", "knows no “.upper”"),
        ("title.__class__.__mro__()", "knows no"),
        ("size(title, 3)", "takes one"),
        ("(((", "its end"),
        ("title @ 3", "cannot be read from “@ 3”"),
        ("(" * 30 + "1" + ")" * 30, "too deep"),
        ("!" * 40 + "true", "too deep"),
        ("1 == " + "1 " * LONGEST, "longer than"),
    ],
)
def test_what_cannot_be_read_is_refused_with_the_place(source: str, says: str) -> None:
    with pytest.raises(Invalid, match=says):
        parse(source)


@pytest.mark.parametrize(
    ("source", "says"),
    [
        ("size(year) > 1", "a number"),
        ("year", "neither true nor false"),
        ("year < 'x'", "A number is wanted where there is a text"),
        ("title && true", "Yes or no is wanted"),
        ("year / 0 == 1", "divides by nothing"),
        ("topics[9] == 'x'", "no “9” in a list"),
        ("title.lat == 1", "asked of a text"),
        ("year * 1000000 * 1000000 * 1000000 * 1000000 > 1", "too large"),
    ],
)
def test_what_cannot_be_worked_out_says_why(source: str, says: str) -> None:
    with pytest.raises(Unworkable, match=says):
        holds(parse(source), VALUES)


def test_an_expression_cannot_take_long() -> None:
    many = {"a": list(range(300))}
    with pytest.raises(Unworkable, match="too long"):
        holds(parse("a.all(x, a.all(y, a.all(z, x + y + z >= 0)))"), many)
    assert STEPS < 300**3


def test_the_fields_that_are_asked_for_are_known() -> None:
    node = parse("size(title) < 3 || rows.all(r, r.x == year && has(place.lat))")
    assert names(node) == {"title", "rows", "year", "place"}


def assert_said(*texts: str) -> None:
    """Whatever is refused says so in words."""
    assert all(len(t.strip()) > 5 for t in texts)


PIECES = st.sampled_from(
    [
        "title",
        "year",
        "topics",
        "rows",
        "1",
        "2.5",
        "'x'",
        "true",
        "null",
        "==",
        "<",
        "&&",
        "||",
        "!",
        "-",
        "+",
        "*",
        "/",
        "%",
        "in",
        "?",
        ":",
        "(",
        ")",
        "[",
        "]",
        ".",
        ",",
        "size(",
        "has(",
        "text(",
        "words(",
        ".all(x,",
        ".exists(y,",
    ]
)


@given(st.lists(PIECES, max_size=14).map(" ".join) | st.text(max_size=40))
def test_whatever_is_typed_is_refused_or_true_or_false(source: str) -> None:
    said: object = None
    try:
        said = holds(parse(source), VALUES)
    except Invalid as refused:
        assert_said(str(refused), ENGLISH.remedy(refused))
        said = True
    except Unworkable as trouble:
        assert_said(str(trouble))
        said = True
    assert isinstance(said, bool)
