"""Languages: each catalogue whole and sound, the language of each request, of each person and of the house, and catalogues out and in as XLIFF."""

from __future__ import annotations

import io
import json
import re
import shutil
import tracemalloc
from collections.abc import Iterator
from datetime import date
from pathlib import Path
from typing import get_args

import pytest
from tests.service.made import House

from hawthorn.core.access import Means
from hawthorn.core.errors import BadFile, Invalid
from hawthorn.core.messages import Message, said
from hawthorn.messages import (
    ENGLISH,
    LANGUAGES,
    WORDS,
    Catalogue,
    Spoken,
    accepted,
    flat,
    speaking,
    translating,
)
from hawthorn.operations.access import logging_in, people
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.content import entries
from hawthorn.operations.release import review
from hawthorn.store import notifications as told_store
from hawthorn.store import people as people_store

OTHERS = [one for one in LANGUAGES if one != "en"]
NOT_WORDS = re.compile(r"\{\{[^}]*\}\}|`[^`]*`|\[/?\w+\]|https?:\S+|pip install .*|[A-Z_]{4,}|--\w+")


def all_texts(language: str) -> Iterator[tuple[str, translating.Text]]:
    for name, (source, theirs) in translating.catalogues(language).items():
        for text in translating.texts_of(translating._tree(source), translating._tree(theirs), language):
            yield name, text


@pytest.mark.parametrize("language", OTHERS)
def test_every_text_is_translated_with_its_facts_its_plural_forms_and_a_length_that_fits(
    language: str,
) -> None:
    texts = list(all_texts(language))
    assert len(texts) > 5_500
    assert [f"{name}: {text.key}" for name, text in texts if text.target is None] == []
    found = [
        f"{name}: {text.key}: {ENGLISH.text(what)}"
        for name, text in texts
        for what in translating.wrong(text, text.target or "")
    ]
    assert found == []


@pytest.mark.parametrize("language", OTHERS)
def test_no_sentence_is_left_in_english_and_nothing_is_there_that_english_has_not(language: str) -> None:
    for name, text in all_texts(language):
        words = re.findall(r"[A-Za-z]{2,}", NOT_WORDS.sub("", text.source))
        assert len(words) < 4 or text.target != text.source, f"{name}: {text.key}"
    for source, theirs in translating.catalogues(language).values():
        wanted = {t.key for t in translating.texts_of(translating._tree(source), {}, language)}
        assert {key for key, _ in flat(translating._tree(theirs))} - wanted == set()


def test_plural_forms_days_numbers_and_lists_are_those_of_each_language() -> None:
    def days(language: str, count: int) -> str:
        return Catalogue(language).text(said("span.days", count=count))

    assert [days("ar", n) for n in (1, 2, 3, 11, 100)] == [
        "يوم واحد",
        "يومان",
        "3 أيام",
        "11 يومًا",
        "100 يوم",
    ]
    assert [days("fr", n) for n in (1, 2)] == ["1 jour", "2 jours"]
    too_long = said("common.too_long", count=1234, most=1000)
    assert Catalogue("de").text(too_long) == "hat 1.234 Zeichen und darf höchstens 1.000 haben"
    assert ENGLISH.text(too_long) == "has 1,234 characters and may have at most 1,000"
    due = said("notifications.assigned_until.says", title="T", due="2026-12-04")
    shown = {language: Catalogue(language).text(due).split("T", 1)[1] for language in LANGUAGES}
    assert shown == {
        "en": ", due on Fri 4 Dec 2026",
        "de": ", fällig am Fr., 4. Dez. 2026",
        "fr": ", échéance le ven. 4 déc. 2026",
        "ar": "، موعدها الجمعة، 4 ديسمبر 2026",
    }
    several = said("joined.or", others=["A", "B"], last="C")
    assert [Catalogue(one).text(several) for one in ("de", "fr", "ar")] == [
        "A, B oder C",
        "A, B ou C",
        "A، B أو C",
    ]


@pytest.mark.parametrize(
    ("header", "language"),
    [
        ("", ""),
        ("de", "de"),
        ("de-AT,de;q=0.9,en;q=0.8", "de"),
        ("nl, fr;q=0.4, ar;q=0.6", "ar"),
        ("fr;q=0, de;q=0.1", "de"),
        ("*", ""),
        ("nl", ""),
        ("de;q=2, fr", "fr"),
        ("x" * 50 + ", fr", "fr"),
        (", ;;,", ""),
    ],
)
def test_the_language_that_is_wanted_most_of_those_there_are_is_spoken(header: str, language: str) -> None:
    assert accepted(header) == language


def test_whoever_asks_in_ever_new_ways_takes_no_memory() -> None:
    tracemalloc.start()
    try:
        for n in range(2_000):
            assert accepted(f"de-{n:08},{'x' * 20_000}") == "de"
        assert tracemalloc.get_traced_memory()[0] < 5_000_000
    finally:
        tracemalloc.stop()


def test_a_language_is_spoken_for_a_while_and_what_a_catalogue_has_not_is_said_in_english(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    house = Spoken("fr")
    nothing = said("digests.subject", count=1)
    assert house.text(nothing) == "Une notification depuis le dernier résumé"
    with speaking("de"):
        assert house.text(nothing) == "Eine Benachrichtigung seit der letzten Zusammenfassung"
        assert house.kept.text(nothing) == "Une notification depuis le dernier résumé"
        with speaking("nl"):
            assert (house.language, WORDS.language) == ("fr", "en")
        assert WORDS.language == "de"
    assert WORDS.language == "en"
    monkeypatch.delitem(Catalogue("de").texts, "digests.subject_one")
    monkeypatch.delitem(Catalogue("de").texts, "digests.subject_other")
    assert Catalogue("de").text(nothing) == "One notification since the last digest"


# -- people and the house ----------------------------------------------------------------------------------------------------


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def chooses(house: House, handle: str, language: str) -> None:
    house.do(handle, lambda act: people.set_profile(act, handle.title(), "UTC", language))


def test_each_person_is_told_in_their_language_and_what_is_kept_is_in_that_of_the_house(house: House) -> None:
    chooses(house, "oda", "de")
    with pytest.raises(Invalid, match="language"):
        chooses(house, "wim", "nl")
    uuid = house.page("Lamp")
    with speaking("ar"):
        house.do("wim", lambda a: review.submit(a, uuid, "en"))
        house.do("oda", lambda a: review.send_back(a, uuid, "en", "More of it."))
        house.do(
            "wim",
            lambda a: entries.save(
                a, uuid, "en", {"title": "Lamps"}, entries.base_now(a, uuid, "en", "draft")
            ),
        )
        house.do("wim", lambda a: entries.restore(a, uuid, "en", 1))
    with house.desk.db.read() as conn:
        notes = [row[0] for row in conn.execute("SELECT note FROM revision ORDER BY id")]
    assert "Brought back revision 1" in notes

    def told(handle: str) -> list[str]:
        found = house.who(handle)
        with house.desk.db.read() as conn:
            return [row.says for row in told_store.newest(conn, found.id, 1 << 62, 10)]

    def tell() -> None:
        from tests.followers.test_followers import Options

        from hawthorn.followers.mail import Mail

        Mail(house.desk, Options(smtp_port=9)).step("one")

    tell()
    assert told("oda") == ["Zu prüfen: Lamp"]
    assert told("wim") == ["Sent back: Lamp"]
    with house.desk.db.read() as conn:
        sent = conn.execute("SELECT recipient, payload FROM outbox ORDER BY id").fetchall()
    mails = [(recipient.split("@")[0], json.loads(payload)["subject"]) for recipient, payload in sent]
    assert ("oda", "Zu prüfen: Lamp") in mails
    assert [subject for who, subject in mails if who != "oda"] == ["For review: Lamp", "Sent back: Lamp"]


def test_an_invitation_is_in_the_language_of_the_house_until_somebody_chose_another(house: House) -> None:
    def invited(handle: str) -> str:
        house.do("ida", lambda act: logging_in.invite(act, house.who(handle).id, "https://x.example"))
        with house.desk.db.read() as conn:
            row = conn.execute("SELECT payload FROM outbox ORDER BY id DESC LIMIT 1").fetchone()
        subject: str = json.loads(house.desk.vault.open(row[0]))["subject"]
        return subject

    with speaking("fr"):
        assert invited("wim") == "Your invitation to Hawthorn"
        chooses(house, "wim", "ar")
        assert invited("wim") == "دعوتك إلى Hawthorn"


def test_the_digest_is_in_the_language_of_its_reader(house: House) -> None:
    chooses(house, "wim", "fr")
    with house.desk.db.read() as conn:
        row = people_store.by_handle(conn, "wim")
        assert row is not None
    note = notifications.Notification(
        row.id,
        "comment",
        "commented",
        {"by": "Oda", "title": "T", "locale": "en", "text": "Yes."},
        "/entries/x",
    )
    reader = told_store.Digest(row.id, "Wim", "wim@x.example", "UTC", None, 0, 0, row.language)

    def write(conn: object) -> tuple[str, str, int]:
        notifications.tell(conn, house.desk.words, 1, house.clock.at, note)  # type: ignore[arg-type]
        return notifications.digest(conn, house.desk.words, reader, house.clock.at, "https://x.example")  # type: ignore[arg-type]

    subject, body, count = house.desk.db.write(write)
    assert (subject, count) == ("Une notification depuis le dernier résumé", 1)
    assert "Oda a commenté T" in body
    assert body.startswith("Bonjour Wim")


@pytest.mark.parametrize("language", LANGUAGES)
def test_every_means_of_logging_in_has_words_in_the_console_and_on_the_command_line(language: str) -> None:
    console = json.loads((translating.CONSOLE / f"{language}.setup.json").read_text("utf-8"))["logIns"]
    for one in get_args(Means):
        code = one.replace(" ", "_")
        assert console.get(f"by_{code}"), one
        assert Catalogue(language).text(said(f"cli.words.means.{code}")), one


# -- out and in ----------------------------------------------------------------------------------------------------------------


@pytest.fixture
def elsewhere(tmp_path: Path) -> tuple[Path, Path]:
    """The English catalogues alone, in another place."""
    service, console = tmp_path / "service", tmp_path / "console"
    shutil.copytree(translating.HERE / "en", service / "en")
    console.mkdir()
    for path in translating.CONSOLE.glob("en*.json"):
        shutil.copy(path, console)
    return service, console


def test_what_went_out_comes_in_to_the_byte(elsewhere: tuple[Path, Path]) -> None:
    for language in OTHERS:
        assert translating.take_in(io.BytesIO(translating.export(language)), *elsewhere)[2] == 0
        for name, (_, theirs) in translating.catalogues(language).items():
            assert theirs.read_bytes() == translating.catalogues(language, *elsewhere)[name][1].read_bytes()


def test_a_new_language_goes_out_empty_and_comes_in_as_far_as_it_is_translated(
    elsewhere: tuple[Path, Path],
) -> None:
    out = translating.export("nl", *elsewhere).decode()
    assert "<target" not in out
    said_no = out.replace("<source>No</source>", "<source>No</source><target>Nee</target>")
    assert said_no != out
    language, done, left = translating.take_in(io.BytesIO(said_no.encode()), *elsewhere)
    assert (language, done >= 1, left > 5_000) == ("nl", True, True)
    found = json.loads((elsewhere[1] / "nl.json").read_text())
    assert found["fields"]["no"] == "Nee"


@pytest.mark.parametrize(
    ("was", "becomes", "why"),
    [
        (
            '<target><ph id="1" canCopy="no" canDelete="no" canReorder="yes" dataRef="d1"/> ist gelöscht.</target>',
            "<target>Gelöscht.</target>",
            "catalogues.place_missing",
        ),
        ("ist gelöscht.</target>", "ist gelöscht. {{when}}</target>", "catalogues.place_strange"),
        ("<target>Nicht jetzt</target>", f"<target>{'Nicht jetzt' * 20}</target>", "catalogues.too_long"),
        ("<target>Nicht jetzt</target>", "<target> Nicht jetzt</target>", ""),
        ("<source>Not now</source>", "<source>Not yet</source>", "catalogues.moved_on"),
        ('name="titles.busy"', 'name="titles.busy"', ""),
        ('<unit id="titles.busy"', '<unit id="titles.lazy"', "catalogues.no_text"),
        ('original="service/common"', 'original="service/uncommon"', "catalogues.no_file"),
    ],
)
def test_a_file_with_something_that_does_not_fit_is_named_and_not_taken_at_all(
    elsewhere: tuple[Path, Path], was: str, becomes: str, why: str
) -> None:
    out = translating.export("de").decode()
    assert was in out
    changed = io.BytesIO(out.replace(was, becomes, 1).encode())
    if not why:
        translating.take_in(changed, *elsewhere)
        return
    with pytest.raises(Invalid) as refused:
        translating.take_in(changed, *elsewhere)
    assert why in [problem.what.code for problem in refused.value.facts["problems"]]
    assert not (elsewhere[0] / "de").exists()
    for language in LANGUAGES:
        for problem in refused.value.facts["problems"][:3]:
            assert isinstance(problem.what, Message)
            assert Catalogue(language).text(problem.what)


@pytest.mark.parametrize(
    "given",
    [
        b"<x/>",
        b"",
        b"{}",
        b'<xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.1" srcLang="en" trgLang="de"><file id="f1" original="service/common"/></xliff>',
    ],
)
def test_what_is_no_file_of_catalogues_is_said_so(elsewhere: tuple[Path, Path], given: bytes) -> None:
    with pytest.raises(BadFile):
        translating.take_in(io.BytesIO(given), *elsewhere)


def test_the_first_day_of_each_language_is_written_without_loading_more_than_it_takes() -> None:
    assert ENGLISH.text(said("report.week", week=date(2026, 11, 30).isoformat())) == "30 Nov"
    assert Catalogue("ar").text(said("report.week", week="2026-11-30")) == "30 نوفمبر"
