"""The library: its folders, files that go into it, and the crops that pictures are shown in."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer
from rich.markup import escape
from rich.progress import BarColumn, DownloadColumn, Progress, TextColumn

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import (
    Json,
    marked,
    members_of,
    note_error,
    out,
    print_json,
    resolve,
    service,
    stop,
    tell,
)
from hawthorn.client import Client, every
from hawthorn.core.messages import said

_PART = 4 * 1024 * 1024


def library(
    words: Annotated[str, typer.Argument(help="Words to find.")] = "",
    folder: Annotated[str, typer.Option(help="A folder by name; “none” for what lies in none.")] = "",
    as_json: Json = False,
) -> None:
    """Pictures, sound, film and documents, with where each is used.

    Example: hawthorn library lamp --folder Boats
    """
    with service() as hawthorn:
        inside = "none" if folder == "none" else _folder(hawthorn, folder).id if folder else ""
        found = hawthorn.library(words=words, folder=inside)
        names = {f.id: f.name for f in every(hawthorn.folders)}
    if as_json:
        print_json(found)
        return
    table = drawing.table("title", "file", "size", "folder", "used", "stands")
    for line in found.items:
        file = line.file
        size = f"{file.width} × {file.height}" if file and file.width else ""
        note = marked("cli.library.no_alt") if line.alt == "" else ""
        table.add_row(
            drawing.title(line.title) + note,
            escape(file.media_type) if file else marked("cli.library.no_file"),
            size,
            escape(names.get(line.folder, "")),
            str(line.uses),
            drawing.rail(line.rail, line.planned),
        )
    out.print(table)


def _folder(hawthorn: Client, name: str) -> wire.media.Folder:
    found = [f for f in every(hawthorn.folders) if f.name.casefold() == name.casefold() or f.id == name]
    if len(found) != 1:
        stop("cli.library.names", ends="not-found", name=name, count=len(found))
    return found[0]


def folders(as_json: Json = False) -> None:
    """The folders of the library as a tree."""
    with service() as hawthorn:
        found = hawthorn.folders()
    if as_json:
        print_json(found)
        return
    below: dict[str | None, list[wire.media.Folder]] = {}
    for one in found.items:
        below.setdefault(one.parent, []).append(one)

    def draw(parent: str | None, deep: int) -> None:
        for one in below.get(parent, []):
            out.print(f"{one.entries:>6}  {'  ' * deep}{escape(one.name)}")
            draw(one.id, deep + 1)

    draw(None, 0)


def make_folder(
    name: Annotated[str, typer.Argument(help="Its name.")],
    inside: Annotated[str, typer.Option(help="The folder in which it lies.")] = "",
) -> None:
    """Make a folder.

    Example: hawthorn folder make Seabirds --inside Birds
    """
    with service() as hawthorn:
        made = hawthorn.make_folder(name, _folder(hawthorn, inside).id if inside else "")
    tell("cli.library.folder_made", name=made.name)


def remove_folder(name: Annotated[str, typer.Argument(help="Its name.")]) -> None:
    """Remove a folder; what lies in it comes to lie where it lay.

    Example: hawthorn folder remove Seabirds
    """
    with service() as hawthorn:
        hawthorn.remove_folder(_folder(hawthorn, name).id)
    tell("cli.library.folder_removed")


def file_into(
    names: Annotated[list[str], typer.Argument(help="Entries of the library.")],
    folder: Annotated[str, typer.Option(help="The folder; none without one.")] = "",
) -> None:
    """Put entries of the library into a folder.

    Example: hawthorn file-into "A tern" "A gull" --folder Birds
    """
    with service() as hawthorn:
        ids = [resolve(hawthorn, n) for n in names]
        hawthorn.file_into(ids, _folder(hawthorn, folder).id if folder else "")
    tell("cli.library.put_into", count=len(ids), folder=folder or said("cli.library.no_folder"))


def sent(hawthorn: Client, path: Path) -> wire.media.FileValue:
    """Upload a file in parts, going on with an upload of the same file that was broken off; says how far it is."""
    length = path.stat().st_size
    begun = [u for u in every(hawthorn.uploads) if (u.name, u.length) == (path.name, length)]
    id = begun[0].id if begun else hawthorn.begin_upload(path.name, length)
    at = begun[0].offset if begun else 0
    columns = (TextColumn("{task.description}"), BarColumn(), DownloadColumn())
    with Progress(*columns, console=out, transient=True) as progress, path.open("rb") as source:
        task = progress.add_task(path.name, total=length, completed=at)
        source.seek(at)
        while at < length:
            at = hawthorn.append_upload(id, at, source.read(_PART))
            progress.update(task, completed=at)
    done = hawthorn.upload_state(id)
    if done.note:
        note_error("cli.library.upload_note", note=done.note)
    assert done.file is not None
    return done.file


def upload(
    paths: Annotated[list[Path], typer.Argument(exists=True, dir_okay=False, help="Files.")],
    as_json: Json = False,
) -> None:
    """Upload files; prints the value for a file field. One that was broken off goes on where it stopped.

    Example: hawthorn upload tern.png gull.jpg
    """
    with service() as hawthorn:
        found = [sent(hawthorn, path) for path in paths]
    if as_json:
        print_json(found if len(found) > 1 else found[0])
        return
    for one in found:
        tell(
            "cli.library.picture" if one.width else "cli.library.file",
            name=one.name,
            type=one.media_type,
            width=one.width,
            height=one.height,
            bytes=one.bytes,
            sha256=one.sha256,
        )


def crops(
    file: Annotated[
        Path | None, typer.Argument(exists=True, help="A JSON file with crops to put in place.")
    ] = None,
    as_json: Json = False,
) -> None:
    """The crops in which the site shows pictures; with a file, those to put in their place.

    Example: hawthorn crops crops.json
    """
    with service() as hawthorn:
        if file is not None:
            hawthorn.define_crops(members_of(file, "crops"))
        found = hawthorn.setup().crops
    if as_json:
        print_json(found)
        return
    table = drawing.table("name", "size", "where_it_is_used")
    for one in found:
        height = str(one.height) if one.height else marked("cli.library.as_it_is")
        table.add_row(one.name, f"{one.width} × {height}", escape(one.use))
    out.print(table)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "Pages and pictures"
    group = typer.Typer(help="Folders of the library.", no_args_is_help=True)
    group.command("list")(folders)
    group.command("make")(make_folder)
    group.command("remove")(remove_folder)
    app.add_typer(group, name="folder", rich_help_panel=panel)
    for function in (library, file_into, upload, crops):
        app.command(rich_help_panel=panel)(function)
