"""What changed of what is out: a site that keeps what it has read, and reads anew only what it is told of, has in the end what one has that reads everything."""

from __future__ import annotations

import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.client import Client, every
from hawthorn.client.errors import Refusal
from hawthorn.core.errors import HawthornError
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import changed, limiting
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from tests.service.made import House, serving

SHEET: dict[str, Any] = {
    "name": "sheet",
    "label": "Sheet",
    "workflow": "short",
    "fields": [
        {"name": "title", "kind": "line", "required": True},
        {"name": "slug", "kind": "slug", "follows": "title", "required": True},
        {"name": "below", "kind": "parent", "shared": True, "types": ["sheet"]},
        {"name": "body", "kind": "rich"},
        {"name": "about", "kind": "reference", "many": True, "types": ["sheet"]},
        {"name": "newest", "kind": "query"},
    ],
}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    made.do("ida", lambda a: changing.define_type(a, SHEET))
    yield made
    made.close()


class Mirror:
    """Keeps all that is out, in each language, and reads no more than it is told to."""

    def __init__(self, client: Client) -> None:
        self.client = client
        self.position = ""
        self.kept: dict[tuple[str, str], dict[str, Any]] = {}
        self.reads = 0

    def whole(self) -> dict[tuple[str, str], dict[str, Any]]:
        return {
            (one.id, tag): one.model_dump()
            for tag in ("en", "fr")
            for one in every(self.client.read_entries, type="sheet", locale=tag, groups=True, at_once=100)
        }

    def follow(self) -> bool:
        found = self.client.read_changed(self.position)
        self.position = found.position
        if found.everything:
            self.kept = self.whole()
            return True
        groups = set(found.groups)
        stale = {key for key, one in self.kept.items() if groups & set(one["groups"])}
        stale |= {(one.id, tag) for one in found.entries for tag in ("en", "fr")}
        for key in stale:
            self.reads += 1
            try:
                self.kept[key] = self.client.read(key[0], locale=key[1], groups=True).model_dump()
            except Refusal:
                self.kept.pop(key, None)
        return False


def act(house: House, rng: random.Random, made: list[str]) -> None:
    """Something that changes what readers see, or not."""
    uuid = rng.choice(made) if made else ""
    other = rng.choice(made) if made else ""
    link = f'<p>To <a href="urn:uuid:{other}">it</a>.</p>'
    values: dict[str, Any] = rng.choice(
        [
            {"title": f"Title {rng.randrange(10**6)}"},
            {"slug": f"slug-{rng.randrange(10**6)}"},
            {"body": link},
            {"about": [other]},
            {"below": {"parent": other, "rank": "a"} if rng.random() < 0.7 else None},
            {"newest": {"types": ["sheet"], "limit": 5, "order": "newest"}},
        ]
    )
    kind = rng.choice(
        ["start", "save", "save", "save", "save", "withdraw", "hide", "lock", "open", "french", "draft"]
    )
    try:
        if kind == "start" or not made:
            values = {"title": f"Sheet {len(made)}", **({"body": link} if made else {})}
            uuid = house.do("ida", lambda a: entries.start(a, "sheet", "en", values))
            made.append(uuid)
        elif kind in ("save", "draft", "french"):
            tag = "fr" if kind == "french" else "en"
            values = {"title": f"Titre {rng.randrange(10**6)}"} if kind == "french" else values
            house.do("ida", lambda a: entries.save(a, uuid, tag, values, entries.base_now(a, uuid, tag)))
        if kind in ("start", "save", "french", "withdraw"):
            verb = "withdraw" if kind == "withdraw" else "release"
            tag = "fr" if kind == "french" else "en"
            house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, tag, verb)], with_needs=True))
        phrase = limiting.phrase_hash("a long phrase") if kind == "lock" else ""
        ways = {"hide": "hidden", "lock": "locked", "open": ""}
        if kind in ways:
            house.do("ida", lambda a: limiting.limit(a, uuid, ways[kind], ("friends",), phrase))
    except HawthornError:
        # What may not be done then changes nothing; what was saved stays a draft.
        pass


@pytest.mark.parametrize("seed", range(4))
def test_a_site_that_is_told_has_what_one_that_reads_everything_has(house: House, seed: int) -> None:
    rng = random.Random(seed)
    made: list[str] = []
    with serving(house) as (_, url), Client(url) as client:
        mirror = Mirror(client)
        told = 0
        for _ in range(25):
            for _ in range(rng.randint(1, 4)):
                act(house, rng, made)
            told += not mirror.follow()
            whole = mirror.whole()
            assert mirror.kept.keys() == whole.keys()
            for key, one in whole.items():
                kept = mirror.kept[key]
                assert {**kept, "groups": None} == {**one, "groups": None}, key
        assert told >= 20


def test_what_cannot_be_told_is_everything(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    uuid = house.do("ida", lambda a: entries.start(a, "sheet", "en", {"title": "One"}))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en")]))
    with serving(house) as (_, url), Client(url) as client:
        first = client.read_changed()
        assert (first.everything, first.entries) == (True, [])
        again = client.read_changed(first.position)
        assert (again.everything, again.entries, again.groups, again.position) == (
            False,
            [],
            [],
            first.position,
        )
        house.do(
            "ida", lambda a: entries.save(a, uuid, "en", {"title": "Two"}, entries.base_now(a, uuid, "en"))
        )
        assert client.read_changed(first.position).entries == [], "a draft is nobody's business"
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en")]))
        found = client.read_changed(first.position)
        assert [(one.id, one.type, one.there) for one in found.entries] == [(uuid, "sheet", True)]
        assert uuid.replace("-", "") in found.groups
        assert "type-sheet" in found.groups
        monkeypatch.setattr(changed, "MOST", 0)
        assert client.read_changed(first.position).everything
        monkeypatch.undo()
        # Whoever took over goes on from where the copy was.
        term, seq = found.position.split(".")
        assert client.read_changed(f"{int(term) + 1}.{seq}").everything
        house.do("ida", lambda a: changing.define_type(a, {**SHEET, "label": "Another"}))
        assert client.read_changed(found.position).everything
        for wrong in ("x", "1.", "1.2.3", "-1.4", "9" * 50):
            with pytest.raises(Refusal) as refused:
                client.read_changed(wrong)
            assert refused.value.problem.status == 422


def test_what_was_never_there_for_somebody_is_not_told_of(house: House) -> None:
    with serving(house) as (_, url), Client(url) as client:
        before = client.read_changed().position
        uuid = house.do("ida", lambda a: entries.start(a, "sheet", "en", {"title": "Veiled"}))
        house.do("ida", lambda a: limiting.limit(a, uuid, "hidden", ("friends",)))
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en")]))
        found = client.read_changed(before)
        assert (found.entries, uuid.replace("-", "") in found.groups) == ([], False)
        house.do("ida", lambda a: limiting.limit(a, uuid, ""))
        middle = client.read_changed(before)
        assert [(one.id, one.there) for one in middle.entries] == [(uuid, True)]
        house.do("ida", lambda a: limiting.limit(a, uuid, "hidden", ("friends",)))
        after = client.read_changed(middle.position)
        assert [(one.id, one.there) for one in after.entries] == [(uuid, False)]
