"""What the values of an entry say by its type: brought into their stored form, put together, and looked into."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from hawthorn.core import fields, richtext, slots, stripped
from hawthorn.core.bounds import Bounds
from hawthorn.core.contenttypes.definition import ContentType
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.fields import Field
from hawthorn.core.kinds.parent import parent_of, rank_of
from hawthorn.core.messages import Message, said


def canonical_fields(
    kind: ContentType, values: Mapping[str, Any], bounds: Bounds = Bounds()
) -> dict[str, Any]:
    """Typed values in their stored form, empty ones left out; raises `Invalid` naming every wrong one, and before any work
    for those that hold more than the bounds allow."""
    bounds.check(values)
    out: dict[str, Any] = {}
    problems: list[FieldProblem] = []
    for name, value in values.items():
        spec = kind.field(name)
        if spec is None:
            known = [f.name for f in kind.fields]
            problems.append(
                FieldProblem(name, said("contenttypes.not_a_field", kind=kind.label, known=known))
            )
            continue
        try:
            one = fields.canonical_value(spec, value)
        except fields.Wrong as wrong:
            problems.append(fields.problem(spec, wrong))
            continue
        if one is not None:
            out[name] = one
    if problems:
        raise Invalid(problems)
    return out


def lost(kind: ContentType, values: Mapping[str, Any]) -> list[Message]:
    """What typed values lose when they are brought into their stored form, by the label of their place."""
    out: list[Message] = []
    for label, text in _texts(kind.fields, values, ""):
        gone = stripped.lost(text)
        out += [said("contenttypes.lost", label=label, gone=gone)] if gone else []
    return out


def _texts(specs: Iterable[Field], values: Mapping[str, Any], above: str) -> Iterable[tuple[str, str]]:
    """The rich texts in values as they were typed, however deep, each with the label of its place."""
    for spec in specs:
        value = values.get(spec.name)
        label = f"{above}{spec.label}"
        for one in value if isinstance(value, list | tuple) else [value]:
            if isinstance(one, str) and fields.kind_of(spec).rich:
                yield label, one
            elif isinstance(one, Mapping) and spec.kind == "blocks":
                form = next((b for b in spec.blocks if b.name == one.get("kind")), None)
                inner = one.get("fields")
                if form is not None and isinstance(inner, Mapping):
                    yield from _texts(form.fields, inner, f"{label}, {form.label}: ")
            elif isinstance(one, Mapping) and spec.kind == "group":
                inner = one.get("fields") if spec.many else one
                yield from _texts(spec.fields, inner if isinstance(inner, Mapping) else {}, f"{label}: ")


def defaults(kind: ContentType, locale: str) -> dict[str, Any]:
    """What a new edition begins with, by the fixed defaults of its fields."""
    return {
        f.name: value
        for f in kind.belonging(locale)
        if f.default is not None and (value := fields.canonical_value(f, f.default)) is not None
    }


def derived(kind: ContentType, values: Mapping[str, Any]) -> dict[str, str]:
    """What stands in for empty fields that are derived from others: the opening of a text, without markup."""
    out: dict[str, str] = {}
    for spec in kind.fields:
        source = kind.field(spec.derives) if spec.derives and not values.get(spec.name) else None
        text = values.get(source.name) if source else None
        if source and text:
            most = spec.limit or 200
            rich = fields.kind_of(source).rich
            out[spec.name] = richtext.opening(text, most) if rich else richtext.cut(str(text), most)
    return out


def missing(kind: ContentType, locale: str, values: Mapping[str, Any]) -> list[str]:
    """The paths of required places of an edition that hold nothing, or too few."""
    out: list[str] = []
    for spec in kind.demanding(locale):
        value = values.get(spec.name)
        if fields.kind_of(spec).parts:
            if spec.required and not value:
                out.append(spec.name)
            inner = slots.walk([spec], values) if value else ()
            out += [s.path for s in inner if s.spec.required and s.value in (None, [], "")]
        elif spec.required and value in (None, [], "") and not (spec.derives and values.get(spec.derives)):
            out.append(spec.name)
        if value and spec.least and fields.is_many(spec) and len(value) < spec.least:
            out.append(spec.name)
    return out


def label_of(kind: ContentType, path: str) -> str:
    """What people call the place at a path."""
    top, *inner = path.split(":")
    spec = kind.field(top)
    if spec is None:
        return top
    if not inner:
        return spec.label
    nested = [*spec.fields, *(f for b in spec.blocks for f in b.fields)]
    found = next((f for f in _all(nested) if f.name == inner[-1]), None)
    return f"{spec.label}: {found.label if found else inner[-1]}"


def _all(specs: Iterable[Field]) -> Iterable[Field]:
    for spec in specs:
        yield spec
        yield from _all([*spec.fields, *(f for b in spec.blocks for f in b.fields)])


def tags(kind: ContentType, values: Mapping[str, Any]) -> set[str]:
    """All tags that the values hold."""
    return {
        tag for slot in slots.filled(kind.fields, values) if slot.spec.kind == "tags" for tag in slot.value
    }


def shown_date(kind: ContentType, values: Mapping[str, Any]) -> str | None:
    """The date that is shown in place of that of the first release: a day, or an instant in UTC (RFC 3339)."""
    value = values.get(kind.dated) if kind.dated else None
    return value["instant"] if isinstance(value, dict) else value


def placement(kind: ContentType, values: Mapping[str, Any]) -> tuple[str | None, str]:
    """The entry (UUID) that the values place theirs below, None at the top; and the rank, empty where nobody chose one."""
    value = values.get(kind.parent.name) if kind.parent else None
    return parent_of(value), rank_of(value)


def following(
    kind: ContentType, values: Mapping[str, Any], layout: Mapping[str, Any]
) -> tuple[dict[str, Any], list[str]]:
    """The values with those of the layout where a region is empty, and the names of the regions that follow it."""
    out, names = dict(values), []
    for spec in kind.regions:
        if values.get(spec.name) is None and layout.get(spec.name) is not None:
            out[spec.name] = layout[spec.name]
            names.append(spec.name)
    return out, names


def search_and_sharing(kind: ContentType, values: Mapping[str, Any]) -> dict[str, str | None]:
    """What searches and shared links show of an entry: `title`, `description` and `picture` (a UUID), each from the field that
    the type names for it, else from the title, and from the first text that tells what it is about."""
    own = {role: values.get(name) for role, name in kind.for_searches.items()}
    words = own["description"]
    if not words:
        spec = next((f for f in kind.fields if f.derives and values.get(f.name)), None)
        spec = spec or next((f for f in kind.fields if f.kind == "rich" and values.get(f.name)), None)
        if spec:
            text = str(values[spec.name])
            words = richtext.opening(text, 160) if fields.kind_of(spec).rich else richtext.cut(text, 160)
    return {
        "title": str(own["title"] or values.get(kind.title) or ""),
        "description": str(words or ""),
        "picture": str(own["picture"]) if isinstance(own["picture"], str) else None,
    }


def referred(kind: ContentType, values: Mapping[str, Any]) -> set[str]:
    """The UUIDs of all entries that the values refer to, placement left out."""
    out: set[str] = set()
    for spec in kind.referring:
        value = values.get(spec.name)
        if value is None:
            continue
        if fields.kind_of(spec).parts:
            for slot in slots.filled([spec], values):
                out |= fields.references(slot.spec, slot.value)
        else:
            out |= fields.references(spec, value)
    return out
