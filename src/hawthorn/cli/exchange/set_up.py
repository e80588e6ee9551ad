"""Set-up as files: a folder with one JSON file for each thing, compared with what is there, and put in place."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated, Any

import typer
from slugify import slugify

from hawthorn import wire
from hawthorn.cli.context import EXIT, Json, Yes, plain, print_json, service, stop, tell

_HEAD = "setup.json"
_WHOLE = ("locales", "choices", "crops", "sites")
"""The parts that stand in an order: each is one file."""
_EACH = {"field_sets": "field-sets", "types": "types", "roles": "roles", "workflows": "workflows", "bureaus": "bureaus"}  # fmt: skip
"""The parts with a file for each thing, in a folder."""

Folder = Annotated[Path, typer.Argument(help="The folder with the files.", metavar="FOLDER")]
Part = Annotated[
    list[str] | None,
    typer.Option(
        help="Only this part: locales, field_sets, types, roles, workflows, choices, crops, sites or bureaus; may be given several times."
    ),
]


def export(folder: Folder, part: Part = None) -> None:
    """Write what this house is set up with as files, to be kept, compared and carried elsewhere. No secret is among them.

    Example: hawthorn setup export our-setup
    """
    with service() as hawthorn:
        document = hawthorn.setup_document(part or []).model_dump(exclude_none=True)
    files = dict(_files(document))
    for path, value in files.items():
        at = folder / path
        at.parent.mkdir(parents=True, exist_ok=True)
        at.write_text(json.dumps(value, ensure_ascii=False, indent=2) + "\n", "utf-8")
    gone = [at for at in _there(folder, document) if at.relative_to(folder).as_posix() not in files]
    for at in gone:
        at.unlink()
    tell("cli.set_up.written", count=len(files) - 1, folder=folder)
    if gone:
        tell("cli.set_up.gone", names=[at.relative_to(folder).as_posix() for at in gone])


def diff(folder: Folder, as_json: Json = False) -> None:
    """Say what the files would change here, what that would do to what is there, and what is in the way; nothing is done.

    Example: hawthorn setup diff our-setup
    """
    document = _read(folder)
    with service() as hawthorn:
        found = hawthorn.check_setup(document)
    if as_json:
        print_json(found)
    else:
        _say(found.items)
        _sum_up(found.items, "cli.set_up.would_change")
    if _in_the_way(found.items):
        raise typer.Exit(EXIT["in-the-way"])


def apply(
    folder: Folder,
    yes: Yes = False,
    as_json: Json = False,
) -> None:
    """Put what the files say in place, all of it or nothing, after saying what that does. What they do not name stays.

    Example: hawthorn setup apply our-setup
    """
    document = _read(folder)
    with service() as hawthorn:
        if not yes:
            found = hawthorn.check_setup(document)
            _say(found.items)
            if _in_the_way(found.items):
                stop("cli.set_up.in_the_way", ends="in-the-way")
            if not _changing(found.items):
                tell("cli.set_up.same")
                return
            if not typer.confirm(plain("cli.set_up.sure", count=len(_changing(found.items)))):
                raise typer.Exit(1)
        done = hawthorn.apply_setup(document)
    if as_json:
        print_json(done)
        return
    if yes:
        _say(done.items)
    _sum_up(done.items, "cli.set_up.changed")


def _files(document: dict[str, Any]) -> Iterator[tuple[str, Any]]:
    yield _HEAD, {"version": document["version"]}
    for part in _WHOLE:
        if part in document:
            yield f"{part}.json", document[part]
    for part, folder in _EACH.items():
        taken: set[str] = set()
        for one in document.get(part, []):
            base = name = slugify(one["name"], separator="_" if "_" in one["name"] else "-") or "unnamed"
            while name in taken:
                name = f"{base}-{sum(t.startswith(base) for t in taken) + 1}"
            taken.add(name)
            yield f"{folder}/{name}.json", one


def _there(folder: Path, document: dict[str, Any]) -> list[Path]:
    """The files of the folders that are written anew."""
    return [
        at
        for part, name in _EACH.items()
        if part in document
        for at in sorted((folder / name).glob("*.json"))
    ]


def _read(folder: Path) -> dict[str, Any]:
    """The document that the files of a folder make."""
    head = folder / _HEAD
    if not head.is_file():
        stop("cli.set_up.no_setup", ends="not-found", folder=folder, head=_HEAD)
    document: dict[str, Any] = {"version": _json(head).get("version", 0)}
    for part in _WHOLE:
        if (at := folder / f"{part}.json").is_file():
            document[part] = _json(at)
    for part, name in _EACH.items():
        if (folder / name).is_dir():
            document[part] = [_json(at) for at in sorted((folder / name).glob("*.json"))]
    return document


def _json(at: Path) -> Any:
    try:
        return json.loads(at.read_text("utf-8"))
    except (OSError, ValueError) as error:
        stop("cli.set_up.unreadable", ends="bad-file", file=at, error=error)


def _changing(items: list[wire.exchange.SetupDifference]) -> list[wire.exchange.SetupDifference]:
    return [one for one in items if one.how in ("added", "changed")]


def _in_the_way(items: list[wire.exchange.SetupDifference]) -> bool:
    return any(one.how == "in the way" for one in items)


def _say(items: list[wire.exchange.SetupDifference]) -> None:
    """Each difference, with its members, what it does, and what is in its way."""
    for one in items:
        tell(f"cli.set_up.how_{one.how.replace(' ', '_')}", part=one.part, name=one.name)
        for member in one.members if one.how == "changed" else []:
            tell(
                "cli.set_up.member",
                path=member.path,
                before=_short(member.before),
                after=_short(member.after),
            )
        for effect in one.effects:
            tell("cli.set_up.effect", effect=effect)
        if one.why:
            tell("cli.set_up.why", why=one.why)


def _short(value: Any) -> str:
    text = "–" if value in (None, "", [], {}) else json.dumps(value, ensure_ascii=False)
    return text if len(text) <= 80 else text[:79] + "…"


def _sum_up(items: list[wire.exchange.SetupDifference], code: str) -> None:
    if not _changing(items) and not _in_the_way(items):
        tell("cli.set_up.same")
    elif _in_the_way(items):
        tell("cli.set_up.some_in_the_way")
    else:
        tell(code, count=len(_changing(items)))


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(
        help="Set-up as files: types, workflows, roles, sites and the like, carried from one house to another.",
        no_args_is_help=True,
    )
    group.command("export")(export)
    group.command("diff")(diff)
    group.command("apply")(apply)
    app.add_typer(group, name="setup", rich_help_panel="Set-up")
