"""Passkeys: logging in by a device, which shows that it has a key that it tells nobody (Web Authentication, level 3).

Whoever has one logs in with it alone, as far as the device has made sure who uses it; or shows it after the password, in place of a code. What devices
say is looked at by a library, which is loaded when somebody first comes with one.
"""

from __future__ import annotations

import json
import secrets
from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, TypeVar

from hawthorn.core import naming
from hawthorn.core.access import Means
from hawthorn.core.errors import FieldProblem, HawthornError, InTheWay, Invalid, NotFound, NotLoggedIn
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import logging_in
from hawthorn.operations.access.logging_in import hashed
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import passkeys as store
from hawthorn.store import people, sessions
from hawthorn.store.passkeys import Passkey
from hawthorn.store.people import Actor
from hawthorn.store.vault import Vault

if TYPE_CHECKING:
    from webauthn.helpers.structs import PublicKeyCredentialDescriptor

T = TypeVar("T")
LASTS = 300 * SECOND
"""So long somebody may take at the device."""
MOST = 20
"""So many passkeys one person may have."""
_LONGEST = 80


@dataclass(frozen=True, slots=True)
class House:
    """For whom keys are made and shown: the name of this service's host, the origin of its console, and what it is called."""

    host: str
    origins: tuple[str, ...]
    name: str = "Hawthorn"


@dataclass(frozen=True, slots=True)
class Asked:
    """What a device is asked: `options` for the browser (WebAuthn, section 5.1.8 and 5.1.9, as JSON), and `state`, which has to come back with the answer."""

    state: str
    options: dict[str, Any]


@dataclass(frozen=True, slots=True)
class Question:
    """What was asked, as it comes back: for what, of whom (0 where the device says who), and until when it may be answered."""

    purpose: str
    actor: int
    challenge: bytes
    until: int


@dataclass(frozen=True, slots=True)
class PasskeyShown:
    """A passkey as its owner sees it."""

    id: str
    name: str
    since: str
    used_at: str


@dataclass(frozen=True, slots=True)
class Added:
    """A passkey that was added, and spare codes, where it turned a second factor on."""

    passkey: PasskeyShown
    codes: list[str]


def is_name(host: str) -> bool:
    """Whether a host goes by a name, and not by a number (WebAuthn, section 5.1.2)."""
    return bool(host) and ":" not in host and not host.replace(".", "").isdigit()


def mine(view: View) -> list[PasskeyShown]:
    """One's own passkeys, the newest first."""
    return [_shown(row) for row in store.of(view.conn, view.identity.id)]


def begin(act: Act, house: House, password: str) -> Asked:
    """Begin to add a passkey, with the password: what the device is asked for."""
    from webauthn import generate_registration_options
    from webauthn.helpers.structs import (
        AuthenticatorSelectionCriteria,
        ResidentKeyRequirement,
        UserVerificationRequirement,
    )

    logging_in.require_own_password(act, password)
    had = _with_room(act)
    challenge = secrets.token_bytes(32)
    options = generate_registration_options(
        rp_id=_named(house),
        rp_name=house.name,
        user_name=act.identity.handle,
        user_display_name=act.identity.name,
        user_id=store.user_name(act.conn, act.identity.id),
        challenge=challenge,
        authenticator_selection=AuthenticatorSelectionCriteria(
            resident_key=ResidentKeyRequirement.PREFERRED,
            user_verification=UserVerificationRequirement.PREFERRED,
        ),
        exclude_credentials=_described(had),
    )
    return _asked(act, "add", act.identity.id, challenge, options)


def add(act: Act, house: House, state: str, answer: Mapping[str, Any], name: str, token: str = "") -> Added:
    """Keep the passkey that a device has made. The first one turns a second factor on where there is none: the password alone is
    not enough any more, and every other session ends. Raises `Invalid` for an answer that does not fit."""
    from webauthn import verify_registration_response

    question = _question(act.vault, state, "add", act.now)
    if question.actor != act.identity.id:
        raise InTheWay("passkeys.over")
    called = naming.needed("name", name, _LONGEST)
    found = _looked_at(
        lambda: verify_registration_response(**_expected(house, question, answer)),
        lambda why: Invalid([FieldProblem("answer", said("passkeys.not_made_here", why=why))]),
    )
    _once(act, question)
    if store.by_credential(act.conn, found.credential_id) is not None:
        raise InTheWay("passkeys.there_already")
    _with_room(act)
    uuid = new_uuid(act.now)
    store.add(
        act.conn,
        uuid,
        act.identity.id,
        found.credential_id,
        found.credential_public_key,
        found.sign_count,
        _transports(answer),
        called,
        act.now,
    )
    act.event("person.passkey-added", [], {"handle": act.identity.handle, "passkey": called})
    codes = logging_in.turn_factor_on(act, token) if not logging_in.needs_code(act, act.identity.id) else []
    row = store.by_uuid(act.conn, act.identity.id, uuid)
    assert row is not None
    return Added(_shown(row), codes)


def rename(act: Act, id: str, name: str) -> PasskeyShown:
    """Call one of one's own otherwise."""
    row = _own(act, id)
    called = naming.needed("name", name, _LONGEST)
    store.rename(act.conn, row.id, called)
    act.event("person.passkey-renamed", [], {"handle": act.identity.handle, "passkey": called})
    return _shown(_own(act, id))


def end(act: Act, id: str, password: str, token: str = "") -> None:
    """Let nobody log in with one of one's own any more, with the password; every other session ends. With the last one, a second factor that was
    shown by passkeys alone is off."""
    logging_in.require_own_password(act, password)
    row = _own(act, id)
    store.end(act.conn, row.id)
    act.event("person.passkey-removed", [], {"handle": act.identity.handle, "passkey": row.name})
    sessions.end_sessions(act.conn, act.identity.id, act.now, but=hashed(token))
    if not store.has(act.conn, act.identity.id) and logging_in.is_by_passkeys_alone(act, act.identity.id):
        logging_in.turn_factor_off(act, act.identity.id)


def ask(view: View, house: House, person: Actor | None) -> Asked:
    """What a device is asked that somebody logs in with: any passkey of this house, or after the password one of that person's."""
    from webauthn import generate_authentication_options
    from webauthn.helpers.structs import UserVerificationRequirement

    allowed = store.of(view.conn, person.id) if person is not None else []
    if person is not None and not allowed:
        raise InTheWay("passkeys.none", name=person.name)
    challenge = secrets.token_bytes(32)
    verified = UserVerificationRequirement
    options = generate_authentication_options(
        rp_id=_named(house),
        challenge=challenge,
        allow_credentials=_described(allowed),
        # Alone it stands for the password, too: then the device has to know who holds it.
        user_verification=verified.DISCOURAGED if person is not None else verified.REQUIRED,
    )
    purpose, actor = ("after the password", person.id) if person is not None else ("alone", 0)
    return _asked(view, purpose, actor, challenge, options)


def show(act: Act, house: House, state: str, answer: Mapping[str, Any]) -> tuple[Actor, Means]:
    """Take a device's answer: who it is that logs in, and by which means. Raises `NotLoggedIn` where it does not fit."""
    from webauthn import verify_authentication_response

    question = _question(act.vault, state, "", act.now)
    row = store.by_credential(act.conn, credential_of(answer))
    if row is None or (question.actor and question.actor != row.actor):
        raise NotLoggedIn("passkeys.unknown")
    person = people.actor(act.conn, row.actor)
    if person is None:
        raise NotLoggedIn("passkeys.unknown")
    alone = question.purpose == "alone"
    given = _response(answer).get("userHandle")
    if alone and given and _bytes(given) != store.user_name(act.conn, row.actor):
        raise NotLoggedIn("passkeys.unknown")
    found = _looked_at(
        lambda: verify_authentication_response(
            **_expected(house, question, answer),
            credential_public_key=row.public_key,
            credential_current_sign_count=row.counter,
            require_user_verification=alone,
        ),
        lambda why: NotLoggedIn("passkeys.not_fitting", why=why),
    )
    _once(act, question)
    store.used(act.conn, row.id, found.new_sign_count, act.now)
    return person, "passkey" if alone else "password and passkey"


def owner(view: View, answer: Mapping[str, Any]) -> str:
    """The handle of whoever's passkey an answer names; empty for nobody's."""
    row = store.by_credential(view.conn, credential_of(answer))
    person = people.actor(view.conn, row.actor) if row is not None else None
    return person.handle if person is not None else ""


def credential_of(answer: Mapping[str, Any]) -> bytes:
    """What the device calls the passkey that it answers with; empty where it says nothing that one could be called."""
    given = answer.get("rawId") or answer.get("id")
    return _bytes(given) if isinstance(given, str) else b""


def _with_room(act: Act) -> list[Passkey]:
    """One's own, where there is room for one more."""
    had = store.of(act.conn, act.identity.id)
    if len(had) >= MOST:
        raise InTheWay("passkeys.too_many", most=MOST)
    return had


def _own(view: View, id: str) -> Passkey:
    row = store.by_uuid(view.conn, view.identity.id, id)
    if row is None:
        raise NotFound("passkeys.no_such")
    return row


def _shown(row: Passkey) -> PasskeyShown:
    return PasskeyShown(row.uuid, row.name, iso(row.at), iso(row.used_at) if row.used_at else "")


def _named(house: House) -> str:
    """The name of the house's host. Raises `InTheWay` for a number, which passkeys cannot be bound to."""
    if not is_name(house.host):
        raise InTheWay("passkeys.needs_a_name", host=house.host)
    return house.host


def _asked(view: View, purpose: str, actor: int, challenge: bytes, options: Any) -> Asked:
    from webauthn import options_to_json

    kept = json.dumps([purpose, actor, challenge.hex(), view.now + LASTS])
    return Asked(view.vault.seal(kept), json.loads(options_to_json(options)))


def _question(vault: Vault, state: str, purpose: str, now: int) -> Question:
    """What was asked. It is in nobody's records meanwhile, but sealed with whoever answers: who asks without an end fills nothing."""
    try:
        kept = json.loads(vault.opened(state) or "null")
    except ValueError:
        # Another secret of this house.
        kept = None
    if not isinstance(kept, list) or len(kept) != 4:
        raise InTheWay("passkeys.over")
    found = Question(str(kept[0]), int(kept[1]), bytes.fromhex(kept[2]), int(kept[3]))
    fits = found.purpose == purpose if purpose else found.purpose in ("alone", "after the password")
    if not fits or found.until < now:
        raise InTheWay("passkeys.over")
    return found


def _once(act: Act, question: Question) -> None:
    if not store.is_new(act.conn, hashed(question.challenge.hex()), act.now, act.now - 2 * LASTS):
        raise InTheWay("passkeys.over")


def _expected(house: House, question: Question, answer: Mapping[str, Any]) -> dict[str, Any]:
    """A device's answer, and what it is held to: that it is to this question, and for this house."""
    return {
        "credential": dict(answer),
        "expected_challenge": question.challenge,
        "expected_rp_id": _named(house),
        "expected_origin": list(house.origins),
    }


def _looked_at(look: Callable[[], T], wrong: Callable[[str], HawthornError]) -> T:
    """What a library says of a device's answer; whatever it finds wrong with it is said as one error."""
    from webauthn.helpers.exceptions import WebAuthnException

    try:
        return look()
    except WebAuthnException as error:
        raise wrong(str(error)[:200]) from None
    except (ValueError, KeyError, TypeError, AttributeError, IndexError, OverflowError):
        # Nothing that a device would say.
        raise wrong("unreadable") from None


def _described(rows: Sequence[Passkey]) -> list[PublicKeyCredentialDescriptor]:
    from webauthn.helpers.structs import AuthenticatorTransport, PublicKeyCredentialDescriptor

    known = {one.value: one for one in AuthenticatorTransport}
    return [
        PublicKeyCredentialDescriptor(
            id=row.credential,
            transports=[known[name] for name in json.loads(row.transports) if name in known] or None,
        )
        for row in rows
    ]


def _response(answer: Mapping[str, Any]) -> Mapping[str, Any]:
    given = answer.get("response")
    return given if isinstance(given, dict) else {}


def _transports(answer: Mapping[str, Any]) -> list[str]:
    given = _response(answer).get("transports")
    return [one[:20] for one in given if isinstance(one, str)][:8] if isinstance(given, list) else []


def _bytes(given: Any) -> bytes:
    from webauthn.helpers import base64url_to_bytes

    try:
        return base64url_to_bytes(given) if isinstance(given, str) and len(given) <= 2_000 else b""
    except ValueError:
        return b""
