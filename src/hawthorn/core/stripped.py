"""What a rich text loses when it is brought into its stored form: nothing goes without being named."""

from __future__ import annotations

import re
from collections import Counter

from lxml import etree
from lxml import html as lxml_html

from hawthorn.core import richtext
from hawthorn.core.messages import Message, said

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
_TABLE = {"tbody", "thead", "tfoot", "caption", "colgroup", "col"}
_NAMED = {"iframe", "script", "style", "video", "audio", "svg", "form", "u", "mark"}
"""Tags that catalogues have a word for; others are shown as they are written."""
_ODD_TAG = re.compile(r"<(?:!--|!\[|(?!/?(?i:" + "|".join(sorted(_KEPT)) + r")\b)[a-zA-Z])")
_ODD_ATTRIBUTE = re.compile(
    r"\s(?:style|id|name|lang|dir|class|colspan|rowspan)\s*=|\b(?:href|src)\s*=\s*[\"']?(?!https?:|mailto:|tel:|urn:)",
    re.IGNORECASE,
)
_SCHEME = re.compile(r"\s*([a-zA-Z][a-zA-Z0-9+.-]*):")
_PARSER = lxml_html.HTMLParser(encoding="utf-8", no_network=True)


def lost(fragment: str) -> list[Message]:
    """What of a fragment goes when it is stored; white space and dressing that nobody sees do not count."""
    if not (_ODD_TAG.search(fragment) or ("=" in fragment and _ODD_ATTRIBUTE.search(fragment))):
        return []
    root = lxml_html.fragment_fromstring(
        richtext.without_controls(fragment), create_parent="div", parser=_PARSER
    )
    found = Counter(one for node in root.iterdescendants() for one in _of(node))
    return [said(f"stripped.{what}", count=count, said=name) for (what, name), count in found.items()]


def _of(node: etree._Element) -> list[tuple[str, str]]:
    """What of one element goes: what it is, and how it is written where that says more."""
    if node.tag is etree.Comment:
        return [("comment", "")]
    if not isinstance(node.tag, str):
        return [("instruction", "")]
    out: list[tuple[str, str]] = []
    tag = node.tag
    if tag not in _KEPT and tag not in _PLAIN and tag not in _TABLE:
        out.append((tag, "") if tag in _NAMED else ("element", f"<{tag}>"))
    for attribute, what in (("href", "link"), ("src", "picture")):
        scheme = _SCHEME.match(node.get(attribute) or "")
        if tag in ("a", "img") and scheme is not None and scheme[1].lower() not in richtext.SCHEMES:
            out.append((f"{what}_to", f"{scheme[1].lower()}:"))
    if tag in richtext.CELLS and any(
        node.get(over, "1") not in ("", "0", "1") for over in ("colspan", "rowspan")
    ):
        out.append(("joined_cell", ""))
    if tag == "img" and not (node.get("src") or "").strip():
        out.append(("picture_without_address", ""))
    if node.get("style"):
        out.append(("styling", ""))
    if node.get("id") or (tag == "a" and node.get("name")):
        out.append(("anchor", ""))
    if tag != "span" and (node.get("lang") or node.get("dir")):
        out.append(("language", ""))
    if tag == "hr" and node.get("class") and not richtext.is_opening(node.get("class")):
        out.append(("rule", str(node.get("class"))))
    return out
