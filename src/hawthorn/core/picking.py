"""Taking a part of what a side changed: single fields and blocks, without the rest of it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from hawthorn.core import revision, slots
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.fields import Field, kind_of
from hawthorn.core.revision import Content


def pick(kind: ContentType, base: Content, side: Content, take: Iterable[str]) -> Content:
    """The base with only the places in `take` as a side has them: fields by name, blocks as `field:block-id`.

    What lies in a new block comes with it, and so does the new block around one that is taken.
    """
    wanted = set(take)
    fields = dict(base.fields)
    paragraph_ids = dict(base.paragraph_ids)
    for spec in kind.fields:
        blocks = {p for p in wanted if p.startswith(f"{spec.name}:")}
        if spec.name in wanted:
            _copy(spec.name, side, fields)
        elif blocks and kind_of(spec).parts:
            fields[spec.name] = _picked(spec, base, side, {p.split(":")[1] for p in blocks})
    for path, ids in side.paragraph_ids.items():
        top = path.split(":")[0]
        if top in wanted or any(path.startswith(f"{p}:") for p in wanted):
            paragraph_ids[path] = ids
    fields = {k: v for k, v in fields.items() if v not in (None, [], {})}
    claims = {
        k: v
        for content, mine in ((base, False), (side, True))
        for k, v in content.unit_map.items()
        if _in(k, wanted) == mine
    }
    return revision.snapshot(kind, fields, Content(fields, paragraph_ids, claims))


def _in(key: str, wanted: set[str]) -> bool:
    """Whether what a key names is taken: its field, or the block that holds it."""
    path = key.split(".", 1)[0]
    return path.split(":")[0] in wanted or any(path.startswith(f"{p}:") for p in wanted)


def _copy(name: str, side: Content, fields: dict[str, Any]) -> None:
    if name in side.fields:
        fields[name] = side.fields[name]
    else:
        fields.pop(name, None)


def _picked(spec: Field, base: Content, side: Content, ids: set[str]) -> Any:
    was, now = (slots.blocks(spec, c.fields.get(spec.name)) for c in (base, side))
    taken = set(ids)
    for id in ids & set(now):
        above = now[id].parent
        while above and above not in was:
            taken.add(above)
            above = now[above].parent
    grown = True
    while grown:
        more = {
            b.id
            for b in (*now.values(), *was.values())
            if b.parent in taken and (b.id not in was or b.id not in now)
        }
        grown = not more <= taken
        taken |= more
    homes: dict[str, list[str]] = {}
    for block in was.values():
        if block.id not in taken or (block.id in now and now[block.id].home == block.home):
            homes.setdefault(block.home, []).append(block.id)
    for id in [i for i in now if i in taken]:
        home = now[id].home
        some = homes.setdefault(home, [])
        if id in some:
            continue
        before = [b.id for b in now.values() if b.home == home]
        earlier = [i for i in before[: before.index(id)] if i in some]
        some.insert(some.index(earlier[-1]) + 1 if earlier else 0, id)
    values: dict[str, Any] = {}
    for content, mine in ((base, False), (side, True)):
        for slot in slots.filled([spec], content.fields):
            if (slot.block in taken) == mine:
                values[slot.path] = slot.value
    kinds = {b.id: b.kind for b in was.values()} | {b.id: b.kind for b in now.values() if b.id in taken}
    return slots.build(spec, homes, kinds, values)
