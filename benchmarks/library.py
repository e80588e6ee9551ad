"""A house with many entries of several types, locales, stages and people, from a seed and a size, in bulk."""

from __future__ import annotations

import json
import random
import sqlite3
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from benchmarks.made import WORDS, open_desk
from hawthorn.core import revision, richtext, searching
from hawthorn.core.contenttypes import ContentType
from hawthorn.operations.access import permission
from hawthorn.operations.content import changing
from hawthorn.operations.runtime.act import Act, Desk, new_uuid, setup_changed
from hawthorn.operations.search import indexing
from hawthorn.store import definitions, people
from hawthorn.store.standings import RELEASE

TYPES = ("label", "notice", "talk", "note")
LOCALES = ("en", "fr", "de", "ja", "ar")
PEOPLE = 12
TOPICS = 40
TAGS = 300
FOREIGN = {"ja": "灯台の光と港の船。", "ar": "الفنار والميناء القديم."}


def built(path: Path, count: int, seed: int = 11) -> Desk:
    """A desk on a new file with so many entries."""
    desk = open_desk(path)
    with desk.db.read() as conn:
        wim = people.by_handle(conn, "wim")
        assert wim is not None
        who = permission.identity_of(conn, wim.id)
    desk.write(who, _types)
    desk.db.write(
        lambda conn: _Filler(conn, desk.setup(conn).types, random.Random(seed), desk.clock.now()).fill(count)
    )
    return desk


def _types(act: Act) -> None:
    for locale in LOCALES:
        definitions.add_locale(act.conn, locale, locale)
    setup_changed(act)
    changing.define_type(
        act, {"name": "topic", "workflow": "short", "fields": [{"name": "title", "kind": "line"}]}
    )
    for name in TYPES:
        changing.define_type(
            act,
            {
                "name": name,
                "fields": [
                    {"name": "title", "kind": "line", "required": True},
                    {"name": "slug", "kind": "slug", "follows": "title"},
                    {"name": "body", "kind": "rich", "required": True},
                    {"name": "tags", "kind": "tags", "shared": True},
                    {"name": "topic", "kind": "reference", "shared": True, "types": ["topic"]},
                ],
            },
        )


class _Filler:
    """Writes rows of all tables together, entry by entry."""

    def __init__(self, conn: sqlite3.Connection, types: object, rng: random.Random, now: int) -> None:
        self.conn, self.rng, self.now = conn, rng, now
        self.kinds: dict[str, ContentType] = types  # type: ignore[assignment]
        self.rows: dict[str, list[tuple[object, ...]]] = {}
        self.heads: list[tuple[int, int]] = []
        self.next = {
            t: conn.execute(f"SELECT coalesce(max(id), 0) FROM {t}").fetchone()[0]
            for t in ("entry", "edition", "revision", "strand")
        }
        self.actors = [
            people.add_actor(conn, "person", f"p{n}", f"Person {n}", "", "", "UTC", 1) for n in range(PEOPLE)
        ]
        self.review = conn.execute("SELECT id FROM stage WHERE name = 'review'").fetchone()[0]
        self.terms: set[str] = set()

    def fill(self, count: int) -> None:
        topics = [self._entry(n, "topic", "en", {"title": f"Topic {n}"}, {}) for n in range(TOPICS)]
        for n in range(count):
            type, locale = self.rng.choice(TYPES), self.rng.choices(LOCALES, (12, 2, 2, 2, 2))[0]
            body = f"{' '.join(self.rng.choices(WORDS, k=60))} item{n} {FOREIGN.get(locale, '')}".strip()
            own = {
                "title": f"{self.rng.choice(WORDS).title()} {n}",
                "slug": f"x-{n}",
                "body": f"<p>{body}</p>",
            }
            if n % 50 == 0:
                own.pop("body")
            shared: dict[str, Any] = {"topic": self.rng.choice(topics)}
            shared["tags"] = [f"tag {int(TAGS * self.rng.random() ** 2)}"]
            self._entry(TOPICS + n, type, locale, own, shared)
            if n % 5000 == 4999:
                self._flush()
        self._flush()
        self.conn.executemany(
            "INSERT OR IGNORE INTO search_term VALUES (?)", [(t,) for t in sorted(self.terms)]
        )
        self._plan(max(count // 500, 40))

    def _entry(self, n: int, type: str, locale: str, own: dict[str, str], shared: dict[str, Any]) -> str:
        uuid = new_uuid(self.now + n * 1000)
        id = self._id("entry")
        actor = self.rng.choice(self.actors)
        at = self.now - (2_000_000 - n) * 1_000_000
        self._add(
            "entry (id, uuid, type, source_locale, created_at, actor)", (id, uuid, type, locale, at, actor)
        )
        stands = self.rng.choices(("draft", "review", "release", "behind"), (35, 2, 60, 3))[0]
        for where, values in ((locale, own), ("*", shared)):
            self._edition(id, n, type, where, values, actor, at, stands)
        return uuid

    def _edition(
        self,
        entry: int,
        n: int,
        type: str,
        locale: str,
        values: Mapping[str, Any],
        actor: int,
        at: int,
        stands: str,
    ) -> None:
        edition, made, strand = self._id("edition"), self._id("revision"), self._id("strand")
        kind = self.kinds[type]
        content = revision.snapshot(kind, dict(values))
        digest = revision.content_hash(edition, 1, values)
        self._add("edition (id, entry, locale)", (edition, entry, locale))
        self._add("strand (id, edition, name)", (strand, edition, "draft"))
        self.heads.append((made, strand))
        body = (json.dumps(values), revision.paragraph_ids_to_json(content.paragraph_ids))
        columns = "revision (id, edition, number, content_hash, type_version, fields, paragraph_ids, unit_map, strand, actor, actor_kind, at, note, origin)"
        self._add(
            columns, (made, edition, 1, digest, 1, *body, "{}", strand, actor, "person", at, "", "start")
        )
        missing = "[]" if locale == "*" or "body" in values or type == "topic" else '["body"]'
        behind = int(stands == "behind")
        summary = "summary (edition, entry, type, locale, title, missing, updated_at, actor, incomplete, behind, is_source)"
        self._add(
            summary,
            (
                edition,
                entry,
                type,
                locale,
                str(values.get("title", "")),
                missing,
                at,
                actor,
                int(missing != "[]"),
                behind,
                int(locale != "*"),
            ),
        )
        if stands != "draft":
            stage = self.review if stands == "review" else RELEASE
            self._add(
                "standing (edition, stage, revision, since, committed_at)", (edition, stage, made, at, at)
            )
            if locale != "*":
                listed = "listed (section, stage, type, locale, sort, edition, entry, since)"
                self._add(listed, (None, stage, type, locale, at, edition, entry, at))
        for tag in values.get("tags", ()):
            self._add("tag_use", (tag, edition))
        if values.get("topic"):
            self._add("reference", (edition, values["topic"]))
        if locale != "*":
            title = searching.fold(str(values.get("title", "")))
            text = searching.fold(richtext.text_of(str(values.get("body", ""))))
            self.terms |= searching.terms({*title, *text})
            self._add("search_row (id, edition, stage)", (n + 1, edition, 1))
            facets = indexing.facets(type, locale)
            self._add(
                "search_text (rowid, title, body, facets)", (n + 1, " ".join(title), " ".join(text), facets)
            )

    def _id(self, table: str) -> int:
        self.next[table] += 1
        return int(self.next[table])

    def _add(self, into: str, row: tuple[object, ...]) -> None:
        self.rows.setdefault(into, []).append(row)

    def _flush(self) -> None:
        for into, rows in self.rows.items():
            self.conn.executemany(f"INSERT INTO {into} VALUES ({', '.join('?' * len(rows[0]))})", rows)
        # A strand and its head refer to each other: the head comes when both are there.
        self.conn.executemany("UPDATE strand SET head = ? WHERE id = ?", self.heads)
        self.rows, self.heads = {}, []

    def _plan(self, count: int) -> None:
        ahead = self.now + 10**12
        made = self.conn.execute(
            "INSERT INTO dispatch (uuid, name, state, instant, created_at, actor) VALUES (?, 'Ends', 'planned', ?, ?, 1)",
            (new_uuid(ahead), ahead, self.now),
        ).lastrowid
        self.conn.execute(
            "INSERT INTO move (dispatch, ord, verb, edition, stage) SELECT ?, row_number() OVER () - 1, 'withdraw', s.edition, 2 FROM standing s "
            "JOIN edition d ON d.id = s.edition AND d.locale <> '*' WHERE s.stage = 2 LIMIT ?",
            (made, count),
        )
