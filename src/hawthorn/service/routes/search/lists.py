"""Templates, tags, topics, and lists that people keep."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query, Response

from hawthorn import wire
from hawthorn.operations.content import templates
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.search import finding, lists
from hawthorn.operations.views import show
from hawthorn.service.context import Answer, AtDesk, Once, Who, fingerprint
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

TAGS = 10_000
"""So many tags, the most used, are gone through by pages."""
router = area("/api", "finding")


@router.get("/templates", response_model=wire.content.Templates, operation_id="list_templates")
def all_templates(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The templates of types that the caller may write."""
    return paged.of(desk.read(me, templates.listing), lambda one: one.id)


@router.post(
    "/entries/{id}/template",
    status_code=201,
    response_model=wire.content.Templates,
    operation_id="make_template",
    responses=REFUSALS,
)
def make_template(id: str, body: wire.content.TemplateAsk, me: Who, desk: AtDesk) -> Answer:
    """Make a template from an entry as its drafts stand now; the answer is the list of templates."""

    def do(act: Act) -> Answer:
        templates.make(act, id, body.name)
        return {"items": templates.listing(act)}

    return desk.write(me, do)


@router.post(
    "/templates/{id}/entries",
    status_code=201,
    response_model=wire.views.Entry,
    operation_id="start_from_template",
    responses=REFUSALS,
)
def start(
    id: str, body: wire.content.TemplateStart, me: Who, desk: AtDesk, response: Response, once: Once = None
) -> Answer:
    """Start an entry from a template, in any locale."""

    def do(act: Act) -> Answer:
        return show.entry(act, templates.start(act, id, body.locale, body.fields, body.note), body.locale)

    answer = desk.once(me, once, "start_from_template", fingerprint(body) + id, do)
    response.headers["ETag"] = answer["etag"]
    return answer


@router.delete("/templates/{id}", status_code=204, operation_id="end_template", responses=REFUSALS)
def end_template(id: str, me: Who, desk: AtDesk) -> None:
    """End a template; entries that were started from it stay as they are."""
    desk.write(me, lambda act: templates.end(act, id))


@router.get("/tags", response_model=wire.search.Tags, operation_id="list_tags")
def tags(
    me: Who,
    desk: AtDesk,
    paged: Paged,
    start: Annotated[str, Query(max_length=200, description="How they begin.")] = "",
) -> Answer:
    """Tags in use that begin so, the most used first, with how many entries have each."""
    return paged.of(desk.read(me, lambda view: finding.tags(view, start, TAGS)), lambda one: one.tag)


@router.get(
    "/topics/{type}", response_model=wire.search.Topics, operation_id="list_topics", responses=REFUSALS
)
def topics(type: str, me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The entries of a type as a tree, each with how many entries refer to it."""
    return paged.of(desk.read(me, lambda view: finding.topics(view, type)), lambda one: one.id)


@router.get("/lists", response_model=wire.search.SavedLists, operation_id="list_lists")
def saved(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """One's own lists and the shared ones."""
    return paged.of(desk.read(me, lists.listing), lambda one: one.id)


@router.post(
    "/lists",
    status_code=201,
    response_model=wire.search.SavedList,
    operation_id="save_list",
    responses=REFUSALS,
)
def save(body: wire.search.ListAsk, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Keep a query of entries under a name."""
    return desk.once(
        me,
        once,
        "save_list",
        fingerprint(body),
        lambda act: lists.save(act, body.name, body.query, body.shared),
    )


@router.put(
    "/lists/{id}", response_model=wire.search.SavedList, operation_id="change_list", responses=REFUSALS
)
def change(id: str, body: wire.search.ListAsk, me: Who, desk: AtDesk) -> Answer:
    """Change a list of one's own."""
    return desk.write(me, lambda act: lists.change(act, id, body.name, body.query, body.shared))


@router.delete("/lists/{id}", status_code=204, operation_id="drop_list", responses=REFUSALS)
def drop(id: str, me: Who, desk: AtDesk) -> None:
    """Drop a list of one's own."""
    desk.write(me, lambda act: lists.drop(act, id))
