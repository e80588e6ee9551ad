"""A receipt for what went out: what it says, and whether that hangs together."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping
from typing import Any

import msgspec

from hawthorn.core import chain
from hawthorn.core.errors import BadFile
from hawthorn.core.exchange.soundness import instant
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.workflow import Gate

KIND = "hawthorn-receipt+json"
"""The kind of the signed document."""
VERSION = 1


@dataclass(frozen=True, slots=True)
class Text:
    """A revision: its number, the hash of its contents (of the edition's number, the version of its type, and its fields, as JSON with sorted
    members), by whom, when, and the numbers that the hash was made with."""

    revision: int
    content: str
    by: str
    at: str
    edition: int
    type_version: int


@dataclass(frozen=True, slots=True)
class Approval:
    """One person's sign-off of contents."""

    by: str
    name: str
    roles: list[str]
    at: str
    stage: str
    content: str
    note: str


@dataclass(frozen=True, slots=True)
class Overridden:
    """That somebody overrode a gate for contents, and why."""

    by: str
    at: str
    stage: str
    content: str
    reason: str


@dataclass(frozen=True, slots=True)
class Moved:
    """What changed at one stage of an edition: what stood there before and after (nothing for nothing), the gate before that stage, who signed what came, and
    who overrode it."""

    entry: str
    locale: str
    title: str
    type: str
    stage: str
    before: Text | None
    after: Text | None
    workflow: str
    signed: list[Approval]
    overridden: list[Overridden]


@dataclass(frozen=True, slots=True)
class Link:
    """The event in the log with which a dispatch went, as the chain has it, and its payload; nothing where somebody's name was taken out of that."""

    seq: int
    at: int
    kind: str
    actor: int
    actor_kind: str
    payload: str | None
    payload_hash: str
    prev: str
    hash: str


@dataclass(frozen=True, slots=True)
class Receipt:
    """What went out with a dispatch. `workflows` are the definitions that `Moved.workflow` names, as they were in force (`name@version`)."""

    version: int
    house: str
    dispatch: str
    name: str
    note: str
    planned: str
    went: str
    by: str
    event: Link
    moves: list[Moved]
    workflows: dict[str, dict[str, Any]]


class _Versioned(msgspec.Struct):
    version: Any = None


def told(receipt: Receipt) -> bytes:
    """A receipt as JSON, before it is signed."""
    return msgspec.json.encode(receipt)


def read(payload: bytes) -> Receipt:
    """A receipt from JSON. Raises `BadFile` for one of another version, or for what is none."""
    try:
        version = msgspec.json.decode(payload, type=_Versioned).version
        if version != VERSION:
            raise BadFile("receipts.version", version=str(version)[:20], known=VERSION)
        return msgspec.json.decode(payload, type=Receipt)
    except (msgspec.MsgspecError, ValueError, RecursionError):
        raise BadFile("receipts.none") from None


def wrong(receipt: Receipt) -> Iterator[Message]:
    """What a receipt says that cannot be: an event that does not hash to what it says, a sign-off of other contents than went out, a gate that did not
    hold and that nobody overrode."""
    event = receipt.event
    if event.payload is not None and hashlib.sha256(event.payload.encode()).hexdigest() != event.payload_hash:
        yield said("receipts.payload")
    fits = chain.link(
        event.seq, event.at, event.kind, event.actor, event.actor_kind, event.payload_hash, event.prev
    )
    if fits != event.hash:
        yield said("receipts.link")
    named = _loaded(event.payload).get("dispatch") if event.payload is not None else receipt.dispatch
    if event.kind != "dispatch.gone" or named != receipt.dispatch:
        yield said("receipts.other_event")
    went = _at(receipt.went)
    gates: dict[tuple[str, str], Gate | None] = {}
    for move in receipt.moves:
        if move.after is not None:
            key = (move.workflow, move.stage)
            if key not in gates:
                gates[key] = _gate(receipt.workflows.get(move.workflow, {}), move.stage)
            yield from _of_move(move, move.after, gates[key], went)


def _of_move(move: Moved, after: Text, gate: Gate | None, went: int) -> Iterator[Message]:
    about = {"title": move.title or move.entry, "locale": move.locale, "stage": move.stage}
    said_of: list[Approval | Overridden] = [*move.signed, *move.overridden]
    for one in said_of:
        if one.content != after.content:
            yield said("receipts.other_contents", by=one.by, **about)
        if _at(one.at) > went:
            yield said("receipts.signed_later", by=one.by, **about)
    if gate is None:
        yield said("receipts.no_gate", workflow=move.workflow, **about)
        return
    signers = {one.by for one in move.signed if one.stage == move.stage and gate.counts(one.roles, one.by)}
    if gate.author == "no":
        signers.discard(after.by)
    if len(signers) < gate.sign_offs and not any(one.stage == move.stage for one in move.overridden):
        yield said("receipts.gate", count=len(signers), asked=gate.sign_offs, **about)


def _gate(definition: Mapping[str, Any], stage: str) -> Gate | None:
    found = next((s for s in definition.get("stages", ()) if s.get("name") == stage), None)
    if found is None:
        return None
    gate = found.get("gate", {})
    return Gate(
        sign_offs=int(gate.get("sign_offs", 0)),
        roles=tuple(gate.get("roles", ())),
        people=tuple(gate.get("people", ())),
        author=str(gate.get("author", "no")),
    )


def _at(text: str) -> int:
    try:
        return instant(text)
    except ValueError:
        return 0


def _loaded(text: str) -> dict[str, Any]:
    try:
        found = json.loads(text)
    except ValueError:
        return {}
    return found if isinstance(found, dict) else {}
