"""What rays from glass meet outside: the sky, or what gives light back, ground and bodies."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from eurythm.climate.year import ClimateYear
from eurythm.daylight.room import Rays, Room
from eurythm.geometry.building import Building, Vec
from eurythm.memo import Kept, array_bytes, key_of
from eurythm.model.place import Place
from eurythm.sun import bounce
from eurythm.sun.bounce import Bounce, given_back, look_along, sun_cells
from eurythm.sun.caster import OFFSET_M, OFFSET_SHADES_M
from eurythm.sun.obstacles import Obstacles, obstacles_of
from eurythm.sun.radiation import crown_transmittance, ground_reflectance, sun_in_drawing

Series = NDArray[np.float64]
Singles = NDArray[np.float32]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]
LOW_ROW = float(np.radians(90.0 / 14.5))
"""Height of the sky's lowest row, which stands for the horizon's band, rad."""
BAND_FORM = float((LOW_ROW + np.sin(LOW_ROW) * np.cos(LOW_ROW)) / np.pi)
"""Form factor of the whole band before an upright plane: its light there for one unit of brightness."""

OVERCAST_PARTS = 64
"""Parts of the overcast sky by which things outside are lit."""


class _Scene:
    """Some triangles that may be in the way, reckoned from a point."""

    def __init__(self, triangles: Vec, middle: Vec) -> None:
        self.triangles, self.middle = triangles, middle

    @cached_property
    def _tree(self) -> tuple[EmbreeScene, TriangleMesh]:
        """The ray library's tree."""
        scene = EmbreeScene()
        return scene, TriangleMesh(scene, np.ascontiguousarray(self.triangles - self.middle, dtype=np.float32))

    def blocked(self, start: Singles, toward: Singles) -> Flags:
        """Return whether something is in the way of each ray."""
        if not len(self.triangles) or not len(start):
            return np.zeros(len(start), dtype=bool)
        found: Flags = self._tree[0].run(start, toward, query="OCCLUDED") != -1
        return found


class Around:
    """What stands outside, and the suns of the year."""

    def __init__(self, building: Building, place: Place, climate: ClimateYear, every: int = 1) -> None:
        """Collect them; of the sunlit hours all, or every so many, at another time on each day."""
        self.place = place
        self.obstacles: Obstacles = obstacles_of(building, place)
        self.upright = [f.normal for f in building.faces if f.boundary == "outdoors" and abs(f.normal[2]) < 0.5]
        up, toward = sun_in_drawing(place.north_deg, climate.location)
        some = (up + up // 24) % every == 0
        self.up, self.toward = up[some], toward[some]
        self.trees = bool(place.standing_trees)
        crown = crown_transmittance(place, climate.location.latitude_deg)[self.up] if self.trees else None
        self.crown = crown
        self.leaves = 1.0 if crown is None else float(crown.mean())
        layers = self.obstacles.solids, self.obstacles.shades, self.obstacles.crowns
        self.middle: Vec = layers[0].reshape(-1, 3).mean(axis=0) if len(layers[0]) else np.zeros(3)
        self.solids, self.shades, self.crowns = (_Scene(t, self.middle) for t in layers)
        self.key = key_of(*layers, np.array([place.ground_level_m]), *self.upright[:1])
        self.sun_key = self.key + key_of(self.toward)

    @cached_property
    def suns(self) -> tuple[Ints, NDArray[np.uint32]]:
        """Suns that stand for all others, in the building's own axes, and the number among them for each sunlit hour."""
        frame = np.eye(2)
        if self.upright:
            c, s = self.upright[0][:2] / np.hypot(*self.upright[0][:2])
            frame = np.array([[c, s], [-s, c]])
        return sun_cells(self.toward, frame)

    def seen(self, start: Singles, normal: Vec, toward: Singles) -> tuple[Flags, Flags]:
        """Return whether nothing opaque is in the way from places on a face, reckoned from the middle, and whether crowns are."""
        off, off_shades = ((normal * off).astype(np.float32) for off in (OFFSET_M, OFFSET_SHADES_M))
        blocked = self.solids.blocked(start + off, toward)
        if len(self.shades.triangles):
            blocked |= self.shades.blocked(start + off_shades, toward)
        return ~blocked, self.crowns.blocked(start, toward)


@dataclass(frozen=True, eq=False)
class Bundle:
    """What the rays of one bundle meet outside: a group that gives light back, -1 for the sky, and then its parts, as `compiled.gather` takes them."""

    group: Ints
    sky: Singles


@dataclass(frozen=True, eq=False)
class Looked:
    """What all rays of some rooms meet outside."""

    bounce: Bounce
    bundles: tuple[Bundle, ...]

    @property
    def groups(self) -> int:
        """How many there are."""
        return len(self.bounce.ground)

    @property
    def nbytes(self) -> int:
        """How much it takes."""
        return array_bytes(self.bundles) + array_bytes(self.bounce.layers)


_LOOKED: Kept[Looked] = Kept(60_000_000)


def forget() -> None:
    """Forget what was seen outside."""
    _LOOKED.clear()
    bounce.forget()


def look(rooms: Sequence[Room], around: Around) -> Looked:
    """Follow the sky's ways of all rooms outside; kept by the rooms' shapes and by what stands around."""
    where = key_of(*(a for room in rooms for a in (room.placed.turn, np.round(room.placed.origin, 6))))
    key = where + b"".join(room.inside.key for room in rooms)
    return _LOOKED.get(around.key + key, lambda: follow([(rays, room) for room in rooms for rays in room.inside.rays], around, key))


def follow(asked: Sequence[tuple[Rays, Room]], around: Around, key: bytes | None = None) -> Looked:
    """Follow ways of rooms outside; what bodies and shades do is kept where the ways have a key."""
    starts = [room.placed.outside(rays.start) for rays, room in asked]
    ways = [rays.toward @ room.placed.turn for rays, room in asked]
    bundles = [
        (start, way, room.faces[rays.number].normal, rays.form) for (rays, room), start, way in zip(asked, starts, ways, strict=True)
    ]
    outlook, groups = look_along(around.obstacles, bundles, around.place.ground_level_m, around.upright, key)
    parts = [Bundle(group, _sky(start, way, group, around)) for start, way, group in zip(starts, ways, groups, strict=True)]
    return Looked(outlook, tuple(parts))


def _sky(start: Vec, way: Vec, group: Ints, around: Around) -> Singles:
    """What rays that meet the sky see of its parts, crowns by what they let through on the mean, (R, 3)."""
    free, height = group < 0, way[:, 2]
    through = np.where(free, 1.0, 0.0)
    if around.trees:
        near = (start[free] - around.middle).astype(np.float32)
        through[free] *= np.where(around.crowns.blocked(near, way[free].astype(np.float32)), around.leaves, 1.0)
    low = (height > 0) & (height < np.sin(LOW_ROW))
    parts: Singles = (np.column_stack([height > 0, low / BAND_FORM, overcast(height) * (height > 0)]) * through[:, None]).astype(np.float32)
    return parts


def brightness(seen: Bounce, around: Around, light: tuple[Series, Series, Series]) -> Singles:
    """Brightness of what is met, in lux that it gives back, by the sunlit hour, (G, S)."""
    reflectance = (ground_reflectance(around.place)[around.up], around.place.obstacle_reflectance)
    return given_back(seen, around.obstacles, around.toward, light, around.crown, reflectance)


def dullness(seen: Bounce, around: Around) -> Series:
    """Brightness of what is met, in lux that it gives back, under the overcast sky that gives one lux on level ground, (G,)."""
    toward, parts = overcast_parts()
    none, mean = np.zeros(len(parts)), np.full(len(parts), ground_reflectance(around.place).mean())
    leaves = None if around.crown is None else np.full(len(parts), around.leaves)
    dull = given_back(seen, around.obstacles, toward, (parts, none, none), leaves, (mean, around.place.obstacle_reflectance))
    whole: Series = dull.sum(axis=1, dtype=np.float64)
    return whole


@lru_cache(maxsize=1)
def overcast_parts() -> tuple[Vec, Series]:
    """Directions spread evenly over the sky, (N, 3), and what each brings before it of an overcast sky that gives one lux on level ground, (N,)."""
    height = (np.arange(OVERCAST_PARTS) + 0.5) / OVERCAST_PARTS
    around, flat = np.arange(OVERCAST_PARTS) * np.pi * (3 - np.sqrt(5)), np.sqrt(1 - height**2)
    return np.column_stack([flat * np.cos(around), flat * np.sin(around), height]), overcast(height) * 2 / OVERCAST_PARTS


def overcast(height: Series) -> Series:
    """Brightness of the overcast sky of CIE by the sine of the height, for one lux on open level ground."""
    found: Series = (1 + 2 * height) * (3 / 7)
    return found
