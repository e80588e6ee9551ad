"""The locales of a house, from the command line."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import EXIT, Check, Json, listed, marked, out, print_json, service, stop, tell
from hawthorn.client import Client

Tag = Annotated[str, typer.Argument(help="A language tag (BCP 47), such as fr or pt-BR.")]


def listing(as_json: Json = False) -> None:
    """The locales there are, in order; the first is asked for where none is."""
    with service() as hawthorn:
        found = hawthorn.setup().locales
    if as_json:
        print_json(found)
    else:
        _table(found)


def _table(found: list[wire.content.LocaleSpec]) -> None:
    made = drawing.table("tag", "name", "written", "where_it_has_nothing")
    for one in found:
        written = marked("cli.locales.right_to_left" if one.rtl else "cli.locales.left_to_right")
        there = ", ".join([*one.fallback, marked("cli.locales.the_source")])
        made.add_row(one.tag, escape(one.name), written, there)
    out.print(made)


def add(
    tag: Tag,
    name: Annotated[str, typer.Argument(help="What it is called; its tag when not given.")] = "",
    fallback: Annotated[
        list[str] | None, typer.Option(help="A locale whose text stands in; may be given several times.")
    ] = None,
    direction: Annotated[str, typer.Option(help="ltr or rtl; that of its usual script when not given.")] = "",
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Add a locale after those there are, or bring one back that ended.

    Example: hawthorn locale add fr-CA "Français (Canada)" --fallback fr
    """
    with service() as hawthorn:
        have = _have(hawthorn)
        if any(one["tag"].casefold() == tag.casefold() for one in have):
            stop("cli.locales.is_there_already", ends="in-the-way", tag=tag)
        new = {"tag": tag, "name": name, "fallback": fallback or [], "direction": direction}
        _define(hawthorn, [*have, new], check, as_json)


def change(
    tag: Tag,
    name: Annotated[str, typer.Option(help="What it is called.")] = "",
    fallback: Annotated[
        list[str] | None,
        typer.Option(
            help="A locale whose text stands in, the best first; none for none. May be given several times."
        ),
    ] = None,
    direction: Annotated[str, typer.Option(help="ltr, rtl, or usual.")] = "",
    first: Annotated[bool, typer.Option("--first", help="Ask for this one where none is asked for.")] = False,
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Change what a locale is called, how it is written, or what stands in for it.

    Example: hawthorn locale set fr --name Français --first
    """
    with service() as hawthorn:
        have = _have(hawthorn)
        one = _one(have, tag)
        one["name"] = name or one["name"]
        if fallback is not None:
            one["fallback"] = [] if fallback == ["none"] else fallback
        if direction:
            one["direction"] = "" if direction == "usual" else direction
        if first:
            have.remove(one)
            have.insert(0, one)
        _define(hawthorn, have, check, as_json)


def end(tag: Tag, check: Check = False, as_json: Json = False) -> None:
    """End a locale. What is written in it stays in the record, and is there again when it comes back.

    Example: hawthorn locale end fr --check
    """
    with service() as hawthorn:
        have = _have(hawthorn)
        one = _one(have, tag)
        left = [
            other | {"fallback": [f for f in other["fallback"] if f != one["tag"]]}
            for other in have
            if other is not one
        ]
        _define(hawthorn, left, check, as_json)


def load(
    file: Annotated[
        Path, typer.Argument(exists=True, dir_okay=False, help="A JSON file with all locales, in order.")
    ],
    check: Check = False,
    as_json: Json = False,
) -> None:
    """Put the locales of a file in place of those there are; `hawthorn locale list --json` writes one.

    Example: hawthorn locale load locales.json --check
    """
    try:
        found = json.loads(file.read_text("utf-8"))
    except ValueError as error:
        stop("cli.locales.is_no_json", file=file, error=error)
    wanted = listed(found, "locales")
    with service() as hawthorn:
        _define(hawthorn, [{k: v for k, v in one.items() if k != "rtl"} for one in wanted], check, as_json)


def _have(hawthorn: Client) -> list[dict[str, Any]]:
    return [one.model_dump(exclude={"rtl"}) for one in hawthorn.setup().locales]


def _one(have: list[dict[str, Any]], tag: str) -> dict[str, Any]:
    found = next((one for one in have if one["tag"].casefold() == tag.casefold()), None)
    if found is None:
        stop("cli.locales.there_is_no_locale", ends="not-found", tag=tag, have=[o["tag"] for o in have])
    return found


def _define(hawthorn: Client, wanted: list[dict[str, Any]], check: bool, as_json: bool) -> None:
    found = hawthorn.check_locales(wanted) if check else hawthorn.define_locales(wanted)
    if as_json:
        print_json(found)
    else:
        for one in found.changes:
            code = "cli.locales.change_of" if one.editions else "cli.locales.change"
            tell(code, name=one.name, tag=one.tag, how=one.how, count=one.editions)
            if one.in_the_way:
                tell("cli.locales.in_the_way", what=one.in_the_way)
        if not check:
            _table(found.locales)
        elif not found.changes:
            tell("cli.locales.only_the_order_changes")
    if any(one.in_the_way for one in found.changes):
        raise typer.Exit(EXIT["in-the-way"])


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Set-up"
    group = typer.Typer(
        help="The locales: which there are, in which order, what stands in.", no_args_is_help=True
    )
    group.command("list")(listing)
    group.command("add")(add)
    group.command("set")(change)
    group.command("end")(end)
    group.command("load")(load)
    app.add_typer(group, name="locale", rich_help_panel=panel)
