"""Where sensors stand unless someone says so."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from shapely.geometry import LineString, Point, Polygon
from shapely.ops import nearest_points

from eurythm.daylight.enclosure import spaces_of
from eurythm.geometry.building import Building, Vec, Zone
from eurythm.geometry.outline import rotation
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError
from eurythm.model.remark import Remark
from eurythm.model.scheme import LightSensor

WORKING_PLANE_M = 0.8
OFF_WALLS_M = 0.5
Spot = tuple[float, float]
LONG_M, STEP_M = 1e4, 0.05
LEAST_M = 0.01
"""How far a sensor stands off floor and walls at the least."""


@dataclass(frozen=True, eq=False)
class Sensor:
    """A sensor of a zone: where it stands (3,), m, which way it looks (3,), and the share of the zone's lights that it rules."""

    zone: str
    at: Vec
    normal: Vec
    share: float = 0.5


def sensors_of(building: Building, placed: Sequence[LightSensor], turn_deg: float, about: Vec) -> tuple[Sensor, ...]:
    """Return the sensors of all zones: those that someone placed where there are some, else those that are proposed.

    Parameters
    ----------
    placed : in the scheme's axes before it is turned about a point, (2,)

    Placed ones that no longer stand in their zone do not count; see `misplaced`.
    """
    found: list[Sensor] = []
    lost = {sensor.id for sensor, _ in misplaced(building, placed, turn_deg, about)}
    for zone in building.zones:
        own = [s for s in placed if s.zone == zone.id and s.id not in lost]
        if not own:
            found += proposed(building, zone)
            continue
        given = [s.share for s in own if s.share is not None]
        left, others = max(0.0, 1.0 - sum(given)), len(own) - len(given)
        for s in own:
            up = 1.0 if s.looks == "up" else -1.0
            share = s.share if s.share is not None else left / others
            found.append(Sensor(zone.id, _at(s, zone, turn_deg, about), np.array([0.0, 0.0, up]), share))
    return tuple(found)


def misplaced(building: Building, placed: Sequence[LightSensor], turn_deg: float, about: Vec) -> list[tuple[LightSensor, str]]:
    """Return placed sensors that do not stand in their zone, each with what is wrong."""
    zones = {zone.id: zone for zone in building.zones}
    found = []
    for s in placed:
        zone = zones.get(s.zone)
        if zone is None:
            found.append((s, "its zone no longer exists"))
            continue
        at = _at(s, zone, turn_deg, about)
        plan = plan_of(building, zone)
        if not (0.0 <= s.height_m < zone.top - zone.level - LEAST_M):
            found.append((s, f"{amount(s.height_m, 'm')} above the floor is not below the ceiling of “{zone.name}”"))
        elif plan is None or not plan.buffer(-LEAST_M).contains(Point(at[:2])):
            found.append((s, f"it stands in a wall of “{zone.name}” or outside it"))
    return found


def sensor_remarks(building: Building, placed: Sequence[LightSensor], turn_deg: float, about: Vec) -> list[Remark]:
    """Return remarks on sensors that do not count."""
    return [
        Remark(
            "sensor-misplaced",
            f"{_called(sensor, placed, building)} does not count: {why}.",
            f"scheme/use/sensors/{sensor.id}",
            "Move it, or remove it",
            "doubtful",
            "use",
        )
        for sensor, why in misplaced(building, placed, turn_deg, about)
    ]


def _at(sensor: LightSensor, zone: Zone, turn_deg: float, about: Vec) -> Vec:
    flat = np.array([sensor.x, sensor.y])
    if turn_deg:
        flat = (flat - about) @ rotation(turn_deg).T + about
    return np.array([*flat, zone.level + max(sensor.height_m, LEAST_M)])


def _called(sensor: LightSensor, placed: Sequence[LightSensor], building: Building) -> str:
    """Return what a placed sensor is called: its number in its zone, and the zone."""
    mates = [s.id for s in placed if s.zone == sensor.zone]
    number = f" {mates.index(sensor.id) + 1}" if len(mates) > 1 else ""
    return f"Light sensor{number} of “{_zone_called(sensor.zone, building)}”"


def _zone_called(id: str, building: Building) -> str:
    return next((zone.name for zone in building.zones if zone.id == id), id)


def refuse_too_much(placed: Sequence[LightSensor], building: Building) -> None:
    """Refuse sensors that together rule more than all lights of a zone.

    Raises
    ------
    EurythmError
        ``sensors-rule-too-much``
    """
    by_zone: dict[str, float] = {}
    for s in placed:
        by_zone[s.zone] = by_zone.get(s.zone, 0.0) + (s.share or 0.0)
        if by_zone[s.zone] > 1.0 + 1e-9:
            raise EurythmError(
                "sensors-rule-too-much",
                f"The sensors of “{_zone_called(s.zone, building)}” together rule more than all of its lights.",
                f"scheme/use/sensors/{s.id}/share",
            )


def proposed(building: Building, zone: Zone) -> tuple[Sensor, ...]:
    """Return two sensors before a zone's largest glass, at mid depth and at the inner edge; one in a zone too narrow for two, none without windows.

    They stand on the working plane, look up, and rule equal shares of the lights.
    """
    glazed = [f for f in building.faces if f.zone == zone.id and f.window_area > 0]
    plan = plan_of(building, zone)
    if not glazed or plan is None:
        return ()
    face = max(glazed, key=lambda f: f.window_area)
    middle = sum((w.s + w.width / 2) * w.area for w in face.windows) / face.window_area
    foot, inward, ground = (
        (round(float(a[0]), 6), round(float(a[1]), 6))
        for a in (face.origin + face.along * middle, -face.normal, face.loops[0].mean(axis=0))
    )
    places, level = _before(plan.wkb, foot, inward, ground), zone.level + WORKING_PLANE_M
    return tuple(Sensor(zone.id, np.array([x, y, level]), np.array([0.0, 0.0, 1.0]), 1.0 / len(places)) for x, y in places)


@lru_cache(maxsize=4096)
def _before(plan_wkb: bytes, at: Spot, into: Spot, below: Spot) -> list[Spot]:
    """Places at half and at the whole of the way from a face into a plan: from a place on it along a direction, or for a rooflight from below its middle."""
    plan, foot, inward = shapely.from_wkb(plan_wkb), np.array(at), np.array(into)
    inside = plan.buffer(-OFF_WALLS_M)
    if inside.is_empty:
        middle = plan.representative_point()
        return [(middle.x, middle.y)]
    size = float(np.hypot(*inward))
    if size < 0.1:  # a rooflight: under it, and half way to the farthest corner
        under = nearest_points(inside, Point(below))[0]
        far = max(shapely.get_coordinates(inside), key=lambda c: under.distance(Point(c)))
        return [(under.x, under.y), tuple(_within(inside, (np.array([under.x, under.y]) + far) / 2))]
    way = LineString([foot, foot + inward / size * 1000.0]).intersection(inside)
    first = way if way.geom_type == "LineString" else min(getattr(way, "geoms", ()), key=lambda g: g.distance(Point(foot)), default=way)
    if first.is_empty:
        middle = inside.representative_point()
        return [(middle.x, middle.y)]
    ends = shapely.get_coordinates(first)[[0, -1]]
    far = ends[np.abs((ends - foot) @ inward).argmax()]
    return [tuple(_within(inside, (foot + far) / 2)), tuple(_within(inside, far))]


@dataclass(frozen=True)
class Section:
    """A zone cut upright through a sensor, across its largest glass. Distances are m from the sensor, inward; heights m above the floor.

    Attributes
    ----------
    way : (2,) unit vector inward in plan
    start, end : where the zone begins and ends
    top : the ceiling
    open_ends : whether the storey goes on there
    openings : (distance, low, high) of the window nearest to the cut on each wall that it crosses
    """

    way: Spot
    start: float
    end: float
    open_ends: tuple[bool, bool]
    top: float
    openings: tuple[tuple[float, float, float], ...]


def section_of(building: Building, sensor: Sensor) -> Section | None:
    """Return the section of a sensor's zone through it; None where the zone has no plan there."""
    zone = next(z for z in building.zones if z.id == sensor.zone)
    plan, at = plan_of(building, zone), sensor.at[:2]
    walls = [f for f in building.faces if f.zone == zone.id and f.kind == "wall" and f.windows and np.hypot(*f.normal[:2]) > 0.5]
    inward = -max(walls, key=lambda f: f.window_area).normal[:2] if walls else np.array([0.0, 1.0])
    way = inward / np.hypot(*inward)
    if plan is None:
        return None
    cut = LineString([at - way * LONG_M, at + way * LONG_M]).intersection(plan)
    here = min(getattr(cut, "geoms", [cut]), key=lambda part: part.distance(Point(at)))
    if here.is_empty or here.distance(Point(at)) > LEAST_M:
        return None
    ends = np.sort((shapely.get_coordinates(here) - at) @ way)
    openings = []
    for face in walls:
        slope = float(way @ face.normal[:2])
        if abs(slope) < 1e-6:
            continue
        far = float((face.origin[:2] - at) @ face.normal[:2]) / slope
        s = float((at + way * far - face.origin[:2]) @ face.along[:2])
        if not (ends[0] - 0.1 <= far <= ends[-1] + 0.1 and -LEAST_M <= s <= face.size[0] + LEAST_M):
            continue
        window = min(face.windows, key=lambda w: max(w.s - s, s - w.s - w.width, 0.0))
        low = float(face.origin[2]) - zone.level + window.z
        openings.append((far, low, low + window.height))
    first, last = float(ends[0]), float(ends[-1])
    others = [plan_of(building, z) for z in building.zones if z.id != zone.id and z.id in spaces_of(building)[zone.id]]
    beyond = [Point(at + way * far) for far in (first - STEP_M, last + STEP_M)]
    goes_on = [any(other is not None and other.contains(place) for other in others) for place in beyond]
    return Section((float(way[0]), float(way[1])), first, last, (goes_on[0], goes_on[1]), zone.height, tuple(openings))


def _within(plan: Polygon, at: Vec) -> Vec:
    """The point itself where it lies in a plan, else the nearest that does."""
    return np.array(nearest_points(plan, Point(at))[0].coords[0])


def plan_of(building: Building, zone: Zone) -> Polygon | None:
    """Return a zone's plan: its own, else by its floors; None where it has none."""
    return zone.plan or _plan(building, zone.id)


def _plan(building: Building, zone: str) -> Polygon | None:
    floors = [
        Polygon(f.loops[0][:, :2], [hole[:, :2] for hole in f.loops[1:]]) for f in building.faces if f.zone == zone and f.kind == "floor"
    ]
    floors += [Polygon(f.loops[0][:, :2]) for f in building.faces if f.other == zone and f.kind == "ceiling"]
    whole = shapely.union_all([f.buffer(0) for f in floors])
    if whole.is_empty:
        return None
    return whole if whole.geom_type == "Polygon" else max(whole.geoms, key=lambda part: part.area)
