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
    kind: str = Field(
        default="http",
        description="How it is reached: `http` for one that is called by the protocol of bureaus, `folder` for files in a folder.",
    )
    url: str = Field(
        description="Where it is called, without the version (`{url}/v1/offer`); for a folder, its name below the setting bureau_folders.",
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
    secret: str = Field(
        default="",
        description="With what both sides sign (Standard Webhooks), where the bureau has given one; else one is made.",
        examples=["whsec_bWFkZS11cC1zZWNyZXQtb2YtdGhpcnR5LXR3by1ieXRlcw=="],
    )
    rates: BureauRates = Field(
        default_factory=BureauRates,
        description="What it asks for its work; without any, what it offers is taken.",
    )
    untested: bool = Field(default=False, description="Whether to add it without asking it what it offers.")


class BureauChange(Wire):
    """What changes of a bureau (RFC 7396): what is not given stays."""

    name: str | None = Field(default=None, description="What it is called here.")
    url: str | None = Field(default=None, description="Where it is called.")
    codes: dict[str, str] | None = Field(default=None, description="What it calls our locales, all of them.")
    key: str | None = Field(default=None, description="A new key; empty when it needs none any more.")
    secret: str | None = Field(default=None, description="With what both sides sign from now on.")
    rates: BureauRates | None = Field(default=None, description="What it asks for its work, all of it.")
    untested: bool = Field(
        default=False, description="Whether to change it without asking it what it offers."
    )


class BureauPair(Wire):
    """One language into another, as the bureau calls them."""

    source: str = Field(description="The source language.")
    target: str = Field(description="The target language.")
    word: str = Field(description="What a word costs.")


class Bureau(Wire):
    """A bureau that takes jobs, without its key."""

    id: int = Field(description="Its number.")
    name: str = Field(description="What it is called here.")
    kind: str = Field(description="How it is reached.")
    url: str = Field(description="Where it is called.")
    codes: dict[str, str] = Field(description="What it calls our locales, where that differs, by our tag.")
    has_key: bool = Field(description="Whether a key is sent with each call.")
    jobs: int = Field(description="How many jobs it had.")
    open: int = Field(description="How many of them are not finished.")
    since: str = Field(description="Since when it is there.")
    rates: BureauRates = Field(description="What it asks for its work.")
    pairs: list[BureauPair] = Field(
        description="Which languages it translates into which, as it said; empty where it takes any, or was never asked."
    )
    offered_at: str = Field(description="When it said so last; empty when it never did.")
    lacking: dict[str, str] = Field(
        description="Which of our locales it does not translate into, and which code may be meant, by our tag."
    )


class BureauMade(Wire):
    """A bureau that was added."""

    bureau: Bureau = Field(description="The bureau.")
    secret: str = Field(
        description="With what both sides sign, shown this once; empty where it was given, or nothing is signed."
    )


class BureauSecret(Wire):
    """Another secret of a bureau."""

    secret: str = Field(description="With what both sides sign from now on, shown this once.")


class Bureaus(Page):
    """The bureaus that take jobs, by name."""

    items: list[Bureau] = Field(description="The bureaus.")


class BureauTrial(Wire):
    """Whether a bureau answers."""

    answers: bool = Field(description="Whether it says what it offers.")
    trouble: str = Field(description="What is wrong, in words; empty when nothing is.")
