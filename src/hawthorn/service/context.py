"""What routes are given: the desk, whoever calls, and how to answer."""

from __future__ import annotations

import hmac
import inspect
import json
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from typing import Annotated, Any, TypeVar

from fastapi import Depends, Header, Request
from pydantic import AfterValidator, BaseModel

from hawthorn.core import access
from hawthorn.core.access import Grant, Identity, Means
from hawthorn.core.errors import CodeNeeded, HawthornError, Invalid, NotLoggedIn, Refused
from hawthorn.core.messages import said
from hawthorn.core.timeline import SECOND
from hawthorn.messages import WORDS
from hawthorn.operations.access import attempts, logging_in
from hawthorn.operations.delivery import limiting, reading
from hawthorn.operations.runtime.act import SCHEDULER_SELF, Act, Desk
from hawthorn.operations.search import finding
from hawthorn.service.conditional import plain_tag
from hawthorn.service.live import Hub
from hawthorn.service.rates import Rates
from hawthorn.service.settings import Settings

T = TypeVar("T")
COOKIE = "hawthorn_session"
_WITHOUT_FACTOR = ("/api/me", "/api/session", "/api/account")
"""Where somebody goes who has yet to set up a second factor: to who they are, out again, and to their own account."""
NOBODY = Identity(
    reading.NOBODY,
    "program",
    "Somebody without a log-in",
    "",
    (("everybody", Grant("read", stages=("release",))),),
)
"""Whoever reads without a key: what is out, and nothing else."""


UNLOCKED = "Hawthorn-Unlocked"
"""The header in which a site brings what phrases gave, several with commas between them."""
LEAST = "Hawthorn-Least"
"""The header in which whoever reads says how far the records have come at least that they are answered from."""
VARY = f"Accept-Language, Authorization, {UNLOCKED}"
"""Upon what the answers to those who read depend."""


def settings_of(request: Request) -> Settings:
    """The settings of the application."""
    settings: Settings = request.app.state.settings
    return settings


def desk_of(request: Request) -> Desk:
    """The desk of the application."""
    desk: Desk = request.app.state.desk
    return desk


async def _desk(request: Request) -> Desk:
    # On the loop itself: what only looks something up needs no thread.
    return desk_of(request)


def rates_of(request: Request) -> Rates:
    """How much each key has read lately."""
    rates: Rates = request.app.state.rates
    return rates


def hub_of(request: Request) -> Hub:
    """Everybody who listens."""
    hub: Hub = request.app.state.hub
    return hub


def lasts_of(request: Request) -> logging_in.Lasts:
    """How long sessions last."""
    settings = settings_of(request)
    hours = (settings.session_idle, settings.session_longest)
    return logging_in.Lasts(*(round(h * 3600 * SECOND) for h in hours))


def cookie_name(request: Request) -> str:
    """The name of the cookie that holds a session: bound to this very host wherever that is possible (RFC 6265bis, section
    4.1.3.2)."""
    return f"__Host-{COOKIE}" if settings_of(request).secured else COOKIE


def token_of(request: Request) -> tuple[str, bool]:
    """The token that came with a request, and whether a browser sent it as a cookie."""
    header = request.headers.get("authorization", "")
    if header.lower().startswith("bearer "):
        return header[7:].strip(), False
    return request.cookies.get(cookie_name(request), ""), True


def who(request: Request) -> Identity:
    """Whoever works here; raises `NotLoggedIn`, and `Refused` for a key that may only read what is out."""
    found = caller(request)
    if not access.works(found):
        raise Refused("context.key_reads_only", missing=said("context.grant_to_work"), who=[])
    return found


def caller(request: Request) -> Identity:
    """Whoever calls; raises `NotLoggedIn`. Browsers may only change things from a known origin. Looked up once a request."""
    known: Identity | None = getattr(request.state, "caller", None)
    if known is not None:
        return known
    token, cookie = token_of(request)
    if not token:
        raise NotLoggedIn("context.not_logged_in")
    if cookie and request.method not in ("GET", "HEAD", "OPTIONS"):
        check_origin(request)
    desk = desk_of(request)
    now = desk.clock.now()
    with desk.db.read() as conn:
        found = logging_in.identify(conn, now, token)
        unseen = logging_in.is_long_unseen(conn, now, token)
    if not request.url.path.startswith(_WITHOUT_FACTOR) and wants_factor(request, found, token):
        raise Refused("context.factor_wanted", missing=said("context.a_second_factor"), who=[found.name])
    if found.a_minute:
        rates_of(request).take(found.id, found.a_minute, found.name)
    if unseen and desk.db.writes:
        desk.write(found, lambda act: logging_in.note_seen(act, token, lasts_of(request)))
    request.state.caller = found
    return found


def who_or_nobody(request: Request) -> Identity:
    """Whoever reads; without a token it is everybody. A token that is wrong is an error, not nobody."""
    token, _ = token_of(request)
    found = caller(request) if token and request.headers.get("authorization") else NOBODY
    if UNLOCKED not in request.headers:
        return found
    desk = desk_of(request)
    brought = [one.strip() for one in request.headers[UNLOCKED].split(",")]
    with desk.db.read() as conn:
        open_ones = limiting.unlocked(conn, desk.vault, desk.clock.now(), brought)
    return replace(found, unlocked=open_ones)


def wants_factor(request: Request, who: Identity, token: str) -> bool:
    """Whether somebody has to set up a second factor before anything else."""
    if not settings_of(request).second_factor:
        return False
    with desk_of(request).db.read() as conn:
        return logging_in.lacks_factor(conn, who, token)


def check_origin(request: Request) -> None:
    """Refuse a browser's change from a page of another origin."""
    origin = request.headers.get("origin")
    if origin is None:
        if request.headers.get("sec-fetch-site", "same-origin") in ("same-origin", "none"):
            return
    else:
        scheme = "https" if settings_of(request).secured else request.url.scheme
        if (
            origin == f"{scheme}://{request.headers.get('host', '')}"
            or origin in settings_of(request).origins
        ):
            return
    raise Refused("context.another_site", missing="origin")


def fingerprint(body: BaseModel) -> str:
    """A body as text that is equal when the body is, whatever characters it holds."""
    return json.dumps(body.model_dump(), sort_keys=True)


def source_of(request: Request) -> str:
    """Where a request comes from, as far as that is known: the address, or what a proxy on this machine says of it."""
    return request.client.host if request.client is not None else "unknown"


def guessed(
    desk: Desk,
    request: Request,
    handle: str,
    look: Callable[[], T],
    wrong: Callable[[T], bool] = lambda _: False,
    me: Identity = SCHEDULER_SELF,
) -> T:
    """Look at a password or code that may be a guess: counted before, noted in the log when wrong, forgotten when right.
    `me` is whoever is logged in and confirms who they are."""
    source = source_of(request)
    name = desk.read(me, lambda view: attempts.name_of(view, handle))
    desk.write(me, lambda act: attempts.begin(act, name, source))
    try:
        found = look()
    except (CodeNeeded, Invalid) as error:
        if isinstance(error, CodeNeeded):
            # Name and password were right, and the code is yet to come.
            desk.write(me, lambda act: attempts.right(act, name, source))
        else:
            desk.write(me, lambda act: logging_in.refused(act, handle, source))
        raise
    if wrong(found):
        desk.write(me, lambda act: logging_in.refused(act, handle, source))
    else:
        desk.write(me, lambda act: attempts.right(act, name, source))
    return found


def confirmed(desk: Desk, request: Request, me: Identity, do: Callable[[Act], T]) -> T:
    """What somebody does who confirms meanwhile, by a password or a code, who they are: a wrong one counts as a guess."""
    return guessed(desk, request, me.handle, lambda: desk.write(me, do), me=me)


@contextmanager
def refusals_noted(desk: Desk, request: Request, by: Means, handle: Callable[[], str]) -> Iterator[None]:
    """Note in the log whoever is refused who comes by some means that is no password: under what name, as far as that is known, and why."""
    try:
        yield
    except HawthornError as error:
        why = WORDS.kept.text(error.message)[:300]
        name, source = handle(), source_of(request)
        desk.write(SCHEDULER_SELF, lambda act: logging_in.refused(act, name, source, by, why))
        raise


def bears(request: Request, key: str) -> bool:
    """Whether a request brings a key of the settings as its bearer token (RFC 6750, section 2.1)."""
    given = request.headers.get("authorization", "").encode()
    return hmac.compare_digest(given, f"Bearer {key}".encode())


def next_page(request: Request, cursor: str) -> str:
    """The `Link` (RFC 8288) to the next page of the same list."""
    url = request.url.include_query_params(cursor=cursor)
    return f'<{url.path}?{url.query}>; rel="next"'


async def _question(**asked: Any) -> finding.Query:
    # On the loop itself, too.
    return finding.Query(**asked)


# Its parameters are the members of the question.
_question.__signature__ = inspect.signature(finding.Query)  # type: ignore[attr-defined]

Asked = Annotated[finding.Query, Depends(_question)]
Who = Annotated[Identity, Depends(who)]
Reader = Annotated[Identity, Depends(who_or_nobody)]
AtDesk = Annotated[Desk, Depends(_desk)]
IfMatch = Annotated[
    Annotated[str, AfterValidator(plain_tag)] | None,
    Header(alias="If-Match", description="The ETag of what was looked at."),
]
Once = Annotated[
    str | None,
    Header(
        alias="Idempotency-Key",
        max_length=200,
        description="A repeat with the same key, within a day, gives the same answer.",
    ),
]
Answer = Any
"""What a route answers: members by name, or a dataclass of an operation. Its model says what is sent of it."""
Do = Callable[[Act], Answer]
