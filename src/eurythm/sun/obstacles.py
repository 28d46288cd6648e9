"""What stands in the light, as triangles: the building's own faces and shades, neighbours, trees."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from eurythm.geometry.building import Building, Vec
from eurythm.geometry.outline import rotation
from eurythm.model.place import Place


def triangles_of(loops: tuple[Vec, ...]) -> Vec:
    """Triangulate a flat polygon with holes in space, (t, 3, 3)."""
    outer = loops[0]
    if len(loops) == 1 and len(outer) == 3:
        return outer[None]
    if len(loops) == 1 and len(outer) == 4:
        halves = np.stack([outer[[0, 1, 2]], outer[[0, 2, 3]]])
        looks = np.cross(halves[:, 1] - halves[:, 0], halves[:, 2] - halves[:, 0])
        return halves if looks[0] @ looks[1] >= 0 else np.stack([outer[[1, 2, 3]], outer[[1, 3, 0]]])  # a corner points inward
    normal = np.sum(np.cross(outer, np.roll(outer, -1, axis=0)), axis=0)
    drop = int(np.argmax(np.abs(normal)))
    keep = [i for i in range(3) if i != drop]
    flat = Polygon(outer[:, keep], [hole[:, keep] for hole in loops[1:]])
    pieces = shapely.constrained_delaunay_triangles(flat)
    corners = np.array([np.asarray(t.exterior.coords)[:3] for t in pieces.geoms])
    out = np.zeros((len(corners), 3, 3))
    out[..., keep] = corners
    lift = outer[0]
    rest = (corners - lift[keep]) @ normal[keep]
    out[..., drop] = lift[drop] - rest / normal[drop]
    return out


def box_loops(corner: Vec, size: tuple[float, float, float], turn_deg: float) -> list[Vec]:
    """Faces of an upright box without its floor, turned clockwise about its corner; each (4, 3), m."""
    length, depth, height = size
    plan = np.array([[0, 0], [length, 0], [length, depth], [0, depth]]) @ rotation(turn_deg).T + corner[:2]
    return _upright(plan, float(corner[2]), height)


def footprint_loops(points: Vec, ground: float, height: float) -> list[Vec]:
    """Faces of an upright body over an outline in plan (k, 2), without its floor, m."""
    return _upright(np.asarray(shapely.geometry.polygon.orient(Polygon(points)).exterior.coords)[:-1], ground, height)


def _upright(ring: Vec, ground: float, height: float) -> list[Vec]:
    low = np.column_stack([ring, np.full(len(ring), ground)])
    high = low + [0.0, 0.0, height]
    return [high, *[np.array([low[i], low[i - len(ring) + 1], high[i - len(ring) + 1], high[i]]) for i in range(len(ring))]]


def neighbours(place: Place) -> list[tuple[str, list[Vec]]]:
    """The ids and faces of the boxes and footprints around, m, in the drawing's axes."""
    ground = place.ground_level_m
    boxes = [(b.id, box_loops(np.array([b.x, b.y, ground]), (b.length, b.depth, b.height), b.turn_deg)) for b in place.boxes if b.counts]
    return boxes + [
        (f.id, footprint_loops(np.array([[p.x, p.y] for p in f.points]), ground, f.height)) for f in place.footprints if f.counts
    ]


def crown_triangles(middle: Vec, width: float, height: float, form: str = "round") -> Vec:
    """A tree's crown about its middle, on an eight-sided belt, (t, 3, 3): a double pyramid, an upright prism, or one pyramid."""
    around = np.arange(8) * np.pi / 4
    ring = np.stack([np.cos(around) * width / 2, np.sin(around) * width / 2, np.zeros(8)], axis=1)
    top, foot = middle + [0, 0, height / 2], middle - [0, 0, height / 2]
    if form == "column":
        low, high = foot + ring, top + ring
        sides = [t for i in range(8) for t in ((low[i], low[i - 7], high[i]), (low[i - 7], high[i - 7], high[i]))]
        return np.array(sides + [(high[i], high[i - 7], top) for i in range(8)])
    belt = (foot if form == "cone" else middle) + ring
    return np.array([[belt[i], belt[(i + 1) % 8], tip] for tip in (top, foot) for i in range(8)])


@dataclass(frozen=True, eq=False)
class Obstacles:
    """What stands in the light, in layers that change at different times: (n, 3, 3) triangles each, m, in the drawing's axes.

    Attributes
    ----------
    solids : the building's own faces and the neighbours
    shades : overhangs and fins
    crowns : trees, which let part of the light through
    """

    solids: Vec
    shades: Vec
    crowns: Vec


def obstacles_of(building: Building, place: Place) -> Obstacles:
    """Collect the building's own faces, its shades, and the surroundings."""
    ground = place.ground_level_m
    solids = [triangles_of(f.loops) for f in building.faces if f.boundary in ("outdoors", "adiabatic", "fixed")]
    solids += [triangles_of((loop,)) for _, loops in neighbours(place) for loop in loops]
    shades = [triangles_of((s.corners,)) for s in building.shades]
    crowns = [
        crown_triangles(np.array([t.x, t.y, ground + t.height - 0.4 * t.height]), t.crown, 0.8 * t.height, t.form)
        for t in place.standing_trees
    ]
    none = [np.zeros((0, 3, 3))]
    return Obstacles(*(np.concatenate(layer or none) for layer in (solids, shades, crowns)))
