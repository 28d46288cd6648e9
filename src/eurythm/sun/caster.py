"""One caster for everything that asks "does this point see that direction" (Embree, occlusion only)."""

from __future__ import annotations

import hashlib
import os
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache
from typing import Generic, TypeVar

import numpy as np
import shapely
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray
from shapely.geometry import Polygon

from eurythm.geometry.building import Building, Vec
from eurythm.geometry.outline import rotation
from eurythm.model.place import Place
from eurythm.sun.bits import clear_bits
from eurythm.sun.triangles import free_of, merged

OFFSET_M, OFFSET_SHADES_M = 0.01, 0.001
"""How far before its face a ray begins: bodies may be a little askew, shades begin at the wall itself."""
WORTH_THREADS = 400_000
"""Rays from which on several threads cast them, where there are several; the ray library lets them run at once."""
FEW_TRIANGLES = 48
"""Up to so many triangles are met in a compiled loop, which is quicker than the ray library's tree."""
FACING = 1e-3
Single = NDArray[np.float32]
T = TypeVar("T")
REINHART_ROWS = (60, 60, 60, 60, 48, 48, 48, 48, 36, 36, 24, 24, 12, 12)
"""Patches of a sky divided twice as fine as Tregenza's, 6 degrees a row, plus the zenith: 577 (Reinhart 2001)."""
BAND = REINHART_ROWS[0]
"""Patches of the lowest row, which stands for the horizon's band (6.5 degrees in Perez et al. 1987, unverified)."""


@lru_cache(maxsize=1)
def sky_patches() -> tuple[Vec, Vec]:
    """Return directions (577, 3) and solid angles (577,), sr, of the sky's patches, from the horizon upward."""
    directions, angles = [], []
    step = np.radians(90.0 / (len(REINHART_ROWS) + 0.5))
    for row, count in enumerate(REINHART_ROWS):
        low, high = row * step, (row + 1) * step
        altitude = (low + high) / 2
        around = (np.arange(count) + 0.5) * 2 * np.pi / count
        directions.append(
            np.stack([np.cos(altitude) * np.sin(around), np.cos(altitude) * np.cos(around), np.full(count, np.sin(altitude))], axis=1)
        )
        angles.append(np.full(count, 2 * np.pi / count * (np.sin(high) - np.sin(low))))
    directions.append(np.array([[0.0, 0.0, 1.0]]))
    angles.append(np.array([2 * np.pi * (1 - np.sin(len(REINHART_ROWS) * step))]))
    return np.concatenate(directions), np.concatenate(angles)


def triangles_of(loops: tuple[Vec, ...]) -> Vec:
    """Triangulate a flat polygon with holes in space, (t, 3, 3)."""
    outer = loops[0]
    if len(loops) == 1 and len(outer) == 3:
        return outer[None]
    if len(loops) == 1 and len(outer) == 4:
        return np.stack([outer[[0, 1, 2]], outer[[0, 2, 3]]])
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


@dataclass(frozen=True, eq=False)
class Cast:
    """What each sample point sees.

    Attributes
    ----------
    sun : (P, ceil(S/8)) bits over the sunlit hours: no opaque thing between point and sun.
    crown_free : the same for tree crowns; all set where there are none.
    sky, blocked : (P,) form factors of free sky and of sky hidden by opaque things; their sum is the free hemisphere's.
    crowned : (P,) form factor of sky seen through crowns, part of `sky`.
    band, band_crowned : (P,) share of the horizon's band that is free sky, and of it what is seen through crowns.
    hours : S, number of sunlit hours.
    """

    sun: NDArray[np.uint8]
    crown_free: NDArray[np.uint8]
    sky: Vec
    blocked: Vec
    crowned: Vec
    band: Vec
    band_crowned: Vec
    hours: int


@dataclass(frozen=True, eq=False)
class _Layer:
    """Bits of what is free of one layer of obstacles: sun (P, ceil(S/8)) and sky patches (P, 73)."""

    sun: NDArray[np.uint8]
    sky: NDArray[np.uint8]


@dataclass(frozen=True, eq=False)
class Points:
    """Sample points and their outward normals, (P, 3); the points of one group share a normal.

    `like` is, for each point, the number of one that sees the same of bodies and trees; without it each sees for itself.
    """

    at: Vec
    normals: Vec
    groups: list[slice]
    like: NDArray[np.int64] | None = None

    def few(self) -> tuple[Points, NDArray[np.int64]]:
        """Return the points that see bodies and trees for themselves, and the number among them that holds for each point."""
        if self.like is None:
            return self, np.arange(len(self.at))
        own, which = np.unique(self.like, return_inverse=True)
        stops = np.searchsorted(own, [g.stop for g in self.groups])
        starts = np.searchsorted(own, [g.start for g in self.groups])
        groups = [slice(int(a), int(b)) for a, b in zip(starts, stops, strict=True)]
        return Points(self.at[own], self.normals[own], groups), which


class Kept(Generic[T]):
    """The last results of one step by the digest of what they depend on."""

    def __init__(self, most: int) -> None:
        self.most = most
        self._kept: OrderedDict[bytes, T] = OrderedDict()

    def get(self, key: bytes, make: Callable[[], T]) -> T:
        """Return what is kept under a key, or make and keep it; the oldest goes."""
        found = self._kept.get(key)
        if found is None:
            self._kept[key] = found = make()
            while len(self._kept) > self.most:
                self._kept.popitem(last=False)
        else:
            self._kept.move_to_end(key)
        return found

    def clear(self) -> None:
        """Forget everything."""
        self._kept.clear()


_CASTS: Kept[Cast] = Kept(6)
_CACHE: OrderedDict[bytes, _Layer] = OrderedDict()
_CACHE_BYTES = 64_000_000


def cast(obstacles: Obstacles, points: Points, sun: Vec) -> Cast:
    """Cast sun and sky from sample points.

    Parameters
    ----------
    sun : (S, 3) unit vectors towards the sun, in the drawing's axes.

    Each layer of obstacles is cast on its own and kept by everything that it depends on; weather is not among it.
    """
    like: Vec = np.zeros(0) if points.like is None else points.like.astype(np.float64)
    key = key_of(obstacles.solids, obstacles.shades, obstacles.crowns, points.at, points.normals, sun, like)
    return _CASTS.get(key, lambda: _cast(obstacles, points, sun))


def _cast(obstacles: Obstacles, points: Points, sun: Vec) -> Cast:
    few, which = points.few()
    shades = _layer(obstacles.shades, points, sun, OFFSET_SHADES_M)
    solids, crowns = (_layer(triangles, few, sun, OFFSET_M) for triangles in (obstacles.solids, obstacles.crowns))
    if few is not points:
        solids, crowns = (_Layer(layer.sun[which], layer.sky[which]) for layer in (solids, crowns))
    sky, blocked, crowned, band, band_crowned = _sky_seen(points, solids.sky & shades.sky, crowns.sky)
    return Cast(solids.sun & shades.sun, crowns.sun, sky, blocked, crowned, band, band_crowned, len(sun))


def _sky_seen(points: Points, free: NDArray[np.uint8], leafless: NDArray[np.uint8]) -> tuple[Vec, Vec, Vec, Vec, Vec]:
    """Form factors by the free bits of the sky's patches, (P,) each: free, hidden, through crowns, and of the band free and through crowns."""
    directions, angles = sky_patches()
    sky, blocked, crowned, band, band_crowned = np.zeros((5, len(points.at)))
    leaves = not np.unpackbits(leafless, axis=1, count=len(angles)).all()
    for group in points.groups:
        if group.start == group.stop:
            continue
        normal = points.normals[group.start]
        facing = np.maximum(directions @ normal, 0.0)
        form = np.where(facing > FACING, facing, 0.0) * angles / np.pi
        form *= (1 + normal[2]) / 2 / max(float(form.sum()), 1e-12)  # exact where nothing is in the way
        low = form[:BAND] / max(float(form[:BAND].sum()), 1e-12)
        clear = np.unpackbits(free[group], axis=1, count=len(angles))
        sky[group], band[group] = clear @ form, clear[:, :BAND] @ low
        blocked[group] = form.sum() - sky[group]
        if leaves:
            leafy = clear & (1 - np.unpackbits(leafless[group], axis=1, count=len(angles)))
            crowned[group], band_crowned[group] = leafy @ form, leafy[:, :BAND] @ low
    return sky, blocked, crowned, band, band_crowned


def _layer(triangles: Vec, points: Points, sun: Vec, offset: float) -> _Layer:
    key = key_of(triangles, points.at, points.normals, sun)
    if key in _CACHE:
        _CACHE.move_to_end(key)
        return _CACHE[key]
    made = _cast_layer(triangles, points, sun, offset)
    _CACHE[key] = made
    while sum(c.sun.nbytes + c.sky.nbytes for c in list(_CACHE.values())) > _CACHE_BYTES and len(_CACHE) > 1:
        _CACHE.popitem(last=False)
    return made


def key_of(*arrays: Vec) -> bytes:
    """Return a digest of arrays."""
    digest = hashlib.blake2b(digest_size=16)
    for array in arrays:
        digest.update(str(array.shape).encode())
        digest.update(np.ascontiguousarray(array).tobytes())
    return digest.digest()


def _threads() -> int:
    """On how many threads rays are cast: one for each processor, but as many as ``OMP_NUM_THREADS`` allows."""
    allowed = os.environ.get("OMP_NUM_THREADS", "")
    return int(allowed) if allowed.isdigit() and int(allowed) > 0 else max(1, os.cpu_count() or 1)


def _cast_layer(triangles: Vec, points: Points, sun: Vec, offset: float) -> _Layer:
    """Cast one layer; directions behind a face count as free, since nothing reads them."""
    directions, _ = sky_patches()
    count = len(points.at)
    free_sun, free_sky = (np.tile(np.packbits(np.ones(len(d), dtype=bool)), (count, 1)) for d in (sun, directions))
    if len(triangles) and count:
        middle = points.at.mean(axis=0)
        few = len(triangles) <= FEW_TRIANGLES
        scene = EmbreeScene()
        mesh = None if few else TriangleMesh(scene, np.ascontiguousarray(triangles - middle, dtype=np.float32))
        origins = points.at - middle + points.normals * offset
        corners = triangles.reshape(-1, 3)

        def shade(group: slice) -> None:
            if group.start == group.stop:
                return
            normal = points.normals[group.start]
            plane = float((points.at[group] @ normal).min())
            if float((corners @ normal).max()) <= plane + offset:
                return  # all of the layer lies behind this face: no ray that leaves it can meet anything
            for free, targets in ((free_sun, sun), (free_sky, directions)):
                front = np.flatnonzero(targets @ normal > FACING)
                if few:
                    ahead = np.array([float((t @ normal).max()) > plane + offset for t in triangles])
                    own, whole = merged(triangles[ahead] - middle)
                    found = free_of(own, whole, np.ascontiguousarray(origins[group]), np.ascontiguousarray(targets[front].T))
                else:
                    found = _free(scene, origins[group].astype(np.float32), targets[front].astype(np.float32))
                clear_bits(free[group], found, front)

        threads = _threads()
        if threads == 1 or count * len(sun) < WORTH_THREADS:
            list(map(shade, points.groups))
        else:
            with ThreadPoolExecutor(threads) as hands:
                list(hands.map(shade, points.groups))
        del mesh
    return _Layer(free_sun, free_sky)


def _free(scene: EmbreeScene, points: Single, directions: Single) -> NDArray[np.bool_]:
    """Tell for every point and direction whether nothing is in between, (P, D)."""
    p, d = len(points), len(directions)
    if d == 0:
        return np.ones((p, d), dtype=bool)
    hit = scene.run(np.repeat(points, d, axis=0), np.tile(directions, (p, 1)), query="OCCLUDED")
    out: NDArray[np.bool_] = (hit == -1).reshape(p, d)
    return out
