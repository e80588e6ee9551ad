"""The health of the record file."""

from __future__ import annotations

from hawthorn.operations.act import View
from hawthorn.store import events


def health(view: View) -> list[str]:
    """What is wrong with the record file, in words; empty when all is well."""
    wrong = [
        f"SQLite: {row[0]}"
        for row in view.conn.execute("PRAGMA integrity_check").fetchall()
        if row[0] != "ok"
    ]
    wrong += [
        f"Broken reference in {row[0]}" for row in view.conn.execute("PRAGMA foreign_key_check").fetchall()
    ]
    wrong += events.verify(view.conn)
    for row in view.conn.execute(
        "SELECT s.edition FROM summary s JOIN strand d ON d.edition = s.edition AND d.name = 'draft' "
        "JOIN revision r ON r.id = d.head WHERE r.at <> s.updated_at"
    ).fetchall():
        wrong.append(f"The summary of edition {row[0]} is not that of its draft.")
    for row in view.conn.execute(
        "SELECT l.edition FROM listed l WHERE l.until IS NULL AND NOT EXISTS (SELECT 1 FROM standing s WHERE "
        "s.edition = l.edition AND s.stage = l.stage AND s.until IS NULL)"
    ).fetchall():
        wrong.append(f"Edition {row[0]} is listed where it does not stand.")
    return wrong
