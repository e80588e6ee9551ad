"""Talking to the identity provider: where it sends people, what it says of those who come back, and when it ends their sessions.

OpenID Connect Core 1.0 with the authorisation code flow and PKCE (RFC 7636), Discovery 1.0, and Back-Channel Logout 1.0. The flow is
Authlib's, signatures and claims are looked at by joserfc; both are loaded when somebody first logs in so.
"""

from __future__ import annotations

import ssl
import threading
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from functools import cached_property
from math import ceil
from typing import TYPE_CHECKING, Any, TypeVar

import httpx

from hawthorn.core.errors import NotFound, NotLoggedIn, ProviderFails
from hawthorn.core.hosts import is_unheard
from hawthorn.core.provider import Claims, Rules
from hawthorn.operations.access.provider import Leaving
from hawthorn.service.settings import Settings

if TYPE_CHECKING:
    from authlib.integrations.httpx_client import OAuth2Client
    from joserfc.jwk import KeySet

T = TypeVar("T")
ALGORITHMS = [
    "RS256",
    "RS384",
    "RS512",
    "PS256",
    "PS384",
    "PS512",
    "ES256",
    "ES384",
    "ES512",
    "EdDSA",
    "Ed25519",
]
"""How what the provider says may be signed: with keys that it alone has. Never not at all, and never with a secret that others have, too."""
RETURN = "/log-in"
"""The page of the console that people come back to."""
PATIENCE = 10.0
"""Seconds that are waited for the provider."""
KEPT = 3600.0
"""Seconds for which what it says of itself is kept."""
AGAIN = 60.0
"""Seconds after which its keys are fetched again for one that is not known."""
LEEWAY = 60
"""Seconds by which its clock may differ."""
EVENT = "http://schemas.openid.net/event/backchannel-logout"
AT_ONCE = 8
"""So many who come back are looked at at once: where the provider does not answer, those who work here do not wait for it, too."""
AWAY = 5.0
"""Seconds in which it is not asked again what it is, after it did not answer."""
_LARGEST = 1_000_000


class Provider:
    """The provider that the settings name; what it says of itself is fetched when it is needed, and kept."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.issuer = settings.provider
        # Where a directory says who works here and as what, a log-in changes nothing of that.
        alone = not settings.directory_key
        self.rules = Rules(
            settings.provider_makes and alone,
            settings.provider_joins,
            settings.provider_roles if alone else {},
        )
        self._lock = threading.Lock()
        self._about: dict[str, Any] = {}
        self._about_until = 0.0
        self._away: tuple[float, ProviderFails] | None = None
        self._talking = threading.BoundedSemaphore(AT_ONCE)
        self._keys: KeySet | None = None
        self._keys_at = 0.0

    @cached_property
    def _trusted(self) -> ssl.SSLContext:
        """Whom to trust, read once: it takes longer than most calls."""
        return httpx.create_ssl_context()

    @property
    def back(self) -> str:
        """The address that people come back to; it is what the provider has to know of this house."""
        at = self.settings.public or f"http://{self.settings.host}:{self.settings.port}"
        return at.rstrip("/") + RETURN

    def address(self, leaving: Leaving) -> str:
        """Where somebody is sent who wants to log in."""
        settings = self.settings
        asked = {
            **({"acr_values": " ".join(settings.provider_acr)} if settings.provider_acr else {}),
            **({"max_age": str(round(settings.provider_fresh * 60))} if settings.provider_fresh else {}),
        }
        with self._client() as client:
            url, _ = client.create_authorization_url(
                self._end("authorization_endpoint"),
                state=leaving.state,
                code_verifier=leaving.verifier,
                nonce=leaving.nonce,
                **asked,
            )
            return str(url)

    def claims(self, code: str, leaving: Leaving, issuer: str = "") -> Claims:
        """Exchange a code for what the provider says of whoever brought it.

        Raises `ProviderFails` where it does not answer, or not as it should; `NotLoggedIn` where what it says is not for this house, or not of
        this log-in.
        """
        if issuer and issuer != self.issuer:
            # Another provider's answer, sent here (RFC 9207).
            raise NotLoggedIn("provider.another_issuer", issuer=issuer[:200])
        with self._one_of_few(), self._client() as client, _answered():
            token = client.fetch_token(
                self._end("token_endpoint"),
                code=code,
                code_verifier=leaving.verifier,
                grant_type="authorization_code",
            )
            found = self._checked(str(token.get("id_token", "")), nonce=leaving.nonce)
            if found.get("azp", self.settings.provider_client) != self.settings.provider_client:
                raise NotLoggedIn("provider.not_for_us", why="azp")
            self._strong_enough(found)
            return self._told(found, client)

    def ended(self, token: str) -> tuple[str, str, str]:
        """Who, or which session of its own, the provider ends, and the name of this word (Back-Channel Logout 1.0, section 2.6)."""
        found = self._checked(token)
        events = found.get("events")
        named = found.get("sub") or found.get("sid")
        if (
            not isinstance(events, dict)
            or EVENT not in events
            or "nonce" in found
            or not named
            or not found.get("jti")
        ):
            raise NotLoggedIn("provider.not_for_us", why="events")
        return str(found.get("sub", "")), str(found.get("sid", "")), str(found["jti"])

    def look(self) -> list[str]:
        """See whether the provider answers, and has keys; of the ways to ask that are wanted those that it does not name."""
        self._end("authorization_endpoint")
        self._known_keys(fresh=True)
        named = self._about.get("acr_values_supported")
        wanted = self.settings.provider_acr
        return [one for one in wanted if one not in named] if isinstance(named, list) else []

    @contextmanager
    def _one_of_few(self) -> Iterator[None]:
        if not self._talking.acquire(timeout=1.0):
            raise ProviderFails("provider.many_wait")
        try:
            yield
        finally:
            self._talking.release()

    def _client(self) -> OAuth2Client:
        from authlib.integrations.httpx_client import OAuth2Client

        return OAuth2Client(
            self.settings.provider_client,
            self.settings.provider_secret or None,
            token_endpoint_auth_method=None if self.settings.provider_secret else "none",
            scope=" ".join(["openid", *self.settings.provider_scopes]),
            redirect_uri=self.back,
            code_challenge_method="S256",
            timeout=PATIENCE,
            verify=self._trusted,
        )

    def _end(self, name: str) -> str:
        """An address that the provider says it has. One that is not encrypted is taken only on this machine."""
        with self._lock:
            if time.monotonic() > self._about_until:
                about = self._fetched(f"{self.issuer.rstrip('/')}/.well-known/openid-configuration")
                if about.get("issuer") != self.issuer:
                    raise ProviderFails(
                        "provider.another_name", issuer=self.issuer, says=str(about.get("issuer"))[:200]
                    )
                self._about, self._about_until = about, time.monotonic() + KEPT
            url = self._about.get(name)
        if not isinstance(url, str) or not is_unheard(url):
            raise ProviderFails("provider.nothing_said", issuer=self.issuer, what=name)
        return url

    def _known_keys(self, fresh: bool = False) -> KeySet:
        from joserfc.jwk import KeySet

        url = self._end("jwks_uri")
        with self._lock:
            old = time.monotonic() - self._keys_at > (AGAIN if fresh else KEPT)
            if self._keys is None or old:
                self._keys = _understood(lambda: KeySet.import_key_set(self._fetched(url)))  # type: ignore[arg-type]
                self._keys_at = time.monotonic()
            return self._keys

    def _fetched(self, url: str) -> dict[str, Any]:
        if self._away is not None and time.monotonic() < self._away[0]:
            raise self._away[1]
        try:
            found = self._asked(url)
        except ProviderFails as error:
            self._away = (time.monotonic() + AWAY, error)
            raise
        self._away = None
        return found

    def _asked(self, url: str) -> dict[str, Any]:
        with _answered(), httpx.Client(timeout=PATIENCE, verify=self._trusted) as client:
            found = client.get(url, headers={"Accept": "application/json"})
            found.raise_for_status()
            told = found.json() if len(found.content) <= _LARGEST else None
            if not isinstance(told, dict):
                raise ProviderFails("provider.not_understood")
            return told

    def _checked(self, token: str, nonce: str = "") -> dict[str, Any]:
        """The claims of a token, once its signature, issuer, audience and time are right (Core 1.0, section 3.1.3.7)."""
        from joserfc import jwt
        from joserfc.errors import InvalidKeyIdError, JoseError

        def decoded(fresh: bool) -> jwt.Token:
            return jwt.decode(token, self._known_keys(fresh), algorithms=ALGORITHMS)

        wanted: dict[str, Any] = {
            "iss": {"essential": True, "value": self.issuer},
            "aud": {"essential": True, "value": self.settings.provider_client},
            "exp": {"essential": bool(nonce)},
            "iat": {"essential": True},
            "sub": {"essential": bool(nonce)},
        }
        if nonce:
            wanted["nonce"] = {"essential": True, "value": nonce}
        try:
            try:
                found = decoded(fresh=False)
            except (InvalidKeyIdError, ValueError):
                # It may sign with a new key by now.
                found = decoded(fresh=True)
            jwt.JWTClaimsRegistry(leeway=LEEWAY, **wanted).validate(found.claims)
        except (JoseError, ValueError, TypeError) as error:
            raise NotLoggedIn(
                "provider.not_for_us", why=getattr(error, "error", "") or type(error).__name__
            ) from None
        return found.claims

    def _strong_enough(self, found: Mapping[str, Any]) -> None:
        """Refuse where the provider asked less of somebody than this house wants, or asked too long ago, or does not say (Core 1.0, section 2)."""
        for name, wanted in (("acr", self.settings.provider_acr), ("amr", self.settings.provider_amr)):
            said = found.get(name, [])
            told = [*map(str, said if isinstance(said, list) else [said])]
            if wanted and not set(wanted) & set(told):
                raise NotLoggedIn(
                    "provider.too_weak", claim=name, wanted=wanted, told=", ".join(told)[:200] or "—"
                )
        since, most = found.get("auth_time"), self.settings.provider_fresh * 60
        if most and not (isinstance(since, (int, float)) and time.time() - since <= most + LEEWAY):
            raise NotLoggedIn("provider.too_long_ago", minutes=ceil(self.settings.provider_fresh))

    def _told(self, found: Mapping[str, Any], client: OAuth2Client) -> Claims:
        """The claims by our names; what the token leaves out is asked for with the access that came along."""
        roles = self.settings.provider_roles_claim
        wanted = {"name", "email", *([roles] if self.settings.provider_roles else [])}
        if wanted - set(found) and self._about.get("userinfo_endpoint"):
            answer = client.get(self._end("userinfo_endpoint"))
            answer.raise_for_status()
            more = answer.json()
            if not isinstance(more, dict) or more.get("sub") != found["sub"]:
                raise NotLoggedIn("provider.not_for_us", why="sub")
            found = {**more, **found}
        groups = found.get(roles, [])
        return Claims(
            issuer=self.issuer,
            subject=_text(found, "sub"),
            name=_text(found, "name"),
            username=_text(found, "preferred_username"),
            email=_text(found, "email"),
            email_verified=found.get("email_verified") is True,
            groups=tuple(map(str, groups if isinstance(groups, list) else [groups])),
            session=_text(found, "sid"),
        )


def provider_of(state: Any) -> Provider:
    """The provider of an application; raises `NotFound` where there is none."""
    found: Provider | None = state.provider
    if found is None:
        raise NotFound("provider.none")
    return found


def _text(found: Mapping[str, Any], name: str) -> str:
    value = found.get(name)
    return value if isinstance(value, str) else ""


def _understood(make: Callable[[], T]) -> T:
    from joserfc.errors import JoseError

    try:
        return make()
    except (JoseError, ValueError, TypeError, KeyError):
        raise ProviderFails("provider.no_keys") from None


@contextmanager
def _answered() -> Iterator[None]:
    """What goes wrong on the way to the provider, as one who logs in is told."""
    from authlib.common.errors import AuthlibBaseError
    from authlib.integrations.httpx_client import oauth2_client

    # Authlib sends with a later generation of the same library where that is installed.
    theirs = oauth2_client.httpx2
    try:
        yield
    except (httpx.TimeoutException, theirs.TimeoutException):
        raise ProviderFails("provider.late", seconds=round(PATIENCE)) from None
    except (httpx.HTTPError, theirs.HTTPError) as error:
        raise ProviderFails("provider.unreachable", why=type(error).__name__) from None
    except AuthlibBaseError as error:
        raise ProviderFails("provider.refuses", why=str(error.description or error.error)[:200]) from None
    except ValueError:
        raise ProviderFails("provider.not_understood") from None
