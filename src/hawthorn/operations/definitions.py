"""Setting up: workflows, and the health of the record file. Types and field sets: see `changing`."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from hawthorn.core import workflow
from hawthorn.core.access import Subject
from hawthorn.operations import permission
from hawthorn.operations.act import Act, View, setup_changed
from hawthorn.store import definitions as store
from hawthorn.store import events


def define_workflow(act: Act, definition: Mapping[str, Any]) -> workflow.Workflow:
    """Define a workflow, or a new version of one."""
    permission.require(act, "configure", Subject())
    made = workflow.from_dict(definition)
    before = act.setup.workflows.get(made.name)
    made = replace(made, version=before.version + 1 if before else 1)
    store.add_workflow(act.conn, made, act.now)
    setup_changed(act)
    act.event("workflow.defined", [], {"workflow": made.name, "version": made.version})
    return made


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
