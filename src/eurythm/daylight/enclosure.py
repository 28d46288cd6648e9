"""A zone from inside: its surfaces in patches, and what rays within it meet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray
from scipy.stats import qmc

from eurythm.geometry.building import Building, Face, Kind, Vec
from eurythm.memo import Kept, key_of
from eurythm.sun.irradiation import Grid, grid_on
from eurythm.sun.obstacles import triangles_of

Series = NDArray[np.float64]
Ints = NDArray[np.int64]
REFLECTANCE: dict[Kind, float] = {"ceiling": 0.7, "wall": 0.5, "floor": 0.2}
"""Of inner surfaces: usual values of EN 12464-1 (unverified)."""
GLASS_REFLECTANCE = 0.23
"""Of a window with its frame, from inside: our own assumption."""
PATCH_M, LARGEST_PATCH_M, USUAL_PATCHES, MOST_PATCHES = 1.0, 1.5, 300, 1200
"""Size of patches; in zones that would have more than the usual number larger up to the largest, and beyond that only where there would be too many."""
PATCH_RAYS = 256
"""Rays by which a patch sees the others."""
RAYS_AT_ONCE = 200_000
LIFT_M = 1e-3
BALANCED = 1e-7


@dataclass(frozen=True, eq=False)
class Surface:
    """One flat inner surface of a zone.

    Attributes
    ----------
    face : the face that it belongs to
    normal : (3,) into the room
    grid : its patches
    first : number of its first patch among those of the zone
    """

    face: Face
    normal: Vec
    grid: Grid
    first: int

    @property
    def kind(self) -> Kind:
        """What it is, seen from this zone: a floor looks up."""
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

    @cached_property
    def glazed(self) -> Series:
        """Share of each patch that its face's windows cover, (n,)."""
        grid, face = self.grid, self.face
        shares = np.zeros(len(grid.cells))
        if not face.windows:
            return shares
        upward = np.cross(face.normal, face.along)
        s, z = float((grid.base - face.origin) @ face.along), float((grid.base - face.origin) @ upward)
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


_FACTORS: Kept[Series] = Kept(40_000_000)


@dataclass(frozen=True, eq=False)
class Enclosure:
    """All inner surfaces of a zone."""

    zone: str
    surfaces: tuple[Surface, ...]
    _scene: list[tuple[EmbreeScene, TriangleMesh]] = field(default_factory=list, repr=False)

    @cached_property
    def areas(self) -> Series:
        """Of the patches, m², (N,)."""
        return np.concatenate([s.grid.areas for s in self.surfaces])

    @cached_property
    def middle(self) -> Vec:
        """What rays are reckoned from, in single precision."""
        corners = np.concatenate([s.face.loops[0] for s in self.surfaces])
        middle: Vec = (corners.min(axis=0) + corners.max(axis=0)) / 2
        return middle

    @cached_property
    def _triangles(self) -> tuple[Vec, Ints]:
        of = [triangles_of(s.face.loops) for s in self.surfaces]
        return np.concatenate(of), np.repeat(np.arange(len(of)), [len(t) for t in of])

    @property
    def scene(self) -> EmbreeScene:
        """The ray library's tree."""
        if not self._scene:
            scene = EmbreeScene()
            self._scene.append((scene, TriangleMesh(scene, np.ascontiguousarray(self._triangles[0] - self.middle, dtype=np.float32))))
        return self._scene[0][0]

    def meet(self, start: Vec, toward: Vec) -> tuple[Ints, Series]:
        """Return the patch that each ray meets first, -1 where it escapes through a gap of the model, and how far away, m."""
        if not len(start):
            return np.zeros(0, np.int64), np.zeros(0)
        met = self.scene.run((start - self.middle).astype(np.float32), toward.astype(np.float32), query="INTERSECT", output=1)
        hit = met["primID"] >= 0
        patch, far = np.full(len(start), -1, dtype=np.int64), np.where(hit, met["tfar"], np.inf).astype(np.float64)
        own = np.flatnonzero(hit)
        which, planes = self._triangles[1][met["primID"][own]], self._planes
        at = start[own] + toward[own] * far[own][:, None] - planes.base[which]
        column = np.einsum("ij,ij->i", at, planes.across[which]).astype(np.int64)
        row = np.einsum("ij,ij->i", at, planes.upward[which]).astype(np.int64)
        columns, rows = planes.shape[which].T
        patch[own] = planes.table[planes.begin[which] + np.clip(column, 0, columns - 1) * rows + np.clip(row, 0, rows - 1)]
        return patch, far

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

    def reflectances(self) -> Series:
        """Of the patches, windows as glass, (N,)."""
        return np.concatenate([REFLECTANCE[s.kind] * (1.0 - s.glazed) + GLASS_REFLECTANCE * s.glazed for s in self.surfaces])

    @cached_property
    def form_factors(self) -> Series:
        """What of each patch's view every other one takes, (N, N): rows sum to one, and areas times factors are symmetric.

        Kept by the zone's shape, wherever it stands.
        """
        corner = self.surfaces[0].face.loops[0][0]
        shape = [np.round(loop - corner, 6) for s in self.surfaces for loop in s.face.loops]
        ways = [np.array([*s.normal, *s.grid.step, *s.grid.along]) for s in self.surfaces]
        return _FACTORS.get(key_of(*shape, *ways), self._form_factors)

    def _form_factors(self) -> Series:
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

    def answer(self, seen: Series) -> Series:
        """What patches lit straight bring a sensor by reflection, to any order, for each unit of their light, (K, N).

        Parameters
        ----------
        seen : (K, N) form factors of the patches from the sensors
        """
        reflectance = self.reflectances()
        within = np.eye(len(reflectance)) - reflectance[:, None] * self.form_factors.T
        return np.asarray(np.linalg.solve(within, (seen * reflectance).T).T, dtype=np.float64)


def _from_patches(surface: Surface, own: Ints, spread: Series) -> tuple[Vec, Vec]:
    """Rays by the cosine law from some patches of a surface, those of each together; starts spread over whole ones, else in their middle."""
    grid = surface.grid
    turns = np.array([0.7548776662, 0.5698402910, 0.8191725134, 0.6710436067])
    numbers = (spread[None] + ((surface.first + own)[:, None] * turns)[:, None, :]) % 1.0
    whole = (grid.areas[own] > (1.0 - 1e-6) * grid.step[0] * grid.step[1])[:, None]
    across, upward = ((numbers[..., k] - 0.5) * grid.step[k] * whole for k in (0, 1))
    start = grid.points[own][:, None] + across[..., None] * grid.along + upward[..., None] * grid.upward + surface.normal * LIFT_M
    toward = hemisphere(numbers[..., 2:].reshape(-1, 2), surface.normal, grid.along, np.cross(surface.normal, grid.along))
    return start.reshape(-1, 3), toward


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
    spread: Series = qmc.Sobol(4, scramble=False).random(count)
    return spread


def hemisphere(spread: Series, normal: Vec, along: Vec, sideways: Vec) -> Vec:
    """Return directions by the cosine law about a normal, (n, 3), for numbers that are evenly spread, (n, 2)."""
    out, around = np.sqrt(spread[:, 0]), 2 * np.pi * spread[:, 1]
    up = np.sqrt(np.maximum(1.0 - spread[:, 0], 1e-12))
    toward: Vec = np.outer(out * np.cos(around), along) + np.outer(out * np.sin(around), sideways) + np.outer(up, normal)
    return toward


def enclosure_of(building: Building, zone: str) -> Enclosure:
    """Return the inner surfaces of a zone; what stands within a merged zone is seen from both sides."""
    faces: list[tuple[Face, float]] = [(f, -1.0) for f in building.faces if f.zone == zone]
    faces += [(f, 1.0) for f in building.faces if f.other == zone]
    faces += [(f, side) for f in building.inner if f.zone == zone and not f.air for side in (-1.0, 1.0)]
    area = sum(f.area for f, _ in faces)
    size = max(float(np.clip(np.sqrt(area / USUAL_PATCHES), PATCH_M, LARGEST_PATCH_M)), float(np.sqrt(area / MOST_PATCHES)))
    return Enclosure(zone, _surfaces(faces, size))


def _surfaces(faces: Sequence[tuple[Face, float]], size: float) -> tuple[Surface, ...]:
    surfaces: list[Surface] = []
    first = 0
    for face, side in faces:
        grid = grid_on(face, size)
        surfaces.append(Surface(face, face.normal * side, grid, first))
        first += len(grid.cells)
    return tuple(surfaces)
