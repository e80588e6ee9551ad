"""A page of Markdown (CommonMark 0.31.2, with tables and struck words of GitHub Flavored Markdown 0.29), with front matter before it: YAML 1.1 between
lines of three hyphens, or TOML 1.0 between lines of three plus signs."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from typing import Any

import yaml
from markdown_it import MarkdownIt

from hawthorn.core.errors import BadFile
from hawthorn.core.exchange.rows import html_page
from hawthorn.core.exchange.rows.base import Html

BODY, HEADING, TITLE = "body", "heading", "title"
_FRONT = re.compile(r"\ufeff?(---|\+\+\+)[ \t]*\r?\n((?:.*?\n)??)\1[ \t]*(?:\r?\n|\Z)", re.DOTALL)
_MOST_FRONT = 100_000
_MARKDOWN = MarkdownIt("commonmark", {"html": True}).enable(["table", "strikethrough"])


def cells(data: bytes) -> dict[str, Any]:
    """The columns of a page: members of its front matter, those of a member with a point between, its first heading (which is its title, too, where
    nothing else is), and its body as markup. Raises `BadFile`."""
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError:
        raise BadFile("rows.page_not_utf8") from None
    found = _FRONT.match(text)
    front = _front(found[1], found[2]) if found else {}
    made = _MARKDOWN.render(text[found.end() :] if found else text.lstrip("\ufeff"))
    heading, body = html_page.without_heading(made)
    told = {TITLE: heading, HEADING: heading} if heading else {}
    return {**told, **_flat(front), BODY: Html(body)}


def _front(mark: str, text: str) -> Mapping[str, Any]:
    if len(text) > _MOST_FRONT:
        raise BadFile("rows.front_too_long", most=_MOST_FRONT)
    try:
        found = _yaml(text) if mark == "---" else tomllib.loads(text)
    except (yaml.YAMLError, tomllib.TOMLDecodeError, ValueError, RecursionError) as error:
        raise BadFile("rows.bad_front", error=" ".join(str(error).split())[:200]) from None
    if found is None:
        return {}
    if not isinstance(found, Mapping):
        raise BadFile("rows.front_without_names")
    return found


def _yaml(text: str) -> Any:
    """What YAML says, without aliases, of which a few lines may stand for any amount."""
    if any(isinstance(one, yaml.AliasEvent) for one in yaml.parse(text, yaml.SafeLoader)):
        raise yaml.YAMLError("an alias (*name), which is not read here")
    return yaml.safe_load(text)


def _flat(members: Mapping[Any, Any], before: str = "") -> dict[str, Any]:
    out: dict[str, Any] = {}
    for name, value in members.items():
        path = f"{before}{name}"[:200]
        if isinstance(value, Mapping) and not before:
            out |= _flat(value, f"{path}.")
        else:
            out[path] = value
    return out
