"""Inline tags of a unit: which there are, what a translator may do with each, and what a target made of them.

A tag is known by its number. One that only formats may be left out, used again or put in anew; one that means something (a link) has
to be there once, and so files say (XLIFF 2.1, sections 4.3.1.3 to 4.3.1.6).
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Literal

from hawthorn.core import richtext
from hawthorn.core.messages import Message, MessageError, said
from hawthorn.core.quick import dataclass

FORMATTING = {"strong": "xlf:b", "em": "xlf:i", "s": "", "code": "", "sub": "", "sup": "", "br": "xlf:lb"}
"""Tags of a rich text that only format, with what XLIFF calls them (section 4.3.1.36) where it has a word."""
EMPTY = "br"
"""The one of them that holds no words."""
_TOKEN = re.compile(r"<(/?)([a-z0-9]+)([^>]*)>|([^<]+)")
_NAME = re.compile(r"<([a-z0-9]+)")
_NO_NUMBER = re.compile(r"[\s<>/\"&]")
_WRITTEN = re.compile(r"<(/?)([^\s<>/]+)(?: of=\"([^\"<>]*)\")?(/?)>|([^<]+)")


@dataclass(frozen=True, slots=True)
class Tag:
    """An inline tag by its number in the unit: "open", "close" or "empty".

    One that a translator put in says what it is `of`: the number of a tag that it repeats, or the name of one that formats.
    """

    id: str
    how: Literal["open", "close", "empty"]
    of: str = ""


Part = str | Tag
Parts = tuple[Part, ...]
Markup = Mapping[str, tuple[str, str]]
"""What stands behind each tag number: its opening and its closing."""


class BrokenTags(MessageError):
    """A target whose tags do not fit those of its source; the message says which."""


@dataclass(frozen=True, slots=True)
class Fitted:
    """A target whose tags fit: its parts, the markup behind all of its tags, and what is worth knowing."""

    parts: Parts
    markup: Markup
    notes: tuple[Message, ...] = ()


def name_of(opening: str) -> str:
    """The name of the markup behind a tag."""
    found = _NAME.match(opening)
    return found[1] if found else ""


def only_formats(opening: str) -> bool:
    """Whether the markup behind a tag says how words look, and nothing else."""
    return name_of(opening) in FORMATTING


def tokens(inner: str) -> tuple[Parts, dict[str, tuple[str, str]]]:
    """Inner HTML as words and numbered tags, with the markup behind each number."""
    parts: list[Part] = []
    tags: dict[str, tuple[str, str]] = {}
    open_ids: list[str] = []
    for closing, name, attributes, text in _TOKEN.findall(inner):
        if text:
            parts.append(html.unescape(text))
        elif closing:
            parts.append(Tag(open_ids.pop(), "close"))
        else:
            number = str(len(tags) + 1)
            if name == EMPTY:
                tags[number] = ("<br>", "")
                parts.append(Tag(number, "empty"))
            else:
                tags[number] = (f"<{name}{attributes}>", f"</{name}>")
                parts.append(Tag(number, "open"))
                open_ids.append(number)
    return tuple(parts), tags


def numbered_as(tags: Markup, parts: Parts, own: Markup) -> Parts:
    """Parts whose tags have numbers of their own, with the numbers that `tags` gives to the same markup, each used once."""
    free: dict[tuple[str, str], list[str]] = {}
    for number, markup in tags.items():
        free.setdefault(markup, []).append(number)
    named: dict[str, Tag] = {}
    for part in parts:
        if isinstance(part, Tag) and part.id not in named:
            same = free.get(own[part.id])
            found = same.pop(0) if same else ""
            named[part.id] = Tag(found or f"n{part.id}", "empty", "" if found else name_of(own[part.id][0]))
    return tuple(p if isinstance(p, str) else Tag(named[p.id].id, p.how, named[p.id].of) for p in parts)


def number(id: str) -> str:
    """An id of a file as a tag has it, without what a tag in brackets could not hold."""
    return id if id.isalnum() and len(id) <= 100 else _NO_NUMBER.sub("_", id[:100])


def words_of(parts: Iterable[Part]) -> str:
    """The words of a run of parts."""
    return "".join(p for p in parts if isinstance(p, str))


def markup(tags: Markup, parts: Iterable[Part]) -> str:
    """Words and numbered tags back to inner HTML."""
    out: list[str] = []
    for part in parts:
        if isinstance(part, str):
            out.append(html.escape(richtext.without_controls(part), quote=False))
        else:
            out.append(tags[part.id][1 if part.how == "close" else 0])
    return "".join(out)


def fitted(tags: Markup, parts: Sequence[Part], *, rich: bool = True) -> Fitted:
    """A target's parts, where each tag is one of its source, or one more that only formats, and all close in order.

    Raises `BrokenTags` where one that means something is missing or there twice, where one is unknown, and where `rich` says that
    the place holds no tags at all.
    """
    known = dict(tags)
    stack: list[str] = []
    seen: set[str] = set()
    added: list[str] = []
    names: dict[str, list[str]] = {}
    speaking: set[str] = set()
    out: list[Part] = []
    for part in parts:
        if isinstance(part, str):
            out.append(part)
            if part.strip():
                speaking |= set(stack)
            continue
        if part.how == "close":
            if not stack or names[stack[-1]][-1] != part.id:
                raise BrokenTags("units.tag_out_of_order", id=part.id)
            out.append(Tag(stack.pop(), "close"))
            continue
        id = _number(part, tags, known, seen, rich=rich)
        if (not known[id][1]) != (part.how == "empty"):
            raise BrokenTags("units.tag_of_another_kind", id=part.id)
        if id not in tags:
            added.append(name_of(known[id][0]))
        seen.add(id)
        names.setdefault(id, []).append(part.id)
        out.append(Tag(id, part.how))
        if part.how == "open":
            stack.append(id)
    if stack:
        raise BrokenTags("units.tag_left_open", id=names[stack[-1]][-1])
    bare = next(
        (id for id in names if known[id][1] and id not in speaking and not only_formats(known[id][0])), ""
    )
    if bare:
        # A link that holds no words would not be kept.
        raise BrokenTags("units.tag_without_words", id=bare)
    return Fitted(tuple(out), known, _notes(tags, seen, added))


def _number(part: Tag, tags: Markup, known: dict[str, tuple[str, str]], seen: set[str], *, rich: bool) -> str:
    """Under which number an opening or empty tag goes on; one that is new gets a number of its own."""
    if part.id in tags and part.id not in seen:
        return part.id
    behind = tags.get(part.of) or (None if part.of else tags.get(part.id))
    if behind is not None and not only_formats(behind[0]):
        raise BrokenTags("units.tag_twice", id=part.of or part.id)
    if behind is None and part.of in FORMATTING and rich:
        behind = ("<br>", "") if part.of == EMPTY else (f"<{part.of}>", f"</{part.of}>")
    if behind is None:
        raise BrokenTags("units.tag_too_many", id=part.id)
    id = f"{part.id}+{len(known)}"
    known[id] = behind
    return id


def _notes(tags: Markup, seen: set[str], added: Sequence[str]) -> tuple[Message, ...]:
    missing = [number for number in tags if number not in seen]
    needed = [number for number in missing if not only_formats(tags[number][0])]
    if needed:
        raise BrokenTags("units.tags_missing", ids=needed)
    notes: list[Message] = []
    if missing:
        notes.append(said("units.formatting_left_out", ids=missing))
    if added:
        notes.append(said("units.formatting_put_in", names=list(dict.fromkeys(added))))
    return tuple(notes)


def written(parts: Iterable[Part]) -> str:
    """Parts as text in which a tag is its number in angle brackets: `It <1>burned</1> oil.<2/>`."""
    out: list[str] = []
    for part in parts:
        if isinstance(part, str):
            # What reads as a reference to a character is written as one, and nothing else has to be.
            out.append(
                (part if html.unescape(part) == part else part.replace("&", "&amp;")).replace("<", "&lt;")
            )
        else:
            of = f' of="{part.of}"' if part.of and part.how != "close" else ""
            out.append(
                f"</{part.id}>" if part.how == "close" else f"<{part.id}{of}{'/' * (part.how == 'empty')}>"
            )
    return "".join(out)


def read(text: str) -> Parts:
    """What `written` wrote; an angle bracket that begins no tag is one."""
    out: list[Part] = []
    end = 0
    for found in _WRITTEN.finditer(text):
        add(out, html.unescape(text[end : found.start()]))
        end = found.end()
        closing, id, of, empty, words = found.groups()
        if words:
            add(out, html.unescape(words))
        else:
            out.append(Tag(id, "close" if closing else "empty" if empty else "open", of or ""))
    add(out, html.unescape(text[end:]))
    return tuple(out)


def add(out: list[Part], words: str | None) -> None:
    """Put words behind parts; they join those that stand there."""
    if not words:
        return
    if out and isinstance(out[-1], str):
        out[-1] += words
    else:
        out.append(words)
