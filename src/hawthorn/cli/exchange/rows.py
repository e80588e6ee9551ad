"""Entries from tables and pages: how their columns are mapped, and mappings that are kept."""

from __future__ import annotations

import json
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Json, out, plain, print_json, service, stop, tell
from hawthorn.client import Client, every

_SENT = {
    ".md", ".markdown", ".html", ".htm", ".png", ".jpg", ".jpeg", ".gif", ".webp", ".avif", ".svg",
}  # fmt: skip
"""Endings of what is sent of a folder: pages, and pictures that they show."""
_MANIFEST = "hawthorn.json"
Named = Annotated[str, typer.Argument(help="What the mapping is called.", metavar="NAME")]


def is_package(path: Path) -> bool:
    """Whether a file is a package of Hawthorn, rather than rows."""
    if not zipfile.is_zipfile(path):
        return False
    with zipfile.ZipFile(path) as archive:
        return _MANIFEST in archive.namelist()


@contextmanager
def sendable(path: Path) -> Iterator[Path]:
    """A file as it is sent: a folder of pages as an archive of them."""
    if not path.is_dir():
        yield path
        return
    with TemporaryDirectory() as place:
        packed = Path(place) / f"{path.resolve().name}.zip"
        with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
            for one in sorted(path.rglob("*")):
                if one.is_file() and one.suffix.lower() in _SENT:
                    archive.write(one, one.relative_to(path).as_posix())
        yield packed


def wish_of(hawthorn: Client, type: str, locale: str, mapping: str) -> dict[str, Any]:
    """How rows are to be brought: by a mapping that is kept, or that a file holds."""
    if not mapping:
        return {"type": type, "locale": locale}
    path = Path(mapping)
    if not path.is_file():
        return {"type": type, "locale": locale, "mapping": hawthorn.mapping(mapping).mapping.model_dump()}
    try:
        return {"type": type, "locale": locale, "mapping": json.loads(path.read_text("utf-8"))}
    except (OSError, ValueError) as error:
        stop("cli.rows.unreadable", ends="bad-file", file=path, error=error)


def say_mapping(found: wire.exchange.PackageReport) -> None:
    """How columns become fields, with some of what stands in each."""
    if found.mapping is None:
        return
    tell("cli.rows.becomes", type=found.mapping.type, locale=found.mapping.locale)
    made = drawing.table("column", "field", "example")
    goals = {one.column: one.to for one in found.mapping.columns}
    for one in found.columns:
        goal = goals.get(one.column, "")
        samples = " · ".join(one.samples)
        made.add_row(
            escape(one.column),
            escape(goal) if goal else plain("cli.rows.left_out"),
            escape(samples[:70] + ("…" if len(samples) > 70 else "")),
        )
    out.print(made)


def mappings(as_json: Json = False) -> None:
    """The mappings that are kept, by name."""
    with service() as hawthorn:
        found = list(every(hawthorn.mappings))
    if as_json:
        print_json(found)
        return
    if not found:
        tell("cli.rows.no_mappings")
        return
    made = drawing.table("name", "type", "columns", "by", "at")
    for one in found:
        used = sum(bool(c.to) for c in one.mapping.columns)
        made.add_row(escape(one.name), one.mapping.type, str(used), escape(one.by), drawing.when(one.at))
    out.print(made)


def show(name: Named) -> None:
    """A mapping that is kept, as JSON that `hawthorn import --mapping` and `hawthorn mapping keep` read.

    Example: hawthorn mapping show talks
    """
    with service() as hawthorn:
        print_json(hawthorn.mapping(name).mapping)


def keep(
    name: Named,
    file: Annotated[
        Path, typer.Argument(help="The mapping, as JSON.", exists=True, dir_okay=False, metavar="FILE")
    ],
) -> None:
    """Keep a mapping under a name, for rows of the same kind that come later.

    Example: hawthorn mapping keep talks talks.json
    """
    with service() as hawthorn:
        given = wish_of(hawthorn, "", "", str(file))["mapping"]
        hawthorn.keep_mapping(name, given)
    tell("cli.rows.kept", name=name)


def drop(name: Named) -> None:
    """Keep a mapping no longer; what it brought stays.

    Example: hawthorn mapping drop talks
    """
    with service() as hawthorn:
        hawthorn.drop_mapping(name)
    tell("cli.rows.dropped", name=name)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(
        help="How columns of tables and pages become fields of entries.", no_args_is_help=True
    )
    group.command("list")(mappings)
    group.command("show")(show)
    group.command("keep")(keep)
    group.command("drop")(drop)
    app.add_typer(group, name="mapping", rich_help_panel="In and out")
