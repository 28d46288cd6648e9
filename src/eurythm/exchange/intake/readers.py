"""Which reader a file is for: by what it begins with, whatever its name says."""

from __future__ import annotations

import hashlib
import json
import zipfile
from collections.abc import Callable
from pathlib import Path

from eurythm.exchange.intake.received import Received
from eurythm.model.errors import EurythmError

Progress = Callable[[float, str], None]
MOST_BYTES = 400_000_000
MOST_UNPACKED = 1_000_000_000
MOST_RATIO = 200
SUFFIXES = {
    ".ifc": "ifc",
    ".ifczip": "ifczip",
    ".xml": "gbxml",
    ".gbxml": "gbxml",
    ".obj": "obj",
    ".stl": "stl",
    ".glb": "gltf",
    ".gltf": "gltf",
}
FORMATS = "IFC, gbXML, OBJ, STL and glTF"


def format_of(path: Path, name: str) -> str:
    """Return the format of a file by its content.

    Raises
    ------
    EurythmError
        ``empty-file``, ``too-large``, ``wrong-extension`` or ``unknown-format``.
    """
    size = path.stat().st_size
    if size == 0:
        raise EurythmError("empty-file", f"“{name}” is empty.", name)
    if size > MOST_BYTES:
        raise EurythmError("too-large", f"“{name}” has {size / 1e6:.0f} MB; up to {MOST_BYTES / 1e6:.0f} MB are read.", name)
    with path.open("rb") as file:
        head = file.read(4096)
    said = SUFFIXES.get(Path(name).suffix.casefold())
    found = _sniff(head, size, said)
    if found is None:
        if said is None:
            raise EurythmError("unknown-format", f"“{name}” is none of the formats that are read here: {FORMATS}.", name)
        raise EurythmError(
            "wrong-extension", f"“{name}” is called {said}, but its content is not {said}; it may be damaged, locked or misnamed.", name
        )
    if said is not None and said != found:
        raise EurythmError("wrong-extension", f"“{name}” is called {said}, but its content is {found}; rename it and try again.", name)
    return found


def _sniff(head: bytes, size: int, said: str | None) -> str | None:
    text = head.lstrip(b"\xef\xbb\xbf").lstrip()
    if text.startswith(b"ISO-10303-21"):
        return "ifc"
    if head.startswith(b"PK\x03\x04"):
        return "ifczip" if said in (None, "ifczip") else None
    if head.startswith(b"glTF") or (text.startswith(b"{") and said == "gltf"):
        return "gltf"
    if text.startswith(b"<") or b"<gbXML" in head.replace(b"\x00", b""):
        return "gbxml"
    if said == "stl" and (text.startswith(b"solid") or (size >= 84 and size == 84 + 50 * int.from_bytes(head[80:84], "little"))):
        return "stl"
    if (
        said == "obj"
        and b"\x00" not in head
        and any(
            line.lstrip()[:2] in (b"v ", b"o ", b"g ", b"# ", b"vn", b"mt", b"#") or line.startswith(b"#")
            for line in head.splitlines()[:50]
        )
    ):
        return "obj"
    return None


def read(path: Path, name: str, ask: dict[str, str] | None = None, progress: Progress = lambda share, what: None) -> Received:
    """Read any file that a scheme can be made of.

    Parameters
    ----------
    ask : what the file does not say and the user told: ``unit`` and ``up`` of a mesh.

    Raises
    ------
    EurythmError
        Where it cannot be read; the sentence says why and where.
    """
    kind = format_of(path, name)
    if kind == "ifczip":
        return _read_zip(path, name, progress)
    if kind == "ifc":
        from eurythm.exchange.ifc.read import read_ifc

        received = read_ifc(path, name, progress)
    elif kind == "gbxml":
        from eurythm.exchange.gbxml.read import read_gbxml

        received = read_gbxml(path, name)
    else:
        from eurythm.exchange.mesh.read import read_mesh

        received = read_mesh(path, name, kind, ask or {})
    return received.model_copy(update={"digest": digest_of(path)})


def digest_of(path: Path) -> str:
    """Return a digest of a file's bytes."""
    made = hashlib.blake2b(digest_size=16)
    with path.open("rb") as file:
        while block := file.read(1 << 20):
            made.update(block)
    return made.hexdigest()


def _read_zip(path: Path, name: str, progress: Progress) -> Received:
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
        return read(inner, Path(name).with_suffix(".ifc").name, None, progress)
    finally:
        inner.unlink(missing_ok=True)


def json_or_fault(text: bytes, name: str) -> object:
    """Decode JSON. Raises EurythmError ``not-json``."""
    try:
        return json.loads(text)
    except (ValueError, RecursionError) as fault:
        raise EurythmError("not-json", f"“{name}” is no sound JSON: {fault!s:.120}.", name) from None
