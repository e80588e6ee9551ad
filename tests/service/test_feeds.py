"""Feeds, the map of a site and its redirects, read by programs that know nothing of us; complete, and only of what is out."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import feedparser
import httpx
import pytest
from lxml import etree

from hawthorn.client import Client
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import feeds, page_addresses
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from tests.service.made import House, serving

HOME = "https://museum.example"
MAP = {"m": "http://www.sitemaps.org/schemas/sitemap/0.9", "x": "http://www.w3.org/1999/xhtml"}
STORY = {
    "name": "story",
    "label": "Story",
    "workflow": "short",
    "meta_description": "summary",
    "fields": [
        {"name": "title", "kind": "line", "required": True, "filter": True},
        {"name": "slug", "kind": "slug", "follows": "title", "required": True},
        {"name": "summary", "kind": "text"},
        {"name": "body", "kind": "rich"},
        {"name": "words", "kind": "tags", "filter": True},
    ],
}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    made.do("ida", lambda a: changing.define_type(a, STORY))
    sites = [
        {"name": "live", "label": "The museum", "addresses": {"*": f"{HOME}/{{path}}"}},
        {"name": "preview", "stage": "draft", "addresses": {"*": f"{HOME}/preview/{{path}}"}},
    ]
    made.do("ida", lambda a: page_addresses.define(a, sites))
    yield made
    made.close()


def release(house: House, uuid: str, locale: str = "en", verb: str = "release") -> None:
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, locale, verb)]))


def out(house: House, title: str, **fields: Any) -> str:
    uuid: str = house.do("ida", lambda a: entries.start(a, "story", "en", {"title": title, **fields}))
    release(house, uuid)
    return uuid


def save(house: House, uuid: str, locale: str = "en", **fields: Any) -> None:
    house.do("ida", lambda a: entries.save(a, uuid, locale, fields, entries.base_now(a, uuid, locale)))
    release(house, uuid, locale)


def test_a_feed_is_read_by_others_and_chosen_as_lists_are(house: House) -> None:
    bell = out(house, "The fog bell", words=["fog"])
    body = f'<p>See <a href="urn:uuid:{bell}">the bell</a> &amp; more\u0301.</p>'
    lamp = out(
        house,
        "Lamp < & \u0645\u0635\u0628\u0627\u062d",
        summary="It burned.",
        body=body,
        words=["Lamps", "night"],
    )
    house.do("ida", lambda a: entries.start(a, "story", "en", {"title": "Only a draft"}))
    with serving(house) as (_, url), Client(url) as client:
        found = feedparser.parse(client.read_atom("live", type="story"))
        assert (found.bozo, found.version, found.feed.title) == (False, "atom10", "The museum")
        assert [one.title for one in found.entries] == [
            "Lamp < & \u0645\u0635\u0628\u0627\u062d",
            "The fog bell",
        ]
        first = found.entries[0]
        assert first.id == f"urn:uuid:{lamp}"
        assert first.link.startswith(f"{HOME}/en/lamp")
        assert first.summary == "It burned."
        assert f'href="{HOME}/en/the-fog-bell"' in first.content[0].value
        assert [tag.term for tag in first.tags] == ["Lamps", "night"]
        assert first.published
        one = feedparser.parse(client.read_atom("live", type="story", limit=1))
        after = next(link.href for link in one.feed.links if link.rel == "next")
        assert [e.title for e in feedparser.parse(httpx.get(after).content).entries] == ["The fog bell"]
        some = feedparser.parse(client.read_atom("live", where={"words": "FOG"}))
        assert [e.title for e in some.entries] == ["The fog bell"]
        said = httpx.get(f"{url}/feeds/live/json?type=story").json()
        assert said["version"] == "https://jsonfeed.org/version/1.1"
        assert [(i["id"], i["language"]) for i in said["items"]] == [
            (f"urn:uuid:{u}", "en") for u in (lamp, bell)
        ]
        assert said["items"][0]["tags"] == ["Lamps", "night"]
        answer = httpx.get(f"{url}/feeds/live/atom")
        had = httpx.get(f"{url}/feeds/live/atom", headers={"If-None-Match": answer.headers["etag"]})
        assert had.status_code == 304
        for wrong, status in (
            ("nothing/atom", 404),
            ("preview/atom", 404),
            ("live/atom?where.secret=x", 422),
            ("live/atom?cursor=AAAA", 422),
            ("live/atom?nothing=x", 422),
            ("live/sitemap-999999.xml", 200),
            ("live/sitemap-x.xml", 422),
        ):
            assert httpx.get(f"{url}/feeds/{wrong}").status_code == status, wrong


def test_the_map_has_every_page_once_in_each_language_and_nothing_else(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    # As if there were many.
    monkeypatch.setattr(feeds, "AT_ONCE", 3)
    made = [out(house, f"Story {n}") for n in range(8)]
    for uuid in made[:2]:
        save(house, uuid, "fr", title=f"Récit {made.index(uuid)}")
    release(house, made[7], verb="withdraw")
    house.do("ida", lambda a: entries.start(a, "story", "en", {"title": "Only a draft"}))
    with serving(house) as (_, url), Client(url) as client:
        index = etree.fromstring(client.read_site_map("live"))
        parts = index.xpath("m:sitemap/m:loc/text()", namespaces=MAP)
        assert len(parts) > 1
        assert all(index.xpath("m:sitemap/m:lastmod/text()", namespaces=MAP))
        pages: dict[str, dict[str, str]] = {}
        for part in parts:
            assert part.startswith(f"{HOME}/sitemap-")
            root = etree.fromstring(
                client.read_site_map_part("live", int(part.split("-")[-1].removesuffix(".xml")))
            )
            for node in root.xpath("m:url", namespaces=MAP):
                address = node.xpath("string(m:loc)", namespaces=MAP)
                assert address not in pages
                pages[address] = {
                    link.get("hreflang"): link.get("href") for link in node.xpath("x:link", namespaces=MAP)
                }
        english = {f"{HOME}/en/story-{n}" for n in range(7)}
        french = {f"{HOME}/fr/recit-{n}" for n in range(2)}
        assert set(pages) == english | french
        both = {"en": f"{HOME}/en/story-0", "fr": f"{HOME}/fr/recit-0"}
        assert pages[both["en"]] == pages[both["fr"]] == both
        assert pages[f"{HOME}/en/story-5"] == {}
        robots = client.read_robots("live").decode()
        assert f"Sitemap: {HOME}/sitemap.xml" in robots


def test_old_addresses_lead_to_the_new_ones_as_the_service_itself_leads(house: House) -> None:
    lamp, gone = out(house, "Lamp"), out(house, "Gone")
    save(house, lamp, slug="harbour-lamp")
    save(house, lamp, slug="lamp, of the harbour".replace(" ", "-"))
    save(house, gone, slug="gone-for-good")
    release(house, gone, verb="withdraw")
    other = out(house, "Rope")
    save(house, other, slug="rope-2")
    again = out(house, "Rope")
    assert again != other
    with serving(house) as (_, url), Client(url) as client:
        rows = list(csv.reader(io.StringIO(client.read_redirects("live").decode(), newline="")))
        assert rows[0] == ["from", "to"]
        found = dict(rows[1:])
        now = f"{HOME}/en/lamp%2C-of-the-harbour"
        assert found == {f"{HOME}/en/lamp": now, f"{HOME}/en/harbour-lamp": now}
        for old, new in found.items():
            led = httpx.get(f"{url}/read/pages{old.removeprefix(HOME)}")
            assert (led.status_code, led.headers["location"]) == (
                301,
                f"/read/pages{new.removeprefix(HOME)}".replace("%2C", ","),
            )
