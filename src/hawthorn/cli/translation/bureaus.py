"""The bureaus that translate for a house, from the command line."""

from __future__ import annotations

import sys
from collections.abc import Mapping
from typing import Annotated, Any

import typer
from rich.markup import escape

from hawthorn import wire
from hawthorn.cli import drawing
from hawthorn.cli.context import Json, out, plain, print_json, service, stop, tell
from hawthorn.cli.translation.shared import called
from hawthorn.client import Client, every
from hawthorn.core.translation.rates import KINDS

BureauName = Annotated[str, typer.Argument(help="Its name, or the start of it.", metavar="BUREAU")]
Codes = Annotated[
    list[str] | None,
    typer.Option("--code", help="What it calls a locale, as fr=fr-FR; may be given several times."),
]
Key = Annotated[
    str | None,
    typer.Option(help="What is sent with each call as a bearer token; - reads it from the standard input."),
]
Rate = Annotated[
    str | None,
    typer.Option("--rate", help="What it asks for a word, with the currency: 0.14EUR.", metavar="AMOUNT"),
]
RateInto = Annotated[
    list[str] | None,
    typer.Option(
        "--rate-into",
        help="The same for a locale where that differs, as ja=0.19; may be given several times.",
    ),
]
Share = Annotated[
    list[str] | None,
    typer.Option(
        help="Which share of it for words that are known, as exact=0.1; may be given several times. Kinds: "
        + ", ".join(KINDS)
        + "."
    ),
]

Untested = Annotated[bool, typer.Option("--untested", help="Do not ask it what it offers.")]


def listing(as_json: Json = False) -> None:
    """The bureaus that take jobs."""
    with service() as hawthorn:
        found = hawthorn.bureaus()
    if as_json:
        print_json(found)
    elif not found.items:
        tell("cli.bureaus.there_is_no_bureau_yet")
    else:
        _table(found.items)


def _table(some: list[wire.bureaus.Bureau]) -> None:
    made = drawing.table("name", "kind", "address", "key", "codes", "offers", "rates", "jobs", "open")
    for one in some:
        codes = ", ".join(f"{ours}={theirs}" for ours, theirs in one.codes.items())
        key = plain("cli.values.yes" if one.has_key else "cli.values.no")
        asks = f"{one.rates.word} {one.rates.currency}" if one.rates.currency else ""
        into = ", ".join(dict.fromkeys(pair.target for pair in one.pairs))
        facts = (one.name, one.kind, one.url, key, codes, into, asks, str(one.jobs), str(one.open))
        made.add_row(*(escape(fact) for fact in facts))
    out.print(made)


def add(
    name: Annotated[str, typer.Argument(help="What it is called.")],
    url: Annotated[
        str, typer.Argument(help="Where it is called; for a folder, its name.", metavar="ADDRESS")
    ],
    kind: Annotated[str, typer.Option(help="How it is reached: http, or folder for files.")] = "http",
    code: Codes = None,
    key: Key = None,
    rate: Rate = None,
    rate_into: RateInto = None,
    share: Share = None,
    untested: Untested = False,
    as_json: Json = False,
) -> None:
    """Add a bureau, or bring one back that ended. It is asked what it offers first.

    Example: hawthorn bureau add "Saltmarsh Translations" https://saltmarsh.example/jobs --code fr=fr-FR --key -
    """
    with service() as hawthorn:
        asked = _rates({}, rate, rate_into, share)
        made = hawthorn.add_bureau(
            name,
            url,
            kind=kind,
            codes=_pairs(code),
            key=_key(key) or "",
            rates=asked,
            untested=untested,
        )
        if as_json:
            print_json(made)
            return
        _say(made.bureau)
        if made.secret:
            tell("cli.bureaus.secret", secret=made.secret)


def change(
    name: BureauName,
    new_name: Annotated[str | None, typer.Option("--name", help="What it is called from now on.")] = None,
    url: Annotated[str | None, typer.Option("--address", help="Where it takes jobs from now on.")] = None,
    code: Codes = None,
    key: Key = None,
    rate: Rate = None,
    rate_into: RateInto = None,
    share: Share = None,
    untested: Untested = False,
    as_json: Json = False,
) -> None:
    """Change a bureau; what is not given stays. A code without a right side (--code fr=) goes.

    Example: hawthorn bureau set Saltmarsh --address https://new.saltmarsh.example
    """
    with service() as hawthorn:
        one = _one(hawthorn, name)
        given: dict[str, object] = {"name": new_name, "url": url, "key": _key(key)}
        if code:
            given["codes"] = _with(one.codes, code)
        if rate or rate_into or share:
            given["rates"] = _rates(one.rates.model_dump(), rate, rate_into, share)
        given = {what: value for what, value in given.items() if value is not None}
        made = hawthorn.change_bureau(one.id, {**given, "untested": untested})
        if as_json:
            print_json(made)
        else:
            _say(made)


def end(name: BureauName) -> None:
    """End a bureau that has no open jobs; what it did stays under its name.

    Example: hawthorn bureau end Saltmarsh
    """
    with service() as hawthorn:
        one = _one(hawthorn, name)
        hawthorn.end_bureau(one.id)
    tell("cli.bureaus.gets_no_more_jobs", name=one.name)


def attempt(name: BureauName, as_json: Json = False) -> None:
    """Ask a bureau what it offers; no job is sent.

    Example: hawthorn bureau try Saltmarsh
    """
    with service() as hawthorn:
        one = _one(hawthorn, name)
        found = hawthorn.try_bureau(one.id)
    if as_json:
        print_json(found)
    elif found.answers:
        tell("cli.bureaus.answers", name=one.name)
    else:
        tell("cli.bureaus.trouble", name=one.name, trouble=found.trouble)
    if not found.answers:
        raise typer.Exit(1)


def secret(name: BureauName, as_json: Json = False) -> None:
    """Give a bureau another secret to sign with; it is good at once, and shown this once.

    Example: hawthorn bureau secret Saltmarsh
    """
    with service() as hawthorn:
        made = hawthorn.new_bureau_secret(_one(hawthorn, name).id)
    if as_json:
        print_json(made)
    else:
        tell("cli.bureaus.secret", secret=made.secret)


def _say(made: wire.bureaus.Bureau) -> None:
    _table([made])
    for tag, why in made.lacking.items():
        tell("cli.bureaus.lacking", locale=tag, why=why)
    tell("cli.bureaus.sends_it_work", name=repr(made.name))


def _pairs(given: list[str] | None) -> dict[str, str]:
    for one in given or []:
        if "=" not in one:
            stop("cli.bureaus.is_no_code", one=one)
    return dict((part.strip() for part in one.split("=", 1)) for one in given or [])  # type: ignore[misc]


def _with(have: Mapping[str, str], given: list[str] | None) -> dict[str, str]:
    """What is there with what is given; what is given without a right side goes."""
    return {key: value for key, value in {**have, **_pairs(given)}.items() if value}


def _rates(
    have: Mapping[str, Any], rate: str | None, into: list[str] | None, share: list[str] | None
) -> dict[str, Any]:
    out = dict(have)
    if rate is not None:
        out["word"], out["currency"] = rate.strip()[:-3].strip() or "0", rate.strip()[-3:]
    out["locales"] = _with(out.get("locales", {}), into)
    out["shares"] = _with(out.get("shares", {}), share)
    return out


def _key(given: str | None) -> str | None:
    return sys.stdin.readline().strip() if given == "-" else given


def _one(hawthorn: Client, name: str) -> wire.bureaus.Bureau:
    have = list(every(hawthorn.bureaus))
    return called(name, have, "cli.bureaus.none", "cli.bureaus.means", "cli.bureaus.none_is")


def install(app: typer.Typer) -> None:
    """Add these commands."""
    group = typer.Typer(
        help="The bureaus: who translates outside, and where they are reached.", no_args_is_help=True
    )
    group.command("list")(listing)
    group.command("add")(add)
    group.command("set")(change)
    group.command("end")(end)
    group.command("try")(attempt)
    group.command("secret")(secret)
    app.add_typer(group, name="bureau", rich_help_panel="Set-up")
