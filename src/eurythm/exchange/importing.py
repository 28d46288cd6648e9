"""Any file to a bundle with an account of it, as the command line does it in one go."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from eurythm.exchange.geojson import read_geojson
from eurythm.exchange.intake.account import Account, account
from eurythm.exchange.intake.merge import merge
from eurythm.exchange.intake.process import Limits, read_apart
from eurythm.exchange.intake.received import Received
from eurythm.exchange.intake.settle import settle
from eurythm.exchange.intake.sift import Sift
from eurythm.exchange.readers import by_ending
from eurythm.model.amount import said
from eurythm.model.errors import EurythmError
from eurythm.model.part import part_of
from eurythm.model.project import Bundle
from eurythm.model.reading import dump, read_document
from eurythm.model.scheme import Scheme

SHAPE = tuple(name for name in Scheme.model_fields if part_of(Scheme, name).group in ("form", "turn"))
"""What of a scheme an imported model replaces."""


def import_file(
    path: Path, into: Bundle | None = None, sift: Sift | None = None, ask: Mapping[str, str] | None = None, limits: Limits | None = None
) -> tuple[Bundle, Mapping[str, Any]]:
    """Read a file apart and settle it.

    Parameters
    ----------
    into : a bundle whose place, library, factors, use, skin and plant are kept; its shape is replaced.
    ask : what the file does not say, see `exchange.mesh.read`.

    Raises
    ------
    EurythmError
        Where the file cannot be read, or nothing in it can be made a zone.
    """
    reader = by_ending(path.name)
    if reader is not None and reader.brings == "surroundings":
        return _surroundings(path, into)
    received = read_apart(path, path.name, ask, limits)
    return settled_bundle(received, sift or Sift(), into)


def settled_bundle(received: Received, sift: Sift, into: Bundle | None) -> tuple[Bundle, Account]:
    """Settle what was received into a bundle, with its account."""
    base = into or Bundle(scheme=Scheme(id="imported", name=received.project or Path(received.file).stem or "Imported"))
    kept = {k: v for k, v in dump(base.scheme).items() if k not in SHAPE}
    known = {z.source: z.id for z in base.scheme.zones if z.source}
    settled = settle(received, sift, kept, base.place, known)
    merged = merge(settled, base.place, base.library)
    settled.findings += merged.findings
    data = dump(base) | {"place": dump(merged.place), "library": dump(merged.library), "scheme": dump(merged.scheme)}
    return read_document(Bundle, data), account(settled)


def _surroundings(path: Path, into: Bundle | None) -> tuple[Bundle, dict[str, Any]]:
    if into is None:
        raise EurythmError("into-needed", "Surroundings need a bundle to go into; give one with --into.", "into")
    try:
        text = path.read_bytes()
    except OSError as fault:
        raise EurythmError("unreadable-file", f"{path} cannot be read: {fault!s:.120}.", str(path)) from None
    here = {f.id for f in into.place.footprints} | {b.id for b in into.place.boxes}
    found = read_geojson(text, path.name, into.place, here)
    place = into.place.model_copy(update={"footprints": (*into.place.footprints, *found.footprints)})
    report = {
        "file": path.name, "format": "geojson", "units": {"length": "degrees"}, "footprints": [f.model_dump(mode="json") for f in found.footprints],
        "remarks": [{"code": f.code, "object": f.object, "sentence": said(f.sentence), "mended": f.mended} for f in found.findings],
    }  # fmt: skip
    return into.model_copy(update={"place": place}), report
