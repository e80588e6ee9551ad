"""Lists for those who read: chosen and sorted by fields, with what they relate to; counts; the outline; several questions in one call."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from typing import Annotated, Any

from fastapi import Query, Request, Response
from starlette.background import BackgroundTask

from hawthorn import wire
from hawthorn.core import etags
from hawthorn.core import groups as group_names
from hawthorn.core.errors import FieldProblem, HawthornError, Invalid
from hawthorn.core.filtering import START
from hawthorn.core.messages import said
from hawthorn.operations.delivery import outline, reading, reading_lists, relations, rendering
from hawthorn.operations.delivery.reading_lists import Wish
from hawthorn.operations.delivery.relations import Answer, Bodies
from hawthorn.operations.runtime.act import Desk, View
from hawthorn.service import caching, problems, serving
from hawthorn.service.context import AtDesk, Reader, next_page, settings_of
from hawthorn.service.kept import Answered, keeping_for_readers, kept_of
from hawthorn.service.paging import Cursor
from hawthorn.service.routes.delivery.reading import (
    Asked,
    Fallback,
    Groups,
    Locale,
    Texts,
    languages,
    seen_by,
)
from hawthorn.service.routing import REFUSALS, area, taking
from hawthorn.store import bodies, events

router = area("/read", "reading")
MOST_QUESTIONS = 20
Types = Annotated[
    Sequence[str],
    Query(alias="type", description="A content type; may be given several times. All without one."),
]
Sort = Annotated[
    str,
    Query(
        description="A field that its type marks for filters, with a `-` before it backwards. Without one, what is pinned comes first, then what has the latest date."
    ),
]
Ids = Annotated[
    Sequence[str],
    Query(alias="id", description="Only these entries, in this order; may be given several times."),
]
Fields = Annotated[
    str, Query(description="Which fields are wanted of each, with commas between them; all without any.")
]
Include = Annotated[
    str,
    Query(
        description="Relations whose entries are wanted too, with commas between them; with full stops, what these relate to in turn, three steps at most.",
        examples=["place,speakers.topic"],
    ),
]
Referring = Annotated[
    str,
    Query(
        description="Relations that lead here, as a type and its field, with commas between them: which entries refer to each.",
        examples=["talk.place"],
    ),
]
WHERE: dict[str, Any] = {
    "name": "where",
    "in": "query",
    "description": "Conditions on fields that types mark for it: `where.topic=ID` (several: one of them), `where.begins.from=2027-03-01`, `.before`, `.after`, "
    "`where.date.last=P14D` (the date that is shown; ISO 8601), `where.name.contains=words`, `where.place.near=50.1,-1.3,5` (latitude, longitude, kilometres).",
    "style": "form",
    "explode": True,
    "schema": {"type": "object", "additionalProperties": {"type": "string"}},
    "example": {"where.date.last": "P14D"},
}


def conditions(request: Request) -> tuple[tuple[str, str], ...]:
    """The conditions of a question."""
    pairs = request.query_params.multi_items()
    return tuple((name, value) for name, value in pairs if name.startswith(START))


def _parts(text: str) -> tuple[str, ...]:
    return tuple(dict.fromkeys(one.strip() for one in text.split(",") if one.strip()))


@router.get(
    "/entries",
    response_model=wire.reading.ReadPage,
    operation_id="read_entries",
    responses={**REFUSALS, **serving.UNCHANGED},
    openapi_extra={"parameters": [WHERE]},
)
@taking(START)
@keeping_for_readers
async def listing(
    reader: Reader,
    desk: AtDesk,
    request: Request,
    asked: Asked,
    type: Types = (),
    locale: Locale = "",
    fallback: Fallback = True,
    limit: Annotated[int, Query(ge=1, le=reading_lists.MOST, description="The most items of a page.")] = 20,
    cursor: Cursor = "",
    sort: Sort = "",
    id: Ids = (),
    fields: Fields = "",
    include: Include = "",
    referring: Referring = "",
    form: Texts = "html",
    groups: Groups = False,
) -> Response:
    """Entries that stand somewhere, as far as they are asked for: by type, by conditions on their fields, or by their ids; those with the latest date first, or in
    the order of a field."""
    wish = Wish(
        types=tuple(one for one in type if one),
        locale=locale,
        where=conditions(request),
        sort=sort,
        limit=limit,
        cursor=cursor,
        fallback=fallback,
        ids=tuple(id),
        fields=_parts(fields),
        include=_parts(include),
        referring=_parts(referring),
        texts=form,
        groups=groups,
    )
    made: list[Callable[[], None]] = []

    def look() -> Answered:
        whose, seen = seen_by(desk, reader, asked.preview)

        def answer(view: View) -> tuple[Answer, Bodies, bool, int]:
            where = seen or asked.place(view)
            wanted = reading.best_locale(view, locale, languages(request))
            found, source = relations.answer(view, where, replace(wish, locale=wanted))
            return found, source, reading.for_everybody(view, where), events.last(view.conn)[0]

        found, source, plain, seq = desk.read(whose, answer)
        made.append(lambda: _keep(desk, source, seq, plain))
        link = next_page(request, found.next) if found.next else ""
        # What holds only until a time is asked anew each time.
        lasts = plain and source.ends == rendering.ALWAYS and not _passing(wish)
        return _answered(request, found.data, found.types, plain=plain, keep=lasts, link=link)

    response = await kept_of(request).answer(reader, request, look)
    if made:
        # Whoever waits for the answer does not wait for a writer.
        response.background = BackgroundTask(made[0])
    return response


def _passing(wish: Wish) -> bool:
    """Whether what is asked for changes as time passes."""
    return any(name.endswith(".last") for name, _ in wish.where)


@router.get(
    "/counts",
    response_model=wire.reading.ReadCounts,
    operation_id="read_counts",
    responses={**REFUSALS, **serving.UNCHANGED},
    openapi_extra={"parameters": [WHERE]},
)
@taking(START)
@keeping_for_readers
async def counted(
    reader: Reader,
    desk: AtDesk,
    request: Request,
    by: Annotated[
        str,
        Query(
            description="What is counted by: a field that its type marks for filters (a tag, a choice, a relation), `month` of the date that is shown, or "
            "`month.FIELD` of a day or an instant."
        ),
    ],
    asked: Asked,
    type: Types = (),
    locale: Locale = "",
    fallback: Fallback = True,
) -> Response:
    """How many entries there are by a field or by month, those of which there are most first, months the latest first; 500 at most."""
    wish = Wish(tuple(one for one in type if one), "", conditions(request), fallback=fallback)

    def look() -> Answered:
        whose, seen = seen_by(desk, reader, asked.preview)

        def answer(view: View) -> tuple[list[reading_lists.Count], list[str], bool]:
            place = seen or asked.place(view)
            wanted = reading.best_locale(view, locale, languages(request))
            found = reading_lists.counts(view, place, replace(wish, locale=wanted), by)
            return found, list(wish.types or view.setup.types), reading.for_everybody(view, place)

        found, types, plain = desk.read(whose, answer)
        counts = [{"value": one.value, "title": one.title, "count": one.count} for one in found]
        data = json.dumps({"by": by, "counts": counts}, ensure_ascii=False).encode()
        return _answered(request, data, types, plain=plain, keep=plain and not _passing(wish))

    return await kept_of(request).answer(reader, request, look)


@router.get(
    "/outline",
    response_model=wire.reading.ReadOutline,
    operation_id="read_outline",
    responses={**REFUSALS, **serving.UNCHANGED},
)
@keeping_for_readers
async def read_outline(
    reader: Reader,
    desk: AtDesk,
    request: Request,
    asked: Asked,
    locale: Locale = "",
    below: Annotated[
        str, Query(description="The entry whose pages are wanted; the top when not given.")
    ] = "",
    depth: Annotated[int, Query(ge=1, le=6, description="How many levels.")] = 2,
) -> Response:
    """Pages in the order of the outline, nested, up to 500 of them."""

    def look() -> Answered:
        whose, seen = seen_by(desk, reader, asked.preview)

        def answer(view: View) -> tuple[list[outline.ReadNode], list[str], bool]:
            place = seen or asked.place(view)
            wanted = reading.best_locale(view, locale, languages(request))
            there = reading.Place() if place.limited else place
            placed = [kind.name for kind in view.setup.types.values() if kind.parent or kind.site]
            items = outline.tree(view, there, wanted, below, depth)
            return items, placed, reading.for_everybody(view, place)

        items, types, plain = desk.read(whose, answer)
        data = json.dumps({"items": items}, ensure_ascii=False).encode()
        return _answered(request, data, types, group_names.OUTLINE, plain=plain, keep=plain)

    return await kept_of(request).answer(reader, request, look)


@router.post(
    "/questions", response_model=wire.reading.ReadAnswers, operation_id="read_questions", responses=REFUSALS
)
def questions(body: wire.reading.ReadQuestions, reader: Reader, desk: AtDesk, request: Request) -> Response:
    """Several lists in one call, each under a name of its own, all of one moment. One that cannot be answered says why, and the others are answered."""
    if len(body.questions) > MOST_QUESTIONS:
        raise Invalid(
            [FieldProblem("questions", said("reading_lists.too_many_questions", most=MOST_QUESTIONS))]
        )
    made: list[tuple[Bodies, bool]] = []

    def look(view: View) -> dict[str, bytes]:
        out: dict[str, bytes] = {}
        for name, one in body.questions.items():
            try:
                place = reading.place(view, one.stage, one.at, one.dispatch, one.strand)
                wanted = reading.best_locale(view, one.locale, languages(request))
                found, source = relations.answer(view, place, _wish(one, wanted))
                made.append((source, reading.for_everybody(view, place)))
                out[name] = found.data
            except HawthornError as error:
                out[name] = b'{"problem":' + bytes(problems.answer(error).body) + b"}"
        return out

    found, seq = desk.read(reader, lambda view: (look(view), events.last(view.conn)[0]))
    for source, plain in made:
        _keep(desk, source, seq, plain)
    pairs = (json.dumps(name).encode() + b":" + data for name, data in found.items())
    return Response(
        b'{"answers":{' + b",".join(pairs) + b"}}",
        media_type="application/json",
        headers=caching.told(settings_of(request), [], plain=False),
    )


def _wish(one: wire.reading.ReadQuestion, locale: str) -> Wish:
    pairs = (
        (name, value)
        for name, some in one.where.items()
        for value in (some if isinstance(some, list) else [some])
    )
    return Wish(
        types=tuple(one.types),
        locale=locale,
        where=tuple((f"{START}{name}", value) for name, value in pairs),
        sort=one.sort,
        limit=one.limit,
        cursor=one.cursor,
        fallback=one.fallback,
        ids=tuple(one.ids),
        fields=tuple(one.fields),
        include=tuple(one.include),
        referring=tuple(one.referring),
        texts=one.texts,
    )


def _keep(desk: Desk, source: Bodies, seq: int, plain: bool) -> None:
    """Keep the bodies that were made, for whoever reads them next: only what everybody may read is kept."""
    if not desk.db.writes:
        return
    types = source.view.setup.types
    made = {
        key: one for key, one in source.made.items() if plain and types[json.loads(one.data)["type"]].public
    }
    if made:
        now = desk.clock.now()

        def keep(conn: Any) -> None:
            for (_, locale), one in made.items():
                bodies.keep(conn, one.entry, locale, seq, now, one.etag, one.data, one.deps, one.ends)

        desk.db.write(keep)


def _answered(
    request: Request,
    data: bytes,
    types: Iterable[str],
    *more: str,
    plain: bool,
    keep: bool,
    link: str = "",
) -> Answered:
    """An answer that is let go of with the lists of its types, and with `more` groups."""
    groups = [*more, *(group_names.lists(one) for one in types)]
    headers = caching.told(settings_of(request), groups, plain=plain) | {"ETag": etags.of(data)}
    return Answered(data, link, headers, keep)
