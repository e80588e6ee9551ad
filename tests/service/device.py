"""A device that makes passkeys and shows them, as Web Authentication (level 3) has it: for tests, without a browser."""

from __future__ import annotations

import hashlib
import json
import secrets
from base64 import urlsafe_b64decode, urlsafe_b64encode
from dataclasses import dataclass, field
from typing import Any

import cbor2
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec

_PRESENT, _VERIFIED, _ATTESTED = 0x01, 0x04, 0x40


def coded(data: bytes) -> str:
    return urlsafe_b64encode(data).rstrip(b"=").decode()


def plain(text: str) -> bytes:
    return urlsafe_b64decode(text + "=" * (-len(text) % 4))


@dataclass
class Held:
    """A passkey in the device."""

    id: bytes
    key: ec.EllipticCurvePrivateKey
    user: bytes
    counter: int = 0


@dataclass
class Device:
    """Answers for a page of an origin; whether it knows who holds it, and whether it counts, is said."""

    origin: str
    host: str
    verifies: bool = True
    counts: bool = False
    held: list[Held] = field(default_factory=list)

    def make(self, options: dict[str, Any]) -> dict[str, Any]:
        """Make a passkey as a house asks; what the browser would send."""
        one = Held(
            secrets.token_bytes(32), ec.generate_private_key(ec.SECP256R1()), plain(options["user"]["id"])
        )
        assert options["rp"]["id"] == self.host or self.host not in self.origin
        self.held.append(one)
        numbers = one.key.public_key().public_numbers()
        # COSE (RFC 9053, section 2.1 and 7.1): ES256 over P-256.
        key = cbor2.dumps(
            {1: 2, 3: -7, -1: 1, -2: numbers.x.to_bytes(32, "big"), -3: numbers.y.to_bytes(32, "big")}
        )
        told = bytes(16) + len(one.id).to_bytes(2, "big") + one.id + key
        about = cbor2.dumps({"fmt": "none", "attStmt": {}, "authData": self._data(one, told)})
        response = {
            "clientDataJSON": coded(self._client("webauthn.create", options["challenge"])),
            "attestationObject": coded(about),
            "transports": ["internal", "hybrid"],
        }
        return self._answer(one, response)

    def show(self, options: dict[str, Any], one: Held | None = None) -> dict[str, Any]:
        """Show a passkey: one that is asked for, or the newest."""
        allowed = {plain(a["id"]) for a in options.get("allowCredentials") or []}
        found = one or next(h for h in reversed(self.held) if not allowed or h.id in allowed)
        if self.counts:
            found.counter += 1
        data, client = self._data(found), self._client("webauthn.get", options["challenge"])
        signed = found.key.sign(data + hashlib.sha256(client).digest(), ec.ECDSA(hashes.SHA256()))
        response = {
            "authenticatorData": coded(data),
            "clientDataJSON": coded(client),
            "signature": coded(signed),
            "userHandle": coded(found.user),
        }
        return self._answer(found, response)

    def _answer(self, one: Held, response: dict[str, Any]) -> dict[str, Any]:
        return {
            "id": coded(one.id),
            "rawId": coded(one.id),
            "type": "public-key",
            "authenticatorAttachment": "platform",
            "clientExtensionResults": {},
            "response": response,
        }

    def _data(self, one: Held, attested: bytes = b"") -> bytes:
        flags = _PRESENT | (_VERIFIED if self.verifies else 0) | (_ATTESTED if attested else 0)
        return (
            hashlib.sha256(self.host.encode()).digest()
            + bytes([flags])
            + one.counter.to_bytes(4, "big")
            + attested
        )

    def _client(self, kind: str, challenge: str) -> bytes:
        return json.dumps(
            {"type": kind, "challenge": challenge, "origin": self.origin, "crossOrigin": False}
        ).encode()
