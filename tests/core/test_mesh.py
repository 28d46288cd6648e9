"""Bodies from triangles, and bodies cut at levels."""

from __future__ import annotations

import itertools
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import example, given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon, box

from eurythm.exchange.mesh.read import read_mesh
from eurythm.geometry.building import Vec
from eurythm.geometry.loops import meshed, straightened, without_holes
from eurythm.geometry.mesh import Solid, slab_of, solid_of, upright_of


def extruded(plan: Polygon, height: float, level: float = 0.0) -> Solid:
    mesh = trimesh.creation.extrude_polygon(plan, height, engine="earcut")
    return solid_of(np.asarray(mesh.vertices) + [0, 0, level], np.asarray(mesh.faces))


def gable(length: float = 20.0, depth: float = 10.0, eaves: float = 6.0, ridge: float = 9.0) -> Solid:
    m = depth / 2
    p = [[0, 0, 0], [length, 0, 0], [length, depth, 0], [0, depth, 0], [0, 0, eaves], [length, 0, eaves], [length, depth, eaves], [0, depth, eaves], [0, m, ridge], [length, m, ridge]]  # fmt: skip
    loops = [[3, 2, 1, 0], [0, 1, 5, 4], [1, 2, 6, 9, 5], [2, 3, 7, 6], [3, 0, 4, 8, 7], [4, 5, 9, 8], [6, 7, 8, 9]]
    return solid_of(*meshed([np.array([p[i] for i in loop], dtype=float) for loop in loops]))


def section_area(solid: Solid, level: float) -> float:
    """Area of the flat faces at a level that look up, m²."""
    return sum(Polygon(f[:, :2]).area for f in solid.faces if np.ptp(f[:, 2]) < 1e-6 and abs(f[0, 2] - level) < 1e-6)


@pytest.mark.parametrize(
    ("levels", "volumes"),
    [
        ([0, 3, 6, 9], [600, 600, 300]),  # the eaves lie on a cut
        ([0, 4.5, 9], [900, 600]),
        ([0, 7.5, 9], [1425, 75]),
        ([-1, 2, 20], [400, 1100]),
    ],
)
def test_a_gable_is_cut_at_its_levels(levels: list[float], volumes: list[float]) -> None:
    pieces = [slab_of(gable(), a, b) for a, b in itertools.pairwise(levels)]
    assert all(p.closed and not p.capped for p in pieces)
    assert [p.volume for p in pieces] == pytest.approx(volumes)


def test_a_cut_through_a_courtyard_leaves_it_open() -> None:
    court = Polygon([(0, 0), (30, 0), (30, 20), (0, 20)], [[(10, 5), (10, 15), (20, 15), (20, 5)]])
    for low, high in ((0, 3), (3, 7)):
        piece = slab_of(extruded(court, 7.0), low, high)
        assert piece.volume == pytest.approx(500 * (high - low))
        upright = upright_of(piece)
        assert upright is not None
        assert (upright.level, upright.height, len(upright.rings)) == pytest.approx((low, high - low, 2))


def test_a_terrace_on_the_cut_belongs_to_what_lies_below() -> None:
    lower, upper = box(0, 0, 20, 10), box(0, 0, 8, 10)
    loops = [
        *[f for f in extruded(lower, 4.0).faces if f[:, 2].max() < 1e-6 or np.ptp(f[:, 2]) > 1],
        *[f for f in extruded(upper, 4.0, 4.0).faces if f[:, 2].min() > 7.9 or np.ptp(f[:, 2]) > 1],
        np.array([[8, 0, 4], [20, 0, 4], [20, 10, 4], [8, 10, 4]], dtype=float),
    ]
    whole = solid_of(*meshed(loops))
    assert whole.closed
    below, above = slab_of(whole, 0, 4), slab_of(whole, 4, 8)
    assert (below.volume, above.volume) == pytest.approx((800, 320))
    assert section_area(below, 4.0) == pytest.approx(200)
    assert section_area(above, 4.0) == pytest.approx(80)


def test_nothing_lies_above_or_below_a_body() -> None:
    for low, high in ((-5, -1), (9.5, 12)):
        piece = slab_of(gable(), low, high)
        assert (piece.closed, piece.volume, piece.faces) == (False, 0.0, ())


SHARP = [(0, 0, 0), (0, 0, 1), (0, 1, 0), (3, 3, 0), (4, 6, 0), (5, 7, -10), (-2, 0, 0), (-2, 0, -8)]
"""Its cut has a corner of less than two degrees."""
SKEW = [(0, 0, 0), (0, 0, 1), (0, 0, 2), (0, 1, 0), (0.84, -9.02, 0), (0.54, -7.65, -10), (-6.09, 0, -7.72), (-8.63, 1.93, 3.03)]
"""Two of its faces are flat but for a hair."""


@settings(deadline=None)
@given(
    corners=st.lists(st.tuples(*[st.floats(-10, 10)] * 3), min_size=8, max_size=16, unique=True),
    cuts=st.lists(st.floats(0.1, 0.9), min_size=1, max_size=4, unique=True),
)
@example(corners=SHARP, cuts=[0.125])
@example(corners=SKEW, cuts=[0.5])
def test_cut_pieces_add_up_to_the_body(corners: list[tuple[float, float, float]], cuts: list[float]) -> None:
    points = np.round(np.array(corners), 2)
    try:
        hull = trimesh.Trimesh(points, process=True).convex_hull
    except Exception:
        return
    if hull.volume < 50:
        return
    whole = solid_of(np.asarray(hull.vertices), np.asarray(hull.faces))
    if not whole.closed:
        return
    low, high = hull.bounds[:, 2]
    levels = [low, *sorted(round(low + (high - low) * c, 2) for c in cuts), high]
    pieces = [slab_of(whole, a, b) for a, b in itertools.pairwise(levels) if b - a > 0.05]
    assert sum(p.volume for p in pieces) == pytest.approx(whole.volume, rel=0.01, abs=0.02 * len(levels) * 100)


def test_loops_as_triangles_keep_their_side_and_area() -> None:
    loop = np.array([[0, 0, 0], [6, 0, 0], [6, 4, 2], [3, 2, 1], [0, 4, 2]], dtype=float)
    points, triangles = meshed([loop, loop[::-1]])
    areas = [0.5 * np.cross(points[t[1]] - points[t[0]], points[t[2]] - points[t[0]]) for t in triangles]
    up, down = [a for a in areas if a[2] > 0], [a for a in areas if a[2] < 0]
    assert len(up) == len(down) == 3
    assert np.sum(up, axis=0) == pytest.approx(-np.sum(down, axis=0))
    assert np.sum(up, axis=0)[2] == pytest.approx(Polygon(loop[:, :2]).area)


@given(st.integers(1, 4), st.floats(0.3, 1.2))
def test_a_plan_with_holes_is_cut_into_such_without(count: int, size: float) -> None:
    whole = box(0, 0, 4 * count, 4).difference(shapely.union_all([box(4 * k + 1, 1, 4 * k + 1 + size, 1 + size) for k in range(count)]))
    pieces = without_holes(whole)
    assert all(not p.interiors for p in pieces)
    assert sum(p.area for p in pieces) == pytest.approx(whole.area)
    assert shapely.union_all(pieces).area == pytest.approx(whole.area)


def test_corners_that_turn_by_nothing_go() -> None:
    ring = [(0, 0), (2, 0), (5, 0), (5, 3), (5, 3), (0, 3), (0, 1)]
    assert len(straightened(Polygon(ring)).exterior.coords) - 1 == 4


def write_obj(path: Path, solid: Solid) -> Path:
    trimesh.Trimesh(*meshed(list(solid.faces)), process=False).export(str(path))
    return path


@pytest.mark.parametrize(("storey", "count"), [("3.0", 3), ("4.5", 2), ("9", 1)])
def test_a_pitched_mass_becomes_storeys_without_losing_one(tmp_path: Path, storey: str, count: int) -> None:
    ask: dict[str, Any] = {"unit": "m", "up": "z", "storey_height": storey}
    got = read_mesh(write_obj(tmp_path / "gable.obj", gable()), "gable.obj", "obj", ask)
    assert len(got.spaces) == count
    assert sum(s.volume_m3 or 0 for s in got.spaces) == pytest.approx(1500)
    assert got.findings == []
    assert all(s.floor_area_m2 == pytest.approx(200) for s in got.spaces)


def turned_inside_out(solid: Solid) -> list[Vec]:
    return [loop[::-1] for loop in solid.faces]


def test_a_body_that_looks_inwards_is_turned_and_said() -> None:
    solid = solid_of(*meshed(turned_inside_out(gable())))
    assert (solid.closed, solid.turned) == (True, True)
    assert solid.volume == pytest.approx(1500)


def test_a_missing_flat_face_is_covered_and_said() -> None:
    loops = [f for f in gable().faces if not (np.ptp(f[:, 2]) < 1e-6)]
    solid = solid_of(*meshed(loops))
    assert solid.closed
    assert len(solid.capped) == 1
    assert Polygon(solid.capped[0][:, :2]).area == pytest.approx(200)
