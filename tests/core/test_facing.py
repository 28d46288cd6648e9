"""Rooms given outright: what each bit of their faces meets, across walls and slabs."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Polygon
from shapely.geometry.polygon import orient
from shapely.ops import split

from eurythm.brief.readiness import building_remarks
from eurythm.geometry.building import Building
from eurythm.geometry.clean import polygons_of
from eurythm.geometry.form import make_building
from eurythm.model.errors import EurythmError
from tests.conftest import make_scheme, run_scheme, volume


def room(id: str, x: float, y: float, length: float, depth: float, z: float = 0.0, height: float = 3.0, **more: Any) -> dict[str, Any]:
    corners = [(x, y), (x + length, y), (x + length, y + depth), (x, y + depth)]
    points = [{"id": f"e{k + 1}", "x": a, "y": b} for k, (a, b) in enumerate(corners)]
    return {"id": id, "outline": {"points": points, "z": z, "height": height}, **more}


def building(*rooms: dict[str, Any], gap: float = 0.5, **more: Any) -> Building:
    return make_building(make_scheme(zones=list(rooms), contact_gap_m=gap, **more), 0.0)


def area(made: Building, **wanted: Any) -> float:
    return sum(f.area for f in made.faces if all(getattr(f, k) == v for k, v in wanted.items()))


def surface(made: Building, zone: str) -> float:
    return sum(f.area for f in made.faces if zone in (f.zone, f.other))


def test_two_rooms_apart_by_a_wall_are_neighbours() -> None:
    made = building(room("a", 0, 0, 5, 4), room("b", 5.2, 0, 3, 4))
    shared = [f for f in made.faces if f.boundary == "zone"]
    assert [(f.zone, f.other, f.kind) for f in shared] == [("a", "b", "wall")]
    assert shared[0].area == pytest.approx(12)
    assert area(made, kind="wall", boundary="outdoors") == pytest.approx((5 + 5 + 4 + 3 + 3 + 4) * 3)
    assert area(made, kind="floor", boundary="ground") == pytest.approx(32)


def test_a_gap_wider_than_the_limit_is_open_air() -> None:
    made = building(room("a", 0, 0, 5, 4), room("b", 5.6, 0, 3, 4))
    assert area(made, boundary="zone") == 0
    assert area(building(room("a", 0, 0, 5, 4), room("b", 5.6, 0, 3, 4), gap=0.6), boundary="zone") == pytest.approx(12)


@pytest.mark.parametrize(("sunk", "contact"), [(0.04, 12.0), (0.049, 12.0), (0.055, 0.0)])
def test_rooms_sunk_into_each_other_by_a_little_touch(sunk: float, contact: float) -> None:
    """Up to five centimetres."""
    assert area(building(room("a", 0, 0, 5, 4), room("b", 5 - sunk, 0, 3, 4)), boundary="zone") == pytest.approx(contact)


@pytest.mark.parametrize(("skew_deg", "contact"), [(0.0, 12.0), (1.5, 12.0), (1.75, 12.0), (1.85, 0.0)])
def test_walls_that_are_nearly_parallel_look_at_each_other(skew_deg: float, contact: float) -> None:
    """Up to 1.8 degrees."""
    askew = 5.2 + 4 * np.tan(np.radians(skew_deg))
    points = [{"id": f"e{k}", "x": float(x), "y": float(y)} for k, (x, y) in enumerate([(5.2, 0), (9, 0), (9, 4), (askew, 4)])]
    made = building(room("a", 0, 0, 5, 4), {"id": "b", "outline": {"points": points, "height": 3.0}})
    assert area(made, boundary="zone") == pytest.approx(contact)


def test_the_end_of_a_wall_is_no_outside_wall() -> None:
    """A corridor along two rooms faces the end of the wall between them: nothing, not outdoors."""
    made = building(room("a", 0, 0, 5, 4), room("b", 5.2, 0, 3, 4), room("hall", 0, 4.2, 8.2, 2))
    assert area(made, zone="hall", boundary="adiabatic") + area(made, other="hall", boundary="adiabatic") == pytest.approx(0.2 * 3)
    assert area(made, kind="wall", boundary="outdoors") == pytest.approx((5 + 4 + 3 + 4 + 8.2 + 2 + 2) * 3)


def test_a_step_in_the_facade_stays_outdoors() -> None:
    """A room that juts out by less than the gap still has its side under the sky."""
    made = building(room("a", 0, 0, 5, 4), room("b", 5.2, -0.4, 3, 4.4))
    assert area(made, zone="b", boundary="outdoors", kind="wall") == pytest.approx((3 + 4.4 + 3 + 0.4) * 3, rel=0.01)


def test_storeys_meet_across_a_slab_and_a_roof_is_what_is_left() -> None:
    made = building(room("low", 0, 0, 8, 6), room("up", 0, 0, 5, 6, z=3.35))
    assert area(made, boundary="zone") == pytest.approx(30)
    assert area(made, zone="low", kind="ceiling", boundary="outdoors") == pytest.approx(18)
    assert area(made, zone="up", kind="floor", boundary="outdoors") == 0


def test_walls_between_the_rooms_above_leave_no_strips_of_roof() -> None:
    low = room("low", 0, 0, 10.2, 6)
    made = building(low, room("a", 0, 0, 5, 6, z=3.3), room("b", 5.2, 0, 5, 6, z=3.3))
    assert area(made, zone="low", kind="ceiling", boundary="outdoors") == 0
    assert area(made, zone="low", kind="ceiling", boundary="adiabatic") == pytest.approx(0.2 * 6)


def test_a_basement_room_is_cut_at_ground_level() -> None:
    made = building(room("cellar", 0, 0, 5, 4, z=-2.0, height=3.0))
    assert area(made, kind="wall", boundary="ground") == pytest.approx(18 * 2)
    assert area(made, kind="wall", boundary="outdoors") == pytest.approx(18 * 1)


def test_windows_stay_on_the_part_that_they_lie_in() -> None:
    windows = [{"x": 0.5, "z": 1, "width": 1, "height": 1}, {"x": 6, "z": 1, "width": 1.5, "height": 1}]
    a = room("a", 0, 0, 8, 4, faces=[{"id": "front", "side": "e1", "windows": windows}])
    made = building(a, room("b", 0, -3.2, 5, 3))
    with_windows = [f for f in made.faces if f.windows]
    assert [(f.id, f.boundary, len(f.windows)) for f in with_windows] == [("a/front", "outdoors", 1)]
    window = with_windows[0].windows[0]
    corner = with_windows[0].origin + with_windows[0].along * window.s
    assert corner == pytest.approx([6, 0, 0])


def test_a_room_on_a_volume_cuts_its_roof() -> None:
    made = building(room("cap", 2, 2, 5, 4, z=3.5), volumes=[volume(height=3.5)], gap=0.0)
    assert area(made, zone="v1/s0/all", other="cap") + area(made, zone="cap", other="v1/s0/all") == pytest.approx(20)
    assert area(made, zone="v1/s0/all", kind="ceiling", boundary="outdoors") == pytest.approx(240 - 20)


def test_a_room_against_a_wall_leaves_the_volumes_floor_area_what_it_was() -> None:
    """A wall that is cut by a neighbour is as thick as before, wherever its outline begins."""
    plain = run_scheme(make_scheme(volumes=[volume(height=3.5)]))
    beside = run_scheme(make_scheme(volumes=[volume(height=3.5)], zones=[room("annex", 4, 12, 6, 4, height=2.5)]))
    assert beside.arrays.floor_area[0] == pytest.approx(plain.arrays.floor_area[0], rel=0.02)
    shared = [f for f in beside.building.faces if f.boundary == "zone"]
    assert sum(f.area for f in shared) == pytest.approx(6 * 2.5)
    assert beside.demand.closure.max() < 1e-5


def test_a_stated_boundary_stands_and_a_neighbour_that_is_gone_is_worked_out() -> None:
    a = room("a", 0, 0, 5, 4, faces=[{"id": "west", "side": "e4", "boundary": "fixed", "boundary_c": 12}])
    b = room("b", 5, 0, 3, 4, faces=[{"id": "east", "side": "e2", "boundary": "zone", "other": "gone"}])
    made = building(a, b, gap=0)
    told = building_remarks(made, make_scheme(zones=[a, b]), 0.0)
    assert [(r.code, r.object) for r in told] == [("zone-lost", "scheme/zones/b/faces/east")]
    assert area(made, boundary="fixed") == pytest.approx(12)
    assert next(f for f in made.faces if f.id == "b/east").boundary == "outdoors"


def test_a_stated_contact_of_both_sides_appears_once() -> None:
    faces = lambda side, other: [{"id": "party", "side": side, "boundary": "zone", "other": other}]  # noqa: E731
    made = building(room("a", 0, 0, 5, 4, faces=faces("e2", "b")), room("b", 9, 0, 3, 4, faces=faces("e4", "a")))
    assert [(f.zone, f.other, round(f.area, 6)) for f in made.faces if f.boundary == "zone"] == [("a", "b", 12)]


def gable(id: str, x: float, y: float, length: float, depth: float, z: float, rise: float) -> dict[str, Any]:
    """A ridge along x over a rectangle."""
    a, b, c, d = ([x, y, z], [x + length, y, z], [x + length, y + depth, z], [x, y + depth, z])
    e, f = [x, y + depth / 2, z + rise], [x + length, y + depth / 2, z + rise]
    loops = {"floor": [d, c, b, a], "south": [a, b, f, e], "north": [c, d, e, f], "east": [b, c, f], "west": [d, a, e]}
    return {"id": id, "faces": [{"id": name, "corners": loop} for name, loop in loops.items()]}


def test_an_attic_meets_the_rooms_below_it() -> None:
    made = building(gable("attic", 0, 0, 8, 6, 3.25, 2), room("a", 0, 0, 4, 6), room("b", 4.1, 0, 3.9, 6))
    assert area(made, boundary="zone", kind="floor") + area(made, boundary="zone", kind="ceiling") == pytest.approx(24 + 3.9 * 6)
    slopes = [f for f in made.faces if f.zone == "attic" and f.boundary == "outdoors" and f.kind == "ceiling"]
    assert sum(f.area for f in slopes) == pytest.approx(2 * 8 * np.hypot(3, 2))


def test_rooms_that_overlap_are_refused_by_name() -> None:
    with pytest.raises(EurythmError, match=r"share 8\.0 m²") as fault:
        building(room("a", 0, 0, 5, 4), room("b", 3, 0, 5, 4))
    assert fault.value.code == "zones-overlap"


def test_a_room_with_drawn_windows_and_a_door_is_simulated() -> None:
    openings = [{"x": 1, "z": 0.9, "width": 2, "height": 1.5}, {"kind": "door", "x": 3.5, "z": 0, "width": 1, "height": 2.1}]
    made = run_scheme(make_scheme(zones=[room("a", 0, 0, 5, 4, faces=[{"id": "s", "side": "e1", "windows": openings}])], contact_gap_m=0.5))
    assert made.outcome.totals["window_m2"] == pytest.approx(3 + 2.1)
    assert made.outcome.totals["eui_kwh_per_m2"] > 0
    by_ratio = run_scheme(make_scheme(zones=[room("a", 0, 0, 5, 4, by_ratio=True)], skin={"glazing_ratio": {"south": 0.5}}))
    assert by_ratio.outcome.totals["window_m2"] == pytest.approx(15 * 0.5 + 39 * 0.3, rel=1e-3)


widths = st.lists(st.floats(1.5, 7), min_size=1, max_size=4)


@settings(max_examples=40, deadline=None)
@given(
    across=widths, deep=widths, storeys=st.integers(1, 3), wall=st.floats(0.05, 0.4), slab=st.floats(0.1, 0.45), turn=st.floats(-180, 180)
)
def test_any_grid_of_rooms_keeps_its_surface_and_its_outside(
    across: list[float], deep: list[float], storeys: int, wall: float, slab: float, turn: float
) -> None:
    """Whatever the walls' thickness, every room's faces add up, neighbours are all found, and the façade is the façade."""
    rooms, xs, ys = [], np.cumsum([0, *[w + wall for w in across]]), np.cumsum([0, *[d + wall for d in deep]])
    for s in range(storeys):
        for i, w in enumerate(across):
            for j, d in enumerate(deep):
                rooms.append(room(f"r{s}-{i}-{j}", xs[i], ys[j], w, d, z=s * (3 + slab)))
    made = building(*rooms, turn_deg=turn)
    for given_room in rooms:
        corners = given_room["outline"]["points"]
        w, d = corners[2]["x"] - corners[0]["x"], corners[2]["y"] - corners[0]["y"]
        assert surface(made, given_room["id"]) == pytest.approx(2 * w * d + 2 * (w + d) * 3, rel=2e-3)
    pairs = {(f.zone, f.other, f.kind == "wall") for f in made.faces if f.boundary == "zone"}
    n, m = len(across), len(deep)
    assert sum(wall for _, _, wall in pairs) == storeys * (m * (n - 1) + n * (m - 1))
    assert sum(not wall for _, _, wall in pairs) == (storeys - 1) * n * m
    assert area(made, kind="wall", boundary="outdoors") == pytest.approx(storeys * 2 * 3 * (sum(across) + sum(deep)), rel=2e-3)
    assert area(made, kind="ceiling", boundary="outdoors") == pytest.approx(sum(across) * sum(deep), rel=2e-3)
    assert area(made, kind="floor", boundary="outdoors") == 0


@st.composite
def cut_forms(draw: st.DrawFn) -> tuple[list[Polygon], float]:
    """A star-shaped outline, sometimes with a courtyard, cut into rooms by lines; and how thick the walls between them are."""
    count = draw(st.integers(4, 9))
    reach = [draw(st.floats(6, 18)) for _ in range(count)]
    corners = [(r * np.cos(2 * np.pi * k / count), r * np.sin(2 * np.pi * k / count)) for k, r in enumerate(reach)]
    court = [(-1.5, -1.0), (1.5, -1.0), (1.5, 1.0), (-1.5, 1.0)] if draw(st.booleans()) else []
    pieces = [Polygon(corners, [court] if court else [])]
    for _ in range(draw(st.integers(0, 3))):
        bearing, off = draw(st.floats(0, np.pi)), draw(st.floats(-5, 5))
        way, square = np.array([np.cos(bearing), np.sin(bearing)]), np.array([-np.sin(bearing), np.cos(bearing)])
        line = LineString([square * off - way * 60, square * off + way * 60])
        pieces = [p for piece in pieces for p in split(piece, line).geoms if isinstance(p, Polygon)]
    wall = draw(st.floats(0.05, 0.4))
    rooms = [orient(r) for p in pieces for r in polygons_of(p.buffer(-wall / 2, join_style="mitre", mitre_limit=20)) if r.area > 2]
    return rooms, wall


def outline_of(id: str, plan: Polygon, z: float) -> dict[str, Any]:
    rings, at = [], 0
    for ring in (plan.exterior, *plan.interiors):
        points = np.asarray(ring.coords)[:-1]
        rings.append([{"id": f"e{at + k}", "x": float(x), "y": float(y)} for k, (x, y) in enumerate(points)])
        at += len(points)
    return {"id": id, "outline": {"points": rings[0], "courts": rings[1:], "z": z, "height": 3}}


@settings(max_examples=40, deadline=None)
@given(form=cut_forms(), storeys=st.integers(1, 2), slab=st.floats(0.1, 0.4))
def test_rooms_of_any_form_keep_their_surface_and_no_two_parts_share_a_place(
    form: tuple[list[Polygon], float], storeys: int, slab: float
) -> None:
    plans, _ = form
    if not plans:
        return
    made = building(*[outline_of(f"r{s}-{k}", p, s * (3 + slab)) for s in range(storeys) for k, p in enumerate(plans)])
    for s in range(storeys):
        for k, plan in enumerate(plans):
            wanted = 2 * plan.area + plan.length * 3
            assert surface(made, f"r{s}-{k}") == pytest.approx(wanted, rel=5e-3, abs=0.05)
    assert all((f.boundary == "zone") == (f.other is not None) for f in made.faces)
    assert len({f.id for f in made.faces}) == len(made.faces)
    flat = [f for f in made.faces if f.kind != "wall" and f.zone == "r0-0" and f.kind == "floor"]
    parts = [Polygon(f.loops[0][:, :2], [h[:, :2] for h in f.loops[1:]]) for f in flat]
    assert sum(p.area for p in parts) == pytest.approx(shapely.union_all(parts).area, rel=1e-6)


def stated_box(id: str, x: float, y: float, length: float, depth: float, height: float = 3.0, **boundaries: str) -> dict[str, Any]:
    """A room by all its faces, with the boundaries that a file states."""
    x1, y1, z = x + length, y + depth, height
    sides = {
        "floor": [(x, y, 0), (x, y1, 0), (x1, y1, 0), (x1, y, 0)], "roof": [(x, y, z), (x1, y, z), (x1, y1, z), (x, y1, z)],
        "south": [(x, y, 0), (x1, y, 0), (x1, y, z), (x, y, z)], "north": [(x1, y1, 0), (x, y1, 0), (x, y1, z), (x1, y1, z)],
        "east": [(x1, y, 0), (x1, y1, 0), (x1, y1, z), (x1, y, z)], "west": [(x, y1, 0), (x, y, 0), (x, y, z), (x, y1, z)],
    }  # fmt: skip
    faces = [{"id": k, "corners": loop} | ({"boundary": boundaries[k]} if k in boundaries else {}) for k, loop in sides.items()]
    return {"id": id, "faces": faces}


def test_wall_ends_beside_a_room_with_stated_faces_stay_inside() -> None:
    """What looks into the wall between two rooms loses nothing, whether those are drawn or given by faces that the file states."""
    thick = 0.3
    long, wide = room("a", 0, 0, 8, 4), (4 - thick / 2, 4)
    east = (4 + thick / 2, 4 + thick, *wide)
    drawn = building(long, room("b", 0, 4 + thick, *wide), room("c", *east), gap=0.4)
    outside = {"floor": "ground", "roof": "outdoors", "north": "outdoors", "west": "outdoors"}
    stated = building(
        long, stated_box("b", 0, 4 + thick, *wide, **outside), stated_box("c", *east, **(outside | {"east": "outdoors"})), gap=0.4
    )
    for made in (drawn, stated):
        assert area(made, zone="a", kind="wall", boundary="adiabatic") == pytest.approx(thick * 3, rel=1e-3)
