"""IFC, as it is and packed."""

from __future__ import annotations

import zipfile
from collections.abc import Mapping
from pathlib import Path

from eurythm.exchange.intake.received import Received
from eurythm.exchange.readers.base import Head, Progress, Reader
from eurythm.model.errors import EurythmError

MOST_UNPACKED = 1_000_000_000
MOST_RATIO = 200
BEGINS = b"ISO-10303-21"


def read(path: Path, name: str, ask: Mapping[str, str], progress: Progress) -> Received:
    """Read a STEP file."""
    from eurythm.exchange.ifc.read import read_ifc

    return read_ifc(path, name, progress)


def read_packed(path: Path, name: str, ask: Mapping[str, str], progress: Progress) -> Received:
    """Read the one IFC file of an archive; nothing is unpacked that would grow beyond measure."""
    try:
        with zipfile.ZipFile(path) as archive:
            entries = [e for e in archive.infolist() if e.filename.casefold().endswith(".ifc") and not e.is_dir()]
            if len(entries) != 1:
                raise EurythmError("wrong-archive", f"“{name}” should hold one IFC file; it holds {len(entries)}.", name)
            entry = entries[0]
            if entry.flag_bits & 1:
                raise EurythmError("locked-file", f"“{name}” is locked with a password; save it without one.", name)
            if entry.file_size > MOST_UNPACKED or entry.file_size > MOST_RATIO * max(entry.compress_size, 1):
                raise EurythmError("too-large", f"“{name}” would unpack to {entry.file_size / 1e6:.0f} MB; that is not read.", name)
            inner = path.with_suffix(".unpacked.ifc")
            with archive.open(entry) as source, inner.open("wb") as target:
                left = entry.file_size
                while left > 0 and (block := source.read(min(1 << 20, left))):
                    left -= len(block)
                    target.write(block)
    except (zipfile.BadZipFile, NotImplementedError, OSError) as fault:
        raise EurythmError("wrong-archive", f"“{name}” cannot be unpacked: {fault!s:.120}.", name) from None
    try:
        with inner.open("rb") as file:
            if not Head(file.read(64), entry.file_size, None).text.startswith(BEGINS):
                raise EurythmError("wrong-archive", f"What “{name}” holds is called IFC, but its content is not.", name)
        return read(inner, Path(name).with_suffix(".ifc").name, ask, progress)
    finally:
        inner.unlink(missing_ok=True)


READERS = (
    Reader("ifc", "IFC", (".ifc",), "model", lambda head: head.text.startswith(BEGINS), read),
    Reader(
        "ifczip", "IFC, packed", (".ifczip",), "model",
        lambda head: head.first.startswith(b"PK\x03\x04") and head.said in (None, "ifczip"), read_packed,
    ),
)  # fmt: skip
