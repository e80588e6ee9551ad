"""The museum's assistant: its key, a page that it drafted from a brief, and a sentence that it put into somebody's draft."""

from __future__ import annotations

import secrets
from typing import TYPE_CHECKING

from hawthorn.operations.access import logging_in
from hawthorn.operations.collaboration import comments
from hawthorn.operations.runtime.act import Act
from hawthorn.store import people as people_store

if TYPE_CHECKING:
    from hawthorn.demo.seeding import Museum

HANDLE = "copperleaf"
TITLE = "Tide walks in spring"
BRIEF = "Brief: A notice about the tide walks in March: what to wear, how long it takes, and that dogs may come. Two short paragraphs."
BODY = (
    "<p>In March we walk out over the sand at low tide, twice a week, and are back within two hours. "
    "Somebody who knows the tides goes first.</p>"
    "<p>Wear boots that may get wet, and something against the wind. Dogs may come on a lead.</p>"
)


def key(museum: Museum) -> str:
    """Give the assistant a key; returns its secret."""
    secret = f"hw_{secrets.token_urlsafe(32)}"

    def give(act: Act) -> None:
        helper = people_store.by_handle(act.conn, HANDLE)
        assert helper is not None
        stages = ["draft", "review", "release"]
        id = people_store.add_key(
            act.conn, logging_in.hashed(secret), secret[:9], helper.name, helper.id, stages, act.now
        )
        told = {
            "key": id,
            "name": helper.name,
            "role": "assistant",
            "stages": stages,
            "until": "",
            "audiences": [],
        }
        act.event("key.issued", [], told)

    museum.do("ida", give, minutes=5)
    return secret


def draft(museum: Museum) -> None:
    """Let the assistant draft a notice from a brief."""
    uuid = museum.start(HANDLE, "notice", {"title": TITLE, "kind": "event", "body": BODY})
    museum.do(HANDLE, lambda act: comments.make(act, uuid, "en", BRIEF), minutes=5)
