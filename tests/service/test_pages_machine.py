"""Random people do random things to pages, frames, blocks and the outline: what is kept is what would be rendered anew, the
outline is a forest at every stage and instant, and addresses lead to the pages that have them."""

from __future__ import annotations

import contextlib
import json
import tempfile
from pathlib import Path
from typing import Any

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from hawthorn.core.errors import HawthornError, NotFound
from hawthorn.core.timeline import SECOND
from hawthorn.messages import ENGLISH
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import outline, reading, rendering
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import View
from hawthorn.store import bodies, events
from hawthorn.store.standings import DRAFT, RELEASE
from tests.service.made import House
from tests.service.test_pages import TYPES, words

PAGES = st.integers(0, 3)


class Pages(RuleBasedStateMachine):
    """Four pages in a frame with a common block, below one another as it comes."""

    @initialize()
    def build(self) -> None:
        """Make them, all drafted."""
        self.folder = tempfile.TemporaryDirectory()
        self.house = House(Path(self.folder.name))
        for definition in TYPES:
            self.house.do("ida", lambda a, d=definition: changing.define_type(a, d))
        self.home = self.start("home", title="Home")
        self.block = self.start("shared", title="Block", content=[words("b", "Ring.")])
        self.frame = self.start("frame", title="Frame", foot=[words("f", "Foot.")])
        shown = {"id": "k", "kind": "kept", "fields": {"block": self.block}}
        rule_ = {"id": "l", "kind": "list", "fields": {"rule": {"types": ["sheet"], "days": 1, "limit": 3}}}
        self.pages = [self.start("sheet", title=f"Sheet {n}", page=[shown, rule_]) for n in range(4)]
        self.instants: list[int] = []
        self.turn = 0

    def start(self, type: str, **fields: Any) -> str:
        return self.house.do("wim", lambda a: entries.start(a, type, "en", fields))

    def tried(self, who: str, act: Any) -> None:
        """What is refused is refused whole; each refusal says what to do."""
        try:
            self.house.do(who, act)
        except HawthornError as refused:
            if not ENGLISH.remedy(refused):
                raise
        self.instants.append(self.house.clock.now())

    def save(self, uuid: str, **fields: Any) -> None:
        def do(act: Any) -> None:
            row = act.conn.execute("SELECT id FROM entry WHERE uuid = ?", (uuid,)).fetchone()
            entries.save(act, uuid, "en", fields, entries.current_base(act, row["id"], "en"))

        self.tried("wim", do)

    @rule(one=PAGES, above=st.integers(-2, 3), beside=st.integers(-1, 3))
    def move(self, one: int, above: int, beside: int) -> None:
        """Place a page below another, below the front page, or at the top."""
        below = {-2: "", -1: self.home}.get(above) if above < 0 else self.pages[above]
        before = self.pages[beside] if beside >= 0 else ""
        self.tried("wim", lambda a: outline.move(a, self.pages[one], below or "", before=before))

    @rule(one=PAGES, name=st.sampled_from(["pier", "quay", "mole"]))
    def rename(self, one: int, name: str) -> None:
        """Give a page an address that others may want too."""
        self.save(self.pages[one], slug=name)

    @rule(one=PAGES, own=st.booleans())
    def replace(self, one: int, own: bool) -> None:
        """Replace a region, or follow the frame again."""
        self.turn += 1
        self.save(self.pages[one], foot=[words("o", f"Own {self.turn}")] if own else None)

    @rule(which=st.sampled_from(["frame", "block"]))
    def write(self, which: str) -> None:
        """Write in what many pages show."""
        self.turn += 1
        if which == "frame":
            self.save(self.frame, foot=[words("f", f"Foot {self.turn}")])
        else:
            self.save(self.block, content=[words("b", f"Ring {self.turn}")])

    @rule(some=st.lists(st.integers(-3, 3), min_size=1, max_size=4, unique=True), later=st.booleans())
    def release(self, some: list[int], later: bool) -> None:
        """Let some go together, now or in a while."""
        uuids = [{-3: self.home, -2: self.block, -1: self.frame}.get(n) or self.pages[n] for n in some]
        if later:
            with contextlib.suppress(HawthornError):
                self.house.plan(uuids, 30)
        else:
            self.tried(
                "ida", lambda a: dispatches.make(a, [MoveRequest(u, "en") for u in uuids], with_needs=True)
            )

    @rule(one=PAGES)
    def withdraw(self, one: int) -> None:
        """Take a page back."""
        self.tried("ida", lambda a: dispatches.make(a, [MoveRequest(self.pages[one], "en", "withdraw")]))

    @rule(seconds=st.sampled_from([5, 45, 50_000]))
    def wait(self, seconds: int) -> None:
        """Let time pass."""
        self.house.later(seconds)

    def read(self, look: Any) -> Any:
        return self.house.desk.read(self.house.who("ida"), look)

    @invariant()
    def what_is_kept_is_what_would_be_rendered(self) -> None:
        """Every body that counts as fresh is what rendering it now gives."""
        for uuid in [*self.pages, self.home]:

            def look(view: View, uuid: str = uuid) -> tuple[Any, Any, int]:
                kept = bodies.fresh(view.conn, uuid, "en", view.now)
                with contextlib.suppress(NotFound):
                    return kept, rendering.render(view, uuid, "en", Place()), events.last(view.conn)[0]
                return kept, None, 0

            kept, made, seq = self.read(look)
            if kept is not None:
                assert made is not None, "it is out no longer, and its body still counts as fresh"
                assert json.loads(kept.data) == json.loads(made.data)
            elif made is not None:
                self.house.desk.db.write(
                    lambda c, m=made, s=seq: bodies.keep(
                        c, m.entry, "en", s, 1, m.etag, m.data, m.deps, m.ends
                    )
                )

    @invariant()
    def the_outline_is_a_forest_everywhere(self) -> None:
        """At drafts, in what is out, now, then and soon: every page is met once, and by its own way up."""
        now = self.house.clock.now()
        places = [Place(DRAFT), Place(), Place(RELEASE, now + 40 * SECOND)]
        places += [Place(RELEASE, at) for at in self.instants[-2:]]
        for where in places:
            met: list[str] = []
            waiting = [""]
            while waiting:
                below = waiting.pop()
                lines, _ = self.read(lambda v, b=below, w=where: outline.below(v, b, w))
                ranks = [(line.place.rank, line.place.entry) for line in lines]
                assert ranks == sorted(ranks)
                met += [line.uuid for line in lines]
                waiting += [line.uuid for line in lines]
            assert len(met) == len(set(met)), "a page stands in two places"
            if where.stage == DRAFT:
                assert set(self.pages) <= set(met)

    @invariant()
    def addresses_lead_to_the_pages_that_have_them(self) -> None:
        """The path that a body names is where the page is found, and no two pages that are out share one."""
        paths: dict[str, str] = {}
        for uuid in self.pages:

            def look(view: View, uuid: str = uuid) -> tuple[str | None, str | None]:
                with contextlib.suppress(NotFound):
                    path = json.loads(rendering.render(view, uuid, "en", Place()).data)["path"]
                    return path, reading.find_path(view, path, Place())[0] if path else None
                return None, None

            path, found = self.read(look)
            if path:
                assert found == uuid
                assert paths.setdefault(path, uuid) == uuid

    def teardown(self) -> None:
        """Close the file."""
        if hasattr(self, "house"):
            self.house.close()
            self.folder.cleanup()


Pages.TestCase.settings = settings(max_examples=12, stateful_step_count=18, deadline=None)
TestPages = Pages.TestCase
