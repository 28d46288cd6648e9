"""One caster for everything that asks "does this point see that direction" (Embree, occlusion only)."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from dataclasses import dataclass

import numpy as np
import shapely
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray
from shapely.geometry import Polygon

from eurythm.geometry.building import Building, Vec
from eurythm.geometry.outline import rotation
from eurythm.model.place import Place

OFFSET_M = 0.01
FACING = 1e-3
Single = NDArray[np.float32]
REINHART_ROWS = (60, 60, 60, 60, 48, 48, 48, 48, 36, 36, 24, 24, 12, 12)
"""Patches of a sky divided twice as fine as Tregenza's, 6 degrees a row, plus the zenith: 577 (Reinhart 2001)."""


def sky_patches() -> tuple[Vec, Vec]:
    """Return directions (577, 3) and solid angles (577,), sr, of the sky's patches."""
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


def box_triangles(corner: Vec, size: tuple[float, float, float], turn_deg: float) -> Vec:
    """Triangles of an upright box, turned clockwise about its corner, (12, 3, 3)."""
    length, depth, height = size
    plan = np.array([[0, 0], [length, 0], [length, depth], [0, depth]]) @ rotation(turn_deg).T + corner[:2]
    low = np.column_stack([plan, np.full(4, corner[2])])
    high = np.column_stack([plan, np.full(4, corner[2] + height)])
    quads = [high, *[np.array([low[i], low[(i + 1) % 4], high[(i + 1) % 4], high[i]]) for i in range(4)]]
    return np.concatenate([triangles_of((q,)) for q in quads])


def crown_triangles(middle: Vec, width: float, height: float) -> Vec:
    """A tree's crown as a double pyramid on an eight-sided belt, (16, 3, 3)."""
    around = np.arange(8) * np.pi / 4
    belt = middle + np.stack([np.cos(around) * width / 2, np.sin(around) * width / 2, np.zeros(8)], axis=1)
    tips = (middle + [0, 0, height / 2], middle - [0, 0, height / 2])
    return np.array([[belt[i], belt[(i + 1) % 8], tip] for tip in tips for i in range(8)])


@dataclass(frozen=True, eq=False)
class Obstacles:
    """What stands in the light: opaque triangles and tree crowns, (n, 3, 3), m, in the drawing's axes."""

    opaque: Vec
    crowns: Vec


def obstacles_of(building: Building, place: Place) -> Obstacles:
    """Collect the building's own faces, its shades, and the surroundings."""
    opaque = [triangles_of(f.loops) for f in building.faces if f.boundary in ("outdoors", "adiabatic")]
    opaque += [triangles_of((s.corners,)) for s in building.shades]
    ground = place.ground_level_m
    opaque += [box_triangles(np.array([b.x, b.y, ground]), (b.length, b.depth, b.height), b.turn_deg) for b in place.boxes]
    crowns = [crown_triangles(np.array([t.x, t.y, ground + t.height - 0.4 * t.height]), t.crown, 0.8 * t.height) for t in place.trees]
    none = np.zeros((0, 3, 3))
    return Obstacles(np.concatenate(opaque) if opaque else none, np.concatenate(crowns) if crowns else none)


@dataclass(frozen=True, eq=False)
class Cast:
    """What each sample point sees.

    Attributes
    ----------
    sun : (P, ceil(S/8)) bits over the sunlit hours: no opaque thing between point and sun.
    crown_free : the same for tree crowns; empty (P, 0) where there are no trees.
    sky, blocked : (P,) form factors of free sky and of sky hidden by opaque things; their sum is the free hemisphere's.
    crowned : (P,) form factor of sky seen through crowns, part of `sky`.
    hours : S, number of sunlit hours.
    """

    sun: NDArray[np.uint8]
    crown_free: NDArray[np.uint8]
    sky: Vec
    blocked: Vec
    crowned: Vec
    hours: int


class _Caster:
    def __init__(self, triangles: Vec, middle: Vec) -> None:
        self.scene = EmbreeScene()
        self.empty = len(triangles) == 0
        if not self.empty:
            self.mesh = TriangleMesh(self.scene, np.ascontiguousarray(triangles - middle, dtype=np.float32))

    def free(self, points: Single, directions: Single) -> NDArray[np.bool_]:
        """Tell for every point and direction whether nothing is in between, (P, D)."""
        p, d = len(points), len(directions)
        if self.empty or p == 0 or d == 0:
            return np.ones((p, d), dtype=bool)
        origins = np.repeat(points, d, axis=0)
        rays = np.tile(directions, (p, 1))
        hit = self.scene.run(origins, rays, query="OCCLUDED")
        out: NDArray[np.bool_] = (hit == -1).reshape(p, d)
        return out


_CACHE: OrderedDict[bytes, Cast] = OrderedDict()
_CACHE_BYTES = 160_000_000


def cast(obstacles: Obstacles, points: Vec, normals: Vec, groups: list[slice], sun: Vec) -> Cast:
    """Cast sun and sky from sample points.

    Parameters
    ----------
    points, normals : (P, 3); points of one group share a normal.
    sun : (S, 3) unit vectors towards the sun, in the drawing's axes.

    The result is cached by everything that it depends on; weather is not among it.
    """
    key = _key(obstacles.opaque, obstacles.crowns, points, normals, sun)
    if key in _CACHE:
        _CACHE.move_to_end(key)
        return _CACHE[key]
    done = _cast(obstacles, points, normals, groups, sun)
    _CACHE[key] = done
    while sum(c.sun.nbytes + c.crown_free.nbytes for c in _CACHE.values()) > _CACHE_BYTES and len(_CACHE) > 1:
        _CACHE.popitem(last=False)
    return done


def _key(*arrays: Vec) -> bytes:
    digest = hashlib.blake2b(digest_size=16)
    for array in arrays:
        digest.update(str(array.shape).encode())
        digest.update(np.ascontiguousarray(array).tobytes())
    return digest.digest()


def _cast(obstacles: Obstacles, points: Vec, normals: Vec, groups: list[slice], sun: Vec) -> Cast:
    middle = points.mean(axis=0) if len(points) else np.zeros(3)
    opaque, crowns = _Caster(obstacles.opaque, middle), _Caster(obstacles.crowns, middle)
    origins = (points - middle + normals * OFFSET_M).astype(np.float32)
    directions, angles = sky_patches()
    hours = len(sun)
    sees_sun = np.zeros((len(points), hours), dtype=bool)
    past_crowns = np.ones((len(points), hours if not crowns.empty else 0), dtype=bool)
    sky, blocked, crowned = (np.zeros(len(points)) for _ in range(3))
    sun32, patch32 = sun.astype(np.float32), directions.astype(np.float32)
    for group in groups:
        normal = normals[group.start]
        front = np.flatnonzero(sun @ normal > FACING)
        sees_sun[group, front] = opaque.free(origins[group], sun32[front])
        facing = directions @ normal
        seen = np.flatnonzero(facing > FACING)
        form = facing[seen] * angles[seen] / np.pi
        form *= (1 + normal[2]) / 2 / max(float(form.sum()), 1e-12)  # exact where nothing is in the way
        clear = opaque.free(origins[group], patch32[seen])
        sky[group] = clear @ form
        blocked[group] = ~clear @ form
        if not crowns.empty:
            past_crowns[group, front] = crowns.free(origins[group], sun32[front])
            leafy = ~crowns.free(origins[group], patch32[seen]) & clear
            crowned[group] = leafy @ form
    return Cast(np.packbits(sees_sun, axis=1), np.packbits(past_crowns, axis=1), sky, blocked, crowned, hours)
