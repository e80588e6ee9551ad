"""Files of a job that differ by locale: what comes back in the other language."""

from __future__ import annotations

from hawthorn import wire
from hawthorn.operations.translation import own_files
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "translation")


@router.put(
    "/jobs/{id}/own-files/{entry}/{field}",
    response_model=wire.translation.OwnFile,
    operation_id="give_own_file",
    responses=REFUSALS,
)
def give(
    id: str, entry: str, field: str, body: wire.translation.OwnFileGive, me: Who, desk: AtDesk
) -> Answer:
    """Put a stored file in the place of the source's into the translation, or say that the source's will do."""
    return desk.write(me, lambda act: own_files.give(act, id, entry, field, body.sha256))
