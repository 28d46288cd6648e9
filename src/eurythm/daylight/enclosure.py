"""A space from inside: the surfaces of a zone, or of all zones of an open storey, in patches, and what rays within it meet.

An enclosure stands in axes of its own, so that storeys alike and a turned building share it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from typing import Any, NamedTuple

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray
from scipy.linalg import LinAlgError, cho_factor, cho_solve

from eurythm.daylight.compiled import land, leave
from eurythm.geometry.building import Building, Face, Kind, Vec
from eurythm.geometry.merging import hanging_together
from eurythm.memo import Kept, key_of
from eurythm.sun.irradiation import Grid, grid_on
from eurythm.sun.obstacles import triangles_of

Series = NDArray[np.float64]
Singles = NDArray[np.float32]
Ints = NDArray[np.int64]
PATCH_M, LARGEST_PATCH_M, USUAL_PATCHES, MOST_PATCHES = 1.0, 2.0, 300, 1200
"""Size of patches; in zones that would have more than the usual number larger up to the largest, and beyond that only where there would be too many."""
PATCH_RAYS = 128
"""Rays by which a patch sees the others."""
RAYS_AT_ONCE = 200_000
Reflectance = Callable[[Face, str, Kind], float]
"""Of a face seen from a zone as wall, floor or ceiling."""
GLASS_REFLECTANCE = 0.23
"""Of a window with its frame, from inside: our own assumption."""
LIFT_M = 1e-3
BALANCED = 1e-7
DECIMALS = 4
"""To which shapes are alike, m."""
LEAST_REFLECTANCE = 1e-9
MANY = 24
"""Sensors from which on light between surfaces is solved at once for all of them."""
SOLVED, MOST_TURNS = 1e-6, 400
"""To what part of it light between surfaces is settled, and in how many turns at most."""
TURNS = np.array([0.7548776662, 0.5698402910, 0.8191725134, 0.6710436067])
"""By how much each patch shifts the evenly spread numbers of the one before."""


@dataclass(frozen=True, eq=False)
class Surface:
    """One flat inner surface of a space.

    Attributes
    ----------
    face : the face that it belongs to, in the enclosure's axes; its normal points out of the room
    grid : its patches
    first : number of its first patch among those of the space
    """

    face: Face
    grid: Grid
    first: int

    @property
    def normal(self) -> Vec:
        """Unit vector into the room, (3,)."""
        inward: Vec = -self.face.normal
        return inward

    @property
    def kind(self) -> Kind:
        """What it is, seen from inside: a floor looks up."""
        if self.face.kind == "wall":
            return "wall"
        return "floor" if self.normal[2] > 0 else "ceiling"

    @cached_property
    def table(self) -> Ints:
        """Number of the patch in each cell of the grid, (columns, rows); a cell with next to nothing of the surface has its nearest's."""
        grid = self.grid
        table = np.full(grid.shape, -1, dtype=np.int64)
        table[grid.cells[:, 0], grid.cells[:, 1]] = self.first + np.arange(len(grid.cells))
        for i, j in np.argwhere(table < 0):
            table[i, j] = self.first + int(np.abs(grid.cells - [i, j]).sum(axis=1).argmin())
        return table

    def glazed(self, face: Face) -> Series:
        """Share of each patch that the windows of a face cover which stands where the surface's own does, (n,)."""
        grid, own = self.grid, self.face
        shares = np.zeros(len(grid.cells))
        if not face.windows:
            return shares
        upward = np.cross(own.normal, own.along)
        s, z = float((grid.base - own.origin) @ own.along), float((grid.base - own.origin) @ upward)
        left, low = s + grid.cells[:, 0] * grid.step[0], z + grid.cells[:, 1] * grid.step[1]
        for w in face.windows:
            across = covered(left, left + grid.step[0], w.s, w.s + w.width)
            shares += across * covered(low, low + grid.step[1], w.z, w.z + w.height)
        found: Series = np.minimum(shares / grid.areas, 1.0)
        return found


def covered(low: NDArray[Any], high: NDArray[Any], first: float, last: float) -> Series:
    """Return how much of each interval lies within another, m."""
    shared: Series = np.maximum(np.minimum(high, last) - np.maximum(low, first), 0.0)
    return shared


class _Planes(NamedTuple):
    """Of each surface: its base, its axes by the step of its grid, the grid's columns and rows, and where its cells begin among the patches of all."""

    base: Vec
    across: Vec
    upward: Vec
    shape: Ints
    begin: Ints
    table: Ints


@dataclass(frozen=True, eq=False)
class Enclosure:
    """All inner surfaces of a space, in axes of their own: x along its first wall, z up. `key` is a digest of their shape."""

    surfaces: tuple[Surface, ...]
    key: bytes
    _scene: list[tuple[EmbreeScene, TriangleMesh]] = field(default_factory=list, repr=False)

    @property
    def nbytes(self) -> int:
        """How much it takes: mainly its form factors."""
        count = len(self.areas)
        return 16 * count * count + 400 * count

    @cached_property
    def areas(self) -> Series:
        """Of the patches, m², (N,)."""
        return np.concatenate([s.grid.areas for s in self.surfaces])

    @cached_property
    def convex(self) -> bool:
        """Whether everything in it sees everything else."""
        corners = np.concatenate([s.face.loops[0] for s in self.surfaces])
        return all(float(((corners - s.face.loops[0][0]) @ s.face.normal).max()) < LIFT_M for s in self.surfaces)

    @cached_property
    def _triangles(self) -> tuple[Vec, Ints]:
        of = [triangles_of(s.face.loops) for s in self.surfaces]
        return np.concatenate(of), np.repeat(np.arange(len(of)), [len(t) for t in of])

    @property
    def scene(self) -> EmbreeScene:
        """The ray library's tree."""
        if not self._scene:
            scene = EmbreeScene()
            self._scene.append((scene, TriangleMesh(scene, np.ascontiguousarray(self._triangles[0], dtype=np.float32))))
        return self._scene[0][0]

    def meet(self, start: NDArray[Any], toward: NDArray[Any]) -> tuple[Ints, Series]:
        """Return the patch that each ray meets first, -1 where it escapes through a gap of the model, and how far away, m."""
        if not len(start):
            return np.zeros(0, np.int64), np.zeros(0)
        begin, way = (np.ascontiguousarray(a, dtype=np.float32) for a in (start, toward))
        met = self.scene.run(begin, way, query="INTERSECT", output=1)
        patch: Ints
        patch, away = land(begin, way, met["primID"].astype(np.int64), met["tfar"].astype(np.float64), self._triangles[1], *self._planes)
        return patch, away

    @cached_property
    def _planes(self) -> _Planes:
        grids = [s.grid for s in self.surfaces]
        tables = [s.table.ravel() for s in self.surfaces]
        return _Planes(
            np.stack([g.base for g in grids]),
            np.stack([g.along / g.step[0] for g in grids]),
            np.stack([g.upward / g.step[1] for g in grids]),
            np.array([g.shape for g in grids]),
            np.concatenate([[0], np.cumsum([len(t) for t in tables])[:-1]]),
            np.concatenate(tables),
        )

    @cached_property
    def form_factors(self) -> Series:
        """What of each patch's view every other one takes, (N, N): rows sum to one, and areas times factors are symmetric."""
        areas, spread = self.areas, _spread(PATCH_RAYS)
        count, seen = len(areas), []
        each = max(1, RAYS_AT_ONCE // PATCH_RAYS)
        for surface in self.surfaces:
            for first in range(0, len(surface.grid.points), each):
                own = np.arange(first, min(first + each, len(surface.grid.points)))
                start, toward = _from_patches(surface, own, spread)
                patch, _ = self.meet(start, toward)
                met = patch >= 0
                cell = np.repeat(np.arange(len(own)), PATCH_RAYS)[met] * count + patch[met]
                seen.append(np.bincount(cell, minlength=len(own) * count).reshape(len(own), count))
        views = np.concatenate(seen).astype(np.float64)
        exchange = views / np.maximum(views.sum(axis=1, keepdims=True), 1.0) * areas[:, None]
        return balanced((exchange + exchange.T) / 2, areas) / areas[:, None]

    @cached_property
    def exchange(self) -> Series:
        """Areas times form factors, m², (N, N)."""
        exchange: Series = self.form_factors * self.areas[:, None]
        return exchange

    def answer(self, seen: Series, reflectance: Series) -> Series:
        """What patches lit straight bring a sensor by reflection, to any order, for each unit of their light, (K, N).

        Parameters
        ----------
        seen : (K, N) form factors of the patches from the sensors
        reflectance : (N,)
        """
        worth = self.areas / np.maximum(reflectance, LEAST_REFLECTANCE)
        solved = _settled if len(seen) < MANY else _solved
        return solved(self.exchange, worth, seen.T).T * self.areas


def _from_patches(surface: Surface, own: Ints, spread: Series) -> tuple[Singles, Singles]:
    """Rays by the cosine law from some patches of a surface, those of each together; starts spread over whole ones, else in their middle."""
    grid = surface.grid
    whole = grid.areas[own] > (1.0 - 1e-6) * grid.step[0] * grid.step[1]
    axes = np.stack([grid.along, grid.upward, surface.normal, np.cross(surface.normal, grid.along)])
    shift = ((surface.first + own)[:, None] * TURNS) % 1.0
    start: Singles
    start, toward = leave(grid.points[own], whole, shift, spread, axes, np.array(grid.step), LIFT_M)
    return start, toward


def _settled(exchange: Series, worth: Series, seen: Series) -> Series:
    """Solve ``(diag(worth) - exchange) x = seen`` for all columns by conjugate gradients; the matrix is symmetric and positive.

    Shewchuk (1994), with the diagonal as preconditioner.
    """
    found = seen / worth[:, None]
    left = exchange @ found  # seen - (worth found - exchange found)
    way = left / worth[:, None]
    size = np.einsum("nk,nk->k", left, way)
    least = SOLVED**2 * np.maximum(np.einsum("nk,nk->k", seen, seen / worth[:, None]), 1e-300)
    for _ in range(MOST_TURNS):
        if (size <= least).all():
            break
        ahead = worth[:, None] * way - exchange @ way
        step = size / np.maximum(np.einsum("nk,nk->k", way, ahead), 1e-300)
        found = found + step * way
        left = left - step * ahead
        turned = left / worth[:, None]
        now = np.einsum("nk,nk->k", left, turned)
        way = turned + now / np.maximum(size, 1e-300) * way
        size = now
    return found


def _solved(exchange: Series, worth: Series, seen: Series) -> Series:
    """The same by Cholesky's factors, which pay where there are many columns."""
    try:
        found: Series = cho_solve(cho_factor(np.diag(worth) - exchange, lower=True, overwrite_a=True, check_finite=False), seen)
    except LinAlgError:
        return _settled(exchange, worth, seen)
    return found


def balanced(exchange: Series, areas: Series) -> Series:
    """Return symmetric exchange areas scaled so that each patch's sum is its area, m²; symmetric they stay."""
    scale = np.ones(len(areas))
    for _ in range(200):
        off = np.sqrt(areas / np.maximum(scale * (exchange @ scale), 1e-12))
        scale *= off
        if np.abs(off - 1.0).max() < BALANCED:
            break
    made: Series = exchange * np.outer(scale, scale)
    return made


def _spread(count: int) -> Series:
    """Evenly spread numbers: place on a patch and direction, (count, 4)."""
    from scipy.stats import qmc  # takes half a second to import

    spread: Series = qmc.Sobol(4, scramble=False).random(count)
    return spread


def hemisphere(spread: Series, normal: Vec, along: Vec, sideways: Vec) -> Vec:
    """Return directions by the cosine law about a normal, (n, 3), for numbers that are evenly spread, (n, 2)."""
    out, around = np.sqrt(spread[:, 0]), 2 * np.pi * spread[:, 1]
    up = np.sqrt(np.maximum(1.0 - spread[:, 0], 1e-12))
    toward: Vec = np.outer(out * np.cos(around), along) + np.outer(out * np.sin(around), sideways) + np.outer(up, normal)
    return toward


@dataclass(frozen=True, eq=False)
class Placed:
    """An enclosure where its zones stand.

    Attributes
    ----------
    faces, zones : behind each surface the building's face, and the zone from which it is seen
    turn, origin : (3, 3), (3,); a place of the drawing is ``(at - origin) @ turn.T`` in the enclosure
    """

    enclosure: Enclosure
    faces: tuple[Face, ...]
    zones: tuple[str, ...]
    turn: Vec
    origin: Vec

    def inside(self, at: Vec) -> Vec:
        """Places of the drawing in the enclosure's axes."""
        found: Vec = (at - self.origin) @ self.turn.T
        return found

    def outside(self, at: NDArray[Any]) -> Vec:
        """Places of the enclosure in the drawing."""
        found: Vec = at @ self.turn + self.origin
        return found

    def reflectances(self, of: Reflectance) -> Series:
        """Of the patches, windows as glass, (N,)."""
        behind = zip(self.enclosure.surfaces, self.faces, self.zones, strict=True)
        shares = [(s.glazed(f), of(f, zone, s.kind)) for s, f, zone in behind]
        return np.concatenate([opaque * (1.0 - glazed) + GLASS_REFLECTANCE * glazed for glazed, opaque in shares])


_ENCLOSURES: Kept[Enclosure] = Kept(80_000_000)


@dataclass(frozen=True, eq=False)
class _Lie:
    """How an enclosure lies in the drawing, and the order of its surfaces among the faces of its zones."""

    enclosure: Enclosure
    turn: Vec
    origin: Vec
    order: tuple[int, ...]

    @property
    def nbytes(self) -> int:
        """How much it takes besides the enclosure, which is kept for itself."""
        return 500


_LIES: Kept[_Lie] = Kept(2_000_000)


@lru_cache(maxsize=8)
def spaces_of(building: Building) -> Mapping[str, tuple[str, ...]]:
    """Return for each zone those with which it shares an open storey, itself among them."""
    pairs = [(f.zone, f.other) for f in building.faces if f.border and f.other is not None]
    groups = hanging_together([zone.id for zone in building.zones], pairs)
    return {zone: tuple(group) for group in groups for zone in group}


def enclosure_of(building: Building, zone: str) -> Placed:
    """Return the inner surfaces of the space of a zone; what stands within it, such as within a merged zone, is seen from both sides."""
    own = set(spaces_of(building)[zone])
    faces = [f for f in building.faces if not f.border and (f.zone in own or f.other in own)]
    sides: list[tuple[Face, int]] = [(f, 1) for f in faces if f.zone in own]
    sides += [(f, -1) for f in faces if f.other in own]
    sides += [(f, side) for f in building.inner if f.zone in own and not (f.air or f.border) for side in (1, -1)]
    told = repr([(f.kind, side, len(f.loops), bool(f.windows)) for f, side in sides]).encode()
    shape = np.concatenate([a for f, _ in sides for a in (*f.loops, np.stack([f.normal, f.along, f.origin]))])
    lie = _LIES.get(key_of(shape) + told, lambda: _lie(sides))
    there = [sides[k] for k in lie.order]
    zones = tuple(f.zone if side > 0 or f.other not in own else f.other for f, side in there)
    return Placed(lie.enclosure, tuple(f for f, _ in there), zones, lie.turn, lie.origin)


def _lie(sides: Sequence[tuple[Face, int]]) -> _Lie:
    wall = next((f.normal for f, _ in sides if f.kind == "wall" and abs(f.normal[2]) < 0.5), np.array([0.0, -1.0, 0.0]))
    along = np.array([-wall[1], wall[0]]) / np.hypot(wall[0], wall[1])
    turn = np.array([[along[0], along[1], 0.0], [-along[1], along[0], 0.0], [0.0, 0.0, 1.0]])
    origin = (np.concatenate([f.loops[0] for f, _ in sides]) @ turn.T).min(axis=0) @ turn
    own = [_turned(f, side, turn, origin) for f, side in sides]
    order = sorted(range(len(own)), key=lambda k: (*np.round(own[k].normal, 3), *np.round(own[k].loops[0].min(axis=0), 3), own[k].kind))
    faces = [own[k] for k in order]
    told = repr([(f.kind, len(f.loops)) for f in faces]).encode()
    key = key_of(*(a for f in faces for a in (*f.loops, f.normal, f.along, f.origin)), np.frombuffer(told, np.uint8))
    return _Lie(_ENCLOSURES.get(key, lambda: _enclosure(faces, key)), turn, origin, tuple(order))


def _turned(face: Face, side: int, turn: Vec, origin: Vec) -> Face:
    """A face in other axes, outward as this zone sees it, told as any face that stands there would be."""

    def rounded(a: Vec) -> Vec:
        even: Vec = np.round(a, DECIMALS) + 0.0
        return even

    def unit(a: Vec) -> Vec:
        even: Vec = rounded(a) / np.linalg.norm(rounded(a))
        return even

    normal = unit(face.normal @ turn.T * side)
    level = np.hypot(normal[0], normal[1]) < 1e-3
    usual = np.array([1.0, 0.0, 0.0]) if level else np.array([-normal[1], normal[0], 0.0]) / np.hypot(normal[0], normal[1])
    along = unit(face.along @ turn.T) if face.windows else usual
    loops = tuple(_from_lowest(rounded((loop - origin) @ turn.T)[::side]) for loop in face.loops)
    corner = rounded((face.origin - origin) @ turn.T) if face.windows else loops[0][0]
    return replace(face, loops=loops, normal=normal, along=along, origin=corner, windows=())


def _from_lowest(ring: Vec) -> Vec:
    """A ring from its first corner in the order of coordinates."""
    return np.ascontiguousarray(np.roll(ring, -min(range(len(ring)), key=lambda k: tuple(ring[k])), axis=0))


def _enclosure(faces: Sequence[Face], key: bytes) -> Enclosure:
    area = sum(f.area for f in faces)
    size = max(float(np.clip(np.sqrt(area / USUAL_PATCHES), PATCH_M, LARGEST_PATCH_M)), float(np.sqrt(area / MOST_PATCHES)))
    surfaces: list[Surface] = []
    first = 0
    for face in faces:
        grid = grid_on(face, size)
        surfaces.append(Surface(face, grid, first))
        first += len(grid.cells)
    return Enclosure(tuple(surfaces), key)
