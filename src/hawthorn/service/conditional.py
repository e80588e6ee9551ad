"""What somebody asks only under a condition (RFC 9110, section 13): whether they have it already, or it is still what they know."""

from __future__ import annotations

import re
from email.utils import format_datetime, parsedate_to_datetime

from starlette.datastructures import Headers

from hawthorn.core.timeline import SECOND, to_datetime

_TAG = re.compile(r'\s*((?:W/)?"[\x21\x23-\x7e\x80-\xff]*")\s*(?:,|$)')


def http_date(instant: int) -> str:
    """An instant as HTTP writes it (section 5.6.7)."""
    return format_datetime(to_datetime(instant).replace(microsecond=0), usegmt=True)


def status_of(headers: Headers, etag: str, modified: int | None = None) -> int:
    """What is answered for something that is there: 200, 304 where whoever asks has it, or 412 where it is not what they know; in the order of section
    13.2.2, in which an entity tag counts before a time. `modified` is in microseconds."""
    if "if-match" in headers:
        if not _has(whole(headers, "if-match"), etag, weakly=False):
            return 412
    elif "if-unmodified-since" in headers and modified is not None:
        since = _seconds(headers["if-unmodified-since"])
        if since is not None and modified // SECOND > since:
            return 412
    if "if-none-match" in headers:
        return 304 if _has(whole(headers, "if-none-match"), etag, weakly=True) else 200
    if "if-modified-since" in headers and modified is not None:
        since = _seconds(headers["if-modified-since"])
        if since is not None and modified // SECOND <= since:
            return 304
    return 200


def whole(headers: Headers, name: str) -> str:
    """A field that is a list, from all its lines (section 5.3)."""
    return ", ".join(headers.getlist(name))


def _has(given: str, etag: str, *, weakly: bool) -> bool:
    """Whether an entity tag is among those that were given (section 8.8.3.2)."""
    if given.strip() == "*":
        return True
    tags = _TAG.findall(given)
    bare = etag.removeprefix("W/")
    if weakly:
        return any(plain_tag(tag.removeprefix("W/")) == plain_tag(bare) for tag in tags)
    return not etag.startswith("W/") and any(plain_tag(tag) == plain_tag(bare) for tag in tags)


CODINGS = ("zstd", "br", "gzip")
"""Codings that are made of what is answered, the first that is taken first."""

_CODED = re.compile(rf'-(?:{"|".join(CODINGS)})"$')


def plain_tag(tag: str) -> str:
    """An entity tag without the coding of the answer that it came with: what somebody has in one coding they have."""
    return _CODED.sub('"', tag)


def held(etag: str, given: str, coding: str) -> str:
    """The entity tag by which whoever asks holds an answer: in the coding that they take, where they have it in several. By that tag a cache finds what
    it is to keep longer (RFC 9111, section 4.3.4). Empty where they name none of it."""
    for one in (coding, "", *CODINGS):
        tag = f'{etag[:-1]}-{one}"' if one else etag
        if tag in given:
            return tag
    return ""


def _seconds(text: str) -> int | None:
    """A time as HTTP writes it, in seconds; None for what is none (section 13.1.3: it is passed over)."""
    try:
        return int(parsedate_to_datetime(text).timestamp())
    except (TypeError, ValueError, OverflowError):
        return None
