"""Rows brought: looked through first, with a mapping that is proposed where none was given, then made into entries a few at a time."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import asdict, replace
from functools import partial
from itertools import islice
from typing import Any

from hawthorn.core.access import Subject
from hawthorn.core.errors import HawthornError, InTheWay
from hawthorn.core.exchange import mapping as mappings
from hawthorn.core.exchange.mapping import RowMapping, Told
from hawthorn.core.exchange.rows import FORMATS, Html, Row, links
from hawthorn.core.exchange.rows.base import FILE
from hawthorn.core.fields import Field, Wrong
from hawthorn.core.messages import Message, said
from hawthorn.operations.access import permission
from hawthorn.operations.exchange import packages, renaming, row_by_row
from hawthorn.operations.exchange.report import NAMED, TRIED, Report
from hawthorn.operations.exchange.row_pictures import Pictures
from hawthorn.operations.exchange.working import Working
from hawthorn.operations.media import files
from hawthorn.operations.media.files import Stored
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import exchange as store
from hawthorn.store import files as file_rows

AT_ONCE = 50
"""So many rows are brought in one transaction, between which others have their turn."""
_SAMPLE = 200
"""A mapping is proposed by so many rows."""
_LATER = "00000000-0000-7000-8000-000000000000"
"""What a cell refers to that names an entry of an earlier row, which is not here before rows are brought."""


class BringingRows(Working):
    """The work on rows that were given."""

    def work(self) -> None:
        """Look through them, or bring them, as their state says."""
        packages.require_file(self.path)
        if self.row.state == "looking":
            self._look()
        else:
            self._run()

    def _rows(self) -> Iterator[Row]:
        """The rows as they are given."""
        with self.path.open("rb") as file:
            yield from FORMATS[self.row.format].rows(file)

    def _led_rows(self, made: RowMapping, pictures: Pictures) -> Iterator[Row]:
        """The rows with links between pages led to the entries that those are, or will be, and pictures to theirs."""
        with self.path.open("rb") as file:
            pages = frozenset(FORMATS[self.row.format].names(file))
        for row in self._rows():
            yield self._led(row, made, pages, pictures)

    def _led(self, row: Row, made: RowMapping, pages: frozenset[str], pictures: Pictures) -> Row:
        def page(path: str) -> str:
            if path not in pages or not _by_file(made):
                return ""
            with self.desk.db.read() as conn:
                return row_by_row.uuid_of(conn, made.type, path, self.row.uuid)

        cells, lost = dict(row.cells), []
        for name, cell in _marked_up(row):
            gone = [path for path, _ in links.pictures(cell, row.place) if not pictures.entry(path)]
            lost += [pictures.why_not(path) for path in dict.fromkeys(gone)]
            lost += [said("rows.link_nowhere", name=one) for one in links.nowhere(cell, row.place, pages)]
            led = links.led_to_entries(cell, row.place, page)
            cells[name] = Html(links.shown_by_entries(led, row.place, pictures.entry))
        return replace(row, cells=cells, lost=tuple(lost))

    def _pictures(self, made: RowMapping) -> Pictures:
        return Pictures(self.desk, self.me, self.path, FORMATS[self.row.format], made, self.row.uuid)

    # -- looking

    def _look(self) -> None:
        self.tell("reading", 0, 0, now=True)
        total, sample = 0, []
        shown: dict[str, str] = {}
        for row in self._rows():
            total += 1
            _add_shown(shown, row)
            if total <= _SAMPLE:
                sample.append(row)
            self.tell("reading", total, 0)
        with self.path.open("rb") as raw:
            report = Report(sha256=hashlib.file_digest(raw, "sha256").hexdigest(), entries=total)
        report.columns = [asdict(one) for one in mappings.seen(sample)]
        made = self.desk.read(self.me, lambda view: self._mapping(view, sample))
        report.mapping = mappings.to_dict(made)
        pictures = self._look_at_pictures(made, shown, report)
        coming = _Coming(self, made, report)
        done = 0
        for some in _batches(_firsts(made, self._led_rows(made, pictures))):
            # Those that are tried out leave nothing behind.
            look = self.desk.tried if done < TRIED else self.desk.read
            look(self.me, partial(coming.look, some=some, tried=done < TRIED))
            done += len(some)
            self.tell("looking", done, total)
        self.looked(report, total)

    def _look_at_pictures(self, made: RowMapping, shown: Mapping[str, str], report: Report) -> Pictures:
        """See which of the pictures that pages show can be kept."""
        pictures = self._pictures(made)

        def seen(path: str, file: Stored) -> None:
            report.files += 1
            self.tell("files", report.files, len(shown))
            with self.desk.db.read() as conn:
                report.new_files += not file_rows.known(conn, file.sha256)
            report.added += self.desk.read(self.me, lambda view: pictures.is_new(view, path))

        pictures.each(shown, seen)
        return pictures

    def _mapping(self, view: View, sample: Sequence[Row]) -> RowMapping:
        """The mapping that was asked for, or one that fits."""
        wish, locales = packages.rows_wish_of(self.row), list(view.setup.locales)
        if wish.mapping is not None:
            return mappings.from_dict(wish.mapping, view.setup.types, locales)
        mine = [
            kind
            for kind in view.setup.types.values()
            if permission.may(view, "write", Subject(kind.name, wish.locale or locales[0], own=True))
        ]
        if wish.type and wish.type not in {kind.name for kind in mine}:
            permission.require(view, "write", Subject(wish.type, wish.locale or locales[0], own=True))
        if not mine:
            raise InTheWay("rows.nothing_to_write")
        return mappings.propose(sample, mine, locales, wish.type, wish.locale)

    # -- bringing

    def _run(self) -> None:
        report = Report(**json.loads(self.row.report))
        state = report.ran or {"rows": 0, "left": 0, "same": 0, "named": []}
        made = self.desk.read(
            self.me,
            lambda view: mappings.from_dict(report.mapping or {}, view.setup.types, list(view.setup.locales)),
        )
        total = report.entries
        rows = _firsts(made, self._led_rows(made, self._bring_pictures(made)))
        for some in _batches(islice(rows, state["rows"], None)):
            state = self.step(
                "entries",
                state["rows"] + len(some),
                total,
                partial(self._bring, made=made, some=some, state=state),
            )
        more = {"same": state["same"], "left": state["left"], "ran": None}
        self.desk.write(self.me, partial(self.ended, more=more, named=state["named"]))

    def _bring_pictures(self, made: RowMapping) -> Pictures:
        """Keep the pictures that pages show. One that is here already is not brought again."""
        pictures, shown = self._pictures(made), dict[str, str]()
        for row in self._rows() if made.pictures else ():
            _add_shown(shown, row)
        done = 0

        def bring(path: str, file: Stored) -> None:
            nonlocal done
            done += 1
            ready = files.laid(self.desk, file)
            keep = partial(
                pictures.bring, id=self.row.id, name=self.row.name, path=path, alt=shown[path], file=ready
            )
            self.step("files", done, len(shown), keep)

        pictures.each(shown, bring)
        return pictures

    def _bring(
        self, act: Act, made: RowMapping, some: Sequence[tuple[Row, str]], state: dict[str, Any]
    ) -> dict[str, Any]:
        """Bring some rows. How far that is lies beside what they became, in the same transaction."""
        now = {**state, "rows": state["rows"] + len(some), "named": list(state["named"])}
        kind = act.setup.type(made.type)
        for row, first in some:
            told = mappings.told(made, kind, row, act.setup.locales, partial(row_by_row.found, act))
            why = _in_the_way(told, first)
            try:
                if why is None:
                    with act.trying():
                        became = self.brought(act, made, told)
                    now["same"] += became.how == "same"
            except HawthornError as error:
                why = error.message
            if why is not None:
                now["left"] += 1
                if len(now["named"]) < NAMED:
                    now["named"].append(_seen(act, told, act.say(why)))
        report = self.report(act) | {"ran": now}
        store.set_report(act.conn, self.row.id, json.dumps(report, ensure_ascii=False))
        return now

    def brought(self, act: Act, made: RowMapping, told: Told) -> row_by_row.Became:
        """What a row becomes."""
        uuid = renaming.derived(told.key, self.row.uuid) if told.key and _by_file(made) else None
        return row_by_row.bring(act, self.row.id, made.type, told, self.row.name, uuid)


class _Coming:
    """What rows would become, as far as that can be known before they are brought."""

    def __init__(self, working: BringingRows, made: RowMapping, report: Report) -> None:
        self._working = working
        self._made = made
        self._report = report
        self._titles: set[str] = set()
        self._counted: set[str] = set()

    def look(self, view: View, some: Sequence[tuple[Row, str]], *, tried: bool) -> None:
        """Add to the report what some rows would become."""
        kind = view.setup.type(self._made.type)
        for row, first in some:
            told = mappings.told(self._made, kind, row, view.setup.locales, partial(self._found, view))
            why = _in_the_way(told, first)
            try:
                if why is None:
                    self._count(view, told, tried)
            except HawthornError as error:
                why = error.message
            if why is not None:
                self._report.left += 1
                self._report.name(**_seen(view, told, view.say(why)))
            elif told.lost:
                self._report.cleaned += 1
                self._report.name(**_seen(view, told, " ".join(view.say(one) for one in told.lost)))
            self._titles.add(told.title.casefold())

    def _found(self, view: View, spec: Field, text: str) -> str:
        try:
            return row_by_row.found(view, spec, text)
        except Wrong:
            if text.casefold() in self._titles and (not spec.types or self._made.type in spec.types):
                return _LATER
            raise

    def _count(self, view: View, told: Told, tried: bool) -> None:
        waiting = [name for name, value in told.values.items() if _LATER in json.dumps(value)]
        for name in waiting:
            del told.values[name]
        if tried and isinstance(view, Act):
            with view.trying():
                how = self._working.brought(view, self._made, told).how
        else:
            how = "there" if row_by_row.here(view, self._made.type, told) else "added"
        mark = told.id or told.key
        if mark in self._counted and how != "same":
            return
        self._counted |= {mark} - {""}
        if how == "added":
            self._report.added += 1
            return
        self._report.there += 1
        if how != "there":
            self._report.count(how)
        if how == "beside":
            self._report.name(**_seen(view, told, view.say("importing.asks")))


def _by_file(made: RowMapping) -> bool:
    """Whether pages are known by the names of their files."""
    return made.to(mappings.KEY) == FILE


def _marked_up(row: Row) -> list[tuple[str, Html]]:
    """The cells of a row that hold markup, by column."""
    return [(name, cell) for name, cell in row.cells.items() if isinstance(cell, Html)]


def _add_shown(shown: dict[str, str], row: Row) -> None:
    """Add the pictures that a page shows, each with its first alt text."""
    for _, cell in _marked_up(row):
        for path, alt in links.pictures(cell, row.place):
            shown.setdefault(path, alt)


def _seen(view: View, told: Told, why: str) -> dict[str, str]:
    """A row of which something is to be known, by its place in the file."""
    code = "rows.line" if told.place.isdigit() else "rows.page"
    title = " · ".join(filter(None, (view.say(code, place=told.place) if told.place else "", told.title)))
    return {"id": told.id, "title": title, "why": why}


def _in_the_way(told: Told, first: str) -> Message | None:
    """Why a row is left, as far as it says so itself; `first` is an earlier one about the same edition."""
    if told.wrong:
        return said("rows.not_read", why=told.wrong)
    return said("rows.twice", place=first) if first else None


def _firsts(made: RowMapping, rows: Iterable[Row]) -> Iterator[tuple[Row, str]]:
    """Rows, each with the place of an earlier one that is about the same edition; nothing where there is none."""
    seen: dict[tuple[str, str], str] = {}
    for row in rows:
        mark = mappings.mark(made, row)
        first = seen.setdefault(mark, row.place) if mark else row.place
        yield row, "" if first == row.place else first


def _batches(rows: Iterator[tuple[Row, str]]) -> Iterator[list[tuple[Row, str]]]:
    while found := list(islice(rows, AT_ONCE)):
        yield found
