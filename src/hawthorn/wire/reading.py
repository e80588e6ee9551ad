"""What those who read get: entries, lists, counts, the outline, and what changed."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from hawthorn.wire.base import Wire

TextForm = Literal["html", "markdown", "paragraphs"]
"""A form in which rich texts are read."""


class ReadParagraph(BaseModel):
    """A paragraph of a rich text, where texts are read by their paragraphs."""

    tag: Literal["p", "h2", "h3", "h4", "li", "tr", "figure", "hr"]
    within: list[str] = Field(
        description="What it stands in, from the outside in: ul, ol, blockquote, table."
    )
    html: str = Field(description="What it holds, as HTML; of a row its cells, of a picture its caption.")
    text: str = Field(description="The same as words alone.")
    picture: dict[str, Any] | None = Field(
        default=None, description="Its address, alt text and size, of a picture."
    )


class ReadReference(BaseModel):
    """Another entry that a read entry refers to."""

    id: str
    type: str
    locale: str
    title: str
    path: str | None = None
    file: dict[str, Any] | None = None
    fields: dict[str, Any] | None = Field(default=None, description="What a common block holds.")
    locked: bool = Field(
        default=False, description="Whether no more than this can be read without its phrase."
    )


class ReadLocale(BaseModel):
    """Another locale in which the entry can be read."""

    locale: str
    path: str | None


class ReadEntry(BaseModel):
    """An entry as those who read see it."""

    id: str
    type: str
    locale: str
    wanted_locale: str
    title: str
    path: str | None
    revision: int
    since: str
    fields: dict[str, Any]
    date: str | None = Field(
        default=None, description="The shown date; that of the first release where none is given."
    )
    pinned: bool = False
    openings: dict[str, str | list[ReadParagraph]] = {}
    regions: dict[str, str] = Field(
        default={}, description="The regions that follow the layout, each with the layout's id."
    )
    search: dict[str, Any] = Field(
        default={}, description="Title, description and picture for searches and shared links."
    )
    references: dict[str, ReadReference]
    locales: list[ReadLocale]
    shown: dict[str, Any] | None = Field(
        default=None,
        description="Stage, instant, strand and dispatch, where it is not simply what is out now.",
    )
    limited: Literal["", "hidden", "locked"] = Field(
        default="",
        description="Whether it is hidden from others, or locked for them; empty where everybody reads it.",
    )
    groups: list[str] | None = Field(
        default=None,
        description="What it depends on, as caches name it, where it was wanted (`groups=true`) and everybody reads it.",
    )
    locked: bool = Field(
        default=False,
        description="Whether whoever reads gets no more than its title, and may give its phrase.",
    )


class ReadPage(BaseModel):
    """A page of entries; `next` is the cursor of the page after it, or empty."""

    items: list[ReadEntry]
    next: str
    included: dict[str, ReadEntry] | None = Field(
        default=None,
        description="The entries that were wanted with them, by their ids, where any were asked for.",
    )
    referring: dict[str, dict[str, list[str]]] | None = Field(
        default=None,
        description="Which entries refer to each, by the relation and its id, newest first, 50 at most; they are among the included ones.",
    )


class ReadAlternate(BaseModel):
    """The same page in another language."""

    locale: str
    address: str


class ReadProperty(BaseModel):
    """A property of Open Graph (ogp.me)."""

    property: str = Field(description="Its name, such as og:title.")
    content: str = Field(description="What it is.")


class ReadHead(BaseModel):
    """What a page says of itself in its head."""

    title: str = Field(description="The title for searches.")
    description: str = Field(description="The description for searches.")
    address: str = Field(description="Where the page is on the site; empty where it has no page there.")
    alternates: list[ReadAlternate] = Field(
        description="Where it is in each language that is out, its own too, for `hreflang`."
    )
    open_graph: list[ReadProperty] = Field(description="Open Graph (ogp.me), in order.")
    linked_data: dict[str, Any] = Field(
        description="JSON-LD 1.1 in the words of schema.org, as the type and its fields name them."
    )
    index: bool = Field(description="Whether searches may list it: not where it is not simply what is out.")


class ReadCount(BaseModel):
    """A value, and how many entries have it."""

    value: str = Field(description="An entry by its id, a tag, a word, or a month, such as 2027-03.")
    title: str = Field(description="What it is called.")
    count: int = Field(description="How many entries have it.")


class ReadCounts(BaseModel):
    """Entries counted by a field or by month."""

    by: str = Field(description="What was counted by.")
    counts: list[ReadCount] = Field(description="The values, 500 at most.")


class ReadQuestion(Wire):
    """A list that is asked for, as the parameters of `/read/entries` ask for one."""

    types: list[str] = Field(default=[], description="Content types; all without any.")
    locale: str = Field(default="", description="The wanted locale.")
    stage: str = Field(default="", description="The stage to read at.")
    at: str = Field(default="", description="The instant to read at.")
    dispatch: str = Field(default="", description="The dispatch to read in, as if it had gone.")
    strand: str = Field(default="", description="The strand to read on, by its name.")
    where: dict[str, str | list[str]] = Field(
        default={},
        description="Conditions by field and operator, without `where.` before them.",
        examples=[{"date.last": "P14D"}],
    )
    sort: str = Field(default="", description="A field to sort by, with a `-` backwards.")
    limit: int = Field(default=20, ge=1, le=100, description="The most items.")
    cursor: str = Field(default="", description="The place to go on from.")
    fallback: bool = Field(default=True, description="Whether another locale may stand in.")
    ids: list[str] = Field(default=[], description="Only these entries, in this order.")
    fields: list[str] = Field(default=[], description="The fields that are wanted; all without any.")
    include: list[str] = Field(default=[], description="Paths of relations whose entries are wanted too.")
    texts: TextForm = Field(default="html", description="The form of rich texts.")
    referring: list[str] = Field(default=[], description="Relations that lead here, as a type and its field.")


class ReadQuestions(Wire):
    """Several lists that are asked for in one call."""

    questions: dict[str, ReadQuestion] = Field(description="Each under a name of its own, 20 at most.")


class ReadAnswers(BaseModel):
    """The answers, by name: each a page, or the problem (RFC 9457) that kept it from being one."""

    answers: dict[str, Any] = Field(description="The answers, by name.")


class ReadNode(Wire):
    """A page in the outline as those who read get it."""

    id: str
    type: str
    title: str
    locale: str
    path: str | None
    below: list[ReadNode] = []


class ReadOutline(Wire):
    """Pages of the outline, nested."""

    items: list[ReadNode]


class ReadChangedEntry(BaseModel):
    """An entry that came out, moved or went."""

    id: str
    type: str
    there: bool = Field(description="Whether it is there now; what is not is taken away.")


class ReadChanged(BaseModel):
    """What a site that keeps its pages has to read anew."""

    position: str = Field(description="To be given as `since` the next time.")
    everything: bool = Field(description="Whether no more can be said than that anything may have changed.")
    entries: list[ReadChangedEntry] = Field(description="The entries that themselves changed, 2,000 at most.")
    groups: list[str] = Field(
        description="The groups that changed: a body that names one of them (`groups=true`) may be another; `outline` where any page has another address."
    )
