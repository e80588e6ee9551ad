"""Field kinds: what each takes, the one form it is kept in, and what each refuses in words."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import contenttypes, fields, kinds, slots
from hawthorn.core.contenttypes import linked
from hawthorn.core.errors import Invalid
from hawthorn.core.fields import KINDS, Field, Wrong, canonical_value
from hawthorn.core.messages import MessageError, said
from hawthorn.messages import ENGLISH, Catalogue
from tests.core.made import PAGE, page_edits, pages

UUID = "01a1a01e-802a-748b-a703-06d75330613b"
QUOTE = fields.BlockKind(
    "quote", "Quote", (Field("said", "text", "Said", limit=20), Field("by", "reference"))
)


def spec(kind: str, **more: Any) -> Field:
    return Field("x", kind, "Thing", **more)


TAKEN: list[tuple[Field, Any, Any]] = [
    (spec("line"), "  two \n words ", "two words"),
    (spec("line"), "", None),
    (spec("line", many=True), ["a", "a", "", "b"], ["a", "b"]),
    (spec("text"), "one\r\ntwo\x00", "one\ntwo"),
    (spec("rich"), "<div>Hello <b>you</b></div>", "<p>Hello <strong>you</strong></p>"),
    (spec("rich"), '<hr class="opening big"><hr class="other">', '<hr class="opening"><hr>'),
    (spec("rich"), '<p>a</p><hr class="opening">', '<p>a</p><hr class="opening">'),
    (spec("number", minimum=0, maximum=5), 5.0, 5),
    (spec("number"), 0.5, 0.5),
    (spec("boolean"), False, False),
    (spec("date"), "2027-03-31", "2027-03-31"),
    (spec("date"), "", None),
    (spec("choice", choices=("a", "b")), "b", "b"),
    (spec("slug"), " Été ", "été"),
    (spec("reference"), f"urn:uuid:{UUID.upper()}", UUID),
    (spec("parent"), "", None),
    (spec("parent"), {"entry": UUID, "rank": ""}, UUID),
    (spec("parent"), {"entry": UUID.upper(), "rank": "n1"}, {"entry": UUID, "rank": "n1"}),
    (spec("parent"), {"rank": "n1"}, {"rank": "n1"}),
    (spec("query"), {"types": ["a", "a"]}, {"types": ["a"], "order": "newest", "limit": 5}),
    (
        spec("query"),
        {"types": ["a"], "topic": UUID, "days": 7, "order": "title", "limit": 2, "tag": ""},
        {"types": ["a"], "topic": UUID, "days": 7, "order": "title", "limit": 2},
    ),
    (
        spec("file"),
        {"sha256": "a" * 64, "focus": [10.4, 90]},
        {"sha256": "a" * 64, "focus": [10, 90]},
    ),
    (spec("tags"), ["new  word", "new word"], ["new word"]),
    (spec("link"), "https://a.example/x", {"href": "https://a.example/x"}),
    (
        spec("link"),
        {"href": "mailto:a@b.example", "text": " Write "},
        {"href": "mailto:a@b.example", "text": "Write"},
    ),
    (spec("link"), {"href": f"urn:uuid:{UUID}"}, {"href": f"urn:uuid:{UUID}"}),
    (spec("link"), "", None),
    (spec("place"), {"latitude": 90, "longitude": -180}, {"latitude": 90.0, "longitude": -180.0}),
    (
        spec("planned"),
        {"wall": "2027-07-01 09:00", "zone": "Asia/Tokyo"},
        {"wall": "2027-07-01T09:00", "zone": "Asia/Tokyo", "instant": "2027-07-01T00:00:00Z"},
    ),
    (
        spec("instant"),
        {"wall": "2027-07-01T09:00", "zone": "Asia/Tokyo"},
        {"wall": "2027-07-01T09:00", "zone": "Asia/Tokyo", "instant": "2027-07-01T00:00:00Z"},
    ),
    (
        spec("instant"),
        {"wall": "2027-10-31T01:30", "zone": "Europe/London", "fold": "later"},
        {
            "wall": "2027-10-31T01:30",
            "zone": "Europe/London",
            "instant": "2027-10-31T01:30:00Z",
            "fold": "later",
        },
    ),
    (
        spec("instant"),
        "2027-07-01T09:00:00+02:00",
        {"wall": "2027-07-01T07:00", "zone": "UTC", "instant": "2027-07-01T07:00:00Z"},
    ),
    (spec("json"), {"b": 1, "a": [True, None]}, {"a": [True, None], "b": 1}),
    (spec("json"), {}, None),
    (spec("file"), {"sha256": "a" * 64, "odd": 1}, {"sha256": "a" * 64}),
    (spec("group", fields=(Field("n", "number"),)), {"n": None}, None),
    (spec("group", fields=(Field("n", "number"),)), {"n": 3.0}, {"n": 3}),
    (
        spec("blocks", blocks=(QUOTE,)),
        [{"id": "q", "kind": "quote", "fields": {"said": " x ", "by": ""}}],
        [{"id": "q", "kind": "quote", "fields": {"said": "x"}}],
    ),
]
REFUSED: list[tuple[Field, Any, str]] = [
    (spec("line", limit=3), "four", "4 characters and may have at most 3"),
    (spec("line"), 3, "takes text, not a number"),
    (spec("line", many=True), "x", "takes a list, not text"),
    (spec("line", many=True, limit=1), ["a", "b"], "2 values and may have at most 1"),
    (spec("rich"), ["x"], "takes rich text"),
    (spec("number", minimum=2), 1, "is at least 2"),
    (spec("number", maximum=2), 3, "is at most 2"),
    (spec("number"), True, "takes a number"),
    (spec("boolean"), "yes", "takes yes or no"),
    (spec("date"), "31.3.2027", "year-month-day"),
    (spec("choice", choices=("a",)), "b", "takes one of: a"),
    (spec("slug"), "a/b", "no spaces or slashes"),
    (spec("reference"), "x", "the id of an entry"),
    (spec("tags"), [" "], "a list of words"),
    (spec("link"), "javascript:x", "begins with https:"),
    (spec("link"), "https:", "begins with https:"),
    (spec("link"), "https://[x", "begins with https:"),
    (spec("link"), 7, "takes an address"),
    (spec("link"), "urn:uuid:x", "no UUID"),
    (spec("place"), {"latitude": 91, "longitude": 0}, "latitude between -90 and 90"),
    (spec("place"), {"latitude": 1}, "longitude between -180 and 180"),
    (spec("place"), [1, 2], "latitude and longitude"),
    (spec("instant"), {"wall": "2027-03-28T01:30", "zone": "Europe/London"}, "is no time"),
    (spec("instant"), {"zone": "UTC"}, "a wall time with its zone"),
    (spec("instant"), {"wall": "2027-01-01T09:00", "zone": "Nowhere/Quay"}, "not a time zone"),
    (spec("json"), {"x": float("nan")}, "that JSON can hold"),
    (spec("json", limit=5), [1, 2, 3, 4], "may have at most 5"),
    (spec("file"), {"sha256": "x"}, "uploaded before"),
    (spec("file"), {"sha256": "a" * 64, "focus": [101, 0]}, "from 0 to 100"),
    (spec("parent"), {"rank": "10"}, "does not end in 0"),
    (spec("parent"), {"rank": "a", "place": 1}, "has “place”"),
    (spec("query"), {"types": []}, "at least one type"),
    (spec("query"), {"types": ["a"], "days": 0}, "days from 1"),
    (spec("query"), {"types": ["a"], "order": "best"}, "newest, oldest, title"),
    (spec("group", fields=(Field("n", "number"),)), {"m": 1}, "has no field “m”; it has n"),
    (spec("group", fields=(Field("n", "number", "N"),)), {"n": "x"}, "“N” takes a number"),
    (spec("blocks", blocks=(QUOTE,)), [{"kind": "map"}], "number 1: has a kind that is none of quote"),
    (
        spec("blocks", blocks=(QUOTE,)),
        [{"kind": "quote", "fields": {"said": "x" * 21}}],
        "number 1 (Quote): “Said”",
    ),
    (spec("blocks", blocks=(QUOTE,)), [{"kind": "quote", "id": "1"}], "a letter first"),
    (spec("blocks", blocks=(QUOTE,)), [{"kind": "quote", "id": "a"}] * 2, "two blocks with the id “a”"),
]


@pytest.mark.parametrize(("field", "given", "kept"), TAKEN)
def test_a_value_is_kept_in_its_one_form(field: Field, given: Any, kept: Any) -> None:
    assert canonical_value(field, given) == kept
    assert canonical_value(field, kept) == kept


@pytest.mark.parametrize(("field", "given", "said"), REFUSED)
def test_what_does_not_fit_is_refused_in_words(field: Field, given: Any, said: str) -> None:
    with pytest.raises(Wrong) as wrong:
        canonical_value(field, given)
    assert said in str(wrong.value)


@pytest.mark.parametrize("language", ["en", "de", "fr", "ar"])
def test_what_does_not_fit_is_said_in_the_words_of_each_language(
    language: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    # As it is outside of tests, where an error by itself is its code.
    monkeypatch.setattr(MessageError, "__str__", lambda error: str(error.message))
    words = Catalogue(language)
    for field, typed, _ in REFUSED:
        with pytest.raises(Wrong) as wrong:
            canonical_value(field, typed)
        told = words.text(fields.problem(field, wrong.value).what)
        assert words.text(wrong.value.message) in told
        assert words.text(said("common.words", words=wrong.value)) in told, "an error as a fact"
        assert "kinds." not in told


@pytest.mark.parametrize("name", sorted(KINDS))
def test_every_kind_is_tried_here_and_has_its_module_and_editor(name: str) -> None:
    assert any(field.kind == name for field, _, _ in TAKEN)
    kind = KINDS[name]
    assert type(kind).__module__.startswith(kinds.__name__)
    editors = Path(__file__).parents[2] / "console/src/features/content/fields/kinds"
    assert (editors / f"{name}.svelte").exists()
    assert ENGLISH.text(said(f"kind.{name}"))
    assert kind.schema_of(spec(name, choices=("a",))) is not None


anything = st.recursive(
    st.one_of(
        st.none(), st.booleans(), st.integers(-100, 100), st.floats(allow_nan=True), st.text(max_size=8)
    ),
    lambda inner: st.one_of(
        st.lists(inner, max_size=3),
        st.dictionaries(
            st.sampled_from(["id", "kind", "fields", "href", "wall", "zone", "said"]), inner, max_size=4
        ),
    ),
    max_leaves=6,
)


@given(st.sampled_from(sorted(KINDS)), st.booleans(), anything)
def test_no_value_breaks_a_kind_and_what_is_kept_stays_as_it_is(name: str, many: bool, value: Any) -> None:
    field = spec(
        name, many=many and not KINDS[name].listed, choices=("a",), blocks=(QUOTE,), fields=QUOTE.fields
    )
    try:
        kept = canonical_value(field, value)
    except Wrong:
        return
    assert canonical_value(field, kept) == kept
    if not KINDS[name].parts:
        assert isinstance(fields.readable(field, kept, fields.Reading()), str)
        assert isinstance(fields.searched(field, kept), str)


@given(pages().flatmap(page_edits))
def test_a_content_taken_apart_into_slots_comes_together_again(content: Any) -> None:
    for field in PAGE.fields:
        if not KINDS[field.kind].parts or field.name not in content.fields:
            continue
        value = content.fields[field.name]
        found = slots.blocks(field, value)
        homes: dict[str, list[str]] = {}
        for block in found.values():
            homes.setdefault(block.home, []).append(block.id)
        values = {s.path: s.value for s in slots.walk([field], content.fields) if s.value is not None}
        assert slots.build(field, homes, {b.id: b.kind for b in found.values()}, values) == value


WRONG_TYPES: list[tuple[dict[str, Any], str]] = [
    ({"fields": [{"name": "x", "kind": "line"}]}, "title: names “title”"),
    ({"fields": [{"name": "title", "kind": "line"}], "pinned": "title"}, "not of kind boolean"),
    ({"fields": [{"name": "title", "kind": "line", "derives": "body"}]}, "fields.title.derives"),
    (
        {"fields": [{"name": "title", "kind": "line", "limit": 2, "least": 3, "many": True}]},
        "more than the limit",
    ),
    ({"fields": [{"name": "title", "kind": "number", "minimum": 3, "maximum": 2}]}, "more than the maximum"),
    ({"fields": [{"name": "title", "kind": "line", "default": 3}]}, "fields.title.default"),
    ({"fields": [{"name": "title", "kind": "line"}, {"name": "g", "kind": "group"}]}, "at least one field"),
    (
        {"fields": [{"name": "title", "kind": "line"}, {"name": "b", "kind": "blocks"}]},
        "at least one kind of block",
    ),
    ({"fields": [{"name": "title", "kind": "line"}, {"name": "c", "kind": "choice"}]}, "at least one word"),
    (
        {
            "fields": [
                {"name": "title", "kind": "line"},
                {"name": "g", "kind": "group", "fields": [{"name": "s", "kind": "slug"}]},
            ]
        },
        "cannot lie inside",
    ),
    (
        {
            "fields": [
                {"name": "title", "kind": "line"},
                {"name": "b", "kind": "blocks", "blocks": [{"name": "A b"}]},
            ]
        },
        "small letters",
    ),
    (
        {
            "fields": [
                {"name": "title", "kind": "line"},
                {"name": "a", "kind": "slug"},
                {"name": "b", "kind": "slug"},
            ]
        },
        "one field of kind slug",
    ),
    ({"fields": [{"name": "title", "kind": "line"}], "single": "yes"}, "single: is true or false"),
    ({"fields": [{"name": "title", "kind": "line"}], "sets": ["x"]}, "none is defined yet"),
    ({"fields": [{"name": "title", "kind": "line", "colour": "red"}]}, "fields.title.colour"),
]


@pytest.mark.parametrize(("definition", "said"), WRONG_TYPES)
def test_a_definition_that_cannot_be_says_where(definition: dict[str, Any], said: str) -> None:
    with pytest.raises(Invalid) as wrong:
        contenttypes.from_dict({"name": "thing", **definition})
    assert said in str(wrong.value)


def test_nesting_has_an_end_and_comes_back_from_its_definition() -> None:
    inner: dict[str, Any] = {"name": "end", "kind": "line"}
    for _ in range(3):
        inner = {"name": "deeper", "kind": "group", "fields": [inner]}
    title = {"name": "title", "kind": "line"}
    made = contenttypes.from_dict({"name": "deep", "fields": [title, inner]})
    assert contenttypes.from_dict(contenttypes.to_dict(made)) == made
    for _ in range(3):
        inner = {"name": "deeper", "kind": "group", "fields": [inner]}
    with pytest.raises(Invalid, match="more than 5 deep"):
        contenttypes.from_dict({"name": "deep", "fields": [title, inner]})


def test_defaults_derived_values_and_what_is_missing() -> None:
    kind = contenttypes.from_dict(
        {
            "name": "thing",
            "fields": [
                {"name": "title", "kind": "line", "required": True, "default": "Untold"},
                {"name": "lead", "kind": "text", "required": True, "derives": "body", "limit": 12},
                {"name": "body", "kind": "rich"},
                {"name": "who", "kind": "line", "many": True, "least": 2, "shared": True},
                {
                    "name": "rows",
                    "kind": "group",
                    "many": True,
                    "fields": [{"name": "n", "kind": "number", "required": True}],
                },
            ],
        }
    )
    assert contenttypes.defaults(kind, "en") == {"title": "Untold"}
    assert contenttypes.defaults(kind, "*") == {}
    values = {"body": "<p>The first words of it.</p>", "rows": [{"id": "r", "fields": {}}]}
    assert contenttypes.derived(kind, values) == {"lead": "The first…"}
    assert contenttypes.missing(kind, "en", values) == ["title", "rows:r:n"]
    assert contenttypes.label_of(kind, "rows:r:n") == "Rows: N"
    assert contenttypes.missing(kind, "*", {"who": ["one"]}) == ["who"]
    assert contenttypes.missing(kind, "*", {}) == []
    schema = contenttypes.json_schema(kind)
    assert schema["properties"]["who"]["minItems"] == 2
    assert schema["$schema"].endswith("2020-12/schema")


@pytest.mark.parametrize(
    ("kind", "about", "value", "told"),
    [
        ("number", "birthDate", 1961, "1961"),
        ("number", "dateCreated", [1961, 1962], ["1961", "1962"]),
        ("number", "datePublished", 1961.5, 1961.5),
        ("number", "price", 12, 12),
        ("number", "updateCount", 3, 3),
        ("number", "dated", 3, 3),
        ("boolean", "hasDate", True, True),
        ("boolean", "isUpdated", False, False),
    ],
)
def test_a_number_is_told_as_a_year_where_programs_look_for_a_date_and_nothing_else_is(
    kind: str, about: str, value: Any, told: Any
) -> None:
    x = {"name": "x", "label": "X", "kind": kind, "many": isinstance(value, list), "schema_property": about}
    title = {"name": "title", "label": "Title", "kind": "line"}
    made = contenttypes.from_dict({"name": "thing", "label": "Thing", "workflow": "w", "fields": [title, x]})
    body = {
        "title": "T",
        "locale": "en",
        "search": {"description": ""},
        "date": None,
        "fields": {"x": value},
    }
    assert linked.linked_data(made, body, "", "", str)[about] == told


@pytest.mark.parametrize(("field", "typed", "kept"), [one for one in TAKEN if one[2] is not None], ids=str)
def test_a_value_goes_through_a_cell_of_a_table_and_back(field: Field, typed: Any, kept: Any) -> None:
    assert fields.read_cell(field, fields.cell_of(field, kept)) == kept


PLAIN = st.text(st.characters(codec="utf-8"), max_size=30)


@given(st.lists(PLAIN, max_size=4), st.sampled_from(["line", "text", "tags", "rich", "slug"]), st.booleans())
def test_whatever_is_typed_goes_through_a_cell_and_back(typed: list[str], kind: str, many: bool) -> None:
    field = spec(kind, many=many and kind != "rich")
    try:
        kept = canonical_value(field, typed if fields.is_many(field) else "".join(typed))
    except Wrong:
        return
    assert fields.read_cell(field, fields.cell_of(field, kept)) == kept


@given(st.floats(allow_nan=False, min_value=-1e15, max_value=1e15) | st.integers(-(10**15), 10**15))
def test_numbers_go_through_a_cell_and_back(number: float) -> None:
    kept = canonical_value(spec("number"), number)
    assert fields.read_cell(spec("number"), fields.cell_of(spec("number"), kept)) == kept


@pytest.mark.parametrize(
    ("field", "text", "kept"),
    [
        (spec("tags"), "ships, old; harbour", ["ships, old", "harbour"]),
        (spec("tags"), "ships, harbour", ["ships", "harbour"]),
        (spec("boolean"), "Yes", True),
        (spec("choice", choices=("Closure", "Access")), "access", "Access"),
        (spec("place"), "53.54,  9.98", {"latitude": 53.54, "longitude": 9.98}),
        (
            spec("link"),
            "Our shop <https://shop.example/a>",
            {"href": "https://shop.example/a", "text": "Our shop"},
        ),
        (
            spec("instant"),
            "2027-03-31 09:30 Europe/London",
            {"wall": "2027-03-31T09:30", "zone": "Europe/London", "instant": "2027-03-31T08:30:00Z"},
        ),
        (spec("rich"), "One & two\nthree\n\nfour", "<p>One &amp; two<br>three</p><p>four</p>"),
        (spec("rich"), "One <b>two</b><script>x</script>", "<p>One <strong>two</strong></p>"),
    ],
    ids=str,
)
def test_what_people_write_in_tables_is_read(field: Field, text: str, kept: Any) -> None:
    assert fields.read_cell(field, text) == kept


@pytest.mark.parametrize(
    ("field", "text"),
    [
        (spec("number"), "1.250,5"), (spec("number"), "=1+1"), (spec("boolean"), "perhaps"), (spec("place"), "here"),
        (spec("date"), "31.03.2027"), (spec("json"), "{"), (spec("json"), "[" * 100_000), (spec("instant"), "soon"),
    ],
    ids=lambda one: str(one)[:40],
)  # fmt: skip
def test_what_is_no_value_is_refused_in_words(field: Field, text: str) -> None:
    with pytest.raises(Wrong) as caught:
        fields.read_cell(field, text)
    assert ENGLISH.text(caught.value.message)
