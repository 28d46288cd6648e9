"""Daylight all over floors: a grid on the working plane of each zone with glass, hour by hour.

What comes straight is exact at each point; what the room gives back is worked out on a wider net and laid over the points
between by the best plane through those nearby.
"""

from __future__ import annotations

import os
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.year import ClimateYear
from eurythm.daylight.compiled import gather_straight, look_out
from eurythm.daylight.efficacy import Lux, light_of
from eurythm.daylight.enclosure import spaces_of
from eurythm.daylight.glass import Angles, Facade, Panes, openings_of
from eurythm.daylight.illuminance import Skin, by_veil, diffuse, illuminance
from eurythm.daylight.outlook import Around, Bundle, brightness, dullness, follow
from eurythm.daylight.room import CLOSE_M, Rays, Room, room_at
from eurythm.daylight.sensors import WORKING_PLANE_M, Sensor, plan_of
from eurythm.daylight.suns import add_beams, beams_of, by_hour, spread_sun, sunbeams_of
from eurythm.geometry.building import Building, Face, Vec, Zone
from eurythm.model.errors import EurythmError
from eurythm.model.place import Place
from eurythm.sun.irradiation import Grid, grid_on, refuse_too_fine

Series = NDArray[np.float64]
Singles = NDArray[np.float32]
Ints = NDArray[np.int64]
MOST_POINTS = 12_000
NET_M, NET_POINTS = (1.25, 2.0), 200
"""How far apart the points lie at which is worked out what the room gives back: least and most, and how many there are in between."""
NEARBY = 6
"""Points of the net by which a plane is laid."""
BY_FAR, BY_FAR_SHADED, PART_M = 0.12, 0.07, (0.1, 2.5)
"""Size of the parts of windows through which a point looks out for their distance, smaller where shades hang before them, and their limits, m."""
SHARES_M, EVERY = 2.5, 4
"""For shares of floors: how far apart points are, and of how many hours one counts."""
USEFUL_LX = (100.0, 3000.0)
"""Illuminance in which daylight is useful: usual values (unverified)."""
HALF = 0.5
"""Share of the occupied hours in which a place is to have its target to count as daylit: the idea of EN 17037 (unverified)."""
_NO_CELLS = Facade(np.zeros((0, 3)), np.zeros(0), np.zeros(0), (1.0, 1.0), (0, 0))


@dataclass(frozen=True, eq=False)
class Floor:
    """The grid of one zone on its working plane, and the number of its first point among all."""

    zone: Zone
    grid: Grid
    first: int

    @property
    def points(self) -> slice:
        """Where its points stand among all."""
        return slice(self.first, self.first + len(self.grid.points))


@dataclass(frozen=True, eq=False)
class FloorLight:
    """Light on the floors of some zones.

    Attributes
    ----------
    up : (S,) sunlit hours of the year; the others are dark
    lux : (P, S)
    daylight_factor : (P,)
    source : where luminous efficacy comes from
    """

    floors: tuple[Floor, ...]
    up: Ints
    lux: Singles
    daylight_factor: Series
    source: str

    def at_hour(self, hour: int) -> Series:
        """Illuminance in one hour of the year, (P,)."""
        found = int(np.searchsorted(self.up, hour))
        if found == len(self.up) or self.up[found] != hour:
            return np.zeros(len(self.lux))
        return self.lux[:, found].astype(np.float64)


def floor_light(building: Building, place: Place, climate: ClimateYear, zones: Sequence[str], spacing_m: float, skin: Skin) -> FloorLight:
    """Return the light on the floors of some zones; those without glass are dark.

    Raises
    ------
    EurythmError
        ``no-zones`` where none is there, ``too-fine`` where the grid has more points than are worked out at once.
    """
    floors = _laid(building, zones, spacing_m)
    around, light = Around(building, place, climate), light_of(climate)
    up = around.up
    count = floors[-1].points.stop
    lux, factor = np.zeros((count, len(up)), np.float32), np.zeros(count)
    rooms = [(floor, room) for floor in floors if (room := room_at(building, floor.zone.id, floor.grid.points)).facades]
    nets = _nets(building, [floor for floor, _ in rooms])
    asked = [(_straight(room, k), room) for _, room in rooms for k in range(len(room.facades))]
    asked += [(rays, net.room) for net in nets for rays in net.room.inside.rays]
    if asked:
        looked = follow(asked, around)
        back_light = brightness(looked.bounce, around, (light.sun[up], light.even[up], light.band[up]))
        bright = Bright(light, around, back_light, dullness(looked.bounce, around))
        seen = [(rays, room, bundle) for (rays, room), bundle in zip(asked, looked.bundles, strict=True)]

        def ways_of(room: Room) -> list[tuple[Rays, Bundle]]:
            return [(rays, bundle) for rays, of, bundle in seen if of is room]

        def given_back(net: _Net) -> list[tuple[Singles, Series]]:
            return _given_back(net.room, ways_of(net.room), bright, skin)

        with ThreadPoolExecutor(os.cpu_count()) as hands:
            back = {
                floor.zone.id: (own, net.part(floor))
                for net, own in zip(nets, hands.map(given_back, nets), strict=True)
                for floor in net.floors
            }

            def work_out(k: int) -> None:
                floor, room = rooms[k]
                own, part = back[floor.zone.id]
                lux[floor.points], factor[floor.points] = _room_light(room, ways_of(room), own, part, bright, skin)

            list(hands.map(work_out, range(len(rooms))))
    return FloorLight(floors, up, lux, factor, light.source)


@dataclass(frozen=True)
class FloorShares:
    """How bright floors are: the share of them that has enough daylight in half of the occupied hours, and the mean share of these in which daylight is
    useful.
    """

    daylit: float
    useful: float


def floor_shares(
    building: Building, place: Place, climate: ClimateYear, skin: Skin, occupied: Mapping[str, NDArray[np.bool_]], bright_lx: float
) -> FloorShares:
    """Return how bright all floors are, by few points and every fourth hour: within 5 points of a fine grid (tests/core/test_daylit_floors.py).

    All that does not hang on glass is kept, as for sensors.
    """
    sensors, areas = [], []
    for zone in building.zones:
        face = _plane(building, zone)
        if face is None:
            continue
        grid = grid_on(face, SHARES_M)
        areas.append(grid.areas)
        sensors += [Sensor(zone.id, at, np.array([0.0, 0.0, 1.0]), 0.0) for at in grid.points]
    if not sensors:
        return FloorShares(0.0, 0.0)
    glazed = {zone for f in building.faces if f.windows for zone in spaces_of(building)[f.zone]}
    lit = [k for k, s in enumerate(sensors) if s.zone in glazed]
    weights = np.concatenate(areas)
    if not lit:
        return FloorShares(0.0, 0.0)
    light = illuminance(building, place, climate, [sensors[k] for k in lit], skin, EVERY)
    hours = np.arange(light.lux.shape[1])
    some = (hours + hours // 24) % EVERY == 0
    daylit, useful = np.zeros(len(sensors)), np.zeros(len(sensors))
    for k, lux in zip(lit, light.lux, strict=True):
        own = lux[some & occupied[sensors[k].zone]]
        count = max(len(own), 1)
        daylit[k] = int((own >= bright_lx).sum()) >= HALF * count - 1e-9
        useful[k] = int(((own >= USEFUL_LX[0]) & (own <= USEFUL_LX[1])).sum()) / count
    return FloorShares(float(weights @ daylit / weights.sum()), float(weights @ useful / weights.sum()))


@dataclass(frozen=True, eq=False)
class Bright:
    """How bright all is in the sunlit hours: `back` and `dull` are what groups outside give back, by the hour and under the overcast sky."""

    lux: Lux
    around: Around
    back: Singles
    dull: Series

    @property
    def sun(self) -> Singles:
        """Light of the sun, lx, (S,)."""
        sun: Singles = self.lux.sun[self.around.up].astype(np.float32)
        return sun

    def over(self, table: Series) -> tuple[Singles, Series]:
        """What places see of the sky's parts and of groups, (3 + G, P), as light in each sunlit hour (P, S) and under the overcast sky (P,)."""
        up = self.around.up
        sky = np.stack([self.lux.even[up], self.lux.band[up]]).astype(np.float32)
        hourly = np.maximum(table[:2].T.astype(np.float32) @ sky, 0.0) + table[3:].T.astype(np.float32) @ self.back
        return hourly, table[2] + self.dull @ table[3:]


def _given_back(net: Room, own: Sequence[tuple[Rays, Bundle]], bright: Bright, skin: Skin) -> list[tuple[Singles, Series]]:
    """What a space gives back to the points of its net, by façades that are veiled alike: illuminance (K, S) and daylight factor (K,)."""
    answer, found = net.answer(skin.reflectance), []
    for alike in by_veil(net.faces, skin):
        table, suns = np.zeros((3 + len(bright.dull), len(net.at))), np.zeros((2, len(bright.around.suns[0]), len(net.at)))
        for number in alike:
            panes = Panes(net.faces[number], skin.glass)
            through = [(rays, bundle) for rays, bundle in own if rays.number == number]
            table += diffuse(panes, through, answer, len(net.at), len(bright.dull), net.placed.turn)
            suns += spread_sun(sunbeams_of(net, number, bright.around), panes, answer, bright.around)
        hourly, overcast = bright.over(table)
        found.append((hourly + by_hour(suns, bright.around).astype(np.float32) * bright.sun, overcast))
    return found


def _room_light(
    room: Room,
    own: Sequence[tuple[Rays, Bundle]],
    back: Sequence[tuple[Singles, Series]],
    part: tuple[slice, Singles],
    bright: Bright,
    skin: Skin,
) -> tuple[Singles, Series]:
    """Illuminance (P, S) and daylight factor (P,) of the points of one floor.

    Parameters
    ----------
    back : what the space gives back to the points of its net, by façades that are veiled alike
    part : which of these lie on the floor, and by what each counts at the floor's points, (P, K)
    """
    up, (which, weights) = bright.around.up, part
    found, factor = np.zeros((len(room.at), len(up)), np.float32), np.zeros(len(room.at))
    for alike, (mirrored, dull) in zip(by_veil(room.faces, skin), back, strict=True):
        table, direct = np.zeros((3 + len(bright.dull), len(room.at))), np.zeros_like(found)
        for number in alike:
            panes = Panes(room.faces[number], skin.glass)
            ((way, met),) = [(rays, bundle) for rays, bundle in own if rays.number == number]
            table += _by_window(panes, way, met, len(room.at), len(bright.dull), room.placed.turn)
            add_beams(direct, beams_of(room, number, bright.around, windows=True), panes)
        hourly, overcast = bright.over(table)
        whole = hourly + np.maximum(weights @ mirrored[which], 0.0) + direct * bright.sun
        veil = skin.veils.get(room.faces[alike[0]].id)
        found += whole if veil is None else whole * veil[up].astype(np.float32)
        factor += overcast + np.maximum(weights @ dull[which], 0.0)
    return found, factor


def zones_at(building: Building, levels: Sequence[float]) -> list[str]:
    """Return the zones whose floors lie at one of these levels, m; all where none is named."""
    return [zone.id for zone in building.zones if not levels or any(abs(zone.level - level) < 0.01 for level in levels)]


def _laid(building: Building, zones: Sequence[str], spacing_m: float) -> tuple[Floor, ...]:
    own = [zone for zone in building.zones if zone.id in set(zones)]
    if not own:
        raise EurythmError("no-zones", "No zone fits this choice.", "zones")
    refuse_too_fine(sum(zone.gross_floor for zone in own), spacing_m, MOST_POINTS)
    floors: list[Floor] = []
    first = 0
    for zone in own:
        face = _plane(building, zone)
        if face is not None:
            floors.append(Floor(zone, grid_on(face, spacing_m), first))
            first = floors[-1].points.stop
    if not floors:
        raise EurythmError("no-zones", "None of these zones has a floor.", "zones")
    return tuple(floors)


def _plane(building: Building, zone: Zone) -> Face | None:
    """The working plane of a zone, along its first wall; nearer to the floor where the zone is low."""
    plan = plan_of(building, zone)
    if plan is None:
        return None
    level = zone.level + min(WORKING_PLANE_M, zone.height / 2)
    wall = next((f.normal for f in building.faces if f.zone == zone.id and f.kind == "wall"), np.array([0.0, -1.0, 0.0]))
    along = np.array([-wall[1], wall[0], 0.0]) / max(float(np.hypot(wall[0], wall[1])), 1e-9)
    rings = [np.asarray(ring.coords)[:-1] for ring in (plan.exterior, *plan.interiors)]
    loops = tuple(np.column_stack([ring[:, :2], np.full(len(ring), level)]) for ring in rings)
    return Face(zone.id, zone.id, "floor", "adiabatic", loops, np.array([0.0, 0.0, 1.0]), plan.area, along=along, origin=loops[0][0])


@dataclass(frozen=True, eq=False)
class _Net:
    """A space with the points of a wider net on some of its floors, floor by floor."""

    room: Room
    floors: tuple[Floor, ...]
    points: tuple[Vec, ...]

    def part(self, floor: Floor) -> tuple[slice, Singles]:
        """Which points lie on a floor, and by what each of them counts at the floor's own points, (P, K)."""
        number = self.floors.index(floor)
        first = sum(len(points) for points in self.points[:number])
        own = self.points[number]
        return slice(first, first + len(own)), _planes(floor.grid.points[:, :2], own[:, :2]).astype(np.float32)


def _nets(building: Building, floors: Sequence[Floor]) -> list[_Net]:
    spaces: dict[tuple[str, ...], list[Floor]] = {}
    for floor in floors:
        spaces.setdefault(spaces_of(building)[floor.zone.id], []).append(floor)
    nets = []
    for own in spaces.values():
        apart = float(np.clip(np.sqrt(sum(floor.grid.face.area for floor in own) / NET_POINTS), *NET_M))
        points = tuple(grid_on(floor.grid.face, apart).points for floor in own)
        nets.append(_Net(room_at(building, own[0].zone.id, np.concatenate(points), mirrored=True), tuple(own), points))
    return nets


def _planes(at: Vec, net: Vec) -> Series:
    """Weights by which values on a net, (K, 2), make those at points, (P, 2): of the best plane through those nearby; (P, K)."""
    near = min(NEARBY, len(net))
    spans = at[:, None] - net
    own = np.argpartition(np.hypot(spans[..., 0], spans[..., 1]), near - 1, axis=1)[:, :near]
    away = np.take_along_axis(spans, own[..., None], axis=1)
    far = np.hypot(away[..., 0], away[..., 1])
    if near < 4:
        share = 1.0 / (far + 0.1)
        share /= share.sum(axis=1, keepdims=True)
    else:
        size = np.median(far)
        worth = np.exp(-((far / size) ** 2))
        basis = np.concatenate([np.ones((*far.shape, 1)), away / size], axis=2)
        upright = (worth[..., None] * basis).transpose(0, 2, 1)
        moments = upright @ basis + np.diag([0.0, 1e-3, 1e-3])
        share = np.asarray(np.linalg.solve(moments, upright), dtype=np.float64)[:, 0]
    weights = np.zeros((len(at), len(net)))
    np.put_along_axis(weights, own, share, axis=1)
    return weights


def _straight(room: Room, facade: int) -> Rays:
    """Ways of all points of a room through the windows of one façade, in parts that fit their distance; `cell` is the number of the window."""
    own, face = room.own(facade), room.faces[facade]
    plane = np.stack([own.origin, own.along, np.cross(own.normal, own.along), own.normal])
    openings = openings_of(face)
    point, window, start, toward, cosine, form = look_out(
        room.at, room.normals, plane, openings, BY_FAR_SHADED if room.fine[facade] else BY_FAR, *PART_M
    )
    if not room.enclosure.convex:
        far = np.linalg.norm(start - room.at[point], axis=1)
        form = form * (room.enclosure.meet(room.at[point], toward)[1] > far - CLOSE_M)
    return Rays(facade, True, _NO_CELLS, start, toward, window, point, form, Angles(cosine))


def _by_window(panes: Panes, rays: Rays, seen: Bundle, points: int, groups: int, turn: Vec) -> Series:
    """What points see straight through one façade of the sky's parts and of each group, (3 + G, P)."""
    out, value = np.zeros((3 + groups, points)), np.zeros(len(rays.cell))
    for (count, visible), windows in panes.windows.items():
        own = np.isin(rays.cell, windows)
        value[own] = rays.form[own] * rays.angles.through(count)[own] * visible
    if panes.louvred:
        value *= panes.past_louvres(rays.toward @ turn)
    gather_straight(rays.to, seen.group, seen.sky, value, out)
    return out
