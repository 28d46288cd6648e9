"""Which face a window or a wall of a model belongs to."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import MultiPoint, Polygon, box

from eurythm.exchange.intake.received import Kind, ReceivedElement
from eurythm.geometry.building import Face, Vec

SUNK = 0.08
LEAST_SHARE = 0.3
PANES: frozenset[Kind] = frozenset({"window", "door", "curtain_wall", "panel", "opening"})


@dataclass(frozen=True)
class Laid:
    """An element laid onto a face: the area that they share, the span away from the face, and its rectangle there, m."""

    element: ReceivedElement
    face: Face
    shared: float
    near: float
    far: float
    bounds: tuple[float, float, float, float]


class Layout:
    """Faces of rooms, searchable by where they lie."""

    def __init__(self, faces: list[Face], reach: float) -> None:
        self._faces, self._reach = faces, reach
        low = np.array([f.loops[0].min(axis=0) for f in faces]).reshape(-1, 3) - reach
        high = np.array([f.loops[0].max(axis=0) for f in faces]).reshape(-1, 3) + reach
        self._low, self._high = low, high
        self._tree = STRtree(shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1]))
        self._flat = [Polygon(_onto(f, f.loops[0]), [_onto(f, hole) for hole in f.loops[1:]]).buffer(0) for f in faces]

    def under(self, element: ReceivedElement) -> list[Laid]:
        """Return the faces that an element covers, from just inside to as far off as the reach, the most covered first."""
        points = np.asarray(element.points, dtype=float)
        low, high = points.min(axis=0), points.max(axis=0)
        found = []
        for k in self._tree.query(box(low[0], low[1], high[0], high[1])):
            face = self._faces[k]
            if low[2] > self._high[k, 2] or high[2] < self._low[k, 2]:
                continue
            away = (points - face.loops[0][0]) @ face.normal
            near, far = float(away.min()), float(away.max())
            if near > self._reach or far < -SUNK or near < -self._reach:
                continue
            flat = _onto(face, points)
            hull = MultiPoint(flat).convex_hull
            if hull.area < 1e-4:
                continue
            shared = float(self._flat[k].intersection(hull).area)
            if shared > 1e-3:
                s0, t0 = flat.min(axis=0)
                s1, t1 = flat.max(axis=0)
                found.append(Laid(element, face, shared, near, far, (float(s0), float(t0), float(s1), float(t1))))
        return sorted(found, key=lambda laid: (-round(laid.shared, 3), abs(laid.near)))


def _onto(face: Face, points: Vec) -> Vec:
    away = points - face.origin
    return np.column_stack([away @ face.along, away @ np.cross(face.normal, face.along)])


def room_side(laid: list[Laid]) -> tuple[Laid | None, bool]:
    """Return the face that a pane is seen from, and whether there is a room on either side of it.

    The face that it covers most is the one that it is parallel to; a second one that looks the other way and is covered
    about as much lies in the room behind it.
    """
    if not laid:
        return None, False
    best = laid[0]
    behind = [o for o in laid[1:] if o.face.zone != best.face.zone and float(np.dot(o.face.normal, best.face.normal)) < -0.9]
    return best, any(o.shared > LEAST_SHARE * best.shared for o in behind)
