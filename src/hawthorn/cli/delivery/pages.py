"""The outline, the library, sites, previews and search and sharing."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import (
    At,
    Fold,
    Json,
    Locale,
    Stage,
    Zone,
    entry_named,
    instant,
    means,
    members_of,
    out,
    print_json,
    resolve,
    service,
    stop,
)
from hawthorn.client import Client, every

Entry = Annotated[
    str, typer.Argument(help="The entry: its address, the start of its id, or a part of its title.")
]


def outline(
    below: Annotated[str, typer.Argument(help="The entry whose tree it is; the whole without one.")] = "",
    depth: Annotated[int, typer.Option(min=1, max=9, help="How many levels.")] = 3,
    locale: Locale = "",
    stage: Stage = "",
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    words: Annotated[
        str, typer.Option("--words", help="Only pages with these words, each with what is above it.")
    ] = "",
    as_json: Json = False,
) -> None:
    """The tree of pages, at a stage and instant, with what is incomplete or behind.

    Example: hawthorn outline Visit --depth 2 --stage release --at 2027-11-30T09:00
    """
    at = instant(at, zone, fold)
    with service() as hawthorn:
        if words:
            _matches(hawthorn.search_outline(words, locale=locale), as_json)
            return
        root = resolve(hawthorn, below) if below else ""
        if as_json:
            print_json(hawthorn.outline(root, locale=locale, stage=stage, at=at))
            return
        count = _draw(hawthorn, root, depth, 0, {"locale": locale, "stage": stage, "at": at})
    if not count:
        out.print("Nothing stands here yet. A type stands in the outline by a field “place in the outline”.")


def _matches(found: wire.delivery.OutlineMatches, as_json: bool) -> None:
    if as_json:
        print_json(found)
        return
    for one in found.items:
        trail = [*one.above, one.line.title or "untitled"]
        out.print(" › ".join(escape(title) for title in trail), f" [dim]{one.line.type}[/dim]")
    if not found.items:
        out.print("No page has these words.")


def _draw(hawthorn: Client, below: str, depth: int, deep: int, asked: dict[str, Any]) -> int:
    count, cursor = 0, ""
    while True:
        level = hawthorn.outline(below, cursor=cursor, **asked)
        for line in level.items:
            count += 1
            marks = [word for word, on in (("incomplete", line.incomplete), ("behind", line.behind)) if on]
            said = f"  [yellow]{', '.join(marks)}[/yellow]" if marks else ""
            more = " …" if line.has_below and depth == 1 else ""
            out.print(
                f"{'  ' * deep}{escape(line.title or 'untitled')}{more}  [dim]{line.type}  "
                f"{drawing.rail(line.rail, line.planned)}[/dim]{said}"
            )
            if line.has_below and depth > 1:
                _draw(hawthorn, line.id, depth - 1, deep + 1, asked)
        cursor = level.next
        if not cursor:
            return count


def move(
    entry: Entry,
    below: Annotated[
        str, typer.Option(help="Place it below this entry; beside --before or --after without one.")
    ] = "",
    before: Annotated[str, typer.Option(help="Before this one.")] = "",
    after: Annotated[str, typer.Option(help="After this one.")] = "",
    top: Annotated[bool, typer.Option("--top", help="Place it at the top.")] = False,
    as_json: Json = False,
) -> None:
    """Move a page in the outline of the drafts; readers see it where it was until the move is released.

    Example: hawthorn move "How to find us" --after "Opening hours"
    """
    if not (below or before or after or top):
        stop("It is not said where to.", "Give --below, --before, --after or --top.")
    with service() as hawthorn:
        named = [resolve(hawthorn, n) if n else "" for n in (entry, below, before, after)]
        done = hawthorn.move(named[0], "" if top else named[1] or None, before=named[2], after=named[3])
        trail = hawthorn.trail(named[0])
    if as_json:
        print_json(done)
        return
    out.print(" › ".join(escape(line.title or "untitled") for line in trail.items))
    out.print(f"  To put it back: hawthorn put-back {named[0]} '{json.dumps(done.was)}'")


def put_back(
    entry: Entry, placement: Annotated[str, typer.Argument(help="What the move said, as JSON.")]
) -> None:
    """Undo a move in the outline.

    Example: hawthorn put-back "How to find us" "null"
    """
    with service() as hawthorn:
        try:
            hawthorn.put_back(resolve(hawthorn, entry), json.loads(placement))
        except json.JSONDecodeError:
            stop("That is not JSON.", "Give what the move printed, in quotes.")
    out.print("Put back.")


def copy_tree(
    entry: Entry,
    below: Annotated[
        str, typer.Option(help="Place the copy below this entry; beside the original without one.")
    ] = "",
    as_json: Json = False,
) -> None:
    """Copy a page with all that is placed below it, in all locales.

    Example: hawthorn copy-tree "Summer exhibition" --below Archive
    """
    with service() as hawthorn:
        id = resolve(hawthorn, entry)
        above = resolve(hawthorn, below) if below else None
        with out.status("Copying…"):
            done = hawthorn.copy_tree(id, above)
    if as_json:
        print_json(done)
    else:
        out.print(
            f"Copied {done.entries} {'entry' if done.entries == 1 else 'entries'}; the copy is {done.id}."
        )


def sites(
    file: Annotated[
        Path | None, typer.Argument(exists=True, help="A JSON file with sites to put in place.")
    ] = None,
    as_json: Json = False,
) -> None:
    """Where pages are seen, and their addresses; with a file, those to put in their place.

    Example: hawthorn site list sites.json
    """
    with service() as hawthorn:
        if file is not None:
            hawthorn.define_sites(members_of(file, "sites"))
        found = hawthorn.setup().sites
    if as_json:
        print_json(found)
        return
    table = drawing.table("Site", "Shows", "Pages of", "Address")
    for one in found:
        for type, address in one.addresses.items():
            table.add_row(
                escape(one.label or one.name), one.stage, type.replace("*", "all types"), escape(address)
            )
    out.print(table)


def check_site(
    name: Annotated[str, typer.Argument(help="The site.")],
    entry: Annotated[str, typer.Option(help="Try with this entry.")] = "",
    locale: Locale = "",
    as_json: Json = False,
) -> None:
    """Try the address of a site on a real entry: what is wrong, and how to mend it.

    Example: hawthorn site check preview --entry "Winter opening hours"
    """
    with service() as hawthorn:
        site = next((s for s in hawthorn.setup().sites if s.name == name), None)
        if site is None:
            stop(f"There is no site “{name}”.", "Look at `hawthorn site list`.", "not-found")
        id = resolve(hawthorn, entry) if entry else ""
        with out.status("Trying…"):
            trial = hawthorn.check_site(site.model_dump(), entry=id, locale=locale)
    if as_json:
        print_json(trial)
    else:
        out.print(f"“{escape(trial.title)}” at {escape(trial.url)}")
        for one in trial.findings:
            out.print(f"{'[green]✓[/green]' if one.well else '[red]✗[/red]'} {escape(one.what)}")
            if one.remedy:
                out.print(f"  {escape(one.remedy)}")
    if not all(one.well for one in trial.findings):
        raise typer.Exit(7)


def addresses(
    entry: Entry,
    locale: Locale = "",
    stage: Stage = "draft",
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    strand: Annotated[str, typer.Option(help="A strand of it; the draft when not given.")] = "",
    as_json: Json = False,
) -> None:
    """Where a page is seen: its address at every site, those of previews for yourself, for twelve hours.

    Example: hawthorn preview open "Winter opening hours" --at 2027-03-31T09:00
    """
    at = instant(at, zone, fold)
    with service() as hawthorn:
        found = entry_named(hawthorn, entry, locale)
        pane = hawthorn.open_preview(stage=stage or "draft", at=at, strand=strand)
        seen = hawthorn.page_addresses(found.id, found.locale, preview=pane.id)
    if as_json:
        print_json(seen)
        return
    for one in seen.items:
        note = f"  [yellow]nothing for {', '.join(one.missing)}[/yellow]" if one.missing else ""
        out.print(f"{escape(one.label)} ({one.stage}){note}")
        out.print(f"  {escape(one.url)}", soft_wrap=True)


def give(
    entry: Entry,
    scope: Annotated[str, typer.Option(help="entry, section or strand.")] = "entry",
    days: Annotated[float, typer.Option(min=0.001, max=90, help="For so many days.")] = 7,
    stage: Stage = "draft",
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    strand: Annotated[str, typer.Option(help="The strand, for scope strand.")] = "",
    name: Annotated[str, typer.Option(help="For whom, so that it is known again.")] = "",
    as_json: Json = False,
) -> None:
    """Give out a link to look at something before it is out, without an account.

    Example: hawthorn preview give "Winter opening hours" --days 3 --name "For the printers"
    """
    at = instant(at, zone, fold)
    with service() as hawthorn:
        made = hawthorn.give_link(
            resolve(hawthorn, entry),
            scope=scope,
            stage=stage or "draft",
            at=at,
            strand=strand,
            lasts=max(60, round(days * 86_400)),
            name=name,
        )
    if as_json:
        print_json(made)
    else:
        _say(made)


def _say(link: wire.delivery.Link) -> None:
    state = (
        "taken back" if link.ended_at else "over" if link.over else f"until {drawing.when(link.expires_at)}"
    )
    used = f"used {len(link.uses)} times, last {drawing.when(link.uses[0].at)}" if link.uses else "not used"
    what = f"{link.scope} at {link.stage}" + (f", strand {link.strand}" if link.strand else "")
    out.print(
        f"[bold]{escape(link.title)}[/bold]  {what}; {state}; {used}  [dim]{escape(link.name)} by {escape(link.by)}, "
        f"{link.id}[/dim]"
    )
    for one in link.addresses:
        if one.stage != "release" and not one.missing:
            out.print(f"  {escape(one.label)}: {escape(one.url)}", soft_wrap=True)


def links(
    entry: Annotated[str, typer.Argument(help="Of this entry; all without one.")] = "", as_json: Json = False
) -> None:
    """The links that were given out, with their uses.

    Example: hawthorn preview links "Winter opening hours"
    """
    with service() as hawthorn:
        found = hawthorn.links(entry=resolve(hawthorn, entry) if entry else "")
    if as_json:
        print_json(found)
        return
    for one in found.items:
        _say(one)
    if not found.items:
        out.print("No links were given out.")


def take_back(link: Annotated[str, typer.Argument(help="The link's id, or the end of it.")]) -> None:
    """Take a link back: it opens nothing from now on.

    Example: hawthorn preview take-back 01a1f5b2
    """
    with service() as hawthorn:
        found = [one for one in every(hawthorn.links) if means(link, one.id)]
        if len(found) != 1:
            stop(f"“{link}” names {len(found)} links.", "Look at `hawthorn preview links`.", "not-found")
        hawthorn.take_link_back(found[0].id)
    out.print("Taken back; it opens nothing from now on.")


def shown_in(entry: Entry, as_json: Json = False) -> None:
    """The pages that show an entry, and so change when it moves on.

    Example: hawthorn shown-in "How to find us"
    """
    with service() as hawthorn:
        found = hawthorn.shown_in(resolve(hawthorn, entry))
    if as_json:
        print_json(found)
        return
    out.print(f"{found.total} show it, {found.out} of them are out." if found.total else "Nothing shows it.")
    for one in found.items:
        out.print(f"  {escape(one.title)}  [dim]{one.type}  {', '.join(one.out) or 'not out'}[/dim]")


def search_and_sharing(locale: Locale = "", as_json: Json = False) -> None:
    """Pages whose title or description for searches is missing, too long, or said twice in the site.

    Example: hawthorn search-and-sharing --locale en
    """
    with service() as hawthorn:
        found = hawthorn.search_and_sharing(locale=locale)
    if as_json:
        print_json(found)
        return
    for one in found.items:
        out.print(f"[bold]{escape(one.name)}[/bold]  [dim]{one.type}, {one.locale}[/dim]")
        for check in one.checks:
            out.print(f"  • {escape(check.text)}")
    if not found.items:
        out.print("Every page says something of its own, and not too much.")


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Pages and pictures"
    groups: dict[str, tuple[str, dict[str, Callable[..., None]]]] = {
        "site": ("The sites that show pages.", {"list": sites, "check": check_site}),
        "preview": (
            "Looking at pages before they are out.",
            {"open": addresses, "give": give, "links": links, "take-back": take_back},
        ),
    }
    for name, (about, commands) in groups.items():
        group = typer.Typer(help=about, no_args_is_help=True)
        for command, function in commands.items():
            group.command(command)(function)
        app.add_typer(group, name=name, rich_help_panel=panel)
    for function in (
        outline,
        move,
        put_back,
        copy_tree,
        shown_in,
        search_and_sharing,
    ):
        app.command(rich_help_panel=panel)(function)
