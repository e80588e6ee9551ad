"""TypeScript: an interface for the fields of each type, and one for its entries."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from typing import Any

from hawthorn.core.type_files.base import Language, Shape, named, one_line

_PLAIN = {"string": "string", "number": "number", "integer": "number", "boolean": "boolean", "null": "null"}
_NAME = re.compile(r"[A-Za-z_$][\w$]*")
_TAKEN = (
    "Locale",
    "ReadFile",
    "ReadReference",
    "ReadRendition",
    "ReadEntry",
    "ReadPage",
    "AnyEntry",
    "Record",
)
_HEAD = """\
/** A picture in one crop, around its focus. */
export interface ReadRendition {
  width: number;
  height: number;
  webp: string;
  avif: string;
  original: string;
}

/** A file that an entry holds; its renditions are by the name of the crop. */
export interface ReadFile {
  href: string;
  alt: string;
  caption?: string;
  width?: number;
  height?: number;
  media_type?: string;
  name?: string;
  bytes?: number;
  focus?: number[];
  captions?: { href: string; locale: Locale }[];
  renditions: Record<string, ReadRendition>;
}

/** An entry that another refers to. */
export interface ReadReference {
  id: string;
  type: string;
  locale: string;
  title: string;
  path?: string | null;
  file?: ReadFile | null;
  fields?: Record<string, unknown> | null;
  locked?: boolean;
}

/** An entry as those who read see it. */
export interface ReadEntry<Type extends string, Fields> {
  id: string;
  type: Type;
  locale: Locale;
  wanted_locale: Locale;
  title: string;
  path: string | null;
  revision: number;
  since: string;
  date: string | null;
  pinned: boolean;
  fields: Fields;
  openings: Record<string, unknown>;
  regions: Record<string, string>;
  search: { title?: unknown; description?: unknown; picture?: unknown };
  references: Record<string, ReadReference>;
  locales: { locale: Locale; path: string | null }[];
  shown?: Record<string, unknown> | null;
  limited?: "" | "hidden" | "locked";
  locked?: boolean;
}

/** A page of a list. */
export interface ReadPage<One> {
  items: One[];
  next: string;
  included?: Record<string, AnyEntry> | null;
  referring?: Record<string, Record<string, string[]>> | null;
}
"""


class TypeScript(Language):
    """TypeScript, of which any version since 4 does."""

    name = "typescript"
    ending = "ts"
    media_type = "text/plain"

    def write(self, shapes: Sequence[Shape], locales: Sequence[str]) -> str:
        known = " | ".join(json.dumps(one) for one in locales) or "string"
        out = [f"export type Locale = {known};\n", _HEAD]
        names = named(shapes, _TAKEN)
        for shape, name in zip(shapes, names, strict=True):
            out.append(
                f"/** {one_line(shape.label)} */\nexport interface {name}Fields {_object(shape.schema, 0)}\n"
                f"export type {name} = ReadEntry<{json.dumps(shape.name)}, {name}Fields>;\n"
            )
        out.append(
            f"export type AnyEntry = {' | '.join(names) or 'ReadEntry<string, Record<string, unknown>>'};\n"
        )
        return "\n".join(out)


def _object(schema: Mapping[str, Any], deep: int) -> str:
    required = schema.get("required", ())
    pad = "  " * (deep + 1)
    lines = []
    for name, one in schema.get("properties", {}).items():
        said = f"{pad}/** {one_line(one['description'])} */\n" if one.get("description") else ""
        key = name if _NAME.fullmatch(name) else json.dumps(name)
        lines.append(f"{said}{pad}{key}{'' if name in required else '?'}: {_type(one, deep + 1)};\n")
    return "{\n" + "".join(lines) + "  " * deep + "}"


def _type(schema: Mapping[str, Any], deep: int) -> str:
    if "const" in schema:
        return json.dumps(schema["const"], ensure_ascii=False)
    if "enum" in schema:
        return " | ".join(json.dumps(one, ensure_ascii=False) for one in schema["enum"]) or "never"
    if "anyOf" in schema:
        return " | ".join(dict.fromkeys(_type(one, deep) for one in schema["anyOf"]))
    kind = schema.get("type")
    if isinstance(kind, list):
        return " | ".join(_PLAIN.get(one, "unknown") for one in kind)
    if kind == "array":
        inner = _type(schema.get("items", {}), deep)
        return f"({inner})[]" if " | " in inner else f"{inner}[]"
    if kind == "object":
        return _object(schema, deep) if schema.get("properties") else "Record<string, unknown>"
    return _PLAIN.get(str(kind), "unknown")


LANGUAGE = TypeScript()
