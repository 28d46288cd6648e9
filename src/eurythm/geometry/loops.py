"""Loops of corners in space: their area and plane, closed, cut, straightened and as triangles."""

from __future__ import annotations

from collections.abc import Sequence

import mapbox_earcut
import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon, box

from eurythm.geometry.building import Vec
from eurythm.geometry.clean import areal

Triangles = NDArray[np.int64]
WELD = 1e-4
STRAIGHT = 1e-5


def between(vertices: Vec, candidates: NDArray[np.int64], a: int, b: int, near: float = WELD * 3) -> list[int]:
    """Those of the candidate vertices that lie on the way from one to another, in order."""
    way = vertices[b] - vertices[a]
    long = float(np.linalg.norm(way))
    if long < near:
        return []
    away = vertices[candidates] - vertices[a]
    along = away @ way / long
    off = np.linalg.norm(away - np.outer(along, way / long), axis=1)
    on = np.flatnonzero((off < near) & (along > near) & (along < long - near))
    return [int(candidates[k]) for k in on[np.argsort(along[on])]]


def chained(rim: Triangles) -> list[list[int]]:
    """Join directed edges to closed loops."""
    follow: dict[int, list[int]] = {}
    for a, b in rim:
        follow.setdefault(int(a), []).append(int(b))
    loops = []
    while follow:
        start = next(iter(follow))
        loop, here = [start], start
        while here in follow:
            onward = follow[here].pop()
            if not follow[here]:
                del follow[here]
            if onward == start:
                break
            loop.append(onward)
            here = onward
        loops.append(loop)
    return loops


def area_vector(loop: Vec) -> Vec:
    """Area vector of a polygon, m²: its length is the area, its direction the side from which it runs counter-clockwise."""
    out: Vec = 0.5 * np.sum(np.cross(loop, np.roll(loop, -1, axis=0)), axis=0)
    return out


def frame_of(normal: Vec) -> tuple[Vec, Vec]:
    """Two directions in a plane, the second as upright as can be; right-handed with the normal."""
    flat = np.array([-normal[1], normal[0], 0.0])
    long = float(np.linalg.norm(flat))
    across = flat / long if long > 1e-6 else np.array([1.0, 0.0, 0.0])
    return across, np.cross(normal, across)


def without_holes(polygon: Polygon) -> list[Polygon]:
    """Cut a polygon with holes into such without."""
    if not polygon.interiors:
        return [polygon]
    x0, y0, x1, y1 = polygon.bounds
    middle = polygon.interiors[0].centroid.x
    halves = [polygon.intersection(box(x0 - 1, y0 - 1, middle, y1 + 1)), polygon.intersection(box(middle, y0 - 1, x1 + 1, y1 + 1))]
    return [piece for half in halves for part in areal(half).geoms for piece in without_holes(part)]


def meshed(loops: Sequence[Vec]) -> tuple[Vec, Triangles]:
    """Return flat loops without holes as triangles that turn as their loop does and share no corners."""
    points: list[Vec] = []
    triangles: list[Triangles] = []
    at = 0
    for loop in loops:
        vector = area_vector(loop)
        across, up = frame_of(vector / max(float(np.linalg.norm(vector)), 1e-12))
        flat = np.column_stack([loop @ across, loop @ up])
        found = mapbox_earcut.triangulate_float64(flat, np.array([len(flat)], dtype=np.uint32)).reshape(-1, 3)
        a, b, c = (flat[found[:, i]] for i in range(3))
        clockwise = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0]) < 0
        found[clockwise] = found[clockwise][:, ::-1]
        points.append(loop)
        triangles.append(found.astype(np.int64) + at)
        at += len(loop)
    return np.concatenate(points), np.concatenate(triangles)


def straightened(polygon: Polygon, off_line: float = 1e-3) -> Polygon:
    """Return a polygon without corners that stand twice or lie within `off_line` (m) of their neighbours' line, its first one too."""
    rings = []
    for ring in (polygon.exterior, *polygon.interiors):
        points = np.asarray(ring.coords)[:-1]
        points = points[np.hypot(*(points - np.roll(points, 1, axis=0)).T) > WELD]  # else both of a pair would look straight
        kept = list(range(len(points)))
        for k in range(len(points)):
            place = kept.index(k)
            before, here, after = (points[kept[(place + step) % len(kept)]] for step in (-1, 0, 1))
            base = after - before
            off = abs(float(base[0] * (here - before)[1] - base[1] * (here - before)[0])) / max(float(np.hypot(*base)), 1e-9)
            if off < off_line and len(kept) > 3:
                kept.remove(k)
        rings.append(points[kept])
    made = Polygon(rings[0], rings[1:])
    return made if made.is_valid else polygon
