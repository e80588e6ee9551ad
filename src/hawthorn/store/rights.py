"""What the records hold about somebody, and taking their name out of them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator
from typing import Any

_ABOUT = {
    "roles": "SELECT h.role, h.locales, h.sections FROM holding h WHERE h.actor = ?",
    "sessions": "SELECT created_at, expires_at, ended_at, seen_at, agent FROM session WHERE actor = ? ORDER BY created_at",
    "accounts": "SELECT issuer, subject, at FROM provider_account WHERE actor = ? ORDER BY issuer, subject",
    "passkeys": "SELECT name, at, used_at FROM passkey WHERE actor = ? ORDER BY id",
    "mails": "SELECT o.state, o.payload FROM outbox o JOIN actor a ON a.email <> '' AND a.email = o.recipient WHERE a.id = ? "
    "AND o.payload <> '{}' AND o.stable_id NOT LIKE 'invitation-%' ORDER BY o.id",
    "revisions": "SELECT e.uuid AS entry, d.locale, r.number, r.at, r.note, r.origin FROM revision r JOIN edition d ON d.id = r.edition "
    "JOIN entry e ON e.id = d.entry WHERE r.actor = ? ORDER BY r.id",
    "sign_offs": "SELECT e.uuid AS entry, d.locale, r.number, g.name AS stage, s.roles, s.at, s.note FROM sign_off s JOIN revision r ON r.id = s.revision "
    "JOIN edition d ON d.id = r.edition JOIN entry e ON e.id = d.entry JOIN stage g ON g.id = s.stage WHERE s.actor = ? ORDER BY s.id",
    "submissions": "SELECT e.uuid AS entry, d.locale, s.at, s.note, s.outcome FROM submission s JOIN edition d ON d.id = s.edition "
    "JOIN entry e ON e.id = d.entry WHERE s.actor = ? ORDER BY s.id",
    "decisions": "SELECT e.uuid AS entry, d.locale, s.decided_at, s.outcome, s.reason FROM submission s JOIN edition d ON d.id = s.edition "
    "JOIN entry e ON e.id = d.entry WHERE s.decided_by = ? ORDER BY s.id",
    "overrides": "SELECT e.uuid AS entry, d.locale, o.at, o.reason FROM override o JOIN revision r ON r.id = o.revision JOIN edition d ON d.id = r.edition "
    "JOIN entry e ON e.id = d.entry WHERE o.actor = ? ORDER BY o.id",
    "comments": "SELECT c.uuid, e.uuid AS entry, c.locale, c.at, c.text FROM comment c LEFT JOIN entry e ON e.id = c.entry WHERE c.actor = ? ORDER BY c.id",
    "replies": "SELECT p.uuid, c.uuid AS comment, p.at, p.text FROM reply p JOIN comment c ON c.id = p.comment WHERE p.actor = ? ORDER BY p.id",
    "mentions": "SELECT c.uuid AS comment, m.at FROM mention m JOIN comment c ON c.id = m.comment WHERE m.actor = ? ORDER BY m.at",
    "assignments": "SELECT e.uuid AS entry, a.locale, a.at, a.due, a.note, a.outcome FROM assignment a JOIN entry e ON e.id = a.entry "
    "WHERE a.holder = ? ORDER BY a.id",
    "notifications": "SELECT kind, at, says, body, seen_at FROM notification WHERE actor = ? ORDER BY id",
    "dispatches": "SELECT uuid, name, created_at, note FROM dispatch WHERE actor = ?1 OR owner = ?1 ORDER BY id",
    "lists": "SELECT name, query, at FROM saved_list WHERE actor = ? ORDER BY id",
    "calendars": "SELECT name, shows, at FROM calendar WHERE actor = ? ORDER BY id",
    "events": "SELECT e.seq, e.at, e.kind, p.json AS payload FROM event e LEFT JOIN event_payload p ON p.seq = e.seq WHERE e.actor = ? ORDER BY e.seq",
}
"""Where it stands what somebody is, has, and did, and what they were told. An invitation is not told again: whoever holds it could use it."""
TIMES = ("at", "created_at", "expires_at", "ended_at", "seen_at", "decided_at", "used_at")
JSON = ("locales", "sections", "roles", "payload", "query", "shows")


def about(conn: sqlite3.Connection, actor: int) -> dict[str, list[dict[str, Any]]]:
    """All that the records hold about somebody, by what it is."""
    return {name: [dict(row) for row in conn.execute(sql, (actor,))] for name, sql in _ABOUT.items()}


def payloads(conn: sqlite3.Connection, words: list[str]) -> Iterator[tuple[int, str]]:
    """The payloads of the log in which any of some words stand: sequence and JSON."""
    rows = conn.execute(
        "SELECT p.seq, p.json FROM event_payload p WHERE EXISTS (SELECT 1 FROM json_each(?) j WHERE instr(p.json, j.value)) ORDER BY p.seq",
        (json.dumps(words),),
    ).fetchall()
    return ((row[0], row[1]) for row in rows)


def set_payload(conn: sqlite3.Connection, seq: int, text: str) -> None:
    """Put another payload in the place of one, which is known from then on not to hash to what the chain has."""
    conn.execute("UPDATE event_payload SET json = ?, redacted = 1 WHERE seq = ?", (text, seq))


_OWN = (
    "second_factor",
    "passkey",
    "passkey_user",
    "provisioned",
    "provisioned_member",
    "session",
    "invitation",
    "calendar",
    "presence",
    "notification",
    "digest",
    "provider_account",
    "idempotency",
)
"""What goes with somebody's name."""


def rename(conn: sqlite3.Connection, actor: int, handle: str, name: str) -> None:
    """Let somebody be known by another handle and name, without an address, a session, a factor or an invitation. Mails to them go with their address."""
    conn.execute(
        "DELETE FROM outbox WHERE recipient <> '' AND recipient = (SELECT email FROM actor WHERE id = ?)",
        (actor,),
    )
    conn.execute(
        "DELETE FROM provider_session WHERE token_hash IN (SELECT token_hash FROM session WHERE actor = ?)",
        (actor,),
    )
    conn.execute(
        "UPDATE actor SET handle = ?, name = ?, email = '', password = '' WHERE id = ?", (handle, name, actor)
    )
    for table in _OWN:
        conn.execute(f"DELETE FROM {table} WHERE actor = ?", (actor,))


def rename_where_named(conn: sqlite3.Connection, handle: str, new: str) -> bool:
    """Let gates, in every version of workflows, and kept lists name somebody by another handle: whoever gets theirs later has nothing of it. Returns whether
    a gate did."""
    conn.execute(
        "UPDATE saved_list SET query = json_set(query, '$.person', ?) WHERE query ->> '$.person' = ?",
        (new, handle),
    )
    rows = conn.execute(
        "SELECT name, version, definition FROM workflow WHERE instr(definition, ?)", (json.dumps(handle),)
    ).fetchall()
    for name, version, definition in rows:
        flow = json.loads(definition)
        for gate in (stage.get("gate", {}) for stage in flow["stages"]):
            gate |= {who: [new if one == handle else one for one in gate.get(who, ())] for who in _AT_GATES}
        conn.execute(
            "UPDATE workflow SET definition = ? WHERE name = ? AND version = ?",
            (json.dumps(flow), name, version),
        )
    return bool(rows)


_AT_GATES = ("people", "override_people")
_TEXTS = {"notification": ("says", "body"), "comment": ("text",), "reply": ("text",)}


def texts(conn: sqlite3.Connection, words: list[str]) -> list[tuple[str, str, int, str]]:
    """What people were told and said in which any of some words stand: table, column, number and text."""
    out: list[tuple[str, str, int, str]] = []
    for table, columns in _TEXTS.items():
        for column in columns:
            rows = conn.execute(
                f"SELECT id, {column} FROM {table} WHERE EXISTS (SELECT 1 FROM json_each(?) j WHERE instr({column}, j.value))",
                (json.dumps(words),),
            ).fetchall()
            out += [(table, column, row[0], row[1]) for row in rows]
    return out


def set_text(conn: sqlite3.Connection, table: str, column: str, id: int, text: str) -> None:
    """Put another text in the place of one."""
    assert column in _TEXTS[table]
    conn.execute(f"UPDATE {table} SET {column} = ? WHERE id = ?", (text, id))


_KEPT = {
    "outbox": ("payload", ("id",)),
    "exchange": ("report", ("id",)),
    "idempotency": ("answer", ("actor", "key")),
}
"""What the service keeps as JSON of what it sends, did and answered: the column, and what a row is known by."""


def kept(conn: sqlite3.Connection, words: list[str]) -> list[tuple[str, tuple[Any, ...], str]]:
    """What the service keeps in which any of some words stand: table, what its row is known by, and the text."""
    written = json.dumps(sorted({*words, *(json.dumps(word)[1:-1] for word in words)}))
    out: list[tuple[str, tuple[Any, ...], str]] = []
    for table, (column, key) in _KEPT.items():
        rows = conn.execute(
            f"SELECT {column}, {', '.join(key)} FROM {table} WHERE EXISTS (SELECT 1 FROM json_each(?) j WHERE instr({column}, j.value))",
            (written,),
        ).fetchall()
        out += [(table, tuple(row[1:]), row[0]) for row in rows]
    return out


def set_kept(conn: sqlite3.Connection, table: str, key: tuple[Any, ...], text: str) -> None:
    """Put another text in the place of one that the service keeps."""
    column, names = _KEPT[table]
    known = " AND ".join(f"{name} = ?" for name in names)
    conn.execute(f"UPDATE {table} SET {column} = ? WHERE {known}", (text, *key))
