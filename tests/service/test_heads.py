"""What a page says of itself in its head, read by a program that knows linked data and nothing of us."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from pyld import jsonld

from hawthorn.client import Client, Refusal
from hawthorn.core.errors import Invalid
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import limiting, page_addresses
from hawthorn.operations.media import files
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.store import definitions
from tests.service.made import House, serving
from tests.service.test_files import picture
from tests.service.test_limited import key

HOME = "https://museum.example"
TITLE = {"name": "title", "kind": "line", "required": True}
SLUG = {"name": "slug", "kind": "slug", "follows": "title", "required": True}
GUEST = {
    "name": "guest",
    "label": "Guest",
    "workflow": "short",
    "schema_type": "Person",
    "fields": [TITLE, SLUG, {"name": "born", "kind": "number", "schema_property": "birthDate"}],
}
SHOT = {
    "name": "shot",
    "label": "Shot",
    "workflow": "short",
    "fields": [
        TITLE,
        {"name": "file", "kind": "file", "shared": True},
        {"name": "alt", "kind": "line", "counts_as_alt": True},
    ],
}
TALK: dict[str, Any] = {
    "name": "lecture",
    "label": "Lecture",
    "workflow": "short",
    "meta_description": "summary",
    "search_picture": "photo",
    "schema_type": "Event",
    "fields": [
        TITLE,
        SLUG,
        {"name": "summary", "kind": "text"},
        {"name": "body", "kind": "rich", "schema_property": "abstract"},
        {"name": "photo", "kind": "reference", "types": ["shot"], "shared": True},
        {
            "name": "guests",
            "kind": "reference",
            "many": True,
            "types": ["guest"],
            "shared": True,
            "schema_property": "performer",
        },
        {"name": "begins", "kind": "instant", "shared": True, "schema_property": "startDate"},
        {"name": "where", "kind": "place", "shared": True, "schema_property": "location"},
        {"name": "words", "kind": "tags", "schema_property": "keywords"},
        {"name": "free", "kind": "boolean", "shared": True, "schema_property": "isAccessibleForFree"},
        {"name": "note", "kind": "line", "public": False},
    ],
}
SITES = [{"name": "live", "label": "The museum", "addresses": {"*": f"{HOME}/{{path}}"}}]
WHEN = {"wall": "2027-03-01T19:00:00", "zone": "Europe/London"}
S = "https://schema.org/"


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    for kind in (GUEST, SHOT, TALK):
        made.do("ida", lambda a, k=kind: changing.define_type(a, k))
    made.do("ida", lambda a: page_addresses.define(a, SITES))
    yield made
    made.close()


def out(house: House, type: str, title: str, **fields: Any) -> str:
    uuid: str = house.do("ida", lambda a: entries.start(a, type, "en", {"title": title, **fields}))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en")]))
    return uuid


def understood(data: dict[str, Any]) -> dict[str, Any]:
    """Linked data as any program has it that knows the standard: whole names, and nothing that is in no vocabulary."""

    def context(address: str, _: Any) -> dict[str, Any]:
        # Where the vocabulary is fetched from; every word of it stands for itself.
        assert address == "https://schema.org"
        return {"document": {"@context": {"@vocab": S}}, "documentUrl": address, "contextUrl": None}

    (node,) = jsonld.expand(data, {"documentLoader": context})
    return dict(node)


def value(node: dict[str, Any], name: str) -> Any:
    (one,) = node[S + name]
    return one.get("@value", one)


def test_programs_understand_what_a_page_says_of_itself(house: House) -> None:
    photo = house.do("wim", lambda a: files.keep(a, files.inspect("p.png", picture("PNG"))))
    shot = out(house, "shot", "The hall", file=photo, alt="A lit hall")
    edith, gone = out(house, "guest", "Edith Marlowe", born=1961), out(house, "guest", "Not out")
    uuid = out(
        house, "lecture", "Bells", summary="In fog.", body="<p>On <b>bells</b> &amp; fog.</p>", photo=shot,
        guests=[edith, gone], begins=WHEN, where={"latitude": 54.5, "longitude": -1.25}, words=["fog", "night"],
        free=True, note="Not for readers",
    )  # fmt: skip
    house.do(
        "ida", lambda a: entries.save(a, uuid, "fr", {"title": "Cloches"}, entries.base_now(a, uuid, "fr"))
    )
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "fr")]))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(gone, "en", "withdraw")]))
    with serving(house) as (_, url), Client(url) as client:
        head = client.read_head(uuid, locale="en")
        assert (head.title, head.description, head.index) == ("Bells", "In fog.", True)
        assert head.address == f"{HOME}/en/bells"
        assert {(a.locale, a.address) for a in head.alternates} == {
            ("en", f"{HOME}/en/bells"),
            ("fr", f"{HOME}/fr/cloches"),
        }
        shown = {one.property: one.content for one in head.open_graph}
        image = f"{HOME}/read/files/{photo['sha256']}/share-1200x630-50-50.png"
        assert shown == {
            "og:type": "website", "og:title": "Bells", "og:url": head.address, "og:description": "In fog.",
            "og:site_name": "The museum", "og:locale": "en", "og:locale:alternate": "fr", "og:image": image,
            "og:image:width": "60", "og:image:height": "32", "og:image:alt": "A lit hall",
        }  # fmt: skip
        node = understood(head.linked_data)
        assert (node["@id"], node["@type"]) == (f"{HOME}/en/bells", [S + "Event"])
        assert value(node, "startDate") == "2027-03-01T19:00:00Z"
        assert value(node, "abstract") == "On bells & fog."
        assert value(node, "isAccessibleForFree") is True
        assert [one["@value"] for one in node[S + "keywords"]] == ["fog", "night"]
        geo = value(value(node, "location"), "geo")
        assert (value(geo, "latitude"), value(geo, "longitude")) == (54.5, -1.25)
        # Who is not out is not told of.
        performer = value(node, "performer")
        assert (performer["@id"], performer["@type"]) == (f"{HOME}/en/edith-marlowe", [S + "Person"])
        assert value(node, "image") == image
        assert "Not for readers" not in head.model_dump_json()
        # A year is a date, and dates are text.
        assert value(understood(client.read_head(edith).linked_data), "birthDate") == "1961"
        other = client.read_head(uuid, locale="fr")
        assert (other.address, other.linked_data["inLanguage"]) == (f"{HOME}/fr/cloches", "fr")


def test_what_is_said_follows_types_and_sites_and_is_asked_for_again_only_then(house: House) -> None:
    uuid = out(house, "lecture", "Bells")
    with serving(house) as (_, url):
        first = httpx.get(f"{url}/read/entries/{uuid}/head")
        known = {"If-None-Match": first.headers["etag"]}
        assert httpx.get(f"{url}/read/entries/{uuid}/head", headers=known).status_code == 304
        house.do("ida", lambda a: changing.define_type(a, {**TALK, "schema_type": "NewsArticle"}))
        again = httpx.get(f"{url}/read/entries/{uuid}/head", headers=known)
        assert again.status_code == 200
        said = {one["property"]: one["content"] for one in again.json()["open_graph"]}
        assert said["og:type"] == "article"
        assert said["article:published_time"] == again.json()["linked_data"]["datePublished"]
        moved = [{**SITES[0], "addresses": {"*": "https://new.example/{path}"}}]
        house.do("ida", lambda a: page_addresses.define(a, moved))
        assert (
            httpx.get(f"{url}/read/entries/{uuid}/head").json()["address"] == "https://new.example/en/bells"
        )


def test_without_a_site_there_are_no_addresses_and_of_several_one_is_named(house: House) -> None:
    uuid = out(house, "lecture", "Bells")
    with serving(house) as (_, url), Client(url) as client:
        other = {"name": "club", "addresses": {"*": "https://club.example/{path}"}}
        house.do("ida", lambda a: page_addresses.define(a, [*SITES, other]))
        with pytest.raises(Refusal) as refused:
            client.read_head(uuid)
        assert refused.value.problem.status == 422
        assert {"live", "club"} <= set(refused.value.problem.remedy.replace(",", " ").split())
        assert client.read_head(uuid, site="club").address == "https://club.example/en/bells"
        with pytest.raises(Refusal) as refused:
            client.read_head(uuid, site="nowhere")
        assert refused.value.problem.status == 404
        house.do("ida", lambda a: page_addresses.define(a, [{**SITES[0], "stage": "draft"}]))
        head = client.read_head(uuid)
        assert (head.address, head.alternates, "url" in head.linked_data) == ("", [], False)
        understood(head.linked_data)


def test_of_locked_entries_and_drafts_no_more_is_told_than_of_their_pages(house: House) -> None:
    uuid = out(house, "lecture", "Bells", summary="In fog.", words=["fog"])
    phrase = limiting.phrase_hash("The lamp room at nine")
    house.do("ida", lambda a: limiting.limit(a, uuid, "locked", [], phrase))
    draft = house.do("ida", lambda a: entries.start(a, "lecture", "en", {"title": "Later"}))
    secret = key(house, stages=("draft",))
    with serving(house) as (_, url), Client(url) as client, Client(url, key=secret) as drafts:
        shut = client.read_head(uuid)
        assert (shut.title, shut.description) == ("Bells", "")
        assert value(understood(shut.linked_data), "isAccessibleForFree") is False
        assert "fog" not in shut.model_dump_json()
        with pytest.raises(Refusal):
            client.read_head(draft)
        seen = drafts.read_head(draft, stage="draft")
        assert (seen.title, seen.index) == ("Later", False)
        house.do("ida", lambda a: limiting.limit(a, uuid, "hidden", ["friends"], ""))
        assert httpx.get(f"{url}/read/entries/{uuid}/head").status_code == 404


@pytest.mark.parametrize(
    ("change", "where"),
    [
        ({"schema_type": "event"}, "schema_type"),
        ({"schema_type": 7}, "schema_type"),
        ({"fields": [TITLE, {"name": "a", "kind": "line", "schema_property": "Start date"}]}, "fields.a"),
        ({"fields": [TITLE, {**SLUG, "schema_property": "url"}]}, "fields.slug"),
        ({"fields": [TITLE, {"name": "a", "kind": "line", "public": False, "schema_property": "x1"}]}, "fields.a"),
        (
            {"fields": [TITLE, {"name": "g", "kind": "group", "fields": [{"name": "a", "kind": "line", "schema_property": "name"}]}]},
            "fields.g",
        ),
    ],
)  # fmt: skip
def test_only_what_readers_get_is_given_a_name_for_programs(
    house: House, change: dict[str, Any], where: str
) -> None:
    with pytest.raises(Invalid) as refused:
        house.do(
            "ida",
            lambda a: changing.define_type(
                a, {**TALK, "meta_description": "", "search_picture": "", **change}
            ),
        )
    assert any(one.where.startswith(where) for one in refused.value.facts["problems"])
    with house.desk.db.read() as conn:
        assert definitions.types(conn)["lecture"].schema_type == "Event"
