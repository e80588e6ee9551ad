"""What is to be said, before it is words: a code and its facts. The words stand in catalogues (`hawthorn.messages`)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from hawthorn.core.quick import dataclass


@dataclass(frozen=True, slots=True)
class Message:
    """Something to be said: the code under which catalogues have its words, and the facts that they name.

    A fact is a text, a number, a list of these, another message, or an error that carries one.
    """

    code: str
    facts: Mapping[str, Any]

    def __hash__(self) -> int:
        return hash(self.code)

    def __str__(self) -> str:
        told = "".join(f" {name}={value}" for name, value in self.facts.items())
        return f"{self.code}{told}"


def said(code: str, /, **facts: Any) -> Message:
    """A message by its code, with its facts by name."""
    return Message(code, facts)


def quoted(texts: Iterable[str | Message]) -> list[Message]:
    """Texts in quotation marks, as a fact."""
    return [said("common.quoted", text=text) for text in texts]


class MessageError(Exception):
    """An error that carries a message."""

    def __init__(self, code: str, /, **facts: Any) -> None:
        super().__init__(code, facts)
        self.message = Message(code, facts)

    def __str__(self) -> str:
        return str(self.message)


def told_by(error: Exception) -> Message | str:
    """What an error says: its message, else its own words, or what it is called where it has none."""
    return error.message if isinstance(error, MessageError) else str(error) or type(error).__name__
