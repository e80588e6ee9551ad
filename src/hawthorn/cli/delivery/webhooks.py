"""Webhooks from the command line: who is told of events over HTTP."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Json, one_of, out, print_json, resolve, service, tell
from hawthorn.client import Client

Named = Annotated[str, typer.Argument(help="Its name, or the start or end of its id.", metavar="WEBHOOK")]
Kinds = Annotated[
    list[str] | None, typer.Option("--event", help="A kind of event, or its beginning, such as review.")
]
Types = Annotated[list[str] | None, typer.Option("--type", help="Only what is about entries of this type.")]
Sections = Annotated[
    list[str] | None, typer.Option("--section", help="Only what is about this section: its entry.")
]
Stages = Annotated[list[str] | None, typer.Option("--stage", help="Only what is about this stage.")]


def listing(as_json: Json = False) -> None:
    """Who is told of events over HTTP.

    Example: hawthorn webhook list
    """
    with service() as hawthorn:
        page = hawthorn.webhooks()
    if as_json:
        print_json(page)
        return
    if not page.items:
        tell("cli.webhooks.none")
        return
    made = drawing.table("name", "state", "address", "told_of", "waiting")
    for one in page.items:
        state = drawing.word("hook", one.state)
        made.add_row(
            escape(one.name),
            state,
            escape(one.url),
            escape(", ".join(one.kinds)),
            str(one.waiting),
        )
    out.print(made)


def add(
    name: Annotated[str, typer.Argument(help="What to call it.")],
    url: Annotated[str, typer.Option("--url", help="Where it is told: an address that takes POST.")],
    kinds: Kinds = None,
    types: Types = None,
    sections: Sections = None,
    stages: Stages = None,
    as_json: Json = False,
) -> None:
    """Tell somebody of events from now on, of all after which readers see something else where none are named; the secret with which that is signed is shown
    this once.

    Example: hawthorn webhook add "The public site" --url https://site.example/changed
    """
    with service() as hawthorn:
        made = hawthorn.add_webhook(
            name,
            url,
            kinds=kinds,
            types=types or [],
            sections=[resolve(hawthorn, one) for one in sections or []],
            stages=stages or [],
        )
    _made(made, as_json)


def change(
    name: Named,
    title: Annotated[str | None, typer.Option("--name", help="What to call it.")] = None,
    url: Annotated[str | None, typer.Option("--url", help="Where it is told.")] = None,
    kinds: Kinds = None,
    types: Types = None,
    sections: Sections = None,
    stages: Stages = None,
    as_json: Json = False,
) -> None:
    """Give a webhook another name, address or choice; what is not named stays.

    Example: hawthorn webhook change "The public site" --event dispatch.gone --event type.
    """
    given = {"name": title, "url": url, "kinds": kinds, "types": types, "stages": stages}
    with service() as hawthorn:
        one = _named(hawthorn, name)
        given["sections"] = None if sections is None else [resolve(hawthorn, s) for s in sections]
        made = hawthorn.change_webhook(one.id, {k: v for k, v in given.items() if v is not None})
    _shown(made, as_json)


def switch_on(name: Named, as_json: Json = False) -> None:
    """Switch a webhook on again, for what happens from now on.

    Example: hawthorn webhook on "The public site"
    """
    with service() as hawthorn:
        _shown(hawthorn.switch_webhook(_named(hawthorn, name).id, on=True), as_json)


def switch_off(name: Named, as_json: Json = False) -> None:
    """Switch a webhook off: it is told of nothing until it is on again.

    Example: hawthorn webhook off "The public site"
    """
    with service() as hawthorn:
        _shown(hawthorn.switch_webhook(_named(hawthorn, name).id, on=False), as_json)


def new_secret(
    name: Named,
    hours: Annotated[float, typer.Option("--hours", help="So long the secret before is good too.")] = 24,
    as_json: Json = False,
) -> None:
    """Give a webhook another secret; for a while what is sent is signed with both.

    Example: hawthorn webhook secret "The public site" --hours 1
    """
    with service() as hawthorn:
        made = hawthorn.rotate_secret(_named(hawthorn, name).id, round(hours * 3600))
    _made(made, as_json)


def attempt(name: Named, as_json: Json = False) -> None:
    """Send a test to a receiver now, and say what it answers.

    Example: hawthorn webhook try "The public site"
    """
    with service() as hawthorn:
        one = _named(hawthorn, name)
        found = hawthorn.try_webhook(one.id)
    if as_json:
        print_json(found)
    elif found.answers:
        tell("cli.webhooks.answers", name=one.name, status=found.status, took=found.took)
    else:
        tell("cli.webhooks.does_not", name=one.name, trouble=found.trouble)
        raise typer.Exit(1)


def sent(name: Named, as_json: Json = False) -> None:
    """What was sent to a webhook, or waits to be, newest first, with every try.

    Example: hawthorn webhook sent "The public site"
    """
    with service() as hawthorn:
        one = _named(hawthorn, name)
        found = hawthorn.deliveries(one.id, limit=50)
    if as_json:
        print_json(found)
        return
    if not found.items:
        tell("cli.webhooks.nothing_sent", name=one.name)
    for each in found.items:
        tell("cli.webhooks.delivery", id=each.id, kind=each.kind, state=drawing.word("delivery", each.state))
        for t in each.tries:
            when = drawing.when(t.at)
            tell("cli.webhooks.try", at=when, status=t.status, took=t.took, trouble=t.trouble)


def again(
    name: Named,
    number: Annotated[int, typer.Argument(help="The number of what was sent.")],
) -> None:
    """Send something once more, under the id that it had.

    Example: hawthorn webhook again "The public site" 1207
    """
    with service() as hawthorn:
        one = _named(hawthorn, name)
        hawthorn.deliver_again(one.id, number)
    tell("cli.webhooks.again", id=number, name=one.name)


def end(name: Named) -> None:
    """End a webhook: it is told nothing any more.

    Example: hawthorn webhook end "The public site"
    """
    with service() as hawthorn:
        one = _named(hawthorn, name)
        hawthorn.end_webhook(one.id)
    tell("cli.webhooks.ended", name=one.name)


def _shown(one: wire.delivery.Webhook, as_json: bool) -> None:
    if as_json:
        print_json(one)
        return
    tell("cli.webhooks.webhook", name=one.name, state=drawing.word("hook", one.state), url=one.url)
    if one.trouble:
        tell("cli.webhooks.off", trouble=one.trouble)


def _made(one: wire.delivery.WebhookMade, as_json: bool) -> None:
    _shown(one, as_json)
    if not as_json:
        tell("cli.webhooks.secret", secret=one.secret)


def _named(hawthorn: Client, name: str) -> wire.delivery.Webhook:
    return one_of(
        hawthorn.webhooks().items, name, lambda one: one.id, lambda one: one.name, "cli.webhooks.means"
    )


COMMANDS: dict[str, Callable[..., None]] = {
    "list": listing,
    "add": add,
    "change": change,
    "on": switch_on,
    "off": switch_off,
    "secret": new_secret,
    "try": attempt,
    "sent": sent,
    "again": again,
    "end": end,
}


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(help="Who is told of events over HTTP.", no_args_is_help=True)
    for name, function in COMMANDS.items():
        group.command(name)(function)
    app.add_typer(group, name="webhook", rich_help_panel="Pages and sites")
