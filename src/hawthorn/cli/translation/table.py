"""The translator's table from the command line: sentences seen, written, put in and sent back."""

from __future__ import annotations

from typing import Annotated

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Json, marked, out, print_json, service, stop, tell
from hawthorn.cli.translation.shared import JobName, id_of, say_imported
from hawthorn.client import Client, every

Numbered = Annotated[
    int, typer.Argument(help="The number of the sentence, as “job table” shows it.", metavar="NUMBER", min=1)
]


def _lines(hawthorn: Client, id: str) -> list[wire.translation.SegmentLine]:
    return list(every(lambda **page: hawthorn.segments(id, **page)))


def table(
    name: JobName,
    open_only: Annotated[bool, typer.Option("--open", help="Only what is not translated yet.")] = False,
    as_json: Json = False,
) -> None:
    """The sentences of a job, source beside target, with what is worth a look in each.

    Example: hawthorn job table 01a1e1b6 --open
    """
    with service() as hawthorn:
        found = list(enumerate(_lines(hawthorn, id_of(hawthorn, name)), 1))
    shown = [(n, one) for n, one in found if not open_only or one.state == "initial"]
    if as_json:
        print_json([one for _, one in shown])
        return
    if not shown:
        tell("cli.table.nothing_open")
        return
    made = drawing.table("number", "source", "target", "state")
    for n, one in shown:
        source = f"[dim]{escape(one.label)}[/dim]\n{escape(one.source)}"
        state = drawing.word("segment", one.state)
        made.add_row(str(n), source, _target(one), state)
    out.print(made)


def _target(one: wire.translation.SegmentLine) -> str:
    lines = [escape(one.target)] if one.target else []
    lines += [marked("cli.table.look", what=found.what) for found in one.findings]
    if one.trouble:
        lines.append(marked("cli.jobs.trouble", what=one.trouble))
    if one.remark:
        lines.append(marked("cli.jobs.note", note=one.remark))
    return "\n".join(lines)


def _numbered(hawthorn: Client, id: str, number: int) -> wire.translation.SegmentLine:
    lines = _lines(hawthorn, id)
    if number > len(lines):
        stop("cli.table.no_number", ends="not-found", number=number, count=len(lines))
    return lines[number - 1]


def _place(hawthorn: Client, id: str, number: int) -> dict[str, str]:
    one = _numbered(hawthorn, id, number)
    return {"entry": one.entry, "key": one.key, "segment": one.segment}


def translate(
    name: JobName,
    number: Numbered,
    text: Annotated[
        str, typer.Argument(help="The translation; tags stand by their numbers, as in the source.")
    ],
    remark: Annotated[str, typer.Option(help="A remark to whoever reads it after.")] = "",
    draft: Annotated[bool, typer.Option("--draft", help="Keep it, but not as finished.")] = False,
    as_json: Json = False,
) -> None:
    """Translate a sentence of a job.

    Example: hawthorn job translate 01a1e1b6 3 "La lampe <1>brûlait</1> de l’huile."
    """
    with service() as hawthorn:
        id = id_of(hawthorn, name)
        one = _numbered(hawthorn, id, number)
        place = {"entry": one.entry, "key": one.key, "segment": one.segment}
        state = "initial" if draft else "translated"
        found = hawthorn.save_segment(id, place, text, before=one.target, state=state, remark=remark)
    if as_json:
        print_json(found)
        return
    tell("cli.table.saved", number=number, percent=found.job.percent)
    for worth in next(x for x in found.segments if x.segment == one.segment).findings:
        tell("cli.table.look_at", what=worth.what)


def fill(name: JobName, as_json: Json = False) -> None:
    """Fill open sentences with what the memories have of the same words; they stay open until somebody has looked.

    Example: hawthorn job fill 01a1e1b6
    """
    with service() as hawthorn:
        found = hawthorn.fill_job(id_of(hawthorn, name))
    if as_json:
        print_json(found)
    else:
        tell("cli.table.filled", count=found.filled)


def matches(name: JobName, number: Numbered, as_json: Json = False) -> None:
    """What the memories have that is like a sentence of a job.

    Example: hawthorn job matches 01a1e1b6 3
    """
    with service() as hawthorn:
        id = id_of(hawthorn, name)
        found = hawthorn.segment_matches(id, _place(hawthorn, id, number)).matches
    if as_json:
        print_json(found)
        return
    if not found:
        tell("cli.table.no_matches")
        return
    made = drawing.table("likeness", "source", "target", "memory")
    for match in found:
        made.add_row(f"{match.percent} %", escape(match.source), escape(match.target), escape(match.memory))
    out.print(made)


def suggest(name: JobName, number: Numbered, as_json: Json = False) -> None:
    """What a machine suggests for a sentence of a job; nothing confidential is sent to it.

    Example: hawthorn job suggest 01a1e1b6 3
    """
    with service() as hawthorn:
        id = id_of(hawthorn, name)
        found = hawthorn.suggest_segment(id, _place(hawthorn, id, number))
    if as_json:
        print_json(found)
    elif found.text:
        out.print(escape(found.text))
    else:
        tell("cli.table.no_suggestion")


def deliver(name: JobName, as_json: Json = False) -> None:
    """Put every unit that is translated to its end into its edition.

    Example: hawthorn job deliver 01a1e1b6
    """
    with service() as hawthorn:
        found = hawthorn.deliver(id_of(hawthorn, name))
    if as_json:
        print_json(found)
    else:
        say_imported(found)


def send_back(
    name: JobName,
    number: Numbered,
    reason: Annotated[str, typer.Option(help="Why, for the translator.")],
    as_json: Json = False,
) -> None:
    """Send the unit of a sentence back to be translated anew.

    Example: hawthorn job send-back 01a1e1b6 3 --reason "A lantern, not a lamp."
    """
    with service() as hawthorn:
        id = id_of(hawthorn, name)
        one = _numbered(hawthorn, id, number)
        found = hawthorn.send_unit_back(id, one.entry, one.key, reason)
    if as_json:
        print_json(found)
    else:
        tell("cli.table.sent_back", label=one.label, percent=found.job.percent)


def ask(
    name: JobName,
    number: Numbered,
    text: Annotated[str, typer.Argument(help="The question.")],
    as_json: Json = False,
) -> None:
    """Ask about a sentence; whoever commissioned the job is told.

    Example: hawthorn job ask 01a1e1b6 3 "Free for everybody, or for people who live in the town?"
    """
    with service() as hawthorn:
        id = id_of(hawthorn, name)
        one = _numbered(hawthorn, id, number)
        place = {"entry": one.entry, "key": one.key, "segment": one.segment}
        found = hawthorn.ask_about_segment(id, place, text)
    if as_json:
        print_json(found)
    else:
        tell("cli.table.asked", number=found.id)


def answer(
    name: JobName,
    question: Annotated[int, typer.Argument(help="The number of the question.", metavar="QUESTION")],
    text: Annotated[str, typer.Argument(help="The answer.")],
    as_json: Json = False,
) -> None:
    """Answer a question of a translator; they are told.

    Example: hawthorn job answer 01a1e1b6 1 "For everybody."
    """
    with service() as hawthorn:
        found = hawthorn.answer_question(id_of(hawthorn, name), question, text)
    if as_json:
        print_json(found)
    else:
        tell("cli.table.answered", by=found.by)


def install(group: typer.Typer) -> None:
    """Add these commands to those of jobs."""
    for command, function in (
        ("table", table),
        ("translate", translate),
        ("matches", matches),
        ("fill", fill),
        ("suggest", suggest),
        ("deliver", deliver),
        ("send-back", send_back),
        ("ask", ask),
        ("answer", answer),
    ):
        group.command(command)(function)
