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
    OnStrand,
    entry_named,
    means,
    out,
    print_json,
    resolve,
    service,
    stop,
    tell,
)
from hawthorn.client import Client
from hawthorn.core.messages import said

Comment = Annotated[
    str, typer.Argument(help="The start of a comment's id, as `comments` shows it.", metavar="COMMENT")
]

AllOfThem = Annotated[bool, typer.Option("--all", help="Also those that are resolved.")]
Again = Annotated[bool, typer.Option("--again", help="Open it again instead.")]


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
        # What was looked at elsewhere is held to its own revision alone.
        shared = None if revision or entry.gate is None else entry.gate.common_revision or 0
        shown(hawthorn.override(entry.id, entry.locale, stage, number, reason, shared), as_json)


def comments(
    name: Named,
    locale: Locale = "",
    strand: OnStrand = "draft",
    all: AllOfThem = False,
    as_json: Json = False,
) -> None:
    """The comments on an edition, with where their passages are by now.

    Example: hawthorn comments "Winter opening hours" --all
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        found = hawthorn.comments(entry.id, entry.locale, strand=strand)
    listed(found, all, as_json, "cli.comments.no_comments_yet")


def listed(found: wire.collaboration.Comments, all: bool, as_json: bool, none: str) -> None:
    """Show comments, those that are resolved only where `all` are wanted; with what to say where there are none."""
    if as_json:
        print_json(found)
        return
    items = [r for r in found.items if all or not r.resolved_at]
    for one in items:
        _draw(one)
    if not items:
        tell(none)


def _draw(one: wire.collaboration.Comment) -> None:
    code = "cli.comments.comment_on" if one.label else "cli.comments.comment"
    head = said(code, by=one.by, label=one.label, at=drawing.when(one.at), short=one.short)
    if one.strand:
        head = said("cli.comments.in_strand", where=head, strand=one.strand)
    if one.resolved_at:
        head = said("cli.comments.resolved", comment=head, by=one.resolved_by)
    tell("common.words", words=head)
    if one.passage and not (one.strand and one.passage.gone):
        quoted = one.passage.now or one.passage.quote
        tell("cli.comments.passage_gone" if one.passage.gone else "cli.comments.passage", words=quoted)
    out.print(f"  {escape(one.text)}")
    for reply in one.replies:
        tell("cli.comments.reply", by=reply.by, at=drawing.when(reply.at), text=reply.text)


def comment(
    name: Named,
    text: Annotated[str, typer.Argument(help="The comment; @ and a name asks a colleague.")],
    field: Annotated[str, typer.Option(help="On this field.")] = "",
    quote: Annotated[str, typer.Option(help="On these words of the field.")] = "",
    strand: OnStrand = "draft",
    locale: Locale = "",
    as_json: Json = False,
) -> None:
    """Comment on an edition, a field or some words of it.

    Example: hawthorn comment "Winter opening hours" "@rhea, is this right?" --field body
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        exact = {"exact": quote} if quote else None
        made = hawthorn.comment(entry.id, entry.locale, text, field=field, quote=exact, strand=strand)
    if as_json:
        print_json(made)
    else:
        tell("cli.comments.said_about", title=entry.title, id=made.id)


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
        answered(hawthorn, hawthorn.comments(*_at(hawthorn, name, locale)), comment, text)


def answered(hawthorn: Client, found: wire.collaboration.Comments, comment: str, text: str) -> None:
    """Reply to one of some comments, by how its id begins."""
    one = _one(found, comment)
    hawthorn.reply_to_comment(one.id, text)
    tell("cli.comments.answered", by=one.by)


def settle(
    name: Named,
    comment: Comment,
    again: Again = False,
    locale: Locale = "",
) -> None:
    """Resolve a comment: what it was about is settled.

    Example: hawthorn resolve "Winter opening hours" 01a1f5b2
    """
    with service() as hawthorn:
        resolved(hawthorn, hawthorn.comments(*_at(hawthorn, name, locale)), comment, again)


def resolved(hawthorn: Client, found: wire.collaboration.Comments, comment: str, again: bool) -> None:
    """Resolve one of some comments, by how its id begins, or open it again."""
    one = _one(found, comment)
    if again:
        hawthorn.reopen_comment(one.id)
    else:
        hawthorn.resolve_comment(one.id)
    tell("cli.comments.open_again" if again else "cli.comments.resolved_what_said", by=one.by)


def _at(hawthorn: object, name: str, locale: str) -> tuple[str, str]:
    entry = entry_named(hawthorn, name, locale)  # type: ignore[arg-type]
    return entry.id, entry.locale


def _one(found: wire.collaboration.Comments, start: str) -> wire.collaboration.Comment:
    fitting = [r for r in found.items if means(start, r.id)]
    if len(fitting) != 1:
        code = "cli.comments.several_fit" if fitting else "cli.comments.none_fits"
        stop(code, ends="not-found", count=len(fitting), start=start)
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
        given = found.assignment
        code = "cli.comments.is_assigned_until" if given.due else "cli.comments.is_assigned_to"
        tell(code, title=found.title, holder=given.holder, due=given.due)


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
    tell("cli.comments.is_dropped" if dropped else "cli.comments.is_done", title=entry.title)


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
        field = said("cli.comments.in_field", locale=one.locale, field=one.field)
        where = field if one.field else said("common.words", words=one.locale)
        if one.strand != "draft":
            where = said("cli.comments.in_strand", where=where, strand=one.strand)
        tell("cli.comments.has_it_open", name=one.name, where=where, since=drawing.when(one.since))
    if not found.items:
        tell("cli.comments.nobody_has_it_open")


def notifications(
    seen: Annotated[bool, typer.Option("--seen", help="Note all of them as seen.")] = False,
    way: Annotated[
        list[str] | None,
        typer.Option(help="Choose how a kind comes, as kind=way; may be given several times."),
    ] = None,
    digest_hour: Annotated[int | None, typer.Option(help="The local hour of the digest.")] = None,
    report: Annotated[
        str | None,
        typer.Option(help="The day on which the week's report comes by mail: monday … sunday, or none."),
    ] = None,
    as_json: Json = False,
) -> None:
    """Your notifications, newest first; and how you want to hear of what.

    Example: hawthorn notifications --way review=digest --digest-hour 8
    Example: hawthorn notifications --report monday
    """
    with service() as hawthorn:
        if way or digest_hour is not None or report is not None:
            ways = dict(w.partition("=")[::2] for w in way or ())
            chosen = hawthorn.choose_notifications(ways, digest_hour, report)
            if as_json:
                print_json(chosen)
                return
            made = drawing.table("kind", "comes", "when")
            for kind in chosen.kinds:
                made.add_row(kind.kind, kind.way, escape(kind.label))
            out.print(made)
            tell("cli.comments.the_digest_comes_at", digest_hour=f"{chosen.digest_hour:02d}")
            if chosen.report != "none":
                tell("cli.comments.the_report_comes_on", day=said(f"report.days.{chosen.report}"))
            return
        found = hawthorn.see_notifications() if seen else hawthorn.notifications()
    if as_json:
        print_json(found)
        return
    for one in found.items:
        mark = said("cli.comments.new" if one.new else "cli.comments.seen")
        tell("cli.comments.notification", mark=mark, at=drawing.when(one.at), says=one.says, path=one.path)
    if not found.items:
        tell("cli.comments.nothing_yet")


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
