"""Constructions by rule and by hand, and glass and shade of single faces."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.climate.standin import standin_year
from eurythm.climate.sunpath import sun_path
from eurythm.climate.year import HOURS
from eurythm.geometry.building import Building, Face
from eurythm.geometry.openings import layout_of
from eurythm.model.errors import EurythmError
from eurythm.model.place import Place
from eurythm.model.scheme import Scheme, Skin
from eurythm.simulate import building_of
from eurythm.sun.profile import louvres_diffuse, louvres_free, profile_tangent, shaded_by_fins, shaded_by_overhang, side_tangent
from tests.conftest import make_scheme, run_scheme, volume


def skinned(north: float = 0.0, **skin: Any) -> tuple[Scheme, Building]:
    scheme = make_scheme(volumes=[volume("bar", name="Bar", storeys=2)], skin=skin)
    return scheme, building_of(Place(north_deg=north), scheme)


def wall(building: Building, edge: str, storey: str = "s0") -> Face:
    return next(f for f in building.faces if f.edge == f"bar/{storey}/{edge}")


NORTH = {"id": "n", "element": "wall", "orientation": "north", "construction": "wall-timber"}
ANY_WALL = {"id": "w", "element": "wall", "construction": "wall-concrete"}


def test_an_earlier_rule_stands_before_a_later_one_and_the_hand_before_both() -> None:
    hand = {"id": "o", "face": "bar/s1/e3", "construction": "wall-old"}
    _, building = skinned(rules=[NORTH, ANY_WALL], overrides=[hand])
    told = {(f.construction, f.clad_by) for f in building.faces if f.element == "wall"}
    assert told == {("wall-timber", "by rule 1: wall, north"), ("wall-concrete", "by rule 2: wall"), ("wall-old", "by hand")}
    assert wall(building, "e3", "s1").construction == "wall-old"
    _, turned = skinned(rules=[ANY_WALL, NORTH])
    assert {f.construction for f in turned.faces if f.element == "wall"} == {"wall-concrete"}


def test_rules_follow_true_north() -> None:
    _, building = skinned(90.0, rules=[NORTH])
    assert wall(building, "e3").construction is None  # the drawing's north looks east now
    assert wall(building, "e4").construction == "wall-timber"


@pytest.mark.parametrize(
    ("condition", "count"),
    [({"storey": "s1"}, 4), ({"matching": "bar*"}, 8), ({"matching": "BAR"}, 8), ({"matching": "*storey 1*"}, 4), ({"storey": "attic"}, 0)],
)
def test_patterns_of_names_and_storeys(condition: dict[str, str], count: int) -> None:
    _, building = skinned(rules=[{"id": "r", "element": "wall", "construction": "wall-timber"} | condition])
    assert sum(f.construction == "wall-timber" for f in building.faces) == count


def test_a_rule_on_the_reference_of_the_drawing_leaves_the_reference_in_the_document() -> None:
    faces = [{"id": "f", "side": "south", "construction": "wall-old"}]
    room = {"id": "r1", "name": "Room", "box": {"x": 0, "y": 0, "length": 5, "depth": 4, "height": 3}, "faces": faces}
    rule = {"id": "r", "matching": "wall-o*", "construction": "wall-timber"}
    scheme = make_scheme(volumes=[], zones=[room], skin={"rules": [rule]})
    south = next(f for f in building_of(Place(), scheme).faces if f.id.endswith("south") or f.construction)
    assert (south.construction, south.clad_by) == ("wall-timber", "by rule 1: wall-o*")
    assert scheme.zones[0].faces[0].construction == "wall-old"
    made = run_scheme(make_scheme(volumes=[], zones=[room], skin={"rules": [rule]}))
    assert "rule-without-face" not in {r["code"] for r in made.outcome.remarks}  # the reference still tells which faces it means


def test_change_the_construction_and_all_its_faces_follow() -> None:
    timber, old = (
        run_scheme(make_scheme(volumes=[volume()], skin={"rules": [NORTH | {"construction": name}]})).outcome.totals["heating_demand_kwh"]
        for name in ("wall-timber", "wall-old")
    )
    assert old > timber * 1.05


def test_glazing_by_rule_and_by_hand() -> None:
    rules = [{"id": "s", "element": "wall", "orientation": "south", "glazing": "triple-solar"}]
    _, building = skinned(rules=rules, overrides=[{"id": "o", "face": "bar/s1/e1", "glazing": "single"}])
    assert {w.glazing for w in wall(building, "e1").windows} == {"triple-solar"}
    assert {w.glazing for w in wall(building, "e1", "s1").windows} == {"single"}
    assert {w.glazing for w in wall(building, "e2").windows} == {None}


def test_a_rule_that_no_face_fits_is_remarked_on_and_an_unknown_construction_refused() -> None:
    made = run_scheme(make_scheme(volumes=[volume()], skin={"rules": [NORTH | {"storey": "attic"}]}))
    assert "rule-without-face" in {r["code"] for r in made.outcome.remarks}
    with pytest.raises(EurythmError, match="no construction"):
        run_scheme(make_scheme(volumes=[volume()], skin={"rules": [NORTH | {"construction": "gone"}]}))


def test_party_and_basement_walls_have_their_own_or_the_walls() -> None:
    beyond = [{"id": "p", "face": "bar/*/e2", "boundary": "adiabatic"}]
    scheme, building = skinned(overrides=beyond)
    assert wall(building, "e2").element == "party_wall"
    both = [
        run_scheme(make_scheme(volumes=[volume("bar")], skin={"overrides": beyond} | more)).outcome.totals["heating_demand_kwh"]
        for more in ({}, {"party_wall": "wall-good"}, {"party_wall": "wall-old"})
    ]
    assert both[0] == pytest.approx(both[1], rel=1e-9)
    assert both[2] != pytest.approx(both[0], rel=1e-5)  # its mass counts, though no heat passes
    assert scheme.skin.party_wall is None


# windows


def test_a_ribbon_is_one_window_of_the_ratio() -> None:
    _, building = skinned(window_pattern="ribbon", glazing_ratio={"south": 0.3}, head_m=2.7)
    (band,) = wall(building, "e1").windows
    assert band.area == pytest.approx(0.3 * wall(building, "e1").area)
    assert band.z + band.height == pytest.approx(2.7)


def test_storey_high_windows_keep_the_ratio_and_reach_floor_and_ceiling() -> None:
    _, building = skinned(window_pattern="storey_high", glazing_ratio={"south": 0.3})
    face = wall(building, "e1")
    assert face.window_area == pytest.approx(0.3 * face.area)
    assert all(w.z < 0.1 and w.z + w.height > face.size[1] - 0.1 for w in face.windows)


def test_windows_by_width_and_spacing() -> None:
    _, building = skinned(window_width_m=1.2, window_module_m=4.0, sill_m=0.9, head_m=2.4)
    face = wall(building, "e1")
    assert [w.width for w in face.windows] == [1.2] * 5
    assert face.window_area == pytest.approx(5 * 1.2 * 1.5)


@settings(max_examples=60, deadline=None)
@given(st.floats(0, 0.95), st.sampled_from(["repeated", "ribbon", "storey_high"]), st.floats(0, 3), st.floats(0.3, 6), st.floats(0.3, 30))
def test_windows_keep_the_ratio_and_stay_on_their_face(ratio: float, pattern: str, sill: float, above: float, module: float) -> None:
    _, building = skinned(window_pattern=pattern, glazing_ratio={"south": ratio}, sill_m=sill, head_m=sill + above, window_module_m=module)
    face = wall(building, "e1")
    assert face.window_area == pytest.approx(min(ratio, 0.97) * face.area, rel=0.011, abs=1e-3)
    for w in face.windows:
        assert w.s >= -1e-9
        assert w.z >= -1e-9
        assert w.s + w.width <= face.size[0] + 1e-6
        assert w.z + w.height <= face.size[1] + 1e-6


def test_windows_placed_one_by_one_and_never_beyond_the_face() -> None:
    rects = [{"id": "a", "x": 1, "z": 1, "width": 2, "height": 1}, {"id": "b", "x": 5, "z": 0, "width": 1, "height": 2, "kind": "door"}]
    _, building = skinned(overrides=[{"id": "o", "face": "bar/s0/e1", "windows": rects}])
    assert wall(building, "e1").window_area == pytest.approx(4)
    with pytest.raises(EurythmError, match="beyond the south wall of “Bar, storey 0”"):
        skinned(overrides=[{"id": "o", "face": "bar/s0/e1", "windows": [rects[0] | {"x": 19}]}])
    with pytest.raises(EurythmError, match="overlap"):
        skinned(overrides=[{"id": "o", "face": "bar/s0/e1", "windows": [rects[0], rects[0] | {"id": "c", "x": 2}]}])


def test_what_a_face_overrides_and_what_it_keeps() -> None:
    own = {"id": "o", "face": "bar/*/e1", "glazing_ratio": 0.6, "overhang_m": 1.5, "sill_m": 0.2, "pattern": "ribbon"}
    scheme, building = skinned(overrides=[own], overhang_depth_m={"south": 0.5}, fin_depth_m={"south": 0.4})
    layout = layout_of(wall(building, "e1"), scheme.skin, "south")
    assert (layout.ratio, layout.overhang, layout.fin, layout.sill, layout.pattern) == (0.6, 1.5, 0.4, 0.2, "ribbon")
    assert np.ptp(building.shades[0].corners[:, 1]) == pytest.approx(1.5)
    assert layout_of(wall(building, "e3"), Skin(), "north").overhang == 0
    with pytest.raises(EurythmError, match="not above the sill"):
        skinned(overrides=[{"id": "o", "face": "bar/*/e1", "sill_m": 2.8}])


# shade in closed form


def test_shadow_angles_by_hand() -> None:
    """Sun 45 degrees high, 30 degrees to the right of the wall's normal: tan of the profile is 1/cos 30."""
    normal = np.array([0.0, -1.0, 0.0])
    right = np.cross([0.0, 0.0, 1.0], normal)
    sun = (normal * math.cos(math.radians(30)) + right * math.sin(math.radians(30))) * math.cos(math.radians(45)) + [
        0,
        0,
        math.sin(math.radians(45)),
    ]
    assert profile_tangent(normal, sun[None])[0] == pytest.approx(1 / math.cos(math.radians(30)))
    assert side_tangent(normal, sun[None])[0] == pytest.approx(math.tan(math.radians(30)))
    assert shaded_by_overhang(np.array([1.0]), 1.0, 0.2, 2.0)[0] == pytest.approx(0.4)
    assert shaded_by_fins(np.array([-0.5]), 1.0, 0.1, 2.0)[0] == pytest.approx(0.2)
    assert profile_tangent(normal, -sun[None])[0] == math.inf


def test_louvres_dim_the_glass_as_their_closed_form_says() -> None:
    plain, louvred = (
        run_scheme(make_scheme(volumes=[volume("bar")], skin={"louvre_depth_m": {"south": d}, "louvre_spacing_m": 0.3})) for d in (0.0, 0.3)
    )
    face = next(f for f in plain.building.faces if f.edge == "bar/s0/e1")
    before, after = plain.light[face.id], louvred.light[face.id]
    climate = standin_year("merrowhaven")
    sun = sun_path(climate.location.latitude_deg, climate.location.longitude_deg, climate.location.time_zone_h)
    noon = np.flatnonzero((sun.direction[:, 2] > 0.2) & (before.beam > 50))
    free = louvres_free(face.normal, sun.direction[noon], 0.3, 0.3)
    assert after.beam[noon] == pytest.approx(before.beam[noon] * free, rel=1e-6, abs=1e-6)
    assert after.diffuse.sum() / before.diffuse.sum() == pytest.approx(louvres_diffuse(face.normal, 0.3, 0.3), rel=1e-6)
    assert len(after.wall) == HOURS
    assert after.wall == pytest.approx(before.wall)  # the wall beside is not behind them
    assert louvred.outcome.totals["cooling_demand_kwh"] < plain.outcome.totals["cooling_demand_kwh"]


def test_even_light_through_louvres_as_deep_as_apart_by_view_factor() -> None:
    """Two long walls as far apart as deep see out by sqrt(2) - 1 of what enters (Hottel's crossed strings)."""
    assert louvres_diffuse(np.array([1.0, 0.0, 0.0]), 0.3, 0.3) == pytest.approx(math.sqrt(2) - 1, rel=0.01)
