"""Tables in a rich text: a row is one paragraph, which is merged and compared as one; its cells are translated one by one."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from hawthorn.core.richtext import CELLS, Paragraph

_CELL = re.compile(r"<(t[hd])>(.*?)</\1>", re.DOTALL)


def cells(inner: str) -> list[tuple[str, str]]:
    """The cells of a row: the tag of each and its inner HTML."""
    return _CELL.findall(inner)


def divided(named: Iterable[tuple[str, Paragraph]]) -> dict[str, Paragraph]:
    """Paragraphs by their names, each row as its cells: those are named by the row and their number in it, from 1."""
    out: dict[str, Paragraph] = {}
    for name, paragraph in named:
        if paragraph.tag != "tr":
            out[name] = paragraph
            continue
        for number, (tag, inner) in enumerate(cells(paragraph.inner), 1):
            out[f"{name}.{number}"] = Paragraph(paragraph.path, tag, inner, paragraph.src)
    return out


def gathered(named: Iterable[tuple[str, Paragraph]]) -> list[tuple[str, Paragraph]]:
    """The same back again: each row stands where the first of its cells does, and has an empty cell where one is missing."""
    pairs = list(named)
    whole = {name for name, paragraph in pairs if paragraph.tag not in CELLS}
    rows: dict[str, dict[int, Paragraph]] = {}
    out: list[tuple[str, Paragraph | None]] = []
    for name, paragraph in pairs:
        if paragraph.tag not in CELLS:
            out.append((name, paragraph))
            continue
        row, number = name.rsplit(".", 1)
        if row not in rows:
            out.append((row, None))
        rows.setdefault(row, {})[int(number)] = paragraph
    # What was a row here may be a paragraph of that name there.
    return [
        (name, paragraph) if paragraph else (f"{name}-row" if name in whole else name, _row(rows[name]))
        for name, paragraph in out
    ]


def _row(parts: dict[int, Paragraph]) -> Paragraph:
    first = parts[min(parts)]
    stand: Sequence[Paragraph] = [
        parts.get(number, Paragraph(first.path, first.tag, "")) for number in range(1, max(parts) + 1)
    ]
    inner = "".join(f"<{cell.tag}>{cell.inner}</{cell.tag}>" for cell in stand)
    return Paragraph(first.path, "tr", inner, first.src)
