"""The translations of the demo: written by hand, read against their source, and sent as jobs."""

from __future__ import annotations

import io
from dataclasses import replace
from typing import TYPE_CHECKING

from hawthorn.core import formats
from hawthorn.core.translation import tbx, tmx
from hawthorn.core.translation.returns import Returned
from hawthorn.core.translation.tbx import TbxConcept, TbxTerm
from hawthorn.core.translation.tmx import TmxUnit, Variant
from hawthorn.demo.museum import MEMORY, NEWS, WORDS
from hawthorn.demo.offers import BY_FILES
from hawthorn.demo.wordwise import translate_file
from hawthorn.operations.translation import (
    against,
    commissions,
    exporting,
    glossaries,
    glossary_files,
    importing,
    memories,
    memory_files,
    questions,
    sending,
    standing_commissions,
    table,
)
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.views import show
from hawthorn.store import job_lists
from hawthorn.store import memories as memory_store

if TYPE_CHECKING:
    from hawthorn.demo.seeding import Museum

_DAY = 86_400_000_000


def make(museum: Museum) -> None:
    """Translations by hand and by jobs, in every state that the grid knows."""
    writer = {"de": "hanne", "ar": "sami", "fr": "ida", "ja": "ida"}
    for title, by_locale in NEWS.translated.items():
        for locale, fields in by_locale.items():
            museum.save(writer[locale], title, fields, "Translated", locale)
            # The café's hours were not read against the source in Arabic yet.
            read_against(museum, writer[locale], title, locale, most=2 if locale == "ar" else 9)
    winter = NEWS.notices[0]["title"]
    museum.submit("hanne", winter, locale="de")
    museum.sign("tomas", winter, locale="de")
    museum.release("ida", winter, locale="de")
    museum.submit("sami", winter, locale="ar")
    museum.sign("tomas", winter, locale="ar")
    museum.release("ida", winter, locale="ar")
    _moved_on(museum, winter)
    lamp, bell = museum.ids["The harbour lamp"], museum.ids["The fog bell"]
    order = Order((bell, lamp), ("fr",), "Lights and Signals in French", bureau="")
    museum.do("mina", lambda act: sending.commission(act, order), hours=20)
    job = _newest_job(museum)
    data = museum.desk.read(museum.who("mina"), lambda v: exporting.export(v, job))[1]
    back = translate_file(data)
    museum.do("mina", lambda act: importing.import_file(act, job, back))
    free = Order((museum.ids["Free entry on the first Sunday"],), ("ja", "de"), "First Sundays", bureau="")
    museum.do("mina", lambda act: sending.commission(act, free))
    assert formats.read(back).job == job
    _partly_returned(museum, _newest_job(museum))
    _asked(museum, _newest_job(museum))
    _remembered(museum)
    _called(museum)


def _moved_on(museum: Museum, winter: str) -> None:
    """The café opens earlier: German follows and is out, French is signed off and waits for its time, and what is out in Arabic says the
    old hour."""

    def change(handle: str, locale: str, old: str, new: str, why: str) -> None:
        uuid = museum.ids[winter]
        body = museum.desk.read(museum.who(handle), lambda v: show.entry(v, uuid, locale))["fields"]["body"]
        assert old in body
        museum.save(handle, winter, {"body": body.replace(old, new)}, why, locale)
        if locale != "en":
            read_against(museum, handle, winter, locale, most=9)
        museum.submit(handle, winter, locale=locale)
        museum.sign("tomas", winter, locale=locale)

    change("wim", "en", "half an hour earlier", "at nine", "The café opens at nine")
    museum.release("ida", winter)
    change("hanne", "de", "eine halbe Stunde früher", "um neun Uhr", "As in English")
    museum.release("ida", winter, locale="de")
    change("ida", "fr", "une demi-heure plus tôt", "à neuf heures", "As in English")


def _called(museum: Museum) -> None:
    """What the museum calls things comes in as a file, too."""
    some = (
        TbxConcept(tuple(TbxTerm(t.locale, t.text, t.status) for t in one.terms), one.note)
        for one in WORDS.concepts
    )
    file = io.BytesIO(b"".join(tbx.write(some, "en", WORDS.name)))
    home = museum.do(
        "mina", lambda act: glossaries.add(act, WORDS.name, "What labels and signs call things.")
    )
    glossary_files.import_file(museum.desk, museum.who("mina"), home.id, "The museum's words.tbx", file)


def collect(museum: Museum) -> None:
    """Somebody collects what is to be translated for spring, and has not sent it yet."""
    uuid = museum.do("mina", lambda act: commissions.open_one(act, "For spring", shared=True), hours=2)
    some = [museum.ids[title] for title in ("A keeper's oilskin coat", "Seven ways to mark a rock", "Visit")]
    museum.do("mina", lambda act: commissions.put(act, uuid, some))
    museum.do("ida", lambda act: commissions.put(act, uuid, [museum.ids["How to find us"]]), hours=1)
    settings = {
        "note": "The museum speaks of keepers, not of guards.",
        "fill": True,
        "targets": [
            {"locale": "fr", "bureau": museum.bureau},
            {"locale": "ja", "bureau": museum.bureau},
            {"locale": "ar", "person": "sami"},
        ],
    }
    museum.do("mina", lambda act: commissions.change(act, uuid, settings))


def take_along(museum: Museum) -> None:
    """A leaflet and captions wait for their French files."""
    some = (museum.ids["The museum on one sheet"], museum.ids["Rung once, in fog"])
    note = "The leaflet is one sheet in each language; the captions keep their times."
    order = Order(some, ("fr",), "To take along", note=note)
    museum.do("mina", lambda act: sending.commission(act, order), hours=1)


def stand(museum: Museum) -> None:
    """What goes out in a gallery goes into German by itself, to the bureau that works on files."""
    lights = {
        "name": "Lights and Signals, into German",
        "section": museum.ids["Lights and Signals"],
        "targets": [{"locale": "de", "bureau": BY_FILES}],
        "pause": 45,
        "days": 14,
        "note": "Labels are short: no more words than the English has.",
        "returns": "review",
    }
    museum.do("mina", lambda act: standing_commissions.add(act, lights), hours=1)


def read_against(museum: Museum, handle: str, title: str, locale: str, most: int) -> None:
    """Somebody reads what they wrote against its source, as far as so many texts, and says that it fits."""
    uuid = museum.ids[title]
    due = museum.desk.read(museum.who(handle), lambda v: against.look(v, uuid, locale)).due
    fits = {one.key: one.hash for one in due[:most] if one.target}
    museum.do(handle, lambda act: against.still_fits(act, uuid, locale, fits), minutes=10)


def _partly_returned(museum: Museum, job: str) -> None:
    """A translator sends the first text back, and leaves the rest open."""
    data = museum.desk.read(museum.who("mina"), lambda v: exporting.export(v, job))[1]
    whole = formats.read(translate_file(data))

    def asked(unit: Returned, n: int) -> Returned:
        target = ("Freier Eintritt am ersten Sonntag",) if n == 0 else None
        segments = tuple(replace(s, target=target) for s in unit.segments)
        return replace(unit, segments=segments)

    files = tuple((o, tuple(asked(u, n) for n, u in enumerate(some))) for o, some in whole.files)
    part = replace(whole, files=files)
    museum.do("mina", lambda act: importing.import_file(act, job, part))


def _asked(museum: Museum, job: str) -> None:
    """A translator asks about two sentences, and one of them is answered."""
    lines = museum.desk.read(museum.who("hanne"), lambda v: table.lines(v, job, 10))[0]

    def ask(label: str, question: str) -> int:
        line = next(one for one in lines if one.label == label)
        place = (line.entry, line.key, line.segment)
        return museum.do("hanne", lambda act: questions.ask(act, job, place, question), minutes=10).id

    answered = ask("Title", "With an article, or without?")
    ask("Text", "For everybody, or for the town?")
    museum.do("mina", lambda act: questions.answer(act, job, answered, "Without; it is a sign."), minutes=30)


def _remembered(museum: Museum) -> None:
    """What was translated in other years comes in as a file."""
    units = (
        TmxUnit(tuple(Variant(tag, text) for tag, text in one.items()), at=museum.clock.now() - 400 * _DAY)
        for one in MEMORY.all()
    )
    file = io.BytesIO(b"".join(tmx.write(units, "en")))
    with museum.desk.db.read() as conn:
        there = memory_store.named(conn, memories.HOUSE)
    note = "What was accepted here, and before."
    home = (
        there.uuid
        if there is not None
        else museum.do("mina", lambda act: memories.add(act, memories.HOUSE, note)).id
    )
    memory_files.import_file(museum.desk, museum.who("mina"), home, "Labels and signs.tmx", file)


def _newest_job(museum: Museum) -> str:
    with museum.desk.db.read() as conn:
        uuid: str = job_lists.newest(conn, 1)[0].uuid
        return uuid
