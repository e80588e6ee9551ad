"""Content types, the event log, My work and health."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from operator import itemgetter
from typing import Annotated, Any

from fastapi import Query, Request, Response

from hawthorn import __version__, wire
from hawthorn.core import contenttypes, etags, formats, locales, numbers, pictures, sites, workflow
from hawthorn.core.fields import KINDS
from hawthorn.messages import WORDS
from hawthorn.operations.content import changing
from hawthorn.operations.content import locales as acts
from hawthorn.operations.runtime.act import View
from hawthorn.operations.views import my_work, show_log
from hawthorn.operations.views.health import how_far, trouble
from hawthorn.service import serving
from hawthorn.service.context import Answer, AtDesk, Who, settings_of
from hawthorn.service.paging import Paged, Since, Until
from hawthorn.service.routing import REFUSALS, area
from hawthorn.service.settings import Settings
from hawthorn.store import bureaus

router = area("/api", "set-up")


@dataclass(frozen=True, slots=True)
class Answered:
    """The set-up as it was answered last, and what it was made from."""

    made_from: tuple[object, ...]
    body: bytes
    etag: str


@router.get("/setup", response_model=wire.views.Setup, operation_id="setup", responses=serving.UNCHANGED)
def setup(me: Who, desk: AtDesk, request: Request) -> Response:
    """Locales, content types, workflows and bureaus. The same for everybody, and asked for by every page of the console: it is
    worked out once for each change of it and each language, and `If-None-Match` is answered with 304."""
    settings = settings_of(request)
    answered: dict[str, Answered] = request.app.state.setup_answered

    def look(view: View) -> Answered:
        names = [b.name for b in bureaus.in_use(view.conn)]
        made_from = (view.setup.version, *names)
        last = answered.get(WORDS.language)
        if last is not None and last.made_from == made_from:
            return last
        body = wire.views.Setup.model_validate(_setup(view, names, settings)).model_dump_json().encode()
        return Answered(made_from, body, etags.of(body))

    said = answered[WORDS.language] = desk.read(me, look)
    headers = {"Cache-Control": "private, no-cache", "Vary": "Accept-Language"}
    return serving.tagged(request, said.body, said.etag, headers)


def _setup(view: View, bureaus: list[str], settings: Settings) -> Answer:
    return {
        "locales": _locales(view),
        "types": [contenttypes.whole(k) for k in view.setup.types.values()],
        "sets": [asdict(s) for s in view.setup.sets.values()],
        "kinds": [
            {
                "name": k.name,
                "label": label,
                "listed": k.listed,
                "parts": k.parts,
                "filters": list(k.filters),
                "described": k.described,
            }
            for label, k in sorted(
                ((view.say(f"kind.{name}"), k) for name, k in KINDS.items()), key=itemgetter(0)
            )
        ],
        "workflows": [workflow.to_dict(w) for w in view.setup.workflows.values()],
        "choices": [asdict(c) for c in view.setup.choices],
        "checks": [{"name": n, "label": view.say(f"checks.{n}")} for n in workflow.CHECKS],
        "bureaus": bureaus,
        "formats": [{"name": f.name, "label": f.label, "ending": f.ending} for f in formats.FORMATS.values()],
        "site": settings.site,
        "machine": bool(settings.machine_url),
        "crops": pictures.to_list(view.setup.crops.values()),
        "sites": sites.to_list(view.setup.sites.values()),
    }


def _locales(view: View) -> list[Answer]:
    shown = locales.to_list(view.setup.languages.values())
    return [one | {"rtl": view.setup.languages[one["tag"]].rtl} for one in shown]


@router.put(
    "/locales",
    response_model=wire.content.LocalesDefined,
    operation_id="define_locales",
    responses=REFUSALS,
)
def define_locales(body: wire.content.Locales, me: Who, desk: AtDesk) -> Answer:
    """Put locales in place of those there are, in order; the first is asked for where none is. What is written in one that
    ends stays in the record; while something of it is out, is a source or is being translated, it cannot end."""
    changes = desk.write(me, lambda act: acts.define(act, [one.model_dump() for one in body.locales]))
    return {"locales": desk.read(me, _locales), "changes": [asdict(change) for change in changes]}


@router.post(
    "/locales/check",
    response_model=wire.content.LocalesDefined,
    operation_id="check_locales",
    responses=REFUSALS,
)
def check_locales(body: wire.content.Locales, me: Who, desk: AtDesk) -> Answer:
    """What a definition of the locales would change, with what is in the way of it; nothing is done."""

    def look(view: View) -> Answer:
        changes = acts.check(view, [one.model_dump() for one in body.locales])
        return {"locales": _locales(view), "changes": [asdict(change) for change in changes]}

    return desk.read(me, look)


@router.put("/types", response_model=wire.content.TypeSpec, operation_id="define_type", responses=REFUSALS)
def define_type(body: wire.content.Definition, me: Who, desk: AtDesk) -> Answer:
    """Define a content type, or a new version of one; entries that exist keep every value.

    A definition that names its `version` is taken only if that is the one in force.
    """
    return desk.write(me, lambda act: contenttypes.whole(changing.define_type(act, body.model_dump())))


@router.post(
    "/types/check", response_model=wire.content.Impact, operation_id="check_type", responses=REFUSALS
)
def check_type(body: wire.content.Definition, me: Who, desk: AtDesk) -> Answer:
    """What a definition of a type would do to the entries there are; nothing is changed."""
    return desk.read(me, lambda view: _impact(changing.check_type(view, body.model_dump())))


def _impact(found: changing.Impact) -> Answer:
    return {
        "effects": [asdict(e) for e in found.effects],
        "entries": found.entries,
        "refused": found.refused,
    }


@router.get("/types/{name}", operation_id="type_definition", responses=REFUSALS)
def type_definition(name: str, me: Who, desk: AtDesk) -> dict[str, Any]:
    """The definition of a type as a file that can be sent back: its own fields, and its sets by name."""
    return desk.read(me, lambda view: changing.definition_of(view, name))


@router.delete("/types/{name}", status_code=204, operation_id="delete_type", responses=REFUSALS)
def delete_type(name: str, me: Who, desk: AtDesk) -> None:
    """Delete a content type that nothing uses; what uses it is named."""
    desk.write(me, lambda act: changing.delete_type(act, name))


@router.get(
    "/types/{name}/uses", response_model=wire.content.Uses, operation_id="uses_of_type", responses=REFUSALS
)
def uses(name: str, me: Who, desk: AtDesk) -> Answer:
    """What uses a content type, in words; one that nothing uses can be deleted, and any can be retired."""
    return {"items": desk.read(me, lambda view: changing.uses_of_type(view, name))}


@router.delete("/field-sets/{name}", status_code=204, operation_id="delete_set", responses=REFUSALS)
def delete_set(name: str, me: Who, desk: AtDesk) -> None:
    """Delete a field set that no type uses."""
    desk.write(me, lambda act: changing.delete_set(act, name))


@router.put("/field-sets", response_model=wire.content.SetSpec, operation_id="define_set", responses=REFUSALS)
def define_set(body: wire.content.Definition, me: Who, desk: AtDesk) -> Answer:
    """Define a field set, or a new version of one; every type that uses it changes with it."""
    return desk.write(me, lambda act: asdict(changing.define_set(act, body.model_dump())))


@router.post(
    "/field-sets/check", response_model=wire.content.Impact, operation_id="check_set", responses=REFUSALS
)
def check_set(body: wire.content.Definition, me: Who, desk: AtDesk) -> Answer:
    """What a definition of a field set would do to all types that use it; nothing is changed."""
    return desk.read(me, lambda view: _impact(changing.check_set(view, body.model_dump())))


@router.get("/types/{name}/schema", operation_id="type_schema", responses=REFUSALS)
def schema(name: str, me: Who, desk: AtDesk) -> dict[str, Any]:
    """A content type as JSON Schema (draft 2020-12)."""
    return desk.read(me, lambda view: contenttypes.json_schema(view.setup.type(name)))


@router.get("/events", response_model=wire.views.EventPage, operation_id="list_events", responses=REFUSALS)
def log(
    me: Who,
    desk: AtDesk,
    paged: Paged,
    kind: Annotated[str, Query(description="A kind of event, or the start of one, such as `review.`.")] = "",
    entry: Annotated[str, Query(description="Only about this entry (id).")] = "",
    dispatch: Annotated[str, Query(description="Only about this dispatch (id), or one that undoes it.")] = "",
    person: Annotated[str, Query(description="Only what this person did (handle).")] = "",
    since: Since = "",
    until: Until = "",
) -> Answer:
    """The event log, newest first: of an entry, of a dispatch, of a kind (or the start of one), by a person (their handle), between two
    days or instants; one's own acts, or all of it for whoever sets up."""

    def look(view: View) -> Answer:
        wanted = show_log.Filter(kind, entry, dispatch, person, since, until)
        found = show_log.page(view, wanted, numbers.cursor(paged.cursor), paged.limit)
        return paged.answer(found["items"], found["next"])

    return desk.read(me, look)


@router.get("/my-work", response_model=wire.views.MyWork, operation_id="my_work")
def mine(me: Who, desk: AtDesk) -> Answer:
    """What waits for the caller, what is theirs, what they wait for, and what goes out next."""
    return desk.read(me, my_work.my_work)


@router.get("/health", response_model=wire.views.Health, operation_id="health")
async def health(desk: AtDesk, response: Response) -> Answer:
    """Whether the service works; 503, with what is wrong in words, when what is written cannot be kept or the clock is wrong."""
    # Two short reads, on the loop itself: it is asked while every thread may be at work.
    wrong = trouble(desk)
    if wrong:
        response.status_code = 503
    found = {"ok": not wrong, "version": __version__, "trouble": wrong}
    return found | how_far(desk) | {"writer": desk.db.writer, "behind": desk.db.behind}
