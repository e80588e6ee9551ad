"""Glossaries from the command line."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Json, out, print_json, service, stop, tell
from hawthorn.cli.translation.shared import called, imported, say_file_imported, say_imports
from hawthorn.client import Client, every

GlossaryName = Annotated[str, typer.Argument(help="Its name, or the start of it.", metavar="GLOSSARY")]
Terms = Annotated[
    list[str],
    typer.Argument(
        help="What it is called: fr=gardien; fr~veilleur may be used as well; fr!garde is not to be used.",
        metavar="TERM…",
    ),
]
Note = Annotated[str, typer.Option(help="What it is.")]
_STATUS = {"=": "preferred", "~": "admitted", "!": "deprecated"}
_SIGN = {status: sign for sign, status in _STATUS.items()}


def _one(hawthorn: Client, name: str) -> wire.glossaries.Glossary:
    have = list(every(hawthorn.glossaries))
    return called(name, have, "cli.glossaries.none", "cli.glossaries.means", "cli.glossaries.none_is")


def _terms(given: list[str]) -> list[dict[str, str]]:
    out_of: list[dict[str, str]] = []
    for one in given:
        sign = next((c for c in one if c in _STATUS), "")
        locale, _, text = one.partition(sign) if sign else ("", "", "")
        if not locale or not text.strip():
            stop("cli.glossaries.is_no_term", one=one)
        out_of.append({"locale": locale, "text": text, "status": _STATUS[sign]})
    return out_of


def listing(as_json: Json = False) -> None:
    """The glossaries, with how much is in each.

    Example: hawthorn glossary list
    """
    with service() as hawthorn:
        found = list(every(hawthorn.glossaries))
    if as_json:
        print_json(found)
        return
    if not found:
        tell("cli.glossaries.there_are_none")
        return
    made = drawing.table("name", "concepts", "note")
    for one in found:
        made.add_row(escape(one.name), str(one.concepts), escape(one.note))
    out.print(made)


def add(
    name: Annotated[str, typer.Argument(help="What to call it.")],
    note: Annotated[str, typer.Option(help="What it is for.")] = "",
    as_json: Json = False,
) -> None:
    """Add a glossary.

    Example: hawthorn glossary add "The museum's words"
    """
    with service() as hawthorn:
        made = hawthorn.add_glossary(name, note=note)
    if as_json:
        print_json(made)
    else:
        tell("cli.glossaries.added", name=made.name)


def find(
    name: GlossaryName,
    words: Annotated[str, typer.Argument(help="Words in a term, in any language.")] = "",
    locale: Annotated[str, typer.Option(help="Only what is called something in it.", metavar="LOCALE")] = "",
    limit: Annotated[int, typer.Option(min=1, max=500, help="How many.")] = 50,
    as_json: Json = False,
) -> None:
    """The concepts of a glossary, with what each is called.

    Example: hawthorn glossary find "The museum's words" keeper
    """
    with service() as hawthorn:
        found = hawthorn.glossary_concepts(_one(hawthorn, name).id, words=words, locale=locale, limit=limit)
    if as_json:
        print_json(found)
        return
    made = drawing.table("number", "terms", "note")
    for one in found.items:
        told = "  ".join(f"[dim]{t.locale}{_SIGN[t.status]}[/dim]{escape(t.text)}" for t in one.terms)
        made.add_row(str(one.id), told, escape(one.note))
    out.print(made)
    if found.next:
        tell("cli.shared.there_is_more", limit=min(limit * 2, 500))


def put(name: GlossaryName, terms: Terms, note: Note = "", as_json: Json = False) -> None:
    """Add a concept to a glossary.

    Example: hawthorn glossary put "The museum's words" en=keeper fr=gardien fr!veilleur --note "Who tends a light."
    """
    with service() as hawthorn:
        made = hawthorn.add_concept(_one(hawthorn, name).id, _terms(terms), note=note)
    if as_json:
        print_json(made)
    else:
        tell("cli.glossaries.put", number=made.id)


def edit(
    name: GlossaryName,
    number: Annotated[int, typer.Argument(help="The number of the concept.", metavar="NUMBER")],
    terms: Terms,
    note: Note = "",
    as_json: Json = False,
) -> None:
    """Write a concept of a glossary anew, all of it.

    Example: hawthorn glossary edit "The museum's words" 3 en=keeper fr=gardien
    """
    with service() as hawthorn:
        made = hawthorn.write_concept(_one(hawthorn, name).id, number, _terms(terms), note=note)
    if as_json:
        print_json(made)
    else:
        tell("cli.glossaries.edited", number=made.id)


def remove(
    name: GlossaryName,
    numbers: Annotated[list[int], typer.Argument(help="The numbers of the concepts.", metavar="NUMBER…")],
) -> None:
    """Remove concepts of a glossary.

    Example: hawthorn glossary remove "The museum's words" 3 4
    """
    with service() as hawthorn:
        hawthorn.remove_concepts(_one(hawthorn, name).id, numbers)
    tell("cli.glossaries.removed", count=len(numbers))


def import_file(
    name: GlossaryName,
    path: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="The TBX file.")],
    as_json: Json = False,
) -> None:
    """Import a TBX file into a glossary; what cannot be used is named.

    Example: hawthorn glossary import "The museum's words" words.tbx
    """
    with service() as hawthorn:
        id = _one(hawthorn, name).id
        found = imported(
            path,
            lambda: hawthorn.import_glossary(id, path, name=path.name),
            lambda: hawthorn.glossary_imports(id, limit=1),
        )
    if as_json:
        print_json(found)
    else:
        say_file_imported(found, "hawthorn glossary undo GLOSSARY")


def imports(name: GlossaryName, as_json: Json = False) -> None:
    """The imports into a glossary, the newest first.

    Example: hawthorn glossary imports "The museum's words"
    """
    with service() as hawthorn:
        id = _one(hawthorn, name).id
        found = list(every(lambda **page: hawthorn.glossary_imports(id, **page)))
    if as_json:
        print_json(found)
    else:
        say_imports(found)


def export(
    name: GlossaryName,
    file: Annotated[Path, typer.Option("--file", help="The file to write.")] = Path("hawthorn-glossary.tbx"),
) -> None:
    """Export a glossary as TBX.

    Example: hawthorn glossary export "The museum's words" --file words.tbx
    """
    with service() as hawthorn:
        data = hawthorn.export_glossary(_one(hawthorn, name).id)
    file.write_bytes(data)
    tell("cli.memories.exported", path=file, bytes=len(data))


def undo(
    name: GlossaryName,
    number: Annotated[int, typer.Argument(help="The number of the import.", metavar="NUMBER")],
) -> None:
    """Undo an import: what it brought goes, but for what somebody wrote anew since.

    Example: hawthorn glossary undo "The museum's words" 2
    """
    with service() as hawthorn:
        one = _one(hawthorn, name)
        while hawthorn.undo_glossary_import(one.id, number).more:
            pass
    tell("cli.imports.undone", number=number, name=one.name)


def merge(
    name: GlossaryName,
    other: Annotated[
        str, typer.Argument(help="The glossary that is put into it, and ends.", metavar="OTHER")
    ],
) -> None:
    """Put all of another glossary into one; what both call the same is there once.

    Example: hawthorn glossary merge "The museum's words" "Words of boats"
    """
    with service() as hawthorn:
        gone = _one(hawthorn, other)
        found = hawthorn.merge_glossaries(_one(hawthorn, name).id, gone.id)
    tell("cli.glossaries.merged", name=found.name, other=gone.name, concepts=found.concepts)


def end(name: GlossaryName) -> None:
    """Remove a glossary with all that is in it.

    Example: hawthorn glossary end "The museum's words"
    """
    with service() as hawthorn:
        one = _one(hawthorn, name)
        hawthorn.end_glossary(one.id)
    tell("cli.glossaries.ended", name=one.name)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(help="Glossaries: what things are called in which language.", no_args_is_help=True)
    for command, function in (
        ("list", listing),
        ("add", add),
        ("find", find),
        ("put", put),
        ("edit", edit),
        ("remove", remove),
        ("import", import_file),
        ("imports", imports),
        ("export", export),
        ("undo", undo),
        ("merge", merge),
        ("end", end),
    ):
        group.command(command)(function)
    app.add_typer(group, name="glossary", rich_help_panel="Translation")
