"""What will stand: what is planned laid over what stands, one dispatch after the other, each as it will find it.

What gates will ask then is not foreseen. What cannot go by its revisions alone, as an older one than is out by then, does not.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from itertools import groupby

from hawthorn.core import revision, timeline
from hawthorn.core.moves import MoveFacts
from hawthorn.core.timeline import Standing
from hawthorn.operations.release import requested
from hawthorn.operations.release.lines import Line
from hawthorn.operations.runtime.act import View
from hawthorn.store import dispatches, entries, gates, moves_ahead, packages, standings
from hawthorn.store.packages import EditionKept
from hawthorn.store.standings import RELEASE

Stand = dict[int, dict[int, Standing]]
"""What stands, by edition and stage."""


def by(view: View, some: Collection[int], until: int) -> Stand | None:
    """What stands of all editions of some entries by an instant, once all that is planned until then has gone; None where nothing is planned
    for any of them. Those for which nothing is are not among it."""
    planned = moves_ahead.ahead(view.conn, some, until)
    if not planned:
        return None
    found = _Ahead(view, {m.entry for m in planned})
    found.away = {m.entry for m in planned if m.removed_at is not None or m.archived_at is not None}
    for (instant, _), moves in groupby(planned, key=lambda m: (m.instant, m.dispatch)):
        of_entry: dict[int, list[Line]] = {}
        for m in moves:
            of_entry.setdefault(m.entry, []).append(requested.line_of(view, m, found.of(m.entry)))
        for entry, lines in of_entry.items():
            found.lay(entry, lines, instant)
    return found.stand


def after(view: View, dispatch: int, instant: int, entry: int | None = None) -> Stand | None:
    """What stands of all editions of the entries of a dispatch, or of one of them, once it has gone at an instant, whatever is in its way;
    None where it does not move any, or is not to come any more."""
    row = dispatches.by_id(view.conn, dispatch)
    lines = requested.kept(view, row, entry) if row.coming else []
    if not lines:
        return None
    home = entries.of_editions(view.conn, [x.edition for x in lines])
    of_entry: dict[int, list[Line]] = {}
    for x in lines:
        of_entry.setdefault(home[x.edition][0], []).append(x)
    found = _Ahead(view, of_entry)
    for one, mine in of_entry.items():
        found.lay(one, mine, instant, anyway=True)
    return found.stand


class _Ahead:
    """Entries as what is to come leaves them."""

    def __init__(self, view: View, some: Collection[int]) -> None:
        self.view = view
        self.editions: dict[int, list[EditionKept]] = {}
        for one in packages.editions(view.conn, [*some]):
            self.editions.setdefault(one.entry, []).append(one)
        ids = [one.id for some in self.editions.values() for one in some]
        now = standings.now_at(view.conn, ids)
        self.stand: Stand = {id: dict(now.get(id, {})) for id in ids}
        self.parents = gates.parents(view.conn, ids)
        self.away: set[int] = set()
        """The entries that are removed, or in the archive."""

    def of(self, entry: int) -> Stand:
        """What stands of one of them."""
        return {one.id: self.stand[one.id] for one in self.editions[entry]}

    def lay(self, entry: int, lines: Sequence[Line], instant: int, *, anyway: bool = False) -> None:
        """Let the lines of one dispatch for an entry go: all of them, or none where one cannot, unless they go `anyway`."""
        if entry in self.away and any(x.leads for x in lines):
            return
        if any(requested.puts_away(x) for x in lines):
            for one in self.editions[entry]:
                self.stand[one.id].clear()
            self.away.add(entry)
            return
        moves = [self._move(n, x) for n, x in enumerate(self._by_then(entry, lines))]
        if not anyway and any(x.does.against(move) for x, move in moves):
            return
        for x, move in moves:
            if x.stuck is not None or (x.leads and x.revision is None):
                # It is not known what it would bring: nothing gives way to it.
                continue
            here, step = self.stand[x.edition], x.does.step(move)
            for closing in step.closings:
                here.pop(closing.stage, None)
            if step.opens and x.revision is not None:
                here[x.stage] = Standing(0, x.edition, x.stage, x.revision, instant)

    def _by_then(self, entry: int, lines: Sequence[Line]) -> list[Line]:
        """Lines with the shared fields as they stay, or come along, by what is out then."""
        out = {one.locale for one in self.editions[entry] if RELEASE in self.stand[one.id]}
        staying = requested.staying(lines, out)
        coming = requested.coming_along(self.view, entry, lines, out, self.of(entry))
        return [x for x in lines if x.edition not in staying] + coming

    def _move(self, ord: int, line: Line) -> tuple[Line, MoveFacts]:
        here, orders = self.stand[line.edition], self.view.setup.orders
        held: list[int] = []
        descends = True
        if line.revision is not None:
            from_it = {s: self._descends(line, at) for s, at in here.items()}
            held = [s for s, comes in from_it.items() if comes and orders[s] < orders[line.stage]]
            descends = from_it.get(line.stage, True)
        return line, line.move(ord, here, lower=tuple(held), descends=descends, regress=line.regress)

    def _descends(self, line: Line, standing: timeline.Standing) -> bool:
        """Whether what a line brings comes from what stands."""
        assert line.revision is not None
        parents: Mapping[int, tuple[int, ...]] = self.parents.get(line.edition, {})
        return revision.descends(lambda id: parents.get(id, ()), line.revision, standing.revision)
