"""Entries: starting, saving, finding, comparing; and their way through review."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict
from typing import Annotated, Any

from fastapi import Query, Request, Response
from pydantic_core import to_json

from hawthorn import wire
from hawthorn.core import numbers
from hawthorn.core.access import Identity
from hawthorn.core.errors import BaseNeeded, Conflicting
from hawthorn.core.merge import Settlement
from hawthorn.core.messages import quoted
from hawthorn.operations.content import bulk, entries, templates
from hawthorn.operations.content.entries import Saved
from hawthorn.operations.release import review
from hawthorn.operations.runtime.act import Act, Desk, View
from hawthorn.operations.search import finding
from hawthorn.operations.views import show, show_assisted, show_comparison, show_history, show_lines, then
from hawthorn.service.context import Answer, Asked, AtDesk, IfMatch, Once, Who, fingerprint
from hawthorn.service.kept import Answered, keeping, kept_of
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area
from hawthorn.store import short
from hawthorn.store.entries import DRAFT_STRAND
from hawthorn.wire.problems import Problem

router = area("/api/entries", "entries")
Then = Annotated[
    str, Query(description="The instant or day to look at, past or to come; now when not given.")
]


SAVING = {**REFUSALS, 428: {"model": Problem}, 412: {"model": wire.views.ConflictProblem | Problem}}


@router.get("", response_model=wire.content.EntryPage, operation_id="list_entries")
@keeping
async def listing(me: Who, desk: AtDesk, paged: Paged, asked: Asked, request: Request) -> Response:
    """Editions by when their draft last changed, newest first, or in the order of `sort`; without a locale, each entry's source.

    With words, those whose text has all of them, in drafts and in what is out, in any locale.
    """

    def look(view: View) -> Answered:
        rows, more = finding.listing(view, asked, limit=paged.limit, cursor=paged.cursor)
        return paged.whole(show_lines.lines(view, rows, then.instant_of(asked.at)), more)

    return await kept_of(request).answer(me, request, lambda: desk.read(me, look))


@router.post(
    "", status_code=201, response_model=wire.views.Entry, operation_id="start_entry", responses=REFUSALS
)
def start(
    body: wire.content.EntryStart, me: Who, desk: AtDesk, response: Response, once: Once = None
) -> Answer:
    """Start an entry; its locale becomes its source."""

    return begun(
        desk,
        me,
        response,
        once,
        "start_entry",
        fingerprint(body),
        lambda act: entries.start(act, body.type, body.locale, body.fields, body.note),
    )


@router.get("/count", response_model=wire.search.Count, operation_id="count_entries", responses=REFUSALS)
@keeping
async def count(me: Who, desk: AtDesk, asked: Asked, request: Request) -> Response:
    """How many the list of entries has that is asked for, counted up to a thousand."""

    def look(view: View) -> Answered:
        return Answered(to_json(asdict(finding.count(view, asked))))

    return await kept_of(request).answer(me, request, lambda: desk.read(me, look))


@router.get("/lookup", response_model=wire.search.Matches, operation_id="look_up")
def lookup(me: Who, desk: AtDesk, text: Annotated[str, Query(min_length=1, max_length=200)]) -> Answer:
    """Entries by address, by the start or the end of their id, or by a part of the title."""

    def look(view: View) -> Answer:
        return {
            "items": [
                {
                    "id": r.uuid,
                    "short": short.of(view.conn, "entry", r.uuid),
                    "type": r.type,
                    "title": r.title,
                    "file": "",
                }
                for r in finding.lookup(view, text)
            ]
        }

    return desk.read(me, look)


@router.post(
    "/bulk/check", response_model=wire.content.BulkResult, operation_id="check_bulk", responses=REFUSALS
)
def check_bulk(body: wire.content.BulkAsk, me: Who, desk: AtDesk) -> Answer:
    """What one act would do to each of many entries; nothing is kept."""
    return _bulk(desk, me, body, check=True)


@router.post("/bulk", response_model=wire.content.BulkResult, operation_id="bulk", responses=REFUSALS)
def do_bulk(body: wire.content.BulkAsk, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Do one act to many entries, with a result for each."""
    return _bulk(desk, me, body, once=once)


def _bulk(
    desk: Desk, me: Identity, body: wire.content.BulkAsk, *, check: bool = False, once: Once = None
) -> Answer:
    items = [(i.id, i.locale, i.revision, i.common_revision) for i in body.items]
    options = body.model_dump(include={"note", "tag", "field", "value", "when"})

    def do(act: Act) -> Answer:
        found = bulk.run(act, body.act, items, options, check=check)
        done = sum(f.done for f in found)
        return {"items": [asdict(f) for f in found], "done": done, "refused": len(found) - done}

    return desk.once(me, once, "bulk", fingerprint(body), do)


@router.post(
    "/{id}/copy",
    status_code=201,
    response_model=wire.views.Entry,
    operation_id="copy_entry",
    responses=REFUSALS,
)
def copy(
    id: str, body: wire.content.CopyStart, me: Who, desk: AtDesk, response: Response, once: Once = None
) -> Answer:
    """Start an entry as a copy of this one, in all its locales."""
    return begun(
        desk,
        me,
        response,
        once,
        "copy_entry",
        fingerprint(body) + id,
        lambda act: templates.copy(act, id, body.fields, body.note),
    )


@router.post(
    "/{id}/bring-back", response_model=wire.views.Entry, operation_id="bring_back_entry", responses=REFUSALS
)
def bring_back(id: str, me: Who, desk: AtDesk) -> Answer:
    """Bring a removed entry back as a draft."""

    def do(act: Act) -> Answer:
        entries.bring_back(act, id)
        return show.entry(act, id, None)

    return desk.write(me, do)


def begun(
    desk: Desk,
    me: Identity,
    response: Response,
    once: Once,
    route: str,
    body: str,
    begin: Callable[[Act], str],
) -> Answer:
    """Begin an entry, once for a key, and say where it is: it is shown in its source."""
    answer = desk.once(me, once, route, body, lambda act: show.entry(act, begin(act), None))
    response.headers["ETag"] = answer["etag"]
    response.headers["Location"] = f"/api/entries/{answer['id']}/{answer['locale']}"
    return answer


@router.get("/{id}", response_model=wire.views.Entry, operation_id="source_entry", responses=REFUSALS)
def source(id: str, me: Who, desk: AtDesk, response: Response) -> Answer:
    """An entry in its source locale."""
    return _shown(desk, me, id, None, response)


@router.get("/{id}/{locale}", response_model=wire.views.Entry, operation_id="entry", responses=REFUSALS)
def entry(
    id: str, locale: str, me: Who, desk: AtDesk, response: Response, strand: str = "draft", at: Then = ""
) -> Answer:
    """An entry in one locale, with where it stands and what may be done next; its draft, or another strand. At another instant as readers
    saw it then or will see it, and else as it was drafted."""
    return _shown(desk, me, id, locale, response, strand, at)


def _shown(
    desk: Desk,
    me: Identity,
    id: str,
    locale: str | None,
    response: Response,
    strand: str = "draft",
    at: str = "",
) -> Answer:
    answer = desk.read(me, lambda view: show.entry(view, id, locale, strand, then.instant_of(at)))
    response.headers["ETag"] = answer["etag"]
    return answer


@router.patch(
    "/{id}/{locale}", response_model=wire.views.SaveResult, operation_id="save_entry", responses=SAVING
)
def save(
    id: str,
    locale: str,
    body: wire.content.EntrySave,
    me: Who,
    desk: AtDesk,
    response: Response,
    if_match: IfMatch = None,
) -> Answer:
    """Save typed fields over the revision that `If-Match` names; `*` is whatever is there.

    What others changed elsewhere meanwhile merges by itself. Where both changed one place the answer is 412:
    it holds both texts, and what was typed is kept as a revision.
    """
    base = _base(if_match, id, locale, body.strand)
    return _settled(
        desk,
        me,
        response,
        lambda act: entries.save(act, id, locale, body.fields, base(act), body.note, body.strand),
        lambda view: entries.work_out(view, id, locale, body.fields, base(view), body.strand),
    )


@router.post(
    "/{id}/{locale}/settle",
    response_model=wire.views.SaveResult,
    operation_id="settle_entry",
    responses=SAVING,
)
def settle(
    id: str,
    locale: str,
    body: wire.content.Settle,
    me: Who,
    desk: AtDesk,
    response: Response,
    if_match: IfMatch = None,
) -> Answer:
    """Settle a conflict with a decision for each place."""
    base = _base(if_match, id, locale, body.strand)
    decisions = {place: Settlement(d.take, d.value) for place, d in body.decisions.items()}
    return _settled(
        desk,
        me,
        response,
        lambda act: entries.settle(act, id, locale, body.typed, base(act), decisions, body.strand),
        lambda view: entries.work_out_settling(view, id, locale, body.typed, base(view), body.strand),
    )


def _base(if_match: str | None, id: str, locale: str, strand: str) -> Callable[[View], entries.Base]:
    """What a save is based on: what an ETag names, or (`*`) what is there when it is saved (RFC 9110, section 13.1.1)."""
    if if_match is None:
        raise BaseNeeded("entries.without_base")
    if if_match.strip() == "*":
        return lambda view: entries.base_now(view, id, locale, strand or DRAFT_STRAND)
    named = entries.parse_etag(if_match)
    return lambda _: named


def _settled(desk: Desk, me: Identity, response: Response, do: Any, ahead: Any = None) -> Answer:
    def act_and_show(act: Act) -> tuple[Saved, Answer]:
        saved: Saved = do(act)
        return saved, show.entry(act, saved.uuid, saved.locale if saved.locale != "*" else None, saved.strand)

    saved, shown = desk.write(me, act_and_show, ahead)
    response.headers["ETag"] = shown["etag"]
    if saved.conflicts:
        places = quoted(dict.fromkeys(c.label for _, c in saved.conflicts))
        raise Conflicting(
            "entries.conflict",
            places=places,
            conflicts=show.conflict(desk.words, saved.conflicts),
            typed=saved.typed,
            etag=shown["etag"],
            entry=shown,
        )
    return {"entry": shown, "changed": bool(saved.revisions), "merged_with": saved.merged_with}


@router.post(
    "/{id}/{locale}/restore",
    response_model=wire.views.SaveResult,
    operation_id="restore_entry",
    responses=REFUSALS,
)
def restore(
    id: str, locale: str, body: wire.content.Restore, me: Who, desk: AtDesk, response: Response
) -> Answer:
    """Bring an older revision back as a new one."""
    return _settled(
        desk, me, response, lambda act: entries.restore(act, id, locale, body.revision, body.strand)
    )


@router.get(
    "/{id}/{locale}/by-assistants",
    response_model=wire.assistants.Assisted,
    operation_id="words_by_assistants",
    responses=REFUSALS,
)
def by_assistants(id: str, locale: str, me: Who, desk: AtDesk, strand: str = "draft") -> Answer:
    """What assistants wrote in a draft, or another strand, that nobody has signed off since: word by word, in the texts in which there is any."""
    return desk.read(me, lambda view: show_assisted.words(view, id, locale, strand))


@router.get(
    "/{id}/{locale}/history",
    response_model=wire.views.History,
    operation_id="entry_history",
    responses=REFUSALS,
)
def history(
    id: str,
    locale: str,
    me: Who,
    desk: AtDesk,
    paged: Paged,
) -> Answer:
    """Revisions, standings and events, newest first; locale `*` is the common edition. Pages go by revisions; what happened comes
    with the first."""

    def look(view: View) -> Answer:
        found = show_history.history(view, id, locale, numbers.cursor(paged.cursor), paged.limit)
        paged.leads_on(found["next"])
        return found

    return desk.read(me, look)


@router.get(
    "/{id}/{locale}/compare",
    response_model=wire.content.Comparison,
    operation_id="compare_entry",
    responses=REFUSALS,
)
def compare(
    id: str, locale: str, me: Who, desk: AtDesk, before: str = "release", after: str = "draft"
) -> Answer:
    """Two revisions (numbers), stages (names), `draft`, or strands (`strand:` and a name), field by field and word by word.
    A side in another locale is said as locale, at sign and side: `fr@draft`. A revision is shown with the shared fields of its time, or
    with those of the revision after a plus: `3+2`."""
    return desk.read(me, lambda view: show_comparison.comparison(view, id, locale, before, after))


@router.post(
    "/{id}/{locale}/submit", response_model=wire.views.Entry, operation_id="submit", responses=REFUSALS
)
def submit(id: str, locale: str, body: wire.release.Note, me: Who, desk: AtDesk) -> Answer:
    """Submit the draft for review, with a note."""
    return after(desk, me, id, locale, lambda act: review.submit(act, id, locale, body.note))


@router.post(
    "/{id}/{locale}/take-back", response_model=wire.views.Entry, operation_id="take_back", responses=REFUSALS
)
def take_back(id: str, locale: str, me: Who, desk: AtDesk) -> Answer:
    """Take a submission back before it is decided."""
    return after(desk, me, id, locale, lambda act: review.take_back(act, id, locale))


@router.post(
    "/{id}/{locale}/sign", response_model=wire.views.Entry, operation_id="sign_off", responses=REFUSALS
)
def sign(id: str, locale: str, body: wire.release.SignOffAsk, me: Who, desk: AtDesk) -> Answer:
    """Sign off exactly the revision that was looked at, with that of the shared fields which waits with it."""
    return after(
        desk,
        me,
        id,
        locale,
        lambda act: review.sign_off(act, id, locale, body.revision, body.note, body.common_revision),
    )


@router.post(
    "/{id}/{locale}/send-back", response_model=wire.views.Entry, operation_id="send_back", responses=REFUSALS
)
def send_back(id: str, locale: str, body: wire.release.SendBack, me: Who, desk: AtDesk) -> Answer:
    """Send a submission back with a reason."""
    return after(desk, me, id, locale, lambda act: review.send_back(act, id, locale, body.reason))


def after(desk: Desk, me: Identity, id: str, locale: str, do: Any) -> Answer:
    """Do something with an edition and answer with how it is then."""

    def act_and_show(act: Act) -> Answer:
        do(act)
        return show.entry(act, id, locale)

    return desk.write(me, act_and_show)
