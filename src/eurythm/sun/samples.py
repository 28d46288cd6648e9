"""Sample points on faces, on a grid that does not move when the glazing ratio does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from shapely.geometry import Polygon

from eurythm.geometry.building import Face, Vec, Window

COLUMNS, ROWS = 3, 8
MOST_MODULES = 5


@dataclass(frozen=True, eq=False)
class FaceSamples:
    """Points of one face (p, 3) with their weights in the face's opaque part and in its windows; each sums to one or zero."""

    points: Vec
    wall: Vec
    window: Vec


def sample(face: Face) -> FaceSamples:
    """Return the sample points of an outdoor face."""
    module = _module_of(face)
    return _facade(face, module) if module > 0 else _free(face)


def _module_of(face: Face) -> float:
    """The spacing of a wall's windows where they repeat evenly from end to end, whoever placed them; else 0."""
    if face.kind != "wall" or face.module > 0 or not face.windows:
        return face.module if face.kind == "wall" else 0.0
    width, height = face.size
    if len(face.loops) > 1 or abs(face.area - width * height) > 1e-3 * face.area or abs(float(face.normal[2])) > 1e-6:
        return 0.0
    module = width / len(face.windows)
    middles = sorted(w.s + w.width / 2 for w in face.windows)
    even = np.allclose(middles, module * (np.arange(len(middles)) + 0.5), atol=2e-3)
    alike = np.ptp([(w.z, w.width, w.height) for w in face.windows], axis=0).max() < 2e-3
    return module if even and alike else 0.0


def _facade(face: Face, module: float) -> FaceSamples:
    """Three columns and eight rows per window module; of long façades five modules, evenly spread."""
    width, height = face.size
    count = max(1, round(width / module))
    chosen = np.unique(np.round(np.linspace(0, count - 1, min(count, MOST_MODULES))).astype(int))
    s0 = (chosen[:, None] + np.arange(COLUMNS)[None, :] / COLUMNS).ravel() * module
    step_s, step_z = module / COLUMNS, height / ROWS
    z0: Vec = np.arange(ROWS, dtype=float) * float(step_z)
    ss, zz = (a.ravel() for a in np.meshgrid(s0, z0, indexing="ij"))
    points = face.origin + np.outer(ss + step_s / 2, face.along) + np.outer(zz + step_z / 2, np.array([0.0, 0.0, 1.0]))
    window = np.zeros(len(ss))
    for w in face.windows:
        across = np.clip(np.minimum(ss + step_s, w.s + w.width) - np.maximum(ss, w.s), 0, None)
        window += across * np.tile(_rows_of(w, z0, step_z), len(s0))
    wall = np.maximum(step_s * step_z - window, 0.0)
    if abs(face.area - width * height) > 1e-3 * face.area:  # a gable: what lies beside it stands for nothing
        wall[~shapely.contains_xy(_flat(face.loops, face.origin, face.along, _upward(face)), ss + step_s / 2, zz + step_z / 2)] = 0.0
    return FaceSamples(points, _share(wall), _share(window))


def _rows_of(w: Window, foot: Vec, step: float) -> Vec:
    """How much of each row a window takes, m. What it takes of a row whose middle lies outside it goes to its nearest row.

    Else a point above the head, where an overhang throws no shadow, would stand for glass below it.
    """
    up: Vec = np.clip(np.minimum(foot + step, w.z + w.height) - np.maximum(foot, w.z), 0, None)
    middle = foot + step / 2
    within = np.flatnonzero((middle > w.z) & (middle < w.z + w.height))
    if len(within):
        for k in np.flatnonzero(up):
            if k < within[0] or k > within[-1]:
                up[within[0] if k < within[0] else within[-1]] += up[k]
                up[k] = 0.0
    return up


def _free(face: Face) -> FaceSamples:
    """A grid inside any polygon, and sixteen points in each window."""
    points = _grid_inside(face)
    wall = np.full(len(points), 1.0)
    window = np.zeros(len(points))
    for w in face.windows:
        own = _in_window(face, w)
        points = np.concatenate([points, own])
        wall = np.concatenate([wall, np.zeros(len(own))])
        window = np.concatenate([window, np.full(len(own), w.area / len(own))])
    return FaceSamples(points, _share(wall), _share(window))


def _upward(face: Face) -> Vec:
    return np.cross(face.normal, face.along)


def _in_window(face: Face, w: Window) -> Vec:
    parts = (np.arange(4) + 0.5) / 4
    s, z = (a.ravel() for a in np.meshgrid(w.s + parts * w.width, w.z + parts * w.height, indexing="ij"))
    return face.origin + np.outer(s, face.along) + np.outer(z, _upward(face))


def _grid_inside(face: Face) -> Vec:
    along = face.along if abs(float(np.dot(face.along, face.normal))) < 1e-6 else np.array([1.0, 0.0, 0.0])
    return _grid(tuple(loop.tobytes() for loop in face.loops), along.tobytes(), np.cross(face.normal, along).tobytes())


def _flat(loops: Sequence[Vec], base: Vec, along: Vec, upward: Vec) -> Polygon:
    """A polygon of space in its own plane, from a base point."""
    rings = [np.column_stack([(loop - base) @ along, (loop - base) @ upward]) for loop in loops]
    return Polygon(rings[0], rings[1:])


@lru_cache(maxsize=512)
def _grid(outline: tuple[bytes, ...], first: bytes, second: bytes) -> Vec:
    """A grid of points inside a polygon with holes, by its plane's two directions; kept, since cases share most faces."""
    loops = [np.frombuffer(loop).reshape(-1, 3) for loop in outline]
    along, upward = np.frombuffer(first), np.frombuffer(second)
    base = loops[0][0]
    flat = _flat(loops, base, along, upward)
    x0, y0, x1, y1 = flat.bounds
    parts = (np.arange(5) + 0.5) / 5
    s, t = (a.ravel() for a in np.meshgrid(x0 + parts * (x1 - x0), y0 + parts * (y1 - y0), indexing="ij"))
    inside = shapely.contains_xy(flat, s, t)
    if not inside.any():
        middle = flat.representative_point()
        s, t, inside = np.array([middle.x]), np.array([middle.y]), np.array([True])
    out: Vec = base + np.outer(s[inside], along) + np.outer(t[inside], upward)
    return out


def _share(weights: Vec) -> Vec:
    total = float(weights.sum())
    return weights / total if total > 1e-9 else np.zeros_like(weights)
