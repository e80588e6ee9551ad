"""The Pellgrave Harbour Museum: its types, people and texts, read from the files in `data` and checked. All of it is made up.

`data/types` has one file for each content type, in the order in which they are defined; what several of them share stands
once in `data/pieces.json`, and is named where it is used: `{"use": "look"}`.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, NamedTuple

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

DATA = Path(__file__).parent / "data"
Values = dict[str, Any]
"""The values of an entry, by field; what names another entry does so by title."""


class _File(BaseModel):
    """A file of data; a name that it does not have is a mistake."""

    model_config = ConfigDict(extra="forbid")


class Person(NamedTuple):
    """Somebody who works here: how they log in, what they are called, their roles, and what they do."""

    handle: str
    name: str
    roles: list[dict[str, Any]]
    does: str


class Gallery(NamedTuple):
    """A room of the museum."""

    title: str
    floor: int
    step_free: bool
    body: str


class Maker(NamedTuple):
    """Somebody who made an exhibit."""

    title: str
    born: int
    died: int
    life: str


class Picture(NamedTuple):
    """A picture that the demo draws, by the name of the drawing."""

    name: str
    title: str
    alt: str
    credit: str


class Topic(NamedTuple):
    """A topic, and the one above it, or nothing."""

    title: str
    above: str


class SavedList(NamedTuple):
    """A list that somebody keeps."""

    by: str
    name: str
    query: dict[str, Any]
    shared: bool


class Reply(NamedTuple):
    """An answer to a comment."""

    by: str
    text: str


class Comment(NamedTuple):
    """Who says what about which field and words of which entry, and who answers."""

    by: str
    title: str
    field: str
    words: str
    text: str
    answers: list[Reply]


class Assigned(NamedTuple):
    """Who gives what to whom, due so many days from now, with a note."""

    by: str
    to: str
    title: str
    days: int
    note: str


class House(_File):
    """Who works here, and in which languages."""

    password: str
    locales: dict[str, str]
    people: list[Person]


class Collection(_File):
    """What the museum shows, and what it is about."""

    galleries: list[Gallery]
    makers: list[Maker]
    pictures: list[Picture]
    focus: dict[str, list[int]]
    folders: dict[str, list[str]]
    labels: list[Values]
    topics: list[Topic]
    about: dict[str, list[str]]


class News(_File):
    """What visitors should know, and what is written of it in other languages."""

    notices: list[Values]
    limited: list[Values]
    talks: list[Values]
    notes: list[Values]
    series: list[Values]
    translated: dict[str, dict[str, Values]]


class Pages(_File):
    """Pages made of blocks."""

    front: Values
    finding_us: Values
    frame: Values
    pages: list[Values]
    exhibition: Values
    open: list[Values]
    """Exhibitions that are announced, each with the days from now on which it opens and closes."""
    season: dict[str, Values]


class SiteWords(_File):
    """What the public site says by itself, in one language."""

    search: str
    search_button: str
    found: str
    nothing: str
    hours: str
    now: str
    coming: str
    until: str
    between: str
    prices: str
    full: str
    reduced: str
    map: str
    languages: str
    address: str
    invented: str


class Desk(_File):
    """What those who work here say to one another and keep."""

    lists: list[SavedList]
    comments: list[Comment]
    settled: set[str]
    assigned: list[Assigned]


class Workflows(_File):
    """A workflow of the house's own, and where it is chosen."""

    checked: dict[str, Any]
    choices: list[dict[str, str]]


class Term(_File):
    """What a concept is called in a language, and how that may be used."""

    locale: str
    text: str
    status: str


class Concept(_File):
    """A thing that the museum speaks of, with what it is called."""

    note: str
    terms: list[Term]


class Glossary(_File):
    """What the museum calls things."""

    name: str
    concepts: list[Concept]


class Thing(_File):
    """Something in the register: what it is called in each language, of what, when and where, and how it is drawn."""

    en: str
    fr: str
    de: str
    ja: str
    ar: str
    of: str
    year: int
    place: str = Field(alias="in")
    drawn: str


class Remark(_File):
    """What somebody says of a label, and what others answer."""

    on: str
    by: str
    text: str
    answers: list[tuple[str, str]]


class Archive(_File):
    """What was written in the months before: sentences in five languages of which labels are made, and the rest in English."""

    dated: dict[str, str]
    materials: dict[str, dict[str, str]]
    uses: list[dict[str, str]]
    given: list[dict[str, str]]
    seen: list[dict[str, str]]
    things: list[Thing]
    people: list[dict[str, Any]]
    notices: list[dict[str, Any]]
    talks: list[dict[str, Any]]
    back: list[str]
    agreed: list[str]
    comments: list[Remark]

    def sentences(self, number: int, locale: str) -> list[str]:
        """What is said of something, in a language, sentence by sentence."""
        thing = self.things[number]
        dated = self.dated[locale].format(material=self.materials[thing.of][locale], year=thing.year)
        some = (self.uses, number), (self.given, number // 2), (self.seen, number // 3)
        return [dated, *(of[n % len(of)][locale] for of, n in some)]

    def text(self, number: int, locale: str) -> str:
        """The text of its label."""
        dated, used, given, seen = self.sentences(number, locale)
        between = "" if locale == "ja" else " "
        return f"<p>{dated}{between}{used}</p><p>{given}{between}{seen}</p>"


class Memory(_File):
    """What was translated before: sentences, and labels that each thing has on each case, by language."""

    labels: list[dict[str, str]]
    cases: int
    things: list[dict[str, str]]
    sentences: list[dict[str, str]]

    def all(self) -> list[dict[str, str]]:
        """Every sentence in every language."""
        return self.sentences + [
            {tag: text.format(n=n, thing=thing[tag]) for tag, text in label.items()}
            for label in self.labels
            for n in range(1, self.cases + 1)
            for thing in self.things
        ]


def _read(name: str) -> str:
    return (DATA / name).read_text("utf-8")


def _with_pieces(value: Any, pieces: dict[str, Any]) -> Any:
    """A definition with what it uses put in: a list in a list as its members."""
    if isinstance(value, dict):
        if set(value) == {"use"}:
            return _with_pieces(pieces[value["use"]], pieces)
        return {name: _with_pieces(one, pieces) for name, one in value.items()}
    if not isinstance(value, list):
        return value
    out: list[Any] = []
    for one in value:
        found = _with_pieces(one, pieces)
        out += found if isinstance(found, list) else [found]
    return out


def _types() -> list[dict[str, Any]]:
    pieces = json.loads(_read("pieces.json"))
    files = sorted((DATA / "types").glob("*.json"))
    return [_with_pieces(json.loads(file.read_text("utf-8")), pieces) for file in files]


SETS = TypeAdapter(list[dict[str, Any]]).validate_json(_read("sets.json"))
TYPES = _types()
HOUSE = House.model_validate_json(_read("house.json"))
COLLECTION = Collection.model_validate_json(_read("collection.json"))
NEWS = News.model_validate_json(_read("news.json"))
PAGES = Pages.model_validate_json(_read("pages.json"))
SITE = TypeAdapter(dict[str, SiteWords]).validate_json(_read("site.json"))
DESK = Desk.model_validate_json(_read("desk.json"))
MEMORY = Memory.model_validate_json(_read("memory.json"))
WORDS = Glossary.model_validate_json(_read("words.json"))
WORKFLOWS = Workflows.model_validate_json(_read("workflows.json"))
ARCHIVE = Archive.model_validate_json(_read("archive.json"))
CAPTIONS = _read("fog-bell.en.vtt")
SHEET = _read("one-sheet.en.txt").splitlines()
PASSWORD = HOUSE.password
