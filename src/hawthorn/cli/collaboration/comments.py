"""Working together from the command line: comments, assignments, notifications, moving on and overriding."""

from __future__ import annotations

from typing import Annotated

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.content.entries import shown
from hawthorn.cli.context import (
    Json,
    Locale,
    Named,
    entry_named,
    means,
    out,
    print_json,
    resolve,
    service,
    stop,
)

Comment = Annotated[
    str, typer.Argument(help="The start of a comment's id, as `comments` shows it.", metavar="COMMENT")
]


def move_on(name: Named, locale: Locale = "", as_json: Json = False) -> None:
    """Let what waits go on to the next stage, once its gate is met.

    Example: hawthorn move-on "Winter opening hours"
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        shown(hawthorn.move_on(entry.id, entry.locale), as_json)


def override(
    name: Named,
    stage: Annotated[str, typer.Option(help="The stage whose gate is overridden.")],
    reason: Annotated[str, typer.Option(help="Why; it is kept.")],
    revision: Annotated[int | None, typer.Option(help="The revision; the newest when not given.")] = None,
    locale: Locale = "",
    as_json: Json = False,
) -> None:
    """Override a gate for a revision that does not meet it, where the workflow allows you to; the reason is kept.

    Example: hawthorn override "Winter opening hours" --stage release --reason "The conservator is away until Monday."
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        number = revision or (entry.revision.number if entry.revision else 0)
        shown(hawthorn.override(entry.id, entry.locale, stage, number, reason), as_json)


def comments(
    name: Named,
    locale: Locale = "",
    all: Annotated[bool, typer.Option("--all", help="Also those that are resolved.")] = False,
    as_json: Json = False,
) -> None:
    """The comments on an edition.

    Example: hawthorn comments "Winter opening hours" --all
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        found = hawthorn.comments(entry.id, entry.locale)
    if as_json:
        print_json(found)
        return
    items = [r for r in found.items if all or not r.resolved_at]
    for one in items:
        _draw(one)
    if not items:
        out.print("No comments yet. `hawthorn comment` makes one.")


def _draw(one: wire.collaboration.Comment) -> None:
    where = f" on {escape(one.label)}" if one.label else ""
    done = f"  [dim]resolved by {escape(one.resolved_by)}[/dim]" if one.resolved_at else ""
    out.print(f"[bold]{escape(one.by)}[/bold]{where}, {drawing.when(one.at)}  [dim]{one.short}[/dim]{done}")
    if one.passage:
        gone = "  [yellow]the passage is gone[/yellow]" if one.passage.gone else ""
        out.print(f"  “{escape(one.passage.now or one.passage.quote)}”{gone}")
    out.print(f"  {escape(one.text)}")
    for reply in one.replies:
        out.print(f"    [bold]{escape(reply.by)}[/bold], {drawing.when(reply.at)}: {escape(reply.text)}")


def comment(
    name: Named,
    text: Annotated[str, typer.Argument(help="The comment; @ and a name asks a colleague.")],
    field: Annotated[str, typer.Option(help="On this field.")] = "",
    quote: Annotated[str, typer.Option(help="On these words of the field.")] = "",
    locale: Locale = "",
    as_json: Json = False,
) -> None:
    """Comment on an edition, a field or some words of it.

    Example: hawthorn comment "Winter opening hours" "@rhea, is this right?" --field body
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        exact = {"exact": quote} if quote else None
        made = hawthorn.comment(entry.id, entry.locale, text, field=field, quote=exact)
    if as_json:
        print_json(made)
    else:
        out.print(f"Said about “{escape(entry.title)}”; the comment is {made.id}.")


def reply(
    name: Named,
    comment: Comment,
    text: Annotated[str, typer.Argument(help="What you say.")],
    locale: Locale = "",
) -> None:
    """Reply to a comment.

    Example: hawthorn reply "Winter opening hours" 01a1f5b2 "Yes, since 1893."
    """
    with service() as hawthorn:
        one = _one(hawthorn.comments(*_at(hawthorn, name, locale)), comment)
        hawthorn.reply_to_comment(one.id, text)
    out.print(f"Answered {escape(one.by)}.")


def settle(
    name: Named,
    comment: Comment,
    again: Annotated[bool, typer.Option("--again", help="Open it again instead.")] = False,
    locale: Locale = "",
) -> None:
    """Resolve a comment: what it was about is settled.

    Example: hawthorn resolve "Winter opening hours" 01a1f5b2
    """
    with service() as hawthorn:
        one = _one(hawthorn.comments(*_at(hawthorn, name, locale)), comment)
        if again:
            hawthorn.reopen_comment(one.id)
        else:
            hawthorn.resolve_comment(one.id)
    out.print("Open again." if again else f"Resolved what {escape(one.by)} said.")


def _at(hawthorn: object, name: str, locale: str) -> tuple[str, str]:
    entry = entry_named(hawthorn, name, locale)  # type: ignore[arg-type]
    return entry.id, entry.locale


def _one(found: wire.collaboration.Comments, start: str) -> wire.collaboration.Comment:
    fitting = [r for r in found.items if means(start, r.id)]
    if len(fitting) != 1:
        said = "No comment" if not fitting else f"{len(fitting)} comments"
        stop(
            f"{said} here has an id that begins or ends with “{start}”.",
            "List them with `comments`.",
            "not-found",
        )
    return fitting[0]


def assign(
    name: Named,
    to: Annotated[str, typer.Option(help="Who gets it, by the name they log in with.")],
    due: Annotated[str, typer.Option(help="The day by which it is due, as 2030-01-31.")] = "",
    note: Annotated[str, typer.Option(help="A note to go with it.")] = "",
    locale: Locale = "",
    as_json: Json = False,
) -> None:
    """Assign an edition to somebody.

    Example: hawthorn assign "Winter opening hours" --to nell --due 2027-03-31
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        found = hawthorn.assign(entry.id, entry.locale, to, due=due, note=note)
    if as_json:
        print_json(found)
    elif found.assignment:
        until = f", due on {found.assignment.due}" if found.assignment.due else ""
        out.print(f"“{escape(found.title)}” is assigned to {escape(found.assignment.holder)}{until}.")


def done(
    name: Named,
    dropped: Annotated[bool, typer.Option("--dropped", help="It is not needed any more.")] = False,
    locale: Locale = "",
) -> None:
    """Say that what was assigned to somebody is done.

    Example: hawthorn done "Winter opening hours"
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        hawthorn.end_assignment(entry.id, entry.locale, done=not dropped)
    out.print(f"“{escape(entry.title)}” is {'not needed any more' if dropped else 'done'}.")


def who_is_here(name: Named, as_json: Json = False) -> None:
    """Who has an entry open now, and in which field.

    Example: hawthorn who-is-here "Winter opening hours"
    """
    with service() as hawthorn:
        found = hawthorn.who_is_present(resolve(hawthorn, name))
    if as_json:
        print_json(found)
        return
    for one in found.items:
        where = f", in {one.field}" if one.field else ""
        out.print(f"{escape(one.name)} ({one.locale}{where}), since {drawing.when(one.since)}")
    if not found.items:
        out.print("Nobody has it open.")


def notifications(
    seen: Annotated[bool, typer.Option("--seen", help="Note all of them as seen.")] = False,
    way: Annotated[
        list[str] | None,
        typer.Option(help="Choose how a kind comes, as kind=way; may be given several times."),
    ] = None,
    digest_hour: Annotated[int | None, typer.Option(help="The local hour of the digest.")] = None,
    as_json: Json = False,
) -> None:
    """Your notifications, newest first; and how you want to hear of what.

    Example: hawthorn notifications --way review=digest --digest-hour 8
    """
    with service() as hawthorn:
        if way or digest_hour is not None:
            ways = dict(w.partition("=")[::2] for w in way or ())
            chosen = hawthorn.choose_notifications(ways, digest_hour)
            if as_json:
                print_json(chosen)
                return
            made = drawing.table("kind", "comes", "when")
            for kind in chosen.kinds:
                made.add_row(kind.kind, kind.way, escape(kind.label))
            out.print(made)
            out.print(f"The digest comes at {chosen.digest_hour:02d}:00.")
            return
        found = hawthorn.see_notifications() if seen else hawthorn.notifications()
    if as_json:
        print_json(found)
        return
    for one in found.items:
        mark = "[red]•[/red]" if one.new else " "
        out.print(f"{mark} {drawing.when(one.at)}  {escape(one.says)}  [dim]{one.path}[/dim]")
    if not found.items:
        out.print("Nothing yet.")


def install(app: typer.Typer) -> None:
    """Add these commands."""
    review, together = "Review", "Working together"
    app.command("move-on", rich_help_panel=review)(move_on)
    app.command("override", rich_help_panel=review)(override)
    for name, function in (
        ("comments", comments),
        ("comment", comment),
        ("reply", reply),
        ("resolve", settle),
        ("assign", assign),
        ("done", done),
        ("who-is-here", who_is_here),
        ("notifications", notifications),
    ):
        app.command(name, rich_help_panel=together)(function)
