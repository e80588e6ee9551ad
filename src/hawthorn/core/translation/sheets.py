"""A job as rows of a sheet, one for each sentence, for those who have no program for translators (our own form, `docs/bureaus.md`).

Tags stand in angle brackets by their numbers. What a spreadsheet would take for a formula begins with an apostrophe.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from hawthorn.core.errors import BadFile
from hawthorn.core.richtext import without_controls
from hawthorn.core.translation import tags
from hawthorn.core.translation.returns import Returned
from hawthorn.core.translation.units import STATES, Segment, Unit

HEAD = ("job", "entry", "title", "unit", "field", "segment", "source", "target", "state", "note")
"""The first row; `source` and `target` are followed by their languages."""
NEEDED = {"job", "entry", "unit", "segment"}
"""Names of the first row by which a sheet is known."""
BESIDE = "between"
"""What stands for the segment where white space between two sentences is meant."""
_FORMULA = ("=", "+", "-", "@", "\t", "\r", "'")


def safe(text: str) -> str:
    """A value that no spreadsheet takes for a formula (OWASP, CSV injection)."""
    text = without_controls(text)
    return f"'{text}" if text.startswith(_FORMULA) else text


def as_meant(text: str) -> str:
    """The value that `safe` made safe."""
    return text[1:] if text.startswith("'") and text[1:].startswith(_FORMULA) else text


def rows(
    job: str, source: str, target: str, files: Iterable[tuple[str, str, Sequence[Unit]]]
) -> Iterator[list[str]]:
    """The rows of a job: of each entry its address, its title and its units."""
    yield [f"{name} {tag}" if tag else name for name, tag in zip(HEAD, _tags(source, target), strict=True)]
    for original, title, units in files:
        for unit in units:
            for n, one in enumerate(unit.segments):
                note = " / ".join(unit.notes) if n == 0 else ""
                yield [
                    safe(value)
                    for value in (
                        job,
                        original,
                        title,
                        unit.key,
                        unit.label,
                        f"{one.id} {BESIDE}" if one.ignorable else one.id,
                        tags.written(one.source),
                        "" if one.target is None else tags.written(one.target),
                        one.state,
                        note,
                    )
                ]


def _tags(source: str, target: str) -> list[str]:
    return [{"source": source, "target": target}.get(name, "") for name in HEAD]


MOST_ROWS = 500_000
"""So many rows a sheet may have."""


class Reading:
    """Rows of a sheet as far as they were read."""

    def __init__(self, most: int) -> None:
        self.job = self.source = self.target = ""
        self._most = most
        self._rows = 0
        self._at: dict[str, int] = {}
        self._units: dict[tuple[str, str], list[Segment]] = {}
        self._notes: dict[tuple[str, str], str] = {}

    def head(self, names: Sequence[str]) -> None:
        """Take the first row in: columns may stand in another order, and others beside them."""
        for n, name in enumerate(names):
            word, _, tag = name.strip().partition(" ")
            if word in HEAD and word not in self._at:
                self._at[word] = n
            if word == "source":
                self.source = tag.strip()
            if word == "target":
                self.target = tag.strip()
        missing = [
            name for name in ("job", "entry", "unit", "segment", "source", "target") if name not in self._at
        ]
        if missing:
            raise BadFile("formats.no_columns", columns=missing)

    def row(self, values: Sequence[str]) -> None:
        """Take one more row in; an empty one says nothing."""
        if not any(values):
            return
        self._rows += 1
        if self._rows > MOST_ROWS:
            raise BadFile("formats.too_many_rows", most=MOST_ROWS)
        key = self._value(values, "entry"), self._value(values, "unit")
        self.job = self.job or self._value(values, "job")
        if key not in self._units and len(self._units) >= self._most:
            raise BadFile("formats.too_many_units", most=self._most)
        id, _, beside = self._value(values, "segment").partition(" ")
        target = self._value(values, "target")
        state = self._value(values, "state")
        # Whoever typed a target and left the state as it was has translated it.
        known = state if state in STATES and state != STATES[0] else STATES[1] if target else STATES[0]
        self._units.setdefault(key, []).append(
            Segment(
                id or f"s{len(self._units.get(key, ())) + 1}",
                tags.read(self._value(values, "source")),
                tags.read(target) if target else None,
                beside == BESIDE,
                known,
            )
        )
        self._notes[key] = self._notes.get(key) or self._value(values, "note")

    def files(self) -> tuple[tuple[str, tuple[Returned, ...]], ...]:
        """What was read, by entry."""
        found: dict[str, list[Returned]] = {}
        for (entry, unit), segments in self._units.items():
            note = self._notes[entry, unit]
            found.setdefault(entry, []).append(Returned(unit, tuple(segments), (note,) if note else ()))
        return tuple((entry, tuple(some)) for entry, some in found.items())

    def _value(self, values: Sequence[str], name: str) -> str:
        at = self._at.get(name)
        return as_meant(values[at]) if at is not None and at < len(values) else ""
