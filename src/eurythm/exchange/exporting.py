"""A scheme as a file for other programs."""

from __future__ import annotations

from typing import Literal, get_args

from eurythm.brief.resolve import resolve
from eurythm.climate.year import ClimateYear
from eurythm.exchange.gbxml.write import write_gbxml
from eurythm.exchange.tables import rooms_csv
from eurythm.geometry.form import internal_areas
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.scheme import Scheme
from eurythm.simulate import building_of

Format = Literal["gbxml", "gbxml-ip", "ifc", "gltf", "glb", "csv"]
FORMATS: tuple[str, ...] = get_args(Format)
ENDINGS = {"gbxml": "xml", "gbxml-ip": "xml", "ifc": "ifc", "gltf": "gltf", "glb": "glb", "csv": "csv"}
MEDIA = {
    "gbxml": "application/xml",
    "gbxml-ip": "application/xml",
    "ifc": "application/x-step",
    "gltf": "model/gltf+json",
    "glb": "model/gltf-binary",
    "csv": "text/csv",
}


def by_ending(kind: str, name: str) -> str:
    """Return the format that a file's name asks for: of the two forms of glTF its ending decides, text or binary.

    Raises
    ------
    EurythmError
        ``other-ending`` where a model would be written under another format's name.
    """
    ending = name.rpartition(".")[2].casefold()
    if kind not in ("gltf", "glb"):
        return kind
    if ending not in ("gltf", "glb"):
        raise EurythmError("other-ending", f"“{name}” should end in .gltf (text) or .glb (binary).", "out")
    return ending


def export(place: Place, library: Library, scheme: Scheme, factors: Factors, climate: ClimateYear, kind: str) -> bytes:
    """Return a scheme as gbXML (SI or inch-pound), IFC, glTF (text, or binary as "glb"), or its rooms as CSV.

    Raises
    ------
    EurythmError
        ``no-such-format``, or what stands between the scheme and a model.
    """
    if kind not in FORMATS:
        raise EurythmError("no-such-format", f"There is no format “{kind}”; there are {', '.join(FORMATS)}.", "format")
    if not scheme.volumes and not scheme.zones:
        raise EurythmError("no-form", "Nothing is drawn yet: add a volume.", "scheme/volumes")
    building = building_of(place, scheme)
    if kind in ("gltf", "glb"):
        from eurythm.exchange.mesh.write import write_gltf

        return write_gltf(building, binary=kind == "glb")
    brief = resolve(place, library, scheme, climate)
    inside = internal_areas(building, brief.thickness)
    if kind == "csv":
        return rooms_csv(building, scheme, inside, place.north_deg).encode()
    if kind == "ifc":
        from eurythm.exchange.ifc.write import write_ifc

        return write_ifc(building, brief, inside).encode()
    return write_gbxml(brief, building, inside, "IP" if kind == "gbxml-ip" else "SI")
