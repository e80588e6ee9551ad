"""What a rich text loses is named, and what it keeps is not."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hawthorn.core import richtext, stripped
from hawthorn.messages import ENGLISH
from tests.core.made import messy, rich


@pytest.mark.parametrize(
    ("given", "named"),
    [
        ("<p>A <u>line</u></p>", ["underlining"]),
        ("<p>a<!--more-->b</p><!-- x -->", ["2 comments"]),
        ("<p>x</p><iframe src='https://x.example'></iframe>", ["an embedded page"]),
        ("<script>alert(1)</script><script></script>", ["2 scripts"]),
        ('<p><a href="javascript:alert(1)">x</a></p>', ["a link to javascript:"]),
        ('<p><img src="data:image/png;base64,AAAA"></p>', ["a picture to data:"]),
        ('<p style="color: red">x</p>', ["styling"]),
        ('<h2 id="hours">x</h2>', ["an anchor"]),
        ('<p lang="fr">x</p>', ["the language of a part (only <span> says one)"]),
        (
            '<p>x</p><hr class="more">',
            ['the class “more” of a rule (the opening ends at <hr class="opening">)'],
        ),
        ("<details><summary>x</summary>y</details>", ["<details>", "<summary>"]),
        ("<p><mark>x</mark> <video src='https://x.example/a.mp4'></video></p>", ["highlighting", "a film"]),
        ("<div><section><p>x</p></section><font>y</font></div>", []),
        ('<p>See <a href="https://x.example" target="_blank">it</a>, <b>now</b></p><h1>x</h1>', []),
        ('<p><span lang="fr">x</span></p><hr class="Opening wide"><hr>', []),
        ("<table><caption>Tides</caption><tbody><tr><td colspan='1'>x</td></tr></tbody></table>", []),
        (
            "<table><tr><td colspan=2>x</td><td rowspan='3'>y</td></tr></table>",
            ["2 cells over several columns or rows, which are single cells now"],
        ),
        ("plain words", []),
        ("", []),
    ],
)
def test_what_goes_is_named_and_what_stays_is_not(given: str, named: list[str]) -> None:
    assert [ENGLISH.text(one) for one in stripped.lost(given)] == named


@given(rich)
def test_a_text_in_its_stored_form_loses_nothing(text: str) -> None:
    assert stripped.lost(richtext.canonical(text)) == []


@given(st.text(alphabet="<>/ab!-= \"'hrtdiv:", max_size=60))
def test_nothing_that_is_typed_breaks_it(text: str) -> None:
    assert all(ENGLISH.text(one) for one in stripped.lost(text))


@given(messy)
def test_what_loses_its_words_says_so(fragment: str) -> None:
    if "<script" in fragment or '<a href="javascript:' in fragment:
        assert stripped.lost(fragment) != []


@pytest.mark.parametrize(
    "mark", ['<hr class="opening">', '<hr class="OPENING">', "<hr class='wide opening'>"]
)
def test_the_mark_of_the_opening_is_known_in_whatever_case(mark: str) -> None:
    text = richtext.canonical(f"<p>First.</p>{mark}<p>Rest.</p>")
    assert text == '<p>First.</p><hr class="opening"><p>Rest.</p>'
    assert richtext.opening(text) == "First."
