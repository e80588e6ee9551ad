"""Fills a record file with the museum: the way people would, by the same operations, over the last weeks."""

from __future__ import annotations

import copy
import secrets
from collections.abc import Callable
from datetime import timedelta
from typing import Any, TypeVar

from hawthorn.core import timeline
from hawthorn.core.access import Identity
from hawthorn.core.timeline import SECOND
from hawthorn.core.translation.offers import Offer
from hawthorn.demo import announced, archive, assisted, dispatched, drawing, museum, together, translated
from hawthorn.demo.calendar import Calendar
from hawthorn.demo.offers import BY_FILES, CALLED, offered
from hawthorn.followers.connectors.http import offer_of
from hawthorn.messages import WORDS
from hawthorn.operations.access import logging_in, people, permission
from hawthorn.operations.content import changing, entries, templates
from hawthorn.operations.delivery import outline, page_addresses, previews
from hawthorn.operations.delivery.previews import LinkWish
from hawthorn.operations.delivery.webhooks import new_secret
from hawthorn.operations.media import files, library
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import SCHEDULER, Act, setup_changed
from hawthorn.operations.runtime.bootstrap import found
from hawthorn.operations.search import lists
from hawthorn.operations.translation import bureaus, coverage
from hawthorn.operations.translation.bureaus import BureauDetails
from hawthorn.operations.views import assembled
from hawthorn.store import definitions as definition_store
from hawthorn.store import entries as entry_store
from hawthorn.store import people as people_store
from hawthorn.store import reviews
from hawthorn.store.database import Database

T = TypeVar("T")


class Museum:
    """Seeds a new record file, with the months before the story where the `whole` is wanted; the site is told at an address of
    what `changed`, and somebody who waits which part is `reached`."""

    def __init__(
        self,
        db: Database,
        now: int,
        bureau_url: str,
        sites: list[dict[str, Any]],
        changed: str,
        whole: bool = False,
        reached: Callable[[str], None] = lambda part: None,
    ) -> None:
        self.now = now
        self.reached = reached
        self.whole = whole
        self.begins = now - 24 * 86400 * SECOND
        before = archive.WEEKS * archive.WEEK if whole else 0
        self.clock = Calendar(self.begins - before, now - 40 * 60 * SECOND)
        self.desk = assembled.desk(db, self.clock, WORDS)
        self.bureau, self.bureau_url = CALLED, bureau_url
        self.sites = sites
        self.changed = changed
        self.ids: dict[str, str] = {}
        self.pause: dict[str, float] = {"hours": 4}
        """What passes after an act where nothing else is said."""
        self._known: dict[str, Identity] = {}

    def seed(self) -> dict[str, Any]:
        """Do all of it; returns the keys for the public site, its preview and the bureau, by name."""
        self.reached("people, types and pictures")
        found(self.desk)
        coverage.catch_up(self.desk)
        self._people()
        self._types()
        keys = self._keys()
        keys["assistant"] = assisted.key(self)
        keys["bureau"] = self._bureaus()
        self._pictures()
        self._shared()
        if self.whole:
            archive.fill(self)
            self.clock.at = max(self.clock.at, self.begins)
        self.reached("the last weeks")
        self._labels()
        self._notices()
        self._more()
        together.overdue(self)
        self.reached("translations")
        translated.make(self)
        self._writing()
        self._site()
        together.discussed(self)
        translated.collect(self)
        translated.take_along(self)
        translated.stand(self)
        self.reached("what is planned")
        dispatched.plan(self)
        announced.limited(self)
        assisted.draft(self)
        keys["webhook"] = dispatched.tell(self, self.changed)
        return keys

    def who(self, handle: str) -> Identity:
        """Somebody by handle; what they may do stays what it was at first."""
        if handle not in self._known:
            with self.desk.db.read() as conn:
                row = people_store.by_handle(conn, handle)
                assert row is not None
                self._known[handle] = permission.identity_of(conn, row.id)
        return self._known[handle]

    def do(self, handle: str, act: Callable[[Act], T], **later: float) -> T:
        """Let somebody do something, then let time pass."""
        result = self.desk.write(self.who(handle), act)
        self.clock.later(**(later or self.pause))
        return result

    def day(self, days: int) -> str:
        """The day so many days from now."""
        return (timeline.to_datetime(self.now) + timedelta(days=days)).date().isoformat()

    def _people(self) -> None:
        hashed = logging_in.password_hash(museum.PASSWORD)

        def add(act: Act) -> None:
            for tag, name in museum.HOUSE.locales.items():
                definition_store.add_locale(act.conn, tag, name)
            for handle, name, roles, _ in museum.HOUSE.people:
                made = people_store.add_actor(
                    act.conn,
                    "person",
                    handle,
                    name,
                    f"{handle}@pellgrave.example",
                    hashed,
                    "Europe/London",
                    act.now,
                )
                people_store.hold(act.conn, made, "staff")
                for role in roles:
                    people_store.hold(act.conn, made, role["name"], role.get("locales", ()))
                act.event(
                    "person.added", [], {"handle": handle, "name": name, "roles": [r["name"] for r in roles]}
                )
            helper = people_store.add_actor(
                act.conn, "assistant", "copperleaf", "Copperleaf (assistant)", "", "", "UTC", act.now
            )
            people_store.hold(act.conn, helper, "assistant", ["en"])
            setup_changed(act)

        with self.desk.db.read() as conn:
            scheduler = permission.identity_of(conn, SCHEDULER)
        self.desk.write(scheduler, add)

    def _types(self) -> None:
        for definition in museum.SETS:
            self.do("ida", lambda act, d=definition: changing.define_set(act, d), minutes=2)  # type: ignore[misc]
        for definition in museum.TYPES:
            self.do("ida", lambda act, d=definition: changing.define_type(act, d), minutes=2)  # type: ignore[misc]

    def _bureaus(self) -> dict[str, str]:
        """One that is called, and one that works on files in a folder; returns the key and the secret of the first."""
        given = {"key": secrets.token_urlsafe(24), "secret": new_secret()}
        codes = {"ja": "ja-JP", "fr": "fr-FR"}
        called = BureauDetails(CALLED, self.bureau_url, codes, given["key"], secret=given["secret"])
        self.do("ida", lambda act: bureaus.add(act, called, offer_of(offered())))
        self.do(
            "ida",
            lambda act: bureaus.add(act, BureauDetails(BY_FILES, "quill-and-tide", kind="folder"), Offer()),
        )
        return given

    def _keys(self) -> dict[str, Any]:
        return {
            "site": self.do(
                "ida", lambda a: people.issue_key(a, "Public site", "reader", "program", ["release"])[1]
            ),
            "preview": self.do(
                "ida",
                lambda a: people.issue_key(
                    a, "Preview site", "reader", "program", ["draft", "review", "release"]
                )[1],
            ),
        }

    def start(self, handle: str, type: str, fields: dict[str, Any], locale: str = "en") -> str:
        """Start an entry and remember it by its title."""
        uuid = self.do(handle, lambda act: entries.start(act, type, locale, fields))
        self.ids[fields["title"]] = uuid
        return uuid

    def save(
        self, handle: str, title: str, patch: dict[str, Any], note: str = "", locale: str = "en"
    ) -> None:
        """Save over the present draft."""
        uuid = self.ids[title]

        def do(act: Act) -> None:
            row = entry_store.entry(act.conn, uuid)
            assert row is not None
            entries.save(act, uuid, locale, patch, entries.current_base(act, row.id, locale), note)

        self.do(handle, do)

    def submit(self, handle: str, title: str, note: str = "", locale: str = "en") -> None:
        """Submit a draft."""
        self.do(handle, lambda act: review.submit(act, self.ids[title], locale, note), hours=2)

    def sign(self, handle: str, title: str, note: str = "", locale: str = "en") -> None:
        """Sign off what is in review."""
        uuid = self.ids[title]

        def do(act: Act) -> None:
            row = entry_store.entry(act.conn, uuid)
            assert row is not None
            edition = entry_store.edition(act.conn, row.id, locale)
            assert edition is not None
            latest = reviews.latest(act.conn, edition.id)
            assert latest is not None
            review.sign_off(act, uuid, locale, latest.number, note)

        self.do(handle, do, hours=1)

    def release(self, handle: str, *titles: str, locale: str = "en", with_needs: bool = False) -> None:
        """Release entries together."""
        requests = [MoveRequest(self.ids[t], locale) for t in titles]
        self.do(handle, lambda act: dispatches.make(act, requests, with_needs=with_needs), hours=1)

    def _pictures(self) -> None:
        for name, title, alt, credit in museum.COLLECTION.pictures:
            picture = files.inspect(f"{name}.png", drawing.draw(name))
            value = self.do("nell", lambda act, p=picture: files.keep(act, p), minutes=3)  # type: ignore[misc]
            if name in museum.COLLECTION.focus:
                value = {**value, "focus": museum.COLLECTION.focus[name]}
            fields = {"title": title, "alt": alt, "credit": credit, "file": value}
            self.start("nell", "picture", {k: v for k, v in fields.items() if v})
        self.release("ida", *[p[1] for p in museum.COLLECTION.pictures[:4]])

    def picture(self, name: str) -> str:
        """A picture by the name of its drawing."""
        return self.ids[next(p[1] for p in museum.COLLECTION.pictures if p[0] == name)]

    def _shared(self) -> None:
        for title, floor, step_free, body in museum.COLLECTION.galleries:
            self.start(
                "oda", "gallery", {"title": title, "floor": floor, "step_free": step_free, "body": body}
            )
        for title, born, died, life in museum.COLLECTION.makers:
            self.start("nell", "person", {"title": title, "born": born, "died": died, "life": life})
        self.release(
            "jonas",
            *[g[0] for g in museum.COLLECTION.galleries],
            *[m[0] for m in museum.COLLECTION.makers[:2]],
        )

    def _label(self, data: dict[str, Any]) -> dict[str, Any]:
        fields = {k: v for k, v in data.items() if v}
        fields["picture"] = self.picture(data["picture"])
        fields["below"] = self.ids[data["below"]]
        if "maker" in fields:
            fields["maker"] = self.ids[data["maker"]]
        return fields

    def _labels(self) -> None:
        for n, data in enumerate(museum.COLLECTION.labels):
            title = data["title"]
            writer = ("wim", "nell")[n % 2]
            first = {k: v for k, v in self._label(data).items() if k not in ("body", "summary")}
            self.start(writer, "label", first)
            self.save(writer, title, {"body": data["body"].split("</p>")[0] + "</p>"}, "First words")
            self.save(
                writer, title, {"body": data["body"], "summary": data["summary"] or None}, "Measured it again"
            )
        lamp, boat, rope, bell, _ = (x["title"] for x in museum.COLLECTION.labels)
        self.submit("wim", lamp, "Facts are from the keeper's log.")
        self.do(
            "oda",
            lambda act: review.send_back(act, self.ids[lamp], "en", "Please say when it was taken down."),
        )
        body = museum.COLLECTION.labels[0]["body"].replace("1911, when", "the spring of 1911, when")
        self.save("wim", lamp, {"body": body}, "Said when it was taken down")
        self.submit("wim", lamp, "Now with the year.")
        self.sign("oda", lamp, "Good. The second paragraph reads well.")
        self.submit("nell", bell)
        self.sign("rhea", bell, "Dates checked against the register.")
        self.release("jonas", lamp, bell)
        self.clock.later(days=4)
        self.save(
            "wim",
            lamp,
            {"body": body.replace("every evening at dusk", "every evening, an hour before dusk")},
            "Keeper's log, 1843",
        )
        self.submit("nell", boat, "Josef Arrend's page is not out yet.")
        self.submit("wim", rope, "Ready, I think.")
        self.do(
            "oda",
            lambda act: review.send_back(
                act, self.ids[rope], "en", "The sample is gone. Say so, or take the line out."
            ),
        )

    def _notices(self) -> None:
        writers = ("nell", "wim", "nell", "wim")
        for handle, data in zip(writers, museum.NEWS.notices, strict=True):
            fields = dict(data)
            if "gallery" in fields:
                fields["gallery"] = self.ids[fields["gallery"]]
            self.start(handle, "notice", fields)
        winter, lift, regatta, free = (n["title"] for n in museum.NEWS.notices)
        for title, handle in ((winter, "nell"), (regatta, "nell"), (free, "wim")):
            self.submit(handle, title)
            self.sign("tomas", title)
        self.release("ida", winter, free)
        self.submit("wim", lift, "Urgent: the fitters come on Thursday.")

    def _more(self) -> None:
        day = (timeline.to_datetime(self.now) + timedelta(days=20)).date().isoformat()
        for data in museum.NEWS.talks:
            speakers = [self.ids[s] for s in data["speakers"]]
            self.start(
                "wim",
                "talk",
                {
                    "title": data["title"],
                    "body": data["body"],
                    "day": day,
                    **({"speakers": speakers} if speakers else {}),
                },
            )
        for data in museum.NEWS.notes:
            self.start("nell", "note", {**data, "about": [self.ids["The harbour lamp"]]})
        self.start("wim", "label", {"title": "A keeper's oilskin coat"})

    def _topics(self) -> None:
        for name, above in museum.COLLECTION.topics:
            fields = {"title": name, **({"below": self.ids[above]} if above else {})}
            self.do("oda", lambda a, f=fields: self._remember(entries.start(a, "topic", "en", f), f["title"]))  # type: ignore[misc]
        self.release("ida", *[t[0] for t in museum.COLLECTION.topics])
        for title, topics in museum.COLLECTION.about.items():
            self.save("oda", title, {"topics": [self.ids[t] for t in topics]}, "Said what it is about")

    def _remember(self, uuid: str, title: str) -> str:
        self.ids[title] = uuid
        return uuid

    def _writing(self) -> None:
        """Blocks, strands, templates and lists: what people write with."""
        self._topics()
        shown = copy.deepcopy(museum.PAGES.exhibition)
        row = next(b for b in shown["page"] if b["id"] == "row")
        row["fields"]["cells"][0]["fields"]["by"] = self.ids["Edmund Vane"]
        row["fields"]["cells"][1]["fields"]["picture"] = self.picture("bell")
        ahead = timeline.to_datetime(self.now) + timedelta(days=30)
        shown["opens"] = {"wall": ahead.strftime("%Y-%m-%dT10:00"), "zone": "Europe/London"}
        shown["topics"] = [self.ids["Navigation"]]
        self.start("nell", "exhibition", shown)
        announced.exhibitions(self)
        self.save("wim", "The lift is being repaired", {"pinned": True, "working_name": "Lift, second floor"})
        together.forked(self)
        regatta = self.ids["Closed for the regatta"]
        self.do("tomas", lambda a: templates.make(a, regatta, "A day when we are closed"))
        for handle, name, query, shared in museum.DESK.lists:
            asked = {**query, **({"topic": self.ids[query["topic"]]} if "topic" in query else {})}
            self.do(handle, lambda a, n=name, q=asked, s=shared: lists.save(a, n, q, s), minutes=5)  # type: ignore[misc]

    def _site(self) -> None:
        """The site as a tree: a front page with lists, pages in a common frame, a menu, sound, folders, and addresses."""
        self.do("ida", lambda a: page_addresses.define(a, self.sites), minutes=5)
        self._library()
        self.start("ida", "common_block", museum.PAGES.finding_us)
        frame = copy.deepcopy(museum.PAGES.frame)
        frame["foot"][0]["fields"]["block"] = self.ids["How to find us"]
        self.start("ida", "frame", frame)
        front = copy.deepcopy(museum.PAGES.front)
        front["search_picture"] = front["picture"] = self.picture("boat")
        self.start("ida", "front", front)
        top = self.ids["Pellgrave Harbour Museum"]
        for data in copy.deepcopy(museum.PAGES.pages):
            data["below"] = self.ids[data.pop("in")] if "in" in data else top
            if data["title"] == "Visit":
                cells = data["page"][1]["fields"]["columns"]
                cells[1]["fields"]["content"][0]["fields"]["picture"] = self.picture("boat")
            self.start("oda", "page", data)
        for gallery in museum.COLLECTION.galleries:
            self.do("oda", lambda a, g=gallery[0]: outline.move(a, self.ids[g], top), minutes=5)  # type: ignore[misc]
        for handle, title in (
            ("oda", "Pellgrave Harbour Museum"),
            *(("oda", p["title"]) for p in museum.PAGES.pages[:2]),
        ):
            self.submit("ida" if title.startswith("Pell") else handle, title)
            self.sign("tomas", title)
        self._menu()
        going = ["How to find us", "Frame of all pages", "Pellgrave Harbour Museum", "Visit", "With children"]
        self.release(
            "ida", *going, "Main menu", *[g[0] for g in museum.COLLECTION.galleries], with_needs=True
        )
        self.do(
            "nell",
            lambda a: previews.give_link(
                a, LinkWish("entry", self.ids["Access"], name="For the access panel")
            ),
        )
        content = copy.deepcopy(museum.PAGES.finding_us["content"])
        content[0]["fields"]["text"] = content[0]["fields"]["text"].replace(
            "Bus 4 stops", "Buses 4 and 11 stop"
        )
        self.save("nell", "How to find us", {"content": content}, "The new bus")

    def _menu(self) -> None:
        def item(id: str, title: str, label: str, *below: dict[str, Any]) -> dict[str, Any]:
            fields: dict[str, Any] = {"label": label, "to": {"href": f"urn:uuid:{self.ids[title]}"}}
            return {
                "id": id,
                "kind": "item",
                "fields": {**fields, **({"below": list(below)} if below else {})},
            }

        children = item("children", "With children", "With children")
        items = [
            item("visit", "Visit", "Visit", children),
            item("lights", "Lights and Signals", "Lights"),
            item("boats", "Boats of the Harbour", "Boats"),
            item("ropes", "Ropes and Rigging", "Ropes"),
        ]
        self.start("ida", "menu", {"title": "Main menu", "items": items})

    def _library(self) -> None:
        """Sound with captions, and folders for all."""
        sound = files.inspect("fog-bell.wav", drawing.ring())
        kept = self.do("nell", lambda a: files.keep(a, sound), minutes=3)
        words = files.inspect("fog-bell.en.vtt", museum.CAPTIONS.encode())
        captions = self.do("nell", lambda a: files.keep(a, words), minutes=3)
        self.start("nell", "media", {"title": "Rung once, in fog", "file": kept, "captions": captions})
        sheet = files.inspect("on-one-sheet.pdf", drawing.sheet(museum.SHEET))
        leaflet = self.do("nell", lambda a: files.keep(a, sheet), minutes=3)
        self.start("nell", "document", {"title": "The museum on one sheet", "file": leaflet})
        for name, pictures in museum.COLLECTION.folders.items():
            folder = self.do("nell", lambda a, n=name: library.make_folder(a, n), minutes=2)  # type: ignore[misc]
            held = [self.picture(p) for p in pictures]
            self.do("nell", lambda a, h=held, f=folder: library.file_into(a, h, f), minutes=2)  # type: ignore[misc]
