"""The document of the API in words: what members mean (`meanings`), an example of each body (`examples`), and what may be chosen.

A description that a model gives itself comes first; then `Model.member`, then the member's name. The OpenAPI document is made from
this, and a test asks that nothing in it is without words.
"""

from __future__ import annotations

from typing import Any

from hawthorn.wire.examples import EXAMPLES
from hawthorn.wire.meanings import MEANINGS

_ACTORS = ["person", "program", "assistant", "bureau", "scheduler"]
_VERBS = [
    "read", "write", "submit", "sign", "release", "override-quiet", "commission", "accept", "configure",
]  # fmt: skip
_ASKED = ["release", "advance", "archive", "remove", "set", "withdraw"]
_MOVES = ["release", "advance", "archive", "remove", "restore", "set", "withdraw"]
_JOBS = ["waiting", "sent", "in work", "failed", "returned", "accepted", "cancelled"]
_ORIGINS = ["start", "save", "typed", "merge", "settled", "restored", "strand", "return", "type changed"]
_KINDS = [
    "blocks", "boolean", "choice", "date", "file", "group", "instant", "json", "line", "link", "number", "parent", "place", "planned", "query",
    "reference", "rich", "slug", "tags", "text",
]  # fmt: skip
_NOTIFICATIONS = [
    "review",
    "decided",
    "named",
    "comment",
    "assigned",
    "due",
    "dispatch",
    "translation",
    "mail",
    "webhook",
]
_WAYS = ["at once", "digest", "only here", "not at all"]
_DIRECTIONS = ["", "ltr", "rtl"]

ENUMS: dict[str, list[str]] = {
    "ActOffer.act": [
        "save",
        "submit",
        "take-back",
        "sign",
        "send-back",
        "move-on",
        "override",
        "release",
        "withdraw",
        "commission",
    ],
    "Assignment.state": ["", "due", "late"],
    "Conflict.why": [
        "both changed it",
        "changed and removed",
        "ordered differently",
        "moved to different places",
        "moved into each other",
    ],
    "DiffPart.how": ["same", "changed", "new", "gone", "moved"],
    "Run.how": ["same", "gone", "new"],
    "DispatchReview.outcome": ["waiting", "signed off", "sent back", "taken back", "replaced"],
    "Dispatch.state": ["open", "planned", "held", "failed", "gone", "undone", "cancelled"],
    "Event.by_kind": _ACTORS,
    "FieldSpec.kind": _KINDS,
    "GateSpec.author": ["no", "with another", "yes"],
    "GateSpec.embedded": ["warn", "hold"],
    "Offer.verb": _ASKED,
    "Offer.why": ["locale", "below"],
    "GrantSpec.verb": _VERBS,
    "WorkLine.kind": [
        "sent back",
        "named",
        "review",
        "dispatch",
        "ready",
        "to translate",
        "translation",
        "assigned",
        "submitted",
    ],
    "WorkLine.state": ["", "due", "late"],
    "HistoryRevision.author_kind": _ACTORS,
    "HistoryRevision.origin": _ORIGINS,
    "Job.state": _JOBS,
    "JobLine.state": _JOBS,
    "JobUnit.outcome": ["", "applied", "drifted", "conflict", "gone"],
    "JobUnit.state": ["initial", "translated", "reviewed", "final"],
    "Key.kind": ["program", "assistant"],
    "Link.scope": ["all", "entry", "section", "strand", "dispatch"],
    "LocaleAsk.direction": _DIRECTIONS,
    "LocaleSpec.direction": _DIRECTIONS,
    "LocaleChange.how": ["added", "back", "changed", "ended"],
    "Me.kind": _ACTORS,
    "MoveAsk.verb": _ASKED,
    "MoveLine.verb": _MOVES,
    "Need.verb": _ASKED,
    "NotificationKind.kind": _NOTIFICATIONS,
    "NotificationKind.way": _WAYS,
    "NotificationLine.kind": _NOTIFICATIONS,
    "Person.kind": _ACTORS,
    "Person.state": ["", "invited", "cannot log in"],
    "Planned.verb": _MOVES,
    "Comment.by_kind": _ACTORS,
    "Review.outcome": ["waiting", "signed off", "sent back", "taken back"],
    "Revision.author_kind": _ACTORS,
    "Revision.origin": _ORIGINS,
    "StrandLine.ended": ["", "merged", "dropped"],
    "UnmetAhead.verb": _VERBS,
    "UnmetCondition.verb": _VERBS,
    "VerbSpec.verb": _VERBS,
}
"""The words that a member may hold, where they are always the same ones."""


def described(model: str, schema: dict[str, Any]) -> dict[str, Any]:
    """A JSON schema of a model with the words for its members, and its example."""
    for name, member in schema.get("properties", {}).items():
        if not member.get("description"):
            said = MEANINGS.get(f"{model}.{name}") or MEANINGS.get(name)
            if said:
                member["description"] = said
        words = ENUMS.get(f"{model}.{name}")
        if words and "enum" not in member:
            member["enum"] = words
    if model in EXAMPLES and not schema.get("examples"):
        schema["examples"] = [EXAMPLES[model]]
    return schema
