"""The dispatches of the demo: planned, held, being put together, undone."""

from __future__ import annotations

import copy
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from hawthorn.core import timeline
from hawthorn.demo.museum import NEWS, PAGES
from hawthorn.operations.collaboration import comments
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import webhooks
from hawthorn.operations.release import (
    dispatches,
    gathering,
    quiet_periods,
    review,
    reviewing,
    spreading,
    undoing,
)
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.quiet_periods import Times
from hawthorn.operations.release.records import About
from hawthorn.operations.release.spreading import Spread
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.views import show

if TYPE_CHECKING:
    from hawthorn.demo.seeding import Museum


def plan(museum: Museum) -> None:
    """What is still to come, what is being put together, and what is looked back on."""
    _looked_back_on(museum)
    museum.clock.at = museum.clock.limit
    regatta = museum.ids["Closed for the regatta"]
    ahead = timeline.to_datetime(museum.now) + timedelta(days=1)
    _planned(museum, MoveRequest(regatta, "en"), ahead.replace(hour=9), "Regatta day")
    free = museum.ids["Free entry on the first Sunday"]
    spring = ahead.replace(hour=18) + timedelta(days=9)
    _planned(museum, MoveRequest(free, "en", "withdraw"), spring, "Free Sundays end")
    season = [
        MoveRequest(museum.ids[title], "en")
        for title in ("The pilot boat Constance", "A coil of tarred hemp")
    ]
    about = About("Boats in spring", "What the boat hall changes when the season opens.", owner="ida")
    spring_boats = museum.do("oda", lambda act: gathering.start(act, about, season))
    _written_inside(museum, spring_boats)
    _longer_winter(museum, ahead + timedelta(days=3))
    _season(museum, ahead + timedelta(days=20))
    _archived(museum)
    _quiet(museum, ahead)
    _one_a_day(museum, ahead + timedelta(days=2))


def tell(museum: Museum, url: str) -> str:
    """Let the public site be told at an address of what changed; returns the secret with which that is signed."""
    wanted = webhooks.Wanted("The public site", url)
    return museum.do("ida", lambda act: webhooks.add(act, wanted))[1]


def _looked_back_on(museum: Museum) -> None:
    """One that was taken back again, and one that found something in its way."""
    free = [MoveRequest(museum.ids["Free entry on the first Sunday"], "en", "withdraw")]
    mistaken = museum.do("ida", lambda act: dispatches.make(act, free, name="No free Sundays"))
    museum.do("ida", lambda act: undoing.undo(act, mistaken, note="They stay until spring."))
    soon = When(instant=timeline.iso(museum.clock.at + 60 * timeline.SECOND))
    coil = [MoveRequest(museum.ids["A coil of tarred hemp"], "en", follows=True)]
    museum.do("ida", lambda act: dispatches.make(act, coil, soon, name="Ropes of the week"))


def _written_inside(museum: Museum, dispatch: str) -> None:
    """An exhibition and the menu that leads to it, changed where nobody sees it before the season opens; it waits for review."""

    def write(named: str, title: str) -> None:
        uuid = museum.ids[named]

        def do(act: Act) -> None:
            strand = gathering.write_in(act, dispatch, uuid, "en")
            base = entries.base_now(act, uuid, "en", strand)
            entries.save(act, uuid, "en", {"title": title}, base, "For the opening", strand)

        museum.do("wim", do)

    write("Boats of the Harbour", "Boats of the Harbour, open again")
    write("Access", "Access, with the new ramp")
    museum.do("wim", lambda act: reviewing.ask(act, dispatch, "The hall, and the way to it."))
    asked = "Both together, please: nobody should find the hall open and the way to it closed."
    said = museum.do("rhea", lambda act: comments.make_on_dispatch(act, dispatch, asked))
    museum.do("wim", lambda act: comments.reply(act, said, "That is why they are in one dispatch."))


def _longer_winter(museum: Museum, at: datetime) -> None:
    """A date that readers will see from another day on, signed off and planned."""
    hours = museum.ids["Winter opening hours"]
    until = f"{at + timedelta(days=30):%Y-%m-%d}"
    request = MoveRequest(hours, "en", "set", payload={"fields": {"until": until}})
    about = About("Winter lasts longer", "The quay is not lit before April.", owner="ida")
    made = museum.do("wim", lambda act: gathering.start(act, about, [request]))
    museum.do("tomas", lambda act: reviewing.sign(act, made))
    when = When(wall=f"{at:%Y-%m-%d}T07:00", zone="Europe/London")
    museum.do("ida", lambda act: dispatches.plan(act, made, when))


def _season(museum: Museum, at: datetime) -> None:
    """A season that opens in every language at once, with its line in the menu, which is written inside it."""
    texts = copy.deepcopy(PAGES.season)
    title = texts["en"]["title"]
    museum.start("wim", "page", {**texts["en"], "below": museum.ids["Visit"]})
    for locale in texts:
        if locale != "en":
            museum.save("ida", title, texts[locale], "Translated", locale)
    requests = [MoveRequest(museum.ids[title], locale) for locale in texts]
    about = About("Evenings on the quay", "The page and the line in the menu, on one day.", owner="ida")
    made = museum.do("oda", lambda act: gathering.start(act, about, requests))
    menu = museum.ids["Main menu"]

    def lead_there(act: Act) -> None:
        strand = gathering.write_in(act, made, menu, "en")
        items = show.entry(act, menu, "en", strand)["fields"]["items"]
        fields = {"label": "Evenings", "to": {"href": f"urn:uuid:{museum.ids[title]}"}}
        items = [*items, {"id": "evenings", "kind": "item", "fields": fields}]
        entries.save(act, menu, "en", {"items": items}, entries.base_now(act, menu, "en", strand), "", strand)

    museum.do("ida", lead_there)
    museum.do("oda", lambda act: reviewing.ask(act, made, "All five, please, and the menu."))
    museum.do("tomas", lambda act: reviewing.sign(act, made, note="Read in all five."))
    when = When(wall=f"{at:%Y-%m-%d}T08:00", zone="Europe/London")
    museum.do("ida", lambda act: dispatches.plan(act, made, when))


def _archived(museum: Museum) -> None:
    """Something that is over, and kept."""
    fields = {
        "title": "Summer fair on the quay",
        "body": "<p>Stalls, a brass band, and the ferry at half price.</p>",
    }
    fair = museum.do("wim", lambda act: entries.start(act, "notice", "en", fields))
    museum.ids["Summer fair on the quay"] = fair
    museum.do("wim", lambda act: dispatches.make(act, [MoveRequest(fair, "en", "archive")]))


def _one_a_day(museum: Museum, first: datetime) -> None:
    """Ten notes that go out one a day, but on Mondays, when the museum is closed."""
    titles = [note["title"] for note in NEWS.series]

    def write(act: Act) -> list[str]:
        return [entries.start(act, "note", "en", dict(note)) for note in NEWS.series]

    uuids = museum.do("wim", write)
    museum.ids |= dict(zip(titles, uuids, strict=True))

    def submit(act: Act) -> None:
        for uuid in uuids:
            review.submit(act, uuid, "en")

    def sign(act: Act) -> None:
        for uuid in uuids:
            review.sign_off(act, uuid, "en", 1)

    museum.do("wim", submit)
    museum.do("tomas", sign)
    wanted = Spread(f"{first:%Y-%m-%d}T08:00", "Europe/London", "FREQ=WEEKLY;BYDAY=TU,WE,TH,FR,SA,SU")
    requests = [MoveRequest(uuid, "en") for uuid in uuids]
    museum.do("ida", lambda act: spreading.plan(act, requests, wanted, name="A note a day"))


def _quiet(museum: Museum, ahead: datetime) -> None:
    """A night in which nothing goes out, and the same each year over the holidays."""
    night, zone = ahead + timedelta(days=4), "Europe/London"
    from_, until = (
        f"{day:%Y-%m-%d}T{hour}" for day, hour in ((night, "22:00"), (night + timedelta(days=1), "06:00"))
    )
    move = Times(from_, until, zone, "", "The site moves to another machine.")
    holidays = Times(
        f"{ahead:%Y}-12-24T18:00", f"{ahead:%Y}-12-27T08:00", zone, "FREQ=YEARLY", "Nobody is in."
    )
    museum.do("ida", lambda act: [quiet_periods.add(act, times) for times in (move, holidays)])


def _planned(museum: Museum, move: MoveRequest, at: datetime, name: str) -> None:
    when = When(wall=at.strftime("%Y-%m-%dT%H:00"), zone="Europe/London")
    museum.do("ida", lambda act: dispatches.make(act, [move], when, name=name))
