"""What leaves readers, where the gate before release asks for sign-offs of that, too: given in the dispatch that takes it away, by
others than whoever asked for it."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence

from hawthorn.core import timeline
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.workflow import Candidate, Stage, Unmet, Workflow, counting
from hawthorn.operations.release import workflows
from hawthorn.operations.release.items import Going
from hawthorn.operations.release.lines import Line
from hawthorn.operations.runtime.act import View
from hawthorn.store import gates, standings
from hawthorn.store import leaving as store
from hawthorn.store.leaving import Asked, SaysSo
from hawthorn.store.standings import RELEASE


@dataclass(frozen=True, slots=True)
class Parting:
    """A line whose edition is out and leaves, and of which a gate asks for more sign-offs than there are."""

    line: Line
    about: Going
    flow: Workflow
    asked: Asked
    lacking: int

    @property
    def gate(self) -> Stage:
        """The stage whose gate asks."""
        return self.flow.last

    @property
    def here(self) -> Stage:
        """The stage before it, at which whoever may sign it off may do so."""
        return self.flow.stages[-2]


def unsigned(view: View, lines: Sequence[Line], dispatch: int, instant: int) -> Iterator[Parting]:
    """The lines of a dispatch (0 for one that is none yet) that leave at an instant and miss sign-offs."""
    if not any(flow.last.gate.leaving for flow in view.setup.workflows.values()):
        return
    parting = [x for x in lines if x.leaves and not x.does.made and x.locale != COMMON]
    if not parting:
        return
    texts = _saying_so(view, parting, dispatch, instant)
    with_text = gates.signed(view.conn, [*texts.values()], view.now) if texts else {}
    editions = [x.edition for x in parting]
    out = standings.at_stage(view.conn, editions, RELEASE)
    asked = store.of_dispatch(view.conn, dispatch)
    about = {one.edition: one for one in gates.editions(view.conn, editions)}
    flows = workflows.Flows(view)
    for line in parting:
        flow = flows.of(about[line.edition], line.locale)
        if line.edition not in out or not flow.last.gate.leaving:
            continue
        given = asked.get(line.edition, Asked(view.identity.id, ()))
        if (text := texts.get(line.edition)) is not None:
            given = Asked(None, (*with_text.get(text, {}).get(flow.last.name, ()), *given.signed))
        lacking = flow.last.gate.sign_offs - len(_counting(flow, line, given))
        if lacking > 0:
            yield Parting(line, about[line.edition], flow, given, lacking)


def _saying_so(view: View, lines: Sequence[Line], dispatch: int, instant: int) -> dict[int, int]:
    """The revisions that are out and say themselves that an edition leaves by an instant, by edition: whoever signed off such a text
    signed that off, too. What others put into the same dispatch, and what is to leave sooner, needs sign-offs of its own."""
    said = {(one.edition, one.field): one for one in store.texts_that_say_so(view.conn, dispatch)}
    out: dict[int, int] = {}
    for line in lines:
        for spec in view.setup.type(line.type).planning if said else ():
            one = said.get((line.edition, spec.name))
            if one is not None and spec.move == line.verb and instant >= _from(one):
                out[line.edition] = one.revision
    return out


def _from(one: SaysSo) -> int:
    return min(timeline.instants_of(json.loads(one.says)))


def _counting(flow: Workflow, line: Line, asked: Asked) -> list[int]:
    authors = frozenset() if asked.by is None else frozenset({asked.by})
    signed = {flow.last.name: asked.signed}
    return [s.person for s in counting(flow.last, Candidate(line.edition, flow.last.name, signed, authors))]


def unmet(view: View, lines: Sequence[Line], dispatch: int, instant: int) -> dict[int, Unmet]:
    """What that is in the way of, by edition."""
    out: dict[int, Unmet] = {}
    for one in unsigned(view, lines, dispatch, instant):
        named = [*one.gate.gate.roles, *one.gate.gate.people]
        code = "unmet.leaving_by" if named else "unmet.leaving"
        what = said(code, count=one.lacking, named=named)
        if not dispatch:
            what = said("common.sentences", sentences=[what, said("unmet.leaving_in_a_dispatch")])
        out[one.line.edition] = Unmet("sign-offs", what, "", "sign")
    return out


def why_not(view: View, one: Parting) -> Message | None:
    """Why a sign-off by whoever acts would not count; nothing when it would."""
    gate = one.gate.gate
    if not gate.counts(view.identity.roles, view.identity.handle):
        return said("review.not_to_sign", named=[*gate.roles, *gate.people], stage=one.gate.label.lower())
    if gate.author == "no" and view.identity.id == one.asked.by:
        return said("review.own_move")
    return None
