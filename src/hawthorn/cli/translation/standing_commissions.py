"""Standing commissions from the command line: what changes goes out by itself."""

from __future__ import annotations

from typing import Annotated

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Json, marked, out, print_json, resolve, service, tell
from hawthorn.cli.translation.shared import Glossary, Memory, called, looked_into, target_of
from hawthorn.client import Client, every

Name = Annotated[str, typer.Argument(help="Its name, or the start of it.", metavar="NAME")]
Into = Annotated[
    list[str] | None,
    typer.Option(
        help="A locale, and who translates it: fr, fr=BUREAU or fr=@HANDLE; may be given several times."
    ),
]
Section = Annotated[
    str | None,
    typer.Option(help="The entry that heads the section of which it sends; all for everything."),
]
Drafts = Annotated[
    bool | None,
    typer.Option("--drafts/--out", help="Whether drafts are sent as they are saved, or what is out."),
]
Pause = Annotated[
    int | None, typer.Option(help="After so many minutes without a change something goes.", metavar="MINUTES")
]
Days = Annotated[int | None, typer.Option(help="After so many days it is due; 0 for no day.")]
Note = Annotated[str | None, typer.Option(help="What whoever translates should know.")]
Linked = Annotated[
    bool | None, typer.Option("--linked/--alone", help="Whether what the entries refer to goes along.")
]
Fill = Annotated[
    bool | None, typer.Option("--fill/--no-fill", help="Whether open sentences are filled from the memories.")
]
Machine = Annotated[
    bool | None,
    typer.Option("--machine/--no-machine", help="Whether a machine drafts first what no memory knows."),
]
Review = Annotated[
    bool | None,
    typer.Option(
        "--review/--draft", help="Whether what returns is submitted for review, or lands as a draft."
    ),
]


def listing(as_json: Json = False) -> None:
    """What goes out for translation by itself, and what waits.

    Example: hawthorn standing list
    """
    with service() as hawthorn:
        found = list(every(hawthorn.standing_commissions))
    if as_json:
        print_json(found)
        return
    if not found:
        tell("cli.standing.there_are_none")
        return
    _table(found)


def _table(some: list[wire.standing_commissions.StandingCommission]) -> None:
    made = drawing.table("name", "section", "into", "state", "waiting", "goes", "sent")
    for one in some:
        into = ", ".join(
            f"{t.locale} ({t.bureau or t.person_name})" if t.bureau or t.person_name else t.locale
            for t in one.targets
        )
        section = escape(one.section_title) or marked("cli.standing.everything")
        goes = drawing.when(one.next) if one.next else ""
        state = drawing.word("standing", one.state)
        made.add_row(
            escape(one.name),
            section,
            escape(into),
            state,
            str(one.waiting),
            goes,
            str(one.sent),
        )
    out.print(made)
    for one in some:
        if one.trouble:
            tell("cli.standing.trouble", name=one.name, trouble=one.trouble)


def add(
    name: Annotated[str, typer.Argument(help="What to call it.")],
    into: Into = None,
    section: Section = None,
    drafts: Drafts = None,
    pause: Pause = None,
    days: Days = None,
    note: Note = None,
    linked: Linked = None,
    fill: Fill = None,
    machine: Machine = None,
    review: Review = None,
    memory: Memory = None,
    glossary: Glossary = None,
    as_json: Json = False,
) -> None:
    """Send what changes from now on, by itself, after a pause in which more may change.

    Example: hawthorn standing add "Visit, into French" --section Visit --into "fr=Saltmarsh Translations" --pause 30
    """
    with service() as hawthorn:
        given = _given(hawthorn, section, drafts, pause, days, note, linked, fill, machine, review)
        given |= looked_into(hawthorn, memory, glossary)
        made = hawthorn.add_standing_commission(name, [target_of(one) for one in into or []], given)
    _say(made, as_json)


def change(
    name: Name,
    new_name: Annotated[str | None, typer.Option("--name", help="What it is called from now on.")] = None,
    on: Annotated[bool | None, typer.Option("--on/--off", help="Switch it on, or off.")] = None,
    into: Into = None,
    section: Section = None,
    drafts: Drafts = None,
    pause: Pause = None,
    days: Days = None,
    note: Note = None,
    linked: Linked = None,
    fill: Fill = None,
    machine: Machine = None,
    review: Review = None,
    memory: Memory = None,
    glossary: Glossary = None,
    as_json: Json = False,
) -> None:
    """Change a standing commission, or switch it on or off; what is not given stays.

    Example: hawthorn standing set "Visit, into French" --pause 60 --days 7
    """
    with service() as hawthorn:
        given = _given(hawthorn, section, drafts, pause, days, note, linked, fill, machine, review)
        given |= looked_into(hawthorn, memory, glossary)
        more = {"name": new_name, "on": on, "targets": [target_of(t) for t in into] if into else None}
        given |= {what: value for what, value in more.items() if value is not None}
        made = hawthorn.change_standing_commission(_one(hawthorn, name).id, given)
    _say(made, as_json)


def end(name: Name) -> None:
    """End a standing commission; what it has sent goes on.

    Example: hawthorn standing end "Visit, into French"
    """
    with service() as hawthorn:
        one = _one(hawthorn, name)
        hawthorn.end_standing_commission(one.id)
    tell("cli.standing.ended", name=one.name)


def send(name: Name, as_json: Json = False) -> None:
    """Send what waits now, without waiting for the rest of the pause.

    Example: hawthorn standing send "Visit, into French"
    """
    with service() as hawthorn:
        done = hawthorn.send_standing_commission(_one(hawthorn, name).id)
    if as_json:
        print_json(done)
    else:
        tell("cli.standing.sent", name=done.commission.name, count=done.entries)


def _given(
    hawthorn: Client,
    section: str | None,
    drafts: bool | None,
    pause: int | None,
    days: int | None,
    note: str | None,
    linked: bool | None,
    fill: bool | None,
    machine: bool | None,
    review: bool | None,
) -> dict[str, object]:
    given: dict[str, object | None] = {
        "section": None if section is None else "" if section == "all" else resolve(hawthorn, section),
        "sends": None if drafts is None else "draft" if drafts else "out",
        "returns": None if review is None else "review" if review else "draft",
    }
    given |= {"pause": pause, "days": days, "note": note, "linked": linked, "fill": fill, "machine": machine}
    return {what: value for what, value in given.items() if value is not None}


def _one(hawthorn: Client, name: str) -> wire.standing_commissions.StandingCommission:
    have = list(every(hawthorn.standing_commissions))
    return called(name, have, "cli.standing.none", "cli.standing.means", "cli.standing.none_is")


def _say(made: wire.standing_commissions.StandingCommission, as_json: bool) -> None:
    if as_json:
        print_json(made)
    else:
        _table([made])


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(
        help="Standing commissions: what changes goes out for translation by itself.", no_args_is_help=True
    )
    group.command("list")(listing)
    group.command("add")(add)
    group.command("set")(change)
    group.command("end")(end)
    group.command("send")(send)
    app.add_typer(group, name="standing", rich_help_panel="Translation")
