"""What a rich text loses when it is brought into its stored form, in words: nothing goes without being named."""

from __future__ import annotations

import re
from collections import Counter

from lxml import etree
from lxml import html as lxml_html

from hawthorn.core import richtext

_KEPT = richtext.ALLOWED
_PLAIN = {
    "html",
    "head",
    "body",
    "section",
    "article",
    "main",
    "header",
    "footer",
    "font",
    "center",
    "tt",
    "small",
    "big",
}
"""Tags that say nothing by themselves: their words stay as they are."""
_TABLE = {"tbody", "thead", "tfoot", "tr", "td", "th", "caption", "colgroup", "col"}
_NAMES = {
    "table": ("a table", "tables"),
    "iframe": ("an embedded page", "embedded pages"),
    "script": ("a script", "scripts"),
    "style": ("a style sheet", "style sheets"),
    "video": ("a film", "films"),
    "audio": ("a recording", "recordings"),
    "svg": ("a drawing", "drawings"),
    "form": ("a form", "forms"),
    "u": ("underlining", "underlining"),
    "mark": ("highlighting", "highlighting"),
}
_ODD_TAG = re.compile(r"<(?:!--|!\[|(?!/?(?i:" + "|".join(sorted(_KEPT)) + r")\b)[a-zA-Z])")
_ODD_ATTRIBUTE = re.compile(
    r"\s(?:style|id|name|lang|dir|class)\s*=|\b(?:href|src)\s*=\s*[\"']?(?!https?:|mailto:|tel:|urn:)",
    re.IGNORECASE,
)
_TABLE_BEGINS = re.compile(r"<\s*(?i:table)\b")
_SCHEME = re.compile(r"\s*([a-zA-Z][a-zA-Z0-9+.-]*):")
_PARSER = lxml_html.HTMLParser(encoding="utf-8", no_network=True)


def has_table(fragment: str) -> bool:
    """Whether a fragment holds a table, which a rich text cannot keep."""
    return _TABLE_BEGINS.search(fragment) is not None


def lost(fragment: str) -> list[str]:
    """What of a fragment goes when it is stored, each in words; white space and dressing that nobody sees do not count."""
    if not (_ODD_TAG.search(fragment) or ("=" in fragment and _ODD_ATTRIBUTE.search(fragment))):
        return []
    root = lxml_html.fragment_fromstring(
        richtext.without_controls(fragment), create_parent="div", parser=_PARSER
    )
    found: Counter[tuple[str, str]] = Counter()
    for node in root.iterdescendants():
        for one, more in _of(node):
            found[(one, more)] += 1
    return [one if count == 1 or one == more else f"{count} {more}" for (one, more), count in found.items()]


def _of(node: etree._Element) -> list[tuple[str, str]]:
    if node.tag is etree.Comment:
        return [("a comment", "comments")]
    if not isinstance(node.tag, str):
        return [("a processing instruction", "processing instructions")]
    out: list[tuple[str, str]] = []
    tag = node.tag
    if tag not in _KEPT and tag not in _PLAIN and tag not in _TABLE:
        out.append(_NAMES.get(tag, (f"<{tag}>", f"<{tag}>")))
    for attribute, what in (("href", "link"), ("src", "picture")):
        scheme = _SCHEME.match(node.get(attribute) or "")
        if tag in ("a", "img") and scheme is not None and scheme[1].lower() not in richtext.SCHEMES:
            out.append((f"a {what} to {scheme[1].lower()}:", f"{what}s to {scheme[1].lower()}:"))
    if tag == "img" and not (node.get("src") or "").strip():
        out.append(("a picture without an address", "pictures without an address"))
    if node.get("style"):
        out.append(("styling", "styling"))
    if node.get("id") or (tag == "a" and node.get("name")):
        out.append(("an anchor", "anchors"))
    if tag != "span" and (node.get("lang") or node.get("dir")):
        out.append(("the language of a part (only <span> says one)",) * 2)
    if tag == "hr" and node.get("class") and not richtext.is_opening(node.get("class")):
        said = (
            f'the class “{node.get("class")}” of a rule (the opening ends at <hr class="{richtext.OPENING}">)'
        )
        out.append((said, said))
    return out
