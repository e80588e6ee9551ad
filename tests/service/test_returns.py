"""Translations meet what people wrote by hand: nothing of theirs is replaced without being asked, and nothing is sent twice unsaid."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import contenttypes, formats, richtext
from hawthorn.core.errors import BadFile, InTheWay, Invalid, Refused
from hawthorn.core.translation.returns import Returned
from hawthorn.core.translation.units import Segment
from hawthorn.demo.wordwise import translate_file
from hawthorn.messages import ENGLISH
from hawthorn.operations.content import changing, entries
from hawthorn.operations.release import planning, review
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import View, setup_changed
from hawthorn.operations.translation import (
    accepting,
    archives,
    exporting,
    importing,
    sending,
    shown,
    translation,
)
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.views import show, show_dispatches, show_jobs
from hawthorn.store import definitions
from tests.service.made import House
from tests.service.test_planned_fields import add_fields


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)

    def french(act: Any) -> None:
        definitions.add_locale(act.conn, "fr", "French")
        setup_changed(act)

    made.do("ida", french)
    yield made
    made.close()


def save(house: House, page: str, locale: str, **fields: Any) -> None:
    base = entries.parse_etag(
        house.desk.read(house.who("wim"), lambda v: show.entry(v, page, locale))["etag"]
    )
    house.do("wim", lambda a: entries.save(a, page, locale, fields, base))


def fields(house: House, page: str, locale: str = "fr") -> dict[str, Any]:
    found: dict[str, Any] = house.desk.read(house.who("wim"), lambda v: show.entry(v, page, locale))["fields"]
    return found


def order(house: House, *pages: str, **more: Any) -> str:
    house.do("ida", lambda a: sending.commission(a, Order(pages, ("fr",), **more)))
    with house.desk.db.read() as conn:
        return str(conn.execute("SELECT uuid FROM job ORDER BY id DESC LIMIT 1").fetchone()[0])


def translated(house: House, job: str, said: str = "French of {}") -> formats.InDocument:
    """The file of a job, each text translated in one way."""
    _, data = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    found = formats.read(data)

    def done(unit: Returned) -> Returned:
        segments = [
            Segment(
                s.id,
                s.source,
                (said.format("".join(p for p in s.source if isinstance(p, str))),),
                s.ignorable,
            )
            for s in unit.segments
        ]
        return Returned(unit.key, tuple(segments))

    files = tuple((original, tuple(done(u) for u in some)) for original, some in found.files)
    return formats.InDocument(found.job, "en", "fr", files)


def returned(
    house: House,
    job: str,
    said: str = "French of {}",
    spoil: Callable[[formats.InDocument], formats.InDocument] = lambda back: back,
    *,
    whole: bool = False,
) -> importing.Imported:
    """The file of a job returns, each text translated in one way, and spoilt in another."""
    back = spoil(translated(house, job, said))
    return house.do("ida", lambda a: importing.import_file(a, job, back, whole=whole))


def units(house: House, job: str) -> dict[str, shown.UnitShown]:
    def look(view: Any) -> list[shown.UnitShown]:
        return shown.units_shown(view, translation.find(view, job))

    return {u.source: u for u in house.desk.read(house.who("ida"), look)}


def choose(house: House, job: str, source: str, take: str) -> None:
    unit = units(house, job)[source]
    house.do("ida", lambda a: translation.choose(a, job, unit.entry, unit.key, take))


def paragraphs(html: str) -> list[str]:
    return [richtext.plain(paragraph.inner) for paragraph in richtext.paragraphs(html)]


def test_what_somebody_wrote_before_is_asked_about_text_by_text(house: House) -> None:
    page = house.page("Lamp", body="<p>One.</p><p>Two.</p>")
    save(house, page, "fr", title="La lampe", body="<p>Un, par moi.</p><p>Deux, par moi.</p><p>Trois.</p>")
    job = order(house, page)
    counts = returned(house, job)
    assert (counts.applied, counts.conflict) == (0, 3)
    assert fields(house, page)["title"] == "La lampe"
    assert paragraphs(fields(house, page)["body"]) == ["Un, par moi.", "Deux, par moi.", "Trois."]
    shown = units(house, job)
    assert shown["One."].current == "Un, par moi."
    assert shown["Two."].current == "Deux, par moi.\n\nTrois."
    choose(house, job, "Lamp", "ours")
    choose(house, job, "One.", "ours")
    choose(house, job, "Two.", "theirs")
    # What was taken replaces all that it competed with.
    assert paragraphs(fields(house, page)["body"]) == ["Un, par moi.", "French of Two."]
    assert fields(house, page)["title"] == "La lampe"
    house.do("ida", lambda a: accepting.accept(a, job))
    with pytest.raises(InTheWay, match="up to date"):
        order(house, page)


def test_the_other_side_of_a_paragraph_written_anew_takes_its_place(house: House) -> None:
    page = house.page("Lamp", body="<p>One.</p><p>Two of the lamps.</p><p>Three.</p>")
    first = order(house, page)
    returned(house, first)
    house.do("ida", lambda a: accepting.accept(a, first))
    text = fields(house, page)["body"].replace(
        "French of Two of the lamps.", "Tout autre chose ici, écrit à neuf"
    )
    save(house, page, "fr", body=text)
    save(house, page, "en", body="<p>One.</p><p>Two of the lamps, and a bell.</p><p>Three.</p>")
    job = order(house, page)
    returned(house, job)
    source = "Two of the lamps, and a bell."
    if units(house, job)[source].outcome == "conflict":
        choose(house, job, source, "theirs")
    assert paragraphs(fields(house, page)["body"]) == [
        "French of One.",
        f"French of {source}",
        "French of Three.",
    ]


def test_what_moved_on_meanwhile_is_neither_applied_nor_accepted(house: House) -> None:
    page = house.page("Lamp", body="<p>The lamp is lit at one.</p>")
    job = order(house, page)
    save(house, page, "en", body="<p>The lamp is lit at half past one.</p>")
    returned(house, job)
    drifted = units(house, job)["The lamp is lit at one."]
    assert drifted.outcome == "drifted"
    with pytest.raises(InTheWay, match="has another source by now"):
        house.do("ida", lambda a: accepting.accept(a, job, [(drifted.entry, drifted.key)]))
    done = house.do("ida", lambda a: accepting.accept(a, job))
    assert (done.accepted, done.left) == (1, 0)
    assert "1 unit returned too late, as it has another source by now" in done.notes[0]
    assert units(house, order(house, page)).keys() == {"The lamp is lit at half past one."}


QUOTE = {"name": "quote", "label": "Quote", "fields": [{"name": "said", "kind": "text", "label": "Said"}]}
ROW = {
    "name": "row",
    "label": "Row",
    "fields": [{"name": "inner", "kind": "blocks", "label": "Inner", "blocks": [QUOTE]}],
}


def test_blocks_that_are_gone_from_the_source_go_from_the_translation_with_the_rows_that_held_them(
    house: House,
) -> None:
    add_fields(house, [{"name": "parts", "kind": "blocks", "label": "Parts", "blocks": [QUOTE, ROW]}])

    def quote(said: str) -> dict[str, Any]:
        return {"id": said.lower(), "kind": "quote", "fields": {"said": said}}

    def row(*inner: str) -> dict[str, Any]:
        return {"id": "r", "kind": "row", "fields": {"inner": [quote(one) for one in inner]}}

    def told(parts: Any) -> list[Any]:
        return [
            one["fields"].get("said") or told(one["fields"].get("inner", ())) or "empty"
            for one in parts or ()
        ]

    page = house.page("Lamp", parts=[quote("One"), quote("Two"), row("Three", "Four")])
    first = order(house, page)
    returned(house, first)
    house.do("ida", lambda a: accepting.accept(a, first))
    for title, left, expected in (
        ("Lamps", [quote("Two"), row("Four")], ["French of Two", ["French of Four"]]),
        ("Lamp", [quote("Two")], ["French of Two"]),
        ("Lamps", [], []),
    ):
        save(house, page, "en", title=title, parts=left)
        returned(house, order(house, page))
        assert told(fields(house, page).get("parts")) == expected


def test_what_is_on_its_way_is_sent_again_only_by_choice(house: House) -> None:
    page = house.page("Lamp", body="<p>One.</p>")
    order(house, page)
    with pytest.raises(InTheWay, match="in another job already") as said:
        order(house, page)
    assert said.value.facts["away"] == 2
    save(house, page, "en", body="<p>One.</p><p>Two.</p>")
    wanted = Order((page,), ("fr",))
    found = house.desk.read(house.who("ida"), lambda v: sending.estimate(v, wanted))
    assert [(e.units, e.away) for e in found] == [(1, 2)]
    assert units(house, order(house, page)).keys() == {"Two."}
    assert units(house, order(house, page, again=True)).keys() == {"Lamp", "One.", "Two."}


def test_whoever_chose_is_a_writer_and_is_told_that_another_has_to_sign(house: House) -> None:
    page = house.page("Lamp", body="<p>One.</p>")
    save(house, page, "fr", title="La lampe")
    job = order(house, page)
    returned(house, job)
    choose(house, job, "Lamp", "theirs")
    done = house.do("ida", lambda a: accepting.accept(a, job))
    assert "not signed off: You changed this text" in done.notes[0]
    assert "Ask Oda." in done.notes[0]
    shown = house.desk.read(house.who("oda"), lambda v: show.entry(v, page, "fr"))
    asked = shown["review"]
    assert asked is not None
    assert (asked["outcome"], shown["sign_offs"]) == ("waiting", [])
    # The page, the refusal and the look ahead name the same people.
    assert shown["deciders"] == ["Oda"]
    with pytest.raises(Refused, match="You changed this text") as refused:
        house.do("ida", lambda a: review.sign_off(a, page, "fr", asked["revision"]))
    assert ENGLISH.remedy(refused.value) == "Ask Oda."

    def ahead(view: View) -> list[list[str]]:
        found = show_dispatches.dispatch_check(view, planning.check(view, [MoveRequest(page, "fr")]))
        return [
            u["who"]
            for m in found["moves"]
            for u in m["unmet"]
            if u["code"] == "sign-offs" and m["locale"] == "fr"
        ]

    assert house.desk.read(house.who("ida"), ahead) == [["Oda (section editor)"]]
    house.do("oda", lambda a: review.sign_off(a, page, "fr", asked["revision"]))
    assert house.desk.read(house.who("oda"), lambda v: show.entry(v, page, "fr"))["sign_offs"]


def without(*keys: str) -> Callable[[formats.InDocument], formats.InDocument]:
    """A file in which some units have no target."""

    def spoil(back: formats.InDocument) -> formats.InDocument:
        def bare(unit: Returned) -> Returned:
            segments = tuple(replace(s, target=None) for s in unit.segments)
            return replace(unit, segments=segments) if unit.key in keys else unit

        return replace(back, files=tuple((o, tuple(bare(u) for u in some)) for o, some in back.files))

    return spoil


def test_what_fits_is_taken_and_what_does_not_stays_open_until_it_comes(house: House) -> None:
    page = house.page(
        "Lamp", body='<p>One <a href="https://lamps.example/">lamp</a>. And more.</p><p>Two.</p>'
    )
    job = order(house, page)
    first = returned(house, job, spoil=without("title"))
    link = next(key for key in (u.key for u in units(house, job).values()) if "." in key)
    assert (first.applied, first.open, first.refused) == (1, 2, 1)
    assert [(p.title, p.key, p.what) for p in first.problems] == [
        ("Lamp", link, "in segment s1: tag missing: 1")
    ]
    shown = {u.key: (u.outcome, u.trouble) for u in units(house, job).values()}
    assert shown[link] == ("", "in segment s1: tag missing: 1")
    line = house.desk.read(house.who("ida"), lambda v: show_jobs.job(v, job))
    assert (line["state"], line["percent"]) == ("in work", 33)
    with pytest.raises(InTheWay, match="has not returned yet"):
        house.do("ida", lambda a: accepting.accept(a, job, [(page, "title")]))
    done = house.do("ida", lambda a: accepting.accept(a, job))
    assert (done.accepted, done.left) == (1, 2), "what has returned is accepted, and the job stays open"

    _, data = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    again = {u.key: u.segments for u in formats.read(data).files[0][1]}
    targets = [
        [(s.target, s.state) for s in some] for key, some in again.items() if key not in (link, "title")
    ]
    assert targets == [[(("French of Two.",), "final")]], "what came goes out again with its state"
    assert all(s.target is None for s in again["title"])

    def mended(back: formats.InDocument) -> formats.InDocument:
        def kept(unit: Returned) -> Returned:
            segments = tuple(replace(s, target=s.source) for s in again[unit.key])
            return replace(unit, segments=segments) if unit.key == link else unit

        return replace(back, files=tuple((o, tuple(kept(u) for u in some)) for o, some in back.files))

    last = returned(house, job, spoil=mended)
    assert (last.applied, last.open, last.refused) == (2, 0, 0), "the unit that was accepted is as it was"
    assert {u.trouble for u in units(house, job).values()} == {""}
    assert '<a href="https://lamps.example/">lamp</a>' in fields(house, page)["body"]
    assert house.do("ida", lambda a: accepting.accept(a, job)).left == 0
    with pytest.raises(InTheWay, match="up to date"):
        order(house, page)


def test_a_file_may_be_asked_to_be_taken_whole_or_not_at_all(house: House) -> None:
    page = house.page("Lamp", body="<p>One.</p>")
    job = order(house, page)
    with pytest.raises(BadFile, match="title has no target in segment s1"):
        returned(house, job, spoil=without("title"), whole=True)
    assert {u.outcome for u in units(house, job).values()} == {""}
    assert returned(house, job, whole=True).applied == 2


def test_sentences_of_a_unit_that_is_not_finished_are_kept_and_go_out_again(house: House) -> None:
    page = house.page("Lamp", body="<p>One is here. Two is there.</p>")
    job = order(house, page)

    def half(back: formats.InDocument) -> formats.InDocument:
        def first_alone(unit: Returned) -> Returned:
            segments = (*unit.segments[:-1], replace(unit.segments[-1], target=None))
            return replace(unit, segments=segments, notes=("Where is “there”?",)) if "." in unit.key else unit

        return replace(back, files=tuple((o, tuple(first_alone(u) for u in some)) for o, some in back.files))

    found = returned(house, job, spoil=half)
    assert (found.applied, found.open, found.refused) == (1, 1, 0)
    assert "body" not in fields(house, page)
    _, data = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    (unit,) = [u for u in formats.read(data).files[0][1] if "." in u.key]
    assert [s.target for s in unit.segments if not s.ignorable] == [("French of One is here.",), None]
    assert unit.notes == ("Where is “there”?",)
    assert [u.notes for u in units(house, job).values() if u.notes] == [["Where is “there”?"]]


def test_a_job_goes_out_and_comes_back_in_every_format_and_many_in_one_archive(house: House) -> None:
    body = '<p>One <a href="https://lamps.example/">lamp</a>. Two.</p><p>Three.</p>'
    jobs = []
    for name in formats.FORMATS:
        page = house.page("Lamp & rope", body=body)
        job = order(house, page, note="Keep it short.")
        jobs.append(job)

        def written(view: View, job: str = job, name: str = name) -> tuple[str, bytes]:
            return exporting.export(view, job, formats.of(name))

        file, data = house.desk.read(house.who("ida"), written)
        assert file.endswith(f"-fr.{formats.of(name).ending}")
        back = formats.read(data)
        assert back.job == job

        def done(unit: Returned) -> Returned:
            return replace(
                unit, segments=tuple(s if s.ignorable else replace(s, target=s.source) for s in unit.segments)
            )

        filled = replace(back, files=tuple((o, tuple(done(u) for u in some)) for o, some in back.files))
        found = house.do("ida", lambda a, j=job, f=filled: importing.import_file(a, j, f))
        assert (found.applied, found.open, found.problems) == (3, 0, []), name
        assert '<a href="https://lamps.example/">lamp</a>' in fields(house, page)["body"]
    data = house.desk.read(house.who("ida"), lambda v: exporting.archive(v, jobs, formats.of("csv")))
    assert data == house.desk.read(house.who("ida"), lambda v: exporting.archive(v, jobs, formats.of("csv")))
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        assert [formats.read(packed.read(name)).job for name in packed.namelist()] == jobs
    with pytest.raises(Invalid, match="between one and 200"):
        house.desk.read(house.who("ida"), lambda v: exporting.archive(v, []))
    with pytest.raises(Invalid, match="not a format"):
        formats.of("docx")


def test_a_changed_sentence_goes_out_with_what_it_was_and_how_it_was_translated(house: House) -> None:
    page = house.page("Lamp", body="<p>One.</p>")
    returned(house, order(house, page))
    save(house, page, "en", title="Lamps")
    job = order(house, page, due="2031-05-01")
    _, data = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    text = data.decode()
    assert "<source>Lamp</source><target>French of Lamp</target></mtc:match>" in text
    assert text.count("<mtc:match ") == 1
    assert '<note id="n2" category="due">2031-05-01</note>' in text


def zipped(files: dict[str, bytes]) -> io.BytesIO:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, data in files.items():
            packed.writestr(name, data)
    out.seek(0)
    return out


def test_an_archive_brings_each_file_to_the_job_that_it_names_and_says_what_became_of_each(
    house: House,
) -> None:
    jobs = [order(house, house.page(title)) for title in ("Lamps", "Bells")]
    files = [
        translate_file(house.desk.read(house.who("ida"), lambda v, j=job: exporting.export(v, j))[1])
        for job in jobs
    ]
    nameless = files[0].replace(jobs[0].encode(), b"")
    archive = zipped(
        {
            "a/lamps.xlf": files[0],
            "bells.xlf": files[1],
            "notes.txt": b"hello",
            "nameless.xlf": nameless,
            "__MACOSX/._lamps.xlf": b"x",
        }
    )
    found = list(archives.read(archive))
    assert [(one.name, one.document is not None) for one in found] == [
        ("a/lamps.xlf", True),
        ("bells.xlf", True),
        ("notes.txt", False),
        ("nameless.xlf", False),
    ]
    assert {one.document.job for one in found if one.document} == set(jobs)
    assert "does not say which job" in str(found[3].refused)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "not a ZIP"),
        (b"PK\x03\x04nothing", "not a ZIP"),
        ({}, "Nothing is in"),
        ({f"{n}.xlf": 1 for n in range(201)}, "at most 200 files"),
        ({f"{n}.xlf": 40_000_000 for n in range(6)}, "at most"),
    ],
    ids=["nothing", "broken", "empty", "many", "long"],
)
def test_an_archive_that_is_none_or_grows_beyond_bounds_is_refused(
    data: bytes | dict[str, int], says: str
) -> None:
    if not isinstance(data, bytes):
        data = zipped({name: bytes(size) for name, size in data.items()}).read()
    with pytest.raises(BadFile, match=says):
        list(archives.read(io.BytesIO(data)))


def test_a_file_whose_size_the_archive_gives_wrongly_is_named_and_fills_no_memory() -> None:
    data = bytearray(zipped({"bomb.xlf": b"\0" * 4_000_000}).read())
    # The size is said twice: before the file and in the directory (APPNOTE 4.4.9).
    for at in (22, data.find(b"PK\x01\x02") + 24):
        data[at : at + 4] = (100).to_bytes(4, "little")
    (found,) = archives.read(io.BytesIO(bytes(data)))
    assert "cannot be unpacked" in str(found.refused)


def test_what_a_file_would_do_is_shown_with_all_that_decides_it_and_nothing_is_kept(house: House) -> None:
    page = house.page("Lamps", body="<p>The lamp burned oil.</p><p>It rang.</p>")
    job = order(house, page)
    returned(house, job)
    again = order(house, page, again=True, current=True)
    _, data = house.desk.read(house.who("ida"), lambda v: exporting.export(v, again))
    back = translate_file(data)
    save(house, page, "en", body="<p>The lamp burned colza oil.</p><p>It rang.</p>")
    save(house, page, "fr", title="Les lampes du port")
    before = (fields(house, page), house.events(), units(house, again))
    found = house.do("ida", lambda a: importing.check(a, again, back))
    assert (fields(house, page), house.events(), units(house, again)) == before, "nothing is kept"
    by_how = {one.how: one for one in found.decisions}
    assert set(by_how) == {"drifted", "conflict"}
    drifted, clash = by_how["drifted"], by_how["conflict"]
    assert (drifted.sent, drifted.now) == ("The lamp burned oil.", "The lamp burned colza oil.")
    assert [run.text.strip() for run in drifted.runs if run.how == "new"] == ["colza"]
    assert (clash.key, clash.current) == ("title", "Les lampes du port")
    assert clash.returned not in ("", clash.current)
    done = house.do("ida", lambda a: importing.import_file(a, again, back))
    assert done == found, "what was shown is what is done"


def test_a_look_at_what_a_file_would_do_to_an_edition_that_is_not_there_makes_none(house: House) -> None:
    page = house.page("Lamps")
    job = order(house, page)
    _, data = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    back = translate_file(data)
    found = house.do("ida", lambda a: importing.check(a, job, back))
    assert (found.applied, found.decisions) == (2, [])
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM edition WHERE locale = 'fr'").fetchone()[0] == 0
    assert house.do("ida", lambda a: importing.import_file(a, job, back)) == found


def test_what_another_program_put_into_a_file_is_in_the_next_one(house: House) -> None:
    page = house.page("Lamps", body="<p>It burned.</p>")
    job = order(house, page)
    out = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))[1]
    marked = out.replace(b"<segment", b'<w:seen xmlns:w="urn:words.example" by="x"/><segment', 1)
    house.do(
        "ida",
        lambda a: importing.import_file(
            a, job, marked.replace(b"</source>", b"</source><target>Des lampes</target>", 1)
        ),
    )
    again = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))[1]
    assert again.count(b'by="x"') == 1
    assert b"Des lampes" in again
    house.do("ida", lambda a: importing.import_file(a, job, again))
    assert house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))[1] == again


def limited(house: House, **limits: int) -> None:
    """Let fields of pages take so many characters."""

    def do(act: Any) -> None:
        now = contenttypes.to_dict(act.setup.types["page"])
        fields = [f | ({"limit": limits[f["name"]]} if f["name"] in limits else {}) for f in now["fields"]]
        changing.define_type(act, {**now, "fields": fields})

    house.do("ida", do)


def test_a_text_that_is_too_long_for_its_field_is_named_and_kept_and_the_rest_does_not_wait_for_it(
    house: House,
) -> None:
    add_fields(house, [{"name": "note", "kind": "line", "label": "Note", "limit": 20}])
    page, other = house.page("Lamp", note="Wet"), house.page("Bell")
    job = order(house, page, other)
    long = "A rather long French of {}"
    with pytest.raises(BadFile, match="at most 20"):
        returned(house, job, long, whole=True)
    first = returned(house, job, long)
    assert (first.applied, first.open, first.refused) == (4, 1, 1)
    (place,) = first.problems
    assert (place.title, place.key) == ("Lamp", "note")
    assert "27 characters" in place.what
    assert fields(house, page)["title"] == "A rather long French of Lamp"
    assert "note" not in fields(house, page)
    unit = units(house, job)["Wet"]
    assert (unit.outcome, "at most 20" in unit.trouble) == ("", True)
    _, data = house.desk.read(house.who("ida"), lambda v: exporting.export(v, job))
    came = {u.key: u.segments for o, some in formats.read(data).files for u in some}["note"]
    assert [s.target for s in came] == [("A rather long French of Wet",)], "it is there to be shortened"
    with house.desk.db.read() as conn:
        before = conn.execute("SELECT count(*) FROM event").fetchone()[0]
        again = returned(house, job, long)
        assert (again.applied, again.refused) == (0, 1)
        assert conn.execute("SELECT count(*) FROM event").fetchone()[0] == before, (
            "the same again is nothing new"
        )
    last = returned(house, job, "F. {}")
    assert (last.open, last.refused, fields(house, page)["note"]) == (0, 0, "F. Wet")


def test_what_stood_in_another_field_and_is_too_long_by_now_keeps_nothing_from_returning(
    house: House,
) -> None:
    add_fields(house, [{"name": "note", "kind": "line", "label": "Note"}])
    page = house.page("Lamp", note="Wet")
    save(house, page, "fr", title="La lampe", body="<p>Mots.</p>", note="Mouillé jusqu’à midi")
    job = order(house, page, current=True)
    save(house, page, "en", title="The lamp")
    limited(house, note=5)
    found = returned(house, job, spoil=without("note"))
    assert (found.refused, found.conflict + found.drifted + found.applied) == (0, 2)
    assert fields(house, page)["note"] == "Mouillé jusqu’à midi"


def test_what_is_too_long_within_a_text_is_all_of_it(house: House) -> None:
    limited(house, body=30)
    page = house.page("Lamp", body="<p>One.</p><p>Two.</p>")
    job = order(house, page)
    found = returned(house, job, "A rather long French of {}")
    assert (found.applied, found.refused, found.open) == (1, 2, 2)
    assert {p.key.split(".")[0] for p in found.problems} == {"body"}


def test_of_a_field_of_blocks_what_is_too_long_alone_stays_out(house: House) -> None:
    card = {"name": "card", "fields": [{"name": "heading", "kind": "line", "label": "Heading", "limit": 16}]}
    add_fields(house, [{"name": "cards", "kind": "blocks", "label": "Cards", "blocks": [card]}])
    cards = [{"kind": "card", "fields": {"heading": text}} for text in ("Wet", "Dry all year")]
    page = house.page("Lamp", cards=cards)
    job = order(house, page)
    found = returned(house, job)
    assert (found.refused, found.open) == (1, 1)
    assert units(house, job)["Dry all year"].trouble
    assert fields(house, page)["cards"][0]["fields"]["heading"] == "French of Wet"


def redefined(house: House, change: Callable[[dict[str, Any]], dict[str, Any]], **more: Any) -> None:
    """Pages in another form: each of their fields changed, or the type."""

    def define(act: Any) -> None:
        now = contenttypes.to_dict(act.setup.types["page"])
        changing.define_type(act, {**now, "fields": [change(one) for one in now["fields"]], **more})

    house.do("ida", define)


def test_what_the_source_has_and_no_field_takes_any_more_keeps_nothing_from_returning(house: House) -> None:
    card: dict[str, Any] = {
        "name": "card",
        "fields": [
            {"name": "heading", "kind": "line", "label": "Heading"},
            {"name": "mood", "kind": "choice", "label": "Mood", "choices": ["glad", "sad"]},
        ],
    }
    add_fields(
        house,
        [
            {"name": "mood", "kind": "choice", "label": "Mood", "choices": ["glad", "sad"]},
            {"name": "near", "kind": "reference", "label": "Near", "many": True},
            {"name": "cards", "kind": "blocks", "label": "Cards", "blocks": [card]},
        ],
    )
    other = house.page("Salt")
    cards = [
        {"kind": "card", "fields": {"heading": h, "mood": m}} for h, m in (("Wet", "sad"), ("Dry", "glad"))
    ]
    page = house.page("Lamp", mood="sad", near=[other], cards=cards)
    job = order(house, page)

    def narrowed(one: dict[str, Any]) -> dict[str, Any]:
        only = {"choices": ["glad"]}
        if one["name"] == "cards":
            inner = [f | only if f["name"] == "mood" else f for f in card["fields"]]
            return one | {"blocks": [card | {"fields": inner}]}
        return one | {"mood": only, "near": {"types": ["picture"]}}.get(one["name"], {})

    redefined(house, narrowed)
    found = returned(house, job)
    assert (found.refused, found.open) == (0, 0)
    (note,) = found.notes
    assert (note.title, note.what) == (
        "Lamp",
        "Left out, as it does not fit any more: Cards, Mood, Near.",
    )
    now = fields(house, page)
    assert "mood" not in now
    assert "near" not in now
    assert [one["fields"] for one in now["cards"]] == [
        {"heading": "French of Wet"},
        {"heading": "French of Dry", "mood": "glad"},
    ]
    assert note.what in house.revision(page, "fr")["note"], "and for whoever was not there"


def test_what_the_translation_has_of_its_own_is_never_left_out(house: House) -> None:
    card: dict[str, Any] = {
        "name": "card",
        "fields": [
            {"name": "heading", "kind": "line", "label": "Heading"},
            {"name": "mood", "kind": "choice", "label": "Mood", "choices": ["glad", "sad"]},
        ],
    }
    add_fields(house, [{"name": "cards", "kind": "blocks", "label": "Cards", "blocks": [card]}])
    cards = [{"kind": "card", "fields": {"heading": "Wet", "mood": "glad"}}]
    page = house.page("Lamp", cards=cards)
    returned(house, order(house, page))
    mine = fields(house, page)["cards"]
    mine[0]["fields"]["mood"] = "sad"
    save(house, page, "fr", cards=mine)
    theirs = house.desk.read(house.who("wim"), lambda v: show.entry(v, page, "en"))["fields"]["cards"]
    theirs[0]["fields"]["heading"] = "Damp"
    save(house, page, "en", cards=theirs)
    job = order(house, page)
    inner = [f | {"choices": ["glad"]} if f["name"] == "mood" else f for f in card["fields"]]
    redefined(
        house, lambda one: one | ({"blocks": [card | {"fields": inner}]} if one["name"] == "cards" else {})
    )
    found = returned(house, job)
    assert [(p.key.split(":")[0], "glad" in p.what) for p in found.problems] == [("cards", True)]
    assert fields(house, page)["cards"] == mine


def test_nothing_returns_into_entries_of_a_type_that_is_read_only_by_now(house: House) -> None:
    page = house.page("Lamp")
    save(house, page, "fr", title="La lampe", body="<p>Mots.</p>")
    job = order(house, page, current=True)
    save(house, page, "fr", title="La lampe du port")
    returned(house, job, spoil=without(next(u.key for u in units(house, job).values() if "body" in u.key)))
    before = fields(house, page)
    redefined(house, lambda one: one, read_only=True)
    found = returned(house, job)
    assert (found.applied, found.refused, fields(house, page)) == (0, 1, before)
    assert "read-only" in found.problems[0].what
    with pytest.raises(Refused, match="read-only"):
        choose(house, job, "Lamp", "theirs")
    redefined(house, lambda one: one, read_only=False)
    assert (returned(house, job).refused, fields(house, page)["title"]) == (0, "La lampe du port")
    choose(house, job, "Lamp", "theirs")
    assert fields(house, page)["title"] == "French of Lamp"
