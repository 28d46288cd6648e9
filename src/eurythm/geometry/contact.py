"""Contact by intersection: what each part of each face meets.

All zones from volumes are upright prisms. Two walls touch where their lines coincide and they look at each other; a floor
and a ceiling touch where their levels agree and their plans intersect. What touches nothing meets the ground where it lies
at or below ground level, and outdoors elsewhere. No polygon is ever mended by hand, and none is counted twice.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from eurythm.geometry.building import Boundary, Face, Kind, Vec, Zone
from eurythm.geometry.clean import GRID, areal, sound_polygons
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError

TOUCH = 1e-3
LEAST_M2 = 1e-3


@dataclass(frozen=True)
class Prism:
    """A zone with its plan and, for each ring and segment of the plan, the outline edge that it lies on ("" inside)."""

    zone: Zone
    edges: tuple[tuple[str, ...], ...]

    @property
    def plan(self) -> Polygon:
        """The plan; prisms always have one."""
        assert self.zone.plan is not None
        return self.zone.plan


@dataclass
class _Side:
    """One upright side of a prism and the rectangles (s0, s1, z0, z1, prism, other's edge) in which it touches others."""

    prism: int
    edge: str
    p: Vec
    q: Vec
    touches: list[tuple[float, float, float, float, int]]

    @property
    def length(self) -> float:
        return float(np.hypot(*(self.q - self.p)))


def faces_of(prisms: list[Prism], ground_level: float) -> list[Face]:
    """Return every face part of the prisms, each with exactly one boundary; a contact between zones appears once.

    Raises
    ------
    EurythmError
        ``volumes-overlap`` where two prisms share space.
    """
    _refuse_overlap(prisms)
    return [*_walls(prisms, ground_level), *_slabs(prisms, ground_level)]


def _refuse_overlap(prisms: list[Prism]) -> None:
    plans = np.array([p.plan for p in prisms])
    low = np.array([p.zone.level for p in prisms])
    high = low + [p.zone.height for p in prisms]
    i, j = STRtree(plans).query(plans)
    beside = (i < j) & (np.minimum(high[i], high[j]) - np.maximum(low[i], low[j]) >= TOUCH)
    i, j = i[beside], j[beside]
    meeting = shapely.intersects(plans[i], plans[j])
    by_storeys: dict[tuple[str, str, str, str], float] = {}
    for one, other in ((prisms[a].zone, prisms[b].zone) for a, b in zip(i[meeting], j[meeting], strict=True)):
        assert one.plan is not None
        assert other.plan is not None
        shared = one.plan.intersection(other.plan).area
        if shared > 0.01 + 1e-3 * (one.plan.length if one.volume != other.volume else one.plan.area):
            key = (one.volume, one.storey, other.volume, other.storey)
            by_storeys[key] = by_storeys.get(key, 0.0) + shared
    if by_storeys:
        first, _, second, _ = key = max(by_storeys, key=lambda pair: by_storeys[pair])
        names = {p.zone.volume: p.zone.name.split(",")[0] for p in prisms}
        raise EurythmError(
            "volumes-overlap",
            f"“{names[first]}” and “{names[second]}” share {amount(by_storeys[key], 'm²', 1)} of plan between the same levels; move one, or stack it.",
            f"volumes/{second}",
        )


def _sides(prisms: list[Prism]) -> list[_Side]:
    sides = []
    for index, prism in enumerate(prisms):
        rings = [prism.plan.exterior, *prism.plan.interiors]
        for ring, names in zip(rings, prism.edges, strict=True):
            points = np.asarray(ring.coords)
            sides += [_Side(index, n, points[k], points[k + 1], []) for k, n in enumerate(names)]
    return sides


def _walls(prisms: list[Prism], ground_level: float) -> list[Face]:
    sides = _sides(prisms)
    lines = [LineString([s.p, s.q]) for s in sides]
    tree = STRtree(lines)
    i, j = tree.query(lines, predicate="dwithin", distance=TOUCH)
    owner = np.array([s.prism for s in sides], dtype=np.int64)
    low = np.array([prisms[k].zone.level for k in owner])
    high = low + [prisms[k].zone.height for k in owner]
    along = np.array([(s.q - s.p) / s.length for s in sides]).reshape(-1, 2)
    close = (i < j) & (owner[i] != owner[j]) & (np.minimum(high[i], high[j]) - np.maximum(low[i], low[j]) >= TOUCH)
    i, j = i[close], j[close]
    opposed = np.einsum("ij,ij->i", along[i], along[j]) <= -0.9999
    for a, b in zip(i[opposed], j[opposed], strict=True):
        _touch(sides[a], sides[b], prisms)
    counts: dict[str, int] = defaultdict(int)
    return [face for side in sides for face in _parts(side, prisms, ground_level, counts)]


def _touch(a: _Side, b: _Side, prisms: list[Prism]) -> None:
    """Note where two opposed sides that share levels overlap, if they lie in one plane."""
    za, zb = prisms[a.prism].zone, prisms[b.prism].zone
    low, high = max(za.level, zb.level), min(za.level + za.height, zb.level + zb.height)
    along = (a.q - a.p) / a.length
    normal = np.array([along[1], -along[0]])
    if max(abs(float(np.dot(b.p - a.p, normal))), abs(float(np.dot(b.q - a.p, normal)))) > TOUCH:
        return
    s0, s1 = max(0.0, float(np.dot(b.q - a.p, along))), min(a.length, float(np.dot(b.p - a.p, along)))
    if s1 - s0 < TOUCH:
        return
    a.touches.append((s0, s1, low, high, b.prism))
    back = (b.q - b.p) / b.length
    t0, t1 = float(np.dot(a.p + along * s1 - b.p, back)), float(np.dot(a.p + along * s0 - b.p, back))
    b.touches.append((max(0.0, t0), min(b.length, t1), low, high, a.prism))


def _parts(side: _Side, prisms: list[Prism], ground_level: float, counts: dict[str, int]) -> Iterable[Face]:
    """Cut a side into rectangles with one boundary each: first along its length, then by height."""
    zone = prisms[side.prism].zone
    foot, top = zone.level, zone.level + zone.height
    cuts = _cuts([0.0, side.length], [c for t in side.touches for c in t[:2]])
    strips: list[tuple[float, float, tuple[tuple[float, float, int | Boundary], ...]]] = []
    for s0, s1 in pairwise(cuts):
        middle = (s0 + s1) / 2
        levels = _column([t for t in side.touches if t[0] < middle < t[1]], foot, top, ground_level)
        if strips and strips[-1][2] == levels:
            strips[-1] = (strips[-1][0], s1, levels)
        else:
            strips.append((s0, s1, levels))
    along = (side.q - side.p) / side.length
    axis = np.array([along[0], along[1], 0.0])
    normal = np.array([along[1], -along[0], 0.0]) + 0.0
    for s0, s1, levels in strips:
        for z0, z1, meets in levels:
            if (s1 - s0) * (z1 - z0) < LEAST_M2 or (isinstance(meets, int) and meets < side.prism):
                continue
            other = prisms[meets].zone.id if isinstance(meets, int) else None
            outline_edge = f"{zone.volume}/{zone.storey}/{side.edge}" if side.edge else ""
            base = outline_edge if outline_edge and other is None else f"{zone.id}|{other}"
            counts[base] += 1
            a, b = side.p + along * s0, side.p + along * s1
            loop = np.array([[*a, z0], [*b, z0], [*b, z1], [*a, z1]])
            yield Face(
                id=base if counts[base] == 1 else f"{base}#{counts[base]}",
                zone=zone.id,
                kind="wall",
                boundary="zone" if isinstance(meets, int) else meets,
                loops=(np.round(loop, 6),),
                normal=np.round(normal, 9),
                area=(s1 - s0) * (z1 - z0),
                other=other,
                edge=outline_edge,
                origin=np.array([*a, z0]),
                along=axis,
                size=(s1 - s0, z1 - z0),
            )


def _cuts(ends: list[float], more: list[float]) -> list[float]:
    cuts = [ends[0]]
    for c in sorted(more):
        if c - cuts[-1] > TOUCH and ends[1] - c > TOUCH:
            cuts.append(c)
    return [*cuts, ends[1]]


def _column(
    touches: list[tuple[float, float, float, float, int]], foot: float, top: float, ground_level: float
) -> tuple[tuple[float, float, int | Boundary], ...]:
    """What a vertical strip of a side meets, from foot to top."""
    levels: list[tuple[float, float, int | Boundary]] = []
    z = foot
    for _, _, low, high, other in sorted(touches, key=lambda t: t[2]):
        levels += _open(z, low, ground_level)
        levels.append((low, high, other))
        z = high
    return (*levels, *_open(z, top, ground_level))


def _open(z0: float, z1: float, ground_level: float) -> list[tuple[float, float, int | Boundary]]:
    if z1 - z0 < TOUCH:
        return []
    if z1 <= ground_level + TOUCH:
        return [(z0, z1, "ground")]
    if z0 < ground_level - TOUCH:
        return [(z0, ground_level, "ground"), (ground_level, z1, "outdoors")]
    return [(z0, z1, "outdoors")]


def _slabs(prisms: list[Prism], ground_level: float) -> list[Face]:
    plans = np.array([p.plan for p in prisms])
    floor = np.array([p.zone.level for p in prisms])
    top = floor + [p.zone.height for p in prisms]
    above: dict[int, list[tuple[int, BaseGeometry]]] = defaultdict(list)
    below: dict[int, list[tuple[int, BaseGeometry]]] = defaultdict(list)
    i, j = STRtree(plans).query(plans)
    stacked = (i != j) & (np.abs(top[i] - floor[j]) < TOUCH)
    commons: dict[tuple[int, int], BaseGeometry] = {}  # storeys that are divided alike have the same plans
    for lower, upper in zip(i[stacked].tolist(), j[stacked].tolist(), strict=True):
        pair = id(plans[lower]), id(plans[upper])
        if pair not in commons:
            commons[pair] = areal(shapely.intersection(plans[lower], plans[upper], grid_size=GRID))
        shared = commons[pair]
        if shared.area > LEAST_M2:
            above[lower].append((upper, shared))
            below[upper].append((lower, shared))
    rests: dict[tuple[int, ...], BaseGeometry] = {}

    def rest(plan: Polygon, taken: list[BaseGeometry]) -> BaseGeometry:
        key = id(plan), *map(id, taken)
        if key not in rests:
            rests[key] = _rest(plan, taken)
        return rests[key]

    faces: list[Face] = []
    for index, prism in enumerate(prisms):
        zone = prism.zone
        high = zone.level + zone.height
        for other, shared in sorted(above[index], key=lambda pair: prisms[pair[0]].zone.id):
            faces += _slab(zone, f"{zone.id}|{prisms[other].zone.id}", shared, high, "ceiling", "zone", prisms[other].zone.id)
        open_roof = rest(prism.plan, [g for _, g in above[index]])
        faces += _slab(zone, f"{zone.id}/ceiling", open_roof, high, "ceiling", "ground" if high < ground_level - TOUCH else "outdoors")
        open_floor = rest(prism.plan, [g for _, g in below[index]])
        on_ground: Boundary = "ground" if zone.level <= ground_level + TOUCH else "outdoors"
        faces += _slab(zone, f"{zone.id}/floor", open_floor, zone.level, "floor", on_ground)
    return faces


def _rest(plan: Polygon, taken: list[BaseGeometry]) -> BaseGeometry:
    """What is left of a plan; worked out on the grid of a micrometre, where edges that nearly coincide do."""
    return shapely.difference(plan, shapely.union_all(taken, grid_size=GRID), grid_size=GRID) if taken else plan


def _slab(zone: Zone, name: str, shape: BaseGeometry, level: float, kind: Kind, boundary: Boundary, other: str | None = None) -> list[Face]:
    up = 1.0 if kind == "ceiling" else -1.0
    faces = []
    for k, part in enumerate(sorted(sound_polygons(shape, LEAST_M2), key=lambda p: (-round(p.area, 3), *p.bounds))):
        turned = shapely.geometry.polygon.orient(part, sign=up)
        loops = tuple(
            np.round(np.column_stack([np.asarray(ring.coords)[:-1], np.full(len(ring.coords) - 1, level)]), 6)
            for ring in (turned.exterior, *turned.interiors)
        )
        faces.append(
            Face(
                id=name if k == 0 else f"{name}#{k + 1}",
                zone=zone.id,
                kind=kind,
                boundary=boundary,
                loops=loops,
                normal=np.array([0.0, 0.0, up]),
                area=float(part.area),
                other=other,
            )
        )
    return faces
