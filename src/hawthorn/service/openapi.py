"""The OpenAPI document (OpenAPI 3.1): made from the routes by `make openapi`, kept beside this module, and served as it is kept.

To make it takes seconds, in which nobody else would be answered; so a service sends the file, and a check holds the
file against the routes.
"""

from __future__ import annotations

from http import HTTPStatus
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi
from fastapi.responses import FileResponse, Response

from hawthorn.wire import meanings, problems, words

FILE = Path(__file__).with_suffix(".json")


def install(app: FastAPI) -> None:
    """Serve the document at `/api/openapi.json`."""

    @app.get("/api/openapi.json", include_in_schema=False)
    async def openapi() -> Response:
        """The document, from its file."""
        return FileResponse(FILE, media_type="application/json", headers={"Cache-Control": "no-cache"})


def _say_parameters(operation: dict[str, Any]) -> None:
    for parameter in operation.get("parameters", []):
        if not parameter.get("description"):
            said = meanings.PARAMETERS.get(parameter["name"]) or meanings.MEANINGS.get(parameter["name"])
            if said:
                parameter["description"] = said


_PROBLEM = "#/components/schemas/Problem"


def document(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI document, with every refusal as the problem details that are really sent.

    The framework lists its own validation error, and the media type of success, for refusals; neither is sent.
    """
    made = get_openapi(title=app.title, version=app.version, description=app.description, routes=app.routes)
    schemas = made["components"]["schemas"]
    schemas.setdefault(
        "Problem", problems.Problem.model_json_schema(ref_template="#/components/schemas/{model}")
    )
    for name, schema in schemas["Problem"].pop("$defs", {}).items():
        schemas.setdefault(name, schema)
    made["components"]["securitySchemes"] = {
        "bearer": {
            "type": "http",
            "scheme": "bearer",
            "description": "A session's token or a key's secret.",
        },
        "cookie": {"type": "apiKey", "in": "cookie", "name": "hawthorn_session"},
    }
    for path, methods in made["paths"].items():
        for operation in methods.values():
            operation["security"] = _ways_in(path, operation["operationId"])
            _as_problems(path, operation)
            _say_parameters(operation)
    for name in ("HTTPValidationError", "ValidationError"):
        schemas.pop(name, None)
    for name, schema in schemas.items():
        words.described(name, schema)
    return made


def _ways_in(path: str, operation: str) -> list[dict[str, list[str]]]:
    if operation in (
        "log_in",
        "begin_passkey_log_in",
        "log_in_with_passkey",
        "provider",
        "leave_for_provider",
        "return_from_provider",
        "end_sessions_by_provider",
        "health",
        "look_at_invitation",
        "accept_invitation",
        "look_at_first_run",
        "make_first_person",
    ):
        return [{}]
    if path.startswith("/read/"):
        return [{}, {"bearer": []}]
    return [{"bearer": []}, {"cookie": []}]


_COUNTED = ("/api/session", "/api/account", "/api/invitation", "/api/uploads")
"""Where guesses, or what lies unfinished, are counted."""


def _as_problems(path: str, operation: dict[str, Any]) -> None:
    answers = operation["responses"]
    answers.setdefault("422", {})
    answers.setdefault("401", {})
    if "{" in path:
        answers.setdefault("404", {})
    body = operation.get("requestBody", {}).get("content", {})
    if body:
        answers.setdefault("413", {})
    if path.startswith(_COUNTED):
        answers.setdefault("429", {})
    if "multipart/form-data" in body:
        answers.setdefault("400", {})
    if path.startswith("/api/") and operation["security"] != [{}]:
        answers.setdefault("403", {})
    for status, answer in answers.items():
        if int(status) < 400:
            continue
        schema = answer.get("content", {}).get("application/json", {}).get("schema", {})
        if schema.get("$ref", "").endswith("HTTPValidationError") or not schema:
            schema = {"$ref": _PROBLEM}
        answer["description"] = HTTPStatus(int(status)).phrase
        answer["content"] = {problems.MEDIA_TYPE: {"schema": schema}}
