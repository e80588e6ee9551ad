"""Packages in tests: made from one record file, brought into another, compared in all that is derived."""

from __future__ import annotations

import io
import json
import shutil
import zipfile
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from hawthorn.core.access import Identity
from hawthorn.core.exchange.package import MANIFEST
from hawthorn.messages import ENGLISH
from hawthorn.operations.exchange import at_work, packages
from hawthorn.operations.exchange.exporting import Choice
from hawthorn.operations.exchange.report import Wish
from hawthorn.operations.runtime.act import Desk, new_uuid
from hawthorn.operations.views import health
from hawthorn.store import exchange
from hawthorn.store.exchange import Exchange

ENTRY = "JOIN entry e ON e.id = d.entry AND e.removed_at IS NULL"
SAID = {
    "summary": "SELECT e.uuid, s.type, s.locale, s.title, s.missing, s.updated_at, a.handle, s.internal, s.incomplete, s.behind, s.shown, "
    "s.pinned, s.is_source FROM summary s JOIN entry e ON e.id = s.entry JOIN actor a ON a.id = s.actor WHERE e.removed_at IS NULL",
    "listed": "SELECT e.uuid, g.name, l.type, l.locale, l.sort, l.since, l.until, l.pinned FROM listed l JOIN entry e ON e.id = l.entry "
    "JOIN stage g ON g.id = l.stage WHERE e.removed_at IS NULL",
    "placed": "SELECT e.uuid, g.name, coalesce(p.uuid, ''), iif(x.rank LIKE 'n%', '', x.rank), iif(g.id = 1, 0, x.since), x.until FROM placed x "
    "JOIN entry e ON e.id = x.entry LEFT JOIN entry p ON p.id = x.parent AND p.removed_at IS NULL JOIN stage g ON g.id = x.stage "
    "WHERE e.removed_at IS NULL AND (g.id <> 1 OR x.until IS NULL)",
    "address": "SELECT e.uuid, g.name, x.locale, coalesce(p.uuid, ''), x.slug, iif(g.id = 1, 0, x.since), x.until FROM address x "
    "JOIN entry e ON e.id = x.entry LEFT JOIN entry p ON p.id = x.parent AND p.removed_at IS NULL JOIN stage g ON g.id = x.stage "
    "WHERE e.removed_at IS NULL AND (g.id <> 1 OR x.until IS NULL)",
    "filter_value": "SELECT e.uuid, d.locale, v.stage, v.field, v.ord, v.text, v.number, v.other, v.cell, v.pinned, v.sort FROM filter_value v "
    f"JOIN edition d ON d.id = v.edition {ENTRY}",
    "coverage": "SELECT e.uuid, c.locale, c.state, c.units, c.current, c.changed, c.missing, c.gone, c.words, c.words_current, c.out_due "
    "FROM coverage c JOIN entry e ON e.id = c.entry WHERE e.removed_at IS NULL",
    "reference": f"SELECT e.uuid, d.locale, x.target FROM reference x JOIN edition d ON d.id = x.edition {ENTRY}",
    "tag_use": f"SELECT e.uuid, d.locale, x.tag FROM tag_use x JOIN edition d ON d.id = x.edition {ENTRY}",
    "search": "SELECT e.uuid, d.locale, r.stage, t.title, t.body, t.facets FROM search_row r JOIN search_text t ON t.rowid = r.id "
    f"JOIN edition d ON d.id = r.edition {ENTRY} WHERE t.title || t.body <> ''",
    "search_said": f"SELECT e.uuid, d.locale, t.title, t.words FROM search_said t JOIN edition d ON d.id = t.edition {ENTRY}",
    "section": "SELECT e.uuid, coalesce(s.uuid, '') FROM entry e LEFT JOIN entry s ON s.id = e.section WHERE e.removed_at IS NULL",
    "within": "SELECT a.uuid, s.uuid FROM section_within w JOIN entry a ON a.id = w.ancestor JOIN entry s ON s.id = w.section",
    "file_use": "SELECT e.uuid, d.locale, r.number, u.sha256, u.focus FROM file_use u JOIN revision r ON r.id = u.revision "
    f"JOIN edition d ON d.id = r.edition {ENTRY}",
}
"""What is derived from entries, as it is the same in every house."""


def derived(desk: Desk) -> dict[str, set[tuple[Any, ...]]]:
    """All that is derived from the entries of a record file."""
    with desk.db.read() as conn:
        return {name: {tuple(row) for row in conn.execute(sql)} for name, sql in SAID.items()}


def trouble(desk: Desk) -> list[str]:
    """What `hawthorn check` would find."""
    with desk.db.read() as conn:
        return [ENGLISH.text(line) for _, wrong in health.examine(conn) for line in wrong]


def row(desk: Desk, uuid: str) -> Exchange:
    """How far a package is."""
    with desk.db.read() as conn:
        found = exchange.by_uuid(conn, uuid)
    assert found is not None
    return found


def work(desk: Desk, uuid: str, goes_on: Callable[[], bool] = lambda: True) -> Exchange:
    """Do what there is to do with a package."""
    at_work.work(desk, row(desk, uuid), goes_on)
    return row(desk, uuid)


def exported(desk: Desk, me: Identity, goal: Path, choice: Choice = Choice()) -> Path:
    """A package of entries."""
    uuid = desk.write(me, lambda act: packages.start_export(act, choice, "x.zip"))
    done = work(desk, uuid)
    assert done.state == "done", done.trouble
    return Path(shutil.copy(packages.file_of(desk, uuid), goal))


def given(desk: Desk, me: Identity, file: Path, wish: Wish = Wish()) -> str:
    """A package that was given, and not yet looked through."""
    uuid = new_uuid(desk.clock.now())
    packages.folder(desk).mkdir(exist_ok=True)
    shutil.copy(file, packages.file_of(desk, uuid))
    desk.write(me, lambda act: packages.start_import(act, uuid, file.name, file.stat().st_size, wish))
    return uuid


def imported(
    desk: Desk, me: Identity, file: Path, wish: Wish = Wish()
) -> tuple[str, dict[str, Any], dict[str, Any]]:
    """A package that was looked through and brought: its id, what was said first, and what came of it."""
    uuid = given(desk, me, file, wish)
    seen = work(desk, uuid)
    assert seen.state == "looked", seen.trouble
    desk.write(me, lambda act: packages.run(act, uuid))
    done = work(desk, uuid)
    assert done.state == "done", done.trouble
    return uuid, json.loads(seen.report), json.loads(done.report)


def altered(
    file: Path, goal: Path, change: Callable[[dict[str, bytes]], Mapping[str, bytes]], *, honest: bool = True
) -> Path:
    """A package with other members; what it says of them is true where it is `honest`."""
    import hashlib

    with zipfile.ZipFile(file) as package:
        members = {name: package.read(name) for name in package.namelist()}
    new = dict(change(members))
    if honest and MANIFEST in new:
        manifest = json.loads(new[MANIFEST])
        for name in manifest.get("parts", {}):
            if name in new:
                lines = new[name].count(b"\n")
                manifest["parts"][name] = {"lines": lines, "sha256": hashlib.sha256(new[name]).hexdigest()}
        new[MANIFEST] = json.dumps(manifest).encode()
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w") as package:
        for name, data in new.items():
            package.writestr(name, data)
    goal.write_bytes(made.getvalue())
    return goal
