"""Gates, grants, content types and field values."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import access, contenttypes, fields
from hawthorn.core.access import Grant, Identity, Subject
from hawthorn.core.compare import compare
from hawthorn.core.errors import Invalid
from hawthorn.core.workflow import Candidate, Choice, Gate, SignOff, Stage, Workflow, choose, from_dict, unmet
from tests.core.made import LABEL, content

ODA, MIRO = SignOff(1, "Oda", ("editor",)), SignOff(2, "Miro", ("writer",))


@pytest.mark.parametrize(
    ("gate", "candidate", "codes"),
    [
        (Gate(1), Candidate(1, "release"), ["sign-offs"]),
        (Gate(1), Candidate(1, "release", {"release": (ODA,)}), []),
        (Gate(2), Candidate(1, "release", {"release": (ODA, ODA)}), ["sign-offs"]),
        (Gate(1), Candidate(1, "release", {"release": (ODA,)}, frozenset({1})), ["sign-offs"]),
        (Gate(1, author="yes"), Candidate(1, "release", {"release": (ODA,)}, frozenset({1})), []),
        (
            Gate(2, author="with another"),
            Candidate(1, "release", {"release": (ODA, MIRO)}, frozenset({1})),
            [],
        ),
        (
            Gate(1, author="with another"),
            Candidate(1, "release", {"release": (ODA,)}, frozenset({1})),
            ["sign-offs"],
        ),
        (Gate(1, roles=("editor",)), Candidate(1, "release", {"release": (MIRO,)}), ["sign-offs"]),
        (Gate(checks=("required",)), Candidate(1, "release", missing=(("body", "Body"),)), ["missing"]),
        (Gate(), Candidate(1, "release", missing=(("body", "Body"),)), []),
        (Gate(checks=("references",)), Candidate(1, "release", not_out=(("u", "Vane"),)), ["not-out"]),
        (Gate(), Candidate(1, "release", common_absent=True), ["no-common"]),
        (
            Gate(embedded="hold"),
            Candidate(1, "release", changed_embeds={"release": ("Lamp",)}),
            ["embedded-moved"],
        ),
        (Gate(embedded="warn"), Candidate(1, "release", changed_embeds={"release": ("Lamp",)}), []),
    ],
)
def test_a_gate_names_each_condition_that_does_not_hold(
    gate: Gate, candidate: Candidate, codes: list[str]
) -> None:
    goal = Stage("release", "Release", 1000, gate)
    flow = Workflow("w", "W", (Stage("draft", "Draft", 0), goal))
    assert [u.code for u in unmet(flow, goal, candidate)] == codes


def test_workflows_begin_with_draft_and_end_with_release() -> None:
    stages = [
        {"name": "draft", "order": 0},
        {"name": "release", "order": 1000, "gate": {"checks": ["required"]}},
    ]
    assert [s.name for s in from_dict({"name": "short", "stages": stages}).stages] == ["draft", "release"]
    with pytest.raises(Invalid, match="begin with draft"):
        from_dict({"name": "short", "stages": stages[:1]})
    with pytest.raises(Invalid, match="none of required"):
        from_dict(
            {
                "name": "short",
                "stages": [stages[0], {"name": "release", "order": 9, "gate": {"checks": ["luck"]}}],
            }
        )


def who(*grants: Grant, kind: str = "person") -> Identity:
    return Identity(1, kind, "Oda", "oda", tuple(("editor", g) for g in grants))


@pytest.mark.parametrize(
    ("grant", "subject", "allowed"),
    [
        (Grant("write"), Subject("label", "en", 3), True),
        (Grant("read"), Subject("label", "en", 3), False),
        (Grant("write", types=("label",)), Subject("notice", "en"), False),
        (Grant("write", locales=("fr",)), Subject("label", "en"), False),
        (Grant("write", locales=("fr",)), Subject("label", "*"), True),
        (Grant("write", sections=(9,)), Subject("label", "en", 3, within=(3, 9)), True),
        (Grant("write", sections=(9,)), Subject("label", "en", 3), False),
        (Grant("write", own=True), Subject("label", "en", own=False), False),
        (Grant("write", own=True), Subject("label", "en", own=True), True),
    ],
)
def test_a_grant_covers_what_it_says_and_nothing_else(grant: Grant, subject: Subject, allowed: bool) -> None:
    assert (access.allowing(who(grant), "write", subject) is not None) is allowed


ASSISTANTS = {
    "read": True, "write": True, "submit": True, "commission": True,
    "sign": False, "release": False, "override-quiet": False, "accept": False, "configure": False,
}  # fmt: skip
"""What an assistant may be granted: to read, to write and to ask, and never to decide."""


def test_an_assistant_reads_and_writes_and_never_decides() -> None:
    assert ASSISTANTS.keys() == set(access.VERBS), "of every verb it is said"
    for verb, may in ASSISTANTS.items():
        assert (access.allowing(who(Grant(verb), kind="assistant"), verb, Subject()) is not None) is may, verb
        assert access.allowing(who(Grant(verb)), verb, Subject()) is not None


SIGNERS = st.lists(
    st.tuples(st.integers(1, 4), st.sets(st.sampled_from(["editor", "lawyer", "writer"]), max_size=2)),
    max_size=6,
)


@given(
    SIGNERS,
    st.sets(st.sampled_from(["editor", "lawyer"]), max_size=2),
    st.sets(st.integers(1, 4), max_size=2),
    st.sets(st.integers(1, 4), max_size=3),
    st.sampled_from(["no", "with another", "yes"]),
    st.integers(0, 3),
)
def test_a_gate_holds_exactly_when_enough_of_those_it_names_have_signed(
    signed: list[tuple[int, set[str]]],
    roles: set[str],
    people: set[int],
    authors: set[int],
    author: str,
    wanted: int,
) -> None:
    gate = {
        "sign_offs": wanted,
        "roles": sorted(roles),
        "people": [f"p{n}" for n in sorted(people)],
        "author": author,
    }
    flow = from_dict({"name": "w", "stages": [{"name": "draft"}, {"name": "release", "gate": gate}]})
    signs = tuple(SignOff(n, f"P{n}", tuple(sorted(have)), f"p{n}") for n, have in signed)
    found = unmet(flow, flow.last, Candidate(1, "release", {"release": signs}, authors=frozenset(authors)))

    # The rule once more: whoever is named by role or by person, or anybody where nobody is named; each person once.
    named = {n for n, have in signed if not (roles or people) or have & roles or n in people}
    others = named - authors
    enough = len(others if author == "no" or (author == "with another" and not others) else named) >= wanted
    assert (found == []) is enough


def test_a_role_held_in_one_locale_grants_nothing_elsewhere() -> None:
    assert access.narrowed(Grant("accept", locales=("fr", "de")), ["de"], []).locales == ("de",)
    assert access.narrowed(Grant("accept", locales=("fr",)), ["de"], []) is None


@pytest.mark.parametrize(
    ("name", "value", "says"),
    [
        ("title", 7, "takes text, not a number"),
        ("title", "x" * 501, "501 characters and may have at most 500"),
        ("titel", "x", "is not a field of Exhibit label; it has: title"),
        ("slug", "a/b", "no spaces or slashes"),
        ("tags", "sea", "takes a list, not text"),
        ("people", ["nobody"], r"takes the id of an entry \(a UUID\)"),
        ("body", ["x"], "takes rich text as HTML, not a list"),
    ],
)
def test_a_wrong_value_is_refused_naming_field_and_right_kind(name: str, value: object, says: str) -> None:
    with pytest.raises(Invalid, match=says) as caught:
        contenttypes.canonical_fields(LABEL, {name: value})
    assert caught.value.facts["problems"][0].where == name


def test_types_are_checked_and_come_out_as_json_schema() -> None:
    assert contenttypes.json_schema(LABEL)["required"] == ["title", "body", "number"]
    assert contenttypes.from_dict(contenttypes.to_dict(LABEL)) == LABEL
    with pytest.raises(Invalid, match="none of blocks"):
        contenttypes.from_dict({"name": "x", "fields": [{"name": "title", "kind": "magic"}]})


def test_slugs_follow_titles_in_any_script() -> None:
    def ascii_only(text):
        return "-".join(
            w for w in "".join(c if c.isascii() and c.isalnum() else " " for c in text).lower().split()
        )

    assert fields.slug_from("The Lamp of 1841", ascii_only) == "the-lamp-of-1841"
    assert fields.slug_from("灯台 の光", ascii_only) == "灯台-の光"


def test_a_comparison_marks_words_and_shows_moved_paragraphs_as_moved() -> None:
    before = content(
        {"title": "The lamp", "body": "<p>Made of brass in town.</p><p>Lit each night.</p><p>Sold.</p>"}
    )
    after = content(
        {
            "title": "The old lamp",
            "body": "<p>Lit each night.</p><p>Sold.</p><p>Made of brass in Pellgrave.</p>",
        },
        before,
    )
    title, body = compare(LABEL, before, after)
    assert [(r.how, r.text) for r in title.parts[0].runs] == [
        ("same", "The "),
        ("new", "old "),
        ("same", "lamp"),
    ]
    assert [p.how for p in body.parts] == ["same", "same", "moved"]
    assert ("gone", "town") in [(r.how, r.text) for r in body.parts[2].runs]


def test_what_goes_far_satisfies_every_gate_on_the_way() -> None:
    flow = from_dict(
        {
            "name": "long",
            "stages": [
                {"name": "draft"},
                {"name": "review", "gate": {"checks": ["required"]}},
                {"name": "law", "gate": {"sign_offs": 1}},
                {"name": "release", "gate": {"sign_offs": 1, "embedded": "hold"}},
            ],
        }
    )
    bare = Candidate(1, "release", {"release": (ODA,)}, missing=(("body", "Body"),))
    assert [u.code for u in unmet(flow, flow.last, bare)] == ["missing", "sign-offs"]
    assert [u.code for u in unmet(flow, flow.stage("review"), bare)] == ["missing"]
    both = Candidate(1, "release", {"release": (ODA,), "law": (MIRO,)}, changed_embeds={"release": ("Lamp",)})
    assert [u.code for u in unmet(flow, flow.last, both)] == ["embedded-moved"]
    let = Candidate(
        1,
        "release",
        {"law": (MIRO,)},
        overridden=frozenset({("release", "sign-offs", "")}),
        address_taken="“Lamp” has it.",
    )
    assert [u.code for u in unmet(flow, flow.last, let)] == ["address-taken"]


def test_stages_without_an_order_are_given_one_that_fits() -> None:
    def orders(*names: str, known: dict[str, int] | None = None) -> list[int]:
        made = from_dict({"name": "w", "stages": [{"name": n} for n in names]}, known or {})
        return [s.order for s in made.stages]

    assert orders("draft", "release") == [0, 1000]
    assert orders("draft", "review", "law", "release", known={"review": 100})[1] == 100
    many = orders("draft", *(f"s{n}" for n in range(12)), "release")
    assert many == sorted(set(many))
    with pytest.raises(Invalid, match="another order"):
        orders("draft", "law", "review", "release", known={"review": 100, "law": 500})
    with pytest.raises(Invalid, match="each once"):
        orders("draft", "review", "review", "release")


CHOICES = [
    Choice("all"),
    Choice("notices", type="notice"),
    Choice("french", locale="fr"),
    Choice("hall", section="hall"),
    Choice("wing", section="wing"),
    Choice("french notices", type="notice", locale="fr"),
]


@pytest.mark.parametrize(
    ("type", "locale", "sections", "expected"),
    [
        ("label", "en", (), "all"),
        ("notice", "en", (), "notices"),
        ("label", "fr", (), "french"),
        ("notice", "fr", (), "french notices"),
        ("notice", "en", ("hall", "wing"), "hall"),
        ("label", "en", ("wing",), "wing"),
        ("notice", "fr", ("hall",), "french notices"),
    ],
)
def test_the_most_specific_choice_wins(
    type: str, locale: str, sections: tuple[str, ...], expected: str
) -> None:
    for order in (CHOICES, CHOICES[::-1]):
        found = choose(order, type, locale, sections)
        assert found is not None
        assert found.workflow == expected
    assert choose(CHOICES[1:2], "label", "en", ()) is None
