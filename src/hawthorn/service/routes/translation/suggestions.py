"""Suggestions of a machine for a sentence of a job."""

from __future__ import annotations

from fastapi import Request

from hawthorn import wire
from hawthorn.core.errors import InTheWay
from hawthorn.followers import machine, outgoing
from hawthorn.operations.translation import suggestions
from hawthorn.service.context import Answer, AtDesk, Who, settings_of
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "translation")
_PATIENCE = 20.0
"""Seconds that somebody waits for a suggestion."""


@router.post(
    "/jobs/{id}/segments/suggest",
    response_model=wire.memories.Suggestion,
    operation_id="suggest_segment",
    responses=REFUSALS,
)
def suggest(id: str, body: wire.translation.SegmentName, me: Who, desk: AtDesk, request: Request) -> Answer:
    """What a machine suggests for a sentence, for whoever may translate it. 409 where none is set, where it gives none, and for what a type
    marks as confidential, which is never sent."""
    place = (body.entry, body.key, body.segment)
    asked = desk.read(me, lambda view: suggestions.one(view, id, place))
    settings = settings_of(request)
    try:
        with outgoing.caller(settings.allow_hosts, _PATIENCE) as http:
            found = machine.suggest(http, settings, asked.source, asked.target, [asked.text])[0]
    except machine.NoSuggestions as error:
        if error.message.code == "suggestions.no_machine":
            raise InTheWay("suggestions.no_machine") from error
        raise InTheWay("suggestions.none", why=error.message) from error
    return {"text": desk.read(me, lambda view: suggestions.fitting(view, id, place, found)) if found else ""}
