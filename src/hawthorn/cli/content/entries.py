"""Writing and finding from the command line."""

from __future__ import annotations

import json
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Annotated, Any

import typer
from rich.markup import escape
from rich.progress import DownloadColumn, Progress, TextColumn

from hawthorn import wire
from hawthorn.cli import drawing, lastread, sheets
from hawthorn.cli.context import (
    EXIT,
    At,
    Fold,
    Json,
    Locale,
    Named,
    OnStrand,
    Zone,
    entry_named,
    err,
    instant,
    marked,
    note_error,
    or_none,
    out,
    plain,
    print_json,
    resolve,
    service,
    stop,
    tell,
)
from hawthorn.cli.sheets import Sheet
from hawthorn.cli.values import lines
from hawthorn.client import Client, Refusal, every
from hawthorn.core.messages import said

Set = Annotated[
    list[str] | None,
    typer.Option(
        "--set",
        metavar="FIELD=VALUE",
        help="A field's value; @file reads it from a file, JSON is taken as such.",
    ),
]


def start(
    type: Annotated[str, typer.Argument(help="The content type.")],
    set: Set = None,
    locale: Annotated[
        str, typer.Option("--locale", help="The locale; the first of the house when not given.")
    ] = "",
    note: Annotated[str, typer.Option(help="Why.")] = "",
    as_json: Json = False,
) -> None:
    """Start an entry of a type.

    Example: hawthorn entry start notice --set title="Winter opening hours" --set body=@winter.html
    """
    with service() as hawthorn:
        fields = values(hawthorn, type, set or [])
        entry = hawthorn.start(type, fields, locale=locale or first_locale(hawthorn), note=note)
    shown(entry, as_json)


def first_locale(hawthorn: Client) -> str:
    """The locale that is taken where none is asked for."""
    return hawthorn.setup().locales[0].tag


def save(
    name: Named,
    set: Set = None,
    locale: Locale = "",
    note: Annotated[str, typer.Option(help="Why.")] = "",
    etag: Annotated[
        str, typer.Option(help="What it is based on; what was last read here when not given.")
    ] = "",
    force: Annotated[
        bool, typer.Option("--force", help="Save over whatever is there, whoever wrote it.")
    ] = False,
    take: Annotated[
        str,
        typer.Option(
            help="When somebody changed the same place: ours (yours), theirs or both; asks when not given."
        ),
    ] = "",
    as_json: Json = False,
) -> None:
    """Save fields of an entry as a new revision, based on what was last read of it here: what others changed since merges.

    Show the entry first, or say --etag or --force.

    Example: hawthorn show "Winter hours" && hawthorn save "Winter hours" --set title="Winter opening hours"
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        fields = values(hawthorn, entry.type, set or [])
        if not fields:
            stop("cli.shared.nothing_to_save")
        base = "*" if force else etag or lastread.etag(entry.id, entry.locale, entry.strand)
        if not base and entry.exists:
            stop(
                "cli.entries.not_read_before",
                title=entry.title or said("common.untitled"),
                id=entry.id,
                locale=entry.locale,
            )
        try:
            result = hawthorn.save(entry.id, entry.locale, fields, etag=base or entry.etag, note=note)
        except Refusal as refusal:
            if refusal.slug != "conflict":
                raise
            result = settled(hawthorn, entry, refusal, take)
    if as_json:
        lastread.note(entry.id, entry.locale, entry.strand, result.entry.etag)
        print_json(result)
        return
    for other in result.merged_with:
        tell("cli.entries.merged_with_revision_by", number=other.number, author=other.author)
    if not result.changed:
        tell("cli.shared.nothing_changed")
    shown(result.entry, False)


def settled(hawthorn: Client, entry: wire.views.Entry, refusal: Refusal, take: str) -> wire.views.SaveResult:
    """Settle a conflict as asked for, or end the command showing both texts; what was typed is kept."""
    if take not in ("", "ours", "theirs", "both"):
        stop("cli.entries.take_is_wrong", take=take)
    decisions: dict[str, dict[str, Any]] = {}
    for conflict in refusal.conflicts:
        note_error("cli.entries.conflict", label=conflict.label, why=conflict.why)
        note_error("cli.entries.both_sides", ours=conflict.ours, theirs=conflict.theirs)
        choice = take
        if not choice and sys.stdin.isatty():
            choice = typer.prompt(plain("cli.entries.which_to_take"), default="theirs")
        if not choice:
            note_error("cli.entries.nothing_is_lost", typed=refusal.typed)
            note_error("cli.entries.save_again")
            raise typer.Exit(EXIT["conflict"])
        decisions[conflict.place] = {"take": choice}
    return hawthorn.settle(
        entry.id,
        entry.locale,
        typed=refusal.typed,
        decisions=decisions,
        etag=str(refusal.problem.fact("etag")),
    )


def values(hawthorn: Client, type: str, given: list[str]) -> dict[str, Any]:
    """Fields from FIELD=VALUE: a reference may be named as entries are named, a file field by its path."""
    kind = next((t for t in hawthorn.setup().types if t.name == type), None)
    specs = {f.name: f for f in kind.fields} if kind else {}
    out_values: dict[str, Any] = {}
    for one in given:
        field, equals, text = one.partition("=")
        if not equals:
            stop("cli.entries.is_not_field_value", one=one)
        spec = specs.get(field)
        if text.startswith("@") and (spec is None or spec.kind != "file"):
            text = _text_of(Path(text[1:]))
        out_values[field] = value_of(hawthorn, spec, text)
    return out_values


def value_of(hawthorn: Client, spec: wire.content.FieldSpec | None, text: str) -> Any:
    """A value as the field's kind takes it."""
    if spec is None or text == "":
        return text or None
    if spec.kind in ("reference", "parent"):
        names = [t.strip() for t in text.split(",")] if spec.many else [text]
        found = [resolve(hawthorn, n) for n in names if n]
        return found if spec.many else found[0]
    if spec.kind == "file" and not text.lstrip().startswith(("{", "[")):
        from hawthorn.cli.media.library import sent

        path = Path(text.removeprefix("@"))
        if not path.is_file():
            stop("cli.entries.there_is_no_file", path=path, name=spec.name)
        value = sent(hawthorn, path).model_dump(exclude_none=True)
        return [value] if spec.many else value
    if spec.kind == "tags" or spec.many:
        return _json(spec, text) if text.lstrip().startswith("[") else [t.strip() for t in text.split(",")]
    if spec.kind in ("blocks", "group", "place", "json", "query", "file"):
        return _json(spec, text)
    if spec.kind in ("instant", "link"):
        return _json(spec, text) if text.lstrip().startswith(("{", "[", '"')) else text
    if spec.kind in ("number", "boolean"):
        try:
            return json.loads({"yes": "true", "no": "false"}.get(text, text))
        except ValueError:
            return text
    return text


def _json(spec: wire.content.FieldSpec, text: str) -> Any:
    try:
        return json.loads(text)
    except ValueError as error:
        stop("cli.entries.takes_json", name=spec.name, error=error)


def _text_of(path: Path) -> str:
    try:
        return path.read_text("utf-8")
    except OSError as error:
        stop("cli.entries.cannot_be_read", path=path, error=error.strerror or error)
    except UnicodeDecodeError:
        stop("cli.entries.no_utf8", path=path)


def show(
    name: Named, locale: Locale = "", at: At = "", zone: Zone = "", fold: Fold = "", as_json: Json = False
) -> None:
    """Show an entry: its values, where it stands, what is missing and what may be done; or as it was, or will be, at another instant.

    Example: hawthorn show "Winter opening hours" --locale fr --at 2027-11-30T09:00
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        if at:
            entry = hawthorn.entry(entry.id, entry.locale, at=instant(at, zone, fold))
        specs = [] if as_json else fields_of(hawthorn, entry.type)
    shown(entry, as_json, whole=True, specs=specs)


def fields_of(hawthorn: Client, type: str) -> Sequence[wire.content.FieldSpec]:
    """The fields of a content type."""
    return next((kind.fields for kind in hawthorn.setup().types if kind.name == type), [])


def shown(
    entry: wire.views.Entry,
    as_json: bool,
    whole: bool = False,
    specs: Sequence[wire.content.FieldSpec] = (),
) -> None:
    """Print an entry, and keep what it was: the next save is based on that."""
    if not entry.at:
        lastread.note(entry.id, entry.locale, entry.strand, entry.etag)
    if as_json:
        print_json(entry)
        return
    number = entry.revision.number if entry.revision else 0
    tell(
        "cli.entries.entry",
        title=entry.title or said("common.untitled"),
        type=entry.type_label,
        locale=entry.locale,
        revision=said("cli.entries.revision" if number else "cli.entries.no_edition", number=number),
    )
    out.print(f"  {drawing.rail(entry.rail, entry.planned)}")
    if entry.missing:
        tell("cli.entries.incomplete", missing=[m.label for m in entry.missing])
    if entry.review and entry.review.outcome == "sent back":
        tell("cli.entries.sent_back_by", decided_by=entry.review.decided_by, reason=entry.review.reason)
    for warning in entry.warnings:
        tell("cli.shared.note", warning=warning)
    if whole:
        for line in lines(
            specs, entry.fields, lambda id: entry.references[id].title if id in entry.references else id
        ):
            out.print(line)
        may = [drawing.word("act", a.act) for a in entry.acts if a.allowed]
        tell("cli.entries.you_may", acts=or_none("cli.entries.only_read", may))
        if entry.path:
            tell("cli.entries.out_at", path=entry.path)
    tell("cli.entries.id_and_etag", id=entry.id, etag=entry.etag)


def find(
    words: Annotated[list[str] | None, typer.Argument(help="Words of the text; “…” side by side.")] = None,
    type: Annotated[str, typer.Option(help="Of this content type.")] = "",
    locale: Locale = "",
    stage: Annotated[str, typer.Option(help="Stage at this stage; draft means nowhere else.")] = "",
    person: Annotated[str, typer.Option(help="Last changed by this person.")] = "",
    topic: Annotated[str, typer.Option(help="Referring to this entry or one below it.")] = "",
    tag: Annotated[str, typer.Option(help="With this tag.")] = "",
    since: Annotated[str, typer.Option(help="Changed on or after this date or instant.")] = "",
    until: Annotated[str, typer.Option(help="Changed before this date or instant.")] = "",
    validity: Annotated[str, typer.Option(help="ends, endless or over.")] = "",
    archived: Annotated[str, typer.Option(help="only what is in the archive, or with that as well.")] = "",
    at: At = "",
    zone: Zone = "",
    fold: Fold = "",
    incomplete: Annotated[bool, typer.Option("--incomplete", help="Something required is missing.")] = False,
    behind: Annotated[bool, typer.Option("--behind", help="Out or in review in an older revision.")] = False,
    planned: Annotated[bool, typer.Option("--planned", help="With something planned.")] = False,
    sort: Annotated[str, typer.Option(help="changed, title, or backwards with a - before it.")] = "",
    counted: Annotated[bool, typer.Option("--count", help="Only how many there are.")] = False,
    kept: Annotated[str, typer.Option("--list", help="As this kept list asks.")] = "",
    keep_as: Annotated[str, typer.Option("--keep-as", help="Keep what is asked for as a list.")] = "",
    share: Annotated[bool, typer.Option("--share", help="With --keep-as: for everybody.")] = False,
    sheet: Sheet = None,
    field: Annotated[
        list[str] | None, typer.Option(help="With --sheet: this field; may be given several times.")
    ] = None,
    limit: Annotated[int, typer.Option(help="How many.")] = 50,
    as_json: Json = False,
) -> None:
    """Find entries by words in their text and by what is true of them; with --sheet, as a table for spreadsheets, which `hawthorn import` reads again.

    Example: hawthorn find harbour "“pilot boat”" --type notice --behind --since 2027-01-01

    Example: hawthorn find --type talk --sheet talks.xlsx
    """
    asked: dict[str, Any] = {
        "type": type,
        "locale": locale,
        "stage": stage,
        "person": person,
        "words": " ".join(words or []),
        "tag": tag,
        "since": since,
        "until": until,
        "validity": validity,
        "archived": archived,
        "at": instant(at, zone, fold),
        "incomplete": incomplete,
        "behind": behind,
        "planned": planned,
        "sort": sort,
    }
    with service() as hawthorn:
        if topic:
            asked["topic"] = resolve(hawthorn, topic)
        if kept:
            one = next((x for x in every(hawthorn.lists) if x.name.casefold() == kept.casefold()), None)
            if one is None:
                stop("cli.entries.no_list_is_called", ends="not-found", kept=kept)
            asked = {**one.query, **{k: v for k, v in asked.items() if v}}
        if keep_as:
            hawthorn.save_list(keep_as, {k: v for k, v in asked.items() if v}, shared=share)
        if sheet is not None:
            _to_sheet(hawthorn, sheet, {k: v for k, v in asked.items() if v}, field or [])
            return
        if counted:
            many = hawthorn.count_entries({k: v for k, v in asked.items() if v})
            if as_json:
                print_json(many)
            else:
                tell("cli.entries.many_more" if many.more else "cli.entries.many", count=many.count)
            return
        page = hawthorn.entries(**asked, limit=limit)
    if as_json:
        print_json(page)
    elif not page.items:
        tell("cli.entries.nothing_fits")
    else:
        out.print(drawing.entries(page.items))
        if page.next:
            tell("cli.shared.there_is_more", limit=limit * 2)


def _to_sheet(hawthorn: Client, file: Path, asked: dict[str, Any], fields: list[str]) -> None:
    """Write a list as a table, which says how many bytes of it have come."""
    format = sheets.format_of(file)
    columns = (TextColumn("{task.description}"), DownloadColumn())
    with Progress(*columns, console=err, transient=True) as bar:
        task = bar.add_task(plain("cli.packages.fetching", name=file.name), total=None)
        hawthorn.entries_sheet(
            file, asked, format=format, fields=fields, told=lambda count: bar.update(task, completed=count)
        )
    tell("cli.entries.in_sheet", file=file)


def compare(
    name: Named,
    before: Annotated[
        str,
        typer.Option(help="A revision's number, a stage, draft, strand:NAME; fr@draft for another locale."),
    ] = "release",
    after: Annotated[
        str,
        typer.Option(help="A revision's number, a stage, draft, strand:NAME; fr@draft for another locale."),
    ] = "draft",
    locale: Locale = "",
    as_json: Json = False,
) -> None:
    """Compare two revisions, stages or strands: what is gone as \\[-…-], what is new as {+…+}, what an assistant
    wrote and nobody has signed off as ⟨…⟩.

    Example: hawthorn compare "Winter hours" --before release --after draft
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        found = hawthorn.compare(entry.id, entry.locale, before=before, after=after)
    if as_json:
        print_json(found)
        return
    tell("cli.entries.compared", before=found.before.label, after=found.after.label)
    if not found.fields:
        tell("cli.entries.they_are_the_same")
    for field in found.fields:
        out.print(f"[dim]{escape(field.label)}[/dim]")
        for part in field.parts:
            if part.how != "same":
                moved = marked("cli.entries.moved") if part.how == "moved" else ""
                out.print("  ", moved, drawing.runs(part.runs), sep="")


_ORIGINS = {"start": "cli.entries.started", "typed": "cli.entries.typed", "merge": "cli.entries.merged"}


Shared = Annotated[bool, typer.Option("--shared", help="Of what all languages share.")]


def history(name: Named, locale: Locale = "", shared: Shared = False, as_json: Json = False) -> None:
    """The revisions of an entry and what happened to it, newest first.

    Example: hawthorn history /en/visit --json
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        found = hawthorn.history(entry.id, "*" if shared else entry.locale)
    if as_json:
        print_json(found)
        return
    made = drawing.table("revision", "when", "by", "note")
    for revision in found.revisions:
        code = _ORIGINS.get(revision.origin)
        note = escape(revision.note) or (marked(code) if code else "")
        made.add_row(str(revision.number), drawing.when(revision.at), escape(revision.author), note)
    out.print(made)
    made = drawing.table("event", "in", "when", "by", "note")
    for event in found.events:
        note = event.what.get("note") or event.what.get("name") or ""
        where = ", ".join(event.locales)
        made.add_row(event.kind, where, drawing.when(event.at), escape(event.by), escape(str(note)))
    out.print(made)


def restore(
    name: Named,
    revision: Annotated[int, typer.Argument(help="The number of the revision.")],
    locale: Locale = "",
    shared: Shared = False,
    strand: OnStrand = "draft",
    as_json: Json = False,
) -> None:
    """Bring an older revision back as a new one; nothing is erased.

    Example: hawthorn entry restore "Winter opening hours" 3
    """
    with service() as hawthorn:
        entry = entry_named(hawthorn, name, locale)
        result = hawthorn.restore(entry.id, "*" if shared else entry.locale, revision, strand=strand)
    shown(result.entry, as_json)


def install(app: typer.Typer) -> None:
    """Add these commands, and those on entries that are kept elsewhere."""
    from hawthorn.cli.content.templates import ENTRY
    from hawthorn.cli.delivery.limiting import limit

    panel = "Writing and finding"
    group = typer.Typer(help="Start, save and show entries.", no_args_is_help=True)
    own: dict[str, Callable[..., None]] = {"start": start, "save": save, "show": show, "restore": restore}
    for name, function in (own | ENTRY | {"limit": limit}).items():
        group.command(name)(function)
    app.add_typer(group, name="entry", rich_help_panel=panel)
    app.command(rich_help_panel=panel)(find)
    app.command(rich_help_panel=panel)(show)
    app.command(rich_help_panel=panel)(save)
    app.command(rich_help_panel=panel)(compare)
    app.command(rich_help_panel=panel)(history)
