"""Translation memories from the command line."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Json, out, print_json, service, tell
from hawthorn.cli.translation.shared import called, imported, say_file_imported, say_imports
from hawthorn.client import Client, every

MemoryName = Annotated[str, typer.Argument(help="Its name, or the start of it.", metavar="MEMORY")]
Source = Annotated[str, typer.Option(help="The locale of the source.", metavar="LOCALE")]
Target = Annotated[str, typer.Option(help="The locale of the translation.", metavar="LOCALE")]


def _one(hawthorn: Client, name: str) -> wire.memories.Memory:
    have = list(every(hawthorn.memories))
    return called(name, have, "cli.memories.none", "cli.memories.means", "cli.memories.none_is")


def listing(as_json: Json = False) -> None:
    """The translation memories, with how much is in each.

    Example: hawthorn memory list
    """
    with service() as hawthorn:
        found = list(every(hawthorn.memories))
    if as_json:
        print_json(found)
        return
    if not found:
        tell("cli.memories.there_are_none")
        return
    made = drawing.table("name", "sentences", "note")
    for one in found:
        made.add_row(escape(one.name), str(one.units), escape(one.note))
    out.print(made)


def add(
    name: Annotated[str, typer.Argument(help="What to call it.")],
    note: Annotated[str, typer.Option(help="What it is for.")] = "",
    as_json: Json = False,
) -> None:
    """Add a translation memory.

    Example: hawthorn memory add "Lights and signals"
    """
    with service() as hawthorn:
        made = hawthorn.add_memory(name, note=note)
    if as_json:
        print_json(made)
    else:
        tell("cli.memories.added", name=made.name)


def find(
    name: MemoryName,
    words: Annotated[str, typer.Argument(help="Words in either language.")] = "",
    source: Source = "",
    target: Target = "",
    limit: Annotated[int, typer.Option(min=1, max=500, help="How many.")] = 50,
    as_json: Json = False,
) -> None:
    """The sentences of a memory, the newest first.

    Example: hawthorn memory find "House memory" lamp --target fr
    """
    with service() as hawthorn:
        asked = {"words": words, "source": source, "target": target}
        found = hawthorn.memory_sentences(_one(hawthorn, name).id, asked, limit=limit)
    if as_json:
        print_json(found)
        return
    made = drawing.table("number", "source", "target", "origin")
    for one in found.items:
        made.add_row(
            str(one.id),
            f"[dim]{one.source_locale}[/dim] {escape(one.source_text)}",
            f"[dim]{one.locale}[/dim] {escape(one.text)}",
            one.origin,
        )
    out.print(made)
    if found.next:
        tell("cli.shared.there_is_more", limit=min(limit * 2, 500))


def import_file(
    name: MemoryName,
    path: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="The TMX file.")],
    as_json: Json = False,
) -> None:
    """Import a TMX file into a memory; what cannot be used is named.

    Example: hawthorn memory import "House memory" older.tmx
    """
    with service() as hawthorn:
        id = _one(hawthorn, name).id
        found = imported(
            path,
            lambda: hawthorn.import_memory(id, path, name=path.name),
            lambda: hawthorn.memory_imports(id, limit=1),
        )
    if as_json:
        print_json(found)
    else:
        say_file_imported(found, "hawthorn memory undo MEMORY")


def export(
    name: MemoryName,
    file: Annotated[Path, typer.Option("--file", help="The file to write.")] = Path("hawthorn-memory.tmx"),
    source: Source = "",
    target: Target = "",
) -> None:
    """Export a memory as TMX 1.4, whole or of one pair of languages.

    Example: hawthorn memory export "House memory" --target fr --file french.tmx
    """
    with service() as hawthorn:
        data = hawthorn.export_memory(_one(hawthorn, name).id, source=source, target=target)
    file.write_bytes(data)
    tell("cli.memories.exported", path=file, bytes=len(data))


def imports(name: MemoryName, as_json: Json = False) -> None:
    """The imports into a memory, the newest first.

    Example: hawthorn memory imports "House memory"
    """
    with service() as hawthorn:
        id = _one(hawthorn, name).id
        found = list(every(lambda **page: hawthorn.memory_imports(id, **page)))
    if as_json:
        print_json(found)
        return
    say_imports(found)


def undo(
    name: MemoryName,
    number: Annotated[int, typer.Argument(help="The number of the import.", metavar="NUMBER")],
) -> None:
    """Undo an import: what it brought goes, but for what was changed or accepted since.

    Example: hawthorn memory undo "House memory" 3
    """
    with service() as hawthorn:
        one = _one(hawthorn, name)
        while hawthorn.undo_memory_import(one.id, number).more:
            pass
    tell("cli.imports.undone", number=number, name=one.name)


def edit(
    name: MemoryName,
    number: Annotated[int, typer.Argument(help="The number of the sentence.", metavar="NUMBER")],
    target: Annotated[str, typer.Argument(help="The translation.")],
) -> None:
    """Write another translation for a sentence of a memory.

    Example: hawthorn memory edit "House memory" 17 "La lampe du port"
    """
    with service() as hawthorn:
        hawthorn.edit_memory_sentence(_one(hawthorn, name).id, number, target)
    tell("cli.memories.edited", number=number)


def remove(
    name: MemoryName,
    numbers: Annotated[list[int], typer.Argument(help="The numbers of the sentences.", metavar="NUMBER…")],
) -> None:
    """Remove sentences of a memory.

    Example: hawthorn memory remove "House memory" 17 18
    """
    with service() as hawthorn:
        hawthorn.remove_memory_sentences(_one(hawthorn, name).id, numbers)
    tell("cli.memories.removed", count=len(numbers))


def merge(
    name: MemoryName,
    other: Annotated[str, typer.Argument(help="The memory that is put into it, and ends.", metavar="OTHER")],
) -> None:
    """Put all of another memory into one; what both have is kept once.

    Example: hawthorn memory merge "House memory" "Lights and signals"
    """
    with service() as hawthorn:
        found = hawthorn.merge_memories(_one(hawthorn, name).id, _one(hawthorn, other).id)
    tell("cli.memories.merged", name=found.name, other=other, units=found.units)


def end(name: MemoryName) -> None:
    """Remove a memory with all that is in it.

    Example: hawthorn memory end "Lights and signals"
    """
    with service() as hawthorn:
        one = _one(hawthorn, name)
        while hawthorn.end_memory(one.id).more:
            pass
    tell("cli.memories.ended", name=one.name)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(help="Translation memories: find, import, export, look after.", no_args_is_help=True)
    for command, function in (
        ("list", listing),
        ("add", add),
        ("find", find),
        ("import", import_file),
        ("export", export),
        ("imports", imports),
        ("undo", undo),
        ("edit", edit),
        ("remove", remove),
        ("merge", merge),
        ("end", end),
    ):
        group.command(command)(function)
    app.add_typer(group, name="memory", rich_help_panel="Translation")
