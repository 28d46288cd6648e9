"""From a scheme's shape to a building: outlines, storeys, zones, contact."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping
from dataclasses import replace
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry import Polygon

from eurythm.geometry.building import Building, Face, Vec, Zone
from eurythm.geometry.contact import Prism, faces_of
from eurythm.geometry.facing import meet, overlapping, refuse_overlap
from eurythm.geometry.given import Given, box_prism, bystander, given_shade, given_zone, pair_stated, state_sides
from eurythm.geometry.merging import merge_zones
from eurythm.geometry.outline import Outline, PlacedOutline, Points, scheme_outlines, turning_point
from eurythm.geometry.roofs import roofed, slopes_of
from eurythm.geometry.zoning import Part, divide
from eurythm.model.errors import EurythmError
from eurythm.model.scheme import Scheme
from eurythm.model.shape import Volume, Zoning

ON_EDGE = 1e-4
COMPASS = ("north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west")


def make_building(scheme: Scheme, ground_level: float) -> Building:
    """Return zones and faces of a scheme, without openings.

    Raises
    ------
    EurythmError
        Where a form is impossible (crossing itself, overlapping another), with the path of the volume.
    """
    outlines = scheme_outlines(scheme)
    prisms, roofed_zones = _of_volumes(scheme, outlines)
    middle = turning_point(scheme)
    boxes = [z for z in scheme.zones if z.box is not None]
    prisms += [box_prism(z, scheme.turn_deg, middle) for z in boxes]
    given = roofed_zones + [given_zone(z, scheme.turn_deg, middle) for z in scheme.zones if z.box is None]
    _refuse_doubled([p.zone.id for p in prisms] + [g.zone.id for g in given] + [r.id for r in scheme.left_out])
    faces = faces_of(prisms, ground_level) if prisms else []
    for zone in boxes:
        faces = state_sides(zone, faces)
    zones = [p.zone for p in prisms]
    if given:
        zones += [g.zone for g in given]
        refuse_overlap(zones)
        bystanders = _bystanders(scheme, middle, zones)
        faces = _with_given(faces, given + bystanders, zones + [b.zone for b in bystanders], scheme.contact_gap_m, ground_level)
        faces = _without(faces, {b.zone.id for b in bystanders})
    plans = [o.placed.polygon for o in outlines.values()] + [z.plan for z in zones if z.plan is not None]
    footprint = float(shapely.union_all(plans).area) if plans else 0.0
    shades = tuple(given_shade(s, scheme.turn_deg, middle) for s in scheme.shades)
    return merge_zones(Building(tuple(zones), tuple(_with_borders(faces, scheme)), shades, footprint), scheme.merged)


def _with_borders(faces: list[Face], scheme: Scheme) -> list[Face]:
    """Mark what only divides an open storey into zones."""
    open_ones = tuple(f"{v.id}/{s.id}/" for v in scheme.volumes for s in v.storeys if (s.zoning or v.zoning).borders == "open")

    def divides(face: Face) -> bool:
        storey = face.zone.rpartition("/")[0] + "/"
        return face.kind == "wall" and storey in open_ones and (face.other or "").startswith(storey)

    return [replace(f, border=True) if f.other is not None and divides(f) else f for f in faces]


def _bystanders(scheme: Scheme, about: Points, zones: list[Zone]) -> list[Given]:
    """Rooms that count for contact only, but for those whose place a zone has taken since."""
    laid = [bystander(r, scheme.turn_deg, about) for r in scheme.left_out]
    return [g for g in laid if not overlapping([*zones, g.zone], of=g.zone)]


def _without(faces: list[Face], bystanders: set[str]) -> list[Face]:
    """The faces of zones alone; what they share with a room that is none loses nothing."""
    own = [f for f in faces if f.zone not in bystanders]
    return [replace(f, boundary="adiabatic", other=None) if f.other in bystanders else f for f in own]


def _refuse_doubled(ids: list[str]) -> None:
    doubled = [i for i, count in Counter(ids).items() if count > 1]
    if doubled:
        raise EurythmError("doubled-id", f"Two things bear the id “{min(doubled)}”.", f"zones/{min(doubled)}")


def _with_given(faces: list[Face], given: list[Given], zones: list[Zone], gap: float, ground_level: float) -> list[Face]:
    """Let zones given outright meet each other and the volumes. A stated neighbour that is gone leaves its face to be worked out."""
    known = {z.id for z in zones}
    stated = [f for g in given for f in g.stated]
    lost = [f for f in stated if f.boundary == "zone" and f.other not in known]
    kept = pair_stated([f for f in stated if f.boundary != "zone" or f.other in known])
    loose = [f for g in given for f in g.loose] + [replace(f, boundary="outdoors", other=None) for f in lost]
    open_air = [f for f in faces if f.other is None and f.boundary in ("outdoors", "ground")]
    met = [f for f in faces if f.other is not None or f.boundary not in ("outdoors", "ground")]
    return [*met, *kept, *meet(loose, open_air, zones, gap, ground_level, stated)]


def _of_volumes(scheme: Scheme, outlines: Mapping[str, PlacedOutline]) -> tuple[list[Prism], list[Given]]:
    """The zones of all volumes: upright prisms, and those of a top storey under a pitched roof."""
    upright: list[Prism] = []
    roofed_zones: list[Given] = []
    for volume in scheme.volumes:
        outline = outlines[volume.id]
        prisms = _volume_prisms(volume, outline)
        slopes = slopes_of(volume.roof, outline.placed, f"volumes/{volume.id}")
        for prism in prisms:
            if slopes is None or prism.zone.storey != volume.storeys[-1].id:
                upright.append(prism)
                continue
            zone, faces = roofed(prism.zone, prism.edges, slopes)
            roofed_zones.append(Given(zone, (), tuple(faces)))
    return upright, roofed_zones


def _volume_prisms(volume: Volume, outline: PlacedOutline) -> list[Prism]:
    ids = [s.id for s in volume.storeys]
    if len(set(ids)) != len(ids):
        raise EurythmError("doubled-id", "Two storeys of this volume bear the same id.", f"volumes/{volume.id}/storeys")
    prisms = []
    level = volume.base_level_m
    divided: dict[Zoning, list[_Divided]] = {}
    for number, storey in enumerate(volume.storeys):
        zoning = storey.zoning or volume.zoning
        if zoning not in divided:
            divided[zoning] = _divided(outline, zoning)
        for part, where, plan, edges in divided[zoning]:
            zone = Zone(
                id=f"{volume.id}/{storey.id}/{part.key}",
                name=f"{volume.name or volume.id}, {storey.name or f'storey {number}'}{where}",
                volume=volume.id,
                storey=storey.id,
                level=round(level, 6),
                height=storey.height_m,
                plan=plan,
                gross_floor=float(plan.area),
                gross_volume=float(plan.area) * storey.height_m,
            )
            prisms.append(Prism(zone, edges))
        level += storey.height_m
    return prisms


class _Divided(NamedTuple):
    """A part of a storey, as all storeys that are divided alike have it: where it lies in words, its plan and its edges."""

    part: Part
    where: str
    plan: Polygon
    edges: tuple[tuple[str, ...], ...]


def _divided(outline: PlacedOutline, zoning: Zoning) -> list[_Divided]:
    parts = divide(outline.own, zoning)
    names = _sides_in_words([part.key for part in parts], outline.placed)
    return [
        _Divided(part, where, shapely.transform(part.polygon, outline.place), _edge_names(part.polygon, outline.own))
        for part, where in zip(parts, names, strict=True)
    ]


def _sides_in_words(keys: list[str], outline: Outline) -> list[str]:
    """Name the zones of a storey by where they lie: ", south", ", south 2", ", core"; nothing for a whole storey."""
    looks: dict[str, str] = {}
    for ring, names in zip(outline.rings, outline.edges, strict=True):
        along = np.roll(ring, -1, axis=0) - ring
        bearing = np.degrees(np.arctan2(along[:, 1], -along[:, 0])) % 360  # of the outward normal
        looks |= {name: COMPASS[int((b + 22.5) % 360 // 45)] for name, b in zip(names, bearing, strict=True)}
    found: list[str] = []
    for key in keys:
        word = "" if key == "all" else f", {looks.get(key.split('.')[0], key)}"
        found.append(word if word not in found else f"{word} {sum(f.startswith(word) for f in found) + 1}")
    return found


def _edge_names(plan: Polygon, outline: Outline) -> tuple[tuple[str, ...], ...]:
    """For each segment of a zone's plan, the outline edge that it lies on, or ""."""
    edges = [
        (name, a, b)
        for ring, names in zip(outline.rings, outline.edges, strict=True)
        for name, a, b in zip(names, ring, np.roll(ring, -1, axis=0), strict=True)
    ]
    found = []
    for ring in (plan.exterior, *plan.interiors):
        points = np.asarray(ring.coords)
        found.append(tuple(_edge_under(points[k], points[k + 1], edges) for k in range(len(points) - 1)))
    return tuple(found)


def _edge_under(p: Vec, q: Vec, edges: list[tuple[str, Vec, Vec]]) -> str:
    for name, a, b in edges:
        along = (b - a) / np.hypot(*(b - a))
        normal = np.array([along[1], -along[0]])
        if (
            abs(np.dot(p - a, normal)) < ON_EDGE
            and abs(np.dot(q - a, normal)) < ON_EDGE
            and np.dot(q - p, along) > 0
            and np.dot(p - a, along) > -ON_EDGE
            and np.dot(q - b, along) < ON_EDGE
        ):
            return name
    return ""


def internal_areas(building: Building, thickness: Mapping[str, float]) -> dict[str, tuple[float, float]]:
    """Return internal floor area (m²) and air volume (m³) of every zone.

    Outside walls take their whole thickness, partitions half of theirs on each side; a storey's height loses the slab or
    roof above it. Zones given outright keep their sizes.

    Parameters
    ----------
    thickness : m, by construction element ("wall", "roof", ...).
    """
    by_zone: dict[str, list[Face]] = defaultdict(list)
    for face in building.faces:
        by_zone[face.part or face.zone].append(face)
        if face.other is not None:
            by_zone[face.other_part or face.other].append(face)
    return {z.id: _internal(z, by_zone, thickness) for z in building.zones}


def _internal(zone: Zone, by_zone: Mapping[str, list[Face]], thickness: Mapping[str, float]) -> tuple[float, float]:
    if zone.parts:
        sizes = [_internal(part, by_zone, thickness) for part in zone.parts]
        return sum(area for area, _ in sizes), sum(volume for _, volume in sizes)
    if zone.given or zone.plan is None:
        return zone.gross_floor, zone.gross_volume
    faces = by_zone[zone.id]
    whole = float(zone.plan.area)
    strips = []
    lost = 0.0
    for face in faces:
        deep = thickness.get(face.element, 0.0)
        if face.kind == "wall":
            deep = deep / 2 if face.other is not None else deep
            out = face.normal if (face.part or face.zone) == zone.id else -face.normal
            a = face.origin[:2]
            b = a + face.along[:2] * face.size[0]
            if deep > 0:
                strips.append(Polygon([a, b, b - out[:2] * deep, a - out[:2] * deep]))
        elif (face.kind == "ceiling") == ((face.part or face.zone) == zone.id):
            lost += deep * face.area / whole
    room = zone.plan.difference(shapely.union_all(strips)) if strips else zone.plan
    area = max(float(room.area), 0.05 * whole)
    mean = zone.gross_volume / whole
    return area * zone.gross_floor / whole, area * max(mean - lost, 0.3 * mean)
