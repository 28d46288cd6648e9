"""gbXML."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from eurythm.exchange.intake.received import Received
from eurythm.exchange.readers.base import Head, Progress, Reader


def begins(head: Head) -> bool:
    """Any XML counts; what is none of gbXML is told by the reader."""
    return head.text.startswith(b"<") or b"<gbXML" in head.first.replace(b"\x00", b"")


def read(path: Path, name: str, ask: Mapping[str, str], progress: Progress) -> Received:
    """Read a gbXML file."""
    from eurythm.exchange.gbxml.read import read_gbxml

    return read_gbxml(path, name)


READERS = (Reader("gbxml", "gbXML", (".xml", ".gbxml"), "model", begins, read),)
