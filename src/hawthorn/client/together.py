"""The calls about people and working together: roles, keys, accounts, workflows, comments, assignments, notifications."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, entry_at, into, nothing
from hawthorn.client.requests import page as _page


def _person(handle: str, *more: str) -> str:
    return "/".join(("/api/people", quote(handle), *more))


class TogetherCalls:
    """The calls, without a way to send them."""

    @call
    def people(self, *, limit: int = 0, cursor: str = "") -> Request[wire.access.People]:
        """Everybody who works here."""
        return Request("GET", "/api/people", into(wire.access.People), params=_page(limit, cursor))

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
            "GET", _person(handle, "sessions"), into(wire.access.Sessions), params=_page(limit, cursor)
        )

    @call
    def roles(self, *, limit: int = 0, cursor: str = "") -> Request[wire.access.Roles]:
        """The roles with their grants."""
        return Request("GET", "/api/roles", into(wire.access.Roles), params=_page(limit, cursor))

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
    ) -> Request[wire.access.KeyIssued]:
        """Issue a key, until a day or instant or for good; its secret is shown this once."""
        body = {"name": name, "role": role, "kind": kind, "stages": list(stages), "expires": expires}
        return Request("POST", "/api/keys", into(wire.access.KeyIssued), json=body)

    @call
    def keys(self, *, limit: int = 0, cursor: str = "") -> Request[wire.access.Keys]:
        """The keys there are."""
        return Request("GET", "/api/keys", into(wire.access.Keys), params=_page(limit, cursor))

    @call
    def end_key(self, id: int) -> Request[None]:
        """End a key at once."""
        return Request("DELETE", f"/api/keys/{id}", nothing)

    @call
    def bureaus(self, *, limit: int = 0, cursor: str = "") -> Request[wire.translation.Bureaus]:
        """The bureaus that take jobs."""
        return Request("GET", "/api/bureaus", into(wire.translation.Bureaus), params=_page(limit, cursor))

    @call
    def add_bureau(
        self, name: str, url: str, *, codes: Mapping[str, str] | None = None, key: str = ""
    ) -> Request[wire.translation.Bureau]:
        """Add a bureau, or bring one back that ended; `codes` maps our locales to its own."""
        body = {"name": name, "url": url, "codes": dict(codes or {}), "key": key}
        return Request("POST", "/api/bureaus", into(wire.translation.Bureau), json=body)

    @call
    def change_bureau(self, id: int, given: Mapping[str, Any]) -> Request[wire.translation.Bureau]:
        """Change what is given of a bureau: name, url, codes, key."""
        return Request("PATCH", f"/api/bureaus/{id}", into(wire.translation.Bureau), json=dict(given))

    @call
    def end_bureau(self, id: int) -> Request[None]:
        """End a bureau that has no open jobs."""
        return Request("DELETE", f"/api/bureaus/{id}", nothing)

    @call
    def try_bureau(self, id: int) -> Request[wire.translation.BureauTrial]:
        """Ask a bureau whether it answers; no job is sent."""
        return Request("POST", f"/api/bureaus/{id}/try", into(wire.translation.BureauTrial))

    @call
    def account(self) -> Request[wire.access.Account]:
        """One's own account."""
        return Request("GET", "/api/account", into(wire.access.Account))

    @call
    def set_profile(self, name: str, zone: str) -> Request[wire.access.Account]:
        """Change one's own name and time zone."""
        return Request("PUT", "/api/account", into(wire.access.Account), json={"name": name, "zone": zone})

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
    def sessions(self, *, limit: int = 0, cursor: str = "") -> Request[wire.access.Sessions]:
        """One's own open sessions."""
        return Request(
            "GET", "/api/account/sessions", into(wire.access.Sessions), params=_page(limit, cursor)
        )

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

    @call
    def define_workflow(self, definition: Mapping[str, Any]) -> Request[wire.release.WorkflowSpec]:
        """Define a workflow, or a new version of one."""
        return Request("PUT", "/api/workflows", into(wire.release.WorkflowSpec), json=dict(definition))

    @call
    def check_workflow(self, definition: Mapping[str, Any]) -> Request[wire.release.WorkflowImpact]:
        """What a definition of a workflow would do to what stands."""
        return Request(
            "POST", "/api/workflows/check", into(wire.release.WorkflowImpact), json=dict(definition)
        )

    @call
    def end_workflow(self, name: str) -> Request[None]:
        """End a workflow that nothing follows any more."""
        return Request("DELETE", f"/api/workflows/{quote(name)}", nothing)

    @call
    def choose_workflows(self, choices: Sequence[Mapping[str, str]]) -> Request[wire.release.ChoicesAsk]:
        """Choose workflows by type, locale and section, in place of what was chosen."""
        body = {"choices": [dict(c) for c in choices]}
        return Request("PUT", "/api/workflows/choices", into(wire.release.ChoicesAsk), json=body)

    @call
    def check_choices(self, choices: Sequence[Mapping[str, str]]) -> Request[wire.release.WorkflowImpact]:
        """What other choices of workflows would do to what stands."""
        body = {"choices": [dict(c) for c in choices]}
        return Request("POST", "/api/workflows/choices/check", into(wire.release.WorkflowImpact), json=body)

    @call
    def move_on(self, id: str, locale: str) -> Request[wire.views.Entry]:
        """Let what waits go to the next stage once the gate holds."""
        return Request("POST", entry_at(id, locale, "move-on"), into(wire.views.Entry))

    @call
    def override(
        self, id: str, locale: str, stage: str, revision: int, reason: str
    ) -> Request[wire.views.Entry]:
        """Override the gate before a stage for a revision that does not meet it."""
        body = {"stage": stage, "revision": revision, "reason": reason}
        return Request("POST", entry_at(id, locale, "override"), into(wire.views.Entry), json=body)

    @call
    def comments(
        self, id: str, locale: str, *, limit: int = 0, cursor: str = ""
    ) -> Request[wire.collaboration.Comments]:
        """The comments on an edition."""
        return Request(
            "GET",
            entry_at(id, locale, "comments"),
            into(wire.collaboration.Comments),
            params=_page(limit, cursor),
        )

    @call
    def comment(
        self, id: str, locale: str, text: str, *, field: str = "", quote: Mapping[str, str] | None = None
    ) -> Request[wire.collaboration.CommentMade]:
        """Make a comment on an edition, a field or a passage (`quote` with exact, prefix and suffix)."""
        body = {"text": text, "field": field, "quote": dict(quote) if quote else None}
        return Request(
            "POST", entry_at(id, locale, "comments"), into(wire.collaboration.CommentMade), json=body
        )

    @call
    def reply_to_comment(self, comment: str, text: str) -> Request[None]:
        """Answer a comment."""
        return Request("POST", f"/api/comments/{quote(comment)}/reply", nothing, json={"text": text})

    @call
    def resolve_comment(self, comment: str) -> Request[None]:
        """Say that what a comment was about is settled."""
        return Request("POST", f"/api/comments/{quote(comment)}/resolve", nothing)

    @call
    def reopen_comment(self, comment: str) -> Request[None]:
        """Open a comment again."""
        return Request("POST", f"/api/comments/{quote(comment)}/reopen", nothing)

    @call
    def assign(
        self, id: str, locale: str, handle: str, *, due: str = "", note: str = ""
    ) -> Request[wire.views.Entry]:
        """Assign an edition to somebody, perhaps until a day."""
        body = {"handle": handle, "due": due, "note": note}
        return Request("PUT", entry_at(id, locale, "assignment"), into(wire.views.Entry), json=body)

    @call
    def end_assignment(self, id: str, locale: str, *, done: bool = True) -> Request[wire.views.Entry]:
        """Say that an assignment is done, or not needed any more."""
        return Request(
            "POST", entry_at(id, locale, "assignment", "end"), into(wire.views.Entry), json={"done": done}
        )

    @call
    def be_present(
        self, id: str, locale: str, page: str, *, field: str = "", typing: bool = False
    ) -> Request[wire.collaboration.Presence]:
        """Say that an entry is open; answers with everybody who has it open."""
        body = {"page": page, "locale": locale, "field": field, "typing": typing}
        path = f"/api/entries/{quote(id)}/presence"
        return Request("PUT", path, into(wire.collaboration.Presence), json=body)

    @call
    def who_is_present(self, id: str) -> Request[wire.collaboration.Presence]:
        """Who has an entry open."""
        return Request("GET", f"/api/entries/{quote(id)}/presence", into(wire.collaboration.Presence))

    @call
    def leave_page(self, page: str) -> Request[None]:
        """Say that a page was closed."""
        return Request("DELETE", f"/api/presence/{quote(page)}", nothing)

    @call
    def notifications(
        self, *, limit: int = 30, cursor: str = ""
    ) -> Request[wire.collaboration.Notifications]:
        """What one was told, newest first."""
        return Request(
            "GET", "/api/notifications", into(wire.collaboration.Notifications), params=_page(limit, cursor)
        )

    @call
    def see_notifications(
        self, *, upto: int = 0, entry: str = ""
    ) -> Request[wire.collaboration.Notifications]:
        """Note that notifications were seen: all up to one, or those about an entry."""
        return Request(
            "POST",
            "/api/notifications/seen",
            into(wire.collaboration.Notifications),
            json={"upto": upto, "entry": entry},
        )

    @call
    def notification_choices(self) -> Request[wire.collaboration.NotificationChoices]:
        """How one hears of each kind of notification."""
        return Request("GET", "/api/notifications/choices", into(wire.collaboration.NotificationChoices))

    @call
    def choose_notifications(
        self, ways: Mapping[str, str], digest_hour: int | None = None
    ) -> Request[wire.collaboration.NotificationChoices]:
        """Choose how to hear of kinds of notifications, and when the digest comes."""
        body = {"ways": dict(ways), "digest_hour": digest_hour}
        return Request(
            "PUT", "/api/notifications/choices", into(wire.collaboration.NotificationChoices), json=body
        )

    @call
    def events(
        self,
        *,
        kind: str = "",
        entry: str = "",
        person: str = "",
        since: str = "",
        until: str = "",
        cursor: str = "",
        limit: int = 50,
    ) -> Request[wire.views.EventPage]:
        """The event log, newest first."""
        params = {
            "kind": kind,
            "entry": entry,
            "person": person,
            "since": since,
            "until": until,
            "cursor": cursor,
            "limit": limit,
        }
        return Request("GET", "/api/events", into(wire.views.EventPage), params=params)
