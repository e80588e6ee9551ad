"""Records as a terminal shows them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime

from rich.markup import escape
from rich.table import Table
from rich.text import Text

from hawthorn import wire
from hawthorn.cli.context import marked, plain, zone
from hawthorn.core.messages import Message, said
from hawthorn.messages import WORDS, written

_BEADS = {"head": "●", "older": "◉", "none": "○"}


def when(instant: str | None) -> str:
    """An instant in the zone of whoever is logged in, to the second: the day when it is near, else the date."""
    if instant is None:
        return marked("cli.drawing.no_time")
    moment = datetime.fromisoformat(instant).astimezone(zone())
    days = abs((moment.date() - datetime.now(UTC).astimezone(moment.tzinfo).date()).days)
    clock = moment.strftime("%H:%M:%S")
    return (
        f"{written.weekday(WORDS.language, moment.date()) if days < 6 else moment.date().isoformat()} {clock}"
    )


def word(kind: str, code: str) -> str:
    """What stands for a state, a verb or the like, in the language that is spoken; programs read the code itself (`--json`)."""
    return plain(f"cli.words.{kind}.{code.replace(' ', '_').replace('-', '_')}") if code else ""


def rail(beads: Sequence[wire.release.Bead], planned: Sequence[wire.release.Planned] = ()) -> str:
    """The bead rail in its text form: `draft ●  review ◉ (-1)  release ○  ↷ Fri 09:00`."""
    parts = []
    for bead in beads:
        behind = f" (-{bead.behind})" if bead.state == "older" and bead.behind else ""
        parts.append(f"{bead.stage} {_BEADS[bead.state]}{behind}")
    for move in planned[:1]:
        verb = "" if move.verb == "release" else f" {word('move', move.verb)}"
        parts.append(f"↷{verb} {when(move.instant)}")
    return "  ".join(parts)


def table(*columns: str, also: Sequence[str] = ()) -> Table:
    """A plain table with columns by their codes, and `also` some by their own names; an empty one has no head."""
    made = Table(box=None, pad_edge=False, header_style="dim", padding=(0, 2, 0, 0))
    for head in [
        *(marked(f"cli.columns.{column}") if column else "" for column in columns),
        *map(escape, also),
    ]:
        made.add_column(head, overflow="fold")
    return made


def title(text: str) -> str:
    """What an entry is called, for a cell or a line with markup."""
    return escape(text) if text else marked("common.untitled")


def entries(items: Sequence[wire.content.EntryLine]) -> Table:
    """A list of entries."""
    made = table("id", "type", "title", "in", "where_it_stands", "changed", "by")
    for item in items:
        named = Text(item.title or plain("common.untitled"))
        if item.missing:
            lacking = plain("cli.drawing.missing", labels=[m.label for m in item.missing])
            named.append(lacking, style="yellow")
        made.add_row(
            item.short,
            item.type,
            named,
            item.locale,
            rail(item.rail, item.planned),
            when(item.updated_at),
            item.author,
        )
    return made


def runs(parts: Sequence[wire.content.Run]) -> Text:
    """Words with what is gone struck through and what is new underlined; what an assistant wrote stands in brackets of its own."""
    text = Text()
    for run in parts:
        style = {"gone": "red strike", "new": "green underline"}.get(run.how, "")
        shown = {"gone": f"[-{run.text}-]", "new": f"{{+{run.text}+}}"}.get(run.how, run.text)
        text.append(f"⟨{shown}⟩" if run.assistant else shown, style=style)
    return text


def unmet(conditions: Sequence[wire.release.UnmetCondition]) -> list[str]:
    """What blocks, each with who could clear it."""
    return [
        marked("cli.drawing.unmet_who" if c.who else "cli.drawing.unmet", what=c.what, who=c.who)
        for c in conditions
    ]


def place(locale: str) -> Message | str:
    """A locale as it is named beside a title: its tag, or that it is the shared fields."""
    return said("cli.drawing.shared_fields") if locale == "*" else locale


def _revision(number: int | None) -> Message:
    return said("cli.drawing.revision" if number else "cli.drawing.nothing", number=number)


def _after(item: wire.release.MoveLine, still_open: bool) -> Message:
    """The revision that a move brings; while nothing is settled, that it is whatever is approved by then."""
    waits = item.after is None and (still_open or item.follows) and item.head is not None
    return said("cli.drawing.approved") if waits else _revision(item.after)


def moves(items: Sequence[wire.release.MoveLine], *, still_open: bool = False) -> list[str]:
    """Moves of a dispatch, each before → after, with what blocks it; one that is still open has no revisions yet."""
    lines: list[str] = []
    for item in items:
        lines.append(
            marked(
                "cli.drawing.move_along" if item.along else "cli.drawing.move",
                verb=word("move", item.verb),
                title=item.title or said("common.untitled"),
                where=place(item.locale),
                before=_revision(item.before),
                after=_after(item, still_open),
                inside=said("cli.drawing.written") if item.strand else "",
            )
        )
        if item.to:
            lines.append(marked("cli.drawing.to_stage", stage=item.to))
        for one in item.sets:
            code = "cli.drawing.sets" if one.text else "cli.drawing.empties"
            lines.append(marked(code, label=one.label, text=one.text))
        lines += unmet(item.unmet)
    return lines


def jobs(items: Sequence[wire.translation.JobLine]) -> Table:
    """A list of translation jobs."""
    made = table("id", "name", "to", "state", "done", "words", "with", "due")
    for item in items:
        state = Text(
            word("job", item.state), style={"failed": "red", "returned": "magenta"}.get(item.state, "")
        )
        made.add_row(
            item.short,
            item.name,
            item.locale,
            state,
            f"{item.percent} %",
            str(item.words),
            escape(item.bureau or item.translator) or marked("cli.drawing.by_hand"),
            item.due,
        )
    return made
