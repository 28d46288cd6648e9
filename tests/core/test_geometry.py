"""Volumes to zones and faces: nothing lost, nothing doubled, one boundary each."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from eurythm.geometry.building import Building
from eurythm.geometry.form import internal_areas, make_building
from eurythm.geometry.openings import place_openings
from eurythm.model.errors import EurythmError
from eurythm.model.scheme import Scheme
from eurythm.sun.obstacles import triangles_of
from tests.conftest import make_scheme, volume


def assert_sound(building: Building) -> None:
    """Every zone's walls and slabs add up to its own surface, so nothing is lost, doubled or left over."""
    for zone in building.zones:
        mine = [f for f in building.faces if zone.id in (f.zone, f.other)]
        walls = sum(f.area for f in mine if f.kind == "wall")
        assert walls == pytest.approx(zone.plan.length * zone.height, rel=1e-3, abs=0.05)
        for kind in ("floor", "ceiling"):
            slabs = sum(f.area for f in mine if f.kind != "wall" and (f.kind == kind) == (f.zone == zone.id))
            assert slabs == pytest.approx(zone.gross_floor, rel=1e-4, abs=0.01)
    ids = [f.id for f in building.faces]
    assert len(set(ids)) == len(ids)
    assert all((f.boundary == "zone") == (f.other is not None) for f in building.faces)


@pytest.mark.parametrize("kind", ["rectangle", "l", "t", "u", "courtyard"])
@pytest.mark.parametrize("zoning", ["one", "perimeter_core"])
def test_every_form_is_divided_without_loss(kind: str, zoning: str) -> None:
    scheme = make_scheme(volumes=[volume(kind=kind, storeys=2, zoning=zoning)], turn_deg=17)
    building = make_building(scheme, 0.0)
    assert_sound(building)
    whole = make_building(make_scheme(volumes=[volume(kind=kind, storeys=2)]), 0.0)
    assert sum(z.gross_floor for z in building.zones) == pytest.approx(sum(z.gross_floor for z in whole.zones), rel=1e-6)


def test_roof_under_a_smaller_volume_is_split() -> None:
    lower = volume("low", storeys=1, form={"length": 20, "depth": 12})
    upper = volume("up", storeys=1, base_level_m=3.5, x=2, y=2, form={"length": 8, "depth": 6})
    building = make_building(make_scheme(volumes=[lower, upper]), 0.0)
    assert_sound(building)
    contact = [f for f in building.faces if f.kind == "ceiling" and f.boundary == "zone"]
    roof = [f for f in building.faces if f.zone.startswith("low") and f.kind == "ceiling" and f.boundary == "outdoors"]
    assert sum(f.area for f in contact) == pytest.approx(48.0)
    assert sum(f.area for f in roof) == pytest.approx(240.0 - 48.0)
    assert len(roof[0].loops) == 2  # a hole where the smaller volume stands


def test_volume_that_juts_out_has_an_exposed_floor() -> None:
    upper = volume("up", base_level_m=3.5, x=10)
    building = make_building(make_scheme(volumes=[volume("low"), upper]), 0.0)
    exposed = [f for f in building.faces if f.element == "exposed_floor"]
    assert sum(f.area for f in exposed) == pytest.approx(10 * 12)


def test_side_by_side_volumes_of_different_height_share_only_what_touches() -> None:
    building = make_building(make_scheme(volumes=[volume("a", height=6), volume("b", x=20, height=3.5)]), 0.0)
    assert_sound(building)
    party = [f for f in building.faces if f.kind == "wall" and f.boundary == "zone"]
    assert sum(f.area for f in party) == pytest.approx(12 * 3.5)
    above = [f for f in building.faces if f.zone.startswith("a/") and f.edge.endswith("e2") and f.boundary == "outdoors"]
    assert sum(f.area for f in above) == pytest.approx(12 * 2.5)


def test_basement_walls_are_cut_at_ground_level() -> None:
    building = make_building(make_scheme(volumes=[volume(base_level_m=-2.0)]), 0.0)
    below = sum(f.area for f in building.faces if f.kind == "wall" and f.boundary == "ground")
    assert below == pytest.approx(2 * (20 + 12) * 2.0)
    assert_sound(building)


def test_overlapping_volumes_are_refused_by_name() -> None:
    with pytest.raises(EurythmError) as fault:
        make_building(make_scheme(volumes=[volume("a"), volume("b", x=15)]), 0.0)
    assert fault.value.code == "volumes-overlap"
    assert "a" in fault.value.message
    assert fault.value.path == "volumes/b"


def test_self_crossing_outline_is_refused_at_its_form() -> None:
    points = [{"id": f"p{i}", "x": x, "y": y} for i, (x, y) in enumerate([(0, 0), (10, 10), (10, 0), (0, 10)])]
    crossed = {"id": "v", "form": {"kind": "polygon", "points": points}, "storeys": [{"id": "s"}]}
    with pytest.raises(EurythmError) as fault:
        make_building(make_scheme(volumes=[crossed]), 0.0)
    assert (fault.value.code, fault.value.path) == ("outline-crosses-itself", "volumes/v/form")


def test_wing_wider_than_its_form_is_refused() -> None:
    with pytest.raises(EurythmError) as fault:
        make_building(make_scheme(volumes=[volume(kind="l", form={"wing_length": 40})]), 0.0)
    assert fault.value.code == "form-part-too-wide"


@st.composite
def star_outline(draw: st.DrawFn) -> Scheme:
    """A random outline that never crosses itself: corners at growing angles about a middle."""
    count = draw(st.integers(4, 9))
    radii = draw(st.lists(st.floats(9, 40), min_size=count, max_size=count))
    shift = draw(st.floats(0, 1))
    points = [
        {
            "id": f"p{i}",
            "x": round(r * math.cos(2 * math.pi * (i + shift) / count), 3),
            "y": round(r * math.sin(2 * math.pi * (i + shift) / count), 3),
        }
        for i, r in enumerate(radii)
    ]
    depth = draw(st.floats(1.0, 8.0))
    storeys = [{"id": f"s{i}"} for i in range(draw(st.integers(1, 3)))]
    one = {
        "id": "v",
        "form": {"kind": "polygon", "points": points},
        "storeys": storeys,
        "zoning": {"kind": "perimeter_core", "depth_m": depth},
    }
    return make_scheme(volumes=[one], turn_deg=draw(st.floats(-180, 180)))


@settings(max_examples=60, deadline=None)
@given(star_outline())
def test_any_outline_is_divided_without_loss_or_overlap(scheme: Scheme) -> None:
    building = make_building(scheme, 0.0)
    assert_sound(building)
    storey = [z for z in building.zones if z.storey == "s0"]
    one = make_scheme(volumes=[{**scheme.volumes[0].model_dump(), "zoning": {"kind": "one"}}])
    assert sum(z.gross_floor for z in storey) == pytest.approx(make_building(one, 0.0).zones[0].gross_floor, rel=1e-5)
    for i, a in enumerate(storey):
        for b in storey[i + 1 :]:
            assert a.plan.intersection(b.plan).area < 1e-3


@settings(max_examples=40, deadline=None)
@given(st.floats(-12, 25), st.floats(-10, 18), st.floats(4, 30), st.floats(3, 20), st.floats(-90, 90))
def test_a_volume_stacked_anywhere_splits_what_it_meets(x: float, y: float, length: float, depth: float, turn: float) -> None:
    lower = volume("low", zoning="perimeter_core")
    upper = volume(
        "up",
        base_level_m=3.5,
        x=round(x, 2),
        y=round(y, 2),
        turn_deg=round(turn, 1),
        form={"length": round(length, 2), "depth": round(depth, 2)},
    )
    building = make_building(make_scheme(volumes=[lower, upper]), 0.0)
    assert_sound(building)


@settings(max_examples=40, deadline=None)
@given(st.floats(0.02, 0.95), st.floats(2.4, 6.0), st.floats(0, 1.2), st.floats(1.5, 4.0))
def test_windows_make_up_their_ratio_and_stay_on_the_wall(ratio: float, height: float, sill: float, head: float) -> None:
    scheme = make_scheme(volumes=[volume(height=height)], skin={"glazing_ratio": {"south": ratio}, "sill_m": sill, "head_m": sill + head})
    building = place_openings(make_building(scheme, 0.0), scheme.skin, 0.0)
    south = next(f for f in building.faces if f.kind == "wall" and f.orientation(0.0) == "south")
    assert south.window_area == pytest.approx(ratio * south.area, rel=1e-6)
    for w in south.windows:
        assert w.s >= -1e-9
        assert w.z >= 0
        assert w.s + w.width <= south.size[0] + 1e-6
        assert w.z + w.height <= south.size[1] + 1e-6


def assert_triangulates(building: Building) -> None:
    """Every face can be cut into triangles of its own area, as the caster and the drawing need."""
    for face in building.faces:
        a, b, c = (triangles_of(face.loops)[:, i] for i in range(3))
        areas = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
        assert areas.sum() == pytest.approx(face.area, rel=1e-3, abs=0.01)


@settings(max_examples=80, deadline=None)
@example("l", 0.0, 2.3, 5.0)
@example("l", 3.6, 10.0, 9.36)
@given(st.sampled_from(["l", "u", "t", "courtyard", "rectangle"]), st.floats(-180, 180), st.floats(2, 14), st.floats(2, 14))
def test_a_volume_on_the_corner_of_another_stays_sound_however_turned(kind: str, turn: float, length: float, depth: float) -> None:
    """Edges that lie on each other before a turn differ by rounding after it; no spike may be left."""
    lower = volume("low", kind=kind, zoning="perimeter_core", x=21.5, y=-0.5)
    corner = {"x": 21.5, "y": -0.5, "form": {"length": round(length, 2), "depth": round(depth, 2)}}
    upper = volume("up", base_level_m=3.5, zoning="perimeter_core", **corner)
    building = make_building(make_scheme(volumes=[lower, upper], turn_deg=round(turn, 1)), 0.0)
    assert_sound(building)
    assert_triangulates(building)


@pytest.mark.parametrize("turn", [-30, -15, 15, 30])
def test_the_stacked_l_of_the_main_path_turns(turn: float) -> None:
    lower = volume("low", kind="l", storeys=3, zoning="perimeter_core", x=21.5, y=-0.5, form={"length": 36, "depth": 28, "wing_depth": 9.3})
    upper = volume("up", base_level_m=10.5, zoning="perimeter_core", x=21.5, y=-0.5, form={"length": 12, "depth": 11.625})
    building = make_building(make_scheme(volumes=[lower, upper], turn_deg=turn), 0.0)
    assert_sound(building)
    assert_triangulates(building)


def test_orientation_follows_true_north() -> None:
    scheme = make_scheme(volumes=[volume()])
    walls = [f for f in make_building(scheme, 0.0).faces if f.kind == "wall"]
    assert [f.orientation(0.0) for f in walls] == ["south", "east", "north", "west"]
    assert [f.orientation(90.0) for f in walls] == ["west", "south", "east", "north"]
    assert [f.orientation(44.9) for f in walls] == ["south", "east", "north", "west"]


def test_internal_sizes_lose_walls_and_slab() -> None:
    building = make_building(make_scheme(volumes=[volume()]), 0.0)
    area, air = internal_areas(building, {"wall": 0.4, "roof": 0.3})["v1/s0/all"]
    assert area == pytest.approx((20 - 0.8) * (12 - 0.8), rel=1e-6)
    assert air == pytest.approx(area * (3.5 - 0.3), rel=1e-6)


def test_polyhedron_must_close() -> None:
    corners = {
        "floor": [[0, 0, 0], [0, 4, 0], [5, 4, 0], [5, 0, 0]],
        "roof": [[0, 0, 3], [5, 0, 3], [5, 4, 3], [0, 4, 3]],
        "s": [[0, 0, 0], [5, 0, 0], [5, 0, 3], [0, 0, 3]],
        "n": [[5, 4, 0], [0, 4, 0], [0, 4, 3], [5, 4, 3]],
        "e": [[5, 0, 0], [5, 4, 0], [5, 4, 3], [5, 0, 3]],
        "w": [[0, 4, 0], [0, 0, 0], [0, 0, 3], [0, 4, 3]],
    }
    faces = [{"id": k, "corners": c} for k, c in corners.items()]
    made = make_building(make_scheme(zones=[{"id": "room", "faces": faces}]), 0.0)
    assert made.zones[0].gross_volume == pytest.approx(60.0)
    assert made.zones[0].gross_floor == pytest.approx(20.0)
    with pytest.raises(EurythmError, match="do not close"):
        make_building(make_scheme(zones=[{"id": "room", "faces": faces[1:]}]), 0.0)
