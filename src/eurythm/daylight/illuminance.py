"""Illuminance at sensors: hour by hour over a year, and under an overcast sky."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from eurythm.climate.year import HOURS, ClimateYear
from eurythm.daylight.efficacy import light_of
from eurythm.daylight.enclosure import Enclosure, enclosure_of, hemisphere
from eurythm.daylight.glass import Facade, facade_of, let_through
from eurythm.daylight.sensors import Sensor
from eurythm.geometry.building import Building, Face, Vec
from eurythm.model.library import Glazing
from eurythm.model.place import Place
from eurythm.sun.bounce import Bounce, given_back, look_along, sun_cells
from eurythm.sun.caster import FACING, OFFSET_M, OFFSET_SHADES_M, REINHART_ROWS
from eurythm.sun.obstacles import Obstacles, obstacles_of
from eurythm.sun.radiation import crown_transmittance, ground_reflectance, shaded_faces, sun_in_drawing

Series = NDArray[np.float64]
Ints = NDArray[np.int64]
Glass = Callable[[Face, int], Glazing]
"""The glazing of a face's window by its number."""
SPREAD_CELL_M, SPREAD_CELLS, SPREAD_RAYS = (0.25, 0.5), 200, 12_000
"""Cells of a façade from which light spreads into the room: least and largest, how many there are in between (the least where shades hang), and
rays from all of them."""
STRAIGHT_CELL_M, STRAIGHT_BY_FAR = (0.1, 0.4), 0.05
"""Cells through which a sensor looks out: least and largest, and their size for its distance."""
SENSOR_RAYS = 2048
LOW_ROW = float(np.radians(90.0 / 14.5))
"""Height of the sky's lowest row, which stands for the horizon's band, rad."""
BAND_FORM = float((LOW_ROW + np.sin(LOW_ROW) * np.cos(LOW_ROW)) / np.pi)
"""Form factor of the whole band before an upright plane: its light there for one unit of brightness."""


@dataclass(frozen=True, eq=False)
class Illuminance:
    """Light on sensors (K).

    Attributes
    ----------
    lux : (K, 8760)
    daylight_factor : (K,) of the light on open level ground under the CIE overcast sky
    source : where luminous efficacy comes from
    """

    sensors: tuple[Sensor, ...]
    lux: Series
    daylight_factor: Series
    source: str


@dataclass(frozen=True, eq=False)
class _Ways:
    """Ways from glass to sensors: through a cell, one direction each.

    Attributes
    ----------
    facade : the cells
    start, toward : (R, 3) on the glass, and outward
    cell : (R,) number of the cell
    weight : (K, R) light on each sensor per m² of open glass in the cell, for a brightness of one (lux on a plane that sees nothing else)
    """

    facade: Facade
    start: Vec
    toward: Vec
    cell: Ints
    weight: Series

    def glazed(self, glass: Glass) -> Series:
        """Weights for the glass that is there, (K, R)."""
        through = np.zeros(len(self.cell))
        for number in range(len(self.facade.face.windows)):
            of = glass(self.facade.face, number)
            if of.visible > 0:
                areas = self.facade.areas(number)[self.cell]
                some = areas > 0
                through[some] += areas[some] * let_through(of, self.facade.face, self.toward[some])
        return self.weight * through


def illuminance(building: Building, place: Place, climate: ClimateYear, sensors: Sequence[Sensor], glass: Glass) -> Illuminance:
    """Return the light on sensors of any zones; zones without glass are dark."""
    lux, factors = np.zeros((len(sensors), HOURS)), np.zeros(len(sensors))
    obstacles = obstacles_of(building, place)
    light = light_of(climate)
    up, toward_sun = sun_in_drawing(place.north_deg, climate.location)
    crown = crown_transmittance(place, climate.location.latitude_deg)[up] if place.standing_trees else None
    leaves = 1.0 if crown is None else float(crown.mean())
    upright = [f.normal for f in building.faces if f.boundary == "outdoors" and abs(f.normal[2]) < 0.5]
    rooms = [
        _room(building, zone, [k for k, s in enumerate(sensors) if s.zone == zone], sensors)
        for zone in dict.fromkeys(s.zone for s in sensors)
    ]
    ways = [(room, way) for room in rooms for way in room.ways()]
    if not ways:
        return Illuminance(tuple(sensors), lux, factors, light.source)
    rays = [(way.start, way.toward, way.facade.face.normal, way.weight.sum(axis=0)) for _, way in ways]
    bounce, groups = look_along(obstacles, rays, place.ground_level_m, upright)
    back, dull = _brightness(bounce, obstacles, place, toward_sun, (light.sun[up], light.even[up], light.band[up]), crown, up)
    crowns = _Scene(obstacles.crowns)
    for (room, way), group in zip(ways, groups, strict=True):
        weight = way.glazed(glass)
        free = group < 0
        through = np.where(free, 1.0, 0.0)
        if len(obstacles.crowns):
            through[free] *= np.where(crowns.blocked(way.start[free], way.toward[free]), leaves, 1.0)
        height = way.toward[:, 2]
        even = weight @ (through * (height > 0))
        band = weight @ (through * ((height > 0) & (height < np.sin(LOW_ROW)))) / BAND_FORM
        overcast = weight @ (through * np.maximum(height, 0.0) * 2 + through * (height > 0)) * (3 / 7)
        met = np.stack([np.bincount(group[~free], own[~free], minlength=len(back)) for own in weight])
        lux[np.ix_(room.which, up)] += np.maximum(np.outer(even, light.even[up]) + np.outer(band, light.band[up]), 0.0) + met @ back
        factors[room.which] += overcast + met @ dull
    suns = _Suns(toward_sun, up, light.sun[up], crown, obstacles)
    for room in rooms:
        for facade in room.facades:
            lux[np.ix_(room.which, up)] += room.straight_sun(facade, glass, suns) + room.spread_sun(facade, glass, suns)
    return Illuminance(tuple(sensors), lux, factors, light.source)


def _brightness(
    bounce: Bounce,
    obstacles: Obstacles,
    place: Place,
    toward_sun: Vec,
    light: tuple[Series, Series, Series],
    crown: Series | None,
    up: Ints,
) -> tuple[Series, Series]:
    """Brightness of what is met, in lux that it gives back: by the sunlit hour, (G, S), and under a dull sky that gives one lux, (G,)."""
    ground = ground_reflectance(place)
    back = given_back(bounce, obstacles, toward_sun, light, crown, (ground[up], place.obstacle_reflectance))
    none, one = np.zeros(1), np.ones(1)
    leaves = None if crown is None else np.array([crown.mean()])
    dull = given_back(
        bounce, obstacles, np.array([[0.0, 0.0, 1.0]]), (none, one, none), leaves, (np.array([ground.mean()]), place.obstacle_reflectance)
    )
    return back.astype(np.float64), dull[:, 0].astype(np.float64)


class _Scene:
    """Some triangles that may be in the way."""

    def __init__(self, triangles: Vec) -> None:
        self.scene: EmbreeScene | None = None
        if len(triangles):
            self.middle = triangles.reshape(-1, 3).mean(axis=0)
            self.scene = EmbreeScene()
            self.mesh = TriangleMesh(self.scene, np.ascontiguousarray(triangles - self.middle, dtype=np.float32))

    def blocked(self, start: Vec, toward: Vec) -> NDArray[np.bool_]:
        """Return whether something is in the way of each ray."""
        if self.scene is None or not len(start):
            return np.zeros(len(start), dtype=bool)
        hit = self.scene.run((start - self.middle).astype(np.float32), toward.astype(np.float32), query="OCCLUDED")
        found: NDArray[np.bool_] = hit != -1
        return found


class _Suns:
    """The sun of the year, and what stands before it."""

    def __init__(self, toward: Vec, up: Ints, light: Series, crown: Series | None, obstacles: Obstacles) -> None:
        self.toward, self.up, self.light = toward, up, light
        self.crown = np.ones(len(up)) if crown is None else crown
        self.few, self.like = sun_cells(toward, np.eye(2))
        self.solids, self.shades, self.crowns = (_Scene(t) for t in (obstacles.solids, obstacles.shades, obstacles.crowns))

    def free(self, start: Vec, normal: Vec, hours: Ints) -> Series:
        """Return what of the sun reaches places outside a face in some sunlit hours, one hour each."""
        clear, leafy = self.seen(start, normal, self.toward[hours])
        return np.where(clear, np.where(leafy, self.crown[hours], 1.0), 0.0)

    def seen(self, start: Vec, normal: Vec, toward: Vec) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """Return whether nothing opaque is in the way from places on a face, and whether crowns are."""
        blocked = self.solids.blocked(start + normal * OFFSET_M, toward) | self.shades.blocked(start + normal * OFFSET_SHADES_M, toward)
        return ~blocked, self.crowns.blocked(start, toward)


def looking_round(count: int, normal: Vec, most: int) -> tuple[Ints, Vec, Series]:
    """Rays from so many cells of one face over the whole sphere: their cells (R,), directions (R, 3) and form factors (R,), which sum to one for each cell.

    Each cell looks through another place of each patch of the sky, so that together they see finer than the patches are; where
    these would be more than `most` rays, cells take turns at the patches.
    """
    step = np.radians(90.0 / (len(REINHART_ROWS) + 0.5))
    rows = [*REINHART_ROWS, 1]
    which = np.repeat(np.arange(len(rows)), rows)
    low, high = np.sin(which * step), np.append(np.sin((np.arange(len(REINHART_ROWS)) + 1) * step), 1.0)[which]
    first, wide = np.concatenate([np.arange(n) / n for n in rows]), 1.0 / np.array(rows)[which]
    patches = 2 * len(which)
    turns = max(1, round(count * patches / 2 / most))
    cell, patch = np.nonzero((np.arange(count)[:, None] + np.arange(patches)) % turns == 0)
    of, upper = patch % len(which), patch < len(which)
    sine = low[of] + (high - low)[of] * ((0.5 + cell * 0.7548776662) % 1.0)
    around = 2 * np.pi * (first[of] + wide[of] * ((0.5 + cell * 0.5698402910) % 1.0))
    cosine = np.sqrt(np.maximum(1.0 - sine**2, 0.0))
    toward = np.stack([cosine * np.sin(around), cosine * np.cos(around), np.where(upper, sine, -sine)], axis=1)
    facing = toward @ normal
    own = facing > FACING
    form = facing[own] * (wide * (high - low))[of[own]]
    cell = cell[own]
    return cell, toward[own], form / np.bincount(cell, form, minlength=count)[cell]


def _within_cells(facade: Facade, count: int) -> Vec:
    """Evenly spread steps from cells' middles to places within them, (count, 3), m."""
    shift = (np.outer(np.arange(count) + 0.5, [0.7548776662, 0.5698402910]) % 1.0 - 0.5) * facade.step
    face = facade.face
    steps: Vec = np.outer(shift[:, 0], face.along) + np.outer(shift[:, 1], np.cross(face.normal, face.along))
    return steps


@dataclass(frozen=True, eq=False)
class _Room:
    """A zone with sensors: its enclosure, the façades with glass and which of these have shades, which sensors are its own, and what patches bring them by reflection."""

    enclosure: Enclosure
    facades: tuple[Face, ...]
    shaded: frozenset[str]
    which: Ints
    at: Vec
    normals: Vec
    answer: Series

    def _cells(self, face: Face) -> Facade:
        least, most = SPREAD_CELL_M
        return facade_of(face, least if face.id in self.shaded else float(np.clip(np.sqrt(face.area / SPREAD_CELLS), least, most)))

    def ways(self) -> list[_Ways]:
        """Ways of diffuse light: straight to each sensor, and by what the room gives back of it."""
        found = []
        for face in self.facades:
            found += [self._straight(face, k) for k in range(len(self.which))]
            found.append(self._spread(face))
        return found

    def _straight(self, face: Face, k: int) -> _Ways:
        """From one sensor through each small cell, at another place in each."""
        away = float((face.origin - self.at[k]) @ face.normal)
        facade = facade_of(face, float(np.clip(away * STRAIGHT_BY_FAR, *STRAIGHT_CELL_M)))
        count = len(facade.at)
        start = facade.at + _within_cells(facade, count)
        way = start - self.at[k]
        far = np.linalg.norm(way, axis=1)
        toward = way / np.maximum(far, 1e-9)[:, None]
        weight = np.maximum(toward @ self.normals[k], 0.0) * np.maximum(toward @ face.normal, 0.0) / np.pi / np.maximum(far, 1e-3) ** 2
        weight[weight > 0] *= (
            self.enclosure.meet(np.tile(self.at[k], (int((weight > 0).sum()), 1)), toward[weight > 0])[1] > far[weight > 0] - 0.02
        )
        whole = np.zeros((len(self.which), count))
        whole[k] = weight
        return _Ways(facade, start, toward, np.arange(count), whole)

    def _spread(self, face: Face) -> _Ways:
        """From patches of the sky and of what lies below it through each larger cell to the patch of the room that it falls on."""
        facade = self._cells(face)
        cell, ways, form = looking_round(len(facade.at), face.normal, SPREAD_RAYS)
        start = facade.at[cell] + _within_cells(facade, len(cell))
        patch, _ = self.enclosure.meet(start - face.normal * OFFSET_M, -ways)
        weight = np.where(patch >= 0, self.answer[:, patch] / self.enclosure.areas[patch], 0.0) * form
        return _Ways(facade, start, ways, cell, weight)

    def straight_sun(self, face: Face, glass: Glass, suns: _Suns) -> Series:
        """Light of the sun that falls on the sensors through a face's windows, (K, S)."""
        found = np.zeros((len(self.which), len(suns.up)))
        upward, ahead = np.cross(face.normal, face.along), suns.toward @ face.normal
        for k, (at, normal) in enumerate(zip(self.at, self.normals, strict=True)):
            facing = suns.toward @ normal
            hours = np.flatnonzero((ahead > FACING) & (facing > 0))
            far = float((face.origin - at) @ face.normal) / ahead[hours]
            hours, far = hours[far > 0], far[far > 0]
            place = at + suns.toward[hours] * far[:, None]
            s, z = (place - face.origin) @ face.along, (place - face.origin) @ upward
            for number, w in enumerate(face.windows):
                of = glass(face, number)
                met = (s > w.s) & (s < w.s + w.width) & (z > w.z) & (z < w.z + w.height)
                if not met.any() or of.visible <= 0:
                    continue
                own, start = hours[met], place[met]
                clear = self.enclosure.meet(np.tile(at, (len(own), 1)), suns.toward[own])[1] > far[met] - 0.02
                through = let_through(of, face, suns.toward[own]) * suns.free(start, face.normal, own) * clear
                found[k, own] += through * facing[own] * suns.light[own]
        return found

    def spread_sun(self, face: Face, glass: Glass, suns: _Suns) -> Series:
        """Light of the sun that the room gives back to the sensors, (K, S), by suns that stand for those about them."""
        few = suns.few[suns.toward[suns.few] @ face.normal > FACING]
        found = np.zeros((len(self.which), len(suns.up)))
        if not len(few):
            return found
        facade, toward = self._cells(face), suns.toward[few]
        cells, count = len(facade.at), len(few)
        through = np.zeros((cells, count))
        for number in range(len(face.windows)):
            of = glass(face, number)
            if of.visible > 0:
                through += np.outer(facade.areas(number), let_through(of, face, toward) * (toward @ face.normal))
        whole = through.sum(axis=0)
        turns = max(1, round(cells * count / SPREAD_RAYS))
        cell, sun = np.nonzero(((np.arange(cells)[:, None] + np.arange(count)) % turns == 0) & (through > 0))
        light = through[cell, sun]
        light *= (whole / np.maximum(np.bincount(sun, light, minlength=count), 1e-12))[sun]
        start = facade.at[cell] + _within_cells(facade, len(cell))
        patch, _ = self.enclosure.meet(start - face.normal * OFFSET_M, -toward[sun])
        clear, leafy = suns.seen(start, face.normal, toward[sun])
        answer = np.where(patch >= 0, self.answer[:, patch] / self.enclosure.areas[patch], 0.0) * light
        plain, green = (
            np.stack([np.bincount(sun, own * seen, minlength=count) for own in answer]) for seen in (clear & ~leafy, clear & leafy)
        )
        place = np.full(len(suns.toward), -1)
        place[few] = np.arange(len(few))
        like = place[suns.few[suns.like]]
        own = like >= 0
        found[:, own] = (plain[:, like[own]] + green[:, like[own]] * suns.crown[own]) * suns.light[own]
        return found


def _room(building: Building, zone: str, which: list[int], sensors: Sequence[Sensor]) -> _Room:
    enclosure = enclosure_of(building, zone)
    at, normals = np.stack([sensors[k].at for k in which]), np.stack([sensors[k].normal for k in which])
    facades = tuple(f for f in building.faces if f.zone == zone and f.boundary == "outdoors" and f.windows)
    seen = np.zeros((len(which), len(enclosure.areas)))
    for k, (start, normal) in enumerate(zip(at, normals, strict=True)):
        seen[k] = _seen(enclosure, start, normal)
    shaded = frozenset(shaded_faces(facades, building.shades))
    return _Room(enclosure, facades, shaded, np.array(which), at, normals, enclosure.answer(seen))


def _seen(enclosure: Enclosure, at: Vec, normal: Vec) -> Series:
    """Form factors of a zone's patches from a place, (N,)."""
    spread = np.column_stack([(np.arange(SENSOR_RAYS) + 0.5) / SENSOR_RAYS, np.arange(SENSOR_RAYS) * 0.6180339887 % 1.0])
    along = np.cross(normal, [1.0, 0.0, 0.0] if abs(normal[0]) < 0.9 else [0.0, 1.0, 0.0])
    along /= np.linalg.norm(along)
    patch, _ = enclosure.meet(np.tile(at, (SENSOR_RAYS, 1)), hemisphere(spread, normal, along, np.cross(normal, along)))
    return np.bincount(patch[patch >= 0], minlength=len(enclosure.areas)) / SENSOR_RAYS
