"""Grants as sets: what lies within what, what limits leave, and that neither ever widens anything."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import access
from hawthorn.core.access import Grant, Subject
from hawthorn.messages import ENGLISH

TYPES, LOCALES, STAGES = ("label", "notice"), ("en", "fr"), ("review", "release")
ABOVE = {1: (), 2: (1,), 3: (1, 2), 4: ()}
"""Sections with what is around them: 3 lies in 2, 2 in 1, and 4 by itself."""


def some(values: tuple[object, ...]) -> st.SearchStrategy[tuple]:
    return st.sets(st.sampled_from(values)).map(lambda found: tuple(sorted(found)))


GRANTS = st.builds(
    Grant,
    verb=st.sampled_from(["read", "write"]),
    types=some(TYPES),
    locales=some(LOCALES),
    sections=some((1, 2, 3, 4)),
    stages=some(STAGES),
    own=st.booleans(),
)
SUBJECTS = st.builds(
    lambda type, locale, section, stage, own: Subject(
        type, locale, section, stage, own, ABOVE.get(section, ())
    ),
    st.sampled_from(TYPES),
    st.sampled_from((*LOCALES, "*")),
    st.sampled_from((None, 1, 2, 3, 4)),
    st.sampled_from(STAGES),
    st.booleans(),
)


@given(GRANTS, GRANTS, st.lists(SUBJECTS, min_size=1, max_size=12))
def test_what_lies_within_a_grant_allows_nothing_that_the_grant_does_not(
    inner: Grant, outer: Grant, subjects: list[Subject]
) -> None:
    if access.within(inner, outer, lambda s: ABOVE[s]):
        for verb in ("read", "write"):
            for subject in subjects:
                assert not access.covers(inner, verb, subject) or access.covers(outer, verb, subject)


@given(GRANTS)
def test_a_grant_lies_within_itself_and_within_what_is_wider(grant: Grant) -> None:
    assert access.within(grant, grant, lambda s: ABOVE[s])
    assert access.within(grant, Grant(grant.verb), lambda s: ABOVE[s])
    other = "write" if grant.verb == "read" else "read"
    assert not access.within(grant, Grant(other), lambda s: ABOVE[s])


@given(GRANTS, some(LOCALES), some((1, 2, 3, 4)), st.lists(SUBJECTS, min_size=1, max_size=12))
def test_limits_never_widen_a_grant_and_leave_what_they_allow(
    grant: Grant, locales: tuple, sections: tuple, subjects: list[Subject]
) -> None:
    kept = access.narrowed(grant, locales, sections)
    if kept is not None:
        assert access.within(kept, grant, lambda s: ABOVE[s])
    for subject in subjects:
        held = kept is not None and access.covers(kept, grant.verb, subject)
        if held:
            assert access.covers(grant, grant.verb, subject)
            assert not locales or subject.locale == "*" or subject.locale in locales
        inside = (not locales or subject.locale in locales) and (not sections or subject.section in sections)
        if inside and not grant.sections and access.covers(grant, grant.verb, subject):
            assert held


@given(GRANTS)
def test_a_grant_is_read_again_as_it_was_written(grant: Grant) -> None:
    raw = {
        "verb": grant.verb, "types": list(grant.types), "locales": list(grant.locales),
        "sections": list(grant.sections), "stages": list(grant.stages), "own": grant.own,
    }  # fmt: skip
    assert access.grant_from_dict(raw) == grant
    assert ENGLISH.text(grant.told())


@pytest.mark.parametrize(
    ("subject", "words"),
    [
        (Subject(), "“write”"),
        (Subject(type="page", locale="fr"), "“write” for page in fr"),
        (Subject(locale="*", stage="review"), "“write” at review"),
    ],
)
def test_a_missing_grant_is_said_with_what_it_is_about(subject: Subject, words: str) -> None:
    assert ENGLISH.text(access.needed("write", subject)) == words


@pytest.mark.parametrize(
    ("kind", "grants", "all_of_it"),
    [
        ("person", (Grant("write"), Grant("release")), True),
        ("person", (Grant("write"), Grant("release", locales=("fr",))), False),
        ("person", (Grant("write"), Grant("release", own=True)), False),
        ("person", (Grant("write"),), False),
        ("assistant", (Grant("write"), Grant("release")), False),
    ],
)
def test_who_may_do_all_of_it_has_no_limit_anywhere(
    kind: str, grants: tuple[Grant, ...], all_of_it: bool
) -> None:
    held = tuple(("role", grant) for grant in grants)
    who = access.Identity(1, kind, "Wim", "wim", held)
    assert access.may_all(who, "write", "release") == all_of_it
    # Never more than what is asked of each grant by itself.
    assert not all_of_it or all(
        access.allowing(who, verb, Subject(locale="en")) for verb in ("write", "release")
    )
