"""Packages: entries exported to a file and imported from one, with how far that is, and undone."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import typer
from rich.markup import escape
from rich.progress import BarColumn, DownloadColumn, MofNCompleteColumn, Progress, TaskID, TextColumn

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import (
    Check,
    Json,
    Yes,
    err,
    means,
    note_error,
    out,
    plain,
    print_json,
    resolve,
    service,
    stop,
    tell,
)
from hawthorn.cli.exchange import rows
from hawthorn.client import Client, every

_LOOKS = 0.3
"""Seconds between two looks at how far something is."""
_AT_WORK = ("looking", "running", "undoing")
Named = Annotated[str, typer.Argument(help="The package's id, or its start or end.", metavar="PACKAGE")]
NewIds = Annotated[bool, typer.Option("--new-ids", help="Under new ids, beside what is here.")]
AsDrafts = Annotated[bool, typer.Option("--as-drafts", help="As drafts, whatever stood elsewhere.")]
Leave = Annotated[bool, typer.Option("--leave", help="Leave alone what is here already, rather than merge.")]
Definitions = Annotated[
    bool,
    typer.Option(
        "--definitions", help="Also put types, workflows and the like in place that are otherwise here."
    ),
]


def export(
    file: Annotated[Path, typer.Argument(help="The file to write.", metavar="FILE")],
    type: Annotated[
        list[str] | None, typer.Option(help="Entries of this type; may be given several times.")
    ] = None,
    section: Annotated[
        list[str] | None, typer.Option(help="Entries in this section and below; may be given several times.")
    ] = None,
    entry: Annotated[list[str] | None, typer.Option(help="This entry; may be given several times.")] = None,
    alone: Annotated[bool, typer.Option("--alone", help="Without what the chosen entries refer to.")] = False,
    no_history: Annotated[
        bool, typer.Option("--no-history", help="Only what stands, without what was before.")
    ] = False,
) -> None:
    """Export entries with all that belongs to them, their files too, as one package; all of them where nothing is chosen.

    Example: hawthorn export autumn.zip --type exhibition --type picture
    """
    with service() as hawthorn:
        asked = {
            "name": file.name,
            "types": type or [],
            "sections": [resolve(hawthorn, one) for one in section or []],
            "entries": [resolve(hawthorn, one) for one in entry or []],
            "linked": not alone,
            "history": not no_history,
        }
        made = _waited(hawthorn, hawthorn.make_package(asked))
        with _bytes(plain("cli.packages.fetching", name=file.name), made.bytes) as (bar, task):
            hawthorn.fetch_package(made.id, file, told=lambda count: bar.update(task, completed=count))
        hawthorn.drop_package(made.id)
    tell("cli.packages.exported", count=made.report.entries, file=file, bytes=made.bytes)


def import_file(
    file: Annotated[
        Path,
        typer.Argument(
            exists=True,
            help="A package, a table (csv, xlsx), a page (md, html), or a folder or archive of pages.",
            metavar="FILE",
        ),
    ],
    new_ids: NewIds = False,
    as_drafts: AsDrafts = False,
    leave: Leave = False,
    definitions: Definitions = False,
    type: Annotated[str, typer.Option(help="Of a table or pages: as entries of this content type.")] = "",
    locale: Annotated[str, typer.Option(help="Of a table or pages: in this locale.")] = "",
    mapping: Annotated[
        str,
        typer.Option(
            help="Of a table or pages: by this mapping, the name of one that is kept or a file; one is proposed otherwise."
        ),
    ] = "",
    keep: Annotated[
        str, typer.Option("--keep", help="Keep the mapping under this name.", metavar="NAME")
    ] = "",
    check: Check = False,
    yes: Yes = False,
    as_json: Json = False,
) -> None:
    """Import entries from a package, a table or pages: it is looked through, what it would do is said, and it is brought once that was agreed to.

    Example: hawthorn import autumn.zip --as-drafts

    Example: hawthorn import talks.csv --type talk --keep talks
    """
    wish = {"new_ids": new_ids, "as_drafts": as_drafts, "leave": leave, "definitions": definitions}
    package = file.is_file() and rows.is_package(file)
    named = [name for name, given in wish.items() if given]
    if not package and named:
        stop(
            "cli.rows.of_packages",
            ends="invalid",
            options=["--" + one.replace("_", "-") for one in named],
        )
    with service() as hawthorn:
        given = (
            _given(hawthorn, file, wish) if package else _given_rows(hawthorn, file, type, locale, mapping)
        )
        seen = _waited(hawthorn, given)
        if check:
            hawthorn.drop_package(seen.id)
        if not as_json or not (check or yes):
            rows.say_mapping(seen.report)
            _say_report(seen.report, as_drafts)
        if keep and seen.report.mapping is not None:
            hawthorn.keep_mapping(keep, seen.report.mapping.model_dump())
        if check:
            if as_json:
                print_json(seen)
            return
        if not yes and not _agreed(plain("cli.packages.sure")):
            hawthorn.drop_package(seen.id)
            raise typer.Exit(1)
        done = _waited(hawthorn, hawthorn.run_package(seen.id))
    if as_json:
        print_json(done)
        return
    _say_done(done)


def _given(hawthorn: Client, file: Path, wish: dict[str, bool]) -> wire.exchange.Package:
    """A package, sent."""
    with _bytes(plain("cli.packages.sending", name=file.name), file.stat().st_size) as (bar, task):
        return hawthorn.give_package(
            file, name=file.name, wish=wish, told=lambda count: bar.update(task, completed=count)
        )


def _given_rows(hawthorn: Client, file: Path, type: str, locale: str, mapping: str) -> wire.exchange.Package:
    """A table or pages, sent, and mapped where a mapping is named."""
    wish = rows.wish_of(hawthorn, type, locale, mapping)
    with rows.sendable(file) as path:
        with _bytes(plain("cli.packages.sending", name=path.name), path.stat().st_size) as (bar, task):
            given = hawthorn.give_rows(
                path, type=type, locale=locale, told=lambda count: bar.update(task, completed=count)
            )
    if "mapping" not in wish:
        return given
    return hawthorn.map_rows(_waited(hawthorn, given).id, wish)


def _agreed(question: str) -> bool:
    """Whether somebody says yes; nobody there says no."""
    try:
        return typer.confirm(question)
    except typer.Abort:
        return False


def listing(as_json: Json = False) -> None:
    """The packages there were, made and given, the newest first."""
    with service() as hawthorn:
        found = list(every(hawthorn.packages))
    if as_json:
        print_json(found)
        return
    if not found:
        tell("cli.packages.none")
        return
    made = drawing.table("id", "way", "file", "state", "entries", "by", "at")
    for one in found:
        state = drawing.word("package", one.state)
        made.add_row(
            one.id[:8] + "…" + one.id[-6:],
            plain(f"cli.packages.way.{one.way}"),
            escape(one.name),
            state,
            str(one.report.entries or ""),
            escape(one.by),
            drawing.when(one.at),
        )
    out.print(made)


def show(name: Named, as_json: Json = False) -> None:
    """A package: how far it is, and what was found in it or came of it.

    Example: hawthorn package show 01a1e1
    """
    with service() as hawthorn:
        found = hawthorn.package(_id_of(hawthorn, name))
    if as_json:
        print_json(found)
        return
    state = drawing.word("package", found.state)
    if found.state in _AT_WORK:
        count = {"step": found.step, "done": found.done, "total": found.total}
        tell("cli.packages.is", name=found.name, state=state, **count)
    else:
        tell("cli.packages.is_now", name=found.name, state=state)
    if found.trouble:
        tell("cli.packages.trouble", trouble=found.trouble)
    if found.way == "in":
        _say_report(found.report, bool(getattr(found.asked, "as_drafts", False)))


def go_on(name: Named) -> None:
    """Bring a package that was looked through, or go on with one that was broken off.

    Example: hawthorn package run 01a1e1
    """
    with service() as hawthorn:
        _say_done(_waited(hawthorn, hawthorn.run_package(_id_of(hawthorn, name))))


def cancel(name: Named) -> None:
    """Break off what is being done with a package; what it brought stays until it is undone.

    Example: hawthorn package cancel 01a1e1
    """
    with service() as hawthorn:
        hawthorn.cancel_package(_id_of(hawthorn, name))
    tell("cli.packages.cancelled", name=name)


def undo(name: Named) -> None:
    """Undo what a package brought, but for what somebody wrote in, or did something with, since.

    Example: hawthorn package undo 01a1e1
    """
    with service() as hawthorn:
        done = _waited(hawthorn, hawthorn.undo_package(_id_of(hawthorn, name)))
    tell("cli.packages.undone", name=done.name)
    _say_named(done.report)


def drop(name: Named) -> None:
    """Forget a package, and its file; what it brought stays.

    Example: hawthorn package drop 01a1e1
    """
    with service() as hawthorn:
        hawthorn.drop_package(_id_of(hawthorn, name))
    tell("cli.packages.dropped", name=name)


def _id_of(hawthorn: Client, name: str) -> str:
    found = [one.id for one in every(hawthorn.packages) if means(name, one.id)]
    if len(found) != 1:
        stop("cli.packages.means", ends="not-found", name=name, count=len(found))
    return found[0]


def _waited(hawthorn: Client, one: wire.exchange.Package) -> wire.exchange.Package:
    """A package once nothing is done with it any more, with a bar meanwhile. Ends the command where it failed, or somebody stopped it; whoever
    interrupts the command breaks it off."""
    columns = (TextColumn("{task.description}"), BarColumn(), MofNCompleteColumn())
    try:
        with Progress(*columns, console=err, transient=True) as bar:
            task = bar.add_task("", total=None)
            while one.state in _AT_WORK:
                if one.step:
                    words = plain(f"cli.packages.step.{one.step}")
                    bar.update(task, description=words, completed=one.done, total=one.total or None)
                time.sleep(_LOOKS)
                one = hawthorn.package(one.id)
    except KeyboardInterrupt:
        hawthorn.cancel_package(one.id)
        note_error("cli.packages.interrupted", id=one.id)
        raise
    if one.state in ("failed", "cancelled"):
        stop(
            f"cli.packages.ended.{one.state}", ends="bad-file", name=one.name, trouble=one.trouble, id=one.id
        )
    return one


@contextmanager
def _bytes(words: str, total: int) -> Iterator[tuple[Progress, TaskID]]:
    columns = (TextColumn("{task.description}"), BarColumn(), DownloadColumn())
    with Progress(*columns, console=err, transient=True) as bar:
        yield bar, bar.add_task(words, total=total)


def _say_report(found: wire.exchange.PackageReport, as_drafts: bool) -> None:
    if found.mapping is None:
        tell("cli.packages.holds", entries=found.entries, files=found.files, people=found.people)
        if found.sentences or found.concepts:
            told = ("sentences", "new_sentences", "concepts", "new_concepts")
            tell("cli.packages.holds_language", **{name: getattr(found, name) for name in told})
        if found.dispatches:
            tell(
                "cli.packages.holds_dispatches",
                dispatches=found.dispatches,
                new_dispatches=found.new_dispatches,
            )
    else:
        tell("cli.rows.holds", count=found.entries)
        if found.files:
            tell("cli.rows.pictures", count=found.files)
    counts = {
        "added": found.added,
        "same": found.same,
        "merged": found.merged,
        "asked": found.asked,
        "left": found.left,
    }
    for what, count in counts.items():
        if count:
            tell(f"cli.packages.counted.{what}", count=count)
    untried = found.there - found.same - found.merged - found.asked
    if untried > 0:
        tell("cli.packages.counted.there", count=untried)
    if found.out and not as_drafts:
        tell("cli.packages.out", count=found.out)
    if found.cleaned:
        tell("cli.packages.cleaned" if found.mapping is None else "cli.rows.cleaned", count=found.cleaned)
    if found.new_people:
        tell("cli.packages.new_people", names=found.new_people)
    for one in found.definitions:
        tell(
            f"cli.packages.definition.{one.how.split()[0]}", part=one.part, name=one.name, members=one.members
        )
    _say_named(found)


def _say_named(found: wire.exchange.PackageReport) -> None:
    for one in found.named:
        if not one.id:
            tell("cli.rows.named", title=one.title or plain("common.untitled"), why=one.why)
            continue
        tell("cli.packages.named", title=one.title or plain("common.untitled"), id=one.id[:8], why=one.why)


def _say_done(done: wire.exchange.Package) -> None:
    found = done.report
    tell("cli.packages.done", added=found.added, merged=found.merged, asked=found.asked, id=done.id)
    if found.new_sentences or found.new_concepts:
        tell(
            "cli.packages.done_language",
            new_sentences=found.new_sentences,
            new_concepts=found.new_concepts,
        )
    if found.new_dispatches:
        tell("cli.packages.done_dispatches", new_dispatches=found.new_dispatches)
    for what, count in (("same", found.same), ("left", found.left)):
        if count and found.mapping is not None:
            tell(f"cli.packages.counted.{what}", count=count)
    _say_named(found)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "In and out"
    app.command("export", rich_help_panel=panel)(export)
    app.command("import", rich_help_panel=panel)(import_file)
    group = typer.Typer(
        help="Packages that were made or given: how far each is, and undoing one.", no_args_is_help=True
    )
    group.command("list")(listing)
    group.command("show")(show)
    group.command("run")(go_on)
    group.command("cancel")(cancel)
    group.command("undo")(undo)
    group.command("drop")(drop)
    app.add_typer(group, name="package", rich_help_panel=panel)
