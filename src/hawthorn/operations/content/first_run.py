"""The first run: while nobody is there, whoever started the service makes the first person, by an address that is printed once."""

from __future__ import annotations

import secrets
from collections.abc import Mapping, Sequence
from typing import Any

from hawthorn.core.errors import FieldProblem, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.operations.access import logging_in, people, permission
from hawthorn.operations.access.logging_in import USUAL, Lasts, hashed
from hawthorn.operations.content import changing, locales
from hawthorn.operations.runtime.act import Act, Desk, View
from hawthorn.operations.runtime.bootstrap import FIRST_TYPES
from hawthorn.store import definitions
from hawthorn.store import people as store

_KEPT = "first_run"
ROLES = ("managing-editor", "staff")
"""What the first person holds: everything."""


def begin(desk: Desk) -> str:
    """A new token for the first person's address, in place of any before; empty when somebody is there already."""
    with desk.db.read() as conn:
        if store.anybody(conn):
            return ""
    token = secrets.token_urlsafe(32)
    desk.db.write(lambda conn: definitions.set_setting(conn, _KEPT, hashed(token)))
    return token


def require(view: View, token: str) -> None:
    """Refuse what is not the address that was printed last, or comes when somebody is there."""
    kept = definitions.setting(view.conn, _KEPT)
    if not kept or store.anybody(view.conn) or not secrets.compare_digest(kept, hashed(token)):
        raise NotFound("first_run.address_over")


def take(
    act: Act,
    token: str,
    person: Mapping[str, str],
    languages: Sequence[Mapping[str, Any]],
    first_type: str,
    agent: str,
    lasts: Lasts = USUAL,
) -> tuple[int, str]:
    """Make the first person, the languages and a first type; returns who it is and the token of a session."""
    require(act, token)
    if not person["password"]:
        raise Invalid([FieldProblem("password", said("common.needed"))])
    if first_type and first_type not in FIRST_TYPES:
        raise Invalid([FieldProblem("type", said("common.none_of", known=list(FIRST_TYPES)))])
    made = people.add_person(
        act,
        person["handle"],
        person["name"],
        person["email"],
        person["password"],
        [{"name": role} for role in ROLES],
        person["zone"] or "UTC",
    )
    # What is set up is theirs from the first on.
    theirs = act.by(permission.identity_of(act.conn, made))
    locales.define(theirs, languages)
    if first_type and first_type not in act.setup.types:
        changing.define_type(theirs, FIRST_TYPES[first_type])
    act.resume(theirs)
    definitions.set_setting(act.conn, _KEPT, "")
    row = store.actor(act.conn, made)
    assert row is not None
    return made, logging_in.log_in(act, row, agent, lasts)
