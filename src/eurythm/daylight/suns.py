"""The sun of the year through glass: straight to sensors, and to what the room gives back of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.daylight.compiled import add_through, gather_suns, sun_through, sun_ways
from eurythm.daylight.glass import Angles, Facade, Panes, openings_of
from eurythm.daylight.outlook import Around
from eurythm.daylight.room import CLOSE_M, SUN_RAYS, Room
from eurythm.memo import Kept, key_of
from eurythm.sun.caster import FACING, OFFSET_M

Series = NDArray[np.float64]
Singles = NDArray[np.float32]
Ints = NDArray[np.int64]
Whole = NDArray[np.int32]
Flags = NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Beams:
    """The sun's ways through one façade straight to the sensors of a room, those that nothing is in the way of.

    Attributes
    ----------
    sensor, hour : (B,) numbers of the sensor and of the sunlit hour
    s, z : (B,) where it passes the façade
    light : (B,) light on the sensor for one on a plane before the sun, behind crowns as these let through
    """

    sensor: Whole
    hour: Whole
    s: Singles
    z: Singles
    light: Singles
    toward: Singles
    angles: Angles


@dataclass(frozen=True, eq=False)
class Sunbeams:
    """The suns' ways through the cells of one façade to patches of the room.

    Attributes
    ----------
    suns : (U,) those before the façade, among the suns that stand for others
    cell, sun, to : (R,) cell, sun among those before the façade, and the patch
    free : (2, R) whether nothing, and whether only crowns are in the way
    """

    suns: Ints
    cells: Facade
    cell: Ints
    sun: Ints
    to: Ints
    free: Flags
    angles: Angles


_BEAMS: Kept[tuple[Beams, Sunbeams]] = Kept(60_000_000)


def suns_on(room: Room, facade: int, panes: Panes, answer: Series, around: Around, found: Series) -> Series:
    """Add the light of the sun that comes straight to the sensors of a room through one façade, for one on a plane before the sun, (K, S);
    return what the room gives back of it, as `spread_sun` does.

    The sun's ways are kept by the room's shape and what stands around.
    """
    where = key_of(room.placed.turn, np.round(room.placed.origin, 6), np.array([facade]))
    key = around.sun_key + where + room.inside.key
    beams, spread = _BEAMS.get(key, lambda: (beams_of(room, facade, around), sunbeams_of(room, facade, around)))
    add_beams(found, beams, panes)
    return spread_sun(spread, panes, answer, around)


def by_hour(brought: Series, around: Around) -> Series:
    """Return by the sunlit hour, (K, S), what suns that stand for those about them bring, clear and through crowns, (2, F, K)."""
    like = around.suns[1]
    hourly: Series = brought[0].T[:, like]
    if around.crown is not None:
        hourly += brought[1].T[:, like] * around.crown
    return hourly


def add_beams(found: NDArray[Any], beams: Beams, panes: Panes) -> None:
    """Add what comes straight through glass to the light of sensors by the sunlit hour, (K, S)."""
    for (count, visible), own in panes.windows.items():
        through = visible * beams.angles.through(count) * beams.light
        if panes.louvred:
            through *= panes.past_louvres(beams.toward.astype(np.float64))
        add_through(found, beams.sensor, beams.hour, beams.s, beams.z, through, openings_of(panes.face, own))


def spread_sun(spread: Sunbeams, panes: Panes, answer: Series, around: Around) -> Series:
    """Light of the sun that the room gives back to the sensors, (2, F, K): of each sun that stands for others, clear and through crowns."""
    few, sensors = len(around.suns[0]), answer.shape[1]
    brought = np.zeros((2, few, sensors))
    open_areas = panes.open_areas(spread.cells)
    if not len(spread.suns) or not open_areas:
        return brought
    through = np.stack([visible * spread.angles.through(kind) * spread.angles.cosines for kind, visible in open_areas])
    if panes.louvred:
        through *= panes.past_louvres(around.toward[around.suns[0][spread.suns]])
    own = np.zeros((2, len(spread.suns), sensors))
    gather_suns(spread.to, spread.sun, spread.cell, spread.free, np.stack(list(open_areas.values())), through, answer, own)
    brought[:, spread.suns] = own
    return brought


def beams_of(room: Room, facade: int, around: Around, windows: bool = False) -> Beams:
    """Return the sun's ways straight to the sensors of a room through one façade.

    Those through its present windows only where that is asked, and then with those that something is in the way of, which bring nothing.
    """
    face, own = room.faces[facade], room.own(facade)
    toward = around.toward @ room.placed.turn.T
    plane = np.stack([own.origin, own.along, np.cross(own.normal, own.along), own.normal])
    openings = openings_of(face) if windows else np.array([room.spans[facade]])
    sensor, hour, s, z = sun_through(room.at, room.normals, toward, plane, openings)
    place = np.stack([room.placed.outside(own.origin) - around.middle, *(plane[1:3] @ room.placed.turn)])
    start, way, light, cosine = sun_ways(sensor, hour, s, z, place, np.stack([around.toward, toward]), room.normals, own.normal)
    clear, leafy = around.seen(start, face.normal, way)
    if not room.enclosure.convex:
        at = own.origin + np.outer(s, plane[1]) + np.outer(z, plane[2])
        far = np.linalg.norm(at - room.at[sensor], axis=1)
        clear &= room.enclosure.meet(room.at[sensor], toward[hour])[1] > far - CLOSE_M
    light *= clear
    if around.crown is not None:
        light *= np.where(leafy, around.crown[hour], 1.0).astype(np.float32)
    if windows:
        return Beams(sensor, hour, s, z, light, way, Angles(cosine))
    return Beams(sensor[clear], hour[clear], s[clear], z[clear], light[clear], way[clear], Angles(cosine[clear]))


def sunbeams_of(room: Room, facade: int, around: Around) -> Sunbeams:
    """Return the suns' ways through the cells of one façade to the patches of a room."""
    face, own, cells = room.faces[facade], room.own(facade), room.cells(facade)
    few = around.toward[around.suns[0]]
    suns = np.flatnonzero(few @ face.normal > FACING)
    toward = few[suns] @ room.placed.turn.T
    each = max(1, round(SUN_RAYS / max(len(suns), 1)))
    sun = np.repeat(np.arange(len(suns)), each)
    numbers = np.outer(np.arange(len(sun)) + 0.5, [0.7548776662, 0.5698402910]) % 1.0
    at = numbers * cells.size
    cell, start = cells.number(at), cells.places(own, at)
    patch, _ = room.enclosure.meet(start - own.normal * OFFSET_M, -toward[sun])
    near = (room.placed.outside(start) - around.middle).astype(np.float32)
    clear, leafy = around.seen(near, face.normal, few[suns][sun].astype(np.float32))
    return Sunbeams(suns, cells, cell, sun, patch, np.stack([clear & ~leafy, clear & leafy]), Angles(toward @ own.normal))


def forget() -> None:
    """Forget the sun's ways."""
    _BEAMS.clear()
