"""The months before the story: what the museum wrote, reviewed, translated and released week by week, in five languages."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING, Any

from hawthorn.core.timeline import SECOND
from hawthorn.demo import drawing, translated
from hawthorn.demo.museum import ARCHIVE
from hawthorn.demo.wordwise import translate_file
from hawthorn.operations.collaboration import assignments, comments
from hawthorn.operations.media import files, library
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.translation import accepting, exporting, importing, sending
from hawthorn.operations.translation.orders import Order
from hawthorn.store import job_lists

if TYPE_CHECKING:
    from hawthorn.demo.museum import Thing
    from hawthorn.demo.seeding import Museum

WEEK = 7 * 86_400 * SECOND
WEEKS = 10
"""So long it was before the story begins."""
_EACH = 4
"""Labels a week."""
_ON_THEIR_WAY = WEEKS - 2
"""What was begun in this week has not gone out yet."""
_WRITERS, _REVIEWERS = ("wim", "nell"), ("oda", "rhea", "oda")


def fill(museum: Museum) -> None:
    """Do all of it, from where the clock stands on."""
    usual, museum.pause = museum.pause, {"minutes": 12}
    _people(museum)
    begun = museum.clock.at
    for week in range(WEEKS):
        museum.reached(f"week {week + 1} of {WEEKS}")
        assert museum.clock.at <= begun + week * WEEK, "a week was too short for what was done in it"
        museum.clock.at = begun + week * WEEK
        _labels(museum, _of(week), week)
        _news(museum, week)
        if 0 < week <= _ON_THEIR_WAY:
            _translated(museum, _of(week - 1), week)
    for one in ARCHIVE.comments:
        made = museum.do(
            one.by,
            lambda act, one=one: comments.make(act, museum.ids[one.on], "en", one.text, "body", None),  # type: ignore[misc]
            hours=3,
        )
        for by, said in one.answers:
            museum.do(by, lambda act, m=made, s=said: comments.reply(act, m, s), hours=2)  # type: ignore[misc]
    museum.pause = usual


def _of(week: int) -> list[Thing]:
    return ARCHIVE.things[week * _EACH : (week + 1) * _EACH]


def _people(museum: Museum) -> None:
    for one in ARCHIVE.people:
        museum.start("nell", "person", one)
    museum.release("jonas", *[one["title"] for one in ARCHIVE.people])


def _labels(museum: Museum, some: Sequence[Thing], week: int) -> None:
    """Labels of a week: written and drawn, reviewed, some of them sent back once, and released together. Of the last week they are on their way."""
    out = []
    if not some:
        return
    folder = museum.do("nell", lambda act: library.make_folder(act, f"Register, part {week + 1}"), minutes=5)
    pictures = []
    for n, thing in enumerate(some):
        writer, number = _WRITERS[(week + n) % 2], week * _EACH + n
        title, text = thing.en, ARCHIVE.text(number, "en")
        data = files.inspect(f"thing-{number}.png", drawing.draw_thing(thing.drawn, number))
        kept = museum.do("nell", lambda act, d=data: files.keep(act, d), minutes=3)  # type: ignore[misc]
        picture = {
            "title": f"{title}, drawn",
            "alt": f"A drawing: {title.lower()}.",
            "credit": "Drawing: museum workshop",
            "file": kept,
        }
        pictures.append(museum.start("nell", "picture", picture))
        fields = {
            "title": title,
            "number": f"PH {thing.year}.{number + 11}",
            "year": thing.year,
            "picture": pictures[-1],
            "below": museum.ids[thing.place],
            "tags": [thing.of, "register"],
        }
        museum.start(writer, "label", fields)
        museum.save(writer, title, {"body": text.split("</p>")[0] + "</p>"}, "From the register")
        if week == _ON_THEIR_WAY and n > 1:
            continue
        asked = number % 4 == 1
        shorter = text.replace(ARCHIVE.sentences(number, "en")[-1], "")
        museum.save(writer, title, {"body": shorter if asked else text})
        museum.submit(writer, title, ("", "Ready, I think.", "The date is from the ledger.")[number % 3])
        if week == _ON_THEIR_WAY:
            continue
        if asked:
            why = ARCHIVE.back[(number // 4) % len(ARCHIVE.back)]
            museum.clock.later(hours=9 + 4 * (number % 3))
            museum.do("oda", lambda act, t=title, w=why: review.send_back(act, museum.ids[t], "en", w))  # type: ignore[misc]
            museum.save(writer, title, {"body": text}, "As asked")
            museum.submit(writer, title, "Done.")
        museum.clock.later(hours=2 + 2 * (number % 5))
        museum.sign(_REVIEWERS[number % 3], title, ARCHIVE.agreed[number % len(ARCHIVE.agreed)])
        out.append(title)
    museum.do("nell", lambda act: library.file_into(act, pictures, folder), minutes=2)
    if out:
        museum.release("jonas", *out, with_needs=True)


def _news(museum: Museum, week: int) -> None:
    """A notice or two and a talk; what is over is withdrawn."""
    some = ARCHIVE.notices[week * 14 // WEEKS : (week + 1) * 14 // WEEKS]
    for n, data in enumerate(some):
        writer = _WRITERS[(week + n + 1) % 2]
        museum.start(writer, "notice", dict(data))
        museum.submit(writer, data["title"])
        museum.clock.later(hours=2 + 3 * (n + week % 3))
        museum.sign("tomas", data["title"])
    if some:
        museum.release("ida", *[one["title"] for one in some])
    if week % 3 == 2:
        over = ARCHIVE.notices[week - 2]["title"]
        moves = [MoveRequest(museum.ids[over], "en", "withdraw")]
        museum.do("ida", lambda act: dispatches.make(act, moves, name=f"Over: {over}"), hours=1)
    if week < len(ARCHIVE.talks):
        talk = ARCHIVE.talks[week]
        day = museum.day(4 * week - 16)
        fields: dict[str, Any] = {"title": talk["title"], "body": talk["body"], "day": day}
        if "by" in talk:
            fields["speakers"] = [museum.ids[talk["by"]]]
        museum.start("wim", "talk", fields)
        museum.submit("wim", talk["title"])
        if week < 6:
            museum.clock.later(hours=8)
            museum.sign("tomas", talk["title"])
            museum.release("jonas", talk["title"])


def _translated(museum: Museum, out: Sequence[Thing], week: int) -> None:
    """What went out a week ago: into French by the bureau, into Japanese from a file, into German and Arabic by those who write them."""
    finished = week < _ON_THEIR_WAY
    for locale, named, bureau, who in (
        ("fr", "French", museum.bureau, "luc"),
        ("ja", "Japanese", "", "aiko"),
    ):
        if locale == "ja" and week % 2:
            continue
        name = f"Register, part {week}, in {named}"
        order = Order(tuple(museum.ids[one.en] for one in out), (locale,), name, bureau=bureau)
        museum.do("mina", lambda act, o=order: sending.commission(act, o), hours=5 + 4 * (week % 4))  # type: ignore[misc]
        with museum.desk.db.read() as conn:
            job = job_lists.newest(conn, 1)[0].uuid
        data = museum.desk.read(museum.who("mina"), partial(exporting.export, uuid=job))[1]
        back = translate_file(data)
        museum.do("mina", lambda act, j=job, b=back: importing.import_file(act, j, b), hours=9)  # type: ignore[misc]
        if finished:
            museum.do(who, lambda act, j=job: accepting.accept(act, j))  # type: ignore[misc]
            museum.release("jonas", *[one.en for one in out], locale=locale)
    for locale, who, every in (("de", "hanne", 1), ("ar", "sami", 3)):
        mine = [(n, one) for n, one in enumerate(out) if (week + n) % every == 0][:2]
        for n, one in mine:
            fields = {"title": getattr(one, locale), "body": ARCHIVE.text((week - 1) * _EACH + n, locale)}
            museum.save(who, one.en, fields, "Translated", locale)
            translated.read_against(museum, who, one.en, locale, most=9)
            museum.submit(who, one.en, locale=locale)
            if finished:
                museum.sign("tomas", one.en, locale=locale)
        if mine and finished:
            museum.release("jonas", *[one.en for _, one in mine], locale=locale)
    if week % 3 == 0:
        late = out[-1].en
        due = museum.day(-20 + week)
        museum.do(
            "oda",
            lambda act: assignments.assign(
                act, museum.ids[late], "en", "nell", due, "Please look at the wear again."
            ),
        )
