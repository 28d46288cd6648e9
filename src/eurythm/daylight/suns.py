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

    sensor: Ints
    hour: Ints
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
    suns : (U,) numbers of the suns that stand for others, among the sunlit hours
    like : (S,) which of these stands for each hour, -1 for none
    cell, sun, to : (R,) cell, sun among those that stand for others, and the patch
    clear, leafy : (R,) whether nothing or only crowns are in the way
    """

    suns: Ints
    like: Ints
    cells: Facade
    cell: Ints
    sun: Ints
    to: Ints
    clear: Flags
    leafy: Flags
    angles: Angles


_BEAMS: Kept[tuple[Beams, Sunbeams]] = Kept(60_000_000)


def suns_on(room: Room, facade: int, panes: Panes, answer: Series, around: Around) -> Series:
    """Return the light of the sun on the sensors of a room through one façade for one on a plane before the sun, (K, S).

    The sun's ways are kept by the room's shape and what stands around.
    """
    where = key_of(room.placed.turn, np.round(room.placed.origin, 6), np.array([facade]))
    key = around.sun_key + where + room.inside.key
    beams, spread = _BEAMS.get(key, lambda: (beams_of(room, facade, around), sunbeams_of(room, facade, around)))
    found = np.zeros((answer.shape[1], len(around.up)))
    add_beams(found, beams, panes)
    return found + spread_sun(spread, panes, answer, around)


def add_beams(found: NDArray[Any], beams: Beams, panes: Panes) -> None:
    """Add what comes straight through glass to the light of sensors by the sunlit hour, (K, S)."""
    for (count, visible), own in panes.windows.items():
        through = visible * beams.angles.through(count) * beams.light
        if panes.louvred:
            through *= panes.past_louvres(beams.toward.astype(np.float64))
        add_through(found, beams.sensor, beams.hour, beams.s, beams.z, through, openings_of(panes.face, own))


def spread_sun(spread: Sunbeams, panes: Panes, answer: Series, around: Around) -> Series:
    """Light of the sun that the room gives back to the sensors, (K, S), by suns that stand for those about them."""
    count, sensors = len(spread.suns), answer.shape[1]
    if not count:
        return np.zeros((sensors, len(around.up)))
    toward = around.toward[spread.suns]
    open_areas = panes.open_areas(spread.cells)
    if not open_areas:
        return np.zeros((sensors, len(around.up)))
    through = np.stack([visible * spread.angles.through(kind) * spread.angles.cosines for kind, visible in open_areas])
    if panes.louvred:
        through *= panes.past_louvres(toward)
    free = np.stack([spread.clear] if around.crown is None else [spread.clear, spread.leafy])
    brought = np.zeros((len(free), count, sensors))
    gather_suns(spread.to, spread.sun, spread.cell, free, np.stack(list(open_areas.values())), through, answer, brought)
    own = spread.like >= 0
    hourly = np.zeros((sensors, len(around.up)))
    hourly[:, own] = brought[0].T[:, spread.like[own]]
    if around.crown is not None:
        hourly[:, own] += brought[1].T[:, spread.like[own]] * around.crown[own]
    return hourly


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
    few, stands_for = around.suns
    suns = few[around.toward[few] @ face.normal > FACING]
    place = np.full(len(around.toward), -1)
    place[suns] = np.arange(len(suns))
    like = place[few[stands_for]]
    toward = around.toward[suns] @ room.placed.turn.T
    each = max(1, round(SUN_RAYS / max(len(suns), 1)))
    sun = np.repeat(np.arange(len(suns)), each)
    numbers = np.outer(np.arange(len(sun)) + 0.5, [0.7548776662, 0.5698402910]) % 1.0
    at = numbers * cells.size
    cell, start = cells.number(at), cells.places(own, at)
    patch, _ = room.enclosure.meet(start - own.normal * OFFSET_M, -toward[sun])
    near = (room.placed.outside(start) - around.middle).astype(np.float32)
    clear, leafy = around.seen(near, face.normal, around.toward[suns][sun].astype(np.float32))
    return Sunbeams(suns, like, cells, cell, sun, patch, clear & ~leafy, clear & leafy, Angles(toward @ own.normal))


def forget() -> None:
    """Forget the sun's ways."""
    _BEAMS.clear()
