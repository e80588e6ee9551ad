"""Translation from the command line."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing, sheets
from hawthorn.cli.context import (
    EXIT,
    Check,
    Json,
    marked,
    out,
    print_json,
    resolve,
    service,
    stop,
    tell,
)
from hawthorn.cli.sheets import Sheet
from hawthorn.cli.translation import own_files, table
from hawthorn.cli.translation.shared import JobName, id_of, say_imported
from hawthorn.client import every
from hawthorn.core.messages import said


def commission(
    names: Annotated[list[str], typer.Argument(help="Entries to translate.", metavar="ENTRY…")],
    locale: Annotated[
        list[str],
        typer.Option("--locale", help="A target locale; may be given several times.", metavar="LOCALE"),
    ],
    bureau: Annotated[str, typer.Option(help="Who does it; without one the file is carried by hand.")] = "",
    name: Annotated[str, typer.Option(help="What to call it.")] = "",
    due: Annotated[str, typer.Option(help="The day it is due.")] = "",
    note: Annotated[str, typer.Option(help="A note to the translators.")] = "",
    again: Annotated[
        bool,
        typer.Option("--again", help="Send what another job has already once more; else it is left out."),
    ] = False,
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Commission translations: one job per locale, with only what is missing or has changed.

    Example: hawthorn commission "Winter opening hours" --locale fr --locale ja --bureau "Saltmarsh Translations"
    """
    with service() as hawthorn:
        ids = [resolve(hawthorn, n) for n in names]
        if check:
            found = hawthorn.estimate(ids, locale, due=due, bureau=bureau, again=again)
            if as_json:
                print_json(found)
            for item in [] if as_json else found.items:
                estimate = said(
                    "cli.jobs.estimate",
                    locale=item.locale,
                    units=item.units,
                    words=item.words,
                    entries=item.entries,
                )
                if item.away:
                    estimate = said("cli.jobs.estimate_away", estimate=estimate, count=item.away)
                tell("common.words", words=estimate)
                if item.trouble:
                    tell("cli.commissions.trouble", locale=item.locale, trouble=item.trouble)
            return
        made = hawthorn.commission(ids, locale, name=name, due=due, note=note, bureau=bureau, again=again)
    if as_json:
        print_json(made)
    else:
        out.print(f"[bold]{escape(made.name)}[/bold]")
        out.print(drawing.jobs(made.jobs))
        if made.left_out:
            tell("cli.jobs.left_out", count=made.left_out)


def listing(
    state: Annotated[
        str,
        typer.Option(
            help="Only those in this state; open are all that are neither accepted nor cancelled.",
            metavar="STATE",
        ),
    ] = "",
    locale: Annotated[str, typer.Option(help="Only those into this locale.", metavar="LOCALE")] = "",
    bureau: Annotated[str, typer.Option(help="Only those of this bureau.", metavar="BUREAU")] = "",
    person: Annotated[
        str, typer.Option(help="Only those that this person translates.", metavar="HANDLE")
    ] = "",
    limit: Annotated[int, typer.Option(min=1, max=500, help="How many.")] = 50,
    sheet: Sheet = None,
    as_json: Json = False,
) -> None:
    """Jobs, newest first, with how far they are.

    Example: hawthorn job list --state returned --locale fr

    Example: hawthorn job list --sheet jobs.csv
    """
    asked: dict[str, Any] = {"state": state, "locale": locale, "bureau": bureau, "person": person}
    with service() as hawthorn:
        if sheet is not None:
            sheets.write(sheet, every(hawthorn.jobs, **asked))
            return
        found = hawthorn.jobs(**asked, limit=limit)
    if as_json:
        print_json(found)
    elif found.items:
        out.print(drawing.jobs(found.items))
        if found.next:
            tell("cli.shared.there_is_more", limit=min(limit * 2, 500))
    else:
        tell("cli.jobs.no_such_jobs" if any(asked.values()) else "cli.jobs.there_are_no_jobs")


def show(name: JobName, as_json: Json = False) -> None:
    """A job, unit by unit.

    Example: hawthorn job show 01a1e1b6
    """
    with service() as hawthorn:
        job = hawthorn.job(id_of(hawthorn, name))
    if as_json:
        print_json(job)
        return
    tell(
        "cli.jobs.job",
        name=job.name,
        source_locale=job.source_locale,
        locale=job.locale,
        state=drawing.word("job", job.state),
        percent=job.percent,
        words=job.words,
    )
    if job.trouble:
        out.print(f"  [red]{escape(job.trouble)}[/red]")
    if job.due_told is not None:
        code = "cli.jobs.day_believed" if job.due_told else "cli.jobs.day_believed_none"
        tell(code, bureau=job.bureau, day=job.due_told)
        tell("cli.jobs.day_untold" if job.due_trouble else "cli.jobs.day_being_told", why=job.due_trouble)
    for question in job.questions:
        tell("cli.jobs.question", number=question.id, by=question.by, text=question.text)
        if question.answer:
            tell("cli.jobs.answer", by=question.answered_by, text=question.answer)
    made = drawing.table("unit", "source", "returned", "outcome")
    for unit in job.units_shown:
        made.add_row(
            f"{unit.key}\n[dim]{unit.entry}[/dim]",
            escape(unit.source),
            escape(unit.returned),
            _what_came(unit),
        )
    out.print(made)


def _what_came(unit: wire.translation.JobUnit) -> str:
    lines = [drawing.word("outcome", unit.outcome) or drawing.word("segment", unit.state)]
    if unit.trouble:
        lines.append(marked("cli.jobs.trouble", what=unit.trouble))
    lines += [marked("cli.jobs.note", note=note) for note in unit.notes]
    return "\n".join(lines)


def export(
    names: Annotated[
        list[str], typer.Argument(help="Jobs, by their ids or what begins or ends them.", metavar="JOB…")
    ],
    file: Annotated[Path | None, typer.Option("--file", help="The file to write.")] = None,
    format: Annotated[
        str, typer.Option(help="xliff-2.1 (unless another is named), xliff-1.2, csv or xlsx.")
    ] = "",
) -> None:
    """Export a job as a file, to be translated by hand; several jobs as a ZIP archive of their files.

    Example: hawthorn job export 01a1e1b6 --file french.xlf
    """
    with service() as hawthorn:
        ids = [id_of(hawthorn, name) for name in names]
        if len(ids) > 1:
            data = hawthorn.export_jobs(ids, format=format)
            path = file or Path("hawthorn-jobs.zip")
            path.write_bytes(data)
            tell("cli.jobs.exported_many", path=path, bytes=len(data), count=len(ids))
            return
        data = hawthorn.export_job(ids[0], format=format)
        job = hawthorn.job(ids[0])
        endings = {one.name: one.ending for one in hawthorn.setup().formats}
    path = file or Path(f"{job.short}-{job.locale}.{endings.get(format, 'xlf')}")
    path.write_bytes(data)
    tell(
        "cli.jobs.exported",
        path=path,
        bytes=len(data),
        words=job.words,
        locale_name=job.locale_name,
        short=job.short,
    )


def import_file(
    name: JobName,
    path: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="The finished file.")],
    whole: Annotated[bool, typer.Option(help="Take all of it or nothing.")] = False,
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Import a translated file: what fits is taken, what does not is named and stays open. It ends as for a bad file when something
    did not fit, or nothing in it was translated.

    Example: hawthorn job import 01a1e1b6 french.xlf
    """
    with service() as hawthorn:
        found = hawthorn.import_job(id_of(hawthorn, name), path.read_bytes(), whole=whole, check=check)
    if as_json:
        print_json(found)
    else:
        say_imported(found)
    if found.refused or found.open == found.job.units:
        raise typer.Exit(EXIT["bad-file"])


def import_all(
    path: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="The ZIP archive.")],
    whole: Annotated[bool, typer.Option(help="Take all of each file or nothing of it.")] = False,
    as_json: Json = False,
) -> None:
    """Import several translated files in one ZIP archive, each for the job that it names. It ends as for a bad file when one of them was not
    taken, or not all of it.

    Example: hawthorn job import-all hawthorn-jobs.zip
    """
    with service() as hawthorn:
        found = hawthorn.import_jobs(path.read_bytes(), whole=whole)
    if as_json:
        print_json(found)
    else:
        for one in found.files:
            tell("cli.jobs.of_archive", name=one.name)
            if one.result is not None:
                say_imported(one.result)
            else:
                tell("cli.jobs.file_not_taken", why=one.problem)
    if any(one.result is None or one.result.refused for one in found.files):
        raise typer.Exit(EXIT["bad-file"])


def accept(
    name: JobName,
    key: Annotated[str, typer.Option(help="Only this unit.")] = "",
    entry: Annotated[str, typer.Option(help="The entry that the unit is of.")] = "",
    note: Annotated[str, typer.Option(help="A note to go with it.")] = "",
    release: Annotated[bool, typer.Option("--release", help="Release it at once; all of it alone.")] = False,
    dispatch: Annotated[
        str, typer.Option(help="Put it into this open dispatch, by its id; all of it alone.")
    ] = "",
    as_json: Json = False,
) -> None:
    """Accept what returned, one unit or all; accepting all signs the target editions off.

    Example: hawthorn job accept 01a1e1b6 --note "Read against the source."
    """
    with service() as hawthorn:
        id = id_of(hawthorn, name)
        if key and not entry:
            entry = hawthorn.job(id).entries[0].id
        some = [(entry, key)] if key else []
        found = hawthorn.accept(id, some, note=note, release=release, dispatch=dispatch)
    if as_json:
        print_json(found)
        return
    tell("cli.jobs.accepted", accepted=found.accepted, left=found.left)
    for note_line in found.notes:
        tell("cli.shared.note", warning=note_line)


def choose(
    name: JobName,
    key: Annotated[str, typer.Argument(help="The unit.")],
    take: Annotated[str, typer.Option(help="ours keeps the edition, theirs takes what returned.")],
    entry: Annotated[str, typer.Option(help="The entry that the unit is of.")] = "",
) -> None:
    """Settle a unit that was edited here while it was away.

    Example: hawthorn job choose 01a1e1b6 title --take theirs
    """
    with service() as hawthorn:
        id = id_of(hawthorn, name)
        hawthorn.choose(id, entry or hawthorn.job(id).entries[0].id, key, take)
    out.print(f"{key}: {take}.")


def again(name: JobName) -> None:
    """Send a failed job to its bureau once more.

    Example: hawthorn job again 01a1e1b6
    """
    with service() as hawthorn:
        job = hawthorn.send_job_again(id_of(hawthorn, name))
    tell("cli.jobs.is_on_its_way_again", name=job.name, locale=job.locale)


def assign(
    name: JobName,
    to: Annotated[str, typer.Option(help="Who gets it, by the name they log in with.")] = "",
    bureau: Annotated[str, typer.Option(help="The bureau that gets it, by its name.")] = "",
    anybody: Annotated[bool, typer.Option("--anybody", help="Whoever writes the language.")] = False,
    due: Annotated[
        str | None, typer.Option(help="The day by which it is due, as 2030-01-31; empty for none.")
    ] = None,
    note: Annotated[str, typer.Option(help="A note to go with it.")] = "",
    as_json: Json = False,
) -> None:
    """Give a job to somebody else, or put off the day on which it is due. What was translated stays.

    Example: hawthorn job assign 01a1e1b6 --to hanne --due 2027-03-31
    """
    chosen = [bool(to), bool(bureau), anybody]
    if sum(chosen) > 1 or not (any(chosen) or due is not None):
        stop("cli.jobs.assign_what")
    moved: dict[str, str] = {"bureau": bureau} if bureau else {"person": to} if to or anybody else {}
    with service() as hawthorn:
        job = hawthorn.assign_job(id_of(hawthorn, name), due=due, note=note, **moved)
    if as_json:
        print_json(job)
        return
    who = job.bureau or job.translator or marked("cli.commissions.nobody")
    code = "cli.jobs.is_assigned_until" if job.due else "cli.jobs.is_assigned_to"
    tell(code, name=job.name, locale=job.locale, who=who, due=job.due)


def cancel(name: JobName, as_json: Json = False) -> None:
    """Cancel a job: what its bureau still sends is not taken.

    Example: hawthorn job cancel 01a1e1b6
    """
    with service() as hawthorn:
        job = hawthorn.cancel_job(id_of(hawthorn, name))
    if as_json:
        print_json(job)
    else:
        tell("cli.jobs.is_cancelled", name=job.name, locale=job.locale)


def reopen(name: JobName, as_json: Json = False) -> None:
    """Open a cancelled job again: what returns is taken, and nothing that had returned is lost.

    Example: hawthorn job reopen 01a1e1b6
    """
    with service() as hawthorn:
        job = hawthorn.reopen_job(id_of(hawthorn, name))
    if as_json:
        print_json(job)
    else:
        tell("cli.jobs.is_open_again", name=job.name, locale=job.locale)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Translation"
    app.command(rich_help_panel=panel)(commission)
    group = typer.Typer(help="Translation jobs: see, export, import, accept.", no_args_is_help=True)
    for name, function in (
        ("list", listing),
        ("show", show),
        ("export", export),
        ("import", import_file),
        ("import-all", import_all),
        ("own-file", own_files.own_file),
        ("accept", accept),
        ("choose", choose),
        ("again", again),
        ("assign", assign),
        ("cancel", cancel),
        ("reopen", reopen),
    ):
        group.command(name)(function)
    table.install(group)
    app.add_typer(group, name="job", rich_help_panel=panel)
