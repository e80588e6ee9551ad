"""Files of translations: every format keeps what it is given, and each file is read in the one that it is written in."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import formats
from hawthorn.core.errors import BadFile, Invalid
from hawthorn.core.translation.tags import Tag
from hawthorn.core.translation.units import Segment, Unit

WORDS = st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Co", "Cn")), min_size=1)
PARTS = st.one_of(
    st.tuples(WORDS),
    st.builds(lambda a, b: (a, Tag("1", "open"), b, Tag("1", "close")), WORDS, WORDS),
    st.builds(lambda a: (a, Tag("1", "empty")), WORDS),
)


@st.composite
def documents(draw: st.DrawFn) -> formats.OutDocument:
    """A job of some entries, partly translated."""
    files = []
    for n in range(draw(st.integers(1, 3))):
        units = []
        for m in range(draw(st.integers(1, 3))):
            target = draw(st.none() | PARTS)
            state = "translated" if target else "initial"
            segment = Segment("s1", draw(PARTS), target, state=state)
            units.append(Unit(f"u{n}{m}", (segment,), {"1": ("<em>", "</em>")}, "h"))
        files.append(formats.OutFile(f"urn:uuid:{n}", draw(WORDS), tuple(units)))
    return formats.OutDocument("job-1", "en", "fr", tuple(files))


@pytest.mark.parametrize("name", formats.FORMATS)
@given(documents())
def test_a_format_keeps_what_it_is_given(name: str, document: formats.OutDocument) -> None:
    data = formats.of(name).write(document)
    assert data == formats.of(name).write(document)
    back = formats.read(data)
    assert (back.job, back.source_locale, back.target_locale) == ("job-1", "en", "fr")
    assert [original for original, _ in back.files] == [f.original for f in document.files]
    for out, (_, found) in zip(document.files, back.files, strict=True):
        assert [u.key for u in found] == [u.key for u in out.units]
        for unit, one in zip(out.units, found, strict=True):
            assert [(s.source, s.target, s.state) for s in one.segments] == [
                (s.source, s.target, s.state) for s in unit.segments
            ]


@pytest.mark.parametrize("name", formats.FORMATS)
@pytest.mark.parametrize("encoding", ["utf-8", "utf-16"])
def test_a_file_is_known_by_how_it_begins(name: str, encoding: str) -> None:
    one = Unit("u1", (Segment("s1", ("Lamp",)),), {}, "h")
    document = formats.OutDocument("job-1", "en", "fr", (formats.OutFile("urn:uuid:1", "Lamp", (one,)),))
    text = formats.of(name).write(document).decode().replace("UTF-8", encoding.upper())
    data = text.encode(encoding)
    assert [f.name for f in formats.FORMATS.values() if f.knows(data[:4096])] == [name]
    assert formats.read(data).files[0][1][0].segments[0].source == ("Lamp",)


def test_what_is_in_no_format_is_refused_with_the_reason() -> None:
    for data, said in ((b"", "not well-formed"), (b"<lamp/>", "not an XLIFF 2 file"), (b"key;text", "XML")):
        with pytest.raises(BadFile, match=said):
            formats.read(data)
    with pytest.raises(Invalid, match="“csv” is not a format of files"):
        formats.of("csv")
