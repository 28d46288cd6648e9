"""A space with sensors: the ways of light from its façades to them, whatever windows and glass there are.

What lies inside is kept by the room's shape. Outside, rays are followed by `daylight.outlook`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from eurythm.daylight.enclosure import DECIMALS, Enclosure, Placed, Reflectance, enclosure_of, hemisphere, spaces_of
from eurythm.daylight.glass import Angles, Facade, Span, facade_of, span_of
from eurythm.daylight.sensors import Sensor
from eurythm.geometry.building import Building, Face, Shade, Vec
from eurythm.memo import Kept, key_of
from eurythm.sun.caster import OFFSET_M
from eurythm.sun.radiation import BESIDE_M

Series = NDArray[np.float64]
Singles = NDArray[np.float32]
Ints = NDArray[np.int64]
SPREAD_CELL_M, SPREAD_CELLS = (0.25, 0.5), 200
"""Cells of a façade from which light spreads into the room: least and largest, and how many there are in between (the least where shades hang)."""
SPREAD_RAYS, LARGE_M2, SUN_RAYS = 8192, 100.0, 8192
"""Rays of the sky from all cells of a façade, a power of two, twice as many of a large one; and of all suns."""
DEEPER = 1.5
"""By how much more rays go straight into the room than the cosine law has: few reach its back otherwise."""
STRAIGHT_CELL_M, STRAIGHT_BY_FAR, HALVED = 0.4, 0.05, (1, 2, 4)
"""Cells through which a sensor looks out: the largest, their size for their distance, and by how much nearer ones are divided."""
COARSE_CELL_M, COARSE_BY_FAR = 0.8, 0.15
"""The same for many sensors together."""
SENSOR_RAYS = 1024
CLOSE_M = 0.02
"""How far before a window something may stand that counts as part of it."""


@dataclass(frozen=True, eq=False)
class Rays:
    """Ways through cells of a façade, one direction each, in the enclosure's axes.

    Attributes
    ----------
    number : of the façade among those of the room
    straight : whether they lead straight to sensors, not to patches
    start, toward : (R, 3) on the façade, and outward
    cell : (R,) number of the cell
    to : (R,) number of the sensor, or of the patch on which the ray falls, -1 for none
    form : (R,) what it brings there for each m² of open glass in the cell and a brightness of one: lux on a sensor, lumen on a patch
    """

    number: int
    straight: bool
    facade: Facade
    start: Singles
    toward: Singles
    cell: Ints
    to: Ints
    form: Series
    angles: Angles


@dataclass(frozen=True, eq=False)
class Inside:
    """What a room with sensors is by its shape alone.

    Attributes
    ----------
    seen : (K, N) form factors of the patches from the sensors
    rays : the sky's ways straight to the sensors, and to the patches
    key : a digest of all that they depend on
    """

    seen: Series
    rays: tuple[Rays, ...]
    key: bytes


_INSIDES: Kept[Inside] = Kept(60_000_000)
_SPREAD: Kept[Rays] = Kept(30_000_000)
_ANSWERS: Kept[Series] = Kept(20_000_000)


def forget() -> None:
    """Forget what was seen inside, such as with other rays."""
    _INSIDES.clear()
    _SPREAD.clear()
    _ANSWERS.clear()


@dataclass(frozen=True, eq=False)
class Room:
    """A space with sensors.

    Attributes
    ----------
    which : numbers of its sensors among all
    at, normals : (K, 3) of the sensors in the enclosure's axes
    facades : numbers of the surfaces with windows
    spans : for each façade, where windows may stand on it
    fine : for each façade, whether shades hang before it
    mirrored : whether only light counts that the room gives back
    coarse : whether its sensors look out through larger cells, for figures of many of them
    """

    placed: Placed
    which: Ints
    at: Vec
    normals: Vec
    facades: tuple[int, ...]
    spans: tuple[Span, ...]
    fine: tuple[bool, ...]
    mirrored: bool = False
    coarse: bool = False

    @property
    def enclosure(self) -> Enclosure:
        """Its shape."""
        return self.placed.enclosure

    @property
    def faces(self) -> list[Face]:
        """The building's faces with windows."""
        return [self.placed.faces[k] for k in self.facades]

    @cached_property
    def inside(self) -> Inside:
        """What it is by its shape alone; kept."""
        where = (np.round(a, DECIMALS) + 0.0 for a in (self.at, self.normals))
        spans = np.round(np.array(self.spans), DECIMALS) + 0.0
        key = key_of(*where, np.array(self.facades), spans, np.array([*self.fine, self.mirrored, self.coarse])) + self.enclosure.key
        return _INSIDES.get(key, lambda: self._inside(key))

    def answer(self, reflectance: Reflectance) -> Series:
        """What each patch brings each sensor by reflection for a lumen that falls on it, lux, (N, K); kept."""
        enclosure, light = self.enclosure, self.placed.reflectances(reflectance)

        def worked_out() -> Series:
            return np.ascontiguousarray((enclosure.answer(self.inside.seen, light) / enclosure.areas).T)

        return _ANSWERS.get(key_of(light) + self.inside.key, worked_out)

    def own(self, facade: int) -> Face:
        """A façade in the enclosure's axes."""
        return self.enclosure.surfaces[self.facades[facade]].face

    def cells(self, facade: int) -> Facade:
        """The cells of a façade from which light spreads."""
        (left, low, right, high), (least, most) = self.spans[facade], SPREAD_CELL_M
        usual = float(np.clip(np.sqrt((right - left) * (high - low) / SPREAD_CELLS), least, most))
        return facade_of(self.own(facade), self.spans[facade], least if self.fine[facade] else usual)

    def _inside(self, key: bytes) -> Inside:
        seen = np.stack([seen_from(self.enclosure, at, normal) for at, normal in zip(self.at, self.normals, strict=True)])
        ways = [rays for k in range(len(self.facades)) for rays in (*(() if self.mirrored else self._straight(k)), self._spread(k))]
        return Inside(seen, tuple(ways), key)

    def _straight(self, facade: int) -> list[Rays]:
        """From each sensor through all cells, at another place in each; the nearer the smaller."""
        face = self.own(facade)
        largest, by_far = (COARSE_CELL_M, COARSE_BY_FAR) if self.coarse else (STRAIGHT_CELL_M, STRAIGHT_BY_FAR)
        whole = facade_of(face, self.spans[facade], largest)
        wanted = largest / np.maximum(np.linalg.norm(whole.at - self.at[:, None], axis=2) * by_far, 1e-6)
        level = np.searchsorted(np.sqrt(np.multiply(HALVED[1:], HALVED[:-1])), wanted)
        found = []
        for number, times in enumerate(HALVED):
            cells = whole.finer(face, times)
            which = [whole.within(np.flatnonzero(own == number), times) for own in level]
            ways = [
                _straight(self.enclosure, (facade, face, cells), own, (self.at[k], self.normals[k], k))
                for k, own in enumerate(which)
                if len(own)
            ]
            found += [_together(ways)] if ways else []
        return found

    def _spread(self, facade: int) -> Rays:
        """From the sky and what lies below it through each larger cell to the patch of the room that it falls on; kept."""
        span = np.round(self.spans[facade], DECIMALS) + 0.0
        key = self.enclosure.key + key_of(np.array([self.facades[facade], facade, self.fine[facade]]), span)
        return _SPREAD.get(key, lambda: self._spread_of(facade))

    def _spread_of(self, facade: int) -> Rays:
        face, cells = self.own(facade), self.cells(facade)
        count = SPREAD_RAYS if cells.size.prod() < LARGE_M2 else 2 * SPREAD_RAYS
        cell, at, toward, form = looking_round(cells, face.normal, count)
        start = cells.places(face, at)
        patch, _ = self.enclosure.meet(start - face.normal * OFFSET_M, -toward)
        angles = Angles(toward @ face.normal)
        return Rays(facade, False, cells, start.astype(np.float32), toward.astype(np.float32), cell, patch, form, angles)


def rooms_of(building: Building, sensors: Sequence[Sensor], coarse: bool = False) -> list[Room]:
    """Return the spaces of some sensors."""
    spaces: dict[tuple[str, ...], list[int]] = {}
    for k, sensor in enumerate(sensors):
        spaces.setdefault(spaces_of(building)[sensor.zone], []).append(k)
    return [replace(_room(building, own, sensors), coarse=coarse) for own in spaces.values()]


def room_at(building: Building, zone: str, points: Vec, mirrored: bool = False) -> Room:
    """Return the space of a zone with points that look up, (P, 3)."""
    looking_up = [Sensor(zone, at, np.array([0.0, 0.0, 1.0])) for at in points]
    return replace(_room(building, [*range(len(points))], looking_up), mirrored=mirrored)


def _room(building: Building, which: list[int], sensors: Sequence[Sensor]) -> Room:
    placed = enclosure_of(building, sensors[which[0]].zone)
    at, normals = placed.inside(np.stack([sensors[k].at for k in which])), np.stack([sensors[k].normal for k in which]) @ placed.turn.T
    facades = tuple(k for k, f in enumerate(placed.faces) if f.boundary == "outdoors" and f.windows)
    faces = [placed.faces[k] for k in facades]
    spans, fine = tuple(span_of(face) for face in faces), tuple(_shaded(face, building.shades) for face in faces)
    return Room(placed, np.array(which), at, normals, facades, spans, fine)


def _shaded(face: Face, shades: Sequence[Shade]) -> bool:
    """Whether shades hang on a face or stand right before it, told in its own axes, so that a turned form says the same."""
    corners = face.loops[0] - face.origin
    own = np.stack([face.along, np.cross(face.normal, face.along)])
    low, high = (corners @ own.T).min(axis=0) - BESIDE_M, (corners @ own.T).max(axis=0) + BESIDE_M
    for shade in shades:
        if shade.face == face.id:
            return True
        away = shade.corners - face.origin
        out, flat = away @ face.normal, away @ own.T
        if out.max() > CLOSE_M and out.min() < BESIDE_M and (flat.min(axis=0) < high).all() and (flat.max(axis=0) > low).all():
            return True
    return False


def _together(ways: Sequence[Rays]) -> Rays:
    """Ways through the same cells as one bundle."""
    start, toward = (np.concatenate([getattr(way, name) for way in ways]) for name in ("start", "toward"))
    cell, to, form = (np.concatenate([getattr(way, name) for way in ways]) for name in ("cell", "to", "form"))
    angles = Angles(np.concatenate([way.angles.cosines for way in ways]))
    return replace(ways[0], start=start, toward=toward, cell=cell, to=to, form=form, angles=angles)


def _straight(enclosure: Enclosure, through: tuple[int, Face, Facade], cells: Ints, sensor: tuple[Vec, Vec, int]) -> Rays:
    """Ways from a sensor through some cells of a façade that it faces."""
    (number, face, facade), (at, normal, own) = through, sensor
    start = facade.at[cells] + within_cells(facade, face, cells)
    way = start - at
    far = np.linalg.norm(way, axis=1)
    way /= np.maximum(far, 1e-9)[:, None]
    cosine = way @ face.normal
    form = np.maximum(way @ normal, 0.0) * np.maximum(cosine, 0.0) / np.pi / np.maximum(far, 1e-3) ** 2
    seen = form > 0
    start, way, far, form, cosine, cell = start[seen], way[seen], far[seen], form[seen], cosine[seen], cells[seen]
    if not enclosure.convex:
        form *= enclosure.meet(np.tile(at, (len(cell), 1)), way)[1] > far - CLOSE_M
    single, to = np.float32, np.full(len(cell), own, dtype=np.int64)
    return Rays(number, True, facade, start.astype(single), way.astype(single), cell, to, form, Angles(cosine))


@lru_cache(maxsize=8)
def _numbers(count: int) -> Series:
    """Evenly spread numbers: place on a façade and direction, (count, 4)."""
    from scipy.stats import qmc  # takes half a second to import

    spread: Series = qmc.Sobol(4, scramble=True, seed=1).random(count)
    return spread


def looking_round(cells: Facade, normal: Vec, count: int) -> tuple[Ints, Vec, Vec, Series]:
    """Rays from places all over a façade: their cells (R,), steps from the façade's lower left (R, 2), directions (R, 3), and form factors (R,),
    which sum to one for each cell.
    """
    numbers = _numbers(count).copy()
    stands_for = DEEPER * numbers[:, 2] ** (DEEPER - 1.0)
    numbers[:, 2] **= DEEPER
    at = numbers[:, :2] * cells.size
    cell = cells.number(at)
    sideways = np.cross(normal, [1.0, 0.0, 0.0] if abs(normal[0]) < 0.9 else [0.0, 1.0, 0.0])
    sideways /= np.linalg.norm(sideways)
    toward = hemisphere(numbers[:, 2:], normal, sideways, np.cross(normal, sideways))
    return cell, at, toward, stands_for / np.bincount(cell, stands_for, minlength=len(cells.at))[cell]


def within_cells(facade: Facade, face: Face, cells: Ints) -> Vec:
    """Evenly spread steps from cells' middles to places within them, (n, 3), m."""
    shift = (np.outer(cells + 0.5, [0.7548776662, 0.5698402910]) % 1.0 - 0.5) * facade.step
    steps: Vec = np.outer(shift[:, 0], face.along) + np.outer(shift[:, 1], np.cross(face.normal, face.along))
    return steps


def seen_from(enclosure: Enclosure, at: Vec, normal: Vec) -> Series:
    """Form factors of a zone's patches from a place, (N,)."""
    spread = np.column_stack([(np.arange(SENSOR_RAYS) + 0.5) / SENSOR_RAYS, np.arange(SENSOR_RAYS) * 0.6180339887 % 1.0])
    along = np.cross(normal, [1.0, 0.0, 0.0] if abs(normal[0]) < 0.9 else [0.0, 1.0, 0.0])
    along /= np.linalg.norm(along)
    patch, _ = enclosure.meet(np.tile(at, (SENSOR_RAYS, 1)), hemisphere(spread, normal, along, np.cross(normal, along)))
    return np.bincount(patch[patch >= 0], minlength=len(enclosure.areas)) / SENSOR_RAYS
