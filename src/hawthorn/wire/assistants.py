"""Messages about assistants: what each does and how it is overseen, and which words one wrote."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Page, Wire


class Assistant(Wire):
    """An assistant, as people oversee it."""

    handle: str
    name: str
    roles: list[str]
    last_at: str | None = Field(description="When it last did something; nothing for never.")
    acts: int = Field(description="What it did in the last hour: so many acts.")
    started: int = Field(description="The entries that it started in the last hour.")
    paused_at: str | None = Field(description="Since when it is paused; nothing where it is not.")
    paused_by: str = Field(description="Who paused it; empty where it is not.")
    reason: str = Field(description="Why it is paused.")


class Assistants(Page):
    """The assistants there are, by name."""

    items: list[Assistant]


class PauseAsk(Wire):
    """Why an assistant is paused."""

    reason: str = Field(default="", description="Told to the assistant, too.")


class AssistantUndoAsk(Wire):
    """From when on what an assistant did is undone."""

    since: str = Field(description="A day or an instant (RFC 3339).")


class AssistantUndone(Wire):
    """What came of undoing in one place."""

    id: str
    locale: str = Field(description="* for the fields shared by all locales.")
    shown_in: str = Field(description="The locale in which the place is seen.")
    title: str
    strand: str
    outcome: Literal["removed", "taken back", "open", "left"] = Field(
        description="Removed; what stood before is back; somebody is to decide between two texts; or left as it is."
    )
    why: str = Field(description="Why it is open or was left.")


class AssistantUndo(Wire):
    """What came of undoing what an assistant did."""

    items: list[AssistantUndone]


class WordRun(Wire):
    """A stretch of words, and whether an assistant wrote them."""

    text: str
    assistant: bool = Field(description="Whether an assistant wrote it.")


class AssistedPlace(Wire):
    """A text, or a paragraph of a rich one, in which an assistant wrote."""

    path: str = Field(description="The path of the field.")
    paragraph: str = Field(description="The id of the paragraph; empty for a plain text.")
    label: str
    runs: list[WordRun]


class Assisted(Wire):
    """What assistants wrote in an entry that nobody has signed off since."""

    count: int = Field(description="How many words.")
    by: list[str] = Field(description="The names of the assistants.")
    places: list[AssistedPlace]
