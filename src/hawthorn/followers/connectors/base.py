"""What every kind of bureau can do for the carrier: say what it offers, take a job, say how it stands, give its parts, hear answers.

All of it may be repeated: a job is known by the name that we give it, so that what was cut off half-way is done again.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import field
from typing import ClassVar

import httpx

from hawthorn.core.messages import Message, MessageError
from hawthorn.core.quick import dataclass
from hawthorn.core.translation.offers import Offer
from hawthorn.followers.options import Options

LARGEST = 50_000_000
"""Bytes of a file that a bureau may send."""


@dataclass(frozen=True, slots=True)
class Reach:
    """Where a bureau is reached, with its key (empty for none) and the secret with which both sides sign (Standard Webhooks)."""

    kind: str
    address: str
    key: str = field(default="", repr=False)
    secret: str = field(default="", repr=False)
    notify: str = ""
    """Where it may call us."""


@dataclass(frozen=True, slots=True)
class Tools:
    """What connectors work with."""

    http: Callable[[], httpx.Client]
    options: Options
    words: Callable[[Message], str]


@dataclass(frozen=True, slots=True)
class Parcel:
    """A job as it is sent, under the name by which both sides know it."""

    id: str
    name: str
    source: str
    target: str
    due: str
    note: str
    units: int
    words: int
    file_name: str
    media_type: str
    data: bytes


@dataclass(frozen=True, slots=True)
class OwnFile:
    """A file in the target language: of which entry (its UUID) and field, and what it is called."""

    entry: str
    field: str
    name: str


@dataclass(frozen=True, slots=True)
class Part:
    """Something that came back: what it is called, its digest (SHA-256), and which file it is where it holds no words."""

    id: str
    sha256: str
    own_file: OwnFile | None = None


@dataclass(frozen=True, slots=True)
class Asked:
    """A question: about which entry (its UUID), unit and segment, and where the translator sees it."""

    id: str
    entry: str
    unit: str
    segment: str
    text: str
    context: str


@dataclass(frozen=True, slots=True)
class Standing:
    """How a job stands with a bureau; `state` is one of the protocol's (`wire.bureau_protocol.State`)."""

    state: str
    done: int | None = None
    total: int | None = None
    reason: str = ""
    parts: Sequence[Part] = ()
    questions: Sequence[Asked] = ()


class No(MessageError):
    """A bureau refused for good."""


class NotNow(MessageError):
    """A bureau could not do it now; `after` says how many seconds it asks to be left alone."""

    after = 0.0


class Forgotten(MessageError):
    """A bureau knows nothing of a job that it had taken."""


class Connector(ABC):
    """A kind of bureau. Each call raises `NotNow` where another try may do, and `No` where none will."""

    kind: ClassVar[str]
    """What the kind is called."""

    def __init__(self, reach: Reach, tools: Tools) -> None:
        self.reach = reach
        self.tools = tools

    @staticmethod
    @abstractmethod
    def wrong_address(address: str) -> Message | None:
        """Why an address is none for this kind."""

    @abstractmethod
    def offer(self) -> Offer:
        """What the bureau offers: this is how it is tried, too."""

    @abstractmethod
    def send(self, parcel: Parcel) -> None:
        """Take a job to the bureau; one that it has already is the same job."""

    @abstractmethod
    def set_day(self, parcel: Parcel) -> None:
        """Say the day by which a job that the bureau has is wanted now."""

    @abstractmethod
    def look(self, id: str) -> Standing:
        """How a job stands. Raises `Forgotten`."""

    @abstractmethod
    def fetch(self, id: str, part: Part) -> bytes:
        """A part that came back."""

    @abstractmethod
    def taken(self, id: str, part: Part, trouble: str) -> None:
        """A part was taken, or could not be, which `trouble` says."""

    @abstractmethod
    def answer(self, id: str, question: str, text: str, by: str) -> None:
        """Answer a question."""

    @abstractmethod
    def cancel(self, id: str) -> None:
        """Say that a job is not wanted any more; one that the bureau does not know is none."""
