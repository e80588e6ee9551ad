"""The values of an entry as a terminal shows them: pages of blocks as an outline, texts without their markup."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator, Sequence
from html.parser import HTMLParser
from typing import Any

from rich.markup import escape

from hawthorn.cli import drawing
from hawthorn.cli.context import plain
from hawthorn.core.messages import said
from hawthorn.wire.content import FieldSpec

_STARTS = {"li": "• ", "h2": "## ", "h3": "### ", "h4": "#### ", "blockquote": "> "}
_BLOCKS = {"p", "li", "h2", "h3", "h4", "blockquote", "figure", "hr", "pre", "tr"}


def lines(
    specs: Sequence[FieldSpec], values: dict[str, Any], called: Callable[[str], str], deep: int = 1
) -> Iterator[str]:
    """Each value under the label of its field; `called` says what an entry (UUID) is called."""
    for spec in specs:
        value = values.get(spec.name)
        if value in (None, "", [], {}):
            continue
        shown = list(_value(spec, value, called, deep))
        label = f"{'  ' * deep}[dim]{escape(spec.label)}[/dim]"
        if len(shown) == 1 and not shown[0].startswith(" "):
            yield f"{label}: {shown[0]}"
        else:
            yield label
            yield from (line if line.startswith(" ") else f"{'  ' * (deep + 1)}{line}" for line in shown)


def _value(spec: FieldSpec, value: Any, called: Callable[[str], str], deep: int) -> Iterator[str]:
    if spec.kind == "blocks" or (spec.kind == "group" and spec.many):
        for item in value:
            form = next((b for b in spec.blocks if b.name == item.get("kind")), None)
            yield f"{'  ' * (deep + 1)}▪ [bold]{escape(form.label if form else spec.label)}[/bold]"
            yield from lines(form.fields if form else spec.fields, item.get("fields", {}), called, deep + 2)
    elif spec.kind == "group":
        yield from lines(spec.fields, value, called, deep + 1)
    elif isinstance(value, list) and spec.kind not in ("json", "query"):
        yield ", ".join(escape(_one(spec, single, called)) for single in value)
    elif spec.kind == "query" and isinstance(value, dict) and "items" in value:
        yield from (f"{'  ' * (deep + 1)}- {drawing.title(one.get('title') or '')}" for one in value["items"])
    elif spec.kind == "rich":
        yield from (escape(line) for line in words(value))
    else:
        yield from (escape(line) for line in _one(spec, value, called).splitlines())


def _one(spec: FieldSpec, value: Any, called: Callable[[str], str]) -> str:
    if spec.kind in ("reference", "parent"):
        return called(value["entry"] if isinstance(value, dict) and "entry" in value else str(value))
    if spec.kind == "link" and isinstance(value, dict):
        there = str(value.get("href") or plain("cli.values.nowhere"))
        there = called(there.removeprefix("urn:uuid:")) if there.startswith("urn:uuid:") else there
        return f"{value.get('text') or there} ({there})" if value.get("text") else there
    if spec.kind == "instant" and isinstance(value, dict):
        return f"{str(value.get('wall', '')).replace('T', ' ')} {value.get('zone', '')}"
    if spec.kind == "file" and isinstance(value, dict):
        name = value.get("name") or said("cli.values.a_file")
        return plain(
            "cli.values.file", name=name, type=value.get("media_type", ""), bytes=value.get("bytes", 0)
        )
    if spec.kind == "place" and isinstance(value, dict):
        return f"{value.get('latitude')}, {value.get('longitude')}"
    if isinstance(value, bool):
        return plain("cli.values.yes" if value else "cli.values.no")
    return value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)


def words(html: str) -> list[str]:
    """A rich text as lines, without markup but for a mark before headings, list items and quotes; links keep their address."""
    found = _Words()
    found.feed(html)
    found.close()
    return [line for line in (re.sub(r"[ \t]+", " ", one).strip() for one in found.lines) if line]


class _Words(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.lines: list[str] = [""]
        self._href = ""
        self._cells = 0

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag in _BLOCKS:
            self.lines.append(_STARTS.get(tag, ""))
            self._cells = 0
        elif tag in ("th", "td"):
            self.lines[-1] += " | " if self._cells else ""
            self._cells += 1
        elif tag == "br":
            self.lines.append("")
        elif tag == "a":
            self._href = dict(attrs).get("href") or ""
        elif tag == "img":
            self.lines[-1] += plain("cli.values.picture")

    def handle_endtag(self, tag: str) -> None:
        if tag in _BLOCKS:
            self.lines.append("")
        elif tag == "a" and self._href:
            if not self._href.startswith("urn:"):
                self.lines[-1] += f" <{self._href}>"
            self._href = ""

    def handle_data(self, data: str) -> None:
        self.lines[-1] += data
