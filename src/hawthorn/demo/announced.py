"""What the museum tells of ahead, or not everybody: its exhibitions, and notices that are limited."""

from __future__ import annotations

import copy
from datetime import timedelta
from typing import TYPE_CHECKING

from hawthorn.core import timeline
from hawthorn.demo.museum import NEWS, PAGES
from hawthorn.operations.delivery import limiting
from hawthorn.operations.runtime.act import Act

if TYPE_CHECKING:
    from hawthorn.demo.seeding import Museum


def exhibitions(museum: Museum) -> None:
    """Those that visitors are told of: one that is on, and one that comes."""
    for data in copy.deepcopy(PAGES.open):
        data["picture"] = museum.picture(data["picture"])
        for name, days, hour in zip(("opens", "closes"), data.pop("days"), ("10", "16"), strict=True):
            day = timeline.to_datetime(museum.now) + timedelta(days=days)
            data[name] = {"wall": day.strftime(f"%Y-%m-%dT{hour}:00"), "zone": "Europe/London"}
        museum.start("nell", "exhibition", data)
        museum.submit("nell", data["title"])
        museum.sign("tomas", data["title"])
    museum.release("ida", *[one["title"] for one in PAGES.open])


def limited(museum: Museum) -> None:
    """Notices that are out and not for everybody; limited before they go out."""
    for one in NEWS.limited:
        uuid = museum.start("nell", "notice", dict(one["fields"]))
        limits = (one["way"], one["audiences"], limiting.phrase_hash(one["phrase"]))

        def limit(act: Act, uuid: str = uuid, limits: tuple[str, list[str], str] = limits) -> None:
            limiting.limit(act, uuid, *limits)

        museum.do("ida", limit)
        title = one["fields"]["title"]
        museum.submit("nell", title)
        museum.sign("tomas", title)
        museum.release("ida", title)
