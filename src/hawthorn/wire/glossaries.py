"""What crosses HTTP about glossaries: concepts with what each is called in which language."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Page, Wire

TermStatus = Literal["preferred", "admitted", "deprecated"]
"""How a term may be used (ISO 30042): first, as well, or not at all."""


class Glossary(Wire):
    """A glossary, and what whoever looks may do with it."""

    id: str = Field(description="Its id.")
    name: str = Field(description="What it is called.")
    note: str = Field(description="What it is for.")
    section: str = Field(description="The entry that heads the section whose glossary it is; empty for all.")
    concepts: int = Field(description="So many concepts are in it.")
    by: str = Field(description="Who added it.")
    at: str = Field(description="When.")
    may_manage: bool = Field(description="Whether whoever looks may change it, and import into it.")


class Glossaries(Page):
    """The glossaries that whoever asks may use, by name."""

    items: list[Glossary] = Field(description="The glossaries.")


class GlossaryAsk(Wire):
    """A glossary to add."""

    name: str = Field(description="What it is called.", examples=["The museum's words"])
    note: str = Field(default="", description="What it is for.")
    section: str = Field(default="", description="The entry that heads its section; empty for all.")


class GlossaryChange(Wire):
    """What changes of a glossary (RFC 7396): what is not given stays."""

    name: str | None = Field(default=None, description="What it is called.")
    note: str | None = Field(default=None, description="What it is for.")
    section: str | None = Field(default=None, description="The entry that heads its section; empty for all.")


class Term(Wire):
    """What a concept is called in a language."""

    locale: str = Field(description="The locale.", examples=["fr"])
    text: str = Field(description="The term; one that is empty is left out.", examples=["gardien de phare"])
    status: TermStatus = Field(default="preferred", description="How it may be used.")


class ConceptAsk(Wire):
    """A concept as somebody writes it."""

    note: str = Field(default="", description="What it is.")
    terms: list[Term] = Field(description="What it is called; at least one.", max_length=200)


class Concept(Wire):
    """A concept with what it is called."""

    id: int = Field(description="Its number.")
    note: str = Field(description="What it is.")
    terms: list[Term] = Field(description="What it is called, in the order in which it was written.")
    by: str = Field(description="Who wrote it last.")
    at: str = Field(description="When.")


class GlossaryMerge(Wire):
    """Another glossary that is put into this one."""

    other: str = Field(description="The glossary that ends, by its id.")


class Concepts(Page):
    """The concepts of a glossary."""

    items: list[Concept] = Field(description="The concepts, in the order in which they came.")


class ConceptsRemove(Wire):
    """Concepts to remove."""

    ids: list[int] = Field(description="Their numbers.", min_length=1, max_length=1_000)
