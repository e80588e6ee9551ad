"""Days by which something is due."""

from __future__ import annotations

from datetime import date

from hawthorn.core import timeline
from hawthorn.core.errors import BadTime, FieldProblem, Invalid
from hawthorn.core.messages import Message
from hawthorn.operations.runtime.act import Act


def require_to_come(act: Act, given: str, no_day: Message) -> None:
    """Raise unless a day is none, or one that is not over where whoever acts is; `no_day` says what is wrong with what is none."""
    if not given:
        return
    try:
        due = date.fromisoformat(given)
    except ValueError:
        raise Invalid([FieldProblem("due", no_day)]) from None
    if due < timeline.wall_at(act.now, act.identity.zone).date():
        raise BadTime("common.due_is_past", due=given)
