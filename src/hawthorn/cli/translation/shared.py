"""What the commands of jobs share: which job is meant, and what became of an import."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from pathlib import Path
from typing import Annotated, Protocol, TypeVar

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import err, means, or_none, out, plain, stop, tell
from hawthorn.client import Client, every
from hawthorn.core.messages import said

JobName = Annotated[str, typer.Argument(help="The job's id, or its start or end.", metavar="JOB")]


class Called(Protocol):
    """Something that has a name."""

    @property
    def name(self) -> str:
        """What it is called."""


class Kept(Called, Protocol):
    """Something that has a name and an id."""

    @property
    def id(self) -> str:
        """Its id."""


Thing = TypeVar("Thing", bound=Called)


def called(name: str, have: Sequence[Thing], none: str, means_many: str, none_is: str) -> Thing:
    """The one of some things that a name, or the start of it, means; stops where it is none, or several, in the words of the codes."""
    exact = [one for one in have if one.name == name]
    found = exact or [one for one in have if one.name.casefold().startswith(name.casefold())]
    if len(found) != 1:
        known = or_none(none, [one.name for one in found or have])
        stop(means_many if found else none_is, ends="not-found", name=name, count=len(found), known=known)
    return found[0]


def target_of(text: str) -> dict[str, str]:
    """A locale and who translates into it, as somebody writes it: fr, fr=Saltmarsh, fr=@luc."""
    locale, _, who = text.partition("=")
    if who.startswith("@"):
        return {"locale": locale, "person": who[1:]}
    return {"locale": locale, "bureau": who}


Memory = Annotated[
    list[str] | None,
    typer.Option(help="Look into this memory alone; may be given several times, “all” for all again."),
]
Glossary = Annotated[
    list[str] | None,
    typer.Option(
        "--glossary", help="Look into this glossary alone; may be given several times, “all” for all again."
    ),
]


def looked_into(
    hawthorn: Client, memory: list[str] | None, glossary: list[str] | None
) -> dict[str, list[str]]:
    """The memories and glossaries that are named, by their ids, as a commission takes them; stops for a name of none."""
    out: dict[str, list[str]] = {}
    if memory is not None:
        memories = list(every(hawthorn.memories))
        out["memories"] = _ids(memories, memory, "cli.memories.none_is")
    if glossary is not None:
        glossaries = list(every(hawthorn.glossaries))
        out["glossaries"] = _ids(glossaries, glossary, "cli.glossaries.none_is")
    return out


def _ids(have: Sequence[Kept], names: Sequence[str], none_is: str) -> list[str]:
    ids = {one.name: one.id for one in have}
    wrong = [name for name in names if name not in ids and name != "all"]
    if wrong:
        stop(none_is, ends="not-found", name=wrong[0], known=or_none("values.nothing", list(ids)))
    return [] if "all" in names else [ids[name] for name in names]


def imported(
    path: Path,
    run: Callable[[], wire.imports.FileImport],
    look: Callable[[], wire.imports.FileImports],
) -> wire.imports.FileImport:
    """Run an import, and show meanwhile how far it is, as the list of imports says."""
    with ThreadPoolExecutor(1) as worker, err.status(plain("cli.imports.sending", name=path.name)) as shown:
        done = worker.submit(run)
        while not wait([done], timeout=1).done:
            now = next((one for one in look().items if one.state == "running"), None)
            if now is not None:
                shown.update(plain("cli.imports.running", name=now.name, read=now.read))
        return done.result()


def say_file_imported(found: wire.imports.FileImport, undo: str) -> None:
    """Say what became of a file, and by which command it is undone."""
    facts = {"read": found.read, "added": found.added, "known": found.known}
    tell("cli.imports.done", **facts, undo=undo, number=found.id)
    if found.refused:
        tell("cli.imports.refused", count=found.refused)
    for problem in found.problems:
        out.print(f"  [dim]{escape(problem)}[/dim]")


def say_imports(some: Sequence[wire.imports.FileImport]) -> None:
    """A table of imports."""
    made = drawing.table("number", "file", "state", "added", "by")
    for one in some:
        state = drawing.word("import", one.state)
        made.add_row(str(one.id), escape(one.name), state, f"{one.added}/{one.read}", escape(one.by))
    out.print(made)


def id_of(hawthorn: Client, name: str) -> str:
    """The id of the job that somebody means; stops where it is none, or several."""
    found = [j.id for j in every(hawthorn.jobs) if means(name, j.id)]
    if len(found) != 1:
        stop("cli.jobs.means", ends="not-found", name=name, count=len(found))
    return found[0]


def say_imported(found: wire.translation.ImportResult) -> None:
    """Say what became of what was imported."""
    tell(
        "cli.jobs.imported",
        applied=found.applied,
        drifted=found.drifted,
        conflict=found.conflict,
        gone=found.gone,
    )
    for one in found.problems:
        tell("cli.jobs.not_taken", title=one.title or one.key, key=one.key, what=one.what)
    for decision in found.decisions:
        facts = {
            "title": decision.title,
            "label": decision.label,
            "how": said(f"cli.jobs.how_{decision.how}"),
        }
        tell("cli.jobs.decide", **facts)
        # Where the source moved, its words are what differs; else both translations.
        out.print("   ", drawing.runs(decision.runs if decision.sent != decision.now else decision.others))
    for one in found.notes:
        tell("cli.jobs.worth_knowing", title=one.title, key=one.key, what=one.what)
    if found.open:
        tell("cli.jobs.still_open", count=found.open, total=found.job.units)
