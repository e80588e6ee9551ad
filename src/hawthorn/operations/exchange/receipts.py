"""Receipts: what went out with a dispatch, signed with the key of the house."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from typing import Any

from hawthorn.core import workflow
from hawthorn.core.errors import InTheWay, NotFound
from hawthorn.core.exchange import receipt, signed
from hawthorn.core.exchange.receipt import Approval, Link, Moved, Overridden, Receipt, Text
from hawthorn.core.messages import said
from hawthorn.core.timeline import iso
from hawthorn.operations.release import records, workflows
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import definitions, entries, events, reviews
from hawthorn.store import moves as move_store
from hawthorn.store import receipts as store
from hawthorn.store.dispatches import Dispatch
from hawthorn.store.moves import Changed
from hawthorn.store.receipts import Kept
from hawthorn.store.reviews import SignOffRow

_KEY = "receipt_key"
_ENDED = ("gone", "undone")


def key(view: View) -> dict[str, str] | None:
    """The public key of this house as a JWK; None before the first receipt was asked for."""
    kept = definitions.setting(view.conn, _KEY)
    return signed.public_key(bytes.fromhex(view.vault.open(kept))) if kept else None


def have_key(act: Act) -> None:
    """See to it that the house has a key to sign receipts with; it lies sealed in the record file."""
    if not definitions.setting(act.conn, _KEY):
        made = signed.new_key()
        definitions.set_setting(act.conn, _KEY, act.vault.seal(made.hex()))
        act.event("receipt.key-made", [], {"kid": signed.public_key(made)["kid"]})


def of_dispatch(view: View, uuid: str) -> dict[str, str]:
    """The receipt of a dispatch that went, signed. Raises `InTheWay` for one that did not go."""
    row = records.find(view, uuid)
    if row.state not in _ENDED:
        raise InTheWay("receipts.not_gone", state=said(f"dispatches.state.{row.state}"))
    kept = definitions.setting(view.conn, _KEY)
    if not kept:
        raise NotFound("receipts.no_key_yet")
    private = bytes.fromhex(view.vault.open(kept))
    made = _made(view, row, signed.public_key(private)["kid"])
    return signed.sign(receipt.told(made), private, receipt.KIND)


def _made(view: View, row: Dispatch, house: str) -> Receipt:
    event = events.of_dispatch(view.conn, row.id, "dispatch.gone")
    if event is None:
        raise InTheWay("receipts.no_event")
    changed = move_store.changed(view.conn, row.id)
    ids = {id for one in changed for id in (one.took, one.put) if id is not None}
    texts = store.texts(view.conn, ids)
    put = {one.put for one in changed if one.put is not None}
    signs = reviews.sign_offs(view.conn, put, event.at)
    approvals = _approvals(signs)
    overridden = _overridden(view, put, event.at)
    flows = _Flows(view, changed, event.at, {(one.revision, one.stage): one.workflow for one in signs})
    moves = [
        Moved(
            one.uuid,
            one.locale,
            one.title,
            one.type,
            view.setup.stage_names[one.stage],
            _text(texts, one.took),
            _text(texts, one.put),
            flows.of(one),
            approvals.get(one.put or 0, []),
            overridden.get(one.put or 0, []),
        )
        for one in changed
    ]
    link = Link(
        event.seq,
        event.at,
        event.kind,
        event.actor,
        event.actor_kind,
        event.json,
        event.payload_hash,
        event.prev,
        event.hash,
    )
    planned = iso(row.instant) if row.instant is not None else ""
    return Receipt(
        receipt.VERSION,
        house,
        row.uuid,
        row.name,
        row.note,
        planned,
        iso(event.at),
        row.owner_handle,
        link,
        moves,
        flows.used,
    )


def _text(texts: Mapping[int, Kept], revision: int | None) -> Text | None:
    one = texts.get(revision or 0)
    if one is None:
        return None
    return Text(one.number, one.content_hash, one.handle, iso(one.at), one.edition, one.type_version)


def _approvals(signs: Iterable[SignOffRow]) -> dict[int, list[Approval]]:
    out: dict[int, list[Approval]] = {}
    for one in signs:
        made = Approval(
            one.handle,
            one.name,
            json.loads(one.roles),
            iso(one.at),
            one.stage_name,
            one.content_hash,
            one.note,
        )
        out.setdefault(one.revision, []).append(made)
    return out


def _overridden(view: View, revisions: set[int], until: int) -> dict[int, list[Overridden]]:
    out: dict[int, list[Overridden]] = {}
    for one in reviews.overrides(view.conn, revisions):
        if one.at <= until:
            made = Overridden(one.name, iso(one.at), one.stage_name, one.content_hash, one.reason)
            out.setdefault(one.revision, []).append(made)
    return out


class _Flows:
    """The workflows that editions followed when a dispatch went, in the versions of then: the one under which they were signed off, else the one that they
    follow now."""

    def __init__(
        self, view: View, changed: list[Changed], at: int, signed: Mapping[tuple[int, int], str]
    ) -> None:
        self._signed = signed
        self._now = workflows.Flows(view)
        self._entries = entries.by_ids(view.conn, {one.entry for one in changed})
        self._then = store.workflows_at(view.conn, at)
        self._names: dict[str, str] = {}
        self.used: dict[str, dict[str, Any]] = {}

    def of(self, one: Changed) -> str:
        """The workflow of an edition, by name and version."""
        flow = self._now.of(self._entries[one.entry], one.locale)
        called = self._signed.get((one.put or 0, one.stage), flow.name)
        if called not in self._names:
            then = self._then.get(called)
            definition = json.loads(then) if then is not None else workflow.to_dict(flow)
            self._names[called] = f"{called}@{definition.get('version', flow.version)}"
            self.used[self._names[called]] = definition
        return self._names[called]
