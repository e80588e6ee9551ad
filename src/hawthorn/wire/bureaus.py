"""What crosses HTTP about bureaus: who translates outside, and what they ask for it."""

from __future__ import annotations

from pydantic import Field

from hawthorn.wire.base import Page, Wire


class BureauRates(Wire):
    """What a bureau asks for its work. Amounts are decimal numbers as text, so that none is rounded."""

    currency: str = Field(
        default="", description="The currency (ISO 4217); empty for no rates.", examples=["EUR"]
    )
    word: str = Field(default="0", description="For a word.", examples=["0.14"])
    locales: dict[str, str] = Field(
        default_factory=dict,
        description="For a word of a locale where that differs.",
        examples=[{"ja": "0.19"}],
    )
    shares: dict[str, str] = Field(
        default_factory=dict,
        description="Which share of it for words that are known, by how much; all of it where none is named.",
        examples=[{"repeated": "0.1", "in context": "0", "exact": "0.1", "95–99": "0.4"}],
    )


class BureauAsk(Wire):
    """A bureau to send jobs to."""

    name: str = Field(description="What it is called here.", examples=["Saltmarsh Translations"])
    url: str = Field(
        description="Where it takes jobs: they go to `{url}/jobs`.",
        examples=["https://saltmarsh.example/hawthorn"],
    )
    codes: dict[str, str] = Field(
        default_factory=dict,
        description="What it calls our locales, where that differs, by our tag.",
        examples=[{"fr": "fr-FR", "ja": "ja-JP"}],
    )
    key: str = Field(
        default="",
        description="What is sent to it as a bearer token (RFC 6750); empty for none. It is kept sealed and never shown again.",
    )
    rates: BureauRates = Field(default_factory=BureauRates, description="What it asks for its work.")


class BureauChange(Wire):
    """What changes of a bureau (RFC 7396): what is not given stays."""

    name: str | None = Field(default=None, description="What it is called here.")
    url: str | None = Field(default=None, description="Where it takes jobs.")
    codes: dict[str, str] | None = Field(default=None, description="What it calls our locales, all of them.")
    key: str | None = Field(default=None, description="A new key; empty when it needs none any more.")
    rates: BureauRates | None = Field(default=None, description="What it asks for its work, all of it.")


class Bureau(Wire):
    """A bureau that takes jobs, without its key."""

    id: int = Field(description="Its number.")
    name: str = Field(description="What it is called here.")
    url: str = Field(description="Where it takes jobs.")
    codes: dict[str, str] = Field(description="What it calls our locales, where that differs, by our tag.")
    has_key: bool = Field(description="Whether a key is sent with each call.")
    jobs: int = Field(description="How many jobs it had.")
    open: int = Field(description="How many of them are not finished.")
    since: str = Field(description="Since when it is there.")
    rates: BureauRates = Field(description="What it asks for its work.")


class Bureaus(Page):
    """The bureaus that take jobs, by name."""

    items: list[Bureau] = Field(description="The bureaus.")


class BureauTrial(Wire):
    """Whether a bureau answers."""

    answers: bool = Field(
        description="Whether it would take jobs, as far as can be seen without sending one."
    )
    trouble: str = Field(description="What is wrong, in words; empty when nothing is.")
