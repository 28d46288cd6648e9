"""Reading XML from strangers: no entities, no network, no bombs."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from lxml import etree

from eurythm.model.errors import EurythmError

MOST_BYTES = 200_000_000


def parse_xml(path: Path, name: str) -> Any:
    """Return the root element of an XML file.

    Raises
    ------
    EurythmError
        ``not-xml`` with the line, ``xml-entities`` where the file defines entities, ``too-large``.
    """
    if path.stat().st_size > MOST_BYTES:
        raise EurythmError("too-large", f"“{name}” has more than {MOST_BYTES / 1e6:.0f} MB.", name)
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, dtd_validation=False, huge_tree=False, remove_comments=True
    )
    try:
        tree = etree.parse(str(path), parser)
    except etree.XMLSyntaxError as fault:
        where = f"line {fault.lineno}" if fault.lineno else name
        raise EurythmError("not-xml", f"“{name}” is no sound XML: {fault.msg!s:.160}.", where) from None
    dtd = tree.docinfo.internalDTD
    if dtd is not None and (dtd.external_id or dtd.system_url or next(iter(dtd.iterentities()), None) is not None):
        raise EurythmError("xml-entities", f"“{name}” defines entities of its own or refers to another file; that is not read.", name)
    return tree.getroot()
