"""Comments on an entry, a field, a passage or a dispatch: made, answered, resolved; naming a colleague puts it among their work."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from typing import Any, Protocol, TypedDict

from hawthorn.core import contenttypes, naming, passages, slots
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound, Refused
from hawthorn.core.messages import Message, said
from hawthorn.core.passages import Passage
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import EMPTY, Content, as_then
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.release import records
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import comments as store
from hawthorn.store import dispatches, entries, moves, people, revisions, short
from hawthorn.store.comments import Comment
from hawthorn.store.dispatches import Dispatch
from hawthorn.store.entries import Entry
from hawthorn.store.people import Actor

LONGEST = 5_000
"""The most characters of a comment."""
_NAMED = re.compile(r"(?<![\w@])@([\w.-]*\w)")


@dataclass(frozen=True, slots=True)
class Quote:
    """The words of a passage, with some before and after (Web Annotation Data Model, section 4.2.4)."""

    exact: str
    prefix: str = ""
    suffix: str = ""


class CommentPassage(TypedDict):
    """A passage that a comment is on, where it is by now: the paragraph (`block`, and which of the text that is), and its characters in it. One that is
    `gone` is nowhere."""

    quote: str
    gone: bool
    block: str
    index: int
    first: int
    past: int
    now: str


class Reply(TypedDict):
    """An answer to a comment."""

    by: str
    handle: str
    at: str
    text: str


class CommentShown(TypedDict):
    """A comment with its replies: on an entry in a locale, a field of it by its path, or a passage; who resolved it, and when, are empty while it is open.
    `strand` is the open strand beside the draft that it was made on: it is about what is written there."""

    id: str
    short: str
    locale: str
    strand: str
    field: str
    label: str
    by: str
    handle: str
    by_kind: str
    at: str
    text: str
    passage: CommentPassage | None
    replies: list[Reply]
    resolved_by: str
    resolved_at: str


_Where = tuple[str, CommentPassage | None]
"""The label of the field that a comment is on, and the passage."""


class _Subject(Protocol):
    """What a comment is on."""

    @property
    def entries(self) -> list[int]:
        """The entries that an event about it is about."""

    def hidden_from(self, name: str) -> Message:
        """What is said where somebody who is named may not see it."""

    def readable(self, view: View) -> bool:
        """Whether somebody may know of it."""

    def facts(self, view: View) -> dict[str, Any]:
        """What an event says of it."""


@dataclass(frozen=True, slots=True)
class _OnEdition:
    entry: Entry
    where: str
    """The locale, or `*` for what all of them share, which is read in any."""

    @property
    def entries(self) -> list[int]:
        return [self.entry.id]

    def hidden_from(self, name: str) -> Message:
        return said("comments.may_not_see", name=name)

    def readable(self, view: View) -> bool:
        return permission.readable(view, self.entry, self.where)

    def facts(self, view: View) -> dict[str, Any]:
        shared = self.where == COMMON
        tag = permission.first_locale(view, self.entry) if shared else self.where
        title = entries.title(view.conn, self.entry.id, tag) or view.say("common.untitled")
        return {"entry": self.entry.uuid, "locale": tag, "title": title, "shared": shared}


@dataclass(frozen=True, slots=True)
class _OnDispatch:
    row: Dispatch
    entries: list[int]

    def hidden_from(self, name: str) -> Message:
        return said("comments.may_not_see_dispatch", name=name)

    def readable(self, view: View) -> bool:
        return permission.whole(view, self.row.id)

    def facts(self, view: View) -> dict[str, Any]:
        return {"dispatch": self.row.uuid, "name": self.row.name, "owner": self.row.owner}


def make(
    act: Act,
    uuid: str,
    locale: str,
    text: str,
    field: str = "",
    quote: Quote | None = None,
    strand: str = entries.DRAFT_STRAND,
) -> str:
    """Make a comment on an edition, a field (by its path) or a passage of it, as the draft or another open strand has it; returns its id."""
    tag = act.setup.locale(locale)
    entry = permission.find(act, uuid, tag)
    _require_person(act)
    words = _words(text)
    kind = act.setup.type(entry.type)
    where, passage = tag, None
    revision = _head(act, entry.id, tag, strand)[0] if strand != entries.DRAFT_STRAND else None
    if field:
        top = field.split(":", 1)[0]
        spec = next((f for f in kind.fields if f.name == top), None)
        if spec is None:
            raise Invalid([FieldProblem("field", said("comments.no_field", field=field, kind=kind.label))])
        where = COMMON if spec.shared else tag
        revision, content = _head(act, entry.id, where, strand)
        if ":" in field and field not in {s.path for s in slots.walk(kind.fields, content.fields)}:
            raise Invalid([FieldProblem("field", said("comments.nothing_there", field=field))])
        if quote is not None:
            passage = _passage(kind, content, field, quote)
    elif quote is not None:
        raise Invalid([FieldProblem("field", said("comments.without_field"))])
    made = new_uuid(act.now)
    on = _OnEdition(entry, where)
    named = _named(act, on, words)
    kept = (passage.block, passage.first, passage.past, quote.exact) if passage and quote else None
    id = store.add(
        act.conn,
        made,
        entry.id,
        where,
        field,
        kept,
        revision,
        act.identity.id,
        act.identity.kind,
        act.now,
        words,
    )
    store.mention(act.conn, id, [n.id for n in named], act.now)
    act.event("comment.made", on.entries, {**_payload(act, on, made, words, named), "field": field})
    return made


def make_on_dispatch(act: Act, uuid: str, text: str) -> str:
    """Make a comment on a dispatch as a whole; returns its id."""
    on = _of_dispatch(act, records.find(act, uuid))
    _require_person(act)
    words = _words(text)
    made = new_uuid(act.now)
    named = _named(act, on, words)
    about = (on.row.id, act.identity.id, act.identity.kind, act.now, words)
    id = store.add_on_dispatch(act.conn, made, *about)
    store.mention(act.conn, id, [n.id for n in named], act.now)
    act.event("comment.made", on.entries, _payload(act, on, made, words, named))
    return made


def reply(act: Act, id: str, text: str) -> None:
    """Answer a comment; one that was resolved is open again."""
    row, on = _find(act, id)
    _require_person(act)
    words = _words(text)
    named = _named(act, on, words)
    others = store.taking_part(act.conn, row.id) - {act.identity.id}
    store.add_reply(act.conn, new_uuid(act.now), row.id, act.identity.id, act.identity.kind, act.now, words)
    store.mention(act.conn, row.id, [n.id for n in named], act.now)
    if row.resolved_at is not None:
        store.resolve(act.conn, row.id, None, None)
    payload = _payload(act, on, id, words, named)
    act.event("comment.replied", on.entries, {**payload, "taking_part": sorted(others)})


def resolve(act: Act, id: str) -> None:
    """Say that what a comment was about is settled."""
    row, on = _find(act, id)
    _require_person(act)
    if row.resolved_at is not None:
        raise InTheWay("comments.resolved_already", name=row.resolved_name)
    store.resolve(act.conn, row.id, act.identity.id, act.now)
    payload = _payload(act, on, id, row.text, [])
    others = sorted(store.taking_part(act.conn, row.id))
    act.event("comment.resolved", on.entries, {**payload, "taking_part": others})


def reopen(act: Act, id: str) -> None:
    """Open a comment again."""
    row, on = _find(act, id)
    _require_person(act)
    if row.resolved_at is None:
        raise InTheWay("comments.open")
    store.resolve(act.conn, row.id, None, None)
    act.event("comment.reopened", on.entries, _payload(act, on, id, row.text, []))


def on(view: View, uuid: str, locale: str, strand: str = entries.DRAFT_STRAND) -> list[CommentShown]:
    """The comments on an edition as its draft is now, or another open strand: a passage where it is by now, or said to be gone. What was said on a
    strand beside it that is open still is about that one's text."""
    tag = view.setup.locale(locale)
    entry = permission.find(view, uuid, tag)
    kind = view.setup.type(entry.type)
    heads = {where: _head(view, entry.id, where, strand)[1] for where in (tag, COMMON)}

    def where(row: Comment) -> _Where:
        label = contenttypes.label_of(kind, row.field) if row.field else ""
        return label, _now(view, kind, row, heads[row.locale] if row.strand in ("", strand) else EMPTY)

    return _told(view, store.of_edition(view.conn, entry.id, tag), where)


def on_dispatch(view: View, uuid: str) -> list[CommentShown]:
    """The comments on a dispatch as a whole."""
    rows = store.of_dispatch(view.conn, records.find(view, uuid).id)
    return _told(view, rows, lambda _: ("", None))


def _told(view: View, rows: Sequence[Comment], where: Callable[[Comment], _Where]) -> list[CommentShown]:
    """Comments with their replies, and where in a text each is."""
    replies = store.replies(view.conn, [r.id for r in rows])
    return [
        {
            "id": row.uuid,
            "short": short.of(view.conn, "comment", row.uuid),
            "locale": row.locale,
            "strand": row.strand,
            "field": row.field,
            "label": label,
            "by": row.name,
            "handle": row.handle,
            "by_kind": row.actor_kind,
            "at": iso(row.at),
            "text": row.text,
            "passage": passage,
            "replies": [
                {"by": r.name, "handle": r.handle, "at": iso(r.at), "text": r.text}
                for r in replies.get(row.id, ())
            ],
            "resolved_by": row.resolved_name or "",
            "resolved_at": iso(row.resolved_at) if row.resolved_at else "",
        }
        for row in rows
        for label, passage in [where(row)]
    ]


def _now(view: View, kind: ContentType, row: Comment, head: Content) -> CommentPassage | None:
    if row.first is None or row.past is None:
        return None
    was = _content(view, row.revision)
    before = passages.texts(as_then(kind, was), was, row.field)
    there = passages.texts(kind, head, row.field)
    found = passages.follow(Passage(row.block, row.first, row.past), before, there)
    out: CommentPassage = {
        "quote": row.quote,
        "gone": found is None,
        "block": "",
        "index": -1,
        "first": 0,
        "past": 0,
        "now": "",
    }
    if found is None:
        return out
    return {
        **out,
        "block": found.block,
        "index": list(there).index(found.block),
        "first": found.first,
        "past": found.past,
        "now": there[found.block][found.first : found.past],
    }


def _content(view: View, revision: int | None) -> Content:
    """What a revision holds; nothing for none."""
    return revisions.content(view.conn, revision) if revision is not None else EMPTY


def _head(view: View, entry: int, locale: str, strand: str) -> tuple[int | None, Content]:
    edition = entries.edition(view.conn, entry, locale, strand)
    if edition is None and strand != entries.DRAFT_STRAND:
        if locale != COMMON:
            raise NotFound("common.no_strand", name=strand)
        edition = entries.edition(view.conn, entry, locale)
    head = edition.head if edition is not None else None
    return head, _content(view, head)


def _passage(kind: ContentType, content: Content, field: str, quote: Quote) -> Passage:
    found = passages.find(passages.texts(kind, content, field), quote.exact, quote.prefix, quote.suffix)
    if found is None:
        raise Invalid(
            [FieldProblem("quote", said("comments.passage_not_there", passage=_shortened(quote.exact)))],
            remedy=said("comments.save_first"),
        )
    return found


def _shortened(text: str) -> str:
    """Some words of a passage, for a sentence about it."""
    return text if len(text) <= 60 else f"{text[:59]}…"


def _find(view: View, id: str) -> tuple[Comment, _Subject]:
    row = store.find(view.conn, id)
    on = _subject(view, row) if row is not None else None
    if row is None or on is None or not on.readable(view):
        raise NotFound("comments.not_there")
    return row, on


def _subject(view: View, row: Comment) -> _Subject:
    """What a comment is on."""
    if row.dispatch is not None:
        return _of_dispatch(view, dispatches.by_id(view.conn, row.dispatch))
    assert row.entry is not None
    return _OnEdition(entries.entry_by_id(view.conn, row.entry), row.locale)


def _of_dispatch(view: View, row: Dispatch) -> _OnDispatch:
    return _OnDispatch(row, moves.entries(view.conn, row.id))


def _require_person(act: Act) -> None:
    if act.identity.kind not in ("person", "assistant"):
        raise Refused("comments.only_people", missing="person", who=[])


def _words(text: str) -> str:
    words = naming.note("text", text, most=len(text))
    if not words or len(words) > LONGEST:
        raise Invalid([FieldProblem("text", said("comments.length", most=LONGEST))])
    return words


def _named(act: Act, on: _Subject, text: str) -> list[Actor]:
    """The colleagues whom a text names with @; one who may not see what it is on cannot be asked about it."""
    out: dict[int, Actor] = {}
    for handle in dict.fromkeys(_NAMED.findall(text)):
        row = people.by_handle(act.conn, handle)
        if row is None or row.kind != "person" or row.handle != handle:
            continue
        theirs = permission.seen_by(act, row.id)
        if not on.readable(theirs):
            raise Invalid(
                [FieldProblem("text", on.hidden_from(row.name))],
                remedy=said("comments.name_another"),
            )
        out[row.id] = row
    return list(out.values())


def _payload(act: Act, on: _Subject, id: str, text: str, named: list[Actor]) -> Mapping[str, Any]:
    return {**on.facts(act), "comment": id, "text": text, "named": [n.id for n in named]}
