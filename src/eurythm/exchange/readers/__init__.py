"""Which files are read: each format is a module of this folder that enters itself by its ``READERS``, and is found by that.

A module here is light; what reads a format is imported when a file of it comes.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from functools import cache
from importlib import import_module
from pathlib import Path
from pkgutil import iter_modules

from eurythm.exchange.intake.received import Received
from eurythm.exchange.readers.base import HEAD_BYTES, Brings, Head, Progress, Reader
from eurythm.model.errors import EurythmError

MOST_BYTES = 400_000_000


@cache
def found() -> tuple[Reader, ...]:
    """Return all readers, models first, in the order of their names."""
    readers: list[Reader] = []
    for module in iter_modules(__path__):
        readers += getattr(import_module(f"{__name__}.{module.name}"), "READERS", ())
    return tuple(sorted(readers, key=lambda r: (r.brings != "model", r.name.casefold())))


def bringing(what: Brings) -> list[Reader]:
    """Return the readers of what is wanted."""
    return [r for r in found() if r.brings == what]


def by_ending(name: str) -> Reader | None:
    """Return the reader that a file's ending asks for."""
    ending = Path(name).suffix.casefold()
    return next((r for r in found() if ending in r.endings), None)


def reader_of(path: Path, name: str) -> Reader:
    """Return the reader of a model by the file's content, whatever its name says.

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
    models = bringing("model")
    asked = next((r for r in models if Path(name).suffix.casefold() in r.endings), None)
    said = asked.id if asked else None
    with path.open("rb") as file:
        head = Head(file.read(HEAD_BYTES), size, said)
    looks = next((r for r in models if r.begins is not None and r.begins(head)), None)
    if looks is None and said is None:
        *most, last = (r.name for r in models if r.id != "ifczip")
        raise EurythmError("unknown-format", f"“{name}” is none of the formats that are read here: {', '.join(most)} and {last}.", name)
    if looks is None:
        raise EurythmError(
            "wrong-extension", f"“{name}” is called {said}, but its content is not {said}; it may be damaged, locked or misnamed.", name
        )
    if said is not None and said != looks.id:
        raise EurythmError("wrong-extension", f"“{name}” is called {said}, but its content is {looks.id}; rename it and try again.", name)
    return looks


def read(path: Path, name: str, ask: Mapping[str, str] | None = None, progress: Progress = lambda share, what: None) -> Received:
    """Read any file that a scheme can be made of.

    Parameters
    ----------
    ask : what the file does not say and the user told: ``unit`` and ``up`` of a mesh.

    Raises
    ------
    EurythmError
        Where it cannot be read; the sentence says why and where.
    """
    reader = reader_of(path, name)
    assert reader.read is not None
    return reader.read(path, name, ask or {}, progress).model_copy(update={"digest": digest_of(path)})


def digest_of(path: Path) -> str:
    """Return a digest of a file's bytes."""
    made = hashlib.blake2b(digest_size=16)
    with path.open("rb") as file:
        while block := file.read(1 << 20):
            made.update(block)
    return made.hexdigest()
