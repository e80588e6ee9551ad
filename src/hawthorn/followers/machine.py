"""The machine that suggests translations, reached over HTTP (`wire.machine_protocol`); the settings say where, if anywhere.

What crosses is plain sentences with their languages, and nothing of where they are from. What a type marks as confidential is never asked about:
whoever calls this has left it out (`operations.translation.suggestions`).
"""

from __future__ import annotations

from collections.abc import Sequence

import httpx
from pydantic import ValidationError

from hawthorn.core.messages import MessageError
from hawthorn.followers import outgoing
from hawthorn.followers.options import Options
from hawthorn.wire import machine_protocol as protocol

_MOST_ANSWER = 2_000_000


class NoSuggestions(MessageError):
    """The machine could not be asked, or did not answer as it should."""


def suggest(
    http: httpx.Client, options: Options, source: str, target: str, sentences: Sequence[str]
) -> list[str]:
    """Suggestions for at most `protocol.MOST` sentences; empty where there is none. Raises `NoSuggestions`."""
    if not options.machine_url:
        raise NoSuggestions("suggestions.no_machine")
    asked = protocol.Asked(source=source, target=target, sentences=list(sentences))
    headers = {"Content-Type": "application/json", "User-Agent": "Hawthorn"}
    if options.machine_key:
        headers["Authorization"] = f"Bearer {options.machine_key}"
    try:
        answer, body = outgoing.call(
            http,
            "POST",
            f"{options.machine_url.rstrip('/')}/v1/suggestions",
            options.allow_hosts,
            most=_MOST_ANSWER,
            content=asked.model_dump_json().encode(),
            headers=headers,
        )
    except outgoing.Forbidden as refused:
        raise NoSuggestions("suggestions.not_answered", why=refused.message) from refused
    except httpx.HTTPError as error:
        raise NoSuggestions("suggestions.not_answered", why=str(error) or type(error).__name__) from error
    if not answer.is_success:
        raise NoSuggestions("suggestions.answers", status=answer.status_code)
    try:
        found = protocol.Suggested.model_validate_json(body).sentences
    except ValidationError as error:
        raise NoSuggestions("suggestions.unreadable", why=error.errors()[0]["msg"]) from None
    if len(found) != len(sentences):
        raise NoSuggestions("suggestions.other_count", asked=len(sentences), found=len(found))
    return [text or "" for text in found]
