"""Bodies for those who read: an entry with all that its page shows, resolved, and with what it depends on."""

from __future__ import annotations

import html
import json
import re
from collections.abc import Iterable, Mapping
from typing import Any

from hawthorn.core import contenttypes, etags, richtext, slots
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.fields import Field
from hawthorn.core.kinds import query
from hawthorn.core.kinds.file import focus_of
from hawthorn.core.limited import HIDDEN
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import EMPTY, together
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import permission
from hawthorn.operations.delivery import limiting, reading
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.runtime.act import View
from hawthorn.operations.search import finding
from hawthorn.store import dispatches, entries, previews, revisions, standings
from hawthorn.store.entries import Entry
from hawthorn.store.standings import RELEASE

ALWAYS = 1 << 62
"""The end of a body that no passing of time changes."""
_LOOKED_AT = 1000
"""So many entries, the newest, are looked at for a list by a rule."""
_DAY = 86_400 * SECOND


@dataclass(frozen=True, slots=True)
class Rendered:
    """A body with what it depends on, (entry, facet), and the instant until which it holds."""

    etag: str
    data: bytes
    entry: int
    deps: frozenset[tuple[int, str]]
    ends: int = ALWAYS


def render(view: View, uuid: str, locale: str, where: Place) -> Rendered:
    """The body of an entry for a wanted locale; raises `NotFound` when nothing stands there."""
    row = entries.entry(view.conn, uuid)
    if row is None or reading.closed(view, row.type) or reading.hides(view, row, where):
        raise reading.nothing(uuid)
    made = _Renderer(view, where, view.setup.locale(locale) if locale else row.source_locale, row)
    body = made.body(row)
    if body is None:
        raise reading.nothing(uuid)
    data = json.dumps(body, ensure_ascii=False, separators=(",", ":")).encode()
    etag = etags.of(data)
    return Rendered(etag, data, row.id, frozenset(made.deps), made.ends)


class _Renderer:
    def __init__(self, view: View, where: Place, locale: str, row: Entry) -> None:
        self.view = view
        self.locale = locale
        # Outside the limits of a preview, or of somebody's rights, a page is what it is for everybody, whatever it shows.
        self.where = reading.place_of(view, row, where)
        self.deps: set[tuple[int, str]] = set()
        self.ends = ALWAYS
        self.targets: dict[str, dict[str, Any] | None] = {}
        self.wholes: dict[str, tuple[ContentType, dict[str, Any]]] = {}

    def body(self, row: Entry) -> dict[str, Any] | None:
        found = self._edition(row, self.where)
        if found is None:
            return None
        locale, revision, _, where = found
        self.where = where
        kind = self.view.setup.type(row.type)
        if self._locked(row, where):
            return self._shut(row, kind, found)
        values, following = self._with_layout(kind, self._values(row, kind, locale, revision, where))
        derived = contenttypes.derived(kind, values)
        said = contenttypes.search_and_sharing(kind, values | derived)
        self._gather(contenttypes.referred(kind, values) | ({said["picture"]} if said["picture"] else set()))
        shown = {uuid: t for uuid, t in sorted(self.targets.items()) if t is not None}
        for uuid, (other, theirs) in self.wholes.items():
            shown[uuid]["fields"] = self._resolved(other, theirs, shown, {})
        openings: dict[str, str] = {}
        values |= derived
        resolved = self._resolved(kind, values, shown, openings)
        return {
            **self._head(row, kind, found, values),
            "fields": resolved,
            "openings": openings,
            "regions": following,
            "search": {
                "title": said["title"],
                "description": said["description"],
                "picture": (shown.get(said["picture"] or "") or {}).get("file"),
            },
            "references": shown,
            "locales": self._locales(row),
            **({"limited": row.limited} if row.limited else {}),
            **({} if self.where.plain else {"shown": self._shown()}),
        }

    def _locked(self, row: Entry, where: Place) -> bool:
        """Whether whoever reads gets no more than the title."""
        return bool(row.limited) and not limiting.lets(self.view, row, plain=where.plain)

    def _head(
        self, row: Entry, kind: ContentType, found: tuple[str, int, int, Place], values: Mapping[str, Any]
    ) -> dict[str, Any]:
        """What is said of an entry whether or not it may be read whole."""
        locale, revision, since, where = found
        return {
            "id": row.uuid,
            "type": kind.name,
            "locale": locale,
            "wanted_locale": self.locale,
            "title": values.get(kind.title, ""),
            "path": self._path(row.id, locale, where) if kind.addressed else None,
            "revision": revisions.number(self.view.conn, revision) if revision else 0,
            "since": iso(since),
            "date": contenttypes.shown_date(kind, values) or self._first_out(row.id),
            "pinned": bool(kind.pinned and values.get(kind.pinned)),
        }

    def _shut(self, row: Entry, kind: ContentType, found: tuple[str, int, int, Place]) -> dict[str, Any]:
        """A locked entry for whoever has not given its phrase: that it is there, and what it is called."""
        values = self._values(row, kind, found[0], found[1], found[3])
        return {
            **self._head(row, kind, found, values),
            "fields": {},
            "openings": {},
            "regions": {},
            "search": {"title": values.get(kind.title, ""), "description": "", "picture": None},
            "references": {},
            "locales": self._locales(row),
            "limited": row.limited,
            "locked": True,
        }

    def _shown(self) -> dict[str, Any]:
        """Where it is read, so that a page can say what it is a preview of."""
        where = self.where
        row = dispatches.by_id(self.view.conn, where.dispatch) if where.dispatch else None
        return {
            "stage": self.view.setup.stage_names[where.stage],
            "at": iso(where.at) if where.at is not None else None,
            "strand": where.strand,
            "dispatch": row.uuid if row is not None else None,
            "dispatch_name": row.name if row is not None else "",
        }

    def _values(
        self, row: Entry, kind: ContentType, locale: str, revision: int, where: Place
    ) -> dict[str, Any]:
        own = revisions.content(self.view.conn, revision) if revision else EMPTY
        values = together(kind, reading.content_at(self.view, row.id, COMMON, where), own)
        values |= self._typed(row.id, locale, where)
        hidden = {f.name for f in kind.fields if not f.public} | {kind.internal}
        if hidden & values.keys() and (where.plain or not permission.readable(self.view, row, locale)):
            # What colleagues call it, and what they note there, is for colleagues.
            values = {name: value for name, value in values.items() if name not in hidden}
        return values

    def _typed(self, entry: int, locale: str, where: Place) -> dict[str, Any]:
        """What whoever looks is typing into an entry; None is what they emptied."""
        if where.limits is None or not where.limits.preview:
            return {}
        return previews.typed(self.view.conn, where.limits.preview, entry, locale)

    def _with_layout(
        self, kind: ContentType, values: dict[str, Any]
    ) -> tuple[dict[str, Any], dict[str, str]]:
        """The values with those of the layout in empty regions, and the layout (UUID) of each region that follows it."""
        values = {k: v for k, v in values.items() if v is not None}
        if not kind.regions:
            return values, {}
        row = entries.single(self.view.conn, kind.layout)
        found = self._edition(row, self.where) if row is not None else None
        if row is None or found is None or self._locked(row, found[3]):
            return values, {}
        layout = self.view.setup.type(kind.layout)
        theirs = self._values(row, layout, found[0], found[1], found[3])
        whole, names = contenttypes.following(kind, values, theirs)
        return whole, dict.fromkeys(names, row.uuid)

    def _gather(self, wanted: Iterable[str]) -> None:
        """Look up what is referred to, and what common blocks refer to in turn."""
        waiting = sorted(wanted)
        while waiting:
            uuid = waiting.pop(0)
            if uuid in self.targets:
                continue
            self.targets[uuid] = self._target(uuid)
            if uuid in self.wholes:
                waiting += sorted(contenttypes.referred(*self.wholes[uuid]) - set(self.targets))

    def _first_out(self, entry: int) -> str | None:
        """When any locale of it was released first."""
        first = standings.first_out(
            self.view.conn, RELEASE, entry, self.view.now if self.where.at is None else self.where.at
        )
        return None if first is None else iso(first)

    def _edition(self, row: Entry, where: Place) -> tuple[str, int, int, Place] | None:
        """The edition in the wanted locale, else in the source, with where it is read; what is absent is depended on too.
        An edition that is only being typed has revision 0."""
        self.deps |= {(row.id, "out"), (row.id, "address")}
        for locale in self.view.setup.chain(self.locale, row.source_locale):
            edition = entries.edition(self.view.conn, row.id, locale)
            there = reading.by_rights(self.view, row, where, locale)
            if row.limited == HIDDEN and not limiting.lets(self.view, row, plain=there.plain):
                continue
            found = reading.revision_at(self.view, edition.id, there) if edition else None
            if found is not None:
                return locale, found[0], found[1], there
            if self._typed(row.id, locale, there):
                return locale, 0, self.view.now, there
        return None

    def _target(self, uuid: str) -> dict[str, Any] | None:
        row = entries.entry(self.view.conn, uuid)
        if row is None:
            return None
        kind = self.view.setup.type(row.type)
        if self.where.plain and not kind.public:
            # One body is kept for all, so it shows what everybody may read.
            return None
        # What a page shows whole belongs to it; what it only leads to is seen as far as the limits go.
        part = kind.common or kind.file is not None
        where = self.where if part else reading.place_of(self.view, row, self.where)
        found = self._edition(row, where)
        if found is None:
            return None
        where = found[3]
        values = self._values(row, kind, found[0], found[1], where)
        values = {k: v for k, v in values.items() if v is not None}
        locked = self._locked(row, where)
        if kind.common and not locked:
            self.wholes[uuid] = (kind, values)
        out: dict[str, Any] = {
            "id": uuid,
            "type": kind.name,
            "locale": found[0],
            "title": values.get(kind.title, ""),
            "path": self._path(row.id, found[0], where) if kind.addressed else None,
        }
        file = values.get(kind.file.name) if kind.file else None
        if locked:
            out["locked"] = True
        elif file:
            out["file"] = self._file(kind, values, file)
        return out

    def _file(self, kind: ContentType, values: Mapping[str, Any], file: Mapping[str, Any]) -> dict[str, Any]:
        self.deps.add((0, "rendition"))
        alt = next((values.get(f.name, "") for f in kind.fields if f.counts_as_alt), "")
        caption = values.get("caption")
        tracks = [
            {"href": f"/read/files/{track['sha256']}", "locale": self.locale}
            for spec in kind.fields
            if spec.kind == "file" and spec is not kind.file
            for track in [values.get(spec.name)]
            if isinstance(track, dict) and track.get("media_type") == "text/vtt"
        ]
        return {
            "href": f"/read/files/{file['sha256']}",
            "alt": alt,
            **({"caption": caption} if caption else {}),
            **{k: file[k] for k in ("width", "height", "media_type", "name", "bytes") if k in file},
            **({"focus": list(file["focus"])} if file.get("focus") else {}),
            **({"captions": tracks} if tracks else {}),
            "renditions": renditions(self.view, file),
        }

    def _path(self, entry: int, locale: str, where: Place) -> str | None:
        return reading.path_at(self.view, entry, locale, where, self.deps)

    def _locales(self, row: Entry) -> list[dict[str, Any]]:
        out = []
        for edition in entries.editions(self.view.conn, row.id):
            tag = edition.locale
            there = reading.by_rights(self.view, row, self.where, tag)
            if tag != COMMON and reading.revision_at(self.view, edition.id, there):
                out.append({"locale": tag, "path": self._path(row.id, tag, self.where)})
        return out

    def _resolved(
        self,
        kind: ContentType,
        values: Mapping[str, Any],
        shown: dict[str, dict[str, Any]],
        openings: dict[str, str],
    ) -> dict[str, Any]:
        resolver = _Resolver(self, shown, openings)
        return {
            spec.name: resolver.value(spec, values[spec.name], spec.name)
            for spec in kind.fields
            if values.get(spec.name) is not None
        }

    def query(self, value: Mapping[str, Any]) -> dict[str, Any]:
        """A list by its rule, with what it holds where the page is read."""
        rule = query.rule_of(value)
        self.deps |= {(0, f"list:{type}") for type in rule.types}
        topics = set(finding.below_topic(self.view, rule.topic)) if rule.topic else set()
        now = self.view.now if self.where.at is None else self.where.at
        since = now - rule.days * _DAY if rule.days else None
        fits: list[tuple[int, dict[str, Any]]] = []
        types = self.view.setup.types
        known = [t for t in rule.types if t in types and (types[t].public or not self.where.plain)]
        found = reading.candidates(self.view, self.where, known, self.locale, _LOOKED_AT) if known else []
        for one in found:
            if since is not None and one.sort < since:
                continue
            line = self._listed(one, topics, rule.tag)
            if line is None:
                continue
            fits.append((one.sort, line))
            if rule.order == "newest" and len(fits) == rule.limit:
                break
        if rule.order == "oldest":
            fits.sort(key=lambda pair: pair[0])
        elif rule.order == "title":
            fits.sort(key=lambda pair: str(pair[1]["title"]).casefold())
        if rule.days and self.where.at is None and fits:
            self.ends = min(self.ends, min(sort for sort, _ in fits) + rule.days * _DAY)
        return {"rule": dict(value), "items": [line for _, line in fits[: rule.limit]]}

    def _listed(self, one: reading.Listed, topics: set[str], tag: str) -> dict[str, Any] | None:
        row = entries.entry_by_id(self.view.conn, one.entry)
        where = reading.place_of(self.view, row, self.where)
        found = self._edition(row, where)
        if found is None:
            return None
        kind = self.view.setup.type(row.type)
        where = found[3]
        values = self._values(row, kind, found[0], found[1], where)
        locked = self._locked(row, where)
        if locked and (topics or tag):
            # What it is about is part of what it holds.
            return None
        if topics and not topics & contenttypes.referred(kind, values):
            return None
        if tag and tag not in contenttypes.tags(kind, values):
            return None
        said = contenttypes.search_and_sharing(kind, values | contenttypes.derived(kind, values))
        return {
            "id": row.uuid,
            "type": kind.name,
            "locale": found[0],
            "title": values.get(kind.title, ""),
            "path": self._path(row.id, found[0], where) if kind.addressed else None,
            "date": contenttypes.shown_date(kind, values) or iso(one.sort),
            "summary": "" if locked else said["description"] or "",
        }


def renditions(view: View, file: Mapping[str, Any]) -> dict[str, dict[str, Any]]:
    """Where the renditions of a stored picture are found, by the name of the crop."""
    if not file.get("width") or file.get("media_type") == "image/svg+xml":
        return {}
    own = _ENDINGS.get(str(file.get("media_type")), "png")
    x, y = focus_of(file).split(",")
    out: dict[str, dict[str, Any]] = {}
    for crop in view.setup.crops.values():
        width, height = crop.size(int(file["width"]), int(file["height"]))
        start = f"/read/files/{file['sha256']}/{crop.name}-{crop.shape}-{x}-{y}"
        out[crop.name] = {
            "width": width,
            "height": height,
            "webp": f"{start}.webp",
            "avif": f"{start}.avif",
            "original": f"{start}.{own}",
        }
    return out


_ENDINGS = {"image/png": "png", "image/jpeg": "jpg", "image/webp": "webp", "image/gif": "png"}


class _Resolver:
    """Values as readers get them: links to entries as paths, texts without their opening marks, lists by their rules."""

    def __init__(
        self, renderer: _Renderer, targets: dict[str, dict[str, Any]], openings: dict[str, str]
    ) -> None:
        self.renderer = renderer
        self.targets = targets
        self.openings = openings

    def value(self, spec: Field, value: Any, path: str) -> Any:
        if spec.kind == "blocks" or (spec.kind == "group" and spec.many):
            top = path.split(":", 1)[0]
            return [
                {
                    **item,
                    "fields": self.members(slots.form_of(spec, item), item["fields"], f"{top}:{item['id']}"),
                }
                for item in value
            ]
        if spec.kind == "group":
            return self.members(spec.fields, value, path)
        if isinstance(value, list):
            return [self.one(spec, single, path) for single in value]
        return self.one(spec, value, path)

    def members(self, specs: tuple[Field, ...], values: dict[str, Any], path: str) -> dict[str, Any]:
        return {f.name: self.value(f, values[f.name], f"{path}:{f.name}") for f in specs if f.name in values}

    def one(self, spec: Field, value: Any, path: str) -> Any:
        if spec.kind == "rich":
            text, opening = richtext.split_opening(value)
            if opening:
                self.openings[path] = self.links(opening)
            return self.links(text)
        if spec.kind == "link" and value["href"].startswith("urn:uuid:"):
            target = self.targets.get(value["href"].removeprefix("urn:uuid:")) or {}
            return {"href": target.get("path"), "text": value.get("text") or target.get("title", "")}
        if spec.kind == "query":
            return self.renderer.query(value)
        return value

    def links(self, text: str) -> str:
        """`urn:uuid:` links become paths; a link to what is not there becomes its words alone."""

        def link(found: re.Match[str]) -> str:
            target = self.targets.get(found[1])
            if target is None or not target.get("path"):
                return found[2]
            return f'<a href="{html.escape(target["path"])}">{found[2]}</a>'

        def picture(found: re.Match[str]) -> str:
            file = (self.targets.get(found[1]) or {}).get("file")
            if not file:
                return ""
            size = "".join(f' {k}="{file[k]}"' for k in ("width", "height") if k in file)
            return f'<img src="{html.escape(file["href"])}" alt="{html.escape(file["alt"])}"{size}>'

        text = re.sub(r'<a href="urn:uuid:([0-9a-f-]{36})">(.*?)</a>', link, text)
        text = re.sub(r'<img src="urn:uuid:([0-9a-f-]{36})">', picture, text)
        return text.replace("<figure></figure>", "")
