"""An assistant's acts over the Model Context Protocol, against the same acts by the client."""

from __future__ import annotations

import time
from pathlib import Path

import anyio
import httpx2
from mcp import Client as Assistant
from mcp.client.streamable_http import streamable_http_client

from benchmarks import made
from benchmarks.figures import Figure, free_port, interleaved, service, serving
from hawthorn.client import Client
from hawthorn.operations.access import people

ROUNDS = 5
SAVES = 8


def figure_assistant(folder: Path) -> dict[str, Figure]:
    """Ten acts: an entry is started, changed eight times and commented on, each answered before the next; with the one log-in or key that each has."""
    path = folder / "assisted.sqlite"
    desk = made.open_desk(path)
    _, key = desk.write(
        made.somebody(desk, "oda"),
        lambda act: people.issue_key(act, "Helper", "assistant", "assistant", ["draft", "review", "release"]),
    )
    desk.db.close()
    port = free_port()
    url = f"http://127.0.0.1:{port}"

    def by_client() -> float:
        with Client(url, key) as client:
            client.me()
            begun = time.perf_counter()
            entry = client.start("page", {"title": "A page"})
            for n in range(SAVES):
                entry = client.save(entry.id, "en", {"title": f"A page {n}"}, etag=entry.etag).entry
            client.comment(entry.id, "en", "Done.")
            return time.perf_counter() - begun

    async def over_protocol() -> float:
        headers = {"Authorization": f"Bearer {key}"}
        async with (
            httpx2.AsyncClient(headers=headers, timeout=60) as http,
            Assistant(streamable_http_client(f"{url}/agent", http_client=http)) as client,
        ):
            await client.call_tool("who_am_i", {})
            begun = time.perf_counter()
            answer = await client.call_tool("start_entry", {"type": "page", "fields": {"title": "A page"}})
            for n in range(SAVES):
                entry = answer.structured_content["entry"]  # type: ignore[index]
                named = {"id": entry["id"], "locale": "en", "etag": entry["etag"]}
                answer = await client.call_tool("change_entry", {**named, "fields": {"title": f"A page {n}"}})
                assert not answer.is_error, answer.content
            await client.call_tool("comment", {"id": entry["id"], "locale": "en", "text": "Done."})
            return time.perf_counter() - begun

    with serving((service(path, port), port, "/api/health")):
        by_client()
        anyio.run(over_protocol)
        ours, least = interleaved(lambda: anyio.run(over_protocol), by_client, ROUNDS)
    return {
        "ten acts of an assistant over the protocol ÷ by the client": Figure(
            ours, least, ours / least, 2, "lower", "s"
        )
    }
