"""Writes the OpenAPI document, which the service sends and the console's client is generated from."""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path

from hawthorn.core.exchange import lines, package
from hawthorn.demo.bureau import Bureau
from hawthorn.service import openapi
from hawthorn.service.app import create_app
from hawthorn.service.settings import Settings
from hawthorn.wire.bureau_protocol import Changed


def document() -> str:
    """The document, in a stable form."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Settings(file=Path(folder) / "x.sqlite", followers=False))
        text = json.dumps(openapi.document(app), indent=1, ensure_ascii=False, sort_keys=True) + "\n"
        app.state.desk.db.close()
    return text


def protocol() -> str:
    """What a bureau answers, as the simulated one does."""
    found = Bureau().app().openapi()
    # What cannot be read is answered as a problem (RFC 9457), or in any other way.
    for path in found["paths"].values():
        for operation in path.values():
            operation["responses"].pop("422", None)
    for name in ("HTTPValidationError", "ValidationError"):
        found["components"]["schemas"].pop(name, None)
    found["info"]["description"] = (
        "Each call carries the key as a bearer token (RFC 6750), and is signed as Standard Webhooks says: `webhook-id`, `webhook-timestamp`, "
        "`webhook-signature` over the body, which may be empty. What is refused for good is answered with 4xx, but for 408, 425 and 429; "
        "`detail` (RFC 9457) says why."
    )
    found["components"]["securitySchemes"] = {"key": {"type": "http", "scheme": "bearer"}}
    found["security"] = [{"key": []}]
    found["components"]["schemas"]["Changed"] = Changed.model_json_schema()
    called = {
        "content": {"application/json": {"schema": {"$ref": "#/components/schemas/Changed"}}},
        "required": True,
    }
    answers = {"202": {"description": "It is asked about."}, "409": {"description": "The job was cancelled."}}
    found["webhooks"] = {
        "job.changed": {
            "post": {
                "operationId": "job_changed",
                "summary": "One of its jobs has changed",
                "description": "What the bureau calls the address `notify` of a job with, signed with the same secret.",
                "requestBody": called,
                "responses": answers,
            }
        }
    }
    return json.dumps(found, indent=1, ensure_ascii=False, sort_keys=True) + "\n"


def packages() -> str:
    """What the lines of a package say: for each part the JSON Schema (draft 2020-12) of one of its lines."""
    kinds: dict[str, type[lines.Line]] = {
        package.MANIFEST: lines.Manifest,
        package.ENTRIES: lines.EntryLine,
        package.FILES: lines.FileLine,
        package.PEOPLE: lines.PersonLine,
        package.MEMORIES: lines.CollectionLine,
        package.SENTENCES: lines.SentenceLine,
        package.GLOSSARIES: lines.CollectionLine,
        package.CONCEPTS: lines.ConceptLine,
        package.DISPATCHES: lines.DispatchLine,
    }
    parts = {name: lines.schema(kind) for name, kind in kinds.items()}
    made = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "version": package.VERSION,
        "parts": parts,
    }
    return json.dumps(made, indent=1, ensure_ascii=False, sort_keys=True) + "\n"


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(document(), "utf-8")
    Path(sys.argv[2]).write_text(protocol(), "utf-8")
    Path(sys.argv[3]).write_text(packages(), "utf-8")
