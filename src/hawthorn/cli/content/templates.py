"""Templates, tags, topics, saved lists, removing, and one act on many entries, from the command line."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.content.entries import Set, first_locale, shown, values
from hawthorn.cli.context import (
    EXIT,
    At,
    Check,
    Fold,
    Json,
    Locale,
    Named,
    Zone,
    entry_named,
    means,
    or_none,
    out,
    print_json,
    resolve,
    service,
    stop,
    tell,
)
from hawthorn.client import Client, every
from hawthorn.core.messages import said


def copy(name: Named, set: Set = None, as_json: Json = False) -> None:
    """Start an entry as a copy of another, in all its locales.

    Example: hawthorn entry copy "Winter opening hours" --set title="Spring opening hours"
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name)
        made = hawthorn.copy_entry(entry.id, fields=values(hawthorn, entry.type, set or []))
    shown(made, as_json)


def remove(
    name: Named,
    with_needs: Annotated[bool, typer.Option("--with-needs", help="And all that refers to it.")] = False,
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Remove an entry in every locale, now or as planned; refused with the list while something refers to it.

    Example: hawthorn entry remove "Winter opening hours" --at 2027-04-01 --check
    """
    from hawthorn.cli.release.going_out import checked, planned

    with service() as hawthorn:
        entry = entry_named(hawthorn, name)
        moves = [{"id": entry.id, "locale": entry.locale, "verb": "remove"}]
        when = planned(at, zone, fold)
        if check:
            checked(hawthorn.check_dispatch(moves, when=when, with_needs=with_needs), as_json)
            return
        made = hawthorn.dispatch(moves, when=when, with_needs=with_needs)
    if as_json:
        print_json(made)
    elif when:
        tell(
            "cli.templates.removal_is_planned",
            title=entry.title,
            instant=drawing.when(made.instant),
            short=made.short,
        )
    else:
        tell("cli.templates.is_removed", title=entry.title, id=entry.id)


def bring_back(
    id: Annotated[str, typer.Argument(help="The id of the removed entry.")], as_json: Json = False
) -> None:
    """Bring a removed entry back as a draft.

    Example: hawthorn entry bring-back 01a1f5b2-4c1d-7a41-9d40-1de0b42efb6a
    """
    with service() as hawthorn:
        made = hawthorn.bring_back(id)
    shown(made, as_json)


def templates(as_json: Json = False) -> None:
    """The templates there are."""
    with service() as hawthorn:
        _templates(hawthorn.templates(), as_json)


def _templates(found: wire.content.Templates, as_json: bool) -> None:
    if as_json:
        print_json(found)
    elif not found.items:
        tell("cli.templates.no_templates_yet")
    else:
        made = drawing.table("id", "name", "type", "in", "by")
        for one in found.items:
            made.add_row(one.short, escape(one.name), one.type, ", ".join(one.locales), escape(one.by))
        out.print(made)


def make_template(
    name: Named, called: Annotated[str, typer.Argument(help="What it is called.")], as_json: Json = False
) -> None:
    """Make a template from an entry as its drafts stand now.

    Example: hawthorn template make "Closed on Monday" "Closing notice"
    """
    with service() as hawthorn:
        _templates(hawthorn.make_template(resolve(hawthorn, name), called), as_json)


def from_template(
    template: Annotated[str, typer.Argument(help="A template's name, or the end of its id.")],
    set: Set = None,
    locale: Annotated[
        str, typer.Option("--locale", help="The locale; the first of the house when not given.")
    ] = "",
    as_json: Json = False,
) -> None:
    """Start an entry from a template.

    Example: hawthorn template start "Closing notice" --set title="Closed on Monday"
    """
    with service() as hawthorn:
        one = _template(hawthorn, template)
        made = hawthorn.start_from_template(
            one.id, locale=locale or first_locale(hawthorn), fields=values(hawthorn, one.type, set or [])
        )
    shown(made, as_json)


def end_template(
    template: Annotated[str, typer.Argument(help="A template's name, or the end of its id.")],
) -> None:
    """End a template.

    Example: hawthorn template end "Closing notice"
    """
    with service() as hawthorn:
        one = _template(hawthorn, template)
        hawthorn.end_template(one.id)
    tell("cli.templates.the_template_is_ended", name=one.name)


def _template(hawthorn: Client, name: str) -> wire.content.Template:
    found = [
        t for t in every(hawthorn.templates) if t.name.casefold() == name.casefold() or means(name, t.id)
    ]
    if len(found) != 1:
        stop("cli.templates.names", ends="not-found", name=name, count=len(found))
    return found[0]


def tags(start: Annotated[str, typer.Argument(help="How they begin.")] = "", as_json: Json = False) -> None:
    """Tags in use, with how many entries have each.

    Example: hawthorn tags win
    """
    with service() as hawthorn:
        found = hawthorn.tags(start)
    if as_json:
        print_json(found)
    else:
        for one in found.items:
            out.print(f"{one.entries:>6}  {escape(one.tag)}")


def topics(type: Annotated[str, typer.Argument(help="The content type.")], as_json: Json = False) -> None:
    """The entries of a type as a tree, each with how many entries refer to it.

    Example: hawthorn topics topic
    """
    with service() as hawthorn:
        found = hawthorn.topics(type)
    if as_json:
        print_json(found)
        return
    below: dict[str | None, list[wire.search.TopicLine]] = {}
    for one in found.items:
        below.setdefault(one.parent, []).append(one)

    def draw(parent: str | None, depth: int) -> None:
        for one in below.get(parent, []):
            out.print(f"{one.entries:>6}  {'  ' * depth}{drawing.title(one.title)}")
            draw(one.id, depth + 1)

    draw(None, 0)


def lists(as_json: Json = False) -> None:
    """Saved lists: your own and the shared ones."""
    with service() as hawthorn:
        found = hawthorn.lists()
    if as_json:
        print_json(found)
        return
    for one in found.items:
        asked = [k if v is True else f"{k} {v}" for k, v in one.query.items()]
        by = said("cli.templates.shared_by", by=one.by) if one.shared else one.by
        tell(
            "cli.templates.kept_list",
            name=one.name,
            asked=or_none("cli.templates.everything", asked),
            by=by,
        )


def many(
    act: Annotated[
        str, typer.Argument(help="submit, sign, release, plan, withdraw, remove, tag, untag or set.")
    ],
    names: Annotated[list[str], typer.Argument(help="Entries, as they are named anywhere.")],
    locale: Locale = "",
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    tag: Annotated[str, typer.Option(help="For tag and untag.")] = "",
    set: Set = None,
    note: Annotated[str, typer.Option(help="Why.")] = "",
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Do one act to many entries; each has a result of its own.

    Example: hawthorn many plan "Winter hours" "Christmas market" --at 2027-11-30T09:00 --check
    """
    from hawthorn.cli.release.going_out import planned

    with service() as hawthorn:
        found = [entry_named(hawthorn, n, locale) for n in names]
        options: dict[str, Any] = {"note": note, "tag": tag, "when": planned(at, zone, fold)}
        if act == "plan" and not at:
            stop("cli.templates.no_time_given")
        if set:
            field, value = next(iter(values(hawthorn, found[0].type, set).items()))
            options |= {"field": field, "value": value}
        # A sign-off is of exactly the revisions that are looked at here.
        items = [
            (e.id, e.locale, e.review.revision, e.review.common_revision or 0)
            if e.review and act == "sign"
            else (e.id, e.locale)
            for e in found
        ]
        result = hawthorn.check_bulk(act, items, **options) if check else hawthorn.bulk(act, items, **options)
    if as_json:
        print_json(result)
    else:
        for line in result.items:
            mark = "[green]✓[/green]" if line.done else "[red]✗[/red]"
            out.print(f"{mark} {drawing.title(line.title)}  {escape(line.what or line.why)}")
        code = "cli.templates.would_be_done" if check else "cli.templates.done"
        tell(code, done=result.done, refused=result.refused)
    if result.refused and not check:
        raise typer.Exit(EXIT["gate-unmet"])


ENTRY: dict[str, Callable[..., None]] = {"copy": copy, "remove": remove, "bring-back": bring_back}


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Writing and finding"
    group = typer.Typer(help="Templates: entries to begin from.", no_args_is_help=True)
    for name, function in (
        ("list", templates),
        ("make", make_template),
        ("start", from_template),
        ("end", end_template),
    ):
        group.command(name)(function)
    app.add_typer(group, name="template", rich_help_panel=panel)
    app.command(rich_help_panel=panel)(tags)
    app.command(rich_help_panel=panel)(topics)
    app.command(rich_help_panel=panel)(lists)
    app.command(rich_help_panel=panel)(many)
