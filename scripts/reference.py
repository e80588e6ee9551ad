"""Writes the reference of errors and of kinds of events from the code: `python scripts/reference.py docs/reference.md`."""

from __future__ import annotations

import re
import sys
from pathlib import Path

from hawthorn.cli.context import EXIT
from hawthorn.core import errors, happenings
from hawthorn.core.errors import HawthornError
from hawthorn.messages import ENGLISH
from hawthorn.service import problems, settings
from hawthorn.wire.problems import TYPE_BASE

_AREAS = {
    "Entries and strands": ("entry", "strand"),
    "Review and going out": ("review", "dispatch", "quiet"),
    "Translation": ("commission", "standing-commission", "job", "memory", "glossary", "bureau"),
    "Working together": ("comment", "assignment", "preview", "template", "list"),
    "Files": ("file", "folder", "library"),
    "In and out": ("export", "import", "mapping", "receipt", "backup", "records"),
    "Set-up": ("set-up", "type", "set", "workflow", "locales", "crops", "sites", "role"),
    "People and programs": ("key", "assistant", "person", "session", "access", "mail", "webhook", "calendar"),
}


def kinds_of_error(kind: type[HawthornError] = HawthornError) -> list[type[HawthornError]]:
    """Every error there is, those that are kinds of another after it."""
    return [one for sub in kind.__subclasses__() for one in (sub, *kinds_of_error(sub))]


def reference() -> str:
    """The page."""
    out = [
        "# Reference",
        "",
        "Made from the code by `make reference`; a check holds it against the code. What every call takes and answers is in"
        " [openapi.json](../src/hawthorn/service/openapi.json).",
        "",
        "## Errors",
        "",
        f"An error is a problem document (RFC 9457) of the type `{TYPE_BASE}…`, with `detail` (what was wrong), `remedy` (what to do)"
        " and facts of its own. Commands end with the exit code beside it, 1 where there is none; with `--json` they write the same"
        " document to standard error.",
        "",
        "| type | status | exit | title | when |",
        "|---|---|---|---|---|",
    ]
    for one in kinds_of_error():
        status = problems.status_of(one(""))
        said = " ".join((one.__doc__ or "").split())
        out.append(f"| `{one.slug}` | {status} | {EXIT.get(one.slug, 1)} | {ENGLISH.title(one)} | {said} |")
    out += [
        "| `no-such-method` | 405 | 1 | Method not allowed | The address does not take this method. |",
        "| `fault` | 500 | 1 | Something is wrong in the service | Something that was not meant to happen; the log says what. |",
        f"| (none) | | {EXIT['unreachable']} | | The service cannot be reached. |",
        f"| (none) | | {EXIT['wrong use']} | | A command was used wrongly. |",
        "",
        "## Kinds of events",
        "",
        "The event log (`GET /api/events`, `hawthorn events`, *Set-up, Event log*) and the live stream (`/events`) hold these.",
    ]
    left = dict(happenings.KINDS)
    for area, starts in _AREAS.items():
        out += ["", f"### {area}", "", "| kind | what happened |", "|---|---|"]
        for kind in [kind for kind in left if kind.split(".")[0] in starts]:
            out.append(f"| `{kind}` | {left.pop(kind)} |")
    assert not left, f"these kinds have no place in the reference: {sorted(left)}"
    out += ["", "## Settings", "", "| setting | environment | usual | meaning |", "|---|---|---|---|"]
    for name, field in settings.Settings.model_fields.items():
        usual = field.get_default(call_default_factory=True)
        shown = "" if usual in (None, "", []) else f"`{usual}`"
        out.append(f"| `{name}` | `HAWTHORN_{name.upper()}` | {shown} | {field.description} |")
    return re.sub(r"[ \t]+\n", "\n", "\n".join(out)) + "\n"


if __name__ == "__main__":
    assert errors
    Path(sys.argv[1]).write_text(reference(), "utf-8")
