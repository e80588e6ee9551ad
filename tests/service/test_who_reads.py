"""Who may read what: every reading call, as people and keys with one narrow grant each, against a few lines that say what
each may see. Every text of every edition and stage holds a word of its own; an answer may hold those alone that may be read."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass, field
from http.client import HTTPConnection
from typing import Any
from urllib.parse import quote, urlencode, urlsplit

import httpx
import pytest

from hawthorn.core.timeline import iso
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import assignments, comments
from hawthorn.operations.content import changing, entries, strands
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.runtime.act import Act, setup_changed
from hawthorn.operations.translation import sending
from hawthorn.operations.translation.orders import Order
from hawthorn.service import openapi
from hawthorn.store import definitions as definition_store
from hawthorn.store import entries as entry_store
from hawthorn.store import people as people_store
from tests.service.made import House, serving

DOCUMENT = json.loads(openapi.FILE.read_text("utf-8"))
FIELDS = [
    {"name": "title", "kind": "line"},
    {"name": "slug", "kind": "slug", "follows": "title"},
    {"name": "inside", "kind": "line", "shared": True},
    {"name": "body", "kind": "rich"},
    {"name": "tags", "kind": "tags", "shared": True},
    {"name": "more", "kind": "reference", "many": True, "shared": True},
    {"name": "below", "kind": "parent", "shared": True},
]
TYPES = [
    {"name": "notice", "label": "Notice", "workflow": "standard", "internal": "inside", "fields": FIELDS},
    {"name": "talk", "label": "Talk", "workflow": "standard", "internal": "inside", "fields": FIELDS},
    {
        "name": "part",
        "label": "Part",
        "workflow": "standard",
        "internal": "inside",
        "section": True,
        "fields": FIELDS,
    },
]
LOCALES = ("en", "fr", "de")


@dataclass
class Text:
    """A word that stands in one place alone, and where that is."""

    entry: str
    type: str
    locale: str
    stage: str
    by: str
    inside: bool = False
    reviewed: bool = False


@dataclass
class World:
    """A house full of texts, with those who read them."""

    house: House
    url: str = ""
    """Where it is served."""
    words: dict[str, Text] = field(default_factory=dict)
    entries: dict[str, tuple[str, tuple[str, ...], str]] = field(default_factory=dict)
    """By UUID the type, the sections that it is in (UUIDs) and the handle of whoever started it."""
    grants: dict[str, dict[str, Any]] = field(default_factory=dict)
    stages: dict[str, list[str]] = field(default_factory=dict)
    tokens: dict[str, str] = field(default_factory=dict)
    ids: dict[str, str] = field(default_factory=dict)

    def word(self, entry: str, type: str, locale: str, stage: str, by: str, inside: bool = False) -> str:
        """A new word for a place."""
        made = f"zq{len(self.words):03d}x"
        self.words[made] = Text(entry, type, locale, stage, by, inside)
        return made

    # What follows is the rule once more, in other words than the service's.

    def may(self, who: str, entry: str, locale: str, stage: str) -> bool:
        """Whether somebody may read an edition at a stage."""
        if stage == "release":
            return True
        type, sections, by = self.entries[entry]
        if who in self.stages and stage not in self.stages[who]:
            return False
        grant = self.grants[who]
        return (
            type in grant.get("types", [type])
            and locale in grant.get("locales", [locale])
            and (not grant.get("sections") or bool({entry, *sections} & set(grant["sections"])))
            and stage in grant.get("stages", [stage])
            and (not grant.get("own") or by == who)
        )

    def sees(self, who: str, word: str) -> bool:
        """Whether a word may reach somebody."""
        text = self.words[word]
        if text.inside:
            return any(self.may(who, text.entry, t, "draft") for t in self.locales_of(text.entry))
        stages = [text.stage, *(["review"] if text.reviewed else [])]
        return any(self.may(who, text.entry, text.locale, stage) for stage in stages)

    def locales_of(self, entry: str) -> set[str]:
        """The locales in which an entry has an edition."""
        return {t.locale for t in self.words.values() if t.entry == entry and t.locale != "*"}

    def knows(self, who: str, entry: str) -> bool:
        """Whether somebody may know of an entry at all."""
        out = any(t.stage == "release" for t in self.words.values() if t.entry == entry)
        return (
            out
            or any(self.may(who, entry, t, "draft") for t in self.locales_of(entry))
            or any(
                x.reviewed and self.may(who, entry, x.locale, "review")
                for x in self.words.values()
                if x.entry == entry
            )
        )


def write(world: World, type: str, by: str, locales: tuple[str, ...], *, out: bool, below: str = "") -> str:
    """An entry with a word of its own in every edition, and other words in what is out."""
    house = world.house
    uuid = house.do(by, lambda a: entries.start(a, type, "en", {}))
    world.entries[uuid] = (type, (below, *world.entries[below][1]) if below else (), by)

    def put(locale: str, stage: str) -> None:
        def save(act: Act) -> None:
            base = entries.current_base(
                act, act.conn.execute("SELECT id FROM entry WHERE uuid = ?", (uuid,)).fetchone()[0], locale
            )
            fields: dict[str, Any] = {
                "title": f"Named {world.word(uuid, type, locale, stage, by)}",
                "body": f"<p>Says {world.word(uuid, type, locale, stage, by)}.</p>",
            }
            if locale == "en":
                fields["inside"] = world.word(uuid, type, "*", "draft", by, inside=True)
                fields["below"] = below
            entries.save(act, uuid, locale, fields, base)

        house.do(by, save)

    if out:
        put("en", "release")
        house.do(by, lambda a: review.submit(a, uuid, "en"))
        house.do("oda", lambda a: review.sign_off(a, uuid, "en", entries_number(a, uuid)))
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en")]))
        # What was said inside at release is said there still; only the newest of it is looked for.
    for locale in locales:
        put(locale, "draft")
    return uuid


def entries_number(act: Act, uuid: str) -> int:
    return int(
        act.conn.execute(
            "SELECT max(r.number) FROM revision r JOIN edition d ON d.id = r.edition AND d.locale = 'en' "
            "JOIN entry e ON e.id = d.entry WHERE e.uuid = ?",
            (uuid,),
        ).fetchone()[0]
    )


GRANTS: dict[str, dict[str, Any]] = {
    "all": {},
    "notices": {"types": ["notice"]},
    "talks": {"types": ["talk"]},
    "french": {"locales": ["fr"]},
    "german": {"locales": ["de"]},
    "english": {"locales": ["en"]},
    "frenchnotices": {"types": ["notice"], "locales": ["fr"]},
    "published": {"stages": ["release"]},
    "reviewing": {"stages": ["review"]},
    "mine": {"own": True},
    "quay": {"sections": ["quay"]},
    "shedgerman": {"sections": ["shed"], "locales": ["de"]},
}
"""What each person may read; sections by name."""
KEYS = {"site": ["release"], "proof": ["review", "release"], "preview": ["draft", "release"]}
"""The stages of each key."""


@pytest.fixture(scope="module")
def world(tmp_path_factory: pytest.TempPathFactory) -> Iterator[World]:
    made = furnished(House(tmp_path_factory.mktemp("reads")), GRANTS, KEYS)
    with serving(made.house) as (_, made.url):
        yield made
    made.house.close()


def furnished(house: House, grants: dict[str, dict[str, Any]], keys: dict[str, list[str]]) -> World:
    """A house with a text in every place, and those who read it."""
    made = World(house)

    def prepare(act: Act) -> None:
        for tag in LOCALES[1:]:
            definition_store.add_locale(act.conn, tag, tag)
        setup_changed(act)
        for one in TYPES:
            changing.define_type(act, one)
        people_store.set_role(
            act.conn, "own", "own", [{"verb": v, "own": True} for v in ("read", "write", "submit")]
        )
        people.add_person(act, "olu", "Olu", "olu@x.example", "long enough", [{"name": "own"}])

    house.do("ida", prepare)
    quay = write(made, "part", "wim", ("en", "fr"), out=False)
    shed = write(made, "part", "wim", ("en",), out=False, below=quay)
    notice = write(made, "notice", "wim", LOCALES, out=False)
    notice_out = write(made, "notice", "wim", ("en", "fr"), out=True)
    talk = write(made, "talk", "wim", ("en", "de"), out=False, below=shed)
    quayside = write(made, "notice", "wim", ("en", "fr"), out=False, below=quay)
    talk_out = write(made, "talk", "wim", ("en",), out=True)
    own = write(made, "notice", "olu", ("en",), out=False)
    everything = [quay, shed, notice, notice_out, talk, quayside, talk_out, own]
    for one in everything:
        others = [u for u in everything if u != one]
        house.do("ida", lambda a, o=one, m=others: _relate(a, o, m))  # type: ignore[misc]
    for uuid, locale in ((notice, "en"), (talk, "de"), (notice_out, "fr")):
        by = made.entries[uuid][2]
        said = made.word(uuid, made.entries[uuid][0], locale, "draft", by)
        house.do("ida", lambda a, u=uuid, t=locale, s=said: comments.make(a, u, t, f"Commented {s}"))  # type: ignore[misc]
    house.do(
        "ida",
        lambda a: assignments.assign(
            a, notice, "en", "oda", "", made.word(notice, "notice", "en", "draft", "wim")
        ),
    )
    house.do("wim", lambda a: strands.fork(a, notice, "en", "beside"))
    house.do(
        "wim", lambda a: review.submit(a, notice, "en", made.word(notice, "notice", "en", "draft", "wim"))
    )
    house.do("wim", lambda a: review.submit(a, talk, "de"))
    for text in made.words.values():
        text.reviewed = (text.entry, text.locale) in ((notice, "en"), (talk, "de"))
    soon = When(instant=iso(house.clock.at + 3_600_000_000))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(talk_out, "en", "withdraw")], soon))
    job = house.do("ida", lambda a: sending.commission(a, Order((notice,), ("fr", "de"))))
    with house.desk.db.read() as conn:
        made.ids = {
            "commission": job,
            "job": conn.execute("SELECT uuid FROM job LIMIT 1").fetchone()[0],
            "dispatch": conn.execute("SELECT uuid FROM dispatch WHERE state = 'planned'").fetchone()[0],
            "strand": "beside",
        }
    parts = {"quay": quay, "shed": shed}
    for name, grant in grants.items():
        if "sections" in grant:
            grant = {**grant, "sections": [parts[s] for s in grant["sections"]]}
        made.grants[name] = grant
        kept = [{"verb": "read", **grant}]
        if "sections" in grant:
            with house.desk.db.read() as conn:
                numbers = [entry_store.entry(conn, s).id for s in grant["sections"]]  # type: ignore[union-attr]
            kept[0]["sections"] = numbers

        def add(act: Act, name: str = name, kept: list[dict[str, Any]] = kept) -> str:
            people_store.set_role(act.conn, name, name, kept)
            people.add_person(act, name, name.title(), f"{name}@x.example", "long enough", [{"name": name}])
            return ""

        house.do("ida", add)
        made.tokens[name] = house.log_in(name)
    for name, stages in keys.items():
        made.grants[name], made.stages[name] = {}, stages
        made.tokens[name] = house.do(
            "ida",
            lambda a, n=name, s=stages: people.issue_key(a, n, "reader", "program", s)[1],  # type: ignore[misc]
        )
    return made


def _relate(act: Act, uuid: str, others: list[str]) -> None:
    base = entries.current_base(
        act, act.conn.execute("SELECT id FROM entry WHERE uuid = ?", (uuid,)).fetchone()[0], "en"
    )
    entries.save(act, uuid, "en", {"more": others, "tags": ["tagged"]}, base)


def calls(world: World) -> Iterator[tuple[str, dict[str, str]]]:
    """Every reading call about everything there is."""
    for path, methods in DOCUMENT["paths"].items():
        operation = methods.get("get")
        if operation is None or path == "/events" or "changes" in path:
            continue
        names = {p["name"] for p in operation.get("parameters", ()) if p["in"] == "query"}
        about: list[str] = [""]
        if "{id}" in path or "entry" in names:
            about = [*world.entries] if "/jobs" not in path and "/dispatches" not in path else [""]
        for uuid in about:
            for locale in LOCALES if "{locale}" in path or "locale" in names else ("",):
                target = (
                    path.replace("{id}", uuid or world.ids["job" if "/jobs" in path else "dispatch"])
                    .replace("{locale}", locale)
                    .replace("{name}", "beside" if "strand" in path else "notice")
                    .replace("{path}", f"{locale or 'en'}/nothing")
                    .replace("{handle}", "wim")
                    .replace("{sha256}", "0" * 64)
                    .replace("{type}", "notice")
                    .replace("{token}", "x")
                )
                asked = {"words": "Says", "text": "Named", "verb": "read", "person": "wim", "handle": "wim"}
                params = {k: v for k, v in asked.items() if k in names and k != "person"}
                if "entry" in names and uuid:
                    params["entry"] = uuid
                if "locale" in names and locale:
                    params["locale"] = locale
                yield target, params
                if path.startswith("/api/entries") and "words" in names:
                    yield target, {k: v for k, v in params.items() if k != "words"}
                for stage in ("draft", "review", "release") if "stage" in names else ():
                    yield target, {**params, "stage": stage}
                if "compare" in path:
                    for one in ("draft", "release", "1", "draft@en", "1@en"):
                        yield target, {"before": "1", "after": one}


WORD = re.compile(r"zq\d{3}x")
UUID = re.compile(r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}")


@pytest.mark.parametrize("who", [*GRANTS, *KEYS])
def test_nobody_is_answered_more_than_they_may_read(world: World, who: str) -> None:
    assert no_more(world, who) > 20


class Asking:
    """Asks again and again over one connection: tens of thousands of questions are asked, and a client that does more costs more than
    the answers."""

    def __init__(self, url: str, token: str) -> None:
        self.token = token
        self._http = HTTPConnection(urlsplit(url).netloc, timeout=30)

    def get(self, path: str, params: dict[str, str], *, known: bool = True) -> tuple[int, str]:
        """The status and the text of an answer, to somebody known or to anybody."""
        target = f"{quote(path, safe='/:')}?{urlencode(params)}" if params else quote(path, safe="/:")
        headers = {"Authorization": f"Bearer {self.token}"} if known else {}
        self._http.request("GET", target, headers=headers)
        answer = self._http.getresponse()
        return answer.status, answer.read().decode("utf-8", "replace")

    def close(self) -> None:
        """Hang up."""
        self._http.close()


def no_more(world: World, who: str) -> int:
    """Ask everything as somebody; how often there was an answer. Fails where one tells what they may not read."""
    answered = 0
    headers = {"Authorization": f"Bearer {world.tokens[who]}"}
    with httpx.Client(base_url=world.url, headers=headers) as http:
        all_calls = [*calls(world)]
        asked = [*all_calls]
        for standing in ("draft", "review"):
            pane = http.post("/api/previews", json={"stage": standing})
            if pane.is_success:
                # What a preview shows is what whoever opened it may read, and whoever has its address.
                word = pane.json()["token"]
                reads = [(p, {k: v for k, v in q.items() if k != "stage"}) for p, q in all_calls]
                through = [(p, {**q, "preview": word}) for p, q in reads if p.startswith("/read/")]
                # Without the stage some are the same.
                asked += {(p, *sorted(q.items())): (p, q) for p, q in through}.values()
    with closing(Asking(world.url, world.tokens[who])) as asking:
        for path, params in asked:
            status, text = asking.get(path, params, known="preview" not in params)
            assert status < 500, (path, params, text)
            told = {w for w in WORD.findall(text) if not world.sees(who, w)}
            assert not told, (path, params, {w: world.words[w] for w in told}, text[:2000])
            answered += status < 300
            for uuid in named_by(path, text) if status < 300 else ():
                assert uuid not in world.entries or world.knows(who, uuid), (path, params, uuid)
    return answered


def named_by(path: str, text: str) -> set[str]:
    """The ids that an answer names as those of what may be known. References say by id what they lead to, whatever it is; what shows no fields names
    nothing that may not be known, and a list lists nothing of that kind."""
    if path == "/api/entries":
        return {one["id"] for one in json.loads(text)["items"]}
    shown = path.startswith(("/api/dispatches", "/api/jobs", "/api/my-work", "/api/outline"))
    return set(UUID.findall(text)) if shown else set()


@pytest.mark.parametrize("who", ["all", "notices", "french", "english", "mine", "quay", "preview"])
def test_nobody_is_answered_less_than_they_may_read(world: World, who: str) -> None:
    no_less(world, who)


def no_less(world: World, who: str) -> None:
    """Look for all that somebody may read; fails where it is not shown."""
    seen: set[str] = set()
    with closing(Asking(world.url, world.tokens[who])) as asking:
        for uuid in world.entries:
            for locale in LOCALES:
                for path, params in (
                    (f"/api/entries/{uuid}/{locale}", {}),
                    (f"/api/entries/{uuid}/{locale}/comments", {}),
                    (f"/api/entries/{uuid}/{locale}/history", {}),
                    (f"/read/entries/{uuid}", {"locale": locale}),
                    (f"/read/entries/{uuid}", {"locale": locale, "stage": "draft"}),
                ):
                    seen |= set(WORD.findall(asking.get(path, params)[1]))
        lists = {
            "/api/entries": asking.get("/api/entries", {"limit": "100"})[1]
            + "".join(asking.get("/api/entries", {"limit": "100", "locale": t})[1] for t in LOCALES),
            "/read/entries": "".join(
                asking.get("/read/entries", {"stage": "draft", "limit": "100", "locale": t})[1]
                for t in LOCALES
            ),
        }
    newest = {}
    for word, text in world.words.items():
        # What is said at review alone is told where it is shown there, which has no list of all its words.
        here = text.inside or world.may(who, text.entry, text.locale, "draft")
        if here and world.sees(who, word) and text.stage == "draft":
            newest[(text.entry, text.locale)] = word
    for (entry, locale), word in newest.items():
        assert word in seen, (entry, locale, word)
        if locale != "*":
            assert [n for n, listed in lists.items() if entry not in listed] == [], (
                world.entries[entry],
                locale,
            )


def test_the_stream_names_no_entry_that_may_not_be_known(world: World) -> None:
    from hawthorn.operations.collaboration import news

    for who in world.tokens:
        with world.house.desk.db.read() as conn:
            from hawthorn.operations.access import logging_in

            identity = logging_in.identify(conn, world.house.clock.at, world.tokens[who])
        found = world.house.desk.read(identity, lambda v: news.read(v, 0, 10_000))
        for _, told in news.for_events(found, identity):
            for uuid in told["entries"]:
                locales = told["locales"] or world.locales_of(uuid)
                assert any(world.may(who, uuid, t, "draft") for t in locales if t != "*") or "*" in locales, (
                    who,
                    told,
                )
