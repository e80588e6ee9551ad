"""What leaves readers, where the gate before release asks for sign-offs of that, too: given in the dispatch that takes it away, by
others than whoever asked for it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

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
from hawthorn.store.leaving import Asked
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


def unsigned(view: View, lines: Sequence[Line], dispatch: int) -> Iterator[Parting]:
    """The lines of a dispatch (0 for one that is none yet) that leave and miss sign-offs."""
    if not any(flow.last.gate.leaving for flow in view.setup.workflows.values()):
        return
    parting = [x for x in lines if x.leaves and not x.does.made and x.locale != COMMON]
    if not parting:
        return
    # Whoever signed off a text that says until when it is out signed that off, too.
    text = store.text_that_says_so(view.conn, dispatch)
    with_text = gates.signed(view.conn, [text], view.now).get(text, {}) if text is not None else None
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
        if with_text is not None:
            given = Asked(None, (*with_text.get(flow.last.name, ()), *given.signed))
        lacking = flow.last.gate.sign_offs - len(_counting(flow, line, given))
        if lacking > 0:
            yield Parting(line, about[line.edition], flow, given, lacking)


def _counting(flow: Workflow, line: Line, asked: Asked) -> list[int]:
    authors = frozenset() if asked.by is None else frozenset({asked.by})
    signed = {flow.last.name: asked.signed}
    return [s.person for s in counting(flow.last, Candidate(line.edition, flow.last.name, signed, authors))]


def unmet(view: View, lines: Sequence[Line], dispatch: int) -> dict[int, Unmet]:
    """What that is in the way of, by edition."""
    out: dict[int, Unmet] = {}
    for one in unsigned(view, lines, dispatch):
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
