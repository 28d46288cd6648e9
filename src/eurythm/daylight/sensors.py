"""Where sensors stand unless someone says so."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import LineString, Point, Polygon
from shapely.ops import nearest_points

from eurythm.geometry.building import Building, Face, Vec, Zone

WORKING_PLANE_M = 0.8
OFF_WALLS_M = 0.5


@dataclass(frozen=True, eq=False)
class Sensor:
    """A sensor of a zone: where it stands (3,), m, which way it looks (3,), and the share of the zone's lights that it rules."""

    zone: str
    at: Vec
    normal: Vec
    share: float = 0.5


def proposed(building: Building, zone: Zone) -> tuple[Sensor, ...]:
    """Return two sensors before a zone's largest glass, at mid depth and at the inner edge; one in a zone too narrow for two, none without windows.

    They stand on the working plane, look up, and rule equal shares of the lights.
    """
    glazed = [f for f in building.faces if f.zone == zone.id and f.window_area > 0]
    plan = zone.plan or _plan(building, zone.id)
    if not glazed or plan is None:
        return ()
    face = max(glazed, key=lambda f: f.window_area)
    level, places = zone.level + WORKING_PLANE_M, _before(plan, face)
    return tuple(Sensor(zone.id, np.array([x, y, level]), np.array([0.0, 0.0, 1.0]), 1.0 / len(places)) for x, y in places)


def _before(plan: Polygon, face: Face) -> list[tuple[float, float]]:
    """Places at half and at the whole of the way from a face into a plan."""
    inside = plan.buffer(-OFF_WALLS_M)
    if inside.is_empty:
        middle = plan.representative_point()
        return [(middle.x, middle.y)]
    middle_s = sum((w.s + w.width / 2) * w.area for w in face.windows) / face.window_area
    foot = (face.origin + face.along * middle_s)[:2]
    inward = -face.normal[:2]
    size = float(np.hypot(*inward))
    if size < 0.1:  # a rooflight: under it, and half way to the farthest corner
        under = nearest_points(inside, Point(face.loops[0].mean(axis=0)[:2]))[0]
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


def _within(plan: Polygon, at: Vec) -> Vec:
    """The point itself where it lies in a plan, else the nearest that does."""
    return np.array(nearest_points(plan, Point(at))[0].coords[0])


def _plan(building: Building, zone: str) -> Polygon | None:
    """A plan by a zone's floors, where it has none of its own."""
    floors = [
        Polygon(f.loops[0][:, :2], [hole[:, :2] for hole in f.loops[1:]]) for f in building.faces if f.zone == zone and f.kind == "floor"
    ]
    floors += [Polygon(f.loops[0][:, :2]) for f in building.faces if f.other == zone and f.kind == "ceiling"]
    whole = shapely.union_all([f.buffer(0) for f in floors])
    if whole.is_empty:
        return None
    return whole if whole.geom_type == "Polygon" else max(whole.geoms, key=lambda part: part.area)
