"""Days by which something is due."""

from __future__ import annotations

from datetime import date

from hawthorn.core import timeline
from hawthorn.core.errors import BadTime, FieldProblem, Invalid
from hawthorn.core.messages import Message
from hawthorn.operations.runtime.act import View


def require_to_come(view: View, given: str, no_day: Message) -> None:
    """Raise unless a day is none, or one that is not over where whoever looks is; `no_day` says what is wrong with what is none."""
    if not given:
        return
    try:
        due = date.fromisoformat(given)
    except ValueError:
        raise Invalid([FieldProblem("due", no_day)]) from None
    if due < timeline.wall_at(view.now, view.identity.zone).date():
        raise BadTime("common.due_is_past", due=given)
