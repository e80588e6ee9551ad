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
from hawthorn.store.moves import AskedMove


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


def brought(
    view: View, move: AskedMove, stand: Mapping[int, Mapping[int, Standing]] | None = None
) -> int | None:
    """The revision that a move brings; one that follows brings what is approved, by what stands of each edition of its entry: now, or as it
    is given."""
    if not move.follows:
        return move.revision
    edition = entries.edition_by_id(view.conn, move.edition)
    if edition.locale == COMMON:
        return shared_by(view, edition, stand)
    flow = workflows.of(view, entries.entry_by_id(view.conn, edition.entry), edition.locale)
    here = standings.now_at(view.conn, [edition.id]) if stand is None else stand
    return approved(view, flow, edition, here.get(edition.id, {}))


def shared_by(
    view: View, common: Edition, stand: Mapping[int, Mapping[int, Standing]] | None = None
) -> int | None:
    """The revision of the shared fields that would go out with a text, by what stands of each edition: now, or as it is given."""
    flow = workflows.of(view, entries.entry_by_id(view.conn, common.entry), COMMON)
    if stand is None:
        stand = standings.now_at(view.conn, [one.id for one in entries.editions(view.conn, common.entry)])
    return with_text(view, flow, common, stand)
