"""In hand: what waits for somebody, what is theirs, what they wait for, and what goes out next."""

from __future__ import annotations

import sqlite3
from typing import Any

from hawthorn.core import timeline
from hawthorn.core.access import Subject
from hawthorn.core.timeline import iso
from hawthorn.operations import finding, permission, show, show_work
from hawthorn.operations.act import View
from hawthorn.store import dispatches as dispatch_store
from hawthorn.store import jobs, reviews


def in_hand(view: View) -> dict[str, Any]:
    """What waits for somebody, what is theirs, what they wait for, and what goes out next."""
    waiting, wait_for = [], []
    for row in reviews.all_waiting(view.conn):
        about = permission.subject(view, row, row["locale"], row["stage_name"])
        if not permission.may(view, "read", about):
            continue
        item = _hand_line(view, row, "review")
        if row["actor"] == view.identity.id:
            wait_for.append({**item, "who": permission.holders(view, "sign", about)})
        elif permission.may(view, "sign", about):
            waiting.append(item)
    for row in reviews.ready(view.conn):
        about = permission.subject(view, row, row["locale"], "release")
        if permission.may(view, "release", about) and not show.planned(view, [row["edition"]]):
            waiting.append(_hand_line(view, row, "ready"))
    sent_back = [
        _hand_line(view, row, "sent back") for row in reviews.sent_back_to(view.conn, view.identity.id)
    ]
    home = [
        {
            "kind": "translation",
            "id": j["entries"][0]["id"] if j["entries"] else "",
            "locale": j["locale"],
            "title": j["name"],
            "type": "",
            "revision": 0,
            "by": j["bureau"],
            "at": j["changed_at"],
            "note": "",
            "who": [],
            "job": j["id"],
        }
        for j in (show_work.job_line(view, r) for r in jobs.newest(view.conn, 200) if r["state"] == "home")
        if permission.may(view, "accept", Subject(locale=j["locale"]))
    ]
    mine, _ = finding.listing(view, finding.Query(person=view.identity.handle), limit=20)
    horizon = view.now + 48 * 3600 * timeline.SECOND
    ahead = [
        show_work.dispatch(view, row, whole=False)
        for row in dispatch_store.between(view.conn, view.now, horizon, 50)
        if row["state"] == "planned"
    ]
    return {
        "waiting": sent_back + waiting + home,
        "yours": [show.line(view, row) for row in mine],
        "you_wait_for": wait_for,
        "next_out": ahead,
    }


def _hand_line(view: View, row: sqlite3.Row, kind: str) -> dict[str, Any]:
    back = kind == "sent back"
    return {
        "kind": kind,
        "id": row["uuid"],
        "locale": row["locale"],
        "title": row["title"] or "untitled",
        "type": view.setup.type(row["type"]).label,
        "revision": row["number"],
        "by": row["decided_name"] if back else row["by_name"],
        "at": iso(row["decided_at"] if back else row["at"]),
        "note": row["reason"] if back else row["note"],
        "who": [],
        "job": "",
    }
