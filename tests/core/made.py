"""Made-up types and contents, and hypothesis strategies for them."""

from __future__ import annotations

from hypothesis import strategies as st

from hawthorn.core import contenttypes, richtext
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
            ]
        ),
        max_size=14,
    ).map("".join),
)


def content(values: dict, base: Content | None = None) -> Content:
    """A content with its spines carried from a base."""
    kept = contenttypes.canonical_fields(LABEL, values)
    return snapshot(LABEL, kept, base) if base else snapshot(LABEL, kept)


paragraph = (
    st.lists(WORDS, min_size=3, max_size=8)
    .map(" ".join)
    .map(lambda t: t.replace("&", "&amp;").replace("<", "&lt;"))
)


@st.composite
def edits(draw: st.DrawFn, base: Content) -> Content:
    """A content made from a base by a few random edits of its text, tags and people."""
    leaves = list(richtext.leaves(base.fields.get("body", "")))
    for _ in range(draw(st.integers(0, 3))):
        act = draw(st.sampled_from(["insert", "remove", "change", "move"]))
        if act == "insert":
            at = draw(st.integers(0, len(leaves)))
            leaves.insert(at, richtext.Leaf((), "p", richtext.leaves(f"<p>{draw(paragraph)}</p>")[0].inner))
        elif leaves:
            at = draw(st.integers(0, len(leaves) - 1))
            leaf = leaves.pop(at)
            if act == "change":
                leaves.insert(
                    at,
                    richtext.Leaf(
                        leaf.path, leaf.tag, (leaf.inner + " " + draw(paragraph)).strip(), leaf.src
                    ),
                )
            elif act == "move":
                leaves.insert(draw(st.integers(0, len(leaves))), leaf)
    values = dict(base.fields)
    values["body"] = richtext.canonical(richtext.join([x for x in leaves if x.tag != "hr"]))
    values["tags"] = draw(st.lists(st.sampled_from(["sea", "light", "rope", "war"]), unique=True, max_size=3))
    if draw(st.booleans()):
        values["title"] = draw(st.sampled_from(["A lamp", "A rope", "A keel"]))
    return content(values, base)


@st.composite
def bases(draw: st.DrawFn) -> Content:
    """A first content of several paragraphs."""
    body = "".join(f"<p>{draw(paragraph)}</p>" for _ in range(draw(st.integers(0, 5))))
    return content({"title": "The lamp", "body": body, "tags": ["sea"], "number": "PH 1"})
