"""What readers get, described for programs that are made from it: types for other languages, and an OpenAPI document of the set-up."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hawthorn.core import access, fields, filtering, type_files
from hawthorn.core.contenttypes import ContentType, read_schema
from hawthorn.core.type_files import Shape
from hawthorn.core.type_files.base import named
from hawthorn.operations.delivery import reading
from hawthorn.operations.runtime.act import View

_OPERATORS = {
    "before": "less, or before that",
    "after": "more, or after that",
    "from": "that or more, or then or after",
    "last": "the time that has passed (ISO 8601), such as P14D",
    "contains": "all of these words",
    "near": "latitude, longitude and kilometres",
}


def kinds(view: View) -> list[ContentType]:
    """The types that whoever reads gets, by name."""
    return [k for _, k in sorted(view.setup.types.items()) if not reading.closed(view, k.name)]


def types(view: View, language: str) -> str:
    """A file with a type for each of them, in a language. Raises `NotFound`."""
    shapes = [Shape(k.name, k.label, read_schema(k, whole=_works(view))) for k in kinds(view)]
    return type_files.of(language).write(shapes, list(view.setup.locales))


def _works(view: View) -> bool:
    """Whether whoever reads may read more than what is out."""
    return access.works(view.identity)


def reading_alone(whole: Mapping[str, Any]) -> dict[str, Any]:
    """A document of the API (OpenAPI 3.1) as far as it is about reading: the same in every set-up."""
    paths = {path: item for path, item in whole["paths"].items() if path.startswith(("/read/", "/feeds/"))}
    schemas = _used(paths, whole["components"]["schemas"])
    return {**whole, "paths": paths, "components": {**whole["components"], "schemas": schemas}}


def document(view: View, whole: Mapping[str, Any]) -> dict[str, Any]:
    """The document of reading with what each type of this set-up holds and what it can be chosen by: `whole` is that of every set-up."""
    some = kinds(view)
    schemas: dict[str, Any] = {}
    called = dict(
        zip(
            (k.name for k in some),
            named([Shape(k.name, "", {}) for k in some], list(whole["components"]["schemas"])),
            strict=True,
        )
    )
    entry = whole["components"]["schemas"]["ReadEntry"]
    for kind in some:
        members = {
            **entry["properties"],
            "type": {"const": kind.name},
            "fields": {"$ref": f"#/components/schemas/{called[kind.name]}Fields"},
        }
        schemas[f"{called[kind.name]}Fields"] = read_schema(kind, whole=_works(view))
        schemas[called[kind.name]] = {**entry, "title": kind.label, "properties": members}
    any_entry = {
        "oneOf": [{"$ref": f"#/components/schemas/{called[k.name]}"} for k in some],
        "discriminator": {
            "propertyName": "type",
            "mapping": {k.name: f"#/components/schemas/{called[k.name]}" for k in some},
        },
    }
    kept = whole["components"]["schemas"] | schemas | ({"ReadEntry": any_entry} if some else {})
    paths = dict(whole["paths"])
    asked = [*_conditions(some)]
    for path, item in paths.items():
        get = item.get("get")
        if get and any(one.get("name") == "where" for one in get.get("parameters", ())):
            others = [one for one in get["parameters"] if one.get("name") != "where"]
            paths[path] = {**item, "get": {**get, "parameters": [*others, *asked]}}
    info = {**whole["info"], "title": "What this house gives to readers"}
    return {
        **whole,
        "info": info,
        "paths": paths,
        "components": {**whole["components"], "schemas": _used(paths, kept)},
    }


def _conditions(some: list[ContentType]) -> list[dict[str, Any]]:
    """A parameter for each condition that readers may ask for."""
    out: list[dict[str, Any]] = []
    specs = filtering.known(some)
    for name, spec in {filtering.DATE: fields.Field(filtering.DATE, "instant", "Date"), **specs}.items():
        for how in fields.kind_of(spec).filters:
            if name == filtering.DATE and how == "is":
                continue
            several = how == "is"
            one = {"type": "string"}
            if spec.kind == "choice" and several:
                one = {"type": "string", "enum": list(spec.choices)}  # type: ignore[dict-item]
            out.append(
                {
                    "name": f"{filtering.START}{name}" + ("" if several else f".{how}"),
                    "in": "query",
                    "description": f"{spec.label or name}: "
                    + ("is one of these" if several else _OPERATORS[how]),
                    "schema": {"type": "array", "items": one} if several else one,
                }
            )
    return out


def _used(paths: Mapping[str, Any], schemas: Mapping[str, Any]) -> dict[str, Any]:
    """The schemas that paths name, and those that these name."""
    out: dict[str, Any] = {}
    waiting = _names(paths)
    while waiting:
        name = waiting.pop()
        if name not in out and name in schemas:
            out[name] = schemas[name]
            waiting |= _names(schemas[name])
    return dict(sorted(out.items()))


def _names(part: Any) -> set[str]:
    if isinstance(part, Mapping):
        own = {str(part["$ref"]).rsplit("/", 1)[-1]} if isinstance(part.get("$ref"), str) else set()
        return own.union(*(_names(one) for one in part.values()))
    return set().union(*(_names(one) for one in part)) if isinstance(part, list) else set()
