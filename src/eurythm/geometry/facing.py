"""Contact of zones that are given outright: traced rooms, rooms of a model, masses of a mesh.

Rooms of a model stand apart by a wall's thickness, so two faces meet where they look at each other across a gap no wider
than a limit. Faces are cut by what they meet, the nearest first, and every bit of a face ends up with one boundary: a zone,
ground, outdoors, or, where only the end of a wall or the edge of a slab lies behind it, nothing (adiabatic).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import STRtree
from shapely.geometry import Polygon, box
from shapely.geometry.base import BaseGeometry

from eurythm.geometry.building import Boundary, Face, Vec, Window, Zone
from eurythm.geometry.clean import GRID, sound_polygons
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError

TOUCH = 2e-3
LEAST_M2 = 2e-3
THINNEST = 4e-3
SUNK = 0.05
"""How far two faces may stand in each other and still count as touching, m."""
LEAST_SHARE = 0.02
"""Share of the smaller of two plans up to which they do not overlap, but touch."""
PARALLEL = 0.9995
BEHIND = 0.02


@dataclass
class Flat:
    """A face in its own plane: what is left of it to be given a boundary, and the frame that leads back to space."""

    face: Face
    origin: Vec
    along: Vec
    upward: Vec
    rest: BaseGeometry
    drawn: bool

    def into(self, points: Vec) -> Vec:
        """Points of space (n, 3) in this plane, (n, 2)."""
        away = points - self.origin
        found: Vec = np.column_stack([away @ self.along, away @ self.upward])
        return found

    def out(self, points: Vec) -> Vec:
        """Points of this plane (n, 2) in space, (n, 3)."""
        found: Vec = self.origin + np.outer(points[:, 0], self.along) + np.outer(points[:, 1], self.upward)
        return found


def meet(
    loose: Sequence[Face], drawn: Sequence[Face], zones: Sequence[Zone], gap: float, ground_level: float, stated: Sequence[Face] = ()
) -> list[Face]:
    """Give every bit of the loose faces a boundary, and cut what they meet out of the drawn ones.

    Parameters
    ----------
    loose : faces whose boundary is to be worked out.
    drawn : faces towards outdoors or ground of volumes and boxes, which have met each other already.
    zones : all zones, in the order that decides which side of a contact bears the face.
    stated : faces that have a boundary already; they only show where their rooms are.
    gap : m, up to which faces that look at each other are neighbours.

    Returns
    -------
    All faces, parts of one numbered from its second on ``#2``, ``#3``; a contact between zones appears once.
    """
    flats = [flat_of(f, False) for f in loose] + [flat_of(f, True) for f in drawn]
    order = {z.id: i for i, z in enumerate(zones)}
    faces: list[Face] = []
    counts: dict[str, int] = {}
    for i, j in _pairs(flats, gap):
        faces += _contact(flats[i], flats[j], order, counts)
    around = _Around(zones, (*loose, *stated), gap)
    for flat in flats:
        if flat.drawn:
            faces += _parts(flat, _tidy(flat.rest), flat.face.boundary, counts)
        else:
            faces += _unmet(flat, around, gap, ground_level, counts)
    return faces


def flat_of(face: Face, drawn: bool) -> Flat:
    """Lay a face into its own plane."""
    along = face.along if abs(float(np.dot(face.along, face.normal))) < 1e-6 else np.array([1.0, 0.0, 0.0])
    upward = np.cross(face.normal, along)
    origin = face.origin if face.size[0] > 0 else face.loops[0][0]
    flat = Flat(face, origin, along, upward, Polygon(), drawn)
    rings = [flat.into(loop) for loop in face.loops]
    polygon = Polygon(rings[0], rings[1:])
    flat.rest = polygon if polygon.is_valid else polygon.buffer(0)
    return flat


def _pairs(flats: list[Flat], gap: float) -> list[tuple[int, int]]:
    """Pairs of faces of different zones that look at each other across the gap, the nearest first."""
    if all(f.drawn for f in flats):
        return []
    reach = gap + TOUCH
    low = np.array([f.face.loops[0].min(axis=0) for f in flats]).reshape(-1, 3)
    high = np.array([f.face.loops[0].max(axis=0) for f in flats]).reshape(-1, 3)
    normal = np.array([f.face.normal for f in flats]).reshape(-1, 3)
    middle = np.array([f.face.loops[0].mean(axis=0) for f in flats]).reshape(-1, 3)
    grown = shapely.box(low[:, 0] - reach, low[:, 1] - reach, high[:, 0] + reach, high[:, 1] + reach)
    first, second = STRtree(grown).query(grown, predicate="intersects")
    drawn = np.array([f.drawn for f in flats])
    owner = np.unique([f.face.zone for f in flats], return_inverse=True)[1]
    apart = np.einsum("ij,ij->i", middle[second] - middle[first], normal[first])
    keep = (
        (first < second)
        & (owner[first] != owner[second])
        & ~(drawn[first] & drawn[second])
        & (np.einsum("ij,ij->i", normal[first], normal[second]) < -PARALLEL)
        & (apart >= -max(SUNK * (gap > 0), TOUCH))
        & (apart <= reach)
        & (low[first, 2] - reach <= high[second, 2])
        & (low[second, 2] - reach <= high[first, 2])
    )
    first, second, apart = first[keep], second[keep], np.round(apart[keep], 3)
    nearest = np.lexsort((second, first, apart))
    return [(int(first[k]), int(second[k])) for k in nearest]


def _contact(a: Flat, b: Flat, order: dict[str, int], counts: dict[str, int]) -> list[Face]:
    """Cut what two faces share out of both, and return it as faces of the zone that comes first."""
    if order[b.face.zone] < order[a.face.zone]:
        a, b = b, a
    if a.rest.is_empty or b.rest.is_empty:
        return []
    seen = shapely.transform(b.rest, lambda p: a.into(b.out(p)))
    if not seen.is_valid:
        seen = seen.buffer(0)
    shared = _tidy(a.rest.intersection(seen))
    if shared.is_empty:
        return []
    # on a grid: off it, what nearly coincides may be taken away from nothing at all
    a.rest = shapely.difference(a.rest, shared, grid_size=GRID)
    b.rest = shapely.difference(b.rest, shapely.transform(shared, lambda p: b.into(a.out(p))), grid_size=GRID)
    construction = a.face.construction or b.face.construction
    return [
        replace(part, other=b.face.zone, construction=construction, windows=())
        for part in _parts(a, shared, "zone", counts, f"{a.face.zone}|{b.face.zone}")
    ]


def _tidy(shape: BaseGeometry) -> BaseGeometry:
    """The polygons of a geometry that are worth a face: no lines, no hairs."""
    kept = [p for p in sound_polygons(shape, LEAST_M2) if p.area > THINNEST * p.length / 2]
    return shapely.union_all(kept) if len(kept) != 1 else kept[0]


class _Around:
    """What lies about a face that met nothing: the plans of rooms, closed over walls no thicker than the gap."""

    def __init__(self, zones: Sequence[Zone], faces: Sequence[Face], gap: float) -> None:
        self._gap = gap
        self._closed: dict[tuple[int, ...], BaseGeometry] = {}
        under: dict[str, list[BaseGeometry]] = {}
        for face in faces:
            if face.kind == "floor":
                under.setdefault(face.zone, []).append(Polygon(face.loops[0][:, :2]).buffer(0))
        self._plans = [z.plan if z.plan is not None else shapely.union_all(under.get(z.id, [])) for z in zones]
        self._low = np.array([z.level for z in zones])
        self._high = np.array([z.top for z in zones])

    def at(self, z: float) -> BaseGeometry:
        """Where a level runs through rooms or through the walls and slabs between them."""
        return self._close((self._low - self._gap <= z) & (z <= self._high + self._gap))

    def below(self, z: float) -> BaseGeometry:
        """Where there are rooms under a floor."""
        return self._close((self._high >= z - self._gap - TOUCH) & (self._high <= z + SUNK))

    def above(self, z: float) -> BaseGeometry:
        """Where there are rooms over a ceiling."""
        return self._close((self._low <= z + self._gap + TOUCH) & (self._low >= z - SUNK))

    def _close(self, chosen: NDArray[np.bool_]) -> BaseGeometry:
        key = tuple(np.flatnonzero(chosen).tolist())
        if key not in self._closed:
            half = self._gap / 2
            whole = shapely.union_all([self._plans[i] for i in key])
            self._closed[key] = whole.buffer(half, join_style="mitre").buffer(-half, join_style="mitre")
        return self._closed[key]


def _unmet(flat: Flat, around: _Around, gap: float, ground_level: float, counts: dict[str, int]) -> list[Face]:
    """What met no zone: ground, outdoors, or the end of a wall or slab."""
    rest = _tidy(flat.rest)
    if rest.is_empty:
        return []
    blind: BaseGeometry = Polygon()
    if gap > TOUCH:
        blind = _blind_wall(flat, rest, around, gap) if flat.face.kind == "wall" else _blind_slab(flat, rest, around, gap)
        blind = _tidy(blind)
        rest = _tidy(rest.difference(blind))
    faces = _parts(flat, blind, "adiabatic", counts)
    below, above = _at_ground(flat, rest, ground_level, gap)
    faces += _parts(flat, _tidy(above), "outdoors", counts)
    return faces + _parts(flat, _tidy(below), "ground", counts)


def _blind_wall(flat: Flat, rest: BaseGeometry, around: _Around, gap: float) -> BaseGeometry:
    """Parts of a wall behind which lies no air: a step outward is still within the rooms and their walls."""
    found: list[BaseGeometry] = []
    for polygon in sound_polygons(rest, 0.0):
        for cell in rectangles(polygon) or [polygon]:
            s0, t0, s1, t1 = cell.bounds
            ends = flat.out(np.array([[s0, (t0 + t1) / 2], [s1, (t0 + t1) / 2]])) + flat.face.normal * BEHIND
            line = shapely.LineString(ends[:, :2])
            if line.length < TOUCH:
                continue
            inside = line.intersection(around.at(float(ends[0, 2])))
            for piece in getattr(inside, "geoms", [inside]):
                if piece.length > TOUCH:
                    k = [line.project(shapely.Point(c)) / line.length for c in (piece.coords[0], piece.coords[-1])]
                    found.append(cell.intersection(box(s0 + min(k) * (s1 - s0), t0 - 1, s0 + max(k) * (s1 - s0), t1 + 1)))
    return shapely.union_all(found)


def _blind_slab(flat: Flat, rest: BaseGeometry, around: _Around, gap: float) -> BaseGeometry:
    """Parts of a floor or ceiling that only walls of the next storey stand on or under: strips no wider than the gap."""
    z = float(flat.face.loops[0][:, 2].mean())
    near = around.below(z) if flat.face.kind == "floor" else around.above(z)
    if near.is_empty:
        return Polygon()
    flat_near = shapely.transform(near, lambda p: flat.into(np.column_stack([p, np.full(len(p), z)])))
    wide = rest.buffer(-gap / 2, join_style="mitre").buffer(gap / 2 + TOUCH, join_style="mitre")
    strips = rest.difference(wide).intersection(flat_near.buffer(gap + TOUCH))
    return shapely.union_all([rest.intersection(flat_near.buffer(0)), strips])


def _at_ground(flat: Flat, rest: BaseGeometry, ground_level: float, gap: float) -> tuple[BaseGeometry, BaseGeometry]:
    """What lies below ground level and what above it. A floor rests on the ground where no more than the gap parts them."""
    if rest.is_empty:
        return Polygon(), rest
    if flat.face.kind != "wall":
        z = float(flat.face.loops[0][:, 2].mean())
        buried = z <= ground_level + gap + TOUCH if flat.face.kind == "floor" else z < ground_level - TOUCH
        return (rest, Polygon()) if buried else (Polygon(), rest)
    rise = float(flat.upward[2])
    t = (ground_level - float(flat.origin[2])) / rise
    s0, t0, s1, t1 = rest.bounds
    below, above = box(s0 - 1, min(t0, t) - 1, s1 + 1, t), box(s0 - 1, t, s1 + 1, max(t1, t) + 1)
    return rest.intersection(below), rest.intersection(above)


def rectangles(polygon: Polygon) -> list[Polygon]:
    """Cut a right-angled polygon into upright strips, each as wide as can be; nothing where it is not right-angled."""
    rings = [np.asarray(r.coords) for r in (polygon.exterior, *polygon.interiors)]
    if any(np.any(np.min(np.abs(np.diff(r, axis=0)), axis=1) > TOUCH) for r in rings):
        return []
    if len(rings) == 1 and len(rings[0]) == 5:
        return [polygon]
    cuts = np.unique(np.round(np.concatenate([r[:, 0] for r in rings]), 3))
    _, t0, _, t1 = polygon.bounds
    strips: list[tuple[float, float, list[tuple[float, float]]]] = []
    for a, b in pairwise(cuts):
        column = polygon.intersection(shapely.LineString([((a + b) / 2, t0 - 1), ((a + b) / 2, t1 + 1)]))
        spans = sorted((g.bounds[1], g.bounds[3]) for g in getattr(column, "geoms", [column]) if g.length > TOUCH)
        if strips and len(strips[-1][2]) == len(spans) and np.allclose(strips[-1][2], spans, atol=TOUCH):
            strips[-1] = (strips[-1][0], float(b), strips[-1][2])
        else:
            strips.append((float(a), float(b), spans))
    return [box(a, low, b, high) for a, b, spans in strips for low, high in spans]


def _parts(flat: Flat, shape: BaseGeometry, boundary: Boundary, counts: dict[str, int], name: str = "") -> list[Face]:
    """Faces of the polygons of a shape in a face's plane; walls outdoors are cut into rectangles, so that windows fit."""
    made: list[Face] = []
    name = name or flat.face.id
    for polygon in _sorted(sound_polygons(shape, LEAST_M2)):
        cells: Iterable[Polygon] = (rectangles(polygon) if flat.face.kind == "wall" and boundary == "outdoors" else []) or [polygon]
        for cell in cells:
            counts[name] = counts.get(name, 0) + 1
            s0, t0, s1, t1 = cell.bounds
            turned = shapely.geometry.polygon.orient(cell)
            loops = tuple(np.round(flat.out(np.asarray(r.coords)[:-1]), 6) for r in (turned.exterior, *turned.interiors))
            made.append(
                replace(
                    flat.face,
                    id=name if counts[name] == 1 else f"{name}#{counts[name]}",
                    boundary=boundary,
                    loops=loops,
                    area=float(cell.area),
                    origin=flat.out(np.array([[s0, t0]]))[0],
                    along=flat.along,
                    size=(s1 - s0, t1 - t0),
                    windows=_windows_in(flat.face.windows, cell),
                )
            )
    return made


def _sorted(polygons: list[Polygon]) -> list[Polygon]:
    return sorted(polygons, key=lambda p: (-round(p.area, 3), *np.round(p.bounds, 3)))


def _windows_in(windows: tuple[Window, ...], cell: Polygon) -> tuple[Window, ...]:
    """The windows whose middle lies in a part of their face, in that part's own measures."""
    s0, t0, _, _ = cell.bounds
    reach = cell.buffer(TOUCH)
    return tuple(
        replace(w, s=w.s - s0, z=w.z - t0) for w in windows if reach.contains(shapely.Point(w.s + w.width / 2, w.z + w.height / 2))
    )


def refuse_overlap(zones: Sequence[Zone]) -> None:
    """Raise ``zones-overlap`` where the plans of two zones share more than a strip between the same levels.

    Pairs of upright prisms of volumes are passed over: those have been looked at already.
    """
    for a, b, shared in overlapping(zones):
        raise EurythmError(
            "zones-overlap",
            f"“{a.name}” and “{b.name}” share {amount(shared, 'm²', 1)} of plan between the same levels; move one, or leave one out.",
            next((f"zones/{z.id}" for z in (b, a) if z.given), f"volumes/{b.volume}"),
        )


def overlapping(zones: Sequence[Zone], of: Zone | None = None) -> list[tuple[Zone, Zone, float]]:
    """Return pairs of zones whose plans share more than a strip between the same levels, and how much, m²; those of one zone if it is named.

    Pairs of upright prisms of volumes are passed over.
    """
    upright = [z for z in zones if z.plan is not None]
    plans = [z.plan for z in upright]
    asked = [z.plan for z in upright if of is None or z is of]
    first = [k for k, z in enumerate(upright) if of is None or z is of]
    found = []
    for i, j in STRtree(plans).query(asked, predicate="intersects").T if asked else ():
        a, b = upright[first[i]], upright[j]
        seen = not any(z.given or z.rise for z in (a, b))
        if a is b or (of is None and first[i] >= j) or seen or min(a.top, b.top) - max(a.level, b.level) < SUNK:
            continue
        shared = float(shapely.intersection(plans[first[i]], plans[j]).area)
        if shared > 0.05 + LEAST_SHARE * min(plans[first[i]].area, plans[j].area):
            found.append((a, b, shared))
    return found
