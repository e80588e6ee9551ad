"""Drawings (SVG 1.1 and 2): refused when they hold something that runs or is fetched from elsewhere, and written anew from
what is known to be harmless, so that nothing comes in that nobody thought of."""

from __future__ import annotations

import base64
import io
import re
from typing import Any

from lxml import etree
from PIL import Image
from py_svg_hush import filter_svg

from hawthorn.core.errors import BadFile
from hawthorn.core.messages import said
from hawthorn.operations.media import metadata

MEDIA_TYPE = "image/svg+xml"
_SVG = "http://www.w3.org/2000/svg"
_XHTML = "http://www.w3.org/1999/xhtml"
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
_PICTURE = re.compile(r"^\s*data:image/(png|jpeg|gif|webp);base64,", re.IGNORECASE)
_OWN = re.compile(rf"^\s*#|{_PICTURE.pattern}", re.IGNORECASE)
_ELSEWHERE = re.compile(
    r"@(?!media\b|font-face\b|keyframes\b)|expression\s*\(|javascript:|url\(\s*['\"]?(?!['\"]?#)", re.I
)
_COMMENT = re.compile(r"/\*.*?(\*/|$)", re.DOTALL)
_KEPT = {"image": ["png", "jpeg", "gif", "webp"]}
MOST = 20_000


def clean(name: str, data: bytes) -> tuple[bytes, int | None, int | None]:
    """A drawing written anew, and the width and height that it names, in pixels; raises `BadFile` with what it may not hold."""
    root = _parsed(name, data)
    around = [*root.itersiblings(preceding=True), *root.itersiblings()]
    for count, element in enumerate([*around, *root.iter()]):
        if count > MOST:
            raise _refused(name, "too_many_elements", most=MOST)
        _check_element(name, element)
    try:
        made: bytes = filter_svg(etree.tostring(root), _KEPT)
    except ValueError as error:
        raise BadFile("svg.damaged", name=name, error=error) from None
    return made, _length(root.get("width")), _length(root.get("height"))


def _parsed(name: str, data: bytes) -> etree._Element:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise _refused(name, "not_utf_8") from None
    declared = re.match(r"\s*<\?xml[^>]*?encoding\s*=\s*['\"]([^'\"]*)", text)
    if "\0" in text or (declared and declared[1].lower() not in ("utf-8", "us-ascii")):
        raise _refused(name, "not_utf_8")
    if "<!DOCTYPE" in text.upper() or "<!ENTITY" in text.upper():
        raise _refused(name, "entities")
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, encoding="utf-8"
    )
    try:
        root = etree.fromstring(text.encode(), parser)
    except etree.XMLSyntaxError as error:
        raise BadFile("svg.damaged", name=name, error=error) from None
    if etree.QName(root) != etree.QName(_SVG, "svg"):
        raise _refused(name, "no_svg", element=etree.QName(root).localname)
    return root


def _check_element(name: str, element: etree._Element) -> None:
    if isinstance(element, etree._ProcessingInstruction):
        raise _refused(name, "instruction")
    if not isinstance(element.tag, str):
        return
    tag = etree.QName(element)
    if tag.namespace in (_SVG, None) and tag.localname not in _ELEMENTS:
        code = "script" if tag.localname == "script" else "element"
        raise _refused(name, code, element=tag.localname)
    if tag.namespace == _XHTML or tag.localname.lower() in ("script", "iframe", "object", "embed"):
        raise _refused(name, "element", element=tag.localname)
    if tag.localname == "style":
        _check_style(name, "".join(element.itertext()), "styles")
    for key, value in element.attrib.items():
        attribute = etree.QName(key)
        if attribute.localname.lower().startswith("on"):
            raise _refused(name, "runs", attribute=attribute.localname)
        if attribute.localname in ("href", "src"):
            if not _OWN.match(str(value)):
                raise _refused(name, "leads_elsewhere", to=str(value)[:60])
            element.set(key, _own(name, str(value)))
        else:
            _check_style(name, str(value), "fetches", attribute=attribute.localname)


def _check_style(name: str, text: str, why: str, **facts: str) -> None:
    """Refuse what could be more than it looks like: a comment may hide a rule, and an escape any letter (CSS Syntax 3, 4.1)."""
    bare = _COMMENT.sub("", text)
    if "\\" in bare or _ELSEWHERE.search(bare) or _ELSEWHERE.search(text):
        raise _refused(name, why, **facts)


def _own(name: str, address: str) -> str:
    """The address of a part of the drawing, or of a picture inside it, which loses what tells where it was made."""
    if not _PICTURE.match(address):
        return address.strip()
    start, _, coded = address.strip().partition(",")
    try:
        data = base64.b64decode("".join(coded.split()), validate=True)
        with Image.open(io.BytesIO(data), formats=list(metadata.CLEANERS)) as picture:
            kind, turned = picture.format or "", picture.getexif().get(metadata.ORIENTATION, 1)
        data = metadata.without(kind, data, turned)
    except metadata.BROKEN:
        raise _refused(name, "damaged_picture") from None
    return f"{start.lower()},{base64.b64encode(data).decode()}"


def _refused(name: str, why: str, **facts: Any) -> BadFile:
    return BadFile("svg.refused", name=name, why=said(f"svg.why.{why}", **facts))


def _length(text: str | None) -> int | None:
    found = re.match(r"^\s*([0-9.]+)(px)?\s*$", text or "")
    try:
        return round(float(found[1])) or None if found else None
    except ValueError:
        return None
