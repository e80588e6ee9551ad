"""How the route of a request is found: by how its path begins, and never another than the first that is for it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from starlette.routing import BaseRoute, Match

from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.service.app import create_app
from hawthorn.service.routing import Shortcut
from hawthorn.service.settings import Settings
from tests.service.made import House, serving


@pytest.fixture(scope="module")
def routes(tmp_path_factory: pytest.TempPathFactory) -> Iterator[list[BaseRoute]]:
    app = create_app(Settings(file=tmp_path_factory.mktemp("routes") / "house.sqlite", followers=False))
    yield app.router.routes
    app.state.desk.db.close()


def scope_of(method: str, path: str) -> dict[str, Any]:
    return {"type": "http", "method": method, "path": path, "headers": [], "query_string": b""}


def in_turn(routes: list[BaseRoute], method: str, path: str) -> BaseRoute | None:
    """The first route that is for a request, each tried in turn."""
    return next((route for route in routes if route.matches(scope_of(method, path))[0] == Match.FULL), None)


def at_once(shortcut: Shortcut, method: str, path: str) -> BaseRoute | None:
    """The same as it is found."""
    match, more = shortcut.matches(scope_of(method, path))
    return more[Shortcut.FOUND] if match == Match.FULL else None


PART = st.text("aä-.{}%~1", max_size=5) | st.sampled_from(["api", "read", "entries", "session", "", ".."])
PATHS = st.lists(PART, max_size=5).map(lambda parts: "/" + "/".join(parts))
METHODS = st.sampled_from(["GET", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"])


def test_each_route_is_found_at_its_address_and_is_the_one_that_trying_them_in_turn_finds(
    routes: list[BaseRoute],
) -> None:
    shortcut, rest = routes[0], routes[1:]
    assert isinstance(shortcut, Shortcut)
    found = set[int]()
    for route in rest:
        path = re.sub(r"{\w+(:\w+)?}", "7", getattr(route, "path", ""))
        for method in getattr(route, "methods", None) or {"GET"}:
            wanted = in_turn(rest, method, path)
            assert at_once(shortcut, method, path) is wanted, (method, path)
            found.add(id(wanted))
            # A part more or less is another address, of another route or of none.
            for other in (f"{path}/", f"{path}/x", path.rpartition("/")[0] or "/"):
                assert at_once(shortcut, method, other) is in_turn(rest, method, other), (method, other)
    assert len(found) > 0.9 * len(rest), "some routes are hidden by others at made-up addresses, but few"


@given(method=METHODS, path=PATHS)
@example(method="GET", path="/")
@example(method="GET", path="//api")
@example(method="POST", path="/api")
def test_whatever_is_asked_is_found_as_if_all_were_tried(
    routes: list[BaseRoute], method: str, path: str
) -> None:
    shortcut, rest = routes[0], routes[1:]
    assert isinstance(shortcut, Shortcut)
    assert at_once(shortcut, method, path) is in_turn(rest, method, path)


def test_few_routes_are_tried_for_a_request(routes: list[BaseRoute]) -> None:
    shortcut = routes[0]
    assert isinstance(shortcut, Shortcut)
    assert max(map(len, shortcut._below.values())) < len(routes) / 5


def test_an_id_may_be_written_in_capitals(tmp_path: Path) -> None:
    """As some programs write it (RFC 9562, section 4), to whoever reads and whoever writes."""
    house = House(tmp_path)
    page = house.signed("Lamp")
    house.do("ida", lambda act: dispatches.make(act, [MoveRequest(page, "en")]))
    with serving(house) as (_, url), httpx.Client(base_url=url) as http:
        for id in (page, page.upper()):
            read = http.get(f"/read/entries/{id}", params={"locale": "en"})
            assert (read.status_code, read.json()["id"]) == (200, page)
        wim = {"Authorization": f"Bearer {house.log_in('wim')}"}
        entry = http.get(f"/api/entries/{page.upper()}/en", headers=wim)
        assert entry.json()["id"] == page, entry.text
        saved = http.patch(
            f"/api/entries/{page.upper()}/en",
            headers=wim | {"If-Match": entry.headers["ETag"]},
            json={"fields": {"title": "Lantern"}},
        )
        assert saved.status_code == 200, saved.text
    house.close()
