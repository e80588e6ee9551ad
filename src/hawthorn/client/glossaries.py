"""The calls of glossaries."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, into, nothing, page

TBX = "application/x-tbx+xml"


class GlossaryCalls:
    """The calls of glossaries, without a way to send them."""

    @call
    def glossaries(self, *, limit: int = 0, cursor: str = "") -> Request[wire.glossaries.Glossaries]:
        """The glossaries that may be used, by name."""
        return Request("GET", "/api/glossaries", into(wire.glossaries.Glossaries), params=page(limit, cursor))

    @call
    def add_glossary(
        self, name: str, *, note: str = "", section: str = ""
    ) -> Request[wire.glossaries.Glossary]:
        """Add a glossary; with a section, those who may commission there look after it."""
        body = {"name": name, "note": note, "section": section}
        return Request("POST", "/api/glossaries", into(wire.glossaries.Glossary), json=body)

    @call
    def change_glossary(self, id: str, given: Mapping[str, Any]) -> Request[wire.glossaries.Glossary]:
        """Change what is given of a glossary: name, note, section."""
        return Request("PATCH", _at(id), into(wire.glossaries.Glossary), json=dict(given))

    @call
    def end_glossary(self, id: str) -> Request[None]:
        """Remove a glossary with all that is in it."""
        return Request("DELETE", _at(id), nothing)

    @call
    def merge_glossaries(self, id: str, other: str) -> Request[wire.glossaries.Glossary]:
        """Put all of another glossary into one, and end the other."""
        return Request("POST", f"{_at(id)}/merge", into(wire.glossaries.Glossary), json={"other": other})

    @call
    def glossary_concepts(
        self, id: str, *, words: str = "", locale: str = "", limit: int = 0, cursor: str = ""
    ) -> Request[wire.glossaries.Concepts]:
        """The concepts of a glossary: with words in a term, and called something in a locale."""
        params = {"words": words, "locale": locale, **page(limit, cursor)}
        return Request("GET", f"{_at(id)}/concepts", into(wire.glossaries.Concepts), params=params)

    @call
    def add_concept(
        self, id: str, terms: Sequence[Mapping[str, str]], *, note: str = ""
    ) -> Request[wire.glossaries.Concept]:
        """Add a concept: its terms (locale, text, status)."""
        body = {"note": note, "terms": [dict(one) for one in terms]}
        return Request("POST", f"{_at(id)}/concepts", into(wire.glossaries.Concept), json=body)

    @call
    def write_concept(
        self, id: str, number: int, terms: Sequence[Mapping[str, str]], *, note: str = ""
    ) -> Request[wire.glossaries.Concept]:
        """Write a concept anew."""
        body = {"note": note, "terms": [dict(one) for one in terms]}
        return Request("PUT", f"{_at(id)}/concepts/{number}", into(wire.glossaries.Concept), json=body)

    @call
    def remove_concepts(self, id: str, ids: Sequence[int]) -> Request[None]:
        """Remove concepts of a glossary."""
        return Request("POST", f"{_at(id)}/concepts/remove", nothing, json={"ids": list(ids)})

    @call
    def export_glossary(self, id: str) -> Request[bytes]:
        """A glossary as TBX."""
        return Request("GET", f"{_at(id)}/file", lambda r: r.content)

    @call
    def import_glossary(
        self, id: str, data: bytes | Path, *, name: str = ""
    ) -> Request[wire.imports.FileImport]:
        """Import a TBX file into a glossary: its bytes, or where it lies."""
        return Request(
            "PUT",
            f"{_at(id)}/file",
            into(wire.imports.FileImport),
            content=data,
            params={"name": name} if name else {},
            headers={"Content-Type": TBX},
            slow=True,
        )

    @call
    def glossary_imports(
        self, id: str, *, limit: int = 0, cursor: str = ""
    ) -> Request[wire.imports.FileImports]:
        """The imports into a glossary, the newest first."""
        return Request(
            "GET", f"{_at(id)}/imports", into(wire.imports.FileImports), params=page(limit, cursor)
        )

    @call
    def undo_glossary_import(self, id: str, number: int) -> Request[wire.imports.Removed]:
        """Remove what an import brought, but for what somebody wrote anew since; asked again while more is left."""
        return Request("POST", f"{_at(id)}/imports/{number}/undo", into(wire.imports.Removed))


def _at(id: str) -> str:
    return f"/api/glossaries/{quote(id)}"
