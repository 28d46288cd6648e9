"""Where panels lie: rows that keep clear of edges, rooflights and whatever stands on the roof, and the points that they are seen from."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from fnmatch import fnmatchcase

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from eurythm.geometry.building import NO_LOUVRES, Building, Face, Shade, Vec
from eurythm.geometry.loops import area_vector
from eurythm.geometry.outline import rotation
from eurythm.geometry.polygons import window_loops
from eurythm.model.amount import amount
from eurythm.model.plant import Plant
from eurythm.model.remark import Remark
from eurythm.model.renewables import Array, Collector, Laid, Photovoltaics
from eurythm.sun.radiation import PANEL_LIFT_M
from eurythm.sun.samples import FaceSamples, sample

Series = NDArray[np.float64]
ROW_M, MODULE_M = 1.1, 1.75
"""Height of a row up its slope and width of a module (a module on its long side): our own assumptions."""
WALL_ROW_M, WALL_MODULE_M = 0.6, 0.9
"""The same on walls, whose modules are made to measure: our own assumptions."""
PITCHED = float(np.cos(np.radians(5.0)))
"""Upward part of a roof's normal below which it is pitched: steeper than 5°."""
ROOF_CLEAR_M, WALL_CLEAR_M = 0.5, 0.1
SHADE_COVERED = 0.95
"""Part of a shade that modules cover: our own assumption."""
LEAST_NOON_DEG = 12.0
"""Rows keep free of shade at noon in midwinter, but for a sun lower than this: our own assumption."""
EARTH_TILT_DEG = 23.44
LOOKS_UP = 0.2
"""Upward part of the normal above which a shade on a wall is an overhang and carries modules; side fins do not."""
LIFT_M = 0.05
MOST_SEEN = 24
"""Of so many runs of modules the sun is cast from each; of more, from as many evenly spread."""
ACROSS = 6
ARRAY, COLLECTORS = "array", "collectors"
"""How the ids of their panels' faces begin."""
MOST_ROWS, SLIVER_M, JOINT_M = 2000, 1e-3, 0.02


@dataclass(frozen=True, eq=False)
class Frame:
    """Where an array's measures lie in space: the point of x = y = 0 and what one metre of each is, and unit vectors of its width and depth."""

    origin: Vec
    x: Vec
    y: Vec
    wide: Vec
    deep: Vec

    def measured(self, corners: Vec) -> Vec:
        """Return x and y of points, (n, 2), whatever lies beside its plane."""
        found = np.linalg.lstsq(np.column_stack([self.x, self.y]), (corners - self.origin).T, rcond=None)[0]
        return np.asarray(found.T, dtype=np.float64)


@dataclass(frozen=True, eq=False)
class Panel:
    """Modules of one array that look one way.

    Attributes
    ----------
    array : id of the array, or of the collectors; "" for the share of all roofs
    face : a face with their normal
    samples : points from which they see sun and sky
    area : of the modules, m²
    held : area of what they lie on, m²
    loops : corners of each run of modules, for drawing, (4, 3) each
    pitch : from row to row where they are set up in rows, m; 0 else
    rows : how many rows stand behind each other
    frame : where an array's x and y are measured; None on shades
    """

    array: str
    face: Face
    samples: FaceSamples
    area: float
    held: float
    loops: tuple[Vec, ...] = ()
    pitch: float = 0.0
    rows: int = 1
    frame: Frame | None = None

    @property
    def collects(self) -> bool:
        """Whether it is of collectors, whose ids are their own."""
        return self.face.id.startswith(COLLECTORS)

    def of(self, thing: Laid) -> bool:
        """Whether it belongs to an array or to collectors."""
        return self.array == thing.id and self.collects == isinstance(thing, Collector)


@dataclass(frozen=True)
class Where:
    """How a scheme lies: true azimuth of the drawing's +Y, the turn of the scheme about a point, and the latitude."""

    north_deg: float
    turn_deg: float
    about: tuple[float, float]
    latitude_deg: float


def roofs(building: Building) -> list[Face]:
    """Return the faces that look at the sky."""
    return [f for f in building.faces if f.kind == "ceiling" and f.boundary == "outdoors"]


def facing(tilt_deg: float, azimuth_deg: float, north_deg: float) -> Vec:
    """Return the normal of what is tilted to a true azimuth, in the drawing's axes."""
    tilt, azimuth = np.radians(tilt_deg), np.radians(azimuth_deg - north_deg)
    return np.array([np.sin(tilt) * np.sin(azimuth), np.sin(tilt) * np.cos(azimuth), np.cos(tilt)])


def drawn_share(building: Building, pv: Photovoltaics, where: Where) -> tuple[Vec, ...]:
    """Return where modules of a share of all roofs would lie, as many as fit: corners of each run, for drawing only."""
    if pv.roof_share <= 0:
        return ()
    pitch = max(ROW_M / pv.roof_share * FILLED, 0.2)
    array = Array(id="share", tilt_deg=pv.tilt_deg, azimuth_deg=pv.azimuth_deg, share=pv.roof_share, pitch_m=pitch)
    return tuple(loop for panel in lay(building, array, where) for loop in panel.loops)


FILLED = 0.75
"""Rows of a share of all roofs are drawn this much closer than they are reckoned, since edges stay free."""


def share_of_roofs(building: Building, pv: Photovoltaics, north_deg: float) -> tuple[Panel, ...]:
    """Return one panel for each roof as large as the roof, its normal by true tilt and azimuth; in pitched roofs panels lie in the slope."""
    normal = facing(pv.tilt_deg, pv.azimuth_deg, north_deg)
    found = []
    for roof in roofs(building):
        flat = roof.normal[2] > PITCHED
        face = replace(roof, id=f"panels/{roof.id}", normal=np.round(normal if flat else roof.normal, 9))
        found.append(Panel("", face, _on_roof(face), min(roof.area, roof.area - roof.window_area), roof.area))
    return tuple(found)


def _on_roof(panel: Face) -> FaceSamples:
    """Points on the roof under a panel, whichever way the panel looks, lifted off it."""
    vector = area_vector(panel.loops[0])
    roof = sample(replace(panel, normal=vector / np.linalg.norm(vector), windows=()))
    return replace(roof, points=roof.points + [0.0, 0.0, PANEL_LIFT_M], normal=panel.normal)


def lay(building: Building, array: Laid, where: Where) -> tuple[Panel, ...]:
    """Lay the modules of an array on what it names; none where nothing fits."""
    if array.on == "free":
        return _free(array, where)
    if array.on == "shade":
        return tuple(_on_shade(array, shade, k) for k, shade in enumerate(_shades(building, array)))
    held = roofs(building) if array.on == "roof" else [f for f in building.faces if f.kind == "wall" and f.boundary == "outdoors"]
    named = [f for f in held if _named(f, array.target)]
    return tuple(panel for k, plane in enumerate(_planes(named)) if (panel := _on_plane(array, plane, where, k)) is not None)


def _named(face: Face, target: str) -> bool:
    names = (face.edge, face.id) if face.kind == "wall" else (face.zone, face.id, face.zone.partition("/")[0])
    return any(fnmatchcase(name, target) for name in names if name)


def _planes(faces: Sequence[Face]) -> list[list[Face]]:
    """Faces by the plane that they lie in."""
    planes: dict[tuple[float, ...], list[Face]] = {}
    for face in faces:
        key = (*np.round(face.normal, 3).tolist(), round(float(face.normal @ face.loops[0][0]), 2))
        planes.setdefault(key, []).append(face)
    return list(planes.values())


@dataclass(frozen=True, eq=False)
class _Axes:
    """Axes in a plane: a point, unit vectors along the rows and from row to row, up the slope where there is one."""

    base: Vec
    along: Vec
    up: Vec

    def flat(self, corners: Vec) -> Vec:
        return np.column_stack([(corners - self.base) @ self.along, (corners - self.base) @ self.up])

    def out(self, s: float, t: float) -> Vec:
        return self.base + self.along * s + self.up * t


def _axes(face: Face, array: Laid, where: Where) -> _Axes:
    base, normal = face.loops[0][0], face.normal
    if normal[2] > PITCHED:
        turned = np.radians(array.azimuth_deg - where.north_deg)
        ahead = np.array([np.sin(turned), np.cos(turned), 0.0])
        return _Axes(base, np.array([-ahead[1], ahead[0], 0.0]), -ahead)
    if face.kind == "wall":
        return _Axes(face.origin, face.along, np.cross(normal, face.along))
    along = np.array([-normal[1], normal[0], 0.0]) / np.hypot(normal[0], normal[1])
    return _Axes(base, along, np.cross(normal, along))


def _room(faces: Sequence[Face], axes: _Axes, clear: float) -> BaseGeometry:
    """Where modules may lie: clear of edges and windows."""
    whole = shapely.union_all([Polygon(axes.flat(f.loops[0]), [axes.flat(h) for h in f.loops[1:]]).buffer(1e-4) for f in faces])
    holes = [Polygon(axes.flat(w)).buffer(clear, join_style="mitre") for f in faces for w in window_loops(f)]
    free = whole.buffer(-clear, join_style="mitre")
    return free.difference(shapely.union_all(holes)) if holes else free


def _rectangle(array: Laid, face: Face, axes: _Axes, where: Where) -> Polygon | None:
    """The rectangle that was given, in the axes of the plane; None for all of it."""
    if array.width_m is None and array.depth_m is None and not (array.x or array.y):
        return None
    width, depth = array.width_m or 1e4, array.depth_m or 1e4
    x0, y0 = array.x, array.y
    corners = np.array([[x0, y0], [x0 + width, y0], [x0 + width, y0 + depth], [x0, y0 + depth]])
    if face.kind == "wall":
        return Polygon(corners)
    about = np.array(where.about)
    plan = (corners - about) @ rotation(where.turn_deg).T + about
    level = face.loops[0][0]
    slope = (level[:2] - plan) @ face.normal[:2] / face.normal[2] + level[2]
    return Polygon(axes.flat(np.column_stack([plan, slope])))


def _frame(face: Face, where: Where) -> Frame:
    """Where x and y of an array on a wall or a roof are measured: from the wall's foot at its left, or in the plan before the scheme is turned."""
    if face.kind == "wall":
        up = np.cross(face.normal, face.along)
        return Frame(face.origin, face.along, up, face.along, up)
    about, turn, level = np.array(where.about), rotation(where.turn_deg), face.loops[0][0]

    def on_roof(plan: Vec) -> Vec:
        at = (plan - about) @ turn.T + about
        return np.array([*at, float((level[:2] - at) @ face.normal[:2] / face.normal[2] + level[2])])

    origin = on_roof(np.zeros(2))
    x, y = on_roof(np.array([1.0, 0.0])) - origin, on_roof(np.array([0.0, 1.0])) - origin
    return Frame(origin, x, y, x, y)


def pitch_of(array: Laid, where: Where) -> float:
    """Return how far apart rows on a flat roof stand, m: as given, else so that none is shaded at noon in midwinter."""
    tilt = np.radians(array.tilt_deg)
    noon = np.radians(max(90.0 - abs(where.latitude_deg) - EARTH_TILT_DEG, LEAST_NOON_DEG))
    least = ROW_M * float(np.cos(tilt)) + JOINT_M
    return max(array.pitch_m if array.pitch_m is not None else ROW_M * float(np.cos(tilt) + np.sin(tilt) / np.tan(noon)), least)


def _on_plane(array: Laid, faces: Sequence[Face], where: Where, number: int) -> Panel | None:
    first = faces[0]
    axes, upright = _axes(first, array, where), first.kind == "wall"
    clear = array.clear_m if array.clear_m is not None else WALL_CLEAR_M if upright else ROOF_CLEAR_M
    free = _room(faces, axes, clear)
    given = _rectangle(array, first, axes, where)
    if given is not None:
        free = free.intersection(given)
    set_up = bool(first.normal[2] > PITCHED)
    normal = np.round(facing(array.tilt_deg, array.azimuth_deg, where.north_deg), 9) if set_up else first.normal
    tilted = float(np.cos(np.radians(array.tilt_deg))) if set_up else 1.0
    tall, wide = (WALL_ROW_M, WALL_MODULE_M) if upright else (ROW_M, MODULE_M)
    pitch = pitch_of(array, where) if set_up else tall + JOINT_M
    held = sum(f.area for f in faces)
    most = int(array.share * held / (tall * wide) + 1e-9) if array.share is not None else 10**9
    runs = _runs(free, pitch, tall * tilted, wide, most)
    if not runs:
        return None
    rise = np.cross(normal, axes.along) * tall  # up the slope of a module
    lift = np.array([0.0, 0.0, LIFT_M]) if not upright else normal * LIFT_M
    loops = []
    for s, t, count in runs:
        low, across = axes.out(s, t) + lift, axes.along * (count * wide)
        loops.append(np.array([low, low + across, low + across + rise, low + rise]))
    counts = np.array([count for _, _, count in runs], dtype=float)
    rows = len({round(t, 3) for _, t, _ in runs})
    face = replace(first, id=_face_id(array, number), normal=normal, windows=(), louvres=NO_LOUVRES)
    up = np.array([0.0, 0.0, PANEL_LIFT_M]) if set_up else normal * LIFT_M
    return Panel(
        array.id, face, _seen(loops, counts, normal, up), float(counts.sum()) * tall * wide, held, tuple(loops), pitch if set_up else 0.0, rows,
        _frame(first, where),
    )  # fmt: skip


def _runs(free: BaseGeometry, pitch: float, depth: float, wide: float, most: int) -> list[tuple[float, float, int]]:
    """Runs of modules so wide in rows so deep: where each begins, (s, t), and how many modules it has, at most so many together."""
    if free.is_empty:
        return []
    s0, t0, s1, t1 = free.bounds
    found: list[tuple[float, float, int]] = []
    for k in range(min(int((t1 - t0 - depth) / pitch + 1e-6) + 1 if t1 - t0 >= depth - 1e-6 else 0, MOST_ROWS)):
        t = t0 + k * pitch
        taken = shapely.box(s0, t + SLIVER_M, s1, t + depth - SLIVER_M).difference(free)
        edge = s0
        blocked = sorted((g.bounds[0], g.bounds[2]) for g in getattr(taken, "geoms", [taken]) if g.area > SLIVER_M * SLIVER_M)
        for begin, end in [*blocked, (s1, s1)]:
            count = min(int((begin - edge) / wide + 1e-6), most)
            if count > 0:
                found.append((edge, t, count))
                most -= count
            edge = max(edge, end)
        if most <= 0:
            break
    return found


def _seen(loops: Sequence[Vec], counts: Series, normal: Vec, lift: Vec) -> FaceSamples:
    """Points half way up some of the runs of modules, by how many each stands for."""
    chosen = np.unique(np.linspace(0, len(loops) - 1, MOST_SEEN).round().astype(int))
    owner = np.abs(np.arange(len(loops))[:, None] - chosen[None]).argmin(axis=1)
    stands_for = np.bincount(owner, weights=counts, minlength=len(chosen))
    places = (np.arange(ACROSS) + 0.5) / ACROSS
    points = [loops[k][0] + (loops[k][3] - loops[k][0]) / 2 + np.outer(places, loops[k][1] - loops[k][0]) + lift for k in chosen]
    weights = np.repeat(stands_for / stands_for.sum() / ACROSS, ACROSS)
    return FaceSamples(np.concatenate(points), weights, np.zeros(len(weights)), normal)


def carries(shade: Shade) -> bool:
    """Whether a shade can carry modules: overhangs, and shades that were given; side fins and arrays that stand by themselves do not."""
    vector = area_vector(shade.corners)
    level = abs(float(vector[2])) > LOOKS_UP * float(np.linalg.norm(vector))
    return shade.face.startswith("shade/") or (level and not shade.face.startswith("free/"))


def _shades(building: Building, array: Laid) -> list[Shade]:
    edges = {f.id: f.edge for f in building.faces}

    def named(shade: Shade) -> bool:
        return any(fnmatchcase(n, array.target) for n in (shade.face.removeprefix("shade/"), edges.get(shade.face, "")) if n)

    return [shade for shade in building.shades if carries(shade) and named(shade)]


def _on_shade(array: Laid, shade: Shade, number: int) -> Panel:
    vector = area_vector(shade.corners)
    held = float(np.linalg.norm(vector))
    normal = vector / held * (1.0 if vector[2] >= -1e-9 else -1.0)
    corners = shade.corners if vector[2] >= -1e-9 else shade.corners[::-1]
    share = min(array.share or 1.0, SHADE_COVERED)
    middle = corners.mean(axis=0)
    loop = middle + (corners - middle) * np.sqrt(share) + normal * LIFT_M
    return Panel(array.id, _bare(array, number, loop, normal), _spread(loop, normal), held * share, held, (loop,))


def free_plane(array: Laid, where: Where) -> Vec:
    """Return the corners of an array that stands by itself, (4, 3), turned with its scheme."""
    normal = facing(array.tilt_deg, array.azimuth_deg, where.north_deg)
    turned = np.radians(array.azimuth_deg - where.north_deg)
    along = np.array([-np.cos(turned), np.sin(turned), 0.0])
    up = np.cross(normal, along)
    about = np.array(where.about)
    middle = np.array([*((np.array([array.x, array.y]) - about) @ rotation(where.turn_deg).T + about), array.level_m])
    half, deep = along * (array.width_m or MODULE_M) / 2, up * (array.depth_m or ROW_M) / 2
    return np.round(np.array([middle - half - deep, middle + half - deep, middle + half + deep, middle - half + deep]), 6)


def _free(array: Laid, where: Where) -> tuple[Panel, ...]:
    corners = free_plane(array, where)
    normal = np.round(facing(array.tilt_deg, array.azimuth_deg, where.north_deg), 9)
    loop = corners + normal * LIFT_M
    area = float(np.linalg.norm(area_vector(corners)))
    turn, about = rotation(where.turn_deg), np.array(where.about)
    x, y = (np.array([*(turn @ np.array(unit)), 0.0]) for unit in ((1.0, 0.0), (0.0, 1.0)))
    origin = np.array([*(about - turn @ about), array.level_m])
    wide, deep = ((side / np.linalg.norm(side)) for side in (corners[1] - corners[0], corners[3] - corners[0]))
    frame = Frame(origin, x, y, wide, deep)
    return (Panel(array.id, _bare(array, 0, loop, normal), _spread(loop, normal), area, area, (loop,), frame=frame),)


def _face_id(array: Laid, number: int) -> str:
    return f"{COLLECTORS if isinstance(array, Collector) else ARRAY}/{array.id}/{number}"


def _bare(array: Laid, number: int, loop: Vec, normal: Vec) -> Face:
    area = float(np.linalg.norm(area_vector(loop)))
    return Face(_face_id(array, number), "", "ceiling", "outdoors", (loop,), normal, area)


def _spread(loop: Vec, normal: Vec) -> FaceSamples:
    """Points all over a flat piece of four corners or more, evenly by area."""
    a, b, d = loop[0], loop[1] - loop[0], loop[-1] - loop[0]
    u, v = (g.ravel() for g in np.meshgrid((np.arange(8) + 0.5) / 8, (np.arange(4) + 0.5) / 4, indexing="ij"))
    points = a + np.outer(u, b) + np.outer(v, d)
    if len(loop) != 4:
        corners = loop.mean(axis=0)
        points = np.array([corners + (p - corners) * 0.6 for p in loop])
    return FaceSamples(points, np.full(len(points), 1.0 / len(points)), np.zeros(len(points)), normal)


def placed(plant: Plant, building: Building, where: Where, any_share: bool) -> tuple[Panel, ...]:
    """Return the panels of a plant: of the share of all roofs, of its arrays and of its collectors."""
    shares = share_of_roofs(building, plant.photovoltaics, where.north_deg) if any_share else ()
    return (*shares, *(panel for array in (*plant.arrays, *plant.collectors) for panel in lay(building, array, where)))


def panel_remarks(plant: Plant, panels: Sequence[Panel]) -> list[Remark]:
    """Return remarks on arrays that find no place, or not for all that was asked for, and on those that lie on each other."""
    things = [
        (f"scheme/plant/{kind}/{t.id}", t) for kind, held in (("arrays", plant.arrays), ("collectors", plant.collectors)) for t in held
    ]
    return [*(remark for path, thing in things for remark in _misplaced(path, thing, panels)), *_overlapping(things, panels)]


def _misplaced(path: str, thing: Laid, panels: Sequence[Panel]) -> Iterator[Remark]:
    own, name = [p for p in panels if p.of(thing)], thing.name or thing.id
    if not own:
        yield Remark(
            "array-without-place", f"“{name}” finds no {NOWHERE[thing.on]} “{thing.target}” with room for a module and counts nothing.",
            f"{path}/target", "Choose another place, or less distance from edges", "doubtful", "plant",
        )  # fmt: skip
        return
    asked, holds, fit = (thing.width_m or 0.0) * (thing.depth_m or 0.0), sum(p.held for p in own), sum(p.area for p in own)
    if thing.on in ("roof", "wall") and asked > holds + 0.5:
        yield Remark(
            "array-larger-than-place", f"“{name}” asks for {amount(asked, 'm²')} on {amount(holds, 'm²')}; {amount(fit, 'm²')} of modules fit.",
            f"{path}/width_m", "Make it smaller, or leave its size open", "note", "plant",
        )  # fmt: skip


def _overlapping(things: Sequence[tuple[str, Laid]], panels: Sequence[Panel]) -> Iterator[Remark]:
    """Arrays on roofs whose modules lie where others lie already; the share of all roofs lies everywhere."""
    covered: list[tuple[str, BaseGeometry]] = []
    share = any(p.array == "" for p in panels)
    for path, thing in things:
        if thing.on != "roof":
            continue
        own = shapely.union_all([Polygon(loop[:, :2]) for p in panels if p.of(thing) for loop in p.loops])
        name = thing.name or thing.id
        others = [other for other, area in covered if own.intersection(area).area > OVERLAP * own.area] + ["the share of all roofs"] * share
        if others and not own.is_empty:
            yield Remark(
                "arrays-overlap", f"“{name}” lies where {others[0]} lies already; both count in full.", f"{path}/x",
                "Move one of them, or take it away", "doubtful", "plant",
            )  # fmt: skip
        covered.append((f"“{name}”", own))


OVERLAP = 0.02
"""Share of an array that others may cover before it is told."""
NOWHERE = {"roof": "roof", "wall": "outside wall", "shade": "shade", "free": "place"}
