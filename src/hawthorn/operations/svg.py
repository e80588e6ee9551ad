"""Drawings (SVG 1.1 and 2): taken only when they hold nothing that runs and nothing that is fetched from elsewhere."""

from __future__ import annotations

import re

from lxml import etree

from hawthorn.core.errors import BadFile

MEDIA_TYPE = "image/svg+xml"
_SVG = "http://www.w3.org/2000/svg"
_XLINK = "http://www.w3.org/1999/xlink"
_ELEMENTS = frozenset(
    [
        "svg",
        "g",
        "defs",
        "symbol",
        "use",
        "title",
        "desc",
        "metadata",
        "style",
        "path",
        "rect",
        "circle",
        "ellipse",
        "line",
        "polyline",
        "polygon",
        "text",
        "tspan",
        "textPath",
        "linearGradient",
        "radialGradient",
        "stop",
        "pattern",
        "clipPath",
        "mask",
        "marker",
        "image",
        "switch",
        "view",
        "filter",
        "feBlend",
        "feColorMatrix",
        "feComponentTransfer",
        "feComposite",
        "feConvolveMatrix",
        "feDiffuseLighting",
        "feDisplacementMap",
        "feDistantLight",
        "feDropShadow",
        "feFlood",
        "feFuncA",
        "feFuncB",
        "feFuncG",
        "feFuncR",
        "feGaussianBlur",
        "feMerge",
        "feMergeNode",
        "feMorphology",
        "feOffset",
        "fePointLight",
        "feSpecularLighting",
        "feSpotLight",
        "feTile",
        "feTurbulence",
    ]
)
_OWN = re.compile(r"^(#|data:image/(png|jpeg|gif|webp);base64,)", re.IGNORECASE)
_ELSEWHERE = re.compile(
    r"@import|expression\s*\(|javascript:|url\(\s*['\"]?(?!#|['\"]?data:image/(png|jpeg|gif|webp))", re.I
)
MOST = 20_000


def check(name: str, data: bytes) -> tuple[int | None, int | None]:
    """The width and height that a drawing names, in pixels; raises `BadFile` with what it may not hold."""
    if b"<!DOCTYPE" in data.upper() or b"<!ENTITY" in data.upper():
        raise _refused(name, "declares entities, which could unpack to anything")
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as error:
        raise BadFile(f"“{name}” is damaged ({error}).", remedy="Export the drawing again.") from None
    if etree.QName(root).localname != "svg":
        raise _refused(name, f"is XML, but its outermost element is <{etree.QName(root).localname}>")
    around = [*root.itersiblings(preceding=True), *root.itersiblings()]
    for count, element in enumerate([*around, *root.iter()]):
        if count > MOST:
            raise _refused(name, f"has more than {MOST:,} elements")
        _check_element(name, element)
    return _length(root.get("width")), _length(root.get("height"))


def _check_element(name: str, element: etree._Element) -> None:
    if isinstance(element, etree._ProcessingInstruction):
        raise _refused(name, "holds an instruction for the program that reads it")
    if not isinstance(element.tag, str):
        return
    tag = etree.QName(element)
    if tag.namespace in (_SVG, None) and tag.localname not in _ELEMENTS:
        what = "a script" if tag.localname == "script" else f"<{tag.localname}>"
        raise _refused(name, f"holds {what}")
    if tag.namespace not in (_SVG, None) and tag.localname.lower() in ("script", "iframe", "object", "embed"):
        raise _refused(name, f"holds <{tag.localname}>")
    if tag.localname == "style" and _ELSEWHERE.search(element.text or ""):
        raise _refused(name, "has styles that fetch something from elsewhere or run something")
    for key, value in element.attrib.items():
        attribute = etree.QName(key)
        if attribute.localname.lower().startswith("on"):
            raise _refused(name, f"runs something by “{attribute.localname}”")
        if attribute.localname in ("href", "src") and not _OWN.match(str(value).strip()):
            raise _refused(name, f"leads elsewhere ({str(value)[:60]})")
        if _ELSEWHERE.search(str(value)):
            raise _refused(
                name, f"has “{attribute.localname}” that fetches something from elsewhere or runs something"
            )


def _refused(name: str, why: str) -> BadFile:
    return BadFile(f"“{name}” {why}.", remedy="Export it as plain SVG without scripts and links, or as PNG.")


def _length(text: str | None) -> int | None:
    found = re.match(r"^\s*([0-9.]+)(px)?\s*$", text or "")
    try:
        return round(float(found[1])) or None if found else None
    except ValueError:
        return None
