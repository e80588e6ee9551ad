"""What lists give with their entries: bodies, the fields that are wanted of them, what they relate to, and what refers to them."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from typing import Any

from hawthorn.core.errors import FieldProblem, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.operations.delivery import reading, reading_lists, rendering, texts
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.delivery.reading_lists import MOST_INCLUDED, MOST_REFERRING, Wish
from hawthorn.operations.delivery.rendering import Rendered
from hawthorn.operations.runtime.act import View
from hawthorn.store import bodies, entries


@dataclass(slots=True)
class Bodies:
    """Bodies as they were needed: kept ones, and those that were made anew, by UUID and locale, which may be kept."""

    view: View
    where: Place
    made: dict[tuple[str, str], Rendered] = field(default_factory=dict)
    ends: int = rendering.ALWAYS
    """Until when all of them hold."""
    uuids: list[str] = field(default_factory=list)
    groups: dict[str, str] = field(default_factory=dict)
    """What each kept one depends on (`core.groups`), with spaces between, by UUID."""

    def of(self, uuids: Sequence[str], locale: str) -> dict[str, bytes]:
        """The bodies of entries in a wanted locale, in order; what is not there, or is not for whoever reads, is left out."""
        plain = reading.for_everybody(self.view, self.where)
        kept = bodies.fresh_ones(self.view.conn, uuids, locale, self.view.now) if plain else {}
        out: dict[str, bytes] = {}
        self.uuids += uuids
        for uuid in uuids:
            if uuid in kept:
                type, data, ends, self.groups[uuid] = kept[uuid]
                if not reading.closed(self.view, type):
                    out[uuid] = data
                    self.ends = min(self.ends, ends)
                continue
            try:
                made = rendering.render(self.view, uuid, locale, self.where)
            except NotFound:
                continue
            out[uuid] = made.data
            self.ends = min(self.ends, made.ends)
            self.made[uuid, locale] = made
        return out

    def groups_of(self, uuid: str, locale: str) -> str | None:
        """What a body depends on; nothing where it is not what everybody reads."""
        made = self.made.get((uuid, locale))
        if made is None or not reading.for_everybody(self.view, self.where):
            return self.groups.get(uuid)
        return " ".join(bodies.groups_of(self.view.conn, made.entry, made.deps))

    def types(self, locale: str) -> set[str]:
        """The types of all that these bodies depend on."""
        out = set(bodies.types_behind(self.view.conn, self.uuids, locale))
        for (_, _), one in self.made.items():
            out |= set(entries.types_of(self.view.conn, [target for target, _ in one.deps if target]))
        return out


@dataclass(frozen=True, slots=True)
class Answer:
    """A page as it is sent: bodies as they are, or as read where something of them was chosen, and what was wanted with them."""

    items: list[bytes]
    included: dict[str, bytes] | None
    referring: dict[str, dict[str, list[str]]] | None
    next: str
    types: list[str]
    """The types of all that it shows or depends on."""

    @property
    def data(self) -> bytes:
        """As JSON."""
        out = b'{"items":[' + b",".join(self.items) + b'],"next":' + json.dumps(self.next).encode()
        if self.included is not None:
            pairs = (json.dumps(uuid).encode() + b":" + body for uuid, body in self.included.items())
            out += b',"included":{' + b",".join(pairs) + b"}"
        if self.referring is not None:
            out += b',"referring":' + json.dumps(self.referring, separators=(",", ":")).encode()
        return out + b"}"


def answer(view: View, where: Place, wish: Wish) -> tuple[Answer, Bodies]:
    """A page of a list with all that is wanted of it, and the bodies that were made for it."""
    reading_lists.check_include(view, wish)
    page = reading_lists.page(view, where, wish)
    source = Bodies(view, Place() if where.limited else where)
    found = source.of(page.uuids, page.locale)
    if not wish.fallback:
        found = {uuid: data for uuid, data in found.items() if _in_its_own(data)}
    included: dict[str, bytes] | None = None
    referring: dict[str, dict[str, list[str]]] | None = None
    if wish.include:
        included = _included(source, found, wish, page.locale)
    if wish.referring:
        referring, theirs = _referring(view, where, found, wish, source, page.locale)
        included = (included or {}) | theirs
    items = list(found.values())
    if wish.fields:
        items = [_chosen(data, wish.fields) for data in items]
    if wish.groups:
        names = (source.groups_of(uuid, page.locale) for uuid in found)
        items = [with_groups(data, theirs) for data, theirs in zip(items, names, strict=True)]
    if wish.texts != texts.HTML:
        items = [texts.in_form(view.setup.types, data, wish.texts) for data in items]
        if included is not None:
            included = {u: texts.in_form(view.setup.types, data, wish.texts) for u, data in included.items()}
    types = {*(wish.types or view.setup.types), *source.types(page.locale)}
    return Answer(items, included, referring, page.next, sorted(types)), source


def with_groups(data: bytes, names: str | None) -> bytes:
    """A body that says what it depends on, where that is known."""
    said = json.dumps(names.split() if names is not None else None, separators=(",", ":"))
    return data[:-1] + b',"groups":' + said.encode() + b"}"


def _in_its_own(data: bytes) -> bool:
    body = json.loads(data)
    return bool(body["locale"] == body["wanted_locale"])


def _included(source: Bodies, found: Mapping[str, bytes], wish: Wish, locale: str) -> dict[str, bytes]:
    """What the entries of a page relate to along the paths, each once; what is on the page itself is not among them."""
    out: dict[str, bytes] = {}
    for path in wish.include:
        here = dict(found)
        for name in path.split("."):
            wanted = list(dict.fromkeys(u for data in here.values() for u in _related(data, name)))
            new = [uuid for uuid in wanted if uuid not in out and uuid not in found]
            if len(out) + len(new) > MOST_INCLUDED:
                raise Invalid(
                    [FieldProblem("include", said("reading_lists.too_many_included", most=MOST_INCLUDED))]
                )
            out |= source.of(new, locale)
            here = {uuid: data for uuid in wanted if (data := out.get(uuid) or found.get(uuid))}
    return out


def _related(data: bytes, name: str) -> list[str]:
    value = json.loads(data)["fields"].get(name)
    some = value if isinstance(value, list) else [value]
    return [one for one in some if isinstance(one, str)]


def _referring(
    view: View, where: Place, found: Mapping[str, bytes], wish: Wish, source: Bodies, locale: str
) -> tuple[dict[str, dict[str, list[str]]], dict[str, bytes]]:
    """What refers to the entries of a page, by the relation and the entry, newest first; and the bodies of that."""
    out: dict[str, dict[str, list[str]]] = {}
    theirs: dict[str, bytes] = {}
    for name in wish.referring:
        type, by = reading_lists.referring_by(view, name)
        for uuid in found:
            asked = replace(
                Wish(), types=(type,), locale=locale, where=((f"where.{by}", uuid),), limit=MOST_REFERRING
            )
            have = reading_lists.page(view, where, asked).uuids
            new = [one for one in have if one not in theirs]
            if len(theirs) + len(new) > MOST_INCLUDED:
                raise Invalid(
                    [FieldProblem("referring", said("reading_lists.too_many_included", most=MOST_INCLUDED))]
                )
            theirs |= source.of(new, locale)
            out.setdefault(name, {})[uuid] = [one for one in have if one in theirs]
    return out, {uuid: data for uuid, data in theirs.items() if uuid not in found}


def _chosen(data: bytes, names: Sequence[str]) -> bytes:
    """A body with some of its fields, and the references that these have."""
    body: dict[str, Any] = json.loads(data)
    body["fields"] = {name: value for name, value in body["fields"].items() if name in names}
    text = json.dumps(body["fields"])
    body["references"] = {uuid: one for uuid, one in body["references"].items() if uuid in text}
    body["openings"] = {path: one for path, one in body["openings"].items() if path.split(":")[0] in names}
    return json.dumps(body, ensure_ascii=False, separators=(",", ":")).encode()
