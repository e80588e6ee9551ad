"""Reading drafts with the work of one name beside them: for keys that may read drafts, in each way of reading."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.client import Client, Refusal
from hawthorn.operations.content import changing, entries, strands
from hawthorn.operations.media import files
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from tests.service.made import House, serving
from tests.service.test_files import picture
from tests.service.test_limited import SHEET, SHOT, key


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    for kind in (SHOT, SHEET):
        made.do("ida", lambda a, k=kind: changing.define_type(a, k))
    yield made
    made.close()


def save(house: House, uuid: str, strand: str, **fields: Any) -> None:
    base = house.do("ida", lambda a: entries.base_now(a, uuid, "en", strand))
    house.do("ida", lambda a: entries.save(a, uuid, "en", fields, base, strand=strand))


def test_a_strand_is_read_beside_drafts_by_whoever_may(house: House) -> None:
    lamp, bell = (
        house.do("ida", lambda a, t=t: entries.start(a, "sheet", "en", {"title": t}))
        for t in ("Lamp", "Bell")
    )
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "en")]))
    house.do("ida", lambda a: strands.fork(a, lamp, "en", "Shorter"))
    photo = house.do("wim", lambda a: files.keep(a, files.inspect("p.png", picture("PNG"))))
    shot = house.do("ida", lambda a: entries.start(a, "shot", "en", {"title": "Shot", "file": photo}))
    save(house, lamp, "draft", title="Lamp, newer")
    save(house, lamp, "Shorter", title="Lamp, shorter", about=[shot])
    sha256 = photo["sha256"]
    secret = key(house, stages=("draft",))
    with (
        serving(house) as (_, url),
        Client(url) as anybody,
        Client(url, key=key(house)) as live,
        Client(url, key=secret) as drafts,
    ):
        assert drafts.read(lamp, stage="draft").title == "Lamp, newer"
        found = drafts.read(lamp, strand="Shorter")
        assert (found.title, (found.shown or {})["strand"]) == ("Lamp, shorter", "Shorter")
        assert drafts.read_head(lamp, strand="Shorter").title == "Lamp, shorter"
        # What has no strand of that name is read as a draft.
        assert drafts.read(bell, strand="Shorter").title == "Bell"
        listed = {one.title for one in drafts.read_entries(type="sheet", strand="Shorter").items}
        assert listed == {"Lamp, shorter", "Bell"}
        assert drafts.read_page("/en/lamp", strand="Shorter").title == "Lamp, shorter"
        titles = {one.title for one in drafts.read_outline(strand="Shorter").items}
        assert {"Lamp, shorter", "Bell"} <= titles
        # The draft itself has a name too.
        assert drafts.read(lamp, strand="draft").title == "Lamp, newer"
        # A file that nothing but the strand shows.
        own = {"Authorization": f"Bearer {secret}"}
        at = f"{url}/read/files/{sha256}"
        assert httpx.get(f"{at}?strand=Shorter", headers=own).headers["cache-control"] == "private, no-store"
        assert httpx.get(f"{at}?strand=Shorter").status_code == 403
        assert httpx.get(at).status_code == 404
        for refused in (anybody, live):
            for ask in (lambda c: c.read(lamp, strand="Shorter"), lambda c: c.read_entries(strand="Shorter")):
                with pytest.raises(Refusal) as error:
                    ask(refused)
                assert error.value.problem.status == 403
        for wrong, status in (
            ({"strand": "Nothing"}, 404),
            ({"strand": "Shorter", "stage": "release"}, 422),
            ({"strand": "Shorter", "at": "2030-01-01T00:00:00Z"}, 422),
        ):
            with pytest.raises(Refusal) as error:
                drafts.read(lamp, **wrong)
            assert error.value.problem.status == status, wrong
        # What goes by its name is gone with it.
        house.do("ida", lambda a: strands.drop(a, lamp, "en", "Shorter"))
        with pytest.raises(Refusal) as error:
            drafts.read(lamp, strand="Shorter")
        assert error.value.problem.status == 404
