"""The calls of access: people, roles, keys, accounts and sessions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, into, nothing, page


def _assistant(handle: str, act: str) -> str:
    return f"/api/assistants/{quote(handle)}/{act}"


def _person(handle: str, *more: str) -> str:
    return "/".join(("/api/people", quote(handle), *more))


class AccessCalls:
    """The calls of access, without a way to send them."""

    @call
    def log_in(self, handle: str, password: str, code: str = "") -> Request[wire.access.Session]:
        """Log in; the client then acts as that person. `code` is that of the second factor, where there is one."""
        body = {"handle": handle, "password": password, "code": code}
        return Request("POST", "/api/session", into(wire.access.Session), json=body, logs_in=True)

    @call
    def begin_passkey_log_in(
        self, handle: str = "", password: str = ""
    ) -> Request[wire.access.PasskeyQuestion]:
        """What a device is asked that somebody logs in with: alone, or after handle and password."""
        body = {"handle": handle, "password": password}
        return Request("POST", "/api/session/passkey/begin", into(wire.access.PasskeyQuestion), json=body)

    @call
    def log_in_with_passkey(self, state: str, answer: Mapping[str, Any]) -> Request[wire.access.Session]:
        """Log in with what a device answered; the client then acts as that person."""
        body = {"state": state, "answer": dict(answer)}
        return Request("POST", "/api/session/passkey", into(wire.access.Session), json=body, logs_in=True)

    @call
    def provider(self) -> Request[wire.access.Provider]:
        """The identity provider through which people log in, beside passwords; without a name where there is none."""
        return Request("GET", "/api/session/provider", into(wire.access.Provider))

    @call
    def leave_for_provider(self) -> Request[wire.access.ProviderAddress]:
        """Begin to log in through the provider: where the browser goes."""
        return Request("POST", "/api/session/provider/begin", into(wire.access.ProviderAddress))

    @call
    def return_from_provider(self, code: str, state: str, issuer: str = "") -> Request[wire.access.Session]:
        """Log in with what came back from the provider; the client then acts as that person."""
        body = {"code": code, "state": state, "issuer": issuer}
        return Request("POST", "/api/session/provider", into(wire.access.Session), json=body, logs_in=True)

    @call
    def disconnect_person(self, handle: str) -> Request[None]:
        """Let nobody log in as somebody through the provider any more; their sessions end."""
        return Request("DELETE", _person(handle, "provider"), nothing)

    @call
    def log_ins(
        self,
        *,
        person: str = "",
        what: str = "",
        since: str = "",
        until: str = "",
        cursor: str = "",
        limit: int = 50,
    ) -> Request[wire.access.LogIns]:
        """Who came in, was refused or left (`what` is opened, refused, ended or changed), newest first; for whoever sets up people."""
        params = {
            "person": person,
            "what": what,
            "since": since,
            "until": until,
            "cursor": cursor,
            "limit": limit,
        }
        return Request("GET", "/api/log-ins", into(wire.access.LogIns), params=params)

    @call
    def log_out(self) -> Request[None]:
        """End the session."""
        return Request("DELETE", "/api/session", nothing)

    @call
    def me(self) -> Request[wire.access.Me]:
        """Who the caller is."""
        return Request("GET", "/api/me", into(wire.access.Me))

    @call
    def people(self, *, limit: int = 0, cursor: str = "") -> Request[wire.access.People]:
        """Everybody who works here."""
        return Request("GET", "/api/people", into(wire.access.People), params=page(limit, cursor))

    @call
    def invite_person(
        self,
        handle: str,
        name: str,
        email: str,
        roles: Sequence[Mapping[str, Any]] = (),
        *,
        zone: str = "UTC",
    ) -> Request[wire.access.Invited]:
        """Add a person with roles and invite them by mail to choose a password."""
        body = {
            "handle": handle,
            "name": name,
            "email": email,
            "roles": [dict(r) for r in roles],
            "zone": zone,
        }
        return Request("POST", "/api/people", into(wire.access.Invited), json=body)

    @call
    def invite_again(self, handle: str) -> Request[wire.access.Invited]:
        """Invite somebody again to choose a password."""
        return Request("POST", _person(handle, "invitation"), into(wire.access.Invited))

    @call
    def set_roles_of(self, handle: str, roles: Sequence[Mapping[str, Any]]) -> Request[wire.access.People]:
        """Give somebody these roles in place of those before."""
        body = {"roles": [dict(r) for r in roles]}
        return Request("PUT", _person(handle, "roles"), into(wire.access.People), json=body)

    @call
    def end_person(self, handle: str) -> Request[None]:
        """Let somebody go; what they did stays under their name."""
        return Request("DELETE", _person(handle), nothing)

    @call
    def end_factor_of(self, handle: str) -> Request[None]:
        """Turn off the second factor of somebody who lost it."""
        return Request("DELETE", _person(handle, "second-factor"), nothing)

    @call
    def sessions_of(self, handle: str, *, limit: int = 0, cursor: str = "") -> Request[wire.access.Sessions]:
        """The open sessions of somebody."""
        return Request(
            "GET", _person(handle, "sessions"), into(wire.access.Sessions), params=page(limit, cursor)
        )

    @call
    def roles(self, *, limit: int = 0, cursor: str = "") -> Request[wire.access.Roles]:
        """The roles with their grants."""
        return Request("GET", "/api/roles", into(wire.access.Roles), params=page(limit, cursor))

    @call
    def define_roles(self, roles: Sequence[Mapping[str, Any]]) -> Request[wire.access.RolesDefined]:
        """Define roles, all or none; those that are not named stay as they are."""
        return Request(
            "PUT", "/api/roles", into(wire.access.RolesDefined), json={"items": [dict(r) for r in roles]}
        )

    @call
    def end_role(self, name: str) -> Request[None]:
        """End a role that nobody holds."""
        return Request("DELETE", f"/api/roles/{quote(name)}", nothing)

    @call
    def why(
        self, person: str, verb: str, *, type: str = "", locale: str = "", entry: str = "", stage: str = ""
    ) -> Request[wire.access.Why]:
        """Whether somebody may do something, and which grant says so or is missing."""
        params = {
            "person": person,
            "verb": verb,
            "type": type,
            "locale": locale,
            "entry": entry,
            "stage": stage,
        }
        return Request("GET", "/api/why", into(wire.access.Why), params=params)

    @call
    def issue_key(
        self,
        name: str,
        role: str,
        *,
        kind: str = "program",
        stages: Sequence[str] = ("release",),
        expires: str = "",
        audiences: Sequence[str] = (),
        a_minute: int | None = None,
    ) -> Request[wire.access.KeyIssued]:
        """Issue a key, until a day or instant or for good; its secret is shown this once. It reads what is limited to its audiences, and
        no more than so many times a minute."""
        body = {
            "name": name,
            "role": role,
            "kind": kind,
            "stages": list(stages),
            "expires": expires,
            "audiences": list(audiences),
            "a_minute": a_minute,
        }
        return Request("POST", "/api/keys", into(wire.access.KeyIssued), json=body)

    @call
    def keys(self, *, limit: int = 0, cursor: str = "") -> Request[wire.access.Keys]:
        """The keys there are."""
        return Request("GET", "/api/keys", into(wire.access.Keys), params=page(limit, cursor))

    @call
    def end_key(self, id: int) -> Request[None]:
        """End a key at once."""
        return Request("DELETE", f"/api/keys/{id}", nothing)

    @call
    def assistants(self, *, limit: int = 0, cursor: str = "") -> Request[wire.assistants.Assistants]:
        """The assistants there are, with what each did in the last hour."""
        return Request("GET", "/api/assistants", into(wire.assistants.Assistants), params=page(limit, cursor))

    @call
    def pause_assistant(self, handle: str, reason: str = "") -> Request[None]:
        """Pause an assistant: its key opens nothing until it is let go on."""
        return Request("POST", _assistant(handle, "pause"), nothing, json={"reason": reason})

    @call
    def resume_assistant(self, handle: str) -> Request[None]:
        """Let a paused assistant go on."""
        return Request("POST", _assistant(handle, "resume"), nothing)

    @call
    def check_assistant_undo(self, handle: str, since: str) -> Request[wire.assistants.AssistantUndo]:
        """What undoing what an assistant did from an instant on would come to."""
        made = into(wire.assistants.AssistantUndo)
        return Request("POST", _assistant(handle, "undo/check"), made, json={"since": since})

    @call
    def undo_assistant(self, handle: str, since: str) -> Request[wire.assistants.AssistantUndo]:
        """Undo what an assistant wrote from an instant on, as far as nobody else's words are in the way."""
        made = into(wire.assistants.AssistantUndo)
        return Request("POST", _assistant(handle, "undo"), made, json={"since": since})

    @call
    def account(self) -> Request[wire.access.Account]:
        """One's own account."""
        return Request("GET", "/api/account", into(wire.access.Account))

    @call
    def set_profile(self, name: str, zone: str, language: str | None = None) -> Request[wire.access.Account]:
        """Change one's own name and time zone, and the language in which one is spoken to: empty for that of the house."""
        body = {"name": name, "zone": zone, "language": language}
        return Request("PUT", "/api/account", into(wire.access.Account), json=body)

    @call
    def change_password(self, before: str, after: str) -> Request[None]:
        """Change one's own password; one's other sessions end."""
        return Request("POST", "/api/account/password", nothing, json={"before": before, "after": after})

    @call
    def begin_second_factor(self, password: str) -> Request[wire.access.SecondFactor]:
        """Begin to set up a second factor, with the password."""
        body = {"password": password}
        return Request("POST", "/api/account/second-factor", into(wire.access.SecondFactor), json=body)

    @call
    def confirm_second_factor(self, code: str) -> Request[wire.access.SpareCodes]:
        """Turn the second factor on with its first code; answers with spare codes."""
        path = "/api/account/second-factor/confirm"
        return Request("POST", path, into(wire.access.SpareCodes), json={"code": code})

    @call
    def end_second_factor(self, password: str) -> Request[None]:
        """Turn one's own second factor off, with the password."""
        return Request("POST", "/api/account/second-factor/end", nothing, json={"password": password})

    @call
    def passkeys(self, *, limit: int = 0, cursor: str = "") -> Request[wire.access.Passkeys]:
        """One's own passkeys, the newest first."""
        return Request("GET", "/api/account/passkeys", into(wire.access.Passkeys), params=page(limit, cursor))

    @call
    def begin_passkey(self, password: str) -> Request[wire.access.PasskeyQuestion]:
        """Begin to add a passkey, with the password: what the device is asked for."""
        made = into(wire.access.PasskeyQuestion)
        return Request("POST", "/api/account/passkeys/begin", made, json={"password": password})

    @call
    def add_passkey(
        self, state: str, answer: Mapping[str, Any], name: str
    ) -> Request[wire.access.PasskeyAdded]:
        """Keep the passkey that a device made; answers with spare codes where it turned the second factor on."""
        body = {"state": state, "answer": dict(answer), "name": name}
        return Request("POST", "/api/account/passkeys", into(wire.access.PasskeyAdded), json=body)

    @call
    def rename_passkey(self, id: str, name: str) -> Request[wire.access.Passkey]:
        """Call one of one's own passkeys otherwise."""
        path = f"/api/account/passkeys/{quote(id)}"
        return Request("PUT", path, into(wire.access.Passkey), json={"name": name})

    @call
    def end_passkey(self, id: str, password: str) -> Request[None]:
        """Let nobody log in with one of one's own passkeys any more, with the password."""
        path = f"/api/account/passkeys/{quote(id)}/end"
        return Request("POST", path, nothing, json={"password": password})

    @call
    def sessions(self, *, limit: int = 0, cursor: str = "") -> Request[wire.access.Sessions]:
        """One's own open sessions."""
        return Request("GET", "/api/account/sessions", into(wire.access.Sessions), params=page(limit, cursor))

    @call
    def end_session(self, id: str) -> Request[None]:
        """End a session."""
        return Request("DELETE", f"/api/account/sessions/{quote(id)}", nothing)

    @call
    def look_at_invitation(self, token: str) -> Request[wire.access.Invitation]:
        """Whom an invitation is for."""
        return Request("POST", "/api/invitation", into(wire.access.Invitation), json={"token": token})

    @call
    def accept_invitation(self, token: str, password: str) -> Request[wire.access.Session]:
        """Choose a password by an invitation; the client then acts as that person."""
        body = {"token": token, "password": password}
        return Request("POST", "/api/invitation/accept", into(wire.access.Session), json=body, logs_in=True)

    @call
    def make_first_person(
        self,
        token: str,
        handle: str,
        name: str,
        password: str,
        locales: Sequence[Mapping[str, Any]],
        *,
        email: str = "",
        zone: str = "UTC",
        type: str = "",
    ) -> Request[wire.access.Session]:
        """Make the first person of a new house by the address that the service printed; the client then acts as them."""
        body = {
            "token": token,
            "handle": handle,
            "name": name,
            "password": password,
            "locales": [dict(one) for one in locales],
            "email": email,
            "zone": zone,
            "type": type,
        }
        return Request("POST", "/api/first-run/take", into(wire.access.Session), json=body, logs_in=True)
