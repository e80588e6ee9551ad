"""The week's report: the figures of the last whole week as a mail, with a drawing of the weeks before it for each that has one.

It says what the page of figures says, of what its reader may see, and each part leads there. The same is in its text and in its page, so that
nothing is lost where no pictures are shown. To add a part: a function that makes one of `Figures`, in `_PARTS`.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import field
from html import escape

from hawthorn.core.locales import usually_rtl
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.spreads import Spread
from hawthorn.operations.runtime.act import View
from hawthorn.operations.views import figures
from hawthorn.operations.views.figures import Asked, Figures

WEEKS = 9
"""So many weeks it looks back, of which the last, which is not over, is left out."""
NAMED = 5
"""So many are named of what waits and of what came back."""
_DAY = 86_400.0


@dataclass(frozen=True, slots=True)
class Drawing:
    """A drawing: a row of numbers, named by `across`, for each of `rows`; bars, or lines where there are several. `says` is what it shows, in words."""

    name: str
    title: str
    across: list[str]
    rows: dict[str, list[float | None]]
    unit: str
    says: str
    lines: bool = False


@dataclass(frozen=True, slots=True)
class Part:
    """A part of the report: its heading, a table, where each of its rows leads, and a drawing."""

    title: str
    head: list[str]
    rows: list[list[str]]
    nothing: str = ""
    drawing: Drawing | None = None
    leads: list[str] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Report:
    """The report as it is sent. Its page names drawings as `cid:` and their name."""

    subject: str
    text: str
    page: str
    drawings: list[Drawing] = field(default_factory=list)


def written(view: View, public: str) -> Report:
    """The report of the last whole week for whoever asks."""
    found = figures.look(view, Asked(weeks=WEEKS))
    week = found.weeks[-2]
    parts = [make(view, found) for make in _PARTS]
    subject = view.say("report.subject", week=week)
    hello = view.say("report.hello", name=view.identity.name, week=week)
    more = view.say("report.more", figures=f"{public}/figures")
    choose = view.say("report.choose", account=f"{public}/account")
    text = "\n\n".join([hello, *(_plain(part) for part in parts), more, choose]) + "\n"
    page = _page(public, subject, hello, parts, more, choose, view.setup.words.language)
    return Report(subject, text, page, [part.drawing for part in parts if part.drawing is not None])


# -- parts ---------------------------------------------------------------------------------------------------------------


def _went_out(view: View, found: Figures) -> Part:
    out = found.releases
    rows = [
        _row(view, "editions", out.editions),
        _row(view, "dispatches", out.dispatches),
        _row(view, "late", out.late),
    ]
    drawing = _drawn(
        view,
        found,
        "releases",
        {view.say("report.counted.editions"): _counts(out.editions)},
        "report.unit_editions",
    )
    return Part(view.say("report.went_out"), _compared(view), rows, drawing=drawing)


def _stays(view: View, found: Figures) -> Part:
    head = [view.say(f"report.head.{name}") for name in ("stage", "count", "median", "ninetieth")]
    rows, lines = [], {}
    for one in found.stages:
        last = one.weeks[-2]
        if any(week.count for week in one.weeks[:-1]):
            rows.append([one.label, str(last.count), _span(view, last.median), _span(view, last.ninetieth)])
            lines[one.label] = [_days(week) for week in one.weeks[:-1]]
    drawing = _drawn(view, found, "stays", lines, "report.unit_days", lines=True) if lines else None
    return Part(view.say("report.stays"), head, rows, view.say("report.nothing_stayed"), drawing)


def _came_back(view: View, found: Figures) -> Part:
    back = found.returns
    rows = [_row(view, "decided", back.decided), _row(view, "sent_back", back.sent_back)]
    return Part(view.say("report.came_back"), _compared(view), rows)


def _why(view: View, found: Figures) -> Part:
    head = [view.say(f"report.head.{name}") for name in ("what", "stage", "by", "why")]
    rows = [
        [view.say("report.edition", title=one.title, locale=one.locale), one.label, one.by, one.reason]
        for one in found.returns.latest
        if _in_week(found, one.at)
    ]
    leads = [_address(one.id, one.locale) for one in found.returns.latest if _in_week(found, one.at)]
    return Part(view.say("report.why"), head, rows[:NAMED], view.say("report.nothing_came_back"), leads=leads)


def _waits(view: View, found: Figures) -> Part:
    head = [view.say(f"report.head.{name}") for name in ("what", "stage", "since", "whom")]
    rows = [
        [
            view.say("report.edition", title=one.title, locale=one.locale),
            one.label,
            _span(view, one.seconds),
            one.assigned or ", ".join(one.whom[:3]),
        ]
        for one in found.waiting[:NAMED]
    ]
    leads = [_address(one.id, one.locale) for one in found.waiting]
    return Part(view.say("report.waits"), head, rows, view.say("report.nothing_waits"), leads=leads)


def _address(id: str, locale: str) -> str:
    return f"/entries/{id}/{locale}"


def _translated(view: View, found: Figures) -> Part:
    head = [view.say(f"report.head.{name}") for name in ("language", "words", "share")]
    rows = [
        [
            one.name,
            view.say("report.words", current=one.current, words=one.words),
            f"{100 * one.current / one.words:.0f} %" if one.words else "–",
        ]
        for one in found.translated
    ]
    # By its tag: what draws has not the letters of every language.
    known = {one.locale: one.weeks[:-1] for one in found.translated}
    lines = {tag: weeks for tag, weeks in known.items() if sum(one is not None for one in weeks) > 1}
    drawing = _drawn(view, found, "translated", lines, "report.unit_share", lines=True) if lines else None
    return Part(view.say("report.translated"), head, rows, view.say("report.nothing_translated"), drawing)


_PARTS: Sequence[Callable[[View, Figures], Part]] = (_went_out, _stays, _came_back, _why, _waits, _translated)


def _compared(view: View) -> list[str]:
    return [view.say(f"report.head.{name}") for name in ("what", "this_week", "week_before")]


def _row(view: View, name: str, counts: list[int]) -> list[str]:
    return [view.say(f"report.counted.{name}"), str(counts[-2]), str(counts[-3])]


def _counts(counts: list[int]) -> list[float | None]:
    return [float(one) for one in counts[:-1]]


def _days(of: Spread) -> float | None:
    return round(of.median / _DAY, 2) if of.median is not None else None


def _span(view: View, seconds: float | None) -> str:
    return view.say("report.span", span=seconds) if seconds is not None else "–"


def _in_week(found: Figures, at: str) -> bool:
    return found.weeks[-2] <= at[:10] < found.weeks[-1]


def _drawn(
    view: View, found: Figures, name: str, rows: dict[str, list[float | None]], unit: str, lines: bool = False
) -> Drawing:
    across = [view.say("report.week", week=day) for day in found.weeks[:-1]]
    told = [
        view.say("report.drawn_row", name=row, values=["–" if one is None else f"{one:g}" for one in values])
        for row, values in rows.items()
    ]
    says = view.say("report.drawn", unit=said(unit), rows=told)
    return Drawing(name, view.say(f"report.drawing.{name}"), across, rows, view.say(unit), says, lines)


# -- as text and as a page -------------------------------------------------------------------------------------------------


def _plain(part: Part) -> str:
    lines = [part.title, "=" * len(part.title)]
    if not part.rows:
        return "\n".join([*lines, part.nothing])
    table = [part.head, *part.rows]
    wide = [max(len(row[n]) for row in table) for n in range(len(part.head))]
    lines += ["  ".join(cell.ljust(w) for cell, w in zip(row, wide, strict=True)).rstrip() for row in table]
    return "\n".join(lines)


_PAGE = """<!doctype html>
<html lang="{language}" dir="{direction}"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>{subject}</title></head>
<body style="margin:0;padding:24px;background:#fbfaf6;color:#1d2621;font:16px/1.5 sans-serif"><div style="max-width:680px;margin:0 auto">
{body}
</div></body></html>
"""
_CELL = 'style="padding-block:6px;padding-inline-end:12px;border-bottom:1px solid #d9d6c8;text-align:start;vertical-align:top"'


def _page(
    public: str, subject: str, hello: str, parts: list[Part], more: str, choose: str, language: str
) -> str:
    body = [
        _paragraph(hello),
        *(_section(public, part) for part in parts),
        _paragraph(more),
        _paragraph(choose),
    ]
    direction = "rtl" if usually_rtl(language) else "ltr"
    return _PAGE.format(language=language, direction=direction, subject=escape(subject), body="\n".join(body))


def _cells(public: str, part: Part, number: int) -> list[str]:
    """The cells of a row, the first of which leads to what it names."""
    first, *others = (escape(cell) for cell in part.rows[number])
    if part.leads:
        first = f'<a href="{escape(public + part.leads[number])}" style="color:#2f5d46">{first}</a>'
    return [first, *others]


def _paragraph(text: str) -> str:
    return f"<p>{escape(text)}</p>"


def _section(public: str, part: Part) -> str:
    out = [f'<h2 style="font-size:20px;margin:28px 0 8px">{escape(part.title)}</h2>']
    if not part.rows:
        return "\n".join([*out, _paragraph(part.nothing)])
    head = "".join(f'<th scope="col" {_CELL}>{escape(cell)}</th>' for cell in part.head)
    rows = "".join(
        f"<tr>{''.join(f'<td {_CELL}>{cell}</td>' for cell in _cells(public, part, n))}</tr>"
        for n in range(len(part.rows))
    )
    out.append(
        f'<table style="border-collapse:collapse;width:100%"><thead><tr>{head}</tr></thead><tbody>{rows}</tbody></table>'
    )
    if part.drawing is not None:
        out.append(
            f'<img src="cid:{part.drawing.name}" alt="{escape(part.drawing.says)}" width="640" style="max-width:100%;height:auto;margin-top:12px">'
        )
    return "\n".join(out)
