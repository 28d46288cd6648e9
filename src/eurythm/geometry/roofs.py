"""Pitched roofs: the top storey of a volume under one slope or under two."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.polygon import orient

from eurythm.geometry.building import Face, Kind, Vec, Zone
from eurythm.geometry.clean import GRID, sound_polygons
from eurythm.geometry.outline import Outline
from eurythm.model.errors import EurythmError
from eurythm.model.shape import Roof

FAR = 1e5
LEAST_M2 = 1e-3
SAME_M = 2e-3
"""How far two roofs may lie apart and still count as one, m."""


@dataclass(frozen=True)
class Slopes:
    """The slopes over an outline.

    Attributes
    ----------
    foot : (2,) a point of the eaves, m.
    inward : (2,) unit vector from the eaves up the slope, in plan.
    span : how far the outline reaches from the eaves, m.
    tangent : rise per run.
    gable : whether a second slope comes from the other side; they meet in the middle of the span.
    """

    foot: Vec
    inward: Vec
    span: float
    tangent: float
    gable: bool

    @property
    def rise(self) -> float:
        """Greatest height above the eaves, m."""
        return self.tangent * (self.span / 2 if self.gable else self.span)

    def depth(self, points: Vec) -> Vec:
        """How far points in plan, (n, 2), lie behind the eaves, (n,) m."""
        found: Vec = (points - self.foot) @ self.inward
        return found

    def height(self, points: Vec) -> Vec:
        """Height of the roof above its eaves over points in plan, (n, 2) to (n,), m."""
        depth = self.depth(points)
        found: Vec = self.tangent * np.clip(np.minimum(depth, self.span - depth) if self.gable else depth, 0.0, None)
        return found

    def halves(self) -> list[tuple[Polygon, Vec]]:
        """The parts of the plane under each slope with the slope's upward unit normal."""
        across = np.array([-self.inward[1], self.inward[0]])
        middle = self.foot + self.inward * self.span / 2
        found = []
        for side in (-1.0, 1.0) if self.gable else (-1.0,):
            back = middle + self.inward * (side * FAR if self.gable else FAR)
            front = middle if self.gable else middle - self.inward * FAR
            ground = Polygon([front - across * FAR, front + across * FAR, back + across * FAR, back - across * FAR])
            normal = np.array([*(self.inward * side * self.tangent), 1.0])
            found.append((ground, normal / np.linalg.norm(normal)))
        return found

    def broken(self, p: Vec, q: Vec) -> Vec:
        """A side in plan with the point where the ridge crosses it, (2 or 3, 2)."""
        if not self.gable:
            return np.array([p, q])
        a, b = self.depth(np.array([p, q])) - self.span / 2
        if a * b >= 0 or min(abs(a), abs(b)) < GRID:
            return np.array([p, q])
        return np.array([p, p + (q - p) * (a / (a - b)), q])


def eaves_of(roof: Roof, outline: Outline, path: str) -> str:
    """Return the edge that the eaves lie along: the one given, else the longest of the outer outline.

    Raises
    ------
    EurythmError
        ``no-such-edge`` where the roof names an edge that the outline does not have.
    """
    ring = outline.rings[0]
    if roof.eaves is None:
        lengths = np.round(np.hypot(*(np.roll(ring, -1, axis=0) - ring).T), 6)
        return outline.edges[0][int(np.argmax(lengths))]
    if roof.eaves not in outline.edges[0]:
        raise EurythmError("no-such-edge", f"The outline has no outer edge “{roof.eaves}” for the eaves.", f"{path}/roof/eaves")
    return roof.eaves


def slopes_of(roof: Roof, outline: Outline, path: str) -> Slopes | None:
    """Return the slopes of a roof over an outline, None where it is flat. Raises EurythmError as `eaves_of` does."""
    if roof.kind == "flat":
        return None
    k = outline.edges[0].index(eaves_of(roof, outline, path))
    ring = outline.rings[0]
    a, b = ring[k], ring[(k + 1) % len(ring)]
    along = (b - a) / np.hypot(*(b - a))
    inward = np.array([-along[1], along[0]])
    depth = (ring - a) @ inward
    return Slopes(a + inward * depth.min(), inward, float(np.ptp(depth)), math.tan(math.radians(roof.pitch_deg)), roof.kind == "gable")


@dataclass(frozen=True)
class Cover:
    """A roof over a part of the plane: its ground, its slopes (None where flat) and the level of its eaves, m."""

    ground: Polygon
    slopes: Slopes | None
    eaves: float

    def level(self, points: Vec) -> Vec:
        """Level of the roof over points in plan, (n, 2) to (n,), m."""
        found: Vec = np.full(len(points), self.eaves) + (0.0 if self.slopes is None else self.slopes.height(points))
        return found

    def parts(self) -> list[Polygon]:
        """The ground in parts over each of which the roof is one plane."""
        if self.slopes is None:
            return [self.ground]
        return [p for half, _ in self.slopes.halves() for p in sound_polygons(shapely.intersection(self.ground, half), LEAST_M2)]


def refitted(outline: Outline, roof: Roof, covers: Sequence[Cover]) -> tuple[Roof, float] | None:
    """Find the roof over an outline that lies just where other roofs lay before.

    Parameters
    ----------
    outline : of the volume that is wanted.
    roof : a pitched one before; its pitch, its kind and its eaves are tried first.
    covers : the roofs before, which together cover the outline.

    Returns
    -------
    The roof and the level of its eaves, m; None where no mono-pitched or gabled roof does.
    """
    whole = outline.polygon
    kinds: tuple[Literal["mono", "gable"], ...] = ("mono", "gable") if roof.kind == "mono" else ("gable", "mono")
    names = sorted(outline.edges[0], key=lambda name: name != roof.eaves)
    tries = [roof.model_copy(update={"kind": kind, "eaves": name}) for kind in kinds for name in names]
    for tried in tries:
        own = Cover(whole, slopes_of(tried, outline, ""), 0.0)
        apart = [
            before.level(points) - own.level(points)
            for before in covers
            for mine in own.parts()
            for theirs in before.parts()
            for shared in sound_polygons(shapely.intersection(mine, theirs), LEAST_M2)
            for points in (np.asarray(shared.exterior.coords),)
        ]
        if apart and np.ptp(np.concatenate(apart)) < SAME_M:
            return tried, float(np.mean(np.concatenate(apart)))
    return None


def roofed(zone: Zone, edges: Iterable[tuple[str, ...]], slopes: Slopes) -> tuple[Zone, list[Face]]:
    """Return a zone of the top storey as it is under the slopes, and its faces, which have not met anything yet.

    Parameters
    ----------
    zone : as it would be under a flat roof.
    edges : for each ring and segment of its plan, the outline edge that it lies on, or "".
    """
    assert zone.plan is not None
    level, eaves = zone.level, zone.level + zone.height
    faces = [_level_face(zone, zone.plan, level)]
    volume = 0.0
    for ground, normal in slopes.halves():
        under = shapely.intersection(zone.plan, ground, grid_size=GRID)
        for part in sound_polygons(under, LEAST_M2):
            sheet = _sheet(zone, part, slopes, eaves, normal)
            faces.append(sheet)
            volume += float(part.area) * float(slopes.height(np.asarray(part.centroid.coords))[0])
    rise = 0.0
    for ring, names in zip((zone.plan.exterior, *zone.plan.interiors), edges, strict=True):
        points = np.asarray(ring.coords)
        for k, name in enumerate(names):
            wall = _wall(zone, points[k], points[k + 1], name, slopes)
            rise = max(rise, float(wall.loops[0][:, 2].max()) - eaves)
            faces.append(wall)
    rise = max([rise, *(float(f.loops[0][:, 2].max()) - eaves for f in faces if f.kind == "ceiling")])
    made = Zone(**{**vars(zone), "gross_volume": zone.gross_volume + volume, "rise": round(rise, 6)})
    return made, faces


def _level_face(zone: Zone, plan: Polygon, level: float) -> Face:
    turned = orient(plan, sign=-1.0)
    loops = tuple(
        np.round(np.column_stack([np.asarray(r.coords)[:-1], np.full(len(r.coords) - 1, level)]), 6)
        for r in (turned.exterior, *turned.interiors)
    )
    x0, y0, x1, y1 = plan.bounds
    origin, size = np.array([x0, y1, level]), (x1 - x0, y1 - y0)
    return Face(
        f"{zone.id}/floor", zone.id, "floor", "outdoors", loops, np.array([0.0, 0.0, -1.0]), float(plan.area), origin=origin, size=size
    )


def _sheet(zone: Zone, part: Polygon, slopes: Slopes, eaves: float, normal: Vec) -> Face:
    """The part of a slope over a part of a plan."""
    turned = orient(part)
    loops = tuple(_lifted(np.asarray(r.coords)[:-1], slopes, eaves) for r in (turned.exterior, *turned.interiors))
    flat = np.hypot(normal[0], normal[1])
    along = np.array([-normal[1], normal[0], 0.0]) / flat
    return _framed(zone, f"{zone.id}/ceiling", "ceiling", loops, normal, along, float(part.area) / float(normal[2]))


def _wall(zone: Zone, p: Vec, q: Vec, edge: str, slopes: Slopes) -> Face:
    eaves = zone.level + zone.height
    top = _lifted(slopes.broken(p, q), slopes, eaves)[::-1]
    loop = np.array([[*p, zone.level], [*q, zone.level], *top])
    along = np.array([*((q - p) / np.hypot(*(q - p))), 0.0])
    normal = np.array([along[1], -along[0], 0.0]) + 0.0
    name = f"{zone.volume}/{zone.storey}/{edge}" if edge else ""
    s = (loop[:, :2] - p) @ along[:2]
    area = abs(float(np.sum(s * np.roll(loop[:, 2], -1) - np.roll(s, -1) * loop[:, 2]))) / 2
    return _framed(zone, name or f"{zone.id}/inner", "wall", (np.round(loop, 6),), normal, along, area, name)


def _framed(zone: Zone, name: str, kind: Kind, loops: tuple[Vec, ...], normal: Vec, along: Vec, area: float, edge: str = "") -> Face:
    upward = np.cross(normal, along)
    s, t = loops[0] @ along, loops[0] @ upward
    origin = loops[0][0] + along * (s.min() - s[0]) + upward * (t.min() - t[0])
    size = (float(np.ptp(s)), float(np.ptp(t)))
    return Face(name, zone.id, kind, "outdoors", loops, normal, area, edge=edge, origin=origin, along=along, size=size)


def _lifted(points: Vec, slopes: Slopes, eaves: float) -> Vec:
    lifted: Vec = np.column_stack([points, eaves + slopes.height(points)]).round(6)
    return lifted
