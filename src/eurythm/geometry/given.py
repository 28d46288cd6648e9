"""Zones given outright: boxes, rooms by their outline, and polyhedra by all their faces."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from eurythm.geometry.building import Face, Kind, Shade, Vec, Window, Zone
from eurythm.geometry.contact import Prism
from eurythm.geometry.openings import OPAQUE_DOOR
from eurythm.geometry.outline import Points, oriented_ring, rotation
from eurythm.model.errors import EurythmError
from eurythm.model.shape import GivenShade, GivenZone, LeftOut, RoomOutline, ZoneFace

SIDES = ("south", "east", "north", "west")


@dataclass(frozen=True)
class Given:
    """A zone by its faces: those whose boundary is stated, and those that are still to meet something."""

    zone: Zone
    stated: tuple[Face, ...]
    loose: tuple[Face, ...]


def box_prism(zone: GivenZone, turn_deg: float, about: Points) -> Prism:
    """Return a box zone as a prism of the volumes' kind."""
    box = zone.box
    assert box is not None
    corners = np.array([[0, 0], [box.length, 0], [box.length, box.depth], [0, box.depth]]) + [box.x, box.y]
    plan = Polygon(_turned(corners, turn_deg, about))
    floor = box.length * box.depth
    return Prism(_zone(zone, box.z, box.height, plan, floor, floor * box.height), (SIDES,))


def state_sides(zone: GivenZone, faces: list[Face]) -> list[Face]:
    """Apply what a box zone states about its sides: id, boundary, construction, windows."""
    stated = _by_side(zone)
    done = []
    for face in faces:
        side = face.edge.rpartition("/")[2] if face.kind == "wall" else {"ceiling": "roof", "floor": "floor"}[face.kind]
        if face.zone == zone.id and face.other is None and side in stated:
            face = _as_stated(face, stated[side], zone, f"{zone.id}/{stated[side].id}")
        done.append(face)
    return done


def given_zone(zone: GivenZone, turn_deg: float, about: Points) -> Given:
    """Return a room by its outline, or a polyhedron, turned with its scheme.

    Raises
    ------
    EurythmError
        Where its outline crosses itself, its faces do not close, or a window reaches beyond its face.
    """
    return _room(zone, zone.outline, turn_deg, about) if zone.outline is not None else _polyhedron(zone, turn_deg, about)


def bystander(room: LeftOut, turn_deg: float, about: Points) -> Given:
    """Return a room that counts for contact only; its faces need not close."""
    zone = GivenZone.model_construct(id=room.id, name=room.name, outline=room.outline, faces=room.faces)
    return given_zone(zone, turn_deg, about) if zone.outline is not None else _polyhedron(zone, turn_deg, about, closing=False)


def given_shade(shade: GivenShade, turn_deg: float, about: Points) -> Shade:
    """Return a shade that stands by itself, turned with its scheme."""
    corners = np.asarray(shade.corners, dtype=float)
    return Shade(f"shade/{shade.id}", np.column_stack([_turned(corners[:, :2], turn_deg, about), corners[:, 2]]))


def name_of(zone: GivenZone) -> str:
    """Return what a zone given outright is called: its number and its name, by its id only where it has neither."""
    return " ".join(part for part in (zone.number, zone.name) if part) or zone.id


def _zone(zone: GivenZone, level: float, height: float, plan: Polygon | None, floor: float, volume: float) -> Zone:
    return Zone(
        id=zone.id,
        name=name_of(zone),
        volume=zone.id,
        storey=zone.storey or "0",
        level=round(level, 6),
        height=height,
        plan=plan,
        gross_floor=zone.floor_area_m2 or floor,
        gross_volume=zone.air_volume_m3 or volume,
        profile=zone.profile,
        given=True,
        furnished=zone.box is None,
    )


def _turned(points: Points, turn_deg: float, about: Points) -> Points:
    out: Points = np.round((points - about) @ rotation(turn_deg).T + about, 6) + 0.0
    return out


def _by_side(zone: GivenZone) -> Mapping[str, ZoneFace]:
    stated = {f.side: f for f in zone.faces if f.side is not None}
    if len(stated) != len(zone.faces):
        raise EurythmError(
            "face-without-side", f"Each face of “{name_of(zone)}” is to name another of its sides.", f"zones/{zone.id}/faces"
        )
    return stated


def room_rings(zone: GivenZone, outline: RoomOutline) -> tuple[list[Points], list[tuple[str, ...]]]:
    """Return the rings of a room with the names of their edges, the outer one counter-clockwise.

    Raises
    ------
    EurythmError
        ``outline-crosses-itself`` or ``outline-without-area``, with the room's path.
    """
    path, called = f"zones/{zone.id}/outline", name_of(zone)
    rings = [np.array([[p.x, p.y] for p in ring], dtype=float) for ring in (outline.points, *outline.courts)]
    names = [[p.id for p in ring] for ring in (outline.points, *outline.courts)]
    everything = [n for ring in names for n in ring]
    if len(set(everything)) != len(everything) or {"floor", "roof"} & set(everything):
        raise EurythmError("doubled-edge-id", f"Two sides of “{called}” bear the same id, or one is called floor or roof.", path)
    polygon = Polygon(rings[0], rings[1:])
    if not polygon.is_valid:
        reason = shapely.is_valid_reason(polygon)
        raise EurythmError("outline-crosses-itself", f"The outline of “{called}” crosses or touches itself ({reason}).", path)
    if polygon.area < 0.01:
        raise EurythmError("outline-without-area", f"The outline of “{called}” encloses no area.", path)
    pairs = [oriented_ring(ring, ids, ccw=k == 0) for k, (ring, ids) in enumerate(zip(rings, names, strict=True))]
    return [ring for ring, _ in pairs], [ids for _, ids in pairs]


def room_sides(zone: GivenZone, turn_deg: float, about: Points) -> list[tuple[str, Points, Points]]:
    """Return the sides of a room by its outline: name, start and end in plan, the room on the left, turned with its scheme."""
    if zone.outline is None:
        return []
    rings, names = room_rings(zone, zone.outline)
    placed = [_turned(ring, turn_deg, about) for ring in rings]
    return [(name, ring[k], ring[(k + 1) % len(ring)]) for ring, ids in zip(placed, names, strict=True) for k, name in enumerate(ids)]


def _room(zone: GivenZone, outline: RoomOutline, turn_deg: float, about: Points) -> Given:
    rings, names = room_rings(zone, outline)
    rings = [_turned(ring, turn_deg, about) for ring in rings]
    plan = Polygon(rings[0], rings[1:])
    low, high = outline.z, outline.z + outline.height
    stated = _by_side(zone)
    unknown = sorted(set(stated) - {n for ring in names for n in ring} - {"floor", "roof"})
    if unknown:
        raise EurythmError(
            "face-without-side",
            f"A face of “{name_of(zone)}” is for the side “{unknown[0]}”, which its outline does not have.",
            f"zones/{zone.id}/faces",
        )
    faces: list[tuple[Face, ZoneFace | None]] = []
    for ring, ids in zip(rings, names, strict=True):
        for k, name in enumerate(ids):
            a, b = ring[k], ring[(k + 1) % len(ring)]
            long = float(np.hypot(*(b - a)))
            if long < 1e-4:
                continue
            along = np.array([*((b - a) / long), 0.0])
            loop = np.array([[*a, low], [*b, low], [*b, high], [*a, high]])
            own = stated.get(name)
            face = Face(
                f"{zone.id}/{own.id if own else name}", zone.id, "wall", "outdoors", (np.round(loop, 6),),
                np.array([along[1], -along[0], 0.0]) + 0.0, long * outline.height, origin=np.array([*a, low]), along=along, size=(long, outline.height),
            )  # fmt: skip
            faces.append((face, own))
    kinds: tuple[tuple[str, Kind, float, float], ...] = (("floor", "floor", low, -1.0), ("roof", "ceiling", high, 1.0))
    for name, kind, level, up in kinds:
        own = stated.get(name)
        turned = shapely.geometry.polygon.orient(plan, sign=up)
        loops = tuple(
            np.column_stack([np.asarray(r.coords)[:-1], np.full(len(r.coords) - 1, level)]) for r in (turned.exterior, *turned.interiors)
        )
        origin, size = (
            np.array([plan.bounds[0], plan.bounds[1 if up > 0 else 3], level]),
            (plan.bounds[2] - plan.bounds[0], plan.bounds[3] - plan.bounds[1]),
        )
        face = Face(
            f"{zone.id}/{own.id if own else name}",
            zone.id,
            kind,
            "outdoors",
            loops,
            np.array([0, 0, up]),
            float(plan.area),
            origin=origin,
            size=size,
        )
        faces.append((face, own))
    done = [(_as_stated(f, own, zone, f.id) if own else f, own) for f, own in faces]
    fixed = tuple(f for f, own in done if own is not None and own.boundary is not None)
    loose = tuple(f for f, own in done if own is None or own.boundary is None)
    return Given(_zone(zone, low, outline.height, plan, float(plan.area), float(plan.area) * outline.height), fixed, loose)


def _as_stated(face: Face, stated: ZoneFace, zone: GivenZone, id: str) -> Face:
    windows = tuple(Window(w.x, w.z, w.width, w.height, w.glazing or (OPAQUE_DOOR if w.kind == "door" else None)) for w in stated.windows)
    path = f"zones/{zone.id}/faces/{stated.id}/windows"
    for w in windows:
        if face.kind == "wall" and (w.s + w.width > face.size[0] + 1e-3 or w.z + w.height > face.size[1] + 1e-3):
            raise EurythmError("window-outside-face", f"A window of “{name_of(zone)}” reaches beyond its wall.", path)
    if windows and sum(w.area for w in windows) > face.area + 1e-3:
        raise EurythmError("window-outside-face", f"The windows on a face of “{name_of(zone)}” are larger than it.", path)
    return replace(
        face, id=id, windows=windows, construction=stated.construction or face.construction, boundary=stated.boundary or face.boundary,
        other=stated.other if stated.boundary == "zone" else face.other, boundary_c=stated.boundary_c, air=stated.open,
    )  # fmt: skip


def _polyhedron(zone: GivenZone, turn_deg: float, about: Points, closing: bool = True) -> Given:
    """A zone by its faces; air volume by the divergence theorem, so the faces must close."""
    path = f"zones/{zone.id}/faces"
    faces: list[Face] = []
    gross, gap, floor = 0.0, np.zeros(3), 0.0
    for stated in zone.faces:
        points = np.asarray(stated.corners, dtype=float)
        if points.ndim != 2 or len(points) < 3:
            raise EurythmError("face-without-corners", f"A face of “{name_of(zone)}” has fewer than three corners.", f"{path}/{stated.id}")
        points = np.column_stack([_turned(points[:, :2], turn_deg, about), points[:, 2]])
        vector = 0.5 * np.sum(np.cross(points, np.roll(points, -1, axis=0)), axis=0)
        area = float(np.linalg.norm(vector))
        if area < 1e-4:
            raise EurythmError("face-without-area", f"A face of “{name_of(zone)}” has no area.", f"{path}/{stated.id}")
        normal = vector / area
        gross += float(np.dot(points.mean(axis=0), vector)) / 3
        gap = gap + vector
        kind: Kind = "wall" if abs(normal[2]) < 0.5 else "ceiling" if normal[2] > 0 else "floor"
        floor += area * -float(normal[2]) if kind == "floor" else 0.0
        faces.append(_flat_face(zone, stated, points, normal, area, kind))
    if closing and (float(np.linalg.norm(gap)) > 0.01 * max(gross, 1.0) or gross <= 0):
        raise EurythmError("zone-not-closed", f"The faces of “{name_of(zone)}” do not close, or look inwards.", path)
    level = min(float(f.loops[0][:, 2].min()) for f in faces)
    height = gross / max(floor, 1e-9) if floor > 0 else 0.0
    fixed = tuple(f for f, own in zip(faces, zone.faces, strict=True) if own.boundary is not None)
    loose = tuple(f for f, own in zip(faces, zone.faces, strict=True) if own.boundary is None)
    return Given(_zone(zone, level, height, None, floor, gross), fixed, loose)


def _flat_face(zone: GivenZone, stated: ZoneFace, points: Vec, normal: Vec, area: float, kind: Kind) -> Face:
    horizontal = np.array([-normal[1], normal[0], 0.0])
    long = float(np.linalg.norm(horizontal))
    along = horizontal / long if long > 1e-6 else np.array([1.0, 0.0, 0.0])
    upward = np.cross(normal, along)
    s, t = points @ along, points @ upward
    origin = points[0] + along * (s.min() - s[0]) + upward * (t.min() - t[0])
    face = Face(
        id=f"{zone.id}/{stated.id}",
        zone=zone.id,
        kind=kind,
        boundary="outdoors",
        loops=(np.round(points, 6),),
        normal=normal,
        area=area,
        construction=stated.construction,
        origin=origin,
        along=along,
        size=(float(np.ptp(s)), float(np.ptp(t))),
    )
    return _as_stated(face, stated, zone, face.id)


def pair_stated(faces: list[Face]) -> list[Face]:
    """Keep one of the two faces by which neighbours state their contact, and refuse what states one alone.

    Raises
    ------
    EurythmError
        ``no-such-zone`` where a face names a neighbour that does not exist.
    """
    towards: dict[tuple[str, str], list[Face]] = {}
    for face in faces:
        if face.other is not None:
            towards.setdefault((face.zone, face.other), []).append(face)
    dropped: set[str] = set()
    for (zone, other), mine in towards.items():
        theirs = towards.get((other, zone), [])
        if zone < other:
            for face in mine:
                free = [f for f in theirs if f.id not in dropped]
                twin = min(free, key=lambda f: float(np.linalg.norm(f.loops[0].mean(axis=0) - face.loops[0].mean(axis=0))), default=None)
                if twin is not None:
                    dropped.add(twin.id)
    return [f for f in faces if f.id not in dropped]
