"""XML from outside, read as a whole: no entities, no DTD, no network. And what is done with XML of our own."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from typing import BinaryIO

from lxml import etree

from hawthorn.core.errors import BadFile


def root_of(data: bytes) -> etree._Element:
    """The root of a document. Raises `BadFile` for one that is not well-formed, and for one that declares a document type."""
    try:
        root = etree.fromstring(
            data, etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
        )
    except etree.XMLSyntaxError as error:
        raise not_well_formed(error) from None
    if root.getroottree().docinfo.doctype:
        raise BadFile("formats.document_type")
    return root


def stream(
    file: BinaryIO, roots: Collection[str], each: Collection[str], no_such: str
) -> Iterator[etree._Element]:
    """The elements of some names (without their namespaces) in a document of any length, as they end, one by one; each is let go when the next
    is asked for. Raises `BadFile` (`no_such`) where the root has none of some names, and for one that declares entities."""
    root: etree._Element | None = None
    try:
        walk = etree.iterparse(
            file,
            events=("start", "end"),
            resolve_entities=False,
            no_network=True,
            load_dtd=False,
            huge_tree=False,
        )
        for event, element in walk:
            if root is None:
                root = element
                _begins(root, roots, no_such)
            if event == "end" and name_of(element) in each:
                yield element
                element.clear()
                while element.getprevious() is not None:
                    del element.getparent()[0]
    except etree.XMLSyntaxError as error:
        raise not_well_formed(error) from None
    if root is None:
        raise BadFile(no_such)


def _begins(root: etree._Element, roots: Collection[str], no_such: str) -> None:
    inside = root.getroottree().docinfo.internalDTD
    # The usual line names a DTD that is elsewhere; that is not fetched. One that brings entities along is another matter.
    if inside is not None and next(iter(inside.iterentities()), None) is not None:
        raise BadFile("formats.document_type")
    if name_of(root) not in roots:
        raise BadFile(no_such)


def name_of(element: etree._Element) -> str:
    """The name of an element without its namespace; empty for a comment."""
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


def not_well_formed(error: etree.XMLSyntaxError) -> BadFile:
    """What is said of a document that cannot be read, with the place."""
    line, column = error.position
    return BadFile(
        "formats.not_well_formed",
        error=error.msg.removesuffix(f", line {line}, column {column}"),
        line=line,
        column=column,
    )


def append(node: etree._Element, text: str) -> None:
    """Put a text behind what a node holds."""
    if len(node):
        node[-1].tail = (node[-1].tail or "") + text
    else:
        node.text = (node.text or "") + text
