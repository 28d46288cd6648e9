"""Windows from glazing ratios, and overhangs and side fins by depth."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from eurythm.geometry.building import Building, Face, Shade, Vec, Window
from eurythm.model.scheme import FaceOverride, Skin
from eurythm.model.shape import GivenZone

MODULE_M = 3.0
MARGIN_M = 0.05
FULLEST = 0.97
LEAST_DEPTH = 0.01
SIDE = 1e-4


def place_openings(building: Building, skin: Skin, north_deg: float, given: tuple[GivenZone, ...] = ()) -> Building:
    """Return the building with windows and shades on its outdoor walls.

    Windows are repeated at a module of about 3 m, sill and head as given; where the ratio asks for more than fits
    between them, the head is raised first, then the sill lowered.
    """
    zones = [part for z in building.zones for part in (z.parts or (z,))]  # as they were before merging
    levels = {z.id: z.level for z in zones}
    by_ratio = {z.id for z in zones if not z.given} | {z.id for z in given if z.by_ratio}
    own = {(zone.id, face.id): face for zone in given for face in zone.faces}
    faces: list[Face] = []
    shades: list[Shade] = []
    for face in building.faces:
        face = _overridden(face, skin.overrides)
        zone = face.part or face.zone
        if face.kind == "wall" and face.boundary == "outdoors" and zone in by_ratio and not face.windows:
            side = face.orientation(north_deg)
            ratio = _ratio(face, skin)
            face = with_ratio(face, getattr(skin.glazing_ratio, side) if ratio is None else ratio, skin, levels[zone])
            overhang, fin = getattr(skin.overhang_depth_m, side), getattr(skin.fin_depth_m, side)
            if face.windows:
                head = max(w.z + w.height for w in face.windows)
                nominal = min(skin.head_m + levels[zone] - float(face.origin[2]), face.size[1] - MARGIN_M)
                shades += _shades(face, max(head, nominal), overhang, fin)
        elif face.boundary == "outdoors" and (zone, own_name(face)) in own:
            stated = own[zone, own_name(face)]
            if stated.overhang_depth_m > LEAST_DEPTH or stated.fin_depth_m > LEAST_DEPTH:
                whole = replace(face, module=face.size[0])
                shades += _shades(whole, face.size[1], stated.overhang_depth_m, stated.fin_depth_m)
        faces.append(face)
    return building.with_openings(tuple(faces), tuple(shades))


def own_name(face: Face) -> str:
    """The name that a zone given outright has for a face, whichever part of it this is."""
    return face.id.rpartition("/")[2].partition("#")[0]


def applies(override: FaceOverride, face: Face) -> bool:
    """Say whether an override is meant for a face."""
    volume, storey, edge = override.face.split("/")
    mine = face.edge.split("/")
    return len(mine) == 3 and mine[0] == volume and mine[2] == edge and storey in ("*", mine[1])


def _overridden(face: Face, overrides: tuple[FaceOverride, ...]) -> Face:
    for override in overrides:
        if applies(override, face):
            if override.boundary is not None and face.boundary != "zone":
                face = replace(face, boundary=override.boundary, boundary_c=override.boundary_c)
            if override.construction is not None:
                face = replace(face, construction=override.construction)
    return face


def _ratio(face: Face, skin: Skin) -> float | None:
    found = [o.glazing_ratio for o in skin.overrides if o.glazing_ratio is not None and applies(o, face)]
    return found[-1] if found else None


def lost_overrides(building: Building, skin: Skin) -> list[FaceOverride]:
    """Return overrides whose face no longer exists; they are kept and remarked on."""
    return [o for o in skin.overrides if not any(applies(o, f) for f in building.faces)]


def with_ratio(face: Face, ratio: float, skin: Skin, floor_level: float) -> Face:
    """Return the wall with windows that make up `ratio` of its area, as far as they fit below a slope."""
    width, height = face.size[0], _upright_height(face)
    count = max(1, round(width / MODULE_M))
    module = width / count
    face = replace(face, module=module)
    needed = min(ratio * face.area, FULLEST * width * height)
    if needed < 1e-4 or height < 0.5:
        return face
    lift = floor_level - float(face.origin[2])
    sill = min(max(skin.sill_m + lift, MARGIN_M), height - 0.3)
    head = min(max(skin.head_m + lift, sill + 0.2), height - MARGIN_M)
    each = needed / count
    wide = each / (head - sill)
    if wide > FULLEST * module:
        wide = FULLEST * module
        head = min(sill + each / wide, height * 0.995)
        sill = max(head - each / wide, height * 0.005)
        if each / wide > head - sill:  # the last few per cent: as wide as the module
            wide = min(each / (head - sill), module)
    tall = head - sill
    windows = tuple(Window(module * (k + 0.5) - wide / 2, sill, wide, tall) for k in range(count))
    return replace(face, windows=windows)


def _upright_height(face: Face) -> float:
    """Up to which height a wall is as wide as at its foot, m; 0 where it narrows from the foot on."""
    width, height = face.size
    if abs(face.area - width * height) < 1e-4 * face.area:
        return height
    upward = np.cross(face.normal, face.along)
    rings = [np.column_stack([(loop - face.origin) @ face.along, (loop - face.origin) @ upward]) for loop in face.loops]
    wall = Polygon(rings[0], rings[1:])
    places = np.clip(np.unique(np.round(np.concatenate([r[:, 0] for r in rings]), 6)), SIDE, width - SIDE)
    columns = shapely.intersection(shapely.linestrings([[(s, -1.0), (s, height + 1.0)] for s in places]), wall)
    low, high = shapely.bounds(columns)[:, [1, 3]].T
    broken = shapely.get_num_geometries(columns) > 1
    return 0.0 if np.isnan(low).any() or broken.any() or low.max() > 1e-3 else float(high.min())


def _shades(face: Face, head: float, overhang: float, fin: float) -> list[Shade]:
    shades = []
    up = np.array([0.0, 0.0, 1.0])
    a, b = face.origin, face.origin + face.along * face.size[0]
    if overhang > LEAST_DEPTH:
        out = face.normal * overhang
        corners = np.array([a + up * head, b + up * head, b + up * head + out, a + up * head + out])
        shades.append(Shade(face.id, np.round(corners, 6)))
    if fin > LEAST_DEPTH:
        out = face.normal * fin
        tall = _upright_height(face)
        for k in range(round(face.size[0] / face.module) + 1):
            foot: Vec = face.origin + face.along * min(k * face.module, face.size[0])
            top = foot + up * tall
            shades.append(Shade(face.id, np.round(np.array([foot, foot + out, top + out, top]), 6)))
    return shades
