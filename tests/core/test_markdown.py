"""Rich text as Markdown, read back by an independent parser."""

from __future__ import annotations

import re

import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from markdown_it import MarkdownIt

from hawthorn.core import richtext
from hawthorn.core.markdown import markdown
from tests.core.made import rich

READER = MarkdownIt("commonmark").enable(["table", "strikethrough"])
SIGNS = st.text("ab *_`~<>[]()#+-=.1!|\\&;:\"'\n\xa0é、。 ", max_size=12)


def _marked(inner: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    tags = st.sampled_from(
        ["strong", "em", "s", "code", "sub", 'a href="https://quay.example/?a=1&amp;b=(2)"']
    )
    held = st.lists(inner, min_size=1, max_size=3).map("".join)
    return st.builds(lambda tag, text: f"<{tag}>{text}</{tag.split()[0]}>", tags, held)


escaped = SIGNS.map(lambda text: text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;"))
inline = st.recursive(st.one_of(escaped, st.just("<br>")), _marked, max_leaves=6)
words = st.lists(inline, min_size=1, max_size=4).map("".join)
blocks = st.one_of(
    words.map(lambda t: f"<p>{t}</p>"),
    words.map(lambda t: f"<h2>{t}</h2>"),
    words.map(lambda t: f"<blockquote><p>{t}</p><ul><li>{t}</li></ul></blockquote>"),
    st.tuples(words, words).map(
        lambda t: f"<ul><li>{t[0]}<ol><li>{t[1]}</li><li>x</li></ol></li><li>{t[0]}</li></ul>"
    ),
    st.tuples(words, words).map(
        lambda t: f"<table><tr><th>{t[0]}</th><th>b</th></tr><tr><td>{t[1]}</td><td></td></tr></table>"
    ),
    st.just("<hr>"),
)
odd = st.lists(blocks, min_size=1, max_size=4).map("".join).map(richtext.canonical)


def read_back(text: str) -> str:
    return richtext.canonical(READER.render(text))


@given(odd)
@example("<p><strong>«a»</strong>b<em>c</em><strong>d</strong> 1. <code>`</code><code>b</code></p>")
@example("<p>1. a<br>- b<br>+ c<br>=<br># d<br>2) e</p><ol><li>- a<ul><li>b</li></ul></li></ol>")
def test_a_text_of_signs_comes_back_as_it_was(text: str) -> None:
    assert read_back(markdown(text)) == text


@given(rich)
def test_what_people_write_comes_back_as_it_was(text: str) -> None:
    plain = re.sub(r"<figure>.*?</figure>|<hr class=\"opening\">", "", text)
    # A table has heads in Markdown, and no others.
    plain = richtext.canonical(re.sub(r"<table>.*?</table>", "<p>-</p>", plain))
    assert read_back(markdown(plain)) == plain


@pytest.mark.parametrize(
    ("given", "made"),
    [
        ("<p>The <strong>tide</strong> is <em>high</em>.</p>", "The **tide** is *high*."),
        (
            "<h3>Hours</h3><ul><li>Mon<ol><li>9–5</li></ol></li><li>Tue</li></ul>",
            "### Hours\n\n- Mon\n  1. 9–5\n- Tue",
        ),
        ("<p>a<br>b</p><hr><p>[c] *d* 3 &lt; 4</p>", "a\\\nb\n\n---\n\n\\[c\\] \\*d\\* 3 \\< 4"),
        (
            "<table><tr><th>Day</th><th>Open</th></tr><tr><td>Mon</td><td>9<br>to 5</td></tr></table>",
            "| Day | Open |\n| --- | --- |\n| Mon | 9<br>to 5 |",
        ),
        ("<table><tr><td>a|b</td></tr></table>", "|  |\n| --- |\n| a\\|b |"),
        (
            '<figure><img src="/read/files/ab" alt="A [lamp]" width="40"><figcaption>Lit <em>1841</em></figcaption></figure>',
            "![A \\[lamp\\]](/read/files/ab)\\\nLit *1841*",
        ),
        (
            '<p><a href="/en/a b">here</a> <span lang="de">Kai</span></p>',
            '[here](</en/a b>) <span lang="de">Kai</span>',
        ),
        ("<blockquote><p>a</p><p>b</p></blockquote>", "> a\n>\n> b"),
    ],
)
def test_what_each_thing_looks_like(given: str, made: str) -> None:
    assert markdown(given) == made
