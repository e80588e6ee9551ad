"""What addresses and methods answer: the console's own pages and no others, HEAD wherever GET is, and changes only with a base."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from hawthorn.service import console
from tests.service.made import House, serving
from tests.service.test_limits import token

ROUTER = Path(__file__).parents[2] / "console" / "src" / "router.ts"


@pytest.fixture(scope="module")
def http(tmp_path_factory: pytest.TempPathFactory) -> Iterator[httpx.Client]:
    house = House(tmp_path_factory.mktemp("addresses"))
    house.page("Lamp")
    mine = token(house)
    with serving(house) as (_, url), httpx.Client(base_url=url) as made:
        made.headers["Authorization"] = f"Bearer {mine}"
        yield made
    house.close()


def test_the_service_knows_the_pages_of_the_router() -> None:
    found = re.findall(r'^  "/([^"]*)":', ROUTER.read_text("utf-8"), re.MULTILINE)
    assert {*found, "invitation", "log-in", "welcome"} == set(console.PAGES)


@pytest.mark.parametrize(
    "path", ["/metric", "/admin", "/entries/x/en/more", "/.env", "/api/nothing", "/timetable/a/b"]
)
def test_what_is_nobodys_address_is_not_there(http: httpx.Client, path: str) -> None:
    answer = http.get(path)
    assert (answer.status_code, answer.headers["content-type"]) == (404, "application/problem+json")
    assert answer.json()["code"] == "service.nothing_at"
    assert path in answer.json()["detail"]
    assert http.get(path, headers={"Accept": "text/html"}).status_code == 404


@pytest.mark.parametrize(
    "path", ["/", "/entries", "/entries/x/en/strands/late/proposal", "/set-up/log", "/invitation"]
)
def test_pages_of_the_console_are_there(http: httpx.Client, path: str) -> None:
    answer = http.get(path)
    assert (answer.status_code, answer.headers["content-type"].split(";")[0]) == (200, "text/html")


@pytest.mark.parametrize(
    "path", ["/", "/api/health", "/api/entries", "/read/entries", "/api/openapi.json", "/metric"]
)
def test_head_answers_as_get_without_content(http: httpx.Client, path: str) -> None:
    whole, bare = http.get(path), http.head(path)
    assert bare.status_code == whole.status_code
    assert bare.content == b""
    for name in ("content-type", "content-length", "etag"):
        assert bare.headers.get(name) == whole.headers.get(name)


def test_a_save_says_what_it_is_based_on_or_that_it_does_not_matter(http: httpx.Client) -> None:
    at = f"/api/entries/{http.get('/api/entries').json()['items'][0]['id']}/en"
    refused = http.patch(at, json={"fields": {"title": "A"}})
    assert (refused.status_code, refused.json()["type"]) == (428, "urn:hawthorn:problem:base-needed")
    tag = http.get(at).headers["etag"]
    for title, match in (("A", tag), ("B", "*"), ("C", "*")):
        saved = http.patch(at, json={"fields": {"title": title}}, headers={"If-Match": match})
        assert (saved.status_code, saved.json()["entry"]["fields"]["title"]) == (200, title)
    assert http.patch(at, json={"fields": {"title": "D"}}, headers={"If-Match": tag}).status_code == 412


@pytest.mark.parametrize(
    "asked", [{"type": "nosuch"}, {"locale": "xx"}, {"person": "nobody"}, {"stage": "nowhere"}]
)
def test_a_list_of_what_there_is_not_is_refused_rather_than_empty(
    http: httpx.Client, asked: dict[str, str]
) -> None:
    answer = http.get("/api/entries", params=asked)
    assert answer.status_code == 422
    assert next(iter(asked.values())) in answer.json()["detail"]
    assert answer.json()["remedy"]
