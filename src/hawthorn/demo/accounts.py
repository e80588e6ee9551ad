"""The museum's accounts: a small identity provider (OpenID Connect) that takes anybody's word for who they are. For demonstrations and tests alone."""

from __future__ import annotations

import hashlib
import html
import secrets
import time
from base64 import urlsafe_b64encode
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING, Any
from urllib.parse import urlencode

import httpx
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from starlette.routing import Route

if TYPE_CHECKING:
    from joserfc.jwk import ECKey

CLIENT, SECRET = "hawthorn", "harbour-light-secret"
EVENT = "http://schemas.openid.net/event/backchannel-logout"
_PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Harbour accounts</title>
<style>body{{font:1.05rem/1.5 system-ui;max-width:26rem;margin:10vh auto;padding:0 1rem;background:#f4f1ea;color:#26312c}}
button{{display:block;width:100%;margin:.4rem 0;padding:.6rem 1rem;font:inherit;text-align:start;background:#fff;border:1px solid #b9b2a3;border-radius:.4rem;cursor:pointer}}
small{{color:#5c665f}}</style><h1>Harbour accounts</h1><p>Who are you? <small>This provider is made up, and takes your word for it.</small></p>
<form method="post">{buttons}</form></html>"""


@dataclass
class Account:
    """Somebody whom the provider knows, with what it says of them."""

    subject: str
    name: str
    email: str = ""
    groups: list[str] = field(default_factory=list)
    verified: bool = True

    def claims(self) -> dict[str, Any]:
        """What it says of them (OpenID Connect Core 1.0, section 5.1)."""
        return {
            "sub": self.subject,
            "name": self.name,
            "preferred_username": self.subject,
            "email": self.email,
            "email_verified": self.verified,
            "groups": self.groups,
        }


class Accounts:
    """The provider. `people` are those it knows, by what it calls them."""

    def __init__(self, issuer: str, people: Mapping[str, Account]) -> None:
        self.issuer = issuer
        self.people = dict(people)
        self._codes: dict[str, tuple[str, dict[str, str]]] = {}
        self._tokens: dict[str, str] = {}

    @cached_property
    def key(self) -> ECKey:
        """What it signs with; made when somebody first logs in."""
        from joserfc.jwk import ECKey

        return ECKey.generate_key("P-256", {"use": "sig", "alg": "ES256"}, auto_kid=True)

    def app(self) -> Starlette:
        """The provider as an application."""
        return Starlette(
            routes=[
                Route("/.well-known/openid-configuration", self._about),
                Route("/keys", self._keys),
                Route("/authorise", self._ask, methods=["GET"]),
                Route("/authorise", self._chosen, methods=["POST"]),
                Route("/token", self._token, methods=["POST"]),
                Route("/userinfo", self._userinfo),
            ]
        )

    def id_token(self, who: Account, nonce: str) -> str:
        """What it signs of somebody who logs in."""
        now = int(time.time())
        claims = {
            **who.claims(),
            "iss": self.issuer,
            "aud": CLIENT,
            "iat": now,
            "exp": now + 300,
            "nonce": nonce,
        }
        return self.signed({**claims, "sid": f"session-{who.subject}"})

    def signed(self, claims: dict[str, Any]) -> str:
        """Claims as a token that is signed with its key."""
        from joserfc import jwt

        return jwt.encode({"alg": "ES256", "kid": self.key.kid}, claims, self.key)

    def end(self, service: str, **whom: str) -> httpx.Response:
        """Tell a service that sessions have ended: `sub` of somebody, or `sid` of one (Back-Channel Logout 1.0, section 2.5)."""
        claims = {
            "iss": self.issuer,
            "aud": CLIENT,
            "iat": int(time.time()),
            "exp": int(time.time()) + 120,
            "jti": secrets.token_hex(8),
            "events": {EVENT: {}},
            **whom,
        }
        return httpx.post(f"{service}/api/session/provider/ended", data={"logout_token": self.signed(claims)})

    async def _about(self, _: Request) -> Response:
        at = self.issuer
        return JSONResponse(
            {
                "issuer": at,
                "authorization_endpoint": f"{at}/authorise",
                "token_endpoint": f"{at}/token",
                "userinfo_endpoint": f"{at}/userinfo",
                "jwks_uri": f"{at}/keys",
                "response_types_supported": ["code"],
                "subject_types_supported": ["public"],
                "id_token_signing_alg_values_supported": ["ES256"],
                "code_challenge_methods_supported": ["S256"],
                "authorization_response_iss_parameter_supported": True,
                "backchannel_logout_supported": True,
                "backchannel_logout_session_supported": True,
            }
        )

    async def _keys(self, _: Request) -> Response:
        return JSONResponse({"keys": [self.key.as_dict(private=False)]})

    async def _ask(self, request: Request) -> Response:
        buttons = "".join(
            f'<button name="who" value="{html.escape(id)}">{html.escape(who.name)} <small>{html.escape(who.email)}</small></button>'
            for id, who in self.people.items()
        )
        if request.query_params.get("code_challenge_method") != "S256":
            return Response("This provider wants PKCE.", 400)
        return HTMLResponse(_PAGE.format(buttons=buttons))

    async def _chosen(self, request: Request) -> Response:
        form = await request.form()
        asked = dict(request.query_params)
        code = secrets.token_urlsafe(16)
        self._codes[code] = (str(form.get("who", "")), asked)
        back = urlencode({"code": code, "state": asked.get("state", ""), "iss": self.issuer})
        return RedirectResponse(f"{asked['redirect_uri']}?{back}", 303)

    async def _token(self, request: Request) -> Response:
        form = await request.form()
        who, asked = self._codes.pop(str(form.get("code", "")), ("", {}))
        verifier = str(form.get("code_verifier", ""))
        challenge = urlsafe_b64encode(hashlib.sha256(verifier.encode()).digest()).rstrip(b"=").decode()
        if (
            not who
            or challenge != asked.get("code_challenge")
            or form.get("redirect_uri") != asked["redirect_uri"]
        ):
            return JSONResponse({"error": "invalid_grant", "error_description": "the code is not good"}, 400)
        access = secrets.token_urlsafe(16)
        self._tokens[access] = who
        given = {"access_token": access, "token_type": "Bearer", "expires_in": 300}
        return JSONResponse({**given, "id_token": self.id_token(self.people[who], asked.get("nonce", ""))})

    async def _userinfo(self, request: Request) -> Response:
        who = self._tokens.get(request.headers.get("authorization", "").removeprefix("Bearer "))
        return JSONResponse(self.people[who].claims()) if who else Response(status_code=401)
