"""From a scheme's shape to a building: outlines, storeys, zones, contact."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from eurythm.geometry.building import Building, Face, Vec, Window, Zone
from eurythm.geometry.contact import Prism, faces_of
from eurythm.geometry.merging import merge_zones
from eurythm.geometry.outline import Outline, PlacedOutline, rotation, scheme_outlines
from eurythm.geometry.zoning import divide
from eurythm.model.errors import EurythmError
from eurythm.model.scheme import Scheme
from eurythm.model.shape import GivenZone, ZoneFace

ON_EDGE = 1e-4
COMPASS = ("north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west")
SIDES = ("south", "east", "north", "west")


def make_building(scheme: Scheme, ground_level: float) -> Building:
    """Return zones and faces of a scheme, without openings.

    Raises
    ------
    EurythmError
        Where a form is impossible (crossing itself, overlapping another), with the path of the volume.
    """
    outlines = scheme_outlines(scheme)
    prisms = [p for volume in scheme.volumes for p in _volume_prisms(scheme, volume.id, outlines[volume.id])]
    boxes = [z for z in scheme.zones if z.box is not None]
    prisms += [_box_prism(z, scheme.turn_deg) for z in boxes]
    ids = [p.zone.id for p in prisms] + [z.id for z in scheme.zones if z.box is None]
    doubled = {i for i in ids if ids.count(i) > 1}
    if doubled:
        raise EurythmError("doubled-id", f"Two things bear the id “{min(doubled)}”.", f"zones/{min(doubled)}")
    faces = faces_of(prisms, ground_level) if prisms else []
    for zone in boxes:
        faces = _stated_sides(zone, faces, scheme.turn_deg)
    zones = [p.zone for p in prisms]
    for zone in scheme.zones:
        if zone.box is None:
            polyhedron, own = _polyhedron(zone, scheme.turn_deg, ids)
            zones.append(polyhedron)
            faces += own
    footprint = shapely.union_all([o.placed.polygon for o in outlines.values()] + [p.plan for p in prisms]).area if prisms else 0.0
    return merge_zones(Building(tuple(zones), tuple(faces), footprint_m2=float(footprint)), scheme.merged)


def _volume_prisms(scheme: Scheme, volume_id: str, outline: PlacedOutline) -> list[Prism]:
    volume = next(v for v in scheme.volumes if v.id == volume_id)
    ids = [s.id for s in volume.storeys]
    if len(set(ids)) != len(ids):
        raise EurythmError("doubled-id", "Two storeys of this volume bear the same id.", f"volumes/{volume_id}/storeys")
    prisms = []
    level = volume.base_level_m
    for number, storey in enumerate(volume.storeys):
        parts = divide(outline.own, storey.zoning or volume.zoning)
        names = _sides_in_words([part.key for part in parts], outline.placed)
        for part, where in zip(parts, names, strict=True):
            plan = shapely.transform(part.polygon, outline.place)
            zone = Zone(
                id=f"{volume_id}/{storey.id}/{part.key}",
                name=f"{volume.name or volume_id}, {storey.name or f'storey {number}'}{where}",
                volume=volume_id,
                storey=storey.id,
                level=round(level, 6),
                height=storey.height_m,
                plan=plan,
                gross_floor=float(plan.area),
                gross_volume=float(plan.area) * storey.height_m,
            )
            prisms.append(Prism(zone, _edge_names(part.polygon, outline.own)))
        level += storey.height_m
    return prisms


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


def _box_prism(zone: GivenZone, turn_deg: float) -> Prism:
    box = zone.box
    assert box is not None
    corners = np.array([[0, 0], [box.length, 0], [box.length, box.depth], [0, box.depth]]) + [box.x, box.y]
    plan = Polygon(np.round(corners @ rotation(turn_deg).T, 6))
    made = Zone(
        id=zone.id,
        name=zone.name or zone.id,
        volume=zone.id,
        storey="0",
        level=box.z,
        height=box.height,
        plan=plan,
        gross_floor=box.length * box.depth,
        gross_volume=box.length * box.depth * box.height,
        profile=zone.profile,
        given=True,
    )
    return Prism(made, (SIDES,))


def _stated_sides(zone: GivenZone, faces: list[Face], turn_deg: float) -> list[Face]:
    """Apply what a box zone states about its sides: id, boundary, construction, windows."""
    stated = {f.side: f for f in zone.faces if f.side is not None}
    if len(stated) != len(zone.faces):
        raise EurythmError("face-without-side", "Each face of a box names a different side.", f"zones/{zone.id}/faces")
    done = []
    for face in faces:
        side = face.edge.rpartition("/")[2] if face.kind == "wall" else {"ceiling": "roof", "floor": "floor"}[face.kind]
        if face.zone == zone.id and face.other is None and side in stated:
            face = _as_stated(face, stated[side], zone.id, f"{zone.id}/{stated[side].id}")
        done.append(face)
    return done


def _as_stated(face: Face, stated: ZoneFace, zone_id: str, name: str) -> Face:
    windows = tuple(Window(w.x, w.z, w.width, w.height, w.glazing) for w in stated.windows)
    for w in windows:
        if face.kind == "wall" and (w.s + w.width > face.size[0] + 1e-6 or w.z + w.height > face.size[1] + 1e-6):
            raise EurythmError("window-outside-face", "This window reaches beyond its face.", f"zones/{zone_id}/faces/{stated.id}/windows")
    if windows and sum(w.area for w in windows) > face.area + 1e-6:
        raise EurythmError("window-outside-face", "The windows are larger than their face.", f"zones/{zone_id}/faces/{stated.id}/windows")
    return replace(
        face, id=name, windows=windows, construction=stated.construction or face.construction, boundary=stated.boundary or face.boundary,
        boundary_c=stated.boundary_c,
    )  # fmt: skip


def _polyhedron(zone: GivenZone, turn_deg: float, ids: list[str]) -> tuple[Zone, list[Face]]:
    """A zone by its faces; air volume by the divergence theorem, so the faces must close."""
    turn = rotation(turn_deg)
    path = f"zones/{zone.id}/faces"
    faces: list[Face] = []
    gross, gap, floor = 0.0, np.zeros(3), 0.0
    for stated in zone.faces:
        points = np.asarray(stated.corners, dtype=float)
        if points.ndim != 2 or len(points) < 3:
            raise EurythmError("face-without-corners", "A face of a polyhedron needs at least three corners.", f"{path}/{stated.id}")
        points = np.column_stack([points[:, :2] @ turn.T, points[:, 2]])
        vector = 0.5 * np.sum(np.cross(points, np.roll(points, -1, axis=0)), axis=0)
        area = float(np.linalg.norm(vector))
        if area < 1e-4:
            raise EurythmError("face-without-area", "This face has no area.", f"{path}/{stated.id}")
        normal = vector / area
        gross += float(np.dot(points.mean(axis=0), vector)) / 3
        gap = gap + vector
        kind = "wall" if abs(normal[2]) < 0.5 else "ceiling" if normal[2] > 0 else "floor"
        floor += area * -normal[2] if kind == "floor" else 0.0
        faces.append(_flat_face(zone.id, stated, points, normal, area, kind))
    if float(np.linalg.norm(gap)) > 0.01 * max(gross, 1.0) or gross <= 0:
        raise EurythmError("zone-not-closed", f"The faces of “{zone.id}” do not close, or look inwards.", path)
    level = min(float(f.loops[0][:, 2].min()) for f in faces)
    height = gross / max(floor, 1e-9) if floor > 0 else 0.0
    made = Zone(zone.id, zone.name or zone.id, zone.id, "0", level, height, None, floor, gross, zone.profile, True)
    return made, faces


def _flat_face(zone_id: str, stated: ZoneFace, points: Vec, normal: Vec, area: float, kind: str) -> Face:
    horizontal = np.array([-normal[1], normal[0], 0.0])
    long = float(np.linalg.norm(horizontal))
    along = horizontal / long if long > 1e-6 else np.array([1.0, 0.0, 0.0])
    upward = np.cross(normal, along)
    s, t = points @ along, points @ upward
    origin = points[0] + along * (s.min() - s[0]) + upward * (t.min() - t[0])
    face = Face(
        id=f"{zone_id}/{stated.id}",
        zone=zone_id,
        kind=kind,  # type: ignore[arg-type]
        boundary=stated.boundary if stated.boundary in ("ground", "adiabatic", "fixed") else "outdoors",
        loops=(np.round(points, 6),),
        normal=normal,
        area=area,
        construction=stated.construction,
        origin=origin,
        along=along,
        size=(float(np.ptp(s)), float(np.ptp(t))),
    )
    return _as_stated(face, stated.model_copy(update={"boundary": None}), zone_id, face.id)


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
            a, b = face.loops[0][0][:2], face.loops[0][1][:2]
            if deep > 0:
                strips.append(Polygon([a, b, b - out[:2] * deep, a - out[:2] * deep]))
        elif (face.kind == "ceiling") == ((face.part or face.zone) == zone.id):
            lost += deep * face.area / whole
    room = zone.plan.difference(shapely.union_all(strips)) if strips else zone.plan
    area = max(float(room.area), 0.05 * whole)
    return area * zone.gross_floor / whole, area * max(zone.height - lost, 0.3 * zone.height)
