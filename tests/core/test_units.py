"""Translation units, XLIFF out and in, and returns."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import formats, merge, revision, richtext
from hawthorn.core.errors import BadFile
from hawthorn.core.revision import EMPTY, Content, snapshot
from hawthorn.core.translation import composing, coverage, returns, tags, units
from hawthorn.core.translation.returns import Sent
from hawthorn.core.translation.tags import Tag
from hawthorn.core.translation.units import Segment
from tests.core.made import LABEL, content, rich

SOURCE = content(
    {
        "title": "The lamp",
        "body": "<p>Dr. Vane lit it. It <em>burned</em> oil.</p><ul><li>Brass</li><li>Glass</li></ul>",
    }
)


def out(source: Content, job: str = "job-1") -> bytes:
    made = units.units_of(LABEL, source, "en")
    return formats.USUAL.write(
        formats.OutDocument(job, "en", "fr", (formats.OutFile("urn:uuid:1", "The lamp", tuple(made)),))
    )


def echoed(data: bytes, change=lambda text: text) -> dict[str, returns.Returned]:
    """What a bureau returns that puts the source (changed) into each target."""
    back = {}
    for unit in formats.read(data).files[0][1]:
        segments = tuple(
            replace(s, target=tuple(change(p) if isinstance(p, str) else p for p in s.source))
            for s in unit.segments
        )
        back[unit.key] = replace(unit, segments=segments)
    return back


def sent(source: Content, target: Content = EMPTY) -> dict[str, Sent]:
    have = units.target_hashes(LABEL, target)
    return {u.key: Sent(u, have.get(u.key)) for u in units.units_of(LABEL, source, "en")}


@given(rich)
def test_units_out_and_in_give_the_same_bytes(body: str) -> None:
    source = content({"title": "The lamp", "body": body})
    data = out(source)
    assert out(source) == data
    texts = returns.verify(sent(source), list(echoed(data).values()), "fr").texts
    target = composing.compose(LABEL, source, EMPTY, texts, dict.fromkeys(texts, "x"))
    made = units.units_of(LABEL, source, "en")
    assert all(units.target_hashes(LABEL, target)[u.key] == u.hash for u in made)
    lettered = [inner for key, inner in revision.texts(LABEL, source).items() if "." in key and inner]
    if lettered and len(made) == len(lettered) + 1:
        assert target.fields == source.fields
        assert target.paragraph_ids == source.paragraph_ids


@given(rich)
def test_counting_takes_the_units_that_go_out(body: str) -> None:
    source = content({"title": "The lamp", "body": body})
    made = units.units_of(LABEL, source, "en")
    assert units.counted(LABEL, source) == {u.key: (u.hash, u.words) for u in made}


@given(rich)
def test_segments_join_to_the_unit_and_never_cut_a_tag(body: str) -> None:
    for unit in units.units_of(LABEL, content({"body": body}), "en"):
        parts = [p for s in unit.segments for p in s.source]
        assert tags.fitted(unit.tags, parts).notes == ()
        for segment in unit.segments:
            opened = [p.id for p in segment.source if isinstance(p, Tag) and p.how == "open"]
            closed = [p.id for p in segment.source if isinstance(p, Tag) and p.how == "close"]
            assert sorted(opened) == sorted(closed)


def test_sentences_end_where_a_reader_would_say_so() -> None:
    unit = units.units_of(LABEL, SOURCE, "en")[1]
    assert [tags.words_of(s.source) for s in unit.segments] == ["Dr. Vane lit it.", " ", "It burned oil."]
    japanese = units.segmented(("灯台です。明るい。",), "ja")
    assert [tags.words_of(s.source) for s in japanese] == ["灯台です。", "明るい。"]


def test_targets_keep_the_paragraph_ids_of_their_source_so_that_units_meet() -> None:
    texts = returns.verify(sent(SOURCE), list(echoed(out(SOURCE), str.upper).values()), "fr").texts
    target = composing.compose(LABEL, SOURCE, EMPTY, texts, {k: s.unit.hash for k, s in sent(SOURCE).items()})
    assert target.fields["title"] == "THE LAMP"
    assert [v.id for v in target.paragraph_ids["body"]] == [v.id for v in SOURCE.paragraph_ids["body"]]
    assert units.needing(LABEL, SOURCE, target, "en") == []
    moved = content(
        {**SOURCE.fields, "body": SOURCE.fields["body"].replace("Glass", "Glass and lead")}, SOURCE
    )
    assert [u.text for u in units.needing(LABEL, moved, target, "en")] == ["Glass and lead"]
    assert len(units.drift(LABEL, moved, target)) == 1


def test_a_return_applies_drifts_and_asks_unit_by_unit() -> None:
    went = sent(SOURCE)
    back = returns.verify(went, list(echoed(out(SOURCE), str.upper).values()), "fr").texts
    source_now = content(
        {**SOURCE.fields, "body": SOURCE.fields["body"].replace("Brass", "Brass and tin")}, SOURCE
    )
    target_now = content({"title": "La lampe"})
    found = {o.key: o.how for o in returns.outcomes(LABEL, went, back, source_now, target_now)}
    assert found.pop("title") == "conflict"
    assert sorted(found.values()) == ["applied", "applied", "drifted"]
    home = returns.merge(
        LABEL,
        source_now,
        target_now,
        returns.outcomes(LABEL, went, back, source_now, target_now),
        went,
    )
    assert home.fields["title"] == "La lampe"
    assert "BRASS" not in home.fields["body"]
    assert "<li>GLASS</li>" in home.fields["body"]


def test_whoever_typed_meanwhile_exactly_what_returned_is_not_asked() -> None:
    went = sent(SOURCE)
    back = returns.verify(went, list(echoed(out(SOURCE), str.upper).values()), "fr").texts

    def outcome(title: str) -> str:
        typed = content({"title": title})
        found = returns.outcomes(LABEL, went, back, SOURCE, typed)
        return next(o.how for o in found if o.key == "title")

    assert outcome(back["title"]) == "applied"
    assert outcome(f"{back['title']}.") == "conflict"


def test_a_paragraph_that_only_the_target_has_stays_after_the_one_it_followed() -> None:
    texts = {u.key: u.text for u in units.units_of(LABEL, SOURCE, "en")}
    hashes = dict.fromkeys(texts, "x")
    target = composing.compose(LABEL, SOURCE, EMPTY, texts, hashes)
    local = content(
        {**target.fields, "body": target.fields["body"].replace("<ul>", "<p>Pour la France.</p><ul>")}, target
    )
    again = composing.compose(LABEL, SOURCE, local, texts, hashes)
    assert "burned oil.</p><p>Pour la France.</p><ul>" in again.fields["body"]


def test_a_table_is_translated_cell_by_cell_and_a_column_put_in_asks_for_those_after_it() -> None:
    table = "<table><tr><th>Day</th><th>Hours</th></tr><tr><td>Monday. All day.</td><td></td></tr></table>"
    source = content({"title": "Hours", "body": f"<p>Open.</p>{table}"})
    went = sent(source)
    row = source.paragraph_ids["body"][1].id
    assert [u.text for u in units.units_of(LABEL, source, "en")][2:] == ["Day", "Hours", "Monday. All day."]
    assert f"body.{row}.2" in went
    texts = returns.verify(went, list(echoed(out(source), str.upper).values()), "fr").texts
    some = {key: text for key, text in texts.items() if key != f"body.{row}.1"}
    hashes = {key: one.unit.hash for key, one in went.items()}
    partly = composing.compose(LABEL, source, EMPTY, some, hashes)
    assert (
        "<tr><th></th><th>HOURS</th></tr><tr><td>MONDAY. ALL DAY.</td><td></td></tr>" in partly.fields["body"]
    )
    whole = composing.compose(LABEL, source, partly, texts, hashes)
    assert whole.fields["body"].lower() == f"<p>open.</p>{table}".lower()
    assert units.needing(LABEL, source, whole, "en") == []
    wider = table.replace("<th>Hours</th>", "<th>Place</th><th>Hours</th>")
    later = content({**source.fields, "body": f"<p>Open.</p>{wider}"}, source)
    assert [u.text for u in units.needing(LABEL, later, whole, "en")] == ["Place", "Hours"]
    kept = content({**whole.fields, "title": "HEURES"}, whole)
    assert units.needing(LABEL, source, kept, "en") == [], "a save keeps what is known of cells"
    left = units.without(LABEL, source, whole, [f"body.{row}.1", f"body.{row}.2"])
    assert left.fields["body"] == "<p>OPEN.</p><table><tr><td>MONDAY. ALL DAY.</td><td></td></tr></table>"


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (lambda u: list(u.values())[1:], "title is missing from the file"),
        (lambda u: [*u.values(), replace(u["title"], key="nonsense")], "nonsense is not a unit of this job"),
        (lambda u: [*u.values(), u["title"]], "title is in the file twice"),
        (lambda u: _with_target(u, "title", None), "title has no target in segment s1"),
        (
            lambda u: _with_target(u, "title", ("La lampe", Tag("7", "empty"))),
            "tag 7 that its source does not have",
        ),
        (lambda u: _with_source(u, "title", ("Another lamp",)), "has another source text than was sent"),
    ],
)
def test_a_file_that_does_not_fit_is_refused_naming_the_place(spoil, says: str) -> None:
    with pytest.raises(BadFile, match=says):
        returns.verify(sent(SOURCE), spoil(echoed(out(SOURCE))), "fr").whole()


def test_what_fits_of_a_file_is_taken_and_the_rest_named() -> None:
    spoilt = _with_target(echoed(out(SOURCE)), "title", ("La lampe", Tag("7", "empty")))
    found = returns.verify(sent(SOURCE), spoilt, "fr")
    assert set(found.texts) == set(sent(SOURCE)) - {"title"}
    assert [p.where for p in found.problems] == ["title"]
    half = replace(
        spoilt[0], segments=(*spoilt[0].segments[:-1], replace(spoilt[0].segments[-1], target=None))
    )
    found = returns.verify(sent(SOURCE), [half], "fr")
    assert (found.texts, found.problems) == ({}, ())
    assert str(found.open[0]) == f"{half.key}: returns.no_target segments=['s2']"
    assert list(found.fitting) == [half.key], "the sentence that is finished is kept"


def test_a_lost_link_is_named_with_its_segment_and_lost_formatting_is_said() -> None:
    source = content({"body": '<p>One <em>lamp</em>. Two <a href="https://lamps.example/">lamps</a>.</p>'})
    back = next(iter(echoed(out(source)).values()))

    def without(number: str) -> returns.Checked:
        def bare(parts):
            return tuple(p for p in parts if isinstance(p, str) or p.id != number)

        segments = tuple(replace(s, target=bare(s.source)) for s in back.segments)
        return returns.verify(sent(source), [replace(back, segments=segments)], "fr")

    assert [p.what.facts["ids"] for p in without("1").notes] == [["1"]]
    assert without("1").texts[back.key] == 'One lamp. Two <a href="https://lamps.example/">lamps</a>.'
    with pytest.raises(BadFile, match="in segment s2: tag missing: 2"):
        without("2").whole()


EDITS = st.sampled_from(["drop", "twice", "swap", "unknown", "unclosed", "source", "nothing"])


@given(rich, st.lists(EDITS, min_size=1, max_size=8), st.randoms())
def test_random_edits_are_taken_whole_or_refused_with_their_place(
    body: str, edits: list[str], chance
) -> None:
    """Whatever becomes of a translated file: a unit is applied with markup that is sound and every link in it, or named."""
    source = content({"title": "The lamp", "body": body})
    went, back = sent(source), echoed(out(source), str.upper)
    for edit in edits:
        key = chance.choice(sorted(back))
        at = chance.randrange(len(back[key].segments))
        segments = list(back[key].segments)
        parts = list(segments[at].target or ())
        marks = [n for n, p in enumerate(parts) if isinstance(p, Tag)]
        n = chance.choice(marks) if marks else 0
        if edit == "source":
            segments[at] = replace(segments[at], source=(*segments[at].source, "more"))
        elif edit == "unknown":
            parts.insert(n, Tag("99", "empty"))
        elif marks and edit == "drop":
            gone = parts[n].id
            parts = [p for p in parts if isinstance(p, str) or p.id != gone]
        elif marks and edit == "twice":
            parts.insert(n, parts[n])
        elif marks and edit == "unclosed":
            del parts[n]
        elif edit == "swap":
            chance.shuffle(parts)
        segments[at] = replace(segments[at], target=tuple(parts))
        back[key] = replace(back[key], segments=tuple(segments))
    found = returns.verify(went, list(back.values()), "fr")
    named = {p.where for p in (*found.problems, *found.open)}
    assert named.isdisjoint(found.texts)
    assert named | set(found.texts) == set(went)
    for key, text in found.texts.items():
        if not went[key].unit.rich:
            continue
        kept = richtext.paragraphs(f"<p>{text}</p>")
        assert "".join(p.inner for p in kept).count("<a ") == sum(
            "<a " in opening for opening, _ in went[key].unit.tags.values()
        )
    target = composing.compose(LABEL, source, EMPTY, found.texts, dict.fromkeys(found.texts, "x"))
    assert set(units.target_hashes(LABEL, target)) <= set(found.texts) | {"title"}


@given(rich)
def test_parts_written_with_numbers_are_read_as_they_were(body: str) -> None:
    for unit in units.units_of(LABEL, content({"body": body}), "en"):
        for segment in unit.segments:
            assert tags.read(tags.written(segment.source)) == segment.source


def _with_target(back: dict, key: str, target) -> list:
    one = back[key]
    return [
        *(u for k, u in back.items() if k != key),
        replace(one, segments=(replace(one.segments[0], target=target),)),
    ]


def _with_source(back: dict, key: str, source) -> list:
    return [
        *(u for k, u in back.items() if k != key),
        replace(back[key], segments=(Segment("s1", source, source),)),
    ]


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (out(SOURCE)[:300], "not well-formed"),
        (
            b'<!DOCTYPE x [<!ENTITY a "b">]><xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.1">&a;</xliff>',
            "DTD",
        ),
        (b"<other/>", "not an XLIFF 2 file"),
        (b'<xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="3.0"/>', "XLIFF 3.0"),
        (b"", "not well-formed"),
    ],
)
def test_hostile_and_broken_files_are_refused(data: bytes, says: str) -> None:
    with pytest.raises(BadFile, match=says):
        formats.read(data)


@given(st.binary(max_size=200))
def test_no_bytes_make_the_reader_fail_in_any_other_way(data: bytes) -> None:
    with pytest.raises(BadFile):
        formats.read(data)


def test_a_file_of_very_many_wrong_units_is_refused_by_the_first_of_them() -> None:
    from hawthorn.core import formats
    from hawthorn.core.errors import BadFile
    from hawthorn.core.translation import returns

    head = '<xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.1" srcLang="en" trgLang="fr"><file id="f">'

    def file(count: int) -> bytes:
        unit = '<unit id="u{0}"><segment><source>a</source><target>b</target></segment></unit>'
        return f"{head}{''.join(unit.format(n) for n in range(count))}</file></xliff>".encode()

    found = formats.read(file(20_000)).files[0][1]
    with pytest.raises(BadFile, match="and 19,995 more") as refused:
        returns.verify({}, found, "fr").whole()
    assert len(refused.value.facts["problems"]) == returns.NAMED
    assert refused.value.facts["count"] == 20_000
    with pytest.raises(BadFile, match="over 100,000 units"):
        formats.read(file(100_001))


claims = st.one_of(
    st.none(), st.sampled_from(["h0", "h1", "h2", "h3"]).map(lambda digest: (("title", digest),))
)


@given(claims, st.lists(claims, min_size=3, max_size=3), st.permutations([0, 1, 2]))
def test_what_is_known_of_a_text_does_not_depend_on_who_merges_first(
    base: tuple[tuple[str, str], ...] | None,
    lines: list[tuple[tuple[str, str], ...] | None],
    order: list[int],
) -> None:
    def claimed(claim: tuple[tuple[str, str], ...] | None) -> Content:
        return Content({"title": "Le phare"}, {}, {} if claim is None else {"title": claim})

    def together(which: list[int]) -> Content:
        made = claimed(lines[which[0]])
        for n in which[1:]:
            made = merge.merge(LABEL, claimed(base), claimed(lines[n]), made).content
        return made

    made = together(order)
    assert made.unit_map == together([0, 1, 2]).unit_map
    known = {pair for pairs in made.unit_map.values() for pair in pairs}
    assert known <= {pair for line in (base, *lines) for pair in line or ()}, "nothing is made up"
    changed = {line for line in lines if line != base}
    source = Content({"title": "The lighthouse"})
    digest = units.source_hashes(LABEL, source)["title"]
    fitting = [
        None if line is None else tuple((key, digest if said == "h1" else said) for key, said in line)
        for line in changed
    ]
    if made.unit_map and changed:
        current = Content(
            made.fields,
            {},
            {k: tuple((s, digest if h == "h1" else h) for s, h in v) for k, v in made.unit_map.items()},
        )
        needs = [u.key for u in units.needing(LABEL, source, current, "en")]
        assert ("title" not in needs) == all(one == (("title", digest),) for one in fitting), (
            "it is current only if everybody who changed what is known says so"
        )


several = st.lists(
    st.tuples(st.sampled_from(["title", "body", "lost"]), st.sampled_from(["now", "h1"])), max_size=3
)


@given(st.fixed_dictionaries({"title": several, "body": several}))
def test_coverage_counts_what_is_needed_and_what_has_drifted(
    claims: dict[str, list[tuple[str, str]]],
) -> None:
    source = content({"title": "The lamp", "body": "<p>One.</p>"})
    target = content({"title": "La lampe", "body": "<p>Un.</p>"})
    keys = dict(zip(("title", "body"), units.source_hashes(LABEL, source), strict=True)) | {"lost": "lost"}
    mine = dict(zip(("title", "body"), units.target_hashes(LABEL, target), strict=True))
    now = units.source_hashes(LABEL, source)
    told = {
        mine[place]: tuple(
            (keys[key], now.get(keys[key], "") if said == "now" else said) for key, said in pairs
        )
        for place, pairs in claims.items()
    }
    target = replace(target, unit_map=told)
    found = coverage.compared(units.counted(LABEL, source), coverage.told(LABEL, target))
    needed = units.needing(LABEL, source, target, "en")
    assert found.changed + found.missing == len(needed)
    assert found.units - found.current == len(needed)
    assert found.words - found.words_current == sum(u.words for u in needed)
    assert found.changed + found.gone == len(units.drift(LABEL, source, target))
    assert found.gone == len(units.gone(LABEL, source, target))


def test_a_text_that_one_side_changed_follows_the_source_that_this_side_knew() -> None:
    def side(title: str, digest: str) -> Content:
        return replace(content({"title": title}), unit_map={"title": (("title", digest),)})

    base, old, new = side("La lampe", "h0"), side("La lampe", "h1"), side("La lanterne", "h2")
    for ours, theirs in ((old, new), (new, old)):
        made = merge.merge(LABEL, base, ours, theirs).content
        assert (made.fields["title"], made.unit_map) == ("La lanterne", new.unit_map)


def test_words_that_were_joined_are_current_only_if_both_sides_said_so() -> None:
    first = content({"body": "<p>Le vieux phare du port</p>"})
    key = f"body.{first.paragraph_ids['body'][0].id}"

    def side(text: str, digest: str | None) -> Content:
        made = snapshot(LABEL, {"body": f"<p>{text}</p>"}, first)
        return replace(made, unit_map={} if digest is None else {key: (("body.1", digest),)})

    def joined(mine: str | None, their: str | None) -> Content:
        base = side("Le vieux phare du port", "h0")
        made = merge.merge(LABEL, base, side("Le phare du port", mine), side("Le vieux phare du quai", their))
        assert made.content.fields["body"] == "<p>Le phare du quai</p>"
        return made.content

    assert joined("h0", "h0").unit_map == {key: (("body.1", "h0"),)}
    assert joined("h1", "h0").unit_map == {key: (("body.1", "h0"), ("body.1", "h1"))}
    assert joined(None, "h0").unit_map == {}


def test_a_text_that_is_taken_out_leaves_what_is_known_of_fields_that_a_type_has_no_more() -> None:
    kept = Content(
        {**SOURCE.fields, "lost": "<p>Kept.</p>"},
        {**SOURCE.paragraph_ids, "lost": (richtext.ParagraphId("p1", "x"),)},
        {"lost.p1": (("lost.p1", "y"),), "title": (("title", "z"),)},
    )
    left = units.without(LABEL, SOURCE, kept, ["title"])
    assert left.paragraph_ids["lost"] == kept.paragraph_ids["lost"]
    assert (left.fields["lost"], left.unit_map) == ("<p>Kept.</p>", {"lost.p1": (("lost.p1", "y"),)})
