"""The calls of translation memories."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, into, nothing, page


class MemoryCalls:
    """The calls of translation memories, without a way to send them."""

    @call
    def memories(self, *, limit: int = 0, cursor: str = "") -> Request[wire.memories.Memories]:
        """The memories that may be used, by name."""
        return Request("GET", "/api/memories", into(wire.memories.Memories), params=page(limit, cursor))

    @call
    def add_memory(self, name: str, *, note: str = "", section: str = "") -> Request[wire.memories.Memory]:
        """Add a memory; with a section, those who may commission there look after it."""
        body = {"name": name, "note": note, "section": section}
        return Request("POST", "/api/memories", into(wire.memories.Memory), json=body)

    @call
    def change_memory(self, id: str, given: Mapping[str, Any]) -> Request[wire.memories.Memory]:
        """Change what is given of a memory: name, note, section."""
        return Request("PATCH", f"/api/memories/{quote(id)}", into(wire.memories.Memory), json=dict(given))

    @call
    def end_memory(self, id: str) -> Request[wire.imports.Removed]:
        """Remove a memory; asked again while more is left."""
        return Request("DELETE", f"/api/memories/{quote(id)}", into(wire.imports.Removed))

    @call
    def merge_memories(self, id: str, other: str) -> Request[wire.memories.Memory]:
        """Put all of another memory into one, and end the other."""
        return Request(
            "POST", f"/api/memories/{quote(id)}/merge", into(wire.memories.Memory), json={"other": other}
        )

    @call
    def memory_sentences(
        self, id: str, asked: Mapping[str, str] | None = None, *, limit: int = 0, cursor: str = ""
    ) -> Request[wire.memories.KnownList]:
        """The sentences of a memory, the newest first; asked for by words, source and target."""
        params = dict(asked or {}) | page(limit, cursor)
        return Request(
            "GET", f"/api/memories/{quote(id)}/sentences", into(wire.memories.KnownList), params=params
        )

    @call
    def edit_memory_sentence(self, id: str, number: int, target: str) -> Request[wire.memories.Known]:
        """Write another translation for a sentence of a memory."""
        return Request(
            "PATCH",
            f"/api/memories/{quote(id)}/sentences/{number}",
            into(wire.memories.Known),
            json={"target": target},
        )

    @call
    def remove_memory_sentences(self, id: str, ids: Sequence[int]) -> Request[None]:
        """Remove sentences of a memory."""
        return Request(
            "POST", f"/api/memories/{quote(id)}/sentences/remove", nothing, json={"ids": list(ids)}
        )

    @call
    def export_memory(self, id: str, *, source: str = "", target: str = "") -> Request[bytes]:
        """A memory as TMX 1.4b, whole or of one pair of languages."""
        params = {k: v for k, v in (("source", source), ("target", target)) if v}
        return Request("GET", f"/api/memories/{quote(id)}/file", lambda r: r.content, params=params)

    @call
    def import_memory(
        self, id: str, data: bytes | Path, *, name: str = "memory.tmx"
    ) -> Request[wire.imports.FileImport]:
        """Import a TMX file into a memory: its bytes, or where it lies."""
        return Request(
            "PUT",
            f"/api/memories/{quote(id)}/file",
            into(wire.imports.FileImport),
            content=data,
            headers={"Content-Type": "application/x-tmx+xml"},
            params={"name": name},
            slow=True,
        )

    @call
    def memory_imports(
        self, id: str, *, limit: int = 0, cursor: str = ""
    ) -> Request[wire.imports.FileImports]:
        """The imports into a memory, the newest first."""
        return Request(
            "GET",
            f"/api/memories/{quote(id)}/imports",
            into(wire.imports.FileImports),
            params=page(limit, cursor),
        )

    @call
    def undo_memory_import(self, id: str, number: int) -> Request[wire.imports.Removed]:
        """Undo an import; asked again while more is left."""
        return Request("POST", f"/api/memories/{quote(id)}/imports/{number}/undo", into(wire.imports.Removed))

    @call
    def segment_matches(self, id: str, place: Mapping[str, str]) -> Request[wire.memories.Matches]:
        """What the memories have that is like a sentence of a job (its `entry`, `key` and `segment`)."""
        return Request(
            "POST",
            f"/api/jobs/{quote(id)}/segments/matches",
            into(wire.memories.Matches),
            json=dict(place),
        )

    @call
    def suggest_segment(self, id: str, place: Mapping[str, str]) -> Request[wire.memories.Suggestion]:
        """What a machine suggests for a sentence of a job (its `entry`, `key` and `segment`)."""
        at = f"/api/jobs/{quote(id)}/segments/suggest"
        return Request("POST", at, into(wire.memories.Suggestion), json=dict(place))

    @call
    def fill_job(self, id: str) -> Request[wire.memories.Filled]:
        """Fill open sentences of a job from the memories."""
        return Request("POST", f"/api/jobs/{quote(id)}/fill", into(wire.memories.Filled))
