"""How entries of a type go out: what a day means, what becomes of a time that is past, and what a release has to have."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import Any

from hawthorn.core import shapes
from hawthorn.core.errors import FieldProblem
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass

PAST = ("refuse", "next", "now")
"""What becomes of a time that is past, the strictest first: it is refused, it goes with what is planned next, or at once."""
HOUR = "09:00"
"""The hour of a day that is given without one, where no type says another."""
_HOUR = re.compile(r"^([01]\d|2[0-3]):[0-5]\d$")


@dataclass(frozen=True, slots=True)
class Policy:
    """The policy of a type. `hour` is the usual one for a day without one, empty for the service's own. A release may have to be
    planned (`needs_date`), to have an end (`needs_end`); what is submitted may have to say what changed (`needs_note`)."""

    past: str = "refuse"
    hour: str = ""
    needs_date: bool = False
    needs_end: bool = False
    needs_note: bool = False


def from_dict(data: Mapping[str, Any]) -> tuple[Policy, list[FieldProblem]]:
    """The policy of a definition, with what is wrong with it."""
    made, problems = shapes.shaped(Policy, data.get("policy") or {}, "policy")
    if made is None:
        return Policy(), problems
    if made.past not in PAST:
        problems.append(
            FieldProblem("policy.past", said("common.value_none_of", value=made.past, known=list(PAST)))
        )
    if made.hour and not _HOUR.match(made.hour):
        problems.append(FieldProblem("policy.hour", said("contenttypes.no_hour")))
    return made, problems


def past_of(policies: Iterable[Policy]) -> str:
    """What becomes of a time that is past when several types go together: what the strictest says."""
    return min((p.past for p in policies), key=PAST.index, default=PAST[0])


def hour_of(policies: Iterable[Policy]) -> str:
    """The usual hour when several types go together: that of the first that says one."""
    return next((p.hour for p in policies if p.hour), HOUR)
