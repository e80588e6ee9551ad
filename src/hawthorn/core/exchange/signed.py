"""Signed documents: JSON Web Signatures (RFC 7515, flattened JSON) with Ed25519 (RFC 8032, RFC 8037), and keys as JSON Web Keys (RFC 7517)."""

from __future__ import annotations

import base64
import hashlib
import json
import re
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from hawthorn.core.errors import BadFile

if TYPE_CHECKING:
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

_LENGTH = 32
_CODED = re.compile(r"[A-Za-z0-9_-]*")


def coded(data: bytes) -> str:
    """Bytes as base64url without padding (RFC 7515, section 2)."""
    return base64.urlsafe_b64encode(data).rstrip(b"=").decode()


def decoded(text: str) -> bytes:
    """The bytes of base64url. Raises `ValueError` for what is none."""
    if not _CODED.fullmatch(text):
        raise ValueError
    return base64.urlsafe_b64decode(text + "=" * (-len(text) % 4))


def new_key() -> bytes:
    """A new private key."""
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

    return Ed25519PrivateKey.generate().private_bytes_raw()


def public_key(private: bytes) -> dict[str, str]:
    """The public half of a key as a JWK, with its thumbprint (RFC 7638) as its id."""
    x = coded(_private(private).public_key().public_bytes_raw())
    return {"kty": "OKP", "crv": "Ed25519", "x": x, "kid": thumbprint(x), "alg": "EdDSA", "use": "sig"}


def thumbprint(x: str) -> str:
    """What an Ed25519 key is known by (RFC 8037, appendix A.3)."""
    return coded(hashlib.sha256(f'{{"crv":"Ed25519","kty":"OKP","x":"{x}"}}'.encode()).digest())


def sign(payload: bytes, private: bytes, kind: str) -> dict[str, str]:
    """A document signed with a key; `kind` says what it is (`typ`)."""
    head = {"alg": "EdDSA", "kid": public_key(private)["kid"], "typ": kind}
    protected = coded(json.dumps(head, separators=(",", ":")).encode())
    body = coded(payload)
    signature = _private(private).sign(f"{protected}.{body}".encode())
    return {"payload": body, "protected": protected, "signature": coded(signature)}


def opened(document: Any, key: Mapping[str, Any], kind: str) -> bytes:
    """What a signed document says. Raises `BadFile` for one that is none of that kind, that another key signed, or of which a byte was changed."""
    from cryptography.exceptions import InvalidSignature
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

    if not isinstance(document, Mapping) or {*document} != {"payload", "protected", "signature"}:
        raise BadFile("receipts.none")
    try:
        protected, body = str(document["protected"]), str(document["payload"])
        head = json.loads(decoded(protected))
        signature, payload = decoded(str(document["signature"])), decoded(body)
        canonical = [coded(decoded(document[part])) == document[part] for part in document]
        if not isinstance(head, dict) or not all(canonical):
            raise ValueError
    except ValueError:
        raise BadFile("receipts.none") from None
    if head.get("alg") != "EdDSA" or head.get("typ") != kind:
        raise BadFile("receipts.none")
    x = str(key.get("x", ""))
    try:
        raw = decoded(x)
    except ValueError:
        raw = b""
    if key.get("kty") != "OKP" or key.get("crv") != "Ed25519" or len(raw) != _LENGTH:
        raise BadFile("receipts.no_key")
    if head.get("kid") != thumbprint(x):
        raise BadFile("receipts.another_key", kid=str(head.get("kid"))[:60], given=thumbprint(x))
    try:
        Ed25519PublicKey.from_public_bytes(raw).verify(signature, f"{protected}.{body}".encode())
    except InvalidSignature:
        raise BadFile("receipts.changed") from None
    return payload


def _private(raw: bytes) -> Ed25519PrivateKey:
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

    return Ed25519PrivateKey.from_private_bytes(raw)
