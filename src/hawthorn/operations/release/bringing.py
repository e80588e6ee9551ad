"""What moves bring: what is approved of an edition, and which revision of the shared fields goes along with a text."""

from __future__ import annotations

from collections.abc import Mapping

from hawthorn.core.contenttypes import COMMON
from hawthorn.core.timeline import Standing
from hawthorn.core.workflow import Stage, Workflow
from hawthorn.operations.release import workflows
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries, standings
from hawthorn.store.entries import Edition
from hawthorn.store.moves import AskedMove, PlannedMove


def approved(
    view: View, flow: Workflow, edition: Edition, here: Mapping[int, Standing], goal: Stage | None = None
) -> int | None:
    """The revision that would go on to a stage, or out where none is said: what stands nearest to that (`here` is what stands of the
    edition), else the head of the draft."""
    for stage in reversed(flow.stages[1:-1]):
        standing = here.get(view.setup.stages[stage.name])
        if standing is not None and stage.order < (goal or flow.last).order:
            return standing.revision
    head: int | None = edition.head
    return head


def approved_of(view: View, edition: Edition) -> int | None:
    """The same for an edition by the workflow that it follows."""
    flow = workflows.of(view, entries.entry_by_id(view.conn, edition.entry), edition.locale)
    return approved(view, flow, edition, standings.now_at(view.conn, [edition.id]).get(edition.id, {}))


def with_text(
    view: View,
    flow: Workflow,
    common: Edition,
    stand: Mapping[int, Mapping[int, Standing]],
    goal: Stage | None = None,
) -> int | None:
    """The revision of the shared fields that goes along with a text to a stage, or out where none is said; `stand` is what stands of each
    edition of the entry. What somebody has written in them and not submitted goes its own way: it neither goes along with a text that was
    looked at without it, nor holds that up."""
    goal = goal or flow.last
    here, orders = stand.get(common.id, {}), view.setup.orders
    revision = approved(view, flow, common, here, goal)
    there = here.get(view.setup.stages[goal.name])
    looked_at = any(
        orders[s.stage] < goal.order for id, some in stand.items() if id != common.id for s in some.values()
    )
    only_drafted = all(s.revision != revision for s in here.values())
    return there.revision if there is not None and looked_at and only_drafted else revision


def brought(view: View, move: AskedMove | PlannedMove) -> int | None:
    """The revision that a move brings; one that follows brings what is approved, which is known as far as it is now."""
    if not move.follows:
        return move.revision
    edition = entries.edition_by_id(view.conn, move.edition)
    if edition.locale != COMMON:
        return approved_of(view, edition)
    return shared_by_now(view, edition)


def shared_by_now(view: View, common: Edition) -> int | None:
    """The revision of the shared fields that would go out with a text by now."""
    flow = workflows.of(view, entries.entry_by_id(view.conn, common.entry), COMMON)
    ids = [one.id for one in entries.editions(view.conn, common.entry)]
    return with_text(view, flow, common, standings.now_at(view.conn, ids))
