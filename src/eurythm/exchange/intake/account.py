"""The account of an import: what was found, kept, left out, mended, and what it comes to."""

from __future__ import annotations

import re
from collections import Counter, defaultdict

from typing_extensions import TypedDict

from eurythm.exchange.intake.received import ReceivedSpace
from eurythm.exchange.intake.settle import Settled
from eurythm.fabric.opaque import u_value
from eurythm.model.amount import said


class UnitsTold(TypedDict):
    """Units that a file is written in."""

    length: str


class PlaceTold(TypedDict):
    """Where a file says that the building stands."""

    name: str
    latitude_deg: float | None
    longitude_deg: float | None
    elevation_m: float | None


class StoreyTold(TypedDict):
    """A storey of a file."""

    name: str
    elevation_m: float


class SpaceTold(TypedDict):
    """A space of a file, under the id that it has as a zone."""

    id: str
    source: str
    name: str
    number: str
    storey: str
    use: str
    floor_area_m2: float
    air_volume_m3: float
    kept: bool
    reason: str


class SideTold(TypedDict):
    """Outside walls of one side, and the windows in them."""

    wall_gross_m2: float
    window_m2: float


class AdjacencyTold(TypedDict):
    """What two spaces share."""

    a: str
    b: str
    kind: str
    area_m2: float


class ConstructionTold(TypedDict):
    """A construction of a file."""

    id: str
    name: str
    kind: str
    u_w_m2k: float


class GlazingTold(TypedDict):
    """A glazing of a file."""

    id: str
    name: str
    u_w_m2k: float
    g_value: float
    visible: float
    source: str


LeftOutTold = TypedDict("LeftOutTold", {"class": str, "count": int})
"""How many objects of a class were left out."""


class RemarkTold(TypedDict):
    """A finding."""

    code: str
    object: str
    sentence: str
    mended: bool


class Account(TypedDict):
    """The report of an import; see `account`."""

    file: str
    format: str
    version: str
    units: UnitsTold
    true_north_deg: float | None
    location: PlaceTold
    moved_m: list[float]
    reference_plane: str
    contact_gap_m: float
    zones_from: str
    storeys: list[StoreyTold]
    spaces: list[SpaceTold]
    orientation: dict[str, SideTold]
    roof_m2: float
    rooflight_m2: float
    ground_m2: float
    adjacency: list[AdjacencyTold]
    constructions: list[ConstructionTold]
    glazings: list[GlazingTold]
    left_out: list[LeftOutTold]
    taken_from_file: list[str]
    still_assumed: list[str]
    remarks: list[RemarkTold]


def account(settled: Settled) -> Account:
    """Return the report of an import as plain data.

    Orientations are true azimuths of outward normals, N from 315 to 45 degrees and so on clockwise. Areas lie on
    `reference_plane`. Spaces and adjacency name spaces by the same id.
    """
    received, building = settled.received, settled.building
    north = settled.north_deg
    sides: dict[str, SideTold] = {letter: {"wall_gross_m2": 0.0, "window_m2": 0.0} for letter in "NESW"}
    roof = ground = rooflights = 0.0
    adjacency: dict[tuple[str, str, str], float] = defaultdict(float)
    for face in building.faces:
        if face.other is not None:
            kind = "wall" if face.kind == "wall" else "floor"
            a, b = sorted((face.zone.split("/")[0], face.other.split("/")[0]))  # a mass is one space, whatever its storeys
            if a != b:
                adjacency[a, b, kind] += face.area
        elif face.boundary == "ground":
            ground += face.area if face.kind == "floor" else 0.0
        elif face.boundary == "outdoors" and face.kind == "wall":
            side = sides[face.orientation(north)[0].upper()]
            side["wall_gross_m2"] += face.area
            side["window_m2"] += face.window_area
        elif face.boundary == "outdoors" and face.kind == "ceiling":
            roof += face.area
            rooflights += face.window_area
    left = Counter(thing.class_name for thing in received.elements if not settled.verdicts[thing.id].keep)
    left.update(s.class_name for s in received.spaces if not settled.verdicts[s.id].keep)
    return {
        "file": received.file,
        "format": received.format,
        "version": received.version,
        "units": {"length": received.length_unit},
        "true_north_deg": received.true_north_deg,
        "location": {"name": received.place, "latitude_deg": received.latitude_deg, "longitude_deg": received.longitude_deg, "elevation_m": received.elevation_m},
        "moved_m": list(received.moved_m),
        "reference_plane": received.reference_plane,
        "contact_gap_m": settled.scheme.contact_gap_m,
        "zones_from": settled.basis,
        "storeys": [{"name": s.name, "elevation_m": s.elevation_m} for s in received.storeys],
        "spaces": [_space(settled, s) for s in received.spaces],
        "orientation": {
            k: {"wall_gross_m2": round(side["wall_gross_m2"], 4), "window_m2": round(side["window_m2"], 4)} for k, side in sides.items()
        },
        "roof_m2": round(roof, 4),
        "rooflight_m2": round(rooflights, 4),
        "ground_m2": round(ground, 4),
        "adjacency": [{"a": a, "b": b, "kind": kind, "area_m2": round(area, 4)} for (a, b, kind), area in sorted(adjacency.items())],
        "constructions": [
            {"id": c.id, "name": c.name, "kind": c.element, "u_w_m2k": round(u_value(c), 4)} for c in settled.library.constructions
        ],
        "glazings": [{"id": g.id, "name": g.name, "u_w_m2k": g.u_value, "g_value": g.g_value, "visible": g.visible, "source": g.source} for g in settled.library.glazings],
        "left_out": [{"class": name, "count": count} for name, count in sorted(left.items())],
        "taken_from_file": settled.taken,
        "still_assumed": settled.assumed,
        "remarks": [{"code": f.code, "object": f.object, "sentence": said(f.sentence), "mended": f.mended} for f in settled.findings],
    }  # fmt: skip


def _space(settled: Settled, space: ReceivedSpace) -> SpaceTold:
    verdict = settled.verdicts[space.id]
    zone = next((z for z in settled.scheme.zones if z.id == settled.ids[space.id]), None) if verdict.keep else None
    built = next((z for z in settled.building.zones if zone is not None and z.id == zone.id), None)
    storeys = {s.id: s.name for s in settled.received.storeys}
    area, volume = (built.gross_floor, built.gross_volume) if built is not None else (space.floor_area_m2, space.volume_m3)
    if space.kind == "mass" and verdict.keep:  # after overlapping ones have been cut
        piece = re.compile(rf"{re.escape(settled.ids[space.id])}(-\d+){{0,2}}")
        pieces = [z for z in settled.building.zones if piece.fullmatch(z.volume)]
        area, volume = sum(z.gross_floor for z in pieces), sum(z.gross_volume for z in pieces)
    return {
        "id": settled.ids[space.id],
        "source": space.id,
        "name": zone.name if zone is not None else space.name,
        "number": space.number,
        "storey": zone.storey if zone is not None else storeys.get(space.storey or "", ""),
        "use": space.use,
        "floor_area_m2": round(area, 4),
        "air_volume_m3": round(volume, 4),
        "kept": verdict.keep and (zone is not None or space.kind == "mass"),
        "reason": verdict.reason,
    }
