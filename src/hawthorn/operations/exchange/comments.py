"""Comments in packages, with their answers: on what belongs to an entry, and on dispatches."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, Protocol

from hawthorn.core.exchange.lines import SaidLine
from hawthorn.core.exchange.soundness import instant
from hawthorn.core.timeline import iso
from hawthorn.operations.runtime.act import Act
from hawthorn.store import bringing
from hawthorn.store.packages import ReplyKept


class Kept(Protocol):
    """A comment as it is kept."""

    @property
    def actor(self) -> int:
        """Whose it is."""

    @property
    def actor_kind(self) -> str:
        """What they are."""

    @property
    def at(self) -> int:
        """When it was made."""

    @property
    def text(self) -> str:
        """What it says."""

    @property
    def resolved_at(self) -> int | None:
        """When it was resolved."""

    @property
    def resolved_by(self) -> int | None:
        """By whom."""


def told(one: Kept, replies: Iterable[ReplyKept], by: Callable[[int], str]) -> dict[str, Any]:
    """What every comment says, but its id and what it is on; `by` names somebody."""
    return {
        "by": by(one.actor),
        "kind": one.actor_kind,
        "at": iso(one.at),
        "text": one.text,
        "resolved_at": iso(one.resolved_at) if one.resolved_at is not None else None,
        "resolved_by": by(one.resolved_by) if one.resolved_by is not None else None,
        "replies": [
            {"id": r.uuid, "by": by(r.actor), "kind": r.actor_kind, "at": iso(r.at), "text": r.text}
            for r in replies
        ],
    }


def there(act: Act, some: Iterable[SaidLine]) -> set[str]:
    """Which of some comments and their answers are here already."""
    ids = [id for one in some for id in (one.id, *(r.id for r in one.replies))]
    return bringing.comments_there(act.conn, ids) if ids else set()


def bring(act: Act, line: SaidLine, on: bringing.On, actors: Mapping[str, int], have: set[str]) -> None:
    """Bring a comment with its answers, unless it or one of them is here (`have`)."""
    if line.id in have or any(r.id in have for r in line.replies):
        return
    at = instant(line.resolved_at) if line.resolved_at else None
    by = actors[line.resolved_by] if line.resolved_by else None
    row = (line.id, actors[line.by], line.kind, instant(line.at), line.text, at, by)
    made = bringing.add_comment(act.conn, row, on)
    replies = [(r.id, made, actors[r.by], r.kind, instant(r.at), r.text) for r in line.replies]
    bringing.add_replies(act.conn, replies)
