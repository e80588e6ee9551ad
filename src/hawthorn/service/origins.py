"""Reading from pages of any origin (Fetch standard, section 3.3, "CORS protocol"): what is there for readers, and nothing else. Nothing
here looks at cookies, so that a page of elsewhere reads no more than what it could read without its visitor."""

from __future__ import annotations

from starlette.responses import Response
from starlette.types import Scope

from hawthorn.service.context import LEAST, UNLOCKED

READS = ("/read/", "/feeds/", "/preview/")
"""Below these, pages of any origin may read."""
ANY = [("Access-Control-Allow-Origin", "*"), ("Access-Control-Expose-Headers", "*")]
"""What lets a page read an answer, and all its headers: its entity tag, the next page, how far a copy has come."""
GUARDED = [
    ("X-Content-Type-Options", "nosniff"),
    ("Referrer-Policy", "same-origin"),
    ("Content-Security-Policy", "default-src 'none'; base-uri 'none'; frame-ancestors 'none'"),
    ("Cross-Origin-Resource-Policy", "cross-origin"),
]
"""What keeps browsers strict with whatever readers are answered: it is data, and runs and fetches nothing."""
_SENT = (
    "Authorization",
    "Content-Type",
    UNLOCKED,
    LEAST,
    "If-None-Match",
    "If-Modified-Since",
    "Range",
)
ASKED_AHEAD = Response(
    status_code=204,
    headers={
        "Access-Control-Allow-Methods": "GET, HEAD, POST",
        "Access-Control-Allow-Headers": ", ".join(_SENT),
        # A day, where browsers hold it for so long: it is the same for every address.
        "Access-Control-Max-Age": "86400",
        "Cache-Control": "public, max-age=86400",
    },
)
"""The answer to a browser that asks what a page of another origin may send."""


def is_asked_ahead(scope: Scope) -> bool:
    """Whether a browser asks, before it sends something, whether a page of another origin may."""
    return (
        scope["method"] == "OPTIONS"
        and scope["path"].startswith(READS)
        and any(name == b"access-control-request-method" for name, _ in scope["headers"])
    )
