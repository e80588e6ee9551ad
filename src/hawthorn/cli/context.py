"""What commands share: the client, who is logged in, how to name an entry, and exit codes."""

from __future__ import annotations

import json
import os
import re
import sys
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager, suppress
from functools import cache
from pathlib import Path
from typing import Annotated, Any, NoReturn, TypeVar
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import typer
from pydantic import BaseModel
from rich.console import Console
from rich.markup import escape
from rich.text import Text

from hawthorn import wire
from hawthorn.client import Client, Refusal, Unreachable
from hawthorn.core.errors import HawthornError
from hawthorn.core.messages import Message, said
from hawthorn.messages import WORDS, Spoken, accepted
from hawthorn.wire.problems import Problem

T = TypeVar("T")


class _Out(Console):
    """A console on which sentences flow as they are, and tables fit the width that there is."""

    def print(self, *objects: Any, soft_wrap: bool | None = None, **how: Any) -> None:
        flows = all(isinstance(one, str | Text) for one in objects)
        super().print(*objects, soft_wrap=flows if soft_wrap is None else soft_wrap, **how)


out = _Out(
    highlight=False, emoji=False, width=None if sys.stdout.isatty() or "COLUMNS" in os.environ else 160
)
err = _Out(stderr=True, highlight=False, emoji=False)


class _Marked(Spoken):
    """The words for a terminal, whose texts carry the markup of Rich; facts are kept from being taken for it."""

    def literal(self, fact: str) -> str:
        return escape(fact)


_MARKED = _Marked()


def marked(code: str, /, **facts: Any) -> str:
    """What is said, in words with markup, for a cell of a table."""
    return _MARKED.text(said(code, **facts))


def plain(code: str, /, **facts: Any) -> str:
    """What is said, in words alone."""
    return WORDS.text(said(code, **facts))


def or_none(code: str, items: Sequence[str | Message]) -> list[str | Message]:
    """What is in a list, as a fact; where nothing is, the word for that."""
    return [*items] or [said(code)]


def tell(code: str, /, **facts: Any) -> None:
    """Print what is said."""
    out.print(marked(code, **facts))


def note_error(code: str, /, **facts: Any) -> None:
    """Print more of what is wrong, where errors go."""
    err.print(marked(code, **facts))


EXIT = {
    "wrong use": 2,
    "not-found": 3,
    "refused": 4,
    "not-logged-in": 4,
    "code-needed": 4,
    "invalid": 5,
    "bad-time": 5,
    "bad-file": 5,
    "conflict": 6,
    "stale": 6,
    "gate-unmet": 7,
    "in-the-way": 7,
    "unreachable": 8,
}
"""Exit codes by kind of problem; 1 is anything else."""

_as_json = False
"""Whether the command that runs prints records as JSON, and so its errors as well."""


def _noted(value: bool) -> bool:
    global _as_json
    _as_json = value
    return value


Since = Annotated[str, typer.Option(help="From this day or instant on.")]
Until = Annotated[str, typer.Option(help="Before this day or instant.")]
Json = Annotated[
    bool, typer.Option("--json", help="Print records, and errors, as JSON.", callback=_noted, is_eager=True)
]
Named = Annotated[
    str, typer.Argument(help="An address, the start of an id, or a part of the title.", metavar="ENTRY")
]
OnStrand = Annotated[
    str,
    typer.Option("--strand", help="In this strand, beside the draft or inside a dispatch.", metavar="NAME"),
]
Locale = Annotated[
    str, typer.Option("--locale", help="The locale; the entry's source when not given.", metavar="LOCALE")
]
Locales = Annotated[
    list[str] | None,
    typer.Option(
        "--locale",
        help="The locale; the entry's source when not given. May be given several times; all for all there are.",
        metavar="LOCALE",
    ),
]
Stage = Annotated[str, typer.Option("--stage", help="The stage; the drafts when not given.")]
At = Annotated[
    str,
    typer.Option("--at", help="When: 2027-03-31T09:00 in --zone, a day, or with an offset.", metavar="TIME"),
]
Zone = Annotated[str, typer.Option("--zone", help="The time zone of --at (IANA); yours when not given.")]
Fold = Annotated[str, typer.Option("--fold", help="At a clock change: earlier or later.")]
Yes = Annotated[bool, typer.Option("--yes", "-y", help="Do not ask first.")]
Check = Annotated[bool, typer.Option("--check", help="Only say what it would do, and what is in the way.")]


def session_file() -> Path:
    """Where the session of the command line is kept."""
    base = os.environ.get("XDG_CONFIG_HOME") or str(Path.home() / ".config")
    return Path(base) / "hawthorn" / "session.json"


def saved_session() -> dict[str, str]:
    """The session that `log-in` kept."""
    try:
        found: dict[str, str] = json.loads(session_file().read_text("utf-8"))
        return found
    except (OSError, ValueError):
        return {}


def keep_session(url: str, token: str, language: str) -> None:
    """Keep a session for the next command, with the language of whose it is, readable by its owner alone."""
    path = session_file()
    path.parent.mkdir(parents=True, exist_ok=True)
    path.touch(mode=0o600)
    path.write_text(json.dumps({"url": url, "key": token, "language": language}), "utf-8")


def keep_language(language: str) -> None:
    """Keep the language that whoever is logged in has chosen now, for the next command."""
    kept = saved_session()
    if kept:
        keep_session(kept["url"], kept["key"], language)


def address() -> str:
    """The address of the service."""
    return os.environ.get("HAWTHORN_URL") or saved_session().get("url") or "http://127.0.0.1:8400"


def key() -> str:
    """The key of whoever is logged in: `HAWTHORN_KEY`, else that of the kept session."""
    kept, url = saved_session(), address()
    return os.environ.get("HAWTHORN_KEY") or (kept.get("key", "") if url == kept.get("url", url) else "")


def language() -> str:
    """The language of commands: `HAWTHORN_LANGUAGE`, else what whoever is logged in chose, else that of this machine (POSIX, Internationalization
    Variables); empty for none of ours."""
    local = next((found for name in _LOCALES if (found := os.environ.get(name))), "")
    wanted = (os.environ.get("HAWTHORN_LANGUAGE", ""), saved_session().get("language", ""), local)
    return next((found for one in wanted if (found := accepted(_LANGUAGE.split(one)[0]))), "")


def client() -> Client:
    """A client for whoever is logged in."""
    return Client(address(), key(), language=WORDS.language)


@cache
def zone() -> ZoneInfo | None:
    """The time zone of whoever is logged in; None for that of this machine, where nobody is known."""
    with suppress(Refusal, Unreachable, ZoneInfoNotFoundError, ValueError), client() as found:
        return ZoneInfo(found.me().zone)
    return None


def instant(at: str, zone_name: str = "", fold: str = "") -> str:
    """An instant as programs write it (RFC 3339), from one, or from a wall time or a day in a zone; empty for none."""
    from hawthorn.core import timeline
    from hawthorn.core.errors import BadTime

    if not at or _OFFSET.search(at):
        return at
    own = zone()
    wall = f"{at}T00:00" if len(at) == 10 else at
    try:
        planned = timeline.resolve_wall(wall, zone_name or (own.key if own else "UTC"), fold)
    except BadTime as error:
        end_with(error, "bad-time")
    return timeline.iso(planned.instant)


_LOCALES = ("LC_ALL", "LC_MESSAGES", "LANG")
_LANGUAGE = re.compile("[_.@-]")
_OFFSET = re.compile(r"(Z|[+-]\d\d:?\d\d)$")


@contextmanager
def service() -> Iterator[Client]:
    """A client whose refusals end the command with what to do and a documented exit code."""
    try:
        with client() as found:
            yield found
    except Refusal as refusal:
        fail(refusal.problem)
    except Unreachable as error:
        complain("cli.context.unreachable", url=error.url, why=error.why)
        raise typer.Exit(EXIT["unreachable"]) from None


def say_error(what: str, remedy: str = "") -> None:
    """Print an error and what to do about it, in words that somebody else found."""
    if _as_json:
        _say_json({"title": what, "status": 0, "detail": what, "remedy": remedy})
        return
    note_error("cli.context.wrong", what=what)
    if remedy:
        note_error("cli.context.what_to_do", remedy=remedy)


def complain(code: str, /, **facts: Any) -> None:
    """Print an error and what to do about it."""
    message = said(code, **facts)
    say_error(WORDS.text(message), WORDS.remedy(message))


def end_with(error: HawthornError, ends: str = "") -> NoReturn:
    """End the command with an error that was found on this machine."""
    say_error(WORDS.text(error.message), WORDS.remedy(error))
    raise typer.Exit(EXIT.get(ends, 1))


def fail(problem: Problem) -> NoReturn:
    """End the command with a problem."""
    if _as_json:
        _say_json(problem.model_dump(mode="json"))
        raise typer.Exit(EXIT.get(problem.slug, 1))
    say_error(problem.detail or problem.title)
    for found in problem.problems if problem.slug not in ("invalid",) else []:
        note_error("cli.context.problem", where=found.where, what=found.what)
    for unmet in problem.fact("unmet", []):
        title = unmet["title"] or said("common.untitled")
        note_error("cli.context.unmet", title=title, locale=unmet["locale"], what=unmet["what"])
    for choice in problem.fact("choices", []):
        what = choice if isinstance(choice, str) else " = ".join(choice.values())
        note_error("cli.context.choice", what=what)
    if problem.remedy:
        note_error("cli.context.what_to_do", remedy=problem.remedy)
    raise typer.Exit(EXIT.get(problem.slug, 1))


def stop(code: str, /, ends: str = "wrong use", **facts: Any) -> NoReturn:
    """End the command because it was used wrongly; `ends` names its exit code."""
    complain(code, **facts)
    raise typer.Exit(EXIT[ends])


def _say_json(problem: dict[str, Any]) -> None:
    """An error as problem details (RFC 9457), where errors go."""
    sys.stderr.write(json.dumps(problem, ensure_ascii=False, indent=2) + "\n")


def print_json(value: Any) -> None:
    """Print records as JSON. Every list has one shape: `items`, and `next` for where its next page begins."""
    if isinstance(value, BaseModel):
        value = value.model_dump(mode="json")
    elif isinstance(value, list):
        value = {"items": [v.model_dump(mode="json") if isinstance(v, BaseModel) else v for v in value]}
    if isinstance(value, dict) and isinstance(value.get("items"), list):
        value.setdefault("next", "")
    sys.stdout.write(json.dumps(value, ensure_ascii=False, indent=2) + "\n")


def listed(value: Any, what: str) -> list[Any]:
    """The list that a file holds: by itself, under `items` as commands print it, or under its own name."""
    found = value.get("items", value.get(what)) if isinstance(value, dict) else value
    if not isinstance(found, list):
        stop("cli.context.no_list", ends="invalid", what=what)
    return found


def means(typed: str, id: str) -> bool:
    """Whether what somebody typed is an id, its start or its end."""
    return id == typed or (len(typed) >= 6 and (id.startswith(typed) or id.endswith(typed)))


def one_of(there: Iterable[T], name: str, id: Callable[[T], str], called: Callable[[T], str], code: str) -> T:
    """The one thing that a name means: by the start or end of its id, by what it is called, or by a part of that where it is the
    only one. Ends the command with what `code` says where there is none, or are several."""
    known, wanted = [*there], name.casefold()
    found = [one for one in known if means(name, id(one)) or called(one).casefold() == wanted]
    found = found or [one for one in known if wanted in called(one).casefold()]
    if len(found) != 1:
        stop(code, ends="not-found", name=name, count=len(found))
    return found[0]


def resolve(hawthorn: Client, name: str) -> str:
    """The id of the entry that a name means; ends the command with the choice when it is not unique."""
    matches = hawthorn.look_up(name).items
    exact = [m for m in matches if m.title.casefold() == name.casefold() or m.id == name]
    if len(exact) == 1:
        matches = exact
    if not matches:
        stop("cli.context.nothing_is_called", ends="not-found", name=name)
    if len(matches) > 1:
        complain("cli.context.may_mean", name=name, count=len(matches))
        for match in matches[:12]:
            err.print(f"  {match.short}  {match.type:<10} {escape(match.title)}")
        note_error("cli.context.name_it")
        raise typer.Exit(EXIT["wrong use"])
    return matches[0].id


def entry_named(hawthorn: Client, name: str, locale: str = "") -> wire.views.Entry:
    """The entry that a name means, in a locale."""
    return hawthorn.entry(resolve(hawthorn, name), locale)


def members_of(file: Path, name: str) -> Sequence[dict[str, Any]]:
    """The members of a list that a file of JSON holds, with or without its name around it."""
    try:
        found = json.loads(file.read_text("utf-8"))
    except ValueError as error:
        stop("cli.context.no_json_list", file=file.name, error=error, name=name)
    return listed(found, name)
