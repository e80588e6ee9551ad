"""Rich texts in the form that readers ask for: wherever they lie in a body, with links that lead where they should, under ETags of their own."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.client import Client
from hawthorn.operations.content import changing, entries
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from tests.service.made import House, serving

TITLE = {"name": "title", "kind": "line", "required": True}
BODY = {"name": "body", "kind": "rich"}
COMMON = {"name": "hours", "label": "Hours", "common": True, "workflow": "short", "fields": [TITLE, BODY]}
LEAF: dict[str, Any] = {
    "name": "leaf",
    "label": "Leaf",
    "page": True,
    "workflow": "short",
    "fields": [
        TITLE,
        {"name": "slug", "kind": "slug"},
        BODY,
        {"name": "facts", "kind": "group", "many": True, "fields": [{"name": "fact", "kind": "rich"}]},
        {
            "name": "parts",
            "kind": "blocks",
            "blocks": [{"name": "quote", "fields": [{"name": "said", "kind": "rich"}]}],
        },
        {"name": "hours", "kind": "reference", "types": ["hours"]},
    ],
}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    for kind in (COMMON, LEAF):
        made.do("ida", lambda a, k=kind: changing.define_type(a, k))
    yield made
    made.close()


def out(house: House, type: str, **fields: Any) -> str:
    uuid: str = house.do("ida", lambda a: entries.start(a, type, "en", fields))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en", "release")]))
    return uuid


def test_texts_are_read_in_the_form_that_is_asked_for(house: House) -> None:
    hours = out(house, "hours", title="Hours", body="<p>Open <em>daily</em>.</p>")
    there = out(house, "leaf", title="There", slug="there")
    one = out(
        house,
        "leaf",
        title="Here",
        slug="here",
        body=f'<p>First.</p><hr class="opening"><p>See <a href="urn:uuid:{there}">there</a> &amp; <strong>stay</strong>.</p>',
        facts=[{"id": "aaaaaaaa", "fields": {"fact": "<ul><li>a</li></ul>"}}],
        parts=[{"id": "bbbbbbbb", "kind": "quote", "fields": {"said": "<p>1*2</p>"}}],
        hours=hours,
    )
    with serving(house) as (_, url), Client(url) as client:
        path = client.read(there).path
        html = client.read(one)
        assert "<strong>stay</strong>" in html.fields["body"]
        for found in (
            client.read(one, texts="markdown"),
            client.read_page(str(html.path), texts="markdown"),
            client.read_entries(ids=[one], texts="markdown").items[0],
            client.read_questions({"q": {"ids": [one], "texts": "markdown"}}).answers["q"]["items"][0],
        ):
            body = found if isinstance(found, dict) else found.model_dump()
            assert body["fields"]["body"] == f"First.\n\nSee [there]({path}) \\& **stay**."
            assert body["openings"] == {"body": "First."}
            assert body["fields"]["facts"][0]["fields"]["fact"] == "- a"
            assert body["fields"]["parts"][0]["fields"]["said"] == "1\\*2"
            assert body["references"][hours]["fields"]["body"] == "Open *daily*."
        parts = client.read(one, texts="paragraphs")
        assert [p["text"] for p in parts.fields["body"]] == ["First.", "See there & stay."]
        assert parts.fields["facts"][0]["fields"]["fact"] == [
            {"tag": "li", "within": ["ul"], "html": "a", "text": "a"}
        ]
        first = httpx.get(f"{url}/read/entries/{one}")
        second = httpx.get(f"{url}/read/entries/{one}?texts=markdown")
        assert first.headers["etag"] != second.headers["etag"]
        had = httpx.get(
            f"{url}/read/entries/{one}?texts=markdown", headers={"If-None-Match": second.headers["etag"]}
        )
        assert had.status_code == 304
        other = httpx.get(
            f"{url}/read/entries/{one}?texts=html", headers={"If-None-Match": second.headers["etag"]}
        )
        assert other.status_code == 200
        assert other.json() == first.json()
        assert httpx.get(f"{url}/read/entries/{one}?texts=word").status_code == 422
