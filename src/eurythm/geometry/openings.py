"""Windows from glazing ratios, and overhangs and side fins by depth."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely
from shapely.geometry import Polygon

from eurythm.geometry.building import NO_LOUVRES, Building, Face, Louvres, Shade, Vec, Window
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError
from eurythm.model.scheme import FaceOverride, Orientation, Pattern, Scheme, Skin
from eurythm.model.shape import GivenZone, WindowRect

MODULE_M = 3.0
OPAQUE_DOOR = "door-opaque"
"""The shipped glazing of a door that has none of its own."""
MARGIN_M = 0.05
FULLEST = 0.97
MOST_ROOFLIGHTS = 2000
LEAST_DEPTH = 0.01
SIDE = 1e-4


@dataclass(frozen=True)
class Layout:
    """How windows and shades are laid on one wall: the scheme's way, changed by what the face does differently. Lengths in m.

    `own_band` says that the face has a sill or a head of its own; where the scheme's contradict each other, the brief says so.
    """

    ratio: float
    pattern: Pattern
    module: float
    width: float | None
    sill: float
    head: float
    own_band: bool
    placed: tuple[WindowRect, ...]
    overhang: float
    fin: float
    louvre: Louvres
    blinds: str | None


def layout_of(face: Face, skin: Skin, side: Orientation) -> Layout:
    """Return how windows and shades are laid on a wall; later overrides stand before earlier ones, and all before the scheme."""
    own: dict[str, Any] = {}
    for override in skin.overrides:
        if applies(override, face):
            own |= {name: value for name in _OF_FACE if (value := getattr(override, name)) is not None and value != ()}

    def of_side(values: Any, name: str) -> float:
        return float(own.get(name, getattr(values, side)))

    ratio_given = "glazing_ratio" in own
    return Layout(
        ratio=of_side(skin.glazing_ratio, "glazing_ratio"),
        pattern=own.get("pattern", skin.window_pattern),
        module=own.get("module_m", skin.window_module_m),
        width=own.get("window_width_m", None if ratio_given else skin.window_width_m),
        sill=own.get("sill_m", skin.sill_m),
        head=own.get("head_m", skin.head_m),
        own_band="sill_m" in own or "head_m" in own,
        placed=own.get("windows", ()),
        overhang=of_side(skin.overhang_depth_m, "overhang_m"),
        fin=of_side(skin.fin_depth_m, "fin_m"),
        louvre=Louvres(
            of_side(skin.louvre_depth_m, "louvre_m"), skin.louvre_spacing_m, own.get("louvre_kind", skin.louvre_kind) == "crossed"
        ),
        blinds=own.get("blinds"),
    )


_OF_FACE = (
    "glazing_ratio",
    "pattern",
    "module_m",
    "window_width_m",
    "sill_m",
    "head_m",
    "windows",
    "overhang_m",
    "fin_m",
    "louvre_m",
    "louvre_kind",
    "blinds",
)


def place_openings(building: Building, skin: Skin, north_deg: float, given: tuple[GivenZone, ...] = ()) -> Building:
    """Return the building with windows and shades on its outdoor walls.

    Windows are repeated at a module of about 3 m, sill and head as given; where the ratio asks for more than fits
    between them, the head is raised first, then the sill lowered.

    Raises
    ------
    EurythmError
        ``window-outside-face`` where a window placed by hand leaves its wall, ``head-below-sill`` where a face's own
        measures contradict each other.
    """
    zones = [part for z in building.zones for part in (z.parts or (z,))]  # as they were before merging
    by_id = {z.id: z for z in zones}
    by_ratio = {z.id for z in zones if not z.given} | {z.id for z in given if z.by_ratio}
    own = {(zone.id, face.id): face for zone in given for face in zone.faces}
    faces: list[Face] = []
    shades: list[Shade] = []
    for face in building.faces:
        face = _bounded(face, skin.overrides)
        zone = face.part or face.zone
        if face.kind == "wall" and face.boundary == "outdoors" and zone in by_ratio and not face.windows:
            side = face.orientation(north_deg)
            layout = layout_of(face, skin, side)
            face = with_windows(face, layout, by_id[zone].level, f"the {side} wall of “{by_id[zone].name}”")
            if face.windows:
                head = max(w.z + w.height for w in face.windows)
                nominal = min(layout.head + by_id[zone].level - float(face.origin[2]), face.size[1] - MARGIN_M)
                shades += _shades(face, max(head, nominal), layout.overhang, layout.fin)
                face = replace(face, louvres=layout.louvre if layout.louvre.depth > LEAST_DEPTH else NO_LOUVRES, blinds=layout.blinds)
        elif face.kind == "ceiling" and face.boundary == "outdoors" and zone in by_ratio and not face.windows:
            face = with_rooflights(face, skin)
        elif face.boundary == "outdoors" and (zone, own_name(face)) in own:
            stated = own[zone, own_name(face)]
            if stated.overhang_depth_m > LEAST_DEPTH or stated.fin_depth_m > LEAST_DEPTH:
                whole = replace(face, module=face.size[0])
                shades += _shades(whole, face.size[1], stated.overhang_depth_m, stated.fin_depth_m)
        faces.append(face)
    return building.with_openings(tuple(faces), tuple(shades))


def skin_north(scheme: Scheme, north_deg: float) -> float:
    """Return true north as the skin's sides count it: before the scheme was turned, where glass and shades turn with the building."""
    return north_deg - scheme.turn_deg if scheme.skin.turn_with == "building" else north_deg


def own_name(face: Face) -> str:
    """The name that a zone given outright has for a face, whichever part of it this is."""
    return face.id.rpartition("/")[2].partition("#")[0]


def applies(override: FaceOverride, face: Face) -> bool:
    """Say whether an override is meant for a face."""
    volume, storey, edge = override.face.split("/")
    mine = face.edge.split("/")
    return len(mine) == 3 and mine[0] == volume and mine[2] == edge and storey in ("*", mine[1])


def _bounded(face: Face, overrides: tuple[FaceOverride, ...]) -> Face:
    for override in overrides:
        if override.boundary is not None and face.boundary != "zone" and applies(override, face):
            face = replace(face, boundary=override.boundary, boundary_c=override.boundary_c)
    return face


def lost_overrides(building: Building, skin: Skin) -> list[FaceOverride]:
    """Return overrides whose face no longer exists; they are kept and remarked on."""
    return [o for o in skin.overrides if not any(applies(o, f) for f in building.faces)]


def with_windows(face: Face, layout: Layout, floor_level: float, called: str) -> Face:
    """Return the wall, called so where it is refused, with its windows: placed ones, else as much of its area as the ratio says, as far as they fit below a slope."""
    if layout.placed:
        return _placed(face, layout.placed, called)
    width, height = face.size[0], _upright_height(face)
    count = max(1, round(width / layout.module))
    module = width / count
    face = replace(face, module=module)
    if layout.own_band and layout.head <= layout.sill + 0.05:
        raise EurythmError(
            "head-below-sill",
            f"The window head ({amount(layout.head, 'm')}) is not above the sill ({amount(layout.sill, 'm')}) of {called}.",
            "scheme/skin/overrides",
        )
    needed = min(layout.ratio * face.area, FULLEST * width * height)
    if height < 0.5 or (needed < 1e-4 and layout.width is None):
        return face
    lift = floor_level - float(face.origin[2])
    sill = min(max(layout.sill + lift, MARGIN_M), height - 0.3)
    head = min(max(layout.head + lift, sill + 0.2), height - MARGIN_M)
    if layout.pattern == "ribbon":
        return replace(face, windows=(_ribbon(width, height, needed, sill, head),))
    if layout.pattern == "storey_high":
        sill, head = MARGIN_M, height - MARGIN_M
    elif layout.width is not None:
        needed = min(layout.width, FULLEST * module) * count * (head - sill)
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


def with_rooflights(face: Face, skin: Skin) -> Face:
    """Return a roof with even squares of glass: as much of its area as the ratio says, as far as they fit.

    They stand on a grid along the roof's longest side; where too few fit to make up the ratio, they stand closer.
    """
    needed = skin.rooflight_ratio * face.area
    if needed < 1e-3:
        return face
    along = _longest_side(face.loops[0])
    upward = np.cross(face.normal, along)
    rings = [np.column_stack([loop @ along, loop @ upward]) for loop in face.loops]
    low = np.min(rings[0], axis=0)
    roof = Polygon(rings[0] - low, [ring - low for ring in rings[1:]])
    size = np.max(rings[0], axis=0) - low
    best = max(
        (_lights_on(roof, size, needed, skin.rooflight_module_m / closer) for closer in (1.0, 1.5, 2.25, 3.4, 5.0)), key=lambda w: w[0]
    )
    origin = low[0] * along + low[1] * upward + float(face.loops[0][0] @ face.normal) * face.normal
    windows = tuple(replace(w, glazing=skin.rooflight_glazing) for w in best[1])
    return replace(face, windows=windows, origin=origin, along=along, size=(float(size[0]), float(size[1])))


def _longest_side(loop: Vec) -> Vec:
    sides = np.roll(loop, -1, axis=0) - loop
    longest: Vec = sides[np.argmax(np.linalg.norm(sides, axis=1))]
    return longest / np.linalg.norm(longest)


def _lights_on(roof: Polygon, size: Vec, needed: float, module: float) -> tuple[float, tuple[Window, ...]]:
    """Squares on an even grid that lie within the roof, and their area; wider spacing stands first where both make up the ratio."""
    counts = np.maximum(np.round(size / module), 1).astype(int)
    if counts.prod() > MOST_ROOFLIGHTS:
        return 0.0, ()
    step = size / counts
    middles = np.stack(np.meshgrid(*[(np.arange(n) + 0.5) * s for n, s in zip(counts, step, strict=True)], indexing="ij"), -1).reshape(
        -1, 2
    )
    side = float(np.sqrt(needed / len(middles)))
    for _ in range(12):  # what does not fit is made up by the others, as far as there is room
        side = min(side, FULLEST * float(step.min()))
        squares = shapely.box(*(middles - side / 2).T, *(middles + side / 2).T)
        fits = shapely.contains_properly(roof, squares)
        if not fits.any():
            return 0.0, ()
        wanted = float(np.sqrt(needed / fits.sum()))
        if wanted <= side * 1.001 or side >= FULLEST * float(step.min()) - 1e-9:
            break
        side = wanted
    side = min(side, wanted)
    windows = tuple(Window(float(s - side / 2), float(z - side / 2), side, side) for s, z in middles[fits])
    return round(side * side * len(windows), 6), windows


def _ribbon(width: float, height: float, needed: float, sill: float, head: float) -> Window:
    """One window along the wall, as tall as the ratio asks for: down from the head, below the sill and up above the head where it must."""
    wide = FULLEST * width
    tall = min(needed / wide, 0.99 * height)
    foot = head - tall if tall <= head - 0.005 * height else 0.005 * height
    return Window((width - wide) / 2, max(foot, 0.005 * height), wide, tall)


def _placed(face: Face, rects: tuple[WindowRect, ...], called: str) -> Face:
    """The wall with windows placed one by one, from its lower left corner seen from outside."""
    width, height = face.size
    for w in rects:
        if w.x + w.width > width + 1e-3 or w.z + w.height > height + 1e-3:
            raise EurythmError(
                "window-outside-face",
                f"A {w.kind} reaches {amount(w.x + w.width, 'm')} by {amount(w.z + w.height, 'm')}, beyond {called}, which is {amount(width, 'm', 2)} by {amount(height, 'm', 2)}.",
                "scheme/skin/overrides",
            )
    boxes = [shapely.box(w.x, w.z, w.x + w.width, w.z + w.height) for w in rects]
    if shapely.union_all(boxes).area < sum(b.area for b in boxes) - 1e-4:
        raise EurythmError("windows-overlap", f"Windows placed on {called} overlap.", "scheme/skin/overrides")
    windows = tuple(Window(w.x, w.z, w.width, w.height, w.glazing or (OPAQUE_DOOR if w.kind == "door" else None)) for w in rects)
    return replace(face, windows=windows, module=width / max(1, round(width / MODULE_M)))


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
