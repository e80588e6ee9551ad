"""Receipts: what went out, who signed it, and that nobody changed a byte of it since."""

from __future__ import annotations

import base64
import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from hawthorn.cli.app import assembled
from hawthorn.core.errors import BadFile, HawthornError, InTheWay
from hawthorn.core.exchange import receipt, signed
from hawthorn.core.exchange.receipt import Receipt
from hawthorn.messages import ENGLISH
from hawthorn.operations.exchange import receipts
from hawthorn.operations.release import dispatches, undoing
from hawthorn.operations.release.lines import MoveRequest
from tests.conftest import Running
from tests.service.made import House


def asked(house: House, dispatch: str) -> tuple[dict[str, str], dict[str, str]]:
    """A receipt and the key of its house."""
    house.do("ida", receipts.have_key)
    found = house.desk.read(house.who("ida"), lambda v: receipts.of_dispatch(v, dispatch))
    key = house.desk.read(house.who("ida"), receipts.key)
    assert key is not None
    return found, key


def read(house: House, dispatch: str) -> Receipt:
    document, key = asked(house, dispatch)
    return receipt.read(signed.opened(document, key, receipt.KIND))


def wrong(found: Receipt) -> list[str]:
    return [ENGLISH.text(one) for one in receipt.wrong(found)]


def test_it_says_what_stood_before_and_after_and_who_signed_it(house: House) -> None:
    page = house.signed("Lamp")
    first = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    found = read(house, first)
    assert wrong(found) == []
    own = next(m for m in found.moves if (m.locale, m.stage) == ("en", "release"))
    assert (own.before, own.after and own.after.by) == (None, "wim")
    review = next(m for m in found.moves if (m.locale, m.stage) == ("en", "review"))
    assert (review.before, review.after) == (own.after, None)
    [approval] = own.signed
    assert (approval.by, approval.content) == ("oda", own.after and own.after.content)
    assert found.workflows[own.workflow]["name"] == "standard"
    second = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", "withdraw")]))
    gone = next(m for m in read(house, second).moves if (m.locale, m.stage) == ("en", "release"))
    assert (gone.before, gone.after) == (own.after, None)
    back = house.do("ida", lambda a: undoing.undo(a, second))
    again = next(m for m in read(house, back).moves if (m.locale, m.stage) == ("en", "release"))
    assert again.after == own.after
    assert wrong(read(house, second)) == []


def test_its_contents_are_those_that_readers_were_sent(house: House) -> None:
    import hashlib

    page = house.signed("Lamp")
    dispatch = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    own = next(m for m in read(house, dispatch).moves if (m.locale, m.stage) == ("en", "release")).after
    assert own is not None
    with house.desk.db.read() as conn:
        fields = json.loads(
            conn.execute(
                "SELECT fields FROM revision WHERE edition = ? AND number = ?", (own.edition, own.revision)
            ).fetchone()[0]
        )
    body = json.dumps(
        [own.edition, own.type_version, fields], ensure_ascii=False, sort_keys=True, separators=(",", ":")
    )
    assert hashlib.sha256(body.encode()).hexdigest() == own.content


def test_what_did_not_go_has_none(house: House) -> None:
    dispatch = house.plan([house.signed("Lamp")], 60)
    with pytest.raises(InTheWay, match="planned"):
        asked(house, dispatch)


def test_the_key_is_made_once_and_lies_sealed(house: House) -> None:
    house.do("ida", receipts.have_key)
    first = house.desk.read(house.who("ida"), receipts.key)
    house.do("ida", receipts.have_key)
    assert house.desk.read(house.who("ida"), receipts.key) == first
    with house.desk.db.read() as conn:
        kept = conn.execute("SELECT value FROM setting WHERE name = 'receipt_key'").fetchone()[0]
    assert kept.startswith("sealed:")


def test_the_example_of_the_standard_is_signed_as_it_says() -> None:
    """RFC 8037, appendices A.1 to A.5."""
    private = signed.decoded("nWGxne_9WmC6hEr0kuwsxERJxWl7MmkZcDusAxyuf2A")
    key = signed.public_key(private)
    assert key["x"] == "11qYAYKxCrfVS_7TyWQHOg7hcvPapiMlrwIaaPcHURo"
    assert key["kid"] == "kPrK_qmxVWaYVA9wwBF6Iuo3vVzz7TxHCTwXBygrS4k"
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

    message = b"eyJhbGciOiJFZERTQSJ9.RXhhbXBsZSBvZiBFZDI1NTE5IHNpZ25pbmc"
    made = signed.coded(Ed25519PrivateKey.from_private_bytes(private).sign(message))
    assert made.startswith(
        "hgyY0il_MGCjP0JzlnLWG1PPOt7-09PGcvMg3AIbQR6dWbhijcNR4ki4iylGjg5BhVsPt9g7sVvpAr_MuM0KAg"
    )


def test_not_a_byte_of_it_can_be_changed(house: House) -> None:
    page = house.signed("Lamp")
    dispatch = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    document, key = asked(house, dispatch)
    for part, text in document.items():
        for at in {0, 7, len(text) // 2, len(text) - 1}:
            for letter in "AB_":
                other = {**document, part: text[:at] + letter + text[at + 1 :]}
                if other != document:
                    with pytest.raises(BadFile):
                        signed.opened(other, key, receipt.KIND)
    for other in (
        {},
        [],
        {**document, "more": "x"},
        {**document, "payload": ""},
        {**document, "signature": "****"},
    ):
        with pytest.raises(BadFile):
            signed.opened(other, key, receipt.KIND)
    stranger = signed.public_key(signed.new_key())
    with pytest.raises(BadFile, match="signed with the key"):
        signed.opened(document, stranger, receipt.KIND)
    with pytest.raises(BadFile, match="no public key"):
        signed.opened(document, {"kty": "OKP", "crv": "Ed25519", "x": "AAAA"}, receipt.KIND)
    with pytest.raises(BadFile):
        signed.opened(document, key, "another-kind")


LIES: dict[str, tuple[Callable[[Receipt], Receipt], str]] = {
    "another event": (lambda r: replace(r, event=replace(r.event, payload=r.event.payload + " ")), "does not hash"),
    "another place in the chain": (lambda r: replace(r, event=replace(r.event, seq=r.event.seq + 1)), "place in the chain"),
    "another dispatch": (lambda r: replace(r, dispatch="other"), "not that of this dispatch"),
    "other contents than were signed": (
        lambda r: replace(r, moves=[replace(m, after=replace(m.after, content="0" * 64)) if m.after else m for m in r.moves]),
        "other contents",
    ),
    "nobody signed": (lambda r: replace(r, moves=[replace(m, signed=[]) for m in r.moves]), "asks for 1"),
    "the author signed": (
        lambda r: replace(r, moves=[replace(m, signed=[replace(s, by="wim") for s in m.signed]) for m in r.moves]),
        "asks for 1",
    ),
    "signed when it had gone": (lambda r: replace(r, went="2020-01-01T00:00:00Z"), "after it went out"),
    "a workflow that is not there": (lambda r: replace(r, workflows={}), "no stage"),
}  # fmt: skip


@pytest.mark.parametrize("name", LIES)
def test_a_house_that_lies_is_found_out_where_it_contradicts_itself(house: House, name: str) -> None:
    page = house.signed("Lamp")
    found = read(house, house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")])))
    change, said = LIES[name]
    assert any(said in one for one in wrong(change(found)))


def test_one_of_another_version_or_of_nothing_is_none() -> None:
    for payload in (b'{"version":2}', b"[]", b"x", b'{"version":1}'):
        with pytest.raises(HawthornError):
            receipt.read(payload)


def test_every_dispatch_of_the_museum_has_a_receipt_that_holds_by_the_command_line(
    running: Running, tmp_path: Path
) -> None:
    ida = running.as_("ida")
    key = tmp_path / "key.json"
    key.write_text(ida.receipt_key().model_dump_json())
    gone = [d for d in ida.dispatches(limit=100).items if d.state in ("gone", "undone")]
    assert len(gone) > 5
    for one in gone[:20]:
        file = tmp_path / f"{one.id}.json"
        file.write_text(ida.receipt(one.id).model_dump_json())
        done = CliRunner().invoke(assembled("verify"), ["verify", str(file), "--key", str(key)])
        assert done.exit_code == 0, done.output
        assert "It holds" in done.output
    body: dict[str, Any] = json.loads(file.read_text())
    said = json.loads(base64.urlsafe_b64decode(body["payload"] + "=="))
    said["moves"] = said["moves"][1:]
    body["payload"] = base64.urlsafe_b64encode(json.dumps(said).encode()).rstrip(b"=").decode()
    file.write_text(json.dumps(body))
    assert (
        CliRunner().invoke(assembled("verify"), ["verify", str(file), "--key", ida.receipt_key().x]).exit_code
        == 5
    )
