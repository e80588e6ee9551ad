"""Review from the command line."""

from __future__ import annotations

from typing import Annotated

import typer
from rich.markup import escape

from hawthorn.cli import drawing
from hawthorn.cli.content.entries import shown
from hawthorn.cli.context import (
    Json,
    Locale,
    Named,
    entry_named,
    or_none,
    out,
    print_json,
    service,
    stop,
    tell,
)
from hawthorn.core.messages import said

Note = Annotated[str, typer.Option(help="A note to go with it.")]


_WAITS = {
    "review": "cli.review.to_review",
    "ready": "cli.review.to_release",
    "translation": "cli.review.to_accept",
    "named": "cli.review.to_answer",
}
_STATES = {"late": "cli.review.late", "due": "cli.review.due"}


def my_work(as_json: Json = False) -> None:
    """What waits for you, what is yours, what you wait for, and what goes out next."""
    with service() as hawthorn:
        found = hawthorn.my_work()
    if as_json:
        print_json(found)
        return
    tell("cli.review.waiting_for_you")
    for item in found.waiting:
        revision = said("cli.review.of_revision", locale=item.locale, revision=item.revision)
        tell(
            "cli.review.waits",
            what=said(_WAITS[item.kind]) if item.kind in _WAITS else item.kind,
            title=item.title,
            where=revision if item.revision else item.locale,
            by=item.by,
            note=said("cli.review.note", note=item.note) if item.note else "",
            short=item.short,
        )
    if not found.waiting:
        tell("cli.review.nothing_waits")
    for yours, items in ((True, found.assigned_to_you), (False, found.assigned_to_others)):
        if items:
            tell("cli.review.assigned_to_you" if yours else "cli.review.assigned_to_others")
        for item in items:
            with_whom, from_whom = (
                said("cli.review.with_whom", who=item.who),
                said("cli.review.from_whom", by=item.by),
            )
            state = said(_STATES[item.state]) if item.state in _STATES else ""
            tell(
                "cli.review.assigned",
                title=item.title,
                locale=item.locale,
                whose=from_whom if yours else with_whom,
                due=said("cli.review.by_day", due=item.due, state=state) if item.due else "",
                short=item.short,
            )
    tell("cli.review.yours")
    if found.yours:
        out.print(drawing.entries(found.yours))
    else:
        tell("cli.review.nothing_yours")
    if found.you_wait_for:
        tell("cli.review.you_wait_for")
    for item in found.you_wait_for:
        who = or_none("cli.review.nobody", item.who)
        tell("cli.review.waited_for", title=item.title, locale=item.locale, who=who, at=drawing.when(item.at))
    if found.next_out:
        tell("cli.review.next_out")
    for planned in found.next_out:
        out.print(f"  {drawing.when(planned.instant)}  {escape(planned.name)}")


def submit(name: Named, locale: Locale = "", note: Note = "", as_json: Json = False) -> None:
    """Submit a draft for review.

    Example: hawthorn submit "Winter opening hours" --note "Ready for Tomas."
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        shown(hawthorn.submit(entry.id, entry.locale, note), as_json)


def take_back(name: Named, locale: Locale = "", as_json: Json = False) -> None:
    """Take a submission back before it is decided.

    Example: hawthorn take-back "Winter opening hours"
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        shown(hawthorn.take_back(entry.id, entry.locale), as_json)


def sign(
    name: Named,
    revision: Annotated[
        int | None, typer.Option(help="The revision that you looked at; what is in review when not given.")
    ] = None,
    locale: Locale = "",
    note: Note = "",
    as_json: Json = False,
) -> None:
    """Sign off exactly the revision that is in review.

    Example: hawthorn sign "Winter opening hours" --revision 4
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        if entry.review is None:
            stop("cli.review.nothing_to_decide")
        # What was looked at elsewhere is held to its own revision alone.
        shared = None if revision else entry.review.common_revision or 0
        asked = revision or entry.review.revision
        shown(hawthorn.sign_off(entry.id, entry.locale, asked, note, shared), as_json)


def send_back(
    name: Named,
    reason: Annotated[str, typer.Option(help="Why; the writer sees it.")],
    locale: Locale = "",
    as_json: Json = False,
) -> None:
    """Send a submission back with a reason.

    Example: hawthorn send-back "Winter opening hours" --reason "The day is wrong."
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        shown(hawthorn.send_back(entry.id, entry.locale, reason), as_json)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Review"
    app.command("my-work", rich_help_panel=panel)(my_work)
    app.command(rich_help_panel=panel)(submit)
    app.command("take-back", rich_help_panel=panel)(take_back)
    app.command(rich_help_panel=panel)(sign)
    app.command("send-back", rich_help_panel=panel)(send_back)
