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
    marked,
    means,
    members_of,
    or_none,
    out,
    plain,
    print_json,
    resolve,
    service,
    stop,
    tell,
)
from hawthorn.cli.release.named import Within, dispatch_named
from hawthorn.client import Client, every
from hawthorn.core.messages import said

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
    within: Within = "",
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
        inside = dispatch_named(hawthorn, within) if within else ""
        asked: dict[str, Any] = {"locale": locale, "stage": stage, "at": at, "dispatch": inside}
        if as_json:
            print_json(hawthorn.outline(root, **asked))
            return
        count = _draw(hawthorn, root, depth, 0, asked)
    if not count:
        tell("cli.pages.outline_is_empty")


def _matches(found: wire.delivery.OutlineMatches, as_json: bool) -> None:
    if as_json:
        print_json(found)
        return
    for one in found.items:
        trail = [*map(escape, one.above), drawing.title(one.line.title)]
        out.print(" › ".join(trail), f" [dim]{one.line.type}[/dim]")
    if not found.items:
        tell("cli.pages.no_page_has_these_words")


def _draw(hawthorn: Client, below: str, depth: int, deep: int, asked: dict[str, Any]) -> int:
    count, cursor = 0, ""
    while True:
        level = hawthorn.outline(below, cursor=cursor, **asked)
        for line in level.items:
            count += 1
            marks = [
                marked(code)
                for code, on in (
                    ("cli.pages.incomplete", line.incomplete),
                    ("cli.pages.behind", line.behind),
                )
                if on
            ]
            noted = f"  [yellow]{', '.join(marks)}[/yellow]" if marks else ""
            more = " …" if line.has_below and depth == 1 else ""
            out.print(
                f"{'  ' * deep}{drawing.title(line.title)}{more}  [dim]{line.type}  "
                f"{drawing.rail(line.rail, line.planned)}[/dim]{noted}"
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
        stop("cli.pages.no_place_given")
    with service() as hawthorn:
        named = [resolve(hawthorn, n) if n else "" for n in (entry, below, before, after)]
        done = hawthorn.move(named[0], "" if top else named[1] or None, before=named[2], after=named[3])
        trail = hawthorn.trail(named[0])
    if as_json:
        print_json(done)
        return
    out.print(" › ".join(drawing.title(line.title) for line in trail.items))
    tell("cli.pages.undo", id=named[0], placement=json.dumps(done.was))


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
            stop("cli.pages.not_json")
    tell("cli.pages.put_back")


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
        with out.status(plain("cli.pages.copying")):
            done = hawthorn.copy_tree(id, above)
    if as_json:
        print_json(done)
    else:
        tell("cli.pages.copied", count=done.entries, id=done.id)


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
    table = drawing.table("site", "shows", "pages_of", "address")
    for one in found:
        for type, address in one.addresses.items():
            named = marked("cli.pages.all_types") if type == "*" else escape(type)
            table.add_row(escape(one.label or one.name), one.stage, named, escape(address))
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
            stop("cli.pages.there_is_no_site", ends="not-found", name=name)
        id = resolve(hawthorn, entry) if entry else ""
        with out.status(plain("cli.pages.trying")):
            trial = hawthorn.check_site(site.model_dump(), entry=id, locale=locale)
    if as_json:
        print_json(trial)
    else:
        tell("cli.pages.page_at", title=trial.title, url=trial.url)
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
        note = marked("cli.pages.nothing_for", missing=one.missing) if one.missing else ""
        out.print(f"{escape(one.label)} ({one.stage}){note}")
        out.print(f"  {escape(one.url)}", soft_wrap=True)


def give(
    entry: Entry,
    scope: Annotated[str, typer.Option(help="entry, section, strand or dispatch.")] = "entry",
    days: Annotated[float, typer.Option(min=0.001, max=90, help="For so many days.")] = 7,
    stage: Stage = "draft",
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    strand: Annotated[str, typer.Option(help="The strand, for scope strand.")] = "",
    within: Within = "",
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
            dispatch=dispatch_named(hawthorn, within) if within else "",
            lasts=max(60, round(days * 86_400)),
            name=name,
        )
    if as_json:
        print_json(made)
    else:
        _say(made)


def _say(link: wire.delivery.Link) -> None:
    over = "cli.pages.link_ended" if link.ended_at else "cli.pages.link_over"
    still = said("cli.pages.link_until", at=drawing.when(link.expires_at))
    used = said("cli.pages.link_unused")
    if link.uses:
        used = said("cli.pages.link_used", count=len(link.uses), at=drawing.when(link.uses[0].at))
    to = "cli.pages.link_to_strand" if link.strand else "cli.pages.link_to"
    tell(
        "cli.pages.link",
        title=link.title,
        what=said(to, scope=link.scope, stage=link.stage, strand=link.strand),
        state=said(over) if link.ended_at or link.over else still,
        used=used,
        name=link.name,
        by=link.by,
        id=link.id,
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
        tell("cli.pages.no_links_were_given_out")


def take_back(link: Annotated[str, typer.Argument(help="The link's id, or the end of it.")]) -> None:
    """Take a link back: it opens nothing from now on.

    Example: hawthorn preview take-back 01a1f5b2
    """
    with service() as hawthorn:
        found = [one for one in every(hawthorn.links) if means(link, one.id)]
        if len(found) != 1:
            stop("cli.pages.links_named", ends="not-found", link=link, count=len(found))
        hawthorn.take_link_back(found[0].id)
    tell("cli.pages.link_taken_back")


def shown_in(entry: Entry, as_json: Json = False) -> None:
    """The pages that show an entry, and so change when it moves on.

    Example: hawthorn shown-in "How to find us"
    """
    with service() as hawthorn:
        found = hawthorn.shown_in(resolve(hawthorn, entry))
    if as_json:
        print_json(found)
        return
    tell(
        "cli.pages.shown_in" if found.total else "cli.pages.nothing_shows_it",
        total=found.total,
        out=found.out,
    )
    for one in found.items:
        out_in = or_none("cli.pages.not_out", one.out)
        tell("cli.pages.shows", title=one.title, type=one.type, out=out_in)


def search_and_sharing(locale: Locale = "", as_json: Json = False) -> None:
    """Pages whose title or description for searches is missing, too long, or said twice in the site.

    Example: hawthorn search-and-sharing --locale en
    """
    with service() as hawthorn:
        if as_json:
            print_json(hawthorn.search_and_sharing(locale=locale))
            return
        found = list(every(hawthorn.search_and_sharing, locale=locale))
    for one in found:
        out.print(f"[bold]{escape(one.name)}[/bold]  [dim]{one.type}, {one.locale}[/dim]")
        for check in one.checks:
            out.print(f"  • {escape(check.text)}")
    if not found:
        tell("cli.pages.nothing_to_mend")


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
