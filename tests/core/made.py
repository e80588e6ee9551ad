"""Made-up types and contents, and hypothesis strategies for them."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import strategies as st

from hawthorn.core import contenttypes, richtext, tables
from hawthorn.core.revision import Content, snapshot

LABEL = contenttypes.from_dict(
    {
        "name": "label",
        "label": "Exhibit label",
        "fields": [
            {"name": "title", "kind": "line", "required": True},
            {"name": "slug", "kind": "slug", "follows": "title"},
            {"name": "body", "kind": "rich", "required": True},
            {"name": "number", "kind": "line", "shared": True, "required": True},
            {"name": "tags", "kind": "tags"},
            {"name": "people", "kind": "reference", "many": True},
        ],
    }
)

WORDS = st.sampled_from(
    [
        "harbour",
        "lamp",
        "rope",
        "keel",
        "tide.",
        "Gull!",
        "salt",
        "<3",
        "&",
        "“brass”",
        "été",
        "灯台の光。",
        "船",
        "فنار",
        "chart?",
        "Mr.",
        "Vane",
        "sailed.",
    ]
)


def tr(cells: list[str], tag: str = "td") -> str:
    """A row of a table."""
    return "<tr>" + "".join(f"<{tag}>{cell}</{tag}>" for cell in cells) + "</tr>"


inline = st.recursive(
    st.lists(WORDS, min_size=1, max_size=6)
    .map(" ".join)
    .map(lambda t: t.replace("&", "&amp;").replace("<", "&lt;")),
    lambda inner: st.one_of(
        st.tuples(inner, inner).map("".join),
        st.builds("<{0}>{1}</{0}>".format, st.sampled_from(["strong", "em", "s", "code", "sub"]), inner),
        st.builds('<a href="urn:uuid:00000000-0000-7000-8000-000000000001">{}</a>'.format, inner),
        st.builds("{}<br>{}".format, inner, inner),
    ),
    max_leaves=4,
)
block = st.one_of(
    st.builds("<p>{}</p>".format, inline),
    st.builds("<h2>{}</h2>".format, inline),
    st.lists(inline, min_size=1, max_size=3).map(
        lambda items: "<ul>" + "".join(f"<li>{i}</li>" for i in items) + "</ul>"
    ),
    st.builds("<ol><li>{}<ul><li>{}</li></ul></li></ol>".format, inline, inline),
    st.builds("<blockquote><p>{}</p></blockquote>".format, inline),
    st.builds(
        '<figure><img src="urn:uuid:00000000-0000-7000-8000-000000000002"><figcaption>{}</figcaption></figure>'.format,
        inline,
    ),
    st.just("<hr>"),
    st.lists(st.lists(st.one_of(inline, st.just("")), min_size=1, max_size=3), min_size=1, max_size=3).map(
        lambda rows: (
            "<table>"
            + "".join(tr(cells, "th" if n == 0 else "td") for n, cells in enumerate(rows))
            + "</table>"
        )
    ),
)
rich = st.lists(block, max_size=6).map("".join).map(richtext.canonical)
messy = st.one_of(
    rich,
    st.text(max_size=80),
    st.lists(
        st.sampled_from(
            [
                "<p>",
                "</p>",
                "<ul>",
                "<li>",
                "</li>",
                "</ul>",
                "<ol>",
                "</ol>",
                "text",
                "&amp;",
                "<b>",
                "</b>",
                "<div>",
                "<h1>",
                "</blockquote>",
                "<blockquote>",
                "<img",
                "src='urn:uuid:x'>",
                "<a",
                "href='javascript:1'>",
                "<script>",
                "\x00",
                "<table>",
                "</table>",
                "<caption>",
                "<tr>",
                "</tr>",
                "<td>",
                "<td colspan='3'>",
                "<th>",
            ]
        ),
        max_size=18,
    ).map("".join),
)


def content(values: dict, base: Content | None = None) -> Content:
    """A content with its paragraph ids carried from a base."""
    kept = contenttypes.canonical_fields(LABEL, values)
    return snapshot(LABEL, kept, base) if base else snapshot(LABEL, kept)


words_of_one = (
    st.lists(WORDS, min_size=3, max_size=8)
    .map(" ".join)
    .map(lambda t: t.replace("&", "&amp;").replace("<", "&lt;"))
)


def _longer(draw: st.DrawFn, inner: str) -> str:
    """Words at the end of a paragraph, or of a cell of a row, or a new cell at its end."""
    cells = tables.cells(inner)
    if not cells:
        return (inner + " " + draw(words_of_one)).strip()
    at = draw(st.integers(0, len(cells)))
    cells[at : at + 1] = [("td", (cells[at][1] if at < len(cells) else "") + " " + draw(words_of_one))]
    return "".join(f"<{tag}>{words}</{tag}>" for tag, words in cells)


@st.composite
def edits(draw: st.DrawFn, base: Content) -> Content:
    """A content made from a base by a few random edits of its text, tags and people."""
    paragraphs = list(richtext.paragraphs(base.fields.get("body", "")))
    for _ in range(draw(st.integers(0, 3))):
        act = draw(st.sampled_from(["insert", "remove", "change", "move"]))
        if act == "insert":
            at = draw(st.integers(0, len(paragraphs)))
            paragraphs.insert(
                at, richtext.Paragraph((), "p", richtext.paragraphs(f"<p>{draw(words_of_one)}</p>")[0].inner)
            )
        elif paragraphs:
            at = draw(st.integers(0, len(paragraphs) - 1))
            paragraph = paragraphs.pop(at)
            if act == "change":
                inner = _longer(draw, paragraph.inner)
                paragraphs.insert(at, replace(paragraph, inner=inner))
            elif act == "move":
                paragraphs.insert(draw(st.integers(0, len(paragraphs))), paragraph)
    values = dict(base.fields)
    values["body"] = richtext.canonical(richtext.join([x for x in paragraphs if x.tag != "hr"]))
    values["tags"] = draw(st.lists(st.sampled_from(["sea", "light", "rope", "war"]), unique=True, max_size=3))
    if draw(st.booleans()):
        values["title"] = draw(st.sampled_from(["A lamp", "A rope", "A keel"]))
    return content(values, base)


@st.composite
def bases(draw: st.DrawFn) -> Content:
    """A first content of several paragraphs."""
    body = "".join(f"<p>{draw(words_of_one)}</p>" for _ in range(draw(st.integers(0, 5))))
    if draw(st.integers(0, 2)) == 0:
        rows = [tr([draw(words_of_one) for _ in range(2)]) for _ in range(draw(st.integers(1, 3)))]
        body += f"<table>{''.join(rows)}</table>"
    return content({"title": "The lamp", "body": body, "tags": ["sea"], "number": "PH 1"})


PAGE = contenttypes.from_dict(
    {
        "name": "page",
        "label": "Page",
        "fields": [
            {"name": "title", "kind": "line", "required": True},
            {"name": "intro", "kind": "text"},
            {
                "name": "seo",
                "kind": "group",
                "label": "Search text",
                "fields": [{"name": "title", "kind": "line"}, {"name": "words", "kind": "tags"}],
            },
            {
                "name": "hours",
                "kind": "group",
                "many": True,
                "fields": [
                    {"name": "day", "kind": "line", "required": True},
                    {"name": "from_hour", "kind": "number", "minimum": 0, "maximum": 24},
                ],
            },
            {
                "name": "body",
                "kind": "blocks",
                "blocks": [
                    {
                        "name": "words",
                        "label": "Words",
                        "fields": [{"name": "text", "kind": "rich", "required": True}],
                    },
                    {
                        "name": "quote",
                        "label": "Quote",
                        "fields": [
                            {"name": "said", "kind": "text"},
                            {"name": "by", "kind": "reference"},
                        ],
                    },
                    {
                        "name": "row",
                        "label": "Row",
                        "fields": [
                            {
                                "name": "cells",
                                "kind": "blocks",
                                "blocks": [
                                    {"name": "quote", "fields": [{"name": "said", "kind": "text"}]},
                                    {
                                        "name": "row",
                                        "fields": [
                                            {
                                                "name": "cells",
                                                "kind": "blocks",
                                                "blocks": [
                                                    {
                                                        "name": "quote",
                                                        "fields": [{"name": "said", "kind": "text"}],
                                                    }
                                                ],
                                            }
                                        ],
                                    },
                                ],
                            }
                        ],
                    },
                ],
            },
        ],
    }
)
sentence = st.lists(WORDS, min_size=2, max_size=7).map(" ".join)
_PREFIXES = st.sampled_from(["ba", "bb", "bc", "bd"])


def page(values: dict, base: Content | None = None) -> Content:
    """A page with its paragraph ids carried from a base."""
    kept = contenttypes.canonical_fields(PAGE, values)
    return snapshot(PAGE, kept, base) if base else snapshot(PAGE, kept)


def quote(id: str, said: str) -> dict:
    """A quote block."""
    return {"id": id, "kind": "quote", "fields": {"said": said}}


def row(id: str, *cells: dict) -> dict:
    """A row with blocks in it."""
    return {"id": id, "kind": "row", "fields": {"cells": list(cells)}}


@st.composite
def pages(draw: st.DrawFn) -> Content:
    """A first page: quotes and rows with quotes in them."""
    made = []
    for n in range(draw(st.integers(0, 4))):
        if draw(st.booleans()):
            made.append(quote(f"q{n}", draw(sentence)))
        else:
            inner = [quote(f"r{n}c{m}", draw(sentence)) for m in range(draw(st.integers(0, 2)))]
            made.append(row(f"r{n}", *inner))
    return page({"title": "Hours", "intro": draw(sentence), "body": made})


@st.composite
def page_edits(draw: st.DrawFn, base: Content) -> Content:
    """A page made from a base: blocks put in, taken out, changed, moved into rows and out of them."""
    import copy

    body = copy.deepcopy(base.fields.get("body", []))
    prefix = draw(_PREFIXES)
    for turn in range(draw(st.integers(0, 3))):
        lists = [body, *(b["fields"].setdefault("cells", []) for b in body if b["kind"] == "row")]
        spots = [(some, n) for some in lists for n in range(len(some))]
        act = draw(st.sampled_from(["insert", "remove", "change", "move"]))
        if act == "insert":
            into = draw(st.sampled_from(range(len(lists))))
            at = draw(st.integers(0, len(lists[into])))
            lists[into].insert(at, quote(f"{prefix}{turn}", draw(sentence)))
        elif spots:
            some, n = spots[draw(st.integers(0, len(spots) - 1))]
            one = some.pop(n)
            if act == "change":
                if one["kind"] == "quote":
                    one["fields"]["said"] = (one["fields"].get("said", "") + " " + draw(sentence)).strip()
                some.insert(n, one)
            elif act == "move":
                targets = [x for x in lists if one["kind"] == "quote" or x is body]
                targets = [x for x in targets if x is not one["fields"].get("cells")]
                into = draw(st.integers(0, len(targets) - 1))
                targets[into].insert(draw(st.integers(0, len(targets[into]))), one)
    values = {**base.fields, "body": body}
    text = str(base.fields.get("intro", "")).split()
    for _ in range(draw(st.integers(0, 2))):
        at = draw(st.integers(0, len(text)))
        if draw(st.booleans()):
            text.insert(at, draw(WORDS))
        elif text[at:]:
            text.pop(at)
    values["intro"] = " ".join(text) or None
    return page({k: v for k, v in values.items() if v is not None}, base)


@st.composite
def word_edits(draw: st.DrawFn, base: Content) -> Content:
    """A content made from a base by adding, taking out and replacing single words inside its paragraphs."""
    parts = []
    for paragraph in richtext.paragraphs(base.fields.get("body", "")):
        some = paragraph.inner.split(" ")
        if paragraph.tag == "tr":
            parts.append(paragraph)
            continue
        for _ in range(draw(st.integers(0, 2))):
            at = draw(st.integers(0, len(some) - 1))
            act = draw(st.sampled_from(["in", "out", "other"]))
            if act == "in":
                some.insert(at, draw(st.sampled_from(["north", "south", "east", "west"])))
            elif act == "other":
                some[at] = draw(st.sampled_from(["up", "down", "left", "right"]))
            elif len(some) > 1:
                some.pop(at)
        parts.append(richtext.Paragraph(paragraph.path, paragraph.tag, " ".join(some), paragraph.src))
    values = dict(base.fields) | {"body": richtext.canonical(richtext.join(parts))}
    return content(values, base)
