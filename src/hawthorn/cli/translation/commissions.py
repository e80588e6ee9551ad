"""Open commissions from the command line: entries are put into one, it is counted, sent or cancelled."""

from __future__ import annotations

from decimal import Decimal
from time import monotonic
from typing import Annotated, Any

import typer
from rich.markup import escape
from rich.progress import Progress

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Json, marked, means, out, print_json, resolve, service, stop, tell
from hawthorn.cli.translation.shared import Glossary, Memory, looked_into, target_of
from hawthorn.client import Client, every
from hawthorn.core.messages import said
from hawthorn.core.translation.rates import KINDS

Name = Annotated[
    str, typer.Argument(help="Its name, the start of it, or the start of its id.", metavar="COMMISSION")
]
_AT_ONCE = 20
"""So many entries are counted at first; twice as many after each answer that took less than a second, as each looks anew at what
stands before its own."""
_MOST_AT_ONCE = 500
State = Annotated[str, typer.Option(help="open, sent, closed or cancelled; any when not given.")]


def _one(hawthorn: Client, name: str, state: str = "") -> wire.commissions.CommissionLine:
    have = list(every(lambda **page: hawthorn.commissions(state=state, **page)))
    folded = name.casefold()
    found = [one for one in have if one.name.casefold() == folded or means(name, one.id)]
    found = found or [one for one in have if one.name.casefold().startswith(folded)]
    # Names come again; the one that is open is meant before those that were sent.
    is_open = [one for one in found if one.state == "open"]
    found = is_open if len(is_open) == 1 else found
    if len(found) != 1:
        code = "cli.commissions.means" if found else "cli.commissions.none_is"
        known = [said("cli.commissions.one", name=one.name, id=one.id[-8:]) for one in found]
        stop(code, ends="not-found", name=name, count=len(found), known=known)
    return found[0]


def listing(state: State = "", as_json: Json = False) -> None:
    """Commissions, the newest first: open ones that are shared or yours, and those that were sent.

    Example: hawthorn commissions list --state open
    """
    with service() as hawthorn:
        found = hawthorn.commissions(state=state)
    if as_json:
        print_json(found)
        return
    if not found.items:
        tell("cli.commissions.there_are_none")
        return
    made = drawing.table("name", "state", "entries", "locales", "due", "by")
    for one in found.items:
        state_told = drawing.word("commission", one.state)
        if one.state == "sent":
            state_told += f", {one.percent} %"
        made.add_row(
            escape(one.name), state_told, str(one.entries), ", ".join(one.locales), one.due, escape(one.by)
        )
    out.print(made)


def open_one(
    name: Annotated[str, typer.Argument(help="What to call it; the day when not given.")] = "",
    shared: Annotated[
        bool, typer.Option("--shared", help="Everybody who may commission puts entries into it.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Begin a commission that entries are put into until it is sent.

    Example: hawthorn commissions open "Spring pages" --shared
    """
    with service() as hawthorn:
        made = hawthorn.open_commission(name, shared=shared)
    if as_json:
        print_json(made)
    else:
        tell("cli.commissions.opened", name=made.name)


def add(
    name: Name,
    entries: Annotated[list[str], typer.Argument(help="Entries to put in.", metavar="ENTRY…")],
    below: Annotated[bool, typer.Option("--below", help="With all pages below them.")] = False,
    linked: Annotated[
        bool, typer.Option("--linked", help="With what they refer to: pictures, common blocks, links.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Put entries into an open commission; what cannot go along is named.

    Example: hawthorn commissions add "Spring pages" "Opening hours" --below
    """
    with service() as hawthorn:
        one = _one(hawthorn, name, "open")
        ids = [resolve(hawthorn, entry) for entry in entries]
        done = hawthorn.put_into_commission(one.id, ids, below=below, linked=linked)
    if as_json:
        print_json(done)
        return
    tell("cli.commissions.added", name=one.name, count=done.added, there=done.there)
    for left in done.left_out:
        tell("cli.commissions.left_out", title=left.title, why=left.why)


def take_out(
    name: Name,
    entries: Annotated[list[str], typer.Argument(help="Entries to take out.", metavar="ENTRY…")],
    as_json: Json = False,
) -> None:
    """Take entries out of an open commission.

    Example: hawthorn commissions take-out "Spring pages" "Opening hours"
    """
    with service() as hawthorn:
        one = _one(hawthorn, name, "open")
        found = hawthorn.take_out_of_commission(one.id, [resolve(hawthorn, entry) for entry in entries])
    _say(found, as_json)


def show(name: Name, as_json: Json = False) -> None:
    """What is in a commission, and how it goes out.

    Example: hawthorn commissions show "Spring pages"
    """
    with service() as hawthorn:
        found = hawthorn.show_commission(_one(hawthorn, name).id)
    _say(found, as_json)


def change(
    name: Name,
    into: Annotated[
        list[str] | None,
        typer.Option(
            help="A locale, and who does it: fr, fr=BUREAU or fr=@HANDLE; may be given several times, and replaces all."
        ),
    ] = None,
    called: Annotated[str | None, typer.Option(help="Another name.")] = None,
    due: Annotated[str | None, typer.Option(help="The day it is due; empty for none.")] = None,
    note: Annotated[str | None, typer.Option(help="What whoever translates should know.")] = None,
    shared: Annotated[bool | None, typer.Option("--shared/--own", help="Whose it is.")] = None,
    again: Annotated[
        bool | None, typer.Option("--again/--not-again", help="Send what another job has already.")
    ] = None,
    current: Annotated[
        bool | None,
        typer.Option("--all/--needed", help="Send all of it, or only what is missing or has changed."),
    ] = None,
    fill: Annotated[
        bool | None, typer.Option("--fill/--no-fill", help="Fill open sentences from the memories.")
    ] = None,
    machine: Annotated[
        bool | None,
        typer.Option("--machine/--no-machine", help="Let a machine draft first what no memory knows."),
    ] = None,
    review: Annotated[
        bool | None,
        typer.Option("--review/--draft", help="Submit for review what returned, or leave it a draft."),
    ] = None,
    memory: Memory = None,
    glossary: Glossary = None,
    as_json: Json = False,
) -> None:
    """Set how an open commission goes out; what is not given stays.

    Example: hawthorn commissions set "Spring pages" --into "fr=Saltmarsh Translations" --into ja=@kenji --due 2027-03-31
    """
    given: dict[str, Any] = {
        "name": called, "due": due, "note": note, "shared": shared, "again": again, "current": current, "fill": fill, "machine": machine,
        "returns": None if review is None else "review" if review else "draft",
        "targets": [target_of(one) for one in into] if into is not None else None,
    }  # fmt: skip
    with service() as hawthorn:
        one = _one(hawthorn, name, "open")
        given |= looked_into(hawthorn, memory, glossary)
        found = hawthorn.change_commission(one.id, {k: v for k, v in given.items() if v is not None})
    _say(found, as_json)


def check(name: Name, as_json: Json = False) -> None:
    """Count what a commission holds for each locale, by how much of it the memories know, and what it costs.

    Example: hawthorn commissions check "Spring pages"
    """
    told: dict[str, list[wire.commissions.EntryCount]] = {}
    currencies: dict[str, str] = {}
    troubles: dict[str, str] = {}
    many = _AT_ONCE
    with service() as hawthorn, Progress(console=out, transient=True) as progress:
        one = hawthorn.show_commission(_one(hawthorn, name).id)
        task = progress.add_task(one.name, total=len(one.content) * len(one.targets))
        for target in one.targets:
            told[target.locale], cursor = [], ""
            while cursor or not told[target.locale]:
                begun = monotonic()
                page = hawthorn.estimate_commission(one.id, target.locale, limit=many, cursor=cursor)
                many = min(2 * many, _MOST_AT_ONCE) if monotonic() - begun < 1 else many
                told[target.locale] += page.items
                currencies[target.locale], cursor = page.currency, page.next or ""
                if page.trouble:
                    troubles.setdefault(target.locale, page.trouble)
                progress.update(task, advance=len(page.items))
                if not cursor:
                    break
    if as_json:
        print_json({"locales": told, "currencies": currencies, "troubles": troubles})
        return
    if not told:
        tell("cli.commissions.no_locales")
        return
    made = drawing.table("locale", "entries", "units", "new", "changed", also=KINDS)
    for tag, counts in told.items():
        words = [sum(one.words[kind] for one in counts) for kind in KINDS]
        made.add_row(
            tag,
            str(len([one for one in counts if one.units])),
            str(sum(one.units for one in counts)),
            str(sum(one.new for one in counts)),
            str(sum(one.changed for one in counts)),
            *map(str, words),
        )
    out.print(made)
    for tag, trouble in troubles.items():
        tell("cli.commissions.trouble", locale=tag, trouble=trouble)
    for tag, counts in told.items():
        away = sum(one.away for one in counts)
        if away:
            tell("cli.commissions.away", locale=tag, count=away)
        if currencies[tag]:
            cost = sum((Decimal(one.cost) for one in counts if one.cost), Decimal("0.00"))
            tell("cli.commissions.cost", locale=tag, cost=str(cost), currency=currencies[tag])


def send(name: Name, as_json: Json = False) -> None:
    """Send an open commission: one job per locale.

    Example: hawthorn commissions send "Spring pages"
    """
    with service() as hawthorn:
        found = hawthorn.send_commission(_one(hawthorn, name, "open").id)
    if as_json:
        print_json(found)
        return
    tell("cli.commissions.sent", name=found.name, count=len(found.job_lines))
    out.print(drawing.jobs(found.job_lines))


def cancel(name: Name) -> None:
    """Cancel a commission: an open one with what is in it, of a sent one each job that is not closed.

    Example: hawthorn commissions cancel "Spring pages"
    """
    with service() as hawthorn:
        found = hawthorn.cancel_commission(_one(hawthorn, name).id)
    tell("cli.commissions.cancelled", name=found.name)


def reopen(name: Name) -> None:
    """Open a cancelled commission again.

    Example: hawthorn commissions reopen "Spring pages"
    """
    with service() as hawthorn:
        found = hawthorn.reopen_commission(_one(hawthorn, name, "cancelled").id)
    tell("cli.commissions.reopened", name=found.name, state=drawing.word("commission", found.state))


def _say(found: wire.commissions.CommissionDetails, as_json: bool) -> None:
    if as_json:
        print_json(found)
        return
    state = drawing.word("commission", found.state)
    tell("cli.commissions.head", name=found.name, state=state, by=found.by)
    facts = {
        "due": found.due, "note": found.note, "shared": found.shared, "again": found.again, "all": found.current,
        "fill": found.fill,
        "machine": found.machine,
    }  # fmt: skip
    for fact, value in facts.items():
        if value:
            tell(f"cli.commissions.fact_{fact}", value=value)
    tell(f"cli.commissions.returns_{found.returns}")
    for target in found.targets:
        who = target.bureau or target.person_name or marked("cli.commissions.nobody")
        tell("cli.commissions.target", locale=target.locale, who=who)
    if found.content:
        made = drawing.table("entry", "type", "by")
        for one in found.content:
            made.add_row(drawing.title(one.title), one.type, escape(one.by))
        out.print(made)
    else:
        tell("cli.commissions.empty")
    if found.job_lines:
        out.print(drawing.jobs(found.job_lines))


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(
        help="Commissions: open ones that entries are put into, and those that were sent.",
        no_args_is_help=True,
    )
    group.command("list")(listing)
    group.command("open")(open_one)
    group.command()(add)
    group.command("take-out")(take_out)
    group.command()(show)
    group.command("set")(change)
    group.command()(check)
    group.command()(send)
    group.command()(cancel)
    group.command()(reopen)
    app.add_typer(group, name="commissions", rich_help_panel="Translation")
