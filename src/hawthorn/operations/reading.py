"""Reading what stands: bodies for those who read, rendered once and kept with what they depend on."""

from __future__ import annotations

import hashlib
import html
import json
import re
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from hawthorn.core import contenttypes, richtext, slots, timeline
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import Invalid, NotFound, Refused
from hawthorn.core.fields import Field
from hawthorn.core.timeline import Foreseen, iso
from hawthorn.operations import permission
from hawthorn.operations.act import View
from hawthorn.store import dispatches, entries, files, standings
from hawthorn.store.standings import DRAFT, RELEASE


@dataclass(frozen=True, slots=True)
class Place:
    """Where somebody reads: at a stage, and at an instant (None is now)."""

    stage: int = RELEASE
    at: int | None = None

    @property
    def plain(self) -> bool:
        """Whether it is what everybody reads: released, now."""
        return self.stage == RELEASE and self.at is None


@dataclass(frozen=True, slots=True)
class Rendered:
    """A body with what it depends on: (entry, facet)."""

    etag: str
    data: bytes
    entry: int
    deps: frozenset[tuple[int, str]]


def place(view: View, standing: str = "", at: str = "") -> Place:
    """The stage and instant that were asked for, if they may be read. A key's first stage is its default."""
    name = standing or (view.identity.stages[0] if view.identity.stages else "release")
    if name not in view.setup.stages:
        raise Invalid(f"“{name}” is not a stage.", remedy=f"Choose one of {', '.join(view.setup.stages)}.")
    stage = view.setup.stages[name]
    instant = timeline.parse_instant(at) if at else None
    if stage == RELEASE and instant is None:
        return Place()
    if view.identity.kind == "program" and not view.identity.stages:
        raise Refused(
            "Without a key only what is out now can be read.",
            remedy="Ask someone who sets up keys for one that lists the stage, or log in.",
            missing=f"stage {name}",
        )
    if view.identity.stages and name not in view.identity.stages:
        raise Refused(
            f"This key may not read what stands at {name}.",
            remedy=f"It may read {', '.join(view.identity.stages)}. Ask for a key that lists {name}.",
            missing=f"stage {name}",
        )
    if instant is not None and set(view.identity.stages) == {"release"}:
        # What was withdrawn, or is yet to come, is not for those who may only read what is out.
        raise Refused(
            "This key may only read what is out now.",
            remedy="Ask for a key that lists a stage before release.",
            missing="a stage before release",
        )
    permission.require(view, "read", Subject(stage=name))
    return Place(stage, instant)


def revision_at(view: View, edition: int, where: Place) -> tuple[int, int] | None:
    """The revision that a reader at a stage sees of an edition and since when: at the lowest rung that holds any."""
    rung = view.setup.rungs[where.stage]
    ahead = _foreseen(view, edition, where)
    for stage, level in sorted(view.setup.rungs.items(), key=lambda pair: pair[1]):
        if level < rung:
            continue
        if stage == DRAFT:
            found = _draft_at(view, edition, where.at)
        else:
            found = _standing_at(view, edition, stage, where, [f for f in ahead if f.stage == stage])
        if found is not None:
            return found
    return None


def _draft_at(view: View, edition: int, at: int | None) -> tuple[int, int] | None:
    if at is None or at >= view.now:
        row = view.conn.execute(
            "SELECT r.id, r.at FROM strand s JOIN revision r ON r.id = s.head WHERE s.edition = ? AND s.name = 'draft'",
            (edition,),
        ).fetchone()
    else:
        row = view.conn.execute(
            "SELECT r.id, r.at FROM strand s JOIN revision r ON r.edition = s.edition AND r.strand = s.id AND r.at <= ? "
            "WHERE s.edition = ? AND s.name = 'draft' ORDER BY r.id DESC LIMIT 1",
            (at, edition),
        ).fetchone()
    return (row[0], row[1]) if row else None


def _standing_at(
    view: View, edition: int, stage: int, where: Place, ahead: list[Foreseen]
) -> tuple[int, int] | None:
    if ahead:
        latest = max(ahead, key=lambda f: (f.instant, f.dispatch))
        return (latest.revision, latest.instant) if latest.revision is not None else None
    found = standings.at(view.conn, edition, stage, view.now if where.at is None else where.at)
    return (found.revision, found.since) if found else None


def _foreseen(view: View, edition: int, where: Place) -> list[Foreseen]:
    if where.at is None or where.at <= view.now:
        return []
    return [
        Foreseen(row["instant"], row["dispatch"], edition, row["stage"], row["revision"])
        for row in dispatches.planned_for(view.conn, [edition])
        if row["instant"] <= where.at
    ]


def render(view: View, uuid: str, locale: str, where: Place) -> Rendered:
    """The body of an entry for a wanted locale; raises `NotFound` when nothing stands there."""
    row = entries.entry(view.conn, uuid)
    if row is None:
        raise _nothing(uuid)
    made = _Renderer(view, where, view.setup.locale(locale) if locale else row["source_locale"])
    body = made.body(row)
    if body is None:
        raise _nothing(uuid)
    data = json.dumps(body, ensure_ascii=False, separators=(",", ":")).encode()
    return Rendered(f'"{hashlib.sha256(data).hexdigest()[:24]}"', data, row["id"], frozenset(made.deps))


def _nothing(name: str) -> NotFound:
    return NotFound(
        f"Nothing called {name} can be read here.",
        remedy="Check the address, or the stage that is asked for.",
    )


class _Renderer:
    def __init__(self, view: View, where: Place, locale: str) -> None:
        self.view = view
        self.where = where
        self.locale = locale
        self.deps: set[tuple[int, str]] = set()

    def body(self, row: sqlite3.Row) -> dict[str, Any] | None:
        found = self._edition(row)
        if found is None:
            return None
        locale, revision, since = found
        kind = self.view.setup.type(row["type"])
        values = contenttypes.together(
            kind, self._common(row["id"]), entries.content(self.view.conn, revision).fields
        )
        referred = contenttypes.referred(kind, values)
        targets = {uuid: self._target(uuid) for uuid in sorted(referred)}
        shown = {uuid: t for uuid, t in targets.items() if t is not None}
        openings: dict[str, str] = {}
        values |= contenttypes.derived(kind, values)
        for spec in kind.fields:
            if spec.name in values:
                values[spec.name] = _resolved(spec, values[spec.name], shown, spec.name, openings)
        slug = kind.slug
        return {
            "id": row["uuid"],
            "type": kind.name,
            "locale": locale,
            "wanted_locale": self.locale,
            "title": values.get(kind.title, ""),
            "path": self._path(row["id"], locale) if slug else None,
            "revision": entries.number(self.view.conn, revision),
            "since": iso(since),
            "date": contenttypes.shown_date(kind, values) or self._first_out(row["id"]),
            "pinned": bool(kind.pinned and values.get(kind.pinned)),
            "fields": {f.name: values[f.name] for f in kind.fields if f.name in values},
            "openings": openings,
            "references": shown,
            "locales": self._locales(row),
        }

    def _first_out(self, entry: int) -> str | None:
        """When any locale of it was released first."""
        row = self.view.conn.execute(
            "SELECT min(s.since) FROM edition d JOIN standing s ON s.edition = d.id AND s.stage = ? "
            "WHERE d.entry = ? AND d.locale <> '*' AND s.since <= ?",
            (RELEASE, entry, self.view.now if self.where.at is None else self.where.at),
        ).fetchone()
        return iso(row[0]) if row[0] is not None else None

    def _edition(self, row: sqlite3.Row) -> tuple[str, int, int] | None:
        """The edition in the wanted locale, else in the source; what is absent is depended on too."""
        self.deps |= {(row["id"], "out"), (row["id"], "address")}
        for locale in dict.fromkeys((self.locale, row["source_locale"])):
            edition = entries.edition(self.view.conn, row["id"], locale)
            found = revision_at(self.view, edition["id"], self.where) if edition else None
            if found is not None:
                return locale, found[0], found[1]
        return None

    def _common(self, entry: int) -> dict[str, Any]:
        common = entries.edition(self.view.conn, entry, COMMON)
        found = revision_at(self.view, common["id"], self.where) if common else None
        return dict(entries.content(self.view.conn, found[0]).fields) if found else {}

    def _target(self, uuid: str) -> dict[str, Any] | None:
        row = entries.entry(self.view.conn, uuid)
        if row is None:
            return None
        found = self._edition(row)
        if found is None:
            return None
        kind = self.view.setup.type(row["type"])
        values = {**self._common(row["id"]), **entries.content(self.view.conn, found[1]).fields}
        out: dict[str, Any] = {
            "id": uuid,
            "type": kind.name,
            "locale": found[0],
            "title": values.get(kind.title, ""),
            "path": self._path(row["id"], found[0]) if kind.slug else None,
        }
        file = next((values[f.name] for f in kind.fields if f.kind == "file" and f.name in values), None)
        if file:
            alt = next((values.get(f.name, "") for f in kind.fields if f.counts_as_alt), "")
            out["file"] = {
                "href": f"/read/files/{file['sha256']}",
                "alt": alt,
                **{k: file[k] for k in ("width", "height", "media_type") if k in file},
            }
        return out

    def _path(self, entry: int, locale: str) -> str | None:
        path = path_of(self.view, entry, locale, self.where.stage, self.deps)
        if path is None and self.where.stage != RELEASE:
            path = path_of(self.view, entry, locale, RELEASE, self.deps)
        return path

    def _locales(self, row: sqlite3.Row) -> list[dict[str, Any]]:
        out = []
        for edition in entries.editions(self.view.conn, row["id"]):
            if edition["locale"] != COMMON and revision_at(self.view, edition["id"], self.where):
                out.append({"locale": edition["locale"], "path": self._path(row["id"], edition["locale"])})
        return out


def _resolved(
    spec: Field, value: Any, targets: dict[str, dict[str, Any]], path: str, openings: dict[str, str]
) -> Any:
    """A value as readers get it: links to entries as paths, texts without their opening marks."""
    if spec.kind == "blocks" or (spec.kind == "group" and spec.many):
        return [
            {
                **item,
                "fields": _members(
                    slots.form_of(spec, item), item["fields"], targets, f"{path}:{item['id']}", openings
                ),
            }
            for item in value
        ]
    if spec.kind == "group":
        return _members(spec.fields, value, targets, path, openings)
    if isinstance(value, list):
        return [_resolved_one(spec, one, targets, path, openings) for one in value]
    return _resolved_one(spec, value, targets, path, openings)


def _members(
    specs: tuple[Field, ...],
    values: dict[str, Any],
    targets: dict[str, dict[str, Any]],
    path: str,
    openings: dict[str, str],
) -> dict[str, Any]:
    return {
        f.name: _resolved(f, values[f.name], targets, f"{path}:{f.name}", openings)
        for f in specs
        if f.name in values
    }


def _resolved_one(
    spec: Field, value: Any, targets: dict[str, dict[str, Any]], path: str, openings: dict[str, str]
) -> Any:
    if spec.kind == "rich":
        text, opening = richtext.split_opening(value)
        if opening:
            openings[path] = _resolve_links(opening, targets)
        return _resolve_links(text, targets)
    if spec.kind == "link" and value["href"].startswith("urn:uuid:"):
        target = targets.get(value["href"].removeprefix("urn:uuid:")) or {}
        text = value.get("text") or target.get("title", "")
        return {"href": target.get("path"), "text": text}
    return value


def _resolve_links(text: str, targets: dict[str, dict[str, Any]]) -> str:
    """`urn:uuid:` links become paths; a link to what is not there becomes its words alone."""

    def link(found: re.Match[str]) -> str:
        target = targets.get(found[1])
        if target is None or not target.get("path"):
            return found[2]
        return f'<a href="{html.escape(target["path"])}">{found[2]}</a>'

    def picture(found: re.Match[str]) -> str:
        file = (targets.get(found[1]) or {}).get("file")
        if not file:
            return ""
        size = "".join(f' {k}="{file[k]}"' for k in ("width", "height") if k in file)
        return f'<img src="{html.escape(file["href"])}" alt="{html.escape(file["alt"])}"{size}>'

    text = re.sub(r'<a href="urn:uuid:([0-9a-f-]{36})">(.*?)</a>', link, text)
    text = re.sub(r'<img src="urn:uuid:([0-9a-f-]{36})">', picture, text)
    return text.replace("<figure></figure>", "")


def path_of(
    view: View, entry: int, locale: str, stage: int, deps: set[tuple[int, str]] | None = None
) -> str | None:
    """The path of a page at a stage, from its own slug and those of the pages above it."""
    parts: list[str] = []
    at, seen = entry, set[int]()
    while at and at not in seen:
        seen.add(at)
        if deps is not None:
            deps.add((at, "address"))
        found = standings.address_of(view.conn, at, stage, locale)
        if found is None and at != entry:
            # A page above that has no edition in this locale lends its source's slug.
            found = standings.address_of(
                view.conn, at, stage, entries.entry_by_id(view.conn, at)["source_locale"]
            )
        if found is None:
            return None
        parts.append(found[1])
        at = found[0]
    return "/" + "/".join([locale, *reversed(parts)])


def find_path(view: View, path: str, where: Place) -> tuple[str, str, str | None]:
    """The entry and locale at a path, resolved level by level, and where to go instead for an old address."""
    locale, *slugs = [p for p in path.split("/") if p]
    tag = view.setup.locale(locale)
    parent, moved = 0, False
    for slug in slugs:
        folded = slug.casefold()
        found = None
        for stage in (where.stage, RELEASE):
            found = standings.taken(view.conn, stage, tag, parent, folded) or _from_source(
                view, stage, tag, parent, folded
            )
            if found is not None:
                break
        if found is None:
            found = standings.formerly(view.conn, RELEASE, tag, parent, folded)
            moved = moved or found is not None
        if found is None:
            raise _nothing(path)
        parent = found
    if not parent:
        raise _nothing(path)
    uuid = entries.entry_by_id(view.conn, parent)["uuid"]
    return uuid, tag, path_of(view, parent, tag, where.stage) if moved else None


def _from_source(view: View, stage: int, locale: str, parent: int, slug: str) -> int | None:
    """A page above without an edition in this locale is found by its source's slug."""
    row = view.conn.execute(
        "SELECT a.entry FROM address a JOIN entry e ON e.id = a.entry AND e.source_locale = a.locale "
        "WHERE a.stage = ? AND a.parent = ? AND a.slug = ? AND a.until IS NULL AND a.locale <> ? AND NOT EXISTS "
        "(SELECT 1 FROM address o WHERE o.entry = a.entry AND o.stage = a.stage AND o.locale = ? AND o.until IS NULL) LIMIT 1",
        (stage, parent, slug, locale, locale),
    ).fetchone()
    return row[0] if row else None


def listed(
    view: View, where: Place, *, type: str, locale: str, limit: int, cursor: str
) -> tuple[list[tuple[str, str]], str]:
    """Entries that stand somewhere, pinned ones and then those with the latest date first: (UUID, wanted locale), and the
    next cursor.

    An entry without an edition in the wanted locale is listed in its source's.
    """
    tag = view.setup.locale(locale) if locale else next(iter(view.setup.locales))
    if type:
        view.setup.type(type)
    rung = view.setup.rungs[where.stage]
    stages = [s for s, level in view.setup.rungs.items() if level >= rung and s != DRAFT]
    pinned, before, start = _cursor(cursor)
    if where.stage == DRAFT:
        sql = (
            "SELECT e.uuid, 0 AS pinned, s.updated_at AS sort, s.edition FROM summary s JOIN entry e ON e.id = s.entry "
            "WHERE s.locale = e.source_locale AND e.removed_at IS NULL AND (?1 = '' OR s.type = ?1) "
            "AND (s.updated_at, s.edition) < (?4, ?5) AND ?2 = ?2 AND ?3 = ?3 AND ?7 = ?7 "
            "ORDER BY s.updated_at DESC, s.edition DESC LIMIT ?6"
        )
    else:
        sql = (
            "SELECT e.uuid, l.pinned, l.sort, l.edition FROM listed l JOIN entry e ON e.id = l.entry "
            "WHERE l.stage IN (SELECT value FROM json_each(?3)) AND l.until IS NULL AND (?1 = '' OR l.type = ?1) "
            "AND (l.locale = ?2 OR (l.locale = e.source_locale AND NOT EXISTS (SELECT 1 FROM listed o "
            "WHERE o.entry = l.entry AND o.stage IN (SELECT value FROM json_each(?3)) AND o.locale = ?2 AND o.until IS NULL))) "
            "AND (l.pinned, l.sort, l.edition) < (?7, ?4, ?5) GROUP BY l.entry "
            "ORDER BY l.pinned DESC, l.sort DESC, l.edition DESC LIMIT ?6"
        )
    rows = view.conn.execute(
        sql, (type, tag, json.dumps(stages), before, start, limit + 1, pinned)
    ).fetchall()
    last = rows[limit - 1] if len(rows) > limit else None
    more = f"{last['pinned']}.{last['sort']}.{last['edition']}" if last else ""
    return [(row["uuid"], tag) for row in rows[:limit]], more


def _cursor(text: str) -> tuple[int, int, int]:
    if not text:
        return 1 << 62, 1 << 62, 1 << 62
    try:
        pinned, at, edition = (int(part) for part in text.split("."))
        return pinned, at, edition
    except ValueError:
        raise Invalid("The cursor is not one of ours.", remedy="Start from the first page.") from None


def file(view: View, sha256: str, where: Place) -> sqlite3.Row:
    """A stored file, if something that stands where the reader may look holds it."""
    row = files.find(view.conn, sha256)
    visible = row is not None and (where.stage != RELEASE or files.is_out(view.conn, sha256, RELEASE))
    if row is None or not visible:
        raise _nothing(sha256[:12])
    return row


def best_locale(view: View, wanted: str, header: Iterable[tuple[str, float]]) -> str:
    """The locale to read in: the one asked for, else the best of `Accept-Language` (RFC 9110 section 12.5.4)."""
    if wanted:
        return view.setup.locale(wanted)
    for tag, _ in sorted(header, key=lambda pair: -pair[1]):
        for have in view.setup.locales:
            if have.lower() == tag.lower() or have.lower() == tag.split("-")[0].lower():
                return have
    return ""
