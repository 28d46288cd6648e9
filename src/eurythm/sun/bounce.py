"""Light that ground and obstacles give back: one bounce, by groups of what the faces see, each with its own sky and shadow.

From some points of each face rays go out before it. What they meet first, ground, body or shade, is put into groups by
plane and place, finer near the building. Each group receives beam and sky as its own places see them, and gives back its
reflectance times that. Half the unshaded global instead is up to 40% too bright opposite a building.

Directions turn with their face and places with the building, so that a turned building sees the same.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from itertools import pairwise

import numpy as np
import pandas as pd
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numba import njit
from numpy.typing import NDArray

from eurythm.geometry.building import Vec
from eurythm.memo import Kept, array_bytes, key_of
from eurythm.sun.bits import BIT_OF_BYTE
from eurythm.sun.caster import FACING, OFFSET_M, OFFSET_SHADES_M, Points, cast_all
from eurythm.sun.obstacles import Obstacles

Series = NDArray[np.float64]
Singles = NDArray[np.float32]
Ints = NDArray[np.int64]
ROWS = (30, 30, 24, 24, 18, 12, 6)
"""Directions of either hemisphere: 12 degrees a row and the zenith, 145 (Tregenza 1987)."""
MOST_LOOKED, FEWEST_LOOKED, LOOKED_IN_ALL = 24, 4, 2400
"""Points of a face that look round, and of all faces together."""
NEAR_M = 6.0
"""Within this of the building what is met is told apart by places of this size; twice as far by places twice as large."""
MOST_GROUPS = 400
CELLS = 2**13
"""Places are told apart up to so many of their sizes away."""
SUN_CELL_DEG = 2.5
SPOTS = 3
"""Places in a group whose light is its own."""


@dataclass(frozen=True, eq=False)
class _Rays:
    """Rays that go out before the faces, those of one face after those of another.

    Attributes
    ----------
    looked : for each face, which of its points look round
    start, toward, offset_by : (R, 3) points on the faces, directions, and the faces' normals
    rows : (R,) number of the point among those of its face that look round
    form : (R,) form factor of the direction
    stops : (F + 1,) where each face's rays begin, and the last one's end
    """

    looked: tuple[Ints, ...]
    start: Vec
    toward: Vec
    offset_by: Vec
    rows: Ints
    form: Vec
    stops: Ints

    def of(self, face: int) -> slice:
        """Where the rays of a face stand among all."""
        return slice(int(self.stops[face]), int(self.stops[face + 1]))


_NOBODY = np.zeros((0, 3)), np.zeros(0), np.zeros(0, np.int64)
NO_RAYS = _Rays((), _NOBODY[0], _NOBODY[0], _NOBODY[0], _NOBODY[2], _NOBODY[1], _NOBODY[2])


@dataclass(frozen=True, eq=False)
class _Met:
    """What rays meet first of one layer: how far away, infinite where nothing is, and the group of what is met, -1 for none.

    `spots` are `SPOTS` places a group, in the order of the groups, those that look the same way together; `normals` are those of
    the groups, `ground` tells which of them lie on the ground.
    """

    rays: _Rays
    far: Vec
    group: Ints
    spots: tuple[Points, ...]
    normals: Vec
    ground: NDArray[np.bool_]

    @property
    def nbytes(self) -> int:
        """How much it takes besides the rays, which others share."""
        return self.far.nbytes + self.group.nbytes + array_bytes(self.spots) + self.normals.nbytes + self.ground.nbytes

    @cached_property
    def alone(self) -> tuple[Tables, ...]:
        """What each face sees of the groups where no other layer is."""
        return tuple(self.tables(face, self.group[self.rays.of(face)] >= 0) for face in range(len(self.rays.looked)))

    def tables(self, face: int, counts: NDArray[np.bool_]) -> Tables:
        """What a face sees of the groups by those of its rays that count."""
        part, size = self.rays.of(face), (len(self.rays.looked[face]), len(self.ground))
        up = self.rays.toward[part, 2] > 0
        cell = self.rays.rows[part] * size[1] + self.group[part]
        found = [np.bincount(cell[way & counts], self.rays.form[part][way & counts], minlength=size[0] * size[1]) for way in (up, ~up)]
        return Tables(*(table.reshape(size).astype(np.float32) for table in found))


@dataclass(frozen=True, eq=False)
class Tables:
    """What points of a face see of the groups of one layer: form factors of what hides the sky, and of what lies below the
    horizon, (looked, G) each.
    """

    above: Singles
    below: Singles


@dataclass(frozen=True, eq=False)
class Bounce:
    """What the faces see that gives light back: bodies and ground first, then shades, which change at different times.

    Attributes
    ----------
    looked : for each face, which of its points looked round
    tables : for each face, what it sees of each layer's groups
    layers : what was met of each layer
    frame : (2, 2) the building's own axes in plan
    """

    looked: tuple[Ints, ...]
    tables: tuple[tuple[Tables, Tables], ...]
    layers: tuple[_Met, _Met]
    frame: Vec

    @property
    def ground(self) -> NDArray[np.bool_]:
        """Whether each group lies on the ground, (G,)."""
        return np.concatenate([layer.ground for layer in self.layers])

    def shares(self, face: int, weights: Vec) -> tuple[Vec, Vec]:
        """How what hides the sky of a part of a face, and what lies below it, is made up of the groups, (G,) each; sums are one or zero.

        Parameters
        ----------
        weights : of the face's points in that part
        """
        own = weights[self.looked[face]]
        if own.sum() <= 1e-9:
            own = np.ones(len(own))
        layers = self.tables[face]
        return _share(np.concatenate([own @ t.above for t in layers])), _share(np.concatenate([own @ t.below for t in layers]))


_RAYS: Kept[_Rays] = Kept(12_000_000)
_MET: Kept[_Met] = Kept(8_000_000)
_ALONG: Kept[_Met] = Kept(40_000_000)
_GIVEN: Kept[Singles] = Kept(30_000_000)


def forget() -> None:
    """Forget everything that was seen, such as with other directions."""
    _directions.cache_clear()
    for kept in (_RAYS, _MET, _ALONG, _GIVEN):
        kept.clear()


def look_round(obstacles: Obstacles, faces: Sequence[Points], ground_level: float) -> Bounce:
    """See what gives light back to the points of each face; what bodies and ground do is kept apart from what shades do."""
    where = key_of(np.frombuffer(b"".join(own.key for own in faces), dtype=np.uint8))
    rays = _RAYS.get(where, lambda: _rays(faces))
    at, frame = np.concatenate([own.at for own in faces]), _frame(faces)

    def met(triangles: Vec, offset: float, ground: float | None) -> _Met:
        key = where + key_of(triangles, np.array([np.nan if ground is None else ground]))
        return _MET.get(key, lambda: _meet(triangles, rays, offset, ground, frame, at))

    bodies = met(obstacles.solids, OFFSET_M, ground_level)
    shades = met(obstacles.shades, OFFSET_SHADES_M, None)
    nearer = shades.far < bodies.far
    tables = []
    for face, unshaded in enumerate(bodies.alone):
        part = rays.of(face)
        if nearer[part].any():
            of_bodies = bodies.tables(face, (bodies.group[part] >= 0) & ~nearer[part])
            tables.append((of_bodies, shades.tables(face, nearer[part])))
        else:
            nothing = np.zeros((len(rays.looked[face]), len(shades.ground)), dtype=np.float32)
            tables.append((unshaded, Tables(nothing, nothing)))
    return Bounce(rays.looked, tuple(tables), (bodies, shades), frame)


def look_along(
    obstacles: Obstacles, rays: Sequence[tuple[Vec, Vec, Vec, Vec]], ground_level: float, upright: Sequence[Vec], key: bytes | None
) -> tuple[Bounce, tuple[Ints, ...]]:
    """See what rays of one's own meet: what gives light back, and the group that each ray meets, -1 where nothing is.

    Parameters
    ----------
    rays : for each bundle that leaves one plane, starts and directions (R, 3), the plane's normal (3,), and what each ray weighs (R,)
    upright : normals of upright faces of the building, whose axes places are told apart along
    key : a digest of the rays, by which what they meet is kept; None keeps nothing
    """
    counts = [len(start) for start, *_ in rays]
    begins, ways, weighs = (np.concatenate([part[i] for part in rays]).astype(np.float64) for i in (0, 1, 3))
    lifts = np.concatenate([np.tile(normal, (n, 1)) for (_, _, normal, _), n in zip(rays, counts, strict=True)])
    stops = np.concatenate([[0], np.cumsum(counts)]).astype(np.int64)
    nobody = tuple(np.zeros(1, np.int64) for _ in rays)
    own = _Rays(nobody, begins, ways, lifts, np.zeros(len(begins), np.int64), weighs, stops)
    frame = _turned(upright[0]) if len(upright) else np.eye(2)

    def met(triangles: Vec, offset: float, ground: float | None) -> _Met:
        if key is None:
            return _meet(triangles, own, offset, ground, frame, begins)
        whole = key + key_of(triangles, frame, np.array([np.nan if ground is None else ground]))
        return _ALONG.get(whole, lambda: replace(_meet(triangles, own, offset, ground, frame, begins), rays=NO_RAYS))

    bodies = met(obstacles.solids, OFFSET_M, ground_level)
    shades = met(obstacles.shades, OFFSET_SHADES_M, None)
    group = np.where(shades.far < bodies.far, np.where(shades.group >= 0, shades.group + len(bodies.ground), -1), bodies.group)
    return Bounce(nobody, (), (bodies, shades), frame), tuple(group[a:b] for a, b in pairwise(stops))


@lru_cache(maxsize=1)
def _directions() -> tuple[Vec, Vec]:
    """Directions over the whole sphere for each of the points of a face, (MOST_LOOKED, 290, 3), and their solid angles, (290,).

    Every point looks through another place of each patch, so that together they see finer than the patches are.
    """
    step = np.radians(90.0 / (len(ROWS) + 0.5))
    low = np.concatenate([np.full(n, np.sin(k * step)) for k, n in enumerate(ROWS)] + [[np.sin(len(ROWS) * step)]])
    high = np.concatenate([np.full(n, np.sin((k + 1) * step)) for k, n in enumerate(ROWS)] + [[1.0]])
    first = np.concatenate([np.arange(n) / n for n in ROWS] + [[0.0]])
    wide = np.concatenate([np.full(n, 1 / n) for n in ROWS] + [[1.0]])
    found = []
    for k in range(MOST_LOOKED):
        upward, across = (0.5 + k * 0.7548776662) % 1.0, (0.5 + k * 0.5698402910) % 1.0
        sine = low + (high - low) * upward
        around = 2 * np.pi * (first + wide * across)
        cosine = np.sqrt(1 - sine**2)
        upper = np.stack([cosine * np.sin(around), cosine * np.cos(around), sine], axis=1)
        found.append(np.concatenate([upper, upper * [1.0, 1.0, -1.0]]))
    angles = 2 * np.pi * wide * (high - low)
    return np.stack(found), np.concatenate([angles, angles])


def _frame(faces: Sequence[Points]) -> Vec:
    """The building's own axes in plan, (2, 2): along the first upright face's normal and across it; the drawing's where none is upright."""
    upright = [own.normal for own in faces if len(own.at) and abs(own.normal[2]) < 0.5]
    return _turned(upright[0]) if upright else np.eye(2)


def _turned(normal: Vec) -> Vec:
    size = float(np.hypot(normal[0], normal[1]))
    c, s = normal[0] / size, normal[1] / size
    return np.array([[c, s], [-s, c]])


def _rays(faces: Sequence[Points]) -> _Rays:
    directions, angles = _directions()
    most = int(np.clip(LOOKED_IN_ALL // max(len(faces), 1), FEWEST_LOOKED, MOST_LOOKED))
    frame = _frame(faces)
    looked, start, toward, normals, rows, form, stops = [], [], [], [], [], [], [0]
    for face in faces:
        count, normal = len(face.at), face.normal
        own = np.unique(np.linspace(0, count - 1, min(most, count)).round().astype(np.int64)) if count else np.zeros(0, np.int64)
        ahead = directions[: len(own)].copy()
        ahead[..., :2] = ahead[..., :2] @ (_turned(normal) if np.hypot(normal[0], normal[1]) > 0.1 else frame)
        facing = ahead @ normal
        row, front = np.nonzero(facing > FACING)
        looked.append(own)
        start.append(face.at[own][row])
        toward.append(ahead[row, front])
        normals.append(np.tile(normal, (len(row), 1)))
        rows.append(row)
        form.append(facing[row, front] * angles[front] / np.pi)
        stops.append(stops[-1] + len(row))
    begins, ways, lifts, forms = (np.concatenate(part).astype(np.float64) for part in (start, toward, normals, form))
    return _Rays(tuple(looked), begins, ways, lifts, np.concatenate(rows).astype(np.int64), forms, np.array(stops, dtype=np.int64))


def _meet(triangles: Vec, rays: _Rays, offset: float, ground_level: float | None, frame: Vec, building: Vec) -> _Met:
    """Follow the rays to what they meet first of some triangles and, where its level is given, of the ground."""
    start, middle = rays.start + rays.offset_by * offset, building.mean(axis=0)
    far, looks = np.full(len(start), np.inf), np.zeros_like(start)
    ahead = np.flatnonzero(_ahead(triangles, rays, start))
    if len(ahead):
        scene = EmbreeScene()
        mesh = TriangleMesh(scene, np.ascontiguousarray(triangles - middle, dtype=np.float32))
        met = scene.run((start[ahead] - middle).astype(np.float32), rays.toward[ahead].astype(np.float32), query="INTERSECT", output=1)
        del mesh
        hit = met["primID"] >= 0
        far[ahead[hit]], looks[ahead[hit]] = met["tfar"][hit], met["Ng"][hit]
    on_ground = np.zeros(len(start), dtype=bool)
    if ground_level is not None:
        falls = rays.toward[:, 2] < 0
        down = np.full(len(start), np.inf)
        down[falls] = np.maximum(start[falls, 2] - ground_level, 0.0) / -rays.toward[falls, 2]
        on_ground = down < far
        far = np.minimum(far, down)
    some = np.flatnonzero(np.isfinite(far))
    group = np.full(len(start), -1, dtype=np.int64)
    if not len(some):
        return _Met(rays, far, group, (), np.zeros((0, 3)), np.zeros(0, bool))
    toward, looks, ground = rays.toward[some], looks[some], on_ground[some]
    looks *= (
        np.where(np.einsum("ij,ij->i", looks, toward) > 0, -1.0, 1.0)[:, None] / np.maximum(np.linalg.norm(looks, axis=1), 1e-12)[:, None]
    )
    looks[ground] = (0.0, 0.0, 1.0)
    at = start[some] + toward * far[some][:, None]
    group[some], first, spots = _grouped(at, looks, ground, rays.form[some], middle, frame, building)
    normals = looks[first]
    ends = np.flatnonzero((normals[1:] != normals[:-1]).any(axis=1)) + 1
    alike = tuple(Points(np.round(at[spots[SPOTS * a : SPOTS * b]], 6), normals[a]) for a, b in pairwise([0, *ends, len(normals)]))
    return _Met(rays, far, group, alike, normals, ground[first])


def _ahead(triangles: Vec, rays: _Rays, start: Vec) -> NDArray[np.bool_]:
    """Which rays leave a face that has some of the triangles before it, (R,); others can meet none."""
    found = np.zeros(len(start), dtype=bool)
    corners = triangles.reshape(-1, 3)
    for face in range(len(rays.looked)):
        part = rays.of(face)
        if len(corners) and part.stop > part.start:
            normal = rays.offset_by[part.start]
            found[part] = float((corners @ normal).max()) > float((start[part] @ normal).min())
    return found


def _millimetres(lengths: Vec, bits: int) -> Ints:
    """Lengths as whole numbers of so many bits."""
    return np.clip(np.rint(lengths * 1000.0), 0, 2**bits - 1).astype(np.int64)


def _grouped(at: Vec, looks: Vec, ground: NDArray[np.bool_], form: Vec, middle: Vec, frame: Vec, building: Vec) -> tuple[Ints, Ints, Ints]:
    """Put places that were met into groups: the group of each, one of each group, and `SPOTS` of each group."""

    def own_axes(points: Vec) -> Vec:
        flat: Vec = np.column_stack([(points - middle)[:, :2] @ frame.T, points[:, 2]])
        return flat

    body, here = own_axes(building), own_axes(at)
    low, high = body.min(axis=0), body.max(axis=0)
    here[:, :2] -= (low + high)[:2] / 2
    half = (high - low)[:2] / 2
    away = np.linalg.norm(np.maximum(np.abs(here[:, :2]) - half, 0.0), axis=1)
    turned = np.column_stack([looks[:, :2] @ frame.T, looks[:, 2]])
    plane = (np.round(turned * 3).astype(np.int64) + 3) @ np.array([1, 7, 49])
    plane[ground] = 343
    near = NEAR_M
    while True:
        level = np.clip(np.floor(np.log2(np.maximum(away, near) / near)), 0, 6).astype(np.int64)
        cell = np.clip(np.floor(here / (near * 2.0**level)[:, None]), -CELLS, CELLS - 1).astype(np.int64) + CELLS
        cell[ground, 2] = 0
        place = (plane * 7 + level) * (2 * CELLS) ** 3 + cell @ np.array([1, 2 * CELLS, (2 * CELLS) ** 2])
        group, names = pd.factorize(place, sort=True)  # by hashes: a tenth of the time of sorting all places
        if len(names) <= MOST_GROUPS:
            break
        near *= 1.5
    # spread over what the group is seen by, from the building outward
    order = np.argsort((group << 50) | (_millimetres(away, 30) << 20) | _millimetres(here[:, 2] + 500.0, 20), kind="stable")
    first = np.full(len(names), len(group))
    np.minimum.at(first, group, np.arange(len(group)))
    stops = np.cumsum(np.bincount(group))
    seen = np.cumsum(form[order])
    before, after = np.concatenate([[0.0], seen[stops[:-1] - 1]]), seen[stops - 1]
    aims = before[:, None] + (np.arange(SPOTS) + 0.5) / SPOTS * (after - before)[:, None]
    spots = order[np.minimum(np.searchsorted(seen, aims.ravel()), len(order) - 1)]
    return group, first, spots


def given_back(
    bounce: Bounce, obstacles: Obstacles, toward_sun: Vec, light: Sequence[Series], crown: Series | None, reflectance: tuple[Series, float]
) -> Singles:
    """Return what each group gives back in each sunlit hour, W/m2, (G, S), in single precision.

    Parameters
    ----------
    toward_sun : (S, 3)
    light : beam with circumsolar light at normal incidence, even sky, and the horizon's band, (S,) W/m2 each
    crown : (S,) light through crowns, None without trees
    reflectance : of the ground by the hour, (S,), and of obstacles
    """
    layers = [obstacles.solids, obstacles.shades, obstacles.crowns, bounce.frame]
    crowns = np.zeros(0) if crown is None else crown
    spots = b"".join(own.key for layer in bounce.layers for own in layer.spots)
    key = key_of(*layers, toward_sun, *light, crowns, reflectance[0], np.array([reflectance[1]])) + spots
    return _GIVEN.get(key, lambda: _given_back(bounce, obstacles, toward_sun, light, crown, reflectance))


def _given_back(
    bounce: Bounce, obstacles: Obstacles, toward_sun: Vec, light: Sequence[Series], crown: Series | None, reflectance: tuple[Series, float]
) -> Singles:
    received = [_received(obstacles, layer, toward_sun, light, crown, bounce.frame) for layer in bounce.layers if layer.spots]
    if not received:
        return np.zeros((0, len(toward_sun)), dtype=np.float32)
    out = np.concatenate(received)
    ground, others = reflectance
    out[bounce.ground] *= ground.astype(np.float32)
    out[~bounce.ground] *= np.float32(others)
    return out


def sun_cells(toward_sun: Vec, frame: Vec) -> tuple[Ints, NDArray[np.uint32]]:
    """Suns that stand for all others within about `SUN_CELL_DEG`, and the number among them for each: shadows on what only gives light back."""
    height = np.degrees(np.arcsin(np.clip(toward_sun[:, 2], -1, 1)))
    flat = toward_sun[:, :2] @ frame.T
    around = np.degrees(np.arctan2(flat[:, 0], flat[:, 1])) * np.cos(np.radians(height))
    cell = np.floor(height / SUN_CELL_DEG).astype(np.int64) * 1000 + np.floor(around / SUN_CELL_DEG).astype(np.int64)
    _, first, like = np.unique(cell, return_index=True, return_inverse=True)
    return first.astype(np.int64), like.astype(np.uint32)


def _received(obstacles: Obstacles, met: _Met, toward_sun: Vec, light: Sequence[Series], crown: Series | None, frame: Vec) -> Singles:
    """Light on each group of places, the mean of its places, (G, S) W/m2."""
    few, like = sun_cells(toward_sun, frame)
    seen = cast_all(obstacles, met.spots, toward_sun[few])
    sun, crown_free = (np.concatenate([getattr(own, name) for own in seen]) for name in ("sun", "crown_free"))
    leafy = sun & ~crown_free
    mean_crown = 1.0 if crown is None else float(crown.mean())
    sky = np.concatenate([own.sky - own.crowned * (1 - mean_crown) for own in seen]).reshape(-1, SPOTS).mean(axis=1)
    band = np.concatenate([own.band - own.band_crowned * (1 - mean_crown) for own in seen]).reshape(-1, SPOTS).mean(axis=1)
    normals = met.normals
    sides = np.column_stack([sky, band * np.hypot(normals[:, 0], normals[:, 1])])
    # in single precision: what is given back is a small part of the light, but there are many places and hours of it
    single = [np.ascontiguousarray(a, dtype=np.float32) for a in (normals, sides, toward_sun.T, np.stack(light))]
    leaves = np.ones(len(like), np.float32) if crown is None else crown.astype(np.float32)
    out: Singles = _light_on_groups(sun ^ leafy, leafy, like, leaves, *single, BIT_OF_BYTE.astype(np.float32))
    return out


@njit(  # type: ignore[untyped-decorator]
    "float32[:, ::1](uint8[:, ::1], uint8[:, ::1], uint32[::1], float32[::1], float32[:, ::1], float32[:, ::1], float32[:, ::1],"
    "float32[:, ::1], float32[:, ::1])",
    nogil=True,
    cache=True,
    error_model="numpy",
    fastmath={"nnan", "ninf", "nsz"},
)
def _light_on_groups(
    clear: NDArray[np.uint8],
    leafy: NDArray[np.uint8],
    like: NDArray[np.uint32],
    crown: Singles,
    normals: Singles,
    sides: Singles,
    sun: Singles,
    light: Singles,
    table: Singles,
) -> Singles:
    """Light on groups of `SPOTS` places each, (G, S), by the packed bits of the suns that places see clear and through crowns."""
    groups, hours, none = len(normals), len(like), np.float32(0.0)
    out = np.empty((groups, hours), np.float32)
    for g in range(groups):
        shares = np.zeros((2, clear.shape[1], 8), np.float32)
        leaves = False
        for p in range(SPOTS * g, SPOTS * (g + 1)):
            for j in range(clear.shape[1]):
                leaves = leaves or leafy[p, j] != 0
                for b in range(8):
                    shares[0, j, b] += table[clear[p, j], b]
                    shares[1, j, b] += table[leafy[p, j], b]
        sees, through, row = shares[0].ravel(), shares[1].ravel(), out[g]
        for s in range(hours):
            row[s] = sees[like[s]]
        if leaves:
            for s in range(hours):
                row[s] += through[like[s]] * crown[s]
        per = np.float32(SPOTS)
        x, y, z, sky, band = normals[g, 0] / per, normals[g, 1] / per, normals[g, 2] / per, sides[g, 0], sides[g, 1]
        for s in range(hours):
            facing = x * sun[0, s] + y * sun[1, s] + z * sun[2, s]
            even = sky * light[1, s] + band * light[2, s]
            row[s] = (even if even > none else none) + row[s] * (facing if facing > none else none) * light[0, s]
    return out


def _share(values: Vec) -> Vec:
    total = float(values.sum())
    return values / total if total > 1e-12 else np.zeros_like(values)
