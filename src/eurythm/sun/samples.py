"""Sample points on faces.

Points of glass lie inside the glass: a point beyond a fin or above the head sees another sun than the pane does. Where
windows repeat, the points stand on the façade's own lattice, which no window moves: a window is a set of weights on the
points that it covers, so that another glazing ratio casts no ray. Elsewhere each window has points of its own.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from eurythm.geometry.building import Face, Vec, Window
from eurythm.memo import Kept, key_of
from eurythm.sun.caster import Points

MOST_MODULES = 5
"""Of a long façade so many modules are looked at, evenly spread."""
PLACES = ((8, 8), (5, 8), (4, 6), (4, 6), (4, 6))
SHADED_PLACES = ((12, 20), (6, 20), (6, 20), (6, 20), (6, 20))
"""Points across and upward in each of one, two, ... five modules, which stand between those of the others; without and with shades
on the wall, whose edges need more."""
EACH_ACROSS, EACH_UPWARD = 4, 8
"""Of these so many see bodies and trees for themselves in each module."""
RIBBON = 0.9
"""Part of its wall that a ribbon of glass takes at least."""
IN_WINDOW, IN_SHADED_WINDOW = 5, 8
"""Points along either side of a window that has its own, without and with shades on its face; fewer where there are many."""
MOST_IN_WINDOWS = 320
"""Of one face."""


@dataclass(frozen=True, eq=False)
class FaceSamples:
    """Points of one face (p, 3) with their weights in the face's opaque part and in its windows; each sums to one or zero; and
    the normal of what looks from them.

    `like` tells which of them sees the same of bodies and trees as each: only the edges of shades at hand need them all.
    """

    points: Vec
    wall: Vec
    window: Vec
    normal: Vec
    like: NDArray[np.int64] | None = None

    @cached_property
    def seen(self) -> Points:
        """The points as rays leave them."""
        return Points(np.round(self.points, 6), self.normal, self.like)


_SAMPLES: Kept[FaceSamples] = Kept(8_000_000)


def forget() -> None:
    """Forget all samples, such as with other places."""
    _SAMPLES.clear()
    _grid.cache_clear()


def sample(face: Face, shaded: bool = False) -> FaceSamples:
    """Return the sample points of an outdoor face; `shaded` says that shades of its own hang on it. Kept, since cases share most faces."""
    windows = np.array([(w.s, w.z, w.width, w.height) for w in face.windows])
    figures = np.array([face.area, *face.size, face.module, face.kind == "wall", shaded], dtype=np.float64)
    return _SAMPLES.get(key_of(figures, windows, face.normal, face.origin, face.along, *face.loops), lambda: _sample(face, shaded))


def _sample(face: Face, shaded: bool) -> FaceSamples:
    module = _module_of(face)
    if module > 0:
        found = _facade(face, module, SHADED_PLACES if shaded else PLACES)
        if found.window.any() or not face.windows:
            return found
    return _free(face, shaded)  # also where windows are too small for the façade's points


def _module_of(face: Face) -> float:
    """The spacing of a wall's windows where they repeat evenly from end to end, whoever placed them, or make up a ribbon; else 0."""
    width = face.size[0]
    if face.kind != "wall" or not face.windows:
        return face.module if face.kind == "wall" else 0.0
    if face.module > 0 and len(face.windows) == 1 and face.windows[0].width > RIBBON * width:
        return face.module
    if face.module == 0 and (len(face.loops) > 1 or abs(float(face.normal[2])) > 1e-6 or min(face.size) <= 0):
        return 0.0
    module = width / len(face.windows)
    middles = sorted(w.s + w.width / 2 for w in face.windows)
    even = np.allclose(middles, module * (np.arange(len(middles)) + 0.5), atol=2e-3)
    alike = np.ptp([(w.z, w.width, w.height) for w in face.windows], axis=0).max() < 2e-3
    return module if even and alike else 0.0


def _facade(face: Face, module: float, places: tuple[tuple[int, int], ...]) -> FaceSamples:
    """Points in up to five modules; those of one module stand between those of another."""
    width, height = face.size
    chosen, stands_for = _modules(max(1, round(width / module)))
    columns, rows = places[len(chosen) - 1]
    cell = module / columns * height / rows
    inside = _flat(face.loops, face.origin, face.along, _upward(face)) if abs(face.area - width * height) > 1e-3 * face.area else None
    points, walls, windows = [], [], []
    alike: list[NDArray[np.int64]] = []
    for k, many, across, upward in zip(chosen, stands_for, _between(len(chosen), 0), _between(len(chosen), 1), strict=True):
        s = module * (k + (np.arange(columns) + across) / columns)
        z = height * (np.arange(rows) + upward) / rows
        ss, zz = (a.ravel() for a in np.meshgrid(s, z, indexing="ij"))
        window = np.zeros((columns, rows))
        for w in face.windows:
            left, right = max(w.s, module * k), min(w.s + w.width, module * (k + 1))
            if right > left:
                window += np.outer(within(s, left, right), within(z, w.z, w.z + w.height))
        wall = np.maximum(cell - window.ravel(), 0.0)
        if inside is not None:  # a gable: what lies beside it stands for nothing
            wall[~shapely.contains_xy(inside, ss, zz)] = 0.0
        points.append(face.origin + np.outer(ss, face.along) + np.outer(zz, _upward(face)))
        across_to, upward_to = _nearest_of(columns, EACH_ACROSS), _nearest_of(rows, EACH_UPWARD)
        alike.append(len(alike) * columns * rows + (across_to[:, None] * rows + upward_to[None, :]).ravel())
        walls.append(wall * many)
        windows.append(window.ravel() * many)
    return FaceSamples(
        np.concatenate(points), _share(np.concatenate(walls)), _share(np.concatenate(windows)), face.normal, np.concatenate(alike)
    )


def _nearest_of(count: int, most: int) -> NDArray[np.int64]:
    """Of so many places in a row, for each the nearest of at most so many, evenly chosen ones."""
    if count <= most:
        return np.arange(count)
    chosen = np.floor((np.arange(most) + 0.5) / most * count).astype(np.int64)
    found: NDArray[np.int64] = chosen[np.abs(np.arange(count)[:, None] - chosen[None, :]).argmin(axis=1)]
    return found


def _modules(count: int) -> tuple[NDArray[np.int64], Vec]:
    """Which modules of so many are looked at, and how many each stands for: of a long façade its ends for themselves alone."""
    if count <= MOST_MODULES:
        return np.arange(count), np.ones(count)
    within_ends = MOST_MODULES - 2
    strata = (count - 2) / within_ends
    middle = 1 + np.floor((np.arange(within_ends) + 0.5) * strata).astype(np.int64)
    return np.concatenate([[0], middle, [count - 1]]), np.array([1.0, *[strata] * within_ends, 1.0])


ORDERS = ((2, 0, 3, 1, 4), (1, 4, 2, 0, 3))
"""In which order modules take the places between each other's points, across and upward."""


def _between(count: int, direction: int) -> Vec:
    """Where the points of each module stand within their cells, 0 to 1; together they are even, with their mean in the middle."""
    order = [k for k in ORDERS[direction] if k < count]
    return (np.array(order) + 0.5) / count


def within(places: Vec, first: float, last: float) -> Vec:
    """Weights of the places inside an interval, m, so that their sum is its length and their mean its middle.

    Each place stands for the strip up to half way to its neighbours, those at the ends for what is left; a strip whose middle
    is not its place is read from the line through two places. With none inside there are none.
    """
    weights = np.zeros(len(places))
    own = np.flatnonzero((places > first) & (places < last))
    if len(own) == 0:
        return weights
    at = places[own]
    cuts = np.concatenate([[first], (at[1:] + at[:-1]) / 2, [last]])
    strips, middles = np.diff(cuts), (cuts[1:] + cuts[:-1]) / 2
    weights[own] = strips
    if len(own) > 1:
        for end, beside in ((0, 1), (-1, -2)):
            moved = strips[end] * (middles[end] - at[end]) / (at[beside] - at[end])
            weights[own[beside]] += moved
            weights[own[end]] -= moved
    return weights


def _free(face: Face, shaded: bool) -> FaceSamples:
    """A grid inside any polygon for the opaque part, and points in each window."""
    points = _grid_inside(face)
    wall = np.full(len(points), 1.0)
    if face.windows:
        upward = _upward(face)
        s, z = (points - face.origin) @ face.along, (points - face.origin) @ upward
        for w in face.windows:
            wall[(s > w.s) & (s < w.s + w.width) & (z > w.z) & (z < w.z + w.height)] = 0.0
        if not wall.any():
            wall[:] = 1.0
    window = np.zeros(len(points))
    side = max(3, min(IN_SHADED_WINDOW if shaded else IN_WINDOW, int(np.sqrt(MOST_IN_WINDOWS / max(len(face.windows), 1)))))
    for w in face.windows:
        own = _in_window(face, w, side)
        points = np.concatenate([points, own])
        wall = np.concatenate([wall, np.zeros(len(own))])
        window = np.concatenate([window, np.full(len(own), w.area / len(own))])
    return FaceSamples(points, _share(wall), _share(window), face.normal)


def _upward(face: Face) -> Vec:
    return np.cross(face.normal, face.along)


def _in_window(face: Face, w: Window, side: int) -> Vec:
    parts = (np.arange(side) + 0.5) / side
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
    """A grid of points inside a polygon with holes, by its plane's two directions; kept, since no window moves it."""
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
