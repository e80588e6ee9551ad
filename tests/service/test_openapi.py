"""The document says everything that crosses HTTP, in words, and what crosses is what it says."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from functools import cache
from typing import Any

import httpx
import jsonschema_rs
import pytest
from pydantic import BaseModel

from hawthorn import wire
from hawthorn.core import access, moves
from hawthorn.core.fields import KINDS
from hawthorn.operations.collaboration import notifications
from hawthorn.service import openapi
from hawthorn.wire import examples, meanings, words
from tests.conftest import Running

DOCUMENT: dict[str, Any] = json.loads(openapi.FILE.read_text("utf-8"))
SCHEMAS: dict[str, Any] = DOCUMENT["components"]["schemas"]
OPERATIONS = {
    o["operationId"]: (method, path, o)
    for path, ways in DOCUMENT["paths"].items()
    for method, o in ways.items()
}


def models() -> dict[str, type[BaseModel]]:
    """Every model of the wire by its name."""
    return {
        name: one
        for part in wire.AREAS
        for name, one in vars(getattr(wire, part)).items()
        if isinstance(one, type) and issubclass(one, BaseModel)
    }


@pytest.mark.parametrize("operation", OPERATIONS)
def test_every_operation_parameter_and_body_is_said_in_words(operation: str) -> None:
    _, _, said = OPERATIONS[operation]
    assert re.search(r"[.:]$", said["description"].strip()), "a whole sentence"
    for parameter in said.get("parameters", ()):
        assert parameter.get("description"), parameter["name"]
    for kind, content in said.get("requestBody", {}).get("content", {}).items():
        name = content["schema"].get("$ref", "").rsplit("/", 1)[-1]
        assert "example" in content or SCHEMAS[name].get("examples"), f"{kind} has no example"


@pytest.mark.parametrize("name", SCHEMAS)
def test_every_member_is_described(name: str) -> None:
    for member, schema in SCHEMAS[name].get("properties", {}).items():
        assert schema.get("description"), f"{name}.{member}"


@pytest.mark.parametrize("name", sorted(set(examples.EXAMPLES) - {"Body_upload_file"}))
def test_every_example_is_a_body_of_its_kind(name: str) -> None:
    models()[name].model_validate(examples.EXAMPLES[name])


def test_nothing_is_described_that_is_not_there() -> None:
    """A name that a message no longer has leaves the table."""
    there = {f"{n}.{m}" for n, s in SCHEMAS.items() for m in s.get("properties", {})}
    plain = {one.split(".", 1)[1] for one in there}
    assert {one for one in meanings.MEANINGS if "." in one} <= there
    assert {one for one in meanings.MEANINGS if "." not in one} <= plain
    assert set(words.ENUMS) <= there
    parameters = {p["name"] for _, _, o in OPERATIONS.values() for p in o.get("parameters", ())}
    assert set(meanings.PARAMETERS) <= parameters
    assert set(examples.EXAMPLES) <= set(SCHEMAS)


def test_enumerations_are_those_of_the_code() -> None:
    assert words.ENUMS["FieldSpec.kind"] == sorted(KINDS)
    assert words.ENUMS["GrantSpec.verb"] == list(access.VERBS)
    assert words.ENUMS["MoveAsk.verb"] == list(moves.ASKED)
    assert words.ENUMS["MoveLine.verb"] == list(moves.VERBS)
    assert words.ENUMS["Me.kind"] == list(access.ACTOR_KINDS)
    assert words.ENUMS["NotificationLine.kind"] == list(notifications.KINDS)
    assert words.ENUMS["NotificationKind.way"] == list(notifications.WAYS)


def lists() -> Iterator[str]:
    for name, (method, _, operation) in OPERATIONS.items():
        answer = operation["responses"].get("200", {}).get("content", {}).get("application/json", {})
        schema = SCHEMAS.get(answer.get("schema", {}).get("$ref", "").rsplit("/", 1)[-1], {})
        if method == "get" and schema.get("properties", {}).get("items", {}).get("type") == "array":
            yield name


# What is short by its nature: the way down to a page, a page's addresses, what a name may mean, what uses a type, a nested tree.
WHOLE = {"outline_trail", "page_addresses", "look_up", "uses_of_type", "read_outline"}


@pytest.mark.parametrize("name", sorted(set(lists()) - WHOLE))
def test_every_list_is_paged_in_one_form(running: Running, name: str) -> None:
    _, path, operation = OPERATIONS[name]
    taken = {p["name"] for p in operation["parameters"]}
    assert {"limit", "cursor"} <= taken
    assert not taken & {"before", "start_at", "page", "offset", "end"}
    if "{" in path:
        return
    with httpx.Client(base_url=running.url, headers=bearer(running)) as http:
        asked = {"words": "the"} if name == "search_outline" else {}
        whole = collected(http, path, asked, 100)
        assert collected(http, path, asked, 2) == whole, "pages hold what the list holds, each once"
        assert http.get(path, params={**asked, "cursor": "nonsense"}).status_code == 422


def collected(http: httpx.Client, path: str, asked: dict[str, str], limit: int) -> list[Any]:
    """The items of all pages, which lead on by `next` and by `Link`."""
    out: list[Any] = []
    answer = http.get(path, params={**asked, "limit": limit})
    while True:
        answer.raise_for_status()
        body = answer.json()
        assert len(body["items"]) <= limit
        out += [
            one.get("id") or one.get("handle") or one.get("seq") or json.dumps(one) for one in body["items"]
        ]
        assert bool(body["next"]) == ("next" in answer.links)
        if not body["next"] or len(out) > 300:
            return out[:300]
        answer = http.get(answer.links["next"]["url"])


def bearer(running: Running) -> dict[str, str]:
    return {"Authorization": f"Bearer {running.as_('ida')._http.headers['authorization'].split()[-1]}"}


def closed(schema: Any) -> Any:
    return {**schema, "components": DOCUMENT["components"]}


@cache
def said_of(name: str, status: int) -> Any:
    """What checks an answer of an operation; None where the document says nothing of it."""
    content = OPERATIONS[name][2]["responses"].get(str(status), {}).get("content", {})
    schema = content.get("application/json", {}).get("schema")
    return None if schema is None else jsonschema_rs.validator_for(closed(schema))


def test_what_the_service_answers_is_what_the_document_says(running: Running) -> None:
    """Every GET over the museum: each state, kind and verb in it is one of those that are said."""
    entries = running.as_("ida").entries(limit=40).items
    jobs = running.as_("ida").jobs().items
    dispatches = running.as_("ida").dispatches().items
    wanted: list[tuple[str, str]] = []
    for name, (method, path, _) in OPERATIONS.items():
        if method != "get" or name in (
            "fetch_file",
            "read_file",
            "read_rendition",
            "follow_changes",
            "stream_events",
        ):
            continue
        filled = [path]
        if path.startswith("/api/jobs/"):
            filled = [path.replace("{id}", one.id) for one in jobs[:6]]
        elif path.startswith("/api/dispatches/"):
            filled = [path.replace("{id}", one.id) for one in dispatches[:6]]
        elif "{id}" in path:
            filled = [path.replace("{id}", one.id).replace("{locale}", one.locale) for one in entries]
        wanted += [
            (name, one.replace("{type}", "topic")) for one in filled if "{" not in one.replace("{type}", "")
        ]
    seen = 0
    with httpx.Client(base_url=running.url, headers=bearer(running), timeout=30) as http:
        for name, path in wanted:
            answer = http.get(
                path,
                params={"words": "the", "text": "the", "person": "wim", "verb": "read"}
                if "?" not in path and name in ("search_outline", "look_up", "why")
                else {},
            )
            said = said_of(name, answer.status_code)
            if said is None:
                continue
            seen += 1
            problems = list(said.iter_errors(answer.json()))
            assert not problems, f"{path}: {[(str(p.instance_path), p.message[:200]) for p in problems[:3]]}"
    assert seen > 150
