"""A directory provisions people and groups (SCIM 2.0): what it says becomes so at once, whole or not at all, and nothing else."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.client import Client
from hawthorn.core.provider import Claims, Rules
from hawthorn.operations.access import provider
from hawthorn.operations.exchange import rights
from hawthorn.service.provider import Provider
from hawthorn.service.settings import Settings
from tests.service.made import House, serving

KEY = "a key of the directory"
ROLES = {"desk": ["writer:en", "staff"], "eds": ["reviewer"], "all": ["writer"], "heads": ["managing-editor"]}
USER = "urn:ietf:params:scim:schemas:core:2.0:User"
GROUP = "urn:ietf:params:scim:schemas:core:2.0:Group"
PATCH = "urn:ietf:params:scim:api:messages:2.0:PatchOp"


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


class Scim:
    """The directory, as it speaks."""

    def __init__(self, url: str, key: str = KEY) -> None:
        shown = {"Authorization": f"Bearer {key}"} if key else {}
        self.http = httpx.Client(base_url=f"{url}/scim/v2", headers=shown, timeout=60)

    def ask(self, method: str, path: str, body: Any = None, status: int = 200) -> dict[str, Any]:
        answer = self.http.request(method, path, json=body)
        assert answer.status_code == status, answer.text
        if not answer.content:
            return {}
        assert answer.headers["content-type"] == "application/scim+json"
        found: dict[str, Any] = answer.json()
        if status >= 400:
            assert found["schemas"] == ["urn:ietf:params:scim:api:messages:2.0:Error"]
            assert found["status"] == str(status)
            assert found["detail"]
        return found

    def make(self, name: str, status: int = 201, **more: Any) -> dict[str, Any]:
        mail = f"{name}@directory.example"
        body = {
            "schemas": [USER],
            "userName": mail,
            "displayName": name.title(),
            "emails": [{"value": mail, "primary": True}],
        }
        return self.ask("POST", "/Users", body | more, status)

    def group(self, name: str, *members: str, status: int = 201) -> dict[str, Any]:
        put = [{"value": one} for one in members]
        return self.ask("POST", "/Groups", {"schemas": [GROUP], "displayName": name, "members": put}, status)

    def patch(self, path: str, *operations: Any, status: int = 200) -> dict[str, Any]:
        return self.ask("PATCH", path, {"schemas": [PATCH], "Operations": list(operations)}, status)

    def find(self, kind: str, sentence: str) -> list[dict[str, Any]]:
        answer = self.http.get(f"/{kind}", params={"filter": sentence})
        assert answer.status_code == 200, answer.text
        found: list[dict[str, Any]] = answer.json()["Resources"]
        return found


@pytest.fixture
def at(house: House) -> Iterator[tuple[Scim, str]]:
    with serving(house, directory_key=KEY, provider_roles=ROLES) as (_, url):
        made = Scim(url)
        yield made, url
        made.http.close()


def held(house: House, id: str) -> dict[str, list[str]]:
    """The roles of somebody, each with its locales."""
    with house.desk.db.read() as conn:
        rows = conn.execute("SELECT role, locales FROM holding WHERE actor = ?", (int(id),)).fetchall()
    return {row[0]: row[1] for row in rows}


def test_somebody_is_made_changed_let_go_and_brought_back(house: House, at: tuple[Scim, str]) -> None:
    scim, _ = at
    una = scim.make("una", externalId="u-17")
    path = f"/Users/{una['id']}"
    assert una["active"] is True
    assert una["meta"]["location"].endswith(path)
    assert scim.find("Users", 'userName eq "UNA@directory.example"') == [scim.ask("GET", path)]
    assert scim.find("Users", 'externalId eq "u-17" and active eq true')[0]["id"] == una["id"]
    assert scim.find("Users", 'externalId eq "U-17"') == []
    group = scim.group("desk", una["id"])
    assert held(house, una["id"]) == {"writer": '["en"]', "staff": "[]"}
    assert scim.ask("GET", path)["groups"][0]["value"] == group["id"]
    changed = scim.patch(
        path,
        {"op": "replace", "path": "name.formatted", "value": "Una Berg"},
        {"op": "replace", "path": "emails[primary eq true].value", "value": "berg@directory.example"},
        {"op": "add", "path": "timezone", "value": "Europe/Oslo"},
    )
    assert (changed["displayName"], changed["timezone"]) == ("Una Berg", "Europe/Oslo")
    assert changed["emails"][0]["value"] == "berg@directory.example"
    assert changed["meta"]["lastModified"] > changed["meta"]["created"]
    # One and the same word, as several directories say it.
    for gone, back in (
        (
            {"op": "Replace", "path": "active", "value": "False"},
            {"op": "Replace", "path": "active", "value": "True"},
        ),
        ({"op": "replace", "value": {"active": False}}, {"op": "replace", "value": {"active": True}}),
    ):
        assert scim.patch(path, gone)["active"] is False
        assert held(house, una["id"]) == {}
        assert scim.patch(path, back)["active"] is True
        assert held(house, una["id"]) == {"writer": '["en"]', "staff": "[]"}
    scim.ask("PUT", path, {"schemas": [USER], "userName": "una", "displayName": "Una", "active": False})
    assert scim.ask("GET", path)["active"] is False
    scim.ask("DELETE", path, status=204)
    scim.ask("GET", path, status=404)
    again = scim.make("una")
    assert again["id"] != una["id"]
    kinds = house.desk.db
    with kinds.read() as conn:
        told = [
            row[0]
            for row in conn.execute(
                "SELECT kind FROM event WHERE kind LIKE 'person.%' ORDER BY seq"
            ).fetchall()
        ]
    assert told.count("person.left") == 3
    assert told.count("person.returned") == 2


def test_roles_follow_the_groups_and_no_others(house: House, at: tuple[Scim, str]) -> None:
    scim, _ = at
    ada, bea = scim.make("ada")["id"], scim.make("bea")["id"]
    desk, everywhere = scim.group("desk", ada, bea), scim.group("all", ada)
    scim.group("choir", ada)
    # A role from two groups holds as widely as the wider gives it.
    assert held(house, ada) == {"writer": "[]", "staff": "[]"}
    scim.patch(f"/Groups/{everywhere['id']}", {"op": "remove", "path": f'members[value eq "{ada}"]'})
    assert held(house, ada) == {"writer": '["en"]', "staff": "[]"}
    # What the house gave by hand stays.
    house.desk.db.write(
        lambda conn: conn.execute(
            "INSERT INTO holding (actor, role) VALUES (?, 'release-editor')", (int(bea),)
        )
    )
    scim.patch(f"/Groups/{desk['id']}", {"op": "replace", "path": "members", "value": [{"value": ada}]})
    assert held(house, bea) == {"release-editor": "[]"}
    # Renamed, it gives other roles.
    scim.patch(f"/Groups/{desk['id']}", {"op": "replace", "value": {"displayName": "eds"}})
    assert held(house, ada) == {"reviewer": "[]"}
    scim.ask("DELETE", f"/Groups/{desk['id']}", status=204)
    assert held(house, ada) == {}
    assert [one["displayName"] for one in scim.ask("GET", "/Groups")["Resources"]] == ["all", "choir"]


def test_what_is_refused_changes_nothing(house: House, at: tuple[Scim, str]) -> None:
    scim, _ = at
    una = scim.make("una")
    before = scim.ask("GET", "/Users"), scim.ask("GET", "/Groups"), house.desk.db
    with house.desk.db.read() as conn:
        events = conn.execute("SELECT max(seq) FROM event").fetchone()[0]
    path = f"/Users/{una['id']}"
    wrong: list[tuple[str, str, Any, int]] = [
        ("POST", "/Users", {"schemas": [USER], "userName": "una@directory.example"}, 409),
        ("POST", "/Users", {"schemas": [USER], "userName": ""}, 400),
        ("POST", "/Users", {"schemas": [USER]}, 400),
        ("POST", "/Users", {"schemas": [USER], "userName": "x" * 3000}, 400),
        ("POST", "/Users", {"schemas": [USER], "userName": "a\u202eb"}, 400),
        ("POST", "/Users", {"schemas": [USER], "userName": "ben", "emails": [{"value": "no address"}]}, 400),
        ("POST", "/Users", {"schemas": [USER], "userName": "ben", "timezone": "Nowhere/Town"}, 400),
        ("POST", "/Users", [], 400),
        ("POST", "/Users", 5, 400),
        ("POST", "/Groups", {"schemas": [GROUP], "displayName": "desk", "members": [{"value": "999"}]}, 400),
        ("POST", "/Groups", {"schemas": [GROUP], "displayName": "desk", "members": [{"value": "x"}]}, 400),
        ("PATCH", path, {"schemas": [PATCH], "Operations": [
            {"op": "replace", "path": "displayName", "value": "Half"}, {"op": "replace", "path": "emails", "value": 5}]}, 400),
        ("PATCH", path, {"schemas": [PATCH], "Operations": [{"op": "replace", "path": "id", "value": "7"}]}, 400),
        ("PATCH", path, {"schemas": [PATCH], "Operations": [{"op": "replace", "path": "userName", "value": "wim"}, {"op": "x"}]}, 400),
        ("PATCH", path, {"schemas": [PATCH], "Operations": [{"op": "remove", "path": "userName"}]}, 400),
        ("PATCH", "/Users/1", {"schemas": [PATCH], "Operations": [{"op": "replace", "path": "active", "value": False}]}, 404),
        ("PUT", "/Users/999", {"schemas": [USER], "userName": "zed"}, 404),
        ("DELETE", "/Users/999", None, 404),
        ("DELETE", "/Groups/999", None, 404),
        ("GET", "/Users/" + "9" * 40, None, 404),
        ("GET", "/Users?filter=userName%20zz", None, 400),
        ("GET", "/Users?sortBy=nothing", None, 400),
        ("GET", "/Nothing", None, 404),
        ("POST", "/Bulk", {}, 404),
    ]  # fmt: skip
    for method, where, body, status in wrong:
        scim.ask(method, where, body, status)
    assert (scim.ask("GET", "/Users"), scim.ask("GET", "/Groups")) == before[:2]
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT max(seq) FROM event").fetchone()[0] == events
    answer = scim.http.post("/Users", content=b"{", headers={"Content-Type": "application/scim+json"})
    assert (answer.status_code, answer.json()["scimType"]) == (400, "invalidSyntax")
    # Nobody would be left who can set up.
    ida = scim.find("Users", 'userName eq "ida"')[0]
    scim.patch(f"/Users/{ida['id']}", {"op": "replace", "path": "active", "value": False}, status=409)
    assert scim.ask("GET", f"/Users/{ida['id']}")["active"] is True


def test_only_whoever_has_the_key_is_told_anything(house: House, at: tuple[Scim, str]) -> None:
    _, url = at
    for key in ("", "wrong", KEY + "x", KEY[:-1]):
        other = Scim(url, key)
        for method, path in (
            ("GET", "/Users"),
            ("POST", "/Users"),
            ("GET", "/ServiceProviderConfig"),
            ("GET", "/x"),
        ):
            found = other.http.request(method, path, json={})
            assert found.status_code == 401
            assert found.headers["www-authenticate"] == "Bearer"
        other.http.close()
    with Client(url) as client:
        client.log_in("ida", "long enough")
        token = client._http.headers["Authorization"]
        assert httpx.get(f"{url}/scim/v2/Users", headers={"Authorization": token}).status_code == 401
        # Nor does its key open anything else.
        assert httpx.get(f"{url}/api/people", headers={"Authorization": f"Bearer {KEY}"}).status_code == 401
    with serving(house) as (_, without):
        assert httpx.get(f"{without}/scim/v2/Users", headers={"Authorization": "Bearer x"}).status_code == 404


def test_one_who_is_here_is_known_by_their_address_and_nobody_is_made_twice(
    house: House, at: tuple[Scim, str]
) -> None:
    scim, url = at
    wim = house.who("wim").id
    made = scim.ask(
        "POST",
        "/Users",
        {
            "schemas": [USER],
            "userName": "w.aster",
            "displayName": "Wim Aster",
            "emails": [{"value": "WIM@x.example"}],
        },
        201,
    )
    assert made["id"] == str(wim)
    assert made["userName"] == "w.aster"
    results: list[int] = []

    def come() -> None:
        one = Scim(url)
        body = {"schemas": [USER], "userName": "twin@directory.example", "displayName": "Twin"}
        results.append(one.http.post("/Users", json=body).status_code)
        one.http.close()

    coming = [threading.Thread(target=come) for _ in range(6)]
    for one in coming:
        one.start()
    for one in coming:
        one.join(60)
    assert sorted(results) == [201] + [409] * 5
    with Client(url) as client:
        client.log_in("wim", "long enough")
        scim.patch(f"/Users/{wim}", {"op": "replace", "path": "active", "value": False})
        assert client._http.get("/api/me").status_code == 401
    house.do("ida", lambda act: rights.forget(act, "wim"))
    assert scim.find("Users", 'userName eq "w.aster"') == []


def test_where_a_directory_says_what_people_are_a_log_in_changes_nothing_of_it(
    house: House, at: tuple[Scim, str]
) -> None:
    scim, _ = at
    una = scim.make("una")
    scim.group("desk", una["id"])
    settings = Settings(
        file=house.path, provider="https://accounts.example", provider_roles=ROLES, provider_makes=True
    )
    alone, beside = Provider(settings), Provider(settings.model_copy(update={"directory_key": KEY}))
    assert (alone.rules.makes, alone.rules.roles) == (True, ROLES)
    assert beside.rules == Rules(False, True, {})
    claims = Claims(
        "https://accounts.example",
        "s1",
        "Una",
        email="una@directory.example",
        email_verified=True,
        groups=("heads",),
    )
    came = house.by_scheduler(lambda act: provider.arrive(act, claims, beside.rules))
    assert came.token
    assert str(came.person.id) == una["id"]
    assert held(house, una["id"]) == {"writer": '["en"]', "staff": "[]"}


def test_pages_and_order_of_a_long_list(house: House, at: tuple[Scim, str]) -> None:
    scim, _ = at
    for n in range(12):
        scim.make(f"p{n:02}")
    whole = scim.ask("GET", "/Users?sortBy=userName&sortOrder=descending&count=100")
    names = [one["userName"] for one in whole["Resources"]]
    assert names == sorted(names, reverse=True, key=str.casefold)
    found: list[str] = []
    start = 1
    while len(found) < whole["totalResults"]:
        page = scim.ask("GET", f"/Users?sortBy=userName&sortOrder=descending&count=5&startIndex={start}")
        assert page["totalResults"] == whole["totalResults"]
        found += [one["userName"] for one in page["Resources"]]
        start += page["itemsPerPage"]
    assert found == names
    for count in ("0", "-3"):
        assert scim.ask("GET", f"/Users?count={count}")["Resources"] == []
    about = scim.ask("GET", "/ServiceProviderConfig")
    assert about["patch"]["supported"] is True
    assert {one["name"] for one in scim.ask("GET", "/ResourceTypes")["Resources"]} == {"User", "Group"}
    assert scim.ask("GET", f"/Schemas/{USER}")["id"] == USER
    scim.ask("GET", "/Schemas/nothing", status=404)
