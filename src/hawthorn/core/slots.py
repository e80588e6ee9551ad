"""Slots: every plain value of a content by its path, and the blocks that hold them as a flat map.

A path is the field's name; inside a group `group:field`; inside a block `field:block-id:field`, however deep the block
lies, so that a block that moves keeps the paths of all that it holds. Paths are NMTOKENs (XML 1.0, section 2.3).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any

from hawthorn.core.kinds.base import Field, is_many, kind_of
from hawthorn.core.quick import dataclass


@dataclass(frozen=True, slots=True)
class Slot:
    """One plain place: its path, its field, what it holds (None for nothing), its block, and what people call it."""

    path: str
    spec: Field
    value: Any
    label: str
    block: str = ""

    @property
    def top(self) -> str:
        """The name of the content type's field that holds it."""
        return top(self.path)


def top(key: str) -> str:
    """The name of the content type's field in which a path leads, or in which what a key names lies (a path, and for a paragraph its id
    after a full stop)."""
    return key.split(".", 1)[0].split(":", 1)[0]


@dataclass(frozen=True, slots=True)
class Block:
    """One block: `home` is the path of the list that holds it, `parent` the block around it or nothing."""

    id: str
    kind: str
    home: str
    parent: str
    label: str


def walk(specs: Sequence[Field], values: Mapping[str, Any]) -> Iterator[Slot]:
    """Every plain place of the fields, in order, empty ones too; what groups and blocks hold in their stead."""
    for spec in specs:
        value = values.get(spec.name)
        if kind_of(spec).parts:
            yield from _walk_parts(spec, value, spec.name, spec.name, "", spec.label)
        else:
            yield Slot(spec.name, spec, value, spec.label)


def filled(specs: Sequence[Field], values: Mapping[str, Any]) -> Iterator[Slot]:
    """Every plain place that holds something, in order."""
    for spec in specs:
        value = values.get(spec.name)
        if value is None:
            continue
        if kind_of(spec).parts:
            inner = _walk_parts(spec, value, spec.name, spec.name, "", spec.label)
            yield from (slot for slot in inner if slot.value is not None)
        else:
            yield Slot(spec.name, spec, value, spec.label)


def _walk_parts(spec: Field, value: Any, path: str, top: str, block: str, label: str) -> Iterator[Slot]:
    if is_many(spec):
        for item in value or ():
            form = form_of(spec, item)
            yield from _walk_members(
                form, item["fields"], f"{top}:{item['id']}", top, item["id"], _label(spec, item)
            )
    else:
        yield from _walk_members(spec.fields, value or {}, path, top, block, label)


def _walk_members(
    specs: Sequence[Field], values: Mapping[str, Any], prefix: str, top: str, block: str, label: str
) -> Iterator[Slot]:
    known = {f.name for f in specs}
    # What a block holds of fields that are no more is kept as it is.
    lost = [Field(name, "json", name) for name in values if name not in known]
    for spec in (*specs, *lost):
        path, value = f"{prefix}:{spec.name}", values.get(spec.name)
        said = f"{label}: {spec.label or spec.name}"
        if kind_of(spec).parts:
            yield from _walk_parts(spec, value, path, top, block, said)
        else:
            yield Slot(path, spec, value, said, block)


def form_of(spec: Field, item: Mapping[str, Any]) -> tuple[Field, ...]:
    """The fields that a block, or a repeated group's member, has."""
    if spec.kind != "blocks":
        return spec.fields
    return next((k.fields for k in spec.blocks if k.name == item.get("kind")), ())


def _label(spec: Field, item: Mapping[str, Any]) -> str:
    form = next((k for k in spec.blocks if k.name == item.get("kind")), None)
    return (form.label or form.name) if form else (item.get("kind") or spec.label)


def blocks(spec: Field, value: Any) -> dict[str, Block]:
    """The blocks of a top-level field by id, in reading order."""
    out: dict[str, Block] = {}
    _blocks(spec, value, spec.name, spec.name, "", out)
    return out


def _blocks(spec: Field, value: Any, path: str, top: str, parent: str, out: dict[str, Block]) -> None:
    if is_many(spec):
        for item in value or ():
            out[item["id"]] = Block(item["id"], item.get("kind", ""), path, parent, _label(spec, item))
            _inner_blocks(form_of(spec, item), item["fields"], f"{top}:{item['id']}", top, item["id"], out)
    else:
        _inner_blocks(spec.fields, value or {}, path, top, parent, out)


def _inner_blocks(
    specs: Sequence[Field],
    values: Mapping[str, Any],
    prefix: str,
    top: str,
    parent: str,
    out: dict[str, Block],
) -> None:
    for spec in specs:
        if kind_of(spec).parts:
            _blocks(spec, values.get(spec.name), f"{prefix}:{spec.name}", top, parent, out)


def takes(spec: Field, home: str, kinds: Mapping[str, str]) -> frozenset[str]:
    """The kinds of blocks that a list takes, by its path within a top-level field and the kinds of the blocks there are; a
    repeated group takes members, whose kind is empty. Nothing for a path at which there is no list."""
    names = home.split(":")[1:]
    found: Field | None = spec
    if names and names[0] in kinds:
        fitting = [f for f in forms(spec) if kinds[names[0]] in ("", f[0])]
        found = (
            next((m for _, members in fitting for m in members if m.name == names[1]), None)
            if len(names) > 1
            else None
        )
        names = names[2:]
    for name in names:
        found = next((m for m in found.fields if m.name == name), None) if found else None
    if found is None or not kind_of(found).parts or not is_many(found):
        return frozenset()
    return frozenset(k.name for k in found.blocks) if found.kind == "blocks" else frozenset({""})


def every(specs: Iterable[Field]) -> Iterator[Field]:
    """Every field of a form, and of its groups and blocks, however deep."""
    for spec in specs:
        yield spec
        for _, members in forms(spec) if kind_of(spec).parts else ():
            yield from every(members)


def forms(spec: Field) -> Iterator[tuple[str, tuple[Field, ...]]]:
    """Every form that a block within a field may have, however deep: its kind and its fields."""
    inner = [(k.name, k.fields) for k in spec.blocks] if spec.kind == "blocks" else [("", spec.fields)]
    for kind, members in inner:
        yield kind, members
        for member in members:
            if kind_of(member).parts:
                yield from forms(member)


def build(
    spec: Field,
    homes: Mapping[str, Sequence[str]],
    kinds: Mapping[str, str],
    values: Mapping[str, Any],
) -> Any:
    """A top-level field's value again: `homes` lists block ids by the path of their list, `kinds` the kind of each,
    `values` what stands at each path. None when nothing is left."""
    extra: dict[str, list[str]] = {}
    for path in values:
        extra.setdefault(path.rsplit(":", 1)[0], []).append(path.rsplit(":", 1)[1] if ":" in path else path)
    return _build(spec, spec.name, spec.name, homes, kinds, values, extra) or None


def _build(
    spec: Field,
    path: str,
    top: str,
    homes: Mapping[str, Sequence[str]],
    kinds: Mapping[str, str],
    values: Mapping[str, Any],
    extra: Mapping[str, list[str]],
) -> Any:
    if not kind_of(spec).parts:
        return values.get(path)
    if not is_many(spec):
        return _members(spec.fields, path, top, homes, kinds, values, extra)
    out: list[dict[str, Any]] = []
    for id in homes.get(path, ()):
        head = {"id": id, "kind": kinds[id]} if kinds.get(id) else {"id": id}
        form = form_of(spec, head)
        out.append({**head, "fields": _members(form, f"{top}:{id}", top, homes, kinds, values, extra)})
    return out


def _members(
    specs: Sequence[Field],
    prefix: str,
    top: str,
    homes: Mapping[str, Sequence[str]],
    kinds: Mapping[str, str],
    values: Mapping[str, Any],
    extra: Mapping[str, list[str]],
) -> dict[str, Any]:
    out: dict[str, Any] = {}
    known = {f.name for f in specs}
    for spec in specs:
        one = _build(spec, f"{prefix}:{spec.name}", top, homes, kinds, values, extra)
        if one not in (None, [], {}):
            out[spec.name] = one
    for name in extra.get(prefix, ()):
        if name not in known and values.get(f"{prefix}:{name}") is not None:
            out[name] = values[f"{prefix}:{name}"]
    return out
