"""Receipts: fetched from a house, and verified anywhere, without its records."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn.cli import drawing
from hawthorn.cli.context import EXIT, Json, end_with, note_error, out, print_json, service, stop, tell
from hawthorn.cli.release.named import Named, dispatch_named

_SHOWN = 30
"""So many moves are shown; all are looked at."""


def fetch(
    name: Named,
    file: Annotated[
        Path | None,
        typer.Option("--file", help="The file to write; “receipt-” and its id where none is given."),
    ] = None,
) -> None:
    """Fetch a receipt for what a dispatch brought out, signed with the key of the house.

    Example: hawthorn receipt fetch "Spring season" --file spring.json
    """
    with service() as hawthorn:
        id = dispatch_named(hawthorn, name)
        found = hawthorn.receipt(id)
    goal = file or Path(f"receipt-{id}.json")
    goal.write_text(found.model_dump_json(indent=1) + "\n", "utf-8")
    tell("cli.receipts.written", file=goal)


def key(as_json: Json = False) -> None:
    """Print the public key of the house, to verify its receipts with; give it to others by a way that they trust.

    Example: hawthorn receipt key --json
    """
    with service() as hawthorn:
        found = hawthorn.receipt_key()
    if as_json:
        print_json(found)
        return
    tell("cli.receipts.key", x=found.x, kid=found.kid)


def verify(
    file: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="The receipt.", metavar="FILE")],
    key: Annotated[
        str, typer.Option(help="The public key of the house: a file with its JWK, or its “x”.", metavar="KEY")
    ],
    as_json: Json = False,
) -> None:
    """Verify a receipt against the public key of the house that gave it: that it is what was signed, and that it hangs together. Needs neither the
    records nor a service.

    Example: hawthorn verify receipt.json --key house-key.json
    """
    from hawthorn.core.errors import BadFile
    from hawthorn.core.exchange import receipt, signed
    from hawthorn.messages import WORDS

    try:
        payload = signed.opened(_json(file), _key(key), receipt.KIND)
        found = receipt.read(payload)
    except BadFile as error:
        end_with(error, "bad-file")
    wrong = [WORDS.text(one) for one in receipt.wrong(found)]
    if as_json:
        print_json({"receipt": json.loads(payload), "wrong": wrong})
    else:
        _say(found)
        for one in wrong:
            note_error("cli.receipts.wrong", what=one)
    if wrong:
        raise typer.Exit(EXIT["bad-file"])
    if not as_json:
        tell("cli.receipts.holds", count=len(found.moves))


def _say(found: Any) -> None:
    tell(
        "cli.receipts.went",
        name=found.name or found.dispatch,
        at=found.went,
        by=found.by,
        seq=found.event.seq,
        house=found.house,
    )
    made = drawing.table("title", "locale", "stage", "before", "after", "signed")
    for one in found.moves[:_SHOWN]:
        signed = [f"{s.name} {s.at[:16]}" for s in one.signed] + [
            f"{o.by}: {o.reason}" for o in one.overridden
        ]
        made.add_row(
            escape(one.title),
            one.locale,
            one.stage,
            str(one.before.revision) if one.before else "–",
            str(one.after.revision) if one.after else "–",
            escape(", ".join(signed)),
        )
    out.print(made)
    if len(found.moves) > _SHOWN:
        tell("cli.receipts.more", count=len(found.moves) - _SHOWN)


def _key(text: str) -> dict[str, Any]:
    path = Path(text)
    if path.is_file():
        found = _json(path)
        return found if isinstance(found, dict) else {}
    return {"kty": "OKP", "crv": "Ed25519", "x": text}


def _json(path: Path) -> Any:
    try:
        return json.loads(path.read_text("utf-8"))
    except (OSError, ValueError) as error:
        stop("cli.receipts.unreadable", ends="bad-file", file=path, error=error)


def install(app: typer.Typer) -> None:
    """Add these commands."""
    panel = "In and out"
    app.command("verify", rich_help_panel=panel)(verify)
    group = typer.Typer(help="Receipts for what went out, signed by the house.", no_args_is_help=True)
    group.command("fetch")(fetch)
    group.command("key")(key)
    app.add_typer(group, name="receipt", rich_help_panel=panel)
