"""Reading what stands, for sites and programs. The common case never comes here: see `service.cached`."""

from __future__ import annotations

import asyncio
import json
from collections.abc import Callable, Hashable
from dataclasses import asdict, dataclass, replace
from typing import Annotated

from fastapi import Depends, Header, Query, Request, Response
from fastapi.responses import RedirectResponse
from sse_starlette import EventSourceResponse
from starlette.background import BackgroundTask

from hawthorn import wire
from hawthorn.core import etags, numbers
from hawthorn.core import groups as group_names
from hawthorn.core.access import Identity
from hawthorn.core.errors import Invalid
from hawthorn.core.sites import CARRIES
from hawthorn.messages import weighed
from hawthorn.operations.collaboration import watching
from hawthorn.operations.collaboration.news import News
from hawthorn.operations.delivery import (
    heads,
    previews,
    reading,
    relations,
    rendering,
    shown_files,
    texts,
)
from hawthorn.operations.media import renditions
from hawthorn.operations.runtime.act import Desk, View
from hawthorn.service import caching, conditional, serving
from hawthorn.service.context import NOBODY, Answer, AtDesk, Reader, hub_of, settings_of
from hawthorn.service.live import framed
from hawthorn.service.routing import REFUSALS, area
from hawthorn.store import bodies, entries, events

router = area("/read", "reading")
Stage = Annotated[str, Query(description="The stage to read at; released when not given.")]
At = Annotated[str, Query(description="The instant to read at, past or planned; now when not given.")]
Within = Annotated[
    str,
    Query(
        alias="dispatch",
        description="The dispatch (its id) to read inside: as if it had gone. In place of a stage and an instant.",
    ),
]
Preview = Annotated[
    str,
    Query(
        alias=CARRIES,
        description="What the address of a previewed page carries; it says what is shown, in place of a key.",
    ),
]
Strand = Annotated[
    str,
    Query(
        description="The strand to read on, by its name: drafts, and the work beside them where there is a strand of that name."
    ),
]


@dataclass(frozen=True, slots=True)
class Where:
    """Where somebody asks to read; the names are those of the parameters."""

    stage: str = ""
    at: str = ""
    dispatch: str = ""
    strand: str = ""
    preview: str = ""

    def place(self, view: View) -> reading.Place:
        """The place, where whoever asks may read."""
        return reading.place(view, self.stage, self.at, self.dispatch, self.strand)


async def _where(
    stage: Stage = "", at: At = "", within: Within = "", strand: Strand = "", preview: Preview = ""
) -> Where:
    return Where(stage, at, within, strand, preview)


NOWHERE = Where()
"""Nothing said: what is out now."""
Asked = Annotated[Where, Depends(_where)]
Locale = Annotated[
    str, Query(description="The wanted locale; the entry's source stands in for one that is not there.")
]
Fallback = Annotated[
    bool,
    Query(
        description="Whether another locale may stand in: those that the wanted one names, and the entry's source. What they "
        "refer to is shown as far as it is there in any case."
    ),
]

Texts = Annotated[
    wire.reading.TextForm,
    Query(
        alias="texts",
        description="The form of rich texts: HTML, Markdown (CommonMark with tables), or their paragraphs one by one.",
    ),
]


Groups = Annotated[
    bool,
    Query(
        alias="groups",
        description="Whether each body says in `groups` what it depends on, for sites that keep what they read: see `read_changed`.",
    ),
]


def languages(request: Request) -> list[tuple[str, float]]:
    """The languages that a request accepts, with their weights (RFC 9110 section 12.5.4)."""
    return weighed(request.headers.get("accept-language", ""))


@router.get(
    "/entries/{id}",
    response_model=wire.reading.ReadEntry,
    operation_id="read_entry",
    responses={**REFUSALS, **serving.UNCHANGED},
)
def entry(
    id: str,
    reader: Reader,
    desk: AtDesk,
    request: Request,
    asked: Asked,
    locale: Locale = "",
    fallback: Fallback = True,
    form: Texts = "html",
    groups: Groups = False,
) -> Response:
    """An entry by its id."""
    _note(desk, request, asked.preview)
    found = _rendered(desk, reader, request, id, locale, asked)
    if not fallback:
        said = json.loads(found.data)
        if said["locale"] != said["wanted_locale"]:
            raise reading.nothing(f"{id} in {said['wanted_locale']}")
    return _answer(request, _with_groups(_in_form(desk, reader, found, form), groups))


@router.get(
    "/entries/{id}/head",
    response_model=wire.reading.ReadHead,
    operation_id="read_head",
    responses={**REFUSALS, **serving.UNCHANGED},
)
def head(
    id: str,
    reader: Reader,
    desk: AtDesk,
    request: Request,
    asked: Asked,
    locale: Locale = "",
    site: Annotated[
        str, Query(description="The site whose addresses are meant, where there are several.")
    ] = "",
) -> Response:
    """What the page of an entry says of itself in its head: addresses in each language, Open Graph, and JSON-LD."""
    body = _rendered(desk, reader, request, id, locale, asked)
    found = desk.read(reader, lambda view: heads.head(view, json.loads(body.data), site))
    said = {
        **asdict(found),
        "alternates": [{"locale": tag, "address": there} for tag, there in found.alternates],
        "open_graph": [{"property": name, "content": value} for name, value in found.open_graph],
    }
    data = json.dumps(said, ensure_ascii=False).encode()
    # Of types and sites too, which a body does not depend on.
    return _answer(request, replace(body, data=data, etag=etags.of(data), since=None))


@router.get(
    "/pages/{path:path}",
    response_model=wire.reading.ReadEntry,
    operation_id="read_page",
    responses={**REFUSALS, **serving.UNCHANGED, **serving.MOVED},
)
def page(
    path: str,
    reader: Reader,
    desk: AtDesk,
    request: Request,
    asked: Asked,
    site: Annotated[str, Query(description="The entry that heads the site, where there are several.")] = "",
    form: Texts = "html",
    groups: Groups = False,
) -> Response:
    """An entry by the path of its page, locale first; an old path leads to the new one (301)."""
    whose, seen = seen_by(desk, reader, asked.preview)

    def look(view: View) -> tuple[tuple[str, str, str | None], bool]:
        where = seen or asked.place(view)
        return reading.find_path(view, path, where, site), reading.for_everybody(view, where)

    (uuid, locale, elsewhere), plain = desk.read(whose, look)
    if elsewhere:
        headers = caching.told(settings_of(request), [group_names.OUTLINE], plain=plain)
        return RedirectResponse(f"/read/pages{elsewhere}{_query(request)}", 301, headers)
    _note(desk, request, asked.preview)
    found = _rendered(desk, reader, request, uuid, locale, asked)
    return _answer(request, _with_groups(_in_form(desk, reader, found, form), groups))


def _query(request: Request) -> str:
    return f"?{request.url.query}" if request.url.query else ""


def seen_by(desk: Desk, reader: Identity, preview: str) -> tuple[Identity, reading.Place | None]:
    """Who reads, and where, by the preview that an address carries; without one, whoever has the key."""
    if not preview:
        return reader, None
    with desk.db.read() as conn:
        found = previews.opened(conn, desk.vault, desk.clock.now(), preview)
    return found.identity, found.where


def _previewed(desk: Desk, preview: str) -> tuple[Identity, reading.Place]:
    """The same, where there has to be a preview."""
    whose, where = seen_by(desk, NOBODY, preview)
    if where is None:
        raise Invalid("reading.no_preview_named")
    return whose, where


def _note(desk: Desk, request: Request, preview: str) -> None:
    """Note that a link was used, where it was, unless the same was noted a moment ago."""
    if not preview or not desk.db.writes:
        return
    what = request.url.path.removeprefix("/read")
    agent = request.headers.get("x-forwarded-user-agent") or request.headers.get("user-agent", "")
    now = desk.clock.now()
    with desk.db.read() as conn:
        found = previews.opened(conn, desk.vault, now, preview)
        if found.row.pane or previews.used_lately(conn, found.row, now, what, agent):
            return
    desk.write(found.identity, lambda act: previews.note_use(act, found.row, what, agent))


@dataclass(frozen=True, slots=True)
class _Body:
    """A body to send: when it was made where it is kept, whether everybody may read it, and what keeps it."""

    etag: str
    data: bytes
    plain: bool
    since: int | None = None
    groups: str = ""
    keep: Callable[[], object] | None = None


def _rendered(
    desk: Desk,
    reader: Identity,
    request: Request,
    id: str,
    locale: str,
    asked: Where,
) -> _Body:
    reader, seen = seen_by(desk, reader, asked.preview)

    def look(view: View) -> _Body:
        # Only what everybody may read is kept; what is not is made for whoever has the key.
        where = seen or asked.place(view)
        wanted = reading.best_locale(view, locale, languages(request))
        row = entries.entry(view.conn, id)
        tag = view.setup.locale(wanted) if wanted else (row.source_locale if row else "")
        plain = reading.for_everybody(view, where)
        if plain and row is not None:
            kept = bodies.fresh(view.conn, id, tag, view.now)
            if kept:
                return _Body(kept.etag, kept.data, True, kept.since, kept.groups)
        made = rendering.render(view, id, tag, where)
        public = row is not None and view.setup.type(row.type).public
        if not (plain and public):
            return _Body(made.etag, made.data, False)
        seq, now = events.last(view.conn)[0], desk.clock.now()
        groups = " ".join(bodies.groups_of(view.conn, made.entry, made.deps))

        def keep() -> None:
            desk.db.write(
                lambda conn: bodies.keep(
                    conn, made.entry, tag, seq, now, made.etag, made.data, made.deps, made.ends
                )
            )

        return _Body(made.etag, made.data, True, now, groups, keep if desk.db.writes else None)

    return desk.read(reader, look)


def _in_form(desk: Desk, reader: Identity, body: _Body, form: str) -> _Body:
    """A body with its rich texts in the form that was asked for, under an ETag of its own."""
    if form == texts.HTML:
        return body
    data = desk.read(reader, lambda view: texts.in_form(view.setup.types, body.data, form))
    return replace(body, data=data, etag=f'{body.etag[:-1]}-{form}"')


def _with_groups(body: _Body, wanted: bool) -> _Body:
    """A body that says what it depends on, where that is wanted, under an ETag of its own."""
    if not wanted:
        return body
    data = relations.with_groups(body.data, body.groups if body.plain else None)
    return replace(body, data=data, etag=f'{body.etag[:-1]}-groups"')


def _answer(request: Request, body: _Body) -> Response:
    headers = caching.told(settings_of(request), body.groups.split(), plain=body.plain) | {"ETag": body.etag}
    if body.plain and body.since is not None:
        headers["Last-Modified"] = conditional.http_date(body.since)
    # Whoever waits for the answer does not wait for a writer.
    later = BackgroundTask(body.keep) if body.keep is not None else None
    had = serving.checked(request, body.etag, headers, body.since)
    if had is not None:
        had.background = later
        return had
    return Response(body.data, media_type="application/json", headers=headers, background=later)


@router.get(
    "/changes",
    operation_id="follow_changes",
    response_class=EventSourceResponse,
    responses={**serving.STREAMED, **REFUSALS},
)
async def changes(
    request: Request,
    desk: AtDesk,
    preview: Preview,
    last_event_id: Annotated[str | None, Header(alias="Last-Event-ID")] = None,
) -> EventSourceResponse:
    """Learn that what a preview shows has changed (server-sent events); what changed is read anew."""
    whose, where = await asyncio.to_thread(_previewed, desk, preview)
    after = numbers.whole(last_event_id or "")
    return hub_of(request).response(_Watcher(whose, where, preview), after)


@dataclass(frozen=True)
class _Watcher:
    """A page that shows a preview. It is told that something changed, without what."""

    whose: Identity
    where: reading.Place
    word: str
    window = ""

    @property
    def key(self) -> Hashable:
        """Whoever looks at one preview is told the same."""
        return self.word

    def ended(self, desk: Desk, again: Callable[[str], bool]) -> None:
        """Nothing is left open."""

    def sure(self, view: View) -> _Watcher:
        """The same, as long as the preview holds and its giver may see what it shows; raises `Refused` after that."""
        found = previews.opened(view.conn, view.vault, view.now, self.word)
        return _Watcher(found.identity, found.where, self.word)

    def told(self, view: View, found: News) -> list[bytes]:
        """The events that changed something that the preview may show."""
        return [
            framed({"seq": event.seq}, name="changed", seq=event.seq)
            for event in found.events
            if watching.concerned(view, self.where, event.about)
        ]


@router.get(
    "/changes/last", response_model=wire.delivery.LastChange, operation_id="last_change", responses=REFUSALS
)
def last_change(desk: AtDesk, preview: Preview, since: Annotated[int, Query(ge=0)] = 0) -> Answer:
    """Whether what a preview shows has changed since a number that an earlier answer gave: for where long connections
    fail."""
    whose, where = _previewed(desk, preview)
    seq, changed = desk.read(whose, lambda view: watching.changed_since(view, where, since))
    return {"seq": seq, "changed": changed}


@router.get(
    "/files/{sha256}",
    operation_id="read_file",
    response_class=Response,
    responses={**REFUSALS, **serving.IN_PARTS},
)
def file(
    sha256: str,
    reader: Reader,
    desk: AtDesk,
    request: Request,
    asked: Asked,
) -> Response:
    """A file that something that stands there shows; in parts too (RFC 9110, section 14)."""
    whose, seen = seen_by(desk, reader, asked.preview)
    row = desk.read(whose, lambda view: shown_files.file(view, sha256, seen or asked.place(view)))
    kept = _kept(request, desk, reader, asked, sha256)
    return serving.file_response(request, desk, row, kept)


def _kept(
    request: Request, desk: Desk, reader: Identity, asked: Where, sha256: str, focus: str = ""
) -> dict[str, str]:
    """How long what never changes may be kept, and with what it is let go: with the entry that shows it."""
    settings = settings_of(request)
    if asked != NOWHERE or not reader.as_everybody:
        return {"Cache-Control": "private, no-store"}
    kept = {"Cache-Control": caching.for_ever(settings)}
    if settings.shared_age:
        by = desk.read(reader, lambda view: shown_files.shown_by(view, sha256, focus))
        kept |= caching.groups(settings, [group_names.entry(by)] if by else [])
    return kept


@router.get(
    "/files/{sha256}/{name}",
    operation_id="read_rendition",
    response_class=Response,
    responses={**REFUSALS, **serving.UNCHANGED, **serving.SHAPED},
)
def rendition(
    sha256: str,
    name: str,
    reader: Reader,
    desk: AtDesk,
    request: Request,
    asked: Asked,
) -> Response:
    """A picture in one of the crops that are set up, around its focus: crop, its size, focus in hundredths and an ending, such as
    wide-1600x900-50-30.webp; made when first asked for, and the same for ever. Without its size it is moved on to the one of the crop
    as it is now, and so is another size."""
    wish = renditions.parse(sha256, name)
    whose, seen = seen_by(desk, reader, asked.preview)
    crop, row = desk.read(whose, lambda view: renditions.source(view, wish, seen or asked.place(view)))
    if wish.shape != crop.shape:
        query = f"?{request.url.query}" if request.url.query else ""
        there = {"Location": f"{wish.of(crop).name}{query}", "Cache-Control": "no-cache"}
        return Response(status_code=302, headers=there)
    kept = _kept(request, desk, reader, asked, sha256, wish.focus)
    headers = {**serving.SAFE, **kept, "ETag": f'"{wish.etag}"'}
    if (had := serving.checked(request, headers["ETag"], headers, media_type=wish.media_type)) is not None:
        return had
    media_type, data = serving.maker_of(request).rendition(wish, desk.clock.now(), crop, row)
    return Response(data, media_type=media_type, headers=headers)
