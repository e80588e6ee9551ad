"""XML from outside, read as a whole: no entities, no DTD, no network. And what is done with XML of our own."""

from __future__ import annotations

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


def not_well_formed(error: etree.XMLSyntaxError) -> BadFile:
    """What is said of a document that cannot be read, with the place."""
    line, column = error.position
    return BadFile("formats.not_well_formed", error=error.msg, line=line, column=column)


def append(node: etree._Element, text: str) -> None:
    """Put a text behind what a node holds."""
    if len(node):
        node[-1].tail = (node[-1].tail or "") + text
    else:
        node.text = (node.text or "") + text
